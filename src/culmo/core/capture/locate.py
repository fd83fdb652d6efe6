"""Where the sheet lies in a picture: by its corner marks, its painted block, or the edge of the paper."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.capture.placement import (
    EdgeField,
    EdgePoints,
    Fit,
    Placement,
    edge_points,
    flatten,
    from_corners,
    plain,
    refine,
)
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array, Flags
from culmo.errors import CulmoError
from culmo.words import tr

LOOK_PX = 1200  # the longer side of the picture that is searched
_MOST_MARKS = 14
LEAST_SUPPORT, MOST_STRAYS = 0.9, 0.3
_PLAINLY = 0.985  # so much of the outlines under an edge leaves nothing to look for
_WRITING_PER_MM = 1.6
_LEAST_CELL_MM2 = 4.0
_MARK_ERROR = 0.25  # of squares from where they should be, in their sides


@dataclass(frozen=True)
class Guess:
    """A place where the sheet may lie.

    Attributes
    ----------
    placement : Placement, in pixels of the searched picture
    by : str, "marks", "frame", "paper" or "whole picture"
    reach_mm : float, how far it may be off
    """

    placement: Placement
    by: str
    reach_mm: float


def smaller(pixels: Pixels, longest: int = LOOK_PX, deep: bool = False) -> tuple[Pixels, float]:
    """A picture of at most so many pixels on its longer side, and its scale; of 8 bits, unless it is to stay deep."""
    scale = min(1.0, longest / max(pixels.shape[:2]))
    if scale < 1.0:
        size = (round(pixels.shape[1] * scale), round(pixels.shape[0] * scale))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    if pixels.dtype == np.uint16 and not deep:
        pixels = (pixels >> 8).astype(np.uint8)
    return pixels, scale


def enlarge(placement: Placement, scale: float) -> Placement:
    """The placement in the pixels of the whole picture."""
    grow = np.array([[1 / scale, 0, 0.5 / scale - 0.5], [0, 1 / scale, 0.5 / scale - 0.5], [0, 0, 1]])
    return Placement(grow @ placement.homography, placement.bend, placement.box_mm)


# ---- corner marks


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


def _by_marks(grey: Pixels, sheet: Sheet) -> Iterator[tuple[float, Guess]]:
    """Placements from the marks, with how far the squares are from where they should be, in their sides."""
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
        yield error, Guess(plain(sheet, homography), "marks", 2.5)


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


# ---- the painted block and the paper


def _quads(mask: Flags, most: int = 3) -> list[Array]:
    """The four corners of the large patches and holes of a mask that lie within the picture, each clockwise."""
    height, width = mask.shape
    found: list[Array] = []
    contours = cv2.findContours(mask.astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)[0]
    for contour in sorted(contours, key=cv2.contourArea, reverse=True)[: 3 * most]:
        hull = cv2.convexHull(contour)
        if not 0.03 * mask.size < cv2.contourArea(hull) < 0.97 * mask.size:
            continue
        corners = _four_corners(hull)
        size = max(height, width)
        if all(np.abs(corners - other).max() > 0.01 * size for other in found):
            found.append(corners)
    return found[:most]


def _four_corners(hull: Pixels) -> Array:
    length = cv2.arcLength(hull, True)
    for share in np.linspace(0.005, 0.12, 40):
        corners = cv2.approxPolyDP(hull, share * length, True).reshape(-1, 2)
        if len(corners) == 4:
            return _clockwise(corners.astype(float))
        if len(corners) < 4:
            break
    return _clockwise(cv2.boxPoints(cv2.minAreaRect(hull)).astype(float))


def _clockwise(corners: Array) -> Array:
    """Corners clockwise as they are seen, from the one nearest the top left."""
    middle = corners.mean(axis=0)
    order = np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))
    corners = corners[order]
    return np.roll(corners, -int(corners.sum(axis=1).argmin()), axis=0)


def _turns(corners: Array) -> Iterator[Array]:
    for turn in range(4):
        yield np.roll(corners, -turn, axis=0)


def _paper_mask(pixels: Pixels) -> Flags:
    """The lightest large thing."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    closed = cv2.morphologyEx(cv2.GaussianBlur(grey, (0, 0), 2), cv2.MORPH_CLOSE, np.ones((25, 25), np.uint8))
    level, _ = cv2.threshold(closed, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    return np.asarray(closed > level)


def _paint_mask(pixels: Pixels, inside: Flags | None) -> Flags:
    """What differs from the paper by more than its own unevenness: paint, not pencil and not writing."""
    level = cv2.GaussianBlur(pixels, (0, 0), 1.5).astype(np.float32) + 8.0
    reach = 2 * (min(pixels.shape[:2]) // 5) + 1
    area = np.ones(pixels.shape[:2], dtype=bool) if inside is None else inside
    bright = level.sum(axis=-1)
    if area.any():
        bright = np.where(area, bright, np.median(bright[area]))
    light = cv2.blur(cv2.dilate(bright, np.ones((reach, reach), np.uint8)), (reach, reach))
    white = (
        np.median(level[area & (bright > 0.88 * light)], axis=0)
        if (area & (bright > 0.88 * light)).any()
        else 255
    )
    ratio = np.log(level / white) - np.log(light / max(float(np.sum(white)), 1.0))[..., None]
    away = np.abs(ratio).max(axis=-1)
    mask = ((away > 0.16) & area).astype(np.uint8)
    mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
    return np.asarray(cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((15, 15), np.uint8)) > 0)


def _by_shape(pixels: Pixels, sheet: Sheet) -> Iterator[Guess]:
    """Placements from the painted block, from the paper's edge and from the picture's own edge."""
    height, width = pixels.shape[:2]
    paper_size = np.array([sheet.paper.width_mm, sheet.paper.height_mm])
    box = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * paper_size
    inside: Flags | None = None
    mask = _paper_mask(pixels)
    papers = _quads(mask, 2) if 0.15 < mask.mean() < 0.97 else []
    for place, corners in enumerate(papers):
        if place == 0:
            shrunk = corners.mean(axis=0) + 0.985 * (corners - corners.mean(axis=0))
            area = np.zeros(mask.shape, dtype=np.uint8)
            cv2.fillConvexPoly(area, np.round(shrunk).astype(np.int32), 1)
            inside = area > 0
        for turned in _turns(corners):
            if _aspect_fits(turned, paper_size):
                yield Guess(plain(sheet, _through(box, turned)), "paper", 6.0)
    seen: list[Array] = []
    for within in (inside, None) if inside is not None else (None,):
        for corners in _quads(_paint_mask(pixels, within)):
            if any(np.abs(corners - other).max() < 4.0 for other in seen):
                continue
            seen.append(corners)
            for turned in _turns(corners):
                if _aspect_fits(turned, np.array(sheet.frame_mm[2:])):
                    yield Guess(from_corners(sheet, turned), "frame", 6.0)
    whole = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float)
    for turned in _turns(whole):
        if _aspect_fits(turned, paper_size, 1.12):
            yield Guess(plain(sheet, _through(box, turned)), "whole picture", 6.0)


