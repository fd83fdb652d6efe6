"""A mix worth knowing, and of which kinds there are."""

from dataclasses import dataclass
from enum import StrEnum
from math import nan

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe


class IdeaKind(StrEnum):
    """What a mix is offered for."""

    GREY = "grey"
    BROWN = "brown"
    DARK = "dark"
    GREEN = "green"
    ORANGE = "orange"
    VIOLET = "violet"
    PARTING = "parting"
    GRAINY = "grainy"
    RANGE = "range"
    CAREFUL = "careful"


KINDS = tuple(IdeaKind)


@dataclass(frozen=True)
class Settling:
    """How a mix is foretold to settle.

    Attributes
    ----------
    contrast, contrast_off, parting, parting_off : float, CIELAB, as in `culmo.core.paint.grain`
    taught : int, how many patches its least known paint rests on; 0 where a label or the table is all
    """

    contrast: float
    contrast_off: float
    parting: float
    parting_off: float
    taught: int


@dataclass(frozen=True)
class Idea:
    """A mix worth knowing.

    Attributes
    ----------
    kind : str, one of the kinds of this module
    recipe : Recipe that shows it
    lab : (3,) float, its colour
    number : float, what it is ranked by: smaller is better for greys, browns and darks, larger for all others
    words : str
    spread : float, the CIEDE2000 radius that holds nine in ten of what is not known of the paints; the hand apart
    at_most : float, the chroma that nine in ten do not pass
    settling : Settling, how it lies on the paper; None for what is no mix
    """

    kind: str
    recipe: Recipe
    lab: Array
    number: float
    words: str
    spread: float = nan
    at_most: float = nan
    settling: Settling | None = None

    @property
    def names(self) -> tuple[str, ...]:
        """Its paints, the most first."""
        return tuple(part.name for part in self.recipe.layers[0].parts)
