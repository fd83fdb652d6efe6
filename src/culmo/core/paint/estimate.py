"""The joint estimate: all paints, the surface and the hand, from all readings together.

Damped Gauss-Newton on whitened residuals with normal priors. Each reading is weighed by what the hand can do
there, and a heavy-tailed loss keeps one dirty cell from bending a paint. See docs/model.md.
"""

from collections.abc import Generator, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.linear import invert_positive, solve_positive
from culmo.core.paint.hand import Hand, Puddle, relearn_hand
from culmo.core.paint.optics import Batch, Linear, compile_batch, linearise
from culmo.core.paint.parameters import PER_PAINT, SURFACE, Ground, Layout
from culmo.core.paint.readings import INK, PAPER, Reading, taught
from culmo.core.paint.recipe import FULL, TINT
from culmo.core.steps import run_through
from culmo.core.threads import one_thread, steps_on_one_thread

_FREEDOM = 6.0  # of the heavy-tailed loss
_ROUNDS, _STEPS = 7, 5
_HAND_STEPS = 4  # in each round: a step costs little, and goes a part of the way
MOST_OF_ONE = 12  # cells of a puddle that are reckoned together
# too few readings tell nothing of the hand
_ENOUGH_MIXES = 8


@dataclass(frozen=True)
class Estimate:
    """What has been learned.

    Attributes
    ----------
    names : tuple of str, the paints in order
    layout : Layout
    theta : (p,) float
    covariance : (p, p) float, of `theta`
    hand : Hand
    readings : int, how many readings it rests on
    settled : bool, whether the search came to rest
    weights : (n,) float, the robust weight of each reading that was taught, in the order given
    """

    names: tuple[str, ...]
    layout: Layout
    theta: Array
    covariance: Array
    hand: Hand
    readings: int
    settled: bool
    weights: Array

    @cached_property
    def index(self) -> dict[str, int]:
        """Folded paint name to its place."""
        return {name.casefold(): i for i, name in enumerate(self.names)}

    def ground_index(self, ground: str, paper: str = "") -> int:
        """The place of a ground; an unknown paper is taken for the usual one."""
        grounds = self.layout.grounds
        wanted = (ground, paper.casefold())
        return grounds.index(wanted) if wanted in grounds else grounds.index((ground, ""))


@dataclass(frozen=True)
class Problem:
    """The readings in array form."""

    names: tuple[str, ...]
    layout: Layout
    batch: Batch
    lab: Array
    noise: Array
    mixes: int
    puddles: tuple[Puddle, ...]


@one_thread
def prepare(
    names: Sequence[str], readings: Sequence[Reading], typical: Iterable[tuple[Reading, float]] = ()
) -> Problem:
    """Readings to arrays; those that do not teach stay out, and of very many the oldest (see `taught`).

    Parameters
    ----------
    names : sequence of str, the paints
    readings : sequence of Reading
    typical : iterable of (Reading, float), general knowledge and its standard deviation in CIELAB units

    Raises
    ------
    CulmoError
        when a recipe names a paint that is not in `names`
    """
    good = taught(readings)
    known = list(typical)
    everything = good + [reading for reading, _ in known]
    bare = {(r.ground, r.paper.strip().casefold()) for r in everything if not r.recipe.layers}
    usual: list[Ground] = [(PAPER, ""), (INK, "")]
    grounds = tuple(usual + sorted(bare - set(usual)))
    layout = Layout(len(names), grounds)
    places, cards, seen = [], [], set()
    for reading in everything:
        own = (reading.ground, reading.paper.strip().casefold())
        places.append(grounds.index(own if own in grounds else (reading.ground, "")))
        name = reading.recipe.names[0].casefold() if reading.recipe.is_pure else ""
        card = bool(name) and reading.recipe.layers[0].wash == TINT and name not in seen
        cards.append(card)
        if card:
            seen.add(name)
    index = {name.casefold(): i for i, name in enumerate(names)}
    batch = compile_batch([reading.recipe for reading in everything], places, index, cards)
    noise = np.array([np.nan] * len(good) + [sd for _, sd in known])
    lab = np.array([reading.lab for reading in everything], dtype=float).reshape(-1, 3)
    mixes = sum(len(r.recipe.names) > 1 for r in good)
    return Problem(tuple(names), layout, batch, lab, noise, mixes, _puddles(good))


