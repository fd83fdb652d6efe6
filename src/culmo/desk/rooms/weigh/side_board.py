"""The board on which two to four sheets, palettes or boxes stand side by side."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPalette,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import (
    QSizePolicy,
)

from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import mix
from culmo.desk.accessible import tell_current
from culmo.desk.drawing.seen import Seen, see
from culmo.desk.drawn import usual_height, usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.side_drawing import (
    LABELS,
    ROW,
    DrawnColour,
    draw_hues,
    draw_lying,
    draw_places,
    fitted_scale,
)
from culmo.desk.rooms.weigh.side_model import (
    Compared,
    HueRow,
    PlaceRow,
    SideKind,
    SideOrder,
    SideSpot,
    by_hue,
    compared,
)
from culmo.desk.session import Session
from culmo.desk.theme import px, text_scale
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import as_tip
from culmo.desk.zoom_tool import pixels_a_mm
from culmo.desk.zoom_view import ZoomView
from culmo.words import tr

_MOST_ROWS = 400


class SeenSheets:
    """Sheets with all that is known of them, looked up once while they are on view."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._seen: dict[int, Seen] = {}

    def of(self, thing: Compared) -> Seen:
        """That of a thing that is a sheet."""
        key = thing.choice.key
        if key not in self._seen:
            self._seen[key] = see(self._session.file, key, self._session.learning.estimate)
        return self._seen[key]

    def forget(self) -> None:
        """Others are looked at, or more is known."""
        self._seen = {}


def spots_of_paints(estimate: Estimate | None, things: Sequence[Compared]) -> dict[str, SideSpot]:
    """The full wash of each paint of palettes and boxes, as it is predicted."""
    names = dict.fromkeys(name for one in things if one.choice.kind != SideKind.SHEET for name in one.paints)
    known = [name for name in names if estimate is not None and name.casefold() in estimate.index]
    if estimate is None or not known:
        return {}
    recipes = [mix([name]) for name in known]
    return {
        name: SideSpot("", recipe, (float(L), float(a), float(b)), recorded=False)
        for name, recipe, (L, a, b) in zip(known, recipes, predict_lab(estimate, recipes), strict=True)
    }


