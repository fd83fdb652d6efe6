"""Scrolled pages of rows: strokes, washes and words."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.desk.drawn import usual_width
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Swatch, as_tip, text_label


@guarded
class Listing(QScrollArea):
    """A scrolled page of rows of strokes, washes and words."""

    def __init__(self, session: Session, name: str, ground: str = "ground") -> None:
        super().__init__()
        self.session, self.ground = session, ground
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName(name)
        self.inner: QWidget | None = None
        self.rows = QVBoxLayout()

    def begin(self) -> None:
        """An empty page, filled out of sight: what was there stands until `end`."""
        self.inner = QWidget()
        self.inner.setObjectName(self.ground)
        self.rows = QVBoxLayout(self.inner)
        self.rows.setContentsMargins(0, STEP, STEP, STEP)
        self.rows.setSpacing(6)

    def end(self) -> None:
        """Nothing more comes: the page is on view, laid out."""
        self.rows.addStretch(1)
        if self.inner is not None:
            self.setWidget(self.inner)
            self.inner.show()
            self._fit()

    @property
    def narrow(self) -> bool:
        """Whether strokes and choices must leave more room to the words."""
        return usual_width(self) < 620

    def _fit(self) -> None:
        """As high as the wrapped text makes it; a scrolled page would be squeezed else."""
        if self.inner is not None:
            self.inner.setMinimumHeight(max(0, self.rows.heightForWidth(self.viewport().width())))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def say(self, text: str, soft: bool = False, bold: bool = False) -> QLabel:
        """A line of text."""
        label = text_label(text, soft=soft, bold=bold)
        self.rows.addWidget(label)
        return label

    def say_alone(self, bold: str = "", soft: str = "") -> None:
        """Nothing but words: what is the matter, and what there is to know of it."""
        self.begin()
        if bold:
            self.say(bold, bold=True)
        if soft:
            self.say(soft, soft=True)
        self.end()

    def row(self, *widgets: QWidget, stretch: int = -1) -> QHBoxLayout:
        """A row of widgets; the one at `stretch` takes the room that is left."""
        line = QHBoxLayout()
        line.setSpacing(10)
        for place, widget in enumerate(widgets):
            if (
                place == stretch
            ):  # text needs its height for the width it gets, which an alignment would take away
                line.addWidget(widget, 1)
            else:
                line.addWidget(widget, 0, Qt.AlignmentFlag.AlignVCenter)
        self.rows.addLayout(line)
        return line

    def stroke(self, name: str, width: int = 120, height: int = 40) -> Swatch:
        """A paint's stroke."""
        width = min(width, 84) if self.narrow else width
        chip = sized_swatch(width, height)
        chip.show_paint(
            self.session.learning.looks, name, name.casefold() not in self.session.learning.unread
        )
        chip.setToolTip(as_tip(name))
        return chip

    def wash(self, recipe: Recipe, width: int = 64, height: int = 40) -> Swatch:
        """A mix."""
        width = width * 5 // 8 if self.narrow else width
        looks = self.session.learning.looks
        chip = sized_swatch(width, height)
        if looks is not None and self.session.learning.knows(recipe):
            chip.show_image(lambda w, h, r: looks.wash(recipe, w, h, str(recipe), r))
        chip.setToolTip(as_tip(spoken_recipe(recipe)))
        return chip


def sized_swatch(width: int, height: int) -> Swatch:
    """A patch of a fixed size."""
    chip = Swatch(height)
    chip.setFixedWidth(px(width))
    return chip


def lines_of_text(*lines: tuple[str, bool, bool]) -> QWidget:
    """Lines of text one below the other: (text, bold, soft)."""
    widget = QWidget()
    column = QVBoxLayout(widget)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    column.addStretch(1)
    for text, bold, soft in lines:
        if text:
            column.addWidget(text_label(text, bold=bold, soft=soft, points=10.5 if bold else 10))
    column.addStretch(1)
    return widget
