"""The numbers that the estimate looks for, how they are packed, and what is believed before any reading."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.basis import (
    ABSORPTION_KNOTS,
    GROUND_KNOTS,
    SCATTERING_KNOTS,
    smooth_covariance,
    spline_basis,
)
from culmo.core.paint.character import CHARACTER
from culmo.core.paint.readings import INK, PAPER

PER_PAINT = ABSORPTION_KNOTS + SCATTERING_KNOTS + 3
K_SLICE = slice(0, ABSORPTION_KNOTS)
S_SLICE = slice(ABSORPTION_KNOTS, ABSORPTION_KNOTS + SCATTERING_KNOTS)
TINT_AT = PER_PAINT - 3  # log of how much paler or stronger the card's tint is than a fifth
BIAS_AT = PER_PAINT - 2  # log of how far the hand over-loads the paint in mixes
DILUTION_AT = PER_PAINT - 1  # what the paint adds to the power by which its film grows with its wash
ALL_DILUTION_AT = 2  # behind log k1 and logit k2: what all paints add to that power
SURFACE = ALL_DILUTION_AT + 1
# what a paper does to every film: the log of its strength, what is added to the power of dilution, the log of its scattering
ON_PAPER = 3
STRENGTH_ON, DILUTION_ON, SCATTERING_ON = range(ON_PAPER)
SHARED = SURFACE + GROUND_KNOTS + ON_PAPER  # what every recipe hangs on besides its paints
USUAL = ""  # the paper that has no name: others are told beside it

Ground = tuple[str, str]  # ("paper" or "ink", the paper's name)

# Prior means and spreads. Watercolours of the common kinds lie well inside.
_LOG_K_MEAN, _LOG_S_MEAN = -0.9, -1.9
_K1, _K1_SPREAD = 0.03, 0.3  # spread in log
_K2, _K2_SPREAD = 0.42, 0.25  # spread in logit
_GROUND_MEAN = {PAPER: 2.6, INK: -3.6}  # logit of the reflectance below the surface
TINT_SPREAD = 0.2
BIAS_SPREAD = 0.25
DILUTION_SPREAD, OWN_DILUTION_SPREAD = 0.15, 0.05  # of all paints, and of a paint beside the others
_ON_PAPER_SPREAD = (0.2, 0.1, 0.3)
_FIXED = 1e-3  # the spread of what stays as it is
_LEAST_POWER, _MOST_POWER = 0.4, 1.8


@dataclass(frozen=True)
class Optics:
    """The parameters in physical terms.

    Attributes
    ----------
    K, S : (P, 36) float, > 0, absorption and scattering per full wash
    tint, bias : (P,) float, in logs
    dilution : (P,) float, added to 1 it is the power by which the film of a paint grows with the strength of its wash
    k1, k2 : float, 0..1, reflection at the surface
    grounds : (G, 36) float, 0..1, reflectance of each ground below the surface
    on_paper : (N, ON_PAPER) float, what each paper does to every film
    """

    K: Array
    S: Array
    tint: Array
    bias: Array
    dilution: Array
    k1: float
    k2: float
    grounds: Array
    on_paper: Array


@dataclass(frozen=True)
class Layout:
    """Where each number stands in the vector: paints, log k1, logit k2, the dilution of all, the grounds, the papers.

    Attributes
    ----------
    paints : int
    grounds : tuple of Ground
    papers : tuple of str, folded names; the usual one first, which does nothing
    shots : int, pictures of which something was read; what each does to colours stands behind the papers
    """

    paints: int
    grounds: tuple[Ground, ...]
    papers: tuple[str, ...] = (USUAL,)
    shots: int = 0

    @property
    def size(self) -> int:
        return self.shots_at + self.shots * CHARACTER

    @property
    def surface_at(self) -> int:
        return self.paints * PER_PAINT

    @property
    def papers_at(self) -> int:
        return self.surface_at + SURFACE + len(self.grounds) * GROUND_KNOTS

    @property
    def shots_at(self) -> int:
        return self.papers_at + len(self.papers) * ON_PAPER

    def shot_slice(self, shot: int) -> slice:
        """Where the character of the picture with this index stands."""
        start = self.shots_at + shot * CHARACTER
        return slice(start, start + CHARACTER)

    def paper_slice(self, paper: int) -> slice:
        """Where the paper with this index stands."""
        start = self.papers_at + paper * ON_PAPER
        return slice(start, start + ON_PAPER)

    def paper_index(self, name: str) -> int:
        """The place of a paper; one that is not known is taken for the usual one."""
        folded = name.strip().casefold()
        return self.papers.index(folded) if folded in self.papers else 0

    def ground_slice(self, ground: int) -> slice:
        """Where the ground with this index stands."""
        start = self.surface_at + SURFACE + ground * GROUND_KNOTS
        return slice(start, start + GROUND_KNOTS)

    def optics(self, theta: Array) -> Optics:
        """The vector in physical terms; logs are bounded so that no step of the search can overflow.

        Parameters
        ----------
        theta : (size,) float
        """
        own = theta[: self.surface_at].reshape(self.paints, PER_PAINT)
        on_paper = np.clip(
            theta[self.papers_at : self.shots_at].reshape(len(self.papers), ON_PAPER), -1.5, 1.5
        )
        on_paper[0] = 0.0  # others are told beside the usual one
        ground = theta[self.surface_at + SURFACE : self.papers_at].reshape(len(self.grounds), GROUND_KNOTS)
        log_K = own[:, K_SLICE] @ spline_basis(ABSORPTION_KNOTS).T
        log_S = own[:, S_SLICE] @ spline_basis(SCATTERING_KNOTS).T
        return Optics(
            K=np.exp(np.clip(log_K, -9.0, 5.0)),
            S=np.exp(np.clip(log_S, -9.0, 4.0)),
            tint=np.clip(own[:, TINT_AT], -1.5, 1.2),
            bias=np.clip(own[:, BIAS_AT], -2.0, 2.0),
            dilution=np.clip(
                own[:, DILUTION_AT] + theta[self.surface_at + ALL_DILUTION_AT],
                _LEAST_POWER - 1.0,
                _MOST_POWER - 1.0,
            ),
            k1=float(np.exp(np.clip(theta[self.surface_at], -6.0, -1.8))),
            k2=float(_sigmoid(np.clip(theta[self.surface_at + 1], -3.0, 2.0))),
            grounds=np.asarray(_sigmoid(ground @ spline_basis(GROUND_KNOTS).T)),
            on_paper=on_paper,
        )

    def prior(self) -> tuple[Array, Array]:
        """Mean (size,) and precision (size, size) of the belief before any reading, but for that of the pictures."""
        mean, precision = np.zeros(self.size), np.zeros((self.size, self.size))
        one_mean, one_precision = paint_prior()
        for paint in range(self.paints):
            block = slice(paint * PER_PAINT, (paint + 1) * PER_PAINT)
            mean[block], precision[block, block] = one_mean, one_precision
        at = self.surface_at
        mean[at], mean[at + 1] = np.log(_K1), np.log(_K2 / (1.0 - _K2))
        precision[at, at], precision[at + 1, at + 1] = _K1_SPREAD**-2, _K2_SPREAD**-2
        precision[at + ALL_DILUTION_AT, at + ALL_DILUTION_AT] = DILUTION_SPREAD**-2
        ground_precision = np.linalg.inv(smooth_covariance(GROUND_KNOTS, 0.3, 150.0, 0.6, 0.6))
        for i, (kind, _) in enumerate(self.grounds):
            block = self.ground_slice(i)
            mean[block], precision[block, block] = _GROUND_MEAN[kind], ground_precision
        for i in range(len(self.papers)):
            block, spread = self.paper_slice(i), np.array(_ON_PAPER_SPREAD if i else [_FIXED] * ON_PAPER)
            precision[block, block] = np.diag(spread**-2)
        return mean, precision


def _sigmoid(x: Array) -> Array:
    return np.asarray(1.0 / (1.0 + np.exp(-x)))


def paint_prior() -> tuple[Array, Array]:
    """Mean (PER_PAINT,) and precision (PER_PAINT, PER_PAINT) of what is believed of any paint."""
    mean, covariance = np.zeros(PER_PAINT), np.zeros((PER_PAINT, PER_PAINT))
    mean[K_SLICE], mean[S_SLICE] = _LOG_K_MEAN, _LOG_S_MEAN
    covariance[K_SLICE, K_SLICE] = smooth_covariance(ABSORPTION_KNOTS, 2.4, 80.0, 0.7, 0.3)
    covariance[S_SLICE, S_SLICE] = smooth_covariance(SCATTERING_KNOTS, 0.25, 120.0, 1.2, 0.3)
    covariance[TINT_AT, TINT_AT] = TINT_SPREAD**2
    covariance[BIAS_AT, BIAS_AT] = BIAS_SPREAD**2
    covariance[DILUTION_AT, DILUTION_AT] = OWN_DILUTION_SPREAD**2
    return mean, np.asarray(np.linalg.inv(covariance))


def columns_of(layout: Layout, paints: Indices, ground: int, paper: int, shot: int = -1) -> Indices:
    """Where the numbers stand that a recipe hangs on: those of the surface, of its ground, of its paper, of its
    paints; of what is read from a picture that of the picture, too.

    Parameters
    ----------
    layout : Layout
    paints : (k,) int, those in the recipe
    ground, paper : int, their places
    shot : int, the place of its picture; -1 for none

    Returns
    -------
    (SHARED + k PER_PAINT,) int, or CHARACTER more
    """
    places = np.arange(layout.size)
    surface = places[layout.surface_at : layout.surface_at + SURFACE]
    shared = [*surface, *places[layout.ground_slice(ground)], *places[layout.paper_slice(paper)]]
    of_paints = (paints[:, None] * PER_PAINT + np.arange(PER_PAINT)).ravel()
    of_shot = places[layout.shot_slice(shot)] if shot >= 0 else places[:0]
    return np.concatenate([np.array(shared), of_paints, of_shot])
