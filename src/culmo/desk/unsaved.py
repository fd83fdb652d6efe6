"""What was typed, planned or read and is not saved yet: where, in whose words, and how it is saved."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal


@dataclass(frozen=True)
class Typed:
    """Something that was typed, planned or read.

    Attributes
    ----------
    name : str, what the painter calls it
    save : function that saves it and gives whether it could; else the painter is told why, and it stays
    room : int, the room in which it stands
    """

    name: str
    save: Callable[[], bool]
    room: int


class Unsaved(QObject):
    """All that was typed and is not saved; nothing of it is left behind unasked."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._entries: dict[str, Typed] = {}

    @property
    def names(self) -> list[str]:
        """What it is, in the order in which it was typed."""
        return [entry.name for entry in self._entries.values()]

    def note(self, key: str, entry: Typed | None) -> None:
        """Something is typed at a place, or, with None, nothing is any more."""
        before = self.names
        if entry is None:
            self._entries.pop(key, None)
        else:
            self._entries[key] = entry
        if self.names != before:
            self.changed.emit()

    def leave_out(self) -> None:
        """Nothing of it is wanted."""
        self._entries.clear()
        self.changed.emit()

    def save_all(self) -> int | None:
        """Save what there is; gives the room of the first that can not be saved, None when all is."""
        for key, entry in list(self._entries.items()):
            if not entry.save():
                return entry.room
            self.note(key, None)
        return None
