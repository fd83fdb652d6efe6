"""How far off a colour that was read from a picture may easily be, by what each part of the way to it may have done.

The parts are independent, and each is told by what it does to the colour: a camera that mixes its channels, bends its
curve and spreads some light over the picture; a film that dried uneven; a light that the bare paper nearby does not bear
out, or of two tints; a gleam, which adds light that the paper, being duller than paint, shows only a little of.
"""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.light import LightField
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.readings import NINE_IN_TEN

LEAST = 0.3  # CIEDE2000, root mean square: rounding, compression, the paper's grain
# of a usual camera whose own look is switched off, standard deviations
_MIXES, _BENDS, _FLARE = 0.025, 0.062, 0.008
# more than in proportion: under a lamp of another colour the paints are not what they are by day, either
_BY_LAMP = 1.5
_GRID_MM, _SPOT_MM = 6.0, 110.0
_OF_LIGHT = 0.012  # in logs, what the light's field is off by where it fits best
_BUMP = 0.012  # in logs of light, below which a bright spot is the light's own
# how much more of a gleam paint shows than paper: what to expect, and the most
_GLOSS, _MOST_GLOSS = 0.7, 8.0
_PLAINLY, _OF_A_GLEAM = 2.5, 3.0
_OF_FOUND = 0.4  # of a gleam that was found within the cells, what may be left of it


@dataclass(frozen=True)
class Shares:
    """What each part may do, CIEDE2000 as a root mean square, (n,) float each.

    Attributes
    ----------
    camera, film, light, tint, gleam : (n,) float
    """

    camera: Array
    film: Array
    light: Array
    tint: Array
    gleam: Array

    @property
    def own(self) -> Array:
        """What is each colour's own, without what the camera does to all of them: a root mean square, (n,) float."""
        parts = (self.film, self.light, self.tint, self.gleam)
        return np.asarray(np.sqrt(LEAST**2 + sum(part**2 for part in parts)))

    @property
    def told(self) -> Array:
        """What holds nine in ten, (n,) float."""
        return np.asarray(NINE_IN_TEN * np.hypot(self.camera, self.own))


def shares(
    lab_of: Callable[[Array], Array],
    linear: Array,
    film: Array,
    field: LightField,
    places: Array,
    reach: Array,
    gloss: tuple[float, float] = (0.0, _GLOSS),
    gleam: Array | None = None,
) -> Shares:
    """What each part may have done to colours.

    Parameters
    ----------
    lab_of : function from light relative to the bare paper (n, 3) to CIELAB
    linear : (n, 3) float, light relative to the bare paper
    film : (n,) float, standard deviation of the parts of a cell, in logs of light
    field : LightField
    places : (n, 2) float, mm, the cells' middles
    reach : (n,) float, mm, how far paper beside them lies
    gloss : tuple of float, how much more of a gleam paint shows than paper, and its standard deviation; see `gloss_of`
    gleam : (n,) float, light relative to the bare paper that was found to lie on the paint, and was taken away
    """
    lab = lab_of(linear)

    def does(other: Array) -> Array:
        return np.asarray(delta_e_00(lab, lab_of(other)))

    camera = np.zeros(len(linear))
    # what strays into a channel counts for the more, the less light of its own the lamp gives it
    light = field.at(places).mean(axis=0) if len(places) else np.ones(3)
    for channel in range(3):
        for other in range(3):
            if other != channel:
                strays = _MIXES * float(np.clip(light[other] / light[channel], 0.8, 4.0)) ** _BY_LAMP
                mixed = linear.copy()
                mixed[:, channel] += strays * (linear[:, other] - linear[:, channel])
                camera += does(mixed) ** 2
    camera += does(np.maximum(linear, 1e-4) ** (1.0 + _BENDS)) ** 2
    camera += does((linear + _FLARE) / (1.0 + _FLARE)) ** 2
    beside = np.array([field.rough(place, far) for place, far in zip(places, reach, strict=True)])
    off = np.minimum(np.hypot(_OF_LIGHT + 0.5 * field.uneven, 1.5 * beside), 1.0)
    tints = field.tints_apart() * 0.12
    tinted = linear * np.exp(np.array([0.5, 0.0, -0.5]) * tints)
    found = np.zeros(len(linear)) if gleam is None else gleam
    gleams = gloss[0] > _PLAINLY * gloss[1]
    bump = bright_spots(field, places, gleams)
    # what is left within cells is a part of what a gleam does to them
    glossy = _OF_A_GLEAM * gloss[0] if gleams else float(np.hypot(*gloss))
    return Shares(
        camera=np.sqrt(camera),
        film=does(linear * np.exp(np.minimum(film / 2.0, 0.5))[:, None]),
        light=does(linear * np.exp(off)[:, None]),
        tint=does(tinted),
        gleam=does(linear + np.hypot(glossy * bump, _OF_FOUND * found)[:, None]),
    )


