"""The painter's own papers through the window: by typing, by choosing, with the gutter of a sketchbook."""

import pytest
from PySide6.QtCore import Qt

from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan import layout
from culmo.desk.rooms.plan.papers_dialog import PapersDialog
from culmo.study.papers import own_papers
from support.begun import new_grid


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def page(with_study):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    settle(with_study, 30)
    return with_study.plan.slip.layout_page


@pytest.mark.long
def test_a_paper_is_named_and_taken_with_its_gutter(page, with_study, qtbot, monkeypatch):
    def hand(dialog: PapersDialog) -> None:
        dialog.show()
        assert dialog.size_entry.text() == "23 x 31 cm"  # what was typed is not typed again
        qtbot.keyClicks(dialog.name, "Moth book")
        dialog.tone.setEditText("Cream")
        dialog.tooth.setCurrentIndex(dialog.tooth.findData("rough"))
        qtbot.keyClicks(dialog.gutter, "1/2 in")
        qtbot.keyClick(dialog.gutter, Qt.Key.Key_Return)
        assert not dialog.message.text()
        assert dialog.list.count() == 1

    monkeypatch.setattr(layout.PapersDialog, "exec", hand)
    page.fields["paper"].set_text("23 x 31 cm")
    page.papers_button.click()
    settle(with_study, 30)
    assert page.fields["paper"].text() == "Moth book"
    assert page.fields["gutter_mm"].text() == "12.7"
    assert with_study.plan.trial.paper.name == "Moth book"
    assert sorted((with_study.plan.trial.paper.width_mm, with_study.plan.trial.paper.height_mm)) == [
        230.0,
        310.0,
    ]
    assert with_study.plan.view.style_.ground == "#efe3c8"
    assert page.fields["paper"].box.itemText(0) == "Moth book"  # it is offered again, before the common ones
    page.fields["paper"].set_text("A4")
    assert page.fields["gutter_mm"].text() == "0"
    assert with_study.session.undo.undoText() == "Add paper Moth book"


def test_papers_are_changed_removed_and_refused_with_words(page, with_study, qtbot):
    session = with_study.session
    dialog = PapersDialog(with_study, session, "in")
    qtbot.addWidget(dialog)
    for name, size in (("Book", "9 x 12 in"), ("Block", "30 x 40 cm")):
        dialog.begin(size)
        dialog.name.setText(name)
        dialog.save()
    assert [own.paper.name for own in own_papers(session.file)] == ["Block", "Book"]
    dialog.list.setCurrentRow(1)
    assert dialog.size_entry.text() == "9 x 12 in"
    dialog.name.setText("Sketchbook")
    dialog.save()
    kept = own_papers(session.file)[1]
    assert (kept.paper.name, kept.paper.width_mm) == ("Sketchbook", pytest.approx(228.6))
    for size, words in (
        ("9 x 12", "says no unit"),
        ("rubbish", "unknown paper"),
        ("3 x 3 mm", "must lie between"),
    ):
        dialog.size_entry.setText(size)
        dialog.save()
        assert words in dialog.message.text()
    dialog.size_entry.setText("20 x 20 cm")
    dialog.name.setText("Block")
    dialog.save()
    assert "already" in dialog.message.text()
    dialog.remove()
    assert [own.paper.name for own in own_papers(session.file)] == ["Block"]
    session.undo.undo()
    assert len(own_papers(session.file)) == 2


def test_the_wheel_over_the_lists_changes_nothing_and_every_field_has_a_name(page, with_study, qtbot):
    dialog = PapersDialog(with_study, with_study.session, "mm")
    qtbot.addWidget(dialog)
    for widget in (dialog.name, dialog.size_entry, dialog.tooth, dialog.tone, dialog.gutter, dialog.list):
        assert widget.accessibleName()
