"""A chart that was painted before it could be planned: lines laid over a picture of it, and names, become a sheet.

Its lines lie where the hand ruled them: they are shares of the block's width and height, not equal ones. Nothing is known of
its size, so that a cell is taken to be CELL_MM wide; what is read of it does not depend on that.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np

from culmo.core.chart.kind import SecondHalf, second_recipe
from culmo.core.chart.papers import LARGEST_MM, SMALLEST_MM, Paper
from culmo.core.chart.sheet import Cell, Ruling, Sheet, SheetText
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import FULL, TINT, Layer, Part, Recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.words import tr

KIND = "old"
CELL_MM, _MARGIN_MM, _LABEL_MM = 20.0, 22.0, 3.2
MOST_LINES = 40
_LEAST_CELL = 0.004  # of the block's side
NEAR_STEPS = 4  # of those in which an edge is sought, between it and the places whose colours are held against each other
_ARC = np.radians(4.0)


class Shape(StrEnum):
    """What is laid over the picture."""

    GRID = "grid"
    ROW = "row"
    WHEEL = "wheel"


@dataclass(frozen=True)
class OldChart:
    """What is laid over a picture.

    Attributes
    ----------
    shape : Shape
    corners : (4, 2) tuple of the block's corners in pixels, clockwise from the top left; of a wheel those of the square
        about it
    across, down : tuple of float, 0..1, the lines from left to right and from above, the outer ones too; of a wheel `down`
        are the radii from the inner edge to the outer one, and `across` the edges of its sectors in turns from the top
    gap : float, 0..0.45, of a cell's side, how much of it is bare along each line
    names_across, names_down : tuple of str, what each column and row is painted with; recipes, or empty. Of a wheel
        `names_across` are its sectors
    alike : bool, whether the rows hold the same paints as the columns
    second : str, what lies in the half of a grid above the diagonal, as `second_recipe` takes it
    turned : bool, whether that half lies below the diagonal
    extra : str, the paint that it adds
    washes : tuple of float, of a wheel's rings from the inner one, of a row's rows
    """

    shape: Shape
    corners: tuple[tuple[float, float], ...]
    across: tuple[float, ...]
    down: tuple[float, ...]
    gap: float = 0.0
    names_across: tuple[str, ...] = ()
    names_down: tuple[str, ...] = ()
    alike: bool = True
    second: str = SecondHalf.PALER
    turned: bool = False
    extra: str = ""
    washes: tuple[float, ...] = (FULL,)

    @property
    def columns(self) -> int:
        """How many columns or sectors."""
        return len(self.across) - 1

    @property
    def rows(self) -> int:
        """How many rows or rings."""
        return len(self.down) - 1


def begin(shape: Shape, width: int, height: int, columns: int, rows: int) -> OldChart:
    """Even lines over the middle of a picture of so many pixels."""
    w, h = 0.7 * width, 0.7 * height
    if shape is Shape.WHEEL:
        w = h = 0.8 * min(width, height)
    if shape is Shape.ROW:
        h = min(h, w / max(columns, 1) * rows)
    x, y = (width - w) / 2, (height - h) / 2
    corners = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
    chart = OldChart(shape, corners, (0.0, 1.0), (0.0, 1.0))
    return with_count(chart, columns, rows)


def with_count(chart: OldChart, columns: int, rows: int) -> OldChart:
    """The same with so many columns and rows, evenly spaced where their number changed; names stay.

    Raises
    ------
    CulmoError
        when there are too few or too many
    """
    for count in (columns, rows):
        if not 1 <= count <= MOST_LINES:
            raise CulmoError(tr("a chart has 1 to {n} rows and columns", n=MOST_LINES))
    across, down = chart.across, chart.down
    if columns != chart.columns:
        across = tuple(float(v) for v in np.linspace(across[0], across[0] + 1.0, columns + 1))
    if rows != chart.rows:
        first = 0.35 if chart.shape is Shape.WHEEL else 0.0
        down = tuple(float(v) for v in np.linspace(first, 1.0, rows + 1))
    washes = (*chart.washes, *(chart.washes[-1:] * rows))[:rows]
    if chart.shape is Shape.WHEEL and len(chart.washes) != rows:
        washes = tuple(float(v) for v in np.geomspace(TINT, FULL, rows)) if rows > 1 else (FULL,)
    return replace(
        chart,
        across=across,
        down=down,
        washes=washes,
        names_across=_fitted(chart.names_across, columns),
        names_down=_fitted(chart.names_down, rows),
    )


def _fitted(names: Sequence[str], count: int) -> tuple[str, ...]:
    return (*names, *([""] * count))[:count]


def moved_line(chart: OldChart, down: bool, place: int, to: float) -> OldChart:
    """The same with one line moved, between its neighbours.

    Parameters
    ----------
    chart : OldChart
    down : bool, whether it is one of `down`
    place : int
    to : float, 0..1
    """
    lines = list(chart.down if down else chart.across)
    low = (
        lines[place - 1] + _LEAST_CELL if place else (0.0 if down or chart.shape is not Shape.WHEEL else -1.0)
    )
    high = lines[place + 1] - _LEAST_CELL if place + 1 < len(lines) else (1.0 if place else low)
    if chart.shape is Shape.WHEEL and not down:
        if place in (0, len(lines) - 1):  # the seam: all of the wheel turns
            shift = to - lines[place]
            return replace(chart, across=tuple(line + shift for line in chart.across))
    elif place in (0, len(lines) - 1) and not (chart.shape is Shape.WHEEL and place == 0):
        return chart  # the outer lines are moved by the corners
    lines[place] = float(np.clip(to, low, max(low, high)))
    return replace(chart, down=tuple(lines)) if down else replace(chart, across=tuple(lines))


def _size_mm(chart: OldChart) -> tuple[float, float]:
    """The block's width and height, by its shape in the picture."""
    corners = np.array(chart.corners)
    sides = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    if chart.shape is Shape.WHEEL:
        side = CELL_MM * max(6.0, 3.0 * chart.rows + 2.0)
        return side, side
    width = CELL_MM * chart.columns
    height = width * float((sides[1] + sides[3]) / max(sides[0] + sides[2], 1e-6))
    return width, height


