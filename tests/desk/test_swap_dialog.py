"""A paint swapped before and after: in a palette, for wanted colours and in a planned sheet, through the window."""

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.pages import BoxPageName
from culmo.desk.rooms.weigh.palette_slip import ChangeRow
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.desk.swap_dialog import SwapDialog
from culmo.study.palette_acts import wanted_lists
from culmo.study.records import sheet_titles
from desk.test_weigh_room import wait


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def fewer(demo):
    demo.show_room(RoomName.WEIGH)
    demo.weigh.shows.choose(WeighPageName.FEWER)
    wait(demo)
    return demo.weigh.page(WeighPageName.FEWER)


def with_dialog(act, do):
    """Run what opens the dialog, and do something in it."""
    seen, wrong = [], []

    def meet():
        dialog = QApplication.activeModalWidget()
        try:
            assert isinstance(dialog, SwapDialog)
            seen.append(dialog)
            do(dialog)
        except Exception as error:  # noqa: BLE001 - told when the dialog is closed: else it would stand for ever
            wrong.append(error)
        finally:
            if dialog is not None and dialog.isVisible():
                dialog.reject()

    QTimer.singleShot(0, meet)
    act()
    if wrong:
        raise wrong[0]
    assert seen


def test_a_palette_before_and_after_and_the_change_taken(demo, fewer):
    fewer.choose_size(5)
    paints = fewer.shown_paints()
    shares = {}

    def look(dialog):
        dialog.out.setCurrentText(paints[1])
        heads = [dialog.model.headerData(column, Qt.Orientation.Horizontal) for column in (1, 2)]
        shares["out"], shares["into"] = dialog.chosen
        assert paints[1] in heads[0] and shares["into"] in heads[1]
        rows = dialog.model.view.rows
        assert rows and dialog.words.text()
        assert all(row.before or row.after for row in rows)
        # the best that may come stands first: no other would reach more
        value, places = demo.weigh.weighing.reach.value, demo.weigh.weighing.places
        worth = [
            value.of(places([shares_in if name == paints[1] else name for name in paints]))
            for shares_in in (dialog.into.itemData(i) for i in range(dialog.into.count()))
        ]
        assert worth == sorted(worth, reverse=True)
        QTest.mouseClick(dialog.bring, Qt.MouseButton.LeftButton)

    with_dialog(fewer.swap, look)
    assert fewer.own_chosen
    assert set(fewer.own.names) == {*paints, shares["into"]} - {shares["out"]}


@pytest.mark.long
def test_swaps_keep_to_the_conditions(demo, fewer):
    fewer.choose_size(5)
    kept = fewer.shown_paints()[0]
    fewer._conditions(fewer.weighing.conditions.__class__(keep=(kept,), avoid=("Umber",)))
    wait(demo)
    paints = fewer.shown_paints()

    def look(dialog):
        assert kept not in [dialog.out.itemText(i) for i in range(dialog.out.count())]
        for name in paints[1:]:
            dialog.out.setCurrentText(name)
            assert "Umber" not in [dialog.into.itemData(i) for i in range(dialog.into.count())]

    with_dialog(fewer.swap, look)
    told = [row.accessibleName() for row in fewer.palette_slip.findChildren(ChangeRow) if row.isVisible()]
    assert told
    assert not any(
        f"without {kept}:" in name or f"for {kept}:" in name or "Umber for" in name or "with Umber:" in name
        for name in told
    )


@pytest.mark.long
def test_wanted_colours_are_told_by_name_farther_and_nearer(demo, fewer):
    demo.weigh.weighing.set_list("Beetle plate")
    wait(demo)
    fewer.choose_size(3)
    wanted = {colour.name for colour in demo.weigh.weighing.wanted()}
    nearest = demo.weigh.weighing.reach.wanted.nearest

    def look(dialog):
        out, into = dialog.chosen
        paints = fewer.shown_paints()
        places = demo.weigh.weighing.places
        was, now = nearest(places(paints)), nearest(places([into if p == out else p for p in paints]))
        names = [colour.name for colour in demo.weigh.weighing.wanted()]
        for row in dialog.model.view.rows:
            name, way = row.words.split("\n")
            place = names.index(name)
            assert name in wanted
            assert way == ("farther" if now[place] > was[place] else "nearer")
            assert row.before[0] == row.after[0]  # the wanted colour stands on the left of both
        assert dialog.note.text().startswith("left: wanted")

    with_dialog(fewer.swap, look)


