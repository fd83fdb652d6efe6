"""The run at the table: what comes next, what must dry, the pace; puddles and brush-loads."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culmo.core.chart.order import plan_order, work_cost
from culmo.core.chart.run import CellMark, Drying, Run, Stroke, brush_loads, learn_drying, puddle_step
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.chart.touching import neighbours
from culmo.core.chart.washes import Pace
from culmo.core.paint.recipe import mix, parse_recipe
from support.builders import make_sheet

NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


def at(minutes):
    return NOON + timedelta(minutes=minutes)


def test_a_run_begins_with_the_first_cell_and_counts():
    sheet = make_sheet()
    state = Run(sheet).state([], NOON)
    order = sheet.in_order()
    assert state.current.cell is order[0]
    assert (state.done, state.total, state.skipped, state.wait_minutes) == (0, 25, 0, 0)
    assert len(state.upcoming) == 3
    assert state.free == {cell.id for cell in order}
    assert state.last is None


def test_a_cell_that_is_put_off_comes_last_and_a_wet_neighbour_makes_wait():
    sheet = make_sheet()
    order = sheet.in_order()
    run = Run(sheet)
    skipped = run.state([Stroke(order[0].id, CellMark.SKIP, NOON)], NOON)
    assert skipped.current.cell is not order[0]
    assert skipped.skipped == 1
    strokes = [Stroke(cell.id, CellMark.DONE, NOON) for cell in order if cell.id != "r02c02"]
    state = run.state(strokes, at(5), Drying(15.0))
    beside = [sheet.cell(name).recipe.layers[0].wash for name in neighbours(sheet.cells)["r02c02"]]
    longest = max(Drying(15.0).minutes(wash) for wash in beside)
    assert state.current.cell.id == "r02c02"
    assert state.wait_minutes == pytest.approx(longest - 5)
    assert run.state(strokes, at(longest + 0.1), Drying(15.0)).wait_minutes == 0
    assert run.state(strokes, at(18)).dry_in == 0


def test_a_cell_to_be_painted_again_waits_until_it_is_dry():
    sheet = make_sheet()
    order = sheet.in_order()
    strokes = [Stroke(cell.id, CellMark.DONE, at(i)) for i, cell in enumerate(order)]
    strokes.append(Stroke(order[-1].id, CellMark.REPAINT, at(25)))
    state = Run(sheet).state(strokes, at(25))
    assert state.current.cell is order[-1]
    assert state.wait_minutes > 5
    assert state.done == 24
    assert Run(sheet).state(strokes, at(60)).wait_minutes == 0


def test_the_pace_is_the_painters_own_and_breaks_do_not_count():
    sheet = make_sheet()
    minutes = [0, 2, 4, 6, 8, 10, 500, 502]
    strokes = [Stroke(c.id, CellMark.DONE, at(m)) for c, m in zip(sheet.in_order(), minutes, strict=False)]
    state = Run(sheet).state(strokes, at(600))
    assert state.minutes_left == pytest.approx(2.0 * 17)
    short = [
        Stroke(c.id, CellMark.DONE, at(m))
        for c, m in zip(sheet.in_order(), [0, 1, 2, 3, 4, 9, 10], strict=False)
    ]
    rested = Run(sheet).state(short, at(20), pauses=[(at(4.5), at(8))])
    assert rested.pace == pytest.approx(1.0)


def test_the_layer_below_comes_first_and_must_be_dry():
    outline = ((10.0, 10.0), (30.0, 10.0), (30.0, 30.0), (10.0, 30.0))
    moved = tuple((x + 40.0, y) for x, y in outline)
    base = make_sheet()
    cells = (
        Cell("a", outline, parse_recipe("Rose over Lemon"), order=1),
        Cell("b", moved, mix(["Ochre"]), order=2),
    )
    sheet = Sheet("Glazes", "free", base.paper, base.frame_mm, cells)
    run = Run(sheet)
    state = run.state([], NOON)
    assert state.total == 3
    assert state.current.key == ("a", 1)
    assert str(state.current.recipe) == "Lemon"
    below = [Stroke("a", CellMark.DONE, NOON, 1)]
    state = run.state(below, at(1))
    assert state.current.key == ("b", 0)  # something else, while it dries
    state = run.state([*below, Stroke("b", CellMark.DONE, at(2))], at(3))
    assert state.current.key == ("a", 0)
    assert state.wait_minutes > 5
    assert run.state([], NOON, chosen=("a", 0)).wait_minutes == float("inf")
    done = run.state([*below, Stroke("b", CellMark.DONE, at(2)), Stroke("a", CellMark.DONE, at(20))], at(21))
    assert done.current is None


@given(st.randoms(use_true_random=False))
@settings(max_examples=15)
def test_following_the_run_never_touches_wet_paint(random):
    sheet = make_sheet(("Lemon", "Rose", "Ultramarine"))
    run, beside = Run(sheet), neighbours(sheet.cells)
    drying = Drying(random.uniform(3, 40), random.choice(["smooth", "cold pressed", "rough"]))
    now, strokes, dry_at, chosen = NOON, [], {}, None
    for _ in range(80):
        state = run.state(strokes, now, drying, chosen)
        chosen = None
        if state.current is None:
            break
        if state.wait_minutes > 0:
            now += timedelta(minutes=state.wait_minutes + 0.01)
            continue
        cell = state.current.cell
        put_off = sum(stroke.act == CellMark.SKIP for stroke in strokes)
        act = CellMark.SKIP if random.random() < 0.1 and put_off < 3 else CellMark.DONE
        if act == CellMark.DONE:
            assert all(dry_at.get(other, NOON) <= now for other in (*beside[cell.id], cell.id))
            dry_at[cell.id] = now + timedelta(minutes=drying.minutes(state.current.wash))
        strokes.append(Stroke(cell.id, act, now))
        now += timedelta(minutes=random.uniform(0.1, 3))
        if random.random() < 0.2:
            chosen = (random.choice(sheet.cells).id, 0)
    assert state.current is None
    assert state.done == 9


def test_while_something_is_free_nothing_waits():
    sheet = make_sheet()
    run, now, strokes = Run(sheet), NOON, []
    for _ in range(12):
        state = run.state(strokes, now)
        if state.wait_minutes > 0.5:
            left = {cell.id for cell in sheet.cells} - {stroke.cell for stroke in strokes}
            assert not state.free & left
        now += timedelta(minutes=state.wait_minutes)
        strokes.append(Stroke(state.current.cell.id, CellMark.DONE, now))
        now += timedelta(minutes=0.5)


def test_water_is_called_for_after_many_rinses_and_not_after_a_change():
    sheet = make_sheet(paper="A3")
    strokes = [Stroke(cell.id, CellMark.DONE, at(i)) for i, cell in enumerate(sheet.in_order())]
    run = Run(sheet)
    before = [run.state(strokes[:n], at(n)).water_due for n in range(1, 26)]
    assert before[0] is False
    puddles = [run.tasks[i].puddle for i in range(25)]
    rinses = sum(a != b for a, b in pairwise(puddles))
    assert before[-1] is (rinses >= 15)
    many = [Stroke(("r01c01", "r02c01")[i % 2], CellMark.DONE, at(i)) for i in range(18)]
    assert run.state(many, at(20)).water_due
    assert not run.state(many, at(20), water_at=at(17.5)).water_due


def test_drying_is_learned_from_what_was_found_dry():
    usual = Drying(20.0, "rough")
    assert learn_drying(usual, []).learned == 1.0
    fast = learn_drying(usual, [(1.0, 0.5 * usual.minutes(1.0))] * 9)
    assert 0.5 < fast.learned < 0.7
    once = learn_drying(usual, [(0.2, 0.5 * usual.minutes(0.2))])
    assert once.learned == pytest.approx(0.875)
    assert usual.minutes(0.2) > usual.minutes(1.0)
    assert Drying(20.0, "smooth").minutes(1.0) < usual.minutes(1.0)


@given(st.lists(st.floats(0.1, 10.0), min_size=2, max_size=4))
def test_brush_loads_come_near_the_parts(parts):
    loads = brush_loads(parts)
    assert all(load >= 1 for load in loads)
    assert sum(loads) <= 8
    total, used = sum(parts), sum(loads)
    if min(parts) / total > 0.12:
        assert max(abs(p / total - n / used) for p, n in zip(parts, loads, strict=True)) < 0.11
    assert brush_loads([part * 3.0 for part in parts]) == loads


def test_a_puddle_becomes_the_next_by_adding_one_paint():
    ladder = [mix(["Rose", "Lemon"], parts) for parts in ((1, 3), (1, 1), (3, 1))]
    assert puddle_step(ladder[0], ladder[1]) == ("Rose", 0.5)
    assert puddle_step(ladder[1], ladder[2]) == ("Rose", 1.0)
    assert puddle_step(ladder[2], ladder[1]) == ("Lemon", 0.5)
    assert puddle_step(mix(["Rose"]), ladder[1]) == ("Lemon", 1.0)
    assert puddle_step(ladder[0], ladder[0]) is None
    assert puddle_step(ladder[0], mix(["Ochre"])) is None
    three = mix(["Rose", "Lemon", "Ochre"], [1, 3, 4])
    assert puddle_step(ladder[0], three) == ("Ochre", 1.0)
    assert puddle_step(ladder[0], mix(["Rose", "Lemon", "Ochre"], [3, 1, 4])) is None


@given(st.floats(0.1, 9), st.floats(0.1, 9), st.floats(0.1, 9), st.floats(0.1, 9))
def test_adding_what_is_said_gives_the_puddle_that_is_meant(a, b, c, d):
    before, after = mix(["Rose", "Lemon"], [a, b]), mix(["Rose", "Lemon"], [c, d])
    step = puddle_step(before, after)
    if step is None:
        assert abs(a / (a + b) - c / (c + d)) < 1e-6
        return
    name, amount = step
    rose = a / (a + b) + (amount if name == "Rose" else 0.0)
    assert rose / (1.0 + amount) == pytest.approx(c / (c + d), abs=2e-4)


@pytest.mark.parametrize("below", ["Lemon", "Lemon + Rose"])
def test_the_planned_order_lays_the_layer_below_first_and_lets_it_dry(below):
    outline = ((10.0, 10.0), (30.0, 10.0), (30.0, 30.0), (10.0, 30.0))
    base = make_sheet()
    recipes = [f"Ochre @ tint over {below}", "Lemon", f"Rose over Ochre over {below}", "Rose + Ochre"]
    cells = tuple(
        Cell(name, tuple((x + 20.0 * place, y) for x, y in outline), parse_recipe(recipe))
        for place, (name, recipe) in enumerate(zip("abcd", recipes, strict=True))
    )
    pace = Pace(dry_minutes=12.0)
    sheet = plan_order(Sheet("Glazes", "free", base.paper, base.frame_mm, cells), pace)
    beside, starts = neighbours(cells), []
    for step in sheet.work:
        if step["do"] in ("cell", "under"):
            for name, minute in starts:
                if name == step["cell"] or name in beside[step["cell"]]:
                    assert step["at_minute"] >= minute + 12.0 - 0.011
            starts.append((step["cell"], step["at_minute"]))
    assert [name for name, _ in starts].count("c") == 3
    under = [step["recipe"] for step in sheet.work if step["do"] == "under"]
    assert sorted(under) == sorted([below, below, "Ochre"])
    assert sorted(cell.order for cell in sheet.cells) == [1, 2, 3, 4]
    cost = work_cost(sheet, pace)
    assert cost.cells == 4
    assert cost.minutes > 12.0 * 2


def test_the_puddle_at_hand_goes_before_a_new_one_but_not_onto_wet_paper():
    """Cells in a row: what has the brush's own puddle is next, however late it stands in the order, unless it is to dry."""
    square = ((0.0, 0.0), (20.0, 0.0), (20.0, 20.0), (0.0, 20.0))
    washes = ("Rose", "Ochre", "Viridian", "Rose @ tint")
    cells = tuple(
        Cell(
            f"c{place}",
            tuple((x + 60.0 * place, y) for x, y in square),
            parse_recipe(recipe),
            order=place + 1,
        )
        for place, recipe in enumerate(washes)
    )
    sheet = replace(make_sheet(), cells=cells)
    assert Run(sheet).state([Stroke("c0", CellMark.DONE, NOON)], NOON).current.cell.id == "c3"
    # the pale one was painted, too, and is to be painted again: it is wet, so that another puddle is mixed
    strokes = [
        Stroke("c0", CellMark.DONE, NOON),
        Stroke("c3", CellMark.DONE, at(1)),
        Stroke("c3", CellMark.REPAINT, at(1)),
    ]
    assert Run(sheet).state(strokes, at(1)).current.cell.id == "c1"
