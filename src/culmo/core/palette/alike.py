"""Paints that repeat each other, and which may stand in for which."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.recipe import Part, Recipe
from culmo.core.palette.mixer import Looker

ALIKE = 5.0  # CIEDE2000; two paintings of one cell by hand differ by 2 to 3
_WORTH_A_LOOK = 1.6


@dataclass(frozen=True)
class AlikePair:
    """Two paints that hardly differ.

    Attributes
    ----------
    first, second : str
    masstone, tint, mixes : float, CIEDE2000; `mixes` is the middle one over mixes with all other paints
    """

    first: str
    second: str
    masstone: float
    tint: float
    mixes: float

    @property
    def overall(self) -> float:
        """The largest of the three: alike means alike in all of them."""
        return max(self.masstone, self.tint, self.mixes)


def alike_pairs(looker: Looker, limit: float = ALIKE) -> list[AlikePair]:
    """Pairs of paints that differ by less than a limit in masstone, tint and mixes, the nearest first.

    Parameters
    ----------
    looker : Looker
    limit : float, CIEDE2000
    """
    n = len(looker.names)
    if n < 2:
        return []
    washes = (1.0, 0.2)
    alone = looker.lab(np.eye(n), washes)
    first, second = np.triu_indices(n, 1)
    apart = delta_e_00(alone[first], alone[second])
    near = np.flatnonzero((apart < limit * _WORTH_A_LOOK).all(axis=1))
    if not len(near):
        return []
    pairs = _compare(looker, [(int(first[k]), int(second[k])) for k in near], apart[near])
    return [pair for pair in pairs if pair.overall < limit]


def nearest_pairs(looker: Looker, count: int = 3) -> list[AlikePair]:
    """The pairs that differ least in masstone and tint, however much that is.

    Parameters
    ----------
    looker : Looker
    count : int
    """
    n = len(looker.names)
    if n < 2:
        return []
    alone = looker.lab(np.eye(n), (1.0, 0.2))
    first, second = np.triu_indices(n, 1)
    apart = delta_e_00(alone[first], alone[second])
    near = np.argsort(apart.max(axis=1), kind="stable")[: 2 * count]
    return _compare(looker, [(int(first[k]), int(second[k])) for k in near], apart[near])[:count]


def _compare(looker: Looker, places: Sequence[tuple[int, int]], apart: Array) -> list[AlikePair]:
    """Pairs with the differences of their mixes, the nearest first."""
    if not len(places):
        return []
    pairs = np.array(places)
    wanted = np.unique(pairs)
    mixed = _mixes(looker, wanted)
    rows = np.searchsorted(wanted, pairs)
    away = delta_e_00(mixed[rows[:, 0]], mixed[rows[:, 1]])  # (pairs, n, 2)
    index = np.arange(len(pairs))
    away[index, pairs[:, 0]] = away[index, pairs[:, 1]] = np.nan  # a mix with itself is no mix
    middle = np.zeros(len(pairs))
    if len(looker.names) > 2:
        middle = np.nanmedian(away.reshape(len(pairs), -1), axis=1)
    found = [
        AlikePair(looker.names[i], looker.names[j], float(masstone), float(tint), float(mixes))
        for (i, j), (masstone, tint), mixes in zip(places, apart, middle, strict=True)
    ]
    return sorted(found, key=lambda pair: pair.overall)


def _mixes(looker: Looker, wanted: Indices) -> Array:
    """Half and half of each wanted paint with every paint, full and tint, (wanted, n, 2, 3)."""
    n = len(looker.names)
    shares = np.zeros((len(wanted), n, n))
    rows = np.arange(len(wanted))
    shares[rows, :, wanted] += 0.5
    shares[:, np.arange(n), np.arange(n)] += 0.5
    return looker.lab(shares.reshape(-1, n), (1.0, 0.2)).reshape(len(wanted), n, 2, 3)


@dataclass(frozen=True)
class StandIn:
    """A recipe with one paint in place of another.

    Attributes
    ----------
    instead_of, use : str
    recipe : Recipe
    away : float, CIEDE2000 from the recipe as it was
    """

    instead_of: str
    use: str
    recipe: Recipe
    away: float


def stand_ins(looker: Looker, recipe: Recipe, count: int = 3) -> list[StandIn]:
    """Which paints may take another's place in a recipe, the nearest first.

    Parameters
    ----------
    looker : Looker
    recipe : Recipe of one layer, of paints that the looker has
    count : int
    """
    if len(recipe.layers) != 1:
        return []
    layer = recipe.layers[0]
    index = {name.casefold(): i for i, name in enumerate(looker.names)}
    if any(part.name.casefold() not in index for part in layer.parts):
        return []
    found, rows = [], [np.zeros(len(index))]
    for part in layer.parts:
        rows[0][index[part.name.casefold()]] += part.parts
    for part in layer.parts:
        for other in looker.names:
            if other.casefold() in (name.casefold() for name in recipe.names):
                continue
            row = rows[0].copy()
            row[index[part.name.casefold()]] -= part.parts
            row[index[other.casefold()]] += part.parts
            rows.append(row)
            found.append((part, other))
    shares = np.array(rows)
    lab = looker.lab(shares / shares.sum(axis=1, keepdims=True), (layer.wash,))[:, 0]
    away = delta_e_00(lab[1:], lab[0])
    order = np.argsort(away, kind="stable")[:count]
    return [_stand_in(recipe, *found[int(i)], float(away[i])) for i in order]


def _stand_in(recipe: Recipe, part: Part, other: str, away: float) -> StandIn:
    new = recipe.renamed(lambda name: other if name.casefold() == part.name.casefold() else name)
    return StandIn(part.name, other, new, away)
