"""What a box can and can not do, worked out in the background for the pages of the Box room that ask for it."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from culmo.desk.rooms.box.ask_row import AskRow
from culmo.desk.session import Session
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.rooms.box.findings import Findings
    from culmo.study.records import Paint

JOB = "findings"


class Finder:
    """Works out findings, and keeps them for as long as neither the estimate nor what is asked has changed.

    Parameters
    ----------
    session : Session
    asks : AskRow, of what the paints that count must be
    say : function that says a sentence on the page on view
    fill : function that fills it with what was found
    """

    def __init__(
        self, session: Session, asks: AskRow, say: Callable[[str], None], fill: Callable[[], None]
    ) -> None:
        self.session, self.asks, self._say, self._fill = session, asks, say, fill
        self.found: Findings | None = None
        self._found_for: object = None
        session.stoppers.append(self.stop)

    def forget(self) -> None:
        """The box, or what is asked, is another one."""
        self._found_for = None

    def want(self, narrowed: bool) -> None:
        """Work out what is shown, where that is not done for these paints and this estimate.

        Parameters
        ----------
        narrowed : bool, whether only paints count that are what is asked for
        """
        session = self.session
        estimate = session.learning.estimate
        if estimate is None:
            self._say(tr("Enter paints first; what they can do together stands here."))
            return
        asked = self.asks.asked() if narrowed else ()
        if self._found_for == (id(estimate), asked):
            self._fill()
            return
        known = [paint for paint in session.paints if paint.name.casefold() in estimate.index]
        wished = [paint for paint in known if paint.status == "wished"]
        owned = [paint.name for paint in session.paints if paint.status != "wished"]
        inside = self._inside(bool(asked))
        if inside is None:
            return
        from culmo.desk.rooms.box.findings import work_out

        self._found_for = id(estimate), asked
        self.found = None
        self._say(tr("Mixing every pair…"))
        labels, unread = session.learning.labels, frozenset(session.learning.unread)
        session.runner.start(
            JOB,
            lambda: work_out(estimate, inside, wished, owned, labels, unread),
            self._on_found,
            self._on_failed,
        )

    def _inside(self, asked: bool) -> "list[Paint] | None":
        """The paints of the box that count; None where there are none, which is said."""
        learning = self.session.learning
        index = learning.estimate.index if learning.estimate is not None else {}
        in_use = self.session.selection.paints_in_use()
        inside = [paint for paint in in_use if paint.status != "wished" and paint.name.casefold() in index]
        if not inside:
            self._say(tr("This box is empty; lay paints in it, or choose all paints at the left."))
            return None
        if not asked:
            return inside
        inside = [paint for paint in inside if self.asks.passes(learning.labels[paint.name.casefold()])]
        if not inside:
            self._found_for = None
            self._say(tr("No paint of this box is all that is asked for."))
            return None
        return inside

    @property
    def broken_off(self) -> bool:
        """Whether nothing is found, nor looked for: after a stop or a failure."""
        return self._found_for is None

    def stop(self) -> bool:
        """Break off what is being worked out; says whether there was anything."""
        if not self.session.runner.busy(JOB):
            return False
        self.session.runner.cancel(JOB)
        self._found_for = None
        self._say(tr("Stopped. Choose the page again to have it worked out."))
        return True

    def _on_failed(self, why: str) -> None:
        self._found_for = None
        self._say(tr("This could not be worked out. Choose the page again to try once more."))
        self.session.failed.emit(why)

    def _on_found(self, found: "Findings") -> None:
        self.found = found
        self._fill()
