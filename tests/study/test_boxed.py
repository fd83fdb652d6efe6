"""Pictures as phones store them, HEIC and AVIF: written by their own libraries, read within the bounds of all others."""

import struct
from datetime import UTC, datetime
from io import BytesIO

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ExifTags, Image
from pillow_heif import from_bytes, from_pillow, register_heif_opener

from culmo.core.capture.photo import P3_TO_XYZ, SRGB_TO_XYZ
from culmo.errors import CulmoError
from culmo.study import pictures
from culmo.study.pictures import boxed_size, coded_space, is_boxed, jpeg_bytes, open_photo, photo_from_bytes

register_heif_opener()
KINDS = ("HEIF", "AVIF")


def scene(height=120, width=160):
    """Even fields of colour, as the cells of a sheet are: what a lossy picture keeps."""
    rng = np.random.default_rng(3)
    return np.kron(rng.integers(20, 235, (height // 40, width // 40, 3)), np.ones((40, 40, 1))).astype(
        np.uint8
    )


def saved(kind, image=None, **how):
    out = BytesIO()
    (image or Image.fromarray(scene())).save(out, kind, quality=95, **how)
    return out.getvalue()


def middles(pixels):
    return pixels[20::40, 20::40].astype(float)


@pytest.mark.parametrize("kind", KINDS)
def test_the_colours_of_fields_come_as_they_were_written(kind):
    data = saved(kind)
    photo = photo_from_bytes(data, "a")
    assert photo.size == (160, 120)
    assert np.abs(middles(photo.pixels) - middles(scene())).max() <= 6
    assert is_boxed(data)
    assert boxed_size(data) == (160, 120) or kind == "HEIF"  # its blocks may be larger than the picture


@pytest.mark.parametrize("kind", KINDS)
def test_the_time_and_the_profile_of_a_phone_are_honoured(kind):
    jpeg = Image.open(BytesIO(jpeg_bytes(scene(), wide=True)))
    exif = Image.Exif()
    exif.get_ifd(ExifTags.IFD.Exif).update(
        {ExifTags.Base.DateTimeOriginal: "2026:05:04 12:30:00", ExifTags.Base.OffsetTimeOriginal: "+02:00"}
    )
    data = saved(kind, icc_profile=jpeg.info["icc_profile"], exif=exif.tobytes())
    photo = photo_from_bytes(data, "a")
    assert photo.taken == datetime(2026, 5, 4, 10, 30, tzinfo=UTC)
    assert photo.space == "Display P3"
    assert np.abs(photo.to_xyz - P3_TO_XYZ).max() < 1e-3


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("turn", [1, 3, 6, 8])
def test_the_camera_is_held_any_way(kind, turn):
    upright = np.full((80, 120, 3), 40, np.uint8)
    upright[:24, :40] = 220
    held = np.ascontiguousarray(
        {1: upright, 3: upright[::-1, ::-1], 6: np.rot90(upright, 1), 8: np.rot90(upright, -1)}[turn]
    )
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = turn
    photo = photo_from_bytes(saved(kind, Image.fromarray(held), exif=exif.tobytes()), "a")
    assert photo.size == (120, 80)
    assert photo.pixels[10, 10].min() > 200
    assert photo.pixels[70, 110].max() < 60


def with_code(data, primaries, curve):
    """The same with other numbers for its colours."""
    at = data.index(b"colrnclx") + 8
    return data[:at] + struct.pack(">HH", primaries, curve) + data[at + 4 :]


def test_colours_that_are_named_by_number_are_known():
    data = saved("AVIF")
    assert coded_space(data)[0] == 1
    assert np.array_equal(photo_from_bytes(data, "a").to_xyz, SRGB_TO_XYZ)
    wide = with_code(data, 12, 13)
    assert coded_space(wide) == (12, 13)
    assert photo_from_bytes(wide, "a").space == "Display P3"
    assert photo_from_bytes(with_code(data, 9, 13), "a").space == "BT.2020"
    assert photo_from_bytes(with_code(data, 77, 1), "a").space == "sRGB"
    for curve in (16, 18):
        with pytest.raises(CulmoError, match="HDR"):
            photo_from_bytes(with_code(data, 9, curve), "a")


def test_ten_bits_of_a_phone_are_read():
    deep = scene().astype(np.uint16) << 8
    out = BytesIO()
    from_bytes("RGB;16", (160, 120), deep.tobytes()).save(out, quality=95)
    assert np.abs(middles(photo_from_bytes(out.getvalue(), "a").pixels) - middles(scene())).max() <= 6


def test_a_file_with_several_pictures_gives_its_first_one(tmp_path):
    heif = from_pillow(Image.fromarray(scene()))
    heif.add_from_pillow(Image.new("RGB", (200, 200), "black"))
    heif.save(tmp_path / "burst.heic", quality=95)
    assert np.abs(middles(open_photo(tmp_path / "burst.heic").pixels) - middles(scene())).max() <= 6


@pytest.mark.parametrize("kind", KINDS)
def test_a_file_that_claims_a_vast_picture_takes_no_memory(kind, monkeypatch):
    data = bytearray(saved(kind))
    at = data.index(b"ispe")
    while at >= 0:
        data[at + 8 : at + 16] = struct.pack(">II", 40_000, 40_000)
        at = data.find(b"ispe", at + 4)
    monkeypatch.setattr(Image, "open", lambda *a, **k: pytest.fail("it was opened"))
    with pytest.raises(CulmoError, match="1600 million pixels"):
        photo_from_bytes(bytes(data), "a")


def test_other_files_of_boxes_are_no_pictures():
    film = b"\0\0\0\x18ftypmp42\0\0\0\0mp42isom" + b"\0" * 500
    assert not is_boxed(film)
    with pytest.raises(CulmoError, match="HEIC, AVIF"):
        photo_from_bytes(film, "a.mp4")
    with pytest.raises(CulmoError):
        photo_from_bytes(saved("AVIF")[:400], "a.avif")


def test_what_phones_take_fits_within_the_bounds():
    """48 million pixels, as they store them."""
    assert 8064 * 6048 * pictures._BOXED_BYTES + 30_000_000 < pictures.MOST_MEMORY


@pytest.mark.long
@settings(max_examples=80)
@given(st.sampled_from(KINDS), st.integers(0, 10**6), st.integers(1, 40))
def test_a_damaged_picture_never_does_more_than_complain(kind, seed, count):
    data = bytearray(saved(kind))
    rng = np.random.default_rng(seed)
    for place in rng.integers(0, len(data) if seed % 2 else min(700, len(data)), count):
        data[place] = rng.integers(0, 256)
    if seed % 3 == 0:
        data = data[: int(rng.integers(1, len(data)))]
    try:
        photo = photo_from_bytes(bytes(data), "a")
    except CulmoError:
        return
    assert photo.pixels.shape[2] == 3
