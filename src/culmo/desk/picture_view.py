"""A picture with an eyedropper."""

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QImageReader, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from culmo.core.capture.sample import picked_colour
from culmo.core.colour.spectral import Array
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.theme import sans, scaled
from culmo.desk.widgets import ARROWS
from culmo.desk.zoom_view import ZoomView
from culmo.errors import CulmoError
from culmo.study.formats import Holds, open_filter
from culmo.words import tr

PICTURES = open_filter(tr("Pictures"), Holds.PICTURE)
LARGEST_PIXELS = 120_000_000

_NEAR, _FAR = 4.0, 12.0  # a cross leaves what is under its middle free


@guarded
class PictureView(ZoomView):
    """A picture with an eyedropper: a click, or the space bar, takes the colour of a small patch."""

    picked = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self._at: QPointF | None = None
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Picture of the sheet"))

    def load(self, path: Path) -> None:
        """Show a picture.

        Raises
        ------
        CulmoError
            when it is not a picture, or too large
        """
        reader = QImageReader(str(path))
        reader.setAutoTransform(True)
        size = reader.size()
        if size.isValid() and size.width() * size.height() > LARGEST_PIXELS:
            raise CulmoError(
                tr(
                    '"{name}" has more than {value} million pixels',
                    name=path.name,
                    value=LARGEST_PIXELS // 10**6,
                )
            )
        image = reader.read()
        if image.isNull():
            raise CulmoError(
                tr(
                    '"{name}" can not be opened as a picture ({errorString})',
                    name=path.name,
                    errorString=reader.errorString(),
                )
            )
        self.show_image(image)

    def show_image(self, image: QImage) -> None:
        """Show a picture that is in memory already."""
        self.image = image.convertToFormat(QImage.Format.Format_RGB888)
        self._at = None
        self.fit()
        self.update()

    def clear(self) -> None:
        """Show no picture."""
        self.image, self._at = QImage(), None
        self.fit()

    def has_picture(self) -> bool:
        """Whether there is a picture."""
        return not self.image.isNull()

    def base(self) -> QRectF:
        """Where the picture lies when all of it is seen."""
        if self.image.isNull():
            return QRectF(self.rect())
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        width, height = self.image.width() * scale, self.image.height() * scale
        return QRectF((self.width() - width) / 2, (self.height() - height) / 2, width, height)

    def about(self) -> QPointF:
        """What keys and buttons go nearer to: where the eyedropper is."""
        return self._at if self._at is not None else QRectF(self.rect()).center()

    def true_factor(self) -> float:
        """How near it is looked at where a pixel of the picture is one of the screen."""
        return self.image.width() / max(1.0, self.base().width() * self.devicePixelRatioF())

    def _target(self) -> QRectF:
        return self.zoom.place(self.base())

    def scale(self) -> float:
        """Points of the widget for one pixel of the picture."""
        return self._target().width() / max(1, self.image.width())

    def to_widget(self, points: Array) -> list[QPointF]:
        """Pixels of the picture as points of the widget."""
        target, scale = self._target(), self.scale()
        return [QPointF(target.left() + x * scale, target.top() + y * scale) for x, y in points]

    def to_picture(self, at: QPointF) -> Array:
        """A point of the widget as a pixel of the picture, (2,) float."""
        target, scale = self._target(), self.scale()
        return np.array([(at.x() - target.left()) / scale, (at.y() - target.top()) / scale])

    def _patch(self, at: QPointF) -> np.ndarray | None:
        target = self._target()
        if not target.contains(at):
            return None
        x = int((at.x() - target.left()) / target.width() * self.image.width())
        y = int((at.y() - target.top()) / target.height() * self.image.height())
        reach = max(2, min(self.image.width(), self.image.height()) // 250)
        box = self.image.copy(x - reach, y - reach, 2 * reach + 1, 2 * reach + 1)
        rows = np.frombuffer(box.constBits(), dtype=np.uint8).reshape(box.height(), box.bytesPerLine())
        return rows[:, : box.width() * 3].reshape(box.height(), box.width(), 3)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.image.isNull():
            painter.setFont(scaled(sans(12)))
            painter.setPen(QColor(96, 96, 96))
            text = tr(
                "Open a picture of the dry sheet, or drop one here. To take single colours, click bare paper first, "
                "and then the paint."
            )
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 0, -40, 0), flags, text)
            return
        self._draw_image(painter)
        self._draw_picked(painter)

    def _draw_image(self, painter: QPainter) -> None:
        """What is on view of the picture."""
        target = self._target()
        seen = target.intersected(QRectF(self.rect()))
        scale = self.image.width() / max(1.0, target.width())
        part = QRectF((seen.topLeft() - target.topLeft()) * scale, seen.size() * scale)
        painter.drawImage(seen, self.image, part)

    def _draw_picked(self, painter: QPainter) -> None:
        """The colour under the pointer, or where the arrow keys have led."""
        patch = self._patch(self._at) if self._at is not None else None
        if patch is not None and self._at is not None:
            box = QRectF(self._at.x() + 14, self._at.y() - 46, 40, 32)
            painter.fillRect(box, qcolor(picked_colour(patch)))
            painter.setPen(QPen(QColor(0, 0, 0), 1.5))
            painter.drawRect(box)
            if self.hasFocus():
                _draw_cross(painter, self._at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.drawn_about(event):
            return
        self._at = event.position()
        self.update()

    def zoomed(self) -> None:
        """It is looked at from elsewhere."""
        self.tool.setVisible(self.has_picture())
        self.update()

    def leaveEvent(self, _: object) -> None:
        self._at = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self.begin_drawing_about(event)
        else:
            self._pick(event.position())

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        self.end_drawing_about()
        self.setCursor(Qt.CursorShape.CrossCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.take_key(event):
            return
        step = ARROWS.get(Qt.Key(event.key()))
        if self.image.isNull() or (step is None and event.key() != Qt.Key.Key_Space):
            super().keyPressEvent(event)
            return
        target = self._target()
        at = self._at or target.center()
        if step is None:
            self._pick(at)
            return
        pixels = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 10.0
        at += QPointF(*step) * pixels
        self._at = QPointF(
            min(max(at.x(), target.left()), target.right() - 1),
            min(max(at.y(), target.top()), target.bottom() - 1),
        )
        self.update()

    def _pick(self, at: QPointF) -> None:
        patch = None if self.image.isNull() else self._patch(at)
        if patch is not None:
            self.picked.emit(picked_colour(patch))


def _draw_cross(painter: QPainter, at: QPointF) -> None:
    """Where the keys stand, to be seen on light and on dark."""
    for colour, width in ((QColor(255, 255, 255), 4.0), (QColor(0, 0, 0), 1.6)):
        painter.setPen(QPen(colour, width))
        for x, y in ARROWS.values():
            painter.drawLine(at + QPointF(x, y) * _NEAR, at + QPointF(x, y) * _FAR)
