"""Dropping, pasting, dragging and picking, by mouse and by keys."""

import numpy as np
import pypdfium2
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QColor, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import QApplication, QFileDialog

from culmo.desk.app import settle
from culmo.desk.picture_view import PictureView
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.box_picture import Spot
from culmo.desk.rooms.weigh.find_results import PickDialog
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.study.box_records import boxes
from support.spreadsheets import write_xlsx


def halves():
    """A picture that is red at the left and green at the right."""
    image = QImage(80, 40, QImage.Format.Format_RGB32)
    image.fill(QColor(200, 40, 40))
    for x in range(40, 80):
        for y in range(40):
            image.setPixelColor(x, y, QColor(30, 120, 60))
    return image


def held(text="", image=None, path=None):
    data = QMimeData()
    if text:
        data.setText(text)
    if image is not None:
        data.setImageData(image)
    if path is not None:
        data.setUrls([QUrl.fromLocalFile(str(path))])
    return data


def drop(widget, data):
    buttons = (Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    widget.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, *buttons))


# ---- a colour from a picture


@pytest.fixture
def view(qtbot):
    view = PictureView()
    qtbot.addWidget(view)
    view.resize(800, 400)
    view.show_image(halves())
    view.show()
    return view


def test_a_colour_is_picked_by_a_click(qtbot, view):
    picked = []
    view.picked.connect(lambda lab: picked.append(np.asarray(lab)))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(100, 200))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(700, 200))
    assert picked[0][1] > 40
    assert picked[1][1] < -25
    view.resize(800, 900)  # beside the picture there is nothing to pick
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(10, 10))
    assert len(picked) == 2


def test_a_colour_is_picked_by_keys_alone(qtbot, view):
    picked = []
    view.picked.connect(lambda lab: picked.append(np.asarray(lab)))
    view.setFocus()
    for _ in range(3):
        qtbot.keyClick(view, Qt.Key.Key_Left)
    qtbot.keyClick(view, Qt.Key.Key_Space)
    assert picked[-1][1] > 40
    for _ in range(6):
        qtbot.keyClick(view, Qt.Key.Key_Right)
    qtbot.keyClick(view, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(view, Qt.Key.Key_Space)
    assert picked[-1][1] < -25
    assert view._at == QPointF(430, 199)
    for _ in range(100):
        qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view._target().contains(view._at)  # the edge of the picture holds
    image = view.grab().toImage()
    assert image.pixelColor(430 + 8, round(view._at.y())).lightness() < 40  # the cross is on view


def test_without_a_picture_keys_and_clicks_pick_nothing(qtbot):
    view = PictureView()
    qtbot.addWidget(view)
    view.picked.connect(lambda _: pytest.fail("there is no picture"))
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton)
    qtbot.keyClick(view, Qt.Key.Key_Space)
    qtbot.keyClick(view, Qt.Key.Key_Left)


# ---- a colour wanted, from wherever it comes


@pytest.fixture
def find(with_study):
    with_study.show_room(RoomName.WEIGH)
    with_study.weigh.shows.choose(WeighPageName.FIND)
    settle(with_study, 20)
    return with_study.weigh.page(WeighPageName.FIND)


def in_pick_dialog(act):
    def now():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, PickDialog), dialog
        act(dialog)

    QTimer.singleShot(60, now)


def by_keys(qtbot):
    """Take what is in the middle of the picture, without the mouse."""

    def act(dialog):
        assert not dialog.take.isEnabled()
        dialog.view.setFocus()
        qtbot.keyClick(dialog.view, Qt.Key.Key_Left)
        qtbot.keyClick(dialog.view, Qt.Key.Key_Space)
        dialog.take.click()

    return act


def test_a_wanted_colour_comes_as_text_a_file_or_a_picture(qtbot, find, tmp_path):
    drop(find, held("#5a6b4c"))
    assert find.sought.lab[0] == pytest.approx(43.5, abs=1.0)
    path = tmp_path / "wing case.png"
    halves().save(str(path))
    in_pick_dialog(by_keys(qtbot))
    drop(find, held(path=path))
    assert find.sought.name == "wing case"
    assert find.sought.lab[1] > 40
    drop(find, held("30, -5, 10"))
    QGuiApplication.clipboard().setMimeData(held(image=halves()))
    in_pick_dialog(by_keys(qtbot))
    find.paste()
    assert find.sought.lab[1] > 40
    # where a text comes with its picture, it is the text that is meant
    QGuiApplication.clipboard().setMimeData(held("30, -5, 10", halves()))
    find.paste()
    assert find.sought.lab == (30.0, -5.0, 10.0)


