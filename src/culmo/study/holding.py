"""Where the file of an open study is: still at its place, moved, taken away, replaced, or written over by another."""

import os
from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.words import tr

_HEAD = slice(
    16, 100
)  # of a database file: page size, change counter, size, schema (sqlite.org/fileformat2.html, 1.3)


class Whereabouts(Enum):
    """What became of the file."""

    HERE = "here"
    MOVED = "moved"
    GONE = "gone"
    REPLACED = "replaced"
    OVERWRITTEN = "overwritten"


@dataclass(frozen=True)
class FoundFile:
    """The answer.

    Attributes
    ----------
    what : Whereabouts
    path : Path where the file is now; None where it has no name any more
    taken : bool, whether another file is at its old place
    """

    what: Whereabouts
    path: Path | None = None
    taken: bool = False


def check_free(path: Path) -> None:
    """Whether a study can be opened by this process.

    Raises
    ------
    CulmoError
        when it is missing, no plain file, or this process has it open already
    """
    doors.check_name(path)
    if doors.is_held(path):
        raise CulmoError(
            tr('"{name}" is open in another window or program; close it there first', name=path.name)
        )
    doors.check_file(path)


class Holding:
    """Keeps an eye on one file as long as it is open.

    The file is told by device and inode through a descriptor of its own, opened before SQLite opens the file and closed
    after SQLite has closed it (`culmo.study.doors` says why). It also gives the name that the file has now.

    Parameters
    ----------
    path : Path of a plain file

    Raises
    ------
    CulmoError
        when it is missing, no plain file, can not be read, or this process has it open already
    """

    def __init__(self, path: Path) -> None:
        check_free(path)
        self.path = path
        try:
            self._eye = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except OSError as error:
            raise doors.unreadable(path, error) from None
        state = os.fstat(self._eye)
        self._file = state.st_dev, state.st_ino
        doors.hold(self._file)
        self._known = self._state()

    def _state(self) -> tuple[int, int, bytes]:
        state = os.fstat(self._eye)
        return state.st_size, state.st_mtime_ns, os.pread(self._eye, _HEAD.stop, 0)[_HEAD]

    def note(self) -> None:
        """This program has written the file: as it is now it is meant to be."""
        self._known = self._state()

    @property
    def state(self) -> str:
        """Device, inode, size, time and head of the file."""
        size, time_ns, head = self._state()
        return f"{self._file} {size} {time_ns} {head.hex()}"

    @property
    def mode(self) -> int:
        """The permissions of the file."""
        return os.fstat(self._eye).st_mode & 0o777

    @property
    def is_closed(self) -> bool:
        """Whether nobody looks any more."""
        return self._eye < 0

    def look(self) -> FoundFile:
        """What became of the file."""
        try:
            there = doors.identity(self.path)
            if there == self._file:
                same = self._state() == self._known
                return FoundFile(Whereabouts.HERE if same else Whereabouts.OVERWRITTEN, self.path)
            now = self._path_now()
            if now is not None:
                return FoundFile(Whereabouts.MOVED, now, there is not None)
        except OSError:  # the disk itself is gone
            return FoundFile(Whereabouts.GONE)
        return FoundFile(Whereabouts.GONE if there is None else Whereabouts.REPLACED, None, there is not None)

    def holds(self, data: bytes) -> bool:
        """Whether the file has just these bytes."""
        step = 2**20
        if os.fstat(self._eye).st_size != len(data):
            return False
        whole = memoryview(data)
        return all(
            os.pread(self._eye, step, start) == whole[start : start + step]
            for start in range(0, len(data), step)
        )

    def _path_now(self) -> Path | None:
        """The name that the file has now, if it has one where a painter would look for it."""
        if os.fstat(self._eye).st_nlink == 0:
            return None
        now = Path(f"/proc/self/fd/{self._eye}").readlink()
        # what lies in the bin of the desktop is as good as gone (freedesktop.org trash specification 1.0)
        binned = any(part == "Trash" or part.startswith(".Trash") for part in now.parts[:-1])
        return None if binned or doors.identity(now) != self._file else now

    def close(self) -> None:
        """Look away; SQLite must have closed the file before."""
        if self._eye >= 0:
            os.close(self._eye)
            self._eye = -1
            doors.let_go(self._file)
