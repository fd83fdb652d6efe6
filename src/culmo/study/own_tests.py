"""What is known of paints: the one place that puts the painter's own tests before the label and the table of pigments."""

from collections.abc import Iterable, Mapping

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.drying import drying_shift
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import Fact, Label, LabelSource, grain_word, label_of
from culmo.core.paint.properties import (
    card_staining,
    card_transparency,
    fade_class,
    fade_number,
    weeks_words,
)
from culmo.core.paint.readings import Reading, Treatment
from culmo.core.palette.mixer import mixer_of
from culmo.core.palette.strength import AGAINST, against, strength_word, strengths
from culmo.data import pigment_table, typical_curves
from culmo.study import records
from culmo.study.box_records import fade_looks
from culmo.study.dried import dried_cells
from culmo.study.file import Study
from culmo.study.paint_lists import GRAIN_OF
from culmo.words import tr, trn

UNLABELLED = label_of("", {})  # a paint of which nothing is known but its readings
_NOTED_GRAIN = GRAIN_OF["medium"]  # of a paint whose wash was marked as granulating at the table


def own_tests_of(
    study: Study, paints: Iterable[records.Paint], estimate: Estimate | None
) -> dict[str, dict[str, Fact]]:
    """What own tests showed of each paint, by its folded name and by property; what they can not tell is left out.

    Parameters
    ----------
    study : Study
    paints : iterable of Paint
    estimate : Estimate, or None while nothing is known
    """
    bare, own = [], dict[str, list[Reading]]()
    for reading in records.lone_readings(study):
        if reading.recipe.layers:
            own.setdefault(reading.recipe.names[0].casefold(), []).append(reading)
        else:
            bare.append(reading)
    marked, wet = records.marked_alone(study, "granulates"), _wet(study)
    strong, mixed = _strengths(estimate), records.mixed_names(study)
    found = {}
    for paint in paints:
        name = paint.name.casefold()
        readings = own.get(name, [])
        facts = {
            **_by_card(study, paint.name, readings, bare, estimate),
            "granulation": _grain(paint, marked.get(name, 0)),
            "strength": _strength(strong.get(name), mixed.get(name, 0)),
            "drying": _drying(wet.get(name, [])),
        }
        found[name] = {key: fact for key, fact in facts.items() if fact is not None}
    return found


def _by_card(
    study: Study, name: str, readings: list[Reading], bare: list[Reading], estimate: Estimate | None
) -> dict[str, Fact | None]:
    """What the black bar, the lifted patch and the fade test show."""
    treatments = {reading.treatment for reading in readings}
    cover = card_transparency([*readings, *bare], name, estimate) if readings else None
    stain = (
        card_staining(readings, name, estimate) if treatments & {Treatment.LIFTED, Treatment.RUBBED} else None
    )
    looks = fade_looks(study, name) if Treatment.EXPOSED in treatments else []
    kept = fade_class(looks)
    how = tr("after rubbing") if Treatment.RUBBED in treatments else tr("blotted only")
    return {
        "transparency": Fact(cover.word, LabelSource.OWN, number=cover.number, doubt=tr("over the black bar"))
        if cover is not None and cover.word
        else None,
        "staining": Fact(stain.word, LabelSource.OWN, number=stain.number, doubt=how)
        if stain is not None and stain.word
        else None,
        "lightfastness": Fact(
            kept,
            LabelSource.OWN,
            number=fade_number(looks),
            doubt=tr("after {weeks} in the window", weeks=weeks_words(max(look.weeks for look in looks))),
        )
        if kept
        else None,
    }


def _grain(paint: records.Paint, marks: int) -> Fact | None:
    """What the painter noted of the grain; the label's own word, which is kept beside it as a number, is no note."""
    claimed = GRAIN_OF.get(paint.label.get("granulation", ""))
    if paint.grain is not None and paint.grain != claimed:
        return Fact(grain_word(paint.grain), LabelSource.OWN, number=paint.grain, doubt=tr("as you noted"))
    if marks:
        doubt = trn("marked on {n} cell", "marked on {n} cells", marks)
        return Fact(grain_word(_NOTED_GRAIN), LabelSource.OWN, number=_NOTED_GRAIN, doubt=doubt)
    return None


def _strengths(estimate: Estimate | None) -> dict[str, float]:
    """How many parts of a middling paint one part stands against, by folded name."""
    if estimate is None or not estimate.names:
        return {}
    curves = typical_curves()
    found = strengths(mixer_of(estimate), *against([curves[code] for code in AGAINST]))
    return {name.casefold(): float(value) for name, value in zip(estimate.names, found, strict=True)}


def _strength(number: float | None, mixes: int) -> Fact | None:
    """How strong it is by the mixes that were read; a card alone does not tell how far a paint goes."""
    if number is None or not np.isfinite(number) or not mixes:
        return None
    doubt = trn("by {n} mix", "by {n} mixes", mixes)
    return Fact(strength_word(number), LabelSource.OWN, number=number, doubt=doubt)


def _wet(study: Study) -> dict[str, list[tuple[Array, Array]]]:
    """The colours of each paint alone, wet and dry, by its folded name."""
    found: dict[str, list[tuple[Array, Array]]] = {}
    for cell in dried_cells(study):
        if cell.recipe.is_pure:
            found.setdefault(cell.recipe.names[0].casefold(), []).append((cell.wet, cell.dry))
    return found


def _drying(pairs: list[tuple[Array, Array]]) -> Fact | None:
    shift = drying_shift(pairs)
    if shift is None:
        return None
    doubt = trn(
        "L {light:+.0f}, chroma {chroma:+.0f}, by {n} cell", "L {light:+.0f}, chroma {chroma:+.0f}, by {n} cells",
        shift.count, light=shift.lightness, chroma=shift.chroma,
    )  # fmt: skip
    return Fact(shift.word, LabelSource.OWN, number=shift.lightness, doubt=doubt)


def typical_grain(codes: str) -> float:
    """How much a paint granulates of which only the codes are known, 0..1."""
    return label_of(codes, pigment_table()).grain


def said_grains(study: Study, paints: Iterable[records.Paint]) -> dict[str, float]:
    """How much paints are said to granulate, 0..1, by their folded names: the `grain` of their labels, for which no card has
    to be looked at.

    Parameters
    ----------
    study : Study
    paints : iterable of Paint
    """
    marked, table, found = records.marked_alone(study, "granulates"), pigment_table(), {}
    for paint in paints:
        fact = _grain(paint, marked.get(paint.name.casefold(), 0))
        tested = {"granulation": fact} if fact is not None else {}
        found[paint.name.casefold()] = label_of(paint.codes, table, paint.label, tested).grain
    return found


def labels_in(study: Study, paints: Iterable[records.Paint], estimate: Estimate | None) -> dict[str, Label]:
    """What is known of paints, by their folded names: by own tests, else by the label, else by the table of pigments.

    Parameters
    ----------
    study : Study
    paints : iterable of Paint
    estimate : Estimate, or None while nothing is known
    """
    listed = list(paints)
    tested: Mapping[str, Mapping[str, Fact]] = own_tests_of(study, listed, estimate)
    table = pigment_table()
    return {
        paint.name.casefold(): label_of(paint.codes, table, paint.label, tested[paint.name.casefold()])
        for paint in listed
    }
