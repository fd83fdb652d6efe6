"""Sheets whose washes granulate, part and bloom as much as is known: clumps of pigment laid down one by one.

Nothing of it is the application's: clumps are discs with soft rims that fall where chance and the hollows of the paper have
them, paint takes light away by Beer's law, and the picture is taken by the foreign camera. What is true of a cell is taken
from its own fine field, before any camera.
"""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from culmo.core.chart.sheet import sheet_to_dict
from support.builders import laid_out
from support.foreign_pictures import Hand, Scene, _area, _clouds, lab_of_linear, linear_of, paint, photograph

FINE = 16.0  # pixels a millimetre, at which washes are laid
_CORE_MM = 2.0


@dataclass(frozen=True)
class Wash:
    """What a cell is like.

    Attributes
    ----------
    one, two : (3,) float, densities of two pigments in the three channels at full film
    clumps : float, 0..1, how much of the first pigment lies in clumps
    size_mm : float, the diameter of a clump
    parts : float, -1..1, how much of the second pigment is driven out of the clumps (or into them)
    blooms : float, how uneven the film is over centimetres
    rim : float, how much more film there is at the edge
    """

    one: np.ndarray
    two: np.ndarray
    clumps: float
    size_mm: float
    parts: float
    blooms: float
    rim: float


@dataclass(frozen=True)
class Truth:
    """What is true of a cell: standard deviations in CIELAB of its fine field, the tooth of the paper left out.

    Attributes
    ----------
    contrast : float, of L, within two centimetres or less
    parting : float, of a and b together
    size_mm : float, the diameter of its clumps
    blooms : float, of L, of what is larger than clumps
    axis : (3,) float, the direction in which its colours scatter, lighter first
    """

    contrast: float
    parting: float
    size_mm: float
    blooms: float
    axis: np.ndarray


def _clumped(rng, shape, size_mm, per_mm):
    """A field of clumps, mean 0 and standard deviation 1: discs of a size, a third of the paper covered."""
    radius = 0.5 * size_mm * per_mm
    area = shape[0] * shape[1]
    count = max(8, int(0.45 * area / (np.pi * radius**2)))
    seeds = np.zeros(shape, dtype=np.float32)
    rows, columns = rng.integers(0, shape[0], count), rng.integers(0, shape[1], count)
    np.add.at(seeds, (rows, columns), rng.uniform(0.6, 1.4, count))
    reach = int(np.ceil(1.5 * radius)) + 1
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    disc = 1.0 / (1.0 + np.exp((np.hypot(y, x) - radius) / max(0.18 * radius, 0.3)))
    from scipy.signal import fftconvolve

    field = fftconvolve(seeds, disc.astype(np.float32), mode="same")
    field = 1.0 - np.exp(-field)  # clumps on clumps do not add up for ever
    return (field - field.mean()) / field.std()


def lay(rng, wash, shape):
    """The light that a wash throws back of the paper's, (h, w, 3), and what is true of it."""
    clumps = _clumped(rng, shape, wash.size_mm, FINE)
    slow = _clouds(rng, shape, 7.0 * FINE)
    film = 1.0 + wash.blooms * slow
    first = film * np.clip(1.0 + wash.clumps * clumps, 0.03, None)
    second = film * np.clip(1.0 - wash.parts * wash.clumps * clumps, 0.03, None)
    y, x = np.mgrid[: shape[0], : shape[1]]
    edge = np.minimum(np.minimum(y, shape[0] - 1 - y), np.minimum(x, shape[1] - 1 - x)) / FINE
    rim = 1.0 + wash.rim * np.exp(-edge / 0.5)
    light = np.exp(-rim[..., None] * (first[..., None] * wash.one + second[..., None] * wash.two))
    core = round(_CORE_MM * FINE)
    plain = np.exp(-(np.clip(1.0 + wash.clumps * clumps, 0.03, None)[..., None] * wash.one
                     + np.clip(1.0 - wash.parts * wash.clumps * clumps, 0.03, None)[..., None] * wash.two))  # fmt: skip
    white = linear_of(np.array([96.0, 0.0, 2.0]))
    lab = lab_of_linear(plain[core:-core, core:-core] * white).reshape(-1, 3)
    blooming = lab_of_linear(np.exp(-film[..., None] * (wash.one + wash.two))[core:-core, core:-core] * white)
    away = lab - lab.mean(axis=0)
    axis = np.linalg.svd(away[::7], full_matrices=False)[2][0]
    return light, Truth(
        float(lab[:, 0].std()), float(np.hypot(*lab[:, 1:].std(axis=0))), wash.size_mm,
        float(blooming[..., 0].std()), axis * (1.0 if axis[0] >= 0 else -1.0),
    )  # fmt: skip


