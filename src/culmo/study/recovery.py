"""What can be read of a damaged study, into a new one."""

import json
import os
import sqlite3
from collections.abc import Mapping
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from culmo.core.chart.sheet import sheet_from_dict
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.backups import backups_folder
from culmo.study.file import Row, Study
from culmo.study.photo_files import bring_pictures, confined, remove
from culmo.study.schema import APPLICATION_ID, TABLES
from culmo.study.sidecars import settled_copy
from culmo.study.soundness import JSON_COLUMNS, odd, odd_by_column, spares
from culmo.study.troubles import READING, Trouble, trouble_of, why
from culmo.study.unfinished import Unfinished, keep_unfinished
from culmo.words import tr, trn

_DEEPEST = 100  # levels of JSON
_MOST_LACKING = 2**30
_MOST_MISSES = 400  # ids in a row that can not be read before a table is given up


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
    pictures : int, pictures beside the study that were taken along
    missing : tuple of str, the names of those that are no longer there
    drafts : tuple of Unfinished, what was typed and not saved
    foreign : tuple of str, the endings of journals beside the study that are of another file and were not applied
    """

    rows: dict[str, int] = field(default_factory=dict)
    troubled: dict[str, str] = field(default_factory=dict)
    loose: int = 0
    garbled: int = 0
    patched: int = 0
    pictures: int = 0
    missing: tuple[str, ...] = ()
    drafts: tuple[Unfinished, ...] = ()
    foreign: tuple[str, ...] = ()

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
        if self.missing:
            lines.append(
                trn(
                    "{n} picture is no longer beside the study: {names}.",
                    "{n} pictures are no longer beside the study: {names}.",
                    len(self.missing),
                    names=", ".join(self.missing[:5]),
                )
            )
        if self.foreign:
            lines.append(tr("A journal beside the study is of another file and was not applied."))
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
    doors.check_name(path)
    if not os.path.lexists(path):
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
    brought: tuple[Path, ...] = ()
    try:
        with Study.building(target, path.stem) as study:
            report.loose, report.patched = fill(study, kept)
            report.rows = {table: len(rows) for table, rows in study.dump().items()}
            keep_unfinished(study, list({entry.place: entry for entry in report.drafts}.values()))
            came = bring_pictures(study, lambda own: confined(path.parent, own))
            brought, report.pictures, report.missing = came.files, len(came.files), came.missing
    except BaseException:
        remove(brought)
        raise
    lost = sum(len(tables[table]) - report.rows[table] for table in tables if table != "meta")
    report.garbled = lost - report.loose
    return report


def _read_what_can_be(path: Path, report: Recovered) -> dict[str, list[dict[str, Any]]]:
    with settled_copy(path) as settled:
        report.foreign = settled.foreign
        try:
            size = settled.path.stat().st_size
            with settled.path.open("rb") as file:
                head = file.read(100)
            # one that was cut off is filled up to its full length, else SQLite refuses all of it. It is lengthened, not
            # written: a head that is damaged too may claim any length
            os.truncate(settled.path, size + _lacking(head, size))
            db = sqlite3.connect(f"{settled.path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)
        except (sqlite3.Error, OSError, ValueError) as error:
            kind = trouble_of(error) if not isinstance(error, ValueError) else Trouble.OTHER
            raise CulmoError(
                tr('"{name}" can not be opened ({error})', name=path.name, error=why(kind, error))
            ) from None
        with closing(db):
            db.row_factory = sqlite3.Row
            db.text_factory = lambda text: text.decode("utf-8", errors="replace")
            db.execute("PRAGMA trusted_schema=OFF")
            if _owner(db) not in (APPLICATION_ID, None):
                raise CulmoError(tr('"{name}" is not a study of Culmo', name=path.name))
            drafts = [] if _is_no_table(db, "drafts") else _read_table(db, "drafts", Recovered())
            report.drafts = tuple(
                Unfinished(str(row["place"]), int(row["room"]), str(row["name"]), str(row["content"]))
                for row in drafts
                if isinstance(row.get("room"), int) and {"place", "name", "content"} <= set(row)
            )
            return {table: _read_table(db, table, report) for table in TABLES}


def _lacking(head: bytes, size: int) -> int:
    """How many bytes a file lacks of what its head says, as far as that can be believed."""
    page = int.from_bytes(head[16:18], "big") if len(head) > 32 else 0
    wanted = page * int.from_bytes(head[28:32], "big")
    return min(max(wanted - size, 0), _MOST_LACKING) if page in (512, 1024, 2048, 4096, 8192) else 0


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
            deep = _is_deep(json.loads(row.get(column) or "{}"))
        except (ValueError, TypeError, RecursionError):
            deep = True
        if deep:
            row = {**row, column: "?"}
    return row


def _is_deep(value: object, most: int = _DEEPEST) -> bool:
    """Whether JSON is nested more deeply than any that Culmo writes; how deep Python itself reads differs by version."""
    within = [value]
    for _ in range(most):
        within = [
            part
            for whole in within
            if isinstance(whole, dict | list)
            for part in (whole.values() if isinstance(whole, dict) else whole)
        ]
        if not within:
            return False
    return True


def _is_no_table(db: sqlite3.Connection, table: str) -> bool:
    """Whether something else bears the name of a table."""
    try:
        found = db.execute("SELECT type, sql FROM sqlite_master WHERE name = ?", (table,)).fetchone()
    except READING:
        return False  # told where the table is read
    return found is not None and (
        found[0] != "table" or str(found[1]).lstrip().upper().startswith("CREATE VIRTUAL")
    )


def _read_table(db: sqlite3.Connection, table: str, report: Recovered) -> list[dict[str, Any]]:
    rows: dict[int, dict[str, Any]] = {}
    if _is_no_table(db, table):
        report.troubled[table] = tr("it is no table")  # a view may do anything, and go on for ever
        return []
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


# ---- into the new study


def fill(study: Study, tables: Mapping[str, list[Row]]) -> tuple[int, int]:
    """Rows of a damaged file into this new study, each that fits.

    Parameters
    ----------
    tables : from table to rows, in which anything may be wrong

    Returns
    -------
    loose : int, how many pointed to rows that are gone, and were left out
    patched : int, how many were kept without a value of theirs that made no sense: a date, a note, a setting
    """
    patched, created = 0, study.created
    with study.disk.transaction() as db:
        db.execute("PRAGMA defer_foreign_keys=ON")
        for table in TABLES:
            if table == "meta" and tables.get(table):
                db.execute("DELETE FROM meta")
            for row in tables.get(table, ()):
                patched += _take(db, table, row, created)
            if table == "meta":
                created = study.created  # of the study that is recovered, and not of the new file
        if not db.execute("SELECT 1 FROM meta WHERE key = 'title'").fetchone():
            db.execute("INSERT INTO meta (key, value) VALUES ('title', ?)", (study.path.stem,))
        loose = 0
        while True:
            found = db.execute("PRAGMA foreign_key_check").fetchall()
            if not found:
                return loose, patched
            for table, row_id, *_ in found:
                loose += db.execute(f"DELETE FROM {table} WHERE rowid = ?", (row_id,)).rowcount


def _take(db: sqlite3.Connection, table: str, row: Row, created: str) -> bool:
    """A row that may be damaged; one that the table does not take, or that makes no sense, is passed over.

    Says whether something beside the thing itself was put in the place of a value that was lost.
    """
    spare = spares(db, table)
    names = [name for name in _columns(db, table) if name in row]
    # a value that is gone is what a new entry begins with
    lost = [name for name in names if row[name] is None and spare.get(name, "NULL") != "NULL"]
    names = [name for name in names if name not in lost]
    missing = [name for name in spare if spare[name] == ":moment" and name not in names]
    marks = ", ".join(["?"] * len(names) + ["?"] * len(missing))
    values = [row[name] for name in names] + [created] * len(missing)
    try:
        db.execute(f"INSERT INTO {table} ({', '.join([*names, *missing])}) VALUES ({marks})", values)
    except (sqlite3.IntegrityError, sqlite3.DataError, OverflowError):
        return False
    row_id = db.execute("SELECT last_insert_rowid()").fetchone()[0]
    patched = bool(lost or missing)
    if _is_odd(db, table, row_id):
        bad = [
            name
            for name, condition in odd_by_column(db, table).items()
            if db.execute(f"SELECT 1 FROM {table} WHERE id = ? AND ({condition})", (row_id,)).fetchone()
        ]
        if any(name not in spare for name in bad):
            db.execute(f"DELETE FROM {table} WHERE id = ?", (row_id,))
            return False
        for name in bad:
            where = {"id": row_id, "moment": created}
            db.execute(f"UPDATE {table} SET {name} = {spare[name]} WHERE id = :id", where)
        patched = True
    return patched


def _columns(db: sqlite3.Connection, table: str) -> list[str]:
    return [row["name"] for row in db.execute(f"PRAGMA table_info({table})")]


def _is_odd(db: sqlite3.Connection, table: str, row_id: int) -> bool:
    query = f"SELECT 1 FROM {table} WHERE id = ? AND ({odd(db, table)})"
    return db.execute(query, (row_id,)).fetchone() is not None
