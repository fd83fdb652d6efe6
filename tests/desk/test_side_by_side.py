"""Things side by side: looked at from nearer together, and colours of theirs that go out."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from culmo.core.paint.recipe import parse_recipe
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.side_model import SideOrder
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.study.records import sheet_record
from support.by_mouse import wheel

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def side(demo):
    """Two sheets of one size, as they lie."""
    demo.show_room(RoomName.WEIGH)
    demo.weigh.shows.choose(WeighPageName.SIDE)
    for _ in range(40):
        settle(demo, 10)
        if not demo.session.runner.busy():
            break
        QTest.qWait(20)
    found = demo.weigh.page(WeighPageName.SIDE)
    found.choose(["First eight, wing cases", "Travelling box"])
    found.mode.setCurrentIndex(SideOrder.LIE)
    found.board.grab()
    return found


def rects(board, place):
    """Where the cells of a place are drawn, one for each sheet."""
    return [one.box for one in board.drawn if one.spot.place == place]


def test_both_are_nearer_at_the_same_place(side):
    board = side.board
    assert board.tool.isVisibleTo(board)
    second = board.drawn[-1].column
    about = QPointF(second.left() + 0.4 * second.width(), 0.3 * second.height())
    under = board.thing(board.thing_at(about)).recipe
    wheel(board, about, 4, CTRL)
    board.grab()
    assert board.thing(board.thing_at(about)).recipe == under
    assert board.zoom.factor == pytest.approx(1.25**4)
    shares = []
    for thing, column in zip(board.things, board.columns(), strict=True):
        record = sheet_record(side.session.file, thing.choice.key)
        boxes = {entry.cell.id: entry.cell.box_mm for entry in record.cells}
        one = next(one for one in board.drawn if one.column == column and one.spot.place == "r03c03")
        x, y, width, _ = boxes["r03c03"]
        scale, paper = one.box.width() / width, record.sheet.paper
        corner = one.box.topLeft() - QPointF(x, y) * scale
        middle = (column.center() - corner) / scale
        shares.append((middle.x() / paper.width_mm, middle.y() / paper.height_mm))
    # A3 and A4 are of one shape to a thousandth
    assert shares[0] == pytest.approx(shares[1], abs=0.002), (
        "the same place of both is in the middle of their columns"
    )
    board.fit()
    board.grab()
    assert board.zoom.factor == 1.0


def test_both_are_at_one_scale_so_that_grain_can_be_compared(side, demo):
    """A sheet on larger paper beside one on smaller: a millimetre is as long on both, near and far."""
    board = side.board
    cells = [
        {
            entry.cell.id: entry.cell.box_mm
            for entry in sheet_record(demo.session.file, thing.choice.key).cells
        }
        for thing in board.things
    ]
    assert cells[0]["r01c01"][2] != cells[1]["r01c01"][2]
    for steps in (0, 3):
        wheel(board, QPointF(board.rect().center()), steps, CTRL)
        board.grab()
        scales = [
            one.box.width() / cells[place][one.spot.place][2]
            for place, column in enumerate(board.columns())
            for one in board.drawn
            if one.column == column
        ]
        assert np.ptp(scales) < 1e-6 * scales[0]
        # the smaller one fills its column no more than the larger does
        assert all(one.box.width() < one.column.width() for one in board.drawn)


def test_what_is_seen_is_what_is_hit(side, qtbot):
    board = side.board
    for _ in range(6):
        qtbot.keyClick(board, Qt.Key.Key_Plus)
    board.grab()
    columns = {one.column.left(): one.column for one in board.drawn}
    for column in columns.values():
        qtbot.mouseClick(board, Qt.MouseButton.LeftButton, pos=column.center().toPoint())
        hit = next(one for one in board.drawn if one.spot is board.current)
        assert hit.column == column and hit.box.contains(column.center())


@pytest.mark.long
def test_arrows_bring_the_next_one_into_view(side, qtbot):
    board = side.board
    for _ in range(8):
        qtbot.keyClick(board, Qt.Key.Key_Plus)
    for _ in range(3):
        qtbot.keyClick(board, Qt.Key.Key_Down)
        board.grab()
    hit = next(one for one in board.drawn if one.spot is board.current)
    assert hit.column.adjusted(-1, -1, 1, 1).contains(hit.box)


def test_the_hand_draws_both_about_and_chooses_nothing_by_that(side, qtbot):
    board = side.board
    for _ in range(6):
        qtbot.keyClick(board, Qt.Key.Key_Plus)
    board.grab()
    before, chosen = [box.topLeft() for box in rects(board, "r03c03")], board.current
    at = board.drawn[0].column.center().toPoint()
    qtbot.mousePress(board, Qt.MouseButton.LeftButton, pos=at)
    for step in (15, 30, 45):
        qtbot.mouseMove(board, at + QPoint(step, 0))
    qtbot.mouseRelease(board, Qt.MouseButton.LeftButton, pos=at + QPoint(45, 0))
    board.grab()
    after = [box.topLeft() for box in rects(board, "r03c03")]
    assert all(there.x() > here.x() for here, there in zip(before, after, strict=True))
    assert board.current is chosen


def test_rows_of_colours_are_not_zoomed(side):
    side.mode.setCurrentIndex(0)
    event = wheel(side.board, QPointF(200, 100), 2, CTRL)
    assert not event.isAccepted() and side.board.zoom.factor == 1.0
    assert not side.board.tool.isVisibleTo(side.board)


def test_a_colour_is_copied_with_its_mix(side, demo, qtbot):
    side.board.setFocus()
    qtbot.keyClick(side.board, Qt.Key.Key_Right)
    qtbot.keyClick(side.board, Qt.Key.Key_C, CTRL)
    row = QGuiApplication.clipboard().text().split("\t")
    assert parse_recipe(row[1]).key == side.board.current.recipe.key
    assert [float(value) for value in row[2:5]] == pytest.approx(side.board.current.lab, abs=0.006)


def test_strokes_of_palettes_are_things_too(side):
    side.choose(["Six for the plates", "Six with earths"])
    side.board.grab()
    assert side.board.thing_count() == 12
    assert side.board.thing(0).paint and side.board.thing(0).lab is not None


def test_what_a_colour_is_told_as_is_translated(side, monkeypatch):
    from culmo.desk.rooms.weigh import side_model

    monkeypatch.setattr(side_model, "tr", lambda text, **_: f"[{text}]")
    words = {one.spot.words.rsplit(", ", 1)[1] for one in side.board.drawn}
    assert words == {"[read]", "[predicted]"}
