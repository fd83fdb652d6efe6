"""The map: mixes on the hue and chroma plane, predicted as pencil rings, recorded as paint."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPen
from PySide6.QtWidgets import QGraphicsEllipseItem, QVBoxLayout, QWidget

from culmo.desk.drawing.looks import qcolor
from culmo.desk.rooms.weigh.model import Comparison
from culmo.desk.theme import DAY, sans

_RINGS = (20, 40, 60, 80, 100)
_WORDS = ((0, "rose"), (30, "red"), (60, "orange"), (90, "yellow"), (140, "green"), (190, "turquoise"), (255, "blue"),
          (305, "violet"), (340, "purple"))  # fmt: skip


class MapView(QWidget):
    """Each mix at its hue and chroma; a thin line leads from the prediction to the paint."""

    selected = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.plot = pg.PlotWidget(background=DAY.colour("ground"))
        self.plot.setAccessibleName("Map of hue and chroma")
        self.plot.setAspectLocked(True)
        self.plot.hideAxis("left")
        self.plot.hideAxis("bottom")
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        layout.addWidget(self.plot)
        self._draw_ground()
        self.lines = pg.PlotDataItem(pen=pg.mkPen((120, 120, 120), width=1), connect="pairs")
        self.predicted = pg.ScatterPlotItem(size=11, pxMode=True)
        self.recorded = pg.ScatterPlotItem(size=11, pxMode=True)
        self.marker = pg.ScatterPlotItem(size=20, pxMode=True, pen=pg.mkPen("k", width=2.4), brush=None)
        for item in (self.lines, self.predicted, self.recorded, self.marker):
            self.plot.addItem(item)
        for item in (self.predicted, self.recorded):
            item.sigClicked.connect(self._clicked)
        self.rows: list[Comparison] = []
        self.plot.setRange(QRectF(-104, -108, 208, 216))

    def _draw_ground(self) -> None:
        for radius in _RINGS:
            ring = QGraphicsEllipseItem(-radius, -radius, 2 * radius, 2 * radius)
            pen = QPen(
                QColor(196, 196, 196), 1, Qt.PenStyle.DotLine if radius % 40 else Qt.PenStyle.SolidLine
            )
            pen.setCosmetic(True)
            ring.setPen(pen)
            ring.setZValue(-10)
            self.plot.addItem(ring)
            if radius > 80:
                continue
            text = pg.TextItem(str(radius), color=(130, 130, 130), anchor=(0.5, 1))
            text.setFont(sans(10))
            text.setPos(0, radius)
            self.plot.addItem(text)
        for hue, word in _WORDS:
            text = pg.TextItem(word, color=(70, 70, 70), anchor=(0.5, 0.5))
            text.setFont(sans(11))
            text.setPos(108 * np.cos(np.radians(hue)), 108 * np.sin(np.radians(hue)))
            self.plot.addItem(text)

    def show_rows(self, rows: list[Comparison]) -> None:
        """Show these mixes."""
        self.rows = rows
        ghosts, solids, lines = [], [], []
        for row in rows:
            if row.predicted is not None:
                colour = qcolor(row.predicted)
                ghosts.append(
                    {"pos": row.predicted[1:], "data": row.cell_id, "pen": pg.mkPen(colour.darker(125), width=1.6),
                     "brush": pg.mkBrush(None) if row.read else pg.mkBrush(colour)}
                )  # fmt: skip
                if row.read is not None:
                    lines += [row.predicted[1:], row.read[1:]]
            if row.read is not None:
                solids.append(
                    {"pos": row.read[1:], "data": row.cell_id, "brush": pg.mkBrush(qcolor(row.read)),
                     "pen": pg.mkPen((20, 20, 20), width=1.2), "symbol": "s"}
                )  # fmt: skip
        points = np.array(lines).reshape(-1, 2)
        self.lines.setData(points[:, 0], points[:, 1])
        self.predicted.setData(ghosts)
        self.recorded.setData(solids)

    def select(self, cell_id: str) -> None:
        """Ring a mix."""
        row = next((row for row in self.rows if row.cell_id == cell_id), None)
        self.marker.setData([{"pos": row.shown[1:]}] if row is not None else [])

    def _clicked(self, _: object, points: list[pg.SpotItem], *__: object) -> None:
        if len(points):
            self.selected.emit(str(points[0].data()))

    def place_of(self, cell_id: str) -> QPointF:
        """Where a mix stands in the widget."""
        row = next(row for row in self.rows if row.cell_id == cell_id)
        scene = self.plot.plotItem.vb.mapViewToScene(QPointF(*row.shown[1:]))
        return QPointF(self.plot.mapFromScene(scene))
