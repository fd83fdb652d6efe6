"""The colour and the texture of each cell of a flattened sheet."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from culmo.core.capture.light import LightField
from culmo.core.capture.photo import Photo
from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.readings import INK

_LOW, _HIGH = 3.0 / 255.0, 254.0 / 255.0  # encoded levels at which a channel has reached its end
_CLIPPED_SHARE = 0.12
_CUT = 3.2  # in robust standard deviations
FADE_AT = ((0.04, 0.16), (0.72, 0.88))  # where the two ends of a fading band are read, from full to clear
Levels = NDArray[np.integer[Any]]


@dataclass(frozen=True)
class Patch:
    """What was seen in one place.

    Attributes
    ----------
    linear : (3,) float, linear light relative to the bare paper there
    spread : float, standard deviation of the patch's parts, in logs of light
    pixels : int, how many it rests on
    clipped : bool, whether a channel reached the end of the picture's colour space
    left_out : float, 0..1, the share of pixels that are not like the others: pencil, blooms, glare
    granulation, separation : float, unevenness of lightness and of colour at 0.3 mm and more, in CIELAB units
    """

    linear: Array
    spread: float
    pixels: int
    clipped: bool
    left_out: float
    granulation: float
    separation: float


class Sampler:
    """Reads patches of a flattened sheet.

    Parameters
    ----------
    flat : (h, w, 3) uint8 or uint16
    photo : Photo, for its colour space
    per_mm : float, pixels per millimetre of `flat`
    """

    def __init__(self, flat: Levels, photo: Photo, per_mm: float) -> None:
        self.flat, self.photo, self.per_mm = flat, photo, per_mm
        self.light: LightField | None = None
        self.noise = (0.0, 0.0)

    def core(self, cell: Cell, share: tuple[float, float] | None = None) -> tuple[Flags, tuple[int, int]]:
        """The inside of a cell away from its edges, as a mask and the place of the mask's top left pixel.

        Parameters
        ----------
        cell : Cell
        share : from where to where along a fading band; the whole cell by default
        """
        x, y, w, h = cell.box_mm
        left, top = max(0, int(x * self.per_mm)), max(0, int(y * self.per_mm))
        right = min(self.flat.shape[1], int((x + w) * self.per_mm) + 1)
        bottom = min(self.flat.shape[0], int((y + h) * self.per_mm) + 1)
        if right <= left or bottom <= top:
            return np.zeros((0, 0), dtype=bool), (left, top)
        mask = np.zeros((bottom - top + 2, right - left + 2), dtype=np.uint8)
        points = (np.array(cell.outline_mm) * self.per_mm - [left - 1, top - 1]) * 16
        cv2.fillPoly(mask, [np.round(points).astype(np.int32)], 1, shift=4)
        inside = cv2.distanceTransform(mask, cv2.DIST_L2, 3)[1:-1, 1:-1] / self.per_mm
        deepest = float(inside.max()) if inside.size else 0.0
        core = inside > min(1.6, 0.38 * deepest)
        if cell.fade_mm is not None and share is not None:
            core &= _along(cell, core.shape, self.per_mm, left, top, share)
        return np.asarray(core), (left, top)

    def _levels(self, core: Flags, place: tuple[int, int]) -> Levels:
        left, top = place
        part = self.flat[top : top + core.shape[0], left : left + core.shape[1]]
        return np.asarray(part[core])

    def _where(self, core: Flags, place: tuple[int, int]) -> Array:
        rows, columns = np.nonzero(core)
        return np.stack([columns + place[0] + 0.5, rows + place[1] + 0.5], axis=1) / self.per_mm

    def parts(self, cell: Cell) -> tuple[Array, Array]:
        """The middle brightness of the nine parts of a cell: places (k, 2) in mm and logs of light (k,)."""
        core, place = self.core(cell)
        if core.sum() < 90:
            return np.zeros((0, 2)), np.zeros(0)
        at = self._where(core, place)
        levels = self._levels(core, place)
        low, high = at.min(axis=0), at.max(axis=0) + 1e-6
        ninth = np.floor((at - low) / (high - low) * 3).astype(int)
        number = ninth[:, 1] * 3 + ninth[:, 0]
        places, logs = [], []
        for part in range(9):
            own = number == part
            if own.sum() >= 10:
                middle = self.photo.linear(np.median(levels[own], axis=0).astype(levels.dtype))
                places.append(at[own].mean(axis=0))
                logs.append(float(np.log(np.maximum(middle, 3e-3)).mean()))
        return np.array(places).reshape(-1, 2), np.array(logs)

    def patch(self, cell: Cell, share: tuple[float, float] | None = None) -> Patch | None:
        """Read a cell; None where too little of it can be seen.

        Parameters
        ----------
        cell : Cell
        share : from where to where along a fading band
        """
        core, place = self.core(cell, share)
        if core.sum() < 25:
            return None
        levels = self._levels(core, place)
        at = self._where(core, place)
        light = self._light_at(at)
        linear = self.photo.linear(levels) / light
        keep = _like_the_others(np.log(np.maximum(linear, 2e-3)))
        ends = levels / self.photo.top
        clipped = ((ends <= _LOW) | (ends >= _HIGH)).mean(axis=0).max() > _CLIPPED_SHARE
        grain, apart = self._texture(core, place, linear, keep, levels)
        middle = linear[keep].mean(axis=0)
        return Patch(
            linear=middle,
            spread=_spread_of_parts(at[keep], linear[keep], middle),
            pixels=int(keep.sum()),
            clipped=bool(clipped),
            left_out=1.0 - float(keep.mean()),
            granulation=grain,
            separation=apart,
        )

    def _light_at(self, at: Array) -> Array:
        """The light at pixels: worked out at a few and interpolated, since it changes slowly."""
        assert self.light is not None
        low, high = at.min(axis=0), at.max(axis=0)
        corners = np.array([[low[0], low[1]], [high[0], low[1]], [low[0], high[1]], [high[0], high[1]]])
        a, b, c, d = self.light.at(corners)
        u, v = ((at - low) / np.maximum(high - low, 1e-6)).T[:, :, None]
        return np.asarray((1 - v) * ((1 - u) * a + u * b) + v * ((1 - u) * c + u * d))

    def _texture(
        self, core: Flags, place: tuple[int, int], linear: Array, keep: Flags, levels: Levels
    ) -> tuple[float, float]:
        """Unevenness in lightness and in colour, with the picture's noise taken out."""
        filled = np.zeros((*core.shape, 3), dtype=np.float32)
        weight = np.zeros(core.shape, dtype=np.float32)
        good = core.copy()
        good[core] = keep
        lab = self.photo.lab(np.maximum(linear[keep], 1e-4)).astype(np.float32)
        filled[good], weight[good] = lab - lab.mean(axis=0), 1.0
        size = max(0.7, 0.12 * self.per_mm)
        small = cv2.GaussianBlur(filled, (0, 0), size)
        share = cv2.GaussianBlur(weight, (0, 0), size)
        fine = (small / np.maximum(share, 0.2)[..., None])[good]
        spread = fine.std(axis=0)
        return (
            float(np.sqrt(max(spread[0] ** 2 - self.noise[0] ** 2, 0.0))),
            float(np.sqrt(max(spread[1] ** 2 + spread[2] ** 2 - self.noise[1] ** 2, 0.0))),
        )

    def learn_noise(self, bare: Flags) -> None:
        """How uneven bare paper looks: its grain and the picture's noise."""
        assert self.light is not None
        side = max(8, round(6 * self.per_mm))
        found = []
        for top in range(0, bare.shape[0] - side, 2 * side):
            for left in range(0, bare.shape[1] - side, 2 * side):
                part = bare[top : top + side, left : left + side]
                if part.all():
                    at = self._where(part, (left, top))
                    levels = self._levels(part, (left, top))
                    linear = self.photo.linear(levels) / self._light_at(at)
                    found.append(self._texture(part, (left, top), linear, np.ones(len(at), bool), levels))
        if found:
            self.noise = tuple(np.median(np.array(found), axis=0))  # type: ignore[assignment]


