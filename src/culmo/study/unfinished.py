"""What was typed and not saved: kept in the study, where it teaches nothing, until it is saved or left out.

Where the study can not be written (a full disk), it is kept among the user's own data, and found there as well.
"""

import hashlib
import json
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from culmo.errors import CulmoError
from culmo.study.file import Study
from culmo.study.homing import spare_folders
from culmo.study.whole_file import whole_file

MOST_LETTERS = 400_000
_MOST_BYTES = 10_000_000


@dataclass(frozen=True)
class Unfinished:
    """Something that was typed and not saved.

    Attributes
    ----------
    place : str, where: "note", "paint 3", "reading 17"
    room : int, the room in which that is
    name : str, what the painter calls it
    content : str, what was typed, as the place understands it
    """

    place: str
    room: int
    name: str
    content: str


def unfinished(study: Study) -> list[Unfinished]:
    """All that was typed in an earlier session and not saved, in the order of typing."""
    rows = study.select("SELECT place, room, name, content FROM drafts ORDER BY id")
    found = {row["place"]: Unfinished(**row) for row in rows if isinstance(row["content"], str)}
    for path in _spare_files(study.path):
        with suppress(OSError, ValueError, TypeError, KeyError):
            if path.stat().st_size < _MOST_BYTES:
                for entry in json.loads(path.read_text(encoding="utf-8")):
                    kept = Unfinished(*(entry[key] for key in ("place", "room", "name", "content")))
                    found[kept.place] = kept
    return [entry for entry in found.values() if len(entry.content) <= MOST_LETTERS]


def keep_unfinished(study: Study, entries: Sequence[Unfinished]) -> None:
    """Keep what is typed and not saved, in the place of what was kept before.

    Raises
    ------
    CulmoError
        when it can be kept nowhere
    """
    entries = [entry for entry in entries if len(entry.content) <= MOST_LETTERS]
    try:
        at = study.clock()
        with study.disk.transaction() as db:
            db.execute("DELETE FROM drafts")
            db.executemany(
                "INSERT INTO drafts (place, room, name, content, at) VALUES (?, ?, ?, ?, ?)",
                [(entry.place, entry.room, entry.name, entry.content, at) for entry in entries],
            )
    except CulmoError:
        _keep_elsewhere(study.path, entries)
        return
    for path in _spare_files(study.path):
        with suppress(OSError):
            path.unlink()


def _keep_elsewhere(study: Path, entries: Sequence[Unfinished]) -> None:
    text = json.dumps([asdict(entry) for entry in entries])
    trouble: CulmoError | None = None
    for path in _spare_places(study):
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with whole_file(path, mode=0o600) as part:
                part.write_text(text, encoding="utf-8")
            return
        except (CulmoError, OSError) as error:
            trouble = CulmoError(str(error))
    if trouble is not None and entries:
        raise trouble


def _spare_places(study: Path) -> list[Path]:
    name = hashlib.sha256(str(study.absolute()).encode("utf-8", errors="replace")).hexdigest()[:24]
    return [folder / f"culmo-{name}.typed.json" for folder in spare_folders()]


def _spare_files(study: Path) -> list[Path]:
    return [path for path in _spare_places(study) if path.is_file()]
