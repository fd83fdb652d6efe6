"""A simulated camera: a picture of a sheet as an ordinary phone would see it, so that reading can be tried.

It knows the film of no paint: it is given the dry colour of each cell, lays it out with the unevenness of a real
wash, and looks at it from a hand-held distance in imperfect light.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.photo import P3_TO_XYZ, SRGB_TO_XYZ, Pixels
from culmo.core.capture.sample import PAPER_LAB
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.spectral import WAVELENGTH_NM, Array, xyz_from_reflectance
from culmo.core.colour.srgb import encode_srgb, linear_srgb_from_lab
from culmo.core.paint.readings import INK

_INK_LINEAR = 0.03
_PENCIL = 0.45  # what a pencil line leaves of the light
# places on the paper's tooth, in standard deviations from hills to hollows; shares of a band's film, from water to full
SETTLED, FADED = np.linspace(-2.5, 2.5, 11), np.geomspace(0.02, 1.0, 9)
SETTLED.setflags(write=False)
FADED.setflags(write=False)
_STEP = 12  # the lens is worked out at every so many pixels and interpolated between


@dataclass(frozen=True)
class Exposure:
    """How a practice photo is taken.

    Attributes
    ----------
    width_px : int, width of the picture
    tilt_deg, toward_deg, roll_deg : float, how far the camera leans, to which side, and how it is turned
    fill : float, 0..1, how much of the picture the paper takes
    falloff : float, 0..0.6, how much darker the corners are
    second_lamp : float, 0..0.5, how much brighter one side is
    shadow : float, 0..0.5, depth of a soft shadow across the sheet
    kelvin : float, 2500..10000, colour temperature of the light
    balance : float, 0..1, how much of the light's tint the phone has taken out
    exposure : float, what white paper becomes at the brightest place, in linear light
    noise : float, standard deviation at white, in linear light
    curl_mm : float, how far the paper's middle stands up
    pencil, grain, edges : float, 0..1, strength of the pencil lines, of the paper's grain, of the washes' rims
    bleed, glare : float, 0..1, share of the cells that ran into a neighbour, or that shine
    wide : bool, in Display P3
    table : float, linear grey of the table that the sheet lies on
    """

    width_px: int = 2400
    tilt_deg: float = 0.0
    toward_deg: float = 0.0
    roll_deg: float = 0.0
    fill: float = 0.9
    falloff: float = 0.0
    second_lamp: float = 0.0
    shadow: float = 0.0
    kelvin: float = 6500.0
    balance: float = 0.0
    exposure: float = 0.85
    noise: float = 0.0
    curl_mm: float = 0.0
    pencil: float = 1.0
    grain: float = 0.5
    edges: float = 1.0
    bleed: float = 0.0
    glare: float = 0.0
    wide: bool = False
    table: float = 0.18


def random_shot(rng: np.random.Generator, width_px: int = 2400) -> Exposure:
    """A shot as it happens: held by hand, by a window or a lamp.

    Parameters
    ----------
    rng : numpy Generator
    width_px : int
    """

    def u(low: float, high: float) -> float:
        return float(rng.uniform(low, high))

    return Exposure(
        width_px=width_px,
        tilt_deg=u(0, 25),
        toward_deg=u(0, 360),
        roll_deg=u(-6, 6),
        fill=u(0.82, 0.95),
        falloff=u(0, 0.4),
        second_lamp=u(0, 0.2),
        shadow=u(0, 0.3) if rng.random() < 0.5 else 0.0,
        kelvin=u(3000, 8000),
        balance=u(0, 0.8),
        exposure=u(0.75, 0.92),
        noise=u(0.002, 0.012),
        curl_mm=u(0, 3),
        grain=u(0.2, 1),
        bleed=0.04,
        glare=0.04,
        wide=rng.random() < 0.3,
        table=u(0.02, 0.4),
    )


@dataclass(frozen=True)
class Practice:
    """A practice photo with the truth about it.

    Attributes
    ----------
    pixels : (h, w, 3) uint8, encoded in sRGB or Display P3
    corners : (4, 2) float, the frame's corners in pixels, clockwise from the top left
    lab : dict from cell id to (3,) float, the colour that the dry cell really has
    bled, shining : frozenset of cell ids
    wide : bool
    """

    pixels: Pixels
    corners: Array
    lab: dict[str, Array]
    bled: frozenset[str]
    shining: frozenset[str]
    wide: bool


def light_gains(kelvin: float) -> Array:
    """What a light of this colour temperature does to linear sRGB, green as it was, (3,) float (Planck's law)."""
    metre = WAVELENGTH_NM * 1e-9
    power = metre**-5 / np.expm1(1.438777e-2 / (metre * kelvin))
    # the tables hold daylight's weights: a surface as coloured as the light's ratio to daylight stands for the light
    daylight = metre**-5 / np.expm1(1.438777e-2 / (metre * 6504.0))
    xyz = xyz_from_reflectance(power / daylight / 2.0)
    rgb = np.linalg.solve(SRGB_TO_XYZ, xyz)
    return np.asarray(np.maximum(rgb, 1e-3) / rgb[1])


def photograph(
    sheet: Sheet,
    colours: Mapping[str, Array],
    shot: Exposure,
    rng: np.random.Generator,
    grains: Mapping[str, float] | None = None,
    paper: Array = PAPER_LAB,
    settled: Mapping[str, Array] | None = None,
) -> Practice:
    """Take a picture of a sheet.

    Parameters
    ----------
    sheet : Sheet
    colours : mapping from cell id to (3,) float, CIELAB of the dry cell; cells without one stay bare
    shot : Exposure
    rng : numpy Generator
    grains : mapping from cell id to 0..1, how much its wash granulates
    paper : (3,) float, CIELAB of the bare paper
    settled : mapping from cell id to (n, 3) float, linear sRGB of its paint at each of SETTLED, where it is known better
        than by how much it granulates; its mean is the cell's colour all the same. Of a band that fades (n, m, 3), at
        each of FADED

    Returns
    -------
    Practice
    """
    scale = shot.width_px * shot.fill / sheet.paper.width_mm
    scene, bled = _paint(sheet, colours, shot, scale, rng, grains or {}, paper, settled or {})
    height_px = round(shot.width_px * sheet.paper.height_mm / sheet.paper.width_mm)
    lens = _Lens(sheet, shot, height_px)
    where = lens.sheet_positions()
    picture: Pixels = cv2.remap(
        scene,
        np.ascontiguousarray(where[..., 0] * scale - 0.5, dtype=np.float32),
        np.ascontiguousarray(where[..., 1] * scale - 0.5, dtype=np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(shot.table, shot.table, shot.table),
    )
    shining = _shine(picture, lens, sheet, shot, rng)
    picture *= _light(shot, where, sheet, height_px, rng)[..., None]
    gains = light_gains(shot.kelvin) ** (1.0 - shot.balance)
    picture *= (gains * shot.exposure / gains.max()).astype(np.float32)
    if shot.wide:
        picture = picture @ np.linalg.solve(P3_TO_XYZ, SRGB_TO_XYZ).T.astype(np.float32)
    seen: Array = np.asarray(cv2.GaussianBlur(picture, (0, 0), 0.6), dtype=np.float32)
    if shot.noise:
        level = np.sqrt(0.08 + 0.92 * np.clip(seen, 0.0, 1.0))
        seen += shot.noise * level * rng.standard_normal(seen.shape, dtype=np.float32)
    pixels = np.round(encode_srgb(seen) * 255.0).astype(np.uint8)
    x, y, w, h = sheet.frame_mm
    corners = lens.to_pixels(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]))
    truth = {cell_id: np.asarray(lab, dtype=float) for cell_id, lab in colours.items()}
    return Practice(pixels, corners, truth, frozenset(bled), frozenset(shining), shot.wide)


