"""Boxes, refills, roles and fade tests in the study: every act can be undone, and nothing is lost."""

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.chart.box import BoxShape
from culmo.core.chart.order import plan_order
from culmo.errors import CulmoError
from culmo.study import acts, box_acts, paint_acts, records
from culmo.study.box_records import boxes, fade_looks, fade_tests, given_roles, touched_by
from culmo.study.file import Change, Command, Study
from support.builders import FIVE, laid_out, make_sheet, make_study


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo") as study:
        yield study


def ids(study):
    return {row["name"]: row["id"] for row in study.rows("paints")}


def checked(study, command):
    """Apply, revert and apply again: the law of undo."""
    before = study.dump()
    study.apply(command)
    after = study.dump()
    study.revert(command)
    assert study.dump() == before
    study.apply(command)
    assert study.dump() == after
    assert study.problems() == []


def make_box(study, rows=2, columns=3, names=FIVE, name="Tin"):
    checked(study, box_acts.add_box(study, name, BoxShape(rows, columns, {}), [ids(study)[n] for n in names]))
    return boxes(study)[-1]


def laid(study, box_id):
    names = {row["id"]: row["name"] for row in study.rows("paints")}
    box = next(box for box in boxes(study) if box.id == box_id)
    return {place: names[paint_id] for place, paint_id in box.paints.items()}


def test_a_box_is_laid_out_changed_and_taken_apart(study):
    box = make_box(study)
    assert laid(study, box.id) == dict(enumerate(FIVE))
    checked(study, box_acts.change_box(study, box.id, "Long tin", BoxShape(1, 6, {}, 2.0, 3.0)))
    (box,) = boxes(study)
    assert (box.name, box.shape.rows, box.shape.gap_mm, box.shape.rim_mm) == ("Long tin", 1, 2.0, 3.0)
    assert sorted(laid(study, box.id).values()) == sorted(FIVE)
    with pytest.raises(CulmoError, match="take some out"):
        box_acts.change_box(study, box.id, "Tiny", BoxShape(1, 2, {}))
    checked(study, box_acts.remove_box(study, box.id))
    assert boxes(study) == []
    assert len(records.paints(study)) == 5


def test_names_of_boxes_are_their_own(study):
    box = make_box(study)
    for bad in ("", "  ", "tin", "x" * 200, "a\nb"):
        with pytest.raises(CulmoError):
            box_acts.add_box(study, bad, BoxShape(1, 1, {}))
    box_acts.change_box(study, box.id, "TIN", box.shape)  # its own name in other letters is no clash
    with pytest.raises(CulmoError, match="do not lie"):
        box_acts.add_box(study, "Small", BoxShape(1, 2, {}), list(ids(study).values()))


def test_paints_change_places(study):
    box = make_box(study)
    checked(study, box_acts.move_paint(study, box.id, 0, 5))
    assert laid(study, box.id) == {5: "Lemon", 1: "Rose", 2: "Ultramarine", 3: "Viridian", 4: "Ochre"}
    checked(study, box_acts.move_paint(study, box.id, 5, 1))
    assert laid(study, box.id)[1] == "Lemon"
    assert laid(study, box.id)[5] == "Rose"
    assert box_acts.move_paint(study, box.id, 1, 1) is None
    assert box_acts.move_paint(study, box.id, 0, 3) is None
    checked(study, box_acts.set_pan(study, box.id, 1, "full"))
    assert boxes(study)[0].shape.pan(1) == "full"
    with pytest.raises(CulmoError, match="pan"):
        box_acts.set_pan(study, box.id, 1, "huge")


@settings(max_examples=25, deadline=None)
@given(data=st.data())
def test_any_shape_keeps_every_paint_in_a_well(tmp_path_factory, data):
    with make_study(tmp_path_factory.mktemp("s") / "s.culmo", cards=False) as study:
        box = make_box(study)
        for _ in range(4):
            rows, columns = data.draw(st.integers(1, 4)), data.draw(st.integers(1, 6))
            command = None
            try:
                command = box_acts.change_box(study, box.id, "Tin", BoxShape(rows, columns, {}))
            except CulmoError:
                assert rows * columns < 5
                continue
            checked(study, command)
            assert sorted(laid(study, box.id).values()) == sorted(FIVE)
            assert all(place < rows * columns for place in laid(study, box.id))


