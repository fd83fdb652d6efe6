"""Whose file it is: nobody else gets in, what becomes of it is noticed, and a journal of another file is not applied."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from datetime import datetime
from pathlib import Path

import pytest

from culmo.errors import CulmoError
from culmo.study import acts, doors, note_acts, sidecars
from culmo.study.backups import back_up, backups_of
from culmo.study.file import Study
from culmo.study.holding import Whereabouts
from culmo.study.homing import LostError, go_on
from culmo.study.incoming import bring_in
from culmo.study.inspection import inspect
from culmo.study.opened import DisplacedError
from culmo.study.pictures import open_photo
from culmo.study.recovery import recover
from culmo.study.restoring import offered, put_back
from support.builders import make_sheet, make_study
from support.patience import LONG_S

OLD = Path(__file__).parent / "old"
NOW = datetime(2026, 10, 7, 9, 20)


def another_gets_in(path):
    """Whether another process can open a study that this one has open."""
    code = "import sys; from pathlib import Path; from culmo.study.file import Study; Study(Path(sys.argv[1])).close()"
    done = subprocess.run([sys.executable, "-c", code, path], capture_output=True, text=True, check=False)
    assert done.returncode == 0 or "open in another window" in done.stderr, done.stderr
    return done.returncode == 0


def notes(study):
    return [row["text"] for row in study.rows("notes")]


def note(study, text):
    study.apply(note_acts.add_note(study, text))


# ---- nobody else gets in


@pytest.mark.long
@pytest.mark.parametrize("version", [1, 2, 3, 4])
def test_the_file_is_held_after_an_upgrade(tmp_path, version):
    path = Path(shutil.copy(OLD / f"v{version}.culmo", tmp_path / "old.culmo"))
    with Study(path) as study:
        assert not another_gets_in(path)
        note(study, "and written")
        assert not another_gets_in(path)
        back_up(study, NOW)
        study.copy_to(tmp_path / "copy.culmo")
        assert not another_gets_in(path)
    assert another_gets_in(path)


@pytest.mark.long
def test_nothing_reads_the_file_of_an_open_study(study, tmp_path):
    link = tmp_path / "link.jpg"
    link.symlink_to(study.path)
    hard = tmp_path / "hard.csv"
    os.link(study.path, hard)
    for way in (
        lambda: open_photo(study.path), lambda: open_photo(link), lambda: bring_in(study, hard, lambda _: None),
        lambda: recover(study.path, tmp_path / "new.culmo"), lambda: inspect(study.path),
        lambda: put_back(study.path, tmp_path / "x.culmo"), lambda: Study(link), lambda: Study(study.path),
        lambda: doors.check_target(hard),
    ):  # fmt: skip
        with pytest.raises(CulmoError, match="open"):
            way()
        assert not another_gets_in(study.path)
    note(study, "still mine")


@pytest.mark.long
def test_two_writers_after_an_upgrade_leave_the_study_sound(tmp_path):
    path = Path(shutil.copy(OLD / "v3.culmo", tmp_path / "old.culmo"))
    (tmp_path / "more.csv").write_text("recipe,L,a,b\nNewcomer,50,1,1\n")
    with Study(path) as study:
        done = subprocess.run(
            [sys.executable, "-m", "culmo", "import", path, tmp_path / "more.csv"],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        for number in range(5):
            note(study, f"note {number}")
        assert done.returncode == 2 and "open in another window" in done.stderr
    assert inspect(path).problems == []


# ---- what becomes of the file


def _moved(path):
    path.rename(path.with_name("elsewhere.culmo"))


def _deleted(path):
    path.unlink()


def _replaced(path):
    other = path.with_name("other.tmp")
    shutil.copy2(path.with_name("early.culmo"), other)
    other.replace(path)


def _replaced_with_its_time(path):
    state = path.stat()
    _replaced(path)
    os.utime(path, ns=(state.st_atime_ns, state.st_mtime_ns))


def _overwritten(path):
    shutil.copyfile(path.with_name("early.culmo"), path)


def _overwritten_with_its_time(path):
    state = path.stat()
    _overwritten(path)
    os.utime(path, ns=(state.st_atime_ns, state.st_mtime_ns))


def _binned(path):
    (path.parent / ".Trash-0" / "files").mkdir(parents=True)
    path.rename(path.parent / ".Trash-0" / "files" / path.name)


def _folder_gone(path):
    path.parent.rename(path.parent.with_name("renamed"))
    shutil.rmtree(path.parent.with_name("renamed"))


FATES = {
    _moved: Whereabouts.MOVED, _deleted: Whereabouts.GONE, _replaced: Whereabouts.REPLACED, _binned: Whereabouts.GONE,
    _replaced_with_its_time: Whereabouts.REPLACED, _overwritten: Whereabouts.OVERWRITTEN, _folder_gone: Whereabouts.GONE,
    _overwritten_with_its_time: Whereabouts.OVERWRITTEN,
}  # fmt: skip


@pytest.fixture
def home(tmp_path):
    """A study with a note, and beside it an earlier copy of it, in a folder of its own."""
    folder = tmp_path / "home"
    folder.mkdir()
    with make_study(folder / "mine.culmo") as study:
        study.copy_to(folder / "early.culmo")
        note(study, "first")
        yield study


@pytest.mark.parametrize("fate", FATES)
def test_what_became_of_the_file_is_known_and_nothing_is_written_to_a_wrong_one(home, fate):
    path = home.path
    fate(path)
    at_place = path.read_bytes() if path.exists() else None
    assert home.disk.whereabouts().what is FATES[fate]
    with pytest.raises(DisplacedError):
        note(home, "second")
    with pytest.raises(CulmoError, match="no copy"):
        back_up(home, NOW)
    assert (path.read_bytes() if path.exists() else None) == at_place


@pytest.mark.parametrize("fate", FATES)
def test_it_goes_on_with_all_that_was_done_and_says_where(home, fate):
    path = home.path
    fate(path)
    other = path.read_bytes() if path.exists() else None
    words = go_on(home, NOW)
    assert home.path.name in words
    assert home.disk.whereabouts().what is Whereabouts.HERE
    note(home, "second")
    assert notes(home) == ["first", "second"]
    assert not another_gets_in(home.path)
    if other is not None:  # what another put there is as that left it
        assert home.path != path
        assert path.read_bytes() == other
    home.close()
    assert inspect(home.path).problems == []
    with Study(home.path) as again:
        assert notes(again) == ["first", "second"]


def test_what_was_written_over_and_can_not_be_put_together_is_told(home, monkeypatch):
    monkeypatch.setattr("culmo.study.homing._is_sound", lambda path: False)
    _overwritten(home.path)
    there = home.path.read_bytes()
    with pytest.raises(LostError, match="Put back a copy"):
        go_on(home, NOW)
    assert home.path.read_bytes() == there
    assert not list(home.path.parent.glob("*as it was open*"))


def test_another_time_alone_is_nothing(home):
    os.utime(home.path)
    home.path.chmod(0o600)
    assert home.disk.whereabouts().what is Whereabouts.HERE
    note(home, "second")


def test_where_nothing_can_be_written_in_its_folder_it_goes_on_elsewhere(home):
    words = go_on(home, NOW, elsewhere=True)
    assert "any more" in words
    assert home.path.parent == Path(os.environ["XDG_DATA_HOME"]) / "culmo" / "rescued"
    note(home, "second")
    assert notes(home) == ["first", "second"]


# ---- a journal beside it


CRASHING = """
import os, sys, signal
from pathlib import Path
from culmo.study.file import Study
from culmo.study import note_acts
study = Study(Path(sys.argv[1]))
db = study.disk.db
db.execute("PRAGMA cache_size=1")
db.execute("PRAGMA cache_spill=1")
with study.disk.transaction():
    for number in range(200):
        db.execute("INSERT INTO notes (text, created) VALUES (?, '2026-01-01T00:00:00+00:00')", ("x" * 3000,))
    db.execute("UPDATE paints SET note = 'half done'")
    os.kill(os.getpid(), signal.SIGKILL)
