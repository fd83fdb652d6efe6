"""The sheet on the screen, to scale; a click or the arrow keys select a cell."""

from collections.abc import Mapping
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.guard import guarded
from culmo.desk.theme import PAPER, sans
from culmo.words import tr

ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


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


@guarded
class SheetView(QWidget):
    """Draws one sheet; the picture is kept until something in it changes."""

    selected = Signal(str)
    activated = Signal(str)

    def __init__(self, empty_text: str = "") -> None:
        super().__init__()
        self.sheet: Sheet | None = None
        self.looks: Looks | None = None
        self.style_ = SheetStyle()
        self.current = ""
        self.empty_text = empty_text
        self._picture: QPixmap | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(200, 140)
        self.setAccessibleName(tr("Sheet"))

    def sizeHint(self) -> QSize:
        return QSize(700, 480)

    def show_sheet(self, sheet: Sheet | None, looks: Looks | None, style: SheetStyle) -> None:
        """Show a sheet in a style."""
        self.sheet, self.looks, self.style_ = sheet, looks, style
        if sheet is None or self.current not in {cell.id for cell in sheet.cells}:
            self.current = ""
        self._picture = None
        self.update()

    def select(self, cell_id: str) -> None:
        """Select a cell without telling."""
        self.current = cell_id
        self.update()

    def resizeEvent(self, _: object) -> None:
        self._picture = None

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(2, 2, -6, -6)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.sheet is None:
            painter.setPen(self.palette().placeholderText().color())
            painter.setFont(sans(12))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 0, -40, 0), flags, self.empty_text)
            return
        if self._picture is None:
            self._picture = self._render(self.sheet)
        painter.drawPixmap(0, 0, self._picture)
        transform, _ = sheet_transform(self.sheet, self._area())
        cell = next((cell for cell in self.sheet.cells if cell.id == self.current), None)
        if cell is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            outline = transform.map(QPolygonF([QPointF(x, y) for x, y in cell.outline_mm]))
            pen = QPen(QColor(0, 0, 0), 3.2 if self.hasFocus() else 2.4)
            pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
            painter.setPen(pen)
            painter.drawPolygon(outline)

    def _render(self, sheet: Sheet) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        transform, scale = sheet_transform(sheet, self._area())
        page = transform.mapRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm))
        painter.fillRect(page.translated(3, 3), QColor(0, 0, 0, 28))
        painter.fillRect(page, PAPER)
        painter.setTransform(transform, True)
        style = self.style_
        painter.setClipRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm))
        draw_sheet(
            painter,
            sheet,
            self.looks,
            replace(style, pixels_per_mm=scale * ratio, selected=""),
        )
        painter.end()
        return picture

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
        cell_id = self.cell_at(event.position())
        if cell_id:
            self._choose(cell_id)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        cell_id = self.cell_at(event.position())
        if cell_id:
            self.activated.emit(cell_id)

    def _choose(self, cell_id: str) -> None:
        self.current = cell_id
        self.update()
        self.selected.emit(cell_id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        if self.sheet is None or not self.sheet.cells:
            super().keyPressEvent(event)
        elif step:
            places = {cell.id: self.place_of(cell.id) for cell in self.sheet.cells}
            self._choose(nearest(places, self.current, step))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current:
            self.activated.emit(self.current)
        else:
            super().keyPressEvent(event)
