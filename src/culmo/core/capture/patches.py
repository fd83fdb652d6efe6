"""The real paint of each cell, cut out of a picture: flat, evened in light, as it lies there with its edges and some paper.

A patch is kept as the camera saw it, as light relative to the bare paper, and not in the colours that were made of it on the
day: what is learned of the paints and of the camera later makes better colours of it, as it does of the readings.
"""

from collections.abc import Generator, Sequence

import cv2
import numpy as np

from culmo.core.capture.cell_reader import CellReader
from culmo.core.capture.patch_picture import compressed, encoded
from culmo.core.capture.photo import Photo
from culmo.core.capture.placement import Placement, flatten
from culmo.core.capture.sheet_reading import CellPatch
from culmo.core.chart.sheet import Cell

MOST_PER_MM = 12.0  # pixels a millimetre; a finer picture tells of the paper's fibres
MARGIN_MM = 1.2  # of paper and of what lies beside
_SHEET_BYTES = 2_800_000  # of all patches of a sheet
_LIGHTS = 8  # a side, at which the light on a cell is asked for
_PATCH_BYTES = (12_000, 180_000)  # of one, at the least and at the most


def cutting(
    photo: Photo, placement: Placement, reader: CellReader, cells: Sequence[Cell]
) -> Generator[float, None, dict[str, CellPatch]]:
    """The patches of cells by their ids; yields the progress, 0..1.

    Parameters
    ----------
    photo : Photo, as it was taken
    placement : Placement of the sheet in it
    reader : CellReader, which knows the light
    cells : sequence of Cell
    """
    low, high = _PATCH_BYTES
    budget = int(np.clip(_SHEET_BYTES / max(len(cells), 1), low, high))
    per_mm = float(min(placement.scale, MOST_PER_MM))
    found = {}
    for count, cell in enumerate(cells):
        found[cell.id] = _cut(photo, placement, reader, cell, per_mm, budget)
        if count % 8 == 7:
            yield count / len(cells)
    return found


def _cut(
    photo: Photo, placement: Placement, reader: CellReader, cell: Cell, per_mm: float, budget: int
) -> CellPatch:
    x, y, width, height = cell.box_mm
    paper_width, paper_height = placement.box_mm[2:]
    left, top = max(0.0, x - MARGIN_MM), max(0.0, y - MARGIN_MM)
    right, low = min(paper_width, x + width + MARGIN_MM), min(paper_height, y + height + MARGIN_MM)
    box = left, top, right - left, low - top
    linear = photo.linear(flatten(photo.pixels, placement, per_mm, box))
    rows, columns = linear.shape[:2]
    middles = (np.arange(_LIGHTS) + 0.5) / _LIGHTS
    coarse = [start + middles * (end - start) for start, end in ((left, right), (top, low))]
    light = reader.light.at(np.stack(np.meshgrid(*coarse), axis=-1)).astype(np.float32)
    linear = linear / cv2.resize(light, (columns, rows), interpolation=cv2.INTER_LINEAR)
    gleam = float(reader.gleam.at(np.array([[x + width / 2, y + height / 2]]))[0])
    pixels = encoded(reader.seen(linear - gleam))
    data, kept = compressed(pixels, budget)
    return CellPatch(data, left - x, top - y, per_mm * kept)
