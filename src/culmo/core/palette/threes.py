"""Greys, browns and near blacks of two and three paints."""

from collections.abc import Callable, Sequence
from math import gcd

import numpy as np

from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.recipe import FULL, Recipe, mix
from culmo.core.palette.greyness import MUTED, NEARLY_GREY
from culmo.core.palette.idea import Idea, IdeaKind
from culmo.core.palette.lattice import SUM_OF_PARTS, WASHES, Lattice, compositions
from culmo.core.palette.mixer import (
    FULL_AT,
    MIDDLE_AT,
    PAIR_WASHES,
    Mixer,
    PairTable,
    chroma_of,
    hue_of,
)
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.palette.roles import within
from culmo.words import tr

MOST_THREES = 300
_COLOURED = 14.0  # a paint of less chroma in a middle wash is a grey itself
_BLACKISH, _DARKEST = 10.0, 38.0
_GREY_PAINT = 12.0
_DEEPER = 2.0
_DEARER = 4.0  # what a third paint counts, where not all sets can be looked at closely
_BROWNS = (
    (np.array([50.0, 18.0, 40.0]), tr("a golden brown")),
    (np.array([38.0, 27.0, 26.0]), tr("a red brown")),
    (np.array([28.0, 9.0, 13.0]), tr("a dark brown")),
)
_BROWN_AWAY, _BROWN_AT_MOST = 7.0, 12.0  # where no third paint is needed, and what is still called one
# how much nearer finer parts may come; sets of paints that are looked at so; how many at a time
_FINER, _MOST_FINE, _AT_ONCE = 10.0, 180, 60
_MIDDLE_OF_LATTICE = WASHES.index(0.5)
_MOST_PARTS = 12
WARM_DEG = 60.0  # orange is the warm end of greys


def lowest_terms(paints: int, most: int) -> Indices:
    """Whole parts of some paints in lowest terms, each at least 1, that add up to at most `most`."""
    rows = [row for total in range(paints, most + 1) for row in compositions(paints, total)]
    return np.array([row for row in rows if gcd(*(int(part) for part in row)) == 1])


def _in_order(names: Sequence[str], parts: Sequence[int], wash: float) -> Recipe:
    """A recipe with the most first."""
    both = sorted(zip(names, parts, strict=True), key=lambda pair: -pair[1])
    return mix([name for name, _ in both], [float(part) for _, part in both], wash)


def _best_parts(mixer: Mixer, groups: Indices, parts: Indices, wash: float) -> tuple[Indices, Array]:
    """The parts of least chroma of each group of paints, of equally grey ones the smallest; and their colours."""
    lab = _mixed(mixer, groups, parts, wash)
    best = (chroma_of(lab) + 0.05 * parts.sum(axis=1)).argmin(axis=1)
    return best, lab[np.arange(len(groups)), best]


def _mixed(mixer: Mixer, groups: Indices, parts: Indices, wash: float) -> Array:
    """The colours of groups of paints in whole parts, (groups, parts, 3) float."""
    g, p = len(groups), len(parts)
    shares = np.zeros((g, p, len(mixer.names)))
    share = parts / parts.sum(axis=1, keepdims=True)
    rows = np.arange(g)
    for place in range(groups.shape[1]):
        shares[rows, :, groups[:, place]] = share[:, place]
    return mixer.lab(shares.reshape(g * p, -1), (wash,)).reshape(g, p, 3)


def greys(mixer: Mixer, table: PairTable, lattice: Lattice) -> tuple[list[Idea], int]:
    """Greys of two and of three paints, and how many threes are not listed."""
    threes, more = _grey_threes(mixer, table, lattice)
    return [*_grey_pairs(mixer, table), *threes], more


def _greyest(mixer: Mixer, groups: Indices, parts: Indices) -> list[Idea]:
    """The best whole parts of each group, where that is a grey or a muted tone; their words come with their spread."""
    wash = PAIR_WASHES[MIDDLE_AT]
    if not len(groups):
        return []
    best, lab = _best_parts(mixer, groups, parts, wash)
    return [
        Idea(
            IdeaKind.GREY,
            _in_order([mixer.names[int(i)] for i in group], [int(part) for part in parts[at]], wash),
            colour,
            float(chroma_of(colour)),
            "",
        )
        for group, at, colour in zip(groups, best, lab, strict=True)
        if chroma_of(colour) < MUTED
    ]


