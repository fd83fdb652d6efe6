"""How fast the Plan room redraws while a slider is dragged."""

import os
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

from support.begun import new_grid
from tools.benches import show
from tools.benches.speed import yardstick

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def run() -> bool:
    """Drag the gap of a 12 x 12 and of a 24 x 24 grid, drawn in full."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

    from culmo.core.paint.recipe import mix
    from culmo.desk.app import make_app, settle
    from culmo.desk.room_names import RoomName
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow
    from culmo.study import acts
    from culmo.study.file import Study
    from support.paints import make_painter

    unit, fine = yardstick(), True
    app = make_app()
    with tempfile.TemporaryDirectory() as folder:
        for count, limit in ((12, 0.05), (24, 0.15)):
            path = Path(folder) / f"{count}.culmo"
            painter = make_painter(count, 4)
            with Study.create(path, "Bench") as study:
                for paint in painter.paints:
                    card = [
                        painter.read(mix([paint.name])),
                        painter.read(mix([paint.name], wash=0.2)),
                        painter.read(mix([paint.name]), "ink"),
                    ]
                    study.apply(acts.add_paint(study, acts.PaintEntry(paint.name), card))
            window = MainWindow(Settings.at(Path(folder) / "s.ini"))
            window.resize(1280, 800)
            window.show()
            window.open_path(path)
            settle(window, 50)
            for paint in window.session.paints:
                window.session.selection.in_hand.append(
                    paint.name
                )  # the bench takes more in hand than the window lets one
            window.show_room(RoomName.PLAN)
            new_grid(window.plan)
            page = window.plan.slip.layout_page
            settle(window, 50)
            assert len(window.plan.trial.cells) == count * count
            times = []
            for value in (1, 2, 3, 4, 5, 6, 5, 4, 3, 2, 1):
                start = time.perf_counter()
                page.fields["gap_mm"].slider.setValue(value)
                window.plan.trying.rest.stop()  # the hand goes on: what follows its rest is no part, on a slow machine too
                _until_drawn(window)
                times.append(time.perf_counter() - start)
            middle = sorted(times)[len(times) // 2]
            fine &= show(f"dragging a slider redraws {count} x {count}", middle, limit, " s")
            fine &= show(
                f"dragging a slider redraws {count} x {count}, in yardsticks", middle / unit, limit / 0.1
            )
            window.session.unsaved.leave_out()  # the plan that was tried is not asked about
            window.close()
        fine &= _pauses(Path(folder))
    del app
    return fine


def _until_drawn(window: "MainWindow") -> None:
    """Turn the loop until what was asked for is on view."""
    from PySide6.QtWidgets import QApplication

    QApplication.processEvents()
    while window.session.drawing.busy():
        QApplication.processEvents()
    window.plan.view.repaint()
    while window.session.drawing.busy():
        QApplication.processEvents()


def _pauses(folder: Path) -> bool:
    """How long the window stands still while a letter is typed and a paint ticked, with forty paints each with each."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from culmo.desk.app import keep_loaded, settle
    from culmo.desk.jobs import GRACE_MS
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow
    from support.forty import try_all_of

    window = MainWindow(Settings.at(folder / "forty.ini"))
    window.resize(1280, 800)
    window.show()
    try_all_of(window, folder / "forty.culmo", 40)
    keep_loaded()
    page = window.plan.slip.layout_page
    title, item = page.fields["title"].widget, page.fields["paints"].widget.item(39)
    begun = time.perf_counter()
    window.session.drawing.grace_ms = 60_000.0
    window.plan.trying.lay_out_now()
    window.plan.view.repaint()
    whole = time.perf_counter() - begun
    window.session.drawing.grace_ms = GRACE_MS
    fine = True
    for words, act in (
        ("typing a letter", lambda: QTest.keyClicks(title, "a")),
        ("ticking a paint", lambda: item.setCheckState(Qt.CheckState.Unchecked)),
    ):
        longest = []
        for _ in range(3):
            item.setCheckState(Qt.CheckState.Checked)
            settle(window, 50)
            worst, start = 0.0, time.perf_counter()
            act()
            while window.session.drawing.busy() or window.session.runner.busy():
                worst = max(worst, time.perf_counter() - start)
                start = time.perf_counter()
                QApplication.processEvents()
            longest.append(max(worst, time.perf_counter() - start))
        pause = sorted(longest)[1]
        fine &= show(f"the longest pause after {words}, 40 x 40", pause, 0.1, " s")
        fine &= show(f"the longest pause after {words}, of the work as a whole", pause / whole, 0.1)
    window.session.unsaved.leave_out()
    window.close()
    return fine
