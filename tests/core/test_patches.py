"""The real paint cut out of foreign pictures: where it lies, how even its light is, how large it is, in which colours."""

import threading
import time
from dataclasses import replace
from io import BytesIO

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from culmo.core.capture import patches
from culmo.core.capture.camera import Exposure
from culmo.core.capture.patch_picture import (
    WHITE,
    compressed,
    encoded,
    in_colour,
    light_of,
    pixels_of,
    size_of,
)
from culmo.core.capture.patches import MARGIN_MM, MOST_PER_MM
from culmo.core.capture.read import read_sheet, reading_sheet
from culmo.core.chart.sheet import sheet_to_dict
from support.foreign_pictures import conditions, difference, lab_of_linear, linear_of, paint, photograph
from support.foreign_sheets import photo_of, sheet_of
from support.photos import paint_sheet

SPOT_MM = 0.9  # how wide the spots are that are laid on the paper to be found again
_CURVE = np.where(
    np.arange(256) / 255 <= 0.04045,
    np.arange(256) / 255 / 12.92,
    ((np.arange(256) / 255 + 0.055) / 1.055) ** 2.4,
)


def shoot(number, seed, long_px=2000, spots=False, **changes):
    """A foreign picture of the numbered sheet; with a dark spot on each cell, a little off its middle."""
    sheet, colours = sheet_of(number)
    rng = np.random.default_rng(seed)
    hand, scene, paper = conditions("plain", False, rng)
    scene = replace(scene, long_px=long_px, **changes)
    painted = paint(sheet_to_dict(sheet), colours, hand, rng, paper, per_mm=8.0)
    where = {}
    if spots:
        rows, columns = np.mgrid[: painted.light.shape[0], : painted.light.shape[1]]
        for cell in sheet.cells:
            x, y = np.mean(cell.outline_mm, axis=0) + np.array([0.12, -0.1]) * min(cell.box_mm[2:])
            away = np.hypot((columns + 0.5) / painted.per_mm - x, (rows + 0.5) / painted.per_mm - y)
            painted.light *= (1.0 - 0.9 * np.exp(-((away / SPOT_MM) ** 2)))[..., None]
            where[cell.id] = (x, y)
    picture = photograph(sheet_to_dict(sheet), painted, scene, rng)
    return sheet, picture, photo_of(picture), paper, where, painted


def linear_in(patch):
    """A patch's light relative to the bare paper, decoded without the application."""
    return _CURVE[np.asarray(Image.open(BytesIO(patch.data)).convert("RGB"))] / WHITE


@pytest.mark.long
@pytest.mark.parametrize(("number", "long_px"), [(1, 2400), (1, 1300), (0, 3600), (5, 2000)])
def test_what_lies_on_a_cell_lies_there_in_its_patch(number, long_px):
    sheet, _, photo, paper, where, painted = shoot(number, 3 + number, long_px, spots=True)
    reading = read_sheet(photo, sheet, paper=np.array(paper))
    off = []
    for cell in sheet.cells:
        patch = reading.patches.get(cell.id)
        if patch is None or cell.ground == "ink":
            continue
        seen = linear_in(patch).mean(axis=2)
        rows, columns = np.mgrid[: seen.shape[0], : seen.shape[1]]
        x = (columns + 0.5) / patch.per_mm + patch.left_mm + cell.box_mm[0]
        y = (rows + 0.5) / patch.per_mm + patch.top_mm + cell.box_mm[1]
        at = where[cell.id]
        ruled = painted.at(np.array([at]))[0]  # the hand ruled it a little off
        near = np.hypot(x - at[0], y - at[1]) < 2.0
        dark = np.where(near, np.maximum(np.median(seen[near]) - seen, 0.0) ** 2, 0.0)
        if dark.max() < 0.003:  # nothing is seen on a cell that is as dark as the spot
            continue
        found = np.array([(dark * x).sum(), (dark * y).sum()]) / dark.sum()
        off.append(np.hypot(*(found - at)))
        assert np.hypot(*(ruled - at)) < 2.0
    assert len(off) > 0.5 * len(sheet.cells)
    assert np.median(off) < 0.5
    assert np.quantile(off, 0.9) < 1.0


