"""A study of many years: twenty thousand readings, three hundred sheets, sixty paints."""

import resource
import statistics
import tempfile
import time
from datetime import date
from pathlib import Path

from tools.benches import show
from tools.benches.window import _BARE, _STUDY, _seconds

ROOM_NAMES = ("Box", "Plan", "Paint", "Read", "Weigh", "Daybook")
_USABLE = (
    _STUDY.replace(
        "app = make_app()",
        "import time, resource\nfrom PySide6.QtWidgets import QApplication\napp = make_app()",
    )
    .replace(
        "window.open_path(Path(sys.argv[2]))",
        "window.settings.room = int(sys.argv[3]); app.processEvents(); "
        "t = time.perf_counter(); window.open_path(Path(sys.argv[2])); app.processEvents(); "
        "print(f'opened {time.perf_counter() - t:.3f}', flush=True)",
    )
    .replace('"s.ini")', '"s.ini", Path(sys.argv[1]) / "learned")')
)  # as the program itself keeps what it knows
# until the wells have the colours that were learned
_LEARNED = """
import sys, time
from pathlib import Path
from culmo.desk.app import make_app
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
folder = Path(sys.argv[1])
app = make_app(); window = MainWindow(Settings.at(folder / "l.ini", folder / "learned")); window.resize(1280, 800)
window.show(); app.processEvents()
start = time.perf_counter(); window.open_path(Path(sys.argv[2]))
while window.session.learning.estimate is None: app.processEvents(); time.sleep(0.002)
print(time.perf_counter() - start)
window.close()
"""
# in each room what is done there most
_MEMORY = """
import json, sys, time
from pathlib import Path
from culmo.desk.app import make_app, settle
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from culmo.study import acts, note_acts, paint_acts
app = make_app(); window = MainWindow(Settings.at(Path(sys.argv[1]) / "m.ini")); window.resize(1280, 800); window.show()
window.open_path(Path(sys.argv[2])); settle(window)
for room in range(6):
    window.show_room(room); settle(window)
place, session = int(sys.argv[3]), window.session
study = session.file
cells = [row["id"] for row in study.rows("cells", "sheet_id = ?", (session.selection.sheet_id,))]
strokes = [row["id"] for row in study.rows("strokes", "cell_id = ?", (cells[0],))]
paint = study.row("paints", 1)
entry = lambda n: acts.PaintEntry(paint["name"], paint["codes"], "owned", None, f"note {n}", json.loads(paint["label"]))
act = (
    lambda n: acts.edit_paint(study, 1, entry(n)), lambda n: acts.mark_keeper(study, cells[n], True),
    lambda n: paint_acts.note_stroke(study, strokes[0], f"note {n}"), lambda n: acts.note_cell(study, cells[n], f"{n}"),
    lambda n: acts.mark_keeper(study, cells[-1 - n], True), lambda n: note_acts.add_note(study, f"note {n}"),
)[place]
window.show_room(place)
settle(window)
spent = []
for number in range(9):
    command = act(number)
    start = time.perf_counter(); session.do(command); spent.append(time.perf_counter() - start)
    session.runner.cancel("learn"); settle(window)
# not the resource module's figure, which a process inherits from the one that started it
status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
print(sorted(spent)[len(spent) // 2], int(status["VmHWM"].split()[0]) / 1024)
window.close()
"""


# a long day: what is done over and over, till all that the room shows stands as it should
_DAY = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from culmo.desk.app import make_app, settle
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from culmo.study import acts, note_acts
app = make_app(); window = MainWindow(Settings.at(Path(sys.argv[1]) / "d.ini")); window.resize(1280, 800); window.show()
window.open_path(Path(sys.argv[2])); settle(window)
for room in range(6):
    window.show_room(room); settle(window)
