"""A layout that is tried: laid out and predicted beside the window's own work, while the last one stands."""

import json
import re
import time
from collections.abc import Callable, Collection, Generator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.chart.aids import Aids
from culmo.core.chart.order import WorkCost, ordering, work_cost
from culmo.core.chart.page import LEAST_MM
from culmo.core.chart.papers import Paper
from culmo.core.chart.plans import Advice, Plan, advice, eased_words, lay_out
from culmo.core.chart.sheet import Cell, Sheet, sheet_from_dict, sheet_to_dict
from culmo.core.chart.versions import carried, moved_onto
from culmo.core.chart.washes import Traits
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import Prediction, predict_known
from culmo.core.steps import scaled
from culmo.errors import CulmoError
from culmo.words import capital, tr, trn

_ROW_AND_COLUMN = re.compile(r"r(\d+)c(\d+)")
_PATIENCE_S = 5.0
_MOST_TOLD = 6  # rows whose steps are told one by one


@dataclass(frozen=True)
class Painted:
    """The sheet that is changed, and what was recorded of it.

    Attributes
    ----------
    sheet : Sheet, as it is
    cells : collection of str, the ids of the cells that something was recorded of
    """

    sheet: Sheet
    cells: Collection[str] = ()


@dataclass(frozen=True)
class Predicted:
    """What the cells of a sheet will look like; it stands as long as the mixes and the estimate do.

    Attributes
    ----------
    cells : tuple of Cell that it was made for
    estimate : Estimate that it comes from, or None
    prediction : Prediction, or None while nothing is known
    paper : str, the name of the paper that they lie on
    """

    cells: tuple[Cell, ...] = ()
    estimate: Estimate | None = None
    prediction: Prediction | None = None
    paper: str = ""

    def of(self, sheet: Sheet, estimate: Estimate | None) -> "Predicted":
        """The prediction of a sheet: this one where it is of the same mixes on that paper by the same estimate."""
        cells, same = sheet.cells, (estimate is self.estimate and sheet.paper.name == self.paper)
        if same and cells is self.cells:
            return self
        if same and len(cells) == len(self.cells):
            pairs = zip(cells, self.cells, strict=True)
            if all(
                (one.recipe is other.recipe or one.recipe == other.recipe) and one.ground == other.ground
                for one, other in pairs
            ):
                return replace(self, cells=cells)
        prediction = None
        if estimate is not None:
            recipes, grounds = [cell.recipe for cell in cells], [cell.ground for cell in cells]
            prediction = predict_known(estimate, recipes, grounds, sheet.paper.name)
        return Predicted(cells, estimate, prediction, sheet.paper.name)


@dataclass(frozen=True)
class Trial:
    """What came of trying a plan.

    Attributes
    ----------
    sheets : tuple of Sheet; empty where it can not be
    refused : str, why it can not be
    hints : tuple of Advice
    note : str, what gave way, and what becomes of what was painted
    predicted : Predicted, of the page on view
    costs : tuple of WorkCost, of each sheet
    text : str, the sheets as they are kept for another day
    """

    sheets: tuple[Sheet, ...] = ()
    refused: str = ""
    hints: tuple[Advice, ...] = ()
    note: str = ""
    predicted: Predicted = Predicted()
    costs: tuple[WorkCost, ...] = ()
    text: str = ""


@dataclass(frozen=True)
class TrialWish:
    """A plan to be tried, with all that is asked meanwhile.

    Attributes
    ----------
    plan : Plan
    aids : Aids
    page : int, the page on view
    before : Painted sheet that is changed, or None
    owned : sequence of Paper, the painter's own
    estimate : Estimate, or None while nothing is known
    predicted : Predicted, of what is on view
    """

    plan: Plan
    aids: Aids
    page: int = 0
    before: Painted | None = None
    owned: Sequence[Paper] = ()
    estimate: Estimate | None = None
    predicted: Predicted = Predicted()

    def trying(self, advised: bool = True) -> Generator[float, None, Trial]:
        """Lay out and predict; yields how far it is.

        Parameters
        ----------
        advised : bool, whether advice is wanted; while something is dragged it is not
        """
        yield 0.0
        try:
            sheets, words = self._laid_out()
        except CulmoError as error:
            yield 0.5
            hints = advice(self.plan, self.aids, self.owned) if advised else []
            return Trial(refused=str(error), hints=tuple(hints))
        yield 0.5
        shown = sheets[min(self.page, len(sheets) - 1)]
        predicted = self.predicted.of(shown, self.estimate)
        yield 0.8
        small = bool(sheets[0].cells) and min(sheets[0].cells[0].box_mm[2:]) < LEAST_MM
        wished = self.plan.page.cell_mm is not None  # a small cell that was wished for needs no advice
        hints = advice(self.plan, self.aids, self.owned) if advised and small and not wished else []
        even = even_words(shown, predicted.prediction) if getattr(self.plan.options, "even", False) else ""
        notes = [line for line in (words, eased_words(sheets), even) if line]
        if not advised:
            return Trial(tuple(sheets), predicted=predicted)
        costs = tuple(work_cost(sheet) for sheet in sheets)
        return Trial(tuple(sheets), "", tuple(hints), "\n".join(notes), predicted, costs, sheets_text(sheets))

    def _laid_out(self) -> tuple[list[Sheet], str]:
        """The sheets of the plan, and what becomes of what was painted on the sheet that is changed, in words.

        Where it can be, what was painted stays where it lies on its paper, and the new cells come beside it.
        """
        sheets, before = lay_out(self.plan, self.aids), self.before
        if before is None or not before.cells or len(sheets) > 1:
            return sheets, ""
        for sheet in (*self._same_size(before.sheet), sheets[0]):
            moved = moved_onto(before.sheet, sheet, before.cells, self.aids.measure)
            if moved is not None:
                return [moved], _more_words(before.sheet, moved)
        return sheets, _kept_words(before, sheets[0])

    def _same_size(self, before: Sheet) -> list[Sheet]:
        """The plan with cells as large as they are on the paper, where no size is wished; nothing where that can not be."""
        across, down = before.ruling.vertical_mm, before.ruling.horizontal_mm
        if self.plan.page.cell_mm is not None or len(across) < 2 or len(down) < 2:
            return []
        size = across[1] - across[0], down[1] - down[0]
        try:
            return lay_out(replace(self.plan, page=replace(self.plan.page, cell_mm=size)), self.aids)[:1]
        except CulmoError:
            return []


