"""The Read room driven as a painter would: pictures, doubts, corners, instruments, folders."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLineEdit

from culmo.core.capture.camera import Exposure, photograph
from culmo.core.capture.sample import bare_paper
from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab
from culmo.desk.acts.sheet import keep_inside, watch_folder
from culmo.desk.app import settle
from culmo.study import acts, records
from culmo.study.cgats import write_cgats
from culmo.study.looks import uncertainty_of
from culmo.study.pictures import jpeg_bytes, open_photo
from support.builders import make_sheet

READ, DAYBOOK, SHEET, PICTURE = 3, 5, 0, 1
SHOT = Exposure(1000, tilt_deg=8, toward_deg=30, falloff=0.2, noise=0.004, bleed=0.0)


@pytest.fixture
def room(qtbot, with_study):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    settle(window, 30)
    window.show_room(READ)
    return window.read


def colours_of(window):
    prediction = window.state.prediction
    return {entry.cell.id: lab for entry, lab in zip(window.state.record.cells, prediction.lab, strict=True)}


def picture(window, path, colours=None, shot=SHOT):
    seen = photograph(
        window.state.record.sheet, colours or colours_of(window), shot, np.random.default_rng(3)
    )
    path.write_bytes(jpeg_bytes(seen.pixels))
    return seen


def wait_for_trial(qtbot, room):
    qtbot.waitUntil(lambda: room.trial is not None and not room.session.runner.busy("read"))


@pytest.mark.long
def test_where_it_is_not_sure_the_painter_answers(qtbot, room):
    qtbot.mouseClick(room.slip.practice_button, Qt.MouseButton.LeftButton)
    wait_for_trial(qtbot, room)
    assert not room.slip.right_button.isVisible() and not room.slip.turn_button.isVisible()

    def ask():
        trial = room.trial
        room.desk.trial = replace(trial, reading=replace(trial.reading, asked=True, wrong="is it so?"))
        room.refresh()
        assert room.slip.right_button.isVisible() and "in doubt" in room.slip.accept_button.text()

    ask()
    qtbot.mouseClick(room.slip.right_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: room.trial.reading.by == "hand")
    assert not room.slip.right_button.isVisible() and not room.trial.reading.wrong
    upright = room.trial.reading.placement.to_pixels(np.array([[20.0, 20.0]]))
    ask()
    qtbot.mouseClick(room.slip.turn_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: room.trial.reading.by == "corners")
    assert np.hypot(*(room.trial.reading.placement.to_pixels(np.array([[20.0, 20.0]])) - upright)[0]) > 100
    assert not room.trial.reading.asked


def test_what_is_foretold_is_drawn_as_the_wash_that_it_will_be(room):
    """The same picture as on the sheet and in Weigh, at the colour that is foretold; plain colour where that is wished."""
    window = room.window()
    window.state.select("r02c03")
    assert room.slip.within.isVisible()

    def drawn():
        image = room.slip.predicted_chip.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
        pixels = np.asarray(image.bits()).reshape(image.height(), image.bytesPerLine())[
            :, : 3 * image.width()
        ]
        return pixels.reshape(image.height(), image.width(), 3)[6:-6, 6:-6].astype(float)

    wash = drawn()
    assert wash.std(axis=(0, 1)).max() > 1.0
    window.session.learning.set_flat(True)
    settle(window, 30)
    flat = drawn()
    assert flat.std(axis=(0, 1)).max() < 0.5
    assert np.abs(wash.mean(axis=(0, 1)) - flat.mean(axis=(0, 1))).max() < 14.0


@pytest.mark.long
def test_a_practice_photo_is_taken_read_and_accepted(qtbot, room):
    window = room.window()
    qtbot.mouseClick(room.slip.practice_button, Qt.MouseButton.LeftButton)
    wait_for_trial(qtbot, room)
    assert room.stack.currentIndex() == PICTURE
    assert "25 cells read" in room.slip.trial_words.text()
    assert room.slip.accept_button.isVisible()
    assert not room.slip.entry.isVisible()
    window.state.select("r02c01")
    assert room.slip.away.isVisible()
    assert window.session.file.rows("readings", "cell_id NOT NULL") == []  # nothing is kept yet
    room.picture.setFocus()
    qtbot.keyClick(room.picture, Qt.Key.Key_Return)
    settle(window, 30)
    assert room.trial is None
    rows = window.session.file.rows("readings", "cell_id NOT NULL")
    assert len(rows) == 25
    assert {row["source"] for row in rows} == {"practice photo"}
    photos = window.session.file.rows("photos")
    assert len(photos) == 1
    assert (window.session.file.path.parent / photos[0]["path"]).is_file()
    window.session.undo.undo()
    assert window.session.file.rows("readings", "cell_id NOT NULL") == []
    assert window.session.file.rows("photos") == []


@pytest.mark.long
def test_doubtful_cells_are_looked_at_one_by_one(qtbot, room, tmp_path):
    window = room.window()
    colours = colours_of(window)
    colours = {
        key: lab for key, lab in colours.items() if key not in ("r02c02", "r04c04")
    }  # two were forgotten
    picture(window, tmp_path / "p.jpg", colours)
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    doubtful = room.trial.doubtful()
    assert {"r02c02", "r04c04"} <= set(doubtful)
    assert window.state.current == doubtful[0]
    window.state.select("r02c02")
    assert "unpainted" in room.slip.doubt.text()
    qtbot.keyClick(room.picture, Qt.Key.Key_X)
    assert "r02c02" in room.trial.left_out
    assert window.state.current in room.trial.doubtful()
    window.state.select("r04c04")
    qtbot.keyClick(room.picture, Qt.Key.Key_T)
    assert "r04c04" not in room.trial.doubtful()
    window.state.select("r04c04")
    qtbot.mouseClick(room.slip.out_button, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(room.slip.accept_button, Qt.MouseButton.LeftButton)
    cells = {row["cell_id"] for row in window.session.file.rows("readings", "cell_id NOT NULL")}
    left = {entry.id for entry in window.state.record.cells if entry.cell.id in ("r02c02", "r04c04")}
    assert len(cells) == 23
    assert not cells & left
    assert set(window.state.read) == {e.cell.id for e in window.state.record.cells} - {"r02c02", "r04c04"}


@pytest.mark.long
def test_only_those_without_doubt_and_putting_away(qtbot, room, tmp_path):
    window = room.window()
    colours = {key: lab for key, lab in colours_of(window).items() if key != "r02c02"}
    picture(window, tmp_path / "p.jpg", colours)
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    qtbot.keyClick(room.picture, Qt.Key.Key_Escape)
    assert room.trial is None
    assert not room.slip.trial_box.isVisible()
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    count = len(room.trial.lab()) - len(room.trial.doubtful())
    qtbot.mouseClick(room.slip.sound_button, Qt.MouseButton.LeftButton)
    assert len(window.session.file.rows("readings", "cell_id NOT NULL")) == count <= 24


@pytest.mark.long
def test_a_sheet_that_is_not_found_is_shown_by_its_corners(qtbot, room, tmp_path):
    window = room.window()
    seen = picture(window, tmp_path / "p.jpg")
    image = QImage(str(tmp_path / "p.jpg"))
    image.fill(Qt.GlobalColor.gray)
    image.save(str(tmp_path / "grey.png"))
    room.desk.open_picture(tmp_path / "grey.png")
    wait_for_trial(qtbot, room)
    assert "corners" in window.notice.words.text()
    assert room.trial.reading is None
    assert room.picture.corners is not None
    room.desk.discard()
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    before = room.trial.lab()["r01c01"]
    # drag a corner away and back again: the sheet is read anew each time
    grip = room.picture.to_widget(room.picture.corners)[0]
    target = room.picture.to_widget((seen.corners[:1] + 0.5) * room.trial.scale)[0]
    qtbot.mousePress(room.picture, Qt.MouseButton.LeftButton, pos=grip.toPoint())
    qtbot.mouseMove(room.picture, (target + QPointF(2, 2)).toPoint())
    assert room.picture.grab().size() == room.picture.size()  # with the magnifier
    qtbot.mouseRelease(room.picture, Qt.MouseButton.LeftButton, pos=target.toPoint())
    wait_for_trial(qtbot, room)
    assert room.trial.reading.by == "corners"
    assert np.abs(np.array(room.trial.lab()["r01c01"]) - before).max() < 1.5
    qtbot.keyClick(room.picture, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    wait_for_trial(qtbot, room)
    assert room.trial.reading.by == "hand"
    room.picture.select("r01c01")
    qtbot.keyClick(room.picture, Qt.Key.Key_Right)
    assert window.state.current == "r01c02"


@pytest.mark.long
def test_another_sheet_is_not_taken_for_this_one(qtbot, room, tmp_path):
    window = room.window()
    colours = colours_of(window)
    keys = list(colours)
    order = np.random.default_rng(3).permutation(len(keys))
    picture(window, tmp_path / "p.jpg", {key: colours[keys[i]] for key, i in zip(keys, order, strict=True)})
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert "another sheet" in window.notice.words.text()
    assert "Keep all the same" in room.slip.accept_button.text()
    room.desk.accept()
    assert {r["trust"] for r in window.session.file.rows("readings", "cell_id NOT NULL")} == {"doubtful"}
    assert not any(
        r.teaches for r in records.readings(window.session.file) if r.recipe.layers and r.extra > 15
    )


@pytest.mark.long
def test_pictures_come_by_paste_by_drop_and_from_a_watched_folder(qtbot, room, tmp_path, monkeypatch):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    QGuiApplication.clipboard().setImage(QImage(str(tmp_path / "p.jpg")))
    qtbot.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    wait_for_trial(qtbot, room)
    assert room.trial.name == "pasted picture.png"
    room.desk.discard()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "p.jpg"))])
    QGuiApplication.clipboard().setMimeData(data)
    room.paste()
    wait_for_trial(qtbot, room)
    assert room.trial.name == "p.jpg"
    QGuiApplication.clipboard().clear()  # what a test leaves there outlives the application and brings it down
    room.desk.discard()
    folder = tmp_path / "camera"
    folder.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(folder))
    watch_folder(window)
    (folder / "notes.txt").write_text("no picture")
    (folder / "new.jpg").write_bytes((tmp_path / "p.jpg").read_bytes())
    wait_for_trial(qtbot, room)
    assert room.trial.name == "new.jpg"
    watch_folder(window)
    assert window.settings.watched == ""
    assert room.arrivals.folders == []


def test_the_colorimeter_a_loose_swatch_and_an_instruments_file(qtbot, room, tmp_path):
    window = room.window()
    window.state.select("r02c01")
    qtbot.mouseClick(room.slip.measure_button, Qt.MouseButton.LeftButton)
    assert room.slip.entry.text()
    qtbot.keyClick(room.slip.entry, Qt.Key.Key_Return)
    assert window.session.file.rows("readings", "source = 'colorimeter'")
    sheet = window.state.record.sheet
    lab = np.array([[50.0, 1.0, 2.0]] * 3)
    (tmp_path / "m.txt").write_text(write_cgats(["r01c01", "Rose + Lemon", "nonsense ("], lab, "x"))
    room.import_readings(tmp_path / "m.txt")
    assert "2 readings taken in" in room.slip.outcome.text()
    assert "neither a cell" in room.slip.outcome.text()
    all_of_it = write_cgats(
        [f"A{i}" for i in range(25)], np.array([[40.0 + i, 0, 0] for i in range(25)]), "x"
    )
    (tmp_path / "n.txt").write_text(all_of_it)
    room.import_readings(tmp_path / "n.txt")
    assert "25 readings" in room.slip.outcome.text()
    assert window.state.read[sheet.cells[3].id][0] == pytest.approx(43.0, abs=0.01)
    room.shows.choose(PICTURE)
    room._show_page(PICTURE)
    assert room.slip.swatch_box.isVisible()
    room.slip.swatch_recipe.setText("Rose:2 + Lemon")
    qtbot.keyClick(room.slip.swatch_recipe, Qt.Key.Key_Return)
    assert not window.session.file.rows(
        "readings", "sheet_id IS NULL AND source = 'photo'"
    )  # nothing was clicked
    bare = bare_paper(records.bare_readings(window.session.file))
    room.by_hand.take(bare)
    room.by_hand.take(np.array([44.0, 10.0, 5.0]))
    qtbot.keyClick(room.slip.swatch_recipe, Qt.Key.Key_Return)
    row = window.session.file.rows("readings", "sheet_id IS NULL")[-1]
    assert row["L"] == pytest.approx(44.0) and row["source"] == "photo" and uncertainty_of(row) > 1.0


def test_a_loose_swatch_is_seen_beside_bare_paper(qtbot, room):
    """A clear blue under a warm lamp is a grey in the picture; beside the paper in that light it is blue again."""
    window = room.window()
    room.shows.choose(PICTURE)
    room._show_page(PICTURE)
    study, hand = window.session.file, room.by_hand
    bare = bare_paper(records.bare_readings(study))
    blue = np.array([45.0, -2.0, -35.0])
    lamp = np.array([0.62, 0.5, 0.22])  # dim and warm, as gains of X, Y and Z
    seen = [lab_from_xyz(xyz_from_lab(lab) * lamp) for lab in (bare, blue)]
    assert seen[1][2] > -3.0
    hand.take(seen[1] * [0.4, 1.0, 1.0])  # a dark place is no bare paper
    assert not room.slip.paper_row.isVisible()
    hand.take(seen[0])
    assert room.slip.paper_row.isVisible() and room.slip.picked is None
    hand.take(seen[1])
    assert np.allclose(room.slip.picked, blue, atol=0.1)
    # another place, in another light
    room.slip.paper_button.click()
    hand.take(bare)
    hand.take(blue)
    assert np.allclose(room.slip.picked, blue, atol=0.1) and not room.slip.paper_button.isChecked()
    # in another picture the paper is to be clicked again
    hand.another_picture()
    assert room.slip.picked is None and not room.slip.paper_row.isVisible()


def test_a_colour_picked_in_a_picture_does_not_count_as_measured(qtbot, room):
    window = room.window()
    window.state.select("r02c01")
    bare = bare_paper(records.bare_readings(window.session.file))
    room.by_hand.take(bare)
    room.by_hand.take(np.array([44.0, 10.0, 5.0]))
    room.by_hand.keep()
    row = window.session.file.rows("readings", "cell_id IS NOT NULL")[-1]
    assert row["source"] == "photo"
    window.state.select("r02c01")
    room.slip.entry.setText("45.0, 10.0, 5.0")
    room.by_hand.keep()
    row = window.session.file.row("readings", row["id"])
    assert (row["source"], row["L"]) == ("typed", 45.0)


def test_reading_can_be_stopped(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    window.session.stop_work()
    assert not window.session.runner.busy("read")
    qtbot.wait(300)
    assert room.trial is None


@pytest.mark.long
def test_pictures_may_be_kept_inside(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    keep_inside(window)
    assert window.settings.pictures_inside
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    room.desk.accept()
    photo = window.session.file.rows("photos")[0]
    assert bytes(photo["data"]) == (tmp_path / "p.jpg").read_bytes()
    assert photo["path"] == ""
    assert room.stack.currentIndex() == SHEET


@pytest.mark.long
def test_a_reference_card_keeps_the_place_and_a_wrong_one_loses_nothing(qtbot, room, tmp_path):
    window = room.window()
    seen = picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    room.picture.corners_moved.emit((seen.corners + 0.5) * room.trial.scale)
    wait_for_trial(qtbot, room)
    before = room.trial.reading
    (tmp_path / "card.csv").write_text("name,L,a,b\na,90,60,0\nb,50,-60,50\nc,20,0,-60\n")
    room.desk.use_card(tmp_path / "card.csv", 1)
    assert room.picture.outlines == {}  # the card's corners are dragged now
    room.picture.corners_moved.emit(room.picture.corners)
    wait_for_trial(qtbot, room)
    assert "card" in window.notice.words.text()
    assert room.trial.reading is before
    assert room.picture.outlines
    patch = np.asarray(
        room.trial.photo.lab(room.trial.photo.linear(room.trial.photo.pixels[8:16, 8:16]))
    ).mean((0, 1))
    rows = "".join(f"{i},{patch[0] + 20 * i:.1f},0,0\n" for i in range(3))
    (tmp_path / "card.csv").write_text("name,L,a,b\n" + rows)
    room.desk.use_card(tmp_path / "card.csv", 2)
    assert "rows" in window.notice.words.text()


@pytest.mark.long
def test_a_picture_is_for_the_sheet_that_it_was_opened_for(qtbot, room, tmp_path):
    window = room.window()
    window.session.do(acts.add_sheet(window.session.file, make_sheet(("Lemon", "Rose", "Ochre"))))
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    window.session.selection.select_sheet(2)  # while it is being read
    qtbot.wait(1500)
    assert room.trial is None
    window.session.selection.select_sheet(1)
    settle(window, 30)
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    window.session.do(
        acts.change_sheet(window.session.file, 1, make_sheet(paper="A3"))
    )  # another layout of it
    assert room.trial is None


@pytest.mark.long
def test_a_picture_that_is_read_takes_neither_keys_nor_selection_elsewhere(qtbot, room, tmp_path):
    """A note is typed in another room while the picture is read: every letter goes into the note, Enter adds it."""
    window = room.window()
    window.show_room(DAYBOOK)
    window.state.select("r02c02")
    note = window.daybook.foot.note
    note.setFocus()
    QTest.keyClicks(note, "before ")
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert window.focusWidget() is note and window.state.current == "r02c02"
    assert window.rooms.currentIndex() == DAYBOOK
    QTest.keyClicks(window.focusWidget(), "TXN after")
    assert note.text() == "before TXN after"
    assert not room.trial.left_out and not room.trial.taken
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Return)
    assert [row["text"] for row in window.session.file.rows("notes")] == ["before TXN after"]
    assert not [row for row in window.session.file.rows("readings") if row["photo_id"]]
    # it announces itself, and is there when the room is entered
    assert window.tabs.buttons[READ].text().endswith("•")
    window.show_room(READ)
    assert not window.tabs.buttons[READ].text().endswith("•")
    assert room.stack.currentIndex() == PICTURE and window.focusWidget() is room.picture


@pytest.mark.long
@pytest.mark.parametrize("place", range(6))
def test_whatever_ends_in_the_background_leaves_the_keys_where_they_are(qtbot, room, tmp_path, place):
    window = room.window()
    window.show_room(place)
    settle(window, 30)
    fields = [
        w for w in window.findChildren(QLineEdit) if w.isVisible() and w.isEnabled() and not w.isReadOnly()
    ]
    field = fields[0] if fields else None
    if field is not None:
        field.setFocus()
    before = window.focusWidget()
    picture(window, tmp_path / "p.jpg")
    room.watch(str(tmp_path))
    room.arrivals._seen.clear()
    room.arrivals.look()
    room.arrivals.look()
    window.session.learning.learn()
    wait_for_trial(qtbot, room)
    settle(window, 30)
    if place != READ or field is not None:
        assert window.focusWidget() is before


def test_a_colour_that_is_typed_stays_with_its_cell_and_comes_back_on_another_day(room, tmp_path):
    window = room.window()
    window.state.select("r02c02")
    QTest.keyClicks(room.slip.entry, "40, 10")
    window.state.select("r02c03")
    assert room.slip.entry.text() == ""
    assert "Not saved yet" in window.status.saved_text.text()
    window.state.select("r02c02")
    assert room.slip.entry.text() == "40, 10"
    path = window.session.file.path
    window.session.close(keep_typed=True)
    assert window.open_path(path)
    settle(window, 30)
    assert "typed and not saved" in window.notice.words.text()
    window.show_room(READ)
    window.state.select("r02c02")
    assert room.slip.entry.text() == "40, 10"
    QTest.keyClicks(room.slip.entry, ", -5")
    QTest.keyClick(room.slip.entry, Qt.Key.Key_Return)
    assert [
        (row["L"], row["a"], row["b"]) for row in window.session.file.rows("readings", "cell_id NOT NULL")
    ] == [(40.0, 10.0, -5.0)]
    assert window.session.unsaved.names == []


@pytest.mark.long
def test_left_out_cells_stay_so_when_the_sheet_is_nudged(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    window.state.select("r03c03")
    room.desk.leave_out()
    old = room.trial
    room.desk.nudge(0.25, 0.0)
    qtbot.waitUntil(lambda: room.trial is not old)
    assert room.trial.left_out == {"r03c03"}


@pytest.mark.long
def test_a_picture_that_arrives_waits_until_the_table_is_free_and_it_is_whole(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    data = (tmp_path / "p.jpg").read_bytes()
    folder = tmp_path / "camera"
    folder.mkdir()
    room.watch(str(folder))
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    with (folder / "slow.jpg").open("wb") as file:
        for part in range(4):
            file.write(data[part * len(data) // 4 : (part + 1) * len(data) // 4])
            file.flush()
            qtbot.wait(250)
    assert room.trial.name == "p.jpg"
    room.desk.discard()
    wait_for_trial(qtbot, room)
    assert room.trial.name == "slow.jpg"
    assert room.trial.reading is not None
    room.watch("")


@pytest.mark.long
def test_an_error_goes_when_the_next_import_is_fine(demo, tmp_path):
    demo.show_room(READ)
    (tmp_path / "bad.csv").write_text("Rose,50,1,2\n60,1,2\n")
    demo.read.import_readings(tmp_path / "bad.csv")
    assert demo.notice.isVisible()
    assert "names no columns" in demo.notice.words.text()
    (tmp_path / "good.csv").write_text("recipe,L,a,b\nRose,50,40,2\n")
    demo.read.import_readings(tmp_path / "good.csv")
    assert not demo.notice.isVisible()
    assert "1 reading" in demo.read.slip.outcome.text()
    demo.read.import_readings(tmp_path / "bad.csv")
    assert demo.read.slip.outcome.text() == ""


@pytest.mark.long
def test_what_is_wrong_with_a_picture_is_said_before_it_is_read(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    pixels = open_photo(tmp_path / "p.jpg").pixels
    (tmp_path / "dark.jpg").write_bytes(jpeg_bytes((pixels * 0.3).astype(np.uint8)))
    said = []
    window.session.told.connect(said.append)
    room.desk.open_picture(tmp_path / "dark.jpg")
    wait_for_trial(qtbot, room)
    dark = [place for place, words in enumerate(said) if "dark" in words]
    assert dark and dark[0] < len(said) - 1  # while it was being read
    assert room.trial.faults == ("dark",)
    assert room.trial.summary().startswith("The picture is dark: more light")
    assert room.slip.outcome.text() or room.slip.trial_box.isVisible()


def test_a_picture_that_is_damaged_is_told_once(qtbot, room, tmp_path):
    (tmp_path / "b.jpg").write_bytes(b"\xff\xd8\xff\xe0 nothing more")
    failed = []
    room.window().session.failed.connect(failed.append)
    room.desk.open_picture(tmp_path / "b.jpg")
    qtbot.waitUntil(lambda: not room.window().session.runner.busy())
    assert len(failed) == 1


@pytest.mark.long
def test_a_card_on_the_sheets_own_place_needs_no_dragging_and_is_looked_for_the_next_time(
    qtbot, room, tmp_path
):
    window = room.window()
    record = room.state.record
    sheet = replace(record.sheet, card_mm=(1.0, 1.0, 30.0, 10.0))
    window.session.do(acts.change_sheet(window.session.file, record.id, sheet))
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert room.trial.card is None
    assert room.trial.has_card_place
    (tmp_path / "card.csv").write_text("name,L,a,b\na,90,60,0\nb,50,-60,50\nc,20,0,-60\n")
    room.desk.use_card(tmp_path / "card.csv", 1)
    wait_for_trial(qtbot, room)
    assert "card" in window.notice.words.text(), "it was asked for, and is not the one in the file"
    room.desk.discard()
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert room.trial.card is not None
    assert "does not lie on its place" in room.trial.summary()
    (tmp_path / "card.csv").unlink()
    room.desk.discard()
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert room.trial.card is None


@pytest.mark.long
def test_the_painter_says_by_which_light_and_the_next_picture_knows_it(qtbot, room, tmp_path):
    window = room.window()
    picture(window, tmp_path / "p.jpg")
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert room.slip.light.isVisible()
    assert (room.trial.light, room.slip.light.currentData()) == ("", "")
    before = {entry.cell: entry.uncertainty for entry in room.trial.reading.readings}
    found = room.trial.reading.by
    room.slip.light.setCurrentIndex(room.slip.light.findData("tube"))
    room.slip.light.activated.emit(room.slip.light.currentIndex())
    wait_for_trial(qtbot, room)
    assert room.trial.light == "tube"
    assert room.trial.reading.by == found
    after = {entry.cell: entry.uncertainty for entry in room.trial.reading.readings}
    assert np.mean([after[cell] > before[cell] for cell in before]) > 0.9
    room.desk.discard()
    room.desk.open_picture(tmp_path / "p.jpg")
    wait_for_trial(qtbot, room)
    assert (room.trial.light, room.slip.light.currentData()) == ("tube", "tube")
    assert room.desk.accept()
    assert '"light": "tube"' in window.session.file.rows("readings", "seen <> ''")[0]["seen"]
