"""Studies that are as this program left them: every row was looked through then, and need not be again.

What is remembered lies in the user's cache, not in the study, so that no study can say it of itself. It may go at any time.
"""

import hashlib
import logging
from contextlib import suppress
from pathlib import Path

from culmo import __version__
from culmo.errors import CulmoError
from culmo.study.file import Study
from culmo.study.schema import VERSION
from culmo.study.whole_file import whole_file

SUFFIX = ".sound"
MOST_KEPT = 40


def _place(folder: Path, study: Study) -> Path:
    path = str(study.path.absolute()).encode("utf-8", errors="replace")
    return folder / f"{hashlib.sha256(path).hexdigest()[:24]}{SUFFIX}"


def _mark(study: Study) -> str:
    return f"{__version__} {VERSION} {study.disk.state}"


def remember(folder: Path, study: Study) -> None:
    """A study that was looked through is left now, with nothing in it but what its acts wrote."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with whole_file(_place(folder, study), mode=0o600) as part:
            part.write_text(_mark(study), encoding="utf-8")
        there = sorted(folder.glob(f"*{SUFFIX}"), key=lambda path: path.stat().st_mtime_ns, reverse=True)
        for path in there[MOST_KEPT:]:
            path.unlink(missing_ok=True)
    except (CulmoError, OSError) as error:  # it costs a second on another day, and nothing else
        logging.getLogger("culmo").info("that the study is sound is not remembered: %s", error)


def is_remembered(folder: Path, study: Study) -> bool:
    """Whether a study that was just opened is to the byte's time and the act as it was left."""
    with suppress(OSError, UnicodeDecodeError):
        return _place(folder, study).read_text(encoding="utf-8") == _mark(study)
    return False
