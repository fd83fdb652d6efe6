"""Which paint serves as a dark: to cool, to dull or to warm the hues of a wheel."""

from enum import StrEnum

import numpy as np

from culmo.core.colour.spectral import Array


class DarkLean(StrEnum):
    """Which way a dark leans."""

    COOL = "cool"
    NEUTRAL = "neutral"
    WARM = "warm"
    DEEPEST = "deepest"


# the lightness below which a paint is a dark, and the chroma below which it has no hue
_DARK_L, _GREY = 45.0, 8.0
_BROWN = 20.0, 105.0  # degrees of hue, from brown reds to olive


def likeliest_dark(lab: Array, sort: str) -> int:
    """The place of the paint that serves best.

    A cool dark is the deepest of green or blue hue, a neutral the greyest of the dark ones, a warm dark the deepest brown;
    the deepest is no brown where there is another dark, since a brown warms every hue that it darkens.

    Parameters
    ----------
    lab : (n, 3) CIELAB of the paints in full, n at least 1
    sort : str, "cool", "neutral", "warm" or "deepest"
    """
    light, chroma = lab[:, 0], np.hypot(lab[:, 1], lab[:, 2])
    hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360.0
    coloured, dark = chroma >= _GREY, light < _DARK_L
    brown = coloured & (hue >= _BROWN[0]) & (hue <= _BROWN[1])
    wanted = {
        DarkLean.COOL: dark & coloured & (hue > 150.0) & (hue < 300.0),
        DarkLean.NEUTRAL: dark,
        DarkLean.WARM: dark & brown,
        DarkLean.DEEPEST: dark & ~brown,
    }[DarkLean(sort)]
    worth = chroma if sort == DarkLean.NEUTRAL else light
    return int(np.argmin(np.where(wanted, worth, np.inf) if wanted.any() else worth))
