"""The head of the window: the study, the rooms, whether it is the sample."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout

from culmo.desk.actions import ROOM_IDS, ROOMS
from culmo.desk.button_keys import tell_key
from culmo.desk.theme import STEP, give_font, px, serif
from culmo.desk.widgets import ElidedLabel, TabStrip, text_label
from culmo.words import tr


class Header(QFrame):
    """A title, a strip of rooms, a word at the end."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setFixedHeight(px(52))
        row = QHBoxLayout(self)
        row.setContentsMargins(2 * STEP, 0, 2 * STEP, 0)
        self.title = ElidedLabel("Culmo")
        self.title.setObjectName("elided")
        give_font(self.title, serif(15))
        self.tabs = TabStrip(ROOMS, 12.5, tr("Rooms"), wraps=False)
        for button, room in zip(self.tabs.buttons, ROOM_IDS, strict=True):
            tell_key(button, f"room {room}")
        self.end = text_label("", soft=True)
        self.end.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.title, 1)
        row.addWidget(self.tabs, 0, Qt.AlignmentFlag.AlignBottom)
        row.addWidget(self.end, 1)
