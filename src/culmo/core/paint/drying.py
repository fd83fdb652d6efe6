"""How colours change while they dry: from the same cells read wet and dry."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe
from culmo.words import decimal, listed, tr

MINUS = "\N{MINUS SIGN}"
_SEEN = 2.0  # CIEDE2000, below which nobody notices
_STEP = 1.5  # CIELAB units of lightness or chroma that are worth a word
_MUCH_LIGHTNESS, _MUCH_CHROMA = 8.0, 12.0
_TURN = 6.0  # degrees of hue that are worth a word
_HUED = 8.0  # chroma below which there is no hue to speak of
_LEAN = 0.15  # how far a paint that is only in few mixes leans on the mean change of all, in whole cells


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

    @property
    def how(self) -> str:
        """All that is seen of it, such as "much lighter and duller"; empty where little is."""
        found = []
        for change, much, (more, much_more), (less, much_less) in (
            (
                self.lightness, _MUCH_LIGHTNESS, (tr("lighter"), tr("much lighter")), (tr("darker"), tr("much darker")),
            ),
            (self.chroma, _MUCH_CHROMA, (tr("cleaner"), tr("much cleaner")), (tr("duller"), tr("much duller"))),
        ):  # fmt: skip
            if abs(change) >= _STEP:
                plain, strong = (more, much_more) if change > 0 else (less, much_less)
                found.append(strong if abs(change) >= much else plain)
        if abs(self.hue) >= _TURN:
            found.append(tr("of another hue"))
        return listed(found) if self.away >= _SEEN else ""

    @property
    def words(self) -> str:
        """All that is seen of it, as a sentence."""
        if self.away < _SEEN:
            return tr("hardly changes as it dries")
        return tr("dries {how}", how=self.how) if self.how else tr("changes a little as it dries")

    @property
    def figures(self) -> str:
        """The changes as numbers: lightness, chroma and hue."""
        return tr(
            "lightness {light}, chroma {chroma}, hue {hue}°",
            light=signed(self.lightness, 1),
            chroma=signed(self.chroma, 1),
            hue=signed(self.hue),
        )


def signed(change: float, digits: int = 0) -> str:
    """A change with its sign; none where nothing of it is left.

    Examples
    --------
    >>> signed(3.2), signed(-0.3), signed(-3.24, 1)
    ('+3', '0', '−3.2')
    """
    value = round(change, digits)
    text = f"{abs(value):.{digits}f}"
    return decimal(text if value == 0 else f"{'+' if value > 0 else MINUS}{text}")


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
    # a grey has no hue to turn
    vivid = np.where((one[:, 1] >= _HUED) & (other[:, 1] >= _HUED), one[:, 1] * other[:, 1], 0.0)
    return DryingShift(
        float(np.mean(other[:, 0] - one[:, 0])),
        float(np.mean(other[:, 1] - one[:, 1])),
        float((vivid * turned).sum() / vivid.sum()) if vivid.sum() > 0 else 0.0,
        float(np.mean(delta_e_00(wet, dry))),
        len(pairs),
    )


def drying_of_paints(pairs: Sequence[tuple[Recipe, Array, Array]]) -> dict[str, tuple[Array, int]]:
    """How much each paint changes as it dries: dry less wet, by least squares over all cells that it is in.

    Parameters
    ----------
    pairs : sequence of recipe, CIELAB while wet (3,) and when dry (3,)

    Returns
    -------
    dict from folded name to the shift (3,) and the number of cells that it rests on
    """
    used = [pair for pair in pairs if pair[0].layers]
    names = sorted({name.casefold() for recipe, _, _ in used for name in recipe.names})
    if not used:
        return {}
    place = {name: i for i, name in enumerate(names)}
    shares = np.zeros((len(used), len(names)))
    for row, (recipe, _, _) in enumerate(used):
        parts = recipe.layers[0].parts
        total = sum(part.parts for part in parts)
        for part in parts:
            shares[row, place[part.name.casefold()]] += part.parts / total
    change = np.array([np.asarray(dry) - np.asarray(wet) for _, wet, dry in used])
    # a paint that is only in few mixes leans on the mean change of all
    mean = change.mean(axis=0)
    normal = shares.T @ shares + _LEAN * np.eye(len(names))
    shift = mean + np.linalg.solve(normal, shares.T @ (change - shares.sum(axis=1, keepdims=True) * mean))
    count = (shares > 0).sum(axis=0)
    return {name: (shift[i], int(count[i])) for name, i in place.items()}
