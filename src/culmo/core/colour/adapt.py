"""Colours measured for another white, and spectra of other bands, brought to what Culmo reckons in."""

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance, lab_from_xyz, xyz_from_lab
from culmo.core.colour.spectral import DAYLIGHT, WAVELENGTH_NM, Array
from culmo.errors import CulmoError
from culmo.words import tr

D50_WHITE: Array = np.array([0.96422, 1.0, 0.82521])  # ICC.1:2022; ISO 13655 measures for it
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def adapt_xyz(xyz: Array, white: Array, to: Array = DAYLIGHT.white) -> Array:
    """Tristimulus values as they would look under another white (Lam 1985, known as Bradford's transform).

    Parameters
    ----------
    xyz : (..., 3) float, Y = 1 for a perfect white
    white, to : (3,) float, XYZ of the two whites

    Returns
    -------
    (..., 3) float
    """
    gain = (_BRADFORD @ to) / (_BRADFORD @ white)
    return np.asarray(xyz @ (np.linalg.inv(_BRADFORD) @ (gain[:, None] * _BRADFORD)).T)


def lab_from_d50(lab: Array) -> Array:
    """CIELAB for D65 from CIELAB for D50, (..., 3) float."""
    return lab_from_xyz(adapt_xyz(xyz_from_lab(np.asarray(lab, dtype=float), D50_WHITE), D50_WHITE))


def lab_to_d50(lab: Array) -> Array:
    """CIELAB for D50 from CIELAB for D65, (..., 3) float."""
    return lab_from_xyz(
        adapt_xyz(xyz_from_lab(np.asarray(lab, dtype=float)), DAYLIGHT.white, D50_WHITE), D50_WHITE
    )


def lab_from_spectrum(wavelength_nm: Array, reflectance: Array) -> Array:
    """CIELAB for D65 from spectra of any bands; beyond their ends the last value stands.

    Parameters
    ----------
    wavelength_nm : (k,) float, rising
    reflectance : (..., k) float, 0..1

    Returns
    -------
    (..., 3) float

    Raises
    ------
    CulmoError
        when the bands are too few, or do not cover 420 to 680 nm
    """
    wave, values = np.asarray(wavelength_nm, dtype=float), np.asarray(reflectance, dtype=float)
    if len(wave) < 10 or wave.min() > 420.0 or wave.max() < 680.0 or (np.diff(wave) <= 0).any():
        raise CulmoError(
            tr("a spectrum needs at least ten bands, rising, from 420 nm or less to 680 nm or more")
        )
    from scipy.interpolate import CubicSpline  # slow to import

    inside = np.clip(WAVELENGTH_NM, wave[0], wave[-1])
    return lab_from_reflectance(np.clip(CubicSpline(wave, values, axis=-1)(inside), 0.0, 1.5))
