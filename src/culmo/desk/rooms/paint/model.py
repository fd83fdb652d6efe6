"""Paint room: which cell is next, what may be painted now, and how far it has come."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from culmo.core.chart.order import neighbours
from culmo.core.chart.sheet import Cell
from culmo.study.file import Row
from culmo.study.records import SheetRecord

DRY_MINUTES = 15.0


@dataclass(frozen=True)
class RunState:
    """Where a run stands.

    Attributes
    ----------
    current : Cell to paint now, or None when all are painted
    upcoming : the next three
    done, total : int, painted and to be painted
    skipped : int
    wait_minutes : float, until the current cell may be painted; 0 when it may now
    same_puddle : bool, whether the current cell takes the puddle of the last
    minutes_left : float, at the painter's own pace so far
    """

    current: Cell | None
    upcoming: tuple[Cell, ...]
    done: int
    total: int
    skipped: int
    wait_minutes: float
    same_puddle: bool
    minutes_left: float


class Run:
    """A sheet being painted; remembers nothing of its own: all is in the study."""

    def __init__(self, record: SheetRecord) -> None:
        self.record = record
        self._beside = neighbours(record.sheet.cells)
        self._order = record.sheet.in_order()

    def state(self, strokes: Mapping[int, Row], now: datetime) -> RunState:
        """Where the run stands.

        Parameters
        ----------
        strokes : the last stroke of each cell, by the cell's row id
        now : datetime with an offset
        """
        names = {entry.id: entry.cell.id for entry in self.record.cells}
        touched = {names[i]: row for i, row in strokes.items()}
        done = {cell_id for cell_id, row in touched.items() if row["act"] == "done"}
        fresh = [cell for cell in self._order if cell.id not in touched]
        skipped = [cell for cell in self._order if cell.id in touched and cell.id not in done]
        left = fresh + skipped
        wet_until = {
            cell_id: datetime.fromisoformat(row["at"]) + timedelta(minutes=DRY_MINUTES)
            for cell_id, row in touched.items()
            if row["act"] == "done"
        }
        current = left[0] if left else None
        wait = 0.0
        if current is not None:
            ends = [wet_until[other] for other in self._beside[current.id] if other in wet_until]
            wait = max([0.0] + [(end - now).total_seconds() / 60.0 for end in ends])
        last = max(touched.values(), key=lambda row: (row["at"], row["id"]), default=None)
        before = self.record.by_cell()[names[last["cell_id"]]].cell if last else None
        same = bool(before and current and _puddle(before) == _puddle(current))
        pace = self._pace([row for row in touched.values() if row["act"] == "done"])
        return RunState(
            current, tuple(left[1:4]), len(done), len(self._order), len(skipped), wait, same, pace * len(left)
        )

    def _pace(self, rows: list[Row]) -> float:
        """Minutes a cell, the middle of the painter's own; pauses of more than ten minutes do not count."""
        moments = sorted(datetime.fromisoformat(row["at"]) for row in rows)
        steps = [(b - a).total_seconds() / 60.0 for a, b in pairwise(moments)]
        steady = sorted(step for step in steps if 0.02 < step < 10.0)
        return steady[len(steady) // 2] if len(steady) >= 5 else 0.7


def _puddle(cell: Cell) -> object:
    return cell.recipe.key.with_wash(1.0)


def recipe_words(cell: Cell) -> list[str]:
    """The recipe in large lines: one paint a line, with its parts."""
    if not cell.recipe.layers:
        return ["leave bare"]
    layer = cell.recipe.layers[0]
    if len(layer.parts) == 1:
        return [layer.parts[0].name]
    return [f"{part.parts:g}  {part.name}" for part in layer.parts]


def wash_words(cell: Cell) -> str:
    """How thin."""
    wash = cell.recipe.layers[0].wash if cell.recipe.layers else 1.0
    if wash >= 0.99:
        return "full wash"
    if abs(wash - 0.2) < 1e-9:
        return "tint: one of the puddle to four of water"
    return f"thin the puddle to {wash:g} of its strength"


def place_words(cell: Cell) -> str:
    """Where on the sheet, in words where the id tells row and column."""
    name = cell.id
    if len(name) == 6 and name[0] == "r" and name[3] == "c":
        return f"row {int(name[1:3])}, column {int(name[4:6])}"
    return name


def clock_words(minutes: float) -> str:
    """Minutes as a painter says them."""
    if minutes < 1.0:
        return "less than a minute"
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d}" if hours else f"{rest} minute{'s' if rest != 1 else ''}"
