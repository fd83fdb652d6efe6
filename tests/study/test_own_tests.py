"""What a painter's own tests showed stands before the label and the table, wherever a paint is judged."""

import ast

import numpy as np
import pytest

from culmo.core.paint.drying import drying_shift
from culmo.core.paint.estimate import learn
from culmo.core.paint.label import Fact, LabelSource, label_of
from culmo.core.paint.pigments import typical_card
from culmo.core.paint.properties import FadeLook, fade_class
from culmo.core.paint.readings import Reading, Treatment
from culmo.core.paint.recipe import mix
from culmo.core.palette.mixer import mixer_of
from culmo.core.palette.strength import AGAINST, against, strength_word, strengths
from culmo.data import pigment_table, typical_curves
from culmo.study import acts, paint_acts, records
from culmo.study.file import Study
from culmo.study.own_tests import labels_in, own_tests_of, said_grains
from culmo.study.paint_lists import GRAIN_OF
from support.builders import FIVE, laid_out, make_study, sample_study
from support.sources import nodes_beside

NAME = FIVE[1]


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo") as study:
        yield study


def label_in(study: Study, name: str = NAME):
    estimate = learn(list(FIVE), records.readings(study))
    return labels_in(study, records.paints(study), estimate)[name.casefold()]


def claim(study: Study, name: str, codes: str, **label: str) -> None:
    row = study.rows("paints", "name = ?", (name,))[0]
    study.apply(acts.edit_paint(study, row["id"], acts.PaintEntry(name, codes, label=label)))


def faded(study: Study, name: str, weeks: float, change: float) -> None:
    """A fade test that was looked at: the open half is lighter by so many L."""
    with study.disk.transaction() as db:
        db.execute(
            "INSERT INTO sheets (id, title, kind, layout, created) "
            "VALUES (90, 'Window', 'cards', '{}', '2026-01-01T09:00:00+00:00')"
        )
        db.execute(
            "INSERT INTO fades (sheet_id, started, weeks) VALUES (90, '2026-01-01T09:00:00+00:00', '[4, 12]')"
        )
        for treatment, L in ((Treatment.COVERED, 45.0), (Treatment.EXPOSED, 45.0 + change)):
            db.execute(
                "INSERT INTO readings (recipe, ground, L, a, b, sheet_id, taken, treatment) "
                "VALUES (?, 'paper', ?, 40, 10, 90, "
                "datetime('2026-01-01 09:00:00', ?) || '+00:00', ?)",
                (name, L, f"+{round(weeks * 7)} days", treatment),
            )


def test_a_paint_that_faded_in_the_window_is_fugitive_whatever_its_label_says(study):
    claim(study, NAME, "PB29", lightfastness="excellent")
    assert label_in(study).lightfastness == "excellent"
    faded(study, NAME, 4, 22.6)
    label = label_in(study)
    assert label.lightfastness == "poor"
    fact = label.facts["lightfastness"]
    assert (fact.source, fact.claimed, fact.contradicted) == (LabelSource.OWN, "excellent", True)
    assert "fades on a wall" in label.lightfast_words
    assert "the label says excellent" in label.lightfast_words
    assert label_in(study, FIVE[2]).facts["lightfastness"].source is not LabelSource.OWN


@pytest.mark.parametrize(
    ("weeks", "change", "word"),
    [
        (1, 9.0, "poor"),
        (4, 3.0, "fair"),
        (4, 0.3, ""),
        (20, 0.3, "good"),
        (30, 0.3, "excellent"),
        (30, 1.8, "good"),
    ],
)
def test_that_nothing_faded_says_something_only_after_a_while(weeks, change, word):
    look = FadeLook(weeks, (50.0, 0.0, 0.0), (50.0 + change, 0.0, 0.0))
    assert fade_class([look]) == word
    assert fade_class([]) == ""


def test_the_bar_and_the_lifted_patch_stand_before_the_label(study):
    claim(study, NAME, "PV19", transparency="opaque", staining="high")
    study.apply(acts.read_bare(study, "ink", (26.0, 0.0, 0.0)))
    readings = records.readings(study)
    estimate = learn(list(FIVE), readings)
    own = own_tests_of(study, records.paints(study), estimate)[NAME.casefold()]
    bar = own["transparency"].word
    assert 0.0 <= own["transparency"].number <= 1.0
    assert bar and bar != "opaque"  # its card was read: a clear paint over the bar
    came_off = Reading(
        mix([NAME]), (95.0, 0.0, 2.0), treatment=Treatment.RUBBED
    )  # hardly more than bare paper
    study.apply(acts.add_readings(study, [acts.Incoming(came_off)], "a lift test"))
    label = label_in(study)
    assert (label.transparency, label.facts["transparency"].source) == (bar, LabelSource.OWN)
    assert (label.staining, label.facts["staining"].contradicted) == ("low", True)


