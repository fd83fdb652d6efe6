"""Each JSON form against its schema, by a validator that knows nothing of Culmo."""

import copy
import json
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from culmo.cli.main import main
from culmo.core.chart.kinds import KIND_KEYS
from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.steps import run_through
from culmo.data import SCHEMAS, schema
from culmo.errors import CulmoError
from culmo.study.exchange import exporting
from culmo.study.file import Study
from culmo.study.sharing import shared_paint, shared_sheet
from support.builders import sample_study


def wrong(form, data):
    """Where a value is not of its form: the first place and why; empty where it is."""
    found = Draft202012Validator(json.loads(schema(form))).iter_errors(data)
    return next((f"{list(error.path)}: {error.message[:300]}" for error in found), "")


@pytest.fixture(scope="module")
def sample(tmp_path_factory):
    return sample_study(tmp_path_factory.mktemp("sample"))


@pytest.fixture(scope="module")
def going_out(sample, tmp_path_factory):
    """The sample study in its open forms."""
    folder = tmp_path_factory.mktemp("out")
    with Study(sample) as study:
        run_through(exporting(study, folder / "all"))
        shared = [shared_paint(study, 1), *(shared_sheet(study, row["id"]) for row in study.rows("sheets"))]
    return folder / "all", json.loads(json.dumps(shared))


def told(capsys, *words):
    assert main([str(word) for word in words]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.mark.parametrize("form", SCHEMAS)
def test_each_schema_is_one_and_says_what_it_is_of(form, capsys):
    assert main(["schema", form]) == 0
    data = json.loads(capsys.readouterr().out)
    Draft202012Validator.check_schema(data)
    assert data["title"]
    assert wrong(form, {"format": "something else"})
    assert wrong(form, [])


@pytest.mark.long
def test_a_study_and_its_sheets_go_out_in_their_forms(going_out):
    folder, shared = going_out
    assert wrong("study", json.loads((folder / "study.json").read_text(encoding="utf-8"))) == ""
    sheets = sorted((folder / "sheets").glob("*.json"))
    assert len(sheets) >= 5
    for path in sheets:
        assert wrong("sheet", json.loads(path.read_text(encoding="utf-8"))) == "", path.name
    for data in shared:
        assert wrong("share", data) == ""


@pytest.mark.parametrize("kind", KIND_KEYS)
def test_each_kind_of_sheet_has_the_form(kind, sample, tmp_path):
    own = {
        "free": ["--recipes", "Rose\nRose + Lemon"], "rows": ["--rows", "Lemon, Rose: 5"],
        "families": ["--paints", "Lemon,Rose", "--across", "Cobalt,Ochre"], "keepers": ["--study", str(sample)],
    }  # fmt: skip
    words = own.get(kind, ["--paints", "Lemon,Rose,Cobalt,Ochre"])
    assert main(["plan", "--kind", kind, *words, "--paper", "A3", "-o", str(tmp_path / "s.json")]) == 0
    data = json.loads((tmp_path / "s.json").read_text())
    assert wrong("sheet", data) == ""
    assert main(["order", str(tmp_path / "s.json"), "-o", str(tmp_path / "o.json")]) == 0
    assert wrong("sheet", json.loads((tmp_path / "o.json").read_text())) == ""


@pytest.mark.long
def test_what_the_commands_say_has_its_form(sample, tmp_path, capsys):
    study = ("--study", sample)
    (tmp_path / "ask.csv").write_text("who,recipe,ground\nme,Rose,paper\nyou,Rose + Lemon @ tint,ink\n")
    assert (
        main(["plan", "--kind", "grid", "--paints", "Lemon,Rose,Cobalt", "-o", str(tmp_path / "s.json")]) == 0
    )
    palettes = ("--palette", "Lemon,Rose,Cobalt", "--palette", "Ochre,Rose,Cobalt")
    (tmp_path / "wanted.csv").write_text("name,hex\nmoss,#5a6b4c\nsky,#88aacc\n")
    capsys.readouterr()
    for form, words in (
        ("mixes", ("mix", *study, "--target", "#5a6b4c", "--json")),
        ("predictions", ("predict", *study, "--ask", tmp_path / "ask.csv", "--json")),
        ("next", ("next", *study, "--sheet", tmp_path / "s.json", "--count", "3", "--json")),
        ("compare", ("compare", *study, *palettes, "--json")),
        ("choice", ("choose", *study, "--size", "3", "--seconds", "20")),
        ("choice", ("choose", *study, "--size", "2", "--targets", tmp_path / "wanted.csv")),
    ):
        assert wrong(form, told(capsys, *words)) == "", words


def damaged(sheet):
    """A sheet in ways that make no sense, each by itself."""
    for change in (
        lambda data: data.update(version=2),
        lambda data: data["paper"].update(width_mm=-1),
        lambda data: data["cells"][0].update(outline_mm=[[0, 0], [1, 1]]),
        lambda data: data["cells"][0].update(ground="wood"),
        lambda data: data["cells"][0].update(outline_mm=[[0, "a"], [1, 1], [2, 2]]),
        lambda data: data["cells"][0].pop("id"),
        lambda data: data["cells"][0].update(mixing="stirred"),
        lambda data: data["cells"][0].update(treatment="burnt"),
    ):
        data = copy.deepcopy(sheet)
        change(data)
        yield data


@pytest.mark.long
def test_what_the_schema_refuses_culmo_refuses_too(going_out):
    folder, _ = going_out
    sheet = json.loads(next(iter(sorted(Path(folder, "sheets").glob("*.json")))).read_text(encoding="utf-8"))
    for data in damaged(sheet):
        assert wrong("sheet", data)
        with pytest.raises(CulmoError):
            sheet_from_dict(data)


def test_a_bad_row_leaves_no_half_of_a_form_on_standard_output(sample, tmp_path, capsys):
    rows = "".join("Rose\n" for _ in range(3000))
    (tmp_path / "ask.csv").write_text(f"recipe\n{rows}No such paint\n")
    assert main(["predict", "--study", str(sample), "--ask", str(tmp_path / "ask.csv"), "--json"]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert "line 3002" in said.err
