"""`culmo plan` and `culmo order`."""

import argparse
import csv
import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from culmo.cli.output import open_study, output, say
from culmo.core.chart.board import Page
from culmo.core.chart.kinds import Choices, Knowledge, parts_of
from culmo.core.chart.order import Pace, plan_order, work_cost
from culmo.core.chart.papers import find_paper, length_mm
from culmo.core.chart.plans import plan_sheets
from culmo.core.chart.sheet import FORMAT, VERSION, Sheet, sheet_to_dict
from culmo.core.paint.recipe import Recipe, parse_recipe
from culmo.data import text_width_mm
from culmo.errors import CulmoError
from culmo.study.exchange import read_sheets
from culmo.study.tables import cells_csv

ENDINGS = (".json", ".csv", ".svg", ".pdf", ".png")
_GAPPED = {
    "ladder": 3.0,
    "wheel": 2.0,
    "against": 2.0,
    "free": 3.0,
    "keepers": 2.0,
    "palette": 2.0,
    "triangle": 1.0,
}


def split_names(text: str) -> list[str]:
    """Names with commas between; a name that holds a comma stands in double quotes."""
    names = next(csv.reader([text], skipinitialspace=True), [])
    return [name.strip() for name in names if name.strip()]


def cell_size(text: str) -> tuple[float, float] | None:
    """A wished cell such as 20 or 20x15; None for the largest."""
    if not text.strip():
        return None
    sides = [length_mm(side) for side in text.replace("×", "x").split("x")]
    if len(sides) > 2:
        raise CulmoError(f'"{text}" is not a cell size: write 20 or 20x15')
    return sides[0], sides[-1]


def _recipes(options: argparse.Namespace) -> tuple[Recipe, ...]:
    if options.kind == "keepers":
        if options.study is None:
            raise CulmoError("the keepers' page needs --study, where the keepers are marked")
        return _keepers(options.study)
    return tuple(parse_recipe(text) for text in options.recipes.split(";") if text.strip())


def _keepers(path: Path) -> tuple[Recipe, ...]:

    with open_study(path) as study:
        rows = study.rows("cells", "keeper = 1")
    return tuple({parse_recipe(row["recipe"]).key: parse_recipe(row["recipe"]) for row in rows}.values())


def _knowledge(options: argparse.Namespace) -> Knowledge:
    if options.readings is None and options.study is None:
        return Knowledge()
    from culmo.cli.loading import load_estimate
    from culmo.core.chart.knowledge import knowledge_of

    return knowledge_of(load_estimate(options))


def _choices(options: argparse.Namespace) -> Choices:
    names = split_names(options.paints)
    texts: tuple[str, ...] = ()
    if options.labels == "number":
        texts = tuple(str(place + 1) for place in range(len(names)))
    elif options.labels == "none":
        texts = ("",) * len(names)
    if options.kind in ("grid", "wheel", "triangle") and options.labels == "code":
        texts = tuple(names)  # without a study the codes are not known; the names stand in
    return Choices(
        paints=tuple(names),
        across=tuple(split_names(options.across)),
        second=options.second,
        extra=options.extra,
        split="" if options.cells == "whole" else options.cells,
        texts=texts,
        steps=options.steps,
        parts=parts_of(options.parts),
        even=options.even,
        wet=options.wet,
        way=options.way,
        places=options.places,
        shape=options.shape,
        rings=tuple(split_names(options.rings)),
        centre=options.centre,
        halves=options.halves,
        cover=options.cover,
        true_hues=options.true_hues,
        recipes=_recipes(options),
    )


def _page(options: argparse.Namespace) -> Page:
    gap = length_mm(options.gap) if options.gap else _GAPPED.get(options.kind, 0.0)
    return Page(
        paper=find_paper(options.paper),
        title=options.title,
        orientation=options.orientation,
        tape_mm=length_mm(options.margin),
        gap_mm=gap,
        cell_mm=cell_size(options.cell),
        square=options.square,
        unit=options.unit,
        note_mm=length_mm(options.note),
        gutter_mm=length_mm(options.gutter),
        marks=options.marks,
    )


def run_plan(options: argparse.Namespace) -> int:
    """`culmo plan`."""
    ending = options.out.suffix.casefold() if options.out else ".json"
    if ending not in ENDINGS:
        raise CulmoError(
            f'"{options.out.name}": the ending must be {", ".join(ENDINGS[:-1])} or {ENDINGS[-1]}'
        )
    sheets = plan_sheets(
        options.kind, _choices(options), _page(options), _knowledge(options), text_width_mm, options.several,
        label_place=options.label_place,
    )  # fmt: skip
    write_sheets(sheets, options.out, ending)
    return 0


def write_sheets(sheets: Sequence[Sheet], path: Path | None, ending: str) -> None:
    """Sheets by the ending of the path: one object or several under "sheets", one table, or pages."""
    if ending in (".svg", ".pdf", ".png"):
        assert path is not None
        _draw(sheets, path)
        return
    with output(path) as file:
        if ending == ".csv":
            tables = [cells_csv(sheet) for sheet in sheets]
            if len(tables) > 1:  # one table, with the page before each cell
                rows = [
                    line
                    for i, t in enumerate(tables, 1)
                    for line in (f"{i},{row}" for row in t.splitlines()[1:])
                ]
                tables = ["\n".join(["page," + tables[0].splitlines()[0], *rows]) + "\n"]
            file.write(tables[0])
        else:
            file.write(json.dumps(sheets_to_dict(sheets), indent=1) + "\n")


def sheets_to_dict(sheets: Sequence[Sheet]) -> dict[str, Any]:
    """One sheet as itself; several as a list under "sheets"."""
    if len(sheets) == 1:
        return sheet_to_dict(sheets[0])
    first = sheets[0]
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": first.title,
        "kind": first.kind,
        "sheets": [sheet_to_dict(sheet) for sheet in sheets],
    }


def _draw(sheets: Sequence[Sheet], path: Path) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from culmo.desk.app import make_app
    from culmo.desk.drawing.export import PrintOptions, export_sheets

    app = make_app()
    export_sheets(sheets, path, options=PrintOptions(numbers=False))
    del app


def run_order(options: argparse.Namespace) -> int:
    """`culmo order`."""
    pace = Pace(dry_minutes=options.dry_minutes)
    ordered = [plan_order(sheet, pace) if sheet.cells else sheet for sheet in read_sheets(options.sheet)]
    for sheet in ordered:
        cost = work_cost(sheet, pace)
        say(
            f"culmo: {sheet.title}: {cost.cells} cells, {cost.rinses} rinses (row by row: {cost.naive_rinses}), "
            f"{cost.waters} water changes, {cost.wait_minutes:.0f} minutes of waiting, about {cost.minutes:.0f} minutes"
        )
    with output(options.out) as file:
        file.write(json.dumps(sheets_to_dict(ordered), indent=1) + "\n")
    return 0