@pytest.mark.long
def test_the_whole_cell_is_in_it_with_a_little_paper():
    sheet, _, photo, paper, _, _ = shoot(1, 5)
    reading = read_sheet(photo, sheet, paper=np.array(paper))
    for cell in sheet.cells:
        patch = reading.patches[cell.id]
        width, height = Image.open(BytesIO(patch.data)).size
        assert (width, height) == size_of(patch.data)
        assert patch.left_mm == pytest.approx(-MARGIN_MM) and patch.top_mm == pytest.approx(-MARGIN_MM)
        assert width / patch.per_mm == pytest.approx(cell.box_mm[2] + 2 * MARGIN_MM, abs=0.2)
        assert height / patch.per_mm == pytest.approx(cell.box_mm[3] + 2 * MARGIN_MM, abs=0.2)
        edge = np.concatenate([part.reshape(-1, 3) for part in (linear_in(patch)[:3], linear_in(patch)[-3:])])
        assert np.median(edge) == pytest.approx(1.0, abs=0.12), "paper is 1, whatever the light"


def test_cutting_that_is_given_up_ends_at_once_and_leaves_nothing_at_work(monkeypatch):
    begun = []
    monkeypatch.setattr(
        patches, "compressed", lambda *given: (begun.append(1), time.sleep(0.03), compressed(*given))[2]
    )
    painted = paint_sheet(seed=4)
    _, photo = painted.shoot(Exposure(1100, noise=0.004), 1)

    def at_work():
        return [thread for thread in threading.enumerate() if thread.name.startswith("cutting")]

    steps = reading_sheet(photo, painted.sheet)
    assert not at_work()
    while next(steps) <= 0.85:
        pass
    assert at_work()
    steps.close()
    assert not at_work()
    assert len(begun) < len(painted.sheet.cells), "no more were begun"


