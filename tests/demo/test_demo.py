"""The demo study and the simulated painter."""

import itertools

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.readings import INK
from culmo.core.paint.recipe import Recipe, mix
from culmo.demo.make import TITLE, make_demo
from culmo.demo.paints import PAINTS, TRAVEL_BOX
from culmo.study import records
from culmo.study.file import Study
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


def test_the_demo_is_the_same_each_time(demo, tmp_path):
    with Study(make_demo(tmp_path)) as again:
        assert again.dump() == demo.dump()


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
