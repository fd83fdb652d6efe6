"""What the laying out of a sheet asks of others: how wide a text is, what is known of the paints."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe

Measure = Callable[[str, float], float]


def rough_width_mm(text: str, size_mm: float) -> float:
    """The width of a text where no font is at hand: a little more than a humanist sans takes."""
    return 0.52 * size_mm * len(text)


@dataclass(frozen=True)
class Knowledge:
    """What an estimate can say while a sheet is planned; all of it may be missing.

    Attributes
    ----------
    even : function of (first, second, count) that gives recipes in even perceived steps, or None
    hue : function from a paint's name to its measured hue angle in degrees, or None
    lab : function from recipes to (n, 3) CIELAB, or None
    """

    even: Callable[[str, str, int], list[Recipe]] | None = None
    hue: Callable[[str], float] | None = None
    lab: Callable[[Sequence[Recipe]], Array] | None = None


@dataclass(frozen=True)
class Aids:
    """What a kind of sheet is laid out with.

    Attributes
    ----------
    measure : function of (text, size in mm) that gives a text's width in mm
    known : Knowledge
    codes : mapping from folded paint name to its Colour Index codes
    keepers : sequence of Recipe, the favourite mixes so far
    numbers : mapping from folded paint name to the painter's own number, the same on every sheet
    """

    measure: Measure = rough_width_mm
    known: Knowledge = Knowledge()
    codes: Mapping[str, str] = field(default_factory=dict)
    keepers: Sequence[Recipe] = ()
    numbers: Mapping[str, int] = field(default_factory=dict)
