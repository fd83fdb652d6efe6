"""The box as it lies on the table: its wells with their strokes, and beside it the paints that lie in no well."""

from dataclasses import dataclass, replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from culmo.core.paint.recipe import mix
from culmo.desk.accessible import tell_current
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, PENCIL, px, sans, text_scale
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import ARROWS
from culmo.study.box_records import Box
from culmo.study.records import Paint
from culmo.words import tr

_TILE = QSize(132, 62)
_TILE_GAP = 8
_HEAD = 26
_DRAG_FROM = 6
_LARGEST = 11.0  # pixels for a millimetre


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


@guarded
class BoxPicture(QWidget):
    """Draws one box; paints are dragged from well to well, or moved with Ctrl and the arrow keys."""

    selected = Signal(object)
    moved = Signal(object, object)
    activated = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.box: Box | None = None
        self.paints: dict[int, Paint] = {}
        self.current: Spot | None = None
        # worked out once for a box and a width; many places ask at every drawing
        self._laid: tuple[Box, dict[int, Paint], list[Spot]] | None = None
        self._scaled: tuple[tuple[int, int], float] | None = None
        self._pressed: tuple[Spot, QPointF] | None = None
        self._drag_at: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(False)
        self.setAccessibleName(tr("Box"))

    # ---- what is shown

    def show_box(self, box: Box | None, paints: list[Paint]) -> None:
        """Show a box and, beside it, the paints that are not in it."""
        self.box, self.paints = box, {paint.id: paint for paint in paints}
        self._laid = self._scaled = None
        spots = self.spots()
        if self.current is not None:
            wanted = self.current
            self.current = next(
                (s for s in spots if wanted.paint_id is not None and s.paint_id == wanted.paint_id),
                next((s for s in spots if s.place == wanted.place and s.place >= 0), None),
            )
        self.setMinimumHeight(px(self._beside_top() + self._beside_height() + 8 if box is not None else 200))
        self.update()

    def select_paint(self, paint_id: int | None) -> None:
        """Select a paint wherever it lies, without telling."""
        if paint_id is not None:
            self.current = next((spot for spot in self.spots() if spot.paint_id == paint_id), None)
        elif self.current is not None and self.current.paint_id is not None:
            self.current = None  # an empty well stays selected: the new paint will lie there
        self.update()

    def spots(self) -> list[Spot]:
        """All places, well after well, then those beside the box."""
        if self.box is None:
            return []
        if self._laid is not None and self._laid[0] is self.box and self._laid[1] is self.paints:
            return self._laid[2]
        wells = [Spot(place, self._in_well(place)) for place in range(self.box.shape.count)]
        held = {spot.paint_id for spot in wells}
        spots = wells + [Spot(-1, paint_id) for paint_id in self.paints if paint_id not in held]
        self._laid = (self.box, self.paints, spots)
        return spots

    def _in_well(self, place: int) -> int | None:
        assert self.box is not None
        paint_id = self.box.paints.get(place)
        return paint_id if paint_id in self.paints else None

    # ---- its wells, as they are told, copied and dragged out

    def thing_count(self) -> int:
        return len(self.spots())

    def thing(self, place: int) -> Thing:
        spot = self.spots()[place]
        well = tr("well {n}", n=spot.place + 1) if spot.place >= 0 else tr("beside the box")
        if spot.paint_id is None:
            return Thing(tr("Empty"), state=well)
        paint = self.paints[spot.paint_id]
        thing = mix_thing(self.session.learning.looks, mix([paint.name]), paint.name)
        wished = paint.status == "wished"
        return replace(thing, state=tr("{well}, considered", well=well) if wished else well)

    def thing_rect(self, place: int) -> QRectF:
        box = self.rect_of(self.spots()[place])
        return QRectF(px(box.left()), px(box.top()), px(box.width()), px(box.height()))

    def thing_at(self, at: QPointF) -> int:
        spot, spots = self.spot_at(at / text_scale()), self.spots()
        return spots.index(spot) if spot in spots else NONE

    def current_thing(self) -> int:
        spots = self.spots()
        return spots.index(self.current) if self.current in spots else NONE

    def choose_thing(self, place: int) -> None:
        self._choose(self.spots()[place])

    # ---- geometry

    def _scale(self) -> float:
        assert self.box is not None
        holder = self.parentWidget()
        seen = usual_height(holder if holder is not None else self)
        key = (usual_width(self), seen)
        if self._scaled is None or self._scaled[0] != key:
            self._scaled = (key, self._fitted(seen))
        return self._scaled[1]

    def _fitted(self, seen: int) -> float:
        """Pixels a millimetre at which the box and what lies beside it are seen at one glance."""
        assert self.box is not None
        width, height = self.box.shape.size_mm
        free = max(seen - self._beside_height() - 44, 200)
        return max(2.4, min(_LARGEST, (usual_width(self) - 24) / width, free / height))

    def _box_rect(self) -> QRectF:
        assert self.box is not None
        width, height = (side * self._scale() for side in self.box.shape.size_mm)
        return QRectF(max(4.0, (usual_width(self) - width) / 2), 8, width, height)

    def _beside_top(self) -> float:
        return self._box_rect().bottom() + 18 if self.box is not None else 0.0

    def _columns(self) -> int:
        return max(1, (usual_width(self) - 8) // (_TILE.width() + _TILE_GAP))

    def _beside_height(self) -> float:
        beside = sum(spot.place < 0 for spot in self.spots())
        rows = -(-max(beside, 1) // self._columns())
        return _HEAD + rows * (_TILE.height() + _TILE_GAP)

    def rect_of(self, spot: Spot) -> QRectF:
        """Where a spot is drawn."""
        assert self.box is not None
        if spot.place >= 0:
            x, y, width, height = (side * self._scale() for side in self.box.shape.well_mm(spot.place))
            corner = self._box_rect().topLeft()
            return QRectF(corner.x() + x, corner.y() + y, width, height)
        beside = [other for other in self.spots() if other.place < 0]
        row, column = divmod(beside.index(spot), self._columns())
        left = 4 + column * (_TILE.width() + _TILE_GAP)
        top = self._beside_top() + _HEAD + row * (_TILE.height() + _TILE_GAP)
        return QRectF(left, top, _TILE.width(), _TILE.height())

    def spot_at(self, at: QPointF) -> Spot | None:
        """The spot under a point; beside the box, a free place is a spot without a paint."""
        if self.box is None:
            return None
        for spot in self.spots():
            if self.rect_of(spot).adjusted(-2, -2, 2, 2).contains(at):
                return spot
        return Spot(-1, None) if at.y() > self._beside_top() else None

    def resizeEvent(self, _: object) -> None:
        if self.box is not None:
            self.setMinimumHeight(px(self._beside_top() + self._beside_height() + 8))

    # ---- drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.box is None:
            return
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_lid(painter)
        text = self.palette().windowText().color()
        for spot in self.spots():
            if spot.place >= 0:
                self._draw_well(painter, spot)
            else:
                self._draw_tile(painter, spot)
        painter.setPen(text)
        painter.setFont(sans(10.5))
        beside = any(spot.place < 0 for spot in self.spots())
        words = tr("Beside the box: drag into a well") if beside else tr("Every paint lies in this box")
        painter.drawText(QPointF(4, self._beside_top() + 14), words)
        if self._pressed is not None and self._drag_at is not None:
            self._draw_drag(painter)

    def _draw_lid(self, painter: QPainter) -> None:
        """The tin: a rolled rim and the enamel inside."""
        rect = self._box_rect()
        painter.setPen(QPen(QColor(120, 120, 120), 1.4))
        painter.setBrush(QColor(206, 206, 206))
        painter.drawRoundedRect(rect.adjusted(-4, -4, 4, 4), 9, 9)
        painter.setPen(QPen(QColor(168, 168, 168), 1.0))
        painter.setBrush(QColor(226, 226, 226))
        painter.drawRoundedRect(rect, 5, 5)

    def _draw_well(self, painter: QPainter, spot: Spot) -> None:
        rect = self.rect_of(spot)
        empty = spot.paint_id is None
        painter.setPen(QPen(QColor(176, 176, 176) if empty else QColor(150, 150, 150), 1.0))
        painter.setBrush(QColor(216, 216, 216) if empty else PAPER)
        painter.drawRoundedRect(rect, 4, 4)
        if spot.paint_id is not None:
            self._draw_paint(painter, self.paints[spot.paint_id], rect.adjusted(3, 3, -3, -3))
        self._draw_marks(painter, spot, rect)

    def _draw_tile(self, painter: QPainter, spot: Spot) -> None:
        assert spot.paint_id is not None
        rect, paint = self.rect_of(spot), self.paints[spot.paint_id]
        if paint.status == "wished":  # planned, so in pencil
            pen = QPen(PENCIL, 1.0, Qt.PenStyle.CustomDashLine)
            pen.setDashPattern([4.0, 3.0])
            painter.setPen(pen)
        else:
            painter.setPen(QPen(QColor(170, 170, 170), 1.0))
        painter.setBrush(PAPER)
        painter.drawRoundedRect(rect, 4, 4)
        self._draw_paint(painter, paint, rect.adjusted(3, 3, -3, -2))
        self._draw_marks(painter, spot, rect)

    def _draw_paint(self, painter: QPainter, paint: Paint, rect: QRectF) -> None:
        lines = 2 if rect.height() > 74 else 1
        size = 10.0 if rect.width() > 74 else 9.0
        stroke = QRectF(rect.left(), rect.top(), rect.width(), rect.height() - (17 if lines == 1 else 34))
        wide = 2.6 * stroke.height()
        if stroke.width() < wide:  # a stroke keeps its proportions in a tall well
            tall = min(max(stroke.width() / 1.35, 20.0), stroke.height())
            stroke = QRectF(stroke.left(), stroke.top() + (stroke.height() - tall) / 2, stroke.width(), tall)
        looks, ratio = self.session.learning.looks, fine_ratio(self)
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

    def _draw_marks(self, painter: QPainter, spot: Spot, rect: QRectF) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if spot == self.current:
            painter.setPen(QPen(QColor(0, 0, 0), 3.0 if self.hasFocus() else 2.2))
            painter.drawRoundedRect(rect.adjusted(-1, -1, 1, 1), 5, 5)
        name = self.paints[spot.paint_id].name if spot.paint_id is not None else ""
        if name in self.session.selection.in_hand:
            centre = QPointF(rect.right() - 9, rect.top() + 9)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(24, 24, 24))
            painter.drawEllipse(centre, 9, 9)
            painter.setPen(QColor(255, 255, 255))
            painter.setFont(sans(9))
            number = str(self.session.selection.in_hand.index(name) + 1)
            painter.drawText(
                QRectF(centre.x() - 9, centre.y() - 9, 18, 18), Qt.AlignmentFlag.AlignCenter, number
            )

    def _draw_drag(self, painter: QPainter) -> None:
        assert self._pressed is not None and self._drag_at is not None
        target = self.spot_at(self._drag_at)
        if target is not None and target.place >= 0:
            painter.setPen(QPen(QColor(0, 0, 0), 2.0, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.rect_of(target).adjusted(-1, -1, 1, 1), 5, 5)
        paint_id = self._pressed[0].paint_id
        if paint_id is None:
            return
        rect = QRectF(self._drag_at.x() - 50, self._drag_at.y() - 24, 100, 54)
        painter.setOpacity(0.9)
        painter.setPen(QPen(QColor(0, 0, 0), 1.4))
        painter.setBrush(PAPER)
        painter.drawRoundedRect(rect, 4, 4)
        self._draw_paint(painter, self.paints[paint_id], rect.adjusted(3, 3, -3, -2))
        painter.setOpacity(1.0)

    # ---- mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(usual_place(event))
        if event.button() != Qt.MouseButton.LeftButton or spot is None:
            return
        if spot.place < 0 and spot.paint_id is None:
            return
        self._pressed = (spot, usual_place(event))
        self._choose(spot)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or self._pressed[0].paint_id is None:
            return
        if (
            self._drag_at is not None
            or (usual_place(event) - self._pressed[1]).manhattanLength() > _DRAG_FROM
        ):
            self._drag_at = usual_place(event)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragged = self._pressed, self._drag_at is not None
        self._pressed, self._drag_at = None, None
        self.unsetCursor()
        self.update()
        if pressed is not None and dragged:
            target = self.spot_at(usual_place(event))
            if target is not None and target != pressed[0]:
                self.moved.emit(pressed[0], target)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(usual_place(event))
        if spot is not None and (spot.place >= 0 or spot.paint_id is not None):
            self.activated.emit(spot)

    # ---- keys

    def _choose(self, spot: Spot) -> None:
        self.current = spot
        self.update()
        tell_current(self)
        self.selected.emit(spot)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        spots = self.spots()
        if not spots:
            super().keyPressEvent(event)
            return
        here = self.current if self.current in spots else None
        carrying = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if step is not None:
            target = self._next(here, step) if here is not None else spots[0]
            if carrying and here is not None and here.paint_id is not None and target != here:
                self.moved.emit(here, target)
            elif not carrying:
                self._choose(target)
        elif (
            event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and here is not None and here.place >= 0
        ):
            if here.paint_id is not None:
                self.moved.emit(here, Spot(-1, None))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and here is not None:
            self.activated.emit(here)
        elif event.key() == Qt.Key.Key_Space and here is not None and here.paint_id is not None:
            self.session.selection.toggle_in_hand(self.paints[here.paint_id].name)
        else:
            super().keyPressEvent(event)

    def _next(self, here: Spot, step: tuple[int, int]) -> Spot:
        """The nearest spot in a direction."""
        centre = self.rect_of(here).center()
        best, best_cost = here, float("inf")
        for spot in self.spots():
            way = self.rect_of(spot).center() - centre
            ahead = way.x() * step[0] + way.y() * step[1]
            aside = abs(way.x() * step[1]) + abs(way.y() * step[0])
            if ahead > 1.0 and ahead + 3.0 * aside < best_cost:
                best, best_cost = spot, ahead + 3.0 * aside
        return best
