"""Starts the window."""

import gc
import sys
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QEventLoop, QStandardPaths, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from culmo import log
from culmo.desk import accessible
from culmo.desk.defects import Defects
from culmo.desk.display import check_display
from culmo.desk.doorbell import ring
from culmo.desk.ending import Ending
from culmo.desk.language import translate_qt
from culmo.desk.room_names import RoomName
from culmo.desk.screens import show_fitted
from culmo.desk.settings import Settings
from culmo.desk.theme import apply_theme, load_fonts
from culmo.desk.window import MainWindow

SWITCH_S = 0.0005  # how soon the window's own thread has its turn while others work: each of its calls may wait so long


def make_app(arguments: list[str] | None = None) -> QApplication:
    """The application with its look."""
    sys.setswitchinterval(SWITCH_S)
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(arguments or ["culmo"])
    app.setApplicationName("Culmo")
    app.setDesktopFileName("org.culmo.Culmo")
    app.setWindowIcon(QIcon(str(files("culmo.data").joinpath("desktop", "org.culmo.Culmo.svg"))))
    load_fonts()
    apply_theme(app)
    accessible.install()
    translate_qt(app)
    return app


def keep_loaded() -> None:
    """What is loaded stays: to look through it for garbage again and again would hold up the window."""
    gc.collect()
    gc.freeze()


def run_window(path: Path | None, shots: Path | None = None, settings: Settings | None = None) -> int:
    """Open the window, with a study where one is given; with `shots`, leave pictures there and end.

    A study that another window of Culmo has comes forward there.
    """
    check_display()
    app = make_app()
    log.begin()
    if path is not None and shots is None and ring(path):
        return 0
    Defects(app).install()
    if settings is None:
        settings = Settings.at(shots / "shots.ini") if shots is not None else Settings.of_user()
    window = MainWindow(settings)
    if shots is None:
        show_fitted(window)
    else:
        window.show()  # pictures are of one size, whatever the screen
    if path is None and settings.recent and Path(settings.recent[0]).is_file():
        path = Path(settings.recent[0])
    if path is not None:
        window.open_path(path)
    if shots is not None:
        take_shots(window, shots)
        window.session.unsaved.leave_out()  # nobody is there to be asked
        window.close()
        (shots / "shots.ini").unlink(missing_ok=True)
        return 0
    keep_loaded()
    ending = Ending(app, window)
    window.start_again = ending.start_again
    try:
        return app.exec()
    finally:
        ending.restore()
        ending.begin_anew()


def settle(window: MainWindow, milliseconds: int = 60) -> None:
    """Let the window finish its background work and draw."""
    while True:
        loop = QEventLoop()
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()
        session = window.session
        if session.settled and not session.runner.busy() and not session.drawing.busy():
            return


def take_shots(window: MainWindow, folder: Path) -> None:
    """One picture of each room, made from what is open."""
    folder.mkdir(parents=True, exist_ok=True)
    settle(window)
    titles = {title: sheet_id for sheet_id, title in _sheets(window)}
    read = titles.get("First eight, wing cases")
    travelling = titles.get("Travelling box")
    for name in ("Rose", "Viridian"):
        window.session.selection.toggle_in_hand(name)
    for place in RoomName:
        room = place.name.lower()
        if room == "paint" and travelling:
            window.session.selection.select_sheet(travelling)
        elif room in ("read", "weigh") and read:
            window.session.selection.select_sheet(read)
        window.show_room(place)
        if room in ("plan", "read", "weigh"):
            window.state.select("r04c02")
        settle(window)
        window.grab().save(str(folder / f"{room}.png"))
        if room == "read":
            _take_picture_shot(window, folder)
        if room == "box":
            _take_box_shots(window, folder)
        if room == "weigh":
            _take_weigh_shots(window, folder)


def _take_weigh_shots(window: MainWindow, folder: Path) -> None:
    """All that the box can mix, a wanted colour, the few paints that are enough, what drying does."""
    from culmo.desk.rooms.weigh.map_model import MapRange
    from culmo.desk.rooms.weigh.view import WeighPageName
    from culmo.study.palette_acts import wanted_lists

    weigh = window.weigh
    for page, name in (
        (WeighPageName.MAP, "weigh-map"),
        (WeighPageName.FIND, "weigh-find"),
        (WeighPageName.FEWER, "weigh-fewer"),
        (WeighPageName.WATER, "weigh-water"),
    ):
        weigh.shows.choose(page)
        if page == WeighPageName.MAP:
            weigh.page(WeighPageName.MAP).source.setCurrentIndex(MapRange.ALL_MIXES)  # type: ignore[attr-defined]  # the map page's own
        if page == WeighPageName.FIND:
            wanted = wanted_lists(window.session.file).get("Beetle plate", [])
            for colour in wanted:
                if colour.name == "coppery green":
                    weigh.find_colour(colour.lab, colour.name)
        for _ in range(3):  # one piece of work begins the next
            settle(window)
        window.grab().save(str(folder / f"{name}.png"))
    weigh.shows.choose(WeighPageName.SHEET)


