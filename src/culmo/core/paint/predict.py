"""Predicted colours with an honest spread."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.difference import local_metric
from culmo.core.colour.spectral import DAYLIGHT, Array, Light
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.optics import Batch, compile_batch, linearise, predict_reflectance
from culmo.core.paint.parameters import (
    ALL_DILUTION_AT,
    DILUTION_AT,
    DILUTION_ON,
    ON_PAPER,
    PER_PAINT,
    STRENGTH_ON,
)
from culmo.core.paint.readings import PAPER
from culmo.core.paint.recipe import Recipe
from culmo.core.threads import one_thread

_CHUNK = 512
_SEEN_STRENGTH = 0.08  # of the log of the film's strength on another paper
_SEEN_POWER = 0.04  # of the power of dilution: less is not worth a word


@dataclass(frozen=True)
class Prediction:
    """Colours of n recipes as this hand would paint them.

    Attributes
    ----------
    lab : (n, 3) float, CIELAB
    dE90 : (n,) float, the CIEDE2000 radius that holds nine in ten cells

    Where nothing is known of a paint, both are not a number; see `predict_known`.
    """

    lab: Array
    dE90: Array

    def at(self, place: int) -> "tuple[Array, float] | None":
        """The colour at a place, (3,) float, and its radius; None where nothing is known of a paint there."""
        radius = float(self.dE90[place])
        return (self.lab[place], radius) if np.isfinite(radius) else None


def batch_for(
    estimate: Estimate, recipes: Sequence[Recipe], grounds: Sequence[str] | None = None, paper: str = ""
) -> Batch:
    """Recipes in array form for an estimate.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    grounds : sequence of n "paper" or "ink"; paper by default
    paper : str, the paper's name

    Raises
    ------
    CulmoError
        naming a paint that the estimate does not know
    """
    places = {ground: estimate.ground_index(ground, paper) for ground in set(grounds or [PAPER])}
    return compile_batch(
        recipes,
        [places[ground] for ground in (grounds or [PAPER] * len(recipes))],
        estimate.index,
        papers=[estimate.layout.paper_index(paper)] * len(recipes),
    )


@one_thread
def predict_lab(
    estimate: Estimate,
    recipes: Sequence[Recipe],
    grounds: Sequence[str] | None = None,
    light: Light = DAYLIGHT,
) -> Array:
    """Mean colours without spreads.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    grounds : sequence of n "paper" or "ink"
    light : Light

    Returns
    -------
    (n, 3) float, CIELAB
    """
    optics = estimate.layout.optics(estimate.theta)
    return lab_from_reflectance(predict_reflectance(optics, batch_for(estimate, recipes, grounds)), light)


@dataclass(frozen=True)
class Dilution:
    """How a paint's film grows with the strength of its wash: as a power of it.

    Attributes
    ----------
    power : float, 1 where half as strong a wash gives half the film; below 1 where water makes less difference
    spread : float, its standard deviation
    """

    power: float
    spread: float

    @property
    def shows(self) -> int:
        """-1 where water makes less difference than by the measure, or than with other paints; 1 where more; else 0."""
        off = self.power - 1.0
        return int(np.sign(off)) if abs(off) > max(_SEEN_POWER, 1.5 * self.spread) else 0

    def film_of(self, wash: float) -> float:
        """The film of a wash, relative to that of a full one."""
        return float(wash**self.power)


def dilution_of(estimate: Estimate, name: str = "") -> Dilution:
    """How a paint dilutes, beside the mean of all; without a name how all paints of the painter do.

    Parameters
    ----------
    estimate : Estimate
    name : str, a paint that the estimate knows
    """
    shared = estimate.layout.surface_at + ALL_DILUTION_AT
    theta, covariance = estimate.theta, estimate.covariance
    own = np.arange(len(estimate.names)) * PER_PAINT + DILUTION_AT
    pick = np.zeros(len(theta))
    if name:
        pick[own[estimate.index[name.casefold()]]] = 1.0
    else:
        pick[shared], pick[own] = 1.0, 1.0 / max(len(own), 1)
    return Dilution(1.0 + float(pick @ theta), float(np.sqrt(pick @ covariance @ pick)))


@dataclass(frozen=True)
class OnPaper:
    """What a paper does to every film, beside the usual one.

    Attributes
    ----------
    name : str, folded
    strength : float, by which factor the same wash comes out stronger
    spread : float, the standard deviation of its log
    """

    name: str
    strength: float
    spread: float

    @property
    def shows(self) -> bool:
        """Whether it is worth a word."""
        off = abs(float(np.log(self.strength)))
        return off > max(_SEEN_STRENGTH, 2.0 * self.spread)


def on_papers(estimate: Estimate, wash: float = 1.0) -> list[OnPaper]:
    """What each paper but the usual one does to a wash.

    Parameters
    ----------
    estimate : Estimate
    wash : float, 0 < wash <= 1
    """
    layout, found = estimate.layout, []
    pick = np.zeros(ON_PAPER)
    pick[STRENGTH_ON], pick[DILUTION_ON] = 1.0, np.log(wash)
    for place, name in enumerate(layout.papers[1:], 1):
        own = layout.paper_slice(place)
        spread = float(np.sqrt(pick @ estimate.covariance[own, own] @ pick))
        found.append(OnPaper(name, float(np.exp(pick @ estimate.theta[own])), spread))
    return found


@one_thread
def predict(
    estimate: Estimate, recipes: Sequence[Recipe], grounds: Sequence[str] | None = None, paper: str = ""
) -> Prediction:
    """Colours and spreads; the spread holds what is not known of the paints, the hand's errors and the noise.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe
    grounds : sequence of n "paper" or "ink"
    paper : str

    Raises
    ------
    CulmoError
        naming a paint that the estimate does not know
    """
    batch = batch_for(estimate, recipes, grounds, paper)
    parts = list(_predicted(estimate, batch))
    if not parts:
        return Prediction(np.empty((0, 3)), np.empty(0))
    return Prediction(
        np.concatenate([part.lab for part in parts]), np.concatenate([part.dE90 for part in parts])
    )


def predict_known(
    estimate: Estimate, recipes: Sequence[Recipe], grounds: Sequence[str], paper: str = ""
) -> Prediction:
    """As `predict`, without an error for paints of which nothing is known: such recipes stay not a number.

    Parameters
    ----------
    estimate, recipes, paper : as in `predict`
    grounds : sequence of n "paper" or "ink"
    """
    known = [
        place
        for place, recipe in enumerate(recipes)
        if all(name.casefold() in estimate.index for name in recipe.names)
    ]
    lab, radius = np.full((len(recipes), 3), np.nan), np.full(len(recipes), np.nan)
    found = predict(estimate, [recipes[i] for i in known], [grounds[i] for i in known], paper)
    lab[known], radius[known] = found.lab, found.dE90
    return Prediction(lab, radius)


def _predicted(estimate: Estimate, batch: Batch) -> Iterator[Prediction]:
    for start in range(0, batch.count, _CHUNK):
        linear = linearise(estimate.layout, estimate.theta, batch.take(start, start + _CHUNK))
        covariance = linear.jacobian.spread(estimate.covariance) + estimate.hand.covariance(linear)
        yield Prediction(linear.lab, radius_of_nine_in_ten(linear.lab, covariance))


def radius_of_nine_in_ten(lab: Array, covariance: Array) -> Array:
    """The CIEDE2000 radius about a colour that holds nine in ten draws.

    The difference is a quadratic form of the error near the colour; its distribution is taken as a scaled chi
    square with the same mean and variance (Satterthwaite 1946).

    Parameters
    ----------
    lab : (n, 3) float
    covariance : (n, 3, 3) float

    Returns
    -------
    (n,) float
    """
    from scipy.special import gammaincinv  # slow to import

    form = covariance @ local_metric(lab, 1.0)
    mean = np.einsum("nii->n", form)
    square = np.einsum("nij,nji->n", form, form)
    freedom = np.clip(mean**2 / np.maximum(square, 1e-12), 1.0, 3.0)
    quantile = np.interp(freedom, _FREEDOMS, 2.0 * gammaincinv(_FREEDOMS / 2.0, 0.9) / _FREEDOMS)
    return np.asarray(np.sqrt(mean * quantile))


_FREEDOMS = np.linspace(1.0, 3.0, 41)
