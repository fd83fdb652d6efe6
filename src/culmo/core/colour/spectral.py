"""Bands, lights, and the way from reflectance to tristimulus values."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from culmo.core.colour import tables
from culmo.words import mark

Array = NDArray[np.floating[Any]]
Indices = NDArray[np.integer[Any]]
Flags = NDArray[np.bool_]

WAVELENGTH_NM: Array = np.arange(380.0, 731.0, 10.0)
BANDS = len(WAVELENGTH_NM)


@dataclass(frozen=True)
class Light:
    """A viewing light.

    Attributes
    ----------
    name : str, as shown to the painter
    weights : (36, 3) float, multiplies reflectance to give XYZ with Y = 1 for a perfect white
    white : (3,) float, XYZ of the perfect white
    """

    name: str
    weights: Array
    white: Array


def _light(name: str, power: Array) -> Light:
    weights = tables.OBSERVER * power[:, None]
    weights = weights / weights[:, 1].sum()
    return Light(name, weights, weights.sum(axis=0))


DAYLIGHT = _light(mark("Daylight D65"), tables.D65)
WARM_LAMP = _light(mark("Warm lamp"), tables.WARM_LAMP)
COOL_LED = _light(mark("Cool LED"), tables.COOL_LED)
LIGHTS = (DAYLIGHT, WARM_LAMP, COOL_LED)


def xyz_from_reflectance(reflectance: Array, light: Light = DAYLIGHT) -> Array:
    """Tristimulus values of a reflecting surface under a light.

    Parameters
    ----------
    reflectance : (..., 36) float, 0..1
    light : Light

    Returns
    -------
    (..., 3) float, Y = 1 for a perfect white. Source: CIE 015:2018, by summation at 10 nm.
    """
    return np.asarray(reflectance) @ light.weights