def _puddles(readings: Sequence[Reading]) -> tuple[Puddle, ...]:
    """Readings of mixes of one layer that share a puddle: of the same parts, on one ground, no more than MOST_OF_ONE."""
    found: dict[object, list[int]] = {}
    for place, reading in enumerate(readings):
        if reading.puddle is not None and len(reading.recipe.layers) == 1 and len(reading.recipe.names) > 1:
            shares = reading.recipe.with_wash(FULL).key
            key = (reading.puddle, shares, reading.ground, reading.paper.strip().casefold())
            found.setdefault(key, []).append(place)
    return tuple(
        Puddle(np.array(places[start : start + MOST_OF_ONE]))
        for places in found.values()
        for start in range(0, len(places), MOST_OF_ONE)
        if len(places[start : start + MOST_OF_ONE]) > 1
    )


@dataclass
class _State:
    """Where the search stands."""

    theta: Array
    linear: Linear
    residual: Array
    cost: float


class _Whitening:
    """Takes from residuals, and from derivatives, how far the hand makes them err together."""

    def __init__(self, problem: Problem, hand: Hand, linear: Linear) -> None:
        own = hand.covariance(linear, problem.noise)
        self._own = np.linalg.inv(np.linalg.cholesky(own))
        self._joint = [
            (puddle.rows, np.linalg.inv(np.linalg.cholesky(puddle.covariance(hand, linear, own))))
            for puddle in problem.puddles
        ]

    def __call__(self, values: Array) -> Array:
        """(n, 3, q) float, in units of what the hand errs."""
        white = self._own @ values
        for rows, root in self._joint:
            white[rows] = (root @ values[rows].reshape(len(root), -1)).reshape(len(rows), 3, -1)
        return np.asarray(white)


class _Search:
    def __init__(self, problem: Problem, theta: Array, hand: Hand) -> None:
        self.problem, self.hand = problem, hand
        self.prior_mean, self.prior_precision = problem.layout.prior()
        self.state = self._look(theta)
        self.whiten = _Whitening(problem, hand, self.state.linear)
        self.state.cost = self._cost(self.state)

    def _look(self, theta: Array) -> _State:
        linear = linearise(self.problem.layout, theta, self.problem.batch)
        return _State(theta, linear, self.problem.lab - linear.lab, np.inf)

    def refresh(self) -> None:
        """Weigh the readings anew by what the hand can do at the present parameters."""
        self.whiten = _Whitening(self.problem, self.hand, self.state.linear)
        self.state.cost = self._cost(self.state)

    def _squares(self, state: _State) -> Array:
        return np.asarray((self._white(state) ** 2).sum(axis=1))

    def _white(self, state: _State) -> Array:
        return self.whiten(state.residual[:, :, None])[:, :, 0]

    def _cost(self, state: _State) -> float:
        off = state.theta - self.prior_mean
        loss = (_FREEDOM + 3.0) * np.log1p(self._squares(state) / _FREEDOM).sum()
        return float(loss + off @ self.prior_precision @ off)

    def weights(self) -> Array:
        """The robust weight of each reading, 0..1.5."""
        return np.asarray((_FREEDOM + 3.0) / (_FREEDOM + self._squares(self.state)))

    def normal_equations(self) -> tuple[Array, Array]:
        """Curvature and downhill direction, with the priors."""
        state = self.state
        root = np.sqrt(self.weights())[:, None]
        white = state.linear.jacobian.whitened(lambda values: self.whiten(values) * root[:, :, None])
        curvature, downhill = white.squared(self._white(state) * root)
        curvature += self.prior_precision
        downhill += self.prior_precision @ (self.prior_mean - state.theta)
        return curvature, downhill

    def step(self, damping: float) -> tuple[bool, float, float]:
        """Try one damped step: whether it helped, the new damping, and by which share the cost fell."""
        curvature, downhill = self.normal_equations()
        for _ in range(8):
            damped = curvature.copy()
            damped[np.diag_indices_from(damped)] *= 1.0 + damping
            move = np.clip(solve_positive(damped, downhill), -2.0, 2.0)
            trial = self._look(self.state.theta + move)
            trial.cost = self._cost(trial)
            if np.isfinite(trial.cost) and trial.cost <= self.state.cost:
                gain = (self.state.cost - trial.cost) / max(trial.cost, 1.0)
                self.state = trial
                return True, max(damping / 8.0, 1e-6), gain
            damping = max(damping * 6.0, 1e-4)
        return False, damping, 0.0


