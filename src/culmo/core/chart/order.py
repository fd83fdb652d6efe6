"""The order of work: no wet cell touches a wet cell, few rinses, little waiting."""

import math
from collections import defaultdict
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.paint.recipe import FULL, Recipe, format_recipe
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.words import tr

SHARED_EDGE_MM = 1.0
_NEAR_MM = 0.05  # two lines closer than this are the same pencil line


@dataclass(frozen=True)
class Pace:
    """How long the painter takes.

    Attributes
    ----------
    dry_minutes : float, > 0, how long a cell stays wet
    cell_minutes, puddle_minutes, rinse_minutes, water_minutes : float, >= 0
    rinses_per_water : int, > 0, rinses until the water is changed
    """

    dry_minutes: float = 15.0
    cell_minutes: float = 0.3
    puddle_minutes: float = 0.4
    rinse_minutes: float = 0.15
    water_minutes: float = 1.0
    rinses_per_water: int = 15

    def __post_init__(self) -> None:
        if not 0.0 < self.dry_minutes <= 24 * 60:
            raise CulmoError(
                tr(
                    "the drying time is {dry_minutes:g} minutes; it must lie above 0 and within a day",
                    dry_minutes=self.dry_minutes,
                )
            )


@dataclass(frozen=True)
class WorkCost:
    """What an order costs."""

    cells: int
    puddles: int
    rinses: int
    waters: int
    wait_minutes: float
    minutes: float
    naive_rinses: int


def puddle_of(recipe: Recipe) -> Recipe:
    """The puddle that the top wash of a recipe is taken from: its paints and parts, at full strength."""
    return (
        recipe.key.with_wash(FULL)
        if len(recipe.layers) == 1
        else Recipe(recipe.key.layers[:1]).with_wash(FULL)
    )


def neighbours(cells: Sequence[Cell]) -> dict[str, set[str]]:
    """Which cells share more than 1 mm of outline.

    Parameters
    ----------
    cells : sequence of Cell

    Returns
    -------
    dict from cell id to a set of ids
    """
    lines: dict[tuple[int, int], list[tuple[str, float, float, float]]] = defaultdict(list)
    for cell in cells:
        points = cell.outline_mm
        for (x, y), (to_x, to_y) in zip(points, (*points[1:], points[0]), strict=True):
            if math.hypot(to_x - x, to_y - y) <= SHARED_EDGE_MM:
                continue
            angle = math.atan2(to_y - y, to_x - x) % math.pi
            if math.pi - angle < 1e-4:
                angle = 0.0
            cos, sin = math.cos(angle), math.sin(angle)
            offset = y * cos - x * sin
            ends = sorted((x * cos + y * sin, to_x * cos + to_y * sin))
            entry = (cell.id, offset, ends[0], ends[1])
            lines[(round(angle * 200), round(offset))].append(entry)
    found: dict[str, set[str]] = {cell.id: set() for cell in cells}
    for (angle_key, offset_key), entries in list(lines.items()):
        near = entries + lines.get((angle_key, offset_key + 1), [])
        for name, offset, low, high in entries:
            for other, other_offset, other_low, other_high in near:
                shared = min(high, other_high) - max(low, other_low)
                if other != name and abs(offset - other_offset) < _NEAR_MM and shared > SHARED_EDGE_MM:
                    found[name].add(other)
                    found[other].add(name)
    return found


class _Table:
    """The painter's table while the order is made."""

    def __init__(self, beside: dict[str, set[str]], pace: Pace) -> None:
        self.pace = pace
        self.beside = beside
        self.dry_at: dict[str, float] = {}
        self.now = 0.0
        self.rinses_left = pace.rinses_per_water
        self.steps: list[dict[str, Any]] = []
        self.order: dict[str, tuple[int, float]] = {}
        self.brush: Recipe | None = None

    def free_at(self, cell_id: str) -> float:
        """When the last wet neighbour, and the layer below, have dried."""
        whole = _whole(cell_id)
        return max(self.dry_at.get(other, 0.0) for other in (whole, *self.beside[whole]))

    def puddle_cost(self, puddle: Recipe) -> float:
        if puddle == self.brush:
            return 0.0
        return self.pace.puddle_minutes + (self.pace.rinse_minutes if self.brush else 0.0)

    def take_puddle(self, puddle: Recipe, text: str) -> None:
        if puddle == self.brush:
            return
        if self.brush is not None:
            if self.rinses_left == 0:
                self.steps.append({"do": "water"})
                self.now += self.pace.water_minutes
                self.rinses_left = self.pace.rinses_per_water
            self.steps.append({"do": "rinse"})
            self.now += self.pace.rinse_minutes
            self.rinses_left -= 1
        self.steps.append({"do": "puddle", "recipe": text})
        self.now += self.pace.puddle_minutes
        self.brush = puddle

    def wait_until(self, minute: float) -> None:
        if minute > self.now + 1e-9:
            self.steps.append({"do": "wait", "minutes": round(minute - self.now, 2)})
            self.now = minute

    def paint(self, cell: Cell) -> None:
        start = round(self.now, 2)
        self.now = start
        whole = _whole(cell.id)
        if whole == cell.id:
            self.order[cell.id] = (len(self.order) + 1, start)
            self.steps.append({"do": "cell", "cell": cell.id, "at_minute": start})
        else:  # a layer below, which the cell itself follows when it is dry
            text = format_recipe(cell.recipe)
            self.steps.append({"do": "under", "cell": whole, "recipe": text, "at_minute": start})
        self.dry_at[whole] = start + self.pace.dry_minutes
        self.now += self.pace.cell_minutes


