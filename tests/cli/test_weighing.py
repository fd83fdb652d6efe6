"""`culmo mix`, `choose` and `compare`: what they answer, and how they refuse."""

import csv
import io
import json

import numpy as np
import pytest

from culmo.cli.main import main
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.recipe import parse_recipe
from culmo.study.tables import write_rows
from support.builders import sample_study
from support.paints import make_painter


@pytest.fixture(scope="module")
def cards(tmp_path_factory):
    """The cards of eight paints as a readings file."""
    painter = make_painter(8, 4)
    rows = [
        (f'"{r.recipe.names[0]}"' + ("" if r.recipe.layers[0].wash == 1.0 else " @ tint"), r.ground, *r.lab)
        for r in painter.cards() if r.recipe.names
    ]  # fmt: skip
    path = tmp_path_factory.mktemp("cards") / "cards.csv"
    path.write_text(write_rows(["recipe", "ground", "L", "a", "b"], rows), encoding="utf-8")
    return path, [paint.name for paint in painter.paints]


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    return sample_study(tmp_path_factory.mktemp("demo"))


def run(capsys, *words):
    code = main([str(word) for word in words])
    out, err = capsys.readouterr()
    return code, out, err


def test_mix_tells_recipes_with_their_differences(cards, capsys):
    path, names = cards
    code, out, _ = run(
        capsys, "mix", "--readings", path, "--target", "50, -20, 10", "--count", 4, "--avoid", names[0]
    )
    assert code == 0
    rows = list(csv.DictReader(io.StringIO(out)))
    assert len(rows) == 4
    away = [float(row["difference"]) for row in rows]
    assert away == sorted(away)
    for row in rows:
        recipe = parse_recipe(row["recipe"].removeprefix("'"))
        assert names[0] not in recipe.names
        lab = np.array([float(row[c]) for c in "Lab"])
        assert float(row["difference"]) == pytest.approx(
            float(delta_e_00(lab, np.array([50.0, -20, 10]))), abs=0.02
        )
        assert delta_e_00(lab_from_text(row["hex"]), lab) < 1.0
        assert float(row["expected"]) >= float(row["difference"]) - 0.01
    assert [row["note"] for row in rows].count("safest") == 1
    safest = next(float(row["expected"]) for row in rows if row["note"])
    assert safest == min(float(row["expected"]) for row in rows)


def test_mix_says_when_a_colour_is_out_of_reach(cards, capsys):
    code, out, err = run(capsys, "mix", "--readings", cards[0], "--target", "#00ff00")
    assert code == 0
    assert "out of reach" in err
    assert len(out.splitlines()) > 1


def test_choose_tells_the_best_of_a_size_and_keeps_conditions(cards, capsys, tmp_path):
    path, names = cards
    out_path = tmp_path / "c.json"
    code, _, _ = run(
        capsys, "choose", "--readings", path, "--size", 4, "--keep", names[2], "--avoid", names[5], "--count", 50,
        "--out", out_path,
    )  # fmt: skip
    assert code == 0
    found = json.loads(out_path.read_text(encoding="utf-8"))
    assert found["proven"]
    assert found["all_within_listed"]
    assert found["found_within"] == len(found["palettes"])
    assert "told apart at a difference of 4" in found["measure"]
    reach = [palette["reach"] for palette in found["palettes"]]
    assert reach == sorted(reach, reverse=True)
    assert found["bound"] == pytest.approx(reach[0], abs=1e-4)
    assert reach[-1] >= reach[0] - 0.0101
    for palette in found["palettes"]:
        assert names[2] in palette["paints"]
        assert names[5] not in palette["paints"]
        assert len(palette["paints"]) == 4
        assert set(palette["without"]) == set(palette["paints"])
        assert all(change <= 1e-6 for change in palette["without"].values())
    code, out, _ = run(capsys, "choose", "--readings", path, "--size", 5, "--seconds", 0)
    hurried = json.loads(out)
    assert not hurried["proven"]
    assert hurried["bound"] >= hurried["palettes"][0]["reach"]


