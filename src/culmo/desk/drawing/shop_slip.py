"""A small page to carry to the shop: what one has in a range of hues, what is missing, what to look for."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QLineF, QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QImage, QPageLayout, QPageSize, QPainter, QPen

from culmo.desk.drawing.export import MM_PER_INCH
from culmo.desk.drawing.flow import wrap_mm
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.drawing.pdf import pdf_writer
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.png import save_png
from culmo.desk.drawing.sheet import draw_text, drawn_width_mm
from culmo.errors import CulmoError
from culmo.study.whole_file import whole_file
from culmo.words import tr

WIDTH_MM, HEIGHT_MM = 105.0, 148.0
_DPI = 300
_MARGIN = 8.0
_MOST_HAVE, _MOST_LOOK = 6, 5
_COLUMNS, _MOST_MANY, _ROW_MM = 5, 30, 8.4


@dataclass(frozen=True)
class WantedTube:
    """A pigment to look for: its code, name, and typical colours."""

    code: str
    words: str
    masstone: tuple[float, float, float]
    tint: tuple[float, float, float]


@dataclass(frozen=True)
class ShopSlip:
    """What stands on the slip.

    Attributes
    ----------
    title : str, the range of hues
    have : tuple of str, the paints one has there
    gap : str, what is missing, in words
    look_for : tuple of WantedTube
    avoid : tuple of str, each with its reason
    """

    title: str
    have: tuple[str, ...]
    gap: str
    look_for: tuple[WantedTube, ...]
    avoid: tuple[str, ...]


def draw_shop_slip(painter: QPainter, slip: ShopSlip, looks: Looks | None) -> None:
    """Draw the slip with the painter scaled to millimetres.

    Parameters
    ----------
    painter : QPainter
    slip : ShopSlip
    looks : Looks or None
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    width = WIDTH_MM - 2 * _MARGIN
    y = _MARGIN + 5.5
    painter.setPen(QColor(20, 20, 20))
    draw_text(painter, slip.title, _MARGIN, y, 6.0)
    y += 3.0
    y = _text(painter, slip.gap, y, 3.3, width)
    y = _head(painter, tr("I have"), y)
    if len(slip.have) > _MOST_HAVE:
        y = _many(painter, slip.have, looks, y)
    for name in slip.have if len(slip.have) <= _MOST_HAVE else ():
        _stroke(painter, looks, name, QRectF(_MARGIN, y, 40.0, 8.0))
        painter.setPen(QColor(20, 20, 20))
        draw_text(painter, _cut(name, 3.3, width - 44), _MARGIN + 44, y + 5.2, 3.3)
        y += 9.6
    if not slip.have:
        y = _text(painter, tr("nothing in this range"), y - 2.5, 3.3, width) + 1.5
    y = _head(painter, tr("Look for"), y)
    for wanted in slip.look_for[:_MOST_LOOK]:
        for place, lab in enumerate((wanted.masstone, wanted.tint)):
            painter.fillRect(QRectF(_MARGIN + 9 * place, y, 9.0, 6.0), qcolor(lab))
        pen = QPen(QColor(92, 92, 92), 0.25, Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(_MARGIN, y, 18.0, 6.0))
        painter.setPen(QColor(20, 20, 20))
        draw_text(
            painter, _cut(f"{wanted.code}, {wanted.words}", 3.2, width - 21), _MARGIN + 21, y + 4.2, 3.2
        )
        y += 7.6
    if slip.avoid:
        y = _head(painter, tr("Leave"), y)
        for line in slip.avoid:
            if y > HEIGHT_MM - 12:
                break
            y = _text(painter, line, y - 2.2, 3.0, width) + 0.2
    painter.setPen(QColor(110, 110, 110))
    draw_text(
        painter,
        tr("Typical colours; read the label, and swatch before you trust it."),
        _MARGIN,
        HEIGHT_MM - 5,
        2.5,
    )


