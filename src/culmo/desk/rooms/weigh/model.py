"""Weigh room: prediction beside paint, cell by cell."""

from dataclasses import dataclass

import numpy as np

from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.predict import Prediction
from culmo.core.paint.recipe import Recipe
from culmo.study.records import SheetRecord

SORTS = ("difference", "order on the sheet", "hue", "lightness", "vivid first", "keepers first")


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

    @property
    def shown(self) -> tuple[float, float, float]:
        """The colour to sort by: as read, else as predicted."""
        return self.read or self.predicted or (0.0, 0.0, 0.0)

    @property
    def surprise(self) -> bool:
        """Whether the paint lies outside what nine in ten cells were expected to be."""
        return bool(np.isfinite(self.away) and self.away > self.within > 0)


def compare(
    record: SheetRecord, prediction: Prediction | None, read: dict[str, tuple[float, float, float]]
) -> list[Comparison]:
    """The cells of a sheet that have one colour as it dried; lifted, faded and fading ones are told in the Box room."""
    result = []
    for place, entry in enumerate(record.cells):
        if entry.cell.treatment or entry.cell.fade_mm is not None:
            continue
        predicted = within = None
        if prediction is not None:
            L, a, b = (float(value) for value in prediction.lab[place])
            predicted, within = (L, a, b), float(prediction.dE90[place])
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
            )
        )
    return result


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
            "keepers first": (0.0 if row.keeper else 1.0, float(row.place)),
        }[sort]

    return sorted(rows, key=key)


def summary(rows: list[Comparison]) -> str:
    """How well the prediction did, in a sentence."""
    away = np.array([row.away for row in rows if np.isfinite(row.away)])
    if not len(away):
        return "Nothing of this sheet is read yet; what you see is the prediction."
    inside = np.mean([row.away <= row.within for row in rows if np.isfinite(row.away)])
    keepers = sum(row.keeper for row in rows)
    kept = f"; {keepers} keeper{'s' if keepers != 1 else ''}" if keepers else ""
    return f"{len(away)} cells read, middle difference {np.median(away):.1f}, {inside:.0%} as near as expected{kept}"
