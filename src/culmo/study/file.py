"""The study file: one SQLite database, opened by one window at a time, each act committed at once."""

import os
import sqlite3
from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any

from culmo.errors import CulmoError
from culmo.study import connection, doors, sidecars
from culmo.study.aside import Aside
from culmo.study.opened import OpenFile
from culmo.study.schema import TABLES
from culmo.study.soundness import problems_of
from culmo.study.troubles import READING, StudyFileError, not_read, trouble_of, why
from culmo.study.whole_file import exists_already, whole_file
from culmo.words import tr

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


class Study:
    """An open study.

    Parameters
    ----------
    path : Path of an existing study; use `create` for a new one
    clock : function that gives the present moment as ISO 8601 text
    called : Path, the name that it is to have, where it is still being built under another

    Attributes
    ----------
    disk : OpenFile, the file as it lies on the disk
    told : list of str, what was noticed on opening, for the painter
    told_anew : mapping of a picture's readings by their ids to their colours as they stand, and as what is learned makes
        them; not stored

    Raises
    ------
    CulmoError
        when the file is missing, foreign, damaged, newer than this Culmo, or open elsewhere
    """

    def __init__(self, path: Path, clock: Callable[[], str] = now, called: Path | None = None) -> None:
        self.path = Path(called or path)
        self.clock = clock
        self.told_anew: Mapping[int, tuple[Triple, Triple]] = {}
        self._aside = Aside()
        if not os.path.lexists(path):
            raise CulmoError(tr('there is no study at "{path}"', path=doors.shown(Path(path))))
        self.disk = OpenFile(Path(path), self.path)
        self.told = list(self.disk.told)

    def close(self) -> None:
        """Let go of the file."""
        self.disk.close()

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
                part.write_bytes(connection.blank())
                db = connection.connect(part)
                try:
                    # the whole file is on the disk before it bears its name
                    db.execute("PRAGMA synchronous=OFF")
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

    def __enter__(self) -> "Study":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def go_on_at(self, place: Path) -> None:
        """Go on with the same record in another file, which holds the same: a copy, or the study where it was moved to.

        Raises
        ------
        CulmoError
            when it can not be opened; the study is closed then
        """
        self.close()
        self.path = place
        self.disk = OpenFile(place, place)
        self.told += self.disk.told

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
            return [dict(row) for row in self.disk.db.execute(query, values)]
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
        return problems_of(self.disk.db, TABLES)

    def copy_to(self, path: Path) -> None:
        """A copy of the study as it stands between two acts; it is there whole, or not at all.

        Raises
        ------
        CulmoError
            when it could not be written, or there is a file of that name
        """
        with self._copied(path, False, self.disk.mode):
            pass

    @contextmanager
    def _copied(self, path: Path, over: bool, mode: int) -> Iterator[Path]:
        """A copy of this study beside its place, which it takes at the end of the block; what fails is told."""
        try:
            with whole_file(path, over, mode) as part:
                connection.copy_into(self.disk.db, part)
                yield part
        except sqlite3.Error as error:
            kind = trouble_of(error, self.path)
            raise StudyFileError(
                kind, tr('"{path}" can not be written ({value})', path=path, value=why(kind, error))
            ) from None

    @contextmanager
    def copying(self, path: Path) -> Iterator["Study"]:
        """A copy of this study, to be finished in the block before it is there.

        Raises
        ------
        CulmoError
            when there is a file of that name, or it can not be written
        """
        with (
            self._copied(path, False, self.disk.mode) as part,
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
        with self._copied(path, True, mode):
            pass

    def is_copied_in(self, copy: Path) -> bool:
        """Whether a copy was made of the study just as it is now."""
        own = connection.origin_of(self.disk.db)
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
        with self._aside.taking(pictures, self.disk.mode) as put:
            connection.copy_slim(self.disk.db, part, put)

    # ---- writing

    def apply(self, command: Command) -> None:
        """Do an act and commit it.

        Raises
        ------
        CulmoError
            when it could not be saved; the study is then unchanged
        """
        with self.disk.transaction():
            for change in command.changes:
                self.disk.write(change.table, change.id, change.before, change.after)

    def revert(self, command: Command) -> None:
        """Undo an act and commit that; the study is then as it was before `apply`."""
        with self.disk.transaction():
            for change in reversed(command.changes):
                self.disk.write(change.table, change.id, change.after, change.before)
