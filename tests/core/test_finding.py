"""Recipes as a painter would take them: the order, its reasons, what binds, the label, a whole list."""

import itertools

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import learn
from culmo.core.paint.label import label_of
from culmo.core.paint.pigments import codes_in, typical_readings
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import mix
from culmo.core.palette.finding import Wish, advise, most_useful, rebuild_by_label, served_by
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.match import nearest_recipes, touches
from culmo.core.palette.mixer import mixer_of
from culmo.data import pigment_table
from culmo.errors import CulmoError
from support.paints import make_painter

TABLE = pigment_table()
BOX = {
    "Lemon": "PY175", "Warm yellow": "PY154", "Scarlet": "PR255", "Rose": "PV19", "Crimson": "PR83", "Ultramarine": "PB29",
    "Cyan": "PB15:3", "Viridian": "PG18", "Ochre": "PY43", "Umber": "PBr7", "Sap": "PG7 PY150",
}  # fmt: skip
LABELS = {name.casefold(): label_of(codes, TABLE) for name, codes in BOX.items()}


@pytest.fixture(scope="module")
def box():
    pairs = list(BOX.items())
    estimate = learn(list(BOX), [], typical_readings(pairs, [], TABLE))
    return estimate, build_lattice(mixer_of(estimate))


@pytest.fixture(scope="module")
def read():
    """Fourteen paints of which cards and some mixes were read."""
    painter = make_painter(14, 31)
    names = [paint.name for paint in painter.paints]
    looks = [
        (mix([name], wash=wash), ground)
        for name in names
        for wash, ground in ((1.0, "paper"), (0.2, "paper"), (1.0, INK))
    ]
    looks += [
        (mix(list(two)), "paper") for two in itertools.islice(itertools.combinations(names, 2), 0, 91, 3)
    ]
    estimate = learn(
        names, [Reading(recipe, tuple(painter.paint(recipe, ground)), ground) for recipe, ground in looks]
    )
    return estimate, build_lattice(mixer_of(estimate))


def targets(count: int = 12):
    rng = np.random.default_rng(8)
    return [np.array([rng.uniform(35, 80), *rng.uniform(-35, 40, 2)]) for _ in range(count)]


@pytest.mark.long
def test_what_the_eye_can_not_tell_apart_does_not_come_before_what_is_simpler(read):
    estimate, lattice = read
    simpler = 0
    for target in targets(20):
        found = advise(estimate, lattice, target, Wish(), {})
        nearest = min(entry.match.away for entry in found)
        first = found[0].match
        assert first.away <= nearest + 2.0 + 1.5  # never far from the nearest
        # whoever stands behind is not both as near to the eye and of fewer paints and parts and surer
        for entry in found[1:]:
            parts = sum(part.parts for part in entry.match.recipe.layers[0].parts)
            own = sum(part.parts for part in first.recipe.layers[0].parts)
            fewer = len(entry.match.recipe.names) < len(first.recipe.names)
            assert not (
                entry.match.away <= first.away
                and fewer
                and parts <= own
                and entry.expected <= found[0].expected
            )
        exact = nearest_recipes(lattice, target, 3, 1)[0]
        simpler += len(first.recipe.names) < len(exact.recipe.names)
    assert simpler >= 4


def test_with_nothing_noticed_the_nearest_comes_first(read):
    estimate, lattice = read
    for target in targets(6):
        found = advise(estimate, lattice, target, Wish(notice=0.0), {})
        best = min(entry.match.away for entry in found)
        assert found[0].match.away < best + 1.0


def test_each_recipe_says_why_it_stands_there(read):
    estimate, lattice = read
    found = advise(estimate, lattice, targets()[3], Wish(), {}, unread={lattice.names[0].casefold()})
    assert all(1 <= len(entry.reasons) <= 3 for entry in found)
    assert sum(entry.reasons[0] == "the nearest" for entry in found) <= 1
    assert sum("safest for a hand that errs" in entry.reasons for entry in found) <= 1
    for entry in found:
        said = any("was not read" in reason for reason in entry.reasons)
        assert said == (lattice.names[0] in entry.match.recipe.names)


def test_a_paint_that_does_not_keep_comes_after_one_that_does(box):
    estimate, lattice = box
    crimson = lattice.mixer.lab(np.eye(len(BOX))[[list(BOX).index("Crimson")]], (1.0,))[0, 0]
    found = advise(estimate, lattice, crimson, Wish(notice=6.0), LABELS)
    first = next(place for place, entry in enumerate(found) if "Crimson" in entry.match.recipe.names)
    assert any("does not keep" in reason for reason in found[first].reasons)


