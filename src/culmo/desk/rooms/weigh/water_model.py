"""Weigh room, Water page: what drying did, row by row, and what to do about washes that come out otherwise than planned."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import IntEnum

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.names import apart_words
from culmo.core.paint.depth import Reached, WashDepth, strength_words
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import dilution_of, on_papers
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix, spoken_recipe, water_words
from culmo.study.dried import DriedMix
from culmo.words import capital, tr, trn


class WashesShown(IntEnum):
    """Which washes are shown."""

    EVERY = 0
    PAINTS_ONLY = 1
    MIXES_ONLY = 2


SHOWN = (tr("All of them"), tr("Paints"), tr("Mixes"))


class WashOrder(IntEnum):
    """What comes first."""

    BY_CHANGE = 0
    BY_LIGHTNESS = 1
    BY_CHROMA = 2
    BY_HUE = 3
    BY_NAME = 4


ORDERS = (tr("by change"), tr("lighter first"), tr("duller first"), tr("by hue"), tr("by name"))
_CLASS_WORDS: dict[str, str] = {
    WashDepth.FULL: tr("Your full washes"), WashDepth.MIDDLE: tr("Your middle washes"), WashDepth.TINT: tr("Your tints"),
}  # fmt: skip


@dataclass(frozen=True)
class DriedRow:
    """A row of the list.

    Attributes
    ----------
    dried : DriedMix
    title, words : str
    """

    dried: DriedMix
    title: str
    words: str


_VARYING: dict[str, Callable[[str], str]] = {
    "full": lambda share: tr("full washes by about {share}", share=share),
    "middle": lambda share: tr("middle washes by about {share}", share=share),
    "tint": lambda share: tr("tints by about {share}", share=share),
    "parts": lambda share: tr("parts by about {share}", share=share),
}


def hand_lines(estimate: Estimate, papers: Sequence[str] = ()) -> list[str]:
    """How this painter's hand varies and dilutes, and what papers do to washes, in sentences.

    Parameters
    ----------
    estimate : Estimate
    papers : sequence of str, the painter's papers, as they are named
    """
    hand = estimate.hand
    phrases = [
        words(strength_words(getattr(hand, name)))
        for name, words in _VARYING.items()
        if hand.is_learned(name)
    ]
    if not phrases:
        return [tr("By how much your washes and parts vary is told once eight mixes were read.")]
    lines = [tr("How far your hand varies: {what}.", what=", ".join(phrases))]
    water = dilution_of(estimate)
    film = strength_words(water.film_of(TINT))
    if water.shows < 0:
        lines.append(
            tr(
                "Water thins your paints less than by the measure: a fifth of the paint comes out like {film}.",
                film=film,
            )
        )
    elif water.shows > 0:
        lines.append(
            tr(
                "Water thins your paints more than by the measure: a fifth of the paint comes out like {film}.",
                film=film,
            )
        )
    return lines + paper_lines(estimate, papers)


def paper_lines(estimate: Estimate, papers: Sequence[str]) -> list[str]:
    """What papers do to washes beside the usual one, in sentences.

    Parameters
    ----------
    estimate : Estimate
    papers : sequence of str, the painter's papers, as they are named
    """
    named, lines = {name.casefold(): name for name in papers}, []
    for own in on_papers(estimate):
        if not own.shows:
            continue
        name, share = named.get(own.name, own.name), abs(1.0 - own.strength)
        lines.append(
            tr(
                "On {paper} the same wash comes out {share:.0%} paler than on your usual paper.",
                paper=name,
                share=share,
            )
            if own.strength < 1.0
            else tr(
                "On {paper} the same wash comes out {share:.0%} stronger than on your usual paper.",
                paper=name,
                share=share,
            )
        )
    return lines


def dried_rows(found: Sequence[DriedMix], shown: WashesShown, order: WashOrder) -> list[DriedRow]:
    """The rows of the list.

    Parameters
    ----------
    found : sequence of DriedMix
    shown : WashesShown
    order : WashOrder
    """
    rows = []
    for one in found:
        if shown != WashesShown.EVERY and one.recipe.is_pure != (shown == WashesShown.PAINTS_ONLY):
            continue
        rows.append(DriedRow(one, capital(spoken_recipe(one.recipe)), _dried_words(one)))
    keys = {
        WashOrder.BY_CHANGE: lambda row: -row.dried.shift.away,
        WashOrder.BY_LIGHTNESS: lambda row: -row.dried.shift.lightness,
        WashOrder.BY_CHROMA: lambda row: row.dried.shift.chroma,
        WashOrder.BY_HUE: lambda row: float(lch_from_lab(row.dried.dry)[2]),
        WashOrder.BY_NAME: lambda row: row.title.casefold(),
    }
    return sorted(rows, key=keys[order])


def _dried_words(one: DriedMix) -> str:
    if one.by_mixes:
        basis = trn("from {n} mix", "from {n} mixes", one.by_mixes)
    else:
        basis = trn("{n} cell", "{n} cells", one.shift.count)
    return tr("{change}; {basis}", change=one.shift.how or tr("hardly changes"), basis=basis)


def apart_line(one: DriedMix) -> str:
    """Wet against dry, to the eye."""
    return tr("Wet against dry: {apart}", apart=apart_words(one.shift.away))


# ---- the depth of washes


def reached_title(reached: Reached) -> str:
    """What a class of washes comes out as."""
    what = _CLASS_WORDS[reached.kind]
    planned, came = strength_words(reached.planned), strength_words(reached.reached)
    if not reached.sure or planned == came:
        return tr("{what} come out as planned: {planned}", what=what, planned=planned)
    return tr("{what} come out as {came} instead of {planned}", what=what, came=came, planned=planned)


def reached_advice(reached: Reached) -> str:
    """What to do about it; that it is well where it is."""
    count = trn("{n} cell tells", "{n} cells tell", reached.count)
    if not reached.sure:
        return tr("Nothing to change. {count}.", count=count)
    deeper = reached.reached > reached.planned
    if reached.kind == WashDepth.FULL:
        act = (
            tr(
                "Deeper than your usual full wash: a puddle that is thinner by a little, or fewer strokes over it."
            )
            if deeper
            else tr(
                "Thinner than your usual full wash: mix the puddle thicker, and stir it before each load."
            )
        )
        return tr("{act} {count}.", act=act, count=count)
    now, then = water_words(reached.planned), water_words(reached.wanted)
    if now == then:
        act = tr("Take a little more water.") if deeper else tr("Take a little less water.")
    elif not then:
        act = tr("Take hardly any water: where you mix {now}, the puddle as it is.", now=now)
    elif deeper:
        act = tr("Take more water: {then} where you mix {now} now.", then=then, now=now)
    else:
        act = tr("Take less water: {then} where you mix {now} now.", then=then, now=now)
    return tr("{act} {count}.", act=act, count=count)


def shown_washes(name: str, reached: Reached) -> tuple[Recipe, Recipe]:
    """A paint in the wash that was planned, and in the one that came out."""
    return mix([name], wash=min(reached.planned, FULL)), mix([name], wash=min(reached.reached, FULL))
