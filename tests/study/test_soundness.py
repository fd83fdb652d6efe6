"""What a study may hold: the same on opening, on saving and in a recovered file."""

import json
import sqlite3
from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.study.backups import recover
from culmo.study.file import Study
from culmo.study.schema import TABLES
from culmo.study.soundness import odd, with_offset
from support.builders import make_study

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


@pytest.mark.parametrize(
    "table, column, value",
    [("readings", "taken", "2026-02-31T10:20:30+01:00"), ("readings", "L", 1e300), ("readings", "extra", "{"),
     ("events", "at", "soon"), ("paints", "label", "[" * 5), ("readings", "a", "red"), ("paints", "position", "far")],
)  # fmt: skip
def test_a_recovered_study_opens_without_what_made_no_sense(tmp_path, table, column, value):
    with make_study(tmp_path / "a.culmo") as study:
        before = study.dump()
    db = sqlite3.connect(tmp_path / "a.culmo")
    hurt = before[table][-1]["id"]
    db.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (value, hurt))
    db.commit()
    db.close()
    with Study(tmp_path / "a.culmo") as study:
        assert study.problems() == [f"{table}: 1 entries hold values that make no sense"]
    report = recover(tmp_path / "a.culmo", tmp_path / "b.culmo")
    assert report.garbled == 1
    with Study(tmp_path / "b.culmo") as study:
        assert study.problems() == []
        after = study.dump()
    assert hurt not in [row["id"] for row in after[table]]
    kept = sum(len(rows) for rows in after.values())
    assert kept == sum(len(rows) for rows in before.values()) - 1 - report.loose
    assert json.dumps(after["sheets"]) == json.dumps(before["sheets"]) and set(after) == set(TABLES)
