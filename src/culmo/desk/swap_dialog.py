"""The window that shows a swap of paints before and after, in two columns."""

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.swapping import Swapping, SwapRow, SwapView
from culmo.desk.theme import PENCIL, STEP, px, sans, scaled
from culmo.desk.widgets import text_label, title_label
from culmo.errors import CulmoError
from culmo.words import tr

Index = QModelIndex | QPersistentModelIndex
_ROW, _HIGH_ROW, _CHIP, _WIDE_CHIP = 46, 66, 13.0, 40.0
_FEW = 2  # so many chips are drawn wide, with words beside them


@guarded
class SwapTable(QAbstractTableModel):
    """The rows of a swap."""

    def __init__(self) -> None:
        super().__init__()
        self.view = SwapView("", "", "")

    def show_view(self, view: SwapView) -> None:
        """Show another swap."""
        self.beginResetModel()
        self.view = view
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.view.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else 3

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> object:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return (tr("Changes"), self.view.before, self.view.after)[section]
        return None

    def data(self, index: Index, role: int = 0) -> object:
        row = self.view.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return row
        said = (row.words, row.said_before, row.said_after)[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole:
            return said
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return said.replace("\n", ", ")
        if role == Qt.ItemDataRole.DisplayRole:
            return row.words if index.column() == 0 else ""
        return None


@guarded
class SideDelegate(QStyledItemDelegate):
    """Draws one side of a swap: its colours, predicted, and what is said of them."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row: SwapRow = index.data(Qt.ItemDataRole.UserRole)
        chips, said = (row.before, row.said_before) if index.column() == 1 else (row.after, row.said_after)
        box = QRectF(option.rect).adjusted(8, 5, -8, -5)
        painter.save()
        painter.setClipRect(box)
        few = len(chips) <= _FEW
        across = _WIDE_CHIP if few else _CHIP
        words = 0.0 if few else 34.0
        place = box.left()
        for lab in chips:
            if place + across > box.right() - words:
                break
            painter.fillRect(QRectF(place, box.top(), across - (0 if few else 1), box.height()), qcolor(lab))
            place += across
        if place > box.left():
            pen = QPen(PENCIL, 1, Qt.PenStyle.CustomDashLine)
            pen.setDashPattern([4, 3])
            painter.setPen(pen)
            painter.drawRect(QRectF(box.left(), box.top(), place - box.left() - 1, box.height() - 1))
        painter.setPen(option.palette.windowText().color())
        painter.setFont(scaled(sans(10)))
        left = place + 8 if few else box.right() - words
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(left, box.top(), box.right() - left, box.height()), int(flags), said)
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(200), px(_ROW))


@guarded
class SwapDialog(QDialog):
    """One paint for another: what goes, what comes, and the same colours with both.

    Parameters
    ----------
    parent : QWidget
    swapping : Swapping
    out, into : str, what is chosen first; the first that may be where empty
    """

    def __init__(self, parent: QWidget | None, swapping: Swapping, out: str = "", into: str = "") -> None:
        super().__init__(parent)
        self.swapping = swapping
        self.setWindowTitle(tr("Swap a paint"))
        self.resize(900, 600)
        self.out, self.into = QComboBox(), QComboBox()
        self.out.setAccessibleName(tr("The paint that goes"))
        self.into.setAccessibleName(tr("The paint that comes"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, STEP, 2 * STEP, 2 * STEP)
        layout.addWidget(title_label(tr("Swap a paint"), 17))
        line = QHBoxLayout()
        for words, choice in ((tr("In the place of"), self.out), (tr("comes"), self.into)):
            label = text_label(words)
            label.setWordWrap(False)
            line.addWidget(label)
            line.addWidget(choice, 1)
        layout.addLayout(line)
        self.words = text_label("", bold=True)
        layout.addWidget(self.words)
        self.table, self.model = QTableView(), SwapTable()
        self._set_up_table()
        layout.addWidget(self.table, 1)
        self.note = text_label("", soft=True)
        layout.addWidget(self.note)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.bring = QPushButton(swapping.verb)
        self.bring.setObjectName("strong")
        buttons.addButton(self.bring, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self._bring)
        buttons.rejected.connect(self.reject)
        layout.addWidget(buttons)
        self.out.addItems(swapping.outs())
        self.out.setCurrentIndex(max(0, self.out.findText(out)))
        self._fill_into(into)
        self.out.currentIndexChanged.connect(lambda _: self._fill_into(""))
        self.into.currentIndexChanged.connect(lambda _: self._show())
        self.out.setFocus()

    def _set_up_table(self) -> None:
        table = self.table
        table.setModel(self.model)
        table.setAccessibleName(tr("Before and after, the largest change first"))
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        table.setShowGrid(False)
        table.setTabKeyNavigation(False)
        table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        table.verticalHeader().hide()
        table.verticalHeader().setDefaultSectionSize(px(_ROW))
        for column in (1, 2):
            table.setItemDelegateForColumn(column, SideDelegate(table))
        header = table.horizontalHeader()
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        table.setColumnWidth(0, px(190))
        for column in (1, 2):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)

    def _fill_into(self, into: str) -> None:
        self.into.blockSignals(True)
        self.into.clear()
        out = self.out.currentText()
        for name, remark in self.swapping.ins(out) if out else []:
            self.into.addItem(f"{name} ({remark})" if remark else name, name)
        self.into.setCurrentIndex(max(0, self.into.findData(into)))
        self.into.blockSignals(False)
        self._show()

    @property
    def chosen(self) -> tuple[str, str]:
        """What goes and what comes; empty where there is nothing to choose."""
        return self.out.currentText(), str(self.into.currentData() or "")

    def _show(self) -> None:
        out, into = self.chosen
        view = SwapView(tr("There is no paint that may come in its place."), out, "")
        if out and into:
            try:
                view = self.swapping.view(out, into)
            except CulmoError as error:
                view = SwapView(str(error), out, into)
        self.words.setText(view.summary)
        self.model.show_view(view)
        self.note.setText(self.swapping.why_not or view.key)
        self.note.setVisible(bool(self.note.text()))
        high = any("\n" in row.said_before for row in view.rows)  # a recipe, and below it how near it comes
        self.table.verticalHeader().setDefaultSectionSize(px(_HIGH_ROW if high else _ROW))
        self.bring.setEnabled(bool(out and into) and not self.swapping.why_not)

    def _bring(self) -> None:
        out, into = self.chosen
        if out and into:
            self.accept()
            self.swapping.bring(out, into)
