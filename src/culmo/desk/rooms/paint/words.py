"""The large words of the Paint room, and what its keys do."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QLabel, QSizePolicy

from culmo.desk.theme import give_font, sans
from culmo.words import tr

# what each key does, as the help and the room itself show it
KEYS = (
    (tr("Space"), tr("painted")),
    (tr("Backspace"), tr("take back")),
    ("S", tr("put off")),
    ("R", tr("paint the last one again")),
    ("N", tr("note on the last one")),
    ("L", tr("wet look of the last one")),
    ("T", tr("a dry scrap of the puddle")),
    (tr("1 to 8"), tr("mark the last one")),
    ("H", tr("how it is mixed")),
    ("← →", tr("another cell")),
    ("D", tr("it is dry")),
    ("+ −", tr("drying time")),
    ("G", tr("grain of the paper")),
    ("W", tr("clean water")),
    ("P", tr("break")),
    ("C", tr("parts as they land")),
)


def big_label(points: float, weight: QFont.Weight = QFont.Weight.Normal) -> QLabel:
    """Words that are read from where the brush is."""
    label = QLabel()
    give_font(label, sans(points, weight), large=True)
    label.setWordWrap(True)
    policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
    policy.setHeightForWidth(True)
    label.setSizePolicy(policy)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label
