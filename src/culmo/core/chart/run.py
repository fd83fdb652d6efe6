"""The run at the table: what is to be painted now, what must dry first, and how far it has come."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum
from functools import cached_property
from itertools import pairwise

from culmo.core.chart.sheet import Cell, Sheet, Stage
from culmo.core.chart.stages import meeting_groups, wishes_of
from culmo.core.chart.touching import neighbours
from culmo.core.chart.washes import MEET_MINUTES, Pace, puddle_of, puddles_of, stage_place
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import Recipe
from culmo.words import mark


class CellMark(StrEnum):
    """What became of a cell in a run."""

    DONE = "done"
    SKIP = "skip"
    REPAINT = "repaint"


PAPERS = {mark("smooth"): 0.8, mark("cold pressed"): 1.0, mark("rough"): 1.25}
PALE_TAKES, FULL_TAKES = 1.1, 0.9  # a pale wash carries more water
LONG_MINUTES = 10.0  # a longer gap between two strokes was a break
SHORT_WAIT = 0.5  # minutes that are waited for the puddle at hand
RINSES_PER_WATER = Pace().rinses_per_water
_PRIOR_LOOKS = 3.0  # how many own observations the usual drying time is worth


@dataclass(frozen=True)
class Stroke:
    """One act at the table.

    Attributes
    ----------
    cell : str, the cell's id
    act : str, "done", "skip" or "repaint"
    at : datetime
    layer : int, 0 for the top layer of the recipe, 1 for the one below
    dried : datetime when the painter found it dry, or None
    """

    cell: str
    act: str
    at: datetime
    layer: int = 0
    dried: datetime | None = None


@dataclass(frozen=True)
class Drying:
    """How long washes stay wet.

    Attributes
    ----------
    base_minutes : float, > 0, of a middling wash on cold pressed paper
    paper : str, one of PAPERS
    learned : float, what the painter's own observations make of it
    """

    base_minutes: float = 15.0
    paper: str = "cold pressed"
    learned: float = 1.0

    def minutes(self, wash: float) -> float:
        """How long a wash of a strength stays wet.

        Parameters
        ----------
        wash : float, 0 < wash <= 1
        """
        water = FULL_TAKES + (PALE_TAKES - FULL_TAKES) * (1.0 - wash)
        return self.base_minutes * PAPERS.get(self.paper, 1.0) * water * self.learned


def learn_drying(drying: Drying, looks: Sequence[tuple[float, float]]) -> Drying:
    """Drying times with the painter's own observations.

    Parameters
    ----------
    drying : Drying, with `learned` 1
    looks : pairs of a wash and the minutes after which it was found dry
    """
    usual = replace(drying, learned=1.0)
    ratios = sorted(minutes / usual.minutes(wash) for wash, minutes in looks if minutes > 0.5)
    if not ratios:
        return usual
    middle = ratios[len(ratios) // 2]
    share = len(ratios) / (len(ratios) + _PRIOR_LOOKS)
    return replace(drying, learned=max(0.2, min(3.0, 1.0 + share * (middle - 1.0))))


@dataclass(frozen=True)
class Task:
    """One wash to lay: a cell, and which layer of its recipe."""

    cell: Cell
    layer: int = 0

    @property
    def key(self) -> tuple[str, int]:
        return self.cell.id, self.layer

    @property
    def recipe(self) -> Recipe:
        """What is laid: this layer alone."""
        layers = self.cell.recipe.layers
        return Recipe(layers[self.layer : self.layer + 1]) if layers else Recipe()

    @cached_property
    def puddles(self) -> tuple[Recipe, ...]:
        """What the brush takes up, one after the other."""
        return puddles_of(self.cell, self.layer)

    @property
    def puddle(self) -> Recipe:
        """What the brush takes up first."""
        return self.puddles[0]

    @property
    def left_on_brush(self) -> Recipe:
        """What the brush holds afterwards."""
        return self.recipe if self.cell.mixing == MixedHow.LOADED and self.layer == 0 else self.puddles[-1]

    @property
    def wash(self) -> float:
        return self.recipe.layers[0].wash if self.recipe.layers else 1.0


@dataclass(frozen=True)
class Meeting:
    """What a wash is to be painted into while it is wet.

    Attributes
    ----------
    cell : str, the cell that was painted first
    minutes_left : float, while its edge surely runs; below nothing it is drying
    is_dry : bool, whether it is dry by the clock, and will not run any more
    """

    cell: str
    minutes_left: float
    is_dry: bool


@dataclass(frozen=True)
class RunState:
    """Where a run stands.

    Attributes
    ----------
    current : Task to do now, or None when all is painted
    upcoming : tuple of Task, the next three
    done, total, skipped : int, washes painted, to be painted and put off
    wait_minutes : float, until the current one may be painted; 0 when it may now
    free : frozenset of cell ids that may be painted now
    wet : dict from cell id to the minutes that it stays wet
    dry_in : float, minutes until the whole sheet is dry
    same_puddle : bool, whether the current one takes the puddle of the last
    water_due : bool, whether the water should be changed before the next rinse
    last : Task that was painted last, or None
    pace : float, minutes a wash, from the painter's own strokes
    minutes_left : float, at that pace
    meeting : Meeting, where the current one is to run into a cell that was painted, or None
    follows : Task that is to follow the current one at once, since they meet, or None
    arising : tuple of str, the cells that are painted by the current one, where it runs into others
    """

    current: Task | None
    upcoming: tuple[Task, ...]
    done: int
    total: int
    skipped: int
    wait_minutes: float
    free: frozenset[str]
    wet: Mapping[str, float]
    dry_in: float
    same_puddle: bool
    water_due: bool
    last: Task | None
    pace: float
    minutes_left: float
    meeting: Meeting | None = None
    follows: Task | None = None
    arising: tuple[str, ...] = ()


class Run:
    """A sheet being painted. It remembers nothing: everything follows from the strokes and the clock.

    Parameters
    ----------
    sheet : Sheet
    """

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self._beside = neighbours(sheet.cells)
        self._group = meeting_groups(sheet.cells)
        self._arising = {cell.id: cell for cell in sheet.cells if cell.arises}
        self.tasks = _tasks_of(sheet)
        self._by_key = {task.key: task for task in self.tasks}
        wishes = wishes_of(sheet)
        self._stage = {task.key: stage_place(task.cell, task.layer, wishes) for task in self.tasks}

    def state(
        self,
        strokes: Sequence[Stroke],
        now: datetime,
        drying: Drying | None = None,
        chosen: tuple[str, int] | None = None,
        water_at: datetime | None = None,
        pauses: Sequence[tuple[datetime, datetime]] = (),
    ) -> RunState:
        """Where the run stands.

        Parameters
        ----------
        strokes : sequence of Stroke, in the order of doing
        now : datetime with an offset
        drying : Drying
        chosen : the cell and layer that the painter picked out of turn
        water_at : datetime when the water was changed last
        pauses : pairs of beginning and end of the breaks
        """
        drying = drying or Drying()
        last_of = {
            (stroke.cell, stroke.layer): stroke
            for stroke in strokes
            if (stroke.cell, stroke.layer) in self._by_key
        }
        done = {key for key, stroke in last_of.items() if stroke.act == CellMark.DONE}
        skipped = {key for key, stroke in last_of.items() if stroke.act == CellMark.SKIP}
        wet_until = self._wet_until(strokes, drying)
        painted = [
            stroke
            for stroke in strokes
            if stroke.act == CellMark.DONE and (stroke.cell, stroke.layer) in self._by_key
        ]
        last = self._by_key[painted[-1].cell, painted[-1].layer] if painted else None
        left = [task for task in self.tasks if task.key not in done]
        current = next((task for task in left if task.key == chosen), None)
        if current is None:
            current = self._pick(left, skipped, done, wet_until, now, last)
        pace = self._pace(painted, pauses)
        return RunState(
            current=current,
            upcoming=tuple(self._following(current, left, skipped, done, wet_until, now, drying, pace)),
            done=len(done),
            total=len(self.tasks),
            skipped=len(skipped),
            wait_minutes=self._wait(current, done, wet_until, now) if current else 0.0,
            free=frozenset(t.cell.id for t in left if self._wait(t, done, wet_until, now) <= 0.0),
            wet={cell: _minutes(end - now) for cell, end in wet_until.items() if end > now},
            dry_in=max([0.0, *(_minutes(end - now) for end in wet_until.values())]),
            same_puddle=bool(current and last and puddle_of(current.puddle) == puddle_of(last.left_on_brush)),
            water_due=self._rinses(painted, water_at) >= RINSES_PER_WATER
            or self._is_white_due(current, painted, water_at),
            last=last,
            pace=pace,
            minutes_left=pace * len(left),
            meeting=self._meeting(current, strokes, wet_until, now),
            follows=next(iter(self._partners(current, left)), None) if current else None,
            arising=self._arises_with(current, done),
        )

    def _partners(self, task: Task, left: Sequence[Task]) -> list[Task]:
        """What is left to paint of the cells that a task is painted together with."""
        group = self._group[task.cell.id]
        if len(group) < 2:
            return []
        return [
            other
            for other in left
            if other.cell.id in group and other.key != task.key and other.layer == task.layer
        ]

    def _arises_with(self, task: Task | None, done: set[tuple[str, int]]) -> tuple[str, ...]:
        """The cells that are there as soon as a task is done, since all that runs into them is painted."""
        if task is None or task.layer:
            return ()
        group = self._group[task.cell.id]
        painted = {cell for cell, layer in done if layer == 0} | {task.cell.id}
        if not all(cell in painted for cell in group if cell not in self._arising):
            return ()
        return tuple(cell for cell in group if cell in self._arising)

    def _meeting(
        self, task: Task | None, strokes: Sequence[Stroke], wet_until: Mapping[str, datetime], now: datetime
    ) -> Meeting | None:
        """What the current one is to run into: the latest of its partners that were painted."""
        if task is None:
            return None
        group = set(self._group[task.cell.id]) - {task.cell.id} - set(self._arising)
        latest = [stroke for stroke in strokes if stroke.cell in group]
        if not latest or latest[-1].act != CellMark.DONE:
            return None
        stroke = latest[-1]
        left = MEET_MINUTES - _minutes(now - stroke.at)
        return Meeting(stroke.cell, left, wet_until.get(stroke.cell, now) <= now)

    def beside(self, cell_id: str) -> set[str]:
        """The cells that share an edge with one."""
        return set(self._beside[cell_id])

    def wet_strokes(self, strokes: Sequence[Stroke], now: datetime, drying: Drying) -> list[int]:
        """Which strokes the clock still holds for wet, as places in the sequence."""
        ends = self._wet_until(strokes, drying)
        last = {stroke.cell: place for place, stroke in enumerate(strokes) if stroke.act == CellMark.DONE}
        return [place for cell, place in last.items() if ends.get(cell, now) > now]

    def _wet_until(self, strokes: Sequence[Stroke], drying: Drying) -> dict[str, datetime]:
        ends: dict[str, datetime] = {}
        for stroke in strokes:
            task = self._by_key.get((stroke.cell, stroke.layer))
            if task is None and stroke.cell in self._arising:
                task = Task(self._arising[stroke.cell])
            if stroke.act == CellMark.DONE and task is not None:
                ends[stroke.cell] = stroke.dried or stroke.at + timedelta(minutes=drying.minutes(task.wash))
        return ends

    def _wait(
        self, task: Task, done: set[tuple[str, int]], wet_until: Mapping[str, datetime], now: datetime
    ) -> float:
        """Minutes until a task may be done; endless while the layer below is not laid."""
        below = (task.cell.id, task.layer + 1)
        if below in self._by_key and below not in done:
            return float("inf")
        group = self._group[task.cell.id]
        # what meets is painted at once: the neighbours of all of them must be dry
        around = set().union(*(self._beside[cell] for cell in group)) - set(group) | {task.cell.id}
        return max([0.0, *(_minutes(wet_until[cell] - now) for cell in around if cell in wet_until)])

    def _pick(
        self,
        left: Sequence[Task],
        skipped: set[tuple[str, int]],
        done: set[tuple[str, int]],
        wet_until: Mapping[str, datetime],
        now: datetime,
        last: Task | None,
    ) -> Task | None:
        """The next of the stage in the planned order that touches nothing wet; the puddle at hand goes before a new one.

        What is to run into the last one goes before all.
        """
        fresh = [task for task in left if task.key not in skipped] or list(left)
        if last is not None and wet_until.get(last.cell.id, now) > now:
            partners = self._partners(last, fresh)
            if partners:
                return partners[0]
        stage = min((place for task in fresh if (place := self._stage[task.key]) is not None), default=None)
        fresh = [task for task in fresh if self._stage[task.key] in (None, stage)]
        brush = puddle_of(last.left_on_brush) if last is not None else None
        waits = {task.key: self._wait(task, done, wet_until, now) for task in left}
        at_hand = [
            task for task in fresh if puddle_of(task.puddle) == brush and waits[task.key] <= SHORT_WAIT
        ]
        if at_hand:
            return min(at_hand, key=lambda task: (waits[task.key] > 0.0, fresh.index(task)))
        free = [task for task in fresh if waits[task.key] <= 0.0]
        free += [task for task in left if task.key in skipped and waits[task.key] <= 0.0]
        if free:
            return free[0]
        return min(fresh, key=lambda task: waits[task.key], default=None)

    def _following(
        self,
        current: Task | None,
        left: Sequence[Task],
        skipped: set[tuple[str, int]],
        done: set[tuple[str, int]],
        wet_until: Mapping[str, datetime],
        now: datetime,
        drying: Drying,
        pace: float,
    ) -> list[Task]:
        found: list[Task] = []
        ends, gone, rest = dict(wet_until), set(done), list(left)
        while current is not None and len(found) < 3:
            wait = self._wait(current, gone, ends, now)
            now += timedelta(minutes=(wait if wait < 1e6 else 0.0) + pace)
            ends[current.cell.id] = now + timedelta(minutes=drying.minutes(current.wash))
            gone.add(current.key)
            rest = [task for task in rest if task.key != current.key]
            following = self._pick(rest, skipped, gone, ends, now, current)
            if following is not None:
                found.append(following)
            current = following
        return found

    def _rinses(self, painted: Sequence[Stroke], water_at: datetime | None) -> int:
        since = [stroke for stroke in painted if water_at is None or stroke.at >= water_at]
        puddles = [
            puddle_of(puddle)
            for stroke in since
            for puddle in self._by_key[stroke.cell, stroke.layer].puddles
        ]
        return sum(one != two for one, two in pairwise(puddles))

    def _is_white_due(self, task: Task | None, painted: Sequence[Stroke], water_at: datetime | None) -> bool:
        """Whether the first of what holds white comes next, and the water is not fresh."""
        if task is None or task.cell.stage != Stage.WHITE or not painted:
            return False
        white = {one.cell.id for one in self.tasks if one.cell.stage == Stage.WHITE}
        return painted[-1].cell not in white and (water_at is None or water_at < painted[-1].at)

    def _pace(self, painted: Sequence[Stroke], pauses: Sequence[tuple[datetime, datetime]]) -> float:
        """Minutes a wash from the painter's own strokes; breaks and long gaps do not count."""
        steps = []
        for one, two in pairwise(sorted(painted, key=lambda stroke: stroke.at)):
            if not any(one.at <= begin < two.at for begin, _ in pauses):
                steps.append(_minutes(two.at - one.at))
        steady = [step for step in steps if 0.02 < step < LONG_MINUTES]
        return sum(steady) / len(steady) if len(steady) >= 5 else 0.7