def _through(places: Array, seen: Array) -> Array:
    return np.asarray(cv2.getPerspectiveTransform(places.astype(np.float32), seen.astype(np.float32)))


def _aspect_fits(corners: Array, size: Array, slack: float = 1.5) -> bool:
    """Whether four corners can be an oblong of this shape seen at a tilt."""
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=0), axis=1)
    seen = (sides[0] + sides[2]) / max(sides[1] + sides[3], 1e-6)
    want = size[0] / size[1]
    return bool(1 / slack < seen / want < slack)


# ---- all together


@dataclass(frozen=True)
class Found:
    """A place where the sheet lies, or may lie.

    Attributes
    ----------
    fit : Fit, in pixels of the picture
    by : str, what it was found by: "marks", "frame", "paper" or "whole picture"
    angle_deg : float, how far the sheet is turned clockwise in the picture, -180..180
    writing : float, how much there is where the labels should be, against their mirror images
    """

    fit: Fit
    by: str
    angle_deg: float
    writing: float = 0.0

    @property
    def turned(self) -> float:
        """0 where the sheet stands upright in the picture, 1 where it is upside down."""
        return abs(self.angle_deg) / 180.0

    @property
    def sound(self) -> bool:
        """Whether the picture bears it out."""
        return self.fit.support >= LEAST_SUPPORT and self.fit.strays <= MOST_STRAYS


