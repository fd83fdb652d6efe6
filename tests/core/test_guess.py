"""Training the eye: what is asked, what is never asked, and that the painted cell is the answer."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.recipe import mix
from culmo.core.palette.guess import (
    DRAW_OPTIONS,
    KINDS,
    PARTS_OF,
    GuessKind,
    Material,
    Truth,
    ask,
    draw,
    missed_by,
    mixed,
    nearest_mix,
    slider_place,
    why_not,
)
from culmo.core.palette.lattice import build_lattice
from culmo.errors import CulmoError
from support.boxes import make_mixer


@pytest.fixture(scope="module")
def lattice():
    return build_lattice(make_mixer(12, 6))


def all_read(lattice, painted=()):
    return Material(lattice, frozenset(name.casefold() for name in lattice.names), painted)


def off(lattice, recipe, shift):
    """A cell that came out otherwise than predicted."""
    return Truth(recipe, mixed(lattice.mixer, recipe) + np.array(shift, dtype=float), where="Sheet nine")


def test_questions_have_one_right_answer_among_near_ones(lattice):
    rng = np.random.default_rng(3)
    kinds = set()
    for _ in range(40):
        question = ask(all_read(lattice), rng)
        kinds.add(question.kind)
        assert not question.truth.painted
        if question.kind == GuessKind.PAINTS:
            assert len(question.candidates) == 4
            assert set(question.names) <= set(question.candidates)
            assert missed_by(question, lattice.mixer, question.names[::-1]) == 0.0
            continue
        away = delta_e_00(question.options, question.lab)
        assert away[question.right] == pytest.approx(0.0, abs=1e-9)
        assert np.sort(away)[1] >= 5.0
        assert missed_by(question, lattice.mixer, question.right) == pytest.approx(0.0, abs=1e-9)
        wrong = (question.right + 1) % 4
        assert missed_by(question, lattice.mixer, wrong) == pytest.approx(float(away[wrong]))
        assert missed_by(question, lattice.mixer, question.parts) == pytest.approx(0.0, abs=1e-9)
    assert kinds == {GuessKind.WHICH, GuessKind.PARTS, GuessKind.PAINTS}  # nothing was read wet


def test_what_was_painted_is_the_answer_and_not_what_was_predicted(lattice):
    rng = np.random.default_rng(4)
    names = lattice.names
    painted = [off(lattice, mix([names[i], names[i + 1]], [3, 1]), (-9.0, 4.0, 2.0)) for i in range(6)]
    material = Material(lattice, frozenset(), painted)  # none of the paints alone: only cells are known
    for kind in (GuessKind.WHICH, GuessKind.PARTS):
        for _ in range(12):
            question = ask(material, rng, [kind])
            assert question.truth.painted
            assert question.truth.where == "Sheet nine"
            assert any(question.truth is one for one in painted)
            if kind == GuessKind.WHICH:
                assert np.allclose(question.options[question.right], question.lab)
                # what is predicted of the mix is not offered beside what was painted
                predicted = mixed(lattice.mixer, question.recipe)
                others = np.delete(question.options, question.right, axis=0)
                assert delta_e_00(others, predicted).min() >= 3.0
            else:
                place = slider_place(question.recipe)
                assert missed_by(question, lattice.mixer, (PARTS_OF - place, place)) == pytest.approx(
                    0.0, abs=1e-9
                )
                assert missed_by(question, lattice.mixer, (1, 11)) > 0.5


def test_unread_paints_are_never_a_truth(lattice):
    rng = np.random.default_rng(5)
    read = frozenset(name.casefold() for name in lattice.names[:4])
    material = Material(
        lattice, read, [off(lattice, mix([lattice.names[8], lattice.names[9]]), (1.0, 1.0, 1.0))]
    )
    for _ in range(60):
        question = ask(material, rng)
        if not question.truth.painted:
            assert {name.casefold() for name in question.names} <= read
        if question.kind == GuessKind.PAINTS:
            assert {name.casefold() for name in question.candidates} <= read
    for kind in (GuessKind.WHICH, GuessKind.PARTS, GuessKind.PAINTS, GuessKind.DRIES):
        bare = Material(lattice, frozenset(), [])
        assert why_not(bare, kind)
        with pytest.raises(CulmoError):
            ask(bare, rng, [kind])


@pytest.mark.parametrize("count", [4, 3, 0])
def test_two_paints_are_chosen_out_of_some_that_would_not_do_as_well(lattice, count):
    rng = np.random.default_rng(6)
    clear = 0
    for _ in range(12):
        question = ask(all_read(lattice), rng, [GuessKind.PAINTS], count)
        assert len(set(question.candidates)) == (count or len(lattice.names))
        others = [
            pair
            for pair in itertools.combinations(question.candidates, 2)
            if set(pair) != set(question.names)
        ]
        away = min(nearest_mix(lattice.mixer, pair, question.lab, question.wash) for pair in others)
        clear += away >= 2.0
        worst = max(others, key=lambda pair: nearest_mix(lattice.mixer, pair, question.lab, question.wash))
        assert missed_by(question, lattice.mixer, worst) > 2.0
    assert count == 0 or clear >= 9  # what comes as near would make a riddle of it


def test_two_paints_are_held_against_the_nearest_they_get(lattice):
    """Looked for apart from the code: in hundredths of parts."""
    question = ask(all_read(lattice), np.random.default_rng(8), [GuessKind.PAINTS])
    pair = next(p for p in itertools.combinations(question.candidates, 2) if set(p) != set(question.names))
    dense = min(
        float(delta_e_00(mixed(lattice.mixer, mix(pair, [k, 100 - k], question.wash)), question.lab))
        for k in range(1, 100)
    )
    assert missed_by(question, lattice.mixer, pair) == pytest.approx(dense, abs=0.6)


def test_a_wet_puddle_is_asked_for_only_where_it_was_read_wet(lattice):
    rng = np.random.default_rng(7)
    recipe = mix([lattice.names[0], lattice.names[3]], [2, 1])
    dry = mixed(lattice.mixer, recipe)
    wet = dry + np.array([-8.0, 5.0, -3.0])
    question = ask(all_read(lattice, [Truth(recipe, dry, where="Card", wet=wet)]), rng, [GuessKind.DRIES])
    assert question.kind == GuessKind.DRIES
    assert np.allclose(question.truth.wet, wet)
    away = delta_e_00(question.options, dry)
    assert np.argmin(away) == question.right
    assert np.sort(away)[1] > 2.5
    assert delta_e_00(question.options, wet).min() < 0.1  # those who forget drying find what they look for
    with pytest.raises(CulmoError, match="wet"):
        ask(all_read(lattice), rng, [GuessKind.DRIES])


def test_a_pair_is_drawn_that_was_not_painted_yet(lattice):
    rng = np.random.default_rng(9)
    names = [name.casefold() for name in lattice.names]
    pairs = [frozenset(pair) for pair in itertools.combinations(names, 2)]
    done = [pair for pair in pairs if names[0] not in pair and names[1] not in pair]
    for _ in range(25):
        drawn = draw(lattice, done, rng)
        assert frozenset(name.casefold() for name in drawn.recipe.names) not in done
        assert drawn.options.shape == (DRAW_OPTIONS, 3)
        assert delta_e_00(drawn.options, drawn.predicted).min() < 0.1
        assert min(float(delta_e_00(a, b)) for a, b in itertools.combinations(drawn.options, 2)) >= 2.9
        assert (np.diff(drawn.options[:, 0]) <= 0).all()
    assert len(draw(lattice, pairs, rng).recipe.names) == 2  # where all were painted, any
    with pytest.raises(CulmoError, match="two paints"):
        draw(build_lattice(make_mixer(1, 0)), [], rng)


def test_a_box_of_one_paint_asks_nothing(lattice):
    one = build_lattice(make_mixer(1, 0))
    assert all(why_not(all_read(one), kind) for kind in KINDS)


@pytest.mark.long
def test_a_drawn_pair_is_of_two_paints_however_alike_they_are():
    two = make_mixer(2, 6)
    alike = build_lattice(replace(two, K=two.K[[0, 0]] * np.array([[1.0], [1.01]]), S=two.S[[0, 0]]))
    for seed in range(40):
        assert set(draw(alike, (), np.random.default_rng(seed)).recipe.names) == set(alike.names)
