"""The search for an order of work: visits to puddles, each with the cells that are painted while it is out."""

import math
import random
from collections import defaultdict
from collections.abc import Generator, Iterator, Sequence
from copy import copy
from dataclasses import dataclass, replace
from typing import Any

from culmo.core.chart.washes import Pace, Unit, Wash
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import Recipe, format_recipe

# a rinse is worth avoiding beyond its minutes: the water, the brush, the attention
_RINSE_WORTH = 0.6
# minutes that are well waited so that a puddle does not come before one lighter by an L
_DISORDER_WORTH = 0.02
# in L: how much darker than the lightest that is left a puddle may be taken before it, where it would have to wait; more
# only where the sheet could not be painted without waiting longer than this
DARKER_BY = (12.0, 20.0, 30.0)
WAIT_MINUTES = 10.0
STARTS = 3  # searches with the widest of these, each by other chances, while the waiting is too long still
_FAR = 30  # visits that one is moved by, at most
_CELLS_TO_TRY = 900  # cells that may be gone through in all of the first tries
_ENOUGH = 40  # puddles that are weighed against each other, where one of them need not wait
# tries to better an order: at most, over the number of cells, and without a gain
_MOVES, _CELLS_TO_MOVE, _STALE = 800, 120_000, 300
_MARK = 6  # visits from one remembered table to the next


@dataclass(frozen=True)
class _Try:
    """One way of going through a sheet.

    Attributes
    ----------
    patience : float, minutes of waiting before a puddle is left and taken up again later
    foresight : float, in L: how much each puddle that would soon be due and could then not be painted counts
    turn : int, how many puddles further the sheet is begun, where nothing else decides; below nothing also backwards
    """

    patience: float
    foresight: float
    turn: int = 0


_WAYS = (
    *(_Try(patience, foresight) for foresight in (0.0, 5.0) for patience in (math.inf, 3.0, 0.75)),
    *(_Try(math.inf, 0.0, turn) for turn in (-1, 1, -2, 2, -3, 3)),
)


_BOTH = Recipe()  # what a loaded brush holds, from which no other cell is painted


