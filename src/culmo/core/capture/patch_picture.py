"""How the real paint of a cell is kept as a picture, and how it is seen in its colours again.

A patch is a JPEG: light relative to the bare paper in linear sRGB, times WHITE, by the curve of sRGB.
"""

from functools import cache, lru_cache

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels, srgb_curve
from culmo.core.colour.spectral import Array, Indices
from culmo.core.colour.srgb import encode_srgb, srgb_from_lab
from culmo.core.paint.character import Triple, as_it_is, seen_lab

WHITE = 0.75  # the level of the bare paper, linear, so that what is lighter has its room
_QUALITIES = (92, 88, 84, 80)
_SHRINK = 0.8
_LEAST_PX = 16
_MOST_PX = 16_000_000  # a file that claims more is none of these
_FINE = 1 << 14  # steps of linear light, finer than the darkest step of sRGB's curve
# the steps of the table of a picture's colours, along each channel: evenly up to about white, beyond which the screen ends
_STEPS = np.round(np.append(np.linspace(0.0, 232.0, 11), 255.0)).astype(np.intp)
_PLACES = np.interp(np.arange(256), _STEPS, np.arange(len(_STEPS))).astype(np.float32)  # of each level
_NEAR_PAPER = 0.6  # the share of the way from the paper to the paint, from which on a pixel is paint


@cache
def _curve() -> Pixels:
    return np.round(encode_srgb(np.linspace(0.0, 1.0, _FINE)) * 255.0).astype(np.uint8)


def encoded(light: Array) -> Pixels:
    """Light relative to the bare paper, (..., 3) float in linear sRGB, as a patch keeps it, (..., 3) uint8."""
    return np.asarray(_curve()[np.clip(light * (WHITE * (_FINE - 1)) + 0.5, 0, _FINE - 1).astype(np.intp)])


@cache
def _levels() -> Array:
    return srgb_curve() / WHITE


def light_of(pixels: Pixels) -> Array:
    """The inverse of `encoded`: light relative to the bare paper, (..., 3) float, linear sRGB."""
    return np.asarray(_levels()[pixels])


def compressed(pixels: Pixels, budget: int) -> tuple[bytes, float]:
    """A JPEG of at most so many bytes, and by which share of its size that was made smaller, where it had to be."""
    share = 1.0
    while True:
        for quality in _QUALITIES:
            data = _jpeg(pixels, quality)
            if len(data) <= budget:
                return data, share
        rows, columns = pixels.shape[:2]
        if min(rows, columns) * _SHRINK < _LEAST_PX:
            return data, share
        size = max(1, round(columns * _SHRINK)), max(1, round(rows * _SHRINK))
        share *= size[0] / columns
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)


def _jpeg(pixels: Pixels, quality: int) -> bytes:
    fine, data = cv2.imencode(
        ".jpg",
        np.ascontiguousarray(pixels[..., ::-1]),
        # colour as fine as lightness: where two pigments part they do so in colour
        [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444],
    )  # fmt: skip
    assert fine
    return data.tobytes()


def pixels_of(data: bytes, shrink: int = 1) -> Pixels | None:
    """A patch's pixels, (h, w, 3) uint8, as `encoded` gives them; None where it is damaged.

    Parameters
    ----------
    data : bytes
    shrink : int, 1, 2, 4 or 8, by which it is made smaller while it is decoded, which is faster
    """
    size = size_of(data)
    if size is None or size[0] * size[1] > _MOST_PX:
        return None
    flags = {
        1: cv2.IMREAD_COLOR,
        2: cv2.IMREAD_REDUCED_COLOR_2,
        4: cv2.IMREAD_REDUCED_COLOR_4,
        8: cv2.IMREAD_REDUCED_COLOR_8,
    }
    try:
        found = cv2.imdecode(np.frombuffer(data, dtype=np.uint8), flags[shrink])
    except cv2.error:
        return None
    return None if found is None else np.asarray(cv2.cvtColor(found, cv2.COLOR_BGR2RGB))


