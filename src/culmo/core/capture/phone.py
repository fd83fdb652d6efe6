"""The phone that takes practice photos: it sees through sensitivities of its own, by a light of its own, and bends that.

Nothing of it is the reader's: colours come from reflectances, light and sensitivities, through a matrix as makers fit it,
and a tone curve. Sensitivities are bells, lights are Planck's or a lamp of a blue peak and a phosphor; both are made up each
time. With these bells it errs as cameras do whose sensitivities were measured.
"""

from dataclasses import dataclass

import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.colour.spectral import DAYLIGHT, WAVELENGTH_NM, Array, Light, xyz_from_reflectance

_PEAKS_NM, _WIDE_NM = (592.0, 545.0, 452.0), (34.0, 42.0, 26.0)
_MOVED_NM, _WIDER = 6.0, 0.08
_SURFACES, _KNOTS = 60, 7
_WHITE_STAYS = 50.0  # weight of the white against one surface


@dataclass(frozen=True)
class Phone:
    """A camera under a light.

    Attributes
    ----------
    sees : Light, its weights: what its file says of a reflectance before its curve
    bend : float, 0..0.5, how much its curve deepens shadows and lifts what is light
    """

    sees: Light
    bend: float

    def developed(self, pixels: Pixels) -> Pixels:
        """Pixels behind its tone curve, (h, w, 3) uint8."""
        level = np.arange(256) / 255.0
        bent = level + self.bend * np.sin(2.0 * np.pi * (level - 0.5)) * level * (1.0 - level) / np.pi
        table = np.clip(np.round(255.0 * bent), 0, 255).astype(np.uint8)
        return np.asarray(table[pixels])


def random_phone(rng: np.random.Generator) -> Phone:
    """A phone by a window or a lamp.

    Parameters
    ----------
    rng : numpy Generator
    """
    peaks, wide = rng.normal(0.0, _MOVED_NM, 3), np.exp(rng.normal(0.0, _WIDER, 3))
    away = (WAVELENGTH_NM[:, None] - (np.array(_PEAKS_NM) + peaks)) / (np.array(_WIDE_NM) * wide)
    seen = np.exp(-0.5 * away**2) * _random_light(rng)[:, None]
    seen /= seen.sum(axis=0)  # the white balance: a perfect white is grey
    return Phone(Light("", seen @ _matrix(seen, rng), DAYLIGHT.white), float(rng.uniform(0.0, 0.5)))


def _random_light(rng: np.random.Generator) -> Array:
    """The power of a light at the bands, (36,) float."""
    if rng.random() < 0.3:
        phosphor = np.exp(-0.5 * ((WAVELENGTH_NM - rng.uniform(560, 600)) / rng.uniform(50, 65)) ** 2)
        blue = np.exp(-0.5 * ((WAVELENGTH_NM - 452.0) / 11.0) ** 2)
        return np.asarray(phosphor + rng.uniform(0.3, 0.9) * blue + 0.02)
    metre, kelvin = WAVELENGTH_NM * 1e-9, rng.uniform(2900.0, 7500.0)
    power = metre**-5 / np.expm1(1.438777e-2 / (metre * kelvin))
    return np.asarray(power / power.max())


def _matrix(seen: Array, rng: np.random.Generator) -> Array:
    """From its balanced channels to XYZ for D65, (3, 3) float, as a maker fits it on surfaces of many colours."""
    knots = np.linspace(WAVELENGTH_NM[0], WAVELENGTH_NM[-1], _KNOTS)
    raw = 1.0 / (1.0 + np.exp(-rng.normal(-0.3, 1.6, (_SURFACES, _KNOTS))))
    surfaces = np.array([np.interp(WAVELENGTH_NM, knots, one) for one in raw])
    channels, wanted = surfaces @ seen, xyz_from_reflectance(surfaces)
    channels = np.vstack([channels, _WHITE_STAYS * np.ones((1, 3))])
    wanted = np.vstack([wanted, _WHITE_STAYS * DAYLIGHT.white])
    return np.asarray(np.linalg.lstsq(channels, wanted, rcond=None)[0])
