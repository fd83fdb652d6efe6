"""A sheet is laid out where it lies: groups that fold, paints by wells, names drawn with the hand, rulers."""

import shutil

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent

from culmo.core.chart.kinds import KIND_KEYS
from culmo.desk.app import settle
from culmo.desk.going_out import PAINT_MIME
from culmo.desk.rail import Well
from culmo.desk.widgets import BOX, PLAN
from desk.test_plan_room import type_in

COMMON = ("grid", "wheel", "ladder", "fan", "cards", "triangle", "families")


@pytest.fixture
def laid(window, tmp_path, demo_file):
    """The window with a grid of three being laid out."""
    assert window.open_path(shutil.copy(demo_file, tmp_path))
    window.show_room(PLAN)
    settle(window, 40)
    window.plan.begin("grid", paints="Lemon, Rose, Cobalt")
    for _ in range(3):
        settle(window, 40)
    return window


def names(window):
    return window.plan.slip.layout_page.fields["paints"].names()


def rest(window):
    for _ in range(3):
        settle(window, 30)


# ---- groups


def test_one_group_is_open_and_the_others_say_what_is_chosen(laid, qtbot):
    page = laid.plan.slip.layout_page
    folds = page.folds
    assert folds.current == "paints"
    assert page.fields["title"].widget.isVisible()
    assert not page.fields["cell_mm"].widget.isVisible()
    folds.heads["cells"].setFocus()
    qtbot.keyClick(folds.heads["cells"], Qt.Key.Key_Space)
    assert page.fields["cell_mm"].widget.isVisible()
    assert not page.fields["title"].widget.isVisible()
    assert folds.heads["paints"].about == "3 paints"
    assert folds.heads["paper"].about.startswith(page.fields["paper"].text())
    type_in(page, "tape_mm", "12")
    rest(laid)
    assert "Tape margin" in folds.heads["paper"].about
    assert "Tape margin" in folds.heads["paper"].accessibleName()
    folds.heads["cells"].click()
    assert folds.current == ""
    assert all(not body.isVisible() for body in folds.bodies.values())


@pytest.mark.parametrize("kind", COMMON)
def test_no_group_of_a_common_kind_lies_below_the_edge(laid, kind):
    page = laid.plan.slip.layout_page
    page.kind.setCurrentIndex(KIND_KEYS.index(kind))
    type_in(page, "across", "Ultramarine, Ochre")
    rest(laid)
    assert not page.message.text()
    for group in page.folds.heads:
        if page.folds.heads[group].isHidden() or (kind, group) == ("wheel", "mixes"):
            continue  # a wheel's rings are as many as are wished
        page.folds.open(group)
        rest(laid)
        for head in page.folds.heads.values():
            if head.isVisible():
                foot = head.mapTo(page, QPoint(0, head.height())).y()
                assert foot <= page.viewport().height() + 1, (kind, group, head.text())


# ---- wells


def test_a_click_on_a_well_puts_its_paint_on_the_sheet_and_takes_it_off(laid, qtbot):
    wells = {well.name: well for well in laid.rail.findChildren(Well)}
    qtbot.mouseClick(wells["Ochre"], Qt.MouseButton.LeftButton)
    rest(laid)
    assert names(laid) == ["Lemon", "Rose", "Cobalt", "Ochre"]
    assert len(laid.plan.trial.cells) == 16
    assert laid.session.selection.in_hand == []
    qtbot.mouseClick(wells["Lemon"], Qt.MouseButton.LeftButton)
    rest(laid)
    assert names(laid) == ["Rose", "Cobalt", "Ochre"]


def test_elsewhere_wells_are_taken_in_hand_again(laid, qtbot):
    well = laid.rail.findChild(Well)
    laid.show_room(BOX)
    qtbot.mouseClick(well, Qt.MouseButton.LeftButton)
    assert laid.session.selection.in_hand == [well.name]
    assert names(laid) == ["Lemon", "Rose", "Cobalt"]
    laid.show_room(PLAN)
    assert laid.session.selection.picking is not None
    laid.plan.slip.tabs.choose(0)
    assert laid.session.selection.picking is None


def test_the_list_says_what_each_paint_is(laid):
    field = laid.plan.slip.layout_page.fields["paints"]
    rows = {field.list.item(i).text(): field.list.item(i) for i in range(field.list.count())}
    assert not rows["Rose"].icon().isNull()
    assert "PV19" in rows["Rose"].toolTip()
    assert "granulates" in rows["Ultramarine"].toolTip()
    field.list.setFocus()
    field.list.setCurrentRow(0)


