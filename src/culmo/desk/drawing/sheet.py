"""One painter for sheets: on the screen, in print and in files alike, in millimetres."""

from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QImage,
    QPaintEngine,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QTransform,
)

from culmo.core.chart.kinds import kind_of, tape_of
from culmo.core.chart.sheet import Cell, Sheet, SheetText
from culmo.core.paint.readings import INK as GROUND_INK
from culmo.core.steps import run_through
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.drawing.wash import GRAIN_MM
from culmo.desk.theme import INK, PENCIL, SANS, SERIF, TITLE_SIZE_MM
from culmo.words import tr

_APART_MM = 1.5  # from the middle of a cell to its number, and to the text below
_LOW_MM = 7.5  # of a cell in which a text does not fit below its number
_CARD_WORD_MM = 2.8
_BAR_COLOUR = QColor(44, 44, 44)
_NO_EDGE = [1.0, 5.0]  # dots: an outline that is no edge to stop at
# of a cell that is none to stop at, planned, painted, read: colour, width in millimetres, dashes
_EDGES: tuple[tuple[QColor, float, tuple[float, ...]], ...] = (
    (PENCIL, 0.22, (1.0, 5.0)), (PENCIL, 0.22, (5.0, 4.0)), (INK, 0.3, ()), (INK, 0.45, ()),
)  # fmt: skip
_STRIDE = 40  # cells drawn between two looks at whether they are still wanted
_EM = 100  # the size at which text is laid out before it is scaled to millimetres


@dataclass(frozen=True)
class SheetStyle:
    """How a sheet is drawn.

    Attributes
    ----------
    colour : bool, washes and readings; otherwise the pencil ruling alone
    show : str, "both", "predicted", "recorded", or "progress": washes only where the brush has been
    numbers : bool, the order of work in each cell
    recipes : mapping from cell id to a text written into the cell
    tape : bool, the dotted line of the tape margin
    pixels_per_mm : float, at which washes are rendered
    selected : id of the cell with the firm outline, or ""
    path : bool, a line through the cells in the order of work
    quick : bool, plain colour and no writing in the cells, while something is being dragged
    clocks : mapping from cell id to the minutes until it is dry, for the cells that are wet
    marked : mapping from cell id to a number, for the cells that are pointed out; the others stand back
    left_out : the ids of cells that are not drawn, since they are painted elsewhere
    ground : the tone of the bare paper on the screen as #rrggbb; as most papers where it is empty
    seen : what of the paper is on view, in millimetres; cells outside it are not drawn. All of it where None
    """

    colour: bool = True
    show: str = "both"
    numbers: bool = False
    recipes: Mapping[str, str] = field(default_factory=dict)
    tape: bool = False
    pixels_per_mm: float = 4.0
    selected: str = ""
    path: bool = False
    quick: bool = False
    clocks: Mapping[str, int] = field(default_factory=dict)
    marked: Mapping[str, int] = field(default_factory=dict)
    looks: Mapping[str, CellLook] = field(default_factory=dict)
    left_out: frozenset[str] = frozenset()
    ground: str = ""
    seen: QRectF | None = None


def _font(size_mm: float) -> QFont:
    font = QFont(SERIF if size_mm >= TITLE_SIZE_MM else SANS)
    font.setPixelSize(_EM)
    font.setFeature(QFont.Tag("lnum"), 1)
    return font


def drawn_width_mm(text: str, size_mm: float) -> float:
    """The width of a text as Qt draws it, with the fallback typefaces of scripts that the shipped one lacks."""
    return _advance(text, size_mm >= TITLE_SIZE_MM) * size_mm / _EM


@lru_cache(maxsize=20_000)  # a layout asks for the same names at a dozen sizes
def _advance(text: str, title: bool) -> float:
    return QFontMetricsF(_font(TITLE_SIZE_MM if title else 0.0)).horizontalAdvance(text)


