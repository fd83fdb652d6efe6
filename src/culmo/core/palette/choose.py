"""Limited palettes: the best of each size, what they lose, what one more adds, and what a swap would change."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array, Flags
from culmo.core.palette.conditions import Conditions, Kinds, Resolved, resolve
from culmo.core.palette.reach import CLASSES, DULL_DARKS, GREYS, Table, Value, class_of
from culmo.core.palette.search import MOST_LISTED, FoundSets, searching
from culmo.words import tr, trn

SIZES = range(3, 9)
NEAR_TIE = 0.01
_VIVID, _QUIET = 45.0, 22.0
_PALE_L, _DEEP_L = 72.0, 38.0
_WORTH_TELLING = 0.008  # of all: less is not said


@dataclass(frozen=True)
class Choice:
    """The best palettes of one size.

    Attributes
    ----------
    size : int
    palettes : tuple of tuples of int, the best first, all within the margin
    worth : tuple of float, 0..1
    proven : bool, nothing is better
    whole : bool, the list holds all within the margin
    bound : float, nothing is worth more
    margin : float, how far below the best the list goes
    """

    size: int
    palettes: tuple[tuple[int, ...], ...]
    worth: tuple[float, ...]
    proven: bool
    whole: bool
    bound: float
    margin: float

    @property
    def best(self) -> tuple[int, ...]:
        """The best palette."""
        return self.palettes[0]

    @property
    def sure_words(self) -> str:
        """How sure it is that none is better, and how many are nearly as good."""
        others = len(self.palettes) - 1
        if not self.proven:
            return tr(
                "not proven: nothing is better by more than {value:.1f}",
                value=100 * (self.bound - self.worth[0]),
            )
        if not self.whole:
            return tr("at least {others} others near it", others=others)
        points = 100 * self.margin
        near = tr("one point") if abs(points - 1.0) < 1e-6 else tr("{points:.2g} points", points=points)
        if not others:
            return tr("no other within {near}", near=near)
        return trn("{n} other within {near}", "{n} others within {near}", others, near=near)


def choosing(
    value: Value,
    kinds: Kinds,
    conditions: Conditions,
    size: int,
    margin: float = NEAR_TIE,
    seconds: float = 60.0,
    most: int = MOST_LISTED,
) -> Generator[float, None, Choice]:
    """The best palettes of a size under conditions; yields its progress.

    Parameters
    ----------
    value : Value
    kinds : Kinds of the same paints
    conditions : Conditions
    size : int
    margin : float, 0..1
    seconds : float
    most : int, how many are listed

    Raises
    ------
    CulmoError
        naming the condition to drop when no palette meets them
    """
    places = resolve(kinds, conditions, size)
    found: FoundSets = yield from searching(
        value,
        size,
        keep=places.keep,
        avoid=places.avoid,
        one_of=places.one_of,
        margin=margin,
        seconds=seconds,
        most=most,
    )
    return Choice(
        size, tuple(found.palettes), tuple(found.worth), found.proven, found.whole, found.bound, found.margin
    )


def describe(lab: Array) -> str:
    """A kind of colour in words: "clean violets", "deep blues", "pale greys".

    Parameters
    ----------
    lab : (3,) float
    """
    klass = int(class_of(np.asarray(lab)[None])[0])
    chroma = float(np.hypot(lab[1], lab[2]))
    if klass == DULL_DARKS:
        return CLASSES[klass]
    if lab[0] >= _PALE_L:
        word = tr("pale")
    elif lab[0] < _DEEP_L:
        word = tr("deep")
    elif klass == GREYS:
        word = tr("middle")
    else:
        word = tr("clean") if chroma >= _VIVID else tr("quiet") if chroma < _QUIET else tr("middle")
    return f"{word} {CLASSES[klass]}"


def losses(table: Table, reached: Flags, count: int = 2) -> list[tuple[str, int]]:
    """What a palette does not reach, in words, the most first, with how many colours of each.

    Parameters
    ----------
    table : Table
    reached : (N,) bool
    count : int
    """
    tally: dict[str, int] = {}
    for lab in table.lab[~reached]:
        words = describe(lab)
        tally[words] = tally.get(words, 0) + 1
    least = max(2.0, _WORTH_TELLING * len(table.lab))
    ranked = sorted(tally.items(), key=lambda item: -item[1])
    return [item for item in ranked if item[1] >= least][:count]


def loss_words(table: Table, reached: Flags) -> str:
    """What a palette loses, in a line.

    Parameters
    ----------
    table : Table
    reached : (N,) bool
    """
    found = losses(table, reached)
    if reached.all():
        return tr("loses nothing")
    if not found:
        return tr("loses little that shows")
    return tr("loses {what}", what=", ".join(words for words, _ in found))


# ---- what if


def with_each(value: Value, paints: Sequence[int]) -> Array:
    """What a palette would be worth with each paint of the box besides, (n,) float; its own worth at its own paints.

    Parameters
    ----------
    value : Value
    paints : sequence of int
    """
    bits = value.table.bits
    own = np.array(paints, dtype=np.intp)
    place = np.arange(len(bits))
    more = bits[place, place, place]
    if len(own):
        one, two = np.triu_indices(len(own))
        more = more | np.bitwise_or.reduce(bits[own[one], own[two]], axis=0)
    return value(value.table.reach(paints) | more)


@dataclass(frozen=True)
class Swap:
    """One paint for another.

    Attributes
    ----------
    out, into : int
    change : float, of the share
    """

    out: int
    into: int
    change: float


@dataclass(frozen=True)
class WhatIf:
    """What adding, dropping and swapping would change.

    Attributes
    ----------
    worth : float, the palette's own
    add : (n,) float, change with each paint besides; 0 for its own
    drop : (k,) float, change without each of its paints, in the palette's order
    swap : (k, n) float, change with each paint of the box in the place of each of its paints
    """

    paints: tuple[int, ...]
    worth: float
    add: Array
    drop: Array
    swap: Array

    def best_swaps(self, count: int = 4, rules: Resolved | None = None) -> list[Swap]:
        """For each paint of the palette the swap that changes least for the worse; the mildest first.

        Parameters
        ----------
        count : int
        rules : Resolved, the conditions that a swap must not break; none where absent
        """
        result = []
        for row, out in enumerate(self.paints):
            allowed = [
                into
                for into in range(self.swap.shape[1])
                if into not in self.paints and (rules is None or rules.lets(self.paints, out, into))
            ]
            if allowed:
                into = max(allowed, key=lambda place: float(self.swap[row, place]))
                result.append(Swap(out, into, float(self.swap[row, into])))
        return sorted(result, key=lambda swap: -swap.change)[:count]


def what_if(value: Value, paints: Sequence[int]) -> WhatIf:
    """All single changes of a palette.

    Parameters
    ----------
    value : Value on a table of n paints
    paints : sequence of k int
    """
    own = list(paints)
    worth = value.of(own)
    swap = np.empty((len(own), len(value.table.names)))
    drop = np.empty(len(own))
    for row in range(len(own)):
        rest = own[:row] + own[row + 1 :]
        swap[row] = with_each(value, rest) - worth
        drop[row] = value.of(rest) - worth
    return WhatIf(tuple(own), worth, with_each(value, own) - worth, drop, swap)


def missed_without(value: Value) -> Array:
    """The share of what the whole box reaches that is lost without each paint, (n,) float.

    Parameters
    ----------
    value : Value
    """
    everyone = list(range(len(value.table.names)))
    all_of_it = value.of(everyone)
    return np.array([all_of_it - value.of(everyone[:i] + everyone[i + 1 :]) for i in everyone])