def test_the_label_stands_before_the_table_and_not_known_stays_not_known():
    table = pigment_table()
    both = label_of("PB29", table, {"transparency": "opaque"})
    assert (both.transparency, both.facts["transparency"].source) == ("opaque", LabelSource.LABEL)
    assert both.facts["lightfastness"].source is LabelSource.TABLE
    nothing = label_of("", table)
    assert {fact.word for fact in nothing.facts.values()} == {""}
    assert {fact.source for fact in nothing.facts.values()} == {LabelSource.UNKNOWN}
    own = {"lightfastness": Fact("excellent", LabelSource.OWN)}
    assert not label_of("PB29", table, {}, own).facts["staining"].contradicted


def test_a_guess_of_the_table_is_told_as_one():
    table = pigment_table()
    assert table["PR259"].sure == "rough"
    assert "roughly" in label_of("PR259", table).facts["granulation"].basis
    assert "roughly" in label_of("PB29 + PR259", table).facts["granulation"].basis
    assert label_of("PB29", table).facts["granulation"].basis == "typical of its pigments"


def test_grain_is_what_the_painter_noted_else_marked_else_the_label(study):
    claim(study, NAME, "PB29", granulation="no")
    assert label_in(study).facts["granulation"].source is LabelSource.LABEL
    assert label_in(study).grain < 0.06
    row = study.rows("paints", "name = ?", (NAME,))[0]
    # a label's word that was taken over as a number is no test of one's own
    entry = acts.PaintEntry(NAME, "PB29", grain=GRAIN_OF["no"], label={"granulation": "no"})
    study.apply(acts.edit_paint(study, row["id"], entry))
    assert label_in(study).facts["granulation"].source is LabelSource.LABEL
    sheet = laid_out("grid", paints=(NAME, FIVE[2]), paper="A5")[0]
    study.apply(acts.add_sheets(study, [sheet]))
    pure = next(e for e in records.sheet_record(study, 1).cells if e.cell.recipe.names == (NAME,))
    study.apply(paint_acts.paint_cell(study, 1, pure.id))
    stroke = study.rows("strokes")[-1]["id"]
    study.apply(paint_acts.mark_stroke(study, stroke, "granulates"))
    fact = label_in(study).facts["granulation"]
    assert (fact.word, fact.source, fact.claimed, fact.contradicted) == (
        "medium",
        LabelSource.OWN,
        "no",
        True,
    )
    assert "1 cell" in fact.doubt
    assert label_in(study, FIVE[2]).facts["granulation"].source is LabelSource.TABLE
    entry = acts.PaintEntry(NAME, "PB29", grain=0.0, label={"granulation": "no"})
    study.apply(acts.edit_paint(study, row["id"], entry))
    assert label_in(study).facts["granulation"].word == "no"
    assert label_in(study).facts["granulation"].source is LabelSource.OWN
    assert label_in(study).grain == 0.0


def test_what_drying_does_is_told_from_cells_read_wet_and_dry(study):
    sheet = laid_out("grid", paints=(NAME, FIVE[2]), paper="A5")[0]
    study.apply(acts.add_sheets(study, [sheet]))
    pure = next(e for e in records.sheet_record(study, 1).cells if e.cell.recipe.names == (NAME,))
    assert label_in(study).facts["drying"].source is LabelSource.UNKNOWN
    with study.disk.transaction() as db:
        for trust, lab in (("wet", (40.0, 52.0, 5.0)), ("good", (48.0, 47.0, 5.0))):
            db.execute(
                "INSERT INTO readings (recipe, ground, L, a, b, sheet_id, cell_id, taken, trust) "
                "VALUES (?, 'paper', ?, ?, ?, 1, ?, '2026-02-01T09:00:00+00:00', ?)",
                (NAME, *lab, pure.id, trust),
            )
    fact = label_in(study).facts["drying"]
    assert (fact.word, fact.source, fact.number) == ("lighter", LabelSource.OWN, 8.0)
    assert "1 cell" in fact.doubt


