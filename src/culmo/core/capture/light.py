"""The light on a sheet, from its bare paper and from the evenness of its washes."""

from dataclasses import dataclass, field

import cv2
import numpy as np

from culmo.core.capture.photo import Photo, Pixels
from culmo.core.capture.placement import Placement
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array, Flags, Indices

BLOCK_MM = 3.0
_CLEAR_MM = 0.7  # this near a cell, paper is not taken for bare; writing is weighed down in the fit
_KNOTS = 9
_LEAST_BESIDE = 2  # patches about a cell, before the light beside it is judged
_MUCH_LOST = 0.15  # of all patches: no stain, but a shadow over a part of the sheet
_BURNT = 0.985  # of the picture's end: what is as bright may have been brighter
_LEAST_BLOCKS = 16
_PLANE_BLOCKS, _SLOPE = 60, 0.3
_TINT_TERMS = 6


@dataclass(frozen=True)
class LightField:
    """How bright and of what tint bare paper looks, everywhere on the sheet.

    Attributes
    ----------
    coefficients : (k*k,) float, of the brightness, in logs
    tint : (6, 3) float, polynomial coefficients of each channel beside it
    size_mm : tuple of width and height of the paper
    blocks : int, how many patches of bare paper it rests on
    uneven : float, what it could not explain of them, in logs
    reach : float, the darkest place against the brightest, 0..1
    places : (blocks, 2) float, mm, of the patches
    left : (blocks,) float, what it could not explain of the brightness of each, in logs
    burnt : float, 0..1, the share of the patches that are as bright as the picture can show
    dropped : (m, 2) float, mm, of the patches that were not taken for paper in the light
    """

    coefficients: Array
    tint: Array
    size_mm: tuple[float, float]
    blocks: int
    uneven: float
    reach: float
    places: Array = field(default_factory=lambda: np.zeros((0, 2)), repr=False)
    left: Array = field(default_factory=lambda: np.zeros(0), repr=False)
    burnt: float = 0.0
    dropped: Array = field(default_factory=lambda: np.zeros((0, 2)), repr=False)

    def tints_apart(self) -> float:
        """How far the tint of the light differs over the sheet, in the log of red against blue."""
        step = np.linspace(0.1, 0.9, 5)
        grid = np.stack(np.meshgrid(step, step), axis=-1).reshape(-1, 2) * np.array(self.size_mm)
        light = np.log(self.at(grid))
        return float(np.ptp(light[:, 0] - light[:, 2]))

    def beside(self, middle: Array, reach_mm: float) -> float:
        """How far bare paper about a place is from the light there, in logs; 0 where none is near.

        Paper that was dropped, since it is far darker than the rest, counts as far off: a hard shadow lies there.

        Parameters
        ----------
        middle : (2,) float, mm
        reach_mm : float
        """
        away, lost = (np.hypot(*(places - middle).T) for places in (self.places, self.dropped))
        near = away < reach_mm
        beside = int((lost < reach_mm).sum())
        much = len(lost) > _MUCH_LOST * (len(away) + len(lost))
        if (beside >= _LEAST_BESIDE and beside > near.sum()) or (
            much and lost.min() < away.min(initial=np.inf)
        ):
            return np.inf
        return float(np.median(self.left[near])) if near.sum() >= _LEAST_BESIDE else 0.0

    def rough(self, middle: Array, reach_mm: float) -> float:
        """How much bare paper about a place scatters about the light there, root mean square in logs; 0 where none is near.

        Parameters
        ----------
        middle : (2,) float, mm
        reach_mm : float
        """
        near = self.left[np.hypot(*(self.places - middle).T) < reach_mm]
        # a line of writing is no unevenness of the light
        return float(np.sqrt(np.mean(np.clip(near, -0.15, 0.15) ** 2))) if len(near) >= _LEAST_BESIDE else 0.0

    def beyond(self, points_mm: Array) -> Array:
        """Linear light where no bare paper is near, as on a card that lies there, (n, 3) float: a plane through the logs of
        the nearest patches of it, which a spline that nothing holds would leave.

        Parameters
        ----------
        points_mm : (n, 2) float
        """
        if self.blocks < _PLANE_BLOCKS:
            return self.at(points_mm)
        middle = points_mm.mean(axis=0)
        near = np.argsort(np.hypot(*(self.places - middle).T))[:_PLANE_BLOCKS]
        log = np.log(self.at(self.places[near])) + self.left[near, None]
        reach = np.array(self.size_mm)

        def terms(places: Array) -> Array:
            return np.column_stack([np.ones(len(places)), np.clip((places - middle) / reach, -1.0, 1.0)])

        own = terms(self.places[near])
        plane = np.linalg.solve(own.T @ own + np.diag([0.0, _SLOPE, _SLOPE]), own.T @ log)
        return np.asarray(np.exp(terms(points_mm) @ plane))

    def at(self, points_mm: Array) -> Array:
        """Linear light of bare paper at places, (..., 3) float.

        Parameters
        ----------
        points_mm : (..., 2) float
        """
        flat = np.asarray(points_mm, dtype=float).reshape(-1, 2)
        level = _brightness_terms(flat, self.size_mm) @ self.coefficients
        log = level[:, None] + _tint_terms(flat, self.size_mm) @ self.tint
        light: Array = np.exp(log)
        return light.reshape(*np.shape(points_mm)[:-1], 3)


