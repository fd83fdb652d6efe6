"""One sheet, or one paint, from one study into another: a JSON file with the paints and the readings that belong to it."""

import json
from collections.abc import Iterable, Mapping
from typing import Any

from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study.acts import Incoming, PaintEntry, draft_paint, draft_readings, draft_sheet
from culmo.study.draft import Draft
from culmo.study.file import Command, Row, Study
from culmo.study.records import json_of, readings_on, sheet_record
from culmo.study.row_reading import reading_of
from culmo.words import tr

SHARE_FORMAT, SHARE_VERSION = "culmo-share", 1
_PAINT = ("name", "codes", "status", "grain", "note")
_READING = ("recipe", "ground", "L", "a", "b", "paper", "source", "taken", "dry_hours", "granulation", "separation",
            "trust", "note", "treatment", "mixing")  # fmt: skip
_LATER = {"mixing": ""}  # what files of earlier versions do not say
_MOST = 20_000


def shared_paint(study: Study, paint_id: int) -> dict[str, Any]:
    """A paint with what was read of it alone, as JSON knows it."""
    paint = study.row("paints", paint_id)
    return _file(study, [paint], None, [])


def shared_sheet(study: Study, sheet_id: int) -> dict[str, Any]:
    """A sheet with its paints, their cards, and the readings of its cells, as JSON knows it."""
    record = sheet_record(study, sheet_id)
    names = {name.casefold() for cell in record.sheet.cells for name in cell.recipe.names}
    paints = [row for row in study.rows("paints", order="position, id") if row["name"].casefold() in names]
    cells = {entry.id: entry.cell.id for entry in record.cells}
    rows = readings_on(study, sheet_id)
    readings = [
        {**_picked(row, _READING), "cell": cells[row["cell_id"]]} for row in rows if row["cell_id"] in cells
    ]
    return _file(study, paints, sheet_to_dict(record.sheet), readings)


def _file(
    study: Study, paints: Iterable[Row], sheet: Mapping[str, Any] | None, readings: list[dict[str, Any]]
) -> dict[str, Any]:
    entries = []
    for paint in paints:
        card = [
            _picked(row, _READING)
            for row in study.rows("readings", "cell_id IS NULL AND sheet_id IS NULL")
            if [name.casefold() for name in parse_recipe(row["recipe"]).names] == [paint["name"].casefold()]
        ]
        entries.append({**_picked(paint, _PAINT), "label": json_of(paint, "label"), "card": card})
    return {
        "format": SHARE_FORMAT, "version": SHARE_VERSION, "from": study.title, "paints": entries, "sheet": sheet,
        "readings": readings,
    }  # fmt: skip


def _picked(row: Row, columns: Iterable[str]) -> dict[str, Any]:
    return {column: row[column] for column in columns}


def take_shared(study: Study, data: Mapping[str, Any], name: str) -> tuple[Command, str]:
    """What was shared as one act, and what comes, in words. Paints that are here by name stay as they are.

    Raises
    ------
    CulmoError
        when the file is damaged, or there is nothing new in it
    """
    if data.get("version") != SHARE_VERSION:
        raise CulmoError(tr('"{name}" is of another version', name=name))
    try:
        return _taken(study, data, name)
    except (KeyError, TypeError, ValueError, AttributeError, OverflowError) as error:
        raise CulmoError(tr('"{name}" is damaged: {error}', name=name, error=error)) from None


def _taken(study: Study, data: Mapping[str, Any], name: str) -> tuple[Command, str]:
    draft = Draft(study, tr("Take in {what}", what=name))
    known = {row["name"].casefold() for row in study.rows("paints")}
    came = []
    for entry in list(data["paints"])[:_MOST]:
        if str(entry["name"]).casefold() in known:
            continue
        known.add(str(entry["name"]).casefold())
        grain = None if entry["grain"] is None else float(entry["grain"])
        label = {str(key): str(value) for key, value in dict(entry["label"]).items()}
        paint = PaintEntry(
            str(entry["name"]), str(entry["codes"]), str(entry["status"]), grain, str(entry["note"]), label
        )
        draft_paint(draft, paint)
        draft_readings(draft, [_incoming(row, None) for row in list(entry["card"])[:_MOST]])
        came.append(paint.name)
    title = ""
    if data["sheet"] is not None:
        sheet = sheet_from_dict(data["sheet"])
        sheet_id, cells = draft_sheet(draft, sheet)
        readings = [_incoming(row, cells[str(row["cell"])]) for row in list(data["readings"])[:_MOST]]
        draft_readings(draft, readings, sheet_id)
        title = sheet.title
    if not came and not title:
        raise CulmoError(tr('"{name}" names no paint that is not in the study already', name=name))
    return draft.command(), ", ".join([*([title] if title else []), *came])


def _incoming(row: Mapping[str, Any], cell_id: int | None) -> Incoming:
    said = {**_LATER, **row}
    reading: Reading = reading_of({"id": 0, **{column: said[column] for column in _READING}})
    kept = ("source", "taken", "dry_hours", "granulation", "separation", "note")
    return Incoming(reading, cell_id, tuple((column, row[column]) for column in kept))


def share_text(data: Mapping[str, Any]) -> str:
    """The file's text."""
    return json.dumps(data, indent=1, ensure_ascii=False)
