"""Parts that are drawn by hand: in the lengths of the usual size of text, so that larger text makes all of it larger."""

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QHelpEvent, QPainter, QSinglePointEvent
from PySide6.QtWidgets import QWidget

from culmo.desk.theme import text_scale


def usual_painter(widget: QWidget) -> QPainter:
    """A painter of a widget, in usual lengths."""
    painter = QPainter(widget)
    painter.scale(text_scale(), text_scale())
    return painter


def usual_width(widget: QWidget) -> int:
    """How wide a widget is, in usual lengths."""
    return int(widget.width() / text_scale())


def usual_height(widget: QWidget) -> int:
    """How high a widget is, in usual lengths."""
    return int(widget.height() / text_scale())


def usual_rect(widget: QWidget) -> QRectF:
    """All of a widget, in usual lengths."""
    return QRectF(0.0, 0.0, widget.width() / text_scale(), widget.height() / text_scale())


def fine_ratio(widget: QWidget) -> float:
    """The pixels of the screen in a usual length of one."""
    return float(widget.devicePixelRatioF()) * text_scale()


def usual_place(event: QSinglePointEvent | QHelpEvent) -> QPointF:
    """Where the mouse is in a widget, in usual lengths."""
    place = QPointF(event.pos()) if isinstance(event, QHelpEvent) else event.position()
    return place / text_scale()


def usual_part(painter: QPainter, box: QRect) -> QRectF:
    """Go over to usual lengths in a part of what is drawn; the part as it is then. The painter is restored by who calls."""
    painter.translate(box.topLeft())
    painter.scale(text_scale(), text_scale())
    return QRectF(0.0, 0.0, box.width() / text_scale(), box.height() / text_scale())


def wrapped(text: str, font: QFont, width: float, most: int) -> list[str]:
    """Text broken into at most so many rows; the last one ends in dots where more would follow."""
    metrics = QFontMetricsF(font)
    rows: list[str] = []
    words = text.split()
    while words and len(rows) < most:
        if len(rows) == most - 1:
            rows.append(metrics.elidedText(" ".join(words), Qt.TextElideMode.ElideRight, width))
            break
        count = 1
        while count < len(words) and metrics.horizontalAdvance(" ".join(words[: count + 1])) <= width:
            count += 1
        rows.append(metrics.elidedText(" ".join(words[:count]), Qt.TextElideMode.ElideRight, width))
        words = words[count:]
    return rows
