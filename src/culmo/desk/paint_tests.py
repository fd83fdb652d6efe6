"""What is planned of single paints: cards, patches of a refilled well, the fade test of a sheet."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from culmo.core.chart.order import plan_order
from culmo.core.chart.patch import plan_patch
from culmo.core.chart.sheet import Cell, Sheet
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.dialogs import CardsDialog, RefillDialog
from culmo.errors import CulmoError
from culmo.study import acts, box_acts, records
from culmo.study.box_records import Touched, fade_tests, touched_by
from culmo.study.papers import own_papers
from culmo.study.traits import traits_of
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

from culmo.desk.asking import accepted


class PaintTests:
    """The acts that end in a sheet of cards or patches, or in a window."""

    def __init__(self, window: "MainWindow") -> None:
        self.window, self.session = window, window.session

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
            if accepted(dialog):
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
        if accepted(dialog):
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
