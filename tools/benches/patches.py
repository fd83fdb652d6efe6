"""What the real paint costs: room in the study, drawing, scrolling, opening a study that has much of it."""

import hashlib
import os
import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from tools.benches import show
from tools.benches.large import _USABLE, ROOM_NAMES, _child

if TYPE_CHECKING:
    from culmo.desk.drawing.looks import Looks
    from culmo.desk.drawing.seen import Seen

_MANY = 10_000
_SHEET_MB = 3.0


def run() -> bool:
    """Size, drawing, scrolling, opening."""
    from culmo.desk.app import make_app

    make_app()
    with tempfile.TemporaryDirectory() as folder:
        fine = _size(Path(folder))
        fine = _drawing(Path(folder)) and fine
        fine = _scrolling(Path(folder)) and fine
        return _opening(Path(folder)) and fine


def _size(folder: Path) -> bool:
    """An 8 x 8 on A4 in a picture of fifteen megapixels, which shows it finer than a patch is kept."""
    from culmo.core.capture.camera import Exposure
    from culmo.core.capture.read import read_sheet
    from culmo.study import acts
    from culmo.study.photo_acts import read_picture
    from support.builders import make_study
    from support.photos import paint_sheet

    painted = paint_sheet(count=8)
    sheet = painted.sheet
    _, photo = painted.shoot(Exposure(width_px=4400, tilt_deg=6.0, falloff=0.2, kelvin=4200.0, noise=0.008))
    names = sorted({name for cell in sheet.cells for name in cell.recipe.names})
    reading = read_sheet(photo, sheet)
    path = folder / "size.culmo"
    with make_study(path, names) as study:
        study.apply(acts.add_sheet(study, sheet))
        study.apply(read_picture(study, 1, reading.readings, shot=reading.shot))
    bare = path.stat().st_size
    path.unlink()
    with make_study(path, names) as study:
        study.apply(acts.add_sheet(study, sheet))
        study.apply(read_picture(study, 1, reading.readings, shot=reading.shot, patches=reading.patches))
    more = (path.stat().st_size - bare) / 1e6
    print(
        f"     {1000 * more / len(sheet.cells):.1f} kB a cell, {reading.patches['r01c01'].per_mm:.1f} pixels a mm"
    )
    return show("the patches of an 8 x 8 in the study, MB", more, _SHEET_MB)


def _drawing(folder: Path) -> bool:
    """A 12 x 12 that was read from a picture, with its real paint and as plain colour beside what was foretold."""
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QImage, QPainter

    from culmo.core.capture.camera import Exposure
    from culmo.core.capture.read import read_sheet
    from culmo.core.paint.estimate import learn
    from culmo.desk.drawing.looks import Looks
    from culmo.desk.drawing.seen import see
    from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
    from culmo.study import acts, records
    from culmo.study.photo_acts import read_picture
    from support.builders import make_study
    from support.photos import paint_sheet

    painted = paint_sheet(count=12, paper="A3")
    _, photo = painted.shoot(Exposure(width_px=3200, tilt_deg=6.0, falloff=0.2, kelvin=4200.0, noise=0.008))
    names = sorted({name for cell in painted.sheet.cells for name in cell.recipe.names})
    reading = read_sheet(photo, painted.sheet)
    with make_study(folder / "twelve.culmo", names) as study:
        study.apply(acts.add_sheet(study, painted.sheet))
        study.apply(read_picture(study, 1, reading.readings, shot=reading.shot, patches=reading.patches))
        estimate = learn(names, records.bare_readings(study))
        seen = see(study, 1, estimate)
    sheet = seen.record.sheet
    image = QImage(1000, 720, QImage.Format.Format_RGB32)
    transform, scale = sheet_transform(sheet, QRectF(image.rect()))

    def drawn(looks: "Looks", what: "Seen") -> float:
        start = time.perf_counter()
        painter = QPainter(image)
        painter.setTransform(transform)
        draw_sheet(painter, sheet, looks, SheetStyle(looks=what.looks, pixels_per_mm=scale))
        painter.end()
        return time.perf_counter() - start

    without = replace(seen, looks={name: replace(look, patch=None) for name, look in seen.looks.items()})
    times: dict[str, list[float]] = {
        "first, real": [],
        "first, plain": [],
        "again, real": [],
        "again, plain": [],
    }
    for _ in range(7):
        for kind, what in (("real", seen), ("plain", without)):
            looks = Looks(estimate, lambda _: 0.1)
            times[f"first, {kind}"].append(drawn(looks, what))
            times[f"again, {kind}"].append(drawn(looks, what))
    middle = {name: statistics.median(values) for name, values in times.items()}
    print("     12 x 12: " + ", ".join(f"{name} {1000 * value:.0f} ms" for name, value in middle.items()))
    first = middle["first, real"] / middle["first, plain"]
    fine = show("drawing 12 x 12 with patches for the first time, times without", first, 2.0)
    return show("and again", middle["again, real"] / middle["again, plain"], 2.0) and fine


