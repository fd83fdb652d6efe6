"""The sheet on the screen, to scale; a click or the arrow keys select a cell."""

from collections.abc import Callable, Generator, Mapping
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
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
    QResizeEvent,
    QTransform,
)
from PySide6.QtWidgets import QSizePolicy

from culmo.core.chart.cover import Cover
from culmo.core.chart.sheet import Cell, Sheet
from culmo.desk.accessible import tell_current
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import SheetStyle, drawing_sheet, sheet_transform
from culmo.desk.guard import guarded
from culmo.desk.jobs import Runner
from culmo.desk.rulers import draw_rulers, ruler_width
from culmo.desk.theme import INK, PAPER, PENCIL, px, sans, scaled
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import ARROWS
from culmo.desk.zoom_tool import draw_labels_at_edges, pixels_a_mm
from culmo.desk.zoom_view import ZoomView
from culmo.words import tr

_ROOMY = 9  # places of a wheel between whose windows there is room for a word


def nearest(places: Mapping[str, QPointF], current: str, step: tuple[int, int]) -> str:
    """The nearest cell in a direction; the first where none is current, the current one where there is none.

    Parameters
    ----------
    places : mapping from cell id to its middle, not empty
    current : str, a cell id, or an empty text
    step : tuple of right and down, each -1, 0 or 1
    """
    if current not in places:
        return next(iter(places))
    best, best_cost = current, float("inf")
    for cell_id, place in places.items():
        way = place - places[current]
        ahead = way.x() * step[0] + way.y() * step[1]
        aside = abs(way.x() * step[1]) + abs(way.y() * step[0])
        if ahead > 1.0 and ahead + 3.0 * aside < best_cost:
            best, best_cost = cell_id, ahead + 3.0 * aside
    return best


def cell_thing(cell: Cell, look: CellLook, looks: Looks | None) -> Thing:
    """A cell of a sheet, with its colour and how it stands.

    Parameters
    ----------
    cell : Cell
    look : CellLook
    looks : Looks, or None while nothing is known
    """
    if look.recorded is not None:
        state = tr("read, to be doubted") if look.doubtful else tr("read")
    else:
        state = tr("painted") if look.painted else tr("planned")
    if look.keeper:
        state = tr("{state}, keeper", state=state)
    known = looks if cell.plain else None  # of others the recipe does not say all
    found = mix_thing(known, cell.recipe, read=look.recorded, state=state, ground=cell.ground)
    return replace(found, cell_id=cell.id)


def _picturing(
    sheet: Sheet, looks: Looks | None, style: SheetStyle, area: QRectF, size: QSize, ratio: float
) -> Generator[float, None, QImage]:
    """The sheet on its paper as a picture of a widget's size; yields how far it is."""
    picture = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    try:
        transform, scale = sheet_transform(sheet, area)
        page = transform.mapRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm))
        painter.fillRect(page.translated(3, 3), QColor(0, 0, 0, 28))
        painter.fillRect(page, QColor(style.ground) if style.ground else PAPER)
        painter.setTransform(transform, True)
        paper = QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm)
        painter.setClipRect(paper)
        seen = transform.inverted()[0].mapRect(QRectF(QPointF(0, 0), QSizeF(size)))
        own = replace(style, pixels_per_mm=scale * ratio, selected="", seen=seen.intersected(paper))
        yield from drawing_sheet(painter, sheet, looks, own)
    finally:
        painter.end()
    return picture


