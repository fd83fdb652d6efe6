"""What palettes reach of all that a box can mix: one bit for each colour that counts, for every one, two and three paints.

The colours that the whole box mixes are thinned to representatives a tolerance apart. A palette reaches a representative
when some mix of its paints lies within the tolerance. Distances are those of the near space (about CIEDE2000); mixes are
rounded to a grid of a sixth of the tolerance first. The share depends on the tolerance and on the lattice of mixes, so
both are always told beside it.
"""

from collections.abc import Generator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.missing import SECTORS, sector_of
from culmo.core.palette.mixer import chroma_of
from culmo.core.steps import run_through
from culmo.core.threads import steps_on_one_thread
from culmo.errors import CulmoError
from culmo.words import tr

Bits = NDArray[np.uint64]
TOLERANCE = 4.0
DULL_DARK_WEIGHT = 0.5  # dark mud counts half as much as clean colour
MOST_PAINTS = 64
GREYS, DULL_DARKS = len(SECTORS), len(SECTORS) + 1
CLASSES = (*(tr(word) for word in SECTORS), tr("greys"), tr("dull darks"))
_GREY_CHROMA = 10.0
_DARK_L, _DULL_CHROMA = 30.0, 20.0
_FINE = 6  # grid steps within one tolerance
_LEAST_COUNTED = 8  # a class with fewer colours is no measure of anything
_WORD = 64


def class_of(lab: Array) -> Indices:
    """Which of CLASSES colours belong to: a sector of hue, the greys, or the dull darks.

    Parameters
    ----------
    lab : (m, 3) float
    """
    chroma = chroma_of(lab)
    klass = sector_of(lab)
    klass = np.where(chroma < _GREY_CHROMA, GREYS, klass)
    return np.where((lab[:, 0] < _DARK_L) & (chroma < _DULL_CHROMA), DULL_DARKS, klass)


@dataclass(frozen=True)
class Measure:
    """How reach is counted.

    Attributes
    ----------
    tolerance : float, > 0, how far a mix may lie from a colour and still stand for it, about CIEDE2000
    dull_darks : float, 0..1, what a dull dark counts beside a clean colour
    balanced : bool, half the share of all, half that of the worst class
    """

    tolerance: float = TOLERANCE
    dull_darks: float = DULL_DARK_WEIGHT
    balanced: bool = False

    def __post_init__(self) -> None:
        if not 1.0 <= self.tolerance <= 20.0:
            raise CulmoError(
                tr("the tolerance is {tolerance:g}; it must be from 1 to 20", tolerance=self.tolerance)
            )
        if not 0.0 <= self.dull_darks <= 1.0:
            raise CulmoError(
                tr("dull darks count {dull_darks:g}; it must be from 0 to 1", dull_darks=self.dull_darks)
            )

    @property
    def words(self) -> str:
        """The measure in a sentence."""
        text = tr(
            "colours told apart at a difference of {tolerance:g}; mixes of up to three paints in "
            "sixths, at nine washes; a dull dark counts {dull_darks:g}",
            tolerance=self.tolerance,
            dull_darks=self.dull_darks,
        )
        return text + (
            "; " + tr("half the share of all, half that of the worst hue") if self.balanced else ""
        )


USUAL = Measure()


@dataclass(frozen=True)
class Table:
    """The bits of a box.

    The bits lie in blocks of equal weight that fill words of their own, so that a share is a count of bits by word. The
    colours that the fewest mixes reach come first: where a palette lacks many of those, the rest need not be counted.

    Attributes
    ----------
    names : tuple of n str
    lab : (N, 3) float, the representatives or targets
    klass : (N,) int, their classes
    slot : (N,) int, the bit of each
    block : (N,) int, the block of each
    word_block : (W,) int, the block of each word
    bits : (n, n, n, W) uint64, what three paints reach, with what any one or two of them do
    """

    names: tuple[str, ...]
    lab: Array
    klass: Indices
    slot: Indices
    block: Indices
    word_block: Indices
    bits: Bits

    @cached_property
    def counts(self) -> Indices:
        """How many representatives each class has, (classes,) int."""
        return np.bincount(self.klass, minlength=len(CLASSES))

    def reach(self, paints: Sequence[int]) -> Bits:
        """The bits of a palette, (W,).

        Parameters
        ----------
        paints : sequence of int
        """
        if not len(paints):
            return np.zeros(self.bits.shape[-1], dtype=np.uint64)
        some = self.bits[np.ix_(paints, paints, paints)]
        return np.asarray(np.bitwise_or.reduce(some.reshape(-1, some.shape[-1]), axis=0))

    def reached(self, bits: Bits) -> Flags:
        """Which representatives are reached, (N,) bool.

        Parameters
        ----------
        bits : (W,) uint64
        """
        word, bit = np.divmod(self.slot, _WORD)
        return np.asarray((bits[word] >> bit.astype(np.uint64)) & np.uint64(1), dtype=bool)

    def shares(self, paints: Sequence[int]) -> Array:
        """The share reached of each class, (classes,) float; nan where the box has nothing of it.

        Parameters
        ----------
        paints : sequence of int
        """
        found = np.bincount(self.klass, self.reached(self.reach(paints)), len(CLASSES))
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(np.where(self.counts > 0, found / self.counts, np.nan))


