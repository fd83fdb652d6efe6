"""Small builders for studies and sheets."""

from pathlib import Path

from culmo.core.chart.grid import GridPlan, plan_grid
from culmo.core.chart.order import plan_order
from culmo.core.chart.papers import find_paper
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix
from culmo.study import acts
from culmo.study.file import Study
from support.paints import make_painter

FIVE = ("Lemon", "Rose", "Ultramarine", "Viridian", "Ochre")


def make_sheet(names=FIVE, paper: str = "A4", **choices) -> Sheet:
    """A grid with its order of work."""
    return plan_order(plan_grid(GridPlan(tuple(names), find_paper(paper), "A grid", **choices)))


def make_study(path: Path, names=FIVE, cards: bool = True, clock=None) -> Study:
    """A study with paints, whose cards are read by a simulated instrument."""
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
