"""What a dry cell looked like."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np

from culmo.core.colour.srgb import check_lab
from culmo.core.paint.character import Shot
from culmo.core.paint.recipe import Recipe
from culmo.errors import CulmoError
from culmo.words import tr

PAPER = "paper"
INK = "ink"
GROUNDS = (PAPER, INK)


class Trust(StrEnum):
    """How far a reading may be trusted; only good ones teach."""

    GOOD = "good"
    WET = "wet"
    DOUBTFUL = "doubtful"
    EXCLUDED = "excluded"


TRUSTS = tuple(Trust)


class Treatment(StrEnum):
    """What was done to the dry paint before it was read: the lift test, and the two halves of the fade test."""

    LIFTED = "lifted"
    RUBBED = "rubbed"
    COVERED = "covered"
    EXPOSED = "exposed"


TREATMENTS = ("", *Treatment)


class MixedHow(StrEnum):
    """How the paints of a cell came together: in the puddle, or on the paper and on the brush, in unknown parts."""

    IN_PUDDLE = ""
    WET_IN_WET = "wet"
    MEETING = "meeting"
    LOADED = "loaded"


MIXINGS = tuple(MixedHow)


class SeenDepth(StrEnum):
    """What the painter saw while painting: the cell came out paler, or stronger, than it was meant."""

    PALER = "paler"
    STRONGER = "stronger"


DEPTHS = ("", *SeenDepth)
# how far, in the log of the film's strength, and how surely: what an eye sees beside other cells
SEEN_OFF, SEEN_SPREAD = 0.22, 0.14

MOST_OF_A_PAINT, MOST_ALONE = 30, 6

# the radius that holds nine in ten of colours about the truth, in root mean squares of their distance
NINE_IN_TEN = 1.5


@dataclass(frozen=True)
class Reading:
    """One colour read from one dry cell.

    Attributes
    ----------
    recipe : Recipe, what was painted; without layers the bare ground
    lab : tuple of three float, CIELAB, D65, 2 degree observer, relative to a perfect white
    ground : str, "paper" or "ink"
    paper : str, the paper's name; empty for the usual one
    trust : str, "good", "wet", "doubtful" or "excluded"
    extra : Any, what the caller wants to find again (an id, a row)
    treatment : str, what was done to the dry paint: "", "lifted", "rubbed", "covered" or "exposed"
    mixing : str, how its paints came together: "" in the puddle, "wet" in wet, "meeting" where two wet strokes meet,
        "loaded" on one brush; all but the first are of no fixed parts
    puddle : hashable, the same for readings of cells that were painted from one puddle; None where that is not known
    cell : hashable, the same for several looks at one cell, as several pictures show it; None where there is but one
    depth : str, "paler" or "stronger" where the painter saw it come out so, else ""
    uncertainty : float, CIEDE2000, that holds nine in ten of such colours by what read it; 0 where that is not told.
        Of what a picture shows what is its own part, without what the picture does to all its colours
    seen : tuple of three float, light relative to the bare paper as the picture shows it, in linear sRGB; None where
        it was not read from a picture
    shot : Shot, the picture; None where it was read from none
    """

    recipe: Recipe
    lab: tuple[float, float, float]
    ground: str = PAPER
    paper: str = ""
    trust: str = Trust.GOOD
    extra: Any = None
    treatment: str = ""
    mixing: str = MixedHow.IN_PUDDLE
    puddle: Hashable = None
    depth: str = ""
    uncertainty: float = 0.0
    seen: tuple[float, float, float] | None = None
    shot: Shot | None = None
    cell: Hashable = None

    def __post_init__(self) -> None:
        check_lab(np.array(self.lab))
        if self.ground not in GROUNDS:
            raise CulmoError(tr('the ground is "{ground}"; it must be "paper" or "ink"', ground=self.ground))
        if self.trust not in TRUSTS:
            raise CulmoError(
                tr(
                    'the trust is "{trust}"; it must be one of {what}',
                    trust=self.trust,
                    what=", ".join(TRUSTS),
                )
            )
        if self.treatment not in TREATMENTS:
            raise CulmoError(
                tr(
                    'the treatment is "{treatment}"; it must be empty or one of {what}',
                    treatment=self.treatment,
                    what=", ".join(TREATMENTS[1:]),
                )
            )
        if self.mixing not in MIXINGS:
            raise CulmoError(
                tr(
                    'the mixing is "{mixing}"; it must be empty or one of {what}',
                    mixing=self.mixing,
                    what=", ".join(MIXINGS[1:]),
                )
            )

        if self.depth not in DEPTHS:
            raise CulmoError(
                tr(
                    'the depth is "{depth}"; it must be empty or one of {what}',
                    depth=self.depth,
                    what=", ".join(DEPTHS[1:]),
                )
            )

    @property
    def off(self) -> float:
        """How much stronger it came out than it was meant, as the painter saw it: a log of the film's strength."""
        if len(self.recipe.layers) != 1:
            return 0.0
        return (
            SEEN_OFF
            if self.depth == SeenDepth.STRONGER
            else -SEEN_OFF
            if self.depth == SeenDepth.PALER
            else 0.0
        )

    @property
    def teaches(self) -> bool:
        """Whether the mixing model may learn from it: trusted, in parts that are known, and of paint as it dried."""
        return self.trust == Trust.GOOD and self.is_wash

    @property
    def is_wash(self) -> bool:
        """Whether it is of a wash from a puddle, as it dried: its recipe says all of it."""
        return not self.treatment and not self.mixing


def taught(readings: Sequence[Reading]) -> list[Reading]:
    """The readings that are learned from: those that teach, and of very many the latest.

    A paint's parameters are told by some tens of readings; what a painter's hand did years ago says less of it than
    what it does now. So a mix is taken while a paint in it has fewer than MOST_OF_A_PAINT of them, the latest first, and
    a paint alone while fewer than MOST_ALONE of the same strength and ground are. All are taken in usual studies. Several
    looks at one cell count once.

    Parameters
    ----------
    readings : sequence of Reading, the latest last

    Returns
    -------
    list of Reading, in the order given
    """
    count: dict[object, int] = {}
    kept: list[Reading] = []
    chosen: dict[Hashable, bool] = {}
    for reading in reversed(readings):
        if not reading.teaches:
            continue
        if reading.cell in chosen:
            kept += [reading] if chosen[reading.cell] else []
            continue
        names = [name.casefold() for name in reading.recipe.names]
        keys: list[object] = list(names)
        most = MOST_OF_A_PAINT
        if len(names) < 2:
            keys, most = [(reading.recipe.key, reading.ground, reading.paper)], MOST_ALONE
        taken = any(count.get(key, 0) < most for key in keys)
        if reading.cell is not None:
            chosen[reading.cell] = taken
        if taken:
            kept.append(reading)
            for key in keys:
                count[key] = count.get(key, 0) + 1
    return kept[::-1]
