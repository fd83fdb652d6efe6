"""Pages that fill from the top: titles, text, rows and charts one below the other, in millimetres."""

from bisect import bisect_right
from collections.abc import Callable

from PySide6.QtCore import QLineF, QMarginsF, QRectF, QSizeF
from PySide6.QtGui import QColor, QImage, QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPen

from culmo.core.chart.lengths import MM_PER_INCH
from culmo.core.chart.papers import Paper
from culmo.desk.drawing.sheet import draw_text, drawn_width_mm
from culmo.words import tr

TEXT, SMALL, HEADING, TITLE = 3.5, 2.9, 4.8, 8.0
LEADING = 1.36
MARGIN, FOOT = 18.0, 12.0
_INK, _SOFT, _LINE = QColor(24, 24, 24), QColor(96, 96, 96), QColor(176, 176, 176)
Draw = Callable[[QPainter, QRectF], None]


_LONG = 400  # letters of a word that is longer than any line


def wrap_mm(text: str, size_mm: float, width_mm: float) -> list[str]:
    """Text broken into lines; its own line breaks stand, and a word that is too long is broken too."""
    lines: list[str] = []
    for paragraph in text.splitlines() or [""]:
        line = ""
        for word in paragraph.split():
            wider = f"{line} {word}".strip()
            if len(word) < _LONG and drawn_width_mm(wider, size_mm) <= width_mm:
                line = wider
                continue
            if line:
                lines.append(line)
            while (count := _fitting(word, size_mm, width_mm)) < len(word):
                lines.append(word[:count])
                word = word[count:]
            line = word
        lines.append(line)
    return lines


def _fitting(word: str, size_mm: float, width_mm: float) -> int:
    """How many letters of a word fit on a line, at least one; of a long word only what may fit is measured."""
    high = 16
    while high < len(word) and drawn_width_mm(word[:high], size_mm) <= width_mm:
        high *= 2
    high = min(high, len(word))
    if drawn_width_mm(word[:high], size_mm) <= width_mm:
        return high
    places = range(1, high)
    return max(1, bisect_right(places, width_mm, key=lambda count: drawn_width_mm(word[:count], size_mm)))