def homography(chart: OldChart) -> Array:
    """From the sheet's millimetres to the picture's pixels, (3, 3) float."""
    width, height = _size_mm(chart)
    x, y = _MARGIN_MM, _MARGIN_MM
    places = np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]])
    rows = []
    for (px, py), (u, v) in zip(places, np.array(chart.corners), strict=True):
        rows.append([px, py, 1, 0, 0, 0, -u * px, -u * py, -u])
        rows.append([0, 0, 0, px, py, 1, -v * px, -v * py, -v])
    found = np.linalg.svd(np.array(rows))[2][-1].reshape(3, 3)
    return np.asarray(found / found[2, 2])


def outlines(chart: OldChart) -> list[Array]:
    """The outlines of all cells in millimetres, row by row from above, or ring by ring from within, (k, 2) float each."""
    width, height = _size_mm(chart)
    found = []
    for top, bottom in zip(chart.down[:-1], chart.down[1:], strict=True):
        for left, right in zip(chart.across[:-1], chart.across[1:], strict=True):
            inset_x, inset_y = chart.gap * (right - left) / 2.0, chart.gap * (bottom - top) / 2.0
            box = (left + inset_x, top + inset_y, right - inset_x, bottom - inset_y)
            found.append(_sector(box, width) if chart.shape is Shape.WHEEL else _oblong(box, width, height))
    return found


def _oblong(box: tuple[float, float, float, float], width: float, height: float) -> Array:
    left, top, right, bottom = box
    shares = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    return _MARGIN_MM + shares * [width, height]


def _sector(box: tuple[float, float, float, float], width: float) -> Array:
    start, inner, end, outer = box
    count = max(2, int(abs(end - start) * 2 * np.pi / _ARC) + 1)
    turn = np.linspace(start, end, count) * 2 * np.pi
    way = np.stack([np.sin(turn), -np.cos(turn)], axis=1) * width / 2.0
    return _MARGIN_MM + width / 2.0 + np.concatenate([outer * way, inner * way[::-1]])


# ---- what is painted


