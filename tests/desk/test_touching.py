"""What is painted wet against each other, wet in wet, and with white last: from the layout to what is learned, by keys."""

from datetime import timedelta

import pytest
from PySide6.QtCore import Qt

from culmo.desk.app import settle
from culmo.study import records
from culmo.study.file import Study
from desk.test_paint_room import PAINT, PLAN, Clock
from support.begun import new_grid


@pytest.fixture
def laid_out(qtbot, with_study):
    """Gives a function that lays a sheet out in the window, keeps it and puts it on the table; and a clock, and keys."""
    window, clock = with_study, Clock()

    def lay(kind: str, **fields: str):
        window.show_room(PLAN)
        new_grid(window.plan)
        page = window.plan.slip.layout_page
        page.kind.setCurrentIndex(page.kind.findData(kind))
        for name, text in fields.items():
            page.fields[name].set_text(text)
        page._edited()
        settle(window, 40)
        assert not page.message.text()
        assert window.plan.trying.keep()
        window.show_room(PAINT)
        window.paint.work.now = clock
        window.paint.refresh()
        return window.paint

    return lay, clock, lambda room, key=Qt.Key.Key_Space: qtbot.keyClick(room, key)


def names_of(window) -> list[str]:
    return [paint.name for paint in window.session.paints]


def test_two_strokes_that_meet_are_painted_one_into_the_other(laid_out, with_study):
    lay, clock, press = laid_out
    first, second, third = names_of(with_study)[:3]
    room = lay("fan", way="touch", paints=f"{first}, {second}, {third}", paper="A4")
    study: Study = with_study.session.file
    assert [cell.id for cell in room.work.table.record.sheet.cells][:3] == ["r01c01", "r01c01m", "r01c01b"]
    for row in range(2):
        assert "follows at once" in room.wait.text()
        begun = room.state.current.cell
        press(room)
        clock.pass_minutes(0.5)
        room._tick()
        assert room.state.wait_minutes == 0.0  # nobody has to say that wet paint is dry
        assert room.state.current.cell.id in begun.meets
        assert "wet edge" in room.wait.text()
        press(room)
        clock.pass_minutes(0.5)
        room._tick()
        assert room.state.done == 2 * (row + 1)
    assert room.state.current is None
    assert (
        len(records.painted_cells(study, room.work.table.record.id)) == 6
    )  # the places where they met are painted too
    assert study.rows("strokes", "dried NOT NULL") == []
    assert {row["how"] for row in study.rows("strokes") if row["cell_id"] in (2, 5)} == {"touching"}


def test_the_second_stroke_is_called_for_while_the_first_dries_and_not_promised_when_it_is_dry(
    laid_out, with_study
):
    lay, clock, press = laid_out
    first, second = names_of(with_study)[:2]
    room = lay("fan", way="touch", paints=f"{first}, {second}", paper="A5")
    press(room)
    clock.pass_minutes(3)
    room._tick()
    assert "is drying" in room.wait.text()
    clock.pass_minutes(60)
    room._tick()
    assert "is dry" in room.wait.text()
    press(room, Qt.Key.Key_R)
    press(room, Qt.Key.Key_Backspace)
    press(room)
    assert room.state.done == 2


def test_taking_back_a_stroke_takes_back_what_arose_with_it(laid_out, with_study):
    lay, clock, press = laid_out
    first, second = names_of(with_study)[:2]
    room = lay("fan", way="touch", paints=f"{first}, {second}", paper="A5")
    study: Study = with_study.session.file
    press(room)
    clock.pass_minutes(0.5)
    press(room)
    assert study.count("strokes") == 3
    last = [row["cell_id"] for row in study.rows("strokes")][1]
    press(room, Qt.Key.Key_Backspace)
    assert study.count("strokes") == 1
    by_row = {entry.id: entry.cell.id for entry in room.work.table.record.cells}
    assert room.state.current.cell.id == by_row[last]
    with_study.session.undo.undo()
    assert study.count("strokes") == 3


