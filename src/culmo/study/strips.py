"""The strips of known paints that a study holds, by which later pictures are read."""

from math import sqrt

from culmo.core.capture.strip import KnownPatch, Strip
from culmo.core.chart.kinds.strip import STRIP
from culmo.core.paint.readings import NINE_IN_TEN
from culmo.study.file import Row, Study
from culmo.study.records import anew, sheet_record
from culmo.study.seen import OF_PICTURES

# in CIELAB units: what an instrument says, and how the same patch differs from day to day
_BY_INSTRUMENT = 0.7
_UNKNOWN = 2.0
_SHARED = 0.5  # of what is told of a picture, that is the same for all of its patches, so that many of them tell no more


def strips_of(study: Study) -> tuple[Strip, ...]:
    """The strips that were painted and read, the latest first.

    A patch is known by its reading as it stands now: by an instrument best, by pictures as well as these are.

    Parameters
    ----------
    study : Study
    """
    found = []
    for row in study.select("SELECT id FROM sheets WHERE kind = ? ORDER BY id DESC", (STRIP,)):
        record = sheet_record(study, row["id"])
        cells = {cell.id: cell.cell.id for cell in record.cells}
        rows = study.select(
            """SELECT id, cell_id, L, a, b, source, CASE WHEN json_valid(extra)
                THEN json_extract(extra, '$.uncertainty') END AS uncertainty FROM readings
                WHERE sheet_id = ? AND trust = 'good' AND cell_id IS NOT NULL ORDER BY id""",
            (row["id"],),
        )
        read = {one["cell_id"]: anew(study, one) for one in rows if one["cell_id"] in cells}
        known = {
            cells[cell_id]: KnownPatch((one["L"], one["a"], one["b"]), _off(one, len(read)), str(cell_id))
            for cell_id, one in read.items()
        }
        if known:
            found.append(Strip(record.sheet, known))
    return tuple(found)


def _off(row: Row, count: int) -> float:
    """How far off a patch may be, root mean square; of pictures so much that many of them are no surer than one."""
    if row["source"] not in OF_PICTURES:
        return _BY_INSTRUMENT
    told = row["uncertainty"]
    alone = float(told) / NINE_IN_TEN if isinstance(told, int | float) and 0.0 < told < 1e2 else _UNKNOWN
    return max(_BY_INSTRUMENT, _SHARED * alone * sqrt(count))
