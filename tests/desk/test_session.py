"""The session: selection, learning and undo as the window uses them."""

import os
import shutil
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialogButtonBox

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.desk.app import settle
from culmo.desk.drawing.export import PrintOptions
from culmo.desk.export_dialog import AS, TEXTS, ExportDialog
from culmo.desk.rail import Well
from culmo.desk.room_names import RoomName
from culmo.desk.settings import MOST_RECENT, Settings
from culmo.desk.widgets import NOTHING
from culmo.study import acts, note_acts
from culmo.study.file import Study
from support.begun import new_grid
from support.builders import FIVE, make_sheet, make_study


@pytest.fixture
def learned_folder(tmp_path):
    """What is learned and kept is what is tried here."""
    return tmp_path / "learned"


def test_settings_keep_what_they_are_given(tmp_path):
    settings = Settings.at(tmp_path / "a.ini")
    assert settings.recent == []
    assert settings.room == 0
    settings.room = 4
    for i in range(MOST_RECENT + 3):
        settings.remember(tmp_path / f"{i}.culmo")
    settings.remember(tmp_path / "5.culmo")
    settings.store.sync()
    again = Settings.at(tmp_path / "a.ini")
    assert again.room == 4
    assert len(again.recent) == MOST_RECENT
    assert again.recent[0].endswith("5.culmo")
    assert len(set(again.recent)) == MOST_RECENT


@pytest.mark.parametrize("text", ["many", "-4", "99", ""])
def test_a_damaged_settings_file_does_no_harm(tmp_path, text):
    (tmp_path / "a.ini").write_text(f"[window]\nroom={text}\ngeometry=zzz\n[recent]\n")
    settings = Settings.at(tmp_path / "a.ini")
    assert 0 <= settings.room <= 5
    assert settings.geometry.isEmpty()


def test_at_most_four_paints_in_hand_and_the_oldest_goes(with_study):
    session = with_study.session
    for name in FIVE:
        session.selection.toggle_in_hand(name)
    assert session.selection.in_hand == list(FIVE[1:])
    dab = with_study.rail.dab
    assert len(dab.sliders) == 4
    assert dab.recipe().names == FIVE[1:]
    session.selection.toggle_in_hand(FIVE[2])
    assert len(dab.sliders) == 3
    dab.sliders[0].setValue(4)
    assert [part.parts for part in dab.recipe().layers[0].parts] == [4, 1, 1]
    dab.water.setValue(6)
    assert dab.recipe().layers[0].wash == pytest.approx(0.2)


def test_a_retired_paint_leaves_the_hand_and_comes_back_with_undo(with_study):
    session = with_study.session
    session.selection.toggle_in_hand("Rose")
    session.do(acts.retire_paint(session.file, 2))
    settle(with_study, 20)
    assert session.selection.in_hand == []
    assert "Rose" not in [well.name for well in with_study.rail.findChildren(Well) if well.isVisible()]
    session.undo.undo()
    settle(with_study, 20)
    assert "Rose" in [paint.name for paint in session.paints]


def test_undoing_the_plan_of_the_sheet_on_the_table_leaves_another(with_study):
    window, session = with_study, with_study.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.do(acts.add_sheet(session.file, make_sheet(FIVE[:3])))
    session.selection.select_sheet(2)
    window.show_room(RoomName.PLAN)
    assert len(window.state.record.cells) == 9
    session.undo.undo()
    assert session.selection.sheet_id == 1
    assert len(window.state.record.cells) == 25
    session.undo.undo()
    assert session.selection.sheet_id is None
    assert window.state.record is None
    assert window.plan.view.sheet is None


def test_old_figures_stand_while_new_ones_are_learned(with_study):
    session = with_study.session
    before = session.learning.predict([mix(["Rose", "Lemon"])]).lab
    session.do(
        acts.add_readings(
            session.file, [acts.Incoming(Reading(mix(["Rose", "Lemon"]), (20.0, 0.0, 0.0)))], "a test"
        )
    )
    assert session.runner.busy("learn")
    assert np.array_equal(session.learning.predict([mix(["Rose", "Lemon"])]).lab, before)
    settle(with_study, 30)
    assert not np.array_equal(session.learning.predict([mix(["Rose", "Lemon"])]).lab, before)


