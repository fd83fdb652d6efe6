"""Where the commands write: results to a file or to standard output, words to standard error."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TextIO

from culmo.errors import CulmoError


def say(text: str) -> None:
    """A word to the person at the terminal."""
    print(text, file=sys.stderr)


@contextmanager
def output(path: Path | None) -> Iterator[TextIO]:
    """A file to write to, whole or not at all; standard output where there is none."""
    if path is None:
        yield sys.stdout
        return
    beside = path.with_name(f".{path.name}.part")
    try:
        with beside.open("w", encoding="utf-8", newline="") as file:
            yield file
        beside.replace(path)
    except OSError as error:
        raise CulmoError(f'"{path}" can not be written ({error.strerror or error})') from None
    finally:
        beside.unlink(missing_ok=True)
