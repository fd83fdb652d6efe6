"""The table of all paints: every paint a row, every property a column, to sort, to sift, to print and to take along."""

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QFontMetrics, QGuiApplication, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableView,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.label import LabelSource
from culmo.core.paint.recipe import mix
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.table_model import ASKED, COLUMNS, Column, basis_words, count_words, shown
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, px, sans, scaled
from culmo.desk.things import Thing, mix_thing
from culmo.desk.widgets import Entry, as_tip, text_label
from culmo.desk.wrap_row import WrapRow
from culmo.study.paint_rows import PaintRow, paint_rows
from culmo.words import tr

Index = QModelIndex | QPersistentModelIndex
_ROW_HEIGHT, _STROKE, _NAME = 34, 70, 124
_FALLING_FIRST = ("strength", "chroma", "sheets", "readings", "granulation", "staining")


@guarded
class PaintTableView(QAbstractTableModel):
    """The rows, without the name, which stands with the stroke at their head."""

    columns = COLUMNS[1:]

    def __init__(self) -> None:
        super().__init__()
        self.all_rows: list[PaintRow] = []
        self.rows: list[PaintRow] = []
        self.asked: list[int] = []
        self.text = ""
        self.by: Column | None = None
        self.falling = False

    def show_rows(self, rows: list[PaintRow] | None = None) -> None:
        """Show other rows, or the same ones as they are asked for now."""
        self.beginResetModel()
        if rows is not None:
            self.all_rows = rows
        asked = [ASKED[place] for place in self.asked]
        self.rows = shown(self.all_rows, asked, self.text, self.by, self.falling)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> object:
        if orientation == Qt.Orientation.Vertical:
            return self.rows[section].paint.name if role == Qt.ItemDataRole.DisplayRole else None
        if role == Qt.ItemDataRole.DisplayRole:
            return self.columns[section].title
        return as_tip(self.columns[section].tip) if role == Qt.ItemDataRole.ToolTipRole else None

    def data(self, index: Index, role: int = 0) -> object:
        row, column = self.rows[index.row()], self.columns[index.column()]
        fact = row.label.facts.get(column.key)
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(row)
        if role == Qt.ItemDataRole.ToolTipRole:
            if column.key == "doubts":
                return as_tip("\n".join(caution.words for caution in row.cautions))
            return as_tip(basis_words(row, column.key))
        if role == Qt.ItemDataRole.TextAlignmentRole and column.right:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.FontRole and fact is not None and fact.source is LabelSource.OWN:
            return scaled(sans(10.5, sans().Weight.DemiBold))
        if role == Qt.ItemDataRole.ForegroundRole and fact is not None and fact.source is LabelSource.TABLE:
            return QGuiApplication.palette().placeholderText()
        return None


@guarded
class _PaintHeads(QHeaderView):
    """The head of each row: the paint's stroke and its name."""

    def __init__(self, session: Session, table: PaintTableView) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.session, self.table = session, table
        self.setSectionsClickable(True)
        self.setDefaultSectionSize(px(_ROW_HEIGHT))
        self.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.setFixedWidth(px(_STROKE + _NAME + 12))

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        if section >= len(self.table.rows):
            return
        paint = self.table.rows[section].paint
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(rect.left() + 3, rect.top() + 4, px(_STROKE), rect.height() - 8)
        painter.fillRect(box, PAPER)
        ratio = self.devicePixelRatioF()
        draw_paint(painter, self.session.learning.looks, paint.name, box.adjusted(2, 1, -2, -1), ratio, ratio)
        chosen = self.selectionModel().isRowSelected(section)
        painter.setFont(scaled(sans(10.5, sans().Weight.DemiBold if chosen else sans().Weight.Normal)))
        painter.setPen(self.palette().windowText().color())
        place = QRectF(box.right() + 7, rect.top(), rect.right() - box.right() - 9, rect.height())
        name = QFontMetrics(painter.font()).elidedText(
            paint.name, Qt.TextElideMode.ElideRight, int(place.width())
        )
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, name)
        painter.restore()

    def sizeHint(self) -> QSize:
        return QSize(px(_STROKE + _NAME + 12), px(_ROW_HEIGHT))


