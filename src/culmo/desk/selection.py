"""What the painter has chosen in the window: the paints in hand, the box in use, the sheet on the table."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

if TYPE_CHECKING:
    from culmo.core.paint.recipe import Recipe
    from culmo.desk.session import Session
    from culmo.study.box_records import Box
    from culmo.study.records import Paint, SheetRecord

MOST_IN_HAND = 4


class Selection(QObject):
    """What is chosen.

    Attributes
    ----------
    in_hand : list of str, the paints in hand, the oldest first
    picking : function that takes a paint that is clicked, while a page picks; else None
    sheet_id, box_id : int or None
    preferred_box : str, the name of the box that was in use last
    """

    in_hand_changed = Signal()
    picking_changed = Signal()
    mix_taken = Signal(object)
    sheet_changed = Signal()
    box_changed = Signal()

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self.in_hand: list[str] = []
        self.picking: Callable[[str], None] | None = None
        self.sheet_id: int | None = None
        self.box_id: int | None = None
        self.preferred_box = ""

    def forget(self) -> None:
        """The study is let go of."""
        self.in_hand, self.sheet_id, self.box_id = [], None, None

    def begin(self) -> None:
        """A study was opened: its latest sheet, and the box that was in use."""
        self._first_sheet()
        boxes = self._session.boxes
        preferred = [box for box in boxes if box.name == self.preferred_box]
        self.box_id = next((box.id for box in [*preferred, *boxes]), None)

    def _first_sheet(self) -> None:
        from culmo.study import records

        sheets = records.sheet_titles(self._session.file)
        self.sheet_id = sheets[0][0] if sheets else None

    def keep_sheet(self) -> None:
        """After an act: another sheet where the one that was on the table is gone."""
        if self.sheet_id is not None and not self._session.file.rows("sheets", "id = ?", (self.sheet_id,)):
            self._first_sheet()

    def keep_box_and_hand(self, renamed: dict[str, str]) -> None:
        """After an act: the box in use and the paints in hand, as far as they are still there.

        Parameters
        ----------
        renamed : dict from the old name of a paint to the new one
        """
        if self.box_id is not None and self.box is None:
            self.box_id = self._session.boxes[0].id if self._session.boxes else None
        names = {paint.name for paint in self._session.paints}
        self.in_hand = [name for name in (renamed.get(name, name) for name in self.in_hand) if name in names]

    def pick_for(self, picking: Callable[[str], None] | None) -> None:
        """Let a page have the paints that are clicked, or take them in hand again."""
        if picking != self.picking:
            self.picking = picking
            self.picking_changed.emit()

    # ---- paints in hand

    def take(self, recipe: "Recipe") -> None:
        """Take a mix in hand: its paints instead of those that were there, with its parts and its water."""
        self.in_hand = list(recipe.names)[:MOST_IN_HAND]
        self.in_hand_changed.emit()
        self.mix_taken.emit(recipe)
        self._learn_of(self.in_hand)

    def toggle_in_hand(self, name: str) -> None:
        """Take a paint in hand or put it back; the oldest goes when there are too many. A page may pick instead."""
        if self.picking is not None:
            self.picking(name)
            return
        if name in self.in_hand:
            self.in_hand.remove(name)
        else:
            self.in_hand = [*self.in_hand, name][-MOST_IN_HAND:]
        self.in_hand_changed.emit()
        self._learn_of([name])

    def _learn_of(self, names: list[str]) -> None:
        """What is taken in hand waits no longer."""
        learning = self._session.learning
        if learning.waiting & {name.casefold() for name in names}:
            learning.learn()

    # ---- the box and the sheet

    @property
    def box(self) -> "Box | None":
        """The box in use; None while all paints are."""
        return next((box for box in self._session.boxes if box.id == self.box_id), None)

    def select_box(self, box_id: int | None) -> None:
        """Take another box in use, or all paints."""
        if box_id != self.box_id:
            self.box_id = box_id
            self.preferred_box = self.box.name if self.box is not None else ""
            self.box_changed.emit()

    def paints_in_use(self) -> "list[Paint]":
        """The paints of the box in use, in the order of its wells; all where no box is in use."""
        box, paints = self.box, self._session.paints
        if box is None:
            return list(paints)
        by_id = {paint.id: paint for paint in paints}
        return [by_id[box.paints[place]] for place in sorted(box.paints) if box.paints[place] in by_id]

    def select_sheet(self, sheet_id: int | None) -> None:
        """Work with another sheet."""
        if sheet_id != self.sheet_id:
            self.sheet_id = sheet_id
            self.sheet_changed.emit()

    def sheet(self) -> "SheetRecord | None":
        """The sheet on the table."""
        from culmo.study import records

        if self._session.study is None or self.sheet_id is None:
            return None
        return records.sheet_record(self._session.study, self.sheet_id)
