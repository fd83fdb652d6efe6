"""What a study may hold: the same on opening, on saving and in a recovered file."""

import json
import shutil
import sqlite3
from contextlib import closing, suppress
from datetime import datetime

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from culmo.study import acts, note_acts, paint_acts
from culmo.study.file import Study
from culmo.study.inspection import problems_of_study
from culmo.study.known_sound import is_remembered, remember
from culmo.study.records import paints
from culmo.study.recovery import recover
from culmo.study.schema import TABLES
from culmo.study.soundness import odd, spares, with_offset
from support.builders import make_sheet, make_study

MOMENTS = (
    "2026-02-21T10:20:30+01:00",
    "2024-02-29T23:59:59.125-05:30",
    "2026-12-31T00:00:00Z",
    "2026-06-30T09:05",
)


@pytest.fixture(scope="module")
def dates():
    db = sqlite3.connect(":memory:")
    db.row_factory = sqlite3.Row
    db.execute(
        "CREATE TABLE readings (id INTEGER PRIMARY KEY, taken TEXT, extra TEXT, L REAL, a REAL, b REAL)"
    )
    db.execute("INSERT INTO readings VALUES (1, NULL, '{}', 50, 0, 0)")
    yield lambda text: db.execute(f"SELECT {odd(db, 'readings')} FROM (SELECT 50 AS L, 0 AS a, 0 AS b, 1 AS id, "
                                  "'{}' AS extra, ? AS taken)", (text,)).fetchone()[0]  # fmt: skip
    db.close()
    db.close()


@pytest.mark.parametrize("moment", MOMENTS)
def test_a_moment_is_sound(dates, moment):
    assert not dates(moment)


@pytest.mark.parametrize(
    "moment", ["2026-02-31T10:20:30+01:00", "2025-02-29T10:20", "2026-04-31T10:20", "0000-01-01T10:20", "2026-01-01T24:00",
               "2026-01-01", "2026-13-01T10:20", "2026-01-01T10:20+15:00", "2026-01-01 10:20", "", "now"]
)  # fmt: skip
def test_no_moment_at_all_is_odd(dates, moment):
    assert dates(moment)


@given(base=st.sampled_from(MOMENTS), hurts=st.lists(st.tuples(st.integers(0, 30), st.sampled_from("0123456789-:T.+Z ,")),
                                                     min_size=1, max_size=4))  # fmt: skip
def test_what_is_let_through_can_be_read(dates, base, hurts):
    letters = list(base)
    for place, letter in hurts:
        letters[place % len(letters)] = letter
    text = "".join(letters)
    if not dates(text):
        assert with_offset(datetime.fromisoformat(text)).tzinfo is not None


def _hurt(path, table, column, value):
    """A study of which the last row of a table holds a value; gives its id and what the study held before."""
    # its moments are told apart by nothing: one of them may stand in for another
    with make_study(path, clock=lambda: "2026-03-02T10:00:00+01:00") as study:
        study.apply(note_acts.add_note(study, "a thought"))
        before = study.dump()
    db = sqlite3.connect(path)
    row_id = before[table][-1]["id"]
    db.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (value, row_id))
    db.commit()
    db.close()
    return row_id, before


@pytest.mark.parametrize(
    "table, column, value",
    [("readings", "L", 1e300), ("readings", "a", "red"), ("events", "text", b"x"), ("paints", "retired", "far"),
     ("notes", "text", b"x")],
)  # fmt: skip
def test_a_recovered_study_opens_without_what_made_no_sense(tmp_path, table, column, value):
    hurt, before = _hurt(tmp_path / "a.culmo", table, column, value)
    with Study(tmp_path / "a.culmo") as study:
        assert study.problems() == [f"{table}: 1 entry holds values that make no sense"]
    report = recover(tmp_path / "a.culmo", tmp_path / "b.culmo")
    assert (report.garbled, report.patched) == (1, 0)
    with Study(tmp_path / "b.culmo") as study:
        assert study.problems() == []
        after = study.dump()
    assert hurt not in [row["id"] for row in after[table]]
    kept = sum(len(rows) for rows in after.values())
    assert kept == sum(len(rows) for rows in before.values()) - 1 - report.loose
    assert json.dumps(after["sheets"]) == json.dumps(before["sheets"]) and set(after) == set(TABLES)


