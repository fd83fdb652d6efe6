"""Copies of a study that are made while one works: each whole, the pictures in them kept once for all."""

import re
import sqlite3
from collections.abc import Iterable, Sequence
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from culmo.study.aside import Key, is_aside, sizes
from culmo.study.file import Study
from culmo.study.holding import Whereabouts
from culmo.study.schema import SUFFIX
from culmo.study.troubles import READING, StudyFileError, Trouble, trouble_of, why
from culmo.study.whole_file import make_folder, whole_file
from culmo.words import tr

KEEP_LAST = 10
KEEP_DAYS = 31
_NAME = re.compile(r"^(\d{4,}) (\d{4}-\d{2}-\d{2}) (\d{2})(\d{2})$")
PICTURES = "pictures"  # in the folder of the copies: pictures that lie inside the study, each once


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


def next_copy(path: Path, moment: datetime) -> Path:
    """The name of the next copy of a study; its folder may not be there yet.

    Parameters
    ----------
    path : Path of the study
    moment : datetime
    """
    before = backups_of(path)
    number = before[-1].number + 1 if before else 1
    return backups_folder(path) / f"{number:04d} {moment:%Y-%m-%d %H%M}{SUFFIX}"


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
    StudyFileError
        when the copy could not be made; the study is not touched
    """
    if study.disk.whereabouts().what is not Whereabouts.HERE:
        raise StudyFileError(
            Trouble.GONE,
            tr('no copy was made: "{name}" is no longer the file that was opened', name=study.path.name),
        )
    before = backups_of(study.path)
    try:
        if before and study.is_copied_in(before[-1].path):
            return None
        target = next_copy(study.path, moment or datetime.now())
        folder = target.parent
        make_folder(folder, study.disk.mode)
        with whole_file(target, over=False, mode=study.disk.mode) as part:
            study.copy_slim(part, folder / PICTURES)
        for backup in to_drop(backups_of(study.path)):
            backup.path.unlink(missing_ok=True)
        _drop_pictures(folder, [backup.path for backup in backups_of(study.path)])
    except (OSError, sqlite3.Error) as error:
        kind = trouble_of(error)
        raise StudyFileError(
            kind,
            tr("no copy of the study could be made: {why}; the study itself is saved", why=why(kind, error)),
        ) from None
    except StudyFileError as error:
        raise StudyFileError(
            error.kind, tr("no copy of the study could be made: {why}; the study itself is saved", why=error)
        ) from None
    return target


def not_aside(study: Study) -> list[int]:
    """The patches that the next copy has to put aside first, by id; none where no copy is to be made.

    Parameters
    ----------
    study : Study
    """
    before = backups_of(study.path)
    if not study.count("patches") or (before and study.is_copied_in(before[-1].path)):
        return []
    there = sizes(pictures_folder(study))
    rows = study.select(
        "SELECT id, digest, LENGTH(data) AS size FROM patches WHERE data IS NOT NULL ORDER BY id"
    )
    return [row["id"] for row in rows if not is_aside(there, f"{row['digest']}.jpg", row["size"])]


def to_put_aside(study: Study, ids: Sequence[int]) -> list[tuple[Key, str, bytes]]:
    """Patches as `putting_aside` takes them; of those that are gone nothing.

    Parameters
    ----------
    study : Study
    ids : sequence of int, some hundreds at most
    """
    rows = study.rows("patches", f"id IN ({', '.join('?' * len(ids))}) AND data IS NOT NULL", tuple(ids))
    return [
        (("patches", row["id"], row["created"], len(row["data"])), f"{row['digest']}.jpg", row["data"])
        for row in rows
    ]


def pictures_folder(study: Study) -> Path:
    """Where the pictures of a study's copies lie."""
    return backups_folder(study.path) / PICTURES


def _drop_pictures(folder: Path, copies: Iterable[Path]) -> None:
    """Pictures that no copy holds any more go."""
    kept = folder / PICTURES
    if not kept.is_dir():
        return
    wanted: set[str] = set()
    for copy in copies:
        try:
            with closing(sqlite3.connect(f"{copy.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as db:
                there = {
                    name for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
                }
                for table in ("photos", "patches"):  # the latter came later
                    if table in there:
                        wanted |= {
                            Path(str(path)).name for (path,) in db.execute(f"SELECT path FROM {table}")
                        }
        except READING:
            return  # a copy that can not be read may need any of them
    for picture in kept.iterdir():
        if picture.name not in wanted:
            with suppress(OSError):
                picture.unlink()
