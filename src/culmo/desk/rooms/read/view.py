"""Read room: the dry sheet becomes colours, typed, picked from a picture, or from a file."""

from pathlib import Path

import numpy as np
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QFileDialog, QPushButton, QStackedWidget, QVBoxLayout

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import lab_from_text
from culmo.desk.drawing.looks import qcolor
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.picture_view import PICTURES, PictureView
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.plan.slip import parts_words
from culmo.desk.rooms.plan.view import SheetPicker, room_head
from culmo.desk.rooms.read.model import Import, load_readings
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.widgets import Entry, FactRow, Room, Slip, Swatch, TabStrip, rule, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import acts

SHEET, PICTURE = 0, 1


class ReadRoom(Room):
    """The dry sheet becomes colours."""

    def __init__(self, session: Session, state: SheetState) -> None:
        super().__init__()
        self.session, self.state = session, state
        self.setAcceptDrops(True)
        main = self.lay_ground()
        main.addLayout(self._head())
        self.view = SheetView("Plan and paint a sheet first; its cells are read here.")
        self.picture = PictureView()
        self.stack = QStackedWidget()
        self.stack.addWidget(self.view)
        self.stack.addWidget(self.picture)
        main.addWidget(self.stack, 1)
        self.slip = self._make_slip()
        self.lay_slip(self.slip)
        self.shows.chosen.connect(self.stack.setCurrentIndex)
        self.view.selected.connect(state.select)
        self.view.activated.connect(lambda _: self.entry.setFocus())
        self.picture.picked.connect(self._take)
        state.updated.connect(self.refresh_when_seen)
        state.cell_selected.connect(self._show_cell)
        self.refresh()

    def _head(self) -> QVBoxLayout:
        self.title = title_label("", 18)
        self.subtitle = text_label("", soft=True)
        self.picker = SheetPicker(self.session)
        self.open_button = QPushButton("Open a picture")
        self.open_button.clicked.connect(self.choose_picture)
        self.import_button = QPushButton("Import readings")
        self.import_button.clicked.connect(self.choose_readings)
        self.shows = TabStrip(["Sheet", "Picture"], name="What the room shows")
        return room_head(
            self.title, self.picker, [self.open_button, self.import_button], self.subtitle, self.shows
        )

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.cell_title = title_label("", 17)
        self.cell_words = text_label("", soft=True)
        slip.lines.addWidget(self.cell_title)
        slip.lines.addWidget(self.cell_words)
        self.entry_title = text_label("What the dry cell shows", bold=True)
        slip.lines.addWidget(self.entry_title)
        self.entry = Entry("L, a, b or #5a6b4c", "Colour of the cell")
        self.entry.returnPressed.connect(self.keep)
        self.entry.textChanged.connect(self._typed)
        slip.lines.addWidget(self.entry)
        self.message = text_label("", bold=True)
        slip.lines.addWidget(self.message)
        self.read_words = text_label("Read", soft=True, points=10)
        slip.lines.addWidget(self.read_words)
        self.read_chip = Swatch(54)
        slip.lines.addWidget(self.read_chip)
        self.predicted_words = text_label("Predicted", soft=True, points=10)
        slip.lines.addWidget(self.predicted_words)
        self.predicted_chip = Swatch(54)
        slip.lines.addWidget(self.predicted_chip)
        self.away = FactRow("Difference")
        self.within = FactRow("Nine in ten cells")
        slip.lines.addWidget(self.away)
        slip.lines.addWidget(self.within)
        self.keep_button = QPushButton("Keep and go on")
        self.keep_button.setObjectName("strong")
        self.keep_button.clicked.connect(self.keep)
        slip.lines.addWidget(self.keep_button)
        slip.lines.addWidget(rule())
        self.outcome = text_label("", soft=True)
        slip.lines.addWidget(self.outcome)
        slip.lines.addStretch(1)
        return slip

    # ---- showing

    def refresh(self) -> None:
        """Show the sheet's readings."""
        record = self.state.record
        self.title.setVisible(record is None)
        self.import_button.setEnabled(self.session.study is not None)
        if record is None:
            self.title.setText("Nothing to read yet")
            self.subtitle.setText("")
            self.view.show_sheet(None, None, SheetStyle())
        else:
            self.subtitle.setText(
                f"{len(self.state.read)} of {sum(e.cell.fade_mm is None for e in record.cells)} cells read; "
                "judge dry paint only"
            )
            style = SheetStyle(show="both", looks=self.state.looks)
            self.view.show_sheet(record.sheet, self.session.looks, style)
        self._show_cell(self.state.current)

    def _show_cell(self, cell_id: str) -> None:
        self.view.select(cell_id)
        entry = self.state.entry(cell_id)
        known = entry is not None
        for widget in (
            self.entry, self.entry_title, self.read_chip, self.read_words, self.predicted_chip, self.predicted_words,
            self.away, self.within, self.keep_button,
        ):  # fmt: skip
            widget.setVisible(known)
        self.message.setVisible(False)
        if entry is None:
            self.cell_title.setText("Cell")
            self.cell_words.setText("Click a painted cell, then type its colour or pick it from a picture.")
            return
        self.cell_title.setText(" + ".join(entry.cell.recipe.names))
        painted = "" if cell_id in self.state.painted or cell_id in self.state.read else "; not painted yet"
        self.cell_words.setText(parts_words(entry.cell.recipe) + painted)
        read = self.state.read.get(cell_id)
        self.entry.mark_wrong()
        self.entry.setText(lab_text(read) if read else "")
        prediction = self.state.prediction
        if prediction is None:
            self.predicted_chip.show_colour(None, hint="not known yet")
            self.within.set("")
        else:
            place = self.state.place(cell_id)
            self.predicted_chip.show_colour(qcolor(prediction.lab[place]), recorded=False)
            self.within.set(f"within {prediction.dE90[place]:.1f}")
        self._typed(self.entry.text())

    def _typed(self, text: str) -> None:
        self.away.set("")
        try:
            lab = lab_from_text(text)
        except CulmoError:
            self.read_chip.show_colour(None, hint="" if text else "type or pick a colour")
            return
        self.read_chip.show_colour(qcolor(lab))
        if self.state.prediction is not None and self.state.entry(self.state.current) is not None:
            place = self.state.place(self.state.current)
            self.away.set(f"{float(delta_e_00(lab, self.state.prediction.lab[place])):.1f}")

    # ---- taking in

    def _take(self, lab: object) -> None:
        if self.state.entry(self.state.current) is None:
            self.session.told.emit("Click the cell on the Sheet page first; then pick its colour here")
            return
        L, a, b = (float(value) for value in np.asarray(lab))
        self.entry.setText(lab_text((min(L, 100.0), a, b)))

    def keep(self) -> None:
        """Save the reading and go on to the next unread cell in the order of work."""
        record, entry = self.state.record, self.state.entry(self.state.current)
        if record is None or entry is None:
            return
        try:
            lab = lab_from_text(self.entry.text())
            command = acts.read_cell(self.session.file, record.id, entry.id, lab)
        except CulmoError as error:
            self.entry.mark_wrong(str(error))
            self.message.setText(str(error))
            self.message.setVisible(True)
            return
        if self.session.do(command):
            # a band that fades has no one colour: it would stop the way for ever
            readable = [cell for cell in record.sheet.in_order() if cell.fade_mm is None]
            unread = [cell for cell in readable if cell.id not in self.state.read]
            if unread:
                self.state.select(unread[0].id)
                self.entry.setFocus()

    def choose_picture(self) -> None:
        """Ask for a picture."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a picture of the sheet", "", PICTURES)
        if name:
            self.open_picture(Path(name))

    def open_picture(self, path: Path) -> None:
        """Show a picture for the eyedropper."""
        with self.session.guarded():
            self.picture.load(path)
            self.shows.choose(PICTURE)

    def choose_readings(self) -> None:
        """Ask for a readings file."""
        name, _ = QFileDialog.getOpenFileName(self, "Import readings", "", "Readings (*.csv)")
        if name:
            self.import_readings(Path(name))

    def import_readings(self, path: Path) -> None:
        """Take in a CSV file of readings; bad rows are named, the good ones are kept."""
        with self.session.guarded():
            study = self.session.file
            record = self.state.record
            found = load_readings(path, record, [paint.name for paint in self.session.paints])
            if found.rows:
                sheet_id = record.id if record is not None else None
                self.session.do(acts.add_readings(study, found.rows, path.name, sheet_id))
            self.outcome.setText(_outcome(path, found))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasImage():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            path = Path(url.toLocalFile())
            if path.suffix.casefold() == ".csv":
                self.import_readings(path)
            else:
                self.open_picture(path)


def _outcome(path: Path, found: Import) -> str:
    lines = [f"{path.name}: {len(found.rows)} readings taken in"]
    if found.bad:
        lines.append(f"{len(found.bad)} rows left out:")
        lines += found.bad[:8]
        if len(found.bad) > 8:
            lines.append(f"and {len(found.bad) - 8} more")
    return "\n".join(lines)
