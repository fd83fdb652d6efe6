"""Pictures as PNG, into a file or into memory."""

from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage


def save_png(image: QImage, path: Path) -> bool:
    """Write a picture; says whether it could be."""
    # the stubs want bytes, which Qt refuses
    return bool(image.save(str(path), "PNG"))  # type: ignore[call-overload]


def png_bytes(image: QImage) -> bytes:
    """A picture as the bytes of a file."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]  # as in `save_png`
    return bytes(buffer.data().data())
