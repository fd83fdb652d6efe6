"""Lines laid over pictures of charts that were painted before."""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.capture.old_lines import edges, placement_of, to_mm, to_pixels, written_beside
from culmo.core.capture.read import reading_sheet
from culmo.core.chart.kind import SecondHalf
from culmo.core.chart.old import (
    CELL_MM,
    OldChart,
    Shape,
    begin,
    homography,
    line_mm,
    moved_line,
    old_sheet,
    outlines,
    recipes,
    reframed,
    share_at,
    snapped,
    with_count,
)
from culmo.core.chart.sheet import sheet_from_dict, sheet_to_dict
from culmo.core.paint.recipe import format_recipe
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from support.foreign_pictures import difference
from support.foreign_sheets import photo_of
from support.old_pictures import NAMES, old_picture


def words(chart):
    return ["" if recipe is None else format_recipe(recipe) for recipe in recipes(chart)]


def grid(names, **more):
    return replace(
        with_count(begin(Shape.GRID, 800, 600, len(names), len(names)), len(names), len(names)),
        names_across=names,
        **more,
    )


def test_a_grid_holds_each_paint_with_each():
    said = words(grid(("Rose", "Lemon", "Sepia"), second=SecondHalf.PALER))
    assert said[0::4] == ["Rose", "Lemon", "Sepia"], "pure on the diagonal"
    assert said[3] == "Lemon + Rose"
    assert "Rose + Lemon @" in said[1]
    assert words(grid(("Rose", "Lemon"), second=SecondHalf.EMPTY)) == ["Rose", "", "Lemon + Rose", "Lemon"]
    assert words(grid(("Rose", "Lemon"), second=SecondHalf.EMPTY, turned=True)) == [
        "Rose",
        "Rose + Lemon",
        "",
        "Lemon",
    ]
    assert words(grid(("Rose", "Lemon"), second=SecondHalf.SAME))[1] == "Rose + Lemon"
    assert "Chalk" in words(grid(("Rose", "Lemon"), second=SecondHalf.WHITE, extra="Chalk"))[1]
    with pytest.raises(CulmoError):
        recipes(grid(("Rose", "Lemon"), second=SecondHalf.WHITE))


def test_two_families_and_an_empty_name_leaves_the_other_alone():
    chart = replace(
        with_count(begin(Shape.GRID, 800, 600, 2, 2), 3, 2), alike=False, names_across=("", "Rose", "Lemon:2 + Rose"),
        names_down=("Sepia", ""),
    )  # fmt: skip
    said = words(chart)
    assert said[:2] == ["Sepia", "Sepia + Rose"]
    assert said[3:5] == ["", "Rose"]


def test_steps_lie_between_two_that_are_named():
    chart = replace(
        with_count(begin(Shape.ROW, 800, 600, 5, 1), 5, 1), names_across=("Rose", "", "", "", "Lemon")
    )
    assert words(chart) == ["Rose", "Rose:3 + Lemon", "Rose + Lemon", "Rose + Lemon:3", "Lemon"]
    wheel = replace(
        begin(Shape.WHEEL, 600, 600, 4, 2), names_across=("Rose", "", "Lemon", ""), washes=(0.25, 1.0)
    )
    said = words(wheel)
    assert said[4:] == ["Rose", "Rose + Lemon", "Lemon", "Lemon + Rose"]
    assert said[0].startswith("Rose @")


def test_lines_stay_between_their_neighbours_and_outer_ones_with_the_corners():
    chart = begin(Shape.GRID, 800, 600, 4, 4)
    assert moved_line(chart, False, 2, 0.9).across[2] < chart.across[3]
    assert moved_line(chart, False, 0, 0.3) == chart
    wheel = begin(Shape.WHEEL, 600, 600, 6, 1)
    turned = moved_line(wheel, False, 0, 0.1)
    assert np.allclose(np.diff(turned.across), 1 / 6) and turned.across[0] == pytest.approx(0.1)
    with pytest.raises(CulmoError):
        with_count(chart, 0, 4)
    with pytest.raises(CulmoError):
        with_count(chart, 4, 400)


@pytest.mark.parametrize("shape", list(Shape))
def test_places_and_shares_are_inverse(shape):
    chart = replace(begin(shape, 900, 700, 5, 2), corners=((100, 80), (700, 120), (720, 560), (90, 600)))
    for down in (False, True):
        for share in (0.2, 0.45, 0.6):
            at = line_mm(chart, down, share)[7]
            assert share_at(chart, down, at, 0.5) == pytest.approx(share, abs=1e-6)
            assert np.allclose(to_mm(chart, to_pixels(chart, at)), at, atol=1e-6)
    if shape is not Shape.WHEEL:
        moved = reframed(chart, np.array([[-0.05, 0.02], [1.04, 0.02], [1.04, 1.1], [-0.05, 1.1]]))
        inner = to_pixels(chart, line_mm(chart, False, chart.across[2]))
        again = to_pixels(moved, line_mm(moved, False, moved.across[2]))
        # the same line, though its ends lie elsewhere on it
        along = (inner[-1] - inner[0]) / np.hypot(*(inner[-1] - inner[0]))
        assert np.abs((again - inner[0]) @ [-along[1], along[0]]).max() < 1.0


