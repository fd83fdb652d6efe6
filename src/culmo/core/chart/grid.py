"""The grid chart: every paint with every paint, laid out for the paper one owns."""

import math
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace

from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Cell, Label, Ruling, Sheet
from culmo.core.paint.recipe import TINT, Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

SECOND_HALVES = ("paler", "white", "dominance", "third", "same", "empty")
_PAD_MM = 2.0
SLANT_DEG = 40.0

Measure = Callable[[str, float], float]


def rough_width_mm(text: str, size_mm: float) -> float:
    """The width of a text where no font is at hand: a little more than a humanist sans takes."""
    return 0.52 * size_mm * len(text)


@dataclass(frozen=True)
class GridPlan:
    """What a grid is made from.

    Attributes
    ----------
    paints : tuple of str, names, at least two, in order down and across
    paper : Paper, as bought; it is turned where that gives larger cells
    title : str
    orientation : str, "best", "portrait" or "landscape"
    tape_mm : float, >= 0, margin under the tape
    gap_mm : float, >= 0, bare paper between cells
    cell_mm : (width, height) wished, or None for the largest that fits
    square : bool, whether cells must be square
    step_mm : float, cells are rounded down to whole multiples of this
    second : str, what goes above the diagonal, one of SECOND_HALVES
    extra : str, the white or the third paint, where `second` needs one
    labels : tuple of str, what to write for each paint; the names where empty
    centre : str, "frame" puts the ruled block in the middle of the paper, "all" the block with its labels
    """

    paints: tuple[str, ...]
    paper: Paper
    title: str = ""
    orientation: str = "best"
    tape_mm: float = 6.0
    gap_mm: float = 0.0
    cell_mm: tuple[float, float] | None = None
    square: bool = False
    step_mm: float = 0.5
    second: str = "paler"
    extra: str = ""
    labels: tuple[str, ...] = ()
    centre: str = "frame"

    def __post_init__(self) -> None:
        if len(self.paints) < 2:
            raise CulmoError(tr("a grid needs at least two paints"))
        if len({name.casefold() for name in self.paints}) != len(self.paints):
            raise CulmoError(tr("a grid can not hold the same paint twice"))
        if self.second not in SECOND_HALVES:
            raise CulmoError(
                tr(
                    'the second half "{second}" must be one of {what}',
                    second=self.second,
                    what=", ".join(SECOND_HALVES),
                )
            )
        if self.second in ("white", "third") and not self.extra:
            raise CulmoError(tr('the second half "{second}" needs a paint to add', second=self.second))
        if self.orientation not in ("best", "portrait", "landscape"):
            raise CulmoError(tr('the orientation must be "best", "portrait" or "landscape"'))
        if not 0.0 <= self.gap_mm <= 50.0:
            raise CulmoError(
                tr("the gap is {gap_mm:g} mm; it must lie between 0 and 50 mm", gap_mm=self.gap_mm)
            )
        room = min(self.paper.width_mm, self.paper.height_mm) - 2.0 * self.tape_mm
        if self.tape_mm < 0.0 or room < 20.0:
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
    def texts(self) -> tuple[str, ...]:
        """The label of each paint."""
        return self.labels if len(self.labels) == len(self.paints) else self.paints


def _label_mm(plan: GridPlan) -> float:
    """Labels grow with the paper, so that they are read from where the sheet is looked at."""
    return min(4.4, max(2.8, 4.4 * max(plan.paper.width_mm, plan.paper.height_mm) / 420.0))


def _title_mm(plan: GridPlan) -> float:
    return 1.6 * _label_mm(plan)


def short_labels(plan: GridPlan, size_mm: float, measure: Measure) -> tuple[str, ...]:
    """The labels, cut short where one would take more than an eighth of the sheet from the cells.

    Parameters
    ----------
    plan : GridPlan
    size_mm : float, of the letters
    measure : function of (text, size in mm) that gives a width in mm
    """
    most = max(10.0, max(plan.paper.width_mm, plan.paper.height_mm) / 8.0)
    result = []
    for text in plan.texts:
        short = text
        while len(short) > 2 and measure(short, size_mm) > most:
            short = short[:-2].rstrip(" ,;:…") + "…"
        result.append(short)
    return tuple(result)


@dataclass(frozen=True)
class _Bands:
    """Space round the block for labels and title."""

    left: float
    right: float
    top: float
    bottom: float


@dataclass(frozen=True)
class _Fit:
    paper: Paper
    width: float
    height: float
    slant: bool
    bands: _Bands
    label_mm: float


