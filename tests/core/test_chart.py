"""Layout and order of work: geometry that a ruler and a wet sheet can trust."""

import json

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from culmo.core.chart.lengths import length_mm, length_text
from culmo.core.chart.order import plan_order, work_cost
from culmo.core.chart.papers import PAPERS, Paper, find_paper
from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.core.chart.touching import neighbours
from culmo.core.chart.washes import Pace
from culmo.core.paint.recipe import parse_recipe
from culmo.data import text_width_mm
from culmo.errors import CulmoError
from support.builders import laid_out, make_sheet
from support.lying import check_off_by_names

plans = st.fixed_dictionaries(
    {
        "paints": st.integers(2, 14).map(lambda n: tuple(f"Paint {i}" for i in range(n))),
        "paper": st.sampled_from(PAPERS),
        "title": st.sampled_from(["", "A title"]),
        "orientation": st.sampled_from(["best", "portrait", "landscape"]),
        "tape_mm": st.floats(0, 12),
        "gap_mm": st.sampled_from([0.0, 1.5, 3.0]),
        "square": st.booleans(),
        "second": st.sampled_from(["paler", "white", "dominance", "third", "same", "empty"]),
        "extra": st.just("White"),
        "marks": st.booleans(),
        "note_mm": st.sampled_from([0.0, 12.0]),
        "gutter_mm": st.sampled_from([0.0, 9.0]),
        "letters_mm": st.sampled_from([0.0, 1.8, 6.5]),
        "label_place": st.sampled_from(["bands", "cells"]),
    }
)


def planned(plan):
    try:
        return laid_out("grid", text_width_mm, **plan)[0]
    except CulmoError as error:
        assert "needs at least" in str(error)
        assume(False)
        raise


@given(plans)
def test_cells_lie_inside_the_frame_equal_and_apart(plan):
    sheet = planned(plan)
    boxes = np.array([cell.box_mm for cell in sheet.cells])
    x, y, width, height = sheet.frame_mm
    assert np.ptp(boxes[:, 2:], axis=0).max() < 1e-9
    assert (boxes[:, :2] >= np.array([x, y]) - 1e-9).all()
    assert (boxes[:, :2] + boxes[:, 2:] <= np.array([x + width, y + height]) + 1e-9).all()
    for i, (left, top, wide, high) in enumerate(boxes):
        others = np.delete(boxes, i, axis=0)
        apart_x = np.maximum(left - (others[:, 0] + others[:, 2]), others[:, 0] - (left + wide))
        apart_y = np.maximum(top - (others[:, 1] + others[:, 3]), others[:, 1] - (top + high))
        assert (np.maximum(apart_x, apart_y) >= plan["gap_mm"] - 1e-6).all()


def test_names_stand_at_one_end_only_where_the_cells_would_be_too_small_else():
    small = {"paper": find_paper("A6"), "orientation": "portrait", "gap_mm": 3.0}
    many = laid_out(
        "grid", text_width_mm, paints=tuple(f"Paint {i}" for i in range(10)), gutter_mm=9.0, **small
    )[0]
    few = laid_out(
        "grid", text_width_mm, paints=tuple(f"Paint {i}" for i in range(4)), gutter_mm=9.0, **small
    )[0]
    assert "bands" in many.settings["eased"] and not few.settings.get("eased")
    x, _, width, _ = few.frame_mm
    assert abs(2 * x + width - few.paper.width_mm - 9.0) < 0.1


TINY = {
    "paper": find_paper("A6"), "title": "", "gap_mm": 3.0, "square": False, "second": "paler", "extra": "White",
    "marks": False,
}  # fmt: skip
NOTES_BELOW = {
    "paints": tuple(f"Paint {i}" for i in range(11)), "orientation": "landscape", "tape_mm": 4.0, "note_mm": 12.0,
    "gutter_mm": 0.0, "label_place": "cells",
}  # fmt: skip
NAMES_LEFT = {
    "paints": tuple(f"Paint {i}" for i in range(10)), "orientation": "portrait", "tape_mm": 2.0, "note_mm": 0.0,
    "gutter_mm": 9.0, "label_place": "bands",
}  # fmt: skip