def draw_text(
    painter: QPainter, text: str, x: float, y: float, size_mm: float, angle_deg: float = 0.0
) -> None:
    """Text with its baseline's left end at x, y, all in millimetres."""
    painter.save()
    painter.translate(x, y)
    painter.rotate(angle_deg)
    painter.scale(size_mm / _EM, size_mm / _EM)
    engine = painter.paintEngine()
    if engine is not None and engine.type() == QPaintEngine.Type.SVG:
        # who opens the file need not have the typeface: there text is drawn as its outlines
        path = QPainterPath()
        path.addText(QPointF(0, 0), _font(size_mm), text)
        painter.fillPath(path, painter.pen().color())
    else:
        painter.setFont(_font(size_mm))
        painter.drawText(QPointF(0, 0), text)
    painter.restore()


def fitted_text(painter: QPainter, text: str, box: QRectF, size_mm: float, least_mm: float = 1.2) -> None:
    """Text in the lower left of a box, smaller or cut short where it must be."""
    size = min(size_mm, box.height() * 0.8)
    width = drawn_width_mm(text, size)
    if width > box.width():
        size = max(least_mm, size * box.width() / width)
        while len(text) > 2 and drawn_width_mm(text, size) > box.width():
            text = text[:-2].rstrip() + "…"
    draw_text(painter, text, box.left(), box.bottom(), size)


def draw_sheet(painter: QPainter, sheet: Sheet, looks: Looks | None, style: SheetStyle) -> None:
    """Draw a sheet at one go, as `drawing_sheet`."""
    run_through(drawing_sheet(painter, sheet, looks, style))


def drawing_sheet(
    painter: QPainter, sheet: Sheet, looks: Looks | None, style: SheetStyle
) -> Generator[float, None, None]:
    """Draw a sheet with the painter scaled to millimetres; yields how far it is.

    Parameters
    ----------
    painter : QPainter, with 1 unit = 1 mm and the origin at the sheet's top left corner
    sheet : Sheet
    looks : Looks, or None for the ruling alone
    style : SheetStyle
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    if style.tape:
        _draw_tape(painter, sheet)
    for label in sheet.labels:
        _draw_label(painter, label)
    for black in sheet.black_mm:
        painter.fillRect(QRectF(*black), QColor(0, 0, 0))
    _draw_pencil(painter, sheet)
    cells = [cell for cell in sheet.cells if cell.id not in style.left_out and _is_seen(cell, style)]
    _draw_bars(painter, cells)
    if looks is not None and style.colour:
        joins = _joins(sheet)
        for place, cell in enumerate(cells):
            if place % _STRIDE == 0:
                yield place / len(cells)
                _prepare(
                    looks, cells[place : place + _STRIDE], style
                )  # a few, lest others wait for their turn
            if style.quick:
                _draw_quickly(painter, cell, looks, style)
            else:
                _draw_cell(painter, cell, looks, style, joins.get(cell.id, (False, False)))
        if not style.quick:
            yield from _drawing_edges(painter, cells, style)
    else:
        _draw_ruling(painter, cells)
    for cell in cells if not style.quick else ():
        _draw_cell_text(painter, cell, style)
    if style.path:
        _draw_path(painter, sheet)
    if style.selected:
        _draw_selected(painter, sheet.cell(style.selected))


def _prepare(looks: Looks, cells: Sequence[Cell], style: SheetStyle) -> None:
    """Work out what some cells are predicted to look like, all at once."""
    foretold = [cell.recipe for cell in cells if style.looks.get(cell.id, CellLook()).predicted]
    looks.prepare(foretold)
    if not (style.quick or looks.flat):
        looks.settle(foretold)


def _is_seen(cell: Cell, style: SheetStyle) -> bool:
    return style.seen is None or style.seen.intersects(QRectF(*cell.box_mm).adjusted(-2, -2, 2, 2))


def _draw_tape(painter: QPainter, sheet: Sheet) -> None:
    tape = tape_of(sheet)
    painter.setPen(QPen(QColor(190, 190, 190), 0.2, Qt.PenStyle.DotLine))
    painter.drawRect(QRectF(tape, tape, sheet.paper.width_mm - 2 * tape, sheet.paper.height_mm - 2 * tape))


def _draw_selected(painter: QPainter, cell: Cell) -> None:
    pen = QPen(QColor(0, 0, 0), 1.1)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(_polygon(cell))


def _centre(cell: Cell) -> QPointF:
    """The middle of a cell's corners, which lies inside a convex one and in a piece of a ring."""
    xs, ys = [x for x, _ in cell.outline_mm], [y for _, y in cell.outline_mm]
    return QPointF(sum(xs) / len(xs), sum(ys) / len(ys))


