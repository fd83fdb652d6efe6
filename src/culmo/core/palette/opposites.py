"""True opposites: for each paint the partner that really neutralises it, with the parts and how grey it gets."""

from dataclasses import dataclass
from math import gcd

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.mixer import MIDDLE_AT, PAIR_WASHES, Looker, PairTable, chroma_of, hue_apart, hue_of
from culmo.words import tr

MOST_PARTS = 12
_CLEAR = 14.0  # a paint of less chroma is a grey itself and neutralises nothing
_OPPOSITE_DEG = 100.0
_CLOSER_LOOK = 5


@dataclass(frozen=True)
class Opposite:
    """A partner that neutralises a paint.

    Attributes
    ----------
    paint, partner : str
    parts : (int, int), of the paint and of its partner
    recipe : Recipe, the grey at a full wash
    chroma : float, what is left of the chroma in a middle wash
    lab : (3,) float, that wash
    """

    paint: str
    partner: str
    parts: tuple[int, int]
    recipe: Recipe
    chroma: float
    lab: Array

    @property
    def words(self) -> str:
        """How grey it gets."""
        for limit, words in ((3.0, tr("a true grey")), (6.0, tr("nearly grey")), (12.0, tr("a muted tone"))):
            if self.chroma < limit:
                return words
        return tr("stays coloured")


def _whole_parts() -> list[tuple[int, int]]:
    return [
        (a, total - a)
        for total in range(2, MOST_PARTS + 1)
        for a in range(1, total)
        if gcd(a, total - a) == 1
    ]


def opposites(looker: Looker, table: PairTable, count: int = 3) -> dict[str, list[Opposite]]:
    """The partners of each paint, the greyest first; paints that are grey themselves have none.

    A partner stands across the hue circle (more than 100 degrees away) and has a chroma of its own: that a black
    greys everything is no news. What counts is the chroma left in a middle wash at the best whole parts.

    Parameters
    ----------
    looker : Looker
    table : PairTable of the same paints
    count : int, partners a paint
    """
    middle = table.alone[:, MIDDLE_AT]
    chroma, hue = chroma_of(middle), hue_of(middle)
    left = table.chroma[:, :, MIDDLE_AT].min(axis=1)
    ratios = _whole_parts()
    result: dict[str, list[Opposite]] = {}
    for i, name in enumerate(table.names):
        if chroma[i] < _CLEAR:
            continue
        apart = hue_apart(hue, hue[i])
        partners = [int(j) for j in np.flatnonzero((apart > _OPPOSITE_DEG) & (chroma >= _CLEAR)) if j != i]
        partners = [partners[int(k)] for k in np.argsort([float(left[table.place[i, j]]) for j in partners])]
        near = partners[:_CLOSER_LOOK]
        found = [_closest(looker, table.names, i, j, ratios) for j in near]
        result[name] = sorted(found, key=lambda entry: entry.chroma)[:count]
    return result


def _closest(
    looker: Looker, names: tuple[str, ...], i: int, j: int, ratios: list[tuple[int, int]]
) -> Opposite:
    shares = np.zeros((len(ratios), len(names)))
    shares[:, i] = [a / (a + b) for a, b in ratios]
    shares[:, j] = 1.0 - shares[:, i]
    lab = looker.lab(shares, (PAIR_WASHES[MIDDLE_AT],))[:, 0]
    chroma = chroma_of(lab)
    # of equally grey mixes the one in the smallest parts
    best = int(np.argmin(chroma + 0.05 * np.array([a + b for a, b in ratios])))
    a, b = ratios[best]
    order = [(names[i], a), (names[j], b)]
    order.sort(key=lambda entry: -entry[1])
    recipe = mix([name for name, _ in order], [float(part) for _, part in order])
    return Opposite(names[i], names[j], (a, b), recipe, float(chroma[best]), lab[best])
