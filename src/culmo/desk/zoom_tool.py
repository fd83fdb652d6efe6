"""What stands over a picture that can be looked at from nearer: its buttons, and the labels that would be out of sight."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QTransform
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from culmo.core.chart.sheet import Sheet, SheetText
from culmo.desk.drawing.sheet import drawn_width_mm
from culmo.desk.theme import INK, PAPER, STEP, sans, scaled
from culmo.desk.zoom import STEP as ZOOM_STEP
from culmo.words import tr

_DOTS_AN_INCH = (50.0, 500.0)  # what a screen can truly have; some say nothing, or anything
_USUAL_DOTS = 96.0
_MM_AN_INCH = 25.4
_MARGIN = 3.0


def pixels_a_mm(widget: QWidget) -> float:
    """The pixels of the window in a millimetre of the screen that it is on, as far as the screen knows."""
    screen = widget.screen()
    dots = screen.physicalDotsPerInch() if screen is not None else _USUAL_DOTS
    least, most = _DOTS_AN_INCH
    return (dots if least <= dots <= most else _USUAL_DOTS) / _MM_AN_INCH


class ZoomTool(QFrame):
    """Nearer, farther, all of it, true size: in the corner of a view, whose acts these are."""

    def __init__(
        self,
        view: QWidget,
        zoom_by: Callable[[float], None],
        fit: Callable[[], None],
        true_size: Callable[[], None],
    ) -> None:
        super().__init__(view)
        self.setObjectName("tool")
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 2, 2, 2)
        row.setSpacing(0)
        self.buttons: dict[str, QToolButton] = {}
        for key, sign, words, act in (
            (
                "farther",
                "\N{MINUS SIGN}",
                tr("Farther (-, or Ctrl and the wheel)"),
                lambda: zoom_by(1.0 / ZOOM_STEP),
            ),
            ("fit", tr("All"), tr("All of it (0)"), fit),
            ("true", "1:1", tr("In its true size (1)"), true_size),
            ("nearer", "+", tr("Nearer (+, or Ctrl and the wheel)"), lambda: zoom_by(ZOOM_STEP)),
        ):
            button = QToolButton()
            button.setText(sign)
            button.setToolTip(words)
            button.setAccessibleName(words)
            button.setAutoRaise(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys with the view
            button.clicked.connect(lambda _=False, act=act: act())
            row.addWidget(button)
            self.buttons[key] = button
        self.show_factor(1.0)

    def show_factor(self, factor: float) -> None:
        """How near it is looked at."""
        for key in ("farther", "fit"):
            self.buttons[key].setEnabled(factor > 1.0)

    def lie_in(self, place: QRect) -> None:
        """At the lower right corner of its view."""
        self.adjustSize()
        self.move(place.right() - self.width() - STEP, place.bottom() - self.height() - STEP)
        self.raise_()


def draw_labels_at_edges(painter: QPainter, sheet: Sheet, transform: QTransform, view: QRectF) -> None:
    """The labels of rows and columns that are on view, at the edge of the view where they lie beyond it themselves.

    Parameters
    ----------
    painter : QPainter of the view
    sheet : Sheet
    transform : QTransform, from millimetres to pixels
    view : QRectF, pixels
    """
    font = scaled(sans(10))
    metrics = QFontMetricsF(font)
    painter.setFont(font)
    cells = transform.mapRect(_block(sheet))
    taken: list[QRectF] = []
    for label in sheet.labels:
        box = _edge_box(label, transform, view, metrics, cells)
        if box is None or any(box.intersects(other) for other in taken):
            continue
        taken.append(box)
        painter.fillRect(box, PAPER)
        painter.setPen(INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, label.text)


def _block(sheet: Sheet) -> QRectF:
    """What the cells of a sheet take of its paper."""
    block = QRectF()
    for cell in sheet.cells:
        block = block.united(QRectF(*cell.box_mm))
    return block


def _edge_box(
    label: SheetText, transform: QTransform, view: QRectF, metrics: QFontMetricsF, cells: QRectF
) -> QRectF | None:
    """Where a label goes that lies beyond one edge of the view, beside what it names; None where it is not wanted."""
    at = transform.map(QPointF(*label.at_mm))
    if not label.text.strip() or cells.contains(at):
        return None
    wide = metrics.horizontalAdvance(label.text) + 2 * _MARGIN
    high = metrics.height() + _MARGIN
    beside_rows = at.x() < cells.left() and view.top() <= at.y() <= view.bottom()
    above_columns = at.y() < cells.top() and view.left() <= at.x() <= view.right()
    length = transform.mapRect(QRectF(0, 0, drawn_width_mm(label.text, label.size_mm), label.size_mm))
    if beside_rows and at.x() + length.width() < view.left() + wide:
        return QRectF(view.left(), at.y() - length.height() / 2 - high / 2, wide, high)
    if above_columns and at.y() < view.top():
        return QRectF(at.x(), view.top(), wide, high)
    return None
