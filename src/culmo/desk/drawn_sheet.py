"""The picture of a sheet in a view: drawn beside the window's own work, the last one standing till the next is there."""

from collections.abc import Generator
from dataclasses import replace

from PySide6.QtCore import QObject, QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QWidget

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import SheetStyle, drawing_sheet, sheet_transform
from culmo.desk.guard import guarded
from culmo.desk.jobs import Runner
from culmo.desk.theme import PAPER


def _picturing(
    sheet: Sheet, looks: Looks | None, style: SheetStyle, area: QRectF, size: QSize, ratio: float
) -> Generator[float, None, QImage]:
    """The sheet on its paper as a picture of a widget's size; yields how far it is."""
    picture = QImage(size * ratio, QImage.Format.Format_ARGB32_Premultiplied)
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    try:
        transform, scale = sheet_transform(sheet, area)
        page = transform.mapRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm))
        painter.fillRect(page.translated(3, 3), QColor(0, 0, 0, 28))
        painter.fillRect(page, QColor(style.ground) if style.ground else PAPER)
        painter.setTransform(transform, True)
        paper = QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm)
        painter.setClipRect(paper)
        seen = transform.inverted()[0].mapRect(QRectF(QPointF(0, 0), QSizeF(size)))
        own = replace(style, pixels_per_mm=scale * ratio, selected="", seen=seen.intersected(paper))
        yield from drawing_sheet(painter, sheet, looks, own)
    finally:
        painter.end()
    return picture


@guarded
class DrawnSheet(QObject):
    """What is drawn of one sheet at a time."""

    drawn = Signal()

    def __init__(self, runner: Runner, parent: QObject) -> None:
        super().__init__(parent)
        self._runner = runner
        self._key = f"draw {id(self)}"
        self._size = QSize()  # of the widget that it was begun for
        self._area = QRectF()  # where the sheet lay when it was drawn
        self.image: QImage | None = None
        self.stale = True  # the last picture stands until the new one is drawn

    def forget(self) -> None:
        """There is no sheet."""
        self._runner.cancel(self._key)
        self.image = None

    def keep_up(
        self, sheet: Sheet, looks: Looks | None, style: SheetStyle, area: QRectF, widget: QWidget
    ) -> None:
        """Begin to draw where the last picture is of something else; a small sheet is there at once.

        Parameters
        ----------
        sheet, looks, style : as they are drawn
        area : QRectF, where the sheet lies in the widget
        widget : QWidget, for which it is drawn
        """
        size, ratio = widget.size(), widget.devicePixelRatioF()
        if not self.stale and size == self._size:
            return
        self.stale, self._size = False, size

        def work() -> Generator[float, None, QImage]:
            return (yield from _picturing(sheet, looks, style, area, size, ratio))

        self._runner.start(self._key, work, lambda picture: self._take(picture, area), _fail)
        self._runner.wait_a_moment(self._key)

    def _take(self, picture: QImage, area: QRectF) -> None:
        self.image, self._area = picture, area
        self.drawn.emit()

    def lies_in(self, area: QRectF, rect: QRectF) -> QRectF:
        """Where the last picture lies till the next is drawn: it was drawn for another size, or from nearer or farther.

        Parameters
        ----------
        area : QRectF, where the sheet lies now
        rect : QRectF, all of the widget
        """
        before = self._area
        if self.image is None or before.isEmpty():
            return rect
        size = self.image.deviceIndependentSize()
        across, down = area.width() / before.width(), area.height() / before.height()
        return QRectF(
            area.left() - before.left() * across, area.top() - before.top() * down,
            size.width() * across, size.height() * down,
        )  # fmt: skip


def _fail(why: str) -> None:
    """A mistake in the drawing is told as one anywhere in the window; the last picture stands."""
    raise RuntimeError(why)
