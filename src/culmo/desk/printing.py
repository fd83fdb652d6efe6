"""Printing at true scale through the system's dialog."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPagedPaintDevice, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.export import MM_PER_INCH, Called, PrintOptions, draw_print, recipe_labels
from culmo.desk.drawing.sheet import SheetStyle
from culmo.errors import CulmoError
from culmo.words import tr

NOT_TAKEN = tr("the printer takes nothing: look whether it is on and has paper")


def print_sheets(
    parent: QWidget,
    pages: Sequence[tuple[Sheet, frozenset[str]]],
    called: Called,
    options: PrintOptions,
) -> bool:
    """Ask for a printer and print the outlines at 1:1, a page each; says whether they were sent.

    Parameters
    ----------
    parent : QWidget
    pages : sequence of a Sheet with the ids of the cells that are left out, not empty
    called : Called, what the paints are called
    options : PrintOptions

    Raises
    ------
    CulmoError
        when the printer takes nothing
    """
    printer = _printer(pages[0][0].title)
    printer.setPageLayout(_layout(pages[0][0]))
    if not _asked_for(printer, parent):
        return False
    painter = QPainter()
    for number, (sheet, left_out) in enumerate(pages):
        if number:
            printer.setPageLayout(_layout(sheet))
        if not (printer.newPage() if number else painter.begin(printer)):
            raise CulmoError(NOT_TAKEN)
        painter.resetTransform()
        scale = printer.resolution() / MM_PER_INCH
        painter.scale(scale, scale)
        labels = recipe_labels(sheet, options.recipes, called)
        style = SheetStyle(colour=False, numbers=options.numbers, recipes=labels, left_out=left_out)
        draw_print(painter, sheet, None, style, options, called)
    painter.end()
    return True


def _layout(sheet: Sheet) -> QPageLayout:
    """The sheet's own paper without margins: the sheet has its own."""
    size = QPageSize(QSizeF(sheet.paper.width_mm, sheet.paper.height_mm), QPageSize.Unit.Millimeter)
    return QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))


def print_pages(parent: QWidget, title: str, draw: Callable[[QPagedPaintDevice], object]) -> bool:
    """Ask for a printer and print pages that are set one after the other; says whether they were sent.

    Parameters
    ----------
    parent : QWidget
    title : str, of the document
    draw : function that draws all pages on a device

    Raises
    ------
    CulmoError
        when the printer takes nothing
    """
    printer = _printer(title)
    if not _asked_for(printer, parent):
        return False
    try:
        draw(printer)
    except OSError:
        raise CulmoError(NOT_TAKEN) from None
    return True


def _printer(title: str) -> QPrinter:
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setFullPage(True)
    printer.setDocName(title)
    return printer


def _asked_for(printer: QPrinter, parent: QWidget) -> bool:
    """Whether the painter chose a printer."""
    dialog = QPrintDialog(printer, parent)
    wanted = dialog.exec() == QPrintDialog.DialogCode.Accepted
    dialog.deleteLater()
    return wanted
