"""Washes and strokes: sampled at known points, and compared as whole pictures."""

from dataclasses import replace
from itertools import pairwise
from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from culmo.core.capture.texture import texture_of
from culmo.core.colour.srgb import lab_from_linear_srgb
from culmo.core.paint.estimate import learn
from culmo.core.paint.grain import foretell, learn_grains
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.paint.wash import THICKNESSES, wash_table
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.drawing.wash import BAR_AT, GRAIN_MM, stroke_image, table_srgb, wash_image
from support.builders import FIVE, laid_out, make_sheet
from support.paints import make_painter
from support.textures import any_pigments


@pytest.fixture(scope="module")
def estimate():
    painter = make_painter(5, seed=3)
    readings = painter.cards()
    names = {paint.name: name for paint, name in zip(painter.paints, FIVE, strict=True)}
    renamed = [type(r)(r.recipe.renamed(names.get), r.lab, r.ground) for r in readings]
    return learn(list(FIVE), renamed)


def pixels(image):
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width() * 4].reshape(image.height(), image.width(), 4).astype(int)


def tables(estimate, name):
    return (table_srgb(wash_table(estimate, [mix([name])], ground))[0] for ground in ("paper", "ink"))


def difference(one, two):
    """Mean difference of two pictures, 0..255; pictures of different size differ wholly."""
    a, b = pixels(one), pixels(two)
    return 255.0 if a.shape != b.shape else float(np.abs(a - b).mean())


def test_the_comparer_sees_black_against_white_in_either_order(qapp):
    black, white = (QImage(20, 20, QImage.Format.Format_RGB32) for _ in range(2))
    black.fill(QColor(0, 0, 0))
    white.fill(QColor(255, 255, 255))
    assert difference(black, white) > 150
    assert difference(white, black) > 150
    assert difference(white, white) == 0
    assert difference(white, QImage(10, 10, QImage.Format.Format_RGB32)) == 255


def test_a_wash_has_its_own_colour_and_ragged_clear_edges(qapp, estimate):
    paper, _ = tables(estimate, "Rose")
    image = pixels(wash_image(paper, 1.0, 0.0, 120, 80, 7))
    full = paper[int(np.argmin(np.abs(THICKNESSES - 1.0)))].astype(int)
    middle = image[30:50, 40:80, :3].reshape(-1, 3).mean(axis=0)
    assert np.abs(middle - full).max() < 14
    assert image[0, :, 3].max() == 0
    assert (image[40, 10:110, 3] == 255).all()


def test_grain_makes_specks_and_keeps_the_mean(qapp, estimate):
    paper, _ = tables(estimate, "Ultramarine")
    smooth = pixels(wash_image(paper, 0.4, 0.0, 200, 200, 3))[40:160, 40:160, 0]
    grainy = pixels(wash_image(paper, 0.4, 0.35, 200, 200, 3))[40:160, 40:160, 0]
    assert grainy.std() > 2 * smooth.std()
    assert abs(grainy.mean() - smooth.mean()) < 12


def test_the_same_seed_gives_the_same_patch_and_another_another(qapp, estimate):
    paper, _ = tables(estimate, "Ochre")
    one, same, other = (wash_image(paper, 1.0, 0.2, 90, 60, seed) for seed in (1, 1, 2))
    assert difference(one, same) == 0
    assert difference(one, other) > 0.5


def test_a_stroke_pales_to_the_right_and_crosses_the_bar(qapp, estimate):
    paper, ink = tables(estimate, "Rose")
    image = pixels(stroke_image(paper, ink, 0.02, 400, 80, 5))
    light = image[30:50, :, :3].mean(axis=(0, 2))
    assert light[60] < light[220] < light[330]
    bar = round(400 * BAR_AT) + 4
    assert light[bar] < light[bar - 30] - 20
    assert (image[:, bar, 3] == 255).all()
    assert image[40, 399, 3] < 80


