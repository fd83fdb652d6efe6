"""The file formats that Culmo knows, each once: its endings, how it is told by what it holds, what is read from it, what is
written in it. Import, the rooms, dropping, the dialogs, the commands and the help ask here.
"""

import codecs
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.schema import SUFFIX
from culmo.words import tr

RAW_ENDINGS = (".dng", ".cr2", ".cr3", ".nef", ".arw", ".raf", ".orf", ".rw2", ".pef", ".srw")
_HEAD_BYTES = 64 * 1024
_PICTURE_MARKS = (b"\x89PNG", b"\xff\xd8\xff", b"II*\0", b"MM\0*")


class Holds(Enum):
    """What a file may hold."""

    READINGS = "readings"
    PAINTS = "paints"
    COLOURS = "wanted colours"
    PALETTE = "a palette of colours"
    CARD = "the values of a reference card"
    SHEETS = "sheets"
    CELLS = "the cells of a sheet"
    PAINT_TABLE = "all that is known of paints"
    DRAWING = "a drawing"
    PICTURE = "a picture"
    STUDY = "a study"


@dataclass(frozen=True)
class Format:
    """A format of files.

    Attributes
    ----------
    id : str
    title : str, as a dialog names it
    endings : tuple of str, with the point, folded
    takes : frozenset of Holds, what is read from it
    gives : frozenset of Holds, what is written in it
    is_meant : function of the first bytes, whether they are of this format rather than of one that shares an ending
    """

    id: str
    title: str
    endings: tuple[str, ...]
    takes: frozenset[Holds] = frozenset()
    gives: frozenset[Holds] = frozenset()
    is_meant: Callable[[bytes], bool] | None = None


def _measured(head: bytes) -> bool:
    return b"BEGIN_DATA" in head.upper()


_OF_TABLES = frozenset({Holds.READINGS, Holds.PAINTS, Holds.COLOURS, Holds.CARD})

CGATS = Format(
    "cgats", tr("Measurements"), (".txt", ".cgats", ".it8", ".ti3"),
    frozenset({Holds.READINGS, Holds.COLOURS, Holds.CARD}), is_meant=_measured,
)  # fmt: skip
CXF = Format(
    "cxf", tr("Measurements as CxF"), (".cxf",), frozenset({Holds.READINGS, Holds.COLOURS, Holds.CARD})
)
TABLE = Format(
    "table", tr("Table as CSV"), (".csv", ".tsv", ".txt"), _OF_TABLES, frozenset({Holds.CELLS, Holds.PAINT_TABLE})
)  # fmt: skip
WORKBOOK = Format("workbook", tr("Spreadsheet"), (".xlsx", ".ods"), _OF_TABLES)
_OF_PALETTES = frozenset({Holds.COLOURS}), frozenset({Holds.PALETTE})
GPL = Format("gpl", tr("Palette"), (".gpl",), *_OF_PALETTES)
ASE = Format("ase", tr("Swatches"), (".ase",), *_OF_PALETTES)
KPL = Format("kpl", tr("Palette with rows"), (".kpl",), *_OF_PALETTES)
CSS = Format("css", tr("Style sheet"), (".css",), *_OF_PALETTES)
HEX = Format("hex", tr("List of hex colours"), (".hex",), *_OF_PALETTES)
JSON = Format("json", tr("Sheet as JSON"), (".json",), frozenset({Holds.SHEETS}), frozenset({Holds.SHEETS}))
PICTURE = Format(
    "picture",
    tr("Pictures"),
    (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp", ".heic", ".heif", ".avif", *RAW_ENDINGS),
    frozenset({Holds.PICTURE}),
)
PDF = Format("pdf", tr("PDF at 1:1"), (".pdf",), gives=frozenset({Holds.DRAWING, Holds.PAINT_TABLE}))
SVG = Format("svg", tr("SVG at 1:1"), (".svg",), gives=frozenset({Holds.DRAWING}))
PNG = Format("png", tr("PNG"), (".png",), gives=frozenset({Holds.DRAWING}))
STUDY = Format("study", tr("Culmo studies"), (SUFFIX,), frozenset({Holds.STUDY}))
FORMATS = (PDF, SVG, PNG, TABLE, JSON, WORKBOOK, CGATS, CXF, GPL, ASE, KPL, CSS, HEX, PICTURE, STUDY)

# what File, Import takes in as an act
OPEN_FILES = (Holds.READINGS, Holds.PAINTS, Holds.COLOURS, Holds.SHEETS)


def ending_of(head: bytes) -> str:
    """The ending of what came without a name, by its first bytes; that of a table where they tell nothing.

    Parameters
    ----------
    head : bytes, the first of it
    """
    text = head.removeprefix(codecs.BOM_UTF8).lstrip()
    if head.startswith(b"PK"):
        return ".ods" if b"opendocument.spreadsheet" in head[:200] else ".xlsx"
    if text[:1] in (b"{", b"["):
        return ".json"
    if text.startswith(b"<") and b"CxF" in head:
        return ".cxf"
    if text.startswith(b"GIMP Palette"):
        return ".gpl"
    if any(head.startswith(mark) for mark in _PICTURE_MARKS) or head[8:12] == b"WEBP" or head[4:8] == b"ftyp":
        return ".png"  # whichever: pictures are told by what they hold
    return ".txt" if _measured(head) else ".csv"


def _ending(path: Path) -> str:
    return path.suffix.casefold()


def endings(*holds: Holds) -> tuple[str, ...]:
    """The endings of the files that any of these may be read from, each once."""
    found = (ending for one in FORMATS if one.takes & set(holds) for ending in one.endings)
    return tuple(dict.fromkeys(found))


def may_hold(path: Path, *holds: Holds) -> bool:
    """Whether a file, by its ending, may hold any of these."""
    return _ending(path) in endings(*holds)


def open_filter(title: str, *holds: Holds) -> str:
    """What a dialog shows of a folder where one of these is to be opened.

    Parameters
    ----------
    title : str
    holds : Holds
    """
    return f"{title} ({' '.join(f'*{ending}' for ending in endings(*holds))})"


def written(*holds: Holds) -> tuple[str, ...]:
    """The endings of the files that any of these is written in: the first of each format, as a dialog offers them."""
    return tuple(one.endings[0] for one in FORMATS if one.gives & set(holds))


def save_filter(*holds: Holds) -> str:
    """What a dialog offers where one of these is to be saved, a line for each format."""
    return ";;".join(f"{one.title} (*{one.endings[0]})" for one in FORMATS if one.gives & set(holds))


def find_format(path: Path, holds: Iterable[Holds]) -> Format:
    """The format of a file that one of these is to be read from: by its ending, and where several share it, by its head.

    Raises
    ------
    CulmoError
        when it is of no such format, or can not be read
    """
    wanted = set(holds)
    fitting = [one for one in FORMATS if one.takes & wanted and _ending(path) in one.endings]
    if not fitting:
        raise CulmoError(
            tr(
                '"{name}" is of no kind that can be taken in: {endings}',
                name=path.name,
                endings=", ".join(endings(*wanted)),
            )
        )
    if len(fitting) == 1:
        return fitting[0]
    head = doors.read_head(path, _HEAD_BYTES)
    marked = [one for one in fitting if one.is_meant is not None and one.is_meant(head)]
    return (marked or [one for one in fitting if one.is_meant is None] or fitting)[0]
