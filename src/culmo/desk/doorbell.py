"""One window for a study: who opens it a second time rings at the window that has it, and that one comes forward."""

import getpass
import hashlib
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtNetwork import QLocalServer, QLocalSocket

_WAIT_MS = 400


def _name(path: Path) -> str:
    """The name of a study's bell: of this user, and the same whichever way leads to the file."""
    text = f"{getpass.getuser()}\n{Path(path).resolve()}"
    return "culmo-" + hashlib.sha256(text.encode()).hexdigest()[:24]


def ring(path: Path) -> bool:
    """Ring for a study; says whether a window of Culmo has it and answers."""
    socket = QLocalSocket()
    socket.connectToServer(_name(path))
    answered = socket.waitForConnected(_WAIT_MS)
    if answered:
        socket.disconnectFromServer()
    return bool(answered)


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
        QLocalServer.removeServer(_name(path))
        self._server.listen(_name(path))

    def is_of(self, path: Path) -> bool:
        """Whether it is this bell that hangs for a study."""
        return self._server.isListening() and self._server.serverName() == _name(path)

    def take_down(self) -> None:
        """Listen no more."""
        if self._server.isListening():
            self._server.close()

    def _answer(self) -> None:
        while self._server.hasPendingConnections():
            socket = self._server.nextPendingConnection()
            socket.disconnected.connect(socket.deleteLater)
            socket.disconnectFromServer()
            self.rung.emit()
