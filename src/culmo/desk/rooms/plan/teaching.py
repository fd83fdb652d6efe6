"""Which cells of the sheet teach most, about what the painter wants to know: what is asked, and the answer in a line."""

from collections.abc import Collection, Generator, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, grains_by, known_textures
from culmo.core.paint.next_cells import (
    AS_PAINTED_OF_TEXTURE,
    Worth,
    choose_next,
    chosen_of,
    worth_by,
    worth_of,
)
from culmo.core.paint.questions import Question, about_colour, about_darks, about_paints
from culmo.core.paint.readings import PAPER
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, text_label
from culmo.desk.wrap_row import WrapRow
from culmo.errors import CulmoError
from culmo.words import tr

TEACHING_CELLS = 10


class TellAbout(IntEnum):
    """What the washes are to tell about."""

    SHEET = 0
    IN_HAND = 1
    DARKS = 2
    COLOUR = 3
    TEXTURE = 4


_JOB = "teach"


@dataclass(frozen=True)
class Telling:
    """The cells that teach most.

    Attributes
    ----------
    ids : tuple of str, those first that teach more
    worth : Worth of them together
    """

    ids: tuple[str, ...]
    worth: Worth


_NONE = Telling((), Worth(0, 0, 0.0, 0.0))


def most_telling(
    estimate: Estimate, cells: Sequence[Cell], seen: Collection[str], question: Question | None = None
) -> Telling:
    """The cells that would teach most; what teaches nothing is not asked for.

    Parameters
    ----------
    estimate : Estimate that knows the paints of the cells
    cells : sequence of Cell
    seen : collection of str, the ids of those that were read
    question : Question; the colours of all cells by default
    """
    read = [cell.id in seen or not cell.is_wash for cell in cells]
    recipes, grounds = [cell.recipe for cell in cells], [cell.ground for cell in cells]
    chosen = choose_next(estimate, recipes, TEACHING_CELLS, read, grounds, question)
    worth = worth_of(estimate, recipes, chosen, read, grounds, question)
    return Telling(tuple(cells[place].id for place in chosen), worth)


def most_telling_of_texture(
    estimate: Estimate, grains: Grains, cells: Sequence[Cell], pictured: Collection[str]
) -> Telling:
    """The cells whose patches would tell most of how all of them granulate and separate.

    Parameters
    ----------
    estimate, cells : as in `most_telling`
    grains : Grains of the same paints
    pictured : collection of str, the ids of those of which there is a patch
    """
    washes = [cell for cell in cells if cell.is_wash and cell.ground == PAPER and cell.recipe.layers]
    if not washes:
        return _NONE
    shown = [cell.id in pictured for cell in washes]
    known = known_textures(estimate, grains, [cell.recipe for cell in washes], shown)
    chosen = chosen_of(known, TEACHING_CELLS)
    worth = worth_by(known, chosen, AS_PAINTED_OF_TEXTURE)
    return Telling(tuple(washes[place].id for place in chosen), worth)


def worth_words(worth: Worth, of_texture: bool = False) -> str:
    """What a choice of cells is worth, in a sentence."""
    if not worth.chosen and of_texture:
        return tr("Nothing more on this sheet would tell of it: pictures showed all its cells")
    if not worth.chosen:
        return tr("Nothing more on this sheet would tell of it: all its cells are read")
    if worth.at_random <= worth.chosen:
        return tr("The numbered cells tell most; as many at random tell hardly less")
    return tr(
        "The {n} numbered cells tell about as much as {other} at random",
        n=worth.chosen,
        other=worth.at_random,
    )


@dataclass(frozen=True)
class _Asked:
    """What an answer rests on."""

    sheet: Sheet
    estimate: Estimate
    seen: frozenset[str]
    about: int
    names: tuple[str, ...]
    lab: tuple[float, ...]
    grains: Grains | None = None  # where it is of texture

    def same(self, other: "_Asked | None") -> bool:
        return (
            other is not None
            and self.sheet is other.sheet
            and self.estimate is other.estimate
            and self.grains is other.grains
            and (self.seen, self.about, self.names, self.lab)
            == (other.seen, other.about, other.names, other.lab)
        )

    def answer(self) -> Generator[float, None, Telling]:
        """The cells that teach most about it."""
        yield 0.0
        known = self.estimate.index
        cells = [c for c in self.sheet.cells if all(name.casefold() in known for name in c.recipe.names)]
        if self.grains is not None:
            return most_telling_of_texture(self.estimate, self.grains, cells, self.seen)
        return most_telling(self.estimate, cells, self.seen, self._question(cells))

    def _question(self, cells: Sequence[Cell]) -> Question | None:
        if self.about == TellAbout.IN_HAND:
            return about_paints(self.names)
        names = list(dict.fromkeys(name for cell in cells for name in cell.recipe.names))
        if not names or self.about == TellAbout.SHEET:
            return None
        if self.about == TellAbout.DARKS:
            return about_darks(self.estimate, names)
        return about_colour(self.estimate, np.array(self.lab), names)


