"""Pictures of sheets from a world that knows nothing of the reader: another painter, another table, another camera.

It is given a sheet in its open form (docs/formats.md) and nothing else of the application. The paint is that of
`support.turbid`, light and colour are the colour-science package's, the drawing is Pillow's and the camera is a pinhole
before a surface in three dimensions. Each fault is mild or hard, and comes alone, upon a hand-held picture without much
to say against it.
"""

import io
from dataclasses import dataclass, field
from functools import cache

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from scipy import ndimage

from support.turbid import _colour

LOOKS = ("vivid", "tone mapped", "sharpened")  # what a camera's own taste does to colours
FAULTS = (
    "plain", "tilted", "turned", "lens", "cropped", "small", "blurred", "shaken", "noisy", "compressed",
    "dark", "bright", "corners dark", "light from a side", "two lights", "lamp", "hand's shadow", "soft shadow",
    "gleam", "buckled", "curled", "bare cells", "ragged", "half done", "ran together", "stained", "taped",
    "light table", "striped table", "cluttered", "toned paper", "heavy pencil", "ruled by hand", "granulating",
    "without colours", *LOOKS,
)  # fmt: skip
MILD, HARD = 0, 1
_LONG_PX = 2400


# ---- colour


@cache
def _srgb():
    space = _colour().RGB_COLOURSPACES["sRGB"]
    return np.asarray(space.matrix_XYZ_to_RGB), np.asarray(space.matrix_RGB_to_XYZ)