def _unit(points: Array, size: tuple[float, float]) -> Array:
    return np.asarray(np.clip(points / np.array(size), -0.02, 1.02))


def _spline_terms(t: Array) -> Array:
    """Cubic B-splines over 0..1, (n, _KNOTS) float."""
    step = 1.0 / (_KNOTS - 3)
    away = np.abs(t[:, None] / step - (np.arange(_KNOTS) - 1.0))
    inner = 2.0 / 3.0 - away**2 + away**3 / 2.0
    outer = np.maximum(2.0 - away, 0.0) ** 3 / 6.0
    terms: Array = np.where(away < 1.0, inner, outer)
    return terms


def _brightness_terms(points: Array, size: tuple[float, float]) -> Array:
    unit = _unit(points, size)
    across, down = _spline_terms(unit[:, 0]), _spline_terms(unit[:, 1])
    return np.asarray((down[:, :, None] * across[:, None, :]).reshape(len(points), -1))


def _tint_terms(points: Array, size: tuple[float, float]) -> Array:
    u, v = (2.0 * _unit(points, size) - 1.0).T
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=1)


def _bending() -> Array:
    """What a brightness that is not a parabola costs, (k*k, k*k) float."""
    third = np.diff(np.eye(_KNOTS), 3, axis=0)
    second = np.diff(np.eye(_KNOTS), 2, axis=0)
    one = np.eye(_KNOTS)
    first = np.diff(one, 1, axis=0)
    along = np.kron(one, third.T @ third) + np.kron(third.T @ third, one)
    twist = np.kron(first.T @ first, second.T @ second) + np.kron(second.T @ second, first.T @ first)
    return np.asarray(along + twist)


def bare_mask(
    sheet: Sheet, per_mm: float, shape: tuple[int, int], placement: Placement, picture: tuple[int, int]
) -> Flags:
    """Where the plan leaves the paper bare and the picture shows it, (h, w) bool.

    Parameters
    ----------
    sheet : Sheet
    per_mm : float, pixels per millimetre of the flattened sheet
    shape : tuple of its height and width
    placement : Placement, where the sheet lies in the picture
    picture : tuple of the picture's width and height
    """
    taken: Pixels = np.zeros(shape, dtype=np.uint8)
    for cell in sheet.cells:
        points = np.round(np.array(cell.outline_mm) * per_mm * 16).astype(np.int32)
        cv2.fillPoly(taken, [points], 1, shift=4)
    for x, y, w, h in sheet.covered_mm:
        box = np.round(np.array([x - 0.5, y - 0.5, x + w + 0.5, y + h + 0.5]) * per_mm).astype(int)
        taken[max(0, box[1]) : box[3], max(0, box[0]) : box[2]] = 1
    reach = 2 * max(1, round(_CLEAR_MM * per_mm)) + 1
    taken = cv2.dilate(taken, np.ones((reach, reach), np.uint8))
    edge = max(2, round(2.5 * per_mm))
    bare = taken == 0
    bare[:edge], bare[-edge:], bare[:, :edge], bare[:, -edge:] = False, False, False, False
    return np.asarray(bare & _in_picture(per_mm, shape, placement, picture))


