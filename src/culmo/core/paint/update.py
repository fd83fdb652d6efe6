"""One more reading: what is known of a hundred paints, brought up to date without being learned anew.

The readings that came and those that went change the curvature by a matrix of small rank, so that its inverse follows from
the inverse that is known (Woodbury 1950). The search had come to rest, so that what they pull is all that
pulls; it is followed step by step, as the slopes change (Bell and Cathey 1993).
"""

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.hand import Hand
from culmo.core.paint.newton import Search
from culmo.core.paint.problem import Problem, Row
from culmo.core.threads import one_thread

MOST_NEW = 12  # readings that may come, or go, before everything is learned anew
_STEPS = 6  # at most, each from where the last one led to
_SETTLED = 0.1  # in CIELAB units: a step that moves the colours of what came less is the last
_FAR = 3.0  # in a log: what moves a parameter so far is not told by its slope here


def _groups(problem: Problem) -> dict[tuple[Row, ...], Indices]:
    """The readings that err together, by themselves where they do so with no other; and their places."""
    found: dict[tuple[Row, ...], Indices] = {}
    alone = np.ones(len(problem.rows), dtype=bool)
    for puddles in problem.puddles:
        alone[puddles.rows] = False
        for places in puddles.rows:
            found[tuple(problem.rows[place] for place in places)] = places
    for place in np.flatnonzero(alone):
        found[problem.rows[place],] = np.array([place])
    return found


def changed(before: Problem, now: Problem) -> tuple[Indices, Indices] | None:
    """The places of the readings that went, and of those that came, each with all that err together with it.

    Parameters
    ----------
    before, now : Problem

    Returns
    -------
    two (k,) int; None where the paints or the grounds are others, so that nothing can be compared
    """
    if (before.names, before.layout, before.beliefs, before.shots) != (
        now.names,
        now.layout,
        now.beliefs,
        now.shots,
    ):
        return None
    old, new = _groups(before), _groups(now)
    gone = [places for key, places in old.items() if key not in new]
    come = [places for key, places in new.items() if key not in old]
    none = np.zeros(0, dtype=int)
    return np.concatenate([none, *gone]), np.concatenate([none, *come])


def _whitened(search: Search, rows: Indices) -> tuple[Array, Array]:
    """Of some readings how the whitened residuals hang on the parameters, (3 k, p); and these, (3 k,) float."""
    if not len(rows):
        return np.zeros((0, len(search.state.theta))), np.zeros(0)
    return search.whitened().dense(rows).reshape(3 * len(rows), -1), search.white()[rows].ravel()


@one_thread
def bring_up(
    before: Problem,
    now: Problem,
    others: tuple[Indices, Indices],
    theta: Array,
    covariance: Array,
    hand: Hand,
    weights: Array,
) -> tuple[Search, Array] | None:
    """The search come to rest with the readings of now, and the covariance of its parameters.

    Parameters
    ----------
    before : Problem, from which `theta`, `covariance` and `weights` were learned
    now : Problem
    others : two (k,) int, as `changed` gives them
    theta : (p,) float
    covariance : (p, p) float
    hand : Hand, which stays as it is
    weights : (n,) float, the robust weights of the readings of before

    Returns
    -------
    (Search, (p, p) float); None where everything is to be learned together: what came says another thing altogether
    """
    gone, come = others
    left, had = _whitened(Search(before, theta, hand), gone)
    root = np.repeat(np.sqrt(weights[gone]), 3)
    left, had = left * root[:, None], had * root
    search = Search(now, theta.copy(), hand)
    sign = np.repeat([1.0, -1.0], [3 * len(come), len(left)])
    found = covariance
    for _ in range(_STEPS):
        added, missed = _whitened(search, come)
        root = np.repeat(np.sqrt(search.weights()[come]), 3)
        missed = missed + added @ (search.state.theta - theta)  # as the slopes here have it from there
        rows = np.concatenate([added * root[:, None], left])
        reach = rows @ covariance
        found = covariance - reach.T @ np.linalg.solve(np.diag(sign) + reach @ rows.T, reach)
        move = found @ (rows.T @ (sign * np.concatenate([missed * root, had])))
        if not (np.diag(found) > 0.0).all() or np.abs(move).max(initial=0.0) > _FAR:
            return None
        passed = search.state.linear.lab[come]
        search.state = search.look(theta + move)
        search.refresh()
        if np.abs(search.state.linear.lab[come] - passed).max(initial=0.0) < _SETTLED:
            break
    return search, found
