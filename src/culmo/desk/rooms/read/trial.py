"""A picture that is being read: what was seen in it, what the painter left out, and what will be kept."""

from collections.abc import Callable, Generator, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from culmo.core.capture.card import Card
from culmo.core.capture.instrument import painted_by_hand
from culmo.core.capture.judge import Expected
from culmo.core.capture.locate import smaller
from culmo.core.capture.phone import random_phone
from culmo.core.capture.photo import Photo, Pixels
from culmo.core.capture.placement import Placement
from culmo.core.capture.quality import FAULT_WORDS, SIDE, QualityLook, faults
from culmo.core.capture.read import reading_sheet
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.sheet_reading import (
    DOUBT_WORDS,
    FOUND_WORDS,
    GIVEN,
    CellDoubt,
    CellReading,
    SheetReading,
    as_shown,
)
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array
from culmo.core.paint.character import triple
from culmo.core.paint.lights import ShotLight
from culmo.core.paint.readings import Trust
from culmo.core.steps import scaled
from culmo.desk.drawing.cell_look import CellLook
from culmo.errors import CulmoError
from culmo.study.file import Command, Study
from culmo.study.measured import read_card
from culmo.study.patches import Patch
from culmo.study.photo_acts import Picture, PictureKept, read_picture, wet_cells
from culmo.study.pictures import jpeg_bytes, photo_from_bytes, picture_file, size_of, thumbnail
from culmo.study.records import SheetRecord
from culmo.study.seen import PRACTICE
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.core.paint.estimate import Estimate
    from culmo.desk.settings import Settings

PREVIEW_PX = 1800


class PracticeDrying(StrEnum):
    """Whether the sheet has dried in a practice picture."""

    BY_CLOCK = "clock"
    ALL_WET = "wet"
    ALL_DRY = "dry"


LIGHT_WORDS = {
    "": tr("Light: not said"),
    ShotLight.WINDOW: tr("Light: by a window, or outside"),
    ShotLight.BULB: tr("Light: a bulb that glows"),
    ShotLight.LED: tr("Light: an LED lamp"),
    ShotLight.TUBE: tr("Light: a tube, energy-saving lamp"),
    ShotLight.GAPPED: tr("Light: a coloured or street lamp"),
}
WET_WORDS = tr("still wet when the picture was taken")


