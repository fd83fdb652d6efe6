"""Where the paper, or the painted block on it, may lie in a picture: four corners each, found in several ways.

Not one of the ways holds for all tables and lights: paper and table are parted at several levels of several views of the
picture, and the long straight lines of it are put together to oblongs. A side is fitted to the many points of an
outline that lie on one line, so that tape, a torn corner or a table as light as the paper spoil one side at most.
"""

from collections.abc import Iterator
from itertools import combinations

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.colour.spectral import Array, Flags

WORK_PX = 600  # the longer side at which it is looked
_LEAST_AREA, _MOST_AREA = 0.06, 0.985  # of the picture
_OFF_LINE = 2.0  # pixels at which a point of an outline lies on its side
_LINES = 14


def shrunk(pixels: Pixels) -> tuple[Pixels, float]:
    """The picture at the size at which outlines are looked for, and its scale."""
    scale = min(1.0, WORK_PX / max(pixels.shape[:2]))
    if scale == 1.0:
        return pixels, 1.0
    size = (round(pixels.shape[1] * scale), round(pixels.shape[0] * scale))
    return cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), scale


def paper_corners(pixels: Pixels, aspect: float) -> Iterator[Array]:
    """Corners that the paper may have, the likelier ones first.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    aspect : float, the paper's longer side against its shorter

    Yields
    ------
    (4, 2) float, pixels, clockwise as seen
    """
    small, scale = shrunk(pixels)
    kept: list[Array] = []
    for corners in _unlike(_of_masks(small, aspect), kept):
        yield (corners + 0.5) / scale - 0.5
    for corners in _unlike(_of_lines(small, aspect), kept):
        yield (corners + 0.5) / scale - 0.5


def _unlike(found: Iterator[Array], kept: list[Array]) -> Iterator[Array]:
    """Without those that lie as others do."""
    for corners in found:
        if all(np.abs(corners - other).max() > 5.0 for other in kept):
            kept.append(corners)
            yield corners


