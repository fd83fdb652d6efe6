"""Raw files of cameras: DNG and the common makers', as linear light; unpacked by LibRaw, apart from the window."""

import json
import subprocess
import sys
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import numpy as np

from culmo.core.capture.photo import P3_TO_XYZ, Photo, Pixels
from culmo.core.colour.srgb import encode_srgb
from culmo.errors import CulmoError
from culmo.study.formats import RAW_ENDINGS
from culmo.study.raw_worker import NO_LIBRARY
from culmo.words import tr

_TIFF = (b"II*\0", b"MM\0*")
# how the others begin
_HEADS = (b"FUJIFILMCCD-RAW", b"IIRO", b"IIRS", b"MMOR", b"IIU\0")
_DNG_VERSION = 50706
_MAKE_AND_MODEL = (271, 272)
_MOST_ENTRIES, _MOST_LETTERS = 400, 80
_SECONDS = 120
MOST_SITES = 120_000_000


def is_raw(data: bytes, name: str) -> bool:
    """Whether a file is a camera's raw file, by how it begins; a TIFF's head by a DNG's mark or its name."""
    if data[:4] in _TIFF:
        return data[8:10] == b"CR" or _is_dng(data) or Path(name).suffix.casefold() in RAW_ENDINGS
    return data.startswith(_HEADS) or data[4:12] == b"ftypcrx "


def _is_dng(data: bytes) -> bool:
    """Whether the first directory of a TIFF holds the tag that says a DNG's version (DNG 1.7, 50706)."""
    return _DNG_VERSION in _first_directory(data)


def _first_directory(data: bytes) -> dict[int, tuple[int, bytes]]:
    """By their tags, of the entries of the first directory of a TIFF, or of what is built like one, how many values there
    are, and the four bytes that hold them or say where they stand (TIFF 6.0, section 2)."""
    at = _number(data, data[4:8])
    count = min(_number(data, data[at : at + 2]), _MOST_ENTRIES) if 8 <= at < len(data) - 2 else 0
    entries = (data[at + 2 + 12 * place : at + 14 + 12 * place] for place in range(count))
    return {
        _number(data, entry[:2]): (_number(data, entry[4:8]), entry[8:])
        for entry in entries
        if len(entry) == 12
    }


def _number(data: bytes, part: bytes) -> int:
    """An unsigned number in a TIFF, whose first two letters say in which order its bytes stand."""
    return int.from_bytes(part, "little" if data[:2] == b"II" else "big")


def camera_of(data: bytes) -> str:
    """What took a raw file, as its first directory says; empty where it has none, or does not say.

    Parameters
    ----------
    data : bytes
    """
    directory = _first_directory(data) if data[:2] in (b"II", b"MM") else {}
    said = []
    for tag in _MAKE_AND_MODEL:
        size, field = directory.get(tag, (0, b""))
        if not 1 < size <= _MOST_LETTERS:
            continue
        at = _number(data, field)
        text = field[:size] if size <= 4 else data[at : at + size]
        word = text.split(b"\0")[0].decode("ascii", "ignore")
        said.append("".join(filter(str.isprintable, word)).strip())
    return ", ".join(filter(None, said))


@dataclass(frozen=True)
class Unpacked:
    """What came out of a raw file.

    Attributes
    ----------
    size : tuple of width and height of the whole picture, upright
    taken : datetime or None
    pixels : (h, w, 3) uint16, linear, Display P3; None where only its size was asked for
    """

    size: tuple[int, int]
    taken: datetime | None
    pixels: Pixels | None


def unpacked(data: bytes, name: str, what: str = "picture") -> Unpacked:
    """Unpack a raw file.

    Parameters
    ----------
    data : bytes
    name : str, the file's
    what : str, "picture", "small" (half as large, for a look at it) or "size"

    Raises
    ------
    CulmoError
        when it is damaged, of a kind that is not known, too large, or takes too long
    """
    damaged = tr('"{name}" is damaged, or a raw file of a kind that Culmo does not read', name=name)
    try:
        done = subprocess.run(
            [sys.executable, "-m", "culmo.study.raw_worker", what],
            input=data,
            capture_output=True,
            timeout=_SECONDS,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise CulmoError(damaged) from None
    head, _, body = done.stdout.partition(b"\n")
    if done.returncode == NO_LIBRARY:
        raise CulmoError(tr('"{name}" is a raw file, and the package rawpy is not installed here', name=name))
    if done.returncode != 0:
        raise CulmoError(damaged)
    try:
        said = json.loads(head)
        width, height = (int(value) for value in said["size"])
        taken = None
        with suppress(ValueError):
            taken = datetime.fromisoformat(said["taken"]).astimezone() if said["taken"] else None
        pixels = None
        if what != "size":
            pixels = np.frombuffer(body, dtype=np.uint16).reshape([int(value) for value in said["pixels"]])
    except (ValueError, KeyError, TypeError):
        raise CulmoError(damaged) from None
    if width * height > MOST_SITES:
        raise CulmoError(tr('"{name}" has more than {n} million pixels', name=name, n=MOST_SITES // 10**6))
    return Unpacked((width, height), taken, pixels)


def raw_photo(data: bytes, name: str) -> Photo:
    """A raw file as a picture: linear, by the maker's matrix and the camera's own white balance.

    Raises
    ------
    CulmoError
        as `unpacked`
    """
    found = unpacked(data, name)
    assert found.pixels is not None
    line = np.linspace(0.0, 1.0, 65536)
    return Photo(
        found.pixels, np.tile(line, (3, 1)), P3_TO_XYZ, tr("raw"), found.taken, camera_of(data), raw=True
    )


def small_copy(data: bytes, name: str) -> Pixels:
    """A raw file as it looks on a screen, at half its size, (h, w, 3) uint8.

    Raises
    ------
    CulmoError
        as `unpacked`
    """
    found = unpacked(data, name, "small")
    assert found.pixels is not None
    table = np.round(255.0 * encode_srgb(np.linspace(0.0, 1.0, 4096))).astype(np.uint8)
    return np.asarray(table[found.pixels >> 4])
