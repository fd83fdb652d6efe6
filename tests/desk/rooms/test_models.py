"""The view-models of the rooms, without a window."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from culmo.core.capture.sample import picked_colour
from culmo.core.chart.aids import Aids
from culmo.core.chart.order import WorkCost, work_cost
from culmo.core.chart.papers import Paper
from culmo.core.chart.plans import lay_out, plan_from, plan_of
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict
from culmo.desk.drawing.cell_look import cell_looks
from culmo.desk.rooms.box.model import PaintDraft, bare_texts, describe, draft_of, lab_text, save_bare
from culmo.desk.rooms.paint.model import (
    Task,
    WorkTable,
    cell_clocks,
    clock_words,
    corrected,
    drying_words,
    ingredients,
    place_words,
    puddle_words,
    wait_words,
    wash_words,
)
from culmo.desk.rooms.plan.model import (
    cost_text,
    nearly_same,
    paper_names,
    ruling_lines,
    subtitle,
    texts_of,
    time_text,
)
from culmo.desk.rooms.weigh.model import SORTS, compare, sorted_by, summary
from culmo.desk.rooms.weigh.water_model import paper_lines
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.readings_file import readings_of_file, without_strangers
from support.builders import FIVE, make_sheet
from support.turbid import all_pairs, make_laboratory

NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


def with_sheet(study, **choices):
    study.apply(acts.add_sheet(study, make_sheet(**choices)))
    return records.sheet_record(study, study.next_id("sheets") - 1)


# ---- box


def test_a_draft_shows_what_is_kept_and_saves_what_was_typed(study):
    paint = records.paints(study)[1]
    draft = draft_of(study, paint)
    assert draft.name == "Rose"
    assert set(draft.card) == {"masstone", "tint", "bar"}
    draft.card["tint"] = "#cc88aa"
    draft.codes = "PV19"
    study.apply(draft.command(study))
    again = draft_of(study, records.paints(study)[1])
    assert again.codes == "PV19"
    assert again.card["tint"] != lab_text((0, 0, 0))
    assert again.card["masstone"] == draft.card["masstone"]


def test_an_emptied_field_takes_its_reading_away(study):
    draft = draft_of(study, records.paints(study)[0])
    draft.card["bar"] = ""
    study.apply(draft.command(study))
    assert "bar" not in draft_of(study, records.paints(study)[0]).card
    assert "tint" in draft_of(study, records.paints(study)[0]).card


def test_a_draft_that_is_wrong_says_which_field(study):
    draft = PaintDraft(name="", card={"masstone": "200, 0, 0", "tint": ""})
    assert set(draft.errors()) == {"name", "masstone"}
    with pytest.raises(CulmoError):
        draft.command(study)


def test_the_bare_paper_is_kept_once(study):
    assert bare_texts(study) == {}
    for text in ("95, 0, 2", "96, 0, 2"):
        study.apply(save_bare(study, "paper", text))
    assert bare_texts(study) == {"paper": "96.0, 0.0, 2.0"}
    with pytest.raises(CulmoError):
        save_bare(study, "paper", "x")


def test_a_colour_in_words():
    assert describe(np.array([50.0, 0.0, 60.0])) == "L 50, chroma 60, hue 90°, yellow"


# ---- plan


def test_a_layout_goes_to_a_sheet_and_back():
    given = {
        "title": "Mine", "paints": ", ".join(FIVE), "paper": "240x320", "orientation": "landscape", "gap_mm": "2",
        "second": "dominance", "tape_mm": "8", "cell_mm": "20 x 15", "labels": "number",
    }  # fmt: skip
    (sheet,) = lay_out(plan_of("grid", given))
    assert sheet.paper.width_mm == 320
    assert sheet.cells[0].box_mm[2:] == pytest.approx((20, 15))
    assert {label.text for label in sheet.labels} == {"Mine", "1", "2", "3", "4", "5"}
    assert texts_of(plan_from(sheet)).items() >= given.items()


def test_labels_by_pigment_code_and_the_painters_own_paper():
    own = Paper("Block", 200, 300)
    plan = plan_of("grid", {"paints": "Rose, Lemon", "paper": own, "labels": "code"})
    (sheet,) = lay_out(plan, Aids(codes={"rose": "PV19", "lemon": ""}))
    assert sheet.paper.name == "Block"
    assert {label.text for label in sheet.labels} >= {"PV19", "Lemon"}
    assert paper_names([own])[0] == "Block"


@pytest.mark.parametrize(
    "change",
    [{"cell_mm": "1 x 2 x 3"}, {"paper": "moon"}, {"gap_mm": "wide"}, {"paints": "A"}, {"tape_mm": "150"}],
)
def test_layouts_that_can_not_be(change):
    with pytest.raises(CulmoError):
        lay_out(plan_of("grid", {"paints": "A, B", **change}))


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_ruling_list_holds_every_line_in_one_unit(unit):
    sheet = make_sheet()
    lines = ruling_lines(sheet, unit)
    ticks = [line for line in lines if line.startswith("    ")]
    assert len(ticks) == len(sheet.ruling.vertical_mm) + len(sheet.ruling.horizontal_mm)
    assert all(line.endswith(unit) for line in ticks)


def test_what_is_said_of_a_sheet():
    sheet = make_sheet()
    assert "20 mixes" in subtitle(sheet)
    assert "Row by row: 24 rinses" in cost_text(sheet, work_cost(sheet))
    assert time_text(WorkCost(1, 1, 1, 1, 0, 83, 1)) == "About 1 h 25"
    assert time_text(WorkCost(1, 1, 1, 1, 0, 22, 1)) == "About 20 minutes"


def test_nearly_the_same_cells_are_other_mixes():
    sheet = make_sheet()
    estimate = learn(list(FIVE), [])
    prediction = predict(estimate, [cell.recipe for cell in sheet.cells])
    near = nearly_same(sheet, prediction, "r02c01")
    assert len(near) == 2
    assert near[0][1] <= near[1][1]
    assert all(cell.recipe.key != sheet.cell("r02c01").recipe.key for cell, _ in near)
    looks = cell_looks(sheet.cells, prediction, {"r01c01": (50, 0, 0)}, {"r01c02"}, {"r01c03"})
    assert looks["r01c01"].recorded == (50, 0, 0)
    assert looks["r01c02"].painted
    assert looks["r01c03"].keeper
    assert not cell_looks(sheet.cells, None, {})["r01c01"].predicted


# ---- paint


def test_words_at_the_table(study):
    sheet = make_sheet()
    task = Task(sheet.cell("r02c01"))
    assert [(i.parts, i.name, i.loads) for i in ingredients(task.recipe)] == [
        ("1", "Lemon", "1 brush-load"),
        ("1", "Rose", "1 brush-load"),
    ]
    assert ingredients(sheet.cell("r01c01").recipe)[0].name == "Lemon"
    assert wash_words(task) == "full wash"
    assert "four of water" in wash_words(Task(sheet.cell("r01c02")))
    assert place_words(task.cell) == "row 2, column 1"
    assert clock_words(0.4) == "less than a minute"
    assert clock_words(1) == "1 minute"
    assert clock_words(125) == "2 h 05"


def test_parts_that_land_take_less_of_what_the_hand_takes_too_much_of(study):
    names = [paint.name for paint in records.paints(study)]
    estimate = learn(names, records.readings(study))
    bias = estimate.layout.optics(estimate.theta).bias
    rose, lemon = (estimate.index[name] for name in ("rose", "lemon"))
    parts = corrected(["Rose", "Lemon"], [1.0, 1.0], estimate)
    assert parts[0] / parts[1] == pytest.approx(float(np.exp(bias[lemon] - bias[rose])))
    assert corrected(["Rose", "Nobody"], [1.0, 2.0], estimate)[1] == 2.0


def test_a_table_walks_chooses_marks_and_goes_on_where_it_was(study):
    record = with_sheet(study)
    table = WorkTable(study, record)
    first = table.look(NOON).current
    assert puddle_words(table.state) == "A new puddle"
    table.step(1)
    assert table.look(NOON).current.key != first.key
    table.choose("r03c03")
    assert table.look(NOON).current.cell.id == "r03c03"
    study.apply(table.stroke("done", NOON))
    study.apply(table_at(table, NOON + timedelta(minutes=1)).mark("granulates"))
    table.look(NOON + timedelta(minutes=1))
    study.apply(table.note(table.last_row()["id"], " lovely grain "))
    again = WorkTable(study, records.sheet_record(study, record.id))
    state = again.look(NOON + timedelta(days=7))
    assert (state.done, state.last.cell.id) == (1, "r03c03")
    assert again.last_row()["marks"] == "granulates"
    assert again.record.by_cell()["r03c03"].note == "lovely grain"
    assert state.current.key == first.key


def table_at(table, moment):
    table.look(moment)
    return table


def test_found_dry_lets_go_on_and_teaches_the_clock(study):
    record = with_sheet(study)
    table = WorkTable(study, record)
    table.choose("r02c02")
    table.look(NOON)
    study.apply(table.stroke("done", NOON))
    table.choose("r02c03")
    table.look(NOON + timedelta(minutes=6))
    assert table.state.wait_minutes > 5
    assert "Wait" in wait_words(table.state)
    assert cell_clocks(table.state)["r02c02"] > 5
    study.apply(table.is_dry(NOON + timedelta(minutes=6)))
    assert table.look(NOON + timedelta(minutes=6)).wait_minutes == 0
    assert table.drying.learned < 0.95
    assert "as you found it" in drying_words(table.state, table.drying)
    assert table.is_dry(NOON + timedelta(minutes=7)) is None


# ---- read


def test_readings_of_another_sheet_do_not_go_to_this_one(study, tmp_path):
    record = with_sheet(study)
    path = tmp_path / "r.csv"
    path.write_text(
        "recipe,L,a,b,cell,sheet\nRose,50,0,0,R01C01,A grid\nRose,50,0,0,r01c01,Other\nRose,50,0,0,r99c99,\n"
    )
    found = readings_of_file(study, path, record)
    assert [row.cell_id for row in found.rows] == [record.cells[0].id, None, None]
    study.apply(acts.edit_paint(study, 2, acts.PaintEntry("Pink")))
    found = without_strangers(readings_of_file(study, path, record), study)
    assert found.rows == [] and len(found.bad) == 3 and '"Rose" is not in the box' in found.bad[0]


def test_columns_that_are_not_known_are_kept(study, tmp_path):
    path = tmp_path / "r.csv"
    path.write_text("recipe,L,a,b,brush\nRose,50,0,0,flat 10\n")
    study.apply(acts.add_readings(study, readings_of_file(study, path).rows, "a file"))
    assert records.json_of(study.rows("readings")[-1], "extra") == {"brush": "flat 10"}


def test_the_eyedropper_ignores_specks():
    patch = np.full((9, 9, 3), 120, np.uint8)
    patch[0, :4] = 255
    clean = picked_colour(np.full((3, 3, 3), 120, np.uint8))
    assert np.abs(picked_colour(patch) - clean).max() < 1e-9


# ---- weigh


def test_comparison_sorting_and_summary(study):
    record = with_sheet(study)
    study.apply(acts.mark_keeper(study, record.cells[3].id, True))
    record = records.sheet_record(study, record.id)
    prediction = predict(learn(list(FIVE), records.readings(study)), [c.recipe for c in record.sheet.cells])
    first = tuple(float(v) for v in prediction.lab[0])
    read = {record.cells[0].cell.id: first, record.cells[1].cell.id: (5.0, 60.0, 60.0)}
    rows = compare(record, prediction, read)
    assert rows[0].away == pytest.approx(0, abs=1e-9)
    assert rows[1].surprise
    assert not rows[0].surprise
    assert "2 cells read" in summary(rows)
    assert "1 keeper" in summary(rows)
    assert "Nothing" in summary(compare(record, prediction, {}))
    for sort in SORTS:
        assert sorted(row.place for row in sorted_by(rows, sort)) == list(range(25))
    assert sorted_by(rows, "difference")[0].cell_id == record.cells[1].cell.id
    assert sorted_by(rows, "keepers first")[0].keeper
    marked = compare(
        record, prediction, read, None, {record.cells[0].cell.id: {"marks": "blooms keeper granulates"}}
    )
    assert (
        marked[0].remark == "granulates, blooms"
    )  # what was marked at the table; a keeper has a column of its own
    assert marked[1].remark == ""
    unread = compare(record, None, {})
    assert all(row.predicted is None and np.isnan(row.away) for row in unread)


@pytest.mark.long
def test_what_a_paper_does_to_washes_is_told():
    painter = make_laboratory(6, 940)
    names = [paint.name for paint in painter.paints]
    pairs = all_pairs(names, (1.0, 0.2))
    usual = painter.cards() + [painter.read(recipe) for recipe in pairs]
    for holds, word in ((0.6, "paler"), (1.6, "stronger"), (1.0, "")):
        pad = painter.on_another_paper(holds=holds, tooth=painter.tooth, power=0.0, sinks=0.0)
        strip = [replace(pad.read(recipe), paper="my PAD") for recipe in pairs]
        lines = paper_lines(learn(names, usual + strip), ["A4", "My pad"])
        assert [word in line and "My pad" in line and "%" in line for line in lines] == (
            [True] if word else []
        )
