"""The colours of a picture, with what the picture does to them undone, as its cells and all that was read before tell it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from culmo.core.capture.strip import Strip
from culmo.core.colour.difference import local_metric
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import within_lab
from culmo.core.paint.character import (
    Shot,
    as_it_is,
    back_through,
    believed,
    left_over,
    rest_of,
    seen_and_slopes,
    seen_lab,
)
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.readings import NINE_IN_TEN, Reading
from culmo.core.paint.recipe import Recipe
from culmo.core.paint.typical import Belief

_ENOUGH = 6  # washes, before they tell anything of a picture
# what the film's own error adds to what is told of a picture: cells of one formula err alike
_FILM_ERRS = 1.8


@dataclass(frozen=True)
class KnownBefore:
    """What is known beside a picture.

    Attributes
    ----------
    names : tuple of str, the paints
    readings : tuple of Reading, what was read before
    typical : tuple of (Reading, float), as `estimate.learn` takes them
    beliefs : mapping from folded name to Belief
    earlier : Estimate, what was learned of all that; None where nothing was
    strips : tuple of Strip, strips of known paints that may lie in the picture
    light : str, by which light the picture was taken, as the painter says: one of `lights.SHOT_LIGHTS`, or empty
    """

    names: tuple[str, ...] = ()
    readings: tuple[Reading, ...] = ()
    typical: tuple[tuple[Reading, float], ...] = ()
    beliefs: Mapping[str, Belief] = field(default_factory=dict)
    earlier: Estimate | None = None
    strips: tuple[Strip, ...] = ()
    light: str = ""


@dataclass(frozen=True)
class Corrected:
    """Colours as they are, and how far off what the picture does may leave them.

    Attributes
    ----------
    lab : (n, 3) float, CIELAB
    spread : (n, 3, 3) float, the covariance of what is left of the picture's doing
    """

    lab: Array
    spread: Array

    def told(self, own: Array) -> Array:
        """What holds nine in ten, (n,) float.

        Parameters
        ----------
        own : (n,) float, the root mean square in CIEDE2000 of each colour's own part
        """
        shared = np.einsum("nij,nji->n", self.spread, local_metric(self.lab, 1.0))
        return np.asarray(NINE_IN_TEN * np.sqrt(shared + own**2))


def corrected(seen: Array, paper: Array, character: Array, covariance: Array, rest: float = 1.0) -> Corrected:
    """Colours by what is known of their picture.

    Parameters
    ----------
    seen : (n, 3) float, linear sRGB relative to the bare paper, as the picture shows them
    paper : (3,) float, CIELAB of the bare paper
    character : (CHARACTER,) float
    covariance : (CHARACTER, CHARACTER) float
    rest : float, how much more than usual no character undoes, as a share of its deviations
    """
    shown = seen_lab(seen, paper)
    # what lies at a picture's end may be anything behind it
    lab = within_lab(as_it_is(shown, paper, character))
    _, by_colour, by_character = seen_and_slopes(lab, paper, character)
    slopes = back_through(by_colour, by_character)
    return Corrected(lab, slopes @ covariance @ slopes.transpose(0, 2, 1) + rest**2 * left_over(lab))


def settle(
    readings: Sequence[Reading], shot: Shot, known: KnownBefore | None = None
) -> tuple[Array, Array, float]:
    """What a picture does to colours, as all that is known tells it: its character, the covariance of that, and the rest.

    Parameters
    ----------
    readings : sequence of Reading, of the picture, that may teach
    shot : Shot, the picture
    known : KnownBefore, what is known beside it
    """
    known = known or KnownBefore()
    names = list(known.names)
    folded = {name.casefold() for name in names}
    for reading in readings:
        for name in reading.recipe.names:
            if name.casefold() not in folded:
                names.append(name)
                folded.add(name.casefold())
    washes = [reading for reading in readings if reading.recipe.layers and reading.teaches]
    if len(washes) < _ENOUGH:
        mean, precision = believed([shot])
        rest = rest_of(shot, mean)
        return mean, rest**2 * np.linalg.inv(precision), rest
    bare = Reading(Recipe(), shot.paper)
    everything = [*known.readings, bare, *readings]
    estimate = learn(names, everything, known.typical, known.earlier, known.beliefs)
    at = estimate.layout.shot_slice(estimate.shots.index(shot))
    rest = rest_of(shot, estimate.theta[at])
    return estimate.theta[at], rest**2 * _FILM_ERRS * estimate.covariance[at, at], rest
