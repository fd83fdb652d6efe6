"""Mixes kept without a sheet: kept, noted, let go of, found, renamed, taken along, brought up from earlier files."""

import json
import shutil
from datetime import date
from pathlib import Path

import pytest

from culmo.core.paint.recipe import mix, parse_recipe
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.diary import days
from culmo.study.exchange import exporting, study_from_folder
from culmo.study.file import Study
from culmo.study.inspection import problems_of_study
from culmo.study.mix_acts import NOTE_LIMIT, drop_mix, keep_mix, kept_mixes_of, mixes_worth_keeping
from culmo.study.schema import VERSION
from culmo.study.search import Index, parse_query, search
from support.builders import make_study

GREEN = mix(["Lemon", "Viridian"], [5, 2], 0.45)


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo", cards=False) as study:
        yield study


def test_a_mix_is_kept_once_with_its_latest_note_and_undone(study):
    before = study.dump()
    keep = keep_mix(study, GREEN, "  wet   moss ")
    study.apply(keep)
    (kept,) = kept_mixes_of(study)
    assert (kept.recipe, kept.note) == (GREEN, "wet moss")
    again = keep_mix(
        study, parse_recipe("viridian:4 + lemon:10 @ 0.45"), "dry moss"
    )  # the same, said otherwise
    study.apply(again)
    assert [(kept.recipe, kept.note) for kept in kept_mixes_of(study)] == [(GREEN, "dry moss")]
    with pytest.raises(CulmoError, match="kept already"):
        keep_mix(study, GREEN, "dry moss")
    drop = drop_mix(study, kept.id)
    study.apply(drop)
    assert kept_mixes_of(study) == []
    assert any(
        "moss" in entry.text for day in days(study) for entry in day.entries
    )  # the Daybook still tells of it
    for command in (drop, again, keep):
        study.revert(command)
    assert study.dump() == before


@pytest.mark.parametrize(
    ("recipe", "note", "said"),
    [
        (mix(["Nobody"]), "", "no paint"),
        (GREEN, "x" * (NOTE_LIMIT + 1), "letters"),
    ],
)
def test_what_can_not_be_kept_is_refused(study, recipe, note, said):
    with pytest.raises(CulmoError, match=said):
        keep_mix(study, recipe, note)


def test_it_is_among_those_worth_keeping_and_found_by_words(study):
    study.apply(keep_mix(study, GREEN, "wet moss"))
    (worth,) = mixes_worth_keeping(study)
    assert (worth.recipe, worth.lab, worth.note, worth.where) == (GREEN, None, "wet moss", "")
    assert records.kept_mixes(study) == [GREEN]
    found = search(Index(study), parse_query("moss", date(2026, 1, 1))).hits
    assert [hit.kind for hit in found] == ["mix"]
    assert parse_recipe(found[0].recipe) == GREEN


def test_a_paint_that_is_renamed_is_renamed_in_it(study):
    study.apply(keep_mix(study, GREEN))
    row = study.rows("paints", "name = 'Lemon'")[0]
    study.apply(acts.edit_paint(study, row["id"], acts.PaintEntry("Citron", row["codes"])))
    assert kept_mixes_of(study)[0].recipe == mix(["Citron", "Viridian"], [5, 2], 0.45)


def test_it_goes_out_and_comes_back_and_an_earlier_export_comes_in(study, tmp_path):
    study.apply(keep_mix(study, GREEN, "wet moss"))
    run_through(exporting(study, tmp_path / "open"))
    study_from_folder(tmp_path / "open", tmp_path / "again.culmo")
    with Study(tmp_path / "again.culmo") as again:
        assert [(kept.recipe, kept.note) for kept in kept_mixes_of(again)] == [(GREEN, "wet moss")]
    path = tmp_path / "open" / "study.json"
    data = json.loads(path.read_text(encoding="utf-8"))
    assert data["schema"] == VERSION
    del data["tables"]["mixes"]
    path.write_text(json.dumps(data), encoding="utf-8")
    with pytest.raises(CulmoError, match="tables"):
        study_from_folder(tmp_path / "open", tmp_path / "lacks.culmo")
    data["schema"] = 8  # which had no such table, nor the one that came after
    del data["tables"]["draws"], data["tables"]["patches"]
    path.write_text(json.dumps(data), encoding="utf-8")
    study_from_folder(tmp_path / "open", tmp_path / "old.culmo")
    with Study(tmp_path / "old.culmo") as old:
        assert kept_mixes_of(old) == []
        assert records.paints(old)


def test_a_study_of_the_version_before_opens_and_can_keep_mixes(tmp_path):
    shutil.copy(Path(__file__).parent / "old" / "v8.culmo", tmp_path / "eight.culmo")
    with Study(tmp_path / "eight.culmo") as study:
        name = records.paints(study)[0].name
        study.apply(keep_mix(study, mix([name])))
        assert len(kept_mixes_of(study)) == 1
        assert problems_of_study(study) == []


def test_a_mix_that_can_not_be_read_is_told_of_and_does_not_stop_the_study(study):
    with study.disk.transaction() as db:
        db.execute(
            "INSERT INTO mixes (recipe, note, created) VALUES ('Lemon:0 + Rose', '', '2026-01-01T09:00:00+00:00')"
        )
    assert any("mixes" in problem for problem in problems_of_study(study))
