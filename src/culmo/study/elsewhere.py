"""A study saved at another place, with its pictures; and a study that moves there, with its copies too."""

import os
from contextlib import suppress
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study.backups import backups_folder
from culmo.study.file import Change, Command, Study
from culmo.study.photo_files import bring_pictures, confined, pictures_folder, remove
from culmo.study.schema import SUFFIX
from culmo.words import tr


def save_copy(study: Study, target: Path) -> tuple[str, ...]:
    """A whole copy of an open study at another place, its pictures beside it; gives the paths of missing pictures.

    Parameters
    ----------
    study : Study, which stays as it is
    target : Path of the copy, which must not be there yet

    Raises
    ------
    CulmoError
        when it can not be written; nothing is left behind then
    """
    if target.suffix != SUFFIX:
        raise CulmoError(
            tr('"{name}" is no name of a study; it must end in {SUFFIX}', name=target.name, SUFFIX=SUFFIX)
        )
    brought: tuple[Path, ...] = ()
    try:
        with study.copying(target) as copy:
            came = bring_pictures(copy, lambda path: confined(study.path.parent, path))
            brought = came.files
    except BaseException:
        remove(brought)
        raise
    return came.missing


def move_to(study: Study, target: Path) -> tuple[str, ...]:
    """An open study goes to another place or name, with its pictures and its copies; gives missing pictures.

    At every moment of it there is a whole study at one of the two places.

    Raises
    ------
    CulmoError
        when it can not be written there; it then stays where it is
    """
    old, stem = study.path, study.path.stem
    own = pictures_folder(study)
    pictures = {
        place
        for row in study.rows("photos", "path <> ''")
        if (place := confined(old.parent, str(row["path"]))) is not None
        and place.is_relative_to(own.resolve())
    }
    missing = save_copy(study, target)
    study.go_on_at(target)
    with suppress(OSError):
        old.unlink()
    remove(place for place in pictures if place.exists())
    with suppress(OSError):
        if not os.path.lexists(backups_folder(target)):
            backups_folder(old).rename(backups_folder(target))
    if study.title == stem != target.stem:
        row = study.rows("meta", "key = 'title'")[0]
        study.apply(
            Command(tr("Rename the study"), (Change("meta", row["id"], row, {**row, "value": target.stem}),))
        )
    return missing
