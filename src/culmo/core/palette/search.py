"""The best few paints of a box, with proof: branch and bound on groups of paints of which every better palette holds one.

What a palette reaches only grows with more paints. So when a set X of paints, however large, is worth less than what is
sought, every palette worth it holds a paint from outside X. Such outsides are kept as groups. A branch is given up when
some group has no paint left in it, or when more disjoint groups are still without a paint than paints may still come.
Where few paints are still to come, all ways to add them are put against all groups at once, and only those that meet
every group are looked at.
"""

import time
from collections.abc import Generator, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from culmo.core.colour.spectral import Array, Indices
from culmo.core.palette.reach import Bits, Value
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.words import tr

_EXACT = 1e-5  # two shares nearer than this are the same
_RESTARTS = 4
# the search's progress when the first guess is made, and when the best is proven and only near ties are looked for
_GUESSED_AT, PROVEN_AT = 0.1, 0.4
MOST_LISTED = 20_000
_AT_ONCE = 3  # so many missing paints are added in all ways at once
_FEW = 100
_RARE, _REST = slice(0, 5), slice(5, None)
_LEARN_EVERY = 8
_FIRST_GROUPS = 4
Masks = NDArray[np.uint64]
_NONE, _ONE = np.uint64(0), np.uint64(1)


@dataclass(frozen=True)
class FoundSets:
    """What a search found.

    Attributes
    ----------
    palettes : list of tuples of int, places in the table, ascending; the best first, all within the margin
    worth : list of float, 0..1
    proven : bool, whether nothing is better
    whole : bool, whether the list holds all within the margin
    bound : float, no palette is worth more than this; that of the best where proven
    margin : float, what the list goes down to below the best; less than asked where there are too many to list
    """

    palettes: list[tuple[int, ...]]
    worth: list[float]
    proven: bool
    whole: bool
    bound: float
    margin: float


@dataclass
class _Node:
    """A palette in the making.

    Attributes
    ----------
    paints : list of int
    free : (m,) int, the paints that may still come
    bits : (W,), what it reaches
    adds : (m, W), what each free paint would bring, alone and with one or two of the palette's
    """

    paints: list[int]
    free: Indices
    bits: Bits
    adds: Bits


