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
        from culmo.desk.rooms.plan.model import cell_looks
        from culmo.study import records

        session = self.session
        self.record = session.sheet()
        self.prediction, self.read, self.painted, self.looks, self.grain = None, {}, {}, {}, {}
        record = self.record
        if record is not None and session.study is not None:
            names = {entry.id: entry.cell.id for entry in record.cells}
            cells = record.sheet.cells
            self.prediction = session.predict(
                [cell.recipe for cell in cells], [cell.ground for cell in cells]
            )
            self.painted = {
                names[i]: row
                for i, row in records.painted_cells(session.study, record.id).items()
                if row["act"] == "done"
            }
            rows = records.read_cells(session.study, record.id)
            self.read = {names[i]: (row["L"], row["a"], row["b"]) for i, row in rows.items() if i in names}
            self.grain = {
                names[i]: row["granulation"]
                for i, row in rows.items()
                if i in names and row["granulation"] is not None
            }
            keepers = {entry.cell.id for entry in record.cells if entry.keeper}
            self.looks = cell_looks(cells, self.prediction, self.read, set(self.painted), keepers)
            if self.current not in names.values():
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
