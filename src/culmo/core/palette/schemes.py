"""Colours that go with another as a picture needs them: mixes of these very paints, vivid, muted, and of other light."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.match import Match
from culmo.core.palette.mixer import chroma_of, hue_apart, hue_of
from culmo.words import mark

# a place in the scheme and how far round the circle of hue it lies
PLACES = (
    (mark("opposite"), 180.0), (mark("neighbour"), 30.0), (mark("other neighbour"), -30.0), (mark("third"), 120.0),
    (mark("other third"), -120.0),
)  # fmt: skip


class SchemeTone(StrEnum):
    """How the colours of a scheme are."""

    VIVID = "vivid"
    LIGHT = "light"
    DEEP = "deep"
    MUTED = "muted"


_GREY = 6.0
_HUE_DEG = 9.0  # how far from the hue that is asked for a mix may lie
_LEAST_CHROMA = 8.0
_LIGHT_L, _DEEP_L, _MIDDLE_L = 74.0, 40.0, 58.0
_MUTED_CHROMA, _MUTED_AT_MOST = 18.0, 28.0
_A_PAINT = 4.0  # chroma that one paint less is worth


@dataclass(frozen=True)
class Companion:
    """A mix that goes with another.

    Attributes
    ----------
    place : str, "opposite" and so on
    way : str, "vivid", "light", "deep" or "muted"
    wanted : (3,) float, the mix's own light and chroma at the very hue that the circle asks for
    match : Match, what the paints make of it
    """

    place: str
    way: str
    wanted: Array
    match: Match


def scheme(lattice: Lattice, lab: Array, fits: Flags | None = None) -> list[Companion]:
    """The opposite, the neighbours and the thirds of a colour; empty for greys, which have no hue.

    The circle says only the hue. A picture needs it in another light than the colour has: beside a dark blue the orange of
    the same darkness is mud. So for each place the most vivid mix is told, of whatever light; the most vivid light one
    beside a dark colour, a deep one beside a light; and a muted one, beyond the middle from the colour.

    Parameters
    ----------
    lattice : Lattice
    lab : (3,) float, CIELAB
    fits : (g,) bool, which sets of paints may be mixed; all where None
    """
    lab = np.asarray(lab, dtype=float)
    chroma, hue = float(chroma_of(lab)), float(hue_of(lab))
    if chroma < _GREY:
        return []
    colours = lattice.lab
    hues, chromas, lights = hue_of(colours), chroma_of(colours), colours[..., 0]
    groups = lattice.groups
    paints = 1 + (groups[:, 1] > groups[:, 0]).astype(int) + (groups[:, 2] > groups[:, 1])
    allowed = np.ones(len(groups), dtype=bool) if fits is None else fits
    dear = (_A_PAINT * (paints - 1) + np.where(allowed, 0.0, np.inf))[lattice.group_of][:, None]
    dark = lab[0] < _MIDDLE_L
    result = []
    for place, turn in PLACES:
        angle = (hue + turn) % 360.0
        near = (hue_apart(hues, np.full(1, angle)) <= _HUE_DEG) & (chromas >= _LEAST_CHROMA)
        if not near.any():
            continue
        other = lights >= _LIGHT_L if dark else lights <= _DEEP_L
        middle = 70.0 if dark else 42.0
        muted = np.abs(chromas - _MUTED_CHROMA) + 0.5 * np.abs(lights - middle)
        asked = (
            (SchemeTone.VIVID, np.where(near, dear - chromas, np.inf)),
            (SchemeTone.LIGHT if dark else SchemeTone.DEEP, np.where(near & other, dear - chromas, np.inf)),
            (SchemeTone.MUTED, np.where(near & (chromas <= _MUTED_AT_MOST), dear + muted, np.inf)),
        )
        told: set[tuple[int, int]] = set()
        for way, cost in asked:
            at = _least(cost)
            if at is not None and at not in told:
                told.add(at)
                result.append(_companion(lattice, place, way, angle, at))
    return result


def _least(cost: Array) -> tuple[int, int] | None:
    """The row and the wash of least cost; None where nothing is allowed."""
    flat = int(cost.argmin())
    row, wash = divmod(flat, cost.shape[1])
    return (row, wash) if np.isfinite(cost[row, wash]) else None


def _companion(lattice: Lattice, place: str, way: str, angle: float, at: tuple[int, int]) -> Companion:
    own = lattice.lab[at].astype(float)
    turned = np.radians(angle)
    chroma = float(chroma_of(own))
    wanted = np.array([own[0], chroma * np.cos(turned), chroma * np.sin(turned)])
    match = Match(lattice.recipe(*at), own, float(delta_e_00(own, wanted)))
    return Companion(place, way, wanted, match)
