"""The lattice of mixes, the near space, and what palettes reach."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import WARM_LAMP
from culmo.core.palette.lattice import WASHES, build_lattice, building, compositions, places_of
from culmo.core.palette.mixer import mixer_of
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.palette.reach import CLASSES, DULL_DARKS, Measure, class_of, tabulate, thin, value_of
from culmo.errors import CulmoError
from support.boxes import make_mixer


@pytest.fixture(scope="module")
def lattice():
    return build_lattice(make_mixer(9, 4, dilution=0.1))


@pytest.fixture(scope="module")
def table(lattice):
    return tabulate(lattice)


def test_distance_in_the_near_space_follows_ciede2000():
    rng = np.random.default_rng(2)
    lab = np.column_stack([rng.uniform(15, 95, 6000), rng.uniform(-60, 60, (6000, 2))])
    other = lab + rng.normal(0.0, 3.0, lab.shape)
    away = delta_e_00(lab, other)
    near = np.linalg.norm(near_from_lab(lab) - near_from_lab(other), axis=1)
    clear = away > 1.0
    ratio = near[clear] / away[clear]
    assert 0.85 < np.median(ratio) < 1.1
    assert ratio.std() < 0.16
    plain = np.linalg.norm(lab - other, axis=1)[clear] / away[clear]
    assert plain.std() / plain.mean() > 1.4 * ratio.std() / ratio.mean()


def test_greys_keep_their_place_in_the_near_space():
    greys = np.array([[0.0, 0, 0], [50.0, 0, 0], [100.0, 0, 0]])
    near = near_from_lab(greys)
    assert np.abs(near[:, 1:]).max() == 0.0
    assert near[1, 0] == pytest.approx(0.0, abs=1e-6)
    assert near[0, 0] == pytest.approx(-near[2, 0], rel=1e-3)


def test_the_lattice_holds_every_mix_once_and_its_colours_are_the_mixers(lattice):
    n = 9
    triples, pairs = n * (n - 1) * (n - 2) // 6, n * (n - 1) // 2
    assert len(lattice.groups) == n + pairs + triples
    assert len(lattice.parts) == n + 5 * pairs + 10 * triples
    keys = {(*lattice.groups[g], *parts) for g, parts in zip(lattice.group_of, lattice.parts, strict=True)}
    assert len(keys) == len(lattice.parts)
    rng = np.random.default_rng(0)
    rows = rng.integers(0, len(lattice.parts), 200)
    shares = np.zeros((200, n))
    for row, place in enumerate(rows):
        for part, paint in zip(lattice.parts[place], lattice.groups[lattice.group_of[place]], strict=True):
            shares[row, paint] += part / 6.0
    assert np.abs(lattice.mixer.lab(shares, WASHES) - lattice.lab[rows]).max() < 2e-3


def test_a_recipe_of_the_lattice_is_its_colour(lattice):
    rng = np.random.default_rng(1)
    for row in rng.integers(0, len(lattice.parts), 30):
        recipe = lattice.recipe(int(row), 3)
        shares = np.zeros((1, 9))
        for part in recipe.layers[0].parts:
            shares[0, lattice.names.index(part.name)] = part.parts
        lab = lattice.mixer.lab(shares / shares.sum(), (recipe.layers[0].wash,))[0, 0]
        assert np.abs(lab - lattice.lab[row, 3]).max() < 2e-3


def test_under_a_lamp_the_same_mixes_look_otherwise():
    mixer = make_mixer(4, 1)
    day, lamp = build_lattice(mixer), build_lattice(mixer, WARM_LAMP)
    assert day.lab.shape == lamp.lab.shape
    assert 1.0 < np.median(delta_e_00(day.lab, lamp.lab)) < 20.0


@given(st.integers(1, 3), st.integers(3, 9))
def test_compositions_add_up_and_are_all_there(count, total):
    rows = compositions(count, total)
    assert (rows.sum(axis=1) == total).all()
    assert len(np.unique(rows, axis=0)) == len(rows)
    expected = {1: 1, 2: total - 1, 3: (total - 1) * (total - 2) // 2}[count]
    assert len(rows) == expected


def test_thinned_colours_are_apart_and_stand_for_all():
    points = np.random.default_rng(3).normal(0, 12, (20_000, 3)).astype(np.float32)
    chosen = thin(points, 4.0)
    apart, _ = cKDTree(points[chosen]).query(points[chosen], 2)
    assert apart[:, 1].min() >= 4.0 - 1e-4
    nearest, _ = cKDTree(points[chosen]).query(points)
    # one of each small cube is looked at: a colour may be a cube's diagonal farther off
    assert nearest.max() <= 4.0 + np.sqrt(3.0)


def test_bits_tell_what_single_distances_tell(lattice, table):
    """Against distances without the grid: certain within and beyond its rounding."""
    slack = 0.5 * np.sqrt(3.0) * 4.0 / 6.0
    reps = near_from_lab(table.lab)
    rng = np.random.default_rng(5)
    for _ in range(12):
        paints = sorted(rng.choice(9, 3, replace=False))
        inside = np.isin(lattice.groups, paints).all(axis=1)[lattice.group_of]
        apart, _ = cKDTree(lattice.near[inside].reshape(-1, 3)).query(reps)
        reached = table.reached(table.reach(paints))
        assert reached[apart < 4.0 - slack].all()
        assert not reached[apart > 4.0 + slack].any()


def test_the_whole_box_reaches_all_and_more_paints_never_less(table):
    value = value_of(table, Measure())
    assert value.of(range(9)) == pytest.approx(1.0, abs=1e-6)
    assert value.of([]) == 0.0
    rng = np.random.default_rng(6)
    for balanced in (False, True):
        measure = Measure(balanced=balanced)
        value = value_of(tabulate_again(measure), measure)
        for _ in range(40):
            order = rng.permutation(9)
            worth = [value.of(order[:k]) for k in range(1, 10)]
            assert (np.diff(worth) >= -1e-6).all()


_TABLES = {}


def tabulate_again(measure):
    if measure not in _TABLES:
        _TABLES[measure] = tabulate(build_lattice(make_mixer(9, 4)), measure)
    return _TABLES[measure]


def test_shares_are_counted_by_hand(table):
    paints = [0, 3, 5, 7]
    reached = table.reached(table.reach(paints))
    shares = table.shares(paints)
    for place in range(len(CLASSES)):
        members = table.klass == place
        if members.any():
            assert shares[place] == pytest.approx(reached[members].mean())
    weights = np.where(table.klass == DULL_DARKS, 0.5, 1.0)
    assert value_of(table, Measure()).of(paints) == pytest.approx(
        (weights * reached).sum() / weights.sum(), abs=1e-5
    )


def test_a_dull_dark_counts_what_it_is_said_to(table):
    paints = [1, 4, 6]
    reached = table.reached(table.reach(paints))
    dark = table.klass == DULL_DARKS
    assert dark.any()
    assert value_of(table, Measure(dull_darks=0.0)).of(paints) == pytest.approx(
        reached[~dark].mean(), abs=1e-5
    )
    assert value_of(table, Measure(dull_darks=1.0)).of(paints) == pytest.approx(reached.mean(), abs=1e-5)


def test_balance_counts_the_worst_hue():
    measure = Measure(balanced=True)
    table = tabulate_again(measure)
    value = value_of(table, measure)
    paints = [0, 2, 3, 8]
    shares = table.shares(paints)
    counted = table.counts >= 8
    plain = np.where(table.klass == DULL_DARKS, 0.5, 1.0)
    mean = (plain * table.reached(table.reach(paints))).sum() / plain.sum()
    assert value.of(paints) == pytest.approx(0.5 * mean + 0.5 * shares[counted].min(), abs=1e-5)


def test_classes_are_hues_greys_and_dull_darks():
    lab = np.array([[60.0, 50, 40], [60.0, 2, -3], [20.0, 8, 8], [20.0, 40, -40]])
    words = [CLASSES[i] for i in class_of(lab)]
    assert words == ["scarlets", "greys", "dull darks", "violets"]


@pytest.mark.parametrize(
    "wrong", [{"tolerance": 0.5}, {"tolerance": 50.0}, {"dull_darks": -0.1}, {"dull_darks": 2.0}]
)
def test_a_measure_out_of_range_is_refused(wrong):
    with pytest.raises(CulmoError, match="must be from"):
        Measure(**wrong)


def test_an_empty_box_and_too_large_a_box_are_refused():
    with pytest.raises(CulmoError, match="no paints"):
        tabulate(build_lattice(make_mixer(3, 0).only([])))
    mixer = make_mixer(2, 0)
    many = mixer.with_typical(
        [f"P{i}" for i in range(70)], np.tile(mixer.K[:1], (70, 1)), np.tile(mixer.S[:1], (70, 1))
    )
    small = build_lattice(many.only(many.names[:3]))
    object.__setattr__(small, "mixer", many)
    with pytest.raises(CulmoError, match="leave some out"):
        tabulate(small)


def test_names_are_found_without_regard_to_case():
    assert places_of(("Rose", "Lemon"), [" lemon ", "ROSE", "none"]) == [1, 0]


def test_one_paint_makes_a_lattice_of_its_own():
    lattice = build_lattice(make_mixer(1, 2))
    assert lattice.lab.shape == (1, 9, 3)
    value = value_of(tabulate(lattice), Measure())
    assert value.of([0]) == pytest.approx(1.0)


def test_an_estimate_gives_a_lattice(tmp_path):
    from culmo.core.paint.estimate import learn
    from support.paints import make_painter

    painter = make_painter(4, 2)
    names = [paint.name for paint in painter.paints]
    lattice = build_lattice(mixer_of(learn(names, painter.cards())))
    assert lattice.names == tuple(names)
    assert np.isfinite(lattice.lab).all()


def test_a_lattice_says_how_far_it_is_and_never_farther_than_whole():
    told = list(building(make_mixer(9, 4)))
    assert told == sorted(told)
    assert told[0] > 0.0 and told[-1] == 1.0
