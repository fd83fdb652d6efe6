"""Colours from pictures into the record: wet and dry, kept and missing pictures, what teaches."""

from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
import pytest

from culmo.core.capture.instrument import SimulatedColorimeter, painted_by_hand
from culmo.core.capture.sheet_reading import CellDoubt, CellReading
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.errors import CulmoError
from culmo.study import acts, paint_acts, records
from culmo.study.dried import dried_cells
from culmo.study.photo_acts import Picture, PictureKept, read_picture, read_swatch, wet_cells
from culmo.study.photo_files import keep_file, picture_bytes, pictures_folder
from support.builders import laid_out, make_sheet

NOON = datetime(2026, 6, 1, 12, 0).astimezone()


def at(minutes):
    return (NOON + timedelta(minutes=minutes)).isoformat(timespec="seconds")


def seen(cell, L=50.0, trust="good", **more):
    return CellReading(
        cell.id, cell.recipe, cell.ground, np.array([L, 5.0, -5.0]), trust, (), 0.5, 2.0, 1.0, **more
    )


@pytest.fixture
def painted(study):
    """A sheet with all cells painted, a minute apart."""
    study.apply(acts.add_sheet(study, make_sheet()))
    record = records.sheet_record(study, 1)
    for minute, entry in enumerate(record.cells):
        study.apply(paint_acts.paint_cell(study, 1, entry.id, at=at(minute)))
    return study, [entry.cell for entry in record.cells]


def test_a_picture_of_the_dry_sheet_goes_into_the_record_and_back(painted):
    study, cells = painted
    study.dump()
    command = read_picture(study, 1, [seen(c) for c in cells], Picture("a.jpg", b"data", at(300)))
    study.apply(command)
    rows = study.rows("readings", "cell_id NOT NULL")
    assert len(rows) == 25
    assert {row["trust"] for row in rows} == {"good"}
    assert {row["taken"] for row in rows} == {at(300)}
    assert rows[0]["granulation"] == 2.0
    photo = study.rows("photos")[0]
    assert picture_bytes(study, photo) == b"data"
    assert (study.path.parent / photo["path"]).read_bytes() == b"data"
    study.apply(read_picture(study, 1, [seen(cells[0], 60.0)], None, "colorimeter"))
    assert [r["L"] for r in study.rows("readings", "cell_id = 1")] == [60.0]
    fresh = study.rows("readings", "cell_id = 1")[0]
    assert fresh["source"] == "colorimeter"
    again = study.dump()
    extra = read_picture(
        study,
        1,
        [seen(c, 20.0) for c in cells[:3]],
        Picture("b.jpg", b"x", at(400), where=PictureKept.INSIDE),
    )
    study.apply(extra)
    assert picture_bytes(study, study.rows("photos")[-1]) == b"x"
    study.revert(extra)
    assert study.dump() == again


def test_wet_paint_is_marked_and_stands_beside_the_dry_reading(painted):
    study, cells = painted
    assert wet_cells(study, 1, at(200)) == set()
    wet = wet_cells(study, 1, at(26))
    assert 8 < len(wet) < 25
    assert cells[-1].id in wet
    assert cells[0].id not in wet
    assert wet_cells(study, 1, at(-5)) == {cell.id for cell in cells}  # not even painted then
    study.apply(read_picture(study, 1, [seen(c, 40.0) for c in cells], Picture("wet.jpg", b"w", at(26))))
    assert {r["trust"] for r in study.rows("readings", "cell_id = 25")} == {"wet"}
    assert not any(r.teaches for r in records.readings(study) if r.trust == "wet")
    study.apply(read_picture(study, 1, [seen(c, 46.0) for c in cells], Picture("dry.jpg", b"d", at(600))))
    assert [r["L"] for r in study.rows("readings", "cell_id = 25")] == [40.0, 46.0]
    assert records.read_cells(study, 1)[25]["L"] == 46.0
    cells = dried_cells(study)
    assert len(cells) == len(wet)
    assert all(cell.dry[0] - cell.wet[0] == pytest.approx(6.0) for cell in cells)


def test_the_pictures_are_never_written_over_and_may_be_missing(painted):
    study, cells = painted
    first = keep_file(study, "a b/../c?.jpg", b"1")
    assert first.endswith("c_.jpg")
    assert keep_file(study, "c?.jpg", b"1") == first
    assert keep_file(study, "c?.jpg", b"2") != first
    study.apply(read_picture(study, 1, [seen(cells[0])], Picture("x.jpg", b"3", at(300))))
    photo = study.rows("photos")[0]
    (study.path.parent / photo["path"]).unlink()
    with pytest.raises(CulmoError, match="no longer beside"):
        picture_bytes(study, photo)
    with pytest.raises(CulmoError, match="outside"):
        picture_bytes(study, {**photo, "path": "../../etc/passwd"})
    folder = pictures_folder(study)
    for path in folder.iterdir():
        path.unlink()
    folder.rmdir()
    folder.write_text("in the way")
    before = study.dump()
    with pytest.raises(CulmoError, match="could not be kept"):
        read_picture(study, 1, [seen(cells[0])], Picture("y.jpg", b"4", at(300)))
    assert study.dump() == before


def test_what_the_painter_decides_goes_before_the_doubt(painted):
    study, cells = painted
    doubtful = [seen(c, trust="doubtful") for c in cells[:2]]
    study.apply(
        read_picture(study, 1, doubtful, Picture("a.jpg", b"", at(300)), trusted={cells[0].id: "good"})
    )
    assert [r["trust"] for r in study.rows("readings", "cell_id IN (1, 2)")] == ["good", "doubtful"]


