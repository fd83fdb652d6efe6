"""Recipes in small whole parts that come nearest to a colour: the nearest in reach, the safest, a touch more in a puddle."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import product
from math import gcd

import numpy as np

from culmo.core.colour.difference import delta_e_00, local_metric
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.lattice import WASHES, Lattice, lattice_colours
from culmo.core.palette.mixer import Mixer
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.steps import run_through
from culmo.core.threads import one_thread
from culmo.errors import CulmoError
from culmo.words import tr

MOST_PAINTS = 3
MOST_PARTS = 12  # a hand can tell twelve parts apart, hardly more
_SETS = 36  # sets of paints that are looked at more closely
_CLOSER = 150  # recipes whose water is settled finely
_STEPS: Array = np.array(WASHES)
_SMALLER_PARTS = 0.02  # CIEDE2000 that smaller parts are worth
_LEAST_WASH = 0.05


@dataclass(frozen=True)
class Match:
    """A recipe near a wanted colour.

    Attributes
    ----------
    recipe : Recipe
    lab : (3,) float, predicted
    away : float, CIEDE2000 from the wanted colour
    """

    recipe: Recipe
    lab: Array
    away: float


@cache
def compositions_up_to(count: int, most: int) -> Indices:
    """Whole parts of `count` paints in lowest terms that add up to at most `most`, (m, count) int."""
    if count == 1:
        return np.array([[1]])
    rows = [
        parts for parts in product(range(1, most), repeat=count) if sum(parts) <= most and gcd(*parts) == 1
    ]
    return np.array(rows)


def find_places(names: Sequence[str], wanted: Iterable[str], what: str) -> set[int]:
    """Where paints stand among names.

    Parameters
    ----------
    names : sequence of str
    wanted : iterable of str
    what : str, for the error

    Raises
    ------
    CulmoError
        naming a paint that is not there
    """
    index = {name.casefold(): i for i, name in enumerate(names)}
    found = set()
    for name in wanted:
        place = index.get(name.strip().casefold())
        if place is None:
            raise CulmoError(tr('{what} "{name}": there is no such paint', what=what, name=name))
        found.add(place)
    return found


def fitting_groups(lattice: Lattice, most: int, kept: Iterable[int], left_out: Iterable[int]) -> Flags:
    """Whether each set of paints of a lattice may be mixed, (g,) bool.

    Parameters
    ----------
    lattice : Lattice
    most : int, how many paints at most
    kept, left_out : places of paints that must be, or must not be, in it
    """
    groups = lattice.groups
    size = 1 + (groups[:, 1] > groups[:, 0]).astype(int) + (groups[:, 2] > groups[:, 1])
    fits: Flags = size <= most
    for place in kept:
        fits &= (groups == place).any(axis=1)
    for place in left_out:
        fits &= (groups != place).all(axis=1)
    return fits


def _near_groups(lattice: Lattice, target: Array, most: int, kept: set[int], left_out: set[int]) -> Indices:
    """The sets of paints with the nearest mixes, the nearest first."""
    apart = ((lattice.near - near_from_lab(target).astype(np.float32)) ** 2).sum(axis=-1).min(axis=1)
    nearest = np.minimum.reduceat(apart, lattice.first[:-1])
    fits = fitting_groups(lattice, most, kept, left_out)
    order = np.argsort(np.where(fits, nearest, np.inf), kind="stable")
    chosen: Indices = order[: min(_SETS, int(fits.sum()))]
    return chosen


def _all_parts(lattice: Lattice, chosen: Indices) -> tuple[Indices, Array]:
    """All whole parts of some sets of paints: members (m, 3) and parts (m, 3)."""
    members, parts = [], []
    for group in lattice.groups[chosen]:
        paints = np.unique(group)
        some = compositions_up_to(len(paints), MOST_PARTS)
        padded = np.zeros((len(some), 3))
        padded[:, : len(paints)] = some
        members.append(
            np.tile(np.concatenate([paints, np.repeat(paints[-1:], 3 - len(paints))]), (len(some), 1))
        )
        parts.append(padded)
    return np.concatenate(members), np.concatenate(parts)


def _shares(members: Indices, parts: Array, n: int) -> Array:
    shares = np.zeros((len(members), n))
    rows = np.arange(len(members))
    for column in range(3):
        shares[rows, members[:, column]] += parts[:, column]
    return np.asarray(shares / shares.sum(axis=1, keepdims=True))


def _settle_water(mixer: Mixer, shares: Array, washes: Array, target: Array) -> tuple[Array, Array, Array]:
    """The water of each recipe settled to a hundredth: (washes, colours, differences)."""
    rows = np.arange(len(shares))
    best = washes
    for span in (0.18, 0.07, 0.02):
        tried = np.clip(best[:, None] * np.exp(np.linspace(-span, span, 5)), _LEAST_WASH, 1.0)
        colours = np.stack([mixer.lab_each(shares, tried[:, i]) for i in range(tried.shape[1])], axis=1)
        best = tried[rows, delta_e_00(colours, target).argmin(axis=1)]
    rounded = np.clip(np.round(best, 2), _LEAST_WASH, 1.0)
    lab = mixer.lab_each(shares, rounded)
    return rounded, lab, delta_e_00(lab, target)


def check_wish(most_paints: int, count: int) -> None:
    """Whether so many recipes of so many paints can be asked for.

    Raises
    ------
    CulmoError
        when a number is out of range
    """
    if not 1 <= most_paints <= MOST_PAINTS:
        raise CulmoError(
            tr(
                "recipes of {most_paints} paints are not looked for; it must be 1, 2 or 3",
                most_paints=most_paints,
            )
        )
    if count < 1:
        raise CulmoError(tr("at least one recipe must be asked for"))


@one_thread
def nearest_recipes(
    lattice: Lattice,
    target: Array,
    most_paints: int = MOST_PAINTS,
    count: int = 5,
    keep: Iterable[str] = (),
    avoid: Iterable[str] = (),
    smaller: float = _SMALLER_PARTS,
) -> list[Match]:
    """The nearest recipe of each of the best sets of paints, the nearest first.

    The lattice gives the sets whose mixes come nearest; of those all whole parts up to twelve at nine washes are
    looked at, and the water of the best is settled to a hundredth of a full wash.

    Parameters
    ----------
    lattice : Lattice of the paints that may be used
    target : (3,) float, CIELAB
    most_paints : int, 1..3
    count : int, >= 1
    keep, avoid : names of paints that must be, or must not be, in the recipe
    smaller : float, CIEDE2000 that one part less is worth, in the recipe of a set

    Raises
    ------
    CulmoError
        when a name is unknown, a number is out of range, or no recipe can meet the conditions
    """
    check_wish(most_paints, count)
    kept = find_places(lattice.names, keep, "keep")
    left_out = find_places(lattice.names, avoid, "avoid")
    if kept & left_out:
        raise CulmoError(tr("the same paint can not be kept and avoided"))
    if len(kept) > most_paints:
        raise CulmoError(
            tr(
                "{n} paints to keep do not go into a recipe of {most_paints}",
                n=len(kept),
                most_paints=most_paints,
            )
        )
    if len(lattice.names) <= len(left_out):
        raise CulmoError(tr("no recipe meets the conditions: all paints are avoided"))
    target = np.asarray(target, dtype=float)
    chosen = _near_groups(lattice, target, most_paints, kept, left_out)
    members, parts = _all_parts(lattice, chosen)
    away = _coarse(lattice.mixer, members, parts, target)
    at = np.argsort(away.min(axis=1), kind="stable")[:_CLOSER]
    # each set stays in the race with its own best
    firsts = _best_of_each(members, away.min(axis=1))
    at = np.unique(np.concatenate([at, firsts]))
    shares = _shares(members[at], parts[at], len(lattice.names))
    washes, lab, away = _settle_water(lattice.mixer, shares, _STEPS[away[at].argmin(axis=1)], target)
    cost = away + smaller * parts[at].sum(axis=1)
    best = _best_of_each(members[at], cost)
    best = best[np.argsort(away[best], kind="stable")][:count]
    return [
        Match(_recipe(lattice.names, members[at[i]], parts[at[i]], float(washes[i])), lab[i], float(away[i]))
        for i in best
    ]


def _coarse(mixer: Mixer, members: Indices, parts: Array, target: Array) -> Array:
    """How near recipes come at the lattice's nine washes, by the near space, (m, 9)."""
    near = near_from_lab(run_through(lattice_colours(mixer, members, parts)))
    return np.asarray(np.sqrt(((near - near_from_lab(target).astype(np.float32)) ** 2).sum(axis=-1)))


