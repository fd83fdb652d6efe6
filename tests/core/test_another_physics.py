"""The estimate held against a laboratory of another physics, which shares nothing with it; and that laboratory itself."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.hand import LOADING
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import on_papers, predict
from culmo.core.paint.problem import prepare
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import Recipe, mix, parse_recipe
from culmo.errors import CulmoError
from support.turbid import Hand, all_pairs, angles, make_laboratory, on_top, seen, slab

WASHES = (1.0, 0.45, 0.2)


def straight(at):
    """What turns the radiance straight on into flux."""
    return 1 / (2 * at.mu[-1] * at.weight[-1])


def flux(matrix, at):
    """The share of light straight on that a layer sends out, all directions together."""
    return 2 * float((at.weight * at.mu * matrix[:, -1]).sum()) * straight(at)


# ---- the laboratory


@pytest.mark.parametrize("index", [1.0, 1.38, 1.5])
def test_the_angles_cover_the_half_sphere(index):
    at = angles(index)
    assert at.weight.sum() == pytest.approx(1.0)
    assert (at.weight * at.mu).sum() == pytest.approx(0.5)
    assert at.mu[-1] == pytest.approx(1.0)
    assert ((at.inward == 1.0) == (at.mu < np.sqrt(1 - 1 / index**2))).all() or index == 1.0


def test_a_layer_is_as_it_stands_in_published_tables():
    """Depth 2, albedo 0.9, mean cosine 0.75: van de Hulst (1980), table 35, as light falls straight on."""
    at = angles(1.0, 16)
    R, T = slab(0.2, 1.8, 0.75, at)
    assert flux(R, at) == pytest.approx(0.09739, abs=2e-5)
    assert flux(T, at) == pytest.approx(0.66096, abs=2e-5)


def test_what_has_another_index_is_as_it_stands_in_published_tables():
    """Without end, index 1.5, albedo 0.9, scattering alike to all sides: Giovanelli (1955), the mirror's share among it."""
    at = angles(1.5, 16)
    R, _ = slab(100.0, 900.0, 0.0, at)
    assert float(seen(R, at)) + at.straight == pytest.approx(0.2600, abs=2e-4)


def test_nothing_is_lost_where_nothing_absorbs_and_layers_add_up():
    at = angles(1.0)
    R, T = slab(0.0, 3.0, 0.7, at)
    assert flux(R + T, at) == pytest.approx(1.0, abs=1e-9)
    half, through = slab(0.1, 1.5, 0.7, at)
    whole, _ = slab(0.2, 3.0, 0.7, at)
    assert on_top(half, through, half)[:, -1] == pytest.approx(whole[:, -1], abs=1e-6)


@pytest.fixture(scope="module")
def quiet():
    """A laboratory without a hand's errors."""
    return make_laboratory(5, 11, errors=False)


def test_its_paints_look_like_paints(quiet):
    paper, ink = quiet.mean_lab(Recipe()), quiet.mean_lab(Recipe(), INK)
    assert paper[0] > 80
    assert ink[0] < 25
    for paint in quiet.paints:
        full, tint, over = (
            quiet.mean_lab(mix([paint.name], wash=wash), ground)
            for wash, ground in ((1.0, "paper"), (0.2, "paper"), (1.0, INK))
        )
        assert ink[0] - 3 < over[0] < full[0] < tint[0] < paper[0]


@pytest.mark.parametrize("effect", ["dilution", "uneven", "settling", "sinking"])
def test_each_effect_can_be_left_out(effect):
    whole, without = (make_laboratory(8, 4, errors=False, **kind) for kind in ({}, {effect: False}))
    names = [paint.name for paint in whole.paints]
    apart = [
        float(delta_e_00(whole.mean_lab(recipe), without.mean_lab(recipe)))
        for recipe in (mix(names[:2]), mix(names[2:4], wash=0.2), mix(names[4:8]))
    ]
    assert max(apart) > 0.2
    assert max(apart) < 25


# ---- what is learned of it


def taught(kind, seed, count=60, paints=12):
    """A laboratory, the names of its paints, and what was learned from cards and so many mixes; cells of those left over."""
    painter = make_laboratory(paints, seed, kind)
    names = [paint.name for paint in painter.paints]
    cells = all_pairs(names, WASHES)
    order = np.random.default_rng(seed).permutation(len(cells))
    readings = painter.cards() + [painter.read(cells[i]) for i in order[:count]]
    return painter, learn(names, readings), [cells[i] for i in order[count : count + 60]]


@pytest.fixture(scope="module")
def hands():
    """Two hands whose water errs the other way round, with the same paints, each learned."""
    return {kind: taught(kind, 21) for kind in ("wet", "dry")}


@pytest.mark.long
def test_predictions_are_near_on_another_physics(hands):
    for painter, estimate, cells in hands.values():
        truth = np.array([painter.mean_lab(recipe) for recipe in cells])
        away = delta_e_00(predict(estimate, cells).lab, truth)
        assert np.median(away) < 2.1
        simple = learn(estimate.names, painter.cards())
        assert np.median(away) < 0.75 * np.median(delta_e_00(predict(simple, cells).lab, truth))


