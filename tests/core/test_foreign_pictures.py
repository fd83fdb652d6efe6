"""The reader on pictures of a world that was not made for it; the whole campaign is `make bench foreign`."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.capture.gleam import Gleam
from culmo.core.capture.judge import Expected
from culmo.core.capture.locate import locate
from culmo.core.capture.read import read_sheet
from culmo.core.capture.sheet_reading import CellDoubt
from culmo.errors import CulmoError
from support.foreign_pictures import LOOKS
from support.foreign_sheets import FAR, judge, photo_of, picture_of, sheet_of

pytestmark = pytest.mark.long

# a fault, how hard, which sheet and a seed: those that were not found once, and those that were trusted wrongly
TAKEN = (
    ("lens", False, 6, 6), ("blurred", False, 12, 12), ("corners dark", True, 11, 25), ("lamp", False, 2, 30),
    ("hand's shadow", False, 4, 32), ("soft shadow", True, 7, 35), ("buckled", True, 11, 39), ("half done", False, 4, 46),
    ("cluttered", False, 2, 58), ("granulating", True, 11, 67), ("gleam", True, 9, 37), ("light table", True, 13, 55),
    ("bare cells", True, 1, 43), ("ragged", True, 3, 45),
)  # fmt: skip


@pytest.fixture(scope="module")
def judged():
    found = []
    for fault, hard, number, seed in TAKEN:
        picture, paper = picture_of(fault, hard, number, seed, 1600)
        found.append((picture, judge(picture, paper, sheet_of(number)[0], fault, hard)))
    return found


def test_sheets_are_found_whatever_lies_about_them(judged):
    assert [one.fault for _, one in judged if not one.found] == []
    # grain as coarse as that hides edges: it is shown, and asked
    assert {one.fault for _, one in judged if one.asked} <= {"granulating"}


def test_what_is_trusted_is_near(judged):
    far = [np.mean(one.good & (one.off > FAR)) for _, one in judged if one.fault not in LOOKS]
    assert np.mean(far) <= 0.03


def test_what_is_told_holds_nine_in_ten(judged):
    held = np.concatenate([one.off <= one.told for _, one in judged])
    assert held.mean() >= 0.9
    told = np.concatenate([one.told for _, one in judged if one.fault not in ("gleam", "buckled")])
    assert np.median(told) < 5.0, "not by telling that anything may be"


def test_bare_cells_are_not_taken_for_paint(judged):
    bare = sum(len(picture.bare) for picture, _ in judged)
    assert bare > 20
    assert sum(one.bare_trusted for _, one in judged) <= 0.05 * bare


def test_another_sheet_is_not_taken_for_right(judged):
    others = {0: 1, 1: 0, 2: 5, 3: 4, 4: 3, 5: 6, 6: 2}
    for (_, _, number, _), (picture, _) in zip(TAKEN[::3], judged[::3], strict=True):
        other = sheet_of(others[number % 7])[0]
        try:
            reading = read_sheet(photo_of(picture), other)
        except CulmoError as error:
            assert "sheet" in str(error)
        else:
            assert reading.wrong


def test_a_place_that_is_weakly_borne_out_is_shown_and_asked():
    """Half of a sheet under another paper, and no marks: what is left of it is shown, with a question."""
    picture, _ = picture_of("plain", False, 0, 0, 1600)
    photo = photo_of(picture)
    sheet = sheet_of(0)[0]
    assert locate(photo.pixels, sheet)[0].sound
    pixels = photo.pixels.copy()
    rng = np.random.default_rng(0)
    middle = picture.corners.mean(axis=0).astype(int)
    part = pixels[middle[1] - 210 : middle[1] + 210, middle[0] - 270 : middle[0] + 270]
    part[:] = rng.integers(0, 255, (7, 9, 3), dtype=np.uint8).repeat(60, axis=0).repeat(60, axis=1)
    place = locate(pixels, sheet)[0]
    assert not place.sound
    assert (
        np.hypot(*(picture.to_mm(place.fit.placement.to_pixels(np.array([[45.0, 35.0]])))[0] - [45.0, 35.0]))
        < 3.0
    )


def test_what_is_foretold_and_seen_is_not_in_doubt_for_the_cameras_sake():
    picture, _ = picture_of("plain", True, 1, 1, 1600)
    sheet = sheet_of(1)[0]
    photo = photo_of(picture)
    usual = read_sheet(photo, sheet)
    unsure = {entry.cell: entry for entry in usual.readings if entry.doubts == (CellDoubt.UNSURE,)}
    assert unsure
    near = {cell: Expected(entry.lab + 1.0, 4.0) for cell, entry in unsure.items()}
    for entry in read_sheet(photo, sheet, expected=near).readings:
        if entry.cell in unsure:
            assert (
                CellDoubt.UNSURE not in entry.doubts and entry.uncertainty == unsure[entry.cell].uncertainty
            )
    far = {cell: Expected(entry.lab + np.array([0.0, 30.0, 0.0]), 4.0) for cell, entry in unsure.items()}
    assert all(
        CellDoubt.UNSURE in entry.doubts
        for entry in read_sheet(photo, sheet, expected=far).readings
        if entry.cell in unsure
    )


def test_a_picture_in_a_mirror_is_noticed(judged):
    for (_, _, number, _), (picture, one) in zip(TAKEN, judged, strict=True):
        photo = photo_of(picture)
        if one.asked or sheet_of(number)[0].kind == "fan":
            continue  # a fan in a mirror is a fan that is turned, and the writing on it is small
        mirrored = replace(photo, pixels=np.ascontiguousarray(photo.pixels[:, ::-1]))
        assert read_sheet(mirrored, sheet_of(number)[0]).wrong, one.fault


@pytest.mark.parametrize(("hard", "number", "seed"), [(False, 9, 2536), (True, 13, 3037)])
def test_what_shines_on_the_paint_is_taken_away(monkeypatch, hard, number, seed):
    """A window mirrored in the washes, of which the bare paper shows a third: the dark cells tell it."""
    picture, paper = picture_of("gleam", hard, number, seed, 1600)
    sheet = sheet_of(number)[0]
    read = judge(picture, paper, sheet, "gleam", hard)
    assert np.mean(read.off <= read.told) >= 0.9
    assert any("shines" in note for note in read.notes)
    monkeypatch.setattr("culmo.core.capture.read.find_gleam", lambda *_: Gleam())
    left = judge(picture, paper, sheet, "gleam", hard)
    assert np.quantile(read.off, 0.9) < 0.6 * np.quantile(left.off, 0.9)


def test_where_nothing_shines_nothing_is_taken_away(judged):
    shining = [one.fault for _, one in judged if any("shines" in note for note in one.notes)]
    assert "gleam" in shining
    assert len(shining) <= 2, shining
