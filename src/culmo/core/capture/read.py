"""From a picture of a dry sheet to the colours of its cells."""

from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from culmo.core.capture.card import Card, CardFit, fit_card
from culmo.core.capture.cells import FADE_AT, Patch, Sampler, cell_patches
from culmo.core.capture.gleam import Gleam, find_gleam
from culmo.core.capture.judge import UNPAINTED, Expected, Verdict, judge_sheet, mixed_up
from culmo.core.capture.light import LightField, bare_mask, light_field
from culmo.core.capture.locate import (
    Found,
    check_corners,
    check_sheet,
    enlarge,
    is_mirrored,
    locate,
    place_by_corners,
    place_by_hand,
    smaller,
)
from culmo.core.capture.photo import SRGB_TO_XYZ, Photo, Pixels
from culmo.core.capture.placement import Placement, edge_points, flatten, refine
from culmo.core.capture.sample import PAPER_LAB
from culmo.core.capture.unsure import gloss_of, shares
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.chart.touching import neighbours
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.readings import DOUBTFUL, GOOD, INK
from culmo.core.paint.recipe import Recipe
from culmo.core.steps import run_through
from culmo.core.threads import steps_on_one_thread
from culmo.errors import CulmoError
from culmo.words import tr, trn

MID_PX = 2000  # the longer side of the picture that is worked on
FINE_PER_MM = 3.2  # pixels per millimetre at which cells are read
_QUICK_PER_MM = 1.6
_LEAST_PER_MM = 1.5
_SOME_WRITING = 0.06
_PLAIN_WRITING = 1.2  # so much more writing where the labels are planned settles which way round a sheet lies
TURNED, MIRRORED = "turned", "mirrored"  # what nothing tells of the way in which a sheet lies
GIVEN = ("corners", "hand")  # a place that the painter gave
_WHITE_PAPER, _LIGHTER = 90.0, 1.5  # in L
_TINTS = 0.2  # in the log of red against blue, over the sheet
_BURNT_SHARE = 0.25  # of the bare paper
_SHADE = 0.12  # in the log of the light
_COLOURLESS = 2.5  # of chroma, the most that noise gives a picture without colours
_COLOURFUL = 8.0  # of chroma, from which on a cell is expected to be seen coloured
MAY_BE_OFF = 5.0  # CIEDE2000, from which on what is told is doubted
_FADING = 0.1  # in logs of light, by which what is read of a band that fades may be off
_LEAST_LIGHT = 5e-4  # relative to the bare paper
_PALE_SHARE = 0.2  # the film that is left about four fifths along a band that fades

CLIPPED, BARE, BLED, UNEVEN, SMALL, MIXED, PALE, UNLIT, OFF_SHEET = (
    "clipped", "unpainted", "bled", "uneven", "small", "mixed up", "pale end", "no bare paper", "wrong sheet",
)  # fmt: skip
LIGHTER, BURNT, SHADED, COLOURLESS, UNSURE = (
    "lighter than paper", "burnt paper", "shadow or gleam", "colourless", "unsure",
)  # fmt: skip
DOUBT_WORDS = {
    CLIPPED: tr("outside the picture's colours"),
    BARE: tr("looks unpainted"),
    BLED: tr("a neighbour ran into it"),
    UNEVEN: tr("very uneven"),
    SMALL: tr("too little of it is seen"),
    MIXED: tr("looks like its neighbour"),
    PALE: tr("pale end of a band; its strength is not known"),
    UNLIT: tr("no bare paper to judge the light by"),
    OFF_SHEET: tr("the picture does not fit this sheet"),
    LIGHTER: tr("lighter than the bare paper: a gleam, or no paint"),
    BURNT: tr("the paper is burnt out in the picture, so that its light is not known"),
    SHADED: tr("a shadow or a gleam lies beside it"),
    COLOURLESS: tr("the picture shows no colours"),
    UNSURE: tr("it may be more than {MAY_BE_OFF:g} off in this picture", MAY_BE_OFF=MAY_BE_OFF),
}
FOUND_WORDS = {
    "marks": tr("found by its corner marks"),
    "frame": tr("found by its painted block"),
    "paper": tr("found by the edge of the paper"),
    "whole picture": tr("found by the picture's own edge"),
    "corners": tr("placed by the corners given"),
    "hand": tr("placed by hand"),
}


