"""What comes from outside is told by what it is, at once: pipes, devices, folders, endless files, names that are no text."""

import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.cgats import read_cgats
from culmo.study.exchange import read_json, study_from_folder
from culmo.study.file import Study
from culmo.study.incoming import bring_in
from culmo.study.inspection import inspect
from culmo.study.paint_lists import paint_tables
from culmo.study.palette_files import read_gpl
from culmo.study.pictures import open_photo
from culmo.study.recovery import recover
from culmo.study.restoring import put_back
from culmo.study.tables import read_readings
from culmo.study.whole_file import whole_file
from support.builders import make_study
from support.patience import LONG_S


@pytest.fixture
def odd(tmp_path):
    """Things that are no files, or not only that, each under every ending."""
    folder = tmp_path / "odd"
    folder.mkdir()
    found = {}
    for ending in (".culmo", ".csv", ".json", ".gpl", ".txt", ".xlsx", ".ods", ".jpg"):
        pipe, inside = folder / f"pipe{ending}", folder / f"folder{ending}"
        os.mkfifo(pipe)
        inside.mkdir()
        zero, loop, gone = (folder / f"{name}{ending}" for name in ("zero", "loop", "gone"))
        zero.symlink_to("/dev/zero")
        loop.symlink_to(loop)
        gone.symlink_to("nowhere")
        found[ending] = [
            pipe,
            inside,
            zero,
            loop,
            gone,
            folder / f"none{ending}",
            folder / f"{'x' * 300}{ending}",
        ]
        strange = Path(os.fsdecode(os.fsencode(folder) + b"/\xff\xfe" + ending.encode()))
        strange.write_bytes(b"x")
        found[ending] += [strange, folder / f"nul\0{ending}"]
    listening = socket.socket(socket.AF_UNIX)
    os.chdir(folder)
    listening.bind("socket.jpg")
    found[".jpg"].append(folder / "socket.jpg")
    yield found
    listening.close()
    os.chdir("/")


def quick(act):
    """That it is refused in words, and soon."""
    started = time.monotonic()
    with pytest.raises(CulmoError) as caught:
        act()
    assert time.monotonic() - started < 2.0
    assert str(caught.value).encode("utf-8")  # it can be printed and shown


def test_every_door_refuses_what_is_no_file(odd, tmp_path, study):
    ways = {
        ".culmo": (
            Study, inspect, lambda path: recover(path, tmp_path / "new.culmo"),
            lambda path: put_back(tmp_path / "there.culmo", path),
        ),
        ".csv": (read_readings, paint_tables),
        ".json": (read_json, lambda path: study_from_folder(path, tmp_path / "n.culmo")),
        ".gpl": (read_gpl,), ".txt": (read_cgats,), ".xlsx": (paint_tables,), ".ods": (paint_tables,), ".jpg": (open_photo,),
    }  # fmt: skip
    for ending, doors_of_kind in ways.items():
        for path in odd[ending]:
            for way in doors_of_kind:
                quick(lambda way=way, path=path: way(path))
            if ending not in (".culmo", ".jpg"):
                quick(lambda path=path: bring_in(study, path, lambda _: None))
    assert not list(tmp_path.glob("*.culmo.part"))


def test_a_study_with_such_a_thing_beside_it_is_not_waited_for(tmp_path):
    path = tmp_path / "mine.culmo"
    make_study(path).close()
    os.mkfifo(tmp_path / "mine.culmo-journal")
    quick(lambda: Study(path))
    quick(lambda: inspect(path))


def test_an_endless_file_is_read_no_further_than_allowed():
    quick(lambda: doors.read_file(Path("/proc/self/mem"), 1000))
    quick(lambda: doors.read_file(Path("/dev/zero"), 1000))
    assert len(doors.read_file(Path("/proc/self/status"), 100_000)) > 100


def test_nothing_is_written_over_what_is_no_file(odd, study):
    for path in (odd[".csv"][0], odd[".csv"][1], odd[".csv"][2], odd[".csv"][7], study.path):
        quick(lambda path=path: whole_file(path).__enter__())


@pytest.mark.long
@pytest.mark.parametrize("name", ["pipe.culmo", "zero.culmo", "folder.culmo"])
def test_the_commands_say_one_line_of_it(odd, name):
    for words in (["check", name], ["export", name, "--to", "out"], [f"import={name}", "folder.csv"]):
        command = [sys.executable, "-m", "culmo", *words]
        if words[0].startswith("import="):
            command = [sys.executable, "-m", "culmo", "import", name, "pipe.csv"]
        done = subprocess.run(command, capture_output=True, timeout=LONG_S, check=False)
        assert done.returncode == 2
        assert len(done.stderr.splitlines()) == 1 and done.stderr.startswith(b"culmo: ")


def test_a_name_that_is_no_text_is_told_by_the_commands(odd):
    name = b"\xff\xfe.culmo"
    done = subprocess.run(
        [sys.executable, "-m", "culmo", "check", os.fsdecode(name)],
        capture_output=True,
        timeout=LONG_S,
        check=False,
    )
    assert done.returncode == 2
    assert b"not UTF-8" in done.stderr and b"Traceback" not in done.stderr
