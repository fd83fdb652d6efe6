"""A picture of an old chart with lines laid over it, that are moved by their corners and one by one, by mouse and keys."""

from dataclasses import replace
from enum import StrEnum

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)

from culmo.core.capture.old_lines import to_mm, to_pixels
from culmo.core.chart.old import OldChart, Shape, line_mm, moved_line, outlines, share_at
from culmo.core.colour.spectral import Array
from culmo.desk.guard import guarded
from culmo.desk.picture_view import PictureView
from culmo.desk.rooms.read.picture import GRIP
from culmo.desk.widgets import ARROWS
from culmo.words import tr


class RuledPart(StrEnum):
    """What of a ruled grid is taken hold of."""

    CORNER = "corner"
    ACROSS = "across"
    DOWN = "down"


_NEAR = 7.0  # of the screen's points, at which a line is taken hold of
_FAST = 10.0


@guarded
class OldChartView(PictureView):
    """The picture and the lines over it."""

    changed = Signal(object)
    hovered = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.chart: OldChart | None = None
        self.named: frozenset[int] = frozenset()  # the cells of which a recipe is known
        self.current: tuple[str, int] = (RuledPart.CORNER, 0)
        self._held: tuple[str, int] | None = None
        self.setAccessibleName(tr("Picture of the old chart"))
        self.setAccessibleDescription(
            tr(
                "The space bar goes from corner to line to line; arrow keys move what is chosen, with Shift faster"
            )
        )

    def show_chart(self, chart: OldChart, named: frozenset[int]) -> None:
        """Lay another chart over the picture; the cells whose recipe is known are ticked."""
        self.chart, self.named = chart, named
        if self.current not in self.handles():
            self.current = (RuledPart.CORNER, 0)
        self.update()

    def handles(self) -> list[tuple[str, int]]:
        """What can be moved, in the order of the keys."""
        chart = self.chart
        if chart is None:
            return []
        wheel = chart.shape is Shape.WHEEL
        across = range(chart.columns) if wheel else range(1, chart.columns)
        down = range(chart.rows) if wheel else range(1, chart.rows)
        return [
            *((RuledPart.CORNER, i) for i in range(4)),
            *((RuledPart.ACROSS, i) for i in across),
            *((RuledPart.DOWN, i) for i in down),
        ]

    # ---- places

    def _line(self, chart: OldChart, down: bool, place: int) -> list[QPointF]:
        share = (chart.down if down else chart.across)[place]
        return self.to_widget(to_pixels(chart, line_mm(chart, down, share)))

    def where(self, handle: tuple[str, int]) -> QPointF:
        """The middle of what can be moved, on the widget."""
        assert self.chart is not None
        kind, place = handle
        if kind == RuledPart.CORNER:
            return self.to_widget(np.array(self.chart.corners))[place]
        line = self._line(self.chart, kind == RuledPart.DOWN, place)
        return line[len(line) // 2]

    def _handle_at(self, at: QPointF) -> tuple[str, int] | None:
        if self.chart is None:
            return None
        best, nearest = None, _NEAR
        for handle in self.handles():
            kind, place = handle
            if kind == RuledPart.CORNER:
                away = at - self.where(handle)
                if max(abs(away.x()), abs(away.y())) <= GRIP + 3:
                    return handle
            else:
                points = np.array(
                    [(p.x(), p.y()) for p in self._line(self.chart, kind == RuledPart.DOWN, place)]
                )
                away_px = float(np.hypot(*(points - [at.x(), at.y()]).T).min())
                if away_px < nearest:
                    best, nearest = handle, away_px
        return best

    def cell_at(self, at: QPointF) -> int:
        """The number of the cell under a point of the widget, -1 where there is none."""
        if self.chart is not None:
            for number, outline in enumerate(outlines(self.chart)):
                polygon = QPolygonF(self.to_widget(to_pixels(self.chart, outline)))
                if polygon.containsPoint(at, Qt.FillRule.OddEvenFill):
                    return number
        return -1

    # ---- drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.image.isNull() or self.chart is None:
            super().paintEvent(event)
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_image(painter)
        self._draw_lines(painter, self.chart)
        for number, outline in enumerate(outlines(self.chart)):
            if number in self.named:
                self._draw_tick(painter, self.to_widget(to_pixels(self.chart, outline)))
        for place, point in enumerate(self.to_widget(np.array(self.chart.corners))):
            box = QRectF(point.x() - GRIP, point.y() - GRIP, 2 * GRIP, 2 * GRIP)
            chosen = self.current == (RuledPart.CORNER, place)
            for colour, width in (
                (QColor(255, 255, 255), 6.0 if chosen else 4.0),
                (QColor(0, 0, 0), 3.4 if chosen else 1.8),
            ):
                painter.setPen(QPen(colour, width))
                painter.drawRect(box)

    def _draw_lines(self, painter: QPainter, chart: OldChart) -> None:
        for outline in outlines(chart):
            polygon = QPolygonF(self.to_widget(to_pixels(chart, outline)))
            for colour, width in ((QColor(255, 255, 255, 210), 3.0), (QColor(0, 0, 0), 1.0)):
                painter.setPen(QPen(colour, width))
                painter.drawPolygon(polygon)
        kind, place = self.current
        if kind != RuledPart.CORNER:
            for colour, width in ((QColor(255, 255, 255), 6.0), (QColor(0, 0, 0), 3.0)):
                painter.setPen(QPen(colour, width))
                painter.drawPolyline(QPolygonF(self._line(chart, kind == RuledPart.DOWN, place)))

    def _draw_tick(self, painter: QPainter, outline: list[QPointF]) -> None:
        box = QPolygonF(outline).boundingRect()
        size = min(5.0, 0.12 * min(box.width(), box.height()))
        middle = QPointF(
            sum(p.x() for p in outline) / len(outline), sum(p.y() for p in outline) / len(outline)
        )
        for colour, width in ((QColor(255, 255, 255), 4.0), (QColor(0, 0, 0), 1.6)):
            painter.setPen(QPen(colour, width))
            painter.drawPolyline(
                QPolygonF(
                    [
                        middle + QPointF(-size, 0),
                        middle + QPointF(-0.2 * size, 0.8 * size),
                        middle + QPointF(size, -size),
                    ]
                )
            )

    # ---- mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self.begin_drawing_about(event)
            return
        handle = self._handle_at(event.position())
        if handle is not None:
            self._held = self.current = handle
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None and self.chart is not None:
            self.chart = self._moved(self.chart, self._held, self.to_picture(event.position()))
            self.update()
        elif not self.drawn_about(event):
            handle = self._handle_at(event.position())
            self.setCursor(Qt.CursorShape.SizeAllCursor if handle is not None else Qt.CursorShape.ArrowCursor)
            self.hovered.emit(self.cell_at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._held is not None and self.chart is not None:
            self._held = None
            self.changed.emit(self.chart)

    def _moved(self, chart: OldChart, handle: tuple[str, int], to: Array) -> OldChart:
        kind, place = handle
        if kind != RuledPart.CORNER:
            here = (chart.down if kind == RuledPart.DOWN else chart.across)[place]
            share = share_at(chart, kind == RuledPart.DOWN, to_mm(chart, to), here)
            return moved_line(chart, kind == RuledPart.DOWN, place, share)
        corners = list(chart.corners)
        limit = np.array([self.image.width(), self.image.height()])
        x, y = np.clip(to, -0.2 * limit, 1.2 * limit)
        corners[place] = (float(x), float(y))
        other = replace(chart, corners=tuple(corners))
        return other if _turns_right(other) else chart

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        if self.chart is None or self.take_key(event):
            return
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Backspace):
            handles = self.handles()
            way = 1 if event.key() == Qt.Key.Key_Space else -1
            self.current = handles[(handles.index(self.current) + way) % len(handles)]
            self.update()
        elif step is not None:
            far = _FAST if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            at = self.to_picture(self.where(self.current) + QPointF(*step) * far)
            moved = self._moved(self.chart, self.current, at)
            if moved != self.chart:
                self.chart = moved
                self.update()
                self.changed.emit(moved)
        else:
            super().keyPressEvent(event)


def _turns_right(chart: OldChart) -> bool:
    """Whether the corners still run clockwise and enclose something."""
    corners = np.array(chart.corners)
    sides = np.roll(corners, -1, axis=0) - corners
    turns = sides[:, 0] * np.roll(sides, -1, axis=0)[:, 1] - sides[:, 1] * np.roll(sides, -1, axis=0)[:, 0]
    return bool((turns > 25.0).all())
