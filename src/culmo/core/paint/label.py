"""What the codes on a label say: the pigment spelt out, its lightfastness for a wall and a sketchbook, its cautions."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from culmo.core.paint.pigments import COLOURS, TRANSPARENCIES, Pigment, codes_in
from culmo.words import mark, tr

LIGHTFASTNESS = (mark("excellent"), mark("good"), mark("fair"), mark("poor"))
_STAINING = ("low", "medium", "high")
_GRAINS = ("no", "slight", "medium", "high")
STAINING_WORDS = {"low": tr("non-staining"), "medium": tr("stains a little"), "high": tr("staining")}
GRAIN_WORDS = {
    "no": tr("smooth"),
    "slight": tr("granulates a little"),
    "medium": tr("granulates"),
    "high": tr("granulates strongly"),
}
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
        variant = tr(", form {form}", form=form)
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


class Source(StrEnum):
    """Where it is known from, the surest first."""

    OWN = "own test"
    LABEL = "label"
    TABLE = "table"
    UNKNOWN = ""


@dataclass(frozen=True)
class Fact:
    """A property of a paint: one word, and where it is known from.

    Attributes
    ----------
    word : str, one of the table's words; empty where nothing is known
    source : Source
    claimed : str, what the label or the table says; empty where they say nothing
    """

    word: str = ""
    source: Source = Source.UNKNOWN
    claimed: str = ""

    @property
    def contradicted(self) -> bool:
        """Whether the painter's own test says otherwise than the label."""
        return self.source is Source.OWN and bool(self.claimed) and self.claimed != self.word


@dataclass(frozen=True)
class OwnTests:
    """What the painter's own tests of a paint showed, in the table's words; empty where they can not tell.

    Attributes
    ----------
    transparency : str, by the black bar
    staining : str, by the lifted or rubbed patch
    lightfastness : str, by the fade test
    """

    transparency: str = ""
    staining: str = ""
    lightfastness: str = ""


@dataclass(frozen=True)
class Label:
    """What is known of a paint with these codes: by the painter's own tests, by its label, by the table of pigments.

    Attributes
    ----------
    codes : tuple of str, all of them, known or not
    pigments : tuple of Pigment, those that the table has
    harmful : tuple of str, elements that call for care
    facts : mapping from "transparency", "staining", "granulation" and "lightfastness" to Fact
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
            words += tr("; so your own fade test says, the label says {claimed}", claimed=tr(fact.claimed))
        return words


def _worst(values: Sequence[str], scale: Sequence[str]) -> str:
    """The entry farthest along the scale."""
    known = [value for value in values if value in scale]
    return max(known, key=scale.index) if known else ""


def label_of(
    codes: str,
    table: Mapping[str, Pigment],
    claims: Mapping[str, str] | None = None,
    tested: OwnTests | None = None,
) -> Label:
    """What is known of a paint: by its own tests, else by its label, else by the table of pigments.

    A mixture is as opaque, as staining, as grainy and as fugitive as the most so of its pigments.

    Parameters
    ----------
    codes : str, as on the label
    table : from Colour Index name to Pigment
    claims : mapping, what the painter wrote of the label
    tested : OwnTests, what the painter's own tests showed
    """
    claims, tested = claims or {}, tested or OwnTests()
    named = codes_in(codes)
    known = [table[code] for code in named if code in table]
    harmful = dict.fromkeys(element for pigment in known for element in pigment.caution.split())
    listed = {
        "transparency": _worst([p.transparency for p in known], TRANSPARENCIES),
        "staining": _worst([p.staining for p in known], _STAINING),
        "granulation": _worst([p.granulation for p in known], _GRAINS),
        "lightfastness": _worst([p.lightfastness for p in known], LIGHTFASTNESS),
    }
    own = {
        "transparency": tested.transparency, "staining": tested.staining, "lightfastness": tested.lightfastness,
    }  # fmt: skip
    facts = {key: _fact(own.get(key, ""), claims.get(key, ""), word) for key, word in listed.items()}
    return Label(tuple(named), tuple(known), tuple(harmful), facts)


def _fact(own: str, label: str, table: str) -> Fact:
    """One property by the surest that says something of it."""
    claimed = label or table
    if own:
        return Fact(own, Source.OWN, claimed)
    if label:
        return Fact(label, Source.LABEL, claimed)
    return Fact(table, Source.TABLE, claimed) if table else Fact()


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
