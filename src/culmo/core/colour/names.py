"""Plain words for hues, lightness and chroma."""

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.spectral import Array
from culmo.words import mark, tr

# (upper end of the sector in degrees of CIELAB hue, word)
_SECTORS = (
    (12, mark("rose")),
    (38, mark("red")),
    (58, mark("scarlet")),
    (78, mark("orange")),
    (98, mark("yellow")),
    (118, mark("green-yellow")),
    (168, mark("green")),
    (212, mark("turquoise")),
    (258, mark("blue")),
    (292, mark("blue")),
    (325, mark("violet")),
    (348, mark("purple")),
    (361, mark("rose")),
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
        return tr("grey") if lightness > 25 else tr("near black")
    word = next(word for end, word in _SECTORS if hue_deg < end)
    if word in ("scarlet", "orange", "yellow") and chroma < 38.0:
        return tr("brown") if lightness < 62 else tr("buff")
    return tr(word)


def apart_words(away: float) -> str:
    """How far two colours lie apart, as a painter would say it.

    Parameters
    ----------
    away : float, CIEDE2000

    Examples
    --------
    >>> apart_words(0.6), apart_words(3.0), apart_words(20.0)
    ('the same to the eye', 'just visible', 'another colour')
    """
    for limit, words in (
        (1.0, tr("the same to the eye")),
        (2.0, tr("hardly to be seen")),
        (5.0, tr("just visible")),
        (10.0, tr("clearly apart")),
    ):
        if away < limit:
            return words
    return tr("another colour")
