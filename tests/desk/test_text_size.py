"""The size of the window's text: larger and smaller at once, remembered, and back without a trace."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QApplication, QHeaderView, QLabel, QWidget

from culmo.desk import text_size
from culmo.desk.acts.view import set_text_size
from culmo.desk.app import settle
from culmo.desk.rail import NARROW_RAIL, RAIL_WIDTH, Well
from culmo.desk.room_names import RoomName
from culmo.desk.settings import SIZES, USUAL, Settings
from culmo.desk.text_size import change_text, next_size
from culmo.desk.theme import px, text_scale
from culmo.desk.window import MainWindow


@pytest.fixture(autouse=True)
def as_usual(qapp):
    """Whatever a test does, the others have the usual size."""
    yield
    change_text(qapp, USUAL)


def sizes_of(window):
    """What was set by hand of each part of a window."""
    return [
        (
            type(part).__name__,
            part.font().pointSizeF(),
            part.minimumSize().toTuple(),
            part.maximumSize().toTuple(),
        )
        for part in window.findChildren(QWidget)
        if part.parent() is not None and not part.objectName().startswith("qt_")  # Qt's own
    ]


@pytest.mark.long
def test_larger_and_smaller_by_keys_and_remembered(demo, qtbot, tmp_path):
    before = QApplication.font().pointSizeF()
    demo.actions_by_id["text larger"].trigger()
    assert QApplication.font().pointSizeF() == pytest.approx(1.1 * before)
    assert demo.tabs.buttons[0].font().pointSizeF() == pytest.approx(1.1 * 12.5)
    assert demo.settings.text_size == 110
    assert demo.actions_by_id["text larger"].shortcut().toString() == "Ctrl++"
    assert demo.actions_by_id["text smaller"].shortcut().toString() == "Ctrl+-"
    for _ in range(9):
        demo.actions_by_id["text larger"].trigger()
    assert demo.settings.text_size == SIZES[-1]
    other = MainWindow(Settings.at(tmp_path / "settings.ini"))
    qtbot.addWidget(other)
    assert text_scale() == pytest.approx(1.6)
    assert other.tabs.buttons[0].font().pointSizeF() == pytest.approx(1.6 * 12.5)
    demo.actions_by_id["text usual"].trigger()
    assert QApplication.font().pointSizeF() == pytest.approx(before)


@pytest.mark.long
def test_there_and_back_leaves_no_trace(demo):
    for room in range(6):
        demo.show_room(room)
        settle(demo, 20)
    settle(demo, 40)
    set_text_size(demo, 110)
    set_text_size(demo, USUAL)
    before = sizes_of(demo)
    heads = [head.defaultSectionSize() for head in demo.findChildren(QHeaderView)]
    for size in (130, 90, 160, 110, USUAL):
        set_text_size(demo, size)
        settle(demo, 20)
    assert [head.defaultSectionSize() for head in demo.findChildren(QHeaderView)] == pytest.approx(
        heads, abs=1
    )
    after = sizes_of(demo)
    assert len(after) == len(before)
    assert [one for one, other in zip(before, after, strict=True) if one != other] == []


@pytest.mark.long
def test_what_is_drawn_by_hand_is_hit_where_it_is_seen(demo, qtbot):
    set_text_size(demo, 130)
    demo.show_room(RoomName.BOX)
    settle(demo, 30)
    picture = demo.box.picture
    spot = next(spot for spot in picture.spots() if spot.place == 4)
    middle = picture.rect_of(spot).center() * text_scale()
    qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    assert picture.current.place == 4
    well = demo.rail.findChildren(Well)[0]
    assert well.height() == px(50)
    qtbot.mouseClick(well, Qt.MouseButton.LeftButton, pos=QPoint(10, well.height() - 4))
    assert demo.session.selection.in_hand == [well.name] or well.name in demo.session.selection.in_hand


@pytest.mark.long
def test_large_text_in_a_small_window_leaves_the_sheet_its_place(demo):
    demo.resize(1024, 700)
    settle(demo, 20)
    assert demo.rail.width() == RAIL_WIDTH
    set_text_size(demo, 130)
    settle(demo, 20)
    assert demo.rail.width() == px(NARROW_RAIL)
    for room in range(6):
        demo.show_room(room)
        settle(demo, 30)
        assert demo.size().toTuple() == (1024, 700)
    set_text_size(demo, USUAL)
    assert demo.rail.width() == RAIL_WIDTH


@pytest.mark.long
def test_what_is_painted_is_read_from_afar_and_gives_way_last(demo):
    demo.resize(1024, 700)
    demo.session.selection.select_sheet(2)
    demo.show_room(RoomName.PAINT)
    settle(demo, 40)
    usual = demo.paint.lines[0][1].font().pointSizeF()
    set_text_size(demo, 130)
    settle(demo, 40)
    assert not demo.paint.keys.isVisible()
    shown = [label for label in demo.paint.findChildren(QLabel) if label.isVisible() and label.wordWrap()]
    assert shown
    for label in shown:
        flags = Qt.TextFlag.TextWordWrap
        needed = label.fontMetrics().boundingRect(0, 0, label.width(), 10000, flags, label.text()).height()
        assert needed <= label.height() + 3, label.text()
    set_text_size(demo, USUAL)
    demo.resize(1280, 800)
    settle(demo, 40)
    assert demo.paint.keys.isVisible()
    assert demo.paint.lines[0][1].font().pointSizeF() >= usual


@pytest.mark.long
def test_a_chosen_page_goes_on_at_another_size(demo):
    demo.show_room(RoomName.WEIGH)
    for page in range(len(demo.weigh.shows.buttons)):
        demo.weigh.shows.choose(page)
        settle(demo, 20)
        set_text_size(demo, 130 if page % 2 else 90)
        settle(demo, 20)
        assert not demo.grab().isNull()


@pytest.mark.long
def test_the_size_of_the_system_is_followed(qapp, monkeypatch):
    for points, scale in ((9.0, 1.0), (11.0, 1.0), (12.0, 1.0), (18.0, 1.5), (6.0, 6.0 / 9.0)):
        font = QFont()
        font.setPointSizeF(points)
        monkeypatch.setattr(text_size.QFontDatabase, "systemFont", lambda _, font=font: font)
        assert text_size.system_size() == pytest.approx(scale)
        change_text(qapp, 110)
        assert text_scale() == pytest.approx(1.1 * scale)


def test_the_steps_end_where_they_end():
    assert [next_size(size, 1) for size in SIZES] == [*SIZES[1:], SIZES[-1]]
    assert [next_size(size, -1) for size in SIZES] == [SIZES[0], *SIZES[:-1]]
    assert next_size(103, 1) == 110


@pytest.mark.parametrize("kept", ["large", "", "-4", "100000"])
def test_a_size_that_makes_no_sense_is_none(tmp_path, kept):
    settings = Settings.at(tmp_path / "s.ini")
    settings.store.setValue("window/text", kept)
    assert settings.text_size in SIZES
