"""Card pages: for each paint its masstone, the bar, the run to the palest tint, and patches to lift and to fade."""

import math
from dataclasses import dataclass, replace

from culmo.core.chart.aids import Aids, Measure
from culmo.core.chart.box import shortened
from culmo.core.chart.kind import Kind, need, paints_option
from culmo.core.chart.options import Flag, Options, Whole, option
from culmo.core.chart.page import Page, corner_marks
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Cell, Point, Ruling, Sheet, SheetText
from culmo.core.paint.readings import INK, PAPER, Treatment
from culmo.core.paint.recipe import FULL, TINT, mix
from culmo.errors import CulmoError
from culmo.words import tr, trn

MOST_ON_A_PAGE = 12
LEAST_STROKE_MM = 9.0
_GAP_MM = 2.0  # bare paper between the patches of one card, so that none runs into the next
_BETWEEN_MM = 7.0
_LEAST_CARD_MM, _WIDEST_CARD_MM = 70.0, 150.0


@dataclass(frozen=True)
class CardsOptions(Options):
    """The paints, which tests stand below their strokes, and how many there are on a page at most."""

    paints: tuple[str, ...] = paints_option()
    lift: bool = option(Flag(), True, tr("Patches for the lift test"), "patches for the lift test")
    fade: bool = option(Flag(), True, tr("Patches for the fade test"), "patches for the fade test")
    per_page: int = option(
        Whole(1, MOST_ON_A_PAGE), MOST_ON_A_PAGE, tr("Cards on a page"), "at most so many cards on a page",
        hint=str(MOST_ON_A_PAGE),
    )  # fmt: skip


@dataclass(frozen=True)
class _Fit:
    """How cards stand on a page."""

    paper: Paper
    columns: int
    rows: int
    card: tuple[float, float]
    stroke_mm: float
    test_mm: float


def _title_mm(paper: Paper) -> float:
    return min(7.0, max(5.0, paper.height_mm / 55.0))


def _fit(options: CardsOptions, page: Page, paper: Paper, count: int) -> _Fit | None:
    """The page with the tallest strokes, or None where no card is large enough."""
    best: _Fit | None = None
    width = paper.width_mm - 2 * page.margin_mm - 8.0
    height = paper.height_mm - 2 * page.margin_mm - 2.4 * _title_mm(paper) - 6.0
    for columns in range(1, count + 1):
        rows = math.ceil(count / columns)
        wide = (width - (columns - 1) * _BETWEEN_MM) / columns
        card = min(math.floor(wide * 2) / 2, _WIDEST_CARD_MM), (height - (rows - 1) * _BETWEEN_MM) / rows
        if card[0] < _LEAST_CARD_MM:
            break
        room = card[1] - 6.0  # below the card's label
        tests = options.lift or options.fade
        stroke = min(room if not tests else (room - _GAP_MM) * 0.62, 22.0, card[0] * 0.24)
        test = min((room - _GAP_MM) * 0.38, stroke * 0.62) if tests else 0.0
        stroke, test = math.floor(stroke * 2) / 2, math.floor(test * 2) / 2
        least = LEAST_STROKE_MM if not tests else LEAST_STROKE_MM * 0.9
        if stroke >= least and (best is None or stroke > best.stroke_mm):
            best = _Fit(paper, columns, rows, card, stroke, test)
    return best


def _lay_out(options: CardsOptions, page: Page, aids: Aids) -> list[Sheet]:
    """The card pages of some paints, evenly filled."""
    need(options.paints, 1, tr("card page"))
    paints = options.paints
    for most in range(min(options.per_page, len(paints)), 0, -1):
        pages = math.ceil(len(paints) / most)
        count = math.ceil(len(paints) / pages)
        fits = [fit for paper in page.papers() if (fit := _fit(options, page, paper, count)) is not None]
        if fits:
            best = max(fits, key=lambda fit: fit.stroke_mm)
            title = page.title or (tr("Card") if len(paints) == 1 else tr("Cards"))
            return [
                _sheet(
                    replace(options, paints=paints[at * count : (at + 1) * count]),
                    page,
                    best,
                    tr("{title}, page {value} of {pages}", title=title, value=at + 1, pages=pages)
                    if pages > 1
                    else title,
                    aids,
                )
                for at in range(pages)
            ]
    raise CulmoError(
        tr(
            'a card takes {LEAST_CARD_MM:.0f} mm across and does not fit on paper "{name}" with '
            "{tape_mm:g} mm of tape: take a larger paper",
            LEAST_CARD_MM=_LEAST_CARD_MM,
            name=page.paper.name,
            tape_mm=page.tape_mm,
        )
    )


def _sheet(options: CardsOptions, page: Page, fit: _Fit, title: str, aids: Aids) -> Sheet:
    block = (
        fit.columns * fit.card[0] + (fit.columns - 1) * _BETWEEN_MM,
        fit.rows * _card_height(fit) + (fit.rows - 1) * _BETWEEN_MM,
    )
    size = _title_mm(fit.paper)
    x0 = (fit.paper.width_mm - block[0]) / 2
    y0 = (fit.paper.height_mm - block[1] + 1.6 * size) / 2
    labels = [SheetText(title, (x0, y0 - 0.9 * size), 0.0, size)]
    cells: list[Cell] = []
    lines: list[tuple[float, float, float, float]] = []
    for place, name in enumerate(options.paints):
        row, column = divmod(place, fit.columns)
        corner = x0 + column * (fit.card[0] + _BETWEEN_MM), y0 + row * (_card_height(fit) + _BETWEEN_MM)
        cells += _card(options, fit, f"p{place + 1:02d}", name, corner, lines)
        labels += _card_labels(fit, name, aids.codes.get(name.casefold(), ""), corner, aids.measure)
    return Sheet(
        title=title,
        kind="cards",
        paper=fit.paper,
        frame_mm=_frame(cells),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(_edges(cells, 0), _edges(cells, 1), tuple(lines)),
        settings={"paints": list(options.paints)},  # each page its own
        marks_mm=corner_marks(page, fit.paper),
    )


