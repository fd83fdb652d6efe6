"""Paints as they are typed: lines, lists, codes that were meant."""

import unicodedata

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.paint.claims import take_claims
from culmo.core.paint.entry import complete, free_name, near_codes, parse_line, parse_list, twins
from culmo.data import pigment_table

TABLE = pigment_table()


@pytest.mark.parametrize(
    ("text", "name", "codes", "claims"),
    [
        ("Ultramarine PB29", "Ultramarine", ("PB29",), {}),
        ("Green PG7 + PY150, granulating", "Green", ("PG7", "PY150"), {"granulation": "medium"}),
        ("PB29", "Ultramarine blue", ("PB29",), {}),
        ("pb 15:3 Phthalo blue (green shade)", "Phthalo blue (green shade)", ("PB15:3",), {}),
        ("Winter sky (PB28/PW6) non-granulating sample", "Winter sky", ("PB28", "PW6"),
         {"granulation": "no", "status": "sample"}),
        ("群青 PB29", "群青", ("PB29",), {}),
        ("Rose — PV19; semi-transparent; staining", "Rose", ("PV19",),
         {"transparency": "semi-transparent", "staining": "high"}),
        ("Opaque", "Opaque", (), {}),
        ("Pen 12 grey", "Pen 12 grey", (), {}),
        ("Gold\tPY150\tfugitive\twished", "Gold", ("PY150",), {"lightfastness": "poor", "status": "wished"}),
        ("Cobalt PB28 full pan, strongly granulating", "Cobalt", ("PB28",), {"pan": "full", "granulation": "high"}),
    ],
)  # fmt: skip
def test_a_line_is_understood(text, name, codes, claims):
    line = parse_line(text, TABLE)
    assert (line.name, line.codes, dict(line.claims)) == (name, codes, claims)
    assert not line.unknown


@pytest.mark.parametrize(
    ("typed", "meant"),
    [("PB92", "PB29"), ("PY510", "PY150"), ("PR1222", "PR122"), ("PG77", "PG7"), ("PV9", "PV19")],
)
def test_a_mistyped_code_offers_the_near_ones(typed, meant):
    line = parse_line(f"Blue {typed}?", TABLE)
    assert line.codes == (typed,)
    assert line.name == "Blue"
    assert meant in line.unknown[0].near
    assert typed not in line.unknown[0].near


def test_a_code_with_a_foreign_head_is_called_unknown_and_not_a_name():
    line = parse_line("Blue PU29", TABLE)
    assert (line.name, line.codes) == ("Blue", ("PU29",))
    assert "PB29" in near_codes("PU29", TABLE)


def test_a_pasted_list_passes_over_numbers_bullets_and_empty_lines():
    text = "Paints:\n\n1. Lemon PY175\n  - Rose PV19\n• Umber PBr7\n12) Ink blue\n\n   \n"
    assert [line.name for line in parse_list(text, TABLE)] == [
        "Lemon",
        "Rose",
        "Umber",
        "Ink blue",
    ]


@pytest.mark.parametrize(
    ("text", "name", "claims", "note"),
    [
        # a claim with a capital letter that goes on as a name belongs to it, and is claimed
        ("Transparent red oxide PR101", "Transparent red oxide", {"transparency": "transparent"}, ""),
        ("Opaque white PW6", "Opaque white", {"transparency": "opaque"}, ""),
        ("transparent rose PV19", "rose", {"transparency": "transparent"}, ""),
        ("Transparent PY150", "Nickel azo yellow", {"transparency": "transparent"}, ""),
        # what is neither name nor code nor claim is the note
        ("Rose PV19, bought in May, staining", "Rose", {"staining": "high"}, "bought in May"),
        ("Lemon PY175 (tube, 5 ml)", "Lemon", {}, "(tube, 5 ml)"),
        ("Rose PV19 note: like PB29, not staining", "Rose", {}, "like PB29, not staining"),
        ('"Blue, deep" PB29', "Blue, deep", {}, ""),
        ('"The ""best"" blue" PB29, opaque', 'The "best" blue', {"transparency": "opaque"}, ""),
        # a number before the name is the line's own
        ("3\tRose\tPV19\t12", "Rose", {}, "12"),
        ("Cobalt teal PG50: granulating", "Cobalt teal", {"granulation": "medium"}, ""),
        ("Rose PV19, lightfastness II", "Rose", {"lightfastness": "good"}, ""),
        ("Rose PV19, not lightfast", "Rose", {"lightfastness": "poor"}, ""),
        ("Rose PV19, excellent lightfastness", "Rose", {"lightfastness": "excellent"}, ""),
    ],
)
def test_nothing_of_a_line_is_lost(text, name, claims, note):
    line = parse_line(text, TABLE)
    assert (line.name, dict(line.claims), line.note) == (name, claims, note)


@settings(max_examples=200, deadline=None)
@given(st.text(st.characters(categories=("Lu", "Ll", "Nd")), min_size=1, max_size=9), st.integers(0, 3))
def test_each_word_beside_a_name_is_in_the_note_or_a_claim(word, place):
    parts = ["Moss", "PG10", "granulating"]
    word = unicodedata.normalize("NFC", word)
    parts.insert(place, word)
    line = parse_line(", ".join(parts), TABLE)
    said = " ".join((line.name, line.note, *line.codes, *line.claims.values())).casefold()
    # a number before the name is passed over; a word may be a claim or a code of itself
    assert word.casefold() in said or word.isdigit() or take_claims(f", {word}").values or len(line.codes) > 1


def test_a_thousand_lines_are_the_most_that_is_read():
    assert len(parse_list("\n".join(f"Paint {i}" for i in range(5000)), TABLE)) == 1000


@settings(max_examples=200, deadline=None)
@given(st.text(max_size=500))
def test_no_text_breaks_the_line_and_a_name_has_no_control_characters(text):
    line = parse_line(text, TABLE)
    assert all(ord(letter) >= 32 for letter in line.name)
    assert line.name == line.name.strip()
    complete(text, TABLE)


@settings(max_examples=100, deadline=None)
@given(st.sampled_from(sorted(TABLE)), st.sampled_from(sorted(TABLE)))
def test_every_code_of_the_table_is_read_back_in_any_spelling(first, second):
    for text in (
        f"Mix {first} + {second}",
        f"Mix {first.lower()}/{second.upper()}",
        f"Mix ({first}, {second})",
    ):
        line = parse_line(text, TABLE)
        assert line.name == "Mix"
        assert line.codes == tuple(dict.fromkeys((first, second)))


def test_completion_knows_codes_by_their_beginning_and_pigments_by_a_word():
    assert [found.code for found in complete("Blue PB2", TABLE)] == ["PB27", "PB28", "PB29"]
    assert complete("Blue PB2", TABLE)[2].text == "Blue PB29"
    assert "PB29" in [found.code for found in complete("ultram", TABLE)]
    assert complete("Green PG7 + PY15", TABLE)[0].text.startswith("Green PG7 + PY15")
    assert complete("", TABLE) == []
    assert complete("Blue PB29", TABLE) == []


def test_names_that_repeat_are_found_in_the_box_and_in_the_list():
    assert twins(["Rose", "blue", "ROSE ", "Blue"], ["rose"]) == ["rose", None, "rose", "blue"]
    assert free_name("Rose", ["rose", "ROSE 2"]) == "Rose 3"
    assert free_name(" Rose ", []) == "Rose"
