"""The real paint of each cell, cut out of a picture: flat, evened in light, as it lies there with its edges and some paper.

A patch is kept as the camera saw it, as light relative to the bare paper, and not in the colours that were made of it on the
day: what is learned of the paints and of the camera later makes better colours of it, as it does of the readings.
"""

import os
from collections.abc import Generator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.cell_reader import CellReader
from culmo.core.capture.patch_picture import compressed, encoded
from culmo.core.capture.photo import Photo
from culmo.core.capture.placement import Placement, flatten
from culmo.core.capture.sheet_reading import CellPatch
from culmo.core.capture.texture import PaperTexture, paper_texture, texture_of
from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.character import seen_lab

MOST_PER_MM = 12.0  # pixels a millimetre; a finer picture tells of the paper's fibres
MARGIN_MM = 1.2  # of paper and of what lies beside
_SHEET_BYTES = 2_800_000  # of all patches of a sheet
_SQUARE_MM, _MOST_SQUARES = 6.0, 12  # of bare paper, by which its tooth and the camera's noise are known
_LIGHTS = 8  # a side, at which the light on a cell is asked for
_PATCH_BYTES = (12_000, 180_000)  # of one, at the least and at the most
# beside each other: on two cores cutting 144 cells takes half as long
_MOST_THREADS = 4


@dataclass(frozen=True)
class Bare:
    """Where the paper of a sheet is bare.

    Attributes
    ----------
    mask : (h, w) bool
    per_mm : float, its pixels a millimetre
    """

    mask: Flags
    per_mm: float

    def squares(self, side_mm: float, most: int) -> list[tuple[float, float, float, float]]:
        """Bare squares of a size, as x, y, width and height in mm, evenly among those that there are."""
        side = max(2, round(side_mm * self.per_mm))
        down, across = self.mask.shape[0] // side, self.mask.shape[1] // side
        blocks = self.mask[: down * side, : across * side].reshape(down, side, across, side)
        rows, columns = np.nonzero(blocks.all(axis=(1, 3)))
        if not len(rows):
            return []
        some = np.unique(np.linspace(0, len(rows) - 1, min(most, len(rows))).astype(int))
        step = side / self.per_mm
        return [(float(columns[i] * step), float(rows[i] * step), step, step) for i in some]


def cutting(
    photo: Photo, placement: Placement, reader: CellReader, cells: Sequence[Cell], bare: Bare
) -> Generator[float, None, dict[str, CellPatch]]:
    """The patches of cells by their ids; yields the progress, 0..1.

    Parameters
    ----------
    photo : Photo, as it was taken
    placement : Placement of the sheet in it
    reader : CellReader, which knows the light
    cells : sequence of Cell
    bare : Bare, where the paper is bare
    """
    low, high = _PATCH_BYTES
    budget = int(np.clip(_SHEET_BYTES / max(len(cells), 1), low, high))
    cutter = _Cutter(photo, placement, reader)
    squares = [cutter.lab(cutter.light(box)) for box in bare.squares(_SQUARE_MM, _MOST_SQUARES)]
    paper = paper_texture(squares)
    found = {}
    beside = ThreadPoolExecutor(min(_MOST_THREADS, len(os.sched_getaffinity(0))), "cutting")
    try:
        patches = beside.map(lambda cell: cutter.patch(cell, paper, budget), cells)
        for count, (cell, patch) in enumerate(zip(cells, patches, strict=True)):
            found[cell.id] = patch
            if count % 8 == 7:
                yield count / len(cells)
    finally:  # given up, no more are begun
        beside.shutdown(cancel_futures=True)
    return found


class _Cutter:
    """Cuts pieces out of one picture, the light on them evened out."""

    def __init__(self, photo: Photo, placement: Placement, reader: CellReader) -> None:
        self.photo, self.placement, self.reader = photo, placement, reader
        self.per_mm = float(min(placement.scale, MOST_PER_MM))

    def light(self, box_mm: tuple[float, float, float, float]) -> Array:
        """Light relative to the bare paper of a part of the sheet, (h, w, 3) float, linear sRGB."""
        left, top, width, height = box_mm
        linear = self.photo.linear(flatten(self.photo.pixels, self.placement, self.per_mm, box_mm))
        middles = (np.arange(_LIGHTS) + 0.5) / _LIGHTS
        coarse = np.meshgrid(left + middles * width, top + middles * height)
        light = self.reader.light.at(np.stack(coarse, axis=-1)).astype(np.float32)
        linear = linear / cv2.resize(light, linear.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        gleam = np.float32(self.reader.gleam.at(np.array([[left + width / 2, top + height / 2]]))[0])
        return np.asarray(np.maximum(linear - gleam, 0.0) @ self.reader.to_seen.T.astype(np.float32))

    def lab(self, light: Array) -> Array:
        """CIELAB of light relative to the bare paper, as the picture shows it, (h, w, 3) float."""
        return seen_lab(light.reshape(-1, 3), self.reader.paper).reshape(light.shape)

    def patch(self, cell: Cell, paper: PaperTexture | None, budget: int) -> CellPatch:
        """The patch of a cell, of at most so many bytes."""
        x, y, width, height = cell.box_mm
        paper_width, paper_height = self.placement.box_mm[2:]
        left, top = max(0.0, x - MARGIN_MM), max(0.0, y - MARGIN_MM)
        right, low = min(paper_width, x + width + MARGIN_MM), min(paper_height, y + height + MARGIN_MM)
        light = self.light((left, top, right - left, low - top))
        data, kept = compressed(encoded(light), budget)
        texture = texture_of(self.lab(light), cell, (left, top), self.per_mm, self.placement.scale, paper)
        return CellPatch(data, left - x, top - y, self.per_mm * kept, texture)
