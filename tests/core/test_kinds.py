"""Every kind of sheet over many random settings: geometry, recipes, advice."""

import itertools

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from culmo.core.chart.aids import Aids, Knowledge, rough_width_mm
from culmo.core.chart.kinds import KIND_KEYS, KINDS
from culmo.core.chart.kinds.grid import GridOptions, grid_board
from culmo.core.chart.kinds.ladder import LadderOptions, ladder_recipes, walk_ladder
from culmo.core.chart.kinds.triangle import lattice
from culmo.core.chart.kinds.wheel import WheelOptions, wheel_recipes
from culmo.core.chart.knowledge import knowledge_of
from culmo.core.chart.laying import split_board
from culmo.core.chart.mixes import between, in_parts, parts_of
from culmo.core.chart.order import plan_order
from culmo.core.chart.page import LEAST_MM, Page, corner_marks
from culmo.core.chart.papers import PAPERS, Paper, find_paper
from culmo.core.chart.plans import advice, lay_out, plan_from, plan_of
from culmo.core.chart.rings import PLAIN
from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.core.chart.touching import neighbours
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.data import text_width_mm
from culmo.errors import CulmoError
from support.builders import laid_out
from support.lying import check_off_by_names
from support.paints import make_painter

NAMES = tuple(f"Paint {i}" for i in range(24))
HUES = Knowledge(
    hue=lambda name: (hash(name) % 3600) / 10.0,
    lab=lambda recipes: np.arange(3.0 * len(recipes)).reshape(-1, 3),
)


def area(outline):
    x, y = np.array(outline).T
    return abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


