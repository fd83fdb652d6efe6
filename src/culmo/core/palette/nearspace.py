"""A space in which plain distance is nearly CIEDE2000, so that trees and grids can look for near colours."""

import numpy as np

from culmo.core.colour.spectral import Array

_L_GRID = np.linspace(-10.0, 110.0, 2401)
_S_L = 1.0 + 0.015 * (_L_GRID - 50.0) ** 2 / np.sqrt(20.0 + (_L_GRID - 50.0) ** 2)
_STEP = _L_GRID[1] - _L_GRID[0]
# the integral of dL / S_L by the trapezoidal rule, 0 at L = 50
_ALONG = np.concatenate([[0.0], np.cumsum(0.5 * _STEP * (1.0 / _S_L[1:] + 1.0 / _S_L[:-1]))])
_ALONG -= np.interp(50.0, _L_GRID, _ALONG)
_CHROMA_SLOPE = 0.045  # S_C = 1 + 0.045 C in CIEDE2000


def near_from_lab(lab: Array) -> Array:
    """CIELAB to the near space: lightness is the integral of dL / S_L, chroma that of dC / S_C, hue stays.

    Parameters
    ----------
    lab : (..., 3) float, CIELAB

    Returns
    -------
    (..., 3) float of the same kind; plain distance there follows CIEDE2000 with a scatter of about a tenth.
    Source: the weighting functions of Sharma, Wu and Dalal 2005, integrated.
    """
    lab = np.asarray(lab)
    near = np.empty_like(lab, dtype=lab.dtype if lab.dtype.kind == "f" else float)
    # the grid is even: its place is reckoned, which is faster than looking for it
    at = (np.clip(lab[..., 0], _L_GRID[0], _L_GRID[-2]) - near.dtype.type(_L_GRID[0])) * near.dtype.type(
        1.0 / _STEP
    )
    low = at.astype(np.int32)
    table = _ALONG.astype(near.dtype)
    near[..., 0] = table[low] + (at - low) * (table[low + 1] - table[low])
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    # towards grey the mapped chroma is the chroma itself
    scale = np.where(
        chroma > 1e-6, np.log1p(_CHROMA_SLOPE * chroma) / (_CHROMA_SLOPE * np.maximum(chroma, 1e-6)), 1.0
    )
    near[..., 1] = lab[..., 1] * scale
    near[..., 2] = lab[..., 2] * scale
    return near