def _white_xyz():
    return _colour().xy_to_XYZ(_colour().CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"])


def linear_of(lab):
    """Linear sRGB of CIELAB, (..., 3) float, not clipped."""
    return _colour().Lab_to_XYZ(lab) @ _srgb()[0].T


def lab_of_linear(rgb):
    """CIELAB of linear sRGB, (..., 3) float."""
    return _colour().XYZ_to_Lab(np.asarray(rgb) @ _srgb()[1].T, _colour().XYZ_to_xy(_white_xyz()))


def difference(one, other):
    """CIEDE2000, by the colour-science package."""
    return _colour().delta_E(one, other, method="CIE 2000")


def _encoded(linear):
    return np.where(
        linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    )


# ---- fields of chance


def _clouds(rng, shape, size):
    """Noise with features of a size in pixels, mean 0 and standard deviation 1."""
    step = max(1, int(size / 2.5))
    small = ndimage.gaussian_filter(
        rng.standard_normal((shape[0] // step + 3, shape[1] // step + 3)), max(size / step / 2.5, 0.4)
    )
    zoomed = ndimage.zoom(small.astype(np.float32), step, order=1)[: shape[0], : shape[1]]
    return (zoomed - zoomed.mean()) / max(float(zoomed.std()), 1e-6)


# ---- what is on the paper


@dataclass
class Hand:
    """How the sheet is ruled and painted.

    Attributes
    ----------
    wobble_mm, short_mm : float, how unsteady outlines are, and by how much paint stops before the line
    bare : float, the share of cells that are left out
    done : float, the share of the sheet, from above, that is painted at all
    ran : float, the share of cells that have run into the next
    grain : float, unevenness of the film at a third of a millimetre
    pencil : float, what a line leaves of the light
    notes : int, remarks that are written on the paper
    off_mm : float, how far ruled lines are from where they were planned
    stains : int
    pools : float, by how much more paint dries at the lower end of a cell, since the board leans
    """

    wobble_mm: float = 0.2
    short_mm: float = 0.15
    bare: float = 0.0
    done: float = 1.0
    ran: float = 0.0
    grain: float = 0.05
    pencil: float = 0.55
    notes: int = 0
    off_mm: float = 0.0
    stains: int = 0
    pools: float = 0.0


@dataclass
class Painted:
    """A painted sheet seen straight on in even light.

    Attributes
    ----------
    light : (h, w, 3) float32, what it throws back, linear sRGB
    gloss : (h, w) float32, how much it shines, 0..1
    per_mm : float
    lab : dict from cell id to (3,) float, what it really is; of cells that were painted
    bare : frozenset of the ids of cells that were not
    at : function from places on the plan to where the hand ruled them, in mm
    """

    light: np.ndarray
    gloss: np.ndarray
    per_mm: float
    lab: dict
    bare: frozenset
    at: object


def _ruled(rng, size, off_mm):
    """Where a place of the plan came to lie: every line is a little off, and the block as a whole."""
    knots = np.linspace(0, 1, 6)
    across = np.cumsum(rng.normal(0, off_mm / 2.5, 6)) * (off_mm > 0)
    down = np.cumsum(rng.normal(0, off_mm / 2.5, 6)) * (off_mm > 0)
    shift = rng.normal(0, 1.5 * off_mm, 2)
    turn = rng.normal(0, off_mm / 150.0)

    def at(points):
        points = np.asarray(points, dtype=float)
        u, v = points[..., 0] / size[0], points[..., 1] / size[1]
        x = points[..., 0] + np.interp(u, knots, across - across.mean()) + shift[0] - turn * (points[..., 1])
        y = points[..., 1] + np.interp(v, knots, down - down.mean()) + shift[1] + turn * (points[..., 0])
        return np.stack([x, y], axis=-1)

    return at


def _unsteady(rng, outline, wobble, short):
    """An outline as a brush follows it."""
    outline = np.asarray(outline, dtype=float)
    middle, dense = outline.mean(axis=0), []
    for start, end in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        count = max(1, int(np.hypot(*(end - start)) / 1.2))
        dense.append(start + np.linspace(0, 1, count, endpoint=False)[:, None] * (end - start))
    dense = np.concatenate(dense)
    inward = middle - dense
    inward /= np.maximum(np.linalg.norm(inward, axis=1, keepdims=True), 1e-6)
    waves = ndimage.gaussian_filter1d(rng.standard_normal(len(dense)), 2.0, mode="wrap")
    waves *= wobble / max(float(waves.std()), 1e-6) if len(dense) > 6 else 0.0
    return dense + inward * (short + waves)[:, None]


def _area(outline, per_mm, shape):
    """The pixels within an outline: the slice of the sheet and the share of each pixel."""
    low = np.maximum(np.floor((outline.min(axis=0) - 1.0) * per_mm).astype(int), 0)
    high = np.ceil((outline.max(axis=0) + 1.0) * per_mm).astype(int)
    high = np.minimum(high, [shape[1], shape[0]])
    if (high - low < 3).any():
        return None, None
    fine = Image.new("L", tuple(int(v) for v in (high - low) * 2), 0)
    points = (outline * per_mm - low) * 2
    ImageDraw.Draw(fine).polygon([tuple(map(float, p)) for p in points], fill=255)
    share = np.asarray(fine.resize(tuple(int(v) for v in high - low), Image.Resampling.BOX)) / 255.0
    return (slice(low[1], high[1]), slice(low[0], high[0])), share.astype(np.float32)


def paint(sheet, linear, hand, rng, paper_lab=(96.0, 0.0, 2.0), per_mm=None):
    """Rule and paint a sheet.

    Parameters
    ----------
    sheet : dict, its open form
    linear : dict from cell id to (3,) float, the share of the paper's light that a cell is to throw back
    hand : Hand
    rng : numpy Generator
    paper_lab : (3,) float
    per_mm : float, pixels per millimetre
    """
    size = np.array([sheet["paper"]["width_mm"], sheet["paper"]["height_mm"]], dtype=float)
    per_mm = per_mm or (7.0 if size.max() < 330 else 5.0)
    shape = tuple(round(v * per_mm) for v in size[::-1])
    at = _ruled(rng, size, hand.off_mm)
    white = linear_of(np.array(paper_lab)).astype(np.float32)
    light = np.broadcast_to(white, (*shape, 3)).copy()
    light *= (1 + 0.008 * _clouds(rng, shape, 0.5 * per_mm))[..., None]
    gloss = np.full(shape, 0.25, dtype=np.float32)
    light *= _drawn(sheet, at, hand, per_mm, shape, rng)[..., None]
    for mark in sheet.get("marks_mm") or ():
        x, y, side = mark
        corners = np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]])
        where, share = _area(corners, per_mm, shape)
        light[where] *= 1 - 0.96 * share[..., None]
    for x, y, w, h in sheet.get("bars_mm") or ():
        # ruled by hand, filled with a brush
        bar = _unsteady(rng, at(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])), 0.15, 0.0)
        where, share = _area(bar, per_mm, shape)
        light[where] *= 1 - (0.95 + 0.01 * rng.standard_normal()) * share[..., None]
    cells = sheet["cells"]
    middles = np.array([np.mean(cell["outline_mm"], axis=0) for cell in cells])
    low, high = middles[:, 1].min(), middles[:, 1].max()
    undone = middles[:, 1] > low + hand.done * (high - low) + 1e-6
    left_out = undone | (rng.random(len(cells)) < hand.bare)
    for cell in cells:
        if cell["ground"] == "ink":
            _ink(light, at(np.array(cell["outline_mm"])), per_mm, shape)
    coarse, fine = _clouds(rng, shape, 5 * per_mm), _clouds(rng, shape, 0.6 * per_mm)
    lab, bare = {}, set()
    for cell, out in zip(cells, left_out, strict=True):
        if out or cell["id"] not in linear:
            bare.add(cell["id"])
            continue
        found = _wash(light, gloss, cell, linear[cell["id"]], at, hand, per_mm, rng, coarse, fine, white)
        if found is None:
            bare.add(cell["id"])
        else:
            lab[cell["id"]] = found
    _stain(light, gloss, hand, rng, per_mm)
    return Painted(light, gloss, per_mm, lab, frozenset(bare), at)