def grid_recipe(plan: GridPlan, row: int, column: int) -> Recipe | None:
    """What goes into a cell; None where the second half is left empty.

    Parameters
    ----------
    plan : GridPlan
    row, column : int, from 0
    """
    if row == column:
        return mix([plan.paints[row]])
    first, second = plan.paints[min(row, column)], plan.paints[max(row, column)]
    if row > column:
        return mix([first, second], [2, 1]) if plan.second == "dominance" else mix([first, second])
    if plan.second == "empty":
        return None
    if plan.second == "paler":
        return mix([first, second], wash=TINT)
    if plan.second == "dominance":
        return mix([first, second], [1, 2])
    if plan.second == "same":
        return mix([first, second])
    return _without_doubles(mix([first, second, plan.extra]))


def _without_doubles(recipe: Recipe) -> Recipe:
    """A third paint that is one of the two becomes a second part of it."""
    amounts: dict[str, float] = {}
    for part in recipe.layers[0].parts:
        amounts[part.name] = amounts.get(part.name, 0.0) + part.parts
    return mix(amounts, amounts.values(), recipe.layers[0].wash)


def _fit(plan: GridPlan, paper: Paper, measure: Measure) -> _Fit:
    """The largest cell on a paper as it lies; sizes may come out at or below nothing.

    Labels stand upright where they can, if need be a little smaller; else they slant.
    """
    full = _label_mm(plan)
    fits = [
        _fit_labels(plan, paper, measure, size, slant)
        for size, slant in ((full, False), (0.85 * full, False), (0.72 * full, False), (full, True))
    ]
    for fit in fits[:3]:
        if (
            max(measure(text, fit.label_mm) for text in short_labels(plan, fit.label_mm, measure))
            <= fit.width - 1.0
        ):
            return fit
    return fits[3]


def _fit_labels(plan: GridPlan, paper: Paper, measure: Measure, size: float, slant: bool) -> _Fit:
    n = len(plan.paints)
    widest = max(measure(text, size) for text in short_labels(plan, size, measure))
    angle = math.radians(SLANT_DEG if slant else 0.0)
    left = right = widest + 2.0 * _PAD_MM
    top = widest * math.sin(angle) + size + 2.0 * _PAD_MM
    top += _title_mm(plan) + 2.0 * _PAD_MM if plan.title else 0.0
    bottom = top
    if plan.centre == "all":
        right, bottom = _PAD_MM, 8.0
    room = paper.width_mm - 2.0 * plan.tape_mm
    width = _cell_side(room - left - right, n, plan)
    lean = widest * math.cos(angle) - width / 2 if slant else 0.0
    if lean > right:  # slanted labels lean out over the right end
        right = lean + _PAD_MM
        left = right if plan.centre == "frame" else left
        width = _cell_side(room - left - right, n, plan)
    height = _cell_side(paper.height_mm - 2.0 * plan.tape_mm - top - bottom, n, plan)
    if plan.square:
        width = height = min(width, height)
    return _Fit(paper, width, height, slant, _Bands(left, right, top, bottom), size)


def _cell_side(room_mm: float, n: int, plan: GridPlan) -> float:
    raw = (room_mm - (n - 1) * plan.gap_mm) / n
    return math.floor(raw / plan.step_mm + 1e-9) * plan.step_mm


def _candidates(plan: GridPlan) -> list[Paper]:
    short, long = sorted((plan.paper.width_mm, plan.paper.height_mm))
    portrait = Paper(plan.paper.name, short, long)
    if plan.orientation == "portrait":
        return [portrait]
    if plan.orientation == "landscape":
        return [portrait.turned()]
    return [portrait.turned(), portrait] if long > short else [portrait]


def _needs(plan: GridPlan, fit: _Fit, size: tuple[float, float]) -> tuple[float, float]:
    n = len(plan.paints)
    gaps = (n - 1) * plan.gap_mm + 2 * plan.tape_mm
    return (
        n * size[0] + gaps + fit.bands.left + fit.bands.right,
        n * size[1] + gaps + fit.bands.top + fit.bands.bottom,
    )


def plan_grid(plan: GridPlan, measure: Measure = rough_width_mm) -> Sheet:
    """Lay out a grid chart.

    Parameters
    ----------
    plan : GridPlan
    measure : function of (text, size in mm) that gives a text's width in mm

    Raises
    ------
    CulmoError
        when it does not fit, with the paper that it takes
    """
    fits = [_fit(plan, paper, measure) for paper in _candidates(plan)]
    wished = plan.cell_mm
    if wished is not None:
        fitting = [fit for fit in fits if wished[0] <= fit.width + 1e-9 and wished[1] <= fit.height + 1e-9]
        if not fitting:
            raise _too_small(plan, fits, wished)
        fit = replace(fitting[0], width=wished[0], height=wished[1])
    else:
        fit = max(fits, key=lambda fit: min(fit.width, fit.height))
        if min(fit.width, fit.height) < 4.0:
            raise _too_small(plan, fits, (15.0, 15.0))
    return _draw_up(plan, fit, measure)


