"""Mixes worth knowing of a box, of two and three paints: greys, browns, darks, clean mixes, grain, parting, range, care.

Each list holds every mix that passes its test; where there are more than can be looked at closely, it says how many.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from math import gcd, nan

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.next_cells import choose_next
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for, radius_of_nine_in_ten
from culmo.core.paint.recipe import FULL, Recipe, mix
from culmo.core.palette.greyness import MUTED, NEARLY_GREY, chroma_at_most, grey_words
from culmo.core.palette.lattice import SUM_OF_PARTS, WASHES, Lattice, compositions
from culmo.core.palette.mixer import (
    EVEN,
    FULL_AT,
    MIDDLE_AT,
    PAIR_WASHES,
    RATIOS,
    Mixer,
    PairTable,
    chroma_of,
    hue_apart,
    hue_of,
)
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.palette.roles import MIXES, within
from culmo.core.palette.strength import LOGITS, middles
from culmo.core.threads import one_thread
from culmo.words import tr

GREY, BROWN, DARK, GREEN, ORANGE, VIOLET, PARTING, GRAINY, RANGE, CAREFUL = (
    "grey", "brown", "dark", "green", "orange", "violet", "parting", "grainy", "range", "careful",
)  # fmt: skip
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
_OWN_HUE_DEG = 14.0
_SETTLES, _STAYS = 0.15, 0.1
_SEEN = 3.0  # CIEDE2000 between hollow and hill, for parting to be seen
_VIVID = 30.0
_TAKES_OVER = 5.0
_TELLS = 12.0
_TOLD_BY = 40
_MOST_VARIED = 400
_A_PAINT_MORE = 2.0  # chroma that one paint less is worth
_MIDDLE_OF_LATTICE = WASHES.index(0.5)
_MOST_PARTS = 12
WARM_DEG = 60.0  # orange is the warm end of greys


@dataclass(frozen=True)
class Idea:
    """A mix worth knowing.

    Attributes
    ----------
    kind : str, one of the kinds of this module
    recipe : Recipe that shows it
    lab : (3,) float, its colour
    number : float, what it is ranked by: smaller is better for greys, browns and darks, larger for all others
    words : str
    spread : float, the CIEDE2000 radius that holds nine in ten of what is not known of the paints; the hand apart
    at_most : float, the chroma that nine in ten do not pass
    """

    kind: str
    recipe: Recipe
    lab: Array
    number: float
    words: str
    spread: float = nan
    at_most: float = nan

    @property
    def names(self) -> tuple[str, ...]:
        """Its paints, the most first."""
        return tuple(part.name for part in self.recipe.layers[0].parts)


@dataclass(frozen=True)
class Ideas:
    """What was found of a box.

    Attributes
    ----------
    found : dict from kind to the ideas, the best first
    telling : dict from kind to the idea whose painting would teach most about those of its kind
    more : dict from kind to how many sets of paints came less near and were not looked at any closer
    """

    found: dict[str, list[Idea]]
    telling: dict[str, Idea] = field(default_factory=dict)
    more: dict[str, int] = field(default_factory=dict)

    def with_more(self, other: "Ideas") -> "Ideas":
        """These and those of other kinds."""
        return Ideas(self.found | other.found, self.telling | other.telling, self.more | other.more)


KINDS = (GREY, BROWN, DARK, GREEN, ORANGE, VIOLET, PARTING, GRAINY, RANGE, CAREFUL)


@one_thread
def find_ideas(
    estimate: Estimate,
    mixer: Mixer,
    table: PairTable,
    lattice: Lattice,
    grain: Sequence[float],
    kinds: Sequence[str] = KINDS,
) -> Ideas:
    """The mixes worth knowing of a box, with how sure they are.

    Parameters
    ----------
    estimate : Estimate that the others come from
    mixer : Mixer of n paints
    table : PairTable of them
    lattice : Lattice of them
    grain : n float, 0..1, how much each granulates
    kinds : sequence of str, what is looked for
    """
    if len(mixer.names) < 2:
        return Ideas({kind: [] for kind in kinds})
    grains = np.asarray(grain, dtype=float)
    makers: dict[str, Callable[[], tuple[list[Idea], int]]] = {
        GREY: lambda: _greys(mixer, table, lattice),
        BROWN: lambda: _browns(mixer, lattice),
        DARK: lambda: _darks(mixer, table, lattice),
        PARTING: lambda: (_parting(mixer, table, grains), 0),
        GRAINY: lambda: (_grainy(mixer, table, grains), 0),
        RANGE: lambda: (_ranges(table), 0),
        CAREFUL: lambda: (_careful(mixer, table), 0),
        GREEN: lambda: (_clean(table, GREEN), 0),
        ORANGE: lambda: (_clean(table, ORANGE), 0),
        VIOLET: lambda: (_clean(table, VIOLET), 0),
    }
    ideas = Ideas({})
    for kind in kinds:
        rough, more = makers[kind]()
        found = _with_spread(estimate, rough)
        if kind == GREY:  # what is known to be grey comes before what may be, and two paints before three
            found.sort(key=lambda idea: idea.at_most + _A_PAINT_MORE * len(idea.names))
        best = _telling(estimate, found)
        ideas.found[kind], ideas.more[kind] = found, more
        if best is not None:
            ideas.telling[kind] = best
    return ideas


# ---- greys


def _lowest_terms(paints: int, most: int) -> Indices:
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


def _greys(mixer: Mixer, table: PairTable, lattice: Lattice) -> tuple[list[Idea], int]:
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
            GREY,
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
    return _greyest(mixer, groups, _lowest_terms(2, _MOST_PARTS))


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
    return _greyest(mixer, kept, _lowest_terms(3, _MOST_PARTS)), len(order) - len(kept)


def warmth(lab: Array) -> Array:
    """How warm a near-grey is: what it leans to orange, in units of chroma; below 0 it is cool.

    Parameters
    ----------
    lab : (..., 3) float
    """
    angle = np.radians(WARM_DEG)
    return np.asarray(lab[..., 1] * np.cos(angle) + lab[..., 2] * np.sin(angle))


# ---- browns and darks


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
        parts = _lowest_terms(count, _MOST_PARTS)
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


def _browns(mixer: Mixer, lattice: Lattice) -> tuple[list[Idea], int]:
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
                found[group] = Idea(BROWN, recipe, lab, value, words)
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


def _darks(mixer: Mixer, table: PairTable, lattice: Lattice) -> tuple[list[Idea], int]:
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
        ideas.append(Idea(DARK, recipe, lab, value, words))
    return ideas, len(fitting) - len(groups)


# ---- clean mixes, range


def _of_pair(
    table: PairTable, kind: str, pair: int, ratio: int, wash: int, number: float, words: str
) -> Idea:
    return Idea(kind, table.recipe(pair, ratio, wash), table.lab[pair, ratio, wash], number, words)


def _clean(table: PairTable, kind: str) -> list[Idea]:
    """The pairs that make a green, an orange or a violet in a middle wash, the most vivid first."""
    low, high = MIXES[kind]
    own = hue_of(table.alone[:, MIDDLE_AT])
    hues, chromas = table.hue[:, :, MIDDLE_AT], table.chroma[:, :, MIDDLE_AT]
    parents = np.minimum(
        hue_apart(hues, own[table.first][:, None]), hue_apart(hues, own[table.second][:, None])
    )
    inside = np.where(within(hues, low, high) & (parents >= _OWN_HUE_DEG), chromas, 0.0)
    best = inside.max(axis=1, initial=0.0)
    return [
        _of_pair(
            table, kind, int(p), int(inside[p].argmax()), MIDDLE_AT, float(best[p]),
            tr("chroma {best:.0f}", best=best[p]),
        )
        for p in np.argsort(-best, kind="stable") if best[p] > 0.0
    ]  # fmt: skip


def _ranges(table: PairTable) -> list[Idea]:
    """All pairs by the way from one paint to the other, in CIEDE2000 at a full wash."""
    ends = table.alone[:, FULL_AT]
    path = np.concatenate(
        [ends[table.first][:, None], table.lab[:, :, FULL_AT], ends[table.second][:, None]], axis=1
    )
    length = delta_e_00(path[:, 1:], path[:, :-1]).sum(axis=1)
    return [
        _of_pair(
            table, RANGE, int(p), EVEN, FULL_AT, float(length[p]),
            tr("{length:.0f} from end to end", length=length[p]),
        )
        for p in np.argsort(-length, kind="stable")
    ]  # fmt: skip


# ---- grain


def _hollow_and_hill(mixer: Mixer, table: PairTable, grain: Array, own: bool) -> tuple[Array, Indices]:
    """How far the colours in the hollows and on the hills of the paper lie apart, in CIEDE2000, at the best of some ratios.

    In a hollow there is more of what settles, in logs by its grain, on a hill less. With `own` the share of each paint
    changes with its own grain (the mix parts) and the film's thickness does not; without it the film is thicker in
    the hollow by the mean grain, and the shares stay (it granulates).
    """
    g1, g2 = grain[table.first], grain[table.second]
    tried = [place for place, (a, b) in enumerate(RATIOS) if max(a, b) <= 3 * min(a, b)]
    wash, rows = PAIR_WASHES[MIDDLE_AT], np.arange(len(table.first))
    seen = np.zeros((len(rows), len(tried)))
    for at, place in enumerate(tried):
        a, b = RATIOS[place]
        share = a / (a + b)
        ends = []
        for sign in (1.0, -1.0):
            one, two = np.full(len(rows), share), np.full(len(rows), 1.0 - share)
            thick = np.full(len(rows), wash)
            if own:
                one, two = one * np.exp(sign * g1), two * np.exp(sign * g2)
            else:
                thick = wash * np.exp(sign * (share * g1 + (1.0 - share) * g2))
            shares = np.zeros((len(rows), len(mixer.names)))
            shares[rows, table.first], shares[rows, table.second] = one / (one + two), two / (one + two)
            ends.append(mixer.lab_each(shares, thick))
        seen[:, at] = delta_e_00(ends[0], ends[1])
    best = seen.argmax(axis=1)
    return seen[rows, best], np.array(tried)[best]


def _parting(mixer: Mixer, table: PairTable, grain: Array) -> list[Idea]:
    """Pairs of which one settles in the hollows and the other stays between, by how far apart both are seen."""
    seen, ratio = _hollow_and_hill(mixer, table, grain, own=True)
    one, two = grain[table.first], grain[table.second]
    chroma = chroma_of(table.alone[:, MIDDLE_AT])
    fits = (np.maximum(one, two) >= _SETTLES) & (seen >= _SEEN)
    ideas = []
    for p in np.flatnonzero(fits)[np.argsort(-seen[fits], kind="stable")]:
        first, second = int(table.first[p]), int(table.second[p])
        settles, stays = (first, second) if one[p] >= two[p] else (second, first)
        if grain[stays] > _STAYS:
            words = tr(
                "{settles} settles more than {stays}", settles=mixer.names[settles], stays=mixer.names[stays]
            )
        elif chroma[stays] >= _VIVID:
            words = tr(
                "{settles} settles, {stays} shines between",
                settles=mixer.names[settles],
                stays=mixer.names[stays],
            )
        else:
            words = tr(
                "{settles} settles, {stays} stays between",
                settles=mixer.names[settles],
                stays=mixer.names[stays],
            )
        ideas.append(_of_pair(table, PARTING, int(p), int(ratio[p]), MIDDLE_AT, float(seen[p]), words))
    return ideas


def _grainy(mixer: Mixer, table: PairTable, grain: Array) -> list[Idea]:
    """Pairs that both settle in the hollows, by how far light and dark lie apart."""
    seen, ratio = _hollow_and_hill(mixer, table, grain, own=False)
    fits = np.minimum(grain[table.first], grain[table.second]) >= _SETTLES
    return [
        _of_pair(
            table, GRAINY, int(p), int(ratio[p]), MIDDLE_AT, float(seen[p]),
            tr("both settle in the hollows of the paper"),
        )
        for p in np.flatnonzero(fits)[np.argsort(-seen[fits], kind="stable")]
    ]  # fmt: skip


# ---- care


def _careful(mixer: Mixer, table: PairTable) -> list[Idea]:
    """Pairs of which one takes over: the parts that land in the middle are far from equal."""
    share = 1.0 / (1.0 + np.exp(-LOGITS))
    n, rows = len(table.names), np.arange(len(table.first))
    shares = np.zeros((len(rows), len(share), n))
    shares[rows, :, table.first] = share
    shares[rows, :, table.second] = 1.0 - share
    path = mixer.lab(shares.reshape(-1, n), (FULL,)).reshape(len(rows), len(share), 3)
    ends = table.alone[:, FULL_AT]
    logit, length = middles(np.stack([ends[table.second], ends[table.first]], axis=1), path)
    strength = np.where(length > _TELLS, np.exp(np.abs(logit)), 0.0)  # of two like paints neither takes over
    ideas = []
    for p in np.argsort(-strength, kind="stable"):
        if strength[p] < _TAKES_OVER:
            break
        first, second = table.names[int(table.first[p])], table.names[int(table.second[p])]
        strong, weak = (second, first) if logit[p] > 0 else (first, second)
        parts = max(2, round(float(strength[p])))
        ratio = 0 if logit[p] > 0 else len(RATIOS) - 1
        words = tr(
            "{strong} takes over: 1 part to {parts} of {weak} is the middle",
            strong=strong,
            parts=parts,
            weak=weak,
        )
        recipe = mix([weak, strong], [float(parts), 1.0])
        ideas.append(Idea(CAREFUL, recipe, table.lab[p, ratio, FULL_AT], float(strength[p]), words))
    return ideas


# ---- how sure, in which order


def _with_spread(estimate: Estimate, ideas: list[Idea]) -> list[Idea]:
    """The ideas with how sure they are; greys with their words, which rest on it."""
    if not ideas:
        return []
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, [idea.recipe for idea in ideas]))
    covariance = linear.jacobian.spread(estimate.covariance)
    radius = radius_of_nine_in_ten(linear.lab, covariance)
    at_most = chroma_at_most(linear.lab, covariance)
    return [
        replace(
            idea,
            spread=float(within),
            at_most=float(most),
            words=grey_words(idea.number, float(most)) if idea.kind == GREY else idea.words,
        )
        for idea, within, most in zip(ideas, radius, at_most, strict=True)
    ]


def _telling(estimate: Estimate, ideas: Sequence[Idea]) -> Idea | None:
    """Of the first of some ideas that one whose reading would tell most about them; None where there are none."""
    first = ideas[:_TOLD_BY]
    chosen = choose_next(estimate, [idea.recipe for idea in first], 1)
    return first[chosen[0]] if chosen else None


def varied(ideas: Sequence[Idea], variety: float = 0.5) -> list[Idea]:
    """The same ideas with different ones before twins: each next is good, and unlike those before it.

    What is alike: colours that lie near, and paints that were in those before. The order is greedy (maximal marginal
    relevance, Carbonell and Goldstein 1998).

    Parameters
    ----------
    ideas : sequence of Idea, the best first
    variety : float, 0..1, how much unlikeness counts against goodness

    Of very many the first are arranged so, and the others follow as they were.
    """
    ideas, rest = ideas[:_MOST_VARIED], ideas[_MOST_VARIED:]
    n = len(ideas)
    if n < 3:
        return list(ideas)
    near = near_from_lab(np.array([idea.lab for idea in ideas]))
    names = sorted({name for idea in ideas for name in idea.names})
    place = {name: i for i, name in enumerate(names)}
    holds = np.zeros((n, len(names)))
    for row, idea in enumerate(ideas):
        holds[row, [place[name] for name in idea.names]] = 1.0 / np.sqrt(len(idea.names))
    good = 1.0 - np.arange(n) / n
    like = np.zeros(n)
    left = np.ones(n, dtype=bool)
    order = []
    for _ in range(n):
        score = np.where(left, (1.0 - variety) * good - variety * like, -np.inf)
        chosen = int(np.argmax(score))
        order.append(chosen)
        left[chosen] = False
        closeness = np.exp(-np.sqrt(((near - near[chosen]) ** 2).sum(axis=1)) / 8.0)
        like = np.maximum(like, 0.5 * closeness + 0.5 * holds @ holds[chosen])
    return [*(ideas[i] for i in order), *rest]


# ---- what a mix is like, over all of its parts and washes


@dataclass(frozen=True)
class Character:
    """What a set of two or three paints can do.

    Attributes
    ----------
    darkest, lightest : float, L
    hues : float, degrees of the hue circle that its mixes run over
    milky : float, how much lighter than the bare bar a full wash of it is over the bar, L
    """

    darkest: float
    lightest: float
    hues: float
    milky: float

    @property
    def turns_milky(self) -> bool:
        """Whether a full wash veils what lies below it."""
        return self.milky >= _MILKY


_MILKY = 12.0


def character(mixer: Mixer, names: Sequence[str]) -> Character:
    """What two or three paints can do together.

    Parameters
    ----------
    mixer : Mixer
    names : sequence of two or three str, paints of it
    """
    index = {name.casefold(): i for i, name in enumerate(mixer.names)}
    places = [index[name.casefold()] for name in names]
    parts = np.vstack([compositions(len(places), 9), np.eye(len(places), dtype=int)])
    shares = np.zeros((len(parts), len(mixer.names)))
    shares[:, places] = parts / parts.sum(axis=1, keepdims=True)
    lab = mixer.lab(shares, PAIR_WASHES)
    hue = np.sort(hue_of(lab[:, MIDDLE_AT])[chroma_of(lab[:, MIDDLE_AT]) >= 6.0])
    gaps = np.diff(np.append(hue, hue[:1] + 360.0)) if len(hue) else np.array([360.0])
    even = np.zeros((1, len(mixer.names)))
    even[0, places] = 1.0 / len(places)
    over, bare = mixer.lab(even, (FULL, 1e-4), "ink")[0]
    return Character(
        float(lab[..., 0].min()),
        float(lab[..., 0].max()),
        float(360.0 - gaps.max()),
        float(over[0] - bare[0]),
    )
