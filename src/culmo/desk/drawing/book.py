"""The Daybook as a book: a day, a sheet or the whole study, well set, with charts, recipes, readings and reasons."""

from collections.abc import Generator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPagedPaintDevice, QPainter, QPen

from culmo.core.chart.lengths import MM_PER_INCH, size_text
from culmo.core.chart.papers import Paper, find_paper
from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import cautions
from culmo.core.paint.recipe import Recipe, parse_recipe, spoken_recipe
from culmo.desk.drawing.export import WASH_DPI
from culmo.desk.drawing.flow import SMALL, TITLE, Flow
from culmo.desk.drawing.looks import Looks, fill_read
from culmo.desk.drawing.pdf import pdf_writer
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.seen import Seen, see
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet
from culmo.desk.drawing.thumbs import image_of
from culmo.desk.theme import PAPER, PENCIL
from culmo.errors import CulmoError
from culmo.study import diary, records
from culmo.study.diary import Day, DiaryEntry, DiaryPatch
from culmo.study.file import Row, Study
from culmo.study.own_tests import labels_in
from culmo.study.paint_acts import HOW_WORDS
from culmo.study.palette_acts import kept_palettes, wanted_lists
from culmo.study.patches import RealPaint
from culmo.study.photo_files import picture_bytes
from culmo.study.soundness import moment_of
from culmo.study.whole_file import whole_file
from culmo.words import clock_words, day_words, tr, trn


class BookCharts(StrEnum):
    """How large the charts of a book are."""

    FITTED = "fitted"
    TO_SCALE = "scale"
    BOTH = "both"


CHARTS = tuple(BookCharts)
_PIXELS_PER_MM = WASH_DPI / MM_PER_INCH
A4 = find_paper("A4")
_PHOTO_MM, _PHOTO_PX = 84.0, 900


@dataclass(frozen=True)
class BookOptions:
    """How the book is made.

    Attributes
    ----------
    paper : Paper, of its pages
    charts : str, "fitted" to the page, to "scale" on pages of their own, or "both"
    """

    paper: Paper = A4
    charts: str = BookCharts.FITTED


@dataclass(frozen=True)
class Content:
    """What the book is about: a day, a sheet, or everything where both are absent.

    Attributes
    ----------
    date : str, ISO 8601, or empty
    sheet_id : int or None
    """

    date: str = ""
    sheet_id: int | None = None


@dataclass
class _Book:
    """A book while it is set."""

    study: Study
    estimate: Estimate | None
    looks: Looks | None
    options: BookOptions
    flow: Flow

    def __post_init__(self) -> None:
        self.known = frozenset(self.estimate.index) if self.estimate is not None else frozenset()
        self.real = RealPaint(self.study)

    def can_draw(self, recipe: Recipe) -> bool:
        return (
            self.looks is not None
            and bool(recipe.layers)
            and all(n.casefold() in self.known for n in recipe.names)
        )


def write_book(
    study: Study,
    estimate: Estimate | None,
    looks: Looks | None,
    path: Path,
    content: Content,
    options: BookOptions,
) -> Generator[float, None, Path]:
    """Write the book as PDF; yields its progress. Needs a QGuiApplication.

    Raises
    ------
    CulmoError
        when the file can not be written, or there is nothing to tell
    """
    if path.suffix.casefold() != ".pdf":
        raise CulmoError(tr('"{name}": a book is written as .pdf', name=path.name))
    with whole_file(path) as beside:
        writer = pdf_writer(beside, study.title)
        yield from set_book(study, estimate, looks, writer, content, options)
        del writer
    return path


def set_book(
    study: Study,
    estimate: Estimate | None,
    looks: Looks | None,
    device: QPagedPaintDevice,
    content: Content,
    options: BookOptions,
) -> Generator[float, None, None]:
    """Set the book on a device, a PDF or a printer; yields its progress.

    Everything is set twice: first blind, to know the pages of the contents.
    """
    title = _title(study, content)
    marks: list[tuple[str, int]] = []
    for blind in (True, False):
        flow = Flow(None if blind else device, options.paper, title)
        book = _Book(study, estimate, looks, options, flow)
        try:
            for share in _set(book, content, title, marks):
                yield share * 0.2 if blind else 0.2 + share * 0.8
        finally:
            flow.end()
        marks = flow.marks


