"""A strip of known paints, and where one was found."""

from collections.abc import Mapping
from dataclasses import dataclass

from culmo.core.capture.placement import Placement
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.character import Anchor


@dataclass(frozen=True)
class KnownPatch:
    """The colour of a patch of the strip.

    Attributes
    ----------
    lab : tuple of three float, CIELAB
    off : float, in CIELAB units, how far off it may be (root mean square)
    of : str, by which it is known again in the record
    """

    lab: tuple[float, float, float]
    off: float
    of: str = ""


@dataclass(frozen=True)
class Strip:
    """A strip that was painted and read.

    Attributes
    ----------
    sheet : Sheet, as it was planned, with its bar
    known : mapping from cell id to KnownPatch
    """

    sheet: Sheet
    known: Mapping[str, KnownPatch]


@dataclass(frozen=True)
class StripFound:
    """A strip in a picture.

    Attributes
    ----------
    strip : Strip
    placement : Placement, in pixels of the picture that was worked on
    anchors : tuple of Anchor, what its patches tell
    before, after : float, mean CIEDE2000 of its patches as the picture shows them, and with what the picture does undone
    """

    strip: Strip
    placement: Placement
    anchors: tuple[Anchor, ...]
    before: float
    after: float
