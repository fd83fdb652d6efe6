"""The main paths in every language, at every size that is promised: the same acts can be done, and nothing is cut."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from support.builders import sample_study
from support.patience import LONG_S

pytestmark = pytest.mark.long

TESTS = Path(__file__).parents[1]
# (language, width, height, text in per cent, scale of the screen)
ENGLISH = ("en", 1280, 800, 100, "1")
OTHERS = [("de", 1024, 700, 130, "1"), ("de", 1280, 720, 100, "2"), ("pseudo", 1280, 800, 100, "1")]


def walked(folder, language, width, height, text, scale):
    study = Path(shutil.copy(sample_study(folder), folder / "s.culmo"))
    done = subprocess.run(
        [sys.executable, "-m", "support.paths", language, study, folder, str(width), str(height), str(text)],
        capture_output=True, text=True, cwd=TESTS, check=False, timeout=LONG_S,
        env={
            **os.environ, "QT_SCALE_FACTOR": scale, "HOME": str(folder), "XDG_DATA_HOME": str(folder / "data"),
            "XDG_DOCUMENTS_DIR": str(folder),
        },
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    return json.loads(done.stdout.splitlines()[-1])


@pytest.fixture(scope="module")
def english(tmp_path_factory):
    """The walk in English, which the others are held against."""
    return walked(tmp_path_factory.mktemp("en"), *ENGLISH)


def test_the_walk_goes_somewhere(english):
    assert english["ended"] == {"paints": 8, "cells": 64, "painted": 0}
    assert english["wrong"] == []
    assert english["cut"] == {}
    assert len(english["states"]) > 45
    first, kept = english["states"]["first page"], english["states"]["kept"]
    assert not first["undo"][0]
    assert kept["undo"][0]
    assert kept["export"][0]
    assert not first["export"][0]


@pytest.mark.parametrize("way", OTHERS, ids=lambda way: f"{way[0]}-{way[1]}x{way[2]}-{way[3]}%-x{way[4]}")
def test_in_each_language_and_size_the_same_can_be_done(english, tmp_path, way):
    found = walked(tmp_path, *way)
    assert found["wrong"] == []
    assert found["size"] == [way[1], way[2]]
    assert found["cut"] == {}
    assert found["pointed"] == {}
    assert found["ended"] == english["ended"]
    assert found["states"] == english["states"]
