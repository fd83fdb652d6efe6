"""The order of work: stage after stage, no wet cell beside a wet cell but where they meet, few rinses, little waiting."""

from collections import defaultdict
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from culmo.core.chart.sheet import Sheet, Stage
from culmo.core.chart.stages import Wishes, staged, wishes_of
from culmo.core.chart.touching import neighbours
from culmo.core.chart.visits import DARKER_BY, WAIT_MINUTES, Visit, laid, one_order, starts
from culmo.core.chart.washes import Pace, Traits, puddle_of, puddles_of, units_of
from culmo.core.steps import run_through, scaled


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


def plan_order(
    sheet: Sheet, pace: Pace | None = None, traits: Traits | None = None, wishes: Wishes | None = None
) -> Sheet:
    """The sheet with an order of work.

    A stage begins when the one before it has ended. In a stage puddle follows puddle, light before dark and clean before
    staining as far as is known and wished: a darker one goes before a lighter one only where it would have to wait, and
    never where it is darker by more than `DARKER_BY`, whose later values are for sheets that would wait too long else.
    The paler cell of a puddle follows its full one. No cell is painted beside a wet one, but those that meet, which
    follow at once; the other half of a split cell, and a glaze, come when what they follow is dry. Where all would have
    to wait, a puddle may be left and taken up again. Several such orders are made and bettered, and the one that costs
    least is kept.

    Parameters
    ----------
    sheet : Sheet
    pace : Pace
    traits : Traits
    wishes : Wishes; those of the sheet's own plan where absent

    Returns
    -------
    Sheet, with `order` and `at_minute` in each cell and the steps in `work`
    """
    return run_through(ordering(sheet, pace, traits, wishes))


def ordering(
    sheet: Sheet, pace: Pace | None = None, traits: Traits | None = None, wishes: Wishes | None = None
) -> Generator[float, None, Sheet]:
    """As `plan_order`, yielding its progress, 0..1."""
    pace, traits = pace or Pace(), traits or Traits()
    if wishes is not None or not any(cell.stage for cell in sheet.cells):
        wishes = wishes or wishes_of(sheet)
        sheet = staged(sheet, wishes, traits.whites)
    else:
        wishes = _with_all_stages(wishes_of(sheet), sheet)
    beside = neighbours(sheet.cells)
    units = units_of(sheet, wishes, traits, beside)
    found: list[tuple[float, list[Visit]]] = []
    tries = [(darker_by, 0) for darker_by in DARKER_BY] + [
        (DARKER_BY[-1], more) for more in range(1, starts(units))
    ]
    for place, (darker_by, start) in enumerate(tries):
        share = place / len(tries), (place + 1) / len(tries)
        visits = yield from scaled(one_order(units, pace, darker_by, start), *share)
        waited = laid(visits, pace).waited
        # where no freedom brings the waiting down far enough, a minute is worth as much as two L
        found.append((waited + 0.5 * darker_by, visits))
        if waited <= WAIT_MINUTES or not (wishes.light_first or wishes.clean_first):
            found = found[-1:]
            break
    best = min(found, key=lambda entry: entry[0])[1]
    table = laid(best, pace)
    order = table.order
    cells = tuple(replace(cell, order=order[cell.id][0], at_minute=order[cell.id][1]) for cell in sheet.cells)
    return replace(sheet, cells=cells, work=tuple(table.steps()))


def _with_all_stages(wishes: Wishes, sheet: Sheet) -> Wishes:
    """Wishes that know each stage that a sheet declares, in the usual place where they did not."""
    there = {cell.stage for cell in sheet.cells if cell.stage}
    if there <= set(wishes.stages):
        return wishes
    usual = [stage for stage in Stage if stage in there | set(wishes.stages)]
    return replace(wishes, stages=tuple(usual))


@dataclass(frozen=True)
class WishCost:
    """What a wish costs: how much more there is to do than without it. Below nothing where it even saves.

    Attributes
    ----------
    wish : str, the name of a field of Wishes
    rinses : int
    wait_minutes, minutes : float, of waiting, and in all
    """

    wish: str
    rinses: int
    wait_minutes: float
    minutes: float


def wish_costs(
    sheet: Sheet, pace: Pace | None = None, traits: Traits | None = None
) -> Generator[float, None, list[WishCost]]:
    """What each wish costs that a sheet was ordered by, by ordering it without that wish; yields its progress, 0..1.

    Parameters
    ----------
    sheet : Sheet with `work`
    pace : Pace
    traits : Traits
    """
    wishes, own = wishes_of(sheet), work_cost(sheet, pace)
    loose = replace(wishes, stages=tuple(stage for stage in wishes.stages if stage == Stage.GLAZE))
    without = {
        "stages": loose,
        "light_first": replace(wishes, light_first=False),
        "clean_first": replace(wishes, clean_first=False),
    }
    asked = {name: other for name, other in without.items() if other != wishes}
    found = []
    for place, (name, other) in enumerate(asked.items()):
        steps = ordering(sheet, pace, traits, other)
        cost = work_cost((yield from scaled(steps, place / len(asked), (place + 1) / len(asked))), pace)
        found.append(
            WishCost(
                name,
                own.rinses - cost.rinses,
                own.wait_minutes - cost.wait_minutes,
                own.minutes - cost.minutes,
            )
        )
    return found


def work_cost(sheet: Sheet, pace: Pace | None = None) -> WorkCost:
    """What the sheet's order of work costs, beside painting row by row.

    Parameters
    ----------
    sheet : Sheet with `work`
    pace : Pace
    """
    return _cost(sheet, sheet.work, pace or Pace())


def _cost(sheet: Sheet, work: Sequence[Mapping[str, Any]], pace: Pace) -> WorkCost:
    count: dict[str, int] = defaultdict(int)
    for step in work:
        count[str(step["do"])] += 1
    arising = sum(cell.arises for cell in sheet.cells)
    waits = sum(float(step["minutes"]) for step in work if step["do"] == "wait")
    minutes = (
        (count["cell"] - arising + count["under"] + count["touch"]) * pace.cell_minutes
        + count["puddle"] * pace.puddle_minutes
        + count["rinse"] * pace.rinse_minutes
        + count["water"] * pace.water_minutes
        + waits
    )
    puddles = [puddle_of(puddle) for cell in sheet.cells for puddle in puddles_of(cell)]
    naive = sum(before != after for before, after in pairwise(puddles))
    return WorkCost(count["cell"], count["puddle"], count["rinse"], count["water"], waits, minutes, naive)