def _best_of_each(members: Indices, cost: Array) -> Indices:
    """The row of least cost of each set of paints."""
    order = np.argsort(cost, kind="stable")
    _, first = np.unique(members[order], axis=0, return_index=True)
    return np.asarray(order[np.sort(first)])


def _recipe(names: Sequence[str], members: Indices, parts: Array, wash: float) -> Recipe:
    pairs = [(int(part), names[int(i)]) for part, i in zip(parts, members, strict=True) if part > 0]
    pairs.sort(key=lambda pair: -pair[0])
    return mix([name for _, name in pairs], [float(part) for part, _ in pairs], wash)


@one_thread
def expected_miss(
    estimate: Estimate, recipes: Sequence[Recipe], target: Array, hand_only: bool = False
) -> Array:
    """How far from a wanted colour painted cells will be, in the square mean, (n,) float CIEDE2000.

    The square of the distance of the prediction and what the hand's errors (and what is not known of the paints) add,
    measured in the local metric of CIEDE2000.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    target : (3,) float, CIELAB
    hand_only : bool, leave out what is not known of the paints
    """
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, recipes, None, ""))
    covariance = estimate.hand.covariance(linear)
    if not hand_only:
        covariance = covariance + linear.jacobian.spread(estimate.covariance)
    spread = np.einsum("nij,nji->n", covariance, local_metric(linear.lab, 1.0))
    return np.asarray(np.sqrt(delta_e_00(linear.lab, np.asarray(target)) ** 2 + spread))


