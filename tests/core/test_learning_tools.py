"""What to paint next, even steps, the middle, why, matching, and what is typical."""

import itertools
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.difference import delta_e_00, local_metric
from culmo.core.colour.spectral import WARM_LAMP
from culmo.core.paint.estimate import learn
from culmo.core.paint.label import label_of
from culmo.core.paint.next_cells import choose_next, worth_of
from culmo.core.paint.optics import linearise
from culmo.core.paint.pigments import (
    codes_in,
    read_places,
    typical_card,
    typical_readings,
)
from culmo.core.paint.predict import batch_for, predict, predict_lab
from culmo.core.paint.questions import about_colour, about_darks, about_paints
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix
from culmo.core.paint.steps import even_steps, middle
from culmo.core.paint.wash import THICKNESSES, stroke_tables, wash_table
from culmo.core.paint.why import explain
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.match import nearest_recipes
from culmo.core.palette.mixer import mixer_of
from culmo.data import pigment_table
from culmo.errors import CulmoError
from support.paints import make_painter


@pytest.fixture(scope="module")
def of_ten():
    painter = make_painter(10, seed=4)
    names = [paint.name for paint in painter.paints]
    cards = painter.cards()
    return names, cards, learn(names, cards)


@pytest.fixture
def ten(of_ten):
    """The painter of the ten, whose hand no other test has moved since the cards; names, cards, what they tell."""
    painter = make_painter(10, seed=4)
    painter.cards()
    return painter, *of_ten


# ---- next


def test_next_chooses_unread_cells_each_once(ten):
    _, names, _, estimate = ten
    recipes = [mix(pair) for pair in itertools.combinations(names, 2)]
    read = [i % 2 == 0 for i in range(len(recipes))]
    chosen = choose_next(estimate, recipes, 8, read)
    assert len(set(chosen)) == 8
    assert not any(read[place] for place in chosen)
    assert choose_next(estimate, recipes, 0) == []
    assert choose_next(estimate, [], 5) == []
    assert len(choose_next(estimate, recipes[:3], 50)) == 3


def test_next_lowers_the_doubt_of_the_sheet_more_than_chance(ten):
    painter, names, cards, estimate = ten
    recipes = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
    readings = [painter.read(recipe) for recipe in recipes]

    def doubt(places):
        return np.median(predict(learn(names, cards + [readings[i] for i in places]), recipes).dE90)

    rng = np.random.default_rng(0)
    chance = np.mean([doubt(rng.choice(len(recipes), 12, replace=False)) for _ in range(3)])
    assert doubt(choose_next(estimate, recipes, 12)) < chance


def test_a_read_twin_is_not_chosen_again(ten):
    _, names, _, estimate = ten
    twin = mix(names[:2])
    others = [mix(pair) for pair in itertools.combinations(names[2:8], 2)]
    chosen = choose_next(estimate, [twin, twin, *others], 6)
    assert not {0, 1} <= set(chosen)


def _sheet(names):
    return [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.45, 0.2)]


def test_a_question_is_asked_of_its_own_paints(ten):
    _, names, _, estimate = ten
    recipes = _sheet(names)
    question = about_paints(names[:4])
    assert all(set(recipe.names) <= set(names[:4]) for recipe in question.recipes)
    assert {len(recipe.names) for recipe in question.recipes} == {1, 2}
    chosen = choose_next(estimate, recipes, 8, question=question)
    own = [sum(name in names[:4] for name in recipes[place].names) for place in chosen]
    assert min(own) >= 1 and np.mean(own) > 1.5  # of all cells it would be 0.8
    whole = choose_next(estimate, recipes, 8)
    assert np.mean([sum(name in names[:4] for name in recipes[place].names) for place in whole]) < np.mean(
        own
    )


