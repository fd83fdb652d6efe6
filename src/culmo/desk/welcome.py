"""The page that is shown while no study is open."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culmo.desk.theme import STEP
from culmo.desk.widgets import text_label, title_label
from culmo.words import tr


class WelcomePage(QWidget):
    """What Culmo is for, and the three ways to begin."""

    def __init__(
        self, begin: Callable[[], None], open_: Callable[[], None], sample: Callable[[], None]
    ) -> None:
        super().__init__()
        self.setObjectName("ground")
        column = QVBoxLayout(self)
        column.setContentsMargins(80, 64, 80, 64)
        column.setSpacing(2 * STEP)
        column.addStretch(1)
        column.addWidget(title_label(tr("Your paints, your paper, your hand"), 26))
        words = text_label(
            tr(
                "Culmo plans your mixing charts, predicts them before a brush is wet, keeps what you "
                "painted, and says which mixes and which paints earn their place. A study is one file "
                "that holds all of it."
            ),
            points=13,
        )
        words.setMaximumWidth(640)
        column.addWidget(words)
        row = QHBoxLayout()
        self.buttons: list[QPushButton] = []
        for text, act in (
            (tr("Begin a study"), begin),
            (tr("Open a study"), open_),
            (tr("Look round in the sample study"), sample),
        ):
            button = QPushButton(text)
            if not self.buttons:
                button.setObjectName("strong")
            button.clicked.connect(act)
            row.addWidget(button)
            self.buttons.append(button)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(2)
