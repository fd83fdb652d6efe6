"""What is typed and not saved: it stays where it was typed, is told, and is asked about before it could be lost."""

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QMessageBox

from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.unsaved import Typed, Unsaved
from culmo.study import acts, records
from culmo.study.file import Study
from support.begun import new_grid
from support.builders import make_sheet


def paint(window, name):
    return next(paint for paint in window.session.paints if paint.name == name)


def card(window, name):
    """What a paint's card showed, as it is saved."""
    window.box.select(name)
    return window.box.slip.card["masstone"].text()


@pytest.fixture
def answer():
    """Press a button of the question that comes next; gives the texts of those that came."""
    asked = []

    def press(word):
        def now():
            box = QApplication.activeModalWidget()
            assert isinstance(box, QMessageBox), box
            asked.append(box.text())
            next(button for button in box.buttons() if button.text().replace("&", "") == word).click()

        QTimer.singleShot(50, now)
        return asked

    return press


@pytest.fixture
def typed(with_study):
    """The window with a name and a colour typed for Rose, not saved."""
    window = with_study
    window.show_room(RoomName.BOX)
    window.box.select("Rose")
    window.box.slip.name.setText("Rose madder")
    window.box.slip.card["masstone"].setText("40, 50, 1")
    return window


def test_all_is_saved_until_something_is_typed_and_again_when_it_is_as_it_was(with_study):
    with_study.show_room(RoomName.BOX)
    with_study.box.select("Rose")
    slip = with_study.box.slip
    assert with_study.status.saved_text.text() == "Everything saved"
    assert not slip.save.isEnabled()
    slip.note.setText("x")
    assert with_study.status.saved_text.text() == "Not saved yet: Rose"
    assert slip.save.isEnabled()
    assert not slip.retire.isVisibleTo(slip)
    slip.note.setText("")
    assert with_study.status.saved_text.text() == "Everything saved"
    slip.grain.setCurrentIndex((slip.grain.currentIndex() + 1) % slip.grain.count())
    assert with_study.session.unsaved.names == ["Rose"]


def test_what_was_typed_stands_again_when_its_paint_is_shown(typed):
    slip = typed.box.slip
    typed.box.select("Lemon")
    assert slip.name.text() == "Lemon"
    slip.note.setText("a lemon")
    typed.box.new_paint()
    slip.line.setText("Moss PG10")
    typed.box.select("Viridian")
    assert typed.session.unsaved.names == ["Rose", "Lemon", "Moss"]
    assert typed.status.saved_text.text() == "Not saved yet: Rose, Lemon and 1 more"
    typed.box.select("Rose")
    assert (slip.name.text(), slip.card["masstone"].text()) == ("Rose madder", "40, 50, 1")
    typed.box.select("Lemon")
    assert slip.note.text() == "a lemon"
    typed.box.new_paint()
    assert (slip.line.text(), slip.name.text(), slip.codes.text()) == ("Moss PG10", "Moss", "PG10")


def test_an_act_elsewhere_and_its_undoing_take_nothing_that_is_typed(typed):
    slip = typed.box.slip
    typed.session.do(acts.add_paint(typed.session.file, acts.PaintEntry("Moss", "PG10")))
    assert slip.name.text() == "Rose madder"
    typed.session.undo.undo()
    typed.show_room(RoomName.PLAN)
    typed.show_room(RoomName.BOX)
    assert (slip.name.text(), slip.card["masstone"].text()) == ("Rose madder", "40, 50, 1")


def test_it_is_saved_by_enter_and_then_all_is_saved(qtbot, typed):
    qtbot.keyClick(typed.box.slip.name, Qt.Key.Key_Return)
    assert typed.session.unsaved.names == []
    assert paint(typed, "Rose madder")
    assert card(typed, "Rose madder").startswith("40")
    typed.session.undo.undo()
    assert typed.session.unsaved.names == []


def test_it_can_be_taken_back(typed):
    before = paint(typed, "Rose")
    typed.box.slip.take_back.click()
    assert typed.session.unsaved.names == []
    assert typed.box.slip.name.text() == "Rose"
    typed.box.slip.keep()
    assert paint(typed, "Rose") == before


def test_a_paint_that_is_retired_asks_for_nothing(typed):
    typed.session.do(acts.retire_paint(typed.session.file, paint(typed, "Rose").id))
    assert typed.session.unsaved.save_all() is None
    assert "Rose madder" not in [paint.name for paint in typed.session.paints]


def test_closing_asks_and_saves(typed, answer, tmp_path):
    typed.box.select("Lemon")
    asked = answer("Save")
    assert typed.close()
    assert asked == ["Not saved yet: Rose."]
    with Study(tmp_path / "five.culmo") as study:
        assert "Rose madder" in [paint.name for paint in records.paints(study)]


def test_closing_asks_and_leaves_it_out(typed, answer, tmp_path):
    answer("Leave it out")
    assert typed.close()
    with Study(tmp_path / "five.culmo") as study:
        assert "Rose" in [paint.name for paint in records.paints(study)]


def test_closing_asks_and_goes_back(typed, answer):
    answer("Back")
    assert not typed.close()
    assert typed.isVisible()
    assert typed.session.study is not None
    assert typed.session.unsaved.names == ["Rose"]