@pytest.mark.parametrize("size", [(1, 1), (3, 2), (20, 8), (900, 300)])
def test_every_size_can_be_drawn(qapp, estimate, size):
    paper, ink = tables(estimate, "Lemon")
    assert not wash_image(paper, 0.5, 0.1, *size, 1).isNull()
    assert not stroke_image(paper, ink, 0.1, *size, 1).isNull()


def rendered(sheet, looks, style):
    image = QImage(420, 300, QImage.Format.Format_RGB32)
    image.fill(QColor(246, 246, 241))
    painter = QPainter(image)
    transform, scale = sheet_transform(sheet, QRectF(0, 0, 420, 300))
    painter.setTransform(transform)
    draw_sheet(painter, sheet, looks, style)
    painter.end()
    return image, transform, scale


def at(image, transform, x, y):
    point = transform.map(x, y)
    return QColor(image.pixel(int(point[0]), int(point[1])))


def test_recorded_stands_at_the_right_of_predicted(qapp, estimate):
    sheet = make_sheet()
    looks = Looks(estimate, lambda name: 0.02)
    told = {cell.id: CellLook(True, 2.0, (60.0, -40.0, 30.0), True) for cell in sheet.cells}
    image, transform, _ = rendered(sheet, looks, SheetStyle(looks=told, pixels_per_mm=2))
    x, y, width, height = sheet.cell("r03c03").box_mm
    right = at(image, transform, x + 0.75 * width, y + 0.5 * height)
    read = qcolor((60.0, -40.0, 30.0))
    assert max(abs(right.red() - read.red()), abs(right.green() - read.green())) < 4
    left = at(image, transform, x + 0.25 * width, y + 0.5 * height)
    expected = looks.colour(sheet.cell("r03c03").recipe)
    assert abs(left.red() - expected.red()) < 30


def test_progress_shows_paint_only_where_the_brush_has_been(qapp, estimate):
    sheet = make_sheet()
    looks = Looks(estimate, lambda name: 0.02)
    told = {cell.id: CellLook(True, 2.0, None, cell.id == "r01c01") for cell in sheet.cells}
    image, transform, _ = rendered(sheet, looks, SheetStyle(show="progress", looks=told, pixels_per_mm=2))
    for cell_id, painted in (("r01c01", True), ("r04c02", False)):
        x, y, width, height = sheet.cell(cell_id).box_mm
        colour = at(image, transform, x + width / 2, y + height / 2)
        assert (colour.saturation() > 30) == painted


def test_hatching_grows_with_doubt(qapp, estimate):
    sheet = make_sheet()
    looks = Looks(estimate, lambda name: 0.0, flat=True)
    darkness = []
    for doubt in (2.0, 6.0, 14.0):
        told = {cell.id: CellLook(True, doubt) for cell in sheet.cells}
        image, _, _ = rendered(sheet, looks, SheetStyle(looks=told, pixels_per_mm=2))
        darkness.append(-pixels(image)[..., :3].mean())
    assert darkness[0] < darkness[1] < darkness[2]


def test_the_ruling_alone_has_no_colour(qapp):
    image, _, _ = rendered(make_sheet(), None, SheetStyle(colour=False))
    found = pixels(image)[..., :3]
    paper = np.array([246, 246, 241])
    # ink on paper: every pixel lies between the paper and a grey
    assert (np.ptp(found - paper, axis=2) <= 6).all()


def test_a_mix_of_a_paint_that_left_is_bare_paper_and_no_mistake(qapp, estimate):
    looks = Looks(estimate, lambda _: 0.05)
    strange, known = mix(["Rose", "Nobody"]), mix(["Rose"])
    assert looks.colour(strange) == looks.colour(strange.with_wash(0.2))
    assert looks.colour(strange).lightness() > 230 > looks.colour(known).lightness()
    assert looks.colour(strange, "ink").lightness() < 66
    bare = qcolor(predict_lab(estimate, [Recipe()], ["ink"])[0])
    assert looks.colour(strange, "ink").rgb() == bare.rgb()  # it is the bare bar as it was read
    for make in (looks.stroke, lambda r, w, h: looks.wash(r, w, h, "x")):
        image = make(strange, 40, 20)
        assert (image.width(), image.height()) == (40, 20)


