"""The command line, called as a user would."""

import csv
import json
import subprocess
import sys

import numpy as np
import pytest

from culmo.cli.main import main
from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.recipe import format_recipe, parse_recipe
from support.builders import make_study
from support.paints import make_painter
from support.spreadsheets import write_xlsx


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """Readings of eight cards and a question."""
    folder = tmp_path_factory.mktemp("cli")
    painter = make_painter(8, seed=9)
    with (folder / "r.csv").open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["recipe", "ground", "L", "a", "b"])
        for reading in painter.cards():
            L, a, b = reading.lab
            writer.writerow([format_recipe(reading.recipe), reading.ground, min(L, 100), a, b])
    names = [paint.name for paint in painter.paints]
    asked = [
        f"{names[0]} + {names[1]}",
        f"{names[2]}:2 + {names[3]} @ tint",
        names[4],
        f"{names[5]} over {names[6]}",
    ]
    with (folder / "a.csv").open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["who", "recipe"])
        writer.writerows([["me", text] for text in asked])
    return folder, painter, asked


def run(*words):
    return main([str(word) for word in words])


def test_predict(files):
    folder, painter, asked = files
    assert (
        run("predict", "--readings", folder / "r.csv", "--ask", folder / "a.csv", "--out", folder / "o.csv")
        == 0
    )
    rows = list(csv.DictReader((folder / "o.csv").read_text().splitlines()))
    assert [row["recipe"] for row in rows] == asked
    assert all(row["who"] == "me" and row["hex"].startswith("#") for row in rows)
    found = np.array([[float(row[c]) for c in "Lab"] for row in rows])
    truth = np.array([painter.mean_lab(parse_recipe(text)) for text in asked])
    assert np.median(delta_e_00(found, truth)) < 6
    assert all(0.3 < float(row["dE90"]) < 30 for row in rows)


def test_predict_to_standard_output_and_from_a_study(files, tmp_path, capsys):
    make_study(tmp_path / "s.culmo").close()
    (tmp_path / "a.csv").write_text("recipe\nRose + Lemon\n")
    assert run("predict", "--study", tmp_path / "s.culmo", "--ask", tmp_path / "a.csv") == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "recipe,L,a,b,hex,dE90"
    assert lines[1].startswith("Rose + Lemon,")


@pytest.mark.parametrize(
    ("ask", "why"),
    [
        ("recipe\nRose + Nobody\n", "Nobody"), ("recipe\nRose +\n", "line 2"), ("what\nRose\n", 'no column "recipe"'),
        ("recipe\n", "asks for nothing"), ("recipe,ground\nRose,wood\n", "wood"),
    ],
)  # fmt: skip
def test_bad_questions_get_one_clear_line(tmp_path, capsys, ask, why):
    make_study(tmp_path / "s.culmo").close()
    (tmp_path / "a.csv").write_text(ask)
    out = tmp_path / "o.csv"
    assert run("predict", "--study", tmp_path / "s.culmo", "--ask", tmp_path / "a.csv", "--out", out) == 2
    error = capsys.readouterr().err
    assert why in error
    assert len(error.splitlines()) == 1
    assert not out.exists()


@pytest.mark.parametrize("ending", [".json", ".csv", ".pdf", ".svg", ".png"])
def test_plan_writes_every_ending(tmp_path, ending):
    out = tmp_path / f"s{ending}"
    assert (
        run("plan", "--kind", "grid", "--paints", 'Rose, "Lemon, cool", Sepia', "--paper", "A4", "--out", out)
        == 0
    )
    assert out.stat().st_size > 300
    if ending == ".json":
        sheet = sheet_from_dict(json.loads(out.read_text()))
        assert [str(cell.recipe) for cell in sheet.cells][4] == "Lemon, cool"


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (["plan", "--kind", "grid", "--paints", "A"], "at least two"),
        (["plan", "--kind", "grid", "--paints", "A,B", "--paper", "1x1"], "no unit"),
        (["plan", "--kind", "grid", "--paints", "A,B", "--cell", "400"], "needs at least"),
        (["plan", "--kind", "grid", "--paints", "A,B", "--out", "x.doc"], "ending"),
        (["plan", "--kind", "grid", "--paints", "A,B", "--out", "/no/such/folder/x.pdf"], "folder"),
        (["plan", "--kind", "grid", "--paints", "A,B", "--margin", "200"], "margin"),
        (["plan", "--kind", "spiral", "--paints", "A,B"], "spiral"),
        (["check", "none.culmo"], "no study"),
        (["nonsense"], "nonsense"),
        (["predict"], "required"),
    ],
)
def test_wrong_calls_exit_2_with_one_line(words, why, capsys):
    assert run(*words) == 2
    error = capsys.readouterr().err
    assert why in error
    assert len(error.splitlines()) == 1
    assert "Traceback" not in error


