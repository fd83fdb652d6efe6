"""What is unsound in a study file: its pages, its links, and values that nothing could be made of."""

import sqlite3
from datetime import datetime, timedelta

from culmo.words import tr, trn

DATES = {
    "paints": ("created",), "boxes": ("created",), "sheets": ("created",), "runs": ("started", "ended"),
    "strokes": ("at", "dried"), "photos": ("taken", "created"), "readings": ("taken",),
    "patches": ("taken", "created"), "notes": ("created",),
    "palettes": ("created",), "events": ("at",), "fades": ("started", "ended"), "pauses": ("started", "ended"),
    "guesses": ("at",), "mixes": ("created",), "draws": ("at",),
}  # fmt: skip
JSON_COLUMNS = {
    "paints": ("label",), "boxes": ("settings",), "sheets": ("layout",), "cells": ("outline_mm", "fade_mm", "meets"),
    "runs": ("settings",), "photos": ("placement",), "readings": ("extra",), "palettes": ("reach",), "fades": ("weeks",),
    "draws": ("predicted",), "patches": ("texture",),
}  # fmt: skip
# what is said beside the thing itself; what was painted, with what and how it looked, can not be made up
_SPARE = {
    "note", "label", "settings", "placement", "extra", "reach", "weeks", "grain", "granulation", "separation", "dry_hours",
    "position", "marks", "purpose", "reason", "at_minute", "meets", "half_of", "stage", "shape",
    "predicted", "texture",
}  # fmt: skip
# what a value of a declared type may be; null is seen to by the table itself
_FITS = {"TEXT": "'text'", "INTEGER": "'integer'", "REAL": "'real', 'integer'", "BLOB": "'blob'"}
_COLOURED = ("readings", "targets", "draws")


def problems_of(db: sqlite3.Connection, tables: tuple[str, ...]) -> list[str]:
    """What is unsound, in words for those who mend it; empty when all is well.

    The values are looked at by SQLite itself, so that ten thousand of them take some hundredths of a second.
    """
    try:
        found = [str(row[0]) for row in db.execute("PRAGMA integrity_check") if row[0] != "ok"]
        found += [
            tr("{table} {id} points to a missing entry of {other}", table=row[0], id=row[1], other=row[2])
            for row in db.execute("PRAGMA foreign_key_check")
        ]
        for table in tables:
            count = db.execute(f"SELECT COUNT(*) FROM {table} WHERE {odd(db, table)}").fetchone()[0]
            if count:
                found.append(
                    trn(
                        "{table}: {n} entry holds values that make no sense",
                        "{table}: {n} entries hold values that make no sense",
                        count, table=table,
                    )
                )  # fmt: skip
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        return [str(error)]
    return found


def odd(db: sqlite3.Connection, table: str) -> str:
    """The condition, in SQL, under which a row of a table makes no sense; the same on opening and on saving."""
    return " OR ".join(odd_by_column(db, table).values()) or "0"


def odd_by_column(db: sqlite3.Connection, table: str) -> dict[str, str]:
    """The condition, in SQL, under which a column's value makes no sense, for each column that can be judged."""
    clauses: dict[str, list[str]] = {}
    for column in db.execute(f"PRAGMA table_info({table})"):
        name, kind = column["name"], column["type"]
        own = clauses.setdefault(name, [])
        if kind in _FITS:
            own.append(f"({name} IS NOT NULL AND typeof({name}) NOT IN ({_FITS[kind]}))")
        if kind == "REAL":  # an endless number is none
            own.append(f"({name} IS NOT NULL AND NOT ABS({name}) < 1e12)")
    # a date is one that SQLite can reckon with, and Python too: with its hour, and no 31st of February, which SQLite
    # takes for the 3rd of March. Every moment of a long life is looked at on opening, so what is slow in SQLite
    # (a pattern that may begin anywhere, a second reckoning) is put so that few moments come to it
    for name in DATES.get(table, ()):
        clauses[name].append(
            f"({name} IS NOT NULL AND ({name} NOT GLOB '????-??-??T??:??*' OR julianday({name}) IS NULL "
            f"OR ltrim({name}, '-0123456789T:.+Z') <> '' OR {name} < '0001' OR substr({name}, 12, 2) > '23' "
            f"OR (substr({name}, 9, 2) > '28' "
            f"AND strftime('%d', substr({name}, 1, 10), '+0 days') <> substr({name}, 9, 2))))"
        )
    for name in JSON_COLUMNS.get(table, ()):
        clauses[name].append(f"({name} IS NOT NULL AND {name} <> '' AND NOT json_valid({name}))")
    if table in _COLOURED:
        for name, least, most in (("L", 0, 100), ("a", -128, 128), ("b", -128, 128)):
            clauses[name].append(f"{name} NOT BETWEEN {least} AND {most}")
    return {name: " OR ".join(own) for name, own in clauses.items() if own}


def spares(db: sqlite3.Connection, table: str) -> dict[str, str]:
    """The columns of a table without which an entry is worth keeping, with what stands in for a lost value, in SQL.

    `:moment` in it is the moment that stands in for a lost date.
    """
    found: dict[str, str] = {}
    for column in db.execute(f"PRAGMA table_info({table})"):
        name = column["name"]
        if name not in _SPARE and name not in DATES.get(table, ()):
            continue
        if not column["notnull"]:
            found[name] = "NULL"
        elif column["dflt_value"] is not None:
            found[name] = column["dflt_value"]
        else:
            found[name] = ":moment"
    return found


def with_offset(moment: datetime) -> datetime:
    """A moment as it can be kept: one without an offset is of this machine's time.

    Raises
    ------
    ValueError, OverflowError
        when its offset is one that no place on earth has, or its year can not be reckoned with
    """
    offset = moment.utcoffset()
    if offset is None:
        return moment.astimezone()
    if abs(offset) > timedelta(hours=14) or offset % timedelta(minutes=1):
        raise ValueError(f"no place is {offset} from universal time")
    return moment


def moment_of(text: str) -> datetime:
    """A moment as the record keeps it; one without an offset, from elsewhere, is of this machine's time.

    Raises
    ------
    ValueError, OverflowError
        when it is no moment that can be reckoned with
    """
    return with_offset(datetime.fromisoformat(text))
