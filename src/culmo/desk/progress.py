"""Work that has to be done in the window's own thread, such as drawing, with progress and a way to stop it."""

from collections.abc import Generator
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QProgressDialog, QWidget

from culmo.words import tr

_T = TypeVar("_T")
PATIENCE_MS = 600


def work_through(parent: QWidget, steps: Generator[float, None, _T], words: str) -> tuple[bool, _T | None]:
    """Go through some work; gives whether it was finished, and its result.

    Parameters
    ----------
    parent : QWidget, over which the progress stands
    steps : generator of float, 0..1
    words : str, what is being done
    """
    progress = QProgressDialog(words, tr("Stop"), 0, 100, parent)
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(PATIENCE_MS)
    try:
        while True:
            try:
                share = next(steps)
            except StopIteration as end:
                return True, end.value
            progress.setValue(min(99, round(share * 100)))
            QApplication.processEvents()
            if progress.wasCanceled():
                return False, None
    finally:
        steps.close()
        progress.close()
        progress.deleteLater()
