"""The film: laws of optics, and its derivatives."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.paint.film import below_surface, film_gradient, film_reflectance, through_surface

positive = st.floats(1e-6, 50)


def spectra(seed: int, count: int = 20):
    rng = np.random.default_rng(seed)
    K, S = np.exp(rng.normal(-1, 2, (count, 36))), np.exp(rng.normal(-2, 2, (count, 36)))
    return K, S, rng.uniform(0.05, 1, (count, 1)), rng.uniform(0, 1, (count, 36))


@given(positive, positive, st.floats(0.01, 1), st.floats(0, 1))
def test_it_agrees_with_the_textbook_form(k, s, x, ground):
    a = 1 + k / s
    b = np.sqrt(a * a - 1)
    coth = 1 / np.tanh(b * s * x)
    textbook = (1 - ground * (a - b * coth)) / (a - ground + b * coth)
    found = film_reflectance(np.array([k]), np.array([s]), np.array([x]), np.array([ground]))[0]
    assert abs(found - textbook) < 1e-6 * max(1.0, a)


@given(st.integers(0, 500))
def test_reflectance_stays_between_nought_and_one(seed):
    found = film_reflectance(*spectra(seed))
    assert (found >= -1e-12).all()
    assert (found <= 1 + 1e-12).all()


@given(st.integers(0, 500), st.floats(0.05, 0.95))
def test_more_water_is_never_darker_over_white_paper(seed, thin):
    K, S, X, _ = spectra(seed)
    white = np.full_like(K, 0.95)
    full, pale = film_reflectance(K, S, X, white), film_reflectance(K, S, X * thin, white)
    absorbing = film_reflectance(K, S, np.full_like(X, 1e3), white) < 0.95
    assert (pale >= full - 1e-9)[absorbing].all()


def test_nothing_changes_nothing():
    K, S, _, ground = spectra(1)
    assert np.abs(film_reflectance(K, S, np.zeros((len(K), 1)), ground) - ground).max() < 1e-9
    assert np.abs(film_reflectance(K * 0, S * 0, np.ones((len(K), 1)), ground) - ground).max() < 1e-6


def test_without_scattering_it_is_a_filter():
    K, S, X, ground = spectra(2)
    expected = ground * np.exp(-2 * K * X)
    assert np.abs(film_reflectance(K, S * 0, X, ground) - expected).max() < 1e-9


def test_derivatives_are_those_of_finite_differences():
    K, S, X, ground = spectra(3)
    found = film_gradient(K, S, X, ground)
    h = 1e-6
    slopes = {
        "by_K": film_reflectance(K + h, S, X, ground) - film_reflectance(K - h, S, X, ground),
        "by_S": film_reflectance(K, S + h, X, ground) - film_reflectance(K, S - h, X, ground),
        "by_X": film_reflectance(K, S, X + h, ground) - film_reflectance(K, S, X - h, ground),
        "by_ground": film_reflectance(K, S, X, ground + h) - film_reflectance(K, S, X, ground - h),
    }
    for name, difference in slopes.items():
        assert np.allclose(getattr(found, name), difference / (2 * h), rtol=1e-4, atol=1e-6), name


def test_derivatives_of_a_nearly_empty_film_are_finite():
    tiny = np.full((1, 36), 1e-9)
    found = film_gradient(tiny, tiny, np.ones((1, 1)), np.full((1, 36), 0.5))
    assert all(np.isfinite(getattr(found, name)).all() for name in ("by_K", "by_S", "by_X", "by_ground"))


@given(st.floats(0.01, 0.06), st.floats(0.1, 0.6))
def test_the_surface_there_and_back(k1, k2):
    inner = np.linspace(0, 1, 36)
    assert np.abs(below_surface(through_surface(inner, k1, k2), k1, k2) - inner).max() < 1e-9
