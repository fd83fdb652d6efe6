"""True opposites: for each paint the partner that really neutralises it, with the parts and how grey it gets."""

from dataclasses import dataclass, replace
from math import gcd, isnan, nan

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.greyness import NEARLY_GREY, chroma_at_most, grey_words
from culmo.core.palette.mixer import MIDDLE_AT, PAIR_WASHES, Looker, PairTable, chroma_of, hue_apart, hue_of
from culmo.core.threads import one_thread
from culmo.words import listed

MOST_PARTS = 12
_CLEAR = 14.0  # a paint of less chroma is a grey itself and neutralises nothing
_OPPOSITE_DEG = 100.0
_CLOSER_LOOK = 5


@dataclass(frozen=True)
class Opposite:
    """What neutralises a paint: another paint, or where none does, two.

    Attributes
    ----------
    paint : str
    partners : tuple of one or two str
    parts : tuple of int, of the paint and of its partners
    recipe : Recipe, the grey at a full wash
    chroma : float, what is left of the chroma in a middle wash
    lab : (3,) float, that wash
    at_most : float, the chroma that nine in ten do not pass by what is known of the paints; as foretold where that is
        not asked
    """

    paint: str
    partners: tuple[str, ...]
    parts: tuple[int, ...]
    recipe: Recipe
    chroma: float
    lab: Array
    at_most: float = nan

    @property
    def partner(self) -> str:
        """The partner, or both, as they are said."""
        return listed(self.partners)

    @property
    def words(self) -> str:
        """How grey it gets, as far as it is known."""
        return grey_words(self.chroma, self.chroma if isnan(self.at_most) else self.at_most)


def _whole_parts() -> list[tuple[int, int]]:
    return [
        (a, total - a)
        for total in range(2, MOST_PARTS + 1)
        for a in range(1, total)
        if gcd(a, total - a) == 1
    ]


def opposites(looker: Looker, table: PairTable, count: int = 3) -> dict[str, list[Opposite]]:
    """The partners of each paint, the greyest first; paints that are grey themselves have none.

    A partner stands across the hue circle (more than 100 degrees away) and has a chroma of its own: that a black
    greys everything is no news. What counts is the chroma left in a middle wash at the best whole parts.

    Parameters
    ----------
    looker : Looker
    table : PairTable of the same paints
    count : int, partners a paint
    """
    middle = table.alone[:, MIDDLE_AT]
    chroma, hue = chroma_of(middle), hue_of(middle)
    left = table.chroma[:, :, MIDDLE_AT].min(axis=1)
    ratios = _whole_parts()
    result: dict[str, list[Opposite]] = {}
    for i, name in enumerate(table.names):
        if chroma[i] < _CLEAR:
            continue
        apart = hue_apart(hue, hue[i])
        partners = [int(j) for j in np.flatnonzero((apart > _OPPOSITE_DEG) & (chroma >= _CLEAR)) if j != i]
        partners = [partners[int(k)] for k in np.argsort([float(left[table.place[i, j]]) for j in partners])]
        near = partners[:_CLOSER_LOOK]
        found = [_closest(looker, table.names, i, j, ratios) for j in near]
        result[name] = sorted(found, key=lambda entry: entry.chroma)[:count]
    return result


def _closest(
    looker: Looker, names: tuple[str, ...], i: int, j: int, ratios: list[tuple[int, int]]
) -> Opposite:
    return _best(looker, names, (i, j), np.array(ratios))


def _best(looker: Looker, names: tuple[str, ...], places: tuple[int, ...], parts: Indices) -> Opposite:
    """The greyest of some parts of paints, the first of which is to be neutralised."""
    shares = np.zeros((len(parts), len(names)))
    shares[:, list(places)] = parts / parts.sum(axis=1, keepdims=True)
    lab = looker.lab(shares, (PAIR_WASHES[MIDDLE_AT],))[:, 0]
    chroma = chroma_of(lab)
    # of equally grey mixes the one in the smallest parts
    best = int(np.argmin(chroma + 0.05 * parts.sum(axis=1)))
    amounts = [int(part) for part in parts[best]]
    own = [names[place] for place in places]
    order = sorted(zip(own, amounts, strict=True), key=lambda entry: -entry[1])
    recipe = mix([name for name, _ in order], [float(part) for _, part in order])
    return Opposite(own[0], tuple(own[1:]), tuple(amounts), recipe, float(chroma[best]), lab[best])


def with_two(looker: Looker, table: PairTable, found: dict[str, list[Opposite]]) -> dict[str, list[Opposite]]:
    """The partners with two paints together before them, where no single one makes a grey.

    Parameters
    ----------
    looker : Looker
    table : PairTable of the same paints
    found : as `opposites` gives it
    """
    middle = table.alone[:, MIDDLE_AT]
    chroma, hue = chroma_of(middle), hue_of(middle)
    three = [
        (a, b, c)
        for a in range(1, MOST_PARTS - 1)
        for b in range(1, MOST_PARTS - a)
        for c in range(1, MOST_PARTS + 1 - a - b)
    ]
    parts = np.array([row for row in three if gcd(*row) == 1])
    result = {}
    for i, name in enumerate(table.names):
        own = found.get(name, [])
        if chroma[i] < _CLEAR or (own and own[0].chroma < NEARLY_GREY):
            result[name] = own
            continue
        # pairs that make a colour across the hue circle, the nearest to it first
        free = (table.first != i) & (table.second != i)
        free &= (chroma[table.first] >= _CLEAR) & (chroma[table.second] >= _CLEAR)
        across = np.abs(180.0 - hue_apart(table.hue[:, :, MIDDLE_AT], hue[i])).min(axis=1)
        pairs = np.flatnonzero(free)[np.argsort(across[free], kind="stable")[:_CLOSER_LOOK]]
        best = [
            _best(looker, table.names, (i, int(table.first[p]), int(table.second[p])), parts) for p in pairs
        ]
        best = [entry for entry in best if not own or entry.chroma < own[0].chroma]
        result[name] = [*sorted(best, key=lambda entry: entry.chroma)[:1], *own]
    return {name: entries for name, entries in result.items() if entries}


@one_thread
def how_sure(estimate: Estimate, found: dict[str, list[Opposite]]) -> dict[str, list[Opposite]]:
    """The partners with the chroma that nine in ten do not pass.

    Parameters
    ----------
    estimate : Estimate that the colours come from
    found : as `opposites` gives it
    """
    every = [entry for entries in found.values() for entry in entries]
    if not every:
        return found
    recipes = [entry.recipe.with_wash(PAIR_WASHES[MIDDLE_AT]) for entry in every]
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, recipes))
    at_most = iter(chroma_at_most(linear.lab, linear.jacobian.spread(estimate.covariance)))
    return {
        name: [replace(entry, at_most=float(next(at_most))) for entry in entries]
        for name, entries in found.items()
    }
