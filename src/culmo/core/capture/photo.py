"""A picture as numbers: its pixels, and how they become light."""

from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab
from culmo.core.colour.spectral import DAYLIGHT, Array

Pixels = NDArray[Any]  # uint8 or uint16 from a picture, float32 on the way

# linear light to XYZ, D65 (IEC 61966-2-1, SMPTE EG 432-1)
SRGB_TO_XYZ = np.array(
    [
        [0.4123908, 0.3575843, 0.1804808],
        [0.2126390, 0.7151687, 0.0721923],
        [0.0193308, 0.1191948, 0.9505322],
    ]
)
P3_TO_XYZ = np.array(
    [
        [0.4865709, 0.2656677, 0.1982173],
        [0.2289746, 0.6917385, 0.0792869],
        [0.0000000, 0.0451134, 1.0439444],
    ]
)


# ITU-R BT.2020
BT2020_TO_XYZ = np.array(
    [
        [0.6369580, 0.1446169, 0.1688810],
        [0.2627002, 0.6779981, 0.0593017],
        [0.0000000, 0.0280727, 1.0609851],
    ]
)


def srgb_curve(levels: int = 256) -> Array:
    """Encoded level to linear light, (levels,) float, 0..1 (IEC 61966-2-1; Display P3 uses the same)."""
    level = np.linspace(0.0, 1.0, levels)
    return np.where(level <= 0.04045, level / 12.92, ((level + 0.055) / 1.055) ** 2.4)


@dataclass(frozen=True)
class Photo:
    """A picture with its colour space.

    Attributes
    ----------
    pixels : (h, w, 3) uint8 or uint16, red, green, blue, upright
    curves : (3, levels) float, from encoded level to linear light, for each channel
    to_xyz : (3, 3) float, linear red, green, blue to XYZ with D65 as white, Y = 1 for the brightest white
    space : str, the name of the colour space
    taken : datetime when it was taken, or None where the picture does not say
    camera : str, what took it and made a picture of it, the same for pictures that are alike in that; empty where it is
        not said
    raw : bool, whether it is a camera's raw file: linear, by the maker's matrix, with no look of the camera's own
    """

    pixels: Pixels
    curves: Array
    to_xyz: Array
    space: str = "sRGB"
    taken: datetime | None = None
    camera: str = ""
    raw: bool = False

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.pixels.shape[1], self.pixels.shape[0]

    @property
    def top(self) -> int:
        """The highest level of a channel."""
        return int(np.iinfo(self.pixels.dtype).max)

    @cached_property
    def _to_d65(self) -> Array:
        """The matrix scaled so that equal amounts of the three are the white of CIELAB as it is used here."""
        return np.asarray((DAYLIGHT.white / self.to_xyz.sum(axis=1))[:, None] * self.to_xyz)

    def linear(self, pixels: Pixels) -> Array:
        """Linear light of encoded pixels.

        Parameters
        ----------
        pixels : (..., 3) uint8 or uint16, as in `pixels`

        Returns
        -------
        (..., 3) float32
        """
        curves = self.curves.astype(np.float32)
        if pixels.dtype == np.uint8 and pixels.ndim == 3 and pixels.size:  # the same, six times as fast
            return np.asarray(cv2.LUT(pixels, np.ascontiguousarray(curves.T[None])))
        return np.stack([curves[i][pixels[..., i]] for i in range(3)], axis=-1)

    def lab(self, linear: Array) -> Array:
        """CIELAB of linear light in this picture's space, (..., 3) float; not clipped."""
        return lab_from_xyz(np.asarray(linear, dtype=float) @ self._to_d65.T)

    def linear_from_lab(self, lab: Array) -> Array:
        """The inverse of `lab`; outside 0..1 where the space can not hold the colour."""
        return np.asarray(xyz_from_lab(lab) @ np.linalg.inv(self._to_d65).T)


def plain_photo(pixels: Pixels, taken: datetime | None = None, wide: bool = False) -> Photo:
    """A picture in sRGB, or in Display P3 where it is wide.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    taken : datetime or None
    wide : bool
    """
    levels = int(np.iinfo(pixels.dtype).max) + 1
    curves = np.tile(srgb_curve(levels), (3, 1))
    return Photo(pixels, curves, P3_TO_XYZ if wide else SRGB_TO_XYZ, "Display P3" if wide else "sRGB", taken)
