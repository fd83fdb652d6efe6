"""The window lies within its screen, frame and panels included, on the screens that painters have."""

import json
import os
import re
import shutil
import subprocess
import sys
import time
from contextlib import contextmanager

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QMargins, QRect

from culmo.desk.screens import fitted
from support.patience import LONG_S

_SHOWN = """
import json, sys
from pathlib import Path
from culmo.desk.app import make_app, settle
from culmo.desk.screens import show_fitted
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
app = make_app()
window = MainWindow(Settings.at(Path(sys.argv[1])))
show_fitted(window)
settle(window, 600)
outer, room = window.frameGeometry(), app.primaryScreen().availableGeometry()
print(json.dumps([room.contains(outer), outer.width(), outer.height()]), flush=True)
sys.stdin.readline()  # it stands until somebody has measured it
window.close()
"""

_PANEL = 28
_MANAGER = """<?xml version="1.0"?>
<openbox_config xmlns="http://openbox.org/3.4/rc">
  <margins><top>{panel}</top><bottom>0</bottom><left>0</left><right>0</right></margins>
</openbox_config>
"""


@pytest.mark.parametrize(
    ("screen", "panel", "title"),
    [
        ((1280, 800), 28, 37),
        ((1366, 768), 40, 37),
        ((1024, 700), 32, 30),
        ((1920, 1080), 28, 37),
        ((3840, 2160), 0, 0),
    ],
)
def test_a_first_window_fits_its_screen_with_frame_and_panel(screen, panel, title):
    available = QRect(0, panel, screen[0], screen[1] - panel)
    frame = QMargins(4, title, 4, 4)
    there = fitted(QRect(30, 40, 1280, 800), frame, available)
    assert available.contains(there.marginsAdded(frame))
    if available.marginsRemoved(frame).contains(QRect(30, 40, 1280, 800)):
        assert there == QRect(30, 40, 1280, 800)


@given(
    st.integers(-3000, 3000), st.integers(-3000, 3000), st.integers(300, 4000), st.integers(300, 3000),
    st.integers(0, 12), st.integers(0, 60), st.integers(0, 60), st.integers(640, 5000), st.integers(480, 3000),
    st.integers(-2000, 2000),
)  # fmt: skip
def test_whatever_was_remembered_comes_back_into_sight(
    x, y, wide, high, side, title, panel, room_x, room_y, left
):
    available, frame = QRect(left, panel, room_x, room_y - panel), QMargins(side, title, side, side)
    there = fitted(QRect(x, y, wide, high), frame, available)
    assert available.contains(there.marginsAdded(frame))
    assert there.width() <= wide and there.height() <= high
    assert fitted(there, frame, available) == there


@contextmanager
def screen_of(size):
    """A display of that size, as an X server gives it; gives its environment."""
    reads, writes = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writes), "-screen", "0", f"{size}x24", "-nolisten", "tcp"],
        pass_fds=[writes], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(writes)
    try:
        with os.fdopen(reads) as said:
            number = said.readline().strip()
        yield {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
    finally:
        server.terminate()
        server.wait()


@contextmanager
def shown(folder, env):
    """Culmo's window; gives what it says of itself."""
    culmo = subprocess.Popen(
        [sys.executable, "-c", _SHOWN, str(folder / "s.ini")], env=env, text=True, stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )  # fmt: skip
    try:
        yield json.loads(culmo.stdout.readline())
    finally:
        culmo.communicate("\n", timeout=LONG_S)


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="there is no virtual display here")
@pytest.mark.parametrize("size", ["1024x700", "1366x768"])
def test_the_window_is_shown_within_a_small_screen(tmp_path, size):
    with screen_of(size) as env, shown(tmp_path, env) as (inside, wide, high):
        assert inside
        assert wide >= 960
        assert high >= 560


@pytest.mark.long
@pytest.mark.skipif(
    None in map(shutil.which, ("Xvfb", "openbox", "xwininfo")), reason="there is no window manager here"
)
@pytest.mark.parametrize("size", ["1024x700", "1280x720", "1280x800"])
def test_a_window_manager_with_a_panel_keeps_all_of_the_window_in_sight(tmp_path, size):
    """Measured from outside, by the X server's own tool."""
    (tmp_path / "rc.xml").write_text(_MANAGER.format(panel=_PANEL))
    wide, high = map(int, size.split("x"))
    with screen_of(size) as env:
        manager = subprocess.Popen(
            ["openbox", "--config-file", tmp_path / "rc.xml"], env=env, stderr=subprocess.DEVNULL
        )
        try:
            time.sleep(1)
            with shown(tmp_path, env) as (inside, *_):
                told = subprocess.run(
                    ["xwininfo", "-frame", "-name", "Culmo"],
                    env=env,
                    capture_output=True,
                    text=True,
                    check=True,
                ).stdout
        finally:
            manager.terminate()
            manager.wait()
    left, top, width, height = (
        int(re.search(rf"{words}:\s+(-?\d+)", told)[1])
        for words in ("Absolute upper-left X", "Absolute upper-left Y", "Width", "Height")
    )
    assert inside
    assert (left >= 0, top >= _PANEL) == (True, True), told
    assert left + width <= wide
    assert top + height <= high
    assert width >= 900