@given(plans)
@example(TINY | NOTES_BELOW)
@example(TINY | NAMES_LEFT)
def test_the_block_is_centred_inside_the_tape_and_labels_on_the_paper(plan):
    sheet = planned(plan)
    x, y, width, height = sheet.frame_mm
    off_x = 2 * x + width - sheet.paper.width_mm - plan["gutter_mm"]
    off_y = 2 * y + height - sheet.paper.height_mm
    if "bands" in sheet.settings.get("eased", ()):
        check_off_by_names(sheet, text_width_mm, plan["gutter_mm"], plan["note_mm"])
        assert x + width <= sheet.paper.width_mm - plan["tape_mm"] + 1e-9
        assert y + height <= sheet.paper.height_mm - plan["tape_mm"] - plan["note_mm"] + 1e-9
    else:
        assert abs(off_x) < 0.1
        assert abs(off_y) < 0.1
    assert min(x - plan["gutter_mm"], y) >= plan["tape_mm"] - 1e-9
    for label in sheet.labels:
        if plan["label_place"] == "cells" and label.text != plan["title"]:
            continue
        long = text_width_mm(label.text, label.size_mm)
        turn = np.radians(label.angle_deg)
        ends = np.array([label.at_mm, np.array(label.at_mm) + long * np.array([np.cos(turn), np.sin(turn)])])
        assert (ends >= plan["tape_mm"] - 1e-6).all(), label
        assert (
            ends <= np.array([sheet.paper.width_mm, sheet.paper.height_mm]) - plan["tape_mm"] + 1e-6
        ).all(), label


@given(plans)
def test_cells_are_whole_half_millimetres_and_no_larger_would_fit(plan):
    sheet = planned(plan)
    _, _, width, height = sheet.cells[0].box_mm
    assert abs(width * 2 - round(width * 2)) < 1e-6
    assert abs(height * 2 - round(height * 2)) < 1e-6


@pytest.mark.long
@given(plans)
def test_the_sheet_goes_to_json_and_back(plan):
    sheet = plan_order(planned(plan))
    once = sheet_to_dict(sheet)
    assert sheet_to_dict(sheet_from_dict(once)) == once


def test_a_wished_cell_that_does_not_fit_is_told_what_it_takes():
    names = tuple(f"P{i}" for i in range(12))
    with pytest.raises(CulmoError, match=r"needs at least \d+ x \d+ mm"):
        laid_out("grid", paints=names, paper="A5", cell_mm=(20, 20))
    (sheet,) = laid_out("grid", paints=names[:4], cell_mm=(20, 15))
    assert sheet.cells[0].box_mm[2:] == pytest.approx((20, 15))


def test_what_goes_where():
    (sheet,) = laid_out("grid", paints=("A", "B", "C"), second="third", extra="C")
    recipes = {cell.id: str(cell.recipe) for cell in sheet.cells}
    assert recipes["r01c01"] == "A"
    assert recipes["r02c01"] == "A + B"
    assert recipes["r01c02"] == "A + B + C"
    assert recipes["r01c03"] == "A + C:2"
    (half,) = laid_out("grid", paints=("A", "B", "C"), second="empty")
    assert len(half.cells) == 6
    (other,) = laid_out("grid", paints=("A", "B"), second="dominance")
    assert [str(cell.recipe) for cell in other.cells] == ["A", "A + B:2", "A:2 + B", "B"]


@pytest.mark.parametrize(
    "choices",
    [
        {"paints": ("A",)}, {"paints": ("A", "a")}, {"second": "other"}, {"second": "white"}, {"tape_mm": 140.0},
        {"tape_mm": -1.0}, {"gap_mm": -1.0}, {"orientation": "askew"}, {"cell_mm": (1.0, 1.0)},
    ],
)  # fmt: skip
def test_plans_that_can_not_be(choices):
    with pytest.raises(CulmoError):
        laid_out("grid", **{"paints": ("A", "B"), **choices})


@pytest.mark.long
@given(
    st.integers(2, 9),
    st.sampled_from([0.0, 0.0, 2.0]),
    st.floats(1, 60),
    st.sampled_from(["paler", "same", "dominance"]),
)
def test_wet_never_touches_wet(count, gap, dry, second):
    sheet = make_sheet([f"P{i}" for i in range(count)], gap_mm=gap, second=second)
    done = plan_order(sheet, Pace(dry_minutes=dry))
    start = {cell.id: cell.at_minute for cell in done.cells}
    for cell, others in neighbours(done.cells).items():
        for other in others:
            assert abs(start[cell] - start[other]) >= dry - 0.011
    steps = [step for step in done.work if step["do"] == "cell"]
    assert sorted(step["cell"] for step in steps) == sorted(start)
    moments = [step["at_minute"] for step in steps]
    assert moments == sorted(moments)


