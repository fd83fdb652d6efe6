"""What was typed, planned or read and is not saved yet: where, in whose words, how it is saved, and how it comes back."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from culmo.desk.room_names import RoomName


@dataclass(frozen=True)
class Typed:
    """Something that was typed, planned or read.

    Attributes
    ----------
    name : str, what the painter calls it
    save : function that saves it and gives whether it could; else the painter is told why, and it stays
    room : RoomName, the room in which it stands
    content : function that gives what was typed, from which it can stand there again on another day; "" where it can not
    """

    name: str
    save: Callable[[], bool]
    room: RoomName
    content: Callable[[], str] = str


class Unsaved(QObject):
    """All that was typed and is not saved; nothing of it is left behind unasked.

    `changed` tells of another list of names, `typed` of another content.
    """

    changed = Signal()
    typed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._entries: dict[str, Typed] = {}

    @property
    def names(self) -> list[str]:
        """What it is, in the order in which it was typed."""
        return [entry.name for entry in self._entries.values()]

    @property
    def entries(self) -> dict[str, Typed]:
        """All of it, by its place."""
        return dict(self._entries)

    def note(self, key: str, entry: Typed | None) -> None:
        """Something is typed at a place, or, with None, nothing is any more."""
        before, earlier = self.names, self._entries.get(key)
        if entry is None:
            self._entries.pop(key, None)
        else:
            self._entries[key] = entry
        if self.names != before:
            self.changed.emit()
        if entry is not earlier:
            self.typed.emit()

    def leave_out(self) -> None:
        """Nothing of it is wanted."""
        self._entries.clear()
        self.changed.emit()
        self.typed.emit()

    def save_all(self) -> RoomName | None:
        """Save what there is; gives the room of the first that can not be saved, None when all is."""
        for key, entry in list(self._entries.items()):
            if not entry.save():
                return entry.room
            self.note(key, None)
        return None
