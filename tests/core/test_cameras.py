"""Cameras that do not see as the eye does: what a picture does to colours is told by its paints."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.capture.settle import corrected, settle
from culmo.core.colour.srgb import check_lab, in_srgb
from culmo.core.paint.character import CHARACTER, Shot, as_it_is, as_seen, believed, seen_lab
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict
from support.camera_sheets import (
    first_picture,
    fourth_picture,
    grid,
    lamp_with_gaps,
    photographed,
    ratios,
    studio,
    together,
    with_six,
    with_strip,
)
from support.foreign_cameras import GAPS, make_shooting

pytestmark = pytest.mark.long

PAPER = np.array([95.0, 0.0, 3.0])
SOME = range(6)


def characters(seed, count):
    _, precision = believed([Shot("", tuple(PAPER))])
    return np.random.default_rng(seed).multivariate_normal(
        np.zeros(CHARACTER), np.linalg.inv(precision), count
    )


@given(st.integers(0, 10_000))
def test_what_a_picture_does_is_undone_exactly(seed):
    rng = np.random.default_rng(seed)
    lab = np.column_stack([rng.uniform(30, 90, 40), rng.uniform(-45, 45, (40, 2))])
    lab = lab[in_srgb(lab, -0.02)]
    own = characters(seed, len(lab))
    shown = as_seen(lab, PAPER, own)
    inside = in_srgb(shown, -0.02)
    np.testing.assert_allclose(as_it_is(shown, PAPER, own)[inside], lab[inside], atol=0.02)


@given(st.integers(0, 10_000))
def test_whatever_a_picture_shows_is_a_colour_that_the_record_takes(seed):
    """A channel at its end may be anything behind a look: what no surface can have would stop all learning."""
    rng = np.random.default_rng(seed)
    light = rng.choice([0.0, 2e-4, 0.01, 0.3, 1.0, 1.3], (60, 3))
    found = corrected(light, PAPER, 2.0 * characters(seed, 1)[0], np.eye(CHARACTER))
    assert [check_lab(lab) is not None for lab in found.lab] == [True] * 60
    assert np.isfinite(found.told(np.ones(60))).all()


def test_the_bare_paper_stays_but_for_its_gains():
    own = characters(1, 20)
    own[:, 9:] = 0.0
    np.testing.assert_allclose(
        as_seen(np.tile(PAPER, (20, 1)), PAPER, own), np.tile(PAPER, (20, 1)), atol=1e-6
    )


def test_a_first_picture_of_unknown_paints():
    found = together([first_picture(seed) for seed in SOME])
    assert np.median(found.off) <= min(2.5, np.median(found.shown))
    assert np.quantile(found.off, 0.95) <= min(6.0, np.quantile(found.shown, 0.95))
    assert 0.8 <= np.mean(found.off <= found.told) <= 0.98


def test_what_the_painter_knows_makes_a_picture_truer():
    alone = together([first_picture(seed) for seed in SOME])
    measured = together([fourth_picture(seed, by_instrument=True) for seed in SOME])
    strip = together([with_strip(seed) for seed in SOME])
    six = together([with_six(seed) for seed in SOME])
    for found in (measured, strip, six):
        assert np.median(found.off) < 0.85 * np.median(alone.off)
        assert np.mean(found.off <= found.told) >= 0.85
    assert np.median(strip.off) <= 1.5


def test_a_strong_look_is_undone_by_a_strip():
    strip = together([with_strip(seed, curve="strong") for seed in SOME])
    assert np.median(strip.shown) > 4.5
    assert np.median(strip.off) <= 2.0


def test_a_lamp_with_gaps_is_noticed_by_a_strip():
    """What is told allows for it: no dozen numbers undo a lamp that lacks half of the spectrum."""
    usual = together([with_strip(seed) for seed in SOME])
    gaps = together([with_strip(seed, lights=GAPS) for seed in SOME])
    assert np.median(gaps.told) > 1.15 * np.median(usual.told)
    assert np.mean(gaps.off <= gaps.told) >= 0.85


def test_noise_does_not_pull_a_picture_towards_grey():
    """Were what is corrected compared with the paints, the correction that shrinks all differences would win."""
    strong = []
    for seed in SOME:
        laboratory, camera, rng = studio(seed, curve="none")
        camera.saturation = 1.0
        names = [paint.name for paint in laboratory.paints]
        painted = photographed(laboratory, grid(names), make_shooting(rng, camera, ("D65",)), rng, "one")
        found = corrected(
            painted.light, np.array(painted.shot.paper), *settle(painted.readings, painted.shot)
        )
        chroma, true = (np.hypot(*lab[painted.inside, 1:].T).mean() for lab in (found.lab, painted.lab))
        strong.append(chroma / true)
    assert np.mean(strong) == pytest.approx(1.0, abs=0.08)


def test_a_lone_picture_leaves_the_paints_unsure():
    """The same cells teach more when no camera came between: its doubt goes into what is predicted."""
    laboratory, camera, rng = studio(2)
    names = [paint.name for paint in laboratory.paints]
    painted = photographed(laboratory, ratios(names, rng), make_shooting(rng, camera), rng, "one")
    by_picture = learn(names, painted.readings)
    shown = seen_lab(painted.light, np.array(painted.shot.paper))
    assert len(by_picture.shots) == 1

    plain = [
        replace(reading, lab=tuple(lab), seen=None, shot=None)
        for reading, lab in zip(
            painted.readings, np.clip(shown, [0, -128, -128], [100, 128, 128]).tolist(), strict=True
        )
    ]
    by_eye = learn(names, plain)

    unsure, sure = (float(np.median(predict(one, grid(names)).dE90)) for one in (by_picture, by_eye))
    assert unsure > 1.05 * sure


def test_without_washes_or_anchors_a_picture_is_believed_to_be_a_usual_one():
    mean, covariance, _ = settle([], Shot("", tuple(PAPER)))
    assert not mean.any()
    assert (np.linalg.eigvalsh(covariance) > 0).all()


def test_three_pictures_before_do_no_harm():
    alone = together([first_picture(seed) for seed in SOME])
    known = together([fourth_picture(seed) for seed in SOME])
    assert np.median(known.off) <= 1.1 * np.median(alone.off)
    assert np.mean(known.off <= known.told) >= 0.8


def test_what_is_told_holds_by_lamps_with_gaps_where_the_painter_says_the_lamp():
    """No picture of unknown paints tells such a lamp."""
    found = together([lamp_with_gaps(seed) for seed in range(330, 340)])
    assert 0.8 < np.mean(found.off <= found.told) <= 1.0
    plain = first_picture(335, lights=("FL11",))
    said = first_picture(335, lights=("FL11",), said="tube")
    np.testing.assert_allclose(said.off, plain.off)
    assert (said.told > 1.1 * plain.told).all()
    assert np.array_equal(first_picture(335, said="window").told, first_picture(335).told)
