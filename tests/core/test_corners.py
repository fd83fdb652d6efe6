"""Small things that nothing else holds: where a strip stands on the page, how a word is chosen, what a sum is of."""

import numpy as np
import pytest

from culmo.core.chart.aids import Aids
from culmo.core.chart.kinds.fan import FanForm, FanOptions, fan_board
from culmo.core.chart.kinds.rows import SomeRows
from culmo.core.chart.lengths import number_text
from culmo.core.paint.drying import drying_of_paints
from culmo.core.paint.film import below_surface, through_surface
from culmo.core.paint.recipe import mix
from culmo.core.palette.arrange import arrange
from culmo.core.palette.choose import describe
from support.builders import laid_out


def box_of(cells):
    points = np.array([point for cell in cells for point in cell.outline_mm])
    return (*points.min(axis=0), *points.max(axis=0))


def test_strokes_that_meet_stay_within_their_row():
    (sheet,) = laid_out("fan", paints=("Rose", "Lemon", "Cobalt", "Ochre"), way="touch")
    left, top, width, height = sheet.frame_mm
    low = box_of(sheet.cells)
    assert low[0] >= left - 1e-6
    assert low[1] >= top - 1e-6
    assert low[2] <= left + width + 1e-6
    assert low[3] <= top + height + 1e-6
    # as far from the upper edge of the first row as from the lower edge of the last
    assert low[1] - top == pytest.approx(top + height - low[3], abs=0.01)


def test_a_fan_of_strokes_that_meet_has_a_name_for_each_of_its_columns():
    """What stands above its columns is as long as its rows, else a name would lie beside the sheet."""
    for way in (FanForm.ONE, FanForm.TOUCH):
        board = fan_board(FanOptions(paints=("Rose", "Lemon", "Cobalt"), way=way), Aids())
        assert {len(row) for row in board.rows} == {len(board.column_labels)}


def test_cards_lie_in_the_middle_of_the_paper_with_their_title():
    (sheet,) = laid_out("cards", paints=("Rose", "Lemon", "Cobalt"))
    (title,) = [label for label in sheet.labels if label.text == sheet.title]
    top = title.at_mm[1] + 0.9 * title.size_mm - 1.6 * title.size_mm
    assert top == pytest.approx(sheet.paper.height_mm - box_of(sheet.cells)[3], abs=0.01)


def test_a_fan_of_strokes_that_meet_names_its_first_paint():
    (sheet,) = laid_out("fan", paints=("Rose", "Lemon", "Cobalt"), way="touch")
    assert "Rose" in {label.text for label in sheet.labels}


def test_the_frame_of_free_rows_holds_their_steps():
    for gap in ("0", "4"):
        (sheet,) = laid_out(
            "rows", rows=SomeRows().read("Lemon, Rose: 7; Ochre, Cobalt", ""), gap_mm=float(gap)
        )
        left, _, width, _ = sheet.frame_mm
        low = box_of(sheet.cells)
        assert (low[0], low[2]) == pytest.approx((left, left + width), abs=0.01)


def test_the_title_of_a_card_page_stands_above_its_cards():
    (sheet, *_) = laid_out("cards", paints=("Rose", "Lemon", "Cobalt"), title="Cards")
    title = next(label for label in sheet.labels if label.text == "Cards")
    top = box_of(sheet.cells)[1]
    assert title.at_mm[1] <= top - 0.85 * title.size_mm
    assert title.at_mm[1] - title.size_mm >= 0


def test_nothing_in_inches_is_a_nought():
    assert number_text(0.0, "in") == "0"
    assert number_text(25.4, "in") == "1"
    assert number_text(12.7, "in") == "1/2"


def test_light_goes_through_the_surface_and_comes_back_as_saunderson_has_it():
    """J. L. Saunderson, J. Opt. Soc. Am. 32 (1942) 727, with his constants for a resin."""
    inside = np.linspace(0.0, 1.0, 21)
    k1, k2 = 0.04, 0.4
    seen = [k1 + (1 - k1) * (1 - k2) * r / (1 - k2 * r) for r in inside]
    assert through_surface(inside, k1, k2) == pytest.approx(seen)
    assert below_surface(np.array(seen), k1, k2) == pytest.approx(inside, abs=1e-9)


def test_a_drying_says_of_how_many_cells_it_is():
    wet, dry = np.array([50.0, 20.0, 10.0]), np.array([54.0, 16.0, 8.0])
    found = drying_of_paints(
        [(mix(["Rose"]), wet, dry), (mix(["Rose", "Lemon"]), wet, dry), (mix(["Rose", "Ochre"]), wet, dry)]
    )
    assert {name: count for name, (_, count) in found.items()} == {"rose": 3, "lemon": 1, "ochre": 1}


def as_paints(*middles):
    """Tables of paints, full, middle and tint, that have a colour as their middle wash."""
    return np.array([[lab] * 12 for lab in middles], dtype=float)


def test_a_light_earth_lies_with_the_earths():
    """What is bright needs more chroma to be clear: an ochre of L 70 and C 38 is an earth, a red of L 40 is not."""
    light, dark = [70.0, 10.0, 36.7], [40.0, 36.7, 10.0]
    order = arrange("hue", as_paints(light, dark))
    assert order == [1, 0]


@pytest.mark.parametrize(
    ("lab", "word"),
    [
        ([55.0, 15.0, 5.0], "quiet"),
        ([55.0, 30.0, 8.0], "middle"),
        ([55.0, 60.0, 8.0], "clean"),
        ([80.0, 15.0, 5.0], "pale"),
        ([30.0, 40.0, 8.0], "deep"),
    ],
)
def test_a_colour_is_described_in_one_word(lab, word):
    assert describe(np.array(lab)).split()[0] == word
