"""The selected sheet with its prediction and its record, worked out once for all rooms."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from culmo.desk.session import Session

if TYPE_CHECKING:
    from culmo.core.paint.predict import Prediction
    from culmo.desk.drawing.cell_look import CellLook
    from culmo.study.file import Row
    from culmo.study.records import CellRecord, SheetRecord


class SheetState(QObject):
    """What all rooms know of the selected sheet."""

    updated = Signal()
    cell_selected = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.record: SheetRecord | None = None
        self.prediction: Prediction | None = None
        self.read: dict[str, tuple[float, float, float]] = {}
        self.grain: dict[str, float] = {}
        self.painted: dict[str, Row] = {}
        self.looks: dict[str, CellLook] = {}
        self.current = ""
        for signal in (session.opened, session.changed, session.learned, session.sheet_changed):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """Read the sheet anew and predict it."""
        if self.session.study is None:
            return
        from culmo.desk.drawing.seen import see

        session = self.session
        seen = see(session.file, session.sheet_id, session.estimate) if session.sheet_id is not None else None
        self.record = seen.record if seen is not None else None
        self.prediction = seen.prediction if seen is not None else None
        self.painted = seen.painted if seen is not None else {}
        self.read = seen.read if seen is not None else {}
        self.grain = seen.grain if seen is not None else {}
        self.looks = seen.looks if seen is not None else {}
        if self.record is None or self.current not in self.record.by_cell():
            self.current = ""
        self.updated.emit()

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