@dataclass
class PracticeTrial:
    """A picture on the table of the Read room; nothing of it is in the record yet.

    Attributes
    ----------
    name : str, the picture's name
    data : bytes, its file
    photo : Photo
    preview : (h, w, 3) uint8, sRGB, for the screen
    sheet : Sheet that is looked for in it, or None
    reading : SheetReading or None where the sheet was not found
    problem : str, why not, or what is wrong with it
    card : Card that it is corrected by, or None
    wet_by_clock : frozenset of the ids of cells that had not dried when the picture was taken, by the times of their strokes
    drying : str, a PracticeDrying, what the painter says of it
    left_out, taken : sets of cell ids that the painter leaves out, or trusts in spite of a doubt
    source : str, as the record will name it
    faults : tuple of str, what is wrong with the picture itself, keys of FAULT_WORDS
    light : str, by which light it was taken as the painter says, a key of LIGHT_WORDS
    """

    name: str
    data: bytes
    photo: Photo
    preview: Pixels
    sheet: Sheet | None = None
    reading: SheetReading | None = None
    problem: str = ""
    card: Card | None = None
    wet_by_clock: frozenset[str] = frozenset()
    drying: str = PracticeDrying.BY_CLOCK
    left_out: set[str] = field(default_factory=set)
    taken: set[str] = field(default_factory=set)
    source: str = "photo"
    faults: tuple[str, ...] = ()
    light: str = ""

    @property
    def wet(self) -> frozenset[str]:
        """The ids of the cells whose paint was still wet."""
        if self.drying == PracticeDrying.BY_CLOCK:
            return self.wet_by_clock
        if self.drying != PracticeDrying.ALL_WET or self.reading is None:
            return frozenset()
        return frozenset(entry.cell for entry in self.reading.readings)

    @property
    def has_card_place(self) -> bool:
        """Whether the sheet has a place on which a reference card lies."""
        return self.sheet is not None and self.sheet.card_mm is not None

    @property
    def scale(self) -> float:
        """Preview pixels for one of the picture."""
        return float(self.preview.shape[1] / self.photo.size[0])

    def _looked(self, entry: CellReading) -> CellReading:
        """What was read of a cell; of a wet one as the picture shows it."""
        return as_shown(entry, self.reading.shot) if self.reading and entry.cell in self.wet else entry

    def of(self, cell_id: str) -> CellReading | None:
        """What was read in a cell; of a band the full end."""
        if self.reading is None:
            return None
        own = [
            entry
            for entry in self.reading.readings
            if entry.cell == cell_id and CellDoubt.PALE not in entry.doubts
        ]
        return self._looked(own[0]) if own else None

    def look(self, cell_id: str) -> CellLook | None:
        """How a cell looks in the picture, its real paint with it; None where nothing was read of it."""
        entry, reading = self.of(cell_id), self.reading
        if entry is None or reading is None or reading.shot is None or self.sheet is None:
            return None
        cut, patch = reading.patches.get(cell_id), None
        if cut is not None and entry.seen is not None:
            _, _, width, height = self.sheet.cell(cell_id).box_mm
            patch = Patch(
                0, cut.data, cut.left_mm, cut.top_mm, (width, height), cut.per_mm, entry.seen, reading.shot.paper,
                reading.shot.key, cut.texture,
            )  # fmt: skip
        return CellLook(recorded=triple(entry.lab), patch=patch)

    def lab(self) -> dict[str, tuple[float, float, float]]:
        """The colours read, by cell id."""
        entries = self.reading.readings if self.reading else ()
        return {entry.cell: triple(self._looked(entry).lab) for entry in reversed(entries)}

    def doubtful(self) -> list[str]:
        """The cells to be looked at: in doubt, and not yet decided."""
        entries = self.reading.readings if self.reading else ()
        found = [e.cell for e in entries if e.trust != Trust.GOOD and CellDoubt.PALE not in e.doubts]
        return [cell for cell in dict.fromkeys(found) if cell not in self.left_out and cell not in self.taken]

    def doubts(self, cell_id: str) -> str:
        """Why a cell is in doubt, in words."""
        entry = self.of(cell_id)
        if entry is None:
            return ""
        words = [DOUBT_WORDS[doubt] for doubt in entry.doubts]
        if entry.other:
            words.append(tr("its colour fits {other}", other=entry.other))
        if cell_id in self.wet:
            words.append(WET_WORDS)
        return "; ".join(words)

    def leave_out(self, cell_id: str) -> None:
        """Not into the record."""
        self.left_out.add(cell_id)
        self.taken.discard(cell_id)

    def take(self, cell_id: str) -> None:
        """Into the record as a good reading, in spite of the doubt."""
        self.taken.add(cell_id)
        self.left_out.discard(cell_id)

    def command(
        self, study: Study, sheet_id: int, sound_only: bool = False, where: str = PictureKept.BESIDE
    ) -> Command:
        """The act that keeps it.

        Parameters
        ----------
        study : Study
        sheet_id : int
        sound_only : bool, without the cells in doubt that were not decided
        where : str, whether the picture is kept beside the study or inside

        Raises
        ------
        CulmoError
            when nothing is left to keep
        """
        if self.reading is None:
            raise CulmoError(tr("the sheet was not found in the picture; give its corners first"))
        undecided = set(self.doubtful()) if sound_only else set()
        kept = [e for e in self.reading.readings if e.cell not in self.left_out and e.cell not in undecided]
        if not kept:
            raise CulmoError(tr("every cell is left out; there is nothing to keep"))
        taken = self.photo.taken.isoformat(timespec="seconds") if self.photo.taken else ""
        picture = Picture(self.name, self.data, taken, self.reading.placement, where)
        trusted = dict.fromkeys(self.taken, Trust.GOOD) if not self.reading.wrong else {}
        shot, patches = self.reading.shot, self.reading.patches
        return read_picture(study, sheet_id, kept, picture, self.source, trusted, self.wet, shot, patches)

    def summary(self) -> str:
        """What was found, in a few words."""
        faults = [_sentence(FAULT_WORDS[fault]) for fault in self.faults]
        if self.reading is None:
            return "\n".join([*faults, _sentence(self.problem)])
        count = len({entry.cell for entry in self.reading.readings})
        words = [
            tr("{count} cells read, {FOUND_WORDS}", count=count, FOUND_WORDS=FOUND_WORDS[self.reading.by])
        ]
        doubtful = len(self.doubtful())
        words.append(tr("{doubtful} to be looked at", doubtful=doubtful) if doubtful else tr("none in doubt"))
        if self.wet:
            words.append(tr("{n} still wet: they will not teach", n=len(self.wet)))
        lines = [", ".join(words) + "."]
        lines += [_sentence(note) for note in self.reading.notes]
        return "\n".join(faults + lines)


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:] + "."


