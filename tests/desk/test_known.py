"""What the window shows of what has been learned."""

import itertools

import numpy as np
import pytest
from PySide6.QtWidgets import QCheckBox, QLabel

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.known import curves, hand_sentence, reading_lines, strength_lines
from culmo.desk.rooms.box.pages import BoxPageName
from culmo.study import acts
from support.builders import make_sheet, make_study


def test_a_paint_without_a_card_is_typical_till_it_is_read(window, tmp_path):
    make_study(tmp_path / "codes.culmo", cards=False).close()
    window.open_path(tmp_path / "codes.culmo")
    settle(window, 20)
    rose = mix(["Rose"])
    assert window.session.learning.typical(rose)
    assert "typical, not yours" in window.box.slip.facts.text()
    window.session.selection.toggle_in_hand("Rose")
    assert window.rail.dab.state.text() == "typical, not yours"
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    window.show_room(RoomName.PLAN)
    window.state.select("r02c01")
    assert "typical, not yours" in window.plan.slip.cell.words.text()
    window.box.select("Rose")
    window.box.slip.card["masstone"].setText("42, 66, 6")
    window.box.slip.keep()
    settle(window, 20)
    assert not window.session.learning.typical(rose)
    assert "predicted" in window.rail.dab.state.text()


def test_a_reading_put_aside_changes_the_figures_and_comes_back(qtbot, with_study):
    window = with_study
    window.show_room(RoomName.BOX)
    window.box.select("Rose")
    window.box.pages.tabs.choose(2)
    settle(window, 20)
    before = window.session.learning.predict([mix(["Rose"], wash=0.2)])
    boxes = window.box.known.widget().findChildren(QCheckBox)
    assert len(boxes) == 3
    boxes[1].click()
    settle(window, 20)
    aside = window.session.learning.predict([mix(["Rose"], wash=0.2)])
    assert aside.dE90[0] > before.dE90[0]
    assert window.session.learning.estimate.readings == 14
    window.session.undo.undo()
    settle(window, 20)
    again = window.session.learning.predict([mix(["Rose"], wash=0.2)])
    assert np.abs(again.lab - before.lab).max() < 0.5
    assert window.box.known.plot.isVisible()


def test_curves_strength_hand_and_readings(with_study):
    estimate, study = with_study.session.learning.estimate, with_study.session.file
    found = curves(estimate, "Rose")
    assert (found.absorption_low < found.absorption).all()
    assert (found.absorption < found.absorption_high).all()
    assert "not known yet" in hand_sentence(estimate, "Rose")
    assert strength_lines(estimate, "Rose", ["Rose", "Lemon"])[0].endswith("with Lemon lands in the middle")
    lines = reading_lines(study, "Rose", {})
    assert [line.text for line in lines] == ["Rose", "Rose, tint", "Rose over the bar"]


def test_each_reading_says_where_it_is_from_and_whether_it_teaches(study):
    moments = iter(f"2026-03-{day:02d}T10:00:00+01:00" for day in range(1, 28))
    study.clock = lambda: next(moments)
    study.apply(acts.add_sheet(study, make_sheet()))
    cell = next(row for row in study.rows("cells") if row["recipe"] == "Lemon + Rose")
    study.apply(acts.read_cell(study, 1, cell["id"], (50.0, 40.0, 30.0)))
    extra = [
        Reading(mix(["rose"]), (42.0, 60.0, 5.0)),
        Reading(mix(["Rose"]), (44.0, 60.0, 5.0), trust="excluded"),
        Reading(mix(["Rose"]), (45.0, 60.0, 5.0), trust="wet"),
        Reading(mix(["Rose"]), (80.0, 20.0, 1.0), treatment="lifted"),
        Reading(mix(["Rose madder"]), (46.0, 50.0, 5.0)),
    ]
    study.apply(acts.add_paint(study, acts.PaintEntry("Rose madder", "NR9")))
    study.apply(
        acts.add_readings(
            study, [acts.Incoming(reading, None, (("source", "file"),)) for reading in extra], "x"
        )
    )
    lines = reading_lines(study, "Rose", {})
    assert [(line.text, line.taken_in) for line in lines] == [
        ("Rose", False), ("rose", True), ("Rose", True), ("Rose, tint", True), ("Rose over the bar", True),
        ("Lemon + Rose", True),
    ]  # fmt: skip
    assert [line.origin.split(", ")[1] for line in lines] == ["from a file"] * 2 + ["card"] * 3 + ["A grid"]
    assert lines[-1].origin.endswith(" March 2026, A grid")
    assert not any(line.odd for line in lines)
    (odd,) = [line for line in reading_lines(study, "Rose", {lines[0].id: 0.1, lines[1].id: 0.9}) if line.odd]
    assert odd.id == lines[0].id


