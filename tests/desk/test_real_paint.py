"""What was recorded is drawn as the real paint, wherever it is drawn; flat colour by the switch."""

import shutil
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest

from culmo.core.capture.patch_picture import compressed, encoded
from culmo.core.capture.patches import MARGIN_MM
from culmo.core.capture.sheet_reading import CellPatch, CellReading
from culmo.core.paint.character import Shot, seen_lab
from culmo.core.paint.recipe import format_recipe
from culmo.desk.acts.view import set_flat
from culmo.desk.app import settle
from culmo.desk.drawing.book import _Book, _patch
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.daybook.lines import draw_patch
from culmo.desk.rooms.weigh.side_model import SideOrder
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.study import acts
from culmo.study.diary import DiaryPatch
from culmo.study.draft import Draft
from culmo.study.patches import draft_patch
from culmo.study.photo_acts import Picture, read_picture
from support.builders import make_sheet
from support.patched import TEXTURE, read_all

SHOT = Shot("this picture", (96.0, 0.0, 2.0))
SEEN, DARK, PALE = (0.4, 0.3, 0.2), (0.25, 0.18, 0.1), (0.6, 0.5, 0.4)
PER_MM = 8.0


def light_of(place):
    """Of each cell another colour."""
    red, green, blue = SEEN
    return red * (0.8 + 0.03 * place), green * (1.2 - 0.04 * (place % 5)), blue * (0.7 + 0.15 * (place % 4))


