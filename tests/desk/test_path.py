"""The whole path, as a new user walks it: with real key and mouse events through the real window."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialogButtonBox, QFileDialog

from culmo.core.paint.readings import INK
from culmo.core.paint.recipe import mix
from culmo.desk.acts.paint import empty_hands
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from support.paints import make_painter

NAMES = ("Lemon", "Rose", "Ultramarine", "Viridian", "Ochre")


class Table:
    """The painter's own table: the paints in truth, and a clock that can be moved on."""

    def __init__(self):
        self.painter = make_painter(5, seed=21)
        self.truth = dict(zip(NAMES, self.painter.paints, strict=True))
        self.now = datetime(2026, 5, 4, 10, 0, tzinfo=UTC)

    def look(self, recipe, ground="paper"):
        L, a, b = self.painter.paint(recipe.renamed(lambda name: self.truth[name].name), ground)
        return f"{min(L, 100):.1f}, {a:.1f}, {b:.1f}"


def click(qtbot, widget, at=None):
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at if at is not None else widget.rect().center())


def type_into(qtbot, entry, text):
    click(qtbot, entry, QPoint(8, entry.height() // 2))
    entry.selectAll()
    qtbot.keyClicks(entry, text)


def enter_paint(qtbot, window, table, name):
    slip = window.box.slip
    type_into(qtbot, slip.name, name)
    type_into(qtbot, slip.codes, "PB29")
    type_into(qtbot, slip.card["masstone"], table.look(mix([name])))
    type_into(qtbot, slip.card["tint"], table.look(mix([name], wash=0.2)))
    type_into(qtbot, slip.card["bar"], table.look(mix([name]), INK))
    qtbot.keyClick(slip.card["bar"], Qt.Key.Key_Return)
    settle(window, 20)


@pytest.mark.long
def test_from_an_empty_study_to_the_reopened_file(qtbot, window, tmp_path, monkeypatch):
    table = Table()
    study_path, pdf = tmp_path / "mine.culmo", tmp_path / "sheet.pdf"

    # a new study, from the first page
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(study_path), ""))
    click(qtbot, window.welcome_buttons[0])
    assert window.rooms.currentIndex() == RoomName.BOX
    for name in NAMES:
        enter_paint(qtbot, window, table, name)
    assert [paint.name for paint in window.session.paints] == list(NAMES)
    assert window.session.learning.estimate.readings == 15
    assert window.session.learning.knows(mix(NAMES))

    # a mix from the rail: two wells, the handle for the parts, the handle for the water
    from culmo.desk.rail import Well

    wells = {well.name: well for well in window.rail.findChildren(Well)}
    click(qtbot, wells["Rose"])
    click(qtbot, wells["Ultramarine"])
    dab = window.rail.dab
    before = str(dab.recipe())
    qtbot.keyClick(dab.sliders[0], Qt.Key.Key_Right)
    qtbot.keyClick(dab.water, Qt.Key.Key_Right)
    assert str(dab.recipe()) != before
    assert "predicted" in dab.state.text()
    empty_hands(window)

    # a 5 x 5 grid on a paper of one's own
    qtbot.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    assert window.rooms.currentIndex() == RoomName.PLAN
    click(qtbot, window.plan.new_button)
    click(qtbot, window.plan.kinds.cards[0])
    page = window.plan.slip.layout_page
    type_into(qtbot, page.fields["title"].entry, "My first grid")
    page.fields["paper"].box.setFocus()
    page.fields["paper"].box.lineEdit().selectAll()
    qtbot.keyClicks(page.fields["paper"].box.lineEdit(), "230x305")
    assert window.plan.trial is not None
    assert len(window.plan.trial.cells) == 25
    assert sorted((window.plan.trial.paper.width_mm, window.plan.trial.paper.height_mm)) == [230, 305]
    qtbot.keyClick(page.keep_button, Qt.Key.Key_Space)
    settle(window, 20)
    record = window.state.record
    assert record.sheet.title == "My first grid"
    assert window.state.prediction is not None

    # a cell is looked at, by mouse and by keys
    view = window.plan.view
    click(qtbot, view, view.place_of("r02c03").toPoint())
    assert window.state.current == "r02c03"
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert window.state.current == "r03c03"
    assert "Ultramarine" in window.plan.slip.cell.title.text()

    # printed at 1:1
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(pdf), "PDF at 1:1 (*.pdf)"))

    def press_ok():
        dialog = QApplication.activeModalWidget()
        dialog.text.setCurrentIndex(2)
        click(qtbot, dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok))

    QTimer.singleShot(200, press_ok)
    qtbot.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    assert pdf.read_bytes().startswith(b"%PDF")
    window.activateWindow()  # a window manager would give it back after the dialog
    qtbot.waitUntil(window.isActiveWindow)

    # painted, by keys alone, on a clock that the test moves on
    window.paint.work.now = lambda: table.now
    click(qtbot, window.plan.foot.start)
    assert window.rooms.currentIndex() == RoomName.PAINT
    painted, taken_back = [], False
    while window.paint.state.current is not None:
        while window.paint.state.wait_minutes > 0:  # the puddle at hand may be worth another half minute
            table.now += timedelta(minutes=window.paint.state.wait_minutes + 0.05)
            window.paint.refresh()
        painted.append(window.paint.state.current.cell.id)
        qtbot.keyClick(window.paint, Qt.Key.Key_Space)
        table.now += timedelta(minutes=1)
        if len(painted) == 3 and not taken_back:
            taken_back = True
            qtbot.keyClick(window.paint, Qt.Key.Key_Backspace)
            assert window.paint.state.current.cell.id == painted.pop()
    planned = [cell.id for cell in record.sheet.in_order()]
    assert painted[:8] == planned[:8]  # later the clock may offer what has dried sooner
    assert sorted(painted) == sorted(planned)
    assert "All cells" in window.paint.lines[0][1].text()

    # read: typed one after the other, the first as a screen colour
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    assert window.rooms.currentIndex() == RoomName.READ
    view = window.read.view
    click(qtbot, view, view.place_of(planned[0]).toPoint())
    type_into(qtbot, window.read.slip.entry, "#zz0000")
    qtbot.keyClick(window.read.slip.entry, Qt.Key.Key_Return)
    assert window.read.slip.message.isVisible()
    assert not window.state.read
    for cell_id in planned:
        assert window.state.current == cell_id
        type_into(qtbot, window.read.slip.entry, table.look(record.sheet.cell(cell_id).recipe))
        qtbot.keyClick(window.read.slip.entry, Qt.Key.Key_Return)
    settle(window, 30)
    assert len(window.state.read) == 25
    assert window.session.learning.estimate.readings == 40

    # weighed: differences, a keeper, a note
    qtbot.keyClick(window, Qt.Key.Key_5, Qt.KeyboardModifier.ControlModifier)
    assert window.rooms.currentIndex() == RoomName.WEIGH
    away = np.array([row.away for row in window.weigh.sheet.rows])
    assert np.isfinite(away).all()
    assert (np.diff(away) <= 1e-9).all()
    assert np.median(away) < 3
    qtbot.keyClick(window.weigh.sheet.table, Qt.Key.Key_Down)
    kept = window.state.current
    click(qtbot, window.weigh.sheet.keeper, QPoint(10, window.weigh.sheet.keeper.height() // 2))
    type_into(qtbot, window.weigh.sheet.note, "a warm grey")
    qtbot.keyClick(window.weigh.sheet.note, Qt.Key.Key_Return)
    assert window.state.entry(kept).keeper
    assert window.state.entry(kept).note == "a warm grey"
    click(qtbot, window.weigh.shows.buttons[1])
    settle(window, 30)
    assert window.weigh.map is not None
    assert window.weigh.map.isVisible()

    # the Daybook knows of it all
    qtbot.keyClick(window, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
    assert window.rooms.currentIndex() == RoomName.DAYBOOK
    texts = " ".join(row["text"] for row in window.session.file.rows("events"))
    for word in (
        "Lemon came into the box",
        "was planned",
        "began",
        "is painted",
        "was read",
        "keeper",
        "warm grey",
    ):
        assert word in texts, word

    # closed and opened again
    everything = window.session.file.dump()
    window.close()
    again = MainWindow(Settings.at(tmp_path / "settings.ini"))
    qtbot.addWidget(again)
    again.show()
    assert again.open_path(Path(again.settings.recent[0]))
    settle(again, 20)
    assert again.session.file.dump() == everything
    assert again.state.record.sheet.title == "My first grid"
    assert again.state.looks[kept].keeper
    again.close()


def test_undo_and_redo_in_the_window(qtbot, with_study):
    window = with_study
    before = window.session.file.dump()
    window.show_room(RoomName.BOX)
    click(qtbot, window.box.strokes.cards[1])
    type_into(qtbot, window.box.slip.name, "Rose quinacridone")
    type_into(qtbot, window.box.slip.card["tint"], "70, 40, 0")
    click(qtbot, window.box.slip.save)
    settle(window, 20)
    changed = window.session.file.dump()
    assert changed != before
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.session.file.dump() == before
    qtbot.keyClick(
        window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    assert window.session.file.dump() == changed
    assert "Rose quinacridone" in [card.paint.name for card in window.box.strokes.cards]


@pytest.mark.parametrize("field", ["name", "masstone"])
def test_what_is_wrong_is_marked_and_what_was_typed_stays(qtbot, with_study, field):
    window = with_study
    before = window.session.file.dump()
    window.box.new_paint()
    slip = window.box.slip
    type_into(qtbot, slip.name, "Lemon" if field == "name" else "New")
    type_into(qtbot, slip.card["masstone"], "999, 0, 0" if field == "masstone" else "50, 0, 0")
    qtbot.keyClick(slip.name, Qt.Key.Key_Return)
    assert slip.message.isVisible()
    assert window.session.file.dump() == before
    assert slip.name.text() in ("Lemon", "New")
    assert slip.card["masstone"].text()
