"""The real paint out of pictures that were kept before patches were: a study of earlier days gets them by itself."""

import json
from collections.abc import Generator, Mapping
from dataclasses import dataclass
from uuid import uuid4

import numpy as np

from culmo.core.capture.placement import Placement
from culmo.core.capture.read import reading_sheet
from culmo.core.capture.sample import bare_paper
from culmo.core.capture.sheet_reading import CellDoubt, CellPatch
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.spectral import Array
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.study.patches import draft_patch
from culmo.study.photo_files import picture_bytes
from culmo.study.pictures import photo_from_bytes
from culmo.study.records import bare_readings, json_of, sheet_record
from culmo.study.seen import kept_text
from culmo.study.uncut import TRIED
from culmo.words import tr


@dataclass(frozen=True)
class OlderPicture:
    """A kept picture, and what is to be cut out of it.

    Attributes
    ----------
    photo_id : int
    name : str
    data : bytes, its file
    sheet : Sheet, as it was planned when it was read
    placement : Placement of the sheet in it
    paper : (3,) float, CIELAB of the bare paper
    wanted : mapping from a cell's id to the id of its reading, and what was kept as seen; empty in the oldest
    """

    photo_id: int
    name: str
    data: bytes
    sheet: Sheet
    placement: Placement
    paper: Array
    wanted: Mapping[str, tuple[int, str]]


@dataclass(frozen=True)
class Cut:
    """What was cut out of an older picture.

    Attributes
    ----------
    picture : OlderPicture
    patches : mapping from a cell's id to CellPatch
    seen : mapping from a cell's id to what was seen of it, as it is kept
    """

    picture: OlderPicture
    patches: Mapping[str, CellPatch]
    seen: Mapping[str, str]


def older_picture(study: Study, photo_id: int) -> OlderPicture | None:
    """A kept picture with what it takes to cut it up; None where its file or its place is gone."""
    try:
        photo = study.row("photos", photo_id)
        record = sheet_record(study, photo["sheet_id"])
        placement = placement_in(json_of(photo, "placement"))
        data = picture_bytes(study, photo)
    except (CulmoError, OSError):
        return None
    if placement is None:
        return None
    cells = {entry.id: entry.cell for entry in record.cells}
    wanted: dict[str, tuple[int, str]] = {}
    for row in study.rows("readings", "photo_id = ?", (photo_id,)):
        cell = cells.get(row["cell_id"])
        if cell is not None and cell.id not in wanted:  # of a band the full end comes first
            wanted[cell.id] = int(row["id"]), str(row["seen"])
    return OlderPicture(
        photo_id, str(photo["name"]), data, record.sheet, placement, bare_paper(bare_readings(study)), wanted,
    )  # fmt: skip


def placement_in(whole: Mapping[str, object]) -> Placement | None:
    """Where a sheet lies in a picture, from what is kept of it; None where that makes no sense."""
    try:
        homography, bend = (np.array(whole[name], dtype=float) for name in ("homography", "bend"))
        box = np.array(whole["box_mm"], dtype=float)
        bend = bend.reshape(-1, 2) if bend.size else np.zeros((0, 2))
    except (KeyError, TypeError, ValueError):
        return None
    fine = homography.shape == (3, 3) and len(bend) in (0, 6, 10) and box.shape == (4,) and box[2:].min() > 0
    if not fine or not all(np.isfinite(part).all() for part in (homography, bend, box)):
        return None
    x, y, width, height = (float(value) for value in box)
    return Placement(homography, bend, (x, y, width, height))


def cutting_up(picture: OlderPicture) -> Generator[float, None, Cut]:
    """Cut the cells out of an older picture; yields the progress, 0..1. What can not be had is left out."""
    try:
        photo = photo_from_bytes(picture.data, picture.name)
        yield 0.1
        reading = yield from reading_sheet(
            photo, picture.sheet, paper=picture.paper, placed=picture.placement
        )
    except CulmoError:
        return Cut(picture, {}, {})
    entries = {
        entry.cell: entry for entry in reversed(reading.readings) if CellDoubt.PALE not in entry.doubts
    }
    key, shot = uuid4().hex[:16], reading.shot
    seen = {
        name: kept or (kept_text(entries[name], shot, key) if shot is not None and name in entries else "")
        for name, (_, kept) in picture.wanted.items()
    }
    return Cut(picture, reading.patches, seen)


def keep_cut(study: Study, cut: Cut) -> Command:
    """The patches of an older picture into the record; where there are none it is noted that it was tried."""
    picture = cut.picture
    draft = Draft(study, tr('Take the real paint out of "{name}"', name=picture.name))
    cells: dict[str, Cell] = {cell.id: cell for cell in picture.sheet.cells}
    there = {int(row["id"]): row for row in study.rows("readings", "photo_id = ?", (picture.photo_id,))}
    found = False
    for name, (reading_id, _) in picture.wanted.items():
        patch, seen = cut.patches.get(name), cut.seen.get(name, "")
        row = there.get(reading_id)
        if patch is not None and seen and row is not None:
            draft_patch(draft, reading_id, cells[name], patch, seen, row["source"], row["taken"])
            found = True
    photos = study.rows("photos", "id = ?", (picture.photo_id,))
    if not found and photos:
        placement = {**json_of(photos[0], "placement"), TRIED: 0}
        draft.edit("photos", picture.photo_id, placement=json.dumps(placement))
    return draft.command()