def safest(estimate: Estimate, matches: Sequence[Match], target: Array) -> tuple[int, Array]:
    """Which recipe misses least when the hand is off, and what each is expected to miss.

    Parameters
    ----------
    estimate : Estimate
    matches : sequence of Match, not empty
    target : (3,) float

    Returns
    -------
    int, its place; (n,) float, CIEDE2000 in the square mean
    """
    miss = expected_miss(estimate, [match.recipe for match in matches], target)
    return int(np.argmin(miss)), miss


_POOL = 24  # among so many of the nearest the safest is looked for


def nearest_and_safest(
    estimate: Estimate,
    lattice: Lattice,
    target: Array,
    most_paints: int = MOST_PAINTS,
    count: int = 5,
    keep: Iterable[str] = (),
    avoid: Iterable[str] = (),
) -> tuple[list[Match], Array, int]:
    """The nearest recipes, the last of which makes room for the safest of many where that is not among them.

    Parameters
    ----------
    estimate : Estimate
    lattice, target, most_paints, count, keep, avoid : as `nearest_recipes`

    Returns
    -------
    list of at most `count` Match, the nearest first; (n,) float, what each is expected to miss by; int, the safest
    one's place
    """
    if count < 1:
        raise CulmoError(tr("at least one recipe must be asked for"))
    pool = nearest_recipes(lattice, target, most_paints, max(count, _POOL), keep, avoid)
    place, miss = safest(estimate, pool, target)
    shown = list(range(min(count, len(pool))))
    if place not in shown and count > 1:
        shown[-1] = place
    return [pool[i] for i in shown], miss[shown], int(np.argmin(miss[shown]))


# ---- from a puddle that is on the tray


@dataclass(frozen=True)
class Touch:
    """What to add to a puddle.

    Attributes
    ----------
    adds : tuple of (str, float), paints with how much of each for every part of the puddle
    recipe : Recipe that it makes, at the wash that comes nearest
    lab : (3,) float
    away : float, CIEDE2000 from the wanted colour
    """

    adds: tuple[tuple[str, float], ...]
    recipe: Recipe
    lab: Array
    away: float


_AMOUNTS = (1 / 24, 1 / 12, 1 / 8, 1 / 6, 1 / 4, 1 / 3, 1 / 2, 3 / 4, 1.0, 1.5, 2.0)
AMOUNT_WORDS = (
    tr("a trace"),
    tr("a touch"),
    tr("an eighth"),
    tr("a sixth"),
    tr("a quarter"),
    tr("a third"),
    tr("half"),
    tr("three quarters"),
    tr("as much again"),
    tr("half as much again"),
    tr("twice as much"),
)
_ANOTHER_PAINT = 0.8  # CIEDE2000 that one paint less to add is worth
_SECONDS = 8
_SETS_OF_TOUCHES = 60


def amount_words(amount: float) -> str:
    """How much of a paint, against the puddle, in words.

    Parameters
    ----------
    amount : float
    """
    return AMOUNT_WORDS[int(np.argmin(np.abs(np.log(np.array(_AMOUNTS) / amount))))]


