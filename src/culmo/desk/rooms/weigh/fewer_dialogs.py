"""What is asked on the way to a palette: its verdict, the colours of a picture, a list of wanted colours."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import hex_from_lab, lab_from_text
from culmo.core.palette.cluster import colours_of_picture
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.dialogs import AskDialog
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.widgets import Entry, as_tip, text_label
from culmo.errors import CulmoError
from culmo.study.palette_acts import Wanted
from culmo.words import tr

_CHIP = QSize(46, 26)


class KeepDialog(AskDialog):
    """A palette's name, its purpose and the reason for it."""

    def __init__(self, parent: QWidget | None, paints: Sequence[str], name: str, words: str) -> None:
        super().__init__(parent, tr("Keep this palette"), tr("Keep it"))
        self.setMinimumWidth(460)
        self.name = Entry(tr("Six for the beetle plates"), tr("Name of the palette"))
        self.name.setText(name)
        self.purpose = Entry(tr("wing cases, drawer labels, a week away"), tr("What it is for"))
        self.reason = QPlainTextEdit()
        self.reason.setAccessibleName(tr("Why these"))
        self.reason.setPlaceholderText(tr("Why these, and not the others that come near?"))
        self.reason.setFixedHeight(84)
        self.reason.setTabChangesFocus(True)
        self.column.insertWidget(1, text_label(f"{', '.join(paints)}\n{words}", soft=True))
        self.form.addRow(tr("Name"), self.name)
        self.form.addRow(tr("For"), self.purpose)
        self.form.addRow(tr("Because"), self.reason)

    def check(self) -> None:
        if not self.name.text().strip():
            raise CulmoError(tr("Give it a name, so that you find it again."))


@guarded
class WantedDialog(AskDialog):
    """A list of wanted colours, to be named and edited: from a picture, or one that is there."""

    def __init__(
        self,
        parent: QWidget | None,
        title: str,
        name: str,
        colours: Sequence[Wanted],
        pixels: Array | None = None,
    ) -> None:
        super().__init__(parent, title, tr("Keep the list"))
        self.setMinimumSize(460, 520)
        self.pixels = pixels
        self.name = Entry(tr("Beetle plate"), tr("Name of the list"))
        self.name.setText(name)
        self.form.addRow(tr("Name"), self.name)
        if pixels is not None:
            self.count = QSpinBox()
            self.count.setRange(2, 60)
            self.count.setValue(12)
            self.count.setAccessibleName(tr("How many colours to look for"))
            self.count.valueChanged.connect(self.look)
            self.form.addRow(tr("Look for"), self.count)
        self.list = QListWidget()
        self.list.setIconSize(_CHIP)
        self.list.setAccessibleName(tr("Wanted colours"))
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        column = QVBoxLayout()
        column.addWidget(self.list, 1)
        out = QPushButton(tr("Take out"))
        out.clicked.connect(self.take_out)
        column.addWidget(
            text_label(tr("Click twice (or F2) to rename; Delete takes out."), soft=True, points=10)
        )
        column.addWidget(out, 0, Qt.AlignmentFlag.AlignLeft)
        self.more = Entry(tr("Add one: #5a6b4c, or L, a, b"), tr("A colour to add"))
        self.more.returnPressed.connect(self.add_typed)
        column.addWidget(self.more)
        self.column.insertLayout(2, column, 1)
        if pixels is not None:
            self.look()
        else:
            for colour in colours:
                self.add(colour)

    def look(self) -> None:
        """Find the colours of the picture anew."""
        assert self.pixels is not None
        self.list.clear()
        for cluster in colours_of_picture(self.pixels, self.count.value()):
            L, a, b = (float(value) for value in cluster.lab)
            self.add(Wanted("", (L, a, b)), f"{100 * cluster.share:.0f} %")

    def add(self, colour: Wanted, remark: str = "") -> None:
        """One more in the list."""
        icon = QPixmap(_CHIP)
        icon.fill(qcolor(colour.lab))
        words = colour.name or hex_from_lab(np.array(colour.lab))
        item = QListWidgetItem(QIcon(icon), words)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        item.setData(Qt.ItemDataRole.UserRole, colour)
        item.setToolTip(as_tip(f"{lab_text(colour.lab)}  {remark}"))
        self.list.addItem(item)

    def add_typed(self) -> None:
        """A colour that was typed."""
        try:
            L, a, b = (float(value) for value in lab_from_text(self.more.text()))
        except CulmoError as error:
            self.say(str(error))
            return
        self.say("")
        self.add(Wanted("", (L, a, b)))
        self.more.clear()

    def take_out(self) -> None:
        """The selected ones go."""
        for item in self.list.selectedItems():
            self.list.takeItem(self.list.row(item))

    def keyPressEvent(self, event: object) -> None:
        key = getattr(event, "key", int)()
        if key == Qt.Key.Key_Delete and self.focusWidget() is self.list:
            self.take_out()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.focusWidget() is self.more:
            return  # it was meant for the field
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]  # Qt's own event

    def colours(self) -> list[Wanted]:
        """The colours as they stand in the list."""
        result = []
        for row in range(self.list.count()):
            item = self.list.item(row)
            colour: Wanted = item.data(Qt.ItemDataRole.UserRole)
            plain = hex_from_lab(np.array(colour.lab))
            name = "" if item.text().strip() == plain else item.text().strip()
            result.append(Wanted(name, colour.lab, colour.id))
        return result

    def check(self) -> None:
        if not self.name.text().strip():
            raise CulmoError(tr("Give the list a name."))
        if not self.list.count():
            raise CulmoError(tr("There is no colour in the list."))