class VisitTable:
    """The painter's table while the order is made."""

    def __init__(self, pace: Pace) -> None:
        self.pace = pace
        self.dry_at: dict[str, float] = {}
        self.laid: set[tuple[str, int]] = set()
        self.now = 0.0
        self.rinses_left = pace.rinses_per_water
        # made into words when all is laid: many orders are tried
        self._steps: list[tuple[str, Any, Any]] = []
        self.order: dict[str, tuple[int, float]] = {}
        self.brush: Recipe | None = None
        self.rinses = 0
        self.waited = 0.0
        self._is_fresh = False  # whether there is clean water for what holds white
        self.waits: list[float] = []  # of each visit

    def free_at(self, unit: Unit) -> float:
        """When the last wet neighbour, and the layer below, have dried; never while what comes before is not laid."""
        if unit.after and not unit.after <= self.laid:
            return math.inf
        latest, dry_at = 0.0, self.dry_at
        for cell in unit.blockers:
            at = dry_at.get(cell, 0.0)
            if at > latest:
                latest = at
        return latest

    def copy(self) -> "VisitTable":
        """The table as it is now, to go on from in another way."""
        other = copy(self)
        other.dry_at, other.laid, other.order = self.dry_at.copy(), self.laid.copy(), self.order.copy()
        other._steps, other.waits = self._steps.copy(), self.waits.copy()
        return other

    def puddle_cost(self, puddle: Recipe) -> float:
        if puddle is self.brush or puddle == self.brush:
            return 0.0
        return self.pace.puddle_minutes + (self.pace.rinse_minutes if self.brush else 0.0)

    def _clean_water(self) -> None:
        self._steps.append(("water", None, None))
        self.now += self.pace.water_minutes
        self.rinses_left = self.pace.rinses_per_water

    def take_puddle(self, puddle: Recipe, rinse: bool = True) -> None:
        if puddle is self.brush or puddle == self.brush:
            return
        if self.brush is not None and rinse:
            if self.rinses_left <= 0:
                self._clean_water()
            self._steps.append(("rinse", None, None))
            self.now += self.pace.rinse_minutes
            self.rinses_left -= 1
            self.rinses += 1
        self._steps.append(("puddle", puddle, None))
        self.now += self.pace.puddle_minutes
        self.brush = puddle

    def wait_until(self, minute: float) -> None:
        if minute > self.now + 1e-9:
            self._steps.append(("wait", minute - self.now, None))
            self.waited += minute - self.now
            self.now = minute

    def visit(self, units: Sequence[Unit]) -> None:
        """Lay units of one puddle, full before pale, but those that are free first where one must wait."""
        if units[0].fresh and not self._is_fresh:
            self._is_fresh = True
            if self.rinses_left < self.pace.rinses_per_water:
                self._clean_water()
        waited = self.waited
        self._visit(units)
        self.waits.append(self.waited - waited)

    def _visit(self, units: Sequence[Unit]) -> None:
        self.take_puddle(units[0].first)
        if len(units) == 1:
            self.paint(units[0])
            return
        left = {unit.key: unit for unit in units}
        while left:
            # the stage first: a visit at the border of two may hold cells of both
            first = min((unit.stage for unit in left.values() if unit.stage is not None), default=None)
            ready = [
                (round(max(0.0, self.free_at(unit) - self.now), 2), unit.pale, unit.key)
                for unit in left.values()
                if unit.stage in (None, first)
            ]
            self.paint(left.pop(min(ready)[2]))

    def steps(self) -> Iterator[dict[str, Any]]:
        """What was done, step by step, as a sheet keeps it."""
        for do, what, when in self._steps:
            step: dict[str, Any] = {"do": do}
            if do == "puddle":
                step["recipe"] = format_recipe(what)
            elif do == "wait":
                step["minutes"] = round(what, 2)
            elif do in ("cell", "under", "touch"):
                step["cell"] = what.cell.id
                if do == "under":
                    step["recipe"] = format_recipe(
                        Recipe(what.cell.recipe.layers[what.layer : what.layer + 1])
                    )
                if do == "touch":
                    step["recipe"] = format_recipe(when)
                else:
                    step["at_minute"] = when
            yield step

    @property
    def score(self) -> float:
        """What is to be small: minutes, what rinses are worth beyond theirs, and a long wait twice.

        Endless where something came too early.
        """
        return self.now + _RINSE_WORTH * self.rinses + max(0.0, self.waited - WAIT_MINUTES)

    def paint(self, unit: Unit) -> None:
        """Lay the washes of a unit one after the other; the puddle of the first is on the brush."""
        rinses = sum(len(wash.puddles) for wash in unit.washes) - 1
        if 0 < rinses <= self.pace.rinses_per_water and self.rinses_left < rinses:
            self._clean_water()  # not between two strokes that meet
        self.take_puddle(unit.first)
        self.wait_until(self.free_at(unit))
        for wash in unit.washes:
            if wash.puddles:
                self.take_puddle(wash.puddles[0])
            self._lay(wash)

    def _lay(self, wash: Wash) -> None:
        cell = wash.cell
        if (
            cell.mixing == MixedHow.LOADED and wash.layer == 0
        ):  # one paint on the brush, the others on its tip
            for puddle in wash.puddles[1:]:
                self.take_puddle(puddle, rinse=False)
        start = round(self.now, 2)
        self.now = start
        if wash.layer == 0:
            self.order[cell.id] = (len(self.order) + 1, start)
            self._steps.append(("cell", wash, start))
        else:  # a layer below, which the cell itself follows when it is dry
            self._steps.append(("under", wash, start))
        self.laid.add((cell.id, wash.layer))
        self.dry_at[cell.id] = start + self.pace.dry_minutes
        if cell.arises:
            return
        self.now += self.pace.cell_minutes
        if cell.mixing == MixedHow.WET_IN_WET and wash.layer == 0:
            for puddle in wash.puddles[1:]:
                self.take_puddle(puddle)
                self._steps.append(("touch", wash, puddle))
                self.now += self.pace.cell_minutes
        elif cell.mixing == MixedHow.LOADED and wash.layer == 0:
            self.brush = _BOTH


