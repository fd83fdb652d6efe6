"""Where the commands write: results to a file or to standard output, words to standard error."""

import json
import sys
import time
from collections.abc import Generator, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO, TypeVar

from culmo.cli.streams import Level, says, unwritten
from culmo.core.steps import run_through
from culmo.study.whole_file import whole_file

if TYPE_CHECKING:
    from culmo.study.file import Study


_T = TypeVar("_T")
_PATIENCE_S = 0.5  # what is done sooner needs no word


def say(text: str, level: Level = Level.USUAL) -> None:
    """A word to the person at the terminal, where words of that level are wished."""
    if says(level):
        print(text, file=sys.stderr)


def write_json(file: TextIO, data: Mapping[str, Any]) -> None:
    """A result as JSON."""
    json.dump(data, file, indent=1, ensure_ascii=False)
    file.write("\n")


def run_told(steps: Generator[float, None, _T], what: str) -> _T:
    """Do some work that yields its progress; where a person sits at a terminal, how far it is stands in the last line."""
    if not sys.stderr.isatty() or not says():
        return run_through(steps)
    shown, begun = -1, time.monotonic()
    try:
        while True:
            try:
                percent = int(100.0 * next(steps))
            except StopIteration as end:
                result: _T = end.value
                return result
            if percent != shown and time.monotonic() - begun > _PATIENCE_S:
                shown = percent
                print(f"\rculmo: {what}, {percent} %\x1b[K", end="", file=sys.stderr, flush=True)
    finally:
        steps.close()
        if shown >= 0:
            print("\r\x1b[K", end="", file=sys.stderr, flush=True)


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
        try:
            yield sys.stdout
        except BrokenPipeError:
            raise
        except OSError as error:
            raise unwritten(error) from None
        return
    with whole_file(path) as beside, beside.open("w", encoding="utf-8", newline="") as file:
        yield file
