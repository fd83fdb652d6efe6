"""Sheets to PDF, SVG and PNG at true scale, through the same painter as the screen."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import QMarginsF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPageLayout, QPageSize, QPainter, QPdfWriter

from culmo.core.chart.box import WELL_MAP
from culmo.core.chart.kinds import kind_of
from culmo.core.chart.sheet import Sheet
from culmo.data import text_width_mm
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.png import save_png
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, draw_text
from culmo.errors import CulmoError
from culmo.study.formats import Holds, written
from culmo.study.whole_file import whole_file
from culmo.words import tr

MM_PER_INCH = 25.4
PNG_DPI, PDF_DPI, WASH_DPI = 200, 1200, 220
CHECK_BAR_MM = 100.0


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


def recipe_labels(sheet: Sheet, kind: str, codes: Mapping[str, str]) -> dict[str, str]:
    """What is written into each cell: the paints by name, by number or by pigment code.

    Parameters
    ----------
    sheet : Sheet
    kind : str, "", "name", "number" or "code"
    codes : from folded paint name to its codes
    """
    own = kind_of(sheet)
    if not kind or (own.captioned if own is not None else sheet.kind == WELL_MAP):
        return {}
    order: dict[str, int] = {}
    for cell in sheet.cells:
        for name in cell.recipe.names:
            order.setdefault(name.casefold(), len(order) + 1)

    def word(name: str) -> str:
        if kind == "number":
            return str(order[name.casefold()])
        return (codes.get(name.casefold()) or name) if kind == "code" else name

    return {cell.id: str(cell.recipe.renamed(word)) for cell in sheet.cells}


def draw_print(
    painter: QPainter, sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions
) -> None:
    """A sheet with what a print needs, the painter scaled to millimetres."""
    draw_sheet(painter, sheet, looks, style)
    if options.bar:
        _draw_bar(painter, sheet)


def _draw_bar(painter: QPainter, sheet: Sheet) -> None:
    """A bar of 100 mm below the block, to check the printer's scale with a ruler."""
    length = CHECK_BAR_MM if sheet.paper.width_mm > CHECK_BAR_MM + 20 else 50.0
    x = (sheet.paper.width_mm - length) / 2
    below = sheet.frame_mm[1] + sheet.frame_mm[3]
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
    draw_text(painter, text, (sheet.paper.width_mm - text_width_mm(text, 2.4)) / 2, y + 3.2, 2.4)


def export_sheet(
    sheet: Sheet,
    path: Path,
    looks: Looks | None = None,
    style: SheetStyle | None = None,
    options: PrintOptions | None = None,
    codes: Mapping[str, str] | None = None,
) -> None:
    """Write one sheet, as `export_sheets`."""
    export_sheets([sheet], path, looks, [style or SheetStyle()], options, codes)


def export_sheets(
    sheets: Sequence[Sheet],
    path: Path,
    looks: Looks | None = None,
    styles: Sequence[SheetStyle] | None = None,
    options: PrintOptions | None = None,
    codes: Mapping[str, str] | None = None,
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
    options = options or PrintOptions()
    ending = path.suffix.casefold()
    known = written(Holds.DRAWING)
    if ending not in known:
        raise CulmoError(
            tr('"{name}": the ending must be one of {endings}', name=path.name, endings=", ".join(known))
        )
    assert QGuiApplication.instance() is not None
    pages = [
        (sheet, _print_style(sheet, looks, style, options, codes or {}))
        for sheet, style in zip(sheets, styles or [SheetStyle()] * len(sheets), strict=True)
    ]
    if ending == ".pdf":
        with whole_file(path) as beside:
            _write_pdf(beside, pages, looks, options)
        return [path]
    writer = _write_svg if ending == ".svg" else _write_png
    targets = targets_of(path, len(pages))
    for target, (sheet, own) in zip(targets, pages, strict=True):
        with whole_file(target) as beside:
            writer(beside, sheet, looks, own, options)
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
    sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions, codes: Mapping[str, str]
) -> SheetStyle:
    return replace(
        style,
        colour=options.colour and looks is not None,
        numbers=options.numbers,
        recipes=recipe_labels(sheet, options.recipes, codes),
        pixels_per_mm=WASH_DPI / MM_PER_INCH,
        selected="",
        tape=False,
    )


def _write_pdf(
    path: Path, pages: Sequence[tuple[Sheet, SheetStyle]], looks: Looks | None, options: PrintOptions
) -> None:
    writer = QPdfWriter(str(path))
    writer.setResolution(PDF_DPI)
    writer.setTitle(pages[0][0].title)
    writer.setCreator(tr("Culmo"))
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
        draw_print(painter, sheet, looks, style, options)
    painter.end()


def _write_svg(
    path: Path, sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions
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
    draw_print(painter, sheet, looks, style, options)
    painter.end()


def _write_png(
    path: Path, sheet: Sheet, looks: Looks | None, style: SheetStyle, options: PrintOptions
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
    draw_print(painter, sheet, looks, style, options)
    painter.end()
    if not save_png(image, path):
        raise OSError(tr("the file can not be opened for writing"))
