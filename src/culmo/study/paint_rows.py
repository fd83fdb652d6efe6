"""Every paint with all that is known of it, a row each: for the table of the Box room, its print and export, the command."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import isnan
from typing import TYPE_CHECKING

import numpy as np

from culmo.core.colour.srgb import hex_from_lab
from culmo.core.paint.doubts import Caution, doubts
from culmo.core.paint.label import NEEDS, PROPERTIES, Label
from culmo.core.paint.recipe import parse_recipe
from culmo.core.palette.mixer import FULL_AT, PAIR_WASHES, PALE_AT, chroma_of, hue_of, mixer_of
from culmo.study.spreadsheet import harmless
from culmo.study.tables import write_rows
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.core.colour.spectral import Array
    from culmo.core.paint.estimate import Estimate
    from culmo.study.file import Study
    from culmo.study.records import Paint


@dataclass(frozen=True)
class PaintRow:
    """A paint and what is known of it.

    Attributes
    ----------
    paint : Paint
    label : Label
    cautions : tuple of Caution, the gravest first
    labs : (washes, 3) float, CIELAB from a full wash to the palest tint; None where nothing is known
    sheets, readings : int, on how many it stands, alone and in mixes
    read : bool, whether it was read alone
    """

    paint: "Paint"
    label: Label
    cautions: tuple[Caution, ...]
    labs: "Array | None"
    sheets: int
    readings: int
    read: bool

    @property
    def vivid(self) -> "Array | None":
        """Its most vivid wash, (3,) float."""
        return None if self.labs is None else self.labs[int(np.argmax(chroma_of(self.labs)))]

    @property
    def hue(self) -> float:
        """Degrees, 0..360, of its most vivid wash; not a number where nothing is known."""
        return float("nan") if self.vivid is None else float(hue_of(self.vivid))

    @property
    def chroma(self) -> float:
        """Of its most vivid wash; not a number where nothing is known."""
        return float("nan") if self.vivid is None else float(chroma_of(self.vivid))

    @property
    def darkest(self) -> float:
        """L of a full wash; not a number where nothing is known."""
        return float("nan") if self.labs is None else float(self.labs[FULL_AT, 0])

    @property
    def lightest(self) -> float:
        """L of the palest tint; not a number where nothing is known."""
        return float("nan") if self.labs is None else float(self.labs[PALE_AT, 0])


def paint_rows(
    study: "Study",
    paints: "Sequence[Paint]",
    labels: Mapping[str, Label],
    estimate: "Estimate | None",
    unread: Iterable[str],
) -> list[PaintRow]:
    """A row for each paint, in their order.

    Parameters
    ----------
    study : Study
    paints : sequence of Paint
    labels : from folded name to Label; see `culmo.study.own_tests`
    estimate : Estimate, or None while nothing is known
    unread : folded names of the paints of which nothing pure was read
    """
    sheets = _counted(study, "SELECT DISTINCT recipe, sheet_id AS part FROM cells", True)
    readings = _counted(study, "SELECT recipe, COUNT(*) AS part FROM readings GROUP BY recipe", False)
    colours: dict[str, Array] = {}
    if estimate is not None and estimate.names:
        found = mixer_of(estimate).lab(np.eye(len(estimate.names)), PAIR_WASHES)
        colours = dict(zip((name.casefold() for name in estimate.names), found, strict=True))
    not_read = set(unread)
    codes = {paint.name: paint.codes for paint in paints}
    rows = []
    for paint in paints:
        name = paint.name.casefold()
        label, labs = labels[name], colours.get(name)
        others = {other: theirs for other, theirs in codes.items() if other != paint.name}
        needs = "" if labs is not None else tr("nothing is known of it: {needs}", needs=NEEDS)
        rows.append(
            PaintRow(
                paint,
                label,
                tuple(doubts(paint.name, paint.codes, label, others, needs)),
                labs,
                sheets.get(name, 0),
                readings.get(name, 0),
                labs is not None and name not in not_read,
            )
        )
    return rows


def _counted(study: "Study", sql: str, each_once: bool) -> dict[str, int]:
    """By folded name, how many different parts (or their sum) stand beside recipes that hold a paint."""
    parts: dict[str, list[int]] = {}
    for row in study.select(sql):
        for name in {name.casefold() for name in parse_recipe(row["recipe"]).names}:
            parts.setdefault(name, []).append(int(row["part"] or 0))
    return {name: len(set(own)) if each_once else sum(own) for name, own in parts.items()}


COLUMNS = (
    "name", "codes", "status",
    *(f"{key}{what}" for key in PROPERTIES for what in ("", "_source", "_claimed", "_number")),
    "hex", "L_darkest", "L_lightest", "hue", "chroma", "sheets", "readings", "cautions",
)  # fmt: skip


def rows_csv(rows: Iterable[PaintRow]) -> str:
    """Paints as CSV, with COLUMNS; words in English, as in the table of pigments, and empty where nothing is known.

    Parameters
    ----------
    rows : iterable of PaintRow
    """
    return write_rows(list(COLUMNS), (_cells(row) for row in rows))


def _cells(row: PaintRow) -> list[str]:
    facts = []
    for key in PROPERTIES:
        fact = row.label.facts[key]
        facts += [fact.word, fact.source.value, fact.claimed, _number(fact.number, 3)]
    numbers = (row.darkest, row.lightest, row.hue, row.chroma)
    return [
        harmless(row.paint.name), harmless(row.paint.codes), row.paint.status, *facts,
        hex_from_lab(row.labs[FULL_AT]) if row.labs is not None else "", *(_number(value, 1) for value in numbers),
        str(row.sheets), str(row.readings), "; ".join(caution.kind.value for caution in row.cautions),
    ]  # fmt: skip


def _number(value: float, places: int) -> str:
    return "" if isnan(value) else f"{value:.{places}f}"
