"""Copies while one works, and what is read of damaged files."""

import tracemalloc
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
import pytest

from culmo.errors import CulmoError
from culmo.study import acts, note_acts
from culmo.study.backups import (
    KEEP_DAYS,
    KEEP_LAST,
    Backup,
    back_up,
    backups_folder,
    backups_of,
    to_drop,
)
from culmo.study.file import Study
from culmo.study.records import readings
from culmo.study.recovery import _lacking, recover
from support.builders import make_sheet, make_study


def test_a_copy_is_the_study_and_is_made_only_when_something_changed(study):
    first = back_up(study, datetime(2026, 10, 7, 9, 20))
    assert first.name == "0001 2026-10-07 0920.culmo"
    assert back_up(study) is None
    study.apply(note_acts.add_note(study, "more"))
    _make_older(study.path)  # the clock was set back: the study is older than its copy now
    second = back_up(study, datetime(2026, 10, 1, 8, 0))
    assert [backup.number for backup in backups_of(study.path)] == [1, 2]
    before = study.dump()
    with Study(second) as copy:
        assert copy.dump() == before
        assert copy.problems() == []
    assert not list(backups_folder(study.path).glob(".*"))


def _make_older(path):
    import os

    moment = path.stat().st_mtime - 100
    os.utime(path, (moment, moment))


def test_what_a_file_lacks_is_told_by_its_head():
    """SQLite's file format, 1.3: the page size at 16, how many pages at 28."""

    def head(page, pages):
        return (
            b"SQLite format 3\0" + page.to_bytes(2, "big") + bytes(10) + pages.to_bytes(4, "big") + bytes(68)
        )

    assert _lacking(head(4096, 10), 40_000) == 960
    assert _lacking(head(4096, 10), 40_960) == 0
    assert _lacking(head(4096, 10), 50_000) == 0
    assert _lacking(head(512, 3), 0) == 1536
    assert _lacking(head(4097, 10), 0) == 0, "no page is so large"
    assert _lacking(head(8192, 2**32 - 1), 0) == 2**30, "a damaged head may claim anything"
    assert _lacking(head(4096, 10)[:32], 0) == 0
    assert _lacking(b"", 0) == 0


def test_the_last_ten_and_one_of_each_day_are_kept():
    start = datetime(2026, 1, 1, 9)
    moments = [start + timedelta(hours=7 * i) for i in range(400)]
    backups = [Backup(Path(f"{i}"), i, f"{moment:%Y-%m-%d}") for i, moment in enumerate(moments, 1)]
    kept = [backup for backup in backups if backup not in to_drop(backups)]
    assert kept[-KEEP_LAST:] == backups[-KEEP_LAST:]
    days = list(dict.fromkeys(backup.day for backup in backups))[-KEEP_DAYS:]
    for day in days:
        assert [b for b in backups if b.day == day][-1] in kept
    assert len(kept) <= KEEP_LAST + KEEP_DAYS
    assert to_drop(backups[:5]) == []


def test_old_copies_go_and_foreign_files_stay(study):
    folder = backups_folder(study.path)
    folder.mkdir()
    (folder / "mine.culmo").write_bytes(b"mine")
    for i in range(14):
        study.apply(note_acts.add_note(study, f"note {i}"))
        back_up(study, datetime(2026, 10, 7, 9, i))
    assert [backup.number for backup in backups_of(study.path)] == list(range(5, 15))
    assert (folder / "mine.culmo").read_bytes() == b"mine"


def test_a_copy_that_can_not_be_made_harms_nothing(study):
    backups_folder(study.path).write_text("a file in the way", encoding="utf-8")
    before = study.dump()
    with pytest.raises(CulmoError, match="the study itself is saved"):
        back_up(study)
    assert study.dump() == before


# ---- damage


