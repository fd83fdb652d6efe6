"""Boards: rows and columns of cells with labels, laid out for the paper one owns. Most kinds of sheet are boards."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from culmo.core.chart.sheet import BORDERED, FREE, Cell, Point
from culmo.core.paint.readings import PAPER, MixedHow
from culmo.core.paint.recipe import Layer, Part, Recipe
from culmo.errors import CulmoError
from culmo.words import tr

SMALLEST_MM = 4.0
PAD_MM = 2.0
CAPTION_MM = 2.4
SLANT_DEG = 40.0
MEET = "meet"
_MEETING_SHARE, _LEAST_MEETING_MM, _ASIDE_SHARE = 0.2, 6.0, 0.06
_OVAL_CORNERS, _DAB_CORNERS = 28, 36


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
    mixing: str = MixedHow.IN_PUDDLE
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
    shorter : mapping from a label to what stands for it where there is no room for all of it: its pigment codes
    """

    kind: str
    rows: tuple[tuple[Slot | None, ...], ...]
    row_labels: tuple[str, ...] = ()
    column_labels: tuple[str, ...] = ()
    aspect: float | None = None
    full_names: bool = False
    title: str = ""
    shorter: Mapping[str, str] = field(default_factory=dict)

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


def oblong(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    """The corners of an upright oblong, clockwise from the top left."""
    return (x, y), (x + w, y), (x + w, y + h), (x, y + h)


def oval(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    """An oval that stays clear of the edges of its box, as a polygon clockwise from the right."""
    return _round((x + w / 2, y + h / 2), 0.46 * w, 0.46 * h, _OVAL_CORNERS)


def dab(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    """The largest circle in a box, as a polygon clockwise from the right."""
    return _round((x + w / 2, y + h / 2), min(w, h) / 2, min(w, h) / 2, _DAB_CORNERS)


def _round(middle: Point, across: float, down: float, corners: int) -> tuple[Point, ...]:
    turns = np.linspace(0.0, 2.0 * np.pi, corners, endpoint=False)
    return tuple(
        (middle[0] + across * float(np.cos(turn)), middle[1] + down * float(np.sin(turn))) for turn in turns
    )


def slot_cells(
    slot: Slot, name: str, box: tuple[float, float, float, float], round_cells: bool = False
) -> list[Cell]:
    """The cell of a slot, the two of a split one, or the three of two strokes that meet.

    Parameters
    ----------
    slot : Slot
    name : str, the id of the cell; the second half has a "b" behind it, and the place where strokes meet an "m"
    box : x, y, width, height
    round_cells : bool, whether what is whole and does not fade is a dab
    """
    x, y, w, h = box
    if not slot.split or slot.second is None:
        fade = ((x, y + h / 2), (x + w, y + h / 2)) if slot.fade else None
        shape = oval if slot.shape == FREE else dab if round_cells and not slot.fade else oblong
        outline = shape(x, y, w, h)
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
        Cell(
            middle, oblong(left, y, between, h), both, slot.ground, meets=(name, far), mixing=MixedHow.MEETING
        ),
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
