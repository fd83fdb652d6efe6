"""The window and its screen: all of it, frame included, lies where there is room for it."""

from PySide6.QtCore import QMargins, QRect, QTimer
from PySide6.QtWidgets import QApplication, QWidget

_FRAMED_MS = (60, 400)  # a frame is put round a window some time after it was shown; slow ones take longer


def fitted(window: QRect, frame: QMargins, available: QRect) -> QRect:
    """Where a window lies so that it and its frame are inside what a screen has to give.

    It keeps its size where that fits, and its place as far as it can; where a screen is too small for it, its top left
    corner is in sight.

    Parameters
    ----------
    window : QRect, as it lies, without its frame
    frame : QMargins, what the frame takes on each side
    available : QRect, of the screen, without panels
    """
    room = available.marginsRemoved(frame)
    wide, high = min(window.width(), room.width()), min(window.height(), room.height())
    x = max(room.left(), min(window.left(), room.right() + 1 - wide))
    y = max(room.top(), min(window.top(), room.bottom() + 1 - high))
    return QRect(x, y, wide, high)


def fit_to_screen(window: QWidget) -> None:
    """Bring a window into its screen; one that fills the screen anyhow is left alone."""
    if window.isMaximized() or window.isFullScreen():
        return
    screen = window.screen() or QApplication.primaryScreen()
    if screen is None:
        return
    inner, outer = window.geometry(), window.frameGeometry()
    frame = QMargins(
        inner.left() - outer.left(), inner.top() - outer.top(), outer.right() - inner.right(),
        outer.bottom() - inner.bottom(),
    )  # fmt: skip
    there = fitted(inner, frame, screen.availableGeometry())
    if there != inner:
        window.setGeometry(there)


def show_fitted(window: QWidget) -> None:
    """Show a window within its screen: at once, and again when its frame is there."""
    fit_to_screen(window)
    window.show()
    for after in _FRAMED_MS:
        QTimer.singleShot(after, window, lambda: fit_to_screen(window))
