"""What each command does; the work itself is in the core and the study."""

import argparse
import csv
import json
from collections.abc import Iterator, Mapping
from itertools import islice
from pathlib import Path
from typing import TextIO

from culmo.cli.exchanging import run_export, run_import, run_paints
from culmo.cli.loading import learn_told, load_estimate, load_source
from culmo.cli.output import output, say, write_json
from culmo.cli.planning import run_order, run_plan
from culmo.cli.reading import run_read
from culmo.cli.weighing import palette_names, run_choose, run_compare, run_mix
from culmo.core.colour.srgb import hex_from_lab, lab_from_text
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.next_cells import choose_next, worth_of
from culmo.core.paint.predict import predict
from culmo.core.paint.questions import Question, about_colour, about_darks, about_paints
from culmo.core.paint.readings import GROUNDS, PAPER
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe
from culmo.data import schema
from culmo.errors import CulmoError
from culmo.study.exchange import read_sheets
from culmo.study.schema import VERSION
from culmo.study.tables import open_table

_BATCH = 4000
_TOLD = ("L", "a", "b", "hex", "dE90")
__all__ = [
    "run_check", "run_choose", "run_compare", "run_completion", "run_demo", "run_export", "run_import", "run_mix",
    "run_next", "run_order", "run_paints", "run_plan", "run_predict", "run_read", "run_restore",
]  # fmt: skip


# ---- predict


def run_predict(options: argparse.Namespace) -> int:
    """`culmo predict`."""
    estimate = load_estimate(options)
    rows = open_table(options.ask)
    first = next(rows, None)
    if first is None:
        raise CulmoError(f'"{options.ask.name}" asks for nothing: it has a header and no rows')
    if "recipe" not in first[1]:
        raise CulmoError(f'"{options.ask.name}" has no column "recipe"')

    def everything() -> Iterator[tuple[int, dict[str, str]]]:
        yield first
        yield from rows

    if options.out is None:  # what goes out by standard output can not be taken back
        for row in open_table(options.ask):
            _asked(estimate, row, options.ask.name)
    source = everything()
    columns = [*first[1], *(column for column in _TOLD if column not in first[1])]
    with output(options.out) as file:
        as_json = _AsJson(file) if options.json else None
        writer = as_json or csv.DictWriter(file, columns, lineterminator="\n")
        writer.writeheader()
        while batch := list(islice(source, _BATCH)):
            _predict_batch(estimate, batch, writer, options.ask.name)
        if as_json is not None:
            as_json.close()
    return 0


def _predict_batch(
    estimate: Estimate,
    batch: list[tuple[int, dict[str, str]]],
    writer: "csv.DictWriter[str] | _AsJson",
    name: str,
) -> None:
    recipes, grounds = [], []
    for entry in batch:
        recipe, ground = _asked(estimate, entry, name)
        recipes.append(recipe)
        grounds.append(ground)
    found = predict(estimate, recipes, grounds)
    for (_, row), lab, radius in zip(batch, found.lab, found.dE90, strict=True):
        L, a, b = (f"{value:.4f}" for value in lab)
        writer.writerow({**row, "L": L, "a": a, "b": b, "hex": hex_from_lab(lab), "dE90": f"{radius:.3f}"})


def _asked(estimate: Estimate, entry: tuple[int, dict[str, str]], name: str) -> tuple[Recipe, str]:
    """What a line of a table asks for: a recipe, and what it lies on."""
    line, row = entry
    try:
        recipe = parse_recipe(row["recipe"])
        for paint in recipe.names:
            if paint.casefold() not in estimate.index:
                raise CulmoError(f'recipe "{recipe}" names "{paint}", of which nothing is known')
        ground = row.get("ground", "").strip().casefold() or PAPER
        if ground not in GROUNDS:
            raise CulmoError(f'the ground is "{ground}"; it must be "paper" or "ink"')
    except CulmoError as error:
        raise CulmoError(f"{name}, line {line}: {error}") from None
    return recipe, ground


class _AsJson:
    """Writes predictions one after the other as one JSON object; has what a csv.DictWriter has that is used here."""

    def __init__(self, file: TextIO) -> None:
        self._file, self._count = file, 0

    def writeheader(self) -> None:
        self._file.write('{"format": "culmo-predictions", "version": 1, "colours": [')

    def writerow(self, row: Mapping[str, str]) -> None:
        asked = {key: value for key, value in row.items() if key not in _TOLD}
        lab = [float(row[axis]) for axis in "Lab"]
        entry = {**asked, "lab": lab, "hex": row["hex"], "dE90": float(row["dE90"])}
        self._file.write(f"{',' if self._count else ''}\n {json.dumps(entry, ensure_ascii=False)}")
        self._count += 1

    def close(self) -> None:
        self._file.write("\n]}\n")


# ---- next


