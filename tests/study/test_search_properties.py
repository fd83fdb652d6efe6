"""Search by what a paint is like: what is shown is found, and its opposite never is."""

import os
import subprocess
import sys
from datetime import date

import pytest

from culmo.study import acts, note_acts
from culmo.study.own_tests import labels_in
from culmo.study.records import paints
from culmo.study.search import Index, parse_query, search
from support.builders import make_study

TODAY = date(2026, 11, 3)
# name, codes, what the label says: what each answers to stands in the tests
SHELF = (
    ("Moss", "PB29", {"granulation": "high", "staining": "low",
        "lightfastness": "excellent", "transparency": "transparent"}),
    ("Fern", "PB15", {"granulation": "no", "staining": "high", "lightfastness": "good", "transparency": "semi-transparent"}),
    ("Opaque clay", "PY42", {"granulation": "slight", "staining": "medium",
        "lightfastness": "fair", "transparency": "opaque"}),
    ("Dusk", "PR83", {"granulation": "no", "staining": "high", "lightfastness": "poor", "transparency": "semi-opaque"}),
    ("Blank", "", {}),
)  # fmt: skip


@pytest.fixture
def shelf(tmp_path):
    with make_study(tmp_path / "shelf.culmo", cards=False) as study:
        for row in paints(study):
            study.apply(acts.retire_paint(study, row.id))
        for name, codes, claims in SHELF:
            study.apply(acts.add_paint(study, acts.PaintEntry(name, codes, label=claims)))
        yield study


def found(study, text, kinds=("paint",)):
    index = Index(study, lambda: labels_in(study, paints(study), None))
    names = {name for name, *_ in SHELF}
    return {hit.title for hit in search(index, parse_query(text, TODAY), kinds).hits if hit.title in names}


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("granulating", {"Moss", "Opaque clay"}),
        ("granulates", {"Moss", "Opaque clay"}),
        ("strongly granulating", {"Moss"}),
        ("non-granulating", {"Fern", "Dusk"}),
        ("not granulating", {"Fern", "Dusk"}),
        ("smooth", {"Fern", "Dusk"}),
        ("staining", {"Fern", "Opaque clay", "Dusk"}),
        ("non-staining", {"Moss"}),
        ("lightfast", {"Moss", "Fern"}),
        ("not lightfast", {"Dusk"}),
        ("fugitive", {"Dusk"}),
        ("transparent", {"Moss"}),
        ("semi-transparent", {"Fern"}),
        ("opaque", {"Opaque clay"}),
        ("granulating lightfast", {"Moss"}),
        ("lightfast staining PB15", {"Fern"}),
        ("opaque clay", {"Opaque clay"}),
    ],
)
def test_paints_are_found_by_what_is_known_of_them_and_never_by_the_opposite(shelf, text, names):
    assert found(shelf, text) == names


def test_the_painters_own_word_comes_before_the_label(shelf):
    moss = next(paint for paint in paints(shelf) if paint.name == "Moss")
    shelf.apply(
        acts.edit_paint(shelf, moss.id, acts.PaintEntry("Moss", "PB29", grain=0.01, label=SHELF[0][2]))
    )
    assert "Moss" not in found(shelf, "granulating")
    assert "Moss" in found(shelf, "non-granulating")


def test_in_notes_a_word_is_found_and_its_denial_is_not(shelf):
    for text in (
        "It granulates in the shade",
        "This one is non-granulating",
        "It no longer granulates",
        "Nothing of it",
    ):
        shelf.apply(note_acts.add_note(shelf, text))
    index = Index(shelf, lambda: labels_in(shelf, paints(shelf), None))

    def notes(text):
        return {hit.title for hit in search(index, parse_query(text, TODAY), ("note",)).hits}

    assert notes("granulating") == {"It granulates in the shade"}
    assert notes("non-granulating") == {"This one is non-granulating", "It no longer granulates"}


def test_german_words_are_understood():
    code = """
from culmo import words
words.use("de", ",", False)
from culmo.core.paint.claims import asked_for
for text in ("granulierend", "nicht granulierend", "lichtecht", "nicht lichtecht", "verblasst", "flüchtig",
             "färbend", "nicht färbend", "lasierend", "deckend", "halbdeckend"):
    (one,), rest = asked_for(text)
    print(text, one.key, sorted(one.values), bool(rest.strip()))
"""
    env = {**os.environ, "PYTHONIOENCODING": "utf-8"}
    done = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True)
    assert done.stdout.splitlines() == [
        "granulierend granulation ['high', 'medium', 'slight'] False",
        "nicht granulierend granulation ['no'] False",
        "lichtecht lightfastness ['excellent', 'good'] False",
        "nicht lichtecht lightfastness ['poor'] False",
        "verblasst lightfastness ['poor'] False",
        "flüchtig lightfastness ['poor'] False",
        "färbend staining ['high', 'medium'] False",
        "nicht färbend staining ['low'] False",
        "lasierend transparency ['transparent'] False",
        "deckend transparency ['opaque'] False",
        "halbdeckend transparency ['semi-opaque'] False",
    ]
