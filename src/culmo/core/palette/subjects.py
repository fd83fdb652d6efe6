"""Subjects that are painted, as lists of wanted colours to begin from, and how well a box serves them."""

from collections.abc import Generator
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.nearspace import near_from_lab
from culmo.words import listed, mark, tr

SERVED = 5.0  # CIEDE2000: nearer than this a mix is at most just visibly another colour
_MISJUDGED = 2.0  # by what factor the near space may be wrong, far from a colour
_CHUNK = 20_000  # mixes that are measured at a time


@dataclass(frozen=True)
class Subject:
    """Something that is painted.

    Attributes
    ----------
    key : str
    title : str, in English; said through `tr`
    colours : tuple of (name in English, (L, a, b))
    """

    key: str
    title: str
    colours: tuple[tuple[str, tuple[float, float, float]], ...]


# the colours are our own, set down by eye under daylight: what such a subject asks for, not what one day looked like
SUBJECTS = (
    Subject("landscape", mark("Landscape, greens and earths"), (
        (mark("spring meadow"), (72, -28, 52)), (mark("summer grass"), (52, -28, 38)),
        (mark("olive grove"), (50, -8, 28)),
        (mark("pine wood"), (30, -14, 10)), (mark("distant hills"), (66, -4, -10)), (mark("ripe field"), (76, 8, 48)),
        (mark("dry earth"), (58, 14, 28)), (mark("red earth"), (42, 28, 24)), (mark("dark furrow"), (28, 8, 10)),
        (mark("moss on stone"), (45, -12, 30)), (mark("heather"), (48, 22, -12)), (mark("pale path"), (84, 3, 14)),
    )),
    Subject("skies", mark("Skies"), (
        (mark("high summer sky"), (62, -6, -38)), (mark("winter sky"), (80, -4, -16)),
        (mark("sky near the ground"), (88, -4, -4)),
        (mark("evening orange"), (74, 28, 44)), (mark("evening rose"), (76, 26, 8)),
        (mark("violet dusk"), (48, 16, -26)),
        (mark("storm cloud"), (42, 0, -8)), (mark("shade of a cloud"), (70, 1, -6)),
        (mark("cloud in light"), (92, 1, 6)),
        (mark("night"), (20, 4, -24)), (mark("yellow before rain"), (82, -2, 34)),
    )),
    Subject("sea", mark("Sea and shore"), (
        (mark("deep water"), (30, -4, -28)), (mark("green water"), (48, -24, -2)),
        (mark("shallow water"), (74, -22, -8)),
        (mark("turquoise bay"), (66, -32, -16)), (mark("grey sea"), (54, -4, -8)),
        (mark("foam in shade"), (84, -3, -4)),
        (mark("wet sand"), (60, 6, 18)), (mark("dry sand"), (82, 4, 18)),
        (mark("weed"), (32, -6, 18)), (mark("wet rock"), (28, 1, 2)),
    )),
    Subject("flowers", mark("Flowers"), (
        (mark("poppy"), (50, 62, 46)), (mark("rose petal"), (66, 42, 4)), (mark("deep rose"), (42, 60, 6)),
        (mark("peony"), (54, 56, -8)), (mark("cornflower"), (42, 18, -56)), (mark("bluebell"), (52, 20, -42)),
        (mark("pansy"), (26, 32, -34)), (mark("lavender"), (66, 16, -24)), (mark("buttercup"), (86, 4, 80)),
        (mark("marigold"), (72, 34, 70)), (mark("leaf in light"), (60, -30, 48)),
        (mark("white petal in shade"), (84, 2, -6)),
    )),
    Subject("skin", mark("Skin"), (
        (mark("fair, in light"), (86, 8, 14)), (mark("fair, middle"), (74, 16, 22)),
        (mark("rosy cheek"), (66, 28, 18)),
        (mark("warm shade"), (52, 20, 22)), (mark("cool shade"), (50, 10, 4)),
        (mark("olive, in light"), (74, 10, 26)),
        (mark("tan, middle"), (58, 18, 30)), (mark("brown, middle"), (44, 18, 24)),
        (mark("deep, in light"), (38, 16, 20)),
        (mark("deep, in shade"), (22, 10, 10)), (mark("lips"), (50, 34, 16)),
    )),
    Subject("shade", mark("Foliage in shade"), (
        (mark("blue-green shade"), (36, -16, -6)), (mark("cool leaf"), (44, -18, 8)),
        (mark("deep leaf"), (26, -12, 10)),
        (mark("black-green"), (16, -6, 4)), (mark("violet in the shade"), (28, 8, -12)),
        (mark("brown-green"), (32, -2, 16)),
        (mark("grey-green"), (52, -8, 8)), (mark("leaf against the light"), (66, -20, 56)),
        (mark("trunk in shade"), (30, 6, 8)),
        (mark("moss in shade"), (36, -10, 20)),
    )),
)  # fmt: skip
BY_KEY = {subject.key: subject for subject in SUBJECTS}


