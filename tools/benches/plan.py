"""How fast the Plan room redraws while a slider is dragged."""

import os
import tempfile
import time
from pathlib import Path

from tools.benches import show
from tools.benches.speed import yardstick


def run() -> bool:
    """Drag the gap of a 12 x 12 and of a 24 x 24 grid, drawn in full."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from culmo.core.paint.recipe import mix
    from culmo.desk.app import make_app, settle
    from culmo.desk.settings import Settings
    from culmo.desk.window import PLAN, MainWindow
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
                window.session.in_hand.append(
                    paint.name
                )  # the bench takes more in hand than the window lets one
            window.show_room(PLAN)
            window.plan.new_grid()
            page = window.plan.slip.layout_page
            settle(window, 50)
            assert len(window.plan.trial.cells) == count * count
            times = []
            for value in (1, 2, 3, 4, 5, 6, 5, 4, 3, 2, 1):
                start = time.perf_counter()
                page.fields["gap_mm"].slider.setValue(value)
                QApplication.processEvents()
                window.plan.view.repaint()
                times.append(time.perf_counter() - start)
            middle = sorted(times)[len(times) // 2]
            fine &= show(f"dragging a slider redraws {count} x {count}", middle, limit, " s")
            fine &= show(
                f"dragging a slider redraws {count} x {count}, in yardsticks", middle / unit, limit / 0.1
            )
            window.session.unsaved.leave_out()  # the plan that was tried is not asked about
            window.close()
    del app
    return fine
