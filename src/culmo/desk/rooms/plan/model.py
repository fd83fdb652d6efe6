"""Plan room: the sheet on the table, the layout that is being tried, and what is said of them."""

from collections.abc import Sequence

import numpy as np

from culmo.core.chart.kinds import kind_of, tape_of
from culmo.core.chart.lengths import LengthUnit, length_text, size_text
from culmo.core.chart.order import WishCost, WorkCost
from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.plans import Plan
from culmo.core.chart.sheet import Cell, Sheet, Stage
from culmo.core.chart.stages import STAGE_WORDS
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.predict import Prediction
from culmo.core.paint.recipe import FULL, Recipe, parse_recipe, spoken_recipe
from culmo.study.file import Study
from culmo.study.records import SheetRecord
from culmo.study.soundness import moment_of
from culmo.words import capital, listed, tr, trn

_BREAK_MINUTES, _ENOUGH_STROKES, _LATEST_STROKES = 5.0, 10, 500
_USUAL_GAP_MINUTES = 0.6  # a cell and its share of mixing and rinsing
# water that a square centimetre of wash takes, from puddle to paper
_ML_PER_CM2 = 0.02


def texts_of(plan: Plan) -> dict[str, str]:
    """A plan as it would be typed, to be changed."""
    unit = plan.page.unit
    return {**plan.page.texts(unit), **plan.options.texts(unit)}


def unit_of(sheet: Sheet) -> str:
    """The unit that a sheet is planned in."""
    return LengthUnit.INCH if sheet.settings.get("unit") == LengthUnit.INCH else LengthUnit.MM


def work_lines(sheet: Sheet) -> list[str]:
    """What to do before the first cell, the puddles with how much, and what to do after the last."""
    area: dict[str, float] = {}
    for cell in sheet.cells:
        if cell.recipe.layers:
            name = spoken_recipe(Recipe(cell.recipe.layers[:1]).with_wash(FULL))
            area[name] = area.get(name, 0.0) + _area_mm2(cell.outline_mm) / 100.0
    lines = [
        tr("Before the first cell"),
        tr(
            "Two jars: one to rinse, one of clean water to wet. Lay out the puddles that stand "
            "first; a puddle that waits covered keeps open."
        ),
        tr(
            "How thin: draw a line through the puddle with the brush. It stays open: cream, for a "
            "masstone. It closes in about a second: milk, for a full wash. It closes at once: tea, "
            "for a tint."
        ),
        tr(
            "Go over the pencil lightly with a soft eraser: under a yellow it can not be rubbed out any more."
        ),
        "",
        *stage_lines(sheet),
        tr("Puddles, in order, with the millilitres they take"),
    ]
    seen = list(dict.fromkeys(str(step.get("recipe", "")) for step in sheet.work if step["do"] == "puddle"))
    words = [spoken_recipe(parse_recipe(text)) for text in seen] or list(area)
    words += [name for name in area if name not in words]
    lines += [
        tr("{name}: {n:.1f} ml", name=name, n=max(0.5, _ML_PER_CM2 * area.get(name, 0.0)))
        for name in words
        if name in area
    ]
    kind = kind_of(sheet)
    if kind is not None and kind.way is not None:
        lines += ["", *kind.way(sheet)]
    total = sum(area.values())
    lines += [
        "",
        tr("After the last cell"),
        tr(
            "Let it dry through, flat; judge nothing while it is cool to the back of the hand. Rub "
            "the pencil out lightly, write title and date, then read it."
        ),
        "",
        tr(
            "In all {total:.0f} cm² of paint on {value:.0f} cm² of paper, about {n:.0f} ml of wash.",
            total=total,
            value=sheet.paper.width_mm * sheet.paper.height_mm / 100.0,
            n=max(1.0, _ML_PER_CM2 * total),
        ),
    ]
    return lines


def stage_lines(sheet: Sheet) -> list[str]:
    """The stages of a sheet, each with how many cells it has and when it begins; nothing where there are none."""
    begins: dict[str, float] = {}
    counts: dict[str, int] = {}
    for cell in sheet.cells:
        if cell.stage and cell.at_minute is not None:
            begins[cell.stage] = min(begins.get(cell.stage, cell.at_minute), cell.at_minute)
            counts[cell.stage] = counts.get(cell.stage, 0) + (not cell.arises)
    if len(begins) < 2:
        return []
    lines = [tr("Stages: each begins when the one before it is painted")]
    for stage in sorted(begins, key=lambda stage: begins[stage]):
        lines.append(
            trn(
                "{stage}: {n} cell, from minute {minute:.0f}",
                "{stage}: {n} cells, from minute {minute:.0f}",
                counts[stage],
                stage=capital(STAGE_WORDS[Stage(stage)]),
                minute=begins[stage],
            )
        )
        if stage == Stage.WHITE:
            lines.append(tr("Fresh water before the white, and a clean corner of the tray."))
    return [*lines, ""]


_WISH_WORDS = {
    "stages": tr("Stages"), "light_first": tr("Light before dark"), "clean_first": tr("Clean before staining"),
}  # fmt: skip


def wish_lines(costs: Sequence[WishCost] | None) -> list[str]:
    """What each wish costs, in words; None while it is being worked out."""
    if costs is None:
        return [tr("What the wishes cost is being worked out…")]
    lines = [tr("What the wishes cost")] if costs else []
    for cost in costs:
        more = []
        if cost.rinses > 0:
            more.append(trn("{n} rinse more", "{n} rinses more", cost.rinses))
        if cost.wait_minutes >= 1.0:
            minutes = round(cost.wait_minutes)
            more.append(trn("{n} minute of waiting more", "{n} minutes of waiting more", minutes))
        lines.append(f"{_WISH_WORDS[cost.wish]}: {listed(more) or tr('nothing')}")
    return lines