def any_wash(rng):
    """A wash by chance: from quite smooth to as grainy as any, from one pigment to two that part."""
    one = rng.uniform(0.1, 1.6, 3) * rng.uniform(0.25, 1.0)
    two = rng.uniform(0.1, 1.6, 3) * rng.uniform(0.0, 0.8)
    clumps = float(rng.choice([0.0, 0.05, 0.1, 0.2, 0.35, 0.5]) * rng.uniform(0.8, 1.2))
    parts = float(rng.choice([-1.0, 0.0, 0.6, 1.2]) * rng.uniform(0.7, 1.1))
    return Wash(
        one, two, clumps, float(np.exp(rng.uniform(np.log(0.3), np.log(1.5)))), parts,
        float(rng.choice([0.0, 0.04, 0.12])), float(rng.choice([0.0, 0.2, 0.5])),
    )  # fmt: skip


@dataclass
class Textured:
    """A sheet of textured washes, and what is true of each cell."""

    sheet: object
    painted: object
    truth: dict

    def shoot(self, seed, long_px, **changes):
        """A foreign picture of it, the sheet filling more or less of it."""
        rng = np.random.default_rng([seed, long_px])
        scene = Scene(
            long_px=long_px, tilt_deg=float(rng.uniform(2, 10)), toward_deg=float(rng.uniform(0, 360)),
            side=float(rng.uniform(0.05, 0.3)), corner=float(rng.uniform(0.0, 0.2)), noise=float(rng.uniform(0.003, 0.008)),
            blur=float(rng.uniform(0.5, 0.9)), lamp=tuple(np.exp(rng.normal(0, 0.05, 3))),
            exposure=float(rng.uniform(0.7, 0.85)), **changes,
        )  # fmt: skip
        return photograph(sheet_to_dict(self.sheet), self.painted, scene, rng)


def settled_sheet(seed, count=8, paper="A4", tooth=0.012):
    """A grid of all pairs, full and tint, of paints that settle as is known, and its pigments.

    Parameters
    ----------
    seed, count, paper, tooth : as for `textured`
    """
    rng = np.random.default_rng([seed, 78])
    pigments = any_pigments(rng, count)
    names = tuple(one.name for one in pigments)
    sheet = laid_out("grid", paints=names, paper=paper, gap_mm=2.0, title=f"Settling {seed}")[0]
    densities = {one.name.casefold(): one.density for one in pigments}

    def flat(recipe):
        layer = recipe.layers[0]
        total = sum(part.parts for part in layer.parts)
        return np.exp(
            -sum(layer.wash * part.parts / total * densities[part.name.casefold()] for part in layer.parts)
        )

    painted = paint(
        sheet_to_dict(sheet), {cell.id: flat(cell.recipe) for cell in sheet.cells}, Hand(grain=0.0, wobble_mm=0.15), rng,
        per_mm=FINE,
    )  # fmt: skip
    _lay_over(painted, sheet, lambda cell, shape: settle(rng, pigments, cell.recipe, shape), rng, tooth)
    return Textured(sheet, painted, {}), pigments


def _lay_over(painted, sheet, light_of, rng, tooth):
    """Washes in the place of the even ones, and the tooth of the paper over all of it."""
    white = linear_of(np.array([96.0, 0.0, 2.0])).astype(np.float32)
    for cell in sheet.cells:
        where, share = _area(np.array(cell.outline_mm), FINE, painted.light.shape[:2])
        share = share[..., None]
        light = light_of(cell, share.shape[:2])
        painted.light[where] = painted.light[where] * (1 - share) + light * white * share
    grain = ndimage.gaussian_filter(rng.standard_normal(painted.light.shape[:2]), 0.22 * FINE)
    painted.light *= (1.0 + tooth * grain / grain.std())[..., None].astype(np.float32)