def _phase(recipe: Recipe) -> int:
    return 0 if recipe.is_pure else len(recipe.layers)


_BELOW = "\0"  # between a cell's id and the number of a layer below; no id holds it


def _whole(cell_id: str) -> str:
    """The id of the cell that a layer belongs to."""
    return cell_id.partition(_BELOW)[0]


def _layers(cell: Cell) -> list[tuple[int, Cell]]:
    """The washes of a cell with their phases: those below as cells of their own, the top one as the cell itself."""
    layers = cell.recipe.layers
    found = [(_phase(cell.recipe), cell)]
    for place in range(1, len(layers)):
        below = Recipe(layers[place : place + 1])
        phase = len(layers) - place if place < len(layers) - 1 else _phase(below)
        found.append((phase, replace(cell, id=f"{cell.id}{_BELOW}{place}", recipe=below)))
    return found


_PATIENCE = (float("inf"), 3.0, 0.75)  # minutes of waiting before a puddle is left and taken up again later
_TRIES, _CELLS_TO_TRY = 12, 1700
# a rinse is worth avoiding beyond its minutes: the water, the brush, the attention
_RINSE_WORTH = 0.6


def plan_order(sheet: Sheet, pace: Pace | None = None, lightness: Mapping[str, float] | None = None) -> Sheet:
    """The sheet with an order of work.

    Pure paints come first, then mixes, puddle after puddle; the paler cell of a puddle follows its full one, and a
    glaze comes when the layer below, which is a step of its own, has dried. Among the puddles that can be painted now
    without touching wet paint, the next is the lightest of those that share a paint with the last. Where all would
    have to wait, a puddle may be left and taken up again. Several such orders are made, and the one that costs least
    is kept.

    Parameters
    ----------
    sheet : Sheet
    pace : Pace
    lightness : from folded paint name to its L, to work from light to dark; the given order where absent

    Returns
    -------
    Sheet, with `order` and `at_minute` in each cell and the steps in `work`
    """
    return run_through(ordering(sheet, pace, lightness))


