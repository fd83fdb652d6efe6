"""The Plan room through the real window: every kind, trials, pages, what teaches, the work."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from culmo.core.chart.kinds import KIND_KEYS, find_kind
from culmo.core.chart.options import OneOf
from culmo.core.chart.page import Page
from culmo.core.chart.plans import described, lay_out, plan_from
from culmo.core.paint.predict import predict_lab
from culmo.core.palette.conditions import Conditions
from culmo.desk.app import settle
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan.at_hand import aids_of
from culmo.desk.rooms.plan.model import ruling_lines, work_lines
from culmo.desk.rooms.plan.slip import PlanSlipPage
from culmo.desk.rooms.plan.teaching import Teaching, TellAbout
from culmo.study import acts, records
from culmo.study.patches import patches_of
from support.begun import new_grid

CHOSEN = {
    "families": ("Lemon", "Ochre"), "fan": ("Ultramarine", "Lemon", "Rose"), "ladder": ("Rose", "Ultramarine"),
    "wheel": ("Lemon", "Rose", "Phthalo blue"), "triangle": ("Lemon", "Rose", "Phthalo blue"),
    "palette": ("Lemon", "Rose", "Ultramarine"), "against": ("Rose", "Lemon", "Ochre"), "cards": ("Rose", "Ochre"),
    "grid": ("Lemon", "Rose", "Ultramarine", "Ochre"), "strip": ("Lemon", "Rose", "Ultramarine", "Ochre"),
}  # fmt: skip


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def room(demo):
    return demo


def tick(box, names):
    for i in range(box.count()):
        item = box.item(i)
        item.setCheckState(Qt.CheckState.Checked if item.text() in names else Qt.CheckState.Unchecked)


def type_in(page, name, text):
    """What is typed into a field, as by hand."""
    page.fields[name].set_text(text)
    page.fields[name].edited.emit()


def begin(window, kind):
    window.session.selection.in_hand = ["Lemon", "Rose"]  # all of the box would be laid out first
    new_grid(window.plan)
    page = window.plan.slip.layout_page
    page.kind.setCurrentIndex(KIND_KEYS.index(kind))
    tick(page.fields["paints"].list, CHOSEN.get(kind, ("Lemon", "Rose")))
    if kind == "families":
        tick(page.fields["across"].list, ("Ultramarine", "Cobalt"))
    if kind == "rows":
        page.fields["rows"].edit.setPlainText("Lemon, Rose: 7\nOchre, Ultramarine")
    if kind == "free":
        page.fields["recipes"].edit.setPlainText("Rose\nRose + Lemon\nUltramarine:3 + Ochre @ tint")
    type_in(page, "title", f"A {kind}")
    return page


@pytest.mark.long
@pytest.mark.parametrize("kind", KIND_KEYS)
def test_each_kind_is_tried_ordered_and_kept(room, kind):
    page = begin(room, kind)
    assert page.message.text() == ""
    assert room.plan.trial.kind == kind
    assert not room.plan.trial.work
    settle(room, 40)
    assert room.plan.trial.work
    assert page.heading.text() == "A new sheet"
    before = len(records.sheet_titles(room.session.file))
    prediction = room.plan.trying.prediction
    assert prediction is not None
    assert len(prediction.lab) == len(room.plan.trial.cells)
    assert room.plan.view.grab().toImage().width() > 0
    room.plan.trying.keep()
    settle(room, 20)
    assert len(records.sheet_titles(room.session.file)) == before + 1
    sheet = room.state.record.sheet
    assert (sheet.kind, sheet.title) == (kind, f"A {kind}")
    assert all(cell.order for cell in sheet.cells)
    # its layout can be taken up again, and gives the same sheet
    plan = plan_from(sheet)
    assert plan.kind.key == kind
    if kind != "keepers":
        again = lay_out(plan, aids_of(room.session))[0]
        assert [str(cell.recipe) for cell in again.cells] == [str(cell.recipe) for cell in sheet.cells]
        assert np.allclose(again.frame_mm, sheet.frame_mm, atol=0.01)


@pytest.mark.long
def test_only_what_concerns_a_kind_is_shown(room):
    for kind in KIND_KEYS:
        page = begin(room, kind)
        assert page.isVisible()
        own = {*Page.described(), *find_kind(kind).options.described()} - set(find_kind(kind).without)
        for name, field in page.fields.items():
            assert field.widget.isHidden() or name in own, (kind, name)
        assert not page.fields["paper"].widget.isHidden()
        assert not page.kind_words.isHidden()


def test_lists_show_words_and_not_values(room):
    """Each choice is read as it is called, also after the page was filled anew, and paints where paints are chosen."""
    page = begin(room, "wheel")
    begin(room, "grid")
    for name, own in described().items():
        if isinstance(own.form, OneOf):
            box = page.fields[name].box
            assert [box.itemText(i) for i in range(box.count())] == list(own.form.words.values()), name
    paints = [paint.name for paint in room.session.paints]
    box = page.fields["extra"].box
    assert [box.itemText(i) for i in range(box.count())] == paints
    assert page.fields["paper"].box.itemText(0) == room.session.papers[0].paper.name


def test_the_offered_title_follows_the_kind_until_one_is_typed(room):
    new_grid(room.plan)
    page = room.plan.slip.layout_page
    assert page.fields["title"].text().startswith("Grid of")
    page.kind.setCurrentIndex(KIND_KEYS.index("wheel"))
    assert page.fields["title"].text() == "Wheel"
    type_in(page, "title", "Moths")
    page.kind.setCurrentIndex(KIND_KEYS.index("fan"))
    assert page.fields["title"].text() == "Moths"
    room.plan.trying.discard()
    room.plan.slip.tabs.choose(PlanSlipPage.LAYOUT)
    kept = page.fields["title"].text()
    page.kind.setCurrentIndex(KIND_KEYS.index("wheel"))
    assert page.fields["title"].text() == kept != "Wheel"  # the title of a kept sheet is the painter's


@pytest.mark.long
def test_a_new_sheet_never_changes_the_one_on_the_table(room):
    titles = records.sheet_titles(room.session.file)
    room.plan.slip.tabs.choose(0)
    begin(room, "grid")
    assert room.plan.trying.of is None
    settle(room, 30)
    room.plan.trying.keep()
    assert set(titles) < set(records.sheet_titles(room.session.file))


def test_a_painted_sheet_that_is_changed_becomes_a_new_version(room):
    first = next(i for i, title in records.sheet_titles(room.session.file) if title.startswith("First"))
    room.session.selection.select_sheet(first)
    room.plan.slip.tabs.choose(PlanSlipPage.LAYOUT)
    page = room.plan.slip.layout_page
    assert page.heading.text() == "Change the layout"
    type_in(page, "gap_mm", "2")
    settle(room, 40)
    readings = len(room.session.file.rows("readings"))
    room.plan.trying.keep()
    row = room.session.file.row("sheets", room.session.selection.sheet_id)
    assert row["replaces"] == first
    assert room.session.file.row("sheets", first)["archived"] == 1
    assert len(room.session.file.rows("readings")) == readings


@pytest.mark.long
def test_the_gap_is_dragged(room):
    page = begin(room, "grid")
    settle(room, 30)
    wide = room.plan.trial.cells[0].box_mm[2]
    page.fields["gap_mm"].slider.setValue(16)
    assert page.fields["gap_mm"].text() == "8"
    assert room.plan.trial.cells[0].box_mm[2] < wide
    type_in(page, "gap_mm", "rubbish")
    assert "not a length" in page.message.text()
    assert not page.keep_button.isEnabled()
    assert room.plan.trial is not None  # the last that could be stays on view


@pytest.mark.long
def test_a_wheel_with_a_cover_is_two_pages_kept_together(room):
    page = begin(room, "wheel")
    page.fields["cover"].box.setChecked(True)
    settle(room, 30)
    assert len(room.plan.trying.sheets) == 2
    assert room.plan.next_page.isVisible()
    room.plan.next_page.click()
    assert "page 2 of 2" in room.plan.subtitle.text()
    assert room.plan.trial.kind == "wheel cover"
    room.plan.trying.keep()
    kinds = [
        records.sheet_record(room.session.file, i).sheet.kind
        for i, _ in records.sheet_titles(room.session.file)
    ]
    assert {"wheel", "wheel cover"} <= set(kinds)
    # a sheet without a cell to paint harms no room
    cover = next(i for i, title in records.sheet_titles(room.session.file) if "cover" in title)
    room.session.selection.select_sheet(cover)
    for place in range(6):
        room.show_room(place)
        settle(room, 20)
        assert not room.notice.isVisible()
    room.show_room(RoomName.PLAN)
    room.session.undo.undo()
    kinds = [
        records.sheet_record(room.session.file, i).sheet.kind
        for i, _ in records.sheet_titles(room.session.file)
    ]
    assert kinds.count("wheel") == 1
    assert "wheel cover" not in kinds


@pytest.mark.long
def test_small_cells_bring_advice(room):
    page = begin(room, "grid")
    tick(page.fields["paints"].list, [paint.name for paint in room.session.paints])
    page.fields["paper"].set_text("A5")
    settle(room, 30)
    buttons = page.hints.findChildren(QPushButton)
    assert len(buttons) == 3
    next(button for button in buttons if "sheets that join" in button.accessibleName()).click()
    assert page.fields["several"].box.isChecked()
    settle(room, 30)
    assert len(room.plan.trying.sheets) > 1


def test_what_teaches_is_pointed_out_and_numbered(room):
    planned = next(i for i, title in records.sheet_titles(room.session.file) if title.startswith("Twelve"))
    room.session.selection.select_sheet(planned)
    room.plan.shows.choose(3)
    settle(room, 30)
    marked = room.plan.view.style_.marked
    assert sorted(marked.values()) == list(range(1, 11))
    ids = {cell.id for cell in room.state.record.sheet.cells}
    assert set(marked) <= ids
    room.plan.shows.choose(2)
    assert room.plan.view.style_.path
    assert room.plan.view.style_.numbers


@pytest.fixture
def teaching(room):
    """What teaches on the sample's large grid."""
    planned = next(i for i, title in records.sheet_titles(room.session.file) if title.startswith("Twelve"))
    room.session.selection.select_sheet(planned)
    room.plan.shows.choose(3)
    settle(room, 30)
    return room