def _drawn(sheet, at, hand, per_mm, shape, rng):
    """Pencil lines and writing, as what they leave of the light."""
    picture = Image.new("L", (shape[1], shape[0]), 255)
    pen = ImageDraw.Draw(picture)
    x, y, w, h = sheet["frame_mm"]
    ruling, tone = sheet["ruling"], round(255 * hand.pencil)
    lines = [(v, y - 1, v, y + h + 1) for v in ruling["vertical_mm"]]
    lines += [(x - 1, v, x + w + 1, v) for v in ruling["horizontal_mm"]]
    lines += [tuple(line) for line in ruling["lines_mm"]]
    thick = max(1, round(0.35 * per_mm))
    for x0, y0, x1, y1 in lines:
        ends = at(np.array([[x0, y0], [x1, y1]])) * per_mm
        pen.line([tuple(map(float, p)) for p in ends], fill=tone, width=thick)
    for cx, cy, r in ruling["circles_mm"]:
        ring = np.linspace(0, 2 * np.pi, 90)
        points = at(np.stack([cx + r * np.cos(ring), cy + r * np.sin(ring)], axis=1)) * per_mm
        pen.line([tuple(map(float, p)) for p in points], fill=tone, width=thick)
    ink = round(255 * max(hand.pencil - 0.2, 0.1))
    for label in sheet["labels"]:
        _write(
            picture,
            label["text"],
            np.array(label["at_mm"]),
            label["angle_deg"],
            label["size_mm"],
            ink,
            per_mm,
        )
    for _ in range(hand.notes):
        text = rng.choice(
            ["too wet", "again!", "more water next time", "No. 7", "lovely green", "?? look at this"]
        )
        place = np.array([rng.uniform(0.02, 0.7) * shape[1], rng.uniform(0.03, 0.97) * shape[0]]) / per_mm
        _write(picture, str(text), place, rng.normal(0, 20), rng.uniform(4, 8), ink, per_mm)
    return np.asarray(picture.filter(ImageFilter.GaussianBlur(0.4)), dtype=np.float32) / 255.0


def _write(picture, text, place, angle, size_mm, ink, per_mm):
    font = ImageFont.load_default(max(6.0, size_mm * per_mm))
    box = font.getbbox(text)
    word = Image.new("L", (int(box[2]) + 6, int(size_mm * per_mm * 1.4) + 6), 0)
    ImageDraw.Draw(word).text((2, 2), text, fill=255, font=font)
    word = word.rotate(-angle, expand=True, resample=Image.Resampling.BILINEAR)
    turn = np.radians(angle)
    up = np.array([np.sin(turn), -np.cos(turn)]) * size_mm
    along = np.array([np.cos(turn), np.sin(turn)]) * box[2] / per_mm
    corners = np.array([place, place + up, place + along, place + along + up])
    left, top = corners.min(axis=0) * per_mm
    picture.paste(ink, (int(left), int(top)), word)


def _ink(light, outline, per_mm, shape):
    longer = np.array([0.0, 2.0])
    low, high = outline.min(axis=0) - longer, outline.max(axis=0) + longer
    bar = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    where, share = _area(bar, per_mm, shape)
    if where is not None:
        light[where] *= 1 - 0.95 * share[..., None]


def _wash(light, gloss, cell, target, at, hand, per_mm, rng, coarse, fine, white):
    """Lay one wash; returns the CIELAB of its middle as it dried, or None where there is too little of it."""
    planned = np.array(cell["outline_mm"])
    outline = _unsteady(rng, at(planned), hand.wobble_mm, hand.short_mm)
    where, share = _area(outline, per_mm, light.shape[:2])
    if where is None:
        return None
    depth = ndimage.distance_transform_edt(share > 0.5) / per_mm
    film = 1 + 0.05 * coarse[where] + hand.grain * fine[where] + 0.3 * np.exp(-depth / 0.45) * (depth > 0)
    film = film * (1 + rng.normal(0, 0.02))
    rows, columns = np.mgrid[where[0], where[1]]
    down = (rows - rows.min()) / max(np.ptp(rows), 1) - 0.5
    film = film * (
        1
        + hand.pools * down
        + rng.normal(0, 0.3 * hand.pools) * ((columns - columns.mean()) / max(np.ptp(columns), 1))
    )
    if cell["fade_mm"]:
        start, end = at(np.array(cell["fade_mm"]))
        way = end - start
        along = ((columns / per_mm - start[0]) * way[0] + (rows / per_mm - start[1]) * way[1]) / (way @ way)
        film = film * np.clip(1 - along, 0.01, 1.0)
    if rng.random() < hand.ran:
        middle = outline[rng.integers(len(outline))]
        away = np.hypot(columns / per_mm - middle[0], rows / per_mm - middle[1])
        reach = rng.uniform(2.0, 5.0)
        film = (
            film
            * (1 - 0.75 * np.clip(1 - away / reach, 0, 1))
            * (1 + 0.4 * np.exp(-(((away - reach) / 0.4) ** 2)))
        )
    passed = np.maximum(target, 1e-4)[None, None] ** np.clip(film, 0.02, 3.0)[..., None]
    if cell["ground"] == "ink":
        over = np.broadcast_to(np.maximum(target, 1e-4) * white, passed.shape)
    else:
        over = light[where] * passed
    light[where] += (over - light[where]) * share[..., None]
    gloss[where] = np.maximum(gloss[where], share * (0.5 + 0.5 * float(1 - target.mean())))
    core = depth > min(1.6, 0.4 * float(depth.max()))
    if cell["fade_mm"] or core.sum() < 20:
        return np.full(3, np.nan)
    return lab_of_linear(light[where][core].reshape(-1, 3).mean(axis=0))


def _stain(light, gloss, hand, rng, per_mm):
    height, width = light.shape[:2]
    for number in range(hand.stains):
        x, y = rng.uniform(0, width), rng.uniform(0, height)
        rows, columns = np.ogrid[:height, :width]
        away = np.hypot(columns - x, rows - y) / per_mm
        if number % 2:
            ring = np.exp(-(((away - 28.0) / 1.2) ** 2))
            light *= 1 - np.float32(0.35) * (ring[..., None] * np.array([0.4, 0.7, 1.0])).astype(np.float32)
        else:
            blot = np.clip(rng.uniform(2, 6) - away, 0, 1)
            light *= 1 - (blot[..., None] * rng.uniform(0.1, 0.8, 3)).astype(np.float32)


