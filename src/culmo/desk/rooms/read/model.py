"""Read room: typed colours and readings from files, matched to the sheet's cells."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from culmo.study.acts import Incoming
from culmo.study.records import SheetRecord
from culmo.study.tables import ReadingRow, read_readings


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
    """Readings from a CSV file; rows that name a cell of the sheet go to it.

    Raises
    ------
    CulmoError
        when the file as a whole can not be read
    """
    good, bad = read_readings(path)
    folded = {name.casefold() for name in known}
    rows: list[Incoming] = []
    for row in good:
        missing = [name for name in row.reading.recipe.names if name.casefold() not in folded]
        if missing:
            bad.append(f'line {row.line}: "{missing[0]}" is not in the box')
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