@guarded
class _View(QTableView):
    """The table."""

    taken = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        else:
            super().keyPressEvent(event)


@guarded
class TablePage(QWidget):
    """All paints, to compare."""

    chosen = Signal(str)
    card_wanted = Signal()
    export_wanted = Signal()
    print_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.model = PaintTableView()
        self._quiet = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, STEP // 2, 0, 0)
        column.setSpacing(STEP // 2)
        column.addLayout(self._tools())
        self.table = _View()
        self._set_up_table()
        column.addWidget(self.table, 1)
        self.doubts = text_label("", points=10.5)
        column.addWidget(self.doubts)
        self.key = text_label(
            tr(
                "Bold: your own test. Grey: typical of the pigments. A click on a head sorts; a double click shows the "
                "card; Enter takes a paint in hand."
            ),
            soft=True,
            points=10,
        )
        column.addWidget(self.key)

    # ---- what is selected goes out

    def _selected(self) -> list[PaintRow]:
        places = sorted({index.row() for index in self.table.selectionModel().selectedRows()})
        return [self.model.rows[place] for place in places]

    def selected_things(self) -> list[Thing]:
        """The selected paints."""
        names = [row.paint.name for row in self._selected()]
        return [mix_thing(self.session.learning.looks, mix([name]), name) for name in names]

    def rows_as_text(self) -> str:
        """The selected rows with their heads, as a spreadsheet takes them."""
        lines = ["\t".join(column.title for column in COLUMNS)]
        lines += ["\t".join(column.text(row) for column in COLUMNS) for row in self._selected()]
        return "\n".join(lines) + "\n"

    # ---- what it shows

    def _tools(self) -> WrapRow:
        row = WrapRow()
        self.search = Entry(tr("Words in the row"), tr("Show only rows with these words"))
        self.search.setFixedWidth(px(170))
        self.search.textChanged.connect(lambda _: self._ask())
        row.addWidget(self.search)
        self.chips: list[QToolButton] = []
        for one in ASKED:
            chip = QToolButton()
            chip.setObjectName("chip")
            chip.setText(one.words)
            chip.setToolTip(as_tip(tr("Only paints that are: {what}", what=one.tip)))
            chip.setMinimumWidth(QFontMetrics(chip.font()).horizontalAdvance(one.words) + 20)
            chip.setCheckable(True)
            chip.toggled.connect(lambda _: self._ask())
            self.chips.append(chip)
            row.addWidget(chip)
        self.count = text_label("", soft=True)
        self.count.setWordWrap(False)
        row.addWidget(self.count)
        self.export, self.print = QPushButton(tr("Export…")), QPushButton(tr("Print…"))
        self.export.clicked.connect(self.export_wanted.emit)
        self.print.clicked.connect(self.print_wanted.emit)
        row.addWidget(self.export)
        row.addWidget(self.print)
        return row

    def _set_up_table(self) -> None:
        table = self.table
        table.setModel(self.model)
        table.setVerticalHeader(_PaintHeads(self.session, self.model))
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        table.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        table.setShowGrid(False)
        table.setWordWrap(False)
        table.setTabKeyNavigation(False)
        table.setAccessibleName(tr("All paints and what is known of them"))
        header = table.horizontalHeader()
        header.setHighlightSections(False)
        header.setSectionsClickable(True)
        header.setSectionsMovable(True)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.sectionClicked.connect(lambda place: self.sort_by(self.model.columns[place]))
        metrics = QFontMetrics(header.font())
        for place, one in enumerate(self.model.columns):
            table.setColumnWidth(place, max(px(one.width), metrics.horizontalAdvance(one.title) + 30))
        corner = table.findChild(QAbstractButton)
        if corner is not None:  # over the names: sorts by them
            corner.setToolTip(as_tip(tr("By name, or in the order of the box")))
            corner.clicked.disconnect()
            corner.clicked.connect(lambda: self.sort_by(COLUMNS[0]))
            head = QHBoxLayout(corner)
            head.setContentsMargins(_STROKE + 10, 0, 0, 0)
            words = text_label(COLUMNS[0].title)
            words.setFont(header.font())
            words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            head.addWidget(words)
        table.selectionModel().currentRowChanged.connect(self._row_chosen)
        table.selectionModel().selectionChanged.connect(lambda *_: table.verticalHeader().viewport().update())
        table.doubleClicked.connect(lambda _: self.card_wanted.emit())
        table.verticalHeader().sectionDoubleClicked.connect(lambda _: self.card_wanted.emit())
        table.taken.connect(self._take)

    # ---- showing

    def refresh(self, current: str) -> None:
        """Bring the rows up to date.

        Parameters
        ----------
        current : str, the paint that is selected in the room
        """
        session = self.session
        rows = []
        if session.study is not None:
            paints = session.selection.paints_in_use()
            rows = paint_rows(
                session.file,
                paints,
                session.learning.labels,
                session.learning.estimate,
                session.learning.unread,
            )
        self._show(rows, current)

    def _show(self, rows: list[PaintRow] | None, current: str) -> None:
        self._quiet = True
        at = self.table.horizontalScrollBar().value(), self.table.verticalScrollBar().value()
        self.model.show_rows(rows)
        self.select(current)
        self.table.horizontalScrollBar().setValue(at[0])
        if not self.table.currentIndex().isValid():
            self.table.verticalScrollBar().setValue(at[1])
        self._quiet = False
        self.count.setText(count_words(len(self.model.rows), len(self.model.all_rows)))
        for button in (self.export, self.print):
            button.setEnabled(bool(self.model.rows))

    def select(self, name: str) -> None:
        """Choose a paint's row, where it is shown."""
        names = [row.paint.name for row in self.model.rows]
        quiet, self._quiet = self._quiet, True
        if name in names:
            if self.table.currentIndex().row() != names.index(name):
                self.table.selectRow(names.index(name))
        else:
            self.table.clearSelection()
        self._quiet = quiet
        self._tell(name)

    def _tell(self, name: str) -> None:
        """The doubts of the chosen paint, whole."""
        row = next((row for row in self.model.rows if row.paint.name == name), None)
        words = "; ".join(caution.words for caution in row.cautions) if row is not None else ""
        self.doubts.setText(f"{name}: {words}" if words else "")
        self.doubts.setVisible(bool(words))

    def sort_by(self, column: Column) -> None:
        """Sort by a column; once more turns it round, a third time gives the order of the box."""
        model, first = self.model, column.key in _FALLING_FIRST
        if model.by is not column:
            model.by, model.falling = column, first
        elif model.falling is first:
            model.falling = not first
        else:
            model.by = None
        header = self.table.horizontalHeader()
        header.setSortIndicatorShown(model.by is not None and column in model.columns)
        if model.by is not None and column in model.columns:
            order = Qt.SortOrder.DescendingOrder if model.falling else Qt.SortOrder.AscendingOrder
            header.setSortIndicator(model.columns.index(column), order)
        self._show(None, self.current_name())

    def current_name(self) -> str:
        """The paint of the chosen row; empty where none is."""
        row = self.table.currentIndex().row()
        return self.model.rows[row].paint.name if 0 <= row < len(self.model.rows) else ""

    def asked(self) -> Sequence[PaintRow]:
        """The rows on view, in their order."""
        return self.model.rows

    def _ask(self) -> None:
        current = self.current_name()
        self.model.asked = [place for place, chip in enumerate(self.chips) if chip.isChecked()]
        self.model.text = self.search.text()
        self._show(None, current)

    def _row_chosen(self, index: Index, _: Index) -> None:
        if not self._quiet and 0 <= index.row() < len(self.model.rows):
            name = self.model.rows[index.row()].paint.name
            self._tell(name)
            self.chosen.emit(name)

    def _take(self) -> None:
        """Take the chosen paints in hand, or put them back."""
        rows = sorted(index.row() for index in self.table.selectionModel().selectedRows())
        for name in [self.model.rows[row].paint.name for row in rows]:
            self.session.selection.toggle_in_hand(name)
