"""Read room: the dry sheet becomes colours, from a picture, typed, measured, or from a file."""

from collections.abc import Callable, Generator
from dataclasses import replace
from datetime import datetime
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
)

from culmo.core.capture.card import Card
from culmo.core.capture.judge import Expected, expected_colours
from culmo.core.capture.placement import Placement
from culmo.core.capture.sample import bare_paper
from culmo.core.capture.settle import KnownBefore
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.desk.button_keys import tell_key
from culmo.desk.drawing.cell_look import CellLook, cell_looks
from culmo.desk.drawing.png import png_bytes
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.guard import guarded
from culmo.desk.picture_view import PICTURES
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.plan.slip import parts_words
from culmo.desk.rooms.read import trial as trials
from culmo.desk.rooms.read.arrivals import Arrivals
from culmo.desk.rooms.read.by_hand import ByHand
from culmo.desk.rooms.read.model import ReadShows, shift_words, taken_readings
from culmo.desk.rooms.read.old_acts import OldCharts
from culmo.desk.rooms.read.picture import SheetPicture
from culmo.desk.rooms.read.slip import ReadSlip
from culmo.desk.rooms.read.trial import PracticeSource, PracticeTrial
from culmo.desk.rooms.read.typed import TypedColours
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_picker import SheetPicker, room_head
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Room, TabStrip, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import records
from culmo.study.formats import Holds, may_hold, open_filter
from culmo.study.photo_acts import PictureKept
from culmo.words import decimal, tr

READINGS = open_filter(tr("Readings"), Holds.READINGS)
JOB = "read"
LOOK_JOB = "look at a picture"
_LOST = tr("{problem}: drag the four squares in the picture to them, and it is read.")


