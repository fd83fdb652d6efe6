"""An open study whose file is no longer what it was: where it goes on, so that nothing of it is lost, and what is said."""

import os
import tempfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study.file import Study
from culmo.study.holding import FoundFile, Whereabouts
from culmo.study.photo_files import bring_pictures, confined
from culmo.study.schema import SUFFIX
from culmo.study.troubles import StudyFileError, Trouble
from culmo.words import tr

# what another place helps against
ELSEWHERE = (Trouble.READ_ONLY, Trouble.NO_ACCESS, Trouble.GONE)


class LostError(CulmoError):
    """The study can not go on: its file was written over, or nothing can be written anywhere."""


def spare_folders() -> Iterator[Path]:
    """Where a study may be kept whose own folder is gone: the user's data, the home, the place for passing files."""
    home = os.environ.get("HOME", "")
    data = os.environ.get("XDG_DATA_HOME", "") or (f"{home}/.local/share" if home else "")
    if data:
        yield Path(data) / "culmo" / "rescued"
    if home:
        yield Path(home)
    yield Path(tempfile.gettempdir())


def go_on(study: Study, moment: datetime, elsewhere: bool = False) -> str:
    """Find the open study a file that holds all of it, and go on there; gives what the painter is told.

    Parameters
    ----------
    study : Study, open
    moment : datetime, now
    elsewhere : bool, whether its own folder takes nothing any more

    Returns
    -------
    str, empty where the file is as it should be

    Raises
    ------
    LostError
        when there is no such file and none can be made; the study is closed, or goes on where it has no name
    """
    found = study.disk.whereabouts()
    old = study.path
    if found.what is Whereabouts.HERE and not elsewhere:
        return ""
    if found.what is Whereabouts.MOVED and found.path is not None and not elsewhere:
        study.go_on_at(found.path)
        _take_pictures(study, old.parent)
        return tr(
            '"{name}" was moved to "{path}"; all is saved there from now on', name=old.name, path=found.path
        )
    trouble: CulmoError | None = None
    for target in _targets(study, found, moment, elsewhere):
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            study.copy_to(target)
            if found.what is Whereabouts.OVERWRITTEN and not _is_sound(target):
                target.unlink()
                raise LostError(
                    tr('"{name}" was written over by another program while it was open, and what it held can not be put '
                       "together any more. It was left as it is now. Put back a copy of it (File menu)", name=old.name)
                )  # fmt: skip
            study.go_on_at(target)
        except (StudyFileError, OSError) as error:
            trouble = trouble or (error if isinstance(error, CulmoError) else CulmoError(str(error)))
            continue
        _take_pictures(study, old.parent)
        return _words(found, old, target, elsewhere)
    raise LostError(
        tr('"{name}" is no longer where it was, and nothing can be written elsewhere ({why}). Do not close Culmo: save a '
           "copy of the study on another disk first (File menu)", name=old.name, why=trouble or "")
    )  # fmt: skip


def _targets(study: Study, found: FoundFile, moment: datetime, elsewhere: bool) -> Iterator[Path]:
    path = study.path
    rescued = f"{path.stem}, as it was open {moment:%Y-%m-%d %H%M}"
    if not elsewhere and path.parent.is_dir():
        if found.what is Whereabouts.GONE and not found.taken:
            yield path
        yield _free(path.parent / f"{rescued}{SUFFIX}")
    for folder in spare_folders():
        yield _free(folder / f"{rescued}{SUFFIX}")


def _free(path: Path) -> Path:
    number, free = 1, path
    while os.path.lexists(free):
        number += 1
        free = path.with_stem(f"{path.stem} {number}")
    return free


def _is_sound(path: Path) -> bool:
    try:
        with Study(path) as copy:
            return not copy.problems()
    except CulmoError:
        return False


def _take_pictures(study: Study, folder: Path) -> None:
    """Pictures that lay beside it come along into another folder."""
    if study.path.parent == folder or not folder.is_dir():
        return
    try:
        bring_pictures(study, lambda path: confined(folder, path))
    except (CulmoError, OSError):
        return  # they stay where they were; what is missing is told where a picture is wanted


def _words(found: FoundFile, old: Path, new: Path, elsewhere: bool) -> str:
    if new == old:
        return tr(
            '"{name}" was gone from its folder; it was written there again, with all that you did',
            name=old.name,
        )
    if elsewhere:
        return tr('nothing can be written to "{name}" any more; all that you do is saved in "{new}" from now on',
                  name=old, new=new)  # fmt: skip
    if found.what is Whereabouts.OVERWRITTEN:
        return tr('another program wrote over "{name}" while it was open. What it wrote was left there; what you have open, '
                  'with all that you did, is "{new}" from now on', name=old.name, new=new)  # fmt: skip
    if found.what is Whereabouts.REPLACED or found.taken:
        return tr('another file was put in the place of "{name}" while it was open. It was left there; what you have open, '
                  'with all that you did, is "{new}" from now on', name=old.name, new=new)  # fmt: skip
    return tr('the folder of "{name}" is gone; what you have open, with all that you did, is "{new}" from now on',
              name=old, new=new)  # fmt: skip
