"""Colorimetry against published tables and a public colour library."""

import warnings

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.colour.cielab import (
    lab_and_gradient,
    lab_from_reflectance,
    lab_from_xyz,
    lch_from_lab,
    xyz_from_lab,
)
from culmo.core.colour.difference import delta_e_00, local_metric
from culmo.core.colour.names import hue_word
from culmo.core.colour.spectral import COOL_LED, DAYLIGHT, WARM_LAMP, WAVELENGTH_NM
from culmo.core.colour.srgb import (
    check_lab,
    hex_from_lab,
    in_srgb,
    lab_from_linear_srgb,
    lab_from_srgb,
    lab_from_text,
    srgb_from_lab,
)
from culmo.core.paint.character import seen_lab
from culmo.errors import CulmoError

# Sharma, Wu and Dalal, "The CIEDE2000 Color-Difference Formula: Implementation Notes, Supplementary Test Data, and
# Mathematical Observations", Color Research and Application 30 (2005), table 1: L1 a1 b1 L2 a2 b2 difference
SHARMA_TABLE = """
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5 0 50 0 -2.5 4.3065
50 2.5 0 73 25 -18 27.1492
50 2.5 0 61 -5 29 22.8977
50 2.5 0 56 -27 -3 31.9030
50 2.5 0 58 24 15 19.4535
50 2.5 0 50 3.1736 0.5854 1.0000
50 2.5 0 50 3.2972 0 1.0000
50 2.5 0 50 1.8634 0.5757 1.0000
50 2.5 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""
SHARMA = np.array([row.split() for row in SHARMA_TABLE.strip().splitlines()], dtype=float)


def test_ciede2000_gives_the_published_differences():
    found = delta_e_00(SHARMA[:, :3], SHARMA[:, 3:6])
    assert np.abs(found - SHARMA[:, 6]).max() < 5e-5


def test_everything_agrees_with_a_public_library():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    rng = np.random.default_rng(1)
    reflectance = rng.uniform(0, 1, (50, 36))
    observer = (
        colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
        .copy()
        .align(colour.SpectralShape(380, 730, 10))
    )
    d65 = colour.SDS_ILLUMINANTS["D65"].copy().align(colour.SpectralShape(380, 730, 10))
    weights = observer.values * d65.values[:, None]
    xyz = reflectance @ weights / weights[:, 1].sum()
    white = weights.sum(axis=0) / weights[:, 1].sum()
    expected = colour.XYZ_to_Lab(xyz, colour.XYZ_to_xy(white))
    assert np.abs(lab_from_reflectance(reflectance) - expected).max() < 1e-9
    other = expected + rng.normal(0, 8, expected.shape)
    assert (
        np.abs(delta_e_00(expected, other) - colour.delta_E(expected, other, method="CIE 2000")).max() < 1e-9
    )


def test_a_perfect_white_is_white_in_every_light():
    for light in (DAYLIGHT, WARM_LAMP, COOL_LED):
        white = lab_from_reflectance(np.ones(36), light)
        assert np.abs(white - [100, 0, 0]).max() < 1e-9
    assert hex_from_lab(np.array([100.0, 0.0, 0.0])) == "#ffffff"
    assert len(WAVELENGTH_NM) == 36


def test_lights_part_a_pair_that_matches_by_day():
    smooth = np.full(36, 0.4)
    # a ripple that daylight does not see: in the null space of its weights
    _, _, rows = np.linalg.svd(DAYLIGHT.weights.T)
    ripple = rows[10] / np.abs(rows[10]).max() * 0.3
    pair = np.stack([smooth, smooth + ripple])
    by_day = delta_e_00(*lab_from_reflectance(pair))
    by_lamp = delta_e_00(*lab_from_reflectance(pair, WARM_LAMP))
    assert by_day < 1e-6 < 0.1 < by_lamp


labs = st.tuples(st.floats(0, 100), st.floats(-90, 90), st.floats(-90, 90)).map(np.array)


@given(labs)
def test_lab_and_xyz_are_inverse(lab):
    assert np.abs(lab_from_xyz(xyz_from_lab(lab)) - lab).max() < 1e-8


@given(labs, labs)
def test_difference_is_symmetric_and_nought_for_equals(one, two):
    assert abs(delta_e_00(one, two) - delta_e_00(two, one)) < 1e-9
    assert delta_e_00(one, one) == 0


@given(labs)
def test_local_metric_is_positive_and_near_the_difference(lab):
    metric = local_metric(lab[None])[0]
    assert np.linalg.eigvalsh(metric).min() > 0
    step = np.array([0.2, 0.1, -0.1])
    exact = float(delta_e_00(lab, lab + step))
    # near the neutral axis hue turns fast and a quadratic form can only be roughly right
    slack = 0.6 if np.hypot(*lab[1:]) < 2 else 0.2
    assert abs(np.sqrt(step @ metric @ step) - exact) < slack * exact + 1e-3


def test_gradient_of_lab_is_that_of_finite_differences():
    rng = np.random.default_rng(2)
    reflectance = rng.uniform(0.001, 0.9, (4, 36)) * np.array([[1], [0.01], [1], [0.3]])
    _, gradient = lab_and_gradient(reflectance)
    for band in (0, 12, 25, 35):
        step = np.zeros(36)
        step[band] = 1e-7
        slope = (lab_from_reflectance(reflectance + step) - lab_from_reflectance(reflectance - step)) / 2e-7
        assert np.allclose(gradient[:, :, band], slope, rtol=1e-4, atol=1e-4)


def test_srgb_there_and_back_and_its_limits():
    rng = np.random.default_rng(3)
    srgb = rng.uniform(0, 1, (200, 3))
    lab = lab_from_srgb(srgb)
    assert np.abs(srgb_from_lab(lab) - srgb).max() < 1e-6
    assert in_srgb(lab).all()
    assert not in_srgb(np.array([50.0, -90.0, 0.0]))


@pytest.mark.parametrize(
    ("text", "expected"),
    [("#ffffff", [100, 0, 0]), ("000000", [0, 0, 0]), ("40, 10, -20.5", [40, 10, -20.5])],
)
def test_typed_colours(text, expected):
    assert np.abs(lab_from_text(text) - expected).max() < 1e-6


@pytest.mark.parametrize(
    "text", ["", "#12", "1, 2", "101, 0, 0", "50, 200, 0", "nan, 0, 0", "a, b, c", "-1 0 0"]
)
def test_colours_that_can_not_be(text):
    with pytest.raises(CulmoError):
        lab_from_text(text)
    with pytest.raises(CulmoError):
        check_lab(np.array([np.inf, 0, 0]))


def test_hue_words():
    words = {hue_word(np.array(lab)) for lab in ([88, -10, 98], [45, 65, 40], [30, 20, -60], [40, -50, 20])}
    assert words == {"yellow", "red", "blue", "green"}
    assert hue_word(np.array([40.0, 1.0, 1.0])) == "grey"
    assert lch_from_lab(np.array([50.0, 0.0, 10.0]))[2] == pytest.approx(90)


def test_pictures_in_single_precision_are_as_good():
    linear = np.random.default_rng(0).uniform(0.0, 1.1, (500, 3))
    fine, quick = lab_from_linear_srgb(linear), lab_from_linear_srgb(linear.astype(np.float32))
    assert (fine.dtype, quick.dtype) == (np.float64, np.float32)
    assert np.abs(quick - fine).max() < 2e-3
    paper = np.array([95.0, 0.0, 2.0])
    assert seen_lab(linear.astype(np.float32), paper).dtype == np.float32
    assert seen_lab(np.array([[1, 1, 1]]), paper)[0] == pytest.approx(paper), "whole numbers are numbers too"
