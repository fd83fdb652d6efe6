"""Wet and dry looks of one cell: noted at the table, from pictures, from files; paired, and never a teacher."""

import csv

import numpy as np
import pytest

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.core.steps import run_through
from culmo.study import acts, paint_acts, records
from culmo.study.dried import dried_cells, dried_mixes, paints_by_mixes
from culmo.study.guess_acts import painted_truths
from culmo.study.readings_file import readings_of_file
from culmo.study.washes import telling_washes, wash_rows
from support.builders import make_sheet, make_study

GREEN = mix(["Lemon", "Viridian"], [2, 1])


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo", cards=False) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        yield study


def at(study, moment):
    study.clock = lambda: moment


def test_the_wet_look_stands_beside_the_dry_one_and_does_not_teach(study):
    study.apply(acts.read_cell(study, 1, 2, (40.0, 30.0, 10.0), wet=True))
    assert records.read_cells(study, 1) == {}  # it is still to be read
    assert records.wet_cells_read(study, 1)[2]["L"] == 40.0
    assert not any(reading.teaches for reading in records.readings(study) if reading.trust == "wet")
    study.apply(acts.read_cell(study, 1, 2, (42.0, 30.0, 10.0), wet=True))  # noted again: it takes its place
    study.apply(acts.read_cell(study, 1, 2, (48.0, 26.0, 10.0)))
    assert [(r["L"], r["trust"]) for r in study.rows("readings", "cell_id = 2", order="id")] == [
        (42.0, "wet"), (48.0, "good"),
    ]  # fmt: skip
    study.apply(acts.read_cell(study, 1, 2, (49.0, 26.0, 10.0)))
    (dried,) = dried_cells(study)
    assert (dried.wet[0], dried.dry[0], dried.sheet_id) == (42.0, 49.0, 1)
    assert "wet look" in study.rows("events")[-3]["text"]


def test_a_dry_look_of_before_is_not_held_against_the_wet_one_of_a_repainted_cell(study):
    at(study, "2026-09-01T09:00:00+02:00")
    study.apply(paint_acts.paint_cell(study, 1, 2, at="2026-09-01T09:00:00+02:00"))
    at(study, "2026-09-02T09:00:00+02:00")
    study.apply(acts.read_cell(study, 1, 2, (48.0, 26.0, 10.0)))
    study.apply(paint_acts.paint_cell(study, 1, 2, at="2026-09-03T09:00:00+02:00"))
    at(study, "2026-09-03T09:01:00+02:00")
    study.apply(acts.read_cell(study, 1, 2, (40.0, 30.0, 10.0), wet=True))
    assert dried_cells(study) == []
    at(study, "2026-09-04T09:01:00+02:00")
    study.apply(acts.read_cell(study, 1, 2, (50.0, 26.0, 10.0)))
    (dried,) = dried_cells(study)
    assert dried.dry[0] == 50.0


def test_what_comes_from_files_has_both_its_looks(study, tmp_path):
    """Loose readings, of no sheet: the same mix on the same paper, wet and dry, in two files."""
    for name, trust, rows in (
        ("wet.csv", "wet", (("Lemon:2 + Viridian", 40.0), ("Rose", 30.0), ("Rose @ tint", 70.0))),
        ("dry.csv", "good", (("Viridian + Lemon:2", 46.0), ("Rose", 37.0), ("Ochre", 60.0))),
    ):
        path = tmp_path / name
        with path.open("w", newline="", encoding="utf-8") as file:
            out = csv.writer(file)
            out.writerow(["recipe", "L", "a", "b", "trust"])
            out.writerows([recipe, L, 10.0, 5.0, trust] for recipe, L in rows)
        found = readings_of_file(study, path, None)
        assert not found.bad
        study.apply(acts.add_readings(study, found.rows, name))
    cells = {str(cell.recipe.key): cell for cell in dried_cells(study)}
    assert {key: round(float(cell.dry[0] - cell.wet[0]), 3) for key, cell in cells.items()} == {
        str(GREEN.key): 6.0, "rose": 7.0,
    }  # fmt: skip
    assert all(cell.sheet_id is None for cell in cells.values())
    truth = next(one for one in painted_truths(study) if one.recipe.key == GREEN.key)
    assert truth.wet[0] == 40.0


def test_another_paper_is_another_look(study):
    for paper, trust, L in (("Smooth", "wet", 40.0), ("Rough", "good", 50.0)):
        reading = Reading(mix(["Rose"]), (L, 30.0, 5.0), paper=paper, trust=trust)
        study.apply(acts.add_readings(study, [acts.Incoming(reading, None, ())], "x"))
    assert dried_cells(study) == []


def test_cells_of_one_mix_are_told_together_and_paints_by_their_mixes(study):
    for cell_id, wet, dry in ((2, 40.0, 44.0), (6, 42.0, 48.0)):
        study.apply(acts.read_cell(study, 1, cell_id, (wet, 20.0, 10.0), wet=True))
        study.apply(acts.read_cell(study, 1, cell_id, (dry, 20.0, 10.0)))
    found = dried_mixes(dried_cells(study))
    total = sum(one.shift.count for one in found)
    assert total == 2
    assert all(one.sheets == ((1, records.sheet_record(study, 1).sheet.title),) for one in found)
    names = {name.casefold() for cell in dried_cells(study) for name in cell.recipe.names}
    alone = {cell.recipe.names[0].casefold() for cell in dried_cells(study) if cell.recipe.is_pure}
    dry_of = {name: np.array([50.0, 20.0, 10.0]) for name in names}
    by_mixes = paints_by_mixes(dried_cells(study), dry_of)
    assert {one.recipe.names[0].casefold() for one in by_mixes} == names - alone
    assert all(one.by_mixes >= 1 and one.shift.lightness > 2.0 for one in by_mixes)
    assert paints_by_mixes(dried_cells(study), {}) == []


def test_depth_is_told_of_each_sheet_in_the_order_of_painting(tmp_path):
    from culmo.core.paint.estimate import learn

    with make_study(tmp_path / "cards.culmo") as study:
        estimate = learn([paint.name for paint in records.paints(study)], records.readings(study))
        assert run_through(telling_washes(wash_rows(study), estimate)).sheets == ()
        for number, (day, factor) in enumerate((("2026-09-05", 1.0), ("2026-09-02", 0.55)), 1):
            study.apply(acts.add_sheet(study, make_sheet()))
            at(study, f"{day}T10:00:00+02:00")
            for entry in records.sheet_record(study, number).cells:
                if not entry.cell.recipe.layers:
                    continue
                study.apply(paint_acts.paint_cell(study, number, entry.id, at=f"{day}T09:00:00+02:00"))
                lab = _as_painted(estimate, entry.cell.recipe, factor)
                study.apply(acts.read_cell(study, number, entry.id, lab))
        found = run_through(telling_washes(wash_rows(study), estimate))
        assert [(one.sheet_id, one.day) for one in found.sheets] == [(2, "2026-09-02"), (1, "2026-09-05")]
        thin, usual = (found.of(sheet_id).reached[0] for sheet_id in (2, 1))
        assert thin.kind == usual.kind == "full"
        assert thin.reached / usual.reached == pytest.approx(0.55, abs=0.06)
        assert found.of(7) is None


def _as_painted(estimate, recipe, factor):
    from culmo.core.paint.predict import predict_lab

    lab = predict_lab(estimate, [recipe.with_wash(recipe.layers[0].wash * factor)], ["paper"])[0]
    return tuple(float(np.clip(value, 0 if i == 0 else -128, 100)) for i, value in enumerate(lab))
