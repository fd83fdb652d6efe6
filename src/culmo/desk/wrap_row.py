"""A row of widgets that goes on below where the window is too narrow for it."""

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem
from shiboken6 import isValid

from culmo.desk.guard import guarded


@guarded
class WrapRow(QLayout):
    """Widgets beside each other, each as wide as it likes; what does not fit begins another line."""

    def __init__(self, gap: int = 4) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap = gap
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._lay(QRect(0, 0, width, 0), False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def _shown(self) -> list[QLayoutItem]:
        """The items that take room. A row that is about to be deleted may be asked once more when its items are gone."""
        return [item for item in self._items if isValid(item) and not item.isEmpty()]

    def minimumSize(self) -> QSize:
        shown = self._shown()
        wide = max((item.minimumSize().width() for item in shown), default=0)
        return QSize(wide, max((item.sizeHint().height() for item in shown), default=0))

    def _lay(self, rect: QRect, place: bool) -> int:
        """Lay the items into a rectangle; gives the height that they need."""
        lines: list[list[QLayoutItem]] = [[]]
        x = 0
        for item in self._shown():
            wide = item.sizeHint().width()
            if lines[-1] and x + wide > rect.width():
                lines.append([])
                x = 0
            lines[-1].append(item)
            x += wide + self._gap
        y = rect.y()
        for line in lines:
            high = max((item.sizeHint().height() for item in line), default=0)
            x = rect.x()
            for item in line:
                size = item.sizeHint()
                if place:
                    down = (high - size.height()) // 2
                    width = min(size.width(), rect.width())
                    item.setGeometry(QRect(QPoint(x, y + down), QSize(width, size.height())))
                x += size.width() + self._gap
            y += high + self._gap
        return max(0, y - self._gap - rect.y())
