"""The limits of the words for texture follow the painter's marks: held against painters who mark by a limit of their own."""

import numpy as np
import pytest

from culmo.core.paint.texture import Texture
from culmo.core.paint.texture_words import Limits, Marked, limits_of, words_of


def texture(contrast=0.3, parting=0.3, soft=0.3):
    return Texture(contrast, 0.1, 0.6, parting, 0.1, (1.0, 0.0, 0.0), contrast, soft, 0.0)


def painted(own, count, rng, forgets=0.0, field="contrast", mark="granulates"):
    """Cells of a painter who marks what passes a limit of his own; now and then he forgets to."""
    found = []
    for value in np.exp(rng.uniform(np.log(0.3), np.log(8.0), count)):
        made = rng.random() < 1.0 / (1.0 + (own / value) ** 6) and rng.random() >= forgets
        found.append(Marked(texture(**{field: float(value)}), {mark} if made else set(), {mark}))
    return found


def test_before_any_mark_the_limits_are_the_usual_ones():
    found = limits_of([])
    for name in ("granulates", "separates", "blooms"):
        assert getattr(found, name) == pytest.approx(getattr(Limits(), name), rel=0.02)


@pytest.mark.parametrize(
    ("field", "mark", "name"),
    [
        ("contrast", "granulates", "granulates"),
        ("parting", "separates", "separates"),
        ("soft", "blooms", "blooms"),
    ],
)
@pytest.mark.parametrize("own", [0.9, 1.5, 3.2])
def test_the_limit_comes_to_that_of_the_painter(own, field, mark, name):
    rng = np.random.default_rng(5)
    few, many = (
        getattr(limits_of(painted(own, count, rng, field=field, mark=mark)), name) for count in (6, 200)
    )
    usual = getattr(Limits(), name)
    assert many == pytest.approx(own, rel=0.25)
    # by few marks it goes some of the way
    assert abs(np.log(few / own)) <= abs(np.log(usual / own)) + 0.3
    others = {"granulates", "separates", "blooms"} - {name}
    found = limits_of(painted(own, 60, rng, field=field, mark=mark))
    for other in others:
        assert getattr(found, other) == pytest.approx(getattr(Limits(), other), rel=0.02), (
            "of those no mark was made"
        )


def test_a_painter_who_forgets_to_mark_does_not_move_it_far():
    rng = np.random.default_rng(6)
    assert limits_of(painted(1.5, 200, rng, forgets=0.3)).granulates == pytest.approx(1.5, rel=0.3)


def test_where_a_mark_is_never_made_its_absence_says_nothing():
    silent = [Marked(texture(contrast=6.0), set(), {"blooms"}) for _ in range(200)]
    assert limits_of(silent).granulates == pytest.approx(Limits().granulates, rel=0.02)


def test_it_stays_within_reason_whatever_is_marked():
    wild = [Marked(texture(contrast=0.0), {"granulates"}, {"granulates"}) for _ in range(500)]
    assert 0.2 < limits_of(wild).granulates < Limits().granulates


def test_the_words_are_those_whose_limit_is_reached():
    assert words_of(texture(contrast=2.0, parting=0.5, soft=4.0), Limits()) == ["granulates", "blooms"]
    assert words_of(texture(contrast=2.0), Limits(granulates=2.5)) == []
