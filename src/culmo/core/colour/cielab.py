"""CIELAB and LCh (CIE 015:2018), with the derivative that the estimate needs."""

import numpy as np

from culmo.core.colour.spectral import DAYLIGHT, Array, Light, xyz_from_reflectance

_EPSILON = 216.0 / 24389.0
_KAPPA = 24389.0 / 27.0
# L, a and b from the three companded ratios
_MIX = np.array([[0.0, 116.0, 0.0], [500.0, -500.0, 0.0], [0.0, 200.0, -200.0]])


def _compand(ratio: Array) -> Array:
    ratio = np.asarray(ratio)
    result = np.asarray(np.cbrt(np.maximum(ratio, _EPSILON)))
    dark = ratio <= _EPSILON
    if dark.any():  # few are: what is worked out for all of them takes twice as long
        result[dark] = (_KAPPA * ratio[dark] + 16.0) / 116.0
    return result


def lab_from_xyz(xyz: Array, white: Array = DAYLIGHT.white) -> Array:
    """CIELAB from tristimulus values.

    Parameters
    ----------
    xyz : (..., 3) float, Y = 1 for a perfect white
    white : (3,) float

    Returns
    -------
    (..., 3) float: L 0..100, a, b; float32 where both are given so
    """
    ratio = np.asarray(np.asarray(xyz) / white)
    result: Array = _compand(ratio) @ _MIX.T.astype(ratio.dtype)
    result[..., 0] -= 16.0
    return result


def xyz_from_lab(lab: Array, white: Array = DAYLIGHT.white) -> Array:
    """Inverse of `lab_from_xyz`.

    Parameters
    ----------
    lab : (..., 3) float
    white : (3,) float

    Returns
    -------
    (..., 3) float, Y = 1 for a perfect white
    """
    lab = np.asarray(lab, dtype=float)
    fy = (lab[..., 0] + 16.0) / 116.0
    f = np.stack([fy + lab[..., 1] / 500.0, fy, fy - lab[..., 2] / 200.0], axis=-1)
    cube = f * f * f  # NumPy's power of three takes several times as long
    ratio = np.where(cube > _EPSILON, cube, (116.0 * f - 16.0) / _KAPPA)
    return np.asarray(ratio * white)


def lab_from_reflectance(reflectance: Array, light: Light = DAYLIGHT) -> Array:
    """CIELAB of a reflecting surface relative to a perfect white under the same light.

    Parameters
    ----------
    reflectance : (..., 36) float, 0..1
    light : Light

    Returns
    -------
    (..., 3) float
    """
    return lab_from_xyz(xyz_from_reflectance(reflectance, light), light.white)


def lab_and_gradient(reflectance: Array) -> tuple[Array, Array]:
    """CIELAB under daylight and its derivative by the reflectance of each band.

    Parameters
    ----------
    reflectance : (n, 36) float

    Returns
    -------
    lab : (n, 3) float
    gradient : (n, 3, 36) float
    """
    light = DAYLIGHT
    ratio = xyz_from_reflectance(reflectance) / light.white
    slope = np.where(ratio > _EPSILON, np.cbrt(np.maximum(ratio, _EPSILON)) ** -2 / 3.0, _KAPPA / 116.0)
    lab = _compand(ratio) @ _MIX.T
    lab[..., 0] -= 16.0
    gradient = np.einsum("ij,nj,bj->nib", _MIX, slope / light.white, light.weights, optimize=True)
    return lab, gradient


def lch_from_lab(lab: Array) -> Array:
    """Lightness, chroma and hue angle.

    Parameters
    ----------
    lab : (..., 3) float

    Returns
    -------
    (..., 3) float: L, C, h in degrees 0..360
    """
    lab = np.asarray(lab, dtype=float)
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    hue_deg = np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360.0
    return np.stack([lab[..., 0], chroma, hue_deg], axis=-1)
