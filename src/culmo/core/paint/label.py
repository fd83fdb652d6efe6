"""What the codes on a label say: the pigment spelt out, its lightfastness for a wall and a sketchbook, its cautions."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from culmo.core.paint.pigments import COLOURS, TRANSPARENCIES, Pigment, codes_in

LIGHTFASTNESS = ("excellent", "good", "fair", "poor")
_STAINING = ("low", "medium", "high")
_GRAINS = ("no", "slight", "medium", "high")
STAINING_WORDS = {"low": "non-staining", "medium": "stains a little", "high": "staining"}
GRAIN_WORDS = {
    "no": "smooth",
    "slight": "granulates a little",
    "medium": "granulates",
    "high": "granulates strongly",
}
_ON_A_WALL = {
    "excellent": "keeps on a wall and in a sketchbook",
    "good": "keeps on a wall away from full sun, and in a sketchbook",
    "fair": "changes on a wall over the years; keeps in a closed sketchbook",
    "poor": "fades on a wall, often within months; for a sketchbook that is kept shut, or for printing from",
}
_HARM = {
    "cadmium": "harmful if swallowed or breathed in",
    "cobalt": "harmful if swallowed or breathed in; may cause skin allergy",
    "nickel": "harmful if breathed in; may cause skin allergy",
    "lead": "poisonous, and stays in the body; not for children or in pregnancy",
    "mercury": "poisonous, and stays in the body; not for children or in pregnancy",
    "chromium": "harmful if swallowed or breathed in",
    "antimony": "harmful if swallowed or breathed in",
    "barium": "harmful if swallowed",
    "manganese": "harmful if breathed in",
    "arsenic": "poisonous",
    "copper": "harmful if swallowed",
}  # fmt: skip
_HEAVY = {"cadmium", "cobalt", "nickel", "lead", "mercury", "chromium", "antimony", "barium", "arsenic"}
FIRST = "The maker's label and safety data sheet and your local rules come first."


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
    colour = COLOURS.get(head, "of an unknown group")
    kind = "natural dye" if head.startswith("N") else "pigment"
    colour = colour.removeprefix("natural ")
    variant = ""
    if ":" in number:
        number, form = number.split(":", 1)
        variant = f", form {form}"
    known = table.get(code)
    name = f"; {known.name}" if known is not None else ""
    return f"{code}: {kind}, {colour}, number {number}{variant}{name}"


@dataclass(frozen=True)
class Label:
    """What is generally said of a paint with these codes.

    Attributes
    ----------
    codes : tuple of str, all of them, known or not
    pigments : tuple of Pigment, those that the table has
    transparency, staining, granulation, lightfastness : str, the table's words; empty where nothing is known
    harmful : tuple of str, elements that call for care
    """

    codes: tuple[str, ...]
    pigments: tuple[Pigment, ...]
    transparency: str
    staining: str
    granulation: str
    lightfastness: str
    harmful: tuple[str, ...]

    @property
    def count_words(self) -> str:
        """One pigment or several."""
        count = len(self.codes)
        if not count:
            return "no pigment named"
        return "single pigment" if count == 1 else f"a mixture of {count} pigments"

    @property
    def lightfast_words(self) -> str:
        """The class and what it means for a wall and for a sketchbook."""
        if not self.lightfastness:
            return "lightfastness not known: ask the label, or make a fade test"
        return f"lightfastness {self.lightfastness}: {_ON_A_WALL[self.lightfastness]}"


def _worst(values: Sequence[str], scale: Sequence[str]) -> str:
    """The entry farthest along the scale."""
    known = [value for value in values if value in scale]
    return max(known, key=scale.index) if known else ""


def label_of(codes: str, table: Mapping[str, Pigment], claims: Mapping[str, str] | None = None) -> Label:
    """What the codes claim; the painter's own words of the label come before the table's.

    A mixture is as opaque, as staining, as grainy and as fugitive as the most so of its pigments.

    Parameters
    ----------
    codes : str, as on the label
    table : from Colour Index name to Pigment
    claims : mapping, what the painter wrote of the label
    """
    claims = claims or {}
    named = codes_in(codes)
    known = [table[code] for code in named if code in table]
    harmful = dict.fromkeys(element for pigment in known for element in pigment.caution.split())
    return Label(
        tuple(named),
        tuple(known),
        claims.get("transparency") or _worst([p.transparency for p in known], TRANSPARENCIES),
        claims.get("staining") or _worst([p.staining for p in known], _STAINING),
        claims.get("granulation") or _worst([p.granulation for p in known], _GRAINS),
        claims.get("lightfastness") or _worst([p.lightfastness for p in known], LIGHTFASTNESS),
        tuple(harmful),
    )


def cautions(label: Label) -> list[str]:
    """What to take care of with a paint; never that it is safe.

    Parameters
    ----------
    label : Label
    """
    lines = [
        f"{pigment.code} holds {element}: {_HARM.get(element, 'take care')}"
        for pigment in label.pigments
        for element in pigment.caution.split()
    ]
    if label.harmful:
        lines.append(
            "Do not point the brush with the lips, eat at the table, or sand or spray the dry paint; wash your hands."
        )
    if set(label.harmful) & _HEAVY:
        lines.append("Do not pour the rinse water away where local rules forbid it.")
    unknown = [code for code in label.codes if code not in {pigment.code for pigment in label.pigments}]
    if unknown:
        lines.append(
            f"Nothing is listed here of {', '.join(unknown)}: that does not mean that there is nothing."
        )
    elif not label.codes:
        lines.append("No pigment is named: read the label.")
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
