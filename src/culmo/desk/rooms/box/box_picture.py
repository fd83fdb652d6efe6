"""The box as it lies on the table: its wells with their strokes, and beside it the paints that lie in no well."""

from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from culmo.core.paint.recipe import mix
from culmo.desk.accessible import tell_current
from culmo.desk.drawn import usual_height, usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.box_drawing import Spot, draw_drag, draw_lid, draw_tile, draw_well
from culmo.desk.session import Session
from culmo.desk.theme import px, sans, text_scale
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import ARROWS, nearest
from culmo.study.box_records import Box
from culmo.study.records import Paint
from culmo.words import tr

_TILE = QSize(132, 62)
_TILE_GAP = 8
_HEAD = 26
_DRAG_FROM = 6
_LARGEST = 11.0  # pixels for a millimetre


def tile_columns(view: QWidget) -> int:
    """How many of the paints that lie beside a box stand in a row."""
    return max(1, (usual_width(view) - 8) // (_TILE.width() + _TILE_GAP))


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
        self.pressed: tuple[Spot, QPointF] | None = None
        self.drag_at: QPointF | None = None
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
        laid = (self.box.paints.get(place) for place in range(self.box.shape.count))
        wells = [
            Spot(place, paint_id if paint_id in self.paints else None) for place, paint_id in enumerate(laid)
        ]
        held = {spot.paint_id for spot in wells}
        spots = wells + [Spot(-1, paint_id) for paint_id in self.paints if paint_id not in held]
        self._laid = (self.box, self.paints, spots)
        return spots

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

    def box_rect(self) -> QRectF:
        assert self.box is not None
        width, height = (side * self._scale() for side in self.box.shape.size_mm)
        return QRectF(max(4.0, (usual_width(self) - width) / 2), 8, width, height)

    def _beside_top(self) -> float:
        return self.box_rect().bottom() + 18 if self.box is not None else 0.0

    def _beside_height(self) -> float:
        beside = sum(spot.place < 0 for spot in self.spots())
        rows = -(-max(beside, 1) // tile_columns(self))
        return _HEAD + rows * (_TILE.height() + _TILE_GAP)

    def rect_of(self, spot: Spot) -> QRectF:
        """Where a spot is drawn."""
        assert self.box is not None
        if spot.place >= 0:
            x, y, width, height = (side * self._scale() for side in self.box.shape.well_mm(spot.place))
            corner = self.box_rect().topLeft()
            return QRectF(corner.x() + x, corner.y() + y, width, height)
        beside = [other for other in self.spots() if other.place < 0]
        row, column = divmod(beside.index(spot), tile_columns(self))
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
        draw_lid(self, painter)
        text = self.palette().windowText().color()
        for spot in self.spots():
            if spot.place >= 0:
                draw_well(self, painter, spot)
            else:
                draw_tile(self, painter, spot)
        painter.setPen(text)
        painter.setFont(sans(10.5))
        beside = any(spot.place < 0 for spot in self.spots())
        words = tr("Beside the box: drag into a well") if beside else tr("Every paint lies in this box")
        painter.drawText(QPointF(4, self._beside_top() + 14), words)
        if self.pressed is not None and self.drag_at is not None:
            draw_drag(self, painter)

    # ---- mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(usual_place(event))
        if event.button() != Qt.MouseButton.LeftButton or spot is None:
            return
        if spot.place < 0 and spot.paint_id is None:
            return
        self.pressed = (spot, usual_place(event))
        self._choose(spot)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.pressed is None or self.pressed[0].paint_id is None:
            return
        if self.drag_at is not None or (usual_place(event) - self.pressed[1]).manhattanLength() > _DRAG_FROM:
            self.drag_at = usual_place(event)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragged = self.pressed, self.drag_at is not None
        self.pressed, self.drag_at = None, None
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
            target = nearest({spot: self.rect_of(spot).center() for spot in spots}, here, step)
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