@pytest.mark.parametrize(
    "table, column, value, instead",
    [("readings", "taken", "2026-02-31T10:20:30+01:00", None), ("readings", "taken", b"\0\1", None),
     ("events", "at", "soon", None), ("paints", "created", "", None), ("notes", "created", 7e300, None),
     ("readings", "extra", "{", "{}"), ("paints", "label", "[" * 5, "{}"),
     ("paints", "label", "[" * 1500 + "]" * 1500, "{}"),
     ("paints", "position", "far", 0), ("paints", "note", b"x", ""), ("readings", "dry_hours", "long", "null"),
     ("readings", "granulation", float("inf"), "null")],
)  # fmt: skip
def test_a_recovered_reading_does_not_go_with_its_date_nor_a_paint_with_its_note(
    tmp_path, table, column, value, instead
):
    hurt, before = _hurt(tmp_path / "a.culmo", table, column, value)
    report = recover(tmp_path / "a.culmo", tmp_path / "b.culmo")
    assert (report.garbled, report.loose, report.patched) == (0, 0, 1)
    assert "1 entry had lost a date" in report.words
    with Study(tmp_path / "b.culmo") as study:
        assert study.problems() == []
        after = study.dump()
        instead = {None: study.created, "null": None}.get(instead, instead)
    for name in before:
        for own, other in zip(before[name], after[name], strict=True):
            if name == table and own["id"] == hurt:
                own = {**own, column: instead}
            assert own == other


def test_what_may_be_lost_has_something_in_its_stead(tmp_path):
    with make_study(tmp_path / "a.culmo") as study:
        for table in TABLES:
            for name, instead in spares(study.disk.db, table).items():
                (kind,) = [
                    c["type"]
                    for c in study.disk.db.execute(f"PRAGMA table_info({table})")
                    if c["name"] == name
                ]
                (found,) = study.disk.db.execute(
                    f"SELECT {instead} AS v", {"moment": study.created}
                ).fetchone()
                assert found is None or isinstance(found, {"TEXT": str, "INTEGER": int, "REAL": float}[kind])
        essential = {
            "recipe",
            "ground",
            "L",
            "a",
            "b",
            "cell",
            "layout",
            "outline_mm",
            "act",
            "treatment",
            "trust",
            "paper",
        }
        assert not essential & {name for table in TABLES for name in spares(study.disk.db, table)}


@pytest.mark.long
@given(
    st.lists(
        st.tuples(st.sampled_from(TABLES), st.integers(0, 30), st.integers(0, 30),
                  st.sampled_from(["", "{", "x", b"\xff", -1, 10**15, 1e300, float("inf"), "2026-02-31T00:00", None])),
        min_size=1, max_size=6,
    )
)  # fmt: skip
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
def test_whatever_values_are_hurt_the_recovered_study_opens(tmp_path_factory, hurts):
    folder = tmp_path_factory.mktemp("hurt")
    with make_study(folder / "a.culmo") as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        study.apply(paint_acts.paint_cell(study, 1, 1))
        study.apply(note_acts.add_note(study, "a thought"))
        before = study.dump()
    db = sqlite3.connect(folder / "a.culmo")
    for table, place, column, value in hurts:
        rows = before[table]
        if rows:
            row = rows[place % len(rows)]
            name = [key for key in row if key != "id"][column % (len(row) - 1)]
            with suppress(sqlite3.IntegrityError, OverflowError):
                db.execute(f"UPDATE {table} SET {name} = ? WHERE id = ?", (value, row["id"]))
    db.commit()
    db.close()
    report = recover(folder / "a.culmo", folder / "b.culmo")
    with Study(folder / "b.culmo") as study:
        assert study.problems() == []
        study.title  # noqa: B018 - it can be read
        for paint in paints(study):
            assert paint.name is not None
        after = study.dump()
    lost = sum(len(rows) for table, rows in before.items() if table != "meta") - sum(
        len(rows) for table, rows in after.items() if table != "meta"
    )
    assert lost == report.garbled + report.loose
    assert "Read:" in report.words


def test_a_study_that_is_as_it_was_left_is_not_looked_through_row_by_row_again(tmp_path):
    path, folder = tmp_path / "mine.culmo", tmp_path / "cache"
    with make_study(path) as study:
        assert not is_remembered(folder, study)
        remember(folder, study)
        assert is_remembered(folder, study)
    with Study(path) as study:
        assert is_remembered(folder, study)
        study.apply(note_acts.add_note(study, "more"))
        assert not is_remembered(folder, study)
        remember(folder, study)
    shutil.copy2(path, tmp_path / "other.culmo")
    (tmp_path / "other.culmo").replace(path)  # the same bytes and time, and another file
    with Study(path) as study:
        assert not is_remembered(folder, study)
        remember(folder, study)
    with closing(sqlite3.connect(path)) as db:
        db.execute("UPDATE paints SET name = '' WHERE id = 1")
        db.commit()
    with Study(path) as study:
        assert not is_remembered(folder, study)
        assert "paints 1" in problems_of_study(study)[0]
