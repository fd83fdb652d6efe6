"""How many colours hang on the parameters: each on those of its own paints, its ground and the surface, and on no other.

Of sixty paints' 1,300 parameters a mix of two knows some sixty. Kept dense, learning from many years' readings would
spend nine tenths of its time multiplying zeros.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.parameters import Layout, columns_of


@dataclass(frozen=True)
class Pattern:
    """Recipes of the same paints on the same ground: they hang on the same parameters.

    Attributes
    ----------
    rows : (m,) int, which recipes
    columns : (q,) int, which parameters
    """

    rows: Indices
    columns: Indices


@dataclass(frozen=True)
class Jacobian:
    """The derivatives of n colours by p parameters, without the zeros.

    Attributes
    ----------
    size : int, p
    patterns : tuple of Pattern; each recipe is in exactly one
    values : (n, 3, at least q) float, the derivatives of a recipe by the parameters of its pattern, in their order
    """

    size: int
    patterns: tuple[Pattern, ...]
    values: Array

    def dense(self, rows: Indices | None = None) -> Array:
        """The derivatives of some recipes, or of all, with their zeros, (k, 3, p) float; for few recipes.

        Parameters
        ----------
        rows : (k,) int
        """
        rows = np.arange(len(self.values)) if rows is None else rows
        whole = np.zeros((len(rows), 3, self.size))
        for place, row in enumerate(rows):
            columns = self.patterns[self._pattern_of[row]].columns
            whole[place][:, columns] = self.values[row, :, : len(columns)]
        return whole

    def _blocks(self) -> Iterator[tuple[Indices, Indices, Array]]:
        """Rows (m,), columns (q,) and derivatives (m, 3, q) of one pattern after the other."""
        for pattern in self.patterns:
            yield pattern.rows, pattern.columns, self.values[pattern.rows, :, : len(pattern.columns)]

    def spread(self, covariance: Array) -> Array:
        """J C J' for each recipe: the covariance of its colour that comes from the parameters'.

        Parameters
        ----------
        covariance : (p, p) float, of the parameters

        Returns
        -------
        (n, 3, 3) float
        """
        spread = np.empty((len(self.values), 3, 3))
        for rows, columns, values in self._blocks():
            m, _, q = values.shape
            half = (values.reshape(m * 3, q) @ covariance[columns[:, None], columns]).reshape(m, 3, q)
            spread[rows] = half @ values.transpose(0, 2, 1)
        return spread

    def squared(self, residual: Array) -> tuple[Array, Array]:
        """The normal equations: the sums over all recipes of J' J and of J' r.

        Parameters
        ----------
        residual : (n, 3) float, r, whitened as the derivatives are

        Returns
        -------
        (p, p) float and (p,) float
        """
        curvature, downhill = np.zeros((self.size, self.size)), np.zeros(self.size)
        for rows, columns, values in self._blocks():
            flat = values.reshape(-1, len(columns))
            curvature[columns[:, None], columns] += flat.T @ flat
            downhill[columns] += flat.T @ residual[rows].ravel()
        return curvature, downhill

    def whitened(self, white: Callable[[Array], Array]) -> "Jacobian":
        """With other values: those that a function of (n, 3, q) float makes of these."""
        return Jacobian(self.size, self.patterns, white(self.values))

    def joint_spread(self, covariance: Array, rows: Indices) -> Array:
        """The joint covariances of the colours of groups of recipes that comes from the parameters'.

        Parameters
        ----------
        covariance : (p, p) float
        rows : (g, m) int; the recipes of a group are of one pattern, and all patterns of as many paints

        Returns
        -------
        (g, 3 m, 3 m) float
        """
        columns = np.array([self.patterns[place].columns for place in self._pattern_of[rows[:, 0]]])
        flat = self.values[rows, :, : columns.shape[1]].reshape(len(rows), -1, columns.shape[1])
        return np.asarray(
            flat @ covariance[columns[:, :, None], columns[:, None, :]] @ flat.transpose(0, 2, 1)
        )

    @cached_property
    def _pattern_of(self) -> Indices:
        found = np.zeros(len(self.values), dtype=int)
        for place, pattern in enumerate(self.patterns):
            found[pattern.rows] = place
        return found


def patterns_of(
    layout: Layout, present: Indices, ground: Indices, paper: Indices, shot: Indices | None = None
) -> tuple[Pattern, ...]:
    """Recipes by what they hang on.

    Parameters
    ----------
    layout : Layout
    present : (n, P) bool, which paints are in each recipe
    ground, paper : (n,) int, the places of the ground and of the paper in the layout
    shot : (n,) int, the place of the picture that it was read from, -1 for none
    """
    packed = np.packbits(present, axis=1)
    shots = [-1] * len(packed) if shot is None else shot.tolist()
    found: dict[tuple[int, int, int, bytes], list[int]] = {}
    for row, (bits, place, on, seen) in enumerate(
        zip(packed, ground.tolist(), paper.tolist(), shots, strict=True)
    ):
        found.setdefault((place, on, seen, bits.tobytes()), []).append(row)
    return tuple(
        Pattern(np.array(rows), columns_of(layout, np.flatnonzero(present[rows[0]]), place, on, seen))
        for (place, on, seen, _), rows in found.items()
    )
