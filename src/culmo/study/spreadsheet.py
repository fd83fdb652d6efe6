"""Tables as spreadsheets keep and give them: text with commas, semicolons or tabs, Office Open XML, OpenDocument.

Whatever comes is taken for hostile: what is packed is measured before it is unpacked, XML may define nothing of its own,
and rows, columns and letters are counted as they come.
"""

import csv
import io
import logging
import re
import warnings
import zipfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import Element

from culmo.errors import CulmoError
from culmo.study.doors import read_file
from culmo.words import tr

UNPACKED_LIMIT = 48 * 2**20
PACKED_LIMIT = 64 * 2**20
TEXT_LIMIT = 8 * 2**20
FIELD_LIMIT = 20_000
MOST_ROWS = 100_000
MOST_COLUMNS = 128
MOST_PAGES = 100
_MOST_ENTRIES = 5000
_MOST_TAGS = 500_000  # each costs a reader some ten microseconds, and a hundred bytes
_ROWS_LOOKED_AT = 3_000_000  # a page may have a million that are only ruled
_MARKS = (",", ";", "\t")
# what a spreadsheet may take for a formula, or what such a text became when it was made harmless
_FORMULA = re.compile(r"'*(?:[=+@\t\r]|-(?!\d+(?:\.\d+)?$)[\s\S])")
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_SPACES = {f"{_TEXT}s": " ", f"{_TEXT}tab": "\t", f"{_TEXT}line-break": "\n"}


@dataclass(frozen=True)
class Worksheet:
    """One table of a file.

    Attributes
    ----------
    name : str, of the page; empty where the file has only one
    rows : tuple of rows of text that hold something
    numbers : tuple of int, which row of the page each is, the first being 1
    """

    name: str
    rows: tuple[tuple[str, ...], ...]
    numbers: tuple[int, ...]


def read_pages(path: Path) -> list[Worksheet]:
    """The pages of a spreadsheet that hold something, or the one table of a text.

    Parameters
    ----------
    path : Path, of a table or a workbook (study/formats.py)

    Raises
    ------
    CulmoError
        when the file can not be read, is too large, or holds nothing
    """
    ending = path.suffix.casefold()
    with _told(path):
        if ending == ".xlsx":
            pages = [_page(path.name, name, rows) for name, rows in _xlsx(path)]
        elif ending == ".ods":
            pages = [_page(path.name, name, rows) for name, rows in _ods(path)]
        else:
            pages = [_page(path.name, "", enumerate(rows_in(read_text(path)), 1))]
    pages = [page for page in pages if page.rows]
    if not pages:
        raise CulmoError(tr('"{name}" is empty', name=path.name))
    return pages


@contextmanager
def _told(path: Path) -> Iterator[None]:
    """What goes wrong, in words that name the file."""
    try:
        yield
    except CulmoError:
        raise
    except csv.Error as error:
        raise CulmoError(tr('"{name}" is not a table ({error})', name=path.name, error=error)) from None
    except Exception as error:  # noqa: BLE001 - a damaged workbook breaks its reader in too many ways to name
        logging.getLogger("culmo").info("%s: %r", path.name, error)  # it might be a mistake of this program
        raise CulmoError(
            tr(
                '"{name}" is damaged or no spreadsheet; save it anew with the program that made it, or as CSV',
                name=path.name,
            )
        ) from None


def _too_many_rows(file: str) -> str:
    return tr('"{name}" has more than {n} rows', name=file, n=MOST_ROWS)


def _page(file: str, name: str, rows: Iterable[tuple[int, list[str]]]) -> Worksheet:
    kept: list[tuple[str, ...]] = []
    numbers: list[int] = []
    for number, row in rows:
        if not any(cell.strip() for cell in row):
            continue
        while row and not row[-1].strip():
            row.pop()
        if len(row) > MOST_COLUMNS:
            raise CulmoError(
                tr(
                    '"{name}": row {number} has more than {n} columns',
                    name=file,
                    number=number,
                    n=MOST_COLUMNS,
                )
            )
        if len(kept) == MOST_ROWS:
            raise CulmoError(_too_many_rows(file))
        if any(len(cell) > FIELD_LIMIT for cell in row):
            raise CulmoError(tr('"{name}": a cell of row {number} is too long', name=file, number=number))
        kept.append(tuple(as_meant(cell) for cell in row))
        numbers.append(number)
    return Worksheet(name, tuple(kept), tuple(numbers))


# ---- text


def read_text(path: Path) -> str:
    """A text in UTF-8, in UTF-16 with its mark, or as older spreadsheets of Western Europe write it (Windows-1252).

    The last is a guess, so what is read by it wants to be looked at.

    Raises
    ------
    CulmoError
        when it is too large, or no text
    OSError
        when it can not be read
    """
    data = read_file(path, TEXT_LIMIT)
    utf16 = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    if b"\0" not in data or utf16:
        for code in ("utf-16",) if utf16 else ("utf-8-sig", "cp1252"):
            try:
                return data.decode(code)
            except UnicodeDecodeError:
                continue
    raise CulmoError(tr('"{name}" is not text', name=path.name))


def parting_mark(line: str) -> str:
    """What parts the columns, by the first row of a table: a comma, a semicolon or a tab, outside of quotes."""
    bare = "".join(line.split('"')[::2])
    return max(_MARKS, key=bare.count)


def rows_in(text: str) -> list[list[str]]:
    """The rows of a table in a text, empty ones among them; a cell in quotes may go over several lines.

    Raises
    ------
    csv.Error
        when it is not one
    """
    first = next((line for line in text.splitlines() if line.strip()), "")
    csv.field_size_limit(FIELD_LIMIT)
    return list(csv.reader(io.StringIO(text, newline=""), delimiter=parting_mark(first)))


