"""Rows that go on below where the window is too narrow for them, or text is large."""

from dataclasses import dataclass

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QWidget, QWidgetItem
from shiboken6 import isValid

from culmo.desk.guard import guarded
from culmo.desk.theme import px


@dataclass(frozen=True)
class _Asked:
    """An item that takes room, with what it said that it would like and must have."""

    item: QLayoutItem
    hint: QSize
    least: QSize


@guarded
class _Items(QLayout):
    """Things that are laid on one line or on several, by a way of its own.

    What the things would like is asked once, until Qt says that it may have changed: it asks a layout for its height
    dozens of times for one letter in a field beside it.
    """

    def __init__(self, gap: int) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self._asked: list[_Asked] | None = None
        self._heights: dict[int, int] = {}
        self.setContentsMargins(0, 0, 0, 0)

    def invalidate(self) -> None:
        self._asked = None
        self._heights.clear()
        super().invalidate()

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)
        self.invalidate()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        if not 0 <= index < len(self._items):
            return None
        item = self._items.pop(index)
        self.invalidate()
        return item

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:
            self._heights[width] = self._lay(QRect(0, 0, width, 0), False)
        return self._heights[width]

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, True)

    def one_line(self) -> int:
        """How wide it would like to be: all on one line."""
        shown = [asked.hint.width() for asked in self._shown()]
        return sum(shown) + self._gap * max(0, len(shown) - 1)

    def _shown(self) -> list[_Asked]:
        """The items that take room. A row that is about to be deleted may be asked once more when its items are gone."""
        if self._asked is None:
            shown = [item for item in self._items if isValid(item) and not item.isEmpty()]
            self._asked = [_Asked(item, item.sizeHint(), item.minimumSize()) for item in shown]
        return self._asked

    def _lay(self, rect: QRect, place: bool) -> int:
        """Lay the items into a rectangle, where they are to be placed; gives the height that they need."""
        raise NotImplementedError  # each layout in its way (Qt's objects can not be abstract classes)


@guarded
class WrapRow(_Items):
    """Widgets beside each other, each as wide as it likes; what does not fit begins another line."""

    def __init__(self, gap: int = 4) -> None:
        super().__init__(gap)

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        shown = self._shown()
        wide = max((asked.least.width() for asked in shown), default=0)
        return QSize(wide, max((asked.hint.height() for asked in shown), default=0))

    def _lay(self, rect: QRect, place: bool) -> int:
        """Lay the items into a rectangle; gives the height that they need."""
        lines: list[list[_Asked]] = [[]]
        x = 0
        for asked in self._shown():
            wide = asked.hint.width()
            if lines[-1] and x + wide > rect.width():
                lines.append([])
                x = 0
            lines[-1].append(asked)
            x += wide + self._gap
        y = rect.y()
        for line in lines:
            high = max((asked.hint.height() for asked in line), default=0)
            x = rect.x()
            for asked in line:
                size = asked.hint
                if place:
                    down = (high - size.height()) // 2
                    width = min(size.width(), rect.width())
                    asked.item.setGeometry(QRect(QPoint(x, y + down), QSize(width, size.height())))
                x += size.width() + self._gap
            y += high + self._gap
        return max(0, y - self._gap - rect.y())


@guarded
class TwoOnALine(_Items):
    """Two things on a line: the second at the right end, as wide as it likes; below the first where that has not room.

    Parameters
    ----------
    first, second : QWidget or QLayout
    least : int, what the first must have beside the second, in usual lengths
    gap : int, pixels between them
    """

    def __init__(
        self, first: QWidget | QLayout, second: QWidget | QLayout, least: int = 120, gap: int = 8
    ) -> None:
        super().__init__(gap)
        self._least = least
        for part in (first, second):
            if isinstance(part, QLayout):
                self.addChildLayout(part)
                self.addItem(part)
            else:
                self.addChildWidget(part)
                self.addItem(QWidgetItem(part))

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation.Horizontal

    def sizeHint(self) -> QSize:
        return QSize(self.one_line(), max((asked.hint.height() for asked in self._shown()), default=0))

    def minimumSize(self) -> QSize:
        shown = [asked.least for asked in self._shown()]
        return QSize(
            max((size.width() for size in shown), default=0),
            max((size.height() for size in shown), default=0),
        )

    def _lay(self, rect: QRect, place: bool) -> int:
        """Lay the two into a rectangle; gives the height that they need."""
        shown = self._shown()
        if not shown:
            return 0
        widths, beside = [rect.width()], False
        if len(shown) == 2:
            wished, squeezed = _on_one_line(shown[1])
            enough = max(min(px(self._least), shown[0].hint.width()), shown[0].least.width())
            right = min(wished, rect.width() - enough - self._gap)
            beside = right >= squeezed
            widths = [rect.width() - right - self._gap, right] if beside else [rect.width()] * 2
        heights = [_height(asked, width) for asked, width in zip(shown, widths, strict=True)]
        whole = max(heights) if beside else sum(heights)
        if place:
            x, y = rect.x(), rect.y()
            for asked, width, height in zip(shown, widths, heights, strict=True):
                down = (whole - height) // 2 if beside else 0
                asked.item.setGeometry(QRect(x, y + down, width, height))
                x, y = (x + width + self._gap, y) if beside else (x, y + height)
        return whole


def _on_one_line(asked: _Asked) -> tuple[int, int]:
    """How wide something would like to be on one line, and how wide it must be there at least."""
    layout, widget = asked.item.layout(), asked.item.widget()
    if isinstance(layout, WrapRow):
        return layout.one_line(), layout.one_line()
    wished = asked.hint.width()
    least = getattr(widget, "least_line", None)  # a strip of words that can stand closer
    return wished, least() if least is not None else wished


def _height(asked: _Asked, width: int) -> int:
    """How high something is when it is so wide."""
    if asked.item.hasHeightForWidth():
        return asked.item.heightForWidth(width)
    return max(asked.hint.height(), asked.least.height())
