"""The paints of a sheet that is being laid out, as they are chosen in the list, by wells and at the names on the sheet."""

from collections.abc import Mapping

from PySide6.QtGui import QIcon, QPixmap

from culmo.core.chart.aids import Aids
from culmo.core.chart.kind import LabelledBy, label_texts
from culmo.core.paint.label import minded
from culmo.core.paint.recipe import mix
from culmo.desk.rooms.plan.fields import Field, PaintsField
from culmo.desk.session import Session


class SheetPaints:
    """Changes the lists of paints of the Layout page, and says what each paint is.

    Parameters
    ----------
    session : Session
    fields : mapping from options to their fields, which may not be there yet
    """

    def __init__(self, session: Session, fields: Mapping[str, Field]) -> None:
        self._session, self._fields = session, fields

    def _concerns(self, name: str) -> bool:
        return not self._fields[name].widget.isHidden()

    def dressed(self, name: str) -> tuple[QIcon | None, str, str]:
        """The stroke of a paint, its codes and what is to be minded of it, and all of that in words."""
        paint = next((paint for paint in self._session.paints if paint.name == name), None)
        label = self._session.learning.labels.get(name.casefold())
        marks = minded(label) if label is not None else []
        looks, icon = self._session.learning.looks, None
        if looks is not None and looks.knows(mix([name])):
            field = self._fields["paints"]
            assert isinstance(field, PaintsField)
            size, ratio = field.list.iconSize(), field.list.devicePixelRatioF()
            image = looks.stroke(
                mix([name]), round(size.width() * ratio), round(size.height() * ratio), ratio
            )
            image.setDevicePixelRatio(ratio)
            icon = QIcon(QPixmap.fromImage(image))
        codes = paint.codes if paint is not None else ""
        said = [part for part in (codes, *marks) if part]
        return icon, ", ".join(said), ", ".join([name, *said])

    def dress(self) -> None:
        """The paints look as they are known now."""
        for field in self._fields.values():
            if isinstance(field, PaintsField):
                field.dress_all()

    def written(self, aids: Aids) -> dict[str, str]:
        """From what is written for each paint on the sheet to its name; what is written for two is neither's.

        Parameters
        ----------
        aids : Aids, with the codes and numbers that may stand for the names
        """
        labels = self._fields["labels"].text() if self._concerns("labels") else LabelledBy.NAME
        found: dict[str, str] = {}
        twice: set[str] = set()
        before = 0
        for key in ("paints", "across"):
            field = self._fields[key]
            if not isinstance(field, PaintsField) or not self._concerns(key):
                continue
            names = field.names()
            for text, name in zip(label_texts(names, labels, aids, before), names, strict=True):
                if found.get(text, name) != name:
                    twice.add(text)
                found[text] = name
            before += len(names)
        return {text: name for text, name in found.items() if text and text not in twice}

    def _field_of(self, name: str) -> PaintsField | None:
        """The list that a paint is chosen in, or the first one."""
        lists = [
            field
            for key in ("paints", "across")
            if isinstance(field := self._fields[key], PaintsField) and self._concerns(key)
        ]
        return next((field for field in lists if name in field.names()), next(iter(lists), None))

    def toggle(self, name: str) -> None:
        """Put a paint on the sheet, or take it off."""
        field = self._field_of(name)
        if field is not None:
            field.change(lambda names: [n for n in names if n != name] if name in names else [*names, name])

    def remove(self, name: str) -> None:
        """Take a paint off the sheet."""
        field = self._field_of(name)
        if field is not None and name in field.names():
            self.toggle(name)

    def add(self, name: str) -> None:
        """Put a paint on the sheet."""
        field = self._field_of(name)
        if field is not None and name not in field.names():
            self.toggle(name)

    def move(self, name: str, to: str) -> None:
        """Let a paint stand where another stands; those between make room."""
        field = self._field_of(name)
        if field is None or field is not self._field_of(to):
            return

        def moved(names: list[str]) -> list[str]:
            place = names.index(to)
            left = [other for other in names if other != name]
            return [*left[:place], name, *left[place:]]

        if {name, to} <= set(field.names()):
            field.change(moved)

    def replace(self, old: str, new: str) -> None:
        """Another paint takes the place of one; where both are on the sheet they change places."""
        field = self._field_of(old)
        if field is not None and old in field.names():
            change = {old: new, new: old}
            field.change(lambda names: [change.get(name, name) for name in names])
