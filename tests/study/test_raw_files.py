"""Raw files of cameras, within the bounds of other pictures; a hostile one ends its own process and nothing else."""

from subprocess import CompletedProcess

import numpy as np
import pytest

from culmo.core.capture.read import read_sheet
from culmo.errors import CulmoError
from culmo.study import raw_files
from culmo.study.formats import Holds, may_hold
from culmo.study.pictures import open_photo, photo_from_bytes, size_of, thumbnail
from culmo.study.raw_files import camera_of, is_raw
from culmo.study.raw_worker import NO_LIBRARY
from support.dng import dng_bytes
from support.foreign_pictures import difference, lab_of_linear
from support.foreign_sheets import photo_of, picture_of, sheet_of


@pytest.fixture(scope="module")
def patches():
    """Grey steps and three colours, each wide enough for a mosaic."""
    rng = np.random.default_rng(0)
    colours = np.array(
        [
            [0.8, 0.8, 0.8],
            [0.3, 0.3, 0.3],
            [0.05, 0.05, 0.05],
            [0.5, 0.1, 0.1],
            [0.1, 0.4, 0.15],
            [0.1, 0.15, 0.5],
        ]
    )
    picture = np.ones((300, 480, 3)) * 0.85
    for place, colour in enumerate(colours):
        picture[60:240, 20 + 75 * place : 80 + 75 * place] = colour
    return colours, picture + rng.normal(0, 0.001, picture.shape)


def test_its_light_is_linear_and_its_colours_are_the_makers(patches, tmp_path):
    colours, picture = patches
    path = tmp_path / "shot.DNG"
    path.write_bytes(dng_bytes(picture))
    assert may_hold(path, Holds.PICTURE)
    photo = open_photo(path)
    assert photo.pixels.dtype == np.uint16 and photo.size == (480, 300)
    white = photo.linear(photo.pixels[10:40, 10:40].reshape(-1, 3)).mean(axis=0)
    assert np.ptp(white) < 0.02 * white.mean()
    for place, colour in enumerate(colours):
        seen = photo.linear(photo.pixels[80:220, 35 + 75 * place : 65 + 75 * place].reshape(-1, 3)).mean(
            axis=0
        )
        lab = photo.lab(seen / white.mean() * 0.85)
        assert difference(lab, lab_of_linear(colour)) < 2.0, colour
    assert photo.taken is not None and photo.taken.year == 2026
    assert size_of(path.read_bytes(), path.name) == (480, 300)
    small = thumbnail(path.read_bytes(), path.name, 120)
    assert small.dtype == np.uint8 and max(small.shape) == 120 and small.mean() > 100


def test_a_turned_one_is_upright(patches):
    data = dng_bytes(patches[1], orientation=6)
    assert photo_from_bytes(data, "turned.dng").size == (300, 480)
    assert size_of(data, "turned.dng") == (300, 480)


@pytest.mark.long
def test_a_sheet_is_read_from_it():
    picture, _ = picture_of("plain", True, 1, 1, 1800)
    photo = photo_of(picture)
    linear = photo.linear(photo.pixels)
    raw = photo_from_bytes(dng_bytes(linear), "sheet.dng")
    sheet = sheet_of(1)[0]
    usual = {entry.cell: entry.lab for entry in read_sheet(photo, sheet).readings}
    away = [float(difference(entry.lab, usual[entry.cell])) for entry in read_sheet(raw, sheet).readings]
    assert np.median(away) < 1.0 and np.quantile(away, 0.95) < 3.0


def test_it_is_known_by_how_it_begins(patches):
    data = dng_bytes(patches[1])
    assert is_raw(data, "no name")
    assert not is_raw(b"II*\0\x08\0\0\0\0\0", "a.tif")
    assert is_raw(b"II*\0\x10\0\0\0CR\x02\0", "x")
    assert not is_raw(b"\xff\xd8\xff\xe0", "a.nef")


@pytest.mark.parametrize("seed", range(12))
def test_a_damaged_one_is_told_as_such(patches, seed):
    rng = np.random.default_rng(seed)
    data = bytearray(dng_bytes(patches[1][:120, :160]))
    if seed % 3 == 0:
        data = data[: int(rng.integers(20, len(data)))]
    else:
        reach = 400 if seed % 3 == 1 else len(data)
        for at in rng.integers(4, reach, 12):
            data[at] = int(rng.integers(256))
    try:
        photo = photo_from_bytes(bytes(data), "bad.dng")
    except CulmoError as error:
        assert "bad.dng" in str(error)
    else:
        assert photo.pixels.ndim == 3


def test_what_is_called_raw_and_is_not(tmp_path):
    path = tmp_path / "holiday.nef"
    path.write_bytes(b"MM\0*" + bytes(200))
    with pytest.raises(CulmoError, match=r"holiday\.nef"):
        open_photo(path)


def test_where_the_library_is_missing_it_is_said(patches, monkeypatch):
    monkeypatch.setattr(raw_files.sys, "executable", "/bin/false")
    with pytest.raises(CulmoError, match="damaged"):
        photo_from_bytes(dng_bytes(patches[1]), "a.dng")
    monkeypatch.setattr(
        raw_files.subprocess, "run", lambda *_, **__: CompletedProcess([], NO_LIBRARY, b"", b"")
    )
    with pytest.raises(CulmoError, match="rawpy"):
        photo_from_bytes(dng_bytes(patches[1]), "a.dng")


@pytest.mark.long
def test_what_took_it_is_known_and_that_it_is_raw(patches):
    photo = photo_from_bytes(dng_bytes(patches[1]), "a.dng")
    assert photo.camera == "Made up, Model"
    assert photo.raw
    picture, _ = picture_of("plain", True, 1, 1, 1200)
    plain = photo_of(picture)
    raw = photo_from_bytes(dng_bytes(plain.linear(plain.pixels)), "sheet.dng")
    assert read_sheet(raw, sheet_of(1)[0]).shot.raw


@pytest.mark.parametrize(
    "data",
    [b"", b"II", b"II*\0", b"II*\0" + b"\xff" * 40, b"MM\0*" + b"\0" * 30, b"II*\0\x08\0\0\0" + b"\x05\0" + b"\x0f\x01" * 20,
     b"FUJIFILMCCD-RAW" + b"\0" * 50],
)  # fmt: skip
def test_a_directory_that_is_cut_short_says_nothing_of_the_camera(data):
    assert camera_of(data) == ""


def test_a_name_is_found_in_either_order_of_bytes_and_within_the_entry():
    """TIFF 6.0: what fits into four bytes stands in the entry itself."""
    for order, head in (("little", b"II*\0"), ("big", b"MM\0*")):
        entry = (271).to_bytes(2, order) + (2).to_bytes(2, order) + (4).to_bytes(4, order) + b"Abc\0"
        data = head + (8).to_bytes(4, order) + (1).to_bytes(2, order) + entry + b"\0" * 4
        assert camera_of(data) == "Abc"
