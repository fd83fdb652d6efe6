"""The window as a screen reader hears it: over the accessibility bus, by a reader that knows nothing of Culmo."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from support.builders import sample_study
from support.patience import LONG_S
from support.with_reader import LAUNCHERS, SYSTEM_PYTHON

pytestmark = pytest.mark.long

TESTS = Path(__file__).parents[1]
ROOMS = ["Box", "Plan", "Paint", "Read", "Weigh", "Daybook"]
# what only holds other things, or is a word beside a field
HOLDERS = {"filler", "panel", "layered pane", "scroll pane", "viewport", "separator", "scroll bar", "label"}
CONTROLS = {
    "push button",
    "check box",
    "radio button",
    "combo box",
    "text",
    "slider",
    "page tab",
    "list item",
    "table cell",
}


def _has_bus():
    asked = "import gi; gi.require_version('Atspi', '2.0'); from gi.repository import Atspi"
    return (
        shutil.which("dbus-run-session") is not None
        and shutil.which("Xvfb") is not None
        and any(Path(path).exists() for path in LAUNCHERS)
        and subprocess.run([SYSTEM_PYTHON, "-c", asked], capture_output=True, check=False).returncode == 0
    )


@pytest.fixture(scope="module")
def heard(tmp_path_factory):
    """What is told of each room, as the reader wrote it down."""
    if not _has_bus():
        pytest.skip("no accessibility bus on this machine")
    folder = tmp_path_factory.mktemp("aloud")
    shutil.copy(sample_study(folder), folder / "s.culmo")
    done = subprocess.run(
        ["dbus-run-session", "--", sys.executable, "-m", "support.with_reader", folder / "s.culmo", folder],
        capture_output=True, text=True, cwd=TESTS, check=False, timeout=LONG_S,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    found = json.loads(done.stdout[done.stdout.index('{"') :])
    assert list(found) == ROOMS
    return found


@pytest.mark.parametrize("room", ROOMS)
def test_everything_on_view_has_a_name_a_role_and_a_state(heard, room):
    nameless = [thing for thing in heard[room] if thing["role"] not in HOLDERS and not thing["name"].strip()]
    assert nameless == []
    for thing in heard[room]:
        assert thing["role"] not in ("unknown", "invalid", "")
        assert {"showing", "visible"} <= set(thing["states"])
    controls = [thing for thing in heard[room] if thing["role"] in CONTROLS]
    assert len(controls) > 20
    assert all("enabled" in thing["states"] or "sensitive" not in thing["states"] for thing in controls)


def things(heard, room):
    return [thing for thing in heard[room] if thing["role"] == "list item"]


@pytest.mark.parametrize("room", ["Plan", "Paint", "Read"])
def test_each_cell_says_what_it_is_what_colour_and_how_it_stands(heard, room):
    cells = things(heard, room)
    assert len(cells) == 144  # twelve by twelve
    for cell in cells:
        assert "lightness" in cell["about"]
        assert cell["about"].split("; ")[-1].split(",")[0] in ("planned", "painted", "read")
        assert "selectable" in cell["states"]


def test_each_well_says_its_paint_and_one_is_selected(heard):
    wells = things(heard, "Box")
    assert len(wells) == 21
    assert wells[0]["name"] == "Lemon"
    assert all("well" in well["about"] or "beside" in well["about"] for well in wells)
    assert sum("selected" in well["states"] for well in wells) == 1


def test_tabs_are_tabs_and_say_which_is_chosen(heard):
    for room in ROOMS:
        tabs = [thing for thing in heard[room] if thing["role"] == "page tab"][: len(ROOMS)]
        assert [tab["name"] for tab in tabs] == ROOMS
        assert [tab["name"] for tab in tabs if "selected" in tab["states"]] == [room]


def test_the_words_above_fields_are_bound_to_them(heard):
    bound = [thing for thing in heard["Box"] if thing["labelled"]]
    assert {"Name", "Pigments", "Note"} <= {thing["labelled"] for thing in bound}


def test_the_patches_of_the_list_are_told(heard):
    cells = [thing for thing in heard["Weigh"] if thing["role"] == "table cell"]
    assert cells
    assert all(": " in cell["name"] for cell in cells)
    assert any("lightness" in cell["name"] for cell in cells)
