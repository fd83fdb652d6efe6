"""Background work: one runner; the core yields progress and knows no threads."""

import logging
import threading
from collections.abc import Callable, Generator
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from culmo.errors import CulmoError

GRACE_MS = 25.0  # what is done so soon is waited for: it would only flicker
Work = Callable[[], Generator[float, None, Any]]


class _Voice(QObject):
    progress = Signal(str, int, float)
    done = Signal(str, int, object)
    failed = Signal(str, int, str)


class _Task(QRunnable):
    def __init__(
        self, key: str, turn: int, work: Work, voice: _Voice, before: "threading.Event | None"
    ) -> None:
        super().__init__()
        self.key, self.turn, self.work, self.voice = key, turn, work, voice
        self.stop, self.ended, self.before = threading.Event(), threading.Event(), before
        self.outcome: tuple[bool, Any] | None = (
            None  # whether it came to its end, and its result or its trouble
        )

    def run(self) -> None:
        try:
            # work that was told to stop goes on to its next step; two of a kind at once would take twice the memory
            if self.before is not None:
                self.before.wait()
            self._work()
        finally:
            self.ended.set()

    def _work(self) -> None:
        try:
            steps = self.work()
            while not self.stop.is_set():
                try:
                    share = next(steps)
                except StopIteration as end:
                    self.outcome = True, end.value
                    self.voice.done.emit(self.key, self.turn, end.value)
                    return
                self.voice.progress.emit(self.key, self.turn, share)
        except CulmoError as error:
            self._fail(str(error))
        except Exception as error:  # a defect in a thread would vanish unseen: it is logged whole, and told
            logging.getLogger("culmo").exception("background work %s failed", self.key)
            self._fail(f"{type(error).__name__}: {error}")

    def _fail(self, message: str) -> None:
        self.outcome = False, message
        self.voice.failed.emit(self.key, self.turn, message)


class Runner(QObject):
    """Runs at most one piece of work for each key; newer work of a key replaces the older.

    Results of replaced or cancelled work are dropped. Newer work begins when the older has come to its next step and ended.
    """

    progress = Signal(str, float)
    finished = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.grace_ms = GRACE_MS
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(2)
        self._voice = _Voice()
        self._voice.progress.connect(self._on_progress)
        self._voice.done.connect(self._on_done)
        self._voice.failed.connect(self._on_failed)
        self._turn = 0
        self._running: dict[str, tuple[_Task, Callable[[Any], None], Callable[[str], None]]] = {}
        self._ended: dict[str, threading.Event] = {}  # of the last task of each key, stopped or not

    def start(self, key: str, work: Work, done: Callable[[Any], None], failed: Callable[[str], None]) -> None:
        """Begin work; `done` gets its result in the window's thread."""
        self.cancel(key)
        self._turn += 1
        task = _Task(key, self._turn, work, self._voice, self._ended.get(key))
        self._ended[key] = task.ended
        self._running[key] = (task, done, failed)
        self._pool.start(task)

    def wait_a_moment(self, key: str) -> None:
        """Wait for work of this key as long as nobody feels it."""
        self.wait(key, self.grace_ms)

    def wait(self, key: str, milliseconds: float | None = None) -> bool:
        """Wait a moment for work of this key; where it ends in time its result is taken at once. Says whether it has ended.

        Parameters
        ----------
        key : str
        milliseconds : float, at most; None for as long as it takes
        """
        entry = self._running.get(key)
        if entry is None:
            return True
        task = entry[0]
        if (
            not task.ended.wait(None if milliseconds is None else milliseconds / 1000.0)
            or task.outcome is None
        ):
            return False
        fine, result = task.outcome
        (self._on_done if fine else self._on_failed)(key, task.turn, result)
        return True

    def cancel(self, key: str) -> None:
        """Stop work of this key; its result is dropped."""
        entry = self._running.pop(key, None)
        if entry:
            entry[0].stop.set()
            self.finished.emit(key)

    def busy(self, key: str | None = None) -> bool:
        """Whether work (of this key) is under way."""
        return bool(self._running) if key is None else key in self._running

    def close(self) -> None:
        """Cancel everything and wait for the threads."""
        for key in list(self._running):
            self.cancel(key)
        self._pool.waitForDone()

    def _current(self, key: str, turn: int) -> bool:
        entry = self._running.get(key)
        return entry is not None and entry[0].turn == turn

    def _on_progress(self, key: str, turn: int, share: float) -> None:
        if self._current(key, turn):
            self.progress.emit(key, share)

    def _on_done(self, key: str, turn: int, result: object) -> None:
        if self._current(key, turn):
            _, done, _ = self._running.pop(key)
            done(result)
            self.finished.emit(key)

    def _on_failed(self, key: str, turn: int, message: str) -> None:
        if self._current(key, turn):
            _, _, failed = self._running.pop(key)
            failed(message)
            self.finished.emit(key)
