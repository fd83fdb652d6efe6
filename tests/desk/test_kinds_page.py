"""A new sheet is chosen by its picture, made of the painter's own paints, with one click or by keys."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from culmo.core.chart.kinds import KINDS
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.steps import run_through
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan.at_hand import aids_of
from culmo.desk.rooms.plan.kinds_model import beginning
from culmo.study import acts, records
from support.begun import new_grid


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def room(demo):
    demo.show_room(RoomName.PLAN)
    settle(demo, 30)
    return demo.plan


def ready(window):
    for _ in range(40):
        settle(window, 20)
        if all(card.about for card in window.plan.kinds.cards):
            return
    raise AssertionError("no pictures came")


@pytest.mark.long
def test_ctrl_g_and_enter_begin_a_grid(demo, room):
    demo.actions_by_id["new sheet"].trigger()
    ready(demo)
    assert room.stack.currentWidget() is room.kinds
    assert QApplication.focusWidget() is room.kinds.cards[0]
    assert room.trial is None
    QTest.keyClick(room.kinds.cards[0], Qt.Key.Key_Return)
    settle(demo, 40)
    assert room.trial is not None and room.trial.kind == "grid"
    assert room.stack.currentWidget() is room.view
    room.trying.discard()


@pytest.mark.long
@pytest.mark.parametrize("kind", [kind.key for kind in KINDS])
def test_each_kind_is_begun_by_one_click_as_it_was_shown(demo, room, kind):
    room.choose_kind()
    ready(demo)
    card = next(card for card in room.kinds.cards if card.kind.key == kind)
    assert card.isEnabled() and card.picture is not None and not card.picture.isNull()
    assert "cell" in card.about
    colours = {card.picture.pixelColor(x, y).rgb() for x in range(0, card.picture.width(), 9)
               for y in range(0, card.picture.height(), 9)}  # fmt: skip
    assert len(colours) > 8, "it is drawn in paint"
    QTest.mouseClick(card, Qt.MouseButton.LeftButton)
    settle(demo, 40)
    assert room.trial is not None, room.slip.layout_page.message.text()
    assert room.trial.kind == kind
    cells = sum(len(sheet.cells) for sheet in room.trying.sheets)
    assert card.about.startswith(f"{cells} cell")
    room.trying.discard()


@pytest.mark.long
def test_arrows_go_from_card_to_card_and_escape_leaves_all_as_it_was(demo, room):
    before = room.sheet()
    room.choose_kind()
    ready(demo)
    QTest.keyClick(room.kinds.cards[0], Qt.Key.Key_Right)
    assert room.kinds.cards[1].hasFocus()
    QTest.keyClick(room.kinds.cards[1], Qt.Key.Key_Down)
    below = next(place for place, card in enumerate(room.kinds.cards) if card.hasFocus())
    assert below == 1 + room.kinds._columns()
    QTest.keyClick(room.kinds.cards[below], Qt.Key.Key_Escape)
    assert room.stack.currentWidget() is room.view
    assert room.sheet() is before and room.picker.isVisible()
    assert room.new_button.text() == "New sheet"


@pytest.mark.long
def test_a_plan_that_is_not_kept_is_not_thrown_away(demo, room):
    new_grid(room)
    settle(demo, 40)
    trial = room.trial
    room.choose_kind()
    assert room.stack.currentWidget() is room.view
    assert room.trial is trial
    assert "not kept yet" in demo.status.told_text.text()
    room.trying.discard()


def test_an_empty_room_shows_the_kinds_and_says_what_it_wants(with_study):
    window = with_study
    window.show_room(RoomName.PLAN)
    ready(window)
    assert window.plan.stack.currentWidget() is window.plan.kinds
    assert window.plan.title.text() == "Which sheet first?"
    keepers = next(card for card in window.plan.kinds.cards if card.kind.key == "keepers")
    assert not keepers.isEnabled() and "worth keeping first" in keepers.about
    assert not window.plan.foot.start.isVisible()


@pytest.mark.long
def test_the_paints_in_hand_are_those_of_the_pictures(demo, room):
    for name in ("Rose", "Viridian", "Ochre"):
        demo.session.selection.toggle_in_hand(name)
    room.choose_kind()
    ready(demo)
    settle(demo, 40)
    grid = room.kinds._begun["grid"]
    assert grid.texts["paints"] == "Rose, Viridian, Ochre"
    assert {name for cell in grid.sheet.cells for name in cell.recipe.names} == {"Rose", "Viridian", "Ochre"}


def test_names_with_commas_and_two_paints_are_enough(with_study):
    session = with_study.session
    session.do(acts.add_paint(session.file, acts.PaintEntry("Blue + grey, deep", "PB60")))
    settle(with_study, 30)
    names = ["Blue + grey, deep", "Rose"]
    for begun in run_through(beginning(names, {"unit": "mm"}, aids_of(session), 1.0)):
        if begun.kind.key in ("keepers", "triangle", "wheel", "strip"):
            continue  # these want more
        assert begun.sheet is not None, (begun.kind.key, begun.about)
        assert set(names) >= {name for cell in begun.sheet.cells for name in cell.recipe.names}


def test_what_is_begun_is_what_the_layout_page_lays_out(demo, room):
    names = [paint.name for paint in records.paints(demo.session.file)][:8]
    for kind in KINDS:
        texts = kind.begun_with(names)
        assert lay_out(plan_of(kind.key, texts), aids_of(demo.session))
