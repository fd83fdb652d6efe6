"""Which cells of a sheet share an edge, by all of their outlines: straight, slanting and round ones."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array

Places = NDArray[np.intp]
SHARED_EDGE_MM = 1.0
# lines that run closer than this are one pencil line; the chords of one arc that is cut twice lie as far apart
_NEAR_MM = 0.1
_PARALLEL = 0.2  # the sine of the angle beyond which two lines cross and do not run along each other
_MOST_AT_ONCE = 400_000  # pairs of pieces that are looked at together


def neighbours(cells: Sequence[Cell]) -> dict[str, set[str]]:
    """Which cells share more than 1 mm of outline.

    The pieces of an arc count together, however short each is.

    Parameters
    ----------
    cells : sequence of Cell

    Returns
    -------
    dict from cell id to a set of ids
    """
    found: dict[str, set[str]] = {cell.id: set() for cell in cells}
    if len(cells) < 2:
        return found
    outlines = [np.asarray(cell.outline_mm, dtype=float) for cell in cells]
    counts = np.array([len(outline) for outline in outlines])
    starts = np.concatenate(outlines)
    ends = np.concatenate([np.roll(outline, -1, axis=0) for outline in outlines])
    first = np.concatenate(([0], np.cumsum(counts)[:-1]))
    middles, halves = (starts + ends) / 2.0, np.hypot(*(ends - starts).T) / 2.0
    one, other = _near_boxes(outlines)
    shared = np.zeros(len(one))
    sizes = counts[one] * counts[other]
    begin = 0
    while begin < len(one):
        # as many pairs of cells as may be looked at together, one at least
        end = begin + max(1, int(np.searchsorted(np.cumsum(sizes[begin:]), _MOST_AT_ONCE)))
        own = slice(begin, end)
        pair, a, b = _pieces(one[own], other[own], counts, first)
        x, y = (middles[a] - middles[b]).T
        near = x * x + y * y <= (halves[a] + halves[b] + _NEAR_MM) ** 2
        pair, a, b = pair[near], a[near], b[near]
        length = _shared_mm(starts[a], ends[a], starts[b], ends[b])
        shared[own] = np.bincount(pair, weights=length, minlength=end - begin)[: len(shared[own])]
        begin = end
    for i in np.flatnonzero(shared > SHARED_EDGE_MM):
        a_id, b_id = cells[one[i]].id, cells[other[i]].id
        found[a_id].add(b_id)
        found[b_id].add(a_id)
    return found


def _near_boxes(outlines: Sequence[Array]) -> tuple[Places, Places]:
    """The pairs of cells whose bounding boxes touch, each once."""
    low = np.array([outline.min(axis=0) for outline in outlines]) - _NEAR_MM
    high = np.array([outline.max(axis=0) for outline in outlines])
    order = np.argsort(low[:, 0], kind="stable")
    reach = np.searchsorted(low[order, 0], high[order, 0], side="right")
    ones, others = [], []
    for place, own in enumerate(order):  # sorted from left to right, only the next few can touch
        later = order[place + 1 : reach[place]]
        touch = later[(low[later, 1] <= high[own, 1]) & (high[later, 1] >= low[own, 1])]
        ones.append(np.full(len(touch), own))
        others.append(touch)
    return np.concatenate(ones), np.concatenate(others)


def _pieces(one: Places, other: Places, counts: Places, first: Places) -> tuple[Places, Places, Places]:
    """Each piece of the one with each of the other: the pair's place, and the places of both pieces."""
    sizes = counts[one] * counts[other]
    pair = np.repeat(np.arange(len(one)), sizes)
    within = np.arange(sizes.sum()) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    wide = counts[other][pair]
    return pair, first[one][pair] + within // wide, first[other][pair] + within % wide


def _shared_mm(a: Array, to_a: Array, b: Array, to_b: Array) -> Array:
    """How far each piece runs along another, (n,) float mm: where they lie nearer than a pencil line."""
    way, other = to_a - a, to_b - b
    length = np.hypot(way[:, 0], way[:, 1])
    far = np.hypot(other[:, 0], other[:, 1])
    sound = (length > 1e-9) & (far > 1e-9)
    along = way / np.where(sound, length, 1.0)[:, None]
    cross = along[:, 0] * other[:, 1] - along[:, 1] * other[:, 0]
    sound &= np.abs(cross) < _PARALLEL * far

    def seen(points: Array) -> tuple[Array, Array]:
        by = points - a
        return (by * along).sum(axis=1), along[:, 0] * by[:, 1] - along[:, 1] * by[:, 0]

    (at, off), (to_at, to_off) = seen(b), seen(to_b)
    span = to_at - at
    low, high = np.minimum(at, to_at), np.maximum(at, to_at)
    # the part of the other's line that lies near enough: its offset changes evenly along it
    slope = np.divide(to_off - off, span, out=np.zeros_like(span), where=np.abs(span) > 1e-9)
    steep = np.abs(slope) > 1e-12
    meets = np.divide(-off, slope, out=np.zeros_like(span), where=steep) + at
    half = np.divide(_NEAR_MM, np.abs(slope), out=np.full_like(span, np.inf), where=steep)
    low = np.maximum(np.maximum(low, 0.0), np.where(steep, meets - half, -np.inf))
    high = np.minimum(np.minimum(high, length), np.where(steep, meets + half, np.inf))
    sound &= steep | (np.abs(off) < _NEAR_MM)
    return np.where(sound, np.maximum(high - low, 0.0), 0.0)
