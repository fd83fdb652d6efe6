"""The page that is shown while no study is open: what Culmo is for, how it goes, and the ways to begin."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from culmo.desk.actions import ROOMS
from culmo.desk.theme import STEP, sans
from culmo.desk.widgets import as_tip, text_label, title_label
from culmo.words import tr

MOST_RECENT = 4
# what is done in each room, in the order in which painters work
_WORDS = (
    tr("Enter your paints: paste a list, or type their names and codes."),
    tr("Plan a chart for the paper you own, and see it predicted."),
    tr("Paint it cell by cell: one key an act, and a clock for what is wet."),
    tr("Read the dry sheet from a photo, an instrument, or by eye."),
    tr("See which mixes and which paints earn their place."),
    tr("Find everything again, by date, word or colour."),
)


class WelcomePage(QWidget):
    """What Culmo is for, how it goes, and the ways to begin."""

    def __init__(
        self,
        begin: Callable[[], None],
        open_: Callable[[], None],
        sample: Callable[[], None],
        recent: Sequence[str] = (),
        open_path: Callable[[Path], object] | None = None,
    ) -> None:
        super().__init__()
        self.setObjectName("ground")
        column = QVBoxLayout(self)
        column.setContentsMargins(80, 48, 80, 48)
        column.setSpacing(2 * STEP)
        column.addStretch(1)
        column.addWidget(title_label(tr("Your paints, your paper, your hand"), 26))
        words = text_label(
            tr(
                "Culmo plans your mixing charts, predicts them before a brush is wet, keeps what you painted, "
                "and says which mixes and which paints earn their place. A study is one file that holds all of "
                "it."
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
        there = [Path(item) for item in recent if Path(item).is_file()][:MOST_RECENT]
        if there and open_path is not None:
            column.addLayout(self._lately(there, open_path))
        column.addStretch(1)
        column.addLayout(self._steps())
        column.addStretch(2)

    def _lately(self, paths: Sequence[Path], open_path: Callable[[Path], object]) -> QHBoxLayout:
        row = QHBoxLayout()
        head = text_label(tr("Lately opened:"), soft=True)
        head.setWordWrap(False)
        row.addWidget(head)
        for path in paths:
            link = QToolButton()
            link.setText(path.stem if len(path.stem) < 30 else f"{path.stem[:28]}…")
            link.setToolTip(as_tip(str(path)))
            link.setAutoRaise(True)
            link.setFont(sans(11))
            link.clicked.connect(lambda _=False, path=path: open_path(path))
            row.addWidget(link)
        row.addStretch(1)
        return row

    def _steps(self) -> QGridLayout:
        """The six rooms, each with what is done there."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(4 * STEP)
        grid.setVerticalSpacing(3 * STEP)
        for place, (room, words) in enumerate(zip(ROOMS, _WORDS, strict=True)):
            cell = QVBoxLayout()
            cell.setSpacing(2)
            cell.addWidget(text_label(f"{place + 1}  {room}", bold=True, points=11.5))
            told = text_label(words, soft=True)
            told.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
            cell.addWidget(told)
            cell.addStretch(1)
            grid.addLayout(cell, place // 3, place % 3)
            grid.setColumnStretch(place % 3, 1)
        return grid