def patch_of(cell):
    """Paint that is darker in the left half of its cell and paler in the right one, with paper about it."""
    width, height = (round((side + 2 * MARGIN_MM) * PER_MM) for side in cell.box_mm[2:])
    light = np.ones((height, width, 3))
    edge = round(MARGIN_MM * PER_MM)
    light[edge:-edge, edge : width // 2] = DARK
    light[edge:-edge, width // 2 : -edge] = PALE
    return CellPatch(compressed(encoded(light), 60_000)[0], -MARGIN_MM, -MARGIN_MM, PER_MM)


@pytest.fixture
def last_room():
    return RoomName.READ


@pytest.fixture
def read(with_study):
    """A sheet that was read from a picture, in the window."""
    window = with_study
    session = window.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.selection.select_sheet(1)
    settle(window, 30)
    cells = [entry.cell for entry in window.state.record.cells]
    entries = [
        CellReading(
            cell.id, cell.recipe, cell.ground, seen_lab(np.array([light_of(place)]), np.array(SHOT.paper))[0], "good", (),
            0.5, 2.0, 1.0, seen=light_of(place),
        )
        for place, cell in enumerate(cells)
    ]  # fmt: skip
    patches = {cell.id: patch_of(cell) for cell in cells[1:]}  # of the first the picture is gone
    session.do(
        read_picture(session.file, 1, entries, Picture("a.jpg", b"a"), shot=SHOT, patches=patches, wet=())
    )
    settle(window, 30)
    return window


@pytest.fixture
def on_the_table(qtbot, with_study):
    """A practice photo of a sheet, read and not yet kept."""
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    settle(window, 30)
    window.show_room(RoomName.READ)
    room = window.read
    qtbot.mouseClick(room.slip.practice_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: room.trial is not None and not window.session.runner.busy("read"))
    return window


def lightness(image, x, y, reach=2):
    """The mean level of an image about a place."""
    part = image.convertToFormat(QImage.Format.Format_RGBA8888)
    rows = np.frombuffer(part.constBits(), np.uint8).reshape(part.height(), part.bytesPerLine())
    rows = rows[:, : part.width() * 4].reshape(part.height(), part.width(), 4)[..., :3]
    return float(rows[y - reach : y + reach + 1, x - reach : x + reach + 1].mean())


def drawn(window, per_mm=4.0, show="recorded"):
    """The sheet as it is drawn everywhere."""
    sheet = window.state.record.sheet
    image = QImage(
        round(sheet.paper.width_mm * per_mm), round(sheet.paper.height_mm * per_mm), QImage.Format.Format_RGB32
    )  # fmt: skip
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.scale(per_mm, per_mm)
    style = SheetStyle(show=show, looks=window.state.looks, pixels_per_mm=per_mm)
    draw_sheet(painter, sheet, window.session.learning.looks, style)
    painter.end()
    return image


def sides(window, image, cell, per_mm=4.0):
    """The levels at a fifth and at four fifths of a cell."""
    x, y, width, height = cell.box_mm
    return [
        lightness(image, round((x + share * width) * per_mm), round((y + height / 2) * per_mm))
        for share in (0.2, 0.8)
    ]


@pytest.mark.long
def test_a_sheet_shows_the_real_paint_in_its_place(read):
    cells = [entry.cell for entry in read.state.record.cells]
    for per_mm in (1.5, 4.0, 9.0):
        image = drawn(read, per_mm)
        for cell in cells[1:]:
            dark, pale = sides(read, image, cell, per_mm)
            assert pale > dark + 25
        plain = sides(read, image, cells[0], per_mm)
        assert abs(plain[0] - plain[1]) < 1, "where no picture is left, its colour"


def test_beside_what_is_foretold_its_right_half_is_seen_at_the_same_scale(read):
    cell = read.state.record.cells[6].cell
    x, y, width, height = cell.box_mm
    image = drawn(read, show="both")
    pale = lightness(image, round((x + 0.7 * width) * 4), round((y + height / 2) * 4))
    assert pale == pytest.approx(sides(read, drawn(read), cell)[1], abs=3)


def test_the_switch_shows_flat_colour(read):
    set_flat(read)
    settle(read, 20)
    image = drawn(read)
    for entry in read.state.record.cells:
        dark, pale = sides(read, image, entry.cell)
        assert abs(pale - dark) < 1
    set_flat(read)
    settle(read, 20)
    dark, pale = sides(read, drawn(read), read.state.record.cells[5].cell)
    assert pale > dark + 25


def test_a_damaged_patch_is_drawn_as_its_colour(read):
    from culmo.study.file import Change, Command

    study = read.session.file
    row = study.rows("patches")[0]
    read.session.do(
        Command("damage", (Change("patches", row["id"], row, {**row, "data": b"no picture at all"}),))
    )
    settle(read, 20)
    damaged = read.state.record.cells[1].cell
    dark, pale = sides(read, drawn(read), damaged)
    assert abs(pale - dark) < 1


def chip_sides(chip):
    image = chip.grab().toImage()
    return [
        lightness(image, round(share * image.width()), image.height() // 2) for share in (0.2, 0.8)
    ]  # fmt: skip


def test_the_chips_of_weigh_and_read_show_it(read):
    cells = [entry.cell for entry in read.state.record.cells]
    read.show_room(RoomName.WEIGH)
    settle(read, 20)
    page = read.weigh.page(0)
    read.state.select(cells[3].id)
    settle(read, 10)
    dark, pale = chip_sides(page.read_chip)
    assert pale > dark + 25
    index = page.model.index([row.cell_id for row in page.rows].index(cells[3].id), 0)
    page.table.scrollTo(index)
    box = page.table.visualRect(index)
    image = page.table.viewport().grab(box).toImage()
    dark, pale = (
        lightness(image, round(share * image.width()), image.height() // 2) for share in (0.58, 0.85)
    )
    assert pale > dark + 25
    read.state.select(cells[0].id)
    settle(read, 10)
    plain = chip_sides(page.read_chip)
    assert abs(plain[0] - plain[1]) < 1
    read.show_room(RoomName.READ)
    read.state.select(cells[3].id)
    settle(read, 10)
    dark, pale = chip_sides(read.read.slip.read_chip)
    assert pale > dark + 25
    read.read.slip.entry.setText("20, 0, 0")
    plain = chip_sides(read.read.slip.read_chip)
    assert abs(plain[0] - plain[1]) < 1, "what is typed is a colour, and not the paint"


def test_side_by_side_it_is_seen_in_sheets_and_chips(read):
    read.show_room(RoomName.WEIGH)
    read.weigh.shows.choose(WeighPageName.SIDE)
    settle(read, 30)
    page = read.weigh.page(WeighPageName.SIDE)
    page.choose(["A grid"])
    settle(read, 20)
    for mode in range(page.mode.count()):
        page.mode.setCurrentIndex(mode)
        settle(read, 10)
        image = page.board.grab().toImage()
        ratio = image.width() / page.board.width()
        named = [one for one in page.board.drawn if one.spot.recorded and one.spot.patch is not None]
        if mode == SideOrder.LIE:
            assert len(named) == 24
        for one in named[:3]:
            dark, pale = (
                lightness(
                    image, round((one.box.left() + share * one.box.width()) * ratio),
                    round(one.box.center().y() * ratio), 1,
                )
                for share in ((0.6, 0.9) if mode == SideOrder.LIE else (0.2, 0.8))
            )  # fmt: skip
            if mode != SideOrder.LIE:
                assert pale > dark + 15


@pytest.mark.long
def test_read_from_a_picture_in_the_room_it_goes_into_the_record_and_back(qtbot, on_the_table):
    window, room = on_the_table, on_the_table.read
    room.picture.setFocus()
    qtbot.keyClick(room.picture, Qt.Key.Key_Return)
    settle(window, 30)
    study = window.session.file
    kept = {row["data"] for row in study.rows("patches")}
    assert len(kept) == 25
    assert all(look.patch is not None for look in window.state.looks.values())
    window.session.undo.undo()
    settle(window, 10)
    assert study.count("patches") == 0
    assert all(look.patch is None for look in window.state.looks.values())
    window.session.undo.redo()
    settle(window, 10)
    assert {row["data"] for row in study.rows("patches")} == kept
    window.show_room(RoomName.PLAN)
    settle(window, 10)


def test_a_study_of_earlier_days_gets_it_by_itself_and_no_act_is_added(window, tmp_path):
    old = Path(__file__).parents[1] / "study" / "old" / "v11.culmo"
    assert window.open_path(shutil.copy(old, tmp_path / "old.culmo"))
    settle(window, 60)
    study = window.session.file
    assert study.count("patches") == 9
    assert not window.session.undo.canUndo()
    window.session.selection.select_sheet(1)
    settle(window, 20)
    assert all(look.patch is not None for look in window.state.looks.values())


def test_the_map_shows_it_in_its_slip_its_tip_and_among_what_looks_like_it(read):
    read.show_room(RoomName.WEIGH)
    read.weigh.shows.choose(1)
    settle(read, 40)
    page = read.weigh.page(1)
    cell = read.state.record.cells[3].cell
    place = next(
        int(i) for i in np.flatnonzero(page.points.recorded) if page.points.recipe_of(int(i)) == cell.recipe
    )
    page.map.selected.emit(place)
    settle(read, 10)
    dark, pale = chip_sides(page.chip)
    assert pale > dark + 25
    rows = [page.near.itemAt(i).widget() for i in range(page.near.count())]
    painted = [row for row in rows if row.recorded and row.real is not None]
    assert painted
    image = painted[0].grab().toImage()
    assert lightness(image, 24, image.height() // 2, 1) > lightness(image, 8, image.height() // 2, 1) + 20
    at = page.map.thing_rect(place).center()
    QTest.mouseMove(page.map, at.toPoint())
    assert page.map.toolTip().startswith('<p><img src="data:image/png;base64,')
    set_flat(read)
    settle(read, 20)
    QTest.mouseMove(page.map, at.toPoint() + QPoint(40, 40))
    QTest.mouseMove(page.map, at.toPoint())
    assert "<img" not in page.map.toolTip()


def test_the_daybook_and_the_book_show_it(read):
    cell = read.state.record.cells[3].cell
    lab = read.state.read[cell.id]
    one = DiaryPatch(format_recipe(cell.recipe), lab, "paper")
    book = _Book(read.session.file, None, read.session.learning.looks, None, None)
    for draw in (
        lambda painter, box: draw_patch(painter, read.session, one, box, 1.0),
        lambda painter, box: _patch(book, one, painter, box),
    ):
        image = QImage(100, 60, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        draw(painter, QRectF(0, 0, 100, 60))
        painter.end()
        assert lightness(image, 80, 30) > lightness(image, 20, 30) + 25


def test_of_two_paintings_of_one_mix_that_of_the_colour_is_shown(read):
    study = read.session.file
    cell = read.state.record.cells[3].cell
    row = study.rows("readings", "cell_id = ?", (read.state.record.cells[3].id,))[0]
    again = {**row, "id": study.next_id("readings"), "cell_id": None, "L": 80.0}
    light = CellPatch(compressed(encoded(np.full((60, 60, 3), 0.7)), 60_000)[0], -1.2, -1.2, 4.0)
    draft = Draft(study, "another")
    draft.add("readings", **{key: value for key, value in again.items() if key != "id"})
    draft_patch(draft, again["id"], cell, light, row["seen"], "photo", "2026-06-01T12:00:00+02:00")
    read.session.do(draft.command())
    text = format_recipe(cell.recipe)
    first = read.session.real_paint.of(text, read.state.read[cell.id])
    assert read.session.real_paint.of(text, (80.0, row["a"], row["b"])).data == light.data != first.data
    assert read.session.real_paint.of("Nothing", (50.0, 0.0, 0.0)) is None


@pytest.mark.long
def test_the_slip_tells_grain_and_parting_of_what_is_on_the_table_and_in_the_record(qtbot, on_the_table):
    window, room = on_the_table, on_the_table.read
    window.state.select("r02c01")
    texture = room.trial.reading.patches["r02c01"].texture
    assert room.slip.grain.isVisible() and room.slip.grain.value.text().startswith(f"{texture.contrast:.1f}")
    assert room.slip.apart.value.text() == f"{texture.parting:.1f}"
    assert room.slip.read_chip._make is not None, "the real paint, before it is kept"
    room.picture.setFocus()
    qtbot.keyClick(room.picture, Qt.Key.Key_Return)
    settle(window, 30)
    window.state.select("r02c02")
    window.state.select("r02c01")
    assert room.slip.grain.isVisible() and room.slip.grain.value.text().startswith(f"{texture.contrast:.1f}")
    room.slip.entry.setText("20, 0, 0")
    assert not room.slip.grain.isVisible(), "what is typed has none"


def test_a_paint_is_drawn_as_grainy_as_its_patches_showed_it(with_study):
    window = with_study
    session = window.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    settle(window, 20)
    learning = session.learning
    said = learning.known_paints.grains("Lemon")
    assert learning.grains is None
    read_all(session.file)
    session.undo.clear()
    learning.forget()
    learning.learn()
    settle(window, 40)
    assert learning.grains is not None
    assert learning.known_paints.said("Lemon") == said
    assert learning.known_paints.grains("Lemon") != said
    assert learning.looks.grain("lemon") == learning.known_paints.grains("Lemon")


def test_weigh_tells_grain_and_parting_as_seen_and_as_foretold(with_study):
    window = with_study
    session = window.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.selection.select_sheet(1)
    read_all(session.file, most=10)
    session.undo.clear()
    session.learning.forget()
    session.learning.learn()
    window.state.refresh()
    settle(window, 40)
    window.show_room(RoomName.WEIGH)
    settle(window, 20)
    page = window.weigh.page(0)
    cells = [entry.cell for entry in window.state.record.cells]
    window.state.select(cells[3].id)
    settle(window, 10)
    grain, apart = (page.facts[word] for word in ("Granulation", "Separation"))
    told = session.learning.texture_of(cells[3].recipe)
    assert grain.value.text() == f"{TEXTURE.contrast:.1f} seen, {told.contrast[0]:.1f} foretold"
    assert apart.value.text() == f"{TEXTURE.parting:.1f} seen, {told.parting[0]:.1f} foretold"
    window.state.select(cells[20].id)
    settle(window, 10)
    assert grain.isVisible() and grain.value.text().endswith("foretold") and "seen" not in grain.value.text()
    session.learning.grains = None
    page.refresh()
    assert not grain.isVisible()
