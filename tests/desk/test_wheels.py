"""Wheels through the window: five anchors, rings with paints of their own, the turning cover by mouse and by keys."""

import math
from itertools import pairwise

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from culmo.core.chart.cover import cover_of
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from support.begun import new_grid


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def page(with_study):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    page = with_study.plan.slip.layout_page
    page.kind.setCurrentIndex(page.kind.findData("wheel"))
    settle(with_study, 30)
    return page


def fill(window, page, **fields: str) -> None:
    for name, text in fields.items():
        page.fields[name].set_text(text)
    page._edited()
    settle(window, 30)
    assert not page.message.text()


def test_five_anchors_stand_pure_with_two_steps_in_each_gap(page, with_study):
    names = [paint.name for paint in with_study.session.paints][:5]
    fill(with_study, page, paints=", ".join(names), between="2")
    assert with_study.plan.trying.keep()
    sheet = with_study.state.record.sheet
    outer = [cell for cell in sheet.cells if cell.id.startswith("w1")]
    assert len(outer) == 15
    assert [str(cell.recipe) for cell in outer if cell.recipe.is_pure] == names


def test_rows_stand_an_inch_apart(page, with_study):
    first, second, third = [paint.name for paint in with_study.session.paints][:3]
    page.kind.setCurrentIndex(page.kind.findData("rows"))
    rows = f"{first}, {second}: 6\n{second}, {third}: 9\n{first}, {third}: 7"
    fill(with_study, page, rows=rows, pitch_mm="1 in", unit="in", paper="A4")
    assert with_study.plan.trying.keep()
    cells = with_study.state.record.sheet.cells
    tops = sorted({round(cell.box_mm[1], 2) for cell in cells})
    assert [b - a for a, b in pairwise(tops)] == pytest.approx([25.4, 25.4], abs=0.02)
    assert [sum(abs(cell.box_mm[1] - top) < 0.1 for cell in cells) for top in tops] == [6, 9, 7]


@pytest.mark.long
def test_rings_are_added_changed_and_taken_away(page, with_study):
    field = page.fields["rings"]
    acts = {action.text(): action for action in field.menu.actions()}
    before = field.text()
    for words in ("With a cool dark", "With a neutral", "With a warm dark", "Glazed with a paint"):
        acts[words].trigger()
    settle(with_study, 30)
    assert field.text().startswith(before)
    assert len(field.rings) == 6
    assert all(ring.paint for ring in field.rings[2:])
    assert len({cell.id[:2] for cell in with_study.plan.trial.cells}) == 6
    # the strength and the paint are chosen with the colour in view
    row = field._rows.itemAt(2).widget()
    way, paints, strength = row.findChildren(type(page.kind))
    assert all(not paints.itemIcon(i).isNull() for i in range(paints.count()))
    strength.setCurrentIndex(2)
    paints.setCurrentIndex(1)
    settle(with_study, 30)
    assert str(field.rings[2]).endswith("1:1")
    assert field.rings[2].paint == paints.itemText(1)
    way.setCurrentIndex(way.findData("opposite"))
    settle(with_study, 30)
    assert str(field.rings[2]) == "opposite"
    for _ in range(5):
        buttons = [
            b
            for b in field._rows.itemAt(0).widget().children()
            if b.metaObject().className() == "QPushButton"
        ]
        buttons[0].click()
    assert len(field.rings) == 1
    assert with_study.plan.trying.keep()
    with_study.plan.slip.tabs.choose(2)
    assert page.fields["rings"].text() == field.text()  # and is read back from the kept sheet


def test_the_cover_is_turned_by_keys_and_by_dragging(page, with_study, qtbot):
    plan, view = with_study.plan, with_study.plan.view
    names = [paint.name for paint in with_study.session.paints][:4]
    fill(with_study, page, paints=", ".join(names), places="12")
    assert plan.cover.button.isVisible()
    about = plan.subtitle.text()
    plan.cover.button.click()
    assert plan.subtitle.text().startswith(f"this: {names[0]}")
    qtbot.keyClick(view, Qt.Key.Key_Right)
    qtbot.keyClick(view, Qt.Key.Key_Right)
    qtbot.keyClick(view, Qt.Key.Key_Left)
    assert round(view.cover.turn) == 1
    assert not view.current  # the keys turn it, and choose no cell below it
    cover = cover_of(plan.trial)
    scale_point = view.place_of("w1p02")
    middle = view.place_of("w1p01") + view.place_of("w1p07")
    middle = QPointF(middle.x() / 2, middle.y() / 2)
    reach = math.dist((scale_point.x(), scale_point.y()), (middle.x(), middle.y())) * 0.7

    def at(places: float):
        turn = math.radians(places * cover.step)
        return QPointF(middle.x() + reach * math.sin(turn), middle.y() - reach * math.cos(turn)).toPoint()

    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=at(1))
    for places in (2, 3, 4.1):
        QTest.mouseMove(view, at(places))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=at(4.1))
    assert view.cover.turn == 4.0  # it comes to rest at a place
    assert plan.subtitle.text().startswith("this: ")
    pixels = view.grab().toImage()
    inside, beside = at(4), at(5.5)
    assert pixels.pixelColor(inside) != pixels.pixelColor(beside)
    plan.cover.button.click()
    assert plan.subtitle.text() == about
    page.kind.setCurrentIndex(page.kind.findData("grid"))
    settle(with_study, 30)
    assert not plan.cover.button.isVisible()
    assert view.cover.cover is None


def test_a_paint_that_is_chosen_alone_stands_with_its_colour(page, with_study):
    box = page.fields["extra"].box
    assert box.count() == len(with_study.session.paints)
    assert not any(box.itemIcon(place).isNull() for place in range(box.count()))
