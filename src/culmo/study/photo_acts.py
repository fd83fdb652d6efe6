"""Colours from pictures and instruments into the record, and the pictures with them."""

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from uuid import uuid4

from culmo.core.capture.placement import Placement
from culmo.core.capture.sheet_reading import DOUBT_WORDS, CellDoubt, CellPatch, CellReading, as_shown
from culmo.core.chart.run import Run
from culmo.core.colour.spectral import Array
from culmo.core.paint.character import Shot
from culmo.core.paint.readings import Reading, Trust
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe
from culmo.study.acts import Incoming, add_readings
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.study.looks import UNSAID, painted_between, seen_again
from culmo.study.paint_acts import drying_of, strokes_of
from culmo.study.patches import draft_patch
from culmo.study.photo_files import keep_file
from culmo.study.records import SOURCE_WORDS, CellRecord, mixings_of, sheet_record
from culmo.study.seen import kept_text, shot_text
from culmo.study.soundness import moment_of
from culmo.words import tr, trn


class PictureKept(StrEnum):
    """Where a picture is kept: beside the study, or inside of it."""

    BESIDE = "beside"
    INSIDE = "inside"


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept.

    Attributes
    ----------
    name : str, the file's name
    data : bytes, the file
    taken : str, ISO 8601, or empty where the picture does not say
    placement : Placement of the sheet in it, or None
    where : str, "beside" the study or "inside" it
    """

    name: str
    data: bytes
    taken: str = ""
    placement: Placement | None = None
    where: str = PictureKept.BESIDE


def wet_cells(study: Study, sheet_id: int, taken: str) -> set[str]:
    """The cells whose drying time had not passed when a picture was taken."""
    record = sheet_record(study, sheet_id)
    strokes = strokes_of(study, sheet_id, record.cells)
    if not strokes or not taken:
        return set()
    moment = moment_of(taken)
    before = [stroke for stroke in strokes if stroke.at <= moment]
    later = {stroke.cell for stroke in strokes if stroke.at > moment}  # painted only after the picture
    return set(Run(record.sheet).state(before, moment, drying_of(study, sheet_id)).wet) | later


def read_picture(
    study: Study,
    sheet_id: int,
    readings: Sequence[CellReading],
    picture: Picture | None = None,
    source: str = "photo",
    trusted: Mapping[str, str] | None = None,
    wet: Collection[str] | None = None,
    shot: Shot | None = None,
    patches: Mapping[str, CellPatch] | None = None,
) -> Command:
    """The colours that a picture (or an instrument) gives, with the picture.

    What was read of a cell before stays with it, and is put together with what is read now (see `looks`); the look of the
    wet cell stands beside that of the dry one.

    Parameters
    ----------
    study : Study
    sheet_id : int
    readings : sequence of CellReading
    picture : Picture to keep, or None
    source : str, where the colours come from
    trusted : mapping from cell id to a trust that the painter gave instead
    wet : collection of str, the cells that were wet as the painter says; None leaves it to the times of the strokes
    shot : Shot, the picture as it was read, by which what the camera saw is kept
    patches : mapping from cell id to CellPatch, the real paint of the cells
    """
    record = sheet_record(study, sheet_id)
    entries = record.by_cell()
    mixings = mixings_of(study, [cell.id for cell in record.cells])
    draft = Draft(
        study,
        tr("Read {title} from {value}", title=record.sheet.title, value=f'"{picture.name}"')
        if picture
        else tr("Read {title} {how}", title=record.sheet.title, how=SOURCE_WORDS.get(source, source)),
    )
    taken = picture.taken if picture and picture.taken else draft.at
    if wet is None:
        wet = wet_cells(study, sheet_id, taken)
    wet = {entry.cell for entry in readings} & set(wet)
    key = uuid4().hex[:16]
    of_shot = shot_text(shot, key) if shot is not None else ""
    photo_id = draft_picture(draft, picture, of_shot, sheet_id=sheet_id) if picture is not None else None
    count = 0
    for entry in readings:
        own = entries.get(entry.cell)
        if own is None:
            continue
        trust = entry.trust
        if (
            CellDoubt.PALE not in entry.doubts
        ):  # the strength of a pale end is not known, whatever the painter says of the cell
            trust = (trusted or {}).get(entry.cell, trust)
        if entry.cell in wet:
            trust, entry = Trust.WET, as_shown(entry, shot)
        seen = "" if shot is None else kept_text(entry, shot, key)
        reading_id = _put(draft, sheet_id, own, mixings[own.id], entry, trust, photo_id, source, taken, seen)
        patch = (patches or {}).get(entry.cell)
        if (
            patch is not None and seen and CellDoubt.PALE not in entry.doubts
        ):  # a band has its whole run in one
            draft_patch(draft, reading_id, own.cell, patch, seen, source, taken)
        count += 1
    title = record.sheet.title
    if picture is not None:
        said = trn(
            '{n} colour of {title} was read from "{name}"', '{n} colours of {title} were read from "{name}"', count,
            title=title, name=picture.name,
        )  # fmt: skip
    else:
        said = trn(
            "{n} colour of {title} was read {how}", "{n} colours of {title} were read {how}", count, title=title,
            how=SOURCE_WORDS.get(source, source),
        )  # fmt: skip
    if wet:
        said = trn("{said}; {n} cell was still wet", "{said}; {n} cells were still wet", len(wet), said=said)
    draft.tell("reading", said, sheet_id=sheet_id)
    return draft.command()


def draft_picture(draft: Draft, picture: Picture, shot: str = "", **about: int | None) -> int:
    """A picture as a part of an act, of a sheet or of a note, with what is kept of it (`seen.shot_text`); gives its id."""
    inside = picture.where == PictureKept.INSIDE
    placement = placement_to_dict(picture.placement) if picture.placement else {}
    if shot:
        placement["shot"] = shot
    return draft.add(
        "photos",
        **about,
        path="" if inside else keep_file(draft.study, picture.name, picture.data),
        data=picture.data if inside else None,
        taken=picture.taken or None,
        note="",
        created=draft.at,
        name=picture.name,
        placement=json.dumps(placement),
    )


def _put(
    draft: Draft,
    sheet_id: int,
    cell: CellRecord,
    mixing: str,
    entry: CellReading,
    trust: str,
    photo_id: int | None,
    source: str,
    taken: str,
    seen: str,
) -> int:
    L, a, b = (float(value) for value in entry.lab)
    words = "; ".join(DOUBT_WORDS[doubt] for doubt in entry.doubts)
    values = {
        "L": min(max(L, 0.0), 100.0), "a": a, "b": b, "trust": trust, "photo_id": photo_id, "source": source,
        "taken": taken, "mixing": mixing, "granulation": entry.granulation, "separation": entry.separation, "note": words,
        "seen": seen,
    }  # fmt: skip
    text = format_recipe(entry.recipe)
    earlier = [
        row
        for row in draft.study.rows("readings", "cell_id = ?", (cell.id,))
        if (row["trust"] == Trust.WET) == (trust == Trust.WET)
        and parse_recipe(row["recipe"]).key == entry.recipe.key
        and (cell.cell.treatment not in ("covered", "exposed") or row["taken"][:10] == taken[:10])
    ]
    uncertainty = round(float(entry.uncertainty), 2)
    if earlier:
        row = earlier[-1]
        if trust != Trust.WET:
            look, painted = (
                {**values, "uncertainty": uncertainty},
                painted_between(draft.study, cell.id, row["taken"], taken),
            )
            values = {"mixing": mixing, **seen_again(row, look, painted)}
            seen_in = values["photo_id"]
            if seen_in not in (None, photo_id) and not draft.study.rows("photos", "id = ?", (seen_in,)):
                values["photo_id"] = photo_id  # that of the look that counts was let go of
        draft.edit("readings", row["id"], **values)
        return int(row["id"])
    return draft.add(
        "readings", recipe=text, ground=entry.ground, paper="", sheet_id=sheet_id, cell_id=cell.id,
        treatment=cell.cell.treatment, dry_hours=None, extra=json.dumps({"uncertainty": uncertainty}), **values,
    )  # fmt: skip


def placement_to_dict(placement: Placement) -> dict[str, object]:
    """A placement as JSON."""
    return {
        "homography": placement.homography.tolist(),
        "bend": placement.bend.tolist(),
        "box_mm": list(placement.box_mm),
    }


def read_swatch(study: Study, recipe: Recipe, lab: Array, ground: str, source: str) -> Command:
    """The colour of a loose swatch that belongs to no sheet.

    Raises
    ------
    CulmoError
        when the recipe names a paint that is not in the box
    """
    L, a, b = (float(value) for value in lab)
    reading = Reading(recipe, (min(max(L, 0.0), 100.0), a, b), ground)
    said = (("source", source), ("extra", json.dumps({"uncertainty": UNSAID})))
    return add_readings(study, [Incoming(reading, None, said)], tr("a loose swatch"))
