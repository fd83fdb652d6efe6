"""Laws of learning that hold whatever the paints are: of order, of names, of more and of fewer readings, of papers."""

import itertools

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict, predict_lab
from culmo.core.paint.readings import INK, MOST_OF_A_PAINT, Reading, Trust, taught
from culmo.core.paint.recipe import Recipe, mix
from support.paints import make_painter


@pytest.fixture(scope="module")
def painted():
    """Six paints, their cards, and all their half-and-half mixes in two washes as one hand painted them."""
    painter = make_painter(6, seed=11)
    names = [paint.name for paint in painter.paints]
    asked = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
    return names, painter.cards(), [painter.read(recipe) for recipe in asked], asked


@pytest.fixture(scope="module")
def whole(painted):
    """What all of it teaches."""
    names, cards, mixes, _ = painted
    return learn(names, cards + mixes)


def same(one, other, asked, tolerance=0.05):
    """Whether two estimates predict the same, colours and spreads."""
    a, b = predict(one, asked), predict(other, asked)
    return delta_e_00(a.lab, b.lab).max() < tolerance and np.abs(a.dE90 / b.dE90 - 1.0).max() < 0.02


def test_the_order_of_readings_does_not_matter(painted, whole):
    names, cards, mixes, asked = painted
    shuffled = [(cards + mixes)[i] for i in np.random.default_rng(0).permutation(len(cards) + len(mixes))]
    # the first tint of a paint is its card's: that order is kept
    shuffled.sort(key=lambda reading: len(reading.recipe.names) > 1)
    tints = [reading for reading in cards if reading.recipe.is_pure and reading.recipe.layers[0].wash == 0.2]
    shuffled = tints + [reading for reading in shuffled if reading not in tints]
    assert same(learn(names, shuffled), whole, asked)


def test_the_order_of_paints_does_not_matter(painted, whole):
    names, cards, mixes, asked = painted
    turned = names[3:] + names[:3]
    other = learn(turned, cards + mixes)
    assert other.names == tuple(turned)
    assert same(other, whole, asked)


def test_names_are_only_names(painted, whole):
    names, cards, mixes, asked = painted
    called = {name: f"{name} of the second drawer, number {i}" for i, name in enumerate(names)}

    def renamed(recipe):
        return recipe.renamed(lambda name: called[name])

    readings = [Reading(renamed(r.recipe), r.lab, r.ground) for r in cards + mixes]
    other = learn(list(called.values()), readings)
    assert np.allclose(other.theta, whole.theta)
    assert np.array_equal(
        predict(other, [renamed(recipe) for recipe in asked]).dE90, predict(whole, asked).dE90
    )


def test_a_paint_that_is_not_read_changes_nothing_for_the_others(painted, whole):
    names, cards, mixes, asked = painted
    assert same(learn([*names, "Never opened"], cards + mixes), whole, asked)


def test_readings_that_do_not_teach_change_nothing(painted, whole):
    names, cards, mixes, asked = painted
    wrong = [
        Reading(recipe, (90.0, -40.0, 60.0), trust=trust)
        for recipe in asked[:4]
        for trust in (Trust.WET, Trust.DOUBTFUL, Trust.EXCLUDED)
    ]
    wrong += [
        Reading(mix([names[0]]), (95.0, 0.0, 0.0), treatment=how) for how in ("lifted", "rubbed", "exposed")
    ]
    other = learn(names, cards + mixes + wrong)
    assert np.array_equal(other.theta, whole.theta)
    assert other.readings == whole.readings


def test_each_reading_brings_its_mix_nearer_and_makes_it_surer(painted):
    names, cards, mixes, asked = painted
    before = learn(names, cards)
    was, truth = predict(before, asked), np.array([reading.lab for reading in mixes])
    nearer, surer = [], []
    for place in range(0, len(asked), 4):
        after = predict(learn(names, [*cards, mixes[place]]), [asked[place]])
        nearer.append(delta_e_00(after.lab[0], truth[place]) - delta_e_00(was.lab[place], truth[place]))
        surer.append(after.dE90[0] / was.dE90[place])
    assert np.mean(np.array(nearer) < 0.05) >= 0.85
    assert np.median(nearer) < 0
    assert max(surer) < 1.03
    assert np.median(surer) < 0.95


