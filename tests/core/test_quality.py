"""What is wrong with a picture, before anything is read in it."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from culmo.core.capture.locate import smaller
from culmo.core.capture.quality import FAULT_WORDS, SIDE, PictureFault, QualityLook, faults
from culmo.core.capture.read import read_sheet
from support.photos import any_sheet


def seen(pixels, size=None):
    return faults(QualityLook(smaller(pixels, SIDE)[0], size or pixels.shape[1::-1]))


@pytest.fixture(scope="module")
def fine():
    sheet, shot = any_sheet(3, True)
    return sheet, replace(shot, width_px=2000)


@pytest.mark.long
def test_pictures_as_they_should_be_have_no_faults():
    for number in range(10):
        sheet, shot = any_sheet(number, True)
        _, photo = sheet.shoot(shot, number)
        assert seen(photo.pixels) == [], number


@pytest.mark.long
def test_each_fault_is_seen_and_told(fine):
    sheet, shot = fine
    pixels = sheet.shoot(shot, 3)[1].pixels
    assert seen(pixels) == []
    assert seen(sheet.shoot(replace(shot, exposure=0.1), 3)[1].pixels) == [PictureFault.DARK]
    assert PictureFault.BURNT in seen(sheet.shoot(replace(shot, exposure=1.6), 3)[1].pixels)
    assert seen(cv2.GaussianBlur(pixels, (0, 0), 14)) == [PictureFault.BLURRED]
    assert seen(cv2.GaussianBlur(pixels, (0, 0), 2)) == []  # reads well enough
    grey = np.repeat(pixels.mean(axis=2, keepdims=True), 3, axis=2).astype(np.uint8)
    assert seen(grey) == [PictureFault.COLOURLESS]
    assert seen(cv2.resize(pixels, (640, 480), interpolation=cv2.INTER_AREA)) == [PictureFault.SMALL]
    for fault in (
        PictureFault.SMALL,
        PictureFault.DARK,
        PictureFault.BURNT,
        PictureFault.BLURRED,
        PictureFault.COLOURLESS,
    ):
        assert ":" in FAULT_WORDS[fault]  # what it is, and what to do


@pytest.mark.parametrize("level", [0, 128, 255])
def test_a_picture_of_nothing_is_judged_and_not_stumbled_over(level):
    found = seen(np.full((300, 400, 3), level, dtype=np.uint8))
    assert PictureFault.SMALL in found and PictureFault.BLURRED in found and PictureFault.COLOURLESS in found
    assert (PictureFault.DARK in found) == (level == 0) and (PictureFault.BURNT in found) == (level == 255)
    assert seen(np.zeros((1, 1, 3), dtype=np.uint8))
    assert seen(np.zeros((2, 900, 3), dtype=np.uint8))


@pytest.mark.long
def test_two_lights_of_different_tints_are_told_once_the_sheet_is_found(fine):
    sheet, shot = fine
    photo = sheet.shoot(shot, 3)[1]
    assert not any("two lights" in note for note in read_sheet(photo, sheet.sheet).notes)
    warm = np.linspace(0.0, 1.0, photo.pixels.shape[1])[None, :, None] * np.array([0.1, 0.0, -0.22])
    mixed = np.clip(photo.pixels * (1.0 + warm), 0, 255).astype(np.uint8)
    assert any("two lights" in note for note in read_sheet(replace(photo, pixels=mixed), sheet.sheet).notes)