def recipes(chart: OldChart) -> list[Recipe | None]:
    """What each cell is painted with, in the order of `outlines`; None where it is left bare, or nothing was said.

    Raises
    ------
    CulmoError
        when a name can not be read as a recipe, or the second half lacks the paint it adds
    """
    across = [_recipe(name) for name in _fitted(chart.names_across, chart.columns)]
    if chart.shape is not Shape.GRID:
        filled = _steps_between(across, chart.shape is Shape.WHEEL)
        return [
            recipe.with_wash(round(recipe.layers[0].wash * wash, 4)) if recipe is not None else None
            for wash in _washes(chart)
            for recipe in filled
        ]
    if chart.alike:
        return [_of_alike(chart, across, r, c) for r in range(chart.rows) for c in range(chart.columns)]
    down = [_recipe(name) for name in _fitted(chart.names_down, chart.rows)]
    return [_both(row, column) for row in down for column in across]


def _washes(chart: OldChart) -> tuple[float, ...]:
    return (*chart.washes, *(chart.washes[-1:] or (FULL,)) * chart.rows)[: chart.rows]


def _recipe(name: str) -> Recipe | None:
    return parse_recipe(name) if name.strip() else None


def _of_alike(chart: OldChart, paints: list[Recipe | None], row: int, column: int) -> Recipe | None:
    """A cell of a grid whose rows and columns hold the same paints: pure on the diagonal."""
    one = paints[row] if row < len(paints) else None
    other = paints[column]
    if one is None or other is None or row == column:
        return one if row == column else None
    if (column > row) is not chart.turned and one.is_pure and other.is_pure:
        return second_recipe(chart.second, chart.extra, one.names[0], other.names[0])
    if (column > row) is not chart.turned and chart.second == SecondHalf.EMPTY:
        return None
    return _both(one, other)


def _both(one: Recipe | None, other: Recipe | None) -> Recipe | None:
    """Two recipes in equal parts; where one is not said, the other alone."""
    if one is None or other is None:
        return one or other
    return _mixed(one, other, 1, 1)


def _mixed(one: Recipe, other: Recipe, of_one: float, of_other: float) -> Recipe:
    parts: dict[str, float] = {}
    for recipe, weight in ((one, of_one), (other, of_other)):
        layer = recipe.layers[0]
        total = sum(part.parts for part in layer.parts)
        for part in layer.parts:
            parts[part.name] = parts.get(part.name, 0.0) + weight * part.parts / total
    least = min(parts.values())
    wash = (of_one * one.layers[0].wash + of_other * other.layers[0].wash) / (of_one + of_other)
    shares = tuple(Part(name, round(amount / least, 3)) for name, amount in parts.items())
    return Recipe((Layer(shares, round(wash, 4)),))


def _steps_between(named: list[Recipe | None], round_about: bool) -> list[Recipe | None]:
    """Where places between two that were named are empty, they hold the steps between them."""
    places = [i for i, recipe in enumerate(named) if recipe is not None]
    found = list(named)
    pairs = list(pairwise(places))
    if round_about and len(places) > 1:
        pairs.append((places[-1], places[0] + len(named)))
    for start, end in pairs:
        one, other = named[start], named[end % len(named)]
        assert one is not None and other is not None
        for step in range(start + 1, end):
            found[step % len(named)] = _mixed(one, other, end - step, step - start)
    return found


