"""Nearer to what is drawn, and back: how near, and which part of it is on view."""

from PySide6.QtCore import QObject, QPointF, QRectF, Signal

NEAREST = 16.0  # times as large as it is when all of it is seen
STEP = 1.25


class Zoom(QObject):
    """How near a picture is looked at, and which part of it: it fits its place at first.

    Lengths are pixels of the widget. The picture lies in a place, which is the widget's own rectangle at first; nearer, the
    place is larger than the widget, and the widget is a window on it.
    """

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.factor = 1.0
        self._shift = QPointF(0.0, 0.0)  # of the middle of the place from that of the widget

    @property
    def is_near(self) -> bool:
        """Whether it is nearer than where all is seen."""
        return self.factor > 1.0

    def place(self, base: QRectF) -> QRectF:
        """Where the picture lies now.

        Parameters
        ----------
        base : QRectF, where it lies when all of it is seen
        """
        size = base.size() * self.factor
        place = QRectF(0.0, 0.0, size.width(), size.height())
        place.moveCenter(base.center() + self._shift)
        return place

    def by(self, factor: float, about: QPointF, base: QRectF) -> None:
        """Nearer, or farther where the factor is below 1, with one point staying where it is."""
        before = self.factor
        self.factor = min(NEAREST, max(1.0, self.factor * factor))
        ratio = self.factor / before
        middle = base.center() + self._shift
        self._shift = about + (middle - about) * ratio - base.center()
        self._keep_in(base)

    def to(self, factor: float, about: QPointF, base: QRectF) -> None:
        """As near as a factor says."""
        self.by(factor / self.factor, about, base)

    def move(self, by: QPointF, base: QRectF) -> None:
        """Draw the picture about."""
        self._shift += by
        self._keep_in(base)

    def fit(self) -> None:
        """All of it is seen again."""
        self.factor, self._shift = 1.0, QPointF(0.0, 0.0)
        self.changed.emit()

    def show(self, part: QRectF, base: QRectF) -> None:
        """Bring a part of the picture into view, moving no more than it takes.

        Parameters
        ----------
        part : QRectF, in pixels of the widget as it is now
        base : QRectF
        """
        dx = _into(part.left(), part.right(), base.left(), base.right())
        dy = _into(part.top(), part.bottom(), base.top(), base.bottom())
        if dx or dy:
            self.move(QPointF(dx, dy), base)

    def _keep_in(self, base: QRectF) -> None:
        """The picture is not drawn out of its widget."""
        wide, high = (base.width() * (self.factor - 1.0) / 2.0, base.height() * (self.factor - 1.0) / 2.0)
        self._shift = QPointF(min(wide, max(-wide, self._shift.x())), min(high, max(-high, self._shift.y())))
        self.changed.emit()


def _into(low: float, high: float, least: float, most: float) -> float:
    """By how much something from `low` to `high` is moved to lie between two bounds; its begin, where all of it can not."""
    if high > most:
        low, high, by = low - (high - most), most, most - high
    else:
        by = 0.0
    return by + (least - low if low < least else 0.0)
