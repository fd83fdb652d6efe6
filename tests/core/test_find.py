"""Finding mixes: the nearest, the safest, from a puddle, in the place of a paint, schemes, clusters."""

import itertools

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import lab_from_srgb
from culmo.core.paint.estimate import learn
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.core.palette.cluster import colours_of_picture, nearly_equal
from culmo.core.palette.lattice import build_lattice, lattice_colours
from culmo.core.palette.likeness import resembles, substitutes
from culmo.core.palette.match import (
    MOST_PARTS,
    amount_words,
    expected_miss,
    fitting_groups,
    nearest_and_safest,
    nearest_recipes,
    touches,
)
from culmo.core.palette.mixer import chroma_of, hue_apart, hue_of, mixer_of
from culmo.core.palette.schemes import PLACES, scheme
from culmo.core.steps import run_through
from culmo.data import pigment_table
from culmo.errors import CulmoError
from support.boxes import make_mixer
from support.paints import make_painter


@pytest.fixture(scope="module")
def lattice():
    return build_lattice(make_mixer(12, 6))


@pytest.fixture(scope="module")
def learned():
    painter = make_painter(10, 5)
    names = [paint.name for paint in painter.paints]
    return painter, learn(names, painter.cards())


def dense_best(lattice, target):
    """The nearest of all mixes of three in twelfths, at nine washes and as interpolated between."""
    n = len(lattice.names)
    twelfths = np.array([p for p in itertools.product(range(13), repeat=3) if sum(p) == 12], dtype=float)
    best = np.inf
    for three in itertools.combinations(range(n), 3):
        members = np.tile(np.array(three), (len(twelfths), 1))
        lab = run_through(lattice_colours(lattice.mixer, members, twelfths)).astype(float)
        between = 0.5 * (lab[:, 1:] + lab[:, :-1])
        best = min(best, float(delta_e_00(lab, target).min()), float(delta_e_00(between, target).min()))
    return best


