"""A sheet with its prediction and its record, as it is drawn: for the rooms, the Daybook's pictures, files and the book."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from culmo.core.paint.readings import Trust
from culmo.desk.drawing.cell_look import CellLook, cell_looks
from culmo.study import records
from culmo.study.patches import patches_of

if TYPE_CHECKING:
    from culmo.core.paint.estimate import Estimate
    from culmo.core.paint.predict import Prediction
    from culmo.study.file import Row, Study


@dataclass(frozen=True)
class Seen:
    """What is known of a sheet.

    Attributes
    ----------
    record : SheetRecord
    prediction : Prediction, or None while nothing is known
    read : from cell id to (L, a, b)
    grain : from cell id to how much it granulates, where that was read
    painted : from cell id to the last stroke
    looks : from cell id to CellLook
    estimate : Estimate that the prediction comes from
    """

    record: records.SheetRecord
    prediction: "Prediction | None" = None
    read: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    wet: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    grain: dict[str, float] = field(default_factory=dict)
    painted: "dict[str, Row]" = field(default_factory=dict)
    looks: dict[str, CellLook] = field(default_factory=dict)
    estimate: "Estimate | None" = None


def see(study: "Study", sheet_id: int, estimate: "Estimate | None", before: Seen | None = None) -> Seen:
    """Read a sheet and predict it.

    Parameters
    ----------
    study : Study
    sheet_id : int
    estimate : Estimate, or None while nothing is known
    before : what was seen last; its prediction stands where neither the sheet nor the estimate has changed
    """
    record = records.sheet_record(study, sheet_id)
    names = {entry.id: entry.cell.id for entry in record.cells}
    cells = record.sheet.cells
    prediction = None
    if before is not None and before.estimate is estimate and before.record.sheet == record.sheet:
        prediction = before.prediction
    elif estimate is not None:
        from culmo.core.paint.predict import predict_known

        prediction = predict_known(
            estimate,
            [cell.recipe for cell in cells],
            [cell.ground for cell in cells],
            record.sheet.paper.name,
        )
    strokes = records.painted_cells(study, sheet_id)
    painted = {names[i]: row for i, row in strokes.items() if row["act"] == "done"}
    rows = {names[i]: row for i, row in records.read_cells(study, sheet_id).items() if i in names}
    read = {name: (row["L"], row["a"], row["b"]) for name, row in rows.items()}
    wet_rows = records.wet_cells_read(study, sheet_id)
    wet = {names[i]: (row["L"], row["a"], row["b"]) for i, row in wet_rows.items() if i in names}
    keepers = {entry.cell.id for entry in record.cells if entry.keeper}
    doubtful = {name for name, row in rows.items() if row["trust"] == Trust.DOUBTFUL}
    real = patches_of(study, [row["id"] for row in rows.values()])
    patches = {name: real[row["id"]] for name, row in rows.items() if row["id"] in real}
    grain = {name: row["granulation"] for name, row in rows.items() if row["granulation"] is not None}
    # what a patch shows is in scale with the paper, and goes before what was noted of a picture in pixels
    grain |= {name: patch.texture.contrast for name, patch in patches.items() if patch.texture is not None}
    looks = cell_looks(cells, prediction, read, set(painted), keepers, doubtful, patches)
    return Seen(record, prediction, read, wet, grain, painted, looks, estimate)
