"""Sheets and pictures looked at from nearer: by wheel, pinch, keys, buttons; drawn about; true size; labels in sight."""

import pytest
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from culmo.desk.app import settle
from culmo.desk.drawing.sheet import sheet_transform
from culmo.desk.picture_view import PictureView
from culmo.desk.room_names import RoomName
from culmo.desk.zoom import NEAREST, Zoom
from culmo.desk.zoom_tool import pixels_a_mm
from support.by_mouse import wheel

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def view(demo):
    """A sheet on the table of the Plan room."""
    demo.session.selection.select_sheet(1)
    demo.show_room(RoomName.PLAN)
    settle(demo, 30)
    return demo.plan.view


def test_a_point_stays_where_it_is_while_one_goes_nearer():
    zoom, base = Zoom(), QRectF(2, 2, 600, 400)
    at = QPointF(150, 300)

    def seen_at(point):
        place = zoom.place(base)
        return (point.x() - place.left()) / place.width(), (point.y() - place.top()) / place.height()

    before = seen_at(at)
    for factor in (1.25, 1.25, 2.0, 1.1):
        zoom.by(factor, at, base)
        assert seen_at(at) == pytest.approx(before)
    zoom.by(1e9, at, base)
    assert zoom.factor == NEAREST
    zoom.by(1e-9, at, base)
    assert zoom.place(base) == base


def test_a_picture_is_not_drawn_out_of_sight():
    zoom, base = Zoom(), QRectF(0, 0, 600, 400)
    zoom.by(3.0, QPointF(0, 0), base)
    zoom.move(QPointF(1e6, -1e6), base)
    place = zoom.place(base)
    assert place.left() == pytest.approx(0.0) and place.bottom() == pytest.approx(400.0)
    assert place.contains(base.adjusted(1, 1, -1, -1))


def test_the_wheel_goes_nearer_with_ctrl_and_moves_the_sheet_only_then(view):
    middle = view.rect().center()
    assert not wheel(view, middle).isAccepted()  # nothing to move: what lies around may scroll
    wheel(view, middle, 3, CTRL)
    assert view.zoom.factor == pytest.approx(1.25**3)
    before = view.place_of("r01c01")
    assert wheel(view, middle, 1).isAccepted()
    assert view.place_of("r01c01").y() > before.y()
    before = view.place_of("r01c01")
    wheel(view, middle, 1, Qt.KeyboardModifier.ShiftModifier)
    assert view.place_of("r01c01").x() > before.x()
    wheel(view, middle, -30, CTRL)
    assert view.zoom.factor == 1.0


def test_keys_and_buttons_do_the_same(view):
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Plus)
    assert view.zoom.factor == pytest.approx(1.25)
    view.tool.buttons["nearer"].click()
    assert view.zoom.factor == pytest.approx(1.25**2)
    QTest.keyClick(view, Qt.Key.Key_Minus)
    view.tool.buttons["farther"].click()
    assert view.zoom.factor == pytest.approx(1.0)
    QTest.keyClick(view, Qt.Key.Key_1)
    _, scale = sheet_transform(view.sheet, view.zoom.place(view.base()))
    assert scale == pytest.approx(pixels_a_mm(view), rel=1e-6) or view.zoom.factor == 1.0
    QTest.keyClick(view, Qt.Key.Key_0)
    assert view.zoom.factor == 1.0
    assert not view.tool.buttons["fit"].isEnabled()


def test_near_a_cell_is_chosen_where_it_is_seen_and_arrows_keep_it_in_sight(view, demo):
    view.select("r01c01")
    view.zoom_by(6.0)
    settle(demo, 30)
    at = view.place_of("r01c01")
    assert view.rect().contains(at.toPoint())
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert view.current == "r01c01"
    view.setFocus()
    for _ in range(7):
        QTest.keyClick(view, Qt.Key.Key_Right)
        assert view.rect().contains(view.place_of(view.current).toPoint()), view.current
    assert view.current == "r01c08"


def test_the_hand_draws_it_about_and_chooses_nothing_by_that(view):
    view.select("r04c04")
    view.zoom_by(4.0)
    start = view.rect().center()
    before = view.place_of("r04c04")
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(view, start + QPoint(40, 25))
    QTest.mouseMove(view, start + QPoint(60, 30))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=start + QPoint(60, 30))
    moved = view.place_of("r04c04") - before
    assert (moved.x(), moved.y()) == pytest.approx((60, 30))
    assert view.current == "r04c04"


