"""Whether every row of a study makes the value that the rooms make of it, before the study is called sound.

SQL sees to types, links, moments and colours (`culmo.study.soundness`); here each row goes through the constructors.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from culmo.core.chart.box import PAN_MM
from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study import connection
from culmo.study.acts import PaintEntry
from culmo.study.box_records import boxes, fade_tests
from culmo.study.file import Row, Study
from culmo.study.paint_acts import HOWS, checked_run_settings
from culmo.study.papers import own_papers
from culmo.study.patches import check_patch
from culmo.study.records import json_of, paint_of, parsed, sheet_record
from culmo.study.row_reading import reading_of
from culmo.study.schema import TABLES
from culmo.study.sidecars import settled_copy
from culmo.study.soundness import DATES, moment_of
from culmo.study.whole_file import PART
from culmo.words import tr

_WRONG = (
    CulmoError,
    ValueError,
    TypeError,
    KeyError,
    IndexError,
    AttributeError,
    OverflowError,
    RecursionError,
)
MOST_TEXT = 1_000_000  # letters of one text; a page of notes has three thousand
MOST_CELLS = 20_000  # of one sheet
MOST_TOLD = 20
MOST_LAYERS = 20  # of glazes over each other


def problems_of_study(study: Study, whole: bool = True) -> list[str]:
    """What is unsound in an open study; empty when all is well.

    Parameters
    ----------
    study : Study
    whole : bool, whether every row is looked at, or only what SQL sees
    """
    found = study.problems()
    if found or not whole:
        return found
    for problem in _odd_rows(study):
        found.append(problem)
        if len(found) == MOST_TOLD:
            break
    return found


def _odd_rows(study: Study) -> Iterator[str]:
    if not study.rows("meta", "key = 'title'"):
        yield tr("it has no title")
    for row in study.select("SELECT name, COUNT(*) AS n FROM paints GROUP BY folded(name) HAVING n > 1"):
        yield tr(
            '{n} paints are named "{name}"; recipes could not tell them apart', n=row["n"], name=row["name"]
        )
    for table, check in _CHECKS.items():
        for row in study.select(_LIKE_ROWS.get(table, f"SELECT * FROM {table} ORDER BY id")):
            try:
                check(row)
            except _WRONG as error:
                yield tr("{table} {id}: {error}", table=table, id=row["id"], error=_said(error))
        yield from _odd_texts(study, table)
        yield from _odd_moments(study, table)
    for look in (boxes, own_papers, fade_tests):
        try:
            look(study)
        except _WRONG as error:
            yield _said(error)
    for row in study.select("SELECT id FROM sheets ORDER BY id"):
        try:
            count = study.select("SELECT COUNT(*) AS n FROM cells WHERE sheet_id = ?", (row["id"],))[0]["n"]
            if count > MOST_CELLS:
                raise CulmoError(tr("it has {n} cells; {most} are the most", n=count, most=MOST_CELLS))
            sheet_record(study, row["id"])
        except _WRONG as error:
            yield tr("sheet {id}: {error}", id=row["id"], error=_said(error))


# of rows that make the same value one is looked at, so that tens of thousands take a fraction of a second; cells are seen
# to with their sheets, and a picture itself is not loaded to see whether its entry makes sense
_LIKE_ROWS = {
    "photos": "SELECT id, sheet_id, note_id, path, name, placement, taken, created FROM photos",
    "patches": "SELECT MIN(id) AS id, left_mm, top_mm, width_mm, height_mm, per_mm FROM patches "
    "GROUP BY left_mm, top_mm, width_mm, height_mm, per_mm",
    "readings": "SELECT MIN(id) AS id, recipe, 50.0 AS L, 0.0 AS a, 0.0 AS b, ground, paper, trust, treatment, mixing, "
    "extra FROM readings GROUP BY recipe, ground, trust, treatment, mixing, extra",
    "strokes": "SELECT MIN(id) AS id, how, layer FROM strokes GROUP BY how, layer",
    "cells": "SELECT MIN(id) AS id, recipe FROM cells GROUP BY recipe",
    "events": "SELECT id FROM events LIMIT 0",
}


def _said(error: BaseException) -> str:
    return (
        str(error)[:200] if isinstance(error, CulmoError) else f"{type(error).__name__} ({str(error)[:120]})"
    )


def _odd_texts(study: Study, table: str) -> Iterator[str]:
    """Texts that are longer than anything a painter writes."""
    kinds = study.select(f"SELECT name, type FROM pragma_table_info('{table}')")
    names = [row["name"] for row in kinds if row["type"] == "TEXT"]
    longest = ", ".join(f"MAX(LENGTH({name})) AS {name}" for name in names)
    for name, length in study.select(f"SELECT {longest} FROM {table}")[0].items() if names else ():
        if length is not None and length > MOST_TEXT:
            yield tr("{table}: a text of {column} has {n} letters; {most} are the most",
                     table=table, column=name, n=length, most=MOST_TEXT)  # fmt: skip


def _odd_moments(study: Study, table: str) -> Iterator[str]:
    """Moments that can not be reckoned with: SQL has seen to their form, so one of each offset, the first and the last."""
    for column in DATES.get(table, ()):
        where = f"FROM {table} WHERE {column} NOT NULL"
        few = study.select(
            f"SELECT {column} AS at {where} GROUP BY SUBSTR({column}, 20) UNION SELECT MIN({column}) {where} "
            f"UNION SELECT MAX({column}) {where}"
        )
        for row in few:
            try:
                if row["at"] is not None:
                    moment_of(row["at"])
            except _WRONG as error:
                yield tr("{table}, {column}: {error}", table=table, column=column, error=_said(error))


def _objects(*columns: str) -> Callable[[Row], None]:
    def check(row: Row) -> None:
        for column in columns:
            if not isinstance(parsed(row, column), dict):
                raise CulmoError(tr("{column} is no JSON object", column=column))

    return check


def _sheet(row: Row) -> None:
    layout = parsed(row, "layout")
    if not isinstance(layout, dict):
        raise CulmoError(tr("the layout is no JSON object"))
    sheet_from_dict({**layout, "cells": []})


def _recipe(row: Row) -> None:
    parse_recipe(row["recipe"])


def _reading(row: Row) -> None:
    reading_of(row)
    json_of(row, "extra")


def _wanted(row: Row) -> None:
    check_lab(np.array([row["L"], row["a"], row["b"]]))


def _placement(row: Row) -> None:
    placement = json_of(row, "placement")
    if placement:
        homography = placement.get("homography")
        if not isinstance(homography, list) or [len(line) for line in homography] != [3, 3, 3]:
            raise CulmoError(tr("the place of the sheet in a picture is no matrix"))


def _paint(row: Row) -> None:
    paint = paint_of(row)
    PaintEntry(paint.name, paint.codes, paint.status, paint.grain, paint.note, paint.label)


def _well(row: Row) -> None:
    if row["pan"] not in PAN_MM:
        raise CulmoError(tr('"{pan}" is no kind of pan', pan=row["pan"]))


def _stroke(row: Row) -> None:
    if row["how"] not in HOWS:
        raise CulmoError(tr('"{how}" is no way of mixing', how=row["how"]))
    if not 0 <= row["layer"] < MOST_LAYERS:
        raise CulmoError(tr("there is no layer {layer}", layer=row["layer"]))


_CHECKS: dict[str, Callable[[Row], object]] = {
    "meta": lambda row: None, "paints": _paint, "boxes": _objects("settings"), "wells": _well,
    "papers": lambda row: None, "sheets": _sheet, "cells": _recipe, "runs": checked_run_settings,
    "strokes": _stroke, "notes": lambda row: None, "photos": _placement, "readings": _reading,
    "patches": check_patch, "palettes": _objects("reach"), "targets": _wanted, "events": lambda row: None,
    "fades": lambda row: None,
    "roles": lambda row: None, "pauses": lambda row: None, "guesses": _recipe, "mixes": _recipe, "draws": _recipe,
}  # fmt: skip
assert set(_CHECKS) == set(TABLES)


# ---- a file that is not open


@dataclass(frozen=True)
class Inspection:
    """What a study's file holds.

    Attributes
    ----------
    problems : list of str, empty where it is sound
    counts : dict from table to the number of its rows
    considered : int, how many of the paints are only wished for
    version : int, of its tables
    notes : list of str, what else is to be said of it
    """

    problems: list[str]
    counts: dict[str, int]
    considered: int
    version: int
    notes: list[str]


@contextmanager
def as_it_is(path: Path) -> Iterator[Study]:
    """A study as it would open, from a copy: nothing at its own place is changed, not even brought up to date.

    Raises
    ------
    CulmoError
        when it can not be read, is no study, is damaged, or another program has it open
    """
    with settled_copy(path) as settled, Study(settled.path, called=path) as study:
        study.told += [
            tr('"{name}" beside it is of another file and would not be applied', name=path.name + ending)
            for ending in settled.foreign
        ]
        yield study


def inspect(path: Path) -> Inspection:
    """Look through the file of a study, which is left as it is to the byte.

    Raises
    ------
    CulmoError
        when it can not be read, is no study, is damaged, or another program has it open
    """
    from culmo.study.photo_files import missing_pictures

    with as_it_is(path) as study:
        version = connection.version_in(path)
        problems = problems_of_study(study)
        counts = {table: study.count(table) for table in TABLES}
        considered = len(study.select("SELECT id FROM paints WHERE status = 'wished'"))
        missing = missing_pictures(study)
        notes = list(study.told)
    if missing:
        notes.append(tr("pictures that are no longer beside it: {names}", names=", ".join(missing[:5])))
    there = [entry.name for entry in path.parent.iterdir()] if path.parent.is_dir() else []
    begun = [name for name in there if name.startswith(f".{path.stem}") and name.endswith(PART)]
    if begun:
        notes.append(tr("begun and never finished beside it: {names}", names=", ".join(begun[:5])))
    return Inspection(problems, counts, considered, version, notes)
