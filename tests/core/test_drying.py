"""What drying does: to each paint, found again from mixes, and in words that say what is seen."""

import numpy as np
import pytest

from culmo.core.paint.drying import drying_of_paints, drying_shift, signed
from culmo.core.paint.recipe import mix


def test_shifts_belong_to_the_paint_that_has_them():
    rng = np.random.default_rng(0)
    own = {"rose": np.array([4.0, -3, 0]), "lemon": np.array([1.0, 0, 0]), "ochre": np.array([8.0, 0, -2])}
    pairs = []
    for one, two in (
        ("Rose", "Lemon"), ("Lemon", "Ochre"), ("Rose", "Ochre"), ("Rose", "Rose"), ("Ochre", "Ochre"),
    ):  # fmt: skip
        for parts in ((1, 1), (3, 1), (1, 3)):
            recipe = mix([one, two] if one != two else [one], parts if one != two else [1])
            share = dict.fromkeys(own, 0.0)
            total = sum(p.parts for p in recipe.layers[0].parts)
            for part in recipe.layers[0].parts:
                share[part.name.casefold()] += part.parts / total
            wet = rng.uniform(20, 60, 3)
            pairs.append((recipe, wet, wet + sum(share[n] * own[n] for n in own) + rng.normal(0, 0.2, 3)))
    found = drying_of_paints(pairs)
    for name, shift in own.items():
        assert np.abs(found[name][0] - shift).max() < 0.8
    assert drying_of_paints([]) == {}


@pytest.mark.parametrize(
    ("wet", "dry", "words"),
    [
        ((40, 30, 0), (41, 30, 0), "hardly changes as it dries"),
        ((40, 50, 0), (44, 44, 0), "dries lighter and duller"),
        ((40, 50, 0), (52, 50, 0), "dries much lighter"),
        ((60, 30, 0), (50, 33, 0), "dries much darker and cleaner"),
        ((50, 0, 50), (50, 20, 45), "dries of another hue"),
        ((50, 3, 0), (50, -3, 0), "changes a little as it dries"),  # a grey has no hue to turn
    ],
)
def test_drying_is_told_as_it_is_seen(wet, dry, words):
    shift = drying_shift([(np.array(wet, float), np.array(dry, float))])
    assert shift.words == words


def test_hue_turns_the_short_way_and_over_several_cells():
    at = lambda hue: np.array([50.0, 40 * np.cos(np.radians(hue)), 40 * np.sin(np.radians(hue))])  # noqa: E731
    shift = drying_shift([(at(355), at(5)), (at(350), at(4))])
    assert shift.hue == pytest.approx(12.0)
    assert shift.count == 2
    assert drying_shift([]) is None


def test_no_change_bears_no_sign():
    assert (signed(-0.2), signed(0.04, 1), signed(12.4), signed(-3.26, 1)) == ("0", "0.0", "+12", "−3.3")
