"""What is to be said of a sheet whose cells were read: whether it is the right one, and what to doubt."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from culmo.core.capture.cell_reader import BURNT_SHARE, CellReader
from culmo.core.capture.judge import CellVerdict, Expected, judge_sheet, mixed_up
from culmo.core.capture.locate import FoundSheet
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.sheet_reading import (
    GIVEN,
    MAY_BE_OFF,
    CellDoubt,
    CellReading,
    LyingDoubt,
    SheetReading,
)
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.readings import INK, Trust
from culmo.errors import CulmoError
from culmo.words import tr, trn

_TINTS = 0.2  # in the log of red against blue, over the sheet
_MOVED = 2.0  # CIEDE2000
_ODD_LIGHT = 1.7  # as much more than usual is left of what is known for itself
_COLOURLESS = 2.5  # of chroma, the most that noise gives a picture without colours
_COLOURFUL = 8.0  # of chroma, from which on a cell is expected to be seen coloured


def conclude(
    reader: CellReader,
    entries: list[CellReading],
    found: FoundSheet,
    expected: Mapping[str, Expected],
    doubt: str,
    known: KnownBefore | None = None,
) -> SheetReading:
    """The reading of a sheet.

    Parameters
    ----------
    reader : CellReader
    entries : list of CellReading, as the picture shows them
    found : FoundSheet, where the sheet lies
    expected : mapping from cell id to Expected
    doubt : str, what nothing tells of the way in which it lies
    known : KnownBefore, by which what the picture does to colours is undone
    """
    cells = reader.cells
    plain = [e for e in entries if CellDoubt.PALE not in e.doubts and cells[e.cell].ground != INK]
    lab = np.array([e.lab for e in plain]).reshape(-1, 3)
    painted = np.array([CellDoubt.BARE not in e.doubts for e in plain], dtype=bool)
    own = [cells[e.cell] for e in plain]
    density = np.array([reader.density[e.cell] for e in plain]).reshape(-1, 3)
    if plain and not painted.any():
        raise CulmoError(tr('no cell of "{title}" looks painted in this picture', title=reader.sheet.title))
    verdict = judge_sheet(own, lab, density, painted, expected) if plain else CellVerdict(None, 1.0)
    swapped = mixed_up(own, lab, painted, expected)
    entries = [
        replace(e, doubts=(*e.doubts, CellDoubt.MIXED), trust=Trust.DOUBTFUL, other=swapped[e.cell])
        if e.cell in swapped and CellDoubt.PALE not in e.doubts
        else e
        for e in entries
    ]
    wrong = _wrong(found, verdict, reader.sheet, doubt)
    if not wrong:
        entries = reader.settled(entries, known)
    entries = [borne_out(e, expected) for e in entries]
    if _is_colourless(own, lab, painted, reader.paper, expected):
        entries = [
            replace(e, doubts=(*e.doubts, CellDoubt.COLOURLESS), trust=Trust.DOUBTFUL) for e in entries
        ]
    if wrong:
        entries = [replace(e, doubts=(*e.doubts, CellDoubt.OFF_SHEET), trust=Trust.DOUBTFUL) for e in entries]
    return SheetReading(
        readings=tuple(entries),
        missing=tuple(reader.missing),
        placement=reader.placement,
        by=found.by,
        turned=found.turned > 0.25,
        light=reader.light,
        notes=tuple(_notes(reader, found, verdict)),
        wrong=wrong,
        asked=(_is_weak(found) or bool(doubt)) and verdict.fits is not False,
        shot=reader.shot,
    )


def borne_out(entry: CellReading, expected: Mapping[str, Expected]) -> CellReading:
    """A colour that may be far off by what the picture tells, and is where it was foretold, is not in doubt for that.

    Parameters
    ----------
    entry : CellReading
    expected : mapping from cell id to Expected
    """
    foretold = expected.get(entry.cell)
    if CellDoubt.UNSURE not in entry.doubts or foretold is None:
        return entry
    both = (entry.uncertainty**-2 + max(foretold.dE90, 0.1) ** -2) ** -0.5
    if both > MAY_BE_OFF or float(delta_e_00(entry.lab, foretold.lab)) > MAY_BE_OFF:
        return entry
    doubts = tuple(doubt for doubt in entry.doubts if doubt != CellDoubt.UNSURE)
    return replace(entry, doubts=doubts, trust=Trust.DOUBTFUL if doubts else Trust.GOOD)


def _is_weak(found: FoundSheet) -> bool:
    """Whether a place that was found by itself may be right, and is not borne out plainly."""
    return found.by not in GIVEN and not found.sound and (found.bearing.fair or not found.bearing.enough)


def _wrong(found: FoundSheet, verdict: CellVerdict, sheet: Sheet, doubt: str) -> str:
    bearing = found.bearing
    if bearing.enough and not bearing.fair:
        return tr(
            'the cells in the picture do not lie as those of "{title}" do; is it another sheet?',
            title=sheet.title,
        )
    if _is_weak(found):
        return tr(
            '"{title}" may lie as it is drawn here, but the picture does not show it plainly; look whether the '
            "outlines lie on the cells, and move them where they do not",
            title=sheet.title,
        )
    if doubt == LyingDoubt.MIRRORED:
        return tr(
            'the writing of "{title}" lies as in a mirror; is the picture mirrored? Then turn it over where it was '
            "taken, and open it again",
            title=sheet.title,
        )
    if doubt == LyingDoubt.TURNED:
        return tr(
            'nothing in the picture tells which way round "{title}" lies; look whether it lies as it is drawn here',
            title=sheet.title,
        )
    if verdict.fits is False:
        return tr(
            'the colours do not fit the recipes of "{title}"; is it another sheet, or another way round?',
            title=sheet.title,
        )
    return ""


def _is_colourless(
    cells: Sequence[Cell], lab: Array, painted: Flags, paper: Array, expected: Mapping[str, Expected]
) -> bool:
    """Whether a picture shows no colours where there must be some: by what is foretold, or by three paints and more."""
    some = [i for i in range(len(cells)) if painted[i] and cells[i].recipe.layers]
    if len(some) < 4 or np.hypot(*(lab[some] - paper)[:, 1:].T).max() > _COLOURLESS:
        return False
    told = [np.hypot(*expected[cells[i].id].lab[1:]) for i in some if cells[i].id in expected]
    if told:
        return bool(np.median(told) > _COLOURFUL)
    return len({name.casefold() for i in some for name in cells[i].recipe.names}) >= 3


def _away(cell: Cell, place_mm: tuple[float, float]) -> float:
    return float(np.hypot(*(np.mean(cell.outline_mm, axis=0) - np.array(place_mm))))


def _notes(reader: CellReader, found: FoundSheet, verdict: CellVerdict) -> list[str]:
    notes = []
    if verdict.fits is None:
        notes.append(
            tr("nothing is known of these paints yet, so that it was not checked which sheet this is")
        )
    if reader.light.blocks and reader.light.tints_apart() > _TINTS:
        notes.append(
            tr("two lights of different tints fall on the sheet; switch one off, or go into the shade")
        )
    if reader.gleam.light:
        nearest = min(reader.sheet.cells, key=lambda cell: _away(cell, reader.gleam.middle_mm))
        notes.append(
            tr(
                "something shines on the paint about {cell}; most of it was taken away, but a picture with the light "
                "from the side reads better",
                cell=nearest.id,
            )
        )
    if reader.light.burnt > BURNT_SHARE:
        notes.append(tr("the bare paper is burnt out; take the picture again, darker"))
    notes += _notes_of_camera(reader)
    if found.turned > 0.25:
        way = tr("upside down") if found.turned > 0.75 else tr("on its side")
        notes.append(tr("the sheet lies {way} in the picture; it was turned", way=way))
    if reader.missing:
        count = len(reader.missing)
        notes.append(
            trn(
                "{n} cell is not in the picture: {what}",
                "{n} cells are not in the picture: {what}",
                count,
                what=", ".join(reader.missing[:6]),
            )
        )
    if not reader.light.blocks:
        notes.append(tr("no bare paper is seen around the cells; the light could not be judged"))
    elif reader.light.reach < 0.45:
        notes.append(tr("the light is very uneven; a picture in the shade, or by two lamps, reads better"))
    return notes


def _notes_of_camera(reader: CellReader) -> list[str]:
    """What the camera and the light did to the colours, and how that is known."""
    notes = []
    if reader.moved > _MOVED:
        notes.append(
            tr(
                "the camera and the light moved the colours by about {moved:.0f}; as far as the paints tell "
                "it, that was undone",
                moved=reader.moved,
            )
        )
    if reader.rest > _ODD_LIGHT:
        notes.append(
            tr(
                "the patches do not come out as by daylight or a usual lamp: a lamp with gaps in its light, or a look "
                "of the camera; by a window it reads better"
            )
        )
    if reader.card_fit is not None:
        notes.append(
            tr(
                "the reference card's patches were {before:.1f} away on average, and are {after:.1f} "
                "after the correction",
                before=reader.card_fit.before,
                after=reader.card_fit.after,
            )
        )
    if reader.card_lacks:
        notes.append(tr("the reference card does not lie on its place, or is another one; it was not used"))
    if reader.strip is not None:
        notes.append(
            tr(
                'the strip "{title}" lies beside the sheet: its patches were {before:.1f} away, and are {after:.1f} after '
                "the correction",
                title=reader.strip.strip.sheet.title,
                before=reader.strip.before,
                after=reader.strip.after,
            )
        )
    return notes
