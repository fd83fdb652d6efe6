"""A whole study into a folder: the open forms, each sheet drawn, and the book."""

from collections.abc import Generator
from pathlib import Path

from culmo.core.paint.estimate import Estimate
from culmo.core.steps import scaled
from culmo.desk.drawing.book import BookOptions, Content, write_book
from culmo.desk.drawing.export import PrintOptions, called_in, export_sheet
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.seen import see
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.known_paints import grains_of
from culmo.study import records
from culmo.study.exchange import file_name, filling
from culmo.study.file import Study
from culmo.study.formats import Holds, written
from culmo.study.learned import grains_in
from culmo.study.own_tests import said_grains
from culmo.study.patches import runs_of, seen_textures
from culmo.study.whole_file import whole_folder

BOOK_FILE = "book.pdf"
# how much of the time each part takes, in parts of the whole
_FORMS, _SHEETS = 0.2, 0.6


def exporting_whole(
    study: Study, estimate: Estimate | None, folder: Path
) -> Generator[float, None, list[Path]]:
    """Write a study into a folder as `exporting` does, with drawings and the book; yields its progress.

    Needs a QGuiApplication. Colours are as by daylight, whatever light the window shows.

    Parameters
    ----------
    study : Study
    estimate : Estimate, or None while nothing is known; sheets are then drawn without predicted colours
    folder : Path of a folder that is empty or not there

    Returns
    -------
    list of Path, all files that were written

    Raises
    ------
    CulmoError
        when the folder holds something already, or can not be written
    """
    with whole_folder(folder) as part:
        yield from scaled(filling(study, part), 0.0, _FORMS)
        yield from _drawing(study, estimate, part)
    return sorted(path for path in folder.rglob("*") if path.is_file())


def _drawing(study: Study, estimate: Estimate | None, folder: Path) -> Generator[float, None, None]:
    paints = records.paints(study, retired=True)
    looks = None
    if estimate is not None:
        said = said_grains(study, paints)
        settled = grains_in(estimate, seen_textures(study), grains_of(said))
        looks = Looks(estimate, grains_of(said, settled), grains=settled, runs=runs_of(study))
    called = called_in(study)
    # in the order and under the names of the open forms beside them
    sheets = sorted(sheet_id for sheet_id, _ in records.sheet_titles(study))
    for number, sheet_id in enumerate(sheets, 1):
        seen = see(study, sheet_id, estimate)
        stem = f"{number:02d} {file_name(seen.record.sheet.title, 'sheet')}"
        for ending in written(Holds.DRAWING):
            path = folder / "sheets" / f"{stem}{ending}"
            export_sheet(seen.record.sheet, path, looks, SheetStyle(looks=seen.looks), PrintOptions(), called)
        yield _FORMS + _SHEETS * number / len(sheets)
    book = write_book(study, estimate, looks, folder / BOOK_FILE, Content(), BookOptions())
    yield from scaled(book, _FORMS + _SHEETS, 1.0)