def _grey_pairs(mixer: Mixer, table: PairTable) -> list[Idea]:
    """Two coloured paints that make a grey."""
    coloured = chroma_of(table.alone[:, MIDDLE_AT]) >= _COLOURED
    left = table.chroma[:, :, MIDDLE_AT].min(axis=1)
    places = np.flatnonzero(coloured[table.first] & coloured[table.second] & (left < MUTED + 8.0))
    groups = np.stack([table.first[places], table.second[places]], axis=1)
    return _greyest(mixer, groups, lowest_terms(2, _MOST_PARTS))


def _grey_threes(mixer: Mixer, table: PairTable, lattice: Lattice) -> tuple[list[Idea], int]:
    """Three paints no two of which make a grey; the truest, and how many there are besides."""
    threes = np.flatnonzero(lattice.groups[:, 1] != lattice.groups[:, 2])
    if not len(threes):
        return [], 0
    groups = lattice.groups[threes]
    many = len(compositions(3, SUM_OF_PARTS))
    chroma = chroma_of(lattice.lab[lattice.first[threes[0]] :, _MIDDLE_OF_LATTICE].reshape(-1, many, 3))
    coloured = chroma_of(table.alone[:, MIDDLE_AT]) >= _COLOURED
    left = table.chroma[:, :, MIDDLE_AT].min(axis=1)
    of_two = np.min(
        [left[table.place[groups[:, a], groups[:, b]]] for a, b in ((0, 1), (0, 2), (1, 2))], axis=0
    )
    fits = coloured[groups].all(axis=1) & (of_two >= NEARLY_GREY) & (chroma.min(axis=1) < MUTED)
    order = np.flatnonzero(fits)[np.argsort(chroma.min(axis=1)[fits], kind="stable")]
    kept = groups[order[:MOST_THREES]]
    return _greyest(mixer, kept, lowest_terms(3, _MOST_PARTS)), len(order) - len(kept)


def warmth(lab: Array) -> Array:
    """How warm a near-grey is: what it leans to orange, in units of chroma; below 0 it is cool.

    Parameters
    ----------
    lab : (..., 3) float
    """
    angle = np.radians(WARM_DEG)
    return np.asarray(lab[..., 1] * np.cos(angle) + lab[..., 2] * np.sin(angle))


def _by_group(lattice: Lattice, value: Array) -> tuple[Array, Indices]:
    """The least value of each group of paints, and its row."""
    least = np.minimum.reduceat(value, lattice.first[:-1])
    at = np.flatnonzero(value == least[lattice.group_of])
    first = np.searchsorted(lattice.group_of[at], np.arange(len(lattice.groups)))
    return least, at[first]


def _least_inside(lattice: Lattice, least: Array) -> Array:
    """For each group the least value of the groups that are a part of it; infinite for a paint alone."""
    groups, n = lattice.groups, len(lattice.names)
    alone, pair = np.full(n, np.inf), np.full((n, n), np.inf)
    count = 1 + (groups[:, 1] != groups[:, 0]).astype(int) + (groups[:, 2] != groups[:, 1]).astype(int)
    alone[groups[count == 1, 0]] = least[count == 1]
    two = groups[count == 2]
    pair[two[:, 0], two[:, 1]] = least[count == 2]
    inside: Array = np.minimum.reduce([alone[groups[:, place]] for place in range(3)])
    inside[count == 1] = np.inf
    threes = count == 3
    if threes.any():
        some = groups[threes]
        of_two = np.minimum.reduce([pair[some[:, a], some[:, b]] for a, b in ((0, 1), (0, 2), (1, 2))])
        inside[threes] = np.minimum(inside[threes], of_two)
    return inside


def _of_group(lattice: Lattice, marked: Flags) -> Flags:
    """Whether a group holds a marked paint."""
    return np.asarray(marked[lattice.groups].any(axis=1))


def _finest(
    mixer: Mixer, lattice: Lattice, groups: Indices, cost: Callable[[Array], Array]
) -> list[tuple[int, Recipe, Array, float]]:
    """The best whole parts of some groups at a full wash: the group, its recipe, its colour and what it costs.

    The lattice knows no less than a sixth of a paint, which is too much of a strong one.
    """
    found = []
    three = lattice.groups[groups, 1] != lattice.groups[groups, 2]
    for count, own in ((2, groups[~three]), (3, groups[three])):
        parts = lowest_terms(count, _MOST_PARTS)
        for start in range(0, len(own), _AT_ONCE):
            some = own[start : start + _AT_ONCE]
            members = lattice.groups[some][:, :count]
            lab = _mixed(mixer, members, parts, FULL)
            value = cost(lab)
            best = value.argmin(axis=1)
            for row, (group, at) in enumerate(zip(some, best, strict=True)):
                names = [mixer.names[int(place)] for place in members[row]]
                recipe = _in_order(names, [int(part) for part in parts[at]], FULL)
                found.append((int(group), recipe, lab[row, at], float(value[row, at])))
    return found