@pytest.mark.long
def test_the_spread_holds_in_each_kind_of_wash(hands):
    inside = {wash: [] for wash in WASHES}
    for painter, estimate, cells in hands.values():
        prediction = predict(estimate, cells)
        for recipe, lab, radius in zip(cells, prediction.lab, prediction.dE90, strict=True):
            for _ in range(3):
                inside[recipe.layers[0].wash].append(float(delta_e_00(painter.paint(recipe), lab)) < radius)
    shares = {wash: float(np.mean(found)) for wash, found in inside.items()}
    assert min(shares.values()) >= 0.8, shares
    assert np.mean(list(shares.values())) <= 0.975, (
        shares
    )  # of few cells; `make bench` holds each kind over ten hands


@pytest.mark.long
def test_where_the_water_of_a_hand_errs_is_learned(hands):
    wet, dry = (hands[kind][1].hand for kind in ("wet", "dry"))
    assert wet.full > wet.tint
    assert dry.full < dry.tint
    assert wet.full > dry.full
    for hand in (wet, dry):
        assert 0.08 < hand.parts < 0.22  # both mix with 0.15


@pytest.mark.long
def test_dilution_that_is_not_proportional_is_learned(hands):
    for painter, estimate, _ in hands.values():
        own = estimate.layout.optics(estimate.theta).dilution
        true = np.array([painter.power - 1 + paint.dilutes for paint in painter.paints])
        assert abs(own.mean() - true.mean()) < 0.08
        assert own.mean() < -0.02


def test_cells_of_one_puddle_are_not_taken_for_independent():
    """Ten puddles, each with a full, a middle and a pale cell, of which none is known to be of one, or all."""
    painter = make_laboratory(8, 31, Hand(parts=0.4, full=0.05, middle=0.05, tint=0.05))
    names = [paint.name for paint in painter.paints]
    pairs = [(a, b) for i, a in enumerate(names) for b in names[i + 1 :]][::2][:12]
    readings = [
        reading
        for number, pair in enumerate(pairs)
        for reading in painter.from_one_puddle([mix(pair, wash=wash) for wash in WASHES], number)
    ]
    cards = painter.cards()
    known = learn(names, cards + readings)
    unknown = learn(names, cards + [replace(reading, puddle=None) for reading in readings])
    assert known.hand.parts > 1.1 * unknown.hand.parts  # what missed thrice missed once
    held = [mix(pair) for pair in pairs]
    told, taken = (predict(estimate, held).dE90.mean() for estimate in (known, unknown))
    assert told > 1.1 * taken


def test_a_puddle_of_one_reading_or_of_none_changes_nothing():
    painter = make_laboratory(4, 32)
    names = [paint.name for paint in painter.paints]
    readings = [*painter.cards(), *(painter.read(recipe) for recipe in all_pairs(names))]
    alone = [replace(reading, puddle=number) for number, reading in enumerate(readings)]
    one, other = learn(names, readings), learn(names, alone)
    assert np.array_equal(one.theta, other.theta)
    assert one.hand == other.hand


@pytest.mark.long
def test_what_the_painter_saw_come_out_paler_or_stronger_is_used():
    """Sixty cells, some of them marked by an eye that errs, over several hands."""
    with_marks, without, water = [], [], []
    for seed in range(900, 906):
        painter = make_laboratory(12, seed)
        names = [paint.name for paint in painter.paints]
        recipes, cards = all_pairs(names, WASHES), painter.cards()
        order = np.random.default_rng(seed).permutation(len(recipes))
        readings = [painter.read_and_mark(recipes[place]) for place in order[:60]]
        assert {reading.depth for reading in readings} == {"", "paler", "stronger"}
        held = [recipes[place] for place in order[60:]]
        truth = np.array([painter.mean_lab(recipe) for recipe in held])
        for marked, found in ((True, with_marks), (False, without)):
            taught = readings if marked else [replace(reading, depth="") for reading in readings]
            estimate = learn(names, cards + taught)
            found.append(np.median(delta_e_00(predict(estimate, held).lab, truth)))
            water.append(estimate.hand.full)
    assert np.mean(with_marks) < 0.96 * np.mean(without)
    # the cells that are marked are those that err most; the hand is not taken for a steady one for it
    assert np.mean(water[::2]) > 0.85 * np.mean(water[1::2])


@pytest.mark.long
def test_a_mark_turned_round_makes_it_worse():
    """A paler cell is not a stronger one: the sign counts."""
    painter = make_laboratory(12, 907)
    names = [paint.name for paint in painter.paints]
    recipes, cards = all_pairs(names, WASHES), painter.cards()
    order = np.random.default_rng(7).permutation(len(recipes))
    readings = [painter.read_and_mark(recipes[place], eye=0.02) for place in order[:60]]
    turned = {"": "", "paler": "stronger", "stronger": "paler"}
    held = [recipes[place] for place in order[60:]]
    truth = np.array([painter.mean_lab(recipe) for recipe in held])
    right, wrong = (
        np.median(delta_e_00(predict(learn(names, cards + taught), held).lab, truth))
        for taught in (readings, [replace(one, depth=turned[one.depth]) for one in readings])
    )
    assert right < wrong


