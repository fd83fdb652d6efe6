"""Washes and strokes as pictures: a map of film thickness, looked up in the paint's own thickness table."""

import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from PySide6.QtGui import QImage

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.wash import THICKNESSES

PAPER_SRGB = np.array([246, 245, 240], dtype=np.uint8)
INK_SRGB = np.array([44, 44, 44], dtype=np.uint8)
BAR_AT, BAR_WIDTH = 1.0 / 3.0, 0.026
_SIZE = 512
GRAIN_MM = 0.4  # a feature of the grain texture that is one pixel wide on a usual screen
_FIELD_PX = 2.6  # the full width at half height of the autocorrelation of the fields of grain
_LEAST_LARGER = 0.4  # below which a field would be sampled past its grains
_MOST = 3.0  # standard deviations
_LOG_LOW = float(np.log(THICKNESSES[0]))
_LOG_STEP = float(np.log(THICKNESSES[1] / THICKNESSES[0]))


def _noise(seed: int, low: float, high: float) -> Array:
    """Periodic noise with features between `low` and `high` pixels, mean 0, deviation 1, (512, 512)."""
    rng = np.random.default_rng(seed)
    spectrum = np.fft.rfft2(rng.normal(size=(_SIZE, _SIZE)))
    frequency = np.hypot(np.fft.fftfreq(_SIZE)[:, None], np.fft.rfftfreq(_SIZE)[None, :])
    spectrum *= np.exp(-((frequency * low) ** 2) * 2.0) - np.exp(-((frequency * high) ** 2) * 2.0)
    field = np.fft.irfft2(spectrum, s=(_SIZE, _SIZE))
    return np.asarray((field / field.std()).astype(np.float32))


@cache
def _grain() -> Array:
    """Hollows of the paper where pigment settles: skewed, as pigment pools in specks."""
    field = 0.75 * _noise(1, 2.4, 8.0) + 0.5 * _noise(2, 5.0, 22.0)
    return np.asarray(field / field.std())


@cache
def _clumps() -> Array:
    """Clumps of pigment that have nothing to do with the paper's hollows."""
    return _noise(4, 2.4, 9.0)


@cache
def _flow() -> Array:
    """How a wash runs: slow drifts of thickness."""
    return _noise(3, 26.0, 200.0)


@dataclass(frozen=True)
class Grainy:
    """How the colours of a wash scatter, in levels of the screen.

    Attributes
    ----------
    common, own : (3,) float, one standard deviation of what goes with the tooth, and of what goes its own ways
    size_mm : float, the full width at half height of the grain's autocorrelation
    """

    common: Array
    own: Array
    size_mm: float


def seed_of(text: str) -> int:
    """A number that stays the same for the same text."""
    return zlib.crc32(text.encode())


