"""Linear algebra is held to one thread where the work is done, whatever the process began with."""

import subprocess
import sys
from collections.abc import Generator

import numpy as np
import pytest
from threadpoolctl import threadpool_info, threadpool_limits

from culmo.core.paint.estimate import learn
from culmo.core.paint.jacobian import Jacobian
from culmo.core.paint.recipe import mix
from culmo.core.threads import one_thread, steps_on_one_thread
from support.paints import make_painter


def in_force() -> set[int]:
    return {pool["num_threads"] for pool in threadpool_info()}


@pytest.fixture(autouse=True)
def two_threads() -> Generator[None, None, None]:
    with threadpool_limits(2):
        yield


def test_learning_holds_linear_algebra_to_one_thread_and_lets_go_of_it(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    seen: list[set[int]] = []
    squared = Jacobian.squared

    def watched(*args: object) -> object:
        seen.append(in_force())
        return squared(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(Jacobian, "squared", watched)
    painter = make_painter(2, seed=1)
    names = [paint.name for paint in painter.paints]
    learn(names, [*painter.cards(), painter.read(mix(names))])
    assert seen and all(threads == {1} for threads in seen)
    assert in_force() == {2}


def test_the_limit_stands_until_the_last_of_overlapping_works_has_ended() -> None:
    @steps_on_one_thread
    def work() -> Generator[int, None, str]:
        yield 1
        yield 2
        return "done"

    first, second = work(), work()
    assert in_force() == {2}  # a generator has done nothing yet
    next(first), next(second)
    first.close()
    assert in_force() == {1}
    with pytest.raises(StopIteration, match="done"):
        for _ in range(3):
            next(second)
    assert in_force() == {2}


def test_an_error_lets_go_too() -> None:
    @one_thread
    def work() -> None:
        assert in_force() == {1}
        np.linalg.inv(np.zeros((2, 2)))

    with pytest.raises(np.linalg.LinAlgError):
        work()
    assert in_force() == {2}


def test_a_library_that_is_loaded_while_the_limit_stands_is_held_too() -> None:
    script = """
from threadpoolctl import threadpool_info, threadpool_limits
from culmo.core.threads import one_thread
import numpy
with one_thread:
    import scipy.linalg
    threads = {pool["filepath"]: pool["num_threads"] for pool in threadpool_info()}
    assert len(threads) == 2, threads
    with one_thread:
        assert {pool["num_threads"] for pool in threadpool_info()} == {1}
"""
    subprocess.run([sys.executable, "-c", script], check=True)