def test_what_was_drawn_stands_enlarged_until_it_is_drawn_anew_and_is_sharp_then(view, demo):
    settle(demo, 30)
    far = view.grab().toImage()
    view.zoom_by(8.0, QPointF(view.place_of("r03c03")))
    assert view.picture.lies_in(view.base_now(), QRectF(view.rect())).width() > 7.0 * view.width()
    settle(demo, 60)
    assert view.picture.lies_in(view.base_now(), QRectF(view.rect())) == QRectF(view.rect())
    near = view.grab().toImage()
    assert near != far
    at = view.place_of("r03c03").toPoint()
    one, other = QImage(far), QImage(near)
    assert abs(one.pixelColor(at).hue() - other.pixelColor(at).hue()) < 25  # the same cell under the hand


def test_names_of_rows_and_columns_stay_in_sight(view, demo, monkeypatch):
    from culmo.desk import zoom_tool

    drawn = []
    own = zoom_tool._edge_box

    def noted(label, transform, place, metrics, cells):
        box = own(label, transform, place, metrics, cells)
        if box is not None:
            drawn.append((label.text, box))
        return box

    monkeypatch.setattr(zoom_tool, "_edge_box", noted)
    view.grab()
    assert drawn == []  # all is seen as it is
    view.select("r05c05")
    view.zoom_by(4.0)
    settle(demo, 40)
    drawn.clear()
    view.grab()
    rows = [text for text, box in drawn if box.left() == view.rect().left()]
    columns = [text for text, box in drawn if box.top() == view.rect().top()]
    cell = view.sheet.cell("r05c05")
    assert set(cell.recipe.names) <= {*rows, *columns}


def test_the_zoom_of_a_room_stays_while_others_are_looked_at(view, demo):
    view.zoom_by(3.0)
    demo.show_room(RoomName.PAINT)
    assert demo.paint.view.zoom.factor == 1.0
    demo.paint.view.zoom_by(2.0)
    demo.show_room(RoomName.PLAN)
    assert view.zoom.factor == pytest.approx(3.0)


def test_a_picture_is_looked_at_from_nearer_and_read_there(qtbot):
    picture = QImage(400, 300, QImage.Format.Format_RGB888)
    picture.fill(Qt.GlobalColor.white)
    for x in range(200, 240):
        for y in range(100, 140):
            picture.setPixelColor(x, y, Qt.GlobalColor.red)
    view = PictureView()
    qtbot.addWidget(view)
    view.resize(400, 300)
    view.show()
    view.show_image(picture)
    assert view.tool.isVisible()
    taken = []
    view.picked.connect(taken.append)
    wheel(view, QPoint(220, 120), 6, CTRL)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(220, 120))
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert taken[0][1] > 60 and abs(taken[1][1]) < 1
    QTest.mousePress(view, Qt.MouseButton.MiddleButton, pos=QPoint(220, 120))
    QTest.mouseMove(view, QPoint(120, 120))
    QTest.mouseRelease(view, Qt.MouseButton.MiddleButton, pos=QPoint(120, 120))
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(120, 120))
    assert taken[-1][1] > 60
    assert view.grab().toImage().pixelColor(120, 120).red() > 200
    view.clear()
    assert not view.tool.isVisible() and view.zoom.factor == 1.0


@pytest.mark.long
def test_corners_are_dragged_near_as_far(demo):
    demo.session.selection.select_sheet(1)
    demo.show_room(RoomName.READ)
    demo.read.desk.practise()
    for _ in range(60):
        settle(demo, 40)
        if demo.read.trial is not None:
            break
    picture = demo.read.picture
    cell = next(iter(picture.outlines))
    picture.zoom_by(4.0, picture.to_widget(picture.outlines[cell].mean(axis=0)[None])[0])
    at = picture.to_widget(picture.outlines[cell].mean(axis=0)[None])[0]
    assert picture.cell_at(at) == cell
    demo.read.desk.discard()
    assert picture.zoom.factor == 1.0
