"""How long the window takes to appear, beside a bare window of the same toolkit."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tools.benches import show

_BARE = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication(["bare"]); window = QMainWindow(); window.resize(1280, 800); window.show()
QTimer.singleShot(0, app.quit); app.exec()
"""
_CULMO = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from culmo.desk.app import make_app
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
app = make_app(); window = MainWindow(Settings.at(Path(sys.argv[1]) / "s.ini")); window.show()
QTimer.singleShot(0, lambda: print("shown", flush=True) or app.quit()); app.exec()
"""
_STUDY = _CULMO.replace("window.show()\n", "window.show(); window.open_path(Path(sys.argv[2]))\n")


def _seconds(code: str, *words: str) -> float:
    start = time.perf_counter()
    # as on a user's machine: modules are compiled once and not at every start
    env = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    child = subprocess.Popen([sys.executable, "-c", code, *words], stdout=subprocess.PIPE, env=env)
    assert child.stdout is not None
    if "print" in code:
        child.stdout.readline()
        taken = time.perf_counter() - start
        child.wait()
    else:
        child.wait()
        taken = time.perf_counter() - start
    if child.returncode:
        raise SystemExit("the window could not be started; is there a display, or QT_QPA_PLATFORM=offscreen?")
    return taken


def run() -> bool:
    """Start each seven times in turn and compare the middles."""
    from culmo.demo.sample import put_sample

    with tempfile.TemporaryDirectory() as folder:
        study = str(put_sample(Path(folder)))
        times: dict[str, list[float]] = {"bare": [], "culmo": [], "study": []}
        for _ in range(7):
            times["bare"].append(_seconds(_BARE))
            times["culmo"].append(_seconds(_CULMO, folder))
            times["study"].append(_seconds(_STUDY, folder, study))
    middle = {name: statistics.median(values) for name, values in times.items()}
    print(
        f"     bare window {middle['bare']:.2f} s, Culmo {middle['culmo']:.2f} s, with the demo {middle['study']:.2f} s"
    )
    fine = show("window appears, times a bare PySide6 window", middle["culmo"] / middle["bare"], 2.5)
    return show("window with the demo, times a bare window", middle["study"] / middle["bare"], 4.0) and fine