def _tasks_of(sheet: Sheet) -> list[Task]:
    """All washes of a sheet in the planned order; by the cells' own order where there is no plan of all of them.

    What only arises where others meet is not painted by itself.
    """
    cells = {cell.id: cell for cell in sheet.cells if not cell.arises}
    below: dict[str, int] = {}
    planned = []
    for step in sheet.work:
        cell = cells.get(str(step.get("cell")))
        if cell is None or step["do"] not in ("cell", "under"):
            continue
        layers = max(1, len(cell.recipe.layers))
        if step["do"] == "under":
            below[cell.id] = below.get(cell.id, layers) - 1
        planned.append(Task(cell, below[cell.id] if step["do"] == "under" else 0))
    keys = {task.key for task in planned}
    if len(keys) == len(planned) == sum(max(1, len(cell.recipe.layers)) for cell in cells.values()):
        return planned
    tops = [cell for cell in sheet.in_order() if cell.id in cells]
    deepest = max((len(cell.recipe.layers) for cell in tops), default=1)
    tasks = []
    for layer in range(deepest - 1, -1, -1):  # what lies below is laid first, puddle after puddle
        own = [Task(cell, layer) for cell in tops if layer < max(1, len(cell.recipe.layers))]
        if layer:
            first = {puddle_of(task.puddle): place for place, task in reversed(list(enumerate(own)))}
            own.sort(key=lambda task: first[puddle_of(task.puddle)])
        tasks += own
    return tasks


