"""The page of fewer paints: the best of each size, where more stop paying, and a palette of one's own to try."""

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from culmo.core.chart.options import split_names
from culmo.core.paint.recipe import renaming
from culmo.core.palette.choose import Choice
from culmo.core.palette.reach import CLASSES
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
    reached,
    row_of,
)
from culmo.desk.rooms.weigh.kept_acts import KeptActs
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
from culmo.words import listed, tr, trn

_USUAL_SIZE = 6


@guarded
class FewerPage(WeighPage):
    """Limited palettes."""

    box_wanted = Signal(object)

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        self.count, self.tie = _USUAL_SIZE, 0
        self.own: list[str] = []
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
        self.mine.paint_added.connect(self.add_paint)
        self.mine.paint_removed.connect(self.remove_paint)
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
        session.renamed.connect(self._rename)
        session.opened.connect(self._another)
        weighing.mixes_ready.connect(self._ready)
        weighing.reach_ready.connect(self._ready)
        weighing.choice_ready.connect(lambda _: self._ready())

    def _another(self) -> None:
        self.considering = False

    def _rename(self, pairs: list[tuple[str, str]]) -> None:
        for old, new in pairs:
            self.own = list(map(renaming(old, new), self.own))

    def _make_slip(self) -> None:
        self.palette_slip = PaletteSlip(self.session)
        self.asks = ConditionsSlip()
        self.kept_slip = KeptSlip(self.session)
        self.kept = KeptActs(self.session, self.weighing, self.kept_slip, self)
        self.lists = WantedActs(self.session, self.weighing, self)
        slip = TabbedSlip(
            [tr("Palette"), tr("Conditions"), tr("Kept")], [self.palette_slip, self.asks, self.kept_slip]
        )
        slip.setContentsMargins(0, STEP, 0, 0)
        self.slip = self.tabs = slip
        one = self.palette_slip
        one.tie_wanted.connect(self._step_tie)
        one.change_wanted.connect(self._try_change)
        one.swap_wanted.connect(self.swap)
        one.typed.returnPressed.connect(self.add_typed)
        one.wells.toggled.connect(self._pick_wells)
        one.try_wanted.connect(self.copy_to_own)
        one.keep_wanted.connect(self.keep)
        one.fill_wanted.connect(self.fill_box)
        one.practise_wanted.connect(self.practise)
        self.asks.conditions_changed.connect(self._conditions)
        self.asks.considered_changed.connect(self._consider)
        self.asks.measure_changed.connect(self._measure)
        self.asks.list_changed.connect(self._list)
        self.asks.picture_wanted.connect(self.lists.choose_picture)
        self.asks.file_wanted.connect(self.lists.choose_file)
        self.asks.edit_wanted.connect(self.lists.edit_list)
        self.kept_slip.chosen.connect(self.look_at)

    # ---- asking

    def _conditions(self, conditions: object) -> None:
        self.tie = 0
        self.weighing.set_conditions(conditions)  # type: ignore[arg-type]  # a signal carries any object

    def _measure(self, measure: object) -> None:
        self.weighing.set_measure(measure)  # type: ignore[arg-type]  # a signal carries any object

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
        self.own = [name for name in self.own if name in weighing.names]
        self._show_rows()
        self.kept.show()
        self._show_slip()
        self._say_all()

    def _say_all(self) -> None:
        count = len(self.weighing.names)
        if self.weighing.list:
            self.say(
                tr("Fewer paints"),
                tr(
                    "The fewest of {number_word} that reach the colours of {list}{doubt}",
                    number_word=number_word(count),
                    list=self.weighing.list,
                    doubt=self._considered_words() + doubt_words(self.session, self.weighing.names),
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
                    doubt=self._considered_words() + doubt_words(self.session, self.weighing.names),
                ),
            )

    def _considered_words(self) -> str:
        considered = considered_names(self.session)
        count = sum(name.casefold() in considered for name in self.weighing.names)
        return (
            "; " + trn("{n} of them only considered", "{n} of them only considered", count) if count else ""
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
            button.show_row(self._row(size), busy=True)
            button.setChecked(size == self.count and not self.own_chosen)
        self.mine.setVisible(bool(self.buttons))
        if weighing.reach is not None and weighing.mixes is not None:
            self.mine.show_row(
                own_row(weighing.places(self.own), weighing.mixes, weighing.reach, weighing.wanted())
            )
        else:
            self.mine.show_row(PaletteRow(0))
        self.mine.setChecked(self.own_chosen)
        self.paying.setText(paying_words(weighing.choices))
        points = [(size, choice.worth[0]) for size, choice in sorted(weighing.choices.items())]
        self.curve.show_points(points, self.count)

    def _row(self, size: int) -> PaletteRow:
        weighing = self.weighing
        choice = weighing.choices.get(size)
        if size in weighing.problems:
            return PaletteRow(size, problem=weighing.problems[size])
        if choice is None or weighing.mixes is None or weighing.reach is None:
            return PaletteRow(size)
        place = self.tie if size == self.count else 0
        place = min(place, len(choice.palettes) - 1)
        return row_of(size, choice, place, weighing.mixes, weighing.reach, weighing.wanted())

    def shown_paints(self) -> list[str]:
        """The palette that the slip is about."""
        if self.own_chosen:
            return list(self.own)
        return list(self._row(self.count).paints)

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
        worst = "" if reach.wanted is not None else self._worst(places)
        proven = "" if self.own_chosen or choice is None else self._proven(choice)
        slip.show_palette(
            title, nature_words(labels) + proven, reach.table.lab, reached(reach, places), worst
        )
        if choice is not None and not self.own_chosen:
            slip.show_ties(
                min(self.tie, len(choice.palettes) - 1), len(choice.palettes), self._tie_words(choice)
            )
        slip.show_changes(changes_of(places, weighing.mixes, reach, weighing.conditions))
        wanted = weighing.wanted()
        slip.show_wanted(
            weighing.list, wanted, list(reach.wanted.hit(places)) if reach.wanted is not None else []
        )

    def _tie_words(self, choice: Choice) -> str:
        place = min(self.tie, len(choice.palettes) - 1)
        behind = 100.0 * (choice.worth[0] - choice.worth[place])
        return tr("the best") if behind < 0.005 else tr("{behind:.2f} behind", behind=behind)

    def _proven(self, choice: Choice) -> str:
        if not choice.proven:
            return tr("\nTime ran out: {sure_words}.", sure_words=choice.sure_words)
        whole = "" if choice.whole else "; " + tr("there are more near ties than are listed")
        return tr(
            "\nProven: no {number_word} reach more{whole}.", number_word=number_word(choice.size), whole=whole
        )

    def _worst(self, places: list[int]) -> str:
        """The hues of which least is reached."""
        assert self.weighing.reach is not None
        table = self.weighing.reach.table
        shares = [(float(s), CLASSES[i]) for i, s in enumerate(table.shares(places)) if table.counts[i] >= 8]
        shares.sort()
        listed = ", ".join(f"{word} {100 * share:.0f}\u00a0%" for share, word in shares[:3])
        return tr("Least of {hues}", hues=listed)

    # ---- choosing

    def choose_size(self, size: int) -> None:
        """Look at the best of a size."""
        if size != self.count or self.own_chosen:
            self.count, self.tie, self.own_chosen = size, 0, False
        if self.weighing.problems.get(size) == STOPPED:
            self.weighing.look_again()
        self.tabs.tabs.choose(0)
        self.refresh()

    def _choose_own(self) -> None:
        self.own_chosen = True
        self.tabs.tabs.choose(0)
        self.refresh()

    def _step_tie(self, step: int) -> None:
        choice = self.weighing.choices.get(self.count)
        if choice is not None:
            self.tie = min(max(self.tie + step, 0), len(choice.palettes) - 1)
            self.refresh()

    # ---- one's own

    def copy_to_own(self) -> None:
        """Take the palette on view over as one's own, to be changed."""
        self.own = self.shown_paints()
        self._choose_own()

    def add_paint(self, name: str) -> None:
        """A paint into one's own palette."""
        if name in self.weighing.names and name not in self.own:
            self.own.append(name)
        elif name not in self.weighing.names:
            self.session.told.emit(tr("{name} is not in the box in use, or is only considered", name=name))
        self._choose_own()

    def add_typed(self) -> None:
        """The paints that are typed, into one's own palette; what can not be stays in the field."""
        field, left = self.palette_slip.typed, []
        for typed in split_names(field.text()):
            begins = [name for name in self.weighing.names if name.casefold().startswith(typed.casefold())]
            whole = [name for name in begins if name.casefold() == typed.casefold()]
            found = whole or begins
            if len(found) != 1:
                left.append(typed)
            elif found[0] not in self.own:
                self.own.append(found[0])
        field.setText(", ".join(left))
        why = tr("{what}: none of the box in use, or more than one", what=listed(left)) if left else ""
        field.mark_wrong(why)
        if why:
            self.session.told.emit(why)
        self._choose_own()

    def hideEvent(self, event: QHideEvent) -> None:
        self.palette_slip.wells.setChecked(False)  # out of sight nothing is built
        super().hideEvent(event)

    def _pick_wells(self, picking: bool) -> None:
        self.session.selection.pick_for(self._toggle_paint if picking else None)
        if picking:
            self._choose_own()

    def _toggle_paint(self, name: str) -> None:
        if name in self.own:
            self.remove_paint(name)
        else:
            self.add_paint(name)

    def remove_paint(self, name: str) -> None:
        """A paint out of one's own palette."""
        self.own = [other for other in self.own if other != name]
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
        self.own = [*paints, into] if into else paints
        self._choose_own()

    # ---- the verdict

    def keep(self) -> None:
        """Keep the palette on view, with a reason."""
        if self.kept.keep(self.shown_paints()):
            self.tabs.tabs.choose(2)

    def look_at(self, palette_id: int) -> None:
        """A kept palette as one's own."""
        for palette in kept_palettes(self.session.file):
            if palette.id == palette_id:
                self.own = [name for name in palette.paints if name in self.weighing.names]
                self._choose_own()

    def fill_box(self) -> None:
        """A box laid out with this palette."""
        self.box_wanted.emit(self.shown_paints())

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
