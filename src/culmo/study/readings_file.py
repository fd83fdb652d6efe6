"""Readings from a table or a file of measurements: one reader for the Read room, File, Import and the command."""

import json
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

from culmo.core.chart.sheet import Cell
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.study.acts import Incoming
from culmo.study.cgats import Sample
from culmo.study.file import Study
from culmo.study.formats import Holds, find_format
from culmo.study.measured import MEASURED, read_samples
from culmo.study.naming import known_names, unknown_paints
from culmo.study.records import SheetRecord, sheet_record, sheet_titles
from culmo.study.tables import ReadingRow, read_readings
from culmo.words import tr

# what goes with a reading as its file gives it; the sheet and the cell say where it belongs
_KEPT = ("source", "taken", "dry_hours", "granulation", "separation", "note")


@dataclass(frozen=True)
class ReadingsFile:
    """What a file of readings offers.

    Attributes
    ----------
    rows : list of Incoming that can be taken in
    strangers : list of str, the paints that its recipes name and the study does not know, each once
    bad : list of str, what is wrong with the rows that are left out
    nameless : list of Sample, measurements that neither a cell nor a recipe names
    """

    rows: list[Incoming]
    strangers: list[str] = field(default_factory=list)
    bad: list[str] = field(default_factory=list)
    nameless: list[Sample] = field(default_factory=list)


class _Cells:
    """The cells that a file may name: those of its sheets, and of the sheet on the table."""

    def __init__(self, study: Study, on_table: SheetRecord | None) -> None:
        self._study, self._on_table = study, on_table
        self._records: dict[int, SheetRecord] = {} if on_table is None else {on_table.id: on_table}

    @cached_property
    def _titles(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for sheet_id, title in sheet_titles(self._study):
            found.setdefault(title.casefold(), []).append(sheet_id)
        return found

    def find(self, sheet: str, cell: str) -> tuple[int, int] | None:
        """The ids of a sheet and of its cell.

        Parameters
        ----------
        sheet : str, a title; empty for the sheet on the table. Of several with one title it is the one on the table,
            else the newest in use.
        cell : str, its name on the sheet
        """
        if not cell:
            return None
        own = self._on_table
        if own is not None and sheet.casefold() in ("", own.sheet.title.casefold()):
            ids = [own.id]
        else:
            ids = self._titles.get(sheet.casefold(), []) if sheet else []
        for sheet_id in ids:
            record = self._records.get(sheet_id) or sheet_record(self._study, sheet_id)
            self._records[sheet_id] = record
            for entry in record.cells:
                if entry.cell.id.casefold() == cell.casefold():
                    return sheet_id, entry.id
        return None

    def cell(self, sheet: str, cell: str) -> Cell | None:
        """The cell that is named, or None."""
        found = self.find(sheet, cell)
        if found is None:
            return None
        return next(entry.cell for entry in self._records[found[0]].cells if entry.id == found[1])


def readings_of_file(study: Study, path: Path, on_table: SheetRecord | None = None) -> ReadingsFile:
    """Readings from a table with recipes, or from a CGATS file.

    A row that names a cell goes to it, and needs no recipe; one that names a paint which the study does not know is given
    with its strangers, and who asked decides whether these come in. Columns that Culmo does not know are kept with the
    reading.

    Parameters
    ----------
    study : Study
    path : Path
    on_table : SheetRecord, whose cells are meant where no sheet is named

    Raises
    ------
    CulmoError
        when the file as a whole can not be read
    """
    kind = find_format(path, [Holds.READINGS])
    if kind in MEASURED:
        return _measured(study, *read_samples(path, kind), on_table)
    cells = _Cells(study, on_table)
    good, bad = read_readings(path, cells.cell)
    strangers = unknown_paints(known_names(study), (row.reading.recipe for row in good))
    return ReadingsFile([_incoming(row, cells) for row in good], list(strangers), bad)


def without_strangers(found: ReadingsFile, study: Study) -> ReadingsFile:
    """The same without the readings of paints that the study does not know; each is named among the bad rows."""
    known = known_names(study)
    rows, bad = [], list(found.bad)
    for item in found.rows:
        missing = next(iter(unknown_paints(known, [item.reading.recipe])), None)
        if missing is not None:
            bad.append(tr('line {line}: "{missing}" is not in the box', line=item.line, missing=missing))
        else:
            rows.append(item)
    return ReadingsFile(rows, [], bad, found.nameless)


def _incoming(row: ReadingRow, cells: _Cells) -> Incoming:
    values = [(key, row.values[key]) for key in _KEPT if key in row.values]
    if row.unknown:
        values.append(("extra", json.dumps(row.unknown)))
    sheet_id, cell_id = cells.find(
        str(row.values.get("sheet", "")), str(row.values.get("cell", ""))
    ) or (None, None)  # fmt: skip
    return Incoming(row.reading, cell_id, tuple(values), sheet_id, row.line)


def _measured(
    study: Study, samples: list[Sample], bad: list[str], on_table: SheetRecord | None
) -> ReadingsFile:
    """Samples that are named by a cell or by a recipe; where none is, as many as cells are taken in the sheet's order."""
    known = known_names(study)
    entries = on_table.cells if on_table is not None else ()
    cells = {entry.cell.id.casefold(): entry for entry in entries}
    named = [cells.get(s.name.casefold()) or cells.get(s.id.casefold()) for s in samples]
    recipes = [_recipe(sample.name, known) for sample in samples]
    if len(samples) == len(entries) and not any(named) and not any(recipes):
        named = list(entries)
    rows: list[Incoming] = []
    nameless: list[Sample] = []
    for sample, entry, recipe in zip(samples, named, recipes, strict=True):
        if entry is None and recipe is None:
            nameless.append(sample)
            continue
        L, a, b = (float(value) for value in sample.lab)
        reading = Reading(
            entry.cell.recipe if entry is not None else recipe or Recipe(),
            (min(max(L, 0.0), 100.0), a, b),
            entry.cell.ground if entry is not None else sample.ground,
            treatment=entry.cell.treatment if entry is not None else "",
        )
        at = (entry.id, on_table.id) if entry is not None and on_table is not None else (None, None)
        rows.append(Incoming(reading, at[0], (("source", "instrument"),), at[1], sample.line))
    return ReadingsFile(rows, [], bad, nameless)


def _recipe(text: str, known: set[str]) -> Recipe | None:
    """A sample's name as a recipe of known paints."""
    try:
        recipe = parse_recipe(text)
    except CulmoError:
        return None
    return recipe if all(name.casefold() in known for name in recipe.names) else None


def nameless_words(sample: Sample) -> str:
    """What is wrong with a measurement that nothing names."""
    return tr(
        'line {line}: "{name}" is neither a cell of the sheet nor a recipe of the box',
        line=sample.line,
        name=sample.name,
    )
