"""Lists of paints from files: tables with their columns matched, and their lines as the particulars of paints."""

from pathlib import Path

from culmo.core.paint.claims import LABEL_KEYS
from culmo.core.paint.entry import PaintLine
from culmo.core.paint.paint_table import PaintTable, table_of
from culmo.study.acts import PaintEntry
from culmo.study.spreadsheet import read_pages

# how much a paint granulates, 0..1, by the label's word
GRAIN_OF = {"no": 0.02, "slight": 0.12, "medium": 0.25, "high": 0.4}


def paint_tables(path: Path) -> list[PaintTable]:
    """The tables of a file, one for each page that holds something.

    Raises
    ------
    CulmoError
        when the file can not be read, or holds nothing
    """
    return [table_of(page.rows, page.name) for page in read_pages(path)]


def entry_of(line: PaintLine, name: str, codes: str) -> PaintEntry:
    """What a line says, as the particulars of a paint."""
    label = {key: line.claims[key] for key in LABEL_KEYS if key in line.claims}
    grain = GRAIN_OF.get(line.claims.get("granulation", ""))
    return PaintEntry(name, codes, line.claims.get("status", "owned"), grain, line.note, label)
