"""All paints as large strokes, side by side."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QFrame, QGridLayout, QScrollArea, QSizePolicy, QWidget

from culmo.core.paint.recipe import mix
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_painter, usual_width
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import PAPER as PAPER_COLOUR
from culmo.desk.theme import PENCIL, STEP, px, sans
from culmo.desk.things import OneThing, Thing, mix_thing
from culmo.study.records import Paint
from culmo.words import tr

CARD_WIDTH = 245  # pixels, about which a stroke has its proportions
_MARKS = {"sample": tr("sample"), "wished": tr("considered")}


@guarded
class StrokeCard(OneThing, QAbstractButton):
    """A paint in the box: its stroke, name and codes."""

    def __init__(self, session: Session, paint: Paint) -> None:
        super().__init__()
        self.session, self.paint = session, paint
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setText(paint.name)
        self.setAccessibleName(f"{paint.name} {paint.codes}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(px(94))

    def shown_thing(self) -> Thing:
        return mix_thing(self.session.learning.looks, mix([self.paint.name]), self.paint.name)

    def sizeHint(self) -> QSize:
        return QSize(px(220), px(94))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(3, 3, usual_width(self) - 6, 62)
        painter.setPen(QPen(QColor(200, 200, 200), 1))
        painter.setBrush(PAPER_COLOUR)
        painter.drawRect(box)
        ratio = fine_ratio(self)
        inner = box.adjusted(3, 2, -3, -2)
        draw_paint(painter, self.session.learning.looks, self.paint.name, inner, ratio, ratio)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.isChecked():
            painter.setPen(QPen(self.palette().windowText().color(), 3))
            painter.drawRect(box.adjusted(-1, -1, 1, 1))
        elif self.hasFocus():
            painter.setPen(QPen(PENCIL, 1.6, Qt.PenStyle.DotLine))
            painter.drawRect(box.adjusted(-1, -1, 1, 1))
        painter.setFont(sans(11))
        metrics = QFontMetrics(painter.font())
        status = _MARKS.get(self.paint.status, "")
        ends = ", ".join(word for word in (self.paint.codes, status) if word)
        codes = metrics.elidedText(ends, Qt.TextElideMode.ElideRight, usual_width(self) // 2)
        room = usual_width(self) - metrics.horizontalAdvance(codes) - 16
        painter.setPen(self.palette().windowText().color())
        line = QRectF(4, 70, usual_width(self) - 8, 20)
        name = metrics.elidedText(self.paint.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(line, Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(self.palette().placeholderText().color())
        painter.drawText(line, Qt.AlignmentFlag.AlignRight, codes)


class StrokesPage(QScrollArea):
    """The strokes in as many columns as keep their proportions."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("ground")
        self.grid = QGridLayout(inner)
        self.grid.setContentsMargins(0, STEP, STEP, STEP)
        self.grid.setHorizontalSpacing(2 * STEP)
        self.grid.setVerticalSpacing(STEP)
        self.setWidget(inner)
        self.cards: list[StrokeCard] = []
        self._laid_out = 3

    def show_paints(self, paints: list[Paint], current: str) -> None:
        """Lay out the paints."""
        for card in self.cards:
            card.hide()
            card.deleteLater()
        self.cards = []
        for paint in paints:
            card = StrokeCard(self.session, paint)
            card.clicked.connect(lambda _=False, name=paint.name: self.chosen.emit(name))
            self.cards.append(card)
        self.lay_out(self._laid_out)
        self.select(current)

    def columns(self, width: int) -> int:
        """How many columns stand in a width."""
        return max(2, min(6, width // px(CARD_WIDTH)))

    def lay_out(self, columns: int) -> None:
        """As many columns as keep a stroke in its proportions."""
        self._laid_out = columns
        while self.grid.count():
            self.grid.takeAt(0)
        for place, card in enumerate(self.cards):
            self.grid.addWidget(card, place // columns, place % columns)
        for row in range(self.grid.rowCount()):
            self.grid.setRowStretch(row, 0)
        self.grid.setRowStretch(len(self.cards) // columns + 1, 1)
        for column in range(6):
            self.grid.setColumnStretch(column, int(column < columns))

    def fit(self, width: int) -> None:
        """Lay out anew where another number of columns fits a width."""
        if self.columns(width) != self._laid_out:
            self.lay_out(self.columns(width))

    def select(self, name: str) -> None:
        """Mark a paint; no name marks none."""
        for card in self.cards:
            card.setAutoExclusive(bool(name))
            card.setChecked(card.paint.name == name)

    def redraw(self) -> None:
        """The strokes have changed."""
        for card in self.cards:
            card.update()
