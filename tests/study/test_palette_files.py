"""Palettes out and in; where one can be had, a reader written apart from Culmo says what is in the file."""

import io
import struct
import xml.etree.ElementTree as ET
import zipfile

import numpy as np
import pytest

from culmo.cli.main import main
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import lab_from_srgb
from culmo.errors import CulmoError
from culmo.study.colour_files import read_colours
from culmo.study.file import Study
from culmo.study.formats import ASE, CSS, GPL, HEX, KPL
from culmo.study.palette_acts import wanted_lists
from culmo.study.palette_files import MOST_COLOURS, PALETTES, palette_bytes, read_palette
from culmo.study.tables import open_table, read_readings

NAMES = ("Lemon", "Rose, quinacridone", 'Blue "deep"', "Grün & Grau", "<b>x</b>", "*/ end", "", "Lemon")
SCREEN = np.array(
    [[0.95, 0.85, 0.0], [0.8, 0.05, 0.4], [0.05, 0.1, 0.55], [0.3, 0.5, 0.35], [1, 1, 1], [0, 0, 0], [0.5, 0.5, 0.5],
     [0.9, 0.8, 0.1]]
)  # fmt: skip
COLOURS = [(name, lab_from_srgb(rgb)) for name, rgb in zip(NAMES, SCREEN, strict=True)]


@pytest.mark.parametrize("kind", PALETTES, ids=lambda kind: kind.id)
def test_what_goes_out_comes_back(tmp_path, kind):
    path = tmp_path / f"p{kind.endings[0]}"
    path.write_bytes(palette_bytes(kind, "Drawer 14", COLOURS))
    found = read_palette(path, kind)
    assert len(found) == len(COLOURS)
    for (name, lab), (told, seen) in zip(COLOURS, found, strict=True):
        assert delta_e_00(lab, seen) < 0.5
        if kind is CSS:  # a comment can not hold its own end
            assert told.replace("\N{ASTERISK OPERATOR}", "*").replace("* /", "*/") == name or not name
        else:
            assert told == name
    wanted, bad = read_colours(path)
    assert len(wanted) == len(COLOURS) and bad == []


def test_swatches_are_what_another_reader_makes_of_them(tmp_path):
    swatch = pytest.importorskip("swatch")
    path = tmp_path / "p.ase"
    path.write_bytes(palette_bytes(ASE, "Drawer 14", COLOURS))
    (group,) = swatch.parse(str(path))
    assert group["name"] == "Drawer 14"
    assert [entry["name"] for entry in group["swatches"]] == list(NAMES)
    for entry, rgb in zip(group["swatches"], SCREEN, strict=True):
        assert entry["data"]["mode"] == "RGB"
        assert entry["data"]["values"] == pytest.approx(rgb, abs=1e-5)
    other = tmp_path / "q.ase"
    swatch.write(
        [{"name": "Grey", "type": "Process", "data": {"mode": "Gray", "values": [0.5]}},
         {"name": "Ink", "type": "Process", "data": {"mode": "CMYK", "values": [0.0, 1.0, 1.0, 0.0]}},
         {"name": "Lab", "type": "Process", "data": {"mode": "LAB", "values": [0.5, 60.0, 40.0]}}],
        str(other),
    )  # fmt: skip
    found = dict(read_palette(other, ASE))
    assert abs(found["Grey"][0] - 53.4) < 0.5 and abs(found["Grey"][1]) < 0.5
    assert found["Ink"][1] > 60
    assert found["Lab"][0] == pytest.approx(50, abs=2.5)


def test_the_palette_with_rows_is_what_a_zip_and_an_xml_reader_make_of_it():
    with zipfile.ZipFile(io.BytesIO(palette_bytes(KPL, "Drawer 14", COLOURS))) as archive:
        assert archive.infolist()[0].filename == "mimetype"
        assert archive.infolist()[0].compress_type == zipfile.ZIP_STORED
        tree = ET.fromstring(archive.read("colorset.xml"))
    assert tree.get("name") == "Drawer 14" and tree.get("columns") == "8" and tree.get("rows") == "1"
    entries = tree.findall("ColorSetEntry")
    assert [entry.get("name") for entry in entries] == list(NAMES)
    for entry, rgb in zip(entries, SCREEN, strict=True):
        colour = entry.find("sRGB")
        assert [float(colour.get(key)) for key in "rgb"] == pytest.approx(rgb, abs=1e-4)
    places = {(entry.find("Position").get("row"), entry.find("Position").get("column")) for entry in entries}
    assert len(places) == len(entries)


