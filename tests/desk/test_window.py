"""The frame: actions, messages, files that can not be, and the look's one rule."""

import csv
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QMenu, QPushButton, QTextBrowser

from culmo.core.capture.sample import PAPER_LAB
from culmo.core.colour.srgb import srgb_from_lab
from culmo.desk.actions import Menu
from culmo.desk.acts import ACTIONS
from culmo.desk.app import settle
from culmo.desk.drawing.export import PrintOptions
from culmo.desk.help import keys_text
from culmo.desk.jobs import Runner
from culmo.desk.room_names import RoomName
from culmo.desk.welcome import FirstPicture
from culmo.study import acts, note_acts
from support.begun import new_grid
from support.builders import make_sheet, make_study


def test_the_table_of_actions():
    ids = Counter(action.id for action in ACTIONS)
    keys = Counter(action.shortcut for action in ACTIONS if action.shortcut)
    assert max(ids.values()) == 1
    assert max(keys.values()) == 1
    for action in ACTIONS:
        assert isinstance(action.menu, Menu)
        assert action.title
        assert action.help, action.id
        assert action.title in keys_text(ACTIONS)


def test_each_room_has_a_page_of_help_that_opens_with_f1(with_study):
    from culmo.desk.actions import ROOM_IDS, ROOMS
    from culmo.desk.help import room_text

    for place, room in enumerate(ROOM_IDS):
        assert room_text(room).startswith("# The ")
        assert len(room_text(room)) > 200
        with_study.show_room(place)
        with_study.actions_by_id["help"].trigger()
        (dialog,) = [d for d in with_study.findChildren(QDialog) if d.isVisible()]
        assert dialog.windowTitle() == f"Help: {ROOMS[place]}"
        assert len(dialog.findChild(QTextBrowser).toPlainText()) > 150
        dialog.close()


def test_every_action_can_be_run_or_is_off_without_a_study(window, monkeypatch):
    monkeypatch.setattr("PySide6.QtWidgets.QFileDialog.getOpenFileName", lambda *a, **k: ("", ""))
    monkeypatch.setattr("PySide6.QtWidgets.QFileDialog.getSaveFileName", lambda *a, **k: ("", ""))
    for action in ACTIONS:
        if action.id not in ("quit", "sample", "full screen"):
            window.actions_by_id[action.id].trigger()
    assert window.session.study is None
    assert window.rooms.currentIndex() == 6


def test_a_foreign_file_is_refused_and_the_open_study_stays(with_study, tmp_path):
    window = with_study
    (tmp_path / "x.culmo").write_text("nonsense")
    assert not window.open_path(tmp_path / "x.culmo")
    assert window.notice.isVisible()
    assert "x.culmo" in window.notice.words.text()
    assert len(window.session.paints) == 5


def test_an_act_that_can_not_be_saved_is_told_and_not_undoable(with_study):
    window = with_study
    study = window.session.file
    before, count = study.dump(), window.session.undo.count()
    pages = study.disk.db.execute("PRAGMA page_count").fetchone()[0]
    study.disk.db.execute(f"PRAGMA max_page_count={pages}")
    assert not window.session.do(note_acts.add_note(study, "lost? " * 3000))
    study.disk.db.execute(f"PRAGMA max_page_count={10 * pages}")
    assert "could not be saved" in window.notice.words.text()
    assert study.dump() == before
    assert window.session.undo.count() == count


@pytest.mark.long
def test_writing_to_a_folder_that_is_gone(with_study, tmp_path):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    for ending in ("pdf", "svg", "png", "csv", "json"):
        window.notice.hide()
        assert not window.out.write_sheet(tmp_path / "gone" / f"x.{ending}", PrintOptions())
        assert window.notice.isVisible(), ending
        assert window.out.write_sheet(tmp_path / f"x.{ending}", PrintOptions(colour=True))
        assert (tmp_path / f"x.{ending}").stat().st_size > 200


def test_readings_from_a_file_go_to_their_cells(with_study, tmp_path):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    path = tmp_path / "r.csv"
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["recipe", "L", "a", "b", "cell"])
        writer.writerow(["Lemon", 80, 0, 80, "r01c01"])
        writer.writerow(["Lemon", "x", 0, 80, "r01c02"])
        writer.writerow(["Nobody", 80, 0, 80, "r01c02"])
        writer.writerow(["Rose + Lemon", 50, 40, 30, ""])
    window.read.import_readings(path)
    settle(window, 20)
    assert set(window.state.read) == {"r01c01"}
    assert "2 readings taken in" in window.read.slip.outcome.text()
    assert "line 3" in window.read.slip.outcome.text()
    assert "Nobody" in window.read.slip.outcome.text()


