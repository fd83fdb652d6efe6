"""SQLite's connection to a study file: opened, compared with what Culmo makes, brought up to date, copied."""

import os
import re
import sqlite3
from collections.abc import Callable
from contextlib import closing
from functools import cache
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.aside import Put
from culmo.study.schema import APPLICATION_ID, MIGRATIONS, VERSION
from culmo.study.troubles import READING, StudyFileError, Trouble, sentence, trouble_of, why
from culmo.study.whole_file import sync
from culmo.words import tr

_CACHE_KB = 64 * 1024  # a study's pages stay at hand, so that one that is written over can still be copied
# how the columns of pictures that lie inside stand in a slim copy
_ASIDE = {
    "photos": {
        "path": "CASE WHEN data IS NULL THEN path ELSE put_aside('photos', id, created, name, LENGTH(data)) END",
        "data": "NULL",
    },
    "patches": {
        "path": "CASE WHEN data IS NULL THEN path "
        "ELSE put_aside('patches', id, created, digest || '.jpg', LENGTH(data)) END",
        "data": "NULL",
    },
}
Thing = tuple[str, str, str]  # kind, name and words of a table, index, trigger or view


def connect(path: Path) -> sqlite3.Connection:
    """A connection to a study file, which may not be there yet.

    Raises
    ------
    StudyFileError
        when it can not be opened
    """
    try:
        # one thread at a time uses it: on opening a second one looks for damage while the first waits
        db = sqlite3.connect(path.absolute(), timeout=0.3, isolation_level=None, check_same_thread=False)
    except sqlite3.Error as error:
        raise not_opened(path, error) from None
    try:
        db.row_factory = sqlite3.Row
        db.create_function("folded", 1, _folded, deterministic=True)
        # what a file brings along is not trusted to be harmless (sqlite.org/security.html)
        db.execute("PRAGMA trusted_schema=OFF")
        db.execute(f"PRAGMA cache_size=-{_CACHE_KB}")
    except (sqlite3.Error, UnicodeDecodeError) as error:
        db.close()
        raise not_opened(path, error) from None
    return db


def _folded(text: object) -> str:
    """Text for comparing, whatever its case; SQLite's own folds the letters of English alone."""
    return str(text or "").casefold()


def take_hold(db: sqlite3.Connection, path: Path) -> None:
    """Keep everybody else out of a study's file from now on; a journal that a crash left is rolled back.

    Raises
    ------
    CulmoError
        when it is no study, damaged, open elsewhere, or can not be written
    """
    try:
        db.execute("PRAGMA locking_mode=EXCLUSIVE")
        db.execute("PRAGMA foreign_keys=ON")
        check_owner(db, path.name)
        db.execute("BEGIN EXCLUSIVE")
        db.execute("COMMIT")
    except READING as error:
        raise not_opened(path, error) from None


def check_owner(db: sqlite3.Connection, name: str) -> None:
    """Whether a file says that it is a study.

    Raises
    ------
    CulmoError
        when it does not
    """
    if db.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        raise CulmoError(tr('"{name}" is not a study of Culmo', name=name))


def not_opened(path: Path, error: Exception) -> StudyFileError:
    """That a study can not be opened, in words."""
    kind = trouble_of(error, path)
    if kind is Trouble.LOCKED:
        words = tr('"{name}" is open in another window or program; close it there first', name=path.name)
        return StudyFileError(kind, words)
    if kind is Trouble.DAMAGED:
        words = tr('"{name}" is not a study of Culmo, or is damaged ({error})', name=path.name, error=error)
        return StudyFileError(kind, words)
    said = tr('"{path}" can not be opened for writing: {why}', path=path, why=why(kind, error))
    return StudyFileError(kind, sentence(said, kind))


# ---- versions


def version_of(db: sqlite3.Connection, name: str) -> int:
    """The version of a study's tables.

    Raises
    ------
    CulmoError
        when it is newer than this program
    """
    found = int(db.execute("PRAGMA user_version").fetchone()[0])
    if found > VERSION:
        raise CulmoError(
            tr(
                '"{name}" was written by a newer Culmo (version {found} of the file, this one reads up '
                "to {VERSION}); it is left as it is",
                name=name,
                found=found,
                VERSION=VERSION,
            )
        )
    return found


def version_in(path: Path) -> int:
    """The version that a file's head says, without opening it as a database; 0 where it has none.

    (sqlite.org/fileformat2.html, 1.3.14: the user version, at byte 60.)
    """
    with doors.opened(path) as descriptor:
        return int.from_bytes(os.pread(descriptor, 4, 60), "big")


def migrate(db: sqlite3.Connection, version: int, upto: int = VERSION) -> None:
    """Bring a file up to date; the version is recorded in the same transaction as the last table."""
    db.execute("BEGIN IMMEDIATE")
    try:
        for script in MIGRATIONS[version:upto]:
            for statement in script.split(";\n"):
                if statement.strip():
                    db.execute(statement)
        db.execute(f"PRAGMA user_version={upto}")
        db.execute("COMMIT")
    except BaseException:
        if db.in_transaction:
            db.execute("ROLLBACK")
        raise


@cache
def blank() -> bytes:
    """A study that holds nothing, as the bytes of its file: its tables are laid out once, however many studies begin."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as db:
        db.execute(f"PRAGMA application_id={APPLICATION_ID}")
        migrate(db, 0)
        return db.serialize()


@cache
def blueprint(version: int) -> frozenset[Thing]:
    """All tables and indexes that a study of a version has."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as db:
        migrate(db, 0, version)
        return frozenset(_things(db))


