"""A sheet planned anew after it was painted: what is carried over, and whether it can stay on its paper."""

import json
import random
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.chart.aids import Aids, rough_width_mm
from culmo.core.chart.order import plan_order
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.chart.versions import carried, moved_onto, stays
from culmo.data import text_width_mm
from support.plan_checker import faults_of


def ladder(steps: int, **more: str):
    return lay_out(plan_of("ladder", {"paints": "Rose,Lemon", "steps": str(steps), "paper": "A4", **more}))[0]


def grid(names: str, **more: str):
    return lay_out(plan_of("grid", {"paints": names, "paper": "A3", "cell_mm": "20", **more}))[0]


def test_the_rungs_of_a_longer_ladder_that_were_there_before_are_the_same_rungs():
    before, after = ladder(3), ladder(7)
    found = carried(before, after)
    assert {str(after.cell(new).recipe) for new in found} == {
        str(before.cell(old).recipe) for old in found.values()
    }
    assert len(set(found.values())) == len(found)
    assert len(found) >= 3  # both ends and the middle


def test_cells_that_are_alike_belong_together_each_once():
    before = grid("Rose,Lemon,Sea blue", form="square")
    found = carried(before, before)
    assert found == {cell.id: cell.id for cell in before.cells}
    fewer = replace(before, cells=before.cells[:2])
    assert len(carried(fewer, before)) == 2


@pytest.mark.parametrize("change", ["ground", "treatment", "mixing", "fade_mm"])
def test_a_cell_that_is_painted_otherwise_is_another(change):
    before = grid("Rose,Lemon")
    other = {"ground": "ink", "treatment": "lifted", "mixing": "wet", "fade_mm": ((0.0, 0.0), (1.0, 0.0))}[
        change
    ]
    after = replace(before, cells=tuple(replace(cell, **{change: other}) for cell in before.cells))
    assert carried(before, after) == {}


def test_another_paint_in_a_grid_comes_on_the_same_paper():
    before, laid = grid("Rose,Lemon,Sea blue"), grid("Rose,Lemon,Sea blue,Rust earth")
    painted = {cell.id for cell in before.cells}
    assert not stays(before, laid, painted)  # the block stands in the middle: it has moved
    moved = moved_onto(before, laid, painted, rough_width_mm)
    assert moved is not None
    assert stays(before, moved, painted)
    for cell in before.cells:
        assert np.allclose(moved.cell(cell.id).outline_mm, cell.outline_mm, atol=0.06)
    assert len(moved.cells) == 16
    assert moved.ruling.vertical_mm[0] == pytest.approx(before.ruling.vertical_mm[0], abs=0.06)
    texts = {label.text: label.at_mm for label in moved.labels}
    assert texts["Rose"] != {label.text: label.at_mm for label in laid.labels}["Rose"]


def test_what_would_leave_the_paper_or_has_another_size_does_not_stay():
    before = grid("Rose,Lemon,Sea blue")
    painted = {cell.id for cell in before.cells}
    at_the_edge = replace(
        before,
        cells=tuple(
            replace(cell, outline_mm=tuple((x + 150.0, y) for x, y in cell.outline_mm))
            for cell in before.cells
        ),
    )
    longer = grid("Rose,Lemon,Sea blue,Rust earth,Deep sea,Leaf green,Ochre")
    assert moved_onto(at_the_edge, longer, painted, rough_width_mm) is None
    assert moved_onto(before, grid("Rose,Lemon,Sea blue", cell_mm="22"), painted, rough_width_mm) is None
    assert moved_onto(before, grid("Rose,Lemon,Sea blue", paper="A4"), painted, rough_width_mm) is None
    assert moved_onto(before, before, set(), rough_width_mm) is None
    assert not stays(before, grid("Lemon,Rose,Sea blue"), painted)


@pytest.mark.parametrize("seed", range(12))
def test_what_comes_beside_the_painted_cells_is_laid_out_as_well_as_the_rest(seed):
    """The checker that was written apart from the planner finds nothing in a sheet that was extended on its paper."""
    chance = random.Random(seed)
    count = chance.randint(2, 5)
    names = ["Rose", "Lemon", "Sea blue", "Rust earth", "A paint with a very long name", "Moss", "Ash"]
    given = {
        "paper": chance.choice(("A4", "A3")), "cell_mm": chance.choice(("15", "18", "1 in")),
        "title": chance.choice(("", "Moths")), "gap_mm": chance.choice(("0", "2")), "marks": chance.choice(("", "yes")),
        "split": chance.choice(("", "diagonal")), "round": chance.choice(("", "yes")),
    }  # fmt: skip
    measure = Aids(text_width_mm)
    before = lay_out(plan_of("grid", {**given, "paints": ", ".join(names[:count])}), measure)[0]
    after = lay_out(plan_of("grid", {**given, "paints": ", ".join(names[: count + 2])}), measure)[0]
    moved = moved_onto(before, after, {cell.id for cell in before.cells}, text_width_mm)
    if moved is None:
        assert len(before.cells) > 8  # a small block leaves room beside it
        return
    assert faults_of(json.loads(json.dumps(sheet_to_dict(plan_order(moved))))) == []