@dataclass(frozen=True)
class CellReading:
    """The colour of one cell, or of one end of a fading one.

    Attributes
    ----------
    cell : str, the cell's id
    recipe : Recipe, what was read: the cell's, or paler at the pale end of a fading band
    ground : str
    lab : (3,) float, CIELAB
    trust : str, "good" or "doubtful"
    doubts : tuple of str, keys of DOUBT_WORDS
    uncertainty : float, CIEDE2000, how far off it may be: nine in ten are nearer
    granulation, separation : float, CIELAB units, or None for a band that fades
    other : str, the cell that it looks like, where it looks mixed up
    """

    cell: str
    recipe: Recipe
    ground: str
    lab: Array
    trust: str
    doubts: tuple[str, ...]
    uncertainty: float
    granulation: float | None
    separation: float | None
    other: str = ""


@dataclass(frozen=True)
class SheetReading:
    """A whole sheet read from a picture.

    Attributes
    ----------
    readings : tuple of CellReading, in the order of the sheet's cells
    missing : tuple of str, ids of the cells that could not be read
    placement : Placement, where the sheet lies in the picture
    by : str, what it was found by, a key of FOUND_WORDS
    turned : bool, whether the picture was turned
    light : LightField
    notes : tuple of str, what the painter should know
    wrong : str, why it may be another sheet; empty where it is not
    asked : bool, whether it was found without plain support: the painter is asked whether it lies so
    """

    readings: tuple[CellReading, ...]
    missing: tuple[str, ...]
    placement: Placement
    by: str
    turned: bool
    light: LightField
    notes: tuple[str, ...]
    wrong: str
    asked: bool = False


def read_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: Card | None = None,
) -> SheetReading:
    """As `reading_sheet`, at one go."""
    return run_through(reading_sheet(photo, sheet, corners, paper, expected, card))


@steps_on_one_thread
def reading_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: Card | None = None,
    placed: Placement | None = None,
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
        doubt = "" if told else TURNED
        if not expected and is_mirrored(mid, found.fit.placement, sheet):
            doubt = MIRRORED
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
    reader = _Reader(view, sheet, sampler, placement, np.asarray(paper, dtype=float), light)
    reader.gloss = gloss_of(light, *parts)
    reader.gleam = find_gleam(sampler, sheet.cells, light.size_mm)
    if card is not None:
        reader.correct_by(card, photo, enlarge(placement, scale))
    seen: list[tuple[Cell, Patch, bool]] = []
    for count, cell in enumerate(sheet.cells):
        seen += reader.look(cell)
        if count % 16 == 15:
            yield 0.75 + 0.15 * count / len(sheet.cells)
    entries = reader.neighbourly(reader.entries(seen))
    result = _finish(reader, entries, found, expected, doubt)
    yield 1.0
    return replace(result, placement=enlarge(placement, scale))


def _bend(mid: Pixels, found: Found, sheet: Sheet) -> Placement:
    """The last fraction of a millimetre, with the curl of the page."""
    if not found.bearing.fair:
        return found.fit.placement
    per_mm = float(np.clip(found.fit.placement.scale, 1.5, 2.2))
    fit = refine(mid, found.fit.placement, edge_points(sheet.cells), (1.5, 0.8), per_mm, 10)
    return fit.placement if fit.support >= 0.9 * found.fit.support else found.fit.placement


# ---- which way round


def _quick(view: Photo, sheet: Sheet, place: Found, expected: Mapping[str, Expected]) -> Verdict:
    """Whether the colours fit when the sheet lies so; a rough look, for comparing."""
    flat = flatten(view.pixels, place.fit.placement, _QUICK_PER_MM)
    cells = [cell for cell in sheet.cells if cell.fade_mm is None and cell.ground != INK]
    if not cells:
        return Verdict(None, 1.0)
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
    view: Photo, sheet: Sheet, places: list[Found], expected: Mapping[str, Expected]
) -> tuple[Found, bool]:
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


