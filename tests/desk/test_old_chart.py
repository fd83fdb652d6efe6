"""Charts that were painted before, brought in through the window by mouse and by keys."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QFileDialog, QMessageBox

from culmo.core.chart.old import Shape
from culmo.desk.acts.sheet import bring_old
from culmo.desk.app import settle
from culmo.desk.rooms.read.old_dialog import OldChartDialog
from culmo.desk.rooms.read.old_view import RuledPart
from culmo.study import records
from support.foreign_pictures import difference
from support.old_pictures import NAMES, old_picture

pytestmark = pytest.mark.long

READ = 3


@pytest.fixture(scope="module")
def old_grid():
    return old_picture("grid", 12, off_mm=0.7, gap_mm=0.0, long_px=1800)


@pytest.fixture(scope="module")
def old_wheel():
    return old_picture("wheel", 6, off_mm=0.2, long_px=1800)


def bring(window, monkeypatch, tmp_path, picture, hand):
    """Choose the act in the menu, with the picture as its file, and do something in the window of old charts."""
    path = tmp_path / "old chart.jpg"
    path.write_bytes(picture.file)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))

    def there(dialog):
        dialog.show()
        settle(window, 5)
        hand(dialog)
        return dialog.result()

    monkeypatch.setattr(OldChartDialog, "exec", there)
    bring_old(window)
    return path


def wait_for_reading(qtbot, room):
    qtbot.waitUntil(lambda: room.trial is not None and room.trial.reading is not None)


def shown(dialog, picture, points):
    """Pixels of the picture as points of the widget."""
    scale = dialog.pixels.shape[1] / picture.size[0]
    return dialog.view.to_widget((np.asarray(points) + 0.5) * scale)


def drag(view, start, end):
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(view, (start + (end - start) * share).toPoint())
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end.toPoint())


def type_count(spin, count):
    spin.setFocus()
    spin.selectAll()
    QTest.keyClicks(spin, str(count))
    QTest.keyClick(spin, Qt.Key.Key_Return)


def name_all(dialog, names):
    for place, name in enumerate(names):
        if name:
            field = dialog._fields[place][2]
            field.setFocus()
            QTest.keyClicks(field, name)


def held_against(room, picture, rename=lambda cell: cell):
    entries = [e for e in room.trial.reading.readings if np.isfinite(picture.lab[rename(e.cell)]).all()]
    return np.array([float(difference(e.lab, picture.lab[rename(e.cell)])) for e in entries])


def test_a_grid_of_twelve_by_mouse(qtbot, with_study, monkeypatch, tmp_path, old_grid):
    window, (_, picture) = with_study, old_grid
    before = len(records.sheet_titles(window.session.file))

    def hand(dialog):
        type_count(dialog.columns, 12)
        type_count(dialog.rows, 12)
        for corner, to in enumerate(shown(dialog, picture, picture.corners)):
            drag(dialog.view, dialog.view.where((RuledPart.CORNER, corner)), to + QPointF(2, -2))
        line = dialog.view.where((RuledPart.ACROSS, 5))
        drag(dialog.view, line, line + QPointF(4, 0))
        name_all(dialog, NAMES)
        steps = len(dialog._done)
        qtbot.mouseClick(dialog.snap_button, Qt.MouseButton.LeftButton)
        assert len(dialog._done) == steps + 1
        assert len(dialog.view.named) == 144
        dialog.title.setText("From long ago")
        qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
        assert dialog.result() == QDialog.DialogCode.Accepted

    bring(window, monkeypatch, tmp_path, picture, hand)
    wait_for_reading(qtbot, window.read)
    room = window.read
    assert window.state.record.sheet.title == "From long ago"
    assert room.trial.reading.by == "hand" and len(room.trial.reading.readings) == 144
    away = held_against(room, picture)
    assert np.median(away) < 1.5 and np.quantile(away, 0.9) < 4.0
    assert room.desk.accept()
    settle(window, 30)
    assert len(window.state.read) > 120
    known = {paint.name for paint in window.session.paints}
    assert set(NAMES) <= known, "paints that were not known came with it"
    window.session.undo.undo()
    window.session.undo.undo()
    assert len(records.sheet_titles(window.session.file)) == before


def test_a_grid_by_keys_alone(qtbot, with_study, monkeypatch, tmp_path, old_grid):
    window, (_, picture) = with_study, old_grid

    def hand(dialog):
        type_count(dialog.columns, 12)
        type_count(dialog.rows, 12)
        view = dialog.view
        view.setFocus()
        for corner, to in enumerate(shown(dialog, picture, picture.corners)):
            assert view.current == (RuledPart.CORNER, corner)
            away = to - view.where(view.current)
            for size, key, other in (
                (away.x(), Qt.Key.Key_Right, Qt.Key.Key_Left),
                (away.y(), Qt.Key.Key_Down, Qt.Key.Key_Up),
            ):
                for _ in range(round(abs(size)) // 10):
                    QTest.keyClick(view, key if size > 0 else other, Qt.KeyboardModifier.ShiftModifier)
                for _ in range(round(abs(size)) % 10):
                    QTest.keyClick(view, key if size > 0 else other)
            QTest.keyClick(view, Qt.Key.Key_Space)
        assert view.current == (RuledPart.ACROSS, 1)
        QTest.keyClick(view, Qt.Key.Key_Backspace)
        assert view.current == (RuledPart.CORNER, 3)
        dialog.snap()
        settle(window, 5)
        dialog._fields[0][2].setFocus()
        for name in NAMES:
            QTest.keyClicks(dialog.focusWidget(), name)
            QTest.keyClick(dialog.focusWidget(), Qt.Key.Key_Return)
        assert dialog.isVisible()
        QTest.keyClick(dialog.keep, Qt.Key.Key_Space)

    bring(window, monkeypatch, tmp_path, picture, hand)
    wait_for_reading(qtbot, window.read)
    assert np.median(held_against(window.read, picture)) < 1.5


def test_a_wheel_by_mouse(qtbot, with_study, monkeypatch, tmp_path, old_wheel):
    window, (sheet, picture) = with_study, old_wheel
    rings = len({cell.id[:2] for cell in sheet.cells})

    def hand(dialog):
        dialog.shapes.choose(2)
        assert dialog.chart.shape is Shape.WHEEL and dialog.chart.columns == 12
        type_count(dialog.rows, rings)
        for corner, to in enumerate(shown(dialog, picture, picture.corners)):
            drag(dialog.view, dialog.view.where((RuledPart.CORNER, corner)), to)
        # the seam lies at the top; half a sector back
        view, seam = dialog.view, dialog.view.where((RuledPart.ACROSS, 0))
        middle = sum((p for p in view.to_widget(np.array(dialog.chart.corners))), QPointF()) / 4
        turn = np.radians(-15.0)
        arm = seam - middle
        drag(view, seam, middle + QPointF(
            arm.x() * np.cos(turn) - arm.y() * np.sin(turn), arm.x() * np.sin(turn) + arm.y() * np.cos(turn)
        ))  # fmt: skip
        assert abs(dialog.chart.across[0] + 1 / 24) < 0.01
        inner = view.where((RuledPart.DOWN, 0))
        drag(view, inner, inner + (middle - inner) * 0.1)
        qtbot.mouseClick(dialog.snap_button, Qt.MouseButton.LeftButton)
        name_all(dialog, [name for paint in NAMES[:6] for name in (paint, "")])
        assert len(view.named) == 12 * rings, "what lies between two names is a step between them"
        dialog.undo()
        dialog.redo()
        qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)

    bring(window, monkeypatch, tmp_path, picture, hand)
    wait_for_reading(qtbot, window.read)
    assert len(window.read.trial.reading.readings) == 12 * rings
    place = window.read.trial.reading.placement
    middles = np.array([np.mean(cell.outline_mm, axis=0) for cell in window.state.record.sheet.cells])
    away = np.hypot(*(picture.to_mm(place.to_pixels(middles))[:, None] - picture.ruled[None]).T).min(axis=0)
    assert np.quantile(away, 0.9) < 4.0


def test_what_is_missing_is_said_and_nothing_is_lost(qtbot, with_study, monkeypatch, tmp_path, old_grid):
    window, (_, picture) = with_study, old_grid

    def hand(dialog):
        qtbot.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
        assert dialog.isVisible() and "name the paints" in dialog.problem.text()
        name_all(dialog, ["Rose + "])
        assert dialog.problem.text()
        dialog.undo()
        assert not dialog.problem.text()
        start = dialog.chart
        type_count(dialog.columns, 9)
        assert not dialog.alike.isVisible(), "two families"
        dialog.undo()
        assert dialog.chart == start
        # corners can not be crossed
        view = dialog.view
        drag(view, view.where((RuledPart.CORNER, 0)), view.where((RuledPart.CORNER, 2)) + QPointF(60, 60))
        assert dialog.chart.corners[0][0] < dialog.chart.corners[1][0]
        asked = []
        answers = [QMessageBox.StandardButton.No, QMessageBox.StandardButton.Yes]
        monkeypatch.setattr(
            QMessageBox, "question", lambda *said: asked.append(said[2]) or answers[len(asked) - 1]
        )
        QTest.keyClick(dialog._fields[0][2], Qt.Key.Key_Escape)
        assert dialog.isVisible() and "lost" in asked[0]
        dialog.reject()
        assert not dialog.isVisible()

    before = len(records.sheet_titles(window.session.file))
    bring(window, monkeypatch, tmp_path, picture, hand)
    settle(window, 30)
    assert len(records.sheet_titles(window.session.file)) == before


def test_a_picture_on_the_table_is_taken(qtbot, with_study, monkeypatch, tmp_path, old_grid):
    window, (_, picture) = with_study, old_grid
    path = tmp_path / "there.jpg"
    path.write_bytes(picture.file)
    window.show_room(READ)
    window.read.desk.open_picture(path)
    qtbot.waitUntil(lambda: window.read.trial is not None)
    seen = []
    monkeypatch.setattr(OldChartDialog, "exec", lambda dialog: seen.append(dialog.title.text()) or 0)
    assert window.read.slip.old_button.isVisible()
    qtbot.mouseClick(window.read.slip.old_button, Qt.MouseButton.LeftButton)
    assert seen == ["there"]
    window.read.desk.discard()


def test_a_file_that_is_no_picture(qtbot, with_study, tmp_path):
    path = tmp_path / "no.jpg"
    path.write_bytes(b"nothing of a picture")
    with qtbot.waitSignal(with_study.session.failed) as told:
        with_study.read.old.open(path)
    assert "no.jpg" in told.args[0]
