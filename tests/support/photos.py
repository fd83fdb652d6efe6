"""Practice photos of sheets painted by a simulated hand, for the tests of reading."""

import os
from dataclasses import dataclass

import numpy as np

from culmo.core.capture.camera import Exposure, Practice, photograph, random_shot
from culmo.core.capture.photo import Photo, plain_photo
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import in_srgb
from culmo.core.paint.readings import Trust
from support.builders import laid_out
from support.paints import make_painter

KINDS = (
    ("grid", 5, "A4", 0.0), ("grid", 8, "A3", 0.0), ("wheel", 6, "A4", 2.0), ("grid", 6, "A4", 2.0),
    ("triangle", 3, "A4", 1.0), ("grid", 9, "A3", 1.0), ("grid", 7, "240x320", 1.0), ("against", 6, "A4", 2.0),
)  # fmt: skip


@dataclass(frozen=True)
class Painted:
    """A sheet with the colours that its dry cells really have."""

    sheet: Sheet
    lab: dict[str, np.ndarray]
    grains: dict[str, float]

    def shoot(self, shot: Exposure, seed: int = 0) -> tuple[Practice, Photo]:
        """A photo of it."""
        seen = photograph(self.sheet, self.lab, shot, np.random.default_rng(seed), self.grains)
        return seen, plain_photo(seen.pixels, wide=seen.wide)


def paint_sheet(kind="grid", count=5, paper="A4", gap=0.0, marks=True, seed=0, **choices) -> Painted:
    """A sheet of a kind, painted by a random hand with random paints."""
    painter = make_painter(count, seed)
    names = tuple(paint.name for paint in painter.paints)
    given = {"paints": names, "paper": paper, "title": "Practice", "gap_mm": gap, "marks": marks, **choices}
    sheet = laid_out(kind, **given)[0]
    lab = {c.id: lab_from_reflectance(painter.reflectance(c.recipe, c.ground)) for c in sheet.cells}
    grain = {paint.name.casefold(): paint.grain for paint in painter.paints}
    grains = {c.id: float(np.mean([grain[n.casefold()] for n in c.recipe.names] or [0])) for c in sheet.cells}
    return Painted(sheet, lab, grains)


def any_sheet(number: int, marks: bool = True) -> tuple[Painted, Exposure]:
    """The numbered one of many random sheets and conditions."""
    kind, count, paper, gap = KINDS[number % len(KINDS)]
    shot = random_shot(np.random.default_rng(number), 1600 if os.environ.get("CULMO_SOAK") else 1200)
    return paint_sheet(kind, count, paper, gap, marks, number), shot


def errors(reading, practice: Practice) -> tuple[list[float], list[tuple[float, str]]]:
    """CIEDE2000 of the cells inside sRGB; and of those outside, with how far they are trusted."""
    inside, outside = [], []
    for entry in reading.readings:
        if "pale end" in entry.doubts:
            continue
        away = float(delta_e_00(entry.lab, practice.lab[entry.cell]))
        if in_srgb(practice.lab[entry.cell]):
            inside.append(away)
        else:
            outside.append((away, entry.trust))
    return inside, outside


def trusted_and_wrong(outside, more_than: float = 5.0) -> int:
    """How many colours outside sRGB are trusted and far off."""
    return sum(away > more_than and trust == Trust.GOOD for away, trust in outside)