def _start(problem: Problem, earlier: Estimate | None) -> Array:
    theta = problem.layout.prior()[0]
    if earlier is None:
        return theta
    index = earlier.index
    for i, name in enumerate(problem.names):
        place = index.get(name.casefold())
        if place is not None:
            theta[i * PER_PAINT : (i + 1) * PER_PAINT] = earlier.theta[
                place * PER_PAINT : (place + 1) * PER_PAINT
            ]
    at, was = problem.layout.surface_at, earlier.layout.surface_at
    theta[at : at + SURFACE] = earlier.theta[was : was + SURFACE]
    for g, ground in enumerate(problem.layout.grounds):
        if ground in earlier.layout.grounds:
            theta[problem.layout.ground_slice(g)] = earlier.theta[
                earlier.layout.ground_slice(earlier.layout.grounds.index(ground))
            ]
    return theta


@steps_on_one_thread
def learning(problem: Problem, earlier: Estimate | None = None) -> Generator[float, None, Estimate]:
    """Learn step by step: yields the share done, 0..1, and returns the Estimate.

    Parameters
    ----------
    problem : Problem
    earlier : Estimate to start from; with nearly the same readings few steps are then left
    """
    search = _Search(problem, _start(problem, earlier), earlier.hand if earlier else Hand())
    damping, settled = (1e-5 if earlier else 1e-2), False
    covariance: Array = np.empty(0)
    for turn in range(_ROUNDS):
        gained = 0.0
        for step in range(_STEPS):
            helped, damping, gain = search.step(damping)
            gained += gain
            yield min(0.95, (turn + step / _STEPS) / _ROUNDS)
            if not helped or gain < 1e-3:
                break
        covariance = invert_positive(search.normal_equations()[0])
        before = search.hand
        if problem.mixes >= _ENOUGH_MIXES:
            jacobian = search.state.linear.jacobian
            doubt = jacobian.spread(covariance)
            puddles = [(one, jacobian.joint_spread(covariance, one.rows)) for one in problem.puddles]
            for _ in range(_HAND_STEPS):
                search.hand = relearn_hand(
                    search.hand,
                    search.state.linear,
                    search.state.residual,
                    doubt,
                    search.weights(),
                    problem.noise,
                    puddles,
                )
        search.refresh()
        # from an earlier estimate one round may be enough; from nothing the weights of the first are no good
        if gained < 3e-3 and search.hand.near(before) and (turn > 0 or earlier is not None):
            settled = True
            break
    return Estimate(
        names=problem.names,
        layout=problem.layout,
        theta=search.state.theta,
        covariance=covariance,
        hand=search.hand,
        readings=len(problem.lab) - int((~np.isnan(problem.noise)).sum()),
        settled=settled,
        weights=search.weights(),
    )


def learn(
    names: Sequence[str],
    readings: Sequence[Reading],
    typical: Iterable[tuple[Reading, float]] = (),
    earlier: Estimate | None = None,
) -> Estimate:
    """As `learning`, all at once.

    Parameters
    ----------
    names : sequence of str, the paints
    readings : sequence of Reading
    typical : iterable of (Reading, float), general knowledge and its standard deviation in CIELAB units
    earlier : Estimate to start from

    Raises
    ------
    CulmoError
        when a recipe names a paint that is not in `names`
    """
    return run_through(learning(prepare(names, readings, typical), earlier))
