"""Lengths and sizes as painters write them."""

import pytest

from culmo import words
from culmo.core.chart.lengths import length_mm, length_text, size_mm, size_text
from culmo.core.chart.papers import find_paper
from culmo.core.paint.recipe import in_proportion
from culmo.errors import CulmoError

INCH = 25.4


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("50 mm", 50), ("50mm", 50), ("5cm", 50), ("5 cm", 50), ("2 in", 2 * INCH), ("2in", 2 * INCH), ('2"', 2 * INCH),
        ('1 1/2"', 1.5 * INCH), ("1½ in", 1.5 * INCH), ("1/4in", INCH / 4), ("1-1/2 in", 1.5 * INCH), ("1,5 cm", 15),
        ("12.5", 12.5), ("2 Zoll", 2 * INCH), ("3 inches", 3 * INCH), (".5 in", INCH / 2), (" 7 ", 7), ("2 IN", 2 * INCH),
        ("2''", 2 * INCH),
    ],
)  # fmt: skip
def test_a_length(text, mm):
    assert length_mm(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("2 in", (2 * INCH, 2 * INCH)), ("2 x 2 in", (2 * INCH, 2 * INCH)), ("2in x 3in", (2 * INCH, 3 * INCH)),
        ("2 x 3", (2, 3)), ("20x15", (20, 15)), ("20 × 15 mm", (20, 15)), ('1 1/2 x 2"', (1.5 * INCH, 2 * INCH)),
        ("2 in x 3", (2 * INCH, 3 * INCH)), ("2 by 3 cm", (20, 30)), ("2,5 x 3,5 cm", (25, 35)), ("1in x 5cm", (INCH, 50)),
    ],
)  # fmt: skip
def test_a_size(text, size):
    assert size_mm(text) == pytest.approx(size)


@pytest.mark.parametrize(
    "text", ["", "x", "2 x", "two", "2 x 3 x 4", "-2", "1/0", "2 ft", "1e3", "nan", "2 2", "2 in in", "²"]
)
def test_what_is_no_size_is_refused_in_words(text):
    with pytest.raises(CulmoError):
        size_mm(text)


def test_a_paper_of_a_size_without_a_unit_is_asked_about():
    assert find_paper("240x320").width_mm == 240
    assert find_paper("9 x 12 in").height_mm == pytest.approx(12 * INCH)
    with pytest.raises(CulmoError, match="says no unit"):
        find_paper("9 x 12")


def test_a_size_is_written_as_it_is_read():
    for size in ((50.8, 38.1), (20.0, 15.5), (3.175, 25.4)):
        for unit in ("mm", "in"):
            assert size_mm(size_text(*size, unit)) == pytest.approx(size, abs=0.8 if unit == "in" else 0.06)


def test_lengths_are_said_with_the_decimal_sign_of_the_place_and_read_again():
    words.use("de", ",")
    try:
        assert size_text(83.5, 123) == "83,5 x 123 mm"
        assert length_text(38.1) == "38,1 mm"
        assert size_mm(size_text(83.5, 123)) == (83.5, 123.0)
        assert in_proportion([1, 2.5]) == "1 : 2,5"
    finally:
        words.use("en", ".")
