"""The typical spectrum of a pigment as what is believed of a paint with its code, before anything was read of it.

Where a pigment absorbs is a matter of its chemistry: a phthalocyanine has its two bands, a cobalt blue its three, an iron
oxide its edge. How deep a masstone is, how clean it is, and how far a maker's own wanders from that is not. So the belief is
a curve through the pigment's bands, at the level that its typical masstone and tint tell, with a spread about it.
"""

import re
from dataclasses import dataclass, field

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM, Array
from culmo.core.paint.basis import ABSORPTION_KNOTS, SCATTERING_KNOTS, coefficients, smooth_covariance
from culmo.core.paint.parameters import K_SLICE, S_SLICE, paint_prior
from culmo.errors import CulmoError
from culmo.words import tr

_FLOOR = 0.012  # of the strongest band: nothing is quite clear anywhere
_ITEM = re.compile(r"([be])\s+(-?[\d.]+)\s+(-?[\d.]+)\s+([\d.]+)")
# the spreads of log K about the curve (a smooth wander, its length in nm, a level, a tilt), and of log S; of an entry of the
# table that is good. Rough ones are told by as much more as their colours are.
_K_SPREAD = (0.55, 60.0, 0.45, 0.25)
_S_SPREAD = (0.2, 120.0, 0.8, 0.25)


@dataclass(frozen=True)
class Belief:
    """What is believed of one paint.

    Attributes
    ----------
    key : str, what it is from; beliefs of one key are the same
    mean : (PER_PAINT,) float
    precision : (PER_PAINT, PER_PAINT) float
    """

    key: str
    mean: Array = field(compare=False, repr=False)
    precision: Array = field(compare=False, repr=False)


def bands_curve(text: str) -> Array:
    """How strongly a pigment absorbs, relative to its strongest band, (36,) float.

    Parameters
    ----------
    text : str, bands and edges with semicolons between: "b CENTRE WIDTH HEIGHT" a bell, "e AT WIDTH HEIGHT" an edge below
        which it absorbs; wavelengths in nm

    Raises
    ------
    CulmoError
        where it is not written so
    """
    curve = np.zeros(len(WAVELENGTH_NM))
    for item in text.split(";"):
        found = _ITEM.fullmatch(item.strip())
        if found is None or float(found[3]) == 0.0:
            raise CulmoError(
                tr('"{what}" is no band: write b or e, a place, a width and a height', what=item)
            )
        at, width, height = (float(number) for number in found.groups()[1:])
        steps = (WAVELENGTH_NM - at) / width
        curve += height * (np.exp(-0.5 * steps**2) if found[1] == "b" else 1.0 / (1.0 + np.exp(steps)))
    return np.asarray(curve / curve.max() + _FLOOR)


def belief_about(key: str, K: Array, S: Array, scale: float = 1.0) -> Belief:
    """What is believed of a paint whose absorption and scattering are typically so.

    Parameters
    ----------
    key : str
    K, S : (36,) float, > 0, per full wash
    scale : float, times as far as the paints of a good entry lie from it
    """
    wander, length, level, tilt = _K_SPREAD
    absorbing = smooth_covariance(ABSORPTION_KNOTS, scale * wander, length, scale * level, scale * tilt)
    wander, length, level, tilt = _S_SPREAD
    scattering = smooth_covariance(SCATTERING_KNOTS, scale * wander, length, scale * level, scale * tilt)
    mean, precision = paint_prior()
    mean[K_SLICE], mean[S_SLICE] = (
        coefficients(np.log(K), ABSORPTION_KNOTS),
        coefficients(np.log(S), SCATTERING_KNOTS),
    )
    precision[K_SLICE, K_SLICE], precision[S_SLICE, S_SLICE] = (
        np.linalg.inv(absorbing),
        np.linalg.inv(scattering),
    )
    return Belief(key, mean, precision)
