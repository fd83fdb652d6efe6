"""Killing the program in the middle of a run loses no cell that was acknowledged."""

import os
import random
import signal
import subprocess
import sys
import time

import pytest

from culmo.study import acts, records
from culmo.study.file import Study
from support.builders import make_sheet, make_study
from support.patience import LONG_S

KILLS = 200 if os.environ.get("CULMO_SOAK") else 5
PAINTER = """
import sys
from pathlib import Path
from culmo.study import paint_acts, records
from culmo.study.file import Study
study = Study(Path(sys.argv[1]))
record = records.sheet_record(study, 1)
done = {row["cell_id"] for row in records.stroke_rows(study, 1) if row["act"] == "done"}
for round in range(40):
    for entry in record.cells:
        if round or entry.id not in done:
            study.apply(paint_acts.paint_cell(study, 1, entry.id))
            print("cell", entry.id, flush=True)
            row = records.stroke_rows(study, 1)[-1]
            study.apply(paint_acts.mark_stroke(study, row["id"], "granulates"))
            print("mark", row["id"], flush=True)
"""


@pytest.mark.long
@pytest.mark.skipif(not hasattr(signal, "SIGKILL"), reason="needs SIGKILL")
def test_no_acknowledged_cell_is_lost(tmp_path):
    path, rng = tmp_path / "run.culmo", random.Random(4)
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet(paper="A3")))
    cells, marks = [], []
    for _ in range(KILLS):
        child = subprocess.Popen(
            [sys.executable, "-c", PAINTER, str(path)],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        first = child.stdout.readline()  # it is at work
        time.sleep(rng.uniform(0.0, 0.12))
        child.send_signal(signal.SIGKILL)
        rest, complaint = child.communicate(timeout=LONG_S)
        assert first, complaint
        for line in [first, *rest.splitlines()]:
            words = line.split()
            if len(words) == 2 and line.endswith(("\n", words[1])):
                (cells if words[0] == "cell" else marks).append(int(words[1]))
        with Study(path) as study:
            assert study.problems() == []
            strokes = study.rows("strokes")
            painted = [row["cell_id"] for row in strokes]
            # the last one may have been saved without the word having come through
            assert all(painted.count(cell) >= cells.count(cell) for cell in set(cells))
            marked = {row["id"] for row in strokes if row["marks"] == "granulates"}
            assert set(marks) <= marked
            assert records.sheet_record(study, 1).sheet.title
    assert len(cells) > KILLS
