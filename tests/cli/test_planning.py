"""`culmo plan` for every kind, and `culmo order`."""

import csv
import json

import pytest

from culmo.cli.main import main
from culmo.core.chart.kinds import KIND_KEYS
from culmo.core.chart.plans import described
from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.chart.touching import neighbours
from support.builders import sample_study

EXTRA = {
    "families": ["--across", "Cobalt,Viridian"],
    "rows": ["--rows", "Rose, Lemon: 6; Rose, Sepia"],
    "free": ["--recipes", "Rose; Rose + Lemon; Lemon:3 + Rose @ tint"],
    "palette": ["--extra", "Umber"],
    "wheel": ["--rings", "full,tint,dark", "--extra", "Umber", "--cover", "--centre", "all"],
    "ladder": ["--parts", "100/75/50/25/0", "--wet"],
    "triangle": ["--steps", "6"],
}


def run(*words):
    return main([str(word) for word in words])


@pytest.fixture(scope="module")
def study(tmp_path_factory):
    return sample_study(tmp_path_factory.mktemp("demo"))


@pytest.mark.long
@pytest.mark.parametrize("kind", KIND_KEYS)
def test_each_kind_is_planned_and_ordered(tmp_path, study, capsys, kind):
    plan, done = tmp_path / "s.json", tmp_path / "o.json"
    words = [
        "--paints",
        "Lemon,Rose,Ultramarine,Ochre",
        "--paper",
        "A3",
        "--title",
        "A trial",
        *EXTRA.get(kind, []),
    ]
    if kind == "keepers":
        words += ["--study", study]
    assert run("plan", "--kind", kind, *words, "--out", plan) == 0
    data = json.loads(plan.read_text())
    pages = data.get("sheets", [data])
    assert (data["format"], data["version"], data["kind"]) == ("culmo-sheet", 1, kind)
    assert run("order", plan, "--dry-minutes", 20, "--out", done) == 0
    said = capsys.readouterr().err
    assert "rinses (row by row" in said
    ordered = json.loads(done.read_text())
    for page in ordered.get("sheets", [ordered]):
        sheet = sheet_from_dict(page)
        if not sheet.cells:
            continue
        steps = page["work"]
        assert [step["cell"] for step in steps if step["do"] == "cell"] == [
            cell.id for cell in sheet.in_order()
        ]
        at = {cell["id"]: cell["at_minute"] for cell in page["cells"]}
        for name, others in neighbours(sheet.cells).items():
            assert all(abs(at[name] - at[other]) >= 20 - 0.011 for other in others)
    for ending in ("csv", "svg", "pdf", "png"):
        assert run("plan", "--kind", kind, *words, "--out", tmp_path / f"s.{ending}") == 0
    rows = list(csv.DictReader((tmp_path / "s.csv").read_text().splitlines()))
    assert len(rows) == sum(len(page["cells"]) for page in pages)


@pytest.mark.long
def test_steps_and_hues_come_from_a_study(tmp_path, study):
    out = tmp_path / "s.json"
    words = ["--paints", "Lemon,Ultramarine", "--study", study, "--out", out]
    assert run("plan", "--kind", "ladder", "--even", "--steps", 6, *words) == 0
    even = [cell["recipe"] for cell in json.loads(out.read_text())["cells"]]
    assert run("plan", "--kind", "ladder", "--steps", 6, *words) == 0
    assert [cell["recipe"] for cell in json.loads(out.read_text())["cells"]] != even
    words[1] = "Lemon,Scarlet,Ultramarine,Viridian"
    assert run("plan", "--kind", "wheel", "--true-hues", *words) == 0
    assert len(json.loads(out.read_text())["cells"]) == 4
    words[1] = "Lemon,Rose,Phthalo blue"
    assert run("plan", "--kind", "triangle", "--steps", 6, *words) == 0
    assert "greyest" in [label["text"] for label in json.loads(out.read_text())["labels"]]


def labels_of(path):
    return {label["text"] for label in json.loads(path.read_text())["labels"]}


@pytest.mark.long
def test_labels_are_codes_where_the_study_knows_them(tmp_path, study):
    out = tmp_path / "s.json"
    words = ["--paints", "Lemon,Ultramarine,Nobody", "--labels", "code", "--out", out]
    for kind in ("grid", "triangle", "wheel", "fan"):
        assert run("plan", "--kind", kind, *words) == 0
        assert {"Ultramarine", "Nobody"} <= labels_of(out)
        words_of_study = [
            word if word != "Lemon,Ultramarine,Nobody" else "Lemon,ultramarine,Rose" for word in words
        ]
        assert run("plan", "--kind", kind, *words_of_study, "--study", study) == 0
        assert "PB29" in labels_of(out), kind
        assert not {"ultramarine", "Ultramarine"} & labels_of(out)
    assert run("plan", "--kind", "cards", "--paints", "Ultramarine", "--study", study, "--out", out) == 0
    assert {"Ultramarine", "PB29"} <= labels_of(out)


def test_both_families_are_numbered_and_none_takes_no_room(tmp_path):
    out = tmp_path / "s.json"
    words = ["--kind", "families", "--paints", "A,B", "--across", "C,D", "--out", out]
    assert run("plan", *words, "--labels", "number") == 0
    assert labels_of(out) == {"1", "2", "3", "4"}
    numbered = json.loads(out.read_text())["frame_mm"]
    assert run("plan", *words, "--labels", "none") == 0
    assert labels_of(out) == set()
    bare = json.loads(out.read_text())["frame_mm"]
    assert bare[2] * bare[3] > numbered[2] * numbered[3]


