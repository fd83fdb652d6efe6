"""Even steps between two paints, and the parts that land in the middle."""

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
_GRID = 161


@dataclass(frozen=True)
class Step:
    """One step of a row between two paints.

    Attributes
    ----------
    parts : (int, int), small whole parts of the first and of the second paint
    recipe : Recipe with those parts
    lab : (3,) float, predicted
    off : float, CIEDE2000 between the exact step and the one in whole parts
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
    estimate: Estimate, first: str, second: str, count: int, wash: float = FULL, most_parts: int = MOST_PARTS
) -> list[Step]:
    """Steps of equal perceived difference from one paint to the other, both ends included.

    The path of the mix is measured in CIEDE2000 on a fine grid of ratios and cut into equal lengths; each cut is then
    given as the whole parts whose colour is nearest.

    Parameters
    ----------
    estimate : Estimate
    first, second : str, names of paints
    count : int, >= 2
    wash : float, 0 < wash <= 1
    most_parts : int, the sum of the parts that a hand can do

    Raises
    ------
    CulmoError
        when `count` is below 2, or a paint is unknown
    """
    if count < 2:
        raise CulmoError(
            tr("{count} steps can not lead from one paint to the other; it takes at least 2", count=count)
        )
    return _at(estimate, first, second, np.linspace(0.0, 1.0, count), wash, most_parts)


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
