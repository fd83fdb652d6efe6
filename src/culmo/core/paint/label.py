"""What the codes on a label say: the pigment spelt out, its lightfastness for a wall and a sketchbook, its cautions."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from math import isnan, nan

from culmo.core.paint.pigments import COLOURS, GRAINS, STRENGTHS, TRANSPARENCIES, Pigment, codes_in
from culmo.words import mark, tr

LIGHTFASTNESS = (mark("excellent"), mark("good"), mark("fair"), mark("poor"))
_CLEARLY = 0.25  # of grain, from which it is seen in a wash
KEEPS = LIGHTFASTNESS[:2]  # the classes that are called lightfast
_STAINING = ("low", "medium", "high")
STAINING_WORDS = {"low": tr("non-staining"), "medium": tr("stains a little"), "high": tr("staining")}
GRAIN_WORDS = {
    "no": tr("smooth"),
    "slight": tr("granulates a little"),
    "medium": tr("granulates"),
    "high": tr("granulates strongly"),
}
_GRAIN_LIMITS = ((0.06, "no"), (0.15, "slight"), (0.29, "medium"))
_USUAL_GRAIN = 0.05  # of a paint of which nothing is known
_SURE_WORDS = {"fair": tr("known fairly well"), "rough": tr("known roughly")}
_ON_A_WALL = {
    "excellent": tr("keeps on a wall and in a sketchbook"),
    "good": tr("keeps on a wall away from full sun, and in a sketchbook"),
    "fair": tr("changes on a wall over the years; keeps in a closed sketchbook"),
    "poor": tr(
        "fades on a wall, often within months; for a sketchbook that is kept shut, or for printing from"
    ),
}
_HARM = {
    mark("cadmium"): tr("harmful if swallowed or breathed in"),
    mark("cobalt"): tr("harmful if swallowed or breathed in; may cause skin allergy"),
    mark("nickel"): tr("harmful if breathed in; may cause skin allergy"),
    mark("lead"): tr("poisonous, and stays in the body; not for children or in pregnancy"),
    mark("mercury"): tr("poisonous, and stays in the body; not for children or in pregnancy"),
    mark("chromium"): tr("harmful if swallowed or breathed in"),
    mark("antimony"): tr("harmful if swallowed or breathed in"),
    mark("barium"): tr("harmful if swallowed"),
    mark("manganese"): tr("harmful if breathed in"),
    mark("arsenic"): tr("poisonous"),
    mark("copper"): tr("harmful if swallowed"),
}  # fmt: skip
_HEAVY = {"cadmium", "cobalt", "nickel", "lead", "mercury", "chromium", "antimony", "barium", "arsenic"}
# of a paint of which nothing at all is known
NEEDS = tr("type the pigment codes of its label, or paint and read its card")
FIRST = tr("The maker's label and safety data sheet and your local rules come first.")


def spell_out(code: str, table: Mapping[str, Pigment]) -> str:
    """A code in words.

    Parameters
    ----------
    code : str, a Colour Index name
    table : from Colour Index name to Pigment

    Examples
    --------
    >>> spell_out("PB29", {})
    'PB29: pigment, blue, number 29'
    """
    found = re.match(r"([A-Za-z]+)(\d.*)", code)
    if not found:
        return code
    head, number = found[1], found[2]
    colour = tr(COLOURS.get(head, "of an unknown group"))
    kind = tr("natural dye") if head.startswith("N") else tr("pigment")
    variant = ""
    if ":" in number:
        number, form = number.split(":", 1)
        variant = ", " + tr("form {form}", form=form)
    known = table.get(code)
    name = f"; {known.name}" if known is not None else ""
    return tr(
        "{code}: {kind}, {colour}, number {number}{variant}{name}",
        code=code,
        kind=kind,
        colour=colour,
        number=number,
        variant=variant,
        name=name,
    )


class LabelSource(StrEnum):
    """Where it is known from, the surest first."""

    OWN = "own test"
    LABEL = "label"
    TABLE = "table"
    UNKNOWN = ""


_SOURCE_WORDS = {
    LabelSource.OWN: tr("your own test"),
    LabelSource.LABEL: tr("the label"),
    LabelSource.TABLE: tr("typical of its pigments"),
    LabelSource.UNKNOWN: tr("not known"),
}
# what is told of every paint, in this order
PROPERTIES = ("transparency", "staining", "granulation", "lightfastness", "strength", "drying")
_CLAIMED = PROPERTIES[:4]  # what labels claim and the table tells of pigments
DRYING_WORDS = {
    "hardly": tr("hardly changes"),
    "lighter": tr("dries lighter"),
    "darker": tr("dries darker"),
    "duller": tr("dries duller"),
    "cleaner": tr("dries cleaner"),
    "hue": tr("dries to another hue"),
}


@dataclass(frozen=True)
class Fact:
    """A property of a paint: one word, and where it is known from.

    Attributes
    ----------
    word : str, one of the table's words; empty where nothing is known
    source : LabelSource
    claimed : str, what the label or the table says; empty where they say nothing
    claimed_by : LabelSource, LABEL or TABLE; UNKNOWN where nothing is claimed
    number : float, what the word rests on; not a number where it rests on none
    doubt : str, how sure it is, in words; empty where there is no more to say than its source
    """

    word: str = ""
    source: LabelSource = LabelSource.UNKNOWN
    claimed: str = ""
    claimed_by: LabelSource = LabelSource.UNKNOWN
    number: float = nan
    doubt: str = ""

    @property
    def contradicted(self) -> bool:
        """Whether the painter's own test says otherwise than the label; the table tells only what is usual."""
        return (
            self.source is LabelSource.OWN
            and self.claimed_by is LabelSource.LABEL
            and self.claimed != self.word
        )

    @property
    def basis(self) -> str:
        """Where it is known from, and how sure it is, in words."""
        words = _SOURCE_WORDS[self.source]
        return f"{words}, {self.doubt}" if self.doubt else words