@pytest.mark.long
def test_uneven_light_is_not_in_it():
    """Half the light on one side: cells of one paint are as light in their patches wherever they lie."""
    sheet, picture, photo, paper, _, _ = shoot(1, 11, side=0.8, corner=0.1, lamp=(1.2, 1.0, 0.7))
    reading = read_sheet(photo, sheet, paper=np.array(paper))
    off = []
    for cell in sheet.cells:
        if cell.id in picture.lab and cell.id in reading.patches:
            seen = linear_in(reading.patches[cell.id])
            high, wide = seen.shape[:2]
            middle = np.median(seen[high // 3 : -high // 3, wide // 3 : -wide // 3].reshape(-1, 3), axis=0)
            true = linear_of(picture.lab[cell.id]) / linear_of(np.array(paper))
            off.append(np.log(np.maximum(middle, 1e-3) / np.maximum(true, 1e-3)))
    off = np.array(off)
    bright = off[np.exp(off).min(axis=1) > 0]
    assert np.median(np.abs(bright)) < 0.08


@pytest.mark.long
def test_a_fine_picture_of_64_cells_takes_less_than_three_megabytes():
    sheet, _, photo, paper, _, _ = shoot(1, 7, long_px=4600, noise=0.02)
    assert len(sheet.cells) == 64
    reading = read_sheet(photo, sheet, paper=np.array(paper))
    sizes = [len(patch.data) for patch in reading.patches.values()]
    assert len(sizes) >= 60
    assert sum(sizes) < 3_000_000
    scales = [patch.per_mm for patch in reading.patches.values()]
    assert max(scales) <= MOST_PER_MM + 1e-9
    assert min(scales) > 0.7 * min(MOST_PER_MM, reading.placement.scale), "not by giving away what is seen"


def test_it_is_kept_without_visible_loss():
    rng = np.random.default_rng(3)
    grain = ndimage.gaussian_filter(rng.normal(size=(120, 150)), 1.5)  # of a third of a millimetre
    light = np.array([1.0, 0.6, 0.3]) * np.clip(0.4 + 0.08 * grain / grain.std(), 0.0, 1.2)[..., None]
    light *= 1.0 + 0.01 * rng.normal(size=light.shape)  # and the camera's noise
    pixels = encoded(light)
    assert np.abs(light_of(pixels) - light).max() < 0.008
    data, share = compressed(pixels, 200_000)
    assert share == 1.0
    kept, before = light_of(pixels_of(data)), light_of(pixels)
    off = difference(lab_of_linear(kept), lab_of_linear(before))
    assert np.median(off) < 1.0 and np.quantile(off, 0.99) < 2.5, "pixel by pixel"
    small, share = compressed(pixels, 4_000)
    assert len(small) <= 4_000
    assert size_of(small)[0] == pytest.approx(150 * share, abs=1)


@pytest.mark.long
def test_its_colours_are_those_that_the_cell_is_known_to_have():
    sheet, picture, photo, paper, _, _ = shoot(1, 13)
    reading = read_sheet(photo, sheet, paper=np.array(paper))
    entries = {entry.cell: entry for entry in reading.readings}
    rng, off = np.random.default_rng(0), []
    for cell_id, lab in list(picture.lab.items())[:30]:
        patch, entry = reading.patches[cell_id], entries[cell_id]
        told = lab + rng.normal(0, 2.0, 3)  # as an instrument, say, gives it
        if linear_of(told).min() < 0.01 or linear_of(told).max() > 0.95:
            continue
        character = np.append(
            rng.normal(0, 0.06, 9), [0.0] * 3
        )  # of a picture without a card, which tells no gains
        shown = in_colour(pixels_of(patch.data), entry.seen, tuple(paper), tuple(told), character)
        high, wide = shown.shape[:2]
        middle = _CURVE[shown[high // 3 : -high // 3, wide // 3 : -wide // 3]].reshape(-1, 3)
        off.append(difference(lab_of_linear(np.median(middle, axis=0)), told))
        edge = _CURVE[shown[:3]].reshape(-1, 3)
        assert difference(lab_of_linear(np.median(edge, axis=0)), np.array(paper)) < 6.0, "paper stays paper"
    assert len(off) > 15
    assert np.median(off) < 1.5 and max(off) < 5.0


def test_a_gleam_on_dark_paint_stays_white_whatever_is_known_of_the_camera():
    """What lies far from the cell's own colour is not carried on along a straight line into colours that nobody saw."""
    light = np.full((40, 40, 3), [0.05, 0.25, 0.12])
    light[15:25, 15:25] = [1.1, 1.1, 1.1]
    rng = np.random.default_rng(1)
    for _ in range(20):
        shown = in_colour(
            encoded(light), (0.05, 0.25, 0.12), (96.0, 0.0, 2.0), (50.0, -45.0, 15.0), rng.normal(0, 0.08, 12)
        )
        assert np.ptp(shown[18:22, 18:22].astype(int), axis=-1).max() < 40


def test_what_is_no_picture_is_none():
    assert pixels_of(b"") is None
    assert pixels_of(b"\xff\xd8\xff\xe0 cut off") is None
    assert size_of(b"") is None
    assert size_of(b"\xff\xd8" + b"\xff\xe0\x00\x00" * 3) is None


def test_a_head_that_claims_what_no_patch_has_is_not_decoded():
    """A small file can claim any size, and a way of coding that no patch has: neither costs memory."""
    sound = compressed(encoded(np.full((20, 30, 3), 0.5)), 40_000)[0]
    at = sound.index(b"\xff\xc0")
    assert pixels_of(sound).shape == (20, 30, 3) and size_of(sound) == (30, 20)
    for head in (
        b"\xff\xc0\x00\x11\x08\xff\xff\xff\xff",
        b"\xff\xc9",
        b"\xff\xc3",
        b"\xff\xc0\x00\x11\x08\x00\x00\x00\x00",
    ):
        assert pixels_of(sound[:at] + head + sound[at + len(head) :]) is None
    assert pixels_of(b"\x89PNG\r\n\x1a\n" + sound) is None