def _title(study: Study, content: Content) -> str:
    if content.sheet_id is not None:
        return str(study.row("sheets", content.sheet_id)["title"])
    if content.date:
        return f"{study.title} · {day_words(datetime.fromisoformat(content.date))}"
    return study.title


def _set(
    book: _Book, content: Content, title: str, marks: Sequence[tuple[str, int]]
) -> Generator[float, None, None]:
    study = book.study
    if content.sheet_id is not None:
        _sheet(book, content.sheet_id, first=True)
        _days(book, diary.days(study, sheet_id=content.sheet_id), tr("What was done"))
        return
    if content.date:
        found = [day for day in diary.days(study) if day.date == content.date]
        if not found:
            raise CulmoError(tr("nothing is written of that day"))
        book.flow.heading(day_words(found[0].moment), TITLE)
        _entries(book, found[0].entries)
        for sheet_id in dict.fromkeys(e.sheet_id for e in found[0].entries if e.sheet_id is not None):
            if study.rows("sheets", "id = ?", (sheet_id,)):
                _sheet(book, sheet_id)
                yield 0.5
        return
    yield from _whole(book, title, marks)


def _whole(book: _Book, title: str, marks: Sequence[tuple[str, int]]) -> Generator[float, None, None]:
    study, flow = book.study, book.flow
    days = diary.days(study)
    flow.gap(40)
    flow.heading(title, 12.0)
    if days:
        first, last = day_words(days[-1].moment, weekday=False), day_words(days[0].moment, weekday=False)
        flow.text(tr("From {first} to {last}", first=first, last=last))
    sheets = [sheet_id for sheet_id, _ in reversed(records.sheet_titles(study))]
    count = len(study.select("SELECT id FROM readings"))
    flow.text(
        ", ".join((
            trn("{n} paint", "{n} paints", len(records.paints(study))),
            trn("{n} sheet", "{n} sheets", len(sheets)),
            trn("{n} reading", "{n} readings", count),
        ))
    )  # fmt: skip
    flow.text(
        tr("Patches with a firm edge were painted and read; those with a broken edge are predicted."),
        soft=True,
    )
    flow.gap(10)
    for text, page in marks or [("", 0)] * (len(sheets) + 4):  # the blind pass leaves as much room
        flow.fold(text, page)
    _box(book)
    yield 0.1
    for number, sheet_id in enumerate(sheets, 1):
        _sheet(book, sheet_id)
        yield 0.1 + 0.7 * number / len(sheets)
    _palettes(book)
    _days(book, days, tr("Day by day"))
    yield 1.0


# ---- the box


def _box(book: _Book) -> None:
    flow = book.flow
    paints = records.paints(book.study)
    flow.new_page()
    flow.heading(tr("The paints"), TITLE, mark=True)
    told: dict[str, None] = {}
    known = labels_in(book.study, paints, book.estimate)
    for paint in paints:
        label = known[paint.name.casefold()]
        words = ", ".join(
            word for word in (tr(label.transparency), label.lightfast_words, paint.note) if word
        )
        flow.row(
            46.0,
            partial(_stroke, book, paint.name),
            [(44.0, paint.name), (26.0, paint.codes), (flow.width - 116.0, words)],
            10.0,
        )
        told |= dict.fromkeys(cautions(label))
    if paints:
        flow.gap(3)
        flow.heading(tr("Cautions"))
        for line in told:
            flow.text(line, SMALL)


def _stroke(book: _Book, name: str, painter: QPainter, place: QRectF) -> None:
    painter.fillRect(place, PAPER)
    draw_paint(painter, book.looks, name, place, _PIXELS_PER_MM, _PIXELS_PER_MM * 0.35, pencil=0.2)


# ---- sheets