def gloss_of(field: LightField, places: Array, logs: Array, cell: Indices) -> tuple[float, float]:
    """How much more of a bright spot paint shows than paper, and its standard deviation.

    Where a spot is the light's own, all of a cell is lit alike, dark or pale, and nothing is left within it when the
    light is evened out. A gleam adds light: the darker the paint, the more of it is left.

    Parameters
    ----------
    field : LightField
    places : (n, 2) float, mm, of parts of cells
    logs : (n,) float, logs of their light
    cell : (n,) int, the cell of each
    """
    if not field.blocks or not len(places):
        return 0.0, _GLOSS
    level = logs - np.log(field.at(places)).mean(axis=1)
    spot = bright_spots(field, places)
    count = np.bincount(cell)
    share = np.maximum(count, 1)
    mean = np.bincount(cell, level) / share
    way = spot / np.exp(np.clip(mean[cell], -4.0, 0.0))
    way = way - (np.bincount(cell, way) / share)[cell]
    left = level - mean[cell]
    found, spread, weight = 0.0, 0.05, np.ones(len(way))
    sharp = 0.0
    for _ in range(8):
        sharp = float((weight * way * way).sum()) / spread**2
        found = float((weight * way * left).sum()) / spread**2 / (sharp + _GLOSS**-2)
        off = left - found * way
        spread = max(1.4826 * float(np.median(np.abs(off))), 0.01)
        weight = 1.0 / (1.0 + (off / (3.0 * spread)) ** 2)
    # the parts of a cell dry alike, so that they do not count for so many
    return float(np.clip(found, 0.0, _MOST_GLOSS)), float((sharp / 3.0 + _GLOSS**-2) ** -0.5)


def bright_spots(field: LightField, places: Array, gleams: bool = False) -> Array:
    """By how much the light on paper rises in a spot too small for a lamp's, in logs, (n,) float, 0 or more.

    Parameters
    ----------
    field : LightField
    places : (n, 2) float, mm
    gleams : bool, whether something gleams for sure: faint and broad spots count then too
    """
    if not field.blocks:
        return np.zeros(len(places))
    size = np.array(field.size_mm)
    count = np.maximum(np.round(size / _GRID_MM).astype(int), 4)
    x, y = (np.linspace(0.0, side, n) for side, n in zip(size, count, strict=True))
    grid = np.stack(np.meshgrid(x, y), axis=-1)
    level = np.log(field.at(grid)).mean(axis=2)
    u, v = (2.0 * grid / size - 1.0).reshape(-1, 2).T
    terms = np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=1)
    flat = level.ravel()
    weight = np.ones(len(flat))
    for _ in range(5):
        broad = terms @ np.linalg.lstsq(terms * weight[:, None], flat * weight, rcond=None)[0]
        weight = np.sqrt(1.0 / (1.0 + (np.maximum(flat - broad, 0.0) / 0.02) ** 2))
    left = (flat - broad).reshape(level.shape).astype(np.float32)
    side = 2 * round(_SPOT_MM / _GRID_MM / 2) + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    spot = cv2.morphologyEx(left, cv2.MORPH_TOPHAT, kernel) - np.float32(_BUMP)
    if gleams:
        spot = np.maximum(spot + np.float32(_BUMP), left)
    at = (places / size * (count - 1)).astype(np.float32)
    found = cv2.remap(spot, at[None, :, 0], at[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.maximum(found[0], 0.0), dtype=float)
