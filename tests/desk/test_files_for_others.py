"""What drawings say of their colours to whoever opens them, read by other programs; text that needs no typeface."""

import io
import re
import struct
import xml.etree.ElementTree as ET

import pypdfium2
import pytest
from PIL import Image
from PySide6.QtGui import QColor, QImage

from culmo.core.colour.adapt import lab_from_d50
from culmo.desk.drawing.export import export_sheet
from culmo.desk.drawing.png import png_bytes, save_png
from culmo.study.cgats import read_cgats, write_cgats
from support.builders import make_sheet


@pytest.fixture(scope="module")
def sheet():
    return make_sheet(["Rose", "Lemon"], title="Größe & Ton")


def chunks(data):
    at = 8
    while at < len(data):
        (size,) = struct.unpack_from(">I", data, at)
        yield data[at + 4 : at + 8], data[at + 8 : at + 8 + size]
        at += 12 + size


def test_a_picture_says_that_its_colours_are_screen_colours(qapp, tmp_path, sheet):
    path = tmp_path / "s.png"
    export_sheet(sheet, path)
    found = dict(chunks(path.read_bytes()))
    assert found[b"sRGB"] == b"\0" and b"iCCP" not in found
    with Image.open(path) as picture:
        picture.load()  # checks each chunk
        assert picture.info["srgb"] == 0
        assert round(picture.info["dpi"][0]) == 200
    image = QImage(3, 2, QImage.Format.Format_RGB32)
    image.fill(QColor(10, 200, 30))
    assert Image.open(io.BytesIO(png_bytes(image))).getpixel((1, 1))[:3] == (10, 200, 30)
    assert not save_png(QImage(), tmp_path / "none.png") and not (tmp_path / "none.png").exists()


def test_a_pdf_says_so_too_and_is_of_its_true_size(qapp, tmp_path, sheet):
    path = tmp_path / "s.pdf"
    export_sheet(sheet, path)
    data = path.read_bytes()
    assert b"/OutputIntents" in data and b"/DestOutputProfile" in data
    assert b"sRGB" in data or "sRGB".encode("utf-16-be") in data
    with pypdfium2.PdfDocument(path) as document:
        wide, high = document[0].get_size()
        assert (wide, high) == pytest.approx(
            (sheet.paper.width_mm * 72 / 25.4, sheet.paper.height_mm * 72 / 25.4), abs=1.0
        )
        text = document[0].get_textpage().get_text_bounded()
    assert "Größe & Ton" in text


def test_the_text_of_an_svg_is_drawn_and_needs_no_typeface(qapp, tmp_path, sheet):
    path = tmp_path / "s.svg"
    export_sheet(sheet, path)
    tree = ET.parse(path)
    kinds = {element.tag.rpartition("}")[2] for element in tree.iter()}
    assert "text" not in kinds and "path" in kinds
    curved = [element for element in tree.iter() if re.search(r"[CQ]", element.get("d", ""))]
    assert len(curved) > 10, "the letters"


def test_measurements_say_for_which_light_and_observer_they_are(tmp_path):
    path = tmp_path / "m.txt"
    lab = [lab_from_d50([50.0, 20.0, -10.0])]
    path.write_text(write_cgats(["Rose"], lab, "x"))
    assert 'WEIGHTING_FUNCTION "ILLUMINANT, D50"' in path.read_text()
    assert "OBSERVER, 2 degree" in path.read_text()
    samples, bad = read_cgats(path)
    assert bad == [] and samples[0].lab == pytest.approx(lab[0], abs=1e-3)