def run_next(options: argparse.Namespace) -> int:
    """`culmo next`."""
    if options.count < 1:
        raise CulmoError("at least one cell must be asked for")
    sheets = read_sheets(options.sheet)
    if len(sheets) > 1:
        raise CulmoError(f'"{options.sheet.name}" holds {len(sheets)} sheets; choose for one at a time')
    (sheet,) = sheets
    source = load_source(options)
    names, readings = source.names, source.readings
    known = {name.casefold() for name in names}
    for cell in sheet.cells:  # a paint of the sheet of which nothing is known is learned as such
        for name in cell.recipe.names:
            if name.casefold() not in known:
                known.add(name.casefold())
                names.append(name)
                say(f'culmo: nothing is known of "{name}" yet')
    estimate = learn_told(source)
    done = {(reading.recipe.key, reading.ground) for reading in readings}
    # what teaches nothing is not asked for either
    read = [(cell.recipe.key, cell.ground) in done or not cell.is_wash for cell in sheet.cells]
    recipes, grounds = [cell.recipe for cell in sheet.cells], [cell.ground for cell in sheet.cells]
    about, question = _question(options, estimate, recipes)
    chosen = choose_next(estimate, recipes, options.count, read, grounds, question)
    worth = worth_of(estimate, recipes, chosen, read, grounds, question)
    say(f"culmo: {worth.chosen} cells; about as good as {worth.at_random} at random")
    with output(options.out) as file:
        if options.json:
            cells = [sheet.cells[place] for place in chosen]
            listed = [
                {"cell": cell.id, "recipe": format_recipe(cell.recipe), "ground": cell.ground}
                for cell in cells
            ]
            found = {"format": "culmo-next", "version": 1, "sheet": sheet.title, "cells": listed}
            write_json(file, {**found, "about": about, "at_random": worth.at_random})
        else:
            file.write("".join(f"{sheet.cells[place].id}\n" for place in chosen))
    return 0


def _question(
    options: argparse.Namespace, estimate: Estimate, recipes: list[Recipe]
) -> tuple[str, Question | None]:
    """What is to be known, in a word and as the core asks it."""
    names = list(dict.fromkeys(name for recipe in recipes for name in recipe.names))
    if options.paints is not None:
        own = palette_names(options.paints)
        unknown = [name for name in own if name.casefold() not in estimate.index]
        if unknown:
            raise CulmoError(f'nothing is known of "{", ".join(unknown)}"')
        return "paints", about_paints(list({name.casefold(): name for name in own}.values()))
    if options.darks and names:
        return "darks", about_darks(estimate, names)
    if options.colour is not None and names:
        return "colour", about_colour(estimate, lab_from_text(options.colour), names)
    return "sheet", None


# ---- demo, check and the like


def run_demo(options: argparse.Namespace) -> int:
    """`culmo demo`."""
    from culmo.demo.sample import put_sample, sample_path

    folder = options.folder
    if folder is None:
        if options.open:
            from culmo.desk.app import default_demo_folder

            folder = default_demo_folder()
        else:
            folder = Path.cwd()
    # the user's own sample, opened without naming a folder, keeps what was tried in it
    kept = options.open and options.folder is None and sample_path(folder).is_file()
    try:
        path = sample_path(folder) if kept else put_sample(folder)
    except OSError as error:
        raise CulmoError(f'"{folder}" can not be written ({error.strerror or error})') from None
    if options.open:
        from culmo.desk.app import run_window

        return run_window(path, options.shots)
    print(path)
    return 0


def run_check(options: argparse.Namespace) -> int:
    """`culmo check`."""
    from culmo.study.inspection import inspect
    from culmo.study.recovery import recover

    if options.recover is not None:
        print(recover(options.study, options.recover).words)
        print(f"{options.recover}: made from what could be read of {options.study}, which was left as it is")
        return 0

    found = inspect(options.study)
    for note in found.notes:
        say(f"culmo: {note}")
    if found.problems:
        raise CulmoError(f'"{options.study}" is not sound: ' + "; ".join(found.problems[:5]))
    # what is only considered is no paint of the study yet
    counts = {**found.counts, "paints": found.counts["paints"] - found.considered}
    facts = ", ".join(
        f"{counts[table]} {table}" for table in ("paints", "sheets", "cells", "readings", "events")
    )
    older = (
        "" if found.version == VERSION else f"; of version {found.version}, brought up to date when opened"
    )
    print(f"{options.study}: sound ({facts}){older}")
    return 0


def run_completion(options: argparse.Namespace) -> int:
    """`culmo completion`."""
    from culmo.cli.completion import script
    from culmo.cli.parser import build_parser

    with output(options.out) as file:
        file.write(script(build_parser(), options.shell))
    return 0


def run_schema(options: argparse.Namespace) -> int:
    """`culmo schema`."""
    with output(options.out) as file:
        file.write(schema(options.form))
    return 0


def run_restore(options: argparse.Namespace) -> int:
    """`culmo restore`."""
    from culmo.study.restoring import put_back

    kept = put_back(options.study, options.copy)
    print(f"{options.study}: put back from {options.copy}")
    if kept is not None:
        print(f"what was there before: {kept}")
    return 0
