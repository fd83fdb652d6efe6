"""Wet against dry and the depth of washes, in the real window: noted, typed, from a first picture; then looked at."""

import shutil

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.desk.rooms.weigh.water_model import WashesShown, WashOrder
from culmo.desk.rooms.weigh.water_page import WaterPanel
from culmo.study import acts, paint_acts, records
from culmo.study.dried import dried_cells
from culmo.study.scraps import scrap_of
from desk.test_read_room import colours_of, picture, wait_for_trial
from desk.test_weigh_room import wait
from support.builders import make_sheet


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def planned(with_study):
    """The window with a planned sheet of five paints."""
    with_study.session.do(acts.add_sheet(with_study.session.file, make_sheet()))
    with_study.session.selection.select_sheet(1)
    settle(with_study, 30)
    return with_study


def water(window):
    window.show_room(RoomName.WEIGH)
    window.weigh.shows.choose(WeighPageName.WATER)
    wait(window)
    return window.weigh.page(WeighPageName.WATER)


def test_the_wet_look_is_noted_at_the_table_by_keys(qtbot, planned):
    planned.show_room(RoomName.PAINT)
    settle(planned, 30)
    room, study = planned.paint, planned.session.file
    room.setFocus()
    qtbot.keyClick(room, Qt.Key.Key_L)
    assert not room.wet_look.isVisible()  # nothing is painted yet
    qtbot.keyClick(room, Qt.Key.Key_Space)
    settle(planned, 5)
    qtbot.keyClick(room, Qt.Key.Key_L)
    field = room.wet_look.entry
    assert room.wet_look.isVisible()
    qtbot.keyClicks(field, "no colour")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong")
    assert room.wet_look.isVisible()  # what was typed is not lost
    assert study.rows("readings", "trust = 'wet'") == []
    field.selectAll()
    qtbot.keyClicks(field, "41.5, 20, 10")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    (row,) = study.rows("readings", "trust = 'wet'")
    assert (row["L"], row["cell_id"]) == (41.5, study.rows("strokes")[0]["cell_id"])
    assert not room.wet_look.isVisible()
    assert len(study.rows("strokes")) == 1  # Enter was meant for the field
    qtbot.keyClick(room, Qt.Key.Key_L)
    assert field.text() == "41.5, 20.0, 10.0"
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert len(study.rows("readings", "trust = 'wet'")) == 1
    planned.session.undo.undo()
    assert study.rows("readings", "trust = 'wet'") == []


def test_a_wet_look_that_is_typed_and_not_kept_is_asked_about(qtbot, planned):
    planned.show_room(RoomName.PAINT)
    settle(planned, 30)
    room = planned.paint
    room.setFocus()
    qtbot.keyClick(room, Qt.Key.Key_Space)
    settle(planned, 5)
    qtbot.keyClick(room, Qt.Key.Key_L)
    qtbot.keyClicks(room.wet_look.entry, "#405060")
    assert any("wet look" in name for name in planned.session.unsaved.names)
    assert planned.session.unsaved.save_all() is None  # the room of what could not be saved
    assert len(planned.session.file.rows("readings", "trust = 'wet'")) == 1


def test_a_typed_look_may_be_wet_and_the_cell_is_still_to_be_read(qtbot, planned):
    planned.show_room(RoomName.READ)
    settle(planned, 30)
    room, study = planned.read, planned.session.file
    planned.state.select("r02c01")
    first = room.state.entry("r02c01").id
    room.slip.wet.setChecked(True)
    room.slip.entry.setFocus()
    qtbot.keyClicks(room.slip.entry, "40, 20, 10")
    qtbot.keyClick(room.slip.entry, Qt.Key.Key_Return)
    assert records.wet_cells_read(study, 1)[first]["L"] == 40.0
    assert records.read_cells(study, 1) == {}
    assert room.slip.wet.isChecked()  # the next one is noted wet, too
    planned.state.select("r02c01")
    assert room.slip.wet_chip.isVisible()
    assert not room.slip.wet.isChecked()
    room.slip.entry.setFocus()
    room.slip.entry.selectAll()
    qtbot.keyClicks(room.slip.entry, "46, 17, 10")
    qtbot.keyClick(room.slip.entry, Qt.Key.Key_Return)
    planned.state.select("r02c01")
    assert "dries" in room.slip.wet_words.text()
    (dried,) = dried_cells(study)
    assert (dried.wet[0], dried.dry[0]) == (40.0, 46.0)