# ---- the table, the light and the camera


@dataclass
class Scene:
    """Where the sheet lies, how it is lit and how it is photographed.

    Attributes
    ----------
    long_px : int, the longer side of the picture
    tilt_deg, toward_deg, turn_deg : float
    fill : float, how much of the picture's side the sheet takes
    away : float, of the sheet's diagonal, how far the camera is
    lens : float, of the radius at the picture's corner, how far it is bent outwards
    shift : tuple of x, y, of the picture's sides, how far the sheet is off the middle
    waves_mm, curl_mm : float
    table : str, "grey", "dark", "wood", "cloth", "light" or "striped"
    clutter, tape : int
    side, corner, soft, hand, gleam : float, strength of what the light does
    lamp : (3,) float, gains of the light
    second : (3,) float or None, the other light's gains
    exposure : float, what white paper becomes where it is brightest
    noise, blur, shake : float
    quality : int, of the compression
    flare : float, the share of the picture's mean light that the lens spreads over all of it
    mixes : (3, 3) float, what the camera's own colours are of the true ones
    bend : float, the power of its curve
    """

    long_px: int = _LONG_PX
    tilt_deg: float = 6.0
    toward_deg: float = 0.0
    turn_deg: float = 0.0
    fill: float = 0.86
    away: float = 1.4
    lens: float = 0.0
    shift: tuple = (0.0, 0.0)
    waves_mm: float = 0.0
    curl_mm: float = 0.3
    table: str = "grey"
    clutter: int = 0
    tape: int = 0
    side: float = 0.1
    corner: float = 0.1
    soft: float = 0.0
    hand: float = 0.0
    gleam: float = 0.0
    lamp: tuple = (1.0, 1.0, 1.0)
    second: tuple | None = None
    exposure: float = 0.82
    noise: float = 0.004
    blur: float = 0.6
    shake: float = 0.0
    quality: int = 92
    look: str = ""
    flare: float = 0.0
    mixes: tuple = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    bend: float = 1.0


@dataclass
class Picture:
    """A picture with the truth about it.

    Attributes
    ----------
    file : bytes, a JPEG
    lab : dict from cell id to (3,) float
    bare : frozenset of ids
    ruled : (n, 2) float, mm, where the middles of the cells came to lie on the paper
    where, step : the places on the paper, in mm, that every so many pixels show
    corners : (4, 2) float, the frame's corners in pixels, clockwise from the top left
    size : tuple of width and height
    """

    file: bytes
    lab: dict
    bare: frozenset
    ruled: np.ndarray
    where: np.ndarray = field(repr=False)
    step: int
    corners: np.ndarray
    size: tuple

    def to_mm(self, pixels):
        """Where on the paper, in mm, pixels lie, (n, 2) float."""
        at = np.asarray(pixels, dtype=float)[:, ::-1].T / self.step
        return np.stack(
            [ndimage.map_coordinates(self.where[..., i], at, order=1, mode="nearest") for i in (0, 1)], 1
        )


class _View:
    """A pinhole above the table: from pixels to the paper's millimetres, and what stands up of the paper."""

    def __init__(self, size_mm, scene, rng):
        self.size, self.scene = size_mm, scene
        flat = abs(np.sin(np.radians(scene.turn_deg))) > 0.7
        wide, high = size_mm[::-1] if flat else size_mm
        longer = max(wide, high)
        self.px = (round(scene.long_px * wide / longer), round(scene.long_px * high / longer))
        if self.px[0] / self.px[1] > 0.6:  # phones take four to three
            ratio = 4 / 3 if wide > high else 3 / 4
            self.px = (
                (scene.long_px, round(scene.long_px / ratio))
                if ratio > 1
                else (round(scene.long_px * ratio), scene.long_px)
            )
        self.middle = size_mm / 2
        self.distance = scene.away * float(np.hypot(*size_mm))
        tilt, toward, turn = np.radians([scene.tilt_deg, scene.toward_deg, scene.turn_deg])
        spin = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
        axis = np.array([np.cos(toward), np.sin(toward), 0.0])
        cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
        lean = np.eye(3) + np.sin(tilt) * cross + (1 - np.cos(tilt)) * cross @ cross
        self.rotation = lean @ spin
        self.phase = rng.uniform(0, 2 * np.pi, 4)
        corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * size_mm
        seen = self._project(np.column_stack([corners, np.zeros(4)]))
        low, high = seen.min(axis=0), seen.max(axis=0)
        self.focal = scene.fill * float(np.min(np.array(self.px) / (high - low)))
        self.centre = (low + high) / 2

    def _project(self, solid):
        turned = (solid - [*self.middle, 0]) @ self.rotation.T
        return turned[..., :2] / (self.distance - turned[..., 2:])

    def height(self, x, y):
        """How far the paper stands up, in mm."""
        if not self.scene.waves_mm and not self.scene.curl_mm:
            return np.zeros_like(x)
        u, v = x / self.size[0], y / self.size[1]
        a, b, c, d = self.phase
        waves = np.sin(2 * np.pi * 1.3 * u + a) * np.sin(2 * np.pi * 0.9 * v + b) + 0.6 * np.sin(
            2 * np.pi * (1.7 * u + 1.1 * v) + c
        )
        edge = 1.2 - 0.5 * (
            ((2 * u - 1) ** 2) ** 2 * (2 * u - 1) ** 2 + ((2 * v - 1) ** 2) ** 2 * (2 * v - 1) ** 2
        )
        return self.scene.waves_mm * waves * edge + self.scene.curl_mm * (2 * u - 1) ** 2 * np.cos(d) ** 2

    def rays(self, pixels):
        """Directions of sight, in the paper's own space."""
        centred = (pixels - np.array(self.px) / 2 - np.array(self.scene.shift) * self.px) / (
            np.hypot(*self.px) / 2
        )
        straight = centred * (1 + self.scene.lens * (centred**2).sum(axis=-1, keepdims=True))
        plane = straight * (np.hypot(*self.px) / 2) / self.focal + self.centre
        ray = np.concatenate([plane, -np.ones((*plane.shape[:-1], 1))], axis=-1)
        return ray @ self.rotation  # the inverse turn

    def on_plane(self, pixels, height=0.0):
        """Where a ray meets a plane so high above the table."""
        eye = np.array([0, 0, self.distance]) @ self.rotation + [*self.middle, 0]
        ray = self.rays(pixels)
        far = (height - eye[2]) / ray[..., 2]
        return eye[:2] + ray[..., :2] * far[..., None]

    def on_paper(self, pixels):
        """Where a ray meets the paper as it stands."""
        at = self.on_plane(pixels)
        for _ in range(5):
            at = self.on_plane(pixels, self.height(at[..., 0], at[..., 1]))
        return at


