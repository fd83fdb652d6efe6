"""The search for the parameters under which what was read is likeliest. See docs/model.md."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.linear import solve_positive
from culmo.core.paint.hand import Hand
from culmo.core.paint.jacobian import Jacobian
from culmo.core.paint.optics import Linear, linearise
from culmo.core.paint.problem import Problem

_FREEDOM = 6.0  # of the heavy-tailed loss


@dataclass
class State:
    """Where the search stands.

    Attributes
    ----------
    theta : (p,) float
    linear : Linear of the readings there
    residual : (n, 3) float, read minus predicted
    cost : float
    """

    theta: Array
    linear: Linear
    residual: Array
    cost: float


class Whitening:
    """Takes from residuals, and from derivatives, how far the hand makes them err together."""

    def __init__(self, problem: Problem, hand: Hand, linear: Linear) -> None:
        own = hand.covariance(linear, problem.beside)
        self._own = np.linalg.inv(np.linalg.cholesky(own))
        self._joint = [
            (
                puddles,
                np.linalg.inv(np.linalg.cholesky(puddles.covariance(hand, linear, own, problem.beside))),
            )
            for puddles in problem.puddles
        ]

    def __call__(self, values: Array) -> Array:
        """(n, 3, q) float, in units of what the hand errs."""
        white = self._own @ values
        for puddles, root in self._joint:
            count, cells = puddles.rows.shape
            flat = values[puddles.rows].reshape(count, 3 * cells, -1)
            white[puddles.rows] = (root @ flat).reshape(count, cells, 3, -1)
        return np.asarray(white)


class Search:
    """The present parameters, what they cost, and the way down from there.

    Damped Gauss-Newton on whitened residuals with normal priors; a heavy-tailed loss keeps one dirty cell from bending a
    paint.
    """

    def __init__(self, problem: Problem, theta: Array, hand: Hand) -> None:
        self.problem, self.hand = problem, hand
        self.prior_mean, self.prior_precision = problem.prior()
        self.state = self.look(theta)
        self.whiten = Whitening(problem, hand, self.state.linear)
        self.state.cost = self._cost(self.state)

    def look(self, theta: Array) -> State:
        """Other parameters; the cost is not reckoned.

        Parameters
        ----------
        theta : (p,) float
        """
        linear = linearise(self.problem.layout, theta, self.problem.batch)
        linear = self.problem.as_shown(theta, linear)
        return State(theta, linear, self.problem.lab - linear.lab, np.inf)

    def refresh(self) -> None:
        """Weigh the readings anew by what the hand can do at the present parameters."""
        self.whiten = Whitening(self.problem, self.hand, self.state.linear)
        self.state.cost = self._cost(self.state)

    def _squares(self, state: State) -> Array:
        return np.asarray((self.white(state) ** 2).sum(axis=1))

    def white(self, state: State | None = None) -> Array:
        """The whitened residuals, (n, 3) float; of the present state by default."""
        state = state or self.state
        return self.whiten(state.residual[:, :, None])[:, :, 0]

    def _cost(self, state: State) -> float:
        off = state.theta - self.prior_mean
        loss = (_FREEDOM + 3.0) * np.log1p(self._squares(state) / _FREEDOM).sum()
        return float(loss + off @ self.prior_precision @ off)

    def weights(self) -> Array:
        """The robust weight of each reading, 0..1.5."""
        return np.asarray((_FREEDOM + 3.0) / (_FREEDOM + self._squares(self.state)))

    def whitened(self) -> Jacobian:
        """How the whitened residuals hang on the parameters."""
        return self.state.linear.jacobian.whitened(self.whiten)

    def normal_equations(self) -> tuple[Array, Array]:
        """Curvature (p, p) and downhill direction (p,), with the priors."""
        state = self.state
        root = np.sqrt(self.weights())[:, None]
        white = state.linear.jacobian.whitened(lambda values: self.whiten(values) * root[:, :, None])
        curvature, downhill = white.squared(self.white(state) * root)
        curvature += self.prior_precision
        downhill += self.prior_precision @ (self.prior_mean - state.theta)
        return curvature, downhill

    def take(self, trial: State) -> bool:
        """Go there if it costs no more, and say whether it did."""
        trial.cost = self._cost(trial)
        if not (np.isfinite(trial.cost) and trial.cost <= self.state.cost):
            return False
        self.state = trial
        return True

    def step(self, damping: float) -> tuple[bool, float, float]:
        """Try one damped step: whether it helped, the new damping, and by which share the cost fell."""
        curvature, downhill = self.normal_equations()
        for _ in range(8):
            damped = curvature.copy()
            damped[np.diag_indices_from(damped)] *= 1.0 + damping
            move = np.clip(solve_positive(damped, downhill), -2.0, 2.0)
            cost = self.state.cost
            if self.take(self.look(self.state.theta + move)):
                gain = (cost - self.state.cost) / max(self.state.cost, 1.0)
                return True, max(damping / 8.0, 1e-6), gain
            damping = max(damping * 20.0, 1e-3)
        return False, damping, 0.0
