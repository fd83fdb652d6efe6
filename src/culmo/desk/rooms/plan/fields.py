"""A field of the Layout page for each form of option; every field gives and takes its value as it would be typed."""

from collections.abc import Callable, Collection, Iterable, Sequence
from functools import singledispatch

from PySide6.QtCore import QModelIndex, QObject, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QIcon, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QSlider,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from culmo.core.chart.lengths import LengthUnit, length_mm, says_unit
from culmo.core.chart.options import (
    CellSize,
    Flag,
    Form,
    InOrder,
    Length,
    Lines,
    OneOf,
    OnePaint,
    Option,
    SomePaints,
    quoted_name,
    split_names,
)
from culmo.core.chart.page import ThePaper
from culmo.core.paint.recipe import Rename
from culmo.desk.guard import guarded
from culmo.desk.theme import px, sans, scaled
from culmo.desk.widgets import Entry, as_tip
from culmo.errors import CulmoError

_MOST_GAP = 20
_FEW_CHOICES = (
    10  # letters that a list shows at least; longer entries must not push the slip wider than it is
)


class Field(QObject):
    """An option on the slip. What is not implemented here is left to each sort of field: Qt's objects can not be abstract.

    Attributes
    ----------
    widget : QWidget
    edited : Signal, the painter changed it
    """

    edited = Signal()
    widget: QWidget

    def text(self) -> str:
        """What is typed or chosen; each field knows its own way (Qt's objects can not be abstract classes)."""
        raise NotImplementedError

    def set_text(self, text: str) -> None:
        """Show another value; each field in its own way."""
        raise NotImplementedError

    def offer(self, names: Sequence[str]) -> None:
        """Other names may be chosen: of paints, or of papers."""

    def rename(self, rename: Rename) -> None:
        """Paints bear other names."""

    def show_in(self, unit: str) -> None:
        """A length that stands here is shown in another unit, and one without a unit is meant in it."""


class TextField(Field):
    """Something to type."""

    def __init__(self, own: Option) -> None:
        super().__init__()
        self.form = own.form
        self.unit: str = LengthUnit.MM
        self.widget = self.entry = Entry(own.hint or own.form.write(own.default), own.label)
        self.entry.textEdited.connect(self.edited)

    def text(self) -> str:
        """What is typed, with the unit that it is meant in where that is not millimetres."""
        text = self.entry.text()
        if self.unit == LengthUnit.MM or not isinstance(self.form, Length | CellSize) or not text.strip():
            return text
        try:
            return text if says_unit(text) else f"{text.strip()} {self.unit}"
        except CulmoError:
            return text  # half typed

    def set_text(self, text: str) -> None:
        self.entry.setText(text)

    def show_in(self, unit: str) -> None:
        if unit == self.unit or not isinstance(self.form, Length | CellSize):
            return
        try:
            value = self.form.read(self.text(), "")
        except CulmoError:
            value = None
        self.unit = unit
        if value is not None and self.entry.text().strip():
            self.set_text(self.form.written_in(value, unit))


class TickField(Field):
    """A box to tick, which says itself what it is."""

    def __init__(self, own: Option) -> None:
        super().__init__()
        self.widget = self.box = QCheckBox(own.label)
        self.box.toggled.connect(self.edited)

    def text(self) -> str:
        return Flag().write(self.box.isChecked())

    def set_text(self, text: str) -> None:
        self.box.setChecked(Flag().read(text, ""))


class ListField(Field):
    """One of a list; each entry bears its value as it would be typed.

    Parameters
    ----------
    entries : sequence of (value as typed, words), or None where paints or papers are offered
    editable : bool
    """

    def __init__(self, entries: Sequence[tuple[str, str]] | None = None, editable: bool = False) -> None:
        super().__init__()
        self._offered = entries is None
        self.widget = self.box = QComboBox()
        self.box.setEditable(editable)
        self.box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.box.setMinimumContentsLength(_FEW_CHOICES)
        for value, words in entries or ():
            self.box.addItem(words, value)
        if editable:
            self.box.currentTextChanged.connect(self.edited)
        else:
            self.box.currentIndexChanged.connect(self.edited)

    def text(self) -> str:
        return self.box.currentText() if self.box.isEditable() else str(self.box.currentData() or "")

    def set_text(self, text: str) -> None:
        place = self.box.findData(text)
        if place >= 0:
            self.box.setCurrentIndex(place)
        elif self.box.isEditable():
            self.box.setCurrentText(text)
        elif text:  # a choice of the command line that is none of the usual ones
            self.box.addItem(text, text)
            self.box.setCurrentIndex(self.box.count() - 1)

    def offer(self, names: Sequence[str]) -> None:
        if self._offered:
            self.box.clear()
            for name in names:
                self.box.addItem(name, quoted_name(name))

    def rename(self, rename: Rename) -> None:
        for place in range(self.box.count() if self._offered else 0):
            name = rename(self.box.itemText(place))
            self.box.setItemText(place, name)
            self.box.setItemData(place, quoted_name(name))