def locate(pixels: Pixels, sheet: Sheet) -> list[Found]:
    """Find a sheet in a picture.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    sheet : Sheet

    Returns
    -------
    list of Found that the picture bears out, one for each way the sheet may be turned, the likeliest first

    Raises
    ------
    CulmoError
        when it is not found
    """
    check_sheet(sheet)
    small, scale = smaller(pixels)
    points = edge_points(sheet.cells)
    found = _unique(_look_for_marks(small, sheet, points), sheet)
    if not any(place.sound for place in found):
        found = _unique([*found, *_look_for_shapes(small, sheet, points)], sheet)
    sound = [place for place in found if place.sound]
    if not sound:
        raise CulmoError(_why_not(found, sheet))
    best = max(place.fit.score for place in sound)
    likely = [place for place in sound if place.fit.score > 0.6 * best]
    written = [replace(place, writing=_writing(small, place, sheet)) for place in likely]
    # upright unless the edges or the writing say otherwise
    written.sort(key=lambda place: -(place.fit.score / best - 0.2 * place.turned + 0.5 * place.writing))
    return [
        replace(place, fit=replace(place.fit, placement=enlarge(place.fit.placement, scale)))
        for place in written
    ]


def _look_for_marks(small: Pixels, sheet: Sheet, points: EdgePoints) -> list[Found]:
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY)
    found = []
    for error, guess in _by_marks(grey, sheet):
        if error < _MARK_ERROR:
            fit = refine(small, guess.placement, points, (guess.reach_mm,), 2.0, 6)
            found.append(Found(fit, guess.by, _angle_deg(fit.placement)))
    return found


def _look_for_shapes(small: Pixels, sheet: Sheet, points: EdgePoints) -> list[Found]:
    found: list[Found] = []
    for guess in _by_shape(small, sheet):
        angle = _angle_deg(guess.placement)
        if any(place.fit.support > _PLAINLY and _apart(place.angle_deg, angle) < 40.0 for place in found):
            continue  # that way round it is found already
        fit = _settle(small, guess, points, sheet)
        found.append(Found(fit, guess.by, _angle_deg(fit.placement)))
    return found


def _apart(one_deg: float, other_deg: float) -> float:
    return abs((one_deg - other_deg + 180.0) % 360.0 - 180.0)


def _unique(found: list[Found], sheet: Sheet) -> list[Found]:
    """The best of those that lie the same way round."""
    kept: list[Found] = []
    for place in sorted(found, key=lambda place: -place.fit.score):
        if all(_apart(place.angle_deg, other.angle_deg) > 40.0 for other in kept):
            kept.append(place)
    return kept


def _why_not(found: list[Found], sheet: Sheet) -> str:
    hand = tr("give the four corners of its frame by hand")
    if any(place.fit.support > 0.4 for place in found):
        return tr(
            'the picture shows a sheet, but its cells do not lie as those of "{title}" do: it is '
            "another sheet, or only a part of it is seen; choose the right one, or {hand}",
            title=sheet.title,
            hand=hand,
        )
    return tr(
        'the sheet "{title}" was not found in the picture; is all of it seen, and sharp? If so, {hand}',
        title=sheet.title,
        hand=hand,
    )


def check_sheet(sheet: Sheet) -> None:
    """That a sheet, which may come from anywhere, can be looked for in a picture.

    Parameters
    ----------
    sheet : Sheet

    Raises
    ------
    CulmoError
        when it has no cells, or cells, a frame or marks that can not lie on its paper
    """
    if not sheet.cells:
        raise CulmoError(tr('the sheet "{title}" has no cells to look for', title=sheet.title))
    size = np.array([sheet.paper.width_mm, sheet.paper.height_mm])
    for cell in sheet.cells:
        points = np.array(cell.outline_mm)
        area = cv2.contourArea(np.clip(points, -1e6, 1e6).astype(np.float32))
        if (points < -1.0).any() or (points > size + 1.0).any() or area < _LEAST_CELL_MM2:
            raise CulmoError(
                tr('cell "{id}" does not lie on the paper, or is too small to be read', id=cell.id)
            )
    x, y, w, h = sheet.frame_mm
    if not (
        w > 1.0 and h > 1.0 and x > -1.0 and y > -1.0 and x + w < size[0] + 1.0 and y + h < size[1] + 1.0
    ):
        raise CulmoError(tr('the frame of "{title}" does not lie on its paper', title=sheet.title))
    for x, y, side in sheet.marks_mm:
        if not (0.5 <= side <= 50.0 and -1.0 < x < size[0] and -1.0 < y < size[1]):
            raise CulmoError(tr('a corner mark of "{title}" does not lie on its paper', title=sheet.title))


