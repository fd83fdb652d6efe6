"""How colours change while they dry: from the same cells read wet and dry."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array

_SEEN = 2.0  # CIEDE2000, below which nobody notices


@dataclass(frozen=True)
class DryingShift:
    """What drying does to a colour; dry less wet.

    Attributes
    ----------
    lightness, chroma : float, CIELAB units
    hue : float, degrees, -180..180
    away : float, CIEDE2000
    count : int, how many cells it rests on
    """

    lightness: float
    chroma: float
    hue: float
    away: float
    count: int

    @property
    def word(self) -> str:
        """What is seen of it most: "hardly", "lighter", "darker", "duller", "cleaner" or "hue"."""
        if self.away < _SEEN:
            return "hardly"
        if abs(self.lightness) >= abs(self.chroma) and abs(self.lightness) >= 0.6 * self.away:
            return "lighter" if self.lightness > 0 else "darker"
        if abs(self.chroma) >= 0.6 * self.away:
            return "cleaner" if self.chroma > 0 else "duller"
        return "hue"


def drying_shift(pairs: Sequence[tuple[Array, Array]]) -> DryingShift | None:
    """The mean change of some cells; None where there are none.

    Parameters
    ----------
    pairs : sequence of ((3,) float, (3,) float), CIELAB wet and dry
    """
    if not pairs:
        return None
    wet, dry = (np.array([pair[place] for pair in pairs], dtype=float) for place in (0, 1))
    one, other = lch_from_lab(wet), lch_from_lab(dry)
    turned = (other[:, 2] - one[:, 2] + 180.0) % 360.0 - 180.0
    vivid = one[:, 1] * other[:, 1]  # a grey has no hue to turn
    return DryingShift(
        float(np.mean(other[:, 0] - one[:, 0])),
        float(np.mean(other[:, 1] - one[:, 1])),
        float((vivid * turned).sum() / vivid.sum()) if vivid.sum() > 0 else 0.0,
        float(np.mean(delta_e_00(wet, dry))),
        len(pairs),
    )
