"""A dry wash as a film: Kubelka and Munk's reflectance, and the surface's own reflection."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array


def _slowness(A: Array, X: Array) -> tuple[Array, Array]:
    """tanh(sqrt(A) X) / sqrt(A) and its derivative by A, sound down to A = 0."""
    root = np.sqrt(A)
    z = root * X
    small = z < 1e-3
    safe = np.where(small, 1.0, A)
    T = np.where(small, X * (1.0 - z * z / 3.0), np.tanh(z) / np.sqrt(safe))
    dT = np.where(small, X**3 * (-1.0 / 3.0 + 4.0 * z * z / 15.0), (X * (1.0 - A * T * T) - T) / (2.0 * safe))
    return T, dT


def film_reflectance(K: Array, S: Array, X: Array, ground: Array) -> Array:
    """Reflectance of a film over a ground, without the surface.

    With T = tanh(bSX) / (bS) the usual form
    R = (1 - Rg (a - b coth bSX)) / (a - Rg + b coth bSX), a = 1 + K/S, b = sqrt(a² - 1),
    becomes a quotient that has no singular point at S = 0, K = 0 or X = 0. Source: Kubelka 1948.

    Parameters
    ----------
    K : (..., 36) float, >= 0, absorption per full wash
    S : (..., 36) float, >= 0, scattering per full wash
    X : (..., 1) float, >= 0, thickness in full washes
    ground : (..., 36) float, 0..1, reflectance below the film

    Returns
    -------
    (..., 36) float, 0..1
    """
    both = K + S
    root = np.sqrt(np.maximum(K * (both + S), 1e-14))
    T = root * X  # in place from here on: for large batches the time goes into memory
    np.tanh(T, out=T)
    T /= root
    top = T * (S - ground * both)
    top += ground
    low = T * (both - ground * S)
    low += 1.0
    top /= low
    return np.asarray(top)


@dataclass(frozen=True)
class FilmGradient:
    """A film's reflectance and its derivatives, each (..., 36)."""

    reflectance: Array
    by_K: Array
    by_S: Array
    by_X: Array
    by_ground: Array


def film_gradient(K: Array, S: Array, X: Array, ground: Array) -> FilmGradient:
    """As `film_reflectance`, with the analytic derivatives.

    Parameters
    ----------
    K, S : (n, 36) float, >= 0
    X : (n, 1) float, >= 0
    ground : (n, 36) float, 0..1
    """
    A = K * (K + 2.0 * S)
    T, dT = _slowness(A, X)
    top, low = S - ground * (K + S), K + S - ground * S
    D = 1.0 + T * low
    R = (ground + T * top) / D
    by_T = (top - R * low) / D
    slope = by_T * dT
    return FilmGradient(
        reflectance=R,
        by_K=-T * (ground + R) / D + slope * 2.0 * (K + S),
        by_S=T * (1.0 - ground) * (1.0 - R) / D + slope * 2.0 * K,
        by_X=by_T * (1.0 - A * T * T),
        by_ground=(1.0 - T * (K + S) + R * T * S) / D,
    )


def through_surface(inner: Array, k1: float, k2: float) -> Array:
    """What is measured from outside of a film that reflects `inner` inside (Saunderson 1942).

    Parameters
    ----------
    inner : (..., 36) float, 0..1
    k1 : float, 0..1, reflected at the surface from outside
    k2 : float, 0..1, reflected back at the surface from inside
    """
    return np.asarray(k1 + (1.0 - k1) * (1.0 - k2) * inner / (1.0 - k2 * inner))


def below_surface(outer: Array, k1: float, k2: float) -> Array:
    """Inverse of `through_surface`, clipped to 0..1.

    Parameters
    ----------
    outer : (..., 36) float, 0..1
    k1, k2 : float, 0..1
    """
    y = (np.asarray(outer) - k1) / (1.0 - k1)
    return np.clip(y / (1.0 - k2 + k2 * y), 0.0, 1.0)
