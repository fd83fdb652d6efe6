"""The field for a word about the cell painted last."""

from collections.abc import Callable

from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.paint.at_table import AtTable
from culmo.desk.session import Session
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Entry
from culmo.study import paint_acts
from culmo.study.file import Row
from culmo.words import tr


@guarded
class StrokeWord(Entry):
    """A word that is kept by Enter or as the keys go elsewhere, with the stroke for which it was begun.

    Parameters
    ----------
    session : Session
    work : AtTable
    back : function that gives the keys back to the room
    """

    def __init__(self, session: Session, work: AtTable, back: Callable[[], object]) -> None:
        super().__init__(tr("A word about it, then Enter"), tr("Note on the cell painted last"))
        self._session, self._work, self._back = session, work, back
        self._stroke: int | None = None
        self.editingFinished.connect(self._keep)
        self.textEdited.connect(self._typed)
        self.hide()

    def begin(self, row: Row) -> None:
        """Write about a stroke."""
        self._stroke = row["id"]
        self.setText(row["note"])
        self.show()
        self.setFocus()

    def drop(self) -> None:
        """Nothing is to be said after all."""
        self._session.unsaved.note(f"word {self._stroke}", None)
        self._stroke = None
        self.hide()
        self._back()

    def type_again(self, stroke: str, text: str) -> bool:
        """A word that was begun on another day is kept with its stroke; says whether that is still there."""
        if not stroke.isdigit() or not self._session.file.rows("strokes", "id = ?", (int(stroke),)):
            return False
        return self._session.do(paint_acts.note_stroke(self._session.file, int(stroke), text))

    def _typed(self, text: str) -> None:
        """A word is being written: it is kept as the keys leave it, and as a draft till then."""
        if self._stroke is not None:
            entry = Typed(tr("a word about a cell"), self._save, RoomName.PAINT, lambda: text)
            self._session.unsaved.note(f"word {self._stroke}", entry)

    def _save(self) -> bool:
        self._keep()
        return True

    def _keep(self) -> None:
        stroke, self._stroke = self._stroke, None
        text, at_work = self.text(), self.hasFocus()
        self.hide()
        if at_work:
            self._back()
        if self._work.table is not None and stroke is not None:
            self._session.unsaved.note(f"word {stroke}", None)
            self._work.note(stroke, text)
