"""What a box can not do: hue by hue and light by dark, from its mixes; and which paint would add most.

The measure is fullness. The hue circle is cut into twelve, lightness into light, middle and dark. In each of the 36
places the box reaches some chroma, and a well-filled box of common, lightfast pigments reaches some chroma; the
share, at most 1, averaged over the places, is the fullness. It says what kinds of colour there are, not how many.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.pigments import Pigment, codes_in
from culmo.core.palette.mixer import PAIR_WASHES, RATIOS, Mixer, PairTable, chroma_of, hue_of
from culmo.core.threads import one_thread
from culmo.words import mark, tr

SECTORS = (
    mark("reds"),
    mark("scarlets"),
    mark("oranges"),
    mark("yellows"),
    mark("yellow-greens"),
    mark("greens"),
    mark("sea greens"),
    mark("turquoises"),
    mark("blues"),
    mark("violet-blues"),
    mark("violets"),
    mark("roses"),
)
_FIRST_DEG = 5.0  # where the reds begin
LIGHTS_WORDS = (tr("light"), tr("middle"), tr("dark"))
_LIGHT_L, _DARK_L = 72.0, 42.0
_GAP = 0.62
_LEAST_REFERENCE = 12.0
# each sector of clear mixes leans on these roles
_LEANS_ON = {
    "scarlets": ("warm red",), "oranges": ("warm yellow", "warm red"), "yellows": ("warm yellow", "cool yellow"),
    "yellow-greens": ("cool yellow",), "greens": ("cool yellow", "cool blue"), "sea greens": ("cool blue",),
    "turquoises": ("cool blue",), "blues": ("cool blue",), "violet-blues": ("warm blue",),
    "violets": ("cool red", "warm blue"), "roses": ("cool red",), "reds": ("warm red", "cool red"),
}  # fmt: skip


def sector_of(lab: Array) -> Indices:
    """The place in SECTORS of each colour, (m,) int.

    Parameters
    ----------
    lab : (m, 3) float
    """
    return np.asarray(((hue_of(lab) - _FIRST_DEG) % 360.0 // 30.0).astype(int))


def reach_of(lab: Array) -> Array:
    """The greatest chroma in each sector and each band of lightness, (12, 3) float.

    Parameters
    ----------
    lab : (m, 3) float
    """
    sector = sector_of(lab)
    band = np.where(lab[:, 0] >= _LIGHT_L, 0, np.where(lab[:, 0] < _DARK_L, 2, 1))
    result = np.zeros(36)
    np.maximum.at(result, sector * 3 + band, chroma_of(lab))
    return result.reshape(12, 3)


def best_colours(lab: Array) -> Array:
    """The most vivid colour in each sector and band, (12, 3, 3) float; not a number where there is none.

    Parameters
    ----------
    lab : (m, 3) float
    """
    sector = sector_of(lab)
    band = np.where(lab[:, 0] >= _LIGHT_L, 0, np.where(lab[:, 0] < _DARK_L, 2, 1))
    result = np.full((36, 3), np.nan)
    order = np.argsort(chroma_of(lab), kind="stable")
    result[(sector * 3 + band)[order]] = lab[order]  # the last, most vivid one stays
    return result.reshape(12, 3, 3)


def colours_of(table: PairTable) -> Array:
    """All colours of a table, pairs and paints alone, (m, 3) float."""
    return np.concatenate([table.lab.reshape(-1, 3), table.alone.reshape(-1, 3)])


def table_reach(table: PairTable, places: Sequence[int] | None = None) -> Array:
    """The reach of a table's paints alone and in pairs, or of some of them only, (12, 3) float.

    Parameters
    ----------
    table : PairTable
    places : sequence of int, the paints that count; all where None
    """
    if places is None:
        return reach_of(colours_of(table))
    kept = np.zeros(len(table.names), dtype=bool)
    kept[list(places)] = True
    pairs = table.lab[kept[table.first] & kept[table.second]].reshape(-1, 3)
    return reach_of(np.concatenate([pairs, table.alone[kept].reshape(-1, 3)]))


def fullness(reach: Array, reference: Array) -> float:
    """The share of a well-filled box's reach, 0..1.

    Parameters
    ----------
    reach, reference : (12, 3) float
    """
    counted = reference > _LEAST_REFERENCE
    return float(np.minimum(reach[counted] / reference[counted], 1.0).mean()) if counted.any() else 1.0


@dataclass(frozen=True)
class Gap:
    """A kind of colour that the box lacks.

    Attributes
    ----------
    sector : int, place in SECTORS
    band : int, 0 light, 1 middle, 2 dark
    chroma, usual : float, what the box and what a well-filled one reaches
    leans_on : str, the role that is to blame, or empty
    """

    sector: int
    band: int
    chroma: float
    usual: float
    leans_on: str = ""

    @property
    def words(self) -> str:
        """As a painter would say it."""
        hue = tr(SECTORS[self.sector])
        if self.chroma < 0.2 * self.usual:
            return (
                tr("no {LIGHTS_WORDS} {hue}", LIGHTS_WORDS=LIGHTS_WORDS[self.band], hue=hue)
                if self.band != 1
                else tr("no {hue}", hue=hue)
            )
        kind = "" if self.band == 1 else f"{LIGHTS_WORDS[self.band]} "
        return tr("your {kind}{hue} stay dull", kind=kind, hue=hue)

    @property
    def numbers(self) -> str:
        """What is reached and what could be."""
        reached = (
            tr("chroma {chroma:.0f} at most", chroma=self.chroma) if self.chroma > 0.0 else tr("nothing")
        )
        return tr("{reached}, where {usual:.0f} can be had", reached=reached, usual=self.usual)

    @property
    def sentence(self) -> str:
        """The words with the reason and the numbers."""
        reason = tr("no good {leans_on}", leans_on=tr(self.leans_on)) + ": " if self.leans_on else ""
        return f"{reason}{self.words} ({self.numbers})"


def gaps(reach: Array, reference: Array, shares: Mapping[str, float] | None = None) -> list[Gap]:
    """The places where a box falls short, the widest gap first; one line a sector.

    Parameters
    ----------
    reach, reference : (12, 3) float
    shares : from role to how well it is filled, 0..1, to name the role that is to blame
    """
    found = []
    for sector in range(12):
        ratio = np.where(
            reference[sector] > _LEAST_REFERENCE, reach[sector] / np.maximum(reference[sector], 1.0), 1.0
        )
        short = [
            (float((1.0 - ratio[band]) * reference[sector, band]), band)
            for band in range(3)
            if ratio[band] < _GAP
        ]
        if short:
            _, band = max(short)
            roles = sorted((shares or {}).get(role, 1.0) for role in _LEANS_ON[SECTORS[sector]])
            worst = min(_LEANS_ON[SECTORS[sector]], key=lambda role: (shares or {}).get(role, 1.0))
            blame = worst if roles and roles[0] < 0.8 and shares else ""
            found.append(Gap(sector, band, float(reach[sector, band]), float(reference[sector, band]), blame))
    return sorted(found, key=lambda gap: gap.chroma - gap.usual)


@dataclass(frozen=True)
class Addition:
    """A kind of paint that would fill gaps.

    Attributes
    ----------
    code, words : str
    gain : float, how much fullness it adds, 0..1
    sectors : tuple of str, where most
    """

    code: str
    words: str
    gain: float
    sectors: tuple[str, ...]


@one_thread
def with_one_more(mixer: Mixer, K: Array, S: Array) -> Array:
    """The mixes of one new paint with every paint of a box, (m, 3) float.

    Parameters
    ----------
    mixer : Mixer of n paints
    K, S : (36,) float, of the new paint
    """
    wider = mixer.with_typical(["new"], K[None, :], S[None, :])
    n = len(mixer.names)
    one = np.array([a / (a + b) for a, b in RATIOS])
    shares = np.zeros((n, len(one), n + 1))
    shares[np.arange(n), :, np.arange(n)] = one
    shares[:, :, n] = 1.0 - one
    alone = np.zeros((1, n + 1))
    alone[0, n] = 1.0
    return wider.lab(np.vstack([shares.reshape(-1, n + 1), alone]), PAIR_WASHES).reshape(-1, 3)


def additions(
    mixer: Mixer,
    reach: Array,
    reference: Array,
    candidates: Mapping[str, tuple[Array, Array]],
    pigments: Mapping[str, Pigment],
    owned_codes: Sequence[str],
    count: int = 5,
) -> list[Addition]:
    """Which kinds of paint would add most, from the mixes that each would make with the box.

    Fugitive pigments are not proposed, nor pigments that the box has, nor rarities of which little is known.

    Parameters
    ----------
    mixer : Mixer of the box
    reach, reference : (12, 3) float
    candidates : from code to typical (K, S)
    pigments : from code to Pigment
    owned_codes : sequence of str, the codes on the labels of the box
    count : int
    """
    owned = {code for text in owned_codes for code in codes_in(text)}
    before = fullness(reach, reference)
    found = []
    for code, (K, S) in candidates.items():
        if (
            code in owned
            or pigments[code].lightfastness in ("poor", "fair")
            or pigments[code].sure == "rough"
        ):
            continue
        wider = np.maximum(reach, reach_of(with_one_more(mixer, K, S)))
        gain = fullness(wider, reference) - before
        if gain > 0.002:
            better = ((wider - reach) / np.maximum(reference, _LEAST_REFERENCE)).clip(0.0, 1.0).sum(axis=1)
            places = [int(i) for i in np.argsort(-better)[:3] if better[i] > 0.12]
            found.append(Addition(code, pigments[code].name, gain, tuple(tr(SECTORS[i]) for i in places)))
    return _different(sorted(found, key=lambda entry: -entry.gain), pigments)[:count]


def _different(ranked: list[Addition], pigments: Mapping[str, Pigment]) -> list[Addition]:
    """One of each kind: of two pigments of one family with nearly one tint the better is enough."""
    kept: list[Addition] = []
    for entry in ranked:
        own = pigments[entry.code]
        like = any(
            pigments[other.code].family == own.family
            and float(np.linalg.norm(np.array(pigments[other.code].tint) - np.array(own.tint))) < 14.0
            for other in kept
        )
        if not like:
            kept.append(entry)
    return kept


@dataclass(frozen=True)
class SetWorth:
    """What a set that is considered would be worth.

    Attributes
    ----------
    mine, together, alone : float, fullness of what one has, of both, of the set without the rest
    gains : tuple of str, where it would add most
    """

    mine: float
    together: float
    alone: float
    gains: tuple[str, ...]


def weigh_set(table: PairTable, mine: Sequence[int], wished: Sequence[int], reference: Array) -> SetWorth:
    """What a set would add, and what could be done with it alone.

    Parameters
    ----------
    table : PairTable of all of them
    mine, wished : sequences of int, places in the table
    reference : (12, 3) float
    """
    before, alone = table_reach(table, mine), table_reach(table, wished)
    both = table_reach(table, [*mine, *wished])
    better = ((both - before) / np.maximum(reference, _LEAST_REFERENCE)).clip(0.0, 1.0).sum(axis=1)
    places = [int(i) for i in np.argsort(-better)[:3] if better[i] > 0.15]
    return SetWorth(
        fullness(before, reference),
        fullness(both, reference),
        fullness(alone, reference),
        tuple(tr(SECTORS[i]) for i in places),
    )
