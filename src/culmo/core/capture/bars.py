"""Black bars in a picture, by which a strip is found."""

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array

_THICKNESS = 0.45, 2.2  # of what was planned
_FILLED = 0.64
_MOST_BARS = 6


def find_bars(
    flat: Pixels, length: float, thickness: float, slack: tuple[float, float] = (0.85, 1.15)
) -> list[Array]:
    """Dark bars with something lighter about them, the likeliest first, each both ways round.

    Parameters
    ----------
    flat : (h, w, 3) uint8
    length, thickness : float, pixels
    slack : tuple of two float, between which a bar's length against that may lie

    Returns
    -------
    list of (2, 2) float, pixels, the middles of its ends
    """
    grey = cv2.cvtColor(flat, cv2.COLOR_RGB2GRAY)
    reach = 2 * round(1.5 * thickness) + 1
    around = cv2.blur(cv2.dilate(grey, np.ones((reach, reach), np.uint8)), (reach, reach))
    found: list[tuple[float, Array, Array]] = []
    for share in (0.4, 0.55, 0.3):
        dark = (grey < share * around.astype(np.float32)).astype(np.uint8)
        for contour in cv2.findContours(dark, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)[0]:
            if len(contour) < slack[0] * length:
                continue
            middle, sides, _ = cv2.minAreaRect(contour)
            long, thick = max(sides), max(min(sides), 1.0)
            if not (slack[0] < long / length < slack[1] and thick / thickness < _THICKNESS[1]):
                continue
            area = cv2.contourArea(contour)
            if thick < _THICKNESS[0] * thickness or area < _FILLED * long * thick:
                continue
            points = contour.reshape(-1, 2) - np.array(middle)
            along = np.linalg.svd(points, full_matrices=False)[2][0]
            reaches = np.quantile(points @ along, [0.01, 0.99])
            one, other = (np.array(middle) + end * along for end in reaches)
            off = abs(np.log(long / length)) + 0.3 * abs(np.log(thick / thickness))
            if all(min(np.abs(one - a).max(), np.abs(one - b).max()) > thickness for _, a, b in found):
                found.append((off, one, other))
    found.sort(key=lambda entry: entry[0])
    return [np.array(way) for _, one, other in found[:_MOST_BARS] for way in ((one, other), (other, one))]


def ends_of(sheet: Sheet) -> Array:
    """The middles of the ends of a sheet's first bar, (2, 2) float, mm."""
    x, y, width, height = sheet.bars_mm[0]
    return np.array([[x, y + height / 2.0], [x + width, y + height / 2.0]])


def laid(planned: Array, seen: Array, short: float = 1.0) -> Array:
    """The move, turn and scale that lay two points on two others, (3, 3) float.

    Parameters
    ----------
    planned : (2, 2) float, mm, level
    seen : (2, 2) float, pixels
    short : float, how much shorter than along them lengths across them are
    """
    from_way, to_way = planned[1] - planned[0], seen[1] - seen[0]
    turn = complex(*to_way) / complex(*from_way)
    matrix = np.array([[turn.real, -turn.imag, 0.0], [turn.imag, turn.real, 0.0], [0.0, 0.0, 1.0]])
    matrix[:2, 1] *= short
    matrix[:2, 2] = seen[0] - matrix[:2, :2] @ planned[0]
    return matrix
