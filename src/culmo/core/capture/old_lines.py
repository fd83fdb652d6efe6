"""What a picture shows along lines that are laid over an old chart, and beside its rows and columns."""

from collections.abc import Callable

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.capture.placement import Placement
from culmo.core.chart.old import NEAR_STEPS, OldChart, beside_mm, homography, line_mm
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array

_GAPPED = 0.06
_BLUR = 1.2


def placement_of(chart: OldChart, sheet: Sheet, scale: float) -> Placement:
    """Where the sheet of an old chart lies in the whole picture.

    Parameters
    ----------
    chart : OldChart, in pixels of the picture on view
    sheet : Sheet, as `old_sheet` gives it
    scale : float, pixels of the picture on view for one of the whole picture
    """
    shown = homography(chart)
    grow = np.array([[1 / scale, 0, 0.5 / scale - 0.5], [0, 1 / scale, 0.5 / scale - 0.5], [0, 0, 1]])
    box = (0.0, 0.0, sheet.paper.width_mm, sheet.paper.height_mm)
    return Placement(grow @ shown, np.zeros((0, 2)), box)


def to_pixels(chart: OldChart, places_mm: Array) -> Array:
    """Places of the chart in the picture, (..., 2) float."""
    flat = np.asarray(places_mm, dtype=float).reshape(-1, 1, 2)
    return np.asarray(cv2.perspectiveTransform(flat, homography(chart)).reshape(np.shape(places_mm)))


def to_mm(chart: OldChart, pixel: Array) -> Array:
    """A pixel's place on the chart, (2,) float, mm."""
    back = np.linalg.inv(homography(chart))
    return np.asarray(cv2.perspectiveTransform(np.asarray(pixel, dtype=float).reshape(1, 1, 2), back)[0, 0])


def edges(pixels: Pixels, chart: OldChart) -> Callable[[bool, Array], Array]:
    """How sharply a picture changes along the lines of a chart; see `culmo.core.chart.old.snapped`.

    Where there is bare paper between the cells, a line belongs into the middle of it: there it is the lightness that counts.

    Parameters
    ----------
    pixels : (h, w, 3) uint8, in whose pixels the chart lies
    chart : OldChart
    """
    level = np.log(cv2.GaussianBlur(pixels, (0, 0), _BLUR).astype(np.float32) / 255.0 + 0.05)

    def seen(down: bool, share: float) -> Array:
        at = to_pixels(chart, line_mm(chart, down, share)).astype(np.float32)
        found = cv2.remap(
            level, at[None, :, 0], at[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        return np.asarray(found[0], dtype=float)

    def along(down: bool, shares: Array) -> Array:
        if chart.gap > _GAPPED:
            light = np.array([seen(down, share).mean(axis=1) for share in shares])
            light = cv2.blur(light, (1, 5), borderType=cv2.BORDER_REPLICATE)
            return np.asarray(np.maximum(light - np.median(light, axis=0), 0.0) + 1e-4)
        near = NEAR_STEPS * float(shares[1] - shares[0])
        step = [np.abs(seen(down, share + near) - seen(down, share - near)).max(axis=1) for share in shares]
        return np.asarray(np.minimum(np.array(step), 0.6))

    return along


def written_beside(pixels: Pixels, chart: OldChart, down: bool, place: int, size: tuple[int, int]) -> Pixels:
    """What is written beside a row, or above a column, seen straight on, (h, w, 3) uint8.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    chart : OldChart
    down : bool, whether it is a row
    place : int, of the row or column
    size : tuple of width and height in pixels
    """
    box = beside_mm(chart, down, place, size[0] / size[1])
    wide, high = box[1, 0] - box[0, 0], box[3, 1] - box[0, 1]
    to_box = np.array([[wide / size[0], 0, box[0, 0]], [0, high / size[1], box[0, 1]], [0, 0, 1]])
    return cv2.warpPerspective(
        pixels, homography(chart) @ to_box, size,
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_CONSTANT, borderValue=(230, 230, 230),
    )  # fmt: skip
