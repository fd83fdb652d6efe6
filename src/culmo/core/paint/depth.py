"""How deep washes came out against what was planned: the thickness at which the paints of a cell look like its reading."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.readings import PAPER, Reading
from culmo.core.paint.recipe import FULL
from culmo.core.paint.wash import THICKNESSES, wash_table
from culmo.core.steps import run_through
from culmo.words import mark, tr


class WashDepth(StrEnum):
    """How strong a wash is."""

    FULL = "full"
    MIDDLE = "middle"
    TINT = "tint"


CLASSES = tuple(WashDepth)
_LIMITS = ((0.75, WashDepth.FULL), (0.32, WashDepth.MIDDLE), (0.0, WashDepth.TINT))
# a cell tells of its water where its colour changes by so much (CIEDE2000) as the film grows by the factor e
_TELLS = 6.0
# a colour that no thickness of its paints comes near is another mix, or a slip
_STRANGE = 12.0
# cells, and how sure, before anything is said of a class
ENOUGH = 3
# of the log, what is worth a word: less is within what a hand varies
_SEEN = {WashDepth.FULL: 0.12, WashDepth.MIDDLE: 0.14, WashDepth.TINT: 0.14}
_AT_ONCE = 400  # readings, so that the tables stay small


def class_of_wash(wash: float) -> str:
    """Whether a wash is full, middle or a tint, by its planned strength.

    Parameters
    ----------
    wash : float, 0 < wash <= 1
    """
    return next(name for limit, name in _LIMITS if wash >= limit)


@dataclass(frozen=True)
class Depth:
    """How deep a cell came out.

    Attributes
    ----------
    planned : float, film strength relative to a full wash
    reached : float, the same, as the reading looks
    spread : float, standard deviation of the log of `reached`, by how far a reading errs
    """

    planned: float
    reached: float
    spread: float


def depths(estimate: Estimate, readings: Sequence[Reading]) -> list[Depth | None]:
    """How deep each cell came out, as `measuring`."""
    return run_through(measuring(estimate, readings))


def measuring(estimate: Estimate, readings: Sequence[Reading]) -> Generator[float, None, list[Depth | None]]:
    """How deep each cell came out; None where it can not be told. Yields its progress.

    It is told for dry readings on paper of one layer from one puddle, of paints that the estimate knows, where the colour
    hangs on the thickness and is near what the paints can give at all.

    Parameters
    ----------
    estimate : Estimate
    readings : sequence of Reading
    """
    fit = [i for i, reading in enumerate(readings) if _may_tell(estimate, reading)]
    found: list[Depth | None] = [None] * len(readings)
    for start in range(0, len(fit), _AT_ONCE):
        yield start / len(fit)
        some = fit[start : start + _AT_ONCE]
        for i, depth in zip(some, _depths(estimate, [readings[i] for i in some]), strict=True):
            found[i] = depth
    return found


def _depths(estimate: Estimate, readings: Sequence[Reading]) -> list[Depth | None]:
    """As `depths`, of readings that may tell."""
    tables = wash_table(estimate, [reading.recipe for reading in readings])
    aways = delta_e_00(tables, np.array([reading.lab for reading in readings])[:, None, :])
    x = np.log(THICKNESSES)
    noise = max(estimate.hand.noise, 0.5)
    found: list[Depth | None] = []
    for reading, table, away in zip(readings, tables, aways, strict=True):
        k = int(np.clip(np.argmin(away), 1, len(x) - 2))
        # the squares are nearly a parabola in the log of the thickness
        low, here, high = away[k - 1] ** 2, away[k] ** 2, away[k + 1] ** 2
        bend = low - 2.0 * here + high
        shift = float(np.clip(0.5 * (low - high) / bend, -1.0, 1.0)) if bend > 0.0 else 0.0
        at = x[k] + shift * (x[k + 1] - x[k])
        slope = float(delta_e_00(table[k - 1], table[k + 1])) / (x[k + 1] - x[k - 1])
        tells = slope >= _TELLS and away[k] <= _STRANGE
        planned = reading.recipe.layers[0].wash
        found.append(Depth(planned, float(np.exp(at)), float(noise / slope)) if tells else None)
    return found


def _may_tell(estimate: Estimate, reading: Reading) -> bool:
    recipe = reading.recipe
    return (
        reading.teaches
        and reading.ground == PAPER
        and len(recipe.layers) == 1
        and all(name.casefold() in estimate.index for name in recipe.names)
    )


@dataclass(frozen=True)
class Reached:
    """How deep the washes of a class came out.

    Attributes
    ----------
    kind : str, one of CLASSES
    planned : float, the strength that was planned most often
    reached : float, what such a wash came out as, where a full wash is the painter's own full one
    count : int, how many cells tell
    spread : float, standard deviation of the log, of one cell about the others
    sure : bool, whether the cells tell with some certainty that it is not as planned
    """

    kind: str
    planned: float
    reached: float
    count: int
    spread: float
    sure: bool

    @property
    def wanted(self) -> float:
        """The strength to aim at for what was planned, if the hand does as it did; at most a full wash."""
        return min(FULL, self.planned * self.planned / self.reached)


def unit_of(found: Sequence[Depth | None]) -> float:
    """What this hand's full wash is in the estimate's terms: the strength of paints is learned from all washes together,
    so that pale ones that came out deep make full ones look thin; the painter's own full wash is the measure.

    Parameters
    ----------
    found : sequence of Depth or None, of all that was read
    """
    full = [d for d in found if d is not None and class_of_wash(d.planned) == WashDepth.FULL]
    return float(np.exp(_middle(full)[0])) if len(full) >= ENOUGH else 1.0


def reached_by_class(found: Sequence[Depth | None], unit: float = 1.0) -> list[Reached]:
    """How deep the washes of each class came out; those of which enough cells tell.

    Parameters
    ----------
    found : sequence of Depth or None
    unit : float, as `unit_of` gives it for all that was read
    """
    result = []
    for kind in CLASSES:
        own = [d for d in found if d is not None and class_of_wash(d.planned) == kind]
        if len(own) < ENOUGH:
            continue
        middle, spread = _middle(own)
        middle -= np.log(unit)
        planned = [round(d.planned, 3) for d in own]
        usual = max(sorted(set(planned)), key=planned.count)
        certain = abs(middle) > max(_SEEN[kind], 2.0 * spread / np.sqrt(len(own)))
        result.append(Reached(kind, usual, float(usual * np.exp(middle)), len(own), spread, bool(certain)))
    return result


def _middle(own: Sequence[Depth]) -> tuple[float, float]:
    """The weighted median of the logs of reached over planned, and the spread of one cell about it."""
    logs = np.array([np.log(d.reached / d.planned) for d in own])
    weights = np.array([1.0 / (0.15**2 + d.spread**2) for d in own])
    order = np.argsort(logs, kind="stable")
    summed = np.cumsum(weights[order]) - 0.5 * weights[order]
    middle = float(np.interp(0.5 * weights.sum(), summed, logs[order]))
    return middle, float(1.4826 * np.median(np.abs(logs - middle)))


# strengths of washes as painters say them
_STRENGTHS = (
    (0.05, mark("a twentieth")), (0.07, mark("a fifteenth")),
    (0.1, mark("a tenth")), (0.125, mark("an eighth")), (1 / 6, mark("a sixth")), (0.2, mark("a fifth")),
    (0.25, mark("a quarter")), (1 / 3, mark("a third")), (0.4, mark("two fifths")), (0.5, mark("a half")),
    (2 / 3, mark("two thirds")), (0.75, mark("three quarters")), (0.85, mark("nearly full")),
    (1.0, mark("full")), (1.25, mark("a quarter more than full")), (1.5, mark("half more than full")),
    (2.0, mark("twice full")),
)  # fmt: skip


def strength_words(strength: float) -> str:
    """A wash's strength against a full one, in words.

    Parameters
    ----------
    strength : float, > 0, film strength relative to a full wash

    Examples
    --------
    >>> strength_words(0.65), strength_words(0.21), strength_words(1.0)
    ('two thirds', 'a fifth', 'full')
    """
    return tr(min(_STRENGTHS, key=lambda entry: abs(np.log(entry[0] / strength)))[1])
