"""The log of the program: what went wrong, for a report that can be copied whole. It holds nothing of a study."""

import logging
import os
import platform
import sys
import traceback
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path

from culmo import __version__

_LOGGER = logging.getLogger("culmo")
_MOST_BYTES = 256 * 1024
_KEPT = 2
_TAIL_LINES = 60
_PACKAGES = ("PySide6-Essentials", "numpy", "scipy", "pillow")


def path() -> Path:
    """Where the log is: in the user's folder for the state of programs."""
    base = os.environ.get("XDG_STATE_HOME", "")
    folder = Path(base) if Path(base).is_absolute() else Path.home() / ".local" / "state"
    return folder / "culmo" / "culmo.log"


def begin() -> None:
    """From now on what is logged goes to the file, which begins anew when it is long; or nowhere, where it can not."""
    if any(isinstance(handler, RotatingFileHandler) for handler in _LOGGER.handlers):
        return
    with suppress(OSError):
        path().parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        handler = RotatingFileHandler(
            path(), maxBytes=_MOST_BYTES, backupCount=_KEPT, encoding="utf-8", delay=True
        )
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        handler.handleError = lambda record: None  # type: ignore[method-assign]  # a full disk is told by what is saved
        _LOGGER.addHandler(handler)
        _LOGGER.setLevel(logging.INFO)


def end() -> None:
    """Let go of the file."""
    for handler in list(_LOGGER.handlers):
        if isinstance(handler, RotatingFileHandler):
            _LOGGER.removeHandler(handler)
            handler.close()


def told(error: BaseException) -> str:
    """A mistake with the lines of the program that led to it, and without the words of it, which may be of a study."""
    lines = []
    seen: set[int] = set()
    current: BaseException | None = error
    while current is not None and id(current) not in seen:
        seen.add(id(current))
        frames = traceback.extract_tb(current.__traceback__)
        lines += [f"  {_short(frame.filename)}:{frame.lineno} in {frame.name}" for frame in frames]
        lines.append(type(current).__name__)
        current = current.__cause__ or current.__context__
    return "\n".join(lines)


def _short(name: str) -> str:
    """The file of the program, without the folders of this machine."""
    parts = Path(name).parts
    for root in ("culmo", "site-packages"):
        if root in parts:
            return "/".join(parts[len(parts) - 1 - parts[::-1].index(root) :])
    return Path(name).name


def note(error: BaseException) -> str:
    """Log a mistake; gives the whole of it, for the eyes of who made it alone."""
    _LOGGER.error("%s", told(error))
    return "".join(traceback.format_exception(error))


def system() -> str:
    """The program and what it stands on."""
    from importlib.metadata import (  # seldom needed, and the window is to be there soon
        PackageNotFoundError,
        version,
    )

    lines = [f"Culmo {__version__}", f"Python {platform.python_version()}, {platform.platform()}"]
    for name in _PACKAGES:
        with suppress(PackageNotFoundError):
            lines.append(f"{name} {version(name)}")
    lines.append(f"language {os.environ.get('LANG', '')}, display {_display()}")
    return "\n".join(lines)


def _display() -> str:
    gui = sys.modules.get("PySide6.QtGui")
    if gui is not None and gui.QGuiApplication.instance() is not None:
        return str(gui.QGuiApplication.platformName())
    return "none"


def tail() -> str:
    """The last lines of the log."""
    with suppress(OSError):
        return "\n".join(path().read_text(encoding="utf-8", errors="replace").splitlines()[-_TAIL_LINES:])
    return ""


def report(error: BaseException | None = None) -> str:
    """All that a report of a mistake needs, to be copied whole: the program, the system, the mistake, the log's end."""
    parts = [system()]
    if error is not None:
        parts.append(told(error))
    if tail():
        parts.append(tail())
    return "\n\n".join(parts) + "\n"
