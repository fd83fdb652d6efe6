"""The fewest paints that reach a list of wanted colours, and what each palette misses of it."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.palette.reach import MOST_PAINTS, Table, Value, class_of, table_from_flags
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.words import tr

MOST_TARGETS = 400
MOST_EQUALS = (
    2000  # of wanted colours easily reached by thousands of palettes so many are told apart by nearness
)
_ROWS = 4000
_ALL_SHARP = 400_000  # so many differences are all told in CIEDE2000; of more only those that matter


@dataclass(frozen=True)
class TargetTable:
    """How near each group of paints comes to each wanted colour.

    Attributes
    ----------
    table : Table, whose representatives are the wanted colours
    value : Value, the weighted share of them that is reached
    away : (g, T) float, CIEDE2000 of the nearest mix of each group; of many, those beyond twice the
        tolerance are only about so
    place : (n, n, n) int, the group of any one, two or three paints
    tolerance : float
    """

    table: Table
    value: Value
    away: Array
    place: Indices
    tolerance: float

    def nearest(self, paints: Sequence[int]) -> Array:
        """How far a palette's nearest mix is from each wanted colour, (T,) float CIEDE2000.

        Parameters
        ----------
        paints : sequence of int
        """
        if not len(paints):
            return np.full(self.away.shape[1], np.inf)
        groups = np.unique(self.place[np.ix_(paints, paints, paints)])
        return np.asarray(self.away[groups].min(axis=0))

    def hit(self, paints: Sequence[int]) -> Flags:
        """Which wanted colours a palette reaches, (T,) bool."""
        return np.asarray(self.nearest(paints) <= self.tolerance)


def tabulating_targets(
    lattice: Lattice, targets: Array, tolerance: float = 4.0, weights: Array | None = None
) -> Generator[float, None, TargetTable]:
    """How near every group of paints comes to wanted colours; yields its progress.

    The nearest mix is looked for in the near space; its difference is then told in CIEDE2000.

    Parameters
    ----------
    lattice : Lattice
    targets : (T, 3) float, CIELAB
    tolerance : float, CIEDE2000
    weights : (T,) float, > 0, what each counts; all the same where absent

    Raises
    ------
    CulmoError
        when there are no wanted colours, or too many, or too many paints
    """
    targets = np.asarray(targets, dtype=float).reshape(-1, 3)
    if not len(targets):
        raise CulmoError(tr("there are no wanted colours to reach"))
    if len(targets) > MOST_TARGETS:
        raise CulmoError(
            tr(
                "{n} wanted colours are too many; {MOST_TARGETS} is the most",
                n=len(targets),
                MOST_TARGETS=MOST_TARGETS,
            )
        )
    if len(lattice.names) > MOST_PAINTS:
        raise CulmoError(
            tr(
                "{n} paints are too many to weigh at once; {MOST_PAINTS} is the most",
                n=len(lattice.names),
                MOST_PAINTS=MOST_PAINTS,
            )
        )
    weights = np.ones(len(targets)) if weights is None else np.asarray(weights, dtype=float)
    near = near_from_lab(targets).astype(np.float32)
    square = (near**2).sum(axis=1)
    washes = lattice.lab.shape[1]
    away = np.empty((len(lattice.groups), len(targets)), dtype=np.float32)
    sizes = np.diff(lattice.first)
    few = len(lattice.groups) * len(targets) <= _ALL_SHARP
    done = 0
    for size in np.unique(sizes):
        members = np.flatnonzero(sizes == size)
        step = max(1, _ROWS // int(size * washes))
        for start in range(0, len(members), step):
            some = members[start : start + step]
            rows = lattice.first[some][:, None] + np.arange(size)
            colours = lattice.near[rows].reshape(-1, 3)
            apart = (colours**2).sum(axis=1)[:, None] - 2.0 * (colours @ near.T) + square
            apart = apart.reshape(len(some), size * washes, len(targets))
            best = apart.argmin(axis=1)
            rough = np.sqrt(np.maximum(np.take_along_axis(apart, best[:, None], axis=1)[:, 0], 0.0))
            _sharpen(rough, lattice.lab[rows].reshape(len(some), -1, 3), best, targets, tolerance, few)
            away[some] = rough
            done += len(some)
            yield done / len(lattice.groups)
    _, block = np.unique(weights, return_inverse=True)
    flags = (away <= tolerance).astype(np.uint8)
    table = table_from_flags(lattice, targets, class_of(targets), np.asarray(block).reshape(-1), flags)
    return TargetTable(table, Value(table, weights), away, _places(lattice), tolerance)


def _sharpen(rough: Array, lab: Array, best: Indices, targets: Array, tolerance: float, few: bool) -> None:
    """CIEDE2000 in the place of the near space's distance where it matters."""
    far = np.inf if few else 2.0 * tolerance + 1.0
    group, target = np.nonzero(rough < far)
    colours = lab[group, best[group, target]].astype(float)
    rough[group, target] = delta_e_00(colours, targets[target])


def _places(lattice: Lattice) -> Indices:
    n = len(lattice.names)
    place = np.zeros((n, n, n), dtype=np.int32)
    i, j, k = lattice.groups.T
    number = np.arange(len(lattice.groups))
    for a, b, c in ((i, j, k), (i, k, j), (j, i, k), (j, k, i), (k, i, j), (k, j, i)):
        place[a, b, c] = number
    pair = (i != j) & (j == k)
    i, j, number = i[pair], j[pair], number[pair]
    for a, b, c in ((i, i, j), (i, j, i), (j, i, i), (j, j, i), (j, i, j), (i, j, j)):
        place[a, b, c] = number
    return place


def tabulate_targets(
    lattice: Lattice, targets: Array, tolerance: float = 4.0, weights: Array | None = None
) -> TargetTable:
    """As `tabulating_targets`, at one go.

    Parameters
    ----------
    lattice, targets, tolerance, weights : as there
    """
    return run_through(tabulating_targets(lattice, targets, tolerance, weights))


def by_nearness(table: TargetTable, palettes: Sequence[tuple[int, ...]], worth: Sequence[float]) -> list[int]:
    """The order of palettes: what is worth more first, ties by the mean distance from the wanted colours.

    Parameters
    ----------
    table : TargetTable
    palettes : sequence of tuples of int
    worth : sequence of float
    """
    means = [float(table.nearest(paints).mean()) for paints in palettes]
    return sorted(range(len(palettes)), key=lambda i: (-round(worth[i], 4), means[i]))
