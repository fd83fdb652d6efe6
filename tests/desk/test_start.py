"""How the program starts: with which study, what is told when it makes a mistake, and the pictures of each room."""

import logging
import sys

import pytest
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QMessageBox

from culmo.desk import app as start
from culmo.desk.settings import Settings
from support.builders import make_study


@pytest.fixture
def started(qapp, monkeypatch, tmp_path):
    """Start the program as the command does, with the event loop left at once; gives the windows that were made."""
    windows = []
    original = start.MainWindow

    def made(settings):
        window = original(settings)
        windows.append(window)
        return window

    monkeypatch.setattr(start, "MainWindow", made)
    monkeypatch.setattr(QApplication, "exec", lambda *_: 0)
    monkeypatch.setattr(sys, "excepthook", sys.__excepthook__)

    def run(path=None, **more):
        settings = more.pop("settings", None) or Settings.at(tmp_path / "s.ini")
        code = start.run_window(path, settings=settings, **more)
        return code, windows[-1]

    yield run
    for window in windows:
        window.close()


def study_at(path):
    make_study(path).close()
    return path


def test_without_a_study_the_first_page_is_shown(started):
    code, window = started()
    assert code == 0
    assert window.session.study is None
    assert window.isVisible()


def test_the_study_that_is_named_is_opened(started, tmp_path):
    path = study_at(tmp_path / "mine.culmo")
    _, window = started(path)
    assert window.session.study.path == path
    assert window.settings.recent == [str(path)]


def test_without_a_name_the_study_of_last_time_is_opened(started, tmp_path):
    settings = Settings.at(tmp_path / "own.ini")
    last, before = study_at(tmp_path / "last.culmo"), study_at(tmp_path / "before.culmo")
    settings.remember(before)
    settings.remember(last)
    _, window = started(settings=settings)
    assert window.session.study.path == last


def test_where_the_study_of_last_time_is_gone_no_other_is_taken_for_it(started, tmp_path):
    settings = Settings.at(tmp_path / "own.ini")
    settings.remember(study_at(tmp_path / "before.culmo"))
    settings.remember(tmp_path / "gone.culmo")
    _, window = started(settings=settings)
    assert window.session.study is None


def test_a_study_that_can_not_be_opened_is_told_in_the_window(started, tmp_path):
    path = tmp_path / "no study.culmo"
    path.write_bytes(b"something else" * 100)
    code, window = started(path)
    assert code == 0
    assert window.session.study is None
    assert "no study.culmo" in window.notice_text.text()
    assert path.read_bytes() == b"something else" * 100


def test_a_mistake_of_the_program_is_logged_whole_and_can_be_copied(qapp, monkeypatch, caplog):
    shown = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: shown.append((box.text(), box.detailedText())))
    with caplog.at_level(logging.ERROR, "culmo"):
        try:
            raise ZeroDivisionError("of a mixing well by nought")
        except ZeroDivisionError:
            start._report_defect(*sys.exc_info())
    ((words, report),) = shown
    assert "not your doing" in words and "saved" in words
    assert "ZeroDivisionError: of a mixing well by nought" in report
    assert "test_start.py" in report
    assert "by nought" in caplog.text


def test_ctrl_c_at_the_terminal_is_no_mistake(qapp, monkeypatch, capsys):
    monkeypatch.setattr(QMessageBox, "exec", lambda box: pytest.fail("it was taken for a mistake"))
    try:
        raise KeyboardInterrupt
    except KeyboardInterrupt:
        start._report_defect(*sys.exc_info())
    assert "KeyboardInterrupt" in capsys.readouterr().err


def test_mistakes_are_reported_from_the_start(started):
    started()
    assert sys.excepthook is start._report_defect


def test_pictures_of_a_study_without_sheets_are_taken_too(started, tmp_path):
    """The rooms of a young study: none is left out, and nothing is left behind beside the pictures."""
    shots = tmp_path / "shots"
    code = start.run_window(study_at(tmp_path / "young.culmo"), shots)
    assert code == 0
    names = {path.name for path in shots.iterdir()}
    assert {f"{room}.png" for room in start.SHOTS} <= names
    assert all(name.endswith(".png") for name in names)
    for room in start.SHOTS:
        picture = QImage(str(shots / f"{room}.png"))
        assert picture.width() >= 1000 and picture.height() >= 700
