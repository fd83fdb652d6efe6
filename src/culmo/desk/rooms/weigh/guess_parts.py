"""What the guess page is made of: colours and paints to choose from, the curve of the days."""

from collections.abc import Sequence
from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_rect, usual_width
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, PENCIL, STEP, px, sans
from culmo.desk.widgets import Swatch, as_tip, draw_edge, text_label
from culmo.study.guess_acts import GuessDay
from culmo.words import day_words, tr


@guarded
class OptionButton(QAbstractButton):
    """One of the colours to choose from."""

    def __init__(self, number: int, height: int = 160) -> None:
        super().__init__()
        self.number, self._height = number, height
        self.colour: QColor | None = None
        self.mark = ""
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(px(min(110, height)))
        self.setAccessibleName(tr("Mix number {number}", number=number))

    def sizeHint(self) -> QSize:
        return QSize(px(150), px(self._height))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        box = usual_rect(self).adjusted(3, 3, -3, -28)
        if self.colour is not None:
            painter.fillRect(box, self.colour)
        pen = QPen(PENCIL, 1.0, Qt.PenStyle.DashLine)
        painter.setPen(QPen(strong, 2.6) if self.isChecked() or self.hasFocus() else pen)
        painter.drawRect(box)
        painter.setPen(strong)
        painter.setFont(sans(11, sans().Weight.DemiBold))
        text = f"{self.number}" + (f"   {self.mark}" if self.mark else "")
        painter.drawText(
            QRectF(0, box.bottom() + 4, usual_width(self), 22), Qt.AlignmentFlag.AlignCenter, text
        )


@guarded
class PaintChoice(QAbstractButton):
    """One of the paints to choose two from: its stroke and its name."""

    def __init__(self, session: Session, name: str, large: bool) -> None:
        super().__init__()
        self.session, self.name, self.large = session, name, large
        self.mark = ""
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setToolTip(as_tip(name))
        self.setFixedSize(px(184 if large else 124), px(96 if large else 62))

    def sizeHint(self) -> QSize:
        return self.size()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        foot = 24 if self.large else 20
        box = usual_rect(self).adjusted(3, 3, -3, -foot)
        painter.fillRect(box, PAPER)
        ratio = fine_ratio(self)
        draw_paint(painter, self.session.learning.looks, self.name, box.adjusted(2, 2, -2, -2), ratio, ratio)
        if self.isChecked() or self.hasFocus():
            style = Qt.PenStyle.SolidLine if self.isChecked() else Qt.PenStyle.DotLine
            painter.setPen(QPen(strong, 2.6 if self.isChecked() else 1.4, style))
            painter.drawRect(box)
        else:
            draw_edge(painter, box, self.name.casefold() not in self.session.learning.unread)
        painter.setPen(strong)
        painter.setFont(
            sans(10.5 if self.large else 9.5, sans().Weight.DemiBold if self.mark else sans().Weight.Normal)
        )
        words = f"{self.name}   {self.mark}" if self.mark else self.name
        room = QRectF(2, usual_height(self) - foot + 2, usual_width(self) - 4, foot - 2)
        elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, elided)


class TwoStrokes(QWidget):
    """The strokes of two paints beside each other, with their names."""

    def __init__(self, session: Session, height: int = 72, named: bool = True) -> None:
        super().__init__()
        self.session = session
        self.strokes = [Swatch(height), Swatch(height)]
        self.names = [text_label("", bold=True), text_label("", bold=True)]
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2 * STEP)
        for stroke, name in zip(self.strokes, self.names, strict=True):
            column = QVBoxLayout()
            column.addWidget(stroke)
            column.addWidget(name)
            name.setVisible(named)
            line.addLayout(column)

    def show_names(self, names: Sequence[str]) -> None:
        """Show two other paints."""
        for stroke, label, name in zip(self.strokes, self.names, names, strict=True):
            label.setText(name)
            stroke.show_paint(
                self.session.learning.looks, name, name.casefold() not in self.session.learning.unread
            )


@guarded
class ScoreCurve(QWidget):
    """How far the guesses were off, day by day."""

    def __init__(self) -> None:
        super().__init__()
        self.days: list[GuessDay] = []
        self.setFixedHeight(px(120))
        self.setAccessibleName(tr("How far the guesses were off, day by day"))

    def show_days(self, days: list[GuessDay]) -> None:
        """Show other days."""
        self.days = days[-30:]
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self.days:
            return
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        soft = self.palette().color(QPalette.ColorRole.PlaceholderText)
        area = QRectF(26, 8, usual_width(self) - 36, usual_height(self) - 32)
        top = max(5.0, *(day.away for day in self.days))
        painter.setPen(QPen(soft, 1.0))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setFont(sans(10))
        for value in (0.0, top):
            y = area.bottom() - value / top * area.height()
            painter.drawText(
                QRectF(0, y - 9, 22, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{value:.0f}",
            )
        span = max(len(self.days) - 1, 1)
        places = [
            QPointF(
                area.left() + 6 + i / span * (area.width() - 12),
                area.bottom() - day.away / top * area.height(),
            )
            for i, day in enumerate(self.days)
        ]
        painter.setPen(QPen(strong, 1.5))
        painter.drawPolyline(places)
        painter.setBrush(strong)
        for place in places:
            painter.drawEllipse(place, 3.2, 3.2)
        painter.setPen(soft)
        under = QRectF(area.left(), area.bottom() + 5, area.width(), 18)
        painter.drawText(
            under, Qt.AlignmentFlag.AlignLeft, day_words(datetime.fromisoformat(self.days[0].date), False)
        )
        if len(self.days) > 1:
            painter.drawText(
                under,
                Qt.AlignmentFlag.AlignRight,
                day_words(datetime.fromisoformat(self.days[-1].date), False),
            )
