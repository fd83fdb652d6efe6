"""A grey or colour reference card in the picture, whose colours are known."""

from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.locate import check_corners
from culmo.core.capture.photo import Photo
from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.errors import CulmoError
from culmo.words import tr

_LEAST_PATCHES = 3
_STEADY = 0.02  # how strongly the correction is held to no correction, where the card says little


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
    """The correction that a reference card asks for.

    Attributes
    ----------
    matrix : (3, 3) float, from XYZ as read to XYZ as it is
    before, after : float, mean CIEDE2000 of the card's patches without and with it
    """

    matrix: Array
    before: float
    after: float

    def apply(self, lab: Array) -> Array:
        """Corrected CIELAB, (..., 3) float."""
        return lab_from_xyz(np.maximum(xyz_from_lab(lab) @ self.matrix.T, 1e-5))


def fit_card(read: Array, known: Array) -> CardFit:
    """The correction from a card's patches; greys alone correct the tint, colours the mixing of channels too.

    Parameters
    ----------
    read : (n, 3) float, CIELAB as the picture shows the patches
    known : (n, 3) float, CIELAB as the card's file gives them

    Raises
    ------
    CulmoError
        when there are too few, or the card in the picture is not the one in the file
    """
    read, known = np.asarray(read, dtype=float), np.asarray(known, dtype=float)
    if len(read) < _LEAST_PATCHES or read.shape != known.shape:
        raise CulmoError(
            tr(
                "a reference card needs at least {LEAST_PATCHES} patches; this one has {n}",
                LEAST_PATCHES=_LEAST_PATCHES,
                n=len(read),
            )
        )
    x, y = xyz_from_lab(read), xyz_from_lab(known)
    weight = 1.0 / np.maximum(
        y[:, 1:2], 0.05
    )  # an error in a dark patch is seen as well as one in a light patch
    colourful = float(np.hypot(known[:, 1], known[:, 2]).max()) > 25.0 and len(read) >= 9
    if colourful:
        pull = _STEADY * len(read) * np.eye(3)
        matrix = np.linalg.solve((weight * x).T @ (weight * x) + pull, (weight * x).T @ (weight * y) + pull).T
    else:
        matrix = np.diag((weight**2 * x * y).sum(axis=0) / np.maximum((weight**2 * x * x).sum(axis=0), 1e-9))
    fit = CardFit(matrix, float(delta_e_00(read, known).mean()), 0.0)
    after = float(delta_e_00(fit.apply(read), known).mean())
    if after > 8.0:
        raise CulmoError(
            tr(
                "the card in the picture does not look like the one in the file (its patches are "
                "{after:.0f} away on average); are the corners of the card and its rows right?",
                after=after,
            )
        )
    return CardFit(matrix, fit.before, after)
