"""How far a box reaches in each hue, light, middle and dark, as bars of its own most vivid mixes."""

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from culmo.core.colour.spectral import Array
from culmo.core.palette.missing import LIGHTS_WORDS, SECTORS
from culmo.core.palette.mixer import chroma_of
from culmo.desk.drawing.looks import qcolor
from culmo.desk.drawn import usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.theme import PAPER, PENCIL, px, sans, text_scale
from culmo.words import tr

_ROW, _HEAD, _GAP = 24, 22, 10
_TWO_COLUMNS = 620  # two columns of hues where there is this much room


@guarded
class ReachFigure(QWidget):
    """Twelve hues by three lightnesses: the bar is what the box does, the pencil outline what can be had.

    Parameters
    ----------
    best, usual : (12, 3, 3) float, the most vivid CIELAB colours of the box and of a well-filled one; nan where none
    """

    def __init__(self, best: Array, usual: Array) -> None:
        super().__init__()
        self.best = best
        self.own, self.usual = (np.nan_to_num(chroma_of(lab)) for lab in (best, usual))
        self.setAccessibleName(tr("What each hue reaches"))
        rows = (
            f"{tr(SECTORS[hue])}: {', '.join(self.words(hue, band) for band in range(3))}"
            for hue in range(12)
        )
        self.setAccessibleDescription("; ".join(rows))
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def words(self, hue: int, band: int) -> str:
        """What a bar says.

        Parameters
        ----------
        hue, band : int, places in SECTORS and in light, middle, dark
        """
        return tr(
            "{band} {own:.0f} of {usual:.0f}",
            band=LIGHTS_WORDS[band], own=self.own[hue, band], usual=self.usual[hue, band],
        )  # fmt: skip

    # ---- where things stand

    def _columns(self, width: int) -> int:
        return 2 if width >= _TWO_COLUMNS else 1

    def heightForWidth(self, width: int) -> int:
        return px(_HEAD + _ROW * (12 // self._columns(int(width / text_scale()))))

    def sizeHint(self) -> QSize:
        return QSize(px(_TWO_COLUMNS), self.heightForWidth(px(_TWO_COLUMNS)))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(260), px(_HEAD))

    def _label_width(self) -> float:
        metrics = QFontMetricsF(sans(10))
        return max(metrics.horizontalAdvance(tr(word)) for word in SECTORS) + _GAP

    def _lane(self, column: int, band: int) -> tuple[float, float]:
        """Where the bars of a band begin in a column of hues, and how long the longest may be."""
        columns = self._columns(usual_width(self))
        wide = usual_width(self) / columns
        lane = (wide - self._label_width() - _GAP) / 3
        return column * wide + self._label_width() + band * lane, lane - _GAP

    def bar(self, hue: int, band: int) -> QRectF:
        """The outline of a bar: as long as what can be had is vivid."""
        rows = 12 // self._columns(usual_width(self))
        x, longest = self._lane(hue // rows, band)
        length = longest * self.usual[hue, band] / max(float(self.usual.max()), 1.0)
        return QRectF(x, _HEAD + (hue % rows) * _ROW + 4, max(length, 1.0), _ROW - 8)

    # ---- drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setFont(sans(10))
        soft, strong = (
            self.palette().color(role)
            for role in (QPalette.ColorRole.PlaceholderText, QPalette.ColorRole.WindowText)
        )
        rows = 12 // self._columns(usual_width(self))
        painter.setPen(soft)
        for column in range(12 // rows):
            for band, word in enumerate(LIGHTS_WORDS):
                x, longest = self._lane(column, band)
                painter.drawText(QRectF(x, 0, longest, _HEAD - 4), Qt.AlignmentFlag.AlignLeft, word)
        for hue in range(12):
            painter.setPen(strong)
            first = self.bar(hue, 0)
            x = (hue // rows) * usual_width(self) / (12 // rows)
            box = QRectF(x, first.top() - 4, self._label_width(), _ROW)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, tr(SECTORS[hue])
            )
            for band in range(3):
                self._draw_bar(painter, hue, band)

    def _draw_bar(self, painter: QPainter, hue: int, band: int) -> None:
        bar = self.bar(hue, band)
        painter.fillRect(bar, PAPER)
        share = min(self.own[hue, band] / max(self.usual[hue, band], 1.0), 1.0)
        if share > 0:
            done = QRectF(bar.left(), bar.top(), bar.width() * share, bar.height())
            painter.fillRect(done, qcolor(self.best[hue, band]))
        pen = QPen(PENCIL, 1.0, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([3.0, 2.5])
        painter.setPen(pen)
        painter.drawRect(bar)

    def event(self, event: QEvent) -> bool:
        """The tip of a bar says its numbers."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self.tip_at(usual_place(event)), self)
            return True
        return super().event(event)

    def tip_at(self, place: QPointF) -> str:
        """What the bar at a place says; empty where there is none."""
        for hue in range(12):
            for band in range(3):
                if self.bar(hue, band).adjusted(0, -4, _GAP, 4).contains(place):
                    return f"{tr(SECTORS[hue])}: {self.words(hue, band)}"
        return ""
