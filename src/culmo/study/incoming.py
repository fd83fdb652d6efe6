"""Open files into a study: readings, sheets, lists of paints, palettes of colours, measurements."""

from collections.abc import Callable, Sequence
from pathlib import Path

from culmo.core.paint.entry import parse_lines
from culmo.core.paint.paint_table import PaintTable
from culmo.data import pigment_table
from culmo.errors import CulmoError
from culmo.study import acts, box_acts
from culmo.study.colour_files import read_colours, wanted_of
from culmo.study.exchange import STUDY_FORMAT, read_json, read_sheets
from culmo.study.file import Command, Study
from culmo.study.formats import JSON, OPEN_FILES, TABLE, WORKBOOK, Format, find_format
from culmo.study.measured import MEASURED
from culmo.study.naming import known_names, unknown_paints
from culmo.study.paint_lists import entry_of, paint_tables
from culmo.study.palette_acts import Wanted, add_wanted
from culmo.study.palette_files import PALETTES
from culmo.study.readings_file import readings_of_file
from culmo.study.records import paints
from culmo.study.sharing import SHARE_FORMAT, take_shared
from culmo.study.tables import open_table
from culmo.words import tr, trn

Say = Callable[[str], None]
Do = Callable[[Command], object]
_CODES = {"codes", "code", "pigments", "pigment"}


def bring_in(study: Study, path: Path, say: Say, do: Do | None = None) -> str:
    """Take a file into a study by what it holds; gives what came, in words.

    A table (CSV, or the first page of a spreadsheet) with recipes is taken for readings, one with names and codes for
    paints, one with colours alone for wanted colours; JSON for a sheet; GPL for wanted colours; CGATS and CxF for readings
    where its samples are named by recipes.

    Parameters
    ----------
    study : Study
    path : Path
    say : function that is told of rows that can not be taken
    do : function that carries out an act, so that it can be undone; the study's own where absent

    Raises
    ------
    CulmoError
        when the file can not be taken; the study is then unchanged
    """
    return _TAKERS[find_format(path, OPEN_FILES)](study, path, say, do or study.apply)


def _palette(study: Study, path: Path, say: Say, do: Do) -> str:
    return _colours(study, path, *read_colours(path), say, do)


def _colours(study: Study, path: Path, good: list[Wanted], bad: list[str], say: Say, do: Do) -> str:
    for line in bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    do(add_wanted(study, path.stem, good))
    return trn("{n} wanted colour", "{n} wanted colours", len(good))


def _sheets(study: Study, path: Path, say: Say, do: Do) -> str:
    data = read_json(path)
    if isinstance(data, dict) and data.get("format") == STUDY_FORMAT:
        raise CulmoError(
            tr(
                '"{name}" is a whole study; import it as a new one (culmo import NEW.culmo FOLDER)',
                name=path.name,
            )
        )
    if isinstance(data, dict) and data.get("format") == SHARE_FORMAT:
        command, what = take_shared(study, data, path.name)
        do(command)
        return what
    sheets = read_sheets(path)
    recipes = [cell.recipe for sheet in sheets for cell in sheet.cells]
    new = list(unknown_paints(known_names(study), recipes))
    do(acts.add_sheets(study, sheets, new))
    _tell_new(path.name, new, say)
    return trn("{n} sheet", "{n} sheets", len(sheets))


def _table(study: Study, path: Path, say: Say, do: Do) -> str:
    first = next(open_table(path), None)
    columns = {key.casefold() for key in first[1]} if first is not None else set()
    if "recipe" in columns or {"cell", "l", "a", "b"} <= columns:
        return _readings(study, path, say, do)
    if ("name" in columns and columns & _CODES) or not columns & {"l", "hex"}:
        table = paint_tables(path)[0]
        if {"name", "codes"} <= set(table.kinds) and table.headed:
            return _paints(study, path.name, table, say, do)
    good, bad = read_colours(path)
    if not good and not columns & {"l", "hex"}:
        raise CulmoError(
            tr(
                'the first row of "{name}" names no columns: recipe (or cell), L, a and b for readings, name and codes for '
                "paints, L, a, b or hex for wanted colours",
                name=path.name,
            )
        )
    return _colours(study, path, good, bad, say, do)


def _readings(study: Study, path: Path, say: Say, do: Do) -> str:
    found = readings_of_file(study, path)
    for line in found.bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    if not found.rows:
        raise CulmoError(tr('"{name}" holds no reading that can be taken', name=path.name))
    do(acts.add_readings(study, found.rows, path.name, new=found.strangers))
    _tell_new(path.name, found.strangers, say)
    return trn("{n} reading", "{n} readings", len(found.rows))


def _tell_new(file: str, names: Sequence[str], say: Say) -> None:
    """Paints came with the recipes that name them."""
    if names:
        say(
            trn(
                "{name}: {n} new paint came with its recipes: {what}",
                "{name}: {n} new paints came with its recipes: {what}",
                len(names), name=file, what=", ".join(names),
            )
        )  # fmt: skip


def _paints(study: Study, file: str, table: PaintTable, say: Say, do: Do) -> str:
    known = {paint.name.casefold() for paint in paints(study, retired=True)}
    lines = parse_lines(table.lines(), pigment_table())
    entries = []
    for line in lines:
        if line.name.casefold() in known:
            say(tr('{name}: there is a paint "{paint}" already; left out', name=file, paint=line.name))
        elif len(line.name) > acts.NAME_LIMIT:
            say(tr("{name}: the name {paint} is too long; left out", name=file, paint=f"{line.name[:40]}…"))
        else:
            known.add(line.name.casefold())
            entries.append(entry_of(line, line.name, line.codes_text))
    if not entries:
        raise CulmoError(tr('"{name}" names no paint that is not in the study already', name=file))
    do(box_acts.add_paints(study, entries))
    return trn("{n} paint", "{n} paints", len(entries))


def _measurements(study: Study, path: Path, say: Say, do: Do) -> str:
    found = readings_of_file(study, path)
    for line in found.bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    if found.rows:
        if found.nameless:
            say(
                trn(
                    "{name}: {n} sample is named by no recipe of known paints; left out",
                    "{name}: {n} samples are named by no recipe of known paints; left out",
                    len(found.nameless), name=path.name,
                )
            )  # fmt: skip
        do(acts.add_readings(study, found.rows, path.name))
        return trn("{n} reading", "{n} readings", len(found.rows))
    return _colours(study, path, [wanted_of(sample) for sample in found.nameless], [], say, do)


_TAKERS: dict[Format, Callable[[Study, Path, Say, Do], str]] = {
    TABLE: _table, WORKBOOK: _table, JSON: _sheets, **dict.fromkeys(MEASURED, _measurements),
    **dict.fromkeys(PALETTES, _palette),
}  # fmt: skip