def _views(small: Pixels) -> Iterator[Pixels]:
    """The picture as brightness and by its least channel, as it is and with the light made even, 8 bits."""
    soft = cv2.GaussianBlur(small, (0, 0), 1.2)
    reach = 2 * (min(small.shape[:2]) // 5) + 1
    for plain in (cv2.cvtColor(soft, cv2.COLOR_RGB2GRAY), soft.min(axis=2)):
        closed = cv2.morphologyEx(plain, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
        yield closed
        light = cv2.blur(cv2.dilate(closed, np.ones((reach, reach), np.uint8)), (reach, reach))
        even = closed.astype(np.float32) * (235.0 / np.maximum(light.astype(np.float32), 8.0))
        yield np.clip(even, 0, 255).astype(np.uint8)


def _levels(view: Pixels) -> list[float]:
    """Where to part paper from the rest: in two classes, and in two within the lighter and the darker one."""
    first, _ = cv2.threshold(view, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    found = [float(first)]
    for part in (view[view > first], view[view <= first]):
        if len(part) > 500:
            level, _ = cv2.threshold(part.reshape(1, -1), 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
            found.append(float(level))
    return found


def _of_masks(small: Pixels, aspect: float) -> Iterator[Array]:
    for view in _views(small):
        for level in _levels(view):
            mask: Pixels = (view > level).astype(np.uint8)
            mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
            contours = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
            for contour in sorted(contours, key=cv2.contourArea, reverse=True)[:2]:
                hull = cv2.convexHull(contour)
                if _LEAST_AREA * mask.size < cv2.contourArea(hull) < _MOST_AREA * mask.size:
                    yield from _oblongs(contour.reshape(-1, 2).astype(float), hull, mask.shape, aspect)


def _oblongs(outline: Array, hull: Pixels, shape: tuple[int, ...], aspect: float) -> Iterator[Array]:
    """The oblongs that an outline may belong to: by its sides, by three of them, as it is."""
    rough = four_corners(hull)
    sides = [_side(outline, rough[i], rough[(i + 1) % 4], shape) for i in range(4)]
    known = [i for i in range(4) if sides[i] is not None]
    if len(known) == 4:
        corners = _meeting(sides, shape)
        if corners is not None:
            yield corners
    for lost in known if len(known) == 4 else [i for i in range(4) if i not in known][: len(known) // 3]:
        # a side that the picture does not show, or shows wrongly, lies where the paper's shape puts it
        yield from _three_sides(sides, lost, aspect, shape)
    yield rough


def four_corners(hull: Pixels) -> Array:
    """The four corners of a hull, clockwise from the one nearest the top left, (4, 2) float."""
    length = cv2.arcLength(hull, True)
    for share in np.linspace(0.005, 0.12, 40):
        corners = cv2.approxPolyDP(hull, share * length, True).reshape(-1, 2)
        if len(corners) == 4:
            return clockwise(corners.astype(float))
        if len(corners) < 4:
            break
    return clockwise(cv2.boxPoints(cv2.minAreaRect(hull)).astype(float))


def clockwise(corners: Array) -> Array:
    """Corners clockwise as they are seen, from the one nearest the top left."""
    middle = corners.mean(axis=0)
    corners = corners[np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))]
    return np.roll(corners, -int(corners.sum(axis=1).argmin()), axis=0)


def _side(outline: Array, start: Array, end: Array, shape: tuple[int, ...]) -> tuple[Array, Array] | None:
    """The line that most of an outline between two corners lies on: a point and a direction."""
    way = end - start
    length = float(np.hypot(*way))
    if length < 20:
        return None
    along = (outline - start) @ way / length**2
    off = np.abs((outline - start) @ np.array([-way[1], way[0]])) / length
    size = np.array(shape[1::-1])
    inside = ((outline > 2) & (outline < size - 3)).all(axis=1)  # the picture's edge is no edge of the paper
    own = outline[(along > 0.02) & (along < 0.98) & (off < 0.2 * length) & inside]
    if len(own) < 0.25 * length:
        return None
    rng = np.random.default_rng(3)
    best, most = None, 0
    for _ in range(60):
        one, other = own[rng.integers(len(own), size=2)]
        run = other - one
        if np.hypot(*run) < 0.15 * length:
            continue
        across = np.array([-run[1], run[0]]) / np.hypot(*run)
        near = np.abs((own - one) @ across) < _OFF_LINE
        if near.sum() > most:
            best, most = near, int(near.sum())
    if best is None or most < 0.2 * length:
        return None
    middle = own[best].mean(axis=0)
    return middle, np.linalg.svd(own[best] - middle, full_matrices=False)[2][0]


def _cross(one: tuple[Array, Array], other: tuple[Array, Array]) -> Array | None:
    across = np.column_stack([one[1], -other[1]])
    if abs(np.linalg.det(across)) < 0.2:
        return None
    return np.asarray(one[0] + one[1] * np.linalg.solve(across, other[0] - one[0])[0])


def _meeting(sides: list[tuple[Array, Array] | None], shape: tuple[int, ...]) -> Array | None:
    """The corners at which four sides meet; corner i lies between the sides i - 1 and i."""
    found = []
    for i in range(4):
        before, here = sides[i - 1], sides[i]
        corner = _cross(before, here) if before is not None and here is not None else None
        if corner is None:
            return None
        found.append(corner)
    return clockwise(np.array(found)) if _fits(np.array(found), shape) else None


def _fits(corners: Array, shape: tuple[int, ...]) -> bool:
    size = np.array(shape[1::-1])
    return bool((corners > -0.6 * size).all() and (corners < 1.6 * size).all())


def _three_sides(
    sides: list[tuple[Array, Array] | None], lost: int, aspect: float, shape: tuple[int, ...]
) -> Iterator[Array]:
    """The oblong of three sides and a shape, for either way it may lie."""
    opposite = sides[(lost + 2) % 4]
    left, right = sides[(lost + 1) % 4], sides[(lost + 3) % 4]
    if opposite is None or left is None or right is None:
        return
    one, other = _cross(left, opposite), _cross(right, opposite)
    if one is None or other is None:
        return
    width = float(np.hypot(*(one - other)))
    inward = np.array([other[1] - one[1], one[0] - other[0]]) / max(width, 1e-6)
    middle = np.array(shape[1::-1]) / 2.0
    inward = inward * (np.sign(inward @ (middle - one)) or 1.0)
    ends = [way * np.sign(way @ inward) for way in (left[1], right[1])]
    for length in (width * aspect, width / aspect):
        corners = np.array([one, other, other + ends[1] * length, one + ends[0] * length])
        if _fits(corners, shape):
            yield clockwise(corners)


# ---- lines


def _of_lines(small: Pixels, aspect: float) -> Iterator[Array]:
    """Oblongs made of the long straight lines of a picture, those with the most line on their sides first."""
    grey = cv2.GaussianBlur(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), (0, 0), 1.2)
    slope = float(np.median(np.abs(cv2.Laplacian(grey, cv2.CV_32F)))) + 2.0
    edges = cv2.Canny(grey, 4.0 * slope, 10.0 * slope)
    longest = max(grey.shape)
    found = cv2.HoughLinesP(edges, 1, np.pi / 360, 40, None, 0.12 * longest, 0.02 * longest)
    if found is None:
        return
    lines = _joined(found.reshape(-1, 4).astype(float), longest)
    away = cv2.distanceTransform(255 - cv2.dilate(edges, np.ones((2, 2), np.uint8)), cv2.DIST_L2, 3)
    ranked = []
    pairs = [
        pair
        for pair in combinations(range(len(lines)), 2)
        if abs(_turn(lines[pair[0]], lines[pair[1]])) < 25.0
    ]
    for one, other in combinations(pairs, 2):
        if set(one) & set(other) or abs(_turn(lines[one[0]], lines[other[0]])) < 60.0:
            continue
        sides: list[tuple[Array, Array] | None] = [lines[i][:2] for i in (one[0], other[0], one[1], other[1])]
        corners = _meeting(sides, grey.shape)
        if corners is None or cv2.contourArea(corners.astype(np.float32)) < 2 * _LEAST_AREA * grey.size:
            continue
        if _shape_fits(corners, aspect):
            ranked.append((_on_edges(corners, away), corners))
    ranked.sort(key=lambda entry: -entry[0])
    yield from (corners for share, corners in ranked[:8] if share > 0.45)


def _joined(segments: Array, longest: int) -> list[tuple[Array, Array, float]]:
    """Lines that pieces of line lie on, the longest first: a point, a direction and a length."""
    length = np.hypot(*(segments[:, 2:] - segments[:, :2]).T)
    lines: list[tuple[Array, Array, float]] = []
    for i in np.argsort(-length):
        start, end = segments[i, :2], segments[i, 2:]
        way = (end - start) / max(length[i], 1e-6)
        for place, (point, along, whole) in enumerate(lines):
            off = np.abs(np.stack([start - point, end - point]) @ np.array([-along[1], along[0]]))
            if off.max() < 0.008 * longest and abs(along @ way) > 0.99:
                lines[place] = (point, along, whole + float(length[i]))
                break
        else:
            lines.append(((start + end) / 2.0, way, float(length[i])))
    lines.sort(key=lambda line: -line[2])
    return lines[:_LINES]


def _turn(one: tuple[Array, Array, float], other: tuple[Array, Array, float]) -> float:
    return float(np.degrees(np.arccos(np.clip(abs(one[1] @ other[1]), 0.0, 1.0))))


def _shape_fits(corners: Array, aspect: float, slack: float = 1.35) -> bool:
    sides = np.hypot(*(corners - np.roll(corners, -1, axis=0)).T)
    seen = (sides[0] + sides[2]) / max(sides[1] + sides[3], 1e-6)
    return bool(aspect / slack < max(seen, 1 / seen) < aspect * slack)


def _on_edges(corners: Array, away: Pixels) -> float:
    """The share of the sides that are seen, that lie on edges; a side outside the picture counts nothing."""
    share = np.linspace(0.0, 1.0, 80)[:, None]
    places = np.concatenate([corners[i] + share * (corners[(i + 1) % 4] - corners[i]) for i in range(4)])
    x, y = np.round(places).astype(int).T
    seen = (x >= 0) & (y >= 0) & (x < away.shape[1]) & (y < away.shape[0])
    return float((away[y[seen], x[seen]] < 2.0).sum() / len(places)) if seen.any() else 0.0


# ---- paint


def paint_corners(pixels: Pixels, inside: Array | None) -> Iterator[Array]:
    """Corners that the painted block may have, at several levels.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    inside : (4, 2) float, pixels, the paper's corners, or None

    Yields
    ------
    (4, 2) float, pixels, clockwise as seen
    """
    small, scale = shrunk(pixels)
    away = strangeness(small, None if inside is None else _area(small.shape, (inside + 0.5) * scale - 0.5))
    kept: list[Array] = []
    for level, reach in ((0.16, 7), (0.3, 9), (0.1, 5)):
        mask: Pixels = (away > level).astype(np.uint8)
        # pencil and writing go, gaps between cells close
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((4, 4), np.uint8))
        mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((reach, reach), np.uint8))
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
        contours = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
        found = []
        for contour in sorted(contours, key=cv2.contourArea, reverse=True)[:2]:
            hull = cv2.convexHull(contour)
            if 0.02 * mask.size < cv2.contourArea(hull) < 0.97 * mask.size:
                found += list(_oblongs(contour.reshape(-1, 2).astype(float), hull, mask.shape, 1.0))[:1]
                found.append(four_corners(hull))
        for corners in _unlike(iter(found), kept):
            yield (corners + 0.5) / scale - 0.5