@dataclass(frozen=True)
class PracticeSource:
    """Where a picture comes from: a file, or bytes from the clipboard or the simulated camera."""

    name: str
    path: Path | None = None
    data: bytes = b""
    source: str = "photo"


def looking(source: PracticeSource) -> Generator[float, None, list[str]]:
    """What is wrong with a picture, in words: told in a moment, before the sheet is sought in it.

    Raises
    ------
    CulmoError
        when the picture can not be opened
    """
    yield 0.0
    data = source.data if source.path is None else picture_file(source.path)
    size = size_of(data, source.name)
    yield 0.3
    return [FAULT_WORDS[fault] for fault in faults(QualityLook(thumbnail(data, source.name, SIDE), size))]


def trying(
    source: PracticeSource,
    sheet: Sheet | None,
    paper: Array,
    expected: Mapping[str, Expected],
    known: KnownBefore | None = None,
    card: Card | None = None,
) -> Generator[float, None, PracticeTrial]:
    """Open a picture and read the sheet in it; a sheet that is not found leaves the picture to look at.

    A card is one that may lie on the sheet's place for it.

    Raises
    ------
    CulmoError
        when the picture can not be opened
    """
    data = source.data if source.path is None else picture_file(source.path)
    yield 0.05
    photo = photo_from_bytes(data, source.name)
    yield 0.25
    preview = preview_of(photo)
    found = tuple(faults(QualityLook(smaller(preview, SIDE)[0], photo.size)))
    trial = PracticeTrial(source.name, data, photo, preview, sheet, source=source.source, faults=found)
    yield 0.32
    return trial if sheet is None else (yield from read_again(trial, paper, expected, card=card, known=known))


def read_again(
    trial: PracticeTrial,
    paper: Array,
    expected: Mapping[str, Expected],
    corners: Array | None = None,
    placed: Placement | None = None,
    card: Card | None = None,
    known: KnownBefore | None = None,
) -> Generator[float, None, PracticeTrial]:
    """Read the picture once more: with corners given by hand, a nudged placement, or a reference card.

    Gives a new trial, since this one may be on view meanwhile. Where it can not be done, what was read before stands,
    with the problem; where it can, the cells that the painter left out stay so.
    """
    assert trial.sheet is not None
    if card is not None and trial.reading is not None:
        placed = trial.reading.placement  # a card changes colours, not where the sheet lies
    card = card or trial.card
    try:
        steps = reading_sheet(trial.photo, trial.sheet, corners, paper, expected, card, placed, known)
        reading = yield from scaled(steps, 0.35, 1.0)
    except CulmoError as error:
        return replace(trial, problem=str(error))
    light = known.light if known is not None else ""
    return replace(trial, reading=reading, problem=reading.wrong, card=card, taken=set(), light=light)


