"""The page of advice: what a practised painter would not say must not stand there."""

import pytest
from tools.advice_page import Box, advice, boxes


def said(*lines):
    return "\n".join(advice(Box("A box", lines)))


def test_of_two_alike_the_one_that_fades_is_weak_and_not_the_one_that_keeps():
    text = said("Madder PR83", "Anthra PR177", "Lemon PY175", "Ultramarine PB29")
    assert "Weak: **Madder**: fades" in text
    assert "Weak: **Anthra**" not in text


def test_a_double_is_not_to_be_replaced_by_what_looks_like_it():
    text = said("Ultramarine PB29", "French blue PB29", "Lemon PY175", "Rose PV19")
    line = next(line for line in text.splitlines() if line.startswith("- Weak: **French blue**"))
    assert "hardly differs from Ultramarine" in line and "Instead" not in line


def test_greens_alone_grey_nothing_and_fill_no_role_of_another_hue():
    text = said("Phthalo green PG7", "Viridian PG18", "Yellow green PG36")
    assert (
        "Greyed:" not in text and "Not greyed by anything here: Phthalo green, Viridian, Yellow green" in text
    )
    empty = next(line for line in text.splitlines() if line.startswith("- Left empty"))
    assert all(role in empty for role in ("Warm red", "Cool red", "Warm yellow", "Warm blue"))
    assert "flowers 0 of 12" in text


def test_what_nothing_is_known_of_takes_no_part():
    text = said("Lemon PY175", "Rose PV19", "Phthalo blue PB15", "Gift tube")
    assert "Nothing is known of gift tube" in text
    assert text.count("Gift tube") == 1


@pytest.mark.parametrize("place", range(10))
def test_the_page_has_ten_boxes_of_paints_that_are_told_apart(place):
    box = boxes()[place]
    assert len({line.casefold() for line in box.lines}) == len(box.lines) >= 3
