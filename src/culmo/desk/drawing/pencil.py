"""A paint's stroke; the pencil draws it empty where nothing is known of the paint yet."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from culmo.core.paint.recipe import mix
from culmo.desk.theme import PENCIL

if TYPE_CHECKING:
    from culmo.desk.drawing.looks import Looks

# the outline of a brush's stroke, in shares of its box: the end points of its curves, each with its two handles
_OUTLINE = (
    ((0.02, 0.10), (0.10, 0.08), (0.16, 0.10)),
    ((0.40, 0.13), (0.62, 0.05), (0.86, 0.12)),
    ((0.93, 0.14), (0.98, 0.24), (0.95, 0.44)),
    ((0.99, 0.62), (0.96, 0.84), (0.87, 0.88)),
    ((0.62, 0.95), (0.38, 0.85), (0.14, 0.90)),
    ((0.05, 0.92), (0.01, 0.80), (0.04, 0.56)),
    ((0.01, 0.40), (0.00, 0.24), (0.05, 0.16)),
)


def draw_empty_stroke(painter: QPainter, box: QRectF, width: float = 1.0) -> None:
    """The outline of a stroke of a paint of which nothing is known.

    Parameters
    ----------
    painter : QPainter
    box : QRectF, where the stroke would lie
    width : float, of the pencil line, in the painter's units
    """

    def at(point: tuple[float, float]) -> QPointF:
        return QPointF(box.left() + point[0] * box.width(), box.top() + point[1] * box.height())

    path = QPainterPath(at(_OUTLINE[-1][2]))
    for first, second, end in _OUTLINE:
        path.cubicTo(at(first), at(second), at(end))
    pen = QPen(PENCIL, width, Qt.PenStyle.CustomDashLine)
    pen.setDashPattern([4.0, 3.0])
    painter.save()
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.restore()


def draw_paint(
    painter: QPainter,
    looks: "Looks | None",
    name: str,
    box: QRectF,
    ratio: float,
    grain_scale: float = 1.0,
    pencil: float = 1.0,
) -> None:
    """The stroke of a paint.

    Parameters
    ----------
    painter : QPainter
    looks : Looks, or None while nothing is known of any paint
    name : str, the paint's
    box : QRectF
    ratio : float, pixels for each of the painter's units
    grain_scale : float, as `Looks.stroke` takes it
    pencil : float, the width of the pencil line, in the painter's units
    """
    if looks is None or not looks.knows(mix([name])):
        draw_empty_stroke(painter, box, pencil)
        return
    wide, high = (max(2, round(length * ratio)) for length in (box.width(), box.height()))
    painter.drawImage(box, looks.paint_stroke(name, wide, high, grain_scale))
