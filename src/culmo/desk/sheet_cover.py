"""The turning cover as it lies on a wheel on the screen: turned by the hand or by keys, it comes to rest at a place."""

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from culmo.core.chart.cover import Cover
from culmo.desk.theme import INK, PENCIL, sans, scaled

_ROOMY = 9  # places of a wheel between whose windows there is room for a word


class LaidCover(QObject):
    """A cover, or none, and how it is turned."""

    moved = Signal()  # it is to be drawn again
    turned = Signal(int)  # it shows another place

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.cover: Cover | None = None
        self.turn = 0.0  # in places
        self._held: tuple[float, float] | None = None  # where the hand took it, and how it was turned then

    def lay(self, cover: Cover | None) -> None:
        """Lay a cover over the wheel, or take it away."""
        if cover is None or self.cover is None or cover.places != self.cover.places:
            self.turn, self._held = 0.0, None
        self.cover = cover
        self.moved.emit()

    def turn_to(self, places: float) -> None:
        """Turn it to a place, clockwise from the top."""
        if self.cover is None:
            return
        before, self.turn = round(self.turn), places % self.cover.places
        self.moved.emit()
        if round(self.turn) != before:
            self.turned.emit(round(self.turn) % self.cover.places)

    # ---- by the hand

    def take_hold(self, point: QPointF | None) -> bool:
        """The hand comes down on a point of the sheet, in mm; says whether it holds the cover."""
        angle = self._angle_at(point)
        if angle is not None:
            self._held = angle, self.turn
        return angle is not None

    def drag(self, point: QPointF | None) -> None:
        """The hand moves to a point of the sheet."""
        angle = self._angle_at(point)
        if self._held is not None and self.cover is not None and angle is not None:
            begun, turn = self._held
            self.turn_to(turn + (angle - begun) / self.cover.step)

    def let_go(self) -> None:
        """It comes to rest at a place."""
        if self._held is not None:
            self._held = None
            self.turn_to(round(self.turn))

    def _angle_at(self, point: QPointF | None) -> float | None:
        return (
            self.cover.angle_at((point.x(), point.y()))
            if self.cover is not None and point is not None
            else None
        )

    def draw(self, painter: QPainter, transform: QTransform) -> None:
        """The disc with its windows, and beside each window at the hub what it shows."""
        cover = self.cover
        if cover is None:
            return
        disc = QPainterPath()
        disc.setFillRule(Qt.FillRule.OddEvenFill)
        disc.addEllipse(QPointF(cover.x, cover.y), cover.radius + 1.0, cover.radius + 1.0)
        for window in cover.windows():
            disc.addPolygon(QPolygonF([QPointF(x, y) for x, y in cover.outline(window, self.turn)]))
            disc.closeSubpath()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shape = transform.map(disc)
        painter.fillPath(shape, QColor(252, 252, 250, 240))
        painter.setPen(QPen(PENCIL, 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(shape)
        painter.setFont(scaled(sans(10)))
        painter.setPen(INK)
        roomy = cover.places >= _ROOMY  # then the place beside each window is covered, and takes its word
        for window, word in cover.windows().items():
            radius, place = (0.8 * cover.radius, window + 1) if roomy else (0.6 * cover.hub, window)
            middle = transform.map(QPointF(*cover.at(radius, (place + self.turn) * cover.step)))
            painter.drawText(
                QRectF(middle.x() - 60, middle.y() - 10, 120, 20), Qt.AlignmentFlag.AlignCenter, word
            )
