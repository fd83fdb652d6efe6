"""What a painter may want to know: the colours of some paints' mixes, the ways to one colour, the darks."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix

_FEW = 9  # paints, up to which their mixes are asked in more than one ratio
_RATIOS = ((1, 1), (1, 3), (3, 1))
_MIDDLE = 0.45
_NEAR = 4.0  # CIEDE2000 beyond the nearest that a recipe still matters much
_DARK = 6.0  # of lightness beyond the darkest
_MOST = 150  # recipes that are asked at once
_LEAST = 0.02  # of a weight


@dataclass(frozen=True)
class Question:
    """What is to be known: the colours of some recipes on the paper, each by its weight.

    Attributes
    ----------
    recipes : tuple of k Recipe
    weights : (k,) float, > 0
    """

    recipes: tuple[Recipe, ...]
    weights: Array


def _mixes(names: Sequence[str], washes: Sequence[float], ratios: Sequence[tuple[int, int]]) -> list[Recipe]:
    alone = [mix([name], wash=wash) for name in names for wash in washes]
    pairs = [mix(pair, parts, wash) for pair in combinations(names, 2) for parts in ratios for wash in washes]
    return alone + pairs


def about_paints(names: Sequence[str]) -> Question:
    """All that two of some paints make, dark and pale.

    Parameters
    ----------
    names : sequence of str, at least one
    """
    ratios = _RATIOS if len(names) <= _FEW else _RATIOS[:1]
    recipes = _mixes(names, (FULL, TINT), ratios)
    return Question(tuple(recipes), np.ones(len(recipes)))


def _weighed(recipes: Sequence[Recipe], away: Array, near: float) -> Question:
    """Those recipes that may be what is sought, the nearest by the most."""
    first = np.argsort(away, kind="stable")[:_MOST]
    weights = np.exp(-0.5 * ((away[first] - away.min()) / near) ** 2)
    kept = weights > _LEAST
    return Question(tuple(recipes[place] for place in first[kept]), weights[kept])


def about_colour(estimate: Estimate, lab: Array, names: Sequence[str]) -> Question:
    """Which mixes come to a colour: those that are foretold near it, or as near as any.

    Parameters
    ----------
    estimate : Estimate that knows the paints
    lab : (3,) float, the wanted colour
    names : sequence of str, the paints that may be taken
    """
    recipes = _mixes(names, (FULL, _MIDDLE, TINT), _RATIOS)
    return _weighed(recipes, delta_e_00(predict_lab(estimate, recipes), np.asarray(lab)), _NEAR)


def about_darks(estimate: Estimate, names: Sequence[str]) -> Question:
    """How dark, and of which colour, the darkest mixes are.

    Parameters
    ----------
    estimate : Estimate that knows the paints
    names : sequence of str, the paints that may be taken
    """
    recipes = _mixes(names, (FULL,), _RATIOS)
    return _weighed(recipes, predict_lab(estimate, recipes)[:, 0], _DARK)