def test_many_paints_come_in_one_act_and_wished_ones_lie_in_no_box(study):
    entries = [
        acts.PaintEntry("Sky", "PB35"),
        acts.PaintEntry("Coral", "PR209", "wished"),
        acts.PaintEntry("Dot", "PG23", "sample", label={"transparency": "transparent"}),
    ]
    command = box_acts.add_paints(study, entries, box_acts.NewBox("New", BoxShape(1, 2, {})), {0: "full"})
    checked(study, command)
    paints = {paint.name: paint for paint in records.paints(study)}
    assert [paints[name].status for name in ("Sky", "Coral", "Dot")] == ["owned", "wished", "sample"]
    assert paints["Dot"].label == {"transparency": "transparent"}
    box = boxes(study)[-1]
    assert laid(study, box.id) == {0: "Sky", 1: "Dot"}
    assert box.shape.pan(0) == "full"
    positions = [row["position"] for row in study.rows("paints")]
    assert len(set(positions)) == len(positions)
    with pytest.raises(CulmoError, match="already"):
        box_acts.add_paints(study, [acts.PaintEntry("sky")])
    with pytest.raises(CulmoError, match="already"):
        box_acts.add_paints(study, [acts.PaintEntry("Twin"), acts.PaintEntry("twin ")])
    with pytest.raises(CulmoError, match="no paint"):
        box_acts.add_paints(study, [])
    with pytest.raises(CulmoError, match="empty wells"):
        box_acts.add_paints(study, [acts.PaintEntry("More")], box.id)


def test_paints_go_into_the_free_wells_of_a_box(study):
    box = make_box(study, 2, 4)
    checked(study, box_acts.move_paint(study, box.id, 1, 7))
    checked(study, box_acts.add_paints(study, [acts.PaintEntry("Sky"), acts.PaintEntry("Moss")], box.id))
    assert laid(study, box.id)[1] == "Sky"
    assert laid(study, box.id)[5] == "Moss"


def test_a_role_is_given_and_left_to_the_mixes_again(study):
    checked(study, box_acts.set_role(study, "cool red", ids(study)["Rose"]))
    assert given_roles(study) == {"cool red": "Rose"}
    checked(study, box_acts.set_role(study, "cool red", ids(study)["Ochre"]))
    assert given_roles(study) == {"cool red": "Ochre"}
    checked(study, box_acts.set_role(study, "cool red", None))
    assert given_roles(study) == {}
    assert box_acts.set_role(study, "cool red", None).changes == ()


def test_a_retired_paint_leaves_its_well_and_its_role_and_comes_back(study):
    box = make_box(study)
    study.apply(box_acts.set_role(study, "cool red", ids(study)["Rose"]))
    checked(study, acts.retire_paint(study, ids(study)["Rose"]))
    assert "Rose" not in laid(study, box.id).values()
    assert given_roles(study) == {}
    assert len(study.rows("readings")) == 15
    checked(study, acts.bring_back(study, ids(study)["Rose"]))
    assert "Rose" in [paint.name for paint in records.paints(study)]


def test_a_refilled_well_keeps_the_old_record_under_its_own_name(study):
    box = make_box(study)
    study.apply(acts.add_sheet(study, plan_order(make_sheet())))
    sheet_id = study.rows("sheets")[0]["id"]
    record = records.sheet_record(study, sheet_id)
    for entry in record.cells[:7]:
        study.apply(paint_acts.paint_cell(study, sheet_id, entry.id))
    touched = touched_by(study, "rose")
    assert [(t.title, len(t.cells)) for t in touched] == [("A grid", 9)]
    assert touched[0].painted == sum("Rose" in entry.cell.recipe.names for entry in record.cells[:7])
    study.apply(box_acts.set_role(study, "cool red", ids(study)["Rose"]))
    checked(study, box_acts.refill(study, ids(study)["Rose"], acts.PaintEntry("Rose", "PV19")))
    old = next(p for p in records.paints(study, retired=True) if p.retired)
    new = next(p for p in records.paints(study) if p.name == "Rose")
    assert old.name.startswith("Rose, until ")
    assert laid(study, box.id)[1] == "Rose"
    assert boxes(study)[0].paints[1] == new.id
    assert given_roles(study) == {"cool red": "Rose"}
    # what was painted with the old paint says so still
    recipes = {row["recipe"] for row in study.rows("cells")}
    assert not any('"Rose"' in recipe or recipe.startswith("Rose +") for recipe in recipes)
    assert len(touched_by(study, old.name)[0].cells) == 9
    assert touched_by(study, "Rose") == []
    layout = records.json_of(study.rows("sheets")[0], "layout")
    assert old.name in layout["settings"]["paints"]
    with pytest.raises(CulmoError, match="already"):
        box_acts.refill(study, ids(study)["Ochre"], acts.PaintEntry("Lemon"))


