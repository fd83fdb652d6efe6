"""Free rows: strokes from a name column, each row in its own number of steps."""

from itertools import pairwise

import pytest

from culmo.core.chart.aids import Aids
from culmo.core.chart.kinds.rows import SomeRows
from culmo.core.chart.plans import lay_out, plan_from, plan_of
from culmo.core.paint.recipe import renaming
from culmo.data import text_width_mm
from culmo.errors import CulmoError

INCH = 25.4


def rows_of(text, **given):
    (sheet,) = lay_out(plan_of("rows", {"rows": text, "paper": "A4", **given}), Aids(text_width_mm))
    return sheet


def test_each_row_has_its_own_steps_and_begins_at_the_name_column():
    sheet = rows_of("Lemon, Rose: 5; Ochre, Cobalt: 8\nRose, Viridian", steps="6", names_mm="40")
    by_row = {}
    for cell in sheet.cells:
        by_row.setdefault(cell.id[:3], []).append(cell)
    assert [len(cells) for cells in by_row.values()] == [5, 8, 6]
    assert len({cells[0].box_mm[0] for cells in by_row.values()}) == 1
    assert [str(cell.recipe) for cell in by_row["r01"]] == [
        "Lemon", "Lemon:3 + Rose", "Lemon + Rose", "Lemon + Rose:3", "Rose",
    ]  # fmt: skip
    for cells in by_row.values():
        assert cells[0].recipe.is_pure
        assert cells[-1].recipe.is_pure
    assert all(cell.shape == "free" for cell in sheet.cells)
    names = {label.text for label in sheet.labels}
    assert {"Lemon", "Rose", "Ochre", "Cobalt", "Viridian"} <= names


def test_rows_lie_an_inch_apart():
    sheet = rows_of("A, B: 6; C, D: 7; A, D: 9; B, C: 6; A, C: 8; B, D: 7", pitch_mm="1 in")
    tops = sorted({round(cell.box_mm[1], 4) for cell in sheet.cells})
    assert len(tops) == 6
    assert [later - earlier for earlier, later in pairwise(tops)] == pytest.approx([INCH] * 5, abs=2e-4)


def test_a_wished_stroke_and_what_does_not_fit():
    sheet = rows_of("A, B: 5", cell_mm="20 x 12")
    assert {tuple(round(side, 6) for side in cell.box_mm[2:]) for cell in sheet.cells} == {(20.0, 12.0)}
    with pytest.raises(CulmoError, match="do not fit"):
        rows_of("; ".join(f"A{i}, B{i}" for i in range(20)), pitch_mm="1 in")
    with pytest.raises(CulmoError, match="do not fit"):
        rows_of("A, B: 9", cell_mm="60 x 12")


@pytest.mark.parametrize(
    "text", ["Lemon", "Lemon, Rose, Sepia", "Lemon, Lemon", "Lemon, Rose: 1", "Lemon, Rose: 99", ""]
)
def test_what_is_no_row_is_refused_in_words(text):
    with pytest.raises(CulmoError):
        rows_of(text)


def test_rows_are_written_as_they_are_read_and_renamed():
    form = SomeRows()
    rows = form.read('"Blue, deep", Rose: 7\nLemon, Ochre', "")
    assert rows == (("Blue, deep", "Rose", 7), ("Lemon", "Ochre", 0))
    assert form.read(form.write(rows), "") == rows
    assert form.of_plain(form.renamed(form.plain(rows), renaming("rose", "Madder")))[0] == (
        "Blue, deep",
        "Madder",
        7,
    )
    sheet = rows_of("Lemon, Rose: 5", pitch_mm="30", title="Rows")
    again = plan_from(sheet)
    assert again.options.rows == (("Lemon", "Rose", 5),)
    assert lay_out(again, Aids(text_width_mm))[0].cells == sheet.cells


@pytest.mark.parametrize(("tape", "gutter"), [("0", "0"), ("12", "0"), ("12", "20"), ("0", "30")])
def test_rows_end_before_the_tape_on_the_far_side(tape, gutter):
    sheet = rows_of("Lemon, Rose: 8; Ochre, Cobalt: 8", tape_mm=tape, gutter_mm=gutter, title="Rows")
    points = [point for cell in sheet.cells for point in cell.outline_mm]
    assert min(x for x, _ in points) >= float(tape) + float(gutter) - 0.01
    assert max(x for x, _ in points) <= sheet.paper.width_mm - float(tape) + 0.01
    assert min(y for _, y in points) >= float(tape) - 0.01
    assert max(y for _, y in points) <= sheet.paper.height_mm - float(tape) + 0.01


def test_rows_that_fill_the_height_leave_the_title_the_notes_and_the_tape_free():
    many = "; ".join(f"A{number}, B{number}: 2" for number in range(1, 13))
    sheet = rows_of(many, tape_mm="10", note_mm="25", title="Rows", orientation="landscape")
    heights = [y for cell in sheet.cells for _, y in cell.outline_mm]
    title = next(label for label in sheet.labels if label.text == "Rows")
    assert min(heights) > title.at_mm[1]
    assert max(heights) <= sheet.paper.height_mm - 10.0 - 25.0 + 0.01
    # no more is left than one row would take
    pitch = (max(heights) - min(heights)) / 12
    assert sheet.paper.height_mm - 10.0 - 25.0 - max(heights) < pitch
