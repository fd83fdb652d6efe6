"""Pictures of a study's copies: put aside once, whatever number of copies holds them."""

import hashlib
import os
import re
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from functools import partial
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study.whole_file import make_folder, part_of, sync, whole_file

_DIGITS = 24  # of a picture's digest in its name; a patch brings its own along
_BY_DIGEST = re.compile(rf"[0-9a-f]{{{_DIGITS}}}\.jpg")
_FEW = 64  # that are put on the disk one by one; more of them all at once
# the table, the id in it, when it was kept, its bytes
Key = tuple[str, int, str, int]
Put = Callable[[Key, str, Callable[[], bytes]], str]


class Aside:
    """Remembers what was put aside, so that a picture is not read from the study again for each copy."""

    def __init__(self) -> None:
        self._known: dict[Key, str] = {}

    @contextmanager
    def taking(self, folder: Path, mode: int) -> Iterator[Put]:
        """A function that puts a picture into a folder and gives its path from the folder above; what it put there is on the
        disk with the end of the block. Patches come by the thousand: they are put in place together, or none of them.

        Parameters
        ----------
        folder : Path, which may not be there yet
        mode : int, the permissions of the study

        Raises
        ------
        OSError, CulmoError
            when something can not be written
        """
        begun: dict[Path, Path] = {}
        try:
            yield self._putting(folder, mode, begun)
            if len(begun) > _FEW:
                os.sync()  # one by one it would take half a minute
            else:
                for part in begun:
                    sync(part)
            for part, path in begun.items():
                part.replace(path)
            if begun:
                sync(folder)
        finally:
            for part in begun:
                with suppress(OSError):
                    part.unlink(missing_ok=True)

    def _putting(self, folder: Path, mode: int, begun: dict[Path, Path]) -> Put:
        there = sizes(folder)

        def put(key: Key, name: str, read: Callable[[], bytes]) -> str:
            found, data = self._known.get(key), None
            if found is None and key[0] == "patches" and _BY_DIGEST.fullmatch(name):
                found = self._known[key] = name  # thousands of them need not be read to be known
            if found is None:
                data = read()
                ending = Path(name).suffix.casefold()
                ending = ending if re.fullmatch(r"\.[a-z0-9]{1,5}", ending) else ""
                found = self._known[key] = hashlib.sha256(data).hexdigest()[:_DIGITS] + ending
            if there.get(found) != key[-1]:
                path, there[found] = folder / found, key[-1]
                data = read() if data is None else data
                make_folder(folder, mode)
                if key[0] == "patches":
                    part = part_of(path)
                    begun[part] = path
                    part.write_bytes(data)
                    part.chmod(mode)
                else:
                    with whole_file(path, mode=mode) as part:
                        part.write_bytes(data)
            return f"{folder.name}/{found}"

        return put


def putting_aside(
    folder: Path, mode: int, patches: Sequence[tuple[Key, str, bytes]]
) -> Generator[float, None, None]:
    """Put patches into a folder before a copy asks for them; yields how far it is.

    Parameters
    ----------
    folder : Path, which may not be there yet
    mode : int, the permissions of the study
    patches : sequence of (what it is known by, name, bytes)

    Raises
    ------
    CulmoError
        when something can not be written
    """
    try:
        make_folder(folder.parent, mode)
        with Aside().taking(folder, mode) as put:
            for place, (key, name, data) in enumerate(patches):
                if place % _FEW == 0:
                    yield place / len(patches)
                put(key, name, partial(bytes, data))
    except OSError as error:
        raise CulmoError(str(error)) from None


def is_aside(there: Mapping[str, int], name: str, size: int) -> bool:
    """Whether a patch lies in a folder of such files and sizes; one that has no name of its own is taken for there."""
    return not _BY_DIGEST.fullmatch(name) or there.get(name) == size


def sizes(folder: Path) -> dict[str, int]:
    """The files of a folder with their sizes; none where it is not there yet."""
    try:
        with os.scandir(folder) as entries:
            return {
                entry.name: entry.stat(follow_symlinks=False).st_size
                for entry in entries
                if entry.is_file(follow_symlinks=False)
            }
    except FileNotFoundError:
        return {}
