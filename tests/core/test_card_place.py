"""A place for a reference card on the planned sheet: kept free, found by itself, and not missed where no card lies there."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.capture.card import Card
from culmo.core.capture.read import read_sheet
from culmo.core.chart.kinds import KIND_KEYS
from culmo.core.chart.plans import lay_out, plan_from, plan_of
from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.errors import CulmoError
from culmo.study.pictures import photo_from_bytes
from support.camera_sheets import studio
from support.foreign_cameras import _surfaces, make_shooting, read_plainly
from support.foreign_pictures import conditions, difference, paint, photograph
from support.turbid import lab_of, seen

pytestmark = pytest.mark.long

ROWS, COLUMNS = 4, 6


@pytest.fixture(scope="module")
def world():
    """A sheet whose card was laid on its place not quite exactly, and the same with nothing there, by a foreign camera."""
    laboratory, camera, rng = studio(31, curve="strong")
    names = [paint.name for paint in laboratory.paints][:5]
    plan = plan_of("grid", {"paints": names, "paper": "A4", "card_mm": "84 x 56", "gap_mm": "1.5"})
    (sheet,) = lay_out(plan)
    greys = np.outer(np.linspace(0.04, 0.88, 6), np.ones(36))
    patches = np.concatenate([_surfaces(np.random.default_rng(8), ROWS * COLUMNS - 6), greys])
    shooting = make_shooting(rng, camera)
    paper = seen(laboratory.grounds["paper"], laboratory.at, laboratory.gloss)
    reflectance = np.array([laboratory.reflectance(cell.recipe) for cell in sheet.cells])
    light = np.clip(read_plainly(shooting, reflectance, paper, rng, 0.0), 1e-4, 1.0)
    on_card = np.maximum(
        read_plainly(shooting, patches, paper, rng, 0.0), 1e-4
    )  # white is lighter than paper
    dice = np.random.default_rng(5)
    hand, scene, white = conditions("plain", False, dice)
    scene.long_px = 2400
    ids = [cell.id for cell in sheet.cells]
    painted = paint(sheet_to_dict(sheet), dict(zip(ids, light, strict=True)), hand, dice, white)
    bare = photograph(sheet_to_dict(sheet), painted, scene, np.random.default_rng(6))
    _lay_card(painted, sheet.card_mm, on_card)
    picture = photograph(sheet_to_dict(sheet), painted, scene, np.random.default_rng(6))
    true = dict(zip(ids, (lab_of(one) for one in reflectance), strict=True))
    known = np.array([lab_of(one) for one in patches])
    with_card, without = (photo_from_bytes(one.file, "a.jpg") for one in (picture, bare))
    return sheet, with_card, without, true, known, lab_of(paper), plan


def _lay_card(painted, place_mm, light):
    """A black card with patches on it, a millimetre off and turned by a degree."""
    x, y, width, height = place_mm
    rows, columns = np.mgrid[: painted.light.shape[0], : painted.light.shape[1]] / painted.per_mm
    turn = np.radians(1.0)
    along, down = columns - x - width / 2 - 1.0, rows - y - height / 2 + 0.7
    u = (along * np.cos(turn) + down * np.sin(turn)) / width + 0.5
    v = (-along * np.sin(turn) + down * np.cos(turn)) / height + 0.5
    card = (np.abs(u - 0.5) < 0.54) & (np.abs(v - 0.5) < 0.56)
    white = np.median(painted.light[: len(painted.light) // 40].reshape(-1, 3), axis=0)
    painted.light[card] = 0.03
    within = (u > 0) & (u < 1) & (v > 0) & (v < 1)
    number = (v[within] * ROWS).astype(int) * COLUMNS + (u[within] * COLUMNS).astype(int)
    edge = (np.abs((u * COLUMNS) % 1 - 0.5) < 0.46) & (np.abs((v * ROWS) % 1 - 0.5) < 0.46)
    painted.light[within & edge] = (light[number] * white)[edge[within]]


def off(reading, true):
    return np.array([difference(entry.lab, true[entry.cell]) for entry in reading.readings])


def test_a_card_on_its_place_is_used_without_being_pointed_at(world):
    sheet, photo, _, true, known, paper, _ = world
    plain = off(read_sheet(photo, sheet, paper=paper), true)
    reading = read_sheet(photo, sheet, paper=paper, card=Card(known, None, ROWS, may_lack=True))
    assert any("reference card's patches" in note for note in reading.notes)
    assert len(reading.shot.anchors) == len(known)
    assert np.median(off(reading, true)) < 0.85 * np.median(plain)


def test_one_grey_patch_is_a_card_too(world):
    sheet, photo, _, _, known, paper, _ = world
    x, y, width, height = sheet.card_mm
    low, high = [x + width * 3 / COLUMNS, y + height * 3 / ROWS], [x + width * 4 / COLUMNS, y + height]
    corners = read_sheet(photo, sheet, paper=paper).placement.to_pixels(
        np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    )
    reading = read_sheet(photo, sheet, paper=paper, card=Card(known[21:22], corners))
    assert len(reading.shot.anchors) == 1
    assert not reading.wrong


def test_where_no_card_lies_the_picture_is_read_without_and_that_is_said(world):
    sheet, photo, without, _, known, paper, _ = world
    plain = read_sheet(without, sheet, paper=paper)
    reading = read_sheet(without, sheet, paper=paper, card=Card(known, None, ROWS, may_lack=True))
    assert any("does not lie on its place" in note for note in reading.notes)
    assert reading.shot.anchors == ()
    np.testing.assert_allclose([e.lab for e in reading.readings], [e.lab for e in plain.readings])
    another = read_sheet(photo, sheet, paper=paper, card=Card(known[::-1], None, ROWS, may_lack=True))
    assert another.shot.anchors == ()
    with pytest.raises(CulmoError, match="does not look like"):
        read_sheet(without, sheet, paper=paper, card=Card(known, None, ROWS))
    with pytest.raises(CulmoError, match="no place for a card"):
        read_sheet(without, replace(sheet, card_mm=None), paper=paper, card=Card(known, None, ROWS))


def test_the_place_comes_back_and_is_the_plans_own(world):
    sheet, *_, plan = world
    again = sheet_from_dict(sheet_to_dict(sheet))
    assert again.card_mm == pytest.approx(sheet.card_mm)
    assert plan_from(again).page.card_mm == plan.page.card_mm == (84.0, 56.0)


@pytest.mark.parametrize("kind", [kind for kind in KIND_KEYS if kind not in ("cards", "strip", "keepers")])
def test_on_every_kind_the_place_is_free_of_cells_and_writing(kind):
    given = {
        "paints": tuple("ABCD"), "across": tuple("EF"), "recipes": "A + B\nC", "rows": "A, B: 5", "paper": "A3",
        "title": "Long title", "card_mm": "85 x 55", "orientation": "portrait",
    }  # fmt: skip
    for sheet in lay_out(plan_of(kind, given)):
        if not sheet.cells:
            continue
        x, y, width, height = sheet.card_mm
        assert 0 < x < x + width < sheet.paper.width_mm
        assert 0 < y < y + height < sheet.paper.height_mm
        points = np.array([point for cell in sheet.cells for point in cell.outline_mm])
        points = np.concatenate([points, [label.at_mm for label in sheet.labels]])
        inside = (points > [x, y]).all(axis=1) & (points < [x + width, y + height]).all(axis=1)
        assert not inside.any()
    with pytest.raises(CulmoError, match="wide"):
        lay_out(plan_of(kind, {**given, "card_mm": "400 x 50"}))
