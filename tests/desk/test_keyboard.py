"""Everything is reached with keys alone: every act of the menus, every field and button of every room."""

import shutil

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
)

from culmo.desk.acts import ACTIONS
from culmo.desk.app import settle
from culmo.desk.rail import Well
from support.looking import pages

KINDS = (
    QAbstractButton,
    QLineEdit,
    QComboBox,
    QAbstractSpinBox,
    QAbstractSlider,
    QAbstractItemView,
    QPlainTextEdit,
)


@pytest.fixture
def sampled(window, demo_file, tmp_path):
    """The window with a copy of the sample study."""
    shutil.copy(demo_file, tmp_path / "sample.culmo")
    assert window.open_path(tmp_path / "sample.culmo")
    settle(window, 30)
    window.session.selection.select_sheet(1)
    window.state.select("r02c01")
    return window


@pytest.fixture
def recorded():
    """What each action would run is written down instead; all can be done."""
    done = []
    kept = [(entry, entry.run, entry.enabled) for entry in ACTIONS]
    for entry in ACTIONS:
        object.__setattr__(entry, "run", lambda _, entry=entry: done.append(entry.id))
        object.__setattr__(entry, "enabled", lambda _: True)
    yield done
    for entry, run, enabled in kept:
        object.__setattr__(entry, "run", run)
        object.__setattr__(entry, "enabled", enabled)


def test_every_act_of_the_menus_is_reached_by_arrows_and_enter(qtbot, sampled, recorded):
    bar = sampled.menuBar()
    qtbot.keyPress(sampled, Qt.Key.Key_Alt)
    qtbot.keyRelease(sampled, Qt.Key.Key_Alt)
    assert bar.hasFocus() or bar.activeAction() is not None  # Alt alone goes to the menus
    qtbot.keyClick(bar, Qt.Key.Key_Escape)
    for top in bar.actions():
        menu = top.menu()
        wanted = [entry.id for entry in ACTIONS if sampled.actions_by_id[entry.id] in menu.actions()]
        assert wanted
        for target in wanted:
            menu.popup(sampled.pos())
            for _ in range(len(menu.actions()) + 1):
                qtbot.keyClick(menu, Qt.Key.Key_Down)
                if menu.activeAction() is sampled.actions_by_id[target]:
                    break
            qtbot.keyClick(menu, Qt.Key.Key_Return)
            assert recorded and recorded[-1] == target, (top.text(), target)
            menu.close()
    assert set(recorded) == {entry.id for entry in ACTIONS}


def test_every_shortcut_does_its_act(qtbot, sampled, recorded):
    for entry in ACTIONS:
        if entry.shortcut:
            action = sampled.actions_by_id[entry.id]
            assert action.shortcut().toString() == entry.shortcut
            action.trigger()
            assert recorded[-1] == entry.id


def reached(window):
    """The widgets that Tab comes to, from any start."""
    start = window.focusWidget() or window
    found = [start]
    widget = start
    for _ in range(200_000):
        widget = widget.nextInFocusChain()
        if widget is start:
            break
        if (
            widget.focusPolicy() & Qt.FocusPolicy.TabFocus
            and widget.isVisibleTo(window)
            and widget.isEnabled()
        ):
            found.append(widget)
    return found


def is_own(widget):
    """Whether it is an inner part of another widget, which takes the keys for it."""
    parent = widget.parentWidget()
    return (
        not isinstance(widget, QScrollBar | QHeaderView)
        and not isinstance(parent, (QComboBox, QAbstractSpinBox, QLineEdit))
        and (not widget.objectName().startswith("qt_"))
    )


@pytest.mark.long
def test_every_field_and_button_is_reached_by_tab_and_has_a_name(sampled):
    unreached, nameless = set(), set()
    for page in pages(sampled):
        settle(sampled, 30)
        chain = set(map(id, reached(sampled)))
        for widget in [w for kind in KINDS for w in sampled.findChildren(kind)]:
            if not widget.isVisibleTo(sampled) or not widget.isEnabled() or not is_own(widget):
                continue
            text = (
                widget.accessibleName()
                or getattr(widget, "text", str)()
                or getattr(widget, "placeholderText", str)()
            )
            where = f"{page}: {type(widget).__name__} {text!r}"
            # of buttons of which one is chosen Tab comes to that one, and the arrow keys go on from it
            mates = [widget]
            if isinstance(widget, QAbstractButton) and widget.group() is not None:
                mates = widget.group().buttons()
            elif isinstance(widget, Well) or (isinstance(widget, QAbstractButton) and widget.autoExclusive()):
                mates = [
                    mate for mate in widget.parentWidget().children() if isinstance(mate, QAbstractButton)
                ]
            if not any(id(mate) in chain for mate in mates) and not page.startswith("room 2"):
                unreached.add(where)
            if not text:
                nameless.add(f"{where} in {type(widget.parentWidget()).__name__}")
    assert not unreached, "\n".join(sorted(unreached)[:30])
    assert not nameless, "\n".join(sorted(nameless)[:30])


def test_at_the_table_each_button_has_its_key(sampled):
    """There the buttons do not take the keys, since each is a key of its own."""
    from culmo.desk.rooms.paint.words import KEYS

    sampled.show_room(2)
    settle(sampled, 30)
    keys = {key for key, _ in KEYS}
    assert {"Space", "Backspace", "S", "R", "N", "1 to 8", "H", "D", "W", "P", "C", "G"} <= keys
    for button in sampled.paint.findChildren(QAbstractButton):
        if button.isVisibleTo(sampled):
            assert button.text() or button.accessibleName()


def test_buttons_say_their_keys_from_the_table(sampled):
    keys = {entry.id: entry.shortcut for entry in ACTIONS}
    plan, box, read = sampled.plan, sampled.box, sampled.read
    for button, action in (
        (plan.new_button, "new sheet"), (plan.foot.start, "paint"), (plan.slip.layout_page.keep_button, "keep plan"),
        (box.enter, "enter"), (box.add, "add paint"), (read.open_button, "picture"),
        (read.import_button, "readings"), (sampled.status.stop_button, "stop"),
        *zip(sampled.tabs.buttons, ("room box", "room plan", "room paint", "room read", "room weigh", "room daybook"),
             strict=True),
    ):  # fmt: skip
        assert f"({keys[action]})" in button.toolTip(), action
