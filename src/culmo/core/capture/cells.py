"""The colour and the texture of each cell of a flattened sheet."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.light import LightField
from culmo.core.capture.photo import Photo, Pixels
from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.readings import INK

_LOW, _HIGH = 3.0 / 255.0, 254.0 / 255.0  # encoded levels at which a channel has reached its end
FINE_PER_MM = 3.2  # pixels per millimetre at which cells are read
_CLIPPED_SHARE = 0.12
_DIM = 8.0 / 255.0
_CUT = 3.2  # in robust standard deviations
_ENOUGH_PIXELS = 800
_TEXTURE_PER_MM = 2.0  # grains smaller than this are the paper's and the picture's
FADE_AT = ((0.04, 0.16), (0.72, 0.88))  # where the two ends of a fading band are read, from full to clear


@dataclass(frozen=True)
class SeenPatch:
    """What was seen in one place.

    Attributes
    ----------
    linear : (3,) float, linear light relative to the bare paper there
    spread : float, standard deviation of the patch's parts, in logs of light
    pixels : int, how many it rests on
    clipped : bool, whether a channel reached the end of the picture's colour space
    left_out : float, 0..1, the share of pixels that are not like the others: pencil, blooms, glare
    granulation, separation : float, unevenness of lightness and of colour at 0.5 mm and more, in CIELAB units
    """

    linear: Array
    spread: float
    pixels: int
    clipped: bool
    left_out: float
    granulation: float
    separation: float


@dataclass(frozen=True)
class Look:
    """The inside of a cell, away from its edges.

    Attributes
    ----------
    pixels : int, how many there are
    at : (n, 2) float, mm, where some of them lie
    rows, columns : (n,) int, where they are on the flattened sheet
    """

    pixels: int
    at: Array
    rows: Indices
    columns: Indices


class Sampler:
    """Reads patches of a flattened sheet.

    Parameters
    ----------
    flat : (h, w, 3) uint8 or uint16
    photo : Photo, for its colour space
    per_mm : float, pixels per millimetre of `flat`
    """

    def __init__(self, flat: Pixels, photo: Photo, per_mm: float) -> None:
        self.flat, self.photo, self.per_mm = flat, photo, per_mm
        self.linear = photo.linear(flat)
        self._relative = self.linear
        self._lab = np.zeros((0, 0, 3), dtype=np.float32)
        self._noise = np.zeros(3)
        self._looks: dict[object, Look | None] = {}

    def set_light(self, light: LightField, bare: Flags) -> None:
        """Even the light out, and learn how uneven bare paper looks: its grain and the picture's noise.

        Parameters
        ----------
        light : LightField
        bare : (h, w) bool, where the paper is bare
        """
        height, width = self.flat.shape[:2]
        step = max(1, round(2 * self.per_mm))
        columns, rows = np.arange(0, width + step, step), np.arange(0, height + step, step)
        places = np.stack(np.meshgrid(columns + 0.5, rows + 0.5), axis=-1) / self.per_mm
        coarse = (1.0 / light.at(places)).astype(np.float32)
        grow = np.array([[step, 0, 0], [0, step, 0]], dtype=float)
        self._relative = self.linear * cv2.warpAffine(coarse, grow, (width, height), flags=cv2.INTER_LINEAR)
        size = (
            max(1, round(width * _TEXTURE_PER_MM / self.per_mm)),
            max(1, round(height * _TEXTURE_PER_MM / self.per_mm)),
        )
        small = cv2.resize(self._relative, size, interpolation=cv2.INTER_AREA)
        self._lab = self.photo.lab(np.maximum(small, 1e-4)).astype(np.float32)
        plain = cv2.resize(bare.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0
        side = round(5 * _TEXTURE_PER_MM)
        down, across = size[1] // side, size[0] // side
        blocks = plain[: down * side, : across * side].reshape(down, side, across, side).all(axis=(1, 3))
        if blocks.any():
            lab = self._lab[: down * side, : across * side].reshape(down, side, across, side, 3)
            self._noise = np.quantile(lab.std(axis=(1, 3))[blocks], 0.3, axis=0)

    def look(self, cell: Cell, share: tuple[float, float] | None = None) -> Look | None:
        """The inside of a cell; None where too little of it is there.

        Parameters
        ----------
        cell : Cell
        share : from where to where along a fading band; the whole cell by default
        """
        key = (cell.id, share)
        if key not in self._looks:
            self._looks[key] = self._find(cell, share)
        return self._looks[key]

    def _find(self, cell: Cell, share: tuple[float, float] | None) -> Look | None:
        x, y, w, h = cell.box_mm
        left, top = max(0, int(x * self.per_mm)), max(0, int(y * self.per_mm))
        right = min(self.flat.shape[1], int((x + w) * self.per_mm) + 1)
        bottom = min(self.flat.shape[0], int((y + h) * self.per_mm) + 1)
        if right <= left or bottom <= top:
            return None
        mask = np.zeros((bottom - top + 2, right - left + 2), dtype=np.uint8)
        points = (np.array(cell.outline_mm) * self.per_mm - [left - 1, top - 1]) * 16
        cv2.fillPoly(mask, [np.round(points).astype(np.int32)], 1, shift=4)
        inside = cv2.distanceTransform(mask, cv2.DIST_L2, 3)[1:-1, 1:-1] / self.per_mm
        core = inside > min(1.6, 0.38 * float(inside.max()))
        if cell.fade_mm is not None and share is not None:
            core &= _along(cell, core.shape, self.per_mm, left, top, share)
        rows, columns = np.nonzero(core)
        if len(rows) < 25:
            return None
        count = len(rows)
        some = slice(None, None, max(1, count // _ENOUGH_PIXELS))
        rows, columns = rows[some] + top, columns[some] + left
        at = np.stack([columns + 0.5, rows + 0.5], axis=1) / self.per_mm
        return Look(count, at, rows, columns)

    def relative(self, look: Look) -> Array:
        """Light relative to the bare paper of a look's pixels, (n, 3) float."""
        return np.asarray(self._relative[look.rows, look.columns], dtype=float)

    def parts(self, cell: Cell) -> tuple[Array, Array]:
        """The middle brightness of the nine parts of a cell: places (k, 2) in mm and logs of light (k,)."""
        look = self.look(cell)
        if look is None or len(look.at) < 90:
            return np.zeros((0, 2)), np.zeros(0)
        level = np.log(np.maximum(self.linear[look.rows, look.columns], 3e-3)).mean(axis=1)
        low, high = look.at.min(axis=0), look.at.max(axis=0) + 1e-6
        ninth = np.floor((look.at - low) / (high - low) * 3).astype(int)
        number = ninth[:, 1] * 3 + ninth[:, 0]
        middle, spread = np.median(level), 1e-3 + np.abs(level - np.median(level)).mean()
        level = np.clip(level, middle - 3.0 * spread, middle + 3.0 * spread)  # pencil and glare count little
        count = np.bincount(number, minlength=9)
        sums = [np.bincount(number, value, 9) for value in (look.at[:, 0], look.at[:, 1], level)]
        x, y, log = (total[count >= 10] / count[count >= 10] for total in sums)
        return np.stack([x, y], axis=1), log

    def light_of_parts(self, cell: Cell, side: int) -> tuple[Array, Array]:
        """The light of the parts of a cell relative to the bare paper: places (k, 2) in mm and light (k, 3).

        Parameters
        ----------
        cell : Cell
        side : int, how many parts there are along each side
        """
        look = self.look(cell)
        if look is None or len(look.at) < 10 * side**2:
            return np.zeros((0, 2)), np.zeros((0, 3))
        linear = self.relative(look)
        keep = _like_the_others(np.log(np.maximum(linear, 2e-3)))
        at, linear = look.at[keep], linear[keep]
        low, high = at.min(axis=0), at.max(axis=0) + 1e-6
        part = np.floor((at - low) / (high - low) * side).astype(int)
        number = part[:, 1] * side + part[:, 0]
        count = np.bincount(number, minlength=side**2)
        full = count >= 6
        sums = [np.bincount(number, value, side**2)[full] / count[full] for value in (*at.T, *linear.T)]
        return np.stack(sums[:2], axis=1), np.stack(sums[2:], axis=1)

    def patch(self, cell: Cell, share: tuple[float, float] | None = None) -> SeenPatch | None:
        """Read a cell; None where too little of it can be seen.

        Parameters
        ----------
        cell : Cell
        share : from where to where along a fading band
        """
        look = self.look(cell, share)
        if look is None:
            return None
        linear = self.relative(look)
        keep = _like_the_others(np.log(np.maximum(linear, 2e-3)))
        ends = self.flat[look.rows, look.columns] / self.photo.top
        clipped = ((ends <= _LOW) | (ends >= _HIGH)).mean(axis=0).max() > _CLIPPED_SHARE
        # with noise a channel at its end hovers just above it
        clipped |= quantiles(ends.T, (0.5,)).min() <= _DIM
        grain, apart = self._texture(look)
        middle = linear[keep].mean(axis=0)
        return SeenPatch(
            linear=middle,
            spread=_spread_of_parts(look.at[keep], linear[keep], middle),
            pixels=round(look.pixels * float(keep.mean())),
            clipped=bool(clipped),
            left_out=1.0 - float(keep.mean()),
            granulation=grain,
            separation=apart,
        )

    def _texture(self, look: Look) -> tuple[float, float]:
        """Unevenness in lightness and in colour, with the picture's noise taken out."""
        shrink = _TEXTURE_PER_MM / self.per_mm
        rows = np.minimum((look.rows * shrink).astype(int), self._lab.shape[0] - 1)
        columns = np.minimum((look.columns * shrink).astype(int), self._lab.shape[1] - 1)
        lab = np.ascontiguousarray(self._lab[rows, columns].T)
        away = np.abs(lab - quantiles(lab, (0.5,))[0][:, None])
        reach = 3.5 * 1.4826 * np.maximum(quantiles(away, (0.5,))[0], 0.05)
        keep = (away <= reach[:, None]).all(axis=0)
        spread = np.maximum(lab[:, keep].var(axis=1) - self._noise**2, 0.0) if keep.any() else np.zeros(3)
        return float(np.sqrt(spread[0])), float(np.sqrt(spread[1] + spread[2]))