def ordering(
    sheet: Sheet, pace: Pace | None = None, lightness: Mapping[str, float] | None = None
) -> Generator[float, None, Sheet]:
    """As `plan_order`, yielding its progress, 0..1."""
    pace = pace or Pace()
    beside = neighbours(sheet.cells)
    base = _ranks(sheet, lightness or {})
    tries = max(len(_PATIENCE), min(_TRIES, _CELLS_TO_TRY // max(len(sheet.cells), 1)))
    best: tuple[float, Sheet] | None = None
    for turn in range(tries):
        yield turn / tries
        patience = _PATIENCE[turn % len(_PATIENCE)]
        rank = base if turn < len(_PATIENCE) else _shuffled(base, turn)
        done = _one_order(sheet, pace, rank, patience, beside)
        cost = work_cost(done, pace)
        score = cost.minutes + _RINSE_WORTH * cost.rinses
        if best is None or score < best[0] - 1e-9:
            best = score, done
        if cost.wait_minutes == 0.0 and turn == 0:
            break
    assert best is not None
    return best[1]


def _shuffled(rank: Mapping[str, float], turn: int) -> dict[str, float]:
    """Another order of the paints: begun elsewhere, and every second time walked backwards.

    Such an order may lead from dark to light; it is kept only where it costs less than the one from light to dark.
    """
    names = sorted(rank, key=lambda name: rank[name])
    moved = names[turn % len(names) :] + names[: turn % len(names)] if names else []
    if turn % 2:
        moved.reverse()
    return {name: float(place) for place, name in enumerate(moved)}


def _one_order(
    sheet: Sheet, pace: Pace, rank: Mapping[str, float], patience: float, beside: dict[str, set[str]]
) -> Sheet:
    table = _Table(beside, pace)
    puddles: dict[Recipe, list[tuple[int, Cell]]] = defaultdict(list)
    for whole in sheet.cells:
        for phase, cell in _layers(whole):
            puddles[puddle_of(cell.recipe)].append((phase, cell))
    phases: dict[int, dict[Recipe, list[Cell]]] = defaultdict(dict)
    for puddle, cells in puddles.items():
        cells.sort(
            key=lambda entry: (
                -entry[1].recipe.layers[0].wash if entry[1].recipe.layers else 0.0,
                entry[1].id,
            )
        )
        for phase, cell in cells:
            phases[phase].setdefault(puddle, []).append(cell)
    for phase in sorted(phases):
        _work_off(table, phases[phase], rank, patience)
    ordered = tuple(
        replace(cell, order=table.order[cell.id][0], at_minute=table.order[cell.id][1])
        for cell in sheet.cells
    )
    return replace(sheet, cells=ordered, work=tuple(table.steps))


def _ranks(sheet: Sheet, lightness: Mapping[str, float]) -> dict[str, float]:
    rank: dict[str, float] = {}
    for cell in sheet.cells:
        for name in cell.recipe.names:
            folded = name.casefold()
            rank.setdefault(folded, -lightness.get(folded, 0.0) * 1000.0 + len(rank))
    return rank


def _work_off(
    table: _Table, waiting: dict[Recipe, list[Cell]], rank: Mapping[str, float], patience: float
) -> None:
    def preference(puddle: Recipe) -> tuple[float, ...]:
        shared = bool(table.brush and set(puddle.names) & set(table.brush.names))
        ranks = sorted(rank[name] for name in puddle.names) if puddle.layers else [0.0]
        return (0.0 if shared else 1.0, *ranks)

    while waiting:
        ready: list[tuple[float, int, tuple[float, ...], Recipe]] = []
        for puddle, cells in waiting.items():
            begin = table.now + table.puddle_cost(puddle)
            free = [max(0.0, table.free_at(cell.id) - begin) for cell in cells]
            # a puddle is begun when all its cells can follow; otherwise it would be taken up twice
            now = sum(wait < 1e-6 for wait in free)
            ready.append((max(free), now, preference(puddle), puddle))
        whole = min(ready, key=lambda entry: (round(entry[0], 3), entry[2]))
        puddle = whole[3]
        chosen = waiting[puddle]
        if whole[0] > patience:
            some = [entry for entry in ready if entry[1]]
            if some:
                puddle = min(some, key=lambda entry: (-entry[1], entry[2]))[3]
                begin = table.now + table.puddle_cost(puddle)
                chosen = [cell for cell in waiting[puddle] if table.free_at(cell.id) <= begin + 1e-6]
        if patience < table.pace.dry_minutes:
            chosen = _apart(table, chosen)
        left = [cell for cell in waiting.pop(puddle) if cell not in chosen]
        if left:
            waiting[puddle] = left
        table.take_puddle(puddle, format_recipe(_spoken(chosen[0].recipe)))
        for cell in _least_waiting(table, chosen):
            table.wait_until(table.free_at(cell.id))
            table.paint(cell)


def _apart(table: _Table, cells: list[Cell]) -> list[Cell]:
    """Those of a puddle's cells that do not touch each other; the others follow when these have dried."""
    kept: list[Cell] = []
    for cell in cells:
        if not any(_whole(other.id) in table.beside[_whole(cell.id)] for other in kept):
            kept.append(cell)
    return kept


def _spoken(recipe: Recipe) -> Recipe:
    return Recipe(recipe.layers[:1]).with_wash(FULL)


def _least_waiting(table: _Table, cells: list[Cell]) -> list[Cell]:
    """Cells of one puddle, full before pale, but those that are free first where one must wait."""
    return sorted(
        cells,
        key=lambda cell: (
            round(max(0.0, table.free_at(cell.id) - table.now), 2),
            -(cell.recipe.layers[0].wash if cell.recipe.layers else 0.0),
        ),
    )


def work_cost(sheet: Sheet, pace: Pace | None = None) -> WorkCost:
    """What the sheet's order of work costs, beside painting row by row.

    Parameters
    ----------
    sheet : Sheet with `work`
    pace : Pace
    """
    pace = pace or Pace()
    count: dict[str, int] = defaultdict(int)
    for step in sheet.work:
        count[str(step["do"])] += 1
    waits = sum(float(step["minutes"]) for step in sheet.work if step["do"] == "wait")
    minutes = (
        (count["cell"] + count["under"]) * pace.cell_minutes
        + count["puddle"] * pace.puddle_minutes
        + count["rinse"] * pace.rinse_minutes
        + count["water"] * pace.water_minutes
        + waits
    )
    puddles = [puddle_of(cell.recipe) for cell in sheet.cells]
    naive = sum(before != after for before, after in pairwise(puddles))
    return WorkCost(count["cell"], count["puddle"], count["rinse"], count["water"], waits, minutes, naive)