class Clock:
    def __init__(self):
        self.at = datetime.fromisoformat("2026-03-02T10:00:00+01:00")

    def __call__(self):
        return self.at.isoformat(timespec="seconds")


def test_a_fade_test_from_the_window_to_its_looks(tmp_path):
    clock = Clock()
    with make_study(tmp_path / "f.culmo", clock=clock) as study:
        (sheet,) = laid_out("cards", paints=("Rose", "Ochre"), paper="A5", title="Cards")
        study.apply(acts.add_sheets(study, [plan_order(sheet)]))
        sheet_id = study.rows("sheets")[0]["id"]
        checked(study, box_acts.start_fade(study, sheet_id, "south"))
        (test,) = fade_tests(study)
        assert (test.title, test.place, test.looked) == ("Cards", "south", ())
        assert test.next_look() == clock.at + timedelta(weeks=1)
        with pytest.raises(CulmoError, match="already"):
            box_acts.start_fade(study, sheet_id, "")
        cells = {e.cell.id: e for e in records.sheet_record(study, sheet_id).cells}
        for weeks, open_lab in ((1, (50.5, 40, 0)), (2, (53, 36, 0)), (4, (58, 28, 0))):
            clock.at = datetime.fromisoformat("2026-03-02T10:00:00+01:00") + timedelta(weeks=weeks)
            checked(study, acts.read_cell(study, sheet_id, cells["p01c"].id, (50, 40, 0)))
            checked(study, acts.read_cell(study, sheet_id, cells["p01e"].id, open_lab))
        looks = fade_looks(study, "rose")
        assert [round(look.weeks) for look in looks] == [1, 2, 4]
        assert np.all(np.diff([look.change for look in looks]) > 0)
        assert fade_looks(study, "Ochre") == []
        assert fade_tests(study)[0].next_look().date().isoformat() == "2026-04-27"
        # a second reading on one day replaces the first, it is the same look
        checked(study, acts.read_cell(study, sheet_id, cells["p01e"].id, (60, 25, 0)))
        assert len(fade_looks(study, "Rose")) == 3
        # a look brought in from elsewhere may have no offset
        row = next(row for row in study.rows("readings") if row["treatment"] == "exposed")
        study.apply(
            Command("Older", (Change("readings", row["id"], row, {**row, "taken": row["taken"][:19]}),))
        )
        assert len(fade_looks(study, "Rose")) == 3
        # none of them teaches the mixes, and the card's own fields are not filled from them
        assert all(not r.teaches for r in records.readings(study) if r.treatment)
        with pytest.raises(CulmoError, match="no one colour"):
            acts.read_cell(study, sheet_id, cells["p01f"].id, (50, 0, 0))
        checked(study, box_acts.end_fade(study, test.id))
        assert fade_tests(study)[0].next_look() is None
        study.apply(acts.add_sheet(study, make_sheet()))
        with pytest.raises(CulmoError, match="no patches"):
            box_acts.start_fade(study, sheet_id + 1, "")


def test_several_sheets_are_kept_in_one_act(study):
    sheets = laid_out("cards", paints=FIVE, paper="A6", title="Cards")
    assert len(sheets) > 1
    checked(study, acts.add_sheets(study, sheets))
    assert len(study.rows("cells")) == sum(len(sheet.cells) for sheet in sheets)
    for row, sheet in zip(study.rows("sheets"), sheets, strict=True):
        assert [e.cell for e in records.sheet_record(study, row["id"]).cells] == list(sheet.cells)
    with pytest.raises(CulmoError, match="no sheet"):
        acts.add_sheets(study, [])


def test_a_file_of_the_first_version_gains_the_new_tables_and_keeps_its_rows(tmp_path):
    import shutil
    from pathlib import Path

    old = tmp_path / "old.culmo"
    shutil.copy(Path(__file__).parent / "old" / "v1.culmo", old)
    with Study(old) as study:
        assert study.rows("fades") == study.rows("roles") == []
        assert all(row["treatment"] == "" for table in ("cells", "readings") for row in study.rows(table))
        assert study.rows("readings")
        checked(study, box_acts.set_role(study, "dark", study.rows("paints")[0]["id"]))
    assert (tmp_path / "old.v1.culmo").is_file()
