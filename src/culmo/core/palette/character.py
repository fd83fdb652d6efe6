"""What two or three paints can do together, over all of their parts and washes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.paint.recipe import FULL
from culmo.core.palette.lattice import compositions
from culmo.core.palette.mixer import (
    MIDDLE_AT,
    PAIR_WASHES,
    Mixer,
    chroma_of,
    hue_of,
)

_MILKY = 12.0  # L, by how much a full wash over the bar is lighter than the bare bar, to be called milky


@dataclass(frozen=True)
class Character:
    """What a set of two or three paints can do.

    Attributes
    ----------
    darkest, lightest : float, L
    hues : float, degrees of the hue circle that its mixes run over
    milky : float, how much lighter than the bare bar a full wash of it is over the bar, L
    """

    darkest: float
    lightest: float
    hues: float
    milky: float

    @property
    def turns_milky(self) -> bool:
        """Whether a full wash veils what lies below it."""
        return self.milky >= _MILKY


def character(mixer: Mixer, names: Sequence[str]) -> Character:
    """What two or three paints can do together.

    Parameters
    ----------
    mixer : Mixer
    names : sequence of two or three str, paints of it
    """
    index = {name.casefold(): i for i, name in enumerate(mixer.names)}
    places = [index[name.casefold()] for name in names]
    parts = np.vstack([compositions(len(places), 9), np.eye(len(places), dtype=int)])
    shares = np.zeros((len(parts), len(mixer.names)))
    shares[:, places] = parts / parts.sum(axis=1, keepdims=True)
    lab = mixer.lab(shares, PAIR_WASHES)
    hue = np.sort(hue_of(lab[:, MIDDLE_AT])[chroma_of(lab[:, MIDDLE_AT]) >= 6.0])
    gaps = np.diff(np.append(hue, hue[:1] + 360.0)) if len(hue) else np.array([360.0])
    even = np.zeros((1, len(mixer.names)))
    even[0, places] = 1.0 / len(places)
    over, bare = mixer.lab(even, (FULL, 1e-4), "ink")[0]
    return Character(
        float(lab[..., 0].min()),
        float(lab[..., 0].max()),
        float(360.0 - gaps.max()),
        float(over[0] - bare[0]),
    )
