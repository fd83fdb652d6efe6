"""The real paint out of pictures of earlier days, taken beside all else after a study was opened."""

from functools import partial
from typing import TYPE_CHECKING

from culmo.errors import CulmoError
from culmo.words import trn

if TYPE_CHECKING:
    from culmo.desk.session import Session
    from culmo.study.older_pictures import Cut

JOB = "older pictures"


class OlderPictures:
    """Cuts one picture after the other; nobody asked for it, so nothing is said but what came of it."""

    def __init__(self, session: "Session") -> None:
        self._session = session
        self._left: list[int] = []
        self._cells = 0

    def begin(self) -> None:
        """Look for pictures of which no patch was kept."""
        from culmo.study.uncut import older_pictures

        session = self._session
        self._left, self._cells = [], 0
        if session.study is None or not session.study.disk.is_writable:
            return
        with session.guarded():
            self._left = older_pictures(session.study)
        if self._left:  # else what it takes to read pictures is not even loaded
            self._next()

    def stop(self) -> bool:
        """Leave the others to another day; says whether there was anything to stop."""
        self._left.clear()
        busy = self._session.runner.busy(JOB)
        self._session.runner.cancel(JOB)
        return busy

    def _next(self) -> None:
        from culmo.study.older_pictures import cutting_up, older_picture

        session = self._session
        while self._left and session.study is not None:
            picture = older_picture(session.study, self._left.pop(0))
            if picture is not None:
                session.runner.start(JOB, partial(cutting_up, picture), self._take, lambda _: self._next())
                return
        if self._cells:
            session.told.emit(
                trn(
                    "The real paint of {n} cell was taken out of pictures of earlier days",
                    "The real paint of {n} cells was taken out of pictures of earlier days",
                    self._cells,
                )
            )
            self._cells = 0
            session.learning.learn()  # of all of them at once

    def _take(self, cut: "Cut") -> None:
        from culmo.study.older_pictures import keep_cut

        session = self._session
        if session.study is None:
            return
        try:
            command = keep_cut(session.study, cut)
        except CulmoError:
            self._left.clear()
            return
        patches = sum(change.table == "patches" for change in command.changes)
        # no act of the painter: it adds to the record what was in it already, and is not to be undone
        if command.changes and not session.write(command, True):
            self._left.clear()  # what could not be saved is told, and tried on another day
            return
        self._cells += patches
        self._next()
