"""What was read of a sheet in a picture, and what is doubted of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from culmo.core.capture.light import LightField
from culmo.core.capture.placement import Placement
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import within_lab
from culmo.core.paint.character import Shot, seen_lab
from culmo.core.paint.recipe import Recipe
from culmo.core.paint.texture import Texture
from culmo.words import tr

MAY_BE_OFF = 5.0  # CIEDE2000, from which on what is told is doubted


class LyingDoubt(StrEnum):
    """What nothing tells of the way in which a sheet lies."""

    TURNED = "turned"
    MIRRORED = "mirrored"


GIVEN = ("corners", "hand")  # a place that the painter gave


class CellDoubt(StrEnum):
    """Why the colour of a cell is doubted."""

    CLIPPED = "clipped"
    BARE = "unpainted"
    BLED = "bled"
    UNEVEN = "uneven"
    SMALL = "small"
    MIXED = "mixed up"
    PALE = "pale end"
    UNLIT = "no bare paper"
    OFF_SHEET = "wrong sheet"
    LIGHTER = "lighter than paper"
    BURNT = "burnt paper"
    SHADED = "shadow or gleam"
    COLOURLESS = "colourless"
    UNSURE = "unsure"


DOUBT_WORDS: dict[str, str] = {
    CellDoubt.CLIPPED: tr("outside the picture's colours"),
    CellDoubt.BARE: tr("looks unpainted"),
    CellDoubt.BLED: tr("a neighbour ran into it"),
    CellDoubt.UNEVEN: tr("very uneven"),
    CellDoubt.SMALL: tr("too little of it is seen"),
    CellDoubt.MIXED: tr("looks like its neighbour"),
    CellDoubt.PALE: tr("pale end of a band; its strength is not known"),
    CellDoubt.UNLIT: tr("no bare paper to judge the light by"),
    CellDoubt.OFF_SHEET: tr("the picture does not fit this sheet"),
    CellDoubt.LIGHTER: tr("lighter than the bare paper: a gleam, or no paint"),
    CellDoubt.BURNT: tr("the paper is burnt out in the picture, so that its light is not known"),
    CellDoubt.SHADED: tr("a shadow or a gleam lies beside it"),
    CellDoubt.COLOURLESS: tr("the picture shows no colours"),
    CellDoubt.UNSURE: tr("it may be more than {MAY_BE_OFF:g} off in this picture", MAY_BE_OFF=MAY_BE_OFF),
}
FOUND_WORDS = {
    "marks": tr("found by its corner marks"),
    "bar": tr("found by its black bar"),
    "frame": tr("found by its painted block"),
    "paper": tr("found by the edge of the paper"),
    "whole picture": tr("found by the picture's own edge"),
    "corners": tr("placed by the corners given"),
    "hand": tr("placed by hand"),
}


@dataclass(frozen=True)
class CellReading:
    """The colour of one cell, or of one end of a fading one.

    Attributes
    ----------
    cell : str, the cell's id
    recipe : Recipe, what was read: the cell's, or paler at the pale end of a fading band
    ground : str
    lab : (3,) float, CIELAB
    trust : str, "good" or "doubtful"
    doubts : tuple of str, keys of DOUBT_WORDS
    uncertainty : float, CIEDE2000, how far off it may be: nine in ten are nearer
    granulation, separation : float, CIELAB units, or None for a band that fades
    other : str, the cell that it looks like, where it looks mixed up
    seen : tuple of three float, light relative to the bare paper as the picture shows it, in linear sRGB
    own : float, CIEDE2000, root mean square, what of the uncertainty is not shared with the other cells of the picture
    """

    cell: str
    recipe: Recipe
    ground: str
    lab: Array
    trust: str
    doubts: tuple[str, ...]
    uncertainty: float
    granulation: float | None
    separation: float | None
    other: str = ""
    seen: tuple[float, float, float] | None = None
    own: float = 0.0


def as_shown(entry: CellReading, shot: Shot | None) -> CellReading:
    """A reading as its picture shows it.

    Wet paint is darker and stronger than dry, as a camera's look would have it: what the paints tell of the picture would
    undo both.

    Parameters
    ----------
    entry : CellReading
    shot : Shot, its picture; None where it is not known, and the reading stays as it is
    """
    if entry.seen is None or shot is None:
        return entry
    return replace(entry, lab=within_lab(seen_lab(np.array([entry.seen]), np.array(shot.paper))[0]))


@dataclass(frozen=True)
class CellPatch:
    """The real paint of a cell, cut out of a picture (see `patches`).

    Attributes
    ----------
    data : bytes, a JPEG
    left_mm, top_mm : float, where it begins, from the upper left corner of the cell's box
    per_mm : float, its pixels a millimetre
    texture : Texture, what was measured of it; None where it is too small, or a band that fades
    """

    data: bytes
    left_mm: float
    top_mm: float
    per_mm: float
    texture: Texture | None = None


@dataclass(frozen=True)
class SheetReading:
    """A whole sheet read from a picture.

    Attributes
    ----------
    readings : tuple of CellReading, in the order of the sheet's cells
    missing : tuple of str, ids of the cells that could not be read
    placement : Placement, where the sheet lies in the picture
    by : str, what it was found by, a key of FOUND_WORDS
    turned : bool, whether the picture was turned
    light : LightField
    notes : tuple of str, what the painter should know
    wrong : str, why it may be another sheet; empty where it is not
    asked : bool, whether it was found without plain support: the painter is asked whether it lies so
    shot : Shot, the picture, by which its readings belong together
    patches : mapping from cell id to CellPatch, of the cells that were read
    """

    readings: tuple[CellReading, ...]
    missing: tuple[str, ...]
    placement: Placement
    by: str
    turned: bool
    light: LightField
    notes: tuple[str, ...]
    wrong: str
    asked: bool = False
    shot: Shot | None = None
    patches: Mapping[str, CellPatch] = field(default_factory=dict, repr=False)
