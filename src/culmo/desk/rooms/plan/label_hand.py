"""The names on a sheet that is being laid out, taken with the hand: drawn to another place, replaced, taken off."""

from collections.abc import Callable, Mapping

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
    QTransform,
)

from culmo.core.chart.sheet import SheetText
from culmo.desk.drawing.sheet import drawn_width_mm, sheet_transform
from culmo.desk.going_out import PAINT_MIME, is_far
from culmo.desk.guard import guarded
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import INK, PAPER, sans, scaled

_ROOM_MM = 1.2  # round a name, for the hand


@guarded
class LabelHand(QObject):
    """Hears what is done at the names of a sheet in a view.

    Signals
    -------
    moved : a paint, and the paint in whose place it is to stand
    replaced : a paint, and the one that takes its place
    added, removed : a paint

    Parameters
    ----------
    view : SheetView
    names : function that gives, from what is written on the sheet being laid out, the paint that is meant; empty while
        none is
    """

    moved = Signal(str, str)
    replaced = Signal(str, str)
    added = Signal(str)
    removed = Signal(str)

    def __init__(self, view: SheetView, names: Callable[[], Mapping[str, str]]) -> None:
        super().__init__(view)
        self.view, self._names = view, names
        self.current = ""  # the paint whose names are chosen
        self._from: QPointF | None = None
        self._at: QPointF | None = None  # where the hand holds a name
        self._over = ""
        view.setAcceptDrops(True)
        view.setMouseTracking(True)
        view.installEventFilter(self)
        view.overlays.append(self._draw)

    def forget(self) -> None:
        """No name is chosen."""
        self.current, self._from, self._at, self._over = "", None, None, ""
        self.view.update()

    # ---- where they are

    def _box(self, label: SheetText) -> QPolygonF:
        """What a name takes in the view, with room for the hand."""
        assert self.view.sheet is not None
        transform, _ = sheet_transform(self.view.sheet, self.view.base_now())
        x, y = label.at_mm
        turned = QTransform().translate(x, y).rotate(label.angle_deg)
        wide = drawn_width_mm(label.text, label.size_mm)
        box = QRectF(0.0, -0.8 * label.size_mm, wide, label.size_mm)
        return transform.map(turned.map(QPolygonF(box.adjusted(-_ROOM_MM, -_ROOM_MM, _ROOM_MM, _ROOM_MM))))

    def at(self, place: QPointF) -> str:
        """The paint whose name is under a point of the view; empty where none is."""
        names = self._names()
        if self.view.sheet is None or not names:
            return ""
        for label in self.view.sheet.labels:
            if label.text in names and self._box(label).containsPoint(place, Qt.FillRule.OddEvenFill):
                return names[label.text]
        return ""

    # ---- hands

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self._names():
            if self.current:
                self.forget()
            return False
        if isinstance(event, QMouseEvent):
            return self._mouse(event)
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            return self._key(event)
        if isinstance(event, QDropEvent):  # a drag that enters or moves is one too
            return self._drop(event)
        if event.type() == QEvent.Type.DragLeave:
            self._over = ""
            self.view.update()
        return False

    def _mouse(self, event: QMouseEvent) -> bool:
        kind, place = event.type(), event.position()
        if kind == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            self.current = self.at(place)
            self._from = place if self.current else None
            self.view.update()
            if self.current:
                self.view.setFocus(Qt.FocusReason.MouseFocusReason)
            return bool(self.current)
        if kind == QEvent.Type.MouseMove:
            if self._from is None:
                if not event.buttons():
                    self._show_hand(bool(self.at(place)))
                return False
            if self._at is not None or is_far(place - self._from):
                self._at, self._over = place, self.at(place)
                self.view.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.view.update()
            return True
        if kind == QEvent.Type.MouseButtonRelease and self._from is not None:
            moved, over, held = self._at is not None, self.at(place), self.current
            self._from = self._at = None
            self._over = ""
            self._show_hand(bool(over))
            self.view.update()
            if moved and over and over != held:
                self.moved.emit(held, over)
            return True
        return False

    def _show_hand(self, shown: bool) -> None:
        self.view.setCursor(Qt.CursorShape.OpenHandCursor) if shown else self.view.unsetCursor()

    def _key(self, event: QKeyEvent) -> bool:
        if self.current and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            held = self.current
            self.forget()
            self.removed.emit(held)
            return True
        if self.current and event.key() == Qt.Key.Key_Escape:
            self.forget()
            return True
        return False

    def _drop(self, event: QDropEvent) -> bool:
        if not event.mimeData().hasFormat(PAINT_MIME):
            return False
        event.acceptProposedAction()
        over = self.at(event.position())
        if isinstance(event, QDragEnterEvent | QDragMoveEvent):
            if over != self._over:
                self._over = over
                self.view.update()
            return True
        self._over = ""
        name = bytes(event.mimeData().data(PAINT_MIME).data()).decode("utf-8", "replace")
        if over and over != name:
            self.replaced.emit(over, name)
        elif not over:
            self.added.emit(name)
        self.view.update()
        return True

    # ---- drawing

    def _draw(self, painter: QPainter) -> None:
        names = self._names()
        if self.view.sheet is None or not names:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for label in self.view.sheet.labels:
            paint = names.get(label.text, "")
            if paint and paint in (self.current, self._over):
                style = Qt.PenStyle.DashLine if paint == self._over else Qt.PenStyle.SolidLine
                painter.setPen(QPen(QColor(0, 0, 0), 1.6, style))
                painter.drawPolygon(self._box(label))
        if self._at is not None:
            font = scaled(sans(10.5))
            wide = QFontMetricsF(font).horizontalAdvance(self.current) + 16
            box = QRectF(self._at.x() + 8, self._at.y() - 12, wide, 24)
            painter.setFont(font)
            painter.setPen(QPen(INK, 1.0))
            painter.setBrush(PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.current)
