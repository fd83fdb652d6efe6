"""From a picture of a dry sheet to the colours of its cells."""

from collections.abc import Generator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.capture.card import CardFit
from culmo.core.capture.cells import FADE_AT, Patch, Sampler, cell_patches
from culmo.core.capture.judge import UNPAINTED, Expected, Verdict, judge_sheet, mixed_up
from culmo.core.capture.light import LightField, bare_mask, light_field
from culmo.core.capture.locate import Found, locate, place_by_corners, smaller
from culmo.core.capture.photo import Photo
from culmo.core.capture.placement import Placement, edge_points, flatten, refine
from culmo.core.capture.sample import PAPER_LAB
from culmo.core.chart.order import neighbours
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.readings import DOUBTFUL, GOOD, INK
from culmo.core.paint.recipe import Recipe
from culmo.errors import CulmoError

FINE_PER_MM = 5.0  # pixels per millimetre at which cells are read
_QUICK_PER_MM = 2.5
_LEAST_PER_MM = 1.5
_PALE_SHARE = 0.2  # the film that is left about four fifths along a band that fades

CLIPPED, BARE, BLED, UNEVEN, SMALL, OUTSIDE, MIXED, PALE, UNLIT, OFF_SHEET = (
    "clipped", "unpainted", "bled", "uneven", "small", "outside", "mixed up", "pale end", "no bare paper", "wrong sheet",
)  # fmt: skip
DOUBT_WORDS = {
    CLIPPED: "outside the picture's colours",
    BARE: "looks unpainted",
    BLED: "a neighbour ran into it",
    UNEVEN: "very uneven",
    SMALL: "too little of it is seen",
    OUTSIDE: "outside the picture",
    MIXED: "looks like its neighbour",
    PALE: "pale end of a band; its strength is not known",
    UNLIT: "no bare paper to judge the light by",
    OFF_SHEET: "the picture does not fit this sheet",
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
    uncertainty : float, CIEDE2000, how far off it may easily be
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
    by : str, what it was found by
    turned : bool, whether the picture was turned
    light : LightField
    notes : tuple of str, what the painter should know
    wrong : str, why it may be another sheet; empty where it is not
    """

    readings: tuple[CellReading, ...]
    missing: tuple[str, ...]
    placement: Placement
    by: str
    turned: bool
    light: LightField
    notes: tuple[str, ...]
    wrong: str


def read_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: CardFit | None = None,
) -> SheetReading:
    """As `reading_sheet`, at one go."""
    steps = reading_sheet(photo, sheet, corners, paper, expected, card)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            result: SheetReading = end.value
            return result


def reading_sheet(
    photo: Photo,
    sheet: Sheet,
    corners: Array | None = None,
    paper: Array = PAPER_LAB,
    expected: Mapping[str, Expected] | None = None,
    card: CardFit | None = None,
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
    card : CardFit of a reference card in the picture
    placed : Placement, where the sheet lies, moved by hand; nothing is looked for then

    Raises
    ------
    CulmoError
        when the sheet is not found, the corners can not be right, or the picture is too small
    """
    expected = expected or {}
    yield 0.02
    if placed is not None:
        found, verdict = _judged_in_place(photo, sheet, placed), None
    elif corners is not None:
        found, verdict = place_by_corners(photo.pixels, sheet, corners), None
    else:
        found, verdict = _choose(photo, sheet, locate(photo.pixels, sheet), expected)
    yield 0.3
    if found.fit.placement.scale < _LEAST_PER_MM:
        raise CulmoError(
            f"the sheet takes only {found.fit.placement.scale:.1f} pixels a millimetre in this picture; "
            f"{_LEAST_PER_MM:g} are the least"
        )
    placement = found.fit.placement
    if placed is None:
        placement = _bend(photo, found, sheet)
    yield 0.5
    per_mm = float(np.clip(placement.scale, 2.0, FINE_PER_MM))
    sampler = Sampler(flatten(photo.pixels, placement, per_mm), photo, per_mm)
    yield 0.6
    patches = cell_patches(sampler, sheet.cells)
    yield 0.7
    sampler.light = light_field(sampler.flat, photo, sheet, per_mm, patches)
    sampler.learn_noise(bare_mask(sheet, per_mm, sampler.flat.shape[:2]))
    yield 0.75
    paper_linear = photo.linear_from_lab(paper)
    reader = _Reader(photo, sheet, sampler, placement, np.asarray(paper, dtype=float), paper_linear, card)
    entries: list[CellReading] = []
    for count, cell in enumerate(sheet.cells):
        entries += reader.read(cell)
        if count % 16 == 15:
            yield 0.75 + 0.2 * count / len(sheet.cells)
    entries = reader.neighbourly(entries)
    result = _finish(reader, entries, found, expected, verdict, placement)
    yield 1.0
    return result


def _judged_in_place(photo: Photo, sheet: Sheet, placed: Placement) -> Found:
    fit = refine(photo.pixels, placed, edge_points(sheet.cells), (), _QUICK_PER_MM, 6)
    return Found(replace(fit, placement=placed), "hand", 0.0)


def _bend(photo: Photo, found: Found, sheet: Sheet) -> Placement:
    """The last fraction of a millimetre, with the curl of the page."""
    if found.fit.support < 0.3:
        return found.fit.placement
    per_mm = float(np.clip(found.fit.placement.scale, 2.0, 4.0))
    fit = refine(photo.pixels, found.fit.placement, edge_points(sheet.cells), (1.5, 0.8), per_mm, 10)
    return fit.placement if fit.support >= 0.9 * found.fit.support else found.fit.placement


# ---- which way round


def _quick(photo: Photo, sheet: Sheet, place: Found, expected: Mapping[str, Expected], paper: Array) -> Verdict:
    """Whether the colours fit when the sheet lies so; a rough look, for comparing."""
    small, scale = smaller(photo.pixels)
    shrink = np.diag([scale, scale, 1.0])
    placement = replace(place.fit.placement, homography=shrink @ place.fit.placement.homography)
    levels = photo if photo.pixels.dtype == np.uint8 else replace(photo, curves=photo.curves[:, ::257])
    levels = replace(levels, pixels=small)
    sampler = Sampler(flatten(small, placement, _QUICK_PER_MM), levels, _QUICK_PER_MM)
    sampler.light = light_field(sampler.flat, levels, sheet, _QUICK_PER_MM)
    seen = [(cell, sampler.patch(cell)) for cell in sheet.cells if cell.fade_mm is None and cell.ground != INK]
    whole = [(cell, patch) for cell, patch in seen if patch is not None]
    if not whole:
        return Verdict(None, 1.0)
    light = np.array([patch.linear for _, patch in whole])
    lab = photo.lab(light * photo.linear_from_lab(paper))
    painted = delta_e_00(lab, paper) > UNPAINTED
    return judge_sheet([cell for cell, _ in whole], lab, -np.log(np.maximum(light, 2e-3)), painted, expected)


def _choose(
    photo: Photo, sheet: Sheet, places: list[Found], expected: Mapping[str, Expected], paper: Array = PAPER_LAB
) -> tuple[Found, Verdict]:
    """The way round that the colours bear out, where they tell; else the likeliest by edges and writing."""
    verdicts = [_quick(photo, sheet, place, expected, paper) for place in places]
    best = 0
    for other in range(1, len(places)):
        clearly = verdicts[other].measure < 0.7 * verdicts[best].measure
        if verdicts[other].fits is not False and clearly:
            best = other
    return places[best], verdicts[best]


# ---- cell by cell


class _Reader:
    def __init__(
        self,
        photo: Photo,
        sheet: Sheet,
        sampler: Sampler,
        placement: Placement,
        paper: Array,
        paper_linear: Array,
        card: CardFit | None,
    ) -> None:
        self.photo, self.sheet, self.sampler, self.placement = photo, sheet, sampler, placement
        self.paper, self.paper_linear, self.card = paper, paper_linear, card
        self.missing: list[str] = []
        self.density: dict[str, Array] = {}
        assert sampler.light is not None
        self.light = sampler.light

    def lab(self, linear: Array) -> Array:
        """CIELAB of light relative to the bare paper."""
        lab = self.photo.lab(np.maximum(linear, 0.0) * self.paper_linear)
        lab = lab if self.card is None else self.card.apply(lab)
        lab[..., 0] = np.clip(lab[..., 0], 0.0, 100.0)
        return np.asarray(lab)

    def read(self, cell: Cell) -> list[CellReading]:
        if not self._in_picture(cell):
            self.missing.append(cell.id)
            return []
        ends = FADE_AT if cell.fade_mm is not None else (None,)
        found = []
        for place, share in enumerate(ends):
            patch = self.sampler.patch(cell, share)
            if patch is None:
                if place == 0:
                    self.missing.append(cell.id)
                continue
            found.append(self._entry(cell, patch, place))
        return found

    def _in_picture(self, cell: Cell) -> bool:
        at = self.placement.to_pixels(np.array(cell.outline_mm))
        width, height = self.photo.size
        return bool((at >= -0.5).all() and (at[:, 0] < width).all() and (at[:, 1] < height).all())

    def _entry(self, cell: Cell, patch: Patch, place: int) -> CellReading:
        lab = self.lab(patch.linear)
        fades, pale = cell.fade_mm is not None, place == 1
        doubts = []
        if patch.clipped:
            doubts.append(CLIPPED)
        if patch.pixels < 60:
            doubts.append(SMALL)
        if not fades and (patch.left_out > 0.3 or patch.spread > 0.22):
            doubts.append(UNEVEN)
        if pale:
            doubts.append(PALE)
        elif cell.recipe.layers and cell.ground != INK and float(delta_e_00(lab, self.paper)) < UNPAINTED:
            doubts.append(BARE)
        if not self.light.blocks:
            doubts.append(UNLIT)
        recipe = cell.recipe
        if pale and recipe.layers:
            recipe = recipe.with_wash(round(recipe.layers[0].wash * _PALE_SHARE, 4))
        if not pale:
            self.density[cell.id] = -np.log(np.maximum(patch.linear, 2e-3))
        moved = self.lab(patch.linear * np.exp(min(patch.spread / 2.0, 0.5)))
        uneven = float(delta_e_00(lab, moved)) if not fades else 1.0
        light = float(delta_e_00(lab, self.lab(patch.linear * np.exp(self.light.uneven))))
        return CellReading(
            cell=cell.id,
            recipe=recipe,
            ground=cell.ground,
            lab=lab,
            trust=DOUBTFUL if doubts else GOOD,
            doubts=tuple(doubts),
            uncertainty=float(np.sqrt(0.3**2 + uneven**2 + light**2)),
            granulation=None if fades else patch.granulation,
            separation=None if fades else patch.separation,
        )

    def neighbourly(self, entries: list[CellReading]) -> list[CellReading]:
        """Marks the cells that a neighbour ran into."""
        beside = neighbours(self.sheet.cells)
        lab = {entry.cell: entry.lab for entry in reversed(entries)}
        cells = {cell.id: cell for cell in self.sheet.cells}
        result = []
        for entry in entries:
            cell = cells[entry.cell]
            if cell.fade_mm is None and BARE not in entry.doubts and self._bled(cell, beside[cell.id], lab):
                entry = replace(entry, doubts=(*entry.doubts, BLED), trust=DOUBTFUL)
            result.append(entry)
        return result

    def _bled(self, cell: Cell, beside: set[str], lab: Mapping[str, Array]) -> bool:
        others = [self.sheet.cell(name) for name in beside if name in lab]
        if not others:
            return False
        core, place = self.sampler.core(cell)
        at = self.sampler._where(core, place)
        linear = self.photo.linear(self.sampler._levels(core, place)) / self.sampler._light_at(at)
        middle = np.mean(cell.outline_mm, axis=0)
        for other in others:
            way = np.mean(other.outline_mm, axis=0) - middle
            along = (at - middle) @ way
            near = along > np.quantile(along, 0.88)
            far = along < np.quantile(along, 0.6)
            own, strip = self.lab(np.median(linear[far], axis=0)), self.lab(np.median(linear[near], axis=0))
            shift, toward = strip - own, lab[other.id] - own
            length = float(np.linalg.norm(shift) * np.linalg.norm(toward))
            if float(delta_e_00(own, strip)) > 5.0 and float(shift @ toward) > 0.8 * length:
                return True
        return False


def _finish(
    reader: _Reader,
    entries: list[CellReading],
    found: Found,
    expected: Mapping[str, Expected],
    verdict: Verdict | None,
    placement: Placement,
) -> SheetReading:
    cells = {cell.id: cell for cell in reader.sheet.cells}
    plain = [e for e in entries if PALE not in e.doubts and cells[e.cell].ground != INK]
    lab = np.array([e.lab for e in plain]).reshape(-1, 3)
    painted = np.array([BARE not in e.doubts for e in plain], dtype=bool)
    own = [cells[e.cell] for e in plain]
    density = np.array([reader.density[e.cell] for e in plain]).reshape(-1, 3)
    if plain and not painted.any():
        raise CulmoError(f'no cell of "{reader.sheet.title}" looks painted in this picture')
    verdict = judge_sheet(own, lab, density, painted, expected) if plain else Verdict(None, 1.0)
    swapped = mixed_up(own, lab, painted, expected)
    entries = [
        replace(e, doubts=(*e.doubts, MIXED), trust=DOUBTFUL, other=swapped[e.cell])
        if e.cell in swapped and PALE not in e.doubts
        else e
        for e in entries
    ]
    wrong = _wrong(found, verdict, reader.sheet)
    if wrong:
        entries = [replace(e, doubts=(*e.doubts, OFF_SHEET), trust=DOUBTFUL) for e in entries]
    return SheetReading(
        readings=tuple(entries),
        missing=tuple(reader.missing),
        placement=placement,
        by=found.by,
        turned=found.turned > 0.25,
        light=reader.light,
        notes=tuple(_notes(reader, found)),
        wrong=wrong,
    )


def _wrong(found: Found, verdict: Verdict, sheet: Sheet) -> str:
    if found.fit.support < 0.6 or found.fit.strays > 0.45:
        return f'the cells in the picture do not lie as those of "{sheet.title}" do; is it another sheet?'
    if verdict.fits is False:
        return f'the colours do not fit the recipes of "{sheet.title}"; is it another sheet, or another way round?'
    return ""


def _notes(reader: _Reader, found: Found) -> list[str]:
    notes = []
    if found.turned > 0.25:
        way = "upside down" if found.turned > 0.75 else "on its side"
        notes.append(f"the sheet lies {way} in the picture; it was turned")
    if reader.missing:
        count = len(reader.missing)
        notes.append(f"{count} cell{'s are' if count > 1 else ' is'} not in the picture: {', '.join(reader.missing[:6])}")
    if not reader.light.blocks:
        notes.append("no bare paper is seen around the cells; the light could not be judged")
    elif reader.light.reach < 0.45:
        notes.append("the light is very uneven; a picture in the shade, or by two lamps, reads better")
    return notes
