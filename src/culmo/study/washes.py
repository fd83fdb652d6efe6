"""How deep the painter's washes came out, of all that was read and of each sheet in the order in which they were painted."""

from collections.abc import Generator
from dataclasses import dataclass

from culmo.core.paint.depth import Reached, measuring, reached_by_class, unit_of
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.readings import PAPER, Trust
from culmo.study.file import Row, Study
from culmo.study.row_reading import reading_of


@dataclass(frozen=True)
class SheetWashes:
    """How deep the washes of a sheet came out.

    Attributes
    ----------
    sheet_id : int
    title : str
    day : str, ISO date of its last stroke, or of its last reading where no stroke was told
    reached : tuple of Reached
    """

    sheet_id: int
    title: str
    day: str
    reached: tuple[Reached, ...]


@dataclass(frozen=True)
class Washes:
    """How deep washes came out.

    Attributes
    ----------
    reached : tuple of Reached, of all that was read
    sheets : tuple of SheetWashes, the earliest first; those of which enough cells tell
    """

    reached: tuple[Reached, ...] = ()
    sheets: tuple[SheetWashes, ...] = ()

    def of(self, sheet_id: int | None) -> SheetWashes | None:
        """A sheet's, or None where its cells do not tell."""
        return next((one for one in self.sheets if one.sheet_id == sheet_id), None)


@dataclass(frozen=True)
class WashRows:
    """What the depth of washes is told from, as it stands in the study.

    Attributes
    ----------
    readings : list of Row, good ones on paper, with the sheet that they are of
    painted : dict from a sheet's id to the moment of its last stroke
    """

    readings: list[Row]
    painted: dict[int, str]


def wash_rows(study: Study) -> WashRows:
    """What the depth of washes is told from; read at once, since the study is of one thread."""
    readings = study.select(
        """SELECT r.id, r.recipe, r.L, r.a, r.b, r.ground, r.paper, r.trust, r.treatment, r.mixing, r.taken, c.sheet_id,
            s.title FROM readings r LEFT JOIN cells c ON c.id = r.cell_id LEFT JOIN sheets s ON s.id = c.sheet_id
            WHERE r.trust = :good AND r.ground = :ground AND r.recipe <> '-' ORDER BY r.id""",
        {"good": Trust.GOOD, "ground": PAPER},
    )
    painted = study.select(
        """SELECT c.sheet_id, MAX(k.at) AS last FROM strokes k JOIN cells c ON c.id = k.cell_id
            WHERE k.act <> 'skip' GROUP BY c.sheet_id"""
    )
    return WashRows(readings, {row["sheet_id"]: row["last"] for row in painted})


def telling_washes(rows: WashRows, estimate: Estimate) -> Generator[float, None, Washes]:
    """How deep the washes of a study came out; yields its progress.

    Parameters
    ----------
    rows : WashRows
    estimate : Estimate, of its paints
    """
    found = yield from measuring(estimate, [reading_of(row) for row in rows.readings])
    unit = unit_of(found)
    places: dict[int, list[int]] = {}
    for place, row in enumerate(rows.readings):
        if row["sheet_id"] is not None:
            places.setdefault(row["sheet_id"], []).append(place)
    sheets = []
    for sheet_id, own in places.items():
        reached = tuple(reached_by_class([found[place] for place in own], unit))
        if reached:
            last = rows.painted.get(sheet_id) or max(rows.readings[place]["taken"] for place in own)
            sheets.append(SheetWashes(sheet_id, rows.readings[own[0]]["title"], last[:10], reached))
    sheets.sort(key=lambda one: (one.day, one.sheet_id))
    return Washes(tuple(reached_by_class(found, unit)), tuple(sheets))
