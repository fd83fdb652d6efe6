"""Picture files: opened with their orientation, their colour space and their time, within bounds."""

import struct
import warnings
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
from PIL import ExifTags, Image, ImageCms, UnidentifiedImageError

from culmo.core.capture.photo import BT2020_TO_XYZ, P3_TO_XYZ, SRGB_TO_XYZ, Photo, Pixels, srgb_curve
from culmo.core.colour.spectral import Array
from culmo.errors import CulmoError
from culmo.study.doors import read_file
from culmo.study.photo_files import MOST_BYTES
from culmo.study.raw_files import is_raw, raw_photo, small_copy, unpacked
from culmo.study.soundness import with_offset
from culmo.words import tr

FORMATS = ("JPEG", "PNG", "TIFF", "WEBP", "AVIF", "HEIF")
# what Pillow and its decoders raise over a file that is not as it should be
DAMAGED = (
    OSError, ValueError, SyntaxError, struct.error, EOFError, IndexError, KeyError, OverflowError, TypeError, RuntimeError,
)  # fmt: skip
MOST_PIXELS = 120_000_000
# a picture is unpacked, turned and brought to red, green and blue within this, so that the window with it stays within a
# gigabyte; a pixel takes so many bytes on the way: four as Pillow holds it and three as it is handed on, or what OpenCV was
# measured to take for 16 bits, without and with transparency
MOST_MEMORY = 800_000_000
_PLAIN_BYTES, _DEEP_BYTES, _CLEAR_DEEP_BYTES = 7, 15, 19
_WEBP_BYTES = 19  # its decoder holds the picture three times more, for pictures that move
_BOXED_BYTES = 14  # HEIC and AVIF: 8 to 11 were measured; their decoders hold the planes and the picture beside each other
_STRIP = 256  # rows that are converted at once
_HEAD = 1_000_000  # what describes a boxed file stands before its pixels
LEAST_PIXELS = 64  # on the shorter side
_MOST_CAMERA = 160  # letters
# what of a camera's settings changes colours, where it is not as usual (Exif 2.32, table 13)
_SETTINGS = (ExifTags.Base.CustomRendered, ExifTags.Base.Contrast, ExifTags.Base.Saturation)
# the profile's white is D50; to D65 by Bradford's matrix (ICC.1:2022, Lindbloom)
_D50_TO_D65 = np.array(
    [
        [0.9555766, -0.0230393, 0.0631636],
        [-0.0282895, 1.0099416, 0.0210077],
        [0.0122982, -0.0204830, 1.3299098],
    ]
)


def open_photo(path: Path) -> Photo:
    """Open a picture.

    Parameters
    ----------
    path : Path of a JPEG, PNG, TIFF, WebP, HEIC or AVIF file, or of a camera's raw file

    Raises
    ------
    CulmoError
        when it is missing, no picture, too large, damaged, or of a kind that has no red, green and blue
    """
    return photo_from_bytes(picture_file(path), path.name)


def picture_file(path: Path) -> bytes:
    """The bytes of a picture's file.

    Raises
    ------
    CulmoError
        when it is missing or too large
    """
    return read_file(path, MOST_BYTES)


