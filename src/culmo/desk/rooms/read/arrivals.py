"""A folder in which new pictures arrive, as from a phone or a scanner."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from culmo.desk.rooms.read.model import names_in, new_picture
from culmo.study.formats import PICTURE

ARRIVAL_MS = 400  # so long a picture must have kept its size


class Arrivals(QObject):
    """Looks into a folder, and tells of a new picture once it has stopped growing.

    Parameters
    ----------
    is_free : function that says whether the table is free for a picture
    """

    arrived = Signal(object)  # its path
    waits = Signal(str)  # the name of one that has arrived while the table is not free

    def __init__(self, is_free: Callable[[], bool], parent: QObject) -> None:
        super().__init__(parent)
        self._is_free = is_free
        self.watcher = QFileSystemWatcher(self)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(ARRIVAL_MS)
        self._timer.timeout.connect(self.look)
        self.watcher.directoryChanged.connect(lambda _: self._timer.start())
        self._seen: set[str] = set()
        self._arriving: tuple[Path, int] | None = None

    @property
    def folders(self) -> list[str]:
        """What is watched."""
        return list(self.watcher.directories())

    def watch(self, folder: str) -> None:
        """Look for new pictures in a folder; an empty text ends it."""
        for old in self.folders:
            self.watcher.removePath(old)
        if folder:
            self._seen = names_in(Path(folder))
            self.watcher.addPath(folder)

    def look_soon(self) -> None:
        """A picture may have arrived meanwhile."""
        self._timer.start()

    def look(self) -> None:
        """Tell of a new picture that has kept its size."""
        for folder in self.folders:
            found = new_picture(Path(folder), self._seen, PICTURE.endings)
            if found is None:
                continue
            if not self._is_free():
                self.waits.emit(found[0].name)
            elif found != self._arriving:
                self._arriving = found
                self._timer.start()
            else:
                self._seen.add(found[0].name)
                self.arrived.emit(found[0])