def test_the_order_is_changed_by_keys(laid, qtbot):
    field = laid.plan.slip.layout_page.fields["paints"]
    field.list.setFocus()
    field.list.setCurrentRow(0)
    qtbot.keyClick(field.list, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    rest(laid)
    assert names(laid) == ["Rose", "Lemon", "Cobalt"]
    assert field.list.currentItem().text() == "Lemon"
    qtbot.keyClick(field.list, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(field.list, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    rest(laid)
    assert names(laid) == ["Lemon", "Rose", "Cobalt"]


# ---- names on the sheet


def place_of(window, text, which=0):
    """The middle of a name on the sheet, in the view."""
    labels = [label for label in window.plan.view.sheet.labels if label.text == text]
    box = window.plan.hand._box(labels[which]).boundingRect()
    return box.center().toPoint()


def test_a_name_is_drawn_to_the_place_of_another(laid, qtbot):
    view = laid.plan.view
    first, last = place_of(laid, "Lemon"), place_of(laid, "Cobalt")
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=first)
    assert laid.plan.hand.current == "Lemon"
    for step in (0.3, 0.7, 1.0):
        qtbot.mouseMove(view, first + (last - first) * step)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=last)
    rest(laid)
    assert names(laid) == ["Rose", "Cobalt", "Lemon"]
    assert laid.plan.trial.cells[0].recipe.names == ("Rose",)


def test_a_name_that_is_chosen_is_taken_off_by_a_key(laid, qtbot):
    view = laid.plan.view
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=place_of(laid, "Rose", 1))
    assert laid.plan.hand.current == "Rose"
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    rest(laid)
    assert names(laid) == ["Lemon", "Cobalt"]
    qtbot.keyClick(view, Qt.Key.Key_Delete)  # nothing is chosen now
    assert names(laid) == ["Lemon", "Cobalt"]


def drop(window, name, at):
    data = QMimeData()
    data.setData(PAINT_MIME, name.encode())
    event = QDropEvent(
        QPointF(at), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    # Qt itself passes these on while a drag is under way alone
    assert window.plan.hand.eventFilter(window.plan.view, event) == bool(window.plan._written)
    rest(window)


def test_a_well_that_is_dropped_on_a_name_takes_its_place(laid):
    drop(laid, "Ochre", place_of(laid, "Rose"))
    assert names(laid) == ["Lemon", "Ochre", "Cobalt"]
    drop(laid, "Cobalt", place_of(laid, "Lemon"))  # both are there: they change places
    assert names(laid) == ["Cobalt", "Ochre", "Lemon"]
    drop(laid, "Viridian", laid.plan.view.rect().center())
    assert names(laid) == ["Cobalt", "Ochre", "Lemon", "Viridian"]


def test_numbers_and_codes_stand_for_their_paints(laid, qtbot):
    page = laid.plan.slip.layout_page
    for labels in ("code", "number"):
        type_in(page, "labels", labels)
        rest(laid)
        written = laid.plan._written
        assert sorted(written.values()) == ["Cobalt", "Lemon", "Rose"]
        assert set(written) <= {label.text for label in laid.plan.view.sheet.labels}
    type_in(page, "labels", "none")
    rest(laid)
    assert laid.plan._written == {}


def test_a_kept_sheet_is_not_changed_by_its_names(laid, qtbot):
    assert laid.plan.keep_plan()
    rest(laid)
    laid.plan.slip.tabs.choose(0)
    before = laid.state.record.sheet
    qtbot.mouseClick(laid.plan.view, Qt.MouseButton.LeftButton, pos=place_of(laid, "Rose"))
    qtbot.keyClick(laid.plan.view, Qt.Key.Key_Delete)
    drop(laid, "Ochre", place_of(laid, "Rose"))
    assert laid.state.record.sheet == before
    assert laid.plan.trial is None


# ---- rulers


def test_rulers_say_where_on_the_paper_something_lies(laid):
    view = laid.plan.view
    assert view.ruled_in == "mm"
    type_in(laid.plan.slip.layout_page, "unit", "in")
    rest(laid)
    assert view.ruled_in == "in"
    with_ruler = view.grab().toImage()
    assert laid.plan.keep_plan()
    laid.plan.slip.tabs.choose(0)
    rest(laid)
    assert view.ruled_in == ""
    without = view.grab().toImage()
    dark = [
        sum(image.pixelColor(x, 8).lightness() < 120 for x in range(60, 500))
        for image in (with_ruler, without)
    ]
    assert dark[0] > dark[1] + 10
