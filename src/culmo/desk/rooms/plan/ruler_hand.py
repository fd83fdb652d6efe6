"""The marks on the rulers, taken with the hand: the sheet follows, and the value stands beside the hand."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPen, QPolygonF

from culmo.core.chart.lengths import length_text
from culmo.desk.drawing.sheet import sheet_transform
from culmo.desk.guard import guarded
from culmo.desk.rooms.plan.grips import Grip
from culmo.desk.rulers import ruler_width
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import INK, PAPER, sans, scaled

_REACH = 7.0  # pixels at both sides of a mark


@guarded
class RulerHand(QObject):
    """Hears what is done at the rulers of a view.

    Signals
    -------
    drawn : an option's name and its value, while the hand draws
    left : the hand lets go

    Parameters
    ----------
    view : SheetView
    grips : function that gives the marks of the sheet being laid out; none while none is
    """

    drawn = Signal(str, object)
    left = Signal(str)

    def __init__(self, view: SheetView, grips: Callable[[], Sequence[Grip]]) -> None:
        super().__init__(view)
        self.view, self._grips = view, grips
        self._held: Grip | None = None
        self._at: QPointF | None = None
        self._value: object = None
        self._over = False
        view.installEventFilter(self)
        view.overlays.append(self._draw)

    def place_of(self, grip: Grip) -> QPointF:
        """Where a mark stands in the view."""
        assert self.view.sheet is not None
        transform, _ = sheet_transform(self.view.sheet, self.view.base_now())
        middle = ruler_width() / 2
        at = transform.map(QPointF(grip.at_mm, grip.at_mm))
        return QPointF(at.x(), middle) if grip.across else QPointF(middle, at.y())

    def grip_at(self, place: QPointF) -> Grip | None:
        """The mark under a point of the view."""
        wide = ruler_width()
        if self.view.sheet is None or not self.view.ruled_in or (place.x() > wide and place.y() > wide):
            return None
        near: list[tuple[float, int, Grip]] = []
        for number, grip in enumerate(self._grips()):
            if grip.across == (place.y() <= wide):
                way = place - self.place_of(grip)
                near.append((abs(way.x() if grip.across else way.y()), number, grip))
        best = min(near, key=lambda entry: entry[:2], default=None)
        return best[2] if best is not None and best[0] <= _REACH else None

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QMouseEvent):
            return False
        kind, place = event.type(), event.position()
        if kind == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            self._held = self.grip_at(place)
            self._at = place if self._held is not None else None
            return self._held is not None
        if kind == QEvent.Type.MouseMove:
            if self._held is None:
                self._show_hand(self.grip_at(place))
                return False
            self._draw_to(self._held, place)
            return True
        if kind == QEvent.Type.MouseButtonRelease and self._held is not None:
            name, moved = self._held.name, self._value is not None
            self._held = self._at = self._value = None
            self.view.update()
            if moved:
                self.left.emit(name)
            return True
        return False

    def _draw_to(self, grip: Grip, place: QPointF) -> None:
        assert self.view.sheet is not None
        transform, _ = sheet_transform(self.view.sheet, self.view.base_now())
        back, fine = transform.inverted()
        if not fine:
            return
        on_paper = back.map(place)
        value = grip.value(on_paper.x() if grip.across else on_paper.y())
        self._at = place
        if value != self._value:
            self._value = value
            self.drawn.emit(grip.name, value)
        self.view.update()

    def _show_hand(self, grip: Grip | None) -> None:
        if grip is not None:
            self.view.setCursor(Qt.CursorShape.SplitHCursor if grip.across else Qt.CursorShape.SplitVCursor)
        elif self._over:
            self.view.unsetCursor()
        self._over = grip is not None

    # ---- drawing

    def _draw(self, painter: QPainter) -> None:
        if self.view.sheet is None or not self.view.ruled_in:
            return
        wide = ruler_width()
        strong = self.view.palette().windowText().color()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(strong)
        for grip in self._grips():
            at = self.place_of(grip)
            if (at.x() if grip.across else at.y()) < wide:
                continue
            half, tall = 4.5, 7.0
            if grip.across:
                points = [
                    QPointF(at.x() - half, wide - tall),
                    QPointF(at.x() + half, wide - tall),
                    QPointF(at.x(), wide),
                ]
            else:
                points = [
                    QPointF(wide - tall, at.y() - half),
                    QPointF(wide - tall, at.y() + half),
                    QPointF(wide, at.y()),
                ]
            painter.drawPolygon(QPolygonF(points))
        if self._held is not None and self._at is not None and self._value is not None:
            self._draw_value(painter, self._held, self._at)

    def _draw_value(self, painter: QPainter, grip: Grip, at: QPointF) -> None:
        font = scaled(sans(10.5))
        words = length_text(grip.said(self._value), self.view.ruled_in)
        room = QFontMetricsF(font).horizontalAdvance(words) + 16
        box = QRectF(at.x() + 12, at.y() + 12, room, 24)
        painter.setFont(font)
        painter.setPen(QPen(INK, 1.0))
        painter.setBrush(PAPER)
        painter.drawRoundedRect(box, 4, 4)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