@pytest.mark.long
def test_a_first_picture_of_the_wet_sheet_and_a_later_one_of_the_dry(qtbot, planned, tmp_path):
    """The strokes were not told at the table: that it was wet, the painter says."""
    planned.show_room(RoomName.READ)
    settle(planned, 30)
    room, study = planned.read, planned.session.file
    dry = colours_of(planned)
    wet = {cell: lab - np.array([3.0, 0.0, 0.0]) for cell, lab in dry.items()}
    picture(planned, tmp_path / "wet.jpg", wet)
    room.desk.open_picture(tmp_path / "wet.jpg")
    wait_for_trial(qtbot, room)
    drying = room.slip.drying
    assert drying.currentData() == "clock"
    drying.setCurrentIndex(drying.findData("wet"))
    drying.activated.emit(drying.currentIndex())
    assert "25 still wet" in room.slip.trial_words.text()
    assert room.desk.accept()
    assert {row["trust"] for row in study.rows("readings", "cell_id NOT NULL")} == {"wet"}
    assert records.read_cells(study, 1) == {}
    picture(planned, tmp_path / "dry.jpg", dry)
    room.desk.open_picture(tmp_path / "dry.jpg")
    wait_for_trial(qtbot, room)
    drying.setCurrentIndex(drying.findData("dry"))
    drying.activated.emit(drying.currentIndex())
    assert "wet" not in room.slip.trial_words.text()
    assert room.desk.accept()
    assert len(dried_cells(study)) > 15
    assert "Wet and dry:" in room.slip.outcome.text()
    changes = [cell.dry[0] - cell.wet[0] for cell in dried_cells(study)]
    assert 1.5 < np.median(changes) < 4.5
    page = water(planned)
    assert len(page.model.rows) > 15


def test_strokes_wet_and_dry_stand_side_by_side_with_their_figures(qtbot, demo):
    page = water(demo)
    assert page.kinds.current == WaterPanel.DRIED
    cells = dried_cells(demo.session.file)
    assert len(page.model.rows) >= len({cell.recipe.key for cell in cells})
    aways = [row.dried.shift.away for row in page.model.rows]
    assert aways == sorted(aways, reverse=True)
    page.shown.setCurrentIndex(WashesShown.PAINTS_ONLY)
    assert all(row.dried.recipe.is_pure for row in page.model.rows)
    page.shown.setCurrentIndex(WashesShown.MIXES_ONLY)
    assert not any(row.dried.recipe.is_pure for row in page.model.rows)
    page.order.setCurrentIndex(WashOrder.BY_LIGHTNESS)
    lights = [row.dried.shift.lightness for row in page.model.rows]
    assert lights == sorted(lights, reverse=True)
    page.order.setCurrentIndex(WashOrder.BY_NAME)
    row = page.model.rows[1]
    page.list.setFocus()
    page.list.setCurrentIndex(page.model.index(0, 0))
    qtbot.keyClick(page.list, Qt.Key.Key_Down)
    assert page.one_title.text() == row.title
    assert page.light.value.text() not in ("", "0")
    assert row.dried.sheets[0][1] in page.where.text()
    qtbot.mouseClick(page.take_button, Qt.MouseButton.LeftButton)
    assert demo.rail.dab.recipe().key == row.dried.recipe.key


def test_a_study_without_wet_looks_says_how_they_are_noted(planned):
    page = water(planned)
    assert "wet" in planned.weigh.subtitle.text()
    assert not page.one.isVisible()
    assert page.kinds.y() < 20
    page.kinds.choose(WaterPanel.DEPTH)
    wait(planned)
    assert page.kinds.y() < 20
    assert planned.weigh.subtitle.text()


def test_the_depth_of_washes_says_what_to_do_for_a_sheet_and_over_time(qtbot, window, demo_file, tmp_path):
    """A sheet of which the tints came out twice as strong is found, and the painter is told to take more water."""
    assert window.open_path(shutil.copy(demo_file, tmp_path))
    settle(window, 40)
    page = water(window)
    page.kinds.choose(WaterPanel.DEPTH)
    wait(window)
    assert "as planned" in window.weigh.subtitle.text()
    assert page.sheet.count() == len(page.washes.sheets) + 1 >= 3
    assert page.curve.isVisible()
    first, last = page.washes.sheets[0], page.washes.sheets[-1]
    assert first.day < last.day
    # the same readings, but of a hand that takes half the water for its tints
    with window.session.file.disk.transaction() as db:
        for row in window.session.file.rows("readings", "trust = 'good' AND recipe LIKE '%@ tint'"):
            db.execute(
                "UPDATE readings SET L = ?, a = ?, b = ? WHERE id = ?",
                (100 - 1.5 * (100 - row["L"]), 1.5 * row["a"], 1.5 * row["b"], row["id"]),
            )
    window.session.changed.emit()
    page.entered()
    wait(window)
    words = [
        label.text()
        for label in page.panels.currentWidget().findChildren(type(page.how))
        if label.isVisible()
    ]
    assert any("Your tints come out as" in text and "instead of a fifth" in text for text in words)
    assert any("more water" in text for text in words)
    qtbot.mouseClick(page.curve, Qt.MouseButton.LeftButton, pos=QPoint(int(page.curve._x(0)), 60))
    assert page.sheet.currentData() == first.sheet_id
    assert page.curve.sheet_id == first.sheet_id


