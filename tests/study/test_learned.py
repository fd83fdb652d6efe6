"""What was learned is kept between two days: the same figures come back, or it is learned anew."""

import hashlib
import json
import os
import random

import numpy as np
import pytest

from culmo.core.paint.estimate import learning
from culmo.core.paint.predict import predict
from culmo.core.paint.recipe import mix
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, learned, records
from culmo.study.learned import MOST_KEPT, find_kept, fingerprint, keep, learning_from
from support.builders import FIVE, make_sheet
from support.damaging import damaged


def taught_by(study):
    """What the learning of a study begins with."""
    return [(paint.name, paint.codes) for paint in records.paints(study, retired=True)], records.reading_rows(
        study
    )


@pytest.fixture
def found(study):
    """What a small study with a few mixes teaches."""
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:4])))
    for cell, lab in ((2, (50.0, 10.0, 10.0)), (3, (40.0, -12.0, 5.0))):
        study.apply(acts.read_cell(study, 1, cell, lab))
    return run_through(learning_from(*taught_by(study), None, None))


@pytest.fixture
def place(tmp_path):
    """The folder where it is kept."""
    folder = tmp_path / "not there yet" / "learned"
    folder.mkdir(parents=True)
    return folder


def test_what_was_kept_comes_back_exactly(found, place):
    place.rmdir()
    place.parent.rmdir()
    keep(place, found)
    again = find_kept(place, found.fingerprint)
    assert again is not None and again is not found
    assert again.estimate.names == found.estimate.names
    assert again.estimate.layout == found.estimate.layout
    for part in ("theta", "covariance", "weights"):
        assert np.array_equal(getattr(again.estimate, part), getattr(found.estimate, part))
    assert again.estimate.hand == found.estimate.hand
    assert (again.estimate.readings, again.estimate.settled) == (
        found.estimate.readings,
        found.estimate.settled,
    )
    assert again.unread == found.unread
    assert again.read_places == found.read_places
    assert again.read_mixes == found.read_mixes != set()
    assert again.weights == found.weights
    assert len(found.weights) == found.estimate.readings
    asked = [mix(FIVE[:2]), mix(FIVE[2:], wash=0.2)]
    assert np.array_equal(predict(again.estimate, asked).dE90, predict(found.estimate, asked).dE90)


def test_a_study_that_is_as_it_was_is_not_learned_anew(study, found, place, monkeypatch):
    keep(place, found)

    def never(*_):
        pytest.fail("it was learned anew")

    monkeypatch.setattr(learned, "learning", never)
    again = run_through(learning_from(*taught_by(study), None, place))
    assert np.array_equal(again.estimate.theta, found.estimate.theta)


@pytest.mark.parametrize(
    "act",
    [
        lambda study: acts.read_cell(study, 1, 5, (60.0, 1.0, 2.0)),
        lambda study: acts.add_paint(study, acts.PaintEntry("Sap", "PG36")),
        lambda study: acts.edit_paint(study, 1, acts.PaintEntry("Another name", "PB29")),
        lambda study: acts.read_cell(study, 1, 2, (50.0, 10.0, 10.000001)),
    ],
)
def test_whatever_teaches_otherwise_is_learned_anew(study, found, place, act):
    keep(place, found)
    command = act(study)
    study.apply(command)
    mark = fingerprint(*taught_by(study))
    assert mark != found.fingerprint
    assert find_kept(place, mark) is None
    study.revert(command)
    assert fingerprint(*taught_by(study)) == found.fingerprint


def test_another_program_learns_anew(study, found, place, monkeypatch):
    keep(place, found)
    monkeypatch.setattr(learned, "_program", lambda: b"the next version")
    assert fingerprint(*taught_by(study)) != found.fingerprint


def test_what_teaches_nothing_keeps_the_fingerprint(study, found):
    study.apply(acts.note_cell(study, 2, "dried with a bloom"))
    assert fingerprint(*taught_by(study)) == found.fingerprint


def test_random_damage_counts_as_not_there(found, place):
    keep(place, found)
    (path,) = place.iterdir()
    sound, rng = path.read_bytes(), random.Random(3)
    for _ in range(300):
        hurt = damaged(sound, rng)
        path.write_bytes(hurt)
        again = find_kept(place, found.fingerprint)
        assert (again is not None) == (hurt == sound)
    path.write_bytes(sound)
    assert find_kept(place, found.fingerprint) is not None


@pytest.mark.parametrize(
    "change",
    [
        {"names": []}, {"names": 3}, {"names": ["A"] * 5000}, {"grounds": [["paper"]]}, {"grounds": []}, {"hand": [1.0]},
        {"hand": ["x", 1, 1]}, {"weights": -1}, {"weights": "many"}, {"readings": None}, {"unread": 5}, {"mixes": 7},
        {"places": []}, {"places": {"a": [1]}}, {"fingerprint": "another"},
        {"readings": float("inf")},
    ],
)  # fmt: skip
def test_a_file_with_a_true_digest_that_makes_no_sense_counts_as_not_there(found, place, change):
    keep(place, found)
    (path,) = place.iterdir()
    head, numbers = path.read_bytes()[32:].split(b"\n", 1)
    body = json.dumps(json.loads(head) | change).encode() + b"\n" + numbers
    path.write_bytes(hashlib.sha256(body).digest() + body)
    assert find_kept(place, found.fingerprint) is None


@pytest.mark.parametrize("body", [b"", b"{", b"[1]\n", b"null\n", b"[" * 100_000 + b"\n", b"\n", b"\xff\n"])
def test_heads_that_are_none(place, body):
    (place / "mark.learned").write_bytes(hashlib.sha256(body).digest() + body)
    assert find_kept(place, "mark") is None


def test_a_vast_file_is_not_read(place):
    path = place / "mark.learned"
    path.touch()
    os.truncate(path, 3_000_000_000)
    assert find_kept(place, "mark") is None


def test_those_not_asked_for_the_longest_are_dropped(found, place):
    keep(place, found)
    (mine,) = place.iterdir()
    os.utime(mine, (0, 0))
    for day in range(MOST_KEPT - 1):
        other = place / f"{day}.learned"
        other.touch()
        os.utime(other, (100 + day, 100 + day))
    bystander = place / "not ours.txt"
    bystander.touch()
    assert find_kept(place, found.fingerprint) is not None  # which makes it the last asked for
    other = learned.Learned("newest", found.estimate, set(), set(), {}, set(), {})
    keep(place, other)
    names = {path.name for path in place.iterdir()}
    assert {mine.name, "newest.learned", "not ours.txt", "1.learned"} <= names
    assert "0.learned" not in names
    assert len(names) == MOST_KEPT + 1


def test_it_is_for_the_painters_own_eyes(found, place):
    keep(place, found)
    (mine,) = place.iterdir()
    assert mine.stat().st_mode & 0o077 == 0


def test_a_folder_that_can_not_be_made_is_told(found, place):
    (place / "file").write_text("in the way")
    with pytest.raises(CulmoError):
        keep(place / "file" / "learned", found)
    assert find_kept(place / "file" / "learned", found.fingerprint) is None


def test_the_command_line_and_the_window_learn_the_same(study, found):
    assert learned.learning is learning
    from culmo.core.paint.estimate import learn

    codes, rows = taught_by(study)
    plain = learn([name for name, _ in codes], [records.reading_of(row) for row in rows])
    assert np.allclose(plain.theta, found.estimate.theta)
