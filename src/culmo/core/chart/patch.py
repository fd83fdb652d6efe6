"""A patch page: the cells of a sheet that a new paint touches, at their true size, to paint and glue over the old."""

from collections.abc import Sequence

from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.sheet import Cell, Sheet, SheetText
from culmo.core.paint.readings import MixedHow
from culmo.errors import CulmoError
from culmo.words import tr

_MARGIN_MM, _GAP_MM, _LABEL_MM = 12.0, 3.0, 2.4


def plan_patch(title: str, cells: Sequence[Cell]) -> list[Sheet]:
    """Cells packed row by row on the smallest common paper that takes them, or on several of A3.

    Parameters
    ----------
    title : str
    cells : sequence of Cell, with the recipes that are to be painted

    Raises
    ------
    CulmoError
        when there is no cell, or one is larger than A3
    """
    if not cells:
        raise CulmoError(tr("there is no cell to patch"))
    papers = [paper for paper in PAPERS if paper.name in ("A6", "A5", "A4", "A3")]
    for paper in papers:
        pages = _pack(cells, paper)
        if pages is not None and len(pages) == 1:
            return [_draw_up(title, paper, pages[0])]
    pages = _pack(cells, papers[-1])
    if pages is None:
        raise CulmoError(tr("a cell is larger than the paper for the patch"))
    return [
        _draw_up(
            tr("{title}, page {number} of {n}", title=title, number=number, n=len(pages)), papers[-1], page
        )
        for number, page in enumerate(pages, 1)
    ]


def _alone(cell: Cell) -> str:
    """How the paints of a cell come together on a patch: where others met there is nothing left to meet."""
    return MixedHow.WET_IN_WET if cell.arises else cell.mixing


_Placed = list[tuple[Cell, float, float]]


def _pack(cells: Sequence[Cell], paper: Paper) -> list[_Placed] | None:
    """Shelves of cells, tallest first within what is given; None where a cell does not fit at all."""
    pages: list[_Placed] = [[]]
    x = y = _MARGIN_MM
    y += 8.0
    shelf = 0.0
    for cell in cells:
        _, _, width, height = cell.box_mm
        if x + width > paper.width_mm - _MARGIN_MM:
            x, y, shelf = _MARGIN_MM, y + shelf + _GAP_MM + _LABEL_MM + 1.0, 0.0
        if y + height + _LABEL_MM + 1.0 > paper.height_mm - _MARGIN_MM:
            pages.append([])
            x, y, shelf = _MARGIN_MM, _MARGIN_MM + 8.0, 0.0
        if x + width > paper.width_mm - _MARGIN_MM or y + height > paper.height_mm - _MARGIN_MM:
            return None
        pages[-1].append((cell, x, y))
        x += width + _GAP_MM
        shelf = max(shelf, height)
    return pages


def _draw_up(title: str, paper: Paper, placed: _Placed) -> Sheet:
    cells, labels = [], [SheetText(title, (_MARGIN_MM, _MARGIN_MM + 2.0), 0.0, 4.6)]
    for cell, x, y in placed:
        old_x, old_y, _, height = cell.box_mm
        move = x - old_x, y - old_y
        outline = tuple((px + move[0], py + move[1]) for px, py in cell.outline_mm)
        fade = None
        if cell.fade_mm is not None:
            (ax, ay), (bx, by) = cell.fade_mm
            fade = ((ax + move[0], ay + move[1]), (bx + move[0], by + move[1]))
        cells.append(
            Cell(
                cell.id,
                outline,
                cell.recipe,
                cell.ground,
                fade,
                treatment=cell.treatment,
                mixing=_alone(cell),
            )
        )
        labels.append(SheetText(cell.id, (x, y + height + _LABEL_MM), 0.0, _LABEL_MM))
    xs = [px for cell in cells for px, _ in cell.outline_mm]
    ys = [py for cell in cells for _, py in cell.outline_mm]
    frame = min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
    return Sheet(title, "patch", paper, frame, tuple(cells), tuple(labels), settings={"tape_mm": 0.0})
