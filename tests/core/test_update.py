"""One more reading of very many paints: brought up to date it says what learning everything anew says."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint import estimate as learning
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.predict import predict
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.paint.update import MOST_NEW
from support.paints import make_painter


@pytest.fixture
def studio(monkeypatch):
    """Eight paints, their cards and forty mixes; they count as very many."""
    monkeypatch.setattr(learning, "_MANY", 0)
    painter = make_painter(8, seed=11)
    names = [paint.name for paint in painter.paints]
    recipes = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.3)]
    order = np.random.default_rng(3).permutation(len(recipes))
    readings = painter.cards() + [painter.read(recipes[place]) for place in order[:40]]
    later = [
        replace(painter.read(recipes[place]), extra=f"later {place}")
        for place in order[40 : 40 + MOST_NEW + 1]
    ]
    return names, recipes, readings, later


def _anew(monkeypatch, names: list[str], readings: list[Reading], earlier: Estimate) -> Estimate:
    with monkeypatch.context() as patch:
        patch.setattr(learning, "_MANY", 10**9)
        return learn(names, readings, earlier=earlier)


def _apart(one: Estimate, other: Estimate, recipes: list[Recipe]) -> tuple[float, float]:
    """The largest differences of the colours, and of the radii as a share."""
    a, b = predict(one, recipes), predict(other, recipes)
    return float(delta_e_00(a.lab, b.lab).max()), float(np.abs(np.log(a.dE90 / b.dE90)).max())


@pytest.mark.parametrize("count", [1, 3, 8])
def test_readings_that_come_are_learned_from(studio, monkeypatch, count):
    names, recipes, readings, later = studio
    before = learn(names, readings)
    assert before.settled
    # far from what was predicted, so that there is something to learn
    odd = [replace(one, lab=(one.lab[0] - 5.0, one.lab[1] + 4.0, one.lab[2])) for one in later[:count]]
    soon, anew = (
        learn(names, readings + odd, earlier=before),
        _anew(monkeypatch, names, readings + odd, before),
    )
    assert (before.brought_up, soon.brought_up, anew.brought_up) == (0, count, 0)
    assert soon.readings == anew.readings and len(soon.weights) == len(readings) + count
    moved, _ = _apart(before, anew, recipes)
    apart, radii = _apart(soon, anew, recipes)
    assert moved > 0.1 and apart < 0.4 * moved and radii < 0.2


def test_a_reading_that_goes_again_was_never_there(studio):
    names, recipes, readings, later = studio
    before = learn(names, readings)
    with_it = learn(names, [*readings, later[0]], earlier=before)
    without = learn(names, readings, earlier=with_it)
    assert without.brought_up == 2
    moved, _ = _apart(before, with_it, recipes)
    apart, radii = _apart(before, without, recipes)
    assert moved > 0.05 and apart < 0.2 * moved and radii < 0.02


def test_readings_of_one_puddle_come_together(studio, monkeypatch):
    """A second cell of a puddle makes another thing of the first."""
    names, recipes, readings, _ = studio
    first = replace(readings[-1], puddle=5)
    thin = first.recipe.with_wash(0.55)
    readings = [*readings[:-1], first]
    before = learn(names, readings)
    lab = predict(before, [thin]).lab[0] + [-4.0, 3.0, 0.0]
    second = Reading(thin, tuple(lab), puddle=5, extra="second")
    soon, anew = (
        learn(names, [*readings, second], earlier=before),
        _anew(monkeypatch, names, [*readings, second], before),
    )
    alone = learn(names, [*readings, replace(second, puddle=None)], earlier=before)
    assert soon.brought_up == 2 and alone.brought_up == 1  # both of the puddle were taken out and put in
    assert _apart(soon, anew, recipes)[0] < 0.6 * _apart(before, anew, recipes)[0]
    assert _apart(soon, alone, recipes)[0] > 0.02


def test_now_and_then_everything_is_learned_together(studio):
    names, _, readings, later = studio
    found = learn(names, readings)
    counts = []
    for count in range(1, MOST_NEW + 2):
        found = learn(names, readings + later[:count], earlier=found)
        counts.append(found.brought_up)
    assert counts == [*range(1, MOST_NEW + 1), 0]
    assert learn(names, readings + later, earlier=learn(names, readings)).brought_up == 0  # too many at once


@pytest.mark.parametrize("what", ["another paint", "another paper", "not settled", "another day"])
def test_what_can_not_be_compared_is_learned_anew(studio, what):
    names, _, readings, later = studio
    before = learn(names, readings)
    more = [*readings, later[0]]
    if what == "another paint":
        found = learn([*names, "One more"], more, earlier=before)
    elif what == "another paper":
        found = learn(names, [*more, Reading(Recipe(), (90.0, 0.0, 8.0), paper="Toned")], earlier=before)
    elif what == "not settled":
        found = learn(names, more, earlier=replace(before, settled=False))
    else:
        found = learn(names, more, earlier=replace(before, problem=None))
    assert found.brought_up == 0 and found.readings >= len(more)


def test_what_no_slope_tells_is_learned_anew(studio):
    """Of a paint of which nothing was known a card tells so much that the step from there is none."""
    names, _, readings, _ = studio
    card = [one for one in readings if one.recipe.names == (names[0],)]
    rest = [one for one in readings if names[0] not in one.recipe.names]
    before = learn(names, rest)
    assert before.settled
    found = learn(names, rest + card[:1], earlier=before)
    assert found.brought_up == 0
    assert delta_e_00(predict(found, [card[0].recipe]).lab[0], card[0].lab) < 1.5


def test_what_was_unsure_may_be_far_off(studio, monkeypatch):
    """A paint of which only general knowledge was there gets its card: that is no dirty cell."""
    names, _, readings, _ = studio
    card = [one for one in readings if one.recipe.names == (names[0],)]
    rest = [one for one in readings if names[0] not in one.recipe.names]
    typical = [(replace(one, lab=(one.lab[0], 0.85 * one.lab[1], 0.85 * one.lab[2])), 4.0) for one in card]
    before = learn(names, rest, typical)
    soon = learn(names, rest + card, [], earlier=before)
    assert soon.brought_up == 3
    with monkeypatch.context() as patch:
        patch.setattr(learning, "_MANY", 10**9)
        anew = learn(names, rest + card, [], earlier=before)
    own = [one.recipe for one in card]
    moved = delta_e_00(predict(before, own).lab, [one.lab for one in card]).max()
    assert moved > 2.5
    assert delta_e_00(predict(soon, own).lab, predict(anew, own).lab).max() < 0.1 * moved


def test_few_paints_are_always_learned_together():
    painter = make_painter(4, seed=2)
    names = [paint.name for paint in painter.paints]
    before = learn(names, painter.cards())
    assert learn(names, [*painter.cards(), painter.read(mix(names[:2]))], earlier=before).brought_up == 0