class _Search:
    """One search; its acts are the methods, its memory the groups and the palettes found."""

    def __init__(
        self,
        value: Value,
        size: int,
        usable: Sequence[int],
        keep: Sequence[int],
        one_of: Sequence[Sequence[int]],
        margin: float,
        seconds: float,
        most: int = MOST_LISTED,
    ) -> None:
        self.value, self.size, self.margin, self.most = value, size, margin, most
        self.required: Masks = np.array([mask_of(some) for some in one_of], dtype=np.uint64)
        self.usable, self.keep = sorted(usable), sorted(keep)
        self.until = time.monotonic() + seconds
        self.groups: Masks = self.required
        self.grown_to = np.full(len(self.required), -1.0)  # they hold whatever is sought
        self.known: dict[tuple[int, ...], float] = {}
        self.best = -1.0
        self.open_bound = 0.0
        self.looks = 0
        self.full = False
        self.proving = False
        self.top = value.of(self.usable)  # what all paints together are worth
        self.bits = value.table.bits
        self.rare = np.ascontiguousarray(self.bits[..., _RARE])

    # ---- palettes

    @property
    def sought(self) -> float:
        """What a palette must be worth: more than the best while that is being proven, then enough to be listed."""
        return self.best + _EXACT if self.proving else self.best - self.margin - _EXACT

    def note(self, paints: Sequence[int], worth: float) -> None:
        if worth < self.sought or not (self.required & mask_of(paints)).all():
            return
        self.best = max(self.best, worth)
        self.known[tuple(sorted(paints))] = worth
        if len(self.known) > 2 * self.most:
            self.forget()

    def forget(self) -> None:
        """Drop what is no longer within the margin; where too many are, the margin is drawn in."""
        self.known = {paints: worth for paints, worth in self.known.items() if worth >= self.sought}
        if len(self.known) > self.most:
            best = sorted(self.known.items(), key=lambda item: -item[1])[: self.most]
            self.margin = max(0.0, self.best - best[-1][1])
            self.known = dict(best)
            self.full = (
                self.margin <= _EXACT
            )  # more equals than are listed: there is no point in finding still more

    # ---- nodes

    def start(self, paints: Sequence[int], free: Sequence[int]) -> _Node:
        """The node of a palette."""
        everyone = np.array(sorted({*paints, *free}), dtype=np.intp)
        node = _Node([], everyone, np.zeros_like(self.bits[0, 0, 0]), self.bits[everyone, everyone, everyone])
        for paint in paints:
            place = int(np.searchsorted(node.free, paint))
            node = self.with_one(node, place, np.delete(np.arange(len(node.free)), place))
        return node

    def with_one(self, node: _Node, place: int, left: Indices) -> _Node:
        """A node with one of its free paints (by its place), and those of the others that may still come (places)."""
        paint, free = int(node.free[place]), node.free[left]
        paints = [*node.paints, paint]
        adds = np.bitwise_or.reduce(self.bits[paint, np.array(paints)[:, None], free], axis=0)
        adds |= node.adds[left]
        return _Node(paints, free, node.bits | node.adds[place], adds)

    # ---- the first guess

    def climb(self, seed: int) -> None:
        """From a start, one for one until no swap is better."""
        rng = np.random.default_rng(seed)
        paints = list(self.keep)
        if seed:
            for _ in range(min(2, self.size - len(paints))):
                paints.append(int(rng.choice(self.fitting(paints))))
        while len(paints) < self.size:
            paints.append(self.best_addition(paints)[0])
        worth = self.value.of(paints)
        self.note(paints, worth)
        better = True
        while better:
            better = False
            for out in [p for p in paints if p not in self.keep]:
                rest = [p for p in paints if p != out]
                paint, value = self.best_addition(rest)
                if value > worth + _EXACT:
                    paints, worth, better = [*rest, paint], value, True

    def fitting(self, paints: list[int]) -> list[int]:
        """The paints that may come to a palette: where a condition is unmet, those that meet it."""
        free = [p for p in self.usable if p not in paints]
        unmet = self.required[(self.required & mask_of(paints)) == _NONE]
        if not len(unmet):
            return free
        meets = [int(np.count_nonzero(unmet & mask_of([p]))) for p in free]
        return [p for p, count in zip(free, meets, strict=True) if count == max(meets)]

    def best_addition(self, paints: list[int]) -> tuple[int, float]:
        """The paint that adds most to a palette, with what both are worth."""
        node = self.start(paints, self.fitting(paints))
        values = self.value(node.bits | node.adds)
        place = int(np.argmax(values))
        if len(paints) + 1 == self.size:
            self.note([*paints, int(node.free[place])], float(values[place]))
        return int(node.free[place]), float(values[place])

    # ---- groups

    def add_group(self, node: _Node) -> np.uint64:
        """Grow a palette that is worth too little as far as it stays so; its outside is a group."""
        left = np.arange(len(node.free))
        while len(left):
            values = self.value(node.bits | node.adds)
            left = np.flatnonzero(values < self.sought)
            if not len(left):
                break
            place = int(left[np.argmin(values[left])])
            node = self.with_one(node, place, left[left != place])
        group = mask_of(self.usable) & ~mask_of(node.paints)
        # a group that holds all of another says nothing more
        useful = (self.groups & group) != group
        self.groups = np.append(self.groups[useful], group)
        self.grown_to = np.append(self.grown_to[useful], float(self.value(node.bits)))
        return group

    def unmet(self, chosen: np.uint64, allowed: np.uint64, missing: int) -> Masks | None:
        """The groups still without a paint, cut to what is left, smallest first; None when they can not all be met."""
        groups: Masks = self.groups[(self.groups & chosen) == _NONE] & allowed
        if not groups.all():
            return None
        groups = groups[np.argsort(np.bitwise_count(groups), kind="stable")]
        apart = groups
        for _ in range(missing):
            if not len(apart):
                return groups
            apart = apart[(apart & apart[0]) == _NONE]
        return None if len(apart) else groups

    # ---- the walk

    def run(self) -> Generator[float, None, FoundSets]:
        """Guess, prove the best, then find all within the margin."""
        free = [p for p in self.usable if p not in self.keep]
        missing = self.size - len(self.keep)
        if missing == 0:
            self.note(self.keep, self.value.of(self.keep))
            return self.result(True, True)
        for seed in range(_RESTARTS if len(free) > missing else 1):
            self.climb(seed)
            yield _GUESSED_AT * (seed + 1) / _RESTARTS
        root = self.start(self.keep, free)
        self.proving = True
        proven = yield from self.walk(root, missing, _GUESSED_AT, PROVEN_AT - _GUESSED_AT - 1e-6)
        self.proving = False
        if not proven:
            return self.result(False, False)
        # a group holds as long as what it was grown from is worth less than what is sought now
        holds = self.grown_to < self.sought
        self.groups, self.grown_to = self.groups[holds], self.grown_to[holds]
        yield PROVEN_AT
        whole = yield from self.walk(root, missing, PROVEN_AT, 1.0 - PROVEN_AT)
        return self.result(True, whole and not self.full)

    def result(self, proven: bool, whole: bool) -> FoundSets:
        self.forget()
        ordered = sorted(self.known.items(), key=lambda item: (-item[1], item[0]))
        bound = self.best if proven else max(self.best, self.open_bound)
        return FoundSets(
            [p for p, _ in ordered], [w for _, w in ordered], proven, whole, min(bound, 1.0), self.margin
        )

    def walk(self, node: _Node, missing: int, start: float, share: float) -> Generator[float, None, bool]:
        """Look through a branch; false when time ran out in it."""
        count = len(node.free)
        if count < missing:
            return True
        yield start
        if self.full or (self.proving and self.best >= self.top - _EXACT):
            return True
        if time.monotonic() > self.until:
            # no palette of this branch is worth more than all that may come together
            top = self.value.of([*node.paints, *(int(p) for p in node.free)])
            self.open_bound = max(self.open_bound, top)
            return False
        chosen, allowed = mask_of(node.paints), mask_of(node.free)
        groups = self.unmet(chosen, allowed, missing)
        if groups is None:
            return True
        if missing <= _AT_ONCE:
            self.look(node, missing, groups)
            return True
        group = groups[0] if len(groups) else self.grown(node, allowed)
        if not group:
            return True
        # the most promising first: it is left out of the branches of the others
        values = self.value(node.bits | node.adds)
        inside = (np.uint64(group) >> node.free.astype(np.uint64)) & _ONE == _ONE
        order = [int(i) for i in np.argsort(-values) if inside[i]]
        left, whole = np.ones(count, dtype=bool), True
        for turn, place in enumerate(order):
            left[place] = False
            child = self.with_one(node, place, np.flatnonzero(left))
            span = share / len(order)
            whole &= yield from self.walk(child, missing - 1, start + span * turn, span)
        return whole

    def grown(self, node: _Node, allowed: np.uint64) -> np.uint64:
        """Where to branch when no group speaks: what this palette can not take in without being worth enough."""
        if float(self.value(node.bits)) >= self.sought:
            return allowed
        return self.add_group(node) & allowed

    # ---- the last few paints

    def look(self, node: _Node, missing: int, groups: Masks) -> None:
        """All ways to add the missing paints that meet the smallest groups."""
        ways = all_ways(len(node.free), missing)
        if len(groups):
            masks = _ONE << node.free.astype(np.uint64)
            met = masks[ways[0]]
            for column in ways[1:]:
                met = met | masks[column]
            unmet = self.required[(self.required & mask_of(node.paints)) == _NONE]
            fits = np.ones(len(met), dtype=bool)
            for group in (*groups[:_FIRST_GROUPS], *unmet):
                fits &= (met & group) != _NONE
            ways = ways[:, fits]
        if not ways.shape[1]:
            return
        values = self.worth_of(node, ways)
        for i in np.flatnonzero(values >= self.sought):
            self.note([*node.paints, *(int(p) for p in node.free[ways[:, i]])], float(values[i]))
        # a group costs as much as a look; every so often is enough
        self.looks += 1
        if self.looks % _LEARN_EVERY:
            return
        failed = np.where(values < self.sought, values, -1.0)
        best = int(np.argmax(failed))
        if failed[best] >= 0.0:
            for place in sorted((int(p) for p in ways[:, best]), reverse=True):
                node = self.with_one(node, place, np.delete(np.arange(len(node.free)), place))
            self.add_group(node)

    def worth_of(self, node: _Node, ways: Indices) -> Array:
        """What palettes are worth that add these to a node; at most, where that is too little already."""
        if self.value.balanced or len(ways) < 3 or ways.shape[1] < _FEW:
            return self.value(self.with_some(node, ways))
        # the rarest colours first: where too many of them are lacking the rest need not be counted
        pairs = self.two_rare(node)
        one, two, three = ways
        paints = node.free[ways]
        bits = self.rare[paints[0], paints[1], paints[2]]
        bits |= pairs[one, two]
        bits |= pairs[one, three]
        bits |= pairs[two, three]
        values = self.value.part(bits, _RARE) + self.value.most(_REST)
        hopeful = np.flatnonzero(values >= self.sought)
        if len(hopeful):
            values[hopeful] = self.value(self.with_some(node, ways[:, hopeful]))
        return values

    def with_some(self, node: _Node, ways: Indices) -> Bits:
        """What palettes reach that add these to a node, (m, W)."""
        if len(ways) == 1:
            alone: Bits = node.bits | node.adds[ways[0]]
            return alone
        bits: Bits = np.zeros((ways.shape[1], len(node.bits)), dtype=np.uint64)
        for one, two in combinations(ways, 2):
            bits |= self.two_more(node, one, two)
        if len(ways) == 3:
            one, two, three = node.free[ways]
            bits |= self.bits[one, two, three]
        return bits

    def two_more(self, node: _Node, one: Indices, two: Indices) -> Bits:
        """What palettes reach that add two paints to a node, (m, W)."""
        a, b = node.free[one], node.free[two]
        bits = node.bits | node.adds[one] | node.adds[two] | self.bits[a, a, b]
        for paint in node.paints:
            bits |= self.bits[paint, a, b]
        return bits

    def two_rare(self, node: _Node) -> Bits:
        """What palettes reach of the rarest colours that add any two paints to a node, (m, m, w)."""
        free = node.free
        adds = node.adds[:, _RARE]
        bits = adds[:, None] | adds[None, :]
        bits |= node.bits[_RARE]
        bits |= self.rare[free[:, None], free[:, None], free]
        for paint in node.paints:
            bits |= self.rare[paint][free[:, None], free]
        return bits


