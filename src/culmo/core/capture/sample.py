"""Colours of small patches of a picture."""

from collections.abc import Iterable

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_srgb
from culmo.core.paint.readings import PAPER, Reading


def picked_colour(pixels: Array, paper: Array | None = None) -> Array:
    """The colour of a patch: the middle value of each channel, which ignores specks.

    Parameters
    ----------
    pixels : (h, w, 3) uint8, sRGB
    paper : (3,) float, CIELAB of the bare paper as the picture shows it; the patch is then seen relative to a paper
        of L 96, which takes out the light's tint and strength

    Returns
    -------
    (3,) float, CIELAB
    """
    lab = lab_from_srgb(np.median(pixels.reshape(-1, 3).astype(float), axis=0) / 255.0)
    return lab if paper is None else relative_to_paper(lab, paper)


PAPER_LAB = np.array([96.0, 0.0, 1.0])


def relative_to_paper(lab: Array, paper: Array, bare: Array = PAPER_LAB) -> Array:
    """A colour as it would be in even white light, from the bare paper beside it (von Kries in XYZ).

    Parameters
    ----------
    lab, paper : (3,) float, CIELAB as the picture shows them
    bare : (3,) float, CIELAB of the bare paper in that light
    """
    from culmo.core.colour.cielab import lab_from_xyz, xyz_from_lab

    scale = xyz_from_lab(bare) / np.maximum(xyz_from_lab(np.asarray(paper, dtype=float)), 1e-4)
    return lab_from_xyz(xyz_from_lab(np.asarray(lab, dtype=float)) * scale)


def bare_paper(readings: Iterable[Reading]) -> Array:
    """The colour of the bare paper as it was read, or a usual white where it was not.

    Parameters
    ----------
    readings : iterable of Reading

    Returns
    -------
    (3,) float, CIELAB
    """
    bare = [r.lab for r in readings if not r.recipe.layers and r.ground == PAPER and r.teaches]
    return np.mean(bare, axis=0) if bare else PAPER_LAB