# ---- the painted sheet


def _smooth_noise(shape: tuple[int, int], size_px: float, rng: np.random.Generator) -> Array:
    """A field of noise with features of a size, mean 0 and standard deviation 1, (h, w) float32."""
    step = max(1, int(size_px / 2))
    small = (shape[0] // step + 2, shape[1] // step + 2)
    field = cv2.GaussianBlur(
        rng.standard_normal(small, dtype=np.float32), (0, 0), max(0.5, size_px / step / 2)
    )
    field = cv2.resize(field, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC)
    return np.asarray((field - field.mean()) / max(float(field.std()), 1e-6))


def _mask(
    cell: Cell, scale: float, shape: tuple[int, int], rng: np.random.Generator, wobble: float
) -> Pixels:
    points = np.array(cell.outline_mm)
    middle = points.mean(axis=0)
    inward = (middle - points) / np.maximum(np.linalg.norm(middle - points, axis=1, keepdims=True), 1e-6)
    points = points + inward * wobble * np.abs(rng.normal(0.25, 0.15, (len(points), 1)))
    mask = np.zeros(shape, dtype=np.uint8)
    cv2.fillPoly(mask, [np.round(points * scale * 16).astype(np.int32)], 1, shift=4)
    return mask


def _paint(
    sheet: Sheet,
    colours: Mapping[str, Array],
    shot: Exposure,
    scale: float,
    rng: np.random.Generator,
    grains: Mapping[str, float],
    paper: Array,
    settled: Mapping[str, Array],
) -> tuple[Array, list[str]]:
    """The painted sheet seen straight from above in even light, (h, w, 3) float32 linear sRGB."""
    shape = round(sheet.paper.height_mm * scale), round(sheet.paper.width_mm * scale)
    white = linear_srgb_from_lab(np.asarray(paper, dtype=float)).astype(np.float32)
    scene = np.broadcast_to(white, (*shape, 3)).copy()
    for cell in sheet.cells:
        if cell.ground == INK:
            x, y, w, h = (value * scale for value in cell.box_mm)
            reach = 1.2 * scale
            cv2.rectangle(
                scene,
                (round(x), round(y - reach)),
                (round(x + w), round(y + h + reach)),
                (_INK_LINEAR,) * 3,
                -1,
            )
    _pencil(scene, sheet, shot, scale)
    coarse = _smooth_noise(shape, 4.0 * scale, rng)
    fine = _smooth_noise(shape, 0.5 * scale, rng)
    bled = []
    for cell in sheet.cells:
        if cell.id not in colours:
            continue
        colour = linear_srgb_from_lab(np.asarray(colours[cell.id], dtype=float)).astype(np.float32)
        grain = settled.get(cell.id, grains.get(cell.id, 0.05))
        _wash(scene, cell, colour, white, shot, scale, rng, coarse, fine, grain)
        if rng.random() < shot.bleed:
            bled.append(cell.id)
            _bloom(scene, cell, white, scale, rng)
    for x, y, width, height in sheet.black_mm:
        box = np.round(np.array([x, y, x + width, y + height]) * scale * 16).astype(int)
        cv2.rectangle(
            scene, box[:2].tolist(), (box[2:] - 16).tolist(), (0.02, 0.02, 0.02), -1, cv2.LINE_AA, 4
        )
    scene *= (1.0 + 0.012 * shot.grain * _smooth_noise(shape, 0.6 * scale, rng))[..., None]
    return scene, bled


def _pencil(scene: Array, sheet: Sheet, shot: Exposure, scale: float) -> None:
    thick = max(1, round(0.3 * scale))
    level = 1.0 - (1.0 - _PENCIL) * shot.pencil
    overlay = np.ones(scene.shape[:2], dtype=np.float32)
    for cell in sheet.cells:
        points = np.round(np.array(cell.outline_mm) * scale * 16).astype(np.int32)
        cv2.polylines(overlay, [points], True, (level,), thick, cv2.LINE_AA, 4)
    writing = np.full(scene.shape[:2], 255, dtype=np.uint8)
    for label in sheet.labels:
        x, y = (round(value * scale) for value in label.at_mm)
        size = label.size_mm * scale / 30.0
        cv2.putText(writing, label.text, (x, y), cv2.FONT_HERSHEY_SIMPLEX, size, (80,), thick)
    scene *= (overlay * (writing / np.float32(255.0)))[..., None]


def _wash(
    scene: Array,
    cell: Cell,
    colour: Array,
    white: Array,
    shot: Exposure,
    scale: float,
    rng: np.random.Generator,
    coarse: Array,
    fine: Array,
    grain: float | Array,
) -> None:
    """One wash: its film is uneven, its rim darker, its area mean the colour asked for.

    It granulates, or has the (n, 3) linear colours that its pigments have from the hills of the paper to its hollows.
    """
    x, y, w, h = cell.box_mm
    left, top = max(0, int((x - 1) * scale)), max(0, int((y - 1) * scale))
    right, bottom = int((x + w + 1) * scale) + 1, int((y + h + 1) * scale) + 1
    part = scene[top:bottom, left:right]
    moved = Cell(
        cell.id, tuple((px - left / scale, py - top / scale) for px, py in cell.outline_mm), cell.recipe
    )
    mask = _mask(moved, scale, part.shape[:2], rng, shot.edges)
    inside = cv2.distanceTransform(mask, cv2.DIST_L2, 3) / scale
    film = 1.0 + 0.04 * coarse[top:bottom, left:right]
    share = None if cell.fade_mm is None else _fading(cell, part.shape[:2], scale, left, top)
    there = np.maximum(_by_tooth(colour, grain, fine[top:bottom, left:right], share), 1e-4)
    if not isinstance(grain, np.ndarray):
        film = film + 0.5 * grain * fine[top:bottom, left:right]
    film = np.maximum(film, 0.05) * (1.0 + 0.25 * shot.edges * np.exp(-inside / 0.4))
    if share is not None and not isinstance(grain, np.ndarray):
        film = film * share
    ground = np.minimum(part, white)  # pencil and ink show through
    through = there / white if cell.ground != INK else np.ones(3, dtype=np.float32)
    painted = ground * through ** film[..., None]
    if cell.ground == INK:
        painted = np.broadcast_to(there, part.shape) * film[..., None] ** 0.2
    core = inside > min(1.2, 0.2 * min(w, h))
    if cell.fade_mm is None and core.any():
        clean = core & (np.abs(ground - np.median(ground[core], axis=0)).max(axis=-1) < 0.02)
        if clean.any():
            painted = painted * (colour / np.maximum(painted[clean].mean(axis=0), 1e-5))
    part[mask > 0] = painted[mask > 0]


def _by_tooth(colour: Array, grain: float | Array, tooth: Array, share: Array | None) -> Array:
    """The colour of a wash over the paper's tooth: everywhere the same, or as its pigments settle; (3,) or (h, w, 3).

    Of a band that fades it is known at each share of its film.
    """
    if not isinstance(grain, np.ndarray):
        return colour
    places = np.clip(tooth, SETTLED[0], SETTLED[-1])
    if share is not None:
        steps = (
            np.interp(np.log(share), np.log(FADED), np.arange(len(FADED))),
            np.interp(places, SETTLED, np.arange(len(SETTLED))),
        )
        across, down = (np.ascontiguousarray(step, dtype=np.float32) for step in steps)
        return np.asarray(cv2.remap(grain.astype(np.float32), across, down, cv2.INTER_LINEAR))
    return np.stack([np.interp(places, SETTLED, grain[:, axis]) for axis in range(3)], axis=-1)


def _fading(cell: Cell, shape: tuple[int, int], scale: float, left: int, top: int) -> Array:
    """The film's share along a band that fades to clear water, (h, w) float."""
    assert cell.fade_mm is not None
    start, end = np.array(cell.fade_mm[0]), np.array(cell.fade_mm[1])
    rows, columns = np.mgrid[: shape[0], : shape[1]]
    way = end - start
    along = ((columns + left) / scale - start[0]) * way[0] + ((rows + top) / scale - start[1]) * way[1]
    return np.asarray(np.clip(1.0 - along / float(way @ way), 0.02, 1.0))


def _bloom(scene: Array, cell: Cell, white: Array, scale: float, rng: np.random.Generator) -> None:
    """Water from a neighbour ran into a corner of the cell: paler there, with a darker rim."""
    x, y, w, h = cell.box_mm
    middle = np.array([x + w * rng.choice([0.05, 0.95]), y + h * rng.choice([0.05, 0.95])]) * scale
    reach = 0.3 * min(w, h) * scale
    left, top = (max(0, int(v - 1.3 * reach)) for v in middle)
    part = scene[top : int(middle[1] + 1.3 * reach), left : int(middle[0] + 1.3 * reach)]
    rows, columns = np.mgrid[: part.shape[0], : part.shape[1]]
    away = np.hypot(columns + left - middle[0], rows + top - middle[1]) / reach
    pale = np.clip(1.0 - away, 0.0, 1.0) * 0.7
    part += (white - part) * pale[..., None].astype(np.float32)
    part *= (1.0 - 0.15 * np.exp(-(((away - 1.0) / 0.08) ** 2)))[..., None].astype(np.float32)


# ---- the camera


class _Lens:
    """A hand-held camera above a slightly bent sheet."""

    def __init__(self, sheet: Sheet, shot: Exposure, height_px: int) -> None:
        self.size = (shot.width_px, height_px)
        self.middle = np.array([sheet.paper.width_mm, sheet.paper.height_mm]) / 2.0
        self.half_width = self.middle[0]
        self.curl_mm = shot.curl_mm
        diagonal = float(np.hypot(*(2.0 * self.middle)))
        toward, tilt, roll = (np.radians(v) for v in (shot.toward_deg, shot.tilt_deg, shot.roll_deg))
        axis = np.array([np.cos(toward), np.sin(toward), 0.0])
        lean = cv2.Rodrigues(axis * tilt)[0]
        turn = cv2.Rodrigues(np.array([0.0, 0.0, roll]))[0]
        self.rotation = lean @ turn
        self.distance = 1.25 * diagonal
        self.focal = 1.0
        self.offset = np.zeros(2)
        box = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * 2.0 * self.middle
        outer = self.to_pixels(box)
        low, high = outer.min(axis=0), outer.max(axis=0)
        scale = float(np.min(np.array(self.size) * np.sqrt(shot.fill) / (high - low)))
        self.focal = scale
        self.offset = np.array(self.size) / 2.0 - (low + high) / 2.0 * scale

    def to_pixels(self, points_mm: Array) -> Array:
        """Where points of the sheet fall in the picture, (n, 2) float."""
        flat = np.asarray(points_mm, dtype=float) - self.middle
        z = self.curl_mm * (1.0 - (flat[..., 0] / self.half_width) ** 2)
        solid = np.concatenate([flat, z[..., None]], axis=-1) @ self.rotation.T
        depth = self.distance - solid[..., 2:]
        return np.asarray(self.focal * self.distance * solid[..., :2] / depth + self.offset)

    def sheet_positions(self) -> Array:
        """Which point of the sheet each pixel sees, in mm, (h, w, 2) float32."""
        columns = np.arange(0, self.size[0] + _STEP, _STEP)
        rows = np.arange(0, self.size[1] + _STEP, _STEP)
        wanted = np.stack(np.meshgrid(columns, rows), axis=-1).astype(float)
        box = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * 2.0 * self.middle
        back = cv2.getPerspectiveTransform(self.to_pixels(box).astype(np.float32), box.astype(np.float32))
        found: Array = np.asarray(cv2.perspectiveTransform(wanted, back), dtype=float)
        for _ in range(6):
            seen = self.to_pixels(found)
            found = found + cv2.perspectiveTransform(wanted, back) - cv2.perspectiveTransform(seen, back)
        big = cv2.warpAffine(
            found.astype(np.float32),
            np.array([[_STEP, 0, 0], [0, _STEP, 0]], dtype=float),
            self.size,
            flags=cv2.INTER_LINEAR,
        )
        return np.asarray(big)


def _light(shot: Exposure, where: Array, sheet: Sheet, height_px: int, rng: np.random.Generator) -> Array:
    """How bright each pixel is lit, (h, w) float32, 1 at the brightest."""
    rows, columns = np.mgrid[:height_px, : shot.width_px].astype(np.float32)
    radius = np.hypot(columns - shot.width_px / 2, rows - height_px / 2) / np.hypot(
        shot.width_px / 2, height_px / 2
    )
    light = 1.0 - shot.falloff * radius**2
    half = np.array([sheet.paper.width_mm, sheet.paper.height_mm]) / 2.0
    u, v = (where[..., 0] - half[0]) / half[0], (where[..., 1] - half[1]) / half[1]
    side = rng.uniform(0, 2 * np.pi)
    light = light * (1.0 + shot.second_lamp * np.clip(np.cos(side) * u + np.sin(side) * v, -1.6, 1.6) / 2.0)
    if shot.shadow:
        angle, at, soft = rng.uniform(0, 2 * np.pi), rng.uniform(-0.4, 0.4), rng.uniform(0.15, 0.4)
        across = np.cos(angle) * u + np.sin(angle) * v - at
        light = light * (1.0 - shot.shadow / (1.0 + np.exp(-across / soft * 4.0)))
    return np.asarray(light / light.max(), dtype=np.float32)


def _shine(picture: Pixels, lens: _Lens, sheet: Sheet, shot: Exposure, rng: np.random.Generator) -> list[str]:
    """A lamp mirrored in a spot of some cells."""
    shining = []
    for cell in sheet.cells:
        if rng.random() >= shot.glare:
            continue
        shining.append(cell.id)
        x, y, w, h = cell.box_mm
        spot = lens.to_pixels(np.array([[x + w * rng.uniform(0.2, 0.8), y + h * rng.uniform(0.2, 0.8)]]))[0]
        reach = 0.12 * min(w, h) * lens.focal
        size = max(3, int(3 * reach))
        left, top = int(spot[0] - size), int(spot[1] - size)
        part = picture[max(0, top) : top + 2 * size, max(0, left) : left + 2 * size]
        rows, columns = np.mgrid[: part.shape[0], : part.shape[1]]
        away = np.hypot(columns + max(0, left) - spot[0], rows + max(0, top) - spot[1]) / reach
        part += (0.35 * np.exp(-(away**2)))[..., None].astype(np.float32)
    return shining
