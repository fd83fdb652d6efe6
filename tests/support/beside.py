"""A sheet and a strip on one table, in one picture: the foreign world with two papers in it."""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from culmo.core.capture.strip import KnownPatch
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import sheet_to_dict
from support.camera_sheets import studio
from support.foreign_cameras import make_shooting, read_plainly
from support.foreign_pictures import Painted, _clouds, conditions, difference, linear_of, paint, photograph
from support.turbid import lab_of, seen

_MATS = ((0.16, 0.16, 0.17), (0.30, 0.22, 0.15), (0.05, 0.05, 0.06), (0.42, 0.41, 0.38))


def _pasted(light, gloss, painted, middle, turn_deg, per_mm):
    """Lay a painted paper on what is there, turned about its middle, which comes to lie at a place in mm."""
    height, width = painted.light.shape[:2]
    rows, columns = np.mgrid[: light.shape[0], : light.shape[1]].astype(np.float32)
    x, y = (columns + 0.5) / per_mm - middle[0], (rows + 0.5) / per_mm - middle[1]
    turn = np.radians(turn_deg)
    own_x = (x * np.cos(turn) + y * np.sin(turn)) * painted.per_mm + width / 2 - 0.5
    own_y = (-x * np.sin(turn) + y * np.cos(turn)) * painted.per_mm + height / 2 - 0.5
    here = (own_x > 0) & (own_x < width - 1) & (own_y > 0) & (own_y < height - 1)
    where = [own_y[here], own_x[here]]
    for channel in range(3):
        light[..., channel][here] = ndimage.map_coordinates(painted.light[..., channel], where, order=1)
    gloss[here] = ndimage.map_coordinates(painted.gloss, where, order=1)


def take_beside(sheet, colours, strip, known, fault, hard, seed, turn_deg=None, long_px=3000):
    """A picture of a sheet with a strip beside it.

    Parameters
    ----------
    sheet, strip : dict, their open forms
    colours, known : dict from cell id to (3,) float, the share of the paper's light that the dry cell is to throw back
    fault, hard, seed : as in `support.foreign_pictures.take`
    turn_deg : float, how the strip lies; by chance where None

    Returns
    -------
    Picture, the (3,) CIELAB of the paper, and a dict from the strip's cell ids to (3,) CIELAB
    """
    rng = np.random.default_rng([seed, 77, int(hard)])
    hand, scene, paper = conditions(fault, hard, rng)
    scene.long_px = min(scene.long_px, long_px) if fault == "small" else long_px
    scene.fill = max(scene.fill, 0.88)
    per_mm = 6.0
    one = paint(sheet, colours, hand, rng, paper, per_mm)
    other = paint(strip, known, hand, rng, paper, per_mm)
    size = np.array([sheet["paper"]["width_mm"], sheet["paper"]["height_mm"]])
    across = np.array([strip["paper"]["width_mm"], strip["paper"]["height_mm"]])
    if turn_deg is None:
        turn_deg = float(rng.choice([0.0, 180.0, 90.0, 270.0]) + rng.normal(0, 6))
    turn = np.radians(turn_deg)
    reach = np.abs([[np.cos(turn), np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ across
    below = bool(rng.integers(2))
    whole = size + (np.array([0.0, reach[1] + 14.0]) if below else np.array([reach[0] + 14.0, 0.0])) + 16.0
    whole = np.maximum(whole, reach + 16.0)
    shape = tuple(round(v * per_mm) for v in whole[::-1])
    light = np.broadcast_to(np.float32(_MATS[rng.integers(len(_MATS))]), (*shape, 3)).copy()
    light *= (1 + 0.08 * _clouds(rng, shape, 0.8 * per_mm))[..., None]
    gloss = np.full(shape, 0.1, dtype=np.float32)
    offset = np.array([8.0, 8.0])
    _pasted(light, gloss, one, offset + size / 2, 0.0, per_mm)
    place = (
        [8.0 + reach[0] / 2 + rng.uniform(0, max(whole[0] - 16 - reach[0], 0)), size[1] + 18.0 + reach[1] / 2 - 4]
        if below
        else [size[0] + 14.0 + reach[0] / 2, 8.0 + reach[1] / 2 + rng.uniform(0, max(whole[1] - 16 - reach[1], 0))]
    )  # fmt: skip
    _pasted(light, gloss, other, np.array(place), turn_deg, per_mm)
    both = Painted(light, gloss, per_mm, one.lab, one.bare, lambda points: one.at(points) + offset)
    on_mat = {**sheet, "paper": {"name": "mat", "width_mm": float(whole[0]), "height_mm": float(whole[1])}}
    return photograph(on_mat, both, scene, rng), paper, other.lab


@dataclass
class Case:
    """A sheet of 64 cells of eight paints with a strip of the same beside it, in a picture by a foreign camera.

    Attributes
    ----------
    sheet, strip : Sheet
    picture : Picture
    lab, strip_lab : dict from cell id to (3,) float, CIELAB, as the colours are
    paper : (3,) float, CIELAB
    measured : dict from the strip's cell ids to KnownPatch, as an instrument read them
    """

    sheet: object
    strip: object
    picture: object
    lab: dict
    strip_lab: dict
    paper: np.ndarray
    measured: dict


def make_case(seed, fault="plain", hard=False, turn_deg=None):
    """The laboratory of turbid layers, a foreign camera under a foreign light, and both papers on one table."""
    laboratory, camera, rng = studio(seed)
    names = [paint.name for paint in laboratory.paints]
    sheet = lay_out(plan_of("grid", {"paints": names, "paper": "A4", "title": "Foreign", "gap_mm": 1.5}))[0]
    strip = lay_out(plan_of("strip", {"paints": names, "paper": "A4"}))[0]
    shooting = make_shooting(rng, camera)
    paper = seen(laboratory.grounds["paper"], laboratory.at, laboratory.gloss)
    shown, true = [], []
    for one in (sheet, strip):
        reflectance = np.array([laboratory.reflectance(cell.recipe) for cell in one.cells])
        light = read_plainly(shooting, reflectance, paper, rng, noise=0.0)
        ids = [cell.id for cell in one.cells]
        shown.append(dict(zip(ids, np.clip(light, 1e-4, 1.0), strict=True)))
        true.append(dict(zip(ids, (lab_of(own) for own in reflectance), strict=True)))
    picture, *_ = take_beside(
        sheet_to_dict(sheet), shown[0], sheet_to_dict(strip), shown[1], fault, hard, seed, turn_deg
    )
    measured = {
        cell: KnownPatch(tuple((lab + rng.normal(0, 0.4, 3)).tolist()), 0.7) for cell, lab in true[1].items()
    }
    return Case(sheet, strip, picture, *true, lab_of(paper), measured)


def off_and_told(case, reading):
    """How far off the cells inside sRGB are, and what was told of them, (n,) float each."""
    some = [
        entry
        for entry in reading.readings
        if ((linear := linear_of(case.lab[entry.cell])) > 0.003).all() and (linear < 1).all()
    ]
    off = [difference(entry.lab, case.lab[entry.cell]) for entry in some]
    return np.array(off), np.array([entry.uncertainty for entry in some])