def test_what_can_not_be_saved_is_shown_with_its_reason(typed, answer):
    slip = typed.box.slip
    slip.card["masstone"].setText("no colour")
    typed.box.select("Lemon")
    typed.show_room(RoomName.PLAN)
    answer("Save")
    assert not typed.close()
    assert typed.rooms.currentIndex() == RoomName.BOX
    assert typed.box.current == "Rose"
    assert "not a colour" in slip.message.text()
    assert slip.card["masstone"].text() == "no colour"


def test_another_study_is_opened_only_when_it_was_asked_about(typed, answer, tmp_path):
    answer("Back")
    assert not typed.studies.create_study(tmp_path / "other.culmo")
    assert not (tmp_path / "other.culmo").exists()
    answer("Back")
    assert not typed.open_path(tmp_path / "five.culmo")
    answer("Leave it out")
    assert typed.studies.create_study(tmp_path / "other.culmo")
    assert typed.session.unsaved.names == []
    typed.box.new_paint()
    assert typed.box.slip.name.text() == ""


def test_a_note_that_is_begun_is_asked_about_and_never_goes_into_another_study(with_study, answer, tmp_path):
    with_study.show_room(RoomName.DAYBOOK)
    with_study.daybook.foot.note.setText("umber keeps the moths quiet")
    assert with_study.status.saved_text.text() == "Not saved yet: a note in the Daybook"
    answer("Save")
    assert with_study.studies.create_study(tmp_path / "other.culmo")
    assert with_study.daybook.foot.note.text() == ""
    with Study(tmp_path / "five.culmo") as study:
        assert [row["text"] for row in study.rows("notes")] == ["umber keeps the moths quiet"]
    with_study.daybook.foot.note.setText("left out")
    answer("Leave it out")
    assert with_study.open_path(tmp_path / "five.culmo")
    assert with_study.daybook.foot.note.text() == ""


def test_what_is_saved_in_turn_stops_at_what_can_not_be():
    unsaved, saved = Unsaved(), []
    told = []
    unsaved.changed.connect(lambda: told.append(unsaved.names))
    for key, able in (("a", True), ("b", False), ("c", True)):
        unsaved.note(key, Typed(key.upper(), lambda key=key, able=able: saved.append(key) or able, ord(key)))
    assert unsaved.save_all() == ord("b")
    assert saved == ["a", "b"]
    assert unsaved.names == ["B", "C"]
    unsaved.note("b", None)
    unsaved.note("b", None)
    assert unsaved.save_all() is None
    assert told[-1] == []
    assert len(told) == 6


@pytest.mark.long
def test_a_plan_that_is_tried_is_asked_about(with_study, answer, tmp_path):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    assert with_study.status.saved_text.text() == "Not saved yet: the plan Grid of 5"
    with_study.plan.slip.layout_page.fields["title"].entry.setText("Moths")
    with_study.plan.slip.layout_page.fields["title"].entry.textEdited.emit("Moths")
    new_grid(with_study.plan)  # another is not begun over it
    assert with_study.session.unsaved.names == ["the plan Moths"]
    answer("Save")
    assert with_study.close()
    with Study(tmp_path / "five.culmo") as study:
        assert [row["title"] for row in study.rows("sheets")] == ["Moths"]


@pytest.mark.long
def test_a_plan_that_is_left_or_kept_asks_for_nothing(with_study):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    with_study.plan.trying.discard()
    assert with_study.status.saved_text.text() == "Everything saved"
    new_grid(with_study.plan)
    assert with_study.plan.trying.keep()
    assert with_study.status.saved_text.text() == "Everything saved"


@pytest.mark.long
def test_a_plan_stays_when_it_can_not_be_saved(with_study, monkeypatch):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    monkeypatch.setattr(with_study.session, "do", lambda command: False)
    assert not with_study.plan.trying.keep()
    assert with_study.plan.trial is not None
    assert with_study.session.unsaved.names == ["the plan Grid of 5"]


@pytest.mark.long
def test_a_picture_that_is_read_and_not_accepted_is_asked_about(qtbot, with_study, answer, tmp_path):
    with_study.session.do(acts.add_sheet(with_study.session.file, make_sheet()))
    with_study.session.selection.select_sheet(1)
    with_study.show_room(RoomName.READ)
    settle(with_study, 30)
    with_study.read.desk.practise()
    qtbot.waitUntil(lambda: bool(with_study.session.unsaved.names))
    assert with_study.session.unsaved.names[0].startswith("the picture ")
    answer("Save")
    assert with_study.close()
    with Study(tmp_path / "five.culmo") as study:
        assert len(study.rows("readings", "cell_id NOT NULL")) > 10


def test_a_word_that_is_being_written_is_kept_when_the_window_closes(qtbot, with_study, tmp_path):
    """Fields that are saved as the keys leave them are left before the study is."""
    with_study.session.do(acts.add_sheet(with_study.session.file, make_sheet()))
    with_study.session.selection.select_sheet(1)
    with_study.show_room(RoomName.PAINT)
    settle(with_study, 30)
    room = with_study.paint
    room.setFocus()
    room.work.done()
    room.write_note()
    qtbot.keyClicks(room.word, "soft edge")
    assert with_study.close()
    with Study(tmp_path / "five.culmo") as study:
        assert [row["note"] for row in study.rows("strokes")] == ["soft edge"]
