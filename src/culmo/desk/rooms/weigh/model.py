"""Weigh room: prediction beside paint, cell by cell."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.predict import Prediction
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.cluster import nearly_equal
from culmo.study.file import Row
from culmo.study.paint_acts import MARKS
from culmo.study.records import SheetRecord
from culmo.words import mark, tr, trn

SORTS = (
    mark("difference"),
    mark("order on the sheet"),
    mark("hue"),
    mark("lightness"),
    mark("vivid first"),
    mark("muted first"),
    mark("granulation"),
    mark("keepers first"),
)
_DULL_CHROMA = 12.0
_ALIKE = 3.0


@dataclass(frozen=True)
class Comparison:
    """One cell: what was predicted and what was read.

    Attributes
    ----------
    cell_id : str
    recipe : Recipe
    predicted, read : (L, a, b) or None
    within : float, dE90 of the prediction
    away : float, CIEDE2000 between the two, nan while unread
    keeper : bool
    note : str
    place : int, on the sheet
    grain : float, how uneven the wash was read, nan where it was not
    like : str, the group of nearly equal mixes that it belongs to
    marks : str, what was marked of it at the table, in words
    """

    cell_id: str
    recipe: Recipe
    predicted: tuple[float, float, float] | None
    read: tuple[float, float, float] | None
    within: float
    away: float
    keeper: bool
    note: str
    place: int
    grain: float = float("nan")
    like: str = ""
    marks: str = ""

    @property
    def remark(self) -> str:
        """The group of nearly equal mixes, or what was marked at the table, and the note."""
        return self.like or "; ".join(words for words in (self.marks, self.note) if words)

    @property
    def shown(self) -> tuple[float, float, float]:
        """The colour to sort by: as read, else as predicted."""
        return self.read or self.predicted or (0.0, 0.0, 0.0)

    @property
    def surprise(self) -> bool:
        """Whether the paint lies outside what nine in ten cells were expected to be."""
        return bool(np.isfinite(self.away) and self.away > self.within > 0)


def compare(
    record: SheetRecord,
    prediction: Prediction | None,
    read: Mapping[str, tuple[float, float, float]],
    grain: Mapping[str, float] | None = None,
    strokes: Mapping[str, Row] | None = None,
) -> list[Comparison]:
    """The cells of a sheet that have one colour of known parts; lifted, faded and fading ones are told in the Box room.

    Parameters
    ----------
    record : SheetRecord
    prediction : Prediction, or None
    read : from cell id to (L, a, b)
    grain : from cell id to how much it granulates
    strokes : from cell id to its last stroke, with the marks that were made at the table
    """
    result = []
    for place, entry in enumerate(record.cells):
        if not entry.cell.plain:
            continue
        predicted = within = None
        foretold = prediction.at(place) if prediction is not None else None
        if foretold is not None:
            L, a, b = (float(value) for value in foretold[0])
            predicted, within = (L, a, b), foretold[1]
        seen = read.get(entry.cell.id)
        away = float(delta_e_00(np.array(predicted), np.array(seen))) if predicted and seen else float("nan")
        result.append(
            Comparison(
                entry.cell.id,
                entry.cell.recipe,
                predicted,
                seen,
                within or 0.0,
                away,
                entry.keeper,
                entry.note,
                place,
                (grain or {}).get(entry.cell.id, float("nan")),
                marks=_marks((strokes or {}).get(entry.cell.id)),
            )
        )
    return result


def _marks(stroke: Row | None) -> str:
    """What was marked of a stroke at the table, in words; a keeper has a column of its own."""
    marks = str(stroke["marks"]).split() if stroke is not None else []
    return ", ".join(tr(mark) for mark in MARKS if mark in marks and mark != "keeper")


def sorted_by(rows: list[Comparison], sort: str) -> list[Comparison]:
    """The rows in an order; unread cells come last where the difference decides."""

    def key(row: Comparison) -> tuple[float, ...]:
        lightness, chroma, hue = (float(value) for value in lch_from_lab(np.array(row.shown)))
        return {
            "difference": (-row.away if np.isfinite(row.away) else 1e9,),
            "order on the sheet": (float(row.place),),
            "hue": (hue,),
            "lightness": (-lightness,),
            "vivid first": (-chroma,),
            "muted first": (chroma,),
            "granulation": (-row.grain if np.isfinite(row.grain) else 1e9, float(row.place)),
            "keepers first": (0.0 if row.keeper else 1.0, float(row.place)),
        }[sort]

    return sorted(rows, key=key)


SHOWN = (
    (tr("All cells"), "all"), (tr("Surprises"), "surprises"), (tr("Keepers"), "keepers"), (tr("Dull ones"), "dull"),
    (tr("Nearly equal"), "alike"),
)  # fmt: skip


@dataclass(frozen=True)
class Picked:
    """Some of the cells.

    Attributes
    ----------
    rows : list of Comparison
    words : str, what they are; empty for all
    grouped : bool, whether their order is that of their groups
    """

    rows: list[Comparison]
    words: str = ""
    grouped: bool = False


def shown_rows(rows: list[Comparison], which: str) -> Picked:
    """The cells of one kind: surprises, keepers, dull ones, groups of nearly equal ones, or all."""
    if which == "surprises":
        found = [row for row in rows if row.surprise]
        return Picked(
            found, tr("{n} cells where paint and prediction part more than nine in ten should", n=len(found))
        )
    if which == "keepers":
        found = [row for row in rows if row.keeper]
        return Picked(found, tr("{n} mixes worth keeping", n=len(found)))
    if which == "dull":
        found = [row for row in rows if np.hypot(*row.shown[1:]) < _DULL_CHROMA]
        return Picked(
            found,
            tr(
                "{n} mixes with a chroma below {DULL_CHROMA:g}: greys, or mud, as you like",
                n=len(found),
                DULL_CHROMA=_DULL_CHROMA,
            ),
        )
    if which == "alike":
        groups = nearly_equal(np.array([row.shown for row in rows]).reshape(-1, 3), _ALIKE)
        found = [
            replace(rows[i], like=tr("group {number}, {n} alike", number=number, n=len(group)))
            for number, group in enumerate(groups, 1)
            for i in group
        ]
        return Picked(
            found,
            tr("{n} groups of mixes that differ by less than {ALIKE:g}", n=len(groups), ALIKE=_ALIKE),
            True,
        )
    return Picked(rows)


def summary(rows: list[Comparison]) -> str:
    """How well the prediction did, in a sentence."""
    away = np.array([row.away for row in rows if np.isfinite(row.away)])
    if not len(away):
        return tr("Nothing of this sheet is read yet; what you see is the prediction.")
    inside = np.mean([row.away <= row.within for row in rows if np.isfinite(row.away)])
    keepers = sum(row.keeper for row in rows)
    kept = "; " + trn("{n} keeper", "{n} keepers", keepers) if keepers else ""
    return tr(
        "{n} cells read, middle difference {median:.1f}, {inside:.0%} as near as expected{kept}",
        n=len(away),
        median=np.median(away),
        inside=inside,
        kept=kept,
    )
