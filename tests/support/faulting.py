"""Kills Culmo, or lets a call of it fail, at every write, sync and renaming; then looks at what is left.

Run with `faults.c` under it: `LD_PRELOAD=faults.so python -m support.faulting OPERATION HOW MOST SEED FOLDER`. HOW is
"kill", or the name of an error such as ENOSPC, with a plus sign where it lasts. Prints how many cases were tried, and how
many of them were killed, told and done. What is left is looked at by opening it anew, in a process in which nothing fails.
"""

import ctypes
import errno
import json
import os
import random
import shutil
import sqlite3
import sys
import traceback
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, elsewhere, note_acts, unfinished
from culmo.study.backups import back_up, backups_of
from culmo.study.exchange import exporting, study_from_folder
from culmo.study.file import Study
from culmo.study.incoming import bring_in
from culmo.study.inspection import as_it_is, inspect
from culmo.study.photo_acts import Picture, PictureKept
from culmo.study.recovery import recover
from culmo.study.restoring import put_back
from support.builders import FIVE, make_sheet, make_study
from support.patched import read_all

KILL = "kill"
_DONE, _TOLD, _DEFECT = 0, 3, 4
_MOMENT = datetime(2026, 10, 7, 9, 20)
Told = list[str]


@dataclass(frozen=True)
class Operation:
    """Something that Culmo does with files.

    Attributes
    ----------
    run : function of the folder and of a function that acknowledges
    check : function of the folder, of what was acknowledged and of how it ended: "killed", "told" or "done"
    """

    run: Callable[[Path, Callable[[str], None]], None]
    check: Callable[[Path, Told, str], None]


def make_base(folder: Path) -> None:
    """A study with a sheet, notes, pictures and copies; the same as an open folder; one of an older version."""
    folder.mkdir()
    path = folder / "one.culmo"
    with make_study(path, FIVE[:3]) as study:
        study.apply(acts.add_sheet(study, make_sheet(FIVE[:3])))
        back_up(study, _MOMENT)
        study.apply(acts.read_cell(study, 1, 2, (50.0, 10.0, 10.0)))
        read_all(study, most=3, kept=False)
        study.apply(
            note_acts.add_note(study, "inside", [Picture("i.jpg", b"i" * 9000, where=PictureKept.INSIDE)])
        )
        study.apply(
            note_acts.add_note(study, "beside", [Picture("b.jpg", b"b" * 9000, where=PictureKept.BESIDE)])
        )
        run_through(exporting(study, folder / "open"))
    shutil.copy(Path(__file__).parents[1] / "study" / "old" / "v4.culmo", folder / "old.culmo")
    (folder / "more.csv").write_text(
        "recipe,ground,L,a,b\nLemon + Rose,paper,50,20,20\nLemon,paper,85,0,80\n"
    )


def content(path: Path) -> dict:
    """All rows of a study, looked at in a copy; it must be sound."""
    found = inspect(path)
    assert found.problems == [], found.problems
    with as_it_is(path) as study:
        return study.dump()


def _sound_copies(folder: Path, stem: str = "one") -> None:
    for backup in backups_of(folder / f"{stem}.culmo"):
        content(backup.path)


def _new(folder, acknowledge):
    Study.create(folder / "new.culmo", "New").close()
    acknowledge("new")


def _check_new(folder, told, _):
    path = folder / "new.culmo"
    if path.exists():
        assert content(path)["meta"]
    else:
        assert not told
        _new(folder, told.append)  # the name is not barred
    Study(path).close()
    assert not list(folder.glob(".*new*")), "what was begun was not cleared"


def _import(folder, acknowledge):
    with Study(folder / "one.culmo") as study:
        bring_in(study, folder / "more.csv", lambda _: None)
    acknowledge("import")


def _check_import(folder, told, ended):
    rows = content(folder / "one.culmo")["readings"]
    came = [row for row in rows if row["source"] == "more.csv" or row["L"] == 85.0]
    new = len(rows) - 12
    assert new in (0, 2), (new, came)
    assert new == 2 or not told
    assert ended != "told" or new == 0, "told as not taken in, and it is there"


