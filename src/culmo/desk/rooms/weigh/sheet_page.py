"""The Weigh room's first page: a sheet, cell by cell, prediction beside paint, and the verdict on each mix."""

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.recipe import spoken_recipe
from culmo.core.paint.texture_words import words_of
from culmo.desk.drawing.looks import Looks, fill_read, qcolor
from culmo.desk.drawn import usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.plan.slip import parts_words
from culmo.desk.rooms.weigh.model import SHOWN, SORTS, Comparison, compare, shown_rows, sorted_by, summary
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.theme import PAPER, PENCIL, px, sans, scaled
from culmo.desk.things import Thing, mix_thing
from culmo.desk.widgets import Entry, FactRow, Slip, Swatch, rule, text_label, title_label
from culmo.study import acts
from culmo.words import capital, decimal, listed, mark, tr

if TYPE_CHECKING:
    from culmo.core.paint.texture import Texture
    from culmo.study.patches import Patch

_COLUMNS = (tr("Predicted | read"), tr("Mix"), tr("Differs"), tr("Within"), tr("Keeper"), tr("Note"))
Index = QModelIndex | QPersistentModelIndex
ROW_HEIGHT = 34
_NOTE, _ROOM_FOR_NOTES = 5, 640  # usual lengths
_IN_SLIP_TOO, _ROOM_FOR_NUMBERS = (3, 4), 430


def _told(row: Comparison) -> str:
    """What the two patches of a row show, in words."""
    predicted = Thing("", lab=row.predicted).told() or tr("not known yet")
    return tr(
        "predicted {predicted}; read {read}",
        predicted=predicted, read=Thing("", lab=row.read).told() or tr("not read yet"),
    )  # fmt: skip


