"""Read room: typed colours and readings from files, matched to the sheet's cells."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from culmo.core.capture.drying import drying_shifts
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.study.acts import Incoming
from culmo.study.cgats import ENDINGS as CGATS
from culmo.study.cgats import read_cgats
from culmo.study.file import Study
from culmo.study.photo_acts import wet_and_dry
from culmo.study.records import SheetRecord, paints
from culmo.study.tables import ReadingRow, read_readings
from culmo.words import tr, trn


@dataclass(frozen=True)
class Import:
    """What a readings file offers.

    Attributes
    ----------
    rows : list of Incoming that can be taken in
    bad : list of str, what is wrong with the others, by line
    """

    rows: list[Incoming]
    bad: list[str]


def load_readings(path: Path, record: SheetRecord | None, known: Sequence[str]) -> Import:
    """Readings from a CSV or CGATS file; rows that name a cell of the sheet go to it.

    Raises
    ------
    CulmoError
        when the file as a whole can not be read
    """
    if path.suffix.casefold() in CGATS:
        return _load_cgats(path, record, known)
    good, bad = read_readings(path)
    folded = {name.casefold() for name in known}
    rows: list[Incoming] = []
    for row in good:
        missing = [name for name in row.reading.recipe.names if name.casefold() not in folded]
        if missing:
            bad.append(tr('line {line}: "{missing}" is not in the box', line=row.line, missing=missing[0]))
            continue
        rows.append(_incoming(row, record))
    return Import(rows, bad)


def _incoming(row: ReadingRow, record: SheetRecord | None) -> Incoming:
    cell_id = None
    named = str(row.values.get("cell", "")).casefold()
    if record is not None and named:
        title = str(row.values.get("sheet", "")).casefold()
        if not title or title == record.sheet.title.casefold():
            cell_id = next((e.id for e in record.cells if e.cell.id.casefold() == named), None)
    kept = ("source", "taken", "dry_hours", "granulation", "separation", "note")
    values = [(key, row.values[key]) for key in kept if key in row.values]
    if row.unknown:  # columns that Culmo does not know are kept with the reading
        values.append(("extra", json.dumps(row.unknown)))
    return Incoming(row.reading, cell_id, tuple(values))


def _load_cgats(path: Path, record: SheetRecord | None, known: Sequence[str]) -> Import:
    """Samples that are named by a cell or by a recipe; where none is, as many as cells are taken in the sheet's order."""
    samples, bad = read_cgats(path)
    folded = {name.casefold() for name in known}
    cells = {entry.cell.id.casefold(): entry for entry in record.cells} if record is not None else {}
    in_order = list(record.cells) if record is not None and len(samples) == len(record.cells) else []
    nameless = not any(s.name.casefold() in cells or _recipe(s.name, folded) for s in samples)
    rows: list[Incoming] = []
    for place, sample in enumerate(samples):
        L, a, b = (float(value) for value in sample.lab)
        entry = cells.get(sample.name.casefold()) or cells.get(sample.id.casefold())
        if entry is None and nameless and in_order:
            entry = in_order[place]
        recipe = entry.cell.recipe if entry is not None else _recipe(sample.name, folded)
        if recipe is None:
            bad.append(
                tr(
                    'line {line}: "{name}" is neither a cell of the sheet nor a recipe of the box',
                    line=sample.line,
                    name=sample.name,
                )
            )
            continue
        ground = entry.cell.ground if entry is not None else sample.ground
        treatment = entry.cell.treatment if entry is not None else ""
        reading = Reading(recipe, (min(max(L, 0.0), 100.0), a, b), ground, treatment=treatment)
        rows.append(Incoming(reading, entry.id if entry is not None else None, (("source", "instrument"),)))
    return Import(rows, bad)


def _recipe(text: str, folded: set[str]) -> Recipe | None:
    try:
        recipe = parse_recipe(text)
    except CulmoError:
        return None
    return recipe if all(name.casefold() in folded for name in recipe.names) else None


def names_in(folder: Path) -> set[str]:
    """What lies in a folder; nothing where it is not there."""
    try:
        return {path.name for path in folder.iterdir()}
    except OSError:
        return set()  # the folder went away, as a camera's card does


def new_picture(folder: Path, seen: set[str], endings: Sequence[str]) -> tuple[Path, int] | None:
    """The newest picture in a folder that was not there before, with its size; what is no picture is passed over."""
    fresh = [
        folder / name
        for name in names_in(folder) - seen
        if Path(name).suffix.casefold() in endings and not name.startswith(".")
    ]
    try:
        sizes = {path: path.stat() for path in fresh}
    except OSError:
        return None
    newest = max(fresh, key=lambda path: sizes[path].st_mtime, default=None)
    return None if newest is None else (newest, sizes[newest].st_size)


def shift_words(study: Study, most: int = 4) -> str:
    """What drying does to the paints that were read wet and dry; empty where none was."""
    shifts = drying_shifts(wet_and_dry(study))
    spoken = {paint.name.casefold(): paint.name for paint in paints(study, retired=True)}
    ranked = sorted(shifts.items(), key=lambda item: -float(np.hypot(*item[1][0][:2])))
    if not ranked:
        return ""
    lines = [tr("As it dries:")]
    for name, (shift, count) in ranked[:most]:
        way = tr("lighter") if shift[0] > 0 else tr("darker")
        cells = trn("{n} cell", "{n} cells", count)
        lines.append(f"{spoken.get(name, name)} {abs(shift[0]):.1f} {way} ({cells})")
    return "\n".join(lines)


def outcome_words(path: Path, found: Import) -> str:
    """How many readings came from a file, and what is wrong with the others."""
    lines = [tr("{name}: {n} readings taken in", name=path.name, n=len(found.rows))]
    if found.bad:
        lines.append(tr("{n} rows left out:", n=len(found.bad)))
        lines += found.bad[:8]
        if len(found.bad) > 8:
            lines.append(tr("and {value} more", value=len(found.bad) - 8))
    return "\n".join(lines)
