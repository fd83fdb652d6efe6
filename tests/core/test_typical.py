"""What is believed of a paint by its pigment: its bands, its level, how far it may wander; and that its own card wins."""

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import WAVELENGTH_NM
from culmo.core.paint.estimate import learn
from culmo.core.paint.parameters import K_SLICE, S_SLICE
from culmo.core.paint.pigments import belief_of, beliefs_of, read_places, typical_card, typical_readings
from culmo.core.paint.predict import predict
from culmo.core.paint.readings import INK, Reading
from culmo.core.paint.recipe import TINT, Recipe, mix
from culmo.core.paint.typical import bands_curve, belief_about
from culmo.data import pigment_bands, pigment_table, typical_curves
from culmo.errors import CulmoError
from support.turbid import all_pairs, codes_of, make_laboratory

TABLE, CURVES = pigment_table(), typical_curves()


def peak(curve, low, high):
    """Where a curve is highest within a range, in nm."""
    inside = (low <= WAVELENGTH_NM) & (high >= WAVELENGTH_NM)
    return WAVELENGTH_NM[inside][np.argmax(curve[inside])]


def test_bands_are_read_as_they_are_written():
    curve = bands_curve("b 600 20 1; e 450 10 0.5")
    assert peak(curve, 500, 730) == 600 and curve.max() == pytest.approx(1.012)
    assert curve[WAVELENGTH_NM == 380][0] > 0.45 > 0.05 > curve[WAVELENGTH_NM == 500][0]
    above = bands_curve("e 600 -10 1")
    assert above[-1] > 0.95 > 0.05 > above[0]


@pytest.mark.parametrize("text", ["", "b 600 20", "c 600 20 1", "b 600 20 1;", "b 600 0 1", "b six 20 1"])
def test_what_is_no_band_is_refused(text):
    with pytest.raises(CulmoError):
        bands_curve(text)


def test_each_pigment_has_its_bands_and_its_curve():
    bands = pigment_bands()
    assert set(bands) == set(TABLE) == set(CURVES)
    for code, text in bands.items():
        assert np.isfinite(bands_curve(text)).all() and (CURVES[code][0] > 0).all(), code


def test_the_shipped_curves_have_what_the_chemistry_of_the_pigments_has():
    """Of the best known ones: where they absorb most, and where they let light through."""
    for code, low, high, near in (("PB29", 520, 680, 600), ("PG7", 560, 680, 640)):
        assert abs(peak(CURVES[code][0], low, high) - near) <= 20, code
    ultramarine, cobalt = CURVES["PB29"][0], CURVES["PB28"][0]
    at = {nm: int(np.flatnonzero(nm == WAVELENGTH_NM)[0]) for nm in (450, 520, 590, 700)}
    assert ultramarine[at[590]] > 4 * ultramarine[at[450]]
    assert cobalt[at[590]] > 5 * cobalt[at[700]]  # it lets the far red through
    assert CURVES["PG7"][0][at[520]] < 0.3 * CURVES["PG7"][0].max()
    cadmium = CURVES["PY35"][0]
    assert cadmium[at[450]] > 20 * cadmium[at[590]]


@pytest.mark.long
def test_a_paint_with_a_code_alone_looks_as_its_pigment_does():
    """Within 6 of the table for nearly all pigments, in masstone and tint: the table says no more itself."""
    beliefs = {code.casefold(): belief_of(code, TABLE, CURVES) for code in TABLE}
    estimate = learn(list(TABLE), [], beliefs=beliefs)
    off, inside = [], []
    for code in TABLE:
        card = [one for one, _ in typical_card(code, code, TABLE) if one.ground != INK]
        found = predict(estimate, [one.recipe for one in card])
        off.append(delta_e_00(found.lab, np.array([one.lab for one in card])))
        inside.append(off[-1] < found.dE90)
    assert np.mean(np.array(off) < 6.0) > 0.92 and np.median(off) < 2.5
    assert np.mean(inside) > 0.95


def test_labels_with_several_codes_or_none():
    both, one = belief_of("PB29 + PV19", TABLE, CURVES), belief_of("PB29", TABLE, CURVES)
    assert both != one and one == belief_of("pb29, granulating", TABLE, CURVES)
    assert belief_of("", TABLE, CURVES) is None and belief_of("PX99", TABLE, CURVES) is None
    # in parts that nobody knows
    assert np.trace(np.linalg.inv(both.precision)) > 1.5 * np.trace(np.linalg.inv(one.precision))


