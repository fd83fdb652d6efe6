"""A paint with neither code nor card: an empty pencil stroke that takes no part, and says what it needs."""

import numpy as np
import pytest
from PySide6.QtGui import QImage

from culmo.cli.main import main
from culmo.core.chart.aids import Aids, rough_width_mm
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.study import acts
from culmo.study.file import Study
from support.builders import laid_out, make_coded_study

NOTHING = "Moonwort"


@pytest.fixture
def path(tmp_path):
    """Four coded paints, one of which nothing is known, and one whose code no table has."""
    path = tmp_path / "unknown.culmo"
    make_coded_study(path, 4)
    with Study(path) as study:
        study.apply(acts.add_paint(study, acts.PaintEntry(NOTHING)))
        study.apply(acts.add_paint(study, acts.PaintEntry("Fogbloom", "PV998")))
    return path


@pytest.fixture
def opened(window, path):
    assert window.open_path(path)
    settle(window, 30)
    return window


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    data = np.frombuffer(image.constBits(), dtype=np.uint8)
    return data.reshape(image.height(), image.bytesPerLine())[:, : 3 * image.width()].astype(int)


def colourful(image: QImage) -> int:
    """How many pixels are of no grey, warm paper apart."""
    rgb = pixels(image).reshape(image.height(), -1, 3)
    return int((rgb.max(axis=2) - rgb.min(axis=2) > 12).sum())


def test_it_is_in_no_estimate_and_in_no_advice(opened):
    session = opened.session
    assert session.learning.unknown == {NOTHING.casefold(), "fogbloom"}
    assert NOTHING not in session.learning.estimate.names
    assert not session.learning.knows(mix([NOTHING]))
    opened.show_room(RoomName.WEIGH)
    settle(opened, 30)
    assert NOTHING not in opened.weigh.weighing.names
    assert len(opened.weigh.weighing.names) == 4


def test_it_says_what_it_needs_where_it_is_looked_at(opened):
    opened.show_room(RoomName.BOX)
    box = opened.box
    box.select(NOTHING)
    settle(opened, 5)
    assert "code" in box.slip.facts.text()
    assert colourful(box.slip.stroke.grab().toImage()) == 0
    assert (pixels(box.slip.stroke.grab().toImage()) < 150).any()  # the pencil's outline is there
    box.pages.tabs.choose(2)
    assert box.known.basis.text() == session_need(opened)
    opened.session.selection.toggle_in_hand(NOTHING)
    assert session_need(opened) in opened.rail.dab.state.text()


def session_need(window) -> str:
    need = window.session.learning.need_of(NOTHING)
    assert NOTHING in need and "card" in need
    return need


def test_the_rest_of_a_sheet_is_foretold(opened):
    study = opened.session.file
    sheet = laid_out("grid", paints=("Paint 1", "Paint 2", NOTHING), paper="A4", title="With one unknown")[0]
    assert opened.session.do(acts.add_sheets(study, [sheet]))
    opened.session.selection.select_sheet(study.rows("sheets")[-1]["id"])
    opened.show_room(RoomName.PLAN)
    settle(opened, 30)
    state = opened.state
    unknown = [entry.cell for entry in state.record.cells if NOTHING in entry.cell.recipe.names]
    known = [entry.cell for entry in state.record.cells if NOTHING not in entry.cell.recipe.names]
    assert len(unknown) == 5 and len(known) == 4
    assert all(state.foretold(cell.id) is None for cell in unknown)
    assert all(np.isfinite(state.foretold(cell.id)[0]).all() for cell in known)
    assert all(opened.plan.state.looks[cell.id].predicted for cell in known)
    state.select(unknown[0].id)
    settle(opened, 5)
    assert session_need(opened) in opened.plan.slip.cell.why.text()
    assert set(opened.plan.teaching.marked(sheet, (), {})) <= {cell.id for cell in known}
    for room in range(6):  # no room stumbles over it
        opened.show_room(room)
        settle(opened, 10)


def test_a_code_or_a_reading_makes_it_known(opened):
    session = opened.session
    paint = next(paint for paint in session.paints if paint.name == NOTHING)
    red = next(paint for paint in session.paints if paint.name == "Fogbloom")
    assert session.do(acts.edit_paint(session.file, paint.id, acts.PaintEntry(NOTHING, "PB29")))
    reading = Reading(parse_recipe("Paint 1 + Fogbloom"), (50.0, 20.0, 5.0))
    assert session.do(acts.edit_paint(session.file, red.id, acts.PaintEntry("Fogbloom", "PV998"), [reading]))
    settle(opened, 30)
    assert session.learning.unknown == set()
    assert session.learning.knows(mix([NOTHING, "Fogbloom"]))
    assert session.learning.need_of(NOTHING) == ""


def test_a_study_of_unknown_paints_alone_opens_in_every_room(window, tmp_path):
    with Study.create(tmp_path / "none.culmo", "None") as study:
        for name in ("One", "Two", "Three"):
            study.apply(acts.add_paint(study, acts.PaintEntry(name)))
        study.apply(acts.add_sheets(study, laid_out("grid", paints=("One", "Two", "Three"), paper="A5")))
    assert window.open_path(tmp_path / "none.culmo")
    settle(window, 30)
    for room in range(6):
        window.show_room(room)
        settle(window, 10)
    assert window.session.learning.unknown == {"one", "two", "three"}


def test_commands_leave_it_out_and_say_so(path, tmp_path, capsys):
    (tmp_path / "ask.csv").write_text("recipe\nPaint 1 + Paint 2\n")
    assert main(["predict", "--study", str(path), "--ask", str(tmp_path / "ask.csv")]) == 0
    told = capsys.readouterr()
    assert f'nothing is known of "{NOTHING}"' in told.err and "code" in told.err
    (tmp_path / "ask.csv").write_text(f"recipe\n{NOTHING}\n")
    assert main(["predict", "--study", str(path), "--ask", str(tmp_path / "ask.csv")]) == 2
    assert NOTHING in capsys.readouterr().err
    assert main(["mix", "--study", str(path), "--target", "45,20,10"]) == 0
    assert NOTHING not in capsys.readouterr().out


def test_a_study_of_nothing_known_gives_the_command_one_line(tmp_path, capsys):
    with Study.create(tmp_path / "none.culmo", "None") as study:
        study.apply(acts.add_paint(study, acts.PaintEntry("One")))
    assert main(["mix", "--study", str(tmp_path / "none.culmo"), "--target", "45,20,10"]) == 2
    assert "no readings to learn from" in capsys.readouterr().err


def test_a_plan_that_asks_for_knowledge_says_whose_is_missing(opened):
    from culmo.core.chart.knowledge import knowledge_of
    from culmo.errors import CulmoError

    aids = Aids(rough_width_mm, knowledge_of(opened.session.learning.estimate))
    with pytest.raises(CulmoError, match=f"{NOTHING}.*code"):
        laid_out("ladder", paints=("Paint 1", NOTHING), paper="A4", even="yes", aids=aids)
