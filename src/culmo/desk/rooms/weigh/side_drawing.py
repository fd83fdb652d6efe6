"""What is drawn of things side by side."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import (
    QFontMetrics,
    QPainter,
    QPalette,
)

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.looks import fill_read, qcolor
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.drawn import fine_ratio, usual_width
from culmo.desk.rooms.weigh.side_model import (
    CHIPS,
    Compared,
    SideKind,
    SideOrder,
    SideSpot,
)
from culmo.desk.theme import PAPER, sans, text_scale
from culmo.desk.widgets import draw_edge
from culmo.words import decimal, tr

if TYPE_CHECKING:
    from culmo.desk.rooms.weigh.side_board import SideBoard

_MOST_FINE = 220  # more cells than this are drawn as plain colour
LABELS = 108.0
ROW = 30.0


@dataclass(frozen=True)
class DrawnColour:
    """A colour where it is drawn, in usual lengths; its box may go beyond the column that it is seen in."""

    box: QRectF
    spot: SideSpot
    column: QRectF

    @property
    def seen(self) -> QRectF:
        """What is seen of it."""
        return self.box.intersected(self.column)


def inside(column: QRectF) -> QRectF:
    """Where a sheet lies in its column."""
    return column.adjusted(2, 4, -2, -4)


def text(
    view: "SideBoard", painter: QPainter, box: QRectF, text: str, soft: bool = False, right: bool = False
) -> None:
    font = sans(10.5)
    painter.setFont(font)
    role = QPalette.ColorRole.PlaceholderText if soft else QPalette.ColorRole.WindowText
    painter.setPen(view.palette().color(role))
    text = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | side, text)


def chip(view: "SideBoard", painter: QPainter, box: QRectF, spot: SideSpot) -> None:
    if spot.recorded:
        fill_read(painter, box, spot.lab, view.session.learning.looks, spot.patch)
    else:
        painter.fillRect(box, qcolor(spot.lab))
    draw_edge(painter, box, spot.recorded)
    view.drawn.append(DrawnColour(box, spot, box))


def draw_hues(view: "SideBoard", painter: QPainter) -> None:
    for number, row in enumerate(view.hues):
        y = number * ROW
        text(view, painter, QRectF(0, y, LABELS - 8, ROW), row.title)
        for column, spots in zip(view.columns(), row.spots, strict=True):
            width = column.width() / CHIPS
            if not spots:
                text(view, painter, QRectF(column.left(), y, column.width(), ROW), tr("none"), soft=True)
            for i, spot in enumerate(spots):
                box = QRectF(column.left() + i * width + 1, y + 3, width - 3, ROW - 6)
                chip(view, painter, box, spot)


def draw_places(view: "SideBoard", painter: QPainter) -> None:
    columns = view.columns()
    for number, row in enumerate(view.places):
        y = number * ROW
        text(view, painter, QRectF(0, y, columns[0].left() - 10, ROW), row.words)
        for column, spot in zip(columns, row.spots, strict=True):
            if spot is not None:
                chip(view, painter, QRectF(column.left(), y + 3, column.width(), ROW - 6), spot)
        text(
            view,
            painter,
            QRectF(usual_width(view) - 50, y, 46, ROW),
            decimal(f"{row.away:.1f}"),
            right=True,
        )


def draw_lying(view: "SideBoard", painter: QPainter) -> None:
    view.shares = same_scale(view)
    for place, (column, thing) in enumerate(zip(view.columns(), view.things, strict=True)):
        painter.save()
        painter.setClipRect(column)
        if thing.choice.kind == SideKind.SHEET and view.session.study is not None:
            draw_column(view, painter, column, thing, view.shares.get(place, 1.0))
        else:
            draw_strokes(view, painter, column, thing)
        painter.restore()


def draw_column(view: "SideBoard", painter: QPainter, column: QRectF, thing: Compared, share: float) -> None:
    seen = view.sheets.of(thing)
    sheet, looks = seen.record.sheet, seen.looks
    box, middle = inside(placed(view, column)), column.center()
    # smaller about the middle of the column, so that the same place of all sheets is seen there
    transform, _ = sheet_transform(
        sheet, QRectF(middle + (box.topLeft() - middle) * share, box.size() * share)
    )
    painter.save()
    painter.setTransform(transform, True)
    painter.fillRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm), PAPER)
    quick = sum(len(one.spots) for one in view.things) > _MOST_FINE
    style = SheetStyle(looks=looks, quick=quick, pixels_per_mm=transform.m11() * fine_ratio(view))
    draw_sheet(painter, sheet, view.session.learning.looks, style)
    painter.restore()
    by_id = {cell.id: cell for cell in sheet.cells}
    for spot in thing.spots:
        cell = by_id.get(spot.place)
        if cell is not None:
            x, y, width, height = cell.box_mm
            view.drawn.append(DrawnColour(transform.mapRect(QRectF(x, y, width, height)), spot, column))


def draw_strokes(view: "SideBoard", painter: QPainter, column: QRectF, thing: Compared) -> None:
    looks, ratio, near = view.session.learning.looks, fine_ratio(view), view.zoom.factor
    place = placed(view, column)
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
        text(view, painter, QRectF(left, box.bottom(), column.right() - left, 18), name)
        if name in view.strokes:
            view.drawn.append(DrawnColour(box, view.strokes[name], column))


def placed(view: "SideBoard", column: QRectF) -> QRectF:
    """Where a column's thing lies now, in usual lengths."""
    scale, base = text_scale(), view.base()
    place = view.zoom.place(base)
    moved = (place.topLeft() - base.topLeft()) / scale + column.topLeft()
    return QRectF(moved, place.size() / scale)


def same_scale(view: "SideBoard") -> dict[int, float]:
    """By which each sheet is drawn smaller than its column would have it, so that all are at one scale."""
    if view.mode != SideOrder.LIE or view.session.study is None:
        return {}
    columns = view.columns()
    fitted = {
        place: fitted_scale(view.sheets.of(thing).record.sheet, columns[place])
        for place, thing in enumerate(view.things) if thing.choice.kind == SideKind.SHEET
    }  # fmt: skip
    return {place: min(fitted.values()) / own for place, own in fitted.items()}


def fitted_scale(sheet: Sheet, column: QRectF) -> float:
    """Usual lengths a millimetre of a sheet that fills its column."""
    return sheet_transform(sheet, inside(column))[1]