def _more_words(before: Sheet, after: Sheet) -> str:
    more = len({cell.id for cell in after.cells} - {cell.id for cell in before.cells})
    if not more:
        return tr("What is painted stays in its place.")
    return trn(
        "What is painted stays in its place; {n} cell comes on the same paper.",
        "What is painted stays in its place; {n} cells come on the same paper.",
        more,
    )


def _kept_words(before: Painted, after: Sheet) -> str:
    kept = set(carried(before.sheet, after).values())
    words = trn(
        "{n} painted cell keeps its record; what is new is painted on another paper.",
        "{n} painted cells keep their record; what is new is painted on another paper.",
        sum(name in kept for name in before.cells),
    )
    left = sum(name not in kept for name in before.cells)
    if not left:
        return words
    return words + " " + trn(
        "{n} has no place here and stays with the earlier version.",
        "{n} have no place here and stay with the earlier version.",
        left,
    )  # fmt: skip


@dataclass(frozen=True)
class Ordered:
    """Sheets with their order of work.

    Attributes
    ----------
    sheets : tuple of Sheet
    costs : tuple of WorkCost, of each
    text : str, the sheets as they are kept for another day
    """

    sheets: tuple[Sheet, ...]
    costs: tuple[WorkCost, ...]
    text: str


def ordering_all(
    sheets: Sequence[Sheet], traits: Traits, drawn: Callable[[], bool]
) -> Generator[float, None, Ordered]:
    """The order of work of what is tried, when it is on view; yields how far it is.

    Parameters
    ----------
    sheets : sequence of Sheet
    traits : Traits
    drawn : function that says whether the sheets are on view: two that work at once leave the window too little
    """
    until = time.monotonic() + _PATIENCE_S
    while not drawn() and time.monotonic() < until:
        time.sleep(0.01)
        yield 0.0
    done = []
    for at, sheet in enumerate(sheets):
        if sheet.cells:
            steps = ordering(sheet, None, traits)
            sheet = yield from scaled(steps, at / len(sheets), (at + 1) / len(sheets))
        done.append(sheet)
    return Ordered(tuple(done), tuple(work_cost(sheet) for sheet in done), sheets_text(done))


def even_words(sheet: Sheet, prediction: Prediction | None) -> str:
    """How much the neighbours of even steps differ, row by row in CIEDE2000; empty where nothing is foretold."""
    if prediction is None:
        return ""
    runs: dict[str, list[int]] = {}
    for place, cell in enumerate(sheet.cells):
        found = _ROW_AND_COLUMN.fullmatch(cell.id)
        if found is not None:  # the rungs of a ladder stand below each other, all other steps in rows
            across = sheet.kind != "ladder"
            if across or found[2] == "01":
                runs.setdefault(found[1] if across else "", []).append(place)
    gaps = [
        [float(gap) for gap in delta_e_00(prediction.lab[run[:-1]], prediction.lab[run[1:]])]
        for run in runs.values()
        if len(run) > 2 and np.isfinite(prediction.dE90[run]).all()
    ]
    if not gaps:
        return ""
    lines = []
    for place, own in enumerate(gaps, 1):
        said = tr("neighbours differ by {low:.1f} to {high:.1f}", low=min(own), high=max(own))
        lines.append(tr("Row {n}: {words}", n=place, words=said) if len(gaps) > 1 else capital(said))
    return "\n".join(lines[:_MOST_TOLD]) + ("\n…" if len(lines) > _MOST_TOLD else "")


def sheets_text(sheets: Sequence[Sheet]) -> str:
    """Sheets that are tried, as they are kept for another day."""
    return json.dumps([sheet_to_dict(sheet) for sheet in sheets])


@dataclass(frozen=True)
class Kept:
    """Sheets that were tried on another day.

    Attributes
    ----------
    of : int or None, the sheet that they are to take the place of
    page : int, which of them was on view
    sheets : list of Sheet, not empty
    """

    of: int | None
    page: int
    sheets: list[Sheet]


def kept_text(of: int | None, page: int, sheets: str) -> str:
    """What is kept for another day; `sheets` as `sheets_text` gives them."""
    return f'{{"of": {json.dumps(of)}, "page": {page}, "sheets": {sheets}}}'


def from_kept(content: str, there: Collection[int]) -> Kept | None:
    """What was kept as text; None where it can not be read, or the sheet that it is of is no longer there.

    Parameters
    ----------
    content : str
    there : collection of int, the sheets of the study
    """
    try:
        data = json.loads(content)
        sheets = [sheet_from_dict(sheet) for sheet in data["sheets"]]
        of, page = data["of"], int(data["page"])
    except (CulmoError, ValueError, TypeError, KeyError, RecursionError):
        return None
    known = of is None or (isinstance(of, int) and of in there)
    return Kept(of, page, sheets) if sheets and 0 <= page < len(sheets) and known else None