def _along(cell: Cell, shape: tuple[int, ...], per_mm: float, left: int, top: int, share: tuple[float, float]) -> Flags:
    assert cell.fade_mm is not None
    start, end = np.array(cell.fade_mm[0]), np.array(cell.fade_mm[1])
    rows, columns = np.mgrid[: shape[0], : shape[1]]
    way = end - start
    at = ((columns + left) / per_mm - start[0]) * way[0] + ((rows + top) / per_mm - start[1]) * way[1]
    at = at / float(way @ way)
    return np.asarray((at >= share[0]) & (at <= share[1]))


def _like_the_others(log: Array) -> Flags:
    """The pixels about the middle one, allowing for a longer tail on either side."""
    keep = np.ones(len(log), dtype=bool)
    for _ in range(2):
        middle = np.median(log[keep], axis=0)
        away = log - middle
        fine = np.ones(len(log), dtype=bool)
        for side in (1.0, -1.0):
            tail = np.where(away[keep] * side > 0, np.abs(away[keep]), np.nan)
            with np.errstate(invalid="ignore"):
                reach = np.array([np.nanmedian(t) if np.isfinite(t).any() else 0.0 for t in tail.T])
            fine &= (away * side <= _CUT * 1.4826 * np.maximum(reach, 0.01)).all(axis=1)
        if fine.sum() < 20:
            break
        keep = fine
    return keep


def _spread_of_parts(at: Array, linear: Array, middle: Array) -> float:
    """How much the quarters of a patch differ, in logs of light."""
    centre = np.median(at, axis=0)
    quarter = (at[:, 0] > centre[0]).astype(int) + 2 * (at[:, 1] > centre[1]).astype(int)
    means = [linear[quarter == q].mean(axis=0) for q in range(4) if (quarter == q).sum() >= 6]
    if len(means) < 2:
        return 0.5
    logs = np.log(np.maximum(np.array(means), 2e-3) / np.maximum(middle, 2e-3))
    return float(np.sqrt((logs**2).mean()))


def cell_patches(sampler: Sampler, cells: Sequence[Cell]) -> tuple[Array, Array, "NDArray[np.integer[Any]]"]:
    """The parts of all cells of one colour, for the light: places, logs and the cell's number."""
    places, logs, numbers = [np.zeros((0, 2))], [np.zeros(0)], [np.zeros(0, dtype=int)]
    for number, cell in enumerate(cells):
        if cell.fade_mm is None and cell.ground != INK:
            at, log = sampler.parts(cell)
            places.append(at)
            logs.append(log)
            numbers.append(np.full(len(at), number))
    return np.concatenate(places), np.concatenate(logs), np.concatenate(numbers)
