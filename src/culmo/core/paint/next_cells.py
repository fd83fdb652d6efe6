"""What to paint next: the cells whose reading would teach most about what the painter wants to know."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from culmo.core.colour.difference import local_metric
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for
from culmo.core.paint.questions import Question
from culmo.core.paint.readings import PAPER
from culmo.core.paint.recipe import Recipe

_ENOUGH = 0.3  # a variance, in CIEDE2000 or CIELAB squared, below which a cell is known well enough
_ORDERS = 24  # of cells at random that a choice is held against
_MOST_AT_RANDOM = 3  # times as many as were chosen; what is worth still more is not counted
# how much of what the posterior promises is there when they are painted, held against two laboratories by `make bench`: of
# a whole sheet the hand limits more than the choice, while cells that have to do with a question are found rightly
AS_PAINTED, AS_PAINTED_FOR_A_QUESTION = 0.3, 0.85
AS_PAINTED_OF_TEXTURE = 0.5  # held against washes of clumps (`make bench texture`)


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


@dataclass(frozen=True)
class Prior:
    """What is known of the cells and of what is asked, before any of them is read.

    Of each there are b figures: the three of a colour, in units of CIEDE2000; or what else a reading tells.

    Attributes
    ----------
    joint : (n, b, n, b) float, the covariance of the figures, of the m cells first
    own : (m, b, b) float, what the hand and the instrument add to the reading of a cell
    free : (m,) bool, the cells that may be chosen
    asked : (k,) int, the places of what is asked
    weights : (k,) float
    """

    joint: Array
    own: Array
    free: Flags
    asked: Indices
    weights: Array

    @cached_property
    def variance(self) -> Array:
        """Of each of what is asked, (k,) float."""
        return np.asarray(np.einsum("aiai->a", self.joint)[self.asked])

    def left_after(self, order: Sequence[int]) -> Array:
        """The mean of the deviations of what is asked after none, one, two ... cells of an order, (len + 1,) float."""
        order, figures = list(order), self.joint.shape[1]
        size = figures * len(order)
        among = self.joint[np.ix_(order, range(figures), order, range(figures))].reshape(size, size)
        for place, cell in enumerate(order):
            block = slice(figures * place, figures * (place + 1))
            among[block, block] += self.own[cell]
        reach = self.joint[order][:, :, self.asked].reshape(size, -1)
        half = np.linalg.solve(np.linalg.cholesky(among), reach) if size else reach
        fallen = (
            (half.reshape(len(order), figures, len(self.asked), figures) ** 2).sum(axis=(1, 3)).cumsum(axis=0)
        )
        left = self.variance - np.vstack([np.zeros(len(self.asked)), fallen])
        return np.asarray(np.sqrt(np.maximum(left, 0.0)) @ self.weights / self.weights.sum())


def _known(
    estimate: Estimate,
    recipes: Sequence[Recipe],
    read: Sequence[bool] | None,
    grounds: Sequence[str] | None,
    question: Question | None,
) -> Prior:
    n = len(recipes)
    asked, weights = np.arange(n), np.ones(n)
    if question is not None:
        asked = n + np.arange(len(question.recipes))
        weights = np.asarray(question.weights, dtype=float)
        grounds = [*(grounds or [PAPER] * n), *[PAPER] * len(question.recipes)]
        recipes = [*recipes, *question.recipes]
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, recipes, grounds))
    roots = metric_roots(linear.lab)
    jacobian = (roots @ linear.jacobian.dense()).reshape(3 * len(recipes), -1)
    joint = (jacobian @ estimate.covariance @ jacobian.T).reshape(len(recipes), 3, len(recipes), 3)
    own = roots @ estimate.hand.covariance(linear) @ roots.transpose(0, 2, 1)
    free = np.ones(n, dtype=bool) if read is None else ~np.asarray(read, dtype=bool)
    return Prior(joint, own[:n], free, asked, weights)


def choose_next(
    estimate: Estimate,
    recipes: Sequence[Recipe],
    count: int,
    read: Sequence[bool] | None = None,
    grounds: Sequence[str] | None = None,
    question: Question | None = None,
) -> list[int]:
    """Places of the cells to paint first, the most informative first.

    Chosen one after the other: each is the one whose reading, with all that the hand and the instrument add to it,
    lowers the predictive variance (in CIEDE2000) of what is asked most, by share; the covariance is then brought up to
    date as if it had been read (rank 3) and the next is chosen. Counting each colour's fall by share (the sum of the
    logarithms) teaches more than the plain sum of variances, which chases the few worst cells: see docs/model.md.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe, the whole sheet
    count : int, how many to choose
    read : sequence of n bool, cells that need no choosing any more
    grounds : sequence of n "paper" or "ink"
    question : Question, what is to be known; the colours of the whole sheet by default

    Returns
    -------
    list of int, at most `count` places
    """
    if not recipes or count <= 0:
        return []
    return chosen_of(_known(estimate, recipes, read, grounds, question), count)


def chosen_of(known: Prior, count: int) -> list[int]:
    """As `choose_next`, of what is known of the cells."""
    joint, own, free = known.joint, known.own, known.free.copy()
    n, figures = joint.shape[:2]
    chosen: list[int] = []
    while len(chosen) < count and free.any():
        rows = np.flatnonzero(free)
        sums = joint[rows, :, rows, :] + own[rows]  # (m, b, b)
        reach = joint[known.asked][:, :, rows, :]  # (k, b, m, b)
        white = np.linalg.inv(np.linalg.cholesky(sums))  # (m, b, b)
        lowered = np.einsum("aimj,mkj->aimk", reach, white, optimize=True)
        lowered = np.einsum(
            "aimk,aimk->am", lowered, lowered
        )  # by how much each colour's variance would fall
        now = np.einsum("aiai->a", joint)[known.asked, None] + _ENOUGH
        gain = -known.weights @ np.log(np.maximum(1.0 - lowered / now, 1e-9))
        best = int(rows[int(np.argmax(gain))])
        column = joint[:, :, best, :].reshape(figures * n, figures)
        taken = column @ np.linalg.inv(joint[best, :, best, :] + own[best]) @ column.T
        joint = joint - taken.reshape(n, figures, n, figures)
        free[best] = False
        chosen.append(best)
    return chosen


@dataclass(frozen=True)
class Worth:
    """What a choice of cells is worth.

    Attributes
    ----------
    chosen : int, how many cells were chosen
    at_random : int, about how many at random teach as much; never fewer
    before, after : float, the mean deviation of what is asked before and after they are read; of colours in CIEDE2000
    """

    chosen: int
    at_random: int
    before: float
    after: float


_NOTHING = Worth(0, 0, 0.0, 0.0)


def worth_of(
    estimate: Estimate,
    recipes: Sequence[Recipe],
    chosen: Sequence[int],
    read: Sequence[bool] | None = None,
    grounds: Sequence[str] | None = None,
    question: Question | None = None,
) -> Worth:
    """How many cells at random teach as much as the chosen ones.

    Parameters
    ----------
    estimate, recipes, read, grounds, question : as in `choose_next`
    chosen : sequence of int, the places that it gave
    """
    if not chosen:
        return _NOTHING
    share = AS_PAINTED if question is None else AS_PAINTED_FOR_A_QUESTION
    return worth_by(_known(estimate, recipes, read, grounds, question), chosen, share)


def worth_by(known: Prior, chosen: Sequence[int], share: float) -> Worth:
    """As `worth_of`, of what is known of the cells.

    Parameters
    ----------
    known : Prior
    chosen : sequence of int, the places that `chosen_of` gave
    share : float, how much of what the posterior promises is there when they are painted
    """
    if not chosen:
        return _NOTHING
    left = known.left_after(chosen)
    free = np.flatnonzero(known.free)
    most = min(len(free), _MOST_AT_RANDOM * len(chosen))
    rng = np.random.default_rng(0)  # the same answer each time
    curve = np.mean([known.left_after(rng.permutation(free)[:most].tolist()) for _ in range(_ORDERS)], axis=0)
    alike = float(np.interp(-left[-1], -curve, np.arange(most + 1)))
    more = share * max(alike - len(chosen), 0.0)
    return Worth(len(chosen), len(chosen) + round(more), float(left[0]), float(left[-1]))
