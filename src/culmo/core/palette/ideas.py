"""Mixes worth knowing of a box, of two and three paints: greys, browns, darks, clean mixes, grain, parting, range, care.

Each list holds every mix that passes its test; where there are more than can be looked at closely, it says how many.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, foretell, known_textures
from culmo.core.paint.next_cells import choose_next, chosen_of
from culmo.core.paint.optics import linearise
from culmo.core.paint.predict import batch_for, radius_of_nine_in_ten
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.greyness import chroma_at_most, grey_words
from culmo.core.palette.idea import KINDS, Idea, IdeaKind, Settling
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.mixer import (
    Mixer,
    PairTable,
)
from culmo.core.palette.nearspace import near_from_lab
from culmo.core.palette.pairs import careful, clean, grainy, parting, ranges
from culmo.core.palette.threes import browns, darks, greys
from culmo.core.threads import one_thread

_TOLD_BY = 40
_MOST_VARIED = 400
_A_PAINT_MORE = 2.0  # chroma that one paint less is worth


@dataclass(frozen=True)
class Ideas:
    """What was found of a box.

    Attributes
    ----------
    found : dict from kind to the ideas, the best first
    telling : dict from kind to the idea whose painting would teach most about those of its kind
    more : dict from kind to how many sets of paints came less near and were not looked at any closer
    """

    found: dict[str, list[Idea]]
    telling: dict[str, Idea] = field(default_factory=dict)
    more: dict[str, int] = field(default_factory=dict)

    def with_more(self, other: "Ideas") -> "Ideas":
        """These and those of other kinds."""
        return Ideas(self.found | other.found, self.telling | other.telling, self.more | other.more)


@one_thread
def find_ideas(
    estimate: Estimate,
    mixer: Mixer,
    table: PairTable,
    lattice: Lattice,
    grains: Grains,
    kinds: Sequence[str] = KINDS,
) -> Ideas:
    """The mixes worth knowing of a box, with how sure they are.

    Parameters
    ----------
    estimate : Estimate that the others come from
    mixer : Mixer of n paints
    table : PairTable of them
    lattice : Lattice of them
    grains : Grains, how the paints of the estimate settle
    kinds : sequence of str, what is looked for
    """
    if len(mixer.names) < 2:
        return Ideas({kind: [] for kind in kinds})
    makers: dict[str, Callable[[], tuple[list[Idea], int]]] = {
        IdeaKind.GREY: lambda: greys(mixer, table, lattice),
        IdeaKind.BROWN: lambda: browns(mixer, lattice),
        IdeaKind.DARK: lambda: darks(mixer, table, lattice),
        IdeaKind.PARTING: lambda: (parting(estimate, table, grains), 0),
        IdeaKind.GRAINY: lambda: (grainy(estimate, table, grains), 0),
        IdeaKind.RANGE: lambda: (ranges(table), 0),
        IdeaKind.CAREFUL: lambda: (careful(mixer, table), 0),
        IdeaKind.GREEN: lambda: (clean(table, IdeaKind.GREEN), 0),
        IdeaKind.ORANGE: lambda: (clean(table, IdeaKind.ORANGE), 0),
        IdeaKind.VIOLET: lambda: (clean(table, IdeaKind.VIOLET), 0),
    }
    ideas = Ideas({})
    for kind in kinds:
        rough, more = makers[kind]()
        found = _with_spread(estimate, grains, rough)
        if (
            kind == IdeaKind.GREY
        ):  # what is known to be grey comes before what may be, and two paints before three
            found.sort(key=lambda idea: idea.at_most + _A_PAINT_MORE * len(idea.names))
        best = _telling(estimate, grains, kind, found)
        ideas.found[kind], ideas.more[kind] = found, more
        if best is not None:
            ideas.telling[kind] = best
    return ideas


def _with_spread(estimate: Estimate, grains: Grains, ideas: list[Idea]) -> list[Idea]:
    """The ideas with how sure they are and how they settle; greys with their words, which rest on it."""
    if not ideas:
        return []
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, [idea.recipe for idea in ideas]))
    covariance = linear.jacobian.spread(estimate.covariance)
    radius = radius_of_nine_in_ten(linear.lab, covariance)
    at_most = chroma_at_most(linear.lab, covariance)
    settlings = settlings_of(estimate, grains, [idea.recipe for idea in ideas])
    return [
        replace(
            idea,
            settling=settling,
            spread=float(within),
            at_most=float(most),
            words=grey_words(idea.number, float(most)) if idea.kind == IdeaKind.GREY else idea.words,
        )
        for idea, within, most, settling in zip(ideas, radius, at_most, settlings, strict=True)
    ]


def settlings_of(estimate: Estimate, grains: Grains, recipes: Sequence[Recipe]) -> list[Settling]:
    """How mixes are foretold to settle, and by how many patches of their least known paint."""
    if not recipes:
        return []
    told = foretell(estimate, grains, recipes)
    return [
        Settling(
            contrast=float(told.contrast[place]),
            contrast_off=float(told.contrast_off[place]),
            parting=float(told.parting[place]),
            parting_off=float(told.parting_off[place]),
            taught=int(
                min(grains.taught[estimate.index[part.name.casefold()]] for part in recipe.layers[0].parts)
            ),
        )
        for place, recipe in enumerate(recipes)
    ]


def _telling(estimate: Estimate, grains: Grains, kind: str, ideas: Sequence[Idea]) -> Idea | None:
    """Of the first of some ideas that one whose reading would tell most about them; None where there are none."""
    first = ideas[:_TOLD_BY]
    recipes = [idea.recipe for idea in first]
    if first and kind in (IdeaKind.PARTING, IdeaKind.GRAINY):  # what a picture of it would tell of the grain
        asked = slice(1, 2) if kind == IdeaKind.PARTING else slice(0, 1)
        chosen = chosen_of(known_textures(estimate, grains, recipes, asked=asked), 1)
    else:
        chosen = choose_next(estimate, recipes, 1)
    return first[chosen[0]] if chosen else None


def varied(ideas: Sequence[Idea], variety: float = 0.5) -> list[Idea]:
    """The same ideas with different ones before twins: each next is good, and unlike those before it.

    What is alike: colours that lie near, and paints that were in those before. The order is greedy (maximal marginal
    relevance, Carbonell and Goldstein 1998).

    Parameters
    ----------
    ideas : sequence of Idea, the best first
    variety : float, 0..1, how much unlikeness counts against goodness

    Of very many the first are arranged so, and the others follow as they were.
    """
    ideas, rest = ideas[:_MOST_VARIED], ideas[_MOST_VARIED:]
    n = len(ideas)
    if n < 3:
        return list(ideas)
    near = near_from_lab(np.array([idea.lab for idea in ideas]))
    names = sorted({name for idea in ideas for name in idea.names})
    place = {name: i for i, name in enumerate(names)}
    holds = np.zeros((n, len(names)))
    for row, idea in enumerate(ideas):
        holds[row, [place[name] for name in idea.names]] = 1.0 / np.sqrt(len(idea.names))
    good = 1.0 - np.arange(n) / n
    like = np.zeros(n)
    left = np.ones(n, dtype=bool)
    order = []
    for _ in range(n):
        score = np.where(left, (1.0 - variety) * good - variety * like, -np.inf)
        chosen = int(np.argmax(score))
        order.append(chosen)
        left[chosen] = False
        closeness = np.exp(-np.sqrt(((near - near[chosen]) ** 2).sum(axis=1)) / 8.0)
        like = np.maximum(like, 0.5 * closeness + 0.5 * holds @ holds[chosen])
    return [*(ideas[i] for i in order), *rest]
