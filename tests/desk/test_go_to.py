"""All acts by their names, with paints, sheets and mixes to go to, by keys alone."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from culmo.desk.acts import ACTIONS
from culmo.desk.app import settle
from culmo.desk.go_to import GoTo, goals_of
from culmo.desk.go_to_model import Goal, found
from culmo.desk.room_names import RoomName


def typed(dialog, text):
    QTest.keyClicks(dialog.line, text)
    QTest.keyClick(dialog.line, Qt.Key.Key_Return)
    return dialog.chosen


def goal(title, about="", kind="act"):
    return Goal(title, kind, about, "", lambda: None)


def test_words_find_by_the_beginnings_of_words_titles_first():
    goals = [
        goal("Go to the Plan room"),
        goal("Plan cards"),
        goal("Rose", "PV19", "paint"),
        goal("Undo", "Takes a plan back"),
    ]
    assert [one.title for one in found(goals, "plan")] == ["Plan cards", "Go to the Plan room", "Undo"]
    assert [one.title for one in found(goals, "pv1")] == ["Rose"]
    assert [one.title for one in found(goals, "cards pl")] == ["Plan cards"]
    assert [one.title for one in found(goals, "PAINT")] == ["Rose"]
    assert found(goals, "plan xyz") == []
    assert found(goals, "") == goals
    assert len(found([goal(f"Sheet {n}") for n in range(500)], "sheet")) == 40


def test_every_act_paint_sheet_and_kept_mix_is_there(demo):
    goals = goals_of(demo)
    titles = [one.title for one in goals]
    assert len(titles) == len(ACTIONS) + len(demo.session.paints) + 6 + 3
    for entry in ACTIONS:
        assert entry.title.rstrip("…").replace("&", "") in titles
    by_title = {one.title: one for one in goals}
    assert by_title["Search the record"].keys == "Ctrl+F"


def test_a_paint_a_sheet_and_an_act_are_gone_to(demo):
    demo.show_room(RoomName.DAYBOOK)
    typed(dialog := GoTo(demo), "ultram")
    dialog.chosen.go()
    assert demo.rooms.currentIndex() == RoomName.BOX and demo.box.current == "Ultramarine"
    typed(dialog := GoTo(demo), "travelling")
    dialog.chosen.go()
    settle(demo, 20)
    assert demo.rooms.currentIndex() == RoomName.PLAN
    assert demo.state.record.sheet.title == "Travelling box"
    before = demo.session.learning.flat
    typed(dialog := GoTo(demo), "flat col")
    dialog.chosen.go()
    assert demo.session.learning.flat is not before


def test_what_can_not_be_done_says_why(window):
    typed(dialog := GoTo(window), "print sheet")
    dialog.chosen.go()
    assert "No study is open" in window.status.told_text.text()


def test_arrows_choose_while_one_types_and_escape_does_nothing(demo):
    dialog = GoTo(demo)
    dialog.show()
    QTest.keyClicks(dialog.line, "text")
    first = dialog.list.currentRow()
    QTest.keyClick(dialog.line, Qt.Key.Key_Down)
    assert dialog.list.currentRow() == first + 1
    assert dialog.about.text() == dialog.shown[1].about
    QTest.keyClick(dialog.line, Qt.Key.Key_Up)
    QTest.keyClick(dialog.line, Qt.Key.Key_Up)
    assert dialog.list.currentRow() == 0
    QTest.keyClick(dialog.line, Qt.Key.Key_Escape)
    assert dialog.chosen is None and not dialog.isVisible()
    dialog = GoTo(demo)
    QTest.keyClicks(dialog.line, "no such thing at all")
    assert dialog.shown == [] and "Nothing is called so" in dialog.about.text()
    QTest.keyClick(dialog.line, Qt.Key.Key_Return)
    assert dialog.chosen is None


def test_ctrl_k_asks_and_enter_goes(demo):
    demo.show_room(RoomName.DAYBOOK)
    assert demo.actions_by_id["go to"].shortcut().toString() == "Ctrl+K"
    demo.actions_by_id["go to"].trigger()
    (dialog,) = [part for part in demo.findChildren(GoTo) if part.isVisible()]
    assert dialog.isModal()
    typed(dialog, "viridian")
    settle(demo, 20)
    assert demo.rooms.currentIndex() == RoomName.BOX and demo.box.current == "Viridian"
    demo.actions_by_id["go to"].trigger()
    (dialog,) = [part for part in demo.findChildren(GoTo) if part.isVisible()]
    QTest.keyClick(dialog.line, Qt.Key.Key_Escape)
    settle(demo, 20)
    assert demo.findChildren(GoTo) == []
