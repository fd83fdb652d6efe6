"""PDF files: what all of them say of themselves, and that their colours are screen colours."""

from pathlib import Path

from PySide6.QtGui import QColorSpace, QPagedPaintDevice, QPdfOutputIntent, QPdfWriter

from culmo.words import tr

PDF_DPI = 1200


def pdf_writer(path: Path, title: str, dpi: int = PDF_DPI) -> QPdfWriter:
    """A writer of a PDF whose colours are sRGB, as its output intent says.

    Parameters
    ----------
    path : Path
    title : str
    dpi : int, dots an inch in which is painted
    """
    writer = QPdfWriter(str(path))
    writer.setPdfVersion(
        QPagedPaintDevice.PdfVersion.PdfVersion_X4
    )  # Qt writes the intent with this one alone
    intent = QPdfOutputIntent()
    intent.setOutputConditionIdentifier("sRGB IEC61966-2.1")
    intent.setOutputCondition("sRGB")
    intent.setOutputProfile(QColorSpace(QColorSpace.NamedColorSpace.SRgb))
    writer.setOutputIntent(intent)
    writer.setResolution(dpi)
    writer.setTitle(title)
    writer.setCreator(tr("Culmo"))
    return writer
