"""What is due: washes that dry, looks at fade tests, sheets that are half painted or dry and not read."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from culmo.core.chart.run import Run
from culmo.study.box_records import fade_tests
from culmo.study.file import Change, Row, Study
from culmo.study.paint_acts import drying_of, pauses_of, strokes_of
from culmo.study.records import line_of, sheet_record, versions_of
from culmo.study.soundness import moment_of
from culmo.words import clock_words, day_words, tr, trn


class DueKind(StrEnum):
    """What waits."""

    DRYING = "drying"
    FADE = "fade"
    HALF = "half"
    UNREAD = "unread"
    PLANNED = "planned"


AHEAD = timedelta(days=7)  # a look at a fade test is announced a week before
_TOUCHING = {"sheets", "cells", "strokes", "readings", "runs"}
_MOST_TOUCHED = 20  # sheets that are counted one by one; of more all are
_MOST_WET = 12  # sheets looked at for wet cells; nobody paints more at once


@dataclass(frozen=True)
class Due:
    """One thing that waits for the painter.

    Attributes
    ----------
    kind : str, "drying", "fade", "half", "unread" or "planned"
    title : str, the sheet's
    words : str, what is to be done
    sheet_id : int
    now : bool, whether it can be done now
    """

    kind: str
    title: str
    words: str
    sheet_id: int
    now: bool = True


def due(study: Study) -> list[Due]:
    """All that is due, the most pressing first."""
    return DueBook(study).due()


class DueBook:
    """What is due, kept up while one works: after an act only the sheets that it touched are counted anew.

    Parameters
    ----------
    study : Study
    """

    def __init__(self, study: Study) -> None:
        self.study = study
        self._counts: dict[int, Row] | None = None
        self._dry_at: dict[tuple[int, str, int], datetime] = {}

    def touch(self, changes: Sequence[Change]) -> None:
        """Rows were changed."""
        if self._counts is None:
            return
        sheets: set[int] = set()
        painted: set[int] = set()
        for change in changes:
            for row in (change.before, change.after):
                if row is not None and change.table in _TOUCHING:
                    sheet_id = self._sheet_of(change.table, row)
                    if sheet_id is not None:
                        sheets.add(sheet_id)
                        if change.table != "readings":
                            painted.add(sheet_id)
            if change.table == "pauses":
                self._dry_at.clear()
        self._dry_at = {key: at for key, at in self._dry_at.items() if key[0] not in painted}
        if len(sheets) > _MOST_TOUCHED:
            self._counts = None
            return
        # what is painted on an earlier version of a sheet counts in the one that is in use
        sheets |= {versions_of(self.study, own)[0] for own in sheets}
        for sheet_id in sheets:
            self._counts.pop(sheet_id, None)
            self._counts.update((row["id"], row) for row in _sheets(self.study, sheet_id))

    def _sheet_of(self, table: str, row: Mapping[str, Any]) -> int | None:
        if table == "sheets":
            return int(row["id"])
        if table == "strokes":
            found = self.study.select("SELECT sheet_id FROM cells WHERE id = ?", (row["cell_id"],))
            return found[0]["sheet_id"] if found else None
        return row.get("sheet_id")  # what belongs to no sheet may have no such column filled

    def due(self) -> list[Due]:
        """All that is due, the most pressing first."""
        if self._counts is None:
            self._counts = {row["id"]: row for row in _sheets(self.study)}
        moment = moment_of(self.study.clock())
        sheets = sorted(
            self._counts.values(), key=lambda row: (row["last"] or row["created"], row["id"]), reverse=True
        )
        found = [*_fades(self.study, moment)]
        waiting: list[Due] = []
        wet_looked_at = 0
        for row in sheets:
            if row["painted"] == 0:
                continue
            dries_in = 0.0
            # a clock set back makes a stroke lie ahead; it is treated as one of now
            if moment - moment_of(row["last"]) < timedelta(days=1) and wet_looked_at < _MOST_WET:
                wet_looked_at += 1
                dries_in = self._dries_in(row, moment)
            if row["painted"] < row["cells"]:
                words = tr("{done} of {all} cells are painted", done=row["painted"], all=row["cells"])
                found.append(Due(DueKind.HALF, row["title"], words, row["id"]))
            if dries_in > 0:
                until = clock_words(moment + timedelta(minutes=dries_in))
                words = tr("dries until {time}; read it after that", time=until)
                found.append(Due(DueKind.DRYING, row["title"], words, row["id"], now=False))
            elif row["unread"] and row["painted"] >= row["cells"]:
                words = trn("dry; {n} cell to read", "dry; {n} cells to read", row["unread"])
                waiting.append(Due(DueKind.UNREAD, row["title"], words, row["id"]))
        planned = [row for row in sheets if row["painted"] == 0 and row["read"] == 0]
        for row in planned[:3]:
            since = day_words(moment_of(row["created"]), weekday=False)
            waiting.append(
                Due(DueKind.PLANNED, row["title"], tr("planned {date}, not begun", date=since), row["id"])
            )
        return [*found, *waiting]

    def _dries_in(self, row: Row, moment: datetime) -> float:
        """Minutes until the last wash of a sheet is dry; worked out once for its last stroke."""
        key = row["id"], row["last"], row["painted"]
        if key not in self._dry_at:
            self._dry_at[key] = moment + timedelta(minutes=_dries_in(self.study, row["id"], moment))
        return max((self._dry_at[key] - moment).total_seconds() / 60.0, 0.0)


def _sheets(study: Study, only: int | None = None) -> list[Row]:
    """The sheets in use with their counts."""
    which = "" if only is None else " AND s.id = :only"
    of_sheet = "" if only is None else " AND sheet_id = :only"
    return study.select(
        line_of(f"sheet_id IN (SELECT id FROM sheets WHERE archived = 0){of_sheet}")
        + f"""SELECT s.id, s.title, s.created, COUNT(c.id) AS cells, COUNT(p.cell_id) AS painted, MAX(p.last) AS last,
            COUNT(r.cell_id) AS read,
            SUM(p.cell_id NOT NULL AND c.fade_mm IS NULL AND (r.cell_id IS NULL OR r.wet)) AS unread
        FROM sheets s LEFT JOIN cells c ON c.sheet_id = s.id
        LEFT JOIN (SELECT own AS cell_id, MAX(at) AS last FROM line JOIN strokes ON strokes.cell_id = line.cell
            WHERE act = 'done' AND layer = 0 GROUP BY own) p ON p.cell_id = c.id
        LEFT JOIN (SELECT own AS cell_id, MIN(trust = 'wet') AS wet FROM line JOIN readings ON readings.cell_id = line.cell
            GROUP BY own) r ON r.cell_id = c.id
        WHERE s.archived = 0{which} GROUP BY s.id""",
        {} if only is None else {"only": only},
    )


def _dries_in(study: Study, sheet_id: int, moment: datetime) -> float:
    """Minutes until the last wash of a sheet is dry."""
    record = sheet_record(study, sheet_id)
    strokes = strokes_of(study, sheet_id, record.cells)
    state = Run(record.sheet).state(
        strokes, moment, drying_of(study, sheet_id), pauses=pauses_of(study, sheet_id)
    )
    return state.dry_in


def _fades(study: Study, moment: datetime) -> list[Due]:
    found = []
    for test in fade_tests(study):
        at = test.next_look()
        if at is None or at > moment + AHEAD:
            continue
        date = day_words(at, weekday=False)
        if at <= moment:
            words = tr("in the window; a look is due since {date}", date=date)
        else:
            words = tr("in the window; the next look is on {date}", date=date)
        found.append(Due(DueKind.FADE, test.title, words, test.sheet_id, now=at <= moment))
    return sorted(found, key=lambda entry: not entry.now)
