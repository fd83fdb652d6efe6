"""A palette of the painter's own, to be tried against the best."""

from collections.abc import Iterable

from PySide6.QtCore import QObject, Signal

from culmo.core.chart.options import split_names
from culmo.core.paint.recipe import renaming
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.widgets import Entry
from culmo.words import listed, tr


class OwnPalette(QObject):
    """Paints of the box in use, in the order in which they came."""

    changed = Signal()  # by the painter, who looks at it now

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(weighing)
        self._session, self._weighing = session, weighing
        self.names: list[str] = []
        session.renamed.connect(self._rename)

    def _rename(self, pairs: list[tuple[str, str]]) -> None:
        for old, new in pairs:
            self.names = list(map(renaming(old, new), self.names))

    def keep_known(self) -> None:
        """Paints that left the box are in it no more."""
        self.names = [name for name in self.names if name in self._weighing.names]

    def take(self, names: Iterable[str]) -> None:
        """Another palette as one's own, to be changed."""
        self.names = list(names)
        self.changed.emit()

    def add(self, name: str) -> None:
        """One more paint."""
        if name in self._weighing.names and name not in self.names:
            self.names.append(name)
        elif name not in self._weighing.names:
            self._session.told.emit(tr("{name} is not in the box in use, or is only considered", name=name))
        self.changed.emit()

    def add_typed(self, field: Entry) -> None:
        """The paints that are typed; what can not be stays in the field."""
        left = []
        for typed in split_names(field.text()):
            begins = [name for name in self._weighing.names if name.casefold().startswith(typed.casefold())]
            whole = [name for name in begins if name.casefold() == typed.casefold()]
            found = whole or begins
            if len(found) != 1:
                left.append(typed)
            elif found[0] not in self.names:
                self.names.append(found[0])
        field.setText(", ".join(left))
        why = tr("{what}: none of the box in use, or more than one", what=listed(left)) if left else ""
        field.mark_wrong(why)
        if why:
            self._session.told.emit(why)
        self.changed.emit()

    def toggle(self, name: str) -> None:
        """In, or out."""
        if name in self.names:
            self.remove(name)
        else:
            self.add(name)

    def remove(self, name: str) -> None:
        """One less."""
        self.names = [other for other in self.names if other != name]
        self.changed.emit()
