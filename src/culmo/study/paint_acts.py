"""The acts at the table: washes laid, put off and repainted, marks, breaks, water and drying."""

import json
import math
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from culmo.core.chart.run import PAPERS, CellMark, Drying, Stroke, learn_drying
from culmo.core.paint.readings import DEPTHS, MixedHow
from culmo.core.paint.recipe import parse_recipe, spoken_recipe
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Command, Row, Study
from culmo.study.papers import own_paper
from culmo.study.records import (
    CellRecord,
    holder_of,
    json_of,
    sheet_record,
    spoken_cell,
    stroke_rows,
    strokes_on,
)
from culmo.study.soundness import moment_of
from culmo.words import mark, tr


class StrokeMixed(StrEnum):
    """How a mix that the painter keeps was mixed."""

    TRAY = "tray"
    ON_PAPER = "paper"
    TOUCHING = "touching"
    ONE_BRUSH = "one brush"


HOWS = tuple(StrokeMixed)
HOW_WORDS: dict[str, str] = {
    StrokeMixed.TRAY: tr("mixed on the tray"),
    StrokeMixed.ON_PAPER: tr("mixed on the paper"),
    StrokeMixed.TOUCHING: tr("two wet strokes touching"),
    StrokeMixed.ONE_BRUSH: tr("two paints on one brush"),
}
# what a plan says of how paints come together, as the record says it
HOW_OF_MIXING: dict[str, str] = {
    MixedHow.WET_IN_WET: StrokeMixed.ON_PAPER,
    MixedHow.MEETING: StrokeMixed.TOUCHING,
    MixedHow.LOADED: StrokeMixed.ONE_BRUSH,
}
MARKS = (
    mark("granulates"),
    mark("separates"),
    mark("blooms"),
    mark("muddy"),
    mark("keeper"),
    mark("accident"),
    mark("paler"),
    mark("stronger"),
)
_TITLES: dict[str, str] = {
    CellMark.DONE: mark("Paint {cell}"),
    CellMark.SKIP: mark("Skip {cell}"),
    CellMark.REPAINT: mark("Paint {cell} again"),
}


# ---- looking


def strokes_of(study: Study, sheet_id: int, cells: Sequence[CellRecord]) -> list[Stroke]:
    """All strokes of a sheet's cells as the run knows them."""
    names = {entry.id: entry.cell.id for entry in cells}
    return [
        Stroke(
            names[row["cell_id"]],
            row["act"],
            moment_of(row["at"]),
            row["layer"],
            moment_of(row["dried"]) if row["dried"] else None,
        )
        for row in strokes_on(study, sheet_id)
        if row["cell_id"] in names
    ]


def open_run(study: Study, sheet_id: int) -> Row | None:
    """The run that is going on, or the last one of the sheet."""
    runs = study.rows("runs", "sheet_id = ?", (sheet_id,))
    return runs[-1] if runs else None


def pauses_of(study: Study, sheet_id: int) -> list[tuple[datetime, datetime]]:
    """The breaks of a sheet's runs; one that lasts still ends now."""
    rows = study.rows("pauses", "run_id IN (SELECT id FROM runs WHERE sheet_id = ?)", (sheet_id,))
    return [(moment_of(row["started"]), moment_of(row["ended"] or study.clock())) for row in rows]


def paused(study: Study, sheet_id: int) -> bool:
    """Whether there is a break."""
    run = open_run(study, sheet_id)
    return bool(run and study.rows("pauses", "run_id = ? AND ended IS NULL", (run["id"],)))


def drying_of(study: Study, sheet_id: int) -> Drying:
    """How long washes stay wet on a sheet: as set for it, learned from all that was found dry."""
    runs = study.rows("runs")
    run = open_run(study, sheet_id) or (runs[-1] if runs else None)
    settings = checked_run_settings(run) if run else {}
    paper = str(settings.get("paper", "cold pressed"))
    base = float(settings.get("dry_minutes", 15.0))
    drying = Drying(min(max(base, 0.5), 24 * 60.0), paper if paper in PAPERS else "cold pressed")
    looks = []
    for row in study.select(
        "SELECT s.at, s.dried, s.layer, c.recipe FROM strokes s JOIN cells c ON c.id = s.cell_id WHERE s.dried NOT NULL"
    ):
        layers = parse_recipe(row["recipe"]).layers
        span = moment_of(row["dried"]) - moment_of(row["at"])
        wash = layers[min(row["layer"], len(layers) - 1)].wash if layers else 1.0
        looks.append((wash, span.total_seconds() / 60.0))
    return learn_drying(drying, looks)


def checked_run_settings(run: Row) -> dict[str, Any]:
    """The settings of a run.

    Raises
    ------
    CulmoError, ValueError, TypeError, OverflowError
        when they make no sense
    """
    settings = json_of(run, "settings")
    if not math.isfinite(float(settings.get("dry_minutes", 15.0))):
        raise CulmoError(tr("the drying time of a run is not finite"))
    if settings.get("water"):
        moment_of(settings["water"])
    return settings