def test_what_was_learned_is_there_when_the_study_is_opened_again(with_study, monkeypatch):
    from culmo.study import learned

    window, kept = with_study, with_study.settings.learned
    path, before = window.session.study.path, window.session.learning.estimate
    recipe = mix(FIVE[:2])
    predicted = window.session.learning.predict([recipe])
    window.session.close()
    (file,) = kept.iterdir()
    learning = learned.learning
    monkeypatch.setattr(learned, "learning", lambda *_: pytest.fail("it was learned anew"))
    assert window.open_path(path)
    settle(window, 30)
    assert window.session.learning.estimate is not before
    assert np.array_equal(window.session.learning.predict([recipe]).dE90, predicted.dE90)
    assert not window.session.learning.unread
    # it is not written again
    with monkeypatch.context() as patch:
        patch.setattr(learned, "keep", lambda *_: pytest.fail("it was kept again"))
        window.session.close()
    # and a damaged one is made anew
    whole = file.read_bytes()
    file.write_bytes(whole[:500])
    monkeypatch.setattr(learned, "learning", learning)
    assert window.open_path(path)
    settle(window, 30)
    assert np.allclose(window.session.learning.predict([recipe]).lab, predicted.lab)
    window.session.close()
    assert len(file.read_bytes()) == len(whole)


def test_what_was_learned_is_not_kept_while_it_is_out_of_date_or_can_not_be(with_study, qtbot, caplog):
    window, kept = with_study, with_study.settings.learned
    path = window.session.study.path
    window.session.do(acts.add_paint(window.session.study, acts.PaintEntry("Sap", "PG36")))
    assert window.session.runner.busy("learn")
    window.session.close()  # before it was learned
    assert not kept.exists() or not list(kept.iterdir())
    kept.rmdir() if kept.exists() else None
    kept.write_text("a file in the way")
    assert window.open_path(path)
    settle(window, 30)
    assert window.session.learning.predict([mix(["Sap"])]) is not None
    window.session.close()
    assert "not kept" in caplog.text
    assert kept.read_text() == "a file in the way"


def test_a_paint_that_is_new_is_not_predicted_before_it_is_learned(with_study):
    session = with_study.session
    session.do(acts.add_paint(session.file, acts.PaintEntry("Nova", "PY3")))
    assert not session.learning.knows(mix(["Nova"]))
    assert session.learning.predict([mix(["Nova"])]) is None
    settle(with_study, 30)
    assert session.learning.knows(mix(["Nova"]))


@pytest.mark.long
def test_sixty_paints_find_room(window, tmp_path):
    names = [f"Paint number {i}" for i in range(60)]
    make_study(tmp_path / "many.culmo", names, cards=False).close()
    window.open_path(tmp_path / "many.culmo")
    settle(window, 50)
    assert len(window.box.strokes.cards) == 60
    assert len(window.rail.findChildren(Well)) == 60
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    assert len(window.plan.trial.cells) == 144
    window.resize(1024, 700)
    window.show_room(RoomName.BOX)
    settle(window, 20)
    assert window.box.strokes._laid_out == 2
    columns = {window.box.strokes.grid.getItemPosition(i)[1] for i in range(window.box.strokes.grid.count())}
    assert columns == {0, 1}


def test_the_export_dialog_says_what_was_chosen(qtbot, window):
    dialog = ExportDialog(window)
    qtbot.addWidget(dialog)
    assert dialog.options().recipes == "name"
    dialog.look.setCurrentIndex(AS.index("Preview in colour"))
    for place, (_, kind) in enumerate(TEXTS):
        dialog.text.setCurrentIndex(place)
        assert dialog.options().recipes == kind
    dialog.bar.click()
    options = dialog.options()
    assert options.colour
    assert not options.bar
    assert options.numbers
    buttons = dialog.findChild(QDialogButtonBox)
    qtbot.mouseClick(buttons.button(QDialogButtonBox.StandardButton.Cancel), Qt.MouseButton.LeftButton)
    assert QApplication.activeModalWidget() is None


