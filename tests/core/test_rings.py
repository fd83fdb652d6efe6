"""Rings of a wheel, its centre, its even hues and how it is ruled."""

import math
import re
from fractions import Fraction

import numpy as np
import pytest

from culmo.core.chart.aids import Aids, Knowledge
from culmo.core.chart.darks import DarkLean, likeliest_dark
from culmo.core.chart.kinds import kind_of
from culmo.core.chart.plans import lay_out, plan_from, plan_of
from culmo.core.chart.renaming import renamed_sheet
from culmo.core.chart.rings import Ring
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError

HUES = {"Lemon": 100.0, "Scarlet": 35.0, "Rose": 355.0, "Ultra": 295.0, "Cyan": 235.0, "Leaf": 150.0}


def seen(recipes):
    """Colours by a rule of this test's own: chroma vectors add by parts, and a mix is duller than its paints."""
    rows = []
    for recipe in recipes:
        parts = recipe.layers[0].parts
        total = sum(part.parts for part in parts)
        vector = sum(part.parts / total * 60.0 * np.exp(1j * math.radians(HUES[part.name])) for part in parts)
        rows.append((60.0, vector.real, vector.imag))
    return np.array(rows)


def wheel(aids: Aids | None = None, **given: str):
    return lay_out(plan_of("wheel", {"paper": "A3", "paints": ", ".join(HUES), **given}), aids)[0]


@pytest.mark.parametrize(
    ("text", "ring"),
    [
        ("full", Ring("full")),
        ("with Indigo", Ring("with", "Indigo", Fraction(1, 3))),
        ("with Blue, deep 1:6", Ring("with", "Blue, deep", Fraction(1, 6))),
        ("with  Paint 7  2 : 3", Ring("with", "Paint 7", Fraction(2, 3))),
        ("glazed Umber", Ring("glazed", "Umber", wash=0.2)),
        ("glazed Umber 0.35", Ring("glazed", "Umber", wash=0.35)),
        ("glazed Blue 29", Ring("glazed", "Blue 29", wash=0.2)),
    ],
)
def test_a_ring_is_read_and_written(text, ring):
    assert Ring.parsed(text) == ring
    assert Ring.parsed(str(ring)) == ring


@pytest.mark.parametrize(
    "text", ["", "fulll", "with", "with  ", "glazed", "with Indigo 0:3", "with Indigo 1:0", "-"]
)
def test_what_is_no_ring_is_refused(text):
    with pytest.raises(CulmoError, match="ring"):
        Ring.parsed(text)


def test_several_neutralisers_each_have_a_ring_of_their_own():
    sheet = wheel(
        rings="full, with Indigo 1:3, with Black 1:6, with Umber 1:1, opposite, tint, glazed Black 0.1",
        title="Moths",
    )
    by_id = {cell.id: str(cell.recipe) for cell in sheet.cells}
    assert len(by_id) == 7 * 12
    assert by_id["w1p01"] == "Lemon"
    assert parse_recipe(by_id["w2p01"]).key == parse_recipe("Lemon:3 + Indigo").key
    assert parse_recipe(by_id["w2p02"]).key == parse_recipe("Lemon:3 + Scarlet:3 + Indigo:2").key
    assert parse_recipe(by_id["w3p01"]).key == parse_recipe("Lemon:6 + Black").key
    assert parse_recipe(by_id["w4p01"]).key == parse_recipe("Lemon + Umber").key
    assert parse_recipe(by_id["w5p01"]).key == parse_recipe("Lemon + Ultra").key
    assert by_id["w6p01"].endswith("tint")
    layers = sheet.cell("w7p01").recipe.layers
    assert [part.name for part in layers[0].parts] == ["Black"]
    assert layers[0].wash == pytest.approx(0.1)
    again = plan_from(sheet)
    assert again is not None
    assert sheet_to_dict(lay_out(again)[0]) == sheet_to_dict(sheet)


def test_renaming_a_paint_renames_it_in_the_rings():
    sheet = wheel(rings='full, "with Indigo, deep 1:3"', title="Moths")
    data = renamed_sheet(sheet_to_dict(sheet), "Indigo, deep", "Night", [*HUES, "Night"])
    assert data["settings"]["rings"] == ["full", "with Night 1:3"]