def old_sheet(chart: OldChart, title: str) -> Sheet:
    """The chart as a sheet; cells of which nothing was said are left out.

    Raises
    ------
    CulmoError
        when nothing was said of any cell, or a recipe can not be read
    """
    painted = recipes(chart)
    if not any(painted):
        raise CulmoError(
            tr("name the paints of the rows and columns first; a chart without names can not teach")
        )
    width, height = _size_mm(chart)
    sides = (width + 2 * _MARGIN_MM, height + 2 * _MARGIN_MM)
    if not all(SMALLEST_MM <= side <= LARGEST_MM for side in sides):
        raise CulmoError(tr("the chart is too long and thin: its four corners can not be right"))
    paper = Paper(tr("old sheet"), round(sides[0], 2), round(sides[1], 2))
    name = _ring_id if chart.shape is Shape.WHEEL else _cell_id
    cells = tuple(
        Cell(
            name(place // chart.columns, place % chart.columns),
            tuple((round(float(x), 4), round(float(y), 4)) for x, y in outline),
            recipe,
        )
        for place, (outline, recipe) in enumerate(zip(outlines(chart), painted, strict=True))
        if recipe is not None
    )
    frame = (_MARGIN_MM, _MARGIN_MM, width, height)
    ruling = Ruling(
        tuple(_MARGIN_MM + share * width for share in chart.across),
        tuple(_MARGIN_MM + share * height for share in chart.down),
    )
    if chart.shape is Shape.WHEEL:
        middle = _MARGIN_MM + width / 2.0
        ruling = Ruling(
            circles_mm=tuple((middle, middle, share * width / 2.0) for share in chart.down if share > 0)
        )
    return Sheet(
        title.strip() or tr("Old chart"), KIND, paper, frame, cells, _labels(chart, width, height), ruling
    )


def _cell_id(row: int, column: int) -> str:
    return f"r{row + 1:02d}c{column + 1:02d}"


def _ring_id(ring: int, sector: int) -> str:
    return f"w{ring + 1}p{sector + 1:02d}"


def _labels(chart: OldChart, width: float, height: float) -> tuple[SheetText, ...]:
    """The names beside the rows and above the columns, as they were given."""
    if chart.shape is Shape.WHEEL:
        return ()
    found = []
    for place, name in enumerate(_fitted(chart.names_across, chart.columns)):
        middle = (chart.across[place] + chart.across[place + 1]) / 2.0
        if name:
            found.append(SheetText(name, (_MARGIN_MM + middle * width, _MARGIN_MM - 1.5), -45.0, _LABEL_MM))
    rows = chart.names_across if chart.alike and chart.shape is Shape.GRID else chart.names_down
    for place, name in enumerate(_fitted(rows, chart.rows)):
        middle = (chart.down[place] + chart.down[place + 1]) / 2.0
        if name and chart.shape is Shape.GRID:
            found.append(SheetText(name, (2.0, _MARGIN_MM + middle * height + 1.0), 0.0, _LABEL_MM))
    return tuple(found)


# ---- lines in the picture


def line_mm(chart: OldChart, down: bool, share: float, count: int = 80) -> Array:
    """Places along a line that lies at a share, (count, 2) float, mm: a column's or a row's edge, a spoke or a circle.

    Parameters
    ----------
    chart : OldChart
    down : bool, whether it is one of `down`
    share : float
    count : int
    """
    width, height = _size_mm(chart)
    run = (np.arange(count) + 0.5) / count
    if chart.shape is not Shape.WHEEL:
        at = np.full(count, share)
        shares = np.stack([run, at] if down else [at, run], axis=1)
        return np.asarray(_MARGIN_MM + shares * [width, height])
    turn = 2 * np.pi * (run if down else np.full(count, share))
    reach = np.full(count, share) if down else chart.down[0] + run * (chart.down[-1] - chart.down[0])
    way = np.stack([np.sin(turn), -np.cos(turn)], axis=1)
    return np.asarray(_MARGIN_MM + width / 2.0 + reach[:, None] * way * width / 2.0)


def share_at(chart: OldChart, down: bool, place_mm: Array, near: float) -> float:
    """At which share a line lies that runs through a place.

    Parameters
    ----------
    chart : OldChart
    down : bool
    place_mm : (2,) float
    near : float, a share; of a wheel's spokes the turn nearest to it is meant
    """
    width, height = _size_mm(chart)
    away = np.asarray(place_mm, dtype=float) - _MARGIN_MM
    if chart.shape is not Shape.WHEEL:
        return float(away[1] / height if down else away[0] / width)
    away = away / (width / 2.0) - 1.0
    if down:
        return float(np.hypot(*away))
    turn = float(np.arctan2(away[0], -away[1]) / (2 * np.pi))
    return turn + round(near - turn)


def beside_mm(chart: OldChart, down: bool, place: int, aspect: float) -> Array:
    """The oblong of paper beside a row, or above a column, where its name may be written, (4, 2) float, mm.

    Parameters
    ----------
    chart : OldChart
    down : bool, whether it is a row
    place : int
    aspect : float, the oblong's width against its height
    """
    width, height = _size_mm(chart)
    if down:
        middle = (chart.down[place] + chart.down[place + 1]) / 2.0 * height
        wide = 1.5 * _MARGIN_MM
        left, right, top, bottom = -wide, 0.0, middle - wide / aspect / 2.0, middle + wide / aspect / 2.0
    else:
        left, right = chart.across[place] * width, chart.across[place + 1] * width
        top, bottom = -(right - left) / aspect, 0.0
    return _MARGIN_MM + np.array([[left, top], [right, top], [right, bottom], [left, bottom]])


def reframed(chart: OldChart, corners: Array) -> OldChart:
    """The same with its corners at other shares of its block; the lines within stay where they are in the picture.

    Parameters
    ----------
    chart : OldChart
    corners : (4, 2) float, shares, clockwise from the top left
    """
    width, height = _size_mm(chart)
    at = np.column_stack([_MARGIN_MM + corners * [width, height], np.ones(4)]) @ homography(chart).T
    left, right = corners[[0, 3], 0].mean(), corners[[1, 2], 0].mean()
    top, bottom = corners[:2, 1].mean(), corners[2:, 1].mean()
    across = (np.array(chart.across) - left) / (right - left)
    down = (np.array(chart.down) - top) / (bottom - top)
    across[[0, -1]], down[[0, -1]] = [0.0, 1.0], [0.0, 1.0]
    return replace(
        chart,
        corners=tuple((float(x), float(y)) for x, y in at[:, :2] / at[:, 2:]),
        across=tuple(float(v) for v in across),
        down=tuple(float(v) for v in down),
    )


def snapped(chart: OldChart, edge: Callable[[bool, Array], Array]) -> OldChart:
    """The same with each line moved to where the picture has an edge along it, no further than a third of a cell.

    The outer ones turn, too: each half of them goes to its own edge.

    Parameters
    ----------
    chart : OldChart
    edge : function of (down, shares (k,)) that gives how sharply the picture changes at places along lines there, (k, n)
    """
    found: dict[bool, list[float]] = {}
    outer: dict[tuple[bool, bool], tuple[float, float]] = {}
    for down in (False, True):
        lines = np.array(chart.down if down else chart.across)
        cells = np.diff(lines)
        found[down] = []
        for place, line in enumerate(lines):
            reach = 0.33 * min(cells[max(place - 1, 0)], cells[min(place, len(cells) - 1)])
            shares = line + np.linspace(-reach, reach, 61)
            level = edge(down, shares)
            found[down].append(_sharpest(level, shares, float(line)))
            if place in (0, len(lines) - 1):
                half = level.shape[1] // 2
                one, other = (
                    _sharpest(part, shares, found[down][-1]) for part in (level[:, :half], level[:, half:])
                )
                if abs(one - other) > reach:
                    one = other = found[down][-1]
                outer[down, place > 0] = (one - (other - one) / 2.0, other + (other - one) / 2.0)
    if chart.shape is Shape.WHEEL:
        for down in (False, True):
            for place, share in enumerate(found[down]):
                if place < chart.rows if down else 0 < place < chart.columns:
                    chart = moved_line(chart, down, place, share)
        return chart
    inner = replace(
        chart,
        across=(chart.across[0], *found[False][1:-1], chart.across[-1]),
        down=(chart.down[0], *found[True][1:-1], chart.down[-1]),
    )
    ends = ((False, False), (True, False), (True, True), (False, True))
    return reframed(
        inner, np.array([_crossing(outer[False, right], outer[True, low]) for right, low in ends])
    )


def _sharpest(level: Array, shares: Array, line: float) -> float:
    """Where a line lies best, by how sharp the picture is at places along it; where it is if nothing is plain."""
    # an edge is seen from both sides of it: its middle is where it is seen most about
    about = np.convolve(
        np.pad(level.mean(axis=1), NEAR_STEPS, mode="edge"), np.ones(2 * NEAR_STEPS + 1), "valid"
    )
    near = about * (1.6 - np.abs(np.linspace(-1.0, 1.0, len(shares))))
    best = int(near.argmax())
    return float(shares[best]) if near[best] > 1.8 * np.median(near) else line


def _crossing(upright: tuple[float, float], level: tuple[float, float]) -> tuple[float, float]:
    """Where an upright line (given by its ends above and below) and a level one (left and right) cross, in shares."""
    lean, slope = upright[1] - upright[0], level[1] - level[0]
    x = (upright[0] + lean * level[0]) / (1.0 - lean * slope)
    return x, level[0] + slope * x
