"""What the mouse does that the test library has no word for."""

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication


def wheel(view, at, turns=1, modifiers=Qt.KeyboardModifier.NoModifier, aside=0):
    """Turn the wheel over a point of a widget; the event, which says whether it was taken."""
    event = QWheelEvent(
        QPointF(at), QPointF(view.mapToGlobal(QPointF(at).toPoint())), QPoint(0, 0), QPoint(120 * aside, 120 * turns),
        Qt.MouseButton.NoButton, modifiers, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(view, event)
    return event
