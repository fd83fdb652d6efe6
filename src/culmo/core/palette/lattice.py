"""Every mix of one, two and three paints in small whole parts, at nine washes, predicted in one batch."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations, product

import numpy as np

from culmo.core.colour.spectral import DAYLIGHT, Array, Indices, Light
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.mixer import Mixer
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.steps import run_through
from culmo.core.threads import steps_on_one_thread

# from full to the palest tint, by halves from 1 and from 0.7
WASHES = (1.0, 0.7, 0.5, 0.35, 0.25, 0.175, 0.125, 0.0875, 0.0625)
SUM_OF_PARTS = 6
_CHUNK = 2000
_EPSILON, _KAPPA = 216.0 / 24389.0, 24389.0 / 27.0


def compositions(count: int, total: int) -> Indices:
    """Whole parts of `count` paints that add up to `total`, each at least 1, (m, count) int.

    Parameters
    ----------
    count, total : int
    """
    rows = [parts for parts in product(range(1, total), repeat=count) if sum(parts) == total]
    return np.array(rows if count > 1 else [(total,)], dtype=np.intp).reshape(-1, count)


@dataclass(frozen=True)
class Lattice:
    """The mixes of a box.

    Attributes
    ----------
    mixer : Mixer of n paints
    groups : (g, 3) int, the paints of each group, ascending; a group of one or two repeats its last paint
    first : (g + 1,) int, where the mixes of each group begin
    parts : (m, 3) float, the parts of each mix, adding up to 6; 0 in the places that repeat
    lab : (m, 9, 3) float32, CIELAB at WASHES
    """

    mixer: Mixer
    groups: Indices
    first: Indices
    parts: Array
    lab: Array

    @property
    def names(self) -> tuple[str, ...]:
        """The paints."""
        return self.mixer.names

    @cached_property
    def near(self) -> Array:
        """The colours in the near space, (m, 9, 3) float32."""
        return near_from_lab(self.lab)

    @cached_property
    def group_of(self) -> Indices:
        """The group of each mix, (m,) int."""
        return np.repeat(np.arange(len(self.groups)), np.diff(self.first))

    def recipe(self, row: int, wash: int) -> Recipe:
        """The mix in a row at one of WASHES, in lowest terms, the most first.

        Parameters
        ----------
        row, wash : int
        """
        parts = self.parts[row].astype(int)
        whole = int(np.gcd.reduce(parts[parts > 0]))
        members = self.groups[self.group_of[row]]
        pairs = [(int(p) // whole, self.names[int(i)]) for p, i in zip(parts, members, strict=True) if p > 0]
        pairs.sort(key=lambda pair: -pair[0])
        return mix([name for _, name in pairs], [float(part) for part, _ in pairs], WASHES[wash])


def _arrangement(n: int) -> tuple[Indices, Indices, Array]:
    groups, first, parts = [], [0], []
    for count in range(1, min(n, 3) + 1):
        some = compositions(count, SUM_OF_PARTS)
        padded = np.zeros((len(some), 3))
        padded[:, :count] = some
        members = np.array(list(combinations(range(n), count)), dtype=np.intp).reshape(-1, count)
        groups.append(np.concatenate([members, np.repeat(members[:, -1:], 3 - count, axis=1)], axis=1))
        first += [first[-1] + len(some) * (i + 1) for i in range(len(members))]
        parts.append(np.tile(padded, (len(members), 1)))
    if n == 0:
        return np.empty((0, 3), dtype=np.intp), np.array([0]), np.empty((0, 3))
    return np.concatenate(groups), np.array(first), np.concatenate(parts)


@steps_on_one_thread
def lattice_colours(
    mixer: Mixer, members: Indices, parts: Array, light: Light = DAYLIGHT
) -> Generator[float, None, Array]:
    """Colours of mixes of up to three paints at WASHES; yields its progress.

    The reflectance of `film_reflectance`, written with e = exp(-2 b S X): R = (A + e B) / (C + e D). The surface only
    changes C and D.

    Parameters
    ----------
    mixer : Mixer
    members : (m, 3) int
    parts : (m, 3) float, rows need not add up to 1
    light : Light

    Returns
    -------
    (m, 9, 3) float32, CIELAB
    """
    loaded = (parts * np.exp(mixer.bias)[members]).astype(np.float32)
    loaded /= loaded.sum(axis=1, keepdims=True)
    K_all, S_all = mixer.K.astype(np.float32), mixer.S.astype(np.float32)
    dilution = mixer.dilution.astype(np.float32)
    ground, k2 = mixer.grounds[0].astype(np.float32), np.float32(mixer.k2)
    weights = (light.weights / light.white).astype(np.float32)
    gain = np.float32((1.0 - mixer.k1) * (1.0 - mixer.k2))
    lab = np.empty((len(members), len(WASHES), 3), dtype=np.float32)
    for start in range(0, len(members), _CHUNK):
        rows = slice(start, start + _CHUNK)
        who, share = members[rows], loaded[rows]
        K = sum(share[:, i, None] * K_all[who[:, i]] for i in range(3))
        S = sum(share[:, i, None] * S_all[who[:, i]] for i in range(3))
        both = K + S
        root = np.sqrt(np.maximum(K * (both + S), np.float32(1e-12)))
        upper, lower = S - ground * both, both - ground * S
        A, B = ground * root + upper, ground * root - upper
        C, D = root + lower - k2 * A, root - lower - k2 * B
        ratio = np.empty((len(who), len(WASHES), 3), dtype=np.float32)
        power = np.float32(1.0) + (share * dilution[who]).sum(axis=1)
        for place, wash in enumerate(WASHES):
            e = np.exp(root * (np.float32(-2.0) * np.float32(wash) ** power)[:, None])
            np.matmul((A + e * B) / (C + e * D), weights, out=ratio[:, place])
        ratio *= gain
        ratio += np.float32(mixer.k1)
        lab[rows] = _lab_from_ratio(ratio)
        yield min(1.0, (start + _CHUNK) / len(members))
    return lab


def _lab_from_ratio(ratio: Array) -> Array:
    small = ratio < _EPSILON
    f = np.cbrt(ratio)
    if small.any():
        f[small] = (np.float32(_KAPPA) * ratio[small] + 16.0) / 116.0
    lab = np.empty_like(f)
    lab[..., 0] = 116.0 * f[..., 1] - 16.0
    lab[..., 1] = 500.0 * (f[..., 0] - f[..., 1])
    lab[..., 2] = 200.0 * (f[..., 1] - f[..., 2])
    return lab


def building(mixer: Mixer, light: Light = DAYLIGHT) -> Generator[float, None, Lattice]:
    """Predict every mix of a box; yields its progress.

    Parameters
    ----------
    mixer : Mixer; 24 paints give about 195,000 colours, 48 paints 1.6 million
    light : Light
    """
    groups, first, parts = _arrangement(len(mixer.names))
    members = np.repeat(groups, np.diff(first), axis=0)
    lab = yield from lattice_colours(mixer, members, parts, light)
    return Lattice(mixer, groups, first, parts, lab)


def build_lattice(mixer: Mixer, light: Light = DAYLIGHT) -> Lattice:
    """Predict every mix of a box at one go; as `building`.

    Parameters
    ----------
    mixer : Mixer
    light : Light
    """
    return run_through(building(mixer, light))


def places_of(names: Sequence[str], wanted: Sequence[str]) -> list[int]:
    """Where names stand, without regard to case; unknown ones are passed over.

    Parameters
    ----------
    names, wanted : sequences of str
    """
    index = {name.casefold(): i for i, name in enumerate(names)}
    return [index[name.strip().casefold()] for name in wanted if name.strip().casefold() in index]