def test_more_readings_make_all_mixes_surer_in_the_middle(painted, whole):
    names, cards, mixes, asked = painted
    spreads = [np.median(predict(learn(names, cards + mixes[:many]), asked).dE90) for many in (0, 8, 20)]
    spreads.append(np.median(predict(whole, asked).dE90))
    # a little wider where the readings tell that the hand is less steady than was believed
    assert all(later < earlier * 1.05 for earlier, later in itertools.pairwise(spreads))
    assert spreads[-1] < 0.8 * spreads[0]


def test_the_hand_is_part_of_every_spread(painted, whole):
    """However much is read, the hand's slips stay: a mix is never surer than the hand is steady."""
    _, _, _, asked = painted
    from culmo.core.paint.optics import linearise
    from culmo.core.paint.predict import batch_for, radius_of_nine_in_ten

    linear = linearise(whole.layout, whole.theta, batch_for(whole, asked))
    hand = radius_of_nine_in_ten(linear.lab, whole.hand.covariance(linear))
    assert np.all(predict(whole, asked).dE90 >= hand * 0.999)


def test_a_card_that_is_taken_away_is_forgotten(painted):
    names, cards, _, _ = painted
    gone = [reading for reading in cards if reading.recipe.is_pure and names[2] not in reading.recipe.names]
    bare = [reading for reading in cards if not reading.recipe.layers]
    forgotten = learn(names, gone + bare)
    never = learn([*names[:2], *names[3:], names[2]], gone + bare)
    pure = [mix([names[2]]), mix([names[2]], wash=0.2)]
    assert same(forgotten, never, pure)
    assert predict(forgotten, pure).dE90.min() > 15  # nothing is known of it


def test_the_bare_ground_is_what_was_read_and_no_paint_moves_it_far(painted, whole):
    _, cards, _, _ = painted
    for ground in ("paper", INK):
        read = [reading.lab for reading in cards if not reading.recipe.layers and reading.ground == ground]
        if read:
            told = predict_lab(whole, [Recipe()], [ground])[0]
            assert delta_e_00(told, np.mean(read, axis=0)) < 3.0


def test_over_ink_nothing_is_lighter_than_over_paper(painted, whole):
    names, _, _, asked = painted
    everything = [*asked, *(mix([name]) for name in names)]
    paper, ink = (predict_lab(whole, everything, [ground] * len(everything)) for ground in ("paper", INK))
    assert np.all(ink[:, 0] <= paper[:, 0] + 1e-6)


def test_of_very_many_readings_the_latest_are_taken(painted):
    names = ["A", "B"]
    many = [Reading(mix(names, [1 + i % 5, 1]), (50.0, float(i % 7), 0.0), extra=i) for i in range(200)]
    kept = taught(many)
    assert len(kept) == MOST_OF_A_PAINT
    assert [reading.extra for reading in kept] == list(range(200 - MOST_OF_A_PAINT, 200))
    # a new paint among them is taken in whatever the other has seen
    late = [*many, *(Reading(mix(["A", "C"]), (40.0, 0.0, float(i)), extra=1000 + i) for i in range(3))]
    assert {1000, 1001, 1002} <= {reading.extra for reading in taught(late)}


@pytest.mark.parametrize("seed", range(8))
def test_what_is_taken_of_many_is_taken_whole_when_asked_again(seed):
    rng = np.random.default_rng(seed)
    names = [f"P{i}" for i in range(6)]
    many = []
    for number in range(600):
        own = list(rng.choice(names, size=rng.integers(1, 4), replace=False))
        wash = float(rng.choice([0.2, 0.5, 1.0]))
        trust = str(rng.choice(["good", "good", "good", Trust.WET, Trust.EXCLUDED]))
        many.append(
            Reading(
                mix(own, wash=wash), (50.0, 0.0, 0.0), rng.choice(["paper", INK]), trust=trust, extra=number
            )
        )
    once = taught(many)
    assert 0 < len(once) < len(many)
    assert taught(once) == once
    assert [reading.extra for reading in once] == sorted(reading.extra for reading in once)
