"""The database of a study as it lies on the disk: found, brought up to date, held, and written to in whole acts."""

import os
import sqlite3
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from culmo.errors import CulmoError
from culmo.study import connection, sidecars
from culmo.study.holding import FoundFile, Holding, Whereabouts, check_free
from culmo.study.schema import SUFFIX, TABLES, VERSION
from culmo.study.soundness import odd
from culmo.study.troubles import READING, StudyFileError, Trouble, not_read, not_saved
from culmo.study.whole_file import sweep, whole_file
from culmo.words import tr, trn


class DisplacedError(StudyFileError):
    """The file of an open study is not where it was, or not as it was left; nothing was written to it."""

    def __init__(self, found: FoundFile, words: str) -> None:
        super().__init__(Trouble.GONE, words)
        self.found = found


class OpenFile:
    """A study file that is held.

    Parameters
    ----------
    place : Path of the file
    path : Path, the name that it has, or is to have where it is still being built under another

    Attributes
    ----------
    db : the connection; another one after a failure that closed it
    told : list of str, what was noticed on opening, for the painter
    acts : int, how many acts were ever written to it

    Raises
    ------
    CulmoError
        when the file is foreign, damaged, newer than this Culmo, or open elsewhere
    """

    def __init__(self, place: Path, path: Path) -> None:
        self.path = path
        self.told: list[str] = []
        self._odd: dict[str, str] = {}
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
        self.db, self._holding = db, holding
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
                self.db.execute("PRAGMA journal_mode=MEMORY")
        self.db.close()
        self._holding.close()

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
            return self._holding.holds(self.db.serialize())
        except (sqlite3.Error, OSError, MemoryError):
            return False

    @property
    def state(self) -> str:
        """Which file it is, how often it was written, its size and its time: the same only while nobody writes to it."""
        return f"{connection.origin_of(self.db)} {self._holding.state}"

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
            self.db.execute("BEGIN IMMEDIATE")
            # first of all: so the journal names the file before anything else in the file is written over
            self.db.execute("UPDATE origin SET acts = acts + 1")
            yield self.db
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
            self.db.execute("COMMIT")
        except sqlite3.Error:
            self._roll_back()
            if not self._is_written():
                raise
        self.acts += 1

    def _is_written(self) -> bool:
        """Whether the act that could not be committed is in the file, as one finds it who opens the file now."""
        with suppress(sqlite3.Error, CulmoError):
            found = connection.origin_of(self.db)
            if found is not None:
                return found[1] == self.acts + 1
        with suppress(sqlite3.Error, CulmoError):
            # the connection knows nothing any more: a new one takes back what was left half done
            self.db.close()
            self._connect_again()
            found = connection.origin_of(self.db)
            return found is not None and found[1] == self.acts + 1
        return False

    def _connect_again(self) -> None:
        """After a failure that closed the connection: a new one; while the disk fails, that fails too."""
        with suppress(sqlite3.ProgrammingError):
            if self.db.total_changes >= 0:  # anything that a closed connection refuses
                return
        db = connection.connect(self._holding.path)
        try:
            connection.take_hold(db, self.path)
        except BaseException:
            db.close()
            raise
        self.db = db

    def _roll_back(self) -> None:
        with suppress(sqlite3.Error):  # SQLite has done so by itself after some errors
            if self.db.in_transaction:
                self.db.execute("ROLLBACK")

    def write(
        self, table: str, row_id: int, before: Mapping[str, Any] | None, after: Mapping[str, Any] | None
    ) -> None:
        """Make a row what it is to be, in a transaction; None where it does not exist.

        Raises
        ------
        CulmoError
            when it is not there any more, or would hold what makes no sense
        """
        columns = self._columns[table]
        if after is None:
            done = self.db.execute(f"DELETE FROM {table} WHERE id = ?", (row_id,)).rowcount
        elif before is None:
            names = [name for name in columns if name in after]
            marks = ", ".join("?" * len(names))
            self.db.execute(
                f"INSERT INTO {table} ({', '.join(names)}) VALUES ({marks})", [after[name] for name in names]
            )
            done = 1
        else:
            names = [name for name in columns if name in after and name != "id"]
            setting = ", ".join(f"{name} = ?" for name in names)
            done = self.db.execute(
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
            self._odd[table] = odd(self.db, table)
        query = f"SELECT 1 FROM {table} WHERE id = ? AND ({self._odd[table]})"
        return self.db.execute(query, (row_id,)).fetchone() is not None


def _column_names(db: sqlite3.Connection, table: str) -> list[str]:
    return [row["name"] for row in db.execute(f"PRAGMA table_info({table})")]
