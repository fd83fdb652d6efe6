"""How a dry wash looks from near: what is measured of a patch, and foretold of a mix. docs/texture.md."""

from dataclasses import dataclass
from math import hypot

from culmo.core.paint.character import Triple

# from which on the eye notices it, at arm's length: the deviation of L*, and of a* and b* together
GRANULATES, PARTS = 1.5, 1.5


@dataclass(frozen=True)
class Texture:
    """How a dry wash looks from near.

    Attributes
    ----------
    contrast, contrast_off : float, of L*, the standard deviation of the grain, and how far off that may be (one deviation)
    size_mm : float, the full width at half height of the grain's autocorrelation; 0 where there is no grain to be told of
    parting, parting_off : float, of a* and b* together, the standard deviation within the grain
    axis : tuple of three float, the direction in CIELAB in which the colours of the grain scatter most, lighter first
    length : float, the standard deviation along it
    soft : float, of L*, the standard deviation of what is larger than grain: blooms and drifts
    edge : float, of L*, by which the rim is darker than the middle
    """

    contrast: float
    contrast_off: float
    size_mm: float
    parting: float
    parting_off: float
    axis: Triple
    length: float
    soft: float
    edge: float


def apart_with_texture(away: float, one: tuple[float, float], other: tuple[float, float]) -> float:
    """How unlike two washes look from near, in the units of their colours' difference.

    The distance between two normal distributions whose axes agree adds the squares of what their means and of what their
    deviations differ by (the 2-Wasserstein distance; Dowson and Landau 1982): so do colour, grain and parting here.

    Parameters
    ----------
    away : float, by which their mean colours differ
    one, other : tuples of contrast and parting, CIELAB
    """
    return hypot(away, one[0] - other[0], one[1] - other[1])
