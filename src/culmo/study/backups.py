"""Copies of a study that are made while one works, and what can be read of a damaged file."""

import json
import os
import re
import sqlite3
import tempfile
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any

from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study.file import SUFFIX, Study
from culmo.study.schema import APPLICATION_ID, TABLES
from culmo.study.soundness import JSON_COLUMNS
from culmo.words import tr, trn

KEEP_LAST = 10
KEEP_DAYS = 31
_NAME = re.compile(r"^(\d{4,}) (\d{4}-\d{2}-\d{2}) (\d{2})(\d{2})$")
_MOST_LACKING = 2**30
_MOST_MISSES = 400  # ids in a row that can not be read before a table is given up


@dataclass(frozen=True)
class Backup:
    """A copy of a study.

    Attributes
    ----------
    path : Path
    number : int, counts up: the clock may have been set back, the number never is
    day : str, YYYY-MM-DD
    """

    path: Path
    number: int
    day: str


def backups_folder(path: Path) -> Path:
    """Where the copies of a study lie: a folder beside it."""
    return path.with_name(f"{path.stem} backups")


def backups_of(path: Path) -> list[Backup]:
    """The copies of a study, the oldest first.

    Parameters
    ----------
    path : Path of the study
    """
    found = []
    try:
        files = list(backups_folder(path).glob(f"*{SUFFIX}"))
    except OSError:
        return []
    for file in files:
        match = _NAME.match(file.stem)
        if match:
            found.append(Backup(file, int(match[1]), match[2]))
    return sorted(found, key=lambda backup: backup.number)


def to_drop(backups: list[Backup]) -> list[Backup]:
    """Those that are no longer kept: all but the last ten, and but the last of each of the 31 latest days.

    Parameters
    ----------
    backups : list of Backup, the oldest first
    """
    kept = {backup.number for backup in backups[-KEEP_LAST:]}
    last_of_day = {backup.day: backup.number for backup in backups}
    days = sorted(last_of_day, key=lambda day: last_of_day[day])[-KEEP_DAYS:]
    kept |= {last_of_day[day] for day in days}
    return [backup for backup in backups if backup.number not in kept]


def back_up(study: Study, moment: datetime | None = None) -> Path | None:
    """Copy a study as it stands, safely while it is open; nothing where the last copy was made of the same.

    Parameters
    ----------
    study : Study
    moment : datetime, now where absent

    Returns
    -------
    Path of the copy, or None

    Raises
    ------
    CulmoError
        when the copy could not be made; the study is not touched
    """
    before = backups_of(study.path)
    moment = moment or datetime.now()
    try:
        state = study.path.stat()
        # a copy bears the time of what it was made from: it is the same or another, whatever the clock did between
        if before and before[-1].path.stat().st_mtime_ns == state.st_mtime_ns:
            return None
        folder = backups_folder(study.path)
        folder.mkdir(exist_ok=True)
        number = before[-1].number + 1 if before else 1
        target = folder / f"{number:04d} {moment:%Y-%m-%d %H%M}{SUFFIX}"
        part = target.with_name(f".{target.name}.part")
        part.unlink(missing_ok=True)
        study.copy_to(part)
        os.utime(part, ns=(state.st_atime_ns, state.st_mtime_ns))
        part.replace(target)
        for backup in to_drop(backups_of(study.path)):
            backup.path.unlink(missing_ok=True)
    except (OSError, sqlite3.Error) as error:
        raise CulmoError(
            tr("no copy of the study could be made ({error}); the study itself is saved", error=error)
        ) from None
    return target


# ---- a damaged file


@dataclass
class Recovered:
    """What could be read of a damaged file.

    Attributes
    ----------
    rows : dict from table to the number of rows that were read
    troubled : dict from table to what went wrong with it
    loose : int, rows that pointed to rows that are gone, and were left out
    garbled : int, rows that could be read and made no sense, and were left out
    patched : int, rows that were kept without a date, a note or a setting of theirs that made no sense
    """

    rows: dict[str, int] = field(default_factory=dict)
    troubled: dict[str, str] = field(default_factory=dict)
    loose: int = 0
    garbled: int = 0
    patched: int = 0

    @property
    def words(self) -> str:
        """The report in a few lines."""
        rows = self.rows
        facts = ", ".join(
            (
                trn("{n} paint", "{n} paints", rows.get("paints", 0)),
                trn("{n} sheet", "{n} sheets", rows.get("sheets", 0)),
                trn("{n} cell", "{n} cells", rows.get("cells", 0)),
                trn("{n} reading", "{n} readings", rows.get("readings", 0)),
                trn("{n} note", "{n} notes", rows.get("notes", 0)),
            )
        )
        lines = [tr("Read: {facts}.", facts=facts)]
        lines += [
            tr("Of {table} not all could be read: {why}.", table=table, why=why)
            for table, why in self.troubled.items()
        ]
        if self.loose:
            lines.append(tr("{loose} entries that belonged to lost ones were left out.", loose=self.loose))
        if self.garbled:
            lines.append(
                tr("{garbled} entries made no sense any more and were left out.", garbled=self.garbled)
            )
        if self.patched:
            lines.append(
                trn(
                    "{n} entry had lost a date, a note or a setting; it was kept without it, and bears the study's first "
                    "date where its own is gone.",
                    "{n} entries had lost a date, a note or a setting; they were kept without it, and bear the study's "
                    "first date where their own is gone.",
                    self.patched,
                )
            )
        return "\n".join(lines)


