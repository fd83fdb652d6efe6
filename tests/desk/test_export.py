"""Prints measured: the PDF turned back into a picture, the SVG read as text."""

import re

import numpy as np
import pypdfium2
import pytest

from culmo.core.chart.grid import GridPlan, plan_grid
from culmo.core.chart.papers import find_paper
from culmo.desk.drawing.export import CHECK_BAR_MM, PrintOptions, export_sheet, recipe_labels
from culmo.errors import CulmoError
from support.builders import make_sheet

DPI = 300


def grey_of(pdf):
    document = pypdfium2.PdfDocument(pdf)
    page = document[0]
    picture = page.render(scale=DPI / 72, grayscale=True).to_numpy()
    size = page.get_size()
    page.close()
    document.close()
    return picture[..., 0] if picture.ndim == 3 else picture, size


def lines_mm(profile, level=0.35):
    """The middles of dark runs of a profile of darkness, in millimetres."""
    dark = np.flatnonzero(profile > level * profile.max())
    runs = np.split(dark, np.flatnonzero(np.diff(dark) > 2) + 1)
    return np.array([np.average(run, weights=profile[run]) + 0.5 for run in runs]) * 25.4 / DPI


@pytest.mark.parametrize("paper", ["A4", "A3", "Quarter imperial"])
@pytest.mark.parametrize("gap", [0.0, 2.0])
def test_frame_and_cells_are_within_a_fifth_of_a_millimetre(qapp, tmp_path, paper, gap):
    sheet = plan_grid(GridPlan(("A", "B", "C", "D", "E"), find_paper(paper), gap_mm=gap))
    pdf = tmp_path / "s.pdf"
    export_sheet(sheet, pdf, options=PrintOptions(numbers=False, recipes="", bar=False))
    grey, size = grey_of(pdf)
    assert np.abs(np.array(size) * 25.4 / 72 - [sheet.paper.width_mm, sheet.paper.height_mm]).max() < 0.2
    x, y, width, height = sheet.frame_mm
    inside = lambda low, length: slice(round((low + 1) * DPI / 25.4), round((low + length - 1) * DPI / 25.4))  # noqa: E731
    darkness = 255.0 - grey
    across = lines_mm(darkness[inside(y, height), :].mean(axis=0))
    down = lines_mm(darkness[:, inside(x, width)].mean(axis=1))
    assert len(across) == len(sheet.ruling.vertical_mm)
    assert np.abs(across - np.array(sheet.ruling.vertical_mm)).max() < 0.2
    assert np.abs(down - np.array(sheet.ruling.horizontal_mm)).max() < 0.2


def test_the_check_bar_is_a_hundred_millimetres(qapp, tmp_path):
    sheet = make_sheet(paper="A3")
    export_sheet(sheet, tmp_path / "s.svg", options=PrintOptions())
    text = (tmp_path / "s.svg").read_text()
    width = re.search(r'width="([\d.]+)mm"', text)
    assert float(width.group(1)) == pytest.approx(sheet.paper.width_mm, abs=0.2)
    assert f"{CHECK_BAR_MM:g} mm when printed" in text
    export_sheet(sheet, tmp_path / "s.pdf")
    grey, _ = grey_of(tmp_path / "s.pdf")
    below = grey[round((sheet.frame_mm[1] + sheet.frame_mm[3] + 1) * DPI / 25.4) :, :]
    row = below[np.argmax((below < 120).sum(axis=1))]
    dark = np.flatnonzero(row < 160)
    assert (dark[-1] - dark[0] + 1) * 25.4 / DPI == pytest.approx(CHECK_BAR_MM, abs=0.3)


def test_labels_by_name_number_and_code():
    sheet = make_sheet(["Rose", "Lemon"])
    codes = {"rose": "PV19", "lemon": "PY3"}
    assert recipe_labels(sheet, "name", codes)["r02c01"] == "Rose + Lemon"
    assert recipe_labels(sheet, "number", codes)["r02c01"] == "1 + 2"
    assert recipe_labels(sheet, "code", codes)["r02c01"] == "PV19 + PY3"
    assert recipe_labels(sheet, "", codes) == {}


def test_an_earlier_file_stands_when_the_new_one_can_not_be_written(qapp, tmp_path):
    path = tmp_path / "s.doc"
    path.write_text("mine")
    with pytest.raises(CulmoError, match="ending"):
        export_sheet(make_sheet(), path)
    assert path.read_text() == "mine"
    assert list(tmp_path.iterdir()) == [path]