@dataclass(frozen=True)
class Label:
    """What is known of a paint with these codes: by the painter's own tests, by its label, by the table of pigments.

    Attributes
    ----------
    codes : tuple of str, all of them, known or not
    pigments : tuple of Pigment, those that the table has
    harmful : tuple of str, elements that call for care
    facts : mapping from each of PROPERTIES to Fact
    """

    codes: tuple[str, ...]
    pigments: tuple[Pigment, ...]
    harmful: tuple[str, ...]
    facts: Mapping[str, Fact] = field(default_factory=dict)

    @property
    def transparency(self) -> str:
        """The word; empty where nothing is known."""
        return self.facts["transparency"].word

    @property
    def staining(self) -> str:
        """The word; empty where nothing is known."""
        return self.facts["staining"].word

    @property
    def granulation(self) -> str:
        """The word; empty where nothing is known."""
        return self.facts["granulation"].word

    @property
    def lightfastness(self) -> str:
        """The word; empty where nothing is known."""
        return self.facts["lightfastness"].word

    @property
    def grain(self) -> float:
        """How much it granulates, 0..1: what the painter noted, else what is usual for the word."""
        fact = self.facts["granulation"]
        return GRAINS.get(fact.word, _USUAL_GRAIN) if isnan(fact.number) else fact.number

    @property
    def single(self) -> bool:
        """Whether its label names one pigment and no more."""
        return len(self.codes) == 1

    @property
    def count_words(self) -> str:
        """One pigment or several."""
        count = len(self.codes)
        if not count:
            return tr("no pigment named")
        return tr("single pigment") if count == 1 else tr("a mixture of {count} pigments", count=count)

    @property
    def lightfast_words(self) -> str:
        """The class and what it means for a wall and for a sketchbook."""
        if not self.lightfastness:
            return tr("lightfastness not known: ask the label, or make a fade test")
        words = tr(
            "lightfastness {lightfastness}: {ON_A_WALL}",
            lightfastness=tr(self.lightfastness),
            ON_A_WALL=_ON_A_WALL[self.lightfastness],
        )
        fact = self.facts["lightfastness"]
        if fact.contradicted:
            words += "; " + tr(
                "so your own fade test says, the label says {claimed}", claimed=tr(fact.claimed)
            )
        return words


def _worst(values: Sequence[str], scale: Sequence[str]) -> str:
    """The entry farthest along the scale."""
    known = [value for value in values if value in scale]
    return max(known, key=scale.index) if known else ""