def test_what_is_read_or_taken_back_while_the_page_is_on_view_is_there_at_once(planned):
    page, session = water(planned), planned.session
    assert page.model.rows == []
    for wet, lab in ((True, (40.0, 30.0, 10.0)), (False, (46.0, 26.0, 9.0))):
        session.do(acts.read_cell(session.file, 1, 2, lab, wet=wet))
        wait(planned)
    assert [row.dried.shift.lightness for row in page.model.rows if not row.dried.by_mixes] == [6.0]
    session.undo.undo()
    wait(planned)
    assert page.model.rows == []


def test_the_looking_at_washes_can_be_stopped(demo, monkeypatch):
    """It is broken off between two steps, and the page says so."""
    from culmo.desk.rooms.weigh import water_page

    def endless(rows, estimate):
        while True:
            yield 0.5

    monkeypatch.setattr(water_page, "telling_washes", endless)
    page = water(demo)
    page.kinds.choose(WaterPanel.DEPTH)
    assert demo.session.runner.busy("water")
    assert page.stop()
    assert not page.stop()
    assert demo.weigh.subtitle.text().startswith("Stopped")


def test_a_scrap_of_the_puddle_is_noted_at_the_table_by_keys(qtbot, planned):
    planned.show_room(RoomName.PAINT)
    settle(planned, 30)
    room, study = planned.paint, planned.session.file
    room.setFocus()
    mixes = {
        entry.cell.id: entry.id for entry in room.work.table.record.cells if len(entry.cell.recipe.names) == 2
    }
    while room.work.table.state.current.cell.id in mixes:
        room.work.step(1)
    qtbot.keyClick(room, Qt.Key.Key_T)
    assert not room.scrap.isVisible()  # one paint alone is mixed from nothing
    while room.work.table.state.current.cell.id not in mixes:
        room.work.step(1)
    cell = mixes[room.work.table.state.current.cell.id]
    qtbot.keyClick(room, Qt.Key.Key_T)
    field = room.scrap.entry
    assert room.scrap.isVisible()
    qtbot.keyClicks(field, "no colour")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    cards = len(study.rows("readings"))
    assert field.property("wrong") and study.rows("readings")[-1]["source"] == "card"
    field.selectAll()
    qtbot.keyClicks(field, "41.5, 20, 10")
    assert any("scrap" in name for name in planned.session.unsaved.names)
    qtbot.keyClick(field, Qt.Key.Key_Return)
    (row,) = study.rows("readings")[cards:]
    assert (row["L"], row["cell_id"], scrap_of(row)) == (41.5, None, cell)
    assert not room.scrap.isVisible() and not study.rows("strokes")
    settle(planned, 30)
    # learning knows the puddle as soon as the cell is painted from it and read
    qtbot.keyClick(room, Qt.Key.Key_Space)
    settle(planned, 5)
    qtbot.keyClick(room, Qt.Key.Key_7)
    assert study.rows("strokes")[-1]["marks"] == "paler"
    qtbot.keyClick(room, Qt.Key.Key_8)
    assert study.rows("strokes")[-1]["marks"] == "stronger"
    planned.session.do(acts.read_cell(study, 1, cell, (40.0, 18.0, 9.0)))
    settle(planned, 60)
    problem = planned.session.learning.estimate.problem
    told = {row.reading.extra: row.reading for row in problem.rows if not row.spread}
    scrap, read = (told[row["id"]] for row in study.rows("readings")[cards:])
    assert scrap.puddle == read.puddle is not None
    assert (scrap.depth, read.depth) == ("", "stronger")


def test_a_mark_that_is_set_after_the_reading_is_learned_from(qtbot, planned):
    study = planned.session.file
    cell = next(e.id for e in records.sheet_record(study, 1).cells if len(e.cell.recipe.names) == 2)
    planned.session.do(paint_acts.paint_cell(study, 1, cell, "done", "tray", "2026-10-01T09:00:00+02:00"))
    planned.session.do(acts.read_cell(study, 1, cell, (40.0, 18.0, 9.0)))
    reading = study.rows("readings")[-1]["id"]
    settle(planned, 60)

    def depth():
        rows = planned.session.learning.estimate.problem.rows
        return next(row.reading.depth for row in rows if row.reading.extra == reading)

    assert depth() == ""
    planned.session.do(paint_acts.mark_stroke(study, 1, "paler"))
    settle(planned, 60)
    assert depth() == "paler"
    planned.session.undo.undo()
    settle(planned, 60)
    assert depth() == ""
