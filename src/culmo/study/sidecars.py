"""The journal or write-ahead log that lies beside a study: of this file, or of one that lay there before.

A program that is killed in the midst of an act leaves a journal, by which SQLite takes the half act back at the next
opening. But where a copy was put over the study by hand, that journal is of another file, and to apply it destroys the
copy. SQLite can not tell (sqlite.org/howtocorrupt.html, 1.4). Culmo can: each file has a name of its own and counts its
acts (table `origin`), so that a journal's pages tell of which file they are.
"""

import fcntl
import os
import shutil
import sqlite3
import struct
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.connection import origin_of
from culmo.study.troubles import READING, StudyFileError, Trouble, trouble_of, why
from culmo.words import tr

JOURNAL, WAL = "-journal", "-wal"
_JOURNAL_MAGIC = bytes.fromhex("d9d505f920a163d7")
_WAL_MAGIC = (0x377F0682, 0x377F0683)
_LOCKS = (0x40000000, 512)  # where SQLite's locks lie (os.h: PENDING_BYTE and what follows)
_FLOCK = "hhlli"  # l_type, l_whence, l_start, l_len, l_pid


def beside(path: Path, ending: str) -> Path:
    """The journal or log of a study; that of a link lies where the link leads."""
    real = path.resolve() if path.is_symlink() else path
    return real.with_name(real.name + ending)


def waiting(path: Path) -> list[str]:
    """Which of them wait to be applied; those that say nothing are left out.

    Raises
    ------
    CulmoError
        when something that is no file bears the name of one
    """
    found = []
    for ending in (JOURNAL, WAL):
        if not os.path.lexists(beside(path, ending)):
            continue
        with doors.opened(beside(path, ending)) as descriptor:
            head = os.pread(descriptor, 32, 0)
        if ending == JOURNAL and head[:8] == _JOURNAL_MAGIC:
            found.append(ending)
        if ending == WAL and len(head) == 32 and int.from_bytes(head[:4], "big") in _WAL_MAGIC:
            found.append(ending)
    return found


def locked_by_another(path: Path) -> bool:
    """Whether another process has a study's file open for writing; the file must not be held by this one."""
    with doors.opened(path) as descriptor:
        start, length = _LOCKS
        asked = struct.pack(_FLOCK, fcntl.F_WRLCK, os.SEEK_SET, start, length, 0)
        try:
            answer = fcntl.fcntl(descriptor, fcntl.F_GETLK, asked)
        except OSError:
            return False  # a file system without locks
    return bool(struct.unpack(_FLOCK, answer)[0] != fcntl.F_UNLCK)


@dataclass(frozen=True)
class Settled:
    """A copy of a study as it will be when the next program opens it.

    Attributes
    ----------
    path : Path of the copy, to which what waited beside the study has been applied
    foreign : tuple of str, the endings of what lies beside the study and is of another file
    """

    path: Path
    foreign: tuple[str, ...]


@contextmanager
def settled_copy(path: Path) -> Iterator[Settled]:
    """A copy of a closed study in a folder of its own, with what waits beside it applied where it is of this file.

    The study itself and all beside it are only read.

    Raises
    ------
    CulmoError
        when it can not be read or copied, or another program has it open
    """
    import tempfile  # slow to load, and seldom needed

    doors.check_name(path)
    if not os.path.lexists(path):
        raise CulmoError(tr('there is no study at "{path}"', path=doors.shown(path)))
    if locked_by_another(path):
        raise StudyFileError(
            Trouble.LOCKED,
            tr('"{name}" is open in another window or program; close it there first', name=path.name),
        )
    try:
        with tempfile.TemporaryDirectory() as folder:
            plain = _copy(path, Path(folder) / "plain", ())
            found = waiting(path)
            if found:
                full = _copy(path, Path(folder) / "full", found)
                if _of_this_file(plain, full):
                    yield Settled(full, ())
                    return
            yield Settled(plain, tuple(found))
    except OSError as error:
        kind = trouble_of(error)
        raise StudyFileError(
            kind, tr('"{name}" can not be looked at ({why}); it was left as it is',
                     name=path.name, why=why(kind, error))
        ) from None  # fmt: skip


def _copy(path: Path, folder: Path, endings: tuple[str, ...] | list[str]) -> Path:
    folder.mkdir()
    target = folder / "study"
    with doors.opened(path) as source, target.open("wb") as out, open(source, "rb", closefd=False) as file:
        shutil.copyfileobj(file, out, 2**20)
    for ending in endings:
        shutil.copyfile(beside(path, ending), beside(target, ending))
    return target


def _of_this_file(plain: Path, full: Path) -> bool:
    """Whether what waits is of this file: then it names the same file, and counts at most the one act that it takes back."""
    before, _ = _look(plain, immutable=True)
    after, sound = _look(full, immutable=False)
    if before is None or after is None:
        # of an older version, or too torn to say: what makes it sound was of this file
        return sound
    same = before[0] == after[0] and (before[1] - after[1] in (0, 1) or after[1] > before[1])
    return same and sound


def _look(path: Path, immutable: bool) -> tuple[tuple[str, int] | None, bool]:
    """The name that a copy gives itself, and whether it is sound; applies what lies beside it unless it is immutable."""
    address = f"{path.as_uri()}?immutable=1" if immutable else f"{path.as_uri()}?mode=rw"
    try:
        with closing(sqlite3.connect(address, uri=True, isolation_level=None)) as db:
            found = origin_of(db)
            if immutable:
                return found, True
            # what was logged ahead goes into the copy, which is read alone from then on
            db.execute("PRAGMA journal_mode=DELETE")
            first = db.execute("PRAGMA integrity_check(1)").fetchone()[0]
            loose = db.execute("PRAGMA foreign_key_check").fetchone()
            return found, first == "ok" and loose is None
    except READING:
        return None, False


def settle(path: Path) -> list[str]:
    """Before a study is opened: what waits beside it and is of another file is set aside; gives its new names.

    Raises
    ------
    CulmoError
        when it can not be looked at, or not be set aside; nothing is changed then
    """
    if not waiting(path) or locked_by_another(path):
        return []
    with settled_copy(path) as copy:
        foreign = copy.foreign
    return [set_aside(path, ending) for ending in foreign]


def set_all_aside(path: Path) -> None:
    """As `set_aside`, whatever lies beside where a new file is put.

    Raises
    ------
    CulmoError
        when one can not be renamed
    """
    for ending in (JOURNAL, WAL):
        if os.path.lexists(beside(path, ending)):
            set_aside(path, ending)


def set_aside(path: Path, ending: str) -> str:
    """Give what lies beside a study another name, so that it is not applied; nothing is lost. Gives the name.

    Raises
    ------
    CulmoError
        when it can not be renamed
    """
    source = beside(path, ending)
    for number in range(1, 1000):
        target = source.with_name(f"{source.name} of another file{'' if number == 1 else f' {number}'}")
        if not os.path.lexists(target):
            try:
                source.rename(target)
            except OSError as error:
                kind = trouble_of(error)
                raise StudyFileError(
                    kind,
                    tr('"{name}" is of another file and can not be set aside ({why}); the study was not opened, so '
                       "that it is not damaged by it", name=source.name, why=why(kind, error)),
                ) from None  # fmt: skip
            return target.name
    raise CulmoError(tr('"{name}" is of another file; move it elsewhere first', name=source.name))
