"""Which cells were painted from one puddle: by their mix, their run, and how long it was left."""

from dataclasses import replace
from datetime import datetime, timedelta

import pytest

from culmo.core.chart.papers import Paper
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study import acts, paint_acts, records
from culmo.study.learned import fingerprint
from culmo.study.papers import OwnPaper, keep_paper, remove_paper
from culmo.study.scraps import read_scrap, scrap_read
from culmo.study.told import told, told_by_strokes, with_told
from support.builders import FIVE, make_sheet


def puddles(study):
    return {cell: own.puddle for cell, own in told_by_strokes(study).items() if own.puddle is not None}


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
    rows = with_told(records.reading_rows(study), told(study))
    found = {row["cell_id"]: records.reading_of(row).puddle for row in rows}
    assert found[one[0]] == found[one[1]] is not None
    assert found[other[0]] not in (None, found[one[0]])
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
    rows = with_told(records.reading_rows(study), told(study))
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
    before = fingerprint(codes, with_told(records.reading_rows(study), told(study)))
    study.apply(paint_acts.mark_stroke(study, 1, "granulates"))
    assert fingerprint(codes, with_told(records.reading_rows(study), told(study))) == before
    study.apply(paint_acts.mark_stroke(study, 1, "paler"))
    assert fingerprint(codes, with_told(records.reading_rows(study), told(study))) != before


def test_a_scrap_is_of_the_puddle_of_its_cell(study, grid):
    one, other = of_two(grid)[:2]
    cards = len(study.rows("readings"))
    study.apply(read_scrap(study, 1, one[0], (48.0, 5.0, 5.0)))
    rows = with_told(records.reading_rows(study), told(study))
    assert records.reading_of(rows[-1]).puddle is None  # nothing is painted from it yet
    for minutes, cell in enumerate((*one, other[0])):
        paint(study, cell, minutes)
        study.apply(acts.read_cell(study, 1, cell, (50.0, 5.0, 5.0)))
    study.apply(paint_acts.mark_stroke(study, 1, "paler"))  # the cell did, not the scrap
    rows = with_told(records.reading_rows(study), told(study))
    scrap, first, second, apart = (records.reading_of(row) for row in rows[cards:])
    assert scrap.puddle == first.puddle == second.puddle != apart.puddle
    assert (scrap.depth, first.depth) == ("", "paler")
    assert scrap.teaches and scrap.recipe == first.recipe
    # another look takes its place, and undo brings the first one back
    study.apply(read_scrap(study, 1, one[0], (44.0, 5.0, 5.0)))
    assert [row["L"] for row in study.rows("readings", "cell_id IS NULL")][cards:] == [44.0]
    assert scrap_read(study, one[0])["L"] == 44.0 and scrap_read(study, other[0]) is None
    with pytest.raises(CulmoError):
        read_scrap(study, 1, one[0], (140.0, 5.0, 5.0))


# ---- papers


@pytest.fixture
def two_papers(study):
    """A sheet on a common paper and one on a pad of the painter's own, both read: their cells."""
    study.apply(keep_paper(study, OwnPaper(Paper("Rough pad", 297.0, 210.0), tooth="rough")))
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:3])))
    sheet = make_sheet(names=FIVE[:3])
    pad = replace(sheet, title="Pad", paper=replace(sheet.paper, name="ROUGH pad"))
    study.apply(acts.add_sheet(study, pad))
    return [[entry.id for entry in records.sheet_record(study, number).cells] for number in (1, 2)]


def _papers(study):
    rows = with_told(records.reading_rows(study), told(study))
    return {row["cell_id"]: records.reading_of(row).paper for row in rows if row["cell_id"]}


def test_readings_know_the_painters_other_paper(study, two_papers):
    usual, pad = two_papers
    for cell in usual[:4]:
        study.apply(acts.read_cell(study, 1, cell, (50.0, 5.0, 5.0)))
    for cell in pad[:2]:
        study.apply(acts.read_cell(study, 2, cell, (50.0, 5.0, 5.0)))
    assert _papers(study) == {**dict.fromkeys(usual[:4], ""), **dict.fromkeys(pad[:2], "Rough pad")}
    assert {row["paper"] for row in study.rows("readings")} == {""}  # the record says no more than it did
    # the paper that most is read on is the usual one, and bears no name
    for cell in pad[2:8]:
        study.apply(acts.read_cell(study, 2, cell, (50.0, 5.0, 5.0)))
    assert set(_papers(study).values()) == {""}


def test_a_common_paper_and_one_that_is_let_go_of_are_the_usual_one(study, two_papers):
    usual, pad = two_papers
    for number, cells in ((1, usual[:3]), (2, pad[:1])):
        for cell in cells:
            study.apply(acts.read_cell(study, number, cell, (50.0, 5.0, 5.0)))
    assert set(_papers(study).values()) == {"", "Rough pad"}
    study.apply(remove_paper(study, 1))
    assert set(_papers(study).values()) == {""}