def _area(shape: tuple[int, ...], corners: Array) -> Flags:
    shrink = corners.mean(axis=0) + 0.98 * (corners - corners.mean(axis=0))
    area = np.zeros(shape[:2], dtype=np.uint8)
    cv2.fillConvexPoly(area, np.round(shrink).astype(np.int32), 1)
    return area > 0


def strangeness(pixels: Pixels, inside: Flags | None = None) -> Array:
    """How far each place is from the paper beside it, in logs of light, (h, w) float; 0 outside.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    inside : (h, w) bool, where to look, or None
    """
    level = cv2.GaussianBlur(pixels, (0, 0), 1.0).astype(np.float32) + 8.0
    reach = 2 * (min(pixels.shape[:2]) // 5) + 1
    area = np.ones(pixels.shape[:2], dtype=bool) if inside is None or not inside.any() else inside
    bright = level.sum(axis=-1)
    bright = np.where(area, bright, np.median(bright[area]))
    light = cv2.blur(cv2.dilate(bright, np.ones((reach, reach), np.uint8)), (reach, reach))
    near = area & (bright > 0.88 * light)
    white = np.median(level[near], axis=0) if near.any() else np.full(3, 255.0)
    ratio = np.log(level / white) - np.log(light / max(float(np.sum(white)), 1.0))[..., None]
    away: Array = np.abs(ratio).max(axis=-1) * area
    return away
