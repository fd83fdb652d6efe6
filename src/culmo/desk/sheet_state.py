"""The selected sheet with its prediction and its record, worked out once for all rooms when the first of them asks."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from culmo.desk.session import Session

if TYPE_CHECKING:
    from culmo.core.colour.spectral import Array
    from culmo.core.paint.predict import Prediction
    from culmo.desk.drawing.cell_look import CellLook
    from culmo.desk.drawing.seen import Seen
    from culmo.study.file import Row
    from culmo.study.records import CellRecord, SheetRecord


class SheetState(QObject):
    """What all rooms know of the selected sheet."""

    updated = Signal()
    cell_selected = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self._found: Seen | None = None
        self._stale = True
        self._current = ""
        for signal in (
            session.opened,
            session.changed,
            session.learning.learned,
            session.selection.sheet_changed,
        ):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """Something changed: the sheet is read anew, and predicted, when a room next asks for it."""
        if self.session.study is None:
            return
        self._stale = True
        self.updated.emit()

    @property
    def _seen(self) -> "Seen | None":
        session = self.session
        if self._stale and session.study is not None:
            from culmo.desk.drawing.seen import see

            self._stale = False
            before, self._found = self._found, None
            if session.selection.sheet_id is not None:
                self._found = see(session.file, session.selection.sheet_id, session.learning.estimate, before)
        return self._found

    @property
    def record(self) -> "SheetRecord | None":
        """The sheet with its cells; None while there is none."""
        return self._seen.record if self._seen is not None else None

    @property
    def prediction(self) -> "Prediction | None":
        """What its cells will look like; None while nothing is known."""
        return self._seen.prediction if self._seen is not None else None

    def foretold(self, cell_id: str) -> "tuple[Array, float] | None":
        """The colour of a cell, CIELAB, and the radius that holds nine in ten; None where nothing is known of it."""
        if self.prediction is None or self.entry(cell_id) is None:
            return None
        return self.prediction.at(self.place(cell_id))

    @property
    def read(self) -> dict[str, tuple[float, float, float]]:
        """(L, a, b) as read, by cell id."""
        return self._seen.read if self._seen is not None else {}

    @property
    def wet(self) -> dict[str, tuple[float, float, float]]:
        """(L, a, b) of the wet look, by cell id."""
        return self._seen.wet if self._seen is not None else {}

    @property
    def grain(self) -> dict[str, float]:
        """How much a cell granulates, where that was read."""
        return self._seen.grain if self._seen is not None else {}

    @property
    def painted(self) -> "dict[str, Row]":
        """The last stroke of the painted cells."""
        return self._seen.painted if self._seen is not None else {}

    @property
    def looks(self) -> "dict[str, CellLook]":
        """How each cell is drawn."""
        return self._seen.looks if self._seen is not None else {}

    @property
    def current(self) -> str:
        """The selected cell's id; empty where none is selected on this sheet."""
        if self._current and (self.record is None or self._current not in self.record.by_cell()):
            self._current = ""
        return self._current

    @current.setter
    def current(self, cell_id: str) -> None:
        self._current = cell_id

    def entry(self, cell_id: str) -> "CellRecord | None":
        """The record of a cell, or None."""
        if self.record is None:
            return None
        return self.record.by_cell().get(cell_id)

    def place(self, cell_id: str) -> int:
        """A cell's place in the sheet and so in the prediction."""
        assert self.record is not None
        return next(i for i, entry in enumerate(self.record.cells) if entry.cell.id == cell_id)

    def select(self, cell_id: str) -> None:
        """Select a cell in every room."""
        self.current = cell_id
        self.cell_selected.emit(cell_id)
