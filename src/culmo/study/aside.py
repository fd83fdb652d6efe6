"""Pictures of a study's copies: put aside once, whatever number of copies holds them."""

import hashlib
import re
from collections.abc import Callable
from pathlib import Path

from culmo.study.whole_file import make_folder, whole_file

_DIGITS = 24  # of a picture's digest in its name; a patch brings its own along
_BY_DIGEST = re.compile(rf"[0-9a-f]{{{_DIGITS}}}\.jpg")
# the table, the id in it, when it was kept, its bytes
Key = tuple[str, int, str, int]
Put = Callable[[Key, str, Callable[[], bytes]], str]


class Aside:
    """Remembers what was put aside, so that a picture is not read from the study again for each copy."""

    def __init__(self) -> None:
        self._known: dict[Key, str] = {}

    def taking(self, folder: Path, mode: int) -> Put:
        """A function that puts a picture into a folder and gives its path from the folder above.

        Parameters
        ----------
        folder : Path, which may not be there yet
        mode : int, the permissions of the study
        """

        def put(key: Key, name: str, read: Callable[[], bytes]) -> str:
            found, data = self._known.get(key), None
            if found is None and key[0] == "patches" and _BY_DIGEST.fullmatch(name):
                found = self._known[key] = name  # thousands of them need not be read to be known
            if found is None:
                data = read()
                ending = Path(name).suffix.casefold()
                ending = ending if re.fullmatch(r"\.[a-z0-9]{1,5}", ending) else ""
                found = self._known[key] = hashlib.sha256(data).hexdigest()[:_DIGITS] + ending
            path = folder / found
            if not path.is_file() or path.stat().st_size != key[-1]:
                data = read() if data is None else data
                make_folder(folder, mode)
                with whole_file(path, mode=mode) as part:
                    part.write_bytes(data)
            return f"{folder.name}/{found}"

        return put
