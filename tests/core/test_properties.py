"""What cards show: covering, staining, fading; against the simulated painter's own truth."""

import numpy as np
import pytest

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.paint.estimate import learn
from culmo.core.paint.properties import (
    FadeLook,
    card_transparency,
    fading,
    film_left,
    staining,
    transparency,
)
from culmo.core.paint.readings import INK, PAPER, Reading, Treatment, Trust
from culmo.core.paint.recipe import Recipe, mix
from culmo.demo.simulated import Painter, SimulatedPaint
from culmo.errors import CulmoError
from support.paints import FAMILIES, make_paint


def thirty(seed):
    """Thirty simulated paints of every transparency and staining, and a painter who has read their cards."""
    rng = np.random.default_rng(seed)
    paints = []
    for i in range(30):
        base = make_paint(FAMILIES[i % len(FAMILIES)], rng, f"Paint {i}")
        cover = float(np.exp(rng.uniform(np.log(0.02), np.log(1.4))))
        scattering = base.scattering / base.scattering.mean() * cover
        paints.append(
            SimulatedPaint(
                base.name, base.absorption, scattering, base.grain, "", float(rng.uniform(0.03, 0.97))
            )
        )
    return Painter(paints, rng)


def true_words(painter, paint):
    """The words of the paint itself: its own spectra, without hand or noise."""

    def look(recipe, ground=PAPER):
        return tuple(
            float(v) for v in lab_from_reflectance(painter.reflectance(recipe, ground, wander=False))
        )

    full = mix([paint.name])
    cover = transparency(look(full), look(full, INK), look(Recipe(), INK)).word
    stays = "low" if paint.staining < 0.25 else "medium" if paint.staining < 0.55 else "high"
    return cover, stays


def right_words(painter):
    """For how many of the paints the cards give the right words of covering and of staining."""
    readings = painter.cards()
    estimate = learn([paint.name for paint in painter.paints], readings)
    cover = stays = 0
    for paint in painter.paints:
        true_cover, true_stays = true_words(painter, paint)
        # where the masstone is as dark as the bar the card says that it can not tell, and so does the truth
        found = card_transparency(readings, paint.name, estimate)
        cover += found is not None and found.word == true_cover
        masstone = next(
            r.lab for r in readings if r.recipe.key == mix([paint.name]).key and r.ground == PAPER
        )
        after = tuple(float(v) for v in painter.treated(paint.name, Treatment.RUBBED))
        stays += staining(masstone, after, film_left(estimate, paint.name, after), True).word == true_stays
    return cover, stays


@pytest.mark.long
def test_cards_give_the_right_words_for_28_of_30_paints():
    # the paints are drawn over the whole range, those on the edge between two words among them
    scores = np.array([right_words(thirty(100 + seed)) for seed in range(20)])
    assert (scores.mean(axis=0) >= 28.0).all(), scores
    assert (scores >= 24).all(), scores


def test_how_much_covers_follows_the_share_of_the_way():
    masstone, ink = (60.0, 40.0, 20.0), (25.0, 0.0, 0.0)
    words = []
    for share in (0.0, 0.05, 0.1, 0.3, 0.7, 1.0):
        bar = tuple(i + share * (m - i) for m, i in zip(masstone, ink, strict=True))
        found = transparency(masstone, bar, ink)
        assert found.number == pytest.approx(share)
        words.append(found.word)
    assert words == ["transparent", "transparent", "semi-transparent", "semi-opaque", "opaque", "opaque"]
    assert transparency((26.0, 1.0, 0.0), (25.0, 0.0, 0.0), ink).word == ""


def test_what_is_left_is_the_film_and_not_the_colour():
    painter = thirty(7)
    readings = painter.cards()
    estimate = learn([paint.name for paint in painter.paints], readings)
    for paint in painter.paints[:12]:
        for share in (0.1, 0.3, 0.6, 0.9):
            after = tuple(float(v) for v in painter.mean_lab(mix([paint.name], wash=share)))
            assert film_left(estimate, paint.name, after) == pytest.approx(share, rel=0.35), paint.name


def test_rubbing_lifts_more_than_blotting_in_the_simulation():
    painter = thirty(8)
    paint = painter.paints[0].name
    paper = painter.mean_lab(Recipe())
    away = [
        np.linalg.norm(painter.treated(paint, how) - paper)
        for how in ("covered", Treatment.LIFTED, Treatment.RUBBED)
    ]
    assert away[0] > away[1] > away[2]


def test_fading_speaks_of_the_latest_look():
    looks = [FadeLook(1, (50, 40, 0), (50.3, 40, 0)), FadeLook(12, (50, 40, 0), (56, 30, 0))]
    found = fading(looks)
    assert found.word == "faded strongly"
    assert "12 weeks" in found.text
    assert fading(looks[:1]).word == "no change seen"
    assert "1 week " in fading(looks[:1]).text


def test_readings_after_a_test_do_not_teach_and_bad_treatments_are_refused():
    assert not Reading(mix(["A"]), (50, 0, 0), treatment=Treatment.EXPOSED).teaches
    assert not Reading(mix(["A"]), (50, 0, 0), trust=Trust.EXCLUDED).teaches
    assert Reading(mix(["A"]), (50, 0, 0)).teaches
    with pytest.raises(CulmoError, match="treatment"):
        Reading(mix(["A"]), (50, 0, 0), treatment="washed")
    painter = thirty(9)
    readings = painter.cards()
    name = painter.paints[0].name
    lifted = Reading(mix([name]), (90.0, 0.0, 0.0), treatment=Treatment.RUBBED)
    same = learn([p.name for p in painter.paints], readings)
    again = learn([p.name for p in painter.paints], [*readings, lifted])
    assert np.allclose(same.theta, again.theta)


def test_a_card_that_is_not_read_says_nothing():
    assert card_transparency([], "Rose") is None


def test_how_much_of_the_bar_is_covered_is_told_as_it_is_measured():
    found = transparency((80.0, 0.0, 0.0), (68.0, 0.0, 0.0), (20.0, 0.0, 0.0))
    assert found.number == pytest.approx(0.8)
    assert "covers 80 % of the bar" in found.text