def _is_upright(cell: Cell) -> bool:
    """Whether a cell is an upright oblong, its corners clockwise from the top left."""
    if len(cell.outline_mm) != 4:
        return False
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = cell.outline_mm
    return max(abs(ay - by), abs(cy - dy), abs(ax - dx), abs(bx - cx)) < 1e-3


def _draw_path(painter: QPainter, sheet: Sheet) -> None:
    """The way of the brush over the sheet."""
    points = [_centre(cell) for cell in sheet.in_order() if cell.order]
    painter.setPen(QPen(QColor(20, 20, 20, 120), 0.35))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF(points))


def _polygon(cell: Cell) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in cell.outline_mm])


def _draw_label(painter: QPainter, label: SheetText) -> None:
    painter.setPen(QColor(40, 40, 40))
    draw_text(painter, label.text, *label.at_mm, label.size_mm, label.angle_deg)


def _draw_pencil(painter: QPainter, sheet: Sheet) -> None:
    """Ruled lines and circles that are not edges of cells."""
    painter.setPen(QPen(QColor(150, 150, 150), 0.18))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if sheet.card_mm is not None:
        painter.drawRect(QRectF(*sheet.card_mm))
        draw_text(painter, tr("card"), sheet.card_mm[0] + 1.5, sheet.card_mm[1] + 4.0, _CARD_WORD_MM)
    kind = kind_of(sheet)
    if kind is not None and kind.edges_are_ruling:
        return
    painter.drawLines([QLineF(*line) for line in sheet.ruling.lines_mm])
    for x, y, radius in sheet.ruling.circles_mm:
        painter.drawEllipse(QPointF(x, y), radius, radius)


def _draw_bars(painter: QPainter, cells: Sequence[Cell]) -> None:
    """The black bars under the patches that cross them; they reach a little past, so that bare ink can be read."""
    for cell in cells:
        if cell.ground == GROUND_INK:
            x, y, width, height = cell.box_mm
            painter.fillRect(QRectF(x, y - 1.2, width, height + 2.4), _BAR_COLOUR)


def _draw_ruling(painter: QPainter, cells: Sequence[Cell]) -> None:
    firm = QPen(QColor(150, 150, 150), 0.18)
    light = QPen(QColor(150, 150, 150), 0.18, Qt.PenStyle.CustomDashLine)
    light.setDashPattern(_NO_EDGE)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for cell in cells:
        painter.setPen(light if cell.shape or cell.arises else firm)
        painter.drawPolygon(_polygon(cell))


def _draw_quickly(painter: QPainter, cell: Cell, looks: Looks, style: SheetStyle) -> None:
    """A cell as plain colour."""
    if style.looks.get(cell.id, CellLook()).predicted:
        if _is_upright(cell):
            x, y, width, height = cell.box_mm
            painter.fillRect(QRectF(x, y, width, height), looks.colour(cell.recipe, cell.ground))
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(looks.colour(cell.recipe, cell.ground))
            painter.drawPolygon(_polygon(cell))