def lit(known: KnownBefore | None, settings: "Settings | None") -> KnownBefore | None:
    """What is known beside a picture, with the light that the painter said last."""
    light = settings.light if settings is not None else ""
    return replace(known or KnownBefore(), light=light) if light in LIGHT_WORDS and light else known


def given_place(trial: PracticeTrial) -> Placement | None:
    """Where the sheet lies, if the painter gave that; else it is found again."""
    reading = trial.reading
    return reading.placement if reading is not None and reading.by in GIVEN else None


def card_of(path: Path, rows: int, settings: "Settings | None" = None) -> Card:
    """A reference card by the file with its values, which is remembered.

    Raises
    ------
    CulmoError
        when the file can not be read, or its patches do not fill the rows
    """
    card = Card(np.array([lab for _, lab in read_card(path)]).reshape(-1, 3), None, rows)
    if settings is not None:
        settings.card = str(path), rows
    return card


def usual_card(sheet: Sheet | None, settings: "Settings | None") -> Card | None:
    """The card that was used last, where the sheet has a place for one; it may not lie there."""
    path, rows = settings.card if settings is not None else ("", 1)
    if sheet is None or sheet.card_mm is None or not path:
        return None
    try:
        return replace(card_of(Path(path), rows), may_lack=True)
    except CulmoError:
        return None  # its file went away: the picture is read without


def preview_of(photo: Photo) -> Pixels:
    """A smaller picture for the screen, in sRGB, (h, w, 3) uint8."""
    from culmo.core.capture.locate import smaller
    from culmo.core.colour.srgb import srgb_from_lab

    small, _ = smaller(photo.pixels, PREVIEW_PX, deep=True)
    if photo.space.startswith("sRGB") and small.dtype == np.uint8:
        return np.ascontiguousarray(small)
    rgb = srgb_from_lab(photo.lab(photo.linear(small)))
    return np.ascontiguousarray(np.round(rgb * 255.0).astype(np.uint8))


def note_wet(trial: PracticeTrial, study: Study, sheet_id: int) -> None:
    """Find the cells that had not dried when the picture was taken."""
    taken = trial.photo.taken.isoformat() if trial.photo.taken else study.clock()
    trial.wet_by_clock = frozenset(wet_cells(study, sheet_id, taken))


def practice(
    record: SheetRecord, estimate: "Estimate", grain: Callable[[str], float], taken: datetime, seed: int
) -> Generator[float, None, PracticeSource]:
    """A practice photo: the sheet as an imperfect hand would paint it and an ordinary phone would see it, which sees not
    as the eye does and bends what it saw.

    Parameters
    ----------
    record : SheetRecord
    estimate : Estimate
    grain : function from a paint's name to how much it granulates
    taken : datetime, the time that the picture bears
    seed : int, another one gives another picture of another hand
    """
    from culmo.core.capture.camera import photograph, random_shot

    yield 0.05
    rng = np.random.default_rng(seed)
    phone = random_phone(np.random.default_rng([seed, 1]))
    colours = painted_by_hand(estimate, record.sheet, rng, phone.sees)
    if not colours:
        raise CulmoError(
            tr("nothing is known yet of the paints on this sheet; a practice photo can not be made")
        )
    grains = {
        entry.cell.id: float(np.mean([grain(name) for name in entry.cell.recipe.names] or [0.0]))
        for entry in record.cells
    }
    yield 0.2
    shot = random_shot(rng, 2000)
    seen = photograph(record.sheet, colours, shot, rng, grains)
    yield 0.9
    data = jpeg_bytes(phone.developed(seen.pixels), taken, seen.wide)
    return PracticeSource(tr("practice photo.jpg"), None, data, PRACTICE)
