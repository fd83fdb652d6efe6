"""How far a study is: what there is of paints, sheets, strokes and readings."""

from dataclasses import dataclass

from culmo.study.file import Study


@dataclass(frozen=True)
class Stand:
    """How far a study is.

    Attributes
    ----------
    paints, sheets, strokes, readings : int, how many there are; of readings those that were taken from sheets
    """

    paints: int
    sheets: int
    strokes: int
    readings: int


def stand_of(study: Study) -> Stand:
    """How far a study is."""
    read = study.select("SELECT COUNT(*) AS n FROM readings WHERE sheet_id IS NOT NULL")[0]["n"]
    paints = study.select("SELECT COUNT(*) AS n FROM paints WHERE retired = 0 AND status <> 'wished'")[0]["n"]
    return Stand(int(paints), study.count("sheets"), study.count("strokes"), int(read))