def _many(painter: QPainter, names: Sequence[str], looks: Looks | None, y: float) -> float:
    """More paints than have a line each: small strokes in columns, with their names; says where some are left."""
    wide = (WIDTH_MM - 2 * _MARGIN) / _COLUMNS
    for place, name in enumerate(names[:_MOST_MANY]):
        x, top = _MARGIN + place % _COLUMNS * wide, y + place // _COLUMNS * _ROW_MM
        _stroke(painter, looks, name, QRectF(x, top, wide - 2.0, 4.6))
        painter.setPen(QColor(20, 20, 20))
        draw_text(painter, _cut(name, 2.2, wide - 2.0), x, top + 7.0, 2.2)
    y += -(-min(len(names), _MOST_MANY) // _COLUMNS) * _ROW_MM
    if len(names) > _MOST_MANY:
        return _text(painter, tr("and {n} more", n=len(names) - _MOST_MANY), y - 2.5, 2.6, WIDTH_MM) + 0.5
    return y


def _head(painter: QPainter, text: str, y: float) -> float:
    painter.setPen(QPen(QColor(150, 150, 150), 0.2))
    painter.drawLine(QLineF(_MARGIN, y + 1.0, WIDTH_MM - _MARGIN, y + 1.0))
    painter.setPen(QColor(90, 90, 90))
    draw_text(painter, text, _MARGIN, y + 5.0, 3.0)
    return y + 7.0


def _text(painter: QPainter, text: str, y: float, size: float, width: float) -> float:
    painter.setPen(QColor(20, 20, 20))
    for line in wrap_mm(text, size, width):
        y += size * 1.3
        draw_text(painter, line, _MARGIN, y, size)
    return y + 1.5


def _cut(text: str, size: float, width: float) -> str:
    while len(text) > 2 and drawn_width_mm(text, size) > width:
        text = text[:-2].rstrip() + "…"
    return text


def _stroke(painter: QPainter, looks: Looks | None, name: str, box: QRectF) -> None:
    scale = _DPI / MM_PER_INCH
    draw_paint(painter, looks, name, box, scale, scale * 0.35, pencil=0.2)


def shop_slip_image(slip: ShopSlip, looks: Looks | None, dpi: float = _DPI) -> QImage:
    """The slip as a picture."""
    scale = dpi / MM_PER_INCH
    image = QImage(round(WIDTH_MM * scale), round(HEIGHT_MM * scale), QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    image.setDotsPerMeterX(round(scale * 1000))
    image.setDotsPerMeterY(round(scale * 1000))
    painter = QPainter(image)
    painter.scale(scale, scale)
    draw_shop_slip(painter, slip, looks)
    painter.end()
    return image


def write_shop_slip(slip: ShopSlip, looks: Looks | None, path: Path) -> None:
    """Write the slip as .png or .pdf by the path's ending.

    Raises
    ------
    CulmoError
        when the ending is unknown or the file can not be written
    """
    ending = path.suffix.casefold()
    if ending not in (".png", ".pdf"):
        raise CulmoError(tr('"{name}": the ending must be .png or .pdf', name=path.name))
    with whole_file(path) as beside:
        done = (
            _write_pdf(slip, looks, beside)
            if ending == ".pdf"
            else save_png(shop_slip_image(slip, looks), beside)
        )
        if not done:
            raise OSError(tr("nothing was written"))


def _write_pdf(slip: ShopSlip, looks: Looks | None, path: Path) -> bool:
    writer = pdf_writer(path, slip.title, _DPI)
    size = QPageSize(
        QSizeF(WIDTH_MM, HEIGHT_MM),
        QPageSize.Unit.Millimeter,
        tr("Slip"),
        QPageSize.SizeMatchPolicy.ExactMatch,
    )
    writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    painter = QPainter()
    if not painter.begin(writer):
        return False
    painter.scale(_DPI / MM_PER_INCH, _DPI / MM_PER_INCH)
    draw_shop_slip(painter, slip, looks)
    painter.end()
    return True


def have_in(names: Sequence[str], hues: Sequence[float], low: float, high: float) -> tuple[str, ...]:
    """The paints whose hue lies in a range of the circle, in degrees."""
    return tuple(
        name for name, hue in zip(names, hues, strict=True) if (hue - low) % 360.0 <= (high - low) % 360.0
    )