def test_what_was_read_of_a_card_sets_the_belief_free_and_then_aside():
    paints = [("Mine", "PB29"), ("Other", "")]
    full, tint = (
        Reading(mix(["mine"]), (30.0, 10.0, -50.0)),
        Reading(mix(["Mine"], wash=TINT), (70.0, 0.0, -25.0)),
    )
    bar = Reading(mix(["Mine"]), (20.0, 5.0, -10.0), INK)
    assert set(beliefs_of(paints, [], TABLE, CURVES)) == {"mine"}
    narrow, wide = (beliefs_of(paints, own, TABLE, CURVES)["mine"] for own in ([], [full]))
    assert narrow != wide
    assert np.trace(np.linalg.inv(wide.precision)) > 2.0 * np.trace(np.linalg.inv(narrow.precision))
    assert beliefs_of(paints, [bar], TABLE, CURVES)["mine"] == narrow  # the bar says nothing of its colour
    assert beliefs_of(paints, [full, tint], TABLE, CURVES) == {}


def _untaught(seed, count=14):
    painter = make_laboratory(count, seed)
    names = [paint.name for paint in painter.paints]
    codes = codes_of(names)
    recipes = all_pairs(names, (1.0, 0.45, 0.2))
    order = np.random.default_rng(seed).permutation(len(recipes))
    taught = [painter.read(recipes[place]) for place in order[:20]]
    held = [recipes[place] for place in order[20:100]]
    truth = np.array([painter.mean_lab(recipe) for recipe in held])
    return painter, names, codes, taught, held, truth


@pytest.mark.long
@pytest.mark.parametrize("known", ["codes", "codes and mixes", "masstones"])
def test_in_another_physics_a_belief_beats_typical_appearances(known):
    """Where newcomers stand: kinds of paints that were drawn by chance, known by the code of their kind."""
    by_belief, by_typical, inside = [], [], []
    for seed in range(960, 964):
        painter, names, codes, taught, held, truth = _untaught(seed)
        readings = [painter.read(Recipe()), painter.read(Recipe(), INK)]
        if known == "codes and mixes":
            readings += taught
        if known == "masstones":
            readings += [painter.read(mix([name])) for name in names]
        beliefs = beliefs_of(codes, readings, TABLE, CURVES)
        found = predict(learn(names, readings, beliefs=beliefs), held)
        by_belief.append(np.median(delta_e_00(found.lab, truth)))
        inside.append((delta_e_00(found.lab, truth) < found.dE90).mean())
        usual = predict(learn(names, readings, typical_readings(codes, readings, TABLE)), held)
        by_typical.append(np.median(delta_e_00(usual.lab, truth)))
    assert np.mean(by_belief) < 0.95 * np.mean(by_typical)
    assert np.mean(inside) > 0.75


def test_a_card_wins_over_a_pigment_that_the_paint_is_unlike():
    """A paint whose label says what it is not: from its card on it is as if nothing had been believed."""
    painter = make_laboratory(6, 970)
    names = [paint.name for paint in painter.paints]
    cards = painter.cards()
    wrong = [(name, "PG7" if "Copper Green" not in name else "PR108") for name in names]
    assert set(read_places(cards)) == {name.casefold() for name in names}
    assert beliefs_of(wrong, cards, TABLE, CURVES) == {}
    # with the masstone alone that is met, whatever the label says
    masstones = [
        one for one in cards if one.recipe.layers and one.recipe.layers[0].wash == 1.0 and one.ground != INK
    ]
    estimate = learn(names, masstones, beliefs=beliefs_of(wrong, masstones, TABLE, CURVES))
    found = predict(estimate, [one.recipe for one in masstones])
    assert np.median(delta_e_00(found.lab, np.array([one.lab for one in masstones]))) < 2.0


def test_what_lies_farther_from_its_table_may_wander_farther_at_every_wavelength():
    code = next(iter(CURVES))
    near, far = (belief_about("a", *CURVES[code], scale) for scale in (1.0, 2.0))
    spread = [np.sqrt(np.diag(np.linalg.inv(belief.precision))) for belief in (near, far)]
    for part in (K_SLICE, S_SLICE):
        assert spread[1][part] / spread[0][part] == pytest.approx(2.0, rel=0.02)
        assert (
            spread[0][part].min() > 0.2 and spread[0][part].max() < 1.1
        )  # a good entry says it within a factor of three