def test_choose_for_targets_names_what_is_missed(cards, capsys, tmp_path):
    path, _ = cards
    first = next(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    own = ",".join(first[column] for column in "Lab")  # what a paint of the box looks like can be reached
    targets = tmp_path / "t.csv"
    targets.write_text(f"name,L,a,b,hex\nneon,,,,#00ff00\nown,{own},\nwrong,,,,#12\n", encoding="utf-8")
    code, out, err = run(capsys, "choose", "--readings", path, "--size", 3, "--targets", targets)
    assert code == 0
    assert "line 4" in err
    best = json.loads(out)["palettes"][0]
    assert (best["hit"], best["of"]) == (1, 2)
    assert [missed["name"] for missed in best["missed"]] == ["neon"]
    assert best["missed"][0]["difference"] > 4.0


def test_compare_puts_palettes_side_by_side(cards, capsys):
    path, names = cards
    two = (",".join(names[:3]), ", ".join(names[2:6]).upper())
    code, out, err = run(capsys, "compare", "--readings", path, "--palette", two[0], "--palette", two[1])
    assert code == 0
    assert "at nine washes" in err
    rows = {row[0]: row[1:] for row in csv.reader(io.StringIO(out))}
    assert rows["what"] == [", ".join(names[:3]), ", ".join(names[2:6])]
    assert rows["paints"] == ["3", "4"]
    assert all(0.0 < float(value) < 1.0 for value in rows["reach"])
    assert rows["only palette 1"][1] == ""
    assert int(rows["only palette 1"][0]) > 0


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("choose", "--size", "30"), "the box has 8"),
        (("choose", "--size", "0"), "least is 1"),
        (("choose", "--size", "3", "--keep", "Nobody"), "no such paint"),
        (("choose", "--size", "3", "--lightfast"), 'without "only lightfast"'),
        (("choose", "--size", "3", "--tolerance", "0"), "from 1 to 20"),
        (("choose", "--size", "3", "--count", "0"), "at least one"),
        (("choose", "--size", "3", "--within", "nan"), "from 0 to 100"),
        (("choose", "--size", "3", "--within", "-5"), "from 0 to 100"),
        (("choose", "--size", "3", "--seconds", "nan"), "no time"),
        (("choose", "--size", "3", "--targets", "nothing.csv"), "can not be read"),
        (("compare", "--palette", "Nobody"), "there is no paint"),
        (("compare", "--palette", " , "), "without paints"),
        (("mix", "--target", "green"), "is not a colour"),
        (("mix", "--target", "#336699", "--paints", "9"), "1, 2 or 3"),
    ],
)
def test_wrong_calls_are_one_line_and_exit_2(cards, capsys, words, said):
    code, out, err = run(capsys, words[0], "--readings", cards[0], *words[1:])
    assert code == 2
    assert out == ""
    assert said in err
    assert len([line for line in err.splitlines() if line.startswith("culmo:")]) == 1


def test_without_readings_typical_appearances_serve_and_it_is_said(tmp_path, capsys):
    from support.builders import make_study

    make_study(tmp_path / "bare.culmo", cards=False).close()
    code, out, err = run(capsys, "mix", "--study", tmp_path / "bare.culmo", "--target", "#3344aa")
    assert code == 0
    assert "typical appearances" in err
    assert len(out.splitlines()) > 1


# ---- the questions of the sample study, by command


def test_which_six_of_eighteen_and_what_does_the_seventh_add(demo, capsys):
    answers = {}
    for size in (6, 7):
        code, out, _ = run(capsys, "choose", "--study", demo, "--size", size)
        assert code == 0
        answers[size] = json.loads(out)
    assert all(answer["proven"] for answer in answers.values())
    six, seven = (answers[size]["palettes"][0] for size in (6, 7))
    assert len(six["paints"]) == 6
    assert seven["reach"] > six["reach"] > 0.9
    # the paints that are only considered are not chosen from
    assert not {"Coral", "Indigo", "Moth gold"} & set(six["paints"])
    assert max(six["with"].values()) <= seven["reach"] - six["reach"] + 1e-4


def test_a_paint_that_is_only_considered_is_not_mixed_from(demo, capsys):
    code, _, err = run(capsys, "mix", "--study", demo, "--target", "#808080", "--keep", "Coral")
    assert code == 2
    assert "only considered" in err