def _worth(bits: Bits, worth: Array) -> Array:
    """What the bits that are set bring, (...,) or (..., k) float32; `bits` (..., w), `worth` (w,) or (w, k).

    Both factors are finite. A fast product may still raise the processor's flag for an invalid value, out of what lay
    in the unused lanes of its last step; the flag says nothing of the result.
    """
    with np.errstate(invalid="ignore"):
        return np.asarray(np.bitwise_count(bits).astype(np.float32) @ worth)


class Value:
    """A measure on a table: bits to a share of 0..1; more bits never give less.

    Attributes
    ----------
    table : Table
    by_word : (W,) float, what a bit of each word is worth
    """

    def __init__(self, table: Table, weights: Array, balanced: bool = False) -> None:
        """`weights` : (N,) float, >= 0, the same within a block."""
        self.table, self.balanced = table, balanced
        words = len(table.word_block)
        by_block = np.zeros(max(int(table.block.max(initial=0)) + 1, len(CLASSES)))
        by_block[table.block] = weights
        self.by_word = (by_block[table.word_block] / max(float(weights.sum()), 1e-9)).astype(np.float32)
        if balanced:  # the blocks are the classes
            counted = (table.counts >= _LEAST_COUNTED) & (by_block[: len(CLASSES)] > 0)
            counted = counted if counted.any() else table.counts > 0
            shares = np.zeros((words, len(CLASSES)), dtype=np.float32)
            shares[np.arange(words), table.word_block] = 1.0 / np.maximum(table.counts[table.word_block], 1)
            self._classes = shares[:, counted]

    def __call__(self, bits: Bits) -> Array:
        """Shares of palettes, (...,) float32.

        Parameters
        ----------
        bits : (..., W) uint64
        """
        share = _worth(bits, self.by_word)
        if self.balanced:
            share = 0.5 * share + 0.5 * _worth(bits, self._classes).min(axis=-1)
        return share

    def part(self, bits: Bits, words: slice) -> Array:
        """What some of the words bring to a share that is not balanced, (...,) float32.

        Parameters
        ----------
        bits : (..., w) uint64
        words : slice of W to w
        """
        if words.stop is None and not words.start:
            return self(bits)
        return _worth(bits, self.by_word[words])

    def most(self, words: slice) -> float:
        """What some of the words can bring at most.

        Parameters
        ----------
        words : slice of W
        """
        return float(_worth(self._all[words], self.by_word[words]))

    @cached_property
    def _all(self) -> Bits:
        words = self.table.bits.shape[-1]
        return np.asarray(np.bitwise_or.reduce(self.table.bits.reshape(-1, words), axis=0))

    def of(self, paints: Sequence[int]) -> float:
        """The share of one palette.

        Parameters
        ----------
        paints : sequence of int
        """
        return float(self(self.table.reach(paints)))


def value_of(table: Table, measure: Measure) -> Value:
    """The measure on a table that was made for it.

    Parameters
    ----------
    table : Table
    measure : Measure
    """
    return Value(table, np.where(table.klass == DULL_DARKS, measure.dull_darks, 1.0), measure.balanced)


