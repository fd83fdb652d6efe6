"""Boxes, well maps, card pages and patches: geometry over many random settings."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.chart.aids import Aids
from culmo.core.chart.box import PAN_MM, BoxShape, PanSize, fitting_shape, plan_well_map
from culmo.core.chart.kinds.cards import MOST_ON_A_PAGE
from culmo.core.chart.order import plan_order
from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.patch import plan_patch
from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.core.chart.touching import neighbours
from culmo.errors import CulmoError
from support.builders import laid_out, make_sheet


def boxes_overlap(boxes, slack=1e-6):
    for i, (x, y, w, h) in enumerate(boxes):
        for other_x, other_y, other_w, other_h in boxes[i + 1 :]:
            if (
                x + w > other_x + slack
                and other_x + other_w > x + slack
                and y + h > other_y + slack
                and other_y + other_h > y + slack
            ):
                return True
    return False


shapes = st.builds(
    lambda rows, columns, full, gap, rim: BoxShape(
        rows, columns, {place: PanSize.FULL for place in full if place < rows * columns}, gap, rim
    ),
    st.integers(1, 8), st.integers(1, 10), st.sets(st.integers(0, 79), max_size=12), st.floats(0, 5), st.floats(0, 12),
)  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(shapes)
def test_wells_lie_in_the_lid_and_never_overlap(shape):
    wells = [shape.well_mm(place) for place in range(shape.count)]
    width, height = shape.size_mm
    assert not boxes_overlap(wells)
    for place, (x, y, w, h) in enumerate(wells):
        assert (w, h) == PAN_MM[shape.pan(place)]
        assert x >= shape.rim_mm - 1e-9
        assert y >= shape.rim_mm - 1e-9
        assert x + w <= width - shape.rim_mm + 1e-6
        assert y + h <= height - shape.rim_mm + 1e-6


@settings(max_examples=40, deadline=None)
@given(shapes, st.integers(0, 10**6))
def test_a_well_map_is_the_box_at_its_true_size(shape, seed):
    paints = {
        place: (f"Paint {place} {'long ' * (place % 5)}", "PB29" if place % 3 else "")
        for place in range(shape.count)
    }
    try:
        sheet = plan_well_map("Box", shape, paints)
    except CulmoError as error:
        assert "larger than any paper" in str(error)
        return
    width, height = shape.size_mm
    x0, y0, w, h = sheet.frame_mm
    assert (w, h) == (width, height)
    assert abs(x0 + w / 2 - sheet.paper.width_mm / 2) < 0.1
    assert abs(y0 + h / 2 - sheet.paper.height_mm / 2) < 0.1
    assert len(sheet.cells) == shape.count
    for cell in sheet.cells:
        place = int(cell.id[1:]) - 1
        wx, wy, ww, wh = shape.well_mm(place)
        cx, cy, cw, ch = cell.box_mm
        assert wx + x0 <= cx
        assert cx + cw <= wx + x0 + ww + 1e-6
        assert wy + y0 <= cy
        assert cy + ch <= wy + y0 + wh + 1e-6
    assert not boxes_overlap([cell.box_mm for cell in sheet.cells])
    assert sheet_from_dict(sheet_to_dict(sheet)).cells == sheet_from_dict(sheet_to_dict(sheet)).cells


def test_an_empty_box_and_an_impossible_one_say_so():
    with pytest.raises(CulmoError, match="empty"):
        plan_well_map("Box", BoxShape(2, 2, {}), {})
    with pytest.raises(CulmoError, match="rows"):
        BoxShape(0, 3, {})
    with pytest.raises(CulmoError, match="columns"):
        BoxShape(1, 99, {})
    with pytest.raises(CulmoError, match="gap"):
        BoxShape(1, 1, {}, -1.0)


def test_a_fitting_box_holds_its_paints_with_few_wells_empty():
    for count in range(1, 201):
        rows, columns = fitting_shape(count)
        assert count <= rows * columns < count + rows + 2
    assert fitting_shape(18) == (3, 6)


@settings(max_examples=80, deadline=None)
@given(
    count=st.integers(1, 40), paper=st.sampled_from(PAPERS), lift=st.booleans(), fade=st.booleans(),
    tape=st.floats(0, 15), per_page=st.integers(1, MOST_ON_A_PAGE),
)  # fmt: skip
def test_card_pages_hold_every_paint_once_and_nothing_overlaps(count, paper, lift, fade, tape, per_page):
    paints = tuple((f"Paint {i}", "PB29 + PG7") for i in range(count))
    try:
        names = tuple(name for name, _ in paints)
        sheets = laid_out(
            "cards", aids=Aids(codes={name.casefold(): codes for name, codes in paints}), paints=names, paper=paper,
            title="Cards", lift=lift, fade=fade, tape_mm=tape, per_page=per_page,
        )  # fmt: skip
    except CulmoError as error:
        assert "larger paper" in str(error)
        assert paper.name in ("A6", "A5")
        return
    names = []
    for sheet in sheets:
        patches = {cell.id[:3] for cell in sheet.cells}
        assert len(patches) <= per_page
        expected = 4 + 2 * lift + 2 * fade
        assert len(sheet.cells) == expected * len(patches)
        names += [cell.recipe.names[0] for cell in sheet.cells if cell.id.endswith("m")]
        assert not boxes_overlap([cell.box_mm for cell in sheet.cells])
        assert not any(neighbours(sheet.cells).values())  # patches stand apart: none runs into the next
        for cell in sheet.cells:
            for x, y in cell.outline_mm:
                assert tape - 1e-6 <= x <= sheet.paper.width_mm - tape + 1e-6
                assert tape - 1e-6 <= y <= sheet.paper.height_mm - tape + 1e-6
        strokes = {
            tuple(round(v, 6) for v in cell.box_mm[2:]) for cell in sheet.cells if cell.id.endswith("m")
        }
        assert len(strokes) == 1
        x, _, width, _ = sheet.frame_mm
        assert abs(x + width / 2 - sheet.paper.width_mm / 2) < 0.1 or len(patches) < 3
        for label in sheet.labels:
            assert 0 <= label.at_mm[0] <= sheet.paper.width_mm
            assert 0 <= label.at_mm[1] <= sheet.paper.height_mm
    assert names == [name for name, _ in paints]
    sizes = [len(sheet.cells) for sheet in sheets]
    assert max(sizes) - sizes[-1] < max(sizes)


def test_a_card_is_what_the_model_and_the_tests_need():
    (sheet,) = laid_out("cards", paints=("Rose",), paper="A5", title="Card")
    by_tail = {cell.id[-1]: cell for cell in sheet.cells}
    assert {tail: cell.treatment for tail, cell in by_tail.items() if cell.treatment} == {
        "l": "lifted", "r": "rubbed", "c": "covered", "e": "exposed",
    }  # fmt: skip
    assert by_tail["k"].ground == "ink"
    assert by_tail["t"].recipe.layers[0].wash == 0.2
    start, end = by_tail["f"].fade_mm
    assert end[0] - start[0] == pytest.approx(by_tail["f"].box_mm[2])
    ordered = plan_order(sheet)
    assert sum(step["do"] == "puddle" for step in ordered.work) == 1
    again = sheet_from_dict(sheet_to_dict(ordered))
    assert [cell.treatment for cell in again.cells] == [cell.treatment for cell in ordered.cells]


@pytest.mark.parametrize(
    ("change", "words"),
    [({"paints": ()}, "at least one"), ({"paints": ("A", "a")}, "twice"), ({"tape_mm": 200.0}, "no room"),
     ({"per_page": 13}, "1 to 12")],
)  # fmt: skip
def test_bad_card_plans_are_refused_with_the_reason(change, words):
    with pytest.raises(CulmoError, match=words):
        laid_out("cards", **{"paints": ("A",), "paper": "A4", **change})


def test_a_bad_treatment_in_a_sheet_is_named():
    (sheet,) = laid_out("cards", paints=("Rose",), paper="A5")
    data = sheet_to_dict(sheet)
    data["cells"][4]["treatment"] = "washed"
    with pytest.raises(CulmoError, match="treatment"):
        sheet_from_dict(data)


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 25), st.sampled_from(["A4", "A3", "A2"]))
def test_a_patch_holds_the_cells_at_their_true_size_on_one_paper_or_more(count, paper):
    sheet = make_sheet(paper=paper)
    cells = list(sheet.cells)[:count]
    patches = plan_patch("Patch", cells)
    found = [cell for patch in patches for cell in patch.cells]
    assert [cell.id for cell in found] == [cell.id for cell in cells]
    for old, new in zip(cells, found, strict=True):
        assert new.box_mm[2:] == pytest.approx(old.box_mm[2:])
        assert new.recipe == old.recipe
    for patch in patches:
        assert not boxes_overlap([cell.box_mm for cell in patch.cells])
        for cell in patch.cells:
            assert all(
                0 <= x <= patch.paper.width_mm and 0 <= y <= patch.paper.height_mm for x, y in cell.outline_mm
            )


def test_no_cell_and_a_giant_one_can_not_be_patched():
    with pytest.raises(CulmoError, match="no cell"):
        plan_patch("Patch", [])
    (giant,) = laid_out("cards", paints=("Rose",), paper=Paper("Wall", 2000.0, 2000.0))
    from dataclasses import replace

    cell = replace(giant.cells[0], outline_mm=((0, 0), (900, 0), (900, 900), (0, 900)))
    with pytest.raises(CulmoError, match="larger"):
        plan_patch("Patch", [cell])


def test_a_patch_of_where_strokes_met_is_painted_wet_in_wet():
    (sheet,) = laid_out("fan", paints=("Rose", "Lemon"), way="touch", paper="A5")
    (patch,) = plan_patch("Patch", [sheet.cell("r01c01m"), sheet.cell("r01c01")])
    ordered = plan_order(patch)
    assert [cell.mixing for cell in ordered.cells] == ["wet", ""]
    assert sorted(cell.order for cell in ordered.cells) == [1, 2]
    assert {"do": "touch", "cell": "r01c01m", "recipe": "Lemon"} in ordered.work
