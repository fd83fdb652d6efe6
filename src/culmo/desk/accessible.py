"""What a screen reader is told of what Culmo draws itself: each thing with its name, its colour in words and its state.

Qt tells of every widget that it knows. A sheet, a box and a map are single widgets to it; here their things become children
of theirs, made only when somebody asks. Qt keeps what it was once given until it ends, so the children of a view stay, and
say that they are gone when their view is.
"""

from typing import Any, cast

from PySide6.QtCore import QObject, QPoint, QPointF, QRect
from PySide6.QtGui import (
    QAccessible,
    QAccessibleAnnouncementEvent,
    QAccessibleEvent,
    QAccessibleInterface,
)
from PySide6.QtWidgets import QAccessibleWidget, QToolButton, QWidget
from shiboken6 import isValid

from culmo.desk.things import NONE, OneThing, ShowsThings
from culmo.desk.widgets import TabStrip

Maybe = Any  # Qt's own stubs forget that there may be none
_kept: list[QAccessibleInterface] = []  # Qt holds them until it ends


class _Child(QAccessibleInterface):
    """One thing of a view, by its place; whatever stands there now."""

    def __init__(self, view: QWidget, place: int) -> None:
        super().__init__()
        self._view, self._place = view, place

    @property
    def _shows(self) -> ShowsThings:
        return cast("ShowsThings", self._view)

    def isValid(self) -> bool:
        return isValid(self._view) and self._place < self._shows.thing_count()

    def object(self) -> Maybe:
        return None

    def parent(self) -> Maybe:
        return QAccessible.queryAccessibleInterface(self._view) if isValid(self._view) else None

    def window(self) -> Maybe:
        return self._view.window().windowHandle() if isValid(self._view) else None

    def child(self, index: int) -> Maybe:
        return None

    def childAt(self, x: int, y: int) -> Maybe:
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1

    def rect(self) -> QRect:
        if not self.isValid():
            return QRect()
        own = self._shows.thing_rect(self._place).toRect()
        return QRect(self._view.mapToGlobal(own.topLeft()), own.size())

    def role(self) -> QAccessible.Role:
        return QAccessible.Role.ListItem

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        if not self.isValid():
            state.invalid = 1
            return state
        state.selectable = state.focusable = 1
        chosen = self._shows.current_thing() == self._place
        state.selected = int(chosen)
        state.focused = int(chosen and self._view.hasFocus())
        state.invisible = int(not self._view.isVisible())
        state.offscreen = int(not self._view.rect().intersects(self._shows.thing_rect(self._place).toRect()))
        return state

    def text(self, kind: QAccessible.Text) -> str:
        if not self.isValid():
            return ""
        thing = self._shows.thing(self._place)
        if kind == QAccessible.Text.Name:
            return thing.name
        return thing.told() if kind in (QAccessible.Text.Description, QAccessible.Text.Value) else ""

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        """Nothing: what it is called follows from what it is."""


class _View(QAccessibleWidget):
    """A view with its things, and after them the widgets that lie in it."""

    def __init__(self, view: QWidget) -> None:
        super().__init__(view, QAccessible.Role.List, "")
        self._view = view
        self._children: list[_Child] = []

    @property
    def _shows(self) -> ShowsThings:
        return cast("ShowsThings", self._view)

    def _count(self) -> int:
        return self._shows.thing_count() if isValid(self._view) else 0

    def at(self, place: int) -> _Child:
        """The child at a place; it is made when it is first asked for."""
        while len(self._children) <= place:
            child = _Child(self._view, len(self._children))
            QAccessible.registerAccessibleInterface(child)
            _kept.append(child)
            self._children.append(child)
        return self._children[place]

    def childCount(self) -> int:
        return self._count() + super().childCount()

    def child(self, index: int) -> Maybe:
        count = self._count()
        return self.at(index) if 0 <= index < count else super().child(index - count)

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        if isinstance(child, _Child):
            return child._place
        own = super().indexOfChild(child)
        return own + self._count() if own >= 0 else -1

    def childAt(self, x: int, y: int) -> Maybe:
        place = self._shows.thing_at(QPointF(self._view.mapFromGlobal(QPoint(x, y))))
        return self.at(place) if 0 <= place < self._count() else super().childAt(x, y)

    def focusChild(self) -> Maybe:
        place = self._shows.current_thing() if self._view.hasFocus() else NONE
        return self.at(place) if 0 <= place < self._count() else super().focusChild()


class _Tabs(QAccessibleWidget):
    """A strip of words of which one is chosen."""

    def __init__(self, strip: QWidget) -> None:
        super().__init__(strip, QAccessible.Role.PageTabList, "")


class _Tab(QAccessibleWidget):
    """One word of a strip."""

    def __init__(self, button: QToolButton) -> None:
        super().__init__(button, QAccessible.Role.PageTab, "")
        self._button = button

    def state(self) -> QAccessible.State:
        state = super().state()
        state.selectable = 1
        state.selected = int(self._button.isChecked())
        return state

    def text(self, kind: QAccessible.Text) -> str:
        own = super().text(kind)
        return own or (self._button.text() if kind == QAccessible.Text.Name else "")

    def actionNames(self) -> list[str]:
        return [QAccessibleWidget.pressAction(), *super().actionNames()]

    def doAction(self, name: str) -> None:
        if name == QAccessibleWidget.pressAction():
            self._button.click()
        else:
            super().doAction(name)


def _interface_of(_: str, what: QObject) -> QAccessibleInterface | None:
    """How a widget is told; None where Qt knows best."""
    found: QAccessibleInterface | None = None
    if isinstance(what, TabStrip):
        found = _Tabs(what)
    elif isinstance(what, QToolButton) and isinstance(what.parentWidget(), TabStrip):
        found = _Tab(what)
    elif isinstance(what, QWidget) and isinstance(what, ShowsThings) and not isinstance(what, OneThing):
        found = _View(what)
    if found is not None:
        _kept.append(found)
    return found


def install() -> None:
    """Tell of what Culmo draws itself, whenever somebody asks."""
    QAccessible.installFactory(_interface_of)


def tell_current(view: QWidget) -> None:
    """Say that another thing of a view is selected."""
    if not QAccessible.isActive():
        return
    told = QAccessible.queryAccessibleInterface(view)
    place = cast("ShowsThings", view).current_thing()
    if isinstance(told, _View) and place != NONE:
        child = told.at(place)
        kind = QAccessible.Event.Focus if view.hasFocus() else QAccessible.Event.SelectionAdd
        QAccessible.updateAccessibility(QAccessibleEvent(child, kind))


def announce(widget: QWidget, text: str) -> None:
    """Say a passing word aloud, as it is shown in the line at the foot."""
    if text and QAccessible.isActive():
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(widget, text))
