"""Work in steps: a part of a longer work shows its progress as a share of it, and ends when that is given up."""

import pytest

from culmo.core.steps import run_through, scaled


def work(ended):
    try:
        yield 0.0
        yield 0.5
        return "done"
    finally:
        ended.append(True)


def test_a_part_goes_from_its_share_to_its_share_and_gives_its_result():
    ended = []
    steps = scaled(work(ended), 0.2, 0.6)
    assert [next(steps), next(steps)] == pytest.approx([0.2, 0.4])
    assert run_through(scaled(work(ended), 0.2, 0.6)) == "done"


def test_a_part_that_is_given_up_ends_at_once():
    ended = []
    part = work(ended)  # held here, so that nothing sweeps it up
    steps = scaled(part, 0.0, 1.0)
    next(steps)
    assert not ended
    steps.close()
    assert ended