@pytest.mark.long
def test_the_eyedropper_takes_a_colour_from_a_picture(qtbot, with_study, tmp_path):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(QColor(200, 40, 60))
    for x in range(60):
        for y in range(300):
            image.setPixelColor(x, y, QColor.fromRgbF(*srgb_from_lab(PAPER_LAB).tolist()))
    image.save(str(tmp_path / "p.png"))
    window.show_room(RoomName.READ)
    window.state.select("r01c01")
    window.read.desk.open_picture(tmp_path / "p.png")
    qtbot.waitUntil(lambda: window.read.trial is not None)
    assert "not found" in window.notice.words.text()
    view = window.read.picture
    paper = view.rect().center() - QPoint(round(0.45 * 400 * min(view.width() / 400, view.height() / 300)), 0)
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=paper)  # the light is taken out by it
    assert not window.read.slip.entry.text()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.rect().center())
    typed = np.array([float(word) for word in window.read.slip.entry.text().split(",")])
    assert np.abs(typed - [43.6, 61.0, 29.0]).max() < 1.5
    (tmp_path / "no.png").write_text("not a picture")
    window.read.desk.open_picture(tmp_path / "no.png")
    qtbot.waitUntil(lambda: "no.png" in window.notice.words.text())
    assert "no.png" in window.notice.words.text()


def test_the_paint_room_does_not_paint_beside_wet(qtbot, with_study):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    window.show_room(RoomName.PAINT)
    seen = set()
    for _ in range(40):
        state = window.paint.state
        if state.wait_minutes > 0:
            break
        seen.add(state.current.cell.id)
        qtbot.keyClick(window.paint, Qt.Key.Key_Space)
    assert window.paint.state.wait_minutes > 0
    done = window.paint.state.done
    qtbot.keyClick(window.paint, Qt.Key.Key_Space)
    assert window.paint.state.done == done
    assert "wet" in window.paint.wait.text()
    qtbot.keyClick(window.paint, Qt.Key.Key_S)
    assert window.paint.state.skipped == 1
    qtbot.keyClick(window.paint, Qt.Key.Key_Escape)
    assert window.rooms.currentIndex() == RoomName.PLAN


def test_a_layout_that_can_not_be_says_so_and_keeps_the_last(qtbot, with_study):
    window = with_study
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    page = window.plan.slip.layout_page
    good = window.plan.trial
    page.fields["cell_mm"].entry.setText("90")
    page.fields["cell_mm"].entry.textEdited.emit("90")
    assert "needs at least" in page.message.text()
    assert not page.keep_button.isEnabled()
    assert window.plan.trial is good
    page.fields["cell_mm"].entry.setText("20")
    page.fields["cell_mm"].entry.textEdited.emit("20")
    assert window.plan.trial.cells[0].box_mm[2:] == pytest.approx((20, 20))
    window.plan.trying.discard()
    assert window.plan.trial is None


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (1920, 1080)])
def test_nothing_is_cut_off(qtbot, window, tmp_path, size):
    """Plain labels and buttons have the room their text needs, in every room."""
    make_study(tmp_path / "five.culmo").close()
    window.resize(*size)
    window.open_path(tmp_path / "five.culmo")
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    settle(window, 20)
    for room in (
        RoomName.BOX,
        RoomName.PLAN,
        RoomName.PAINT,
        RoomName.READ,
        RoomName.WEIGH,
        RoomName.DAYBOOK,
    ):
        window.show_room(room)
        window.state.select("r02c01")
        settle(window, 20)
        assert window.size().toTuple() == size
        for widget in [*window.findChildren(QLabel), *window.findChildren(QPushButton)]:
            if not widget.isVisible() or not widget.text() or widget.visibleRegion().isEmpty():
                continue
            metrics = widget.fontMetrics()
            if isinstance(widget, QLabel) and widget.wordWrap():
                longest = max(metrics.horizontalAdvance(word) for word in widget.text().split() or [""])
                assert longest <= widget.width() + 2, (room, widget.text())
                needed = metrics.boundingRect(
                    0, 0, widget.width(), 10000, Qt.TextFlag.TextWordWrap, widget.text()
                ).height()
                assert needed <= widget.height() + 3, (room, widget.text(), needed, widget.height())
            else:
                lines = widget.text().split("\n")
                assert max(metrics.horizontalAdvance(line) for line in lines) <= widget.width() + 2, (
                    room,
                    widget.text(),
                )


