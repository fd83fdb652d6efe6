"""What is measured of a wash from near, held against fields and sheets whose grain, parting and blooms are known."""

from types import SimpleNamespace

import numpy as np
import pytest
from scipy import ndimage, stats

from culmo.core.capture.read import read_sheet
from culmo.core.capture.texture import paper_texture, texture_of
from support.foreign_sheets import photo_of
from support.textures import textured

pytestmark = pytest.mark.long

PAPER = (96.0, 0.0, 2.0)
DISTANCES = (1400, 2000, 2800)  # pixels along the sheet's picture: from afar, usual, from near


def square(side_mm, **more):
    """A cell of a size, as far as texture asks."""
    corners = ((0.0, 0.0), (side_mm, 0.0), (side_mm, side_mm), (0.0, side_mm))
    return SimpleNamespace(outline_mm=corners, fade_mm=None, **more)


def grain(rng, side_mm, per_mm, sigma_mm, fine=24.0):
    """A Gaussian field with a standard deviation of 1, laid finely and seen by a camera."""
    size = round(side_mm * fine)
    field = ndimage.gaussian_filter(rng.standard_normal((size, size)), sigma_mm * fine, mode="wrap")
    field = (field - field.mean()) / field.std()
    step = fine / per_mm
    at = (np.arange(round(side_mm * per_mm)) + 0.5) * step - 0.5
    soft = ndimage.gaussian_filter(field, 0.85 * step, mode="wrap")  # as a lens and its pixels have it
    return ndimage.map_coordinates(soft, np.meshgrid(at, at, indexing="ij"), order=1, mode="wrap")


def lab_of(field, spread, lightness=60.0):
    """CIELAB that scatters by a field along a direction."""
    return np.array([lightness, 10.0, -5.0]) + field[..., None] * np.array(spread)


@pytest.mark.parametrize("sigma_mm", [0.15, 0.3, 0.6])
@pytest.mark.parametrize("per_mm", [6.0, 9.0, 12.0])
def test_a_known_grain_is_told_in_millimetres_at_any_scale(sigma_mm, per_mm):
    rng = np.random.default_rng(5)
    lab = lab_of(grain(rng, 30.0, per_mm, sigma_mm), (3.0, -1.0, 2.0))
    found = texture_of(lab, square(30.0), (0.0, 0.0), per_mm, per_mm, None)
    # a Gaussian field's autocorrelation is a Gaussian, wider by the root of two; its full width is 2.355 deviations
    assert found.size_mm == pytest.approx(2.355 * np.sqrt(2.0) * sigma_mm, rel=0.2)
    assert found.contrast == pytest.approx(3.0, rel=0.12)
    assert found.parting == pytest.approx(np.hypot(1.0, 2.0), rel=0.12)
    assert found.length == pytest.approx(np.sqrt(14.0), rel=0.12)
    axis = np.array([3.0, -1.0, 2.0]) / np.sqrt(14.0)
    assert np.dot(found.axis, axis) > 0.99
    assert found.contrast_off < 0.4 * found.contrast


def test_noise_and_tooth_that_bare_paper_shows_are_no_grain():
    rng = np.random.default_rng(7)
    per_mm = 8.0

    def bare(side_mm):
        tooth = 0.8 * grain(rng, side_mm, per_mm, 0.25)
        size = tooth.shape[0]
        return (
            np.array(PAPER)
            + np.stack([tooth, 0 * tooth, 0 * tooth], -1)
            + rng.normal(0, 0.5, (size, size, 3))
        )

    paper = paper_texture([bare(6.0) for _ in range(12)])
    smooth = bare(24.0) - np.array(PAPER) + [85.0, 5.0, 10.0]
    found = texture_of(smooth, square(24.0), (0.0, 0.0), per_mm, per_mm, paper)
    without = texture_of(smooth, square(24.0), (0.0, 0.0), per_mm, per_mm, None)
    assert without.contrast > 0.8
    assert found.contrast < 0.6 * without.contrast and found.parting < 0.45
    both = smooth + 3.0 * grain(rng, 24.0, per_mm, 0.3)[..., None] * [1.0, 0.0, 0.0]
    assert texture_of(both, square(24.0), (0.0, 0.0), per_mm, per_mm, paper).contrast == pytest.approx(
        3.0, rel=0.1
    )


def test_blooms_and_a_slope_are_no_grain_and_a_slope_is_no_bloom():
    per_mm = 8.0
    y, x = np.mgrid[: 30 * 8, : 30 * 8] / per_mm
    slope = lab_of(0.2 * (x - 15.0), (1.0, 0.0, 0.0))
    found = texture_of(slope, square(30.0), (0.0, 0.0), per_mm, per_mm, None)
    assert found.soft < 0.25 and found.contrast < 0.25
    bloom = lab_of(-6.0 * np.exp(-((x - 15) ** 2 + (y - 14) ** 2) / 2 / 3.5**2), (1.0, 0.0, 0.0))
    found = texture_of(bloom, square(30.0), (0.0, 0.0), per_mm, per_mm, None)
    assert found.soft > 0.7 and found.contrast < 0.6 * found.soft