@pytest.mark.parametrize(
    ("kind", "text", "names"),
    [
        (
            CSS,
            b":root{--wing-green:#0a5;--grey: #808080 ; /* true grey */}\n/* not #123456 */",
            ["wing green", "true grey"],
        ),
        (HEX, b"# a list\n#ff0000 red\n00ff00,green\n  0000ff\nhello\n", ["red", "green", ""]),
        (GPL, b"GIMP Palette\nName: x\n255 0 0 red\n300 0 0 no\n", ["red"]),
    ],
    ids=lambda value: getattr(value, "id", ""),
)
def test_files_of_others_are_read(tmp_path, kind, text, names):
    path = tmp_path / f"o{kind.endings[0]}"
    path.write_bytes(text)
    assert [name for name, _ in read_palette(path, kind)] == names


def damaged():
    rng = np.random.default_rng(5)
    for kind in PALETTES:
        good = palette_bytes(kind, "x", COLOURS)
        yield kind, b""
        yield kind, good[: len(good) // 2]
        yield kind, bytes(rng.integers(0, 256, 400, dtype=np.uint8))
        for _ in range(30):
            hurt = bytearray(good)
            for place in rng.integers(0, len(hurt), 6):
                hurt[place] = int(rng.integers(0, 256))
            yield kind, bytes(hurt)


def test_whatever_is_damaged_is_told_in_words(tmp_path):
    for kind, data in damaged():
        path = tmp_path / f"d{kind.endings[0]}"
        path.write_bytes(data)
        try:
            found = read_palette(path, kind)
        except CulmoError as error:
            assert path.name in str(error)
        else:
            assert all(np.isfinite(lab).all() for _, lab in found)


def test_hostile_palettes_are_refused_soon(tmp_path):
    many = tmp_path / "m.hex"
    many.write_text("#808080\n" * (MOST_COLOURS + 1))
    with pytest.raises(CulmoError, match="more than"):
        read_palette(many, HEX)
    bomb = tmp_path / "b.kpl"
    laughs = '<!DOCTYPE a [<!ENTITY b "bb"><!ENTITY c "&b;&b;">]><ColorSet>&c;</ColorSet>'
    for text in (laughs, "<ColorSet>" + " " * (9 * 2**20) + "</ColorSet>"):
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("colorset.xml", text)
        with pytest.raises(CulmoError):
            read_palette(bomb, KPL)
    endless = tmp_path / "e.ase"
    endless.write_bytes(
        b"ASEF" + struct.pack(">HHI", 1, 0, 2**32 - 1) + struct.pack(">HI", 1, 2**31) + b"\0" * 20
    )
    with pytest.raises(CulmoError, match="no colours"):
        read_palette(endless, ASE)


@pytest.mark.parametrize("kind", PALETTES, ids=lambda kind: kind.id)
def test_the_command_takes_each_in(tmp_path, kind, capsys):
    path = tmp_path / f"Wing cases{kind.endings[0]}"
    path.write_bytes(palette_bytes(kind, "Drawer 14", COLOURS))
    assert main(["import", str(tmp_path / "new.culmo"), str(path), "--new"]) == 0
    with Study(tmp_path / "new.culmo") as study:
        assert len(wanted_lists(study)["Wing cases"]) == len(COLOURS)


@pytest.mark.parametrize(
    "encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16", "utf-16-le-bom", "utf-16-be-bom"]
)
def test_tables_come_as_spreadsheets_write_them(tmp_path, encoding, capsys):
    text = "recipe;L;a;b;note\nGrün;50,5;-20;10;schöner Ton – für Flügel\nGelb;80;0;70;x\n"
    path = tmp_path / "r.csv"
    if encoding.endswith("-bom"):
        path.write_bytes(("\ufeff" + text).encode(encoding.removesuffix("-bom")))
    else:
        path.write_text(text, encoding=encoding)
    rows, bad = read_readings(path)
    assert bad == [] and [str(row.reading.recipe) for row in rows] == ["Grün", "Gelb"]
    assert rows[0].values["note"] == "schöner Ton – für Flügel"
    assert main(["import", str(tmp_path / "new.culmo"), str(path), "--new"]) == 0


@pytest.mark.parametrize("data", [b"\xff\xfe\x00", b"a,b\n\x00\x01\x02\x81", bytes(range(256))])
def test_what_is_no_text_is_no_table(tmp_path, data):
    path = tmp_path / "n.csv"
    path.write_bytes(data)
    with pytest.raises(CulmoError, match="not text"):
        list(open_table(path))