@pytest.mark.parametrize(("border", "words"), [("", "up to its edge"), ("free", "its own edge")])
def test_a_wet_shape_is_told_recorded_and_never_learned_from(laid_out, with_study, border, words):
    lay, _, press = laid_out
    first, second = names_of(with_study)[:2]
    room = lay("free", recipes=f'"{first}" + "{second}"', mixing="wet", border=border, paper="A5")
    study: Study = with_study.session.file
    assert words in room.wash.text()
    assert "wet" in room.wash.text()
    assert [line[1].text() for line in room.lines[:2]] == [first, second]
    press(room)
    assert study.rows("strokes")[0]["how"] == "paper"
    taught = sum(reading.teaches for reading in records.readings(study))
    with_study.read.state.select("r01c01")
    with_study.read.slip.entry.setText("50, 20, 10")
    with_study.read.by_hand.keep()
    (row,) = study.rows("readings", "cell_id NOT NULL")
    assert row["mixing"] == "wet"
    settle(with_study, 40)
    assert sum(reading.teaches for reading in records.readings(study)) == taught
    assert row["id"] not in with_study.session.learning.weights
    with_study.session.do(acts_keeper(study, row["cell_id"]))
    from culmo.desk.rooms.box.known import reading_lines

    shown = [line.id for line in reading_lines(study, first, with_study.session.learning.weights)]
    assert row["id"] not in shown
    assert shown


def acts_keeper(study, cell_id):
    from culmo.study.acts import mark_keeper

    return mark_keeper(study, cell_id, True)


def test_a_mix_made_on_the_paper_teaches_no_parts_whatever_the_plan_said(laid_out, with_study):
    lay, _, press = laid_out
    first, second = names_of(with_study)[:2]
    room = lay("free", recipes=f'"{first}" + "{second}"', paper="A5")
    press(room, Qt.Key.Key_H)
    press(room)
    with_study.read.state.select("r01c01")
    with_study.read.slip.entry.setText("50, 20, 10")
    with_study.read.by_hand.keep()
    (row,) = with_study.session.file.rows("readings", "cell_id NOT NULL")
    assert row["mixing"] == "wet"
    assert not records.reading_of(row).teaches


@pytest.mark.long
def test_a_split_grid_comes_to_its_white_halves_last(laid_out, with_study):
    lay, clock, press = laid_out
    *plain, white = names_of(with_study)
    room = lay(
        "grid", paints=", ".join(plain), second="white", extra=white, split="diagonal", paper="A3",
    )  # fmt: skip
    done = []
    for _ in range(200):
        state = room.state
        if state.current is None:
            break
        if state.wait_minutes > 0:
            clock.pass_minutes(state.wait_minutes + 0.02)
            room._tick()
        done.append(room.state.current.cell)
        press(room)
        clock.now += timedelta(minutes=0.5)
        room._tick()
    stages = [cell.stage for cell in done]
    assert stages == sorted(stages, key=["pure", "mix", "white"].index)
    assert set(stages) == {"pure", "mix", "white"}
    assert all(white in cell.recipe.names for cell in done if cell.stage == "white")


def test_fresh_water_is_called_for_before_the_white(laid_out, with_study):
    lay, clock, press = laid_out
    first, second, white = names_of(with_study)[:3]
    room = lay("grid", paints=f"{first}, {second}", second="white", extra=white, split="halves", paper="A5")
    while room.state.current is not None and room.state.current.cell.stage != "white":
        press(room)
        clock.pass_minutes(20)
        room._tick()
    assert "Change the water" in room.puddle.text()
    press(room, Qt.Key.Key_W)
    assert "Change the water" not in room.puddle.text()


@pytest.mark.long
def test_what_the_wishes_cost_is_told_when_it_is_asked_for(with_study):
    window = with_study
    window.show_room(PLAN)
    new_grid(window.plan)
    settle(window, 40)
    window.plan.slip.tabs.choose(3)
    settle(window, 60)
    text = window.plan.slip.work.text.toPlainText()
    assert "What the wishes cost" in text
    assert "Light before dark:" in text
    assert "from minute" in text


def test_the_stages_are_ticked_and_dragged(with_study):
    window = with_study
    window.show_room(PLAN)
    new_grid(window.plan)
    field = window.plan.slip.layout_page.fields["stages"]
    assert field.text() == "pure,mix,white,glaze"
    field.list.item(2).setCheckState(Qt.CheckState.Checked)
    settle(window, 40)
    assert field.text() == "pure,mix,pale,white,glaze"
    stages = [cell.stage for cell in window.plan.trial.in_order()]
    assert stages == sorted(stages, key=["pure", "mix", "pale"].index)
    field.set_text("mix,pure,glaze")
    assert [field.list.item(i).data(Qt.ItemDataRole.UserRole) for i in range(5)] == [
        "mix", "pure", "pale", "white", "glaze",
    ]  # fmt: skip
    field.set_text("glaze,mix")
    field.edited.emit()
    assert "come last" in window.plan.slip.layout_page.message.text()