def test_the_only_colour_on_the_screen_is_paint(window):
    """Before a study is open there is no paint but the first page's picture and the paper of the dab: the rest is grey."""
    window.rail.hide()
    window.findChild(FirstPicture).hide()
    settle(window, 20)
    image = window.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    pixels = rows[:, : image.width() * 3].reshape(-1, 3).astype(int)
    assert np.ptp(pixels, axis=1).max() == 0


def test_flat_colour_and_washes(with_study):
    window = with_study
    washes = window.box.strokes.cards[2].grab().toImage()
    window.actions_by_id["flat"].trigger()
    settle(window, 20)
    assert window.session.learning.looks.flat
    window.actions_by_id["flat"].trigger()
    settle(window, 20)
    assert window.box.strokes.cards[2].grab().toImage() == washes


def test_what_is_in_force_is_ticked_in_its_menu(with_study):
    def ticked():
        with_study.menus.refresh()
        return {name for name, action in with_study.actions_by_id.items() if action.isChecked()}

    before = ticked()
    assert "light 0" in before and "flat" not in before
    assert ("inside" in before) == with_study.settings.pictures_inside
    for name in ("flat", "light 1", "inside", "scheme night", "language de"):
        with_study.actions_by_id[name].trigger()
    after = ticked()
    assert {"flat", "light 1", "scheme night", "language de"} <= after
    assert ("inside" in after) != ("inside" in before)
    assert not {"light 0", "scheme light", "scheme system", "language ", "language en"} & after
    file_menu = next(
        menu
        for menu in with_study.menuBar().findChildren(QMenu)
        if with_study.actions_by_id["sample"] in menu.actions()
    )
    acts = file_menu.actions()
    assert acts.index(with_study.menus.recent.menuAction()) + 1 == acts.index(
        with_study.actions_by_id["sample"]
    )


def test_dropping_a_study_opens_it(window, tmp_path):
    make_study(tmp_path / "five.culmo").close()
    window.open_path(tmp_path / "five.culmo")
    assert window.windowTitle().startswith("A study")
    assert Path(window.settings.recent[0]).name == "five.culmo"


def test_the_runner_drops_outdated_results(qtbot):
    runner, seen = Runner(), []

    def work(value):
        def steps():
            for _ in range(3):
                yield 0.5
            return value

        return steps

    runner.start("k", work(1), seen.append, seen.append)
    runner.start("k", work(2), seen.append, seen.append)
    qtbot.waitUntil(lambda: seen == [2])
    runner.start("bad", lambda: (_ for _ in ()).throw(ValueError("no")), seen.append, seen.append)
    qtbot.waitUntil(lambda: len(seen) == 2)
    assert "ValueError" in seen[1]
    runner.close()
    assert not runner.busy()


def test_keys_lead_to_every_room_and_every_well(qtbot, with_study):
    window = with_study
    for place, key in enumerate(
        (Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3, Qt.Key.Key_4, Qt.Key.Key_5, Qt.Key.Key_6)
    ):
        qtbot.keyClick(window, key, Qt.KeyboardModifier.ControlModifier)
        assert window.rooms.currentIndex() == place
        assert [top for top in QApplication.topLevelWidgets() if top.isVisible()] == [window]
    from culmo.desk.rail import Well

    well = window.rail.findChildren(Well)[0]
    well.setFocus()
    qtbot.keyClick(well, Qt.Key.Key_Space)
    assert window.session.selection.in_hand == [well.name]
    qtbot.mouseClick(well, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert window.session.selection.in_hand == []


def test_newer_work_begins_when_the_older_has_ended(qtbot, qapp):
    """Work that is replaced again and again is never done twice at once, and other work goes on beside it."""
    import threading
    import time

    at_once, most, done, told = 0, 0, [], threading.Lock()

    def slow(number):
        nonlocal at_once, most
        with told:
            at_once += 1
            most = max(most, at_once)
        try:
            for _ in range(3 if number == 7 else 3000):  # the older ones end only because they are replaced
                time.sleep(0.02)
                yield 0.5
            return number
        finally:
            with told:
                at_once -= 1

    runner = Runner()
    for number in range(8):
        runner.start("learn", lambda number=number: slow(number), done.append, done.append)
        qtbot.wait(15)
    runner.start("find", lambda: (x for x in ()), done.append, done.append)
    qtbot.waitUntil(lambda: not runner.busy())
    assert 7 in done and most == 1
    assert sorted(map(str, done)) == ["7", "None"]
    runner.close()
