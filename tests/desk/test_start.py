"""How the program starts: with which study, what is told when it makes a mistake, and the pictures of each room."""

import importlib
import logging
import pkgutil
import signal
import subprocess
import sys

import pytest
from PySide6.QtCore import QObject, QPoint
from PySide6.QtGui import QImage, QUndoCommand
from PySide6.QtWidgets import QApplication, QMessageBox

import culmo.desk
from culmo.desk import app as start
from culmo.desk.actions import ROOM_IDS
from culmo.desk.app import settle
from culmo.desk.defects import Defects
from culmo.desk.guard import overridden
from culmo.desk.settings import Settings
from culmo.desk.welcome import PICTURE_SIZE, FirstPicture, picture_read
from culmo.study.file import Study
from culmo.study.unfinished import unfinished
from support.builders import make_study
from support.patience import LONG_S


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
    assert "no study.culmo" in window.notice.words.text()
    assert path.read_bytes() == b"something else" * 100


@pytest.fixture
def defects(qapp, monkeypatch):
    """Where mistakes end up, with the reports that were shown."""
    made, shown = Defects(), []
    monkeypatch.setattr(QMessageBox, "open", lambda box: shown.append((box.text(), box.detailedText())))
    return made, shown


def _noted(defects, error):
    try:
        raise error
    except type(error):
        defects.note(*sys.exc_info())


def test_a_mistake_of_the_program_is_logged_whole_and_told_when_qt_is_idle(qapp, defects, caplog):
    made, shown = defects
    with caplog.at_level(logging.ERROR, "culmo"):
        _noted(made, ZeroDivisionError("of a mixing well by nought"))
    assert shown == []  # not in the midst of what Qt is just doing
    QApplication.processEvents()
    ((words, report),) = shown
    assert "not your doing" in words and "saved" in words
    assert "ZeroDivisionError" in report and "test_start.py" in report and "Culmo " in report
    assert "ZeroDivisionError" in caplog.text
    assert "by nought" not in report + caplog.text  # the words of a mistake may be the painter's


def test_what_goes_wrong_at_each_drawing_is_told_once(qapp, defects, caplog):
    made, shown = defects
    for _ in range(1000):
        _noted(made, ZeroDivisionError("again"))
    QApplication.processEvents()
    assert len(shown) == 1
    assert caplog.text.count("ZeroDivisionError") == 200


def test_ctrl_c_at_the_terminal_is_no_mistake(qapp, defects, capsys):
    made, shown = defects
    _noted(made, KeyboardInterrupt())
    QApplication.processEvents()
    assert "KeyboardInterrupt" in capsys.readouterr().err
    assert shown == []


def test_mistakes_are_reported_from_the_start(started):
    started()
    assert sys.excepthook.__self__.__class__ is Defects


RAISING = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLabel, QMessageBox
from culmo.desk.app import make_app
from culmo.desk.defects import Defects
from culmo.desk.guard import guarded
app = make_app()
Defects(app).install()
class Bad(QLabel):
    pass
def fail(self, *_):
    painter = QPainter(self) if sys.argv[1] == "paintEvent" else None  # the traceback keeps it
    raise ValueError(sys.argv[1])
setattr(Bad, sys.argv[1], fail)
guarded(Bad)
bad = Bad("x")
bad.setMouseTracking(True)
bad.show()
bad.resize(300, 200)
app.installEventFilter(bad)
told = []
def look():
    told.extend(box.detailedText() for box in app.topLevelWidgets() if isinstance(box, QMessageBox))
    print(len(told), "ValueError" in "".join(told), flush=True)
    app.quit()