def mask_of(paints: Sequence[int] | Indices) -> np.uint64:
    """A set of paints as the bits of one number, at most 64 of them."""
    mask = 0
    for paint in paints:
        mask |= 1 << int(paint)
    return np.uint64(mask)


@cache
def all_ways(count: int, missing: int) -> Indices:
    """All ways to choose so many of a count, (missing, m) int, ascending."""
    flat = np.fromiter((place for way in combinations(range(count), missing) for place in way), dtype=np.intp)
    return np.ascontiguousarray(flat.reshape(-1, missing).T)


def searching(
    value: Value,
    size: int,
    *,
    keep: Sequence[int] = (),
    avoid: Sequence[int] = (),
    one_of: Sequence[Sequence[int]] = (),
    margin: float = 0.01,
    seconds: float = 60.0,
    most: int = MOST_LISTED,
) -> Generator[float, None, FoundSets]:
    """The best palettes of a size and all within a margin of them; yields its progress.

    Parameters
    ----------
    value : Value on a table of n paints
    size : int, >= 1
    keep, avoid : places of paints that must be, or must not be, in it
    one_of : sets of paints; the palette must hold at least one of each
    margin : float, 0..1
    seconds : float, when to stop with what is known so far
    most : int, how many are listed; where there are more the margin is drawn in

    Raises
    ------
    CulmoError
        when no palette can meet the conditions
    """
    if not 0.0 <= margin <= 1.0:
        raise CulmoError(
            tr(
                "near ties within {value:g} points can not be looked for; it must be from 0 to 100",
                value=100 * margin,
            )
        )
    if not 0.0 <= seconds < float("inf"):
        raise CulmoError(tr("{seconds:g} seconds is no time to search for", seconds=seconds))
    left_out = set(avoid)
    usable = [i for i in range(len(value.table.names)) if i not in left_out]
    if left_out & set(keep):
        raise CulmoError(tr("the same paint can not be kept and left out"))
    if size < 1:
        raise CulmoError(tr("a palette of {size} paints is none; the least is 1", size=size))
    if size < len(set(keep)):
        raise CulmoError(
            tr("{n} paints are to be kept, which is more than {size}", n=len(set(keep)), size=size)
        )
    if size > len(usable):
        raise CulmoError(tr("{size} paints are wanted and only {n} may be used", size=size, n=len(usable)))
    groups = [[p for p in some if p in set(usable)] for some in one_of]
    if not all(groups):
        raise CulmoError(tr("a condition asks for one of some paints, and none of those may be used"))
    found = yield from _Search(value, size, usable, sorted(set(keep)), groups, margin, seconds, most).run()
    if not found.palettes and found.proven:
        raise CulmoError(tr("no palette of {size} paints meets all conditions", size=size))
    return found


def search(
    value: Value,
    size: int,
    *,
    keep: Sequence[int] = (),
    avoid: Sequence[int] = (),
    one_of: Sequence[Sequence[int]] = (),
    margin: float = 0.01,
    seconds: float = 60.0,
    most: int = MOST_LISTED,
) -> FoundSets:
    """As `searching`, at one go.

    Parameters
    ----------
    value, size, keep, avoid, one_of, margin, seconds, most : as there
    """
    return run_through(
        searching(
            value, size, keep=keep, avoid=avoid, one_of=one_of, margin=margin, seconds=seconds, most=most
        )
    )
