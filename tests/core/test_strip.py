"""A strip of known paints beside the sheet: chosen to tell most of a camera, found by itself, and used."""

import itertools
import json
from dataclasses import replace

import numpy as np
import pytest

from culmo.cli.main import main
from culmo.core.capture.find_strip import find_strip
from culmo.core.capture.read import read_sheet
from culmo.core.capture.settle import KnownBefore
from culmo.core.capture.strip import Strip
from culmo.core.chart.aids import Aids, Knowledge
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.paint.character import Anchor, Shot, as_it_is, believed, seen_lab
from culmo.core.paint.recipe import mix
from culmo.core.paint.telling import telling
from culmo.errors import CulmoError
from culmo.study.pictures import photo_from_bytes
from support.beside import make_case, off_and_told
from support.foreign_cameras import make_camera, make_shooting, read_plainly
from support.foreign_pictures import difference, linear_of, take
from support.turbid import lab_of, make_laboratory, seen

pytestmark = pytest.mark.long

PAPER = np.array([96.0, 0.0, 2.0])


@pytest.fixture(scope="module")
def case():
    return make_case(911, "tilted", turn_deg=186.0)


@pytest.fixture(scope="module")
def plain_reading(case):
    return read_sheet(photo_from_bytes(case.picture.file, "a.jpg"), case.sheet, paper=case.paper)


def by(case, **more):
    photo = photo_from_bytes(case.picture.file, "a.jpg")
    strip = Strip(case.strip, case.measured)
    return read_sheet(
        photo, case.sheet, paper=case.paper, known=KnownBefore(strips=(replace(strip, **more),))
    )


def test_a_strip_is_found_beside_the_sheet_and_makes_it_truer(case, plain_reading):
    reading = by(case)
    assert any(case.strip.title in note for note in reading.notes)
    assert len(reading.shot.anchors) >= 12
    true = {tuple(patch.lab): case.strip_lab[cell] for cell, patch in case.measured.items()}
    for anchor in reading.shot.anchors:
        assert np.abs(np.array(anchor.lab) - true[anchor.lab]).max() < 2.0
    before, _ = off_and_told(case, plain_reading)
    off, told = off_and_told(case, reading)
    assert np.median(off) < 0.9 * np.median(before)
    assert np.mean(off <= told) > 0.85


def test_each_patch_is_taken_for_what_it_is(case):
    """A strip that is taken upside down would tell each paint by another."""
    reading = by(case)
    known = np.array([anchor.lab for anchor in reading.shot.anchors])
    seen = np.array([anchor.seen for anchor in reading.shot.anchors])
    order = np.corrcoef(known[:, 0], np.log(seen.mean(axis=1)))[0, 1]
    assert order > 0.9


def test_a_strip_that_does_not_lie_there_is_not_found(case, plain_reading):
    colours = list(case.measured.values())
    others = {cell: colours[(place + 5) % len(colours)] for place, cell in enumerate(case.measured)}
    reading = by(case, known=others)
    assert not any(case.strip.title in note for note in reading.notes)
    assert reading.shot.anchors == ()
    few = dict(list(case.measured.items())[:3])
    assert by(case, known=few).shot.anchors == ()
    np.testing.assert_allclose(
        [entry.lab for entry in reading.readings], [entry.lab for entry in plain_reading.readings]
    )


def test_a_picture_without_a_strip_has_none(case):
    photo = photo_from_bytes(case.picture.file, "a.jpg")
    placed = read_sheet(photo, case.sheet, paper=case.paper).placement
    width, height = photo.size
    half = replace(photo, pixels=photo.pixels[: height // 4, : width // 4])
    assert find_strip(half, Strip(case.strip, case.measured), placed, case.paper) is None


def labs_of(laboratory):
    return {
        paint.name: np.array(
            [lab_of(laboratory.reflectance(mix([paint.name], wash=wash))) for wash in (1.0, 0.25)]
        )
        for paint in laboratory.paints
    }


def test_the_chosen_paints_tell_more_than_paints_by_chance():
    """Held against pictures by foreign cameras, of paints of another physics than the choice is made with."""
    laboratory = make_laboratory(18, seed=4)
    names = [paint.name for paint in laboratory.paints]
    paper = seen(laboratory.grounds["paper"], laboratory.at, laboratory.gloss)
    white = lab_of(paper)
    washes = [mix([name], wash=wash) for name in names for wash in (1.0, 0.25)]
    pairs = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.3)][::5]
    reflectance = np.array([laboratory.reflectance(recipe) for recipe in (*washes, *pairs)])
    true = np.array([lab_of(one) for one in reflectance])
    judged = np.arange(len(true)) >= len(washes)
    judged &= ((linear_of(true) > 0.003) & (linear_of(true) < 1)).all(axis=1)
    rng = np.random.default_rng(3)
    choices = [rng.choice(18, 6, replace=False) for _ in range(6)]
    choices.append(telling(true[: len(washes)].reshape(18, 2, 3), white, 6))
    assert len(set(choices[-1])) == 6
    off = [[] for _ in choices]
    for seed in range(8):
        dice = np.random.default_rng([seed, 5])
        light = read_plainly(make_shooting(dice, make_camera(dice)), reflectance, paper, dice)
        for place, chosen in enumerate(choices):
            places = np.concatenate([[2 * one, 2 * one + 1] for one in chosen])
            anchors = tuple(
                Anchor(tuple(one), tuple(lab))
                for one, lab in zip(light[places].tolist(), true[places].tolist(), strict=True)
            )
            character, _ = believed([Shot("", tuple(white.tolist()), anchors=anchors)])
            found = as_it_is(seen_lab(light[judged], white), white, character)
            off[place] += difference(found, true[judged]).tolist()
    middles = [np.median(one) for one in off]
    assert middles[-1] < 0.95 * np.mean(middles[:-1])


