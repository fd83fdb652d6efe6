"""The first minutes: no dialog, strokes while one types, one quiet line, few acts to the first cell."""

from pathlib import Path

import pytest
from PySide6.QtCore import QObject, QStandardPaths, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QMessageBox

from culmo.core.paint.pigments import typical_readings
from culmo.core.paint.readings import PAPER
from culmo.data import pigment_table
from culmo.desk.app import settle
from culmo.desk.next_step import next_words
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.entry_dialog import EntryDialog
from culmo.desk.typical import STROKE, typical_looks
from culmo.study.stand import Stand, stand_of
from support.begun import new_grid

EIGHT = (
    "Lemon PY175", "Scarlet PR188", "Rose PV19", "Ultramarine PB29", "Phthalo blue PB15:3", "Viridian PG18", "Ochre PY43",
    "Burnt sienna PBr7",
)  # fmt: skip


@pytest.fixture(autouse=True)
def no_dialogs(monkeypatch):
    """Nothing stands in the way."""
    for kind in (QDialog, QMessageBox, QFileDialog):
        monkeypatch.setattr(kind, "exec", lambda *_: pytest.fail("a dialog was opened"))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: pytest.fail("a dialog was opened"))


class Hand(QObject):
    """What a hand does besides typing, counted."""

    def __init__(self, window):
        super().__init__(window)
        self.window, self.acts = window, []

    def click(self, widget, at=None):
        self.acts.append(f"click {type(widget).__name__}")
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at or widget.rect().center())
        settle(self.window, 30)

    def key(self, key, modifiers=Qt.KeyboardModifier.NoModifier):
        self.acts.append(f"key {key}")
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifiers)
        settle(self.window, 30)

    def type(self, text):
        """A line, with the Enter that ends it."""
        QTest.keyClicks(QApplication.focusWidget(), text)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        self.window.activateWindow()  # without a desktop a list that drops down leaves no window active
        settle(self.window, 30)


@pytest.mark.long
def test_from_the_start_to_the_first_painted_cell_takes_few_acts_and_no_dialog(window, qtbot):
    hand = Hand(window)
    control = Qt.KeyboardModifier.ControlModifier
    hand.click(window.welcome_buttons[0])
    documents = Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation))
    assert window.session.file.path == documents / "My paints.culmo"
    for line in EIGHT:
        hand.type(line)
    assert [paint.name for paint in window.session.paints] == [line.rpartition(" ")[0] for line in EIGHT]
    hand.key(Qt.Key.Key_G, control)
    for _ in range(30):
        settle(window, 20)
    hand.key(Qt.Key.Key_Return)
    for _ in range(5):
        settle(window, 30)
    assert window.plan.trial is not None
    hand.key(Qt.Key.Key_S, control)
    assert window.state.record is not None and len(window.state.record.cells) == 64
    hand.key(Qt.Key.Key_3, control)
    assert window.rooms.currentIndex() == RoomName.PAINT
    hand.key(Qt.Key.Key_Space)
    assert len(window.state.painted) == 1
    assert len(hand.acts) <= 12, hand.acts


def test_another_unnamed_study_takes_the_place_of_none(window):
    window.studies.begin_now()
    first = window.session.file.path
    window.studies.begin_now()
    second = window.session.file.path
    assert (first.name, second.name) == ("My paints.culmo", "My paints 2.culmo")
    assert first.exists() and first.parent == second.parent


@pytest.mark.long
def test_the_line_says_what_comes_next_and_goes_when_it_is_done(window):
    window.studies.begin_now()
    settle(window, 20)
    line = window.next_step
    assert line.isVisible() and "first paint" in line.words.text()
    for text in EIGHT[:3]:
        QTest.keyClicks(QApplication.focusWidget(), text)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
        settle(window, 20)
    assert "page of cards" in line.words.text()
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    settle(window, 40)
    window.plan.trying.keep()
    settle(window, 40)
    assert "cell by cell" in line.words.text()
    window.show_room(RoomName.PAINT)
    window.paint.work.done()
    settle(window, 20)
    assert "when it is dry" in line.words.text()
    line.away.click()
    assert not line.isVisible()
    window.paint.work.done()
    settle(window, 20)
    assert not line.isVisible(), "what was put away stays away"


def test_a_grown_study_has_no_such_line(demo):
    assert not demo.next_step.isVisible()
    assert next_words(stand_of(demo.session.file)) == ""
    demo.session.close()
    demo.show_first_page()
    assert not demo.next_step.isVisible()


def test_every_stand_has_at_most_one_next_step():
    assert next_words(Stand(0, 0, 0, 0)) != next_words(Stand(1, 0, 0, 0)) != ""
    assert next_words(Stand(0, 3, 0, 5)) == ""
    assert next_words(Stand(9, 1, 0, 4)) == ""


def shown_colour(swatch):
    image = swatch.grab().toImage()
    return QColor(image.pixelColor(round(0.2 * image.width()), image.height() // 2))


def test_strokes_appear_while_codes_are_typed(window):
    window.studies.begin_now()
    window.show_room(RoomName.BOX)
    settle(window, 20)
    slip = window.box.slip
    bare = shown_colour(slip.stroke)
    QTest.keyClicks(slip.line, "Deep blue PB29")
    blue = shown_colour(slip.stroke)
    assert blue != bare and blue.blue() > blue.red() + 40
    assert "typical" in slip.facts.text()
    slip.line.clear()
    QTest.keyClicks(slip.line, "Sun PY175")
    yellow = shown_colour(slip.stroke)
    assert yellow.red() > 200 and yellow.blue() < 120
    slip.line.clear()
    slip.codes.setText("PX999")
    assert slip.stroke._make is None and "codes" in slip.stroke._hint
    window.session.unsaved.leave_out()


def test_strokes_stand_beside_the_lines_of_a_list(window):
    window.studies.begin_now()
    dialog = EntryDialog(window, window.session, "\n".join([*EIGHT, "Mystery"]))
    dialog.show()
    icons = [dialog.table.item(row, 0).icon() for row in range(9)]
    assert [icon.isNull() for icon in icons] == [False] * 8 + [True]
    assert len({icon.pixmap(64, 24).toImage().pixelColor(10, 12).rgb() for icon in icons[:8]}) == 8
    dialog.reject()


def test_what_the_codes_tell_is_what_is_drawn():
    looks = typical_looks("PB29")
    seen = next(
        reading for reading, _ in typical_readings([("x", "PB29")], [], pigment_table())
        if reading.ground == PAPER and reading.recipe.layers[0].wash == 1.0
    )  # fmt: skip
    colour = looks.colour(STROKE)
    from culmo.desk.drawing.looks import qcolor

    expected = qcolor(seen.lab)
    assert abs(colour.hue() - expected.hue()) < 12
    assert typical_looks("nothing") is None and typical_looks("") is None
