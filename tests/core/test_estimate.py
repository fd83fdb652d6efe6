"""The joint estimate: its derivatives, what it learns, and what it does with odd readings."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import WAVELENGTH_NM
from culmo.core.colour.srgb import lab_from_srgb, srgb_from_lab
from culmo.core.linear import invert_positive, solve_positive
from culmo.core.paint.basis import spline_basis
from culmo.core.paint.estimate import learn
from culmo.core.paint.optics import linearise
from culmo.core.paint.parameters import SHARED
from culmo.core.paint.predict import batch_for, predict, predict_lab
from culmo.core.paint.problem import prepare
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import Layer, Part, Recipe, mix, parse_recipe
from culmo.errors import CulmoError
from support.paints import make_painter


@pytest.fixture(scope="module")
def of_eight():
    """What was learned from the cards of eight paints."""
    painter = make_painter(8, seed=5)
    return learn([paint.name for paint in painter.paints], painter.cards())


@pytest.fixture
def eight(of_eight):
    """The painter of the eight, with a hand that no other test has moved, and what was learned from the cards."""
    return make_painter(8, seed=5), of_eight


def test_jacobian_is_that_of_finite_differences():
    painter = make_painter(3, seed=1)
    a, b, c = (paint.name for paint in painter.paints)
    recipes = [
        mix([a]), mix([a], wash=0.2), mix([a, b], [2, 1]), mix([a, b, c], [1, 2, 3], 0.4), Recipe(),
        Recipe((Layer((Part(a),), 0.3), Layer((Part(b), Part(c, 2.0)), 0.7))),
    ]  # fmt: skip
    readings = [Reading(r, (50.0, 0.0, 0.0), g) for r in recipes for g in ("paper", INK)]
    problem = prepare([a, b, c], readings)
    rng = np.random.default_rng(0)
    theta = problem.layout.prior()[0] + rng.normal(0, 0.3, problem.layout.size)
    found = linearise(problem.layout, theta, problem.batch).jacobian.dense()
    for place in range(problem.layout.size):
        step = np.zeros_like(theta)
        step[place] = 1e-5
        up = linearise(problem.layout, theta + step, problem.batch).lab
        down = linearise(problem.layout, theta - step, problem.batch).lab
        assert np.allclose(found[:, :, place], (up - down) / 2e-5, rtol=2e-4, atol=2e-4), place


def test_what_is_made_of_a_jacobian_is_what_the_dense_one_gives():
    """Recipes of none, one, many and repeated paints, in layers, on several grounds, in no order."""
    painter = make_painter(5, seed=3)
    names = [paint.name for paint in painter.paints]
    recipes = [
        mix(names),
        Recipe(),
        mix(names[:1]),
        mix(names[3:4], wash=0.2),
        mix(names[1:3]),
        mix(names[1:3], [3, 1]),
    ]
    recipes += [
        Recipe((Layer((Part(names[1]),), 0.3), Layer((Part(names[2]), Part(names[1], 2.0)), 0.7))),
        *(mix(pair, wash=0.5) for pair in itertools.combinations(names, 2)),
    ]
    papers = ["", "Toned", "Grey"]
    readings = [Reading(r, (50.0, 0.0, 0.0), paper=papers[i % 3]) for i, r in enumerate(recipes)]
    problem = prepare(names, readings)
    rng = np.random.default_rng(0)
    p = problem.layout.size
    theta = problem.layout.prior()[0] + rng.normal(0, 0.3, p)
    found = linearise(problem.layout, theta, problem.batch).jacobian
    dense = found.dense()
    assert dense.shape == (len(recipes), 3, p)
    assert (dense[1] != 0).any(axis=0).sum() <= SHARED  # bare paper hangs on no paint
    half = rng.normal(size=(p, p))
    assert np.allclose(found.spread(half @ half.T), dense @ (half @ half.T) @ dense.transpose(0, 2, 1))
    whiten, residual = rng.normal(size=(len(recipes), 3, 3)), rng.normal(size=(len(recipes), 3))
    curvature, downhill = found.whitened(lambda values: whiten @ values).squared(
        np.einsum("nij,nj->ni", whiten, residual)
    )
    white = (whiten @ dense).reshape(-1, p)
    assert np.allclose(curvature, white.T @ white)
    assert np.allclose(downhill, white.T @ np.einsum("nij,nj->ni", whiten, residual).ravel())
    alike = max((pattern.rows for pattern in found.patterns), key=len)
    assert len(alike) > 1  # recipes that hang on the same parameters
    joint = dense[alike].reshape(-1, p)
    assert np.allclose(found.joint_spread(half @ half.T, alike[None])[0], joint @ (half @ half.T) @ joint.T)


def test_nothing_asked_is_nothing_predicted():
    estimate = learn(["A"], [])
    assert predict(estimate, []).lab.shape == (0, 3)
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, []))
    assert linear.jacobian.dense().shape == (0, 3, estimate.layout.size)
    assert linear.jacobian.spread(estimate.covariance).shape == (0, 3, 3)


@given(st.integers(1, 12), st.integers(0, 2**32 - 1))
def test_positive_matrices_are_solved_and_inverted(p, seed):
    rng = np.random.default_rng(seed)
    half = rng.normal(size=(p, p))
    matrix = half @ half.T + np.eye(p)
    right = rng.normal(size=p)
    lower_only = np.tril(matrix)
    assert np.allclose(matrix @ solve_positive(lower_only, right), right)
    inverse = invert_positive(lower_only)
    assert np.allclose(matrix @ inverse, np.eye(p))
    assert np.array_equal(inverse, inverse.T)


@pytest.mark.parametrize("matrix", [[[1.0, 2.0], [2.0, 1.0]], [[0.0]], [[-1.0]]])
def test_a_matrix_that_is_not_positive_is_refused(matrix):
    with pytest.raises(np.linalg.LinAlgError):
        solve_positive(np.array(matrix), np.ones(len(matrix)))
    with pytest.raises(np.linalg.LinAlgError):
        invert_positive(np.array(matrix))


@pytest.mark.parametrize("count", [4, 7, 16])
def test_splines_are_those_of_scipy(count):
    from scipy.interpolate import BSpline

    inner = np.linspace(380, 730, count - 2)
    knots = np.concatenate([[380.0] * 3, inner, [730.0] * 3])
    expected = BSpline.design_matrix(WAVELENGTH_NM, knots, 3).toarray()
    assert np.abs(spline_basis(count) - expected).max() < 1e-12
    assert np.abs(spline_basis(count).sum(axis=1) - 1).max() < 1e-12


def pair_recipes(painter):
    names = [paint.name for paint in painter.paints]
    return [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]


def test_cards_alone_beat_the_mean_of_srgb_by_far(eight):
    painter, estimate = eight
    asked = pair_recipes(painter)
    truth = np.array([painter.mean_lab(recipe) for recipe in asked])
    ours = np.median(delta_e_00(predict_lab(estimate, asked), truth))
    cards = {paint.name: painter.mean_lab(mix([paint.name])) for paint in painter.paints}
    tints = {paint.name: painter.mean_lab(mix([paint.name], wash=0.2)) for paint in painter.paints}
    naive = [
        srgb_from_lab(np.array([(cards if r.layers[0].wash == 1 else tints)[n] for n in r.names])).mean(
            axis=0
        )
        for r in asked
    ]
    theirs = np.median(delta_e_00(lab_from_srgb(np.array(naive)), truth))
    assert ours * 2 < theirs
    assert ours < 4.5


def test_mixes_teach(eight):
    painter, estimate = eight
    asked = pair_recipes(painter)
    taught, held = asked[::2], asked[1::2]
    truth = np.array([painter.mean_lab(recipe) for recipe in held])
    names = [paint.name for paint in painter.paints]
    better = learn(names, painter.cards() + [painter.read(recipe) for recipe in taught])
    before = np.median(delta_e_00(predict_lab(estimate, held), truth))
    after = np.median(delta_e_00(predict_lab(better, held), truth))
    assert after < 0.75 * before
    inside = [
        delta_e_00(painter.paint(r), lab) for r, lab in zip(held, predict_lab(better, held), strict=True)
    ]
    share = np.mean(np.array(inside) < predict(better, held).dE90)
    assert 0.75 <= share <= 1.0


def test_a_warm_start_comes_to_the_same_and_sooner(eight):
    painter, estimate = eight
    names = [paint.name for paint in painter.paints]
    readings = [*painter.cards(), painter.read(mix(names[:2]))]
    cold, warm = learn(names, readings), learn(names, readings, earlier=estimate)
    asked = pair_recipes(painter)
    assert np.median(delta_e_00(predict_lab(cold, asked), predict_lab(warm, asked))) < 0.3


def test_a_paint_mixed_with_itself_is_that_paint(eight):
    painter, estimate = eight
    name = painter.paints[0].name
    twice = Recipe((Layer((Part(name, 1.0), Part(name, 2.0))),))
    assert np.abs(predict_lab(estimate, [twice]) - predict_lab(estimate, [mix([name])])).max() < 1e-9


@given(st.permutations(range(3)), st.lists(st.integers(1, 5), min_size=3, max_size=3))
@settings(max_examples=15)
def test_the_order_of_parts_does_not_matter(eight, order, parts):
    painter, estimate = eight
    names = [paint.name for paint in painter.paints[:3]]
    one = mix(names, parts)
    other = mix([names[i] for i in order], [parts[i] for i in order])
    assert np.abs(predict_lab(estimate, [one]) - predict_lab(estimate, [other])).max() < 1e-9


@given(st.floats(0.02, 0.98), st.integers(0, 7))
@settings(max_examples=20)
def test_more_water_is_lighter(eight, thin, place):
    painter, estimate = eight
    name = painter.paints[place].name
    full, pale = predict_lab(estimate, [mix([name]), mix([name], wash=thin)])
    assert (xyz_from_lab(pale) >= xyz_from_lab(full) - 1e-9).all()


def test_a_glaze_of_next_to_nothing_changes_nothing(eight):
    painter, estimate = eight
    a, b = (paint.name for paint in painter.paints[:2])
    glazed = parse_recipe(f"{a} @ 0.000001 over {b}")
    assert np.abs(predict_lab(estimate, [glazed]) - predict_lab(estimate, [mix([b])])).max() < 1e-3


def finite(estimate, recipes):
    found = predict(estimate, recipes)
    assert np.isfinite(found.lab).all()
    assert np.isfinite(found.dE90).all()
    assert (found.dE90 > 0).all()
    return found


def test_no_readings_give_a_wide_spread():
    estimate = learn(["A", "B"], [])
    assert (finite(estimate, [mix(["A"]), mix(["A", "B"]), mix(["B"], wash=0.2)]).dE90 > 10).all()


def test_one_masstone_alone_is_near_its_reading_and_unsure_in_mixes():
    estimate = learn(["A", "B"], [Reading(mix(["A"]), (40.0, 50.0, 20.0))])
    found = finite(estimate, [mix(["A"]), mix(["A", "B"])])
    assert delta_e_00(found.lab[0], np.array([40.0, 50.0, 20.0])) < 2
    assert found.dE90[1] > found.dE90[0]


def test_contradictory_readings_end_and_stay_sane():
    painter = make_painter(3, seed=2)
    names = [paint.name for paint in painter.paints]
    recipe = mix(names[:2])
    lies = [
        Reading(recipe, lab)
        for lab in ((5.0, 0.0, 0.0), (95.0, 0.0, 0.0), (50.0, 80.0, 60.0), (50.0, -80.0, -60.0))
    ]
    clean = learn(names, painter.cards())
    estimate = learn(names, painter.cards() + lies * 3)
    finite(estimate, [recipe, mix(names)])
    # the lies are about one mix; a paint that is not in it must not bend
    third = [mix([names[2]])]
    assert delta_e_00(predict_lab(estimate, third), predict_lab(clean, third))[0] < 3


def test_one_dirty_cell_does_not_bend_a_paint(eight):
    painter, _ = eight
    names = [paint.name for paint in painter.paints]
    good = painter.cards() + [painter.read(recipe) for recipe in pair_recipes(painter)[:20]]
    dirty = [*good, Reading(pair_recipes(painter)[3], (10.0, 60.0, 60.0))]
    clean, bent = learn(names, good), learn(names, dirty)
    pure = [mix([name]) for name in names]
    assert delta_e_00(predict_lab(clean, pure), predict_lab(bent, pure)).max() < 1.5
    assert bent.weights[-1] < 0.2


def test_colours_that_paint_can_not_have_do_not_break_it():
    wild = [(0.0, 0.0, 0.0), (100.0, 0.0, 0.0), (50.0, 128.0, 128.0), (1.0, -128.0, 128.0)]
    readings = [Reading(mix([name]), lab) for name, lab in zip("ABCD", wild, strict=True)]
    finite(learn(list("ABCD"), readings), [mix(["A", "B"]), mix(["C", "D"])])


def test_fifty_unknown_paints():
    names = [f"P{i}" for i in range(50)]
    finite(learn(names, []), [mix(names[:2]), mix(names[10:14])])


def test_readings_that_are_not_good_stay_out():
    full = mix(["A"])
    wet = Reading(full, (10.0, 0.0, 0.0), trust="wet")
    good = Reading(full, (60.0, 30.0, 10.0))
    with_wet, without = learn(["A"], [good, wet]), learn(["A"], [good])
    assert np.array_equal(predict_lab(with_wet, [full]), predict_lab(without, [full]))
    assert with_wet.readings == 1


def test_an_unknown_paint_is_named():
    estimate = learn(["A"], [])
    with pytest.raises(CulmoError, match='"B"'):
        predict(estimate, [mix(["A", "B"])])
    with pytest.raises(CulmoError, match='"B"'):
        learn(["A"], [Reading(mix(["B"]), (50.0, 0.0, 0.0))])


def test_papers_of_their_own():
    bare = [Reading(Recipe(), (97.0, 0.0, 1.0)), Reading(Recipe(), (80.0, 4.0, 18.0), paper="Toned")]
    estimate = learn(["A"], bare)
    assert (
        delta_e_00(predict(estimate, [Recipe()], ["paper"], "Toned").lab[0], np.array([80.0, 4.0, 18.0]))
        < 1.5
    )
    assert delta_e_00(predict(estimate, [Recipe()], ["paper"]).lab[0], np.array([97.0, 0.0, 1.0])) < 1.5
    assert lab_from_xyz(np.ones(3)).shape == (3,)


def test_a_reading_weighs_as_much_as_it_is_sure(eight):
    """A cell that is 8 off in truth: read by an instrument it tells the most, the less the less sure a picture was."""
    painter, before = eight
    names, cards = [paint.name for paint in painter.paints], painter.cards()
    asked = mix(names[:2])
    lab = predict(before, [asked]).lab[0]
    pulled = []
    for uncertainty in (0.0, 1.0, 3.0, 10.0):
        reading = Reading(asked, tuple(np.add(lab, (6.0, 4.0, -4.0))), uncertainty=uncertainty)
        estimate = learn(names, [*cards, reading], earlier=before)
        pulled.append(float(delta_e_00(predict(estimate, [asked]).lab[0], lab)))
    assert pulled == sorted(pulled, reverse=True)
    assert pulled[0] > 2.0 * pulled[3]


def test_what_a_reading_tells_of_itself_is_a_distance_of_the_eye(eight):
    """Nine in ten of errors drawn by the covariance that is taken for it lie within, on grey and on a strong colour."""
    painter, _ = eight
    names = [paint.name for paint in painter.paints]
    for lab in ((60.0, 0.0, 0.0), (55.0, 70.0, 40.0)):
        told = prepare(names, [Reading(mix(names[:1]), lab, uncertainty=1.5)]).beside.told[0]
        errors = np.random.default_rng(1).multivariate_normal(np.zeros(3), told, 4000)
        away = delta_e_00(np.array(lab) + errors, np.array(lab))
        assert np.quantile(away, 0.9) == pytest.approx(1.5, rel=0.08)
    assert not prepare(names, [Reading(mix(names[:1]), (50.0, 0.0, 0.0))]).beside.told.any()