def check_corners(corners: Array, size: tuple[int, int], least: float = 0.005) -> None:
    """That four corners given by hand can be a frame's, clockwise from the top left.

    Parameters
    ----------
    corners : (4, 2) float, pixels
    size : tuple of width and height of the picture
    least : float, the least share of the picture that they may enclose

    Raises
    ------
    CulmoError
        when they cross, run the other way round, lie outside or enclose almost nothing
    """
    corners = np.asarray(corners, dtype=float)
    if corners.shape != (4, 2) or not np.isfinite(corners).all():
        raise CulmoError(tr("the frame needs four corners, each an x and a y in pixels"))
    sides = np.roll(corners, -1, axis=0) - corners
    turns = sides[:, 0] * np.roll(sides, -1, axis=0)[:, 1] - sides[:, 1] * np.roll(sides, -1, axis=0)[:, 0]
    if (turns < 0).all():
        raise CulmoError(tr("the corners run the wrong way round: give them clockwise from the top left"))
    if not (turns > 0).all():
        raise CulmoError(tr("the corners cross: give them clockwise from the top left"))
    slack = 0.5 * max(size)
    if (corners < -slack).any() or (corners > np.array(size) + slack).any():
        raise CulmoError(tr("a corner lies far outside the picture"))
    if cv2.contourArea(corners.astype(np.float32)) < least * size[0] * size[1]:
        raise CulmoError(tr("the corners enclose almost nothing of the picture"))


def place_by_corners(pixels: Pixels, sheet: Sheet, corners: Array) -> Found:
    """A placement from the frame's corners given by hand, moved onto the edges nearby.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    sheet : Sheet
    corners : (4, 2) float, pixels, clockwise from the top left

    Raises
    ------
    CulmoError
        when they can not be a frame's corners
    """
    check_corners(corners, (pixels.shape[1], pixels.shape[0]))
    small, scale = smaller(pixels)
    start = from_corners(sheet, (np.asarray(corners) + 0.5) * scale - 0.5)
    fit = refine(small, start, edge_points(sheet.cells), (min(3.0, _reach(sheet)), 1.2), 2.5, 6)
    if fit.support < 0.3:  # no edges to hold on to: the corners stand as they were given
        fit = replace(fit, placement=start)
    placement = enlarge(fit.placement, scale)
    return Found(replace(fit, placement=placement), "corners", _angle_deg(placement))


def _reach(sheet: Sheet) -> float:
    sides = np.array([cell.box_mm[2:] for cell in sheet.cells])
    return 0.42 * float(np.median(sides.min(axis=1)))


def _settle(small: Pixels, guess: Guess, points: EdgePoints, sheet: Sheet) -> Fit:
    """From a rough place to the edges: far first, then near."""
    reach = min(guess.reach_mm, _reach(sheet))
    fit = refine(small, guess.placement, points, (reach, 0.6 * reach, 1.5), 2.0, 6)
    return refine(small, fit.placement, points, (2.0, 1.2), 2.5, 6)


def _angle_deg(placement: Placement) -> float:
    """The direction in the picture of what is to the right on the sheet, clockwise."""
    x, y, w, h = placement.box_mm
    a, b = placement.to_pixels(np.array([[x, y + h / 2], [x + w, y + h / 2]]))
    return float(np.degrees(np.arctan2(b[1] - a[1], b[0] - a[0])))


def _writing(small: Pixels, place: Found, sheet: Sheet) -> float:
    """Whether there is writing where the labels are planned and none opposite, -1..1."""
    flat = flatten(small, place.fit.placement, _WRITING_PER_MM)
    field = EdgeField(flat, _WRITING_PER_MM)
    size = np.array([sheet.paper.width_mm, sheet.paper.height_mm])
    here, opposite = [], []
    for label in sheet.labels:
        angle = np.radians(label.angle_deg)
        along = np.array([np.cos(angle), np.sin(angle)])
        up = np.array([np.sin(angle), -np.cos(angle)])
        steps = np.linspace(0.3, max(0.6, 0.4 * len(label.text)), 8) * label.size_mm
        places = np.array(label.at_mm) + steps[:, None] * along + 0.35 * label.size_mm * up
        here.append(places)
        opposite.append(size - places)
    if not here:
        return 0.0
    both = np.array([_most(field, np.concatenate(part)) for part in (here, opposite)])
    return float((both[0] - both[1]) / max(both.sum(), 1e-3))


def _most(field: EdgeField, places: Array) -> float:
    normals = np.broadcast_to([1.0, 0.0], places.shape), np.broadcast_to([0.0, 1.0], places.shape)
    reach = np.linspace(-0.8, 0.8, 5)
    level = np.maximum(*(field.along(places, normal, reach).max(axis=1) for normal in normals))
    return float(np.mean(np.minimum(level, 0.6)))
