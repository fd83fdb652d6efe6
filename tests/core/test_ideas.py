"""Mixes worth knowing: held against dense searches, and against the truth of paints that the estimate has not seen."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.grain import SeenTexture, learn_grains
from culmo.core.paint.pigments import typical_readings
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix
from culmo.core.paint.texture import Texture
from culmo.core.palette.character import character
from culmo.core.palette.greyness import chroma_at_most, grey_words
from culmo.core.palette.idea import IdeaKind
from culmo.core.palette.ideas import find_ideas, varied
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.mixer import MIDDLE_AT, chroma_of, hue_of, mixer_of, pair_table
from culmo.core.palette.threes import warmth
from culmo.data import pigment_table
from culmo.demo.simulated import Painter
from support.paints import make_paint, make_painter

TRUE_GREY = grey_words(0.0, 0.0)
MIDDLE = 0.45


def card(painter, name):
    looks = [(mix([name]), "paper"), (mix([name], wash=0.2), "paper"), (mix([name]), INK)]
    return [Reading(recipe, tuple(painter.paint(recipe, ground)), ground) for recipe, ground in looks]


def of_families(*families, seed=2):
    rng = np.random.default_rng(seed)
    paints = [make_paint(family, rng, family.title()) for family in families]
    return Painter(paints, rng, k1=0.03, k2=0.42)


def learned(painter, pairs: int = 0, seed: int = 1):
    """What a painter would know of these paints after the cards, and some mixes."""
    names = [paint.name for paint in painter.paints]
    readings = [reading for name in names for reading in card(painter, name)]
    rng = np.random.default_rng(seed)
    for _ in range(pairs):
        two = [str(name) for name in rng.choice(names, 2, replace=False)]
        recipe = mix(two, [float(part) for part in rng.integers(1, 4, 2)], float(rng.choice([1.0, 0.45])))
        readings.append(Reading(recipe, tuple(painter.paint(recipe, "paper"))))
    return learn(names, readings)


def ideas_of(estimate, grain=None):
    mixer = mixer_of(estimate)
    table, lattice = pair_table(mixer), build_lattice(mixer)
    said = dict(
        zip((name.casefold() for name in mixer.names), grain or [0.05] * len(mixer.names), strict=True)
    )
    settles = learn_grains(estimate, [], said.__getitem__)
    return find_ideas(estimate, mixer, table, lattice, settles), mixer, table


@pytest.fixture(scope="module")
def sixteen():
    return ideas_of(learned(make_painter(16, 9), 60))


def dense(mixer, places, wash=MIDDLE, steps=60):
    """Colours of very many mixes of some paints, (m, 3); written without the lattice."""
    n = len(places)
    rows = [row for row in itertools.product(range(steps + 1), repeat=n - 1) if sum(row) <= steps]
    shares = np.zeros((len(rows), len(mixer.names)))
    for at, row in enumerate(rows):
        for place, part in zip(places, (*row, steps - sum(row)), strict=True):
            shares[at, place] += part / steps
    return mixer.lab(shares, (wash,))[:, 0]


def test_no_pair_that_greys_is_left_out(sixteen):
    ideas, mixer, table = sixteen
    listed = {frozenset(idea.names): idea for idea in ideas.found[IdeaKind.GREY] if len(idea.names) == 2}
    coloured = np.flatnonzero(chroma_of(table.alone[:, MIDDLE_AT]) >= 14.0)
    grey = 0
    for i, j in itertools.combinations(coloured, 2):
        least = float(np.hypot(*dense(mixer, (i, j))[:, 1:].T).min())
        if least < 5.0:
            grey += 1
            own = listed[frozenset((mixer.names[i], mixer.names[j]))]
            assert own.number < least + 4.0  # whole parts of up to twelve
    assert grey > 10
    # the coolest are there as the warmest are
    warm = [float(warmth(idea.lab)) for idea in ideas.found[IdeaKind.GREY]]
    assert min(warm) < 0 < max(warm)


def test_three_primaries_give_greys_browns_and_darks_of_all_three():
    painter = of_families("lemon", "rose", "cyan")
    ideas, mixer, _ = ideas_of(learned(painter, 20))
    for kind in (IdeaKind.GREY, IdeaKind.BROWN, IdeaKind.DARK):
        three = [idea for idea in ideas.found[kind] if len(idea.names) == 3]
        assert three, kind
    grey = min(ideas.found[IdeaKind.GREY], key=lambda idea: idea.number)
    least = float(np.hypot(*dense(mixer, (0, 1, 2), steps=24)[:, 1:].T).min())
    assert grey.number < max(least, 1.0) + 3.0
    brown = ideas.found[IdeaKind.BROWN][0]
    assert 25 <= float(hue_of(brown.lab)) <= 95 and 5 < float(chroma_of(brown.lab)) < 52
    assert ideas.found[IdeaKind.DARK][0].lab[0] < 38


def test_a_third_paint_is_told_only_where_two_do_not_do_it(sixteen):
    ideas, mixer, table = sixteen
    threes = [idea for idea in ideas.found[IdeaKind.GREY] if len(idea.names) == 3]
    for idea in threes[:40]:
        places = [mixer.names.index(name) for name in idea.names]
        for two in itertools.combinations(places, 2):
            assert table.chroma[table.place[two], :, MIDDLE_AT].min() >= 6.0
    darks = ideas.found[IdeaKind.DARK]
    by_names = {frozenset(idea.names): float(idea.lab[0]) for idea in darks}
    for idea in darks:
        for two in itertools.combinations(idea.names, 2) if len(idea.names) == 3 else ():
            assert by_names.get(frozenset(two), 99.0) > idea.lab[0]
    assert [idea.lab[0] for idea in darks] == sorted(idea.lab[0] for idea in darks)


def test_browns_and_darks_are_not_made_of_browns_and_blacks(sixteen):
    ideas, mixer, table = sixteen
    alone = dict(zip(mixer.names, table.alone[:, 0], strict=True))
    for idea in ideas.found[IdeaKind.BROWN]:
        for name in idea.names:
            L, chroma, hue = alone[name][0], float(chroma_of(alone[name])), float(hue_of(alone[name]))
            assert not (25 <= hue <= 95 and 8 <= chroma < 52 and L < 62), name
    middle = dict(zip(mixer.names, chroma_of(table.alone[:, MIDDLE_AT]), strict=True))
    assert all(middle[name] >= 12 for idea in ideas.found[IdeaKind.DARK] for name in idea.names)


@pytest.mark.long
def test_a_true_grey_is_one_when_it_is_painted():
    """What is called a true grey, by paints that only cards are known of, is grey in the truth nine times in ten."""
    claimed = told = 0
    for seed in range(12):
        painter = make_painter(14, 100 + seed)
        ideas, *_ = ideas_of(learned(painter, 25, seed))
        for idea in ideas.found[IdeaKind.GREY]:
            if idea.words == TRUE_GREY:
                told += 1
                claimed += float(chroma_of(painter.mean_lab(idea.recipe))) < 6.0
    assert told > 20
    assert claimed / told >= 0.9


def test_of_unread_paints_no_true_grey_is_promised():
    codes = [
        ("Lemon", "PY175"),
        ("Rose", "PV19"),
        ("Cyan", "PB15:3"),
        ("Viridian", "PG18"),
        ("Scarlet", "PR255"),
    ]
    estimate = learn([name for name, _ in codes], [], typical_readings(codes, [], pigment_table()))
    ideas, *_ = ideas_of(estimate)
    assert ideas.found[IdeaKind.GREY]
    assert all(idea.words != TRUE_GREY for idea in ideas.found[IdeaKind.GREY])
    assert all(idea.spread > 5 for idea in ideas.found[IdeaKind.GREY])


def test_the_chroma_that_nine_in_ten_do_not_pass_holds_by_drawing():
    rng = np.random.default_rng(3)
    for _ in range(20):
        root = rng.normal(0, 3, (3, 3))
        lab, covariance = np.array([50.0, *rng.normal(0, 6, 2)]), root @ root.T
        drawn = rng.multivariate_normal(lab, covariance, 20000)
        share = float(
            (np.hypot(drawn[:, 1], drawn[:, 2]) <= chroma_at_most(lab[None], covariance[None])[0]).mean()
        )
        assert 0.86 < share < 0.96


def test_clean_mixes_are_all_there_the_most_vivid_first(sixteen):
    ideas, *_ = sixteen
    for kind, (low, high) in (
        (IdeaKind.GREEN, (125, 190)),
        (IdeaKind.ORANGE, (45, 75)),
        (IdeaKind.VIOLET, (288, 340)),
    ):
        found = ideas.found[kind]
        chromas = [float(chroma_of(idea.lab)) for idea in found]
        assert found and chromas == sorted(chromas, reverse=True)
        assert all(low <= float(hue_of(idea.lab)) <= high for idea in found)
        assert len({frozenset(idea.names) for idea in found}) == len(found)
    assert len(ideas.found[IdeaKind.RANGE]) == 16 * 15 // 2


def test_a_granulating_black_with_a_vivid_smooth_paint_is_a_parting_pair():
    estimate = learned(of_families("neutral", "rose", "cyan", "ultramarine"), 10)
    ideas, *_ = ideas_of(estimate, [0.32, 0.02, 0.02, 0.32])
    pairs = {frozenset(idea.names): idea for idea in ideas.found[IdeaKind.PARTING]}
    own = pairs[frozenset(("Neutral", "Rose"))]
    assert "Neutral settles" in own.words and "Rose shines" in own.words
    assert frozenset(("Rose", "Cyan")) not in pairs  # nothing of it settles
    both = {frozenset(idea.names) for idea in ideas.found[IdeaKind.GRAINY]}
    assert both == {frozenset(("Neutral", "Ultramarine"))}
    # what is ranked first is what is seen most: more of what settles in a hollow, less on a hill
    numbers = [idea.number for idea in ideas.found[IdeaKind.PARTING]]
    assert numbers == sorted(numbers, reverse=True)
    assert all(
        idea.settling.taught == 0 for idea in ideas.found[IdeaKind.PARTING]
    )  # a label is all that is known
    assert ideas.telling[IdeaKind.PARTING] in ideas.found[IdeaKind.PARTING]


def seen_on_paper(painter, recipe):
    """What a picture would show of a wash of the simulated hand, over the tooth of the paper."""
    nodes, weights = np.polynomial.hermite_e.hermegauss(15)
    weights = weights / weights.sum()
    lab = lab_from_reflectance(painter.settled(recipe, "paper", nodes))
    away = lab - weights @ lab
    power, ways = np.linalg.eigh(away.T @ (away * weights[:, None]))
    deviation = np.sqrt(weights @ away**2)
    axis = ways[:, 2] * np.sign(ways[0, 2])
    return Texture(
        deviation[0], 0.05 * deviation[0] + 0.1, 0.6, float(np.hypot(*deviation[1:])), 0.1,
        tuple(float(v) for v in axis), float(np.sqrt(power[2])), 0.0, 0.0,
    )  # fmt: skip


def test_pairs_that_part_are_told_by_what_pictures_showed_of_their_paints():
    """The labels say the contrary: what was seen counts. The truth is the hand's own, no slopes of the model."""
    painter = of_families("neutral", "rose", "cyan", "ultramarine", "sienna", "yellow")
    for paint, grain in zip(painter.paints, (0.02, 0.02, 0.03, 0.45, 0.3, 0.03), strict=True):
        painter.paints[painter.paints.index(paint)] = replace(paint, grain=grain)
    estimate = learned(painter, 30)
    names = [paint.name for paint in painter.paints]
    told_by = [mix([name]) for name in names] + [mix([one, two]) for one, two in itertools.pairwise(names)]
    seen = [SeenTexture(recipe, seen_on_paper(painter, recipe)) for recipe in told_by]
    said = {name.casefold(): 0.32 if name == "Neutral" else 0.02 for name in names}
    mixer = mixer_of(estimate)
    table, lattice = pair_table(mixer), build_lattice(mixer)
    settles = learn_grains(estimate, seen, said.__getitem__)
    ideas = find_ideas(estimate, mixer, table, lattice, settles, (IdeaKind.PARTING, IdeaKind.GRAINY))
    by_label = find_ideas(
        estimate, mixer, table, lattice, learn_grains(estimate, [], said.__getitem__), (IdeaKind.PARTING,)
    )
    assert {"Neutral"} <= {name for idea in by_label.found[IdeaKind.PARTING] for name in idea.names}
    found = ideas.found[IdeaKind.PARTING]
    assert found and not any("Neutral settles" in idea.words for idea in found)
    assert {frozenset(idea.names) for idea in ideas.found[IdeaKind.GRAINY]} == {frozenset(names[3:5])}
    truth = [seen_on_paper(painter, idea.recipe).parting for idea in found]
    assert np.corrcoef(truth, [idea.number for idea in found])[0, 1] > 0.8
    off = [abs(idea.settling.parting - true) for idea, true in zip(found, truth, strict=True)]
    assert np.median([away / idea.settling.parting_off for away, idea in zip(off, found, strict=True)]) < 1.5
    assert all(idea.settling.taught >= 1 for idea in found)
    # what would tell most is what was not seen yet: not one of those that taught
    assert ideas.telling[IdeaKind.PARTING].recipe not in told_by


