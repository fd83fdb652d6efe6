"""The rings of a wheel: its colours in full, paler, with a paint mixed in or glazed over, with the opposite."""

import math
import re
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from typing import Any

from culmo.core.chart.mixes import added
from culmo.core.chart.options import SeveralWords, quoted_name, split_names
from culmo.core.paint.recipe import TINT, Layer, Part, Recipe, Rename, mix
from culmo.errors import CulmoError
from culmo.words import tr


class RingKind(StrEnum):
    """A ring of a wheel that takes no paint of its own."""

    FULL = "full"
    PALE = "tint"
    WHITE = "white"
    DARK = "dark"
    OPPOSITE = "opposite"
    GLAZE = "glaze"


PLAIN = tuple(RingKind)
WITH, GLAZED = "with", "glazed"
USUAL_SHARE = Fraction(
    1, 3
)  # of a paint to the mix that it dulls: enough to be seen in each hue, and no more
_MOST_RINGS = 12
_PARTS = re.compile(r"(.+?)\s+(\d+(?:\.\d+)?)\s*:\s*(\d+(?:\.\d+)?)$")
_WASH = re.compile(r"(.+?)\s+([01]?\.\d+|1)$")


@dataclass(frozen=True)
class Ring:
    """One ring.

    Attributes
    ----------
    way : str, one of PLAIN, "with" (a paint mixed in) or "glazed" (a paint over the dry colour)
    paint : str, of "with" and "glazed"
    share : Fraction, of "with": parts of the paint to one part of the mix
    wash : float, of "glazed": how strong the layer is, 0..1
    """

    way: str
    paint: str = ""
    share: Fraction = USUAL_SHARE
    wash: float = TINT

    @classmethod
    def parsed(cls, text: str) -> "Ring":
        """A ring as it is typed: `full`, `with Indigo`, `with Indigo 1:3`, `glazed Umber`, `glazed Umber 0.3`.

        Raises
        ------
        CulmoError
            when it is none
        """
        text = text.strip()
        if text in PLAIN:
            return cls(text)
        way, _, rest = text.partition(" ")
        name = rest.strip()
        if way == WITH and name:
            found = _PARTS.fullmatch(name)
            share = USUAL_SHARE
            if found:
                name, parts, to = found[1], Fraction(found[2]), Fraction(found[3])
                if not parts or not to:
                    raise CulmoError(tr('the ring "{ring}": both parts must be more than nothing', ring=text))
                share = parts / to
            return cls(WITH, name, share.limit_denominator(20))
        if way == GLAZED and name:
            found = _WASH.fullmatch(name)
            return cls(GLAZED, found[1] if found else name, wash=float(found[2]) if found else TINT)
        raise CulmoError(
            tr(
                'the ring "{ring}" must be one of {what}, or be like "with Indigo 1:3" or "glazed Umber 0.3"',
                ring=text,
                what=", ".join(PLAIN),
            )
        )

    def __str__(self) -> str:
        if self.way == WITH:
            return f"{WITH} {self.paint} {self.share.numerator}:{self.share.denominator}"
        return f"{GLAZED} {self.paint} {self.wash:g}" if self.way == GLAZED else self.way

    def recipe(self, own: Recipe, across: Recipe | None, extra: str) -> Recipe | None:
        """What goes into a place of it; None where it takes the opposite and there is none.

        Parameters
        ----------
        own : Recipe, the place in the outer ring
        across : Recipe or None, the place opposite
        extra : str, the paint of "white" and "dark"
        """
        if self.way == RingKind.FULL:
            return own
        if self.way == RingKind.PALE:
            return own.with_wash(TINT)
        if self.way in (RingKind.WHITE, RingKind.DARK):
            if not extra:
                raise CulmoError(tr('the ring "{ring}" needs a paint to add', ring=self.way))
            return added(own, extra)
        if self.way == WITH:
            total = sum(part.parts for part in own.layers[0].parts)
            return _whole(added(own, self.paint, float(self.share) * total))
        if self.way == GLAZED:
            return Recipe((Layer((Part(self.paint),), self.wash), own.layers[0]))
        if across is None:
            return None
        if self.way == RingKind.GLAZE:  # the opposite as a thin wash over the dry colour
            return Recipe((Layer(across.layers[0].parts, TINT), own.layers[0]))
        return _together(own, across)


def _whole(recipe: Recipe) -> Recipe:
    """The same mix in the smallest whole parts."""
    parts = recipe.layers[0].parts
    shares = [Fraction(part.parts).limit_denominator(1000) for part in parts]
    scale = math.lcm(*(share.denominator for share in shares))
    amounts = [int(share * scale) for share in shares]
    whole = math.gcd(*amounts) or 1
    return mix([part.name for part in parts], [amount // whole for amount in amounts], recipe.layers[0].wash)


def _together(first: Recipe, second: Recipe) -> Recipe:
    """Equal amounts of two mixes in small whole parts."""
    result = first
    total = sum(part.parts for part in first.layers[0].parts)
    other = sum(part.parts for part in second.layers[0].parts)
    for part in second.layers[0].parts:
        result = added(result, part.name, part.parts * total / other)
    return _whole(result)


class Rings(SeveralWords):
    """Rings from the outside inwards, typed with commas between."""

    def read(self, text: str, called: str) -> tuple[str, ...]:
        return tuple(split_names(text))

    def write(self, value: Any) -> str:
        return ", ".join(quoted_name(ring) for ring in value)

    def check(self, value: Any, called: str) -> None:
        if not value:
            raise CulmoError(tr("{called}: at least one is needed", called=called))
        if len(value) > _MOST_RINGS:
            raise CulmoError(tr("{called}: {n} are the most", called=called, n=_MOST_RINGS))
        for ring in value:
            Ring.parsed(ring)

    def renamed(self, plain: Any, rename: Rename) -> Any:
        return [_renamed(str(ring), rename) for ring in plain]


def _renamed(text: str, rename: Rename) -> str:
    try:
        ring = Ring.parsed(text)
    except CulmoError:
        return text
    return str(replace(ring, paint=rename(ring.paint))) if ring.paint else text
