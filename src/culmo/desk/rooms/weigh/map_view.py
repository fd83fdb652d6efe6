"""The map: mixes on the plane of hue and chroma, with lightness beside it. Thousands of points are drawn as one picture."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPalette,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.accessible import tell_current
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.map_drawing import (
    draw_few,
    draw_ground,
    draw_many,
    draw_marks,
    draw_numbers,
    draw_scale,
)
from culmo.desk.rooms.weigh.map_model import Points, inside
from culmo.desk.theme import px, sans, scaled
from culmo.desk.things import Thing
from culmo.desk.widgets import ARROWS, as_tip, as_tip_with
from culmo.words import tr

_REACH = 118.0  # chroma at the edge of the plane
_MANY = 1500  # more points than this are drawn as plain squares
_STRIP = 0.24  # the share of the width that lightness takes
_HIT_PX = 14.0
_STEP_ZOOM = 1.25


def next_place(lab: Array, places: Array, current: int, dx: int, dy: int) -> int:
    """The next colour in a direction of the map; the same where there is none, the greyest where none is chosen yet.

    Parameters
    ----------
    lab : (n, 3) CIELAB
    places : (n, 2) pixels
    current : int, -1 where none is
    dx, dy : int, one of them -1 or 1
    """
    if current < 0:
        return int(np.argmin(np.hypot(*lab[:, 1:].T)))
    step = places - places[current]
    along = step[:, 0] * dx + step[:, 1] * dy
    aside = np.abs(step[:, 0] * dy) + np.abs(step[:, 1] * dx)
    cost = np.where((along > 0.5) & (aside <= 1.5 * along), along + 2.0 * aside, np.inf)
    place = int(np.argmin(cost))
    return place if np.isfinite(cost[place]) else current


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
        self.outline: list[QPointF] = []
        self.pressed: QPointF | None = None
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
        self.outline = []
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

    def plane(self) -> QRectF:
        width = self.width() * (1.0 - _STRIP)
        return QRectF(0.0, 0.0, width, self.height())

    def strip(self) -> QRectF:
        left = self.width() * (1.0 - _STRIP) + 18.0
        return QRectF(left, 30.0, self.width() - left - 10.0, self.height() - 62.0)

    def scale(self) -> float:
        plane = self.plane()
        return self.zoom * min(plane.width(), plane.height()) / (2.0 * _REACH)

    def to_pixels(self, lab: Array) -> Array:
        """Where colours stand on the plane in the widget, (n, 2) float."""
        plane, scale = self.plane(), self.scale()
        x = plane.center().x() + (lab[:, 1] - self.middle.x()) * scale
        y = plane.center().y() - (lab[:, 2] - self.middle.y()) * scale
        return np.column_stack([x, y])

    def to_strip(self, lab: Array) -> Array:
        """Where colours stand beside it by lightness and chroma, (n, 2) float."""
        strip = self.strip()
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
        place = both[0] if self.plane().contains(where) else both[1]
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
        painter.setClipRect(self.plane())
        draw_ground(self, painter)
        painter.restore()
        draw_scale(self, painter)
        if self.points is None or not len(self.points):
            painter.setFont(scaled(sans(12)))
            painter.setPen(self.palette().color(QPalette.ColorRole.PlaceholderText))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.plane().adjusted(60, 0, -60, 0), flags, self.empty_words)
            return
        if len(self.points) > _MANY:
            draw_many(self, painter)
        else:
            draw_few(self, painter)
        draw_numbers(self, painter)
        draw_marks(self, painter)

    # ---- hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.pressed, self._moved = event.position(), False
        self._last = event.position()
        lasso = self.drawing or bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.outline = [event.position()] if lasso else []
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pressed is None:
            place = self.at(event.position())
            words = ""
            if place >= 0 and self.points is not None:
                words = f"{self.points.recipe_of(place)}\n{self.points.words_of(place)}"
            image = self.real(place) if place >= 0 else None
            self.setToolTip(as_tip_with(image, words) if image is not None else as_tip(words))
            return
        step = event.position() - self._last
        self._last = event.position()
        if (event.position() - self.pressed).manhattanLength() > 4:
            self._moved = True
        if self.outline:
            self.outline.append(event.position())
        elif self._moved:
            self.middle -= QPointF(step.x(), -step.y()) / self.scale()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.pressed = None
        if self.outline and self._moved and self.points is not None:
            outline = np.array([[point.x(), point.y()] for point in self.outline])
            places = self.to_pixels(self.points.lab)
            found = np.flatnonzero(inside(places, outline))
            self.region.emit([int(i) for i in found])
        elif not self._moved:
            self.outline = []
            place = self.at(event.position())
            if place >= 0:
                self.choose_thing(place)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom_by(_STEP_ZOOM ** (event.angleDelta().y() / 120.0), event.position())

    def _zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        plane = self.plane()
        about = about if about is not None and plane.contains(about) else plane.center()
        offset = (about - plane.center()) / self.scale()
        offset = QPointF(offset.x(), -offset.y())
        zoom = min(max(self.zoom * factor, 0.8), 40.0)
        self.middle += offset * (1.0 - self.zoom / zoom)
        self.zoom = zoom
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS and self.points is not None and len(self.points):
            places = self.to_pixels(self.points.lab)
            step = ARROWS[Qt.Key(event.key())]
            self.choose_thing(next_place(self.points.lab, places, self.current, *step))
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._zoom_by(_STEP_ZOOM)
        elif event.key() == Qt.Key.Key_Minus:
            self._zoom_by(1.0 / _STEP_ZOOM)
        elif event.key() == Qt.Key.Key_0:
            self.reset()
        else:
            super().keyPressEvent(event)