def _scrolling(folder: Path) -> bool:
    """The longest stop while the strokes of sixty paints are scrolled through, of all of which there is a real one."""
    from PySide6.QtWidgets import QApplication

    from culmo.desk.app import settle
    from culmo.desk.room_names import RoomName
    from culmo.desk.rooms.box.pages import BoxPageName
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow
    from culmo.study.patches import WashRun
    from support.builders import make_study
    from support.patched import patch_of, real_patch

    names = [f"Paint {place:02d}" for place in range(60)]
    path = folder / "sixty.culmo"
    with make_study(path, names):
        pass
    window = MainWindow(Settings.at(folder / "sixty.ini"))
    window.resize(1280, 800)
    window.show()
    window.open_path(path)
    settle(window)
    looks = window.session.learning.looks
    assert looks is not None
    looks.runs = {
        name.casefold(): WashRun(
            real_patch(place, patch_of(place, size=(264, 660), grain_px=2.0)), (50.0, 5.0, -5.0), (1.0, 0.0)
        )
        for place, name in enumerate(names)
    }
    window.show_room(RoomName.BOX)
    window.box.shows.choose(BoxPageName.STROKES)
    settle(window)
    bar = window.box.strokes.verticalScrollBar()
    window.repaint()
    QApplication.processEvents()
    worst, steps = 0.0, 0
    for value in range(0, bar.maximum() + 1, 60):
        start = time.perf_counter()
        bar.setValue(value)
        QApplication.processEvents()
        worst, steps = max(worst, time.perf_counter() - start), steps + 1
    window.session.unsaved.leave_out()
    window.close()
    print(f"     {steps} steps of 60 pixels")
    return show("the longest stop while strokes are scrolled, s", worst, 0.05)


def _opening(folder: Path) -> bool:
    """Opening a study with ten thousand patches, as `large` opens its own."""
    from culmo.study.file import Study
    from culmo.study.patches import texture_text
    from support.large import make_large
    from support.patched import SEEN, TEXTURE, patch_of

    path = make_large(folder / "many.culmo", 24, 75, _MANY + 72)
    data = [patch_of(place, size=(140, 190), grain_px=2.0).data for place in range(25)]
    with Study(path) as study:
        readings = study.rows("readings", "cell_id NOT NULL")[:_MANY]
        with study.disk.transaction() as db:
            for place, row in enumerate(readings):
                own = {
                    "reading_id": row["id"], "seen": SEEN, "source": row["source"], "taken": row["taken"],
                    "left_mm": -1.2, "top_mm": -1.2, "width_mm": 20.0, "height_mm": 15.0, "per_mm": 8.0, "path": "",
                    "digest": hashlib.sha256(os.urandom(8)).hexdigest()[:24], "data": data[place % len(data)],
                    "texture": texture_text(TEXTURE), "created": row["taken"],
                }  # fmt: skip
                db.execute(
                    f"INSERT INTO patches ({', '.join(own)}) VALUES ({', '.join('?' * len(own))})",
                    tuple(own.values()),
                )
    assert len(readings) == _MANY
    print(f"     {_MANY} patches, {path.stat().st_size / 1e6:.0f} MB")
    first = _child(_USABLE, str(folder), str(path), "0")[0]
    fine = show("opening it for the first time on this machine, s", first, 3.0)
    for room, name in enumerate(ROOM_NAMES):
        opened = statistics.median(_child(_USABLE, str(folder), str(path), str(room))[0] for _ in range(3))
        fine = show(f"opening a study of ten thousand patches in the {name} room, s", opened, 2.0) and fine
    return fine
