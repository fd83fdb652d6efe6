"""The sheet that is changed, while its new layout is tried: what was recorded of it, and how that is shown meanwhile."""

from culmo.core.chart.sheet import Sheet
from culmo.core.chart.versions import carried
from culmo.core.paint.predict import Prediction
from culmo.desk.drawing.cell_look import CellLook, cell_looks
from culmo.desk.rooms.plan.trying import Painted
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.study import records


def painted_before(session: Session, state: SheetState, trial_of: int | None) -> Painted | None:
    """The sheet that is changed, with what was recorded of it; None where it is a new one."""
    record = state.record
    if trial_of is None or record is None or record.id != trial_of:
        return None
    return Painted(record.sheet, records.touched_cells(session.file, trial_of))


def looks_of_trial(
    state: SheetState, trial: Sheet, trial_of: int | None, prediction: Prediction | None
) -> dict[str, CellLook]:
    """How the cells of a layout that is tried are drawn: what is painted keeps its record.

    Parameters
    ----------
    state : SheetState
    trial : Sheet
    trial_of : int or None, the sheet that it changes
    prediction : Prediction of it, or None
    """
    record = state.record
    before = {}
    if trial_of is not None and record is not None and record.id == trial_of:
        before = carried(record.sheet, trial)
    read = {new: state.read[old] for new, old in before.items() if old in state.read}
    painted = {new for new, old in before.items() if old in state.painted}
    return cell_looks(trial.cells, prediction, read, painted)
