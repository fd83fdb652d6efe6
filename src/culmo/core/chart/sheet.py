"""A test sheet: a paper, a ruling, labels and cells, all in millimetres from the sheet's top left corner."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from math import isfinite
from typing import Any

import numpy as np

from culmo.core.chart.papers import Paper
from culmo.core.paint.readings import GROUNDS, MIXINGS, PAPER, TREATMENTS, MixedHow
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.words import tr

FORMAT, VERSION = "culmo-sheet", 1
Point = tuple[float, float]
Box = tuple[float, float, float, float]
_CARD_EDGE_MM = 6.0  # a card is larger than its block of patches, and is not laid exactly


class Stage(StrEnum):
    """What is painted together, before all of the next stage is."""

    PURE = "pure"
    MIX = "mix"
    PALE = "pale"
    WHITE = "white"
    GLAZE = "glaze"


BORDERED, FREE = "", "free"  # whether a cell's outline is an edge to stop at


@dataclass(frozen=True)
class Cell:
    """One place to paint.

    Attributes
    ----------
    id : str, such as "r03c07", unique on the sheet
    outline_mm : tuple of (x, y), at least three
    recipe : Recipe
    ground : str, "paper" or "ink"
    fade_mm : two points, from full strength to clear water, or None
    order : int, the place in the order of work, from 1; 0 while there is none
    at_minute : float, the planned start from the first stroke, or None
    treatment : str, what is done to the dry paint before it is read: "", "lifted", "rubbed", "covered" or "exposed"
    meets : tuple of str, the cells that it is painted wet against, within minutes; the same on both sides
    half_of : str, the cell whose other half it is, to be painted when that is dry; empty where it is none
    stage : str, a value of Stage, or "" where it belongs to none
    mixing : str, how its paints come together; see `culmo.core.paint.readings.Reading`
    shape : str, "free" where its outline is no edge to stop at, else ""
    """

    id: str
    outline_mm: tuple[Point, ...]
    recipe: Recipe
    ground: str = PAPER
    fade_mm: tuple[Point, Point] | None = None
    order: int = 0
    at_minute: float | None = None
    treatment: str = ""
    meets: tuple[str, ...] = ()
    half_of: str = ""
    stage: str = ""
    mixing: str = MixedHow.IN_PUDDLE
    shape: str = BORDERED

    @property
    def is_wash(self) -> bool:
        """Whether it is a wash from a puddle, read as it dried: its recipe says all of it."""
        return not self.treatment and not self.mixing

    @property
    def plain(self) -> bool:
        """Whether it has one colour, which its recipe foretells."""
        return self.is_wash and self.fade_mm is None

    @property
    def arises(self) -> bool:
        """Whether it is not painted itself, but is where others run into each other."""
        return self.mixing == MixedHow.MEETING and bool(self.meets)

    @property
    def box_mm(self) -> tuple[float, float, float, float]:
        """The bounding box: x, y, width, height."""
        points = np.array(self.outline_mm)
        low, high = points.min(axis=0), points.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1])


@dataclass(frozen=True)
class SheetText:
    """A text on the sheet: `at_mm` is the left end of its baseline, `angle_deg` turns clockwise."""

    text: str
    at_mm: Point
    angle_deg: float = 0.0
    size_mm: float = 3.2


@dataclass(frozen=True)
class Ruling:
    """What to draw in pencil; absolute positions."""

    vertical_mm: tuple[float, ...] = ()
    horizontal_mm: tuple[float, ...] = ()
    lines_mm: tuple[tuple[float, float, float, float], ...] = ()
    circles_mm: tuple[tuple[float, float, float], ...] = ()


@dataclass(frozen=True)
class Sheet:
    """A planned sheet.

    Attributes
    ----------
    title, kind : str
    paper : Paper, as it lies
    frame_mm : tuple of x, y, width, height of the ruled block
    work : tuple of dict, the steps of the order of work, empty while there is none
    settings : dict, what the plan was made from, so that it can be changed
    marks_mm : tuple of (x, y, side), black squares in the corners that a picture is found by
    bars_mm : tuple of (x, y, width, height), bars ruled in black ink and left bare
    card_mm : x, y, width, height of the place on which a reference card is laid for the picture, or None
    """

    title: str
    kind: str
    paper: Paper
    frame_mm: tuple[float, float, float, float]
    cells: tuple[Cell, ...]
    labels: tuple[SheetText, ...] = ()
    ruling: Ruling = Ruling()
    work: tuple[Mapping[str, Any], ...] = ()
    settings: Mapping[str, Any] = field(default_factory=dict)
    marks_mm: tuple[tuple[float, float, float], ...] = ()
    bars_mm: tuple[Box, ...] = ()
    card_mm: Box | None = None

    def __post_init__(self) -> None:
        ids = [cell.id for cell in self.cells]
        if len(set(ids)) != len(ids):
            raise CulmoError(tr('sheet "{title}": two cells have the same id', title=self.title))
        there = {cell.id: cell for cell in self.cells}
        for cell in self.cells:
            for other in (*cell.meets, *([cell.half_of] if cell.half_of else [])):
                if other not in there or other == cell.id:
                    raise CulmoError(
                        tr(
                            'sheet "{title}": cell "{cell}" is said to touch "{other}", which is no other cell of it',
                            title=self.title,
                            cell=cell.id,
                            other=other,
                        )
                    )
        if any(cell.id not in there[other].meets for cell in self.cells for other in cell.meets):
            object.__setattr__(self, "cells", _both_sides(self.cells))

    @property
    def black_mm(self) -> tuple[Box, ...]:
        """What is printed or ruled in black: x, y, width and height of its corner marks and bars."""
        return (*((x, y, side, side) for x, y, side in self.marks_mm), *self.bars_mm)

    @property
    def covered_mm(self) -> tuple[Box, ...]:
        """Where there is no bare paper beside the cells: what is black, and what a card on its place may cover."""
        if self.card_mm is None:
            return self.black_mm
        x, y, width, height = self.card_mm
        edge = _CARD_EDGE_MM
        return (*self.black_mm, (x - edge, y - edge, width + 2.0 * edge, height + 2.0 * edge))

    def cell(self, cell_id: str) -> Cell:
        """The cell with this id.

        Raises
        ------
        CulmoError
            when there is none
        """
        for cell in self.cells:
            if cell.id == cell_id:
                return cell
        raise CulmoError(tr('sheet "{title}" has no cell "{cell_id}"', title=self.title, cell_id=cell_id))

    def in_order(self) -> tuple[Cell, ...]:
        """The cells in the order of work; those without a place come last."""
        return tuple(sorted(self.cells, key=lambda cell: (cell.order == 0, cell.order)))

    def renamed(self, rename: Any) -> "Sheet":
        """The same with every paint's name in every recipe put through `rename`."""
        cells = tuple(replace(cell, recipe=cell.recipe.renamed(rename)) for cell in self.cells)
        return replace(self, cells=cells)


