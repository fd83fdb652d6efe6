"""One window for a study: who opens it a second time rings at the window that has it, and that one comes forward.

The bell hangs in a folder that is the user's own; who rings and who answers see that the other is the same user; and a
window that does not answer soon (it may be stopped) is as good as none.
"""

import hashlib
import os
import stat
from contextlib import suppress
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtNetwork import QLocalServer, QLocalSocket

_WAIT_MS, _ANSWER_MS = 400, 1500
_ANSWER = b"here\n"
_LONGEST = 100  # letters of a socket's path (unix(7))
_CREDENTIALS = "3i"  # process, user, group


def _own_folder() -> Path | None:
    """A folder that nobody else may write to; None where there is none."""
    import tempfile  # slow to load, and needed once a study is open

    runtime = os.environ.get("XDG_RUNTIME_DIR", "")
    places = [Path(runtime) / "culmo"] if runtime else []
    for folder in (*places, Path(tempfile.gettempdir()) / f"culmo-{os.getuid()}"):
        with suppress(OSError):
            folder.mkdir(mode=0o700, exist_ok=True)
            state = folder.lstat()
            own = state.st_uid == os.getuid() and stat.S_ISDIR(state.st_mode) and not state.st_mode & 0o077
            if own and len(str(folder)) + 25 < _LONGEST:
                return folder
    return None


def _name(path: Path) -> str:
    """The name of a study's bell, the same whichever way leads to the file; empty where none can hang."""
    folder = _own_folder()
    text = os.fsencode(Path(path).resolve())
    return "" if folder is None else str(folder / hashlib.sha256(text).hexdigest()[:24])


def _is_same_user(line: QLocalSocket) -> bool:
    """Whether who is at the other end is the same user (unix(7), SO_PEERCRED)."""
    import socket  # slow to load, and needed only when somebody rings
    import struct

    try:
        with socket.socket(fileno=os.dup(int(line.socketDescriptor()))) as end:
            data = end.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize(_CREDENTIALS))
    except OSError:
        return False
    return bool(struct.unpack(_CREDENTIALS, data)[1] == os.getuid())


def ring(path: Path) -> bool:
    """Ring for a study; says whether a window of Culmo has it and answers."""
    name = _name(path)
    if not name:
        return False
    line = QLocalSocket()
    line.connectToServer(name)
    answered = False
    if line.waitForConnected(_WAIT_MS) and _is_same_user(line):
        answered = line.waitForReadyRead(_ANSWER_MS) and bytes(line.readAll().data()) == _ANSWER
    line.abort()
    return answered


class Doorbell(QObject):
    """Hears when somebody rings for the open study."""

    rung = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._answer)

    def hang(self, path: Path) -> None:
        """Listen for a study. The file itself is held, so a bell that is there already was left by a crash."""
        self.take_down()
        name = _name(path)
        if name:
            QLocalServer.removeServer(name)
            self._server.listen(name)

    def is_of(self, path: Path) -> bool:
        """Whether it is this bell that hangs for a study."""
        return self._server.isListening() and self._server.fullServerName() == _name(path)

    def take_down(self) -> None:
        """Listen no more."""
        if self._server.isListening():
            self._server.close()

    def _answer(self) -> None:
        while self._server.hasPendingConnections():
            line = self._server.nextPendingConnection()
            line.disconnected.connect(line.deleteLater)
            if _is_same_user(line):
                line.write(_ANSWER)
                line.flush()
                self.rung.emit()
            line.disconnectFromServer()
