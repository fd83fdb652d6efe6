"""Standard input and output of the commands: what "-" means, what is said, and how writing may fail."""

import os
import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from enum import IntEnum
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from culmo.errors import CulmoError

STANDARD = "-"
_INPUTS = ("readings", "ask", "sheet", "photo", "card", "strip", "strip_values", "targets", "files")
_NO_INPUTS = ("study", "folder", "to", "copy", "recover", "out")
_HEAD_BYTES = 64 * 1024


class Level(IntEnum):
    """How much is said at the terminal."""

    QUIET = 0
    USUAL = 1
    MORE = 2


class _Voice:
    """How much the command that runs says; set anew by each call."""

    level = Level.USUAL


def set_level(quiet: bool, more: bool) -> None:
    """How much the command says: errors alone, the usual, or more."""
    _Voice.level = Level.QUIET if quiet else Level.MORE if more else Level.USUAL


def says(level: Level = Level.USUAL) -> bool:
    """Whether words of a level are said."""
    return _Voice.level >= level


@contextmanager
def taking_in(options: Any) -> Iterator[None]:
    """Where an input is "-", what comes by standard input stands in its place, as a file, till the end of the block.

    Raises
    ------
    CulmoError
        when two inputs are "-", or a study or folder is
    """
    for name in _NO_INPUTS:
        if name != "out" and str(getattr(options, name, None)) == STANDARD:
            raise CulmoError('"-" is standard input or output; a study or folder needs a name')
    places = [(name, place) for name in _INPUTS for place in _places(getattr(options, name, None))]
    if not places:
        yield
        return
    if len(places) > 1:
        raise CulmoError('standard input can be read once; "-" is given twice')
    with TemporaryDirectory(prefix="culmo-") as folder:
        came = _copied(Path(folder))
        name, place = places[0]
        if place is None:
            setattr(options, name, came)
        else:
            getattr(options, name)[place] = came
        yield


def _places(value: object) -> list[int | None]:
    if isinstance(value, list):
        return [place for place, entry in enumerate(value) if str(entry) == STANDARD]
    return [None] if isinstance(value, Path) and str(value) == STANDARD else []


def _copied(folder: Path) -> Path:
    """Standard input in a file that bears the ending of what it holds."""
    from culmo.study.formats import ending_of

    beside = folder / "input"
    try:
        with beside.open("wb") as file:
            shutil.copyfileobj(sys.stdin.buffer, file)
        with beside.open("rb") as file:
            head = file.read(_HEAD_BYTES)
        return beside.rename(folder / f"standard input{ending_of(head)}")
    except OSError as error:
        raise CulmoError(f"standard input can not be read ({error.strerror or error})") from None


def check_output(path: Path | None) -> None:
    """Whether a result could be written, before any work for it is done.

    Raises
    ------
    CulmoError
        when its folder is missing or may not be written to, or when it is a folder itself
    """
    if path is None:
        return
    if path.is_dir():
        raise CulmoError(f'"{path}" can not be written: it is a folder')
    if not path.parent.is_dir():
        raise CulmoError(f'"{path}" can not be written: there is no such folder')
    if not os.access(path.parent, os.W_OK | os.X_OK):
        raise CulmoError(f'"{path}" can not be written: its folder may not be written to')


def unwritten(error: Exception) -> CulmoError:
    """That standard output can not be written, and why."""
    why = getattr(error, "strerror", None) or error
    return CulmoError(f"standard output can not be written ({why})")


def flush_output() -> None:
    """Have all that was printed out of the program while a failure can still be told.

    Raises
    ------
    CulmoError
        when it can not be written, as to a full disk
    BrokenPipeError
        when nobody reads it any more
    """
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        raise
    except (OSError, ValueError) as error:  # the latter: it was closed by who called
        raise unwritten(error) from None


def drop_unwritten() -> None:
    """Have out what can be written after a failure; what can not is let go of."""
    try:
        sys.stdout.flush()
    except (OSError, ValueError):
        drop_output()


def drop_output() -> None:
    """Nobody reads standard output, or it can not be written: what is left of it is not tried again at the end."""
    try:
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.stdout.fileno())
        os.close(nowhere)
    except (OSError, ValueError, AttributeError):
        pass  # it is no file of the system, and ends with the program