def _joins(sheet: Sheet) -> dict[str, tuple[bool, bool]]:
    """Of the upright cells that meet others beside them: whether they do so at the left, and at the right."""
    boxes = {cell.id: cell.box_mm for cell in sheet.cells if cell.meets and _is_upright(cell)}
    found = {}
    for cell in sheet.cells:
        if cell.id in boxes:
            x, _, width, _ = boxes[cell.id]
            others = [boxes[name] for name in cell.meets if name in boxes]
            found[cell.id] = (
                any(abs(other[0] + other[2] - x) < 1e-3 for other in others),
                any(abs(other[0] - x - width) < 1e-3 for other in others),
            )
    return found


def _cell_image(cell: Cell, looks: Looks, style: SheetStyle, box: QRectF) -> QImage:
    """What a cell is predicted to look like, at the size of a box in millimetres."""
    width = max(2, round(box.width() * style.pixels_per_mm))
    height = max(2, round(box.height() * style.pixels_per_mm))
    scale = max(1.0, style.pixels_per_mm * GRAIN_MM)
    if cell.mixing:
        return looks.running(cell.recipe, cell.mixing, width, height, cell.id, scale)
    fades = cell.fade_mm is not None
    to_edge = (
        style.show != "progress"
    )  # what is foretold; where the brush has been it is as the hand leaves it
    image = looks.wash(cell.recipe, width, height, cell.id, scale, cell.ground, fades, to_edge)
    if cell.fade_mm is not None and cell.fade_mm[0][0] > cell.fade_mm[1][0]:
        return image.flipped(Qt.Orientation.Horizontal)  # from full at the right to clear water at the left
    return image


def _shown(cell: Cell, style: SheetStyle) -> tuple[bool, bool]:
    """Whether a cell shows what is foretold of it, and what was recorded."""
    look = style.looks.get(cell.id, CellLook())
    recorded = look.recorded is not None and style.show != "predicted"
    predicted = look.predicted and style.show != "recorded"
    if style.show == "progress":
        predicted = predicted and look.painted and not recorded
    return predicted, recorded


def _draw_cell(
    painter: QPainter, cell: Cell, looks: Looks, style: SheetStyle, joins: tuple[bool, bool] = (False, False)
) -> None:
    look = style.looks.get(cell.id, CellLook())
    predicted, recorded = _shown(cell, style)
    # half a pixel more, lest the paper shines through between two cells that touch
    more = 0.5 / style.pixels_per_mm if predicted or recorded else 0.0
    box = QRectF(*cell.box_mm).adjusted(-more, -more, more, more)
    upright = _is_upright(cell)
    if not upright:  # the picture of a wash is an oblong: it is cut to the cell
        painter.save()
        path = QPainterPath()
        path.addPolygon(_polygon(cell))
        path.closeSubpath()
        painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
    split = recorded and predicted
    left = QRectF(box.left(), box.top(), box.width() / (2 if split else 1), box.height())
    if predicted:
        # where it meets another its ragged end lies beyond it, and is cut off
        over = 0.1 * left.height()
        whole = left.adjusted(-over if joins[0] else 0.0, 0.0, over if joins[1] and not split else 0.0, 0.0)
        painter.save()
        painter.setClipRect(left, Qt.ClipOperation.IntersectClip)
        painter.drawImage(whole, _cell_image(cell, looks, style, whole))
        painter.restore()
        if (
            style.show != "progress" and not cell.mixing
        ):  # of no fixed parts nothing is foretold that could be in doubt
            _hatch(painter, left, look.doubt)
    if recorded and look.recorded is not None:
        half = QRectF(left.right() - more, box.top(), box.right() - left.right() + more, box.height())
        _draw_recorded(painter, cell, look, looks, style, half if split else box)
    if not upright:
        painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if style.marked and cell.id not in style.marked:
        veil = QPainterPath()
        veil.addPolygon(QPolygonF(box) if upright else _polygon(cell))
        painter.fillPath(veil, QColor(247, 246, 241, 170))
    if look.keeper:
        _draw_keeper(painter, box)


