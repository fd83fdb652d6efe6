"""Read room: typed colours and readings from files, matched to the sheet's cells."""

from collections.abc import Sequence
from enum import IntEnum
from pathlib import Path

from culmo.core.paint.recipe import spoken_recipe
from culmo.study.acts import add_readings
from culmo.study.dried import dried_cells, dried_mixes
from culmo.study.file import Command, Study
from culmo.study.readings_file import ReadingsFile, nameless_words, readings_of_file, without_strangers
from culmo.study.records import SheetRecord
from culmo.words import capital, tr, trn


class ReadShows(IntEnum):
    """What the room shows, and its place in the strip."""

    SHEET = 0
    PICTURE = 1


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


def shift_words(study: Study, record: SheetRecord | None, most: int = 4) -> str:
    """What drying did to the mixes of a sheet that were read wet and dry, those that change most first; empty where none
    was.

    Parameters
    ----------
    study : Study
    record : SheetRecord on the table, or None for all that was read
    most : int, of how many it is told
    """
    cells = [cell for cell in dried_cells(study) if record is None or cell.sheet_id == record.id]
    found = sorted(dried_mixes(cells), key=lambda one: -one.shift.away)
    if not found:
        return ""
    lines = [
        tr("{what}: {change}", what=capital(spoken_recipe(one.recipe)), change=one.shift.words)
        for one in found
    ]
    more = len(found) - most
    if more > 0:
        lines = [*lines[:most], trn("and {n} more", "and {n} more", more)]
    return "\n".join([tr("Wet and dry:"), *lines])


def taken_readings(study: Study, path: Path, record: SheetRecord | None) -> tuple[Command | None, str]:
    """Readings from a file as an act, None where none can be taken; and what came and what did not, in words.

    Parameters
    ----------
    study : Study
    path : Path
    record : SheetRecord on the table, or None
    """
    found = without_strangers(readings_of_file(study, path, record), study)
    sheet_id = record.id if record is not None else None
    command = add_readings(study, found.rows, path.name, sheet_id) if found.rows else None
    return command, outcome_words(path, found)


def outcome_words(path: Path, found: ReadingsFile) -> str:
    """How many readings came from a file, and what is wrong with the others."""
    lines = [tr("{name}: {n} readings taken in", name=path.name, n=len(found.rows))]
    bad = found.bad + [nameless_words(sample) for sample in found.nameless]
    if bad:
        lines.append(tr("{n} rows left out:", n=len(bad)))
        lines += bad[:8]
        if len(bad) > 8:
            lines.append(tr("and {value} more", value=len(bad) - 8))
    return "\n".join(lines)
