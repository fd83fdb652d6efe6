"""Sheets that were read from pictures, with a patch for each cell, made without any picture."""

import json

import numpy as np
from scipy import ndimage

from culmo.core.capture.patch_picture import compressed, encoded
from culmo.core.capture.sheet_reading import CellPatch, CellReading
from culmo.core.paint.character import Shot
from culmo.core.paint.texture import Texture
from culmo.study import records
from culmo.study.patches import Patch
from culmo.study.photo_acts import Picture, read_picture

SHOT = Shot("this picture", (96.0, 0.0, 2.0), "a camera")
EARLY, LATE = "2026-06-01T12:00:00+02:00", "2026-06-08T12:00:00+02:00"
# what is kept of what a picture showed of one cell
SEEN = json.dumps({
    "rgb": [0.4, 0.3, 0.2], "own": 0.5, "lab": [50.0, 5.0, -5.0], "paper": list(SHOT.paper), "shot": "k", "camera": "",
    "light": "",
})  # fmt: skip
TEXTURE = Texture(2.5, 0.2, 0.6, 1.25, 0.1, (0.96, 0.0, 0.28), 2.6, 0.75, -0.5)


def patch_of(number, seed=0, size=(90, 120), grain_px=0.0):
    """A patch that no other cell has; noise from pixel to pixel, or grain of a size as paint has it."""
    rng = np.random.default_rng([seed, number])
    noise = rng.normal(size=(*size, 3))
    if grain_px:
        noise = ndimage.gaussian_filter(noise, (grain_px, grain_px, 0))
        noise /= noise.std()
    light = np.clip(rng.uniform(0.2, 0.9, 3) + 0.05 * noise, 0, 1)
    return CellPatch(compressed(encoded(light), 40_000)[0], -1.2, -1.2, 6.0, TEXTURE)


def real_patch(number, cell_patch, size=(40.0, 16.0)):
    """A cell's patch as the record has it, ready to be drawn."""
    return Patch(
        number,
        cell_patch.data,
        cell_patch.left_mm,
        cell_patch.top_mm,
        size,
        cell_patch.per_mm,
        (0.4, 0.3, 0.2),
        SHOT.paper,
        "k",
    )


def read_all(study, taken=EARLY, seed=0, sheet_id=1, most=None, kept=True, patch=None):
    """A picture of the sheet into the record, kept itself or not; gives the patches by the ids of the cells."""
    cells = records.sheet_record(study, sheet_id).cells[:most]
    lab = np.array([50.0 + seed, 5.0, -5.0])
    entries = [
        CellReading(
            one.cell.id, one.cell.recipe, one.cell.ground, lab, "good", (), 0.5, 2.0, 1.0, seen=(0.4, 0.3, 0.2)
        )
        for one in cells
    ]  # fmt: skip
    make = patch or (lambda place: patch_of(place, seed))
    patches = {one.cell.id: make(place) for place, one in enumerate(cells)}
    picture = Picture(f"{seed}.jpg", f"file {seed}".encode(), taken) if kept else None
    study.apply(read_picture(study, sheet_id, entries, picture, shot=SHOT, patches=patches, wet=()))
    return patches
