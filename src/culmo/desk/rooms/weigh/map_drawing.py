"""What the colour map draws."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QPainter,
    QPainterPath,
    QPalette,
    QPen,
    QPolygonF,
)

from culmo.desk.theme import sans, scaled
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.rooms.weigh.map_view import MapView

_RINGS = (20, 40, 60, 80, 100)
_WORDS = (
    (0, tr("rose")), (30, tr("red")), (60, tr("orange")), (90, tr("yellow")), (140, tr("green")), (190, tr("turquoise")),
    (255, tr("blue")), (305, tr("violet")), (340, tr("purple")),
)  # fmt: skip


def night(view: "MapView") -> bool:
    return bool(view.palette().window().color().lightness() < 128)


def grey(view: "MapView", level: int) -> QColor:
    level = 255 - level if night(view) else level
    return QColor(level, level, level)


def draw_ground(view: "MapView", painter: QPainter) -> None:
    scale = view.scale()
    (x, y), *_ = view.to_pixels(np.zeros((1, 3)))
    centre = QPointF(float(x), float(y))
    for radius in _RINGS:
        style = Qt.PenStyle.SolidLine if radius % 40 == 0 else Qt.PenStyle.DotLine
        painter.setPen(QPen(grey(view, 186), 1.0, style))
        painter.drawEllipse(centre, radius * scale, radius * scale)
    painter.setFont(scaled(sans(11)))
    painter.setPen(grey(view, 70))
    for hue, word in _WORDS:
        at = 109.0 * scale
        place = QPointF(centre.x() + at * np.cos(np.radians(hue)), centre.y() - at * np.sin(np.radians(hue)))
        painter.drawText(QRectF(place.x() - 45, place.y() - 10, 90, 20), Qt.AlignmentFlag.AlignCenter, word)


def draw_numbers(view: "MapView", painter: QPainter) -> None:
    """The rings' numbers, over the points, on a rim of the ground so that they can be read there."""
    (x, y), *_ = view.to_pixels(np.zeros((1, 3)))
    font = scaled(sans(10))
    rim = QPen(view.palette().color(QPalette.ColorRole.Window), 3.5)
    rim.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    rim.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.save()
    painter.setClipRect(view.plane())
    for radius in _RINGS[:4]:
        word = str(radius)
        path = QPainterPath()
        path.addText(-QFontMetricsF(font).horizontalAdvance(word) / 2, 0.0, font, word)
        path.translate(float(x), float(y) - radius * view.scale() - 4.0)
        painter.strokePath(path, rim)
        painter.fillPath(path, grey(view, 90))
    painter.restore()


def draw_scale(view: "MapView", painter: QPainter) -> None:
    strip = view.strip()
    painter.setPen(QPen(grey(view, 186), 1.0))
    painter.drawLine(strip.bottomLeft(), strip.topLeft())
    painter.setFont(scaled(sans(10)))
    for L in range(0, 101, 20):
        y = strip.bottom() - L / 100.0 * strip.height()
        painter.setPen(QPen(grey(view, 200), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(strip.left(), y), QPointF(strip.right(), y))
        painter.setPen(grey(view, 110))
        painter.drawText(
            QRectF(strip.left() - 40, y - 8, 34, 16),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            str(L),
        )
    painter.setPen(grey(view, 70))
    painter.setFont(scaled(sans(11)))
    centred = Qt.AlignmentFlag.AlignCenter
    painter.drawText(QRectF(strip.left(), strip.top() - 26, strip.width(), 20), centred, tr("light"))
    painter.drawText(QRectF(strip.left(), strip.bottom() + 6, strip.width(), 20), centred, tr("dark"))


def draw_few(view: "MapView", painter: QPainter) -> None:
    points = view.points
    assert points is not None
    for places, clip in (
        (view.to_pixels(points.lab), view.plane()),
        (view.to_strip(points.lab), None),
    ):
        painter.save()
        if clip is not None:
            painter.setClipRect(clip)
            painter.setPen(QPen(grey(view, 120), 1.0))
            for one, two in points.pairs:
                painter.drawLine(QPointF(*places[one]), QPointF(*places[two]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        paired = set(points.pairs[:, 0].tolist())
        for i in np.flatnonzero(~points.recorded):
            colour = QColor(*(int(v) for v in points.rgb[i]))
            hollow = int(i) in paired
            painter.setBrush(Qt.BrushStyle.NoBrush if hollow else colour)
            edge = QPen(colour if night(view) else colour.darker(125), 1.6)
            # by night a pencil line holds what is as dark as the ground
            painter.setPen(QPen(grey(view, 120), 1.2) if night(view) and not hollow else edge)
            painter.drawEllipse(QPointF(*places[i]), 5.0, 5.0)
        painter.setPen(QPen(grey(view, 20), 1.2))
        for i in np.flatnonzero(points.recorded):
            painter.setBrush(QColor(*(int(v) for v in points.rgb[i])))
            x, y = places[i]
            painter.drawRect(QRectF(x - 5.0, y - 5.0, 10.0, 10.0))
        painter.restore()


def draw_many(view: "MapView", painter: QPainter) -> None:
    """All points as squares in one picture, in one write."""
    points = view.points
    assert points is not None
    ratio = view.devicePixelRatioF()
    width, height = round(view.width() * ratio), round(view.height() * ratio)
    pixels = np.zeros((height, width), dtype=np.uint32)
    # the light ones on top, so that the dark ones do not speckle them
    order = np.argsort(points.lab[:, 0], kind="stable")
    rgb = points.rgb[order].astype(np.uint32)
    colour = 0xFF000000 | (rgb[:, 0] << 16) | (rgb[:, 1] << 8) | rgb[:, 2]
    side = max(3, round((4 if len(points) > 6000 else 6) * ratio))
    edge = view.plane().width() * ratio
    step = np.arange(side)
    square = (step[:, None] * width + step).reshape(-1)
    lab = points.lab[order]
    for places, left, right in (
        (view.to_pixels(lab), 0.0, edge),
        (view.to_strip(lab), edge, width),
    ):
        x = np.round(places[:, 0] * ratio).astype(np.intp) - side // 2
        y = np.round(places[:, 1] * ratio).astype(np.intp) - side // 2
        fits = (x >= left) & (x + side < right) & (y >= 0) & (y + side < height)
        flat, shade = y[fits] * width + x[fits], colour[fits]
        # square by square in their order, so that what comes later lies wholly on top
        pixels.reshape(-1)[(flat[:, None] + square).reshape(-1)] = np.repeat(shade, len(square))
    image = QImage(pixels.data, width, height, 4 * width, QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    painter.drawImage(0, 0, image)


def draw_marks(view: "MapView", painter: QPainter) -> None:
    assert view.points is not None
    strong = view.palette().color(QPalette.ColorRole.WindowText)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if 0 <= view.current < len(view.points):
        lab = view.points.lab[view.current : view.current + 1]
        painter.setPen(QPen(strong, 2.4))
        for places in (view.to_pixels(lab), view.to_strip(lab)):
            painter.drawEllipse(QPointF(*places[0]), 10.0, 10.0)
    if view.outline:
        painter.setPen(QPen(strong, 1.4, Qt.PenStyle.DashLine))
        polygon = QPolygonF(view.outline)
        painter.drawPolyline(polygon) if view.pressed is not None else painter.drawPolygon(polygon)
