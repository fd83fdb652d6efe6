"""What a camera saw is kept with its readings, and their colours are told anew as more is learned."""

import json
import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.character import Anchor, Shot
from culmo.core.steps import run_through
from culmo.study import acts, records
from culmo.study.file import Study
from culmo.study.learned import find_kept, keep, knowledge_of, learning_from
from culmo.study.photo_acts import Picture, read_picture
from culmo.study.row_reading import reading_of
from culmo.study.seen import kept_text, seen_in, seen_of, with_anchors
from support.builders import FIVE, make_sheet

SHOT = Shot("here", (95.0, 0.0, 2.0), "a phone", light="tube")
LIGHT = (0.5, 0.3, 0.2)


def look(cell, light=LIGHT, lab=(60.0, 12.0, 14.0), **more):
    return CellReading(
        cell.id,
        cell.recipe,
        cell.ground,
        np.array(lab),
        "good",
        (),
        3.0,
        2.0,
        1.0,
        seen=light,
        own=0.8,
        **more,
    )


@pytest.fixture
def read(study):
    """A sheet of which a picture shows all cells, each a little darker than the one before."""
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:4])))
    cells = [entry.cell for entry in records.sheet_record(study, 1).cells]
    looks = [look(cell, (0.6 - 0.01 * n, 0.3 + 0.01 * n, 0.25)) for n, cell in enumerate(cells)]
    study.apply(read_picture(study, 1, looks, Picture("a.jpg", b"a", "2026-06-01T12:00:00+02:00"), shot=SHOT))
    return study, cells


def codes_of(study):
    return [(paint.name, paint.codes) for paint in records.paints(study, retired=True)]


def test_what_the_camera_saw_is_kept_and_comes_back(read):
    study, cells = read
    rows = records.reading_rows(study)
    readings = [reading_of(row) for row in rows if row["cell_id"]]
    kept = [reading.seen for reading in readings]
    assert kept == [pytest.approx((0.6 - 0.01 * n, 0.3 + 0.01 * n, 0.25)) for n in range(len(cells))]
    (shot,) = {reading.shot for reading in readings}
    assert (shot.paper, shot.camera) == (SHOT.paper, SHOT.camera)
    assert all(reading.uncertainty == pytest.approx(1.2) for reading in readings)
    assert study.problems() == []


def test_two_pictures_are_two_shots(read):
    study, cells = read
    other = [look(cell) for cell in cells[:3]]
    study.apply(read_picture(study, 1, other, Picture("b.jpg", b"b", "2026-06-02T12:00:00+02:00"), shot=SHOT))
    rows = study.rows("readings", "cell_id NOT NULL")
    several = [row for row in rows if json.loads(row["extra"]).get("looks")]
    assert len(several) == 3
    assert all(row["seen"] == "" for row in several), "the mean of two cameras is what neither saw"
    keys = {seen_in(one["seen"])[3].key for row in several for one in json.loads(row["extra"])["looks"]}
    assert len(keys) == 2


def test_a_colour_that_was_corrected_by_hand_stands(read):
    study, _ = read
    row = study.rows("readings", "cell_id NOT NULL")[0]
    assert seen_of(row) is not None
    assert seen_of({**row, "L": row["L"] + 1.0}) is None
    assert reading_of({**records.reading_rows(study)[-1], "a": 3.0}).shot is None


@pytest.mark.parametrize(
    "text",
    [
        "",
        "{",
        "[]",
        "null",
        "7",
        '{"rgb": [1, 2]}',
        '{"rgb": ["a", 1, 1], "lab": [1, 1, 1]}',
        "NaN",
        "[" * 5000,
    ],
)
def test_what_is_damaged_counts_as_not_seen(text):
    assert seen_in(text) is None
    assert seen_of({"L": 1.0, "a": 0.0, "b": 0.0, "seen": text}) is None


