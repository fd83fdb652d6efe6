"""A sheet is laid out where it lies: groups that fold, paints by wells, names drawn with the hand, rulers."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent

from culmo.core.chart.kinds import KIND_KEYS
from culmo.desk.app import settle
from culmo.desk.going_out import PAINT_MIME
from culmo.desk.rail import Well
from culmo.desk.room_names import RoomName
from desk.test_plan_room import type_in

COMMON = ("grid", "wheel", "ladder", "fan", "cards", "triangle", "families")


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def laid(demo):
    """The window with a grid of three being laid out."""
    window = demo
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


@pytest.mark.long
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


@pytest.mark.long
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


@pytest.mark.long
def test_elsewhere_wells_are_taken_in_hand_again(laid, qtbot):
    well = laid.rail.findChild(Well)
    laid.show_room(RoomName.BOX)
    qtbot.mouseClick(well, Qt.MouseButton.LeftButton)
    assert laid.session.selection.in_hand == [well.name]
    assert names(laid) == ["Lemon", "Rose", "Cobalt"]
    laid.show_room(RoomName.PLAN)
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


@pytest.mark.long
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
    box = window.plan.hands.label._box(labels[which]).boundingRect()
    return box.center().toPoint()


@pytest.mark.long
def test_a_name_is_drawn_to_the_place_of_another(laid, qtbot):
    view = laid.plan.view
    first, last = place_of(laid, "Lemon"), place_of(laid, "Cobalt")
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=first)
    assert laid.plan.hands.label.current == "Lemon"
    for step in (0.3, 0.7, 1.0):
        qtbot.mouseMove(view, first + (last - first) * step)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=last)
    rest(laid)
    assert names(laid) == ["Rose", "Cobalt", "Lemon"]
    assert laid.plan.trial.cells[0].recipe.names == ("Rose",)


def test_a_name_that_is_chosen_is_taken_off_by_a_key(laid, qtbot):
    view = laid.plan.view
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=place_of(laid, "Rose", 1))
    assert laid.plan.hands.label.current == "Rose"
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
    assert window.plan.hands.label.eventFilter(window.plan.view, event) == bool(window.plan.hands.written)
    rest(window)


@pytest.mark.long
def test_a_well_that_is_dropped_on_a_name_takes_its_place(laid):
    drop(laid, "Ochre", place_of(laid, "Rose"))
    assert names(laid) == ["Lemon", "Ochre", "Cobalt"]
    drop(laid, "Cobalt", place_of(laid, "Lemon"))  # both are there: they change places
    assert names(laid) == ["Cobalt", "Ochre", "Lemon"]
    drop(laid, "Viridian", laid.plan.view.rect().center())
    assert names(laid) == ["Cobalt", "Ochre", "Lemon", "Viridian"]


@pytest.mark.long
def test_numbers_and_codes_stand_for_their_paints(laid, qtbot):
    page = laid.plan.slip.layout_page
    for labels in ("code", "number"):
        type_in(page, "labels", labels)
        rest(laid)
        written = laid.plan.hands.written
        assert sorted(written.values()) == ["Cobalt", "Lemon", "Rose"]
        assert set(written) <= {label.text for label in laid.plan.view.sheet.labels}
    type_in(page, "labels", "none")
    rest(laid)
    assert laid.plan.hands.written == {}


def test_a_kept_sheet_is_not_changed_by_its_names(laid, qtbot):
    assert laid.plan.trying.keep()
    rest(laid)
    laid.plan.slip.tabs.choose(0)
    before = laid.state.record.sheet
    qtbot.mouseClick(laid.plan.view, Qt.MouseButton.LeftButton, pos=place_of(laid, "Rose"))
    qtbot.keyClick(laid.plan.view, Qt.Key.Key_Delete)
    drop(laid, "Ochre", place_of(laid, "Rose"))
    assert laid.state.record.sheet == before
    assert laid.plan.trial is None


# ---- rulers


@pytest.mark.long
def test_rulers_say_where_on_the_paper_something_lies(laid):
    view = laid.plan.view
    assert view.ruled_in == "mm"
    type_in(laid.plan.slip.layout_page, "unit", "in")
    rest(laid)
    assert view.ruled_in == "in"
    with_ruler = view.grab().toImage()
    assert laid.plan.trying.keep()
    laid.plan.slip.tabs.choose(0)
    rest(laid)
    assert view.ruled_in == ""
    without = view.grab().toImage()
    dark = [
        sum(image.pixelColor(x, 8).lightness() < 120 for x in range(60, 500))
        for image in (with_ruler, without)
    ]
    assert dark[0] > dark[1] + 10


# ---- what is drawn at the rulers


def grip(window, name, across=True):
    return next(grip for grip in window.plan.hands.grips if grip.name == name and grip.across == across)


def pull(qtbot, window, name, by_mm, across=True):
    """Draw a mark of the rulers so many millimetres on; gives what was told beside the hand on the way."""
    from culmo.desk.drawing.sheet import sheet_transform

    view, hand = window.plan.view, window.plan.hands.ruler
    begin = hand.place_of(grip(window, name, across))
    _, scale = sheet_transform(view.sheet, view.base_now())
    by = QPointF(by_mm * scale, 0) if across else QPointF(0, by_mm * scale)
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=begin.toPoint())
    for share in (0.4, 0.8, 1.0):
        qtbot.mouseMove(view, (begin + by * share).toPoint())
        settle(window, 10)
    on_the_way = window.plan.slip.layout_page.fields[name].text()
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=(begin + by).toPoint())
    rest(window)
    return on_the_way


@pytest.mark.long
def test_the_tape_margin_is_drawn_at_the_ruler(laid, qtbot):
    page = laid.plan.slip.layout_page
    before = float(page.fields["tape_mm"].text())
    said = pull(qtbot, laid, "tape_mm", 10.0)
    assert float(said) == pytest.approx(before + 10, abs=1.0)
    assert page.plan().page.tape_mm == float(page.fields["tape_mm"].text())
    assert laid.plan.trial.settings["tape_mm"] == page.plan().page.tape_mm
    assert laid.plan.trying.text()  # it is not saved yet, and noted as such
    low = pull(qtbot, laid, "tape_mm", -100.0, across=False)
    assert float(low) == 0.0


@pytest.mark.long
def test_the_cells_are_drawn_larger_and_smaller_each_way(laid, qtbot):
    page = laid.plan.slip.layout_page
    wide, high = laid.plan.trial.cells[0].box_mm[2:]
    pull(qtbot, laid, "cell_mm", -12.0)
    cell = page.plan().page.cell_mm
    assert cell[0] == pytest.approx(wide - 2 * 12 / 3, abs=1.0)
    assert cell[1] == pytest.approx(high, abs=0.1)
    pull(qtbot, laid, "cell_mm", -9.0, across=False)
    again = page.plan().page.cell_mm
    assert again[0] == pytest.approx(cell[0], abs=0.1)
    assert again[1] == pytest.approx(high - 2 * 9 / 3, abs=1.0)
    assert laid.plan.trial.cells[0].box_mm[2:] == pytest.approx(again, abs=0.01)


@pytest.mark.long
def test_the_gap_is_drawn_and_said_in_the_painters_unit(laid, qtbot):
    page = laid.plan.slip.layout_page
    pull(qtbot, laid, "gap_mm", 3.0)
    assert page.plan().page.gap_mm == pytest.approx(6.0, abs=1.0)
    columns = sorted({round(cell.box_mm[0], 2) for cell in laid.plan.trial.cells})
    wide = laid.plan.trial.cells[0].box_mm[2]
    assert columns[1] - columns[0] - wide == pytest.approx(page.plan().page.gap_mm, abs=0.02)
    type_in(page, "unit", "in")
    rest(laid)
    pull(qtbot, laid, "gap_mm", -50.0)
    assert page.plan().page.gap_mm == 0.0


@pytest.mark.long
def test_the_bands_of_writing_are_drawn(laid, qtbot):
    page = laid.plan.slip.layout_page
    usual = page.plan().page.label_mm

    def sizes(sheet):
        return {round(label.size_mm, 2) for label in sheet.labels}

    before, head = sizes(laid.plan.trial), min(cell.box_mm[1] for cell in laid.plan.trial.cells)
    said = pull(qtbot, laid, "letters_mm", 5.0, across=False)
    wished = page.plan().page.letters_mm
    assert wished > usual + 0.5 and float(said) == pytest.approx(wished, abs=0.3)
    assert max(sizes(laid.plan.trial)) > max(before)
    assert min(cell.box_mm[1] for cell in laid.plan.trial.cells) > head
    pull(qtbot, laid, "letters_mm", -90.0, across=False)
    assert page.plan().page.letters_mm == 1.8

    pull(qtbot, laid, "note_mm", -25.0, across=False)
    page_now = page.plan().page
    assert page_now.note_mm == pytest.approx(25.0, abs=1.0)
    lowest = max(cell.box_mm[1] + cell.box_mm[3] for cell in laid.plan.trial.cells)
    paper = laid.plan.trial.paper
    assert lowest <= paper.height_mm - page_now.margin_mm - page_now.note_mm + 0.01


def test_a_click_on_a_mark_changes_nothing_and_a_cell_is_still_chosen(laid, qtbot):
    page, view = laid.plan.slip.layout_page, laid.plan.view
    before = page.given()
    qtbot.mouseClick(
        view, Qt.MouseButton.LeftButton, pos=laid.plan.hands.ruler.place_of(grip(laid, "gap_mm")).toPoint()
    )
    rest(laid)
    assert page.given() == before
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.thing_rect(4).center().toPoint())
    assert laid.state.current == laid.plan.trial.cells[4].id or view.current == laid.plan.trial.cells[4].id


@pytest.mark.long
@pytest.mark.parametrize("kind", ["wheel", "triangle", "ladder", "cards", "fan"])
def test_marks_stand_only_where_they_mean_something(laid, kind):
    page = laid.plan.slip.layout_page
    page.kind.setCurrentIndex(KIND_KEYS.index(kind))
    rest(laid)
    found = {grip.name for grip in laid.plan.hands.grips}
    assert found <= page.concerned()
    if kind in ("wheel", "triangle"):
        assert "gap_mm" not in found
    assert laid.plan.trying.keep()
    rest(laid)
    laid.plan.slip.tabs.choose(0)
    rest(laid)
    assert laid.plan.hands.grips == []
