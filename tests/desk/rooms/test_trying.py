"""What is said of a layout that is tried: how even its steps are, and that a prediction stands as long as it can."""

import warnings
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.chart.aids import Aids
from culmo.core.chart.knowledge import knowledge_of
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.paint.estimate import learn
from culmo.core.steps import run_through
from culmo.desk.rooms.plan.trying import Predicted, TrialWish, even_words
from culmo.study import records
from support.builders import FIVE, make_study


@pytest.fixture(scope="module")
def estimate(tmp_path_factory):
    with make_study(tmp_path_factory.mktemp("five") / "five.culmo") as study:
        return learn(list(FIVE), records.readings(study))


@pytest.mark.parametrize(("kind", "rows"), [("rows", 2), ("ladder", 1)])
def test_the_differences_of_even_steps_are_told_as_another_formula_finds_them(estimate, kind, rows):
    first, second, third = FIVE[:3]
    given = {"even": "yes", "paper": "A4", "steps": "7"}
    given |= (
        {"rows": f"{first}, {second}: 7\n{second}, {third}: 5"}
        if kind == "rows"
        else {"paints": f"{first}, {second}"}
    )
    wish = TrialWish(plan_of(kind, given), Aids(known=knowledge_of(estimate)), estimate=estimate)
    tried = run_through(wish.trying())
    lines = [line for line in tried.note.splitlines() if "eighbours differ" in line]
    assert len(lines) == rows
    cells, lab = tried.sheets[0].cells, tried.predicted.prediction.lab
    run = [
        i for i, c in enumerate(cells) if (c.id.startswith("r01") if kind == "rows" else c.id.endswith("c01"))
    ]
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    gaps = colour.delta_E(lab[run[:-1]], lab[run[1:]], method="CIE 2000")
    assert f"{gaps.min():.1f} to {gaps.max():.1f}" in lines[0]
    assert even_words(tried.sheets[0], None) == ""


def test_a_prediction_stands_for_the_same_mixes_and_not_for_others(estimate):
    sheet = lay_out(plan_of("grid", {"paints": list(FIVE[:3]), "paper": "A4"}))[0]
    found = Predicted().of(sheet, estimate)
    moved = replace(sheet, cells=tuple(replace(cell, order=7) for cell in sheet.cells))
    assert found.of(moved, estimate).prediction is found.prediction
    assert found.of(sheet, estimate) is found
    other = found.of(replace(sheet, cells=sheet.cells[::-1]), estimate)
    assert other.prediction is not found.prediction
    assert np.allclose(other.prediction.lab, found.prediction.lab[::-1])
    assert found.of(sheet, None).prediction is None
    # on another paper it may be another colour
    on_other = replace(sheet, paper=replace(sheet.paper, name="My pad"))
    assert found.of(on_other, estimate).prediction is not found.prediction
    strange = lay_out(plan_of("grid", {"paints": ["Nobody", FIVE[0]], "paper": "A4"}))[0]
    # of a sheet with a paint of which nothing is known, its own cells alone are not foretold
    partly = found.of(strange, estimate).prediction
    known = [all(name.casefold() in estimate.index for name in cell.recipe.names) for cell in strange.cells]
    assert [partly.at(place) is not None for place in range(len(known))] == known
    assert any(known) and not all(known)