def test_the_list_is_sorted_by_choice_and_selection_goes_both_ways(qtbot, with_study):
    window, session = with_study, with_study.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.selection.select_sheet(1)
    for i in range(1, 26):
        session.do(acts.read_cell(session.file, 1, i, (20.0 + 2 * i, 3.0 * i - 30, 20.0 - i)))
    settle(window, 20)
    window.show_room(RoomName.WEIGH)
    window.weigh.sheet.sort.setCurrentIndex(3)
    lightness = [row.read[0] for row in window.weigh.sheet.rows]
    assert lightness == sorted(lightness, reverse=True)
    window.state.select("r03c03")
    row = window.weigh.sheet.table.currentIndex().row()
    assert window.weigh.sheet.rows[row].cell_id == "r03c03"
    qtbot.keyClick(window.weigh.sheet.table, Qt.Key.Key_Down)
    assert window.state.current == window.weigh.sheet.rows[row + 1].cell_id
    window.weigh.shows.choose(1)
    settle(window, 30)
    page = window.weigh.page(1)
    point = max(i for i in range(len(page.points)) if page.points.cell_of(i) == "r02c02")
    qtbot.mouseClick(page.map, Qt.MouseButton.LeftButton, pos=page.map.place_of(point).toPoint())
    assert window.state.current == "r02c02"


def test_the_sample_study_keeps_what_was_tried_in_it(window, tmp_path, monkeypatch):
    monkeypatch.setattr("culmo.desk.studies.QStandardPaths.writableLocation", lambda _: str(tmp_path))
    window.studies.open_sample()
    settle(window, 20)
    window.session.do(note_acts.add_note(window.session.file, "tried"))
    window.session.close()
    window.studies.open_sample()
    settle(window, 20)
    assert window.session.file.rows("notes")[-1]["text"] == "tried"


def test_copies_are_made_while_one_works_and_a_damaged_study_is_recovered(
    qtbot, with_study, tmp_path, monkeypatch
):
    from culmo.study.backups import backups_of

    window, session = with_study, with_study.session
    path = session.file.path
    assert len(backups_of(path)) == 1  # made on opening
    monkeypatch.setattr("culmo.desk.safekeeping.BACK_UP_SECONDS", -1.0)
    session.do(note_acts.add_note(session.file, "a thought"))
    assert len(backups_of(path)) == 2
    session.close()
    _spoil(path)
    count = len(backups_of(path))
    window.open_path(path)
    settle(window, 20)
    assert "damaged" in window.notice.words.text()
    session.close()
    assert len(backups_of(path)) == count  # no damaged copy among the good ones
    window.files.recover_into(path, tmp_path / "new.culmo")
    settle(window, 20)
    assert session.file.path == tmp_path / "new.culmo"
    assert session.file.problems() == []
    assert "The damaged file was left as it is" in window.notice.words.text()


