"""Orders in which paints lie in a box: by hue, by lightness, from warm to cool."""

import numpy as np

from culmo.core.colour.spectral import Array, Flags
from culmo.core.palette.mixer import MIDDLE_AT, chroma_of, hue_apart, hue_of
from culmo.words import mark

ORDERS = (mark("hue"), mark("lightness"), mark("warm to cool"))
# a middle wash of less chroma is laid with the greys; earths come between them and the clear colours
_GREY, _EARTH = 9.0, 33.0
# the hue circle is cut between green-yellow and yellow, so that a row begins with the cool yellow
_CUT_DEG = 112.0
_WARMEST_DEG = 50.0


def arrange(order: str, alone: Array) -> list[int]:
    """The places of paints in an order.

    By hue the clear colours come first, from cool yellow over red, violet and blue to green; then the earths in the
    same sense, then greys and blacks from light to dark. The middle wash decides, since a strong masstone is too
    dark to show its hue.

    Parameters
    ----------
    order : str, one of ORDERS
    alone : (n, washes, 3) float, CIELAB of the paints alone at PAIR_WASHES

    Returns
    -------
    list of n int
    """
    middle = alone[:, MIDDLE_AT]
    lightness, chroma, hue = middle[:, 0], chroma_of(middle), hue_of(middle)
    if order == "lightness":
        return [int(i) for i in np.lexsort((hue, -alone[:, 0, 0]))]
    if order == "warm to cool":
        from_warm = hue_apart(hue, np.array(_WARMEST_DEG))
        return [int(i) for i in np.lexsort((-lightness, np.where(chroma < _GREY, 400.0, from_warm)))]
    group = np.where(chroma < _GREY, 2, np.where(_dull(middle, chroma, hue), 1, 0))
    along = np.where(group == 2, -lightness, (_CUT_DEG - hue) % 360.0)
    return [int(i) for i in np.lexsort((along, group))]


def _dull(middle: Array, chroma: Array, hue: Array) -> Flags:
    """Earths: yellow to red and little chroma for their lightness; a green or blue of that chroma is clear enough."""
    warm = (hue < 100.0) | (hue > 345.0)
    return np.asarray(chroma < np.where(warm, _EARTH + 0.25 * np.clip(middle[:, 0] - 40.0, 0.0, 60.0), 16.0))