def test_what_teaches_says_what_it_is_worth(teaching):
    found = teaching.plan.teaching
    assert found.isVisible()
    worth = found.answer.worth
    assert worth.chosen == 10 <= worth.at_random
    assert ("10" in found.words.text()) and (str(worth.at_random) in found.words.text())
    teaching.plan.shows.choose(0)
    assert not found.isVisible()


@pytest.mark.long
def test_what_teaches_answers_the_painters_own_question(teaching):
    plan, session = teaching.plan, teaching.session
    found, sheet = plan.teaching, teaching.state.record.sheet
    whole = dict(plan.view.style_.marked)
    found.about.setCurrentIndex(2)
    settle(teaching, 30)
    darks = dict(plan.view.style_.marked)
    assert darks and darks != whole and not found.colour.isVisible()
    estimate = session.learning.estimate
    lightness = {
        cell.id: L for cell, L in zip(sheet.cells, predict_lab(estimate, [c.recipe for c in sheet.cells])[:, 0], strict=True)
    }  # fmt: skip
    assert np.mean([lightness[i] for i in darks]) < np.mean([lightness[i] for i in whole]) - 5.0
    # the paints in hand: first they have to be taken
    found.about.setCurrentIndex(1)
    settle(teaching, 30)
    assert not plan.view.style_.marked and "in hand" in found.words.text()
    for name in ("Lemon", "Cobalt", "Rose"):
        session.selection.toggle_in_hand(name)
    settle(teaching, 30)
    own = plan.view.style_.marked
    assert own and all({"Lemon", "Cobalt", "Rose"} & set(sheet.cell(i).recipe.names) for i in own)
    # one colour: first it has to be said
    found.about.setCurrentIndex(3)
    settle(teaching, 30)
    assert found.colour.isVisible() and not plan.view.style_.marked
    for text, fine in (("no colour", False), ("#5a6b4c", True), ("", False), ("50, -10, 20", True)):
        found.colour.setText(text)
        QTest.keyClick(found.colour, Qt.Key.Key_Return)
        settle(teaching, 30)
        assert bool(plan.view.style_.marked) == fine, text
        assert found.words.text()