def size_of(data: bytes) -> tuple[int, int] | None:
    """Width and height of a patch in pixels, from its head alone (ITU-T T.81, B.2.2); None where that is none of a patch."""
    place = 2
    while data[:2] == b"\xff\xd8" and place + 9 < len(data) and data[place] == 0xFF:
        if data[place + 1] in (0xC0, 0xC1, 0xC2):
            height, width = (int.from_bytes(data[place + i : place + i + 2], "big") for i in (5, 7))
            return (width, height) if width and height else None
        place += 2 + int.from_bytes(data[place + 2 : place + 4], "big")
    return None


def in_colour(
    pixels: Pixels, seen: Triple, paper: Triple, lab: Triple, character: Array | None = None
) -> Pixels:
    """A patch in the colours that its cell is known to have, for the screen.

    Parameters
    ----------
    pixels : (h, w, 3) uint8, as `encoded` gives them
    seen : tuple of three float, light relative to the bare paper that the cell's colour was made of
    paper : tuple of three float, CIELAB of the bare paper
    lab : tuple of three float, CIELAB, the cell's colour
    character : (CHARACTER,) float, what the picture is known to do to colours; None where nothing is known of it

    Returns
    -------
    (h, w, 3) uint8, sRGB
    """
    whole = _table(paper, None if character is None else tuple(character.tolist()))
    middle = _looked_up(whole, encoded(np.array([[seen]])))[0, 0]
    # one wash has a small part of all colours: what it has none of need not be worked out
    least, most = (cv2.reduce(pixels, 0, kind)[0] for kind in (cv2.REDUCE_MIN, cv2.REDUCE_MAX))
    first = np.minimum(np.floor(_PLACES[least.min(axis=0)]).astype(np.intp), len(_STEPS) - 2)
    last = np.maximum(np.ceil(_PLACES[most.max(axis=0)]).astype(np.intp), first + 1)
    part = np.ascontiguousarray(whole[first[0] : last[0] + 1, first[1] : last[1] + 1, first[2] : last[2] + 1])
    # the cell's colour is known otherwise, too; the bare paper is what all is measured by, and stays where it is
    white = np.array(paper)
    way = middle - white
    share = np.clip((part - white) @ way / max(float(way @ way), 1.0) / _NEAR_PAPER, 0.0, 1.0)
    shift = (share * share * (3.0 - 2.0 * share))[..., None] * (np.array(lab) - middle)
    shown = 255.0 * srgb_from_lab(part + shift)
    return np.asarray(np.round(_looked_up(shown, pixels, first)).astype(np.uint8))


@lru_cache(maxsize=64)  # of the pictures on view
def _table(paper: Triple, character: tuple[float, ...] | None) -> Array:
    """CIELAB of what a picture shows, at steps of its levels, as `_looked_up` takes it; not to be written to."""
    level, count = _levels()[_STEPS], len(_STEPS)
    light = np.stack(np.meshgrid(level, level, level, indexing="ij"), axis=-1).reshape(-1, 3)
    lab = seen_lab(light, np.array(paper))
    if character is not None:
        lab = as_it_is(lab, np.array(paper), np.array(character))
    return lab.reshape(count, count, count, 3)


def _looked_up(cube: Array, pixels: Pixels, first: Indices | None = None) -> Array:
    """What a cube of colours (red, green, blue, 3) has for pixels (h, w, 3) uint8, between its steps too; as float32.

    Its first steps are those of `first`. Each step of red is a picture of green (down) and blue (across), the steps one
    below the other. Two of them are interpolated as pictures are, and then between both: some ten times faster than in
    three dimensions at once.
    """
    reds, greens, blues = cube.shape[:3]
    places = np.repeat(_PLACES[None, :, None], 3, axis=2)
    if first is not None:
        places -= first.astype(np.float32)
    at = cv2.LUT(pixels, places)
    flat = cube.astype(np.float32).reshape(reds * greens, blues, 3)
    first = np.minimum(np.floor(at[..., 0]), np.float32(reds - 2))
    across = np.ascontiguousarray(at[..., 2], dtype=np.float32)
    down = np.ascontiguousarray(first * greens + at[..., 1], dtype=np.float32)
    low = cv2.remap(flat, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    high = cv2.remap(flat, across, down + greens, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(low + (at[..., :1] - first[..., None]) * (high - low))