class TickedField(Field):
    """Entries to tick and to drag into their order; each bears its value as it would be typed."""

    def __init__(self, entries: QListWidget | None = None) -> None:
        super().__init__()
        self.widget = self.list = entries if entries is not None else QListWidget()
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.list.itemChanged.connect(self.edited)
        self.list.model().rowsMoved.connect(self.edited)

    def chosen(self) -> list[str]:
        """The values of those that are ticked, in their order."""
        items = [self.list.item(i) for i in range(self.list.count())]
        return [
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item.checkState() == Qt.CheckState.Checked
        ]

    def show_entries(self, entries: Iterable[tuple[str, str]], chosen: Collection[str]) -> None:
        """Show other entries, each a value with its words, and tick some values."""
        self.list.clear()
        for value, words in entries:
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, value)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if value in chosen else Qt.CheckState.Unchecked)
            self.list.addItem(item)


_BESIDE = Qt.ItemDataRole.UserRole + 1  # the words at the end of a line


@guarded
class PaintLineField(QStyledItemDelegate):
    """A paint of the list: its stroke, its name, and its codes and marks at the end of the line."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        super().paint(painter, option, index)
        words = index.data(_BESIDE)
        if not words:
            return
        taken = option.fontMetrics.horizontalAdvance(str(index.data())) + px(84)
        box = QRect(option.rect).adjusted(taken, 0, -px(4), 0)
        font = scaled(sans(9.5))
        painter.save()
        painter.setFont(font)
        painter.setPen(option.palette.placeholderText().color())
        said = QFontMetrics(font).elidedText(str(words), Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, said)
        painter.restore()


@guarded
class PaintList(QListWidget):
    """A list whose lines are moved with Ctrl and the arrow keys too."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        row, control = self.currentRow(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if step and control and row >= 0:
            if 0 <= row + step < self.count():
                # Qt counts where it goes before it is taken out
                self.model().moveRow(QModelIndex(), row, QModelIndex(), row + step + (step > 0))
                self.setCurrentRow(row + step)
        else:
            super().keyPressEvent(event)


class PaintsField(TickedField):
    """The paints to tick and to drag into their order."""

    def __init__(self, height: int) -> None:
        super().__init__(PaintList())
        self.list.setMinimumHeight(height)
        self.list.setItemDelegate(PaintLineField(self.list))
        self.list.setIconSize(QSize(px(42), px(15)))
        self._names: list[str] = []
        self.dress: Callable[[str], tuple[QIcon | None, str, str]] | None = None

    def dress_all(self) -> None:
        """Give each paint its stroke, its words and its tip, as they are known now."""
        if self.dress is None:
            return
        was = self.list.blockSignals(True)
        for place in range(self.list.count()):
            item = self.list.item(place)
            icon, words, tip = self.dress(item.text())
            item.setIcon(icon if icon is not None else QIcon())
            item.setData(_BESIDE, words)
            item.setToolTip(as_tip(tip))
            item.setData(Qt.ItemDataRole.AccessibleDescriptionRole, tip)
        self.list.blockSignals(was)

    def change(self, change: Callable[[list[str]], list[str]]) -> None:
        """Choose other paints than those that are chosen, as by hand."""
        before = self.names()
        after = change(list(before))
        if after != before:
            self.set_text(SomePaints().write(after))
            self.edited.emit()

    def names(self) -> list[str]:
        """The chosen paints, in their order."""
        return split_names(self.text())

    def text(self) -> str:
        return SomePaints().write(self.chosen())

    def set_text(self, text: str) -> None:
        chosen = split_names(text)
        names = [*chosen, *(name for name in self._names if name not in chosen)]
        self.show_entries(((name, name) for name in names), chosen)
        self.dress_all()

    def offer(self, names: Sequence[str]) -> None:
        self._names = list(names)

    def rename(self, rename: Rename) -> None:
        for place in range(self.list.count()):
            item = self.list.item(place)
            item.setText(rename(item.text()))
            item.setData(Qt.ItemDataRole.UserRole, item.text())