class Flow:
    """Fills pages.

    Parameters
    ----------
    device : QPagedPaintDevice to draw on, or None to find out only on which page things come to stand
    paper : Paper, of the pages
    running : str, at the foot of each page

    Attributes
    ----------
    marks : list of (text, page), the headings that were set with a mark
    page : int, from 1
    """

    def __init__(self, device: QPagedPaintDevice | None, paper: Paper, running: str) -> None:
        self.device, self.paper, self.running = device, paper, running
        self.marks: list[tuple[str, int]] = []
        self.page = 1
        self.y = MARGIN
        self._own = False  # whether the page on hand is one of another size
        self._blind = QImage(4, 4, QImage.Format.Format_RGB32)
        self.painter = QPainter()
        if device is None:
            self.painter.begin(self._blind)
        else:
            self._set_size(paper)
            if not self.painter.begin(device):
                raise OSError(tr("the pages can not be drawn"))
        self._scale()
        self._foot()

    # ---- pages

    @property
    def width(self) -> float:
        """Millimetres between the margins."""
        return self.paper.width_mm - 2 * MARGIN

    @property
    def bottom(self) -> float:
        """Where the page ends."""
        return self.paper.height_mm - MARGIN - FOOT / 2

    def _set_size(self, paper: Paper) -> None:
        assert self.device is not None
        size = QPageSize(
            QSizeF(paper.width_mm, paper.height_mm), QPageSize.Unit.Millimeter, paper.name,
            QPageSize.SizeMatchPolicy.ExactMatch,
        )  # fmt: skip
        self.device.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))

    def _scale(self) -> None:
        self.painter.resetTransform()
        if self.device is not None:
            dots = self.device.logicalDpiX() / MM_PER_INCH
            self.painter.scale(dots, dots)
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)

    def _turn(self, paper: Paper, own: bool) -> None:
        if self.device is not None:
            if own or self._own:
                self._set_size(paper)
            self.device.newPage()
        self._own = own
        self._scale()
        self.page += 1
        self.y = MARGIN

    def new_page(self) -> None:
        """Go on at the top of the next page."""
        self._turn(self.paper, own=False)
        self._foot()

    def own_page(self, paper: Paper, draw: Callable[[QPainter], None]) -> None:
        """A page of another size with nothing else on it."""
        self._turn(paper, own=True)
        if self.device is not None:
            draw(self.painter)
        self.y = self.bottom + 1  # what comes next begins a page

    def _foot(self) -> None:
        y = self.paper.height_mm - FOOT
        self.painter.setPen(QPen(_LINE, 0.2))
        self.painter.drawLine(QLineF(MARGIN, y - 5.0, self.paper.width_mm - MARGIN, y - 5.0))
        self.painter.setPen(_SOFT)
        draw_text(self.painter, self.running, MARGIN, y, SMALL)
        number = str(self.page)
        draw_text(
            self.painter, number, self.paper.width_mm - MARGIN - drawn_width_mm(number, SMALL), y, SMALL
        )

    def room(self, height: float) -> None:
        """See to it that so much fits below; else turn the page."""
        if self.y + height > self.bottom and (self.y > MARGIN or self._own):
            self.new_page()

    def end(self) -> None:
        """No more comes."""
        self.painter.end()

    # ---- what stands on them

    def gap(self, height: float) -> None:
        """Leave some room."""
        self.y += height

    def heading(self, text: str, size: float = HEADING, mark: bool = False, keep: float = 30.0) -> None:
        """A heading in the serif, with `keep` millimetres of what follows on the same page."""
        lines = wrap_mm(text, size, self.width)
        self.room(len(lines) * size * LEADING + keep)
        if mark:
            self.marks.append((text, self.page))
        self.painter.setPen(_INK)
        for line in lines:
            self.y += size * LEADING
            draw_text(self.painter, line, MARGIN, self.y, size)
        self.y += size * 0.5

    def text(self, text: str, size: float = TEXT, soft: bool = False, indent: float = 0.0) -> None:
        """A paragraph."""
        for line in wrap_mm(text, size, self.width - indent):
            self.room(size * LEADING)
            self.painter.setPen(_SOFT if soft else _INK)
            self.y += size * LEADING
            draw_text(self.painter, line, MARGIN + indent, self.y, size)
        self.y += size * 0.4

    def rule(self) -> None:
        """A thin line."""
        self.y += 1.5
        self.painter.setPen(QPen(_LINE, 0.2))
        self.painter.drawLine(QLineF(MARGIN, self.y, MARGIN + self.width, self.y))
        self.y += 1.5

    def band(self, height: float, draw: Draw, indent: float = 0.0, width: float | None = None) -> None:
        """Something drawn into a box of a height, not broken over pages."""
        self.room(height)
        if self.device is not None:
            self.painter.save()
            draw(self.painter, QRectF(MARGIN + indent, self.y, width or self.width - indent, height))
            self.painter.restore()
        self.y += height

    def row(
        self,
        picture_width: float,
        draw: Draw,
        columns: list[tuple[float, str]],
        least: float = 6.4,
        lead: tuple[float, str] = (0.0, ""),
    ) -> None:
        """A picture with texts in columns beside it, each wrapped; the row is as high as they need.

        Parameters
        ----------
        picture_width : float, millimetres, 0 for none
        draw : function that draws the picture
        columns : pairs of a width in millimetres and a text
        least : float, the height at least
        lead : the same, for a short text that stands before the picture
        """
        texts = [(width, wrap_mm(text, SMALL, width - 2.0)) for width, text in columns]
        tallest = max((len(lines) for _, lines in texts), default=1)
        height = max(least, tallest * SMALL * LEADING + 1.8)
        self.room(height)
        top = self.y
        self.painter.setPen(_SOFT)
        self._column(MARGIN, top, min(height, least), [lead[1]])
        if picture_width and self.device is not None:
            self.painter.save()
            place = QRectF(MARGIN + lead[0], top + 0.6, picture_width - 2.0, min(height, least) - 1.2)
            draw(self.painter, place)
            self.painter.restore()
        x = MARGIN + lead[0] + picture_width
        self.painter.setPen(_INK)
        for width, lines in texts:
            self._column(x, top, min(height, least), lines)
            x += width
        self.y = top + height

    def _column(self, x: float, top: float, height: float, lines: list[str]) -> None:
        """Lines of small text, set from the middle of a height where there is one alone."""
        start = top + (max(0.0, height - SMALL * LEADING) / 2 if len(lines) == 1 else 0.4)
        for number, line in enumerate(lines):
            draw_text(self.painter, line, x, start + SMALL + number * SMALL * LEADING, SMALL)

    def column_heads(self, columns: list[tuple[float, str]], indent: float = 0.0) -> None:
        """What stands in the columns of the rows that follow."""
        self.room(14.0)
        x = MARGIN + indent
        self.painter.setPen(_SOFT)
        self.y += SMALL * LEADING
        for width, text in columns:
            draw_text(self.painter, text, x, self.y, SMALL)
            x += width
        self.y += 1.6

    def fold(self, text: str, at_page: int) -> None:
        """A line of the contents: a text, dots, a page."""
        self.room(TEXT * LEADING + 1)
        self.y += TEXT * LEADING
        number = str(at_page)
        right = MARGIN + self.width
        end = right - drawn_width_mm(number, TEXT)
        lines = wrap_mm(text, TEXT, self.width - 16)
        self.painter.setPen(_INK)
        draw_text(self.painter, lines[0] + ("…" if len(lines) > 1 else ""), MARGIN, self.y, TEXT)
        draw_text(self.painter, number, end, self.y, TEXT)
        begin = MARGIN + drawn_width_mm(lines[0], TEXT) + 4
        if end - begin > 6:
            pen = QPen(_LINE, 0.25)
            pen.setDashPattern([0.5, 6.0])
            self.painter.setPen(pen)
            self.painter.drawLine(QLineF(begin, self.y - 0.3, end - 2, self.y - 0.3))