def _edges(cells: list[Cell], axis: int) -> tuple[float, ...]:
    """Where to tick along an edge of the paper."""
    return tuple(sorted({round(point[axis], 2) for cell in cells for point in cell.outline_mm}))


def _frame(cells: list[Cell]) -> tuple[float, float, float, float]:
    xs = [x for cell in cells for x, _ in cell.outline_mm]
    ys = [y for cell in cells for _, y in cell.outline_mm]
    return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)


def _card_height(fit: _Fit) -> float:
    return 6.0 + fit.stroke_mm + (_GAP_MM + fit.test_mm if fit.test_mm else 0.0)


def _card_labels(fit: _Fit, name: str, codes: str, corner: Point, measure: Measure) -> list[SheetText]:
    size = 3.4
    right = shortened(codes, 2.8, fit.card[0] * 0.4, measure)
    labels = [
        SheetText(
            shortened(name, size, fit.card[0] * (0.58 if right else 1.0), measure),
            (corner[0], corner[1] + 4.2),
            0.0,
            size,
        )
    ]
    if right:
        labels.append(
            SheetText(right, (corner[0] + fit.card[0] - measure(right, 2.8), corner[1] + 4.2), 0.0, 2.8)
        )
    return labels


def _oblong(x: float, y: float, w: float, h: float) -> tuple[Point, ...]:
    return (x, y), (x + w, y), (x + w, y + h), (x, y + h)


def _card(
    options: CardsOptions,
    fit: _Fit,
    head: str,
    name: str,
    corner: Point,
    lines: list[tuple[float, float, float, float]],
) -> list[Cell]:
    """The patches of one card, and the black bar among the ruled lines."""
    width, y = fit.card[0], corner[1] + 6.0
    full, tint = mix([name], wash=FULL), mix([name], wash=TINT)
    bar = max(6.0, 0.1 * width)
    free = width - bar - 3 * _GAP_MM
    widths = (0.3 * free, bar, 0.45 * free, 0.25 * free)
    cells, x = [], corner[0]
    parts = (("m", full, PAPER), ("k", full, INK), ("f", full, PAPER), ("t", tint, PAPER))
    for wide, (tail, recipe, ground) in zip(widths, parts, strict=True):
        fade = ((x, y + fit.stroke_mm / 2), (x + wide, y + fit.stroke_mm / 2)) if tail == "f" else None
        cells.append(Cell(head + tail, _oblong(x, y, wide, fit.stroke_mm), recipe, ground, fade))
        if tail == "k":  # the bar reaches past the patch, so that its bare ends can be read
            lines += [
                (x, y - 1.2, x, y + fit.stroke_mm + 1.2),
                (x + wide, y - 1.2, x + wide, y + fit.stroke_mm + 1.2),
            ]
        x += wide + _GAP_MM
    tests = [("l", Treatment.LIFTED), ("r", Treatment.RUBBED)] if options.lift else []
    tests += [("c", Treatment.COVERED), ("e", Treatment.EXPOSED)] if options.fade else []
    y += fit.stroke_mm + _GAP_MM
    wide = (width - (len(tests) - 1) * _GAP_MM) / max(len(tests), 1)
    for place, (tail, treatment) in enumerate(tests):
        x = corner[0] + place * (wide + _GAP_MM)
        cells.append(Cell(head + tail, _oblong(x, y, wide, fit.test_mm), full, PAPER, treatment=treatment))
    return cells


TEST_WORDS = {
    Treatment.LIFTED: tr("lift: wet a line across the dry patch, wait ten seconds, blot"),
    Treatment.RUBBED: tr("rub: wet again, rub with a stiff brush, blot"),
    Treatment.COVERED: tr("cover this half before it goes into the window"),
    Treatment.EXPOSED: tr("leave this half open to the window"),
}


def about_cards(sheet: Sheet) -> str:
    """A line on a page of cards: how many there are, and how large a masstone is."""
    _, _, width, height = sheet.cells[0].box_mm
    return trn(
        "{name}, {n} card, masstones {width:.1f} x {height:.1f} mm",
        "{name}, {n} cards, masstones {width:.1f} x {height:.1f} mm",
        len({cell.id[:3] for cell in sheet.cells}),
        name=sheet.paper.name,
        width=width,
        height=height,
    )


KIND = Kind(
    6, "cards", tr("Card pages"), tr("masstone, bar, tint and tests of each paint"), CardsOptions, lay_out=_lay_out,
    without=("gap_mm", "cell_mm", "square", "round", "unit", "note_mm", "letters_mm", "gutter_mm", "several", "card_mm"),
    about=about_cards,
    few=6,
)  # fmt: skip
