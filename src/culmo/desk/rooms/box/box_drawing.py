"""What the picture of a box draws."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QPainter,
    QPen,
)

from culmo.core.paint.recipe import mix
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio
from culmo.desk.theme import PAPER, PENCIL, sans
from culmo.study.records import Paint

if TYPE_CHECKING:
    from culmo.desk.rooms.box.box_picture import BoxPicture


@dataclass(frozen=True)
class Spot:
    """A place where a paint may lie.

    Attributes
    ----------
    place : int, a well; -1 beside the box
    paint_id : int or None, what lies there
    """

    place: int
    paint_id: int | None


def draw_lid(view: "BoxPicture", painter: QPainter) -> None:
    """The tin: a rolled rim and the enamel inside."""
    rect = view.box_rect()
    painter.setPen(QPen(QColor(120, 120, 120), 1.4))
    painter.setBrush(QColor(206, 206, 206))
    painter.drawRoundedRect(rect.adjusted(-4, -4, 4, 4), 9, 9)
    painter.setPen(QPen(QColor(168, 168, 168), 1.0))
    painter.setBrush(QColor(226, 226, 226))
    painter.drawRoundedRect(rect, 5, 5)


def draw_well(view: "BoxPicture", painter: QPainter, spot: Spot) -> None:
    rect = view.rect_of(spot)
    empty = spot.paint_id is None
    painter.setPen(QPen(QColor(176, 176, 176) if empty else QColor(150, 150, 150), 1.0))
    painter.setBrush(QColor(216, 216, 216) if empty else PAPER)
    painter.drawRoundedRect(rect, 4, 4)
    if spot.paint_id is not None:
        draw_in_well(view, painter, view.paints[spot.paint_id], rect.adjusted(3, 3, -3, -3))
    draw_marks(view, painter, spot, rect)


def draw_tile(view: "BoxPicture", painter: QPainter, spot: Spot) -> None:
    assert spot.paint_id is not None
    rect, paint = view.rect_of(spot), view.paints[spot.paint_id]
    if paint.status == "wished":  # planned, so in pencil
        pen = QPen(PENCIL, 1.0, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([4.0, 3.0])
        painter.setPen(pen)
    else:
        painter.setPen(QPen(QColor(170, 170, 170), 1.0))
    painter.setBrush(PAPER)
    painter.drawRoundedRect(rect, 4, 4)
    draw_in_well(view, painter, paint, rect.adjusted(3, 3, -3, -2))
    draw_marks(view, painter, spot, rect)


def draw_in_well(view: "BoxPicture", painter: QPainter, paint: Paint, rect: QRectF) -> None:
    lines = 2 if rect.height() > 74 else 1
    size = 10.0 if rect.width() > 74 else 9.0
    stroke = QRectF(rect.left(), rect.top(), rect.width(), rect.height() - (17 if lines == 1 else 34))
    wide = 2.6 * stroke.height()
    if stroke.width() < wide:  # a stroke keeps its proportions in a tall well
        tall = min(max(stroke.width() / 1.35, 20.0), stroke.height())
        stroke = QRectF(stroke.left(), stroke.top() + (stroke.height() - tall) / 2, stroke.width(), tall)
    looks, ratio = view.session.learning.looks, fine_ratio(view)
    recipe = mix([paint.name])
    if paint.status == "sample" and looks is not None and looks.knows(recipe):  # a dot is all there is
        side = min(stroke.height(), stroke.width())
        dot = QRectF(stroke.center().x() - side / 2, stroke.center().y() - side / 2, side, side)
        pixels = round(side * ratio)
        painter.drawImage(dot, looks.wash(recipe, pixels, pixels, paint.name, ratio))
    else:
        draw_paint(painter, looks, paint.name, stroke, ratio, ratio)
    painter.setFont(sans(size))
    painter.setPen(QColor(32, 32, 32))
    metrics = QFontMetricsF(painter.font())
    base = rect.bottom() - (19 if lines == 2 else 3)
    name = metrics.elidedText(paint.name, Qt.TextElideMode.ElideRight, rect.width() - 2)
    painter.drawText(QPointF(rect.left() + 1, base), name)
    if lines == 2:
        painter.setPen(QColor(96, 96, 96))
        codes = metrics.elidedText(paint.codes, Qt.TextElideMode.ElideRight, rect.width() - 2)
        painter.drawText(QPointF(rect.left() + 1, base + 15), codes)


def draw_marks(view: "BoxPicture", painter: QPainter, spot: Spot, rect: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if spot == view.current:
        painter.setPen(QPen(QColor(0, 0, 0), 3.0 if view.hasFocus() else 2.2))
        painter.drawRoundedRect(rect.adjusted(-1, -1, 1, 1), 5, 5)
    name = view.paints[spot.paint_id].name if spot.paint_id is not None else ""
    if name in view.session.selection.in_hand:
        centre = QPointF(rect.right() - 9, rect.top() + 9)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(24, 24, 24))
        painter.drawEllipse(centre, 9, 9)
        painter.setPen(QColor(255, 255, 255))
        painter.setFont(sans(9))
        number = str(view.session.selection.in_hand.index(name) + 1)
        painter.drawText(QRectF(centre.x() - 9, centre.y() - 9, 18, 18), Qt.AlignmentFlag.AlignCenter, number)


def draw_drag(view: "BoxPicture", painter: QPainter) -> None:
    assert view.pressed is not None and view.drag_at is not None
    target = view.spot_at(view.drag_at)
    if target is not None and target.place >= 0:
        painter.setPen(QPen(QColor(0, 0, 0), 2.0, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(view.rect_of(target).adjusted(-1, -1, 1, 1), 5, 5)
    paint_id = view.pressed[0].paint_id
    if paint_id is None:
        return
    rect = QRectF(view.drag_at.x() - 50, view.drag_at.y() - 24, 100, 54)
    painter.setOpacity(0.9)
    painter.setPen(QPen(QColor(0, 0, 0), 1.4))
    painter.setBrush(PAPER)
    painter.drawRoundedRect(rect, 4, 4)
    draw_in_well(view, painter, view.paints[paint_id], rect.adjusted(3, 3, -3, -2))
    painter.setOpacity(1.0)