def _too_small(plan: GridPlan, fits: list[_Fit], size: tuple[float, float]) -> CulmoError:
    width, height = min((_needs(plan, fit, size) for fit in fits), key=lambda need: need[0] * need[1])
    n = len(plan.paints)
    return CulmoError(
        tr(
            '{n} x {n} cells of {size:g} x {size2:g} mm do not fit on paper "{name}": it needs at '
            "least {ceil} x {ceil2} mm. Take a larger paper, fewer paints or smaller cells",
            n=n,
            size=size[0],
            size2=size[1],
            name=plan.paper.name,
            ceil=math.ceil(width),
            ceil2=math.ceil(height),
        )
    )


def _draw_up(plan: GridPlan, fit: _Fit, measure: Measure) -> Sheet:
    n, paper = len(plan.paints), fit.paper
    block_w = n * fit.width + (n - 1) * plan.gap_mm
    block_h = n * fit.height + (n - 1) * plan.gap_mm
    if plan.centre == "frame":
        x0, y0 = (paper.width_mm - block_w) / 2, (paper.height_mm - block_h) / 2
    else:
        x0 = (paper.width_mm - block_w + fit.bands.left - fit.bands.right) / 2
        y0 = (paper.height_mm - block_h + fit.bands.top - fit.bands.bottom) / 2
    lefts = [x0 + i * (fit.width + plan.gap_mm) for i in range(n)]
    tops = [y0 + i * (fit.height + plan.gap_mm) for i in range(n)]
    cells = []
    for row, top in enumerate(tops):
        for column, left in enumerate(lefts):
            recipe = grid_recipe(plan, row, column)
            if recipe is not None:
                right, low = left + fit.width, top + fit.height
                outline = ((left, top), (right, top), (right, low), (left, low))
                cells.append(Cell(f"r{row + 1:02d}c{column + 1:02d}", outline, recipe))
    settings = asdict(plan)
    settings["paper"] = {
        "name": plan.paper.name,
        "width_mm": plan.paper.width_mm,
        "height_mm": plan.paper.height_mm,
    }
    return Sheet(
        title=plan.title or tr("Grid of {n}", n=n),
        kind="grid",
        paper=paper,
        frame_mm=(x0, y0, block_w, block_h),
        cells=tuple(cells),
        labels=tuple(_labels(plan, fit, measure, lefts, tops, x0, y0)),
        ruling=Ruling(_lines(lefts, fit.width, plan.gap_mm), _lines(tops, fit.height, plan.gap_mm)),
        settings=settings,
    )


def _lines(starts: Sequence[float], size: float, gap: float) -> tuple[float, ...]:
    if gap == 0.0:
        return (*starts, starts[-1] + size)
    return tuple(edge for start in starts for edge in (start, start + size))


def _labels(
    plan: GridPlan, fit: _Fit, measure: Measure, lefts: list[float], tops: list[float], x0: float, y0: float
) -> list[Label]:
    labels, size, title = [], fit.label_mm, _title_mm(plan)
    texts = short_labels(plan, size, measure)
    if plan.title:
        short = plan.title
        while len(short) > 2 and x0 + measure(short, title) > fit.paper.width_mm - plan.tape_mm:
            short = short[:-2].rstrip(" ,;:…") + "…"
        labels.append(Label(short, (x0, y0 - fit.bands.top + title + _PAD_MM), 0.0, title))
    base = y0 - _PAD_MM
    for text, left in zip(texts, lefts, strict=True):
        middle = left + fit.width / 2
        if fit.slant:
            labels.append(Label(text, (middle - size * 0.2, base), -SLANT_DEG, size))
        else:
            labels.append(Label(text, (middle - measure(text, size) / 2, base), 0.0, size))
    for text, top in zip(texts, tops, strict=True):
        at = (x0 - _PAD_MM - measure(text, size), top + fit.height / 2 + size * 0.35)
        labels.append(Label(text, at, 0.0, size))
        if plan.centre == "frame":  # the same space stands free at the right: the row is named at both ends
            end = lefts[-1] + fit.width + _PAD_MM
            labels.append(Label(text, (end, at[1]), 0.0, size))
    return labels
