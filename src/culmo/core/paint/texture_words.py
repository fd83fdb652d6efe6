"""From which measure on a wash is called granulating, separating or blooming: usual limits, moved by the painter's marks."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from culmo.core.paint.texture import GRANULATES, PARTS, Texture


class TextureMark(StrEnum):
    """What a painter marks of the texture of a wash."""

    GRAIN = "granulates"
    PARTING = "separates"
    BLOOM = "blooms"


_USUAL: dict[str, float] = {TextureMark.GRAIN: GRANULATES, TextureMark.PARTING: PARTS, TextureMark.BLOOM: 2.5}
_FREELY = 0.5  # the deviation of the log of a limit, before any mark
_WAVERS = 0.25  # how far the same painter wavers, in the log of a measure
_FORGETS = np.array([0.02, 0.1, 0.25, 0.5, 0.75, 0.9])  # shares of due marks that are not made
_LEAST = 0.05


@dataclass(frozen=True)
class Limits:
    """The least measure that is called so.

    Attributes
    ----------
    granulates, separates, blooms : float, of contrast, parting and soft, CIELAB
    """

    granulates: float = _USUAL[TextureMark.GRAIN]
    separates: float = _USUAL[TextureMark.PARTING]
    blooms: float = _USUAL[TextureMark.BLOOM]


USUAL = Limits()


@dataclass(frozen=True)
class Marked:
    """A wash that was measured, and what the painter marked of it.

    Attributes
    ----------
    texture : Texture
    marks : collection of str, of the stroke
    in_use : collection of str, the marks that the painter made on the same sheet: that one is not there says something
    """

    texture: Texture
    marks: Collection[str]
    in_use: Collection[str]


def measures(texture: Texture) -> dict[str, float]:
    """What each mark is about."""
    return {
        TextureMark.GRAIN: texture.contrast,
        TextureMark.PARTING: texture.parting,
        TextureMark.BLOOM: texture.soft,
    }


def words_of(texture: Texture, limits: Limits) -> list[str]:
    """The marks that a wash would bear by its measures."""
    least: dict[str, float] = {
        TextureMark.GRAIN: limits.granulates,
        TextureMark.PARTING: limits.separates,
        TextureMark.BLOOM: limits.blooms,
    }
    return [mark for mark, value in measures(texture).items() if value >= least[mark]]


def limits_of(seen: Sequence[Marked]) -> Limits:
    """The limits by which a painter's marks are told best, from the usual ones on.

    Of a measure m a mark is due with the probability 1 / (1 + exp(-(ln m - ln limit) / _WAVERS)), and is made but for a
    share that the painter forgets; the limit, with that share, is the most probable one by a normal belief about its log.
    That a mark is not there counts only where it was used on the same sheet.

    Parameters
    ----------
    seen : sequence of Marked
    """
    granulates, separates, blooms = (
        _limit(seen, mark) for mark in (TextureMark.GRAIN, TextureMark.PARTING, TextureMark.BLOOM)
    )
    return Limits(granulates, separates, blooms)


def _limit(seen: Sequence[Marked], mark: str) -> float:
    usual = _USUAL[mark]
    tried = np.log(usual) + np.linspace(-3.0 * _FREELY, 3.0 * _FREELY, 121)
    values = np.log(np.maximum([measures(one.texture)[mark] for one in seen], _LEAST))
    made = np.array([mark in one.marks for one in seen], dtype=bool)
    counts = made | np.array([mark in one.in_use for one in seen], dtype=bool)
    cost = np.broadcast_to((tried - np.log(usual)) ** 2 / (2.0 * _FREELY**2), (len(_FORGETS), len(tried)))
    if counts.any():
        values, made = values[counts], made[counts]
        due = 1.0 / (1.0 + np.exp(-(values[:, None] - tried) / _WAVERS))
        makes = (1.0 - _FORGETS)[:, None, None] * due
        cost = cost - np.log(np.where(made[:, None], makes, 1.0 - makes) + 1e-12).sum(axis=1)
    return float(np.exp(tried[int(np.argmin(cost.min(axis=0)))]))
