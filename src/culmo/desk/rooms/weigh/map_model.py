"""What lies on the map: mixes of this sheet, of all sheets, or all that the box can mix, filtered."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from enum import IntEnum

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import DAYLIGHT, Array, Flags, Indices, Light
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.lattice import WASHES
from culmo.desk.rooms.weigh.mixes_model import Mixes
from culmo.study.file import Study
from culmo.study.records import read_cells, sheet_record, sheet_titles
from culmo.words import tr

SOURCES = (tr("This sheet"), tr("All sheets"), tr("All the box can mix"))


class MapRange(IntEnum):
    """Whose colours the map shows."""

    THIS_SHEET = 0
    ALL_SHEETS = 1
    ALL_MIXES = 2


WASH_FILTERS = (
    (tr("Any wash"), 0.0, 1.0), (tr("Full washes"), 0.75, 1.0), (tr("Middle washes"), 0.3, 0.75), (tr("Tints"), 0.0, 0.3),
)  # fmt: skip
MOST_POINTS = 20_000
Lab = tuple[float, float, float]


@dataclass(frozen=True)
class Mark:
    """A mix of a sheet on the map.

    Attributes
    ----------
    recipe : Recipe
    ground : str
    read : (L, a, b) or None
    keeper : bool
    cell_id : str, on the sheet at hand; empty for other sheets
    sheet : str, its title
    """

    recipe: Recipe
    ground: str
    read: Lab | None
    keeper: bool
    cell_id: str
    sheet: str


@dataclass(frozen=True)
class Points:
    """Points ready to be drawn.

    Attributes
    ----------
    lab : (n, 3) float, where they stand
    rgb : (n, 3) uint8
    recorded : (n,) bool, painted and read; else predicted
    keeper : (n,) bool
    pairs : (k, 2) int, prediction and reading of one cell
    recipe_of : from a point to its recipe
    words_of : from a point to where it is from
    cell_of : from a point to its cell on the sheet at hand, or an empty text
    """

    lab: Array
    rgb: Array
    recorded: Flags
    keeper: Flags
    pairs: Indices
    recipe_of: Callable[[int], Recipe]
    words_of: Callable[[int], str]
    cell_of: Callable[[int], str] = field(default=lambda _: "")

    def __len__(self) -> int:
        return len(self.lab)


def _rgb(lab: Array) -> Array:
    return np.asarray(np.round(srgb_from_lab(lab) * 255.0).astype(np.uint8))


def marks_of(study: Study, sheet_ids: Sequence[int], at_hand: int | None) -> list[Mark]:
    """The mixes of sheets that dried as they are: no lifted, faded or fading patches."""
    marks = []
    for sheet_id in sheet_ids:
        record = sheet_record(study, sheet_id)
        read = {i: (row["L"], row["a"], row["b"]) for i, row in read_cells(study, sheet_id).items()}
        for entry in record.cells:
            if not entry.cell.plain or not entry.cell.recipe.layers:
                continue
            own = entry.cell.id if sheet_id == at_hand else ""
            seen = read.get(entry.id)
            marks.append(
                Mark(entry.cell.recipe, entry.cell.ground, seen, entry.keeper, own, record.sheet.title)
            )
    return marks


def all_sheets(study: Study) -> list[int]:
    """The sheets in use."""
    return [sheet_id for sheet_id, _ in sheet_titles(study)]


def keep_marks(
    marks: Sequence[Mark], paints: Sequence[str], wash: tuple[float, float], keepers: bool
) -> list[Mark]:
    """Those that hold all of some paints, at a wash, and are keepers where only those are wanted.

    Parameters
    ----------
    marks : sequence of Mark
    paints : sequence of str, empty for any
    wash : (float, float), more than the first, at most the second
    keepers : bool
    """
    wanted = {name.casefold() for name in paints}
    return [
        mark
        for mark in marks
        if wanted <= {name.casefold() for name in mark.recipe.names}
        and wash[0] < mark.recipe.layers[0].wash <= wash[1]
        and (mark.keeper or not keepers)
    ]


def points_of_marks(marks: Sequence[Mark], estimate: Estimate | None, light: Light = DAYLIGHT) -> Points:
    """Predictions and readings; under a lamp a reading moves as its prediction does."""
    known = [
        mark
        for mark in marks
        if estimate is not None and all(name.casefold() in estimate.index for name in mark.recipe.names)
    ]
    predicted: Array = np.empty((0, 3))
    seen = predicted
    if estimate is not None and known:
        recipes, grounds = [mark.recipe for mark in known], [mark.ground for mark in known]
        predicted = predict_lab(estimate, recipes, grounds)
        seen = predicted if light is DAYLIGHT else predict_lab(estimate, recipes, grounds, light)
    read = [i for i, mark in enumerate(known) if mark.read is not None]
    recorded = np.array([known[i].read for i in read], dtype=float).reshape(-1, 3)
    recorded = recorded + (seen - predicted)[read]
    lab = np.concatenate([seen, recorded])
    owner = [*range(len(known)), *read]
    pairs = np.array([[i, len(known) + k] for k, i in enumerate(read)], dtype=np.intp).reshape(-1, 2)

    def words_of(i: int) -> str:
        mark = known[owner[i]]
        state = tr("read") if i >= len(known) else tr("predicted")
        return f"{state}; {mark.sheet}" + ("; " + tr("keeper") if mark.keeper else "")

    return Points(
        lab,
        _rgb(lab),
        np.arange(len(lab)) >= len(known),
        np.array([known[i].keeper for i in owner], dtype=bool),
        pairs,
        lambda i: known[owner[i]].recipe,
        words_of,
        lambda i: known[owner[i]].cell_id,
    )


def points_of_mixes(
    mixes: Mixes, paints: Sequence[str], wash: tuple[float, float], most: int = MOST_POINTS
) -> Points:
    """All mixes of the box, evenly thinned where there are too many.

    Parameters
    ----------
    mixes : Mixes
    paints : sequence of str, all of which must be in a mix
    wash : (float, float)
    most : int
    """
    lattice = mixes.lattice
    index = {name.casefold(): i for i, name in enumerate(lattice.names)}
    fits = np.ones(len(lattice.groups), dtype=bool)
    for name in paints:
        fits &= (lattice.groups == index.get(name.casefold(), -1)).any(axis=1)
    rows = np.flatnonzero(fits[lattice.group_of])
    washes = np.array([i for i, value in enumerate(WASHES) if wash[0] < value <= wash[1]], dtype=np.intp)
    total = len(rows) * len(washes)
    chosen = np.arange(total)
    if total > most:
        chosen = np.sort(np.random.default_rng(0).choice(total, most, replace=False))
    row, at = rows[chosen // max(len(washes), 1)], washes[chosen % max(len(washes), 1)] if total else chosen
    lab = mixes.seen[row, at].astype(float)
    nothing = np.zeros(len(lab), dtype=bool)

    def words_of(_: int) -> str:
        return tr("predicted")

    return Points(
        lab,
        _rgb(lab),
        nothing,
        nothing,
        np.empty((0, 2), dtype=np.intp),
        lambda i: lattice.recipe(int(row[i]), int(at[i])),
        words_of,
    )


def near(points: Points, place: int, count: int = 8) -> list[tuple[int, float]]:
    """The points that look most like one, with their differences; of one recipe only the nearest.

    Parameters
    ----------
    points : Points
    place : int
    count : int
    """
    away = delta_e_00(points.lab, points.lab[place])
    result: list[tuple[int, float]] = []
    seen = {points.recipe_of(place).key}
    for i in np.argsort(away, kind="stable"):
        if int(i) == place:
            continue
        key = points.recipe_of(int(i)).key
        if key not in seen:
            seen.add(key)
            result.append((int(i), float(away[i])))
        if len(result) == count:
            break
    return result


def inside(points: Array, outline: Array) -> Flags:
    """Which points lie inside a closed outline (even-odd rule).

    Parameters
    ----------
    points : (n, 2) float
    outline : (m, 2) float
    """
    x, y = points[:, 0], points[:, 1]
    found = np.zeros(len(points), dtype=bool)
    for (x1, y1), (x2, y2) in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        if y1 == y2:
            continue
        crosses = (y1 > y) != (y2 > y)
        found ^= crosses & (x < (x2 - x1) * (y - y1) / (y2 - y1) + x1)
    return found
