"""What a painter's own tests showed stands before the label and the table, wherever a paint is judged."""

import ast
from pathlib import Path

import pytest

import culmo
from culmo.core.paint.estimate import learn
from culmo.core.paint.label import OwnTests, Source, label_of
from culmo.core.paint.properties import FadeLook, fade_class
from culmo.core.paint.readings import COVERED, EXPOSED, RUBBED, Reading
from culmo.core.paint.recipe import mix
from culmo.data import pigment_table
from culmo.study import acts, records
from culmo.study.file import Study
from culmo.study.own_tests import labels_in, own_tests_of
from support.builders import FIVE, make_study

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
    with study.transaction() as db:
        db.execute(
            "INSERT INTO sheets (id, title, kind, layout, created) "
            "VALUES (90, 'Window', 'cards', '{}', '2026-01-01T09:00:00+00:00')"
        )
        db.execute(
            "INSERT INTO fades (sheet_id, started, weeks) VALUES (90, '2026-01-01T09:00:00+00:00', '[4, 12]')"
        )
        for treatment, L in ((COVERED, 45.0), (EXPOSED, 45.0 + change)):
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
    assert (fact.source, fact.claimed, fact.contradicted) == (Source.OWN, "excellent", True)
    assert "fades on a wall" in label.lightfast_words
    assert "the label says excellent" in label.lightfast_words
    assert label_in(study, FIVE[2]).facts["lightfastness"].source is not Source.OWN


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
    bar = own_tests_of(study, [NAME], estimate)[NAME.casefold()].transparency
    assert bar and bar != "opaque"  # its card was read: a clear paint over the bar
    came_off = Reading(mix([NAME]), (95.0, 0.0, 2.0), treatment=RUBBED)  # hardly more than bare paper
    study.apply(acts.add_readings(study, [acts.Incoming(came_off)], "a lift test"))
    label = label_in(study)
    assert (label.transparency, label.facts["transparency"].source) == (bar, Source.OWN)
    assert (label.staining, label.facts["staining"].contradicted) == ("low", True)


def test_the_label_stands_before_the_table_and_not_known_stays_not_known():
    table = pigment_table()
    both = label_of("PB29", table, {"transparency": "opaque"})
    assert (both.transparency, both.facts["transparency"].source) == ("opaque", Source.LABEL)
    assert both.facts["lightfastness"].source is Source.TABLE
    nothing = label_of("", table)
    assert {fact.word for fact in nothing.facts.values()} == {""}
    assert {fact.source for fact in nothing.facts.values()} == {Source.UNKNOWN}
    assert not label_of("PB29", table, {}, OwnTests(lightfastness="excellent")).facts["staining"].contradicted


def test_one_place_says_what_is_known_of_a_paint():
    """No other module works out labels for itself: an own test would be passed over there."""
    root = Path(culmo.__file__).parent
    callers = {
        path.relative_to(root).as_posix()
        for path in root.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "label_of"
    }
    assert callers == {"study/own_tests.py"}
