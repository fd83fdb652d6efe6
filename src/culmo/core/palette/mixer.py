"""Many mixes at once: the colours of shares of paints at several washes, and the table of all pairs."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.film import film_reflectance, through_surface
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.threads import one_thread

_CHUNK = 4000
# small whole parts from a touch of the second paint to a touch of the first
RATIOS = ((8, 1), (5, 1), (3, 1), (2, 1), (3, 2), (1, 1), (2, 3), (1, 2), (1, 3), (1, 5), (1, 8))
FULL_AT, MIDDLE_AT, TINT_AT, PALE_AT = range(4)
PAIR_WASHES = (1.0, 0.45, 0.2, 0.08)
EVEN = RATIOS.index((1, 1))


class Looker(Protocol):
    """What gives the colours of mixes: an estimate, or the truth of simulated paints."""

    @property
    def names(self) -> tuple[str, ...]:
        """The paints."""

    def lab(self, shares: Array, washes: Sequence[float], ground: str = PAPER) -> Array:
        """Colours of mixes.

        Parameters
        ----------
        shares : (m, n) float, rows add up to 1
        washes : sequence of w float
        ground : str, "paper" or "ink"

        Returns
        -------
        (m, w, 3) float, CIELAB
        """


@dataclass(frozen=True)
class Mixer:
    """Paints by their absorption and scattering, over one paper and one ink, with the hand's bias.

    Attributes
    ----------
    names : tuple of n str
    K, S : (n, 36) float, per full wash
    bias : (n,) float, logs, how much more of a paint this hand takes than it means
    dilution : (n,) float, added to 1 it is the power by which a paint's film grows with its wash
    grounds : (2, 36) float, reflectance of paper and ink below the surface
    k1, k2 : float, reflection at the surface
    """

    names: tuple[str, ...]
    K: Array
    S: Array
    bias: Array
    dilution: Array
    grounds: Array
    k1: float
    k2: float

    @one_thread
    def lab(self, shares: Array, washes: Sequence[float], ground: str = PAPER) -> Array:
        """Colours of mixes, as `Looker.lab`."""
        loaded = shares * np.exp(self.bias)
        loaded = loaded / loaded.sum(axis=1, keepdims=True)
        result = np.empty((len(shares), len(washes), 3))
        base = self.grounds[0 if ground == PAPER else 1]
        for start in range(0, len(shares), _CHUNK):
            rows = slice(start, start + _CHUNK)
            K, S = (loaded[rows] @ self.K)[:, None, :], (loaded[rows] @ self.S)[:, None, :]
            X = np.array(washes) ** (1.0 + loaded[rows] @ self.dilution)[:, None]
            inner = film_reflectance(K, S, X[:, :, None], base)
            result[rows] = lab_from_reflectance(through_surface(inner, self.k1, self.k2))
        return result

    @one_thread
    def lab_each(self, shares: Array, washes: Array) -> Array:
        """Colours of mixes on paper, each at a wash of its own.

        Parameters
        ----------
        shares : (m, n) float, rows add up to 1
        washes : (m,) float

        Returns
        -------
        (m, 3) float, CIELAB
        """
        loaded = shares * np.exp(self.bias)
        loaded = loaded / loaded.sum(axis=1, keepdims=True)
        X = np.asarray(washes) ** (1.0 + loaded @ self.dilution)
        inner = film_reflectance(loaded @ self.K, loaded @ self.S, X[:, None], self.grounds[0])
        return lab_from_reflectance(through_surface(inner, self.k1, self.k2))

    def only(self, names: Sequence[str]) -> "Mixer":
        """These paints alone, in this order; unknown ones are passed over."""
        places = {name.casefold(): i for i, name in enumerate(self.names)}
        at = [places[name.casefold()] for name in names if name.casefold() in places]
        chosen = tuple(self.names[i] for i in at)
        return Mixer(
            chosen, self.K[at], self.S[at], self.bias[at], self.dilution[at], self.grounds, self.k1, self.k2
        )

    def with_typical(self, names: Sequence[str], K: Array, S: Array) -> "Mixer":
        """With other paints besides, of which only typical curves are known."""
        return Mixer(
            (*self.names, *names),
            np.vstack([self.K, K]),
            np.vstack([self.S, S]),
            np.concatenate([self.bias, np.zeros(len(names))]),
            np.concatenate(
                [self.dilution, np.full(len(names), self.dilution.mean() if len(self.names) else 0.0)]
            ),
            self.grounds,
            self.k1,
            self.k2,
        )


@one_thread
def mixer_of(estimate: Estimate) -> Mixer:
    """The paints of an estimate on its usual paper.

    Parameters
    ----------
    estimate : Estimate
    """
    optics = estimate.layout.optics(estimate.theta)
    grounds = np.stack([optics.grounds[estimate.ground_index(ground)] for ground in (PAPER, INK)])
    return Mixer(
        estimate.names, optics.K, optics.S, optics.bias, optics.dilution, grounds, optics.k1, optics.k2
    )


def chroma_of(lab: Array) -> Array:
    """Chroma of colours, (...,) float."""
    return np.asarray(np.hypot(lab[..., 1], lab[..., 2]))


def hue_of(lab: Array) -> Array:
    """Hue angle of colours in degrees, 0..360, (...,) float."""
    return np.asarray(np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360.0)


def hue_apart(one: Array, other: Array) -> Array:
    """The difference of hue angles, 0..180 degrees."""
    return np.asarray(np.abs((one - other + 180.0) % 360.0 - 180.0))


@dataclass(frozen=True)
class PairTable:
    """All pairs of a box at RATIOS and PAIR_WASHES, and the paints alone.

    Attributes
    ----------
    names : tuple of n str
    first, second : (p,) int, the paints of each pair
    lab : (p, ratios, washes, 3) float
    alone : (n, washes, 3) float
    over_ink : (n, 3) float, masstones over the bar
    ink : (3,) float, the bare bar
    """

    names: tuple[str, ...]
    first: Indices
    second: Indices
    lab: Array
    alone: Array
    over_ink: Array
    ink: Array

    @cached_property
    def chroma(self) -> Array:
        """(p, ratios, washes) float."""
        return chroma_of(self.lab)

    @cached_property
    def hue(self) -> Array:
        """(p, ratios, washes) float, degrees."""
        return hue_of(self.lab)

    @cached_property
    def place(self) -> Indices:
        """The pair of two paints, (n, n) int; -1 on the diagonal."""
        table = np.full((len(self.names), len(self.names)), -1)
        table[self.first, self.second] = table[self.second, self.first] = np.arange(len(self.first))
        return table

    def recipe(self, pair: int, ratio: int, wash: int) -> Recipe:
        """The mix at a place of the table."""
        parts = RATIOS[ratio]
        names = [self.names[int(self.first[pair])], self.names[int(self.second[pair])]]
        if parts[1] > parts[0]:
            names, parts = names[::-1], (parts[1], parts[0])
        return mix(names, [float(part) for part in parts], PAIR_WASHES[wash])


@one_thread
def pair_table(looker: Looker) -> PairTable:
    """The table of all pairs.

    Parameters
    ----------
    looker : Looker, with n paints; takes n * n * 22 colours
    """
    n = len(looker.names)
    first, second = np.triu_indices(n, 1)
    if n == 0:
        nothing = np.zeros((0, len(RATIOS), len(PAIR_WASHES), 3))
        return PairTable((), first, second, nothing, nothing[:, 0], nothing[:, 0, 0], np.zeros(3))
    one = np.array([a / (a + b) for a, b in RATIOS])
    shares = np.zeros((len(first), len(RATIOS), n))
    rows = np.arange(len(first))
    shares[rows, :, first] = one
    shares[rows, :, second] = 1.0 - one
    lab = looker.lab(shares.reshape(-1, n), PAIR_WASHES)
    alone = looker.lab(np.eye(n), PAIR_WASHES)
    over_ink = looker.lab(np.eye(n), (1.0,), INK)[:, 0]
    ink = looker.lab(np.eye(n)[:1], (1e-4,), INK)[0, 0]
    shape = (len(first), len(RATIOS), len(PAIR_WASHES), 3)
    return PairTable(looker.names, first, second, lab.reshape(shape), alone, over_ink, ink)
