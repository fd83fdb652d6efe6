"""What a mix looks like among the pigments one reads about, and what stands in for a paint that one does not own."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.pigments import Pigment
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.lattice import WASHES, Lattice
from culmo.core.palette.match import find_places, fitting_groups
from culmo.core.palette.mixer import chroma_of, hue_of
from culmo.core.palette.nearspace import near_from_lab
from culmo.errors import CulmoError
from culmo.words import tr

_SHOWS_L, _SHOWS_CHROMA, _SHOWS_HUE, _SHOWS_GRAIN = 3.0, 5.0, 6.0, 0.08
# towards which neighbour a hue leans when its angle grows, by sector of 60 degrees from red
_LEANS = (
    (tr("yellower"), tr("bluer")),
    (tr("yellower"), tr("redder")),
    (tr("greener"), tr("redder")),
    (tr("bluer"), tr("yellower")),
    (tr("bluer"), tr("greener")),
    (tr("redder"), tr("greener")),
)


@dataclass(frozen=True)
class Resemblance:
    """A pigment that a mix looks like.

    Attributes
    ----------
    code, name : str
    away : float, CIEDE2000, the mean of full wash and tint
    words : str, "a softer, grainier indigo"
    """

    code: str
    name: str
    away: float
    words: str


def resembles(
    full: Array, tint: Array, grain: float, pigments: Mapping[str, Pigment], count: int = 4
) -> list[Resemblance]:
    """The single pigments of the table that a mix resembles, the nearest first.

    Parameters
    ----------
    full, tint : (3,) float, CIELAB of the mix at a full wash and at a fifth
    grain : float, 0..1
    pigments : from code to Pigment
    count : int
    """
    entries = list(pigments.values())
    typical = np.array([[entry.masstone, entry.tint] for entry in entries])
    away = delta_e_00(typical, np.stack([full, tint])[None]).mean(axis=1)
    found = []
    for i in np.argsort(away, kind="stable")[:count]:
        entry = entries[int(i)]
        words = compared(np.asarray(full), np.array(entry.masstone), grain - entry.grain)
        what = f"{words} {entry.name}" if words else entry.name
        text = tr("an {what}", what=what) if what[0] in "aeiou" else tr("a {what}", what=what)
        found.append(Resemblance(entry.code, entry.name, float(away[i]), text))
    return found


def compared(mix: Array, other: Array, grain: float) -> str:
    """How one colour differs from another, in at most two words; empty where it hardly does.

    Parameters
    ----------
    mix, other : (3,) float, CIELAB
    grain : float, by how much more it granulates
    """
    chroma = float(chroma_of(mix) - chroma_of(other))
    lightness = float(mix[0] - other[0])
    turn = float((hue_of(mix) - hue_of(other) + 180.0) % 360.0 - 180.0)
    words = []
    if abs(chroma) > _SHOWS_CHROMA:
        words.append((abs(chroma) / _SHOWS_CHROMA, tr("softer") if chroma < 0 else tr("brighter")))
    if abs(lightness) > _SHOWS_L:
        words.append((abs(lightness) / _SHOWS_L, tr("paler") if lightness > 0 else tr("deeper")))
    if abs(turn) > _SHOWS_HUE and min(chroma_of(mix), chroma_of(other)) > 10.0:
        more, less = _LEANS[int(float(hue_of(other)) // 60.0) % 6]
        words.append((abs(turn) / _SHOWS_HUE, more if turn > 0 else less))
    if abs(grain) > _SHOWS_GRAIN:
        words.append((abs(grain) / _SHOWS_GRAIN, tr("grainier") if grain > 0 else tr("smoother")))
    words.sort(reverse=True)
    return ", ".join(word for _, word in words[:2])


@dataclass(frozen=True)
class Substitute:
    """A mix in the place of a paint.

    Attributes
    ----------
    recipe : Recipe, at a full wash
    away : (w,) float, CIEDE2000 at each of the washes that were compared
    full : (3,) float, its colour at the first of them
    """

    recipe: Recipe
    away: Array
    full: Array

    @property
    def mean(self) -> float:
        """The mean difference."""
        return float(self.away.mean())


def substitutes(
    lattice: Lattice,
    colours: Array,
    washes: Sequence[float],
    avoid: Iterable[str] = (),
    count: int = 5,
    keep: Iterable[str] = (),
    most_paints: int = 3,
) -> list[Substitute]:
    """Mixes that may stand for a paint over its whole range, from full to tint, the nearest of each set of paints.

    The mix is used at the strength at which it comes nearest over all washes together.

    Parameters
    ----------
    lattice : Lattice
    colours : (w, 3) float, what the paint looks like at the washes
    washes : sequence of w float, falling from 1
    avoid : names of paints that may not be in it: the paint itself, and ready-made mixtures
    count : int
    keep : names of paints that must be in it
    most_paints : int, 1..3

    Raises
    ------
    CulmoError
        when a name is unknown or nothing is left to mix from
    """
    left_out = find_places(lattice.names, avoid, "avoid")
    if len(left_out) >= len(lattice.names):
        raise CulmoError(tr("nothing is left to mix it from"))
    fits = fitting_groups(lattice, most_paints, find_places(lattice.names, keep, "keep"), left_out)
    wanted = near_from_lab(np.asarray(colours, dtype=float)).astype(np.float32)
    at = np.array([int(np.argmin(np.abs(np.log(np.array(WASHES) / wash)))) for wash in washes])
    best = np.full(len(lattice.parts), np.inf, dtype=np.float32)
    strength = np.zeros(len(lattice.parts), dtype=np.intp)
    for shift in range(4):  # the mix may be taken weaker
        weaker = at + shift
        if weaker.max() >= len(WASHES):
            break
        apart = np.sqrt(((lattice.near[:, weaker] - wanted) ** 2).sum(axis=-1)).mean(axis=1)
        better = apart < best
        best[better], strength[better] = apart[better], shift
    best[~fits[lattice.group_of]] = np.inf
    found: dict[int, Substitute] = {}
    for row in np.argsort(best, kind="stable"):
        group = int(lattice.group_of[row])
        if not np.isfinite(best[row]) or len(found) >= count:
            break
        if group not in found:
            colour = lattice.lab[row, at + strength[row]].astype(float)
            recipe = lattice.recipe(int(row), int(strength[row]))
            found[group] = Substitute(recipe, delta_e_00(colour, np.asarray(colours)), colour[0])
    return sorted(found.values(), key=lambda entry: entry.mean)
