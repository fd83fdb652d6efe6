"""Plain words for hues, lightness and chroma."""

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.spectral import Array

# (upper end of the sector in degrees of CIELAB hue, word)
_SECTORS = (
    (12, "rose"),
    (38, "red"),
    (58, "scarlet"),
    (78, "orange"),
    (98, "yellow"),
    (118, "green-yellow"),
    (168, "green"),
    (212, "turquoise"),
    (258, "blue"),
    (292, "blue"),
    (325, "violet"),
    (348, "purple"),
    (361, "rose"),
)


def hue_word(lab: Array) -> str:
    """The painter's word for the hue of one colour.

    Parameters
    ----------
    lab : (3,) float

    Examples
    --------
    >>> hue_word(np.array([50.0, 0.5, 0.5]))
    'grey'
    """
    lightness, chroma, hue_deg = lch_from_lab(np.asarray(lab))
    if chroma < 6.0:
        return "grey" if lightness > 25 else "near black"
    word = next(word for end, word in _SECTORS if hue_deg < end)
    if word in ("scarlet", "orange", "yellow") and chroma < 38.0:
        return "brown" if lightness < 62 else "buff"
    return word