def _both_sides(cells: tuple[Cell, ...]) -> tuple[Cell, ...]:
    """Cells that meet, each said of the other too."""
    meets: dict[str, list[str]] = {cell.id: list(cell.meets) for cell in cells}
    for cell in cells:
        for other in cell.meets:
            if cell.id not in meets[other]:
                meets[other].append(cell.id)
    return tuple(replace(cell, meets=tuple(meets[cell.id])) for cell in cells)


def touching_to_dict(cell: Cell) -> dict[str, Any]:
    """What a cell's entry says of how it is painted beside others, nothing where it is as usual (docs/formats.md)."""
    entry: dict[str, Any] = {}
    if cell.meets:
        entry["meets"] = list(cell.meets)
    if cell.half_of:
        entry["half_of"] = cell.half_of
    if cell.stage:
        entry["stage"] = cell.stage
    if cell.mixing == MixedHow.WET_IN_WET:
        entry["wet"] = True
    elif cell.mixing:
        entry["mixing"] = cell.mixing
    if cell.shape:
        entry["shape"] = cell.shape
    return entry


def sheet_to_dict(sheet: Sheet) -> dict[str, Any]:
    """The sheet in its open form (docs/formats.md)."""

    def points(values: Sequence[Point]) -> list[list[float]]:
        return [[round(x, 4), round(y, 4)] for x, y in values]

    cells = []
    for cell in sheet.cells:
        entry: dict[str, Any] = {
            "id": cell.id,
            "outline_mm": points(cell.outline_mm),
            "recipe": format_recipe(cell.recipe),
            "ground": cell.ground,
            "fade_mm": points(cell.fade_mm) if cell.fade_mm else None,
            "order": cell.order,
        }
        if cell.at_minute is not None:
            entry["at_minute"] = cell.at_minute
        if cell.treatment:
            entry["treatment"] = cell.treatment
        entry.update(touching_to_dict(cell))
        cells.append(entry)
    result: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "title": sheet.title,
        "kind": sheet.kind,
        "paper": {
            "name": sheet.paper.name,
            "width_mm": sheet.paper.width_mm,
            "height_mm": sheet.paper.height_mm,
        },
        "frame_mm": [round(value, 4) for value in sheet.frame_mm],
        "labels": [
            {
                "text": label.text,
                "at_mm": [round(v, 4) for v in label.at_mm],
                "angle_deg": label.angle_deg,
                "size_mm": label.size_mm,
            }
            for label in sheet.labels
        ],
        "ruling": {
            "vertical_mm": [round(v, 4) for v in sheet.ruling.vertical_mm],
            "horizontal_mm": [round(v, 4) for v in sheet.ruling.horizontal_mm],
            "lines_mm": [list(line) for line in sheet.ruling.lines_mm],
            "circles_mm": [list(circle) for circle in sheet.ruling.circles_mm],
        },
        "cells": cells,
        "settings": dict(sheet.settings),
    }
    if sheet.marks_mm:
        result["marks_mm"] = [[round(value, 4) for value in mark] for mark in sheet.marks_mm]
    if sheet.bars_mm:
        result["bars_mm"] = [[round(value, 4) for value in bar] for bar in sheet.bars_mm]
    if sheet.card_mm is not None:
        result["card_mm"] = [round(value, 4) for value in sheet.card_mm]
    if sheet.work:
        result["work"] = [dict(step) for step in sheet.work]
    return result


