"""Picture files: what is honoured, and what is refused before it is unpacked."""

import struct
import zlib
from datetime import UTC, datetime
from io import BytesIO

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ExifTags, Image, ImageCms

from culmo.core.capture.photo import P3_TO_XYZ, SRGB_TO_XYZ, srgb_curve
from culmo.errors import CulmoError
from culmo.study.pictures import (
    display_p3_profile,
    jpeg_bytes,
    matrix_profile,
    open_photo,
    photo_from_bytes,
    thumbnail,
    webp_size,
)


def pixels(seed=0, height=90, width=130):
    return np.random.default_rng(seed).integers(0, 255, (height, width, 3), dtype=np.uint8)


def saved(image, kind, **how):
    out = BytesIO()
    image.save(out, kind, **how)
    return out.getvalue()


@pytest.mark.parametrize(("kind", "how"), [("PNG", {}), ("TIFF", {}), ("WEBP", {"lossless": True})])
def test_plain_pictures_come_as_they_are(kind, how):
    photo = photo_from_bytes(saved(Image.fromarray(pixels()), kind, **how), "a")
    assert np.array_equal(photo.pixels, pixels())
    assert photo.space == "sRGB"
    assert photo.taken is None


@pytest.mark.parametrize("ending", [".png", ".tif"])
@pytest.mark.parametrize("channels", [1, 3, 4])
def test_sixteen_bits_stay_sixteen(ending, channels):
    deep = np.random.default_rng(1).integers(0, 65535, (80, 100, channels), dtype=np.uint16)
    if channels == 4:
        deep[..., 3] = 65535
    stored = deep[..., 0] if channels == 1 else deep[..., [2, 1, 0, *([3] if channels == 4 else [])]]
    _, data = cv2.imencode(ending, stored)
    photo = photo_from_bytes(data.tobytes(), f"a{ending}")
    assert photo.pixels.dtype == np.uint16
    assert np.array_equal(photo.pixels, np.repeat(deep, 3, axis=2) if channels == 1 else deep[..., :3])
    assert photo.curves.shape == (3, 65536)


@pytest.mark.parametrize("turn", range(1, 9))
def test_the_camera_is_held_any_way(turn):
    upright = np.zeros((80, 120, 3), np.uint8)
    upright[:20, :30] = 255  # white in the top left
    undo = {
        1: lambda a: a, 2: lambda a: a[:, ::-1], 3: lambda a: a[::-1, ::-1], 4: lambda a: a[::-1],
        5: lambda a: a.transpose(1, 0, 2), 6: lambda a: np.rot90(a, 1), 7: lambda a: np.rot90(a, 1)[:, ::-1],
        8: lambda a: np.rot90(a, -1),
    }  # fmt: skip
    held = np.ascontiguousarray(undo[turn](upright))
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = turn
    photo = photo_from_bytes(saved(Image.fromarray(held), "PNG", exif=exif), "a")
    if turn != 7:
        assert np.array_equal(photo.pixels, upright)
    assert photo.size == (120, 80)


@pytest.mark.parametrize(
    "offset, hour", [("+02:00", 10), ("+15:00", None), ("+00:00:30", None), ("\0east", None)]
)
def test_a_wrong_offset_of_a_camera_is_none(offset, hour):
    exif = Image.Exif()
    exif.get_ifd(ExifTags.IFD.Exif).update(
        {ExifTags.Base.DateTimeOriginal: "2026:05:04 12:30:00", ExifTags.Base.OffsetTimeOriginal: offset}
    )
    taken = photo_from_bytes(saved(Image.fromarray(pixels()), "JPEG", exif=exif), "a").taken
    local = datetime(2026, 5, 4, 12, 30).astimezone()
    assert taken == (local if hour is None else datetime(2026, 5, 4, hour, 30, tzinfo=UTC))


def test_the_time_and_the_profile_of_a_phone_are_honoured():
    taken = datetime(2026, 5, 4, 12, 30, tzinfo=UTC)
    wide = photo_from_bytes(jpeg_bytes(pixels(), taken, wide=True), "a")
    assert wide.taken == taken
    assert wide.space == "Display P3"
    assert np.abs(wide.to_xyz - P3_TO_XYZ).max() < 1e-4
    narrow = photo_from_bytes(jpeg_bytes(pixels()), "a")
    assert np.abs(narrow.to_xyz - SRGB_TO_XYZ).max() < 1e-3
    assert np.abs(narrow.curves - srgb_curve()).max() < 1e-4