def recover(path: Path, target: Path) -> Recovered:
    """A new study from what can be read of a damaged one; the damaged file is only read.

    Parameters
    ----------
    path : Path of the damaged study
    target : Path of the new one, which must not be there yet

    Raises
    ------
    CulmoError
        when nothing at all can be read, or the new study can not be made
    """
    if not path.is_file():
        raise CulmoError(tr('there is no study at "{path}"', path=path))
    report = Recovered()
    tables = _read_what_can_be(path, report)
    if not any(rows for table, rows in tables.items() if table != "meta"):
        raise CulmoError(
            tr(
                'nothing can be read of "{name}"; look for a copy in "{name2}"',
                name=path.name,
                name2=backups_folder(path).name,
            )
        )
    kept = {
        table: [_readable(table, row) for row in rows if _makes_sense(table, row)]
        for table, rows in tables.items()
    }
    with Study.create(target, path.stem) as study:
        report.loose, report.patched = study.fill(kept)
        report.rows = {table: len(rows) for table, rows in study.dump().items()}
    lost = sum(len(tables[table]) - report.rows[table] for table in tables if table != "meta")
    report.garbled = lost - report.loose
    return report


def _read_what_can_be(path: Path, report: Recovered) -> dict[str, list[dict[str, Any]]]:
    with tempfile.TemporaryDirectory() as folder:
        # on a copy: one that was cut off is filled up to its full length, else SQLite refuses all of it
        copy = Path(folder) / "copy"
        try:
            data = path.read_bytes()
            copy.write_bytes(data)
            # lengthened, not written: a head that is damaged too may claim any length
            os.truncate(copy, len(data) + _lacking(data))
            db = sqlite3.connect(f"{copy.absolute().as_uri()}?mode=ro&immutable=1", uri=True)
        except (sqlite3.Error, OSError, ValueError) as error:
            raise CulmoError(
                tr('"{name}" can not be opened ({error})', name=path.name, error=error)
            ) from None
        db.row_factory = sqlite3.Row
        db.text_factory = lambda text: text.decode("utf-8", errors="replace")
        try:
            if _owner(db) not in (APPLICATION_ID, None):
                raise CulmoError(tr('"{name}" is not a study of Culmo', name=path.name))
            return {table: _read_table(db, table, report) for table in TABLES}
        finally:
            db.close()


def _lacking(data: bytes) -> int:
    """How many bytes a file lacks of what its head says, as far as that can be believed."""
    page = int.from_bytes(data[16:18], "big") if len(data) > 32 else 0
    wanted = page * int.from_bytes(data[28:32], "big")
    return min(max(wanted - len(data), 0), _MOST_LACKING) if page in (512, 1024, 2048, 4096, 8192) else 0


def _owner(db: sqlite3.Connection) -> int | None:
    """Whose file it says it is; None where its head is damaged: what lies behind it may still be read."""
    try:
        return int(db.execute("PRAGMA application_id").fetchone()[0])
    except (sqlite3.DatabaseError, ValueError):
        return None


def _makes_sense(table: str, row: dict[str, Any]) -> bool:
    """Whether the rest of Culmo could read the texts of a row; its values are judged by `Study.fill`."""
    try:
        if "recipe" in row:
            parse_recipe(str(row["recipe"]))
        if table == "sheets":
            sheet_from_dict({**json.loads(row["layout"]), "cells": []})
    except (CulmoError, ValueError, TypeError, KeyError, RecursionError):
        return False
    return True


def _readable(table: str, row: dict[str, Any]) -> dict[str, Any]:
    """A row in which JSON that is nested too deeply for Culmo is as good as none; SQLite reads deeper."""
    for column in JSON_COLUMNS.get(table, ()):
        try:
            json.loads(row.get(column) or "{}")
        except (ValueError, TypeError, RecursionError):
            row = {**row, column: "?"}
    return row


def _read_table(db: sqlite3.Connection, table: str, report: Recovered) -> list[dict[str, Any]]:
    rows: dict[int, dict[str, Any]] = {}
    try:
        for row in db.execute(f"SELECT * FROM {table} ORDER BY id"):
            rows[row["id"]] = dict(row)
        return list(rows.values())
    except (sqlite3.Error, TypeError, ValueError, OverflowError) as error:
        report.troubled[table] = str(error)
    # past the damage one by one
    misses, number = 0, max((i for i in rows if isinstance(i, int)), default=0)
    while misses < _MOST_MISSES:
        number += 1
        try:
            found = db.execute(f"SELECT * FROM {table} WHERE id = ?", (number,)).fetchone()
        except (sqlite3.Error, TypeError, ValueError, OverflowError):
            found = None
        if found is None:
            misses += 1
        else:
            rows[number] = dict(found)
            misses = 0
    return list(rows.values())
