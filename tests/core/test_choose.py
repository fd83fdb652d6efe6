"""The best few paints: proven against exhaustive search, under conditions, for targets, with what-ifs."""

from itertools import combinations

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.label import label_of
from culmo.core.palette.choose import (
    SIZES,
    choosing,
    describe,
    loss_words,
    losses,
    missed_without,
    what_if,
    with_each,
)
from culmo.core.palette.conditions import Conditions, Having, Kinds, Resolved, kinds_of, resolve
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.mixer import pair_table
from culmo.core.palette.reach import Measure, Value, tabulate, value_of
from culmo.core.palette.search import search
from culmo.core.palette.targets import by_nearness, tabulate_targets
from culmo.core.steps import run_through
from culmo.data import pigment_table
from culmo.errors import CulmoError
from support.boxes import make_mixer


def box(count, seed, measure=None):
    measure = measure or Measure()
    lattice = build_lattice(make_mixer(count, seed))
    return lattice, value_of(tabulate(lattice, measure), measure)


def exhaustive(value, size, keep=(), avoid=(), one_of=()):
    """Every palette that meets the conditions, with its worth."""
    usable = [i for i in range(len(value.table.names)) if i not in avoid]
    return {
        palette: value.of(palette)
        for palette in combinations(usable, size)
        if set(keep) <= set(palette) and all(set(palette) & set(some) for some in one_of)
    }


def check_search(seed):
    rng = np.random.default_rng(seed)
    count = int(rng.integers(4, 12))
    weights = float(rng.choice([0.0, 0.5, 1.0]))
    measure = Measure(float(rng.choice([3.0, 4.0, 8.0])), weights, bool(rng.random() < 0.3))
    _, value = box(count, seed, measure)
    order = [int(i) for i in rng.permutation(count)]
    size = int(rng.integers(1, min(count, 8) + 1))
    kept = int(rng.integers(0, min(2, size) + 1))
    keep, avoid = order[:kept], order[kept : kept + int(rng.integers(0, 3))]
    if count - len(avoid) < size:
        return
    free = [i for i in order if i not in avoid]
    one_of = [tuple(free[:3])] if rng.random() < 0.5 else []
    worth = exhaustive(value, size, keep, avoid, one_of)
    if not worth:
        with pytest.raises(CulmoError):
            search(value, size, keep=keep, avoid=avoid, one_of=one_of)
        return
    found = search(value, size, keep=keep, avoid=avoid, one_of=one_of, margin=0.02)
    best = max(worth.values())
    assert found.proven
    assert found.worth[0] == pytest.approx(best, abs=1e-4)
    assert found.bound == pytest.approx(best, abs=1e-4)
    assert found.worth == sorted(found.worth, reverse=True)
    told = dict(zip(found.palettes, found.worth, strict=True))
    assert all(worth[palette] == pytest.approx(value, abs=1e-4) for palette, value in told.items())
    surely_near = {palette for palette, value in worth.items() if value >= best - 0.02 + 1e-4}
    if found.margin == 0.02:
        assert surely_near <= set(told)
        assert not [p for p in told if worth[p] < best - 0.02 - 1e-4]


@pytest.mark.long
@pytest.mark.parametrize("seed", range(24))
def test_the_search_finds_what_exhaustive_search_finds(seed):
    check_search(seed)


@pytest.mark.soak
@pytest.mark.parametrize("seed", range(100, 500))
def test_the_search_finds_what_exhaustive_search_finds_in_many_boxes(seed):
    check_search(seed)


def test_a_medium_box_is_proven_against_all_palettes():
    """Large enough for the walk, the groups and the bounds to be used."""
    _, value = box(18, 7)
    bits = value.table.bits
    for size in (4, 5):
        palettes = np.array(list(combinations(range(18), size)))
        reach = np.zeros((len(palettes), bits.shape[-1]), dtype=np.uint64)
        for three in combinations(range(size), 3):
            reach |= bits[tuple(palettes[:, place] for place in three)]
        worth = value(reach)
        found = search(value, size)
        assert found.proven
        assert found.whole
        assert found.worth[0] == pytest.approx(float(worth.max()), abs=1e-5)
        near = {
            tuple(int(i) for i in palettes[k]) for k in np.flatnonzero(worth >= worth.max() - 0.01 + 1e-4)
        }
        assert near <= set(found.palettes)


def test_more_near_ties_than_are_listed_draw_the_margin_in():
    _, value = box(12, 2)
    whole = search(value, 6, margin=0.05)
    some = search(value, 6, margin=0.05, most=5)
    assert whole.whole
    assert len(whole.palettes) > 12
    assert some.palettes[0] == whole.palettes[0]
    assert len(some.palettes) == 5
    assert some.margin < 0.05
    assert some.worth == pytest.approx(whole.worth[:5])


def test_without_time_the_bound_is_honest():
    _, value = box(18, 3)
    found = search(value, 6, seconds=0.0)
    assert not found.proven
    sure = search(value, 6)
    assert found.bound >= sure.worth[0] - 1e-6
    assert found.worth[0] <= sure.worth[0] + 1e-6
    assert found.palettes


