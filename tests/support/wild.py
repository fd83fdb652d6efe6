"""A hand over every action there is, with files to choose and background work, in a language: no mistake of the program.

Run as `python -m support.wild LANGUAGE SECONDS SEED FOLDER`; prints how many steps, windows and actions there were.
"""

import logging
import os
import random
import shutil
import sys
import time
import traceback
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from culmo import words

words.use(sys.argv[1], "," if sys.argv[1] == "de" else ".")

from PySide6.QtCore import QMimeData, QUrl
from PySide6.QtGui import QGuiApplication
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QMessageBox,
)

from culmo.desk.app import make_app, settle
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from culmo.study.inspection import inspect
from support.builders import sample_study
from support.hand import WORDS, Hand, answer_dialog

LEAST_STEPS = 25


def answer_all(rng: random.Random, folder: Path) -> None:
    """Dialogs are answered at random, with files that are there and names that are not."""

    def a_file(*_, **__):
        there = [str(path) for path in folder.rglob("*") if path.is_file()]
        return rng.choice([*rng.sample(there, min(len(there), 6)), "", "", str(folder / "none.csv")]), ""

    def a_name(*_, **__):
        ending = rng.choice((".culmo", ".pdf", ".csv", ".json", ".png", ".svg", "", ".gpl"))
        return rng.choice(("", str(folder / f"out {rng.randrange(40)}{ending}"))), ""

    QFileDialog.getOpenFileName = a_file
    QFileDialog.getSaveFileName = a_name
    QFileDialog.getOpenFileNames = lambda *_, **__: ([name for name in (a_file()[0],) if name], "")
    QFileDialog.getExistingDirectory = lambda *_, **__: rng.choice(
        ("", str(folder / f"dir {rng.randrange(40)}"))
    )
    QInputDialog.getText = QInputDialog.getItem = lambda *_, **__: (rng.choice(WORDS), rng.random() < 0.7)
    QInputDialog.getInt = lambda *_, **__: (rng.randrange(1, 5), rng.random() < 0.7)
    QMessageBox.question = lambda *_, **__: rng.choice(
        (QMessageBox.StandardButton.Yes, QMessageBox.StandardButton.No)
    )
    QPrintDialog.exec = lambda *_: QDialog.DialogCode.Rejected
    QMenu.exec = QMenu.popup = lambda *_: None

    QDialog.exec = lambda dialog: answer_dialog(dialog, rng)


def main(seconds: str, seed: str, place: str) -> int:
    """Press on till the time is over, and for as many steps as are worth the name on a slow machine too."""
    folder, rng = Path(place), random.Random(f"wild {seed}")
    os.environ["XDG_DATA_HOME"] = str(folder / "data")
    app = make_app()
    demo = sample_study(folder / "demo")
    (folder / "more.csv").write_text(
        "recipe,L,a,b\nLemon + Rose,50,20,20\nNew one,40,1,1\nbad,x,y,z\n", encoding="utf-8"
    )
    (folder / "bad.culmo").write_bytes(b"no study")
    answer_all(rng, folder)
    defects: list[str] = []
    sys.excepthook = lambda *error: defects.append("".join(traceback.format_exception(*error)))
    handler = logging.Handler(logging.ERROR)
    handler.emit = lambda record: defects.append(record.getMessage() + str(record.exc_info))
    logging.getLogger("culmo").addHandler(handler)
    until, steps, windows = time.monotonic() + float(seconds), 0, 0
    done: list[str] = []
    while time.monotonic() < until or steps < LEAST_STEPS:
        windows += 1
        path = folder / f"tried {windows}.culmo"
        shutil.copy(demo, path)
        window = MainWindow(Settings.at(folder / "s.ini"))
        window.resize(1280, 800)
        window.show()
        window.open_path(path)
        settle(window, 5)
        hand = Hand(window, rng.random())
        while (time.monotonic() < until or steps < LEAST_STEPS) and window.isVisible():
            held = QMimeData()
            if rng.random() < 0.3:
                held.setUrls([QUrl.fromLocalFile(str(folder / "more.csv"))])
            else:
                held.setText(rng.choice(WORDS))
            if rng.random() < 0.1:
                QGuiApplication.clipboard().setMimeData(held)
            try:
                hand.step()
                QApplication.processEvents()
                if rng.random() < 0.1 and window.session.study is not None:
                    window.show_room(rng.randrange(6))
            except Exception:  # noqa: BLE001 - what is raised into this hand is a defect too
                defects.append(traceback.format_exc())
            steps += 1
            if defects:
                QGuiApplication.clipboard().clear()
                print("\n".join(hand.done[-25:]), defects[0], sep="\n", file=sys.stderr)
                return 1
        done += hand.done
        window.session.unsaved.leave_out()
        left = window.session.file.path if window.session.study is not None else None
        window.close()
        window.deleteLater()
        app.processEvents()
        if left is not None and left.exists():
            found = inspect(left)
            if found.problems:
                print(f"{left} is not sound: {found.problems}", file=sys.stderr)
                return 1
    QGuiApplication.clipboard().clear()  # what lies on it must not outlive the application
    ordered = {words.split(" ", 1)[1] for words in done if words.startswith("order ")}
    print(steps, windows, len(ordered))
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[2:5]))
