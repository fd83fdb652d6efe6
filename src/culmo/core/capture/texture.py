"""What is measured of a patch: grain, its size, the parting of pigments, soft blooms, the dark edge. docs/texture.md.

All is told in scale with the paper, in CIELAB units and millimetres: fluctuations are taken apart by their frequency on the
paper, what the bare paper of the same picture shows (its tooth, the camera's noise) is taken out of their power, and what
the lens blurs is put back (Wiener and Khinchin: the autocorrelation is the transform of the power).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from math import prod

import cv2
import numpy as np
from scipy.fft import irfft2, next_fast_len, rfft2

from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.character import triple
from culmo.core.paint.texture import Texture

_INSET_MM = 1.8  # from the edge, which is darker and less even
_SOFT_MM = 2.0  # the Gaussian by which what is soft is told from grain
_BLUR_PX = 0.9  # a Gaussian, of the lens, the pixel and the straightening, in pixels of the picture
_MOST_PUT_BACK = 6.0  # in power
_SHARPEST = 0.35  # cycles a pixel, above which a picture tells of itself alone
_TOP = (0.32, 0.46)  # cycles a pixel, where the camera's noise is told
_BINS = 24  # of frequency, from 0 to half a cycle a pixel
_LEAST_MM, _LEAST_PX = 3.0, 24
# the power of (L + 16) by which noise grows in darker paint: between that of photons and of the chip
_NOISE_BY_LIGHT = 1.5
_RIM_MM = (0.4, 0.9)  # inside the edge, beside the pencil line
_NOISE_OFF = 0.3  # of the noise's power, by which it may be off itself
_QUIET = 0.3  # the quantile of bare squares by which the paper is taken
_LENS_OFF = 0.08  # of a deviation, by which what the lens blurred and the camera bent may be off
_GRAINY = 0.3  # of L, below which there is no grain whose size could be told


@dataclass(frozen=True)
class PaperTexture:
    """What bare paper shows in a picture.

    Attributes
    ----------
    power : (_BINS, 3) float, of L*, a* and b* by frequency, in a square cycle a pixel
    lightness : float, L* of the paper
    """

    power: Array
    lightness: float


def paper_texture(squares: Sequence[Array]) -> PaperTexture | None:
    """What bare paper shows; None where too little of it is seen.

    Parameters
    ----------
    squares : sequence of (h, w, 3) float, CIELAB of bare pieces at the scale of the patches
    """
    fine = [square for square in squares if min(square.shape[:2]) >= _LEAST_PX]
    if not fine:
        return None
    powers = np.array([_by_frequency(_waves(square)) for square in fine])
    # of the quieter ones: in some squares there is a pencil line, or a splash
    return PaperTexture(
        np.quantile(powers, _QUIET, axis=0), float(np.mean([square[..., 0].mean() for square in fine]))
    )


def texture_of(
    lab: Array, cell: Cell, at_mm: tuple[float, float], per_mm: float, picture_per_mm: float, paper: PaperTexture | None
) -> Texture | None:  # fmt: skip
    """The texture of a cell; None where it is too small, or a band that fades.

    Parameters
    ----------
    lab : (h, w, 3) float, CIELAB of its patch
    cell : Cell
    at_mm : tuple of x, y, where the patch begins on the sheet
    per_mm : float, its pixels a millimetre
    picture_per_mm : float, those of the picture that it was cut out of
    paper : PaperTexture of that picture; where it is None nothing is taken out
    """
    if cell.fade_mm is not None:
        return None
    inside = _inside(lab.shape[:2], cell, at_mm, per_mm)
    part = _middle(inside, per_mm)
    if part is None:
        return None
    piece = np.asarray(lab[part], dtype=np.float32)
    piece = np.ascontiguousarray(piece[: _quick(piece.shape[0]), : _quick(piece.shape[1])])
    soft = _softened(piece, _SOFT_MM * per_mm)
    waves = _waves(piece - soft)
    noise = _noise(waves, paper, float(piece[..., 0].mean()))
    told = _told(piece.shape[:2], _BLUR_PX * per_mm / picture_per_mm)
    counted = (told * waves.lattice.times).ravel()
    flat = waves.found.reshape(-1, 3)
    covariance = np.real((flat * counted[:, None]).T @ np.conj(flat))
    taken = counted @ noise.reshape(-1, 3)
    covariance = covariance - np.diag(np.minimum(taken, np.diag(covariance)))
    contrast = float(np.sqrt(covariance[0, 0]))
    parting = float(np.sqrt(covariance[1, 1] + covariance[2, 2]))
    values, ways = np.linalg.eigh(covariance)
    axis = ways[:, 2] * (1.0 if ways[0, 2] >= 0.0 else -1.0)
    size = 0.0
    if contrast > _GRAINY:
        size = _width(np.maximum(waves.power[..., 0] - noise[..., 0], 0.0) * told, waves.lattice, per_mm)
    grains = piece.shape[0] * piece.shape[1] / per_mm**2 / max(size, 0.5) ** 2
    return Texture(
        contrast=contrast,
        contrast_off=_off(contrast, float(taken[0]), grains),
        size_mm=size,
        parting=parting,
        parting_off=_off(parting, float(taken[1] + taken[2]), grains),
        axis=triple(axis),
        length=float(np.sqrt(max(values[2], 0.0))),
        soft=_unevenness(soft[..., 0]),
        edge=_edge(lab, inside, per_mm),
    )


def _inside(shape: tuple[int, int], cell: Cell, at_mm: tuple[float, float], per_mm: float) -> Array:
    """How far each pixel is inside the cell, (h, w) float, mm; 0 outside."""
    # one pixel more on each side: a cell may reach to the end of its patch
    mask = np.zeros((shape[0] + 2, shape[1] + 2), dtype=np.uint8)
    points = ((np.array(cell.outline_mm) - at_mm) * per_mm + 0.5) * 16
    cv2.fillPoly(mask, [np.round(points).astype(np.int32)], 1, shift=4)
    mask[[0, -1]] = mask[:, [0, -1]] = 0
    return np.asarray(cv2.distanceTransform(mask, cv2.DIST_L2, 5)[1:-1, 1:-1], dtype=float) / per_mm


def _middle(inside: Array, per_mm: float) -> tuple[slice, slice] | None:
    """The largest oblong about the deepest place of a cell that keeps off its edge; None where it is too small."""
    deepest = float(inside.max())
    core = inside > min(_INSET_MM, 0.4 * deepest)
    # the middle of the deepest ridge, which in an oblong is a line
    rows, columns = np.nonzero(inside > 0.98 * deepest)
    if not len(rows):
        return None
    row, column = (
        rows[np.argsort(rows)[len(rows) // 2]],
        columns[np.argsort(columns)[len(columns) // 2]],
    )
    if not core[row, column]:
        row, column = (int(value) for value in np.unravel_index(int(np.argmax(inside)), inside.shape))
    top, low, left, right = int(row), int(row) + 1, int(column), int(column) + 1
    # the sums over all that lies above and to the left tell whether an oblong lies in the core by its four corners
    sums = cv2.integral(core.view(np.uint8), sdepth=cv2.CV_32S)

    def in_core(top: int, low: int, left: int, right: int) -> bool:
        count = int(sums[low, right]) - int(sums[top, right]) - int(sums[low, left]) + int(sums[top, left])
        return count == (low - top) * (right - left)

    growing = [True] * 4
    while any(growing):  # a pixel on each side in turn, as long as all of it lies in the core
        growing[0] = growing[0] and top > 0 and in_core(top - 1, top, left, right)
        top -= growing[0]
        growing[1] = growing[1] and low < core.shape[0] and in_core(low, low + 1, left, right)
        low += growing[1]
        growing[2] = growing[2] and left > 0 and in_core(top, low, left - 1, left)
        left -= growing[2]
        growing[3] = growing[3] and right < core.shape[1] and in_core(top, low, right, right + 1)
        right += growing[3]
    short = min(low - top, right - left)
    if short < _LEAST_PX or short < _LEAST_MM * per_mm:
        return None
    return slice(top, low), slice(left, right)


@cache
def _quick(count: int) -> int:
    """The next smaller length whose waves are told quickly; what is left out lies at the end of the window."""
    while next_fast_len(count, real=True) != count:
        count -= 1
    return count


def _softened(piece: Array, spread_px: float) -> Array:
    """What a Gaussian leaves of a piece, (h, w, 3) float32; a wide one is laid over fewer pixels, which is as exact."""
    fewer = max(1, int(spread_px / 4.0))
    height, width = piece.shape[:2]
    small = cv2.resize(
        piece, (max(1, round(width / fewer)), max(1, round(height / fewer))), interpolation=cv2.INTER_AREA
    )
    # the means over squares, and drawing them large again, soften a little themselves
    own = np.sqrt(max((spread_px / fewer) ** 2 - (0.25 if fewer > 1 else 0.0), 0.01))
    soft = cv2.GaussianBlur(small, (0, 0), own, borderType=cv2.BORDER_REFLECT)
    return np.asarray(cv2.resize(soft, (width, height), interpolation=cv2.INTER_LINEAR))


@dataclass(frozen=True)
class _Lattice:
    """What the waves of all pieces of one shape have in common; shared by all threads, and not to be written to.

    Attributes
    ----------
    shape : tuple of h, w, of the pieces
    window : (h, w) float32
    frequency : (h, w // 2 + 1) float, cycles a pixel: half of all, since the others are their conjugates
    times : (1, w // 2 + 1) float, for how many waves each stands
    top : (h, w // 2 + 1) float, `times` where the camera's noise is told
    """

    shape: tuple[int, int]
    window: Array
    frequency: Array
    times: Array
    top: Array

    @cached_property
    def rings(self) -> tuple[Flags, Indices, Indices]:
        """Where a place of the autocorrelation is near (h, w), how far off those are in half pixels, and how many each."""
        height, width = self.shape
        rows = np.minimum(np.arange(height), height - np.arange(height))[:, None]
        columns = np.minimum(np.arange(width), width - np.arange(width))[None, :]
        away = np.hypot(rows, columns)
        near = away < min(height, width) / 2
        place = np.round(away[near] * 2.0).astype(int)
        return near, place, np.bincount(place)


@lru_cache(maxsize=4)  # the cells of a grid are of one shape
def _lattice(height: int, width: int) -> _Lattice:
    window = (np.hanning(height + 2)[1:-1, None] * np.hanning(width + 2)[None, 1:-1]).astype(np.float32)
    frequency = np.hypot(np.fft.fftfreq(height)[:, None], np.fft.rfftfreq(width)[None, :])
    times = np.full((1, width // 2 + 1), 2.0)
    times[0, 0] = 1.0
    if width % 2 == 0:
        times[0, -1] = 1.0
    top = np.where((frequency >= _TOP[0]) & (frequency < _TOP[1]), times, 0.0)
    return _Lattice((height, width), window, frequency, times, top)


@lru_cache(maxsize=4)
def _told(shape: tuple[int, int], blur: float) -> Array:
    """How much of each wave's power counts, as its frequencies: what the lens blurred is put back."""
    frequency = _lattice(*shape).frequency
    put_back = np.minimum(np.exp(4.0 * np.pi**2 * blur**2 * frequency**2), _MOST_PUT_BACK)
    return np.where(frequency < _SHARPEST, put_back, 0.0)


@dataclass(frozen=True)
class _Waves:
    """Fluctuations under a window as waves; the sum of their squares is the variance.

    Attributes
    ----------
    lattice : _Lattice
    found : (h, w // 2 + 1, 3) complex
    power : as `found`, float
    """

    lattice: _Lattice
    found: Array
    power: Array


def _waves(lab: Array) -> _Waves:
    """The fluctuations of a piece, (h, w, 3) float, as waves."""
    lattice = _lattice(*lab.shape[:2])
    window = lattice.window
    away = lab - np.tensordot(window, lab, 2) / window.sum()
    scale = window / np.sqrt((window**2).sum() * window.size)
    found = rfft2(away * scale[..., None], axes=(0, 1))
    return _Waves(lattice, found, found.real**2 + found.imag**2)


def _by_frequency(waves: _Waves) -> Array:
    """The density of power in bins of frequency, (_BINS, 3): the power in a square cycle a pixel."""
    frequency, times = waves.lattice.frequency, waves.lattice.times
    power = waves.power * times[..., None] * prod(waves.lattice.shape)
    place = np.minimum((frequency * 2.0 * _BINS).astype(int), _BINS - 1).ravel()
    count = np.bincount(place, np.broadcast_to(times, frequency.shape).ravel(), _BINS)
    sums = [np.bincount(place, power[..., axis].ravel(), _BINS) for axis in range(3)]
    there = count > 0
    mean = np.stack(sums, axis=-1) / np.maximum(count, 1)[:, None]
    if not there.all():  # a small piece has no slow waves: those that come next stand for them
        known = np.flatnonzero(there)
        mean = mean[known[np.abs(np.arange(_BINS)[:, None] - known[None, :]).argmin(axis=1)]]
    return np.asarray(mean)


def _noise(waves: _Waves, paper: PaperTexture | None, lightness: float) -> Array:
    """The power of the paper's tooth and of the camera's noise in a wash, as that of the waves.

    The tooth gives and takes a share of the light, so that it moves L* of dark paint less; noise moves it more. Noise is
    what bare paper shows at the finest, where no tooth is.
    """
    if paper is None:
        return np.zeros_like(waves.power)
    middles = (np.arange(_BINS) + 0.5) / (2.0 * _BINS)
    fine = (middles >= _TOP[0]) & (middles < _TOP[1])
    floor = np.minimum(paper.power, paper.power[fine].mean(axis=0))
    ratio = (lightness + 16.0) / (paper.lightness + 16.0)
    count, top = prod(waves.lattice.shape), waves.lattice.top
    seen = (
        np.tensordot(top, waves.power, 2)
        / top.sum()
        * count
        / np.maximum(paper.power[fine].mean(axis=0), 1e-12)
    )
    gain = np.minimum(seen, ratio**-_NOISE_BY_LIGHT)  # no more: it may be grain
    by_bin = (paper.power - floor) * ratio**2 + floor * gain
    at = waves.lattice.frequency * 2.0 * _BINS - 0.5
    return np.stack([np.interp(at, np.arange(_BINS), by_bin[:, axis]) for axis in range(3)], axis=-1) / count


def _width(power: Array, lattice: _Lattice, per_mm: float) -> float:
    """The full width at half height of the autocorrelation, in mm, of the power of waves."""
    spread = irfft2(power, lattice.shape)
    if spread[0, 0] <= 0.0:
        return 0.0
    near, place, count = lattice.rings
    mean = np.bincount(place, spread[near]) / np.maximum(count, 1) / spread[0, 0]
    steps = np.flatnonzero(count) / 2.0
    mean = mean[count > 0]
    below = np.flatnonzero(mean < 0.5)
    if not len(below) or below[0] == 0:
        return float(2.0 * steps[-1] / per_mm)
    last = below[0]
    share = (mean[last - 1] - 0.5) / (mean[last - 1] - mean[last])
    return float(2.0 * (steps[last - 1] + share * (steps[last] - steps[last - 1])) / per_mm)


def _off(deviation: float, noise: float, grains: float) -> float:
    """How far off a standard deviation may be: so many grains are seen, and the noise is known so well."""
    by_chance = deviation / np.sqrt(2.0 * max(grains, 2.0))
    by_noise = _NOISE_OFF * noise / max(2.0 * deviation, np.sqrt(max(noise, 1e-9)))
    return float(np.sqrt(by_chance**2 + by_noise**2 + (_LENS_OFF * deviation) ** 2))


def _unevenness(soft: Array) -> float:
    """The standard deviation of what is soft, without its slope, which is the light's or the board's."""
    # on an even grid about its middle the plane of least squares falls into its parts
    away = soft - soft.mean()
    for axis in (0, 1):
        way = np.linspace(-1.0, 1.0, soft.shape[axis])
        across = away.mean(axis=1 - axis)
        away = away - np.expand_dims(way * (across @ way) / (way @ way), 1 - axis)
    return float(away.std())


def _edge(lab: Array, inside: Array, per_mm: float) -> float:
    """By how much the rim is darker than the middle, of L*."""
    rim = (inside > _RIM_MM[0]) & (inside < _RIM_MM[1])
    middle = inside > max(0.5 * float(inside.max()), 1.5)
    if rim.sum() < 20 or middle.sum() < 20:
        return 0.0
    return float(np.median(lab[..., 0][middle]) - np.median(lab[..., 0][rim]))