def test_progress_only_grows():
    _, value = box(14, 5)
    from culmo.core.palette.search import searching

    steps, shares = searching(value, 6), []
    try:
        while True:
            shares.append(next(steps))
    except StopIteration:
        pass
    assert len(shares) > 3
    assert min(shares) >= 0.0
    assert max(shares) <= 1.0
    assert (np.diff(shares) >= -1e-9).all()


@pytest.mark.parametrize(
    ("size", "keep", "avoid", "words"),
    [
        (0, (), (), "least is 1"),
        (3, (0, 1, 2, 3), (), "more than 3"),
        (5, (), (0, 1, 2), "only 3"),
        (2, (1,), (1,), "kept and left"),
    ],
)
def test_conditions_that_can_not_be_met_are_refused(size, keep, avoid, words):
    _, value = box(6, 1)
    with pytest.raises(CulmoError, match=words):
        search(value, size, keep=keep, avoid=avoid)


# ---- conditions in the painter's words


def kinds(codes, whites=(), darks=(), biased=None):
    labels = tuple(label_of(code, pigment_table()) for code in codes)
    names = tuple(f"P{i}" for i in range(len(codes)))
    return Kinds(names, labels, frozenset(whites), frozenset(darks), biased or {})


def test_conditions_become_places():
    some = kinds(["PY150", "PY150 + PG7", "PR83", "PB29", "PW6"], whites=[4], darks=[3])
    found = resolve(some, Conditions(keep=("p0",), single=True, white=Having.WITHOUT, dark=Having.WITH), 2)
    assert found.keep == (0,)
    assert set(found.avoid) == {1, 4}
    assert found.one_of == ((3,),)
    fast = resolve(some, Conditions(lightfast=True), 2)
    assert 2 in fast.avoid
    clear = resolve(some, Conditions(transparent=True), 1)
    assert 4 in clear.avoid


@pytest.mark.parametrize(
    ("conditions", "size", "words"),
    [
        (Conditions(), 9, "the box has 5"),
        (Conditions(single=True, white=Having.WITHOUT), 4, 'without "single pigments" there would be 4'),
        (Conditions(single=True, lightfast=True, transparent=True), 5, "even without"),
        (Conditions(keep=("P1",), single=True), 3, "drop one of the two"),
        (Conditions(dark=Having.WITH), 3, "the box has none"),
        (Conditions(white=Having.WITH, avoid=("P4",)), 3, "drop one of them"),
        (Conditions(keep=("Nobody",)), 3, "there is no such paint"),
        (Conditions(keep=("P0", "P3")), 1, "more than 1"),
        (Conditions(), 0, "least is 1"),
    ],
)  # fmt: skip
def test_conditions_that_leave_no_palette_tell_which_to_drop(conditions, size, words):
    some = kinds(["PY150", "PY150 + PG7", "PR83", "PB29", "PW6"], whites=[4])
    with pytest.raises(CulmoError, match=words):
        resolve(some, conditions, size)


def test_pairs_ask_for_a_warm_and_a_cool_of_each():
    mixer = make_mixer(18, 2)
    table = pair_table(mixer)
    found = kinds_of(table, [label_of("", pigment_table())] * 18)
    assert set(found.biased) == {
        f"{side} {family}" for side in ("warm", "cool") for family in ("yellow", "red", "blue")
    }
    asked = resolve(found, Conditions(pairs=True), 6)
    value = value_of(tabulate(build_lattice(mixer)), Measure())
    choice = run_through(choosing(value, found, Conditions(pairs=True), 6))
    assert choice.proven
    for palette in choice.palettes:
        assert all(set(palette) & set(some) for some in asked.one_of)


# ---- what is told of a palette


@pytest.fixture(scope="module")
def ten():
    return box(10, 8)


def test_what_ifs_are_what_the_changed_palettes_are_worth(ten):
    _, value = ten
    paints = [1, 4, 7, 8]
    change = what_if(value, paints)
    assert change.worth == pytest.approx(value.of(paints))
    for other in range(10):
        bigger = sorted({*paints, other})
        assert change.add[other] == pytest.approx(value.of(bigger) - change.worth, abs=1e-5)
        for row, out in enumerate(paints):
            rest = [p for p in paints if p != out]
            assert change.drop[row] == pytest.approx(value.of(rest) - change.worth, abs=1e-5)
            swapped = sorted({*rest, other})
            assert change.swap[row, other] == pytest.approx(value.of(swapped) - change.worth, abs=1e-5)
    swaps = change.best_swaps(3, Resolved((), (1, *range(4, change.swap.shape[1])), ()))
    assert all(swap.into in (0, 2, 3) and swap.out in paints for swap in swaps)
    assert [swap.change for swap in swaps] == sorted((swap.change for swap in swaps), reverse=True)
    assert with_each(value, [])[3] == pytest.approx(value.of([3]))


