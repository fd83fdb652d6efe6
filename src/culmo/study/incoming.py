"""Open files into a study: readings, sheets, lists of paints, palettes of colours, measurements."""

from collections.abc import Callable, Sequence
from pathlib import Path

from culmo.core.paint.entry import parse_lines
from culmo.core.paint.paint_table import PaintTable
from culmo.data import pigment_table
from culmo.errors import CulmoError
from culmo.study import acts, box_acts
from culmo.study.cgats import ENDINGS
from culmo.study.draft import Draft
from culmo.study.exchange import STUDY_FORMAT, read_gpl, read_json, read_sheets
from culmo.study.file import Command, Study
from culmo.study.naming import unknown_paints
from culmo.study.paint_lists import entry_of, paint_tables
from culmo.study.palette_acts import Wanted, add_wanted, read_wanted
from culmo.study.readings_file import readings_of_file
from culmo.study.records import paints
from culmo.study.sharing import SHARE_FORMAT, take_shared
from culmo.study.spreadsheet import WORKBOOKS
from culmo.study.tables import open_table
from culmo.words import tr, trn

Say = Callable[[str], None]
Do = Callable[[Command], object]
_CODES = {"codes", "code", "pigments", "pigment"}


def bring_in(study: Study, path: Path, say: Say, do: Do | None = None) -> str:
    """Take a file into a study by what it holds; gives what came, in words.

    A table (CSV, or the first page of a spreadsheet) with recipes is taken for readings, one with names and codes for
    paints, one with colours alone for wanted colours; JSON for a sheet; GPL for wanted colours; CGATS for readings where
    its samples are named by recipes.

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
    do = do or study.apply
    ending = path.suffix.casefold()
    if ending == ".json":
        return _sheets(study, path, say, do)
    if ending == ".gpl":
        colours = [Wanted(name, (float(L), float(a), float(b))) for name, (L, a, b) in read_gpl(path)]
        do(add_wanted(study, path.stem, colours))
        return trn("{n} wanted colour", "{n} wanted colours", len(colours))
    if ending in (".csv", ".tsv", *WORKBOOKS):
        return _table(study, path, say, do)
    if ending in ENDINGS:
        return _measurements(study, path, say, do)
    raise CulmoError(
        tr(
            '"{name}" is of no kind that can be taken in: .csv, .tsv, .xlsx, .ods, .json, .gpl, .txt, .cgats, .it8, .ti3',
            name=path.name,
        )
    )


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
    _add_strangers(study, path.name, list(unknown_paints(Draft(study, ""), recipes)), say, do)
    do(acts.add_sheets(study, sheets))
    return trn("{n} sheet", "{n} sheets", len(sheets))


def _table(study: Study, path: Path, say: Say, do: Do) -> str:
    first = next(open_table(path), None)
    columns = {key.casefold() for key in first[1]} if first is not None else set()
    if "recipe" in columns:
        return _readings(study, path, say, do)
    if ("name" in columns and columns & _CODES) or not columns & {"l", "hex"}:
        table = paint_tables(path)[0]
        if {"name", "codes"} <= set(table.kinds) and table.headed:
            return _paints(study, path.name, table, say, do)
    good, bad = read_wanted(path)
    for line in bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    do(add_wanted(study, path.stem, good))
    return trn("{n} wanted colour", "{n} wanted colours", len(good))


def _readings(study: Study, path: Path, say: Say, do: Do) -> str:
    found = readings_of_file(study, path)
    for line in found.bad:
        say(tr("{name}, {line}; left out", name=path.name, line=line))
    if not found.rows:
        raise CulmoError(tr('"{name}" holds no reading that can be taken', name=path.name))
    _add_strangers(study, path.name, found.strangers, say, do)
    do(acts.add_readings(study, found.rows, path.name))
    return trn("{n} reading", "{n} readings", len(found.rows))


def _add_strangers(study: Study, file: str, names: Sequence[str], say: Say, do: Do) -> None:
    """The paints that recipes name and the study does not know."""
    if names:
        do(box_acts.add_paints(study, [acts.PaintEntry(name) for name in names]))
        words = "{name}: {n} new paint came with its recipes: {what}"
        more = "{name}: {n} new paints came with its recipes: {what}"
        say(trn(words, more, len(names), name=file, what=", ".join(names)))


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
            words = "{name}: {n} sample is named by no recipe of known paints; left out"
            more = "{name}: {n} samples are named by no recipe of known paints; left out"
            say(trn(words, more, len(found.nameless), name=path.name))
        do(acts.add_readings(study, found.rows, path.name))
        return trn("{n} reading", "{n} readings", len(found.rows))
    colours = [Wanted(s.name, (float(s.lab[0]), float(s.lab[1]), float(s.lab[2]))) for s in found.nameless]
    do(add_wanted(study, path.stem, colours))
    return trn("{n} wanted colour", "{n} wanted colours", len(colours))
