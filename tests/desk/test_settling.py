"""Mixes are asked for and found by how they lie on the paper: smooth, granulating, or like a cell of a picture."""

import numpy as np
import pytest

from culmo.core.paint.recipe import mix
from culmo.core.paint.texture import GRANULATES, PARTS, apart_with_texture
from culmo.core.palette.idea import IdeaKind
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.find_model import PaintedCell, Sought, _alike
from culmo.desk.rooms.weigh.pairs_model import TOPICS, row_words
from culmo.desk.rooms.weigh.settling import GrainWish
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.study import acts, paint_acts
from culmo.words import tr


def test_looks_from_near_are_as_far_apart_as_their_pixels():
    """Held against transport between the sorted pixels of washes along one axis, where that is the true distance."""
    rng = np.random.default_rng(3)
    grain = np.sort(rng.normal(size=200_000))
    for away, one, other in ((0.0, 3.0, 1.0), (2.0, 0.5, 2.5), (4.0, 1.0, 1.0)):
        moved = np.sqrt(np.mean((one * grain - (other * grain + away)) ** 2))
        assert apart_with_texture(away, (one, 0.0), (other, 0.0)) == pytest.approx(moved, abs=0.02)
        assert apart_with_texture(away, (0.0, one), (0.0, other)) == pytest.approx(moved, abs=0.02)


def test_what_looks_like_it_from_near_comes_first():
    lab, near = (50.0, 0.0, 0.0), (51.0, 0.0, 0.0)
    painted = [
        PaintedCell(mix(["Grainy"]), lab, (4.0, 1.0)),
        PaintedCell(mix(["Unseen"]), lab),
        PaintedCell(mix(["Smooth"]), near, (0.3, 0.2)),
        PaintedCell(mix(["Far"]), (80.0, 0.0, 0.0), (0.3, 0.2)),
        PaintedCell(mix(["It"]), lab, (0.3, 0.2)),
    ]

    def names(sought):
        return [one.painted.recipe.names[0] for one in _alike(sought, painted)]

    assert names(Sought(lab, "It", cell=painted[4])) == ["Smooth", "Grainy", "Unseen"]
    assert names(Sought(lab, "It")) == ["Grainy", "Unseen", "It", "Smooth"], (
        "by colour alone where no texture is sought"
    )
    assert names(Sought((0.0, 0.0, 0.0))) == []


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def pairs(demo):
    demo.show_room(RoomName.WEIGH)
    demo.weigh.shows.choose(WeighPageName.PAIRS)
    settle(demo, 60)
    return demo.weigh.page(WeighPageName.PAIRS)


def turned(window, page, key):
    page.topics.choose([topic.key for topic in TOPICS].index(key))
    for _ in range(4):
        settle(window, 60)
    return page.model.listed.ideas


def test_pairs_say_whether_pictures_showed_how_they_settle(demo, pairs):
    found = turned(demo, pairs, "parting")
    assert {idea.settling.taught > 0 for idea in found} == {True, False}
    taught = demo.session.learning.grains.taught
    index = demo.session.learning.estimate.index
    for idea in found:
        assert idea.kind == IdeaKind.PARTING and idea.settling.parting >= PARTS
        seen = min(taught[index[name.casefold()]] for name in idea.names)
        assert idea.settling.taught == seen
        assert ("pictures" in row_words(idea) or "Bilder" in row_words(idea)) == bool(seen)
    pairs.view.setCurrentIndex(pairs.model.index(pairs.model.listed.rows.index(found[0])))
    assert pairs.settling.isVisible() and "±" in pairs.settling.text()
    assert all(idea.kind == IdeaKind.GRAINY for idea in turned(demo, pairs, "grainy"))


@pytest.mark.long
@pytest.mark.parametrize("key", ["greys", "clean"])
def test_any_list_is_sifted_by_its_grain(demo, pairs, key):
    everything = turned(demo, pairs, key)
    pairs.grain_box.setCurrentIndex(GrainWish.GRANULATING)
    settle(demo, 30)
    grainy = pairs.model.listed.ideas
    pairs.grain_box.setCurrentIndex(GrainWish.SMOOTH)
    settle(demo, 30)
    smooth = pairs.model.listed.ideas
    assert grainy and smooth and len(grainy) + len(smooth) <= len(everything)
    assert all(idea.settling.contrast >= GRANULATES for idea in grainy)
    assert all(idea.settling.contrast < GRANULATES and idea.settling.parting < PARTS for idea in smooth)
    pairs.grain_box.setCurrentIndex(GrainWish.ANY)
    settle(demo, 30)
    assert len(pairs.model.listed.ideas) == len(everything)


