"""Guesses and drawn pairs in the record: scored by day, answered by what was painted, kept through everything."""

import json
import shutil
from pathlib import Path

import numpy as np
import pytest

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.exchange import exporting, study_from_folder
from culmo.study.file import Study
from culmo.study.guess_acts import (
    add_draw,
    add_guess,
    drawn_pairs,
    drop_draw,
    guess_days,
    painted_truths,
    sheets_of_draws,
)
from culmo.study.inspection import problems_of_study
from culmo.study.readings_file import Incoming
from support.builders import make_sheet, make_study

GREEN = mix(["Lemon", "Viridian"], [2, 1], 0.5)
GUESS, THOUGHT = np.array([60.0, -20.0, 30.0]), np.array([58.0, -24.0, 33.0])


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo", cards=False) as study:
        yield study


def at(study, moment):
    study.clock = lambda: moment


def read(study, recipe, lab, trust="good", ground="paper"):
    reading = Reading(recipe, lab, ground, trust=trust)
    study.apply(acts.add_readings(study, [Incoming(reading, None, ())], "typed"))


def test_guesses_are_scored_by_day(study):
    moments = ("2026-09-01T10:00:00+02:00", "2026-09-01T10:01:00+02:00", "2026-09-02T09:00:00+02:00")
    for moment, away in zip(moments, (0.0, 6.0, 0.5), strict=True):
        at(study, moment)
        study.apply(add_guess(study, "paints", parse_recipe("Lemon + Rose"), ("Lemon", "Rose"), away))
    assert [(day.date, day.count, day.away, day.right) for day in guess_days(study)] == [
        ("2026-09-01", 2, 3.0, 1), ("2026-09-02", 1, 0.5, 1),
    ]  # fmt: skip


def test_a_drawn_pair_waits_for_its_painted_cell(study):
    at(study, "2026-09-01T10:00:00+02:00")
    command = add_draw(study, GREEN, GUESS, THOUGHT)
    study.apply(command)
    (drawn,) = drawn_pairs(study)
    assert (drawn.recipe, drawn.painted, drawn.away) == (GREEN, None, None)
    assert np.allclose(drawn.guess, GUESS)
    with pytest.raises(CulmoError, match="drawn already"):
        add_draw(study, GREEN, GUESS, THOUGHT)
    # none of these is the painted, dry cell on paper
    at(study, "2026-09-02T10:00:00+02:00")
    read(study, GREEN, (40.0, 0.0, 0.0), trust="wet")
    read(study, GREEN, (41.0, 0.0, 0.0), trust="excluded")
    read(study, GREEN, (20.0, 0.0, 0.0), ground="ink")
    read(study, mix(["Lemon", "Viridian"], [1, 2], 0.5), (42.0, 0.0, 0.0))
    assert drawn_pairs(study)[0].painted is None
    at(study, "2026-09-03T10:00:00+02:00")
    read(study, parse_recipe("viridian:2 + lemon:4 @ 0.5"), (61.0, -20.0, 30.0))  # the same, said otherwise
    (drawn,) = drawn_pairs(study)
    assert drawn.painted.tolist() == [61.0, -20.0, 30.0]
    assert 0.5 < drawn.away < 1.0
    assert drawn.predicted_away > drawn.away
    assert [(day.date, day.count, day.right) for day in guess_days(study, [drawn])] == [("2026-09-03", 1, 1)]
    at(study, "2026-09-04T10:00:00+02:00")
    study.apply(add_draw(study, GREEN, GUESS, THOUGHT))  # it may be drawn again once it was painted
    assert [one.painted is None for one in drawn_pairs(study)] == [True, False]
    study.apply(drop_draw(study, drawn_pairs(study)[0].id))
    assert len(drawn_pairs(study)) == 1
    study.revert(command)
    assert drawn_pairs(study) == []


def test_a_cell_read_before_the_guess_is_no_answer_to_it(study):
    at(study, "2026-09-01T10:00:00+02:00")
    read(study, GREEN, (50.0, 0.0, 0.0))
    at(study, "2026-09-01T10:05:00+02:00")
    study.apply(add_draw(study, GREEN, GUESS, THOUGHT))
    assert drawn_pairs(study)[0].painted is None


