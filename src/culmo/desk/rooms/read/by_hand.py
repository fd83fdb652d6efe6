"""One colour at a time: picked in a picture, measured, or of a loose swatch."""

import numpy as np

from culmo.core.capture.instrument import SimulatedColorimeter, painted_by_hand
from culmo.core.capture.sample import bare_paper, relative_to_paper
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.recipe import parse_recipe, spoken_recipe
from culmo.desk.drawing.looks import qcolor
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.read.slip import ReadSlip
from culmo.desk.rooms.read.typed import TypedColours
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.study.photo_acts import read_swatch
from culmo.words import tr

_DARK_FOR_PAPER = 35.0  # in L, as a picture shows it: a grey paper in a poor light is lighter


class ByHand:
    """What fills the field of the selected cell, and what is kept without a cell.

    Parameters
    ----------
    session : Session
    state : SheetState
    slip : ReadSlip, where the fields are
    typed : TypedColours, which knows of colours that stand in the field and are not saved
    """

    def __init__(self, session: Session, state: SheetState, slip: ReadSlip, typed: TypedColours) -> None:
        self.session, self.state, self.slip, self.typed = session, state, slip, typed
        self._paper: Array | None = None  # as the picture on view shows it
        session.opened.connect(self.another_picture)

    def note_typed(self, text: str) -> None:
        """A colour is typed for the selected cell: it stays with the cell till it is saved or wiped out."""
        entry, record = self.state.entry(self.state.current), self.state.record
        if entry is not None and record is not None:
            self.typed.note(entry.id, record.id, spoken_recipe(entry.cell.recipe), text)

    def keep(self) -> None:
        """Save the typed or picked reading and go on to the next unread cell in the order of work."""
        record, entry = self.state.record, self.state.entry(self.state.current)
        if record is None or entry is None:
            return
        wet = self.slip.wet.isChecked()
        try:
            lab = lab_from_text(self.slip.entry.text())
            picked = self.slip.picked is not None and self.slip.entry.text() == lab_text(self.slip.picked)
            source = "colorimeter" if self.slip.measured else "photo" if picked else "typed"
            command = acts.read_cell(self.session.file, record.id, entry.id, lab, source, wet)
        except CulmoError as error:
            self.slip.entry.mark_wrong(str(error))
            self.slip.message.setText(str(error))
            self.slip.message.setVisible(True)
            return
        self.slip.measured = False
        typed = self.typed.take(entry.id)
        saved = self.session.do(command)
        self.typed.settle(entry.id, typed, saved)
        if saved:
            self._go_on(wet)

    def _go_on(self, wet: bool) -> None:
        """The next cell that has no such look yet."""
        record = self.state.record
        if record is None:
            return
        there = self.state.wet if wet else self.state.read
        # a band that fades has no one colour: it would stop the way for ever
        readable = [cell for cell in record.sheet.in_order() if cell.fade_mm is None]
        left = [cell for cell in readable if cell.id not in there]
        if left:
            self.state.select(left[0].id)
            self.slip.wet.setChecked(wet)
            self.slip.entry.setFocus()

    def take(self, lab: object) -> None:
        """A place was clicked in the picture: bare paper first, then the selected cell, or a loose swatch.

        Beside the bare paper a colour is seen as in even white light; without it a blue under a lamp would be a grey.
        """
        seen = np.asarray(lab, dtype=float)
        if self.state.entry(self.state.current) is None and not self.slip.swatch_box.isVisible():
            self.session.told.emit(tr("Click the cell on the Sheet page first; then pick its colour here"))
            return
        if self._paper is None or self.slip.paper_button.isChecked():
            self._take_paper(seen)
            return
        bare = bare_paper(records.bare_readings(self.session.file))
        L, a, b = (float(value) for value in relative_to_paper(seen, self._paper, bare))
        self.slip.picked = (min(max(L, 0.0), 100.0), min(max(a, -128.0), 128.0), min(max(b, -128.0), 128.0))
        self.slip.entry.setText(lab_text(self.slip.picked))
        self.note_typed(self.slip.entry.text())
        self.slip.swatch_chip.show_colour(qcolor(np.array(self.slip.picked)))

    def _take_paper(self, seen: Array) -> None:
        if seen[0] < _DARK_FOR_PAPER:
            self.session.told.emit(
                tr("That is too dark for bare paper; click a place where nothing is painted")
            )
            return
        self._paper = seen
        self.slip.paper_button.setChecked(False)
        self.slip.show_paper(qcolor(seen))
        self.session.told.emit(tr("The bare paper is taken; now click the colour"))

    def another_picture(self) -> None:
        """Another picture, or none, is on view: its light is not known."""
        self._paper, self.slip.picked = None, None
        self.slip.show_paper(None)
        self.slip.swatch_chip.show_colour(None)

    def measure(self) -> None:
        """The simulated colorimeter stands on the selected cell."""
        record, entry, estimate = (
            self.state.record,
            self.state.entry(self.state.current),
            self.session.learning.estimate,
        )
        if record is None or entry is None or estimate is None:
            return
        with self.session.guarded():
            painted = painted_by_hand(estimate, record.sheet, np.random.default_rng(record.id))
            L, a, b = (float(v) for v in SimulatedColorimeter(painted).measure(entry.cell))
            self.slip.entry.setText(lab_text((L, a, b)))
            self.note_typed(self.slip.entry.text())
            self.slip.measured = True
            self.slip.entry.setFocus()

    def keep_swatch(self) -> None:
        """The colour picked is that of a loose swatch that belongs to no sheet."""
        with self.session.guarded():
            if self.slip.picked is None:
                raise CulmoError(
                    tr("click the bare paper in the picture first, then the swatch")
                    if self._paper is None
                    else tr("click the swatch in the picture first")
                )
            recipe = parse_recipe(self.slip.swatch_recipe.text())
            lab = np.array(self.slip.picked)
            command = read_swatch(self.session.file, recipe, lab, "paper", "photo")
            if self.session.do(command):
                self.session.told.emit(
                    tr("Kept: a loose swatch of {spoken_recipe}", spoken_recipe=spoken_recipe(recipe))
                )
                self.slip.swatch_recipe.clear()
