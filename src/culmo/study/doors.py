"""How a file from outside is opened: told by what it is first, never for longer than its bytes take, never a held study.

POSIX drops all locks that a process has on a file as soon as the process closes any descriptor of that file (fcntl(2),
"Advisory record locking"). So the file of an open study may be opened by SQLite alone, and what is held is written down
here, whichever name leads to it.
"""

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from culmo.errors import CulmoError
from culmo.words import tr

Identity = tuple[int, int]  # device and inode
_LONGEST_NAME = 255  # bytes, of all common file systems
_held: dict[Identity, int] = {}
# a descriptor that turned out to be of a held study can not be closed: it stays open as long as the program runs
_never_closed: list[int] = []


def identity(path: Path) -> Identity | None:
    """Which file it is, whatever it is called; None where there is none."""
    try:
        state = path.stat()
    except (OSError, ValueError):
        return None
    return state.st_dev, state.st_ino


def hold(file: Identity) -> None:
    """From now on a file is a study that this process has open."""
    _held[file] = _held.get(file, 0) + 1


def let_go(file: Identity) -> None:
    """The study is closed."""
    left = _held.pop(file, 0) - 1
    if left > 0:
        _held[file] = left


def is_held(path: Path) -> bool:
    """Whether a path leads to a study that this process has open."""
    file = identity(path)
    return file is not None and file in _held


def shown(path: Path) -> str:
    """A path as it can be shown and printed, also where it is no UTF-8.

    Examples
    --------
    >>> from os import fsdecode
    >>> shown(Path(fsdecode(b"a\\xff.png")))
    'a\ufffd.png'
    """
    return os.fsencode(path).decode("utf-8", errors="replace")


def check_name(path: Path) -> None:
    """Whether a path is one that a file can have.

    Raises
    ------
    CulmoError
        when it is no UTF-8, or holds a character that no name may hold
    """
    try:
        text = str(path)
        text.encode("utf-8")
    except UnicodeEncodeError:
        raise CulmoError(tr('the name of "{path}" is not UTF-8; rename it first', path=shown(path))) from None
    if any(len(os.fsencode(part)) > _LONGEST_NAME for part in path.parts):
        raise CulmoError(tr('the name of "{path}" is too long', path=f"{path.name[:60]}…"))
    if "\0" in text:
        raise CulmoError(tr('"{path}" is no name that a file can have', path=text.replace("\0", "\ufffd")))


_KINDS = (
    (stat.S_ISDIR, tr("a folder")),
    (stat.S_ISFIFO, tr("a pipe")),
    (stat.S_ISCHR, tr("a device")),
    (stat.S_ISBLK, tr("a device")),
    (stat.S_ISSOCK, tr("a socket")),
)


def check_file(path: Path) -> os.stat_result:
    """What is at a path, which must be a plain file and no study that is open; nothing is opened.

    Raises
    ------
    CulmoError
        when it is missing, of another kind, or the file of an open study
    """
    check_name(path)
    try:
        state = path.stat()
    except OSError as error:
        raise unreadable(path, error) from None
    _check_kind(path, state)
    if (state.st_dev, state.st_ino) in _held:
        raise CulmoError(
            tr('"{name}" is the study that is open; nothing else may read its file', name=path.name)
        )
    return state


def _check_kind(path: Path, state: os.stat_result) -> None:
    for test, what in _KINDS:
        if test(state.st_mode):
            raise CulmoError(tr('"{path}" is {what}, not a file', path=path, what=what))


def unreadable(path: Path, error: OSError) -> CulmoError:
    """That a file can not be read, in words."""
    return CulmoError(
        tr('"{path}" can not be read: {value}', path=shown(path), value=error.strerror or error)
    )


@contextmanager
def opened(path: Path) -> Iterator[int]:
    """A descriptor to read a plain file from outside; a pipe or a device is not waited for.

    Raises
    ------
    CulmoError
        when it is no plain file, or is a study that is open
    OSError
        when it can not be opened
    """
    check_file(path)
    descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | os.O_NOCTTY)
    state = os.fstat(descriptor)
    if (state.st_dev, state.st_ino) in _held:  # another file was put there meanwhile
        _never_closed.append(descriptor)
        raise CulmoError(
            tr('"{name}" is the study that is open; nothing else may read its file', name=path.name)
        )
    try:
        _check_kind(path, state)
        yield descriptor
    finally:
        os.close(descriptor)


def read_file(path: Path, most: int) -> bytes:
    """The bytes of a file from outside.

    Parameters
    ----------
    path : Path
    most : int, bytes; of a file that has more nothing is given

    Raises
    ------
    CulmoError
        when it is missing, no plain file, too large, or can not be read
    """
    value = f"{most // 2**20} MB" if most >= 2**20 else f"{most // 2**10} kB"
    too_large = CulmoError(tr('"{name}" is too large: {value} are the most', name=path.name, value=value))
    if check_file(path).st_size > most:
        raise too_large
    try:
        with opened(path) as descriptor:
            data = bytearray()
            while piece := os.read(descriptor, min(2**20, most + 1 - len(data))):
                data += piece
                if (
                    len(data) > most
                ):  # a file may say that it is empty and go on for ever, as those of /proc do
                    raise too_large
    except OSError as error:
        raise unreadable(path, error) from None
    return bytes(data)


def read_head(path: Path, most: int) -> bytes:
    """The first bytes of a file from outside, `most` of them at most.

    Raises
    ------
    CulmoError
        when it is missing, no plain file, or can not be read
    """
    try:
        with opened(path) as descriptor:
            return os.read(descriptor, most)
    except OSError as error:
        raise unreadable(path, error) from None


def check_target(path: Path) -> None:
    """Whether something may be written to a path: nothing takes the place of a study that is open.

    Raises
    ------
    CulmoError
        when it is no name, a thing of another kind, or the file of an open study
    """
    check_name(path)
    with suppress(OSError):
        _check_kind(path, path.stat())
    if is_held(path):
        raise CulmoError(tr('"{name}" is the study that is open; choose another name', name=path.name))