@pytest.mark.long
def test_recipes_are_as_near_as_a_dense_search_finds(lattice):
    rng = np.random.default_rng(3)
    for number in range(6):
        if number % 2:
            target = np.array([rng.uniform(25, 85), rng.uniform(-50, 50), rng.uniform(-50, 50)])
        else:
            target = lattice.lab.reshape(-1, 3)[rng.integers(lattice.lab.size // 3)] + rng.normal(0, 1, 3)
        found = nearest_recipes(lattice, target)
        assert found[0].away <= dense_best(lattice, target) + 0.5


def test_a_recipe_is_what_it_says(lattice):
    target = np.array([45.0, -20.0, 15.0])
    found = nearest_recipes(lattice, target, 3, 8)
    assert [match.away for match in found] == sorted(match.away for match in found)
    assert len({frozenset(match.recipe.names) for match in found}) == 8
    for match in found:
        layer = match.recipe.layers[0]
        assert sum(part.parts for part in layer.parts) <= MOST_PARTS
        assert all(part.parts == int(part.parts) for part in layer.parts)
        shares = np.zeros((1, 12))
        for part in layer.parts:
            shares[0, lattice.names.index(part.name)] = part.parts
        lab = lattice.mixer.lab(shares / shares.sum(), (layer.wash,))[0, 0]
        assert np.abs(lab - match.lab).max() < 1e-6
        assert match.away == pytest.approx(float(delta_e_00(lab, target)))


def test_conditions_on_a_recipe_hold(lattice):
    names = lattice.names
    target = np.array([50.0, 10.0, 10.0])
    for match in nearest_recipes(lattice, target, 2, 10, keep=[names[3].upper()], avoid=[names[0]]):
        assert names[3] in match.recipe.names
        assert names[0] not in match.recipe.names
        assert len(match.recipe.names) <= 2
    assert all(len(match.recipe.names) == 1 for match in nearest_recipes(lattice, target, 1, 4))
    for wrong, words in (
        ({"most_paints": 4}, "1, 2 or 3"), ({"count": 0}, "at least one"), ({"keep": ["Nobody"]}, "no such paint"),
        ({"keep": [names[1]], "avoid": [names[1]]}, "kept and avoided"), ({"avoid": names}, "all paints are avoided"),
        ({"keep": names[:4]}, "do not go into"),
    ):  # fmt: skip
        with pytest.raises(CulmoError, match=words):
            nearest_recipes(lattice, target, **wrong)


def test_a_colour_out_of_reach_gets_the_nearest(lattice):
    found = nearest_recipes(lattice, np.array([50.0, -110.0, 100.0]))
    assert found[0].away > 8.0
    assert np.isfinite(found[0].away)


@pytest.mark.long
def test_the_safest_recipe_is_safer_in_the_hand():
    """Painted again and again by simulated hands, the safest misses less than the nearest, on average and more often."""
    nearest_miss, safest_miss = [], []
    for seed in range(4):
        painter = make_painter(10, seed)
        estimate = learn([paint.name for paint in painter.paints], painter.cards())
        lattice = build_lattice(mixer_of(estimate))
        rng = np.random.default_rng(seed)
        for _ in range(8):
            target = lattice.lab.reshape(-1, 3)[rng.integers(lattice.lab.size // 3)].astype(float)
            found, miss, place = nearest_and_safest(estimate, lattice, target, count=6)
            assert miss[place] == miss.min()
            assert [match.away for match in found] == sorted(match.away for match in found)
            if place:
                for recipe, told in ((found[0].recipe, nearest_miss), (found[place].recipe, safest_miss)):
                    painted = np.array([painter.paint(recipe) for _ in range(16)])
                    told.append(float(np.sqrt((delta_e_00(painted, target) ** 2).mean())))
    assert len(nearest_miss) >= 12
    assert np.mean(safest_miss) < 0.95 * np.mean(nearest_miss)
    assert np.mean(np.array(safest_miss) < np.array(nearest_miss)) > 0.5


def test_what_a_hand_misses_by_is_expected_rightly(learned):
    """Without doubt about the paints: a hand that errs as the estimate says, seen through the estimate's own mixer."""
    _, estimate = learned
    rng = np.random.default_rng(2)
    mixer = mixer_of(estimate)
    names = estimate.names
    for pair, parts in (((0, 1), (3.0, 2.0)), ((2, 5), (1.0, 4.0)), ((3, 4), (2.0, 2.0))):
        recipe = mix([names[i] for i in pair], parts)
        shares = np.zeros((4000, len(names)))
        amounts = np.array(parts) * np.exp(rng.normal(0, estimate.hand.parts, (4000, 2)))
        shares[:, pair] = amounts / amounts.sum(axis=1, keepdims=True)
        X = np.exp(rng.normal(0, estimate.hand.full, 4000))
        lab = mixer.lab_each(shares, X) + rng.normal(0, estimate.hand.noise, (4000, 3))
        target = mixer.lab_each(
            shares[:1] * 0 + np.eye(len(names))[[pair[0]]] * 0.5 + np.eye(len(names))[[pair[1]]] * 0.5,
            np.ones(1),
        )[0]
        simulated = np.sqrt((delta_e_00(lab, target) ** 2).mean())
        expected = expected_miss(estimate, [recipe], target, hand_only=True)[0]
        assert expected == pytest.approx(simulated, rel=0.3)


# ---- from a puddle


def test_a_touch_more_leads_from_a_puddle_to_the_colour(lattice):
    names = lattice.names
    puddle = mix(names[:2], [2.0, 1.0])
    shares = np.zeros((1, 12))
    shares[0, :2], shares[0, 4] = np.array([2.0, 1.0]) / 3.0, 0.25
    target = lattice.mixer.lab(shares / shares.sum(), (0.6,))[0, 0]
    found = touches(lattice.mixer, puddle, target, 6)
    assert found[0].away < 1.5
    assert len(found[0].adds) == 1
    best = next(touch for touch in found if [name for name, _ in touch.adds] == [names[4]])
    assert best.away < 0.5
    assert amount_words(best.adds[0][1]) == "a quarter"
    total = sum(part.parts for part in puddle.layers[0].parts)
    amounts = {part.name: part.parts for part in best.recipe.layers[0].parts}
    assert amounts[names[4]] == pytest.approx(0.25 * total)
    assert amounts[names[0]] == 2.0
    for touch in found:  # each says the recipe that it makes, with its wash
        layer = touch.recipe.layers[0]
        shares = np.zeros((1, 12))
        for part in layer.parts:
            shares[0, names.index(part.name)] = part.parts
        lab = lattice.mixer.lab(shares / shares.sum(), (layer.wash,))[0, 0]
        assert np.abs(lab - touch.lab).max() < 0.05
        assert touch.away == pytest.approx(float(delta_e_00(lab, target)), abs=0.05)


def test_only_water_is_the_cheapest_of_all(lattice):
    puddle = mix(lattice.names[3:5])
    shares = np.zeros((1, 12))
    shares[0, 3:5] = 0.5
    target = lattice.mixer.lab(shares, (0.3,))[0, 0]
    best = touches(lattice.mixer, puddle, target)[0]
    assert best.adds == ()
    assert best.recipe.layers[0].wash == pytest.approx(0.3, abs=0.02)


def test_puddles_that_can_not_be_changed_are_refused(lattice):
    names = lattice.names
    with pytest.raises(CulmoError, match="glaze"):
        touches(lattice.mixer, parse_recipe(f'"{names[0]}" over "{names[1]}"'), np.array([50.0, 0, 0]))
    with pytest.raises(CulmoError, match="no such paint"):
        touches(lattice.mixer, mix(["Nobody"]), np.array([50.0, 0, 0]))


# ---- in the place of a paint, and likenesses


def test_a_mix_stands_for_itself_over_its_whole_range(lattice):
    row = int(np.flatnonzero((lattice.parts > 0).sum(axis=1) == 2)[7])
    colours = lattice.lab[row, [0, 3, 6]].astype(float)
    found = substitutes(lattice, colours, (1.0, 0.35, 0.125))
    assert found[0].mean < 0.6
    assert [entry.mean for entry in found] == sorted(entry.mean for entry in found)
    without = substitutes(
        lattice, colours, (1.0, 0.35, 0.125), avoid=[lattice.names[lattice.groups[lattice.group_of[row]][0]]]
    )
    assert without[0].mean >= found[0].mean
    with pytest.raises(CulmoError, match="nothing is left"):
        substitutes(lattice, colours, (1.0, 0.35, 0.125), avoid=lattice.names)


def test_a_pigment_resembles_itself_and_differences_have_words():
    table = pigment_table()
    for code in ("PB29", "PG7", "PR101"):
        pigment = table[code]
        found = resembles(np.array(pigment.masstone), np.array(pigment.tint), pigment.grain, table)
        assert found[0].code == code
        assert found[0].away < 1e-6
        assert found[0].words.endswith(pigment.name)
    pigment = table["PB29"]
    grey = np.array(pigment.masstone) * [1.0, 0.6, 0.6]
    softer = resembles(grey, np.array(pigment.tint), pigment.grain + 0.3, {"PB29": pigment})[0]
    assert "softer" in softer.words
    assert "grainier" in softer.words
    paler = resembles(
        np.array(pigment.masstone) + np.array([12.0, 0, 0]),
        np.array(pigment.tint),
        pigment.grain,
        {"PB29": pigment},
    )[0]
    assert paler.words.startswith("a paler")


# ---- schemes


def test_companions_lie_where_the_scheme_says(lattice):
    vivid = lattice.lab.reshape(-1, 3)[np.argsort(-chroma_of(lattice.lab.reshape(-1, 3)))[400]].astype(float)
    found = scheme(lattice, vivid)
    turns = dict(PLACES)
    assert {entry.place for entry in found} == set(turns)
    for entry in found:
        turned = (hue_of(vivid) + turns[entry.place]) % 360
        assert hue_apart(hue_of(entry.wanted), turned) < 1e-6
        assert hue_apart(hue_of(entry.match.lab), turned) <= 9.1
        assert entry.match.away == pytest.approx(float(delta_e_00(entry.match.lab, entry.wanted)), abs=1e-6)
    assert scheme(lattice, np.array([50.0, 2.0, 1.0])) == []


def test_beside_a_dark_colour_stand_lighter_and_vivid_ones_and_not_mud(lattice):
    dark = np.array([25.0, 8.0, -36.0])  # a dark blue ground
    found = {(entry.place, entry.way): entry.match.lab for entry in scheme(lattice, dark)}
    vivid = found["opposite", "vivid"]
    assert chroma_of(vivid) > 40 and vivid[0] > 45
    assert found["opposite", "light"][0] >= 74
    muted = found["opposite", "muted"]
    assert chroma_of(muted) <= 28 and muted[0] > 50
    light = np.array([86.0, -6.0, 60.0])
    deep = {(entry.place, entry.way): entry.match.lab for entry in scheme(lattice, light)}
    assert deep["opposite", "deep"][0] <= 40
    # nothing more vivid of that hue is to be had: a search over all mixes
    flat = lattice.lab.reshape(-1, 3).astype(float)
    near = hue_apart(hue_of(flat), np.array([(float(hue_of(dark)) + 180) % 360])) <= 9.0
    assert chroma_of(vivid) > chroma_of(flat[near]).max() - 12.1  # what two paints less are worth


def test_what_is_left_out_is_left_out_of_companions_too(lattice):
    names = lattice.names
    out = {0, 3}
    fits = fitting_groups(lattice, 2, [], out)
    for entry in scheme(lattice, np.array([45.0, 30.0, 30.0]), fits):
        assert len(entry.match.recipe.names) <= 2
        assert not {names[place] for place in out} & set(entry.match.recipe.names)


# ---- pictures and groups


def test_the_colours_of_a_picture_are_found_with_their_shares():
    rng = np.random.default_rng(4)
    painted = np.array([[0.1, 0.1, 0.3], [0.8, 0.3, 0.1], [0.2, 0.5, 0.2], [0.9, 0.88, 0.8]])
    shares = (0.5, 0.2, 0.05, 0.25)
    pixels = np.repeat(painted, [int(20_000 * share) for share in shares], axis=0)
    pixels = np.clip(pixels + rng.normal(0, 0.012, pixels.shape), 0, 1)
    found = colours_of_picture(lab_from_srgb(rng.permutation(pixels)), 6)
    assert len(found) == 4
    assert [cluster.share for cluster in found] == pytest.approx(sorted(shares, reverse=True), abs=0.01)
    truth = lab_from_srgb(painted)
    for cluster in found:
        assert delta_e_00(truth, cluster.lab).min() < 1.0
    assert colours_of_picture(np.empty((0, 3)), 4) == []
    one = colours_of_picture(np.tile([[50.0, 10, 10]], (100, 1)), 5)
    assert len(one) == 1
    assert one[0].share == 1.0


@pytest.mark.long
@pytest.mark.parametrize("count", [8, 12, 20])
@pytest.mark.parametrize("noise", [0.0, 0.01, 0.02])
def test_flat_colours_are_neither_put_together_nor_cut_however_many_are_asked_for(count, noise):
    """Eight flat colours, two of them near each other, one a small vivid spot."""
    rng = np.random.default_rng(7)
    hexes = ("e8d9b0", "c0392b", "b5523f", "2c3e50", "34506b", "6b8e23", "f1c40f", "8e44ad")
    painted = np.array([[int(text[i : i + 2], 16) / 255 for i in (0, 2, 4)] for text in hexes])
    shares = (0.4, 0.15, 0.12, 0.1, 0.1, 0.08, 0.046, 0.004)
    pixels = np.repeat(painted, [int(100_000 * share) for share in shares], axis=0)
    pixels = np.clip(pixels + rng.normal(0, noise, pixels.shape), 0, 1)
    found = colours_of_picture(lab_from_srgb(rng.permutation(pixels)), count)
    truth = lab_from_srgb(painted)
    nearest = [int(delta_e_00(truth, cluster.lab).argmin()) for cluster in found]
    assert sorted(nearest) == list(range(8))
    assert all(delta_e_00(truth, cluster.lab).min() < 2.0 for cluster in found)
    for cluster, place in zip(found, nearest, strict=True):
        assert cluster.share == pytest.approx(shares[place], abs=0.012)


def test_a_small_vivid_spot_is_told_before_another_brown():
    rng = np.random.default_rng(2)
    browns = np.array([[0.35 + 0.02 * i, 0.28 + 0.015 * i, 0.2 + 0.01 * i] for i in range(10)])
    pixels = np.concatenate([np.repeat(browns, 2000, axis=0), np.tile([[0.9, 0.1, 0.25]], (80, 1))])
    found = colours_of_picture(lab_from_srgb(rng.permutation(pixels)), 4)
    spot = lab_from_srgb(np.array([0.9, 0.1, 0.25]))
    assert min(float(delta_e_00(cluster.lab, spot)) for cluster in found) < 1.0


def test_a_sky_from_dark_to_light_is_more_than_one_colour():
    rng = np.random.default_rng(3)
    way = np.linspace(0, 1, 20_000)[:, None]
    pixels = (1 - way) * np.array([0.1, 0.2, 0.5]) + way * np.array([0.8, 0.9, 1.0])
    found = colours_of_picture(lab_from_srgb(rng.permutation(pixels)), 6)
    lights = sorted(float(cluster.lab[0]) for cluster in found)
    assert len(found) >= 3
    assert lights[0] < 40 and lights[-1] > 75


def test_nearly_equal_mixes_form_groups():
    lab = np.array(
        [[50, 0, 0], [50.5, 0.5, 0], [70, 30, 30], [70.4, 30.2, 30], [70.2, 29.8, 30.1], [20, -20, 5]],
        dtype=float,
    )
    assert nearly_equal(lab) == [[2, 3, 4], [0, 1]]
    assert nearly_equal(lab[:1]) == []
