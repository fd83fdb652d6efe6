"""Sheets to PDF, SVG and PNG at true scale, through the same painter as the screen."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from PySide6.QtCore import QMarginsF, QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPageLayout, QPageSize, QPainter

from culmo.core.chart.box import WELL_MAP
from culmo.core.chart.kinds import kind_of, tape_of
from culmo.core.chart.sheet import Sheet
from culmo.data import text_width_mm
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.pdf import PDF_DPI, pdf_writer
from culmo.desk.drawing.png import save_png
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, draw_text, drawn_width_mm, sheet_transform
from culmo.errors import CulmoError
from culmo.study.file import Study
from culmo.study.formats import Holds, written
from culmo.study.records import paint_numbers, paints
from culmo.study.whole_file import whole_file
from culmo.words import tr

MM_PER_INCH = 25.4
PNG_DPI, WASH_DPI = 200, 220
CHECK_BAR_MM = 100.0
_KEY_LEAST_MM = 4.0


@dataclass(frozen=True)
class PrintOptions:
    """What goes onto a print.

    Attributes
    ----------
    colour : bool, a preview in colour; otherwise light pencil lines on watercolour paper
    numbers : bool, the order of work in each cell
    recipes : str, "", "name", "number" or "code": what is written into the cells
    bar : bool, the check bar of 100 mm
    only_new : bool, whether the cells that are painted already are left out, to paint the others on another paper
    """

    colour: bool = False
    numbers: bool = True
    recipes: str = "name"
    bar: bool = True
    only_new: bool = False


@dataclass(frozen=True)
class Called:
    """What paints are called beside their names.

    Attributes
    ----------
    codes : mapping from folded paint name to its Colour Index codes
    numbers : mapping from folded paint name to the painter's own number; counted on the sheet where there are none
    """

    codes: Mapping[str, str] = field(default_factory=dict)
    numbers: Mapping[str, int] = field(default_factory=dict)

    def numbers_on(self, sheet: Sheet) -> dict[str, int]:
        """The numbers of a sheet's paints by folded name, in their order."""
        there = dict.fromkeys(name.casefold() for cell in sheet.cells for name in cell.recipe.names)
        if all(name in self.numbers for name in there):
            return dict(sorted(((name, self.numbers[name]) for name in there), key=lambda item: item[1]))
        # counted as its labels are: in the order of the plan, then what comes with it
        planned = [str(n).casefold() for key in ("paints", "across") for n in sheet.settings.get(key) or ()]
        counted = {name: place for place, name in enumerate(dict.fromkeys([*planned, *there]), 1)}
        return {name: place for name, place in counted.items() if name in there}


def called_in(study: Study) -> Called:
    """What the paints of a study are called."""
    codes = {paint.name.casefold(): paint.codes for paint in paints(study, retired=True)}
    return Called(codes, paint_numbers(study))


def recipe_labels(sheet: Sheet, kind: str, called: Called) -> dict[str, str]:
    """What is written into each cell: the paints by name, by number or by pigment code.

    Parameters
    ----------
    sheet : Sheet
    kind : str, "", "name", "number" or "code"
    called : Called
    """
    own = kind_of(sheet)
    if not kind or (own.captioned if own is not None else sheet.kind == WELL_MAP):
        return {}
    numbers = called.numbers_on(sheet)

    def word(name: str) -> str:
        if kind == "number":
            return str(numbers[name.casefold()])
        return (called.codes.get(name.casefold()) or name) if kind == "code" else name

    return {cell.id: str(cell.recipe.renamed(word)) for cell in sheet.cells}


def draw_print(
    painter: QPainter,
    sheet: Sheet,
    looks: Looks | None,
    style: SheetStyle,
    options: PrintOptions,
    called: Called | None = None,
) -> None:
    """A sheet with what a print needs, the painter scaled to millimetres."""
    draw_sheet(painter, sheet, looks, style)
    if options.bar:
        _draw_bar(painter, sheet)
    if needs_key(sheet, options):
        _draw_key(painter, sheet, key_entries(sheet, called or Called()), options.bar)


def page_picture(
    sheet: Sheet,
    looks: Looks | None,
    cell_looks: Mapping[str, CellLook],
    left_out: frozenset[str],
    options: PrintOptions,
    called: Called,
    size: QSize,
) -> QImage:
    """A page as it will be printed or written, small.

    Parameters
    ----------
    sheet : Sheet
    looks : Looks, or None while nothing is known
    cell_looks : mapping from cell id to CellLook
    left_out : set of cell ids that are not drawn
    options : PrintOptions
    called : Called, what the paints are called
    size : QSize, pixels, within which the whole paper is seen
    """
    image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    transform, scale = sheet_transform(sheet, QRectF(QPointF(2, 2), QSizeF(size - QSize(8, 8))))
    page = QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm)
    painter.fillRect(transform.mapRect(page).translated(3, 3), QColor(0, 0, 0, 28))
    painter.fillRect(transform.mapRect(page), Qt.GlobalColor.white)
    painter.setTransform(transform)
    painter.setClipRect(page)
    style = SheetStyle(
        colour=options.colour and looks is not None, numbers=options.numbers,
        recipes=recipe_labels(sheet, options.recipes, called), looks=dict(cell_looks), left_out=left_out,
        pixels_per_mm=scale,
    )  # fmt: skip
    draw_print(painter, sheet, looks, style, options, called)
    painter.end()
    return image


