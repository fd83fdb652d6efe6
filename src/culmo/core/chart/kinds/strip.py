"""The strip: a few of one's own paints, cut out to lie beside the sheet in every picture.

What a camera and a light do to colours is told by colours that are known. The strip is painted once and read as well as can
be; from then on it is found by its black bar in each picture that it lies in.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import oblong
from culmo.core.chart.box import shortened
from culmo.core.chart.kind import Kind, paints_option
from culmo.core.chart.lengths import length_text
from culmo.core.chart.options import Options, Whole, option
from culmo.core.chart.page import Page, ThePaper
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Box, Cell, Ruling, Sheet, SheetText
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import FULL, Recipe, mix
from culmo.core.paint.telling import telling
from culmo.errors import CulmoError
from culmo.words import tr

STRIP = "strip"
MOST_PAINTS = 8
_PALE = 0.25  # the wash of the second row: a tint is told apart from paper by little
_CELL_MM = (12.0, 11.0)
_GAP_MM, _EDGE_MM = 2.5, 8.0
_NAMES_MM, _LETTERS_MM = 4.0, 2.4
_BAR_MM, _ABOVE_BAR_MM = 5.0, 4.0


@dataclass(frozen=True)
class StripOptions(Options):
    """The paints to choose from, and how many stand on the strip."""

    paints: tuple[str, ...] = paints_option()
    patches: int = option(
        Whole(4, MOST_PAINTS), MOST_PAINTS, tr("Paints on the strip"),
        "so many paints stand on the strip: those that tell most about a camera", hint=str(MOST_PAINTS),
    )  # fmt: skip


def chosen_paints(options: StripOptions, aids: Aids) -> tuple[str, ...]:
    """The paints that tell most about a camera, in the order in which they were given.

    Paints of which nothing is known come in last, spread evenly over those that were given.
    """
    names, count = options.paints, min(options.patches, len(options.paints))
    seen = [(name, washes) for name in names if (washes := _washes(name, aids)) is not None]
    taken: list[str] = []
    if seen and aids.known.lab is not None:
        lab = np.array([washes for _, washes in seen])
        taken = [seen[place][0] for place in telling(lab, aids.known.lab([Recipe()])[0], count)]
    rest = [name for name in names if name not in taken and name not in dict(seen)]
    lacking = count - len(taken)
    if lacking > 0:
        taken += [rest[int(place * len(rest) / lacking)] for place in range(lacking)]
    return tuple(name for name in names if name in taken)


def _washes(name: str, aids: Aids) -> Array | None:
    """CIELAB of the full and the pale wash of a paint; None where nothing is known of it."""
    if aids.known.lab is None:
        return None
    try:
        return aids.known.lab([mix([name], wash=wash) for wash in (FULL, _PALE)])
    except CulmoError:
        return None


def _lay_out(options: StripOptions, page: Page, aids: Aids) -> list[Sheet]:
    if len(options.paints) < 4:
        raise CulmoError(tr("a strip needs at least four paints; fewer tell too little about a camera"))
    names = chosen_paints(options, aids)
    width, height = _CELL_MM
    wide = len(names) * width + (len(names) - 1) * _GAP_MM
    bar_y = _EDGE_MM + _NAMES_MM + 2.0 * height + _GAP_MM + _ABOVE_BAR_MM
    size = wide + 2.0 * _EDGE_MM, bar_y + _BAR_MM + _EDGE_MM
    _check_room(page.paper, size)
    cells, labels = [], []
    for place, name in enumerate(names):
        x = _EDGE_MM + place * (width + _GAP_MM)
        for row, wash in enumerate((FULL, _PALE)):
            y = _EDGE_MM + _NAMES_MM + row * (height + _GAP_MM)
            outline = oblong(x, y, width, height)
            cells.append(Cell(f"{'fp'[row]}{place + 1:02d}", outline, mix([name], wash=wash)))
        text = _text(name, width + _GAP_MM - 0.5, aids)
        labels.append(SheetText(text, (x, _EDGE_MM + _NAMES_MM - 1.4), 0.0, _LETTERS_MM))
    if page.title:
        title = shortened(page.title, _LETTERS_MM, wide, aids.measure)
        labels.append(SheetText(title, (_EDGE_MM, bar_y + _BAR_MM + 4.4), 0.0, _LETTERS_MM))
    bar: Box = (_EDGE_MM, bar_y, wide, _BAR_MM)
    top = _EDGE_MM + _NAMES_MM
    sheet = Sheet(
        title=page.title or tr("Strip"),
        kind=STRIP,
        paper=Paper(page.paper.name, *size),
        frame_mm=(_EDGE_MM, top, wide, 2.0 * height + _GAP_MM),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(_edges(cells, 0), (*_edges(cells, 1), bar_y, bar_y + _BAR_MM)),
        # the paints that were chosen, and the paper that it is cut from
        settings={"paints": list(names), "paper": ThePaper().plain(page.paper)},
        bars_mm=(bar,),
    )
    return [sheet]


def _check_room(paper: Paper, size: tuple[float, float]) -> None:
    long, short = max(paper.width_mm, paper.height_mm), min(paper.width_mm, paper.height_mm)
    if size[0] > long or size[1] > short:
        raise CulmoError(
            tr(
                'a strip of {width:g} x {height:g} mm can not be cut from paper "{name}": take a larger paper, or fewer '
                "paints",
                width=size[0],
                height=size[1],
                name=paper.name,
            )
        )


def _text(name: str, width_mm: float, aids: Aids) -> str:
    """What stands above a paint: its codes where its name has no room."""
    codes = aids.codes.get(name.casefold(), "")
    if aids.measure(name, _LETTERS_MM) <= width_mm or not codes:
        return shortened(name, _LETTERS_MM, width_mm, aids.measure)
    return shortened(codes, _LETTERS_MM, width_mm, aids.measure)


def _edges(cells: Sequence[Cell], axis: int) -> tuple[float, ...]:
    return tuple(sorted({round(point[axis], 2) for cell in cells for point in cell.outline_mm}))


def about_strip(sheet: Sheet) -> str:
    """A line on a strip: how large it is cut."""
    unit = str(sheet.settings.get("unit", "mm"))
    return tr(
        "{n} paints on a strip of {width} x {height}",
        n=len({cell.id[1:] for cell in sheet.cells}),
        width=length_text(sheet.paper.width_mm, unit),
        height=length_text(sheet.paper.height_mm, unit),
    )


def way_of_strip(sheet: Sheet) -> list[str]:
    """How to make a strip, and what it is for."""
    _, _, width, height = sheet.bars_mm[0] if sheet.bars_mm else (0.0, 0.0, 0.0, 0.0)
    unit = str(sheet.settings.get("unit", "mm"))
    return [
        tr("The strip and what it is for"),
        tr("Cut the strip from the paper on which you paint your sheets."),
        tr(
            "Rule the bar, {width} x {height}, in black ink that does not bleed, and leave it bare: by it the strip is "
            "found in a picture.",
            width=length_text(width, unit),
            height=length_text(height, unit),
        ),
        tr("Paint the upper row in full, the lower one paler. It matters only that each patch is even."),
        tr(
            "Read the dry strip once, as well as can be: by an instrument, or in two or three pictures by a window."
        ),
        tr("From then on lay it beside the sheet in each picture: it is found by itself."),
    ]


KIND = Kind(
    12, STRIP, tr("Strip for pictures"), tr("a few known paints beside every sheet, to tell what the camera does"),
    StripOptions, lay_out=_lay_out, gap_mm=_GAP_MM,
    without=(
        "orientation", "tape_mm", "card_mm", "gap_mm", "cell_mm", "square", "round", "note_mm", "letters_mm", "gutter_mm",
        "marks", "several",
    ),
    about=about_strip, way=way_of_strip, few=48,
)  # fmt: skip