def test_a_colour_is_sought_smooth_or_granulating(demo):
    demo.show_room(RoomName.WEIGH)
    demo.weigh.find_colour((60.0, 5.0, -40.0))
    find = demo.weigh.page(WeighPageName.FIND)
    for wanted, holds in ((GrainWish.GRANULATING, True), (GrainWish.SMOOTH, False)):
        find.slip.grain_box.setCurrentIndex(wanted)
        for _ in range(3):
            settle(demo, 60)
        assert find.answer.advised
        assert len(find.answer.advised) == len(find.answer.settlings)
        assert all((one.contrast >= GRANULATES) == holds for one in find.answer.settlings)
        if wanted == GrainWish.SMOOTH:
            assert not any("Ultramarine" in entry.match.recipe.names for entry in find.answer.advised)


def test_a_colour_that_nothing_smooth_gives_is_said_so(demo):
    demo.show_room(RoomName.WEIGH)
    find = demo.weigh.page(WeighPageName.FIND)
    find.slip.must.setCurrentIndex(max(0, find.slip.must.findData("Viridian")))
    demo.weigh.find_colour((45.0, -40.0, -5.0))
    find.slip.must.setCurrentIndex(find.slip.must.findData("Viridian"))
    find.slip.paints.setCurrentIndex(0)
    find.slip.grain_box.setCurrentIndex(GrainWish.SMOOTH)
    for _ in range(3):
        settle(demo, 60)
    assert not find.answer.advised and find.answer.problem
    assert find.answer.words[0].isupper() and find.answer.words.endswith(".")


def test_a_cell_is_looked_for_with_its_texture(demo):
    demo.session.selection.select_sheet(1)
    settle(demo, 30)
    place = next(
        one.cell.id for one in demo.state.record.cells
        if one.cell.recipe.names == ("Viridian",) and one.cell.recipe.layers[0].wash == 1.0
    )  # fmt: skip
    demo.show_room(RoomName.WEIGH)
    demo.state.select(place)
    settle(demo, 30)
    demo.weigh.find_like_selected()
    for _ in range(3):
        settle(demo, 60)
    find = demo.weigh.page(WeighPageName.FIND)
    texture = demo.state.looks[place].patch.texture
    assert find.sought.texture == (texture.contrast, texture.parting)
    assert find.answer.painted == sorted(find.answer.painted, key=lambda one: one.apart)
    assert all(
        one.painted.recipe.names != ("Viridian",) or one.painted.recipe.layers[0].wash < 1
        for one in find.answer.painted
    )


@pytest.mark.long
def test_marks_and_measures_stand_together_and_the_words_follow_the_marks(demo):
    demo.session.selection.select_sheet(1)
    settle(demo, 30)
    study = demo.session.file
    demo.show_room(RoomName.WEIGH)
    place = next(
        name for name, look in demo.state.looks.items()
        if look.patch is not None and look.patch.texture is not None and 0.9 < look.patch.texture.contrast < 1.4
    )  # fmt: skip
    demo.state.select(place)
    settle(demo, 30)
    sheet = demo.weigh.sheet
    usual = demo.session.real_paint.limits
    assert usual.granulates == pytest.approx(GRANULATES, rel=0.05)
    assert not sheet.marked.isVisible() or tr("granulates") not in sheet.marked.text()
    strokes = {row["cell_id"]: row["id"] for row in study.rows("strokes", "act = 'done'")}
    looks = demo.state.looks
    for entry in demo.state.record.cells:  # this painter sees grain where others do not yet
        patch = looks[entry.cell.id].patch
        if patch is not None and patch.texture is not None and patch.texture.contrast > 0.8:
            demo.session.do(paint_acts.mark_stroke(study, strokes[entry.id], "granulates"))
    settle(demo, 60)
    limits = demo.session.real_paint.limits
    assert limits.granulates < 0.85 * usual.granulates
    demo.state.select(place)
    settle(demo, 30)
    assert sheet.marked.isVisible()
    assert sheet.marked.text().count(tr("granulates")) == 2, "as it was marked, and by its measures"


def test_real_paint_is_looked_up_anew_only_where_it_may_have_changed(demo):
    study, held = demo.session.file, demo.session.real_paint
    cell = study.rows("cells")[0]["id"]
    demo.session.do(acts.mark_keeper(study, cell, True))
    assert demo.session.real_paint is held
    stroke = study.rows("strokes", "act = 'done'")[0]["id"]
    demo.session.do(paint_acts.mark_stroke(study, stroke, "granulates"))
    assert demo.session.real_paint is not held
