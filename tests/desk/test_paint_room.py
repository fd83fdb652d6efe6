"""The Paint room driven by keys alone, on a simulated clock."""

from datetime import datetime, timedelta

import pytest
from PySide6.QtCore import Qt

from culmo.core.chart.touching import neighbours
from culmo.desk.app import settle
from culmo.study import acts, paint_acts, records
from culmo.study.file import Study
from support.builders import make_sheet

PAINT, PLAN = 2, 1


class Clock:
    def __init__(self):
        self.now = datetime(2026, 6, 1, 12, 0).astimezone()

    def __call__(self):
        return self.now

    def pass_minutes(self, minutes):
        self.now += timedelta(minutes=minutes)


@pytest.fixture
def at_the_table(qtbot, with_study):
    """The window in the Paint room with a planned sheet, and its clock."""
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    clock = Clock()
    window.show_room(PAINT)
    settle(window, 30)
    window.paint.work.now = clock
    window.paint.refresh()
    return window, clock, lambda key: qtbot.keyClick(window.paint, key)


def test_a_whole_sheet_by_keys_alone_with_every_wait(at_the_table):
    window, clock, press = at_the_table
    room, sheet = window.paint, window.state.record.sheet
    beside, started, waited = neighbours(sheet.cells), {}, 0
    for _ in range(200):
        state = room.state
        if state.current is None:
            break
        if state.wait_minutes > 0:
            waited += 1
            assert not room.done_button.isEnabled()
            before = state.done
            press(Qt.Key.Key_Space)  # nothing is painted beside wet paint
            assert room.state.done == before
            clock.pass_minutes(state.wait_minutes + 0.02)
            room._tick()
            assert room.state.wait_minutes == 0
            assert "now" in room.wait.text()
        cell = room.state.current.cell
        for other in beside[cell.id]:
            if other in started:
                wash = sheet.cell(other).recipe.layers[0].wash
                assert clock.now >= started[other] + timedelta(minutes=room.work.table.drying.minutes(wash))
        started[cell.id] = clock.now
        press(Qt.Key.Key_Space)
        clock.pass_minutes(0.4)
    assert set(started) == {cell.id for cell in sheet.cells}
    assert waited >= 1
    assert room.lines[0][1].text() == "All cells are painted"
    assert "25 cells" in room.wash.text()
    events = [row["text"] for row in window.session.file.rows("events", "kind = 'run'")]
    assert "25 cells" in events[-1]
    assert "minutes at the table" in events[-1]


def test_every_key_does_its_act_and_every_act_is_undone(at_the_table, qtbot):
    window, clock, press = at_the_table
    room, study = window.paint, window.session.file
    press(Qt.Key.Key_W)
    press(Qt.Key.Key_P)
    press(Qt.Key.Key_1)
    press(Qt.Key.Key_R)
    assert study.rows("strokes") == []
    empty = study.dump()
    press(Qt.Key.Key_H)
    press(Qt.Key.Key_Space)
    clock.pass_minutes(1)
    assert study.rows("strokes")[0]["how"] == "paper"
    for key in (Qt.Key.Key_2, Qt.Key.Key_5, Qt.Key.Key_Plus, Qt.Key.Key_W, Qt.Key.Key_P, Qt.Key.Key_G):
        press(key)
    row = study.rows("strokes")[0]
    assert row["marks"] == "separates keeper"
    assert [r["keeper"] for r in study.rows("cells", "id = ?", (row["cell_id"],))] == [1]
    assert room.work.table.drying.base_minutes == 16
    assert room.work.table.drying.paper == "rough"
    assert room.work.table.paused
    assert "break" in room.wait.text()
    assert room.marks["keeper"].isChecked()
    press(Qt.Key.Key_2)
    assert study.rows("strokes")[0]["marks"] == "keeper"
    press(Qt.Key.Key_N)
    qtbot.keyClicks(room.word, "soft edge")
    qtbot.keyClick(room.word, Qt.Key.Key_Return)
    assert study.rows("strokes")[0]["note"] == "soft edge"
    assert len(study.rows("strokes")) == 1  # Enter was meant for the note, not for the next cell
    press(Qt.Key.Key_R)
    assert room.state.done == 0
    assert room.state.total == 25
    press(Qt.Key.Key_D)
    assert study.rows("strokes")[0]["dried"] is not None
    press(Qt.Key.Key_S)
    press(Qt.Key.Key_Minus)
    while window.session.undo.canUndo():
        window.session.undo.undo()
        if window.session.undo.index() == 1:  # the sheet itself
            break
    assert {k: v for k, v in study.dump().items() if k != "events"} == {
        k: v for k, v in empty.items() if k != "events"
    }


