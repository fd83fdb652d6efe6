"""Paint room: what to lay now in which parts, what must wait, and how far it has come, in words."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from culmo.core.chart.places import place_words
from culmo.core.chart.run import (
    PAPERS,
    CellMark,
    Drying,
    Run,
    RunState,
    Stroke,
    Task,
    brush_loads,
    puddle_step,
)
from culmo.core.chart.sheet import Cell
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import Recipe, spoken_recipe, wash_name, water_words
from culmo.study import paint_acts
from culmo.study.file import Command, Row, Study
from culmo.study.records import SheetRecord, stroke_rows, strokes_on
from culmo.words import decimal, listed, tr, trn

if TYPE_CHECKING:
    from culmo.core.paint.estimate import Estimate

MIN_DRY, MAX_DRY = 2.0, 180.0


@dataclass(frozen=True)
class Ingredient:
    """One line of the recipe.

    Attributes
    ----------
    name : str
    parts : str, of the puddle, empty for a paint alone
    loads : str, brush-loads, empty for a paint alone
    """

    name: str
    parts: str = ""
    loads: str = ""


class WorkTable:
    """A sheet on the table: its run as the study knows it, at a moment.

    Parameters
    ----------
    study : Study
    record : SheetRecord
    before : WorkTable that was shown before; what it worked out of the same sheet is taken over
    """

    def __init__(self, study: Study, record: SheetRecord, before: "WorkTable | None" = None) -> None:
        self.study, self.record = study, record
        same = before is not None and before.record.sheet == record.sheet
        self.run: Run = before.run if before is not None and same else Run(record.sheet)
        self.chosen: tuple[str, int] | None = None
        self.how = paint_acts.HOWS[0]
        self.strokes: list[Stroke] = []
        self.rows: list[Row] = []  # of `strokes`, one for one
        self.own_rows: list[Row] = []  # those laid on this sheet itself, and not on an earlier version of it
        self.drying = Drying()
        self.water: datetime | None = None
        self.pauses: list[tuple[datetime, datetime]] = []
        self.state: RunState
        self.paused = False

    def look(self, now: datetime) -> RunState:
        """Read the record anew.

        Parameters
        ----------
        now : datetime with an offset
        """
        study, sheet_id = self.study, self.record.id
        self.strokes = paint_acts.strokes_of(study, sheet_id, self.record.cells)
        self.rows = strokes_on(study, sheet_id)
        self.own_rows = stroke_rows(study, sheet_id)
        self.drying = paint_acts.drying_of(study, sheet_id)
        self.paused = paint_acts.paused(study, sheet_id)
        self.water = paint_acts.water_changed(study, sheet_id)
        self.pauses = paint_acts.pauses_of(study, sheet_id)
        return self.tick(now)

    def tick(self, now: datetime) -> RunState:
        """The same record, later.

        Parameters
        ----------
        now : datetime with an offset
        """
        self.state = self.run.state(self.strokes, now, self.drying, self.chosen, self.water, self.pauses)
        return self.state

    # ---- acts

    def choose(self, cell_id: str) -> None:
        """Paint this cell now, out of turn: the lowest layer of it that is still to be laid."""
        done = {(s.cell, s.layer): s.act == CellMark.DONE for s in self.strokes}
        left = [t.key for t in self.run.tasks if t.cell.id == cell_id and not done.get(t.key)]
        self.chosen = left[0] if left else None

    def step(self, by: int) -> None:
        """Walk through what is left to paint, in the order of work."""
        done = {(s.cell, s.layer): s.act == CellMark.DONE for s in self.strokes}
        left = [task.key for task in self.run.tasks if not done.get(task.key)]
        current = self.state.current
        if left and current is not None:
            self.chosen = left[(left.index(current.key) + by) % len(left)]

    def stroke(self, act: str, now: datetime) -> Command | None:
        """The current wash was laid, or is put off."""
        task = self.state.current
        if task is None:
            return None
        self.chosen = None
        entries = self.record.by_cell()
        at = now.isoformat(timespec="seconds")
        how = paint_acts.HOW_OF_MIXING.get(task.cell.mixing, self.how)
        arising = [entries[name].id for name in self.state.arising] if act == CellMark.DONE else []
        return paint_acts.paint_cell(
            self.study, self.record.id, entries[task.cell.id].id, act, how, at, task.layer, arising
        )

    def repaint(self, now: datetime) -> Command | None:
        """The cell that was painted last is to be painted again when it is dry."""
        last = self.state.last
        if last is None:
            return None
        entry = self.record.by_cell()[last.cell.id]
        at = now.isoformat(timespec="seconds")
        return paint_acts.paint_cell(
            self.study, self.record.id, entry.id, CellMark.REPAINT, self.how, at, last.layer
        )

    def take_back(self) -> Command | None:
        """The last stroke is taken back; its cell is the one to paint again."""
        names = {entry.id: entry.cell.id for entry in self.record.cells}
        arising = {cell.id for cell in self.record.sheet.cells if cell.arises}
        own = [row for row in self.own_rows if names[row["cell_id"]] not in arising]
        self.chosen = (names[own[-1]["cell_id"]], own[-1]["layer"]) if own else None
        return paint_acts.take_back(self.study, self.record.id)

    def next_how(self) -> str:
        """Another way of mixing, for the strokes to come."""
        hows = paint_acts.HOWS
        self.how = hows[(hows.index(self.how) + 1) % len(hows)]
        return self.how

    def last_row(self) -> Row | None:
        """The stroke that was painted last, as a row; not what only arose where it met another."""
        arising = {entry.id for entry in self.record.cells if entry.cell.arises}
        done = [row for row in self.own_rows if row["act"] == CellMark.DONE and row["cell_id"] not in arising]
        return done[-1] if done else None

    def puddle_cell(self) -> int | None:
        """The row of the cell whose puddle a scrap is of: the next, or the last when all is painted; None for no mix."""
        entries = self.record.by_cell()
        row = self.last_row()
        if self.state.current is not None:
            cell_id = entries[self.state.current.cell.id].id
        elif row is not None:
            cell_id = row["cell_id"]
        else:
            return None
        cell = next(entry.cell for entry in self.record.cells if entry.id == cell_id)
        several = len(cell.recipe.layers) == 1 and len(cell.recipe.names) > 1
        return cell_id if several and not cell.mixing else None

    def mark(self, mark: str) -> Command | None:
        """A quick mark on the cell that was painted last."""
        row = self.last_row()
        return paint_acts.mark_stroke(self.study, row["id"], mark) if row else None

    def note(self, stroke_id: int, text: str) -> Command | None:
        """Words about a stroke; nothing where they are the same, or it is not there any more."""
        row = next(iter(self.study.rows("strokes", "id = ?", (stroke_id,))), None)
        return (
            paint_acts.note_stroke(self.study, stroke_id, text)
            if row and row["note"] != text.strip()
            else None
        )

    def is_dry(self, now: datetime) -> Command | None:
        """The painter felt what the clock holds for wet: the neighbours in the way, or all of the sheet."""
        places = self.run.wet_strokes(self.strokes, now, self.drying)
        current = self.state.current
        if current is not None and 0.0 < self.state.wait_minutes < float("inf"):
            near = self.run.beside(current.cell.id) | {current.cell.id}
            places = [place for place in places if self.strokes[place].cell in near]
        if not places:
            return None
        ids = [self.rows[place]["id"] for place in places]
        return paint_acts.found_dry(self.study, ids, now.isoformat(timespec="seconds"))

    def dry_longer(self, minutes: float) -> Command | None:
        """Another base time of drying."""
        base = min(MAX_DRY, max(MIN_DRY, self.drying.base_minutes + minutes))
        return paint_acts.set_run(self.study, self.record.id, dry_minutes=base)

    def next_paper(self) -> Command | None:
        """Another kind of paper."""
        papers = list(PAPERS)
        paper = papers[(papers.index(self.drying.paper) + 1) % len(papers)]
        return paint_acts.set_run(self.study, self.record.id, tr("Set the paper"), paper=paper)


# ---- words


def ingredients(
    recipe: Recipe, estimate: "Estimate | None" = None, in_puddle: bool = True
) -> list[Ingredient]:
    """The paints of a puddle with their parts and brush-loads.

    Parameters
    ----------
    recipe : Recipe of one layer
    in_puddle : bool, whether they are mixed in one; else they have no fixed parts, and are taken one after the other
    estimate : Estimate to correct by what the hand takes too much of, or None for the parts as planned
    """
    if not recipe.layers:
        return []
    parts = recipe.layers[0].parts
    if len(parts) == 1 or not in_puddle:
        return [Ingredient(part.name) for part in parts]
    amounts = [part.parts for part in parts]
    if estimate is not None:
        amounts = corrected([part.name for part in parts], amounts, estimate)
    loads = brush_loads(amounts)
    least = min(amounts)
    shown = [amount / least for amount in amounts] if estimate is not None else [part.parts for part in parts]
    return [
        Ingredient(
            part.name,
            decimal(f"{round(amount, 1):g}"),
            trn("{n} brush-load", "{n} brush-loads", load),
        )
        for part, amount, load in zip(parts, shown, loads, strict=True)
    ]


def corrected(names: Sequence[str], parts: Sequence[float], estimate: "Estimate") -> list[float]:
    """Parts that land where the recipe means, for a hand that takes too much of some paints."""
    bias = estimate.layout.optics(estimate.theta).bias
    places = [estimate.index.get(name.casefold()) for name in names]
    import math

    return [
        part / math.exp(float(bias[place])) if place is not None else part
        for part, place in zip(parts, places, strict=True)
    ]


def wash_words(task: Task) -> str:
    """How thin, and over what."""
    wash = task.wash
    layers = len(task.cell.recipe.layers)
    if task.layer == 0 and task.cell.mixing:
        return _mixing_words(task.cell)
    words = tr("full wash")
    if wash < 0.99:
        words = tr("{name}: thin the puddle, {water}", name=wash_name(wash), water=water_words(wash))
    if layers > 1:
        below = task.cell.recipe.layers[task.layer + 1 :]
        words += (
            ", " + tr("over {spoken_recipe}", spoken_recipe=spoken_recipe(Recipe(below[:1])))
            if below
            else ", " + tr("the layer below")
        )
    if task.cell.fade_mm is not None:
        words += ", " + tr("drawn out to clear water")
    return words


def _mixing_words(cell: Cell) -> str:
    """How paints are to come together that are not mixed in a puddle."""
    first, *others = [part.name for part in cell.recipe.layers[0].parts]
    then = listed(others)
    if cell.mixing == MixedHow.LOADED:
        return tr(
            "fill the brush with {first}, take {then} on its tip, and draw it in one stroke",
            first=first,
            then=then,
        )
    if cell.shape:
        return (
            tr(
                "wet a drop of this size, touch in {first}, then {then}; let it find its own edge",
                first=first,
                then=then,
            )
            if then
            else tr("wet a drop of this size and touch in {first}; let it find its own edge", first=first)
        )
    return (
        tr(
            "wet the shape up to its edge, touch in {first}, then {then}, and let them run",
            first=first,
            then=then,
        )
        if then
        else tr("wet the shape up to its edge, touch in {first}, and let it run", first=first)
    )


def puddle_words(state: RunState) -> str:
    """What to do with the puddle and the brush."""
    task = state.current
    if task is None or not task.recipe.layers:
        return ""
    if len(task.puddles) > 1:
        return tr("A puddle of each, ready before you begin")
    if state.same_puddle:
        return tr("The puddle that is on the tray")
    water = tr("Change the water, then rinse") if state.water_due else tr("Rinse")
    if state.last is None:
        return tr("A new puddle")
    step = puddle_step(state.last.left_on_brush, task.puddle)
    if step is not None:
        name, amount = step
        share = tr("one part") if abs(amount - 1.0) < 0.02 else tr("{n:g} parts", n=round(amount, 2))
        if state.water_due:
            return tr(
                "Change the water, then add {share} of {name} to every part that is left",
                share=share,
                name=name,
            )
        return tr("Add {share} of {name} to every part that is left", share=share, name=name)
    return tr("{water}; a new puddle", water=water)


def clock_words(minutes: float) -> str:
    """Minutes as a painter says them."""
    if minutes < 1.0:
        return tr("less than a minute")
    hours, rest = divmod(round(minutes), 60)
    return (
        tr("{hours} h {minutes:02d}", hours=hours, minutes=rest)
        if hours
        else trn("{n} minute", "{n} minutes", rest)
    )


def wait_words(state: RunState, paused: bool = False) -> str:
    """Whether it may be painted now."""
    if paused:
        return tr("A break; P goes on, and so does the next stroke")
    if state.current is None:
        return ""
    if state.wait_minutes == float("inf"):
        return tr("The layer below comes first")
    if state.meeting is not None and not state.wait_minutes:
        if state.meeting.is_dry:
            return tr("The first stroke is dry: the two will not run together. It can be painted again")
        if state.meeting.minutes_left <= 0.0:
            return tr("The first stroke is drying: paint into its edge now")
        return tr("Into the wet edge of the first stroke, at once")
    if state.wait_minutes > 0.0:
        return tr("Wait {clock_words}: wet paint touches it", clock_words=clock_words(state.wait_minutes))
    if state.follows is not None:
        return tr(
            "May be painted now; {what} follows at once: have its puddle ready",
            what=spoken_recipe(state.follows.recipe),
        )
    return tr("May be painted now")


def progress_words(state: RunState) -> str:
    """How far it has come."""
    words = tr("{done} of {total} painted", done=state.done, total=state.total)
    if state.skipped:
        words += ", " + tr("{skipped} put off", skipped=state.skipped)
    if state.current is not None:
        words += ", " + tr("about {clock_words} left", clock_words=clock_words(state.minutes_left))
    return words


def drying_words(state: RunState, drying: Drying) -> str:
    """When the sheet is dry."""
    base = tr("{paper}, {base_minutes:g} minutes", paper=tr(drying.paper), base_minutes=drying.base_minutes)
    if abs(drying.learned - 1.0) > 0.03:
        base += ", " + tr("{learned:.2f} of that as you found it", learned=drying.learned)
    if state.dry_in <= 0.0:
        return tr("Nothing is wet ({base})", base=base)
    return tr("The sheet is dry in {clock_words} ({base})", clock_words=clock_words(state.dry_in), base=base)


def cell_clocks(state: RunState) -> dict[str, int]:
    """The minutes that each wet cell still takes to dry."""
    return {cell: max(1, round(minutes)) for cell, minutes in state.wet.items()}


def last_words(state: RunState, row: Row | None) -> str:
    """What was painted last, how, and what was marked."""
    if state.last is None or row is None:
        return tr("Nothing is painted yet")
    words = tr(
        "Just painted: {spoken_recipe}, {place_words}",
        spoken_recipe=spoken_recipe(state.last.recipe),
        place_words=place_words(state.last.cell),
    )
    if row["how"] != paint_acts.StrokeMixed.TRAY:
        words += f", {paint_acts.HOW_WORDS[row['how']]}"
    return words