def _take_picture_shot(window: MainWindow, folder: Path) -> None:
    """A practice photo in the Read room, with the doubtful cells pointed out."""
    from culmo.desk.rooms.read.model import ReadShows  # pictures alone need it

    window.read.desk.practice_seed = 4
    window.read.desk.practise()
    for _ in range(100):
        settle(window)
        if window.read.trial is not None:
            break
    window.grab().save(str(folder / "read-picture.png"))
    _take_old_shot(window, folder)
    window.read.desk.discard()
    window.read.shows.choose(ReadShows.SHEET)


def _take_old_shot(window: MainWindow, folder: Path) -> None:
    """The same picture as if its sheet were an old chart: lines over it, names beside it."""
    from dataclasses import replace

    from culmo.core.chart.old import with_count
    from culmo.desk.rooms.read.old_dialog import OldChartDialog

    trial, record = window.read.trial, window.state.record
    corners = window.read.picture.corners
    if trial is None or record is None or corners is None:
        return
    names = tuple(dict.fromkeys(cell.recipe.names[0] for cell in record.sheet.cells if cell.recipe.is_pure))
    known = [paint.name for paint in window.session.paints]
    dialog = OldChartDialog(window, trial.preview, known, "Eight by eight, years ago")
    chart = with_count(dialog.chart, len(names), len(names))
    dialog.take(replace(chart, corners=tuple((float(x), float(y)) for x, y in corners), names_across=names))
    dialog.snap()
    dialog.resize(1280, 800)
    dialog.show()
    settle(window)
    dialog.grab().save(str(folder / "read-old.png"))
    dialog.deleteLater()


def _take_box_shots(window: MainWindow, folder: Path) -> None:
    """The pages of the Box room and of its slip."""
    from culmo.desk.rooms.box.pages import BoxPageName  # pictures alone need these
    from culmo.desk.rooms.plan.slip import PlanSlipPage
    from culmo.desk.rooms.plan.view import PlanShows

    box, session = window.box, window.session
    box_id = session.selection.box_id
    box.select("Ultramarine")
    for page, name in enumerate(
        (
            "box",
            "box-strokes",
            "box-table",
            "box-roles",
            "",  # what repeats and what is missing is told by the verdict too
            "",
            "box-opposites",
            "box-judged",
        )
    ):
        if not name:
            continue
        box.shows.choose(page)
        box.pages.turn_to({"box-strokes": box.known, "box-roles": box.label}.get(name, box.slip))
        if name == "box-judged":  # the small box has gaps to show
            session.selection.select_box(session.boxes[-1].id if session.boxes else None)
        settle(window)
        window.grab().save(str(folder / f"{name}.png"))
    session.selection.select_box(box_id)
    titles = {title: sheet_id for sheet_id, title in _sheets(window)}
    window.show_room(RoomName.PLAN)
    if "Six anchors, twelve places" in titles:
        session.selection.select_sheet(titles["Six anchors, twelve places"])
        window.plan.slip.tabs.choose(PlanSlipPage.RULING)
        window.plan.shows.choose(PlanShows.PREDICTED)
        settle(window)
        window.grab().save(str(folder / "plan-wheel.png"))
    names = [paint.name for paint in session.selection.paints_in_use()[:7]]
    if len(names) > 1:  # as a sheet is laid out
        from culmo.core.chart.kinds import KIND_KEYS  # pictures alone need it
        from culmo.core.chart.options import SomePaints

        window.plan.begin(KIND_KEYS[0], paints=SomePaints().write(names))
        for _ in range(3):
            settle(window)
        window.grab().save(str(folder / "plan-layout.png"))
        window.plan.trying.discard()
    window.plan.slip.tabs.choose(PlanSlipPage.CELL)
    session.selection.select_sheet(next((sheet_id for sheet_id, _ in _sheets(window)), None))
    window.show_room(RoomName.BOX)
    box.shows.choose(BoxPageName.BOX)
    box.pages.turn_to(box.slip)


def _sheets(window: MainWindow) -> list[tuple[int, str]]:
    from culmo.study.records import sheet_titles

    return sheet_titles(window.session.file)


def default_demo_folder() -> Path:
    """Where the sample study lies when nothing else is said."""
    return (
        Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericDataLocation)) / "culmo"
    )