def touches(
    mixer: Mixer,
    puddle: Recipe,
    target: Array,
    count: int = 4,
    avoid: Iterable[str] = (),
    keep: Iterable[str] = (),
    most_paints: int | None = None,
) -> list[Touch]:
    """The cheapest ways from a puddle to a colour: one paint more, or two, and water.

    Parameters
    ----------
    mixer : Mixer
    puddle : Recipe of one layer
    target : (3,) float, CIELAB
    count : int
    avoid : names of paints not to add
    keep : names of paints that must be in what it becomes
    most_paints : int, how many paints that may have at most, where it has no more already; any number where None

    Raises
    ------
    CulmoError
        when the puddle is a glaze, or names a paint that is not there
    """
    if len(puddle.layers) != 1:
        raise CulmoError(tr("only a puddle of one layer can be changed; this is a glaze"))
    names = mixer.names
    find_places(names, puddle.names, "puddle")
    left_out = find_places(names, avoid, "avoid")
    index = {name.casefold(): i for i, name in enumerate(names)}
    base = np.zeros(len(names))
    for part in puddle.layers[0].parts:
        base[index[part.name.casefold()]] += part.parts
    base /= base.sum()
    target = np.asarray(target, dtype=float)
    free = [i for i in range(len(names)) if i not in left_out]
    one = [((i, amount),) for i in free for amount in _AMOUNTS]
    rows: list[tuple[tuple[int, float], ...]] = [(), *one]
    found = _near_by_shares(mixer, _added(base, rows), target)
    order = np.argsort(found.min(axis=1), kind="stable")
    firsts = list(dict.fromkeys(rows[int(i)][0][0] for i in order if rows[int(i)]))[:_SECONDS]
    two = [
        ((i, x), (j, y))
        for i in firsts
        for j in free
        if i != j
        for x in _AMOUNTS[1::2]
        for y in _AMOUNTS[1::2]
    ]
    rows += two
    wanted = _allowed(rows, base, find_places(names, keep, "keep"), most_paints)
    found = found[[i for i in range(len(found)) if wanted[i]]]
    rows = [row for row, good in zip(rows, wanted, strict=True) if good]
    if not rows:
        return []
    shares = _added(base, rows)
    found = np.concatenate([found, _near_by_shares(mixer, shares[len(found) :], target)])
    cost = found.min(axis=1) + _ANOTHER_PAINT * np.array([len(row) for row in rows])
    at = _two_of_each(rows, cost)
    washes, lab, away = _settle_water(mixer, shares[at], _STEPS[found[at].argmin(axis=1)], target)
    cost = away + _ANOTHER_PAINT * np.array([len(rows[int(i)]) for i in at])
    result: dict[frozenset[int], Touch] = {}
    for i in np.argsort(cost, kind="stable"):
        row = rows[int(at[i])]
        key = frozenset(place for place, _ in row)
        if key not in result:
            adds = tuple((names[place], amount) for place, amount in row)
            recipe = _sum_recipe(puddle, adds, float(washes[i]))
            result[key] = Touch(adds, recipe, lab[i], float(away[i]))
        if len(result) >= count:
            break
    return list(result.values())


def _allowed(
    rows: Sequence[tuple[tuple[int, float], ...]], base: Array, kept: set[int], most_paints: int | None
) -> list[bool]:
    """Which additions give a puddle that holds what it must, of no more paints than it may."""
    own = set(np.flatnonzero(base).tolist())
    most = len(base) if most_paints is None else max(most_paints, len(own))
    held = [own | {place for place, _ in row} for row in rows]
    return [kept <= places and len(places) <= most for places in held]


def _two_of_each(rows: Sequence[tuple[tuple[int, float], ...]], cost: Array) -> Indices:
    """The two cheapest amounts of each set of paints, of the sixty cheapest sets."""
    seen: dict[frozenset[int], int] = {}
    chosen = []
    for i in np.argsort(cost, kind="stable"):
        key = frozenset(place for place, _ in rows[int(i)])
        if seen.get(key, 0) < 2 and (key in seen or len(seen) < _SETS_OF_TOUCHES):
            seen[key] = seen.get(key, 0) + 1
            chosen.append(int(i))
    return np.array(chosen, dtype=np.intp)


def _near_by_shares(mixer: Mixer, shares: Array, target: Array) -> Array:
    near = near_from_lab(mixer.lab(shares, WASHES))
    wanted = near_from_lab(target)
    # half-way between two washes counts for both
    between = 0.5 * (near[:, 1:] + near[:, :-1])
    away = np.sqrt(((near - wanted) ** 2).sum(axis=-1))
    half = np.sqrt(((between - wanted) ** 2).sum(axis=-1))
    away[:, 1:] = np.minimum(away[:, 1:], half)
    away[:, :-1] = np.minimum(away[:, :-1], half)
    return np.asarray(away)


def _added(base: Array, rows: Sequence[tuple[tuple[int, float], ...]]) -> Array:
    shares = np.tile(base, (len(rows), 1))
    for number, row in enumerate(rows):
        for place, amount in row:
            shares[number, place] += amount
    return np.asarray(shares / shares.sum(axis=1, keepdims=True))


def _sum_recipe(puddle: Recipe, adds: Sequence[tuple[str, float]], wash: float) -> Recipe:
    total = sum(part.parts for part in puddle.layers[0].parts)
    amounts = {part.name: part.parts for part in puddle.layers[0].parts}
    for name, amount in adds:
        own = next((other for other in amounts if other.casefold() == name.casefold()), name)
        amounts[own] = amounts.get(own, 0.0) + amount * total
    return mix(list(amounts), [round(value, 3) for value in amounts.values()], wash)
