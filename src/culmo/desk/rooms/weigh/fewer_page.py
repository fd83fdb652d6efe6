"""The page of fewer paints: the best of each size, where more stop paying, and a palette of one's own to try."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from culmo.core.palette.subjects import BY_KEY
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.conditions_view import SUBJECT, ConditionsSlip
from culmo.desk.rooms.weigh.fewer_model import (
    PaletteRow,
    changes_of,
    nature_words,
    number_word,
    own_row,
    paying_words,
    practice_sheet,
    proven_words,
    reached,
    row_of,
    tie_words,
    worst_words,
)
from culmo.desk.rooms.weigh.kept_acts import KeptActs
from culmo.desk.rooms.weigh.own_palette import OwnPalette
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.palette_rows import Curve, PaletteButton
from culmo.desk.rooms.weigh.palette_slip import KeptSlip, PaletteSlip
from culmo.desk.rooms.weigh.wanted_acts import WantedActs
from culmo.desk.rooms.weigh.weighing import STOPPED, Weighing, considered_names, doubt_words
from culmo.desk.session import Session
from culmo.desk.swap_dialog import SwapDialog
from culmo.desk.swapping import PaletteSwap
from culmo.desk.theme import STEP
from culmo.desk.widgets import TabbedSlip, clear_layout, text_label
from culmo.study import acts, palette_acts
from culmo.study.palette_acts import Wanted, kept_palettes, wanted_lists
from culmo.words import tr, trn

_USUAL_SIZE = 6


def considered_words(session: Session, names: Sequence[str]) -> str:
    """How many of some paints are only considered; empty where none is."""
    considered = considered_names(session)
    count = sum(name.casefold() in considered for name in names)
    return "; " + trn("{n} of them only considered", "{n} of them only considered", count) if count else ""


def size_row(weighing: Weighing, size: int, tie: int) -> PaletteRow:
    """The row of a size, as far as its best are known; a tie is one of those that are as good."""
    choice = weighing.choices.get(size)
    if size in weighing.problems:
        return PaletteRow(size, problem=weighing.problems[size])
    if choice is None or weighing.mixes is None or weighing.reach is None:
        return PaletteRow(size)
    place = min(tie, len(choice.palettes) - 1)
    return row_of(size, choice, place, weighing.mixes, weighing.reach, weighing.wanted())


@guarded
class FewerPage(WeighPage):
    """Limited palettes."""

    box_wanted = Signal(object)

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        self.count, self.tie = _USUAL_SIZE, 0
        self.own = OwnPalette(session, weighing)
        self.own.changed.connect(self._choose_own)
        self.own_chosen = False
        self.considering = False
        self.buttons: dict[int, PaletteButton] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        area = QScrollArea()
        area.setWidgetResizable(True)
        inner = QWidget()
        inner.setObjectName("ground")
        self.rows = QVBoxLayout(inner)
        self.rows.setContentsMargins(0, 0, 4, 0)
        self.rows.setSpacing(2)
        self.lines = QVBoxLayout()
        self.lines.setSpacing(2)
        self.rows.addLayout(self.lines)
        self.mine = PaletteButton(session, takes_paints=True)
        self.mine.clicked.connect(self._choose_own)
        self.mine.paint_added.connect(self.own.add)
        self.mine.paint_removed.connect(self.own.remove)
        self.rows.addStretch(1)
        area.setWidget(inner)
        layout.addWidget(area, 1)
        layout.addWidget(self.mine)
        foot = QHBoxLayout()
        words = QVBoxLayout()
        words.addWidget(text_label(tr("Where more paints stop paying"), bold=True))
        self.paying = text_label("")
        words.addWidget(self.paying)
        words.addStretch(1)
        foot.addLayout(words, 2)
        self.curve = Curve()
        foot.addWidget(self.curve, 3)
        layout.addLayout(foot)
        self._make_slip()
        self.first = self.mine
        session.opened.connect(self._another)
        weighing.mixes_ready.connect(self._ready)
        weighing.reach_ready.connect(self._ready)
        weighing.choice_ready.connect(lambda _: self._ready())

    def _another(self) -> None:
        self.considering = False

    def _make_slip(self) -> None:
        self.palette_slip = PaletteSlip(self.session)
        self.asks = ConditionsSlip()
        self.kept_slip = KeptSlip(self.session)
        self.kept = KeptActs(self.session, self.weighing, self.kept_slip, self)
        self.lists = WantedActs(self.session, self.weighing, self)
        slip = TabbedSlip([tr("Palette"), tr("Conditions"), tr("Kept")])
        slip.hold(self.palette_slip, self.asks, self.kept_slip)
        slip.setContentsMargins(0, STEP, 0, 0)
        self.slip = self.tabs = slip
        one = self.palette_slip
        one.tie_wanted.connect(self._step_tie)
        one.change_wanted.connect(self._try_change)
        one.swap_wanted.connect(self.swap)
        one.typed.returnPressed.connect(lambda: self.own.add_typed(one.typed))
        one.wells.toggled.connect(self._pick_wells)
        one.try_wanted.connect(lambda: self.own.take(self.shown_paints()))
        one.keep_wanted.connect(self.keep)
        one.fill_wanted.connect(lambda: self.box_wanted.emit(self.shown_paints()))
        one.practise_wanted.connect(self.practise)
        self.asks.conditions_changed.connect(self._conditions)
        self.asks.considered_changed.connect(self._consider)
        self.asks.measure_changed.connect(self.weighing.set_measure)
        self.asks.list_changed.connect(self._list)
        self.asks.picture_wanted.connect(self.lists.choose_picture)
        self.asks.file_wanted.connect(self.lists.choose_file)
        self.asks.edit_wanted.connect(self.lists.edit_list)
        self.kept_slip.chosen.connect(self.look_at)

    # ---- asking

    def _conditions(self, conditions: object) -> None:
        self.tie = 0
        self.weighing.set_conditions(conditions)  # type: ignore[arg-type]  # a signal carries any object

    def _list(self, name: str) -> None:
        if name.startswith(SUBJECT):
            self.take_subject(name.removeprefix(SUBJECT))
            return
        self.tie = 0
        self.weighing.set_list(name)

    def take_subject(self, key: str) -> None:
        """The colours of a subject as what is to be reached: a list of the study's own, which may be changed."""
        subject = BY_KEY[key]
        title = tr(subject.title)
        with self.session.guarded():
            if title not in wanted_lists(self.session.file):
                colours = [Wanted(tr(name), lab) for name, lab in subject.colours]
                if not self.session.do(palette_acts.add_wanted(self.session.file, title, colours)):
                    return
            self._list(title)

    def _ready(self) -> None:
        if self.isVisible():
            self.refresh()

    # ---- showing

    def refresh(self) -> None:
        """Ask for what is not known yet, and show what is."""
        weighing = self.weighing
        lists = list(wanted_lists(self.session.study)) if self.session.study is not None else []
        if weighing.list and weighing.list not in lists:
            weighing.list = ""
            weighing.reach = None
        wanted_now = [colour.lab for colour in weighing.wanted()]
        if weighing.reach is not None and weighing.reach.wanted is not None:
            kept = weighing.reach.wanted.table.lab
            if len(kept) != len(wanted_now) or not np.allclose(kept, np.array(wanted_now)):
                weighing.set_list(weighing.list)  # the list was edited
                return
        weighing.want_choices()
        self.asks.fill(weighing.names, lists, weighing.list, weighing.conditions, weighing.measure)
        self.asks.show_considered(weighing.considered, bool(considered_names(self.session)))
        self.own.keep_known()
        self._show_rows()
        self.kept.show()
        self._show_slip()
        self._say_all()

    def _say_all(self) -> None:
        names = self.weighing.names
        count, doubt = len(names), considered_words(self.session, names) + doubt_words(self.session, names)
        if self.weighing.list:
            self.say(
                tr("Fewer paints"),
                tr(
                    "The fewest of {number_word} that reach the colours of {list}{doubt}",
                    number_word=number_word(count),
                    list=self.weighing.list,
                    doubt=doubt,
                ),
            )
        else:
            self.say(
                tr("Fewer paints"),
                tr(
                    "What the best few of {number_word} still reach; colours told apart at a difference of "
                    "{tolerance:g}{doubt}",
                    number_word=number_word(count),
                    tolerance=self.weighing.measure.tolerance,
                    doubt=doubt,
                ),
            )

    def _show_rows(self) -> None:
        weighing = self.weighing
        if list(self.buttons) != weighing.sizes:
            clear_layout(self.lines)
            self.buttons = {}
            for size in weighing.sizes:
                button = PaletteButton(self.session)
                button.clicked.connect(lambda _=False, size=size: self.choose_size(size))
                self.buttons[size] = button
                self.lines.addWidget(button)
        if self.count not in self.buttons and self.buttons:
            self.count = max(size for size in self.buttons if size <= max(self.count, min(self.buttons)))
        for size, button in self.buttons.items():
            button.show_row(size_row(weighing, size, self.tie if size == self.count else 0), busy=True)
            button.setChecked(size == self.count and not self.own_chosen)
        self.mine.setVisible(bool(self.buttons))
        if weighing.reach is not None and weighing.mixes is not None:
            self.mine.show_row(
                own_row(weighing.places(self.own.names), weighing.mixes, weighing.reach, weighing.wanted())
            )
        else:
            self.mine.show_row(PaletteRow(0))
        self.mine.setChecked(self.own_chosen)
        self.paying.setText(paying_words(weighing.choices))
        points = [(size, choice.worth[0]) for size, choice in sorted(weighing.choices.items())]
        self.curve.show_points(points, self.count)

    def shown_paints(self) -> list[str]:
        """The palette that the slip is about."""
        if self.own_chosen:
            return list(self.own.names)
        return list(size_row(self.weighing, self.count, self.tie).paints)

    def _show_slip(self) -> None:
        weighing, slip = self.weighing, self.palette_slip
        paints = self.shown_paints()
        choice = weighing.choices.get(self.count)
        for button in (slip.keep, slip.copy, slip.fill, slip.practise, slip.swap):
            button.setEnabled(bool(paints))
        slip.show_ties(0, 0, "")
        if not paints or weighing.reach is None or weighing.mixes is None:
            problem = "" if self.own_chosen else weighing.problems.get(self.count, "")
            words = problem or (tr("No paint in it yet.") if self.own_chosen else tr("Looking for the best."))
            if not weighing.names:
                words = tr("There are no paints in the box in use yet.")
            slip.show_palette(tr("A palette"), words, np.empty((0, 3)), np.empty(0, dtype=bool), "")
            slip.show_changes({})
            slip.show_wanted("", [], [])
            return
        places, reach = weighing.places(paints), weighing.reach
        labels = [weighing.mixes.kinds.labels[i] for i in places]
        title = tr(
            "{what} of {number_word}",
            what=number_word(len(paints)).capitalize(),
            number_word=number_word(len(weighing.names)),
        )
        if self.own_chosen:
            title = tr("Yours, {number_word} paints", number_word=number_word(len(paints)))
        worst = "" if reach.wanted is not None else worst_words(reach, places)
        proven = "" if self.own_chosen or choice is None else proven_words(choice)
        slip.show_palette(
            title, nature_words(labels) + proven, reach.table.lab, reached(reach, places), worst
        )
        if choice is not None and not self.own_chosen:
            slip.show_ties(
                min(self.tie, len(choice.palettes) - 1), len(choice.palettes), tie_words(choice, self.tie)
            )
        slip.show_changes(changes_of(places, weighing.mixes, reach, weighing.conditions))
        wanted = weighing.wanted()
        slip.show_wanted(
            weighing.list, wanted, list(reach.wanted.hit(places)) if reach.wanted is not None else []
        )

    # ---- choosing

    def choose_size(self, size: int) -> None:
        """Look at the best of a size."""
        if size != self.count or self.own_chosen:
            self.count, self.tie, self.own_chosen = size, 0, False
        if self.weighing.problems.get(size) == STOPPED:
            self.weighing.look_again()
        self.tabs.turn_to(self.palette_slip)
        self.refresh()

    def _choose_own(self) -> None:
        self.own_chosen = True
        self.tabs.turn_to(self.palette_slip)
        self.refresh()

    def _step_tie(self, step: int) -> None:
        choice = self.weighing.choices.get(self.count)
        if choice is not None:
            self.tie = min(max(self.tie + step, 0), len(choice.palettes) - 1)
            self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        self.palette_slip.wells.setChecked(False)  # out of sight nothing is built
        super().hideEvent(event)

    def _pick_wells(self, picking: bool) -> None:
        self.session.selection.pick_for(self.own.toggle if picking else None)
        if picking:
            self._choose_own()

    def swap(self) -> None:
        """One paint of the palette on view for another, before and after."""
        weighing, paints = self.weighing, self.shown_paints()
        if not paints or weighing.mixes is None or weighing.reach is None:
            return
        swapping = PaletteSwap(
            paints, weighing.mixes, weighing.reach, weighing.wanted(), weighing.conditions,
            considered_names(self.session), self._try_change,
        )  # fmt: skip
        dialog = SwapDialog(self, swapping)
        dialog.exec()
        dialog.deleteLater()

    def _consider(self, considered: bool) -> None:
        self.tie, self.considering = 0, considered
        self.weighing.set_considered(considered)

    def entered(self) -> None:
        self.weighing.set_considered(self.considering)
        super().entered()

    def left(self) -> None:
        super().left()
        self.weighing.set_considered(False)  # what may be mixed elsewhere is what is owned

    def _try_change(self, out: str, into: str) -> None:
        paints = [name for name in self.shown_paints() if name != out]
        self.own.take([*paints, into] if into else paints)

    # ---- the verdict

    def keep(self) -> None:
        """Keep the palette on view, with a reason."""
        if self.kept.keep(self.shown_paints()):
            self.tabs.turn_to(self.kept_slip)

    def look_at(self, palette_id: int) -> None:
        """A kept palette as one's own."""
        for palette in kept_palettes(self.session.file):
            if palette.id == palette_id:
                self.own.take(name for name in palette.paints if name in self.weighing.names)

    def practise(self) -> None:
        """A sheet of the mixes that the wanted colours ask for."""
        wanted, mixes = self.weighing.wanted(), self.weighing.mixes
        if not wanted or mixes is None:
            return
        with self.session.guarded():
            title = tr("{list}, to practise", list=self.weighing.list)
            sheet = practice_sheet(mixes.lattice, self.shown_paints(), wanted, title)
            command = acts.add_sheet(self.session.file, sheet)
            if self.session.do(command):
                new = next(c.id for c in command.changes if c.table == "sheets" and c.before is None)
                self.session.selection.select_sheet(new)
                self.session.told.emit(tr("{title} is planned; it lies in the Plan room", title=title))
