"""The window in which a chart that was painted before is laid out over its picture and named."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QImage, QKeySequence, QPixmap, QShortcut
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QCompleter,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMessageBox,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from culmo.core.capture.old_lines import edges, written_beside
from culmo.core.capture.photo import Pixels
from culmo.core.chart.kind import SECOND_WORDS, SecondHalf
from culmo.core.chart.old import MOST_LINES, OldChart, Shape, begin, old_sheet, recipes, snapped, with_count
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.recipe import FULL, TINT, spoken_recipe
from culmo.desk.guard import guarded
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.rooms.read.old_view import OldChartView
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, Slip, TabStrip, caption, clear_layout, rule, text_label, title_label
from culmo.errors import CulmoError
from culmo.words import tr

SHAPES = ((Shape.GRID, tr("Grid")), (Shape.ROW, tr("Rows")), (Shape.WHEEL, tr("Wheel")))
_FIRST = {Shape.GRID: (6, 6), Shape.ROW: (6, 1), Shape.WHEEL: (12, 1)}
_WASHES = ((FULL, tr("full wash")), (0.5, tr("half wash")), (TINT, tr("tint")))
_CROP_PX = (104, 28)
_ROW_PX = (
    34  # of a name: the sheet of styles has the last word on the height of a field, and lets it be squeezed
)
_HOW = tr(
    "Drag the four squares to the corners of the painted block; then the lines, where they do not lie right. "
    "Keys: the space bar goes on to the next, arrows move it."
)


@guarded
class OldChartDialog(QDialog):
    """Lines over a picture, names, and what becomes of them.

    Parameters
    ----------
    parent : QWidget
    pixels : (h, w, 3) uint8, the picture as it is shown
    names : sequence of str, the paints that are known
    title : str, what the chart is called at first
    """

    def __init__(self, parent: QWidget | None, pixels: Pixels, names: Sequence[str], title: str = "") -> None:
        super().__init__(parent)
        self.pixels, self.names = pixels, list(names)
        self.setWindowTitle(tr("Bring in an old chart"))
        self.resize(1180, 740)
        self.view = OldChartView()
        height, width = pixels.shape[:2]
        self.view.show_image(
            QImage(pixels.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()
        )
        self._of_shape: dict[Shape, OldChart] = {}
        self.chart = begin(Shape.GRID, width, height, *_FIRST[Shape.GRID])
        self._done: list[OldChart] = []
        self._undone: list[OldChart] = []
        self._typing = False
        self._fields: list[tuple[bool, int, Entry, QLabel]] = []
        self._fielded: tuple[object, ...] = ()
        self.sheet: Sheet | None = None
        self._words = QStringListModel(self.names, self)
        self._lay_out(title)
        self.view.changed.connect(self.take)
        self.view.hovered.connect(self._say_cell)
        self._show()
        self.view.setFocus()

    # ---- parts

    def _lay_out(self, title: str) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(2 * STEP, STEP, 2 * STEP, 2 * STEP)
        whole.addWidget(title_label(tr("Bring in an old chart"), 17))
        whole.addWidget(text_label(_HOW, soft=True))
        across = QHBoxLayout()
        across.setSpacing(2 * STEP)
        left = QVBoxLayout()
        left.addWidget(self.view, 1)
        self.cell_words = text_label(" ", soft=True)
        left.addWidget(self.cell_words)
        across.addLayout(left, 1)
        self.slip = Slip()
        self.slip.setFixedWidth(px(330))
        self._lay_slip(title)
        across.addWidget(self.slip)
        whole.addLayout(across, 1)
        self.problem = text_label("", bold=True)
        whole.addWidget(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.keep = QPushButton(tr("Into the study"))
        self.keep.setObjectName("strong")
        buttons.addButton(self.keep, QDialogButtonBox.ButtonRole.AcceptRole)
        self.undo_button = QPushButton(tr("Undo"))
        self.redo_button = QPushButton(tr("Redo"))
        for button, act, key in (
            (self.undo_button, self.undo, QKeySequence.StandardKey.Undo),
            (self.redo_button, self.redo, QKeySequence.StandardKey.Redo),
        ):
            buttons.addButton(button, QDialogButtonBox.ButtonRole.ActionRole)
            button.clicked.connect(act)
            QShortcut(QKeySequence(key), self, act)
        for button in (self.keep, self.undo_button, self.redo_button):
            button.setAutoDefault(False)
        buttons.accepted.connect(self.bring)
        buttons.rejected.connect(self.reject)
        whole.addWidget(buttons)

    def _lay_slip(self, title: str) -> None:
        lines = self.slip.lines
        self.title = Entry(tr("Old chart"), tr("What the chart is called"))
        self.title.setText(title)
        self.shapes = TabStrip([words for _, words in SHAPES], name=tr("What is laid over the picture"))
        self.shapes.chosen.connect(self._choose_shape)
        lines.addWidget(caption(tr("Title"), self.title))
        lines.addWidget(self.title)
        lines.addWidget(self.shapes)
        counts = QHBoxLayout()
        self.columns, self.rows = QSpinBox(), QSpinBox()
        self.columns_word, self.rows_word = caption("", self.columns), caption("", self.rows)
        for spin, word in ((self.columns, self.columns_word), (self.rows, self.rows_word)):
            spin.setRange(1, MOST_LINES)
            spin.setKeyboardTracking(False)
            spin.valueChanged.connect(self._count)
            column = QVBoxLayout()
            column.addWidget(word)
            column.addWidget(spin)
            counts.addLayout(column)
        self.gap = QSpinBox()
        self.gap.setRange(0, 45)
        self.gap.setSuffix(" %")
        self.gap.setKeyboardTracking(False)
        self.gap.valueChanged.connect(lambda value: self.take(replace(self.chart, gap=value / 100.0)))
        column = QVBoxLayout()
        column.addWidget(caption(tr("Bare between"), self.gap))
        column.addWidget(self.gap)
        counts.addLayout(column)
        lines.addLayout(counts)
        self.snap_button = QPushButton(tr("Snap the lines to the paint"))
        self.snap_button.setToolTip(tr("Each line goes to the edge in the picture that lies near it"))
        self.snap_button.clicked.connect(self.snap)
        lines.addWidget(self.snap_button)
        lines.addWidget(rule())
        self._lay_halves()
        self.names_box = QWidget()
        self.names_grid = QGridLayout(self.names_box)
        self.names_grid.setContentsMargins(0, 0, 0, 0)
        self.names_grid.setVerticalSpacing(2)
        lines.addWidget(self.names_box)
        lines.addStretch(1)
        keep_quiet(self.columns, self.rows, self.gap, self.second)

    def _lay_halves(self) -> None:
        """What a grid's halves hold."""
        self.alike = QCheckBox(tr("Rows and columns hold the same paints"))
        self.alike.toggled.connect(lambda on: self.take(replace(self.chart, alike=on)))
        self.second = QComboBox()
        for key, words in SECOND_WORDS.items():
            self.second.addItem(words, key)
        self.second.setAccessibleName(tr("Second half"))
        self.second.currentIndexChanged.connect(
            lambda _: self.take(replace(self.chart, second=str(self.second.currentData())))
        )
        self.turned = QCheckBox(tr("It lies below the diagonal"))
        self.turned.toggled.connect(lambda on: self.take(replace(self.chart, turned=on)))
        self.extra = self._entry(tr("Rose"), tr("The white or third paint"))
        self.extra.textChanged.connect(
            lambda text: self.take(replace(self.chart, extra=text.strip()), typed=True)
        )
        self.second_word = caption(tr("Second half"), self.second)
        for part in (self.alike, self.second_word, self.second, self.extra, self.turned):
            self.slip.lines.addWidget(part)

    def _entry(self, placeholder: str, name: str) -> Entry:
        entry = Entry(placeholder, name)
        completer = QCompleter(self._words, entry)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        entry.setCompleter(completer)
        return entry

    # ---- what is done

    def take(self, chart: OldChart, typed: bool = False) -> None:
        """Another chart in the place of this one; it can be undone. What is typed in one field is one step."""
        if chart == self.chart:
            return
        if not (typed and self._done and self._typing):
            self._done.append(self.chart)
        self._typing = typed
        self._undone.clear()
        self.chart = chart
        self._show(typed)

    def undo(self) -> None:
        """Go back by one step."""
        if self._done:
            self._undone.append(self.chart)
            self.chart = self._done.pop()
            self._typing = False
            self._show()

    def redo(self) -> None:
        """Go forward again by one step."""
        if self._undone:
            self._done.append(self.chart)
            self.chart = self._undone.pop()
            self._show()

    def _choose_shape(self, place: int) -> None:
        shape = SHAPES[place][0]
        if shape is self.chart.shape:
            return
        self._of_shape[self.chart.shape] = self.chart
        height, width = self.pixels.shape[:2]
        other = self._of_shape.get(shape) or begin(shape, width, height, *_FIRST[shape])
        if shape is not Shape.WHEEL and self.chart.shape is not Shape.WHEEL:
            other = replace(other, corners=self.chart.corners)
        self.take(other)

    def _count(self) -> None:
        self.take(with_count(self.chart, self.columns.value(), self.rows.value()))

    def snap(self) -> None:
        """Each line goes to the edge that lies near it."""
        self.take(snapped(self.chart, edges(self.pixels, self.chart)))
        self.view.setFocus()

    def bring(self) -> None:
        """Make the sheet, or say what is missing."""
        try:
            self.sheet = old_sheet(self.meant, self.title.text())
        except CulmoError as error:
            self.problem.setText(str(error))
            return
        self.accept()

    def reject(self) -> None:
        """Leave it; where lines were laid or names were typed, ask first."""
        lost = tr("The lines and names that you have laid over the picture are lost. Leave it all the same?")
        if (
            self._done
            and QMessageBox.question(self, self.windowTitle(), lost) != QMessageBox.StandardButton.Yes
        ):
            return
        super().reject()

    # ---- showing

    def _show(self, typed: bool = False) -> None:
        chart = self.chart
        shape = chart.shape
        fields = [self.shapes, self.columns, self.rows, self.gap, self.alike, self.second, self.turned]
        if not typed:
            fields.append(self.extra)
        for field in fields:
            field.blockSignals(True)
        self.shapes.choose([one for one, _ in SHAPES].index(shape))
        self.columns.setValue(chart.columns)
        self.rows.setValue(chart.rows)
        self.gap.setValue(round(100 * chart.gap))
        self.alike.setChecked(chart.alike)
        self.second.setCurrentIndex(max(0, self.second.findData(chart.second)))
        self.turned.setChecked(chart.turned)
        if not typed:
            self.extra.setText(chart.extra)
        for field in fields:
            field.blockSignals(False)
        wheel = shape is Shape.WHEEL
        self.columns_word.setText(tr("Sectors") if wheel else tr("Columns"))
        self.rows_word.setText(tr("Rings") if wheel else tr("Rows"))
        square = shape is Shape.GRID and chart.rows == chart.columns
        self.alike.setVisible(square)
        halved = square and chart.alike
        for part in (self.second_word, self.second, self.turned):
            part.setVisible(halved)
        self.extra.setVisible(halved and chart.second in (SecondHalf.WHITE, SecondHalf.THIRD))
        self.undo_button.setEnabled(bool(self._done))
        self.redo_button.setEnabled(bool(self._undone))
        if not typed:
            self._show_names()
        self._show_crops()
        self.view.show_chart(chart, self._named())

    def _named(self) -> frozenset[int]:
        try:
            found = recipes(self.meant)
        except CulmoError as error:
            self.problem.setText(str(error))
            return frozenset()
        self.problem.setText("")
        return frozenset(place for place, recipe in enumerate(found) if recipe is not None)

    @property
    def meant(self) -> OldChart:
        """The chart as it is meant: a grid that is not square holds two families."""
        return replace(self.chart, alike=self.chart.alike and self.chart.rows == self.chart.columns)

    def _show_names(self) -> None:
        """A field for each name, with what is written beside it in the picture; made anew only where others are needed."""
        chart = self.meant
        need = (chart.shape, chart.columns, chart.rows, chart.alike, chart.washes)
        if need == self._fielded:
            for down, place, entry, _ in self._fields:
                names = chart.names_down if down else chart.names_across
                if entry.text() != names[place]:
                    entry.blockSignals(True)
                    entry.setText(names[place])
                    entry.blockSignals(False)
            return
        self._fielded = need
        clear_layout(self.names_grid)
        for row in range(self.names_grid.rowCount()):
            self.names_grid.setRowMinimumHeight(row, 0)
        self._fields = []
        row = 0
        for down, words in ((False, tr("Columns, from the left")), (True, tr("Rows, from above"))):
            if down and chart.shape is not Shape.GRID:
                row = self._show_washes(row)
                continue
            if down and chart.alike:
                continue
            if chart.shape is Shape.WHEEL:
                words = tr("Sectors, clockwise from the top")
            elif not down and chart.shape is Shape.GRID and chart.alike:
                words = tr("Paints, from the left and from above")
            self.names_grid.addWidget(text_label(words, bold=True), row, 0, 1, 2)
            names = chart.names_down if down else chart.names_across
            for place in range(chart.rows if down else chart.columns):
                row += 1
                crop = QLabel()
                crop.setFixedSize(px(_CROP_PX[0]), px(_CROP_PX[1]))
                hint = tr("Rose") if chart.shape is Shape.GRID else tr("Rose:2 + Lemon, or empty for a step")
                entry = self._entry(hint, f"{words}: {place + 1}")
                self.names_grid.setRowMinimumHeight(row, px(_ROW_PX))
                entry.setText(names[place] if place < len(names) else "")
                entry.textChanged.connect(lambda text, down=down, place=place: self._name(down, place, text))
                at = len(self._fields)
                entry.returnPressed.connect(lambda at=at: self._go_on(at))
                crop.setVisible(chart.shape is not Shape.WHEEL)
                self.names_grid.addWidget(crop, row, 0)
                self.names_grid.addWidget(entry, row, 1)
                self._fields.append((down, place, entry, crop))
            row += 1

    def _show_washes(self, row: int) -> int:
        chart = self.chart
        words = tr("Rings, from within") if chart.shape is Shape.WHEEL else tr("Rows, from above")
        self.names_grid.addWidget(text_label(words, bold=True), row, 0, 1, 2)
        for place in range(chart.rows):
            row += 1
            choice = QComboBox()
            self.names_grid.setRowMinimumHeight(row, px(_ROW_PX))
            choice.setAccessibleName(f"{words}: {place + 1}")
            for wash, name in _WASHES:
                choice.addItem(name, wash)
            held = chart.washes[place] if place < len(chart.washes) else FULL
            choice.setCurrentIndex(int(np.argmin([abs(wash - held) for wash, _ in _WASHES])))
            choice.currentIndexChanged.connect(
                lambda _, place=place, choice=choice: self._wash(place, choice)
            )
            keep_quiet(choice)
            self.names_grid.addWidget(choice, row, 1)
        return row + 1

    def _wash(self, place: int, choice: QComboBox) -> None:
        washes = [*self.chart.washes, *([FULL] * self.chart.rows)][: self.chart.rows]
        washes[place] = float(choice.currentData())
        self.take(replace(self.chart, washes=tuple(washes)), typed=True)

    def _name(self, down: bool, place: int, text: str) -> None:
        count = self.chart.rows if down else self.chart.columns
        held = self.chart.names_down if down else self.chart.names_across
        names = [*held, *([""] * count)][:count]
        names[place] = text
        chart = (
            replace(self.chart, names_down=tuple(names))
            if down
            else replace(self.chart, names_across=tuple(names))
        )
        self.take(chart, typed=True)

    def _go_on(self, at: int) -> None:
        """Enter goes on to the next name."""
        if at + 1 < len(self._fields):
            self._fields[at + 1][2].setFocus()
            self.slip.ensureWidgetVisible(self._fields[at + 1][2])

    def _show_crops(self) -> None:
        chart = self.chart
        if chart.shape is Shape.WHEEL:
            return
        for down, place, _, crop in self._fields:
            if place < (chart.rows if down else chart.columns):
                # of paints that stand down and across, what is written beside the row reads more easily
                beside = down or (chart.shape is Shape.GRID and self.meant.alike)
                size = (crop.width(), crop.height())
                seen = written_beside(self.pixels, chart, beside, place, size)
                image = QImage(seen.tobytes(), *size, 3 * size[0], QImage.Format.Format_RGB888)
                crop.setPixmap(QPixmap.fromImage(image.copy()))

    def _say_cell(self, number: int) -> None:
        words = " "
        if number >= 0:
            row, column = divmod(number, self.chart.columns)
            try:
                recipe = recipes(self.meant)[number]
            except CulmoError:
                recipe = None
            what = spoken_recipe(recipe) if recipe is not None else tr("no name yet")
            words = tr("Row {row}, column {column}: {what}", row=row + 1, column=column + 1, what=what)
        self.cell_words.setText(words)