def test_a_loose_swatch_teaches_and_an_unknown_paint_is_refused(study):
    study.apply(read_swatch(study, mix(["Rose"]), np.array([45.0, 50, 0]), "paper", "photo"))
    assert study.rows("readings")[-1]["sheet_id"] is None
    assert records.readings(study)[-1].teaches
    with pytest.raises(CulmoError, match="Nobody"):
        read_swatch(study, mix(["Nobody"]), np.array([45.0, 50, 0]), "paper", "photo")


def test_a_hand_wanders_about_the_prediction_and_the_colorimeter_about_the_cell(study):
    names = [paint.name for paint in records.paints(study)]
    estimate = learn(names, records.readings(study))
    sheet = make_sheet()
    one, two = (painted_by_hand(estimate, sheet, np.random.default_rng(seed)) for seed in (1, 1))
    assert all(np.array_equal(one[key], two[key]) for key in one)
    many = [painted_by_hand(estimate, sheet, np.random.default_rng(s)) for s in range(30)]
    cell = sheet.cell("r03c01")
    known = predict(estimate, [cell.recipe])
    away = delta_e_00(np.array([colours[cell.id] for colours in many]), known.lab[0])
    assert 0.5 < np.median(away) < known.dE90[0]
    meter = SimulatedColorimeter(one, np.random.default_rng(0))
    looks = np.array([meter.measure(cell) for _ in range(200)])
    assert np.abs(looks.mean(axis=0) - one[cell.id]).max() < 0.1
    assert 0.15 < looks.std(axis=0).mean() < 0.35
    with pytest.raises(CulmoError, match="nothing painted"):
        meter.measure(replace(cell, id="zz"))


def test_the_pale_end_of_a_band_never_teaches_and_never_stands_for_the_full_one(study):
    fades = replace(make_sheet().cells[0], fade_mm=((10.0, 10.0), (40.0, 10.0)))
    sheet = replace(make_sheet(), cells=(fades,))
    study.apply(acts.add_sheet(study, sheet))
    cell = records.sheet_record(study, 1).cells[0]
    study.apply(paint_acts.paint_cell(study, 1, cell.id, at=at(0)))
    pale = replace(
        seen(fades, 80.0, "doubtful"), recipe=fades.recipe.with_wash(0.2), doubts=(CellDoubt.PALE,)
    )
    for minutes, more in ((2, 0.0), (300, 4.0)):
        looks = [replace(seen(fades, 30.0 + more)), replace(pale, lab=pale.lab + np.array([more, 0.0, 0.0]))]
        command = read_picture(
            study, 1, looks, Picture("a.jpg", b"", at(minutes)), trusted={fades.id: "good"}
        )
        study.apply(command)
    dry = study.rows("readings", "cell_id = 1 AND trust <> 'wet'")
    assert sorted((row["L"], row["trust"]) for row in dry) == [(34.0, "good"), (84.0, "doubtful")]
    assert records.read_cells(study, 1)[1]["L"] == 34.0
    (dried,) = dried_cells(study)
    assert dried.dry[0] - dried.wet[0] == pytest.approx(4.0)


def test_a_typed_look_takes_the_doubt_of_the_picture_away(painted):
    study, cells = painted
    study.apply(read_picture(study, 1, [seen(cells[0], trust="doubtful")], Picture("a.jpg", b"", at(300))))
    study.apply(acts.read_cell(study, 1, 1, (44.0, 0.0, 0.0)))
    (row,) = study.rows("readings", "cell_id = 1")
    assert (row["L"], row["trust"], row["photo_id"], row["source"]) == (44.0, "good", None, "typed")
    study.apply(acts.set_trust(study, row["id"], "excluded"))
    study.apply(acts.read_cell(study, 1, 1, (45.0, 0.0, 0.0)))
    assert study.rows("readings", "cell_id = 1")[0]["trust"] == "excluded"


def test_a_file_that_does_not_say_how_a_cell_was_painted_teaches_no_parts_of_it(study):
    """A wet-in-wet cell is known for it by its plan, and any by its strokes, whichever door its colour comes by."""
    names = tuple(paint.name for paint in records.paints(study)[:2])
    (planned,) = laid_out("ladder", paints=names, wet=True, steps=3)
    study.apply(acts.add_sheet(study, planned))
    sheet = records.sheet_record(study, study.rows("sheets")[-1]["id"])
    wet = sheet.by_cell()["r02c04"]
    (planned,) = laid_out("free", recipes=(mix(names),))
    study.apply(acts.add_sheet(study, planned))
    sheet = records.sheet_record(study, study.rows("sheets")[-1]["id"])
    mixed = sheet.by_cell()["r01c01"]
    for cell in (wet, mixed):
        reading = Reading(cell.cell.recipe, (50, 1, 2))
        study.apply(acts.add_readings(study, [acts.Incoming(reading, cell.id)], "a file", sheet.id))
    by_cell = {row["cell_id"]: row for row in study.rows("readings", "cell_id NOT NULL")}
    assert (by_cell[wet.id]["mixing"], by_cell[mixed.id]["mixing"]) == ("wet", "")
    # painted again on the paper, and read again: what stood there as a puddle's mix does not any more
    study.apply(paint_acts.paint_cell(study, sheet.id, mixed.id, how="paper"))
    study.apply(acts.read_cell(study, sheet.id, mixed.id, (52, 1, 2)))
    (row,) = study.rows("readings", "cell_id = ?", (mixed.id,))
    assert row["mixing"] == "wet"
    assert not records.reading_of(row).teaches
