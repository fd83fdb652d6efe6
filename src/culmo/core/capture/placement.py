"""Where a sheet's millimetres fall in a picture, and how that is made exact on the sheet's own edges."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe

EDGE_MM = 2.0  # how far apart the places lie at which an edge is looked for
_SKIP_MM = 1.6  # corners say nothing of a direction
_ENOUGH_POINTS = 2400


@dataclass(frozen=True)
class Placement:
    """The way from the sheet to the picture: a bend of the paper, then the perspective of the camera.

    Attributes
    ----------
    homography : (3, 3) float, from mm to pixels
    bend : (k, 2) float, polynomial coefficients of the bend in mm; k is 0, 6 or 10
    box_mm : tuple of x, y, width, height, over which the bend's coordinates run from -1 to 1
    """

    homography: Array
    bend: Array
    box_mm: tuple[float, float, float, float]

    def to_pixels(self, points_mm: Array) -> Array:
        """Points of the sheet in the picture, (..., 2) float."""
        points = np.asarray(points_mm, dtype=float)
        if len(self.bend):
            points = points + bend_terms(points, self.box_mm, len(self.bend)) @ self.bend
        flat = cv2.perspectiveTransform(points.reshape(-1, 1, 2), self.homography)
        return np.asarray(flat.reshape(points.shape))

    def moved(self, x_mm: float, y_mm: float) -> "Placement":
        """The same a little further right and down on the sheet."""
        shift = np.array([[1.0, 0.0, x_mm], [0.0, 1.0, y_mm], [0.0, 0.0, 1.0]])
        return replace(self, homography=self.homography @ shift)

    @property
    def scale(self) -> float:
        """Pixels per millimetre about the middle."""
        x, y, w, h = self.box_mm
        middle = np.array([x + w / 2, y + h / 2])
        a, b, c = self.to_pixels(middle + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
        return float(np.sqrt(abs(np.linalg.det(np.array([b - a, c - a])))))


def bend_terms(points_mm: Array, box_mm: tuple[float, float, float, float], count: int) -> Array:
    """The polynomials of the bend, (..., count) float.

    Parameters
    ----------
    points_mm : (..., 2) float
    box_mm : tuple of x, y, width, height
    count : int, 6 up to squares, 10 up to cubes
    """
    x, y, w, h = box_mm
    u, v = 2 * (points_mm[..., 0] - x) / w - 1, 2 * (points_mm[..., 1] - y) / h - 1
    terms = [np.ones_like(u), u, v, u * u, u * v, v * v, u**3, u * u * v, u * v * v, v**3]
    return np.stack(terms[:count], axis=-1)


def from_corners(sheet: Sheet, corners: Array) -> Placement:
    """The placement that the four corners of the frame give.

    Parameters
    ----------
    sheet : Sheet
    corners : (4, 2) float, pixels, clockwise from the top left
    """
    x, y, w, h = sheet.frame_mm
    frame = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], dtype=np.float32)
    way = cv2.getPerspectiveTransform(frame, np.asarray(corners, dtype=np.float32))
    return plain(sheet, np.asarray(way, dtype=float))


def plain(sheet: Sheet, homography: Array) -> Placement:
    """A placement without a bend."""
    box = (0.0, 0.0, sheet.paper.width_mm, sheet.paper.height_mm)
    return Placement(np.asarray(homography, dtype=float), np.zeros((0, 2)), box)


def flatten(
    pixels: Pixels,
    placement: Placement,
    per_mm: float,
    box_mm: tuple[float, float, float, float] | None = None,
) -> Pixels:
    """The sheet seen straight from above.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    placement : Placement
    per_mm : float, pixels per millimetre of the result
    box_mm : tuple of x, y, width, height, of which part of the sheet; all of it by default

    Returns
    -------
    (h, w, 3) as the pixels; where the picture does not reach, its nearest edge
    """
    x, y, w, h = (0.0, 0.0, *placement.box_mm[2:]) if box_mm is None else box_mm
    width, height = max(1, round(w * per_mm)), max(1, round(h * per_mm))
    step = 8
    columns, rows = np.arange(0, width + step, step), np.arange(0, height + step, step)
    places = np.stack(np.meshgrid(columns + 0.5, rows + 0.5), axis=-1) / per_mm + [x, y]
    at = placement.to_pixels(places)
    begin = np.zeros(2)
    if box_mm is not None:  # of a part no more is touched than it takes
        whole = np.array(pixels.shape[1::-1])
        low, high = at.min(axis=(0, 1)) - 2.0, at.max(axis=(0, 1)) + 3.0
        begin = np.clip(np.floor(low), 0, whole - 1).astype(int)
        end = np.clip(np.ceil(high), begin + 1, whole).astype(int)
        pixels = pixels[begin[1] : end[1], begin[0] : end[0]]
    shrink = max(1, int(placement.scale / per_mm + 0.35))
    if shrink > 1 and min(pixels.shape[:2]) >= shrink:
        size = (pixels.shape[1] // shrink, pixels.shape[0] // shrink)
        pixels = cv2.resize(
            pixels[: size[1] * shrink, : size[0] * shrink], size, interpolation=cv2.INTER_AREA
        )
    else:
        shrink = 1
    coarse = ((at - begin + 0.5) / shrink - 0.5).astype(np.float32)
    grow = np.array([[step, 0, 0], [0, step, 0]], dtype=float)
    where = [
        cv2.warpAffine(np.ascontiguousarray(coarse[..., i]), grow, (width, height), flags=cv2.INTER_LINEAR)
        for i in range(2)
    ]
    return np.asarray(
        cv2.remap(pixels, where[0], where[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    )


@dataclass(frozen=True)
class EdgePoints:
    """Places on the outlines of cells, and as many well inside them.

    Attributes
    ----------
    at : (n, 2) float, mm
    normal : (n, 2) float, unit vectors across the edge
    inside : (n, k, 2) float, mm, from each place a row of places towards the middle, where no edge should be
    """

    at: Array
    normal: Array
    inside: Array


@lru_cache(maxsize=4)
def edge_points(cells: tuple[Cell, ...]) -> EdgePoints:
    """Where the outlines of cells are looked for."""
    at, normal, inside = [], [], []
    inwards = np.linspace(0.2, 0.95, 14)
    for cell in cells:
        points = np.array(cell.outline_mm)
        middle = points.mean(axis=0)
        for start, end in zip(points, np.roll(points, -1, axis=0), strict=True):
            run = end - start
            length = float(np.hypot(*run))
            if length < 1e-6:
                continue
            across = np.array([-run[1], run[0]]) / length
            if length <= 2 * _SKIP_MM:  # the short pieces of a round outline
                along = np.array([0.5])
            else:
                count = max(1, int((length - 2 * _SKIP_MM) / EDGE_MM))
                along = np.linspace(_SKIP_MM / length, 1 - _SKIP_MM / length, count + 1)
            places = start + along[:, None] * run
            at.append(places)
            normal.append(np.broadcast_to(across, places.shape))
            inside.append(places[:, None] + inwards[None, :, None] * (middle - places)[:, None])
    some = slice(None, None, 1 + sum(map(len, at)) // _ENOUGH_POINTS)
    return EdgePoints(*(np.concatenate(parts)[some] for parts in (at, normal, inside)))


def edges_of(sheet: Sheet) -> EdgePoints:
    """Where the outlines of a sheet's cells, and of its bars, are looked for."""
    bars = (
        Cell(f"bar {number}", ((x, y), (x + w, y), (x + w, y + h), (x, y + h)), Recipe())
        for number, (x, y, w, h) in enumerate(sheet.bars_mm, 1)
    )
    return edge_points((*sheet.cells, *bars))


