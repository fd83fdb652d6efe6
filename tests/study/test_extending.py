"""A painted sheet that is planned anew loses nothing of its record, in the study file."""

import shutil
from pathlib import Path

import pytest

from culmo.core.chart.plans import lay_out, plan_of
from culmo.study import acts, paint_acts, records
from culmo.study.due import DueBook, DueKind
from culmo.study.file import Study
from culmo.study.sharing import shared_sheet
from support.builders import FIVE, make_study

LEMON, ROSE = FIVE[0], FIVE[1]


def ladder(steps: int, title: str = "Ladder"):
    given = {"rows": f"{LEMON}, {ROSE}: {steps}", "paper": "A4", "title": title}
    return lay_out(plan_of("rows", given))[0]


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo") as study:
        yield study


@pytest.fixture
def painted(study):
    """A study with a ladder of three that is painted, its first rung read, marked and noted; gives its first version."""
    study.apply(acts.add_sheet(study, ladder(3)))
    record = records.sheet_record(study, 1)
    for entry in record.cells:
        study.apply(paint_acts.paint_cell(study, 1, entry.id))
    first = record.cells[0]
    study.apply(acts.read_cell(study, 1, first.id, (60.0, 20.0, 30.0)))
    study.apply(acts.mark_keeper(study, first.id, True))
    study.apply(acts.note_cell(study, first.id, "like a ripe pear"))
    return record


def extended(study, steps: int = 7) -> records.SheetRecord:
    study.apply(acts.change_sheet(study, 1, ladder(steps)))
    return records.sheet_record(study, study.rows("sheets")[-1]["id"])


def test_what_is_painted_counts_in_the_longer_ladder_and_nothing_of_the_old_is_changed(study, painted):
    before = {table: study.rows(table) for table in ("strokes", "readings", "cells", "runs")}
    record = extended(study)
    assert record.id != painted.id
    shared = [entry for entry in record.cells if entry.of_cell is not None]
    assert 0 < len(shared) < len(record.cells)
    assert set(records.painted_cells(study, record.id)) == {entry.id for entry in shared}
    assert {row["L"] for row in records.read_cells(study, record.id).values()} == {60.0}
    first = next(entry for entry in record.cells if entry.of_cell == painted.cells[0].id)
    assert (first.keeper, first.note) == (True, "like a ripe pear")
    for table, rows in before.items():
        assert study.rows(table)[: len(rows)] == rows
    assert records.versions_of(study, painted.id) == [record.id, painted.id]
    titles = [title for _, title in records.with_versions(study)]
    assert titles[0] == "Ladder"
    assert titles[1].startswith("Ladder, version 1 of ")


def test_what_is_done_to_a_shared_cell_is_done_to_the_one_record(study, painted):
    record = extended(study)
    own = next(entry.id for entry in record.cells if entry.of_cell == painted.cells[0].id)
    study.apply(acts.mark_keeper(study, own, False))
    study.apply(acts.note_cell(study, own, "not so ripe"))
    study.apply(acts.read_cell(study, record.id, own, (61.0, 21.0, 31.0)))
    assert records.kept_mixes(study) == []
    entry = next(entry for entry in records.sheet_record(study, record.id).cells if entry.id == own)
    assert (entry.keeper, entry.note) == (False, "not so ripe")
    cards = len(study.rows("readings", "source = 'card'"))
    assert len(study.rows("readings")) == cards + 1  # it took the place of the first: it is the same paint
    assert records.read_cells(study, record.id)[own]["L"] == 61.0
    study.apply(paint_acts.paint_cell(study, record.id, own))  # it is painted again on the new paper
    study.apply(acts.read_cell(study, record.id, own, (55.0, 0.0, 0.0)))
    assert {row["L"] for row in study.rows("readings", "source = 'typed'")} == {61.0, 55.0}
    assert records.read_cells(study, record.id)[own]["L"] == 55.0


