"""Files and folders that are written whole or not at all, and what a kill in the midst of it leaves."""

import errno
import fcntl
import hashlib
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.troubles import StudyFileError, Trouble, trouble_of, why
from culmo.words import tr

PART = ".culmo.part"  # no other program names its files so; what is left of them may be taken away
_LONGEST_NAME = 255  # bytes, of all common file systems


def part_of(path: Path) -> Path:
    """The name beside under which a file is built."""
    name = f".{path.name}{PART}"
    if len(os.fsencode(name)) > _LONGEST_NAME - len("-journal"):
        name = f".{hashlib.sha256(os.fsencode(path.name)).hexdigest()[:32]}{PART}"
    return path.with_name(name)


@contextmanager
def whole_file(path: Path, over: bool = True, mode: int | None = None, empty: bool = False) -> Iterator[Path]:
    """A name beside to write to, then put in place: an earlier file stands until the new one is whole and on the disk.

    Parameters
    ----------
    path : Path
    over : bool, whether it may take the place of an earlier file
    mode : int, its permissions; as the system gives them where absent
    empty : bool, whether nothing may be written to it

    Raises
    ------
    CulmoError
        when it can not be written, when there is one already that must stay, or when it is a study that is open
    """
    doors.check_target(path)
    if not path.parent.is_dir():
        raise StudyFileError(
            Trouble.GONE, tr('"{path}" can not be written: there is no such folder', path=path)
        )
    if not over and os.path.lexists(path):
        raise exists_already(path)
    beside = part_of(path)
    try:
        with _begun(beside):
            if mode is not None:
                beside.chmod(mode)
            yield beside
            if not beside.is_file() or (beside.stat().st_size == 0 and not empty):
                raise OSError(tr("nothing was written"))
            sync(beside)
            put_in_place(beside, path, over)
    except OSError as error:
        kind = trouble_of(error)
        raise StudyFileError(
            kind, tr('"{path}" can not be written ({value})', path=path, value=why(kind, error))
        ) from None
    finally:
        remove_part(beside)


def exists_already(path: Path) -> CulmoError:
    """That there is something of this name that must stay."""
    return CulmoError(tr('"{path}" exists already; choose another name', path=path))


@contextmanager
def _begun(beside: Path) -> Iterator[None]:
    """A new part that no other program takes for a leftover while it is written."""
    if beside.exists() and not clear_leftover(beside):
        raise CulmoError(tr('"{path}" is being written by another window or program', path=beside))
    descriptor = os.open(beside, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
    try:
        with suppress(OSError):  # a file system without such locks: then a leftover is told by its name alone
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        yield
    finally:
        os.close(descriptor)


def make_folder(folder: Path, mode: int) -> None:
    """A folder with the permissions of the files that are to lie in it: who may read them may also enter.

    Raises
    ------
    OSError
        when it can not be made
    """
    if not folder.is_dir():
        folder.mkdir(mode=0o700)
        folder.chmod(mode | (mode & 0o444) >> 2)


def put_in_place(beside: Path, path: Path, over: bool) -> None:
    """Give what was built its name, and have the name on the disk.

    Raises
    ------
    CulmoError
        when there is another of this name by now, which must stay
    OSError
        when it can not be named
    """
    if over:
        beside.replace(path)
    else:
        try:
            os.link(beside, path)  # unlike a renaming, it never takes the place of another
        except FileExistsError:
            raise exists_already(path) from None
        except OSError as error:
            if error.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK, errno.EACCES):
                raise
            if os.path.lexists(path):
                raise exists_already(path) from None
            beside.rename(path)  # a file system without links
    # from here on it is there, whatever else fails: to say that it is not would be wrong
    with suppress(OSError):
        beside.unlink(missing_ok=True)
    with suppress(OSError):
        sync(path.parent)


def sync(path: Path) -> None:
    """Have a file, or the names in a folder, on the disk.

    Raises
    ------
    OSError
        when the disk does not take it
    """
    descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
    try:
        os.fsync(descriptor)
    except OSError as error:
        if error.errno not in (errno.EINVAL, errno.ENOTSUP):  # a file system that can not sync folders
            raise
    finally:
        os.close(descriptor)


def remove_part(beside: Path) -> None:
    """What was begun goes, with the journals that SQLite kept of it."""
    for ending in ("", "-journal", "-wal", "-shm"):
        with suppress(OSError):
            beside.with_name(beside.name + ending).unlink(missing_ok=True)


def clear_leftover(beside: Path) -> bool:
    """Remove what a program that was killed has begun; says whether it is gone. What is being written now stays."""
    try:
        if doors.is_held(beside):  # a second name of a study that is open: its file must not be opened here
            beside.unlink()
            return True
        if beside.is_dir():
            shutil.rmtree(beside)
            return True
        descriptor = os.open(beside, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError:
        return not os.path.lexists(beside)
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:
        pass  # no such locks here
    finally:
        os.close(descriptor)
    remove_part(beside)
    return not os.path.lexists(beside)


def sweep(*folders: Path, only: str = "") -> list[str]:
    """Remove what was begun in some folders and never finished; gives the names that it was to have.

    Parameters
    ----------
    folders : Paths, of which some may not be there
    only : str, the beginning of the names that are meant
    """
    gone = []
    for folder in folders:
        with suppress(OSError):
            for entry in sorted(folder.glob(f".*{PART}")):
                name = entry.name[1 : -len(PART)]
                if name.startswith(only) and clear_leftover(entry):
                    gone.append(name)
    return gone


@contextmanager
def whole_folder(path: Path) -> Iterator[Path]:
    """A folder beside to fill, then put in place; the place must be free or an empty folder.

    Raises
    ------
    CulmoError
        when there is something in it already, or it can not be written
    """
    doors.check_name(path)
    beside = part_of(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        if path.exists() and any(path.iterdir()):
            raise CulmoError(
                tr(
                    '"{folder}" is not empty; choose a new folder, so that nothing is written over',
                    folder=path,
                )
            )
        if beside.exists():
            shutil.rmtree(beside)
        beside.mkdir()
        yield beside
        for entry in [*beside.rglob("*"), beside]:
            sync(entry)
        beside.rename(path)  # takes the place of an empty folder, and of nothing else
        with suppress(OSError):
            sync(path.parent)
    except OSError as error:
        kind = trouble_of(error)
        raise StudyFileError(
            kind, tr('"{folder}" can not be written ({value})', folder=path, value=why(kind, error))
        ) from None
    finally:
        shutil.rmtree(beside, ignore_errors=True)
