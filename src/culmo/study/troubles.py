"""What went wrong with a study's file, told apart: each has its own words, what is safe, and what to do."""

import errno
import sqlite3
from enum import Enum
from pathlib import Path

from culmo.errors import CulmoError
from culmo.words import tr


class Trouble(Enum):
    """Why a study's file can not be read or written."""

    NO_SPACE = "no space"
    READ_ONLY = "read only"
    NO_ACCESS = "no access"
    GONE = "gone"
    LOCKED = "locked"
    DEVICE = "device"
    MEMORY = "memory"
    DAMAGED = "damaged"
    OTHER = "other"

    @property
    def stands_in_the_way(self) -> bool:
        """Whether it passes, or can be mended, and the file itself may be sound."""
        return self not in (Trouble.DAMAGED, Trouble.OTHER)


# what reading a file that is damaged in any way may raise
READING = (sqlite3.DatabaseError, UnicodeDecodeError)
# the primary result codes of SQLite (sqlite.org/rescode.html)
_BY_CODE = {
    sqlite3.SQLITE_FULL: Trouble.NO_SPACE,
    sqlite3.SQLITE_READONLY: Trouble.READ_ONLY,
    sqlite3.SQLITE_PERM: Trouble.NO_ACCESS,
    sqlite3.SQLITE_AUTH: Trouble.NO_ACCESS,
    sqlite3.SQLITE_CANTOPEN: Trouble.NO_ACCESS,
    sqlite3.SQLITE_BUSY: Trouble.LOCKED,
    sqlite3.SQLITE_LOCKED: Trouble.LOCKED,
    sqlite3.SQLITE_PROTOCOL: Trouble.LOCKED,
    sqlite3.SQLITE_IOERR: Trouble.DEVICE,
    sqlite3.SQLITE_NOMEM: Trouble.MEMORY,
    sqlite3.SQLITE_CORRUPT: Trouble.DAMAGED,
    sqlite3.SQLITE_NOTADB: Trouble.DAMAGED,
}
_BY_EXTENDED = {
    sqlite3.SQLITE_READONLY_DBMOVED: Trouble.GONE,
    sqlite3.SQLITE_IOERR_NOMEM: Trouble.MEMORY,
    sqlite3.SQLITE_IOERR_CORRUPTFS: Trouble.DAMAGED,
}
_BY_ERRNO = {
    errno.ENOSPC: Trouble.NO_SPACE,
    errno.EDQUOT: Trouble.NO_SPACE,
    errno.EFBIG: Trouble.NO_SPACE,
    errno.EROFS: Trouble.READ_ONLY,
    errno.EACCES: Trouble.NO_ACCESS,
    errno.EPERM: Trouble.NO_ACCESS,
    errno.ENOENT: Trouble.GONE,
    errno.ENOTDIR: Trouble.GONE,
    errno.ESTALE: Trouble.GONE,
    errno.EAGAIN: Trouble.LOCKED,
    errno.EBUSY: Trouble.LOCKED,
    errno.EIO: Trouble.DEVICE,
    errno.ENODEV: Trouble.DEVICE,
    errno.ENXIO: Trouble.DEVICE,
    errno.ENOMEM: Trouble.MEMORY,
}


class StudyFileError(CulmoError):
    """A study's file could not be read or written; `kind` says why, for those who can do something about it."""

    def __init__(self, kind: Trouble, words: str) -> None:
        super().__init__(words)
        self.kind = kind


def trouble_of(error: BaseException, path: Path | None = None) -> Trouble:
    """What an error of SQLite or of the system means.

    Parameters
    ----------
    error : sqlite3.Error, OSError or MemoryError
    path : Path of the file, so that one that is gone is told from one that may not be opened

    Examples
    --------
    >>> trouble_of(OSError(errno.ENOSPC, "No space left on device"))
    <Trouble.NO_SPACE: 'no space'>
    """
    if isinstance(error, MemoryError):
        return Trouble.MEMORY
    if isinstance(error, UnicodeDecodeError):
        return Trouble.DAMAGED  # what SQLite says of a damaged file may hold bytes of it
    if isinstance(error, sqlite3.ProgrammingError):
        return Trouble.DEVICE  # the connection could not be opened again after a failure
    if isinstance(error, OSError):
        return _BY_ERRNO.get(error.errno or 0, Trouble.OTHER)
    # an error that Python itself raises has no code
    code = getattr(error, "sqlite_errorcode", None)
    if code is None:
        return Trouble.OTHER
    found = _BY_EXTENDED.get(code) or _BY_CODE.get(code & 0xFF, Trouble.OTHER)
    if found is Trouble.NO_ACCESS and path is not None and not path.exists():
        return Trouble.GONE
    return found


def why(kind: Trouble, error: BaseException) -> str:
    """The reason in a few words, to stand in a sentence."""
    words = {
        Trouble.NO_SPACE: tr("there is no space left on the disk"),
        Trouble.READ_ONLY: tr("it may only be read"),
        Trouble.NO_ACCESS: tr("Culmo may not write there"),
        Trouble.GONE: tr("it is no longer in its folder"),
        Trouble.LOCKED: tr("another program has it open"),
        Trouble.DEVICE: tr("the disk or its connection failed"),
        Trouble.MEMORY: tr("the computer ran out of memory"),
    }
    return words.get(kind) or str(getattr(error, "strerror", None) or error)


def what_to_do(kind: Trouble) -> str:
    """What helps, as a sentence of its own; empty where nothing particular does."""
    return {
        Trouble.NO_SPACE: tr("Make some space, then do it again."),
        Trouble.READ_ONLY: tr(
            "Make the file and its folder writable, or save the study elsewhere (File menu)."
        ),
        Trouble.NO_ACCESS: tr(
            "Make the file and its folder writable, or save the study elsewhere (File menu)."
        ),
        Trouble.GONE: tr("Put it back, or save the study elsewhere (File menu)."),
        Trouble.LOCKED: tr("Close it there, then do it again."),
        Trouble.DEVICE: tr(
            "See that the disk is connected and sound, then do it again, or save the study elsewhere (File menu)."
        ),
        Trouble.MEMORY: tr("Close other programs, then do it again."),
        Trouble.DAMAGED: tr("What can be read of it can be recovered, or a copy put back (File menu)."),
        Trouble.OTHER: "",
    }[kind]


def sentence(said: str, kind: Trouble) -> str:
    """What happened, with what to do about it behind."""
    advice = what_to_do(kind)
    return f"{said}. {advice}" if advice else said


def not_saved(name: str, error: BaseException, path: Path | None = None) -> StudyFileError:
    """That an act could not be saved; the study is as before."""
    kind = trouble_of(error, path)
    if kind is Trouble.DAMAGED:
        said = tr('"{name}" is damaged ({error}); this was not saved, and what was there before is as it was',
                  name=name, error=error)  # fmt: skip
    else:
        said = tr('this could not be saved in "{name}": {why}; all that was there before is safe',
                  name=name, why=why(kind, error))  # fmt: skip
    return StudyFileError(kind, sentence(said, kind))


def not_read(name: str, error: BaseException, path: Path | None = None) -> StudyFileError:
    """That a study could not be read."""
    kind = trouble_of(error, path)
    if kind in (Trouble.DAMAGED, Trouble.OTHER):
        said = tr('"{name}" is damaged ({error}) and is left as it is', name=name, error=error)
        return StudyFileError(Trouble.DAMAGED, sentence(said, Trouble.DAMAGED))
    said = tr(
        '"{name}" can not be read now: {why}; nothing in it was changed', name=name, why=why(kind, error)
    )
    return StudyFileError(kind, sentence(said, kind))
