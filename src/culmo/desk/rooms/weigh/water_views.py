"""What the Water page shows: strokes wet and dry side by side, washes as planned and as they came out, sheets over time."""

from collections.abc import Callable, Sequence
from datetime import datetime

import numpy as np
from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QSizePolicy, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.depth import CLASSES, strength_words
from culmo.core.paint.drying import signed
from culmo.core.paint.wash import THICKNESSES
from culmo.desk.drawing.wash import seed_of, wash_image
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_part, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.water_model import DriedRow
from culmo.desk.theme import PAPER, PENCIL, px, sans
from culmo.desk.widgets import as_tip, draw_edge
from culmo.study.washes import SheetWashes
from culmo.words import day_words, tr

Index = QModelIndex | QPersistentModelIndex
_ROW = 52
_PATCH, _NARROW = (78, 40), (52, 40)
_PAPER_LAB = (96.5, 0.0, 2.0)


def wash_of_colour(lab: Array, width: int, height: int, seed: str, scale: float) -> QImage:
    """A wash whose full strength is a colour: where it is thinner, the paper shines through it as through a clear film.

    Parameters
    ----------
    lab : (3,) float, CIELAB
    width, height : int, pixels
    seed : str, the same gives the same patch
    scale : float, pixels for one pixel of the grain on a usual screen
    """
    paper, own = (
        np.clip(srgb_from_lab(np.array(colour, dtype=float)), 0.004, 1.0) for colour in (_PAPER_LAB, lab)
    )
    linear = (paper**2.2) * ((own / paper) ** 2.2) ** THICKNESSES[:, None]
    table: Array = np.round(255.0 * np.clip(linear, 0.0, 1.0) ** (1 / 2.2)).astype(np.uint8)
    return wash_image(table, 1.0, 0.0, width, height, seed_of(seed), scale)


@guarded
class DriedList(QAbstractListModel):
    """What was read wet and dry, as rows."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[DriedRow] = []

    def show_rows(self, rows: Sequence[DriedRow]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = list(rows)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = 0) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return row
        words = f"{row.title}: {row.words}"
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return words
        return as_tip(f"{words}\n{row.dried.shift.figures}") if role == Qt.ItemDataRole.ToolTipRole else None


@guarded
class DriedDelegate(QStyledItemDelegate):
    """Draws a row: the stroke wet, the stroke dry, what happened, and by how much."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(320), px(_ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row = index.data(Qt.ItemDataRole.UserRole)
        painter.save()
        box = usual_part(painter, option.rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = option.palette.color(QPalette.ColorGroup.Active, QPalette.ColorRole.WindowText)
        ratio = fine_ratio(option.widget)
        narrow = box.width() < 560
        x, (wide, high) = box.left() + 4, _NARROW if narrow else _PATCH
        for lab, known in ((row.dried.wet, not row.dried.by_mixes), (row.dried.dry, True)):
            place = QRectF(x, box.top() + 6, wide, high)
            painter.fillRect(place, PAPER)
            image = wash_of_colour(
                lab, round((wide - 4) * ratio), round((high - 4) * ratio), row.title, ratio
            )
            painter.drawImage(place.adjusted(2, 2, -2, -2), image)
            draw_edge(painter, place, known)
            x = place.right() + 3
        x += 10
        shift = row.dried.shift
        figures = (
            tr("L {change}", change=signed(shift.lightness)), tr("C {change}", change=signed(shift.chroma)),
            tr("h {change}°", change=signed(shift.hue)),
        )  # fmt: skip
        column = 50 if narrow else 58
        text_end = box.right() - len(figures) * column - 8
        painter.setPen(strong)
        self._words(painter, row, QRectF(x, box.top() + 6, text_end - x, high))
        painter.setFont(sans(10.5, sans().Weight.DemiBold))
        for number, text in enumerate(figures):
            area = QRectF(text_end + number * column, box.top() + 6, column, high)
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(strong, 1.6))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.restore()

    def _words(self, painter: QPainter, row: DriedRow, room: QRectF) -> None:
        for text, font, down in (
            (row.title, sans(10.5, sans().Weight.DemiBold), 0.0), (row.words, sans(10), 19.0),
        ):  # fmt: skip
            painter.setFont(font)
            words = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(
                QRectF(room.left(), room.top() + down, room.width(), 20), Qt.AlignmentFlag.AlignVCenter, words
            )


