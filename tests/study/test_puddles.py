"""Which cells were painted from one puddle: by their mix, their run, and how long it was left."""

from datetime import datetime, timedelta

import pytest

from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study import acts, paint_acts, records
from culmo.study.learned import fingerprint
from culmo.study.puddles import told_by_strokes, with_strokes
from support.builders import FIVE, make_sheet


def puddles(study):
    return {cell: told.puddle for cell, told in told_by_strokes(study).items() if told.puddle is not None}


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
    rows = with_strokes(records.reading_rows(study), told_by_strokes(study))
    told = {row["cell_id"]: records.reading_of(row).puddle for row in rows}
    assert told[one[0]] == told[one[1]] is not None
    assert told[other[0]] not in (None, told[one[0]])
    assert records.reading_of(records.reading_rows(study)[0]).puddle is None


def test_marks_say_how_deep_a_cell_came_out_and_learning_knows_it(study, grid):
    one, other = of_two(grid)[:2]
    for minutes, cell in enumerate((*one, other[0])):
        paint(study, cell, minutes)
        study.apply(acts.read_cell(study, 1, cell, (50.0, 5.0, 5.0)))
    strokes = {row["cell_id"]: row["id"] for row in study.rows("strokes")}
    study.apply(paint_acts.mark_stroke(study, strokes[one[0]], "granulates"))
    study.apply(paint_acts.mark_stroke(study, strokes[one[0]], "paler"))
    study.apply(paint_acts.mark_stroke(study, strokes[one[1]], "paler"))
    study.apply(paint_acts.mark_stroke(study, strokes[one[1]], "stronger"))  # not both
    assert study.row("strokes", strokes[one[0]])["marks"] == "granulates paler"
    assert study.row("strokes", strokes[one[1]])["marks"] == "stronger"
    rows = with_strokes(records.reading_rows(study), told_by_strokes(study))
    depths = {row["cell_id"]: records.reading_of(row) for row in rows}
    assert [depths[cell].depth for cell in (*one, other[0])] == ["paler", "stronger", ""]
    assert depths[one[0]].off < 0.0 < depths[one[1]].off
    study.apply(paint_acts.mark_stroke(study, strokes[one[0]], "paler"))  # taken away again
    assert told_by_strokes(study)[one[0]].depth == ""
    # what is painted again came out otherwise
    paint(study, one[1], 20)
    assert told_by_strokes(study)[one[1]].depth == ""


def test_what_is_learned_from_marks_is_kept_apart(study, grid):
    """What was learned without a mark is not taken for what is learned with it."""
    one = of_two(grid)[0]
    paint(study, one[0], 0)
    study.apply(acts.read_cell(study, 1, one[0], (50.0, 5.0, 5.0)))
    codes = [(name, "") for name in FIVE[:4]]
    before = fingerprint(codes, with_strokes(records.reading_rows(study), told_by_strokes(study)))
    study.apply(paint_acts.mark_stroke(study, 1, "granulates"))
    assert fingerprint(codes, with_strokes(records.reading_rows(study), told_by_strokes(study))) == before
    study.apply(paint_acts.mark_stroke(study, 1, "paler"))
    assert fingerprint(codes, with_strokes(records.reading_rows(study), told_by_strokes(study))) != before


def test_a_scrap_is_of_the_puddle_of_its_cell(study, grid):
    one, other = of_two(grid)[:2]
    cards = len(study.rows("readings"))
    study.apply(acts.read_scrap(study, 1, one[0], (48.0, 5.0, 5.0)))
    rows = with_strokes(records.reading_rows(study), told_by_strokes(study))
    assert records.reading_of(rows[-1]).puddle is None  # nothing is painted from it yet
    for minutes, cell in enumerate((*one, other[0])):
        paint(study, cell, minutes)
        study.apply(acts.read_cell(study, 1, cell, (50.0, 5.0, 5.0)))
    study.apply(paint_acts.mark_stroke(study, 1, "paler"))  # the cell did, not the scrap
    rows = with_strokes(records.reading_rows(study), told_by_strokes(study))
    scrap, first, second, apart = (records.reading_of(row) for row in rows[cards:])
    assert scrap.puddle == first.puddle == second.puddle != apart.puddle
    assert (scrap.depth, first.depth) == ("", "paler")
    assert scrap.teaches and scrap.recipe == first.recipe
    # another look takes its place, and undo brings the first one back
    study.apply(acts.read_scrap(study, 1, one[0], (44.0, 5.0, 5.0)))
    assert [row["L"] for row in study.rows("readings", "cell_id IS NULL")][cards:] == [44.0]
    assert records.scrap_read(study, one[0])["L"] == 44.0 and records.scrap_read(study, other[0]) is None
    with pytest.raises(CulmoError):
        acts.read_scrap(study, 1, one[0], (140.0, 5.0, 5.0))
