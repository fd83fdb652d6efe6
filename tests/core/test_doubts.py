"""What to doubt about a paint: its name, its codes, its light and its own tests."""

import pytest

from culmo.core.paint.doubts import Doubt, broken_promise, doubts, most_serious
from culmo.core.paint.label import Fact, LabelSource, label_of
from culmo.data import pigment_table

TABLE = pigment_table()


def kinds(codes: str, name: str = "Moss", own=None, claims=None, others=None) -> list[Doubt]:
    label = label_of(codes, TABLE, claims, own)
    return [caution.kind for caution in doubts(name, codes, label, others or {})]


@pytest.mark.parametrize(
    ("name", "codes", "word"),
    [
        ("Cobalt blue", "PB28", ""),
        ("Cobalt blue", "PB15:3 PW6", "Cobalt"),
        ("Kobaltblau", "PB29", "Kobalt"),
        ("Cobalt teal", "PG50", ""),
        ("Cadmium-free red", "PR254", ""),
        ("Cadmium red", "PR254", "Cadmium"),
        ("Ultramarinblau", "PB29", ""),
        ("Coelinblau", "PB15, PW4", "Coelin"),
        ("Rose madder", "NR9", ""),
        ("Phthalo green", "PG7", ""),
        ("Phthaloblau", "PB15:1", ""),
        ("Burnt sienna", "PR101", ""),
        ("Viridian hue", "PG7", "Viridian"),
        ("Manganese blue hue", "PB15:3", "Manganese"),
        ("Sap green hue", "PG7 PY150", "hue"),
        ("Sap green", "PG7 PY150", ""),
        ("Indigo", "PB60 PBk7", "Indigo"),
        ("Cobalt blue", "", ""),  # no code, no lie
        ("Huerta green", "PG7", ""),
        ("Quinacridone rose", "PV19", ""),
    ],
)
def test_a_name_that_promises_another_pigment(name, codes, word):
    assert broken_promise(name, codes) == word


def test_the_doubts_of_a_paint_and_none_where_there_are_none():
    assert kinds("PB29") == []
    assert kinds("PR83") == [Doubt.FUGITIVE]
    assert kinds("PB17 PW6 PBk7") == [Doubt.FUGITIVE, Doubt.MANY]
    assert kinds("PV998") == [Doubt.UNRATED]
    assert kinds("PB29", others={"Sea": "pb29", "Sky": "PB28", "Two": "PB29 PW6"}) == [Doubt.SAME]
    assert kinds("", others={"Sea": ""}) == []
    label = label_of("", TABLE)
    (caution,) = doubts("Moss", "", label, {}, "type its codes")
    assert (caution.kind, caution.words) == (Doubt.UNKNOWN, "type its codes")


def test_a_claim_that_ones_own_test_contradicts_by_more_than_a_step():
    faded = {"lightfastness": Fact("poor", LabelSource.OWN)}
    assert kinds("PB29", own=faded, claims={"lightfastness": "excellent"}) == [
        Doubt.FUGITIVE,
        Doubt.CONTRADICTED,
    ]
    assert (
        kinds(
            "PB29",
            own={"lightfastness": Fact("good", LabelSource.OWN)},
            claims={"lightfastness": "excellent"},
        )
        == []
    )
    over = {"transparency": Fact("opaque", LabelSource.OWN)}
    assert kinds("PB29", own=over, claims={"transparency": "transparent"}) == [Doubt.CONTRADICTED]
    assert kinds("PB29", own=over, claims={"transparency": "semi-opaque"}) == []
    assert kinds("PB29", own=over) == []  # what is usual of the pigment is no claim of the label
    (caution,) = doubts("Moss", "PB29", label_of("PB29", TABLE, {"transparency": "transparent"}, over), {})
    assert "opaque" in caution.words and "transparent" in caution.words


def test_a_fugitive_paint_says_which_pigment_and_from_where_it_is_known():
    label = label_of("PB29 PR83", TABLE)
    (caution,) = doubts("Plum", "PB29 PR83", label, {})
    assert "PR83" in caution.words and "PB29" not in caution.words and "typical" in caution.words


def test_the_most_serious_comes_first_and_says_how_many_more():
    codes = "PR83 PW6 PBk7"
    found = doubts("Cobalt rose", codes, label_of(codes, TABLE), {})
    assert [caution.kind for caution in found] == [Doubt.FUGITIVE, Doubt.MISNAMED, Doubt.MANY]
    assert most_serious(found).endswith("(+2)")
    assert most_serious(found[:1]) == found[0].words
    assert most_serious([]) == ""