def test_neighbours_share_an_edge_and_not_a_corner():
    sheet = make_sheet(["A", "B", "C"])
    assert neighbours(sheet.cells)["r02c02"] == {"r01c02", "r03c02", "r02c01", "r02c03"}
    assert neighbours(make_sheet(["A", "B"], gap_mm=2.0).cells)["r01c01"] == set()


def test_pure_first_then_full_before_pale_of_one_puddle():
    sheet = make_sheet([f"P{i}" for i in range(6)])
    cells = sheet.in_order()
    assert all(cell.recipe.is_pure for cell in cells[:6])
    assert not any(cell.recipe.is_pure for cell in cells[6:])
    cost = work_cost(sheet)
    assert cost.puddles == 21
    assert cost.rinses < cost.naive_rinses


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("12", 12),
        ("12,5 mm", 12.5),
        ("3 cm", 30),
        ("1 1/2 in", 38.1),
        ('1/4"', 6.35),
        ("9in", 228.6),
        ("1-1/2 in", 38.1),
    ],
)
def test_lengths(text, mm):
    assert length_mm(text) == pytest.approx(mm)


@given(st.integers(1, 600))
def test_inches_to_a_sixteenth_there_and_back(sixteenths):
    mm = sixteenths / 16 * 25.4
    assert length_mm(length_text(mm, "in")) == pytest.approx(mm, abs=1e-5)


@pytest.mark.parametrize("text", ["", "x", "1/0 in", "1 2 3", "mm"])
def test_lengths_that_are_none(text):
    with pytest.raises(CulmoError):
        length_mm(text)


def test_papers():
    assert find_paper("a3") == Paper("A3", 297, 420)
    assert find_paper("9 x 12 in").width_mm == pytest.approx(228.6)
    with pytest.raises(CulmoError, match="unknown paper"):
        find_paper("tablecloth")
    with pytest.raises(CulmoError, match="between"):
        find_paper("0x100")


@pytest.mark.parametrize(
    "data",
    [None, [], {}, {"format": "culmo-sheet", "version": 9}, {"format": "culmo-sheet", "version": 1},
     {"format": "culmo-sheet", "version": 1, "title": "x", "kind": "grid", "paper": 3, "frame_mm": [1, 2]}],
)  # fmt: skip
def test_damaged_sheets_are_refused(data):
    with pytest.raises(CulmoError):
        sheet_from_dict(data)


def test_a_damaged_cell_is_named():
    data = sheet_to_dict(make_sheet(["A", "B"]))
    data["cells"][1]["outline_mm"] = [[0, 0]]
    with pytest.raises(CulmoError, match="r01c02"):
        sheet_from_dict(data)
    data = sheet_to_dict(make_sheet(["A", "B"]))
    data["cells"][0]["recipe"] = "A + "
    with pytest.raises(CulmoError, match="character"):
        sheet_from_dict(data)
    assert parse_recipe("A").is_pure


def test_a_very_long_name_does_not_eat_the_cells():
    long = "A very long name of a paint that somebody typed with love and care, extra fine, series four"
    (sheet,) = laid_out("grid", text_width_mm, paints=(long, "B", "C", "D"), paper="A3")
    assert min(sheet.cells[0].box_mm[2:]) > 40
    assert any(label.text.endswith("…") for label in sheet.labels)
    assert sheet.cells[0].recipe.names == (long,)


def _numbers(value, way=()):
    """The ways to all numbers in nested lists and dicts, but the version's."""
    if isinstance(value, dict):
        found = [
            _numbers(own, (*way, key))
            for key, own in value.items()
            if key not in ("version", "settings", "work")
        ]
    elif isinstance(value, list | tuple):
        found = [_numbers(own, (*way, place)) for place, own in enumerate(value[:2])]
    else:
        return [way] if isinstance(value, int | float) and not isinstance(value, bool) else []
    return [own for part in found for own in part]


@pytest.mark.parametrize(
    "odd", [float("inf"), float("-inf"), float("nan"), 10**400], ids=["inf", "less", "nan", "vast"]
)
def test_a_number_that_is_none_is_told_wherever_it_stands(odd):
    """A file may say 1e999, which is read as infinite."""
    plain = json.loads(json.dumps(sheet_to_dict(make_sheet())))
    ways = _numbers(plain)
    assert {way[0] for way in ways} >= {"paper", "frame_mm", "cells", "labels", "ruling"}
    for way in ways:
        data = json.loads(json.dumps(plain))
        place = data
        for step in way[:-1]:
            place = place[step]
        place[way[-1]] = odd
        with pytest.raises(CulmoError, match="damaged"):
            sheet_from_dict(data)