def _spoil(path):
    """A file in which a page of nothing stands."""
    data = bytearray(path.read_bytes())
    page = 4096 * (len(data) // 4096 - 2)
    data[page : page + 4096] = b"\xff" * 4096
    path.write_bytes(data)


@pytest.mark.parametrize("room", range(6))
def test_a_damaged_study_leaves_the_first_page_as_it_is_whatever_room_was_made_for_it(window, tmp_path, room):
    make_study(tmp_path / "a.culmo").close()
    _spoil(tmp_path / "a.culmo")
    window.settings.room = room
    assert not window.open_path(tmp_path / "a.culmo")
    settle(window, 20)
    assert "damaged" in window.notice.words.text()
    assert window.rooms.currentIndex() == 6 and window.tabs.current == NOTHING
    assert not window.rail.isVisible() and not window.rail_line.isVisible()
    make_study(tmp_path / "b.culmo").close()
    assert window.open_path(tmp_path / "b.culmo")
    settle(window, 20)
    assert window.rail.isVisible() and window.rooms.currentIndex() == room
    assert not window.notice.isVisible()


def test_a_mistake_while_a_study_is_opened_lets_go_of_its_file(window, tmp_path):
    make_study(tmp_path / "a.culmo").close()

    def mistaken():
        raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        window.session.open(tmp_path / "a.culmo", mistaken)
    assert window.session.study is None
    assert window.open_path(tmp_path / "a.culmo")


def test_a_study_that_can_not_be_opened_again_leaves_the_first_page(with_study):
    window, path = with_study, with_study.session.file.path
    window.session.close()
    _spoil(path)
    assert not window.open_path(path)
    assert window.rooms.currentIndex() == 6 and window.header.title.text() == "Culmo"
    assert window.status.saved_text.text() == ""


def test_work_in_the_background_waits_till_the_study_is_on_view(window, tmp_path, qtbot):
    make_study(tmp_path / "a.culmo").close()
    assert window.open_path(tmp_path / "a.culmo")
    assert not window.session.settled and not window.session.runner.busy()
    qtbot.waitUntil(lambda: window.session.settled)
    settle(window, 20)
    assert window.session.learning.estimate is not None
    window.session.close()
    assert window.session.settled


def test_a_hidden_sheet_is_not_worked_out(with_study, monkeypatch):
    asked = []
    from culmo.desk.drawing import seen

    see = seen.see
    monkeypatch.setattr(seen, "see", lambda *a: asked.append(a) or see(*a))
    window, session = with_study, with_study.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    window.show_room(0)
    (row,) = session.file.rows("sheets")
    session.selection.select_sheet(row["id"])
    session.do(note_acts.add_note(session.file, "a thought"))
    settle(window, 20)
    assert asked == []
    window.show_room(1)
    settle(window, 20)
    assert len(asked) == 1
    assert window.state.record.id == row["id"] and len(asked) == 1


def test_a_study_that_was_taken_out_of_its_folder_is_put_back(with_study):
    window, session = with_study, with_study.session
    path = session.file.path
    session.do(note_acts.add_note(session.file, "before"))
    path.unlink()
    session.do(note_acts.add_note(session.file, "after"))
    settle(window, 30)
    assert "was gone from its folder" in window.notice.words.text()
    assert [row["text"] for row in session.file.rows("notes")] == ["before", "after"]
    session.do(note_acts.add_note(session.file, "and on"))
    session.close()
    with Study(path) as study:
        assert [row["text"] for row in study.rows("notes")] == ["before", "after", "and on"]
        assert study.problems() == []


def test_a_folder_that_is_gone_is_told_and_the_window_keeps_all(with_study, tmp_path):
    window, session = with_study, with_study.session
    home = tmp_path / "away"
    home.mkdir()
    shutil.copy(session.file.path, home / "a.culmo")
    assert window.open_path(home / "a.culmo")
    settle(window, 30)
    session.do(note_acts.add_note(session.file, "kept"))
    shutil.rmtree(home)
    assert session.do(note_acts.add_note(session.file, "the next"))
    # it goes on in the user's own data, and that is said
    assert "is gone" in window.notice.words.text() and str(session.file.path) in window.notice.words.text()
    assert session.file.path.parent == Path(os.environ["XDG_DATA_HOME"]) / "culmo" / "rescued"
    assert window.settings.recent[0] == str(session.file.path)
    assert session.do(note_acts.add_note(session.file, "and on"))
    path = session.file.path
    session.close()
    with Study(path) as study:
        assert [row["text"] for row in study.rows("notes")] == ["kept", "the next", "and on"]


def test_a_full_disk_is_told_and_nothing_is_half_saved(with_study, monkeypatch):
    """The page limit of SQLite stands for a disk that is full; it fails in the same way, in the middle of an act."""
    session = with_study.session
    before = session.file.dump()
    pages = session.file.disk.db.execute("PRAGMA page_count").fetchone()[0]
    session.file.disk.db.execute(f"PRAGMA max_page_count={pages + 2}")
    assert not session.do(note_acts.add_note(session.file, "x" * 19_000))
    assert "could not be saved" in with_study.notice.words.text()
    assert session.file.dump() == before
    assert session.file.problems() == []
    assert not session.undo.canUndo()


def drawn(dialog):
    """How many pixels of the dialog's page are not white."""
    image = dialog.preview.pixmap().toImage()
    return sum(
        image.pixelColor(x, y).alpha() > 200 and image.pixelColor(x, y).lightness() < 235
        for x in range(0, image.width(), 2)
        for y in range(0, image.height(), 2)
    )


def test_the_export_dialog_shows_the_page_and_remembers_what_was_chosen(qtbot, demo):
    demo.session.selection.select_sheet(1)
    settle(demo, 40)
    out = demo.out
    dialog = ExportDialog(
        demo,
        True,
        1,
        1,
        False,
        demo.settings.print_options(),
        out._picturing(demo.session.selection.sheet_id),
    )
    qtbot.addWidget(dialog)
    dialog.show()
    pencil = drawn(dialog)
    assert pencil > 20
    dialog.look.setCurrentIndex(1)
    qtbot.waitUntil(lambda: drawn(dialog) > 3 * pencil)  # washes
    dialog.look.setCurrentIndex(0)
    dialog.text.setCurrentIndex(dialog.text.findData(""))
    dialog.numbers.setChecked(False)
    qtbot.waitUntil(lambda: drawn(dialog) < pencil)  # nothing is written
    dialog.bar.setChecked(False)
    demo.settings.keep_print_options(dialog.options())
    again = demo.settings.print_options()
    assert (again.recipes, again.numbers, again.bar, again.colour, again.only_new) == (
        "",
        False,
        False,
        False,
        False,
    )


def test_ways_of_printing_are_kept_under_names(qtbot, demo, monkeypatch):
    def ask(name):
        monkeypatch.setattr(
            "culmo.desk.export_dialog.QInputDialog.getText", lambda *_, **__: (name, bool(name))
        )

    dialog = ExportDialog(demo, ways=demo.settings)
    qtbot.addWidget(dialog)
    assert not dialog.way.isEnabled() and not dialog.forget.isEnabled()
    dialog.look.setCurrentIndex(1)
    dialog.numbers.setChecked(False)
    ask("")
    dialog.keep.click()
    assert demo.settings.print_ways() == {}  # it was left
    ask("  For the   wall ")
    dialog.keep.click()
    assert dialog.way.currentText() == "For the wall" and dialog.forget.isEnabled()
    kept = dialog.options()
    dialog.bar.setChecked(False)
    dialog.text.setCurrentIndex(dialog.text.findData(""))
    qtbot.waitUntil(lambda: dialog.way.currentIndex() == 0)  # it is none of them any more
    ask("Bare")
    dialog.keep.click()

    again = ExportDialog(demo, ways=Settings(demo.settings.store))  # as after another start
    qtbot.addWidget(again)
    assert [again.way.itemText(i) for i in range(again.way.count())] == [
        "none of them",
        "Bare",
        "For the wall",
    ]
    again.way.setCurrentIndex(2)
    again.way.activated.emit(2)
    assert again.options() == kept
    again.way.setCurrentIndex(0)
    again.way.activated.emit(0)
    assert again.options() == kept and again.way.currentText() == "For the wall"
    again.forget.click()
    assert list(demo.settings.print_ways()) == ["Bare"] and again.options() == kept


@pytest.mark.parametrize(
    "written", ["", "{", "[]", "3", '{"a": 1, "b": {"recipes": []}, "c": {"colour": "no"}, "d": {"bar": 1}}']
)
def test_damaged_ways_of_printing_are_left_out(demo, written):
    demo.settings.store.setValue("out/ways", written)
    assert demo.settings.print_ways() == {}
    demo.settings.keep_print_way("mine", PrintOptions(colour=True))
    assert demo.settings.print_ways() == {"mine": PrintOptions(colour=True)}


@pytest.mark.long
def test_a_new_sheet_is_laid_out_like_the_one_on_the_table(demo):
    demo.session.selection.select_sheet(1)
    demo.show_room(RoomName.PLAN)
    settle(demo, 40)
    before = demo.state.record.sheet
    demo.session.selection.in_hand = ["Ochre", "Cobalt", "Rose"]
    demo.menus.run(next(entry for entry in demo.menus.table if entry.id == "sheet like this"))
    for _ in range(3):
        settle(demo, 40)
    trial = demo.plan.trial
    assert trial is not None
    assert trial.kind == before.kind
    assert trial.paper == before.paper
    assert {name for cell in trial.cells for name in cell.recipe.names} == {"Ochre", "Cobalt", "Rose"}
    wishes = ("second", "split", "labels", "tape_mm", "gap_mm")
    assert {key: trial.settings.get(key) for key in wishes} == {
        key: before.settings.get(key) for key in wishes
    }
    assert demo.state.record.sheet == before
