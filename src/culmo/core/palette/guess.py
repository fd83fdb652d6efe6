"""Training the eye: questions of mixes, parts, paints and drying, and pairs drawn to be painted.

What is asked is what was painted and read, or else what is predicted of paints that were read: a paint that is known by its
label only is no truth to train an eye on.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import FULL, Recipe, mix
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.mixer import Mixer
from culmo.errors import CulmoError
from culmo.words import tr


class GuessKind(StrEnum):
    """What is asked."""

    WHICH = "which"
    PARTS = "parts"
    PAINTS = "paints"
    DRIES = "dries"


KINDS = tuple(GuessKind)
OPTIONS = 4
DRAW_OPTIONS = 8
PARTS_OF = 12
CANDIDATES = (4, 3, 0)  # how many paints are shown to choose two from; none: all that are read
SEEN_RIGHT = 1.0  # CIEDE2000 within which no eye could have chosen better
_WASHES = (1.0, 0.5, 0.25)
_NEAREST, _FARTHEST = 5.0, 22.0  # CIEDE2000 between the right mix and the others
_SHORT_PATH = 14.0  # CIEDE2000 between two paints whose mixes are worth telling apart
_PAINTED = 0.7  # how often what was painted is asked for rather than what is predicted
_PUDDLES = ((1, 1), (2, 1), (1, 2), (3, 1), (1, 3))  # what is drawn: parts that any hand can count
_TRIES = 60


@dataclass(frozen=True)
class Truth:
    """A mix whose colour is known.

    Attributes
    ----------
    recipe : Recipe, of one layer
    lab : (3,) float, CIELAB, dry
    painted : bool, whether it was painted and read; else it is predicted
    where : str, the sheet it was painted on; empty for a loose swatch and a prediction
    wet : (3,) float, CIELAB, while it was wet; or None
    """

    recipe: Recipe
    lab: Array
    painted: bool = True
    where: str = ""
    wet: Array | None = None

    @property
    def is_pair(self) -> bool:
        """Whether it is of two paints."""
        return len(self.recipe.layers) == 1 and len(self.recipe.layers[0].parts) == 2


@dataclass(frozen=True)
class Material:
    """What questions are made of.

    Attributes
    ----------
    lattice : Lattice, of the box
    read : frozenset of str, the folded names of the paints that were read
    painted : sequence of Truth, what was painted and read
    """

    lattice: Lattice
    read: frozenset[str]
    painted: Sequence[Truth] = ()

    @property
    def known(self) -> list[int]:
        """The paints of the lattice that were read."""
        return [i for i, name in enumerate(self.lattice.names) if name.casefold() in self.read]

    def pairs(self) -> list[Truth]:
        """The painted mixes of two paints that are in the box, dry."""
        own = {name.casefold() for name in self.lattice.names}
        return [
            one for one in self.painted if one.is_pair and {n.casefold() for n in one.recipe.names} <= own
        ]

    def dried(self) -> list[Truth]:
        """What was read wet and dry."""
        return [one for one in self.painted if one.wet is not None]


@dataclass(frozen=True)
class GuessQuestion:
    """A question.

    Attributes
    ----------
    kind : str, WHICH: two strokes and parts are shown, which of these is the mix; PARTS: a colour and its paints are shown,
        set the parts; PAINTS: a colour is shown, which two of these paints; DRIES: a wet puddle is shown, which of these is
        it when it is dry
    truth : Truth, what it is about
    options : (4, 3) float, what may be chosen from (WHICH, DRIES)
    right : int, which of them; -1 where there are none
    candidates : tuple of str, the paints to choose two from (PAINTS)
    """

    kind: str
    truth: Truth
    options: Array = field(default_factory=lambda: np.empty((0, 3)))
    right: int = -1
    candidates: tuple[str, ...] = ()

    @property
    def recipe(self) -> Recipe:
        """The true mix."""
        return self.truth.recipe

    @property
    def lab(self) -> Array:
        """Its colour, (3,) float CIELAB."""
        return self.truth.lab

    @property
    def names(self) -> tuple[str, ...]:
        """The paints of the truth."""
        return self.recipe.names

    @property
    def wash(self) -> float:
        """The strength of its wash."""
        return self.recipe.layers[0].wash

    @property
    def parts(self) -> tuple[int, int]:
        """The parts of a mix of two, in the smallest whole numbers."""
        return whole_parts(self.recipe)


@dataclass(frozen=True)
class Draw:
    """A pair drawn from the box to be painted, with colours to guess from.

    Attributes
    ----------
    recipe : Recipe
    predicted : (3,) float, CIELAB
    options : (8, 3) float, CIELAB, from light to dark
    """

    recipe: Recipe
    predicted: Array
    options: Array


def why_not(material: Material, kind: str) -> str:
    """What a kind of question still needs; empty where one can be asked.

    Parameters
    ----------
    material : Material
    kind : str, one of KINDS
    """
    if kind == GuessKind.DRIES:
        if material.dried():
            return ""
        return tr(
            "Nothing is read both wet and dry yet. Note the wet look of a cell at the table, or read a picture taken while "
            "the sheet is wet; read it again when it is dry."
        )
    known = len(material.known)
    if kind == GuessKind.PAINTS and known < min(CANDIDATES[:2]):
        return tr("Three paints that were read are wanted before anybody can ask which two made a colour.")
    if known >= 2 or (kind != GuessKind.PAINTS and material.pairs()):
        return ""
    return tr(
        "Two paints that were read are wanted: what is known from a label only is no truth to train an eye on. Paint their "
        "cards, and read them."
    )


def ask(
    material: Material, rng: np.random.Generator, kinds: Sequence[str] = KINDS, count: int = CANDIDATES[0]
) -> GuessQuestion:
    """A question; the kinds take turns by chance.

    Parameters
    ----------
    material : Material
    rng : Generator
    kinds : sequence of str, which may be asked
    count : int, how many paints to choose two from (PAINTS), 0 for all that are read

    Raises
    ------
    CulmoError
        saying what is needed where none of them can be asked
    """
    can = [kind for kind in kinds if not why_not(material, kind)]
    if not can:
        raise CulmoError(why_not(material, kinds[0]))
    kind = str(rng.choice(can))
    if kind == GuessKind.DRIES:
        return _drying(material.dried(), rng)
    truth = _truth(material, kind, rng)
    if kind == GuessKind.PAINTS:
        return _which_paints(material, truth, count, rng)
    lattice = material.lattice
    predicted = mixed(lattice.mixer, truth.recipe)
    options = _near_ones(lattice, truth.lab, predicted, rng)
    return _asked(kind, truth, options, rng)


def _asked(kind: str, truth: Truth, others: Array, rng: np.random.Generator) -> GuessQuestion:
    right = int(rng.integers(OPTIONS))
    options = np.insert(others, right, truth.lab, axis=0)
    return GuessQuestion(kind, truth, options, right)


def _truth(material: Material, kind: str, rng: np.random.Generator) -> Truth:
    """A mix that was painted, or one that is predicted of read paints."""
    pairs = material.pairs()
    if kind == GuessKind.PARTS:
        pairs = [one for one in pairs if slider_place(one.recipe) is not None]
    if kind == GuessKind.PAINTS:  # both paints among the candidates are to be such as were read
        pairs = [one for one in pairs if {name.casefold() for name in one.recipe.names} <= material.read]
    known = material.known
    if pairs and (len(known) < 2 or rng.random() < _PAINTED):
        return pairs[int(rng.integers(len(pairs)))]
    if len(known) < 2:
        raise CulmoError(why_not(material, GuessKind.PAINTS))
    mixer = material.lattice.mixer
    i, j = _far_pair(mixer, known, rng)
    first = int(rng.integers(1, PARTS_OF))
    recipe = mix(
        [mixer.names[i], mixer.names[j]], [float(first), float(PARTS_OF - first)], float(rng.choice(_WASHES))
    )
    return Truth(recipe, mixed(mixer, recipe), painted=False)


def whole_parts(recipe: Recipe) -> tuple[int, int]:
    """The parts of a mix of two paints, in the smallest whole numbers.

    Examples
    --------
    >>> whole_parts(mix(["Rose", "Lemon"], [9, 3]))
    (3, 1)
    """
    first, second = (Fraction(part.parts).limit_denominator(100) for part in recipe.layers[0].parts)
    whole = first / second
    return whole.numerator, whole.denominator


def slider_place(recipe: Recipe) -> int | None:
    """How many of the PARTS_OF parts are of the second paint; None where the parts lie between."""
    first, second = (part.parts for part in recipe.layers[0].parts)
    place = PARTS_OF * second / (first + second)
    return round(place) if abs(place - round(place)) < 1e-6 else None


def _far_pair(mixer: Mixer, known: Sequence[int], rng: np.random.Generator) -> tuple[int, int]:
    """Two paints that differ enough for their mixes to be told apart, where chance finds such."""
    i = j = 0
    for _ in range(_TRIES):
        i, j = (int(place) for place in rng.choice(known, 2, replace=False))
        ends = mixer.lab(np.eye(len(mixer.names))[[i, j]], (FULL,))[:, 0]
        if float(delta_e_00(ends[0], ends[1])) >= _SHORT_PATH:
            break
    return i, j


def mixed(mixer: Mixer, recipe: Recipe) -> Array:
    """The predicted colour of a recipe of one layer, (3,) float CIELAB.

    Parameters
    ----------
    mixer : Mixer, of its paints among others
    recipe : Recipe
    """
    place = {name.casefold(): i for i, name in enumerate(mixer.names)}
    layer = recipe.layers[0]
    shares = np.zeros((1, len(mixer.names)))
    for part in layer.parts:
        shares[0, place[part.name.casefold()]] += part.parts
    return np.asarray(mixer.lab(shares / shares.sum(), (layer.wash,))[0, 0])


# ---- which paints


def _which_paints(material: Material, truth: Truth, count: int, rng: np.random.Generator) -> GuessQuestion:
    """The two paints among some, so that no other two of them come as near, where chance finds such."""
    names, known = material.lattice.names, material.known
    place = {name.casefold(): i for i, name in enumerate(names)}
    own = [place[name.casefold()] for name in truth.recipe.names]
    others = [i for i in known if i not in own]
    best: list[int] = []
    if count == 0 or len(known) <= count:
        best = sorted({*own, *known}, key=lambda i: names[i].casefold())
    else:
        clearest = -1.0
        for _ in range(_TRIES // 4):
            some = [*own, *(int(i) for i in rng.choice(others, count - 2, replace=False))]
            nearest = min(
                nearest_mix(material.lattice.mixer, (names[a], names[b]), truth.lab, truth.recipe.layers[0].wash)
                for at, a in enumerate(some) for b in some[at + 1 :] if {a, b} != set(own)
            )  # fmt: skip
            if nearest > clearest:
                best, clearest = some, nearest
            if _NEAREST <= nearest <= _FARTHEST:
                break
        best = [int(i) for i in rng.permutation(best)]
    return GuessQuestion(GuessKind.PAINTS, truth, candidates=tuple(names[i] for i in best))


def nearest_mix(mixer: Mixer, names: tuple[str, str], lab: Array, wash: float) -> float:
    """How near two paints get to a colour in any parts, CIEDE2000.

    Parameters
    ----------
    mixer : Mixer
    names : two str
    lab : (3,) float, CIELAB
    wash : float, the strength of the wash
    """
    place = {name.casefold(): i for i, name in enumerate(mixer.names)}
    shares = np.zeros((2 * PARTS_OF - 1, len(mixer.names)))
    steps = np.arange(1, 2 * PARTS_OF) / (2 * PARTS_OF)
    shares[:, place[names[0].casefold()]] += steps
    shares[:, place[names[1].casefold()]] += 1.0 - steps
    return float(delta_e_00(mixer.lab(shares, (wash,))[:, 0], lab).min())


# ---- drying


def _drying(dried: Sequence[Truth], rng: np.random.Generator) -> GuessQuestion:
    """Four dry colours for a wet one: the true one, and what those would say who forget drying, or overdo it."""
    truth = dried[int(rng.integers(len(dried)))]
    assert truth.wet is not None
    change = truth.lab - truth.wet
    tries = [truth.wet, truth.lab + 1.5 * change, truth.wet - change]
    for sign in rng.permutation([1.0, -1.0]):
        tries += [truth.lab + sign * np.array([step, 0.0, 0.0]) for step in (7.0, 12.0)]
        tries.append(truth.lab * np.array([1.0, 1.0 + 0.35 * sign, 1.0 + 0.35 * sign]))
    tries += [truth.lab + shift for shift in rng.normal(0.0, 9.0, (40, 3))]
    return _asked(
        GuessKind.DRIES, truth, _apart([_in_range(one) for one in tries], [truth.lab], OPTIONS - 1), rng
    )


def _in_range(lab: Array) -> Array:
    return np.asarray(np.clip(lab, [5.0, -90.0, -90.0], [98.0, 90.0, 90.0]))


def _apart(tries: Sequence[Array], taken: Sequence[Array], count: int, least: float = _NEAREST) -> Array:
    """The first of some colours that differ from those taken and from each other, (count, 3) float."""
    chosen: list[Array] = []
    for limit in (least, 0.6 * least, 0.0):
        for lab in tries:
            if len(chosen) < count and all(
                float(delta_e_00(lab, other)) >= limit for other in (*taken, *chosen)
            ):
                chosen.append(lab)
    return np.array(chosen)


# ---- mixes to choose from


def _near_ones(lattice: Lattice, lab: Array, predicted: Array, rng: np.random.Generator) -> Array:
    """Three mixes of the box near a colour, but not too near to it, to what is predicted in its place, nor to each other."""
    some = _some_mixes(lattice, rng)
    away = delta_e_00(some, lab)
    near = [
        some[i] for i in np.argsort(np.abs(away - 10.0), kind="stable") if _NEAREST <= away[i] <= _FARTHEST
    ]
    near += [
        _in_range(lab + shift) for shift in rng.normal(0.0, 8.0, (60, 3))
    ]  # a box of hardly differing paints
    return _apart(near, [lab, predicted], OPTIONS - 1)


def _some_mixes(lattice: Lattice, rng: np.random.Generator) -> Array:
    colours = lattice.lab.reshape(-1, 3)
    return np.asarray(colours[rng.choice(len(colours), min(4000, len(colours)), replace=False)].astype(float))


# ---- drawn to be painted


def draw(lattice: Lattice, painted: Sequence[frozenset[str]], rng: np.random.Generator) -> Draw:
    """A pair of the box to try: by chance, one that was never painted together where there is such.

    Parameters
    ----------
    lattice : Lattice of two paints or more
    painted : sequence of frozenset of str, the folded names of the paints of mixes that were painted or drawn already
    rng : Generator

    Raises
    ------
    CulmoError
        when the box has fewer than two paints
    """
    names = lattice.names
    if len(names) < 2:
        raise CulmoError(tr("two paints or more are wanted before a pair can be drawn"))
    done = set(painted)
    i, j = 0, 1
    for _ in range(_TRIES):
        i, j = _far_pair(lattice.mixer, range(len(names)), rng)
        if frozenset((names[i].casefold(), names[j].casefold())) not in done:
            break
    first, second = _PUDDLES[int(rng.integers(len(_PUDDLES)))]
    recipe = mix([names[i], names[j]], [float(first), float(second)], float(rng.choice(_WASHES[:2])))
    predicted = mixed(lattice.mixer, recipe)
    some = _some_mixes(lattice, rng)
    away = delta_e_00(some, predicted)
    order = np.argsort(np.abs(away - 9.0), kind="stable")
    near = [some[k] for k in order if _NEAREST <= away[k] <= 1.5 * _FARTHEST]
    near += [_in_range(predicted + shift) for shift in rng.normal(0.0, 12.0, (80, 3))]
    options = np.vstack([predicted, _apart(near, [predicted], DRAW_OPTIONS - 1)])
    return Draw(recipe, predicted, options[np.argsort(-options[:, 0], kind="stable")])


# ---- answers


def missed_by(
    question: GuessQuestion, mixer: Mixer, answer: int | tuple[int, int] | tuple[str, str]
) -> float:
    """How far an answer lies from the truth, CIEDE2000; 0 for the right one.

    Parts are held against what the true parts would give, so that a cell that came out otherwise than predicted is no
    fault of the eye. Two paints are held against the nearest that they get to the colour in any parts.

    Parameters
    ----------
    question : GuessQuestion
    mixer : Mixer of the paints
    answer : int, the option chosen; the parts that were set; or the two paints
    """
    if isinstance(answer, int):
        return float(delta_e_00(question.options[answer], question.lab))
    if isinstance(answer[0], str):
        chosen = (str(answer[0]), str(answer[1]))
        if {name.casefold() for name in chosen} == {name.casefold() for name in question.names}:
            return 0.0
        return nearest_mix(mixer, chosen, question.lab, question.wash)
    given = mix(question.names, [float(part) for part in answer], question.wash)
    return float(delta_e_00(mixed(mixer, given), mixed(mixer, question.recipe)))