def test_what_teaches_says_when_all_is_read(teaching):
    found, sheet = Teaching(teaching.session), teaching.state.record.sheet
    seen = {cell.id for cell in sheet.cells}
    found.marked(sheet, seen, {})
    teaching.session.drawing.wait("teach")
    assert not found.answer.ids and "read" in found.words.text()


@pytest.mark.long
def test_what_teaches_of_grain_and_separation_goes_by_what_pictures_showed(teaching):
    """The sample's first sheet was read from a picture: what is asked for is what no picture showed."""
    plan, session = teaching.plan, teaching.session
    found, whole = plan.teaching, dict(plan.view.style_.marked)
    found.about.setCurrentIndex(TellAbout.TEXTURE)
    settle(teaching, 30)
    marked = dict(plan.view.style_.marked)
    assert len(marked) == 10 and marked != whole
    assert all(teaching.state.record.sheet.cell(cell_id).is_wash for cell_id in marked)
    assert str(found.answer.worth.at_random) in found.words.text()
    answer = found.answer
    plan.refresh()
    assert found.answer is answer, "it is not worked out again while nothing new is known"
    # what is there of a picture is not asked for; what was read by an instrument alone is
    sheet, looks = teaching.state.record.sheet, teaching.state.looks
    patch = next(
        iter(patches_of(session.file, [row["id"] for row in session.file.rows("readings")]).values())
    )
    shown = {cell_id: replace(looks.get(cell_id, CellLook()), patch=patch) for cell_id in marked}
    again = found.marked(sheet, set(marked), shown)
    session.drawing.wait("teach")
    again = found.marked(sheet, set(marked), shown)
    assert again and not set(again) & set(marked)
    everything = {cell.id: replace(CellLook(), patch=patch) for cell in sheet.cells}
    found.marked(sheet, (), everything)
    session.drawing.wait("teach")
    assert not found.answer.ids and "pictures" in found.words.text()


