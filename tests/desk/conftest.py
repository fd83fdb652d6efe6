"""A real window for the tests of the desk."""

import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent

from culmo.desk.app import make_app, settle
from culmo.desk.room_names import RoomName
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from culmo.study.file import Study
from culmo.study.known_sound import remember
from support.builders import sample_study


@pytest.fixture(scope="session")
def qapp():
    """The application with its look."""
    return make_app()


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory):
    """The sample study, made once; tests work on copies of it."""
    return sample_study(tmp_path_factory.mktemp("demo"))


@pytest.fixture(scope="session")
def learned_folder(tmp_path_factory):
    """Where what was learned is kept, so that not every test learns the same; the tests of learning have a folder each."""
    return tmp_path_factory.mktemp("learned") / "learned"


@pytest.fixture
def window(qtbot, tmp_path, learned_folder):
    """The window, empty, at the size of the pictures; nothing of it is left afterwards."""
    window = MainWindow(Settings.at(tmp_path / "settings.ini", learned_folder))
    window.session.drawing.grace_ms = (
        30_000.0  # what is laid out and drawn is there at once, however busy the machine is
    )
    # what a test typed and did not save is not asked about
    qtbot.addWidget(window, before_close_func=lambda window: window.session.unsaved.leave_out())
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    yield window
    window.close()
    assert not window.session.runner.busy()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def last_room():
    """The room that was last used, in which a study opens; files of tests that are about another one say so."""
    return RoomName.BOX


@pytest.fixture
def with_study(window, tmp_path, last_room):
    """The window with five paints that have been learned."""
    from support.builders import make_study

    make_study(tmp_path / "five.culmo").close()
    window.settings.room = last_room
    assert window.open_path(tmp_path / "five.culmo")
    settle(window, 30)
    return window


@pytest.fixture
def demo(window, tmp_path, demo_file, learned_folder, last_room):
    """The window with a copy of the sample study, which it left there the day before."""
    path = Path(shutil.copy(demo_file, tmp_path))
    with Study(path) as study:
        remember(learned_folder.with_name("sound"), study)
    window.settings.room = last_room
    assert window.open_path(path)
    settle(window, 40)
    return window