@pytest.fixture(scope="module")
def whole(tmp_path_factory):
    """A study with a sheet, readings and notes, as bytes."""
    path = tmp_path_factory.mktemp("whole") / "a.culmo"
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        for i in range(1, 26):
            study.apply(acts.read_cell(study, 1, i, (20.0 + i, i - 10.0, 5.0)))
        for i in range(60):
            study.apply(note_acts.add_note(study, f"note {i} " + "words " * 40))
        counts = {table: len(rows) for table, rows in study.dump().items()}
    return path.read_bytes(), counts


def test_a_sound_study_is_recovered_whole(whole, tmp_path):
    data, counts = whole
    (tmp_path / "a.culmo").write_bytes(data)
    report = recover(tmp_path / "a.culmo", tmp_path / "b.culmo")
    assert report.rows == counts
    assert report.troubled == {}
    assert report.loose == 0
    with Study(tmp_path / "a.culmo") as one, Study(tmp_path / "b.culmo") as two:
        assert one.dump() == two.dump()


def damage(data, rng):
    """Bytes overwritten, a page lost, or the end cut off."""
    broken = bytearray(data)
    kind = rng.integers(3)
    if kind == 0:
        for place in rng.integers(0, len(data), int(rng.integers(1, 60))):
            broken[int(place)] = int(rng.integers(256))
    elif kind == 1:
        page = 4096 * int(rng.integers(0, len(data) // 4096))
        broken[page : page + 4096] = rng.integers(0, 256, 4096, dtype=np.uint8).tobytes()
    else:
        del broken[int(rng.integers(1, len(data))) :]
    return bytes(broken)


def check_damage(whole, folder, seed):
    data, _ = whole
    path, new = folder / "a.culmo", folder / "b.culmo"
    broken = damage(data, np.random.default_rng(seed))
    path.write_bytes(broken)
    new.unlink(missing_ok=True)
    try:
        report = recover(path, new)
    except CulmoError:
        assert path.read_bytes() == broken
        return 0
    assert path.read_bytes() == broken
    with Study(new) as study:
        assert study.problems() == []
        readings(study)
        assert study.title
    return sum(report.rows.values())


@pytest.mark.long
def test_of_a_damaged_study_most_is_read_and_the_new_one_is_sound(whole, tmp_path):
    _, counts = whole
    found = [check_damage(whole, tmp_path, seed) for seed in range(64)]  # of sixteen the median is chance
    assert np.median(found) > 0.5 * sum(counts.values())


@pytest.mark.soak
@pytest.mark.parametrize("start", range(100, 1100, 100))
def test_a_thousand_damaged_studies(whole, tmp_path, start):
    for seed in range(start, start + 100):
        check_damage(whole, tmp_path, seed)


def test_what_is_no_study_is_refused(tmp_path):
    (tmp_path / "a.culmo").write_bytes(b"nothing like a study")
    for path in (tmp_path / "a.culmo", tmp_path / "missing.culmo"):
        with pytest.raises(CulmoError):
            recover(path, tmp_path / "b.culmo")
        assert not (tmp_path / "b.culmo").exists()
    (tmp_path / "empty.culmo").write_bytes(b"")
    with pytest.raises(CulmoError, match=r"nothing can be read|not a study"):
        recover(tmp_path / "empty.culmo", tmp_path / "b.culmo")


def test_a_head_that_claims_a_vast_file_takes_no_memory(tmp_path):
    make_study(tmp_path / "a.culmo").close()
    data = bytearray((tmp_path / "a.culmo").read_bytes())
    data[28:32] = (250_000).to_bytes(4, "big")  # pages: a gigabyte
    (tmp_path / "a.culmo").write_bytes(data[:-4096])
    tracemalloc.start()
    try:
        report = recover(tmp_path / "a.culmo", tmp_path / "b.culmo")
        assert tracemalloc.get_traced_memory()[1] < 20e6
    finally:
        tracemalloc.stop()
    assert report.rows["paints"] == 5
    with Study(tmp_path / "b.culmo") as study:
        assert study.problems() == []
