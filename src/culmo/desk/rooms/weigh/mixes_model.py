"""What the Weigh room works out in the background: the box's mixes, what palettes reach of them, the best of each size."""

from collections.abc import Callable, Generator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.colour.spectral import LIGHTS, Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import Label
from culmo.core.palette.choose import Choice, choosing
from culmo.core.palette.conditions import Conditions, Kinds, kinds_of
from culmo.core.palette.lattice import Lattice, building
from culmo.core.palette.mixer import PairTable, mixer_of, pair_table
from culmo.core.palette.opposites import Opposite
from culmo.core.palette.reach import Measure, Table, Value, tabulating, value_of
from culmo.core.palette.search import MOST_LISTED
from culmo.core.palette.targets import MOST_EQUALS, TargetTable, by_nearness, tabulating_targets
from culmo.core.palette.uses import PairUse, all_uses, neutral_pairs
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
    uses : list of (title, pairs)
    greys : list of Opposite, from warm to cool
    """

    lattice: Lattice
    seen: Array
    pairs: PairTable
    kinds: Kinds
    uses: list[tuple[str, list[PairUse]]]
    greys: list[Opposite]

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
    grain: Callable[[str], float],
    light: int,
) -> Generator[float, None, Mixes]:
    """All mixes of a box and what pairs are good for; yields its progress."""
    yield 0.0
    mixer = mixer_of(estimate).only(names)
    lattice = yield from scaled(building(mixer), 0.0, 0.3)
    seen = lattice.lab
    if light:
        seen = (yield from scaled(building(mixer, LIGHTS[light]), 0.3, 0.6)).lab
    pairs = pair_table(mixer)
    yield 0.7
    kinds = kinds_of(pairs, labels)
    uses = all_uses(mixer, pairs, grain) if len(mixer.names) > 1 else []
    yield 0.9
    greys = neutral_pairs(mixer, pairs) if len(mixer.names) > 1 else []
    return Mixes(lattice, seen, pairs, kinds, uses, greys)


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
