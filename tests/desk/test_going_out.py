"""What is drawn goes out: copied in every form, dragged, asked by a menu what can be done with it; and walked by keys."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QAccessible, QContextMenuEvent, QGuiApplication
from PySide6.QtWidgets import QApplication, QMenu, QWidget

from culmo.core.paint.recipe import parse_recipe
from culmo.desk.app import settle
from culmo.desk.going_out import PAINT_MIME, things_of
from culmo.desk.rail import Well
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.mix_row import MixRow
from culmo.desk.things import ShowsThings

GRID = 1  # the sheet that is read, in the sample study


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def grid(demo):
    """The window with a sheet that is painted and read, a cell of it selected and the keys on it."""
    demo.session.selection.select_sheet(GRID)
    demo.show_room(RoomName.PLAN)
    settle(demo, 60)
    cell = next(entry.cell for entry in demo.state.record.cells if len(entry.cell.recipe.names) == 2)
    demo.state.select(cell.id)
    demo.plan.view.setFocus()
    settle(demo, 20)
    return demo, cell


def do(window, action_id):
    window.menus.run(next(entry for entry in window.menus.table if entry.id == action_id))


def clipboard():
    return QGuiApplication.clipboard().mimeData()


def test_a_cell_is_copied_as_a_row_a_colour_and_a_picture(grid):
    window, cell = grid
    do(window, "copy")
    name, recipe, lightness, a, b, colour, state = clipboard().text().split("\t")
    assert name == window.plan.view.thing(window.plan.view.current_thing()).name
    assert parse_recipe(recipe).key == cell.recipe.key
    read = window.state.read[cell.id]
    assert [float(lightness), float(a), float(b)] == pytest.approx(read, abs=0.006)
    assert state == "read"
    assert clipboard().colorData().name() == colour
    picture = clipboard().imageData()
    assert picture.pixelColor(5, 5).name() == colour
    assert "clipboard" in window.status.told_text.text()


def test_each_part_of_it_is_copied_alone(grid):
    window, cell = grid
    do(window, "copy recipe")
    assert parse_recipe(clipboard().text()).key == cell.recipe.key
    do(window, "copy lab")
    assert [float(v) for v in clipboard().text().split()] == pytest.approx(
        window.state.read[cell.id], abs=0.006
    )
    do(window, "copy hex")
    text = clipboard().text()
    assert text.startswith("#")
    assert len(text) == 7
    do(window, "copy picture")
    assert clipboard().hasImage()
    assert not clipboard().hasText()


def test_the_colour_that_was_copied_is_the_one_that_was_read(grid):
    """Reckoned back by the formulas of IEC 61966-2-1 and CIE 15, written here anew."""
    window, cell = grid
    do(window, "copy hex")
    share = np.array([int(clipboard().text()[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    light = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]) @ light
    x, y, z = np.cbrt(xyz / [0.9505, 1.0, 1.089])
    read = window.state.read[cell.id]
    assert (116 * y - 16, 500 * (x - y), 200 * (y - z)) == pytest.approx(read, abs=1.5)


def test_what_was_copied_is_a_colour_to_look_for(grid, qtbot):
    window, cell = grid
    do(window, "copy")
    window.show_room(RoomName.WEIGH)
    window.weigh.paste()
    page = window.weigh.page(window.weigh.shows.current)
    qtbot.waitUntil(lambda: bool(page.results.findChildren(MixRow)))
    nearest = page.results.findChildren(MixRow)[0].shown_thing()
    away = np.linalg.norm(np.array(nearest.lab) - window.state.read[cell.id])
    assert away < 6
    page.results.findChildren(MixRow)[0].setFocus()
    do(window, "copy")
    assert parse_recipe(clipboard().text().split("\t")[1]).key == nearest.recipe.key


def test_rows_of_the_list_are_copied_together(grid):
    window, _ = grid
    window.show_room(RoomName.WEIGH)
    window.weigh.shows.choose(0)
    settle(window, 60)
    table = window.weigh.sheet.table
    table.setFocus()
    table.clearSelection()
    table.selectAll()
    do(window, "copy")
    lines = clipboard().text().split("\n")
    assert len(lines) == len(window.weigh.sheet.rows)
    assert all(parse_recipe(line.split("\t")[1]) for line in lines)
    assert str(len(lines)) in window.status.told_text.text()


def test_a_well_and_a_line_of_the_daybook_go_out(demo):
    demo.show_room(RoomName.BOX)
    well = demo.rail.findChild(Well)
    well.setFocus()
    do(demo, "copy")
    assert bytes(clipboard().data(PAINT_MIME).data()).decode() == well.name
    demo.show_room(RoomName.DAYBOOK)
    settle(demo, 40)
    lines = demo.daybook.view
    lines.setFocus()
    lines.choose_first()
    do(demo, "copy")
    assert lines.current.text.split("\n")[0] in clipboard().text()


def test_with_nothing_selected_it_says_what_to_do(demo):
    demo.show_room(RoomName.PLAN)
    demo.setFocus()
    before = clipboard().text()
    do(demo, "copy")
    assert clipboard().text() == before
    assert demo.status.told_text.text()


@pytest.fixture
def menus(qapp):
    """The menus that were asked for, each with its acts: it is shut at once, or `menus.wanted` is chosen first."""

    class Shown(list):
        wanted = ""

        def look(self):
            menu = QApplication.activePopupWidget()
            if isinstance(menu, QMenu):
                self.append([act.text().split("\t")[0] for act in menu.actions()])
                for act in menu.actions():
                    if act.text() == self.wanted:
                        act.trigger()
                menu.close()

    shown, timer = Shown(), QTimer()
    timer.timeout.connect(shown.look)
    timer.start(20)
    yield shown
    timer.stop()


def ask_for_menu(widget, at):
    place = widget.mapToGlobal(at)
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, place)
    QApplication.sendEvent(widget, event)
    return event.isAccepted()


def test_the_menu_of_a_cell_is_of_the_one_under_the_pointer(grid, menus):
    window, cell = grid
    view = window.plan.view
    other = next(
        i
        for i, entry in enumerate(view.sheet.cells)
        if entry.id != cell.id and len(entry.recipe.names) == 2 and entry.plain
    )
    assert ask_for_menu(view, view.thing_rect(other).center().toPoint())
    assert view.current_thing() == other
    assert window.state.current == view.sheet.cells[other].id
    words = " ".join(menus[0])
    for part in ("Copy", "Take in hand", "ratio test", "Find mixes"):
        assert part in words
    assert ask_for_menu(view, QPoint(1, 1)) is False  # beside the sheet there is nothing
    assert len(menus) == 1


def test_the_menu_of_one_paint_has_no_ratio_test(demo, menus):
    demo.show_room(RoomName.BOX)
    settle(demo, 40)
    well = demo.rail.findChild(Well)
    assert ask_for_menu(well, well.rect().center())
    assert not any("ratio" in words for words in menus[0])
    assert any("Copy" in words for words in menus[0])


def test_what_is_asked_of_the_menu_is_done_with_that_thing(grid, menus):
    window, _ = grid
    view, menus.wanted = window.plan.view, "Take in hand"
    wanted = next(i for i, cell in enumerate(view.sheet.cells) if len(cell.recipe.names) == 2 and cell.plain)
    ask_for_menu(view, view.thing_rect(wanted).center().toPoint())
    assert window.rail.dab.recipe().key == view.sheet.cells[wanted].recipe.key


def test_a_cell_is_dragged_out(grid, monkeypatch, qtbot):
    window, _ = grid
    view, begun = window.plan.view, []
    monkeypatch.setattr(
        "culmo.desk.going_out.QDrag.exec", lambda drag, *_: begun.append(drag.mimeData().text())
    )
    from_ = view.thing_rect(3).center().toPoint()
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=from_)
    qtbot.mouseMove(view, from_ + QPoint(3, 0))
    assert not begun
    qtbot.mouseMove(view, from_ + QPoint(60, 30))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=from_ + QPoint(60, 30))
    assert len(begun) == 1
    assert begun[0].startswith(view.thing(3).name)


def test_the_tab_key_comes_to_one_well_and_arrows_go_on(demo, qtbot):
    demo.show_room(RoomName.BOX)
    wells = [demo.rail._well(place) for place in range(6)]
    takes_tab = [bool(well.focusPolicy() & Qt.FocusPolicy.TabFocus) for well in demo.rail.findChildren(Well)]
    assert sum(takes_tab) == 1
    wells[0].setFocus()
    for key, place in (
        (Qt.Key.Key_Right, 1), (Qt.Key.Key_Down, 3), (Qt.Key.Key_Left, 2), (Qt.Key.Key_Up, 0), (Qt.Key.Key_Up, 0),
        (Qt.Key.Key_Left, 0),
    ):  # fmt: skip
        qtbot.keyClick(QApplication.focusWidget(), key)
        assert QApplication.focusWidget() is wells[place]
    assert wells[0].focusPolicy() & Qt.FocusPolicy.TabFocus
    qtbot.keyClick(wells[0], Qt.Key.Key_Space)
    assert demo.session.selection.in_hand == (wells[0].name,) or demo.session.selection.in_hand == [
        wells[0].name
    ]


def told(view, place):
    return QAccessible.queryAccessibleInterface(view).child(place)


def test_things_are_told_with_name_colour_and_state(grid):
    window, cell = grid
    view = window.plan.view
    place = view.current_thing()
    child = told(view, place)
    assert child.text(QAccessible.Text.Name) == view.thing(place).name
    assert "lightness" in child.text(QAccessible.Text.Description)
    assert child.text(QAccessible.Text.Description).endswith("read")
    assert child.state().selected
    assert not told(view, place - 1).state().selected
    assert QAccessible.queryAccessibleInterface(view).indexOfChild(child) == place
    box = child.rect()
    assert view.rect().contains(view.mapFromGlobal(box.center()))
    assert view.cell_at(QPointF(view.mapFromGlobal(box.center()))) == cell.id


def test_children_of_a_view_that_is_gone_say_so(demo):
    class Two(QWidget):
        def thing_count(self):
            return 2

        def thing(self, place):
            from culmo.desk.things import Thing

            return Thing(f"thing {place}")

        def thing_rect(self, place):
            from PySide6.QtCore import QRectF

            return QRectF(10 * place, 0, 10, 10)

        def thing_at(self, at):
            return int(at.x() // 10)

        def current_thing(self):
            return 1

        def choose_thing(self, place):
            pass

    view = Two()
    assert isinstance(view, ShowsThings)
    child = told(view, 1)
    assert child.text(QAccessible.Text.Name) == "thing 1"
    assert things_of(view)[0].name == "thing 1"
    view.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not child.isValid()
    assert child.text(QAccessible.Text.Name) == ""
    assert child.state().invalid