"""


def crash(path):
    """Kill a process in the midst of an act on a study: its file is half written, and the journal takes it back."""
    done = subprocess.run([sys.executable, "-c", CRASHING, path], capture_output=True, check=False)
    assert done.returncode == -signal.SIGKILL
    assert sidecars.waiting(path) == ["-journal"]


@pytest.fixture
def crashed(tmp_path):
    """A study that crashed in the midst of an act, with one copy of it that was made before."""
    path = tmp_path / "mine.culmo"
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        note(study, "first")
        back_up(study, NOW)
        note(study, "second")
    crash(path)
    return path


def test_its_own_journal_takes_half_an_act_back(crashed):
    assert inspect(crashed).problems == []
    assert sidecars.waiting(crashed) == ["-journal"]  # a look changes nothing
    with Study(crashed) as study:
        assert study.told == []
        assert notes(study) == ["first", "second"]
        assert study.problems() == []


@pytest.mark.parametrize(
    "way", [shutil.copy, shutil.copy2, lambda a, b: Path(shutil.copy2(a, f"{b}.tmp")).replace(b)]
)
def test_a_copy_that_is_put_over_a_crashed_study_by_hand_is_not_destroyed(crashed, way):
    way(backups_of(crashed)[0].path, crashed)
    assert inspect(crashed).problems == []
    with Study(crashed) as study:
        assert "of another file" in study.told[0]
        assert notes(study) == ["first"]
        assert study.problems() == []
    assert list(crashed.parent.glob("*-journal of another file"))


def test_a_copy_made_by_hand_earlier_is_not_destroyed_either(tmp_path):
    path = tmp_path / "mine.culmo"
    with make_study(path) as study:
        note(study, "first")
    shutil.copy2(path, tmp_path / "by hand.culmo")
    with Study(path) as study:
        for number in range(40):
            note(study, f"{number} " + "y" * 2000)
    crash(path)
    shutil.copy2(tmp_path / "by hand.culmo", path)
    with Study(path) as study:
        assert notes(study) == ["first"]
        assert study.problems() == []


def test_recovery_reads_the_journal_too(crashed, tmp_path):
    report = recover(crashed, tmp_path / "new.culmo")
    assert report.rows["notes"] == 2 and not report.foreign
    with Study(tmp_path / "new.culmo") as study:
        assert notes(study) == ["first", "second"]
        assert all(row["note"] == "" for row in study.rows("paints"))


def test_what_another_program_logged_ahead_is_read(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    code = """if True:
        import os, sqlite3, sys
        db = sqlite3.connect(sys.argv[1], isolation_level=None)
        db.execute("PRAGMA journal_mode=WAL")
        db.execute("INSERT INTO notes (text, created) VALUES ('logged', '2026-01-01T00:00:00+00:00')")
        os._exit(0)"""
    subprocess.run([sys.executable, "-c", code, path], check=True)
    assert sidecars.waiting(path) == ["-wal"]
    before = {entry.name: entry.read_bytes() for entry in tmp_path.iterdir()}
    assert inspect(path).counts["notes"] == 1
    assert recover(path, tmp_path / "sub.culmo").rows["notes"] == 1
    (tmp_path / "sub.culmo").unlink()
    assert {entry.name: entry.read_bytes() for entry in tmp_path.iterdir()} == before
    with Study(path) as study:
        assert notes(study) == ["logged"]
        note(study, "and on")
    assert not sidecars.waiting(path)


def test_a_journal_is_found_where_a_link_leads(crashed, tmp_path):
    far = tmp_path / "far"
    far.mkdir()
    link = far / "link.culmo"
    link.symlink_to(crashed)
    shutil.copy2(backups_of(crashed)[0].path, crashed)
    with Study(link) as study:
        assert "of another file" in study.told[0]
        assert notes(study) == ["first"]
    put_back(link, backups_of(crashed)[0].path, NOW)
    assert link.is_symlink() and inspect(link).problems == []


# ---- putting a copy back


def test_a_copy_is_put_back_and_what_was_there_is_kept(crashed):
    kept = put_back(crashed, backups_of(crashed)[0].path, NOW)
    with Study(crashed) as study:
        assert notes(study) == ["first"] and study.told == []
    with Study(kept) as study:
        assert notes(study) == ["first", "second"]
    assert kept == offered(crashed)[0].backup.path
    put_back(crashed, kept)
    with Study(crashed) as study:
        assert notes(study) == ["first", "second"]


def test_a_damaged_study_is_kept_byte_for_byte_when_a_copy_takes_its_place(crashed):
    data = b"nothing of a study" * 1000
    crashed.write_bytes(data)
    journal = sidecars.beside(crashed, "-journal").read_bytes()
    kept = put_back(crashed, backups_of(crashed)[0].path, NOW)
    assert kept.read_bytes() == data
    assert sidecars.beside(kept, "-journal").read_bytes() == journal
    with Study(crashed) as study:
        assert notes(study) == ["first"]


def test_what_is_no_sound_copy_is_not_put_back(crashed, tmp_path):
    before = crashed.read_bytes()
    (tmp_path / "bad.culmo").write_bytes(b"bad")
    with closing(sqlite3.connect(shutil.copy(backups_of(crashed)[0].path, tmp_path / "odd.culmo"))) as db:
        db.execute("UPDATE papers SET width_mm = -1")
        db.execute("INSERT INTO papers (name, width_mm, height_mm) VALUES ('x', -1, 1)")
        db.commit()
    for name in ("bad.culmo", "odd.culmo", "none.culmo"):
        with pytest.raises(CulmoError):
            put_back(crashed, tmp_path / name)
    with pytest.raises(CulmoError, match="study itself"):
        put_back(crashed, crashed)
    assert crashed.read_bytes() == before
    assert sidecars.waiting(crashed) == ["-journal"]


# ---- leftovers and copies


def test_leftovers_of_a_killed_program_are_taken_away_and_told(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    (tmp_path / "mine backups").mkdir()
    left = [
        tmp_path / ".mine, copy.culmo.part",
        tmp_path / "mine backups" / ".0001 2026-10-07 0920.culmo.part",
    ]
    for entry in left:
        entry.write_bytes(b"half")
    with Study(path) as study:
        assert "2 files that were begun" in study.told[0]
    assert not any(entry.exists() for entry in left)


def test_what_is_being_written_now_is_no_leftover(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    code = """if True:
        import sys, time
        from pathlib import Path
        from culmo.study.whole_file import whole_file
        with whole_file(Path(sys.argv[1])) as part:
            part.write_bytes(b"slow")
            print("begun", flush=True)
            sys.stdin.readline()"""
    words = [sys.executable, "-c", code, tmp_path / "mine slow.pdf"]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as child:
        assert child.stdout.readline() == "begun\n"
        with Study(path) as study:
            assert study.told == []
        child.communicate("go on\n", timeout=LONG_S)
    assert (tmp_path / "mine slow.pdf").read_bytes() == b"slow"


def test_an_upgrade_copy_is_the_study_whatever_else_bears_its_name(tmp_path):
    path = Path(shutil.copy(OLD / "v2.culmo", tmp_path / "old.culmo"))
    (tmp_path / "old.v2.culmo").touch()
    make_study(tmp_path / "old.v2 2.culmo").close()
    Study(path).close()
    found = inspect(tmp_path / "old.v2 3.culmo")
    assert found.problems == [] and found.version == 2
    with closing(sqlite3.connect(OLD / "v2.culmo")) as db:
        assert found.counts["cells"] == db.execute("SELECT COUNT(*) FROM cells").fetchone()[0] > 0


def test_copies_have_the_permissions_of_the_study_and_grow_only_with_what_changed(study):
    from culmo.study.photo_acts import Picture, PictureKept

    study.path.chmod(0o600)
    big = os.urandom(2_000_000)
    study.apply(note_acts.add_note(study, "in", [Picture("in.jpg", big, where=PictureKept.INSIDE)]))
    study.apply(note_acts.add_note(study, "out", [Picture("out.jpg", b"o", where=PictureKept.BESIDE)]))
    sizes = []
    for number in range(3):
        note(study, f"more {number}")
        copy = back_up(study, NOW)
        sizes.append(sum(entry.stat().st_size for entry in copy.parent.rglob("*") if entry.is_file()))
    assert sizes[1] - sizes[0] < 300_000 and sizes[2] - sizes[1] < 300_000
    entries = [*copy.parent.rglob("*"), copy.parent, *study.path.with_name("five pictures").rglob("*")]
    assert all(entry.stat().st_mode & 0o077 == 0 for entry in entries)
    with Study(copy) as found:
        from culmo.study.photo_files import picture_bytes

        assert picture_bytes(found, found.rows("photos")[0]) == big
        assert picture_bytes(found, found.rows("photos")[1]) == b"o"


def test_check_changes_nothing_ever(tmp_path):
    for version in (1, 4):
        shutil.copy(OLD / f"v{version}.culmo", tmp_path)
    before = {entry.name: (entry.read_bytes(), entry.stat().st_mtime_ns) for entry in tmp_path.iterdir()}
    for version in (1, 4):
        assert inspect(tmp_path / f"v{version}.culmo").problems == []
    assert {e.name: (e.read_bytes(), e.stat().st_mtime_ns) for e in tmp_path.iterdir()} == before


def test_a_failing_copy_leaves_no_trace_and_the_next_one_succeeds(study):
    folder = study.path.with_name("five backups")
    folder.write_text("a file where the folder should be")
    with pytest.raises(CulmoError, match="the study itself is saved"):
        back_up(study, NOW)
    folder.unlink()
    assert back_up(study, NOW) is not None


def test_a_file_that_others_hold_for_a_moment_is_told_as_that(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute("BEGIN EXCLUSIVE")
        started = time.monotonic()
        with pytest.raises(CulmoError, match="open in another window or program"):
            Study(path)
        assert time.monotonic() - started < 3


# ---- what a study brings along that is not Culmo's


FOREIGN = {
    "trigger": "CREATE TRIGGER evil AFTER INSERT ON notes BEGIN DELETE FROM readings; END",
    "view": "CREATE VIEW evil AS WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT n FROM r",
    "index": "CREATE UNIQUE INDEX evil ON notes(text)",
    "table": "CREATE TABLE evil (id INTEGER PRIMARY KEY)",
}


@pytest.mark.parametrize("kind", FOREIGN)
def test_what_culmo_did_not_make_is_refused_and_left_out_by_recovery(tmp_path, kind):
    path = tmp_path / "mine.culmo"
    with make_study(path) as study:
        note(study, "first")
        count = study.count("readings")
    with closing(sqlite3.connect(path)) as db:
        db.execute(FOREIGN[kind])
        db.commit()
    before = path.read_bytes()
    for way in (Study, inspect, lambda path: put_back(tmp_path / "there.culmo", path)):
        with pytest.raises(CulmoError, match=f"{kind} evil"):
            way(path)
    assert path.read_bytes() == before
    recover(path, tmp_path / "new.culmo")
    with Study(tmp_path / "new.culmo") as study:
        note(study, "second")
        assert notes(study) == ["first", "second"] and study.count("readings") == count


def test_a_view_in_the_place_of_a_table_is_not_read_for_ever(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    with closing(sqlite3.connect(path)) as db:
        db.execute("DROP TABLE notes")
        db.execute(FOREIGN["view"].replace("VIEW evil", "VIEW notes"))
        db.commit()
    started = time.monotonic()
    with pytest.raises(CulmoError):
        Study(path)
    report = recover(path, tmp_path / "new.culmo")
    assert time.monotonic() - started < 10
    assert "notes" in report.troubled and report.rows["paints"] == 5


def test_a_copy_of_an_older_version_with_a_trigger_is_not_brought_up_to_date(tmp_path):
    path = Path(shutil.copy(OLD / "v3.culmo", tmp_path / "old.culmo"))
    with closing(sqlite3.connect(path)) as db:
        db.execute(FOREIGN["trigger"])
        db.commit()
    before = path.read_bytes()
    with pytest.raises(CulmoError, match="trigger evil"):
        Study(path)
    assert path.read_bytes() == before
    assert [entry.name for entry in tmp_path.iterdir()] == ["old.culmo"]


@pytest.mark.long
def test_what_sqlite_says_of_a_damaged_file_may_hold_its_bytes(tmp_path):
    """The name of a table that is no UTF-8 stands in SQLite's own message, which Python can not read then."""
    path = tmp_path / "mine.culmo"
    with make_study(path) as study:
        note(study, "first")
    data = path.read_bytes()
    for old in (b"CREATE TABLE paints", b"CREATE INDEX readings_by_cell", b"paints", b"notes"):
        for new in (b"\xae", b"\xff\xfe"):
            path.write_bytes(
                data.replace(old, new * (len(old) // len(new)) + b" " * (len(old) % len(new)), 1)
            )
            for way in (Study, inspect, lambda path: put_back(tmp_path / "there.culmo", path)):
                with pytest.raises(CulmoError):
                    way(path)
            (tmp_path / "new.culmo").unlink(missing_ok=True)
            try:
                recover(path, tmp_path / "new.culmo")
            except CulmoError:
                continue
            assert inspect(tmp_path / "new.culmo").problems == []
