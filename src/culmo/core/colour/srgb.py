"""sRGB (IEC 61966-2-1) for the screen."""

import re

import numpy as np

from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab
from culmo.core.colour.spectral import DAYLIGHT, Array
from culmo.errors import CulmoError
from culmo.words import tr, with_point

_TO_LINEAR_RGB = np.array(
    [
        [3.2404542, -1.5371385, -0.4985314],
        [-0.9692660, 1.8760108, 0.0415560],
        [0.0556434, -0.2040259, 1.0572252],
    ]
)
_TO_XYZ = np.linalg.inv(_TO_LINEAR_RGB)
# The white of the summed bands differs from the nominal D65 in the fourth digit: scale, so that white is white.
_NOMINAL_WHITE = _TO_XYZ.sum(axis=1)


def linear_srgb_from_lab(lab: Array) -> Array:
    """Linear-light sRGB, not clipped.

    Parameters
    ----------
    lab : (..., 3) float

    Returns
    -------
    (..., 3) float; outside 0..1 where the screen can not show the colour
    """
    xyz = xyz_from_lab(lab) / DAYLIGHT.white * _NOMINAL_WHITE
    return np.asarray(xyz @ _TO_LINEAR_RGB.T)


def encode_srgb(linear: Array) -> Array:
    """The sRGB transfer curve, after clipping to 0..1.

    Parameters
    ----------
    linear : (...) float

    Returns
    -------
    (...) float, 0..1
    """
    linear = np.clip(linear, 0.0, 1.0)
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1.0 / 2.4) - 0.055)


def srgb_from_lab(lab: Array) -> Array:
    """Encoded sRGB, clipped to what the screen can show.

    Parameters
    ----------
    lab : (..., 3) float

    Returns
    -------
    (..., 3) float, 0..1
    """
    return encode_srgb(linear_srgb_from_lab(lab))


def in_srgb(lab: Array, slack: float = 0.004) -> Array:
    """Whether the screen can show the colour.

    Parameters
    ----------
    lab : (..., 3) float
    slack : float, how far outside 0..1 linear light still counts as inside

    Returns
    -------
    (...) bool
    """
    linear = linear_srgb_from_lab(lab)
    return np.asarray(((linear >= -slack) & (linear <= 1.0 + slack)).all(axis=-1))


def lab_from_linear_srgb(linear: Array) -> Array:
    """Inverse of `linear_srgb_from_lab`.

    Parameters
    ----------
    linear : (..., 3) float

    Returns
    -------
    (..., 3) float; float32 where that is given: for pictures, several times as fast
    """
    linear = np.asarray(linear)
    to_white = (_TO_XYZ / _NOMINAL_WHITE[:, None]).T.astype(
        np.float32 if linear.dtype == np.float32 else float
    )
    return lab_from_xyz(linear @ to_white, np.ones(3, dtype=to_white.dtype))


def lab_from_srgb(srgb: Array) -> Array:
    """CIELAB from encoded sRGB.

    Parameters
    ----------
    srgb : (..., 3) float, 0..1

    Returns
    -------
    (..., 3) float
    """
    srgb = np.asarray(srgb, dtype=float)
    linear = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)
    return lab_from_linear_srgb(linear)


def hex_from_lab(lab: Array) -> str:
    """The nearest screen colour as `#rrggbb`.

    Parameters
    ----------
    lab : (3,) float

    Examples
    --------
    >>> hex_from_lab(np.array([100.0, 0.0, 0.0]))
    '#ffffff'
    """
    r, g, b = np.round(srgb_from_lab(lab) * 255.0).astype(int)
    return f"#{r:02x}{g:02x}{b:02x}"


def lab_from_text(text: str) -> Array:
    """A colour typed as `#rrggbb`, `rrggbb` or `L, a, b`; with decimal commas as `L; a; b` or parted by spaces.

    Parameters
    ----------
    text : str

    Returns
    -------
    (3,) float

    Raises
    ------
    CulmoError
        when the text is neither, or the numbers are out of range

    Examples
    --------
    >>> lab_from_text("50, 10, -20").tolist()
    [50.0, 10.0, -20.0]
    >>> lab_from_text("47,5; 10; -20,5").tolist()
    [47.5, 10.0, -20.5]
    """
    word = text.strip()
    if re.fullmatch(r"#?[0-9a-fA-F]{6}", word):
        digits = word.lstrip("#")
        return lab_from_srgb(np.array([int(digits[i : i + 2], 16) / 255.0 for i in (0, 2, 4)]))
    parts = [part for part in re.split(r"[\s,;]+", word) if part]
    for sign in (";", None):
        pieces = [with_point(piece) for piece in word.split(sign)]
        if len(pieces) == 3 and not any("," in piece for piece in pieces):
            parts = pieces
    try:
        values = np.array([float(part) for part in parts])
    except ValueError:
        values = np.array([])
    if len(values) != 3:
        raise CulmoError(tr('"{what}" is not a colour: write it as #5a6b4c or as L, a, b', what=text))
    return check_lab(values)


_LEAST_LAB, _MOST_LAB = np.array([0.0, -128.0, -128.0]), np.array([100.0, 128.0, 128.0])


def within_lab(lab: Array) -> Array:
    """The nearest colours that `check_lab` takes, (..., 3) float, axis by axis."""
    return np.clip(lab, _LEAST_LAB, _MOST_LAB)


def check_lab(lab: Array) -> Array:
    """The colour itself, if a surface can have it.

    Parameters
    ----------
    lab : (3,) float

    Raises
    ------
    CulmoError
        when L is outside 0..100 or a, b outside -128..128, or a value is not finite
    """
    lab = np.asarray(lab, dtype=float)
    if not np.isfinite(lab).all():
        raise CulmoError(tr("a colour needs three finite numbers L, a and b"))
    if not 0.0 <= lab[0] <= 100.0:
        raise CulmoError(tr("L is {lab:g}; lightness lies between 0 and 100", lab=lab[0]))
    if (np.abs(lab[1:]) > 128.0).any():
        raise CulmoError(
            tr("a, b are {lab:g}, {lab2:g}; they lie between -128 and 128", lab=lab[1], lab2=lab[2])
        )
    return lab