@dataclass(frozen=True)
class SubjectServed:
    """How a box serves a subject.

    Attributes
    ----------
    subject : Subject
    recipes : tuple of Recipe, the nearest of the box's plain mixes for each colour
    lab : (k, 3) float, their colours
    away : (k,) float, CIEDE2000
    """

    subject: Subject
    recipes: tuple[Recipe, ...]
    lab: Array
    away: Array

    @property
    def reached(self) -> int:
        """How many of the colours are at most just visibly missed."""
        return int((self.away < SERVED).sum())

    @property
    def words(self) -> str:
        """What is reached and what is missed."""
        names = [tr(name) for name, _ in self.subject.colours]
        missed = [names[i] for i in np.argsort(-self.away, kind="stable") if self.away[i] >= SERVED]
        text = tr("{n} of {n2}", n=self.reached, n2=len(names))
        return tr("{n}; misses {what}", n=text, what=listed(missed[:3])) if missed else text


def serving(lattice: Lattice) -> Generator[float, None, list[SubjectServed]]:
    """How a box serves each subject, by its mixes of up to three paints in sixths; yields its progress.

    Parameters
    ----------
    lattice : Lattice of the box
    """
    wanted = np.array([lab for subject in SUBJECTS for _, lab in subject.colours], dtype=np.float32)
    goal = near_from_lab(wanted).astype(np.float32)
    near, washes = lattice.near, lattice.lab.shape[1]
    least = np.full(len(goal), np.inf)
    place = np.zeros(len(goal), dtype=np.intp)
    for begin in range(0, len(near), _CHUNK):
        yield begin / len(near)
        some = near[begin : begin + _CHUNK].reshape(-1, 3)
        apart = (goal**2).sum(1)[:, None] - 2.0 * goal @ some.T + (some**2).sum(1)[None]
        best = apart.argmin(axis=1)
        value = apart[np.arange(len(goal)), best]
        nearer = value < least
        least[nearer], place[nearer] = value[nearer], best[nearer] + begin * washes
    every = lattice.lab.reshape(-1, 3)
    away = delta_e_00(every[place].astype(float), wanted.astype(float))
    for missed in np.flatnonzero(away >= SERVED):
        # far off the near space only says roughly which is the nearest: those that it may have misjudged are looked at
        yield 1.0
        off = np.sqrt(((near.reshape(-1, 3) - goal[missed]) ** 2).sum(axis=1))
        maybe = np.flatnonzero(off <= _MISJUDGED * off.min() + 1e-6)
        exact = delta_e_00(every[maybe].astype(float), wanted[missed].astype(float))
        place[missed], away[missed] = maybe[exact.argmin()], exact.min()
    rows, columns = np.divmod(place, washes)
    lab = every[place].astype(float)
    result, first = [], 0
    for subject in SUBJECTS:
        own = slice(first, first + len(subject.colours))
        first = own.stop
        recipes = tuple(lattice.recipe(int(r), int(c)) for r, c in zip(rows[own], columns[own], strict=True))
        result.append(SubjectServed(subject, recipes, lab[own], away[own]))
    return result


def all_round(served: list[SubjectServed]) -> float:
    """An all-round score: the mean share of what the subjects ask for that is reached, 0..1.

    Parameters
    ----------
    served : list of SubjectServed, not empty
    """
    return float(np.mean([one.reached / len(one.away) for one in served]))
