"""Colours that were typed for cells and are not saved: each stays with its cell."""

from PySide6.QtCore import QObject

from culmo.core.colour.srgb import lab_from_text
from culmo.desk.room_names import RoomName
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.unsaved import Typed
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.words import tr


class TypedColours(QObject):
    """By cell what was typed, told to the session, saved from wherever the painter is, and there again on another day."""

    def __init__(self, session: Session, state: SheetState) -> None:
        super().__init__(session)
        self.session, self.state = session, state
        self._texts: dict[int, str] = {}
        session.opened.connect(self._texts.clear)

    def of(self, cell_id: int, saved: str) -> str:
        """What stands in the field of a cell: what was typed for it, else what is saved."""
        return self._texts.get(cell_id, saved)

    def note(self, cell_id: int, sheet_id: int, spoken: str, text: str) -> None:
        """A colour is typed for a cell, or wiped out."""
        if text.strip():
            self._texts[cell_id] = text
        else:
            self._texts.pop(cell_id, None)
        entry = Typed(
            tr("the colour of {cell}", cell=spoken),
            lambda: self._save(cell_id, sheet_id),
            RoomName.READ,
            lambda: text,
        )
        self.session.unsaved.note(f"reading {cell_id}", entry if text.strip() else None)

    def take(self, cell_id: int) -> str | None:
        """The text of a cell that is being saved, so that the cell is shown anew."""
        return self._texts.pop(cell_id, None)

    def settle(self, cell_id: int, typed: str | None, saved: bool) -> None:
        """Whether what was taken is saved; else it stands there again."""
        if saved:
            self.session.unsaved.note(f"reading {cell_id}", None)
        elif typed is not None:
            self._texts[cell_id] = typed

    def _save(self, cell_id: int, sheet_id: int) -> bool:
        """Save a colour for a cell that may not be on view; what is none is shown, with the reason."""
        try:
            lab = lab_from_text(self._texts.get(cell_id, ""))
            command = acts.read_cell(self.session.file, sheet_id, cell_id, lab)
        except CulmoError as error:
            self.session.failed.emit(str(error))
            self.session.selection.select_sheet(sheet_id)
            cells = self.state.record.cells if self.state.record is not None else ()
            self.state.select(next((entry.cell.id for entry in cells if entry.id == cell_id), ""))
            return False
        typed = self.take(cell_id)
        saved = self.session.do(command)
        self.settle(cell_id, typed, saved)
        return saved

    def type_again(self, cell: str, text: str) -> bool:
        """A colour that was typed on another day; says whether its cell is still there."""
        rows = self.session.file.rows("cells", "id = ?", (int(cell),)) if cell.isdigit() else []
        if rows:
            self.note(rows[0]["id"], rows[0]["sheet_id"], records.spoken_cell(rows[0]), text)
        return bool(rows)
