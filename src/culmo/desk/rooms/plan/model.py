"""Plan room: the sheet on the table, the layout that is being tried, and what is said of them."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from culmo.core.chart.grid import GridPlan, Measure, plan_grid
from culmo.core.chart.order import WorkCost, plan_order, work_cost
from culmo.core.chart.papers import PAPERS, Paper, find_paper, length_mm, length_text
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.predict import Prediction
from culmo.data import text_width_mm
from culmo.desk.drawing.cell_look import CellLook
from culmo.errors import CulmoError
from culmo.study.records import SheetRecord

SECOND_WORDS = {
    "paler": "the same mixes, paler",
    "white": "the same with a white",
    "dominance": "the other dominance, 1:2",
    "third": "a third paint added",
    "same": "the same again",
    "empty": "nothing, a half grid",
}
LABEL_WORDS = ("names", "numbers", "pigment codes")


@dataclass
class LayoutDraft:
    """What the Layout page of the slip holds, as typed.

    Attributes
    ----------
    paints : list of str, chosen, in order
    paper : str, a name or a size
    cell : str, wished cell size such as "20" or "20 x 15", or empty for the largest
    """

    title: str = ""
    paints: list[str] = field(default_factory=list)
    paper: str = "A3"
    orientation: str = "best"
    second: str = "paler"
    extra: str = ""
    gap: str = "0"
    tape: str = "6"
    cell: str = ""
    labels: str = "names"

    def sheet(
        self, codes: dict[str, str], owned: Sequence[Paper] = (), measure: Measure = text_width_mm
    ) -> Sheet:
        """Lay out the sheet.

        Parameters
        ----------
        codes : from paint name to its Colour Index codes
        owned : the painter's own papers
        measure : function of (text, size in mm) that gives a width in mm

        Raises
        ------
        CulmoError
            saying which field can not be and why
        """
        plan = GridPlan(
            paints=tuple(self.paints),
            paper=self._paper(owned),
            title=self.title.strip() or f"Grid of {len(self.paints)}",
            orientation=self.orientation,
            tape_mm=length_mm(self.tape),
            gap_mm=length_mm(self.gap),
            cell_mm=self._cell(),
            second=self.second,
            extra=self.extra,
            labels=self._labels(codes),
        )
        return plan_order(plan_grid(plan, measure))

    def _paper(self, owned: Sequence[Paper]) -> Paper:
        for paper in owned:
            if paper.name.casefold() == self.paper.strip().casefold():
                return paper
        return find_paper(self.paper)

    def _cell(self) -> tuple[float, float] | None:
        if not self.cell.strip():
            return None
        sides = [length_mm(side) for side in self.cell.replace("×", "x").split("x")]
        if len(sides) > 2:
            raise CulmoError(f'"{self.cell}" is not a cell size: write 20 or 20 x 15')
        return sides[0], sides[-1]

    def _labels(self, codes: dict[str, str]) -> tuple[str, ...]:
        if self.labels == "numbers":
            return tuple(str(place + 1) for place in range(len(self.paints)))
        if self.labels == "pigment codes":
            return tuple(codes.get(name) or name for name in self.paints)
        return ()


def draft_from(sheet: Sheet) -> LayoutDraft:
    """The layout of a sheet, to be changed."""
    settings = sheet.settings
    cell = settings.get("cell_mm")
    labels = [str(text) for text in settings.get("labels") or ()]
    kind = "names" if not labels else "numbers" if labels[0] == "1" else "pigment codes"
    return LayoutDraft(
        title=sheet.title,
        paints=[str(name) for name in settings.get("paints", ())],
        paper=sheet.paper.name,
        orientation=str(settings.get("orientation", "best")),
        second=str(settings.get("second", "paler")),
        extra=str(settings.get("extra", "")),
        gap=f"{float(settings.get('gap_mm', 0.0)):g}",
        tape=f"{float(settings.get('tape_mm', 6.0)):g}",
        cell=f"{cell[0]:g} x {cell[1]:g}" if cell else "",
        labels=kind,
    )


def paper_names(owned: Sequence[Paper]) -> list[str]:
    """The painter's papers first, then the common ones."""
    names = [paper.name for paper in owned]
    return names + [paper.name for paper in PAPERS if paper.name not in names]


def subtitle(sheet: Sheet) -> str:
    """Paper, cell size and what there is to mix."""
    _, _, width, height = sheet.cells[0].box_mm
    if sheet.kind == "cards":
        count = len({cell.id[:3] for cell in sheet.cells})
        return f"{sheet.paper.name}, {count} card{'s' if count != 1 else ''}, masstones {width:.1f} x {height:.1f} mm"
    mixes = sum(not cell.recipe.is_pure for cell in sheet.cells)
    return f"{sheet.paper.name}, {width:g} x {height:g} mm cells, {mixes} mixes"


def time_text(cost: WorkCost) -> str:
    """How long it takes."""
    hours, minutes = divmod(5 * round(cost.minutes / 5), 60)
    return f"About {hours} h {minutes:02d}" if hours else f"About {minutes} minutes"


def cost_text(sheet: Sheet) -> str:
    """What the order of work costs, beside row by row."""
    cost = work_cost(sheet)
    waiting = f"{cost.wait_minutes:.0f} minutes of waiting" if cost.wait_minutes >= 1 else "no waiting"
    waters = {0: "no clean water", 1: "1 clean water"}.get(cost.waters, f"{cost.waters} clean waters")
    return f"{cost.rinses} rinses, {waters}, {waiting}. Row by row: {cost.naive_rinses} rinses."


def ruling_lines(sheet: Sheet, unit: str) -> list[str]:
    """The ruling list: what to tick with the ruler, from the paper's top left corner."""
    lines = [
        f"Paper {length_text(sheet.paper.width_mm, unit)} wide, {length_text(sheet.paper.height_mm, unit)} high"
    ]
    tape = float(sheet.settings.get("tape_mm", 0.0))
    if tape:
        lines.append(f"Tape {length_text(tape, unit)} on every side")
    lines.append("Tick along the top edge, from the left:")
    lines += [f"    {length_text(x, unit)}" for x in sheet.ruling.vertical_mm]
    lines.append("Tick along the left edge, from the top:")
    lines += [f"    {length_text(y, unit)}" for y in sheet.ruling.horizontal_mm]
    return lines


def cell_looks(
    record_cells: Sequence[Cell],
    prediction: Prediction | None,
    read: dict[str, tuple[float, float, float]],
    painted: set[str],
    keepers: set[str],
) -> dict[str, CellLook]:
    """What to draw in each cell."""
    looks = {}
    for place, cell in enumerate(record_cells):
        looks[cell.id] = CellLook(
            predicted=prediction is not None,
            doubt=float(prediction.dE90[place]) if prediction is not None else 0.0,
            recorded=read.get(cell.id),
            painted=cell.id in painted,
            keeper=cell.id in keepers,
        )
    return looks


def nearly_same(
    record: SheetRecord | Sheet, prediction: Prediction, cell_id: str
) -> list[tuple[Cell, float]]:
    """The two cells whose predicted colour is nearest to a cell's, with the difference."""
    cells = record.sheet.cells if isinstance(record, SheetRecord) else record.cells
    place = next(i for i, cell in enumerate(cells) if cell.id == cell_id)
    away = delta_e_00(prediction.lab, prediction.lab[place])
    own = cells[place].recipe.key
    found = [(cells[i], float(away[i])) for i in np.argsort(away) if cells[i].recipe.key != own]
    return found[:2]
