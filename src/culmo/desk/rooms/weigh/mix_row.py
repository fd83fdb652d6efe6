"""A mix in a list: its colour, its words, a number; it can be chosen by mouse or key."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QImage, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy

from culmo.desk.drawn import usual_height, usual_painter, usual_rect, usual_width
from culmo.desk.guard import guarded
from culmo.desk.theme import PAPER, px, sans, text_scale
from culmo.desk.things import OneThing, Thing
from culmo.desk.widgets import as_tip, draw_edge

_CHIP = 30
_ONE_LINE = 190  # words that are wider run over two lines


@guarded
class MixRow(OneThing, QAbstractButton):
    """One line of a list of mixes; a second colour, where given, stands at the left of it for comparison."""

    def __init__(
        self,
        colour: QColor,
        words: str,
        number: str = "",
        recorded: bool = False,
        beside: QColor | None = None,
        remark: str = "",
        thing: Thing | None = None,
        real: Callable[[int, int, float], QImage | None] | None = None,
    ) -> None:
        super().__init__()
        self.real = real  # the real paint for a size in pixels, where the colour was read from a picture
        self.colour, self.number, self.recorded, self.beside = colour, number, recorded, beside
        self.remark, self._thing = remark, thing
        self.setText(words)
        self.setToolTip(as_tip(f"{words}\n{remark}" if remark else words))
        self.setAccessibleName(" ".join(part for part in (words, number, remark) if part))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.two_lines = not remark and QFontMetrics(sans(10.5)).horizontalAdvance(words) > _ONE_LINE
        self.setFixedHeight(px(46 if remark or self.two_lines else 32))

    def shown_thing(self) -> Thing | None:
        return self._thing

    def sizeHint(self) -> QSize:
        return QSize(px(200), self.height())

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chip = QRectF(1.5, 3.5, _CHIP * (2 if self.beside is not None else 1), usual_height(self) - 7)
        painter.fillRect(chip, PAPER)
        right = QRectF(chip)
        if self.beside is not None:
            left = QRectF(chip.left(), chip.top(), chip.width() / 2, chip.height())
            painter.fillRect(left, self.beside)
            right = left.translated(left.width(), 0)
        ratio = painter.device().devicePixelRatioF() * text_scale()
        image = None
        if self.real is not None:
            image = self.real(round(right.width() * ratio), round(right.height() * ratio), ratio)
        if image is not None:
            painter.drawImage(right, image)
        else:
            painter.fillRect(right, self.colour)
        draw_edge(painter, chip, self.recorded)
        self._words(painter, chip.right() + 8)
        if self.hasFocus() or self.isChecked():
            style = Qt.PenStyle.SolidLine if self.isChecked() else Qt.PenStyle.DotLine
            painter.setPen(QPen(self.palette().color(QPalette.ColorRole.WindowText), 1.4, style))
            painter.drawRect(usual_rect(self).adjusted(0.7, 0.7, -0.7, -0.7))

    def _words(self, painter: QPainter, left: float) -> None:
        font = sans(10.5)
        metrics = QFontMetrics(font)
        wide = metrics.horizontalAdvance(self.number) + 8 if self.number else 0
        room = usual_width(self) - left - wide - 4
        painter.setFont(font)
        painter.setPen(self.palette().color(QPalette.ColorRole.WindowText))
        middle = Qt.AlignmentFlag.AlignVCenter
        top = QRectF(left, 0, room, usual_height(self) if not self.remark else usual_height(self) / 2 + 3)
        if self.two_lines:
            flags = middle | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
            painter.drawText(top, flags, self.text())
        else:
            text = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(top, middle | Qt.AlignmentFlag.AlignLeft, text)
        if self.remark:
            small = sans(10)
            painter.setFont(small)
            painter.setPen(self.palette().color(QPalette.ColorRole.PlaceholderText))
            below = QRectF(
                left, usual_height(self) / 2 - 1, usual_width(self) - left - 4, usual_height(self) / 2
            )
            text = QFontMetrics(small).elidedText(
                self.remark, Qt.TextElideMode.ElideRight, int(below.width())
            )
            painter.drawText(below, middle | Qt.AlignmentFlag.AlignLeft, text)
        if self.number:
            painter.setFont(sans(10.5, font.Weight.DemiBold))
            painter.setPen(self.palette().color(QPalette.ColorRole.WindowText))
            box = QRectF(usual_width(self) - wide - 2, 0, wide, top.height())
            painter.drawText(box, middle | Qt.AlignmentFlag.AlignRight, self.number)