QTimer.singleShot(400, bad.repaint)
QTimer.singleShot(600, bad.hide)
QTimer.singleShot(800, look)
sys.exit(app.exec())
"""


@pytest.mark.long
@pytest.mark.parametrize(
    "event",
    [
        "paintEvent",
        "showEvent",
        "resizeEvent",
        "sizeHint",
        "event",
        "eventFilter",
        "changeEvent",
        "hideEvent",
    ],
)
def test_what_is_raised_in_an_event_of_qt_ends_nothing(event):
    done = subprocess.run(
        [sys.executable, "-c", RAISING, event], capture_output=True, text=True, timeout=LONG_S, check=False
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout.split() == ["1", "True"]


def test_all_that_qt_calls_is_guarded():
    """Every class of the window, and each method of it that a class of Qt has too."""
    for module in pkgutil.walk_packages(culmo.desk.__path__, "culmo.desk."):
        importlib.import_module(module.name)
    classes, seen = [QObject, QUndoCommand], set()
    while classes:
        cls = classes.pop()
        for below in cls.__subclasses__():
            if below not in seen:
                seen.add(below)
                classes.append(below)
    own = [cls for cls in seen if cls.__module__.startswith("culmo.")]
    assert len(own) > 60
    bare = [
        f"{cls.__module__}.{cls.__name__}.{name}"
        for cls in own
        for name in overridden(cls)
        if not hasattr(vars(cls)[name], "is_guarded")
    ]
    assert bare == []


@pytest.mark.long
@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_word_to_end_asks_nothing_and_keeps_what_was_typed(tmp_path, number):
    path = study_at(tmp_path / "mine.culmo")
    code = """if True:
        import sys
        from pathlib import Path
        from PySide6.QtCore import QTimer
        from culmo.desk import app as start
        from culmo.desk.app import settle
        from culmo.desk.settings import Settings
        made = start.MainWindow
        def main_window(settings):
            window = made(settings)
            def type_something():
                settle(window)
                window.show_room(5)
                window.daybook.foot.note.setText("not saved yet")
                print("typed", flush=True)
            QTimer.singleShot(300, type_something)
            return window
        start.MainWindow = main_window
        sys.exit(start.run_window(Path(sys.argv[1]), settings=Settings.at(Path(sys.argv[2]))))"""
    words = [sys.executable, "-c", code, str(path), str(tmp_path / "s.ini")]
    with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as child:
        assert child.stdout.readline() == "typed\n"
        child.send_signal(number)
        _, complaint = child.communicate(timeout=LONG_S)
    assert child.returncode == 0, complaint
    assert "Traceback" not in complaint
    with Study(path) as study:
        assert [(entry.place, entry.content) for entry in unfinished(study)] == [("note", "not saved yet")]
        assert study.rows("notes") == []


@pytest.mark.long
def test_pictures_of_a_study_without_sheets_are_taken_too(started, tmp_path):
    """The rooms of a young study: none is left out, and nothing is left behind beside the pictures."""
    shots = tmp_path / "shots"
    code = start.run_window(study_at(tmp_path / "young.culmo"), shots)
    assert code == 0
    names = {path.name for path in shots.iterdir()}
    assert {f"{room}.png" for room in ROOM_IDS} <= names
    assert all(name.endswith(".png") for name in names)
    for room in ROOM_IDS:
        picture = QImage(str(shots / f"{room}.png"))
        assert picture.width() >= 1000 and picture.height() >= 700


@pytest.mark.long
def test_a_language_that_is_chosen_holds_at_once_and_nothing_typed_is_lost(tmp_path):
    """The program begins anew with the same study; what is typed is there again as a draft."""
    path = study_at(tmp_path / "mine.culmo")
    code = """if True:
        import sys
        from pathlib import Path
        from PySide6.QtCore import QTimer
        from culmo.desk import app as start, ending
        from culmo.desk.app import settle
        from culmo.desk.settings import Settings
        ending.subprocess.Popen = lambda words, **more: print("anew", *words[1:], flush=True)
        made = start.MainWindow
        def main_window(settings):
            window = made(settings)
            def choose():
                settle(window)
                window.show_room(5)
                window.daybook.foot.note.setText("not saved yet")
                window.actions_by_id["language de"].trigger()
            QTimer.singleShot(300, choose)
            return window
        start.MainWindow = main_window
        sys.exit(start.run_window(Path(sys.argv[1]), settings=Settings.at(Path(sys.argv[2]))))"""
    done = subprocess.run(
        [sys.executable, "-c", code, str(path), str(tmp_path / "s.ini")], capture_output=True, text=True, timeout=LONG_S,
        check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines()[-1] == f"anew -m culmo {path}"
    assert Settings.at(tmp_path / "s.ini").language == "de"
    with Study(path) as study:
        assert [(entry.place, entry.content) for entry in unfinished(study)] == [("note", "not saved yet")]


def test_without_a_way_to_begin_anew_the_language_waits_for_the_next_start(window):
    window.actions_by_id["language de"].trigger()
    assert "started again" in window.status.told_text.text()
    assert window.settings.language == "de"


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (960, 560)])
def test_the_first_page_shows_paint_and_all_its_ways_in(window, size):
    window.resize(*size)
    settle(window, 20)
    picture = window.findChild(FirstPicture)
    seen = window.grab(
        picture.geometry().translated(picture.parentWidget().mapTo(window, QPoint(0, 0)))
    ).toImage()
    vivid = sum(
        seen.pixelColor(x, y).hsvSaturation() > 120
        for x in range(0, seen.width(), 6) for y in range(0, seen.height(), 6)
    )  # fmt: skip
    assert vivid > 80  # paint is there, and not a few pixels of it
    for button in window.welcome_buttons:
        assert button.visibleRegion().boundingRect().size() == button.size()
    assert picture_read().width() == 2 * PICTURE_SIZE[0]


def test_what_computes_is_not_loaded_for_the_first_page(tmp_path):
    """The window is there at once; linear algebra, pictures and calendars come with the room that uses them."""
    code = (
        "import sys; from pathlib import Path; from culmo.desk.app import make_app\n"
        "from culmo.desk.settings import Settings; from culmo.desk.window import MainWindow\n"
        "app = make_app(); window = MainWindow(Settings.at(Path(sys.argv[1])))\n"
        "window.show(); print([name for name in ('numpy', 'cv2', 'scipy', 'PIL', 'babel') if name in sys.modules])"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "s.ini")], capture_output=True, text=True, check=True
    )
    assert done.stdout.strip() == "[]"
