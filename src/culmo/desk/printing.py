"""Printing at true scale through the system's dialog."""

from collections.abc import Mapping

from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.export import MM_PER_INCH, PrintOptions, draw_print, recipe_labels
from culmo.desk.drawing.sheet import SheetStyle


def print_sheet(parent: QWidget, sheet: Sheet, codes: Mapping[str, str], options: PrintOptions) -> None:
    """Ask for a printer and print the outlines at 1:1."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setFullPage(True)
    size = QPageSize(QSizeF(sheet.paper.width_mm, sheet.paper.height_mm), QPageSize.Unit.Millimeter)
    printer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    printer.setDocName(sheet.title)
    dialog = QPrintDialog(printer, parent)
    if dialog.exec() != QPrintDialog.DialogCode.Accepted:
        return
    painter = QPainter(printer)
    scale = printer.resolution() / MM_PER_INCH
    painter.scale(scale, scale)
    style = SheetStyle(
        colour=False, numbers=options.numbers, recipes=recipe_labels(sheet, options.recipes, codes)
    )
    draw_print(painter, sheet, None, style, options)
    painter.end()