def _sheet(book: _Book, sheet_id: int, first: bool = False) -> None:
    flow, study = book.flow, book.study
    seen = see(study, sheet_id, book.estimate)
    sheet = seen.record.sheet
    if not first:
        flow.new_page()
    flow.heading(sheet.title, TITLE, mark=True)
    flow.text(
        ", ".join((
            tr("planned {date}", date=day_words(moment_of(seen.record.created), weekday=False)),
            f"{sheet.paper.name}, {size_text(sheet.paper.width_mm, sheet.paper.height_mm)}",
            trn("{n} cell", "{n} cells", len(sheet.cells)),
            tr("{n} painted", n=len(seen.painted)), tr("{n} read", n=len(seen.read)),
        )), soft=True,
    )  # fmt: skip
    style = SheetStyle(looks=seen.looks, pixels_per_mm=_PIXELS_PER_MM)
    if book.options.charts in (BookCharts.FITTED, BookCharts.BOTH):
        scale = min(flow.width / sheet.paper.width_mm, 150.0 / sheet.paper.height_mm, 1.0)

        def draw(painter: QPainter, place: QRectF) -> None:
            painter.translate(place.topLeft())
            painter.fillRect(QRectF(0, 0, sheet.paper.width_mm * scale, place.height()), PAPER)
            painter.scale(scale, scale)
            draw_sheet(painter, sheet, book.looks, replace(style, pixels_per_mm=_PIXELS_PER_MM * scale))

        flow.band(sheet.paper.height_mm * scale, draw)
        flow.gap(4)
    if book.options.charts in (BookCharts.TO_SCALE, BookCharts.BOTH):
        flow.own_page(sheet.paper, lambda painter: draw_sheet(painter, sheet, book.looks, style))
    _cells(book, seen)


def _cells(book: _Book, seen: Seen) -> None:
    """The cells with their recipes, their readings, and what was said of them."""
    flow = book.flow
    strokes = {row["cell_id"]: row for row in records.strokes_on(book.study, seen.record.id)}
    widths = (16.0, flow.width - 132.0, 32.0, 20.0, 50.0)
    flow.heading(tr("Recipes and readings"))
    heads = (tr("cell"), tr("recipe"), "L*  a*  b*", tr("predicted"), tr("said"))
    flow.column_heads(list(zip(widths, heads, strict=True)), 14.0)
    for place, entry in enumerate(seen.record.cells):
        cell, read = entry.cell, seen.read.get(entry.cell.id)
        numbers = tr("{L:.1f}  {a:.1f}  {b:.1f}", L=read[0], a=read[1], b=read[2]) if read else ""
        away = ""
        foretold = seen.prediction.at(place) if seen.prediction is not None else None
        if read and foretold is not None:
            away = tr("{away:.1f} away", away=float(delta_e_00(np.array(read), foretold[0])))
        texts = (cell.id, spoken_recipe(cell.recipe), numbers, away, _said(entry, strokes.get(entry.id)))
        patch = DiaryPatch(str(cell.recipe), read, cell.ground)
        flow.row(
            14.0,
            partial(_patch, book, patch),
            list(zip(widths, texts, strict=True)),
        )


def _said(entry: records.CellRecord, stroke: Row | None) -> str:
    """Marks and words of a cell."""
    words = [tr("keeper")] if entry.keeper else []
    if stroke is not None:
        words += [tr(mark) for mark in stroke["marks"].split() if mark != "keeper"]
        words += (
            [tr(HOW_WORDS[stroke["how"]])] if stroke["how"] in HOW_WORDS and stroke["how"] != "tray" else []
        )
    return ", ".join([*words, *([entry.note] if entry.note else [])])


def _patch(book: _Book, patch: DiaryPatch, painter: QPainter, place: QRectF) -> None:
    painter.fillRect(place, PAPER)
    pen = QPen(QColor(24, 24, 24), 0.35)
    if patch.lab is not None:
        fill_read(painter, place, patch.lab, book.looks, book.real.of(patch.recipe, patch.lab))
    else:
        recipe = _recipe(patch.recipe)
        if recipe is not None and book.looks is not None and book.can_draw(recipe):
            painter.fillRect(place, book.looks.colour(recipe, patch.ground))
        pen = QPen(PENCIL, 0.22)
        pen.setDashPattern([5.0, 4.0])
    painter.setPen(pen)
    painter.drawRect(place)


