"""What to paint next: the cells whose reading would teach most about the whole sheet."""

from collections.abc import Sequence

import numpy as np

from culmo.core.colour.difference import local_metric
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for
from culmo.core.paint.recipe import Recipe

_ENOUGH = 0.3  # a variance, in CIEDE2000 squared, below which a cell is known well enough


def metric_roots(lab: Array) -> Array:
    """Square roots of the local metric: they turn CIELAB errors into CIEDE2000 ones.

    Parameters
    ----------
    lab : (n, 3) float

    Returns
    -------
    (n, 3, 3) float, with R' R the metric
    """
    return np.asarray(np.linalg.cholesky(local_metric(lab, 1.0)).transpose(0, 2, 1))


def choose_next(
    estimate: Estimate,
    recipes: Sequence[Recipe],
    count: int,
    read: Sequence[bool] | None = None,
    grounds: Sequence[str] | None = None,
) -> list[int]:
    """Places of the cells to paint first, the most informative first.

    Chosen one after the other: each is the one whose reading, with all that the hand and the instrument add to it,
    lowers the predictive variance (in CIEDE2000) of all cells most, by share; the covariance is then brought up to
    date as if it had been read (rank 3) and the next is chosen. Counting each cell's fall by share (the sum of the
    logarithms) teaches more than the plain sum of variances, which chases the few worst cells: see docs/model.md.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe, the whole sheet
    count : int, how many to choose
    read : sequence of n bool, cells that need no choosing any more
    grounds : sequence of n "paper" or "ink"

    Returns
    -------
    list of int, at most `count` places
    """
    if not recipes or count <= 0:
        return []
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, recipes, grounds))
    roots = metric_roots(linear.lab)
    n = len(recipes)
    # everything in units of CIEDE2000
    jacobian = (roots @ linear.jacobian.dense()).reshape(3 * n, -1)
    joint = (jacobian @ estimate.covariance @ jacobian.T).reshape(n, 3, n, 3)
    own = roots @ estimate.hand.covariance(linear) @ roots.transpose(0, 2, 1)
    free = np.ones(n, dtype=bool) if read is None else ~np.asarray(read, dtype=bool)
    chosen: list[int] = []
    while len(chosen) < count and free.any():
        rows = np.flatnonzero(free)
        sums = joint[rows, :, rows, :] + own[rows]  # (m, 3, 3)
        reach = joint[:, :, rows, :]  # (n, 3, m, 3)
        white = np.linalg.inv(np.linalg.cholesky(sums))  # (m, 3, 3)
        lowered = np.einsum("aimj,mkj->aimk", reach, white, optimize=True)
        lowered = np.einsum("aimk,aimk->am", lowered, lowered)  # by how much each cell's variance would fall
        now = np.einsum("aiai->a", joint)[:, None] + _ENOUGH
        gain = -np.log(np.maximum(1.0 - lowered / now, 1e-9)).sum(axis=0)
        best = int(rows[int(np.argmax(gain))])
        column = joint[:, :, best, :].reshape(3 * n, 3)
        taken = column @ np.linalg.inv(joint[best, :, best, :] + own[best]) @ column.T
        joint = joint - taken.reshape(n, 3, n, 3)
        free[best] = False
        chosen.append(best)
    return chosen
