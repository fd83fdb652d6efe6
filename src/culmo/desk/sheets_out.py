"""Files out of the window and into it: a sheet exported or printed, the whole study out, open files in."""

import json
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QFileDialog

from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.studies import Studies
from culmo.errors import CulmoError
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.drawing.export import PrintOptions
    from culmo.study.file import Command

SHEET_FILTER = tr(
    "PDF at 1:1 (*.pdf);;SVG at 1:1 (*.svg);;PNG (*.png);;Cells as CSV (*.csv);;Sheet as JSON (*.json)"
)


class SheetsOut(Studies):
    """The part of the window that gives sheets away."""

    session: Session
    state: SheetState

    def export_sheet(self) -> None:
        """Ask how and where, and write the sheet."""
        from culmo.desk import export_dialog
        from culmo.desk.drawing.export import PrintOptions

        record = self.state.record
        if record is None:
            return
        start = f"{record.sheet.title}.pdf".replace("/", "-")
        name, kind = QFileDialog.getSaveFileName(self, tr("Export the sheet"), start, SHEET_FILTER)
        if not name:
            return
        path = Path(name)
        if not path.suffix:
            path = path.with_suffix("." + kind.rsplit("*.", 1)[-1].rstrip(")"))
        options = PrintOptions()
        if path.suffix in (".pdf", ".svg", ".png"):
            chosen = export_dialog.ask_options(self)
            if chosen is None:
                return
            options = chosen
        self.write_sheet(path, options)

    def write_sheet(self, path: Path, options: "PrintOptions") -> bool:
        """Write the sheet by the path's ending."""
        from culmo.core.chart.sheet import sheet_to_dict
        from culmo.desk.drawing.export import export_sheet
        from culmo.desk.drawing.sheet import SheetStyle
        from culmo.study.tables import cells_csv
        from culmo.study.whole_file import whole_file

        record = self.state.record
        if record is None:
            return False
        sheet = record.sheet
        with self.session.guarded():
            if path.suffix in (".csv", ".json"):
                text = (
                    cells_csv(sheet) if path.suffix == ".csv" else json.dumps(sheet_to_dict(sheet), indent=1)
                )
                with whole_file(path) as beside:
                    beside.write_text(text, encoding="utf-8")
            else:
                codes = {paint.name.casefold(): paint.codes for paint in self.session.paints}
                style = SheetStyle(looks=self.state.looks)
                export_sheet(sheet, path, self.session.looks, style, options, codes)
            self.say(tr("Written: {path}", path=path))
            return True
        return False

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
        name, _ = QFileDialog.getSaveFileName(self, tr("For another study"), start, tr("Shared (*.json)"))
        if name:
            self.write_share(Path(name), data)

    def write_share(self, path: Path, data: "Callable[[], dict[str, Any]]") -> None:
        """Write what is shared."""
        from culmo.study.sharing import share_text
        from culmo.study.whole_file import whole_file

        with self.session.guarded():
            with whole_file(path) as beside:
                beside.write_text(share_text(data()), encoding="utf-8")
            self.say(tr("Written: {path}", path=path))

    def export_study(self) -> None:
        """Ask for a folder, and write everything there in open forms."""
        name, _ = QFileDialog.getSaveFileName(
            self,
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
            steps = exporting_whole(self.session.file, self.session.estimate, folder)
            done, written = work_through(self, steps, tr("Writing the study"))
            if done and written is not None:
                self.say(tr("Written: {n} files in {folder}", n=len(written), folder=folder))
            else:
                self.say(tr("Stopped; what was written so far lies in {folder}", folder=folder))

    def import_files(self) -> None:
        """Ask for open files, and take them in."""
        names, _ = QFileDialog.getOpenFileNames(
            self, tr("Import"), "", tr("Open files (*.csv *.json *.gpl *.txt *.cgats *.it8 *.ti3)")
        )
        self.take_files([Path(name) for name in names])

    def take_files(self, paths: Sequence[Path]) -> None:
        """Take files in by what they hold; each is an act that can be undone."""
        from culmo.study.incoming import bring_in

        told: list[str] = []
        left_out: list[str] = []
        for path in paths:
            with self.session.guarded():
                came = bring_in(self.session.file, path, left_out.append, self._do_or_fail)
                told.append(f"{path.name}: {came}")
        if told:
            self.say("; ".join(told))
        if left_out:
            more = tr("; and {value} more", value=len(left_out) - 3) if len(left_out) > 3 else ""
            self.session.failed.emit("; ".join(left_out[:3]) + more)

    def take_any(self, paths: Sequence[Path]) -> None:
        """Files that were dropped on the window: a study is opened, open files are taken in, a picture is read."""
        from culmo.study.file import SUFFIX
        from culmo.study.pictures import ENDINGS

        studies = [path for path in paths if path.suffix == SUFFIX]
        if studies:
            self.open_path(studies[0])
            return
        if self.session.study is None:
            self.session.failed.emit(tr("open or begin a study first; what is dropped is taken into it"))
            return
        pictures = [path for path in paths if path.suffix.casefold() in ENDINGS]
        others = [path for path in paths if path not in pictures]
        if others:
            self.take_files(others)
        if pictures:
            self.read_picture(pictures[0])

    def read_picture(self, path: Path) -> None:
        """A picture for the Read room."""
        raise AssertionError("the window has the room")

    def _do_or_fail(self, command: "Command") -> None:
        if not self.session.do(command):
            raise CulmoError(tr("it could not be saved; the study is as it was before"))

    def recover_study(self) -> None:
        """Ask for a damaged study and for the new one."""
        name, _ = QFileDialog.getOpenFileName(self, tr("A damaged study"), "", tr("Culmo studies (*.culmo)"))
        if not name:
            return
        path = Path(name)
        new, _ = QFileDialog.getSaveFileName(
            self,
            tr("The new study"),
            str(path.with_name(f"{path.stem}, recovered.culmo")),
            tr("Culmo studies (*.culmo)"),
        )
        if new:
            self.recover_into(path, Path(new))

    def recover_into(self, path: Path, target: Path) -> None:
        """Make a new study from what can be read of a damaged one, open it, and tell what was found."""
        from culmo.study.backups import recover

        with self.session.guarded():
            report = recover(path, target)
            if self.open_path(target):
                self.session.failed.emit(
                    tr("{words}\nThe damaged file was left as it is.", words=report.words)
                )

    def print_sheet(self) -> None:
        """Print at true scale through the system's dialog."""
        from culmo.desk import export_dialog
        from culmo.desk.printing import print_sheet

        if self.state.record is None:
            return
        options = export_dialog.ask_options(self, colour=False)
        if options is not None:
            codes = {paint.name.casefold(): paint.codes for paint in self.session.paints}
            print_sheet(self, self.state.record.sheet, codes, options)