@pytest.mark.long
def test_the_work_and_the_ruling_are_told(room):
    begin(room, "ladder")
    settle(room, 30)
    text = "\n".join(work_lines(room.plan.trial))
    for words in ("cream", "milk", "tea", "Begin with a puddle", "Rub the pencil out", "ml"):
        assert words in text
    room.plan.slip.tabs.choose(PlanSlipPage.WORK)
    assert room.plan.slip.work.text.toPlainText().startswith(text)
    begin(room, "wheel")
    settle(room, 30)
    lines = ruling_lines(room.plan.trial, "mm")
    assert any("radius" in line for line in lines)
    assert sum("chord to the next" in line for line in lines) == 12
    # the chords close the circle: each is 2 r sin(15 degrees)
    radius = max(float(line.split()[1]) for line in lines if line.strip().startswith("radius"))
    chord = float(next(line for line in lines if "chord" in line).rsplit(" ", 2)[1])
    assert chord == pytest.approx(2 * radius * np.sin(np.radians(15)), abs=0.1)
    assert any(line.endswith("in") for line in ruling_lines(room.plan.trial, "in"))


@pytest.mark.long
def test_reading_a_ladder_goes_on_past_the_bands_that_fade(room):
    from culmo.desk.room_names import RoomName

    begin(room, "ladder")
    settle(room, 30)
    room.plan.trying.keep()
    room.show_room(RoomName.READ)
    cells = [cell for cell in room.state.record.sheet.in_order() if cell.fade_mm is None]
    room.state.select(cells[0].id)
    for cell in cells:
        assert room.state.current == cell.id
        room.read.slip.entry.setText("50, 10, -20")
        room.read.by_hand.keep()
    assert len(room.state.read) == len(cells)
    assert f"{len(cells)} of {len(cells)} cells read" in room.read.subtitle.text()


def test_what_was_lifted_or_faded_is_no_surprise_in_the_weigh_room(room):
    from culmo.desk.rooms.weigh.model import compare

    cards = next(i for i, title in records.sheet_titles(room.session.file) if title.startswith("Cards"))
    room.session.selection.select_sheet(cards)
    settle(room, 30)
    compared = compare(room.state.record, room.state.prediction, room.state.read)
    assert len(compared) == 3 * 6  # masstone, bar and tint of six cards
    assert {entry.cell_id[-1] for entry in compared} == {"m", "k", "t"}
    assert all(entry.away < 12 for entry in compared)


def test_the_time_is_at_the_painters_own_pace(room):
    from culmo.core.chart.order import work_cost
    from culmo.desk.rooms.plan.model import own_pace, time_text

    pace = own_pace(room.session.file)
    assert 0.3 <= pace <= 5.0
    room.session.file.disk.db.execute("DELETE FROM strokes")
    assert own_pace(room.session.file) == 1.0
    planned = next(i for i, title in records.sheet_titles(room.session.file) if title.startswith("Twelve"))
    cost = work_cost(records.sheet_record(room.session.file, planned).sheet)
    assert time_text(cost, 1.0) == "About 1 h 40"
    assert time_text(cost, 2.0) == "About 3 h 10"


def test_a_tried_order_works_from_light_to_dark(room):
    begin(room, "against")
    settle(room, 40)
    pure = [
        cell.recipe.names[0]
        for cell in room.plan.trial.in_order()
        if cell.recipe.is_pure and cell.recipe.layers[0].wash == 1
    ]
    light = [float(room.session.learning.predict([cell]).lab[0, 0]) for cell in (
        __import__("culmo.core.paint.recipe", fromlist=["mix"]).mix([name]) for name in pure)]  # fmt: skip
    assert light[0] == max(light)


