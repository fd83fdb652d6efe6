"""The picture of a sheet with the plan's cells laid over it, its four corners to drag, and an eyedropper."""

from collections.abc import Mapping

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
)

from culmo.core.capture.photo import Pixels
from culmo.core.colour.spectral import Array
from culmo.desk.guard import guarded
from culmo.desk.picture_view import PictureView
from culmo.desk.theme import sans, scaled
from culmo.desk.widgets import ARROWS, nearest

GRIP = 9.0  # half the side of a corner's handle
GLASS, POWER = 62.0, 4.0  # the magnifier's radius and enlargement
# of the picture's sides, where a card is laid before it is dragged
_CARD_AT = ((0.05, 0.02), (0.35, 0.02), (0.35, 0.08), (0.05, 0.08))


@guarded
class SheetPicture(PictureView):
    """A picture in which a sheet was found, or is to be shown by its corners."""

    cell_chosen = Signal(str)
    corners_moved = Signal(object)
    nudged = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.outlines: dict[str, Array] = {}
        self.corners: Array | None = None
        self.doubtful: set[str] = set()
        self.left_out: set[str] = set()
        self.current = ""
        self.pick_colour = False
        self._grip = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_pixels(self, pixels: Pixels) -> None:
        """Show a picture.

        Parameters
        ----------
        pixels : (h, w, 3) uint8
        """
        height, width = pixels.shape[:2]
        self.image = QImage(pixels.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888).copy()
        self.outlines, self.corners = {}, None
        self.fit()

    def lay_card(self) -> None:
        """Put handles where the corners of a reference card are to be dragged from."""
        size = np.array([self.image.width(), self.image.height()])
        self.lay_over({}, np.array(_CARD_AT) * size, set(), set())

    def lay_over(
        self, outlines: Mapping[str, Array], corners: Array | None, doubtful: set[str], left_out: set[str]
    ) -> None:
        """Lay cells over the picture, and put handles on the frame's corners.

        Parameters
        ----------
        outlines : mapping from cell id to (n, 2) float, pixels of the picture shown
        corners : (4, 2) float, or None for no handles
        doubtful, left_out : sets of cell ids
        """
        self.outlines, self.corners = dict(outlines), corners
        self.doubtful, self.left_out = doubtful, left_out
        self.update()

    def select(self, cell_id: str) -> None:
        """Select a cell without telling."""
        self.current = cell_id
        self.update()

    # ---- places

    def cell_at(self, at: QPointF) -> str:
        """The cell under a point of the widget, or an empty text."""
        for cell_id, points in self.outlines.items():
            if QPolygonF(self.to_widget(points)).containsPoint(at, Qt.FillRule.OddEvenFill):
                return cell_id
        return ""

    def _grip_at(self, at: QPointF) -> int:
        if self.corners is None:
            return -1
        for place, point in enumerate(self.to_widget(self.corners)):
            if abs(point.x() - at.x()) <= GRIP + 3 and abs(point.y() - at.y()) <= GRIP + 3:
                return place
        return -1

    # ---- drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.image.isNull():
            super().paintEvent(event)
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_image(painter)
        self._draw_cells(painter)
        self._draw_corners(painter)
        if self._grip >= 0 and self.corners is not None:
            self._draw_glass(painter, self.corners[self._grip])
        elif self.pick_colour or not self.outlines:
            self._draw_picked(painter)

    def _draw_cells(self, painter: QPainter) -> None:
        for cell_id, points in self.outlines.items():
            polygon = QPolygonF(self.to_widget(points))
            doubtful = cell_id in self.doubtful
            for colour, width in (
                (QColor(255, 255, 255, 200), 3.0),
                (QColor(0, 0, 0), 1.0 if not doubtful else 1.6),
            ):
                painter.setPen(QPen(colour, width))
                painter.drawPolygon(polygon)
            box = polygon.boundingRect()
            if cell_id in self.left_out:
                for start, end in ((box.topLeft(), box.bottomRight()), (box.bottomLeft(), box.topRight())):
                    painter.setPen(QPen(QColor(255, 255, 255), 3.0))
                    painter.drawLine(start, end)
                    painter.setPen(QPen(QColor(0, 0, 0), 1.4))
                    painter.drawLine(start, end)
            elif doubtful:
                self._draw_sign(painter, box)
        if self.current in self.outlines:
            polygon = QPolygonF(self.to_widget(self.outlines[self.current]))
            for colour, width in ((QColor(255, 255, 255), 6.0), (QColor(0, 0, 0), 3.2)):
                painter.setPen(QPen(colour, width, j=Qt.PenJoinStyle.MiterJoin))
                painter.drawPolygon(polygon)

    def _draw_sign(self, painter: QPainter, box: QRectF) -> None:
        size = min(20.0, 0.6 * min(box.width(), box.height()))
        sign = QRectF(box.center().x() - size / 2, box.center().y() - size / 2, size, size)
        painter.setPen(QPen(QColor(0, 0, 0), 1.4))
        painter.setBrush(QColor(255, 255, 255))
        painter.drawEllipse(sign)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if size >= 9.0:
            painter.setFont(scaled(sans(max(7.0, 0.55 * size))))
            painter.drawText(sign, Qt.AlignmentFlag.AlignCenter, "?")

    def _draw_corners(self, painter: QPainter) -> None:
        if self.corners is None:
            return
        points = self.to_widget(self.corners)
        painter.setPen(QPen(QColor(255, 255, 255), 3.0))
        painter.drawPolygon(QPolygonF(points))
        painter.setPen(QPen(QColor(0, 0, 0), 1.2, Qt.PenStyle.DashLine))
        painter.drawPolygon(QPolygonF(points))
        for point in points:
            box = QRectF(point.x() - GRIP, point.y() - GRIP, 2 * GRIP, 2 * GRIP)
            painter.setPen(QPen(QColor(255, 255, 255), 4.0))
            painter.drawRect(box)
            painter.setPen(QPen(QColor(0, 0, 0), 2.0))
            painter.drawRect(box)

    def _draw_glass(self, painter: QPainter, at: Array) -> None:
        """What lies under the corner that is dragged, enlarged."""
        point = self.to_widget(at[None])[0]
        middle = QPointF(point.x() + (-1 if point.x() > self.width() / 2 else 1) * (GLASS + 30), point.y())
        middle.setY(min(max(middle.y(), GLASS + 4), self.height() - GLASS - 4))
        path = QPainterPath()
        path.addEllipse(middle, GLASS, GLASS)
        painter.save()
        painter.setClipPath(path)
        reach = GLASS / POWER / max(self.scale(), 1e-6)
        source = QRectF(at[0] - reach, at[1] - reach, 2 * reach, 2 * reach)
        painter.fillPath(path, QColor(128, 128, 128))
        painter.drawImage(
            QRectF(middle.x() - GLASS, middle.y() - GLASS, 2 * GLASS, 2 * GLASS), self.image, source
        )
        painter.restore()
        painter.setPen(QPen(QColor(0, 0, 0), 2.0))
        painter.drawEllipse(middle, GLASS, GLASS)
        painter.drawLine(QPointF(middle.x() - 12, middle.y()), QPointF(middle.x() + 12, middle.y()))
        painter.drawLine(QPointF(middle.x(), middle.y() - 12), QPointF(middle.x(), middle.y() + 12))

    # ---- mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.image.isNull():
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self.begin_drawing_about(event)
            return
        self._grip = self._grip_at(event.position())
        if self._grip >= 0:
            self.update()
        elif self.pick_colour or not self.outlines:
            super().mousePressEvent(event)
        else:
            cell = self.cell_at(event.position())
            if cell:
                self._choose(cell)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip >= 0 and self.corners is not None:
            at = self.to_picture(event.position())
            limit = np.array([self.image.width(), self.image.height()])
            self.corners = self.corners.copy()
            self.corners[self._grip] = np.clip(at, 0, limit)
            self.update()
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._grip >= 0 and self.corners is not None:
            self._grip = -1
            self.update()
            self.corners_moved.emit(self.corners)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.take_key(event):
            return
        step = ARROWS.get(Qt.Key(event.key()))
        if step and event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self.outlines:
            self.nudged.emit(0.25 * step[0], 0.25 * step[1])
        elif step and self.outlines and not self.pick_colour:
            places = {
                cell_id: self.to_widget(points.mean(axis=0)[None])[0]
                for cell_id, points in self.outlines.items()
            }
            self._choose(nearest(places, self.current, step))
        else:
            super().keyPressEvent(event)

    def _choose(self, cell_id: str) -> None:
        self.current = cell_id
        self.update()
        self.cell_chosen.emit(cell_id)
