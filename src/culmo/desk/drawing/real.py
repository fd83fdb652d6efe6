"""The real paint as pictures for the screen, print and files."""

from typing import TYPE_CHECKING

import cv2
import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage

from culmo.core.capture.patch_picture import in_colour, pixels_of, size_of
from culmo.core.colour.spectral import Array
from culmo.core.paint.character import Triple

if TYPE_CHECKING:
    from culmo.study.patches import Patch


def real_image(patch: "Patch", lab: Triple, per_mm: float, character: Array | None) -> QImage | None:
    """A patch as a picture, no finer than it is drawn; None where it is damaged.

    Parameters
    ----------
    patch : Patch
    lab : tuple of three float, CIELAB, the cell's colour
    per_mm : float, pixels a millimetre of what is drawn on
    character : (CHARACTER,) float, what its picture does to colours; None where that is not known
    """
    finer = patch.per_mm / per_mm
    shrink = max(step for step in (1, 2, 4, 8) if step <= max(finer, 1.0))
    pixels = pixels_of(patch.data, shrink)
    if pixels is None:
        return None
    if finer / shrink > 1.05:
        rows, columns = pixels.shape[:2]
        size = max(1, round(columns * shrink / finer)), max(1, round(rows * shrink / finer))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    pixels = in_colour(pixels, patch.seen, patch.paper, lab, character)
    height, width = pixels.shape[:2]
    data = np.ascontiguousarray(pixels)
    return QImage(data.data, width, height, 3 * width, QImage.Format.Format_RGB888).convertToFormat(
        QImage.Format.Format_RGB32
    )


def where_it_lies(patch: "Patch", size_mm: tuple[float, float]) -> QRectF:
    """The place of a sound patch, in millimetres from the upper left corner of its cell's box as that is drawn now."""
    across, down = size_mm[0] / patch.size_mm[0], size_mm[1] / patch.size_mm[1]
    size = size_of(patch.data)
    assert size is not None
    width, height = size
    return QRectF(
        patch.left_mm * across,
        patch.top_mm * down,
        width / patch.per_mm * across,
        height / patch.per_mm * down,
    )