def _whole(folder, acknowledge):
    study_from_folder(folder / "open", folder / "whole.culmo")
    acknowledge("whole")


def _check_whole(folder, told, _):
    path = folder / "whole.culmo"
    if not path.exists():
        assert not told
        _whole(folder, told.append)
    _same_record(path, folder / "one.culmo")


def _same_record(path, other):
    mine, its = content(path), content(other)
    for one in (mine, its):
        for row in one["photos"]:
            row["path"] = Path(row["path"]).name
    assert mine == its
    pictures = [row["path"] for row in mine["photos"] if row["path"]]
    place = path.with_name(f"{path.stem} pictures")
    assert all((place / name).read_bytes() == b"b" * 9000 for name in pictures)


def _recover(folder, acknowledge):
    recover(folder / "one.culmo", folder / "again.culmo")
    acknowledge("recover")


def _check_recover(folder, told, _):
    if not (folder / "again.culmo").exists():
        assert not told
        _recover(folder, told.append)
    found = content(folder / "again.culmo")
    mine = content(folder / "one.culmo")
    assert [len(found[table]) for table in found] == [len(mine[table]) for table in found]


def _restore(folder, acknowledge):
    put_back(folder / "one.culmo", backups_of(folder / "one.culmo")[0].path, _MOMENT)
    acknowledge("restore")


def _check_restore(folder, told, _):
    notes = [row["text"] for row in content(folder / "one.culmo")["notes"]]
    assert notes in ([], ["inside", "beside"])
    _sound_copies(folder)
    if notes == []:
        last = backups_of(folder / "one.culmo")[-1].path
        assert [row["text"] for row in content(last)["notes"]] == ["inside", "beside"]
    else:
        assert not told


def _export(folder, acknowledge):
    with Study(folder / "one.culmo") as study:
        run_through(exporting(study, folder / "out"))
    acknowledge("export")


def _check_export(folder, told, _):
    content(folder / "one.culmo")
    out = folder / "out"
    if out.exists():
        assert json.loads((out / "study.json").read_text(encoding="utf-8"))["tables"]["notes"]
        names = {str(path.relative_to(out)) for path in out.rglob("*") if path.is_file()}
        assert names == {
            str(path.relative_to(folder / "open")) for path in (folder / "open").rglob("*") if path.is_file()
        }
    else:
        assert not told
        _export(folder, told.append)


def _backup(folder, acknowledge):
    with Study(folder / "one.culmo") as study:
        back_up(study, _MOMENT)
    acknowledge("backup")


def _check_backup(folder, told, _):
    now = content(folder / "one.culmo")
    _sound_copies(folder)
    if told:
        found = content(backups_of(folder / "one.culmo")[-1].path)
        assert [row["text"] for row in found["notes"]] == [row["text"] for row in now["notes"]]
        inside = next(row for row in found["photos"] if row["name"] == "i.jpg")
        assert (folder / "one backups" / inside["path"]).read_bytes() == b"i" * 9000


def _upgrade(folder, acknowledge):
    Study(folder / "old.culmo").close()
    acknowledge("upgrade")


def _check_upgrade(folder, told, _):
    with closing(sqlite3.connect(Path(__file__).parents[1] / "study" / "old" / "v4.culmo")) as db:
        notes, cells = (db.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0] for t in ("notes", "cells"))
    for path in (folder / "old.culmo", *folder.glob("old.v4*.culmo")):
        found = content(path)
        assert (len(found["notes"]), len(found["cells"])) == (notes, cells)
    assert not told or list(folder.glob("old.v4*.culmo"))
    Study(folder / "old.culmo").close()


def _acts(folder, acknowledge):
    with Study(folder / "one.culmo") as study:
        for number in range(4):
            study.apply(note_acts.add_note(study, f"note {number}"))
            acknowledge(f"note {number}")
            unfinished.keep_unfinished(study, [unfinished.Unfinished("note", 5, "a note", f"typed {number}")])


def _check_acts(folder, told, ended):
    notes = [row["text"] for row in content(folder / "one.culmo")["notes"]][2:]
    assert notes[: len(told)] == told
    assert len(notes) <= len(told) + 1
    if ended == "told":
        assert notes == told, "told as not saved, and it is there"