@pytest.mark.parametrize("kind", ["grid", "wheel", "triangle"])
def test_what_is_not_marked_is_veiled_whatever_its_shape(qapp, estimate, kind):
    from culmo.desk.drawing.sheet import drawn_width_mm

    names = ("Lemon", "Rose", "Ultramarine")
    (sheet,) = laid_out(kind, drawn_width_mm, paints=names, paper="A5")
    looks = Looks(estimate, lambda _: 0.0)
    own = {cell.id: CellLook(predicted=True) for cell in sheet.cells}
    marked = sheet.cells[0].id

    def drawn(marks):
        image = QImage(
            round(sheet.paper.width_mm * 4), round(sheet.paper.height_mm * 4), QImage.Format.Format_RGB32
        )
        image.fill(QColor(247, 246, 241))
        painter = QPainter(image)
        painter.scale(4, 4)
        draw_sheet(painter, sheet, looks, SheetStyle(looks=own, marked=marks, tape=False))
        painter.end()
        return pixels(image)[:, :, :3]

    plain, veiled = drawn({}), drawn({marked: 1})
    for cell in sheet.cells:
        x, y = np.mean(cell.outline_mm, axis=0) * 4
        spot = (slice(round(y) - 3, round(y) + 4), slice(round(x) - 3, round(x) + 4))
        change = (veiled[spot] - plain[spot]).mean()
        if cell.id != marked:
            assert change > 0.5 * (np.array([247, 246, 241]) - plain[spot]).mean(), cell.id


@pytest.mark.parametrize("per_mm", [5.0, 9.0])
def test_washes_are_drawn_with_the_grain_that_is_foretold(qapp, per_mm):
    """Measured as a patch would be, a drawn wash has the contrast, the parting and the size of grains that are told."""
    pigments = any_pigments(np.random.default_rng(2), 6)
    names = [one.name for one in pigments]
    painter = make_painter(6, seed=3)
    own = {paint.name: name for paint, name in zip(painter.paints, names, strict=True)}
    known = learn(names, [type(r)(r.recipe.renamed(own.get), r.lab, r.ground) for r in painter.cards()])
    settled = replace(
        learn_grains(known, [], lambda _: 0.0),
        together=np.array([0.3, -0.25, 0.1, 0.02, 0.35, -0.15]), alone=np.array([0.1, 0.2, 0.05, 0.02, 0.25, 0.1]),
        size_mm=np.array([0.5, 0.9, 0.6, 0.6, 1.2, 0.7]),
    )  # fmt: skip
    looks = Looks(known, lambda _: 0.3, grains=settled)
    recipes = [mix([a, b], wash=0.6) for a, b in pairwise(names)] + [mix([names[3]])]
    told = foretell(known, settled, recipes)
    wide, high = round(26 * per_mm), round(20 * per_mm)
    cell = SimpleNamespace(outline_mm=((0, 0), (26, 0), (26, 20), (0, 20)), fade_mm=None)
    for place, recipe in enumerate(recipes):
        image = looks.wash(recipe, wide, high, f"cell {place}", per_mm * GRAIN_MM, to_edge=True)
        level = pixels(image)[..., :3] / 255.0
        linear = np.where(level <= 0.04045, level / 12.92, ((level + 0.055) / 1.055) ** 2.4)
        # no lens has blurred it: as if the picture were far finer
        seen = texture_of(lab_from_linear_srgb(linear), cell, (0.0, 0.0), per_mm, 4 * per_mm, None)
        assert seen.contrast == pytest.approx(
            told.contrast[place], abs=1.645 * told.contrast_off[place] + 0.25
        )
        assert seen.parting == pytest.approx(told.parting[place], abs=1.645 * told.parting_off[place] + 0.25)
        if told.contrast[place] > 1.5:
            assert seen.size_mm == pytest.approx(told.size_mm[place], rel=0.35)
    plain = Looks(known, lambda _: 0.3, flat=True, grains=settled).wash(recipes[0], wide, high, "cell 0")
    assert np.ptp(pixels(plain)[..., :3].reshape(-1, 3), axis=0).max() == 0
