"""Fewer paints, as text and numbers: a row for each size, the palette at hand, what one more would add."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.chart.aids import Aids
from culmo.core.chart.order import plan_order
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Flags
from culmo.core.colour.srgb import hex_from_lab
from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.choose import Choice, WhatIf, loss_words, what_if
from culmo.core.palette.conditions import Conditions, rules_of
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.match import nearest_recipes
from culmo.core.palette.reach import CLASSES
from culmo.data import text_width_mm
from culmo.desk.rooms.weigh.mixes_model import Mixes, Reach
from culmo.study.palette_acts import KeptPalette, Wanted
from culmo.words import decimal, tr

_NUMBERS = (
    tr("no"),
    tr("one"),
    tr("two"),
    tr("three"),
    tr("four"),
    tr("five"),
    tr("six"),
    tr("seven"),
    tr("eight"),
    tr("nine"),
    tr("ten"),
    tr("eleven"),
    tr("twelve"),
    tr("thirteen"),
    tr("fourteen"),
    tr("fifteen"),
    tr("sixteen"),
    tr("seventeen"),
    tr("eighteen"),
    tr("nineteen"),
    tr("twenty"),
)
_STOPS_PAYING = 0.02


def number_word(count: int) -> str:
    """A small number in words."""
    return _NUMBERS[count] if count < len(_NUMBERS) else str(count)


@dataclass(frozen=True)
class PaletteRow:
    """One palette of the page.

    Attributes
    ----------
    size : int; 0 for the palette at hand
    paints : tuple of str
    share : float or None while not known
    number : str, "94 %", or "19 of 20"
    loses, sure : str
    problem : str, why there is none
    """

    size: int
    paints: tuple[str, ...] = ()
    share: float | None = None
    number: str = ""
    loses: str = ""
    sure: str = ""
    problem: str = ""


def share_text(reach: Reach, places: Sequence[int], share: float) -> str:
    """What is reached, as it is told at the bar."""
    if reach.wanted is not None:
        return tr("{n} of {n2}", n=int(reach.wanted.hit(places).sum()), n2=len(reach.wanted.table.lab))
    percent = 100.0 * share
    return decimal(f"{percent:.1f} %") if 97.0 <= percent < 99.95 else f"{percent:.0f} %"


def reached(reach: Reach, places: Sequence[int]) -> Flags:
    """Which of the colours that count are reached."""
    return reach.table.reached(reach.table.reach(places))


def loses(reach: Reach, places: Sequence[int], wanted: Sequence[Wanted]) -> str:
    """What is lost, in a line."""
    if reach.wanted is None:
        return loss_words(reach.table, reached(reach, places))
    missed = [
        colour.name or hex_from_lab(np.array(colour.lab))
        for colour, hit in zip(wanted, reach.wanted.hit(places), strict=True)
        if not hit
    ]
    if not missed:
        return tr("misses none")
    text = ", ".join(missed[:2])
    return tr("misses {what}", what=text) + (
        tr(" and {value} more", value=len(missed) - 2) if len(missed) > 2 else ""
    )


def row_of(
    size: int, choice: Choice, place: int, mixes: Mixes, reach: Reach, wanted: Sequence[Wanted]
) -> PaletteRow:
    """The row of a size, with one of its near ties."""
    places, worth = choice.palettes[place], choice.worth[place]
    names = tuple(mixes.names[i] for i in places)
    return PaletteRow(
        size, names, worth, share_text(reach, places, worth), loses(reach, places, wanted), choice.sure_words
    )


def own_row(places: Sequence[int], mixes: Mixes, reach: Reach, wanted: Sequence[Wanted]) -> PaletteRow:
    """The row of the palette at hand."""
    if not len(places):
        return PaletteRow(0, loses=tr("drop paints here from the rail, or start from one of these"))
    worth = reach.value.of(places)
    names = tuple(mixes.names[i] for i in places)
    return PaletteRow(0, names, worth, share_text(reach, places, worth), loses(reach, places, wanted))


def paying_words(choices: Mapping[int, Choice]) -> str:
    """Where more paints stop paying, in a sentence.

    Parameters
    ----------
    choices : from size to Choice
    """
    sizes = sorted(choices)
    steps = [
        (size, 100.0 * (choices[size].worth[0] - choices[size - 1].worth[0]))
        for size in sizes
        if size - 1 in choices
    ]
    if not steps:
        return ""
    enough = next((size for size, step in steps if step < 100.0 * _STOPS_PAYING), None)
    if enough is None:
        size, step = steps[-1]
        return tr(
            "Each more still pays: the {ordinal} adds {step:.0f} points.", ordinal=_ordinal(size), step=step
        )
    step = dict(steps)[enough]
    before = dict(steps).get(enough - 1)
    text = tr(
        "The {ordinal} adds {value}",
        ordinal=_ordinal(enough),
        value=tr("only {step:.1f} points", step=step) if step >= 0.05 else tr("nothing more"),
    )
    return (
        tr(
            "{what}, the {ordinal} added {before:.0f}.",
            what=text,
            ordinal=_ordinal(enough - 1),
            before=before,
        )
        if before is not None
        else f"{text}."
    )


def _ordinal(size: int) -> str:
    words = (
        "", tr("first"), tr("second"), tr("third"), tr("fourth"), tr("fifth"), tr("sixth"), tr("seventh"), tr("eighth")
    )  # fmt: skip
    return words[size] if size < len(words) else tr("{size}th", size=size)


def nature_words(labels: Sequence[Label]) -> str:
    """What the paints of a palette are, by their labels.

    Parameters
    ----------
    labels : sequence of Label, not empty
    """
    single = sum(len(label.codes) == 1 for label in labels)
    fast = sum(label.lightfastness in KEEPS for label in labels)
    everyone = len(labels)
    words = (
        tr("all lightfast")
        if fast == everyone
        else tr("{fast} of {everyone} lightfast", fast=fast, everyone=everyone)
    )
    pure = (
        tr("all single pigments")
        if single == everyone
        else tr("{single} of {everyone} single pigments", single=single, everyone=everyone)
    )
    return f"{words}, {pure}"


@dataclass(frozen=True)
class SetChange:
    """A change of the palette at hand.

    Attributes
    ----------
    out, into : str; one may be empty
    number : str, what it changes
    """

    out: str
    into: str
    number: str


def _points(change: float) -> str:
    text = decimal(f"{100.0 * abs(change):.1f}")
    return f"+ {text}" if change > 0.0005 else f"− {text}" if change < -0.0005 else "0"


def changes_of(
    places: Sequence[int], mixes: Mixes, reach: Reach, conditions: Conditions
) -> dict[str, list[SetChange]]:
    """Swaps that cost least, paints that add most, and what dropping each would cost; none breaks a condition.

    Parameters
    ----------
    places : the palette
    mixes : Mixes
    reach : Reach
    conditions : Conditions
    """
    names, rules = mixes.names, rules_of(mixes.kinds, conditions)
    change: WhatIf = what_if(reach.value, places)
    more = [i for i in range(len(names)) if i not in places and rules.lets(places, into=i)]
    adds = sorted(more, key=lambda i: -change.add[i])[:4]
    less = [i for i, place in enumerate(places) if rules.lets(places, out=place)] if len(places) > 1 else []
    drops = sorted(less, key=lambda i: -change.drop[i])[:4]
    return {
        "swap": [
            SetChange(names[s.out], names[s.into], _points(s.change)) for s in change.best_swaps(4, rules)
        ],
        "add": [SetChange("", names[i], _points(float(change.add[i]))) for i in adds],
        "drop": [SetChange(names[places[i]], "", _points(float(change.drop[i]))) for i in drops],
    }


def compared(kept: KeptPalette, places: Sequence[int], reach: Reach) -> str:
    """How a kept palette does now, against what it did when it was kept."""
    if not len(places):
        return tr("none of its paints is in the box in use")
    missing = len(kept.paints) - len(places)
    now = reach.value.of(places)
    text = tr("reaches {share_text}", share_text=share_text(reach, places, now))
    before = kept.reach.get("share")
    if isinstance(before, int | float) and kept.reach.get("list", "") == reach.list:
        step = 100.0 * (now - float(before))
        text += (
            ", " + tr("as when it was kept")
            if abs(step) < 0.5
            else ", "
            + tr(
                "{abs:.0f} points {value} than then",
                abs=abs(step),
                value=tr("more") if step > 0 else tr("less"),
            )
        )
    if missing:
        text += "; " + tr("{missing} of its paints not in the box in use", missing=missing)
    return text


def practice_sheet(lattice: Lattice, paints: Sequence[str], wanted: Sequence[Wanted], title: str) -> Sheet:
    """A free page of the nearest mix of each wanted colour from a palette, to practise on.

    Parameters
    ----------
    lattice : Lattice
    paints : sequence of str, the palette
    wanted : sequence of Wanted, not empty
    title : str

    Raises
    ------
    CulmoError
        when the mixes do not fit on the paper
    """
    avoid = [name for name in lattice.names if name not in paints]
    recipes: list[Recipe] = []
    for colour in wanted:
        recipe = nearest_recipes(lattice, np.array(colour.lab), 3, 1, (), avoid)[0].recipe
        if recipe not in recipes:
            recipes.append(recipe)
    plan = plan_of("free", {"recipes": tuple(recipes), "paper": "A4", "title": title, "gap_mm": 4.0})
    return plan_order(lay_out(plan, Aids(text_width_mm))[0])


def tie_words(choice: Choice, tie: int) -> str:
    """How far one of the near ties is behind the best."""
    place = min(tie, len(choice.palettes) - 1)
    behind = 100.0 * (choice.worth[0] - choice.worth[place])
    return tr("the best") if behind < 0.005 else tr("{behind:.2f} behind", behind=behind)


def proven_words(choice: Choice) -> str:
    """Whether the best is proven to be so."""
    if not choice.proven:
        return tr("\nTime ran out: {sure_words}.", sure_words=choice.sure_words)
    whole = "" if choice.whole else "; " + tr("there are more near ties than are listed")
    return tr(
        "\nProven: no {number_word} reach more{whole}.", number_word=number_word(choice.size), whole=whole
    )


def worst_words(reach: Reach, places: Sequence[int]) -> str:
    """The hues of which least is reached."""
    table = reach.table
    shares = [(float(s), CLASSES[i]) for i, s in enumerate(table.shares(places)) if table.counts[i] >= 8]
    shares.sort()
    hues = ", ".join(f"{word} {100 * share:.0f}\u00a0%" for share, word in shares[:3])
    return tr("Least of {hues}", hues=hues)
