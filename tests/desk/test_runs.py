"""The stroke of a paint is the real one where a picture showed it from full to pale, whichever way it lay."""

import json

import numpy as np
import pytest

from culmo.core.capture.patch_picture import compressed, encoded
from culmo.core.capture.patches import MARGIN_MM
from culmo.core.paint.character import seen_lab
from culmo.core.paint.estimate import learn
from culmo.desk.app import settle
from culmo.desk.drawing.looks import Looks
from culmo.study.patches import Patch, WashRun, runs_of
from support.paints import make_painter

FULL = (0.1, 0.15, 0.5)
PAPER = (96.0, 0.0, 2.0)
SIZE = (40.0, 16.0)
PER_MM = 6.0


def band(way, size=SIZE):
    """A band that fades along a way, with paper about it; its lower half is a little redder."""
    width, height = (round((side + 2 * MARGIN_MM) * PER_MM) for side in size)
    rows, columns = np.mgrid[:height, :width] / PER_MM - MARGIN_MM
    along = (columns if way[0] else rows) / (size[0] if way[0] else size[1])
    if sum(way) < 0:
        along = 1.0 - along
    light = np.array(FULL) ** np.clip(1.0 - along, 0.0, 1.0)[..., None]
    inside = (rows > 0) & (columns > 0) & (rows < size[1]) & (columns < size[0])
    data = compressed(encoded(np.where(inside[..., None], light, 1.0)), 60_000)[0]
    return Patch(7, data, -MARGIN_MM, -MARGIN_MM, size, PER_MM, FULL, PAPER, "shot")


def levels(image):
    """The mean green of eight steps along the middle of a stroke."""
    return [
        float(
            np.mean([image.pixelColor(x, y).green() for x in range(start, start + 8) for y in range(16, 24)])
        )
        for start in range(12, 148, 17)
    ]


@pytest.fixture(scope="module")
def estimate():
    painter = make_painter(2, 3)
    return learn([paint.name for paint in painter.paints], painter.cards())


@pytest.mark.parametrize(
    ("way", "size"), [((1, 0), SIZE), ((-1, 0), SIZE), ((0, 1), SIZE[::-1]), ((0, -1), SIZE[::-1])]
)
def test_a_run_lies_from_full_at_the_left_to_pale_whichever_way_it_was_painted(estimate, way, size):
    name = estimate.names[0]
    lab = tuple(float(value) for value in seen_lab(np.array([FULL]), np.array(PAPER))[0])
    runs = {name.casefold(): WashRun(band(way, size), lab, way)}
    looks = Looks(estimate, lambda _: 0.05, runs=runs)
    image = looks.paint_stroke(name, 160, 40)
    assert (image.width(), image.height()) == (160, 40)
    found = levels(image)
    assert found == sorted(found) and found[-1] > found[0] + 80
    assert image.pixelColor(0, 0).alpha() == 0, "in the shape of a stroke"
    assert looks.paint_stroke(estimate.names[1], 160, 40) == looks.stroke(
        next(r for r in looks._tables if r.names == (estimate.names[1],)), 160, 40
    )
    flat = Looks(estimate, lambda _: 0.05, flat=True, runs=runs)
    assert flat.paint_stroke(name, 160, 40) != image


def test_a_damaged_run_is_drawn_as_predicted(estimate):
    name = estimate.names[0]
    broken = Patch(7, b"\xff\xd8 nothing", 0.0, 0.0, SIZE, PER_MM, FULL, PAPER, "shot")
    looks = Looks(
        estimate, lambda _: 0.05, runs={name.casefold(): WashRun(broken, (50.0, 0.0, 0.0), (1.0, 0.0))}
    )
    plain = Looks(estimate, lambda _: 0.05)
    assert looks.paint_stroke(name, 160, 40) == plain.paint_stroke(name, 160, 40)


def test_the_strokes_of_the_box_are_those_of_the_record(demo):
    study = demo.session.file
    runs = runs_of(study)
    assert set(runs) == {"lemon", "rose", "crimson", "ultramarine", "viridian", "indian red"}
    looks = demo.session.learning.looks
    assert looks.runs == runs
    real = looks.paint_stroke("Ultramarine", 200, 50)
    demo.session.learning.set_flat(True)
    settle(demo, 20)
    assert demo.session.learning.looks.paint_stroke("Ultramarine", 200, 50) != real


@pytest.mark.parametrize(
    "damage", ["", "null", "[1, 2]", "[[0, 0], [0, 0]]", "[[0, 0], [NaN, 0]]", "[[0, 0], [1e999, 0]]"]
)
def test_a_band_of_which_nothing_sound_is_kept_gives_no_run(demo, damage):
    study = demo.session.file
    cell = study.select(
        "SELECT c.id FROM readings r JOIN cells c ON c.id = r.cell_id WHERE c.fade_mm NOT NULL AND r.recipe = 'Rose'"
    )[0]["id"]
    assert json.loads(study.row("cells", cell)["fade_mm"])
    with study.disk.transaction() as db:
        db.execute("UPDATE cells SET fade_mm = ? WHERE id = ?", (damage, cell))
    assert set(runs_of(study)) == {"lemon", "crimson", "ultramarine", "viridian", "indian red"}
