"""How strong a paint is in mixes: how many parts of a middling paint one part of it stands against."""

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.pigments import STRENGTHS
from culmo.core.palette.mixer import Mixer
from culmo.core.threads import one_thread

# an ochre, an iron red, an ultramarine and a viridian: pigments of middling strength, of four hues
AGAINST = ("PY43", "PR101", "PB29", "PG18")
LOGITS = np.linspace(-4.4, 4.4, 23)  # parts from 1 : 80 to 80 : 1
_TELLS = 12.0  # CIEDE2000; against a paint of nearly its own colour nothing is seen
_LIMITS = (0.7, 1.5, 2.5)  # between the words


def middles(ends: Array, path: Array, logits: Array = LOGITS) -> tuple[Array, Array]:
    """Where the colour that lies in the middle between two paints is, on their way at a full wash.

    Parameters
    ----------
    ends : (m, 2, 3) float, CIELAB of the second and of the first paint alone
    path : (m, len(logits), 3) float, their mixes, from much of the second to much of the first
    logits : float, increasing, the logarithm of the parts of the first to one of the second

    Returns
    -------
    (m,) float, the logarithm of the parts of the first to one of the second there; (m,) float, the whole way in CIEDE2000
    """
    whole = np.concatenate([ends[:, :1], path, ends[:, 1:]], axis=1)
    along = np.cumsum(delta_e_00(whole[:, 1:], whole[:, :-1]), axis=1)
    half = 0.5 * along[:, -1]
    logit = [np.interp(h, row[:-1], logits) for h, row in zip(half, along, strict=True)]
    return np.array(logit).reshape(len(path)), along[:, -1]


@one_thread
def strengths(mixer: Mixer, K: Array, S: Array) -> Array:
    """How many parts of a middling paint one part of each paint stands against, as this hand loads it.

    The mix in the middle, in CIEDE2000 along the way from one to the other at a full wash, is sought with each of some
    middling paints; the mean of the logarithms is taken over those whose colour is another.

    Parameters
    ----------
    mixer : Mixer of n paints
    K, S : (r, 36) float, the curves of the middling paints

    Returns
    -------
    (n,) float
    """
    n, r = len(mixer.names), len(K)
    wider = mixer.with_typical([f"\0{i}" for i in range(r)], K, S)
    share = 1.0 / (1.0 + np.exp(-LOGITS))
    shares = np.zeros((n, r, len(share), n + r))
    for own in range(n):
        shares[own, :, :, own] = share
    for other in range(r):
        shares[:, other, :, n + other] = 1.0 - share
    path = wider.lab(shares.reshape(-1, n + r), (1.0,)).reshape(n * r, len(share), 3)
    alone = wider.lab(np.eye(n + r), (1.0,))[:, 0]
    ends = np.stack([np.tile(alone[n:], (n, 1)), np.repeat(alone[:n], r, axis=0)], axis=1)
    logit, length = (values.reshape(n, r) for values in middles(ends, path))
    counts = np.where(length >= _TELLS, 1.0, 1e-9)
    return np.asarray(np.exp(-(counts * logit).sum(axis=1) / counts.sum(axis=1)))


def strength_word(number: float) -> str:
    """How strong, in a word."""
    return STRENGTHS[bisect_right(_LIMITS, number)]


def against(curves: Sequence[tuple[Array, Array]]) -> tuple[Array, Array]:
    """The curves of middling paints, as `strengths` takes them: K and S, each (r, 36) float."""
    return np.array([K for K, _ in curves]), np.array([S for _, S in curves])
