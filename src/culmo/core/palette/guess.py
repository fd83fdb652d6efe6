"""Guess first: questions that train the eye, drawn from the painter's own paints."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.mixer import Mixer
from culmo.errors import CulmoError
from culmo.words import tr

WHICH, PARTS = "which", "parts"
OPTIONS = 4
PARTS_OF = 6
_WASHES = (1.0, 0.5, 0.25)
_NEAREST, _FARTHEST = 5.0, 22.0  # CIEDE2000 between the right mix and the others
_SHORT_PATH = 14.0


@dataclass(frozen=True)
class Question:
    """A question.

    Attributes
    ----------
    kind : str, WHICH: two strokes and parts are shown, which of these is the mix; or PARTS: a colour is shown, set the parts
    first, second : str, the paints
    parts : (int, int), the true parts
    wash : float
    lab : (3,) float, the mix
    options : (4, 3) float, what may be chosen from; one of them is the mix
    right : int, which
    """

    kind: str
    first: str
    second: str
    parts: tuple[int, int]
    wash: float
    lab: Array
    options: Array
    right: int

    @property
    def recipe(self) -> Recipe:
        """The true mix."""
        return mix([self.first, self.second], [float(part) for part in self.parts], self.wash)


def ask(lattice: Lattice, rng: np.random.Generator) -> Question:
    """A question from a box; both kinds take turns by chance.

    Parameters
    ----------
    lattice : Lattice of two paints or more
    rng : Generator

    Raises
    ------
    CulmoError
        when the box has fewer than two paints
    """
    n = len(lattice.names)
    if n < 2:
        raise CulmoError(tr("two paints or more are wanted for a question"))
    mixer = lattice.mixer
    for _ in range(50):
        i, j = (int(place) for place in rng.choice(n, 2, replace=False))
        ends = mixer.lab(np.eye(n)[[i, j]], (1.0,))[:, 0]
        if float(delta_e_00(ends[0], ends[1])) >= _SHORT_PATH:
            break
    first = int(rng.integers(1, PARTS_OF))
    whole = Fraction(first, PARTS_OF - first)
    parts = (whole.numerator, whole.denominator)
    wash = float(rng.choice(_WASHES))
    lab = mixed(mixer, i, j, parts, wash)
    kind = WHICH if rng.random() < 0.5 else PARTS
    options = _near_ones(lattice, lab, rng)
    right = int(rng.integers(OPTIONS))
    options = np.insert(options, right, lab, axis=0)
    return Question(kind, lattice.names[i], lattice.names[j], parts, wash, lab, options, right)


def mixed(mixer: Mixer, first: int, second: int, parts: tuple[float, float], wash: float) -> Array:
    """The colour of two paints in parts, (3,) float.

    Parameters
    ----------
    mixer : Mixer
    first, second : int
    parts : (float, float)
    wash : float
    """
    shares = np.zeros((1, len(mixer.names)))
    shares[0, first] += parts[0] / sum(parts)
    shares[0, second] += parts[1] / sum(parts)
    return np.asarray(mixer.lab(shares, (wash,))[0, 0])


def _near_ones(lattice: Lattice, lab: Array, rng: np.random.Generator) -> Array:
    """Three mixes of the box near a colour, but not too near to it nor to each other."""
    colours = lattice.lab.reshape(-1, 3)
    some = colours[rng.choice(len(colours), min(4000, len(colours)), replace=False)].astype(float)
    away = delta_e_00(some, lab)
    chosen: list[Array] = []
    for i in np.argsort(np.abs(away - 10.0), kind="stable"):
        if not _NEAREST <= away[i] <= _FARTHEST:
            continue
        if all(float(delta_e_00(some[i], other)) >= _NEAREST for other in chosen):
            chosen.append(some[i])
        if len(chosen) == OPTIONS - 1:
            return np.array(chosen)
    while len(chosen) < OPTIONS - 1:  # a box of hardly differing paints
        chosen.append(np.clip(lab + rng.normal(0.0, 8.0, 3), [5.0, -80.0, -80.0], [98.0, 80.0, 80.0]))
    return np.array(chosen)


def missed_by(question: Question, mixer: Mixer, answer: int | tuple[int, int]) -> float:
    """How far an answer lies from the truth, CIEDE2000; 0 for the right one.

    Parameters
    ----------
    question : Question
    mixer : Mixer of the same paints
    answer : int, the option chosen; or the parts that were set
    """
    if isinstance(answer, tuple):
        places = [mixer.names.index(name) for name in (question.first, question.second)]
        given = mixed(mixer, places[0], places[1], answer, question.wash)
        return float(delta_e_00(given, question.lab))
    return float(delta_e_00(question.options[answer], question.lab))
