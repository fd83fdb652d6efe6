"""The simulated phone of practice photos: as wrong as real cameras, and white stays white."""

import numpy as np

from culmo.core.capture.phone import random_phone
from culmo.core.colour.cielab import lab_from_reflectance
from support.foreign_cameras import _surfaces, make_camera, make_shooting
from support.foreign_pictures import difference, lab_of_linear
from support.turbid import lab_of


def phones(count=12):
    return [random_phone(np.random.default_rng(seed)) for seed in range(count)]


def test_it_errs_about_as_much_as_cameras_that_were_measured():
    surfaces = _surfaces(np.random.default_rng(2), 80)
    true = np.array([lab_of(one) for one in surfaces])
    own = [np.median(difference(lab_from_reflectance(surfaces, phone.sees), true)) for phone in phones()]
    measured = []
    for seed in range(12):
        rng = np.random.default_rng(seed)
        camera = make_camera(rng)
        camera.saturation = 1.0
        shooting = make_shooting(rng, camera)
        light = shooting.linear(surfaces) / shooting.linear(np.ones((1, 36)))
        measured.append(np.median(difference(lab_of_linear(light), true)))
    assert 0.5 * np.median(measured) < np.median(own) < 2.0 * np.median(measured)
    assert min(own) > 0.5


def test_white_stays_white_and_each_phone_is_another():
    grey = 0.5 * np.ones((1, 36))
    for phone in phones():
        lab = lab_from_reflectance(grey, phone.sees)
        np.testing.assert_allclose(lab, lab_from_reflectance(grey), atol=0.3)
    weights = [phone.sees.weights for phone in phones(4)]
    assert all(np.abs(one - weights[0]).max() > 0.002 for one in weights[1:])


def test_its_curve_keeps_the_ends_and_the_order_of_levels():
    levels = np.repeat(np.arange(256, dtype=np.uint8)[:, None, None], 3, axis=2)
    for phone in phones():
        bent = phone.developed(levels)[:, 0, 0].astype(int)
        assert (bent[0], bent[-1]) == (0, 255)
        assert (np.diff(bent) >= 0).all()
    strong = max(phones(), key=lambda phone: phone.bend)
    bent = strong.developed(levels)[:, 0, 0].astype(int)
    assert bent[60] < 60
    assert bent[200] > 200
