"""The grid: every paint with every paint, and what else two paints can do above the diagonal."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, Slot
from culmo.core.chart.kind import (
    Kind,
    SecondHalf,
    board_sheets,
    extra_option,
    label_texts,
    labels_option,
    need,
    paints_option,
    second_option,
    second_recipe,
    split_option,
)
from culmo.core.chart.options import OneOf, Options, option
from culmo.core.chart.page import Page
from culmo.core.chart.sheet import Sheet, SheetText
from culmo.core.paint.recipe import mix
from culmo.words import tr


class GridForm(StrEnum):
    """Whether a grid is painted in bands that cross, or cell by cell."""

    BANDS = "bands"
    CELLS = "cells"


_IN_CELL_MM = 2.6


@dataclass(frozen=True)
class GridOptions(Options):
    """Paints down and across alike: pure on the diagonal, the mixes below it, `second` above it or in the same cell."""

    paints: tuple[str, ...] = paints_option()
    second: str = second_option()
    extra: str = extra_option(lambda own: own.second in (SecondHalf.WHITE, SecondHalf.THIRD))
    split: str = split_option()
    label_place: str = option(
        OneOf({GridForm.BANDS: tr("beside the grid"), GridForm.CELLS: tr("in the pure cells")}),
        GridForm.BANDS, tr("Labels stand"), "names beside the grid or in its pure cells",
    )  # fmt: skip
    labels: str = labels_option()


def _slots(options: GridOptions) -> Sequence[tuple[Slot | None, ...]]:
    rows: list[tuple[Slot | None, ...]] = []
    for r, down in enumerate(options.paints):
        row: list[Slot | None] = []
        for c, across in enumerate(options.paints):
            first, second = (across, down) if c < r else (down, across)
            lower = mix([first, second], [2, 1] if options.second == SecondHalf.DOMINANCE else None)
            other = second_recipe(options.second, options.extra, first, second) if r != c else None
            if r == c:
                row.append(Slot(mix([down])))
            elif options.split:
                row.append(Slot(lower, second=other, split=options.split) if c < r else None)
            elif c < r:
                row.append(Slot(lower))
            else:
                row.append(Slot(other) if other is not None else None)
        rows.append(tuple(row))
    return rows


def grid_board(options: GridOptions, aids: Aids) -> Board:
    """A grid as a board."""
    need(options.paints, 2, tr("grid"))
    texts = label_texts(options.paints, options.labels, aids)
    if options.label_place == GridForm.CELLS or not any(texts):
        texts = ()
    title = tr("Grid of {n}", n=len(options.paints))
    return Board("grid", tuple(_slots(options)), texts, texts, full_names=True, title=title)


def _lay_out(options: GridOptions, page: Page, aids: Aids) -> list[Sheet]:
    sheets = board_sheets(grid_board(options, aids), page, aids)
    return (
        [_named_inside(sheet, options, aids) for sheet in sheets]
        if options.label_place == GridForm.CELLS
        else sheets
    )


def _named_inside(sheet: Sheet, options: GridOptions, aids: Aids) -> Sheet:
    """The names in the pure cells."""
    texts = dict(zip(options.paints, label_texts(options.paints, options.labels, aids), strict=True))
    labels = list(sheet.labels)
    for cell in sheet.cells:
        text = texts[cell.recipe.names[0]] if cell.recipe.is_pure else ""
        if text:
            x, y, _, h = cell.box_mm
            labels.append(SheetText(text, (x + 1.0, y + h - 1.2), 0.0, _IN_CELL_MM))
    return replace(sheet, labels=tuple(labels))


KIND = Kind(
    0,
    "grid",
    tr("Grid"),
    tr("every paint with every paint"),
    GridOptions,
    grid_board,
    _lay_out,
    each_with_each=True,
)
