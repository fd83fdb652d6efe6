"""Work that tells its progress, done at one go."""

from collections.abc import Generator
from typing import TypeVar

_T = TypeVar("_T")


def run_through(steps: Generator[float, None, _T]) -> _T:
    """Do all of some work that yields its progress; gives its result.

    Parameters
    ----------
    steps : generator of float, 0..1
    """
    while True:
        try:
            next(steps)
        except StopIteration as end:
            result: _T = end.value
            return result