def test_demo_and_check(tmp_path, capsys):
    assert run("demo", tmp_path) == 0
    path = capsys.readouterr().out.strip()
    assert run("check", path) == 0
    assert "sound (18 paints" in capsys.readouterr().out
    before = (tmp_path / "Drawer 14 (sample).culmo").read_bytes()
    (tmp_path / "broken.culmo").write_bytes(before[:3000] + b"\0" * 3000 + before[6000:])
    assert run("check", tmp_path / "broken.culmo") == 2


def test_as_a_module():
    done = subprocess.run([sys.executable, "-m", "culmo", "--version"], capture_output=True, text=True)
    assert done.stdout.startswith("culmo ")
    assert done.returncode == 0


def test_mix_and_next(files, tmp_path, capsys):
    folder, painter, _ = files
    names = [paint.name for paint in painter.paints]
    assert (
        run("mix", "--readings", folder / "r.csv", "--target", "#5a6b4c", "--count", "3", "--avoid", names[0])
        == 0
    )
    rows = list(csv.DictReader(capsys.readouterr().out.splitlines()))
    assert len(rows) == 3
    assert names[0] not in " ".join(row["recipe"] for row in rows)
    assert run("plan", "--kind", "grid", "--paints", ",".join(names[:5]), "--out", tmp_path / "s.json") == 0
    capsys.readouterr()
    assert run("next", "--readings", folder / "r.csv", "--sheet", tmp_path / "s.json", "--count", "4") == 0
    ids = capsys.readouterr().out.split()
    sheet = sheet_from_dict(json.loads((tmp_path / "s.json").read_text()))
    assert len(set(ids)) == 4
    assert all(not sheet.cell(cell_id).recipe.is_pure for cell_id in ids)
    ask = ("next", "--readings", folder / "r.csv", "--sheet", tmp_path / "s.json", "--count", "3", "--json")
    found = {}
    for about, words in (
        ("sheet", ()), ("darks", ("--darks",)), ("colour", ("--colour", "#5a6b4c")),
        ("paints", ("--paints", f"{names[1]}, {names[2].upper()}")),
    ):  # fmt: skip
        assert run(*ask, *words) == 0
        told = capsys.readouterr()
        found[about] = json.loads(told.out)
        assert found[about]["about"] == about and found[about]["at_random"] >= 3
        assert f"as good as {found[about]['at_random']} at random" in told.err
    assert all(set(names[1:3]) & set(parse_recipe(cell["recipe"]).names) for cell in found["paints"]["cells"])
    wrong = (
        (("--paints", "Nobody"), "Nobody"),
        (("--paints", " , "), "without paints"),
        (("--colour", "mud"), "mud"),
    )
    for words, why in wrong:
        assert run(*ask, *words) == 2
        assert why in capsys.readouterr().err
    assert run(*ask, "--darks", "--colour", "#5a6b4c") == 2
    assert "not allowed" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("words", "why"),
    [(["mix", "--target", "mud"], "not a colour"), (["mix", "--target", "50,0,0", "--keep", "Nobody"], "Nobody"),
     (["mix", "--target", "50,0,0", "--paints", "7"], "7 paints"), (["next", "--sheet", "none.json"], "none.json")],
)  # fmt: skip
def test_mix_and_next_called_wrongly(files, capsys, words, why):
    folder, _, _ = files
    assert run(words[0], "--readings", folder / "r.csv", *words[1:]) == 2
    error = capsys.readouterr().err
    assert why in error
    assert len(error.splitlines()) == 1


@pytest.mark.long
def test_a_long_question_streams_through(files, tmp_path):
    folder, painter, _ = files
    name, other = (paint.name for paint in painter.paints[:2])
    count = 9000
    (tmp_path / "a.csv").write_text("recipe\n" + f"{name}:3 + {other}\n" * count)
    assert (
        run(
            "predict",
            "--readings",
            folder / "r.csv",
            "--ask",
            tmp_path / "a.csv",
            "--out",
            tmp_path / "o.csv",
        )
        == 0
    )
    lines = (tmp_path / "o.csv").read_text().splitlines()
    assert len(lines) == count + 1
    assert len(set(lines[1:])) == 1