def thin(points: Array, apart: float) -> Indices:
    """Which points stand for all: no two nearer than `apart`, none of the others farther than that from one.

    The most vivid are taken first, so that the rim of what can be mixed is kept.

    Parameters
    ----------
    points : (m, 3) float, near space
    apart : float
    """
    from scipy.spatial import cKDTree  # slow to import

    grid = np.floor(points / np.float32(apart / 4.0)).astype(np.int32)
    grid -= grid.min(axis=0)
    shape = grid.max(axis=0) + 1
    flat = (grid[:, 0] * shape[1] + grid[:, 1]) * shape[2] + grid[:, 2]
    one_of = np.full(int(np.prod(shape)), -1, dtype=np.int32)
    one_of[flat] = np.arange(len(points), dtype=np.int32)  # one colour of each small cube is enough
    some = one_of[one_of >= 0].astype(np.intp)
    some = some[np.argsort(-np.hypot(points[some, 1], points[some, 2]), kind="stable")]
    tree = cKDTree(points[some])
    free = np.ones(len(some), dtype=bool)
    kept = []
    for place in range(len(some)):
        if free[place]:
            kept.append(place)
            free[tree.query_ball_point(points[some[place]], apart)] = False
    return some[kept]


def _slots(block: Indices, often: Array) -> tuple[Indices, Indices]:
    """A bit for each representative, blocks in words of their own, the rarest first: (slots, block of each word)."""
    slot = np.empty(len(block), dtype=np.intp)
    chunks = []
    for one in np.unique(block):
        members = np.flatnonzero(block == one)
        members = members[np.argsort(often[members], kind="stable")]
        for start in range(0, len(members), _WORD):
            some = members[start : start + _WORD]
            chunks.append((float(often[some].mean()), int(one), some))
    chunks.sort(key=lambda chunk: chunk[0])
    for word, (_, _, some) in enumerate(chunks):
        slot[some] = word * _WORD + np.arange(len(some))
    return slot, np.array([one for _, one, _ in chunks], dtype=np.intp)


def table_from_flags(
    lattice: Lattice, lab: Array, klass: Indices, block: Indices, flags: NDArray[np.uint8]
) -> Table:
    """The table from what each group of paints reaches by itself.

    Parameters
    ----------
    lattice : Lattice
    lab : (N, 3) float
    klass, block : (N,) int
    flags : (g, N) uint8, 0 or 1
    """
    slot, word_block = _slots(block, flags.sum(axis=0, dtype=np.int64))
    spread = np.zeros((len(flags), len(word_block) * _WORD), dtype=np.uint8)
    spread[:, slot] = flags
    packed = np.packbits(spread, axis=1, bitorder="little").view("<u8").astype(np.uint64)
    return Table(lattice.names, lab, klass, slot, block, word_block, cube_from_groups(lattice, packed))


class _Grid:
    """The near space in small cubes; which of them lie within the tolerance of each representative.

    Attributes
    ----------
    ids : (m,) int, the cube of each colour
    near : list of N arrays of int, the cubes about each representative that hold a colour
    often : (N,) float, how many colours lie there
    """

    def __init__(self, near: Array, reps: Array, tolerance: float) -> None:
        self.step = np.float32(tolerance / _FINE)
        margin = _FINE + 1  # so that no neighbourhood runs over the edge
        self.low = np.floor(near.min(axis=0) / self.step).astype(np.int64) - margin
        self.shape = np.floor(near.max(axis=0) / self.step).astype(np.int64) - self.low + 1 + margin
        flat = self._flat(np.floor(near / self.step).astype(np.int32))
        counts = np.bincount(flat, minlength=int(np.prod(self.shape)))
        used = np.flatnonzero(counts)
        place = np.full(len(counts), -1, dtype=np.int32)
        place[used] = np.arange(len(used), dtype=np.int32)
        self.ids, self.used = place[flat], len(used)
        cubes = self._about(reps / float(self.step))
        self.near = [found[found >= 0] for found in (place[some] for some in cubes)]
        self.often = np.array([counts[used[some]].sum() for some in self.near], dtype=float)

    def _flat(self, cubes: Indices) -> Indices:
        x, y, z = (cubes[:, axis] - self.low[axis] for axis in range(3))
        return np.asarray((x * self.shape[1] + y) * self.shape[2] + z)

    def _about(self, reps: Array) -> list[Indices]:
        span = np.arange(-_FINE - 1, _FINE + 2)
        offsets = np.stack(np.meshgrid(span, span, span, indexing="ij"), axis=-1).reshape(-1, 3)
        offsets = offsets[(np.maximum(np.abs(offsets) - 0.5, 0.0) ** 2).sum(axis=1) <= _FINE**2]
        square = (offsets**2).sum(axis=1).astype(float)
        step = (offsets[:, 0] * self.shape[1] + offsets[:, 1]) * self.shape[2] + offsets[:, 2]
        corner = np.floor(reps).astype(np.int64)
        start, off = self._flat(corner), corner + 0.5 - reps
        away = square + 2.0 * off @ offsets.T.astype(float) + (off**2).sum(axis=1)[:, None]
        return [at + step[row <= _FINE**2] for at, row in zip(start, away, strict=True)]

    def masks(self, slot: Indices, words: int) -> Bits:
        """The bits of the representatives that each cube stands for, (cubes, words).

        Parameters
        ----------
        slot : (N,) int
        words : int
        """
        masks = np.zeros((self.used, words), dtype=np.uint64)
        for cubes, word, bit in zip(self.near, *np.divmod(slot, _WORD), strict=True):
            masks[cubes, word] |= np.uint64(1) << np.uint64(bit)
        return masks