def test_a_picture_that_is_none_and_one_put_away_change_nothing(find, tmp_path):
    drop(find, held("30, -5, 10"))
    path = tmp_path / "no.png"
    path.write_bytes(b"no picture")
    drop(find, held(path=path))
    in_pick_dialog(lambda dialog: dialog.reject())
    find.pick_from(halves())
    assert find.sought.lab == (30.0, -5.0, 10.0)


# ---- the Read room


def test_readings_and_pictures_are_dropped_on_the_read_room(with_study, tmp_path):
    with_study.show_room(RoomName.READ)
    room, study = with_study.read, with_study.session.file
    before = len(study.rows("readings"))
    drop(room, held(path=write_xlsx(tmp_path / "r.xlsx", P=[["recipe", "L", "a", "b"], ["Rose", 40, 50, 1]])))
    assert len(study.rows("readings")) == before + 1
    (tmp_path / "r.csv").write_text("recipe;L;a;b\nNobody;40;50;1\n")
    drop(room, held(path=tmp_path / "r.csv"))
    assert len(study.rows("readings")) == before + 1
    assert "Nobody" in room.slip.outcome.text()
    opened = []
    room.desk.open_data = lambda name, data: opened.append((QImage.fromData(data).width(), name))
    drop(room, held(image=halves()))
    assert opened == [(80, "dropped picture.png")]


# ---- the box, by mouse


def drag(qtbot, picture, start, end):
    a, b = (picture.rect_of(spot).center().toPoint() for spot in (start, end))
    qtbot.mousePress(picture, Qt.MouseButton.LeftButton, pos=a)
    qtbot.mouseMove(picture, a + QPoint(3, 0))
    qtbot.mouseMove(picture, (a + b) / 2)
    qtbot.mouseMove(picture, b)
    image = picture.grab()
    qtbot.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=b)
    return image


def test_a_paint_is_carried_to_another_well_by_the_mouse(qtbot, demo):
    demo.show_room(RoomName.BOX)
    picture, before = demo.box.picture, boxes(demo.session.file)[0].paints
    still = picture.grab().toImage()
    moving = drag(qtbot, picture, Spot(0, before[0]), Spot(4, before[4])).toImage()
    assert moving != still  # it is seen on its way
    after = boxes(demo.session.file)[0].paints
    assert (after[0], after[4]) == (before[4], before[0])
    demo.session.undo.undo()
    assert boxes(demo.session.file)[0].paints == before


def test_a_paint_is_carried_out_of_the_box_and_back(qtbot, demo):
    demo.show_room(RoomName.BOX)
    picture, before = demo.box.picture, boxes(demo.session.file)[0].paints
    beside = next(spot for spot in picture.spots() if spot.place < 0)
    drag(qtbot, picture, Spot(2, before[2]), beside)
    assert before[2] not in boxes(demo.session.file)[0].paints.values()
    drag(qtbot, picture, Spot(-1, before[2]), Spot(2, boxes(demo.session.file)[0].paints.get(2)))
    assert boxes(demo.session.file)[0].paints[2] == before[2]


def test_a_press_without_a_way_only_selects(qtbot, demo):
    demo.show_room(RoomName.BOX)
    picture, before = demo.box.picture, boxes(demo.session.file)[0].paints
    drag(qtbot, picture, Spot(3, before[3]), Spot(3, before[3]))
    assert boxes(demo.session.file)[0].paints == before
    assert demo.box.current == "Scarlet"
    qtbot.mouseClick(
        picture, Qt.MouseButton.RightButton, pos=picture.rect_of(Spot(5, before[5])).center().toPoint()
    )
    assert demo.box.current == "Scarlet"


# ---- what the box gives out


def test_the_well_map_is_written_from_the_menu(demo, tmp_path, monkeypatch):
    names = iter([("", ""), (str(tmp_path / "map"), "SVG at 1:1 (*.svg)"), (str(tmp_path / "map.pdf"), "")])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: next(names))
    for _ in range(3):
        demo.box_desk.prints.export_well_map()
    assert sorted(path.name for path in tmp_path.glob("map*")) == ["map.pdf", "map.svg"]
    with pypdfium2.PdfDocument(tmp_path / "map.pdf") as document:
        assert "Lemon" in document[0].get_textpage().get_text_bounded()
    assert not demo.box_desk.prints.write_well_map(tmp_path / "nowhere" / "map.pdf")
    assert demo.notice.isVisible()


def test_what_needs_a_box_or_a_well_says_so_without_one(with_study):
    told = []
    with_study.session.told.connect(told.append)
    desk = with_study.box_desk
    assert with_study.session.selection.box is None
    desk.change_box()
    desk.remove_box()
    desk.turn_pan()
    desk.prints.export_well_map()
    desk.prints.print_well_map()
    assert told == ["Select a well of the box first"]
    assert not desk.prints.write_well_map("unused.pdf")