def _crop(field: Array, height: int, width: int, seed: int, scale: float = 1.0) -> Array:
    """A piece of a periodic field at a place of its own; `scale` > 1 makes features larger, and no pixels are seen."""
    rows, columns = np.arange(height) / scale + seed % 509, np.arange(width) / scale + (seed // 509) % 503
    top, left = rows.astype(int), columns.astype(int)
    if scale <= 1.0:
        return np.asarray(field[np.ix_(top % _SIZE, left % _SIZE)])
    down, across = (rows - top).astype(np.float32)[:, None], (columns - left).astype(np.float32)[None, :]
    bands = field[top % _SIZE] * (1.0 - down) + field[(top + 1) % _SIZE] * down
    return np.asarray(bands[:, left % _SIZE] * (1.0 - across) + bands[:, (left + 1) % _SIZE] * across)


@lru_cache(maxsize=8192)  # what stays on view is drawn again and again, each cell with its own edges
def _edge_noise(length: int, seed: int, reach: float) -> Array:
    """A ragged line, (length,) float, deviation 1; not to be written to."""
    rng = np.random.default_rng(seed)
    count = max(4, int(length / max(reach, 2.0)) + 3)
    result = np.zeros(length)
    for times, amount in ((1, 1.0), (4, 0.3), (10, 0.14)):
        places = np.linspace(0.0, times * (count - 1.001), length)
        values = rng.normal(size=times * count + 1)
        low = places.astype(int)
        turn = 0.5 - 0.5 * np.cos(np.pi * (places - low))  # rounded, since a wet edge has no corners
        result += amount * (values[low] * (1.0 - turn) + values[low + 1] * turn)
    return result


def _distance(height: int, width: int, ragged: float, seed: int, inset: float) -> Array:
    """Pixels to the nearest edge of a hand-painted patch, negative outside."""
    y, x = np.arange(height)[:, None] + 0.5, np.arange(width)[None, :] + 0.5
    reach = max(6.0, min(height, width) * 0.35)
    # a brush runs truer along its way than where it is set down and lifted
    drift = max(reach, 0.12 * width)
    top = inset + ragged * _edge_noise(width, seed, drift)[None, :]
    low = height - inset + ragged * _edge_noise(width, seed + 1, drift)[None, :]
    left = inset + ragged * _edge_noise(height, seed + 2, reach)[:, None]
    right = width - inset + ragged * _edge_noise(height, seed + 3, reach)[:, None]
    return np.asarray(np.minimum(np.minimum(y - top, low - y), np.minimum(x - left, right - x)), np.float32)


def table_srgb(lab: Array) -> Array:
    """A thickness table in screen colours, (..., 64, 3) uint8."""
    return np.round(srgb_from_lab(lab) * 255.0).astype(np.uint8)


def _look_up(table: Array, thickness: Array) -> Array:
    place = (np.log(np.maximum(thickness, 1e-3)) - _LOG_LOW) / _LOG_STEP
    return np.asarray(table[np.clip(np.rint(place).astype(int), 0, len(THICKNESSES) - 1)])


def _look_between(table: Array, thickness: Array) -> Array:
    """As `_look_up`, between the steps too: where no grain lies over them they would be seen; (..., 3) float."""
    place = np.clip(
        (np.log(np.maximum(thickness, 1e-3)) - _LOG_LOW) / _LOG_STEP, 0.0, len(THICKNESSES) - 1.001
    )
    low = place.astype(int)
    part = (place - low)[..., None]
    return np.asarray(table[low] * (1.0 - part) + table[low + 1] * part)


def in_stroke(picture: QImage, seed: int) -> QImage:
    """A picture of paint in the shape of a stroke, as `stroke_image` has it."""
    picture = picture.convertToFormat(QImage.Format.Format_RGBA8888)
    width, height = picture.width(), picture.height()
    inside = _distance(height, width, height * 0.022, seed, max(1.5, height * 0.09))
    pixels = np.frombuffer(picture.constBits(), dtype=np.uint8).reshape(
        height, picture.bytesPerLine() // 4, 4
    )
    return _image(np.asarray(pixels[:, :width, :3]), np.clip(inside + 0.5, 0.0, 1.0))


def _image(rgb: Array, alpha: Array) -> QImage:
    height, width = alpha.shape
    data = np.empty((height, width, 4), dtype=np.uint8)
    data[..., :3] = rgb
    data[..., 3] = np.round(alpha * 255.0)
    image = QImage(data.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    return image.copy()


def _patch(
    wash: float, grain: float | None, width: int, height: int, seed: int, scale: float, to_edge: bool = False
) -> tuple[Array, Array]:
    """A wash laid by hand: how thick it is, thicker at its rim, and how far it covers each pixel, 0..1."""
    small = min(width, height)
    if to_edge:
        inside = _distance(height, width, small * 0.006, seed, 0.0)
        thickness = wash * _surface(height, width, grain, seed, scale)
        thickness *= 1.0 + 0.16 * np.exp(-np.maximum(inside, 0.0) / max(1.0, small * 0.022))
        return thickness, np.ones((height, width))
    inside = _distance(height, width, small * 0.018, seed, small * 0.045 + 0.5)
    thickness = wash * _surface(height, width, grain, seed, scale)
    thickness *= 1.0 + 0.22 * np.exp(-np.maximum(inside, 0.0) / max(1.2, small * 0.028))
    return thickness, np.clip(inside + 0.5, 0.0, 1.0)


def wash_image(
    table: Array,
    wash: float,
    grain: float,
    width: int,
    height: int,
    seed: int,
    scale: float = 1.0,
    fade: bool = False,
    to_edge: bool = False,
    grainy: Grainy | None = None,
) -> QImage:
    """A painted patch.

    Parameters
    ----------
    table : (64, 3) uint8, screen colours at THICKNESSES
    wash : float, strength of the wash
    grain : float, 0..1, how much the pigment granulates
    width, height : int, pixels
    seed : int, the same gives the same patch
    scale : float, >= 1, pixels for one pixel of the grain on a usual screen
    fade : bool, whether it runs from full strength at the left to clear water at the right
    to_edge : bool, whether the paint lies up to the edge on all sides, as it is foretold; else as the hand leaves it
    grainy : Grainy, how its colours scatter as its paints settle, where that is known; else by `grain`
    """
    width, height = max(width, 2), max(height, 2)
    if fade:
        grainy = None  # from full to pale it would not be the same
    thickness, alpha = _patch(wash, None if grainy else grain, width, height, seed, scale, to_edge)
    if fade:
        along = np.linspace(0.0, 1.0, width)[None, :]
        thickness = thickness * np.exp(np.interp(along, [0.0, 0.1, 1.0], np.log([1.0, 1.0, 0.06])))
        alpha = alpha * np.clip((1.0 - along) / 0.1, 0.0, 1.0)
    if grainy is None:
        return _image(_look_up(table, thickness), alpha)
    rgb = _look_between(table, thickness) + _scattered(grainy, height, width, seed, scale)
    return _image(np.clip(np.round(rgb), 0.0, 255.0), alpha)


def _scattered(grainy: Grainy, height: int, width: int, seed: int, scale: float) -> Array:
    """What the grain adds to a wash, (h, w, 3) float, levels of the screen."""
    grain_px = grainy.size_mm * scale / GRAIN_MM
    larger = grain_px / _FIELD_PX
    # grains that are finer than pixels are seen together
    kept = min(1.0, larger / _LEAST_LARGER)
    larger = max(larger, _LEAST_LARGER)
    tooth, clumps = (
        np.clip(_crop(field, height, width, seed * turn + 5, larger), -_MOST, _MOST)
        for field, turn in ((_grain(), 3), (_clumps(), 11))
    )
    return np.asarray(kept * (tooth[..., None] * grainy.common + clumps[..., None] * grainy.own))


def running_image(
    tables: Sequence[Array],
    wash: float,
    grain: float,
    width: int,
    height: int,
    seed: int,
    scale: float = 1.0,
    way: str = MixedHow.WET_IN_WET,
) -> QImage:
    """A patch where paints run into each other, from one to the next through what they make together.

    Parameters
    ----------
    tables : sequence of (64, 3) uint8, as for `wash_image`: the paints and between two of them their mix
    wash, grain, width, height, seed, scale : as for `wash_image`
    way : str, "meeting" from the left to the right, "loaded" from edge to edge of the stroke, "wet" in clouds
    """
    width, height = max(width, 2), max(height, 2)
    thickness, alpha = _patch(wash, grain, width, height, seed, scale)
    small = min(width, height)
    drift = (
        small / 160.0 if way in (MixedHow.MEETING, MixedHow.LOADED) else small / 70.0
    )  # a wetted shape lets paint go further
    cloud = _crop(_flow(), height, width, seed * 5 + 11, scale * max(0.3, drift))
    along = np.linspace(0.0, 1.0, width)[None, :]
    down = np.linspace(0.0, 1.0, height)[:, None]
    if way == MixedHow.MEETING:
        share = along + 0.09 * cloud
    elif way == MixedHow.LOADED:
        share = down + 0.05 * cloud
    else:
        share = 0.5 * (along + down) + 0.3 * cloud
    place = np.clip(share, 0.0, 1.0) * (len(tables) - 1)
    low = np.minimum(place.astype(int), len(tables) - 2)
    part = (place - low)[..., None]
    seen = np.array([_look_up(table, thickness) for table in tables], dtype=float)
    rows, columns = np.indices(low.shape)
    rgb = seen[low, rows, columns] * (1.0 - part) + seen[low + 1, rows, columns] * part
    return _image(np.round(rgb), alpha)


def _surface(height: int, width: int, grain: float | None, seed: int, scale: float) -> Array:
    """Relative thickness from flow and grain; its mean is 1. Of no grain where it comes otherwise."""
    flow = _crop(_flow(), height, width, seed * 7 + 3, scale)
    if grain is None:
        return np.asarray(np.exp(0.07 * flow))
    specks = _crop(_grain(), height, width, seed, scale)
    g = 0.03 + 0.55 * grain
    return np.asarray(np.exp(0.07 * flow + g * specks - 0.5 * g * g))


def stroke_image(
    paper: Array, ink: Array, grain: float, width: int, height: int, seed: int, scale: float = 1.0
) -> QImage:
    """The stroke: masstone at the left to the palest tint at the right, across one thin black bar.

    Parameters
    ----------
    paper, ink : (64, 3) uint8, screen colours over paper and over the bar
    grain : float, 0..1
    width, height : int, pixels
    seed : int
    scale : float, as above
    """
    width, height = max(width, 8), max(height, 6)
    inset = max(1.5, height * 0.09)
    inside = _distance(height, width, height * 0.022, seed, inset)
    along = np.linspace(0.0, 1.0, width)[None, :]
    # full for the first part, then ever more water; the far end runs out into clear water
    thickness = np.exp(np.interp(along, [0.0, 0.22, 0.36, 0.8, 1.0], np.log([1.12, 1.0, 0.8, 0.2, 0.1])))
    thickness = thickness * _surface(height, width, grain, seed, scale)
    rim = np.exp(-np.maximum(inside, 0.0) / max(1.0, height * 0.03))
    thickness *= 1.0 + 0.3 * rim * np.clip(1.5 - along, 0.3, 1.0)
    rgb = _look_up(paper, thickness)
    alpha = np.clip(inside + 0.5, 0.0, 1.0) * np.clip((1.0 - along) / 0.04, 0.0, 1.0)
    left = round(width * BAR_AT)
    thick = max(2, round(width * BAR_WIDTH))
    columns = slice(left, left + thick)
    over = _look_up(ink, thickness[:, columns])
    covered = alpha[:, columns, None]
    rgb[:, columns] = np.round(over * covered + INK_SRGB * (1.0 - covered))
    alpha = alpha.copy()
    alpha[:, columns] = 1.0
    return _image(rgb, alpha)