@pytest.mark.parametrize(
    ("key", "value"),
    [("rgb", [1.0, 2.0, float("nan")]), ("rgb", [1.0, 2.0, 1e9]), ("own", -1), ("own", "x"), ("paper", [0, 0, 0]),
     ("paper", None), ("anchors", [[1]]), ("anchors", 5), ("lab", [1e9, 0, 0])],
)  # fmt: skip
def test_wild_numbers_count_as_not_seen(read, key, value):
    study, _ = read
    whole = json.loads(study.rows("readings", "cell_id NOT NULL")[0]["seen"])
    assert seen_in(json.dumps(whole)) is not None
    assert seen_in(json.dumps({**whole, key: value})) is None


def test_a_cards_patches_that_earlier_versions_kept_with_each_reading_count():
    cell = make_sheet(names=FIVE[:2]).cells[0]
    whole = json.loads(kept_text(look(cell), SHOT, "k"))
    whole["anchors"] = [[[0.9, 0.9, 0.9], [95.0, 0.0, 0.0]]]
    assert seen_in(json.dumps(whole))[3].anchors == (Anchor((0.9, 0.9, 0.9), (95.0, 0.0, 0.0)),)


def test_what_an_instrument_says_of_a_cell_ties_its_picture_down(read):
    study, _ = read
    for entry in records.sheet_record(study, 1).cells[:4]:
        given = replace(look(entry.cell), seen=None, lab=np.array([58.0, 10.0, 11.0]))
        study.apply(read_picture(study, 1, [given], source="instrument"))
    rows = records.reading_rows(study)
    (anchors,) = with_anchors(rows).values()
    assert len(anchors) == 4
    assert all(anchor.lab == (58.0, 10.0, 11.0) for anchor in anchors)
    found = run_through(learning_from(codes_of(study), rows, None, None))
    (shot,) = found.estimate.shots
    assert shot.anchors == anchors


def test_an_old_picture_profits_from_what_is_learned(read, tmp_path):
    study, _ = read
    rows = records.reading_rows(study)
    found = run_through(learning_from(codes_of(study), rows, None, None))
    assert len(found.estimate.shots) == 1
    assert found.told_anew
    study.told_anew = found.told_anew
    cell_id, shown = next(iter(records.read_cells(study, 1).items()))
    kept = study.rows("readings", "cell_id = ?", (cell_id,))[0]
    assert shown["L"] != kept["L"], "the record itself stays"
    study.apply(acts.read_cell(study, 1, cell_id, (50.0, 1.0, 1.0)))
    assert records.read_cells(study, 1)[cell_id]["L"] == 50.0, "what was typed since stands"
    # on another day
    again = run_through(learning_from(codes_of(study), records.reading_rows(study), None, tmp_path))
    keep(tmp_path, again)
    kept_one = find_kept(tmp_path, again.fingerprint)
    assert kept_one.estimate.shots == again.estimate.shots
    np.testing.assert_array_equal(kept_one.estimate.theta, again.estimate.theta)
    third = run_through(learning_from(codes_of(study), records.reading_rows(study), None, tmp_path))
    assert third.kept
    assert third.told_anew == again.told_anew


def test_all_that_was_learned_goes_into_the_next_picture(read):
    study, _ = read
    rows = records.reading_rows(study)
    found = run_through(learning_from(codes_of(study), rows, None, None))
    known = knowledge_of(codes_of(study), rows, found.estimate)
    assert known.earlier is found.estimate
    assert set(known.names) == set(found.estimate.names)
    assert {reading.shot.key for reading in known.readings if reading.shot} == {found.estimate.shots[0].key}


def test_a_study_of_the_version_before_comes_along(tmp_path):
    shutil.copy(Path(__file__).parent / "old" / "v10.culmo", tmp_path / "ten.culmo")
    with Study(tmp_path / "ten.culmo") as study:
        rows = study.rows("readings")
        assert len(rows) > 2
        assert all(row["seen"] == "" for row in rows)
        assert all(reading_of(row).shot is None for row in records.reading_rows(study))
        assert study.problems() == []
        record = records.sheet_record(study, 1)
        looks = [look(entry.cell) for entry in record.cells]
        picture = Picture("n.jpg", b"n", "2026-12-01T10:00:00+01:00")
        study.apply(read_picture(study, 1, looks, picture, shot=SHOT))
        assert study.problems() == []
