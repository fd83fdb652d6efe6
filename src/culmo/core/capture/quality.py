"""What is wrong with a picture before anything is read in it, and what to do: seen on a small copy of it, in a moment."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.colour.spectral import Array
from culmo.words import tr


class PictureFault(StrEnum):
    """Why a picture does not serve well."""

    SMALL = "small"
    DARK = "dark"
    BURNT = "burnt"
    BLURRED = "blurred"
    COLOURLESS = "colourless"


FAULT_WORDS: dict[str, str] = {
    PictureFault.SMALL: tr("the picture is small: go nearer, or take the camera's own file"),
    PictureFault.DARK: tr("the picture is dark: more light, or a longer exposure"),
    PictureFault.BURNT: tr("white is burnt out: a shorter exposure"),
    PictureFault.BLURRED: tr("the picture is blurred: rest the camera on something, and tap on the sheet"),
    PictureFault.COLOURLESS: tr("the picture has no colours: switch the black and white look off"),
}
SIDE = 1000  # pixels of the longer side of the copy that is looked at
_LEAST_SIDE = 900  # of the picture itself
_PAPER_IS = 110  # the level that the brightest tenth must reach
_END = 252  # a level that may have been brighter
_BURNT_SHARE = 0.08
_SHARP = 0.14  # of the contrast, the step that a sharp edge makes from one pixel to the next but one
_GREY = 2.0  # levels, by which the channels of a picture with colours differ


@dataclass(frozen=True)
class QualityLook:
    """A picture as it is judged.

    Attributes
    ----------
    pixels : (h, w, 3) uint8, sRGB, at most SIDE on the longer side
    size : tuple of the width and the height of the picture itself
    """

    pixels: Pixels
    size: tuple[int, int]


def faults(look: QualityLook) -> list[str]:
    """What is wrong with a picture, keys of FAULT_WORDS; the gravest first.

    Parameters
    ----------
    look : QualityLook
    """
    pixels = look.pixels.astype(np.float32)
    light = pixels.max(axis=2)
    # two lights are told when the sheet was found: pale paint looks like tinted paper
    tests = (
        (PictureFault.SMALL, max(look.size) < _LEAST_SIDE),
        (PictureFault.DARK, float(np.quantile(light, 0.9)) < _PAPER_IS),
        (PictureFault.BURNT, float((look.pixels >= _END).all(axis=2).mean()) > _BURNT_SHARE),
        (PictureFault.BLURRED, _sharpness(pixels) < _SHARP),
        (PictureFault.COLOURLESS, float(np.abs(pixels - pixels.mean(axis=2, keepdims=True)).mean()) < _GREY),
    )
    return [key for key, holds in tests if holds]


def _sharpness(pixels: Array) -> float:
    """The steepest steps over two pixels, as a share of the picture's contrast."""
    grey = pixels.mean(axis=2)
    contrast = float(np.quantile(grey, 0.98) - np.quantile(grey, 0.02))
    if contrast < 4.0:
        return 0.0
    across, down = np.abs(grey[:, 2:] - grey[:, :-2]), np.abs(grey[2:] - grey[:-2])
    return float(max(np.quantile(across, 0.99), np.quantile(down, 0.99)) / contrast)
