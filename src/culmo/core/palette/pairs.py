"""Mixes that part or grain on the paper, that run from one paint to the other, that are clean, that want care."""

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, likely_textures, said_of
from culmo.core.paint.recipe import FULL, mix
from culmo.core.paint.texture import PARTS
from culmo.core.palette.idea import Idea, IdeaKind
from culmo.core.palette.mixer import (
    EVEN,
    FULL_AT,
    MIDDLE_AT,
    RATIOS,
    Mixer,
    PairTable,
    chroma_of,
    hue_apart,
    hue_of,
)
from culmo.core.palette.roles import MIXES, within
from culmo.core.palette.strength import LOGITS, middles
from culmo.words import tr

_OWN_HUE_DEG = 14.0
_SETTLES, _STAYS, _APART = 0.15, 0.1, 0.08
_VIVID = 30.0
_TAKES_OVER = 4.5  # five parts to one, as they are said
_TELLS = 12.0


def _of_pair(
    table: PairTable, kind: str, pair: int, ratio: int, wash: int, number: float, words: str
) -> Idea:
    return Idea(kind, table.recipe(pair, ratio, wash), table.lab[pair, ratio, wash], number, words)


def clean(table: PairTable, kind: str) -> list[Idea]:
    """The pairs that make a green, an orange or a violet in a middle wash, the most vivid first."""
    low, high = MIXES[kind]
    own = hue_of(table.alone[:, MIDDLE_AT])
    hues, chromas = table.hue[:, :, MIDDLE_AT], table.chroma[:, :, MIDDLE_AT]
    parents = np.minimum(
        hue_apart(hues, own[table.first][:, None]), hue_apart(hues, own[table.second][:, None])
    )
    inside = np.where(within(hues, low, high) & (parents >= _OWN_HUE_DEG), chromas, 0.0)
    best = inside.max(axis=1, initial=0.0)
    return [
        _of_pair(
            table, kind, int(p), int(inside[p].argmax()), MIDDLE_AT, float(best[p]),
            tr("chroma {best:.0f}", best=best[p]),
        )
        for p in np.argsort(-best, kind="stable") if best[p] > 0.0
    ]  # fmt: skip


def ranges(table: PairTable) -> list[Idea]:
    """All pairs by the way from one paint to the other, in CIEDE2000 at a full wash."""
    ends = table.alone[:, FULL_AT]
    path = np.concatenate(
        [ends[table.first][:, None], table.lab[:, :, FULL_AT], ends[table.second][:, None]], axis=1
    )
    length = delta_e_00(path[:, 1:], path[:, :-1]).sum(axis=1)
    return [
        _of_pair(
            table, IdeaKind.RANGE, int(p), EVEN, FULL_AT, float(length[p]),
            tr("{length:.0f} from end to end", length=length[p]),
        )
        for p in np.argsort(-length, kind="stable")
    ]  # fmt: skip


def _settled(estimate: Estimate, table: PairTable, grains: Grains, parts: bool) -> tuple[Array, Indices]:
    """How much each pair parts, or how far its light and dark lie apart, in CIELAB, at the best of some ratios."""
    tried = [place for place, (a, b) in enumerate(RATIOS) if max(a, b) <= 3 * min(a, b)]
    recipes = [table.recipe(p, place, MIDDLE_AT) for p in range(len(table.first)) for place in tried]
    seen = likely_textures(estimate, grains, recipes)[int(parts)].reshape(len(table.first), len(tried))
    best = seen.argmax(axis=1)
    return seen[np.arange(len(best)), best], np.array(tried)[best]


def _said(estimate: Estimate, table: PairTable, grains: Grains) -> Array:
    """How much each paint of a table granulates, (n,) float, 0..1."""
    return said_of(grains)[[estimate.index[name.casefold()] for name in table.names]]


def parting(estimate: Estimate, table: PairTable, grains: Grains) -> list[Idea]:
    """Pairs of which one settles in the hollows and the other stays between, by how far their colours come apart.

    Parameters
    ----------
    estimate : Estimate, which knows all paints of the table
    table : PairTable
    grains : Grains, how the paints settle
    """
    seen, ratio = _settled(estimate, table, grains, parts=True)
    grain = _said(estimate, table, grains)
    chroma = chroma_of(table.alone[:, MIDDLE_AT])
    one, two = grain[table.first], grain[table.second]
    fits = (np.maximum(one, two) >= _SETTLES) & (np.abs(one - two) >= _APART) & (seen >= PARTS)
    ideas = []
    for p in np.flatnonzero(fits)[np.argsort(-seen[fits], kind="stable")]:
        first, second = int(table.first[p]), int(table.second[p])
        settles, stays = (first, second) if one[p] >= two[p] else (second, first)
        names = {"settles": table.names[settles], "stays": table.names[stays]}
        if grain[stays] > _STAYS:
            words = tr("{settles} settles more than {stays}", **names)
        elif chroma[stays] >= _VIVID:
            words = tr("{settles} settles, {stays} shines between", **names)
        else:
            words = tr("{settles} settles, {stays} stays between", **names)
        ideas.append(
            _of_pair(table, IdeaKind.PARTING, int(p), int(ratio[p]), MIDDLE_AT, float(seen[p]), words)
        )
    return ideas


def grainy(estimate: Estimate, table: PairTable, grains: Grains) -> list[Idea]:
    """Pairs that both settle in the hollows, by how far light and dark lie apart; as in `parting`."""
    seen, ratio = _settled(estimate, table, grains, parts=False)
    grain = _said(estimate, table, grains)
    fits = np.minimum(grain[table.first], grain[table.second]) >= _SETTLES
    return [
        _of_pair(
            table, IdeaKind.GRAINY, int(p), int(ratio[p]), MIDDLE_AT, float(seen[p]),
            tr("both settle in the hollows of the paper"),
        )
        for p in np.flatnonzero(fits)[np.argsort(-seen[fits], kind="stable")]
    ]  # fmt: skip


def careful(mixer: Mixer, table: PairTable) -> list[Idea]:
    """Pairs of which one takes over: the parts that land in the middle are far from equal."""
    share = 1.0 / (1.0 + np.exp(-LOGITS))
    n, rows = len(table.names), np.arange(len(table.first))
    shares = np.zeros((len(rows), len(share), n))
    shares[rows, :, table.first] = share
    shares[rows, :, table.second] = 1.0 - share
    path = mixer.lab(shares.reshape(-1, n), (FULL,)).reshape(len(rows), len(share), 3)
    ends = table.alone[:, FULL_AT]
    logit, length = middles(np.stack([ends[table.second], ends[table.first]], axis=1), path)
    strength = np.where(length > _TELLS, np.exp(np.abs(logit)), 0.0)  # of two like paints neither takes over
    ideas = []
    for p in np.argsort(-strength, kind="stable"):
        if strength[p] < _TAKES_OVER:
            break
        first, second = table.names[int(table.first[p])], table.names[int(table.second[p])]
        strong, weak = (second, first) if logit[p] > 0 else (first, second)
        parts = max(2, round(float(strength[p])))
        ratio = 0 if logit[p] > 0 else len(RATIOS) - 1
        words = tr(
            "{strong} takes over: 1 part to {parts} of {weak} is the middle",
            strong=strong,
            parts=parts,
            weak=weak,
        )
        recipe = mix([weak, strong], [float(parts), 1.0])
        ideas.append(Idea(IdeaKind.CAREFUL, recipe, table.lab[p, ratio, FULL_AT], float(strength[p]), words))
    return ideas
