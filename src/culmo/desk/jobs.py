"""Background work: one runner; the core yields progress and knows no threads."""

import logging
import threading
from collections.abc import Callable, Generator
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from culmo.errors import CulmoError

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
                    self.voice.done.emit(self.key, self.turn, end.value)
                    return
                self.voice.progress.emit(self.key, self.turn, share)
        except CulmoError as error:
            self.voice.failed.emit(self.key, self.turn, str(error))
        except Exception as error:  # a defect in a thread would vanish unseen: it is logged whole, and told
            logging.getLogger("culmo").exception("background work %s failed", self.key)
            self.voice.failed.emit(self.key, self.turn, f"{type(error).__name__}: {error}")


class Runner(QObject):
    """Runs at most one piece of work for each key; newer work of a key replaces the older.

    Results of replaced or cancelled work are dropped. Newer work begins when the older has come to its next step and ended.
    """

    progress = Signal(str, float)
    finished = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
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
