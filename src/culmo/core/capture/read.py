"""From a picture of a dry sheet to the colours of its cells."""

from collections.abc import Generator, Mapping
from dataclasses import replace

import cv2
import numpy as np

from culmo.core.capture.card import Card
from culmo.core.capture.cell_reader import CellReader
from culmo.core.capture.cells import FINE_PER_MM, Sampler, SeenPatch, cell_patches
from culmo.core.capture.conclude import conclude
from culmo.core.capture.find_strip import find_strip
from culmo.core.capture.gleam import find_gleam
from culmo.core.capture.judge import UNPAINTED, CellVerdict, Expected, judge_sheet
from culmo.core.capture.light import bare_mask, light_field
from culmo.core.capture.locate import (
    FoundSheet,
    check_corners,
    check_sheet,
    enlarge,
    is_mirrored,
    locate,
    place_by_corners,
    place_by_hand,
    smaller,
)
from culmo.core.capture.patches import Bare, cutting
from culmo.core.capture.photo import Photo, Pixels
from culmo.core.capture.placement import Placement, edges_of, flatten, refine
from culmo.core.capture.sample import PAPER_LAB
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.sheet_reading import LyingDoubt, SheetReading
from culmo.core.capture.unsure import gloss_of
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.readings import INK
from culmo.core.steps import run_through, scaled
from culmo.core.threads import steps_on_one_thread
from culmo.errors import CulmoError
from culmo.words import tr

MID_PX = 2000  # the longer side of the picture that is worked on
_QUICK_PER_MM = 1.6
_LEAST_PER_MM = 1.5
_SOME_WRITING = 0.06
_PLAIN_WRITING = 1.2  # so much more writing where the labels are planned settles which way round a sheet lies


def read_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: Card | None = None,
    known: KnownBefore | None = None,
) -> SheetReading:
    """As `reading_sheet`, at one go."""
    return run_through(reading_sheet(photo, sheet, corners, paper, expected, card, known=known))


@steps_on_one_thread
def reading_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: Card | None = None,
    placed: Placement | None = None,
    known: KnownBefore | None = None,
) -> Generator[float, None, SheetReading]:
    """Find a sheet in a picture, even the light, and read its cells; yields the progress, 0..1.

    Parameters
    ----------
    photo : Photo
    sheet : Sheet
    corners : (4, 2) float, the frame's corners in pixels, clockwise from the top left; found by itself where absent
    paper : (3,) float, CIELAB of the bare paper, which a picture alone can not tell
    expected : mapping from cell id to Expected, to notice a wrong sheet and mixed-up cells
    card : Card, a reference card in the picture
    placed : Placement, where the sheet lies, moved by hand; nothing is looked for then
    known : KnownBefore, what was read and learned before, by which what the picture does to colours is undone

    Raises
    ------
    CulmoError
        when the sheet is not found, the corners can not be right, or the picture is too small
    """
    expected = expected or {}
    check_sheet(sheet)
    yield 0.02
    mid, scale = smaller(photo.pixels, MID_PX, deep=True)
    view = replace(photo, pixels=mid)
    yield 0.1
    doubt = ""
    if placed is not None:
        found = place_by_hand(mid, sheet, enlarge(placed, 1.0 / scale))
    elif corners is not None:
        check_corners(corners, photo.size)
        found = place_by_corners(mid, sheet, (np.asarray(corners) + 0.5) * scale - 0.5)
    else:
        found, told = _choose(view, sheet, locate(mid, sheet), expected)
        # what is foretold tells a mirror's picture by its colours
        doubt = "" if told else LyingDoubt.TURNED
        if not expected and is_mirrored(mid, found.fit.placement, sheet):
            doubt = LyingDoubt.MIRRORED
    yield 0.35
    fine = found.fit.placement.scale / scale
    if fine < _LEAST_PER_MM:
        raise CulmoError(
            tr(
                "the sheet takes only {fine:.1f} pixels a millimetre in this picture; {LEAST_PER_MM:g} "
                "are the least",
                fine=fine,
                LEAST_PER_MM=_LEAST_PER_MM,
            )
        )
    placement = found.fit.placement if placed is not None else _bend(mid, found, sheet)
    yield 0.5
    per_mm = float(np.clip(placement.scale, 2.0, FINE_PER_MM))
    sampler = Sampler(flatten(mid, placement, per_mm), view, per_mm)
    yield 0.6
    bare = bare_mask(sheet, per_mm, sampler.flat.shape[:2], placement, view.size)
    parts = cell_patches(sampler, sheet.cells)
    light = light_field(sampler.flat, view, sheet, per_mm, bare, parts)
    sampler.set_light(light, bare)
    yield 0.75
    reader = CellReader(view, sheet, sampler, placement, np.asarray(paper, dtype=float), light)
    reader.gloss = gloss_of(light, *parts)
    reader.gleam = find_gleam(sampler, sheet.cells, light.size_mm)
    if card is not None:
        reader.correct_by(card, photo, enlarge(placement, scale))
    reader.light_said = known.light if known is not None else ""
    strips = (
        known.strips if known is not None and not sheet.bars_mm else ()
    )  # a strip is no witness of its own
    reader.strip = next(
        filter(None, (find_strip(view, strip, placement, reader.paper) for strip in strips)), None
    )
    seen: list[tuple[Cell, SeenPatch, bool]] = []
    for count, cell in enumerate(sheet.cells):
        seen += reader.look(cell)
        if count % 16 == 15:
            yield 0.75 + 0.1 * count / len(sheet.cells)
    entries = reader.neighbourly(reader.entries(seen))
    result = conclude(reader, entries, found, expected, doubt, known)
    whole = enlarge(placement, scale)
    read = {entry.cell for entry in result.readings}
    cells = [cell for cell in sheet.cells if cell.id in read]
    patches = yield from scaled(cutting(photo, whole, reader, cells, Bare(bare, per_mm)), 0.85, 1.0)
    yield 1.0
    return replace(result, placement=whole, patches=patches)


