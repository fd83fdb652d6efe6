"""Palettes as rows of strokes with a bar for what they reach; the curve of reach; the little map of what is lost."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPalette,
    QPen,
)
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from culmo.core.colour.spectral import Array, Flags
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.recipe import mix
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_place, usual_rect, usual_width
from culmo.desk.going_out import PAINT_MIME
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.fewer_model import PaletteRow
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, PENCIL, px, sans, serif
from culmo.desk.things import Thing, mix_thing
from culmo.desk.widgets import as_tip
from culmo.words import tr

ROW_HEIGHT = 66
_LEFT = 50
_WIDEST_STROKE = 69.0
_GAP = 4.0
_FEWEST_SHOWN = 5  # a row of fewer strokes does not spread them wider


def two_lines(name: str, metrics: QFontMetrics, width: int) -> list[str]:
    """A name on one or two lines, cut where even that is too narrow.

    Parameters
    ----------
    name : str
    metrics : QFontMetrics
    width : int, pixels
    """
    words = name.split()
    if metrics.horizontalAdvance(name) <= width or len(words) < 2:
        return [metrics.elidedText(name, Qt.TextElideMode.ElideRight, width)]
    lines = [words[0], " ".join(words[1:])]
    return [metrics.elidedText(line, Qt.TextElideMode.ElideRight, width) for line in lines]


def _fitting(text: str, metrics: QFontMetrics, width: int) -> str:
    """As many of the entries of a list as there is room for, the first at least."""
    while metrics.horizontalAdvance(text) > width and ", " in text:
        text = text.rpartition(", ")[0]
    return text


@guarded
class PaletteButton(QAbstractButton):
    """One palette. It can be chosen; the palette at hand also takes paints that are dropped on it."""

    paint_added = Signal(str)
    paint_removed = Signal(str)

    def __init__(self, session: Session, takes_paints: bool = False) -> None:
        super().__init__()
        self.session, self.takes_paints = session, takes_paints
        self.row = PaletteRow(0)
        self.busy = False
        self._at = 0
        self.setCheckable(True)
        self.setAutoExclusive(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(takes_paints)
        self.setFixedHeight(px(ROW_HEIGHT))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(px(640), px(ROW_HEIGHT))

    def show_row(self, row: PaletteRow, busy: bool = False) -> None:
        """Show another palette."""
        self.row, self.busy = row, busy
        self._at = min(self._at, max(0, len(row.paints) - 1))
        name = tr("The palette at hand") if self.takes_paints else tr("{size} paints", size=row.size)
        words = ", ".join(row.paints) or row.problem or row.loses
        self.setAccessibleName(f"{name}: {words}; {row.number}")
        self.setToolTip(as_tip("\n".join(part for part in (words, row.number, row.loses, row.sure) if part)))
        self.update()

    def selected_things(self) -> list[Thing]:
        """Its paints."""
        looks = self.session.learning.looks
        return [mix_thing(looks, mix([name]), name) for name in self.row.paints]

    # ---- drawing

    def _right(self) -> float:
        return 184.0 if usual_width(self) > 620 else 140.0

    def _slots(self) -> list[QRectF]:
        count = max(1, len(self.row.paints))
        room = usual_width(self) - _LEFT - self._right() - 12.0
        width = min(_WIDEST_STROKE, room / max(count, _FEWEST_SHOWN) - _GAP)
        return [QRectF(_LEFT + i * (width + _GAP), 4.0, width, 27.0) for i in range(len(self.row.paints))]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        box = usual_rect(self).adjusted(1.5, 1.5, -1.5, -1.5)
        if self.isChecked():
            painter.setPen(QPen(strong, 2.4))
            painter.setBrush(self.palette().color(QPalette.ColorRole.Base))
            painter.drawRoundedRect(box, 4, 4)
        elif self.takes_paints:
            pen = QPen(self.palette().color(QPalette.ColorRole.PlaceholderText), 1.0, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 4, 4)
        if self.hasFocus():
            painter.setPen(QPen(strong, 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(3, 3, -3, -3), 3, 3)
        painter.setPen(strong)
        painter.setFont(serif(21) if self.row.size else sans(10.5, sans().Weight.DemiBold))
        number = str(self.row.size) if self.row.size else tr("Yours")
        painter.drawText(QRectF(4, 0, _LEFT - 8, 50), Qt.AlignmentFlag.AlignCenter, number)
        if self.row.problem or not self.row.paints:
            self._draw_problem(painter)
            return
        self._draw_strokes(painter)
        self._draw_reach(painter)

    def _draw_problem(self, painter: QPainter) -> None:
        painter.setFont(sans(10.5))
        painter.setPen(self.palette().color(QPalette.ColorRole.PlaceholderText))
        text = self.row.problem or (tr("Looking for the best") if self.busy else self.row.loses)
        box = QRectF(_LEFT, 0, usual_width(self) - _LEFT - 16, ROW_HEIGHT)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(box, flags, text[:1].upper() + text[1:])

    def _draw_strokes(self, painter: QPainter) -> None:
        looks, ratio = self.session.learning.looks, fine_ratio(self)
        metrics = QFontMetrics(sans(10))
        considered = {paint.name.casefold() for paint in self.session.paints if paint.status == "wished"}
        for i, (name, slot) in enumerate(zip(self.row.paints, self._slots(), strict=True)):
            edge = QPen(QColor(190, 190, 190), 1)
            if name.casefold() in considered:
                edge = QPen(PENCIL, 1.2, Qt.PenStyle.CustomDashLine)
                edge.setDashPattern([4.0, 3.0])
            painter.setPen(edge)
            painter.setBrush(PAPER)
            painter.drawRoundedRect(slot, 3, 3)
            draw_paint(painter, looks, name, slot.adjusted(2, 2, -2, -2), ratio, ratio)
            if self.takes_paints and self.hasFocus() and i == self._at:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(self.palette().color(QPalette.ColorRole.WindowText), 2.0))
                painter.drawRoundedRect(slot.adjusted(-1, -1, 1, 1), 3, 3)
            painter.setFont(sans(10))
            painter.setPen(self.palette().color(QPalette.ColorRole.WindowText))
            under = QRectF(slot.left(), slot.bottom() + 1, slot.width() + _GAP - 2, 34)
            for line, text in enumerate(two_lines(name, metrics, int(under.width()))):
                painter.drawText(under.translated(0, 15 * line), Qt.AlignmentFlag.AlignLeft, text)

    def _draw_reach(self, painter: QPainter) -> None:
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        left = usual_width(self) - self._right()
        bar = QRectF(left, 12, min(100.0, self._right() - 70), 10)
        painter.setPen(QPen(strong, 1.0))
        painter.setBrush(self.palette().color(QPalette.ColorRole.Base))
        painter.drawRect(bar)
        share = self.row.share or 0.0
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), strong)
        painter.setFont(sans(11.5, sans().Weight.DemiBold))
        painter.drawText(QRectF(bar.right() + 8, 6, 70, 22), Qt.AlignmentFlag.AlignVCenter, self.row.number)
        small = sans(10)
        painter.setFont(small)
        metrics = QFontMetrics(small)
        room = int(usual_width(self) - left - 8)
        for line, text in enumerate((self.row.loses, self.row.sure)):
            painter.setPen(strong if line == 0 else self.palette().color(QPalette.ColorRole.PlaceholderText))
            text = metrics.elidedText(_fitting(text, metrics, room), Qt.TextElideMode.ElideRight, room)
            painter.drawText(QRectF(left, 26 + 17 * line, room, 17), Qt.AlignmentFlag.AlignVCenter, text)

    # ---- paints in and out

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self.takes_paints and event.button() == Qt.MouseButton.LeftButton:
            for name, slot in zip(self.row.paints, self._slots(), strict=True):
                if slot.contains(usual_place(event)):
                    self.paint_removed.emit(name)
                    return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.takes_paints and self.row.paints:
            if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
                step = 1 if event.key() == Qt.Key.Key_Right else -1
                self._at = (self._at + step) % len(self.row.paints)
                self.update()
                return
            if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
                self.paint_removed.emit(self.row.paints[self._at])
                return
        super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(PAINT_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.paint_added.emit(bytes(event.mimeData().data(PAINT_MIME).data()).decode())
        event.acceptProposedAction()


@guarded
class Curve(QWidget):
    """Reach against the number of paints."""

    def __init__(self) -> None:
        super().__init__()
        self.points: list[tuple[int, float]] = []
        self.current = 0
        self.setFixedHeight(px(96))
        self.setMinimumWidth(px(180))
        self.setAccessibleName(tr("Reach against the number of paints"))

    def show_points(self, points: Sequence[tuple[int, float]], current: int) -> None:
        """Show the curve with one size marked."""
        self.points, self.current = list(points), current
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if len(self.points) < 2:
            return
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        soft = self.palette().color(QPalette.ColorRole.PlaceholderText)
        area = QRectF(28, 10, usual_width(self) - 44, usual_height(self) - 36)
        sizes = [size for size, _ in self.points]
        low = min(share for _, share in self.points)
        span = max(1.0 - low, 0.02)

        def at(size: int, share: float) -> QPointF:
            x = area.left() + (size - sizes[0]) / max(sizes[-1] - sizes[0], 1) * area.width()
            return QPointF(x, area.bottom() - (share - low) / span * area.height())

        painter.setPen(QPen(soft, 1.0))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setPen(QPen(soft, 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(area.topLeft(), area.topRight())
        painter.setFont(sans(10))
        painter.setPen(soft)
        for share, y in ((low, area.bottom()), (1.0, area.top())):
            painter.drawText(
                QRectF(-8, y - 9, 32, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{100 * share:.0f}",
            )
        painter.setPen(QPen(strong, 1.6))
        places = [at(size, share) for size, share in self.points]
        for one, two in pairwise(places):
            painter.drawLine(one, two)
        for (size, _), place in zip(self.points, places, strict=True):
            painter.setBrush(
                strong if size == self.current else self.palette().color(QPalette.ColorRole.Base)
            )
            painter.drawEllipse(place, 4.5, 4.5)
            painter.drawText(
                QRectF(place.x() - 15, area.bottom() + 6, 30, 18), Qt.AlignmentFlag.AlignCenter, str(size)
            )


@guarded
class ReachMap(QWidget):
    """What is reached (squares) and what is lost (rings), by hue and chroma."""

    def __init__(self) -> None:
        super().__init__()
        self.lab: Array = np.empty((0, 3))
        self.reached: Flags = np.empty(0, dtype=bool)
        self._colours: list[QColor] = []
        self.setFixedHeight(px(206))
        self.setAccessibleName(tr("Map of what is reached and what is lost"))

    def show_reach(self, lab: Array, reached: Flags) -> None:
        """Show other colours."""
        if lab is not self.lab:
            rgb = np.round(srgb_from_lab(lab) * 255).astype(int)
            self._colours = [QColor(*(int(v) for v in row)) for row in rgb]
        self.lab, self.reached = lab, reached
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        radius = usual_height(self) / 2 - 2
        centre = QPointF(usual_width(self) / 2, usual_height(self) / 2)
        soft = self.palette().color(QPalette.ColorRole.Mid)
        painter.setPen(QPen(soft, 1.0))
        painter.drawEllipse(centre, radius, radius)
        painter.setPen(QPen(soft, 1.0, Qt.PenStyle.DotLine))
        painter.drawEllipse(centre, radius * 0.5, radius * 0.5)
        scale = radius / max(100.0, float(np.hypot(self.lab[:, 1], self.lab[:, 2]).max(initial=0.0)) + 2.0)
        few = len(self.lab) < 200
        size = 7.0 if few else 3.0
        for i in np.flatnonzero(self.reached):
            x, y = centre.x() + self.lab[i, 1] * scale, centre.y() - self.lab[i, 2] * scale
            painter.fillRect(QRectF(x - size / 2, y - size / 2, size, size), self._colours[i])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for i in np.flatnonzero(~self.reached):
            x, y = centre.x() + self.lab[i, 1] * scale, centre.y() - self.lab[i, 2] * scale
            painter.setPen(QPen(self._colours[i].darker(140), 1.6))
            painter.drawEllipse(QPointF(x, y), 3.6, 3.6)