def test_a_question_of_a_colour_asks_for_what_comes_near_it(ten):
    painter, names, _, estimate = ten
    lab = painter.mean_lab(mix(names[2:4], wash=0.5))
    question = about_colour(estimate, lab, names)
    away = delta_e_00(predict_lab(estimate, list(question.recipes)), lab)
    nearest = np.argsort(away)
    assert question.weights[nearest[0]] == pytest.approx(1.0)
    assert (np.diff(question.weights[nearest]) <= 1e-12).all()
    assert away.max() < away.min() + 12.0
    assert any(set(recipe.names) == set(names[2:4]) for recipe in question.recipes)


def test_a_question_of_the_darks_asks_for_dark_full_washes(ten):
    _, names, _, estimate = ten
    question = about_darks(estimate, names)
    lightness = predict_lab(estimate, list(question.recipes))[:, 0]
    assert {recipe.layers[0].wash for recipe in question.recipes} == {1.0}
    everything = predict_lab(estimate, _sheet(names))[:, 0]
    assert lightness.min() <= everything.min() + 1e-9 and lightness.max() < np.median(everything)


def test_a_question_about_one_paint_and_of_an_odd_colour_is_answered(ten):
    _, names, _, estimate = ten
    recipes = _sheet(names)
    for question in (
        about_paints(names[:1]),
        about_colour(estimate, np.array([0.0, 128.0, -128.0]), names[:1]),
    ):
        chosen = choose_next(estimate, recipes, 3, question=question)
        assert names[0] in recipes[chosen[0]].names


def test_what_a_choice_is_worth(ten):
    _, names, _, estimate = ten
    recipes = _sheet(names)
    read = [place % 5 == 0 for place in range(len(recipes))]
    for question in (None, about_paints(names[:4])):
        chosen = choose_next(estimate, recipes, 8, read, question=question)
        worth = worth_of(estimate, recipes, chosen, read, question=question)
        assert worth.chosen == 8 and 8 <= worth.at_random <= 24
        assert worth.after < worth.before
        poor = worth_of(estimate, recipes, [p for p in range(1, 11) if p % 5][:8], read, question=question)
        assert poor.after > worth.after
    # a question that few cells have to do with gains more by choosing
    assert (
        worth.at_random > worth_of(estimate, recipes, choose_next(estimate, recipes, 8, read), read).at_random
    )
    nothing = worth_of(estimate, recipes, [])
    assert (nothing.chosen, nothing.at_random) == (0, 0)
    everything = [True] * (len(recipes) - 2) + [False] * 2
    last = choose_next(estimate, recipes, 8, everything)
    assert worth_of(estimate, recipes, last, everything).at_random == 2


def test_what_is_left_is_what_the_posterior_leaves(ten):
    """Held against the joint estimate brought up to date the long way."""
    _, names, _, estimate = ten
    recipes = _sheet(names[:4])
    chosen = choose_next(estimate, recipes, 3)
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, recipes))
    jacobian, own = linear.jacobian.dense(), estimate.hand.covariance(linear)
    precision = np.linalg.inv(estimate.covariance)
    for place in chosen:
        precision += jacobian[place].T @ np.linalg.inv(own[place]) @ jacobian[place]
    left = jacobian @ np.linalg.inv(precision) @ jacobian.transpose(0, 2, 1)
    metric = local_metric(linear.lab, 1.0)
    expected = np.sqrt(np.einsum("nij,nji->n", left, metric)).mean()
    assert worth_of(estimate, recipes, chosen).after == pytest.approx(expected, rel=1e-3)


# ---- steps


@given(st.integers(0, 9), st.integers(0, 9), st.integers(2, 9))
def test_even_steps_run_from_one_paint_to_the_other_in_whole_parts(ten, i, j, count):
    _, names, _, estimate = ten
    if i == j:
        return
    steps = even_steps(estimate, names[i], names[j], count)
    assert steps[0].parts == (1, 0)
    assert steps[-1].parts == (0, 1)
    assert all(sum(step.parts) <= 48 for step in steps)
    shares = [b / (a + b) for a, b in (step.parts for step in steps)]
    assert all(earlier < later for earlier, later in pairwise(shares))  # no two neighbours are the same
    assert all(step.off >= 0 for step in steps)