def test_what_would_be_missed_is_what_the_rest_does_not_reach(ten):
    _, value = ten
    lost = missed_without(value)
    for i in range(10):
        assert lost[i] == pytest.approx(1.0 - value.of([p for p in range(10) if p != i]), abs=1e-5)


def test_losses_are_told_in_words(ten):
    _, value = ten
    table = value.table
    everything = np.ones(len(table.lab), dtype=bool)
    assert loss_words(table, everything) == "loses nothing"
    violets = np.array([not describe(lab).endswith(" violets") for lab in table.lab])
    assert not violets.all()
    assert "violets" in loss_words(table, violets)
    found = losses(table, violets)
    assert sum(count for _, count in found) <= (~violets).sum()
    one = everything.copy()
    one[0] = False
    assert loss_words(table, one) == "loses little that shows"


def test_colours_have_painters_words():
    assert describe(np.array([60.0, 50.0, -55.0])) == "clean violets"
    assert describe(np.array([85.0, 2.0, 2.0])) == "pale greys"
    assert describe(np.array([25.0, 5.0, 4.0])) == "dull darks"
    assert describe(np.array([30.0, 10.0, -50.0])).startswith("deep ")


# ---- wanted colours


def test_targets_are_reached_by_what_comes_near(ten):
    lattice, _ = ten
    rng = np.random.default_rng(4)
    targets = lattice.lab.reshape(-1, 3)[rng.integers(0, lattice.lab.size // 3, 12)].astype(float)
    targets = np.vstack([targets, [[50.0, 100.0, 100.0]]])
    table = tabulate_targets(lattice, targets, 3.0)
    for _ in range(10):
        paints = sorted(int(i) for i in rng.choice(10, 3, replace=False))
        inside = np.isin(lattice.groups, paints).all(axis=1)[lattice.group_of]
        colours = lattice.lab[inside].reshape(-1, 3).astype(float)
        near = np.array([delta_e_00(colours, target).min() for target in targets])
        found = table.nearest(paints)
        assert (found >= near - 1e-3).all()
        # the nearest in the near space is hardly farther in CIEDE2000
        close = near < 4.0
        assert (found[close] <= near[close] * 1.25 + 0.2).all()
        assert table.value.of(paints) == pytest.approx(table.hit(paints).mean(), abs=1e-5)
    everyone = table.nearest(range(10))
    assert everyone[:12].max() < 1e-2
    assert everyone[12] > 10.0


def test_the_fewest_paints_for_targets_are_proven_and_ordered_by_nearness(ten):
    lattice, _ = ten
    rng = np.random.default_rng(9)
    targets = lattice.lab.reshape(-1, 3)[rng.integers(0, lattice.lab.size // 3, 9)].astype(float)
    weights = rng.choice([1.0, 3.0], 9)
    table = tabulate_targets(lattice, targets, 4.0, weights)
    worth = []
    for size in range(1, 6):
        found = search(table.value, size)
        every = {p: (weights * table.hit(p)).sum() / weights.sum() for p in combinations(range(10), size)}
        assert found.worth[0] == pytest.approx(max(every.values()), abs=1e-4)
        worth.append(found.worth[0])
        order = by_nearness(table, found.palettes, found.worth)
        best = [i for i in range(len(found.worth)) if found.worth[i] > found.worth[0] - 1e-5]
        means = [table.nearest(found.palettes[i]).mean() for i in best]
        assert table.nearest(found.palettes[order[0]]).mean() == pytest.approx(min(means))
    assert worth == sorted(worth)


def test_two_hundred_targets_and_none_and_too_many(ten):
    lattice, _ = ten
    rng = np.random.default_rng(1)
    many = np.column_stack([rng.uniform(20, 90, 200), rng.uniform(-50, 50, (200, 2))])
    found = search(tabulate_targets(lattice, many).value, 4)
    assert found.proven
    with pytest.raises(CulmoError, match="no wanted colours"):
        tabulate_targets(lattice, np.empty((0, 3)))
    with pytest.raises(CulmoError, match="too many"):
        tabulate_targets(lattice, np.zeros((401, 3)))


def test_the_words_of_a_choice_tell_how_sure_it_is(ten):
    _, value = ten
    none = [label_of("", pigment_table())] * 10
    some = Kinds(value.table.names, tuple(none))
    choice = run_through(choosing(value, some, Conditions(), 4))
    assert choice.best == choice.palettes[0]
    assert ("within one point" in choice.sure_words) or ("near it" in choice.sure_words)
    hurried = run_through(choosing(value, some, Conditions(), 5, seconds=0.0))
    assert hurried.sure_words.startswith("not proven: nothing is better by more than")
    assert list(SIZES) == [3, 4, 5, 6, 7, 8]


def test_weights_are_what_representatives_count():
    lattice = build_lattice(make_mixer(6, 3))
    table = tabulate(lattice)
    weights = np.where(table.block == 1, 0.25, 2.0)
    value = Value(table, weights)
    reached = table.reached(table.reach([0, 2, 4]))
    assert value.of([0, 2, 4]) == pytest.approx((weights * reached).sum() / weights.sum(), abs=1e-5)