def test_a_strip_is_small_and_holds_the_paints_that_tell_most():
    labs = labs_of(make_laboratory(18, seed=4))

    def lab(recipes):
        if any(name not in labs for recipe in recipes for name in recipe.names):
            raise CulmoError("nothing is known")
        return np.array(
            [labs[r.names[0]][int(r.layers[0].wash < 0.5)] if r.layers else PAPER for r in recipes]
        )

    names = ["Unknown", *labs]
    aids = Aids(known=Knowledge(lab=lab))
    (sheet,) = lay_out(plan_of("strip", {"paints": names, "paper": "A5"}), aids)
    assert sheet.paper.width_mm <= 135
    assert sheet.paper.height_mm <= 55
    stand = [cell.recipe.names[0] for cell in sheet.cells[::2]]
    assert len(stand) == 8
    assert "Unknown" not in stand
    assert stand == [name for name in names if name in stand], "in the order of the box"
    (bar,) = sheet.bars_mm
    assert all(cell.box_mm[1] + cell.box_mm[3] < bar[1] for cell in sheet.cells)
    (few,) = lay_out(plan_of("strip", {"paints": names, "patches": "5", "paper": "A5"}), aids)
    assert len(few.cells) == 10
    (blind,) = lay_out(plan_of("strip", {"paints": names, "paper": "A5"}))
    assert len(blind.cells) == 16
    with pytest.raises(CulmoError, match="larger paper"):
        lay_out(plan_of("strip", {"paints": names, "paper": "100x90", "tape_mm": "0"}), aids)
    with pytest.raises(CulmoError, match="four paints"):
        lay_out(plan_of("strip", {"paints": names[:3]}), aids)


def test_the_command_uses_a_strip_that_it_is_given(case, tmp_path, capsys):
    (tmp_path / "a.jpg").write_bytes(case.picture.file)
    for name, sheet in (("sheet", case.sheet), ("strip", case.strip)):
        (tmp_path / f"{name}.json").write_text(json.dumps(sheet_to_dict(sheet)))
    lines = ["name,L,a,b", *(f"{cell},{','.join(map(str, one.lab))}" for cell, one in case.measured.items())]
    (tmp_path / "values.csv").write_text("\n".join(lines))

    def read(*more):
        words = ["read", str(tmp_path / "a.jpg"), "--sheet", str(tmp_path / "sheet.json"), *map(str, more)]
        return main(words), capsys.readouterr()

    strip = ("--strip", tmp_path / "strip.json")
    status, said = read(*strip, "--strip-values", tmp_path / "values.csv")
    assert status == 0
    assert f'the strip "{case.strip.title}" lies beside the sheet' in said.err
    status, said = read(*strip)
    assert (status, "--strip-values" in said.err) == (2, True)
    status, said = read("--strip", tmp_path / "sheet.json", "--strip-values", tmp_path / "values.csv")
    assert (status, "no bar" in said.err) == (2, True)
    (tmp_path / "others.csv").write_text("name,L,a,b\nx,50,0,0\n")
    status, said = read(*strip, "--strip-values", tmp_path / "others.csv")
    assert (status, "names no cell" in said.err) == (2, True)


@pytest.mark.parametrize(
    # the world's own paper overflows for some other faults on so long a paper
    ("fault", "hard"),
    [("plain", False), ("turned", False), ("light table", True)],
)
def test_a_strip_alone_is_found_where_it_lies(case, fault, hard):
    """As it is when it is read for the first time: nothing beside it, little bare paper about it."""
    film = {
        cell.recipe.names[0]: np.roll([0.2, 0.7, 1.6], n) * (1.0 + n % 3)
        for n, cell in enumerate(case.strip.cells)
    }
    colours = {
        cell.id: np.exp(-cell.recipe.layers[0].wash * film[cell.recipe.names[0]]) for cell in case.strip.cells
    }
    picture, paper = take(sheet_to_dict(case.strip), colours, fault, hard, 77, 1600)
    photo = photo_from_bytes(picture.file, "a.jpg")
    reading = read_sheet(photo, case.strip, paper=np.array(paper))
    assert not reading.wrong
    middles = np.array([np.mean(cell.outline_mm, axis=0) for cell in case.strip.cells])
    away = picture.to_mm(reading.placement.to_pixels(middles)) - picture.ruled
    assert np.hypot(*away.T).max() < 1.5