def _table(scene, rng, size_mm):
    """What the sheet lies on, (h, w, 3) float at 1.5 pixels a millimetre, from one paper's length left of and above it."""
    per_mm, reach = 1.5, float(size_mm.max())
    side = [int((v + 2 * reach) * per_mm) for v in size_mm]
    shape = (side[1], side[0])
    base = {"grey": 0.2, "dark": 0.035, "wood": 0.42, "cloth": 0.5, "light": 0.72, "striped": 0.3}[
        scene.table
    ]
    base *= float(np.exp(rng.normal(0, 0.12)))
    tint = {"light": np.array([1.0, 0.99, 0.96]), "wood": np.array([1.25, 0.97, 0.68])}.get(
        scene.table, rng.uniform(0.85, 1.15, 3)
    )
    level = 1 + 0.08 * _clouds(rng, shape, 30) + 0.05 * _clouds(rng, shape, 3)
    if scene.table in ("wood", "cloth"):
        rows, columns = np.mgrid[: shape[0], : shape[1]]
        level = level * (
            1 + 0.12 * _clouds(rng, (shape[0] // 12 + 1, shape[1]), 4).repeat(12, axis=0)[: shape[0]]
        )
        if scene.table == "cloth":
            level = level * (1 + 0.25 * ((rows // 40 + columns // 40) % 2))
    if scene.table == "striped":
        rows, columns = np.mgrid[: shape[0], : shape[1]]
        turn = rng.uniform(-0.3, 0.3)
        run = columns * np.sin(turn) + rows * np.cos(turn)
        level = level * (1 + 0.45 * (np.sin(run / rng.uniform(5, 12) + 1.5 * _clouds(rng, shape, 60)) > 0.3))
        level = level * (1 + 0.5 * (np.sin(run / 70.0) > 0.92))
        tint = np.array([1.4, 0.95, 0.6])
    picture = (level[..., None] * base * tint).astype(np.float32)
    lying = Image.new("RGB", (shape[1], shape[0]))
    mask = Image.new("L", lying.size, 0)
    pens = ImageDraw.Draw(lying), ImageDraw.Draw(mask)
    for number in range(scene.clutter):
        _thing(pens, rng, number, size_mm, reach, per_mm)
    share = np.asarray(mask, dtype=np.float32)[..., None] / 255.0
    things = (np.asarray(lying, dtype=np.float32) / 255.0) ** 2.2
    return picture * (1 - share) + things * share, per_mm, reach


def _thing(pens, rng, number, size_mm, reach, per_mm):
    """A brush, a box of pans, another paper with swatches, a cloth: beside the sheet, near its edge."""
    side = rng.integers(4)
    gap, along = rng.uniform(2, 25), rng.uniform(0.0, 0.8)
    wide, high = [(8, 190), (110, 70), (120, 170), (140, 100)][number % 4]
    if side in (0, 2):
        wide, high = high, wide
        place = [along * size_mm[0], -gap - high if side == 0 else size_mm[1] + gap]
    else:
        place = [-gap - wide if side == 1 else size_mm[0] + gap, along * size_mm[1]]
    box = [(place[0] + reach) * per_mm, (place[1] + reach) * per_mm]
    box += [box[0] + wide * per_mm, box[1] + high * per_mm]
    kind = number % 4
    fill = [(60, 30, 20), (235, 235, 232), (240, 238, 230), tuple(int(v) for v in rng.integers(60, 200, 3))][
        kind
    ]
    for pen, colour in ((pens[0], fill), (pens[1], 255)):
        pen.rectangle(box, fill=colour)
    if kind in (1, 2):
        count = 5 if kind == 1 else 4
        step = [(box[2] - box[0]) / count, (box[3] - box[1]) / count]
        for i in range(count):
            for j in range(count):
                left, top = box[0] + (i + 0.15) * step[0], box[1] + (j + 0.15) * step[1]
                colour = tuple(int(v) for v in rng.integers(10, 240, 3))
                pens[0].rectangle([left, top, left + 0.7 * step[0], top + 0.7 * step[1]], fill=colour)


def _lit(scene, view, at, shape, rng):
    """The light on each pixel, (h, w, 3) float32."""
    rows, columns = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    radius = np.hypot(columns - shape[1] / 2, rows - shape[0] / 2) / (np.hypot(*shape) / 2)
    light = 1 - scene.corner * radius**2
    u, v = at[..., 0] / view.size[0] - 0.5, at[..., 1] / view.size[1] - 0.5
    angle = rng.uniform(0, 2 * np.pi)
    run = np.cos(angle) * u + np.sin(angle) * v
    light *= 1 / (1 + scene.side * np.clip(run + 0.7, 0, 2)) ** 2
    if scene.waves_mm or scene.curl_mm:
        here = view.height(at[..., 0], at[..., 1])
        slope = (view.height(at[..., 0] + 1, at[..., 1]) - here) * np.cos(angle) + (
            view.height(at[..., 0], at[..., 1] + 1) - here
        ) * np.sin(angle)
        light *= np.clip(1 + 1.2 * slope, 0.3, 1.7)
    if scene.soft:
        turn, place = rng.uniform(0, 2 * np.pi), rng.uniform(-0.25, 0.25)
        light *= 1 - scene.soft / (1 + np.exp(-(np.cos(turn) * u + np.sin(turn) * v - place) / 0.07))
    if scene.hand:
        light *= 1 - scene.hand * _hand_shadow(shape, rng, 4.0 if scene.hand < 0.4 else 1.5)
    colour = np.ones(3) * scene.lamp
    if scene.second is None:
        return light[..., None].astype(np.float32) * colour.astype(np.float32)
    share = np.clip(0.5 + 0.9 * (np.cos(angle + 1) * u + np.sin(angle + 1) * v), 0, 1)[..., None]
    return (light[..., None] * (colour * (1 - share) + np.asarray(scene.second) * share)).astype(np.float32)


def _hand_shadow(shape, rng, soft):
    """An arm and what it holds, from the lower edge."""
    height, width = shape
    picture = Image.new("L", (width // 4, height // 4), 0)
    pen = ImageDraw.Draw(picture)
    x, y = rng.uniform(0.3, 0.9) * width / 4, rng.uniform(0.35, 0.7) * height / 4
    broad = 0.1 * width / 4
    pen.polygon(
        [(x - broad, y), (x + broad, y), (x + 2.5 * broad, height / 4), (x + 0.5 * broad, height / 4)],
        fill=255,
    )
    pen.ellipse([x - 1.5 * broad, y - 1.6 * broad, x + 1.4 * broad, y + broad], fill=255)
    shade = picture.filter(ImageFilter.GaussianBlur(soft * width / 2400)).resize(
        (width, height), Image.Resampling.BILINEAR
    )
    return np.asarray(shade, dtype=np.float32) / 255.0


def photograph(sheet, painted, scene, rng):
    """Take the picture; returns a Picture."""
    size_mm = np.array([sheet["paper"]["width_mm"], sheet["paper"]["height_mm"]], dtype=float)
    view = _View(size_mm, scene, rng)
    width, height = view.px
    step = 6
    columns, rows = np.arange(0, width + step, step), np.arange(0, height + step, step)
    nodes = np.stack(np.meshgrid(columns, rows), axis=-1).astype(float)
    coarse, floor = view.on_paper(nodes), view.on_plane(nodes)
    grid = [axis.astype(np.float32) / step for axis in np.mgrid[:height, :width]]

    def wide(field):
        return np.stack([ndimage.map_coordinates(field[..., i], grid, order=1) for i in (0, 1)], -1)

    at, under = wide(coarse.astype(np.float32)), wide(floor.astype(np.float32))
    table, per_mm, reach = _table(scene, rng, size_mm)
    place = [(under[..., 1] + reach) * per_mm, (under[..., 0] + reach) * per_mm]
    light = np.stack(
        [ndimage.map_coordinates(table[..., i], place, order=1, mode="nearest") for i in range(3)], -1
    )
    edge = np.minimum(
        np.minimum(at[..., 0], size_mm[0] - at[..., 0]), np.minimum(at[..., 1], size_mm[1] - at[..., 1])
    )
    near = np.clip(1 + edge / 6.0, 0, 1) * (edge < 0)  # the paper's own shadow on the table
    light *= (1 - 0.25 * near)[..., None]
    inside = np.clip(edge * 4 + 0.5, 0, 1)[..., None]
    place = [at[..., 1] * painted.per_mm - 0.5, at[..., 0] * painted.per_mm - 0.5]
    sheet_light = np.stack(
        [ndimage.map_coordinates(painted.light[..., i], place, order=1, mode="nearest") for i in range(3)], -1
    )
    gloss = ndimage.map_coordinates(painted.gloss, place, order=1, mode="nearest")
    light = light * (1 - inside) + sheet_light * inside
    _tape(light, at, size_mm, scene, rng)
    light *= _lit(scene, view, at, (height, width), rng)
    if scene.gleam:
        light += (
            _gleam(scene, (height, width), rng) * (gloss * inside[..., 0] + 0.3 * (1 - inside[..., 0]))
        )[..., None]
    pixels = _developed(light, scene, rng)
    file = io.BytesIO()
    Image.fromarray(pixels).save(
        file, "JPEG", quality=scene.quality, subsampling=2 if scene.quality < 80 else 0
    )
    x, y, w, h = sheet["frame_mm"]
    frame = painted.at(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]))
    corners = np.array([_pixel_of(view, point) for point in frame])
    ruled = painted.at(np.array([np.mean(cell["outline_mm"], axis=0) for cell in sheet["cells"]]))
    return Picture(file.getvalue(), painted.lab, painted.bare, ruled, coarse, step, corners, (width, height))


def _pixel_of(view, point):
    """The pixel that shows a place of the paper, by Newton's steps."""
    pixel = np.array(view.px) / 2.0
    for _ in range(30):
        here, right, down = view.on_paper(pixel + np.array([[0, 0], [1.0, 0], [0, 1.0]]))
        pixel = pixel + np.clip(
            np.linalg.solve(np.column_stack([right - here, down - here]), point - here), -300, 300
        )
    return pixel


def _tape(light, at, size_mm, scene, rng):
    """Strips of tape over the paper's edges, torn at their ends."""
    for number in range(scene.tape):
        side = number % 4
        across = [at[..., 1], size_mm[0] - at[..., 0], size_mm[1] - at[..., 1], at[..., 0]][side]
        run = at[..., 0] if side % 2 == 0 else at[..., 1]
        length = size_mm[side % 2]
        low, high = sorted(rng.uniform(-0.05, 1.05, 2) * length)
        if high - low < 0.3 * length:
            low, high = -10.0, length + 10.0
        torn = 3 * np.sin(across * 2.0 + number) + np.sin(across * 5.1)
        on = (
            (across > -14)
            & (across < rng.uniform(4, 8) + 0.4 * np.sin(run / 9.0))
            & (run > low + torn)
            & (run < high - torn)
        )
        colour = rng.choice([[0.62, 0.5, 0.3], [0.2, 0.36, 0.6], [0.75, 0.74, 0.7]])
        light[on] = 0.12 * light[on] + 0.88 * np.asarray(colour, dtype=np.float32)


def _gleam(scene, shape, rng):
    """A window mirrored in the paint: a soft oblong patch."""
    rows, columns = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    x, y = rng.uniform(0.3, 0.7) * shape[1], rng.uniform(0.3, 0.7) * shape[0]
    broad = rng.uniform(0.1, 0.18) * shape[1]
    return scene.gleam * np.exp(-((((columns - x) / broad) ** 2 + ((rows - y) / (1.6 * broad)) ** 2) ** 2))


def _developed(light, scene, rng):
    """From light to the pixels of a file."""
    shape = light.shape[:2]
    light = np.nan_to_num(light) * np.float32(scene.exposure / 0.91)  # nan where a ray misses the table
    light = light + np.float32(scene.flare) * light.mean(axis=(0, 1))
    light = light @ np.asarray(scene.mixes, dtype=np.float32).T
    light = scene.exposure * np.maximum(light / scene.exposure, 0) ** scene.bend
    if scene.shake:
        length, turn = scene.shake, rng.uniform(0, np.pi)
        kernel = np.zeros((2 * int(length) + 3,) * 2, dtype=np.float32)
        for share in np.linspace(-0.5, 0.5, 60):
            kernel[
                int(length) + 1 + round(share * length * np.sin(turn)),
                int(length) + 1 + round(share * length * np.cos(turn)),
            ] += 1
        kernel /= kernel.sum()
        light = np.stack([ndimage.convolve(light[..., i], kernel, mode="nearest") for i in range(3)], -1)
    light = np.stack([ndimage.gaussian_filter(light[..., i], scene.blur) for i in range(3)], -1)
    grain = np.stack(
        [ndimage.gaussian_filter(rng.standard_normal(shape, dtype=np.float32), 0.6) for _ in range(3)], -1
    )
    light = light + scene.noise * 2.0 * grain * np.sqrt(np.maximum(light, 0) + 0.02)
    if scene.look == "tone mapped":
        bright = np.log(np.maximum(light.mean(axis=-1), 0.003))
        broad = ndimage.gaussian_filter(bright, 0.04 * max(shape))
        light = light * np.exp(-0.35 * (broad - np.quantile(broad, 0.8)))[..., None] * 0.95
    if scene.look == "without colours":
        light = np.repeat((light @ np.array([0.3, 0.59, 0.11], dtype=np.float32))[..., None], 3, axis=-1)
    seen = _encoded(np.clip(light, 0, 1.0))
    if scene.look == "vivid":
        seen = seen + 0.1 * np.sin(2 * np.pi * (seen - 0.5)) / np.pi * 2
        grey = seen.mean(axis=-1, keepdims=True)
        seen = grey + 1.3 * (seen - grey)
    if scene.look == "sharpened":
        soft = np.stack([ndimage.gaussian_filter(seen[..., i], 2.5) for i in range(3)], -1)
        seen = seen + 1.2 * (seen - soft)
    return np.round(np.clip(seen, 0, 1) * 255).astype(np.uint8)


# ---- faults


def conditions(fault, hard, rng):
    """The hand and the scene of a fault, mild or hard."""
    hand = Hand(
        wobble_mm=rng.uniform(0.15, 0.35), short_mm=rng.uniform(0.1, 0.4), off_mm=rng.uniform(0, 0.35),
        pools=rng.uniform(0, 0.25), grain=rng.uniform(0.03, 0.12), pencil=rng.uniform(0.35, 0.7),
        notes=int(rng.integers(2)),
    )  # fmt: skip
    mixes = rng.normal(0, 0.025, (3, 3))
    mixes -= np.diag(mixes.sum(axis=1))  # greys stay what they are
    scene = Scene(
        tilt_deg=rng.uniform(2, 14), toward_deg=rng.uniform(0, 360), turn_deg=rng.normal(0, 3), away=rng.uniform(1.2, 1.7),
        fill=rng.uniform(0.72, 0.93), shift=tuple(rng.normal(0, 0.01, 2)), lens=rng.uniform(-0.025, 0.01),
        waves_mm=rng.uniform(0, 0.8), curl_mm=rng.uniform(0, 2.0), side=rng.uniform(0, 0.3), corner=rng.uniform(0, 0.25),
        table=str(rng.choice(["grey", "dark", "wood", "wood", "cloth", "light", "striped"])),
        lamp=tuple(np.exp(rng.normal(0, 0.07, 3))), exposure=rng.uniform(0.65, 0.88), noise=rng.uniform(0.003, 0.009),
        blur=rng.uniform(0.6, 1.1), quality=int(rng.integers(78, 93)), flare=rng.uniform(0.002, 0.012),
        mixes=tuple(map(tuple, np.eye(3) + mixes)), bend=float(np.exp(rng.normal(0, 0.04))),
    )  # fmt: skip
    pick = (lambda mild, much: much) if hard else (lambda mild, much: mild)
    changes = {
        "tilted": {"tilt_deg": pick(20, 32), "away": pick(1.3, 1.1)},
        "turned": {
            "turn_deg": pick(90.0, 180.0) + rng.normal(0, 4) + (rng.integers(2) * 180 if not hard else 0)
        },
        "lens": {"lens": pick(-0.03, -0.08) * (1 if rng.random() < 0.7 else -1)},
        "cropped": {"shift": (pick(0.06, 0.11) * rng.choice([-1, 1]), 0.0), "fill": pick(0.9, 0.95)},
        "small": {"long_px": pick(1100, 800)},
        "blurred": {"blur": pick(2.5, 5.0)},
        "shaken": {"shake": pick(6.0, 14.0)},
        "noisy": {"noise": pick(0.02, 0.05)},
        "compressed": {"quality": pick(50, 22)},
        "dark": {"exposure": pick(0.3, 0.12), "noise": 0.008},
        "bright": {"exposure": pick(0.97, 1.25)},
        "corners dark": {"corner": pick(0.35, 0.6)},
        "light from a side": {"side": pick(0.4, 0.9)},
        "two lights": {"second": pick((1.15, 1.0, 0.78), (1.35, 0.98, 0.55))},
        "lamp": {"lamp": pick((1.2, 1.0, 0.68), (1.5, 1.0, 0.42)), "exposure": 0.65},
        "hand's shadow": {"hand": pick(0.3, 0.55)},
        "soft shadow": {"soft": pick(0.3, 0.55)},
        "gleam": {"gleam": pick(0.08, 0.3)},
        "buckled": {"waves_mm": pick(1.5, 4.0)},
        "curled": {"curl_mm": pick(4.0, 12.0)},
        "taped": {"tape": pick(2, 4)},
        "light table": {"table": "light", "exposure": pick(0.75, 0.9)},
        "striped table": {"table": "striped"},
        "cluttered": {"clutter": pick(3, 8), "fill": pick(0.75, 0.65)},
        "without colours": {"look": "without colours"},
    }.get(fault, {})
    if fault in LOOKS:
        changes = {"look": fault}
    for key, value in changes.items():
        setattr(scene, key, value)
    for key, value in {
        "bare cells": {"bare": pick(0.1, 0.35)},
        "ragged": {"wobble_mm": pick(0.6, 1.1), "short_mm": pick(0.4, 0.9)},
        "half done": {"done": pick(0.7, 0.45)},
        "ran together": {"ran": pick(0.15, 0.4)},
        "stained": {"stains": pick(3, 9)},
        "heavy pencil": {"pencil": pick(0.35, 0.15), "notes": pick(3, 10)},
        "ruled by hand": {"off_mm": pick(0.6, 1.4)},
        "granulating": {"grain": pick(0.2, 0.45)},
    }.get(fault, {}).items():
        setattr(hand, key, value)
    paper = (96.0, 0.0, 2.0)
    if fault == "toned paper":
        paper = pick((93.0, 1.0, 8.0), (86.0, 3.0, 16.0))
    return hand, scene, paper


def take(sheet, colours, fault, hard, seed, long_px=_LONG_PX):
    """A picture of a sheet with a fault.

    Parameters
    ----------
    sheet : dict, its open form
    colours : dict from cell id to (3,) float, the share of the paper's light that the dry cell is to throw back
    fault : str, one of FAULTS
    hard : bool
    seed : int
    long_px : int, the longer side of the picture, unless the fault says it

    Returns
    -------
    Picture, and the (3,) CIELAB of its paper
    """
    rng = np.random.default_rng([seed, FAULTS.index(fault), int(hard)])
    hand, scene, paper = conditions(fault, hard, rng)
    scene.long_px = min(scene.long_px, long_px)
    return photograph(sheet, paint(sheet, colours, hand, rng, paper), scene, rng), paper