def _along(
    cell: Cell, shape: tuple[int, ...], per_mm: float, left: int, top: int, share: tuple[float, float]
) -> Flags:
    assert cell.fade_mm is not None
    start, end = np.array(cell.fade_mm[0]), np.array(cell.fade_mm[1])
    rows, columns = np.mgrid[: shape[0], : shape[1]]
    way = end - start
    at = ((columns + left) / per_mm - start[0]) * way[0] + ((rows + top) / per_mm - start[1]) * way[1]
    at = at / float(way @ way)
    return np.asarray((at >= share[0]) & (at <= share[1]))


def _like_the_others(log: Array) -> Flags:
    """The pixels about the middle one, allowing for a longer tail on either side."""
    keep, channels = np.ones(len(log), dtype=bool), np.ascontiguousarray(log.T)
    for _ in range(2):
        low, middle, high = quantiles(channels[:, keep], (0.25, 0.5, 0.75))
        reach = _CUT * 1.4826
        below, above = reach * np.maximum(middle - low, 0.01), reach * np.maximum(high - middle, 0.01)
        fine = ((channels >= (middle - below)[:, None]) & (channels <= (middle + above)[:, None])).all(axis=0)
        if fine.sum() < 20:
            break
        keep = fine
    return np.asarray(keep)


