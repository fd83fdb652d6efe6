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


def scaled(steps: Generator[float, None, _T], low: float, high: float) -> Generator[float, None, _T]:
    """Some work as a part of a longer one: its progress goes from `low` to `high`; gives its result.

    Parameters
    ----------
    steps : generator of float, 0..1
    low, high : float, 0..1
    """
    try:
        while True:
            try:
                done = next(steps)
            except StopIteration as end:
                result: _T = end.value
                return result
            yield low + (high - low) * done
    finally:
        steps.close()  # given up, it lets go of its files and threads now, and not when it is next swept up
