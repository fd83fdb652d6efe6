"""The study file: one SQLite database, opened by one window at a time, each act committed at once."""

import shutil
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import Any

from culmo.errors import CulmoError
from culmo.study.schema import APPLICATION_ID, MIGRATIONS, TABLES, VERSION
from culmo.study.soundness import odd, odd_by_column, problems_of, spares
from culmo.words import tr

SUFFIX = ".culmo"
Row = dict[str, Any]


@dataclass(frozen=True)
class Change:
    """One row before and after; None where it does not exist.

    Attributes
    ----------
    table : str, one of TABLES
    id : int
    before, after : mapping of column to value, or None
    """

    table: str
    id: int
    before: Mapping[str, Any] | None
    after: Mapping[str, Any] | None


@dataclass(frozen=True)
class Command:
    """One act of the painter: done and undone as a whole.

    Attributes
    ----------
    title : str, as the Edit menu shows it
    changes : tuple of Change, in the order of doing
    """

    title: str
    changes: tuple[Change, ...]


def now() -> str:
    """The present moment with its offset, to the second."""
    return datetime.now().astimezone().isoformat(timespec="seconds")


class Study:
    """An open study.

    Parameters
    ----------
    path : Path of an existing study; use `create` for a new one
    clock : function that gives the present moment as ISO 8601 text

    Raises
    ------
    CulmoError
        when the file is missing, foreign, damaged, newer than this Culmo, or open elsewhere
    """

    def __init__(self, path: Path, clock: Callable[[], str] = now) -> None:
        self.path = Path(path)
        self.clock = clock
        if not self.path.is_file():
            raise CulmoError(tr('there is no study at "{path}"', path=self.path))
        self._db = _connect(self.path)
        try:
            self._take_hold()
            self._upgrade()
            self._columns = {table: self._column_names(table) for table in TABLES}
            self._odd: dict[str, str] = {}
        except sqlite3.DatabaseError as error:
            self._db.close()
            raise self._damaged(error) from None
        except BaseException:
            self._db.close()
            raise

    def _column_names(self, table: str) -> list[str]:
        return [row["name"] for row in self._db.execute(f"PRAGMA table_info({table})")]

    def _damaged(self, error: sqlite3.Error) -> CulmoError:
        return CulmoError(
            tr(
                '"{name}" is damaged ({error}); it is left as it is. What can be read of it can be '
                'recovered (File menu, or culmo check --recover), and copies lie in "{stem} backups"',
                name=self.path.name,
                error=error,
                stem=self.path.stem,
            )
        )

    @classmethod
    def create(cls, path: Path, title: str, clock: Callable[[], str] = now) -> "Study":
        """A new, empty study.

        Raises
        ------
        CulmoError
            when there is a file already or the folder can not be written
        """
        path = Path(path)
        if path.exists():
            raise CulmoError(tr('"{path}" exists already; choose another name', path=path))
        try:
            db = _connect(path)
            try:
                db.execute(f"PRAGMA application_id={APPLICATION_ID}")
                _migrate(db, 0)
                db.execute(
                    "INSERT INTO meta (key, value) VALUES ('title', ?), ('created', ?)", (title, clock())
                )
            finally:
                db.close()
        except (sqlite3.Error, OSError) as error:
            raise CulmoError(
                tr(
                    '"{path}" could not be made ({error}); is the folder there and writable?',
                    path=path,
                    error=error,
                )
            ) from None
        return cls(path, clock)

    def _take_hold(self) -> None:
        try:
            self._db.execute("PRAGMA locking_mode=EXCLUSIVE")
            self._db.execute("PRAGMA foreign_keys=ON")
            found = self._db.execute("PRAGMA application_id").fetchone()[0]
            if found != APPLICATION_ID:
                raise CulmoError(tr('"{name}" is not a study of Culmo', name=self.path.name))
            self._db.execute("BEGIN EXCLUSIVE")
            self._db.execute("COMMIT")
        except sqlite3.OperationalError as error:
            if "locked" in str(error):
                raise CulmoError(
                    tr(
                        '"{name}" is open in another window or program; close it there first',
                        name=self.path.name,
                    )
                ) from None
            raise CulmoError(
                tr('"{path}" can not be opened for writing ({error})', path=self.path, error=error)
            ) from None
        except sqlite3.DatabaseError as error:
            raise CulmoError(
                tr(
                    '"{name}" is not a study of Culmo, or is damaged ({error})',
                    name=self.path.name,
                    error=error,
                )
            ) from None

    def _upgrade(self) -> None:
        found = int(self._db.execute("PRAGMA user_version").fetchone()[0])
        if found > VERSION:
            raise CulmoError(
                tr(
                    '"{name}" was written by a newer Culmo (version {found} of the file, this one reads up '
                    "to {VERSION}); it is left as it is",
                    name=self.path.name,
                    found=found,
                    VERSION=VERSION,
                )
            )
        if found < VERSION:
            copy = self.path.with_name(f"{self.path.stem}.v{found}{SUFFIX}")
            if not copy.exists():
                shutil.copy2(self.path, copy)
            _migrate(self._db, found)

    def close(self) -> None:
        """Let go of the file."""
        self._db.close()

    def __enter__(self) -> "Study":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    # ---- reading

    def rows(self, table: str, where: str = "", values: tuple[Any, ...] = (), order: str = "id") -> list[Row]:
        """Rows of a table as dicts. `where` and `order` are SQL written in this program, never typed text."""
        assert table in TABLES
        clause = f" WHERE {where}" if where else ""
        query = f"SELECT * FROM {table}{clause} ORDER BY {order}"
        return self.select(query, values)

    def select(self, query: str, values: Mapping[str, Any] | tuple[Any, ...] = ()) -> list[Row]:
        """What a SELECT over several tables gives; `folded(text)` may stand in it.

        `query` is written in this program, never typed text.
        """
        try:
            return [dict(row) for row in self._db.execute(query, values)]
        except sqlite3.DatabaseError as error:
            raise self._damaged(error) from None

    def row(self, table: str, row_id: int) -> Row:
        """One row.

        Raises
        ------
        CulmoError
            when it is gone
        """
        found = self.rows(table, "id = ?", (row_id,))
        if not found:
            raise CulmoError(
                tr("the entry {row_id} of {table} is no longer there", row_id=row_id, table=table)
            )
        return found[0]

    def next_id(self, table: str) -> int:
        """An id that no row of the table has."""
        assert table in TABLES
        return int(self._db.execute(f"SELECT COALESCE(MAX(id), 0) + 1 FROM {table}").fetchone()[0])

    def dump(self) -> dict[str, list[Row]]:
        """Everything, table by table."""
        return {table: self.rows(table) for table in TABLES}

    @property
    def title(self) -> str:
        """The study's title."""
        return str(self.rows("meta", "key = 'title'")[0]["value"])

    @property
    def created(self) -> str:
        """When the study was begun."""
        found = self.rows("meta", "key = 'created' AND julianday(value) NOT NULL")
        try:
            return datetime.fromisoformat(found[0]["value"]).isoformat() if found else self.clock()
        except (ValueError, TypeError):
            return self.clock()

    def problems(self) -> list[str]:
        """What is unsound in the file; empty when all is well."""
        return problems_of(self._db, TABLES)

    def copy_to(self, path: Path) -> None:
        """A copy of the file as it stands between two acts, by SQLite's own backup.

        Raises
        ------
        sqlite3.Error, OSError
            when it could not be written
        """
        other = sqlite3.connect(path)
        try:
            self._db.backup(other)
        finally:
            other.close()

    def put_back(self) -> None:
        """Write the file where it was, when it was taken away while it is open.

        Raises
        ------
        CulmoError
            when it can not be written there
        """
        try:
            self.copy_to(self.path)
        except (sqlite3.Error, OSError) as error:
            raise CulmoError(
                tr('"{name}" was gone from its folder and can not be written there again ({error}): export the '
                   "whole study now (File menu)", name=self.path.name, error=error)
            ) from None  # fmt: skip

    # ---- writing

    def fill(self, tables: Mapping[str, list[Row]]) -> tuple[int, int]:
        """Rows of a damaged file into this new study, each that fits.

        Parameters
        ----------
        tables : from table to rows, in which anything may be wrong

        Returns
        -------
        loose : int, how many pointed to rows that are gone, and were left out
        patched : int, how many were kept without a value of theirs that made no sense: a date, a note, a setting
        """
        patched = 0
        with self._transaction():
            self._db.execute("PRAGMA defer_foreign_keys=ON")
            for table in TABLES:
                if table == "meta" and tables.get(table):
                    self._db.execute("DELETE FROM meta")
                for row in tables.get(table, ()):
                    patched += self._take(table, row)
            if not self._db.execute("SELECT 1 FROM meta WHERE key = 'title'").fetchone():
                self._db.execute("INSERT INTO meta (key, value) VALUES ('title', ?)", (self.path.stem,))
            loose = 0
            while True:
                found = self._db.execute("PRAGMA foreign_key_check").fetchall()
                if not found:
                    return loose, patched
                for table, row_id, *_ in found:
                    loose += self._db.execute(f"DELETE FROM {table} WHERE rowid = ?", (row_id,)).rowcount

    def _take(self, table: str, row: Row) -> bool:
        """A row that may be damaged; one that the table does not take, or that makes no sense, is passed over.

        Says whether something beside the thing itself was put in the place of a value that was lost.
        """
        spare = spares(self._db, table)
        names = [name for name in self._columns[table] if name in row]
        # a value that is gone is what a new entry begins with
        lost = [name for name in names if row[name] is None and spare.get(name, "NULL") != "NULL"]
        names = [name for name in names if name not in lost]
        missing = [name for name in spare if spare[name] == ":moment" and name not in names]
        marks = ", ".join(["?"] * len(names) + ["?"] * len(missing))
        values = [row[name] for name in names] + [self.created] * len(missing)
        try:
            self._db.execute(
                f"INSERT INTO {table} ({', '.join([*names, *missing])}) VALUES ({marks})", values
            )
        except (sqlite3.IntegrityError, sqlite3.DataError, OverflowError):
            return False
        row_id = self._db.execute("SELECT last_insert_rowid()").fetchone()[0]
        patched = bool(lost or missing)
        if self._is_odd(table, row_id):
            bad = [
                name
                for name, condition in odd_by_column(self._db, table).items()
                if self._db.execute(
                    f"SELECT 1 FROM {table} WHERE id = ? AND ({condition})", (row_id,)
                ).fetchone()
            ]
            if any(name not in spare for name in bad):
                self._db.execute(f"DELETE FROM {table} WHERE id = ?", (row_id,))
                return False
            for name in bad:
                where = {"id": row_id, "moment": self.created}
                self._db.execute(f"UPDATE {table} SET {name} = {spare[name]} WHERE id = :id", where)
            patched = True
        return patched

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        try:
            self._db.execute("BEGIN IMMEDIATE")
            yield
            self._db.execute("COMMIT")
        except (
            sqlite3.Error,
            OSError,
            OverflowError,
        ) as error:  # the last: a whole number that no column holds
            if self._db.in_transaction:
                self._db.execute("ROLLBACK")
            raise CulmoError(
                tr(
                    '"{name}" could not be saved ({error}); the study is as it was before this act',
                    name=self.path.name,
                    error=error,
                )
            ) from None
        except BaseException:
            if self._db.in_transaction:
                self._db.execute("ROLLBACK")
            raise

    def apply(self, command: Command) -> None:
        """Do an act and commit it.

        Raises
        ------
        CulmoError
            when it could not be saved; the study is then unchanged
        """
        with self._transaction():
            for change in command.changes:
                self._write(change.table, change.id, change.before, change.after)

    def revert(self, command: Command) -> None:
        """Undo an act and commit that; the study is then as it was before `apply`."""
        with self._transaction():
            for change in reversed(command.changes):
                self._write(change.table, change.id, change.after, change.before)

    def _write(
        self, table: str, row_id: int, before: Mapping[str, Any] | None, after: Mapping[str, Any] | None
    ) -> None:
        columns = self._columns[table]
        if after is None:
            done = self._db.execute(f"DELETE FROM {table} WHERE id = ?", (row_id,)).rowcount
        elif before is None:
            names = [name for name in columns if name in after]
            marks = ", ".join("?" * len(names))
            self._db.execute(
                f"INSERT INTO {table} ({', '.join(names)}) VALUES ({marks})", [after[name] for name in names]
            )
            done = 1
        else:
            names = [name for name in columns if name in after and name != "id"]
            setting = ", ".join(f"{name} = ?" for name in names)
            done = self._db.execute(
                f"UPDATE {table} SET {setting} WHERE id = ?", [*(after[name] for name in names), row_id]
            ).rowcount
        if done != 1:
            raise CulmoError(
                tr(
                    "the entry {row_id} of {table} is no longer there; nothing was changed",
                    row_id=row_id,
                    table=table,
                )
            )
        # what a study would not be opened with again is not saved in the first place
        if after is not None and self._is_odd(table, row_id):
            raise CulmoError(
                tr("an entry of {table} holds a value that makes no sense; nothing was changed", table=table)
            )

    def _is_odd(self, table: str, row_id: int) -> bool:
        if table not in self._odd:
            self._odd[table] = odd(self._db, table)
        query = f"SELECT 1 FROM {table} WHERE id = ? AND ({self._odd[table]})"
        return self._db.execute(query, (row_id,)).fetchone() is not None


def _connect(path: Path) -> sqlite3.Connection:
    try:
        # one thread at a time uses it: on opening a second one looks for damage while the first waits
        db = sqlite3.connect(path, timeout=0.3, isolation_level=None, check_same_thread=False)
    except sqlite3.Error as error:
        raise CulmoError(tr('"{path}" can not be opened ({error})', path=path, error=error)) from None
    db.row_factory = sqlite3.Row
    db.create_function("folded", 1, _folded, deterministic=True)
    return db


def _folded(text: object) -> str:
    """Text for comparing, whatever its case; SQLite's own folds the letters of English alone."""
    return str(text or "").casefold()


def _migrate(db: sqlite3.Connection, version: int) -> None:
    """Bring a file up to date; the version is recorded in the same transaction as the last table."""
    db.execute("BEGIN IMMEDIATE")
    try:
        for script in MIGRATIONS[version:]:
            for statement in script.split(";\n"):
                if statement.strip():
                    db.execute(statement)
        db.execute(f"PRAGMA user_version={VERSION}")
        db.execute("COMMIT")
    except BaseException:
        db.execute("ROLLBACK")
        raise
