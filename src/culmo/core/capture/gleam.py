"""Light that is thrown back by the gloss of paint: found within the cells, where bare paper shows nothing of it.

A gleam adds the same light to a dark part of a cell as to a pale one, and to all three channels alike. A wash that dried
thinner lets more through of what it lets through least; a lamp that shines brighter multiplies all. Within one cell the
three can be told apart, and what is added must lie on one soft patch over all cells of the sheet.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from scipy.optimize import minimize

from culmo.core.capture.cells import Sampler
from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.readings import INK

_FILM = 0.10  # how much the parts of a wash differ in strength, standard deviation
_LAMP = 0.012  # and in light, in logs, where it was evened out
_NOISE = 0.004  # of the light of a part, relative to the paper
_PARTS = 3  # a side
_STEP_MM = 11.0
_BROAD_MM = (18.0, 28.0, 44.0, 68.0)
_ALONG = 2.5  # the parts of a cell dry alike, so that they do not count for so many
_PLAIN = 30.0  # what a patch must explain, in squared standard deviations: some thousand patches are tried
_ENOUGH = 24  # parts
_MOST = 1.0  # light relative to the paper


@dataclass(frozen=True)
class Gleam:
    """A soft patch of light that lies on the paint; none where its light is 0.

    Attributes
    ----------
    light : float, relative to the bare paper, in its middle
    sure : float, how plainly it is seen, in squared standard deviations
    middle_mm, broad_mm : tuple of x and y
    edge : float, 1 or more: the higher, the flatter it is in the middle and the steeper at its edge
    turn : float, radians
    """

    light: float = 0.0
    sure: float = 0.0
    middle_mm: tuple[float, float] = (0.0, 0.0)
    broad_mm: tuple[float, float] = (1.0, 1.0)
    edge: float = 1.0
    turn: float = 0.0

    def at(self, places_mm: Array) -> Array:
        """The light that is added at places (n, 2), (n,) float."""
        away = places_mm - np.array(self.middle_mm)
        turn = np.array([[np.cos(self.turn), -np.sin(self.turn)], [np.sin(self.turn), np.cos(self.turn)]])
        way = (((away @ turn) / np.array(self.broad_mm)) ** 2).sum(axis=-1)
        return np.asarray(self.light * np.exp(-0.5 * way**self.edge))


def find_gleam(sampler: Sampler, cells: Sequence[Cell], size_mm: tuple[float, float]) -> Gleam:
    """The patch of light that best explains what is added within the cells.

    Parameters
    ----------
    sampler : Sampler, whose light was set
    cells : sequence of Cell
    size_mm : tuple of float, the paper's width and height
    """
    seen = _added(sampler, cells)
    if len(seen.places) < _ENOUGH:
        return Gleam()
    columns, rows = (np.arange(0.5 * _STEP_MM, side, _STEP_MM) for side in size_mm)
    lines = [
        {broad: _bell((seen.places[:, axis] - middles[:, None]) / broad) for broad in _BROAD_MM}
        for axis, middles in enumerate((columns, rows))
    ]
    best = Gleam()
    for across, down in product(_BROAD_MM, repeat=2):
        if 0.4 <= across / down <= 2.5:
            shapes = (lines[0][across][:, None] * lines[1][down][None]).reshape(-1, len(seen.places))
            light, sure = seen.amounts(shapes)
            found = int(np.argmax(sure))
            if sure[found] > best.sure:
                column, row = divmod(found, len(rows))
                middle = (float(columns[column]), float(rows[row]))
                best = Gleam(float(light[found]), float(sure[found]), middle, (across, down))
    if best.sure < _PLAIN:
        return Gleam()
    return _refined(best, seen)


def _refined(gleam: Gleam, seen: "_Added") -> Gleam:
    start = np.array([*gleam.middle_mm, *np.log(gleam.broad_mm), 0.3, 0.0])

    def of(x: Array) -> Gleam:
        broad = np.exp(np.clip(x[2:4], 2.3, 4.6))
        edge = float(np.clip(np.exp(x[4]), 1.0, 4.0))
        shape = Gleam(
            1.0, 0.0, (float(x[0]), float(x[1])), (float(broad[0]), float(broad[1])), edge, float(x[5])
        )
        light, sure = seen.amounts(shape.at(seen.places)[None])
        return replace(shape, light=float(light[0]), sure=float(sure[0]))

    steps = np.diag([8.0, 8.0, 0.25, 0.25, 0.4, 0.4])
    simplex = np.vstack([start, start + steps])
    found = minimize(
        lambda x: -of(x).sure, start, method="Nelder-Mead",
        options={"initial_simplex": simplex, "maxfev": 160, "xatol": 0.1, "fatol": 0.5},
    )  # fmt: skip
    return of(found.x)


def _bell(way: Array) -> Array:
    return np.asarray(np.exp(-0.5 * way**2), dtype=np.float32)


@dataclass(frozen=True)
class _Added:
    """What is added to the parts of the cells, against the rest of each.

    Attributes
    ----------
    places : (k, 2) float, mm
    light : (k,) float, relative to the bare paper
    weight : (k,) float, one over the variance
    cell : (k,) int, in order
    """

    places: Array
    light: Array
    weight: Array
    cell: Indices

    def amounts(self, shapes: Array) -> tuple[Array, Array]:
        """The light of each of several patches (m, k), and how plainly it is seen without the two cells that say it most."""
        starts = np.flatnonzero(np.r_[True, np.diff(self.cell) > 0])
        own = np.repeat(np.arange(len(starts)), np.diff(np.r_[starts, len(self.cell)]))
        weight = self.weight.astype(np.float32)
        share = np.add.reduceat(weight, starts)
        left = shapes - (np.add.reduceat(shapes * weight, starts, axis=1) / share)[:, own]
        sharp = np.add.reduceat(weight * left**2, starts, axis=1)
        along = np.add.reduceat(weight * left * self.light.astype(np.float32), starts, axis=1)
        light = np.clip(along.sum(axis=1) / np.maximum(sharp.sum(axis=1), 1e-9), 0.0, _MOST)
        gain = np.sort(2.0 * light[:, None] * along - light[:, None] ** 2 * sharp, axis=1)
        return light, gain[:, :-2].sum(axis=1) / _ALONG


def _robust(added: Array, precision: Array) -> Array:
    if not len(added):
        return added
    off = added * np.sqrt(precision)
    spread = max(1.4826 * float(np.median(np.abs(off))), 0.5)
    return np.asarray(1.0 / (1.0 + (off / (6.0 * spread)) ** 2) / spread**2)


def _added(sampler: Sampler, cells: Sequence[Cell]) -> _Added:
    places: list[Array] = [np.zeros((0, 2))]
    light: list[Array] = [np.zeros(0)]
    precision: list[Array] = [np.zeros(0)]
    numbers: list[Indices] = [np.zeros(0, dtype=int)]
    for number, cell in enumerate(cells):
        if cell.fade_mm is not None or cell.ground == INK or cell.mixing:
            continue
        at, seen = sampler.light_of_parts(cell, _PARTS)
        if len(at) < _PARTS:
            continue
        middle = np.median(seen, axis=0)
        film = middle * np.log(np.clip(middle, 1e-3, 1.0))
        spread = _FILM**2 * np.outer(film, film) + _LAMP**2 * np.outer(middle, middle) + _NOISE**2 * np.eye(3)
        sharp = np.linalg.solve(spread, np.ones(3))
        places.append(at)
        light.append((seen - middle) @ sharp / sharp.sum())
        precision.append(np.full(len(at), sharp.sum()))
        numbers.append(np.full(len(at), number))
    added, precise = np.concatenate(light), np.concatenate(precision)
    return _Added(np.concatenate(places), added, precise * _robust(added, precise), np.concatenate(numbers))
