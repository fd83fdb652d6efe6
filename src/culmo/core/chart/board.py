"""Boards: rows and columns of cells with labels, laid out for the paper one owns. Most kinds of sheet are boards."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

from culmo.core.chart.box import shortened
from culmo.core.chart.grid import Measure, rough_width_mm
from culmo.core.chart.papers import MM_PER_INCH, Paper
from culmo.core.chart.sheet import Cell, Label, Point, Ruling, Sheet
from culmo.core.paint.readings import PAPER
from culmo.core.paint.recipe import Recipe
from culmo.errors import CulmoError
from culmo.words import tr

ORIENTATIONS = ("best", "portrait", "landscape")
LEAST_MM = 15.0
SMALLEST_MM = 4.0
_PAD_MM = 2.0
_CAPTION_MM = 2.4
MARK_MM = 5.0


@dataclass(frozen=True)
class Page:
    """The paper and how it is used; every kind of sheet has these choices.

    Attributes
    ----------
    paper : Paper, as bought; it is turned where that gives larger cells
    title : str
    orientation : str, "best", "portrait" or "landscape"
    tape_mm : float, >= 0, margin under the tape
    gap_mm : float, 0..50, bare paper between cells
    cell_mm : (width, height) wished, or None for the largest that fits
    square : bool
    unit : str, "mm" rounds cells to half millimetres, "in" to sixteenths of an inch
    note_mm : float, >= 0, a strip for notes at the foot
    gutter_mm : float, >= 0, what a spiral or a fold takes from the left edge
    marks : bool, corner marks that a picture of the sheet is found by
    """

    paper: Paper
    title: str = ""
    orientation: str = "best"
    tape_mm: float = 6.0
    gap_mm: float = 0.0
    cell_mm: tuple[float, float] | None = None
    square: bool = False
    unit: str = "mm"
    note_mm: float = 0.0
    gutter_mm: float = 0.0
    marks: bool = False

    def __post_init__(self) -> None:
        if self.orientation not in ORIENTATIONS:
            raise CulmoError(tr("the orientation must be one of {what}", what=", ".join(ORIENTATIONS)))
        if self.unit not in ("mm", "in"):
            raise CulmoError(tr('the unit is "{unit}"; it must be "mm" or "in"', unit=self.unit))
        for word, value, most in (
            (tr("tape margin"), self.tape_mm, 500.0), ("gap", self.gap_mm, 50.0), (tr("note strip"), self.note_mm, 200.0),
            ("gutter", self.gutter_mm, 80.0),
        ):  # fmt: skip
            if not 0.0 <= value <= most:
                raise CulmoError(
                    tr(
                        "the {word} is {value:g} mm; it must lie between 0 and {most:g} mm",
                        word=word,
                        value=value,
                        most=most,
                    )
                )
        room = min(self.paper.width_mm, self.paper.height_mm) - 2.0 * self.tape_mm - self.gutter_mm
        if room < 20.0:
            raise CulmoError(
                tr(
                    'a tape margin of {tape_mm:g} mm leaves no room on paper "{name}"',
                    tape_mm=self.tape_mm,
                    name=self.paper.name,
                )
            )
        if self.cell_mm is not None and min(self.cell_mm) < 2.0:
            raise CulmoError(tr("a cell must be at least 2 mm wide and high"))

    @property
    def step_mm(self) -> float:
        """What a ruler can do."""
        return 0.5 if self.unit == "mm" else MM_PER_INCH / 16.0

    def papers(self) -> list[Paper]:
        """The paper as it may lie."""
        short, long = sorted((self.paper.width_mm, self.paper.height_mm))
        portrait = Paper(self.paper.name, short, long)
        if self.orientation == "portrait" or short == long:
            return [portrait]
        return [portrait.turned()] if self.orientation == "landscape" else [portrait.turned(), portrait]

    @property
    def label_mm(self) -> float:
        """Labels grow with the paper, so that they are read from where the sheet is looked at."""
        return min(4.4, max(2.8, 4.4 * max(self.paper.width_mm, self.paper.height_mm) / 420.0))

    @property
    def title_mm(self) -> float:
        """The size of the title; none takes no room."""
        return 1.6 * self.label_mm if self.title else 0.0

    def settings(self) -> dict[str, Any]:
        """The choices as plain values."""
        return {
            "paper": {
                "name": self.paper.name, "width_mm": self.paper.width_mm, "height_mm": self.paper.height_mm,
            },
            "orientation": self.orientation, "tape_mm": self.tape_mm, "gap_mm": self.gap_mm,
            "cell_mm": list(self.cell_mm) if self.cell_mm else None, "square": self.square, "unit": self.unit,
            "note_mm": self.note_mm, "gutter_mm": self.gutter_mm, "marks": self.marks, "title": self.title,
        }  # fmt: skip


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
    split : str, "", "diagonal" or "halves"
    wide : int, how many columns it takes
    """

    recipe: Recipe
    ground: str = PAPER
    fade: bool = False
    caption: str = ""
    second: Recipe | None = None
    split: str = ""
    wide: int = 1


@dataclass(frozen=True)
class Board:
    """Rows of slots; None leaves bare paper.

    Attributes
    ----------
    kind : str, of the sheet
    rows : tuple of tuple of Slot or None, all of one length
    row_labels, column_labels : tuple of str; none where empty
    aspect : float or None, height over width of a cell at most; a stroke is wider than high
    settings : mapping, what the board was made from
    """

    kind: str
    rows: tuple[tuple[Slot | None, ...], ...]
    row_labels: tuple[str, ...] = ()
    column_labels: tuple[str, ...] = ()
    aspect: float | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)

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
    """A board on a paper: the cell and the space round the block."""

    paper: Paper
    width: float
    height: float
    left: float
    top: float
    foot: float


