"""A copy put back in the place of a study: the copy is looked through first, and what was there is kept as a copy too."""

import shutil
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors, sidecars
from culmo.study.backups import PICTURES, Backup, backups_folder, backups_of, next_copy
from culmo.study.file import Change, Command, Study
from culmo.study.inspection import as_it_is, problems_of_study
from culmo.study.photo_files import MOST_BYTES
from culmo.study.schema import SUFFIX
from culmo.study.troubles import READING, StudyFileError, trouble_of, why
from culmo.study.whole_file import make_folder, whole_file
from culmo.words import tr

_DAMAGED = "damaged"  # in the name of a file, the same in each language


@dataclass(frozen=True)
class Offered:
    """A copy that may be put back, with what is in it.

    Attributes
    ----------
    backup : Backup
    made : datetime
    size : int, bytes
    """

    backup: Backup
    made: datetime
    size: int


def offered(path: Path) -> list[Offered]:
    """The copies of a study, the latest first.

    Parameters
    ----------
    path : Path of the study, which may be gone
    """
    found = []
    for backup in reversed(backups_of(path)):
        with suppress(OSError, ValueError):
            made = datetime.strptime(backup.path.stem.split(" ", 1)[1], "%Y-%m-%d %H%M")
            found.append(Offered(backup, made, backup.path.stat().st_size))
    return found


@dataclass(frozen=True)
class Facts:
    """What is in a copy: how many of each, and the last line of its Daybook."""

    paints: int
    sheets: int
    readings: int
    notes: int
    last: str


def facts_of(path: Path) -> Facts | None:
    """What is in a copy, at a glance; None where it can not be read."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as db:
            counts = [
                int(db.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0])
                for table in ("paints", "sheets", "readings", "notes")
            ]
            last = db.execute("SELECT text FROM events ORDER BY at DESC, id DESC LIMIT 1").fetchone()
    except READING:
        return None
    paints, sheets, readings, notes = counts
    return Facts(paints, sheets, readings, notes, str(last[0]) if last is not None else "")


def put_back(path: Path, copy: Path, moment: datetime | None = None) -> Path | None:
    """Put a copy in the place of a study; gives where what was there before is kept.

    The study must be closed. Whatever happens on the way, at its place is the study as it was, or the copy whole.

    Parameters
    ----------
    path : Path of the study, which may be gone, damaged, or have a journal beside it
    copy : Path of a sound study
    moment : datetime, now where absent

    Raises
    ------
    CulmoError
        when the copy is no sound study, the study is open, or something can not be written
    """
    if path.suffix != SUFFIX:
        raise CulmoError(
            tr('"{name}" is no name of a study; it must end in {SUFFIX}', name=path.name, SUFFIX=SUFFIX)
        )
    doors.check_target(path)
    doors.check_name(copy)
    if path.is_symlink():
        path = path.resolve()  # the study is where the link leads, and its copies lie there
    if doors.identity(path) is not None and doors.identity(path) == doors.identity(copy):
        raise CulmoError(tr('"{name}" is the study itself, not a copy of it', name=copy.name))
    with as_it_is(copy) as sound:
        problems = problems_of_study(sound)
        if problems:
            raise CulmoError(
                tr(
                    '"{name}" is not sound ({problem}); nothing was changed',
                    name=copy.name,
                    problem=problems[0],
                )
            )
        _take_pictures_in(sound, copy.parent)
        kept = _keep_present(path, moment or datetime.now())
        mode = path.stat().st_mode & 0o777 if path.exists() else copy.stat().st_mode & 0o777
        _clear_beside(path)
        sound.write_to(path, mode)
    return kept


def _take_pictures_in(study: Study, folder: Path) -> None:
    """Pictures that lay inside the study, and beside its copies since, lie inside again."""
    changes = []
    for table in ("photos", "patches"):
        for row in study.rows(table, "path LIKE ? AND data IS NULL", (f"{PICTURES}/%",)):
            source = folder / PICTURES / Path(row["path"]).name
            if source.is_file():
                data = doors.read_file(source, MOST_BYTES)
                changes.append(Change(table, row["id"], row, {**row, "path": "", "data": data}))
    if changes:
        study.apply(Command(tr("Put back a copy"), tuple(changes)))


def _keep_present(path: Path, moment: datetime) -> Path | None:
    """What is at the place now, as a copy of its own; where it is no study any more its bytes are kept as they are."""
    if not path.exists():
        return None
    folder = backups_folder(path)
    try:
        make_folder(folder, path.stat().st_mode & 0o777)
    except OSError as error:
        kind = trouble_of(error)
        raise StudyFileError(
            kind,
            tr('"{folder}" can not be made: {why}; nothing was changed', folder=folder, why=why(kind, error)),
        ) from None
    try:
        with as_it_is(path) as present:
            target = next_copy(path, moment)
            present.write_to(target, path.stat().st_mode & 0o777)
            return target
    except StudyFileError as error:
        if error.kind.stands_in_the_way:
            raise
    except CulmoError:
        pass  # damaged, or not Culmo's: its bytes are kept
    return _keep_bytes(path, folder / f"{_DAMAGED} {moment:%Y-%m-%d %H%M}{SUFFIX}")


def _keep_bytes(path: Path, target: Path) -> Path:
    number, free = 1, target
    while free.exists():
        number += 1
        free = target.with_stem(f"{target.stem} {number}")
    for ending in ("", sidecars.JOURNAL, sidecars.WAL):
        source = sidecars.beside(path, ending)
        if source.is_file() and source.stat().st_size:
            with whole_file(sidecars.beside(free, ending), over=False) as part:
                shutil.copyfile(source, part)
    return free


def _clear_beside(path: Path) -> None:
    """No journal of what was there may be applied to what comes; it is in what was kept."""
    for ending in (sidecars.JOURNAL, sidecars.WAL, "-shm"):
        if sidecars.beside(path, ending).exists():
            sidecars.set_aside(path, ending)
