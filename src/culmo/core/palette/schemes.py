"""Colour schemes around a chosen mix, as mixes that these very paints can make."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.match import Match, nearest_recipes
from culmo.core.palette.mixer import chroma_of, hue_of
from culmo.words import mark

# a place in the scheme and how far round the circle of hue it lies
PLACES = (
    (mark("opposite"), 180.0), (mark("neighbour"), 30.0), (mark("other neighbour"), -30.0), (mark("third"), 120.0),
    (mark("other third"), -120.0),
)  # fmt: skip
_GREY = 6.0


@dataclass(frozen=True)
class Companion:
    """A mix that goes with another.

    Attributes
    ----------
    place : str, "opposite" and so on
    wanted : (3,) float, the colour that the circle asks for
    match : Match, what the paints make of it
    """

    place: str
    wanted: Array
    match: Match


def scheme(lattice: Lattice, lab: Array) -> list[Companion]:
    """The true opposite, the neighbours and the thirds of a mix; empty for greys, which have no hue.

    The wanted colour has the same lightness and chroma. Where the paints do not reach it, less chroma is asked for
    until they come near, so that the hue is kept.

    Parameters
    ----------
    lattice : Lattice
    lab : (3,) float, CIELAB
    """
    lab = np.asarray(lab, dtype=float)
    chroma, hue = float(chroma_of(lab)), float(hue_of(lab))
    if chroma < _GREY:
        return []
    result = []
    for place, turn in PLACES:
        angle = np.radians(hue + turn)
        best: Companion | None = None
        for share in (1.0, 0.75, 0.5):
            wanted = np.array([lab[0], share * chroma * np.cos(angle), share * chroma * np.sin(angle)])
            match = nearest_recipes(lattice, wanted, count=1)[0]
            if best is None or match.away < best.match.away:
                best = Companion(place, wanted, match)
            if match.away < 3.0:
                break
        assert best is not None
        result.append(best)
    return result