def test_painting_the_rest_ends_the_run_and_what_is_due_counts_both_papers(study, painted):
    record = extended(study)
    fresh = {(due.kind, due.sheet_id): due.words for due in DueBook(study).due()}
    shared = sum(entry.of_cell is not None for entry in record.cells)
    assert f"{shared} of {len(record.cells)}" in fresh[DueKind.HALF, record.id]
    for entry in record.cells:
        if entry.of_cell is None:
            study.apply(paint_acts.paint_cell(study, record.id, entry.id))
    assert study.rows("runs")[-1]["ended"] is not None
    assert (DueKind.HALF, record.id) not in {(due.kind, due.sheet_id) for due in DueBook(study).due()}


def test_a_stroke_on_the_earlier_paper_counts_at_once_in_what_is_due(study):
    study.apply(acts.add_sheet(study, ladder(3)))
    cells = records.sheet_record(study, 1).cells
    study.apply(paint_acts.paint_cell(study, 1, cells[0].id))
    study.apply(acts.change_sheet(study, 1, ladder(7)))
    newest = study.rows("sheets")[-1]["id"]
    book = DueBook(study)
    before = {(due.kind, due.sheet_id): due.words for due in book.due()}
    command = paint_acts.paint_cell(study, 1, cells[1].id)
    study.apply(command)
    book.touch(command.changes)
    after = {(due.kind, due.sheet_id): due.words for due in book.due()}
    assert before[DueKind.HALF, newest].startswith("1 of")
    assert after[DueKind.HALF, newest].startswith("2 of")


def test_a_version_of_a_version_reaches_back_to_the_first_and_taking_back_stays_on_its_own_paper(
    study, painted
):
    record = extended(study)
    own = next(entry for entry in record.cells if entry.of_cell is None)
    study.apply(paint_acts.paint_cell(study, record.id, own.id))
    study.apply(acts.change_sheet(study, record.id, ladder(13)))
    last = records.sheet_record(study, study.rows("sheets")[-1]["id"])
    assert len(records.painted_cells(study, last.id)) == len(records.painted_cells(study, record.id))
    assert paint_acts.take_back(study, last.id) is None
    assert len(records.versions_of(study, last.id)) == 3
    assert len(shared_sheet(study, last.id)["readings"]) == 1


def test_what_one_version_left_out_comes_back_with_its_record(study, painted):
    record = extended(study, 2)  # the middle rung is gone
    study.apply(paint_acts.paint_cell(study, record.id, record.cells[0].id))
    assert len(records.painted_cells(study, record.id)) == 2
    study.apply(acts.change_sheet(study, record.id, ladder(3)))
    last = study.rows("sheets")[-1]["id"]
    assert len(records.painted_cells(study, last)) == 3
    lines = records.earlier_cells(study, last)
    assert len(lines) == 3 + 2 + 3  # each row belongs to one cell of the last


def test_a_version_that_is_not_begun_is_planned_anew_without_another(study, painted):
    record = extended(study)
    study.apply(acts.change_sheet(study, record.id, ladder(5)))
    assert len(study.rows("sheets")) == 2
    again = records.sheet_record(study, record.id)
    assert (
        sum(entry.of_cell is not None for entry in again.cells)
        == len(records.painted_cells(study, record.id))
        > 0
    )


def test_more_cells_on_the_same_paper_are_the_same_sheet_and_undo_gives_the_old_one_back(study):
    given = {"paints": list(FIVE[:3]), "paper": "A3", "cell_mm": "20", "title": "Grid"}
    before = lay_out(plan_of("grid", given))[0]
    study.apply(acts.add_sheet(study, before))
    cell = records.sheet_record(study, 1).cells[0]
    study.apply(paint_acts.paint_cell(study, 1, cell.id))
    rows = study.rows("cells"), study.rows("sheets")
    after = lay_out(plan_of("grid", {**given, "title": "Grid of them", "gap_mm": "0"}))[0]
    command = acts.change_sheet(study, 1, after)
    study.apply(command)
    assert len(study.rows("sheets")) == 1
    assert study.row("sheets", 1)["title"] == "Grid of them"
    assert [row["id"] for row in study.rows("cells")] == [row["id"] for row in rows[0]]
    study.revert(command)
    assert (study.rows("cells"), study.rows("sheets")) == rows