@guarded
class SheetView(ZoomView):
    """Draws one sheet; the picture stands until the next is drawn."""

    selected = Signal(str)
    activated = Signal(str)
    turned = Signal(int)  # a wheel's cover shows another place

    def __init__(self, runner: Runner, empty_text: str = "") -> None:
        super().__init__()
        self.runner = runner
        self.sheet: Sheet | None = None
        self.looks: Looks | None = None
        self.style_ = SheetStyle()
        self.current = ""
        self.empty_text = empty_text
        self.cover: Cover | None = None
        self.overlays: list[Callable[[QPainter], None]] = []  # what others draw over the sheet
        self.ruled_in = ""  # the unit of the rulers; empty where there are none
        self.turn = 0.0  # of the cover, in places
        self._held: tuple[float, float] | None = (
            None  # where the hand took the cover, and how it was turned then
        )
        self._picture: QImage | None = None
        self._pictured = QRectF()  # where the sheet lay when it was drawn
        self._stale = True  # the last picture stands until the new one is drawn
        self._key = f"draw {id(self)}"
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(px(200), px(140))
        self.setAccessibleName(tr("Sheet"))

    def sizeHint(self) -> QSize:
        return QSize(700, 480)

    # ---- its cells, as they are told, copied and dragged out

    def thing_count(self) -> int:
        return len(self.sheet.cells) if self.sheet is not None else 0

    def thing(self, place: int) -> Thing:
        assert self.sheet is not None
        cell = self.sheet.cells[place]
        return cell_thing(cell, self.style_.looks.get(cell.id, CellLook()), self.looks)

    def thing_rect(self, place: int) -> QRectF:
        assert self.sheet is not None
        transform, _ = sheet_transform(self.sheet, self._area())
        return transform.mapRect(QRectF(*self.sheet.cells[place].box_mm))

    def thing_at(self, at: QPointF) -> int:
        return self._place_of_id(self.cell_at(at))

    def current_thing(self) -> int:
        return self._place_of_id(self.current)

    def choose_thing(self, place: int) -> None:
        assert self.sheet is not None
        self._choose(self.sheet.cells[place].id)

    def _place_of_id(self, cell_id: str) -> int:
        cells = self.sheet.cells if self.sheet is not None and cell_id else ()
        return next((place for place, cell in enumerate(cells) if cell.id == cell_id), NONE)

    # ---- what is shown

    def show_sheet(self, sheet: Sheet | None, looks: Looks | None, style: SheetStyle) -> None:
        """Show a sheet in a style."""
        self.sheet, self.looks, self.style_ = sheet, looks, style
        if sheet is None or self.current not in {cell.id for cell in sheet.cells}:
            self.current = ""
        self._stale = True
        if sheet is None:
            self.runner.cancel(self._key)
            self._picture = None
            self.zoom.fit()
        self.tool.setVisible(sheet is not None)
        self.update()

    def lay_cover(self, cover: Cover | None) -> None:
        """Lay a turning cover over the wheel, or take it away."""
        if cover is None or self.cover is None or cover.places != self.cover.places:
            self.turn, self._held = 0.0, None
        self.cover = cover
        self.update()

    def turn_cover(self, places: float) -> None:
        """Turn the cover to a place, clockwise from the top."""
        if self.cover is None:
            return
        before, self.turn = round(self.turn), places % self.cover.places
        self.update()
        if round(self.turn) != before:
            self.turned.emit(round(self.turn) % self.cover.places)

    def select(self, cell_id: str) -> None:
        """Select a cell without telling."""
        before, self.current = self.current, cell_id
        if cell_id and cell_id != before:
            self._bring_into_view()
            tell_current(self)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._stale = True
        super().resizeEvent(event)

    def has_picture(self) -> bool:
        """Whether there is a sheet."""
        return self.sheet is not None

    def base(self) -> QRectF:
        """Where the sheet lies when all of it is seen."""
        ruler = ruler_width() if self.ruled_in and self.sheet is not None else 0
        return QRectF(self.rect()).adjusted(2 + ruler, 2 + ruler, -6, -6)

    def base_now(self) -> QRectF:
        """Where the sheet lies as near as it is looked at now."""
        return self._area()

    def rule_in(self, unit: str) -> None:
        """Show rulers in a unit, or none."""
        if unit != self.ruled_in:
            self.ruled_in, self._stale = unit, True
            self.update()

    def _area(self) -> QRectF:
        return self.zoom.place(self.base())

    def zoomed(self) -> None:
        """It is looked at from elsewhere: the sheet is drawn anew for that."""
        self._stale = True
        self.update()

    def true_factor(self) -> float:
        """How near it is looked at where it is as large as on paper, as far as the screen says how large it is itself."""
        if self.sheet is None:
            return 1.0
        _, fitted = sheet_transform(self.sheet, self.base())
        return pixels_a_mm(self) / fitted

    def about(self) -> QPointF:
        """What keys and buttons go nearer to: what is selected."""
        return self.place_of(self.current) if self.current else self.base().center()

    def _bring_into_view(self) -> None:
        if self.sheet is None or not self.current or not self.zoom.is_near:
            return
        cell = next((cell for cell in self.sheet.cells if cell.id == self.current), None)
        if cell is not None:
            transform, _ = sheet_transform(self.sheet, self._area())
            self.zoom.show(transform.mapRect(QRectF(*cell.box_mm)), self.base().adjusted(24, 24, -24, -24))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.sheet is None:
            painter.setPen(self.palette().placeholderText().color())
            painter.setFont(scaled(sans(12)))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 0, -40, 0), flags, self.empty_text)
            return
        if self._stale:
            self._begin(self.sheet)
        if self._picture is not None:
            painter.drawImage(self._picture_rect(), self._picture)
        transform, _ = sheet_transform(self.sheet, self._area())
        cells = self.sheet.cells if self.current else ()
        cell = next((cell for cell in cells if cell.id == self.current), None)
        if cell is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            outline = transform.map(QPolygonF([QPointF(x, y) for x, y in cell.outline_mm]))
            pen = QPen(QColor(0, 0, 0), 3.2 if self.hasFocus() else 2.4)
            pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
            painter.setPen(pen)
            painter.drawPolygon(outline)
        if self.cover is not None:
            self._draw_cover(painter, self.cover, transform)
        if self.zoom.is_near:
            draw_labels_at_edges(painter, self.sheet, transform, QRectF(self.rect()))
        if self.ruled_in:
            paper = self.sheet.paper.width_mm, self.sheet.paper.height_mm
            draw_rulers(painter, transform, paper, QRectF(self.rect()), self.ruled_in, self.palette())
        for draw in self.overlays:
            draw(painter)

    def _picture_rect(self) -> QRectF:
        """Where the last picture lies till the next is drawn: it was drawn for another size, or from nearer or farther."""
        area, before = self._area(), self._pictured
        if self._picture is None or before.isEmpty():
            return QRectF(self.rect())
        size = self._picture.deviceIndependentSize()
        across, down = area.width() / before.width(), area.height() / before.height()
        return QRectF(
            area.left() - before.left() * across, area.top() - before.top() * down,
            size.width() * across, size.height() * down,
        )  # fmt: skip

    def _draw_cover(self, painter: QPainter, cover: Cover, transform: QTransform) -> None:
        """The disc with its windows, and beside each window at the hub what it shows."""
        disc = QPainterPath()
        disc.setFillRule(Qt.FillRule.OddEvenFill)
        disc.addEllipse(QPointF(cover.x, cover.y), cover.radius + 1.0, cover.radius + 1.0)
        for window in cover.windows():
            disc.addPolygon(QPolygonF([QPointF(x, y) for x, y in cover.outline(window, self.turn)]))
            disc.closeSubpath()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shape = transform.map(disc)
        painter.fillPath(shape, QColor(252, 252, 250, 240))
        painter.setPen(QPen(PENCIL, 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(shape)
        painter.setFont(scaled(sans(10)))
        painter.setPen(INK)
        roomy = cover.places >= _ROOMY  # then the place beside each window is covered, and takes its word
        for window, word in cover.windows().items():
            radius, place = (0.8 * cover.radius, window + 1) if roomy else (0.6 * cover.hub, window)
            middle = transform.map(QPointF(*cover.at(radius, (place + self.turn) * cover.step)))
            painter.drawText(
                QRectF(middle.x() - 60, middle.y() - 10, 120, 20), Qt.AlignmentFlag.AlignCenter, word
            )

    def _angle_at(self, position: QPointF) -> float | None:
        """The angle on the cover under a point of the widget, or None."""
        if self.cover is None or self.sheet is None:
            return None
        inverse, fine = sheet_transform(self.sheet, self._area())[0].inverted()
        point = inverse.map(position)
        return self.cover.angle_at((point.x(), point.y())) if fine else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.drawn_by(event):
            return
        angle = self._angle_at(event.position())
        if self._held is not None and self.cover is not None and angle is not None:
            begun, turn = self._held
            self.turn_cover(turn + (angle - begun) / self.cover.step)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        if self.end_drawing_about() and event.button() == Qt.MouseButton.LeftButton:
            cell_id = self.cell_at(event.position())
            if cell_id:
                self._choose(cell_id)
        if self._held is not None:
            self._held = None
            self.turn_cover(round(self.turn))  # it comes to rest at a place

    def _begin(self, sheet: Sheet) -> None:
        """Draw the sheet beside the window's own work; a small one is there at once."""
        self._stale = False
        style, size, ratio = self.style_, self.size(), self.devicePixelRatioF()
        looks, area = self.looks, self._area()

        def work() -> Generator[float, None, QImage]:
            return (yield from _picturing(sheet, looks, style, area, size, ratio))

        self.runner.start(self._key, work, lambda picture: self._take(picture, area), self._fail)
        self.runner.wait_a_moment(self._key)

    def _fail(self, why: str) -> None:
        """A mistake in the drawing is told as one anywhere in the window; the last picture stands."""
        raise RuntimeError(why)

    def _take(self, picture: QImage, area: QRectF) -> None:
        self._picture, self._pictured = picture, area
        self.update()

    def cell_at(self, position: QPointF) -> str:
        """The id of the cell under a point of the widget, or an empty text."""
        if self.sheet is None:
            return ""
        transform, _ = sheet_transform(self.sheet, self._area())
        inverse, fine = transform.inverted()
        if not fine:
            return ""
        point = inverse.map(position)
        for cell in self.sheet.cells:
            polygon = QPolygonF([QPointF(x, y) for x, y in cell.outline_mm])
            if polygon.containsPoint(point, Qt.FillRule.OddEvenFill):
                return cell.id
        return ""

    def place_of(self, cell_id: str) -> QPointF:
        """The middle of a cell in the widget."""
        assert self.sheet is not None
        transform, _ = sheet_transform(self.sheet, self._area())
        x, y, width, height = self.sheet.cell(cell_id).box_mm
        return transform.map(QPointF(x + width / 2, y + height / 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        angle = self._angle_at(event.position())
        if angle is not None:
            self._held = angle, self.turn
            return
        if self.zoom.is_near or event.button() == Qt.MouseButton.MiddleButton:
            self._pressed = (
                event.position()
            )  # a cell is chosen when the hand lets go without drawing the sheet about
            return
        cell_id = self.cell_at(event.position())
        if cell_id and event.button() == Qt.MouseButton.LeftButton:
            self._from = event.position()
            self._choose(cell_id)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        cell_id = self.cell_at(event.position())
        if cell_id:
            self.activated.emit(cell_id)

    def _choose(self, cell_id: str) -> None:
        self.current = cell_id
        self._bring_into_view()
        self.update()
        tell_current(self)
        self.selected.emit(cell_id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        if self.take_key(event):
            return
        if self.sheet is None or not self.sheet.cells:
            super().keyPressEvent(event)
        elif step and self.cover is not None:
            self.turn_cover(round(self.turn) + (1 if step in ((1, 0), (0, 1)) else -1))
        elif step:
            places = {cell.id: self.place_of(cell.id) for cell in self.sheet.cells}
            self._choose(nearest(places, self.current, step))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current:
            self.activated.emit(self.current)
        else:
            super().keyPressEvent(event)