@pytest.mark.parametrize("count", [7, 9, 13])
def test_no_gap_of_a_row_of_steps_stands_out(count):
    """The truth that the simulated paints are made of tells the gaps, once some of their mixes were read."""
    painter = make_painter(10, 3)
    names = [paint.name for paint in painter.paints]
    pairs = ((0, 1), (0, 4), (2, 9), (6, 8))
    taught = [
        painter.read(mix([names[a], names[b]], parts))
        for a, b in pairs
        for parts in ((3, 1), (1, 1), (1, 3), (1, 9))
    ]
    estimate = learn(names, [*painter.cards(), *taught])
    for first, second in pairs:
        steps = even_steps(estimate, names[first], names[second], count)
        lab = np.array(
            [lab_from_reflectance(painter.reflectance(step.recipe, wander=False)) for step in steps]
        )
        gaps = delta_e_00(lab[1:], lab[:-1])
        assert gaps.min() > 0.1 * gaps.mean()  # no two neighbours look the same
        assert gaps.max() < 2.2 * gaps.mean()


def test_steps_are_even_where_parts_may_be_large(ten):
    _, names, _, estimate = ten
    steps = even_steps(estimate, names[0], names[3], 6, most_parts=120)
    gaps = delta_e_00(np.array([s.lab for s in steps[1:]]), np.array([s.lab for s in steps[:-1]]))
    assert gaps.max() / gaps.min() < 1.6


def test_the_middle_lies_half_way(ten):
    _, names, _, estimate = ten
    step = middle(estimate, names[1], names[4], most_parts=60)
    ends = predict_lab(estimate, [mix([names[1]]), mix([names[4]])])
    away = delta_e_00(ends, step.lab)
    assert 0.5 < away[0] / away[1] < 2.0
    with pytest.raises(CulmoError, match="at least 2"):
        even_steps(estimate, names[0], names[1], 1)


# ---- why


def test_why_names_what_is_missing():
    painter = make_painter(4, seed=8)
    names = [paint.name for paint in painter.paints]
    cards = [r for r in painter.cards() if not (names[0] in r.recipe.names and r.ground == INK)]
    estimate = learn(names, cards)
    doubt = explain(estimate, mix([names[0]]), read_places(cards))
    assert 0 < doubt.hand < 1
    bar = explain(estimate, mix([names[0]], wash=1.0), read_places(painter.cards()))
    assert bar.remedy == ""
    assert "known" in bar.sentence
    missing = [r for r in cards if names[1] not in r.recipe.names]
    found = explain(learn(names, missing), mix([names[1]]), read_places(missing))
    assert found.remedy == f"{names[1]} has no masstone"
    assert "halve" in found.sentence
    assert found.gain > 0.42


def test_why_speaks_of_the_mix_and_of_the_hand(ten):
    painter, names, cards, estimate = ten
    recipe = mix(names[:2])
    first = explain(estimate, recipe, read_places(cards))
    taught = cards + [painter.read(recipe) for _ in range(6)]
    after = explain(
        learn(names, taught), recipe, read_places(taught), {frozenset(n.casefold() for n in names[:2])}
    )
    assert after.hand > first.hand
    assert "slip in the parts" in after.sentence or "water" in after.sentence


# ---- match


def test_match_is_as_near_as_a_dense_search(ten):
    _, names, _, estimate = ten
    rng = np.random.default_rng(2)
    for _ in range(4):
        parts = rng.dirichlet(np.ones(3))
        chosen = rng.choice(names, 3, replace=False)
        target = predict_lab(estimate, [mix(chosen, parts + 1e-3, 0.7)])[0]
        found = nearest_recipes(build_lattice(mixer_of(estimate)), target)
        assert [m.away for m in found] == sorted(m.away for m in found)
        assert found[0].away < 4
        assert np.abs(predict_lab(estimate, [m.recipe for m in found]) - [m.lab for m in found]).max() < 1e-6
        assert all(part.parts == int(part.parts) for m in found for part in m.recipe.layers[0].parts)


