"""The study file: one SQLite database, opened by one window at a time, each act committed at once."""

import os
import sqlite3
from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any

from culmo.errors import CulmoError
from culmo.study import connection, doors, sidecars
from culmo.study.aside import Aside
from culmo.study.holding import FoundFile, Holding, Whereabouts, check_free
from culmo.study.schema import APPLICATION_ID, SUFFIX, TABLES, VERSION
from culmo.study.soundness import odd, problems_of
from culmo.study.troubles import READING, StudyFileError, Trouble, not_read, not_saved, trouble_of, why
from culmo.study.whole_file import exists_already, sweep, whole_file
from culmo.words import tr, trn

if TYPE_CHECKING:
    from culmo.core.paint.character import Triple

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


class DisplacedError(StudyFileError):
    """The file of an open study is not where it was, or not as it was left; nothing was written to it."""

    def __init__(self, found: FoundFile, words: str) -> None:
        super().__init__(Trouble.GONE, words)
        self.found = found


class Study:
    """An open study.

    Parameters
    ----------
    path : Path of an existing study; use `create` for a new one
    clock : function that gives the present moment as ISO 8601 text
    called : Path, the name that it is to have, where it is still being built under another

    Raises
    ------
    CulmoError
        when the file is missing, foreign, damaged, newer than this Culmo, or open elsewhere
    """

    def __init__(self, path: Path, clock: Callable[[], str] = now, called: Path | None = None) -> None:
        self.path = Path(called or path)
        self.clock = clock
        self.told: list[str] = []  # what was noticed on opening, for the painter
        # readings from pictures by their ids: their colours as they stand, and as what is learned makes them; not stored
        self.told_anew: Mapping[int, tuple[Triple, Triple]] = {}
        self._odd: dict[str, str] = {}
        self._aside = Aside()
        if not os.path.lexists(path):
            raise CulmoError(tr('there is no study at "{path}"', path=doors.shown(Path(path))))
        self._open(Path(path))

    def _open(self, place: Path) -> None:
        check_free(place)
        if place == self.path:
            self._clear_leftovers(place)
        self.told += [
            tr('"{name}" lay beside the study and is of another file; it was not applied', name=name)
            for name in sidecars.settle(place)
        ]
        holding = Holding(place)
        try:
            db = connection.connect(place)
        except BaseException:
            holding.close()
            raise
        try:
            connection.take_hold(db, self.path)
            self._upgrade(db, place)
            self._columns = {table: _column_names(db, table) for table in TABLES}
            found = connection.origin_of(db)
            if holding.look().what not in (Whereabouts.HERE, Whereabouts.OVERWRITTEN):
                raise CulmoError(tr('"{name}" was just replaced; open it again', name=self.path.name))
            holding.note()
        except BaseException as error:
            db.close()
            holding.close()
            if isinstance(error, READING):
                raise not_read(self.path.name, error, place) from None
            raise
        self._db, self._holding = db, holding
        self.acts = found[1] if found is not None else 0

    def _clear_leftovers(self, place: Path) -> None:
        """Take away what a program that was killed had begun beside the study, and say so."""
        copies, pictures = (place.with_name(f"{place.stem} {what}") for what in ("backups", "pictures"))
        begun = [*sweep(place.parent, only=place.stem), *sweep(copies, copies / "pictures", pictures)]
        if begun:
            self.told.append(
                trn("{n} file that was begun and never finished was taken away: {names}",
                    "{n} files that were begun and never finished were taken away: {names}",
                    len(begun), names=", ".join(begun[:3]))
            )  # fmt: skip

    @classmethod
    def create(cls, path: Path, title: str, clock: Callable[[], str] = now) -> "Study":
        """A new, empty study.

        Raises
        ------
        CulmoError
            when there is a file already or the folder can not be written
        """
        with cls.building(path, title, clock):
            pass
        return cls(path, clock)

    @classmethod
    @contextmanager
    def building(
        cls, path: Path, title: str, clock: Callable[[], str] = now, over: bool = False
    ) -> Iterator["Study"]:
        """A new study that is filled before it is there: whole with the end of the block, or not at all.

        Parameters
        ----------
        path : Path
        title : str
        clock : as of a study
        over : bool, whether it may take the place of an earlier one, which stands till then

        Raises
        ------
        CulmoError
            when there is a file already or the folder can not be written
        """
        path = Path(path)
        if os.path.lexists(path) and not over:
            raise exists_already(path)
        sidecars.set_all_aside(path)
        with whole_file(path, over) as part:
            try:
                db = connection.connect(part)
                try:
                    db.execute(f"PRAGMA application_id={APPLICATION_ID}")
                    connection.migrate(db, 0)
                    connection.new_origin(db)
                    db.execute(
                        "INSERT INTO meta (key, value) VALUES ('title', ?), ('created', ?)", (title, clock())
                    )
                finally:
                    db.close()
            except sqlite3.Error as error:
                kind = trouble_of(error)
                raise StudyFileError(
                    kind, tr('"{path}" could not be made: {why}', path=path, why=why(kind, error))
                ) from None
            with cls(part, clock, called=path) as study:
                yield study

    def _upgrade(self, db: sqlite3.Connection, place: Path) -> None:
        found = connection.version_of(db, self.path.name)
        foreign = connection.foreign_things(db, found)
        if foreign:
            raise CulmoError(
                tr(
                    '"{name}" holds what Culmo did not put there ({what}) and is left as it is. Make a new study of '
                    "its entries (File menu: Recover a damaged study)",
                    name=self.path.name,
                    what=", ".join(foreign[:3]),
                )
            )
        if found < VERSION:
            copy = self._copy_before_upgrade(db, place, found)
            try:
                connection.migrate(db, found)
            except BaseException:
                with suppress(OSError):
                    copy.unlink(missing_ok=True)
                raise
        db.execute("PRAGMA journal_mode=DELETE")  # another program may have left it with a log

    def _copy_before_upgrade(self, db: sqlite3.Connection, place: Path, version: int) -> Path:
        """A copy of the study as the older Culmo knew it, whatever else bears such a name already."""
        number, copy = 1, place.with_name(f"{self.path.stem}.v{version}{SUFFIX}")
        while os.path.lexists(copy):
            number += 1
            copy = place.with_name(f"{self.path.stem}.v{version} {number}{SUFFIX}")
        with whole_file(copy, over=False, mode=place.stat().st_mode & 0o777) as part:
            connection.copy_into(db, part)
        return copy

    def close(self) -> None:
        """Let go of the file."""
        if self._holding.look().what is not Whereabouts.HERE:
            # SQLite would remove the journal by its name, which may be another's by now
            with suppress(sqlite3.Error):
                self._db.execute("PRAGMA journal_mode=MEMORY")
        self._db.close()
        self._holding.close()

    def __enter__(self) -> "Study":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    # ---- where the file is

    def whereabouts(self) -> FoundFile:
        """What became of the file since it was last written."""
        found = self._holding.look()
        if found.what is Whereabouts.OVERWRITTEN and self._is_only_touched():
            self._holding.note()
            return FoundFile(Whereabouts.HERE, found.path)
        return found

    def _is_only_touched(self) -> bool:
        """Whether the file bears another time and holds the same to the byte."""
        try:
            return self._holding.holds(self._db.serialize())
        except (sqlite3.Error, OSError, MemoryError):
            return False

    @property
    def state(self) -> str:
        """Which file it is, how often it was written, its size and its time: the same only while nobody writes to it."""
        return f"{connection.origin_of(self._db)} {self._holding.state}"

    @property
    def is_writable(self) -> bool:
        """Whether the file and its folder may be written to, as far as permissions tell."""
        place = self._holding.path
        return os.access(place, os.W_OK) and os.access(place.parent, os.W_OK | os.X_OK)

    @property
    def is_closed(self) -> bool:
        """Whether the file was let go of."""
        return self._holding.is_closed

    @property
    def mode(self) -> int:
        """The permissions of the file, for what lies beside it."""
        return self._holding.mode

    def go_on_at(self, place: Path) -> None:
        """Go on with the same record in another file, which holds the same: a copy, or the study where it was moved to.

        Raises
        ------
        CulmoError
            when it can not be opened; the study is closed then
        """
        self.close()
        self.path = place
        self._open(place)

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
        except READING as error:
            raise not_read(self.path.name, error, self.path) from None

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
        return int(self.select(f"SELECT COALESCE(MAX(id), 0) + 1 AS next FROM {table}")[0]["next"])

    def count(self, table: str) -> int:
        """How many rows a table has."""
        assert table in TABLES
        return int(self.select(f"SELECT COUNT(*) AS n FROM {table}")[0]["n"])

    def dump(self, without: Collection[str] = ()) -> dict[str, list[Row]]:
        """Everything, table by table, but for some tables."""
        return {table: self.rows(table) for table in TABLES if table not in without}

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
        """A copy of the study as it stands between two acts; it is there whole, or not at all.

        Raises
        ------
        CulmoError
            when it could not be written, or there is a file of that name
        """
        self._write_copy(path, False, self.mode)

    @contextmanager
    def _copied(self, path: Path, over: bool, mode: int) -> Iterator[Path]:
        """A copy of this study beside its place, which it takes at the end of the block; what fails is told."""
        try:
            with whole_file(path, over, mode) as part:
                connection.copy_into(self._db, part)
                yield part
        except sqlite3.Error as error:
            kind = trouble_of(error, self.path)
            raise StudyFileError(
                kind, tr('"{path}" can not be written ({value})', path=path, value=why(kind, error))
            ) from None

    def _write_copy(self, path: Path, over: bool, mode: int) -> None:
        with self._copied(path, over, mode):
            pass

    @contextmanager
    def copying(self, path: Path) -> Iterator["Study"]:
        """A copy of this study, to be finished in the block before it is there.

        Raises
        ------
        CulmoError
            when there is a file of that name, or it can not be written
        """
        with (
            self._copied(path, False, self.mode) as part,
            Study(part, self.clock, called=path) as copy,
        ):
            yield copy

    def write_to(self, path: Path, mode: int) -> None:
        """This study in the place of another file, whole or not at all; the other must be closed and have no journal.

        Raises
        ------
        StudyFileError
            when it could not be written
        """
        self._write_copy(path, True, mode)

    def is_copied_in(self, copy: Path) -> bool:
        """Whether a copy was made of the study just as it is now."""
        own = connection.origin_of(self._db)
        return own is not None and connection.made_of(copy) == own

    def copy_slim(self, part: Path, pictures: Path) -> None:
        """A copy whose pictures lie beside it, where an earlier copy may have put them already.

        Parameters
        ----------
        part : Path of an empty file
        pictures : Path of the folder of pictures, beside where the copy is to be

        Raises
        ------
        sqlite3.Error, OSError
            when it can not be written
        """
        with self._aside.taking(pictures, self.mode) as put:
            connection.copy_slim(self._db, part, put)

    # ---- writing

    def _check_place(self) -> None:
        found = self.whereabouts()
        if found.what is not Whereabouts.HERE:
            raise DisplacedError(
                found,
                tr(
                    '"{name}" is no longer the file that was opened; nothing was written to it',
                    name=self.path.name,
                ),
            )

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """All that is written in the block is kept, or nothing of it.

        Raises
        ------
        DisplacedError
            when the file is not where it was; nothing is written then
        StudyFileError
            when it could not be saved; the study is then as before
        """
        self._check_place()
        try:
            self._connect_again()
            self._db.execute("BEGIN IMMEDIATE")
            # first of all: so the journal names the file before anything else in the file is written over
            self._db.execute("UPDATE origin SET acts = acts + 1")
            yield self._db
            self._commit()
        except (
            sqlite3.Error,
            OSError,
            OverflowError,
        ) as error:  # the last: a whole number that no column holds
            self._roll_back()
            raise not_saved(self.path.name, error, self.path) from None
        except BaseException:
            self._roll_back()
            raise
        finally:
            self._holding.note()

    def _commit(self) -> None:
        """Have it on the disk. Where that fails it may be there all the same: it is looked for before a word is said."""
        try:
            self._db.execute("COMMIT")
        except sqlite3.Error:
            self._roll_back()
            if not self._is_written():
                raise
        self.acts += 1

    def _is_written(self) -> bool:
        """Whether the act that could not be committed is in the file, as one finds it who opens the file now."""
        with suppress(sqlite3.Error, CulmoError):
            found = connection.origin_of(self._db)
            if found is not None:
                return found[1] == self.acts + 1
        with suppress(sqlite3.Error, CulmoError):
            # the connection knows nothing any more: a new one takes back what was left half done
            self._db.close()
            self._connect_again()
            found = connection.origin_of(self._db)
            return found is not None and found[1] == self.acts + 1
        return False

    def _connect_again(self) -> None:
        """After a failure that closed the connection: a new one; while the disk fails, that fails too."""
        with suppress(sqlite3.ProgrammingError):
            if self._db.total_changes >= 0:  # anything that a closed connection refuses
                return
        db = connection.connect(self._holding.path)
        try:
            connection.take_hold(db, self.path)
        except BaseException:
            db.close()
            raise
        self._db = db

    def _roll_back(self) -> None:
        with suppress(sqlite3.Error):  # SQLite has done so by itself after some errors
            if self._db.in_transaction:
                self._db.execute("ROLLBACK")

    def apply(self, command: Command) -> None:
        """Do an act and commit it.

        Raises
        ------
        CulmoError
            when it could not be saved; the study is then unchanged
        """
        with self.transaction():
            for change in command.changes:
                self._write(change.table, change.id, change.before, change.after)

    def revert(self, command: Command) -> None:
        """Undo an act and commit that; the study is then as it was before `apply`."""
        with self.transaction():
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


def _column_names(db: sqlite3.Connection, table: str) -> list[str]:
    return [row["name"] for row in db.execute(f"PRAGMA table_info({table})")]
