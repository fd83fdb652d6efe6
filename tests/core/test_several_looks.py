"""Several looks at one cell: what missed in the cell shows in each of them, and what their pictures do tells them apart."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.paint.estimate import learn
from culmo.core.paint.hand import Hand
from culmo.core.paint.optics import linearise
from culmo.core.paint.problem import prepare
from culmo.core.paint.readings import Reading, SeenDepth, taught
from culmo.core.paint.recipe import TINT, mix
from support.camera_sheets import grid, of_one_sheet, studio
from support.turbid import lab_of


@pytest.fixture(scope="module")
def once():
    """A sheet that was painted once and read once, by an instrument."""
    laboratory, _, rng = studio(7)
    names = [paint.name for paint in laboratory.paints]
    recipes = grid(names)
    lab = [lab_of(laboratory.reflectance(recipe)) + rng.normal(0, 0.2, 3) for recipe in recipes]
    return names, [
        Reading(recipe, tuple(one), uncertainty=0.4) for recipe, one in zip(recipes, lab, strict=True)
    ]


def told(names, readings):
    """How much the readings told of the paints: the log of how much smaller the doubt is."""
    estimate = learn(names, readings)
    own = slice(0, estimate.layout.surface_at)
    return -np.linalg.slogdet(estimate.covariance[own, own])[1]


def test_a_second_look_is_no_second_cell(once):
    names, readings = once
    twice = [replace(one, cell=n) for n, one in enumerate(readings) for _ in range(2)]
    as_two = [one for one in readings for _ in range(2)]
    before = told(names, readings)
    assert told(names, twice) - before < 0.5 * (told(names, as_two) - before)


def test_the_hand_is_the_same_by_one_look_and_by_two(once):
    names, readings = once
    twice = [replace(one, cell=n) for n, one in enumerate(readings) for _ in range(2)]
    one, two = (learn(names, own).hand for own in (readings, twice))
    for figure in ("parts", "full"):
        assert getattr(two, figure) == pytest.approx(getattr(one, figure), rel=0.3), figure


def test_a_tint_that_is_a_card_is_the_same_card_in_both_looks(once):
    names, _ = once
    tint = mix([names[0]], wash=TINT)
    lab = (70.0, 5.0, 5.0)
    looks = [
        Reading(tint, lab, cell=1),
        Reading(tint, lab, cell=1),
        Reading(tint, lab, cell=2),
        Reading(tint, lab),
    ]
    assert [row.card for row in prepare(names, looks).rows] == [True, True, False, False]


def test_of_very_many_a_cell_counts_once_however_often_it_was_looked_at():
    full = mix(["Rose"])
    cells = [Reading(full, (40.0, 50.0, 0.0), cell=n) for n in range(8) for _ in range(3)]
    kept = taught(cells)
    assert [reading.cell for reading in kept] == [n for n in range(2, 8) for _ in range(3)]


def test_what_was_seen_to_be_off_does_not_break_a_puddle(once):
    """What two cells share may not be more than each has by itself: a hand that errs much, and an eye that saw it."""
    names, _ = once
    of_one = [Reading(mix(names[:2]), (40.0, 10.0, 10.0), puddle=1, depth=SeenDepth.PALER) for _ in range(4)]
    problem = prepare(names, of_one)
    hand = Hand(full=0.6)
    linear = linearise(problem.layout, problem.prior()[0], problem.batch)
    (puddles,) = problem.puddles
    joint = puddles.covariance(hand, linear, hand.covariance(linear, problem.beside), problem.beside)
    assert np.linalg.eigvalsh(joint[0]).min() > 0.0


@pytest.mark.long
def test_several_pictures_teach_more_than_their_mean():
    """Two pictures whose mean was learned from as if an instrument had read it predicted worse than one of them."""
    by_looks, by_mean = (
        np.mean([of_one_sheet(seed, (False, False), as_mean)[1] for seed in range(470, 475)])
        for as_mean in (False, True)
    )
    assert by_looks < 0.95 * by_mean


@pytest.mark.long
def test_a_raw_file_tells_the_look_of_its_jpeg():
    """Another JPEG of one sheet shares its camera's look; a raw file has none."""
    two, twin = (
        np.median(np.concatenate([of_one_sheet(seed, raws)[0] for seed in range(470, 476)]))
        for raws in ((False, False), (False, True))
    )
    assert twin < 0.95 * two