def test_the_dark_edge_is_told_by_its_depth():
    per_mm = 8.0
    y, x = np.mgrid[: 20 * 8, : 20 * 8] / per_mm
    inside = np.minimum(np.minimum(x, 20 - x), np.minimum(y, 20 - y))
    for depth in (0.0, 4.0, 9.0):
        lab = lab_of(-depth * np.exp(-((inside / 1.2) ** 4)), (1.0, 0.0, 0.0))
        found = texture_of(lab, square(20.0), (0.0, 0.0), per_mm, per_mm, None)
        assert found.edge == pytest.approx(depth, abs=0.25 * depth + 0.1)


def test_what_is_too_small_or_fades_has_none_and_no_shape_breaks_it():
    rng = np.random.default_rng(1)
    lab = lab_of(rng.standard_normal((80, 80)), (1.0, 0.0, 0.0))
    assert texture_of(lab, square(4.0), (0.0, 0.0), 4.0, 4.0, None) is None
    fading = square(20.0)
    fading.fade_mm = ((0.0, 0.0), (20.0, 0.0))
    assert texture_of(lab, fading, (0.0, 0.0), 4.0, 4.0, None) is None
    ring = [
        *((10 + 9.5 * np.cos(t), 10 + 9.5 * np.sin(t)) for t in np.linspace(0, 4.5, 40)),
        *((10 + 3 * np.cos(t), 10 + 3 * np.sin(t)) for t in np.linspace(4.5, 0, 40)),
    ]
    triangle = [(0.0, 0.0), (20.0, 0.0), (10.0, 19.0)]
    wide = lab_of(rng.standard_normal((160, 160)), (1.0, 0.0, 0.0))
    for outline in (ring, triangle, triangle[::-1]):
        cell = SimpleNamespace(outline_mm=tuple(outline), fade_mm=None)
        found = texture_of(wide, cell, (0.0, 0.0), 8.0, 8.0, None)
        assert found is not None and np.isfinite(found.contrast) and found.contrast > 0.3
    assert texture_of(wide, square(20.0), (500.0, 500.0), 8.0, 8.0, None) is None
    even = np.full((160, 160, 3), 50.0)
    flat = texture_of(even, square(20.0), (0.0, 0.0), 8.0, 8.0, None)
    assert (flat.contrast, flat.parting, flat.size_mm) == pytest.approx((0.0, 0.0, 0.0), abs=1e-3)


@pytest.fixture(scope="module")
def seen():
    """A sheet of 36 washes by chance in foreign pictures from three distances: what is true, and what was measured."""
    sheet = textured(11)
    found = {}
    for px in DISTANCES:
        reading = read_sheet(photo_of(sheet.shoot(4, px)), sheet.sheet, paper=np.array(PAPER))
        found[px] = {name: patch.texture for name, patch in reading.patches.items()}
    return sheet.truth, found


def columns(truth, found, name):
    cells = sorted(truth)
    return (np.array([getattr(one[cell], name) for cell in cells]) for one in (truth, found))


@pytest.mark.parametrize("px", DISTANCES)
def test_contrast_parting_and_size_are_those_of_the_sheet(seen, px):
    truth, found = seen[0], seen[1][px]
    true, got = columns(truth, found, "contrast")
    assert stats.spearmanr(true, got)[0] >= 0.9
    grainy = true > 1.0
    assert np.median(got[grainy] / true[grainy]) == pytest.approx(1.0, abs=0.1)
    assert np.median(got[true < 0.2]) < 0.5, "smooth washes are smooth"
    sizes, seen_sizes = columns(truth, found, "size_mm")
    assert np.median(np.abs(seen_sizes[grainy] / sizes[grainy] - 1.0)) <= 0.25
    axes, seen_axes = columns(truth, found, "axis")
    assert np.median(np.abs((axes * seen_axes).sum(axis=1))[grainy]) > 0.98
    true, got = columns(truth, found, "parting")
    assert stats.spearmanr(true, got)[0] >= 0.85
    blooms, soft = (
        np.array([getattr(one[cell], name) for cell in sorted(truth)])
        for one, name in ((truth, "blooms"), (found, "soft"))
    )
    assert stats.spearmanr(blooms, soft)[0] > 0.7


def test_two_pictures_of_one_sheet_agree(seen):
    truth, found = seen
    for one, other in ((1400, 2000), (2000, 2800), (1400, 2800)):
        for name in ("contrast", "size_mm", "parting"):
            cells = [cell for cell in truth if truth[cell].contrast > 1.0 and truth[cell].parting > 0.5]
            a, b = (np.array([getattr(found[px][cell], name) for cell in cells]) for px in (one, other))
            assert np.median(np.abs(a / b - 1.0)) <= 0.10


def test_how_far_off_it_may_be_is_told(seen):
    truth, found = seen
    held = []
    for px in DISTANCES:
        true, got = columns(truth, found[px], "contrast")
        off = np.array([found[px][cell].contrast_off for cell in sorted(truth)])
        held.append(np.abs(got - true) <= 1.645 * off)
    assert 0.65 <= np.mean(held) <= 1.0
