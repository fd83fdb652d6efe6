"""Boards on their paper: cells, labels and ruling; on several papers that join where one does not take them."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from culmo.core.chart.aids import Measure, rough_width_mm
from culmo.core.chart.board import CAPTION_MM, PAD_MM, SLANT_DEG, Board, slot_cells
from culmo.core.chart.box import shortened
from culmo.core.chart.fit import Easing, Fit, best_fit, too_small
from culmo.core.chart.page import LEAST_MM, Page, corner_marks
from culmo.core.chart.sheet import Cell, Ruling, Sheet, SheetText
from culmo.errors import CulmoError


def plan_board(board: Board, page: Page, measure: Measure = rough_width_mm) -> Sheet:
    """Lay out a board; its block stands in the middle of the paper.

    Parameters
    ----------
    board : Board
    page : Page
    measure : function of (text, size in mm) that gives a text's width in mm

    Raises
    ------
    CulmoError
        when it does not fit, with what to do
    """
    fit = best_fit(board, page, measure)
    paper = fit.paper
    block_w = board.columns * fit.width + (board.columns - 1) * page.gap_mm
    block_h = len(board.rows) * (fit.height + fit.foot) + (len(board.rows) - 1) * page.gap_mm
    room_x = paper.width_mm - page.gutter_mm - 2 * page.margin_mm - fit.left - fit.right
    room_y = paper.height_mm - 2 * page.margin_mm - fit.top - fit.bottom
    x0 = page.gutter_mm + page.margin_mm + fit.left + (room_x - block_w) / 2
    y0 = page.margin_mm + fit.top + (room_y - block_h) / 2
    lefts = [x0 + i * (fit.width + page.gap_mm) for i in range(board.columns)]
    tops = [y0 + i * (fit.height + fit.foot + page.gap_mm) for i in range(len(board.rows))]
    cells: list[Cell] = []
    labels = _labels(board, page, fit, measure, lefts, tops)
    for r, row in enumerate(board.rows):
        for c, slot in enumerate(row):
            if slot is None:
                continue
            width = slot.wide * fit.width + (slot.wide - 1) * page.gap_mm
            box = lefts[c], tops[r], width, fit.height
            cells += slot_cells(slot, f"r{r + 1:02d}c{c + 1:02d}", box, page.round)
            if slot.caption:
                short = shortened(slot.caption, CAPTION_MM, width, measure)
                labels.append(
                    SheetText(short, (lefts[c], tops[r] + fit.height + CAPTION_MM + 0.4), 0.0, CAPTION_MM)
                )
    return Sheet(
        title=page.title or board.title,
        kind=board.kind,
        paper=paper,
        frame_mm=(x0, y0, block_w, block_h),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(_edges(lefts, fit.width), _edges(tops, fit.height)),
        marks_mm=corner_marks(page, paper),
        settings={"eased": list(fit.eased)} if fit.eased else {},
    )


def _edges(starts: Sequence[float], size: float) -> tuple[float, ...]:
    edges: list[float] = []
    for start in starts:
        for edge in (start, start + size):
            if not edges or edge - edges[-1] > 1e-6:
                edges.append(edge)
    return tuple(edges)


def _labels(
    board: Board, page: Page, fit: Fit, measure: Measure, lefts: Sequence[float], tops: Sequence[float]
) -> list[SheetText]:
    size, most = fit.label_mm, fit.most_mm
    x0, y0 = lefts[0], tops[0]
    labels = []
    if page.title and Easing.NO_TITLE not in fit.eased:
        base = y0 - fit.top + page.title_mm + (PAD_MM if board.full_names else 0.0)
        short = shortened(page.title, page.title_mm, fit.paper.width_mm - page.tape_mm - x0, measure)
        labels.append(SheetText(short, (x0, base), 0.0, page.title_mm))
    labels += _column_labels(board, fit, measure, lefts, y0 - PAD_MM, most)
    for text, top in zip(board.row_labels, tops, strict=False):
        short = _short(board, fit, text, size, most, measure)
        if not short:
            continue
        base = top + fit.height / 2 + 0.35 * size
        labels.append(SheetText(short, (x0 - PAD_MM - measure(short, size), base), 0.0, size))
        if board.full_names and fit.both_ends:  # the same space stands free at the right
            labels.append(SheetText(short, (lefts[-1] + fit.width + PAD_MM, base), 0.0, size))
    return labels


def _short(board: Board, fit: Fit, text: str, size: float, most: float, measure: Measure) -> str:
    """A label that fits: where labels had to give way its codes before a part of its name."""
    if Easing.SHORT in fit.eased and measure(text, size) > most:
        text = board.shorter.get(text) or text
    return shortened(text, size, most, measure)


def _column_labels(
    board: Board, fit: Fit, measure: Measure, lefts: Sequence[float], base: float, most: float
) -> list[SheetText]:
    labels = []
    for text, left in zip(board.column_labels, lefts, strict=False):
        size, room = fit.label_mm, most
        if not board.full_names:
            size = size if measure(text, size) <= fit.width - 1.0 else 0.75 * size
            room = max(fit.width - 1.0, 3.0)
        short = _short(board, fit, text, size, room, measure)
        middle = left + fit.width / 2
        if fit.slant:
            labels.append(SheetText(short, (middle - size * 0.2, base), -SLANT_DEG, size))
        elif short:
            labels.append(SheetText(short, (middle - measure(short, size) / 2, base), 0.0, size))
    return [label for label in labels if label.text]


def split_board(
    board: Board,
    page: Page,
    least: tuple[float, float] = (LEAST_MM, LEAST_MM),
    measure: Measure = rough_width_mm,
) -> list[Board]:
    """A board as several that join, each with cells of at least a size; the board alone where it fits.

    Rows are kept together as long as columns can be cut, and both are cut evenly; what takes several columns is not cut.

    Parameters
    ----------
    board : Board
    page : Page
    least : two float, width and height of the least useful cell in mm, or of the wished one
    measure : function of (text, size in mm)

    Raises
    ------
    CulmoError
        when not even one cell of that size fits on the paper
    """
    wide = any(slot is not None and slot.wide > 1 for row in board.rows for slot in row)
    for pieces in range(1, len(board.rows) * board.columns + 1):
        for down in range(1, pieces + 1):
            across = pieces // down
            if pieces % down or down > len(board.rows) or across > (1 if wide else board.columns):
                continue
            parts = [
                _part(board, rows, columns)
                for rows in _cut(len(board.rows), down)
                for columns in _cut(board.columns, across)
            ]
            if all(_takes(part, page, least, measure) for part in parts):
                return parts
    raise too_small(board, page, measure, least)


def _takes(board: Board, page: Page, least: tuple[float, float], measure: Measure) -> bool:
    """Whether a part has cells of a size when it is laid out as the page wishes: names give way for a wish alone."""
    try:
        fit = best_fit(board, page, measure)
    except CulmoError:
        return False
    return fit.width >= least[0] - 1e-9 and fit.height >= least[1] - 1e-9


def _cut(count: int, pieces: int) -> list[range]:
    edges = [round(i * count / pieces) for i in range(pieces + 1)]
    return [range(a, b) for a, b in pairwise(edges)]


def _part(board: Board, rows: range, columns: range) -> Board:
    def some(labels: tuple[str, ...], places: range) -> tuple[str, ...]:
        return tuple(labels[i] for i in places) if labels else ()

    return replace(
        board,
        rows=tuple(tuple(board.rows[r][c] for c in columns) for r in rows),
        row_labels=some(board.row_labels, rows),
        column_labels=some(board.column_labels, columns),
    )