class Teaching(QWidget):
    """Asks what the painter wants to know more of, and says what the numbered cells are worth for it."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._asked: _Asked | None = None
        self.answer, self._waited_for = _NONE, False
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        line = WrapRow(STEP)
        line.addWidget(text_label(tr("To know more of"), soft=True))
        self.about = QComboBox()
        self.about.addItems(
            [
                tr("the whole sheet"),
                tr("the paints in hand"),
                tr("the darks"),
                tr("one colour"),
                tr("grain and separation"),
            ]
        )
        self.about.setAccessibleName(tr("What you want to know more of"))
        self.about.currentIndexChanged.connect(self._ask)
        self.colour = Entry(tr("#5a6b4c, or L, a, b"), tr("The colour you want to know more of"))
        self.colour.setFixedWidth(px(150))
        self.colour.editingFinished.connect(self._ask)
        self.words = text_label("", soft=True)
        for widget in (self.about, self.colour):
            line.addWidget(widget)
        layout.addLayout(line)
        layout.addWidget(self.words)
        self.colour.hide()
        self.hide()
        session.selection.in_hand_changed.connect(self._hand_changed)

    def _ask(self) -> None:
        self.colour.setVisible(self.about.currentIndex() == TellAbout.COLOUR)
        self.changed.emit()

    def _hand_changed(self) -> None:
        if self.isVisible() and self.about.currentIndex() == TellAbout.IN_HAND:
            self.changed.emit()

    def marked(self, sheet: Sheet, seen: Collection[str], looks: Mapping[str, CellLook]) -> dict[str, int]:
        """The cells of a sheet that teach most, numbered from 1; none before they are found, when `changed` is emitted.

        Parameters
        ----------
        sheet : Sheet
        seen : collection of str, the ids of the cells that were read
        looks : mapping from a cell's id to CellLook, which has its patch
        """
        if self.about.currentIndex() == TellAbout.TEXTURE:
            seen = [cell_id for cell_id, look in looks.items() if look.patch is not None]
        try:
            asked = self._now(sheet, seen)
        except CulmoError as error:
            return self._no_answer(str(error))
        if asked is None:
            return self._no_answer("")
        if not asked.same(self._asked):
            self._asked, self.answer = asked, _NONE
            self.words.setText("")
            drawing = self.session.drawing
            drawing.start(_JOB, asked.answer, self._take, self.session.failed.emit)
            self._waited_for = True  # who asks is answered at once, and need not be told to ask again
            drawing.wait_a_moment(_JOB)
            self._waited_for = False
        return {cell_id: place + 1 for place, cell_id in enumerate(self.answer.ids)}

    def _no_answer(self, why: str) -> dict[str, int]:
        self.session.drawing.cancel(_JOB)
        self._asked, self.answer = None, _NONE
        self.words.setText(why)
        return {}

    def _now(self, sheet: Sheet, seen: Collection[str]) -> _Asked | None:
        """What is asked now; None where nothing can be said of any cell.

        Raises
        ------
        CulmoError
            saying what is to be done before it can be answered
        """
        estimate, about = self.session.learning.estimate, self.about.currentIndex()
        if estimate is None or not any(self.session.learning.knows(cell.recipe) for cell in sheet.cells):
            return None
        names: tuple[str, ...] = ()
        lab: Array = np.zeros(0)
        if about == TellAbout.IN_HAND:
            names = tuple(n for n in self.session.selection.in_hand if n.casefold() in estimate.index)
            if not names:
                raise CulmoError(tr("Take the paints in hand that you want to know: click them at the left"))
        if about == TellAbout.COLOUR:
            if not self.colour.text().strip():
                raise CulmoError(tr("Type the colour that you want to mix"))
            lab = lab_from_text(self.colour.text())
        grains = self._grains(estimate) if about == TellAbout.TEXTURE else None
        return _Asked(
            sheet, estimate, frozenset(seen), about, names, tuple(float(value) for value in lab), grains
        )

    def _grains(self, estimate: Estimate) -> Grains:
        """How the paints settle, the same object as long as nothing new is known of it."""
        learning = self.session.learning
        if learning.settled is not None:
            return learning.settled
        if self._asked is not None and self._asked.estimate is estimate and self._asked.grains is not None:
            return self._asked.grains
        return grains_by(estimate, None, learning.known_paints.said)

    def _take(self, answer: Telling) -> None:
        self.answer = answer
        self.words.setText(worth_words(answer.worth, self.about.currentIndex() == TellAbout.TEXTURE))
        if not self._waited_for:
            self.changed.emit()
