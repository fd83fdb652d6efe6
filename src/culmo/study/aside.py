"""Pictures of a study's copies: put aside once, whatever number of copies holds them."""

import hashlib
import re
from collections.abc import Callable
from pathlib import Path

from culmo.study.whole_file import make_folder, whole_file

_DIGITS = 24  # of a picture's digest in its name
Put = Callable[[int, str, str, bytes], str]


class Aside:
    """Remembers what was put aside, so that a picture is not read from the study again for each copy."""

    def __init__(self) -> None:
        self._known: dict[tuple[int, str, int], str] = {}

    def taking(self, folder: Path, mode: int) -> Put:
        """A function that puts a picture into a folder and gives its path from the folder above.

        Parameters
        ----------
        folder : Path, which may not be there yet
        mode : int, the permissions of the study
        """

        def put(photo_id: int, created: str, name: str, data: bytes) -> str:
            key = photo_id, created, len(data)
            found = self._known.get(key)
            if found is None:
                ending = Path(name).suffix.casefold()
                ending = ending if re.fullmatch(r"\.[a-z0-9]{1,5}", ending) else ""
                found = self._known[key] = hashlib.sha256(data).hexdigest()[:_DIGITS] + ending
            path = folder / found
            if not path.is_file() or path.stat().st_size != len(data):
                make_folder(folder, mode)
                with whole_file(path, mode=mode) as part:
                    part.write_bytes(data)
            return f"{folder.name}/{found}"

        return put