@guarded
class DepthCurve(QWidget):
    """The depth of washes, sheet after sheet: pencil lines are what was planned, dots what came out."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.sheets: tuple[SheetWashes, ...] = ()
        self.sheet_id: int | None = None
        self.setMinimumHeight(px(170))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("The depth of washes, sheet after sheet"))

    def sizeHint(self) -> QSize:
        return QSize(px(500), px(240))

    def show_sheets(self, sheets: tuple[SheetWashes, ...], sheet_id: int | None) -> None:
        """Show other sheets; the one with the id stands out."""
        self.sheets, self.sheet_id = sheets[-24:], sheet_id
        self.update()

    def _area(self) -> QRectF:
        return QRectF(96, 10, usual_width(self) - 112, usual_height(self) - 44)

    def _x(self, place: int) -> float:
        area = self._area()
        return area.left() + (place + 0.5) / max(len(self.sheets), 1) * area.width()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        area = self._area()
        every = [one for sheet in self.sheets for one in sheet.reached]
        if not every:
            return
        low = np.log(min(0.15, *(min(one.reached, one.planned) for one in every)) * 0.9)
        high = np.log(max(1.2, *(max(one.reached, one.planned) for one in every)) * 1.05)

        def y(strength: float) -> float:
            return float(area.bottom() - (np.log(strength) - low) / (high - low) * area.height())

        painter.setFont(sans(10))
        for kind in CLASSES:
            own = [one for one in every if one.kind == kind]
            if not own:
                continue
            planned = own[-1].planned
            painter.setPen(QPen(PENCIL, 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(area.left(), y(planned)), QPointF(area.right(), y(planned)))
            painter.setPen(strong)
            label = QRectF(0, y(planned) - 10, area.left() - 8, 20)
            painter.drawText(
                label, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, strength_words(planned)
            )
            self._draw_class(painter, kind, y)
        self._draw_days(painter, area)

    def _draw_class(self, painter: QPainter, kind: str, y: Callable[[float], float]) -> None:
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        places = [
            (QPointF(self._x(place), y(one.reached)), sheet.sheet_id == self.sheet_id)
            for place, sheet in enumerate(self.sheets)
            for one in sheet.reached
            if one.kind == kind
        ]
        painter.setPen(QPen(strong, 1.4))
        painter.drawPolyline([point for point, _ in places])
        painter.setBrush(strong)
        for point, own in places:
            radius = 5.5 if own else 3.4
            painter.drawEllipse(point, radius, radius)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _draw_days(self, painter: QPainter, area: QRectF) -> None:
        painter.setPen(self.palette().color(QPalette.ColorRole.PlaceholderText))
        wide = area.width() / max(len(self.sheets), 1)
        step = max(1, int(np.ceil(104.0 / wide)))
        for place in range(0, len(self.sheets), step):
            words = day_words(datetime.fromisoformat(self.sheets[place].day), False)
            room = QRectF(self._x(place) - step * wide / 2, area.bottom() + 8, step * wide, 20)
            painter.drawText(
                room, Qt.AlignmentFlag.AlignCenter,
                painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width())),
            )  # fmt: skip

    def _sheet_at(self, x: float) -> SheetWashes | None:
        if not self.sheets:
            return None
        area = self._area()
        place = int((x - area.left()) / area.width() * len(self.sheets))
        return self.sheets[place] if 0 <= place < len(self.sheets) and x >= area.left() else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        sheet = self._sheet_at(usual_place(event).x())
        if sheet is not None:
            self.chosen.emit(sheet.sheet_id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        sheet = self._sheet_at(usual_place(event).x())
        self.setToolTip(as_tip(sheet.title) if sheet is not None else "")
