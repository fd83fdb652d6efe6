"""Planned sheets for the foreign pictures, painted by the laboratory of turbid layers; and a reading held against truth."""

from dataclasses import dataclass
from functools import cache
from io import BytesIO

import numpy as np
from PIL import Image

from culmo.core.capture.photo import plain_photo
from culmo.core.capture.read import read_sheet
from culmo.core.capture.sheet_reading import GIVEN, CellDoubt
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.paint.readings import Trust
from culmo.errors import CulmoError
from support.builders import laid_out
from support.foreign_pictures import FAULTS, difference, linear_of, take
from support.turbid import lab_of, make_laboratory, seen

KINDS = (
    ("grid", 6, {"gap_mm": 0.0}), ("grid", 8, {"gap_mm": 2.0}), ("wheel", 6, {}), ("fan", 4, {}), ("cards", 8, {}),
    ("families", 7, {}), ("triangle", 3, {}),
)  # fmt: skip
NEAR_MM = 2.5  # a cell is found where its middle is no further off
FAR = 5.0  # CIEDE2000, that a trusted cell may not be off


@cache
def sheet_of(number):
    """A planned sheet and the share of the paper's light that each of its cells is to throw back."""
    kind, count, options = KINDS[number % len(KINDS)]
    lab = make_laboratory(count, seed=100 + number)
    names = tuple(paint.name for paint in lab.paints)
    given = {"paints": names, "paper": "A4", "title": f"Sheet {number}", **options}
    if kind == "families":
        given |= {"paints": names[:2], "across": names[2:]}
    sheet = laid_out(kind, marks=(number // len(KINDS) + number) % 2 == 1, **given)[0]
    paper = linear_of(lab_of(seen(lab.grounds["paper"], lab.at, lab.gloss)))
    colours = {
        cell.id: np.clip(linear_of(lab_of(lab.reflectance(cell.recipe, cell.ground))) / paper, 1e-4, 1.0)
        for cell in sheet.cells
    }
    return sheet, colours


def picture_of(fault, hard, number, seed, long_px=2400):
    """A picture of the numbered sheet with a fault, and its paper's CIELAB."""
    sheet, colours = sheet_of(number)
    return take(sheet_to_dict(sheet), colours, fault, hard, seed, long_px)


def photo_of(picture):
    """The picture as the reader is given it."""
    return plain_photo(np.asarray(Image.open(BytesIO(picture.file)).convert("RGB")))


@dataclass(frozen=True)
class Judged:
    """A reading held against the truth.

    Attributes
    ----------
    fault : str
    hard : bool
    found : bool, whether it lies where it does, the right way round
    asked : bool, whether it was shown with a question
    off : (n,) float, CIEDE2000 of the cells that were painted and lie inside sRGB
    told : (n,) float, what was told of them
    good : (n,) bool, whether they are trusted
    bare_trusted : int, how many bare cells are trusted to be painted
    notes : tuple of str, what was said
    """

    fault: str
    hard: bool
    found: bool
    asked: bool
    off: np.ndarray
    told: np.ndarray
    good: np.ndarray
    bare_trusted: int
    notes: tuple[str, ...] = ()


def judge(picture, paper, sheet, fault, hard, corners=False):
    """Read a picture and hold what was read against the truth."""
    toned = {"paper": np.array(paper)} if fault == "toned paper" else {}
    nothing = Judged(fault, hard, False, False, np.zeros(0), np.zeros(0), np.zeros(0, dtype=bool), 0)
    try:
        reading = read_sheet(photo_of(picture), sheet, picture.corners if corners else None, **toned)
    except CulmoError:
        return nothing
    middles = np.array([np.mean(cell.outline_mm, axis=0) for cell in sheet.cells])
    at = picture.to_mm(reading.placement.to_pixels(middles))
    found = bool(np.median(np.hypot(*(at - picture.ruled).T)) < NEAR_MM)
    asked = bool(reading.wrong) and reading.by not in GIVEN
    rows, bare = [], 0
    for entry in reading.readings:
        if entry.cell in picture.bare:
            bare += entry.trust == Trust.GOOD
        elif CellDoubt.PALE not in entry.doubts and np.isfinite(picture.lab[entry.cell]).all():
            light = linear_of(picture.lab[entry.cell])
            if (light > 0.003).all() and (light < 1.0).all():
                off = float(difference(entry.lab, picture.lab[entry.cell]))
                rows.append((off, entry.uncertainty, entry.trust == Trust.GOOD))
    off, told, good = (np.array([row[i] for row in rows]) for i in range(3))
    return Judged(fault, hard, found, asked, off, told, good.astype(bool), bare, reading.notes)


def campaign(rounds=1, first=0, faults=FAULTS):
    """What to photograph: each fault mild and hard, on one sheet after another; `first` is the first round's number."""
    jobs = []
    for turn in range(first, first + rounds):
        for place, fault in enumerate(faults):
            jobs += [
                (fault, bool(hard), (2 * place + hard + 3 * turn) % 14, 500 * turn + 2 * place + hard)
                for hard in (0, 1)
            ]
    return jobs