def test_how_deep_a_cell_came_out_is_said_in_a_word_that_is_known():
    with pytest.raises(CulmoError, match="paler"):
        Reading(mix(["A"]), (50.0, 0.0, 0.0), depth="deep")
    glaze = parse_recipe("A over B")
    assert Reading(glaze, (50.0, 0.0, 0.0), depth="paler").off == 0.0  # which of the layers nobody knows


def test_cells_of_one_loading_share_its_water():
    """The joint covariance against errors that are drawn: parts for all cells of a puddle, water for those of a loading."""
    painter = make_laboratory(6, 908)
    names = [paint.name for paint in painter.paints]
    recipes = [mix(names[:2]), mix(names[:2]), mix(names[:2], wash=0.2), mix(names[:2], wash=0.2)]
    readings = [Reading(recipe, (50.0, 0.0, 0.0), puddle=1) for recipe in recipes]
    problem = prepare(names, readings)
    estimate = learn(names, painter.cards())
    linear = linearise(problem.layout, estimate.theta, problem.batch)
    hand = estimate.hand
    (puddles,) = problem.puddles
    found = puddles.covariance(hand, linear, hand.covariance(linear, problem.beside), problem.beside)[0]
    rng, draws = np.random.default_rng(0), 200_000
    parts = rng.normal(0, hand.parts, (draws, 2))
    off = np.zeros((draws, 4, 3))
    for cell in range(4):
        off[:, cell] = parts @ linear.amounts[cell][:, :2].T
    for cells, spread in (((0, 1), hand.full), ((2, 3), hand.tint)):
        shared = rng.normal(0, spread * LOADING**0.5, draws)
        for cell in cells:
            water = shared + rng.normal(0, spread * (1 - LOADING) ** 0.5, draws)
            off[:, cell] += water[:, None] * linear.film[cell]
    off += rng.normal(0, hand.noise, off.shape)
    drawn = np.cov(off.reshape(draws, 12).T)
    assert np.allclose(found, drawn, atol=0.02 * np.abs(drawn).max())


ROUGH = {"holds": 0.75, "tooth": 0.3, "power": -0.06, "sinks": 0.3}
SMOOTH = {"holds": 1.25, "tooth": 0.03, "power": 0.05, "sinks": -0.15}


@pytest.mark.long
@pytest.mark.parametrize("paper", [ROUGH, SMOOTH], ids=["rough", "smooth"])
def test_a_strip_on_both_papers_tells_of_all_paints_on_the_other(paper):
    """Cards and mixes on one paper, and a strip of four paints on another: mixes of all paints there, over several hands."""
    by_strip, without, inside, strengths = [], [], [], []
    for seed in range(920, 926):
        painter = make_laboratory(12, seed)
        other = painter.on_another_paper(**paper)
        names = [paint.name for paint in painter.paints]
        recipes = all_pairs(names, WASHES)
        order = np.random.default_rng(seed).permutation(len(recipes))
        taught = painter.cards() + [painter.read(recipes[place]) for place in order[:60]]
        strip = [Recipe(), *(mix([name], wash=wash) for name in names[:4] for wash in WASHES)]
        strip = [replace(other.read(recipe), paper="Pad") for recipe in strip]
        held = [recipes[place] for place in order[60:140]]
        truth = np.array([other.mean_lab(recipe) for recipe in held])
        fresh = np.array([other.paint(recipe) for recipe in held])
        estimate = learn(names, taught + strip)
        found = predict(estimate, held, paper="Pad")
        by_strip.append(np.median(delta_e_00(found.lab, truth)))
        inside.append((delta_e_00(found.lab, fresh) < found.dE90).mean())
        without.append(
            np.median(delta_e_00(predict(learn(names, taught + strip[:1]), held, paper="Pad").lab, truth))
        )
        (own,) = on_papers(estimate)
        strengths.append(own.strength)
        assert own.name == "pad" and not on_papers(learn(names, taught))
    assert np.mean(by_strip) < 0.85 * np.mean(without)
    assert 0.8 < np.mean(inside) < 0.97
    assert np.log(np.mean(strengths)) * np.log(paper["holds"]) > 0.0
    assert 0.5 < np.log(np.mean(strengths)) / np.log(paper["holds"]) < 1.5


def test_a_paper_of_which_nothing_was_read_is_the_usual_one():
    painter = make_laboratory(4, 930)
    names = [paint.name for paint in painter.paints]
    estimate = learn(names, painter.cards())
    asked = [mix(names[:2])]
    assert np.array_equal(predict(estimate, asked, paper="Pad").lab, predict(estimate, asked).lab)
