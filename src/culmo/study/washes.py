"""How deep the painter's washes came out, of all that was read and of each sheet in the order in which they were painted."""

from dataclasses import dataclass

from culmo.core.paint.depth import Reached, depths, reached_by_class, unit_of
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.readings import GOOD, PAPER
from culmo.study.file import Study
from culmo.study.records import reading_of


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


def washes_of(study: Study, estimate: Estimate) -> Washes:
    """How deep the washes of a study came out.

    Parameters
    ----------
    study : Study
    estimate : Estimate, of its paints
    """
    rows = study.select(
        """SELECT r.id, r.recipe, r.L, r.a, r.b, r.ground, r.paper, r.trust, r.treatment, r.mixing, r.taken, c.sheet_id,
            s.title FROM readings r LEFT JOIN cells c ON c.id = r.cell_id LEFT JOIN sheets s ON s.id = c.sheet_id
            WHERE r.trust = :good AND r.ground = :ground AND r.recipe <> '-' ORDER BY r.id""",
        {"good": GOOD, "ground": PAPER},
    )
    found = depths(estimate, [reading_of(row) for row in rows])
    unit = unit_of(found)
    painted = {
        row["sheet_id"]: row["last"]
        for row in study.select(
            """SELECT c.sheet_id, MAX(k.at) AS last FROM strokes k JOIN cells c ON c.id = k.cell_id
                WHERE k.act <> 'skip' GROUP BY c.sheet_id"""
        )
    }
    places: dict[int, list[int]] = {}
    for place, row in enumerate(rows):
        if row["sheet_id"] is not None:
            places.setdefault(row["sheet_id"], []).append(place)
    sheets = []
    for sheet_id, own in places.items():
        reached = tuple(reached_by_class([found[place] for place in own], unit))
        if reached:
            day = str(painted.get(sheet_id) or max(rows[place]["taken"] for place in own))[:10]
            sheets.append(SheetWashes(sheet_id, rows[own[0]]["title"], day, reached))
    sheets.sort(key=lambda one: (one.day, one.sheet_id))
    return Washes(tuple(reached_by_class(found, unit)), tuple(sheets))
