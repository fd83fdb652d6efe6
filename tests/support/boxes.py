"""Boxes of simulated paints as mixers: the truth, without an estimate."""

import numpy as np

from culmo.core.palette.mixer import Mixer
from support.paints import make_painter


def make_mixer(count: int, seed: int = 0, dilution: float = 0.0) -> Mixer:
    """A box of different paints, with the bias of a hand; of films that grow less than their washes where that is wished."""
    paints = make_painter(count, seed).paints
    rng = np.random.default_rng(seed)
    return Mixer(
        tuple(paint.name for paint in paints),
        np.array([paint.absorption for paint in paints]),
        np.array([paint.scattering for paint in paints]),
        rng.normal(0.0, 0.2, count),
        dilution * rng.normal(-1.0, 0.5, count),
        np.stack([np.full(36, 0.88), np.full(36, 0.03)]),
        0.03,
        0.42,
    )
