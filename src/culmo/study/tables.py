"""CSV tables: readings in, predictions out, cells out."""

import codecs
import csv
import io
import math
import re
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from itertools import chain
from pathlib import Path
from typing import Any

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.paint.readings import PAPER, Reading, Trust
from culmo.core.paint.recipe import format_recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.study.doors import read_file
from culmo.study.formats import WORKBOOK
from culmo.study.soundness import with_offset
from culmo.study.spreadsheet import FIELD_LIMIT, as_meant, harmless, parting_mark, read_pages
from culmo.words import tr, with_point

SIZE_LIMIT = 256 * 1024 * 1024
KNOWN = (
    "recipe", "ground", "L", "a", "b", "sheet", "cell", "paper", "source", "taken", "dry_hours", "granulation",
    "separation", "note", "treatment", "trust", "mixing",
)  # fmt: skip
_NO_TEXT = re.compile("[\x00-\x08\x0e-\x1a\x1c-\x1f]")  # what no table holds
_PIECE = 2**20
CellOf = Callable[[str, str], Cell | None]
_NUMBERS = ("dry_hours", "granulation", "separation")


@dataclass(frozen=True)
class ReadingRow:
    """A good row of a readings file.

    Attributes
    ----------
    line : int, in the file, the header being 1
    reading : Reading
    values : dict of the other known columns
    unknown : dict of the columns that Culmo does not know, kept as they are
    """

    line: int
    reading: Reading
    values: dict[str, Any]
    unknown: dict[str, str]


def open_table(path: Path) -> Iterator[tuple[int, dict[str, str]]]:
    """Rows of a table whose first row names the columns, with their line numbers, one after the other.

    A CSV file may part its columns by commas, semicolons or tabs; of a spreadsheet the first page that holds something
    is taken.

    Raises
    ------
    CulmoError
        when the file can not be read, is not UTF-8, or has no header
    """
    if path.suffix.casefold() in WORKBOOK.endings:
        page = read_pages(path)[0]
        yield from _named(zip(page.numbers, (list(row) for row in page.rows), strict=True), path.name)
        return
    data = read_file(path, SIZE_LIMIT)
    with io.TextIOWrapper(io.BytesIO(data), encoding=encoding_of(data, path.name), newline="") as file:
        yield from _named(_csv_rows(file, path.name), path.name)


def encoding_of(data: bytes, name: str) -> str:
    """How a text is written: UTF-8; UTF-16 where it says so; else as spreadsheets wrote it before, in Windows-1252.

    Raises
    ------
    CulmoError
        when it is no text
    """
    kinds = ["utf-16"] if data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE) else ["utf-8-sig", "cp1252"]
    for kind in kinds:
        with suppress(UnicodeDecodeError):
            decoder = codecs.getincrementaldecoder(kind)()
            view = memoryview(data)
            pieces = (decoder.decode(view[at : at + _PIECE]) for at in range(0, len(data), _PIECE))
            # what is taken for an older text must look like one
            strange = any(kind != "utf-8-sig" and _NO_TEXT.search(piece) for piece in pieces)
            decoder.decode(b"", final=True)
            if not strange:
                return kind
    raise CulmoError(tr('"{name}" is not text in UTF-8', name=name))


def _csv_rows(file: Iterable[str], name: str) -> Iterator[tuple[int, list[str]]]:
    csv.field_size_limit(FIELD_LIMIT)
    lines = iter(file)
    first = next(lines, "")
    reader = csv.reader(chain([first], lines), delimiter=parting_mark(first))
    try:
        for row in reader:
            yield reader.line_num, [as_meant(cell) for cell in row]
    except csv.Error as error:
        raise CulmoError(
            tr('"{name}", line {line_num}: {error}', name=name, line_num=reader.line_num, error=error)
        ) from None


def _named(rows: Iterable[tuple[int, list[str]]], name: str) -> Iterator[tuple[int, dict[str, str]]]:
    rows = iter(rows)
    _, header = next(rows, (0, []))
    if not any(cell.strip() for cell in header):
        raise CulmoError(tr('"{name}" is empty; the first row must name the columns', name=name))
    columns = [cell.strip() for cell in header]
    for line, row in rows:
        if any(cell.strip() for cell in row):
            yield line, dict(zip(columns, row, strict=False))


def _number(text: str, what: str) -> float:
    try:
        value = float(with_point(text))
    except ValueError:
        raise CulmoError(tr('{what} is "{what2}", not a number', what=what, what2=text)) from None
    if not math.isfinite(value):
        raise CulmoError(tr("{what} is not finite", what=what))
    return value


