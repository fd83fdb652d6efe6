"""The groups of a slip, of which one stands open: the others are a line each, which says what is chosen in them."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from culmo.desk.drawn import usual_height, usual_painter, usual_rect, usual_width
from culmo.desk.guard import guarded
from culmo.desk.theme import STEP, px, sans
from culmo.words import tr

_ARROW = 9.0


@guarded
class FoldHead(QAbstractButton):
    """The line of a group: its word, and what is chosen in it while it is shut."""

    def __init__(self, word: str) -> None:
        super().__init__()
        self.about = ""
        self.setText(word)
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(px(28))
        self.say("")

    def say(self, about: str) -> None:
        """Say what is chosen in the group."""
        self.about = about
        self.setAccessibleName(f"{self.text()}: {about}" if about else self.text())
        self.setToolTip(about)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong, soft = self.palette().windowText().color(), self.palette().placeholderText().color()
        middle = usual_height(self) / 2
        painter.setPen(QPen(strong, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        half = _ARROW / 2 - 1
        if self.isChecked():
            painter.drawLine(1, int(middle - 2), int(1 + half), int(middle + 2))
            painter.drawLine(int(1 + half), int(middle + 2), int(1 + 2 * half), int(middle - 2))
        else:
            painter.drawLine(2, int(middle - half), int(2 + half), int(middle))
            painter.drawLine(int(2 + half), int(middle), 2, int(middle + half))
        font = sans(10.5, QFont.Weight.DemiBold)
        painter.setFont(font)
        left = _ARROW + 6
        metrics = QFontMetrics(font)
        room = usual_rect(self).adjusted(left, 0, 0, 0)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, self.text())
        if not self.isChecked() and self.about:
            painter.setFont(sans(10))
            painter.setPen(soft)
            left += metrics.horizontalAdvance(self.text()) + 10
            wide = int(usual_width(self) - left)
            words = QFontMetrics(painter.font()).elidedText(self.about, Qt.TextElideMode.ElideRight, wide)
            painter.drawText(
                usual_rect(self).adjusted(left, 0, 0, 0),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                words,
            )
        if self.hasFocus():
            painter.setPen(QPen(strong, 1.0, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(usual_rect(self).adjusted(-0.5, 1.5, -0.5, -1.5), 3, 3)


class Folds(QWidget):
    """Groups below each other; opening one shuts the one that was open.

    Parameters
    ----------
    groups : sequence of (key, word), in their order
    about : function that says what is chosen in a group, by its key
    """

    opened = Signal(str)

    def __init__(self, groups: Sequence[tuple[str, str]], about: Callable[[str], str]) -> None:
        super().__init__()
        self._about = about
        self.heads: dict[str, FoldHead] = {}
        self.bodies: dict[str, QWidget] = {}
        self.lines: dict[str, QVBoxLayout] = {}
        self.current = ""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for key, word in groups:
            head, body = FoldHead(word), QWidget()
            lines = QVBoxLayout(body)
            lines.setContentsMargins(0, 2, 0, STEP)
            lines.setSpacing(4)
            head.clicked.connect(lambda _=False, key=key: self.open("" if self.current == key else key))
            layout.addWidget(head)
            layout.addWidget(body)
            self.heads[key], self.bodies[key], self.lines[key] = head, body, lines
        self.open("")

    def open(self, key: str) -> None:
        """Open a group, or none."""
        self.current = key
        for own, head in self.heads.items():
            head.setChecked(own == key)
            self.bodies[own].setVisible(own == key and not head.isHidden())
        self.refresh()
        self.opened.emit(key)

    def concern(self, keys: Sequence[str]) -> None:
        """Show these groups alone: nothing of the others concerns what is chosen."""
        for own, head in self.heads.items():
            head.setVisible(own in keys)
            self.bodies[own].setVisible(own in keys and own == self.current)

    def refresh(self) -> None:
        """Say anew what is chosen in each group."""
        for key, head in self.heads.items():
            head.say(self._about(key) or tr("as usual"))
