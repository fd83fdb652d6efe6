"""Pictures of the made-up studio's sheets: the paint lies as its pigments settle, and a simulated camera looks at it."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from culmo.core.capture.camera import FADED, SETTLED, Exposure, photograph
from culmo.core.capture.photo import Photo, plain_photo
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import linear_srgb_from_lab
from culmo.core.paint.character import Triple
from culmo.demo.simulated import Painter

_PER_MM, _MOST_PX = 8.0, 2520  # enough for the grain of a cold-pressed paper
_AT_THE_WINDOW = Exposure(
    tilt_deg=4.0, toward_deg=70.0, roll_deg=0.6, fill=0.96, falloff=0.12, kelvin=5600.0, balance=0.8, noise=0.004,
    curl_mm=0.6, pencil=0.7, grain=0.7,
)  # fmt: skip


def picture_of(
    painter: Painter, sheet: Sheet, looks: Mapping[str, Triple], paper: Array, seed: int
) -> tuple[Photo, Array]:
    """A picture of a sheet with dry paint, and the corners of its frame, (4, 2) float, in pixels.

    Parameters
    ----------
    painter : Painter, whose paints they are
    sheet : Sheet
    looks : mapping from a cell's id to the colour of its paint, CIELAB; the others are bare
    paper : (3,) float, CIELAB of the bare paper
    seed : int
    """
    painted = [cell for cell in sheet.cells if cell.id in looks and not cell.treatment]
    settled = {
        cell.id: _settled(painter, cell) if cell.fade_mm is None else _faded(painter, cell)
        for cell in painted
    }
    shot = replace(_AT_THE_WINDOW, width_px=min(_MOST_PX, round(_PER_MM * sheet.paper.width_mm)))
    colours = {cell.id: np.array(looks[cell.id]) for cell in painted}
    seen = photograph(sheet, colours, shot, np.random.default_rng(seed), paper=paper, settled=settled)
    return plain_photo(seen.pixels), seen.corners


def _settled(painter: Painter, cell: Cell) -> Array:
    return linear_srgb_from_lab(lab_from_reflectance(painter.settled(cell.recipe, cell.ground, SETTLED)))


def _faded(painter: Painter, cell: Cell) -> Array:
    recipes = [cell.recipe.with_wash(float(share)) for share in FADED]
    steps = [lab_from_reflectance(painter.settled(recipe, cell.ground, SETTLED)) for recipe in recipes]
    return linear_srgb_from_lab(np.stack(steps, axis=1))
