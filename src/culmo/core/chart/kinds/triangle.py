"""The triangle: three paints on a lattice of parts, with the greyest place marked."""

import math
from dataclasses import dataclass

import numpy as np

from culmo.core.chart.aids import Aids
from culmo.core.chart.box import shortened
from culmo.core.chart.kind import (
    Kind,
    about_round,
    label_texts,
    labels_option,
    need,
    paints_option,
    steps_option,
)
from culmo.core.chart.lengths import rounded_down
from culmo.core.chart.options import Options
from culmo.core.chart.page import Page, corner_marks
from culmo.core.chart.sheet import Cell, Point, Ruling, Sheet, SheetText
from culmo.core.paint.recipe import Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

_PAD_MM = 2.0
_SMALLEST_MM = 4.0


@dataclass(frozen=True)
class TriangleOptions(Options):
    """Three paints at the corners, and into how many parts the way between them is cut."""

    paints: tuple[str, ...] = paints_option()
    steps: int = steps_option(first=6)
    labels: str = labels_option()


def lattice(total: int) -> list[tuple[int, int, int]]:
    """All whole parts of three paints that add up to a total, row by row from the first paint's corner."""
    return [(total - row, row - i, i) for row in range(total + 1) for i in range(row + 1)]


def triangle_recipe(paints: tuple[str, ...], parts: tuple[int, int, int]) -> Recipe:
    """The mix at a place of the lattice, in lowest terms."""
    whole = math.gcd(*parts)
    kept = [(name, part // whole) for name, part in zip(paints, parts, strict=True) if part]
    return mix([name for name, _ in kept], [part for _, part in kept])


def _lay_out(options: TriangleOptions, page: Page, aids: Aids) -> list[Sheet]:
    """Three paints in every proportion that adds up to `steps` parts; a wished cell gives the width of a hexagon."""
    need(options.paints, 3, tr("triangle"))
    paints, total = options.paints[:3], options.steps
    best: tuple[float, int] = (0.0, 0)
    papers = page.papers()
    for at, paper in enumerate(papers):
        margin = page.margin_mm
        wide = paper.width_mm - 2 * margin - page.gutter_mm
        top = page.title_mm + _PAD_MM if page.title else 0.0
        high = paper.height_mm - 2 * margin - 2 * (max(top, page.foot_mm) + page.label_mm + 2 * _PAD_MM)
        # hexagons with a corner up: a row is three quarters of their height, height 2 / sqrt(3) of their width
        tall = (1.0 + 0.75 * total) * 2.0 / math.sqrt(3.0)
        best = max(best, (min(wide / (total + 1), high / tall), at))
    size, paper = rounded_down(best[0], page.step_mm), papers[best[1]]
    if page.cell_mm is not None:
        if page.cell_mm[0] > size:
            raise CulmoError(
                tr(
                    'hexagons of {value:g} mm do not fit on paper "{name}"',
                    value=page.cell_mm[0],
                    name=page.paper.name,
                )
            )
        size = page.cell_mm[0]
    if size < _SMALLEST_MM:
        raise CulmoError(
            tr(
                'a triangle of {total} parts does not fit on paper "{name}"; take fewer parts',
                total=total,
                name=page.paper.name,
            )
        )
    height = 2.0 * size / math.sqrt(3.0)
    block = size * (total + 1), height * (1.0 + 0.75 * total)
    x0 = page.gutter_mm + (paper.width_mm - page.gutter_mm - block[0]) / 2
    y0 = (paper.height_mm - block[1]) / 2
    cells = []
    for parts in lattice(total):
        row = total - parts[0]
        x = x0 + block[0] / 2 + (parts[2] - row / 2) * size
        y = y0 + height / 2 + row * 0.75 * height
        recipe = triangle_recipe(paints, parts)
        shown = size - page.gap_mm
        name = "t" + "-".join(str(part) for part in parts)
        cells.append(Cell(name, _hexagon(x, y, shown), recipe))
    labels = _labels(options, page, cells, aids)
    circles: tuple[tuple[float, float, float], ...] = ()
    if aids.known.lab is not None:
        lab = aids.known.lab([cell.recipe for cell in cells])
        grey = int(np.argmin(np.hypot(lab[:, 1], lab[:, 2])))
        x, y, w, h = cells[grey].box_mm
        circles = ((x + w / 2, y + h / 2, 0.28 * size),)
        word = tr("greyest")
        labels.append(SheetText(word, (x + w / 2 - aids.measure(word, 2.4) / 2, y + h / 2 + 0.9), 0.0, 2.4))
    if page.title:
        short = shortened(page.title, page.title_mm, paper.width_mm - x0 - page.tape_mm, aids.measure)
        labels.append(SheetText(short, (x0, y0 - page.label_mm - 2 * _PAD_MM), 0.0, page.title_mm))
    sheet = Sheet(
        title=page.title or tr("Triangle"),
        kind="triangle",
        paper=paper,
        frame_mm=(x0, y0, *block),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(_levels(cells, 0), _levels(cells, 1), (), circles),
        marks_mm=corner_marks(page, paper),
    )
    return [sheet]


def _levels(cells: list[Cell], axis: int) -> tuple[float, ...]:
    """Where corners of hexagons lie along the top (0) or the left edge (1) of the paper."""
    return tuple(sorted({round(point[axis], 2) for cell in cells for point in cell.outline_mm}))


def _hexagon(x: float, y: float, width: float) -> tuple[Point, ...]:
    side = width / math.sqrt(3.0)
    return tuple(
        (x + side * math.sin(math.radians(turn)), y - side * math.cos(math.radians(turn)))
        for turn in range(0, 360, 60)
    )


def _labels(options: TriangleOptions, page: Page, cells: list[Cell], aids: Aids) -> list[SheetText]:
    """The names at the three corners."""
    size, measure = page.label_mm, aids.measure
    texts = label_texts(options.paints, options.labels, aids)
    result = []
    total = options.steps
    wide = max(x for cell in cells for x, _ in cell.outline_mm) - min(
        x for cell in cells for x, _ in cell.outline_mm
    )
    ends = {f"t{total}-0-0": 0, f"t0-{total}-0": 1, f"t0-0-{total}": 2}
    for cell in cells:
        if cell.id in ends:
            x, y, w, h = cell.box_mm
            # the two below share the way between their corners
            room = 40.0 if ends[cell.id] == 0 else min(40.0, wide / 2.0 - 1.0)
            text = shortened(texts[ends[cell.id]], size, room, measure)
            width = measure(text, size)
            above = ends[cell.id] == 0
            left = x + w / 2 - width / 2 if above else x if ends[cell.id] == 1 else x + w - width
            result.append(SheetText(text, (left, y - _PAD_MM if above else y + h + size), 0.0, size))
    return [label for label in result if label.text]


KIND = Kind(
    5, "triangle", tr("Triangle"), tr("three paints in every proportion"), TriangleOptions, lay_out=_lay_out, gap_mm=1.0,
    without=("square", "round", "several"), about=about_round, cell_words=tr("Width of a hexagon"),
    few=3, far_apart=True,
)  # fmt: skip