session = window.session
cells = [row["id"] for row in session.file.rows("cells", "sheet_id = ?", (session.selection.sheet_id,))]
sheets = [row["id"] for row in session.file.rows("sheets")][3:12]
def timed(act):
    spent = []
    for number in range(9):
        start = time.perf_counter(); act(number); app.processEvents(); spent.append(time.perf_counter() - start)
        session.runner.cancel("learn"); settle(window, 100)
    return sorted(spent)[len(spent) // 2]
window.show_room(5); settle(window)
note = timed(lambda n: session.do(note_acts.add_note(session.file, f"note {n}")))
reading = timed(lambda n: session.do(acts.read_cell(session.file, session.selection.sheet_id, cells[n], (50.0, 1.0, n))))
undo = timed(lambda n: session.undo.undo())
window.show_room(3); settle(window)
switch = timed(lambda n: session.selection.select_sheet(sheets[n]))
print(note, reading, undo, switch)
window.close()
"""


def _child(code: str, *words: str) -> list[float]:
    import os
    import subprocess
    import sys

    env = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    done = subprocess.run(
        [sys.executable, "-c", code, *words], capture_output=True, text=True, env=env, check=True
    )
    return [float(word) for word in done.stdout.replace("opened", " ").split() if word[0].isdigit()]


def run() -> bool:
    """Opening, saving, searching, memory."""
    from culmo.study import note_acts
    from culmo.study.file import Study
    from culmo.study.search import Index, parse_query, search
    from support.large import make_large

    fine = True
    with tempfile.TemporaryDirectory() as folder:
        path = make_large(Path(folder) / "years.culmo")
        bare = statistics.median(_seconds(_BARE) for _ in range(5))
        print(f"     bare window {bare:.2f} s")
        first = _child(_USABLE, folder, str(path), "0")[0]
        fine = show("opening it for the first time on this machine, s", first, 3.0) and fine
        for room, name in enumerate(ROOM_NAMES):
            opened = statistics.median(_child(_USABLE, folder, str(path), str(room))[0] for _ in range(5))
            fine = show(f"opening a study of many years in the {name} room, s", opened, 2.0) and fine
        first, *later = (_child(_LEARNED, folder, str(path))[0] for _ in range(4))
        print(f"     from opening till the wells are filled, the first time: {first:.1f} s")
        fine = show("  and on a later day, s", statistics.median(later), 3.0) and fine
        fine = (
            show("  and on a later day, as a share of the first time", statistics.median(later) / first, 0.6)
            and fine
        )
        with Study(path) as study:
            saved = []
            for number in range(15):
                command = note_acts.add_note(study, f"note {number}")
                start = time.perf_counter()
                study.apply(command)
                saved.append(time.perf_counter() - start)
            fine = show("saving an act, ms", 1000 * statistics.median(saved), 30.0) and fine
            index = Index(study)
            start = time.perf_counter()
            while index.warm():
                pass
            print(
                f"     what is searched is read in {time.perf_counter() - start:.2f} s, in pieces, while nothing is done"
            )
            for text in ("paint 07", "PB29", "granulates 2023-10", "#5a6b4c"):
                spent = []
                for _ in range(5):
                    start = time.perf_counter()
                    search(index, parse_query(text, date(2026, 11, 25)))
                    spent.append(time.perf_counter() - start)
                fine = show(f"search for {text}, ms", 1000 * statistics.median(spent), 100.0) and fine
        for name, spent, limit in zip(
            ("a note", "a reading", "undoing", "another sheet"), _child(_DAY, folder, str(path)), (0.1, 0.2, 0.2, 0.2),
            strict=True,
        ):  # fmt: skip
            fine = show(f"{name}, till all on view stands as it should, s", spent, limit) and fine
        for room, name in enumerate(ROOM_NAMES):
            answered, memory = _child(_MEMORY, folder, str(path), str(room))
            print(f"     an act with all that the {name} room shows anew: {1000 * answered:.0f} ms")
            fine = show(f"memory after all rooms, in the {name} room, MB", memory, 500.0) and fine
    print(f"     this process at most {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return fine
