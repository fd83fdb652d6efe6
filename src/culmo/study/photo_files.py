"""The files of pictures that a study keeps beside it: named by content, never written over, never outside its folder."""

from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.file import Change, Command, Row, Study
from culmo.study.troubles import trouble_of, why
from culmo.study.whole_file import make_folder, whole_file
from culmo.words import tr

MOST_BYTES = 400 * 2**20
BACKUPS = " backups"  # how the folder of a study's copies ends


def pictures_folder(study: Study) -> Path:
    """Where the pictures of a study lie."""
    return study.path.with_name(f"{study.path.stem} pictures")


def keep_file(study: Study, name: str, data: bytes, made: list[Path] | None = None) -> str:
    """Write a picture into the folder beside the study; gives its path from there. Nothing is ever written over.

    Parameters
    ----------
    study : Study
    name : str, of the picture; another is found where a different picture has it
    data : bytes
    made : list, to which the file is added where it was not there before

    Raises
    ------
    CulmoError
        when it can not be written
    """
    folder = pictures_folder(study)
    plain = (
        "".join(c if c.isalnum() or c in " .-_" else "_" for c in Path(name).name).strip(". ") or "picture"
    )
    plain = f"{Path(plain).stem[:80]}{Path(plain).suffix[:10]}"
    try:
        make_folder(folder, study.disk.mode)
        for number in range(1, 10_000):
            path = folder / (plain if number == 1 else f"{Path(plain).stem} {number}{Path(plain).suffix}")
            if path.exists():
                if path.stat().st_size == len(data) and doors.read_file(path, MOST_BYTES) == data:
                    return f"{folder.name}/{path.name}"
                continue
            with whole_file(path, over=False, mode=study.disk.mode, empty=True) as part:
                part.write_bytes(data)
            if made is not None:
                made.append(path)
            return f"{folder.name}/{path.name}"
    except OSError as error:
        reason = why(trouble_of(error), error)
        raise CulmoError(
            tr('the picture could not be kept in "{folder}" ({value})', folder=folder, value=reason)
        ) from None
    raise CulmoError(tr('there are too many pictures named "{plain}"', plain=plain))


def confined(folder: Path, path: str) -> Path | None:
    """Where a kept picture lies, if that is inside a folder, whatever links lead there; None where it is not.

    Parameters
    ----------
    folder : Path of the folder of the study
    path : str, as the study keeps it, from there
    """
    if not path or "\0" in path:
        return None
    home = folder.resolve()
    # a copy of a study lies in a folder of the study's own folder
    homes = [home, home.parent] if home.name.endswith(BACKUPS) else [home]
    found = [Path(one / path).resolve() for one in homes]
    inside = [place for one, place in zip(homes, found, strict=True) if place.is_relative_to(one)]
    return next((place for place in inside if place.is_file()), inside[0] if inside else None)


def picture_bytes(study: Study, photo: Row) -> bytes:
    """A kept picture's file.

    Raises
    ------
    CulmoError
        when it is no longer there
    """
    if photo["data"] is not None:
        return bytes(photo["data"])
    path = confined(study.path.parent, str(photo["path"]))
    if path is None:
        raise CulmoError(
            tr('the picture "{name}" lies outside the study\'s folder; it is not opened', name=photo["name"])
        )
    if not path.exists():
        raise CulmoError(
            tr(
                'the picture "{path}" is no longer beside the study; its colours stand in the record',
                path=photo["path"],
            )
        )
    return doors.read_file(path, MOST_BYTES)


def missing_pictures(study: Study) -> list[str]:
    """The pictures that the study names and that are no longer beside it, by their paths."""
    rows = study.select("SELECT DISTINCT path FROM photos WHERE data IS NULL AND path <> '' ORDER BY id")
    places = [(str(row["path"]), confined(study.path.parent, str(row["path"]))) for row in rows]
    return [path for path, place in places if place is None or not place.is_file()]


@dataclass(frozen=True)
class Brought:
    """What came of bringing pictures along.

    Attributes
    ----------
    files : tuple of Paths that were not there before
    missing : tuple of str, the paths of those that were not to be found
    """

    files: tuple[Path, ...]
    missing: tuple[str, ...]


def bring_pictures(study: Study, find: Callable[[str], Path | None]) -> Brought:
    """The pictures of another study's record beside this one, and the patches that lay beside the other one into it; what
    could not be finished is taken away again.

    Parameters
    ----------
    study : Study, new, with the other's rows
    find : function from a kept path to where the file is

    Raises
    ------
    CulmoError
        when one can not be read or kept
    """
    made: list[Path] = []
    missing: list[str] = []
    changes: list[Change] = []
    once: dict[str, str] = {}
    try:
        for row in study.rows("photos", "path <> ''"):
            path = str(row["path"])
            source = find(path)
            if path not in once and source is not None and source.is_file():
                once[path] = keep_file(study, source.name, doors.read_file(source, MOST_BYTES), made)
            elif path not in once:
                missing.append(path)
                name = Path(path.replace("\\", "/")).name
                once[path] = f"{pictures_folder(study).name}/{name}" if name else ""
            changes.append(Change("photos", row["id"], row, {**row, "path": once[path]}))
        for row in study.rows("patches", "path <> '' AND data IS NULL"):
            source = find(str(row["path"]))
            if source is not None and source.is_file():
                data = doors.read_file(source, MOST_BYTES)
                changes.append(Change("patches", row["id"], row, {**row, "path": "", "data": data}))
        if changes:
            study.apply(Command(tr("Import"), tuple(changes)))
    except BaseException:
        remove(made)
        raise
    return Brought(tuple(made), tuple(missing))


def remove(files: Iterable[Path]) -> None:
    """Take away what was made and is not wanted after all, with a folder that is empty then."""
    for path in files:
        with suppress(OSError):
            path.unlink()
            path.parent.rmdir()