def photo_from_bytes(data: bytes, name: str) -> Photo:
    """A picture from a file's bytes; as `open_photo`."""
    if len(data) > MOST_BYTES:
        raise CulmoError(tr('"{name}" is larger than {value} MB', name=name, value=MOST_BYTES // 2**20))
    if is_raw(data, name):
        return raw_photo(data, name)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # Pillow warns of large or odd files; the bounds here are our own
        image = _header(data, name)
        profile, taken, camera = image.info.get("icc_profile"), _taken(image), _camera(image)
        deep = _deep_pixels(data, image, name)
        try:
            turn = image.getexif().get(ExifTags.Base.Orientation, 1)
            pixels = _upright(deep if deep is not None else _plain_pixels(image, name), turn)
        except MemoryError:
            raise CulmoError(
                tr('there is not enough memory to unpack "{name}"; close other programs', name=name)
            ) from None
        except DAMAGED as error:
            raise CulmoError(
                tr('"{name}" is damaged or cut short ({error})', name=name, error=error)
            ) from None
    pixels = np.ascontiguousarray(pixels)
    coded = coded_space(data) if not profile else ()
    if coded:
        return replace(_by_code(pixels, *coded, name, taken), camera=camera)
    return replace(_with_profile(pixels, profile, name), taken=taken, camera=camera)


def _header(data: bytes, name: str) -> Image.Image:
    _check_memory(
        data, webp_size(data), _WEBP_BYTES, name
    )  # its decoder takes its memory as soon as it is opened
    boxed = is_boxed(data)
    if boxed:
        _check_memory(data, boxed_size(data), _BOXED_BYTES, name)
        from pillow_heif import register_heif_opener  # AVIF is Pillow's own; few pictures need it

        register_heif_opener(thumbnails=False, depth_images=False, aux_images=False)
    limit = Image.MAX_IMAGE_PIXELS
    try:
        Image.MAX_IMAGE_PIXELS = None  # the size is looked at below, before anything is unpacked
        image = Image.open(BytesIO(data), formats=FORMATS if boxed else FORMATS[:4])
    except UnidentifiedImageError:
        raise CulmoError(
            tr(
                '"{name}" is not a picture that Culmo reads (JPEG, PNG, TIFF, WebP, HEIC, AVIF or raw)',
                name=name,
            )
        ) from None
    except DAMAGED as error:
        raise CulmoError(tr('"{name}" is damaged ({error})', name=name, error=error)) from None
    finally:
        Image.MAX_IMAGE_PIXELS = limit
    width, height = image.size
    if width * height > MOST_PIXELS:
        raise CulmoError(
            tr(
                '"{name}" has {value:.0f} million pixels; {value2} million are the most',
                name=name,
                value=width * height / 1e6,
                value2=MOST_PIXELS // 10**6,
            )
        )
    _check_memory(data, image.size, _BOXED_BYTES if boxed else _PLAIN_BYTES, name)
    if min(width, height) < LEAST_PIXELS:
        raise CulmoError(
            tr(
                '"{name}" has only {width} by {height} pixels; there is no sheet to be seen in it',
                name=name,
                width=width,
                height=height,
            )
        )
    if image.mode in ("CMYK", "LAB") or (image.mode == "YCbCr" and image.format != "JPEG"):
        raise CulmoError(tr('"{name}" is in {mode}; save it in RGB first', name=name, mode=image.mode))
    if image.mode in ("F", "I") and image.format == "TIFF":
        raise CulmoError(
            tr(
                '"{name}" holds numbers that are no plain picture; save it with 8 or 16 bits a channel',
                name=name,
            )
        )
    return image


def webp_size(data: bytes) -> tuple[int, int]:
    """Width and height that a WebP file's head claims (RFC 9649, 2.5 to 2.7); 0, 0 of other files."""
    if data[:4] != b"RIFF" or data[8:12] != b"WEBP" or len(data) < 30:
        return 0, 0
    kind = data[12:16]
    if kind == b"VP8X":
        return int.from_bytes(data[24:27], "little") + 1, int.from_bytes(data[27:30], "little") + 1
    if kind == b"VP8L":
        bits = int.from_bytes(data[21:25], "little")
        return (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1
    if kind == b"VP8 ":
        width, height = struct.unpack_from("<HH", data, 26)
        return width & 0x3FFF, height & 0x3FFF
    return 0, 0


def is_boxed(data: bytes) -> bool:
    """Whether a file is made of boxes and holds a still picture, as HEIC and AVIF do (ISO/IEC 14496-12, 23008-12)."""
    return data[4:8] == b"ftyp" and any(
        brand in data[8 : 8 + min(int.from_bytes(data[:4], "big"), 128)]
        for brand in (b"heic", b"heix", b"heim", b"heis", b"mif1", b"msf1", b"avif", b"avis")
    )


def _boxes(data: bytes, kind: bytes) -> Iterator[bytes]:
    """What stands in the boxes of a kind near a file's head, wherever they are nested."""
    at = data.find(kind, 8, _HEAD)
    while at >= 4:
        length = int.from_bytes(data[at - 4 : at], "big")
        if 8 < length <= _HEAD:
            yield data[at + 4 : at - 4 + length]
        at = data.find(kind, at + 4, _HEAD)


def boxed_size(data: bytes) -> tuple[int, int]:
    """The largest width and height that a boxed file's head claims (ispe of ISO/IEC 23008-12, 6.5.3); 0, 0 of others."""
    sizes = [struct.unpack_from(">II", box, 4) for box in _boxes(data, b"ispe") if len(box) >= 12]
    return max(sizes, key=lambda size: size[0] * size[1], default=(0, 0))


def coded_space(data: bytes) -> tuple[int, int] | tuple[()]:
    """The primaries and the curve that a boxed file names by number (nclx; ITU-T H.273); () where it names none."""
    if is_boxed(data):
        for box in _boxes(data, b"colr"):
            if box[:4] == b"nclx" and len(box) >= 8:
                primaries, curve = struct.unpack_from(">HH", box, 4)
                return primaries, curve
    return ()


_PRIMARIES = {1: (SRGB_TO_XYZ, "sRGB"), 12: (P3_TO_XYZ, "Display P3"), 9: (BT2020_TO_XYZ, "BT.2020")}
_BRIGHT = (16, 18)  # PQ and HLG, in which white has no fixed place


def _by_code(pixels: Pixels, primaries: int, curve: int, name: str, taken: datetime | None) -> Photo:
    """A picture whose colours are named by number: primaries that are not known are taken for sRGB's."""
    if curve in _BRIGHT:
        raise CulmoError(
            tr('"{name}" is a picture for bright screens (HDR); save it as an ordinary one', name=name)
        )
    matrix, space = _PRIMARIES.get(primaries, _PRIMARIES[1])
    # the broadcast curves are written by cameras that mean sRGB's: who shows them uses it
    levels = int(np.iinfo(pixels.dtype).max) + 1
    return Photo(pixels, np.tile(srgb_curve(levels), (3, 1)), matrix, space, taken)


def _check_memory(data: bytes, size: tuple[int, int], each: int, name: str) -> None:
    """Whether a picture can be unpacked within the bounds, before anything is."""
    width, height = size
    if len(data) + each * width * height > MOST_MEMORY:
        raise CulmoError(
            tr(
                '"{name}" is too large to be unpacked ({value:.0f} million pixels); save it smaller, or with 8 bits '
                "a channel",
                name=name,
                value=width * height / 1e6,
            )
        )


def _plain_pixels(image: Image.Image, name: str) -> Pixels:
    """Red, green and blue of 8 bits as they lie in the file; what is clear stands on white."""
    image.load()
    width, height = image.size
    pixels = np.empty((height, width, 3), np.uint8)
    clear = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
    for top in range(0, height, _STRIP):
        strip = image.crop((0, top, width, min(top + _STRIP, height)))
        if clear:
            strip.info = image.info
            strip = strip.convert("RGBA")
            strip = Image.alpha_composite(Image.new("RGBA", strip.size, (255, 255, 255, 255)), strip)
        pixels[top : top + _STRIP] = np.asarray(strip if strip.mode == "RGB" else strip.convert("RGB"))
    image.close()  # its memory is wanted where the picture is turned
    return pixels


def _deep_pixels(data: bytes, image: Image.Image, name: str) -> Pixels | None:
    """The pixels of a PNG or TIFF with 16 bits a channel, which Pillow would cut to 8; None for all others."""
    if image.format not in ("PNG", "TIFF") or not _is_deep(data, image):
        return None
    import cv2  # slow to import, and needed only here

    has_alpha = "A" in image.mode or "transparency" in image.info
    _check_memory(data, image.size, _CLEAR_DEEP_BYTES if has_alpha else _DEEP_BYTES, name)
    try:
        found = cv2.imdecode(
            np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION
        )
    except cv2.error:
        found = None
    if found is None:
        raise CulmoError(tr('"{name}" is damaged or cut short', name=name))
    if found.dtype != np.uint16:
        return None
    if found.ndim == 2:
        return np.repeat(found[..., None], 3, axis=2)
    if found.shape[2] == 4:
        pixels = np.empty((*found.shape[:2], 3), np.uint16)
        for top in range(0, len(found), _STRIP):
            strip = found[top : top + _STRIP]
            share = strip[..., 3:].astype(np.float32) / 65535.0
            pixels[top : top + _STRIP] = np.round(strip[..., 2::-1] * share + 65535.0 * (1.0 - share))
        return pixels
    return np.asarray(found[..., ::-1])


def _is_deep(data: bytes, image: Image.Image) -> bool:
    if image.mode.startswith("I"):
        return True
    if image.format == "TIFF":
        bits = image.tag_v2.get(258, (8,))  # type: ignore[attr-defined]  # BitsPerSample
        return bool(max(bits if isinstance(bits, tuple) else (bits,)) > 8)
    return data[24] == 16  # the bit depth in a PNG's header


def _upright(pixels: Pixels, turn: object) -> Pixels:
    """A picture turned as its Exif orientation says, 1 to 8; any other is none."""
    if turn in (5, 6, 7, 8):
        pixels = pixels.transpose(1, 0, 2)
    if turn in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if turn in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return pixels


def _taken(image: Image.Image) -> datetime | None:
    """When the camera says that the picture was taken."""
    try:
        exif = image.getexif()
        details = exif.get_ifd(ExifTags.IFD.Exif)
        text = details.get(ExifTags.Base.DateTimeOriginal) or exif.get(ExifTags.Base.DateTime)
        if not text:
            return None
        taken = datetime.strptime(str(text).strip("\0 "), "%Y:%m:%d %H:%M:%S")
        offset = details.get(ExifTags.Base.OffsetTimeOriginal)
        if offset:
            with suppress(ValueError):  # a wrong offset is none
                return with_offset(datetime.fromisoformat(taken.isoformat() + str(offset).strip("\0 ")))
        return with_offset(taken)
    except DAMAGED:
        return None  # a camera's wrong clock entry is no reason to refuse its picture


def _camera(image: Image.Image) -> str:
    """What took a picture, by which lens, and what made a picture of it: these are alike in what they do to colours."""
    try:
        exif = image.getexif()
        details = exif.get_ifd(ExifTags.IFD.Exif)
    except DAMAGED:
        return ""
    said = [exif.get(ExifTags.Base.Make), exif.get(ExifTags.Base.Model), details.get(ExifTags.Base.LensModel)]
    if not any(isinstance(word, str) and word.strip("\0 ") for word in said):
        return ""
    settings = [
        f"{tag.name} {details[tag]}"
        for tag in _SETTINGS
        if isinstance(details.get(tag), int) and details[tag]
    ]
    words = [word for word in (*said, exif.get(ExifTags.Base.Software), *settings) if isinstance(word, str)]
    kept = ", ".join(filter(None, ("".join(filter(str.isprintable, word)).strip() for word in words)))
    return kept[:_MOST_CAMERA]


# ---- colour spaces


def _with_profile(pixels: Pixels, profile: object, name: str) -> Photo:
    levels = int(np.iinfo(pixels.dtype).max) + 1
    if not isinstance(profile, bytes) or not profile:
        return Photo(pixels, np.tile(srgb_curve(levels), (3, 1)), SRGB_TO_XYZ)
    space = _profile_name(profile)
    try:
        matrix, curves = matrix_profile(profile, levels)
    except (struct.error, KeyError, ValueError, IndexError, OverflowError):
        return _through_tables(pixels, profile, space, levels)
    return Photo(pixels, curves, _D50_TO_D65 @ matrix, space)


def _profile_name(profile: bytes) -> str:
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(BytesIO(profile))).strip() or "unnamed"
    except (ImageCms.PyCMSError, OSError, ValueError):
        return "unknown"


def _through_tables(pixels: Pixels, profile: bytes, space: str, levels: int) -> Photo:
    """A profile that is more than a matrix and curves is brought to sRGB; one that can not be used is passed over."""
    plain = np.tile(srgb_curve(256), (3, 1))
    eight = pixels if pixels.dtype == np.uint8 else (pixels >> 8).astype(np.uint8)
    try:
        source = ImageCms.ImageCmsProfile(BytesIO(profile))
        change = ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "RGB", "RGB")
        done = np.empty_like(eight)
        for top in range(0, len(eight), _STRIP):
            strip = ImageCms.applyTransform(Image.fromarray(eight[top : top + _STRIP]), change)
            assert strip is not None
            done[top : top + _STRIP] = np.asarray(strip)
        return Photo(done, plain, SRGB_TO_XYZ, tr("{space}, brought to sRGB", space=space))
    except (ImageCms.PyCMSError, OSError, ValueError):
        return Photo(
            pixels, np.tile(srgb_curve(levels), (3, 1)), SRGB_TO_XYZ, tr("unreadable profile, taken for sRGB")
        )


def matrix_profile(profile: bytes, levels: int) -> tuple[Array, Array]:
    """The matrix and the curves of an ICC profile (ICC.1:2022, 9.2 and 10.6, 10.18, 10.31).

    Parameters
    ----------
    profile : bytes
    levels : int, of a channel

    Returns
    -------
    matrix : (3, 3) float, linear red, green, blue to XYZ relative to D50
    curves : (3, levels) float, from level to linear light

    Raises
    ------
    ValueError, KeyError, struct.error
        when it has none
    """
    if profile[36:40] != b"acsp" or profile[16:20] != b"RGB " or profile[20:24] != b"XYZ ":
        raise ValueError("no profile by a matrix")
    (count,) = struct.unpack_from(">I", profile, 128)
    if count > 200:
        raise ValueError("too many tags")
    tags: dict[bytes, bytes] = {}
    for place in range(count):
        key, start, length = struct.unpack_from(">4sII", profile, 132 + 12 * place)
        tags[key] = profile[start : start + length]
    columns = [
        np.array(struct.unpack_from(">3i", tags[key], 8)) / 65536.0 for key in (b"rXYZ", b"gXYZ", b"bXYZ")
    ]
    curves = [_curve(tags[key], levels) for key in (b"rTRC", b"gTRC", b"bTRC")]
    matrix = np.stack(columns, axis=1)
    if abs(np.linalg.det(matrix)) < 1e-4 or not np.isfinite(curves).all():
        raise ValueError("no usable matrix")
    return matrix, np.array(curves)


_FORMS = {0: 1, 1: 3, 2: 4, 3: 5, 4: 7}


def _curve(tag: bytes, levels: int) -> Array:
    x = np.linspace(0.0, 1.0, levels)
    if tag[:4] == b"curv":
        (count,) = struct.unpack_from(">I", tag, 8)
        if count == 0:
            return x
        values = np.array(struct.unpack_from(f">{count}H", tag, 12), dtype=float)
        return (
            x ** (values[0] / 256.0)
            if count == 1
            else np.interp(x, np.linspace(0, 1, count), values / 65535.0)
        )
    if tag[:4] != b"para":
        raise ValueError("an unknown curve")
    (form,) = struct.unpack_from(">H", tag, 8)
    given = np.array(struct.unpack_from(f">{_FORMS[form]}i", tag, 12)) / 65536.0
    g, a, b, c, d, e, f = np.concatenate([given, np.zeros(7 - len(given))])
    if form == 0:
        return np.asarray(x**g)
    if form in (1, 2):
        offset = c if form == 2 else 0.0
        return np.asarray(np.where(x >= -b / a, np.maximum(a * x + b, 0.0) ** g + offset, offset))
    return np.asarray(np.where(x >= d, np.maximum(a * x + b, 0.0) ** g + e, c * x + f))


def jpeg_bytes(pixels: Pixels, taken: datetime | None = None, wide: bool = False) -> bytes:
    """A picture as a JPEG file with its profile and its time.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    taken : datetime or None
    wide : bool, whether the numbers are Display P3
    """
    image = Image.fromarray(pixels)
    exif = Image.Exif()
    if taken is not None:
        exif[ExifTags.Base.DateTime] = taken.strftime("%Y:%m:%d %H:%M:%S")
        details = exif.get_ifd(ExifTags.IFD.Exif)
        details[ExifTags.Base.DateTimeOriginal] = taken.strftime("%Y:%m:%d %H:%M:%S")
        offset = taken.strftime("%z")
        if offset:
            details[ExifTags.Base.OffsetTimeOriginal] = f"{offset[:3]}:{offset[3:]}"
    out = BytesIO()
    profile = (
        display_p3_profile() if wide else ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    )
    image.save(out, "JPEG", quality=92, subsampling=0, exif=exif, icc_profile=profile)
    return out.getvalue()


def display_p3_profile() -> bytes:
    """A small profile of Display P3 (SMPTE EG 432-1 primaries, D65, the curve of sRGB)."""
    from culmo.core.capture.photo import P3_TO_XYZ

    columns = (np.linalg.inv(_D50_TO_D65) @ P3_TO_XYZ).T

    def s15(values: Any) -> bytes:
        return struct.pack(f">{len(values)}i", *(round(float(v) * 65536) for v in values))

    curve = (
        b"para\0\0\0\0" + struct.pack(">HH", 3, 0) + s15((2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))
    )
    text = tr("Display P3")
    words = (
        b"mluc\0\0\0\0"
        + struct.pack(">II2s2sII", 1, 12, b"en", b"US", 2 * len(text), 28)
        + text.encode("utf-16-be")
    )
    tags = [(b"desc", words), (b"cprt", words), (b"wtpt", b"XYZ \0\0\0\0" + s15((0.9642, 1.0, 0.8249)))]
    tags += [
        (key, b"XYZ \0\0\0\0" + s15(c)) for key, c in zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns, strict=True)
    ]
    tags += [(key, curve) for key in (b"rTRC", b"gTRC", b"bTRC")]
    at, table, body = 132 + 12 * len(tags), b"", b""
    for key, value in tags:
        value += b"\0" * (-len(value) % 4)
        table += struct.pack(">4sII", key, at + len(body), len(value))
        body += value
    size = at + len(body)
    head = struct.pack(">I4sI4s4s4s", size, b"\0\0\0\0", 0x04200000, b"mntr", b"RGB ", b"XYZ ")
    head += struct.pack(">6H4s", 2026, 1, 1, 0, 0, 0, b"acsp") + b"\0" * 28 + s15((0.9642, 1.0, 0.8249))
    return head + b"\0" * (128 - len(head)) + struct.pack(">I", len(tags)) + table + body