# ---- formulas


def harmless(text: str) -> str:
    """A text that a spreadsheet will not take for a formula; `as_meant` gives it back as it was.

    A bare minus sign stays as it is: it is the recipe of the bare paper.
    """
    return "'" + text if _FORMULA.match(text) else text


def as_meant(text: str) -> str:
    """A text without the sign that made it harmless.

    Examples
    --------
    >>> as_meant(harmless("=Rose")), as_meant("'s Gravel")
    ('=Rose', "'s Gravel")
    """
    return text[1:] if text[:1] == "'" and _FORMULA.match(text[1:]) else text


# ---- workbooks


def _unpackable(path: Path) -> zipfile.ZipFile:
    """The archive, if what is in it is small enough to be read."""
    archive = zipfile.ZipFile(io.BytesIO(read_file(path, PACKED_LIMIT)))
    try:
        entries = archive.infolist()
        # zipfile gives no more of an entry than its head says, so that the heads may be trusted
        if len(entries) > _MOST_ENTRIES or sum(entry.file_size for entry in entries) > UNPACKED_LIMIT:
            raise CulmoError(
                tr(
                    '"{name}" is larger than {value} MB when it is unpacked',
                    name=path.name,
                    value=UNPACKED_LIMIT // 2**20,
                )
            )
        if sum(_tags(archive, entry) for entry in entries if entry.filename.endswith(".xml")) > _MOST_TAGS:
            raise CulmoError(
                tr('"{name}" is too large to be read as a spreadsheet; save it as CSV', name=path.name)
            )
    except BaseException:
        archive.close()
        raise
    return archive


def _tags(archive: zipfile.ZipFile, entry: zipfile.ZipInfo) -> int:
    with archive.open(entry) as content:
        return sum(piece.count(b"<") for piece in iter(lambda: content.read(2**16), b""))


def _xlsx(path: Path) -> Iterator[tuple[str, Iterator[tuple[int, list[str]]]]]:
    from openpyxl import load_workbook  # slow to load, and seldom needed

    _unpackable(path).close()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # of styles that it does not know
        book = load_workbook(
            io.BytesIO(read_file(path, PACKED_LIMIT)), read_only=True, data_only=True, keep_links=False
        )
        left = iter(range(_ROWS_LOOKED_AT))  # for all pages together
        try:
            for sheet in book.worksheets[:MOST_PAGES]:
                if sheet.sheet_state == "visible":
                    sheet.reset_dimensions()  # what the file says of them may be wrong
                    rows = sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS + 1)
                    numbered = ((i, row) for i, (row, _) in enumerate(zip(rows, left, strict=False), 1))
                    filled = ((i, row) for i, row in numbered if row.count(None) < len(row))
                    yield sheet.title, ((i, [_word(value) for value in row]) for i, row in filled)
        finally:
            book.close()


def _word(value: Any) -> str:
    """A cell as a painter would have typed it, numbers with a point."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return f"{value:.15g}"
    if isinstance(value, datetime) and (value.hour, value.minute, value.second) == (0, 0, 0):
        return value.date().isoformat()
    if isinstance(value, date):
        return value.isoformat()
    return str(value)


def _ods(path: Path) -> Iterator[tuple[str, Iterator[tuple[int, list[str]]]]]:
    from defusedxml.ElementTree import iterparse

    with _unpackable(path) as archive, archive.open("content.xml") as content:
        rows: list[tuple[int, list[str]]] = []
        name, number, pages, taken = "", 0, 0, 0
        for event, element in iterparse(content, ("start", "end"), forbid_dtd=True):
            if event == "start":
                if element.tag == f"{_TABLE}table":
                    name, rows, number = element.get(f"{_TABLE}name", ""), [], 0
            elif element.tag == f"{_TABLE}table-row":
                again = _count(element, "number-rows-repeated")
                row = _ods_row(element)
                if any(row):
                    taken += again
                    if taken > MOST_ROWS:
                        raise CulmoError(_too_many_rows(path.name))
                    rows += [(number + i, list(row)) for i in range(1, again + 1)]
                number += again
                element.clear()
            elif element.tag == f"{_TABLE}table":
                yield name, iter(rows)
                pages += 1
                element.clear()
                if pages == MOST_PAGES:
                    return


def _count(element: Element, what: str) -> int:
    text = element.get(f"{_TABLE}{what}", "1")
    return max(1, int(text)) if text.isascii() and text.isdigit() and len(text) < 9 else 1


def _ods_row(element: Element) -> list[str]:
    row: list[str] = []
    for cell in element:
        if cell.tag not in (f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"):
            continue
        again = min(_count(cell, "number-columns-repeated"), MOST_COLUMNS + 1)
        row += [_ods_word(cell)] * again
        while len(row) > MOST_COLUMNS + 1:
            row.pop()
    return row


def _ods_word(cell: Element) -> str:
    kind = cell.get(f"{_OFFICE}value-type", "")
    if kind in ("float", "percentage", "currency"):
        try:
            return _word(float(cell.get(f"{_OFFICE}value", "")))
        except ValueError:
            return ""
    if kind == "boolean":
        return cell.get(f"{_OFFICE}boolean-value", "")
    if kind == "date":
        return cell.get(f"{_OFFICE}date-value", "").removesuffix("T00:00:00")
    # remarks on a cell hold paragraphs too, but not as its own children
    return "\n".join("".join(_written(paragraph)) for paragraph in cell.findall(f"{_TEXT}p"))


def _written(paragraph: Element) -> Iterator[str]:
    yield paragraph.text or ""
    for child in paragraph:
        yield from [_SPACES[child.tag]] if child.tag in _SPACES else _written(child)
        yield child.tail or ""
