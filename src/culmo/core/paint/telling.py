"""Which paints tell most about a camera: for a strip that lies in each picture."""

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.character import CHARACTER, left_over, seen_and_slopes
from culmo.core.paint.typical_cameras import SCATTER

_DOUBT = 0.8  # in CIELAB units, how far off what is known of a painted patch may be
_HELD = 1e-3  # as little as a number of a picture wanders


def telling(lab: Array, paper: Array, count: int) -> list[int]:
    """The paints of which the washes leave the least doubt of what a picture does, the most telling first.

    One after the other is taken that adds most to the determinant of the information (D-optimal design; Fedorov 1972),
    beside what is believed of usual cameras.

    Parameters
    ----------
    lab : (n, k, 3) float, CIELAB of the k washes of each of n paints
    paper : (3,) float, CIELAB of the bare paper
    count : int, of paints to take

    Returns
    -------
    list of int, at most n
    """
    n, washes = lab.shape[:2]
    flat = lab.reshape(-1, 3)
    slopes = seen_and_slopes(flat, paper, np.zeros(CHARACTER))[2]
    weight = np.linalg.inv(left_over(flat) + _DOUBT**2 * np.eye(3))
    each = np.einsum("nia,nij,njb->nab", slopes, weight, slopes)
    of_paint = each.reshape(n, washes, CHARACTER, CHARACTER).sum(axis=1)
    known = np.linalg.inv(SCATTER + _HELD**2 * np.eye(CHARACTER))
    chosen: list[int] = []
    while len(chosen) < min(count, n):
        left = [place for place in range(n) if place not in chosen]
        gains = [np.linalg.slogdet(known + of_paint[place])[1] for place in left]
        best = left[int(np.argmax(gains))]
        chosen.append(best)
        known = known + of_paint[best]
    return chosen
