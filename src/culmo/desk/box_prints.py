"""The well map and the table of paints, as files and on paper."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QPagedPaintDevice, QPdfWriter
from PySide6.QtWidgets import QFileDialog

from culmo.core.chart.box import plan_well_map
from culmo.core.chart.sheet import Sheet
from culmo.desk.drawing.cell_look import cell_looks
from culmo.desk.drawing.export import Called, PrintOptions, export_sheet
from culmo.desk.drawing.paint_pages import write_paint_pages
from culmo.desk.drawing.pdf import PDF_DPI
from culmo.desk.drawing.sheet import SheetStyle, drawn_width_mm
from culmo.desk.printing import print_pages, print_sheets
from culmo.desk.rooms.box.table_model import COLUMNS
from culmo.desk.sheets_out import with_ending
from culmo.study.formats import Holds, save_filter
from culmo.study.paint_rows import rows_csv
from culmo.study.whole_file import whole_file
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

MAP_FILTER = save_filter(Holds.DRAWING)
TABLE_FILTER = save_filter(Holds.PAINT_TABLE)


class BoxPrints:
    """What of the Box room goes onto paper."""

    def __init__(self, window: "MainWindow") -> None:
        self.window, self.session = window, window.session

    def well_map(self) -> Sheet | None:
        """The well map of the box in use."""
        box = self.session.selection.box
        if box is None:
            return None
        names = {paint.id: (paint.name, paint.codes) for paint in self.session.paints}
        laid = {place: names[paint_id] for place, paint_id in box.paints.items() if paint_id in names}
        with self.session.guarded():
            return plan_well_map(box.name, box.shape, laid, drawn_width_mm)
        return None

    def export_well_map(self) -> None:
        """The well map as a file."""
        sheet = self.well_map()
        if sheet is None:
            return
        name, kind = QFileDialog.getSaveFileName(
            self.window, tr("Export the well map"), f"{sheet.title}.pdf", MAP_FILTER
        )
        if name:
            path = Path(name)
            self.write_well_map(with_ending(path, kind))

    def write_well_map(self, path: Path, colour: bool = False) -> bool:
        """Write the well map by the path's ending."""
        sheet = self.well_map()
        if sheet is None:
            return False
        with self.session.guarded():
            options = PrintOptions(colour=colour, numbers=False, recipes="")
            predicted = self.session.learning.predict([cell.recipe for cell in sheet.cells])
            style = SheetStyle(looks=cell_looks(sheet.cells, predicted, {}))
            export_sheet(sheet, path, self.session.learning.looks, style, options)
            self.session.told.emit(tr("Written: {path}", path=path))
            return True
        return False

    def print_well_map(self) -> None:
        """The well map on paper at the box's true size."""
        sheet = self.well_map()
        if sheet is not None:
            with self.session.guarded():
                print_sheets(
                    self.window, [(sheet, frozenset())], Called(), PrintOptions(numbers=False, recipes="")
                )

    # ---- the table of paints

    def export_table(self) -> None:
        """The rows of the table that are on view, as a file."""
        name, kind = QFileDialog.getSaveFileName(
            self.window, tr("Export the table of paints"), f"{self._table_title()}.csv", TABLE_FILTER
        )
        if name:
            self.write_table(with_ending(Path(name), kind))

    def write_table(self, path: Path) -> bool:
        """Write the table by the path's ending; says whether it was."""
        with self.session.guarded():
            if path.suffix.casefold() == ".pdf":
                with whole_file(path) as beside:
                    device = QPdfWriter(str(beside))
                    device.setResolution(PDF_DPI)
                    device.setTitle(self._table_title())
                    self._draw_table(device)
            else:
                text = rows_csv(self.window.box.stack.table.asked())
                with whole_file(path) as beside:
                    beside.write_text(text, encoding="utf-8", newline="")
            self.session.told.emit(tr("Written: {path}", path=path))
            return True
        return False

    def print_table(self) -> None:
        """The rows of the table that are on view, on paper."""
        with self.session.guarded():
            print_pages(self.window, self._table_title(), self._draw_table)

    def _table_title(self) -> str:
        box = self.session.selection.box
        return tr("Paints of {what}", what=box.name if box is not None else self.session.file.title)

    def _draw_table(self, device: QPagedPaintDevice) -> None:
        asked = self.window.box.stack.table.asked()
        columns = [one for one in COLUMNS if one.key != "doubts" and any(map(one.text, asked))]
        rows = [(row, [column.text(row) for column in columns]) for row in asked]
        heads = [column.title for column in columns]
        write_paint_pages(
            device, self._table_title(), self.session.file.title, heads, rows, self.session.learning.looks
        )
