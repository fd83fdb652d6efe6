"""Mistakes of the program: logged whole, told once each, and never from within what Qt is just doing.

Qt calls Python back while it shows, paints and closes things. A dialog opened there starts another round of events in the
midst of that, which ends the program. So a defect is only noted where it happens, and told when Qt is idle again.
"""

import sys
import threading
import traceback
from types import TracebackType

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QMessageBox

from culmo import log
from culmo.words import tr

_MOST_LOGGED = 200  # something that fails at each drawing would fill the disk


class Defects(QObject):
    """The one place where mistakes of the program end up."""

    noted = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.seen: dict[str, int] = {}
        self._box: QMessageBox | None = None
        # queued: it comes when control is back in the event loop, whichever thread it is noted in
        self.noted.connect(self._tell, Qt.ConnectionType.QueuedConnection)

    def install(self) -> None:
        """From now on nothing that goes wrong is lost, and nothing of it ends the program."""
        sys.excepthook = self.note
        threading.excepthook = lambda args: self.note(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )

    def note(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log a mistake, and have it told once."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        report = log.told(error.with_traceback(trace))
        again = self.seen.get(report, 0)
        self.seen[report] = again + 1
        if sum(self.seen.values()) <= _MOST_LOGGED:
            log.note(error)
            if sys.stderr is not None:  # who started it from a terminal sees all of it
                traceback.print_exception(kind, error, trace)
        if not again and QApplication.instance() is not None:
            self.noted.emit(log.report(error))

    def _tell(self, report: str) -> None:
        if self._box is None:  # one for all: to do away with it while it closes is a danger of its own
            self._box = QMessageBox()
            self._box.setWindowTitle(tr("Culmo made a mistake"))
            self._box.setTextFormat(Qt.TextFormat.PlainText)
            self._box.setText(
                tr(
                    "Something in Culmo went wrong that is not your doing. Each act was saved as you did it. The details "
                    "can be copied whole for a report: they hold nothing of your study."
                )
            )
            self._box.addButton(QMessageBox.StandardButton.Close)
            copy = self._box.addButton(tr("Copy the report"), QMessageBox.ButtonRole.ActionRole)
            copy.clicked.connect(self.copy)
        if not self._box.isVisible():  # one at a time; the others are in the log
            self._box.setDetailedText(report)
            self._box.open()

    def copy(self) -> None:
        """The report of the mistake that is shown, to the clipboard."""
        if self._box is not None:
            QGuiApplication.clipboard().setText(self._box.detailedText())
