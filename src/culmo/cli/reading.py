"""`culmo read`: colours from a photo of the dry sheet."""

import argparse
from pathlib import Path

import numpy as np

from culmo.cli.output import open_study, output, run_told, say
from culmo.core.capture.card import Card
from culmo.core.capture.judge import Expected, expected_colours
from culmo.core.capture.photo import Photo
from culmo.core.capture.read import reading_sheet
from culmo.core.capture.sample import PAPER_LAB, bare_paper
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.sheet_reading import DOUBT_WORDS, FOUND_WORDS, SheetReading
from culmo.core.capture.strip import KnownPatch, Strip
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.character import USUALLY_OFF, triple
from culmo.core.paint.predict import predict
from culmo.core.paint.recipe import format_recipe
from culmo.errors import CulmoError
from culmo.study.exchange import read_sheets
from culmo.study.measured import read_card
from culmo.study.pictures import open_photo
from culmo.study.tables import write_rows

COLUMNS = [
    "recipe", "ground", "L", "a", "b", "sheet", "cell", "paper", "source", "taken", "granulation", "separation", "note",
    "treatment", "trust", "mixing", "uncertainty",
]  # fmt: skip


def parse_corners(text: str, what: str = "corners") -> Array:
    """Four points from "x,y x,y x,y x,y", (4, 2) float.

    Raises
    ------
    CulmoError
        when the text is not four points
    """
    try:
        points = np.array([[float(value) for value in word.split(",")] for word in text.split()])
    except ValueError:
        points = np.zeros(0)
    if points.shape != (4, 2) or not np.isfinite(points).all():
        raise CulmoError(
            f'the {what} are "{text}"; write "x,y x,y x,y x,y" in pixels, clockwise from the top left'
        )
    return points


def _knowledge(
    options: argparse.Namespace, sheet: Sheet
) -> tuple[Array, dict[str, Expected], KnownBefore | None]:
    """The bare paper's colour, the expected colours of the cells and all beside it, as far as the call gives them."""
    paper = lab_from_text(options.paper) if options.paper else None
    strips, light = _strips(options), options.light
    if options.readings is None and options.study is None:
        return PAPER_LAB if paper is None else paper, {}, KnownBefore(strips=strips, light=light)
    from culmo.cli.loading import learn_told, load_source

    source = load_source(options)
    readings, estimate = source.readings, learn_told(source)
    known = [
        cell for cell in sheet.cells if all(name.casefold() in estimate.index for name in cell.recipe.names)
    ]
    found = predict(estimate, [cell.recipe for cell in known], [cell.ground for cell in known])
    beside = KnownBefore(
        tuple(source.names), tuple(readings), tuple(source.typical), source.beliefs, estimate, strips, light
    )
    return bare_paper(readings) if paper is None else paper, expected_colours(known, found), beside


def _strips(options: argparse.Namespace) -> tuple[Strip, ...]:
    """The strip that the call names, else those of its study."""
    if options.strip is None:
        if options.study is None:
            return ()
        from culmo.study.strips import strips_of

        with open_study(options.study) as study:
            return strips_of(study)
    if options.strip_values is None:
        raise CulmoError("the strip needs --strip-values, the colours of its cells")
    sheet = read_sheets(options.strip)[0]
    if not sheet.bars_mm:
        raise CulmoError(f'"{options.strip.name}" is no strip: it has no bar to find it by')
    cells = {cell.id for cell in sheet.cells}
    known = {
        name: KnownPatch(triple(lab), USUALLY_OFF)
        for name, lab in read_card(options.strip_values)
        if name in cells
    }
    if not known:
        raise CulmoError(f'"{options.strip_values.name}" names no cell of the strip "{sheet.title}"')
    return (Strip(sheet, known),)


def _card(options: argparse.Namespace, sheet: Sheet) -> Card | None:
    if options.card is None:
        return None
    if not options.card_corners and sheet.card_mm is None:
        raise CulmoError(
            "the reference card needs --card-corners, the corners of its block of patches: the sheet has no place for it"
        )
    known = np.array([lab for _, lab in read_card(options.card)]).reshape(-1, 3)
    corners = parse_corners(options.card_corners, "corners of the card") if options.card_corners else None
    return Card(known, corners, options.card_rows)


def run_read(options: argparse.Namespace) -> int:
    """`culmo read`."""
    sheets = read_sheets(options.sheet)
    if len(sheets) > 1 and options.page is None:
        raise CulmoError(
            f'"{options.sheet.name}" holds {len(sheets)} sheets; say which with --page 1 to {len(sheets)}'
        )
    if not 1 <= (options.page or 1) <= len(sheets):
        raise CulmoError(
            f'"{options.sheet.name}" holds {len(sheets)} sheets; there is no page {options.page}'
        )
    sheet = sheets[(options.page or 1) - 1]
    corners = parse_corners(options.corners) if options.corners else None
    card = _card(options, sheet)
    photo = open_photo(options.photo)
    paper, expected, known = _knowledge(options, sheet)
    steps = reading_sheet(photo, sheet, corners, paper, expected, card, known=known)
    result: SheetReading = run_told(steps, f"reading {options.photo.name}")
    _tell(result, options)
    with output(options.out) as file:
        file.write(readings_csv(result, sheet, photo, options.photo))
    return 0


def _tell(result: SheetReading, options: argparse.Namespace) -> None:
    if result.wrong and not options.anyway:
        raise CulmoError(f"{result.wrong} Nothing was written; --anyway writes what was seen")
    for note in (*result.notes, *((result.wrong,) if result.wrong else ())):
        say(f"culmo: {note}")
    doubtful = sum(entry.trust != "good" for entry in result.readings)
    say(f"culmo: {len(result.readings)} colours read, {FOUND_WORDS[result.by]}; {doubtful} doubtful")


def readings_csv(result: SheetReading, sheet: Sheet, photo: Photo, path: Path) -> str:
    """The readings as a CSV table."""
    taken = photo.taken.isoformat(timespec="seconds") if photo.taken else ""
    rows = []
    cells = {cell.id: cell for cell in sheet.cells}
    for entry in result.readings:
        doubts = "; ".join(DOUBT_WORDS[doubt] for doubt in entry.doubts)
        if entry.other:
            doubts += f" ({entry.other})"
        numbers = ["" if value is None else f"{value:.2f}" for value in (entry.granulation, entry.separation)]
        where = [sheet.title, entry.cell, sheet.paper.name, f"photo {path.name}", taken]
        lab = [f"{value:.3f}" for value in entry.lab]
        cell = cells[entry.cell]
        judged = [doubts, cell.treatment, entry.trust, cell.mixing, f"{entry.uncertainty:.2f}"]
        rows.append([format_recipe(entry.recipe), entry.ground, *lab, *where, *numbers, *judged])
    return write_rows(COLUMNS, rows)