def _draw_recorded(
    painter: QPainter, cell: Cell, look: CellLook, looks: Looks, style: SheetStyle, area: QRectF
) -> None:
    """What was read of a cell into a part of it: the real paint where a picture showed it, else its colour."""
    assert look.recorded is not None
    x, y, *size = cell.box_mm
    real = None
    if look.patch is not None and not looks.flat:
        real = looks.real(look.patch, look.recorded, style.pixels_per_mm, (size[0], size[1]))
    if real is None:
        painter.fillRect(area, qcolor(look.recorded))
        return
    image, place = real
    painter.save()
    painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
    painter.drawImage(place.translated(x, y), image)
    painter.restore()


def _edge_of(cell: Cell, style: SheetStyle) -> int:
    """How firm the outline of a cell is: a place in _EDGES. Pencil is planned, ink was painted, firm ink was read."""
    if _shown(cell, style)[1]:
        return 3
    if style.looks.get(cell.id, CellLook()).painted and style.show != "predicted":
        return 2
    return 0 if cell.shape or cell.arises else 1


def _drawing_edges(
    painter: QPainter, cells: Sequence[Cell], style: SheetStyle
) -> Generator[float, None, None]:
    """The outlines of cells; where two share an edge it is one line, as firm as the firmer of them. Yields now and then."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    lines: dict[tuple[float, ...], int] = {}
    for cell in cells:
        firm = _edge_of(cell, style)
        if not _is_upright(cell):
            painter.setPen(_edge_pen(firm))
            painter.drawPolygon(_polygon(cell))
            continue
        x, y, width, height = cell.box_mm
        right, low = round(x + width, 2), round(y + height, 2)
        x, y = round(x, 2), round(y, 2)
        for line in ((x, y, right, y), (x, low, right, low), (x, y, x, low), (right, y, right, low)):
            lines[line] = max(firm, lines.get(line, 0))
    for firm in range(len(_EDGES)):
        painter.setPen(_edge_pen(firm))
        own_lines = [QLineF(*line) for line, own in lines.items() if own == firm]
        for place in range(0, len(own_lines), _STRIDE):  # a few at once, lest others wait for their turn
            painter.drawLines(own_lines[place : place + _STRIDE])
            yield 1.0


def _edge_pen(firm: int) -> QPen:
    colour, width, dashes = _EDGES[firm]
    pen = QPen(colour, width, Qt.PenStyle.CustomDashLine if dashes else Qt.PenStyle.SolidLine)
    if dashes:
        pen.setDashPattern(list(dashes))
    return pen


def _draw_keeper(painter: QPainter, box: QRectF) -> None:
    """A dog-ear at the top right corner."""
    ear = min(3.0, 0.3 * box.height())
    path = QPainterPath(QPointF(box.right() - ear, box.top()))
    path.lineTo(box.right(), box.top())
    path.lineTo(box.right(), box.top() + ear)
    path.closeSubpath()
    painter.fillPath(path, QBrush(QColor(255, 255, 255)))
    painter.setPen(QPen(INK, 0.35))
    painter.drawPath(path)


def _hatch(painter: QPainter, box: QRectF, doubt: float) -> None:
    """Pencil strokes, the closer the greater the doubt; none where nine in ten fall within 3."""
    if doubt < 4.0:
        return
    spacing = max(1.1, 22.0 / (doubt - 1.5))
    painter.save()
    painter.setClipRect(box.adjusted(0.4, 0.4, -0.4, -0.4), Qt.ClipOperation.IntersectClip)
    painter.setPen(QPen(QColor(40, 40, 40, 150), 0.16))
    start = box.left() - box.height()
    lines = []
    at = start + spacing / 2
    while at < box.right():
        lines.append(QLineF(at, box.bottom(), at + box.height(), box.top()))
        at += spacing
    painter.drawLines(lines)
    painter.restore()


def _draw_cell_text(painter: QPainter, cell: Cell, style: SheetStyle) -> None:
    x, y, width, height = cell.box_mm
    text = style.recipes.get(cell.id, "")
    numbered = style.numbers and cell.order > 0
    apart = _APART_MM if text and numbered else 0.0  # in the middle of a cell the one stands above the other
    if text:
        painter.setPen(QColor(90, 90, 90))
        if _is_upright(cell):
            left = 0.8
            if numbered and height < _LOW_MM:  # there is no room below the number: it stands beside it
                left = 2.3 + drawn_width_mm(str(cell.order), min(3.0, height * 0.25))
            room = QRectF(x + left, y + height - 3.4, width - 0.8 - left, 2.6)
            fitted_text(painter, text, room, 2.3)
        else:
            _text_in_the_middle(painter, cell, text, apart)
    if cell.id in style.marked:
        _number_in_the_middle(painter, cell, style.marked[cell.id], min(7.0, 0.42 * height))
    elif cell.id in style.clocks:
        _number_in_the_middle(painter, cell, style.clocks[cell.id], min(6.0, 0.4 * height))
    elif numbered and not _is_upright(cell):
        _number_in_the_middle(painter, cell, cell.order, 2.6 if not text else 2.2, -apart)
    elif numbered:
        painter.setPen(QColor(90, 90, 90) if not style.colour else QColor(20, 20, 20))
        size = min(3.0, height * 0.25)
        if style.colour:
            wide = drawn_width_mm(str(cell.order), size) + 1.2
            painter.fillRect(QRectF(x + 0.9, y + 0.9, wide, size + 0.8), QColor(255, 255, 255, 210))
        draw_text(painter, str(cell.order), x + 1.5, y + 1.1 + size * 0.85, size)


def _number_in_the_middle(
    painter: QPainter, cell: Cell, number: int, size: float, lower: float = 0.0
) -> None:
    """A number on a white ground in the middle of a cell, or so much lower."""
    middle, text = _centre(cell) + QPointF(0.0, lower), str(number)
    wide = drawn_width_mm(text, size)
    ground = QRectF(
        middle.x() - wide / 2 - 0.3 * size, middle.y() - 0.65 * size, wide + 0.6 * size, 1.3 * size
    )
    painter.fillRect(ground, QColor(255, 255, 255, 225))
    painter.setPen(QColor(20, 20, 20))
    draw_text(painter, text, middle.x() - wide / 2, middle.y() + 0.35 * size, size)


def _text_in_the_middle(painter: QPainter, cell: Cell, text: str, lower: float = 0.0) -> None:
    """A text within a piece of a ring, a petal or a triangle, as small as it must be, or so much lower."""
    middle = _centre(cell) + QPointF(0.0, lower)
    ys = [py for _, py in cell.outline_mm]
    xs = [px for px, _ in cell.outline_mm]
    room = 0.7 * min(max(xs) - min(xs), 1.6 * (max(ys) - min(ys)))
    size = 2.1
    while len(text) > 2 and drawn_width_mm(text, size) > room:
        if size > 1.3:
            size -= 0.2
        else:
            text = text[:-2].rstrip() + "…"
    draw_text(painter, text, middle.x() - drawn_width_mm(text, size) / 2, middle.y() + size * 0.35, size)


def sheet_transform(sheet: Sheet, target: QRectF) -> tuple[QTransform, float]:
    """The transform that fits a sheet into a rectangle, and its pixels per millimetre."""
    scale = min(target.width() / sheet.paper.width_mm, target.height() / sheet.paper.height_mm)
    left = target.left() + (target.width() - scale * sheet.paper.width_mm) / 2
    top = target.top() + (target.height() - scale * sheet.paper.height_mm) / 2
    return QTransform(scale, 0, 0, scale, left, top), scale
