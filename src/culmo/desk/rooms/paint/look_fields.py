"""Fields for a colour that is noted by hand at the table: the wet look of a cell, a dry scrap of a puddle."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.session import Session
from culmo.desk.theme import px
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Entry, Swatch, text_label
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.file import Command, Row, Study
from culmo.study.scraps import read_scrap, scrap_read
from culmo.words import tr


@dataclass(frozen=True)
class Noted:
    """What is noted in such a field.

    Attributes
    ----------
    key : str, of its drafts
    label, called : str, beside the field, and to a screen reader
    draft : str, what it is called while it is not kept
    kept : str, what is said when it is
    earlier : function of (Study, row of the sheet, row of the cell): what was noted before, or None
    command : function of (Study, row of the sheet, row of the cell, colour): the act that writes it down
    """

    key: str
    label: str
    called: str
    draft: str
    kept: str
    earlier: Callable[[Study, int, int], Row | None]
    command: Callable[[Study, int, int, Array], Command]


# it stands beside the dry look and does not teach
WET_LOOK = Noted(
    "wet", tr("Wet look"), tr("Wet look of the cell painted last"), tr("the wet look of a cell"),
    tr("The wet look is noted; read the cell again when it is dry"),
    lambda study, sheet_id, cell_id: records.wet_cells_read(study, sheet_id).get(cell_id),
    lambda study, sheet_id, cell_id, lab: acts.read_cell(study, sheet_id, cell_id, lab, wet=True),
)  # fmt: skip
# of the puddle that the cell is painted from: it tells of its parts
DRY_SCRAP = Noted(
    "scrap", tr("Dry scrap"), tr("A dry scrap of the puddle"), tr("the scrap of a puddle"),
    tr("The scrap is noted; the cells that are painted from its puddle go with it"),
    lambda study, _, cell_id: scrap_read(study, cell_id),
    read_scrap,
)  # fmt: skip


@guarded
class LookField(QWidget):
    """A field for a colour that has to do with a cell; Enter keeps it, Esc leaves it.

    Parameters
    ----------
    session : Session
    noted : Noted
    done : function that takes the keys back
    """

    def __init__(self, session: Session, noted: Noted, done: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._noted, self._done = session, noted, done
        self._cell: tuple[int, int] | None = None  # the rows of the sheet and of the cell
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.entry = Entry(tr("L, a, b or #5a6b4c"), noted.called)
        self.chip = Swatch(34)
        self.chip.setFixedWidth(px(72))
        row.addWidget(text_label(noted.label, bold=True))
        row.addWidget(self.entry, 1)
        row.addWidget(self.chip)
        self.entry.returnPressed.connect(self.keep)
        self.entry.textEdited.connect(self._typed)
        self.hide()
        session.opened.connect(self._leave)

    def begin(self, sheet_id: int, cell_id: int) -> None:
        """Ask for the colour that belongs to a cell; what was noted of it stands there."""
        if self._cell not in (None, (sheet_id, cell_id)):
            self.keep()
        self._cell = sheet_id, cell_id
        earlier = self._noted.earlier(self.session.file, sheet_id, cell_id)
        text = f"{earlier['L']:.1f}, {earlier['a']:.1f}, {earlier['b']:.1f}" if earlier else ""
        self.entry.setText(text)
        self.entry.mark_wrong()
        self._show(text)
        self.show()
        self.entry.setFocus()
        self.entry.selectAll()

    def _show(self, text: str) -> None:
        try:
            self.chip.show_colour(qcolor(lab_from_text(text)))
        except CulmoError:
            self.chip.show_colour(None)

    def _typed(self, text: str) -> None:
        self.entry.mark_wrong()
        self._show(text)
        if self._cell is not None:
            entry = Typed(self._noted.draft, self.keep, RoomName.PAINT, lambda: text)
            self.session.unsaved.note(f"{self._noted.key} {self._cell[1]}", entry if text.strip() else None)

    def keep(self) -> bool:
        """Write the colour down; says whether it is, or there was none to write. What is no colour stays, and is told."""
        if self._cell is None or not self.entry.text().strip():
            self._leave()
            return True
        sheet_id, cell_id = self._cell
        if not self._write(sheet_id, cell_id, self.entry.text()):
            return False
        self.session.told.emit(self._noted.kept)
        self._leave()
        return True

    def _write(self, sheet_id: int, cell_id: int, text: str) -> bool:
        try:
            command = self._noted.command(self.session.file, sheet_id, cell_id, lab_from_text(text))
        except CulmoError as error:
            self.entry.mark_wrong(str(error))
            self.session.failed.emit(str(error))
            return False
        return self.session.do(command)

    def type_again(self, cell: str, text: str) -> bool:
        """A colour that was begun on another day is written down; says whether its cell is there and it is a colour."""
        rows = self.session.file.rows("cells", "id = ?", (int(cell),)) if cell.isdigit() else []
        return bool(rows) and self._write(rows[0]["sheet_id"], rows[0]["id"], text)

    def _leave(self) -> None:
        if self._cell is not None:
            self.session.unsaved.note(f"{self._noted.key} {self._cell[1]}", None)
        at_work, self._cell = self.entry.hasFocus(), None
        self.entry.clear()
        self.entry.mark_wrong()
        self.hide()
        if at_work:
            self._done()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._leave()
        else:
            super().keyPressEvent(event)