@guarded
class ComparisonTable(QAbstractTableModel):
    """The rows as a table."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Comparison] = []

    def show_rows(self, rows: list[Comparison]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(_COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _COLUMNS[section]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return row
        if role == Qt.ItemDataRole.DisplayRole:
            read = row.read is not None and row.predicted is not None
            return (
                "",
                spoken_recipe(row.recipe),
                decimal(f"{row.away:.1f}") if read else "",
                decimal(f"{row.within:.1f}") if row.predicted else "",
                tr("keeper") if row.keeper else "",
                row.remark,
            )[index.column()]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            said = self.data(index) or (_told(row) if index.column() == 0 else tr("nothing"))
            return tr("{head}: {value}", head=_COLUMNS[index.column()], value=said)
        if role == Qt.ItemDataRole.FontRole and index.column() == 2 and row.surprise:
            return scaled(sans(10.5, sans().Weight.Bold))
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in (2, 3):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None


@guarded
class PairDelegate(QStyledItemDelegate):
    """Draws prediction and reading side by side, recorded on the right.

    Parameters
    ----------
    table : QTableView
    real : function from a cell's id to what its real paint is drawn with
    """

    def __init__(self, table: QTableView, real: "Callable[[str], tuple[Looks | None, Patch | None]]") -> None:
        super().__init__(table)
        self.real = real

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row: Comparison = index.data(Qt.ItemDataRole.UserRole)
        box = QRectF(option.rect).adjusted(8, 4, -8, -4)
        painter.save()
        painter.fillRect(box, PAPER)
        half = QRectF(box.left(), box.top(), box.width() / 2, box.height())
        if row.predicted is not None:
            painter.fillRect(half.adjusted(1.5, 1.5, -0.5, -1.5), qcolor(row.predicted))
        pen = QPen(PENCIL, 1, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.drawRect(half)
        if row.read is not None:
            right = half.translated(half.width(), 0)
            fill_read(painter, right.adjusted(0.5, 1, -1, -1), row.read, *self.real(row.cell_id))
            painter.setPen(QPen(QColor(20, 20, 20), 1.4))
            painter.drawRect(right)
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(120), px(ROW_HEIGHT))


@guarded
class SheetPage(WeighPage):
    """What the painted sheet says."""

    has_sheet = True

    def __init__(self, session: Session, weighing: Weighing, state: SheetState) -> None:
        super().__init__(session, weighing)
        self.state = state
        self.rows: list[Comparison] = []
        self.key = tr("bold difference: farther from the prediction than nine in ten cells should be")
        self.sort, self.show_which = QComboBox(), QComboBox()
        self.sort.addItems(
            [tr("By {word}", word=tr(word)) if " first" not in word else capital(tr(word)) for word in SORTS]
        )
        self.sort.setAccessibleName(tr("Order of the list"))
        self.show_which.addItems([word for word, _ in SHOWN])
        self.show_which.setAccessibleName(tr("Which cells are listed"))
        for box in (self.sort, self.show_which):
            box.currentIndexChanged.connect(lambda _: self.refresh())
        self.tools = [self.show_which, self.sort]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.table = QTableView()
        self.model = ComparisonTable()
        self._set_up_table()
        layout.addWidget(self.table)
        self.slip = self._make_slip()
        self.first = self.table
        state.cell_selected.connect(self._show_cell)

    def _set_up_table(self) -> None:
        self.table.setModel(self.model)
        self.table.setItemDelegateForColumn(0, PairDelegate(self.table, self._real))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(px(ROW_HEIGHT))
        header = self.table.horizontalHeader()
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        metrics = QFontMetrics(header.font())
        for column, width in enumerate((120, 206, 66, 62, 78, 90)):
            self.table.setColumnWidth(
                column, max(px(width), metrics.horizontalAdvance(_COLUMNS[column]) + 20)
            )
        header.setSectionResizeMode(_NOTE, QHeaderView.ResizeMode.Stretch)
        self.table.setWordWrap(False)
        self.table.setAccessibleName(tr("Cells, predicted and read"))
        self.table.selectionModel().currentRowChanged.connect(self._row_chosen)

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.cell_title = title_label("", 17)
        self.cell_words = text_label("", soft=True)
        self.parts = [self.cell_title, self.cell_words]
        self.predicted_chip, self.read_chip = Swatch(72), Swatch(72)
        self.facts = {
            word: FactRow(tr(word))
            for word in (
                mark("Predicted"),
                mark("Read"),
                mark("Difference"),
                mark("Expected"),
                mark("Granulation"),
                mark("Separation"),
            )
        }
        self.keeper = QCheckBox(tr("Worth keeping"))
        self.keeper.clicked.connect(self._keep)
        self.note = Entry(tr("What is it good for?"), tr("Note on the mix"))
        self.note.editingFinished.connect(self._note)
        for widget in (self.cell_title, self.cell_words):
            slip.lines.addWidget(widget)
        self.detail: list[QWidget] = []
        for word, chip in ((tr("Predicted"), self.predicted_chip), (tr("Read"), self.read_chip)):
            self.detail += [text_label(word, soft=True, points=10), chip]
        self.marked = text_label("", soft=True, points=10)
        self.detail += [rule(), *self.facts.values(), self.marked, rule(), self.keeper, self.note]
        for part in self.detail:
            slip.lines.addWidget(part)
        slip.lines.addStretch(1)
        return slip

    # ---- showing

    def selected_things(self) -> list[Thing]:
        """The rows that are selected, as they are copied."""
        looks = self.session.learning.looks
        places = sorted({index.row() for index in self.table.selectionModel().selectedRows()})
        rows = [self.rows[place] for place in places if place < len(self.rows)]
        things = [mix_thing(looks, row.recipe, read=row.read) for row in rows]
        return [replace(thing, cell_id=row.cell_id) for thing, row in zip(things, rows, strict=True)]

    def resizeEvent(self, _: object) -> None:
        # in a narrow window the note stands in the slip alone, and the mix keeps its whole name
        room = usual_width(self.table)
        narrow = room < _ROOM_FOR_NOTES
        self.table.setColumnHidden(_NOTE, narrow)
        for column in _IN_SLIP_TOO:
            self.table.setColumnHidden(column, room < _ROOM_FOR_NUMBERS)
        stretched = 1 if narrow else _NOTE
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(_NOTE if narrow else 1, QHeaderView.ResizeMode.Interactive)
        header.setSectionResizeMode(stretched, QHeaderView.ResizeMode.Stretch)

    def refresh(self) -> None:
        """Compare the sheet anew."""
        record = self.state.record
        if record is None:
            self.rows = []
            self.say(
                tr("Nothing to weigh yet"),
                tr("Plan, paint and read a sheet; here it is compared with its prediction."),
            )
        else:
            state = self.state
            compared = compare(record, state.prediction, state.read, state.grain, state.painted)
            picked = shown_rows(compared, SHOWN[self.show_which.currentIndex()][1])
            self.rows = (
                picked.rows if picked.grouped else sorted_by(picked.rows, SORTS[self.sort.currentIndex()])
            )
            self.say("", picked.words or summary(compared))
        self.sort.setEnabled(not (record is not None and picked.grouped))
        self.table.selectionModel().blockSignals(True)
        self.model.show_rows(self.rows)
        self.table.selectionModel().blockSignals(False)
        self._show_cell(self.state.current)

    def _real(self, cell_id: str) -> "tuple[Looks | None, Patch | None]":
        look = self.state.looks.get(cell_id)
        return self.session.learning.looks, look.patch if look is not None else None

    def _row_chosen(self, current: QModelIndex, _: QModelIndex) -> None:
        if current.isValid():
            self.state.select(self.model.rows[current.row()].cell_id)

    def _show_cell(self, cell_id: str) -> None:
        row = next((row for row in self.rows if row.cell_id == cell_id), None)
        for widget in self.detail:
            widget.setVisible(row is not None)
        if row is None:
            self.cell_title.setText(tr("Mix"))
            self.cell_words.setText(tr("Choose a mix in the list or on the map."))
            return
        place = self.rows.index(row)
        if self.table.currentIndex().row() != place:
            self.table.selectRow(place)
        self.cell_title.setText(" + ".join(row.recipe.names))
        self.cell_words.setText(parts_words(row.recipe))
        looks = self.session.learning.looks
        if row.predicted is not None and looks is not None:
            self.predicted_chip.show_image(lambda w, h, r: looks.wash(row.recipe, w, h, row.cell_id, r))
        else:
            self.predicted_chip.show_colour(None, hint=tr("not known yet"))
        look = self.state.looks.get(cell_id)
        if row.read is None:
            self.read_chip.show_colour(None, hint=tr("not read yet"))
        else:
            real = looks.cropping(look.patch, row.read) if looks is not None and look is not None else None
            self.read_chip.show_read(qcolor(row.read), real)
        self.facts["Predicted"].set(lab_text(row.predicted) if row.predicted else "")
        self.facts["Read"].set(lab_text(row.read) if row.read else "")
        both = row.read is not None and row.predicted is not None
        self.facts["Difference"].set(decimal(f"{row.away:.1f}") if both else "")
        self.facts["Expected"].set(tr("within {within:.1f}", within=row.within) if row.predicted else "")
        self._show_texture(row, look.patch.texture if look is not None and look.patch is not None else None)
        self.keeper.setChecked(row.keeper)
        if not self.note.hasFocus() or self.note.text() == "":
            self.note.setText(row.note)
        self._noted = cell_id

    def _show_texture(self, row: Comparison, seen: "Texture | None") -> None:
        """How grainy the wash is, and how far its colours lie apart, as seen and as foretold."""
        told = self.session.learning.texture_of(row.recipe)
        for word, value, foretold in (
            ("Granulation", seen and seen.contrast, told and float(told.contrast[0])),
            ("Separation", seen and seen.parting, told and float(told.parting[0])),
        ):
            fact = self.facts[word]
            fact.setVisible(value is not None or foretold is not None)
            if value is not None and foretold is not None:
                fact.set(tr("{seen:.1f} seen, {foretold:.1f} foretold", seen=value, foretold=foretold))
            elif foretold is not None:
                fact.set(tr("{foretold:.1f} foretold", foretold=foretold))
            elif value is not None:
                fact.set(tr("{seen:.1f} seen", seen=value))
        measured = words_of(seen, self.session.real_paint.limits) if seen is not None else []
        said = (
            [tr("By its measures: {words}", words=listed([tr(word) for word in measured]))]
            if measured
            else []
        )
        if row.marks:
            said.insert(0, tr("Marked at the table: {marks}", marks=row.marks))
        self.marked.setText("\n".join(said))
        self.marked.setVisible(bool(said))

    # ---- the verdict

    def _keep(self, keeper: bool) -> None:
        entry = self.state.entry(self.state.current)
        if entry is not None:
            self.session.do(acts.mark_keeper(self.session.file, entry.id, keeper))

    def _note(self) -> None:
        entry = self.state.entry(self.state.current)
        if entry is not None and self.note.text() != entry.note and self._noted == self.state.current:
            self.session.do(acts.note_cell(self.session.file, entry.id, self.note.text()))
