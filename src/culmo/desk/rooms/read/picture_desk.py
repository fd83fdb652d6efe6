"""The picture on the table of the Read room: opened, read in the background, judged, taken into the record or put away."""

from collections.abc import Callable, Generator
from dataclasses import replace
from datetime import datetime
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal

from culmo.core.capture.card import Card
from culmo.core.capture.judge import Expected, expected_colours
from culmo.core.capture.placement import Placement
from culmo.core.capture.sample import bare_paper
from culmo.core.capture.settle import KnownBefore
from culmo.core.colour.spectral import Array
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.read import trial as trials
from culmo.desk.rooms.read.model import ReadShows
from culmo.desk.rooms.read.trial import PracticeSource, PracticeTrial
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_state import SheetState
from culmo.desk.unsaved import Typed
from culmo.study import records
from culmo.study.photo_acts import PictureKept
from culmo.words import tr

JOB = "read"
LOOK_JOB = "look at a picture"
_LOST = tr("{problem}: drag the four squares in the picture to them, and it is read.")


class PictureDesk(QObject):
    """A picture at a time.

    Attributes
    ----------
    trial : PracticeTrial, or None while no picture lies on the table
    card : Card, the reference card whose corners are dragged next, or None
    """

    came = Signal(object)  # a picture was read: its trial
    changed = Signal()  # it is read, or judged, otherwise
    gone = Signal()
    page_wanted = Signal(int)  # of the room
    taken = Signal(object)  # into the record of a sheet
    card_wanted = Signal()  # the corners of a card are to be dragged

    def __init__(
        self, session: Session, state: SheetState, settings: Settings | None, parent: QObject
    ) -> None:
        super().__init__(parent)
        self.session, self.state, self.settings = session, state, settings
        self.trial: PracticeTrial | None = None
        self.card: Card | None = None
        self.practice_seed = 1
        session.opened.connect(self.discard)
        session.selection.sheet_changed.connect(self.discard)

    def open_picture(self, path: Path) -> None:
        """Open a picture and read the sheet in it, in the background."""
        self._try(PracticeSource(path.name, path))

    def open_data(self, name: str, data: bytes) -> None:
        """Open a picture that the study keeps, or that came from the clipboard, and read the sheet in it."""
        self._try(PracticeSource(name, None, data))

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

    def known(self) -> tuple[np.ndarray, dict[str, Expected], KnownBefore | None]:
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
        paper, expected, known = self.known()
        self.session.told.emit(tr("Reading {name}", name=source.name))
        self.session.runner.start(LOOK_JOB, lambda: trials.looking(source), self._looked, lambda _: None)
        card = trials.usual_card(sheet, self.settings)
        self.start(lambda: trials.trying(source, sheet, paper, expected, known, card))

    def start(self, read: Callable[[], Generator[float, None, PracticeTrial]]) -> None:
        """Read in the background."""
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
        self.trial, self.card = trial, None
        if record is not None:
            trials.note_wet(trial, self.session.file, record.id)
        self.came.emit(trial)

    def tell_problem(self, trial: PracticeTrial) -> None:
        """Say what hinders the reading of a picture."""
        if trial.problem:
            lost = trial.reading is None
            text = _LOST.format(problem=trial.problem.rstrip(".?")) if lost else trial.problem
            self.session.failed.emit(text)

    def _again(
        self, corners: Array | None = None, placed: Placement | None = None, card: Card | None = None
    ) -> None:
        trial = self.trial
        if trial is not None and trial.sheet is not None:
            paper, expected, known = self.known()
            self.session.runner.start(
                JOB,
                lambda: trials.read_again(trial, paper, expected, corners, placed, card, known),
                self._read_again,
                self.session.failed.emit,
            )

    def _read_again(self, trial: PracticeTrial) -> None:
        if self.trial is not None and trial.photo is self.trial.photo:
            self.trial, self.card = trial, None
            self.tell_problem(trial)
            self.changed.emit()

    def by_corners(self, corners: object) -> None:
        """The painter put the corners of the sheet, or of the card, where they are."""
        if self.trial is None:
            return
        places = np.asarray(corners) / self.trial.scale - 0.5
        if self.card is None:
            self._again(corners=places)
            return
        with self.session.guarded():
            self._again(card=replace(self.card, corners=places))

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
            self.card = card
            self.page_wanted.emit(ReadShows.PICTURE)
            self.card_wanted.emit()
            self.session.told.emit(tr("Drag the four squares to the corners of the card's patches"))

    def nudge(self, x_mm: float, y_mm: float) -> None:
        """Move the cells over the picture a little, or say that they lie right, and read them there."""
        if self.trial is not None and self.trial.reading is not None:
            self._again(placed=self.trial.reading.placement.moved(x_mm, y_mm))

    def note(self) -> None:
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
                self.page_wanted.emit(ReadShows.SHEET)
                self.taken.emit(record)
                self.session.told.emit(command.title)
                return True
        return False

    def discard(self) -> None:
        """Put the picture away; nothing of it is kept."""
        self.session.runner.cancel(
            JOB
        )  # also one that has nothing on the table yet: it is for the sheet of before
        if self.trial is not None:
            self.trial, self.card = None, None
            self.gone.emit()

    def say_drying(self, drying: str) -> None:
        """The painter says whether it was wet when the picture was taken."""
        if self.trial is not None:
            self.trial.drying = drying
            self.changed.emit()

    def say_light(self, light: str) -> None:
        """The painter says by which light the picture was taken: it is read so, and the next ones are."""
        if self.trial is not None and self.settings is not None:
            self.settings.light = light
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
            self.changed.emit()
            if self.trial.doubtful():
                self.next_doubtful()

    def turn_round(self, corners: Array | None) -> None:
        """The sheet lies the other way round in the picture: read it so."""
        if corners is not None:
            self.by_corners(np.roll(corners, 2, axis=0))


def tell_arrival(session: Session, name: str) -> None:
    """A picture has come into the watched folder while another lies on the table."""
    if session.study is not None:
        session.told.emit(tr("{name} has arrived; it is opened when this picture is put away", name=name))