@pytest.mark.long
def test_a_planned_sheet_with_another_paint_is_begun_in_the_plan_room(demo):
    titles = {title: sheet_id for sheet_id, title in sheet_titles(demo.session.file)}
    demo.session.selection.select_sheet(titles["First eight, wing cases"])
    settle(demo, 20)
    before = demo.state.record.sheet
    kept = sheet_titles(demo.session.file)

    def look(dialog):
        dialog.out.setCurrentText("Lemon")
        dialog.into.setCurrentIndex(dialog.into.findData("Moth gold"))
        assert "considered" in dialog.into.currentText()
        rows = dialog.model.view.rows
        held = {str(c.recipe.key) for c in before.cells if "Lemon" in c.recipe.names}
        assert len(rows) == len(held)
        assert all("Lemon" in row.said_before and "Moth gold" in row.said_after for row in rows)
        QTest.mouseClick(dialog.bring, Qt.MouseButton.LeftButton)

    with_dialog(demo.actions_by_id["swap"].trigger, look)
    settle(demo, 60)
    trial = demo.plan.trial
    assert trial is not None and trial.title == "First eight, wing cases, Moth gold for Lemon"
    names = {name for cell in trial.cells for name in cell.recipe.names}
    assert "Moth gold" in names and "Lemon" not in names
    assert len(trial.cells) == len(before.cells)
    assert sheet_titles(demo.session.file) == kept  # it is only tried; the sheet itself stands as it was
    assert demo.plan.trying.keep()
    assert len(sheet_titles(demo.session.file)) == len(kept) + 1


@pytest.mark.long
def test_considered_paints_may_fill_the_open_place(demo, fewer):
    owned = list(fewer.weighing.names)
    assert "Coral" not in owned
    assert fewer.asks.considered.isEnabled()
    fewer.tabs.tabs.choose(1)
    fewer.asks.considered.click()
    wait(demo)
    assert set(fewer.weighing.names) - set(owned) == {"Coral", "Indigo", "Moth gold"}
    assert "3 of them only considered" in fewer.subtitle
    keep = ("Yellow", "Rose", "Phthalo blue")
    leave = tuple(name for name in owned if name not in keep)
    fewer._conditions(fewer.weighing.conditions.__class__(keep=keep, avoid=leave))
    wait(demo)
    fewer.choose_size(4)
    assert set(fewer.shown_paints()) - set(keep) < {"Coral", "Indigo", "Moth gold"}
    demo.weigh.shows.choose(0)  # elsewhere only what is owned is mixed from
    wait(demo)
    assert fewer.weighing.names == owned


@pytest.mark.long
def test_a_palette_is_built_by_typing_and_by_clicking_wells(demo, fewer):
    slip = fewer.palette_slip
    slip.typed.setText("lemon, ultra, phthalo, nobody")
    QTest.keyClick(slip.typed, Qt.Key.Key_Return)
    assert fewer.own.names == ["Lemon", "Ultramarine"]
    assert slip.typed.text() == "phthalo, nobody" and slip.typed.property("wrong")
    in_hand = list(demo.session.selection.in_hand)
    QTest.mouseClick(slip.wells, Qt.MouseButton.LeftButton)
    demo.session.selection.toggle_in_hand("Rose")
    demo.session.selection.toggle_in_hand("Lemon")
    assert fewer.own.names == ["Ultramarine", "Rose"]
    assert demo.session.selection.in_hand == in_hand
    demo.show_room(0)
    settle(demo, 10)
    demo.session.selection.toggle_in_hand("Rose")
    assert fewer.own.names == ["Ultramarine", "Rose"] and demo.session.selection.in_hand != in_hand


@pytest.mark.long
def test_a_subject_becomes_a_list_of_the_studys_own(demo, fewer):
    assert fewer.asks.lists.findText("Skies (ready made)") > 0
    fewer.asks.lists.setCurrentIndex(fewer.asks.lists.findText("Skies (ready made)"))
    fewer.asks.lists.activated.emit(fewer.asks.lists.currentIndex())
    wait(demo)
    colours = wanted_lists(demo.session.file)["Skies"]
    assert len(colours) == 11 and colours[0].name == "high summer sky"
    assert fewer.weighing.list == "Skies" and fewer.asks.lists.currentText() == "Skies"
    assert fewer.asks.lists.findText("Skies (ready made)") < 0
    demo.session.undo.undo()
    wait(demo)
    assert "Skies" not in wanted_lists(demo.session.file)


@pytest.mark.long
def test_a_box_is_judged_for_subjects_and_leads_to_their_paints(demo):
    demo.show_room(0)
    demo.box.shows.choose(BoxPageName.JUDGED)
    wait(demo)
    judged = demo.box.stack.judged
    assert [one.subject.key for one in judged.served] == [
        "landscape",
        "skies",
        "sea",
        "flowers",
        "skin",
        "shade",
    ]
    buttons = [
        b for b in judged.findChildren(QPushButton) if b.accessibleName().startswith("Choose paints for ")
    ]
    assert len(buttons) == 6
    QTest.mouseClick(buttons[1], Qt.MouseButton.LeftButton)
    wait(demo)
    page = demo.weigh.page(WeighPageName.FEWER)
    assert page.isVisible() and page.weighing.list == "Skies"
    assert "Skies" in wanted_lists(demo.session.file)
