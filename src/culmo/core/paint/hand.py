"""The hand's own figures: how far ratios, water and readings err, and how they are learned from what was painted."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.optics import FULL_WATER, Linear

# what is believed before, and with how many observations' weight
_PRIOR = {"ratio": (0.18, 24.0), "water": (FULL_WATER, 24.0), "noise": (0.8, 60.0)}
# what the robust weight leaves of the squares of clean, normal residuals: E[min(1, 9 / (6 + x)) x] / 3, x chi square 3
_CONSISTENT = 0.834


@dataclass(frozen=True)
class Hand:
    """How this painter errs.

    Attributes
    ----------
    ratio : float, standard deviation of the log ratio of two parts
    water : float, standard deviation of the log thickness of a full wash (a tint's is 2.5 times that)
    noise : float, standard deviation of a reading in each of L, a, b, with what the film model leaves out
    """

    ratio: float = _PRIOR["ratio"][0]
    water: float = _PRIOR["water"][0]
    noise: float = _PRIOR["noise"][0]

    def covariance(self, linear: Linear, noise: Array | None = None) -> Array:
        """The expected covariance of each reading about its prediction, (n, 3, 3) float.

        Parameters
        ----------
        linear : Linear of n recipes
        noise : (n,) float, standard deviations to use instead of the hand's own where not nan
        """
        sd = np.full(len(linear.lab), self.noise)
        if noise is not None:
            sd = np.where(np.isnan(noise), sd, noise)
        return np.asarray(
            self.ratio**2 * linear.ratio + self.water**2 * linear.water + (sd**2)[:, None, None] * np.eye(3)
        )


def relearn_hand(
    hand: Hand, linear: Linear, residual: Array, doubt: Array, weight: Array, noise: Array
) -> Hand:
    """One step of expectation and maximisation for the three variances.

    Parameters
    ----------
    hand : Hand, the present figures
    linear : Linear of n readings
    residual : (n, 3) float, read minus predicted
    doubt : (n, 3, 3) float, what the parameters' own uncertainty adds to the residual
    weight : (n,) float, 0..1, the robust weight of each reading
    noise : (n,) float, nan where the reading's noise is the hand's own

    Returns
    -------
    Hand. Source: Dempster, Laird and Rubin 1977, for variance components with normal priors' counts.
    """
    inverse = np.linalg.inv(hand.covariance(linear, noise))
    kept = (np.minimum(weight, 1.0) / _CONSISTENT)[:, None, None]
    square = kept * residual[:, :, None] * residual[:, None, :] + doubt
    spread = inverse @ square @ inverse - inverse
    own = np.isnan(noise)
    identity = np.broadcast_to(np.eye(3), linear.ratio.shape)
    found = {}
    for name, shape, count in (
        ("ratio", linear.ratio, linear.ratio_count),
        ("water", linear.water, linear.water_count),
        ("noise", identity, np.full(len(residual), 3)),
    ):
        variance = getattr(hand, name) ** 2
        gain = variance**2 * np.einsum("nij,nji->n", shape, spread) + count * variance
        prior, weight_of_prior = _PRIOR[name]
        total = float(gain[own].sum()) + weight_of_prior * prior**2
        found[name] = float(np.sqrt(max(total / (float(count[own].sum()) + weight_of_prior), 1e-4)))
    return Hand(
        ratio=float(np.clip(found["ratio"], 0.02, 0.8)),
        water=float(np.clip(found["water"], 0.01, 0.4)),
        noise=float(np.clip(found["noise"], 0.1, 6.0)),
    )
