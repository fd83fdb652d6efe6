"""One sheet or one paint from study to study."""

import json

import pytest

from culmo.errors import CulmoError
from culmo.study import acts
from culmo.study.file import Study
from culmo.study.incoming import bring_in
from culmo.study.sharing import share_text, shared_paint, shared_sheet
from support.builders import FIVE, make_sheet, make_study


def write(tmp_path, data, name="given.json"):
    (tmp_path / name).write_text(share_text(data), encoding="utf-8")
    return tmp_path / name


def test_a_sheet_comes_with_its_paints_cards_and_readings(study, tmp_path):
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:3])))
    for cell in (1, 2, 5):
        study.apply(acts.read_cell(study, 1, cell, (50.0 + cell, 1.0, 2.0)))
    path = write(tmp_path, shared_sheet(study, 1))
    with make_study(tmp_path / "other.culmo", ("Lemon", "Umber")) as other:
        before = other.dump()
        own_lemon = [row for row in other.rows("readings") if row["recipe"].startswith("Lemon")]
        commands = []
        came = bring_in(
            other, path, lambda _: None, lambda command: (commands.append(command), other.apply(command))
        )
        assert "A grid" in came and "Rose" in came and "Lemon" not in came
        assert {row["name"] for row in other.rows("paints")} == {"Lemon", "Umber", *FIVE[:3]}
        assert [
            row
            for row in other.rows("readings")
            if row["recipe"].startswith("Lemon") and row["cell_id"] is None
        ] == own_lemon
        cells = {row["id"]: row["cell"] for row in other.rows("cells")}
        read = {(cells[r["cell_id"]], r["L"], r["taken"]) for r in other.rows("readings") if r["cell_id"]}
        mine = {row["id"]: row["cell"] for row in study.rows("cells")}
        assert read == {
            (mine[r["cell_id"]], r["L"], r["taken"]) for r in study.rows("readings") if r["cell_id"]
        }
        assert other.problems() == []
        other.revert(commands[0])
        assert other.dump() == before


def test_a_paint_comes_with_its_card_once(study, tmp_path):
    path = write(tmp_path, shared_paint(study, 2))
    with Study.create(tmp_path / "other.culmo", "Other") as other:
        assert bring_in(other, path, lambda _: None) == "Rose"
        mine = [
            (r["recipe"], r["ground"], r["L"])
            for r in study.rows("readings")
            if r["recipe"].startswith("Rose")
        ]
        assert [(r["recipe"], r["ground"], r["L"]) for r in other.rows("readings")] == mine
        with pytest.raises(CulmoError, match="names no paint"):
            bring_in(other, path, lambda _: None)


@pytest.mark.parametrize("change", [
    {"version": 2}, {"paints": None}, {"paints": [{}]}, {"sheet": {}}, {"sheet": []}, {"readings": [{"cell": "x"}]},
    {"paints": []},
    {"paints": [{"name": "X", "codes": "", "status": "?", "grain": None, "note": "", "label": {}, "card": []}]},
])  # fmt: skip
def test_what_is_damaged_leaves_the_study_as_it_was(study, tmp_path, change):
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:3])))
    path = write(tmp_path, {**json.loads(share_text(shared_sheet(study, 1))), **change})
    with Study.create(tmp_path / "other.culmo", "Other") as other:
        before = other.dump()
        with pytest.raises(CulmoError):
            bring_in(other, path, lambda _: None)
        assert other.dump() == before
