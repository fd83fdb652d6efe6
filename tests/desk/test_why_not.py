"""What can not be done now answers with the reason, by key and by click; nothing asked for is met with silence."""

import shutil

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from culmo.desk.actions import NO_STUDY, always
from culmo.desk.acts import ACTIONS
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.widgets import NOTHING
from culmo.study import acts
from support.builders import make_sheet

NEEDY = [entry for entry in ACTIONS if entry.enabled is not always]


@pytest.mark.long
@pytest.mark.parametrize("entry", NEEDY, ids=lambda entry: entry.id)
def test_without_a_study_each_act_says_what_is_missing(window, entry):
    window.status.told_text.setText("")
    window.actions_by_id[entry.id].trigger()
    assert window.status.told_text.text() == NO_STUDY


def test_the_keys_of_the_first_page_are_answered(qtbot, window):
    for key in (Qt.Key.Key_F, Qt.Key.Key_L, Qt.Key.Key_E, Qt.Key.Key_G, Qt.Key.Key_1):
        window.status.told_text.setText("")
        window.activateWindow()
        QTest.keyClick(window, key, Qt.KeyboardModifier.ControlModifier)
        settle(window, 5)
        assert window.status.told_text.text() == NO_STUDY, key


def test_the_words_of_the_rooms_are_answered_and_none_is_chosen(qtbot, window):
    assert window.tabs.current == NOTHING
    for button in window.tabs.buttons:
        assert not button.isChecked()
        window.status.told_text.setText("")
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        assert window.status.told_text.text() == NO_STUDY
        assert not any(other.isChecked() for other in window.tabs.buttons)
        assert window.session.study is None


def test_after_a_study_is_opened_the_rooms_are_there_and_after_it_is_closed_none(window, demo_file, tmp_path):
    shutil.copy(demo_file, tmp_path / "sample.culmo")
    assert window.open_path(tmp_path / "sample.culmo")
    settle(window, 20)
    assert window.tabs.current == RoomName.BOX
    assert window.tabs.buttons[RoomName.BOX].isChecked()
    window.session.close()
    window.show_first_page()
    assert window.tabs.current == NOTHING


def test_an_empty_study_says_what_each_act_still_needs(with_study):
    window = with_study
    assert not window.state.current
    for entry, word in (
        ("find like", "cell"),
        ("export", "sheet"),
        ("leave plan", "plan"),
        ("undo", "take back"),
    ):
        window.status.told_text.setText("")
        window.actions_by_id[entry].trigger()
        assert word in window.status.told_text.text(), entry


@pytest.mark.long
def test_a_key_works_after_the_menu_had_greyed_its_act(with_study):
    """The menu is looked into while there is no sheet; then there is one, and the key is pressed."""
    window = with_study
    menu = next(action.menu() for action in window.menuBar().actions() if "Sheet" in action.text())
    menu.aboutToShow.emit()
    assert not window.actions_by_id["paint"].isEnabled()
    menu.aboutToHide.emit()
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    window.show_room(RoomName.PLAN)
    settle(window, 20)
    window.actions_by_id["paint"].trigger()
    assert window.tabs.current == RoomName.PAINT
