"""Where the commands write: results to a file or to standard output, words to standard error."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from culmo.study.whole_file import whole_file

if TYPE_CHECKING:
    from culmo.study.file import Study


def say(text: str) -> None:
    """A word to the person at the terminal."""
    print(text, file=sys.stderr)


@contextmanager
def open_study(path: Path) -> Iterator["Study"]:
    """A study, with what was noticed on opening said."""
    from culmo.study.file import Study

    with Study(path) as study:
        for words in study.told:
            say(f"culmo: {words}")
        yield study


@contextmanager
def output(path: Path | None) -> Iterator[TextIO]:
    """A file to write to, whole or not at all; standard output where there is none."""
    if path is None:
        yield sys.stdout
        return
    with whole_file(path) as beside, beside.open("w", encoding="utf-8", newline="") as file:
        yield file