def test_match_under_conditions(ten):
    _, names, _, estimate = ten
    target = np.array([50.0, 10.0, 10.0])
    for match in nearest_recipes(
        build_lattice(mixer_of(estimate)), target, keep=[names[2]], avoid=[names[0], names[1]], count=20
    ):
        assert names[2] in match.recipe.names
        assert not {names[0], names[1]} & set(match.recipe.names)
    assert all(
        len(m.recipe.names) == 1
        for m in nearest_recipes(build_lattice(mixer_of(estimate)), target, most_paints=1)
    )
    for wrong in (
        {"keep": ["Nobody"]}, {"keep": [names[0]], "avoid": [names[0]]}, {"avoid": names}, {"most_paints": 9},
        {"count": 0}, {"keep": names[:3], "most_paints": 2},
    ):  # fmt: skip
        with pytest.raises(CulmoError):
            nearest_recipes(build_lattice(mixer_of(estimate)), target, **wrong)


# ---- typical


def test_the_table_of_pigments():
    table = pigment_table()
    assert len(table) >= 90
    for code, pigment in table.items():
        assert codes_in(code) == [code]
        assert 0 <= pigment.masstone[0] <= pigment.tint[0] <= 100
        assert pigment.spread > 0
    assert "cadmium" in table["PY35"].caution
    assert table["PR83"].lightfastness == "poor"
    assert table["PB29"].granulation == "high"


@pytest.mark.parametrize(
    ("text", "codes"),
    [("Ultramarine PB29", ["PB29"]), ("pg7+py 150", ["PG7", "PY150"]), ("PBR7, pbk6", ["PBr7", "PBk6"]), ("none", []),
     ("PB15:3 PB15:3", ["PB15:3"])],
)  # fmt: skip
def test_codes_are_found_in_any_spelling(text, codes):
    assert codes_in(text) == codes


def test_a_paint_known_by_its_code_alone_is_typical_and_unsure():
    table = pigment_table()
    readings = typical_readings([("Mine", "PB29"), ("Other", "")], [], table)
    estimate = learn(["Mine", "Other"], [], readings)
    found = predict(estimate, [mix(["Mine"]), mix(["Other"])])
    assert delta_e_00(found.lab[0], np.array(table["PB29"].masstone)) < 5
    assert 4 < found.dE90[0] < found.dE90[1]


def test_a_card_that_is_read_takes_the_place_of_what_is_typical():
    table = pigment_table()
    own = Reading(mix(["Mine"]), (45.0, 10.0, -50.0))
    typical = typical_readings([("Mine", "PB29")], [own], table)
    assert {(r.recipe.layers[0].wash, r.ground) for r, _ in typical} == {(0.2, "paper"), (1.0, "ink")}
    estimate = learn(["Mine"], [own], typical)
    assert delta_e_00(predict_lab(estimate, [mix(["Mine"])])[0], np.array(own.lab)) < 1.5


def test_a_mixture_on_the_label_lies_between_its_pigments():
    table = pigment_table()
    masstone, spread = typical_card("Violet", "PB29 + PV19", table)[0]
    assert masstone.lab[0] < 45
    assert -60 < masstone.lab[2] < 5
    assert masstone.lab[1] > 15
    assert spread > table["PB29"].spread
    assert typical_card("x", "PX99", table) == []
    assert label_of("PB29", table).grain > label_of("PR254", table).grain


# ---- washes and lights


def test_wash_tables_run_from_paper_to_masstone(ten):
    _, names, _, estimate = ten
    paper, ink = stroke_tables(estimate, [mix([name]) for name in names])
    assert paper.shape == (10, len(THICKNESSES), 3)
    assert (np.diff(paper[..., 0], axis=1) <= 1e-6).all()
    assert (ink[:, 0, 0] < 45).all()
    one = int(np.argmin(np.abs(THICKNESSES - 1.0)))
    full = predict_lab(estimate, [mix([name]) for name in names])
    assert delta_e_00(paper[:, one], full).max() < 2
    by_lamp = wash_table(estimate, [mix([names[0]])], light=WARM_LAMP)
    assert np.abs(by_lamp - paper[:1]).max() > 0.5