def test_our_profile_is_sound_for_others_too():
    profile = ImageCms.ImageCmsProfile(BytesIO(display_p3_profile()))
    assert ImageCms.getProfileDescription(profile).strip() == "Display P3"
    red = Image.new("RGB", (1, 1), (255, 0, 0))
    done = ImageCms.profileToProfile(red, profile, ImageCms.createProfile("sRGB"))
    assert done.getpixel((0, 0))[0] == 255
    for bad in (b"", display_p3_profile()[:150], b"\0" * 300):
        with pytest.raises((ValueError, KeyError, struct.error)):
            matrix_profile(bad, 256)


def test_a_profile_that_can_not_be_used_is_passed_over():
    data = saved(Image.fromarray(pixels()), "PNG", icc_profile=b"nonsense" * 40)
    photo = photo_from_bytes(data, "a")
    assert "taken for sRGB" in photo.space
    assert np.array_equal(photo.pixels, pixels())
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
    assert photo_from_bytes(saved(Image.fromarray(pixels()), "PNG", icc_profile=lab), "a").pixels.shape == (
        90,
        130,
        3,
    )


def test_clear_places_lie_on_white_and_grey_is_grey():
    clear = np.zeros((70, 70, 4), np.uint8)
    assert (photo_from_bytes(saved(Image.fromarray(clear), "PNG"), "a").pixels == 255).all()
    grey = Image.fromarray(np.full((70, 70), 77, np.uint8))
    assert (photo_from_bytes(saved(grey, "PNG"), "a").pixels == 77).all()


