"""The recipe text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.paint.recipe import FULL, Layer, Part, Recipe, mix, parse_recipe, spoken_recipe
from culmo.errors import CulmoError

names = st.one_of(
    st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=12).filter(
        lambda t: t.strip()
    ),
    st.sampled_from(
        ["a + b", "x over y", "over", "+", "+ x", "y +", 'say "so"', "a:b", "c@d", "-", " padded ", "Ocker é"]
    ),
)
numbers = st.one_of(st.integers(1, 20).map(float), st.floats(0.001, 1000))
layers = st.builds(
    Layer,
    st.lists(st.builds(Part, names, numbers), min_size=1, max_size=4).map(tuple),
    st.one_of(st.sampled_from([1.0, 0.2]), st.floats(0.001, 1)),
)
recipes = st.builds(Recipe, st.lists(layers, min_size=0, max_size=3).map(tuple))


@given(recipes)
def test_text_to_recipe_to_text_is_stable(recipe):
    text = str(recipe)
    assert parse_recipe(text) == recipe
    assert str(parse_recipe(text)) == text


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("Rose:3 + Ultramarine", mix(["Rose", "Ultramarine"], [3, 1])),
        ("Lemon @ tint", mix(["Lemon"], wash=0.2)),
        ("  Lemon  @  full ", mix(["Lemon"])),
        ("Sepia @ 0.2 over Lemon @ full", Recipe(mix(["Sepia"], wash=0.2).layers + mix(["Lemon"]).layers)),
        ('"Red + White":2 + Blue', mix(["Red + White", "Blue"], [2, 1])),
        ("-", Recipe()),
    ],
)
def test_the_examples_of_the_formats_page(text, expected):
    assert parse_recipe(text) == expected


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("", 1), ("Rose + ", 8), ("Rose:", 6), ("Rose:x", 6), ("Rose:0", 1), ("Rose @ 2", 1), ("Rose @ 0", 1),
        ('"Rose', 1), ("Rose @ tint + Lemon", 14), ("Rose:1:2", 8), ("Rose over ", 11), ('"a" b', 5), ("Rose:nan", 1),
    ],
)  # fmt: skip
def test_bad_text_is_told_where(text, place):
    with pytest.raises(CulmoError, match=f"character {place}:"):
        parse_recipe(text)


def test_names_match_without_case_and_order_does_not_count_in_the_key():
    assert parse_recipe("rose + LEMON:2").key == parse_recipe("Lemon:4 + Rose:2").key
    assert parse_recipe("Rose + Lemon").key != parse_recipe("Rose + Lemon @ tint").key


def test_spoken():
    assert spoken_recipe(parse_recipe("Rose + Lemon @ tint over Ochre")) == "Rose + Lemon, tint over Ochre"
    assert spoken_recipe(Recipe()) == "bare paper"


def test_a_very_long_text_is_refused():
    with pytest.raises(CulmoError, match="too long"):
        parse_recipe("x" * 5000)


@given(recipes)
def test_a_recipe_is_the_same_key_however_it_was_made(recipe):
    again = parse_recipe(str(recipe))
    assert hash(again) == hash(recipe)
    assert {recipe: 1}[again] == 1
    assert recipe.full == recipe.with_wash(FULL)
    assert recipe.full.full == recipe.full
    if recipe.layers and recipe.layers[0].wash != FULL:
        assert recipe.full != recipe
