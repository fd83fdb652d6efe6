"""What the painter's own tests say of paints: the one place that puts them before the label and the table."""

from collections.abc import Iterable, Mapping

from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import Label, OwnTests, label_of
from culmo.core.paint.properties import card_staining, card_transparency, fade_class
from culmo.core.paint.readings import EXPOSED, LIFTED, RUBBED, Reading
from culmo.data import pigment_table
from culmo.study import records
from culmo.study.box_records import fade_looks
from culmo.study.file import Study

UNLABELLED = label_of("", {})  # a paint of which nothing is known but its readings


def own_tests_of(study: Study, names: Iterable[str], estimate: Estimate | None) -> dict[str, OwnTests]:
    """What own tests showed of each paint, by its folded name.

    Parameters
    ----------
    study : Study
    names : iterable of str
    estimate : Estimate, or None while nothing is known
    """
    bare: list[Reading] = []
    own: dict[str, list[Reading]] = {}
    for reading in records.readings(study):
        if not reading.recipe.layers:
            bare.append(reading)
        elif len(reading.recipe.names) == 1:
            own.setdefault(reading.recipe.names[0].casefold(), []).append(reading)
    found = {}
    for name in names:
        readings = own.get(name.casefold(), [])
        treatments = {reading.treatment for reading in readings}
        cover = card_transparency([*readings, *bare], name, estimate) if readings else None
        stain = card_staining(readings, name, estimate) if treatments & {LIFTED, RUBBED} else None
        looks = fade_looks(study, name) if EXPOSED in treatments else []
        found[name.casefold()] = OwnTests(
            cover.word if cover is not None else "",
            stain.word if stain is not None else "",
            fade_class(looks),
        )
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
    tested: Mapping[str, OwnTests] = own_tests_of(study, [paint.name for paint in listed], estimate)
    table = pigment_table()
    return {
        paint.name.casefold(): label_of(paint.codes, table, paint.label, tested[paint.name.casefold()])
        for paint in listed
    }
