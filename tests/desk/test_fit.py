"""A wished size in the Layout page: what gives way for it, and what can be pressed where it can not be."""

import shutil

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from culmo.desk.app import settle
from desk.test_plan_room import begin, type_in
from support.begun import new_grid

PLAN = 1
INCH = 25.4


@pytest.fixture
def page(window, tmp_path, demo_file):

    assert window.open_path(shutil.copy(demo_file, tmp_path))
    window.show_room(PLAN)
    settle(window, 40)
    return begin(window, "grid")


def choose_eight(page):
    type_in(page, "paints", "Lemon, Yellow, Orange, Scarlet, Rose, Crimson, Violet, Cobalt")


def hints_of(page):
    return {
        button.accessibleName(): button
        for button in page.hints.findChildren(QPushButton)
        if not button.isHidden()
    }


@pytest.mark.long
def test_two_inch_cells_on_eighteen_by_twentyfour(window, page):
    choose_eight(page)
    type_in(page, "paper", "18 x 24 in")
    type_in(page, "cell_mm", "2 x 2 in")
    settle(window, 30)
    assert not page.message.text()
    boxes = {tuple(round(side, 3) for side in cell.box_mm[2:]) for cell in window.plan.trial.cells}
    assert boxes == {(2 * INCH, 2 * INCH)}
    assert "names at one end only" in " ".join(
        label.text() for label in page.hints.findChildren(type(page.heading))
    )


@pytest.mark.long
def test_what_does_not_fit_says_by_how_much_and_each_way_out_is_a_button(window, page, qtbot):
    choose_eight(page)
    type_in(page, "paper", "A3")
    type_in(page, "cell_mm", "60 mm")
    settle(window, 30)
    assert "they miss by" in page.message.text()
    assert not page.keep_button.isEnabled()
    smaller = next(words for words in hints_of(page) if words.startswith("Cells of"))
    hints_of(page)[smaller].setFocus()
    qtbot.keyClick(hints_of(page)[smaller], Qt.Key.Key_Space)
    settle(window, 30)
    assert not page.message.text()
    width, height = window.plan.trial.cells[0].box_mm[2:]
    assert width == pytest.approx(height)
    assert f"{width:g} x {height:g} mm" in smaller
    type_in(page, "cell_mm", "60 mm")
    settle(window, 30)
    larger = next(words for words in hints_of(page) if words.startswith("On "))
    hints_of(page)[larger].click()
    settle(window, 30)
    assert not page.message.text()
    assert window.plan.trial.paper.name in larger


@pytest.mark.long
def test_a_refused_layout_is_never_kept(window, page, qtbot):
    settle(window, 30)
    before = window.session.file.count("sheets")
    type_in(page, "cell_mm", "2 x 2 mm")
    type_in(page, "cell_mm", "900 mm")
    assert page.message.text()
    assert not window.plan.trying.keep()
    qtbot.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert window.session.file.count("sheets") == before
    type_in(page, "cell_mm", "")
    settle(window, 30)
    assert window.plan.trying.keep()


def test_a_length_is_read_alike_in_every_field(window, page):
    for name, text in (("tape_mm", "1/2 in"), ("gap_mm", "0,2 cm"), ("note_mm", '1"'), ("gutter_mm", "5 mm")):
        type_in(page, name, text)
    settle(window, 30)
    assert not page.message.text()
    page_of = page.plan().page
    assert page_of.tape_mm == pytest.approx(INCH / 2)
    assert page_of.gap_mm == pytest.approx(2.0)
    assert page_of.note_mm == pytest.approx(INCH)
    type_in(page, "paper", "9 x 12")
    assert "says no unit" in page.message.text()


@pytest.mark.long
def test_the_unit_is_meant_in_every_field_shown_and_remembered(window, page):
    type_in(page, "cell_mm", "25.4")
    type_in(page, "tape_mm", "12.7")
    type_in(page, "unit", "in")
    settle(window, 30)
    assert page.fields["cell_mm"].entry.text() == "1 x 1 in"
    assert page.fields["tape_mm"].entry.text() == "1/2 in"
    assert page.plan().page.cell_mm == pytest.approx((INCH, INCH))
    type_in(page, "cell_mm", "1 1/2")  # without a unit it is meant in the one that was chosen
    settle(window, 30)
    assert page.plan().page.cell_mm == pytest.approx((1.5 * INCH, 1.5 * INCH))
    assert "1 1/2 x 1 1/2 in" in window.plan.subtitle.text()
    assert window.plan.slip.ruling.unit.currentIndex() == 1
    assert window.plan.trying.keep()
    again = begin(window, "ladder")
    assert again.fields["unit"].text() == "in"
    assert window.settings.unit == "in"
    type_in(again, "unit", "mm")
    settle(window, 30)
    assert again.fields["tape_mm"].entry.text() == "6.35"  # a quarter of an inch, to a sixteenth


@pytest.mark.long
def test_a_white_is_taken_for_the_white_and_the_wish_says_what_it_is(window, page):
    from culmo.study import acts

    window.session.do(acts.add_paint(window.session.file, acts.PaintEntry("Chalk, soft", "PW4")))
    settle(window, 60)
    page = begin(window, "grid")
    type_in(page, "second", "white")
    assert page.fields["extra"].text() == '"Chalk, soft"'
    assert page.plan().options.extra == "Chalk, soft"
    settle(window, 30)
    assert {cell.stage for cell in window.plan.trial.cells} == {"pure", "mix", "white"}
    type_in(page, "extra", "Lemon")
    type_in(page, "gap_mm", "1")
    assert page.fields["extra"].text() == "Lemon"  # another choice stands
    page.kind.setCurrentIndex(page.kind.findData("wheel"))
    assert page.words["cell_mm"].text() == "Outer radius"


def test_the_title_of_a_grid_follows_its_paints_until_one_is_typed(window, page):
    fresh = begin(window, "grid")
    window.plan.trying.discard()
    new_grid(window.plan)
    type_in(fresh, "paints", "Lemon, Rose, Ochre")
    assert fresh.fields["title"].text() == "Grid of 3"
    type_in(fresh, "title", "Mine")
    type_in(fresh, "paints", "Lemon, Rose")
    assert fresh.fields["title"].text() == "Mine"
