"""The Pairs page: what is listed, sifted and ordered, and what may be done with it, by mouse and by keys."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from culmo.core.paint.recipe import parse_recipe
from culmo.core.palette.alike import alike_pairs, nearest_pairs
from culmo.core.palette.idea import Idea
from culmo.core.palette.mixer import chroma_of
from culmo.core.palette.threes import warmth
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.pairs_model import ALIKE, NEEDED, PAINT_FIRST, TOPICS, PaintCount, PairsOrder
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.desk.widgets import Swatch
from culmo.study import records
from culmo.study.mix_acts import kept_mixes_of, mixes_worth_keeping
from support.builders import make_coded_study


def open_page(window):
    window.show_room(RoomName.WEIGH)
    window.weigh.shows.choose(WeighPageName.PAIRS)
    settle(window, 60)
    return window.weigh.page(WeighPageName.PAIRS)


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def page(demo):
    return open_page(demo)


def turn(page, window, key: str) -> None:
    page.topics.choose([topic.key for topic in TOPICS].index(key))
    settle(window, 30)


def choose(page, *ideas: Idea) -> None:
    rows = page.model.listed.rows
    page.view.clearSelection()
    for idea in ideas:
        place = next(at for at, row in enumerate(rows) if row is idea)
        model = page.view.selectionModel()
        model.select(page.model.index(place), model.SelectionFlag.Select)


@pytest.mark.long
def test_every_topic_has_its_mixes_and_says_how_many(demo, page):
    for topic in TOPICS:
        turn(page, demo, topic.key)
        assert page.subtitle
        if topic.key == NEEDED:
            continue
        listed = page.model.listed
        assert listed.ideas, topic.key
        assert str(len(listed.ideas)) in page.count.text()
        for idea in listed.ideas:
            assert set(idea.names) <= {paint.name for paint in demo.session.selection.paints_in_use()}


def test_all_greys_are_listed_the_cool_as_well_as_the_warm(demo, page):
    turn(page, demo, "greys")
    page.order_box.setCurrentIndex(PairsOrder.WARM)
    greys = [row for row in page.model.listed.ideas if row is not page.weighing.ideas.telling["grey"]]
    warm = [float(warmth(idea.lab)) for idea in greys]
    assert len(greys) > 30
    assert warm == sorted(warm, reverse=True)
    assert warm[0] > 2 and warm[-1] < -2
    assert min(float(chroma_of(idea.lab)) for idea in greys) < 1.0
    page.order_box.setCurrentIndex(PairsOrder.BEST)
    ideas = page.model.listed.ideas
    assert sorted(map(id, ideas)) == sorted(map(id, page.weighing.ideas.found["grey"]))


def test_what_is_asked_for_binds(demo, page):
    turn(page, demo, "greys")
    labels = demo.session.learning.labels
    page.count_box.setCurrentIndex(PaintCount.TWO)
    assert all(len(idea.names) == 2 for idea in page.model.listed.ideas)
    page.chips["single"].click()
    assert all(labels[n.casefold()].single for idea in page.model.listed.ideas for n in idea.names)
    before = len(page.model.listed.ideas)
    demo.session.selection.toggle_in_hand("Ultramarine")
    page.chips["in_hand"].click()
    ideas = page.model.listed.ideas
    assert 0 < len(ideas) < before
    assert all("Ultramarine" in idea.names for idea in ideas)
    demo.session.selection.toggle_in_hand("Ultramarine")  # follows the hand
    demo.session.selection.toggle_in_hand("Neutral")
    assert not page.model.listed.ideas
    assert page.stack.currentWidget() is page.message
    assert " of " in page.count.text()


def test_one_is_offered_for_painting_first(demo, page):
    turn(page, demo, "greys")
    rows = page.model.listed.rows
    assert rows[0] == PAINT_FIRST
    assert rows[1] is page.weighing.ideas.telling["grey"]
    assert len(page.model.listed.ideas) == page.model.listed.count


def test_a_mix_is_taken_in_hand_with_its_parts_and_its_wash(demo, page):
    turn(page, demo, "greys")
    three = next(idea for idea in page.model.listed.ideas if len(idea.names) == 3)
    for idea in (three, next(idea for idea in page.model.listed.ideas if len(idea.names) == 2)):
        choose(page, idea)
        page.take_button.click()
        assert demo.session.selection.in_hand == list(idea.recipe.names)
        assert demo.rail.dab.recipe() == idea.recipe
        amounts = [f"{part.parts:g}" for part in idea.recipe.layers[0].parts]
        assert " : ".join(amounts) in demo.rail.dab.words.text()
    demo.rail.dab.water.setValue(0)  # more paint: the parts stay as they were found
    assert demo.rail.dab.recipe() == idea.recipe.with_wash(1.0)
    slider = demo.rail.dab.sliders[0]
    slider.setValue(slider.value() + 1)  # another ratio: the handles have it from here
    assert demo.rail.dab.recipe().layers[0].parts != idea.recipe.layers[0].parts


@pytest.mark.long
def test_a_ratio_test_is_planned_of_the_pair(demo, page):
    turn(page, demo, "parting")
    idea = page.model.listed.ideas[2]
    choose(page, idea)
    page.ladder_button.click()
    settle(demo, 40)
    assert demo.rooms.currentWidget() is demo.plan
    trial = demo.plan.trial
    assert trial.kind == "ladder"
    assert {name for cell in trial.cells for name in cell.recipe.names} == set(idea.names)
    assert demo.plan.trying.keep()


@pytest.mark.long
def test_several_pairs_are_planned_in_steps_on_one_page(demo, page):
    turn(page, demo, "clean")
    ideas = page.model.listed.ideas[:6]
    choose(page, *ideas)
    page.rows_button.click()
    settle(demo, 40)
    trial = demo.plan.trial
    assert trial.kind == "rows"
    pairs = {frozenset(cell.recipe.names) for cell in trial.cells if len(cell.recipe.names) == 2}
    assert pairs == {frozenset(idea.names) for idea in ideas}


def test_mixes_are_planned_as_they_are_on_a_free_page(demo, page):
    turn(page, demo, "greys")
    ideas = page.model.listed.ideas[:5]
    choose(page, *ideas)
    page.page_button.click()
    settle(demo, 40)
    assert demo.plan.trial.kind == "free"
    assert {cell.recipe.key for cell in demo.plan.trial.cells} == {idea.recipe.key for idea in ideas}
    # a plan that is not kept yet is not thrown away by another
    demo.show_room(RoomName.WEIGH)
    page.page_button.click()
    assert demo.rooms.currentWidget() is demo.plan
    assert len(demo.plan.trial.cells) == 5


def test_a_mix_is_kept_with_a_note_found_again_and_let_go_of_by_undo(demo, page, monkeypatch):
    turn(page, demo, "greys")
    idea = page.model.listed.ideas[1]
    choose(page, idea)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("for wet stones", True))
    page.keep_button.click()
    (kept,) = kept_mixes_of(demo.session.file)
    assert (kept.recipe, kept.note) == (idea.recipe, "for wet stones")
    assert any(one.recipe == idea.recipe for one in mixes_worth_keeping(demo.session.file))
    assert idea.recipe.key in {recipe.key for recipe in records.kept_mixes(demo.session.file)}
    demo.session.undo.undo()
    assert kept_mixes_of(demo.session.file) == []
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("", False))
    page.keep_button.click()
    assert kept_mixes_of(demo.session.file) == []


def test_mixes_go_to_the_clipboard_as_text(demo, page):
    turn(page, demo, "darks")
    ideas = page.model.listed.ideas[:3]
    choose(page, *ideas)
    page.copy_button.click()
    lines = QGuiApplication.clipboard().text().splitlines()
    assert [parse_recipe(line.split("\t")[1]) for line in lines] == [idea.recipe for idea in ideas]


def test_several_lie_beside_each_other(demo, page):
    turn(page, demo, "browns")
    choose(page, *page.model.listed.ideas[:3])
    shown = [chip for chip in page.swatches if chip.isVisible()]
    assert len(shown) == 3 and all(isinstance(chip, Swatch) for chip in shown)
    assert not page.take_button.isVisible()
    assert page.differences[1].isVisible() and ":" in page.differences[1].text()
    choose(page, page.model.listed.ideas[0])
    assert page.take_button.isVisible()
    assert page.about.text().startswith("Together they go from L")


def test_keys_alone_take_a_mix_in_hand(demo, page):
    turn(page, demo, "greys")
    page.view.setFocus()
    page.view.setCurrentIndex(page.model.index(1))
    QTest.keyClick(page.view, Qt.Key.Key_Down)  # over the head
    (idea,) = page.chosen()
    assert idea is page.model.listed.rows[3]
    QTest.keyClick(page.view, Qt.Key.Key_Return)
    assert demo.rail.dab.recipe() == idea.recipe


def test_which_two_are_alike_and_what_each_paint_is_needed_for(demo, page):
    turn(page, demo, ALIKE)
    mixer = page.weighing.mixes.lattice.mixer
    pair = (alike_pairs(mixer) or nearest_pairs(mixer, 1))[0]
    assert {pair.first, pair.second} == set(page.model.listed.ideas[0].names)
    turn(page, demo, NEEDED)
    settle(demo, 60)
    assert page.stack.currentWidget() is page.needs


def test_a_box_of_three_primaries_has_greys_browns_and_darks(window, tmp_path):
    make_coded_study(tmp_path / "three.culmo", 0)
    assert window.open_path(tmp_path / "three.culmo")
    from culmo.study import acts

    for name, codes in (("Lemon", "PY175"), ("Magenta", "PR122"), ("Cyan", "PB15:3")):
        assert window.session.do(acts.add_paint(window.session.file, acts.PaintEntry(name, codes)))
    settle(window, 40)
    page = open_page(window)
    for key in ("greys", "browns", "darks"):
        turn(page, window, key)
        assert any(len(idea.names) == 3 for idea in page.model.listed.ideas), key
    turn(page, window, "greys")
    # nothing is read: no grey is promised
    assert not any(idea.words == "a true grey" for idea in page.model.listed.ideas)


def test_a_box_of_one_paint_says_what_is_wanted(window, tmp_path):
    make_coded_study(tmp_path / "one.culmo", 1)
    assert window.open_path(tmp_path / "one.culmo")
    settle(window, 40)
    page = open_page(window)
    assert page.stack.currentWidget() is page.message
    assert "Two paints" in page.message.text()
