"""How deep washes came out, held against a world of another physics.

Light goes through a clear layer twice (Beer's law), some of it is thrown back by a haze, and an uneven film is averaged. No
formula of it is the model's.
"""

from dataclasses import replace

import numpy as np
import pytest

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.paint.depth import (
    Depth,
    WashDepth,
    class_of_wash,
    depths,
    reached_by_class,
    strength_words,
    unit_of,
)
from culmo.core.paint.estimate import learn
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix, parse_recipe
from support.paints import make_painter

PARTS = ((1, 1), (2, 1), (3, 1), (1, 3))


class BeersHand:
    """A painter in the other world, whose middle washes and tints come out by some factor."""

    def __init__(self, seed, factors, count=10):
        self.rng = np.random.default_rng(seed)
        paints = make_painter(count, seed).paints
        self.names = [paint.name for paint in paints]
        self.dark = np.array([paint.absorption for paint in paints])
        self.haze = self.rng.uniform(0.0, 0.12, count)
        self.factors = factors

    def cell(self, names, parts, wash):
        shares = np.zeros(len(self.names))
        for name, part in zip(names, parts, strict=True):
            shares[self.names.index(name)] = part * np.exp(self.rng.normal(0, 0.12))
        shares /= shares.sum()
        film = wash * self.factors.get(wash, 1.0) * np.exp(self.rng.normal(0, 0.12))
        light = np.zeros(36)
        for thick in film * np.exp(0.15 * np.linspace(-1.5, 1.5, 7)):
            through = np.exp(-1.15 * (shares @ self.dark) * thick)
            hazy = float(shares @ self.haze) * (1.0 - np.exp(-thick))
            light += (0.9 * through**2 * (1.0 - 0.8 * hazy) + 0.8 * hazy * np.sqrt(through)) / 7
        lab = lab_from_reflectance(0.96 * light + 0.02) + self.rng.normal(0, 0.5, 3)
        return Reading(mix(names, parts, wash), tuple(float(value) for value in lab))

    def readings(self, mixes=70):
        found = [self.cell([name], [1], wash) for name in self.names for wash in (1.0, 0.2)]
        for _ in range(mixes):
            pair = [self.names[i] for i in self.rng.choice(len(self.names), 2, replace=False)]
            wash = (1.0, 0.5, 0.2)[self.rng.integers(3)]
            found.append(self.cell(pair, PARTS[self.rng.integers(len(PARTS))], wash))
        return found


def judged(hand, readings):
    found = depths(learn(hand.names, readings), readings)
    return {one.kind: one for one in reached_by_class(found, unit_of(found))}, found


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_washes_that_came_out_as_planned_are_left_alone(seed):
    hand = BeersHand(seed, {})
    reached, found = judged(hand, hand.readings())
    assert sum(one is None for one in found) < 8
    assert set(reached) == {WashDepth.FULL, WashDepth.MIDDLE, WashDepth.TINT}
    assert not any(one.sure for one in reached.values())


@pytest.mark.long
@pytest.mark.parametrize(("factor", "words"), [(4 / 3, "two thirds"), (0.66, "a third")])
def test_middle_washes_that_came_out_otherwise_are_found(factor, words):
    found = []
    for seed in (1, 2, 3, 4):
        hand = BeersHand(seed, {0.5: factor})
        reached, _ = judged(hand, hand.readings())
        one = reached[WashDepth.MIDDLE]
        assert one.sure
        assert one.planned == 0.5
        assert abs(np.log(one.reached / (0.5 * factor))) < 0.16  # within a sixth in each world
        assert not reached[WashDepth.FULL].sure
        # painted as it is then told to be, it would come out as it was wanted
        assert abs(np.log(min(1.0, one.wanted) * factor / 0.5)) < 0.16 or one.wanted == 1.0
        found.append(one.reached)
    assert strength_words(float(np.median(found))) == words


def test_a_sheet_of_thin_full_washes_stands_out_against_the_others():
    hand = BeersHand(5, {})
    usual = hand.readings(40)
    hand.factors = {1.0: 0.7}
    thin = [hand.cell([name], [1], 1.0) for name in hand.names]
    found = depths(learn(hand.names, usual + thin), usual + thin)
    (one,) = reached_by_class(found[len(usual) :], unit_of(found[: len(usual)]))
    assert one.kind == WashDepth.FULL
    assert one.sure
    assert one.reached < 0.88


def test_what_does_not_tell_is_passed_over():
    hand = BeersHand(6, {})
    readings = hand.readings(20)
    first = hand.names[0]
    strange = [
        replace(readings[0], trust="wet"), replace(readings[0], trust="doubtful"), replace(readings[0], ground=INK),
        replace(readings[0], mixing="wet"), replace(readings[0], treatment="lifted"),
        Reading(parse_recipe(f'"{first}" over "{hand.names[1]}"'), (40.0, 0.0, 0.0)),
        Reading(mix(["Nobody"]), (40.0, 0.0, 0.0)), Reading(mix([first]), (50.0, -90.0, 90.0)),
        Reading(parse_recipe("-"), (96.0, 0.0, 1.0)),
    ]  # fmt: skip
    estimate = learn(hand.names, readings)
    assert depths(estimate, strange) == [None] * len(strange)
    assert depths(estimate, []) == []
    two = [Depth(0.5, 0.4, 0.05)] * 2
    assert reached_by_class([*two, None]) == []


@pytest.mark.parametrize(
    ("wash", "kind"),
    [
        (1.0, WashDepth.FULL),
        (0.75, WashDepth.FULL),
        (0.74, WashDepth.MIDDLE),
        (0.32, WashDepth.MIDDLE),
        (0.3, WashDepth.TINT),
        (0.05, WashDepth.TINT),
    ],
)
def test_washes_have_three_kinds(wash, kind):
    assert class_of_wash(wash) == kind


def test_the_strength_to_aim_at_is_the_same_step_the_other_way():
    def one(depth):
        return reached_by_class([Depth(0.5, depth, 0.02)] * 9)[0]

    assert one(2 / 3).wanted == pytest.approx(0.375)
    assert one(0.4).wanted == pytest.approx(0.625)
    assert one(0.2).wanted == 1.0  # no puddle is stronger than full
    assert one(2 / 3).sure
    assert not one(0.52).sure
