"""`culmo read` as it is called."""

import csv
import json

import cv2
import numpy as np
import pytest

from culmo.cli.main import main
from culmo.core.capture.camera import Exposure
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.colour.difference import delta_e_00
from culmo.study.pictures import jpeg_bytes
from culmo.study.tables import read_readings
from support.photos import paint_sheet

SHOT = Exposure(
    1500, tilt_deg=12, toward_deg=200, falloff=0.3, kelvin=4200, balance=0.3, noise=0.006, curl_mm=1.5
)


@pytest.fixture(scope="module")
def taken(tmp_path_factory):
    folder = tmp_path_factory.mktemp("read")
    painted = paint_sheet(seed=6)
    practice, _ = painted.shoot(SHOT, 2)
    (folder / "p.jpg").write_bytes(jpeg_bytes(practice.pixels))
    (folder / "s.json").write_text(json.dumps(sheet_to_dict(painted.sheet)))
    other = paint_sheet(count=8, seed=1).sheet
    (folder / "other.json").write_text(json.dumps(sheet_to_dict(other)))
    return folder, painted, practice


def call(folder, *more, photo="p.jpg", sheet="s.json"):
    return main(
        ["read", str(folder / photo), "--sheet", str(folder / sheet), "--out", str(folder / "r.csv"), *more]
    )


@pytest.mark.long
def test_the_colours_come_out_by_cell_and_can_be_learned_from(taken, capsys):
    folder, painted, practice = taken
    assert call(folder) == 0
    said = capsys.readouterr()
    assert "found by its corner marks" in said.err
    assert said.out == ""
    rows = list(csv.DictReader((folder / "r.csv").read_text().splitlines()))
    assert [row["cell"] for row in rows] == [cell.id for cell in painted.sheet.cells]
    away = [
        delta_e_00(np.array([float(row[k]) for k in "Lab"]), practice.lab[row["cell"]])
        for row in rows
        if row["trust"] == "good"
    ]
    assert np.median(away) < 0.8
    good, bad = read_readings(folder / "r.csv")
    assert len(good) == 25
    assert not bad
    assert {r.reading.trust for r in good} <= {"good", "doubtful"}
    (folder / "ask.csv").write_text("recipe\n" + rows[1]["recipe"] + "\n")
    assert main(["predict", "--readings", str(folder / "r.csv"), "--ask", str(folder / "ask.csv")]) == 0


@pytest.mark.long
def test_corners_and_readings_may_be_given(taken, capsys):
    folder, _, practice = taken
    corners = " ".join(f"{x:.0f},{y:.0f}" for x, y in practice.corners)
    assert call(folder, "--corners", corners, "--paper", "95,0,2") == 0
    assert call(folder) == 0
    assert call(folder, "--readings", str(folder / "r.csv"), "--corners", corners) == 0
    assert "doubtful" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--corners", "1,2 3,4"], "corners"),
        (["--corners", "a,b c,d e,f g,h"], "corners"),
        (["--corners", "0,0 900,600 900,0 0,600"], "cross"),
        (["--paper", "red"], "red"),
        (["--card", "none.csv"], "--card-corners"),
        (["--page", "2"], "page"),
        (["--readings", "none.csv"], "none.csv"),
    ],
)
def test_a_wrong_call_is_one_line_and_exit_2(taken, capsys, more, words):
    assert call(taken[0], *more) == 2
    said = capsys.readouterr().err.strip().splitlines()
    assert words in said[-1]
    assert said[-1].startswith("culmo: ")


@pytest.mark.long
def test_the_wrong_sheet_or_no_picture_writes_nothing(taken, capsys):
    folder, painted, _ = taken
    (folder / "r.csv").unlink(missing_ok=True)
    assert call(folder, sheet="other.json") == 2
    (folder / "no.jpg").write_text("not a picture")
    assert call(folder, photo="no.jpg") == 2
    assert call(folder, photo="gone.jpg") == 2
    assert call(folder, sheet="p.jpg") == 2
    assert not (folder / "r.csv").exists()
    said = capsys.readouterr().err
    assert "Traceback" not in said
    mixed = sheet_to_dict(painted.sheet)
    recipes = [cell["recipe"] for cell in mixed["cells"]]
    order = np.random.default_rng(5).permutation(len(recipes))
    for cell, place in zip(mixed["cells"], order, strict=True):
        cell["recipe"] = recipes[place]
    (folder / "mixed.json").write_text(json.dumps(mixed))
    assert call(folder, sheet="mixed.json") == 2
    assert "do not fit the recipes" in capsys.readouterr().err
    assert call(folder, "--anyway", sheet="mixed.json") == 0
    assert {row["trust"] for row in csv.DictReader((folder / "r.csv").read_text().splitlines())} == {
        "doubtful"
    }


def test_a_reference_card_in_the_picture(taken, capsys):
    folder, _, practice = taken
    pixels = practice.pixels.copy()
    for place, level in enumerate((235, 190, 140, 90)):
        cv2.rectangle(pixels, (20 + 40 * place, 4), (59 + 40 * place, 40), (level,) * 3, -1)
    (folder / "card.jpg").write_bytes(jpeg_bytes(pixels))
    (folder / "card.csv").write_text("name,L,a,b\nw,93,0,0\nx,76,0,0\ny,58,0,0\nz,38,0,0\n")
    corners = "20,4 180,4 180,41 20,41"
    more = ["--card", str(folder / "card.csv"), "--card-corners", corners]
    code = call(folder, *more, photo="card.jpg")
    said = capsys.readouterr().err
    assert code == 0 or "does not look like" in said
    assert call(folder, *more, "--card-rows", "3", photo="card.jpg") == 2
    assert "rows" in capsys.readouterr().err