def _minutes(span: timedelta) -> float:
    return span.total_seconds() / 60.0


def brush_loads(parts: Sequence[float], most: int = 8) -> tuple[int, ...]:
    """Whole brush-loads that come nearest to parts, at most so many in all unless one part is very small.

    Parameters
    ----------
    parts : sequence of float, > 0
    most : int

    Examples
    --------
    >>> brush_loads([0.5, 0.5])
    (1, 1)
    >>> brush_loads([0.7, 0.3])
    (5, 2)
    """
    total = sum(parts)
    shares = [part / total for part in parts]
    best, best_error = tuple(1 for _ in parts), float("inf")
    for count in range(len(parts), max(most, len(parts)) + 1):
        loads = tuple(max(1, round(share * count)) for share in shares)
        used = sum(loads)
        error = (
            max(abs(load / used - share) for load, share in zip(loads, shares, strict=True)) + 0.004 * used
        )
        if used <= max(most, len(parts)) and error < best_error - 1e-9:
            best, best_error = loads, error
    return best


def puddle_step(before: Recipe, after: Recipe) -> tuple[str, float] | None:
    """How one puddle becomes the next by adding a single paint.

    Parameters
    ----------
    before, after : Recipe of one layer

    Returns
    -------
    the paint to add and how much of it for every part that is left, or None where one paint alone does not do it

    Examples
    --------
    >>> from culmo.core.paint.recipe import mix
    >>> puddle_step(mix(["Rose", "Lemon"], [1, 1]), mix(["Rose", "Lemon"], [3, 1]))
    ('Rose', 1.0)
    """
    if len(before.layers) != 1 or len(after.layers) != 1:
        return None
    old, new = (_shares(recipe) for recipe in (before, after))
    if not set(old) <= set(new) or old == new:
        return None
    for name, share in new.items():
        rest_old = {other: old.get(other, 0.0) for other in new if other != name}
        rest_new = {other: new[other] for other in new if other != name}
        total_old, total_new = sum(rest_old.values()), sum(rest_new.values())
        if total_old <= 0.0 or total_new <= 0.0 or share <= old.get(name, 0.0):
            continue
        if all(abs(rest_old[o] / total_old - rest_new[o] / total_new) < 1e-6 for o in rest_new):
            amount = (share - old.get(name, 0.0)) / (1.0 - share)
            spoken = next(part.name for part in after.layers[0].parts if part.name.casefold() == name)
            return spoken, round(amount, 4)
    return None


def _shares(recipe: Recipe) -> dict[str, float]:
    total = sum(part.parts for part in recipe.layers[0].parts)
    shares: dict[str, float] = {}
    for part in recipe.layers[0].parts:
        folded = part.name.casefold()
        shares[folded] = shares.get(folded, 0.0) + part.parts / total
    return shares
