"""Files damaged at random: never a crash, never more than 10 s or 1 GB, always a word of what is wrong."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from support.damaging import KINDS

ROOT = Path(__file__).parents[1]
# how many of each kind: in the suite, and by `make soak`, where they are more than ten thousand
CASES = {"study": (25, 2000), "picture": (60, 2500), "csv": (30, 1500), "json": (30, 1500), "cgats": (30, 1500),
         "gpl": (15, 500), "folder": (25, 500), "spreadsheet": (40, 1000)}  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("kind", KINDS)
def test_whatever_is_in_a_file_it_is_told_soon_and_in_little_memory(tmp_path, kind):
    count = CASES[kind][bool(os.environ.get("CULMO_SOAK"))]
    done = subprocess.run(
        [sys.executable, "-m", "support.damaging", kind, str(count), "11", tmp_path],
        capture_output=True, text=True, cwd=ROOT / "tests", check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    longest, most, taken, refused = (float(word) for word in done.stdout.split())
    assert longest < 10.0
    assert most < 1024.0
    assert taken + refused == count
    assert refused > 0


def test_ten_thousand_cases_make_the_campaign():
    assert sum(many for _, many in CASES.values()) >= 10_000
    assert set(CASES) == set(KINDS)
