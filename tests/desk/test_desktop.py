"""Culmo as a citizen of the desktop: its files, one window for a study, light and night."""

import configparser
import re
import shutil
import signal
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage, QPainter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication

from culmo.desk import doorbell
from culmo.desk.actions import choose_scheme
from culmo.desk.app import settle
from culmo.desk.theme import DAY, NIGHT, style_sheet
from culmo.study.schema import APPLICATION_ID
from support.builders import make_study

ROOT = Path(__file__).parents[2]
SHIPPED = ROOT / "src" / "culmo" / "data" / "desktop"


def judged_by(program, *words):
    """What another program says of a file; its test is skipped where it is not installed."""
    if shutil.which(program) is None:
        pytest.skip(f"{program} is not installed")
    return subprocess.run([program, *map(str, words)], capture_output=True, text=True, check=False)


# ---- the files


def test_the_desktop_entry_is_valid():
    done = judged_by("desktop-file-validate", SHIPPED / "org.culmo.Culmo.desktop")
    assert done.returncode == 0 and not done.stdout, done.stdout
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(SHIPPED / "org.culmo.Culmo.desktop", encoding="utf-8")
    assert entry["Desktop Entry"]["Exec"] == "culmo %f"


def test_the_metainfo_is_valid():
    done = judged_by("appstreamcli", "validate", "--no-net", SHIPPED / "org.culmo.Culmo.metainfo.xml")
    assert done.returncode == 0, done.stdout + done.stderr


def test_the_file_type_is_told_by_name_and_by_content(tmp_path):
    make_study(tmp_path / "a.culmo").close()
    head = (tmp_path / "a.culmo").read_bytes()[:100]
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    kind = ET.parse(SHIPPED / "org.culmo.Culmo.mime.xml").getroot().find("m:mime-type", space)
    outer = kind.find("m:magic/m:match", space)
    value = outer.get("value").replace("\\000", "\0").encode()
    assert head[int(outer.get("offset")) :].startswith(value)
    inner = outer.find("m:match", space)
    assert int(inner.get("value"), 16) == APPLICATION_ID
    assert head[int(inner.get("offset")) :][:4] == APPLICATION_ID.to_bytes(4, "big")
    entry = (SHIPPED / "org.culmo.Culmo.desktop").read_text(encoding="utf-8")
    assert f"MimeType={kind.get('type')};" in entry


