"""A view of something that is looked at from nearer: by the wheel with Ctrl, by pinching, by keys, by its buttons."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QNativeGestureEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QGestureEvent, QPinchGesture, QWidget

from culmo.desk.going_out import drag_out, is_far
from culmo.desk.guard import guarded
from culmo.desk.zoom import STEP, Zoom
from culmo.desk.zoom_tool import ZoomTool

_NO_KEY = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


@guarded
class ZoomView(QWidget):
    """What all such views do; what they show, and where, is theirs."""

    def __init__(self) -> None:
        super().__init__()
        self.zoom = Zoom(self)
        self.tool = ZoomTool(self, self.zoom_by, self.fit, self.true_size)
        self.tool.hide()
        self.zoom.changed.connect(self._zoomed)
        self._pressed: QPointF | None = None  # where the hand would draw the picture about
        self._drawn_about = False
        self._from: QPointF | None = None  # where the hand took something that it may draw away
        self.grabGesture(Qt.GestureType.PinchGesture)
        self._keys: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Plus: lambda: self.zoom_by(STEP),
            Qt.Key.Key_Equal: lambda: self.zoom_by(STEP),
            Qt.Key.Key_Minus: lambda: self.zoom_by(1.0 / STEP),
            Qt.Key.Key_0: self.fit,
            Qt.Key.Key_1: self.true_size,
        }

    # ---- what is a view's own

    def has_picture(self) -> bool:
        """Whether there is something to look at; each view knows (Qt's objects can not be abstract classes)."""
        raise NotImplementedError

    def base(self) -> QRectF:
        """Where it lies when all of it is seen."""
        return QRectF(self.rect())

    def about(self) -> QPointF:
        """What keys and buttons go nearer to."""
        return self.base().center()

    def true_factor(self) -> float:
        """How near it is looked at in its true size; each view knows what that is for it."""
        raise NotImplementedError

    def zoomed(self) -> None:
        """It is looked at from elsewhere."""
        self.update()

    # ---- nearer and farther

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """Nearer or farther, about a point of the widget."""
        if self.has_picture():
            self.zoom.by(factor, about if about is not None else self.about(), self.base())

    def fit(self) -> None:
        """All of it is seen."""
        self.zoom.fit()

    def true_size(self) -> None:
        """In its true size."""
        if self.has_picture():
            self.zoom.to(self.true_factor(), self.about(), self.base())

    def _zoomed(self) -> None:
        self.tool.show_factor(self.zoom.factor)
        self.zoomed()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QGestureEvent):
            pinch = event.gesture(Qt.GestureType.PinchGesture)
            if isinstance(pinch, QPinchGesture):
                middle = self.mapFromGlobal(pinch.centerPoint().toPoint())
                self.zoom_by(pinch.scaleFactor(), QPointF(middle))
                return True
        zooms = Qt.NativeGestureType.ZoomNativeGesture
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == zooms:
            self.zoom_by(1.0 + event.value(), event.position())
            return True
        return super().event(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.has_picture() and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(STEP ** (event.angleDelta().y() / 120.0), event.position())
        elif self.zoom.is_near:
            turned = QPointF(event.pixelDelta())
            if turned.isNull():
                turned = QPointF(event.angleDelta()) / 2.0
            aside = event.modifiers() & Qt.KeyboardModifier.ShiftModifier and not turned.x()
            self.zoom.move(QPointF(turned.y(), 0.0) if aside else turned, self.base())
        else:
            event.ignore()  # what lies around it may be scrolled

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.tool.lie_in(self.rect())
        if self.zoom.is_near:
            self.zoom.move(QPointF(0.0, 0.0), self.base())

    def take_key(self, event: QKeyEvent) -> bool:
        """Whether a key was one of these."""
        act = self._keys.get(Qt.Key(event.key()))
        if act is None or not self.has_picture() or event.modifiers() & _NO_KEY:
            return False
        act()
        return True

    # ---- drawn about, or away, by the hand

    def drawn_by(self, event: QMouseEvent) -> bool:
        """Whether the hand draws the picture about, or what it has taken out of the window."""
        if self.drawn_about(event):
            return True
        if self._from is None or not is_far(event.position() - self._from):
            return False
        self._from = None
        drag_out(self)
        return True

    def begin_drawing_about(self, event: QMouseEvent) -> None:
        """The hand is on the picture and may draw it about."""
        self._pressed = event.position()

    def drawn_about(self, event: QMouseEvent) -> bool:
        """Whether the hand is on the picture; where it has moved, the picture follows."""
        if self._pressed is None:
            return False
        by = event.position() - self._pressed
        if self._drawn_about or by.manhattanLength() > QApplication.startDragDistance():
            self._drawn_about, self._pressed = True, event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.zoom.move(by, self.base())
        return True

    def end_drawing_about(self) -> bool:
        """The hand lets go; whether it only pressed, and has drawn nothing about."""
        pressed = self._pressed is not None and not self._drawn_about
        if self._drawn_about:
            self.unsetCursor()
        self._pressed, self._drawn_about = None, False
        return pressed
