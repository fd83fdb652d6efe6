"""What the Find page works out for a wanted colour: recipes, what to add to a puddle, likenesses, schemes."""

from collections.abc import Callable, Generator, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict, predict_lab
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.likeness import Resemblance, Substitute, resembles, substitutes
from culmo.core.palette.match import Match, Touch, nearest_and_safest, touches
from culmo.core.palette.schemes import Companion, scheme
from culmo.data import pigment_table
from culmo.words import tr

Lab = tuple[float, float, float]
OUT_OF_REACH = 4.0
_WASHES = (FULL, 0.5, TINT)


@dataclass(frozen=True)
class Sought:
    """What is looked for.

    Attributes
    ----------
    lab : (L, a, b)
    name : str, empty for a bare colour
    paint : str, a paint of the box that is to be replaced; empty for none
    code : str, a pigment of the table that one does not own; empty for none
    """

    lab: Lab
    name: str = ""
    paint: str = ""
    code: str = ""


@dataclass(frozen=True)
class Answer:
    """What was found.

    Attributes
    ----------
    sought : Sought
    matches : list of Match, the nearest first
    within, expected : (n,) float, what nine in ten stay inside of, and the square mean of what a hand misses by
    safe : int, the recipe that misses least when the hand is off
    instead : list of Substitute, for a paint over its whole range
    adds : list of Touch, from the puddle
    puddle : Recipe or None
    like : list of Resemblance, of the nearest mix, or of the puddle
    like_of : Recipe or None
    companions : list of Companion
    """

    sought: Sought
    matches: list[Match]
    within: Array
    expected: Array
    safe: int
    instead: list[Substitute]
    adds: list[Touch]
    puddle: Recipe | None
    like: list[Resemblance]
    like_of: Recipe | None
    companions: list[Companion]

    @property
    def words(self) -> str:
        """How near it comes, in a sentence."""
        if not self.matches:
            return tr("Nothing can be mixed under these conditions.")
        away = self.matches[0].away
        if away > OUT_OF_REACH:
            return tr("Out of reach of these paints: the nearest mix still differs by {away:.1f}.", away=away)
        near = tr("to the eye the same") if away < 1.0 else tr("very near") if away < 2.0 else tr("near")
        if self.safe:
            return tr(
                "The nearest differs by {away:.1f}, {near}; number {value} is the safest for a hand that "
                "errs.",
                away=away,
                near=near,
                value=self.safe + 1,
            )
        return tr("The nearest differs by {away:.1f}, {near}, and is the safest too.", away=away, near=near)


def _same_paint(names: Sequence[str], codes: Callable[[str], Sequence[str]], sought: Sought) -> list[str]:
    """What may not stand for a paint: itself, and ready-made mixtures."""
    own = [sought.paint] if sought.paint else []
    return own + [name for name in names if len(codes(name)) > 1 and name != sought.paint]


def answering(
    estimate: Estimate,
    lattice: Lattice,
    sought: Sought,
    most_paints: int,
    keep: Sequence[str],
    avoid: Sequence[str],
    puddle: Recipe | None,
    codes: Callable[[str], Sequence[str]],
    grain: Callable[[Recipe], float],
) -> Generator[float, None, Answer]:
    """All that is told of a wanted colour; yields its progress."""
    yield 0.05
    target = np.array(sought.lab)
    left_out = [*avoid, *([sought.paint] if sought.paint and sought.paint not in avoid else [])]
    matches, expected, safe = nearest_and_safest(estimate, lattice, target, most_paints, 7, keep, left_out)
    recipes = [match.recipe for match in matches]
    within = predict(estimate, recipes).dE90
    yield 0.4
    instead = _instead(estimate, lattice, sought, left_out, codes)
    yield 0.6
    adds: list[Touch] = []
    if puddle is not None and len(puddle.layers) == 1 and all(n in lattice.names for n in puddle.names):
        adds = touches(lattice.mixer, puddle, target, 4, avoid)
    yield 0.8
    like_of = puddle if puddle is not None else recipes[0]
    both = predict_lab(estimate, [like_of.with_wash(FULL), like_of.with_wash(TINT)])
    like = resembles(both[0], both[1], grain(like_of), pigment_table())
    return Answer(
        sought, matches, within, expected, safe, instead, adds, puddle, like, like_of, scheme(lattice, target)
    )


def _instead(
    estimate: Estimate,
    lattice: Lattice,
    sought: Sought,
    avoid: Sequence[str],
    codes: Callable[[str], Sequence[str]],
) -> list[Substitute]:
    if sought.paint:
        colours = predict_lab(estimate, [mix([sought.paint], wash=wash) for wash in _WASHES])
        out = dict.fromkeys([*avoid, *_same_paint(lattice.names, codes, sought)])
        if len(out) >= len(lattice.names):
            return []
        return substitutes(lattice, colours, _WASHES, list(out))
    if sought.code:
        pigment = pigment_table()[sought.code]
        return substitutes(lattice, np.array([pigment.masstone, pigment.tint]), (FULL, TINT), avoid)
    return []
