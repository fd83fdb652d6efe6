"""The demo study and the simulated painter."""

import itertools
import sqlite3
from contextlib import closing

import numpy as np
import pytest

from culmo import words
from culmo.core.capture.patch_picture import pixels_of
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.readings import INK
from culmo.core.paint.recipe import Recipe, mix
from culmo.demo.make import TITLE, make_demo
from culmo.demo.paints import PAINTS, TRAVEL_BOX
from culmo.demo.sample import put_sample, shipped
from culmo.study import patches as patches_module
from culmo.study import records
from culmo.study.file import Study
from culmo.study.patches import texture_in
from culmo.study.schema import VERSION
from support.builders import sample_study
from support.paints import FAMILIES, make_painter


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    path = sample_study(tmp_path_factory.mktemp("demo"))
    with Study(path) as study:
        yield study


def test_the_demo_holds_what_the_scenario_tells(demo):
    assert demo.title == TITLE
    by_status = [paint.status for paint in records.paints(demo)]
    assert (by_status.count("owned"), by_status.count("wished")) == (18, 3)
    assert [row["name"] for row in demo.rows("boxes")] == ["Studio box", "Travelling box"]
    assert len(demo.rows("wells")) == 18 + len(TRAVEL_BOX)
    titles = [title for _, title in records.sheet_titles(demo)]
    assert len(titles) == 6
    states = []
    for sheet_id, _ in records.sheet_titles(demo):
        record = records.sheet_record(demo, sheet_id)
        painted, read = len(records.painted_cells(demo, sheet_id)), len(records.read_cells(demo, sheet_id))
        states.append((painted / len(record.cells), read / len(record.cells)))
    assert (0.0, 0.0) in states
    assert (1.0, 1.0) in states
    assert any(0 < painted < 1 for painted, _ in states)
    assert sum(row["keeper"] for row in demo.rows("cells")) == 3
    assert "invented" in demo.rows("notes")[0]["text"]
    assert demo.problems() == []


@pytest.mark.long
def test_what_ships_is_what_is_painted(demo, tmp_path):
    """Made anew it is the same, but for the last digits of what another machine reckons of a picture."""
    with Study(make_demo(tmp_path)) as again:
        made, ships = again.dump(), demo.dump()
    assert made.keys() == ships.keys()
    for table, rows in made.items():
        for own, other in zip(rows, ships[table], strict=True):
            reckoned = (
                {"data", "digest", "seen", "texture", "left_mm", "top_mm", "per_mm"}
                if table == "patches"
                else set()
            )
            assert {k: v for k, v in own.items() if k not in reckoned} == {
                k: v for k, v in other.items() if k not in reckoned
            }
    for own, other in zip(made["patches"], ships["patches"], strict=True):
        pixels = [pixels_of(row["data"]).astype(float) for row in (own, other)]
        assert np.abs(pixels[0] - pixels[1]).max() < 4
        for measure in ("left_mm", "top_mm", "per_mm"):
            assert own[measure] == pytest.approx(other[measure], abs=0.01)
        textures = [texture_in(row["texture"]) for row in (own, other)]
        if None not in textures:
            assert textures[0].contrast == pytest.approx(textures[1].contrast, abs=0.05)
        else:
            assert textures == [None, None]


def test_what_ships_is_of_this_version(tmp_path):
    for code in words.LANGUAGES:
        (tmp_path / code).write_bytes(shipped(code))
        with closing(sqlite3.connect(tmp_path / code)) as db:
            assert db.execute("PRAGMA user_version").fetchone()[0] == VERSION


def test_each_copy_is_a_file_of_its_own(tmp_path):
    paths = [put_sample(tmp_path / name) for name in ("one", "two")]
    tokens = []
    for path in paths:
        with closing(sqlite3.connect(path)) as db:
            tokens += db.execute("SELECT token FROM origin").fetchone()
    assert len(set(tokens)) == 2


def test_the_real_paint_of_the_demo(demo):
    """What was read has its paint, and shows how the paints settle: grainy ones, smooth ones, and two that part."""
    patches = demo.rows("patches")
    assert len(patches) > 100
    seen = {}
    for entry in patches_module.seen_textures(demo):
        if len(entry.recipe.layers) == 1 and entry.recipe.layers[0].wash == 1.0:
            seen[str(entry.recipe)] = entry.texture
    assert seen["Viridian"].contrast > 3 * seen["Phthalo blue"].contrast
    # one settles and the other stays between; of two that both stay nothing comes apart
    assert seen["Rose + Viridian"].parting > 3 * seen["Rose + Phthalo blue"].parting


def test_recipes_of_the_demo_name_paints_of_the_box(demo):
    names = {paint.name for paint in records.paints(demo)}
    for row in (*demo.rows("cells"), *demo.rows("readings")):
        assert set(records.recipe_of(row).names) <= names


def test_the_hand_errs_about_its_own_mean():
    painter = make_painter(6, seed=1)
    names = [paint.name for paint in painter.paints]
    recipe = mix(names[:2])
    mean = painter.mean_lab(recipe)
    painted = np.array([painter.paint(recipe) for _ in range(300)])
    away = delta_e_00(painted, mean)
    assert 0.3 < np.median(away) < 8
    assert delta_e_00(painted.mean(axis=0), mean) < 2.5
    assert np.abs(painter.mean_lab(recipe) - mean).max() == 0


def test_the_bar_shows_how_opaque_a_paint_is():
    painter = make_painter(len(FAMILIES), seed=2)
    bare = painter.mean_lab(Recipe(), INK)[0]
    covers = [painter.mean_lab(mix([paint.name]), INK)[0] - bare for paint in painter.paints]
    level = [paint.scattering.mean() for paint in painter.paints]
    assert np.corrcoef(covers, level)[0, 1] > 0.5


def test_a_tint_is_lighter_and_a_granulating_wash_is_lighter_than_a_smooth_one():
    painter = make_painter(5, seed=6, bias=0.0)
    for paint in painter.paints:
        full, tint = (painter.mean_lab(mix([paint.name], wash=w))[0] for w in (1.0, 0.2))
        assert tint > full
    assert len({paint.name for paint in PAINTS}) == len(PAINTS) == 18
    for one, two in itertools.combinations(PAINTS, 2):
        assert np.abs(one.absorption - two.absorption).max() > 0.1