class EdgeField:
    """How sharply the colour changes in each direction, on a flattened picture."""

    def __init__(self, flat: Pixels, per_mm: float) -> None:
        # the logarithm, so that an edge in the shade counts as one in the light
        if flat.dtype == np.uint16:
            flat = (flat >> 8).astype(np.uint8)
        level = cv2.LUT(flat, np.log(np.arange(256, dtype=np.float32) / 255.0 + 0.06))
        level = cv2.GaussianBlur(level, (0, 0), max(0.7, 0.3 * per_mm))
        dx = cv2.Sobel(level, cv2.CV_32F, 1, 0, ksize=3)
        dy = cv2.Sobel(level, cv2.CV_32F, 0, 1, ksize=3)
        self.per_mm = per_mm
        every = np.ones((1, 3), dtype=np.float32)  # OpenCV's sum of channels is far quicker than NumPy's
        self._tensor = [cv2.transform(part, every) for part in (dx * dx, dx * dy, dy * dy)]

    def along(self, at: Array, normal: Array, offsets_mm: Array) -> Array:
        """The change across an edge at offsets from places, (n, k) float.

        Parameters
        ----------
        at, normal : (n, 2) float, mm
        offsets_mm : (k,) float
        """
        return self.across(at[:, None, :] + offsets_mm[None, :, None] * normal[:, None, :], normal)

    def across(self, places: Array, normal: Array) -> Array:
        """The change in a direction at rows of places, (n, k) float.

        Parameters
        ----------
        places : (n, k, 2) float, mm
        normal : (n, 2) float, a unit vector for each row
        """
        x = (places[..., 0] * self.per_mm - 0.5).astype(np.float32)
        y = (places[..., 1] * self.per_mm - 0.5).astype(np.float32)
        xx, xy, yy = (cv2.remap(part, x, y, cv2.INTER_LINEAR) for part in self._tensor)
        nx, ny = normal[:, :1], normal[:, 1:]
        return np.sqrt(np.maximum(nx * nx * xx + 2 * nx * ny * xy + ny * ny * yy, 0.0))


