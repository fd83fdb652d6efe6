"""The page of the slip where a sheet is laid out: its kind, its paints, its paper; each change is tried at once."""

from collections.abc import Mapping, Sequence
from enum import StrEnum
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from culmo.core.chart.darks import DarkLean
from culmo.core.chart.kind import SecondHalf
from culmo.core.chart.kinds import KIND_KEYS, KINDS, find_kind
from culmo.core.chart.lengths import LengthUnit
from culmo.core.chart.options import OnePaint, Option, quoted_name, split_names
from culmo.core.chart.page import Page
from culmo.core.chart.plans import Advice, Plan, described, plan_of
from culmo.core.chart.stages import is_white
from culmo.core.paint.recipe import mix, renaming
from culmo.desk.button_keys import tell_key
from culmo.desk.rooms.plan.at_hand import dark_at_hand
from culmo.desk.rooms.plan.fields import Field, GapField, ListField, PaintsField, field_for
from culmo.desk.rooms.plan.fold import Folds
from culmo.desk.rooms.plan.model import paper_names
from culmo.desk.rooms.plan.papers_dialog import PapersDialog
from culmo.desk.rooms.plan.rings_field import ICON, RingsField
from culmo.desk.rooms.plan.sheet_paints import SheetPaints
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Slip, as_tip, caption, clear_layout, rule, text_label, title_label
from culmo.desk.wrap_row import TwoOnALine
from culmo.study.papers import OwnPaper
from culmo.words import tr, trn

_FIRST = ("title", "paints", "across", "paper", "orientation")


class FieldGroup(StrEnum):
    """What fields of a layout are shown together."""

    PAINTS = "paints"
    MIXES = "mixes"
    PAPER = "paper"
    CELLS = "cells"
    WORK = "work"


_GROUPS = (
    (FieldGroup.PAINTS, tr("Paints")),
    (FieldGroup.MIXES, tr("Mixes")),
    (FieldGroup.PAPER, tr("Paper")),
    (FieldGroup.CELLS, tr("Cells and names")),
    (FieldGroup.WORK, tr("Stages")),
)
_GROUP_OF = {
    **dict.fromkeys(("title", "paints", "across", "recipes", "rows"), FieldGroup.PAINTS),
    **dict.fromkeys(
        ("paper", "orientation", "several", "tape_mm", "gutter_mm", "marks", "card_mm", "unit"),
        FieldGroup.PAPER,
    ),
    **dict.fromkeys(
        (
            "cell_mm",
            "gap_mm",
            "square",
            "round",
            "note_mm",
            "letters_mm",
            "labels",
            "label_place",
            "pitch_mm",
            "names_mm",
            "border",
        ),
        FieldGroup.CELLS,
    ),
    **dict.fromkeys(("stages", "light_first", "clean_first"), FieldGroup.WORK),
}
_BESIDE = {
    "letters_mm": "note_mm",
    "gutter_mm": "tape_mm",
}  # short fields that share a line: the second by its first
_MOST_SAID = 2


def _group_of(name: str) -> str:
    """The group that an option stands in; what is a kind's own says how it mixes."""
    return _GROUP_OF.get(name, FieldGroup.MIXES)


def _alone(widget: QWidget) -> QHBoxLayout:
    """A widget that takes the room that it is given."""
    row = QHBoxLayout()
    row.setContentsMargins(0, 0, 0, 0)
    row.addWidget(widget)
    return row


def icon_of(session: Session, name: str) -> QIcon | None:
    """The colour of a paint in full, None where it is not known."""
    looks = session.learning.looks
    if looks is None or not looks.knows(mix([name])):
        return None
    patch = QPixmap(ICON)
    patch.fill(looks.colour(mix([name])))
    return QIcon(patch)


def choose_dark(session: Session, field: Field) -> None:
    """The deepest paint that is no brown is the likeliest dark: a brown would warm every hue."""
    name = dark_at_hand(session, DarkLean.DEEPEST)
    if name:
        field.set_text(quoted_name(name))


