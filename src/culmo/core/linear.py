"""Symmetric positive definite matrices, by Cholesky's factors: half the work of the general way.

LAPACK's routines, as SciPy calls them, let no other thread of Python run till they are done: those of a hundred paints
would stop the window for a tenth of a second at a time. So they are given small blocks only, and NumPy's products, which do
let others run, put the blocks together.
"""

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.threads import one_thread

_BLOCK = 384  # some milliseconds of one core


def _factor(matrix: Array) -> Array:
    """The lower factor, block column after block column; what is above it is not cleared."""
    from scipy.linalg.lapack import dpotrf, dtrtri  # slow to import, and first needed in the background

    lower = np.array(matrix, dtype=float)
    for start in range(0, len(lower), _BLOCK):
        block, below = slice(start, start + _BLOCK), slice(start + _BLOCK, None)
        corner, failed = dpotrf(lower[block, block], lower=1, clean=1)
        if failed:
            raise np.linalg.LinAlgError("the matrix is not positive definite")
        lower[block, block] = corner
        if start + _BLOCK < len(lower):
            inverse, _ = dtrtri(corner, lower=1)
            column = lower[below, block] @ inverse.T
            lower[below, block] = column
            lower[below, below] -= column @ column.T
    return lower


def solve_positive(matrix: Array, right: Array) -> Array:
    """x of `matrix` x = `right`.

    Parameters
    ----------
    matrix : (p, p) float, symmetric and positive definite
    right : (p,) float

    Returns
    -------
    (p,) float

    Raises
    ------
    numpy.linalg.LinAlgError
        when the matrix is not positive definite
    """
    from scipy.linalg import cho_solve

    with one_thread:
        return np.asarray(cho_solve((_factor(matrix).T, False), right, check_finite=False))


def invert_positive(matrix: Array) -> Array:
    """The inverse of a symmetric positive definite matrix, symmetric to the last bit.

    Parameters
    ----------
    matrix : (p, p) float

    Returns
    -------
    (p, p) float

    Raises
    ------
    numpy.linalg.LinAlgError
        when the matrix is not positive definite
    """
    with one_thread:
        whole = _inverse(np.asarray(matrix, dtype=float))
    whole += whole.T.copy()
    whole *= 0.5
    return whole


def _inverse(matrix: Array) -> Array:
    """By halves: the inverse of the first, then that of what the first leaves of the second (Schur's complement)."""
    from scipy.linalg.lapack import dpotrf, dpotri

    if len(matrix) <= _BLOCK:
        factor, failed = dpotrf(matrix, lower=1)
        half, _ = dpotri(factor, lower=1)
        if failed:
            raise np.linalg.LinAlgError("the matrix is not positive definite")
        return np.asarray(np.tril(half) + np.tril(half, -1).T)
    middle = len(matrix) // 2
    first = _inverse(matrix[:middle, :middle])
    across = matrix[middle:, :middle] @ first
    second = _inverse(matrix[middle:, middle:] - across @ matrix[middle:, :middle].T)
    both = second @ across
    return np.block([[first + across.T @ both, -both.T], [-both, second]])
