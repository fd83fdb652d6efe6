"""What is done at the box from menus and buttons: dialogs, prints, plans; the Box room shows, this acts."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QDialog, QInputDialog

from culmo.core.chart.box import PanSize, fitting_shape
from culmo.core.paint.entry import free_name
from culmo.desk.asking import accepted
from culmo.desk.box_prints import BoxPrints
from culmo.desk.paint_tests import PaintTests
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.dialogs import BoxDialog, SlipDialog, SwatchDialog
from culmo.desk.rooms.box.entry_dialog import EntryDialog
from culmo.desk.rooms.box.pages import BoxPageName
from culmo.desk.rooms.box.shop import shop_slip
from culmo.desk.unsaved import Typed
from culmo.study import acts, box_acts, records
from culmo.words import tr, trn

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


class BoxDesk(QObject):
    """The acts of the Box room that ask something first."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window, self.session = window, window.session
        self.prints, self.tests = BoxPrints(window), PaintTests(window)
        self._list = ""
        self.session.opened.connect(self._forget_list)

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
        if accepted(dialog):
            self.window.box.pages.turn_to(slip)
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
        if accepted(dialog):
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
        if accepted(dialog):
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
        if accepted(dialog):
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

    # ---- the shop

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
        accepted(dialog)
