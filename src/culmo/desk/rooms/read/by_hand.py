"""One colour at a time: picked in a picture, measured, or of a loose swatch."""

from collections.abc import Callable

import numpy as np

from culmo.core.capture.instrument import SimulatedColorimeter, painted_by_hand
from culmo.core.paint.recipe import parse_recipe, spoken_recipe
from culmo.desk.drawing.looks import qcolor
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.read.slip import ReadSlip
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.errors import CulmoError
from culmo.study.photo_acts import read_swatch
from culmo.words import tr


class ByHand:
    """What fills the field of the selected cell, and what is kept without a cell.

    Parameters
    ----------
    session : Session
    state : SheetState
    slip : ReadSlip, where the fields are
    typed : function that is told of a colour that stands in the field and is not saved
    """

    def __init__(
        self, session: Session, state: SheetState, slip: ReadSlip, typed: Callable[[str], None]
    ) -> None:
        self.session, self.state, self.slip, self._typed = session, state, slip, typed

    def take(self, lab: object) -> None:
        """A colour was picked in the picture: of the selected cell, or of a loose swatch."""
        L, a, b = (float(value) for value in np.asarray(lab))
        if self.state.entry(self.state.current) is None and not self.slip.swatch_box.isVisible():
            self.session.told.emit(tr("Click the cell on the Sheet page first; then pick its colour here"))
            return
        self.slip.picked = (min(L, 100.0), a, b)
        self.slip.entry.setText(lab_text(self.slip.picked))
        self._typed(self.slip.entry.text())
        self.slip.swatch_chip.show_colour(qcolor(np.array(self.slip.picked)))

    def measure(self) -> None:
        """The simulated colorimeter stands on the selected cell."""
        record, entry, estimate = (
            self.state.record,
            self.state.entry(self.state.current),
            self.session.estimate,
        )
        if record is None or entry is None or estimate is None:
            return
        with self.session.guarded():
            painted = painted_by_hand(estimate, record.sheet, np.random.default_rng(record.id))
            L, a, b = (float(v) for v in SimulatedColorimeter(painted).measure(entry.cell))
            self.slip.entry.setText(lab_text((L, a, b)))
            self._typed(self.slip.entry.text())
            self.slip.measured = True
            self.slip.entry.setFocus()

    def keep_swatch(self) -> None:
        """The colour picked is that of a loose swatch that belongs to no sheet."""
        with self.session.guarded():
            if self.slip.picked is None:
                raise CulmoError(tr("click the swatch in the picture first"))
            recipe = parse_recipe(self.slip.swatch_recipe.text())
            lab = np.array(self.slip.picked)
            command = read_swatch(self.session.file, recipe, lab, "paper", "photo")
            if self.session.do(command):
                self.session.told.emit(
                    tr("Kept: a loose swatch of {spoken_recipe}", spoken_recipe=spoken_recipe(recipe))
                )
                self.slip.swatch_recipe.clear()