def test_truths_are_dry_cells_with_their_wet_look(study):
    at(study, "2026-09-01T10:00:00+02:00")
    read(study, GREEN, (44.0, -22.0, 30.0), trust="wet")
    read(study, GREEN, (50.0, -20.0, 26.0))
    read(study, parse_recipe("Rose + Lemon over Viridian"), (30.0, 1.0, 2.0))
    read(study, mix(["Rose"]), (45.0, 60.0, 5.0), trust="doubtful")
    (truth,) = painted_truths(study)
    assert truth.recipe == GREEN
    assert truth.lab.tolist() == [50.0, -20.0, 26.0]
    assert truth.wet.tolist() == [44.0, -22.0, 30.0]
    assert truth.painted


def test_a_drawn_pair_is_renamed_goes_out_and_comes_back(study, tmp_path):
    study.apply(add_draw(study, GREEN, GUESS, THOUGHT))
    row = next(row for row in study.rows("paints") if row["name"] == "Lemon")
    study.apply(acts.edit_paint(study, row["id"], acts.PaintEntry("Citron", row["codes"])))
    (drawn,) = drawn_pairs(study)
    assert drawn.recipe == mix(["Citron", "Viridian"], [2, 1], 0.5)
    run_through(exporting(study, tmp_path / "open"))
    study_from_folder(tmp_path / "open", tmp_path / "again.culmo")
    with Study(tmp_path / "again.culmo") as again:
        (same,) = drawn_pairs(again)
        assert (same.recipe, same.at) == (drawn.recipe, drawn.at)
        assert np.allclose(same.predicted, THOUGHT)
    path = tmp_path / "open" / "study.json"
    data = json.loads(path.read_text(encoding="utf-8"))
    data["schema"] = 9  # which had no such table
    del data["tables"]["draws"], data["tables"]["patches"]
    path.write_text(json.dumps(data), encoding="utf-8")
    study_from_folder(tmp_path / "open", tmp_path / "nine.culmo")
    with Study(tmp_path / "nine.culmo") as nine:
        assert drawn_pairs(nine) == []


def test_guesses_of_the_version_before_come_along_and_new_kinds_are_taken(tmp_path):
    shutil.copy(Path(__file__).parent / "old" / "v9.culmo", tmp_path / "nine.culmo")
    with Study(tmp_path / "nine.culmo") as study:
        rows = study.rows("guesses", order="id")
        assert [(row["kind"], row["answer"], row["away"]) for row in rows] == [
            ("which", "2", 6.5), ("parts", "1:2", 0.4),
        ]  # fmt: skip
        names = [paint.name for paint in records.paints(study)][:2]
        for kind in ("paints", "dries"):
            study.apply(add_guess(study, kind, mix(names), 1, 1.0))
        study.apply(add_draw(study, mix(names), GUESS, THOUGHT))
        assert problems_of_study(study) == []
        assert study.problems() == []


@pytest.mark.parametrize("predicted", ["[]", "null", "7", '["a", 1, 2]', "[1, 2]"])
def test_a_lost_prediction_does_not_stop_the_answer(study, predicted):
    study.apply(add_draw(study, GREEN, GUESS, THOUGHT))
    with study.disk.transaction() as db:
        db.execute("UPDATE draws SET predicted = ?", (predicted,))
    read(study, GREEN, (61.0, -20.0, 30.0))
    (drawn,) = drawn_pairs(study)
    assert drawn.predicted is None
    assert drawn.predicted_away is None
    assert drawn.away is not None


def test_a_drawn_pair_waits_on_the_sheet_where_it_is_still_to_be_read(study):
    study.apply(add_draw(study, GREEN, GUESS, THOUGHT))
    assert sheets_of_draws(study, drawn_pairs(study)) == {}
    study.apply(acts.add_sheet(study, make_sheet()))
    cell = records.sheet_record(study, 1).cells[1]
    study.apply(add_draw(study, cell.cell.recipe, GUESS, THOUGHT))
    drawn = drawn_pairs(study)
    own = next(one for one in drawn if one.recipe.key == cell.cell.recipe.key)
    assert sheets_of_draws(study, drawn) == {own.id: 1}
    study.apply(acts.read_cell(study, 1, cell.id, (50.0, 1.0, 2.0), wet=True))
    assert sheets_of_draws(study, drawn) == {own.id: 1}  # the wet look is no answer
    study.apply(acts.read_cell(study, 1, cell.id, (50.0, 1.0, 2.0)))
    assert sheets_of_draws(study, drawn) == {}  # what is read already is not painted for it
