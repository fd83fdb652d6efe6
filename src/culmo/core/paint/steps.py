"""Even steps between two paints, and the parts that land in the middle."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import gcd

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import FULL, Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

MOST_PARTS = 12
MORE_PARTS = (24, 48)
_MOST_RATIOS = 800
_WELL_BETTER = 0.87
_STANDS_OUT = 1.3  # a gap this many times the mean is seen
_HAIR = 1.0  # CIEDE2000, of a gap over the mean, that nobody sees
_GRID = 161


@dataclass(frozen=True)
class Step:
    """One step of a row between two paints.

    Attributes
    ----------
    parts : (int, int), small whole parts of the first and of the second paint
    recipe : Recipe with those parts
    lab : (3,) float, predicted
    off : float, CIEDE2000, by how much it misses what it should be: of a row the gaps beside it, of a middle its colour
    """

    parts: tuple[int, int]
    recipe: Recipe
    lab: Array
    off: float


def _ratios(most: int) -> list[tuple[int, int]]:
    """Whole parts in lowest terms that add up to at most `most`, from the first paint to the second."""
    pairs = {(1, 0), (0, 1)}
    for total in range(2, most + 1):
        pairs |= {(total - b, b) for b in range(1, total) if gcd(total - b, b) == 1}
    return sorted(pairs, key=lambda pair: pair[1] / (pair[0] + pair[1]))


def _recipe(first: str, second: str, parts: tuple[float, float], wash: float) -> Recipe:
    names = [(name, part) for name, part in zip((first, second), parts, strict=True) if part > 0]
    return mix([name for name, _ in names], [part for _, part in names], wash)


def even_steps(
    estimate: Estimate,
    first: str,
    second: str,
    count: int,
    wash: float = FULL,
    most_parts: int = MOST_PARTS,
    or_more: Sequence[int] = MORE_PARTS,
) -> list[Step]:
    """Steps of equal perceived difference from one paint to the other, both ends included.

    Of all ratios in small whole parts those are chosen, each further towards the second paint than the one before, whose
    neighbours are as equally far apart as can be, by the sum of the squares of their CIEDE2000. Where a gap still stands
    out, as close to a strong paint, more parts are allowed.

    Parameters
    ----------
    estimate : Estimate
    first, second : str, names of paints
    count : int, >= 2
    wash : float, 0 < wash <= 1
    most_parts : int, the sum of the parts that a hand does well
    or_more : sequence of int, what it may be where a gap stands out; half a second each

    Raises
    ------
    CulmoError
        when `count` is below 2, or a paint is unknown
    """
    if count < 2:
        raise CulmoError(
            tr("{count} steps can not lead from one paint to the other; it takes at least 2", count=count)
        )
    best: list[Step] = []
    for most in (most_parts, *(more for more in or_more if more > most_parts)):
        ratios = _ratios(most)
        if len(ratios) < count:
            continue
        found = _evenly(estimate, first, second, _thinned(ratios), count, wash)
        # small parts are better done, unless the eye gains by larger ones
        if not best or step_gaps(found).max() < _WELL_BETTER * step_gaps(best).max():
            best = found
        gaps = step_gaps(best)
        if gaps.max() <= _STANDS_OUT * gaps.mean() or gaps.max() - gaps.mean() < _HAIR:
            break
    if not best:
        raise CulmoError(tr("{count} steps are too many for two paints", count=count))
    return best


def _thinned(ratios: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Some hundreds of many ratios, both ends among them."""
    every = -(-len(ratios) // _MOST_RATIOS)
    return [*ratios[:-1:every], ratios[-1]]


def step_gaps(steps: Sequence[Step]) -> Array:
    """The CIEDE2000 between each two neighbours, (n - 1,) float."""
    lab = np.array([step.lab for step in steps])
    return delta_e_00(lab[1:], lab[:-1])


def _evenly(
    estimate: Estimate, first: str, second: str, ratios: list[tuple[int, int]], count: int, wash: float
) -> list[Step]:
    """The steps among some ratios whose gaps are most alike, found one step after the other (dynamic programming)."""
    lab = predict_lab(estimate, [_recipe(first, second, (float(a), float(b)), wash) for a, b in ratios])
    total = len(ratios)
    cost = delta_e_00(lab[:, None], lab[None]) ** 2
    cost[np.tril_indices(total)] = np.inf  # only onwards
    least = np.full(total, np.inf)
    least[0] = 0.0
    came = np.zeros((count, total), dtype=int)
    for step in range(1, count):
        whole = least[:, None] + cost
        came[step] = whole.argmin(axis=0)
        least = whole[came[step], np.arange(total)]
    places = [total - 1]
    for step in range(count - 1, 0, -1):
        places.append(int(came[step, places[-1]]))
    places.reverse()
    span = np.sqrt(cost[places[:-1], places[1:]])
    even = float(span.mean())
    steps = []
    for at, place in enumerate(places):
        recipe = _recipe(first, second, (float(ratios[place][0]), float(ratios[place][1])), wash)
        beside = span[max(0, at - 1) : at + 1]
        steps.append(Step(ratios[place], recipe, lab[place], float(np.abs(beside - even).max())))
    return steps


def middle(
    estimate: Estimate, first: str, second: str, wash: float = FULL, most_parts: int = MOST_PARTS
) -> Step:
    """The parts at which the mix is half-way between the two paints to the eye.

    Parameters
    ----------
    estimate : Estimate
    first, second : str
    wash : float
    most_parts : int
    """
    return _at(estimate, first, second, np.array([0.5]), wash, most_parts)[0]


def _at(
    estimate: Estimate, first: str, second: str, places: Array, wash: float, most_parts: int
) -> list[Step]:
    # close to the ends a trace of a strong paint moves far: the grid is even in the logarithm of the ratio
    inner = 1.0 / (1.0 + np.exp(-np.linspace(-6.0, 6.0, _GRID)))
    share = np.concatenate([[0.0], inner, [1.0]])
    path = predict_lab(estimate, [_recipe(first, second, (1.0 - s, float(s)), wash) for s in share])
    along = np.concatenate([[0.0], np.cumsum(delta_e_00(path[1:], path[:-1]))])
    along /= max(float(along[-1]), 1e-9)
    exact = np.column_stack([np.interp(places, along, path[:, i]) for i in range(3)])
    ratios = _ratios(most_parts)
    whole = predict_lab(estimate, [_recipe(first, second, (float(a), float(b)), wash) for a, b in ratios])
    shares = np.array([b / (a + b) for a, b in ratios])
    ordered = np.interp(shares, share, along)
    steps = []
    for place, colour in zip(places, exact, strict=True):
        away = delta_e_00(whole, colour)
        # two ratios of one colour: the one nearer along the path
        best = int(np.argmin(away + 0.01 * np.abs(ordered - place)))
        parts = ratios[best]
        recipe = _recipe(first, second, (float(parts[0]), float(parts[1])), wash)
        steps.append(Step(parts, recipe, whole[best], float(away[best])))
    return steps