@pytest.mark.long
@pytest.mark.parametrize(
    "wish",
    [
        Wish(most_paints=2),
        Wish(avoid=("Cyan", "Lemon")),
        Wish(keep=("Ochre",)),
        Wish(lightfast=True),
        Wish(transparent=True),
        Wish(single=True),
        Wish(most_paints=2, keep=("Rose",), lightfast=True, single=True),
    ],
)
def test_what_is_chosen_binds(box, wish):
    estimate, lattice = box
    for target in targets(5):
        for entry in advise(estimate, lattice, target, wish, LABELS):
            names = set(entry.match.recipe.names)
            assert len(names) <= wish.most_paints
            assert set(wish.keep) <= names
            assert not set(wish.avoid) & names
            others = [LABELS[name.casefold()] for name in names if name not in wish.keep]
            if wish.lightfast:
                assert all(label.lightfastness in ("excellent", "good") for label in others)
            if wish.transparent:
                assert all(label.transparency in ("transparent", "semi-transparent") for label in others)
            if wish.single:
                assert all(len(label.codes) == 1 for label in others)
        puddle = mix(["Rose", "Lemon"], [1, 1])
        out = wish.left_out(lattice.names, LABELS)
        for touch in touches(lattice.mixer, puddle, target, 4, out, wish.keep, wish.most_paints):
            added = {name for name, _ in touch.adds}
            assert not added & set(out)
            assert set(wish.keep) <= set(touch.recipe.names)
            assert len(touch.recipe.names) <= max(2, wish.most_paints)


def test_wishes_that_can_not_be_met_say_so(box):
    estimate, lattice = box
    with pytest.raises(CulmoError):
        advise(estimate, lattice, targets()[0], Wish(avoid=tuple(BOX)), LABELS)
    with pytest.raises(CulmoError):
        advise(estimate, lattice, targets()[0], Wish(keep=("Rose",), avoid=("Rose",)), LABELS)


def test_a_ready_made_mixture_is_rebuilt_from_the_pigments_of_its_label():
    box = {
        "Sap": "PG7 PY150",
        "Green": "PG7",
        "Gold": "PY150",
        "Blue": "PB15:1",
        "Rose": "PV19",
        "Mauve": "PB15:3 PV19",
    }
    pairs = list(box.items())
    estimate = learn(list(box), [], typical_readings(pairs, [], TABLE))
    lattice = build_lattice(mixer_of(estimate))
    own = {name: codes_in(codes) for name, codes in box.items()}

    def rebuilt(name):
        colours = lattice.mixer.lab(np.eye(len(box))[[list(box).index(name)]], (1.0, 0.5, 0.2))[0]
        return rebuild_by_label(lattice, colours, (1.0, 0.5, 0.2), own[name], own, name)

    sap = rebuilt("Sap")
    assert sap.paints == ("Green", "Gold") and sap.missing == ()
    assert set(sap.found[0].recipe.names) <= {"Green", "Gold"}
    assert sap.found[0].mean < 6.0
    mauve = rebuilt("Mauve")  # of another form of the same pigment where the very one is not there
    assert mauve.paints == ("Blue", "Rose")
    assert rebuilt("Rose") is None
    del own["Gold"]
    lacks = rebuilt("Sap")
    assert lacks.missing == ("PY150",) and lacks.found == ()


def test_where_a_rebuilt_mixture_stays_away_it_is_said_how():
    box = {"Sap": "PG7 PY150", "Green": "PG7", "Gold": "PY150"}
    estimate = learn(list(box), [], typical_readings(list(box.items()), [], TABLE))
    lattice = build_lattice(mixer_of(estimate))
    colours = np.array([[30.0, 10.0, -30.0], [50.0, 6.0, -18.0]])  # a tube that is nothing like its label
    found = rebuild_by_label(
        lattice, colours, (1.0, 0.5), ["PG7", "PY150"], {n: codes_in(c) for n, c in box.items()}
    )
    assert found.found[0].mean > 3.0 and found.why


def test_what_was_painted_serves_a_list():
    wanted = np.array([[50.0, 40, 20], [51.0, 41, 20], [70.0, -20, 30], [20.0, 0, 0]])
    painted = np.array([[50.5, 40.5, 20], [70.5, -20, 31], [90.0, 0, 5]])
    served = served_by(wanted, painted)
    assert [entry.painted for entry in served[:3]] == [0, 0, 1]
    for entry in served:
        every = [float(delta_e_00(wanted[entry.place], other)) for other in painted]
        assert entry.away == pytest.approx(min(every))
    assert most_useful(wanted, painted, 5.0) == [(0, 2), (1, 1)]
    assert most_useful(wanted, painted[:0], 5.0) == [] and served_by(wanted[:0], painted) == []