@pytest.mark.parametrize("shape", ["segments", "petals"])
def test_a_wheel_without_a_centre_reaches_its_middle_and_a_large_one_leaves_it_free(shape):
    sizes = {}
    for hub in ("none", "small", "middle", "large"):
        sheet = wheel(hub=hub, shape=shape)
        x, y, _ = sheet.ruling.circles_mm[0]
        near = [math.dist((x, y), point) for cell in sheet.cells for point in cell.outline_mm]
        sizes[hub] = min(near) / max(near)
    assert sizes["none"] < 0.03
    assert 0.03 < sizes["small"] < sizes["middle"] < sizes["large"] < 0.6
    for more in ({"shape": "strips"}, {"centre": "all"}):
        with pytest.raises(CulmoError, match="without a centre"):
            wheel(hub="none", **more)


def test_a_wheel_of_tints_alone():
    sheet = wheel(rings="tint")
    assert {cell.recipe.layers[0].wash for cell in sheet.cells} == {0.2}


def test_even_hues_stand_evenly_a_paint_where_one_sits_and_a_mix_elsewhere():
    sheet = wheel(Aids(known=Knowledge(lab=seen)), even_hues="yes", places="12", rings="full")
    assert len(sheet.cells) == 12
    pure = 0
    for cell in sheet.cells:
        place = int(cell.id[-2:]) - 1
        lab = seen([cell.recipe])[0]
        hue = math.degrees(math.atan2(lab[2], lab[1]))
        away = abs((hue - (90.0 - 30.0 * place) + 180.0) % 360.0 - 180.0)
        assert away <= 10.0
        assert len(cell.recipe.names) <= 2
        pure += cell.recipe.is_pure
    assert pure >= 4
    assert any(
        re.search(r"\d", label.text) and "+" in label.text for label in sheet.labels
    )  # parts stand beside a mix


def test_a_hue_that_no_paint_reaches_is_left_free_and_said():
    few = Aids(known=Knowledge(lab=seen))
    plan = plan_of(
        "wheel", {"paints": "Scarlet, Lemon", "even_hues": "yes", "paper": "A4", "rings": "full, opposite"}
    )
    sheet = lay_out(plan, few)[0]
    assert 0 < len({cell.id[2:] for cell in sheet.cells}) < 6
    assert [label.text for label in sheet.labels].count("no paint here") >= 6
    assert not any(cell.id.startswith("w2") for cell in sheet.cells)  # there are no opposites
    with pytest.raises(CulmoError, match="needs readings"):
        lay_out(plan)


@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("shape", ["strips", "petals"])
def test_strips_and_petals_can_be_drawn_from_what_the_ruling_says(shape, unit):
    sheet = wheel(shape=shape, unit=unit)
    lines = kind_of(sheet).ruling(sheet, unit)
    told = [line for line in lines if "ring" in line]
    assert len(told) == 2  # full and tint
    if unit == "mm":
        _, y, _ = sheet.ruling.circles_mm[0]
        first = sheet.cell("w1p01")  # its middle line points upwards
        wide = max(px for px, _ in first.outline_mm) - min(px for px, _ in first.outline_mm)
        far = y - min(py for _, py in first.outline_mm)
        numbers = [float(number) for number in re.findall(r"\d+(?:\.\d+)?", told[0])[1:]]
        assert any(abs(number - wide) <= 0.26 for number in numbers)
        assert any(abs(number - far) <= 0.26 for number in numbers)


def test_the_darks_are_what_a_painter_would_take():
    lab = np.array(
        [[85, 0, 80], [30, 2, -20], [25, 14, 18], [22, 1, 1], [40, 60, 30], [20, 12, 14], [35, -30, 5]],
        dtype=float,
    )  # lemon, indigo, sepia, black, crimson, umber, deep green
    assert likeliest_dark(lab, DarkLean.COOL) == 1
    assert likeliest_dark(lab, DarkLean.NEUTRAL) == 3
    assert likeliest_dark(lab, DarkLean.WARM) == 5
    assert likeliest_dark(lab, DarkLean.DEEPEST) == 3  # and not the umber, though that is deeper
    assert (
        likeliest_dark(lab[[0, 2, 5]], DarkLean.DEEPEST) == 2
    )  # where there are only browns one of them serves
    assert likeliest_dark(lab[:1], DarkLean.COOL) == 0
