"""Which cells were painted from one puddle: by their mix, their run, and how long it was left."""

from datetime import datetime, timedelta

import pytest

from culmo.core.paint.recipe import parse_recipe
from culmo.study import acts, paint_acts, records
from culmo.study.puddles import puddles, with_puddles
from support.builders import FIVE, make_sheet


@pytest.fixture
def grid(study):
    """A grid of four, full above and pale below its diagonal: the number of each cell by its recipe."""
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:4])))
    return {str(entry.cell.recipe): entry.id for entry in records.sheet_record(study, 1).cells}


def paint(study, cell, minutes, how="tray", act="done"):
    at = (datetime.fromisoformat("2026-10-01T09:00:00+02:00") + timedelta(minutes=minutes)).isoformat()
    study.apply(paint_acts.paint_cell(study, 1, cell, act, how, at=at))


def of_two(grid):
    """Pairs of cells, full and pale, of one mix."""
    found = {}
    for text, cell in grid.items():
        recipe = parse_recipe(text)
        if len(recipe.names) == 2:
            found.setdefault(recipe.with_wash(1.0).key, []).append(cell)
    return [cells for cells in found.values() if len(cells) == 2]


def test_full_and_pale_of_a_mix_are_of_one_puddle_and_other_mixes_are_not(study, grid):
    one, other = of_two(grid)[:2]
    for minutes, cell in enumerate((one[0], other[0], other[1], one[1])):
        paint(study, cell, minutes)
    found = puddles(study)
    assert found[one[0]] == found[one[1]] != found[other[0]] == found[other[1]]


def test_a_puddle_that_was_left_for_long_is_another(study, grid):
    one, other = of_two(grid)[:2]
    for minutes, cell in ((0, one[0]), (29, one[1]), (30, other[0]), (61, other[1])):
        paint(study, cell, minutes)
    found = puddles(study)
    assert found[one[0]] == found[one[1]]
    assert found[other[0]] != found[other[1]]


def test_a_cell_that_is_painted_again_is_of_its_last_puddle(study, grid):
    (one, other), _ = of_two(grid)[0], None
    paint(study, one, 0)
    paint(study, other, 100)
    paint(study, one, 101)
    found = puddles(study)
    assert found[one] == found[other]


def test_one_paint_alone_and_what_met_on_the_paper_was_in_no_puddle(study, grid):
    one = of_two(grid)[0]
    alone = next(cell for text, cell in grid.items() if len(parse_recipe(text).names) == 1)
    paint(study, alone, 0)
    paint(study, one[0], 1, "paper")
    paint(study, one[1], 2, act="skip")
    assert puddles(study) == {}


def test_readings_say_their_puddle_and_learning_knows_it(study, grid):
    one, other = of_two(grid)[:2]
    for minutes, cell in enumerate((*one, other[0])):
        paint(study, cell, minutes)
        study.apply(acts.read_cell(study, 1, cell, (50.0, 5.0, 5.0)))
    rows = with_puddles(records.reading_rows(study), puddles(study))
    told = {row["cell_id"]: records.reading_of(row).puddle for row in rows}
    assert told[one[0]] == told[one[1]] is not None
    assert told[other[0]] not in (None, told[one[0]])
    assert records.reading_of(records.reading_rows(study)[0]).puddle is None
