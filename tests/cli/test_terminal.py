"""The commands at a terminal: what is piped, stopped, refused by the disk, completed by the shell, and said."""

import io
import json
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from culmo import log
from culmo.cli import commands
from culmo.cli.completion import SHELLS, script
from culmo.cli.main import main
from culmo.cli.parser import build_parser
from culmo.study import records
from culmo.study.file import Study
from support.builders import make_study
from support.patience import LONG_S

READINGS = "recipe,ground,L,a,b\n,paper,96,0,2\nLemon,paper,88,-8,80\nRose,paper,50,65,10\nLemon + Rose,paper,60,50,40\n"
OTHER_PAINT = "recipe,ground,L,a,b\nLemon:2 + Rose,paper,65,40,50\n"


def run(*words):
    return main([str(word) for word in words])


@pytest.fixture
def readings(tmp_path):
    """Two paints and a mix."""
    path = tmp_path / "r.csv"
    path.write_text(READINGS)
    return path


def piped(monkeypatch, data):
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(data)))


def called(*words, **how):
    return subprocess.Popen(
        [sys.executable, "-m", "culmo", *map(str, words)],
        stdin=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, **how,
    )  # fmt: skip


# ---- standard input and output


def test_a_line_is_standard_input_and_output(readings, monkeypatch, capsys):
    piped(monkeypatch, READINGS.encode())
    assert run("mix", "--readings", "-", "--target", "60,50,40", "-o", "-", "-q") == 0
    from_pipe = capsys.readouterr()
    assert run("mix", "--readings", readings, "--target", "60,50,40") == 0
    assert capsys.readouterr().out == from_pipe.out
    assert from_pipe.err == ""


def test_a_sheet_goes_from_one_command_to_the_next(monkeypatch, capsys):
    assert run("plan", "--kind", "grid", "--paints", "Lemon,Rose,Smalt") == 0
    sheet = capsys.readouterr().out
    piped(monkeypatch, sheet.encode())
    assert run("order", "-") == 0
    ordered = json.loads(capsys.readouterr().out)
    assert ordered["format"] == "culmo-sheet" and ordered["work"]


@pytest.mark.parametrize(
    ("data", "came"),
    [
        (READINGS.encode(), "3 readings"),  # without bare paper, see below
        (b"GIMP Palette\nName: x\nColumns: 1\n#\n 10  20  30\tgrey\n", "1 wanted colour"),
        (b"name,codes\nSmalt,PB32\n", "1 paint"),
    ],
)
def test_what_comes_by_standard_input_is_known_by_what_it_holds(tmp_path, monkeypatch, capsys, data, came):
    piped(monkeypatch, data)
    assert run("import", tmp_path / "new.culmo", "-", "--new") == 0
    out = capsys.readouterr().out
    assert came in out or came.replace("3", "4") in out


def test_a_workbook_comes_by_standard_input(tmp_path, monkeypatch, capsys):
    from support.spreadsheets import write_xlsx

    write_xlsx(tmp_path / "r.xlsx", Readings=[line.split(",") for line in READINGS.splitlines()])
    piped(monkeypatch, (tmp_path / "r.xlsx").read_bytes())
    assert run("mix", "--readings", "-", "--target", "60,50,40", "--json") == 0
    assert json.loads(capsys.readouterr().out)["mixes"]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("predict", "--readings", "-", "--ask", "-"), "given twice"),
        (("check", "-"), "needs a name"),
        (("export", "-", "--to", "x"), "needs a name"),
        (("mix", "--study", "-", "--target", "#445566"), "needs a name"),
    ],
)
def test_what_can_not_come_by_standard_input_is_said(words, said, monkeypatch, capsys):
    piped(monkeypatch, b"")
    assert run(*words) == 2
    told = capsys.readouterr().err
    assert said in told and told.count("\n") == 1


@pytest.mark.parametrize("words", [("completion", "bash"), ("plan", "--kind", "grid", "--paints", "A,B")])
def test_a_full_disk_is_one_line_and_2(words):
    with Path("/dev/full").open("w") as full:
        process = called(*words, stdout=full)
        _, told = process.communicate(timeout=LONG_S)
    assert process.returncode == 2
    assert told == "culmo: standard output can not be written (No space left on device)\n"


def test_who_reads_no_more_is_no_failure():
    process = called("completion", "zsh", stdout=subprocess.PIPE)
    process.stdout.close()
    process.stdout = None
    _, told = process.communicate(timeout=LONG_S)
    assert (process.returncode, told) == (0, "")


# ---- stopped