@pytest.mark.parametrize(
    ("wet", "dry", "word"),
    [
        ((40, 30, 0), (41, 30, 0), "hardly"),
        ((40, 30, 0), (52, 28, 0), "lighter"),
        ((60, 30, 0), (50, 30, 0), "darker"),
        ((50, 60, 0), (51, 42, 0), "duller"),
        ((50, 40, 0), (50, 58, 0), "cleaner"),
        ((50, 0, 50), (50, 25, 43), "hue"),
    ],
)
def test_what_is_seen_most_of_drying_is_its_word(wet, dry, word):
    assert drying_shift([(np.array(wet, float), np.array(dry, float))]).word == word


def test_strength_is_ranked_as_painters_know_it():
    """By the pigments that every painter knows as strong and as weak."""
    codes = ("PG7", "PB15", "PBk7", "PB29", "PB28", "PB35", "PG23", "PR259", "PW4", "PR233", "PR254")
    curves = typical_curves()
    ground = learn(["x"], [], typical_card("x", "PB29", pigment_table()))
    mixer = (
        mixer_of(ground)
        .only([])
        .with_typical(
            codes,
            np.array([curves[code][0] for code in codes]),
            np.array([curves[code][1] for code in codes]),
        )
    )
    found = dict(zip(codes, strengths(mixer, *against([curves[code] for code in AGAINST])), strict=True))
    assert min(found[code] for code in ("PG7", "PB15", "PBk7", "PR254")) > found["PB29"] > found["PB28"]
    assert (
        found["PB28"] > found["PB35"] > max(found[code] for code in ("PG23", "PR259", "PR233")) > found["PW4"]
    )
    assert strength_word(found["PG23"]) == "weak" and strength_word(found["PG7"]) == "strong"


def test_strength_is_typical_until_a_mix_of_the_paint_is_read(study):
    claim(study, NAME, "PB15:3")
    fact = label_in(study).facts["strength"]
    assert (fact.word, fact.source) == (
        "very strong",
        LabelSource.TABLE,
    )  # a card does not tell how far a paint goes
    mixed = [
        acts.Incoming(Reading(mix([NAME, FIVE[2]], [parts, 1]), (40.0, 10.0, -10.0))) for parts in (1, 2)
    ]
    study.apply(acts.add_readings(study, mixed, "mixes"))
    fact = label_in(study).facts["strength"]
    assert fact.source is LabelSource.OWN and fact.number > 0 and "2 mixes" in fact.doubt
    assert label_in(study, FIVE[3]).facts["strength"].source is LabelSource.TABLE
    assert label_of("PG23 + PB15", pigment_table()).facts["strength"].word == "very strong"


def test_one_place_says_what_is_known_of_a_paint():
    """No other module works out labels for itself: an own test would be passed over there."""
    callers = {
        path
        for path, node in nodes_beside("label_of")
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "label_of"
    }
    assert callers == {"study/own_tests.py"}


def test_nothing_else_reads_what_a_label_claims():
    """What is claimed may be typed, kept, and taken along; a judgement that rests on it asks for the whole truth."""
    readers = set()
    for path, node in nodes_beside(".label"):
        held = node.value if isinstance(node, ast.Subscript) else None
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "get":
            held = node.func.value
        if isinstance(held, ast.Attribute) and held.attr == "label":
            readers.add(path)
    assert readers == {"study/own_tests.py"}


def test_what_paints_are_said_to_granulate_is_told_without_their_cards(tmp_path):
    """Of each paint the number that its label has: by a mark, by the painter's note, by the label, by its pigment."""
    with Study(sample_study(tmp_path)) as shelf:
        paints = records.paints(shelf, retired=True)
        alone = shelf.select(
            "SELECT s.id, c.recipe FROM strokes s JOIN cells c ON c.id = s.cell_id ORDER BY s.id"
        )
        of_paint = {row["recipe"]: row["id"] for row in alone}
        marked = next(paint for paint in paints if paint.name in of_paint)
        noted, claimed = [paint for paint in paints if paint is not marked][:2]
        shelf.apply(paint_acts.mark_stroke(shelf, of_paint[marked.name], "granulates"))
        assert records.marked_alone(shelf, "granulates") == {marked.name.casefold(): 1}
        codes = noted.codes
        shelf.apply(acts.edit_paint(shelf, noted.id, acts.PaintEntry(noted.name, codes, grain=0.93)))
        claim(shelf, claimed.name, claimed.codes, granulation="high")
        paints = records.paints(shelf, retired=True)
        labels = labels_in(shelf, paints, learn([], []))
        found = said_grains(shelf, paints)
        assert found == {name: label.grain for name, label in labels.items()}
        assert found[noted.name.casefold()] == 0.93 and len(set(found.values())) > 3