def needs_key(sheet: Sheet, options: PrintOptions) -> bool:
    """Whether numbers stand for paints on a print, so that it says which is which."""
    return bool(sheet.cells) and "number" in (options.recipes, sheet.settings.get("labels"))


def key_entries(sheet: Sheet, called: Called) -> list[str]:
    """The number of each paint with its name."""
    names = {name.casefold(): name for cell in sheet.cells for name in cell.recipe.names}
    return [f"{number} {names[folded]}" for folded, number in called.numbers_on(sheet).items()]


def _draw_key(painter: QPainter, sheet: Sheet, entries: Sequence[str], bar: bool) -> None:
    """Which number is which paint, below the block at both sides of the check bar, as small as it must be."""
    tape = tape_of(sheet)
    low = _low_mm(sheet) + 1.5
    bottom = sheet.paper.height_mm - tape - 0.5
    if bottom - low < _KEY_LEAST_MM:  # the tape leaves no room: what it covers is bare till it is taken off
        bottom = sheet.paper.height_mm - 1.5
    left, right = tape + 1.0, sheet.paper.width_mm - tape - 1.0
    middle, half = sheet.paper.width_mm / 2, _bar_mm(sheet) / 2 + 3.0
    boxes = [(left, middle - half), (middle + half, right)] if bar else [(left, right)]
    for size in (2.6, 2.3, 2.0, 1.7, 1.4):
        lines = _key_lines(entries, boxes, size, bottom - low)
        if lines is not None:
            break
    else:
        lines = _key_lines(entries, boxes, size, float("inf")) or []
    painter.setPen(QColor(60, 60, 60))
    for text, x, row in lines:
        draw_text(painter, text, x, low + (row + 1) * 1.25 * size, size)


def _key_lines(
    entries: Sequence[str], boxes: Sequence[tuple[float, float]], size: float, room: float
) -> list[tuple[str, float, int]] | None:
    """Entries with their left ends and rows, box after box; None where they do not fit."""
    most = int(room / (1.25 * size)) if room < float("inf") else len(entries)
    found: list[tuple[str, float, int]] = []
    left = list(entries)
    for start, end in boxes:
        row, x = 0, start
        while left and row < most:
            wide = drawn_width_mm(left[0], size)
            if x + wide > end and x > start:
                row, x = row + 1, start
                continue
            found.append((left.pop(0), x, row))
            x += wide + 1.2 * size
    return found if not left else None


def _low_mm(sheet: Sheet) -> float:
    """Where the block ends, with what is written and ruled below it."""
    bars = [y + height for _, y, _, height in sheet.bars_mm]
    return max(sheet.frame_mm[1] + sheet.frame_mm[3], *(label.at_mm[1] for label in sheet.labels), *bars, 0.0)


def _bar_mm(sheet: Sheet) -> float:
    return CHECK_BAR_MM if sheet.paper.width_mm > CHECK_BAR_MM + 20 else 50.0


def _draw_bar(painter: QPainter, sheet: Sheet) -> None:
    """A bar of 100 mm below the block, to check the printer's scale with a ruler."""
    length = _bar_mm(sheet)
    room = sheet.paper.width_mm
    if sheet.card_mm is not None and sheet.card_mm[0] > length + 10.0:
        room = sheet.card_mm[0]  # beside the place for a card
    x = (room - length) / 2
    below = max([sheet.frame_mm[1] + sheet.frame_mm[3], *(y + height for _, y, _, height in sheet.bars_mm)])
    y = below + max(2.5, (sheet.paper.height_mm - below) * 0.45)
    thin, black = 0.2, QColor(0, 0, 0)
    painter.fillRect(QRectF(x, y - thin, length, thin), black)
    for tick in range(11):
        # ticks stand inside, so that the bar measures its length from outer edge to outer edge
        at = min(x + length * tick / 10, x + length - thin)
        tall = 1.6 if tick in (0, 10) else 0.8
        painter.fillRect(QRectF(at, y - tall, thin, tall), black)
    text = tr("{length:g} mm when printed at 100 %", length=length)
    painter.setPen(QColor(60, 60, 60))
    draw_text(painter, text, x + (length - text_width_mm(text, 2.4)) / 2, y + 3.2, 2.4)