def test_ctrl_c_is_one_line_and_130():
    asks = [sys.executable, "-m", "culmo", "order", "-"]  # it waits for a sheet that never comes
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.DEVNULL, "stderr": subprocess.PIPE}
    # what runs in the background of a shell does not hear of Ctrl+C, and its children neither
    hear = {"preexec_fn": lambda: signal.signal(signal.SIGINT, signal.SIG_DFL)}
    with subprocess.Popen(asks, text=True, **pipes, **hear) as process:
        time.sleep(3.0)
        process.send_signal(signal.SIGINT)
        told = process.stderr.read()
    assert (process.returncode, told) == (130, "culmo: stopped\n")


def test_a_command_that_is_stopped_leaves_no_part_of_its_result(readings, monkeypatch, capsys):
    def stop(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr("culmo.cli.weighing.write_rows", stop)
    out = readings.with_name("o.csv")
    assert run("mix", "--readings", readings, "--target", "60,50,40", "-o", out) == 130
    assert sorted(path.name for path in readings.parent.iterdir()) == ["r.csv"]


# ---- no display


@pytest.mark.parametrize(
    ("there", "said"),
    [({}, "there is no display"), ({"DISPLAY": ":7741"}, 'the display ":7741" can not be reached')],
)
def test_without_a_display_the_window_is_one_line_and_2(there, said):
    bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    process = called(stdout=subprocess.PIPE, env={**bare, **there, "LANG": "C.UTF-8"})
    out, told = process.communicate(timeout=LONG_S)
    assert process.returncode == 2 and out == ""
    assert said in told and told.count("\n") == 1


def test_drawings_need_no_display(tmp_path):
    wished = {**os.environ, "QT_QPA_PLATFORM": "xcb", "DISPLAY": ":7741"}
    process = called("plan", "--kind", "grid", "--paints", "A,B", "-o", tmp_path / "g.pdf", env=wished)
    process.communicate(timeout=LONG_S)
    assert process.returncode == 0
    assert (tmp_path / "g.pdf").read_bytes().startswith(b"%PDF")


def test_two_studies_are_one_too_many(capsys):
    assert run("a.culmo", "b.culmo") == 2
    assert 'one study; "b.culmo"' in capsys.readouterr().err


# ---- before any work, and after a failure


def test_what_can_not_be_written_is_said_before_anything_is_learned(readings, monkeypatch, capsys):
    monkeypatch.setattr("culmo.cli.loading.load_source", lambda *_: pytest.fail("work was begun"))
    asks = ("mix", "--readings", readings, "--target", "60,50,40")
    for out, said in (
        (readings.parent, "it is a folder"),
        (readings.parent / "no" / "o.csv", "no such folder"),
    ):
        assert run(*asks, "-o", out) == 2
        assert said in capsys.readouterr().err
    for wrong in (("--paints", "9"), ("--count", "0")):
        assert run(*asks, *wrong) == 2


def test_of_several_files_all_are_taken_in_or_none(tmp_path, readings, capsys):
    make_study(tmp_path / "five.culmo").close()
    (tmp_path / "more.csv").write_text(OTHER_PAINT)
    (tmp_path / "bad.json").write_text("{")
    with Study(tmp_path / "five.culmo") as study:
        before = study.dump()
    assert run("import", tmp_path / "five.culmo", readings, tmp_path / "more.csv", tmp_path / "bad.json") == 2
    told = capsys.readouterr()
    assert "nothing was taken in" in told.out and "bad.json" in told.err
    with Study(tmp_path / "five.culmo") as study:
        assert study.dump() == before
    assert run("import", tmp_path / "five.culmo", readings, tmp_path / "more.csv") == 0
    with Study(tmp_path / "five.culmo") as study:
        assert len(records.reading_rows(study)) > len(before["readings"])


def test_a_mistake_of_culmo_is_one_line_and_in_the_log_without_the_words_of_the_study(monkeypatch, capsys):
    def fail(_):
        raise LookupError("Grandmother's rose")

    monkeypatch.setattr(commands, "run_check", fail)
    assert run("check", "x.culmo") == 1
    told = capsys.readouterr().err
    assert told.count("\n") == 1 and "not yours" in told and str(log.path()) in told
    logged = log.path().read_text()
    assert "LookupError" in logged and "test_terminal.py" in logged and "Grandmother" not in logged
    assert str(Path.home()) not in logged
    assert run("check", "x.culmo", "-v") == 1
    assert "Traceback" in capsys.readouterr().err


def test_the_log_begins_anew_when_it_is_long():
    log.begin()
    for _ in range(4000):
        log._LOGGER.error("x" * 200)
    sizes = [path.stat().st_size for path in log.path().parent.iterdir()]
    assert len(sizes) == 3 and max(sizes) <= 256 * 1024
    assert "Culmo " in log.report() and len(log.tail().splitlines()) == 60


def test_more_and_less_is_said_as_wished(readings, capsys):
    asks = ("mix", "--readings", readings, "--target", "10,80,-90")
    assert run(*asks) == 0
    assert "out of reach" in capsys.readouterr().err
    assert run(*asks, "-q") == 0
    assert capsys.readouterr().err == ""
    assert run(*asks, "-v") == 0
    assert "learned 2 paints from" in capsys.readouterr().err


# ---- JSON


def test_the_same_as_json(tmp_path, readings, capsys):
    assert run("mix", "--readings", readings, "--target", "60,50,40", "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert run("mix", "--readings", readings, "--target", "60,50,40") == 0
    rows = capsys.readouterr().out.splitlines()[1:]
    assert [mix["recipe"] for mix in found["mixes"]] == [row.split(",")[0].strip('"') for row in rows]
    assert sum(mix["safest"] for mix in found["mixes"]) == 1

    ask = tmp_path / "a.csv"
    ask.write_text("who,recipe\nme,Lemon\nyou,Rose:2 + Lemon @ tint\n")
    assert run("predict", "--readings", readings, "--ask", ask, "--json") == 0
    found = json.loads(capsys.readouterr().out)
    assert [colour["who"] for colour in found["colours"]] == ["me", "you"]
    assert abs(found["colours"][0]["lab"][0] - 88.0) < 6.0

    asks = ("compare", "--readings", readings, "--palette", "Lemon,Rose", "--palette", "Rose")
    assert run(*asks, "--json") == 0
    two, one = json.loads(capsys.readouterr().out)["palettes"]
    assert two["reach"] > one["reach"] and one["only"] == 0 and two["only"] > 0

    sheet = tmp_path / "s.json"
    assert run("plan", "--kind", "grid", "--paints", "Lemon,Rose", "-o", sheet) == 0
    capsys.readouterr()
    assert run("next", "--readings", readings, "--sheet", sheet, "--count", "2") == 0
    plain = capsys.readouterr().out.split()
    assert run("next", "--readings", readings, "--sheet", sheet, "--count", "2", "--json") == 0
    assert [cell["cell"] for cell in json.loads(capsys.readouterr().out)["cells"]] == plain


# ---- completion


def completed(shell, words, folder):
    """What a shell itself offers after some words."""
    text = script(build_parser(), shell)
    if shell == "bash":
        typed = " ".join(f"'{word}'" for word in words)
        line = (
            f"COMP_WORDS=({typed}); COMP_CWORD={len(words) - 1}; _culmo; printf '%s\\n' \"${{COMPREPLY[@]}}\""
        )
        call = ["bash", "--norc", "-c", f"{text}\n{line}"]
    else:
        call = ["fish", "--no-config", "-c", f"{text}\ncomplete -C '{' '.join(words)}'"]
    done = subprocess.run(call, cwd=folder, capture_output=True, text=True, check=True, timeout=LONG_S)
    return [line.split("\t")[0] for line in done.stdout.splitlines() if line]


@pytest.mark.parametrize("shell", ["bash", "fish"])
def test_the_shell_completes_commands_options_choices_and_files(tmp_path, shell):
    if shutil.which(shell) is None:
        pytest.skip(f"no {shell} here")
    (tmp_path / "mine.culmo").touch()
    (tmp_path / "table.csv").touch()
    assert completed(shell, ("culmo", "comp"), tmp_path) == ["compare", "completion"]
    assert "mine.culmo" in completed(shell, ("culmo", "mi"), tmp_path)
    assert set(completed(shell, ("culmo", "plan", "--kee"), tmp_path)) <= {"--keepers"}
    assert "--target" in completed(shell, ("culmo", "mix", "--t"), tmp_path)
    assert completed(shell, ("culmo", "completion", "z"), tmp_path) == ["zsh"]
    assert "with" in completed(shell, ("culmo", "choose", "--white", "w"), tmp_path)
    assert "mine.culmo" in completed(shell, ("culmo", "mix", "--study", "m"), tmp_path)
    assert "table.csv" in completed(shell, ("culmo", "predict", "--ask", "t"), tmp_path)


@pytest.mark.parametrize("shell", SHELLS)
def test_every_shell_reads_its_script_without_complaint(tmp_path, shell):
    if shutil.which(shell) is None:
        pytest.skip(f"no {shell} here")
    path = tmp_path / "script"
    assert run("completion", shell, "-o", path) == 0
    done = subprocess.run(
        [shell, "-n", str(path)], capture_output=True, text=True, check=False, timeout=LONG_S
    )
    assert (done.returncode, done.stderr) == (0, "")
    for command in build_parser()._subparsers._group_actions[0].choices:
        assert command in path.read_text()