class _Reader:
    def __init__(
        self,
        photo: Photo,
        sheet: Sheet,
        sampler: Sampler,
        placement: Placement,
        paper: Array,
        light: LightField,
    ) -> None:
        self.photo, self.sheet, self.sampler, self.placement = photo, sheet, sampler, placement
        self.paper = paper
        self.screen = replace(photo, to_xyz=SRGB_TO_XYZ)
        self.to_srgb = np.linalg.solve(SRGB_TO_XYZ, photo.to_xyz)
        middle = np.array([[sheet.paper.width_mm / 2.0, sheet.paper.height_mm / 2.0]])
        self.tint = light.at(middle)[0]
        self.card: CardFit | None = None
        self.missing: list[str] = []
        self.density: dict[str, Array] = {}
        self.light = light
        self.gloss = (0.0, 1.0)
        self.gleam = Gleam()
        self.cells = {cell.id: cell for cell in sheet.cells}

    def correct_by(self, card: Card, photo: Photo, placement: Placement) -> None:
        """Take a reference card into account, seen in the light of the sheet's edge next to it."""
        middle = np.mean(card.corners, axis=0)
        back = np.linalg.inv(placement.homography) @ np.array([*middle, 1.0])
        light = self.light.at((back[:2] / back[2])[None])[0]
        self.card = fit_card(self.lab(card.patches(photo) / light), card.known)

    def lab(self, linear: Array) -> Array:
        """CIELAB of light relative to the bare paper, (..., 3) float."""
        # the light's tint is taken out in the primaries of sRGB, which lie nearer to a sensor's than wider ones do
        seen = (np.maximum(linear, 0.0) * self.tint) @ self.to_srgb.T
        lab = self.screen.lab(seen / (self.to_srgb @ self.tint) * self.screen.linear_from_lab(self.paper))
        lab = lab if self.card is None else self.card.apply(lab)
        lab[..., 0] = np.clip(lab[..., 0], 0.0, 100.0)
        return np.asarray(lab)

    def look(self, cell: Cell) -> list[tuple[Cell, Patch, bool]]:
        """What is seen of a cell: its patch, or those at both ends of a band; the last says whether it is the pale one."""
        ends = FADE_AT if cell.fade_mm is not None else (None,)
        seen = [self.sampler.patch(cell, share) for share in ends] if self._in_picture(cell) else [None]
        if seen[0] is None:
            self.missing.append(cell.id)
            return []
        return [(cell, patch, place == 1) for place, patch in enumerate(seen) if patch is not None]

    def _in_picture(self, cell: Cell) -> bool:
        at = self.placement.to_pixels(np.array(cell.outline_mm))
        width, height = self.photo.size
        return bool((at >= -0.5).all() and (at[:, 0] < width).all() and (at[:, 1] < height).all())

    def entries(self, seen: list[tuple[Cell, Patch, bool]]) -> list[CellReading]:
        """The readings of what was seen."""
        if not seen:
            return []
        places = np.array([np.mean(cell.outline_mm, axis=0) for cell, _, _ in seen])
        gleam = self.gleam.at(places)
        linear = np.maximum(np.array([patch.linear for _, patch, _ in seen]) - gleam[:, None], _LEAST_LIGHT)
        film = np.array([_FADING if cell.fade_mm is not None else patch.spread for cell, patch, _ in seen])
        around = np.array([0.9 * max(cell.box_mm[2:]) for cell, _, _ in seen])
        lab = self.lab(linear)
        bare = delta_e_00(lab, self.paper)
        told = shares(self.lab, linear, film, self.light, places, around, self.gloss, gleam).told
        found = []
        for row, (cell, patch, pale) in enumerate(seen):
            fades = cell.fade_mm is not None
            doubts = self._doubts(cell, patch, pale, bool(bare[row] < UNPAINTED), lab[row])
            if told[row] > MAY_BE_OFF:
                doubts += (UNSURE,)
            recipe = cell.recipe
            if pale and recipe.layers:
                recipe = recipe.with_wash(round(recipe.layers[0].wash * _PALE_SHARE, 4))
            if not pale:
                self.density[cell.id] = -np.log(np.maximum(linear[row], 2e-3))
            entry = CellReading(
                cell=cell.id,
                recipe=recipe,
                ground=cell.ground,
                lab=lab[row],
                trust=DOUBTFUL if doubts else GOOD,
                doubts=doubts,
                uncertainty=float(told[row]),
                granulation=None if fades else patch.granulation,
                separation=None if fades else patch.separation,
            )
            found.append(entry)
        return found

    def _doubts(self, cell: Cell, patch: Patch, pale: bool, bare: bool, lab: Array) -> tuple[str, ...]:
        middle = np.mean(cell.outline_mm, axis=0)
        # on toned paper white paint is lighter, and rightly so
        lighter = self.paper[0] > _WHITE_PAPER and lab[0] > self.paper[0] + _LIGHTER
        # where paints run into each other a cell is not even, and no neighbour has bled into it
        uneven = cell.fade_mm is None and not cell.mixing and (patch.left_out > 0.3 or patch.spread > 0.22)
        tests = (
            (CLIPPED, patch.clipped),
            (SMALL, patch.pixels < 60),
            (UNEVEN, uneven),
            (PALE, pale),
            (BARE, bare and not pale and bool(cell.recipe.layers) and cell.ground != INK),
            (UNLIT, not self.light.blocks),
            (LIGHTER, lighter),
            (BURNT, self.light.burnt > _BURNT_SHARE),
            (SHADED, abs(self.light.beside(middle, 0.9 * max(cell.box_mm[2:]))) > _SHADE),
        )
        return tuple(key for key, holds in tests if holds)

    def neighbourly(self, entries: list[CellReading]) -> list[CellReading]:
        """Marks the cells that a neighbour ran into."""
        beside = neighbours(self.sheet.cells)
        lab = {entry.cell: entry.lab for entry in reversed(entries)}
        owners, pairs, toward = [], [], []
        for entry in entries:
            cell = self.cells[entry.cell]
            if cell.fade_mm is None and not cell.mixing and BARE not in entry.doubts:
                apart = [name for name in beside[cell.id] if name in lab and name not in cell.meets]
                for other, ends in self._ends(cell, apart):
                    owners.append(cell.id)
                    pairs.append(ends)
                    toward.append(lab[other])
        if not pairs:
            return entries
        own, strip = self.lab(np.array(pairs)).transpose(1, 0, 2)
        shift, way = strip - own, np.array(toward) - own
        length = np.linalg.norm(shift, axis=1) * np.linalg.norm(way, axis=1)
        ran = (delta_e_00(own, strip) > 5.0) & ((shift * way).sum(axis=1) > 0.8 * length)
        bled = {owner for owner, is_so in zip(owners, ran, strict=True) if is_so}
        return [
            replace(entry, doubts=(*entry.doubts, BLED), trust=DOUBTFUL) if entry.cell in bled else entry
            for entry in entries
        ]

    def _ends(self, cell: Cell, beside: list[str]) -> list[tuple[str, Array]]:
        """For each neighbour the light far from it and near it, (2, 3) float."""
        look = self.sampler.look(cell)
        if look is None or not beside:
            return []
        at, linear = look.at[::3], self.sampler.relative(look)[::3]
        middle = np.mean(cell.outline_mm, axis=0)
        found = []
        for name in beside:
            way = np.mean(self.cells[name].outline_mm, axis=0) - middle
            order = np.argsort((at - middle) @ way)
            far, near = order[: int(0.6 * len(order))], order[int(0.88 * len(order)) :]
            found.append((name, np.array([linear[part].mean(axis=0) for part in (far, near)])))
        return found


