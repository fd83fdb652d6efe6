"""The end of the desktop's session, or a word from the system to end: nothing is asked, and nothing that was typed goes."""

import signal
import socket
import subprocess
import sys
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSocketNotifier
from PySide6.QtGui import QSessionManager
from PySide6.QtWidgets import QApplication

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

_SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class Ending(QObject):
    """Hears what ends the program, keeps what is typed as drafts, and closes the study."""

    def __init__(self, app: QApplication, window: "MainWindow") -> None:
        super().__init__(window)
        self.window = window
        self.again: list[str] | None = None  # with what the program is begun anew; None where it only ends
        app.commitDataRequest.connect(self._session_ends)
        # Python hears of a signal only when it next runs: a socket wakes it out of Qt's waiting
        self._ear, self._mouth = socket.socketpair()
        for end in (self._ear, self._mouth):
            end.setblocking(False)
        self._notifier = QSocketNotifier(self._ear.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._heard)
        self._before = signal.set_wakeup_fd(self._mouth.fileno(), warn_on_full_buffer=False)
        self._handlers = {number: signal.signal(number, _note) for number in _SIGNALS}

    def _heard(self) -> None:
        heard = self._ear.recv(64)
        if any(number in heard for number in _SIGNALS):
            self.end()

    def end(self) -> None:
        """Close the study with all that is typed kept as drafts, and end."""
        self.window.session.close(keep_typed=True)
        QApplication.quit()

    def start_again(self) -> None:
        """End, with all that is typed kept as drafts, and have the program begun anew with the same study."""
        session = self.window.session
        self.again = [str(session.study.path)] if session.study is not None else []
        self.window.remember()
        self.end()

    def begin_anew(self) -> None:
        """Begin the program anew, if that was asked for."""
        if self.again is not None:
            subprocess.Popen([sys.executable, "-m", "culmo", *self.again], start_new_session=True)

    def _session_ends(self, manager: QSessionManager) -> None:
        # the desktop may change its mind after this, so that the study stays open
        self.window.session.safe.keep_drafts()
        if manager.allowsInteraction():
            manager.release()

    def restore(self) -> None:
        """Signals mean again what they meant before."""
        signal.set_wakeup_fd(self._before)
        for number, handler in self._handlers.items():
            signal.signal(number, handler)
        self._notifier.setEnabled(False)
        self._ear.close()
        self._mouth.close()


def _note(*_: object) -> None:
    """The socket tells of it; without a handler of its own the signal would end the program at once."""
