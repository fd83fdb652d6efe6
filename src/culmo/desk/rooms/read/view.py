"""Read room: the dry sheet becomes colours, from a picture, typed, measured, or from a file."""

from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QImage, QKeyEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culmo.core.chart.sheet import Sheet
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import lab_from_text
from culmo.desk.button_keys import tell_key
from culmo.desk.drawing.cell_look import CellLook, cell_looks
from culmo.desk.drawing.png import png_bytes
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.guard import guarded
from culmo.desk.picture_view import PICTURES
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.plan.slip import parts_words
from culmo.desk.rooms.read.arrivals import Arrivals
from culmo.desk.rooms.read.by_hand import ByHand
from culmo.desk.rooms.read.model import ReadShows, shift_words, taken_readings
from culmo.desk.rooms.read.old_acts import OldCharts
from culmo.desk.rooms.read.picture import SheetPicture
from culmo.desk.rooms.read.picture_desk import PictureDesk, tell_arrival
from culmo.desk.rooms.read.slip import ReadSlip
from culmo.desk.rooms.read.trial import PracticeTrial
from culmo.desk.rooms.read.typed import TypedColours
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_picker import SheetPicker, room_head
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.widgets import Room, TabStrip, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import records
from culmo.study.formats import Holds, may_hold, open_filter
from culmo.words import decimal, tr

READINGS = open_filter(tr("Readings"), Holds.READINGS)


def looks_on_view(state: SheetState, trial: PracticeTrial | None) -> dict[str, CellLook]:
    """The record, with what the picture shows in its place while it is looked at."""
    record = state.record
    if record is None or trial is None or trial.reading is None:
        return state.looks
    read = {**state.read, **{k: v for k, v in trial.lab().items() if k not in trial.left_out}}
    keepers = {entry.cell.id for entry in record.cells if entry.keeper}
    return cell_looks(record.sheet.cells, state.prediction, read, set(state.painted), keepers)


def lay_over(picture: SheetPicture, sheet: Sheet, trial: PracticeTrial) -> None:
    """The cells over a picture where they were found; four squares to be dragged where they were not."""
    if trial.reading is None:
        width, height = picture.image.width(), picture.image.height()
        corners = picture.corners
        if corners is None:
            corners = np.array([[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]]) * [width, height]
        picture.lay_over({}, corners, set(), set())
        return
    place, scale = trial.reading.placement, trial.scale
    outlines = {cell.id: (place.to_pixels(np.array(cell.outline_mm)) + 0.5) * scale for cell in sheet.cells}
    x, y, w, h = sheet.frame_mm
    frame = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])
    corners = (place.to_pixels(frame) + 0.5) * scale
    picture.lay_over(outlines, corners, set(trial.doubtful()), trial.left_out)