@pytest.mark.long
def test_a_paint_renamed_while_a_layout_is_tried_is_kept_under_its_new_name(with_study):
    """The next kept layout brought the old name back, and its first reading ended all learning."""
    window, session = with_study, with_study.session
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    settle(window, 20)
    window.weigh.weighing.conditions = Conditions(keep=("Rose",), avoid=("Lemon",))
    window.plan.slip.tabs.choose(0)  # while a layout is chosen wells put paints on the sheet
    session.selection.toggle_in_hand("Rose")
    row = next(row for row in session.file.rows("paints") if row["name"] == "Rose")
    assert session.do(acts.edit_paint(session.file, row["id"], acts.PaintEntry("Madder", row["codes"])))
    settle(window, 20)
    assert session.selection.in_hand == ["Madder"]
    assert window.weigh.weighing.conditions == Conditions(keep=("Madder",), avoid=("Lemon",))
    paints = window.plan.slip.layout_page.fields["paints"].chosen()
    assert "Madder" in paints and "Rose" not in paints
    assert "Rose" not in window.plan.trying.text()
    assert window.plan.trying.keep()
    settle(window, 20)
    record = session.selection.sheet()
    cell = next(entry for entry in record.cells if entry.cell.recipe.names == ("Madder",))
    told = []
    session.failed.connect(told.append)
    assert session.do(acts.read_cell(session.file, record.id, cell.id, (40.0, 50.0, 5.0)))
    settle(window, 30)
    assert told == []
    assert "madder" in session.learning.estimate.index and "madder" in session.learning.read_places
    session.undo.undo()
    session.undo.undo()
    session.undo.undo()
    settle(window, 20)
    assert "rose" in session.learning.estimate.index and session.selection.in_hand == ["Rose"]


def test_a_hand_that_rests_after_the_study_was_let_go_of_changes_nothing(with_study):
    with_study.show_room(RoomName.PLAN)
    new_grid(with_study.plan)
    with_study.plan.slip.layout_page.fields["gap_mm"].slider.setValue(3)
    assert with_study.plan.trying.rest.isActive()
    with_study.session.unsaved.leave_out()
    with_study.session.close()
    settle(with_study, 300)
    assert not with_study.plan.trying.rest.isActive()


@pytest.mark.long
def test_no_choice_of_any_kind_is_wider_than_the_slip(room):
    page = begin(room, "grid")
    for place in range(page.kind.count()):
        page.kind.setCurrentIndex(place)
        settle(room, 20)
        wide, room_for_it = page.widget().minimumSizeHint().width(), page.viewport().width()
        assert wide <= room_for_it, page.kind.itemText(place)


def test_what_keeps_or_leaves_a_plan_is_always_in_sight(qtbot, with_study):
    """At the smallest window too, and however far the fields are scrolled; so is what is wrong."""
    with_study.resize(1024, 700)
    with_study.show_room(RoomName.PLAN)
    settle(with_study, 30)
    page = with_study.plan.slip.layout_page
    with_study.plan.slip.tabs.choose(PlanSlipPage.LAYOUT)
    assert not page.leave_button.isVisible()  # there is nothing to leave
    new_grid(with_study.plan)
    settle(with_study, 30)
    bar = page.verticalScrollBar()
    for value in (bar.minimum(), bar.maximum()):
        bar.setValue(value)
        for button in (page.keep_button, page.leave_button):
            assert button.visibleRegion().boundingRect().height() == button.height() > 20
    page.fields["tape_mm"].set_text("400")
    page._edited()
    settle(with_study, 30)
    assert (
        page.message.text() and page.message.visibleRegion().boundingRect().height() == page.message.height()
    )
    assert not page.keep_button.isEnabled()
    before = with_study.session.file.dump()
    qtbot.mouseClick(page.leave_button, Qt.MouseButton.LeftButton)
    settle(with_study, 20)
    assert with_study.plan.trial is None
    assert not page.leave_button.isVisible()
    assert with_study.session.file.dump() == before


def test_lines_part_what_is_told_of_a_cell_and_nothing_else(room):
    page = room.plan.slip.cell
    room.state.select("")
    assert not any(line.isVisible() for line in page.rules), "with no cell there is nothing to part"
    room.state.select(room.state.record.cells[1].cell.id)
    assert page.why.isVisible() and page.same_title.isVisible()
    assert all(line.isVisible() for line in page.rules)