def _fit(board: Board, page: Page, paper: Paper, measure: Measure) -> _Fit:
    size = page.label_mm
    most = max(10.0, paper.width_mm / 5.0)
    widest = max((min(measure(text, size), most) for text in board.row_labels), default=0.0)
    left = widest + 2.0 * _PAD_MM if board.row_labels else 0.0
    top = (page.title_mm + _PAD_MM if page.title else 0.0) + (size + _PAD_MM if board.column_labels else 0.0)
    margin = page.tape_mm + (MARK_MM + 1.0 if page.marks else 0.0)
    # the labels at the left are balanced by bare paper at the right, so that the block stands in the middle
    room_x = paper.width_mm - 2 * margin - page.gutter_mm - 2 * left
    room_y = paper.height_mm - 2 * margin - 2 * max(top, page.note_mm)
    caption = _CAPTION_MM + 1.4 if board.captions else 0.0
    width = _side(room_x, board.columns, page.gap_mm, page.step_mm)
    height = _side(room_y, len(board.rows), page.gap_mm + caption, page.step_mm, caption)
    if board.aspect is not None:
        height = min(height, _down(width * board.aspect, page.step_mm))
    if page.square:
        width = height = min(width, height)
    return _Fit(paper, width, height, left, top, caption)


def _down(value: float, step: float) -> float:
    return math.floor(value / step + 1e-9) * step


def _side(room_mm: float, count: int, gap_mm: float, step_mm: float, extra_mm: float = 0.0) -> float:
    return _down((room_mm - (count - 1) * gap_mm - extra_mm) / count, step_mm)


def _too_small(board: Board, page: Page, size: tuple[float, float]) -> CulmoError:
    return CulmoError(
        tr(
            '{n} x {columns} cells of {size:g} x {size2:g} mm do not fit on paper "{name}". Take a '
            "larger paper, fewer paints or smaller cells, or split the sheet",
            n=len(board.rows),
            columns=board.columns,
            size=size[0],
            size2=size[1],
            name=page.paper.name,
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
            raise _too_small(board, page, wished)
        return replace(fitting[0], width=wished[0], height=wished[1])
    fit = max(fits, key=lambda fit: min(fit.width, fit.height) + 1e-3 * max(fit.width, fit.height))
    if min(fit.width, fit.height) < SMALLEST_MM:
        raise _too_small(board, page, (LEAST_MM, LEAST_MM))
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
        title=page.title or board.kind.capitalize(),
        kind=board.kind,
        paper=paper,
        frame_mm=(x0, y0, block_w, block_h),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(_edges(lefts, fit.width), _edges(tops, fit.height)),
        settings={**page.settings(), **board.settings},
        marks_mm=corner_marks(paper, page.tape_mm) if page.marks else (),
    )


def corner_marks(paper: Paper, tape_mm: float) -> tuple[tuple[float, float, float], ...]:
    """Black squares in the corners of the paper, inside the tape: x, y of the corner and side."""
    near, far_x, far_y = tape_mm, paper.width_mm - tape_mm - MARK_MM, paper.height_mm - tape_mm - MARK_MM
    return ((near, near, MARK_MM), (far_x, near, MARK_MM), (far_x, far_y, MARK_MM), (near, far_y, MARK_MM))


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


def slot_cells(slot: Slot, name: str, box: tuple[float, float, float, float]) -> list[Cell]:
    """The cell of a slot, or the two of a split one.

    Parameters
    ----------
    slot : Slot
    name : str, the id of the cell; the second half has a "b" behind it
    box : x, y, width, height
    """
    x, y, w, h = box
    if not slot.split or slot.second is None:
        fade = ((x, y + h / 2), (x + w, y + h / 2)) if slot.fade else None
        return [Cell(name, oblong(x, y, w, h), slot.recipe, slot.ground, fade)]
    first, second = _halves(box, slot.split)
    return [Cell(name, first, slot.recipe, slot.ground), Cell(f"{name}b", second, slot.second, slot.ground)]


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
    labels, size = [], page.label_mm
    x0, y0 = lefts[0], tops[0]
    above = y0 - _PAD_MM
    for text, left in zip(board.column_labels, lefts, strict=False):
        fitted = size if measure(text, size) <= fit.width - 1.0 else 0.75 * size
        short = shortened(text, fitted, max(fit.width - 1.0, 3.0), measure)
        if short:
            labels.append(Label(short, (left + (fit.width - measure(short, fitted)) / 2, above), 0.0, fitted))
    most = max(10.0, fit.paper.width_mm / 5.0)
    for text, top in zip(board.row_labels, tops, strict=False):
        short = shortened(text, size, most, measure)
        if short:
            at = (x0 - _PAD_MM - measure(short, size), top + fit.height / 2 + 0.35 * size)
            labels.append(Label(short, at, 0.0, size))
    if page.title:
        base = y0 - (size + _PAD_MM if board.column_labels else 0.0) - _PAD_MM
        short = shortened(page.title, page.title_mm, fit.paper.width_mm - x0 - page.tape_mm, measure)
        labels.append(Label(short, (x0, base), 0.0, page.title_mm))
    return labels


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
            fits = [_fit(part, page, paper, measure) for part in parts for paper in page.papers()]
            by_part = [fits[i : i + len(page.papers())] for i in range(0, len(fits), len(page.papers()))]
            if all(any(min(f.width, f.height) >= least_mm - 1e-9 for f in options) for options in by_part):
                return parts
    raise _too_small(board, page, (least_mm, least_mm))


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