def huge_png(width, height):
    """A picture that says it is enormous and holds nothing."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"")) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not a picture"),
        (b"just text, no picture" * 50, "not a picture"),
        (huge_png(60_000, 60_000), "million pixels"),
        (huge_png(3000, 10), "no sheet"),
        (huge_png(300, 300), "damaged|cut short"),
        (saved(Image.fromarray(pixels(1, 400, 400)), "JPEG")[:3000], "damaged|cut short"),
        (saved(Image.new("CMYK", (100, 100)), "JPEG"), "CMYK"),
        (saved(Image.new("F", (100, 100)), "TIFF"), "numbers"),
    ],
)
def test_what_can_not_be_read_is_refused_with_its_reason(data, words):
    with pytest.raises(CulmoError, match=words):
        photo_from_bytes(data, "a.png")


def test_a_large_picture_is_unpacked_in_strips_alike(monkeypatch):
    """Clear, indexed, deep, turned and with a profile: in strips of seven rows as in one piece."""
    rng = np.random.default_rng(3)
    plain = rng.integers(0, 255, (100, 70, 3), np.uint8)
    clear = rng.integers(0, 255, (100, 70, 4), np.uint8)
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = 6
    deep = cv2.imencode(".png", clear[..., [2, 1, 0, 3]].astype(np.uint16) * 257)[1].tobytes()
    files = [
        saved(Image.fromarray(plain), "PNG", exif=exif), saved(Image.fromarray(clear), "PNG"),
        saved(Image.fromarray(plain).quantize(16), "PNG", transparency=3),
        saved(Image.fromarray(clear), "WEBP", lossless=True),
        saved(Image.fromarray(plain[..., 0]), "TIFF"), deep,
    ]  # fmt: skip
    whole = [photo_from_bytes(data, "a").pixels for data in files]
    monkeypatch.setattr("culmo.study.pictures._STRIP", 7)
    for data, before in zip(files, whole, strict=True):
        now = photo_from_bytes(data, "a").pixels
        assert now.dtype == before.dtype and np.array_equal(now, before)
    assert whole[0].shape == (70, 100, 3) and np.array_equal(np.rot90(whole[0]), plain)
    share = clear[..., 3:] / 255.0
    assert np.abs(whole[1] - (clear[..., :3] * share + 255.0 * (1.0 - share))).max() <= 1.0
    assert np.abs(whole[5] / 257.0 - whole[1]).max() <= 1.0


def test_what_would_take_too_much_memory_is_refused_before_it_is_unpacked(monkeypatch):
    data = saved(Image.fromarray(np.zeros((200, 300, 3), np.uint8)), "PNG")
    assert photo_from_bytes(data, "a").pixels.shape == (200, 300, 3)
    monkeypatch.setattr("culmo.study.pictures.MOST_MEMORY", 7 * 200 * 300)
    monkeypatch.setattr("culmo.study.pictures._plain_pixels", lambda *_: pytest.fail("it was unpacked"))
    with pytest.raises(CulmoError, match="too large to be unpacked"):
        photo_from_bytes(data, "a")
    with pytest.raises(CulmoError, match="too large to be unpacked"):
        thumbnail(data, "a", 64)
    monkeypatch.setattr("culmo.study.pictures.MOST_MEMORY", 10 * 200 * 300)
    deep = cv2.imencode(".png", np.zeros((200, 300, 3), np.uint16))[1].tobytes()
    with pytest.raises(CulmoError, match="8 bits"):
        photo_from_bytes(deep, "a")


def turned(how):
    exif = Image.Exif()
    if how:
        exif[ExifTags.Base.Orientation] = how
    return exif


@pytest.mark.parametrize("mode", ["RGB", "RGBA"])
@pytest.mark.parametrize("lossless", [True, False])
@given(width=st.integers(64, 300), height=st.integers(64, 300))
@settings(max_examples=12, deadline=None)
def test_the_size_of_a_webp_file_is_known_before_it_is_opened(mode, lossless, width, height):
    data = saved(
        Image.new(mode, (width, height)), "WEBP", lossless=lossless, exif=b"" if width % 2 else b"Exif\0\0"
    )
    assert webp_size(data) == (width, height) == Image.open(BytesIO(data)).size
    assert webp_size(data[:29]) == webp_size(b"\x89PNG" + data) == (0, 0)


def test_a_webp_file_that_claims_a_vast_picture_takes_no_memory(monkeypatch):
    data = bytearray(saved(Image.new("RGBA", (80, 90)), "WEBP", lossless=True, exif=turned(1)))
    assert data[12:16] == b"VP8X"
    data[24:30] = b"\xff\x27\0\xff\x27\0"  # 10,240 by 10,240
    monkeypatch.setattr(Image, "open", lambda *a, **k: pytest.fail("it was opened"))
    with pytest.raises(CulmoError, match="105 million pixels"):
        photo_from_bytes(bytes(data), "a")


def test_a_missing_or_empty_file_says_so(tmp_path):
    with pytest.raises(CulmoError, match="can not be read"):
        open_photo(tmp_path / "none.jpg")
    (tmp_path / "e.jpg").write_bytes(b"")
    with pytest.raises(CulmoError, match="not a picture"):
        open_photo(tmp_path / "e.jpg")


@settings(max_examples=60)
@given(st.sampled_from(["PNG", "JPEG", "TIFF", "WEBP"]), st.integers(0, 10**6), st.integers(1, 40))
def test_a_damaged_picture_never_does_more_than_complain(kind, seed, count):
    data = bytearray(saved(Image.fromarray(pixels(2)), kind))
    rng = np.random.default_rng(seed)
    for place in rng.integers(0, len(data), count):
        data[place] = rng.integers(0, 256)
    if seed % 3 == 0:
        data = data[: int(rng.integers(1, len(data)))]
    try:
        photo = photo_from_bytes(bytes(data), "a")
    except CulmoError:
        return
    assert photo.pixels.ndim == 3
    assert photo.pixels.shape[2] == 3


@pytest.mark.parametrize(
    ("first", "details", "camera"),
    [
        ({}, {}, ""),
        ({ExifTags.Base.Software: "Maker of pictures 2"}, {}, ""),
        ({ExifTags.Base.Make: "Any", ExifTags.Base.Model: "One\0 "}, {}, "Any, One"),
        ({ExifTags.Base.Model: "One"}, {ExifTags.Base.LensModel: "wide"}, "One, wide"),
        ({ExifTags.Base.Model: "One"}, {ExifTags.Base.Saturation: 2, ExifTags.Base.Contrast: 0}, "One, Saturation 2"),
        ({ExifTags.Base.Model: "x" * 900}, {}, "x" * 160),
    ],
)  # fmt: skip
def test_pictures_of_one_camera_and_setting_are_known_by_what_their_files_say(first, details, camera):
    exif = Image.Exif()
    exif.update(first)
    exif.get_ifd(ExifTags.IFD.Exif).update(details)
    out = BytesIO()
    Image.new("RGB", (90, 80), (200, 190, 180)).save(out, "JPEG", exif=exif)
    assert photo_from_bytes(out.getvalue(), "a.jpg").camera == camera