def _in_picture(
    per_mm: float, shape: tuple[int, int], placement: Placement, picture: tuple[int, int]
) -> Flags:
    step = 8
    columns, rows = np.meshgrid(np.arange(0, shape[1] + step, step), np.arange(0, shape[0] + step, step))
    at = placement.to_pixels(np.stack([columns + 0.5, rows + 0.5], axis=-1) / per_mm)
    far = np.minimum(at, np.array(picture) - 1.0 - at).min(axis=2)
    whole: Pixels = np.where(far >= 1.0, 1, 0).astype(np.uint8)
    inside = np.asarray(cv2.erode(whole, np.ones((3, 3), np.uint8)))  # what lies between the steps
    return np.asarray(np.kron(inside, np.ones((step, step), np.uint8))[: shape[0], : shape[1]] > 0)


@dataclass(frozen=True)
class _Blocks:
    at: Array  # (n, 2) mm
    log: Array  # (n, 3)
    burnt: Flags  # (n,)


def _bare_blocks(flat: Pixels, photo: Photo, bare: Flags, per_mm: float) -> _Blocks:
    """The middle colour of each patch of bare paper."""
    thin = 2 if per_mm >= 3.0 else 1
    side = max(2, round(BLOCK_MM * per_mm / thin))
    flat, bare = flat[::thin, ::thin], bare[::thin, ::thin]
    down, across = flat.shape[0] // side, flat.shape[1] // side
    shape = (down, side, across, side)
    cut = bare[: down * side, : across * side].reshape(shape).transpose(0, 2, 1, 3).reshape(-1, side * side)
    count = cut.sum(axis=1)
    enough = np.nonzero(count >= 0.15 * side * side)[0]
    if not len(enough):
        return _Blocks(np.zeros((0, 2)), np.zeros((0, 3)), np.zeros(0, dtype=bool))
    cut, count = cut[enough], count[enough]
    middle = np.empty((len(enough), 3), dtype=flat.dtype)
    for channel in range(3):
        levels = flat[: down * side, : across * side, channel].reshape(shape).transpose(0, 2, 1, 3)
        own = levels.reshape(-1, side * side)[enough].astype(np.int32)
        own = np.sort(np.where(cut, own, np.iinfo(np.int32).max), axis=1)
        middle[:, channel] = own[np.arange(len(own)), count // 2]
    number = np.arange(side * side)
    x = (cut * (number % side)).sum(axis=1) / count + (enough % across) * side + 0.5
    y = (cut * (number // side)).sum(axis=1) / count + (enough // across) * side + 0.5
    at = np.stack([x, y], axis=1) * thin / per_mm
    burnt = np.asarray((middle >= _BURNT * np.iinfo(flat.dtype).max).any(axis=1))
    return _Blocks(at, np.log(np.maximum(photo.linear(middle).astype(float), 1e-4)), burnt)


def light_field(
    flat: Pixels,
    photo: Photo,
    sheet: Sheet,
    per_mm: float,
    bare: Flags,
    patches: tuple[Array, Array, Indices] | None = None,
    rounds: int = 6,
) -> LightField:
    """Learn the light from a flattened picture.

    Parameters
    ----------
    flat : (h, w, 3) uint8 or uint16, the flattened sheet
    photo : Photo, for its colour space
    sheet : Sheet
    per_mm : float, pixels per millimetre of `flat`
    bare : (h, w) bool, where bare paper is seen
    patches : places (m, 2) in mm, logs of linear light (m,) and the cell (m,) of patches within cells; what their
        brightness does within one cell is the light's doing
    rounds : int, how often what does not fit is weighed down

    Returns
    -------
    LightField; with `blocks` 0 where no bare paper is seen: it is then flat, at the lightest of the picture
    """
    size = (sheet.paper.width_mm, sheet.paper.height_mm)
    blocks = _bare_blocks(flat, photo, bare, per_mm)
    lightest = photo.linear(np.quantile(flat[::7, ::7].reshape(-1, 3), 0.97, axis=0).astype(flat.dtype))
    keep = _like_paper(blocks)
    dropped = blocks.at[~keep]
    blocks = _Blocks(blocks.at[keep], blocks.log[keep], blocks.burnt[keep])
    if len(blocks.at) < _LEAST_BLOCKS:
        tint = np.zeros((_TINT_TERMS, 3))
        tint[0] = np.log(np.maximum(lightest, 1e-4))
        return LightField(np.zeros(_KNOTS**2), tint, size, 0, 0.0, 1.0)
    level = blocks.log.mean(axis=1)
    coefficients, weight = _fit_brightness(blocks.at, level, size, patches, rounds)
    explained = _brightness_terms(blocks.at, size) @ coefficients
    terms = _tint_terms(blocks.at, size)
    ridge = np.diag([0.0, 0.02, 0.02, 0.2, 0.2, 0.2]) * len(terms)
    left = blocks.log - explained[:, None]
    tint = np.linalg.solve(terms.T @ (weight[:, None] * terms) + ridge, terms.T @ (weight[:, None] * left))
    uneven = float(np.sqrt(np.average((left - terms @ tint) ** 2, weights=np.tile(weight[:, None], 3))))
    grid = np.stack(np.meshgrid(np.linspace(0.05, 0.95, 9), np.linspace(0.05, 0.95, 9)), -1).reshape(-1, 2)
    everywhere = _brightness_terms(grid * np.array(size), size) @ coefficients
    reach = float(np.exp(everywhere.min() - everywhere.max()))
    burnt = float(blocks.burnt.mean())
    return LightField(
        coefficients, tint, size, len(blocks.at), uneven, reach, blocks.at, level - explained, burnt, dropped
    )


def _like_paper(blocks: _Blocks) -> Flags:
    """Without what lies beside the sheet, or was written on it: far darker, or of another tint."""
    if not len(blocks.at):
        return np.zeros(0, dtype=bool)
    level = blocks.log.mean(axis=1)
    tint = blocks.log - level[:, None]
    high = np.quantile(level, 0.9)
    usual = np.median(tint[level > high - 0.9], axis=0)
    return np.asarray((level > high - 1.2) & (np.abs(tint - usual).max(axis=1) < 0.25))


def _fit_brightness(
    at: Array,
    level: Array,
    size: tuple[float, float],
    patches: tuple[Array, Array, Indices] | None,
    rounds: int,
) -> tuple[Array, Array]:
    terms = _brightness_terms(at, size)
    penalty = _bending() * 4.0 + np.eye(_KNOTS**2) * 1e-6
    rows, want, trust = [terms], [level], [np.full(len(at), 1.0 / 0.012)]
    if patches is not None and len(patches[0]):
        inner = _brightness_terms(patches[0], size)
        places, cell = patches[1].copy(), patches[2]
        for number in np.unique(cell):
            own = cell == number
            inner[own] -= inner[own].mean(axis=0)
            places[own] -= places[own].mean()
        rows.append(inner)
        want.append(places)
        trust.append(np.full(len(inner), 1.0 / 0.08))
    A, y, sharp = np.concatenate(rows), np.concatenate(want), np.concatenate(trust)
    weight = np.ones(len(y))
    solution = np.zeros(A.shape[1])
    for _ in range(rounds):
        W = (sharp**2 * weight)[:, None]
        solution = np.linalg.solve(A.T @ (W * A) + penalty, A.T @ (W[:, 0] * y))
        left = (y - A @ solution) * sharp
        paper = left[: len(at)]
        spread = max(1.4826 * float(np.median(np.abs(paper - np.median(paper)))), 0.5)
        # writing and dirt darken: what is darker than expected counts less than what is lighter
        cut = np.where(left < 0, 2.0, 3.5) * spread
        weight = 1.0 / (1.0 + (left / cut) ** 2) ** 2
    return np.asarray(solution), weight[: len(at)]
