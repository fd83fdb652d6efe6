"""Box room: what is typed of a paint, checked field by field, and what is known of it."""

from dataclasses import dataclass, field

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.names import hue_word
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.readings import INK, PAPER, Reading
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.file import Command, Study
from culmo.words import tr

# field, its title, wash, ground
CARD_FIELDS = (
    ("masstone", tr("Masstone"), FULL, PAPER),
    ("tint", tr("Palest tint"), TINT, PAPER),
    ("bar", tr("Masstone over the bar"), FULL, INK),
)
STATUS_WORDS = (
    ("owned", tr("I own it")),
    ("sample", tr("only a sample dot")),
    ("wished", tr("I consider it")),
)
# granulation in words, with the number kept
GRAINS = (
    (tr("not known"), None),
    (tr("smooth"), 0.02),
    (tr("a little"), 0.12),
    (tr("granulates"), 0.25),
    (tr("strongly"), 0.4),
)


def lab_text(lab: tuple[float, float, float]) -> str:
    """A colour as the painter may type it again."""
    return ", ".join(
        f"{round(float(value), 1) + 0.0:.1f}" for value in lab
    )  # + 0.0 takes the sign from a zero


def describe(lab: Array) -> str:
    """Lightness, chroma and hue in a line."""
    lightness, chroma, hue = lch_from_lab(lab)
    word = hue_word(lab)
    return tr(
        "L {lightness:.0f}, chroma {chroma:.0f}, hue {hue:.0f}°, {word}",
        lightness=lightness,
        chroma=chroma,
        hue=hue,
        word=word,
    )


@dataclass
class PaintDraft:
    """The fields of the slip.

    Attributes
    ----------
    paint_id : int or None for a new paint
    name, codes, note : str
    grain : float or None
    card : field name to typed text
    """

    paint_id: int | None = None
    name: str = ""
    codes: str = ""
    note: str = ""
    grain: float | None = None
    status: str = "owned"
    label: dict[str, str] = field(default_factory=dict)
    card: dict[str, str] = field(default_factory=dict)

    def errors(self) -> dict[str, str]:
        """What is wrong, by field."""
        found = {}
        try:
            self._entry()
        except CulmoError as error:
            found["name"] = str(error)
        for key, text in self.card.items():
            if text.strip():
                try:
                    lab_from_text(text)
                except CulmoError as error:
                    found[key] = str(error)
        return found

    def _entry(self) -> acts.PaintEntry:
        return acts.PaintEntry(self.name, self.codes, self.status, self.grain, self.note, self.label)

    def readings(self, name: str) -> list[Reading]:
        """The card's readings."""
        result = []
        for key, _, wash, ground in CARD_FIELDS:
            text = self.card.get(key, "").strip()
            if text:
                L, a, b = (float(value) for value in lab_from_text(text))
                result.append(Reading(mix([name], wash=wash), (L, a, b), ground))
        return result

    def command(self, study: Study) -> Command:
        """The act that saves the draft.

        Raises
        ------
        CulmoError
            when a field is wrong
        """
        errors = self.errors()
        if errors:
            raise CulmoError(next(iter(errors.values())))
        name = self.name.strip()
        if self.paint_id is None:
            return acts.add_paint(study, self._entry(), self.readings(name))
        before = next(p for p in records.paints(study, retired=True) if p.id == self.paint_id)
        return acts.edit_paint(study, self.paint_id, self._entry(), self.readings(before.name))


def draft_of(study: Study, paint: records.Paint) -> PaintDraft:
    """The fields of a paint as they stand."""
    card = {}
    for row in study.rows("readings", "source = 'card'"):
        recipe = records.recipe_of(row)
        if (
            not recipe.is_pure
            or row["treatment"]
            or row["mixing"]
            or recipe.names[0].casefold() != paint.name.casefold()
        ):
            continue
        for key, _, wash, ground in CARD_FIELDS:
            if recipe.layers[0].wash == wash and row["ground"] == ground:
                card[key] = lab_text((row["L"], row["a"], row["b"]))
    label = dict(paint.label)
    return PaintDraft(paint.id, paint.name, paint.codes, paint.note, paint.grain, paint.status, label, card)


def elsewhere(study: Study, name: str) -> dict[str, str]:
    """What of a paint's card was read on a sheet, by field, as text."""
    found = {}
    # mixes, of which there are thousands, are left out by their sign before names are compared
    own = """source != 'card' AND treatment = '' AND mixing = '' AND trust = 'good'
        AND (INSTR(recipe, ' + ') = 0 OR INSTR(?, ' + ')) AND INSTR(folded(recipe), ?)"""
    for row in study.rows("readings", own, (name, records.sign_of(name))):
        recipe = records.recipe_of(row)
        if recipe.is_pure and recipe.names[0].casefold() == name.casefold():
            for key, _, wash, ground in CARD_FIELDS:
                if recipe.layers[0].wash == wash and row["ground"] == ground:
                    found[key] = lab_text((row["L"], row["a"], row["b"]))
    return found


def bare_texts(study: Study) -> dict[str, str]:
    """The readings of the bare paper and the bare ink line, by ground."""
    rows = study.rows("readings", "recipe = '-' AND paper = ''")
    return {row["ground"]: lab_text((row["L"], row["a"], row["b"])) for row in rows}


def save_bare(study: Study, ground: str, text: str) -> Command:
    """The act that keeps a reading of the bare ground."""
    L, a, b = (float(value) for value in lab_from_text(text))
    return acts.read_bare(study, ground, (L, a, b))


def masstone(name: str) -> Recipe:
    """The paint alone at full strength."""
    return mix([name])