def _finish(
    reader: _Reader,
    entries: list[CellReading],
    found: Found,
    expected: Mapping[str, Expected],
    doubt: str,
) -> SheetReading:
    cells = reader.cells
    plain = [e for e in entries if PALE not in e.doubts and cells[e.cell].ground != INK]
    lab = np.array([e.lab for e in plain]).reshape(-1, 3)
    painted = np.array([BARE not in e.doubts for e in plain], dtype=bool)
    own = [cells[e.cell] for e in plain]
    density = np.array([reader.density[e.cell] for e in plain]).reshape(-1, 3)
    if plain and not painted.any():
        raise CulmoError(tr('no cell of "{title}" looks painted in this picture', title=reader.sheet.title))
    verdict = judge_sheet(own, lab, density, painted, expected) if plain else Verdict(None, 1.0)
    swapped = mixed_up(own, lab, painted, expected)
    entries = [
        replace(e, doubts=(*e.doubts, MIXED), trust=DOUBTFUL, other=swapped[e.cell])
        if e.cell in swapped and PALE not in e.doubts
        else e
        for e in entries
    ]
    entries = [_borne_out(e, expected) for e in entries]
    if _is_colourless(own, lab, painted, reader.paper, expected):
        entries = [replace(e, doubts=(*e.doubts, COLOURLESS), trust=DOUBTFUL) for e in entries]
    wrong = _wrong(found, verdict, reader.sheet, doubt)
    if wrong:
        entries = [replace(e, doubts=(*e.doubts, OFF_SHEET), trust=DOUBTFUL) for e in entries]
    return SheetReading(
        readings=tuple(entries),
        missing=tuple(reader.missing),
        placement=reader.placement,
        by=found.by,
        turned=found.turned > 0.25,
        light=reader.light,
        notes=tuple(_notes(reader, found, verdict)),
        wrong=wrong,
        asked=(_is_weak(found) or bool(doubt)) and verdict.fits is not False,
    )