class ChoicesField(TickedField):
    """Some of several words to tick, and to drag into their order."""

    def __init__(self, form: InOrder) -> None:
        super().__init__()
        self.form = form
        self.set_text("")
        rows = self.list.sizeHintForRow(0) * self.list.count()
        self.list.setFixedHeight(rows + 2 * self.list.frameWidth() + 2)

    def text(self) -> str:
        return self.form.write(self.chosen())

    def set_text(self, text: str) -> None:
        words = self.form.words
        chosen = [word for word in text.split(",") if word in words]
        usual = list(words)
        # each that is not chosen keeps its usual place among the others
        order = sorted(usual, key=lambda value: (_place(chosen, usual, value), usual.index(value)))
        self.show_entries(((value, words[value]) for value in order), chosen)


def _place(chosen: list[str], usual: list[str], value: str) -> float:
    """Where a word stands: where it was chosen, or after the last chosen one that usually comes before it."""
    if value in chosen:
        return float(chosen.index(value))
    before = [chosen.index(other) for other in usual[: usual.index(value)] if other in chosen]
    return max(before, default=-1) + 0.5


class LinesField(Field):
    """Recipes or rows, one a line."""

    def __init__(self, own: Option) -> None:
        super().__init__()
        self.form = own.form
        self.widget = self.edit = QPlainTextEdit()
        self.edit.setPlaceholderText(own.hint)
        self.edit.setFixedHeight(px(120))
        self.edit.setTabChangesFocus(True)
        self.edit.textChanged.connect(self.edited)

    def text(self) -> str:
        return self.edit.toPlainText()

    def set_text(self, text: str) -> None:
        self.edit.setPlainText(text)

    def rename(self, rename: Rename) -> None:
        lines = []
        for line in self.text().splitlines():
            try:
                plain = self.form.renamed(self.form.plain(self.form.read(line, "")), rename)
                lines.append(self.form.write(self.form.of_plain(plain)) if line.strip() else line)
            except CulmoError:
                lines.append(line)  # half typed
        if lines != self.text().splitlines():
            self.edit.setPlainText("\n".join(lines))


class GapField(TextField):
    """A small length to type or to drag."""

    dragged = Signal()

    def __init__(self, own: Option) -> None:
        super().__init__(own)
        self.entry.setFixedWidth(px(76))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 2 * _MOST_GAP)
        self.slider.setAccessibleName(own.label)
        self.widget = QWidget()
        row = QHBoxLayout(self.widget)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.entry)
        row.addWidget(self.slider, 1)
        self.slider.valueChanged.connect(self._slid)

    def set_text(self, text: str) -> None:
        super().set_text(text)
        try:
            value = round(2 * length_mm(text or "0", self.unit))
        except CulmoError:
            return
        self.slider.blockSignals(True)
        self.slider.setValue(min(value, 2 * _MOST_GAP))
        self.slider.blockSignals(False)

    def _slid(self, value: int) -> None:
        self.entry.setText(self.form.written_in(value / 2, self.unit))
        self.dragged.emit()


@singledispatch
def field_for(form: Form, name: str, own: Option) -> Field:
    """The field of an option."""
    return GapField(own) if name == "gap_mm" else TextField(own)


@field_for.register
def _(form: Flag, name: str, own: Option) -> Field:
    return TickField(own)


@field_for.register
def _(form: OneOf, name: str, own: Option) -> Field:
    return ListField([(form.write(value), words) for value, words in form.words.items()])


@field_for.register
def _(form: InOrder, name: str, own: Option) -> Field:
    return ChoicesField(form)


@field_for.register
def _(form: OnePaint, name: str, own: Option) -> Field:
    return ListField()


@field_for.register
def _(form: SomePaints, name: str, own: Option) -> Field:
    return PaintsField(160 if name == "paints" else 110)


@field_for.register
def _(form: Lines, name: str, own: Option) -> Field:
    return LinesField(own)


@field_for.register
def _(form: ThePaper, name: str, own: Option) -> Field:
    return ListField(editable=True)
