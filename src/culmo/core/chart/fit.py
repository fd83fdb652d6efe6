"""How a board fits on a paper: the largest cells, or cells of a wished size with whatever has to give way."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from culmo.core.chart.aids import Measure, rough_width_mm
from culmo.core.chart.board import CAPTION_MM, PAD_MM, SLANT_DEG, SMALLEST_MM, Board
from culmo.core.chart.box import shortened
from culmo.core.chart.lengths import length_text, rounded_down, size_text
from culmo.core.chart.page import LEAST_MM, Page
from culmo.core.chart.papers import Paper
from culmo.errors import CulmoError
from culmo.words import tr


class Easing(StrEnum):
    """What gives way so that cells of a wished size fit."""

    ONE_BAND = "bands"
    SHORT = "short"
    NO_TITLE = "title"
    TURNED = "turned"
    JOINED = "joined"


# what gives way so that cells of a wished size fit, in this order, each with those before it
EASE_WORDS = {
    Easing.ONE_BAND: tr("names at one end only"),
    Easing.SHORT: tr("shorter labels or codes"),
    Easing.NO_TITLE: tr("no title"),
    Easing.TURNED: tr("the paper turned"),
    Easing.JOINED: tr("two sheets that join"),
}
_EASES = (
    (),
    (Easing.ONE_BAND,),
    (Easing.ONE_BAND, Easing.SHORT),
    (Easing.ONE_BAND, Easing.SHORT, Easing.NO_TITLE),
    (Easing.ONE_BAND, Easing.SHORT, Easing.NO_TITLE, Easing.TURNED),
)


_LINE_SHARE = 1.1  # a name of letters of this share of the way to the next one leaves a hair between them
_LEAST_LABEL_MM = 1.6


@dataclass(frozen=True)
class Fit:
    """A board on a paper: the cell, the space round the block, and how the labels stand.

    Attributes
    ----------
    width, height : float, of a cell in mm; at or below nothing where it does not fit
    left, right, top, bottom : float, what is left free for labels, title and notes; alike at both ends where names stand
        at both
    foot : float, for the captions below the cells of a row
    label_mm : float, of the letters
    most_mm : float, how wide a label may be
    slant : bool, whether the names of the columns slant
    eased : tuple of str, what gave way for a wished size: keys of EASE_WORDS
    """

    paper: Paper
    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    foot: float
    label_mm: float
    most_mm: float
    slant: bool = False
    eased: tuple[str, ...] = ()

    @property
    def both_ends(self) -> bool:
        """Whether names stand at both ends of the rows."""
        return Easing.ONE_BAND not in self.eased


def _most_mm(board: Board, page: Page, paper: Paper, eased: Sequence[str]) -> float:
    """How wide a name may be: it must not eat the cells."""
    longest = max(page.paper.width_mm, page.paper.height_mm)
    if Easing.SHORT in eased:
        return max(7.0, longest / 28.0)
    if board.full_names:
        return max(10.0, longest / 8.0)
    return max(10.0, paper.width_mm / 5.0)


def _fit(
    board: Board,
    page: Page,
    paper: Paper,
    measure: Measure,
    eased: tuple[str, ...] = (),
    wish: tuple[float, float] | None = None,
) -> Fit:
    """The largest cell on a paper as it lies. Full names stand upright where they can, if need be a little smaller.

    They stand over cells of the wished width where there is a wish.
    """
    full = page.label_mm
    if not board.full_names:
        small = 0.72 * full if Easing.SHORT in eased else full
        return _fit_labels(board, page, paper, measure, small, eased, wish)
    for size in (full, 0.85 * full, 0.72 * full):
        fit = _fit_labels(board, page, paper, measure, size, eased, wish)
        wide = wish[0] if wish is not None else fit.width
        if _widest(board.column_labels, fit.most_mm, measure, size) <= wide - 1.0:
            return fit
    small = 0.72 * full if Easing.SHORT in eased else full
    fit = _fit_labels(board, page, paper, measure, small, eased, wish, slant=True)
    width, height = wish if wish is not None else (fit.width, fit.height)
    # slanting names lie as far apart as their columns, seen across the slant; and each name has a row's height
    apart = min((width + page.gap_mm) * math.sin(math.radians(SLANT_DEG)), height + page.gap_mm)
    if apart > 0.0 and small > _LINE_SHARE * apart:
        small = max(_LEAST_LABEL_MM, _LINE_SHARE * apart)
        fit = _fit_labels(board, page, paper, measure, small, eased, wish, slant=True)
    return fit


def _widest(texts: Sequence[str], most: float, measure: Measure, size: float) -> float:
    return max((measure(shortened(text, size, most, measure), size) for text in texts), default=0.0)


def _fit_labels(
    board: Board,
    page: Page,
    paper: Paper,
    measure: Measure,
    size: float,
    eased: tuple[str, ...],
    wish: tuple[float, float] | None,
    slant: bool = False,
) -> Fit:
    pads = 2.0 if board.full_names else 1.0
    most = _most_mm(board, page, paper, eased)
    angle = math.radians(SLANT_DEG if slant else 0.0)
    widest = _widest(board.column_labels, most, measure, size)
    left = _widest(board.row_labels, most, measure, size) + 2.0 * PAD_MM if any(board.row_labels) else 0.0
    top = page.title_mm + pads * PAD_MM if page.title and Easing.NO_TITLE not in eased else 0.0
    top += widest * math.sin(angle) + size + pads * PAD_MM if any(board.column_labels) else 0.0
    # what stands free at one side stands free at the other, so that the block is in the middle
    mirrored = Easing.ONE_BAND not in eased
    right = left if mirrored else 0.0
    top, bottom = (max(top, page.foot_mm),) * 2 if mirrored else (top, page.foot_mm)
    room_x = paper.width_mm - 2 * page.margin_mm - page.gutter_mm
    room_y = paper.height_mm - 2 * page.margin_mm - top - bottom
    foot = CAPTION_MM + 1.4 if board.captions else 0.0
    width = _side(room_x - left - right, board.columns, page.gap_mm, page.step_mm)
    own = wish[0] if wish is not None else width
    lean = widest * math.cos(angle) - own / 2 + PAD_MM if slant else 0.0
    if lean > right:  # slanting names lean out over the right end
        left, right = (lean, lean) if mirrored else (left, lean)
        width = _side(room_x - left - right, board.columns, page.gap_mm, page.step_mm)
    height = _side(room_y, len(board.rows), page.gap_mm + foot, page.step_mm, foot)
    if board.aspect is not None and wish is None:
        height = min(height, rounded_down(width * board.aspect, page.step_mm))
    if page.square:
        width = height = min(width, height)
    return Fit(paper, width, height, left, right, top, bottom, foot, size, most, slant, eased)


def _side(room_mm: float, count: int, gap_mm: float, step_mm: float, extra_mm: float = 0.0) -> float:
    return rounded_down((room_mm - (count - 1) * gap_mm - extra_mm) / count, step_mm)


def _needs(board: Board, page: Page, fit: Fit, size: tuple[float, float]) -> tuple[float, float]:
    """The paper that cells of a size take, in mm."""
    rows, columns = len(board.rows), board.columns
    wide = columns * size[0] + (columns - 1) * page.gap_mm + 2 * page.margin_mm + fit.left + fit.right
    high = rows * (size[1] + fit.foot) + (rows - 1) * page.gap_mm + 2 * page.margin_mm + fit.top + fit.bottom
    return wide + page.gutter_mm, high


def papers_for(page: Page, eased: Sequence[str] = ()) -> list[Paper]:
    """The paper as it may lie; turned too where that may give way."""
    return replace(page, orientation="best").papers() if Easing.TURNED in eased else page.papers()


def _holds(fit: Fit, board: Board, page: Page, size: tuple[float, float]) -> bool:
    """Whether cells of a size fit to the hair, which the largest cell, rounded down to what a ruler can do, may hide."""
    wide, high = _needs(board, page, fit, size)
    return wide <= fit.paper.width_mm + 1e-6 and high <= fit.paper.height_mm + 1e-6


def fit_wished(board: Board, page: Page, size: tuple[float, float], measure: Measure) -> Fit | None:
    """The board with cells of a wished size on one paper, with as little as may be given way; None where it can not be."""
    for eased in _EASES:
        for paper in papers_for(page, eased):
            fit = _fit(board, page, paper, measure, eased, size)
            if _holds(fit, board, page, size):
                return replace(fit, width=size[0], height=size[1])
    return None


def best_fit(board: Board, page: Page, measure: Measure = rough_width_mm) -> Fit:
    """The way to lay the paper that gives the largest cells, or cells of the wished size.

    Raises
    ------
    CulmoError
        when the wished cell, or any cell at all, does not fit
    """
    if page.cell_mm is not None:
        found = fit_wished(board, page, page.cell_mm, measure)
        if found is None:
            raise too_small(board, page, measure, page.cell_mm)
        return found
    for eased in _EASES[:-1]:  # names and title give way only where there would be no cells at all
        fits = [_fit(board, page, paper, measure, eased) for paper in page.papers()]
        fit = max(fits, key=lambda fit: min(fit.width, fit.height) + 1e-3 * max(fit.width, fit.height))
        if min(fit.width, fit.height) >= SMALLEST_MM:
            break
    else:
        raise too_small(board, page, measure, (LEAST_MM, LEAST_MM))
    return fit


def too_small(board: Board, page: Page, measure: Measure, size: tuple[float, float]) -> CulmoError:
    """That cells of a size do not fit, and by how much they miss when all has given way that may."""
    found: list[tuple[float, float, float, tuple[float, float]]] = []
    for paper in papers_for(page, _EASES[-1]):
        wide, high = _needs(board, page, _fit(board, page, paper, measure, _EASES[-1], size), size)
        over, above = max(0.0, wide - paper.width_mm), max(0.0, high - paper.height_mm)
        found.append((max(over, above), over, above, (wide, high)))
    _, over, above, needed = min(found)
    unit = page.unit
    misses = [
        text.format(length=length_text(math.ceil(mm * 10) / 10, unit))
        for text, mm in ((tr("{length} across"), over), (tr("{length} down"), above))
        if mm > 0.0
    ]
    return CulmoError(
        tr(
            '{columns} x {rows} cells of {size} do not fit on paper "{name}": it needs at least {needs}, they miss '
            "by {misses}",
            columns=board.columns,
            rows=len(board.rows),
            size=size_text(*size, unit),
            name=page.paper.name,
            needs=size_text(math.ceil(needed[0]), math.ceil(needed[1]), unit),
            misses=tr(" and ").join(misses) or length_text(0.0, unit),
        )
    )


def largest_like(board: Board, page: Page, measure: Measure) -> tuple[float, float] | None:
    """The largest cell of the shape of the wished one that fits on the paper, in what a ruler can do; None for none."""
    wish = page.cell_mm
    if wish is None:
        return None
    best = 0.0
    for paper in papers_for(page, _EASES[-1]):
        fit = _fit(board, page, paper, measure, _EASES[-1], wish)
        best = max(best, min(fit.width / wish[0], fit.height / wish[1]))
    size = rounded_down(wish[0] * best, page.step_mm), rounded_down(wish[1] * best, page.step_mm)
    return size if min(size) >= SMALLEST_MM else None
