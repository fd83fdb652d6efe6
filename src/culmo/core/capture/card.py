"""A grey or colour reference card in the picture, whose colours are known."""

from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.locate import check_corners
from culmo.core.capture.photo import Photo
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.errors import CulmoError
from culmo.words import tr

_LEAST_PATCHES = 3


@dataclass(frozen=True)
class Card:
    """A reference card that lies in the picture beside the sheet.

    Attributes
    ----------
    known : (n, 3) float, CIELAB of its patches, row by row
    corners : (4, 2) float, pixels, of the block of patches, clockwise from the top left
    rows : int, rows of patches
    """

    known: Array
    corners: Array
    rows: int = 1

    def __post_init__(self) -> None:
        if self.rows < 1 or len(self.known) % self.rows:
            raise CulmoError(tr("{n} patches do not fill {rows} rows", n=len(self.known), rows=self.rows))
        if len(self.known) < _LEAST_PATCHES:
            raise CulmoError(
                tr(
                    "a reference card needs at least {LEAST_PATCHES} patches; this one has {n}",
                    LEAST_PATCHES=_LEAST_PATCHES,
                    n=len(self.known),
                )
            )

    def patches(self, photo: Photo) -> Array:
        """The linear light of its patches in a picture, (n, 3) float.

        Raises
        ------
        CulmoError
            when the corners can not be a card's
        """
        check_corners(self.corners, photo.size, 0.0005)
        columns, side = len(self.known) // self.rows, 24
        block = np.array([[0, 0], [columns, 0], [columns, self.rows], [0, self.rows]]) * side - 0.5
        way = cv2.getPerspectiveTransform(
            np.asarray(self.corners, dtype=np.float32), block.astype(np.float32)
        )
        flat = cv2.warpPerspective(
            photo.pixels, way, (columns * side, self.rows * side), flags=cv2.INTER_LINEAR
        )
        middles = flat.reshape(self.rows, side, columns, side, 3)[:, 7:-7, :, 7:-7].transpose(0, 2, 1, 3, 4)
        levels = np.median(middles.reshape(len(self.known), -1, 3), axis=1).astype(flat.dtype)
        return photo.linear(levels)


@dataclass(frozen=True)
class CardFit:
    """How far a reference card's patches are from what its file says.

    Attributes
    ----------
    before, after : float, mean CIEDE2000 as the picture shows them, and with what the picture does undone
    """

    before: float
    after: float


def check_card(before: Array, after: Array, known: Array) -> CardFit:
    """How well a card's patches are met.

    Parameters
    ----------
    before, after : (n, 3) float, CIELAB as the picture shows the patches, and with what the picture does undone
    known : (n, 3) float, CIELAB as the card's file gives them

    Raises
    ------
    CulmoError
        when the card in the picture is not the one in the file
    """
    fit = CardFit(float(delta_e_00(before, known).mean()), float(delta_e_00(after, known).mean()))
    if fit.after > 8.0:
        raise CulmoError(
            tr(
                "the card in the picture does not look like the one in the file (its patches are "
                "{after:.0f} away on average); are the corners of the card and its rows right?",
                after=fit.after,
            )
        )
    return fit
