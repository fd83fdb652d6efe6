"""Work in the background: it tells its progress, is replaced and stopped, and what goes wrong in it is told."""

import logging
import threading
import time

import pytest

from culmo.desk.jobs import Runner
from culmo.errors import CulmoError


@pytest.fixture
def runner(qapp):
    """A runner; nothing of it goes on afterwards."""
    runner = Runner()
    yield runner
    runner.close()


class Heard:
    """What a piece of work says."""

    def __init__(self, runner):
        self.results, self.failures, self.shares, self.ended = [], [], [], []
        runner.progress.connect(lambda key, share: self.shares.append((key, share)))
        runner.finished.connect(self.ended.append)


def counting(many, result="done"):
    """Work of so many steps."""

    def work():
        for step in range(many):
            yield step / many
        return result

    return work


def gated(gate, begun=None, result="late"):
    """Work that goes on when a gate is opened."""

    def work():
        if begun is not None:
            begun.set()
        while not gate.is_set():
            time.sleep(0.002)
            yield 0.5
        return result

    return work


def test_work_tells_its_progress_and_its_result(qtbot, runner):
    heard = Heard(runner)
    runner.start("count", counting(4), heard.results.append, heard.failures.append)
    assert runner.busy() and runner.busy("count") and not runner.busy("other")
    qtbot.waitUntil(lambda: not runner.busy())
    assert heard.results == ["done"]
    assert heard.shares == [("count", step / 4) for step in range(4)]
    assert heard.ended == ["count"]
    assert not heard.failures


def test_work_of_another_key_runs_beside_it(qtbot, runner):
    heard, gate = Heard(runner), threading.Event()
    runner.start("slow", gated(gate), heard.results.append, heard.failures.append)
    runner.start("quick", counting(1, "quick"), heard.results.append, heard.failures.append)
    qtbot.waitUntil(lambda: heard.results == ["quick"])
    assert runner.busy("slow")
    gate.set()
    qtbot.waitUntil(lambda: heard.results == ["quick", "late"])


def test_newer_work_of_a_key_takes_the_place_of_the_older(qtbot, runner):
    heard, gate, begun = Heard(runner), threading.Event(), threading.Event()
    runner.start("learn", gated(gate, begun, "old"), heard.results.append, heard.failures.append)
    qtbot.waitUntil(begun.is_set)
    runner.start("learn", counting(2, "new"), heard.results.append, heard.failures.append)
    gate.set()
    qtbot.waitUntil(lambda: not runner.busy())
    qtbot.wait(30)
    assert heard.results == ["new"]


def test_two_of_a_key_are_never_at_work_at_once(qtbot, runner):
    at_work, most = [], []

    def work():
        at_work.append(1)
        most.append(len(at_work))
        try:
            for _ in range(5):
                time.sleep(0.002)
                yield 0.5
        finally:
            at_work.pop()
        return None

    for _ in range(12):
        runner.start("learn", work, lambda _: None, pytest.fail)
        qtbot.wait(3)
    qtbot.waitUntil(lambda: not runner.busy())
    assert max(most) == 1


def test_stopped_work_says_nothing_more(qtbot, runner):
    heard, gate = Heard(runner), threading.Event()
    runner.start("learn", gated(gate), heard.results.append, heard.failures.append)
    runner.cancel("learn")
    assert not runner.busy()
    assert heard.ended == ["learn"]
    gate.set()
    qtbot.wait(40)
    assert not heard.results and not heard.failures
    runner.cancel("learn")  # there is nothing to stop any more
    assert heard.ended == ["learn"]


def test_an_expected_error_is_told_in_its_own_words(qtbot, runner):
    heard = Heard(runner)

    def work():
        yield 0.0
        raise CulmoError("the picture shows no sheet")

    runner.start("read", work, heard.results.append, heard.failures.append)
    qtbot.waitUntil(lambda: not runner.busy())
    assert heard.failures == ["the picture shows no sheet"]
    assert not heard.results


def test_a_defect_is_told_and_logged_whole(qtbot, runner, caplog):
    heard = Heard(runner)

    def work():
        yield 0.0
        raise ZeroDivisionError("of nothing")

    with caplog.at_level(logging.ERROR, "culmo"):
        runner.start("read", work, heard.results.append, heard.failures.append)
        qtbot.waitUntil(lambda: not runner.busy())
    assert heard.failures == ["ZeroDivisionError: of nothing"]
    assert "Traceback" in caplog.text and "background work read failed" in caplog.text


def test_work_that_fails_before_its_first_step_is_told_too(qtbot, runner):
    heard = Heard(runner)

    def work():
        raise CulmoError("at once")
        yield 0.0

    runner.start("read", work, heard.results.append, heard.failures.append)
    qtbot.waitUntil(lambda: not runner.busy())
    assert heard.failures == ["at once"]
    runner.start("read", counting(1), heard.results.append, heard.failures.append)  # and the next one runs
    qtbot.waitUntil(lambda: heard.results == ["done"])


def test_closing_waits_for_the_threads(qapp):
    runner, ended = Runner(), []

    def work():
        try:
            while True:
                time.sleep(0.002)
                yield 0.1
        finally:
            ended.append(1)

    runner.start("endless", work, pytest.fail, pytest.fail)
    time.sleep(0.02)
    runner.close()
    assert not runner.busy()
    assert ended == [1]
