"""What is asked on the way to a palette: its verdict, the colours of a picture, a list of wanted colours."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
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
from culmo.desk.picture_view import PictureView
from culmo.desk.rooms.box.dialogs import AskDialog
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.theme import px
from culmo.desk.widgets import Entry, as_tip, text_label
from culmo.errors import CulmoError
from culmo.study.palette_acts import Wanted
from culmo.words import tr

_CHIP = QSize(46, 26)
_BY_HAND = Qt.ItemDataRole.UserRole + 1


def _show(item: QListWidgetItem, colour: Wanted, remark: str = "") -> None:
    """Show a colour in a line of the list."""
    icon = QPixmap(_CHIP)
    icon.fill(qcolor(colour.lab))
    item.setIcon(QIcon(icon))
    item.setText(colour.name or hex_from_lab(np.array(colour.lab)))
    item.setData(Qt.ItemDataRole.UserRole, colour)
    item.setToolTip(as_tip(f"{lab_text(colour.lab)}  {remark}"))


class KeepDialog(AskDialog):
    """A palette's name, its purpose and the reason for it."""

    def __init__(self, parent: QWidget | None, paints: Sequence[str], name: str, words: str) -> None:
        super().__init__(parent, tr("Keep this palette"), tr("Keep it"))
        self.setMinimumWidth(px(460))
        self.name = Entry(tr("Six for the beetle plates"), tr("Name of the palette"))
        self.name.setText(name)
        self.purpose = Entry(tr("wing cases, drawer labels, a week away"), tr("What it is for"))
        self.reason = QPlainTextEdit()
        self.reason.setAccessibleName(tr("Why these"))
        self.reason.setPlaceholderText(tr("Why these, and not the others that come near?"))
        self.reason.setFixedHeight(px(84))
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
        picture: Path | None = None,
    ) -> None:
        super().__init__(parent, title, tr("Keep the list"))
        self.setMinimumSize(px(460), px(520))
        self.pixels = pixels
        self.picture = PictureView() if picture is not None else None
        self.moves = QCheckBox(tr("A click moves the chosen colour"))
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
        beside = QHBoxLayout()
        if self.picture is not None and picture is not None:
            self.setMinimumSize(px(820), px(560))
            self.picture.load(picture)
            self.picture.setAccessibleName(tr("The picture; a click adds a colour"))
            self.picture.picked.connect(self._picked)
            left = QVBoxLayout()
            left.addWidget(self.picture, 1)
            left.addWidget(
                text_label(
                    tr("Click on a colour to add it (arrow keys and space do the same)."),
                    soft=True,
                    points=10,
                )
            )
            left.addWidget(self.moves)
            beside.addLayout(left, 3)
        beside.addLayout(column, 2)
        self.column.insertLayout(2, beside, 1)
        if pixels is not None:
            self.look()
        else:
            for colour in colours:
                self.add(colour)

    def look(self) -> None:
        """Find the colours of the picture anew; what was added, moved or named by hand stays."""
        assert self.pixels is not None
        for row in range(self.list.count() - 1, -1, -1):
            item = self.list.item(row)
            named = item.text() != hex_from_lab(np.array(item.data(Qt.ItemDataRole.UserRole).lab))
            if not named and not item.data(_BY_HAND):
                self.list.takeItem(row)
        for cluster in colours_of_picture(self.pixels, self.count.value()):
            L, a, b = (float(value) for value in cluster.lab)
            self.add(Wanted("", (L, a, b)), f"{100 * cluster.share:.0f} %")

    def add(self, colour: Wanted, remark: str = "", by_hand: bool = False) -> QListWidgetItem:
        """One more in the list."""
        item = QListWidgetItem()
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        item.setData(_BY_HAND, by_hand)
        _show(item, colour, remark)
        self.list.addItem(item)
        return item

    def _picked(self, lab: object) -> None:
        """A colour was clicked in the picture: it is added, or the chosen one is moved there."""
        L, a, b = (float(value) for value in np.asarray(lab))
        chosen = self.list.selectedItems()
        if self.moves.isChecked() and len(chosen) == 1:
            before: Wanted = chosen[0].data(Qt.ItemDataRole.UserRole)
            plain = chosen[0].text() == hex_from_lab(np.array(before.lab))
            chosen[0].setData(_BY_HAND, True)
            _show(chosen[0], Wanted("" if plain else chosen[0].text(), (L, a, b), before.id))
            return
        item = self.add(Wanted("", (L, a, b)), by_hand=True)
        self.list.setCurrentItem(item)
        self.list.editItem(item)  # it may be named at once

    def add_typed(self) -> None:
        """A colour that was typed."""
        try:
            L, a, b = (float(value) for value in lab_from_text(self.more.text()))
        except CulmoError as error:
            self.say(str(error))
            return
        self.say("")
        self.add(Wanted("", (L, a, b)), by_hand=True)
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
