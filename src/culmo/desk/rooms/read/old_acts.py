"""Bringing in charts that were painted before: from a picture to a sheet of the study, and on to its colours."""

from collections.abc import Callable, Generator
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from culmo.core.capture.judge import Expected
from culmo.core.capture.old_lines import placement_of
from culmo.core.capture.placement import Placement
from culmo.core.capture.sample import PAPER_LAB
from culmo.core.capture.settle import KnownBefore
from culmo.core.chart.old import OldChart
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array
from culmo.desk.picture_view import PICTURES
from culmo.desk.rooms.read import trial as trials
from culmo.desk.rooms.read.trial import PracticeSource, PracticeTrial
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.study import acts
from culmo.words import tr, trn

OPEN_JOB = "open an old chart"


class OldCharts:
    """What opens the window of old charts, and takes in what comes of it.

    Parameters
    ----------
    session : Session
    state : SheetState
    parent : QWidget, over which the window opens
    known : function that gives the colour of the bare paper, what the cells of the sheet at hand should look like, and all
        that was learned beside it
    start : function that starts the reading of a picture in the background, and takes what comes of it
    """

    def __init__(
        self,
        session: Session,
        state: SheetState,
        parent: QWidget,
        known: Callable[[], tuple[Array, dict[str, Expected], KnownBefore | None]],
        start: Callable[[Callable[[], Generator[float, None, PracticeTrial]]], None],
    ) -> None:
        self.session, self.state, self.parent = session, state, parent
        self._known, self._start = known, start

    def begin(self, trial: PracticeTrial | None) -> None:
        """Lay a chart over the picture on the table, or over one that is chosen."""
        if self.session.study is None:
            self.session.failed.emit(tr("open a study first; the chart becomes a sheet of it"))
        elif trial is not None:
            self.lay_over(trial)
        else:
            name, _ = QFileDialog.getOpenFileName(
                self.parent, tr("Open a picture of the old chart"), "", PICTURES
            )
            if name:
                self.open(Path(name))

    def open(self, path: Path) -> None:
        """Open a picture in the background, and lay a chart over it."""
        source = PracticeSource(path.name, path)
        self.session.told.emit(tr("Opening {name}", name=path.name))
        self.session.runner.start(
            OPEN_JOB,
            lambda: trials.trying(source, None, PAPER_LAB, {}),
            self.lay_over,
            self.session.failed.emit,
        )

    def lay_over(self, trial: PracticeTrial) -> None:
        """Ask for the lines and the names, and take the chart into the study."""
        from culmo.desk.rooms.read.old_dialog import OldChartDialog

        self.session.told.emit("")
        names = [paint.name for paint in self.session.paints]
        dialog = OldChartDialog(self.parent, trial.preview, names, Path(trial.name).stem)
        done, sheet, chart = dialog.exec(), dialog.sheet, dialog.meant
        dialog.deleteLater()
        if done and sheet is not None:
            self.take_in(trial, sheet, chart)

    def take_in(self, trial: PracticeTrial, sheet: Sheet, chart: OldChart) -> bool:
        """The chart becomes a sheet, with the paints that are new, and is read.

        Parameters
        ----------
        trial : PracticeTrial, its picture
        sheet : Sheet, as `old_sheet` makes it of the chart
        chart : OldChart, in pixels of the picture as it is shown
        """
        with self.session.guarded():
            known = {paint.name.casefold() for paint in self.session.paints}
            new: dict[str, str] = {}
            for cell in sheet.cells:
                for name in cell.recipe.names:
                    if name.casefold() not in known:
                        new.setdefault(name.casefold(), name)
            command = acts.add_sheets(self.session.file, [sheet], list(new.values()))
            added = [c.id for c in command.changes if c.table == "sheets" and c.before is None]
            if not self.session.do(command):
                return False
            self.session.selection.select_sheet(added[0])
            self._read(trial, placement_of(chart, sheet, trial.scale))
            if new:
                self.session.told.emit(
                    trn(
                        "{n} new paint: {names}",
                        "{n} new paints: {names}",
                        len(new),
                        names=", ".join(new.values()),
                    )
                )
            return True
        return False

    def _read(self, trial: PracticeTrial, placed: Placement) -> None:
        """Read the sheet that has just been made, where it was laid over the picture."""
        record = self.state.record
        if record is not None:
            paper, expected, known = self._known()
            again = replace(trial, sheet=record.sheet, reading=None, problem="")
            self._start(lambda: trials.read_again(again, paper, expected, None, placed, known=known))
