"""What a label claims beside what the painter's own card shows."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import (
    GRAIN_WORDS,
    STAINING_WORDS,
    Label,
    cautions,
    sharing,
    spell_out,
)
from culmo.core.paint.pigments import Pigment
from culmo.core.paint.properties import Finding, card_staining, card_transparency, fading
from culmo.study import records
from culmo.study.box_records import fade_looks
from culmo.study.file import Study
from culmo.study.own_tests import labels_in
from culmo.study.records import Paint
from culmo.words import tr


@dataclass(frozen=True)
class LabelLine:
    """One property: its name, what the label claims, what the card showed."""

    word: str
    claim: str
    test: str


@dataclass(frozen=True)
class LabelView:
    """The Label page of a paint as text."""

    pigments: list[str]
    count: str
    lightfast: str
    lines: list[LabelLine]
    cautions: list[str]


def view_label(
    study: Study,
    paint: Paint,
    others: Sequence[Paint],
    estimate: Estimate | None,
    table: Mapping[str, Pigment],
) -> LabelView:
    """What stands on the Label page.

    Parameters
    ----------
    study : Study
    paint : Paint
    others : sequence of Paint, all that are in use
    estimate : Estimate or None
    table : from Colour Index name to Pigment
    """
    label = labels_in(study, [paint], estimate)[paint.name.casefold()]
    named = {other.name: other.codes for other in others if other.id != paint.id}
    shared = sharing(paint.codes, named)
    pigments = []
    for code in label.codes:
        also = tr(" (also in {what})", what=", ".join(shared[code])) if code in shared else ""
        pigments.append(spell_out(code, table) + also)
    return LabelView(
        pigments,
        label.count_words,
        label.lightfast_words,
        _lines(study, paint, label, estimate),
        cautions(label),
    )


def _lines(study: Study, paint: Paint, label: Label, estimate: Estimate | None) -> list[LabelLine]:
    readings = records.readings_of_paint(study, paint.name)
    cover = card_transparency(readings, paint.name, estimate)
    stain = card_staining(readings, paint.name, estimate)
    looks = fade_looks(study, paint.name)
    own_grain = tr("you noted {grain:.2f}", grain=paint.grain) if paint.grain is not None else ""
    return [
        LabelLine(
            tr("Covers"),
            tr(label.facts["transparency"].claimed) or tr("not said"),
            cover.text if cover else tr("not read yet"),
        ),
        LabelLine(
            tr("Stains"),
            STAINING_WORDS.get(label.facts["staining"].claimed, tr("not said")),
            _stain_text(stain),
        ),
        LabelLine(
            tr("Grain"), GRAIN_WORDS.get(label.granulation, tr("not said")), own_grain or tr("not noted")
        ),
        LabelLine(
            tr("Fades"),
            tr(label.facts["lightfastness"].claimed) or tr("not said"),
            fading(looks).text if looks else tr("no fade test read"),
        ),
    ]


def _stain_text(found: Finding | None) -> str:
    return f"{STAINING_WORDS[found.word]}: {found.text}" if found is not None else tr("no lift test read")
