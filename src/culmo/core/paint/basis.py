"""Smooth curves over wavelength from few numbers, and what is believed of them before any reading."""

from functools import cache

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM, Array

ABSORPTION_KNOTS = 16
SCATTERING_KNOTS = 4
GROUND_KNOTS = 4


@cache
def spline_basis(count: int) -> Array:
    """Cubic B-splines over the bands, (36, count) float; each row adds up to 1.

    By the recursion of de Boor (1972). SciPy has the same (a test compares), but importing its interpolation takes
    longer than everything else that opening a study does.

    Parameters
    ----------
    count : int, >= 4, number of coefficients
    """
    start, end = WAVELENGTH_NM[0], WAVELENGTH_NM[-1]
    inner = np.linspace(start, end, count - 2)
    knots = np.concatenate([[start] * 3, inner, [end] * 3])
    x = WAVELENGTH_NM[:, None]
    basis = ((knots[None, :-1] <= x) & (x < knots[None, 1:])).astype(float)
    basis[-1, count - 1] = 1.0  # the last band stands on the last knot
    for degree in (1, 2, 3):
        n = len(knots) - 1 - degree
        rise, fall = (
            knots[degree : degree + n] - knots[:n],
            knots[degree + 1 : degree + 1 + n] - knots[1 : 1 + n],
        )
        up = np.divide(x - knots[:n], rise, out=np.zeros((len(x), n)), where=rise > 0)
        down = np.divide(
            knots[degree + 1 : degree + 1 + n] - x, fall, out=np.zeros((len(x), n)), where=fall > 0
        )
        basis = up * basis[:, :n] + down * basis[:, 1 : n + 1]
    return np.asarray(basis)


@cache
def _fit_matrix(count: int) -> Array:
    """Maps a curve on the bands to its coefficients by least squares, (count, 36)."""
    return np.asarray(np.linalg.pinv(spline_basis(count)))


def coefficients(curve: Array, count: int) -> Array:
    """The coefficients of the spline nearest to a curve.

    Parameters
    ----------
    curve : (..., 36) float
    count : int, >= 4

    Returns
    -------
    (..., count) float
    """
    return np.asarray(curve @ _fit_matrix(count).T)


@cache
def smooth_covariance(count: int, spread: float, reach_nm: float, offset: float, slope: float) -> Array:
    """Prior covariance of spline coefficients: a smooth wander, a common level and a common tilt.

    A Gaussian process on wavelength (Matern 5/2) is carried to the coefficients' places; it says the same as a
    penalty on second differences and has its scale in plain units.

    Parameters
    ----------
    count : int, coefficients
    spread : float, standard deviation of the wander
    reach_nm : float, over which the wander keeps its course
    offset : float, standard deviation of the level
    slope : float, standard deviation of the tilt, from the middle to the end of the spectrum

    Returns
    -------
    (count, count) float, positive definite
    """
    start, end = WAVELENGTH_NM[0], WAVELENGTH_NM[-1]
    inner = np.linspace(start, end, count - 2)
    knots = np.concatenate([[start] * 3, inner, [end] * 3])
    places = np.array([knots[i + 1 : i + 4].mean() for i in range(count)])
    distance = np.sqrt(5.0) * np.abs(places[:, None] - places[None, :]) / reach_nm
    wander = spread**2 * (1.0 + distance + distance**2 / 3.0) * np.exp(-distance)
    tilt = (places - places.mean()) / (0.5 * (end - start))
    return np.asarray(wander + offset**2 + slope**2 * np.outer(tilt, tilt) + 1e-6 * np.eye(count))