@guarded
class ReadRoom(Room):
    """The dry sheet becomes colours.

    Pictures are read in the background, while the painter may be anywhere: what was read turns to itself only where this
    room is on view and nobody types; else it waits, and `waiting` says so.
    """

    waiting = Signal(bool)

    def __init__(self, session: Session, state: SheetState, settings: Settings | None = None) -> None:
        super().__init__()
        self.session, self.state, self.settings = session, state, settings
        self.trial: PracticeTrial | None = None
        self._waits = False  # what was read was not looked at yet
        self.typed = TypedColours(session, state)
        self._card: Card | None = None
        self.practice_seed = 1
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
        self.old = OldCharts(session, state, self, self._known, self._start)
        self._connect()
        self.arrivals = Arrivals(lambda: self.trial is None and self.session.study is not None, self)
        self.arrivals.arrived.connect(self.open_picture)
        self.arrivals.waits.connect(self._tell_arrival)
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
        self.picture.corners_moved.connect(self._by_corners)
        self.picture.nudged.connect(self.nudge)
        slip = self.slip
        slip.entry.returnPressed.connect(self.by_hand.keep)
        slip.entry.textChanged.connect(self._typed)
        slip.entry.textEdited.connect(self.by_hand.note_typed)
        slip.keep_button.clicked.connect(self.by_hand.keep)
        slip.measure_button.clicked.connect(self.by_hand.measure)
        slip.practice_button.clicked.connect(self.practise)
        slip.swatch_button.clicked.connect(self.by_hand.keep_swatch)
        slip.accept_button.clicked.connect(lambda: self.accept())
        slip.sound_button.clicked.connect(lambda: self.accept(sound_only=True))
        slip.old_button.clicked.connect(lambda: self.old.begin(self.trial))
        slip.right_button.clicked.connect(lambda: self.nudge(0.0, 0.0))
        slip.turn_button.clicked.connect(self.turn_round)
        slip.next_button.clicked.connect(self.next_doubtful)
        slip.out_button.clicked.connect(self.leave_out)
        slip.take_button.clicked.connect(self.take_all_the_same)
        slip.drying.activated.connect(lambda _: self.say_drying())
        slip.light.activated.connect(lambda _: self.say_light())
        slip.discard_button.clicked.connect(self.discard)
        self.state.updated.connect(self.refresh_when_seen)
        self.state.cell_selected.connect(self._show_cell)
        self.session.opened.connect(self.discard)
        self.session.selection.sheet_changed.connect(self.discard)

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
            self.discard()  # another layout: what was read of the cells before does not belong to it
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
                SheetStyle(show="both", looks=self._looks(), ground=self.session.ground_of(record.sheet)),
            )
        self._show_trial()
        self._show_cell(self.state.current)

    def _looks(self) -> dict[str, CellLook]:
        """The record, with what the picture shows in its place while it is looked at."""
        record, trial = self.state.record, self.trial
        if record is None or trial is None or trial.reading is None:
            return self.state.looks
        read = {**self.state.read, **{k: v for k, v in trial.lab().items() if k not in trial.left_out}}
        keepers = {entry.cell.id for entry in record.cells if entry.keeper}
        return cell_looks(record.sheet.cells, self.state.prediction, read, set(self.state.painted), keepers)

    def _show_trial(self) -> None:
        trial, record = self.trial, self.state.record
        self._note_trial()
        self.slip.show_trial(trial)
        if trial is None or record is None:
            return
        if trial.reading is None:
            width, height = self.picture.image.width(), self.picture.image.height()
            corners = self.picture.corners
            if corners is None:
                corners = np.array([[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]]) * [width, height]
            self.picture.lay_over({}, corners, set(), set())
            return
        place, scale = trial.reading.placement, trial.scale
        outlines = {
            cell.id: (place.to_pixels(np.array(cell.outline_mm)) + 0.5) * scale for cell in record.sheet.cells
        }
        x, y, w, h = record.sheet.frame_mm
        frame = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]])
        corners = (place.to_pixels(frame) + 0.5) * scale
        self.picture.lay_over(outlines, corners, set(trial.doubtful()), trial.left_out)

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
            self.open_picture(Path(name))

    def open_picture(self, path: Path) -> None:
        """Open a picture and read the sheet in it, in the background."""
        self._try(PracticeSource(path.name, path))

    def open_kept(self, name: str, data: bytes) -> None:
        """Open a picture that the study keeps, and read the sheet in it once more."""
        self._try(PracticeSource(name, None, data))

    def open_image(self, image: QImage, name: str = "pasted picture.png") -> None:
        """Read a picture that came from the clipboard."""
        self._try(PracticeSource(name, None, png_bytes(image)))

    def paste(self) -> None:
        """What the clipboard holds: a picture, or a picture's file."""
        held = QGuiApplication.clipboard().mimeData()
        urls = [Path(url.toLocalFile()) for url in held.urls()]
        if held.hasImage():
            self.open_image(QImage(held.imageData()))
        elif urls:
            self._dropped(urls)
        else:
            self.session.told.emit(tr("The clipboard holds no picture"))

    def practise(self) -> None:
        """A practice photo of this sheet, from the simulated camera; another one each time."""
        record, estimate = self.state.record, self.session.learning.estimate
        if record is None or estimate is None:
            return
        self.practice_seed += 1
        seed = 1000 * record.id + self.practice_seed
        taken, known = datetime.fromisoformat(self.session.file.clock()), self.session.learning.known_paints
        self.session.told.emit(tr("The simulated camera takes a picture"))
        take = partial(trials.practice, record, estimate, known.grains, taken, seed)
        self.session.runner.start(JOB, take, self._try, self.session.failed.emit)

    def _known(self) -> tuple[np.ndarray, dict[str, Expected], KnownBefore | None]:
        """The bare paper's colour, what the sheet's cells should look like, and all that was learned beside it."""
        record, prediction = self.state.record, self.state.prediction
        expected = expected_colours(record.sheet.cells, prediction) if record and prediction else {}
        bare = bare_paper(records.bare_readings(self.session.file))
        return bare, expected, trials.lit(self.session.learning.knowledge(), self.settings)

    def _try(self, source: PracticeSource) -> None:
        if self.session.study is None:
            self.session.failed.emit(tr("open a study first; a picture is read for one of its sheets"))
            return
        sheet = self.state.record.sheet if self.state.record is not None else None
        paper, expected, known = self._known()
        self.session.told.emit(tr("Reading {name}", name=source.name))
        self.session.runner.start(LOOK_JOB, lambda: trials.looking(source), self._looked, lambda _: None)
        card = trials.usual_card(sheet, self.settings)
        self._start(lambda: trials.trying(source, sheet, paper, expected, known, card))

    def _start(self, read: Callable[[], Generator[float, None, PracticeTrial]]) -> None:
        self.session.runner.start(JOB, read, self._tried, self.session.failed.emit)

    def _looked(self, faults: list[str]) -> None:
        """What is wrong with the picture is said at once, while the sheet in it is sought."""
        if faults and self.session.runner.busy(JOB):
            self.session.told.emit("; ".join(word[:1].upper() + word[1:] for word in faults))

    def _tried(self, trial: PracticeTrial) -> None:
        self.session.told.emit("")  # it is no longer being read
        record = self.state.record
        if trial.sheet != (record.sheet if record is not None else None):
            return  # the sheet was changed meanwhile
        self.trial, self._card = trial, None
        self.picture.show_pixels(trial.preview)
        self.by_hand.another_picture()
        if record is not None:
            trials.note_wet(trial, self.session.file, record.id)
        self._set_waiting(True)
        self._tell_problem(trial)
        self.refresh()
        if self._is_attended():
            self._turn_to_read()
        elif not trial.problem:
            self.session.told.emit(tr("{name} is read and waits in the Read room", name=trial.name))

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

    def _tell_problem(self, trial: PracticeTrial) -> None:
        if trial.problem:
            lost = trial.reading is None
            text = _LOST.format(problem=trial.problem.rstrip(".?")) if lost else trial.problem
            self.session.failed.emit(text)

    def _again(
        self, corners: Array | None = None, placed: Placement | None = None, card: Card | None = None
    ) -> None:
        trial = self.trial
        if trial is not None and trial.sheet is not None:
            paper, expected, known = self._known()
            self.session.runner.start(
                JOB,
                lambda: trials.read_again(trial, paper, expected, corners, placed, card, known),
                self._read_again,
                self.session.failed.emit,
            )

    def _read_again(self, trial: PracticeTrial) -> None:
        if self.trial is not None and trial.photo is self.trial.photo:
            self.trial, self._card = trial, None
            self._tell_problem(trial)
            self.refresh()

    def _by_corners(self, corners: object) -> None:
        if self.trial is None:
            return
        places = np.asarray(corners) / self.trial.scale - 0.5
        if self._card is None:
            self._again(corners=places)
            return
        with self.session.guarded():
            self._again(card=replace(self._card, corners=places))

    def use_card(self, path: Path, rows: int) -> None:
        """A reference card lies in the picture: on its place, or its corners are dragged next.

        Parameters
        ----------
        path : Path of its values, CGATS or CSV
        rows : int, rows of patches
        """
        with self.session.guarded():
            card = trials.card_of(path, rows, self.settings)  # says what is wrong now, not after the dragging
            if self.trial is not None and self.trial.has_card_place:
                self._again(card=card)  # it lies on its place
                return
            self._card = card
            self.shows.choose(ReadShows.PICTURE)
            self._show_page(ReadShows.PICTURE)
            self.picture.lay_card()
            self.session.told.emit(tr("Drag the four squares to the corners of the card's patches"))

    def nudge(self, x_mm: float, y_mm: float) -> None:
        """Move the cells over the picture a little, or say that they lie right, and read them there."""
        if self.trial is not None and self.trial.reading is not None:
            self._again(placed=self.trial.reading.placement.moved(x_mm, y_mm))

    def turn_round(self) -> None:
        """The sheet lies the other way round in the picture: read it so."""
        if self.picture.corners is not None:
            self._by_corners(np.roll(self.picture.corners, 2, axis=0))

    # ---- judging what was read

    def _note_trial(self) -> None:
        """Tell the session whether a picture is read and not taken into the record."""
        trial = self.trial if self.trial is not None and self.trial.reading is not None else None
        words = tr("the picture {name}", name=trial.name) if trial is not None else ""
        self.session.unsaved.note(
            "picture", Typed(words, self.accept, RoomName.READ) if trial is not None else None
        )

    def accept(self, sound_only: bool = False) -> bool:
        """Take the colours into the record, with the picture, and give whether they are."""
        trial, record = self.trial, self.state.record
        if trial is None or record is None:
            return False
        inside = self.settings is not None and self.settings.pictures_inside
        with self.session.guarded():
            command = trial.command(
                self.session.file, record.id, sound_only, PictureKept.INSIDE if inside else PictureKept.BESIDE
            )
            if self.session.do(command):
                self.discard()
                self.shows.choose(ReadShows.SHEET)
                self._show_page(ReadShows.SHEET)
                self.slip.outcome.setText(shift_words(self.session.file, record))
                self.session.told.emit(command.title)
                return True
        return False

    def discard(self) -> None:
        """Put the picture away; nothing of it is kept."""
        self.session.runner.cancel(
            JOB
        )  # also one that has nothing on the table yet: it is for the sheet of before
        if self.trial is not None:
            self.trial, self._card = None, None
            self._set_waiting(False)
            self.picture.clear()
            self.picture.lay_over({}, None, set(), set())
            self.refresh()
            self.arrivals.look_soon()

    def say_drying(self) -> None:
        """The painter says whether it was wet when the picture was taken."""
        if self.trial is not None:
            self.trial.drying = str(self.slip.drying.currentData())
            self.refresh()

    def say_light(self) -> None:
        """The painter says by which light the picture was taken: it is read so, and the next ones are."""
        if self.trial is not None and self.settings is not None:
            self.settings.light = str(self.slip.light.currentData() or "")
            self._again(placed=trials.given_place(self.trial))

    def next_doubtful(self) -> None:
        """The next cell that is to be looked at."""
        doubtful = self.trial.doubtful() if self.trial is not None else []
        if not doubtful:
            self.session.told.emit(tr("No cell is left to be looked at"))
            return
        here = doubtful.index(self.state.current) + 1 if self.state.current in doubtful else 0
        self.state.select(doubtful[here % len(doubtful)])

    def leave_out(self) -> None:
        """The selected cell does not go into the record."""
        self._decide(lambda trial, cell: trial.leave_out(cell))

    def take_all_the_same(self) -> None:
        """The selected cell is good in spite of the doubt."""
        self._decide(lambda trial, cell: trial.take(cell))

    def _decide(self, act: Callable[[PracticeTrial, str], None]) -> None:
        if self.trial is not None and self.trial.of(self.state.current) is not None:
            act(self.trial, self.state.current)
            self.refresh()
            if self.trial.doubtful():
                self.next_doubtful()

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
            self.open_image(QImage(event.mimeData().imageData()), tr("dropped picture.png"))
        else:
            self._dropped([Path(url.toLocalFile()) for url in event.mimeData().urls()])

    def _dropped(self, paths: list[Path]) -> None:
        for path in paths[:1]:
            if may_hold(path, Holds.READINGS):
                self.import_readings(path)
            else:
                self.open_picture(path)

    # ---- the watched folder

    def watch(self, folder: str) -> None:
        """Look for new pictures in a folder; an empty text ends it."""
        if self.settings is not None:
            self.settings.watched = folder
        self.arrivals.watch(folder)

    def _tell_arrival(self, name: str) -> None:
        if self.session.study is not None:
            self.session.told.emit(
                tr("{name} has arrived; it is opened when this picture is put away", name=name)
            )

    # ---- keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if QApplication.focusWidget() not in (self, self.view, self.picture):
            super().keyPressEvent(event)  # it was meant for a field or a button
            return
        acts_by_key = {
            Qt.Key.Key_N: self.next_doubtful,
            Qt.Key.Key_X: self.leave_out,
            Qt.Key.Key_T: self.take_all_the_same,
            Qt.Key.Key_Escape: self.discard,
        }
        act = acts_by_key.get(Qt.Key(event.key()))
        if self.trial is not None and act is not None:
            act()
        elif self.trial is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.accept()
        else:
            super().keyPressEvent(event)