def test_which_two_are_alike_and_which_pair_gives_a_neutral_grey(demo, capsys):
    from culmo.demo.paints import PAINTS

    everyone = ",".join(paint.name for paint in PAINTS)
    code, out, _ = run(capsys, "compare", "--study", demo, "--palette", everyone)
    assert code == 0
    rows = {row[0]: row[1] for row in csv.reader(io.StringIO(out))}
    assert rows["reach"] == "1.0000"
    assert " and " in rows["most alike"]
    assert 0.0 < float(rows["most alike"].rsplit("(", 1)[1].rstrip(")")) < 25.0
    assert float(rows["greyest pair"].rsplit("(", 1)[1].rstrip(")")) < 3.0
    # the same question to mix: a grey of two paints
    code, out, _ = run(
        capsys, "mix", "--study", demo, "--target", "55,0,0", "--paints", 2, "--avoid", "Neutral"
    )
    assert code == 0
    row = next(csv.DictReader(io.StringIO(out)))
    assert len(parse_recipe(row["recipe"].removeprefix("'")).names) == 2
    assert float(row["difference"]) < 3.0


def test_how_the_beetles_green_is_mixed(demo, capsys):
    from culmo.study.file import Study
    from culmo.study.palette_acts import wanted_lists

    with Study(demo) as study:
        green = next(c for c in wanted_lists(study)["Beetle plate"] if c.name == "beetle's green")
    target = ",".join(f"{value:.1f}" for value in green.lab)
    code, out, _ = run(capsys, "mix", "--study", demo, "--target", target)
    assert code == 0
    first = next(csv.DictReader(io.StringIO(out)))
    assert float(first["difference"]) < 1.0


def test_a_box_of_the_study_is_mixed_and_chosen_from(demo, capsys):
    code, out, _ = run(
        capsys, "mix", "--study", demo, "--box", "travelling BOX", "--target", "#5a6b4c", "--count", 8
    )
    assert code == 0
    eight = {"Lemon", "Yellow", "Scarlet", "Rose", "Ultramarine", "Phthalo blue", "Burnt sienna", "Neutral"}
    used = {name for row in csv.DictReader(io.StringIO(out)) for name in parse_recipe(row["recipe"]).names}
    assert used <= eight
    code, out, _ = run(
        capsys, "choose", "--study", demo, "--box", "Travelling box", "--size", 8, "--count", 1
    )
    assert code == 0 and set(json.loads(out)["palettes"][0]["paints"]) == eight
    code, out, _ = run(
        capsys, "compare", "--study", demo, "--box", "Travelling box", "--palette", "Lemon,Rose,Umber"
    )
    assert code == 2


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (("--box", "Nobody's"), 'there is no box "Nobody\'s"; there are: "Studio box", "Travelling box"'),
        (("--box", "Travelling box", "--keep", "Viridian"), "it is not mixed from"),
    ],
)
def test_a_box_that_is_not_there_is_told(demo, capsys, more, words):
    code, _, err = run(capsys, "mix", "--study", demo, "--target", "#5a6b4c", *more)
    assert code == 2 and words in err


def test_a_file_of_readings_knows_no_boxes(cards, capsys):
    code, _, err = run(capsys, "mix", "--readings", cards[0], "--box", "A", "--target", "#5a6b4c")
    assert code == 2 and "goes with --study" in err


def test_at_a_terminal_one_sees_how_far_it_is_and_the_line_is_cleared(demo, capsys, monkeypatch):
    import sys

    from culmo.cli import output

    monkeypatch.setattr(output, "_PATIENCE_S", 0.0)
    monkeypatch.setattr(sys.stderr, "isatty", lambda: True, raising=False)
    code, out, err = run(capsys, "choose", "--study", demo, "--size", 4, "--count", 1)
    assert code == 0
    json.loads(out)  # what is written is not touched by it
    shown = [line for line in err.split("\r") if "%" in line]
    assert any("learning" in line for line in shown) and any("looking for the best" in line for line in shown)
    assert err.endswith("\r\x1b[K")
    monkeypatch.setattr(sys.stderr, "isatty", lambda: False, raising=False)
    assert "%" not in run(capsys, "choose", "--study", demo, "--size", 4, "--count", 1)[2]


def test_suggestions_of_choose_keep_to_its_conditions(demo, capsys):
    code, out, _ = run(
        capsys,
        "choose",
        "--study",
        demo,
        "--size",
        5,
        "--keep",
        "Rose",
        "--avoid",
        "Umber",
        "--avoid",
        "Neutral",
        "--count",
        3,
    )
    assert code == 0
    for palette in json.loads(out)["palettes"]:
        assert all(
            swap["out"] != "Rose" and swap["in"] not in ("Umber", "Neutral") for swap in palette["swaps"]
        )
        assert not {"Umber", "Neutral"} & set(palette["with"])
        assert palette["swaps"]
