"""Pictures as PNG, into a file or into memory."""

import struct
import zlib
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QColorSpace, QImage

_HEAD_BYTES = 33  # the signature and the first chunk, which says how large the picture is


def save_png(image: QImage, path: Path) -> bool:
    """Write a picture; says whether it could be."""
    data = png_bytes(image)
    if data:
        path.write_bytes(data)
    return bool(data)


def png_bytes(image: QImage) -> bytes:
    """A picture as the bytes of a file, which says that its colours are sRGB; empty where it can not be made."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    plain = QImage(image)
    plain.setColorSpace(QColorSpace())  # else Qt writes a profile instead
    if not plain.save(buffer, "PNG"):  # type: ignore[call-overload]  # the stubs want bytes, which Qt refuses
        return b""
    data = bytes(buffer.data().data())
    said = b"sRGB" + b"\0"  # perceptual
    chunk = struct.pack(">I", 1) + said + struct.pack(">I", zlib.crc32(said))
    return data[:_HEAD_BYTES] + chunk + data[_HEAD_BYTES:]