def test_who_takes_over_has_the_smaller_part_of_the_middle(sixteen):
    ideas, mixer, _ = sixteen
    for idea in ideas.found[IdeaKind.CAREFUL]:
        parts = {part.name: part.parts for part in idea.recipe.layers[0].parts}
        strong = min(parts, key=parts.__getitem__)
        assert parts[strong] == 1.0 and idea.words.startswith(strong) and max(parts.values()) >= 5.0
        ends = [mixer.lab(np.eye(16)[[mixer.names.index(name)]], (1.0,))[0, 0] for name in parts]

        def imbalance(amounts, ends=ends, parts=parts):
            shares = np.zeros((1, 16))
            for name, amount in zip(parts, amounts, strict=True):
                shares[0, mixer.names.index(name)] = amount / sum(amounts)
            lab = mixer.lab(shares, (1.0,))[0, 0]
            one, two = (float(delta_e_00(lab, end)) for end in ends)
            return abs(one - two) / (one + two)

        assert imbalance(list(parts.values())) < imbalance([1.0, 1.0])


def test_variety_loses_nothing_and_puts_unlike_mixes_before_twins(sixteen):
    ideas, *_ = sixteen

    def paints(some):
        return len({name for idea in some[:5] for name in idea.names})

    more = []
    for best in ideas.found.values():
        other = varied(best)
        assert other[:1] == best[:1]
        assert sorted(map(id, other)) == sorted(map(id, best))
        more.append(paints(other) - paints(best))
    assert min(more) >= 0
    assert max(more) > 0
    assert varied([]) == []


