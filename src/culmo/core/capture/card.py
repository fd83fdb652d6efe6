"""A grey or colour reference card in the picture, whose colours are known."""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from culmo.core.capture.locate import check_corners
from culmo.core.capture.photo import Photo
from culmo.core.capture.placement import Placement
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.errors import CulmoError
from culmo.words import tr

_ENDS = 0.02, 0.985  # of a picture's levels, beyond which a patch may be anything


@dataclass(frozen=True)
class Card:
    """A reference card that lies in the picture.

    Attributes
    ----------
    known : (n, 3) float, CIELAB of its patches, row by row
    corners : (4, 2) float, pixels, of the block of patches, clockwise from the top left; None where it lies on the place
        that the sheet has for it
    rows : int, rows of patches
    may_lack : bool, whether it may not lie there: it is looked for by itself
    """

    known: Array
    corners: Array | None
    rows: int = 1
    may_lack: bool = False

    def __post_init__(self) -> None:
        if not len(self.known):
            raise CulmoError(tr("the reference card has no patches"))
        if self.rows < 1 or len(self.known) % self.rows:
            raise CulmoError(tr("{n} patches do not fill {rows} rows", n=len(self.known), rows=self.rows))

    def placed(self, sheet: Sheet, placement: Placement) -> "Card":
        """The card with its corners in the picture, as it lies on the sheet's place for it.

        Parameters
        ----------
        sheet : Sheet
        placement : Placement, in pixels of the picture

        Raises
        ------
        CulmoError
            when it has no corners, and the sheet no place for it
        """
        if self.corners is not None:
            return self
        if sheet.card_mm is None:
            raise CulmoError(
                tr('"{title}" has no place for a card; give the corners of the card', title=sheet.title)
            )
        x, y, width, height = sheet.card_mm
        block = np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]])
        return replace(self, corners=placement.to_pixels(block))

    def middles(self) -> Array:
        """The middles of its patches in the picture, (n, 2) float, pixels; its corners must be known."""
        assert self.corners is not None
        columns = len(self.known) // self.rows
        unit = np.array([[0, 0], [columns, 0], [columns, self.rows], [0, self.rows]], dtype=np.float32)
        way = cv2.getPerspectiveTransform(unit, np.asarray(self.corners, dtype=np.float32))
        rows, across = np.mgrid[: self.rows, :columns]
        at = np.stack([across, rows], axis=-1).reshape(-1, 1, 2) + 0.5
        return np.asarray(cv2.perspectiveTransform(at, way).reshape(-1, 2))

    def patches(self, photo: Photo) -> tuple[Array, Flags]:
        """The linear light of its patches in a picture, (n, 3) float, and which of them lie within what it can show, (n,)
        bool; its corners must be known.

        Raises
        ------
        CulmoError
            when the corners can not be a card's
        """
        assert self.corners is not None
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
        ends = levels.astype(float) / photo.top
        return photo.linear(levels), ((ends > _ENDS[0]) & (ends < _ENDS[1])).all(axis=1)


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
