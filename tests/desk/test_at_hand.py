"""The window goes on while a large sheet is laid out: forty paints, each with each, while one types, ticks and drags."""

import threading
import time

import pytest
from PySide6.QtCore import Qt, QThread
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from culmo.core.chart.options import SomePaints
from culmo.desk import drawn_sheet
from culmo.desk.app import settle
from culmo.desk.jobs import GRACE_MS, Runner
from culmo.desk.rooms.plan import trying
from culmo.study import acts
from support.begun import new_grid
from support.forty import try_all_of


@pytest.fixture
def forty(window, tmp_path):
    """The window with forty paints, known by their codes, and a grid of all of them that is tried."""
    try_all_of(window, tmp_path / "forty.culmo", 40)
    assert len(window.plan.trial.cells) == 1600
    window.session.drawing.grace_ms = GRACE_MS
    return window


@pytest.fixture
def held(monkeypatch):
    """Holds what is laid out till it is let go; says in which threads anything was laid out, ordered, predicted or drawn."""
    gate, threads = threading.Event(), set()

    def watched(work, wait=False):
        def working(*arguments, **more):
            threads.add(threading.get_ident())
            if wait:
                assert gate.wait(60.0), "the window waits for what it should not wait for"
            return work(*arguments, **more)

        return working

    monkeypatch.setattr(trying, "lay_out", watched(trying.lay_out, wait=True))
    for module, name in (
        (trying, "predict_known"),
        (trying, "ordering"),
        (trying, "advice"),
        (drawn_sheet, "drawing_sheet"),
    ):
        monkeypatch.setattr(module, name, watched(getattr(module, name)))
    yield gate, threads
    gate.set()


def turns(window, count: int = 20) -> None:
    """Let the window turn its loop some times; it does not wait for what is under way."""
    for _ in range(count):
        QApplication.processEvents()
        QThread.msleep(2)


@pytest.mark.long
def test_nobody_waits_while_forty_paints_are_laid_out(forty, held, monkeypatch):
    gate, threads = held
    waits: list[float | None] = []
    wait = Runner.wait

    def watched(runner, key, milliseconds=None):
        waits.append(milliseconds)
        return wait(runner, key, milliseconds)

    monkeypatch.setattr(Runner, "wait", watched)
    before, box = forty.plan.trial, forty.plan.slip.layout_page.fields["title"].widget
    box.setFocus()
    for letter in "abc":
        QTest.keyClicks(box, letter)
        turns(forty)
    item = forty.plan.slip.layout_page.fields["paints"].widget.item(39)
    item.setCheckState(Qt.CheckState.Unchecked)
    forty.plan.slip.layout_page.fields["gap_mm"].slider.setValue(3)
    turns(forty)
    assert box.text().endswith("abc")  # all that was asked for is in the fields, and the last sheet stands
    assert forty.plan.trial is before
    assert forty.plan.view.picture.image is not None
    gate.set()
    settle(forty, 30)
    assert forty.plan.trial.title.endswith("abc")
    assert len(forty.plan.trial.cells) == 1521
    assert threading.get_ident() not in threads
    assert threads
    assert set(waits) == {GRACE_MS}
    assert GRACE_MS <= 25.0  # what nobody feels


@pytest.mark.long
def test_what_is_typed_stands_though_other_things_end_meanwhile(forty, held):
    """A kept sheet is on the table and another is begun: what is learned meanwhile does not fill its fields anew."""
    gate, _ = held
    gate.set()
    plan, page = forty.plan, forty.plan.slip.layout_page
    names = [paint.name for paint in forty.session.paints]
    page.fields["paints"].set_text(SomePaints().write(names[:3]))
    page._edited()
    assert plan.trying.keep()
    kept = forty.session.selection.sheet_id
    gate.clear()
    new_grid(plan)
    page.fields["paints"].set_text(SomePaints().write(names[:5]))
    page._edited()
    assert "plan" in forty.session.unsaved.entries  # it is asked about, though it is not on view yet
    forty.session.learning.learned.emit()
    forty.session.selection.select_sheet(kept)
    turns(forty)
    assert len(page.fields["paints"].chosen()) == 5
    gate.set()
    settle(forty, 30)
    assert len(plan.trial.cells) == 25
    assert plan.trying.keep()
    assert len(forty.session.file.rows("sheets")) == 2  # a new one, and the other is as it was
    assert len(forty.session.file.rows("cells", "sheet_id = ?", (kept,))) == 9


