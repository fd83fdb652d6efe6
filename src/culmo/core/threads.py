"""Linear algebra on one thread: the matrices here are so small that its own threads only trample each other.

Measured with `make bench` (the part `speed`): learning from the cards of 24 paints took fourteen times as long on the
two threads that the libraries start by themselves as on one. What multiplies or inverts matrices of a thousand and more
(`why.explain`, `next_cells.choose_next`) is quicker on two by a third, and is left to them.
"""

import sys
from collections.abc import Callable, Generator
from contextlib import ContextDecorator
from functools import cache, wraps
from threading import Lock
from typing import Any, ParamSpec, TypeVar

from threadpoolctl import ThreadpoolController

_P = ParamSpec("_P")
_Y = TypeVar("_Y")
_T = TypeVar("_T")

# each brings a linear algebra of its own, and some are loaded late
_LIBRARIES = ("numpy", "scipy.linalg", "cv2")


@cache
def _controller(loaded: tuple[str, ...]) -> ThreadpoolController:
    """What steers the threads of the libraries that are loaded; finding them takes ten milliseconds."""
    return ThreadpoolController()


class _OneThread(ContextDecorator):
    """The limit is the process's and not the thread's: where work overlaps, it is lifted when the last has ended."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._inside = 0
        self._held: dict[tuple[str, ...], Any] = {}  # by the libraries that were loaded when it was set

    def __enter__(self) -> None:
        with self._lock:
            self._inside += 1
            loaded = tuple(name for name in _LIBRARIES if name in sys.modules)
            if loaded not in self._held:
                self._held[loaded] = _controller(loaded).limit(limits=1)

    def __exit__(self, *error: object) -> None:
        with self._lock:
            self._inside -= 1
            if self._inside == 0:
                for limit in reversed(self._held.values()):
                    limit.restore_original_limits()
                self._held.clear()


# as a context, `with one_thread:`, and as a decorator of functions; of generators see `steps_on_one_thread`
one_thread = _OneThread()


def steps_on_one_thread(
    work: Callable[_P, Generator[_Y, None, _T]],
) -> Callable[_P, Generator[_Y, None, _T]]:
    """A generator that works under `one_thread` from its first step until it ends or is given up."""

    @wraps(work)
    def steps(*args: _P.args, **kwargs: _P.kwargs) -> Generator[_Y, None, _T]:
        with one_thread:
            return (yield from work(*args, **kwargs))

    return steps
