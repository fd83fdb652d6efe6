"""Pairs by what they are good for, greys from warm to cool, and pairs to be careful with."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.mixer import (
    EVEN,
    FULL_AT,
    MIDDLE_AT,
    RATIOS,
    Looker,
    PairTable,
    chroma_of,
    hue_apart,
    hue_of,
)
from culmo.core.palette.opposites import Opposite, opposites
from culmo.core.palette.roles import MIXES, within
from culmo.core.palette.strength import LOGITS, middles
from culmo.words import mark, tr

_OWN_HUE_DEG = 14.0
_WARM_DEG = 60.0  # orange is the warm end of greys
_GRANULATES = 0.18
_PARTS_HUE_DEG = 50.0
_TAKES_OVER = 5.0
_GREY_LEFT = 6.0


@dataclass(frozen=True)
class PairUse:
    """A pair and what it is good for.

    Attributes
    ----------
    first, second : str
    recipe : Recipe that shows it
    lab : (3,) float
    number : float, what it is ranked by
    words : str
    """

    first: str
    second: str
    recipe: Recipe
    lab: Array
    number: float
    words: str


def _use(table: PairTable, pair: int, ratio: int, wash: int, number: float, words: str) -> PairUse:
    return PairUse(
        table.names[int(table.first[pair])],
        table.names[int(table.second[pair])],
        table.recipe(pair, ratio, wash),
        table.lab[pair, ratio, wash],
        number,
        words,
    )


def cleanest(table: PairTable, kind: str, count: int = 4) -> list[PairUse]:
    """The pairs that make the most vivid greens, oranges or violets in a middle wash.

    Parameters
    ----------
    table : PairTable
    kind : str, "green", "orange" or "violet"
    count : int
    """
    low, high = MIXES[kind]
    own = hue_of(table.alone[:, MIDDLE_AT])
    hues, chromas = table.hue[:, :, MIDDLE_AT], table.chroma[:, :, MIDDLE_AT]
    parents = np.minimum(
        hue_apart(hues, own[table.first][:, None]), hue_apart(hues, own[table.second][:, None])
    )
    inside = np.where(within(hues, low, high) & (parents >= _OWN_HUE_DEG), chromas, 0.0)
    best = inside.max(axis=1, initial=0.0)
    order = [int(p) for p in np.argsort(-best, kind="stable")[:count] if best[p] > 0.0]
    return [
        _use(
            table,
            p,
            int(inside[p].argmax()),
            MIDDLE_AT,
            float(best[p]),
            tr("chroma {best:.0f}", best=best[p]),
        )
        for p in order
    ]


def widest(table: PairTable, count: int = 4) -> list[PairUse]:
    """The pairs with the longest way from one paint to the other, measured in CIEDE2000 at a full wash.

    Parameters
    ----------
    table : PairTable
    count : int
    """
    ends = table.alone[:, FULL_AT]
    path = np.concatenate(
        [ends[table.first][:, None], table.lab[:, :, FULL_AT], ends[table.second][:, None]], axis=1
    )
    length = delta_e_00(path[:, 1:], path[:, :-1]).sum(axis=1)
    order = [int(p) for p in np.argsort(-length, kind="stable")[:count]]
    return [
        _use(table, p, EVEN, FULL_AT, float(length[p]), tr("{length:.0f} from end to end", length=length[p]))
        for p in order
    ]


def granulating(
    table: PairTable, grain: Sequence[float], count: int = 4
) -> tuple[list[PairUse], list[PairUse]]:
    """Pairs that granulate both, and pairs of which one settles and the other stays, so that the mix parts.

    Parameters
    ----------
    table : PairTable of n paints
    grain : n float, 0..1
    count : int

    Returns
    -------
    the granulating pairs, the separating pairs
    """
    g = np.asarray(grain, dtype=float)
    one, two = g[table.first], g[table.second]
    hue = hue_of(table.alone[:, MIDDLE_AT])
    apart = hue_apart(hue[table.first], hue[table.second])
    grey = chroma_of(table.alone[:, MIDDLE_AT]) < 12.0
    coloured = ~(grey[table.first] | grey[table.second])
    both = np.minimum(one, two)
    parting = np.abs(one - two) * np.where(coloured, np.minimum(apart, 120.0) / 120.0, 0.0)
    parting = np.where((np.maximum(one, two) >= _GRANULATES) & (apart >= _PARTS_HUE_DEG), parting, 0.0)
    grainy = [int(p) for p in np.argsort(-both, kind="stable")[:count] if both[p] >= _GRANULATES]
    separating = [int(p) for p in np.argsort(-parting, kind="stable")[:count] if parting[p] > 0.0]
    return (
        [
            _use(table, p, EVEN, MIDDLE_AT, float(both[p]), tr("both settle in the hollows of the paper"))
            for p in grainy
        ],
        [
            _use(table, p, EVEN, MIDDLE_AT, float(parting[p]), _parting_words(table, p, one[p] > two[p]))
            for p in separating
        ],
    )


def _parting_words(table: PairTable, pair: int, first_settles: bool) -> str:
    names = [table.names[int(table.first[pair])], table.names[int(table.second[pair])]]
    settles, stays = names if first_settles else names[::-1]
    return tr("{settles} settles, {stays} stays between", settles=settles, stays=stays)


def take_over(looker: Looker, table: PairTable, count: int = 5) -> list[PairUse]:
    """Pairs of which one takes over: the parts that land in the middle are far from equal.

    Parameters
    ----------
    looker : Looker
    table : PairTable of the same paints
    count : int
    """
    share = 1.0 / (1.0 + np.exp(-LOGITS))
    n, rows = len(table.names), np.arange(len(table.first))
    if n < 2:
        return []
    shares = np.zeros((len(rows), len(share), n))
    shares[rows, :, table.first] = share
    shares[rows, :, table.second] = 1.0 - share
    path = looker.lab(shares.reshape(-1, n), (1.0,)).reshape(len(rows), len(share), 3)
    ends = table.alone[:, FULL_AT]
    logit, length = middles(np.stack([ends[table.second], ends[table.first]], axis=1), path)
    strength = np.exp(np.abs(logit))
    tells = length > 12.0  # of two like paints neither takes over
    order = [int(p) for p in np.argsort(-np.where(tells, strength, 0.0), kind="stable")[:count]]
    return [
        _warning(table, p, float(logit[p]), float(strength[p])) for p in order if strength[p] >= _TAKES_OVER
    ]


def _warning(table: PairTable, pair: int, logit: float, strength: float) -> PairUse:
    first, second = table.names[int(table.first[pair])], table.names[int(table.second[pair])]
    strong, weak = (second, first) if logit > 0 else (first, second)
    parts = max(2, round(strength))
    ratio = 0 if logit > 0 else len(RATIOS) - 1
    recipe = mix([weak, strong], [float(parts), 1.0])
    return PairUse(
        weak, strong, recipe, table.lab[pair, ratio, FULL_AT], strength,
        tr("{strong} takes over: 1 part to {parts} of {weak} is the middle", strong=strong, parts=parts, weak=weak),
    )  # fmt: skip


def warmth(lab: Array) -> Array:
    """How warm a near-grey is: what it leans to orange, in units of chroma; below 0 it is cool.

    Parameters
    ----------
    lab : (..., 3) float
    """
    angle = np.radians(_WARM_DEG)
    return np.asarray(lab[..., 1] * np.cos(angle) + lab[..., 2] * np.sin(angle))


def neutral_pairs(looker: Looker, table: PairTable, limit: float = _GREY_LEFT) -> list[Opposite]:
    """Pairs that make a grey in a middle wash, from warm to cool, each pair once.

    Parameters
    ----------
    looker : Looker
    table : PairTable of the same paints
    limit : float, the chroma that may be left
    """
    found: dict[frozenset[str], Opposite] = {}
    for partners in opposites(looker, table).values():
        for entry in partners:
            key = frozenset((entry.paint, entry.partner))
            if entry.chroma < limit and (key not in found or entry.chroma < found[key].chroma):
                found[key] = entry
    return sorted(found.values(), key=lambda entry: -float(warmth(entry.lab)))


def deepest(table: PairTable, count: int = 4, colour_left: float = 10.0) -> list[PairUse]:
    """The deepest darks of two paints neither of which is a grey or black itself.

    Parameters
    ----------
    table : PairTable
    count : int
    colour_left : float, the chroma that a dark may have
    """
    grey = chroma_of(table.alone[:, MIDDLE_AT]) < 12.0
    free = ~(grey[table.first] | grey[table.second])
    fits = (table.chroma[:, :, FULL_AT] < colour_left) & free[:, None]
    lightness = np.where(fits, table.lab[:, :, FULL_AT, 0], np.inf)
    best = lightness.min(axis=1, initial=np.inf)
    order = [int(p) for p in np.argsort(best, kind="stable")[:count] if np.isfinite(best[p])]
    return [
        _use(table, p, int(lightness[p].argmin()), FULL_AT, float(best[p]), f"L {best[p]:.0f}") for p in order
    ]


def all_uses(
    looker: Looker, table: PairTable, grain: Mapping[str, float] | Callable[[str], float]
) -> list[tuple[str, list[PairUse]]]:
    """Everything that pairs are good for, under its title.

    Parameters
    ----------
    looker : Looker
    table : PairTable
    grain : from a paint's name to its grain
    """
    look = grain if callable(grain) else grain.__getitem__
    grainy, separating = granulating(table, [look(name) for name in table.names])
    return [
        (mark("Cleanest greens"), cleanest(table, "green")),
        (mark("Cleanest oranges"), cleanest(table, "orange")),
        (mark("Cleanest violets"), cleanest(table, "violet")),
        (mark("Deepest darks without black"), deepest(table)),
        (mark("Widest range"), widest(table)),
        (mark("Granulating"), grainy),
        (mark("Separating"), separating),
        (mark("Be careful with"), take_over(looker, table)),
    ]