@dataclass(frozen=True)
class PlacementFit:
    """A placement and how well the picture bears it out.

    Attributes
    ----------
    placement : Placement
    support : float, 0..1, the share of the outline at which there is an edge
    strays : float, 0..1, the share of the cells' insides that an edge runs through
    contrast : float, how much sharper the outlines are than the insides of the cells; about 1 by chance
    off_mm : float, the typical distance of the edges from the outline
    """

    placement: Placement
    support: float
    strays: float
    contrast: float
    off_mm: float

    @property
    def score(self) -> float:
        """To choose among several by."""
        return (self.support**4 - 0.5 * self.strays) * min(self.contrast, 12.0)


def refine(
    pixels: Pixels,
    placement: Placement,
    points: EdgePoints,
    reaches_mm: Sequence[float],
    per_mm: float,
    terms: int,
) -> PlacementFit:
    """Move a placement onto the edges in the picture.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    placement : Placement, near the truth
    points : EdgePoints
    reaches_mm : sequence of float, how far to look from the outline, step by step
    per_mm : float, pixels per millimetre to look at
    terms : int, 6 or 10, terms of the bend
    """
    field = EdgeField(flatten(pixels, placement, per_mm), per_mm)
    box = placement.box_mm
    moved: Array = np.zeros((terms, 2))
    basis = bend_terms(points.at, box, terms)
    ridge = np.array([0.0, 0.0, 0.0] + [1e-3] * 3 + [4e-3] * 4)[:terms] * len(points.at)
    for reach in reaches_mm:
        for _ in range(3):
            moved = _step(field, points, basis, moved, reach, ridge)
    return _judge(field, points, basis @ moved, _with_bend(placement, moved))


def _with_bend(placement: Placement, moved: Array) -> Placement:
    if not len(placement.bend):
        return replace(placement, bend=moved)
    bend = np.zeros((max(len(moved), len(placement.bend)), 2))
    bend[: len(moved)] += moved
    bend[: len(placement.bend)] += placement.bend
    return replace(placement, bend=bend)


def _step(
    field: EdgeField, points: EdgePoints, basis: Array, moved: Array, reach: float, ridge: Array
) -> Array:
    offsets = np.linspace(-reach, reach, 2 * max(3, round(reach * field.per_mm)) + 1)
    profile = field.along(points.at + basis @ moved, points.normal, offsets)
    profile = profile * (1.0 - 0.4 * np.abs(offsets) / reach)
    best = profile.argmax(axis=1)
    peak = profile[np.arange(len(best)), best]
    weight = np.clip(peak / np.maximum(np.median(profile, axis=1), 1e-6) - 1.5, 0.0, 3.0)
    weight *= np.minimum(peak, np.quantile(peak, 0.8)) / max(float(np.quantile(peak, 0.8)), 1e-9)
    found = offsets[best] + (basis @ moved * points.normal).sum(axis=1)
    rows = np.concatenate([basis * points.normal[:, :1], basis * points.normal[:, 1:]], axis=1)
    solution = np.concatenate([moved[:, 0], moved[:, 1]])
    for _ in range(4):
        left = found - rows @ solution
        scale = max(1.5 * float(np.median(np.abs(left[weight > 0]))) if (weight > 0).any() else 1.0, 0.15)
        robust = weight / (1.0 + (left / scale) ** 2) ** 2
        normal = rows.T @ (robust[:, None] * rows) + np.diag(np.tile(ridge, 2) + 1e-6)
        solution = np.linalg.solve(normal, rows.T @ (robust * found))
    half = len(moved)
    return np.stack([solution[:half], solution[half:]], axis=1)


def _judge(field: EdgeField, points: EdgePoints, shift: Array, placement: Placement) -> PlacementFit:
    near = np.linspace(-1.0, 1.0, 11)
    on_edge = field.along(points.at + shift, points.normal, near)
    inside = field.across(points.inside + shift[:, None], points.normal)
    noise = float(np.median(inside))
    peak = on_edge.max(axis=1)
    strong = peak > 3.0 * noise + 1e-3
    usual = float(np.median(peak[strong])) if strong.any() else float("inf")
    off = near[on_edge.argmax(axis=1)][strong]
    level = max(float(np.mean(np.minimum(inside, 2.0))), 1e-4)
    return PlacementFit(
        placement,
        support=float(strong.mean()),
        strays=float((inside.max(axis=1) > 0.6 * usual).mean()),
        contrast=float(np.mean(np.minimum(peak, 2.0))) / level,
        off_mm=float(np.median(np.abs(off))) if len(off) else 9.0,
    )
