"""How paints settle, learned from patches and foretold of mixes, held against a world of clumps and of Beer's law."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.paint import grain
from culmo.core.paint.grain import (
    as_label,
    film_slopes,
    foretell,
    known_textures,
    learn_grains,
    likely_textures,
)
from culmo.core.paint.next_cells import AS_PAINTED_OF_TEXTURE, chosen_of, worth_by
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Layer, Part, Recipe, mix
from support.settling import Laboratory


def said(_):
    """A label that says of every paint that it granulates a little."""
    return 0.3


@pytest.fixture(scope="module", params=[21, 22])
def laboratory(request):
    return Laboratory(request.param)


def test_grain_and_parting_of_unseen_mixes_follow_from_one_sheet(laboratory):
    one = laboratory
    found = foretell(one.estimate, learn_grains(one.estimate, one.seen, said), one.unseen)
    assert np.corrcoef(found.contrast, one.contrast)[0, 1] >= 0.9
    assert np.corrcoef(found.parting, one.parting)[0, 1] >= 0.85
    assert np.median(found.contrast / one.contrast) == pytest.approx(1.0, abs=0.15)
    alone = foretell(one.estimate, learn_grains(one.estimate, [], said), one.unseen)
    assert np.abs(found.contrast - one.contrast).mean() < 0.6 * np.abs(alone.contrast - one.contrast).mean()


def test_its_spread_is_honest_and_shrinks_with_what_was_seen(laboratory):
    one = laboratory
    found = foretell(one.estimate, learn_grains(one.estimate, one.seen, said), one.unseen)
    alone = foretell(one.estimate, learn_grains(one.estimate, [], said), one.unseen)
    held = np.abs(found.contrast - one.contrast) <= 1.645 * found.contrast_off
    assert held.mean() >= 0.8
    assert np.median(found.contrast_off) < 0.5 * np.median(alone.contrast_off)


def test_washes_that_would_tell_most_tell_more_than_chance(laboratory):
    """By labels that say anything: eight patches of washes that were chosen, and eight of any."""
    one, rng = laboratory, np.random.default_rng(3)
    claims = {paint.name.casefold(): rng.uniform() for paint in one.pigments}
    sheet = [seen.recipe for seen in one.seen]
    known = known_textures(one.estimate, learn_grains(one.estimate, [], claims.__getitem__), sheet)

    def off(places):
        learned = learn_grains(one.estimate, [one.seen[place] for place in places], claims.__getitem__)
        found = foretell(one.estimate, learned, one.unseen)
        return np.hypot(found.contrast - one.contrast, found.parting - one.parting).mean()

    chosen = chosen_of(known, 8)
    chance = np.mean([off(rng.permutation(len(sheet))[:8]) for _ in range(12)])
    assert len(set(chosen)) == 8
    assert off(chosen) < 0.9 * chance < 0.6 * off([])
    worth = worth_by(known, chosen, AS_PAINTED_OF_TEXTURE)
    assert worth.chosen == 8 < worth.at_random <= 16
    assert worth.after < 0.5 * worth.before


@pytest.mark.long
def test_what_is_known_of_textures_is_what_draws_of_the_figures_say(laboratory):
    """The covariance of contrast and parting, held against the textures of paints drawn at random, near by."""
    one = laboratory
    grains, recipes = learn_grains(one.estimate, one.seen, said), one.unseen[:6]
    known = known_textures(one.estimate, grains, recipes)
    root, rng = np.linalg.cholesky(grains.covariance), np.random.default_rng(5)
    count, told = len(grains.names), []
    for _ in range(3000):
        off = 0.1 * root @ rng.standard_normal(len(root))
        drawn = replace(
            grains, together=grains.together + off[:count], alone=grains.alone * np.exp(off[count : 2 * count]),
            by_wash=grains.by_wash + off[-1],
        )  # fmt: skip
        told.append(np.stack(likely_textures(one.estimate, drawn, recipes), axis=1).ravel())
    expected, found = 100.0 * np.cov(np.array(told).T), known.joint.reshape(12, 12)
    assert np.sqrt(np.diag(found)) == pytest.approx(np.sqrt(np.diag(expected)), rel=0.08)
    scale = np.sqrt(np.outer(np.diag(expected), np.diag(expected)))
    assert np.abs((found - expected) / scale).max() < 0.1
    parts = known_textures(one.estimate, grains, recipes, asked=slice(1, 2))
    assert parts.joint[:, 0, :, 0] == pytest.approx(known.joint[:, 1, :, 1])


def test_a_wash_of_which_there_is_a_patch_is_not_asked_for(laboratory):
    one = laboratory
    grains, sheet = learn_grains(one.estimate, one.seen, said), [seen.recipe for seen in one.seen[:12]]
    shown = [place % 3 > 0 for place in range(12)]
    known = known_textures(one.estimate, grains, sheet, shown)
    assert sorted(chosen_of(known, 20)) == [0, 3, 6, 9]


def test_paints_that_granulate_are_known_from_those_that_lie_even(laboratory):
    one = laboratory
    told = as_label(learn_grains(one.estimate, one.seen, said))
    heavy = [told[paint.name.casefold()] for paint in one.pigments if paint.uneven > 0.15]
    even = [told[paint.name.casefold()] for paint in one.pigments if paint.uneven < 0.09]
    assert np.mean(heavy) > np.mean(even) + 0.25


def test_with_nothing_seen_a_label_is_all_there_is(laboratory):
    one = laboratory
    names = [paint.name for paint in one.pigments]
    grains = learn_grains(one.estimate, [], lambda name: 1.0 if name == names[0].casefold() else 0.0)
    assert as_label(grains) == {} and not grains.taught.any()
    found = foretell(one.estimate, grains, [mix([name], wash=0.3) for name in names])
    assert found.contrast[0] > 2.0 * np.median(found.contrast[1:])


def test_the_slopes_are_those_of_the_mixing_model(laboratory):
    """More of one paint in a puddle of the same water is what a thicker film of it is."""
    estimate = laboratory.estimate
    a, b = (one.name for one in laboratory.pigments[:2])
    recipe = Recipe((Layer((Part(a, 1.0), Part(b, 1.0)), 0.5),))
    slopes, wash, lab = film_slopes(estimate, [recipe])
    assert lab[0] == pytest.approx(predict_lab(estimate, [recipe])[0], abs=1e-6)
    assert wash.tolist() == [0.5]
    assert np.abs(slopes[0, 2:]).max() == 0.0
    both = slopes[0].sum(axis=0)
    ends = predict_lab(estimate, [recipe.with_wash(0.5 * factor) for factor in (1.05, 0.95)])
    optics = estimate.layout.optics(estimate.theta)
    power = 1.0 + float(np.mean(optics.dilution[:2]))
    assert both == pytest.approx((ends[0] - ends[1]) / 0.1 / power, rel=0.2, abs=0.6)


def test_the_derivatives_are_those_of_what_is_told(laboratory):
    slopes, wash, _ = film_slopes(laboratory.estimate, laboratory.unseen)
    washes = grain._washes(slopes, wash)
    count = len(laboratory.pigments)
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(0, 0.2, count), np.log(rng.uniform(0.05, 0.3, count)), [0.2]])

    def told(values):
        contrast, parting, along = grain._told(washes, values)
        return np.concatenate([contrast, parting, along[:, 0], along[:, 1]])

    found = grain._derivatives(washes, values)
    for place in range(len(values)):
        step = 1e-5 * np.eye(len(values))[place]
        assert found[:, place] == pytest.approx((told(values + step) - told(values - step)) / 2e-5, abs=1e-5)


def test_glazes_are_told_by_their_top_wash(laboratory):
    estimate = laboratory.estimate
    a, b = (one.name for one in laboratory.pigments[:2])
    glaze = Recipe((Layer((Part(a),), 0.4), Layer((Part(b),), 1.0)))
    slopes, wash, _ = film_slopes(estimate, [glaze, mix([a], wash=0.4)])
    assert np.abs(slopes[0, 0]).max() > 0.0 and np.abs(slopes[0, 1:]).max() == 0.0
    assert wash.tolist() == [0.4, 0.4]