def test_every_option_of_every_kind_is_taken_and_none_is_forgotten(tmp_path, capsys):
    """What the help names is what the kinds describe, and each description makes a sheet."""
    with pytest.raises(SystemExit):
        run("plan", "--help")
    said = capsys.readouterr().out
    for name, own in described().items():
        assert f"--{own.command or name.replace('_', '-')}" in said, name
    assert run("plan", "--kind", "cards", "--paints", "A,B", "--no-lift", "--no-fade", "--per-page", "1",
               "--out", tmp_path / "c.json") == 0  # fmt: skip
    pages = json.loads((tmp_path / "c.json").read_text())["sheets"]
    assert len(pages) == 2
    assert all(len(page["cells"]) == 4 for page in pages)


def test_twelve_by_twelve_takes_few_rinses_and_little_waiting(tmp_path, capsys):
    plan, done = tmp_path / "s.json", tmp_path / "o.json"
    names = ",".join(f"Paint {i}" for i in range(12))
    assert run("plan", "--kind", "grid", "--paints", names, "--paper", "A2", "--out", plan) == 0
    assert run("order", plan, "--out", done) == 0
    work = json.loads(done.read_text())["work"]
    rinses = sum(step["do"] == "rinse" for step in work)
    cells = json.loads(plan.read_text())["cells"]
    from itertools import pairwise

    from culmo.core.chart.washes import puddle_of
    from culmo.core.paint.recipe import parse_recipe

    puddles = [puddle_of(parse_recipe(cell["recipe"])) for cell in cells]
    row_order = sum(a != b for a, b in pairwise(puddles))
    assert rinses <= 0.55 * row_order
    assert sum(step["minutes"] for step in work if step["do"] == "wait") <= 10.0


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["plan", "--kind", "ladder", "--paints", "A,B", "--parts", "a/b"], "no parts"),
        (["plan", "--kind", "ladder", "--paints", "A,B", "--steps", "0"], "Steps: 0 can not be"),
        (["plan", "--kind", "grid"], "two paints"),
        (["plan", "--kind", "wheel", "--paints", "A,B,C", "--rings", "odd"], "ring"),
        (["plan", "--kind", "wheel", "--paints", "A,B,C", "--true-hues"], "readings"),
        (["plan", "--kind", "keepers"], "--study"),
        (["plan", "--kind", "free", "--recipes", "Rose +"], "Rose +"),
        (
            ["plan", "--kind", "grid", "--paints", ",".join(f"P{i}" for i in range(40)), "--paper", "A6"],
            "fit",
        ),
        (["plan", "--kind", "grid", "--paints", "A,B", "--margin", "200"], "margin"),
        (["order", "/no/such/file.json"], "can not be read"),
    ],
)
def test_bad_calls_say_one_line_and_exit_2(capsys, words, said):
    assert run(*words) == 2
    error = capsys.readouterr().err.strip()
    assert said in error
    assert "\n" not in error
    assert "Traceback" not in error


def test_a_file_that_is_no_sheet_is_refused_by_order(tmp_path, capsys):
    for text in ("{}", "[1, 2]", '{"sheets": []}', '{"sheets": [{}]}', "no json"):
        path = tmp_path / "bad.json"
        path.write_text(text)
        assert run("order", path) == 2
        assert "Traceback" not in capsys.readouterr().err


def test_one_paint_is_one_paint(tmp_path, capsys):
    words = [
        "plan",
        "--kind",
        "grid",
        "--paints",
        "A,B",
        "--second",
        "white",
        "--out",
        str(tmp_path / "a.json"),
    ]
    assert main([*words, "--extra", "C,D"]) == 2
    assert "one paint is meant" in capsys.readouterr().err
    assert main([*words, "--extra", '"C,D"']) == 0
    cells = json.loads((tmp_path / "a.json").read_text())["cells"]
    assert "A + B + C,D" in {cell["recipe"].replace('"', "") for cell in cells}
    assert {cell.get("stage") for cell in cells} == {"pure", "mix", "white"}


def test_a_wish_that_is_refused_is_told_with_every_way_out_in_one_line(tmp_path, capsys):
    words = [
        "plan",
        "--kind",
        "grid",
        "--paints",
        "A,B,C,D,E,F",
        "--paper",
        "A4",
        "--out",
        str(tmp_path / "a.json"),
    ]
    assert main([*words, "--cell", "2 x 2 in"]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    for part in ("needs at least", "they miss by", "fit on this paper", "sheets that join"):
        assert part in said
    assert main([*words, "--cell", "30"]) == 0
    assert "is taken in millimetres" in capsys.readouterr().err


def test_the_order_knows_how_light_paints_are_by_readings(tmp_path, capsys):
    readings = tmp_path / "r.csv"
    readings.write_text(
        "recipe,ground,L,a,b\n-,paper,96,0,2\nDeep,paper,20,5,-30\nMiddle,paper,50,40,20\nPrimrose,paper,88,-5,60\n"
    )
    plan, out = tmp_path / "p.json", tmp_path / "o.json"
    assert main(["plan", "--kind", "grid", "--paints", "Deep,Middle,Primrose", "--out", str(plan)]) == 0
    assert main(["order", str(plan), "--readings", str(readings), "--out", str(out)]) == 0
    cells = sorted(json.loads(out.read_text())["cells"], key=lambda cell: cell["order"])
    assert [cell["recipe"] for cell in cells if cell.get("stage") == "pure"] == ["Primrose", "Middle", "Deep"]
