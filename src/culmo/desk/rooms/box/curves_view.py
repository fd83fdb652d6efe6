"""How much a paint absorbs and scatters at each wavelength, drawn."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPalette, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from culmo.core.colour.spectral import WAVELENGTH_NM, Array
from culmo.desk.drawn import usual_height, usual_painter, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.known import Curves
from culmo.desk.theme import px, sans
from culmo.words import decimal, tr

_HEIGHT = 150
_LEAST, _MOST = 10.0**-2.6, 10.0**1.4  # of what is shown; a tenfold is a step
_TENFOLDS = (0.01, 0.1, 1.0, 10.0)
_MARKED_NM = (400, 500, 600, 700)
_DOUBT = QColor(150, 150, 150, 90)


@guarded
class CurvesView(QWidget):
    """Absorption with its doubt, and scattering, over wavelength."""

    def __init__(self) -> None:
        super().__init__()
        self.curves: Curves | None = None
        self.setFixedHeight(px(_HEIGHT))
        self.setAccessibleName(tr("Absorption and scattering over wavelength"))

    def show_curves(self, curves: Curves) -> None:
        """Show another paint's."""
        self.curves = curves
        self.update()

    def _area(self) -> QRectF:
        return QRectF(34, 6, usual_width(self) - 42, usual_height(self) - 26)

    def _at(self, nm: float, value: float) -> QPointF:
        area = self._area()
        first, last = float(WAVELENGTH_NM[0]), float(WAVELENGTH_NM[-1])
        up = np.log(np.clip(value, _LEAST, _MOST) / _LEAST) / np.log(_MOST / _LEAST)
        return QPointF(
            area.left() + (nm - first) / (last - first) * area.width(), area.bottom() - up * area.height()
        )

    def _line(self, values: Array) -> list[QPointF]:
        return [self._at(float(nm), float(value)) for nm, value in zip(WAVELENGTH_NM, values, strict=True)]

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.curves is None:
            return
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_axes(painter)
        ink = self.palette().color(QPalette.ColorRole.WindowText)
        found = self.curves
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(_DOUBT)
        painter.drawPolygon(
            QPolygonF([*self._line(found.absorption_low), *reversed(self._line(found.absorption_high))])
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for values, pen in (
            (found.absorption, QPen(ink, 2.2)),
            (found.scattering, QPen(ink, 1.4, Qt.PenStyle.DashLine)),
        ):
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF(self._line(values)))

    def _draw_axes(self, painter: QPainter) -> None:
        soft = self.palette().color(QPalette.ColorRole.PlaceholderText)
        area, font = self._area(), sans(9)
        metrics = QFontMetricsF(font)
        painter.setFont(font)
        painter.setPen(QPen(soft, 1.0))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.drawLine(area.bottomLeft(), area.topLeft())
        marks: Sequence[tuple[QPointF, str, bool]] = [
            *((self._at(float(WAVELENGTH_NM[0]), value), decimal(f"{value:g}"), True) for value in _TENFOLDS),
            *((self._at(nm, _LEAST), str(nm), False) for nm in _MARKED_NM),
        ]
        for at, text, at_side in marks:
            wide = metrics.horizontalAdvance(text)
            if at_side:
                painter.drawLine(at, at - QPointF(4, 0))
                painter.drawText(at + QPointF(-6 - wide, metrics.ascent() / 2 - 1), text)
            else:
                painter.drawLine(at, at + QPointF(0, 4))
                painter.drawText(at + QPointF(-wide / 2, 5 + metrics.ascent()), text)
