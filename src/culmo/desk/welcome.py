"""The page that is shown while no study is open: what Culmo is for, how it goes, and the ways to begin."""

from collections.abc import Callable, Sequence
from functools import cache
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.actions import ROOMS
from culmo.desk.guard import guarded
from culmo.desk.theme import STEP, give_font, px, sans
from culmo.desk.widgets import as_tip, text_label, title_label
from culmo.desk.wrap_row import WrapRow
from culmo.words import tr

MOST_RECENT = 4
# drawn from the sample study by tools/first_page.py, at twice this size
PICTURE = Path(str(files("culmo.data").joinpath("pictures", "first-page.png")))
PICTURE_SIZE = (584, 352)
# what is done in each room, in the order in which painters work
_WORDS = (
    tr("Enter your paints: paste a list, or type their names and codes."),
    tr("Plan a chart for the paper you own, and see it predicted."),
    tr("Paint it cell by cell: one key an act, and a clock for what is wet."),
    tr("Read the dry sheet from a photo, an instrument, or by eye."),
    tr("See which mixes and which paints earn their place."),
    tr("Find everything again, by date, word or colour."),
)


@cache
def picture_read() -> QImage:
    """The picture, read when it is first drawn: with a study at hand it never is, and to read it takes a while."""
    return QImage(str(PICTURE))


@guarded
class FirstPicture(QWidget):
    """A chart, a wheel and strokes, as large as there is room for them."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(px(120), px(80))
        self.setAccessibleName(tr("A mixing chart, a colour wheel and strokes, drawn by Culmo"))

    def sizeHint(self) -> QSize:
        return QSize(*PICTURE_SIZE)

    def paintEvent(self, _: QPaintEvent) -> None:
        image = picture_read()
        if image.isNull():
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        size = QSizeF(*PICTURE_SIZE).scaled(QSizeF(self.size()), Qt.AspectRatioMode.KeepAspectRatio)
        size = size.boundedTo(QSizeF(*PICTURE_SIZE))
        place = QRectF(QPointF(self.width() - size.width(), (self.height() - size.height()) / 2), size)
        painter.drawImage(place, image)


@guarded
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
        outer = QVBoxLayout(self)
        outer.setContentsMargins(80, 40, 80, 40)
        outer.setSpacing(2 * STEP)
        upper = QHBoxLayout()
        upper.setSpacing(4 * STEP)
        column = QVBoxLayout()
        column.setSpacing(2 * STEP)
        upper.addLayout(column, 5)
        upper.addWidget(FirstPicture(), 6)
        outer.addLayout(upper, 3)
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
        words.setMaximumWidth(px(640))
        column.addWidget(words)
        row = WrapRow(STEP)
        self.buttons: list[QPushButton] = []
        for text, act in (
            (tr("Begin with my paints"), begin),
            (tr("Open a study…"), open_),
            (tr("Look round in the sample study"), sample),
        ):
            button = QPushButton(text)
            if not self.buttons:
                button.setObjectName("strong")
            button.clicked.connect(act)
            row.addWidget(button)
            self.buttons.append(button)
        column.addLayout(row)
        column.addStretch(1)
        there = [Path(item) for item in recent if Path(item).is_file()][:MOST_RECENT]
        if there and open_path is not None:
            outer.addLayout(self._lately(there, open_path))
        self.steps = self._steps()
        outer.addWidget(self.steps)
        outer.addStretch(1)

    def resizeEvent(self, _: object) -> None:
        """In a low window, or with large text, the ways to begin keep their place before the rooms are told of."""
        outer = self.layout()
        assert outer is not None
        self.steps.setVisible(True)
        outer.invalidate()
        self.steps.setVisible(outer.totalHeightForWidth(self.width()) <= self.height())

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
            give_font(link, sans(11))
            link.clicked.connect(lambda _=False, path=path: open_path(path))
            row.addWidget(link)
        row.addStretch(1)
        return row

    def _steps(self) -> QWidget:
        """The six rooms, each with what is done there."""
        steps = QWidget()
        grid = QGridLayout(steps)
        grid.setContentsMargins(0, 0, 0, 0)
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
        return steps
