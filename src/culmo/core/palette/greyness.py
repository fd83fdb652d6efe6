"""How grey a mix is: in words that say no more than is known."""

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.words import tr

NEARLY_GREY, MUTED = 6.0, 12.0  # chroma, below which a mix is told as nearly grey, and as muted
_TRUE = 3.0
_TRUE_AT_MOST, _NEARLY_AT_MOST = 5.0, 9.0  # chroma that nine in ten do not pass, for the word to be used
_NINE_IN_TEN = 1.282  # of a normal distribution, one-sided


def grey_words(chroma: float, at_most: float) -> str:
    """How grey a mix is, as far as it is known.

    Parameters
    ----------
    chroma : float, as foretold
    at_most : float, what nine in ten do not pass by what is known of the paints
    """
    if chroma >= MUTED:
        return tr("stays coloured")
    if chroma >= NEARLY_GREY:
        return tr("a muted tone")
    if chroma < _TRUE and at_most < _TRUE_AT_MOST:
        return tr("a true grey")
    if at_most < _NEARLY_AT_MOST:
        return tr("nearly grey")
    return tr("grey, if the prediction holds: a chroma of {chroma:.0f} may be left", chroma=at_most)


def chroma_at_most(lab: Array, covariance: Array) -> Array:
    """The chroma that nine in ten do not pass, of colours that are known with a spread.

    Its square is a quadratic form of a normal error, and is taken as normal with the same mean and variance.

    Parameters
    ----------
    lab : (n, 3) float
    covariance : (n, 3, 3) float

    Returns
    -------
    (n,) float
    """
    ab, spread = lab[:, 1:], covariance[:, 1:, 1:]
    mean = (ab**2).sum(axis=1) + np.einsum("nii->n", spread)
    variance = 2.0 * np.einsum("nij,nji->n", spread, spread) + 4.0 * np.einsum("ni,nij,nj->n", ab, spread, ab)
    return np.asarray(np.sqrt(mean + _NINE_IN_TEN * np.sqrt(variance)))
