"""How paints settle, learned from patches and foretold of mixes, held against a world of clumps and of Beer's law."""

import itertools

import numpy as np
import pytest

from culmo.core.paint import grain
from culmo.core.paint.estimate import learn
from culmo.core.paint.grain import SeenTexture, as_label, film_slopes, foretell, learn_grains
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Layer, Part, Recipe, mix
from culmo.core.paint.texture import Texture
from support.textures import any_pigments, settled


def seen_of(rng, pigments, recipe, side_mm=7.0):
    """A wash as a picture tells it: its colour, and its texture with some error."""
    lab, contrast, parting, axis, length = settled(rng, pigments, recipe, side_mm)
    off = np.exp(rng.normal(0, 0.06))
    texture = Texture(
        contrast * off, 0.05 * contrast + 0.1, 0.6, parting * off, 0.05 * parting + 0.1, tuple(axis), length * off,
        0.0, 0.0,
    )  # fmt: skip
    return Reading(recipe, tuple(lab), "paper"), SeenTexture(recipe, texture)


def said(_):
    """A label that says of every paint that it granulates a little."""
    return 0.3


class Laboratory:
    """Eight paints, one sheet of them seen, and mixes that were not."""

    def __init__(self, seed):
        rng = np.random.default_rng([seed, 9])
        self.pigments = any_pigments(rng)
        names = [one.name for one in self.pigments]
        sheet = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
        sheet += [mix([name]) for name in names]
        both = [seen_of(rng, self.pigments, recipe) for recipe in sheet]
        tints = [seen_of(rng, self.pigments, mix([name], wash=0.2), 4.0)[0] for name in names]
        self.seen = [seen for _, seen in both]
        self.estimate = learn(names, [*(reading for reading, _ in both), *tints])
        others = [
            Recipe((Layer((Part(a, 1.0), Part(b, 3.0)), wash),))
            for a, b in itertools.permutations(names, 2)
            for wash in (1.0, 0.5)
        ]
        self.unseen = [others[i] for i in rng.choice(len(others), 24, replace=False)]
        self.unseen += [mix(list(three)) for three in itertools.islice(itertools.combinations(names, 3), 6)]
        truth = [settled(rng, self.pigments, recipe, 7.0) for recipe in self.unseen]
        self.contrast, self.parting = (np.array([one[i] for one in truth]) for i in (1, 2))


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
