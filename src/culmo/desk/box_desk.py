"""What is done at the box from menus and buttons: dialogs, prints, plans; the Box room shows, this acts."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtGui import QImage, QPagedPaintDevice, QPdfWriter
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog

from culmo.core.chart.box import PanSize, fitting_shape, plan_well_map
from culmo.core.chart.order import plan_order
from culmo.core.chart.patch import plan_patch
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.paint.entry import free_name
from culmo.desk.drawing.cell_look import cell_looks
from culmo.desk.drawing.export import Called, PrintOptions, export_sheet
from culmo.desk.drawing.paint_pages import write_paint_pages
from culmo.desk.drawing.pdf import PDF_DPI
from culmo.desk.drawing.sheet import SheetStyle, drawn_width_mm
from culmo.desk.printing import print_pages, print_sheets
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.dialogs import BoxDialog, CardsDialog, RefillDialog, SlipDialog, SwatchDialog
from culmo.desk.rooms.box.entry_dialog import EntryDialog
from culmo.desk.rooms.box.shop import shop_slip
from culmo.desk.rooms.box.table_model import COLUMNS
from culmo.desk.rooms.box.view import BoxPageName
from culmo.desk.sheets_out import with_ending
from culmo.desk.unsaved import Typed
from culmo.errors import CulmoError
from culmo.study import acts, box_acts, records
from culmo.study.box_records import Touched, fade_tests, touched_by
from culmo.study.formats import Holds, save_filter
from culmo.study.paint_rows import rows_csv
from culmo.study.papers import own_papers
from culmo.study.traits import traits_of
from culmo.study.whole_file import whole_file
from culmo.words import tr, trn

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

MAP_FILTER = save_filter(Holds.DRAWING)
TABLE_FILTER = save_filter(Holds.PAINT_TABLE)


class BoxDesk(QObject):
    """The acts of the Box room that ask something first."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window, self.session = window, window.session
        self._list = ""
        self.session.opened.connect(self._forget_list)

    def _open(self, dialog: QDialog) -> bool:
        done = dialog.exec() == QDialog.DialogCode.Accepted
        dialog.deleteLater()
        return done

    # ---- paints

    def enter_paints(self, text: str = "") -> bool:
        """Many paints at once, from a pasted list; says whether they were taken in. A list that was left is there again."""
        with self.session.guarded():
            dialog = EntryDialog(self.window, self.session, text or self._list)
            return self._finish(dialog)
        return False

    def _finish(self, dialog: EntryDialog) -> bool:
        """What was typed into the dialog and not taken in is kept."""
        done = dialog.exec() == QDialog.DialogCode.Accepted
        self.keep_list("" if done else dialog.text.toPlainText())
        dialog.deleteLater()
        self._taken(done)
        return done

    def keep_list(self, text: str) -> bool:
        """A list of paints that was typed or pasted, and not taken in; an empty one is none."""
        self._list = text if text.strip() else ""
        lines = sum(bool(line.strip()) for line in text.splitlines())
        name = trn("a list of {n} paint", "a list of {n} paints", lines)
        entry = Typed(name, self.enter_paints, RoomName.BOX, lambda: self._list)
        self.session.unsaved.note("list", entry if self._list else None)
        return True

    def _forget_list(self) -> None:
        self._list = ""

    def enter_file(self, path: Path) -> None:
        """Many paints at once, from a table."""
        with self.session.guarded():
            dialog = EntryDialog(self.window, self.session)
            dialog.read_file(path)
            self._finish(dialog)

    def _taken(self, done: bool) -> None:
        if done:
            self.window.box.shows.choose(BoxPageName.BOX if self.session.boxes else BoxPageName.STROKES)
            self.window.box.take_keys()

    def paste(self) -> None:
        """What the clipboard holds, where the Box room is on view."""
        if self.session.study is not None and self.window.rooms.currentWidget() is self.window.box:
            self.window.box.paste()

    def take_swatch(self, source: object = None) -> None:
        """Colours of the card from a picture; they go into the fields, to be looked at and saved."""
        slip = self.window.box.slip
        dialog = SwatchDialog(self.window, slip.draft.name)
        if isinstance(source, Path):
            dialog.load(source)
        elif isinstance(source, QImage):
            dialog.show_image(source)
        if self._open(dialog):
            self.window.box.pages.tabs.choose(0)
            for key, text in dialog.texts().items():
                slip.card[key].setText(text)
            slip.save.setFocus()

    def bring_back(self) -> None:
        """A retired paint is in use again."""
        study = self.session.file
        retired = [paint for paint in records.paints(study, retired=True) if paint.retired]
        names = [paint.name for paint in retired]
        name, done = QInputDialog.getItem(
            self.window, tr("Bring back a paint"), tr("Retired paints"), names, 0, False
        )
        if done and name in names:
            self.session.do(acts.bring_back(study, retired[names.index(name)].id))

    def has_retired(self) -> bool:
        """Whether any paint is retired."""
        return self.session.study is not None and bool(self.session.study.rows("paints", "retired = 1"))

    # ---- boxes

    def new_box(self) -> None:
        """Lay out a box with the paints that are not only considered."""
        ids = [paint.id for paint in self.session.paints if paint.status != "wished"]
        names = [box.name for box in self.session.boxes]
        rows, columns = fitting_shape(max(len(ids), 1))
        dialog = BoxDialog(self.window, None, free_name(tr("Studio box"), names), rows, columns)
        if self._open(dialog):
            with self.session.guarded():
                shape = dialog.shape()
                known = {box.id for box in self.session.boxes}
                fits = ids[: shape.count] if not names else []
                if self.session.do(box_acts.add_box(self.session.file, dialog.name.text(), shape, fits)):
                    self.session.selection.select_box(
                        next(box.id for box in self.session.boxes if box.id not in known)
                    )

    def box_from(self, names: Sequence[str]) -> None:
        """Lay out a box with a palette; a travelling box, say."""
        ids = [paint.id for name in names for paint in self.session.paints if paint.name == name]
        rows, columns = fitting_shape(max(len(ids), 1))
        name = free_name(tr("Travelling box"), [box.name for box in self.session.boxes])
        dialog = BoxDialog(self.window, None, name, rows, columns)
        if self._open(dialog):
            with self.session.guarded():
                command = box_acts.add_box(self.session.file, dialog.name.text(), dialog.shape(), ids)
                if self.session.do(command):
                    self.session.told.emit(
                        tr("{what} is laid out with {n} paints", what=dialog.name.text(), n=len(ids))
                    )

    def change_box(self) -> None:
        """Another name or shape for the box in use."""
        box = self.session.selection.box
        if box is None:
            return
        dialog = BoxDialog(self.window, box, box.name, box.shape.rows, box.shape.columns)
        if self._open(dialog):
            with self.session.guarded():
                command = box_acts.change_box(self.session.file, box.id, dialog.name.text(), dialog.shape())
                self.session.do(command)

    def remove_box(self) -> None:
        """Take the box in use apart; the paints stay, and it can be undone."""
        box = self.session.selection.box
        if box is not None and self.session.do(box_acts.remove_box(self.session.file, box.id)):
            self.session.selection.box_changed.emit()
            self.session.told.emit(
                tr("{name} is taken apart; its paints stay. Ctrl+Z brings it back", name=box.name)
            )

    def turn_pan(self) -> None:
        """A half pan becomes a full pan, or back, in the selected well."""
        box, spot = self.session.selection.box, self.window.box.picture.current
        if box is None or spot is None or spot.place < 0:
            self.session.told.emit(tr("Select a well of the box first"))
            return
        pan = PanSize.HALF if box.shape.pan(spot.place) == PanSize.FULL else PanSize.FULL
        with self.session.guarded():
            self.session.do(box_acts.set_pan(self.session.file, box.id, spot.place, pan))

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
                text = rows_csv(self.window.box.table.asked())
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
        asked = self.window.box.table.asked()
        columns = [one for one in COLUMNS if one.key != "doubts" and any(map(one.text, asked))]
        rows = [(row, [column.text(row) for column in columns]) for row in asked]
        heads = [column.title for column in columns]
        write_paint_pages(
            device, self._table_title(), self.session.file.title, heads, rows, self.session.learning.looks
        )

    # ---- cards

    def plan_cards(self) -> None:
        """Card pages for the paints in hand, the box, or those that have not been read."""
        session = self.session
        in_hand = [paint for paint in session.paints if paint.name in session.selection.in_hand]
        unread = [paint for paint in session.paints if paint.name.casefold() in session.learning.unread]
        box = session.selection.box
        groups = [(tr("Paints in hand"), in_hand)]
        groups.append((box.name if box is not None else tr("All paints"), session.selection.paints_in_use()))
        groups.append((tr("Paints not read yet"), [paint for paint in unread if paint.status != "wished"]))
        self._plan_cards(groups)

    def plan_one_card(self) -> None:
        """A card for the selected paint."""
        paint = self.window.box.current_paint()
        if paint is not None:
            self._plan_cards([(paint.name, [paint])])

    def _plan_cards(self, groups: Sequence[tuple[str, Sequence[records.Paint]]]) -> None:
        with self.session.guarded():
            dialog = CardsDialog(self.window, groups, [own.paper for own in own_papers(self.session.file)])
            if self._open(dialog):
                self.keep_sheets(dialog.sheets())

    def keep_sheets(self, sheets: Sequence[Sheet]) -> None:
        """Keep planned sheets in one act, and go to the first of them."""
        command = acts.add_sheets(self.session.file, sheets)
        first = next(change.id for change in command.changes if change.table == "sheets")
        if self.session.do(command):
            self.session.selection.select_sheet(first)
            self.window.show_room(RoomName.PLAN)

    # ---- a refilled well

    def refill(self) -> None:
        """Another paint takes the place of the selected one."""
        old = self.window.box.current_paint()
        if old is None:
            return
        study = self.session.file
        dialog = RefillDialog(self.window, old, touched_by(study, old.name))
        if self._open(dialog):
            with self.session.guarded():
                self.refill_with(old, dialog.entry(), dialog.wanted())

    def refill_with(self, old: records.Paint, entry: acts.PaintEntry, wanted: Sequence[Touched]) -> None:
        """The new paint in its well, and a patch for each sheet that is wanted."""
        study = self.session.file
        if not self.session.do(box_acts.refill(study, old.id, entry)):
            return
        self.window.box.select(entry.name.strip())
        patches = []
        for touched in wanted:
            patches += self._patch(touched, study.row("paints", old.id)["name"], entry.name.strip())
        if patches:
            self.keep_sheets(patches)

    def _patch(self, touched: Touched, old_name: str, new_name: str) -> list[Sheet]:
        """The cells of a sheet that held the old paint, with the new one, in its drying order."""
        sheet = records.sheet_record(self.session.file, touched.sheet_id).sheet

        def rename(name: str) -> str:
            return new_name if name.casefold() == old_name.casefold() else name

        wanted = set(touched.cells)
        cells: list[Cell] = [
            replace(cell, recipe=cell.recipe.renamed(rename)) for cell in sheet.cells if cell.id in wanted
        ]
        traits = traits_of(self.session.paints, self.session.learning.labels, self.session.learning.estimate)
        patches = plan_patch(tr("Patch for {title}", title=sheet.title), cells)
        return [plan_order(patch, None, traits) for patch in patches]

    # ---- the shop, the window

    def shop_slip(self, sector: int | None = None) -> None:
        """A page to carry, for the widest gap or the one that was chosen."""
        found = self.window.box.finder.found
        if found is None:
            self.window.show_room(RoomName.BOX)
            self.window.box.shows.choose(BoxPageName.MISSING)
            self.session.told.emit(tr("The gaps are being worked out; then choose one for the slip"))
            return
        chosen = sector if sector is not None else found.gaps[0].sector if found.gaps else None
        codes = {paint.name: paint.codes for paint in self.session.paints if paint.status != "wished"}
        dialog = SlipDialog(self.window, shop_slip(found, chosen, codes), self.session.learning.looks)
        self._open(dialog)

    def can_fade(self) -> bool:
        """Whether the sheet on the table has patches for the window."""
        record = self.window.state.record
        return record is not None and any(cell.treatment == "exposed" for cell in record.sheet.cells)

    def start_fade(self) -> None:
        """The sheet goes into a window."""
        record = self.window.state.record
        if record is None:
            return
        place, done = QInputDialog.getText(
            self.window, tr("Into the window"), tr("Which window (such as south, first floor)")
        )
        if done:
            with self.session.guarded():
                self.session.do(box_acts.start_fade(self.session.file, record.id, place))
                self.session.told.emit(
                    tr("The first look is due in a week; read both halves of each pair then")
                )

    def end_fade(self) -> None:
        """The sheet comes out of the window."""
        record = self.window.state.record
        with self.session.guarded():
            running = [
                test for test in fade_tests(self.session.file) if record and test.sheet_id == record.id
            ]
            open_tests = [test for test in running if not test.ended]
            if not open_tests:
                raise CulmoError(tr("this sheet is in no window"))
            self.session.do(box_acts.end_fade(self.session.file, open_tests[-1].id))