def browns(mixer: Mixer, lattice: Lattice) -> tuple[list[Idea], int]:
    """Browns of paints that are no browns themselves; a third paint only where no two of the three come near."""
    alone = lattice.lab[_rows_of_ones(lattice), FULL_AT]
    free = ~_of_group(lattice, _is_brown(alone)) & (lattice.groups[:, 0] != lattice.groups[:, 1])
    three = lattice.groups[:, 1] != lattice.groups[:, 2]
    found: dict[int, Idea] = {}
    left: set[int] = set()
    for target, words in _BROWNS:
        wanted = near_from_lab(target[None])[0]

        def away(lab: Array, wanted: Array = wanted) -> Array:
            return np.asarray(np.sqrt(((near_from_lab(lab) - wanted) ** 2).sum(axis=-1)))

        least, _ = _by_group(lattice, away(lattice.lab[:, FULL_AT]))
        near = least < _BROWN_AT_MOST + _FINER
        fits = free & near & (~three | (_least_inside(lattice, least) > _BROWN_AWAY))
        fitting = np.flatnonzero(fits)
        cost = least[fitting] + _DEARER * three[fitting]
        groups = fitting[np.argsort(cost, kind="stable")[:_MOST_FINE]]
        left |= set(fitting.tolist()) - set(groups.tolist())
        for group, recipe, lab, value in _finest(mixer, lattice, groups, away):
            if (
                value < _BROWN_AT_MOST
                and _is_brown(lab)
                and (group not in found or found[group].number > value)
            ):
                found[group] = Idea(IdeaKind.BROWN, recipe, lab, value, words)
    return sorted(found.values(), key=lambda idea: idea.number), len(left - set(found))


def _is_brown(lab: Array) -> Flags:
    """Whether colours are browns: dark and muted, of the hues from red to yellow."""
    chroma = chroma_of(lab)
    return np.asarray(
        within(hue_of(lab), 25.0, 95.0) & (chroma >= 8.0) & (chroma < 52.0) & (lab[..., 0] < 62.0)
    )


def _rows_of_ones(lattice: Lattice) -> Indices:
    """The rows of the paints alone."""
    n = len(lattice.names)
    return np.asarray(lattice.first[:n])


def darks(mixer: Mixer, table: PairTable, lattice: Lattice) -> tuple[list[Idea], int]:
    """Near blacks of paints that are no greys themselves; a third paint only where it goes deeper."""

    def depth(lab: Array) -> Array:
        return np.where(chroma_of(lab) < _BLACKISH, lab[..., 0], np.inf)

    # a little more colour is let pass at first: in finer parts it may go
    coarse = lattice.lab[:, FULL_AT]
    least, _ = _by_group(lattice, np.where(chroma_of(coarse) < 2.0 * _BLACKISH, coarse[:, 0], np.inf))
    grey = chroma_of(table.alone[:, MIDDLE_AT]) < _GREY_PAINT
    fits = ~_of_group(lattice, grey) & (least < _DARKEST) & (lattice.groups[:, 0] != lattice.groups[:, 1])
    fitting = np.flatnonzero(fits)
    three = lattice.groups[fitting, 1] != lattice.groups[fitting, 2]
    groups = fitting[np.argsort(least[fitting] + _DEARER * three, kind="stable")[:_MOST_FINE]]
    finest = _finest(mixer, lattice, groups, depth)
    of_two = {
        frozenset(map(int, lattice.groups[group])): value
        for group, _, _, value in finest
        if lattice.groups[group, 1] == lattice.groups[group, 2]
    }
    ideas = []
    for group, recipe, lab, value in sorted(finest, key=lambda entry: entry[3]):
        places = frozenset(map(int, lattice.groups[group]))
        inside = [of_two.get(places - {place}, np.inf) for place in places] if len(places) == 3 else []
        if value >= _DARKEST or any(value > other - _DEEPER for other in inside):
            continue
        words = tr("L {value:.0f} at a full wash, chroma {chroma:.0f}", value=value, chroma=chroma_of(lab))
        ideas.append(Idea(IdeaKind.DARK, recipe, lab, value, words))
    return ideas, len(fitting) - len(groups)
