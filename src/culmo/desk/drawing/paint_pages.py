"""The table of paints on paper: a line for each, on wide pages, with what to doubt below."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPagedPaintDevice, QPainter

from culmo.core.chart.papers import Paper
from culmo.desk.drawing.flow import SMALL, TITLE, Flow
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.sheet import drawn_width_mm
from culmo.desk.theme import PAPER as PAPER_COLOUR
from culmo.study.paint_rows import PaintRow
from culmo.words import tr

PAGE = Paper("A4 wide", 297.0, 210.0)
_STROKE_MM, _PIXELS_PER_MM = 24.0, 12.0
_BETWEEN_MM = 2.6


def write_paint_pages(
    device: QPagedPaintDevice,
    title: str,
    running: str,
    heads: Sequence[str],
    rows: Sequence[tuple[PaintRow, Sequence[str]]],
    looks: Looks | None,
) -> int:
    """Draw the pages; gives how many there are.

    Parameters
    ----------
    device : QPagedPaintDevice
    title, running : str, at the top and at the foot of each page
    heads : sequence of str, of the columns
    rows : sequence of a PaintRow with the texts of its columns
    looks : Looks, or None while nothing is known
    """
    flow = Flow(device, PAGE, running)
    flow.heading(title, TITLE)
    widths = _widths(heads, [texts for _, texts in rows], flow.width - _STROKE_MM)
    columns = list(zip(widths, heads, strict=True))
    flow.column_heads(columns, _STROKE_MM)
    page = flow.page
    for row, texts in rows:
        flow.room(8.0)
        if flow.page != page:
            flow.column_heads(columns, _STROKE_MM)
            page = flow.page
        draw = partial(_draw_stroke, looks, row.paint.name)
        flow.row(_STROKE_MM, draw, list(zip(widths, texts, strict=True)), 8.0)
    doubted = [row for row in rows if row[0].cautions]
    if doubted:
        flow.gap(4)
        flow.heading(tr("To be doubted"))
    for row, _ in doubted:
        flow.text(f"{row.paint.name}: " + "; ".join(caution.words for caution in row.cautions), SMALL)
    flow.end()
    return flow.page


def _widths(heads: Sequence[str], rows: Sequence[Sequence[str]], room: float) -> list[float]:
    """The widths of columns, in millimetres: as wide as their texts; where all do not fit, texts break between words."""
    wished, least = [], []
    for place, head in enumerate(heads):
        texts = [head, *(row[place] for row in rows)]
        wished.append(max(drawn_width_mm(text, SMALL) for text in texts) + _BETWEEN_MM)
        words = [word for text in texts for word in text.split()]
        least.append(max((drawn_width_mm(word, SMALL) for word in words), default=0.0) + _BETWEEN_MM)
    over = sum(wished) - room
    give = sum(wished) - sum(least)
    share = min(1.0, max(0.0, over / give)) if give > 0 else 0.0
    widths = [wish - share * (wish - low) for wish, low in zip(wished, least, strict=True)]
    return [width * room / sum(widths) for width in widths]


def _draw_stroke(looks: Looks | None, name: str, painter: QPainter, place: QRectF) -> None:
    painter.fillRect(place, PAPER_COLOUR)
    draw_paint(painter, looks, name, place, _PIXELS_PER_MM, _PIXELS_PER_MM * 0.35, pencil=0.2)