@pytest.mark.long
def test_a_paint_renamed_meanwhile_bears_its_new_name_on_what_is_laid_out(forty, held):
    gate, _ = held
    page = forty.plan.slip.layout_page
    page.fields["paints"].set_text(SomePaints().write([paint.name for paint in forty.session.paints][:3]))
    page._edited()
    first = forty.session.paints[0]
    entry = acts.PaintEntry("Moss", first.codes)
    assert forty.session.do(acts.edit_paint(forty.session.file, first.id, entry))
    gate.set()
    settle(forty, 30)
    assert {name for cell in forty.plan.trial.cells for name in cell.recipe.names} >= {"Moss"}
    assert first.name not in {name for cell in forty.plan.trial.cells for name in cell.recipe.names}
    assert forty.plan.trying.keep()


@pytest.mark.long
def test_a_mistake_in_the_drawing_is_told_and_the_last_picture_stands(forty, monkeypatch, qtbot):
    def broken(*_):
        yield 0.0
        raise ValueError("no such brush")

    before = forty.plan.view.picture.image
    monkeypatch.setattr(drawn_sheet, "drawing_sheet", broken)
    with qtbot.capture_exceptions() as told:
        forty.plan.refresh()
        settle(forty, 30)
    assert any("no such brush" in str(error) for _, error, _ in told)
    assert forty.plan.view.picture.image is before


@pytest.mark.long
def test_the_last_picture_stands_until_the_next_is_there(forty, qtbot):
    before = forty.plan.trial
    field = forty.plan.slip.layout_page.fields["paints"]
    item = field.widget.item(39)
    item.setCheckState(Qt.CheckState.Unchecked)
    assert forty.plan.trial is before  # 1,521 cells are not laid out in the blink of an eye
    assert forty.plan.view.picture.image is not None
    assert not forty.plan.slip.layout_page.message.text()
    settle(forty, 20)
    assert len(forty.plan.trial.cells) == 1521


@pytest.mark.long
def test_what_is_kept_is_what_was_typed_last(forty):
    field = forty.plan.slip.layout_page.fields["paints"]
    names = [paint.name for paint in forty.session.paints]
    field.set_text(SomePaints().write(names[:9]))
    forty.plan.slip.layout_page._edited()
    field.set_text(SomePaints().write(names[:30]))
    forty.plan.slip.layout_page._edited()
    assert forty.plan.trying.keep()
    assert len(forty.state.record.cells) == 900


@pytest.mark.long
def test_leaving_the_plan_forgets_what_is_being_laid_out(forty):
    field = forty.plan.slip.layout_page.fields["paints"]
    field.set_text(SomePaints().write([paint.name for paint in forty.session.paints][:30]))
    forty.plan.slip.layout_page._edited()
    forty.plan.trying.discard()
    settle(forty, 20)
    assert forty.plan.trial is None


def test_work_that_ends_in_time_is_taken_at_once_and_only_once(qtbot):
    runner, found = Runner(), []

    def work(seconds):
        def steps():
            time.sleep(seconds)
            yield 0.5
            return seconds

        return steps

    runner.start("a", work(0.01), found.append, found.append)
    assert runner.wait("a", 20_000)
    assert found == [0.01]
    qtbot.wait(30)
    assert found == [0.01]
    runner.start("b", work(0.5), found.append, found.append)
    assert not runner.wait("b", 1)
    assert found == [0.01]
    runner.start("b", work(0.02), found.append, found.append)  # the newer takes the place of the older
    assert runner.wait("b")
    assert found == [0.01, 0.02]
    assert runner.wait("nothing of the kind")

    def failing():
        yield 0.1
        raise ValueError("broken")

    runner.start("c", failing, found.append, lambda message: found.append(message))
    assert runner.wait("c")
    assert found[-1] == "ValueError: broken"
    runner.close()