def water_changed(study: Study, sheet_id: int) -> datetime | None:
    """When the water was changed last."""
    run = open_run(study, sheet_id)
    text = json_of(run, "settings").get("water") if run else None
    return moment_of(text) if text else None


# ---- painting


def paint_cell(
    study: Study,
    sheet_id: int,
    cell_id: int,
    act: str = CellMark.DONE,
    how: str = StrokeMixed.TRAY,
    at: str | None = None,
    layer: int = 0,
    arising: Sequence[int] = (),
) -> Command:
    """A wash was laid (or put off, or is to be laid again); the first stroke opens a run, the last one ends it.

    Parameters
    ----------
    study : Study
    sheet_id, cell_id : int
    act : str, "done", "skip" or "repaint"
    how : str, one of HOWS
    at : str, ISO 8601; now where absent
    layer : int, 0 for the top layer of the recipe
    arising : sequence of int, the cells that are painted with it, where it ran into others
    """
    if how not in HOWS:
        raise CulmoError(tr('it was mixed "{how}"; it must be one of {what}', how=how, what=", ".join(HOWS)))
    record = sheet_record(study, sheet_id)
    cell = next((c for c in record.cells if c.id == cell_id), None)
    if cell is None:
        raise CulmoError(tr("that cell is no longer on the sheet"))
    draft = Draft(study, tr(_TITLES[act], cell=spoken_recipe(cell.cell.recipe)))
    moment = at or draft.at
    draft.at = moment
    run_id = _running(draft, sheet_id, record.sheet.title, record.sheet.paper.name, moment)
    washes = [(cell_id, layer, how), *((other, 0, StrokeMixed.TOUCHING) for other in arising)]
    for wash_cell, wash_layer, wash_how in washes:
        draft.add(
            "strokes", run_id=run_id, cell_id=wash_cell, act=act, at=moment, how=wash_how, marks="", note="",
            layer=wash_layer, dried=None,
        )  # fmt: skip
    _end_pause(draft, run_id, moment)
    _settle_run(draft, run_id, sheet_id, {(own, own_layer): act for own, own_layer, _ in washes}, moment)
    return draft.command()


def _running(draft: Draft, sheet_id: int, title: str, paper: str, moment: str) -> int:
    """The run that goes on; a new one where there is none."""
    runs = draft.study.rows("runs", "sheet_id = ?", (sheet_id,))
    if runs and runs[-1]["ended"] is None:
        return int(runs[-1]["id"])
    if runs:  # more is painted on a sheet that was done: its run goes on
        draft.edit("runs", runs[-1]["id"], ended=None)
        return int(runs[-1]["id"])
    earlier = draft.study.rows("runs")
    kept = {
        key: value
        for key, value in (json_of(earlier[-1], "settings") if earlier else {}).items()
        if key != "water"
    }
    own = own_paper(draft.study, paper)
    if own is not None:
        kept["paper"] = own.tooth
    draft.tell("run", tr("Painting of {title} began", title=title), sheet_id=sheet_id)
    return draft.add("runs", sheet_id=sheet_id, started=moment, ended=None, settings=json.dumps(kept))


def _settle_run(
    draft: Draft, run_id: int, sheet_id: int, new: Mapping[tuple[int, int], str], moment: str
) -> None:
    """Ends the run when everything is painted, with a summary for the Daybook."""
    study = draft.study
    record = sheet_record(study, sheet_id)
    last = {(row["cell_id"], row["layer"]): row["act"] for row in strokes_on(study, sheet_id)}
    last.update(new)
    wanted = {
        (entry.id, layer) for entry in record.cells for layer in range(max(1, len(entry.cell.recipe.layers)))
    }
    if all(last.get(key) == CellMark.DONE for key in wanted):
        draft.edit("runs", run_id, ended=moment)
        text = tr(
            "{title} is painted: {summary}; let it dry before reading",
            title=record.sheet.title,
            summary=summary(study, sheet_id, moment),
        )
        draft.tell("run", text, sheet_id=sheet_id)


def summary(study: Study, sheet_id: int, until: str) -> str:
    """A run in one line: cells, minutes at the table, what was repainted and marked."""
    rows = stroke_rows(study, sheet_id)
    cells = len(sheet_record(study, sheet_id).cells)
    words = [tr("{cells} cells", cells=cells)]
    moments = [moment_of(row["at"]) for row in rows] + [moment_of(until)]
    breaks = timedelta()
    for begin, end in pauses_of(study, sheet_id):
        breaks += max(timedelta(), min(end, max(moments)) - begin)
    spent = (max(moments) - min(moments) - breaks).total_seconds() / 60.0
    if spent < 24 * 60:
        words.append(tr("{n} minutes at the table", n=max(1, round(spent))))
    again = sum(row["act"] == CellMark.REPAINT for row in rows)
    if again:
        words.append(tr("{again} painted again", again=again))
    marks = [mark for row in rows for mark in row["marks"].split() if mark]
    words += [f"{marks.count(mark)} × {tr(mark)}" for mark in MARKS if mark in marks]
    return ", ".join(words)