def cube_from_groups(lattice: Lattice, group_bits: Bits) -> Bits:
    """Bits of single groups to bits of any three paints with what their ones and twos reach, (n, n, n, W).

    Parameters
    ----------
    lattice : Lattice of n paints
    group_bits : (g, W) uint64
    """
    n, words = len(lattice.names), group_bits.shape[1]
    i, j, k = lattice.groups.T
    alone, pair = i == j, (i != j) & (j == k)
    single = group_bits[alone]
    two = np.zeros((n, n, words), dtype=np.uint64)
    two[np.arange(n), np.arange(n)] = single
    both = group_bits[pair] | single[i[pair]] | single[j[pair]]
    two[i[pair], j[pair]] = two[j[pair], i[pair]] = both
    cube = np.zeros((n, n, n, words), dtype=np.uint64)
    for a in range(n):
        cube[a, a] = cube[a, :, a] = cube[:, a, a] = two[a]
    three = (i != j) & (j != k)
    i, j, k = i[three], j[three], k[three]
    whole = group_bits[three] | two[i, j] | two[i, k] | two[j, k]
    for a, b, c in ((i, j, k), (i, k, j), (j, i, k), (j, k, i), (k, i, j), (k, j, i)):
        cube[a, b, c] = whole
    return cube


@steps_on_one_thread
def tabulating(lattice: Lattice, measure: Measure = USUAL) -> Generator[float, None, Table]:
    """The table of a box's reach; yields its progress.

    Parameters
    ----------
    lattice : Lattice
    measure : Measure

    Raises
    ------
    CulmoError
        when the box is empty or has more than 64 paints
    """
    n = len(lattice.names)
    if n == 0:
        raise CulmoError(tr("there are no paints to choose from"))
    if n > MOST_PAINTS:
        raise CulmoError(
            tr(
                "{n} paints are too many to weigh at once; {MOST_PAINTS} is the most: leave some out",
                n=n,
                MOST_PAINTS=MOST_PAINTS,
            )
        )
    near = lattice.near.reshape(-1, 3)
    yield 0.05
    chosen = thin(near, measure.tolerance)
    yield 0.4
    lab = lattice.lab.reshape(-1, 3)[chosen].astype(float)
    klass = class_of(lab)
    block = klass if measure.balanced else np.where(klass == DULL_DARKS, 1, 0)
    grid = _Grid(near, near[chosen].astype(float), measure.tolerance)
    yield 0.5
    slot, word_block = _slots(block, grid.often)
    masks = grid.masks(slot, len(word_block))
    yield 0.6
    bits = np.empty((len(lattice.groups), len(word_block)), dtype=np.uint64)
    washes = lattice.lab.shape[1]
    sizes = np.diff(lattice.first)
    for size in np.unique(sizes):  # groups of one kind have equally many mixes
        members = np.flatnonzero(sizes == size)
        for start in range(0, len(members), 400):
            some = members[start : start + 400]
            at = lattice.first[some] * washes
            ids = grid.ids[at[:, None] + np.arange(size * washes)]
            bits[some] = np.bitwise_or.reduce(masks[ids], axis=1)
            yield 0.6 + 0.35 * start / len(members)
    return Table(lattice.names, lab, klass, slot, block, word_block, cube_from_groups(lattice, bits))


def tabulate(lattice: Lattice, measure: Measure = USUAL) -> Table:
    """The table at one go; as `tabulating`.

    Parameters
    ----------
    lattice : Lattice
    measure : Measure
    """
    return run_through(tabulating(lattice, measure))
