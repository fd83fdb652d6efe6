"""What the painter does at the table, by a key each, and where the run stands."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QObject, Signal

from culmo.core.chart.run import CellMark, RunState
from culmo.desk.rooms.paint.model import WorkTable
from culmo.desk.session import Session
from culmo.study import paint_acts
from culmo.study.file import Command
from culmo.study.records import SheetRecord
from culmo.words import tr

Now = Callable[[], datetime]


class AtTable(QObject):
    """The acts of the run."""

    said = Signal()  # something is to be said otherwise
    moved = Signal()  # another cell is at hand

    def __init__(self, session: Session, now: Now, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self.now = session, now
        self.table: WorkTable | None = None
        session.opened.connect(self._clear)

    @property
    def state(self) -> RunState | None:
        """Where the run stands; None without a sheet."""
        return self.table.state if self.table is not None else None

    def _clear(self) -> None:
        self.table = None

    def lay(self, record: SheetRecord | None) -> None:
        """Lay a sheet on the table, or look at it anew."""
        study = self._session.study
        if record is None or study is None:
            self.table = None
            return
        if self.table is None or self.table.record.id != record.id or self.table.study is not study:
            self.table = WorkTable(study, record)
        elif self.table.record is not record:
            fresh = WorkTable(study, record, self.table)
            fresh.chosen, fresh.how = self.table.chosen, self.table.how
            self.table = fresh
        self.table.look(self.now())

    def _do(self, command: Command | None, else_say: str = "") -> None:
        if command is None:
            if else_say:
                self._session.told.emit(else_say)
            return
        self._session.do(command)

    def done(self) -> None:
        """The wash is laid."""
        table = self.table
        if table is None or table.state.current is None:
            return
        if table.state.wait_minutes == float("inf"):
            self._session.told.emit(tr("The layer below comes first"))
        elif table.state.wait_minutes > 0.0:
            self._session.told.emit(tr("Wet paint touches it; S puts it off, D says that it is dry"))
        else:
            with self._session.guarded():
                self._do(table.stroke(CellMark.DONE, self.now()))

    def skip(self) -> None:
        """The cell is left for the end."""
        if self.table is not None:
            with self._session.guarded():
                self._do(self.table.stroke(CellMark.SKIP, self.now()))

    def take_back(self) -> None:
        """The last stroke is taken back."""
        if self.table is not None:
            self._do(self.table.take_back(), tr("There is nothing to take back"))

    def paint_again(self) -> None:
        """The cell painted last is painted again once it is dry."""
        if self.table is not None:
            self._do(self.table.repaint(self.now()), tr("Nothing is painted yet"))

    def mark(self, mark: str) -> None:
        """A quick mark on the cell painted last."""
        if self.table is not None:
            self._do(self.table.mark(mark), tr("Nothing is painted yet"))
        self.said.emit()

    def choose(self, cell_id: str) -> None:
        """Paint a cell out of turn; the rest is ordered anew."""
        if self.table is not None:
            self.table.choose(cell_id)
            if self.table.chosen is None:
                self._session.told.emit(tr("That cell is painted; R paints the last one again"))
            self.moved.emit()

    def step(self, by: int) -> None:
        """The cell before or after in the order of work."""
        if self.table is not None:
            self.table.step(by)
            self.moved.emit()

    def next_how(self) -> None:
        """How the next ones are mixed."""
        if self.table is not None:
            self._session.told.emit(
                tr("From now on: {value}", value=paint_acts.HOW_WORDS[self.table.next_how()])
            )
            self.said.emit()

    def is_dry(self) -> None:
        """What the clock holds for wet is dry."""
        if self.table is not None:
            self._do(self.table.is_dry(self.now()), tr("Nothing is wet"))

    def dry_longer(self, minutes: float) -> None:
        """Another drying time."""
        if self.table is not None:
            self._do(
                self.table.dry_longer(minutes), tr("The drying time can be set from the first stroke on")
            )

    def next_paper(self) -> None:
        """Another kind of paper."""
        if self.table is not None:
            self._do(self.table.next_paper(), tr("The paper can be set from the first stroke on"))

    def water(self) -> None:
        """Clean water stands on the table."""
        if self.table is not None:
            at = self.now().isoformat(timespec="seconds")
            command = paint_acts.change_water(self._session.file, self.table.record.id, at)
            self._do(command, tr("The water is still clean"))

    def rest(self) -> None:
        """A break, or the end of one."""
        if self.table is not None:
            at = self.now().isoformat(timespec="seconds")
            self._do(
                paint_acts.pause(self._session.file, self.table.record.id, at),
                tr("The run has not begun yet"),
            )

    def note(self, stroke: int, text: str) -> None:
        """A word with a stroke."""
        if self.table is not None:
            self._do(self.table.note(stroke, text))