def _bend(mid: Pixels, found: FoundSheet, sheet: Sheet) -> Placement:
    """The last fraction of a millimetre, with the curl of the page."""
    if not found.bearing.fair:
        return found.fit.placement
    per_mm = float(np.clip(found.fit.placement.scale, 1.5, 2.2))
    fit = refine(mid, found.fit.placement, edges_of(sheet), (1.5, 0.8), per_mm, 10)
    return fit.placement if fit.support >= 0.9 * found.fit.support else found.fit.placement


# ---- which way round


def _quick(view: Photo, sheet: Sheet, place: FoundSheet, expected: Mapping[str, Expected]) -> CellVerdict:
    """Whether the colours fit when the sheet lies so; a rough look, for comparing."""
    flat = flatten(view.pixels, place.fit.placement, _QUICK_PER_MM)
    cells = [cell for cell in sheet.cells if cell.fade_mm is None and cell.ground != INK]
    if not cells:
        return CellVerdict(None, 1.0)
    bare = bare_mask(sheet, _QUICK_PER_MM, flat.shape[:2], place.fit.placement, view.size)
    light = light_field(flat, view, sheet, _QUICK_PER_MM, bare, rounds=2)
    middles = np.array([np.mean(cell.outline_mm, axis=0) for cell in cells]).reshape(-1, 2)
    reach = max(
        1,
        int(_QUICK_PER_MM * 0.15 * float(np.median([min(cell.box_mm[2:]) for cell in cells]))),
    )
    blurred = cv2.blur(flat, (2 * reach + 1, 2 * reach + 1))
    at = np.clip((middles * _QUICK_PER_MM).astype(int), 0, np.array(flat.shape[1::-1]) - 1)
    linear = view.linear(blurred[at[:, 1], at[:, 0]]) / light.at(middles)
    lab = view.lab(linear * view.linear_from_lab(PAPER_LAB))
    painted = delta_e_00(lab, PAPER_LAB) > UNPAINTED
    return judge_sheet(cells, lab, -np.log(np.maximum(linear, 2e-3)), painted, expected)


def _choose(
    view: Photo, sheet: Sheet, places: list[FoundSheet], expected: Mapping[str, Expected]
) -> tuple[FoundSheet, bool]:
    """The way round that the colours bear out, where they tell, else the likeliest by edges and writing; and whether
    anything tells it.
    """
    if len(places) == 1 or places[0].writing - max(place.writing for place in places[1:]) > _PLAIN_WRITING:
        return places[0], True
    verdicts = [_quick(view, sheet, place, expected) for place in places]
    measures = [np.inf if verdict.fits is False else verdict.measure for verdict in verdicts]
    best = int(np.argmin(measures))
    best = best if measures[best] < 0.7 * verdicts[0].measure else 0
    alike = [
        other
        for i, other in enumerate(places)
        if i != best
        and measures[i] < measures[best] / 0.7
        and other.writing > places[best].writing - _SOME_WRITING
    ]
    return places[best], not alike


# ---- cell by cell
