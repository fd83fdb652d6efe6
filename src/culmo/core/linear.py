"""Symmetric positive definite matrices, by Cholesky's factors: half the work of the general way."""

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.threads import one_thread


def solve_positive(matrix: Array, right: Array) -> Array:
    """x of `matrix` x = `right`.

    Parameters
    ----------
    matrix : (p, p) float, symmetric and positive definite; only its lower half is read
    right : (p,) float

    Returns
    -------
    (p,) float

    Raises
    ------
    numpy.linalg.LinAlgError
        when the matrix is not positive definite
    """
    from scipy.linalg import cho_factor, cho_solve  # slow to import, and first needed in the background

    with one_thread:
        factor = cho_factor(matrix, lower=True, check_finite=False)
        return np.asarray(cho_solve(factor, right, check_finite=False))


def invert_positive(matrix: Array) -> Array:
    """The inverse of a symmetric positive definite matrix, symmetric to the last bit.

    Parameters
    ----------
    matrix : (p, p) float; only its lower half is read

    Returns
    -------
    (p, p) float

    Raises
    ------
    numpy.linalg.LinAlgError
        when the matrix is not positive definite
    """
    from scipy.linalg import cho_factor
    from scipy.linalg.lapack import dpotri

    with one_thread:
        factor, _ = cho_factor(matrix, lower=True, check_finite=False)
        half, failed = dpotri(factor, lower=True)
    if failed:
        raise np.linalg.LinAlgError("the matrix is not positive definite")
    whole = np.tril(half)
    whole += np.tril(half, -1).T
    return np.asarray(whole)
