"""A study of earlier days, whose pictures are kept: the real paint is taken out of them, and nothing else is changed."""

import shutil
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from culmo.core.capture.patch_picture import light_of, pixels_of
from culmo.core.steps import run_through
from culmo.study import records
from culmo.study.file import Change, Command, Study
from culmo.study.inspection import problems_of_study
from culmo.study.older_pictures import cutting_up, keep_cut, older_picture, placement_in
from culmo.study.patches import patches_of
from culmo.study.uncut import older_pictures

OLD = Path(__file__).parent / "old" / "v11.culmo"


@pytest.fixture
def older(tmp_path):
    """A study that was read with schema 11, its picture inside."""
    with Study(Path(shutil.copy(OLD, tmp_path / "old.culmo"))) as study:
        yield study


def cut_all(study):
    for photo_id in older_pictures(study):
        study.apply(keep_cut(study, run_through(cutting_up(older_picture(study, photo_id)))))


def test_each_cell_gets_its_real_paint_and_the_record_stays(older):
    before = older.dump(without={"patches", "events"})
    cut_all(older)
    assert older.dump(without={"patches", "events"}) == before
    assert problems_of_study(older) == []
    rows = records.read_cells(older, 1)
    patches = patches_of(older, [row["id"] for row in rows.values()])
    assert len(patches) == len(rows) == 9
    for row in rows.values():
        patch = patches[row["id"]]
        light = light_of(pixels_of(patch.data))
        high, wide = light.shape[:2]
        middle = np.median(light[high // 3 : -high // 3, wide // 3 : -wide // 3].reshape(-1, 3), axis=0)
        assert np.abs(np.cbrt(middle) - np.cbrt(patch.seen)).max() < 0.12, "what was read of it in its day"
    assert older_pictures(older) == [], "and not again on another day"


def test_one_read_before_what_was_seen_was_kept_gets_it_too(older):
    rows = older.rows("readings", "cell_id NOT NULL")
    older.apply(Command("older", tuple(Change("readings", r["id"], r, {**r, "seen": ""}) for r in rows)))
    cut_all(older)
    found = patches_of(older, [row["id"] for row in rows])
    assert len(found) == 9
    assert all(row["seen"] == "" for row in older.rows("readings", "cell_id NOT NULL")), (
        "the readings stay as they are"
    )


def test_a_picture_of_which_nothing_can_be_had_is_tried_once(older):
    (photo,) = older.rows("photos")
    older.apply(Command("bad", (Change("photos", photo["id"], photo, {**photo, "data": b"no picture"}),)))
    readings = older.rows("readings")
    cut_all(older)
    assert older.count("patches") == 0 and older.rows("readings") == readings
    assert older_pictures(older) == []
    (after,) = older.rows("photos")
    assert placement_in(records.json_of(after, "placement")) is not None, "it still says where the sheet lies"


def test_a_picture_that_is_gone_may_come_back(older):
    (photo,) = older.rows("photos")
    gone = {**photo, "data": None, "path": "old pictures/away.jpg"}
    older.apply(Command("gone", (Change("photos", photo["id"], photo, gone),)))
    assert older_picture(older, photo["id"]) is None
    assert older_pictures(older) == [photo["id"]]


def test_a_reading_that_went_meanwhile_is_passed_over(older):
    (photo_id,) = older_pictures(older)
    cut = run_through(cutting_up(older_picture(older, photo_id)))
    row = older.rows("readings", "cell_id NOT NULL")[0]
    older.apply(Command("gone", (Change("readings", row["id"], row, None),)))
    older.apply(keep_cut(older, cut))
    assert older.count("patches") == 8 and older.problems() == []


@pytest.mark.parametrize(
    "change",
    [
        {"homography": "x"}, {"homography": [[1, 0], [0, 1]]}, {"bend": [[1]]}, {"bend": [[1, 2]] * 5},
        {"box_mm": [0, 0, -1, 5]}, {"box_mm": None}, {"homography": [[float("nan")] * 3] * 3},
    ],
)  # fmt: skip
def test_a_place_that_makes_no_sense_is_none(change):
    whole = {"homography": np.eye(3).tolist(), "bend": [], "box_mm": [0, 0, 210, 297]}
    assert placement_in(whole) is not None
    assert placement_in({**whole, **change}) is None


def test_a_cut_that_gave_nothing_of_a_cell_leaves_it_out(older):
    (photo_id,) = older_pictures(older)
    cut = run_through(cutting_up(older_picture(older, photo_id)))
    name = next(iter(cut.patches))
    fewer = replace(cut, patches={key: value for key, value in cut.patches.items() if key != name})
    older.apply(keep_cut(older, fewer))
    assert older.count("patches") == 8


def test_looking_whether_there_are_any_loads_nothing_dear():
    """It is asked at each opening, while the window stands still."""
    code = (
        "import sys, culmo.study.file, culmo.study.uncut; "
        "print([name for name in ('cv2', 'scipy.optimize', 'culmo.core.capture.read') if name in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
