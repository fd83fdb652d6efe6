"""A hand that presses whatever it finds: nothing it does makes a mistake of the program, and all of it can be undone."""

import os
import random
import shutil

import pytest
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QMessageBox,
)  # fmt: skip

from culmo.desk.app import settle
from culmo.study.file import Study
from support.hand import WORDS, Hand, answer_dialog

STEPS, SEEDS = (1500, range(5, 15)) if os.environ.get("CULMO_SOAK") else (150, (1, 3))
# what ends the program, opens another study, changes the whole window's looks, or goes on for long
LEFT_ALONE = {
    "quit", "open", "new", "close", "sample", "recover", "full screen", "watch", "language", "scheme", "inside",
}  # fmt: skip


@pytest.fixture
def answered(monkeypatch):
    """No dialog waits for anybody: questions are answered at random, no file is chosen; gives who answers."""
    rng = random.Random(0)
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_, **__: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_, **__: ([], ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: "")
    for name in ("getText", "getItem"):
        monkeypatch.setattr(QInputDialog, name, lambda *_, **__: (rng.choice(WORDS), rng.random() < 0.7))
    buttons = QMessageBox.StandardButton
    monkeypatch.setattr(QMessageBox, "question", lambda *_, **__: rng.choice((buttons.Yes, buttons.No)))

    monkeypatch.setattr(QDialog, "exec", lambda dialog: answer_dialog(dialog, rng))
    monkeypatch.setattr(QPrintDialog, "exec", lambda _: QDialog.DialogCode.Rejected)
    monkeypatch.setattr(QMenu, "exec", lambda *_: None)
    monkeypatch.setattr(QMenu, "popup", lambda *_: None)
    return rng


def record_of(study):
    """Everything of a study."""
    return study.dump()


@pytest.mark.long
@pytest.mark.parametrize("seed", SEEDS)
def test_whatever_is_pressed_nothing_breaks_and_all_can_be_undone(
    window, demo_file, tmp_path, answered, seed
):
    path = tmp_path / "tried.culmo"
    shutil.copy(demo_file, path)
    assert window.open_path(path)
    settle(window, 30)
    session = window.session
    before = record_of(session.file)
    hand = Hand(window, seed, LEFT_ALONE)
    answered.seed(seed)
    try:
        for number in range(STEPS):
            hand.step()
            QApplication.processEvents()
            if number % 10 == 0:
                window.show_room(hand.rng.randrange(6))
            assert session.study is not None and window.isVisible()
        assert session.file.problems() == []
        while session.undo.canUndo():
            at = session.undo.index()
            session.undo.undo()
            assert session.undo.index() < at, session.undo.undoText()
        assert record_of(session.file) == before
    except BaseException:
        print("\n".join(hand.done[-25:]))
        raise
    window.session.unsaved.leave_out()  # what the hand typed and did not save is not asked about
    window.close()
    with Study(path) as study:
        assert study.problems() == []
        assert record_of(study) == before
