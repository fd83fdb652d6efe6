"""Whatever is killed or fails, at whatever write: what was acknowledged is there, and nothing is half made."""

import errno
import os
import random
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from support.faulting import KILL, OPERATIONS, content, make_base

HERE = Path(__file__).parent
ERRORS = ("ENOSPC", "EIO", "ENOSPC+", "EACCES+")
SOAK = bool(os.environ.get("CULMO_SOAK"))
MOST = 100_000 if SOAK else 5


@pytest.fixture(scope="session")
def faults(tmp_path_factory):
    """The library that lies under the program."""
    if shutil.which("gcc") is None:
        pytest.skip("needs gcc to make the fault library")
    library = tmp_path_factory.mktemp("faults") / "faults.so"
    subprocess.run(
        ["gcc", "-shared", "-fPIC", "-O1", "-o", library, HERE / "support" / "faults.c", "-ldl"], check=True
    )
    return library


def run(faults, folder, name, how):
    """How many cases were tried, killed, told and done."""
    done = subprocess.run(
        [sys.executable, "-m", "support.faulting", name, how, str(MOST), "1", folder],
        cwd=HERE, env={**os.environ, "LD_PRELOAD": str(faults)}, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-4000:]
    return [int(word) for word in done.stdout.split()]


@pytest.mark.long
@pytest.mark.parametrize("name", OPERATIONS)
def test_killed_at_any_write_nothing_is_lost_or_half_made(faults, tmp_path, name):
    tried, killed, told, done = run(faults, tmp_path, name, KILL)
    assert tried == killed > 3
    assert told == done == 0


# each error with each operation by `make soak`; in the suite a third of them
FAILING = [
    (name, how)
    for i, name in enumerate(OPERATIONS)
    for j, how in enumerate(ERRORS)
    if SOAK or (i + j) % 3 == 0
]


@pytest.mark.long
@pytest.mark.parametrize(("name", "how"), FAILING)
def test_what_fails_is_told_truly_and_nothing_is_half_made(faults, tmp_path, name, how):
    tried, killed, told, done = run(faults, tmp_path, name, how)
    assert killed == 0
    assert told + done == tried > 3
    assert told


def in_window(faults, base, work, how, at):
    """The window at work with a fault at one call: what it said, how it ended, and the calls counted."""
    shutil.rmtree(work, ignore_errors=True)
    shutil.copytree(base, work)
    log = work.with_name("calls")
    log.unlink(missing_ok=True)
    env = {
        **os.environ, "LD_PRELOAD": str(faults), "FAULT_FOLDER": str(work), "FAULT_AT": str(at), "FAULT_HOW": str(how),
        "FAULT_LOG": str(log), "XDG_DATA_HOME": str(work.with_name("data")),
    }  # fmt: skip
    words = [sys.executable, "-m", "support.faulting_window", str(work)]
    done = subprocess.run(words, cwd=HERE, env=env, capture_output=True, text=True, check=False)
    assert "Traceback" not in done.stderr, done.stderr[-3000:]
    return done.stdout.splitlines(), done.returncode, log.stat().st_size if log.exists() else 0


@pytest.mark.long
@pytest.mark.parametrize("how", [-1, errno.ENOSPC, errno.EIO], ids=["kill", "ENOSPC", "EIO"])
def test_acts_of_the_window_are_there_if_it_said_so(faults, tmp_path, how):
    make_base(tmp_path / "base")
    work = tmp_path / "work"
    said, _, count = in_window(faults, tmp_path / "base", work, 0, 0)
    assert said[-1] == "closed" and count > 50
    rng = random.Random(how)
    points = range(1, count + 1) if SOAK else sorted(rng.sample(range(1, count + 1), 3))
    for at in points:
        said, ended, _ = in_window(faults, tmp_path / "base", work, how, at)
        assert ended == (-signal.SIGKILL if how < 0 else 0), (at, ended)
        notes = [row["text"] for row in content(work / "one.culmo")["notes"]][2:]
        saved = [line.removeprefix("saved ") for line in said if line.startswith("saved ")]
        assert [text for text in notes if text in saved] == saved, (at, said, notes)
        assert len(notes) <= len(saved) + (how < 0)


@pytest.mark.long
@pytest.mark.parametrize("seed", range(1, 6) if SOAK else (6,))
def test_sound_and_absurd_studies_are_refused_in_words_or_shown(tmp_path, seed):
    count = 100 if SOAK else 1
    done = subprocess.run(
        [sys.executable, "-m", "support.absurd", str(count), str(seed), tmp_path],
        cwd=HERE, capture_output=True, text=True, check=False, timeout=300 * count,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-4000:]
    refused, shown, longest = (float(word) for word in done.stdout.split())
    assert refused + shown == count
    assert longest < 60


@pytest.mark.long
@pytest.mark.parametrize("language", ["en", "de"])
def test_a_hand_over_every_action_makes_no_mistake_of_the_program(tmp_path, language):
    seconds = 600 if SOAK else 8
    done = subprocess.run(
        [sys.executable, "-m", "support.wild", language, str(seconds), "1", tmp_path],
        cwd=HERE, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-4000:]
    steps, windows, _ = (int(word) for word in done.stdout.split())
    assert steps > 20 and windows