def test_the_pages_of_a_plan_are_changed_together(study):
    pages = [ladder(3, "one"), ladder(3, "two")]
    study.apply(acts.add_sheets(study, pages))
    assert records.planned_together(study, 1) == [1, 2]
    study.apply(acts.change_sheets(study, [1, 2], [ladder(4, "one"), ladder(4, "two"), ladder(4, "three")]))
    assert records.planned_together(study, 1) == [1, 2, 3]
    study.apply(acts.change_sheets(study, [1, 2, 3], [ladder(5, "all")]))
    assert records.sheet_titles(study) == [(1, "all")]


def test_a_damaged_line_of_versions_ends(study, painted):
    record = extended(study)
    first, last = painted.cells[0].id, next(e.id for e in record.cells if e.of_cell == painted.cells[0].id)
    with study.disk.transaction() as db:
        db.execute("UPDATE cells SET of_cell = ? WHERE id = ?", (last, first))
        db.execute("UPDATE sheets SET replaces = ? WHERE id = 1", (record.id,))
    assert last in records.painted_cells(study, record.id)
    assert records.versions_of(study, 1)
    assert records.with_versions(study)
    DueBook(study).due()


def test_a_study_of_the_version_before_opens(tmp_path):
    shutil.copy(Path(__file__).parent / "old" / "v7.culmo", tmp_path / "seven.culmo")
    with Study(tmp_path / "seven.culmo") as study:
        assert {row["of_cell"] for row in study.rows("cells")} == {None}
        sheet_id = study.rows("sheets", "kind = 'ladder'")[0]["id"]
        assert records.painted_cells(study, sheet_id)


def test_the_pages_of_one_plan_are_told_from_other_sheets_of_the_same_act_and_keep_their_order(study):
    def wheel(places: int, cover: bool = True):
        given = {"paints": [LEMON, ROSE, FIVE[2]], "places": places, "cover": cover, "paper": "A4"}
        return lay_out(plan_of("wheel", given))

    def joined(gap: str):
        given = {"paints": list(FIVE), "paper": "A6", "several": "yes", "gap_mm": gap, "title": "Joined"}
        return lay_out(plan_of("grid", given))

    study.apply(acts.add_sheets(study, [*wheel(6), *wheel(12), *joined("0")]))
    pages = records.pages_of_plan(study, 5)
    assert records.pages_of_plan(study, 1) == [1, 2]  # with its cover
    assert records.pages_of_plan(study, 4) == [3, 4]
    assert pages == list(range(5, 5 + len(joined("0")))) and len(pages) > 1
    # the first page is painted and so becomes another row; it stays the first
    study.apply(paint_acts.paint_cell(study, 5, records.sheet_record(study, 5).cells[0].id))
    study.apply(acts.change_sheets(study, pages, joined("1")))
    again = records.pages_of_plan(study, 6)
    assert len(again) == len(joined("1"))
    assert records.versions_of(study, again[0])[-1] == 5
    titles = [study.row("sheets", page)["title"] for page in again]
    assert titles == [sheet.title for sheet in joined("1")]
    study.apply(acts.add_sheets(study, [ladder(3), ladder(3)]))
    twins = [row["id"] for row in study.rows("sheets")][-2:]
    assert [records.pages_of_plan(study, twin) for twin in twins] == [[twins[0]], [twins[1]]]
    # without its cover a wheel is one page
    study.apply(acts.change_sheets(study, [1, 2], wheel(6, cover=False)))
    assert records.pages_of_plan(study, 1) == [1]