@guarded
class ReadRoom(Room):
    """The dry sheet becomes colours.

    Pictures are read in the background, while the painter may be anywhere: what was read turns to itself only where this
    room is on view and nobody types; else it waits, and `waiting` says so.
    """

    waiting = Signal(bool)

    def __init__(
        self,
        session: Session,
        state: SheetState,
        settings: Settings | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.session, self.state, self.settings = session, state, settings
        self.desk = PictureDesk(session, state, settings, self)
        self._waits = False  # what was read was not looked at yet
        self.typed = TypedColours(session, state)
        self.setAcceptDrops(True)
        main = self.lay_ground()
        main.addLayout(self._head())
        self.view = SheetView(session.drawing, tr("Plan and paint a sheet first; its cells are read here."))
        self.picture = SheetPicture()
        self.stack = QStackedWidget()
        self.stack.addWidget(self.view)
        self.stack.addWidget(self.picture)
        main.addWidget(self.stack, 1)
        self.slip = ReadSlip()
        self.lay_slip(self.slip)
        self.by_hand = ByHand(session, state, self.slip, self.typed)
        self.old = OldCharts(session, state, self, self.desk.known, self.desk.start)
        self._connect()
        self.arrivals = Arrivals(lambda: self.trial is None and self.session.study is not None, self)
        self.arrivals.arrived.connect(self.desk.open_picture)
        self.arrivals.waits.connect(partial(tell_arrival, session))
        if settings is not None and settings.watched:
            self.watch(settings.watched)
        self.refresh()

    def _head(self) -> QVBoxLayout:
        self.title = title_label("", 18)
        self.subtitle = text_label("", soft=True)
        self.picker = SheetPicker(self.session)
        self.open_button = QPushButton(tr("Open a picture"))
        self.open_button.clicked.connect(self.choose_picture)
        self.import_button = QPushButton(tr("Import readings"))
        self.import_button.clicked.connect(self.choose_readings)
        tell_key(self.open_button, "picture")
        tell_key(self.import_button, "readings")
        self.shows = TabStrip([tr("Sheet"), tr("Picture")], name=tr("What the room shows"))
        tools = [self.open_button, self.import_button]
        return room_head(self.title, self.picker, tools, self.subtitle, self.shows)

    def _connect(self) -> None:
        self.shows.chosen.connect(self._show_page)
        self.view.selected.connect(self.state.select)
        self.view.activated.connect(lambda _: self.slip.entry.setFocus())
        self.picture.picked.connect(self.by_hand.take)
        self.picture.cell_chosen.connect(self.state.select)
        self.picture.corners_moved.connect(self.desk.by_corners)
        self.picture.nudged.connect(self.desk.nudge)
        slip = self.slip
        slip.entry.returnPressed.connect(self.by_hand.keep)
        slip.entry.textChanged.connect(self._typed)
        slip.entry.textEdited.connect(self.by_hand.note_typed)
        slip.keep_button.clicked.connect(self.by_hand.keep)
        slip.measure_button.clicked.connect(self.by_hand.measure)
        slip.practice_button.clicked.connect(self.desk.practise)
        slip.swatch_button.clicked.connect(self.by_hand.keep_swatch)
        slip.accept_button.clicked.connect(lambda: self.desk.accept())
        slip.sound_button.clicked.connect(lambda: self.desk.accept(sound_only=True))
        slip.old_button.clicked.connect(lambda: self.old.begin(self.trial))
        slip.right_button.clicked.connect(lambda: self.desk.nudge(0.0, 0.0))
        slip.turn_button.clicked.connect(lambda: self.desk.turn_round(self.picture.corners))
        slip.next_button.clicked.connect(self.desk.next_doubtful)
        slip.out_button.clicked.connect(self.desk.leave_out)
        slip.take_button.clicked.connect(self.desk.take_all_the_same)
        slip.drying.activated.connect(lambda _: self.desk.say_drying(str(slip.drying.currentData())))
        slip.light.activated.connect(lambda _: self.desk.say_light(str(slip.light.currentData() or "")))
        slip.discard_button.clicked.connect(self.desk.discard)
        self.state.updated.connect(self.refresh_when_seen)
        self.state.cell_selected.connect(self._show_cell)
        self.desk.came.connect(self._came)
        self.desk.changed.connect(self.refresh)
        self.desk.gone.connect(self._put_away)
        self.desk.taken.connect(self._taken)
        self.desk.page_wanted.connect(self.shows.choose)
        self.desk.page_wanted.connect(self._show_page)
        self.desk.card_wanted.connect(self.picture.lay_card)

    @property
    def trial(self) -> PracticeTrial | None:
        """The picture on the table, as it was read."""
        return self.desk.trial

    # ---- showing

    def _show_page(self, page: int) -> None:
        self.stack.setCurrentIndex(page)
        focus = QApplication.focusWidget()
        if self._is_attended() and (focus is None or self.isAncestorOf(focus)):
            (self.picture if page == ReadShows.PICTURE else self.view).setFocus()
        self._show_cell(self.state.current)

    def take_keys(self) -> None:
        """The keys go to the page on view; what was read meanwhile is looked at."""
        if self._waits:
            self._turn_to_read()
        (self.picture if self.stack.currentIndex() == ReadShows.PICTURE else self.view).setFocus()

    def _is_attended(self) -> bool:
        """Whether the painter is here, and not typing."""
        focus = QApplication.focusWidget()
        return self.isVisible() and not isinstance(focus, QLineEdit | QPlainTextEdit | QAbstractSpinBox)

    def refresh(self) -> None:
        """Show the sheet's readings, and those of the picture on the table beside them."""
        record = self.state.record
        if self.trial is not None and self.trial.sheet != (record.sheet if record is not None else None):
            self.desk.discard()  # another layout: what was read of the cells before does not belong to it
            return
        self.title.setVisible(record is None)
        self.import_button.setEnabled(self.session.study is not None)
        self.slip.practice_button.setEnabled(record is not None and self.state.prediction is not None)
        if record is None:
            self.title.setText(tr("Nothing to read yet"))
            self.subtitle.setText("")
            self.view.show_sheet(None, None, SheetStyle())
        else:
            # a band that fades has no one colour to type; from a picture both its ends are read
            wanted = sum(e.cell.fade_mm is None or e.cell.id in self.state.read for e in record.cells)
            self.subtitle.setText(
                tr("{n} of {wanted} cells read; judge dry paint only", n=len(self.state.read), wanted=wanted)
            )
            self.view.show_sheet(
                record.sheet,
                self.session.learning.looks,
                SheetStyle(
                    show="both",
                    looks=looks_on_view(self.state, self.trial),
                    ground=self.session.ground_of(record.sheet),
                ),
            )
        self.desk.note()
        self.slip.show_trial(self.trial)
        if self.trial is not None and record is not None:
            lay_over(self.picture, record.sheet, self.trial)
        self._show_cell(self.state.current)

    def _show_cell(self, cell_id: str) -> None:
        self.view.select(cell_id)
        self.picture.select(cell_id)
        self.picture.pick_colour = self.trial is None and self.stack.currentIndex() == ReadShows.PICTURE
        entry = self.state.entry(cell_id)
        trial = self.trial
        self.slip.show_cell(entry is not None, trial is not None and trial.reading is not None)
        loose = (trial is not None and trial.reading is None) or (
            self.stack.currentIndex() == ReadShows.PICTURE and trial is None
        )
        self.slip.swatch_box.setVisible(loose and self.session.study is not None)
        if entry is None:
            self.slip.cell_title.setText(tr("Cell"))
            self.slip.cell_words.setText(
                tr(
                    "Open a picture of the dry sheet, drop or paste one; or click a painted cell and type "
                    "its colour."
                )
            )
            return
        painted = (
            ""
            if cell_id in self.state.painted or cell_id in self.state.read
            else "; " + tr("not painted yet")
        )
        self.slip.cell_title.setText(" + ".join(entry.cell.recipe.names) or tr("Bare"))
        self.slip.cell_words.setText(parts_words(entry.cell.recipe) + painted)
        read = self.state.read.get(cell_id)
        seen = trial.lab().get(cell_id) if trial is not None else None
        self.slip.show_wet(self.state.wet.get(cell_id), read)
        self.slip.entry.mark_wrong()
        saved = lab_text(shown) if (shown := seen or read) else ""
        self.slip.entry.setText(self.typed.of(entry.id, saved))
        self.slip.doubt.setText(trial.doubts(cell_id) if trial is not None else "")
        self.slip.show_foretold(entry.cell, self.state.foretold(cell_id), self.session.learning.looks)
        self._typed(self.slip.entry.text())

    def type_again(self, cell: str, text: str) -> bool:
        """A colour that was typed on another day and not saved; says whether its cell is still there."""
        there = self.typed.type_again(cell, text)
        self._show_cell(self.state.current)
        return there

    def _typed(self, text: str) -> None:
        self.slip.away.set("")
        try:
            lab = lab_from_text(text)
        except CulmoError:
            self.slip.read_chip.show_colour(None, hint="" if text else tr("type or pick a colour"))
            return
        cell_id = self.state.current
        look = self.state.looks.get(cell_id) if self.trial is None else self.trial.look(cell_id)
        self.slip.show_read(lab, look, self.session.learning.looks)
        foretold = self.state.foretold(self.state.current)
        if foretold is not None:
            self.slip.away.set(decimal(f"{float(delta_e_00(lab, foretold[0])):.1f}"))

    # ---- pictures

    def choose_picture(self) -> None:
        """Ask for a picture."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Open a picture of the sheet"), "", PICTURES)
        if name:
            self.desk.open_picture(Path(name))

    def paste(self) -> None:
        """What the clipboard holds: a picture, or a picture's file."""
        held = QGuiApplication.clipboard().mimeData()
        urls = [Path(url.toLocalFile()) for url in held.urls()]
        if held.hasImage():
            self.desk.open_data("pasted picture.png", png_bytes(QImage(held.imageData())))
        elif urls:
            self._dropped(urls)
        else:
            self.session.told.emit(tr("The clipboard holds no picture"))

    def _came(self, trial: PracticeTrial) -> None:
        """A picture is read: it turns to itself where the painter is here and does not type; else it waits."""
        self.picture.show_pixels(trial.preview)
        self.by_hand.another_picture()
        self._set_waiting(True)
        self.desk.tell_problem(trial)
        self.refresh()
        if self._is_attended():
            self._turn_to_read()
        elif not trial.problem:
            self.session.told.emit(tr("{name} is read and waits in the Read room", name=trial.name))

    def _put_away(self) -> None:
        self._set_waiting(False)
        self.picture.clear()
        self.picture.lay_over({}, None, set(), set())
        self.refresh()
        self.arrivals.look_soon()

    def _taken(self, record: records.SheetRecord) -> None:
        self.slip.outcome.setText(shift_words(self.session.file, record))

    def _turn_to_read(self) -> None:
        """Look at what was read: its picture, and the first cell that is in doubt."""
        self._set_waiting(False)
        self.shows.choose(ReadShows.PICTURE)
        doubtful = self.trial.doubtful() if self.trial is not None else []
        if self.trial is not None and doubtful and not self.trial.problem:
            self.state.select(doubtful[0])

    def _set_waiting(self, waits: bool) -> None:
        if waits != self._waits:
            self._waits = waits
            self.waiting.emit(waits)

    # ---- readings from files

    def choose_readings(self) -> None:
        """Ask for a readings file."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Import readings"), "", READINGS)
        if name:
            self.import_readings(Path(name))

    def import_readings(self, path: Path) -> None:
        """Take in readings from a CSV or CGATS file; bad rows are named, the good ones are kept."""
        self.slip.outcome.setText("")  # of the file before
        with self.session.guarded():
            command, words = taken_readings(self.session.file, path, self.state.record)
            self.session.do(command)
            dried = shift_words(self.session.file, self.state.record)
            self.slip.outcome.setText(f"{words}\n{dried}" if dried else words)
            self.session.mended.emit()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasImage():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if event.mimeData().hasImage() and not event.mimeData().hasUrls():
            self.desk.open_data(tr("dropped picture.png"), png_bytes(QImage(event.mimeData().imageData())))
        else:
            self._dropped([Path(url.toLocalFile()) for url in event.mimeData().urls()])

    def _dropped(self, paths: list[Path]) -> None:
        for path in paths[:1]:
            if may_hold(path, Holds.READINGS):
                self.import_readings(path)
            else:
                self.desk.open_picture(path)

    # ---- the watched folder

    def watch(self, folder: str) -> None:
        """Look for new pictures in a folder; an empty text ends it."""
        if self.settings is not None:
            self.settings.watched = folder
        self.arrivals.watch(folder)

    # ---- keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if QApplication.focusWidget() not in (self, self.view, self.picture):
            super().keyPressEvent(event)  # it was meant for a field or a button
            return
        acts_by_key = {
            Qt.Key.Key_N: self.desk.next_doubtful,
            Qt.Key.Key_X: self.desk.leave_out,
            Qt.Key.Key_T: self.desk.take_all_the_same,
            Qt.Key.Key_Escape: self.desk.discard,
        }
        act = acts_by_key.get(Qt.Key(event.key()))
        if self.trial is not None and act is not None:
            act()
        elif self.trial is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.desk.accept()
        else:
            super().keyPressEvent(event)
