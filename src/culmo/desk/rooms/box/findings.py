"""What a box can and can not do, worked out in the background: roles, repeats, gaps, opposites."""

from collections.abc import Collection, Generator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.doubts import Caution, doubts
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import KEEPS, Label
from culmo.core.palette.alike import AlikePair, alike_pairs, nearest_pairs
from culmo.core.palette.judged import Verdict, judge
from culmo.core.palette.keep import Standing, which_to_keep
from culmo.core.palette.missing import (
    Addition,
    Gap,
    SetWorth,
    additions,
    best_colours,
    colours_of,
    fullness,
    gaps,
    reach_of,
    table_reach,
    weigh_set,
)
from culmo.core.palette.mixer import Mixer, PairTable, mixer_of, pair_table
from culmo.core.palette.opposites import Opposite, how_sure, opposites, with_two
from culmo.core.palette.roles import Candidate, Filled, fill_roles, find_roles, reference_scores
from culmo.data import pigment_table, typical_curves
from culmo.study.records import Paint


@dataclass(frozen=True)
class Repeat:
    """Two paints that are alike, and which of them to keep."""

    pair: AlikePair
    keep: str
    reason: str


@dataclass(frozen=True)
class Findings:
    """What was found of a box.

    Attributes
    ----------
    names : tuple of str, the paints that were looked at
    mixer : Mixer of them
    ranking : dict from role to its candidates
    filled : list of Filled, as found; the painter's own choices are laid over them when shown
    reference_roles : dict, the score of each role in a well-filled box
    repeats, nearest : lists of Repeat, those too alike and the nearest of the others
    gaps, additions : lists
    best, usual : (12, 3, 3) float, the most vivid colours of the box and of a well-filled one
    full : float, 0..1
    worth : SetWorth or None, of the paints that are considered
    verdict : Verdict on the set
    opposites : dict from paint to its partners
    """

    names: tuple[str, ...]
    mixer: Mixer
    ranking: dict[str, list[Candidate]]
    filled: list[Filled]
    reference_roles: dict[str, float]
    repeats: list[Repeat]
    nearest: list[Repeat]
    gaps: list[Gap]
    additions: list[Addition]
    best: Array
    usual: Array
    full: float
    worth: SetWorth | None
    verdict: Verdict
    opposites: dict[str, list[Opposite]]


def well_filled(mixer: Mixer) -> PairTable:
    """The mixes of a box that has every common, lightfast pigment, on the painter's own paper.

    Parameters
    ----------
    mixer : Mixer, whose paper and surface are taken
    """
    table, curves = pigment_table(), typical_curves()
    codes = [
        code
        for code, pigment in table.items()
        if pigment.sure == "good" and pigment.lightfastness in KEEPS and code in curves
    ]
    bare = mixer.only([])
    return pair_table(
        bare.with_typical(
            codes, np.array([curves[c][0] for c in codes]), np.array([curves[c][1] for c in codes])
        )
    )


def work_out(
    estimate: Estimate,
    inside: Sequence[Paint],
    wished: Sequence[Paint],
    owned: Sequence[str],
    labels: Mapping[str, Label],
    unread: Collection[str] = (),
) -> Generator[float, None, Findings]:
    """Everything that is said of a box; yields its progress.

    Parameters
    ----------
    estimate : Estimate
    inside : sequence of Paint, the box
    wished : sequence of Paint, those that are considered
    owned : sequence of str, all that the painter has: what they reach can be had too
    labels : mapping from folded name to what is known of the paint
    unread : folded names of paints of which nothing pure was read
    """
    yield 0.05
    everything = mixer_of(estimate)
    mixer = everything.only([paint.name for paint in inside])
    table = pair_table(mixer)
    yield 0.2
    usual = well_filled(mixer)
    colours = colours_of(usual)
    if owned:
        colours = np.vstack([colours, colours_of(pair_table(everything.only(owned)))])
    reference = reach_of(colours)
    reference_roles = reference_scores(usual)
    yield 0.4
    reach = table_reach(table)
    ranking = find_roles(table, unread)
    filled = fill_roles(ranking, reference_roles)
    shares = {entry.role.key: entry.share for entry in filled}
    found = gaps(reach, reference, shares)
    yield 0.5
    pigments, codes = pigment_table(), [paint.codes for paint in inside]
    more = additions(mixer, reach, reference, typical_curves(), pigments, codes)
    yield 0.8
    worth = None
    wider = everything.only([paint.name for paint in [*inside, *wished]])
    considered = range(len(mixer.names), len(wider.names))
    both = pair_table(wider) if len(considered) else table
    if len(considered):
        worth = weigh_set(both, range(len(mixer.names)), considered, reference)
    losses = _losses(table, reach, reference)
    standing = {
        paint.name: Standing(
            paint.name,
            paint.status,
            labels[paint.name.casefold()],
            losses.get(paint.name, 0.0),
        )
        for paint in [*inside, *wished]
    }
    repeats = [_repeat(pair, standing) for pair in alike_pairs(wider)]
    known = {(entry.pair.first, entry.pair.second) for entry in repeats}
    nearest = [
        _repeat(pair, standing) for pair in nearest_pairs(wider, 5) if (pair.first, pair.second) not in known
    ]
    yield 0.9
    verdict = judge(
        both,
        list(mixer.names),
        [paint.name for paint in wished],
        labels,
        _cautions(inside, labels),
        filled,
        reference,
        pigments,
        [_kept_first(entry, mixer.names) for entry in repeats],
    )
    return Findings(
        mixer.names,
        wider,
        ranking,
        filled,
        reference_roles,
        repeats,
        nearest[:3],
        found,
        more,
        best_colours(colours_of(table)) if len(mixer.names) else np.full((12, 3, 3), np.nan),
        best_colours(colours),
        fullness(reach, reference),
        worth,
        verdict,
        how_sure(estimate, with_two(mixer, table, opposites(mixer, table))),
    )


def _losses(table: PairTable, reach: Array, reference: Array) -> dict[str, float]:
    """The fullness that the box would lose without each paint."""
    whole = fullness(reach, reference)
    places = range(len(table.names))
    return {
        name: whole - fullness(table_reach(table, [p for p in places if p != i]), reference)
        for i, name in enumerate(table.names)
    }


def _repeat(pair: AlikePair, standing: Mapping[str, Standing]) -> Repeat:
    keep, reason = which_to_keep(standing[pair.first], standing[pair.second])
    return Repeat(pair, keep, reason)


def _kept_first(repeat: Repeat, inside: Sequence[str]) -> tuple[str, str]:
    """The two paints of a repeat, the one to keep first; where nothing speaks for either, the one that comes first."""
    first, second = repeat.pair.first, repeat.pair.second
    if repeat.keep:
        return (first, second) if repeat.keep == first else (second, first)
    earlier = first in inside and (second not in inside or inside.index(first) < inside.index(second))
    return (first, second) if earlier else (second, first)


def _cautions(paints: Sequence[Paint], labels: Mapping[str, Label]) -> dict[str, list[Caution]]:
    """What is to be doubted about each paint of a box, by its name."""
    codes = {paint.name: paint.codes for paint in paints}
    return {
        paint.name: doubts(
            paint.name,
            paint.codes,
            labels[paint.name.casefold()],
            {name: own for name, own in codes.items() if name != paint.name},
        )
        for paint in paints
    }