def textured(seed, count=6, paper="A5", tooth=0.012):
    """A grid of washes by chance on a paper with tooth.

    Parameters
    ----------
    seed : int
    count : int, paints of the grid
    paper : str
    tooth : float, how much the tooth takes and gives of the light, root mean square
    """
    rng = np.random.default_rng([seed, 77])
    names = tuple(f"Paint {n}" for n in range(count))
    sheet = laid_out("grid", paints=names, paper=paper, gap_mm=2.0, title=f"Textures {seed}")[0]
    cells = {cell.id: any_wash(rng) for cell in sheet.cells}
    flat = {name: np.exp(-(wash.one + wash.two)) for name, wash in cells.items()}
    painted = paint(sheet_to_dict(sheet), flat, Hand(grain=0.0, wobble_mm=0.15), rng, per_mm=FINE)
    truth = {}

    def light_of(cell, shape):
        light, truth[cell.id] = lay(rng, cells[cell.id], shape)
        return light

    _lay_over(painted, sheet, light_of, rng, tooth)
    return Textured(sheet, painted, truth)


# ---- paints that settle as is known


@dataclass(frozen=True)
class Pigment:
    """A paint of a world of Beer's law, and how it settles.

    Attributes
    ----------
    name : str
    density : (3,) float, of a full wash in the three channels
    uneven : float, the standard deviation of its film, as a share of it
    follows : float, -1..1, how much of that follows the tooth: 1 all in its valleys, -1 all on its hills
    size_mm : float, of clumps of its own
    """

    name: str
    density: np.ndarray
    uneven: float
    follows: float
    size_mm: float


def any_pigments(rng, count=8):
    """Paints by chance, from stains that lie quite even to heavy earths; hues all round."""
    found = []
    for place in range(count):
        hue = 2 * np.pi * (place / count) + rng.normal(0, 0.3)
        bands = 0.75 + 0.65 * np.cos(hue - np.array([0.0, 2.1, 4.2]))
        density = np.maximum(bands, 0.06) * rng.uniform(0.5, 1.3)
        heavy = rng.random() < 0.5
        uneven = rng.uniform(0.15, 0.4) if heavy else rng.uniform(0.02, 0.08)
        follows = float(rng.choice([0.9, 0.6, -0.7])) if heavy else float(rng.uniform(0.0, 0.5))
        found.append(
            Pigment(f"Paint {place}", density, float(uneven), follows, float(rng.uniform(0.35, 1.1)))
        )
    return found


def settle(rng, pigments, recipe, shape, tooth=None):
    """The light that a wash of paints throws back of the paper's, as they settle, (h, w, 3)."""
    tooth = _clumped(rng, shape, 0.6, FINE) if tooth is None else tooth
    by_name = {one.name.casefold(): one for one in pigments}
    layer = recipe.layers[0]
    total = sum(part.parts for part in layer.parts)
    depth = np.zeros((*shape, 3))
    for part in layer.parts:
        one = by_name[part.name.casefold()]
        own = _clumped(rng, shape, one.size_mm, FINE)
        field = one.follows * tooth + np.sqrt(1.0 - one.follows**2) * own
        film = layer.wash * part.parts / total * np.clip(1.0 + one.uneven * field, 0.02, None)
        depth += film[..., None] * one.density
    return np.exp(-depth)


def settled(rng, pigments, recipe, side_mm=14.0):
    """What is true of a wash of paints: its colour, and contrast and parting of its grain; CIELAB."""
    shape = (round(side_mm * FINE),) * 2
    lab = lab_of_linear(settle(rng, pigments, recipe, shape) * linear_of(np.array([96.0, 0.0, 2.0]))).reshape(
        -1, 3
    )
    mean = lab_of_linear(
        (settle(rng, pigments, recipe, shape) * linear_of(np.array([96.0, 0.0, 2.0]))).mean(axis=(0, 1))
    )
    away = lab - lab.mean(axis=0)
    values, ways = np.linalg.eigh(away.T @ away / len(away))
    axis = ways[:, 2] * (1.0 if ways[0, 2] >= 0 else -1.0)
    return (
        mean,
        float(away[:, 0].std()),
        float(np.hypot(*away[:, 1:].std(axis=0))),
        axis,
        float(np.sqrt(values[2])),
    )
