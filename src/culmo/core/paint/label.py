"""What the codes on a label say: the pigment spelt out, its lightfastness for a wall and a sketchbook, its cautions."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

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
            return tr("no pigment named")
        return tr("single pigment") if count == 1 else tr("a mixture of {count} pigments", count=count)

    @property
    def lightfast_words(self) -> str:
        """The class and what it means for a wall and for a sketchbook."""
        if not self.lightfastness:
            return tr("lightfastness not known: ask the label, or make a fade test")
        return tr(
            "lightfastness {lightfastness}: {ON_A_WALL}",
            lightfastness=tr(self.lightfastness),
            ON_A_WALL=_ON_A_WALL[self.lightfastness],
        )


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