def _moment(text: str, what: str) -> str:
    """A date, with or without an hour, as the study keeps it; one without an offset is of this machine's time."""
    try:
        moment = with_offset(datetime.fromisoformat(text))
    except (ValueError, OverflowError):
        raise CulmoError(tr('{what} is "{what2}", not a date', what=what, what2=text)) from None
    return moment.isoformat()


def _reading_row(line: int, row: dict[str, str], cell_of: CellOf) -> ReadingRow:
    lab = tuple(_number(row.get(column, "").strip(), column) for column in ("L", "a", "b"))
    text, named = row.get("recipe", ""), row.get("cell", "").strip()
    cell = cell_of(row.get("sheet", "").strip(), named) if named and not text.strip() else None
    if named and not text.strip() and cell is None:
        raise CulmoError(tr('it names no recipe, and "{cell}" is no cell of the sheet', cell=named))
    reading = Reading(
        cell.recipe if cell is not None else parse_recipe(text),
        (lab[0], lab[1], lab[2]),
        row.get("ground", "").strip().casefold() or (cell.ground if cell is not None else PAPER),
        row.get("paper", "").strip(),
        trust=row.get("trust", "").strip().casefold() or Trust.GOOD,
        treatment=row.get("treatment", "").strip().casefold() or (cell.treatment if cell is not None else ""),
        mixing=row.get("mixing", "").strip().casefold() or (cell.mixing if cell is not None else ""),
    )
    values: dict[str, Any] = {}
    for column in KNOWN[5:-3]:
        text = row.get(column, "").strip()
        if text:
            read = _number if column in _NUMBERS else _moment if column == "taken" else None
            values[column] = read(text, column) if read else text
    unknown = {key: value for key, value in row.items() if key not in KNOWN and key}
    return ReadingRow(line, reading, values, unknown)


def read_readings(
    path: Path, cell_of: CellOf = lambda sheet, cell: None
) -> tuple[list[ReadingRow], list[str]]:
    """The good rows of a readings file, and what is wrong with the others.

    Parameters
    ----------
    path : Path
    cell_of : function of (sheet, cell) that gives the cell that a row without a recipe names, or None

    Raises
    ------
    CulmoError
        when the file as a whole can not be read, lacks a column, or has no row below the one that names the columns
    """
    good: list[ReadingRow] = []
    bad: list[str] = []
    for line, row in open_table(path):
        if not good and not bad:
            _check_columns(path.name, row)
        try:
            good.append(_reading_row(line, row, cell_of))
        except CulmoError as error:
            bad.append(tr("line {line}: {error}", line=line, error=error))
    if not good and not bad:
        raise CulmoError(
            tr(
                '"{name}" has no row below the first, which must name the columns: recipe, L, a and b',
                name=path.name,
            )
        )
    return good, bad


def _check_columns(name: str, columns: Iterable[str]) -> None:
    """Whether the columns say what a reading needs."""
    there = set(columns)
    if not there & {"recipe", "cell", "L", "a", "b"}:
        raise CulmoError(
            tr('the first row of "{name}" names no columns; it must: recipe (or cell), L, a and b', name=name)
        )
    missing = [column for column in ("recipe", "L", "a", "b") if column not in there]
    if "cell" in there and missing[:1] == ["recipe"]:
        del missing[0]
    if missing:
        raise CulmoError(
            tr(
                '"{name}" has no column "{missing}"; it needs recipe (or cell), L, a and b',
                name=name,
                missing=missing[0],
            )
        )


def write_rows(columns: list[str], rows: Iterable[Iterable[object]]) -> str:
    """CSV text."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    writer.writerows(rows)
    return out.getvalue()


def cells_csv(sheet: Sheet) -> str:
    """The cells of a sheet as CSV."""
    rows = []
    for cell in sheet.cells:
        x, y, width, height = cell.box_mm
        rows.append(
            [cell.id, harmless(format_recipe(cell.recipe)), cell.ground]
            + [f"{value:g}" for value in (round(x, 3), round(y, 3), round(width, 3), round(height, 3))]
            + [cell.order, "" if cell.at_minute is None else f"{cell.at_minute:g}", cell.treatment]
            + [cell.mixing, cell.stage, " ".join(cell.meets)]
        )
    return write_rows(
        [
            "id",
            "recipe",
            "ground",
            "x_mm",
            "y_mm",
            "width_mm",
            "height_mm",
            "order",
            "at_minute",
            "treatment",
            "mixing",
            "stage",
            "meets",
        ],
        rows,
    )
