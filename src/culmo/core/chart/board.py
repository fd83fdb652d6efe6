"""Boards: rows and columns of cells with labels, laid out for the paper one owns. Most kinds of sheet are boards."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from culmo.core.chart.aids import Measure, rough_width_mm
from culmo.core.chart.box import shortened
from culmo.core.chart.page import LEAST_MM, Page, corner_marks
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import BORDERED, FREE, Cell, Label, Point, Ruling, Sheet
from culmo.core.paint.readings import IN_PUDDLE, MEETING, PAPER
from culmo.core.paint.recipe import Layer, Part, Recipe
from culmo.errors import CulmoError
from culmo.words import tr

SMALLEST_MM = 4.0
_PAD_MM = 2.0
_CAPTION_MM = 2.4
SLANT_DEG = 40.0
MEET = "meet"
_MEETING_SHARE, _LEAST_MEETING_MM, _ASIDE_SHARE = 0.2, 6.0, 0.06
_OVAL_CORNERS = 28


@dataclass(frozen=True)
class Slot:
    """What goes into one place of a board.

    Attributes
    ----------
    recipe : Recipe
    ground : str, "paper" or "ink"
    fade : bool, whether it runs to clear water at its right end
    caption : str, written below it
    second : Recipe or None, what goes into the other half of a split cell
    split : str, "", "diagonal", "halves", or "meet": two strokes with the place between them where they run together
    wide : int, how many columns it takes
    mixing : str, how its paints come together; see `culmo.core.paint.readings.Reading`
    shape : str, "free" for a drop that finds its own edge; its outline only says where and how large
    """

    recipe: Recipe
    ground: str = PAPER
    fade: bool = False
    caption: str = ""
    second: Recipe | None = None
    split: str = ""
    wide: int = 1
    mixing: str = IN_PUDDLE
    shape: str = BORDERED


@dataclass(frozen=True)
class Board:
    """Rows of slots; None leaves bare paper.

    Attributes
    ----------
    kind : str, of the sheet
    rows : tuple of tuple of Slot or None, all of one length
    row_labels, column_labels : tuple of str; none where empty
    aspect : float or None, height over width of a cell at most; a stroke is wider than high
    title : str, of a sheet that is given none
    full_names : bool, whether its labels are made smaller, then slanting, before one is cut to its cell, and stand at both
        ends of the rows
    """

    kind: str
    rows: tuple[tuple[Slot | None, ...], ...]
    row_labels: tuple[str, ...] = ()
    column_labels: tuple[str, ...] = ()
    aspect: float | None = None
    full_names: bool = False
    title: str = ""

    def __post_init__(self) -> None:
        if not self.rows or not self.rows[0]:
            raise CulmoError(
                tr("a sheet of the kind {kind} needs at least one cell; choose paints first", kind=self.kind)
            )
        if not any(slot is not None for row in self.rows for slot in row):
            raise CulmoError(tr("a sheet of the kind {kind} would be empty", kind=self.kind))

    @property
    def columns(self) -> int:
        """How many columns."""
        return len(self.rows[0])

    @property
    def captions(self) -> bool:
        """Whether any cell has a text below it."""
        return any(slot is not None and slot.caption for row in self.rows for slot in row)


@dataclass(frozen=True)
class _Fit:
    """A board on a paper: the cell, the space round the block, and how the labels stand.

    Attributes
    ----------
    width, height : float, of a cell in mm; at or below nothing where it does not fit
    side, top : float, what is left free for labels and title at each side, and at top and foot alike, so that the block
        stands in the middle
    foot : float, for the captions below the cells of a row
    label_mm : float, of the letters
    slant : bool, whether the names of the columns slant
    """

    paper: Paper
    width: float
    height: float
    side: float
    top: float
    foot: float
    label_mm: float
    slant: bool = False


def _most_mm(board: Board, page: Page, paper: Paper) -> float:
    """How wide a name may be: it must not eat the cells."""
    if board.full_names:
        return max(10.0, max(page.paper.width_mm, page.paper.height_mm) / 8.0)
    return max(10.0, paper.width_mm / 5.0)


def _fit(board: Board, page: Page, paper: Paper, measure: Measure) -> _Fit:
    """The largest cell on a paper as it lies. Full names stand upright where they can, if need be a little smaller."""
    full = page.label_mm
    if not board.full_names:
        return _fit_labels(board, page, paper, measure, full)
    for size in (full, 0.85 * full, 0.72 * full):
        fit = _fit_labels(board, page, paper, measure, size)
        if _widest(board.column_labels, board, page, paper, measure, size) <= fit.width - 1.0:
            return fit
    return _fit_labels(board, page, paper, measure, full, slant=True)


def _widest(
    texts: Sequence[str], board: Board, page: Page, paper: Paper, measure: Measure, size: float
) -> float:
    most = _most_mm(board, page, paper)
    return max((measure(shortened(text, size, most, measure), size) for text in texts), default=0.0)


def _fit_labels(
    board: Board, page: Page, paper: Paper, measure: Measure, size: float, slant: bool = False
) -> _Fit:
    pads = 2.0 if board.full_names else 1.0
    angle = math.radians(SLANT_DEG if slant else 0.0)
    widest = _widest(board.column_labels, board, page, paper, measure, size)
    side = (
        _widest(board.row_labels, board, page, paper, measure, size) + 2.0 * _PAD_MM
        if any(board.row_labels)
        else 0.0
    )
    top = page.title_mm + pads * _PAD_MM if page.title else 0.0
    top += widest * math.sin(angle) + size + pads * _PAD_MM if any(board.column_labels) else 0.0
    room_x = paper.width_mm - 2 * page.margin_mm - page.gutter_mm
    room_y = paper.height_mm - 2 * page.margin_mm - 2 * max(top, page.note_mm)
    foot = _CAPTION_MM + 1.4 if board.captions else 0.0
    width = _side(room_x - 2 * side, board.columns, page.gap_mm, page.step_mm)
    lean = widest * math.cos(angle) - width / 2 if slant else 0.0
    if lean > side:  # slanting names lean out over the right end
        side = lean + _PAD_MM
        width = _side(room_x - 2 * side, board.columns, page.gap_mm, page.step_mm)
    height = _side(room_y, len(board.rows), page.gap_mm + foot, page.step_mm, foot)
    if board.aspect is not None:
        height = min(height, _down(width * board.aspect, page.step_mm))
    if page.square:
        width = height = min(width, height)
    return _Fit(paper, width, height, side, top, foot, size, slant)


def _down(value: float, step: float) -> float:
    return math.floor(value / step + 1e-9) * step


def _side(room_mm: float, count: int, gap_mm: float, step_mm: float, extra_mm: float = 0.0) -> float:
    return _down((room_mm - (count - 1) * gap_mm - extra_mm) / count, step_mm)


def _needs(board: Board, page: Page, fit: _Fit, size: tuple[float, float]) -> tuple[float, float]:
    """The paper that cells of a size take, in mm."""
    rows, columns = len(board.rows), board.columns
    wide = columns * size[0] + (columns - 1) * page.gap_mm + 2 * (page.margin_mm + fit.side)
    high = rows * (size[1] + fit.foot) + (rows - 1) * page.gap_mm
    return wide + page.gutter_mm, high + 2 * (page.margin_mm + max(fit.top, page.note_mm))


def _too_small(board: Board, page: Page, fits: Sequence[_Fit], size: tuple[float, float]) -> CulmoError:
    width, height = min((_needs(board, page, fit, size) for fit in fits), key=lambda need: need[0] * need[1])
    return CulmoError(
        tr(
            '{columns} x {rows} cells of {size:g} x {size2:g} mm do not fit on paper "{name}": it needs at least '
            "{width} x {height} mm. Take a larger paper, fewer paints or smaller cells, or split the sheet",
            columns=board.columns,
            rows=len(board.rows),
            size=size[0],
            size2=size[1],
            name=page.paper.name,
            width=math.ceil(width),
            height=math.ceil(height),
        )
    )


def best_fit(board: Board, page: Page, measure: Measure = rough_width_mm) -> _Fit:
    """The way to lay the paper that gives the largest cells.

    Raises
    ------
    CulmoError
        when the wished cell, or any cell at all, does not fit
    """
    fits = [_fit(board, page, paper, measure) for paper in page.papers()]
    if page.cell_mm is not None:
        wished = page.cell_mm
        fitting = [fit for fit in fits if wished[0] <= fit.width + 1e-9 and wished[1] <= fit.height + 1e-9]
        if not fitting:
            raise _too_small(board, page, fits, wished)
        return replace(fitting[0], width=wished[0], height=wished[1])
    fit = max(fits, key=lambda fit: min(fit.width, fit.height) + 1e-3 * max(fit.width, fit.height))
    if min(fit.width, fit.height) < SMALLEST_MM:
        raise _too_small(board, page, fits, (LEAST_MM, LEAST_MM))
    return fit


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
    x0 = page.gutter_mm + (paper.width_mm - page.gutter_mm - block_w) / 2
    y0 = (paper.height_mm - block_h) / 2
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
            cells += slot_cells(slot, f"r{r + 1:02d}c{c + 1:02d}", box)
            if slot.caption:
                short = shortened(slot.caption, _CAPTION_MM, width, measure)
                labels.append(
                    Label(short, (lefts[c], tops[r] + fit.height + _CAPTION_MM + 0.4), 0.0, _CAPTION_MM)
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
    )


def _edges(starts: Sequence[float], size: float) -> tuple[float, ...]:
    edges: list[float] = []
    for start in starts:
        for edge in (start, start + size):
            if not edges or edge - edges[-1] > 1e-6:
                edges.append(edge)
    return tuple(edges)


def oblong(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    """The corners of an upright oblong, clockwise from the top left."""
    return (x, y), (x + w, y), (x + w, y + h), (x, y + h)


def oval(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    """An oval that stays clear of the edges of its box, as a polygon clockwise from the right."""
    turns = np.linspace(0.0, 2.0 * np.pi, _OVAL_CORNERS, endpoint=False)
    return tuple(
        (x + w / 2 + 0.46 * w * float(np.cos(turn)), y + h / 2 + 0.46 * h * float(np.sin(turn)))
        for turn in turns
    )


def slot_cells(slot: Slot, name: str, box: tuple[float, float, float, float]) -> list[Cell]:
    """The cell of a slot, the two of a split one, or the three of two strokes that meet.

    Parameters
    ----------
    slot : Slot
    name : str, the id of the cell; the second half has a "b" behind it, and the place where strokes meet an "m"
    box : x, y, width, height
    """
    x, y, w, h = box
    if not slot.split or slot.second is None:
        fade = ((x, y + h / 2), (x + w, y + h / 2)) if slot.fade else None
        outline = oval(x, y, w, h) if slot.shape == FREE else oblong(x, y, w, h)
        return [Cell(name, outline, slot.recipe, slot.ground, fade, mixing=slot.mixing, shape=slot.shape)]
    if slot.split == MEET:
        return _meeting_cells(slot, slot.second, name, box)
    first, second = _halves(box, slot.split)
    return [
        Cell(name, first, slot.recipe, slot.ground),
        Cell(f"{name}b", second, slot.second, slot.ground, half_of=name),
    ]


def _meeting_cells(
    slot: Slot, second: Recipe, name: str, box: tuple[float, float, float, float]
) -> list[Cell]:
    """Two strokes, and between them the place where the second runs into the first.

    Where they fade each is full where they meet, and clear water at its far end.
    """
    x, y, w, h = box
    y, h = (
        y + _ASIDE_SHARE * h,
        (1.0 - 2.0 * _ASIDE_SHARE) * h,
    )  # rows that touched would have to wait for each other
    between = min(max(_MEETING_SHARE * w, _LEAST_MEETING_MM), w / 3.0)
    stroke = (w - between) / 2.0
    middle, far = f"{name}m", f"{name}b"
    left, right = x + stroke, x + stroke + between
    fades: tuple[tuple[Point, Point] | None, ...] = (None, None)
    if slot.fade:
        fades = ((left, y + h / 2), (x, y + h / 2)), ((right, y + h / 2), (x + w, y + h / 2))
    both = Recipe((Layer(merged(slot.recipe, second), slot.recipe.layers[0].wash),))
    return [
        Cell(name, oblong(x, y, stroke, h), slot.recipe, slot.ground, fades[0], meets=(middle, far)),
        Cell(middle, oblong(left, y, between, h), both, slot.ground, meets=(name, far), mixing=MEETING),
        Cell(far, oblong(right, y, stroke, h), second, slot.ground, fades[1], meets=(name, middle)),
    ]


def merged(first: Recipe, second: Recipe) -> tuple[Part, ...]:
    """The paints of two recipes of one layer, each once; what runs together has no parts that could be told."""
    names = {part.name.casefold(): part for recipe in (first, second) for part in recipe.layers[0].parts}
    return tuple(Part(part.name) for part in names.values())


def _halves(
    box: tuple[float, float, float, float], split: str
) -> tuple[tuple[Point, ...], tuple[Point, ...]]:
    x, y, w, h = box
    if split == "halves":
        return oblong(x, y, w / 2, h), oblong(x + w / 2, y, w / 2, h)
    return ((x, y), (x + w, y + h), (x, y + h)), ((x, y), (x + w, y), (x + w, y + h))


def _labels(
    board: Board, page: Page, fit: _Fit, measure: Measure, lefts: Sequence[float], tops: Sequence[float]
) -> list[Label]:
    size, most = fit.label_mm, _most_mm(board, page, fit.paper)
    x0, y0 = lefts[0], tops[0]
    labels = []
    if page.title:
        base = y0 - fit.top + page.title_mm + (_PAD_MM if board.full_names else 0.0)
        short = shortened(page.title, page.title_mm, fit.paper.width_mm - page.tape_mm - x0, measure)
        labels.append(Label(short, (x0, base), 0.0, page.title_mm))
    labels += _column_labels(board, fit, measure, lefts, y0 - _PAD_MM, most)
    for text, top in zip(board.row_labels, tops, strict=False):
        short = shortened(text, size, most, measure)
        if not short:
            continue
        base = top + fit.height / 2 + 0.35 * size
        labels.append(Label(short, (x0 - _PAD_MM - measure(short, size), base), 0.0, size))
        if board.full_names:  # the same space stands free at the right: the row is named at both ends
            labels.append(Label(short, (lefts[-1] + fit.width + _PAD_MM, base), 0.0, size))
    return labels


def _column_labels(
    board: Board, fit: _Fit, measure: Measure, lefts: Sequence[float], base: float, most: float
) -> list[Label]:
    labels = []
    for text, left in zip(board.column_labels, lefts, strict=False):
        size, room = fit.label_mm, most
        if not board.full_names:
            size = size if measure(text, size) <= fit.width - 1.0 else 0.75 * size
            room = max(fit.width - 1.0, 3.0)
        short = shortened(text, size, room, measure)
        middle = left + fit.width / 2
        if fit.slant:
            labels.append(Label(short, (middle - size * 0.2, base), -SLANT_DEG, size))
        elif short:
            labels.append(Label(short, (middle - measure(short, size) / 2, base), 0.0, size))
    return [label for label in labels if label.text]


def wrapped(
    kind: str, title: str, lines: Sequence[Sequence[Recipe]], columns: int, fade: bool = False
) -> Board:
    """Lines of recipes with captions, each line wrapped at a number of columns.

    Parameters
    ----------
    kind, title : str
    lines : sequence of sequence of Recipe
    columns : int
    fade : bool, whether pure paints run to clear water
    """
    rows: list[tuple[Slot | None, ...]] = []
    for line in lines:
        for start in range(0, len(line), columns):
            row: list[Slot | None] = [
                Slot(recipe, fade=fade and recipe.is_pure, caption=str(recipe))
                for recipe in line[start : start + columns]
            ]
            rows.append(tuple(row + [None] * (columns - len(row))))
    return Board(kind, tuple(rows), aspect=0.75, title=title)


def wrapped_page(kind: str, title: str, recipes: Sequence[Recipe]) -> Board:
    """Recipes in rows that fill a page."""
    columns = next(n for n in range(2, len(recipes) + 2) if n * n * 0.6 >= len(recipes))
    return wrapped(kind, title, [recipes], columns)


def split_board(
    board: Board, page: Page, least_mm: float = LEAST_MM, measure: Measure = rough_width_mm
) -> list[Board]:
    """A board as several that join, each with cells of at least a size; the board alone where it fits.

    Rows are kept together as long as columns can be cut, and both are cut evenly.

    Parameters
    ----------
    board : Board
    page : Page
    least_mm : float, the least useful cell
    measure : function of (text, size in mm)

    Raises
    ------
    CulmoError
        when not even one cell of that size fits on the paper
    """
    for pieces in range(1, len(board.rows) * board.columns + 1):
        for down in range(1, pieces + 1):
            if pieces % down or down > len(board.rows) or pieces // down > board.columns:
                continue
            parts = [
                _part(board, rows, columns)
                for rows in _cut(len(board.rows), down)
                for columns in _cut(board.columns, pieces // down)
            ]
            if all(_has_cells_of(least_mm, part, page, measure) for part in parts):
                return parts
    fits = [_fit(board, page, paper, measure) for paper in page.papers()]
    raise _too_small(board, page, fits, (least_mm, least_mm))


def _has_cells_of(least_mm: float, board: Board, page: Page, measure: Measure) -> bool:
    fits = (_fit(board, page, paper, measure) for paper in page.papers())
    return any(min(fit.width, fit.height) >= least_mm - 1e-9 for fit in fits)


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
