"""Subjects as wanted colours: what ships can be seen and is told apart, and what a box serves is looked up one by one."""

import numpy as np
import pytest

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.palette.lattice import build_lattice
from culmo.core.palette.subjects import BY_KEY, SERVED, SUBJECTS, all_round, serving
from culmo.core.steps import run_through
from support.boxes import make_mixer


def test_what_ships_is_colours_that_a_screen_shows_and_an_eye_tells_apart():
    assert len(BY_KEY) == len(SUBJECTS) == 6
    for subject in SUBJECTS:
        names = [name for name, _ in subject.colours]
        lab = np.array([lab for _, lab in subject.colours], dtype=float)
        assert len(set(names)) == len(names) >= 10
        rgb = srgb_from_lab(lab)
        assert rgb.min() >= -0.06 and rgb.max() <= 1.06, subject.key
        apart = delta_e_00(lab[:, None], lab[None])[np.triu_indices(len(lab), 1)]
        assert apart.min() > SERVED, (subject.key, apart.min())  # no one mix serves two of them


@pytest.mark.parametrize("count", [1, 4, 12])
def test_the_nearest_mixes_are_those_that_looking_at_each_finds(count):
    lattice = build_lattice(make_mixer(count, 5))
    served = run_through(serving(lattice))
    every = lattice.lab.reshape(-1, 3).astype(float)
    hits = []
    for one in served:
        wanted = np.array([lab for _, lab in one.subject.colours], dtype=float)
        for place, goal in enumerate(wanted):
            best = delta_e_00(every, goal).min()
            assert best - 1e-6 <= one.away[place] <= best + 1.0
            assert (one.away[place] < SERVED) == (best < SERVED)
            assert delta_e_00(one.lab[place], goal) == pytest.approx(one.away[place])
            assert set(one.recipes[place].names) <= set(lattice.names)
        assert one.reached == sum(one.away < SERVED)
        assert ("misses" in one.words) == (one.reached < len(wanted))
        hits.append(one.reached / len(wanted))
    assert all_round(served) == pytest.approx(sum(hits) / len(hits))


def test_more_paints_never_serve_less():
    few, many = (all_round(run_through(serving(build_lattice(make_mixer(n, 5))))) for n in (4, 12))
    assert few <= many