class LayoutPage(Slip):
    """The choices of a sheet."""

    edited = Signal()
    dragged = Signal()
    keep = Signal()
    leave = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self._filling = False
        self._owned: list[OwnPaper] = []
        self._paper = ""  # the paper that was chosen last: with another its gutter is taken over
        self._unit: str = LengthUnit.MM
        self._white_asked = False  # a white is looked for when it comes to be asked for, and not again
        self._offered_title = ""  # it follows the kind until another is typed
        self.lines.setSpacing(4)
        self.heading = title_label(tr("A new sheet"), 17)
        self.message = text_label("", bold=True)
        self.hints = QWidget()
        self._hint_rows = QVBoxLayout(self.hints)
        self._hint_rows.setContentsMargins(0, 0, 0, 0)
        self.kind = ListField([(kind.key, kind.title) for kind in KINDS]).box
        for place, kind in enumerate(KINDS):
            self.kind.setItemData(place, kind.words, Qt.ItemDataRole.ToolTipRole)
        self.kind.setAccessibleName(tr("Kind of sheet"))
        self.kind_words = text_label("", soft=True, points=10)
        for widget in (
            self.heading, self.hints, text_label(tr("Kind"), soft=True, points=10), self.kind,
            self.kind_words,
        ):  # fmt: skip
            self.lines.addWidget(widget)
        self.fields: dict[str, Field] = {}
        self.words: dict[str, QLabel] = {}
        self.folds = Folds(_GROUPS, self._chosen_in)
        self.paints = SheetPaints(session, self.fields)
        self.lines.addWidget(self.folds)
        self._make_fields()
        self.folds.open(FieldGroup.PAINTS)
        self.lines.addStretch(1)
        self.set_foot(self._make_foot())
        self.kind.currentIndexChanged.connect(self._kind_chosen)

    def _make_foot(self) -> QWidget:
        """What keeps the plan or leaves it, and what is wrong with it; it stays in sight."""
        foot = QWidget()
        lines = QVBoxLayout(foot)
        lines.setContentsMargins(2 * STEP, 0, 2 * STEP, STEP)
        lines.addWidget(rule())
        lines.addWidget(self.message)
        self.keep_button, self.leave_button = QPushButton(tr("Keep this plan")), QPushButton(tr("Leave it"))
        self.keep_button.setObjectName("strong")
        self.keep_button.clicked.connect(self.keep.emit)
        tell_key(self.keep_button, "keep plan")
        self.leave_button.setToolTip(
            as_tip(tr("Nothing of it is kept; the sheet on the table stays as it is"))
        )
        self.leave_button.clicked.connect(self.leave.emit)
        self.leave_button.hide()
        lines.addLayout(TwoOnALine(_alone(self.keep_button), self.leave_button, 400))
        return foot

    def show_tried(self, tried: bool) -> None:
        """Whether a plan is tried that is not kept yet, and may be left."""
        self.leave_button.setVisible(tried)

    def _make_fields(self) -> None:
        """A field for each option that there is, of the page and of any kind; what concerns the kind is shown."""
        options = described()
        of_kinds = [name for name in options if name not in Page.described() and name not in _FIRST]
        of_page = [name for name in Page.described() if name not in _FIRST]
        shared = {first: QHBoxLayout() for first in _BESIDE.values()}
        for name in (*_FIRST, *of_kinds, *of_page):
            own, lines = options[name], self.folds.lines[_group_of(name)]
            if name in shared:
                lines.addLayout(shared[name])
            if name in shared or name in _BESIDE:
                lines = QVBoxLayout()
                shared[_BESIDE.get(name, name)].addLayout(lines, 1)
            field = self.fields[name] = field_for(own.form, name, own)
            field.setParent(self)
            if isinstance(field, RingsField):
                field.choose, field.icon_of = (
                    partial(dark_at_hand, self.session),
                    partial(icon_of, self.session),
                )
            field.edited.connect(self._edited)
            if isinstance(field, PaintsField):
                field.dress = self.paints.dressed
            if isinstance(field, GapField):
                field.dragged.connect(self._dragged)
            field.widget.setAccessibleName(field.widget.accessibleName() or own.label)
            if not isinstance(field.widget, QCheckBox):
                label = self.words[name] = caption(own.label, field.widget)
                lines.addWidget(label)
            if name == "paper":
                self.papers_button = QPushButton(tr("My papers…"))
                self.papers_button.clicked.connect(self.open_papers)
                field.widget.setMinimumWidth(px(100))
                lines.addLayout(TwoOnALine(_alone(field.widget), self.papers_button, 100))
            else:
                lines.addWidget(field.widget)

    def _chosen_in(self, group: str) -> str:
        """What is chosen in a group, in a few words: what is not as usual, or what matters most."""
        if not self.fields:
            return ""
        own = described()
        shown = [name for name in self.fields if _group_of(name) == group and self._concerns(name)]
        if group == FieldGroup.PAINTS:
            paints = self.fields["paints"]
            count = len(paints.chosen()) if isinstance(paints, PaintsField) and "paints" in shown else 0
            return trn("{n} paint", "{n} paints", count) if count else ""
        said = [self.fields["paper"].text()] if group == FieldGroup.PAPER else []
        for name in shown:
            text = self.fields[name].text()
            first = own[name].form.written_in(
                own[name].default if own[name].first is None else own[name].first, self._unit
            )
            if name not in ("paper", "unit") and text.strip() and text != first:
                said.append(own[name].label)
        return ", ".join(said[:_MOST_SAID]) + (" …" if len(said) > _MOST_SAID else "")

    def concerned(self) -> set[str]:
        """The options that concern the kind."""
        return {name for name in self.fields if self._concerns(name)}

    def draw_option(self, name: str, value: object) -> None:
        """A length is drawn with the hand on the sheet itself: it is shown here, and tried at once."""
        self._filling = True
        self.fields[name].set_text(described()[name].form.written_in(value, self._unit))
        self._filling = False
        self.folds.refresh()
        self.dragged.emit()

    def _concerns(self, name: str) -> bool:
        return not self.fields[name].widget.isHidden()

    @property
    def unit(self) -> str:
        """The unit that lengths are meant in."""
        return self._unit

    def open_papers(self) -> None:
        """Name, change and remove the painter's own papers; one that was saved is taken."""
        field = self.fields["paper"]
        typed = field.text().strip()
        known = any(
            typed.casefold() == name.casefold() for name in paper_names([own.paper for own in self._owned])
        )
        dialog = PapersDialog(self.window(), self.session, self._unit, "" if known else typed)
        dialog.exec()
        chosen = dialog.chosen or typed
        dialog.deleteLater()
        self._owned = list(self.session.papers)
        self._filling = True
        field.offer(paper_names([own.paper for own in self._owned]))
        field.set_text(chosen)
        self._paper = "" if dialog.chosen else self._paper
        self._filling = False
        self._edited()

    # ---- in and out

    def fill(
        self,
        kind: str,
        texts: Mapping[str, str],
        names: Sequence[str],
        owned: Sequence[OwnPaper],
        heading: str,
        offered: str = "",
    ) -> None:
        """Show a plan.

        Parameters
        ----------
        kind : str, its key
        texts : mapping from the names of options to what would be typed; the others are as in a new sheet
        names : sequence of str, the paints to choose from
        owned : sequence of OwnPaper, the painter's own
        heading : str
        offered : str, a title that nobody typed, and that follows the kind
        """
        self._filling = True
        self._owned = list(owned)
        self.heading.setText(heading)
        self.kind.setCurrentIndex(KIND_KEYS.index(kind))
        unit = texts.get("unit", LengthUnit.MM)
        for name, own in described().items():
            first = own.form.written_in(own.default if own.first is None else own.first, unit)
            self.fields[name].show_in(unit)
            papers = paper_names([own.paper for own in owned]) if name == "paper" else names
            self.fields[name].offer(papers)
            self.fields[name].set_text(texts.get(name, first))
            self._show_colours(self.fields[name], own)
        self._unit = self.fields["unit"].text()
        self._offered_title = offered
        self._paper = self.fields["paper"].text()
        self._filling = False
        self._show_fields()

    def given(self) -> dict[str, object]:
        """What concerns the kind, as typed; one of the painter's own papers as itself."""
        kind = find_kind(self.kind.currentData())
        found: dict[str, object] = {
            name: self.fields[name].text() for name in (*Page.described(), *kind.options.described())
        }
        called = str(found["paper"]).strip().casefold()
        found["paper"] = next(
            (own.paper for own in self._owned if own.paper.name.casefold() == called), found["paper"]
        )
        shown = kind.concerned(kind.options.typed(found, lenient=True))
        return {name: value for name, value in found.items() if name in shown}

    def plan(self) -> Plan:
        """The plan as it stands.

        Raises
        ------
        CulmoError
            saying which field can not be and why
        """
        return plan_of(self.kind.currentData(), self.given())

    def rename(self, old: str, new: str) -> None:
        """A paint bears another name, wherever the fields name it."""
        self._filling = True
        for name, field in self.fields.items():
            if name != "paper":
                field.rename(renaming(old, new))
        self._filling = False

    def allow(self, allowed: bool) -> None:
        """Whether anything can be chosen; a sheet that is made from others has no layout of its own."""
        held = self.widget()
        assert held is not None
        held.setEnabled(allowed)

    def say(self, message: str, hints: Sequence[Advice] = (), note: str = "") -> None:
        """Say what can not be, or what could be done, or nothing.

        Parameters
        ----------
        message : str, why there is no such sheet; empty where there is
        hints : sequence of Advice, each with a button where it is done on this page
        note : str, what gave way for a wish that was granted
        """
        self.message.setText(message)
        self.message.setVisible(bool(message))
        clear_layout(self._hint_rows)
        if note:
            self._hint_rows.addWidget(text_label(note, soft=True, points=10))
        for hint in hints:
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(text_label(hint.words, soft=True, points=10), 1)
            if hint.given:
                button = QPushButton(tr("Do so"))
                button.setAccessibleName(hint.words)
                button.clicked.connect(partial(self._take, hint))
                row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
            self._hint_rows.addWidget(line)
        self.hints.setVisible(bool(hints) or bool(note))
        self.keep_button.setEnabled(not message)

    def _take(self, hint: Advice) -> None:
        """Follow an advice: fill in what it is done by."""
        self._filling = True
        for name, text in hint.given.items():
            self.fields[name].set_text(text)
        self._filling = False
        self._edited()

    # ---- which fields are shown

    def _show_fields(self) -> None:
        kind = find_kind(self.kind.currentData())
        self.kind_words.setText(kind.words[:1].upper() + kind.words[1:] + ".")
        shown = self.given()
        for name, field in self.fields.items():
            field.widget.setVisible(name in shown)
            if name in self.words:
                self.words[name].setVisible(name in shown)
        both = "across" in shown  # two lists share the room of one
        self.fields["paints"].widget.setFixedHeight(px(100 if both else 192))
        self.fields["across"].widget.setFixedHeight(px(84))
        self.words["cell_mm"].setText(kind.cell_words or described()["cell_mm"].label)
        groups = dict.fromkeys(_group_of(name) for name in self.fields if name in shown)
        self.folds.concern(list(groups))
        self.folds.refresh()

    def _kind_chosen(self) -> None:
        """Another kind begins with what is usual for it, where nothing else was chosen."""
        if self._filling:
            return
        kind = find_kind(self.kind.currentData())
        self._filling = True
        if self._offered_title and self.fields["title"].text() == self._offered_title:
            self._offered_title = kind.title
            self.fields["title"].set_text(kind.title)
        self.fields["gap_mm"].set_text(Page.described()["gap_mm"].form.written_in(kind.gap_mm, self._unit))
        for name, own in kind.options.described().items():
            field = self.fields[name]
            if own.first is not None and field.text() == own.form.write(own.default):
                field.set_text(own.form.write(own.first))
            if isinstance(own.form, OnePaint) and own.form.dark:
                choose_dark(self.session, field)
        self._filling = False
        self._edited()

    def _choose_white(self) -> None:
        """Where a white comes to be asked for, and there is one in the box, it is taken."""
        asked = SecondHalf.WHITE in (self.fields["second"].text(), *split_names(self.fields["rings"].text()))
        asked, self._white_asked = asked and not self._white_asked, asked
        if not asked:
            return
        white = next((paint.name for paint in self.session.paints if is_white(paint.codes)), None)
        if white is not None:
            self._filling = True
            self.fields["extra"].set_text(quoted_name(white))
            self._filling = False

    def _follow_paper(self) -> None:
        """With one of the painter's papers comes what its spiral or fold takes; with another it goes."""
        chosen = self.fields["paper"].text()
        if chosen == self._paper:
            return
        gutters = {own.paper.name.casefold(): own.gutter_mm for own in self._owned}
        before, now = gutters.get(self._paper.casefold(), 0.0), gutters.get(chosen.casefold(), 0.0)
        self._paper = chosen
        if before or now:
            self._filling = True
            form = Page.described()["gutter_mm"].form
            self.fields["gutter_mm"].set_text(form.written_in(now, self._unit))
            self._filling = False

    def _follow_count(self) -> None:
        """The title that was offered for a grid says how many paints there are."""
        title, paints = self.fields["title"], self.fields["paints"]
        if not self._offered_title or title.text() != self._offered_title:
            return
        if self.kind.currentData() == KIND_KEYS[0] and isinstance(paints, PaintsField):
            self._offered_title = tr("Grid of {n}", n=len(paints.chosen()))
            self._filling = True
            title.set_text(self._offered_title)
            self._filling = False

    def _show_colours(self, field: Field, own: Option) -> None:
        """Where one paint is chosen each stands with its colour."""
        if isinstance(own.form, OnePaint) and isinstance(field, ListField):
            field.box.setIconSize(ICON)
            for place in range(field.box.count()):
                icon = icon_of(self.session, field.box.itemText(place))
                field.box.setItemIcon(place, icon if icon is not None else QIcon())

    def _dragged(self) -> None:
        if not self._filling:
            self.dragged.emit()

    def _edited(self) -> None:
        if not self._filling:
            self._follow_count()
            self._follow_paper()
            self._choose_white()
            unit = self.fields["unit"].text()
            if unit != self._unit:  # what stands in the fields is meant as it was
                self._filling, self._unit = True, unit
                for field in self.fields.values():
                    field.show_in(unit)
                self._filling = False
            self._show_fields()
            self.edited.emit()