def test_arrows_and_a_click_leave_the_order_and_the_rest_follows(at_the_table, qtbot):
    window, clock, press = at_the_table
    room = window.paint
    first = room.state.current.cell.id
    press(Qt.Key.Key_Right)
    second = room.state.current.cell.id
    assert second != first
    press(Qt.Key.Key_Left)
    assert room.state.current.cell.id == first
    qtbot.mouseClick(room.view, Qt.MouseButton.LeftButton, pos=room.view.place_of("r04c02").toPoint())
    assert room.state.current.cell.id == "r04c02"
    press(Qt.Key.Key_Space)
    clock.pass_minutes(1)
    assert room.state.done == 1
    assert room.state.current.cell.id not in {
        "r04c02",
        *neighbours(window.state.record.sheet.cells)["r04c02"],
    }
    press(Qt.Key.Key_Backspace)
    assert room.state.current.cell.id == "r04c02"
    press(Qt.Key.Key_Escape)
    assert window.rooms.currentIndex() == PLAN


def test_a_week_later_the_run_goes_on_where_it_was(at_the_table, tmp_path):
    window, clock, press = at_the_table
    for _ in range(4):
        press(Qt.Key.Key_Space)
        clock.pass_minutes(20)
    expected, path = window.paint.state.current.cell.id, window.session.file.path
    window.session.close()
    window.open_path(path)
    settle(window, 30)
    clock.pass_minutes(7 * 24 * 60)
    window.show_room(PAINT)
    window.paint.refresh()
    assert window.paint.state.done == 4
    assert window.paint.state.current.cell.id == expected
    assert window.paint.state.wait_minutes == 0
    assert window.paint.state.pace < 10


def test_parts_are_shown_as_they_land(at_the_table):
    window, _, press = at_the_table
    room = window.paint
    room.work.choose("r03c01")
    planned = [label.text() for label in room.lines[0]]
    press(Qt.Key.Key_C)
    assert "as they land" in room.wash.text()
    assert "brush-load" in room.lines[0][2].text()
    press(Qt.Key.Key_C)
    assert [label.text() for label in room.lines[0]] == planned


def test_the_summary_counts_without_the_breaks(study):
    study.apply(acts.add_sheet(study, make_sheet(("Lemon", "Rose"))))
    noon = datetime(2026, 6, 1, 12, 0).astimezone()

    def at(minutes):
        return (noon + timedelta(minutes=minutes)).isoformat(timespec="seconds")

    cells = records.sheet_record(study, 1).cells
    study.apply(paint_acts.paint_cell(study, 1, cells[0].id, at=at(0)))
    study.apply(paint_acts.mark_stroke(study, 1, "granulates"))
    study.apply(paint_acts.pause(study, 1, at(1)))
    study.apply(paint_acts.paint_cell(study, 1, cells[1].id, at=at(61)))  # painting ends the break
    assert not paint_acts.paused(study, 1)
    study.apply(paint_acts.paint_cell(study, 1, cells[1].id, "repaint", at=at(62)))
    for place in (1, 2, 3):
        study.apply(paint_acts.paint_cell(study, 1, cells[place].id, at=at(62 + place)))
    text = study.rows("events", "kind = 'run'")[-1]["text"]
    assert "4 cells, 5 minutes at the table, 1 painted again, 1 × granulates" in text
    assert study.rows("runs")[0]["ended"] is not None
    assert isinstance(study, Study)


def test_a_word_about_a_cell_stays_with_it_when_painting_goes_on(at_the_table, qtbot):
    """The note is begun, and the next wash is laid by the mouse before Enter: the word goes to the cell it was about."""
    window, clock, press = at_the_table
    room, study = window.paint, window.session.file
    press(Qt.Key.Key_Space)
    clock.pass_minutes(1)
    press(Qt.Key.Key_N)
    qtbot.keyClicks(room.word, "soft edge")
    room.work.done()
    clock.pass_minutes(1)
    assert len(study.rows("strokes")) == 2
    room.setFocus()  # the keys go elsewhere
    assert not room.word.isVisible()
    assert [row["note"] for row in study.rows("strokes")] == ["soft edge", ""]
    acts = window.session.undo.index()
    press(Qt.Key.Key_N)
    qtbot.keyClicks(room.word, "unwanted")
    qtbot.keyClick(room.word, Qt.Key.Key_Escape)
    press(Qt.Key.Key_N)
    qtbot.keyClick(room.word, Qt.Key.Key_Return)  # nothing typed is no act
    assert [row["note"] for row in study.rows("strokes")] == ["soft edge", ""]
    assert window.session.undo.index() == acts
    # the stroke is taken back while its word is written: the word has nowhere to go, and nothing breaks
    press(Qt.Key.Key_N)
    qtbot.keyClicks(room.word, "gone")
    for _ in range(2):
        window.session.undo.undo()  # the first word, and the second stroke
    room.setFocus()
    assert len(study.rows("strokes")) == 1
    assert "gone" not in [row["note"] for row in study.rows("strokes")]