def _move(folder, acknowledge):
    with Study(folder / "one.culmo") as study:
        elsewhere.move_to(study, folder / "two.culmo")
    acknowledge("move")


def _check_move(folder, told, _):
    there = [path for path in (folder / "one.culmo", folder / "two.culmo") if path.exists()]
    assert there
    for path in there:
        found = content(path)
        assert [row["text"] for row in found["notes"]] == ["inside", "beside"]
    name = next(row["path"] for row in found["photos"] if row["path"])
    assert (folder / name).read_bytes() == b"b" * 9000
    assert not told or (folder / "two.culmo").exists()


OPERATIONS = {
    "new": Operation(_new, _check_new), "import": Operation(_import, _check_import),
    "whole": Operation(_whole, _check_whole), "recover": Operation(_recover, _check_recover),
    "restore": Operation(_restore, _check_restore), "export": Operation(_export, _check_export),
    "backup": Operation(_backup, _check_backup), "upgrade": Operation(_upgrade, _check_upgrade),
    "acts": Operation(_acts, _check_acts), "move": Operation(_move, _check_move),
}  # fmt: skip


def _in_child(
    library, operation: Operation, folder: Path, at: int, how: int, lasts: bool
) -> tuple[str, Told, int]:
    """Let it happen in a process of its own; gives how it ended, what was acknowledged, and the calls counted."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reading)

        def say(*words: object) -> None:
            os.write(writing, (json.dumps(words) + "\n").encode())

        code = _DONE
        try:
            library.fault_arm(str(folder).encode(), ctypes.c_long(at), how, int(lasts))
            operation.run(folder, lambda text: say("done", text))
        except CulmoError as error:
            say("error", str(error))
            code = _TOLD
        except BaseException:  # noqa: BLE001 - whatever it is, it is told to the parent as a defect
            say("defect", traceback.format_exc())
            code = _DEFECT
        library.fault_disarm()
        say("count", library.fault_count())
        os._exit(code)
    os.close(writing)
    with os.fdopen(reading, encoding="utf-8") as lines:
        said = [json.loads(line) for line in lines]
    _, status = os.waitpid(child, 0)
    defects = [words[1] for words in said if words[0] == "defect"]
    assert not defects, defects[0]
    errors = [words[1] for words in said if words[0] == "error"]
    assert all(words.strip() for words in errors)
    ended = "killed" if os.WIFSIGNALED(status) else "told" if errors else "done"
    count = next((words[1] for words in said if words[0] == "count"), 0)
    return ended, [words[1] for words in said if words[0] == "done"], count


def main(name: str, how: str, most: str, seed: str, folder: str) -> int:
    """Try an operation with a fault at each call, or at some of them."""
    library = ctypes.CDLL(None)
    library.fault_count.restype = ctypes.c_long
    place, operation = Path(folder), OPERATIONS[name]
    os.environ["XDG_DATA_HOME"] = str(place / "data")
    make_base(place / "base")
    work = place / "work"

    def fresh() -> Path:
        shutil.rmtree(work, ignore_errors=True)
        shutil.copytree(place / "base", work)
        return work

    lasts = how.endswith("+")
    code = -1 if how == KILL else getattr(errno, how.rstrip("+"))
    ended, told, count = _in_child(library, operation, fresh(), 0, 0, False)
    assert ended == "done" and told and count > 3, (ended, told, count)
    operation.check(work, told, ended)
    points = list(range(1, count + 1))
    if int(most) < count:
        points = sorted(random.Random(f"{name} {how} {seed}").sample(points, int(most)))
    tally = {"killed": 0, "told": 0, "done": 0}
    for at in points:
        ended, told, _ = _in_child(library, operation, fresh(), at, code, lasts)
        tally[ended] += 1
        try:
            operation.check(work, told, ended)
        except BaseException:
            print(f"{name}: {how} at call {at} of {count}, {ended}, acknowledged {told}", file=sys.stderr)
            shutil.copytree(work, place / f"left-{name}-{how}-{at}", dirs_exist_ok=True)
            raise
    print(len(points), tally["killed"], tally["told"], tally["done"])
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
