"""A study of very many paints: what is not read or used waits, and everything else goes on."""

import resource
import subprocess
import sys

import pytest

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.desk.app import settle
from culmo.study import acts, box_acts, waiting
from culmo.study.file import Study
from support.builders import make_study
from support.hand import pages


@pytest.fixture
def crowded(tmp_path, monkeypatch):
    """A study of forty paints of which twelve are learned; the last of them is read, two lie in a box."""
    monkeypatch.setattr(waiting, "MOST_LEARNED", 12)
    monkeypatch.setattr(waiting.learned_and_waiting, "__defaults__", ((), 12))
    path = tmp_path / "crowd.culmo"
    with Study.create(path, "Crowd") as study:
        entries = [acts.PaintEntry(f"Paint {i:02d}", "PB29") for i in range(1, 41)]
        study.apply(box_acts.add_paints(study, entries))
        study.apply(
            acts.add_readings(study, [acts.Incoming(Reading(mix(["Paint 40"]), (40.0, 5.0, -20.0)))], "typed")
        )
        study.apply(box_acts.add_box(study, "Small", box_acts.BoxShape(1, 2, {}), [38, 39]))
    return path


def test_what_is_read_or_in_a_box_is_learned_and_the_rest_waits(crowded, window):
    told = []
    window.session.told.connect(told.append)
    assert window.open_path(crowded)
    settle(window, 30)
    session = window.session
    assert len(session.learning.estimate.names) == 12
    assert {"Paint 40", "Paint 38", "Paint 39"} <= set(session.learning.estimate.names)
    assert any("28 paints of 40 wait" in words for words in told)
    assert not session.learning.knows(mix(["Paint 30"]))


def test_a_paint_that_is_taken_in_hand_is_learned(crowded, window):
    assert window.open_path(crowded)
    settle(window, 30)
    window.session.selection.toggle_in_hand("Paint 30")
    settle(window, 30)
    assert window.session.learning.knows(mix(["Paint 30"])) and window.session.learning.knows(
        mix(["Paint 40"])
    )
    assert len(window.session.learning.estimate.names) == 12


@pytest.mark.long
def test_every_page_goes_on_with_paints_that_wait(crowded, window):
    assert window.open_path(crowded)
    window.session.selection.select_box(None)
    settle(window, 30)
    assert len(list(pages(window, 30))) > 6
    assert not window.notice.isVisible()


@pytest.mark.soak
def test_four_hundred_paints_are_learned_within_a_gigabyte(tmp_path):
    path = tmp_path / "many.culmo"
    with make_study(path, cards=False) as study:
        study.apply(box_acts.add_paints(study, [acts.PaintEntry(f"Paint {i}", "PR101") for i in range(400)]))
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    code = "import sys; from culmo.cli.main import main; sys.exit(main(sys.argv[1:]))"
    words = ["mix", "--study", str(path), "--target", "#5a6b4c"]
    done = subprocess.run([sys.executable, "-c", code, *words], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "are left out" in done.stderr
    assert max(before, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss) < 2**20  # kilobytes
