"""The joint estimate: all paints, the surface and the hand, from all readings together. See docs/model.md."""

from collections.abc import Generator, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.linear import invert_positive
from culmo.core.paint.character import Shot
from culmo.core.paint.hand import Hand, relearn_hand
from culmo.core.paint.newton import Search
from culmo.core.paint.parameters import PER_PAINT, SURFACE, Layout
from culmo.core.paint.problem import Problem, prepare
from culmo.core.paint.readings import Reading
from culmo.core.paint.typical import Belief
from culmo.core.paint.update import MOST_NEW, bring_up, changed
from culmo.core.steps import run_through
from culmo.core.threads import steps_on_one_thread

_ROUNDS, _STEPS = 7, 5
_HAND_STEPS = 12  # at most in each round: a step costs little, and goes a part of the way
_NEARLY = 0.2  # of the logs: from here on places are worth looking for finely
_NEAR_STEP = 0.004  # of the logs of the figures: a step that moves them less is the last
_ROUGH, _FINE = 1e-2, 1e-3  # by which share of the cost a step must gain to be followed by another one
_MANY = 1000  # parameters, from which on one more reading is not worth learning everything anew
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
    problem : Problem, what it was learned from; None where that was on another day
    brought_up : int, how many readings came or went since everything was learned together
    shots : tuple of Shot, the pictures in order
    """

    names: tuple[str, ...]
    layout: Layout
    theta: Array
    covariance: Array
    hand: Hand
    readings: int
    settled: bool
    weights: Array
    problem: Problem | None = field(default=None, repr=False, compare=False)
    brought_up: int = 0
    shots: tuple[Shot, ...] = ()

    @cached_property
    def index(self) -> dict[str, int]:
        """Folded paint name to its place."""
        return {name.casefold(): i for i, name in enumerate(self.names)}

    def ground_index(self, ground: str, paper: str = "") -> int:
        """The place of a ground; an unknown paper is taken for the usual one."""
        grounds = self.layout.grounds
        wanted = (ground, paper.casefold())
        return grounds.index(wanted) if wanted in grounds else grounds.index((ground, ""))


def _start(problem: Problem, earlier: Estimate | None) -> Array:
    theta = problem.prior()[0]
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
    for p, paper in enumerate(problem.layout.papers):
        if paper in earlier.layout.papers:
            theta[problem.layout.paper_slice(p)] = earlier.theta[
                earlier.layout.paper_slice(earlier.layout.papers.index(paper))
            ]
    for s, shot in enumerate(problem.shots):
        if shot in earlier.shots:
            theta[problem.layout.shot_slice(s)] = earlier.theta[
                earlier.layout.shot_slice(earlier.shots.index(shot))
            ]
    return theta


@steps_on_one_thread
def learning(problem: Problem, earlier: Estimate | None = None) -> Generator[float, None, Estimate]:
    """Learn step by step: yields the share done, 0..1, and returns the Estimate.

    Parameters
    ----------
    problem : Problem
    earlier : Estimate to start from; with nearly the same readings few steps are then left, and with very many paints
        and a few readings more it is brought up to date (see `update`)
    """
    if earlier is not None and problem.layout.size >= _MANY:
        soon = _brought_up(problem, earlier)
        if soon is not None:
            yield 0.95
            return soon
    search = Search(problem, _start(problem, earlier), earlier.hand if earlier else Hand())
    damping, settled = (1e-5 if earlier else 1e-2), False
    # as long as the hand is not known, every place is a passing one
    least = _FINE if earlier else _ROUGH
    covariance: Array = np.empty(0)
    for turn in range(_ROUNDS):
        gained = 0.0
        for step in range(_STEPS):
            helped, damping, gain = search.step(damping)
            gained += gain
            yield min(0.95, (turn + step / _STEPS) / _ROUNDS)
            if not helped or gain < least:
                break
        covariance = invert_positive(search.normal_equations()[0])
        before = search.hand
        if problem.mixes >= _ENOUGH_MIXES:
            jacobian = search.state.linear.jacobian
            doubt = jacobian.spread(covariance)
            puddles = [(one, jacobian.joint_spread(covariance, one.rows)) for one in problem.puddles]
            for _ in range(_HAND_STEPS):
                last = search.hand
                search.hand = relearn_hand(
                    last,
                    search.state.linear,
                    search.state.residual,
                    doubt,
                    search.weights(),
                    problem.beside,
                    puddles,
                )
                search.refresh()
                if search.hand.near(last, _NEAR_STEP):
                    break
        else:
            search.refresh()
        if search.hand.near(before, _NEARLY):
            least = _FINE
        # from an earlier estimate one round may be enough; from nothing the weights of the first are no good
        if gained < 3e-3 and search.hand.near(before) and (turn > 0 or earlier is not None):
            settled = True
            break
    return _estimate(search, covariance, settled)


def _estimate(search: Search, covariance: Array, settled: bool, brought_up: int = 0) -> Estimate:
    problem = search.problem
    return Estimate(
        names=problem.names,
        layout=problem.layout,
        theta=search.state.theta,
        covariance=covariance,
        hand=search.hand,
        readings=len(problem.lab) - int((~np.isnan(problem.beside.noise)).sum()),
        settled=settled,
        weights=search.weights(),
        problem=problem,
        brought_up=brought_up,
        shots=problem.shots,
    )


def _brought_up(problem: Problem, earlier: Estimate) -> Estimate | None:
    """The earlier estimate with a few readings more, or less; None where everything is to be learned together."""
    if earlier.problem is None or not earlier.settled:
        return None
    others = changed(earlier.problem, problem)
    if others is None:
        return None
    count = earlier.brought_up + max(len(places) for places in others)
    if count > MOST_NEW:
        return None
    found = bring_up(
        earlier.problem, problem, others, earlier.theta, earlier.covariance, earlier.hand, earlier.weights
    )
    return None if found is None else _estimate(*found, True, count)


def learn(
    names: Sequence[str],
    readings: Sequence[Reading],
    typical: Iterable[tuple[Reading, float]] = (),
    earlier: Estimate | None = None,
    beliefs: Mapping[str, Belief] | None = None,
) -> Estimate:
    """As `learning`, all at once.

    Parameters
    ----------
    names : sequence of str, the paints
    readings : sequence of Reading
    typical : iterable of (Reading, float), general knowledge and its standard deviation in CIELAB units
    earlier : Estimate to start from
    beliefs : mapping from folded name to what is believed of a paint by its pigments

    Raises
    ------
    CulmoError
        when a recipe names a paint that is not in `names`
    """
    return run_through(learning(prepare(names, readings, typical, beliefs), earlier))
