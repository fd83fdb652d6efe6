"""What is known for itself in a picture that is read now is learned from now, and not only on another day."""

import shutil

import numpy as np
import pytest

from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.character import Anchor, Shot
from culmo.desk.app import settle
from culmo.study import acts, records
from culmo.study.photo_acts import Picture, read_picture
from support.builders import make_sheet

PATCHES = tuple(
    Anchor((level, level, level), (20.0 + 75.0 * level, 0.0, 0.0)) for level in (0.2, 0.4, 0.6, 0.8)
)


@pytest.fixture
def session(window, tmp_path, demo_file):
    assert window.open_path(shutil.copy(demo_file, tmp_path))
    settle(window, 60)
    return window.session


def shots_of(window):
    session = window.session
    for _ in range(600):
        settle(window, 50)
        if not session.runner.busy():
            break
    return session.learning.estimate.shots


@pytest.mark.long
def test_a_cards_patches_tie_the_picture_down_at_once_and_go_with_it(window, session):
    study = session.file
    session.do(acts.add_sheet(study, make_sheet(names=("Lemon", "Rose", "Ultramarine", "Ochre"))))
    sheet = max(row["id"] for row in study.rows("sheets"))
    cells = [entry.cell for entry in records.sheet_record(study, sheet).cells if entry.cell.recipe.layers][:8]
    looks = [
        CellReading(
            cell.id, cell.recipe, cell.ground, np.array((60.0, 10.0, 10.0)), "good", (), 2.0, 1.0, 1.0,
            seen=(0.4, 0.3, 0.2), own=0.8,
        )
        for cell in cells
    ]  # fmt: skip
    picture = Picture("now.jpg", b"now", "2026-06-01T12:00:00+02:00")
    shot = Shot("now", (95.0, 0.0, 2.0), "a phone", PATCHES)
    before = shots_of(window)
    session.do(read_picture(study, sheet, looks, picture, shot=shot))
    (read,) = set(shots_of(window)) - set(before)
    assert read.anchors == PATCHES
    # another act that edits the row with which the picture is handed on
    first = next(row for row in records.reading_rows(study) if row["shot"])
    session.do(acts.set_trust(study, first["id"], "doubtful"))
    assert {one.anchors for one in shots_of(window)} >= {PATCHES}
    session.undo.undo()
    session.undo.undo()
    assert set(shots_of(window)) == set(before)