def test_a_study_with_codes_alone_can_be_asked(tmp_path, capsys):
    make_study(tmp_path / "s.culmo", cards=False).close()
    (tmp_path / "a.csv").write_text("recipe\nRose\n")
    assert run("predict", "--study", tmp_path / "s.culmo", "--ask", tmp_path / "a.csv") == 0
    row = capsys.readouterr().out.splitlines()[1].split(",")
    assert float(row[-1]) > 4


def test_a_study_goes_out_to_a_folder_and_comes_back(tmp_path, capsys):
    from culmo.core.chart.sheet import sheet_from_dict
    from culmo.study import acts
    from culmo.study.exchange import same_record
    from culmo.study.file import Study
    from support.builders import make_sheet

    with make_study(tmp_path / "a.culmo") as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        before = study.dump()
    assert run("export", tmp_path / "a.culmo", "--to", tmp_path / "open") == 0
    names = sorted(path.name for path in (tmp_path / "open" / "sheets").iterdir())
    assert names == [f"01 A grid{ending}" for ending in (".csv", ".json", ".pdf", ".png", ".svg")]
    data = json.loads((tmp_path / "open" / "sheets" / "01 A grid.json").read_text(encoding="utf-8"))
    assert len(sheet_from_dict(data).cells) == 25
    assert run("import", tmp_path / "b.culmo", tmp_path / "open") == 0
    with Study(tmp_path / "b.culmo") as again:
        assert same_record(again.dump(), before)
    sheet = tmp_path / "open" / "sheets" / "01 A grid.json"
    assert run("import", tmp_path / "b.culmo", sheet, tmp_path / "open" / "readings.gpl") == 0
    assert run("check", tmp_path / "b.culmo") == 0
    capsys.readouterr()
    for words in (
        ("export", tmp_path / "a.culmo", "--to", tmp_path / "open"),
        ("export", tmp_path / "nothing.culmo", "--to", tmp_path / "new"),
        ("import", tmp_path / "b.culmo", tmp_path / "open"),
        ("import", tmp_path / "c.txt", tmp_path / "open"),
        ("import", tmp_path / "d.culmo", tmp_path / "open", sheet),
        ("import", tmp_path / "nothing.culmo", sheet),
        ("import", tmp_path / "b.culmo", tmp_path / "no such file.csv"),
    ):
        assert run(*words) == 2
        out, err = capsys.readouterr()
        assert out == ""
        assert err.startswith("culmo: ")
        assert len(err.splitlines()) == 1


def test_a_study_is_begun_from_files(files, tmp_path, capsys):
    """Readings make a new study, whole or not at all: a file among them that can not be taken leaves none behind."""
    folder, painter, _ = files
    study = tmp_path / "new.culmo"
    (tmp_path / "bad.csv").write_text("nothing\nat all\n")
    assert run("import", "--new", study, tmp_path / "bad.csv") == 2
    assert not list(tmp_path.glob("new*"))
    assert run("import", "--new", study, folder / "r.csv", tmp_path / "bad.csv") == 2
    assert not list(tmp_path.glob("*new*"))
    assert run("import", "--new", study, folder / "r.csv") == 0
    capsys.readouterr()
    assert run("check", study) == 0
    assert f"{len(painter.cards())} readings" in capsys.readouterr().out
    assert run("import", "--new", study, folder / "r.csv") == 2
    assert "exists already" in capsys.readouterr().err
    assert run("import", "--new", tmp_path / "new.txt", folder / "r.csv") == 2
    assert not (tmp_path / "new.txt").exists()


def test_questions_may_stand_in_a_spreadsheet(files, tmp_path):
    """The same answers from a workbook as from a text, and from a text of a country with semicolons."""
    folder, _, asked = files
    answers = []
    (tmp_path / "semi.csv").write_text("who;recipe\n" + "".join(f"me;{text}\n" for text in asked))
    write_xlsx(tmp_path / "a.xlsx", P=[["who", "recipe"], *(["me", text] for text in asked)])
    for ask in (folder / "a.csv", tmp_path / "semi.csv", tmp_path / "a.xlsx"):
        assert run("predict", "--readings", folder / "r.csv", "--ask", ask, "--out", tmp_path / "o.csv") == 0
        answers.append((tmp_path / "o.csv").read_text())
    assert answers[0] == answers[1] == answers[2]
