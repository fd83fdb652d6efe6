"""The sheet on the screen, to scale; a click or the arrow keys select a cell."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy

from culmo.core.chart.sheet import Cell, Sheet
from culmo.desk.accessible import tell_current
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import SheetStyle, sheet_transform
from culmo.desk.drawn_sheet import DrawnSheet
from culmo.desk.guard import guarded
from culmo.desk.jobs import Runner
from culmo.desk.rulers import draw_rulers, ruler_width
from culmo.desk.sheet_cover import LaidCover
from culmo.desk.theme import px, sans, scaled
from culmo.desk.things import NONE, Thing, mix_thing
from culmo.desk.widgets import ARROWS, nearest
from culmo.desk.zoom_tool import draw_labels_at_edges, pixels_a_mm
from culmo.desk.zoom_view import ZoomView
from culmo.words import tr


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


def place_of_id(sheet: Sheet | None, cell_id: str) -> int:
    """The place of a cell among those of its sheet, or `NONE`."""
    cells = sheet.cells if sheet is not None and cell_id else ()
    return next((place for place, cell in enumerate(cells) if cell.id == cell_id), NONE)


def on_sheet(view: "SheetView", position: QPointF) -> QPointF | None:
    """A point of the view as millimetres of its sheet; None where there is none."""
    if view.sheet is None:
        return None
    inverse, fine = sheet_transform(view.sheet, view.base_now())[0].inverted()
    return inverse.map(position) if fine else None


def bring_into_view(view: "SheetView") -> None:
    """The selected cell is seen, however near the sheet is looked at."""
    if view.sheet is None or not view.current or not view.zoom.is_near:
        return
    cell = next((cell for cell in view.sheet.cells if cell.id == view.current), None)
    if cell is not None:
        transform, _ = sheet_transform(view.sheet, view.base_now())
        view.zoom.show(transform.mapRect(QRectF(*cell.box_mm)), view.base().adjusted(24, 24, -24, -24))


@guarded
class SheetView(ZoomView):
    """Draws one sheet; the picture stands until the next is drawn."""

    selected = Signal(str)
    activated = Signal(str)

    def __init__(self, runner: Runner, empty_text: str = "") -> None:
        super().__init__()
        self.sheet: Sheet | None = None
        self.looks: Looks | None = None
        self.style_ = SheetStyle()
        self.current = ""
        self.empty_text = empty_text
        self.cover = LaidCover(self)
        self.cover.moved.connect(self.update)
        self.overlays: list[Callable[[QPainter], None]] = []  # what others draw over the sheet
        self.ruled_in = ""  # the unit of the rulers; empty where there are none
        self.picture = DrawnSheet(runner, self)
        self.picture.drawn.connect(self.update)
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
        transform, _ = sheet_transform(self.sheet, self.base_now())
        return transform.mapRect(QRectF(*self.sheet.cells[place].box_mm))

    def thing_at(self, at: QPointF) -> int:
        return place_of_id(self.sheet, self.cell_at(at))

    def current_thing(self) -> int:
        return place_of_id(self.sheet, self.current)

    def choose_thing(self, place: int) -> None:
        assert self.sheet is not None
        self.current = self.sheet.cells[place].id
        bring_into_view(self)
        self.update()
        tell_current(self)
        self.selected.emit(self.current)

    # ---- what is shown

    def show_sheet(self, sheet: Sheet | None, looks: Looks | None, style: SheetStyle) -> None:
        """Show a sheet in a style."""
        self.sheet, self.looks, self.style_ = sheet, looks, style
        if sheet is None or self.current not in {cell.id for cell in sheet.cells}:
            self.current = ""
        self.picture.stale = True
        if sheet is None:
            self.picture.forget()
            self.zoom.fit()
        self.tool.setVisible(sheet is not None)
        self.update()

    def select(self, cell_id: str) -> None:
        """Select a cell without telling."""
        before, self.current = self.current, cell_id
        if cell_id and cell_id != before:
            bring_into_view(self)
            tell_current(self)
        self.update()

    def has_picture(self) -> bool:
        """Whether there is a sheet."""
        return self.sheet is not None

    def base(self) -> QRectF:
        """Where the sheet lies when all of it is seen."""
        ruler = ruler_width() if self.ruled_in and self.sheet is not None else 0
        return QRectF(self.rect()).adjusted(2 + ruler, 2 + ruler, -6, -6)

    def base_now(self) -> QRectF:
        """Where the sheet lies as near as it is looked at now."""
        return self.zoom.place(self.base())

    def rule_in(self, unit: str) -> None:
        """Show rulers in a unit, or none."""
        if unit != self.ruled_in:
            self.ruled_in, self.picture.stale = unit, True
            self.update()

    def zoomed(self) -> None:
        """It is looked at from elsewhere: the sheet is drawn anew for that."""
        self.picture.stale = True
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

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.sheet is None:
            painter.setPen(self.palette().placeholderText().color())
            painter.setFont(scaled(sans(12)))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 0, -40, 0), flags, self.empty_text)
            return
        self.picture.keep_up(self.sheet, self.looks, self.style_, self.base_now(), self)
        if self.picture.image is not None:
            painter.drawImage(self.picture.lies_in(self.base_now(), QRectF(self.rect())), self.picture.image)
        transform, _ = sheet_transform(self.sheet, self.base_now())
        cells = self.sheet.cells if self.current else ()
        cell = next((cell for cell in cells if cell.id == self.current), None)
        if cell is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            outline = transform.map(QPolygonF([QPointF(x, y) for x, y in cell.outline_mm]))
            pen = QPen(QColor(0, 0, 0), 3.2 if self.hasFocus() else 2.4)
            pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
            painter.setPen(pen)
            painter.drawPolygon(outline)
        self.cover.draw(painter, transform)
        if self.zoom.is_near:
            draw_labels_at_edges(painter, self.sheet, transform, QRectF(self.rect()))
        if self.ruled_in:
            paper = self.sheet.paper.width_mm, self.sheet.paper.height_mm
            draw_rulers(painter, transform, paper, QRectF(self.rect()), self.ruled_in, self.palette())
        for draw in self.overlays:
            draw(painter)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.drawn_by(event):
            return
        self.cover.drag(on_sheet(self, event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None
        if self.end_drawing_about() and event.button() == Qt.MouseButton.LeftButton:
            cell_id = self.cell_at(event.position())
            if cell_id:
                self.choose_thing(place_of_id(self.sheet, cell_id))
        self.cover.let_go()

    def cell_at(self, position: QPointF) -> str:
        """The id of the cell under a point of the widget, or an empty text."""
        if self.sheet is None:
            return ""
        point = on_sheet(self, position)
        if point is None:
            return ""
        for cell in self.sheet.cells:
            polygon = QPolygonF([QPointF(x, y) for x, y in cell.outline_mm])
            if polygon.containsPoint(point, Qt.FillRule.OddEvenFill):
                return cell.id
        return ""

    def place_of(self, cell_id: str) -> QPointF:
        """The middle of a cell in the widget."""
        assert self.sheet is not None
        transform, _ = sheet_transform(self.sheet, self.base_now())
        x, y, width, height = self.sheet.cell(cell_id).box_mm
        return transform.map(QPointF(x + width / 2, y + height / 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.cover.take_hold(on_sheet(self, event.position())):
            return
        if self.zoom.is_near or event.button() == Qt.MouseButton.MiddleButton:
            self._pressed = (
                event.position()
            )  # a cell is chosen when the hand lets go without drawing the sheet about
            return
        cell_id = self.cell_at(event.position())
        if cell_id and event.button() == Qt.MouseButton.LeftButton:
            self._from = event.position()
            self.choose_thing(place_of_id(self.sheet, cell_id))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        cell_id = self.cell_at(event.position())
        if cell_id:
            self.activated.emit(cell_id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        if self.take_key(event):
            return
        if self.sheet is None or not self.sheet.cells:
            super().keyPressEvent(event)
        elif step and self.cover.cover is not None:
            self.cover.turn_to(round(self.cover.turn) + (1 if step in ((1, 0), (0, 1)) else -1))
        elif step:
            places = {cell.id: self.place_of(cell.id) for cell in self.sheet.cells}
            self.choose_thing(place_of_id(self.sheet, nearest(places, self.current, step)))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current:
            self.activated.emit(self.current)
        else:
            super().keyPressEvent(event)