def take_back(study: Study, sheet_id: int) -> Command | None:
    """The last stroke is taken back: the cell is to be painted again. None when there is none."""
    rows = stroke_rows(study, sheet_id)
    if not rows:
        return None
    cells = {row["id"]: row for row in study.rows("cells", "sheet_id = ?", (sheet_id,))}
    back = 1  # what only arose where strokes met goes with the stroke that met
    while back < len(rows) and cells[rows[-back]["cell_id"]]["mixing"] == MixedHow.MEETING:
        back += 1
    last = rows[-back]
    draft = Draft(study, tr("Take back {cell}", cell=spoken_cell(cells[last["cell_id"]])))
    for row in rows[-back:]:
        draft.remove("strokes", row)
    draft.edit("runs", last["run_id"], ended=None)
    return draft.command()


# ---- beside the painting


def mark_stroke(study: Study, stroke_id: int, mark: str) -> Command:
    """A quick mark on a cell that was painted, set or taken away; a keeper is marked on the cell too."""
    if mark not in MARKS:
        raise CulmoError(
            tr('"{mark}" is no mark; it must be one of {what}', mark=mark, what=", ".join(MARKS))
        )
    row = study.row("strokes", stroke_id)
    cell = study.row("cells", row["cell_id"])
    marks = row["marks"].split()
    there = mark in marks
    # a cell came out paler or stronger, not both
    others = [other for other in marks if other != mark and not (mark in DEPTHS and other in DEPTHS)]
    marks = others if there else [*others, mark]
    spoken, word = spoken_cell(cell), tr(mark)
    title = tr("{cell}: no longer {mark}", cell=spoken, mark=word) if there else f"{spoken}: {word}"
    draft = Draft(study, title)
    draft.edit("strokes", stroke_id, marks=" ".join(marks))
    if mark == "keeper":
        draft.edit("cells", holder_of(study, cell["id"], "keeper")["id"], keeper=int(not there))
    return draft.command()


def note_stroke(study: Study, stroke_id: int, note: str) -> Command:
    """The painter's words about a cell, at the table."""
    row = study.row("strokes", stroke_id)
    cell = study.row("cells", row["cell_id"])
    draft = Draft(study, tr("Note on {cell}", cell=spoken_cell(cell)))
    if draft.edit("strokes", stroke_id, note=note.strip()) and note.strip():
        draft.edit("cells", cell["id"], note=note.strip())
        words = f"{spoken_cell(cell)}: {note.strip()}"
        draft.tell("note", words, cell_id=cell["id"], sheet_id=cell["sheet_id"])
    return draft.command()


def change_water(study: Study, sheet_id: int, at: str | None = None) -> Command | None:
    """Clean water stands on the table; None before the first stroke."""
    return set_run(study, sheet_id, tr("Change the water"), water=at or study.clock())


def set_run(study: Study, sheet_id: int, title: str = "", **values: Any) -> Command | None:
    """What is set for a run: dry_minutes, paper, water; None before the first stroke."""
    run = open_run(study, sheet_id)
    if run is None:
        return None
    draft = Draft(study, title or tr("Set the drying time"))
    draft.edit("runs", run["id"], settings=json.dumps({**json_of(run, "settings"), **values}))
    return draft.command()


def found_dry(study: Study, stroke_ids: Sequence[int], at: str | None = None) -> Command:
    """The painter felt the paper: these washes are dry; the drying clock learns from it."""
    draft = Draft(study, tr("It is dry"))
    for stroke_id in stroke_ids:
        draft.edit("strokes", stroke_id, dried=at or draft.at)
    return draft.command()


def pause(study: Study, sheet_id: int, at: str | None = None) -> Command | None:
    """A break begins, or ends; None before the first stroke."""
    run = open_run(study, sheet_id)
    if run is None:
        return None
    resting = study.rows("pauses", "run_id = ? AND ended IS NULL", (run["id"],))
    draft = Draft(study, tr("Go on") if resting else tr("Take a break"))
    if resting:
        draft.edit("pauses", resting[-1]["id"], ended=at or draft.at)
    else:
        draft.add("pauses", run_id=run["id"], started=at or draft.at, ended=None)
    return draft.command()


def _end_pause(draft: Draft, run_id: int, moment: str) -> None:
    for row in draft.study.rows("pauses", "run_id = ? AND ended IS NULL", (run_id,)):
        draft.edit("pauses", row["id"], ended=moment)
