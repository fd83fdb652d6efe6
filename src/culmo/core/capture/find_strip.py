"""The strip of known paints in a picture: found beside the sheet by its black bar, and what it tells of the picture.

The strip lies in the sheet's plane, so that where the sheet is known only its place and its turn are sought: a dark bar of
the right length and thickness with light paper about it. Which bar and which way round it is, its own colours tell.
"""

from collections.abc import Iterator

import cv2
import numpy as np

from culmo.core.capture.bars import ends_of, find_bars, laid
from culmo.core.capture.cell_reader import CellReader
from culmo.core.capture.cells import FINE_PER_MM, Sampler, cell_patches
from culmo.core.capture.light import bare_mask, light_field
from culmo.core.capture.photo import Photo, Pixels
from culmo.core.capture.placement import Placement, edges_of, flatten, plain, refine
from culmo.core.capture.sheet_reading import CellDoubt
from culmo.core.capture.strip import Strip, StripFound
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.character import Anchor, Shot, as_it_is, believed, seen_lab, triple

_PLANE_PER_MM = 2.0
_MOST_PLANE_MM = 900.0  # to each side of the sheet's middle
_LEAST_PATCHES = 4
_NEAR_ENOUGH = 4.0  # CIEDE2000 in the middle, between the strip as it is known and as it is read here


def find_strip(view: Photo, strip: Strip, beside: Placement, paper: Array) -> StripFound | None:
    """The strip in a picture, or None where it does not lie in it.

    Parameters
    ----------
    view : Photo
    strip : Strip
    beside : Placement, of the sheet, in the same pixels
    paper : (3,) float, CIELAB of the sheet's bare paper; the strip is of the same
    """
    if len(strip.known) < _LEAST_PATCHES or not strip.sheet.bars_mm:
        return None
    found = []
    points = edges_of(strip.sheet)
    for start in _places(view.pixels, strip.sheet, beside):
        fit = refine(view.pixels, start, points, (2.5, 1.2), 2.5, 6)
        place = _judged(view, strip, fit.placement, paper)
        if place is not None:
            found.append(place)
    found.sort(key=lambda place: place.after)
    if not found or found[0].after > _NEAR_ENOUGH:
        return None
    return found[0]


def _places(pixels: Pixels, sheet: Sheet, beside: Placement) -> Iterator[Placement]:
    """Where the strip may lie: for each bar that is seen both ways round."""
    to_plane, size, to_pixels = _plane(pixels, beside)
    flat = cv2.warpPerspective(
        pixels if pixels.dtype == np.uint8 else (pixels >> 8).astype(np.uint8), to_plane, size,
        flags=cv2.INTER_AREA, borderMode=cv2.BORDER_CONSTANT, borderValue=(128, 128, 128),
    )  # fmt: skip
    _, _, width, height = sheet.bars_mm[0]
    ends = ends_of(sheet)
    for seen in find_bars(flat, width * _PLANE_PER_MM, height * _PLANE_PER_MM):
        yield plain(sheet, to_pixels @ laid(ends, seen))


def _plane(pixels: Pixels, beside: Placement) -> tuple[Array, tuple[int, int], Array]:
    """The way from the picture to the sheet's plane, its size in pixels, and the way back; as far as it is seen."""
    height, width = pixels.shape[:2]
    edge = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float)
    _, _, wide, high = beside.box_mm
    middle = np.array([wide / 2.0, high / 2.0])
    back = np.linalg.inv(beside.homography)
    whole = np.concatenate([edge, np.ones((4, 1))], axis=1) @ back.T
    deep = whole[:, 2] * (beside.homography @ np.array([*middle, 1.0]))[2]  # 1 where the sheet's middle is
    places = whole[:, :2] / whole[:, 2:]
    # beyond the horizon of a slanting view there is no plane
    far = (deep <= 0.05)[:, None] | (np.abs(places - middle) > _MOST_PLANE_MM)
    places = np.where(far, middle + np.sign(places - middle) * _MOST_PLANE_MM, places)
    low, high_mm = places.min(axis=0), places.max(axis=0)
    size = np.maximum(np.round((high_mm - low) * _PLANE_PER_MM).astype(int), 8)
    to_mm = np.array([[1 / _PLANE_PER_MM, 0, low[0]], [0, 1 / _PLANE_PER_MM, low[1]], [0, 0, 1]])
    to_pixels = beside.homography @ to_mm
    return np.linalg.inv(to_pixels), (int(size[0]), int(size[1])), to_pixels


def _judged(view: Photo, strip: Strip, placement: Placement, paper: Array) -> StripFound | None:
    """What the patches of a strip tell if it lies so; None where nothing of it is seen there."""
    corners = placement.to_pixels(
        np.array([point for cell in strip.sheet.cells for point in cell.outline_mm])
    )
    width, height = view.size
    if (corners < 0.0).any() or (corners > [width, height]).any() or placement.scale < 1.0:
        return None
    reader = _reader(view, strip.sheet, placement, paper)
    seen = [entry for cell in strip.sheet.cells for entry in reader.look(cell)]
    entries = [
        entry for entry in reader.entries(seen) if entry.cell in strip.known and not set(entry.doubts) - {CellDoubt.UNSURE}
    ]  # fmt: skip
    if len(entries) < _LEAST_PATCHES:
        return None
    anchors = tuple(
        Anchor(entry.seen, patch.lab, float(np.hypot(patch.off, entry.own)), patch.of)
        for entry, patch in ((entry, strip.known[entry.cell]) for entry in entries)
        if entry.seen is not None
    )
    shot = Shot("", triple(paper), anchors=anchors)
    known = np.array([anchor.lab for anchor in anchors])
    shown = seen_lab(np.array([anchor.seen for anchor in anchors]), paper)
    after = as_it_is(shown, paper, believed([shot])[0])
    return StripFound(
        strip,
        placement,
        anchors,
        float(np.median(delta_e_00(shown, known))),
        float(np.median(delta_e_00(after, known))),
    )


def _reader(view: Photo, sheet: Sheet, placement: Placement, paper: Array) -> CellReader:
    """A reader of the strip's patches, in the light that its own paper shows."""
    per_mm = float(np.clip(placement.scale, 2.0, FINE_PER_MM))
    sampler = Sampler(flatten(view.pixels, placement, per_mm), view, per_mm)
    bare = bare_mask(sheet, per_mm, sampler.flat.shape[:2], placement, view.size)
    light = light_field(sampler.flat, view, sheet, per_mm, bare, cell_patches(sampler, sheet.cells))
    sampler.set_light(light, bare)
    return CellReader(view, sheet, sampler, placement, np.asarray(paper, dtype=float), light)
