"""Small builders for studies and sheets."""

import sqlite3
from contextlib import closing
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

from culmo.core.chart.aids import Aids, Measure, rough_width_mm
from culmo.core.chart.order import plan_order
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix
from culmo.data import pigment_table
from culmo.demo.sample import put_sample
from culmo.study import acts, connection
from culmo.study.file import Study
from support.paints import make_painter

FIVE = ("Lemon", "Rose", "Ultramarine", "Viridian", "Ochre")


def laid_out(kind: str, measure: Measure = rough_width_mm, aids: Aids | None = None, **given) -> list[Sheet]:
    """The sheets of a kind, of options as they would be typed or as values."""
    return lay_out(plan_of(kind, given), aids or Aids(measure))


def make_sheet(names=FIVE, paper: str = "A4", **given) -> Sheet:
    """A grid with its order of work; made once for all that ask for the same, since the order takes its time."""
    wished = {"paints": tuple(names), "paper": paper, "title": "A grid", **given}
    return _ordered_grid(tuple(sorted(wished.items())))


@cache
def _ordered_grid(wished: tuple[tuple[str, object], ...]) -> Sheet:
    return plan_order(laid_out("grid", **dict(wished))[0])


def sample_study(folder: Path) -> Path:
    """The sample study in a folder, as it ships."""
    return put_sample(folder)


def make_study(path: Path, names=FIVE, cards: bool = True, clock=None) -> Study:
    """A study with paints, whose cards are read by a simulated instrument; painted once for all that ask for the same."""
    if clock:
        return _painted(path, names, cards, clock)
    with path.open("xb") as file:
        file.write(_painted_before(tuple(names), cards))
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.execute("PRAGMA synchronous=OFF")
        connection.new_origin(db)
    return Study(path)


@cache
def _painted_before(names: tuple[str, ...], cards: bool) -> bytes:
    with TemporaryDirectory() as folder:
        path = Path(folder, "a.culmo")
        _painted(path, names, cards).close()
        return path.read_bytes()


def _painted(path: Path, names, cards: bool, clock=None) -> Study:
    study = Study.create(path, "A study", *([clock] if clock else []))
    painter = make_painter(len(names), 3)
    for name, paint in zip(names, painter.paints, strict=True):
        full, tint = mix([paint.name]), mix([paint.name], wash=0.2)
        looks = [(full, "paper"), (tint, "paper"), (full, INK)]
        card = [
            Reading(recipe.renamed(lambda _, name=name: name), tuple(painter.paint(recipe, ground)), ground)
            for recipe, ground in looks
        ]
        study.apply(acts.add_paint(study, acts.PaintEntry(name, "PB29"), card if cards else ()))
    return study


def make_coded_study(path, count: int) -> None:
    """A study of paints that are known by their codes alone."""
    codes = list(pigment_table())[:20]
    with Study.create(path, "Codes") as study:
        for place in range(count):
            study.apply(
                acts.add_paint(study, acts.PaintEntry(f"Paint {place + 1}", codes[place % len(codes)]))
            )