def size_of(data: bytes, name: str) -> tuple[int, int]:
    """Width and height of a picture as it lies in its file.

    Parameters
    ----------
    data : bytes, of the file
    name : str, the file's

    Raises
    ------
    CulmoError
        as `open_photo`
    """
    return unpacked(data, name, "size").size if is_raw(data, name) else _header(data, name).size


def thumbnail(data: bytes, name: str, side: int) -> Pixels:
    """A small copy of a picture, turned upright.

    Parameters
    ----------
    data : bytes, of the file
    name : str, the file's
    side : int, pixels of the longer side

    Returns
    -------
    (h, w, 3) uint8

    Raises
    ------
    CulmoError
        as `open_photo`
    """
    if len(data) > MOST_BYTES:
        raise CulmoError(tr('"{name}" is larger than {value} MB', name=name, value=MOST_BYTES // 2**20))
    if is_raw(data, name):
        return _reduced(small_copy(data, name), side)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        image = _header(data, name)
        try:
            image.draft("RGB", (2 * side, 2 * side))
            turn = image.getexif().get(ExifTags.Base.Orientation, 1)
            pixels = _upright(_plain_pixels(image, name), turn)
        except MemoryError:
            raise CulmoError(
                tr('there is not enough memory to unpack "{name}"; close other programs', name=name)
            ) from None
        except DAMAGED as error:
            raise CulmoError(
                tr('"{name}" is damaged or cut short ({error})', name=name, error=error)
            ) from None
    return _reduced(pixels, side)


def _reduced(pixels: Pixels, side: int) -> Pixels:
    small = Image.fromarray(np.ascontiguousarray(pixels))
    small.thumbnail((side, side), Image.Resampling.LANCZOS)
    return np.asarray(small)
