"""How a recipe looks at every thickness: what washes and strokes are drawn from."""

from collections.abc import Sequence

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import DAYLIGHT, Array, Light
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.film import film_reflectance, through_surface
from culmo.core.paint.optics import compile_batch
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import Recipe

THICKNESSES: Array = np.geomspace(0.03, 2.4, 64)


def wash_table(
    estimate: Estimate, recipes: Sequence[Recipe], ground: str = PAPER, light: Light = DAYLIGHT
) -> Array:
    """Colours of recipes as their top wash goes from nearly nothing to more than full.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    ground : str, "paper" or "ink"
    light : Light

    Returns
    -------
    (n, 64, 3) float, CIELAB with the top layer as a wash of each of THICKNESSES, above 1 stronger than a full one; lower
    layers are as in the recipe
    """
    optics = estimate.layout.optics(estimate.theta)
    places = [estimate.ground_index(ground)] * len(recipes)
    batch = compile_batch(recipes, places, estimate.index)
    inner = np.repeat(optics.grounds[batch.ground][:, None, :], len(THICKNESSES), axis=1)
    depth = np.array([len(recipe.layers) for recipe in recipes])
    for level, layer in enumerate(batch.layers):
        share = layer.parts * np.exp(optics.bias)
        share = share / share.sum(axis=1, keepdims=True)
        K, S = (share @ optics.K)[:, None, :], (share @ optics.S)[:, None, :]
        top = (depth[layer.rows] == level + 1)[:, None]
        power = 1.0 + (share @ optics.dilution)[:, None]
        X = (np.where(top, THICKNESSES[None, :], layer.wash[:, None]) ** power)[:, :, None]
        inner[layer.rows] = film_reflectance(K, S, X, inner[layer.rows])
    return lab_from_reflectance(through_surface(inner, optics.k1, optics.k2), light)


def stroke_tables(
    estimate: Estimate, recipes: Sequence[Recipe], light: Light = DAYLIGHT
) -> tuple[Array, Array]:
    """As `wash_table`, over paper and over ink.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    light : Light

    Returns
    -------
    two (n, 64, 3) float, CIELAB
    """
    return wash_table(estimate, recipes, PAPER, light), wash_table(estimate, recipes, INK, light)
