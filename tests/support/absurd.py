"""Studies that are sound to SQLite and absurd to a painter: each is refused in words, or every page of the window shows it.

Run as `python -m support.absurd COUNT SEED FOLDER`; prints how many were refused and how many shown, and the longest time
of the processor's, so that a busy machine does not count.
"""

import json
import os
import random
import shutil
import sqlite3
import sys
import time
import traceback
from contextlib import closing
from pathlib import Path

from PySide6.QtWidgets import QApplication, QDialog, QMessageBox

from culmo.desk.app import make_app, settle
from culmo.desk.settings import Settings
from culmo.desk.window import MainWindow
from culmo.study.schema import TABLES
from support.builders import sample_study
from support.hand import pages

TEXTS = (
    "", " ", "-", "?", "x" * 10_000, "<img src=x>", "%s %d {x} {0}", "\u202eright to left\u202c", "a\u200bb", "漢字" * 500,
    "Rose", "Rose + ", "Rose:0", "Rose:1e308", "Rose @ 1e-300", " over ", '"', "a\nb", "\x00", "null", "-1", "1e999", "NaN",
    "paper", "ink", "white", "wet", "grid", "2026-01-01T00:00:00", "2026-01-01T00:00", "9999-12-31T23:59:59+14:00",
    "0001-01-01T00:00:00+00:00", "2026-06-31T00:00:00+00:00", "2026-01-01T00:00:00+23:59", "2026-W01-1T00:00",
)  # fmt: skip
NUMBERS = (0, 1, -1, 2, 0.5, -0.5, 1e11, -1e11, 1e-300, 255, 10_000, 2**31, 100.0, 37.5)
JSONS = (
    "{}", "[]", "null", "0", '"x"', "[1,2]", "[[0,0],[0,0],[0,0]]", "[[1e308,0],[0,1e308],[-1e308,0]]", '{"a":{}}',
    "[[0,0],[1,1]]", "true", "[null]", "[[null,null],[null,null],[null,null]]",
)  # fmt: skip


def _absurd_json(text: str, rng: random.Random) -> str:
    """A JSON text with one value inside it made absurd, or another text altogether."""
    try:
        data = json.loads(text)
    except (ValueError, TypeError):
        return rng.choice(JSONS)
    if not isinstance(data, dict | list) or not data or rng.random() < 0.2:
        return rng.choice(JSONS)
    here = data
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        key = rng.choice(keys)
        if isinstance(here[key], dict | list) and here[key] and rng.random() < 0.75:
            here = here[key]
            continue
        if rng.random() < 0.2:
            del here[key]
        else:
            here[key] = rng.choice((*TEXTS, *NUMBERS, None, [], {}, True, [[0, 0]], 10**30))
        return json.dumps(data)


def make_absurd(path: Path, rng: random.Random) -> list[str]:
    """Change some values of a study past all sense; gives what was changed."""
    told = []
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.row_factory = sqlite3.Row
        for _ in range(rng.choice((1, 1, 1, 2, 4))):
            table = rng.choice(TABLES)
            columns = [row for row in db.execute(f"PRAGMA table_info({table})") if row["name"] != "id"]
            column = rng.choice(columns)
            name, kind = column["name"], column["type"]
            rows = db.execute(f"SELECT id, {name} AS value FROM {table}").fetchall()
            if not rows:
                continue
            chosen = rows if rng.random() < 0.2 else [rng.choice(rows)]
            for row in chosen[:400]:
                value = row["value"]
                if kind == "TEXT" and isinstance(value, str) and value[:1] in ("{", "["):
                    new = _absurd_json(value, rng)
                elif kind == "TEXT":
                    new = rng.choice(TEXTS)
                elif kind == "REAL":
                    new = float(rng.choice(NUMBERS))
                elif kind == "INTEGER":
                    new = int(rng.choice(NUMBERS))
                else:
                    new = rng.choice((b"", b"\xff" * 100, None))
                try:
                    db.execute(f"UPDATE {table} SET {name} = ? WHERE id = ?", (new, row["id"]))
                    told.append(f"{table}.{name} {row['id']} = {new!r:.120}")
                except sqlite3.Error:
                    continue  # the table itself does not take it
    return told


def walk(window: MainWindow) -> None:
    """Every room, every page, every cell of a few kinds, every paint."""
    session = window.session
    for _ in pages(window):
        tabs = getattr(getattr(window.rooms.currentWidget(), "slip", None), "tabs", None)
        for page in range(len(tabs.buttons) if tabs is not None else 0):
            tabs.choose(page)
            QApplication.processEvents()
        if session.study is None:
            return
    for paint in session.paints[:40]:
        window.box.select(paint.name)
    for row in session.file.rows("sheets", "archived = 0"):
        session.selection.select_sheet(row["id"])
        for place in (1, 2, 3, 4):
            window.show_room(place)
            QApplication.processEvents()
        record = window.state.record
        for entry in record.cells[:3] if record is not None else ():
            window.state.select(entry.cell.id)
    settle(window, 1)


def main(count: str, seed: str, folder: str) -> int:
    """Make, open and walk."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app, place = make_app(), Path(folder)
    base = sample_study(place / "base")
    defects: list[str] = []
    sys.excepthook = lambda *error: defects.append("".join(traceback.format_exception(*error)))
    QDialog.exec = QMessageBox.exec = lambda *_: 0  # type: ignore[method-assign]  # nobody is there to be asked
    rng, longest = random.Random(f"absurd {seed}"), 0.0
    refused = shown = 0
    for number in range(int(count)):
        path = place / f"absurd {number}.culmo"
        shutil.copy(base, path)
        told = make_absurd(path, rng)
        if number < int(os.environ.get("ABSURD_FROM", "0")):
            continue
        window = MainWindow(Settings.at(place / "s.ini"))
        window.resize(1280, 800)
        window.show()
        start = time.process_time()
        print(number, told[:3], file=sys.stderr, flush=True)
        if window.open_path(path):
            try:
                walk(window)
            except Exception:  # noqa: BLE001 - what is raised into this hand is a defect too
                defects.append(traceback.format_exc())
            shown += 1
        else:
            assert window.notice.words.text().strip(), told
            refused += 1
        window.session.unsaved.leave_out()
        window.close()
        window.deleteLater()
        app.processEvents()
        longest = max(longest, time.process_time() - start)
        if defects:
            print(f"seed {seed} case {number}: {told[:5]} of {len(told)}\n{defects[0]}", file=sys.stderr)
            if "--all" not in sys.argv:
                return 1
            defects.clear()
        path.unlink()
        shutil.rmtree(place / f"absurd {number} backups", ignore_errors=True)
    print(refused, shown, f"{longest:.1f}")
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:4]))