def export_sheet(
    sheet: Sheet,
    path: Path,
    looks: Looks | None = None,
    style: SheetStyle | None = None,
    options: PrintOptions | None = None,
    called: Called | None = None,
) -> None:
    """Write one sheet, as `export_sheets`."""
    export_sheets([sheet], path, looks, [style or SheetStyle()], options, called)


def export_sheets(
    sheets: Sequence[Sheet],
    path: Path,
    looks: Looks | None = None,
    styles: Sequence[SheetStyle] | None = None,
    options: PrintOptions | None = None,
    called: Called | None = None,
) -> list[Path]:
    """Write sheets as .pdf, .svg or .png by the path's ending; needs a QGuiApplication.

    A PDF takes them as its pages; pictures are numbered where there are several (`targets_of`).

    Returns
    -------
    list of Path, what was written

    Raises
    ------
    CulmoError
        when the ending is unknown or a file can not be written
    """
    options, called = options or PrintOptions(), called or Called()
    ending = path.suffix.casefold()
    known = written(Holds.DRAWING)
    if ending not in known:
        raise CulmoError(
            tr('"{name}": the ending must be one of {endings}', name=path.name, endings=", ".join(known))
        )
    assert QGuiApplication.instance() is not None
    pages = [
        (sheet, _print_style(sheet, looks, style, options, called))
        for sheet, style in zip(sheets, styles or [SheetStyle()] * len(sheets), strict=True)
    ]
    if ending == ".pdf":
        with whole_file(path) as beside:
            _write_pdf(beside, pages, looks, options, called)
        return [path]
    writer = _write_svg if ending == ".svg" else _write_png
    targets = targets_of(path, len(pages))
    for target, (sheet, own) in zip(targets, pages, strict=True):
        with whole_file(target) as beside:
            writer(beside, sheet, looks, own, options, called)
    return targets


def targets_of(path: Path, pages: int) -> list[Path]:
    """The files that pages are written into.

    Parameters
    ----------
    path : Path that was asked for, ending with .pdf, .svg or .png
    pages : int
    """
    if pages == 1 or path.suffix.casefold() == ".pdf":
        return [path]
    return [path.with_name(f"{path.stem}-{number}{path.suffix}") for number in range(1, pages + 1)]


def _print_style(
    sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions, called: Called
) -> SheetStyle:
    return replace(
        style,
        colour=options.colour and looks is not None,
        numbers=options.numbers,
        recipes=recipe_labels(sheet, options.recipes, called),
        pixels_per_mm=WASH_DPI / MM_PER_INCH,
        selected="",
        tape=False,
    )


def _write_pdf(
    path: Path,
    pages: Sequence[tuple[Sheet, SheetStyle]],
    looks: Looks | None,
    options: PrintOptions,
    called: Called,
) -> None:
    writer = pdf_writer(path, pages[0][0].title)
    painter = QPainter()
    for number, (sheet, style) in enumerate(pages):
        size = QPageSize(
            QSizeF(sheet.paper.width_mm, sheet.paper.height_mm),
            QPageSize.Unit.Millimeter,
            sheet.paper.name,
            QPageSize.SizeMatchPolicy.ExactMatch,
        )
        writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
        if number == 0 and not painter.begin(writer):
            raise OSError(tr("the file can not be opened for writing"))
        if number:
            writer.newPage()
        painter.resetTransform()
        painter.scale(PDF_DPI / MM_PER_INCH, PDF_DPI / MM_PER_INCH)
        draw_print(painter, sheet, looks, style, options, called)
    painter.end()


def _write_svg(
    path: Path, sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions, called: Called
) -> None:
    from PySide6.QtSvg import QSvgGenerator

    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setTitle(sheet.title)
    dpi = 254  # 10 units a millimetre
    generator.setResolution(dpi)
    width, height = round(sheet.paper.width_mm * 10), round(sheet.paper.height_mm * 10)
    generator.setSize(QSize(width, height))
    generator.setViewBox(QRectF(0, 0, width, height))
    painter = QPainter()
    if not painter.begin(generator):
        raise OSError(tr("the file can not be opened for writing"))
    painter.scale(10.0, 10.0)
    draw_print(painter, sheet, looks, style, options, called)
    painter.end()


def _write_png(
    path: Path, sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions, called: Called
) -> None:
    scale = PNG_DPI / MM_PER_INCH
    image = QImage(
        round(sheet.paper.width_mm * scale), round(sheet.paper.height_mm * scale), QImage.Format.Format_RGB32
    )
    if image.isNull():
        raise OSError(tr("the picture would be too large"))
    image.fill(Qt.GlobalColor.white)
    image.setDotsPerMeterX(round(PNG_DPI / MM_PER_INCH * 1000))
    image.setDotsPerMeterY(round(PNG_DPI / MM_PER_INCH * 1000))
    painter = QPainter(image)
    painter.scale(scale, scale)
    draw_print(painter, sheet, looks, style, options, called)
    painter.end()
    if not save_png(image, path):
        raise OSError(tr("the file can not be opened for writing"))
