"""The map: mixes on the plane of hue and chroma, with lightness beside it. Thousands of points are drawn as one picture."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPalette,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.accessible import tell_current
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.map_model import Points, inside
from culmo.desk.theme import px, sans, scaled
from culmo.desk.things import Thing
from culmo.desk.widgets import ARROWS, as_tip, as_tip_with
from culmo.words import tr

_RINGS = (20, 40, 60, 80, 100)
_WORDS = (
    (0, tr("rose")), (30, tr("red")), (60, tr("orange")), (90, tr("yellow")), (140, tr("green")), (190, tr("turquoise")),
    (255, tr("blue")), (305, tr("violet")), (340, tr("purple")),
)  # fmt: skip
_REACH = 118.0  # chroma at the edge of the plane
_MANY = 1500  # more points than this are drawn as plain squares
_STRIP = 0.24  # the share of the width that lightness takes
_HIT_PX = 14.0
_STEP_ZOOM = 1.25


@guarded
class MapView(QWidget):
    """Each mix at its hue and chroma, and again at its lightness; a thin line leads from prediction to paint."""

    selected = Signal(int)
    region = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.points: Points | None = None
        self.ghosts: Array | None = None
        self.current = -1
        self.drawing = False
        self.empty_words = ""
        self.zoom, self.middle = 1.0, QPointF(0.0, 0.0)
        self._outline: list[QPointF] = []
        self._pressed: QPointF | None = None
        self._moved = False
        self.real: Callable[[int], QImage | None] = lambda _: None  # what was painted at a point
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(px(220), px(180))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Map of hue and chroma"))

    def sizeHint(self) -> QSize:
        return QSize(720, 520)

    def show_points(self, points: Points | None) -> None:
        """Show these mixes."""
        self.points = points
        self.current = -1
        self._outline = []
        self.update()

    def select(self, place: int) -> None:
        """Ring a mix; -1 for none."""
        if place != self.current:
            self.current = place
            self.update()

    def reset(self) -> None:
        """The whole plane."""
        self.zoom, self.middle = 1.0, QPointF(0.0, 0.0)
        self.update()

    # ---- its mixes, as they are told, copied and dragged out

    def thing_count(self) -> int:
        return len(self.points) if self.points is not None else 0

    def thing(self, place: int) -> Thing:
        assert self.points is not None
        lightness, a, b = (float(v) for v in self.points.lab[place])
        recipe, state = self.points.recipe_of(place), self.points.words_of(place)
        return Thing(spoken_recipe(recipe), recipe, (lightness, a, b), state, self.points.cell_of(place))

    def thing_rect(self, place: int) -> QRectF:
        middle = self.place_of(place)
        return QRectF(middle.x() - _HIT_PX / 2, middle.y() - _HIT_PX / 2, _HIT_PX, _HIT_PX)

    def thing_at(self, at: QPointF) -> int:
        return self.at(at)

    def current_thing(self) -> int:
        return self.current

    def choose_thing(self, place: int) -> None:
        self.current = place
        self.update()
        tell_current(self)
        self.selected.emit(place)

    # ---- places

    def _plane(self) -> QRectF:
        width = self.width() * (1.0 - _STRIP)
        return QRectF(0.0, 0.0, width, self.height())

    def _strip(self) -> QRectF:
        left = self.width() * (1.0 - _STRIP) + 18.0
        return QRectF(left, 30.0, self.width() - left - 10.0, self.height() - 62.0)

    def _scale(self) -> float:
        plane = self._plane()
        return self.zoom * min(plane.width(), plane.height()) / (2.0 * _REACH)

    def to_pixels(self, lab: Array) -> Array:
        """Where colours stand on the plane in the widget, (n, 2) float."""
        plane, scale = self._plane(), self._scale()
        x = plane.center().x() + (lab[:, 1] - self.middle.x()) * scale
        y = plane.center().y() - (lab[:, 2] - self.middle.y()) * scale
        return np.column_stack([x, y])

    def to_strip(self, lab: Array) -> Array:
        """Where colours stand beside it by lightness and chroma, (n, 2) float."""
        strip = self._strip()
        chroma = np.hypot(lab[:, 1], lab[:, 2])
        x = strip.left() + np.clip(chroma / 110.0, 0.0, 1.0) * strip.width()
        return np.column_stack([x, strip.bottom() - lab[:, 0] / 100.0 * strip.height()])

    def place_of(self, place: int) -> QPointF:
        """Where a mix stands in the widget."""
        assert self.points is not None
        x, y = self.to_pixels(self.points.lab[place : place + 1])[0]
        return QPointF(float(x), float(y))

    def at(self, where: QPointF) -> int:
        """The mix under a place; -1 for none."""
        if self.points is None or not len(self.points):
            return -1
        both = [self.to_pixels(self.points.lab), self.to_strip(self.points.lab)]
        place = both[0] if self._plane().contains(where) else both[1]
        apart = np.hypot(place[:, 0] - where.x(), place[:, 1] - where.y())
        # what was painted goes before what is predicted where both are near
        apart = apart - np.where(self.points.recorded, 2.0, 0.0)
        nearest = int(np.argmin(apart))
        return nearest if apart[nearest] <= _HIT_PX else -1

    # ---- drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(self._plane())
        self._draw_ground(painter)
        painter.restore()
        self._draw_scale(painter)
        if self.points is None or not len(self.points):
            painter.setFont(scaled(sans(12)))
            painter.setPen(self.palette().color(QPalette.ColorRole.PlaceholderText))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self._plane().adjusted(60, 0, -60, 0), flags, self.empty_words)
            return
        if len(self.points) > _MANY:
            self._draw_many(painter)
        else:
            self._draw_few(painter)
        self._draw_numbers(painter)
        self._draw_marks(painter)

    @property
    def _night(self) -> bool:
        return bool(self.palette().window().color().lightness() < 128)

    def _grey(self, level: int) -> QColor:
        level = 255 - level if self._night else level
        return QColor(level, level, level)

    def _draw_ground(self, painter: QPainter) -> None:
        scale = self._scale()
        (x, y), *_ = self.to_pixels(np.zeros((1, 3)))
        centre = QPointF(float(x), float(y))
        for radius in _RINGS:
            style = Qt.PenStyle.SolidLine if radius % 40 == 0 else Qt.PenStyle.DotLine
            painter.setPen(QPen(self._grey(186), 1.0, style))
            painter.drawEllipse(centre, radius * scale, radius * scale)
        painter.setFont(scaled(sans(11)))
        painter.setPen(self._grey(70))
        for hue, word in _WORDS:
            at = 109.0 * scale
            place = QPointF(
                centre.x() + at * np.cos(np.radians(hue)), centre.y() - at * np.sin(np.radians(hue))
            )
            painter.drawText(
                QRectF(place.x() - 45, place.y() - 10, 90, 20), Qt.AlignmentFlag.AlignCenter, word
            )

    def _draw_numbers(self, painter: QPainter) -> None:
        """The rings' numbers, over the points, on a rim of the ground so that they can be read there."""
        (x, y), *_ = self.to_pixels(np.zeros((1, 3)))
        font = scaled(sans(10))
        rim = QPen(self.palette().color(QPalette.ColorRole.Window), 3.5)
        rim.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        rim.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.save()
        painter.setClipRect(self._plane())
        for radius in _RINGS[:4]:
            word = str(radius)
            path = QPainterPath()
            path.addText(-QFontMetricsF(font).horizontalAdvance(word) / 2, 0.0, font, word)
            path.translate(float(x), float(y) - radius * self._scale() - 4.0)
            painter.strokePath(path, rim)
            painter.fillPath(path, self._grey(90))
        painter.restore()

    def _draw_scale(self, painter: QPainter) -> None:
        strip = self._strip()
        painter.setPen(QPen(self._grey(186), 1.0))
        painter.drawLine(strip.bottomLeft(), strip.topLeft())
        painter.setFont(scaled(sans(10)))
        for L in range(0, 101, 20):
            y = strip.bottom() - L / 100.0 * strip.height()
            painter.setPen(QPen(self._grey(200), 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(strip.left(), y), QPointF(strip.right(), y))
            painter.setPen(self._grey(110))
            painter.drawText(
                QRectF(strip.left() - 40, y - 8, 34, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(L),
            )
        painter.setPen(self._grey(70))
        painter.setFont(scaled(sans(11)))
        centred = Qt.AlignmentFlag.AlignCenter
        painter.drawText(QRectF(strip.left(), strip.top() - 26, strip.width(), 20), centred, tr("light"))
        painter.drawText(QRectF(strip.left(), strip.bottom() + 6, strip.width(), 20), centred, tr("dark"))

    def _draw_few(self, painter: QPainter) -> None:
        points = self.points
        assert points is not None
        for places, clip in ((self.to_pixels(points.lab), self._plane()), (self.to_strip(points.lab), None)):
            painter.save()
            if clip is not None:
                painter.setClipRect(clip)
                painter.setPen(QPen(self._grey(120), 1.0))
                for one, two in points.pairs:
                    painter.drawLine(QPointF(*places[one]), QPointF(*places[two]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            paired = set(points.pairs[:, 0].tolist())
            for i in np.flatnonzero(~points.recorded):
                colour = QColor(*(int(v) for v in points.rgb[i]))
                hollow = int(i) in paired
                painter.setBrush(Qt.BrushStyle.NoBrush if hollow else colour)
                edge = QPen(colour if self._night else colour.darker(125), 1.6)
                # by night a pencil line holds what is as dark as the ground
                painter.setPen(QPen(self._grey(120), 1.2) if self._night and not hollow else edge)
                painter.drawEllipse(QPointF(*places[i]), 5.0, 5.0)
            painter.setPen(QPen(self._grey(20), 1.2))
            for i in np.flatnonzero(points.recorded):
                painter.setBrush(QColor(*(int(v) for v in points.rgb[i])))
                x, y = places[i]
                painter.drawRect(QRectF(x - 5.0, y - 5.0, 10.0, 10.0))
            painter.restore()

    def _draw_many(self, painter: QPainter) -> None:
        """All points as squares in one picture, in one write."""
        points = self.points
        assert points is not None
        ratio = self.devicePixelRatioF()
        width, height = round(self.width() * ratio), round(self.height() * ratio)
        pixels = np.zeros((height, width), dtype=np.uint32)
        # the light ones on top, so that the dark ones do not speckle them
        order = np.argsort(points.lab[:, 0], kind="stable")
        rgb = points.rgb[order].astype(np.uint32)
        colour = 0xFF000000 | (rgb[:, 0] << 16) | (rgb[:, 1] << 8) | rgb[:, 2]
        side = max(3, round((4 if len(points) > 6000 else 6) * ratio))
        edge = self._plane().width() * ratio
        step = np.arange(side)
        square = (step[:, None] * width + step).reshape(-1)
        lab = points.lab[order]
        for places, left, right in (
            (self.to_pixels(lab), 0.0, edge),
            (self.to_strip(lab), edge, width),
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

    def _draw_marks(self, painter: QPainter) -> None:
        assert self.points is not None
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if 0 <= self.current < len(self.points):
            lab = self.points.lab[self.current : self.current + 1]
            painter.setPen(QPen(strong, 2.4))
            for places in (self.to_pixels(lab), self.to_strip(lab)):
                painter.drawEllipse(QPointF(*places[0]), 10.0, 10.0)
        if self._outline:
            painter.setPen(QPen(strong, 1.4, Qt.PenStyle.DashLine))
            polygon = QPolygonF(self._outline)
            painter.drawPolyline(polygon) if self._pressed is not None else painter.drawPolygon(polygon)

    # ---- hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed, self._moved = event.position(), False
        self._last = event.position()
        lasso = self.drawing or bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._outline = [event.position()] if lasso else []
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            place = self.at(event.position())
            words = ""
            if place >= 0 and self.points is not None:
                words = f"{self.points.recipe_of(place)}\n{self.points.words_of(place)}"
            image = self.real(place) if place >= 0 else None
            self.setToolTip(as_tip_with(image, words) if image is not None else as_tip(words))
            return
        step = event.position() - self._last
        self._last = event.position()
        if (event.position() - self._pressed).manhattanLength() > 4:
            self._moved = True
        if self._outline:
            self._outline.append(event.position())
        elif self._moved:
            self.middle -= QPointF(step.x(), -step.y()) / self._scale()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pressed = None
        if self._outline and self._moved and self.points is not None:
            outline = np.array([[point.x(), point.y()] for point in self._outline])
            places = self.to_pixels(self.points.lab)
            found = np.flatnonzero(inside(places, outline))
            self.region.emit([int(i) for i in found])
        elif not self._moved:
            self._outline = []
            place = self.at(event.position())
            if place >= 0:
                self.choose_thing(place)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom_by(_STEP_ZOOM ** (event.angleDelta().y() / 120.0), event.position())

    def _zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        plane = self._plane()
        about = about if about is not None and plane.contains(about) else plane.center()
        offset = (about - plane.center()) / self._scale()
        offset = QPointF(offset.x(), -offset.y())
        zoom = min(max(self.zoom * factor, 0.8), 40.0)
        self.middle += offset * (1.0 - self.zoom / zoom)
        self.zoom = zoom
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS and self.points is not None and len(self.points):
            self._walk(*ARROWS[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._zoom_by(_STEP_ZOOM)
        elif event.key() == Qt.Key.Key_Minus:
            self._zoom_by(1.0 / _STEP_ZOOM)
        elif event.key() == Qt.Key.Key_0:
            self.reset()
        else:
            super().keyPressEvent(event)

    def _walk(self, dx: int, dy: int) -> None:
        """To the next mix in a direction."""
        assert self.points is not None
        places = self.to_pixels(self.points.lab)
        if self.current < 0:
            place = int(np.argmin(np.hypot(*(self.points.lab[:, 1:].T))))
        else:
            step = places - places[self.current]
            along = step[:, 0] * dx + step[:, 1] * dy
            aside = np.abs(step[:, 0] * dy) + np.abs(step[:, 1] * dx)
            cost = np.where((along > 0.5) & (aside <= 1.5 * along), along + 2.0 * aside, np.inf)
            place = int(np.argmin(cost))
            if not np.isfinite(cost[place]):
                return
        self.choose_thing(place)
