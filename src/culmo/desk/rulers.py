"""Rulers at the edges of a view: where on the paper something lies, in the painter's unit."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPalette, QPen, QTransform

from culmo.core.chart.lengths import MM_PER_INCH, LengthUnit
from culmo.desk.theme import px, sans, scaled

_STEPS = {
    LengthUnit.MM: (1.0, 5.0, 10.0, 50.0, 100.0),
    "in": tuple(MM_PER_INCH * part for part in (0.125, 0.25, 0.5, 1.0, 2.0, 4.0)),
}
_LEAST_TICK, _LEAST_NUMBER = 4.0, 34.0  # pixels


def ruler_width() -> int:
    """How much of a view's left and upper edge a ruler takes, in pixels."""
    return px(18)


def draw_rulers(
    painter: QPainter,
    transform: QTransform,
    paper: tuple[float, float],
    view: QRectF,
    unit: str,
    palette: QPalette,
) -> None:
    """A ruler above and one at the left; both count from the paper's upper left corner.

    Parameters
    ----------
    painter : QPainter of the view
    transform : QTransform, from millimetres on the paper to pixels
    paper : its width and height, millimetres
    view : QRectF, pixels
    unit : str, "mm" or "in"
    palette : QPalette, for the greys
    """
    wide = ruler_width()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    ground = palette.color(QPalette.ColorRole.Window)
    line, words = (
        palette.color(QPalette.ColorRole.PlaceholderText),
        palette.color(QPalette.ColorRole.WindowText),
    )
    painter.fillRect(QRectF(view.left(), view.top(), view.width(), wide), ground)
    painter.fillRect(QRectF(view.left(), view.top(), wide, view.height()), ground)
    font = scaled(sans(8.5))
    painter.setFont(font)
    scale = transform.map(QPointF(1.0, 0.0)).x() - transform.map(QPointF(0.0, 0.0)).x()
    corner = transform.map(QPointF(0.0, 0.0))
    steps = [step for step in _STEPS.get(unit, _STEPS[LengthUnit.MM]) if step * scale >= _LEAST_TICK] or [
        100.0
    ]
    numbered = next((step for step in steps if step * scale >= _LEAST_NUMBER), steps[-1])
    for across in (True, False):
        length = paper[0] if across else paper[1]
        begin, end = (corner.x(), view.right()) if across else (corner.y(), view.bottom())
        for number in range(int(length / steps[0] + 1e-6) + 1):
            at = number * steps[0]
            place = begin + at * scale
            if place < wide or place > end:
                continue
            whole = _is_whole(at, numbered)
            long = 0.55 if whole else 0.35 if any(_is_whole(at, step) for step in steps[1:2]) else 0.2
            painter.setPen(QPen(line, 1))
            _tick(painter, across, place, wide, long)
            if whole:
                painter.setPen(words)
                _number(painter, across, place, wide, _said(at, unit), QFontMetricsF(font))
    painter.setPen(QPen(line, 1))
    painter.drawLine(QPointF(wide, wide), QPointF(view.right(), wide))
    painter.drawLine(QPointF(wide, wide), QPointF(wide, view.bottom()))
    painter.restore()


def _is_whole(at: float, step: float) -> bool:
    return abs(at / step - round(at / step)) < 1e-6


def _said(at: float, unit: str) -> str:
    return f"{at / MM_PER_INCH:g}" if unit == "in" else f"{at:g}"


def _tick(painter: QPainter, across: bool, place: float, wide: int, long: float) -> None:
    near, far = QPointF(place, wide), QPointF(place, wide * (1.0 - long))
    painter.drawLine(near, far) if across else painter.drawLine(near.transposed(), far.transposed())


def _number(
    painter: QPainter, across: bool, place: float, wide: int, words: str, metrics: QFontMetricsF
) -> None:
    room = metrics.horizontalAdvance(words) + 2
    if across:
        painter.drawText(QRectF(place + 2, 0, room, wide * 0.75), Qt.AlignmentFlag.AlignVCenter, words)
        return
    painter.save()
    painter.translate(0, place - 2)
    painter.rotate(-90)
    painter.drawText(QRectF(0, 0, room, wide * 0.75), Qt.AlignmentFlag.AlignVCenter, words)
    painter.restore()