def quantiles(values: Array, shares: Sequence[float]) -> Array:
    """Quantiles along the last axis, as NumPy's own but by sorting, which for a cell's pixels is ten times faster.

    Parameters
    ----------
    values : (..., n) float, n >= 1
    shares : sequence of k float, 0..1

    Returns
    -------
    (k, ...) float, interpolated between neighbours
    """
    ordered = np.sort(values, axis=-1)
    at = np.asarray(shares) * (ordered.shape[-1] - 1)
    below = np.floor(at).astype(int)
    above = np.minimum(below + 1, ordered.shape[-1] - 1)
    part = at - below
    return np.moveaxis(ordered[..., below] * (1.0 - part) + ordered[..., above] * part, -1, 0)


def _spread_of_parts(at: Array, linear: Array, middle: Array) -> float:
    """How much the quarters of a patch differ, in logs of light."""
    centre = np.median(at, axis=0)
    quarter = (at[:, 0] > centre[0]).astype(int) + 2 * (at[:, 1] > centre[1]).astype(int)
    means = [linear[quarter == q].mean(axis=0) for q in range(4) if (quarter == q).sum() >= 6]
    if len(means) < 2:
        return 0.5
    logs = np.log(np.maximum(np.array(means), 2e-3) / np.maximum(middle, 2e-3))
    return float(np.sqrt((logs**2).mean()))


def cell_patches(sampler: Sampler, cells: Sequence[Cell]) -> tuple[Array, Array, Indices]:
    """The parts of all cells of one colour, for the light: places, logs and the cell's number."""
    places: list[Array] = [np.zeros((0, 2))]
    logs: list[Array] = [np.zeros(0)]
    numbers = [np.zeros(0, dtype=int)]
    for number, cell in enumerate(cells):
        if cell.fade_mm is None and cell.ground != INK:
            at, log = sampler.parts(cell)
            places.append(at)
            logs.append(log)
            numbers.append(np.full(len(at), number))
    return np.concatenate(places), np.concatenate(logs), np.concatenate(numbers)
