"""The order of work: no wet cell touches a wet cell, few rinses, little waiting."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.paint.recipe import FULL, Recipe, format_recipe
from culmo.errors import CulmoError

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
                f"the drying time is {self.dry_minutes:g} minutes; it must lie above 0 and within a day"
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
        points = np.array(cell.outline_mm)
        for start, end in zip(points, np.roll(points, -1, axis=0), strict=True):
            run = end - start
            length = float(np.hypot(*run))
            if length <= SHARED_EDGE_MM:
                continue
            angle = float(np.arctan2(run[1], run[0])) % np.pi
            if np.pi - angle < 1e-4:
                angle = 0.0
            along = np.array([np.cos(angle), np.sin(angle)])
            offset = float(start @ np.array([-along[1], along[0]]))
            ends = sorted((float(start @ along), float(end @ along)))
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

    def __init__(self, cells: Sequence[Cell], pace: Pace) -> None:
        self.pace = pace
        self.beside = neighbours(cells)
        self.dry_at: dict[str, float] = {}
        self.now = 0.0
        self.rinses_left = pace.rinses_per_water
        self.steps: list[dict[str, Any]] = []
        self.order: dict[str, tuple[int, float]] = {}
        self.brush: Recipe | None = None

    def free_at(self, cell_id: str) -> float:
        """When the last wet neighbour has dried."""
        return max((self.dry_at.get(other, 0.0) for other in self.beside[cell_id]), default=0.0)

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
        self.order[cell.id] = (len(self.order) + 1, start)
        self.steps.append({"do": "cell", "cell": cell.id, "at_minute": start})
        self.dry_at[cell.id] = start + self.pace.dry_minutes
        self.now += self.pace.cell_minutes


def _phase(recipe: Recipe) -> int:
    return 0 if recipe.is_pure else len(recipe.layers)


def plan_order(sheet: Sheet, pace: Pace | None = None, lightness: Mapping[str, float] | None = None) -> Sheet:
    """The sheet with an order of work.

    Pure paints come first, then mixes, puddle after puddle; the paler cell of a puddle follows its full one. Among
    the puddles that can be painted now without touching wet paint, the next is the lightest of those that share a
    paint with the last.

    Parameters
    ----------
    sheet : Sheet
    pace : Pace
    lightness : from folded paint name to its L, to work from light to dark; the given order where absent

    Returns
    -------
    Sheet, with `order` and `at_minute` in each cell and the steps in `work`
    """
    pace = pace or Pace()
    table = _Table(sheet.cells, pace)
    rank = _ranks(sheet, lightness or {})
    puddles: dict[Recipe, list[Cell]] = defaultdict(list)
    for cell in sheet.cells:
        puddles[puddle_of(cell.recipe)].append(cell)
    for group in puddles.values():
        group.sort(key=lambda cell: (-cell.recipe.layers[0].wash if cell.recipe.layers else 0.0, cell.id))
    for phase in sorted({_phase(group[0].recipe) for group in puddles.values()}):
        waiting = {
            puddle: list(group) for puddle, group in puddles.items() if _phase(group[0].recipe) == phase
        }
        _work_off(table, waiting, rank)
    cells = tuple(
        replace(cell, order=table.order[cell.id][0], at_minute=table.order[cell.id][1])
        for cell in sheet.cells
    )
    return replace(sheet, cells=cells, work=tuple(table.steps))


def _ranks(sheet: Sheet, lightness: Mapping[str, float]) -> dict[str, float]:
    rank: dict[str, float] = {}
    for cell in sheet.cells:
        for name in cell.recipe.names:
            folded = name.casefold()
            rank.setdefault(folded, -lightness.get(folded, 0.0) * 1000.0 + len(rank))
    return rank


def _work_off(table: _Table, waiting: dict[Recipe, list[Cell]], rank: dict[str, float]) -> None:
    def preference(puddle: Recipe) -> tuple[float, ...]:
        shared = bool(table.brush and set(puddle.names) & set(table.brush.names))
        ranks = sorted(rank[name] for name in puddle.names) if puddle.layers else [0.0]
        return (0.0 if shared else 1.0, *ranks)

    while waiting:
        ready: list[tuple[float, float, tuple[float, ...], Recipe]] = []
        for puddle, cells in waiting.items():
            begin = table.now + table.puddle_cost(puddle)
            free = [max(0.0, table.free_at(cell.id) - begin) for cell in cells]
            # a puddle is begun when all its cells can follow; otherwise it would be mixed twice
            ready.append((max(free), min(free), preference(puddle), puddle))
        _, _, _, puddle = min(ready, key=lambda entry: (round(entry[0], 3), entry[2]))
        cells = waiting.pop(puddle)
        table.take_puddle(puddle, format_recipe(_spoken(cells[0].recipe)))
        for cell in _least_waiting(table, cells):
            table.wait_until(table.free_at(cell.id))
            table.paint(cell)


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
        count["cell"] * pace.cell_minutes
        + count["puddle"] * pace.puddle_minutes
        + count["rinse"] * pace.rinse_minutes
        + count["water"] * pace.water_minutes
        + waits
    )
    puddles = [puddle_of(cell.recipe) for cell in sheet.cells]
    naive = sum(before != after for before, after in pairwise(puddles))
    return WorkCost(count["cell"], count["puddle"], count["rinse"], count["water"], waits, minutes, naive)
