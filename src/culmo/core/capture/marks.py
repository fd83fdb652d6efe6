"""The corner marks of a sheet in a picture: small dark squares that stand alone, four or three of them."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array

_MOST_MARKS = 14
MARK_ERROR = 0.25  # of squares from where they should be, in their sides


@dataclass(frozen=True)
class _Square:
    corners: Array  # (4, 2)
    centre: Array
    area: float


def _dark_squares(grey: Pixels, side_px: float) -> list[_Square]:
    """Small dark squares on a lighter ground."""
    reach = 2 * round(0.6 * side_px) + 1  # at half the size, which is enough for what lies around
    half = cv2.resize(grey, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    half = cv2.blur(cv2.dilate(half, np.ones((reach, reach), np.uint8)), (reach, reach))
    around = cv2.resize(half, (grey.shape[1], grey.shape[0]))
    found: list[_Square] = []
    for share in (0.45, 0.6):
        dark = ((grey < share * around.astype(np.float32)) * 255).astype(np.uint8)
        for contour in cv2.findContours(dark, cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)[0]:
            area = cv2.contourArea(contour)
            if not 0.15 * side_px**2 < area < 3.0 * side_px**2:
                continue
            corners = cv2.approxPolyDP(contour, 0.1 * cv2.arcLength(contour, True), True).reshape(-1, 2)
            if len(corners) != 4 or not cv2.isContourConvex(corners):
                continue
            sides = np.linalg.norm(corners - np.roll(corners, -1, axis=0), axis=1)
            whole = cv2.contourArea(corners.reshape(-1, 1, 2))
            if sides.max() > 2.2 * sides.min() or not 0.75 < area / max(whole, 1e-6) < 1.35:
                continue
            centre = corners.mean(axis=0)
            if _stands_alone(grey, centre, float(np.sqrt(area))) and all(
                np.hypot(*(centre - other.centre)) > 0.3 * side_px for other in found
            ):
                found.append(_Square(corners.astype(float), centre, float(area)))
    found.sort(key=lambda square: abs(np.log(square.area / side_px**2)))
    return found[:_MOST_MARKS]


def _stands_alone(grey: Pixels, centre: Array, side: float) -> bool:
    """Whether there is bare paper all round a square, and darkness within."""
    angle = np.linspace(0, 2 * np.pi, 16, endpoint=False)
    ring = centre + 1.25 * side * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    x = np.clip(np.round(ring[:, 0]).astype(int), 0, grey.shape[1] - 1)
    y = np.clip(np.round(ring[:, 1]).astype(int), 0, grey.shape[0] - 1)
    around = grey[y, x].astype(float)
    within = float(
        grey[int(np.clip(centre[1], 0, grey.shape[0] - 1)), int(np.clip(centre[0], 0, grey.shape[1] - 1))]
    )
    return bool(np.quantile(around, 0.2) > 1.6 * within + 5 and around.min() > 0.55 * np.median(around))


def _mark_corners(mark: tuple[float, float, float]) -> Array:
    x, y, side = mark
    return np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]])


def by_marks(grey: Pixels, sheet: Sheet) -> Iterator[Array]:
    """Homographies from mm to pixels that lay the plan's marks on dark squares, the best first.

    Parameters
    ----------
    grey : (h, w) uint8
    sheet : Sheet
    """
    marks = sheet.marks_mm
    if len(marks) < 3:
        return
    across = max(grey.shape) / max(sheet.paper.width_mm, sheet.paper.height_mm)
    squares: list[_Square] = []
    for share in (0.85, 0.5):
        for square in _dark_squares(grey, marks[0][2] * across * share):
            if all(np.hypot(*(square.centre - other.centre)) > 3 for other in squares):
                squares.append(square)
    want = np.array([[x + side / 2, y + side / 2] for x, y, side in marks])
    found = []
    for count in (4, 3):
        for chosen in combinations(squares[:_MOST_MARKS], count):
            for which in combinations(range(len(marks)), count):
                found += _matches(chosen, [marks[i] for i in which], want[list(which)])
        if found and min(error for error, _ in found) < 0.2:
            break
    for error, homography in sorted(found, key=lambda entry: entry[0])[:4]:
        if error < MARK_ERROR:
            yield homography


def _matches(
    squares: tuple[_Square, ...], marks: list[tuple[float, float, float]], want: Array
) -> list[tuple[float, Array]]:
    """All turns of a choice of squares over the marks; the error is relative to a square's side."""
    centres = np.array([square.centre for square in squares])
    by_angle = np.argsort(np.arctan2(*(centres - centres.mean(axis=0)).T[::-1]))
    want_by_angle = np.argsort(np.arctan2(*(want - want.mean(axis=0)).T[::-1]))
    count, found = len(squares), []
    for turn in range(count):
        order = np.roll(by_angle, turn)
        start = cv2.getAffineTransform(
            want[want_by_angle[:3]].astype(np.float32), centres[order[:3]].astype(np.float32)
        )
        if np.linalg.det(start[:, :2]) <= 0:
            continue
        if count == 4:
            guess = cv2.getPerspectiveTransform(
                want[want_by_angle].astype(np.float32), centres[order].astype(np.float32)
            )
        else:
            guess = np.vstack([start, [0, 0, 1]])
        places, seen = [], []
        for mark_place, square_place in zip(want_by_angle, order, strict=True):
            corners = _mark_corners(marks[mark_place])
            expected = cv2.perspectiveTransform(corners.reshape(-1, 1, 2), guess).reshape(-1, 2)
            square = squares[square_place].corners
            expected = expected + square.mean(axis=0) - expected.mean(axis=0)
            nearest = np.linalg.norm(expected[:, None] - square[None], axis=-1).argmin(axis=1)
            if len(set(nearest.tolist())) < 4:
                break
            places.append(corners)
            seen.append(square[nearest])
        else:
            model, _ = cv2.findHomography(np.concatenate(places), np.concatenate(seen), 0)
            if model is None:
                continue
            back = cv2.perspectiveTransform(np.concatenate(places).reshape(-1, 1, 2), model).reshape(-1, 2)
            side = float(np.sqrt(np.mean([square.area for square in squares])))
            error = float(np.sqrt(((back - np.concatenate(seen)) ** 2).sum(axis=1).mean())) / side
            found.append((error, np.asarray(model, dtype=float)))
    return found