@pytest.mark.parametrize("name", ["org.culmo.Culmo.svg", "application-x-culmo.svg"])
def test_the_icons_can_be_drawn_at_any_size(qapp, name):
    renderer = QSvgRenderer(str(SHIPPED / name))
    assert renderer.isValid()
    assert not qapp.windowIcon().isNull()
    for side in (16, 256):
        image = QImage(side, side, QImage.Format.Format_ARGB32)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        renderer.render(painter)
        painter.end()
        column = [image.pixelColor(side // 3, y) for y in range(side)]
        assert max(colour.saturation() for colour in column) > 60
        assert 255 in {colour.alpha() for colour in column}


def test_the_manual_page_says_what_the_command_line_does():
    from tools.man_page import TARGET, page

    assert TARGET.read_text(encoding="utf-8") == page(), "run `make man`"
    for command in ("import", "export", "check"):
        assert f".SS {command}" in page()


# ---- one window for a study


RINGING = (
    "import sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication\n"
    "app = QCoreApplication([]); from culmo.desk.doorbell import ring\n"
    "sys.exit(not ring(Path(sys.argv[1])))"
)


def begun_elsewhere(qtbot, *words):
    """What another process gives, while this window goes on."""
    child = subprocess.Popen([sys.executable, *words], stderr=subprocess.PIPE, text=True)
    qtbot.waitUntil(lambda: child.poll() is not None)
    complaint = child.communicate()[1]
    assert "Traceback" not in complaint, complaint
    return child.returncode


def is_answered(qtbot, path):
    """Whether somebody who rings for a study from elsewhere is answered."""
    return begun_elsewhere(qtbot, "-c", RINGING, str(path)) == 0


@pytest.mark.long
def test_a_second_window_rings_at_the_first(qtbot, with_study, tmp_path):
    path = with_study.session.file.path
    with qtbot.waitSignal(with_study.studies.bell.rung):
        assert is_answered(qtbot, path)
    # a program that is started with it ends at once
    with qtbot.waitSignal(with_study.studies.bell.rung):
        assert begun_elsewhere(qtbot, "-m", "culmo", str(path)) == 0
    make_study(tmp_path / "second.culmo").close()
    assert with_study.open_path(tmp_path / "second.culmo")
    assert not is_answered(qtbot, path)
    assert is_answered(qtbot, tmp_path / "second.culmo")


@pytest.mark.long
def test_a_study_that_another_window_has_is_not_opened_here(qtbot, window, tmp_path):
    path = tmp_path / "a.culmo"
    make_study(path).close()
    code = (
        "import sys; from pathlib import Path; from culmo.desk.app import make_app\n"
        "from culmo.desk.window import MainWindow\n"
        "from culmo.desk.settings import Settings; from PySide6.QtCore import QTimer; app = make_app()\n"
        "window = MainWindow(Settings.at(Path(sys.argv[2]))); window.open_path(Path(sys.argv[1]))\n"
        "print('open', flush=True)\n"
        "QTimer.singleShot(20000, app.quit); app.exec()"
    )
    words = [sys.executable, "-c", code, str(path), str(tmp_path / "other.ini")]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout.readline() == "open\n"
        assert not window.open_path(path)
        assert "another window, which has come forward" in window.status.told_text.text()
        # one that is stopped does not answer: that is told, and nobody waits for it
        other.send_signal(signal.SIGSTOP)
        assert not window.open_path(path)
        assert "close it there first" in window.notice.words.text()
        other.send_signal(signal.SIGCONT)
        other.kill()
    assert window.session.study is None


def test_the_bell_hangs_in_a_folder_of_the_users_own(with_study, tmp_path, monkeypatch):
    path = with_study.session.file.path
    bell = Path(doorbell._name(path))
    assert bell.is_socket() and bell.parent.stat().st_mode & 0o077 == 0
    # a folder that others may write to is not used
    runtime = tmp_path / "run"
    (runtime / "culmo").mkdir(parents=True)
    (runtime / "culmo").chmod(0o777)
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(runtime))
    assert runtime not in Path(doorbell._name(path)).parents


def test_who_is_another_user_is_not_answered(qtbot, with_study, monkeypatch):
    monkeypatch.setattr(doorbell, "_is_same_user", lambda line: False)
    assert not is_answered(qtbot, with_study.session.file.path)


def test_a_bell_that_a_crash_left_is_hung_anew(qtbot, window, tmp_path):
    path = tmp_path / "a.culmo"
    make_study(path).close()
    code = (
        "import os, sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication\n"
        "app = QCoreApplication([]); from culmo.desk.doorbell import Doorbell\n"
        "bell = Doorbell(); bell.hang(Path(sys.argv[1])); os.kill(os.getpid(), 9)"
    )
    subprocess.run([sys.executable, "-c", code, str(path)], check=False)
    assert window.open_path(path)
    with qtbot.waitSignal(window.studies.bell.rung):
        assert is_answered(qtbot, path)


# ---- dropped files


def drop(window, *paths):
    held = QMimeData()
    held.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    event = QDropEvent(
        QPointF(5, 5),
        Qt.DropAction.CopyAction,
        held,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)


def test_what_is_dropped_is_opened_taken_in_or_read(window, tmp_path):
    (tmp_path / "list.csv").write_text("name,codes\nIndigo,PB60\n")
    drop(window, tmp_path / "list.csv")
    assert "open or begin a study" in window.notice.words.text().casefold()
    make_study(tmp_path / "a.culmo").close()
    drop(window, tmp_path / "a.culmo")
    assert window.session.file.path == tmp_path / "a.culmo"
    drop(window, tmp_path / "list.csv")
    assert "Indigo" in [paint.name for paint in window.session.paints]
    QImage(200, 200, QImage.Format.Format_RGB32).save(str(tmp_path / "p.png"))
    drop(window, tmp_path / "p.png")
    assert window.rooms.currentIndex() == 3
    settle(window, 30)


# ---- light and night


def test_every_grey_of_both_schemes_is_grey():
    for scheme in (DAY, NIGHT):
        for word in re.findall(r"#[0-9a-f]{6}", style_sheet(scheme)):
            assert word[1:3] == word[3:5] == word[5:7]


def contrast(one, two):
    def light(level):
        share = level / 255
        return share / 12.92 if share <= 0.04045 else ((share + 0.055) / 1.055) ** 2.4

    low, high = sorted((light(one), light(two)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("scheme", [DAY, NIGHT])
def test_text_can_be_read_in_both_schemes(scheme):
    """WCAG 2.1, 1.4.3: text against its ground at least 4.5 : 1."""
    for ground in (scheme.ground, scheme.panel, scheme.raised):
        assert contrast(scheme.text, ground) >= 7
        assert contrast(scheme.soft, ground) >= 4.5


@pytest.mark.parametrize("scheme", [DAY, NIGHT])
def test_edges_of_fields_and_handles_can_be_seen_in_both_schemes(scheme):
    """WCAG 2.1, 1.4.11: what tells a field or a handle from its ground at least 3 : 1."""
    for ground in (scheme.ground, scheme.panel, scheme.raised):
        assert contrast(scheme.edge, ground) >= 3
    sheet = style_sheet(scheme)
    for kind in ("QLineEdit, QPlainTextEdit", "QScrollBar::handle {", "QToolButton#chip {"):
        rule = sheet[sheet.index(kind) :].split("}")[0]
        assert scheme.colour("edge").name() in rule, kind
    for kind in ("QPushButton {", "QCheckBox::indicator, QListView::indicator, QRadioButton::indicator {"):
        assert scheme.colour("soft").name() in sheet[sheet.index(kind) :].split("}")[0], kind


@pytest.mark.long
def test_the_scheme_follows_the_choice_and_is_remembered(qtbot, with_study):
    def ground():
        return with_study.grab().toImage().pixelColor(300, with_study.height() - 8).lightness()

    try:
        light = ground()
        for room in range(6):
            with_study.show_room(room)
        with_study.actions_by_id["scheme night"].trigger()
        assert ground() < 80 < light
        assert with_study.settings.scheme == "night"
        with_study.menus.refresh()
        assert with_study.actions_by_id["scheme night"].isChecked()
    finally:
        choose_scheme(with_study, "light")
    assert ground() == light
    assert QApplication.instance().palette().windowText().color().lightness() == DAY.text