def _area_mm2(outline: Sequence[tuple[float, float]]) -> float:
    """The area of a polygon (the shoelace formula)."""
    points = np.array(outline)
    x, y = points[:, 0], points[:, 1]
    return float(abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2.0)


def paper_names(owned: Sequence[Paper]) -> list[str]:
    """The painter's papers first, then the common ones."""
    names = [paper.name for paper in owned]
    return names + [paper.name for paper in PAPERS if paper.name not in names]


def subtitle(sheet: Sheet, painted: int = 0) -> str:
    """Paper, cell size and what there is to mix; how much of it is painted, where some is and some is not."""
    words = _about(sheet)
    if 0 < painted < len(sheet.cells):
        return tr("{words}; {painted} of {all} painted", words=words, painted=painted, all=len(sheet.cells))
    return words


def _about(sheet: Sheet) -> str:
    if not sheet.cells:
        return tr("{name}, to cut out", name=sheet.paper.name)
    kind = kind_of(sheet)
    if kind is not None and kind.about is not None:
        return kind.about(sheet)
    _, _, width, height = sheet.cells[0].box_mm
    mixes = sum(not cell.recipe.is_pure for cell in sheet.cells)
    return tr(
        "{name}, cells of {size}, {mixes} mixes",
        name=sheet.paper.name,
        size=size_text(width, height, unit_of(sheet)),
        mixes=mixes,
    )


def own_pace(study: Study) -> float:
    """How long the painter takes for a cell beside the usual pace: the mean time between two strokes.

    Breaks and drying are left out: only strokes less than five minutes apart count, and ten of them are wanted. The
    latest washes tell it: a hand grows quicker over the years.
    """
    times: dict[int, list[float]] = {}
    latest = study.select(
        "SELECT run_id, at, id FROM strokes WHERE act = 'done' ORDER BY id DESC LIMIT ?", (_LATEST_STROKES,)
    )
    for row in sorted(latest, key=lambda row: (row["at"], row["id"])):
        times.setdefault(row["run_id"], []).append(moment_of(row["at"]).timestamp() / 60.0)
    gaps = np.concatenate([np.diff(run) for run in times.values()] or [np.zeros(0)])
    gaps = gaps[(gaps > 0.02) & (gaps < _BREAK_MINUTES)]
    return float(np.clip(gaps.mean() / _USUAL_GAP_MINUTES, 0.3, 5.0)) if len(gaps) >= _ENOUGH_STROKES else 1.0


def time_text(cost: WorkCost, pace: float = 1.0) -> str:
    """How long it takes at the painter's own pace; drying takes as long as it takes."""
    return minutes_text((cost.minutes - cost.wait_minutes) * pace + cost.wait_minutes)


def minutes_text(own: float) -> str:
    """Some minutes, about, in words."""
    hours, minutes = divmod(5 * round(own / 5), 60)
    if not hours and not minutes:
        return tr("A few minutes")
    return (
        tr("About {hours} h {minutes:02d}", hours=hours, minutes=minutes)
        if hours
        else tr("About {minutes} minutes", minutes=minutes)
    )


def cost_text(sheet: Sheet, cost: WorkCost) -> str:
    """What the order of work costs, beside row by row."""
    if not sheet.work:
        return tr("The order of work is being made…") if sheet.cells else ""
    waiting = (
        tr("{wait_minutes:.0f} minutes of waiting", wait_minutes=cost.wait_minutes)
        if cost.wait_minutes >= 1
        else tr("no waiting")
    )
    waters = trn("{n} clean water", "{n} clean waters", cost.waters) if cost.waters else tr("no clean water")
    return tr(
        "{rinses}, {waters}, {waiting}. Row by row: {naive}.",
        rinses=trn("{n} rinse", "{n} rinses", cost.rinses),
        waters=waters,
        waiting=waiting,
        naive=trn("{n} rinse", "{n} rinses", cost.naive_rinses),
    )


def ruling_lines(sheet: Sheet, unit: str) -> list[str]:
    """The ruling list: what to tick with the ruler, from the paper's top left corner."""
    lines = [
        tr(
            "Paper {length_text} wide, {length_text2} high",
            length_text=length_text(sheet.paper.width_mm, unit),
            length_text2=length_text(sheet.paper.height_mm, unit),
        )
    ]
    tape = tape_of(sheet)
    if tape:
        lines.append(tr("Tape {length_text} on every side", length_text=length_text(tape, unit)))
    kind = kind_of(sheet)
    if sheet.ruling.circles_mm and kind is not None and kind.ruling is not None:
        return lines + kind.ruling(sheet, unit)
    lines.append(tr("Tick along the top edge, from the left:"))
    lines += [f"    {length_text(x, unit)}" for x in sheet.ruling.vertical_mm]
    lines.append(tr("Tick along the left edge, from the top:"))
    lines += [f"    {length_text(y, unit)}" for y in sheet.ruling.horizontal_mm]
    return lines


def nearly_same(
    record: SheetRecord | Sheet, prediction: Prediction, cell_id: str
) -> list[tuple[Cell, float]]:
    """The two cells whose predicted colour is nearest to a cell's, with the difference."""
    cells = record.sheet.cells if isinstance(record, SheetRecord) else record.cells
    place = next(i for i, cell in enumerate(cells) if cell.id == cell_id)
    away = delta_e_00(prediction.lab, prediction.lab[place])
    own = cells[place].recipe.key
    found = [(cells[i], float(away[i])) for i in np.argsort(away) if cells[i].recipe.key != own]
    return [entry for entry in found if np.isfinite(entry[1])][:2]
