"""What the Weigh room works out in the background: the box's mixes, what palettes reach of them, the best of each size."""

from collections.abc import Callable, Generator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.colour.spectral import LIGHTS, Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, grains_by
from culmo.core.paint.label import Label
from culmo.core.palette.choose import Choice, choosing
from culmo.core.palette.conditions import Conditions, Kinds, kinds_of
from culmo.core.palette.ideas import Ideas, find_ideas
from culmo.core.palette.lattice import Lattice, building
from culmo.core.palette.mixer import PairTable, mixer_of, pair_table
from culmo.core.palette.reach import Measure, Table, Value, tabulating, value_of
from culmo.core.palette.search import MOST_LISTED
from culmo.core.palette.targets import MOST_EQUALS, TargetTable, by_nearness, tabulating_targets
from culmo.core.steps import scaled
from culmo.study.palette_acts import Wanted

SECONDS_A_SIZE = 20.0


@dataclass(frozen=True)
class Mixes:
    """The mixes of the box in use.

    Attributes
    ----------
    lattice : Lattice, under daylight
    seen : (m, 9, 3) float, the same under the light in use
    pairs : PairTable
    kinds : Kinds
    """

    lattice: Lattice
    seen: Array
    pairs: PairTable
    kinds: Kinds

    @property
    def names(self) -> tuple[str, ...]:
        """The paints."""
        return self.lattice.names


@dataclass(frozen=True)
class Reach:
    """What is weighed: all colours of the box, or a list of wanted ones.

    Attributes
    ----------
    table : Table
    value : Value
    wanted : TargetTable or None
    list : str, the list of wanted colours, empty for all colours
    """

    table: Table
    value: Value
    wanted: TargetTable | None = None
    list: str = ""


def working_out(
    estimate: Estimate,
    names: Sequence[str],
    labels: Sequence[Label],
    light: int,
) -> Generator[float, None, Mixes]:
    """All mixes of a box; yields its progress."""
    yield 0.0
    mixer = mixer_of(estimate).only(names)
    lattice = yield from scaled(building(mixer), 0.0, 0.3)
    seen = lattice.lab
    if light:
        seen = (yield from scaled(building(mixer, LIGHTS[light]), 0.3, 0.6)).lab
    pairs = pair_table(mixer)
    yield 0.7
    kinds = kinds_of(pairs, labels)
    return Mixes(lattice, seen, pairs, kinds)


def thinking(
    estimate: Estimate,
    mixes: Mixes,
    grains: Grains | None,
    said: Callable[[str], float],
    kinds: Sequence[str],
) -> Generator[float, None, Ideas]:
    """What mixes of some kinds are worth knowing; yields its progress.

    Parameters
    ----------
    estimate : Estimate
    mixes : Mixes of the box
    grains : Grains that patches taught; None where it goes by what is said of the paints
    said : function from a paint's name to how much it is said to granulate, 0..1
    kinds : sequence of str, what is looked for
    """
    ideas, settled = Ideas({}), grains_by(estimate, grains, said)
    for done, kind in enumerate(kinds):
        yield done / len(kinds)
        found = find_ideas(estimate, mixes.lattice.mixer, mixes.pairs, mixes.lattice, settled, [kind])
        ideas = ideas.with_more(found)
    return ideas


def weighing_reach(
    lattice: Lattice, measure: Measure, wanted: Sequence[Wanted], name: str
) -> Generator[float, None, Reach]:
    """The table for what is to be reached; yields its progress."""
    if wanted:
        colours = np.array([colour.lab for colour in wanted])
        found = yield from tabulating_targets(lattice, colours, measure.tolerance)
        return Reach(found.table, found.value, found, name)
    table = yield from tabulating(lattice, measure)
    return Reach(table, value_of(table, measure))


def best_of(reach: Reach, kinds: Kinds, conditions: Conditions, size: int) -> Generator[float, None, Choice]:
    """The best palettes of a size; of wanted colours ties are broken by nearness."""
    most = MOST_LISTED if reach.wanted is None else MOST_EQUALS
    choice = yield from choosing(reach.value, kinds, conditions, size, seconds=SECONDS_A_SIZE, most=most)
    if reach.wanted is None or not choice.palettes:
        return choice
    order = by_nearness(reach.wanted, choice.palettes, choice.worth)
    return replace(
        choice, palettes=tuple(choice.palettes[i] for i in order), worth=tuple(choice.worth[i] for i in order)
    )