def inside(outline, points):
    """Which points lie in a polygon (by crossings)."""
    polygon = np.array(outline)
    x, y = points[:, 0][:, None], points[:, 1][:, None]
    x1, y1 = polygon[:, 0], polygon[:, 1]
    x2, y2 = np.roll(x1, -1), np.roll(y1, -1)
    crosses = (y1 > y) != (y2 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = (x2 - x1) * (y - y1) / (y2 - y1) + x1
    return (crosses & (x < at)).sum(axis=1) % 2 == 1


def check_geometry(sheet, centred=True):
    x0, y0, width, height = sheet.frame_mm
    corners = np.array([point for cell in sheet.cells for point in cell.outline_mm])
    assert (corners >= [x0 - 1e-6, y0 - 1e-6]).all()
    assert (corners <= [x0 + width + 1e-6, y0 + height + 1e-6]).all()
    assert x0 >= 0
    assert y0 >= 0
    assert x0 + width <= sheet.paper.width_mm
    assert y0 + height <= sheet.paper.height_mm
    gutter = float(sheet.settings.get("gutter_mm", 0.0))
    if centred and "bands" in sheet.settings.get("eased", ()):
        check_off_by_names(sheet, rough_width_mm, gutter, float(sheet.settings.get("note_mm", 0.0)))
    elif centred:
        assert abs(x0 + width / 2 - (sheet.paper.width_mm + gutter) / 2) < 0.1
        assert abs(y0 + height / 2 - sheet.paper.height_mm / 2) < 0.1
    # no point of the paper lies in two cells
    rng = np.random.default_rng(len(sheet.cells))
    points = rng.uniform([x0, y0], [x0 + width, y0 + height], (1500, 2))
    held = sum(inside(cell.outline_mm, points).astype(int) for cell in sheet.cells)
    assert held.max() <= 1
    for label in sheet.labels:
        left, base = label.at_mm
        long = rough_width_mm(label.text, label.size_mm)
        assert left >= -0.01
        if label.angle_deg == 0.0:
            assert left + long <= sheet.paper.width_mm + 0.01, label
        assert base - 0.6 * label.size_mm >= 0
        assert base <= sheet.paper.height_mm + 0.01


AIDS = Aids(known=HUES, keepers=tuple(parse_recipe(text) for text in ("A", "A + B", "B over A")))
kinds = st.sampled_from([kind for kind in KIND_KEYS if kind != "cards"])
choices = st.fixed_dictionaries(
    {
        "paints": st.integers(3, 9).map(lambda n: NAMES[:n]),
        "across": st.integers(1, 6).map(lambda n: NAMES[12 : 12 + n]),
        "second": st.sampled_from(["paler", "dominance", "same", "empty"]),
        "extra": st.just("Dark"),
        "split": st.sampled_from(["", "diagonal", "halves"]),
        "steps": st.integers(2, 9),
        "way": st.sampled_from(["steps", "one", "touch"]),
        "wet": st.booleans(),
        "places": st.integers(3, 36),
        "shape": st.sampled_from(["segments", "strips", "petals"]),
        "rings": st.lists(
            st.sampled_from((*PLAIN, "with Sepia 1:3", "glazed Sepia 0.3")), min_size=1, max_size=4
        ).map(tuple),
        "centre": st.sampled_from(["empty", "all"]),
        "halves": st.booleans(),
        "cover": st.booleans(),
        "true_hues": st.booleans(),
        "rows": st.just((("A", "B", 5), ("A", "C", 7), ("B", "C", 0))),
        "recipes": st.just(
            tuple(parse_recipe(text) for text in ("A", "A + B", "A:3 + C @ tint", "B over A"))
        ),
        "labels": st.sampled_from(["name", "number", "code", "none"]),
        "label_place": st.sampled_from(["bands", "cells"]),
    }
)
pages = st.fixed_dictionaries(
    {
        "paper": st.sampled_from(PAPERS),
        "title": st.sampled_from(
            ["", "A title", "A very long title indeed, longer than any sheet is wide " * 3]
        ),
        "orientation": st.sampled_from(["best", "portrait", "landscape"]),
        "tape_mm": st.floats(0, 12),
        "gap_mm": st.floats(0, 4),
        "unit": st.sampled_from(["mm", "in"]),
        "note_mm": st.floats(0, 15),
        "gutter_mm": st.floats(0, 12),
        "marks": st.booleans(),
    }
)


@pytest.mark.long
@settings(max_examples=150, deadline=None)
@given(kinds, choices, pages)
def test_every_kind_lies_well_on_its_paper(kind, chosen, page):
    try:
        sheets = lay_out(plan_of(kind, {**chosen, **page}), AIDS)
    except CulmoError as error:
        assert "fit" in str(error) or "needs" in str(error)
        return
    for sheet in sheets:
        if not sheet.cells:
            assert sheet.kind == "wheel cover"
            continue
        check_geometry(
            sheet, centred=sheet.kind not in ("rows", "strip")
        )  # rows begin at their names, a strip ends with its bar
        assert sheet_to_dict(sheet_from_dict(sheet_to_dict(sheet))) == sheet_to_dict(sheet)
        if kind in ("grid", "families", "against") and not chosen["split"]:
            sizes = {tuple(round(side, 6) for side in cell.box_mm[2:]) for cell in sheet.cells}
            assert len(sizes) == 1
        if kind == "wheel" and not chosen["true_hues"]:
            rings = {}
            for cell in sheet.cells:
                if cell.id != "centre":
                    rings.setdefault((cell.id[:2], cell.id.endswith("b")), []).append(area(cell.outline_mm))
            for areas in rings.values():
                assert np.ptp(areas) < 1e-6 * max(areas) + 1e-9
        if page["marks"] and kind != "strip":
            assert sheet.marks_mm == corner_marks(Page(**page), sheet.paper)
            for x, y, side in sheet.marks_mm:
                around = np.array(
                    [[x, y], [x + side, y], [x, y + side], [x + side, y + side], [x + side / 2, y + side / 2]]
                )
                assert not any(inside(cell.outline_mm, around).any() for cell in sheet.cells)


@pytest.mark.long
@settings(max_examples=25, deadline=None)
@given(kinds, choices, st.sampled_from(["A3", "A2"]))
def test_no_wet_cell_touches_a_wet_cell_on_any_kind(kind, chosen, paper):
    try:
        sheets = lay_out(plan_of(kind, {**chosen, "paper": paper, "gap_mm": 0.0}), AIDS)
    except CulmoError:
        assume(False)
    for sheet in sheets:
        if not sheet.cells:
            continue
        ordered = plan_order(sheet)
        at = {cell.id: cell.at_minute for cell in ordered.cells}
        assert sorted(cell.order for cell in ordered.cells) == list(range(1, len(ordered.cells) + 1))
        for name, others in neighbours(sheet.cells).items():
            for other in others - set(sheet.cell(name).meets):
                assert abs(at[name] - at[other]) >= 15.0 - 0.011


def test_a_wheel_goes_round_its_anchors_evenly():
    recipes = wheel_recipes(WheelOptions(paints=("A", "B", "C"), places=12))
    assert [str(recipe) for recipe in recipes[:5]] == ["A", "A:3 + B", "A + B", "A + B:3", "B"]
    pure = [place for place, recipe in enumerate(recipes) if recipe.is_pure]
    assert pure == [0, 4, 8]
    five = wheel_recipes(WheelOptions(paints=("A", "B", "C", "D", "E"), places=24))
    assert len(five) == 24
    assert set(five[-1].names) == {"E", "A"}
    for count in (6, 12, 24, 7):
        assert len(wheel_recipes(WheelOptions(paints=("A", "B", "C"), places=count))) == count


@pytest.mark.parametrize("anchors", [2, 3, 4, 5, 7, 8])
@pytest.mark.parametrize("places", [12, 13, 24, 31])
def test_every_anchor_of_a_wheel_stands_pure(anchors, places):
    names = tuple("ABCDEFGH"[:anchors])
    recipes = wheel_recipes(WheelOptions(paints=names, places=places))
    assert len(recipes) == places
    assert [recipe.names[0] for recipe in recipes if recipe.is_pure] == list(names)
    pure = [place for place, recipe in enumerate(recipes) if recipe.is_pure] + [places]
    gaps = [later - earlier for earlier, later in itertools.pairwise(pure)]
    assert max(gaps) - min(gaps) <= 1


def test_the_steps_between_anchors_are_given_for_all_or_gap_by_gap():
    names = ("A", "B", "C", "D", "E")
    assert len(wheel_recipes(WheelOptions(paints=names, between=(2,)))) == 15
    recipes = wheel_recipes(WheelOptions(paints=names, between=(2, 0, 1, 0, 0)))
    assert [str(recipe) for recipe in recipes] == ["A", "A:2 + B", "A + B:2", "B", "C", "C + D", "D", "E"]
    with pytest.raises(CulmoError, match="5 gaps"):
        wheel_recipes(WheelOptions(paints=names, between=(2, 1)))
    assert [str(recipe) for recipe in wheel_recipes(WheelOptions(paints=names, places=4))] == list(names)
    with pytest.raises(CulmoError, match="places can not be"):
        wheel_recipes(WheelOptions(paints=names, between=(40,)))


def test_rings_say_what_is_added():
    rings = ("full", "tint", "dark", "opposite", "glaze")
    (sheet,) = laid_out("wheel", paints=("A", "B", "C"), places=6, rings=rings, extra="K", paper="A3")
    by_id = {cell.id: str(cell.recipe) for cell in sheet.cells}
    assert by_id["w1p01"] == "A"
    assert by_id["w2p01"] == "A @ tint"
    assert by_id["w3p01"] == "A + K"
    assert by_id["w4p01"] == "A:2 + B + C"
    assert by_id["w5p01"] == "B + C @ tint over A"
    with pytest.raises(CulmoError, match="needs a paint"):
        laid_out("wheel", paints=("A", "B"), rings=("white",))


def test_a_triangle_holds_every_proportion_once():
    (sheet,) = laid_out("triangle", paints=("A", "B", "C"), steps=6)
    assert len(sheet.cells) == 28 == len(lattice(6))
    assert len({cell.recipe.key for cell in sheet.cells}) == 28
    areas = [area(cell.outline_mm) for cell in sheet.cells]
    assert np.ptp(areas) < 1e-6


def test_ladders_take_given_parts_even_steps_and_more_between():
    assert parts_of("100/75/50/25/0") == ((100, 0), (75, 25), (50, 50), (25, 75), (0, 100))
    assert parts_of("3:1, 1:1, 1:3") == ((3, 1), (1, 1), (1, 3))
    assert len(parts_of("1:1, 5 more, 1:3")) == 7
    assert parts_of("1:1, 1 more, 0:1")[1] == (1, 3)
    for bad in ("5 more", "1:1, 5 more", "1:1, x more, 1:2", "1:1, 2 more, 3 more, 1:2"):
        with pytest.raises(CulmoError, match="more"):
            parts_of(bad)
    with pytest.raises(CulmoError, match="even steps need readings"):
        ladder_recipes(LadderOptions(paints=("A", "B"), even=True), Aids())
    for bad in ("a/b", "120", "1:2:3", "0:0", "-1:2"):
        with pytest.raises(CulmoError, match="no parts"):
            parts_of(bad)
    chosen = LadderOptions(paints=("A", "B"), parts=parts_of("100/75/50/25/0"))
    assert [str(r) for r in ladder_recipes(chosen, Aids())] == ["A", "A:3 + B", "A + B", "A + B:3", "B"]
    more = between((1, 1), (1, 3), 5)
    shares = [b / (a + b) for a, b in [(1, 1), *more, (1, 3)]]
    assert np.all(np.diff(shares) > 0)
    assert len(more) == 5
    with pytest.raises(CulmoError):
        between((1, 1), (1, 3), 0)
    painter = make_painter(4, 3)
    names = [paint.name for paint in painter.paints]
    estimate = learn(names, painter.cards())
    known = knowledge_of(estimate)
    even = ladder_recipes(LadderOptions(paints=tuple(names[:2]), steps=6, even=True), Aids(known=known))
    lab = predict_lab(estimate, even)
    gaps = delta_e_00(lab[1:], lab[:-1])
    plain = predict_lab(estimate, ladder_recipes(LadderOptions(paints=tuple(names[:2]), steps=6), Aids()))
    assert (
        gaps.std() / gaps.mean()
        < delta_e_00(plain[1:], plain[:-1]).std() / delta_e_00(plain[1:], plain[:-1]).mean()
    )
    with pytest.raises(CulmoError, match="nothing is known"):
        known.even("Nobody", names[0], 3)
    assert 0 <= known.hue(names[0]) < 360


def test_walking_the_ladder_adds_what_it_says():
    recipes = [in_parts("A", "B", a, b) for a, b in ((1, 0), (3, 1), (1, 1), (1, 3), (0, 1))]
    lines = walk_ladder(recipes)
    assert lines[0] == "Begin with a puddle of 4 measures of A."
    # after one band of ten in a hundred 3.6 measures are left: a third of it is 1.2
    assert lines[1].startswith("Add 1 1/4 measures of B")
    assert any("begin anew from the other end" in line for line in lines)
    assert walk_ladder([mix(["A"])]) == []


def test_several_sheets_join_to_the_whole():
    board = grid_board(GridOptions(paints=NAMES[:14]), Aids())
    page = Page(find_paper("A4"))
    parts = split_board(board, page)
    assert len(parts) > 1
    slots = [slot for part in parts for row in part.rows for slot in row]
    assert len(slots) == 14 * 14
    sheets = laid_out("grid", paints=NAMES[:14], several=True)
    assert len(sheets) == len(parts)
    assert all(min(cell.box_mm[2:]) >= LEAST_MM - 1e-6 for sheet in sheets for cell in sheet.cells)
    recipes = sorted(str(cell.recipe) for sheet in sheets for cell in sheet.cells)
    (whole,) = laid_out("grid", paints=NAMES[:14], paper="A2")
    assert recipes == sorted(str(cell.recipe) for cell in whole.cells)


@pytest.mark.parametrize("count", [8, 11, 14, 17, 20])
@pytest.mark.parametrize("paper", ["A5", "A4", "A3"])
def test_sheets_that_join_have_cells_of_the_least_size_each(count, paper):
    names = tuple(f"A paint with a long name {i}" for i in range(count))
    sheets = laid_out(
        "grid", aids=Aids(text_width_mm), paints=names, paper=paper, several=True, title="Joined"
    )
    for sheet in sheets:
        assert min(sheet.cells[0].box_mm[2:]) >= LEAST_MM - 1e-9, (len(sheets), sheet.title)


def test_advice_is_given_where_cells_are_small_and_holds():
    found = {entry.words: dict(entry.given) for entry in advice(plan_of("grid", {"paints": NAMES[:14]}))}
    for typed in found.values():
        for sheet in lay_out(plan_of("grid", {"paints": NAMES[:14], **typed}), AIDS) if typed else ():
            assert min(sheet.cells[0].box_mm[2:]) >= LEAST_MM
    assert [list(typed) for typed in found.values()] == [["paper"], ["paints"], ["several"], []]
    assert advice(plan_of("grid", {"paints": NAMES[:3]})) == []


@pytest.mark.parametrize(
    ("kind", "change", "page", "words"),
    [
        ("grid", {"paints": ()}, {}, "two paints"), ("grid", {"paints": ("A",)}, {}, "two paints"),
        ("triangle", {"paints": ("A", "B")}, {}, "three paints"), ("ladder", {"paints": ("A",)}, {}, "two paints"),
        ("grid", {"paints": NAMES + tuple(f"More {i}" for i in range(16))}, {"paper": find_paper("A6")}, "fit"),
        ("ladder", {"steps": 1}, {}, "2 to 40"), ("families", {"across": ()}, {}, "across"),
        ("free", {}, {}, "recipes"), ("keepers", {}, {}, "keepers"), ("wheel", {"true_hues": True}, {}, "readings"),
        ("nothing", {}, {}, "must be one of"), ("wheel", {}, {"cell_mm": (500.0, 500.0)}, "radius"),
        ("triangle", {"steps": 40}, {"paper": find_paper("A6")}, "fit"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_with_the_reason(kind, change, page, words):
    with pytest.raises(CulmoError, match=words):
        laid_out(kind, **{"paints": NAMES[:4], **change, **page})


@pytest.mark.parametrize(
    ("kind", "change"),
    [("fan", {"steps": 0}), ("wheel", {"places": 2}), ("grid", {"second": "odd"}), ("wheel", {"rings": ("odd",)}),
     ("ladder", {"parts": ((0.0, 0.0),)}), ("grid", {"paints": ("A", "a")}), ("wheel", {"shape": "odd"}),
     ("fan", {"way": "odd"}), ("wheel", {"rings": ()}), ("fan", {"steps": "five"}), ("ladder", {"steps": "2.5"})],
)  # fmt: skip
def test_bad_choices_are_refused(kind, change):
    with pytest.raises(CulmoError):
        plan_of(kind, change)


@pytest.mark.parametrize(
    "change",
    [
        {"tape_mm": 300.0},
        {"tape_mm": -1.0},
        {"gap_mm": 99.0},
        {"unit": "cubit"},
        {"orientation": "odd"},
        {"cell_mm": (1, 1)},
    ],
)
def test_bad_pages_are_refused(change):
    with pytest.raises(CulmoError):
        Page(Paper("A4", 210, 297), **change)


def test_what_is_given_no_title_is_called_by_its_kind():
    titles = {
        "grid": "Grid of 4", "families": "Two families", "fan": "Fan", "ladder": "Ladder", "wheel": "Wheel",
        "triangle": "Triangle", "cards": "Cards", "palette": "Palette card", "against": "One against the box",
        "free": "Free page", "keepers": "Keepers", "rows": "Free rows", "strip": "Strip",
    }  # fmt: skip
    given = {
        "paints": NAMES[:4],
        "across": NAMES[5:7],
        "recipes": AIDS.keepers,
        "rows": (("A", "B", 6),),
        "paper": "A3",
    }
    assert {kind: lay_out(plan_of(kind, given), AIDS)[0].title for kind in KIND_KEYS} == titles
    for kind in KIND_KEYS:
        sheets = lay_out(plan_of(kind, {**given, "title": "Mine"}), AIDS)
        assert sheets[0].title == "Mine" and "Mine" in {label.text for label in sheets[0].labels}


@pytest.mark.parametrize("gap", [0.0, 2.0])
def test_the_ruling_has_every_edge_once_and_the_last(gap):
    (sheet,) = laid_out("grid", paints=NAMES[:4], gap_mm=gap)
    for axis, lines in ((0, sheet.ruling.vertical_mm), (1, sheet.ruling.horizontal_mm)):
        edges = sorted({round(point[axis], 6) for cell in sheet.cells for point in cell.outline_mm})
        assert [round(line, 6) for line in lines] == edges
        assert len(lines) == (5 if gap == 0 else 8)


def test_every_kind_comes_back_from_its_settings():
    """What the window shows of a kept sheet is what it was made from, and lays it out the same."""
    given = {
        "paints": NAMES[:4], "across": NAMES[5:7], "recipes": AIDS.keepers, "rows": (("A", "B", 6),),
        "paper": "A3", "title": "Mine", "gap_mm": 2.5,
        "labels": "number", "extra": NAMES[6], "second": "white", "split": "halves", "rings": ("full", "dark"), "places": 7,
        "parts": "3:1, 1:1", "steps": 4, "wet": True, "way": "one", "lift": False, "marks": True, "unit": "in",
        "label_place": "cells", "note_mm": 11.0, "centre": "all",
    }  # fmt: skip
    for kind in KINDS:
        plan = plan_of(kind.key, given)
        sheet = sheet_from_dict(sheet_to_dict(lay_out(plan, AIDS)[0]))
        again = plan_from(sheet)
        assert (again.kind, again.options, again.page) == (plan.kind, plan.options, plan.page)
        texts = {**plan.page.texts(), **plan.options.texts()}
        assert plan_of(kind.key, texts) == plan


def test_round_cells_are_the_largest_circles_of_their_places_and_their_own_area_is_read():
    round_, plain = (
        laid_out("grid", paints=NAMES[:3], paper="A4", round=flag, gap_mm="2")[0] for flag in ("yes", "")
    )
    for dab, cell in zip(round_.cells, plain.cells, strict=True):
        x, y, width, height = cell.box_mm
        points = np.array(dab.outline_mm)
        reach = np.hypot(points[:, 0] - x - width / 2, points[:, 1] - y - height / 2)
        assert np.allclose(reach, min(width, height) / 2)
        assert (dab.recipe, dab.shape) == (cell.recipe, "")
    split = laid_out("grid", paints=NAMES[:3], paper="A4", round="yes", split="diagonal", second="paler")[0]
    assert any(len(cell.outline_mm) == 3 for cell in split.cells)  # halves of one place stay halves


def test_every_corner_of_a_triangles_hexagons_is_where_two_ticks_meet():
    sheet = laid_out("triangle", paints=("A", "B", "C"), steps="4", paper="A4")[0]
    across, down = np.array(sheet.ruling.vertical_mm), np.array(sheet.ruling.horizontal_mm)
    assert len(across) == len({round(x, 2) for x in across}) > 8
    for cell in sheet.cells:
        for x, y in cell.outline_mm:
            assert np.abs(across - x).min() < 0.01
            assert np.abs(down - y).min() < 0.01


def test_where_labels_give_way_codes_stand_for_names_that_would_be_cut():
    names = ("A phthalo blue with a long name", "Quite a long rose", "Short", "Another of great length", "Moss",
             "Sixth of them all, and the longest", "Seventh paint of the box", "The eighth and the last")  # fmt: skip
    codes = {
        name.casefold(): code for name, code in zip(names, ("PB15:3", "PV19", "PY3", "PG7"), strict=False)
    }
    given = {"paints": names, "paper": find_paper("A3"), "title": "Moths", "cell_mm": (33.0, 33.0)}
    sheet = laid_out("grid", aids=Aids(text_width_mm, codes=codes), **given)[0]
    assert "short" in sheet.settings["eased"]
    texts = {label.text for label in sheet.labels}
    assert {"PB15:3", "PV19", "PG7", "Short", "Moss"} <= texts  # a name that fits stays
    assert "PY3" not in texts
    assert any(text.endswith("…") for text in texts)  # one without codes is cut
    roomy = laid_out("grid", aids=Aids(text_width_mm, codes=codes), **{**given, "cell_mm": (20.0, 20.0)})[0]
    assert "PB15:3" not in {label.text for label in roomy.labels}


def test_the_cover_of_a_wheel_lies_around_its_own_middle():
    _, cover = laid_out("wheel", paints=("A", "B", "C"), cover=True, paper="A4")
    ((x, y, radius), (_, _, pin)) = cover.ruling.circles_mm
    left, top, width, height = cover.frame_mm
    assert pin < radius
    assert (left + width / 2, top + height / 2) == pytest.approx((x, y))
    assert width == height == pytest.approx(2 * radius)


def test_a_triangle_lies_in_the_middle_of_what_the_gutter_leaves():
    (sheet,) = laid_out("triangle", paints=("A", "B", "C"), steps=6, paper="A4", gutter_mm=12.0)
    corners = np.array([point for cell in sheet.cells for point in cell.outline_mm])
    middle = (corners.min(axis=0) + corners.max(axis=0)) / 2
    assert middle[0] == pytest.approx((sheet.paper.width_mm + 12.0) / 2, abs=0.6)
