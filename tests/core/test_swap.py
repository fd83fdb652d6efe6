"""One paint for another: held against a count by hand, and against plain mixes of numbers instead of paints."""

from itertools import combinations

import numpy as np
import pytest

from culmo.core.paint.label import label_of
from culmo.core.paint.recipe import parse_recipe
from culmo.core.palette.choose import describe, what_if
from culmo.core.palette.conditions import Conditions, Having, Kinds, rules_of
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.reach import Measure, tabulate, value_of
from culmo.core.palette.swap import exchanged, turned, with_other
from culmo.data import pigment_table
from culmo.errors import CulmoError
from support.boxes import make_mixer

GREYS = {
    "a": 20.0,
    "b": 50.0,
    "c": 55.0,
    "d": 90.0,
}  # "paints" that are only a lightness, mixed by their parts


def look(recipes):
    """Greys whose lightness is the mean of the parts: no model of paint."""
    found = []
    for recipe in recipes:
        parts = [(part.name.casefold(), part.parts) for part in recipe.layers[0].parts]
        found.append([sum(GREYS[name] * n for name, n in parts) / sum(n for _, n in parts), 0.0, 0.0])
    return np.array(found)


def test_the_same_mixes_with_another_paint_the_largest_change_first():
    recipes = [parse_recipe(text) for text in ("A + B:9", "A", "A + B", "B", "a", "C + D")]
    found = exchanged(recipes, "A", "D", look)
    assert [str(one.before).casefold() for one in found] == ["a", "a + b", "a + b:9"]
    assert [one.was[0] for one in found] == pytest.approx([20.0, 35.0, 47.0])
    assert [one.now[0] for one in found] == pytest.approx([90.0, 70.0, 54.0])
    assert found[0].away > found[1].away > found[2].away > 0


def test_where_the_other_is_in_the_mix_already_its_parts_grow():
    swapped = with_other(parse_recipe("A:2 + B:3 + C:1 @ 0.5"), "a", "B")
    assert [(part.name, part.parts) for part in swapped.layers[0].parts] == [("B", 5.0), ("C", 1.0)]
    assert swapped.layers[0].wash == 0.5
    glazed = with_other(parse_recipe("A over C + A"), "A", "D")
    assert glazed.names == ("D", "C")


@pytest.mark.parametrize(
    ("out", "into", "words"), [("A", "a", "changes nothing"), ("D", "A", "no mix holds")]
)
def test_a_swap_of_nothing_is_refused(out, into, words):
    with pytest.raises(CulmoError, match=words):
        exchanged([parse_recipe("A + B")], out, into, look)


def test_what_is_lost_and_gained_is_what_one_counts():
    table = tabulate(build_lattice(make_mixer(8, 3)), Measure())
    before, after = (table.reached(table.reach(paints)) for paints in ([0, 1, 2, 3], [0, 1, 2, 6]))
    turns = turned(table, before, after)
    assert sum(turn.lost for turn in turns) == int((before & ~after).sum()) > 0
    assert sum(turn.gained for turn in turns) == int((after & ~before).sum()) > 0
    sizes = [turn.lost + turn.gained for turn in turns]
    assert sizes == sorted(sizes, reverse=True)
    for turn in turns:
        own = [i for i, lab in enumerate(table.lab) if describe(lab) == turn.words]
        assert len(turn.before) == sum(before[i] for i in own)
        assert len(turn.after) == sum(after[i] for i in own)
        gone = {tuple(table.lab[i]) for i in own if before[i] and not after[i]}
        assert {tuple(lab) for lab in turn.before[: turn.lost]} == gone  # what goes comes first
    assert turned(table, before, before) == []


def test_no_suggested_change_breaks_a_condition():
    """Each change that is let through leaves what was met, tried one by one on all palettes of four."""
    codes = ("PY150", "PY150 + PG7", "PR83", "PB29", "PW6", "PBk9")
    labels = tuple(label_of(code, pigment_table()) for code in codes)
    some = Kinds(tuple(f"P{i}" for i in range(6)), labels, frozenset({4}), frozenset({3, 5}), {})
    asked = Conditions(keep=("P0", "gone"), avoid=("P1",), lightfast=True, dark=Having.WITH)
    rules = rules_of(some, asked)
    fades = {i for i, label in enumerate(labels) if label.lightfastness not in ("excellent", "very good")}
    assert 2 in fades
    for paints in combinations(range(6), 4):
        for out in (*paints, None):
            for into in (*(i for i in range(6) if i not in paints), None):
                after = (set(paints) - {out}) | ({into} - {None})
                breaks = out == 0 or into in fades | {1} or bool({3, 5} & set(paints) and not {3, 5} & after)
                assert rules.lets(paints, out, into) == (not breaks), (paints, out, into)


def test_swaps_are_offered_within_the_conditions():
    value = value_of(tabulate(build_lattice(make_mixer(6, 4))), Measure())
    labels = tuple(label_of("PB29", pigment_table()) for _ in range(6))
    some = Kinds(tuple(f"P{i}" for i in range(6)), labels)
    rules = rules_of(some, Conditions(keep=("P0",), avoid=("P5",)))
    swaps = what_if(value, [0, 1, 2]).best_swaps(9, rules)
    assert {swap.out for swap in swaps} == {1, 2}
    assert {swap.into for swap in swaps} <= {3, 4}