def sheet_from_dict(data: Any) -> Sheet:
    """Reads the open form.

    Raises
    ------
    CulmoError
        saying what is missing or wrong
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise CulmoError(tr('this is not a sheet of Culmo: "format" must be "culmo-sheet"'))
    if data.get("version") != VERSION:
        raise CulmoError(
            tr(
                "the sheet is of version {what}; this Culmo reads version {VERSION}",
                what=data.get("version"),
                VERSION=VERSION,
            )
        )
    try:
        return _sheet(data)
    except CulmoError:
        raise
    except (KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError) as error:
        raise CulmoError(
            tr("the sheet is damaged: {name} at {error}", name=type(error).__name__, error=error)
        ) from None


def _box(values: Any) -> Box:
    x, y, width, height = values
    return _number(x), _number(y), _number(width), _number(height)


def _number(value: Any) -> float:
    number = float(value)
    if not isfinite(number):
        raise CulmoError(tr("the sheet is damaged: a number is not finite"))
    return number


def _point(values: Any) -> Point:
    x, y = values
    return _number(x), _number(y)


def _cell(entry: Any) -> Cell:
    outline = tuple(_point(point) for point in entry["outline_mm"])
    if len(outline) < 3:
        raise CulmoError(tr('cell "{id}" has fewer than three corners', id=entry["id"]))
    ground = entry.get("ground", PAPER)
    if ground not in GROUNDS:
        raise CulmoError(
            tr(
                'cell "{id}": the ground is "{ground}"; it must be "paper" or "ink"',
                id=entry["id"],
                ground=ground,
            )
        )
    treatment = str(entry.get("treatment") or "")
    if treatment not in TREATMENTS:
        raise CulmoError(
            tr(
                'cell "{id}": the treatment is "{treatment}"; it must be one of {TREATMENTS}',
                id=entry["id"],
                treatment=treatment,
                TREATMENTS=TREATMENTS[1:],
            )
        )
    stage = str(entry.get("stage") or "")
    if stage and stage not in {*Stage}:
        raise CulmoError(
            tr(
                'cell "{id}": the stage is "{stage}"; it must be one of {what}',
                id=entry["id"],
                stage=stage,
                what=", ".join(Stage),
            )
        )
    mixing = MixedHow.WET_IN_WET if entry.get("wet") else str(entry.get("mixing") or "")
    if mixing not in MIXINGS:
        raise CulmoError(
            tr(
                'cell "{id}": the mixing is "{mixing}"; it must be one of {what}',
                id=entry["id"],
                mixing=mixing,
                what=", ".join(MIXINGS[1:]),
            )
        )
    fade = entry.get("fade_mm")
    return Cell(
        id=str(entry["id"]),
        outline_mm=outline,
        recipe=parse_recipe(str(entry["recipe"])),
        ground=ground,
        fade_mm=(_point(fade[0]), _point(fade[1])) if fade else None,
        order=int(_number(entry.get("order") or 0)),
        at_minute=None if entry.get("at_minute") is None else _number(entry["at_minute"]),
        treatment=treatment,
        meets=tuple(dict.fromkeys(str(other) for other in entry.get("meets") or ())),
        half_of=str(entry.get("half_of") or ""),
        stage=stage,
        mixing=mixing,
        shape=FREE if entry.get("shape") else BORDERED,
    )


def _sheet(data: dict[str, Any]) -> Sheet:
    ruling = data.get("ruling") or {}
    x, y, width, height = (_number(value) for value in data["frame_mm"])
    return Sheet(
        title=str(data["title"]),
        kind=str(data["kind"]),
        paper=Paper(
            str(data["paper"]["name"]),
            _number(data["paper"]["width_mm"]),
            _number(data["paper"]["height_mm"]),
        ),
        frame_mm=(x, y, width, height),
        cells=tuple(_cell(entry) for entry in data["cells"]),
        labels=tuple(
            SheetText(
                str(entry["text"]),
                _point(entry["at_mm"]),
                _number(entry.get("angle_deg", 0.0)),
                _number(entry.get("size_mm", 3.2)),
            )
            for entry in data.get("labels", ())
        ),
        ruling=Ruling(
            tuple(_number(v) for v in ruling.get("vertical_mm", ())),
            tuple(_number(v) for v in ruling.get("horizontal_mm", ())),
            tuple(
                (_number(a), _number(b), _number(c), _number(d)) for a, b, c, d in ruling.get("lines_mm", ())
            ),
            tuple((_number(a), _number(b), _number(c)) for a, b, c in ruling.get("circles_mm", ())),
        ),
        work=tuple(dict(step) for step in data.get("work", ())),
        settings=dict(data.get("settings", {})),
        marks_mm=tuple((_number(x), _number(y), _number(side)) for x, y, side in data.get("marks_mm", ())),
        bars_mm=tuple(_box(bar) for bar in data.get("bars_mm", ())),
        card_mm=_box(data["card_mm"]) if data.get("card_mm") else None,
    )
