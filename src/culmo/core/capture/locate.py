"""Where the sheet lies in a picture: by its corner marks, its painted block, or the edge of the paper."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from culmo.core.capture.bars import ends_of, find_bars, laid
from culmo.core.capture.bearing import FAIR_DRAWN, Bearing, SoughtPlan, bear_out
from culmo.core.capture.marks import by_marks
from culmo.core.capture.photo import Pixels
from culmo.core.capture.placement import (
    EdgeField,
    EdgePoints,
    Placement,
    PlacementFit,
    edges_of,
    flatten,
    from_corners,
    plain,
    refine,
)
from culmo.core.capture.seats import Seats
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array
from culmo.errors import CulmoError
from culmo.words import tr

LOOK_PX = 1200  # the longer side of the picture that is searched
_MARKS_REACH_MM, _SHAPE_REACH_MM = 2.5, 6.0
_BAR_SHARES, _BAR_SLACK = (0.35, 0.55, 0.85), (0.75, 1.3)
_FORESHORTENED = (1.0, 0.9, 0.8)  # what lies across the bar, in a slanting view
_SLANTS = 16
_SAME_WAY_DEG = 12.0  # a wheel looks alike when it is turned by a sector
_WRITING_PER_MM = 1.6
_LEAST_CELL_MM2 = 4.0
_MIRRORED = (
    -0.05
)  # of 110 foreign pictures the least was 0.00, of those in a mirror the most that colours do not tell -0.07


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


@dataclass(frozen=True)
class FoundSheet:
    """A place where the sheet lies, or may lie.

    Attributes
    ----------
    fit : PlacementFit, in pixels of the picture
    by : str, what it was found by: "marks", "bar", "frame", "paper" or "whole picture"; "corners" or "hand" where it was
        given
    angle_deg : float, how far the sheet is turned clockwise in the picture, -180..180
    bearing : Bearing, what the picture says to it
    writing : float, how much there is where the labels should be, against their mirror images
    """

    fit: PlacementFit
    by: str
    angle_deg: float
    bearing: Bearing
    writing: float = 0.0

    @property
    def turned(self) -> float:
        """0 where the sheet stands upright in the picture, 1 where it is upside down."""
        return abs(self.angle_deg) / 180.0

    @property
    def sound(self) -> bool:
        """Whether the picture bears it out, or says nothing to what marks show."""
        bearing = self.bearing
        return bearing.plain or (self.by == "marks" and (bearing.fair or not bearing.enough))

    @property
    def score(self) -> float:
        """To choose among several by."""
        return self.bearing.score


def locate(pixels: Pixels, sheet: Sheet) -> list[FoundSheet]:
    """Find a sheet in a picture.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    sheet : Sheet

    Returns
    -------
    list of FoundSheet, one for each way the sheet may be turned, the likeliest first: those that the picture bears out, or
    where there is none those that it may well bear out, which are not `sound`

    Raises
    ------
    CulmoError
        when it is not found
    """
    check_sheet(sheet)
    small, scale = smaller(pixels)
    search = _Search(small, sheet)
    found = _unique(search.by_marks())
    if not any(place.sound for place in found):
        # a bar tells which way round, the paper's corners how much the view slants
        found = _unique([*found, *search.by_bars(), *search.by_shapes()])
    if not any(place.bearing.fair or place.sound for place in found):
        raise CulmoError(_why_not(found, sheet))
    may_be = [place for place in found if place.sound] or [place for place in found if place.bearing.fair]
    best = max(place.score for place in may_be)
    likely = [place for place in may_be if place.score >= 0.6 * best]
    written = [replace(place, writing=_writing(small, place, sheet)) for place in likely]
    # upright unless the edges or the writing say otherwise
    written.sort(key=lambda place: -(place.score / max(best, 1e-9) - 0.08 * place.turned + place.writing))
    return [
        replace(place, fit=replace(place.fit, placement=enlarge(place.fit.placement, scale)))
        for place in written
    ]


class _Search:
    """One sheet looked for in one picture."""

    def __init__(self, small: Pixels, sheet: Sheet) -> None:
        self.small, self.sheet = small, sheet
        self.points = edges_of(sheet)
        self.plan = SoughtPlan(sheet)

    def by_marks(self) -> list[FoundSheet]:
        """Where the corner marks put it."""
        grey = cv2.cvtColor(self.small, cv2.COLOR_RGB2GRAY)
        found = []
        for homography in by_marks(grey, self.sheet):
            start = plain(self.sheet, homography)
            fit = refine(self.small, start, self.points, (_MARKS_REACH_MM,), 2.0, 6)
            found.append(self._judged(fit, "marks"))
        return found

    def by_bars(self) -> list[FoundSheet]:
        """Where a black bar puts it, at any size and both ways round."""
        if not self.sheet.bars_mm:
            return []
        _, _, width, height = self.sheet.bars_mm[0]
        found = []
        for share in _BAR_SHARES:
            length = share * max(self.small.shape[:2])
            for seen in find_bars(self.small, length, length * height / width, _BAR_SLACK):
                for short in _FORESHORTENED:
                    start = plain(self.sheet, laid(ends_of(self.sheet), seen, short))
                    found.append(self._judged(_settle(self.small, start, self.points, self.sheet), "bar"))
        return [self._slanted(place) for place in _unique(found)]

    def _slanted(self, place: FoundSheet) -> FoundSheet:
        """The same with how the view slants, which a bar alone does not tell."""
        fit = place.fit
        for _ in range(_SLANTS):
            fit = _settle(self.small, _slanting(self.sheet, fit), self.points, self.sheet)
            place = max(place, self._judged(fit, place.by), key=lambda found: found.score)
        return place

    def by_shapes(self) -> list[FoundSheet]:
        """Where paper and paint put it; what is plainly found that way round is not looked for again."""
        found: list[FoundSheet] = []
        for seats in Seats(self.small, self.plan).groups():
            for seat in seats:
                angle = _angle_deg(seat.placement)
                if any(
                    place.bearing.plain and _apart(place.angle_deg, angle) < _SAME_WAY_DEG for place in found
                ):
                    continue
                fit = _settle(self.small, seat.placement, self.points, self.sheet)
                found.append(self._judged(fit, seat.by))
            if any(place.bearing.plain for place in found):
                break
        return found

    def _judged(self, fit: PlacementFit, by: str) -> FoundSheet:
        return FoundSheet(fit, by, _angle_deg(fit.placement), bear_out(self.small, fit.placement, self.plan))


def _apart(one_deg: float, other_deg: float) -> float:
    return abs((one_deg - other_deg + 180.0) % 360.0 - 180.0)


def _unique(found: Sequence[FoundSheet]) -> list[FoundSheet]:
    """The best of those that lie the same way round, the best first."""
    kept: list[FoundSheet] = []
    for place in sorted(found, key=lambda place: -place.score):
        if all(_apart(place.angle_deg, other.angle_deg) > _SAME_WAY_DEG for other in kept):
            kept.append(place)
    return kept


def _why_not(found: list[FoundSheet], sheet: Sheet) -> str:
    hand = tr("give the four corners of its frame by hand")
    bearings = [place.bearing for place in found]
    if any(b.enough and b.support > 0.4 and b.drawn >= FAIR_DRAWN for b in bearings):
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
    for x, y, w, h in (*sheet.bars_mm, *filter(None, [sheet.card_mm])):
        if not (min(w, h) >= 0.5 and -1.0 < x <= x + w < size[0] + 1.0 and -1.0 < y <= y + h < size[1] + 1.0):
            raise CulmoError(
                tr(
                    'a bar of "{title}", or its place for a card, does not lie on its paper',
                    title=sheet.title,
                )
            )


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


def place_by_corners(pixels: Pixels, sheet: Sheet, corners: Array) -> FoundSheet:
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
    fit = refine(small, start, edges_of(sheet), (min(3.0, _reach(sheet)), 1.2), 2.5, 6)
    plan = SoughtPlan(sheet)
    bearing = bear_out(small, fit.placement, plan)
    if not bearing.fair:  # no edges to hold on to: the corners stand as they were given
        fit = replace(fit, placement=start)
        bearing = bear_out(small, start, plan)
    placement = enlarge(fit.placement, scale)
    return FoundSheet(replace(fit, placement=placement), "corners", _angle_deg(placement), bearing)


def place_by_hand(pixels: Pixels, sheet: Sheet, placement: Placement) -> FoundSheet:
    """A placement that was moved by hand, as it stands.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    sheet : Sheet
    placement : Placement, in its pixels
    """
    small, scale = smaller(pixels)
    here = enlarge(placement, 1.0 / scale)
    fit = replace(refine(small, here, edges_of(sheet), (), _WRITING_PER_MM, 6), placement=placement)
    return FoundSheet(fit, "hand", 0.0, bear_out(small, here, SoughtPlan(sheet)))


def _reach(sheet: Sheet) -> float:
    sides = np.array([cell.box_mm[2:] for cell in sheet.cells])
    return 0.42 * float(np.median(sides.min(axis=1)))


def _settle(small: Pixels, rough: Placement, points: EdgePoints, sheet: Sheet) -> PlacementFit:
    """From a rough place to the edges: far first, then near."""
    reach = min(_SHAPE_REACH_MM, _reach(sheet))
    fit = refine(small, rough, points, (reach, 0.6 * reach, 1.5), 2.0, 6)
    return refine(small, fit.placement, points, (2.0, 1.2), 2.5, 6)


def _slanting(sheet: Sheet, fit: PlacementFit) -> Placement:
    """A placement without a bend that lies nearest to one with: what bends after a bar alone is how the view slants."""
    places = np.array([point for cell in sheet.cells for point in cell.outline_mm])
    way, _ = cv2.findHomography(places, fit.placement.to_pixels(places), 0)
    return fit.placement if way is None else plain(sheet, np.asarray(way, dtype=float))


def _angle_deg(placement: Placement) -> float:
    """The direction in the picture of what is to the right on the sheet, clockwise."""
    x, y, w, h = placement.box_mm
    a, b = placement.to_pixels(np.array([[x, y + h / 2], [x + w, y + h / 2]]))
    return float(np.degrees(np.arctan2(b[1] - a[1], b[0] - a[0])))


def _writing(small: Pixels, place: FoundSheet, sheet: Sheet) -> float:
    """Whether there is writing where the labels are planned and none opposite, -1..1."""
    return _written(small, place.fit.placement, sheet, lambda places, size: size - places)


def is_mirrored(pixels: Pixels, placement: Placement, sheet: Sheet) -> bool:
    """Whether there is writing where a mirror would have the labels, and little where they are planned.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 or uint16
    placement : Placement, in its pixels
    sheet : Sheet
    """
    small, scale = smaller(pixels)

    def mirror(places: Array, size: Array) -> Array:
        return np.stack([size[0] - places[:, 0], places[:, 1]], axis=1)

    return _written(small, enlarge(placement, 1.0 / scale), sheet, mirror) < _MIRRORED


def _written(
    small: Pixels, placement: Placement, sheet: Sheet, elsewhere: Callable[[Array, Array], Array]
) -> float:
    """How much more writing there is where the labels are planned than elsewhere, -1..1."""
    field = EdgeField(flatten(small, placement, _WRITING_PER_MM), _WRITING_PER_MM)
    size = np.array([sheet.paper.width_mm, sheet.paper.height_mm])
    here, other = [], []
    for label in sheet.labels:
        angle = np.radians(label.angle_deg)
        along = np.array([np.cos(angle), np.sin(angle)])
        up = np.array([np.sin(angle), -np.cos(angle)])
        steps = np.linspace(0.3, max(0.6, 0.4 * len(label.text)), 8) * label.size_mm
        places = np.array(label.at_mm) + steps[:, None] * along + 0.35 * label.size_mm * up
        here.append(places)
        other.append(elsewhere(places, size))
    if not here:
        return 0.0
    both = np.array([_most(field, np.concatenate(part)) for part in (here, other)])
    return float((both[0] - both[1]) / max(both.sum(), 1e-3))


def _most(field: EdgeField, places: Array) -> float:
    normals = np.broadcast_to([1.0, 0.0], places.shape), np.broadcast_to([0.0, 1.0], places.shape)
    reach = np.linspace(-0.8, 0.8, 5)
    level = np.maximum(*(field.along(places, normal, reach).max(axis=1) for normal in normals))
    return float(np.mean(np.minimum(level, 0.6)))
