"""Several pictures of one cell: learning takes each by itself, and the mean is told anew as more is learned."""

import json

import numpy as np
import pytest

from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.character import Shot
from culmo.core.steps import run_through
from culmo.study import acts, records
from culmo.study.learned import find_kept, fingerprint, keep, learning_from
from culmo.study.looks import in_mean
from culmo.study.photo_acts import Picture, read_picture
from culmo.study.pictured import readings_of
from culmo.study.seen import with_anchors
from support.builders import FIVE, make_sheet

PAPER = (95.0, 0.0, 2.0)
ONE, OTHER = Shot("now", PAPER, "a phone"), Shot("now", PAPER, "a phone", raw=True)


def look(cell, light, lab):
    return CellReading(
        cell.id, cell.recipe, cell.ground, np.array(lab), "good", (), 3.0, 2.0, 1.0, seen=light, own=0.8
    )


def take(study, day, shot, light_of, lab=(60.0, 12.0, 14.0), only=slice(None)):
    cells = [entry.cell for entry in records.sheet_record(study, 1).cells][only]
    looks = [look(cell, light_of(n), lab) for n, cell in enumerate(cells)]
    picture = Picture(f"{day}.jpg", f"picture {day}".encode(), f"2026-06-{day:02}T12:00:00+02:00")
    study.apply(read_picture(study, 1, looks, picture, shot=shot))


@pytest.fixture
def twice(study):
    """A sheet of which two pictures were read: a JPEG, and a raw file that shows it brighter."""
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:4])))
    take(study, 1, ONE, lambda n: (0.6 - 0.01 * n, 0.3 + 0.01 * n, 0.25))
    take(study, 2, OTHER, lambda n: (0.7 - 0.01 * n, 0.35 + 0.01 * n, 0.3), (64.0, 12.0, 14.0))
    return study


def codes_of(study):
    return [(paint.name, paint.codes) for paint in records.paints(study, retired=True)]


def test_each_look_is_learned_from_with_its_own_picture(twice):
    rows = records.reading_rows(twice)
    cells = [row for row in rows if row["cell_id"]]
    readings = [reading for reading in readings_of(rows) if reading.seen is not None]
    assert len(readings) == 2 * len(cells)
    assert {reading.cell for reading in readings} == {row["id"] for row in cells}
    assert [reading.shot.raw for reading in readings[:2]] == [False, True]
    assert readings[0].lab == (60.0, 12.0, 14.0) and readings[1].lab == (64.0, 12.0, 14.0)
    found = run_through(learning_from(codes_of(twice), rows, None, None))
    assert sorted(shot.raw for shot in found.estimate.shots) == [False, True]
    assert set(found.weights) >= {row["id"] for row in cells}


def test_how_well_each_fits_is_kept_by_its_row(twice, tmp_path):
    found = run_through(learning_from(codes_of(twice), records.reading_rows(twice), None, tmp_path))
    assert len(found.weights) < len(found.estimate.weights), "two looks are one row"
    keep(tmp_path, found)
    again = find_kept(tmp_path, found.fingerprint)
    assert again is not None
    assert again.weights == found.weights


def test_the_mean_is_told_anew_by_what_is_learned_of_both_pictures(twice):
    rows = records.reading_rows(twice)
    found = run_through(learning_from(codes_of(twice), rows, None, None))
    row = next(row for row in rows if row["cell_id"])
    before, now = found.told_anew[row["id"]]
    assert before == (row["L"], row["a"], row["b"]) == pytest.approx((62.0, 12.0, 14.0))
    assert now != before
    assert abs(now[0] - before[0]) < 15.0
    twice.told_anew = found.told_anew
    assert records.read_cells(twice, 1)[row["cell_id"]]["L"] == pytest.approx(now[0])


def test_what_was_corrected_by_hand_or_put_aside_is_one_reading(twice):
    rows = [row for row in records.reading_rows(twice) if row["cell_id"]]
    assert len(in_mean(rows[0])) == 2
    assert in_mean({**rows[0], "L": 50.0}) == ()
    assert in_mean({**rows[0], "trust": "excluded"}) == ()
    (reading,) = readings_of([{**rows[0], "L": 50.0}])
    assert reading.cell is None and reading.lab[0] == 50.0


@pytest.mark.parametrize(
    "looks", ["", None, "[", "[]", "7", "{}", "[1, 2]", '[{"L": 1}]', "[" * 5000, "[null, null]", 7, 1.5]
)
def test_damaged_looks_count_as_none(twice, looks):
    row = next(row for row in records.reading_rows(twice) if row["cell_id"])
    assert in_mean({**row, "looks": looks}) == ()
    assert with_anchors([{**row, "looks": looks}]) == {}


def test_a_picture_that_did_not_keep_what_it_saw_leaves_the_mean_as_it_is(twice):
    row = next(row for row in records.reading_rows(twice) if row["cell_id"])
    looks = json.loads(row["looks"])
    assert in_mean({**row, "looks": json.dumps(looks)}) == in_mean(row)
    looks[0]["seen"] = ""
    assert in_mean({**row, "looks": json.dumps(looks)}) == ()
    for odd in (json.dumps({"rgb": [1]}), [1], {"a": 1}, 5, None):
        looks[0]["seen"] = odd
        assert in_mean({**row, "looks": json.dumps(looks)}) == ()


def test_of_three_pictures_one_that_is_far_off_takes_no_part(twice):
    take(twice, 3, ONE, lambda n: (0.2, 0.2, 0.2), (30.0, -20.0, 14.0), slice(0, 3))
    row = next(row for row in records.reading_rows(twice) if row["cell_id"])
    assert len(json.loads(row["looks"])) == 3
    assert [look.lab[0] for look in in_mean(row)] == [60.0, 64.0]
    assert sum(look.weight for look in in_mean(row)) == pytest.approx(1.0)


def test_other_looks_are_another_thing_to_learn_from(twice):
    codes, rows = codes_of(twice), records.reading_rows(twice)
    place = next(n for n, row in enumerate(rows) if row["cell_id"])
    other = [dict(row) for row in rows]
    other[place]["looks"] = other[place]["looks"].replace("0.3,", "0.31,").replace("0.3]", "0.31]")
    assert in_mean(other[place]) != in_mean(rows[place])
    assert fingerprint(codes, rows) != fingerprint(codes, other)


def test_of_a_glaze_the_surest_look_counts(twice):
    row = next(row for row in records.reading_rows(twice) if row["cell_id"])
    over = {**row, "recipe": "Rose over Lemon"}
    looks = json.loads(row["looks"])
    looks[1]["uncertainty"] = 1.5
    weights = [3.0**-2, 1.5**-2]
    mean = float(np.average([60.0, 64.0], weights=weights))
    (reading,) = readings_of([{**over, "looks": json.dumps(looks), "L": mean}])
    assert reading.lab[0] == 64.0 and reading.shot.raw