def test_a_paint_with_quotes_in_its_name_finds_its_readings(study):
    name = 'The "old" rose'
    study.apply(acts.add_paint(study, acts.PaintEntry(name, "PV19")))
    study.apply(
        acts.add_readings(study, [acts.Incoming(Reading(mix([name, "Lemon"]), (50.0, 30.0, 20.0)))], "x")
    )
    (line,) = reading_lines(study, name.upper(), {})
    assert name in line.text


def test_why_and_the_middle_stand_in_the_slip(with_study):
    window = with_study
    window.session.do(acts.add_sheet(window.session.file, make_sheet()))
    window.session.selection.select_sheet(1)
    window.show_room(RoomName.PLAN)
    window.state.select("r02c01")
    page = window.plan.slip.cell
    assert page.why.text().endswith(".")
    assert " : " in page.middle_title.value.text()
    assert page.steps.isVisible()
    window.state.select("r01c01")
    assert not page.steps.isVisible()


@pytest.mark.parametrize("place", [1, 2])
def test_other_lights_change_the_strokes_and_are_named(with_study, place):
    window = with_study
    day = window.box.strokes.cards[2].grab().toImage()
    window.actions_by_id[f"light {place}"].trigger()
    settle(window, 20)
    assert window.box.strokes.cards[2].grab().toImage() != day
    assert window.status.light_text.text() != "Daylight D65"
    window.actions_by_id["light 0"].trigger()
    settle(window, 20)
    assert window.box.strokes.cards[2].grab().toImage() == day


def test_a_page_of_the_slip_is_laid_out_at_once(with_study):
    """Rows that were put in just now lay on each other until the event loop came to them."""
    window = with_study
    study = window.session.study
    for number in range(40):
        reading = Reading(mix(["Ultramarine"], wash=0.2 + number / 100), (60.0, 0.0, -number / 2))
        study.apply(acts.add_readings(study, [acts.Incoming(reading)], "many"))
    window.show_room(RoomName.BOX)
    window.box.select("Ultramarine")
    settle(window, 30)
    window.box.pages.tabs.choose(2)
    page = window.box.known
    page.refresh()  # and nothing between this and the look
    inner = page.widget()
    assert inner.height() >= inner.heightForWidth(inner.width()) > page.viewport().height()
    rows = [page.readings.itemAt(place).geometry() for place in range(page.readings.count())]
    assert len(rows) > 40
    assert all(row.height() >= 20 for row in rows)
    assert all(one.bottom() < other.top() + 1 for one, other in itertools.pairwise(rows))


def test_findings_are_laid_out_at_once(with_study):
    window = with_study
    window.show_room(RoomName.BOX)
    settle(window, 30)
    window.box.shows.choose(BoxPageName.ROLES)
    settle(window, 30)
    page = window.box.stack.roles
    page.show_findings(window.box.finder.found, None)
    inner = page.widget()
    assert inner.isVisible()
    assert inner.height() >= inner.heightForWidth(page.viewport().width()) > page.viewport().height()
    assert all(
        not label.isHidden() and label.height() > 10 for label in inner.findChildren(QLabel) if label.text()
    )


def test_learning_can_be_stopped_and_the_old_figures_stand(with_study):
    window = with_study
    old = window.session.learning.estimate
    window.session.learning.learn()
    assert window.session.runner.busy("learn")
    window.session.learning.stop()
    settle(window, 50)
    assert window.session.learning.estimate is old
    assert not window.status.stop_button.isVisible()
