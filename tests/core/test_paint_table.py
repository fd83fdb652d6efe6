"""A list of paints from a spreadsheet, its columns matched."""

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.paint.claims import claims_text, lightfastness_of, take_claims
from culmo.core.paint.entry import parse_lines
from culmo.core.paint.paint_table import COLUMN_KINDS, table_of
from culmo.data import pigment_table
from culmo.errors import CulmoError

TABLE = pigment_table()


def understood(table):
    return [
        (line.name, line.codes_text, dict(line.claims), line.note)
        for line in parse_lines(table.lines(), TABLE)
    ]


def test_columns_are_known_by_their_heads_in_either_language():
    for head in (["Paint name", "Pigment_Codes", "Opacity", "Permanence", "Comments", "Price"],
                 ["Farbe", "PIGMENTE", "Deckkraft", "Lichtechtheit", "Bemerkung", "Preis"]):  # fmt: skip
        table = table_of([head, ["Sky", "PB35", "semi-opaque", "II", "cold", "4.50"]])
        assert table.headed
        assert table.kinds == ("name", "codes", "claims", "lightfastness", "note", "")
        assert understood(table) == [
            ("Sky", "PB35", {"transparency": "semi-opaque", "lightfastness": "good"}, "cold")
        ]


def test_without_heads_the_first_column_is_the_name_and_may_be_matched_anew():
    table = table_of([["Sky", "PB35", "12"], ["Rose", "PV19"]])
    assert (table.headed, table.kinds) == (False, ("name", "codes", "codes"))
    assert understood(table.with_kind(2, "note")) == [("Sky", "PB35", {}, "12"), ("Rose", "PV19", {}, "")]
    assert understood(table.with_kind(0, "").with_kind(1, "note").with_kind(2, "note")) == []


def test_an_empty_table_is_told():
    with pytest.raises(CulmoError, match="nothing"):
        table_of([[], ["", " "]])


@pytest.mark.parametrize(
    ("cell", "claims"),
    [("yes", {"staining": "high"}), ("NO", {"staining": "low"}), ("ja", {"staining": "high"}), ("", {}),
     ("medium staining", {"staining": "medium"})],
)  # fmt: skip
def test_a_column_of_yes_and_no_is_put_into_words(cell, claims):
    for head in ("Staining", "färbend"):
        ((_, _, found, note),) = understood(table_of([["Name", "Codes", head], ["Sky", "PB35", cell]]))
        assert (found, note) == (claims, "")


def test_classes_of_lightfastness_are_told_apart_and_what_is_not_known_is_kept():
    assert [lightfastness_of(cell) for cell in ("I", "ii", " III ", "IV", "8", "sehr gut", "3", "***")] == [
        "excellent", "good", "fair", "poor", "excellent", "good", "", "",
    ]  # fmt: skip
    table = table_of([["Name", "Codes", "Lightfastness"], ["Sky", "PB35", "4 of 5"]])
    assert understood(table) == [("Sky", "PB35", {}, "Lightfastness 4 of 5")]


def test_a_name_stays_whole_whatever_is_in_it_and_a_code_in_it_is_found():
    rows = [["Name", "Codes", "Note"], ["Blue, deep", "PB29", ""], ['Old "best" blue', "PB29", ""], ["12", "PB29", ""],
            ["Cobalt transparent", "PB28", ""], ["Green PG7", "", "strong"], ["Green PG7", "PG7", ""]]  # fmt: skip
    assert understood(table_of(rows)) == [
        ("Blue, deep", "PB29", {}, ""), ('Old "best" blue', "PB29", {}, ""), ("12", "PB29", {}, ""),
        ("Cobalt transparent", "PB28", {}, ""), ("Green", "PG7", {}, "strong"), ("Green", "PG7", {}, ""),
    ]  # fmt: skip


def test_one_column_alone_may_hold_whole_lines():
    table = table_of([["Paint"], ["Rose PV19, transparent"], ["Lemon PY175"]])
    assert understood(table) == [
        ("Rose", "PV19", {"transparency": "transparent"}, ""),
        ("Lemon", "PY175", {}, ""),
    ]


WORDS = st.text(
    st.characters(categories=("Lu", "Ll", "Nd", "Zs"), include_characters=",;:-+/'\"()&"), max_size=20
)


@given(
    st.lists(
        st.tuples(WORDS, st.sampled_from(["PB29", "PG7 + PY150", "PV19"]), WORDS), min_size=1, max_size=5
    )
)
def test_each_row_becomes_a_paint_with_its_codes_and_its_note(rows):
    table = table_of([["Name", "Codes", "Note"], *rows])
    lines = parse_lines(table.lines(), TABLE)
    assert len(lines) == len(rows)
    for line, (_, codes, note) in zip(lines, rows, strict=True):
        assert set(codes.split(" + ")) <= set(line.codes)
        if any(letter.isalnum() for letter in note):
            assert " ".join(unicodedata.normalize("NFC", note).split()) in line.note


@given(
    st.sampled_from([kind for kind, _ in COLUMN_KINDS]),
    st.lists(st.lists(WORDS, max_size=4), min_size=1, max_size=4),
)
def test_any_matching_of_any_table_gives_lines(kind, rows):
    if any(cell.strip() for row in rows for cell in row):
        table = table_of(rows)
        for column in range(len(table.kinds)):
            table = table.with_kind(column, kind)
        assert all("\n" not in line for line in table.lines())


def test_every_claim_is_typed_so_that_it_is_found_again():
    for key, values in (("transparency", ("transparent", "semi-transparent", "semi-opaque", "opaque")),
                        ("staining", ("low", "medium", "high")), ("granulation", ("no", "slight", "medium", "high")),
                        ("lightfastness", ("excellent", "good", "fair", "poor"))):  # fmt: skip
        for value in values:
            found = take_claims(f", {claims_text({key: value})}")
            assert (found.values, found.head, found.rest.strip(" \t,")) == ({key: value}, "", "")