Visit = list[Unit]  # what is painted while one puddle is out, or one unit of several puddles
_Key = tuple[int | None, object]  # a stage, and a puddle or a unit of several


def one_order(
    units: Sequence[Unit], pace: Pace, darker_by: float, start: int = 0
) -> Generator[float, None, list[Visit]]:
    """The visits that cost least of several ways to go through a sheet; `start` says by which chances it is bettered."""
    count = max(2, min(len(_WAYS), _CELLS_TO_TRY // len(units)))
    best: list[Visit] = []
    least = math.inf
    for done, way in enumerate(_WAYS[:count]):
        yield 0.3 * done / count
        visits = _Visits(units, way, darker_by).all_of_them(pace)
        table = laid(visits, pace)
        score = table.score + _DISORDER_WORTH * _disorder(visits, darker_by)
        if not best or score < least - 1e-9:
            best, least = visits, score
        if table.waited == 0.0 and len(visits) == len({unit.puddle_key for unit in units}):
            return best  # each puddle is out once, and nothing is waited for
    moves = _moves(units)
    return (yield from _bettered(best, pace, darker_by, moves, start)) if moves else best


def starts(units: Sequence[Unit]) -> int:
    """From how many starts a search may come to different orders: one only where the sheet is too large to be bettered."""
    return STARTS if _moves(units) else 1


def _moves(units: Sequence[Unit]) -> int:
    """How often an order is tried to be bettered; 0 where so few tries would do nothing."""
    moves = min(_MOVES, _CELLS_TO_MOVE // len(units))
    return moves if moves > _STALE else 0


class _Visits:
    """Goes through a sheet, each time to what seems best then."""

    def __init__(self, units: Sequence[Unit], way: _Try, darker_by: float) -> None:
        self.way, self.darker_by = way, darker_by
        self.members: dict[_Key, list[Unit]] = defaultdict(list)
        self.owners: dict[str, list[_Key]] = defaultdict(list)
        self.rank: dict[_Key, int] = {}
        for unit in units:
            key = unit.stage, unit.puddle_key
            self.members[key].append(unit)
            self.rank.setdefault(key, len(self.rank))
            for wash in unit.washes:
                self.owners[wash.cell.id].append(key)
        count = len(self.rank)
        sign = -1 if way.turn < 0 else 1
        self.rank = {key: sign * ((place + way.turn) % count) for key, place in self.rank.items()}
        order = sorted(self.members, key=lambda key: (self.members[key][0].dark, self.rank[key]))
        self.of_stage: dict[int | None, list[_Key]] = defaultdict(list)
        for key in order:
            self.of_stage[key[0]].append(key)

    def all_of_them(self, pace: Pace) -> list[Visit]:
        """All units, by the earliest stage that is not ended."""
        table = VisitTable(pace)
        visits = []
        while self.members:
            visit = self._next(table)
            gone = {unit.key for unit in visit}
            for key in {(unit.stage, unit.puddle_key) for unit in visit}:
                left = [unit for unit in self.members.get(key, ()) if unit.key not in gone]
                if left:
                    self.members[key] = left
                elif key in self.members:
                    del self.members[key]
                    self.of_stage[key[0]].remove(key)
            table.visit(visit)
            visits.append(visit)
        return visits

    def _open(self) -> Iterator[tuple[_Key, list[Unit], float]]:
        """What may be painted in the stage that is not ended: its puddles from light to dark, then those of no stage."""
        stage = min(
            (place for place, keys in self.of_stage.items() if keys and place is not None), default=None
        )
        own = self.of_stage[stage] if stage is not None else []
        lightest = self.members[own[0]][0].dark if own else 0.0
        for key in own:
            if self.members[key][0].dark > lightest + self.darker_by:
                break
            yield key, self.members[key] + self.members.get((None, key[1]), []), lightest
        for key in self.of_stage[None]:
            if (stage, key[1]) not in self.members:
                yield key, self.members[key], lightest

    def _next(self, table: VisitTable) -> Visit:
        """What is painted next: units of one puddle, or one unit of several."""
        best: tuple[tuple[float, ...], Visit] | None = None
        some: tuple[tuple[float, ...], Visit] | None = None
        for count, (key, members, lightest) in enumerate(self._open()):
            if count > _ENOUGH and best is not None and best[0][0] < 1e-6:
                break
            turned = members[0].turned()
            if len(members) == 1 and turned.first == table.brush:
                members = [turned]
            puddle = members[0].first
            begin = table.now + table.puddle_cost(puddle)
            free = [
                (max(0.0, at - begin), unit) for unit in members if (at := table.free_at(unit)) < math.inf
            ]
            if not free:
                continue
            free.sort(key=lambda entry: (round(entry[0], 3), entry[1].pale))
            together = _apart(free)
            shared = bool(table.brush and set(puddle.names) & set(table.brush.names))
            preference = (
                float(puddle is not table.brush), float(key[0] is None), self._late(key, members, together, lightest),
                float(not shared), float(self.rank[key]),
            )  # fmt: skip
            whole = (round(max(at for at, _ in together), 3), *preference)
            if best is None or whole < best[0]:
                best = whole, [unit for _, unit in together]
            now = [unit for at, unit in together if at < 1e-6]
            if now and (some is None or (-len(now), *preference) < some[0]):
                some = (-float(len(now)), *preference), now
        if best is None:  # a file may say of two cells that each follows the other
            return [replace(next(iter(self.members.values()))[0], after=frozenset())]
        return some[1] if some is not None and best[0][0] > self.way.patience else best[1]

    def _late(
        self, key: _Key, members: Sequence[Unit], together: Sequence[tuple[float, Unit]], lightest: float
    ) -> float:
        """How late a puddle should come: by what it is, and by those beside it that can then not be painted for a while."""
        late = members[0].dark
        if self.way.foresight:
            hindered = {
                other for _, unit in together for name in unit.blockers for other in self.owners.get(name, ())
                if other != key and other[0] == key[0] and other in self.members
            }  # fmt: skip
            for other in hindered:
                due = 1.0 - max(0.0, self.members[other][0].dark - lightest) / (2.0 * self.darker_by)
                late += self.way.foresight * due
        return late


def laid(visits: Sequence[Visit], pace: Pace) -> VisitTable:
    """The table as it is when all visits were made."""
    table = VisitTable(pace)
    for visit in visits:
        table.visit(visit)
    return table


class _Walk:
    """The table as it was on the way through some visits, so that a change of a later one is not begun from the first."""

    def __init__(self, visits: Sequence[Visit], pace: Pace) -> None:
        self._before = [VisitTable(pace)]
        self.table = VisitTable(pace)
        self._go_on(visits, 0, math.inf, 0.0)

    def _go_on(self, visits: Sequence[Visit], done: int, most: float, beside: float) -> bool:
        table = self.table
        for place in range(done, len(visits)):
            if place and place % _MARK == 0:
                self._before.append(table.copy())
            table.visit(visits[place])
            if table.score + beside > most:  # it only grows
                return False
        return True

    def changed(self, visits: Sequence[Visit], same: int, most: float, beside: float) -> "_Walk | None":
        """The walk through other visits, None where the score and what is counted beside it come to more than `most`.

        Parameters
        ----------
        visits : sequence of Visit
        same : int, how many of the first are those of this walk
        most, beside : float
        """
        other = object.__new__(_Walk)
        mark = min(same // _MARK, len(self._before) - 1)
        other._before = self._before[: max(mark, 1)]  # the one at the mark is remembered on the way
        other.table = self._before[mark].copy()
        return other if other._go_on(visits, mark * _MARK, most, beside) else None


def _bettered(
    visits: list[Visit], pace: Pace, darker_by: float, tries: int, start: int
) -> Generator[float, None, list[Visit]]:
    """The visits in another order that costs less, if one is found by moving and joining them a little at a time.

    Stages stay in their order, and no puddle comes before a lighter one by more than it may.
    """
    chance = random.Random(7 + start)  # the same sheet has the same order each time
    walk = _Walk(visits, pace)
    best = now = walk.table.score + _DISORDER_WORTH * _disorder(visits, darker_by)
    order, kept = list(visits), list(visits)
    gained = 0
    for turn in range(tries):
        if turn % 100 == 0:
            yield 0.3 + 0.7 * turn / tries
        if turn - gained > _STALE:
            break
        waiting = [place for place, wait in enumerate(walk.table.waits) if wait]
        at = chance.choice(waiting) if waiting and chance.random() < 0.5 else chance.randrange(len(order))
        moved = list(order)
        visit = moved.pop(at)
        first = at  # that is not as it was
        twins = [i for i, other in enumerate(moved) if visit[0].is_alone and other[0].is_alone
                 and other[0].first == visit[0].first]  # fmt: skip
        other_way = visit[0].turned()
        if len(visit) == 1 and other_way is not visit[0] and chance.random() < 0.5:
            moved.insert(at, [other_way])
        elif twins and chance.random() < 0.7:
            to = chance.choice(twins)
            first = min(at, to)
            moved[to] = [*moved[to], *visit]
        elif len(visit) > 1 and chance.random() < 0.1:
            one = chance.randrange(len(visit))
            moved.insert(at, visit[:one] + visit[one + 1 :])
            to = chance.randrange(len(moved) + 1)
            first = min(at, to)
            moved.insert(to, [visit[one]])
        else:
            to = min(len(moved), max(0, at + chance.randint(-_FAR, _FAR)))
            first = min(at, to)
            moved.insert(to, visit)
        disorder = _disorder(moved, darker_by)
        if disorder == math.inf:
            continue
        # drawn first: what would cost more than that is given up on the way
        warmth = max(1.5 * (1.0 - turn / tries), 1e-3)
        beside = _DISORDER_WORTH * disorder
        tried = walk.changed(moved, first, now - warmth * math.log(1.0 - chance.random()), beside)
        if tried is not None:
            score = tried.table.score + beside
            order, now, walk = moved, score, tried
            if score < best - 1e-9:
                best, kept, gained = score, moved, turn
    return kept


def _disorder(visits: Sequence[Visit], darker_by: float) -> float:
    """By how much, in L summed over the visits, puddles come before lighter ones of their stage.

    Endless where a stage begins before the one before it has ended, or a puddle comes too long before a lighter one.
    """
    least: dict[int, float] = {}
    latest, total = math.inf, 0.0
    for visit in reversed(visits):
        staged = [(unit.stage, unit.dark) for unit in visit if unit.stage is not None]
        for stage, dark in staged:
            early = dark - least.get(stage, math.inf)
            if stage > latest or early > darker_by + 1e-9:
                return math.inf
            total += max(0.0, early)
        for stage, dark in staged:
            latest = min(latest, stage)
            least[stage] = min(least.get(stage, math.inf), dark)
    return total


def _apart(free: Sequence[tuple[float, Unit]]) -> list[tuple[float, Unit]]:
    """Those of a puddle's units that do not touch each other; the others follow when these have dried."""
    kept: list[tuple[float, Unit]] = []
    taken: set[str] = set()
    for at, unit in free:
        if not taken.intersection(unit.blockers):
            kept.append((at, unit))
            taken.update(wash.cell.id for wash in unit.washes)
    return kept
