"""One paint for another, before and after: the same mixes with both, and the kinds of colours that go and come."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.recipe import Layer, Part, Recipe, renaming
from culmo.core.palette.choose import describe
from culmo.core.palette.reach import Table
from culmo.errors import CulmoError
from culmo.words import tr

Look = Callable[[Sequence[Recipe]], Array]  # the colours of k recipes, (k, 3) CIELAB


@dataclass(frozen=True)
class Exchange:
    """A mix, and the same with another paint.

    Attributes
    ----------
    before, after : Recipe
    was, now : (3,) float, CIELAB
    away : float, CIEDE2000
    """

    before: Recipe
    after: Recipe
    was: Array
    now: Array
    away: float


def with_other(recipe: Recipe, out: str, into: str) -> Recipe:
    """A recipe with one paint in the place of another, part for part; where the other is in it already, its parts grow.

    Parameters
    ----------
    recipe : Recipe
    out, into : str
    """
    renamed = recipe.renamed(renaming(out, into))
    layers = []
    for layer in renamed.layers:
        amounts: dict[str, Part] = {}
        for part in layer.parts:
            key = part.name.casefold()
            before = amounts[key].parts if key in amounts else 0.0
            amounts[key] = Part(part.name, before + part.parts)
        layers.append(Layer(tuple(amounts.values()), layer.wash))
    return Recipe(tuple(layers))


def exchanged(recipes: Iterable[Recipe], out: str, into: str, look: Look) -> list[Exchange]:
    """The mixes that hold a paint before and after another takes its place, the largest difference first.

    Parameters
    ----------
    recipes : iterable of Recipe; each is told once
    out, into : str, the paint that goes and the one that comes
    look : function from k recipes to their colours, (k, 3) CIELAB

    Raises
    ------
    CulmoError
        when the two are the same paint, or no recipe holds the first
    """
    gone = out.casefold()
    if gone == into.casefold():
        raise CulmoError(tr("{name} in its own place changes nothing", name=out))
    held = {recipe.key: recipe for recipe in recipes if gone in {name.casefold() for name in recipe.names}}
    if not held:
        raise CulmoError(tr("no mix holds {name}", name=out))
    before = list(held.values())
    after = [with_other(recipe, out, into) for recipe in before]
    was, now = look(before), look(after)
    away = delta_e_00(was, now)
    order = np.argsort(-away, kind="stable")
    return [Exchange(before[i], after[i], was[i], now[i], float(away[i])) for i in order]


@dataclass(frozen=True)
class Turn:
    """A kind of colours before and after a change of a palette.

    Attributes
    ----------
    words : str, "clean violets"
    before, after : (k, 3) float, CIELAB of what is reached of it, what goes or comes first
    lost, gained : int
    """

    words: str
    before: Array = field(repr=False)
    after: Array = field(repr=False)
    lost: int
    gained: int


def turned(table: Table, before: Flags, after: Flags) -> list[Turn]:
    """What a change of a palette loses and gains, by kinds of colours, the largest change first.

    Parameters
    ----------
    table : Table of N colours
    before, after : (N,) bool, which of them are reached

    Returns
    -------
    list of Turn: only kinds of which something goes or comes
    """
    changed = before != after
    if not changed.any():
        return []
    kinds: dict[str, list[int]] = {}
    for place in np.flatnonzero(before | after):
        kinds.setdefault(describe(table.lab[place]), []).append(int(place))
    turns = []
    for words, members in kinds.items():
        places = np.array(members)
        gone = places[before[places] & ~after[places]]
        come = places[~before[places] & after[places]]
        if len(gone) or len(come):
            both = places[before[places] & after[places]]
            turns.append(
                Turn(
                    words,
                    table.lab[np.concatenate([gone, both])],
                    table.lab[np.concatenate([come, both])],
                    len(gone),
                    len(come),
                )
            )
    return sorted(turns, key=lambda turn: -(turn.lost + turn.gained))