def test_what_would_teach_most_is_one_of_the_list(sixteen):
    ideas, *_ = sixteen
    for kind, idea in ideas.telling.items():
        assert any(idea is other for other in ideas.found[kind])
    assert IdeaKind.GREY in ideas.telling


def test_what_two_paints_can_do_together(sixteen):
    _, mixer, _ = sixteen
    one, two = mixer.names[0], mixer.names[5]
    found = character(mixer, [one, two])
    places = (mixer.names.index(one), mixer.names.index(two))
    full, pale = dense(mixer, places, 1.0), dense(mixer, places, 0.08)
    assert found.darkest == pytest.approx(full[:, 0].min(), abs=1.5)
    assert found.lightest == pytest.approx(pale[:, 0].max(), abs=1.5)
    assert 0 <= found.hues <= 360


def test_a_box_of_one_paint_or_none_has_no_mixes():
    painter = make_painter(1, 3)
    ideas, *_ = ideas_of(learned(painter))
    assert not any(ideas.found.values())


@pytest.mark.long
def test_where_not_all_can_be_looked_at_closely_it_is_said_how_many_are_left():
    codes = [code for code, pigment in pigment_table().items() if pigment.sure == "good"][::2][:24]
    paints = [(f"Paint {i}", code) for i, code in enumerate(codes)]
    estimate = learn([name for name, _ in paints], [], typical_readings(paints, [], pigment_table()))
    ideas, mixer, table = ideas_of(estimate)
    threes = [idea for idea in ideas.found[IdeaKind.GREY] if len(idea.names) == 3]
    left = table.chroma[:, :, MIDDLE_AT].min(axis=1)
    coloured = chroma_of(table.alone[:, MIDDLE_AT]) >= 14.0
    could = 0
    for group in itertools.combinations(np.flatnonzero(coloured), 3):
        pairs = [left[table.place[two]] for two in itertools.combinations(group, 2)]
        if min(pairs) >= 6.0:
            shares = np.zeros((10, len(mixer.names)))
            inner = [parts for parts in itertools.product(range(1, 5), repeat=3) if sum(parts) == 6]
            shares[:, list(group)] = np.array(inner) / 6.0
            could += float(np.hypot(*mixer.lab(shares, (0.5,))[:, 0, 1:].T).min()) < 12.0
    assert len(threes) + ideas.more[IdeaKind.GREY] >= could - 2 > 0
