"""The guess page in the real window: each kind of question by keys and by mouse, and a pair drawn, planned, painted."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from culmo.core.palette.guess import GuessKind, slider_place
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.guess_page import DRAW
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.study import acts, paint_acts
from culmo.study.guess_acts import drawn_pairs
from culmo.study.records import sheet_record
from desk.test_weigh_room import wait


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def guess(demo):
    """The guess page of the sample study."""
    demo.show_room(RoomName.WEIGH)
    demo.weigh.shows.choose(WeighPageName.GUESS)
    wait(demo)
    page = demo.weigh.page(WeighPageName.GUESS)
    page.rng = np.random.default_rng(2)
    page.draws.rng = np.random.default_rng(3)
    return page


def turn(page, kind):
    page.kinds.choose((GuessKind.WHICH, GuessKind.PARTS, GuessKind.PAINTS, GuessKind.DRIES).index(kind) + 1)
    settle(page.window(), 5)


def key(qtbot, page, what):
    page.setFocus()
    qtbot.keyClick(page, what)


def answer_by_keys(qtbot, page):
    """The right answer to the question on the table."""
    question = page.question
    if question.kind in (GuessKind.WHICH, GuessKind.DRIES):
        assert not page.act.isEnabled()
        key(qtbot, page, str(question.right + 1))
    elif question.kind == GuessKind.PARTS:
        wanted = slider_place(question.recipe)
        while page.slider.value() != wanted:
            key(qtbot, page, Qt.Key.Key_Right if page.slider.value() < wanted else Qt.Key.Key_Left)
    else:
        for name in question.names:
            assert not page.act.isEnabled()
            key(qtbot, page, str(question.candidates.index(name) + 1))
    key(qtbot, page, Qt.Key.Key_Return)


def test_questions_are_answered_by_keys_and_scored(qtbot, demo, guess):
    for kind in (GuessKind.WHICH, GuessKind.PARTS, GuessKind.PAINTS):
        turn(guess, kind)
        assert guess.question.kind == kind
        answer_by_keys(qtbot, guess)
        assert guess.verdict.text().startswith("Right")
        assert guess.source.text()
        assert guess.act.text() == "Next"
    assert "3 guesses, 3 right" in guess.score.score_words.text()
    rows = demo.session.file.rows("guesses")
    assert [row["kind"] for row in rows] == ["which", "parts", "paints"]
    assert all(row["away"] < 0.05 for row in rows)
    key(qtbot, guess, Qt.Key.Key_Return)
    assert not guess.done


def test_by_turns_asks_of_what_was_painted_and_names_the_sheet(guess):
    titles, kinds = set(), set()
    for _ in range(60):
        guess.next_question()
        kinds.add(guess.question.kind)
        if guess.question.truth.painted:
            titles.add(guess.question.truth.where)
    assert kinds >= {GuessKind.WHICH, GuessKind.PARTS, GuessKind.PAINTS}
    assert "First eight, wing cases" in titles


def test_of_three_paints_clicked_the_first_goes_and_a_wrong_pair_is_told(qtbot, guess):
    turn(guess, GuessKind.PAINTS)
    names = [choice.name for choice in guess.paints]
    right = list(guess.question.names)
    wrong = [name for name in names if name not in right]
    for name in (*right, wrong[0]):
        qtbot.mouseClick(guess.paints[names.index(name)], Qt.MouseButton.LeftButton)
    assert [choice.name for choice in guess.paints if choice.isChecked()] == sorted(
        (right[1], wrong[0]), key=names.index
    )
    qtbot.mouseClick(guess.paints[names.index(wrong[0])], Qt.MouseButton.LeftButton)
    assert not guess.act.isEnabled()  # one alone is no answer
    qtbot.mouseClick(guess.paints[names.index(wrong[1])], Qt.MouseButton.LeftButton)
    qtbot.mouseClick(guess.act, Qt.MouseButton.LeftButton)
    assert guess.verdict.text().startswith("It is ")
    assert [choice.name for choice in guess.paints if choice.mark] == sorted(right, key=names.index)
    before = [choice.name for choice in guess.paints if choice.isChecked()]
    qtbot.mouseClick(guess.paints[0], Qt.MouseButton.LeftButton)  # answered is answered
    assert [choice.name for choice in guess.paints if choice.isChecked()] == before


def test_no_hint_shows_every_paint_that_was_read(guess):
    turn(guess, GuessKind.PAINTS)
    guess.count.setCurrentIndex(2)
    settle(guess.window(), 5)
    unread = guess.session.learning.unread
    assert len(guess.paints) == sum(name.casefold() not in unread for name in guess.weighing.names)
    guess.count.setCurrentIndex(1)
    assert len(guess.paints) == 3


def test_drying_says_what_it_needs_and_asks_once_it_is_there(qtbot, demo, guess):
    session = demo.session
    with session.file.disk.transaction() as db:
        db.execute("UPDATE readings SET trust = 'excluded' WHERE trust = 'wet'")
    guess.entered()
    turn(guess, GuessKind.DRIES)
    assert guess.question is None
    assert "wet" in demo.weigh.subtitle.text()
    assert guess.kinds.y() < 20  # the strip stays at its place above nothing
    row = next(
        r for r in session.file.rows("readings", "cell_id NOT NULL AND trust = 'good' AND mixing = ''")
    )
    with session.file.disk.transaction() as db:
        db.execute(
            "INSERT INTO readings (recipe, ground, L, a, b, sheet_id, cell_id, taken, trust) "
            "VALUES (?, 'paper', ?, ?, ?, ?, ?, ?, 'wet')",
            (row["recipe"], row["L"] - 7, row["a"], row["b"], row["sheet_id"], row["cell_id"], row["taken"]),
        )
    guess.entered()
    assert guess.question.kind == GuessKind.DRIES
    answer_by_keys(qtbot, guess)
    assert guess.verdict.text().startswith("Right")


@pytest.mark.long
def test_a_drawn_pair_goes_from_the_guess_to_the_painted_answer(qtbot, demo, guess):
    guess.kinds.choose(DRAW)
    settle(demo, 10)
    draws = guess.draws
    key(qtbot, guess, Qt.Key.Key_Return)
    assert drawn_pairs(demo.session.file) == []  # nothing is chosen yet
    pair = draws.drawn
    key(qtbot, guess, "4")
    qtbot.mouseClick(draws.keep, Qt.MouseButton.LeftButton)
    settle(demo, 10)
    (drawn,) = drawn_pairs(demo.session.file)
    assert drawn.recipe == pair.recipe
    assert np.allclose(drawn.guess, pair.options[3])
    assert draws.drawn.recipe != pair.recipe  # another one lies there
    assert "not painted" in draws.rows[0].words
    # planned as a page
    qtbot.mouseClick(draws.plan, Qt.MouseButton.LeftButton)
    settle(demo, 40)
    assert demo.tabs.current == RoomName.PLAN
    assert demo.plan.trying.keep()
    settle(demo, 40)
    demo.show_room(RoomName.WEIGH)
    settle(demo, 40)
    wait(demo)
    assert not draws.waiting()
    assert draws.plan.isHidden()
    # from its row to its sheet
    go = next(
        b for b in draws.area.findChildren(type(draws.keep)) if b.text() == "To its sheet" and b.isVisible()
    )
    qtbot.mouseClick(go, Qt.MouseButton.LeftButton)
    settle(demo, 40)
    assert demo.tabs.current == RoomName.PAINT
    sheet_id = demo.session.selection.sheet_id
    cell = next(entry for entry in sheet_record(demo.session.file, sheet_id).cells)
    demo.session.do(paint_acts.paint_cell(demo.session.file, sheet_id, cell.id))
    lab = tuple(float(v) for v in drawn.guess + np.array([2.0, 0.0, 0.0]))
    demo.session.do(acts.read_cell(demo.session.file, sheet_id, cell.id, lab))
    demo.show_room(RoomName.READ)
    demo.show_room(RoomName.WEIGH)
    wait(demo)
    assert draws.rows[0].drawn.painted is not None
    assert "your guess:" in draws.rows[0].words
    assert "Culmo's" in draws.rows[0].words
    assert "1 guess" in guess.score.score_words.text()
    drop = next(
        b for b in draws.area.findChildren(type(draws.keep)) if b.text() == "Let go" and b.isVisible()
    )
    qtbot.mouseClick(drop, Qt.MouseButton.LeftButton)
    assert drawn_pairs(demo.session.file) == []
    demo.session.undo.undo()
    assert len(drawn_pairs(demo.session.file)) == 1


@pytest.mark.long
def test_a_study_of_labels_only_is_asked_nothing_but_may_draw(qtbot, window, tmp_path):
    from support.builders import make_study

    make_study(tmp_path / "labels.culmo", cards=False).close()
    assert window.open_path(tmp_path / "labels.culmo")
    window.show_room(RoomName.WEIGH)
    window.weigh.shows.choose(WeighPageName.GUESS)
    wait(window)
    page = window.weigh.page(WeighPageName.GUESS)
    for place in range(DRAW):
        page.kinds.choose(place)
        settle(window, 5)
        assert page.question is None
        assert window.weigh.subtitle.text()
    page.kinds.choose(DRAW)
    settle(window, 10)
    assert page.draws.drawn is not None
    page.draws.choose(0)
    page.draws.guess()
    assert len(drawn_pairs(window.session.file)) == 1