@guarded
class SideBoard(ZoomView):
    """The aligned colours, or the things as they lie: all of these are looked at from nearer at once, at the same place."""

    chosen = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.mode = SideOrder.HUE
        self.things: list[Compared] = []
        self.hues: list[HueRow] = []
        self.places: list[PlaceRow] = []
        self.current: SideSpot | None = None
        self.strokes: dict[str, SideSpot] = {}  # of each paint whose stroke is drawn
        self.drawn: list[DrawnColour] = []
        self.sheets = SeenSheets(session)
        self.shares: dict[
            int, float
        ] = {}  # by which a sheet is smaller than it might be, for the sake of the others
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Things side by side"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)

    def show_things(self, things: list[Compared], mode: SideOrder) -> None:
        """Show other things, or in another way."""
        if mode != self.mode or [one.choice for one in things] != [one.choice for one in self.things]:
            self.zoom.fit()
        self.things, self.mode = things, mode
        self.sheets.forget()
        self.tool.setVisible(self.has_picture())
        self.hues = by_hue(things) if mode == SideOrder.HUE else []
        self.strokes = (
            spots_of_paints(self.session.learning.estimate, self.things) if mode == SideOrder.LIE else {}
        )
        aligned = mode in (SideOrder.MIX, SideOrder.PLACE)
        self.places = compared(things, mode == SideOrder.MIX)[:_MOST_ROWS] if aligned else []
        rows = len(self.hues) if mode == SideOrder.HUE else len(self.places)
        self.setMinimumHeight(px(rows * ROW + 8 if mode != SideOrder.LIE else 240))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(700), self.minimumHeight())

    def columns(self) -> list[QRectF]:
        """Where each thing stands, in usual lengths."""
        lefts = {SideOrder.LIE: 0.0, SideOrder.HUE: LABELS}
        left = lefts.get(self.mode, 0.34 * usual_width(self))
        right = 54.0 if self.mode in (SideOrder.MIX, SideOrder.PLACE) else 0.0
        width = (usual_width(self) - left - right) / max(1, len(self.things))
        return [
            QRectF(left + i * width, 0.0, width - 8.0, usual_height(self)) for i in range(len(self.things))
        ]

    # ---- looked at from nearer

    def has_picture(self) -> bool:
        return self.mode == SideOrder.LIE and bool(self.things)

    def base(self) -> QRectF:
        """The first column, in pixels of the widget; the others go along with it."""
        columns, scale = self.columns(), text_scale()
        if not columns:
            return QRectF(self.rect())
        first = columns[0]
        return QRectF(
            first.left() * scale, first.top() * scale, first.width() * scale, first.height() * scale
        )

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """All columns nearer or farther, about a point of any of them."""
        base = self.base()
        for place, column in enumerate(self.columns()) if about is not None else ():
            left = column.left() * text_scale()
            if about is not None and left <= about.x() < left + base.width():
                about = self._in_first(QRectF(about / text_scale(), QSizeF(0, 0)), column, place).topLeft()
                break
        super().zoom_by(factor, about)

    def _in_first(self, box: QRectF, column: QRectF, place: int) -> QRectF:
        """Where a part of a column would lie in the first one, at the first one's scale; in pixels of the widget."""
        scale, share, base = text_scale(), self.shares.get(place, 1.0), self.base()
        middle = column.center()
        corner = middle + (box.topLeft() - middle) / share - column.topLeft()
        return QRectF(corner * scale + base.topLeft(), box.size() * (scale / share))

    def true_factor(self) -> float:
        """How near the first sheet is as large as on paper."""
        first = next((i for i, thing in enumerate(self.things) if thing.choice.kind == SideKind.SHEET), None)
        if first is None or self.session.study is None:
            return 1.0
        fitted = fitted_scale(
            self.sheets.of(self.things[first]).record.sheet, self.columns()[first]
        ) * self.shares.get(first, 1.0)
        return pixels_a_mm(self) / (fitted * text_scale())

    # ---- as things: told, copied, dragged out, asked

    def thing_count(self) -> int:
        return len(self.drawn)

    def thing(self, place: int) -> Thing:
        spot = self.drawn[place].spot
        read = spot.lab if spot.recorded else None
        return mix_thing(self.session.learning.looks, spot.recipe, read=read)

    def thing_rect(self, place: int) -> QRectF:
        box, scale = self.drawn[place].seen, text_scale()
        return QRectF(box.left() * scale, box.top() * scale, box.width() * scale, box.height() * scale)

    def thing_at(self, at: QPointF) -> int:
        where = at / text_scale()
        return next((i for i, one in enumerate(self.drawn) if one.seen.contains(where)), NONE)

    def current_thing(self) -> int:
        return next((i for i, one in enumerate(self.drawn) if one.spot is self.current), NONE)

    def choose_thing(self, place: int) -> None:
        self._choose(self.drawn[place].spot if place != NONE else None)

    def _choose(self, spot: SideSpot | None) -> None:
        self.current = spot
        self.update()
        tell_current(self)
        self.chosen.emit(spot)

    # ---- drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.drawn = []
        if self.mode == SideOrder.HUE:
            draw_hues(self, painter)
        elif self.mode in (SideOrder.MIX, SideOrder.PLACE):
            draw_places(self, painter)
        else:
            draw_lying(self, painter)
        if self.current is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self.palette().color(QPalette.ColorRole.WindowText), 2.2))
            for one in self.drawn:
                same = self.mode == SideOrder.LIE and one.spot.place and one.spot.place == self.current.place
                if one.spot is self.current or same:
                    painter.setClipRect(one.column.adjusted(-3, -3, 3, 3))
                    painter.drawRect(one.box.adjusted(-2, -2, 2, 2))

    # ---- mouse and keys

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.drawn_by(event):
            return
        spot = self._at(usual_place(event))
        self.setToolTip(as_tip(spot.words) if spot is not None else "")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if left and self.zoom.is_near:
            self.begin_drawing_about(event)  # what was only pressed is chosen when the hand lets go
            return
        spot = self._at(usual_place(event))
        self._from = event.position() if left and spot is not None else None
        self._choose(spot)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        if self.end_drawing_about():
            self._choose(self._at(usual_place(event)))

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.has_picture():
            super().wheelEvent(event)
        else:
            event.ignore()  # the rows are scrolled

    def _at(self, where: QPointF) -> SideSpot | None:
        return next((one.spot for one in self.drawn if one.seen.contains(where)), None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and self.drawn:
            self._step(Qt.Key(key))
        elif not self.take_key(event):
            super().keyPressEvent(event)

    def _step(self, key: Qt.Key) -> None:
        at = next((one.box.center() for one in self.drawn if one.spot is self.current), QPointF(-1.0, -1.0))
        dx = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key, 0)
        dy = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key, 0)

        def cost(box: QRectF) -> float:
            step = box.center() - at
            along, aside = step.x() * dx + step.y() * dy, abs(step.x() * dy) + abs(step.y() * dx)
            return along + 4.0 * aside if along > 1.0 else float("inf")

        nearest = min(self.drawn, key=lambda one: cost(one.box))
        if self.current is None:
            nearest = next((one for one in self.drawn if not one.seen.isEmpty()), self.drawn[0])
        elif cost(nearest.box) == float("inf"):
            return
        self._choose(nearest.spot)
        if self.zoom.is_near:
            self._bring_into_view(nearest)

    def _bring_into_view(self, one: DrawnColour) -> None:
        """Draw all columns about until a colour is seen whole."""
        place = next(i for i, column in enumerate(self.columns()) if column == one.column)
        self.zoom.show(self._in_first(one.box, one.column, place), self.base())
