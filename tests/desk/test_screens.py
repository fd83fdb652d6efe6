"""The window lies within its screen, frame and panels included, on the screens that painters have."""

import json
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QMargins, QRect

from culmo.desk.screens import fitted

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
print(json.dumps([room.contains(outer), outer.width(), outer.height()]))
window.close()
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


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="there is no virtual display here")
@pytest.mark.parametrize("size", ["1024x700", "1366x768"])
def test_the_window_is_shown_within_a_small_screen(tmp_path, size):
    """On a display of that size, as an X server gives it."""
    number = 90 + os.getpid() % 400
    server = subprocess.Popen(
        ["Xvfb", f":{number}", "-screen", "0", f"{size}x24", "-nolisten", "tcp"], stderr=subprocess.DEVNULL
    )
    try:
        for _ in range(50):
            if Path(f"/tmp/.X11-unix/X{number}").exists():
                break
            time.sleep(0.1)
        done = subprocess.run(
            [sys.executable, "-c", _SHOWN, str(tmp_path / "s.ini")], capture_output=True, text=True, check=False,
            env={**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}, timeout=120,
        )  # fmt: skip
    finally:
        server.terminate()
        server.wait()
    assert done.returncode == 0, done.stderr[-2000:]
    inside, wide, high = json.loads(done.stdout.splitlines()[-1])
    assert inside
    assert wide >= 960 and high >= 560
