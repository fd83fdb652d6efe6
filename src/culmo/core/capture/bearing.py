"""Whether a picture bears out that a sheet lies so in it: judged by what is painted, never by what is still bare.

The plan says where paint may be and where paper stays bare. Where two places next to each other really differ, and an
outline runs between them, there must be an edge on that outline; what the plan leaves bare must be paper. A cell that
nobody has painted says nothing. A place that is wrong fails by one of the two: its outlines miss the edges, or paint lies
where paper should be.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from culmo.core.capture.photo import Pixels
from culmo.core.capture.placement import EdgeField, Placement, flatten
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array, Flags, Indices

PER_MM = 2.0
_RIM_MM = 0.8  # of a cell, that is not looked at for its colour: the brush stops short, and lines are thick
_CLEAR_MM = 2.2  # about cells, where paper need not be bare
_EDGE_MM = 7.0  # along the paper's edge, which the hand may have missed
_EDGE_SHARE = 0.05  # of the paper's shorter side, at most: a strip has little bare paper but along its edge
_RING_MM = 9.0  # about the painted block, where paint counts most
_PAINTED = 0.09  # in logs of light from the paper's, from which on a place is painted
_STEP = 0.12  # in logs of light, from which on two neighbours must show an edge between them
_SPILT, _TINTED = 0.22, 0.1
_SHADED = 0.6  # what is darker and not tinted may be a shadow, and counts for less
_FEW_CELLS, _FEW_POINTS = 3, 24
_REACH_MM = 1.4

PLAIN_SUPPORT, PLAIN_SPILL, PLAIN_STRAYS = 0.9, 0.09, 0.3
# a plan of finer cells than there are finds few of its outlines between unlike colours
PLAIN_DRAWN, FAIR_DRAWN = 0.7, 0.35
FAIR_SUPPORT, FAIR_SPILL, FAIR_STRAYS = 0.65, 0.3, 0.38


@dataclass(frozen=True)
class Bearing:
    """What a picture says to a placement.

    Attributes
    ----------
    support : float, 0..1, the share of the outlines between unlike places at which there is an edge
    spill : float, 0..1, the share of what should be bare paper that is not, about the block and on all of the paper
    strays : float, 0..1, the share of the painted cells that an edge runs through
    painted : float, 0..1, the share of the cells that are painted
    points : int, how many places of outlines the support rests on
    cells : int, how many painted cells
    drawn : float, 0..1, the share of their outlines at which the colour changes at all
    contrast : float, how much sharper the outlines are than the insides of cells; about 1 by chance
    """

    support: float
    spill: float
    strays: float
    painted: float
    points: int
    cells: int
    contrast: float
    drawn: float = 0.0

    @property
    def enough(self) -> bool:
        """Whether there is enough paint to tell."""
        return self.cells >= _FEW_CELLS and self.points >= _FEW_POINTS

    @property
    def plain(self) -> bool:
        """Whether the sheet plainly lies so."""
        return (
            self.enough
            and self.support >= PLAIN_SUPPORT
            and self.spill <= PLAIN_SPILL
            and self.strays <= PLAIN_STRAYS
            and self.drawn >= PLAIN_DRAWN
        )

    @property
    def fair(self) -> bool:
        """Whether the sheet may well lie so, and the painter is to be asked."""
        return (
            self.enough
            and self.support >= FAIR_SUPPORT
            and self.spill <= FAIR_SPILL
            and self.strays <= FAIR_STRAYS
            and self.drawn >= FAIR_DRAWN
        )

    @property
    def score(self) -> float:
        """To choose among several by; what is painted counts a little: a sheet that is shifted by a row looks bare there."""
        if not self.cells:
            return 0.0
        held = self.support**3 * (1.0 - self.spill) ** 4 * (0.6 + 0.4 * self.painted)
        return held * (1.0 - 0.4 * self.strays) * min(self.contrast, 10.0) / 10.0


class SoughtPlan:
    """Where a sheet's plan has paint, outlines and bare paper, as small pictures of it.

    Attributes
    ----------
    cells : (h, w) int, the number of the cell whose inside lies there, from 1; 0 where there is none
    bare, ring : (h, w) bool, where paper stays bare, and where it does next to the block
    """

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        width, height = round(sheet.paper.width_mm * PER_MM), round(sheet.paper.height_mm * PER_MM)
        self.count = len(sheet.cells)
        self.cells: Indices = np.zeros((height, width), dtype=np.int32)
        taken: Pixels = np.zeros((height, width), dtype=np.uint8)
        rim = 2 * round(_RIM_MM * PER_MM) + 1
        for number, cell in enumerate(sheet.cells, start=1):
            points = np.round(np.array(cell.outline_mm) * PER_MM * 16).astype(np.int32)
            x, y, w, h = cell.box_mm
            left, top = max(0, int(x * PER_MM) - 1), max(0, int(y * PER_MM) - 1)
            right, bottom = int((x + w) * PER_MM) + 2, int((y + h) * PER_MM) + 2
            own = np.zeros(taken[top:bottom, left:right].shape, dtype=np.uint8)
            if not own.size:
                continue
            cv2.fillPoly(own, [points - 16 * np.array([left, top], dtype=np.int32)], 1, shift=4)
            taken[top:bottom, left:right] |= own
            inner = cv2.erode(
                cv2.copyMakeBorder(own, 1, 1, 1, 1, cv2.BORDER_CONSTANT), np.ones((rim, rim), np.uint8)
            )
            inner = inner[1:-1, 1:-1]
            self.cells[top:bottom, left:right][(inner if inner.any() else own) > 0] = number
        self.block: Flags = taken > 0
        for x, y, w, h in sheet.covered_mm:
            low, high = (np.round(np.array(v) * PER_MM).astype(int) for v in ((x, y), (x + w, y + h)))
            taken[max(0, low[1]) : high[1], max(0, low[0]) : high[0]] = 1
        clear = 2 * round(_CLEAR_MM * PER_MM) + 1
        bare = cv2.dilate(taken, np.ones((clear, clear), np.uint8)) == 0
        edge = max(
            1, round(min(_EDGE_MM, _EDGE_SHARE * min(sheet.paper.width_mm, sheet.paper.height_mm)) * PER_MM)
        )
        bare[:edge], bare[-edge:], bare[:, :edge], bare[:, -edge:] = False, False, False, False
        near = 2 * round(_RING_MM * PER_MM) + 1
        self.bare = np.asarray(bare)
        self.ring = np.asarray(bare & (cv2.dilate(taken, np.ones((near, near), np.uint8)) > 0))
        self.at, self.normal, self.inner, self.sides = self._outlines()

    def _outlines(self) -> tuple[Array, Array, Array, Indices]:
        """Places on outlines with their normals and their cells, and rows of places within."""
        at, normal, inner, owner = [], [], [], []
        rows = np.linspace(0.25, 0.95, 9)
        for number, cell in enumerate(self.sheet.cells):
            points = np.array(cell.outline_mm)
            middle = points.mean(axis=0)
            for start, end in zip(points, np.roll(points, -1, axis=0), strict=True):
                run = end - start
                length = float(np.hypot(*run))
                if length < 1e-6:
                    continue
                # corners say nothing of a direction; the short pieces of a round outline are asked once
                count = max(1, int((length - 3.0) / 3.0))
                along = (
                    np.linspace(1.6 / length, 1 - 1.6 / length, count) if length > 3.4 else np.array([0.5])
                )
                across = np.array([run[1], -run[0]]) / length
                places = start + along[:, None] * run
                across = across * np.sign(float(across @ (places.mean(axis=0) - middle)) or 1.0)
                at.append(places)
                normal.append(np.broadcast_to(across, places.shape))
                inner.append(places[:, None] + rows[None, :, None] * (middle - places)[:, None])
                owner.append(np.full(len(places), number))
        parts = [np.concatenate(part) for part in (at, normal, inner, owner)]
        some = slice(None, None, 1 + len(parts[0]) // 2400)
        return parts[0][some], parts[1][some], parts[2][some], parts[3][some]


def bear_out(pixels: Pixels, placement: Placement, plan: SoughtPlan) -> Bearing:
    """Hold a placement against the picture.

    Parameters
    ----------
    pixels : (h, w, 3) uint8
    placement : Placement, in its pixels
    plan : SoughtPlan
    """
    flat = flatten(pixels, placement, PER_MM)
    seen = _seen(pixels.shape, placement, flat.shape[:2])
    log = np.log(cv2.GaussianBlur(flat, (0, 0), 0.6 * PER_MM).astype(np.float32) / 255.0 + 0.03)
    bare = plan.bare & seen
    paper = _paper(log, bare)
    if paper is None:
        return Bearing(0.0, 1.0, 1.0, 0.0, 0, 0, 1.0)
    away = log - paper
    tinted = np.ptp(away, axis=2) > _TINTED
    spilt = np.where(tinted, 1.0, _SHADED) * (np.abs(away).max(axis=2) > _SPILT)
    ring = plan.ring & seen
    spill = max(float(spilt[bare].mean()), float(spilt[ring].mean()) if ring.any() else 0.0)
    numbers = plan.cells * seen
    count = np.bincount(numbers.ravel(), minlength=plan.count + 1)[1:]
    sums = [np.bincount(numbers.ravel(), away[..., i].ravel(), plan.count + 1)[1:] for i in range(3)]
    colour = np.stack(sums, axis=1) / np.maximum(count, 1)[:, None]
    there = count >= 6
    painted = there & (np.abs(colour).max(axis=1) > _PAINTED)
    return _held(flat, away, seen, plan, colour, there, painted, spill)


def _held(
    flat: Pixels,
    away: Array,
    seen: Flags,
    plan: SoughtPlan,
    colour: Array,
    there: Flags,
    painted: Flags,
    spill: float,
) -> Bearing:
    """How the outlines of painted cells are borne out."""
    field = EdgeField(flat, PER_MM)
    near = np.linspace(-_REACH_MM, _REACH_MM, 13)
    outside = _colours_at(away, plan.at + 2.4 * plan.normal)
    own = plan.sides
    step = np.abs(colour[own] - outside).max(axis=1)
    asked = painted[own] & (step > _STEP) & _within(seen, plan.at)
    peak = field.along(plan.at, plan.normal, near).max(axis=1)
    inside = field.across(plan.inner, plan.normal)
    of_painted = painted[own] & _within(seen, plan.at)
    noise = float(np.median(inside[of_painted])) if of_painted.any() else 0.0
    strong = peak > 2.6 * noise + 1e-3
    usual = float(np.median(peak[asked & strong])) if (asked & strong).any() else np.inf
    level = max(float(np.mean(np.minimum(inside[of_painted], 2.0))), 1e-4) if of_painted.any() else 1.0
    return Bearing(
        support=float(strong[asked].mean()) if asked.any() else 0.0,
        spill=spill,
        strays=float((inside[of_painted].max(axis=1) > 0.6 * usual).mean()) if of_painted.any() else 0.0,
        painted=float(painted.sum() / max(there.sum(), 1)),
        points=int(asked.sum()),
        cells=int(painted.sum()),
        contrast=float(np.mean(np.minimum(peak[asked], 2.0))) / level if asked.any() else 1.0,
        drawn=float(asked.sum() / max(of_painted.sum(), 1)),
    )


def _seen(shape: tuple[int, ...], placement: Placement, size: tuple[int, int]) -> Flags:
    """Which of the flattened sheet the picture reaches, (h, w) bool."""
    step = 8
    columns, rows = np.meshgrid(np.arange(0, size[1] + step, step), np.arange(0, size[0] + step, step))
    at = placement.to_pixels(np.stack([columns + 0.5, rows + 0.5], axis=-1) / PER_MM)
    inside = ((at >= 0.0) & (at <= np.array([shape[1], shape[0]]) - 1.0)).all(axis=2).astype(np.uint8)
    return np.asarray(np.kron(inside, np.ones((step, step), np.uint8))[: size[0], : size[1]] > 0)


def _within(seen: Flags, at: Array) -> Flags:
    x, y = (at * PER_MM).astype(int).T
    fits = (x >= 0) & (y >= 0) & (x < seen.shape[1]) & (y < seen.shape[0])
    return np.asarray(fits & seen[np.clip(y, 0, seen.shape[0] - 1), np.clip(x, 0, seen.shape[1] - 1)])


def _colours_at(away: Array, at: Array) -> Array:
    x, y = (at * PER_MM - 0.5).astype(np.float32).T
    found = cv2.remap(away, x[None], y[None], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found[0], dtype=float)


def _paper(log: Array, bare: Flags) -> Array | None:
    """The light of bare paper everywhere, as logs (h, w, 3): a parabola through what is lightest of it."""
    rows, columns = np.nonzero(bare[::6, ::6])
    if len(rows) < 60:
        return None
    rows, columns = rows * 6, columns * 6
    height, width = bare.shape
    own = _terms(columns / width, rows / height)
    level = log[rows, columns].astype(float)
    bright = level.mean(axis=1)
    weight = np.ones(len(level))
    solution = np.zeros((own.shape[1], 3))
    for turn in range(6):
        if turn == 0:
            weight = (bright > np.quantile(bright, 0.4)).astype(float)
        scaled = own * weight[:, None]
        solution = np.linalg.solve(own.T @ scaled + 0.02 * np.diag([0.01, 1, 1, 3, 3, 3]), scaled.T @ level)
        left = level - own @ solution
        off = left.mean(axis=1)
        spread = np.clip(1.4826 * np.median(np.abs(off)), 0.02, 0.08)
        # writing, paint and the table are darker than paper
        weight = 1.0 / (1.0 + (off / np.where(off < 0, 1.5 * spread, 3.0 * spread)) ** 2) ** 2
        weight *= 1.0 / (1.0 + (np.abs(left - off[:, None]).max(axis=1) / 0.08) ** 2)
    every = _terms(
        np.tile(np.arange(width) / width, (height, 1)).ravel(), np.repeat(np.arange(height) / height, width)
    )
    return np.asarray((every @ solution).reshape(height, width, 3), dtype=np.float32)


def _terms(u: Array, v: Array) -> Array:
    u, v = 2.0 * u - 1.0, 2.0 * v - 1.0
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=1)