def test_a_sheet_of_it_is_kept_like_any_other():
    sheet = old_sheet(grid(NAMES[:6], gap=0.1), "Mine")
    again = sheet_from_dict(sheet_to_dict(sheet))
    assert again.kind == "old" and len(again.cells) == 36 and again.title == "Mine"
    assert again.cell("r01c01").box_mm[2] == pytest.approx(0.9 * CELL_MM, abs=0.01)
    assert len({label.text for label in sheet.labels}) == 6


def test_a_chart_without_names_or_with_impossible_corners_is_refused():
    with pytest.raises(CulmoError, match="name the paints"):
        old_sheet(begin(Shape.GRID, 800, 600, 6, 6), "")
    thin = replace(grid(("Rose", "Lemon")), corners=((0, 0), (3, 0), (3, 900), (0, 900)))
    with pytest.raises(CulmoError):
        old_sheet(thin, "")
    with pytest.raises(CulmoError):
        recipes(grid(("Rose + ", "Lemon")))


def laid(picture, sheet, count, names, gap):
    """The chart as a painter lays it: its corners nearly right, its lines even, then snapped."""
    width, height = picture.size
    rough = picture.corners + np.random.default_rng(1).normal(0, 5, (4, 2))
    chart = replace(
        with_count(begin(Shape.GRID, width, height, count, count), count, count),
        corners=tuple(map(tuple, rough)), names_across=names, gap=gap,
    )  # fmt: skip
    return snapped(chart, edges(photo_of(picture).pixels, chart))


@pytest.mark.long
@pytest.mark.parametrize("gap_mm", [0.0, 2.5])
def test_lines_snap_to_a_hand_ruled_grid_and_its_colours_are_read(gap_mm):
    sheet, picture = old_picture("grid", 7, gap_mm=gap_mm)
    chart = laid(picture, sheet, 7, NAMES[:7], 0.12 if gap_mm else 0.0)
    middles = np.array([to_pixels(chart, outline).mean(axis=0) for outline in outlines(chart)])
    truth = dict(zip([cell.id for cell in sheet.cells], picture.ruled, strict=True))
    places = [f"r{1 + i // 7:02d}c{1 + i % 7:02d}" for i in range(49)]
    off = np.hypot(*(picture.to_mm(middles) - np.array([truth[place] for place in places])).T)
    assert np.median(off) < 0.7 and off.max() < 2.5
    old = old_sheet(chart, "Old")
    reading = run_through(reading_sheet(photo_of(picture), old, placed=placement_of(chart, old, 1.0)))
    away = [float(difference(entry.lab, picture.lab[entry.cell])) for entry in reading.readings]
    assert np.median(away) < 1.5 and np.quantile(away, 0.9) < 4.0
    assert reading.by == "hand" and not reading.asked


@pytest.mark.long
def test_a_wheel_is_read_too():
    sheet, picture = old_picture("wheel", 6, off_mm=0.3)
    rings = sorted({cell.id[:2] for cell in sheet.cells})
    width, height = picture.size
    chart = replace(
        begin(Shape.WHEEL, width, height, 12, len(rings)), corners=tuple(map(tuple, picture.corners)),
        names_across=tuple(name for paint in NAMES[:6] for name in (paint, "")), gap=0.1,
    )  # fmt: skip
    chart = moved_line(chart, False, 0, -1 / 24)
    chart = snapped(chart, edges(photo_of(picture).pixels, chart))
    old = old_sheet(chart, "Old wheel")
    placed = placement_of(chart, old, 1.0)
    middles = np.array([np.mean(cell.outline_mm, axis=0) for cell in old.cells])
    away = picture.to_mm(placed.to_pixels(middles))[:, None] - picture.ruled[None]
    assert np.quantile(np.hypot(*away.T).min(axis=0), 0.9) < 4.0, "each sector lies on one that was painted"


@pytest.mark.long
def test_what_is_written_beside_is_shown_straight():
    _, picture = old_picture("grid", 5)
    chart = replace(begin(Shape.GRID, *picture.size, 5, 5), corners=tuple(map(tuple, picture.corners)))
    for down in (False, True):
        seen = written_beside(photo_of(picture).pixels, chart, down, 2, (104, 28))
        assert seen.shape == (28, 104, 3)
        assert np.ptp(seen[..., 1].astype(int)) > 25, "something is written there"


def test_it_is_no_chart_of_one_picture_only():
    assert isinstance(begin(Shape.ROW, 50, 2000, 40, 1), OldChart)
    assert np.isfinite(homography(begin(Shape.WHEEL, 30, 30, 2, 1))).all()
