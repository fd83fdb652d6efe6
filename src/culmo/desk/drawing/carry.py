"""Cards that a painter can carry: the favourite mixes with their parts, to be cut out."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMarginsF, QRectF, QSizeF
from PySide6.QtGui import QColor, QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPen

from culmo.core.chart.lengths import MM_PER_INCH
from culmo.core.chart.papers import Paper, find_paper
from culmo.core.paint.recipe import Recipe, format_number, wash_words
from culmo.desk.drawing.export import WASH_DPI
from culmo.desk.drawing.flow import wrap_mm
from culmo.desk.drawing.looks import Looks, fill_read
from culmo.desk.drawing.pdf import pdf_writer
from culmo.desk.drawing.sheet import draw_text, drawn_width_mm
from culmo.desk.theme import PAPER, PENCIL
from culmo.errors import CulmoError
from culmo.study.whole_file import whole_file
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.study.patches import Patch

# name -> width and height of a card in millimetres
SIZES = {"wallet": (86.0, 54.0), "pocket": (105.0, 74.0), "lid": (148.0, 105.0)}
_INK, _SOFT, _LINE = QColor(24, 24, 24), QColor(96, 96, 96), QColor(176, 176, 176)
_PAD, _HEAD, _ROW = 4.0, 8.0, 10.5
_SHEET_MARGIN = 12.0


@dataclass(frozen=True)
class Favourite:
    """A mix to carry.

    Attributes
    ----------
    recipe : Recipe
    lab : (L, a, b) as read, or None where it is predicted
    note : str
    patch : Patch, its real paint, or None where no picture showed it
    """

    recipe: Recipe
    lab: tuple[float, float, float] | None = None
    note: str = ""
    patch: "Patch | None" = None


def parts_words(recipe: Recipe) -> str:
    """A recipe with the parts of each paint, equal ones too: at the table they are counted.

    Examples
    --------
    >>> from culmo.core.paint.recipe import mix
    >>> parts_words(mix(["Rose", "Umber"], [1, 1], 0.2))
    '1 Rose + 1 Umber, tint'
    """
    texts = []
    for layer in recipe.layers:
        many = len(layer.parts) > 1
        names = [f"{format_number(part.parts)} {part.name}" if many else part.name for part in layer.parts]
        texts.append(" + ".join(names) + wash_words(layer.wash))
    return tr(" over ").join(texts)


def per_card(size: str) -> int:
    """How many mixes a card of a size takes."""
    width, height = SIZES[size]
    return _columns(width) * int((height - 2 * _PAD - _HEAD) // _ROW)


def _columns(width: float) -> int:
    return 2 if width > 80 else 1


def draw_card(
    painter: QPainter, title: str, mixes: Sequence[Favourite], looks: Looks | None, size: str
) -> None:
    """One card, the painter scaled to millimetres with its top left corner at the card's.

    Parameters
    ----------
    painter : QPainter
    title : str
    mixes : at most `per_card(size)` of them
    looks : Looks, or None while nothing is known
    size : str, one of SIZES
    """
    width, height = SIZES[size]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(_LINE, 0.2))
    painter.drawRect(QRectF(0, 0, width, height))
    painter.setPen(_INK)
    lines = wrap_mm(title, 4.6, width - 2 * _PAD)
    draw_text(painter, lines[0] + ("…" if len(lines) > 1 else ""), _PAD, _PAD + 4.4, 4.6)
    columns = _columns(width)
    wide = (width - 2 * _PAD) / columns
    rows = int((height - 2 * _PAD - _HEAD) // _ROW)
    tall = (height - 2 * _PAD - _HEAD) / rows
    for number, mix in enumerate(mixes[: rows * columns]):
        x, y = _PAD + number // rows * wide, _PAD + _HEAD + number % rows * tall
        _draw_mix(painter, mix, looks, QRectF(x, y, wide - 2.0, tall))


def _draw_mix(painter: QPainter, mix: Favourite, looks: Looks | None, place: QRectF) -> None:
    patch = QRectF(place.left(), place.top() + 0.8, 13.0, place.height() - 1.6)
    painter.fillRect(patch, PAPER)
    pen = QPen(_INK, 0.35)
    if mix.lab is not None:
        fill_read(painter, patch, mix.lab, looks, mix.patch)
    else:
        if looks is not None and looks.knows(mix.recipe):
            dots = WASH_DPI / MM_PER_INCH
            wide, high = round(patch.width() * dots), round(patch.height() * dots)
            painter.drawImage(patch, looks.wash(mix.recipe, wide, high, str(mix.recipe), dots * 0.35))
        pen = QPen(PENCIL, 0.22)
        pen.setDashPattern([5.0, 4.0])
    painter.setPen(pen)
    painter.drawRect(patch)
    left, room = patch.right() + 2.0, place.right() - patch.right() - 2.0
    size, lines = _fitting(parts_words(mix.recipe), room, 3 if not mix.note else 2)
    step = size * 1.22
    painter.setPen(_INK)
    y = place.center().y() - (len(lines) + bool(mix.note)) * step / 2 + size * 0.95
    for line in lines:
        draw_text(painter, line, left, y, size)
        y += step
    if mix.note:
        painter.setPen(_SOFT)
        note = mix.note
        while len(note) > 2 and drawn_width_mm(note, 2.3) > room:
            note = note[:-2].rstrip() + "…"
        draw_text(painter, note, left, y, 2.3)


def _fitting(text: str, width: float, most: int) -> tuple[float, list[str]]:
    """The largest letters at which a recipe stands whole in so many lines; it is never cut."""
    size = 3.0
    while size > 1.5 and len(wrap_mm(text, size, width)) > most:
        size -= 0.1
    return size, wrap_mm(text, size, width)


def draw_cards(
    device: QPagedPaintDevice,
    title: str,
    mixes: Sequence[Favourite],
    looks: Looks | None,
    size: str,
    paper: Paper | None = None,
) -> int:
    """As many cards as the mixes need, on pages to be cut; gives how many cards.

    Raises
    ------
    CulmoError
        when there is no mix
    """
    if not mixes:
        raise CulmoError(
            tr("no mix is marked as a keeper yet; mark those worth carrying (Plan, Paint or Read room)")
        )
    paper = paper or find_paper("A4")
    width, height = SIZES[size]
    count = per_card(size)
    cards = [mixes[start : start + count] for start in range(0, len(mixes), count)]
    across = max(1, int((paper.width_mm - 2 * _SHEET_MARGIN) // width))
    down = max(1, int((paper.height_mm - 2 * _SHEET_MARGIN) // height))
    page = QPageSize(
        QSizeF(paper.width_mm, paper.height_mm), QPageSize.Unit.Millimeter, paper.name,
        QPageSize.SizeMatchPolicy.ExactMatch,
    )  # fmt: skip
    device.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    painter = QPainter()
    if not painter.begin(device):
        raise CulmoError(tr("the pages can not be drawn"))
    dots = device.logicalDpiX() / MM_PER_INCH
    for number, card in enumerate(cards):
        spot = number % (across * down)
        if number and not spot:
            device.newPage()
        painter.resetTransform()
        painter.scale(dots, dots)
        painter.translate(_SHEET_MARGIN + spot % across * width, _SHEET_MARGIN + spot // across * height)
        head = title if len(cards) == 1 else f"{title}, {number + 1}"
        draw_card(painter, head, card, looks, size)
    painter.end()
    return len(cards)


def write_cards(
    path: Path,
    title: str,
    mixes: Sequence[Favourite],
    looks: Looks | None,
    size: str,
    paper: Paper | None = None,
) -> int:
    """Write the cards as PDF at true size; gives how many.

    Raises
    ------
    CulmoError
        when there is no mix, or the file can not be written
    """
    with whole_file(path) as beside:
        writer = pdf_writer(beside, title)
        count = draw_cards(writer, title, mixes, looks, size, paper)
        del writer
    return count
