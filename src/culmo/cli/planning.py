"""`culmo plan` and `culmo order`."""

import argparse
import json
import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from culmo.cli.output import open_study, output, say
from culmo.core.chart.aids import Aids
from culmo.core.chart.lengths import says_unit
from culmo.core.chart.options import CellSize, Length
from culmo.core.chart.order import plan_order, work_cost
from culmo.core.chart.plans import advice, described, eased_words, lay_out, plan_of
from culmo.core.chart.sheet import FORMAT, VERSION, Sheet, sheet_to_dict
from culmo.core.chart.washes import Pace, Traits
from culmo.data import text_width_mm
from culmo.errors import CulmoError
from culmo.study.exchange import read_sheets
from culmo.study.formats import Holds, written
from culmo.study.own_tests import labels_in
from culmo.study.papers import own_paper
from culmo.study.records import kept_mixes, paint_numbers, paints
from culmo.study.tables import cells_csv
from culmo.study.traits import lightness_of, traits_of

ENDINGS = written(Holds.SHEETS, Holds.CELLS, Holds.DRAWING)


def _aids(options: argparse.Namespace) -> Aids:
    """What is known of the paints: from the readings, or from the study, with their codes and the keepers."""
    if options.kind == "keepers" and options.study is None:
        raise CulmoError("the keepers' page needs --study, where the keepers are marked")
    if options.readings is None and options.study is None:
        return Aids(text_width_mm)
    from culmo.cli.loading import load_estimate
    from culmo.core.chart.knowledge import knowledge_of

    known = knowledge_of(load_estimate(options))
    if options.study is None:
        return Aids(text_width_mm, known)
    with open_study(options.study) as study:
        codes = {paint.name.casefold(): paint.codes for paint in paints(study, retired=True)}
        return Aids(text_width_mm, known, codes, kept_mixes(study), paint_numbers(study))


def run_plan(options: argparse.Namespace) -> int:
    """`culmo plan`."""
    ending = options.out.suffix.casefold() if options.out else ".json"
    if ending not in ENDINGS:
        raise CulmoError(
            f'"{options.out.name}": the ending must be {", ".join(ENDINGS[:-1])} or {ENDINGS[-1]}'
        )
    given = {name: value for name in described() if (value := getattr(options, name)) is not None}
    _take_own_paper(options, given)
    plan = plan_of(options.kind, given)
    aids = _aids(options)
    try:
        sheets = lay_out(plan, aids)
    except CulmoError as error:
        hints = "".join(f" {hint.words}" for hint in advice(plan, aids))
        raise CulmoError(f"{error}.{hints}" if hints else str(error)) from None
    _say_units(given)
    if eased := eased_words(sheets):
        say(f"culmo: {eased}")
    write_sheets(sheets, options.out, ending)
    return 0


def _take_own_paper(options: argparse.Namespace, given: dict[str, Any]) -> None:
    """Where the study has a paper of the name that was given, it is meant, with its gutter."""
    if options.study is None or "paper" not in given:
        return
    with open_study(options.study) as study:
        own = own_paper(study, given["paper"])
    if own is not None:
        given["paper"] = own.paper
        given.setdefault("gutter_mm", f"{own.gutter_mm:g} mm")


def _say_units(given: Mapping[str, Any]) -> None:
    """Say which lengths are taken in millimetres, since they name no unit."""
    for name, own in described().items():
        text = str(given.get(name, ""))
        bare = isinstance(own.form, Length | CellSize) and any(digit in text for digit in "123456789")
        if bare and not says_unit(text):
            say(f'culmo: --{own.command or name.replace("_", "-")} "{text}" is taken in millimetres')


def write_sheets(sheets: Sequence[Sheet], path: Path | None, ending: str) -> None:
    """Sheets by the ending of the path: one object or several under "sheets", one table, or pages."""
    if ending in written(Holds.DRAWING):
        assert path is not None
        _draw(sheets, path)
        return
    with output(path) as file:
        if ending in written(Holds.CELLS):
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
    os.environ["QT_QPA_PLATFORM"] = "offscreen"  # whatever is wished for the window: it is drawn to a file
    from culmo.desk.app import make_app
    from culmo.desk.drawing.export import PrintOptions, export_sheets

    app = make_app()
    export_sheets(sheets, path, options=PrintOptions(numbers=False))
    del app


def _traits(options: argparse.Namespace) -> Traits:
    """What is known of the paints, to go from light to dark; nothing where neither readings nor a study are named."""
    if options.readings is None and options.study is None:
        return Traits()
    from culmo.cli.loading import load_estimate

    estimate = load_estimate(options)
    if options.study is None:
        return Traits(lightness_of(estimate, estimate.names))
    with open_study(options.study) as study:
        known = paints(study, retired=True)
        return traits_of(known, labels_in(study, known, estimate), estimate)


def run_order(options: argparse.Namespace) -> int:
    """`culmo order`."""
    pace = Pace(dry_minutes=options.dry_minutes)
    traits = _traits(options)
    ordered = [
        plan_order(sheet, pace, traits) if sheet.cells else sheet for sheet in read_sheets(options.sheet)
    ]
    for sheet in ordered:
        cost = work_cost(sheet, pace)
        say(
            f"culmo: {sheet.title}: {cost.cells} cells, {cost.rinses} rinses (row by row: {cost.naive_rinses}), "
            f"{cost.waters} water changes, {cost.wait_minutes:.0f} minutes of waiting, about {cost.minutes:.0f} minutes"
        )
    with output(options.out) as file:
        file.write(json.dumps(sheets_to_dict(ordered), indent=1) + "\n")
    return 0
