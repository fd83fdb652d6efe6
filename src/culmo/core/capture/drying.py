"""What drying does to the colour of each paint, from wet and dry readings of the same cells."""

from collections.abc import Sequence

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe


def drying_shifts(pairs: Sequence[tuple[Recipe, Array, Array]]) -> dict[str, tuple[Array, int]]:
    """How much each paint changes as it dries: dry minus wet, by least squares over all cells that it is in.

    Parameters
    ----------
    pairs : sequence of recipe, CIELAB while wet (3,) and when dry (3,)

    Returns
    -------
    dict from folded name to the shift (3,) and the number of cells that it rests on
    """
    used = [pair for pair in pairs if pair[0].layers]
    names = sorted({name.casefold() for recipe, _, _ in used for name in recipe.names})
    if not used:
        return {}
    place = {name: i for i, name in enumerate(names)}
    shares = np.zeros((len(used), len(names)))
    for row, (recipe, _, _) in enumerate(used):
        parts = recipe.layers[0].parts
        total = sum(part.parts for part in parts)
        for part in parts:
            shares[row, place[part.name.casefold()]] += part.parts / total
    change = np.array([np.asarray(dry) - np.asarray(wet) for _, wet, dry in used])
    # a paint that is only in few mixes leans on the mean change of all
    mean = change.mean(axis=0)
    normal = shares.T @ shares + 0.15 * np.eye(len(names))
    shift = mean + np.linalg.solve(normal, shares.T @ (change - shares.sum(axis=1, keepdims=True) * mean))
    count = (shares > 0).sum(axis=0)
    return {name: (shift[i], int(count[i])) for name, i in place.items()}
