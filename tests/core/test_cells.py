"""What is read from the pixels of a cell: where its light lies, what is grain and what is the picture's own noise."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.capture.cells import Sampler, _along
from culmo.core.capture.conclude import borne_out
from culmo.core.capture.judge import Expected
from culmo.core.capture.photo import plain_photo
from culmo.core.capture.sheet_reading import CellDoubt, CellReading
from culmo.core.chart.sheet import Cell
from culmo.core.paint.readings import PAPER, Trust
from culmo.core.paint.recipe import mix

PER_MM = 4.0
CELL = Cell("r01c01", ((5.0, 5.0), (25.0, 5.0), (25.0, 20.0), (5.0, 20.0)), mix(["Rose"]))


class Even:
    """Bare paper that is as bright everywhere."""

    def at(self, points_mm):
        return np.ones((*np.asarray(points_mm).shape[:-1], 3))


def sampler_of(light):
    """A flattened sheet of 30 x 25 mm in sRGB whose linear light is a function of (x, y) in mm."""
    y, x = (np.mgrid[: round(25 * PER_MM), : round(30 * PER_MM)] + 0.5) / PER_MM
    linear = np.broadcast_to(np.asarray(light(x, y))[..., None], (*x.shape, 3))
    srgb = np.where(
        linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    )
    pixels = np.round(np.clip(srgb, 0, 1) * 65535).astype(np.uint16)
    return Sampler(pixels, plain_photo(pixels), PER_MM)


def test_the_parts_of_a_cell_say_which_side_of_it_is_brighter_and_by_how_much():
    places, logs = sampler_of(lambda x, y: 0.3 * np.exp(0.02 * (x - 15.0) - 0.01 * (y - 12.0))).parts(CELL)
    assert len(places) == 9
    x, y = places.T
    terms = np.stack([np.ones(9), x - 15.0, y - 12.0], axis=1)
    level, right, down = np.linalg.lstsq(terms, logs, rcond=None)[0]
    assert (level, right, down) == pytest.approx((np.log(0.3), 0.02, -0.01), abs=2e-3)
    assert places[0] == pytest.approx([9.3, 8.6], abs=0.6)


def test_a_dark_line_or_a_glare_in_a_cell_counts_little():
    plain = sampler_of(lambda x, y: 0.3 + 0.0 * x).parts(CELL)[1]
    for odd in (0.003, 0.99):
        lined = sampler_of(lambda x, y, odd=odd: np.where(np.abs(y - 12.0) < 0.3, odd, 0.3)).parts(CELL)[1]
        assert np.abs(lined - plain).max() < 0.1
        assert len(lined) == 9


def test_the_noise_of_the_bare_paper_is_no_grain_of_the_paint():
    rng = np.random.default_rng(3)
    grid = rng.normal(size=(100, 120))
    coarse = np.kron(rng.normal(size=(25, 30)), np.ones((4, 4)))

    def light(x, y):
        inside = (x > 5) & (x < 25) & (y > 5) & (y < 20)
        return 0.4 * np.exp(0.02 * grid + 0.12 * coarse * inside)

    sampler = sampler_of(light)
    bare = np.ones((100, 120), dtype=bool)
    bare[18:82, 18:102] = False
    sampler.set_light(Even(), bare)
    sampler._noise = np.zeros(3)
    whole = sampler.patch(CELL).granulation
    assert whole > 1.0
    for noise, left in ((0.5, np.sqrt(0.75)), (2.0, 0.0)):
        sampler._noise = np.array([noise * whole, 0.0, 0.0])
        assert sampler.patch(CELL).granulation == pytest.approx(whole * left, rel=1e-6)


@pytest.mark.parametrize(
    ("start", "end"), [((12.0, 9.0), (42.0, 9.0)), ((9.0, 40.0), (9.0, 11.0)), ((8.0, 10.0), (30.0, 38.0))]
)
def test_the_ends_of_a_band_are_found_whichever_way_it_runs(start, end):
    """Walked along by hand: a place so far from the full end lies within a share of the way, or it does not."""
    cell = replace(CELL, fade_mm=(start, end))
    per_mm, left, top = 8.0, 16, 24
    found = _along(cell, (int(50 * per_mm), int(50 * per_mm)), per_mm, left, top, (0.1, 0.4))
    for walked, inside in (
        (0.0, False),
        (0.06, False),
        (0.14, True),
        (0.25, True),
        (0.36, True),
        (0.44, False),
        (0.9, False),
    ):
        x, y = (start[i] + walked * (end[i] - start[i]) for i in (0, 1))
        assert found[round(y * per_mm) - top, round(x * per_mm) - left] == inside, walked


@pytest.mark.parametrize(
    ("unsure", "dE90", "off", "doubted"),
    [
        (8.0, 4.0, 1.0, False),
        (8.0, 8.0, 1.0, True),
        (40.0, 4.9, 1.0, False),
        (8.0, 4.0, 30.0, True),
        (5.5, 40.0, 1.0, True),
    ],
)
def test_what_is_where_it_was_foretold_is_sure_as_far_as_both_together_are(unsure, dE90, off, doubted):
    lab = np.array([50.0, 20.0, -10.0])
    entry = CellReading(
        "a", mix(["Rose"]), PAPER, lab, Trust.DOUBTFUL, (CellDoubt.UNSURE,), unsure, None, None
    )
    result = borne_out(entry, {"a": Expected(lab + np.array([off, 0.0, 0.0]), dE90)})
    assert (CellDoubt.UNSURE in result.doubts) is doubted
    assert result.trust == (Trust.DOUBTFUL if doubted else Trust.GOOD)