def _borne_out(entry: CellReading, expected: Mapping[str, Expected]) -> CellReading:
    """A colour that may be far off by what the picture tells, and is where it was foretold, is not in doubt for that."""
    foretold = expected.get(entry.cell)
    if UNSURE not in entry.doubts or foretold is None:
        return entry
    both = (entry.uncertainty**-2 + max(foretold.dE90, 0.1) ** -2) ** -0.5
    if both > MAY_BE_OFF or float(delta_e_00(entry.lab, foretold.lab)) > MAY_BE_OFF:
        return entry
    doubts = tuple(doubt for doubt in entry.doubts if doubt != UNSURE)
    return replace(entry, doubts=doubts, trust=DOUBTFUL if doubts else GOOD)


def _is_weak(found: Found) -> bool:
    """Whether a place that was found by itself may be right, and is not borne out plainly."""
    return found.by not in GIVEN and not found.sound and (found.bearing.fair or not found.bearing.enough)


def _wrong(found: Found, verdict: Verdict, sheet: Sheet, doubt: str) -> str:
    bearing = found.bearing
    if bearing.enough and not bearing.fair:
        return tr(
            'the cells in the picture do not lie as those of "{title}" do; is it another sheet?',
            title=sheet.title,
        )
    if _is_weak(found):
        return tr(
            '"{title}" may lie as it is drawn here, but the picture does not show it plainly; look whether the '
            "outlines lie on the cells, and move them where they do not",
            title=sheet.title,
        )
    if doubt == MIRRORED:
        return tr(
            'the writing of "{title}" lies as in a mirror; is the picture mirrored? Then turn it over where it was '
            "taken, and open it again",
            title=sheet.title,
        )
    if doubt == TURNED:
        return tr(
            'nothing in the picture tells which way round "{title}" lies; look whether it lies as it is drawn here',
            title=sheet.title,
        )
    if verdict.fits is False:
        return tr(
            'the colours do not fit the recipes of "{title}"; is it another sheet, or another way round?',
            title=sheet.title,
        )
    return ""


def _is_colourless(
    cells: Sequence[Cell], lab: Array, painted: Flags, paper: Array, expected: Mapping[str, Expected]
) -> bool:
    """Whether a picture shows no colours where there must be some: by what is foretold, or by three paints and more."""
    some = [i for i in range(len(cells)) if painted[i] and cells[i].recipe.layers]
    if len(some) < 4 or np.hypot(*(lab[some] - paper)[:, 1:].T).max() > _COLOURLESS:
        return False
    told = [np.hypot(*expected[cells[i].id].lab[1:]) for i in some if cells[i].id in expected]
    if told:
        return bool(np.median(told) > _COLOURFUL)
    return len({name.casefold() for i in some for name in cells[i].recipe.names}) >= 3


def _away(cell: Cell, place_mm: tuple[float, float]) -> float:
    return float(np.hypot(*(np.mean(cell.outline_mm, axis=0) - np.array(place_mm))))


def _notes(reader: _Reader, found: Found, verdict: Verdict) -> list[str]:
    notes = []
    if verdict.fits is None:
        notes.append(
            tr("nothing is known of these paints yet, so that it was not checked which sheet this is")
        )
    if reader.light.blocks and reader.light.tints_apart() > _TINTS:
        notes.append(
            tr("two lights of different tints fall on the sheet; switch one off, or go into the shade")
        )
    if reader.gleam.light:
        nearest = min(reader.sheet.cells, key=lambda cell: _away(cell, reader.gleam.middle_mm))
        notes.append(
            tr(
                "something shines on the paint about {cell}; most of it was taken away, but a picture with the light "
                "from the side reads better",
                cell=nearest.id,
            )
        )
    if reader.light.burnt > _BURNT_SHARE:
        notes.append(tr("the bare paper is burnt out; take the picture again, darker"))
    if reader.card is not None:
        notes.append(
            tr(
                "the reference card's patches were {before:.1f} away on average, and are {after:.1f} "
                "after the correction",
                before=reader.card.before,
                after=reader.card.after,
            )
        )
    if found.turned > 0.25:
        way = tr("upside down") if found.turned > 0.75 else tr("on its side")
        notes.append(tr("the sheet lies {way} in the picture; it was turned", way=way))
    if reader.missing:
        count = len(reader.missing)
        notes.append(
            trn(
                "{n} cell is not in the picture: {what}",
                "{n} cells are not in the picture: {what}",
                count,
                what=", ".join(reader.missing[:6]),
            )
        )
    if not reader.light.blocks:
        notes.append(tr("no bare paper is seen around the cells; the light could not be judged"))
    elif reader.light.reach < 0.45:
        notes.append(tr("the light is very uneven; a picture in the shade, or by two lamps, reads better"))
    return notes
