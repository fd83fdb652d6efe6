"""The board on which two to four sheets, palettes or boxes stand side by side."""

from dataclasses import dataclass
from enum import IntEnum

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QFontMetrics,
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

from culmo.core.chart.sheet import Sheet
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import mix
from culmo.desk.accessible import tell_current
from culmo.desk.drawing.looks import fill_read, qcolor
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.seen import Seen, see
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.side_model import (
    CHIPS,
    Compared,
    HueRow,
    PlaceRow,
    SideKind,
    SideSpot,
    by_hue,
    compared,
)
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, px, sans, text_scale
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import as_tip, draw_edge
from culmo.desk.zoom_tool import pixels_a_mm
from culmo.desk.zoom_view import ZoomView
from culmo.words import decimal, tr


class SideOrder(IntEnum):
    """By hue, mix by mix, place by place, or as they lie on the map."""

    HUE = 0
    MIX = 1
    PLACE = 2
    LIE = 3


_MOST_FINE = 220  # more cells than this are drawn as plain colour
_LABELS = 108.0
_ROW = 30.0
_MOST_ROWS = 400


@dataclass(frozen=True)
class _Drawn:
    """A colour where it is drawn, in usual lengths; its box may go beyond the column that it is seen in."""

    box: QRectF
    spot: SideSpot
    column: QRectF

    @property
    def seen(self) -> QRectF:
        """What is seen of it."""
        return self.box.intersected(self.column)


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
        self._strokes: dict[str, SideSpot] = {}  # of each paint whose stroke is drawn
        self._drawn: list[_Drawn] = []
        self._sheets: dict[int, Seen] = {}
        self._shares: dict[
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
        self.things, self.mode, self._sheets = things, mode, {}
        self.tool.setVisible(self.has_picture())
        self.hues = by_hue(things) if mode == SideOrder.HUE else []
        self._strokes = self._spots_of_paints() if mode == SideOrder.LIE else {}
        aligned = mode in (SideOrder.MIX, SideOrder.PLACE)
        self.places = compared(things, mode == SideOrder.MIX)[:_MOST_ROWS] if aligned else []
        rows = len(self.hues) if mode == SideOrder.HUE else len(self.places)
        self.setMinimumHeight(px(rows * _ROW + 8 if mode != SideOrder.LIE else 240))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(700), self.minimumHeight())

    def _columns(self) -> list[QRectF]:
        left = (
            0.0
            if self.mode == SideOrder.LIE
            else _LABELS
            if self.mode == SideOrder.HUE
            else 0.34 * usual_width(self)
        )
        width = (
            usual_width(self) - left - (54.0 if self.mode in (SideOrder.MIX, SideOrder.PLACE) else 0.0)
        ) / max(1, len(self.things))
        return [
            QRectF(left + i * width, 0.0, width - 8.0, usual_height(self)) for i in range(len(self.things))
        ]

    def _spots_of_paints(self) -> dict[str, SideSpot]:
        """The full wash of each paint of palettes and boxes, as it is predicted."""
        estimate = self.session.learning.estimate
        names = dict.fromkeys(
            name for one in self.things if one.choice.kind != SideKind.SHEET for name in one.paints
        )
        known = [name for name in names if estimate is not None and name.casefold() in estimate.index]
        if estimate is None or not known:
            return {}
        recipes = [mix([name]) for name in known]
        return {
            name: SideSpot("", recipe, (float(L), float(a), float(b)), recorded=False)
            for name, recipe, (L, a, b) in zip(known, recipes, predict_lab(estimate, recipes), strict=True)
        }

    # ---- looked at from nearer

    def has_picture(self) -> bool:
        return self.mode == SideOrder.LIE and bool(self.things)

    def base(self) -> QRectF:
        """The first column, in pixels of the widget; the others go along with it."""
        columns, scale = self._columns(), text_scale()
        if not columns:
            return QRectF(self.rect())
        first = columns[0]
        return QRectF(
            first.left() * scale, first.top() * scale, first.width() * scale, first.height() * scale
        )

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """All columns nearer or farther, about a point of any of them."""
        base = self.base()
        for place, column in enumerate(self._columns()) if about is not None else ():
            left = column.left() * text_scale()
            if about is not None and left <= about.x() < left + base.width():
                about = self._in_first(QRectF(about / text_scale(), QSizeF(0, 0)), column, place).topLeft()
                break
        super().zoom_by(factor, about)

    def _in_first(self, box: QRectF, column: QRectF, place: int) -> QRectF:
        """Where a part of a column would lie in the first one, at the first one's scale; in pixels of the widget."""
        scale, share, base = text_scale(), self._shares.get(place, 1.0), self.base()
        middle = column.center()
        corner = middle + (box.topLeft() - middle) / share - column.topLeft()
        return QRectF(corner * scale + base.topLeft(), box.size() * (scale / share))

    def true_factor(self) -> float:
        """How near the first sheet is as large as on paper."""
        first = next((i for i, thing in enumerate(self.things) if thing.choice.kind == SideKind.SHEET), None)
        if first is None or self.session.study is None:
            return 1.0
        fitted = _fitted(
            self._sheet(self.things[first]).record.sheet, self._columns()[first]
        ) * self._shares.get(first, 1.0)
        return pixels_a_mm(self) / (fitted * text_scale())

    def _sheet(self, thing: Compared) -> Seen:
        """A sheet with all that is known of it, looked up once while it is on view."""
        key = thing.choice.key
        if key not in self._sheets:
            self._sheets[key] = see(self.session.file, key, self.session.learning.estimate)
        return self._sheets[key]

    def _same_scale(self) -> dict[int, float]:
        """By which each sheet is drawn smaller than its column would have it, so that all are at one scale."""
        if self.mode != SideOrder.LIE or self.session.study is None:
            return {}
        columns = self._columns()
        fitted = {
            place: _fitted(self._sheet(thing).record.sheet, columns[place])
            for place, thing in enumerate(self.things) if thing.choice.kind == SideKind.SHEET
        }  # fmt: skip
        return {place: min(fitted.values()) / own for place, own in fitted.items()}

    def _placed(self, column: QRectF) -> QRectF:
        """Where a column's thing lies now, in usual lengths."""
        scale, base = text_scale(), self.base()
        place = self.zoom.place(base)
        moved = (place.topLeft() - base.topLeft()) / scale + column.topLeft()
        return QRectF(moved, place.size() / scale)

    # ---- as things: told, copied, dragged out, asked

    def thing_count(self) -> int:
        return len(self._drawn)

    def thing(self, place: int) -> Thing:
        spot = self._drawn[place].spot
        read = spot.lab if spot.recorded else None
        return mix_thing(self.session.learning.looks, spot.recipe, read=read)

    def thing_rect(self, place: int) -> QRectF:
        box, scale = self._drawn[place].seen, text_scale()
        return QRectF(box.left() * scale, box.top() * scale, box.width() * scale, box.height() * scale)

    def thing_at(self, at: QPointF) -> int:
        where = at / text_scale()
        return next((i for i, one in enumerate(self._drawn) if one.seen.contains(where)), NONE)

    def current_thing(self) -> int:
        return next((i for i, one in enumerate(self._drawn) if one.spot is self.current), NONE)

    def choose_thing(self, place: int) -> None:
        self._choose(self._drawn[place].spot if place != NONE else None)

    def _choose(self, spot: SideSpot | None) -> None:
        self.current = spot
        self.update()
        tell_current(self)
        self.chosen.emit(spot)

    # ---- drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._drawn = []
        if self.mode == SideOrder.HUE:
            self._draw_hues(painter)
        elif self.mode in (SideOrder.MIX, SideOrder.PLACE):
            self._draw_places(painter)
        else:
            self._draw_lying(painter)
        if self.current is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self.palette().color(QPalette.ColorRole.WindowText), 2.2))
            for one in self._drawn:
                same = self.mode == SideOrder.LIE and one.spot.place and one.spot.place == self.current.place
                if one.spot is self.current or same:
                    painter.setClipRect(one.column.adjusted(-3, -3, 3, 3))
                    painter.drawRect(one.box.adjusted(-2, -2, 2, 2))

    def _text(
        self, painter: QPainter, box: QRectF, text: str, soft: bool = False, right: bool = False
    ) -> None:
        font = sans(10.5)
        painter.setFont(font)
        role = QPalette.ColorRole.PlaceholderText if soft else QPalette.ColorRole.WindowText
        painter.setPen(self.palette().color(role))
        text = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | side, text)

    def _chip(self, painter: QPainter, box: QRectF, spot: SideSpot) -> None:
        if spot.recorded:
            fill_read(painter, box, spot.lab, self.session.learning.looks, spot.patch)
        else:
            painter.fillRect(box, qcolor(spot.lab))
        draw_edge(painter, box, spot.recorded)
        self._drawn.append(_Drawn(box, spot, box))

    def _draw_hues(self, painter: QPainter) -> None:
        for number, row in enumerate(self.hues):
            y = number * _ROW
            self._text(painter, QRectF(0, y, _LABELS - 8, _ROW), row.title)
            for column, spots in zip(self._columns(), row.spots, strict=True):
                width = column.width() / CHIPS
                if not spots:
                    self._text(painter, QRectF(column.left(), y, column.width(), _ROW), tr("none"), soft=True)
                for i, spot in enumerate(spots):
                    box = QRectF(column.left() + i * width + 1, y + 3, width - 3, _ROW - 6)
                    self._chip(painter, box, spot)

    def _draw_places(self, painter: QPainter) -> None:
        columns = self._columns()
        for number, row in enumerate(self.places):
            y = number * _ROW
            self._text(painter, QRectF(0, y, columns[0].left() - 10, _ROW), row.words)
            for column, spot in zip(columns, row.spots, strict=True):
                if spot is not None:
                    self._chip(painter, QRectF(column.left(), y + 3, column.width(), _ROW - 6), spot)
            self._text(
                painter, QRectF(usual_width(self) - 50, y, 46, _ROW), decimal(f"{row.away:.1f}"), right=True
            )

    def _draw_lying(self, painter: QPainter) -> None:
        self._shares = self._same_scale()
        for place, (column, thing) in enumerate(zip(self._columns(), self.things, strict=True)):
            painter.save()
            painter.setClipRect(column)
            if thing.choice.kind == SideKind.SHEET and self.session.study is not None:
                self._draw_sheet(painter, column, thing, self._shares.get(place, 1.0))
            else:
                self._draw_strokes(painter, column, thing)
            painter.restore()

    def _draw_sheet(self, painter: QPainter, column: QRectF, thing: Compared, share: float) -> None:
        seen = self._sheet(thing)
        sheet, looks = seen.record.sheet, seen.looks
        box, middle = _inside(self._placed(column)), column.center()
        # smaller about the middle of the column, so that the same place of all sheets is seen there
        transform, _ = sheet_transform(
            sheet, QRectF(middle + (box.topLeft() - middle) * share, box.size() * share)
        )
        painter.save()
        painter.setTransform(transform, True)
        painter.fillRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm), PAPER)
        quick = sum(len(one.spots) for one in self.things) > _MOST_FINE
        style = SheetStyle(looks=looks, quick=quick, pixels_per_mm=transform.m11() * fine_ratio(self))
        draw_sheet(painter, sheet, self.session.learning.looks, style)
        painter.restore()
        by_id = {cell.id: cell for cell in sheet.cells}
        for spot in thing.spots:
            cell = by_id.get(spot.place)
            if cell is not None:
                x, y, width, height = cell.box_mm
                self._drawn.append(_Drawn(transform.mapRect(QRectF(x, y, width, height)), spot, column))

    def _draw_strokes(self, painter: QPainter, column: QRectF, thing: Compared) -> None:
        looks, ratio, near = self.session.learning.looks, fine_ratio(self), self.zoom.factor
        place = self._placed(column)
        height = min(44.0 * near, (place.height() - 8.0) / max(1, len(thing.paints)) - 18.0)
        for i, name in enumerate(thing.paints):
            box = QRectF(
                place.left(), place.top() + 4 + i * (height + 18.0),
                min(place.width(), 150.0 * near), max(height, 10.0),
            )  # fmt: skip
            painter.fillRect(box, PAPER)
            draw_paint(painter, looks, name, box, ratio, ratio)
            # the name stays on view where the stroke's begin does not
            left = max(box.left(), column.left())
            self._text(painter, QRectF(left, box.bottom(), column.right() - left, 18), name)
            if name in self._strokes:
                self._drawn.append(_Drawn(box, self._strokes[name], column))

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
        return next((one.spot for one in self._drawn if one.seen.contains(where)), None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and self._drawn:
            self._step(Qt.Key(key))
        elif not self.take_key(event):
            super().keyPressEvent(event)

    def _step(self, key: Qt.Key) -> None:
        at = next((one.box.center() for one in self._drawn if one.spot is self.current), QPointF(-1.0, -1.0))
        dx = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key, 0)
        dy = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key, 0)

        def cost(box: QRectF) -> float:
            step = box.center() - at
            along, aside = step.x() * dx + step.y() * dy, abs(step.x() * dy) + abs(step.y() * dx)
            return along + 4.0 * aside if along > 1.0 else float("inf")

        nearest = min(self._drawn, key=lambda one: cost(one.box))
        if self.current is None:
            nearest = next((one for one in self._drawn if not one.seen.isEmpty()), self._drawn[0])
        elif cost(nearest.box) == float("inf"):
            return
        self._choose(nearest.spot)
        if self.zoom.is_near:
            self._bring_into_view(nearest)

    def _bring_into_view(self, one: _Drawn) -> None:
        """Draw all columns about until a colour is seen whole."""
        place = next(i for i, column in enumerate(self._columns()) if column == one.column)
        self.zoom.show(self._in_first(one.box, one.column, place), self.base())


def _inside(column: QRectF) -> QRectF:
    """Where a sheet lies in its column."""
    return column.adjusted(2, 4, -2, -4)


def _fitted(sheet: Sheet, column: QRectF) -> float:
    """Usual lengths a millimetre of a sheet that fills its column."""
    return sheet_transform(sheet, _inside(column))[1]