def grain_word(number: float) -> str:
    """How much a paint granulates, 0..1, in the table's word."""
    return next((word for limit, word in _GRAIN_LIMITS if number < limit), "high")


def label_of(
    codes: str,
    table: Mapping[str, Pigment],
    claims: Mapping[str, str] | None = None,
    tested: Mapping[str, Fact] | None = None,
) -> Label:
    """What is known of a paint: by its own tests, else by its label, else by the table of pigments.

    A mixture is as opaque, as staining, as grainy, as strong and as fugitive as the most so of its pigments.

    Parameters
    ----------
    codes : str, as on the label
    table : from Colour Index name to Pigment
    claims : mapping, what the painter wrote of the label
    tested : from property to what the painter's own tests showed; those that can not tell are left out
    """
    claims, tested = claims or {}, tested or {}
    named = codes_in(codes)
    known = [table[code] for code in named if code in table]
    harmful = dict.fromkeys(element for pigment in known for element in pigment.caution.split())
    listed = {
        "transparency": _worst([p.transparency for p in known], TRANSPARENCIES),
        "staining": _worst([p.staining for p in known], _STAINING),
        "granulation": _worst([p.granulation for p in known], tuple(GRAINS)),
        "lightfastness": _worst([p.lightfastness for p in known], LIGHTFASTNESS),
        "strength": _worst([p.strength for p in known], STRENGTHS),
    }
    sure = next(
        (words for key, words in reversed(_SURE_WORDS.items()) if any(p.sure == key for p in known)), ""
    )
    facts = {}
    for key in PROPERTIES:
        claimed = claims.get(key, "") if key in _CLAIMED else ""
        facts[key] = _fact(tested.get(key), claimed, listed.get(key, ""), sure)
    return Label(tuple(named), tuple(known), tuple(harmful), facts)


def _fact(own: Fact | None, label: str, table: str, sure: str) -> Fact:
    """One property by the surest that says something of it."""
    claimed = label or table
    by = LabelSource.LABEL if label else LabelSource.TABLE if table else LabelSource.UNKNOWN
    if own is not None:
        return replace(own, claimed=claimed, claimed_by=by)
    if label:
        return Fact(label, by, claimed, by)
    return Fact(table, by, claimed, by, doubt=sure) if table else Fact()


def cautions(label: Label) -> list[str]:
    """What to take care of with a paint; never that it is safe.

    Parameters
    ----------
    label : Label
    """
    lines = [
        tr(
            "{code} holds {element}: {what}",
            code=pigment.code,
            element=tr(element),
            what=_HARM.get(element) or tr("take care"),
        )
        for pigment in label.pigments
        for element in pigment.caution.split()
    ]
    if label.harmful:
        lines.append(
            tr(
                "Do not point the brush with the lips, eat at the table, or sand or spray the dry paint; "
                "wash your hands."
            )
        )
    if set(label.harmful) & _HEAVY:
        lines.append(tr("Do not pour the rinse water away where local rules forbid it."))
    unknown = [code for code in label.codes if code not in {pigment.code for pigment in label.pigments}]
    if unknown:
        lines.append(
            tr(
                "Nothing is listed here of {what}: that does not mean that there is nothing.",
                what=", ".join(unknown),
            )
        )
    elif not label.codes:
        lines.append(tr("No pigment is named: read the label."))
    return [*dict.fromkeys(lines), FIRST]


def sharing(codes: str, others: Mapping[str, str]) -> dict[str, list[str]]:
    """Which other paints hold the same pigments.

    Parameters
    ----------
    codes : str
    others : from paint name to its codes

    Returns
    -------
    dict from code to a list of names; codes that no other paint holds are left out
    """
    result = {}
    for code in codes_in(codes):
        names = [name for name, other in others.items() if code in codes_in(other)]
        if names:
            result[code] = names
    return result


def minded(label: Label) -> list[str]:
    """What is to be minded of a paint when it is mixed: that it covers, granulates or fades; in words.

    Parameters
    ----------
    label : Label
    """
    return [
        words
        for words, holds in (
            (tr("opaque"), label.transparency in ("opaque", "semi-opaque")),
            (tr("granulates"), label.grain >= _CLEARLY),
            (tr("fades"), label.lightfastness in LIGHTFASTNESS[2:]),
        )
        if holds
    ]
