"""Paint room: one cell at a time, large, by keys alone."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QFont, QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from culmo.core.chart.places import place_words
from culmo.core.chart.run import RunState
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.guard import guarded
from culmo.desk.rooms.paint import model
from culmo.desk.rooms.paint.at_table import AtTable, Now
from culmo.desk.rooms.paint.look_fields import DRY_SCRAP, WET_LOOK, LookField
from culmo.desk.rooms.paint.model import WorkTable
from culmo.desk.rooms.paint.stroke_word import StrokeWord
from culmo.desk.rooms.paint.words import KEYS, big_label
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import STEP, give_font, px, sans
from culmo.desk.widgets import Room, Swatch, as_tip, rule, text_label, title_label
from culmo.desk.wrap_row import WrapRow
from culmo.study import paint_acts
from culmo.words import tr

MOST_LINES = 4
_POINTS = (
    (30.0, 18.0),
    (25.0, 16.0),
    (20.0, 14.0),
)  # of parts and names, of what is said: as there is room for


@guarded
class PaintRoom(Room):
    """The run at the table."""

    def __init__(
        self,
        session: Session,
        state: SheetState,
        now: Now = lambda: datetime.now().astimezone(),
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.session, self.sheet_state = session, state
        self.work = AtTable(session, now, self)
        self.work.said.connect(self._show)
        self.work.moved.connect(self.refresh)
        self.as_they_land = False
        self._waited_for = ""
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Painting, one cell at a time"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(3 * STEP, 2 * STEP, 3 * STEP, STEP)
        layout.setSpacing(3 * STEP)
        self.act = self._act()
        layout.addWidget(self.act, 6)
        layout.addLayout(self._aside(), 5)
        self.timer = QTimer(self)
        self.timer.setInterval(1000)
        self.timer.timeout.connect(self._tick)
        state.updated.connect(self.refresh_when_seen)
        self.refresh()

    # ---- building

    def _act(self) -> QWidget:
        act = QWidget()
        column = QVBoxLayout(act)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.where = big_label(16)
        self.recipe = QGridLayout()
        self.recipe.setHorizontalSpacing(2 * STEP)
        self.recipe.setVerticalSpacing(0)
        self.lines = [
            (
                big_label(_POINTS[0][0], QFont.Weight.DemiBold),
                big_label(_POINTS[0][0], QFont.Weight.DemiBold),
                big_label(15),
            )
            for _ in range(MOST_LINES)
        ]
        for row, (parts, name, loads) in enumerate(self.lines):
            for place, label in enumerate((parts, name, loads)):
                label.setWordWrap(place == 1)
                self.recipe.addWidget(label, row, place, Qt.AlignmentFlag.AlignVCenter)
        self.recipe.setColumnStretch(1, 1)
        self.wash, self.puddle = big_label(_POINTS[0][1]), big_label(_POINTS[0][1])
        self.swatch = Swatch(130)
        self.swatch.setMinimumHeight(px(56))
        self.swatch.setMaximumHeight(px(210))
        self.swatch.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.wait = big_label(22, QFont.Weight.DemiBold)
        column.addWidget(self.where)
        column.addLayout(self.recipe)
        column.addWidget(self.wash)
        column.addWidget(self.puddle)
        column.addWidget(self.swatch, 4)
        column.addWidget(self.wait)
        column.addLayout(self._buttons())
        column.addWidget(self._last())
        column.addStretch(1)
        self.keys = text_label("", soft=True, points=10)
        self.keys.setText(" \u2002 ".join(f"{key}: {words}".replace(" ", "\u00a0") for key, words in KEYS))
        column.addWidget(self.keys)
        return act

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.done_button = QPushButton(tr("Painted"))
        self.done_button.setObjectName("strong")
        self.back_button = QPushButton(tr("Take back"))
        self.skip_button = QPushButton(tr("Put off"))
        for button, act in (
            (self.done_button, self.work.done),
            (self.back_button, self.work.take_back),
            (self.skip_button, self.work.skip),
        ):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            give_font(button, sans(14), large=True)
            button.setMinimumHeight(px(46))
            button.clicked.connect(act)
            row.addWidget(button, 2 if button is self.done_button else 1)
        return row

    def _last(self) -> QWidget:
        self.last = QWidget()
        column = QVBoxLayout(self.last)
        column.setContentsMargins(0, STEP, 0, 0)
        column.setSpacing(STEP // 2)
        self.last_text = big_label(13)
        column.addWidget(self.last_text)
        marks = WrapRow(STEP // 2)
        self.marks: dict[str, QPushButton] = {}
        for number, mark in enumerate(paint_acts.MARKS, 1):
            button = QPushButton(f"{number} {tr(mark)}")
            button.setCheckable(True)
            button.setStyleSheet("padding: 5px 7px;")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, mark=mark: self.work.mark(mark))
            marks.addWidget(button)
            self.marks[mark] = button
        column.addLayout(marks)
        self.word = StrokeWord(self.session, self.work, self.setFocus)
        column.addWidget(self.word)
        self.wet_look = LookField(self.session, WET_LOOK, self.setFocus)
        self.scrap = LookField(self.session, DRY_SCRAP, self.setFocus)
        column.addWidget(self.wet_look)
        column.addWidget(self.scrap)
        return self.last

    def _aside(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(6)
        self.title = title_label("", 18)
        self.view = SheetView(self.session.drawing)
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.view.selected.connect(self.work.choose)
        self.progress_words, self.drying_words = big_label(15), big_label(13)
        self.progress = QProgressBar()
        self.progress.setAccessibleName(tr("How much of the sheet is painted"))
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(px(10))
        column.addWidget(self.title)
        column.addWidget(self.view, 1)
        column.addWidget(self.progress_words)
        column.addWidget(self.progress)
        column.addWidget(self.drying_words)
        self.rule = rule()
        column.addWidget(self.rule)
        self.next_title = big_label(13, QFont.Weight.DemiBold)
        column.addWidget(self.next_title)
        self.upcoming = big_label(13)
        self.upcoming.setWordWrap(False)
        self.upcoming.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        column.addWidget(self.upcoming)
        self.caution = text_label(
            tr("Do not point the brush with the lips. Labels and local rules come first."),
            soft=True,
            points=10,
        )
        column.addWidget(self.caution)
        return column

    @property
    def state(self) -> RunState | None:
        """Where the run stands; None without a sheet."""
        return self.work.state

    # ---- showing

    def resizeEvent(self, _: object) -> None:
        QTimer.singleShot(0, self, self._fit)  # when all has its place

    def changeEvent(self, event: QEvent) -> None:
        if event.type() == QEvent.Type.FontChange:
            QTimer.singleShot(0, self, self._fit)
        super().changeEvent(event)

    def _fit(self) -> None:
        """Where the window is low, or text large, the list of keys gives way: it is in the help too; then the letters."""
        for keys, (points, said) in ((True, _POINTS[0]), *((False, points) for points in _POINTS)):
            self.keys.setVisible(keys and self.work.table is not None)
            for parts, name, _ in self.lines:
                for label in (parts, name):
                    give_font(label, sans(points, QFont.Weight.DemiBold), large=True)
            for label in (self.wash, self.puddle):
                give_font(label, sans(said), large=True)
            if self._needed() + STEP <= self.act.height():
                return

    def _needed(self) -> int:
        """How high all that is said of the act is, with as little of the wash as may be."""
        column = self.act.layout()
        assert column is not None
        column.activate()  # what lies in it tells its size anew
        needed = column.heightForWidth(self.act.width())
        if self.swatch.isVisibleTo(self):
            needed -= self.swatch.sizeHint().height() - self.swatch.minimumHeight()
        return needed

    def refresh(self) -> None:
        """Show where the run stands."""
        self.work.lay(self.sheet_state.record)
        self._show()

    def _tick(self) -> None:
        """Only the clock moves between two acts."""
        if not self.isVisible() or self.work.table is None or self.work.table.study is not self.session.study:
            return
        before = self.work.table.state
        self.work.table.tick(self.work.now())
        self._show_clock(before.wet.keys() != self.work.table.state.wet.keys())
        if before.wait_minutes > 0.0 and self.work.table.state.wait_minutes <= 0.0:
            self._signal()

    def _signal(self) -> None:
        """It may go on: one soft sound, and the window asks for attention where it is covered."""
        QApplication.beep()
        QApplication.alert(self.window(), 3000)

    def _show(self) -> None:
        known = self.work.table is not None
        for widget in (
            self.done_button, self.back_button, self.skip_button, self.progress, self.caution, self.view,
            self.rule, self.last,
        ):  # fmt: skip
            widget.setVisible(known)
        table = self.work.table
        if table is None:
            for label in (
                self.where, self.wash, self.puddle, self.progress_words, self.next_title, self.wait, self.drying_words,
                self.title, self.upcoming,
            ):  # fmt: skip
                label.setText("")
            self._show_lines([model.Ingredient(tr("Nothing to paint yet"))])
            self.wash.setText(tr("Plan a sheet first; then it is painted here, one cell at a time."))
            self.swatch.setVisible(False)
            self.view.show_sheet(None, None, SheetStyle())
            self.timer.stop()
            return
        state = table.state
        self.title.setText(table.record.sheet.title)
        self.progress.setRange(0, state.total)
        self.progress.setValue(state.done)
        self.back_button.setEnabled(bool(table.own_rows))
        self._show_current(table)
        self._show_clock(True)
        row = table.last_row()
        self.last_text.setText(model.last_words(state, row))
        marks = row["marks"].split() if row else []
        for mark, button in self.marks.items():
            button.setChecked(mark in marks)
            button.setEnabled(row is not None)
        if not self.timer.isActive():
            self.timer.start()
        QTimer.singleShot(0, self, self._fit)

    def _show_lines(self, lines: list[model.Ingredient]) -> None:
        for labels, line in zip(self.lines, [*lines, *[None] * MOST_LINES], strict=False):
            texts = (line.parts, line.name, line.loads) if line else ("", "", "")
            for label, text in zip(labels, texts, strict=True):
                label.setText(text)
                label.setVisible(bool(text))

    def _show_current(self, table: WorkTable) -> None:
        state, task = table.state, table.state.current
        self.skip_button.setEnabled(task is not None)
        self.swatch.setVisible(task is not None)
        self.next_title.setText(tr("Then") if state.upcoming else "")
        words = [f"{place_words(t.cell)}:  {spoken_recipe(t.recipe)}" for t in state.upcoming]
        # a line each, so that three of them have room at any width
        metrics, room = self.upcoming.fontMetrics(), max(240, self.upcoming.width())
        self.upcoming.setText(
            "\n".join(metrics.elidedText(line, Qt.TextElideMode.ElideRight, room) for line in words)
        )
        self.upcoming.setToolTip(as_tip("\n".join(words)))
        if task is None:
            self.where.setText("")
            self._show_lines([model.Ingredient(tr("All cells are painted"))])
            spent = (
                paint_acts.summary(table.study, table.record.id, table.own_rows[-1]["at"])
                if table.own_rows
                else ""
            )
            self.wash.setText(spent[:1].upper() + spent[1:] + "." if spent else "")
            self.puddle.setText(
                tr("Let the sheet dry through, a day is best. Then rub out the pencil and read it.")
            )
            self.view.select("")
            return
        self.view.select(task.cell.id)
        number = tr("Cell {order}", order=task.cell.order) + ", " if task.cell.order else ""
        how = "" if table.how == paint_acts.StrokeMixed.TRAY else f"; {paint_acts.HOW_WORDS[table.how]}"
        self.where.setText(f"{number}{place_words(task.cell)}{how}")
        estimate = self.session.learning.estimate if self.as_they_land else None
        lines = model.ingredients(task.recipe, estimate, not task.cell.mixing) or [
            model.Ingredient(tr("Leave it bare"))
        ]
        self._show_lines(lines)
        land = (
            ", " + tr("parts as they land from your hand")
            if self.as_they_land and len(lines) > 1 and not task.cell.mixing
            else ""
        )
        self.wash.setText(model.wash_words(task) + land)
        self.puddle.setText(model.puddle_words(state))
        looks = self.session.learning.looks
        if looks is not None and task.recipe.layers and self.session.learning.knows(task.recipe):
            recipe, cell = task.recipe, task.cell
            self.swatch.show_image(
                (lambda w, h, r: looks.running(recipe, cell.mixing, w, h, cell.id, r))
                if cell.mixing
                else (lambda w, h, r: looks.wash(recipe, w, h, cell.id, r))
            )
        else:
            self.swatch.show_colour(None, hint=tr("Nothing is known of this paint yet"))

    def _show_clock(self, sheet_too: bool) -> None:
        table = self.work.table
        if table is None:
            return
        state = table.state
        self.wait.setText(model.wait_words(state, table.paused))
        self.done_button.setEnabled(state.current is not None and state.wait_minutes <= 0.0)
        self.progress_words.setText(model.progress_words(state))
        self.drying_words.setText(model.drying_words(state, table.drying))
        if sheet_too:
            style = SheetStyle(
                show="progress",
                looks=self.sheet_state.looks,
                clocks=model.cell_clocks(state),
                ground=self.session.ground_of(table.record.sheet),
            )
            self.view.show_sheet(table.record.sheet, self.session.learning.looks, style)
            self.view.select(state.current.cell.id if state.current else "")

    # ---- the acts

    def land(self) -> None:
        """Parts as planned, or as they land from this hand."""
        self.as_they_land = not self.as_they_land
        words = tr("as they land from your hand") if self.as_they_land else tr("as planned")
        self.session.told.emit(tr("Parts are shown {words}", words=words))
        self._show()

    def write_note(self) -> None:
        """A field for a word about the cell painted last."""
        row = self.work.table.last_row() if self.work.table is not None else None
        if row is None:
            self.session.told.emit(tr("Nothing is painted yet"))
            return
        self.word.begin(row)

    def note_wet(self) -> None:
        """A field for the wet look of the cell painted last."""
        row = self.work.table.last_row() if self.work.table is not None else None
        if self.work.table is None or row is None:
            self.session.told.emit(tr("Nothing is painted yet"))
        else:
            self.wet_look.begin(self.work.table.record.id, row["cell_id"])

    def note_scrap(self) -> None:
        """A field for a dry scrap of the puddle: that of the next cell, or of the last when all is painted."""
        cell_id = self.work.table.puddle_cell() if self.work.table is not None else None
        if self.work.table is None or cell_id is None:
            self.session.told.emit(tr("No cell of two paints is painted from a puddle here"))
        else:
            self.scrap.begin(self.work.table.record.id, cell_id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        acts: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Space: self.work.done,
            Qt.Key.Key_Return: self.work.done,
            Qt.Key.Key_Enter: self.work.done,
            Qt.Key.Key_Backspace: self.work.take_back,
            Qt.Key.Key_S: self.work.skip,
            Qt.Key.Key_R: self.work.paint_again,
            Qt.Key.Key_N: self.write_note,
            Qt.Key.Key_L: self.note_wet,
            Qt.Key.Key_T: self.note_scrap,
            Qt.Key.Key_H: self.work.next_how,
            Qt.Key.Key_D: self.work.is_dry,
            Qt.Key.Key_W: self.work.water,
            Qt.Key.Key_P: self.work.rest,
            Qt.Key.Key_C: self.land,
            Qt.Key.Key_G: self.work.next_paper,
            Qt.Key.Key_Left: lambda: self.work.step(-1),
            Qt.Key.Key_Right: lambda: self.work.step(1),
            Qt.Key.Key_Plus: lambda: self.work.dry_longer(1.0),
            Qt.Key.Key_Minus: lambda: self.work.dry_longer(-1.0),
        }
        plain = acts.get(Qt.Key(key))
        place = int(key) - int(Qt.Key.Key_1)
        if plain is not None and not event.isAutoRepeat():
            plain()
        elif 0 <= place < len(paint_acts.MARKS) and not event.isAutoRepeat():
            self.work.mark(paint_acts.MARKS[place])
        elif key == Qt.Key.Key_Escape and self.word.hasFocus():
            self.word.drop()
        else:
            super().keyPressEvent(event)
