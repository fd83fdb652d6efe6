"""What is given away: a sheet exported, printed or shared, a paint shared, the whole study."""

import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QFileDialog, QMessageBox

from culmo.desk.shell import Shell
from culmo.study.formats import Holds, save_filter, written
from culmo.words import tr, trn

if TYPE_CHECKING:
    from PySide6.QtCore import QSize
    from PySide6.QtGui import QImage

    from culmo.desk.drawing.export import Called, PrintOptions
    from culmo.desk.drawing.seen import Seen
    from culmo.desk.export_dialog import Picture

SHEET_FILTER = save_filter(Holds.DRAWING, Holds.CELLS, Holds.SHEETS)


def with_ending(path: Path, kind: str) -> Path:
    """A file's name with the ending of the kind that was chosen for it, where it has none; some dialogs give no kind.

    Parameters
    ----------
    path : Path
    kind : str, such as "PDF (*.pdf)"

    Examples
    --------
    >>> with_ending(Path("sheet"), "SVG (*.svg)").name, with_ending(Path("sheet"), "").name
    ('sheet.svg', 'sheet.pdf')
    """
    found = re.search(r"\*(\.\w+)", kind)
    return path if path.suffix else path.with_name(path.name + (found[1] if found else ".pdf"))


class SheetsOut:
    """Gives sheets, paints and whole studies away: as files, on paper, for another study."""

    def __init__(self, shell: Shell) -> None:
        self.shell, self.session, self.state = shell, shell.session, shell.state

    def export_sheet(self) -> None:
        """Ask how and where, and write the sheet, or all pages of its plan."""
        from culmo.desk.drawing.export import PrintOptions

        record = self.state.record
        if record is None:
            return
        start = f"{record.sheet.title}.pdf".replace("/", "-")
        name, kind = QFileDialog.getSaveFileName(
            self.shell.parent, tr("Export the sheet"), start, SHEET_FILTER
        )
        if not name:
            return
        path = with_ending(Path(name), kind)
        options, ids = PrintOptions(), [record.id]
        if path.suffix.casefold() not in written(Holds.CELLS, Holds.SHEETS):
            chosen = self._ask_pages(record.id, colour=True)
            if chosen is None:
                return
            options, ids = chosen
        self.write_sheet(path, options, ids)

    def _ask_pages(self, sheet_id: int, colour: bool) -> "tuple[PrintOptions, list[int]] | None":
        """How the sheet is drawn, and which pages; None when it was cancelled."""
        from culmo.desk import export_dialog
        from culmo.study.records import planned_together

        ids = planned_together(self.session.file, sheet_id)
        record = self.state.record
        begun = record is not None and 0 < len(self.state.painted) < len(record.cells)
        dialog = export_dialog.ExportDialog(
            self.shell.parent, colour, ids.index(sheet_id) + 1, len(ids), begun,
            self.shell.settings.print_options(), self._picturing(sheet_id), self.shell.settings,
        )  # fmt: skip
        chosen = export_dialog.ask_options(dialog)
        if chosen is None:
            return None
        options, all_pages = chosen
        self.shell.settings.keep_print_options(options)
        return options, ids if all_pages else [sheet_id]

    def _picturing(self, sheet_id: int) -> "Picture":
        """How a page will be, drawn small."""
        from culmo.desk.drawing.export import page_picture
        from culmo.desk.drawing.seen import see

        session = self.session
        seen, called = see(session.file, sheet_id, session.learning.estimate), self._called()

        def picture(options: "PrintOptions", size: "QSize", ratio: float) -> "QImage":
            looks = session.learning.looks
            return page_picture(
                seen.record.sheet, looks, seen.looks, self._left_out(seen, options), options, called,
                size * ratio,
            )  # fmt: skip

        return picture

    def write_sheet(self, path: Path, options: "PrintOptions", ids: Sequence[int] = ()) -> bool:
        """Write the sheet by the path's ending; drawn, it may be all pages of its plan.

        Parameters
        ----------
        path : Path
        options : PrintOptions
        ids : the sheets; the one on the table where none is given
        """
        from culmo.core.chart.sheet import sheet_to_dict
        from culmo.study.tables import cells_csv
        from culmo.study.whole_file import whole_file

        record = self.state.record
        if record is None:
            return False
        with self.session.guarded():
            ending = path.suffix.casefold()
            if ending not in written(Holds.CELLS, Holds.SHEETS):  # all other files are drawings
                return self._draw_pages(path, options, ids or [record.id])
            sheet = record.sheet
            text = (
                cells_csv(sheet)
                if ending in written(Holds.CELLS)
                else json.dumps(sheet_to_dict(sheet), indent=1)
            )
            with whole_file(path) as beside:
                beside.write_text(text, encoding="utf-8")
            self.shell.say(tr("Written: {path}", path=path))
            return True
        return False

    def _draw_pages(self, path: Path, options: "PrintOptions", ids: Sequence[int]) -> bool:
        from culmo.desk.drawing.export import export_sheets, targets_of
        from culmo.desk.drawing.seen import see
        from culmo.desk.drawing.sheet import SheetStyle

        session = self.session
        targets = targets_of(path, len(ids))
        # the file dialog asked for the one name that was typed only
        if targets != [path] and not self._may_replace(targets):
            return False
        pages = [see(session.file, sheet_id, session.learning.estimate) for sheet_id in ids]
        sheets = [page.record.sheet for page in pages]
        styles = [SheetStyle(looks=page.looks, left_out=self._left_out(page, options)) for page in pages]
        written = export_sheets(sheets, path, session.learning.looks, styles, options, self._called())
        if len(written) == 1:
            self.shell.say(tr("Written: {path}", path=path))
        else:
            self.shell.say(tr("Written: {n} files in {folder}", n=len(written), folder=path.parent))
        return True

    def _left_out(self, page: "Seen", options: "PrintOptions") -> frozenset[str]:
        """The cells that are not wanted on a print: those that are painted, where only the others are."""
        return frozenset(page.painted if options.only_new else ())

    def _may_replace(self, targets: Sequence[Path]) -> bool:
        there = [target.name for target in targets if target.exists()]
        if not there:
            return True
        answer = QMessageBox.question(
            self.shell.parent,
            tr("Files that are there already"),
            tr("{names} will be written over. Go on?", names=", ".join(there)),
        )
        return answer == QMessageBox.StandardButton.Yes

    def _called(self) -> "Called":
        from culmo.desk.drawing.export import called_in

        return called_in(self.session.file)

    def share_sheet(self) -> None:
        """Ask where, and write the sheet with its paints and readings for another study."""
        from culmo.study.sharing import shared_sheet

        record = self.state.record
        if record is not None:
            self._share(record.sheet.title, lambda: shared_sheet(self.session.file, record.id))

    def share_paint(self, paint_id: int, name: str) -> None:
        """Ask where, and write a paint with its card for another study."""
        from culmo.study.sharing import shared_paint

        self._share(name, lambda: shared_paint(self.session.file, paint_id))

    def _share(self, title: str, data: "Callable[[], dict[str, Any]]") -> None:
        start = f"{title}.share.json".replace("/", "-")
        name, _ = QFileDialog.getSaveFileName(
            self.shell.parent, tr("For another study"), start, save_filter(Holds.SHEETS)
        )
        if name:
            self.write_share(Path(name), data)

    def write_share(self, path: Path, data: "Callable[[], dict[str, Any]]") -> None:
        """Write what is shared."""
        from culmo.study.sharing import share_text
        from culmo.study.whole_file import whole_file

        with self.session.guarded():
            with whole_file(path) as beside:
                beside.write_text(share_text(data()), encoding="utf-8")
            self.shell.say(tr("Written: {path}", path=path))

    def export_study(self) -> None:
        """Ask for a folder, and write everything there in open forms."""
        name, _ = QFileDialog.getSaveFileName(
            self.shell.parent,
            tr("A new folder for the whole study"),
            tr("{stem}, open files", stem=self.session.file.path.stem),
        )
        if name:
            self.write_study(Path(name))

    def write_study(self, folder: Path) -> None:
        """Write the whole study into a folder."""
        from culmo.desk.drawing.whole import exporting_whole
        from culmo.desk.progress import work_through

        with self.session.guarded():
            steps = exporting_whole(self.session.file, self.session.learning.estimate, folder)
            done, written = work_through(self.shell.parent, steps, tr("Writing the study"))
            if done and written is not None:
                self.shell.say(tr("Written: {n} files in {folder}", n=len(written), folder=folder))
            else:
                self.shell.say(tr("Stopped; what was written so far lies in {folder}", folder=folder))

    def print_sheet(self) -> None:
        """Print the sheet, or all pages of its plan, at true scale through the system's dialog."""
        from culmo.desk.drawing.seen import see
        from culmo.desk.printing import print_sheets

        record = self.state.record
        chosen = self._ask_pages(record.id, colour=False) if record is not None else None
        if chosen is None:
            return
        options, ids = chosen
        with self.session.guarded():
            seen = [see(self.session.file, sheet_id, None) for sheet_id in ids]
            pages = [(page.record.sheet, self._left_out(page, options)) for page in seen]
            if print_sheets(self.shell.parent, pages, self._called(), options):
                self.shell.say(
                    trn("Sent to the printer: {n} page", "Sent to the printer: {n} pages", len(pages))
                )
