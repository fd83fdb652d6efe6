"""Recipes in small whole parts that come nearest to a colour."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import gcd

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.mixer import mixer_of
from culmo.errors import CulmoError

WASHES = (1.0, 0.8, 0.6, 0.45, 0.33, 0.25, 0.2, 0.15, 0.1)
MOST_PARTS = 6


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


def _compositions(count: int) -> list[tuple[int, ...]]:
    """Whole parts in lowest terms that add up to at most MOST_PARTS."""
    if count == 1:
        return [(1,)]
    return [
        parts
        for parts in product(range(1, MOST_PARTS), repeat=count)
        if sum(parts) <= MOST_PARTS and gcd(*parts) == 1
    ]


def _shares(places: Sequence[int], most: int, keep: set[int], total: int) -> Array:
    """All mixtures of up to `most` paints, (m, total) float; each row adds up to 1."""
    rows = []
    for count in range(max(1, len(keep)), most + 1):
        groups = [group for group in combinations(places, count) if keep <= set(group)]
        if not groups:
            continue
        parts = np.array(_compositions(count), dtype=float)
        parts /= parts.sum(axis=1, keepdims=True)
        block = np.zeros((len(groups), len(parts), total))
        index = np.array(groups)
        for i in range(count):
            block[np.arange(len(groups))[:, None], np.arange(len(parts))[None, :], index[:, i][:, None]] = (
                parts[:, i]
            )
        rows.append(block.reshape(-1, total))
    return np.concatenate(rows) if rows else np.empty((0, total))


def _places(estimate: Estimate, names: Iterable[str], what: str) -> set[int]:
    found = set()
    for name in names:
        place = estimate.index.get(name.strip().casefold())
        if place is None:
            raise CulmoError(f'{what} "{name}": there is no such paint')
        found.add(place)
    return found


def match_colour(
    estimate: Estimate,
    target: Array,
    most_paints: int = 3,
    count: int = 5,
    keep: Iterable[str] = (),
    avoid: Iterable[str] = (),
) -> list[Match]:
    """The recipes of one to `most_paints` paints that come nearest to a colour.

    Every mixture in whole parts that add up to at most six is looked at, at nine strengths.

    Parameters
    ----------
    estimate : Estimate
    target : (3,) float, CIELAB
    most_paints : int, 1..3
    count : int, >= 1, how many recipes
    keep, avoid : names of paints that must be, or must not be, in the recipe

    Raises
    ------
    CulmoError
        when a name is unknown, a number is out of range, or no recipe can meet the conditions
    """
    if not 1 <= most_paints <= 3:
        raise CulmoError(f"recipes of {most_paints} paints are not looked for; it must be 1, 2 or 3")
    if count < 1:
        raise CulmoError("at least one recipe must be asked for")
    kept, left_out = _places(estimate, keep, "keep"), _places(estimate, avoid, "avoid")
    if kept & left_out:
        raise CulmoError("the same paint can not be kept and avoided")
    if len(kept) > most_paints:
        raise CulmoError(f"{len(kept)} paints to keep do not go into a recipe of {most_paints}")
    usable = [place for place in range(len(estimate.names)) if place not in left_out]
    shares = _shares(usable, most_paints, kept, len(estimate.names))
    if not len(shares):
        raise CulmoError("no recipe meets the conditions: all paints are avoided")
    lab = mixer_of(estimate).lab(shares, WASHES)
    away = delta_e_00(lab, np.asarray(target))
    washes = np.argmin(away, axis=1)
    nearest = away[np.arange(len(away)), washes]
    order = np.argsort(nearest, kind="stable")[:count]
    return [
        _match(estimate, shares[i], WASHES[int(washes[i])], lab[i, washes[i]], float(nearest[i]))
        for i in order
    ]


def _match(estimate: Estimate, share: Array, wash: float, lab: Array, away: float) -> Match:
    places = np.flatnonzero(share)
    least = share[places].min()
    # back to whole parts: the least common multiple of small fractions
    for whole in range(1, MOST_PARTS + 1):
        parts = share[places] / least * whole
        if np.abs(parts - np.round(parts)).max() < 1e-6:
            break
    order = np.argsort(-parts, kind="stable")
    names = [estimate.names[int(places[i])] for i in order]
    return Match(mix(names, [float(np.round(parts[i])) for i in order], wash), lab, away)