def _recipe(text: str) -> Recipe | None:
    try:
        return parse_recipe(text)
    except CulmoError:
        return None


# ---- palettes, wanted colours, days


def _palettes(book: _Book) -> None:
    flow, study = book.flow, book.study
    kept = kept_palettes(study)
    if kept:
        flow.new_page()
        flow.heading(tr("Palettes"), TITLE, mark=True)
    for palette in kept:
        flow.heading(palette.name)
        day = day_words(moment_of(palette.created), weekday=False)
        flow.text(", ".join(word for word in (day, palette.purpose) if word), soft=True)
        share = palette.reach.get("share")
        if isinstance(share, float):
            flow.text(tr("It reached {share:.0f} % when it was kept.", share=100.0 * share))
        for name in palette.paints:
            flow.row(
                46.0, partial(_stroke, book, name),
                [(flow.width - 46.0, name)], 8.0,
            )  # fmt: skip
        if palette.reason:
            flow.text(palette.reason)
        flow.gap(4)
    wanted = wanted_lists(study)
    if wanted:
        flow.new_page()
        flow.heading(tr("Wanted colours"), TITLE, mark=True)
    for title, colours in wanted.items():
        flow.heading(title)
        for colour in colours:
            L, a, b = colour.lab
            flow.row(
                14.0, partial(_patch, book, DiaryPatch("", colour.lab)),
                [(flow.width - 46.0, colour.name), (32.0, tr("{L:.1f}  {a:.1f}  {b:.1f}", L=L, a=a, b=b))],
            )  # fmt: skip


def _days(book: _Book, days: Sequence[Day], title: str) -> None:
    if not days:
        return
    book.flow.new_page()
    book.flow.heading(title, TITLE, mark=True)
    for day in reversed(days):  # a book is read from the front
        book.flow.heading(day_words(day.moment), keep=12.0)
        _entries(book, day.entries)


def _entries(book: _Book, entries: Sequence[DiaryEntry]) -> None:
    flow = book.flow
    for entry in entries:
        picture = 34.0 if entry.strokes or entry.patches else 0.0
        flow.row(
            picture,
            partial(_small, book, entry),
            [(flow.width - picture - 14.0, entry.text)],
            9.0 if picture else 5.6,
            (14.0, clock_words(entry.moment)),
        )
        for photo_id in entry.photos:
            _photo(book, photo_id)


def _small(book: _Book, entry: DiaryEntry, painter: QPainter, place: QRectF) -> None:
    shown = (entry.strokes or entry.patches)[:8]
    rows = 1 if len(shown) <= 3 else 2
    columns = -(-len(shown) // rows)
    wide, high = place.width() / max(columns, 2), place.height() / rows
    for number, thing in enumerate(shown):
        left, top = place.left() + number % columns * wide, place.top() + number // columns * high
        box = QRectF(left, top, wide - 0.8, high - 0.6)
        if isinstance(thing, DiaryPatch):
            _patch(book, thing, painter, box)
        else:
            _stroke(book, str(thing), painter, box)


def _photo(book: _Book, photo_id: int) -> None:
    """A picture of a note; a word where its file is gone."""
    row = book.study.row("photos", photo_id)
    flow = book.flow
    try:
        image: QImage = image_of(picture_bytes(book.study, row), row["name"] or "picture", _PHOTO_PX)
    except CulmoError as error:
        flow.text(str(error), SMALL, soft=True, indent=14.0)
        return
    scale = min(_PHOTO_MM / image.width(), _PHOTO_MM / image.height())
    width, height = image.width() * scale, image.height() * scale
    flow.band(height + 2, lambda painter, place: painter.drawImage(
        QRectF(place.left(), place.top() + 1, width, height), image), 14.0)  # fmt: skip