def _things(db: sqlite3.Connection) -> list[Thing]:
    rows = db.execute("SELECT type, name, sql FROM sqlite_master")
    # SQLite's own have no words, or are its statistics
    return [
        (str(kind), str(name), re.sub(r"\s+", " ", str(sql)))
        for kind, name, sql in rows
        if sql is not None and not str(name).startswith("sqlite_")
    ]


def foreign_things(db: sqlite3.Connection, version: int) -> list[str]:
    """What a file has beside or instead of a study's own tables and indexes, such as triggers; empty where it is as made.

    Parameters
    ----------
    db : connection
    version : int, as the file says
    """
    if version < 1:
        return [tr("it has no tables")]
    found, wanted = set(_things(db)), blueprint(version)
    there = {(kind, name) for kind, name, _ in found}
    odd = [f"{kind} {name}" for kind, name, _ in sorted(found - wanted)]
    lacking = [f"{kind} {name}" for kind, name, _ in sorted(wanted) if (kind, name) not in there]
    return [*odd, *(tr("{thing} is missing", thing=thing) for thing in lacking)]


# ---- which file it is


def new_origin(db: sqlite3.Connection, of: tuple[str, int] | None = None, schema: str = "main") -> None:
    """Give a file a name that no other file has; a copy also says what it was made of.

    By it a journal is told from that of another file (`culmo.study.sidecars`).

    Parameters
    ----------
    db : connection
    of : tuple of the name and the acts of the file that it is a copy of
    schema : str, under which name the file is attached; written in this program, never typed text
    """
    token, acts = of or ("", 0)
    db.execute(f"DELETE FROM {schema}.origin")
    db.execute(
        f"INSERT INTO {schema}.origin (id, token, acts, of_token, of_acts) VALUES (1, ?, 0, ?, ?)",
        (os.urandom(16).hex(), token, acts),
    )


def origin_of(db: sqlite3.Connection) -> tuple[str, int] | None:
    """The name of a file, and how often it was written since; None in files of older versions and damaged ones."""
    try:
        row = db.execute("SELECT token, acts FROM origin WHERE id = 1").fetchone()
        return None if row is None else (str(row[0]), int(row[1]))
    except (sqlite3.Error, ValueError, TypeError):
        return None


def copy_into(
    db: sqlite3.Connection, path: Path, after: Callable[[sqlite3.Connection], None] | None = None
) -> None:
    """A whole copy of an open study by SQLite's own backup, under a name of its own, on the disk when this returns.

    Parameters
    ----------
    db : connection
    path : Path of a file that is not there or is empty
    after : what is done to the copy before it is closed

    Raises
    ------
    sqlite3.Error, OSError
        when it can not be written
    """
    of = origin_of(db)
    with closing(sqlite3.connect(path.absolute(), isolation_level=None)) as other:
        db.backup(other)
        if int(other.execute("PRAGMA user_version").fetchone()[0]) == VERSION:
            new_origin(other, of)
        if after is not None:
            after(other)
    sync(path)


def made_of(path: Path) -> tuple[str, int] | None:
    """Of which file, and after how many acts, a copy was made; None where it can not say."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as db:
            row = db.execute("SELECT of_token, of_acts FROM origin WHERE id = 1").fetchone()
            return None if row is None else (str(row[0]), int(row[1]))
    except (sqlite3.Error, ValueError, TypeError):
        return None


def copy_slim(db: sqlite3.Connection, path: Path, put: Put) -> None:
    """A copy of an open study, on the disk when this returns; the pictures inside it are put aside.

    Parameters
    ----------
    db : connection
    path : Path of an empty file
    put : function that puts a picture aside and gives its path

    Raises
    ------
    sqlite3.Error, OSError
        when it can not be written
    """
    of, failed = origin_of(db), []

    def kept(table: str, row_id: int, created: str, name: str, size: int) -> str | None:
        def read() -> bytes:
            return bytes(db.execute(f"SELECT data FROM main.{table} WHERE id = ?", (row_id,)).fetchone()[0])

        try:
            return put((table, row_id, created, size), name, read)
        except (OSError, CulmoError) as error:  # SQLite would say only that something failed
            failed.append(error)
            return None

    path.write_bytes(blank())
    db.create_function("put_aside", 5, kept)
    db.execute("ATTACH ? AS slim", (str(path.absolute()),))
    try:
        db.execute("PRAGMA slim.synchronous=OFF")
        db.execute("BEGIN")
        try:
            db.execute("PRAGMA defer_foreign_keys=ON")
            for (table,) in db.execute("SELECT name FROM main.sqlite_master WHERE type = 'table'").fetchall():
                if not table.startswith("sqlite_"):
                    columns = [row[1] for row in db.execute(f"PRAGMA main.table_info({table})")]
                    taken = [_ASIDE.get(table, {}).get(name, name) for name in columns]
                    db.execute(f"DELETE FROM slim.{table}")
                    db.execute(
                        f"INSERT INTO slim.{table} ({', '.join(columns)}) SELECT {', '.join(taken)} FROM main.{table}"
                    )
            new_origin(db, of, "slim")
            db.execute("COMMIT")
        finally:
            if db.in_transaction:
                db.execute("ROLLBACK")
    finally:
        db.execute("DETACH slim")
    if failed:
        raise failed[0]
    sync(path)
