"""The slip of the Box room where a paint is entered and edited."""

import json

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QStandardItem, QStandardItemModel
from PySide6.QtWidgets import QComboBox, QCompleter, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.claims import LABEL_KEYS, claims_text, take_claims
from culmo.core.paint.entry import complete, free_name, pieces_of
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import mix
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.entry_model import completions
from culmo.desk.rooms.box.model import (
    CARD_FIELDS,
    GRAINS,
    STATUS_WORDS,
    PaintDraft,
    bare_texts,
    describe,
    draft_of,
    elsewhere,
    save_bare,
)
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Entry, Slip, Swatch, caption, rule, text_label, title_label
from culmo.desk.wrap_row import TwoOnALine
from culmo.errors import CulmoError
from culmo.study import acts
from culmo.study.file import Study
from culmo.study.paint_lists import GRAIN_OF
from culmo.study.records import Paint
from culmo.words import tr


class PaintLineEntry(Entry):
    """A line that is understood as it is typed, with completion from the pigment table."""

    def __init__(self, placeholder: str, name: str) -> None:
        super().__init__(placeholder, name)
        self._choices = QStandardItemModel(self)
        completer = QCompleter(self._choices, self)
        completer.setCompletionRole(Qt.ItemDataRole.UserRole)
        completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self.setCompleter(completer)
        self.textEdited.connect(self._offer)

    def _offer(self, text: str) -> None:
        self._choices.clear()
        for found in complete(text, pigment_table()) if self.cursorPosition() == len(text) else []:
            item = QStandardItem(f"{found.code}   {found.words}")
            item.setData(found.text, Qt.ItemDataRole.UserRole)
            self._choices.appendRow(item)

    def offers(self) -> list[str]:
        """What is proposed now."""
        return [
            str(self._choices.item(row).data(Qt.ItemDataRole.UserRole))
            for row in range(self._choices.rowCount())
        ]


def nearest_grain(grain: float) -> float:
    """That of the granulations that can be chosen which is nearest to one."""
    return min((value for _, value in GRAINS if value is not None), key=lambda value: abs(value - grain))


def has_twin(study: Study, draft: PaintDraft) -> bool:
    """Whether another paint bears the name."""
    name = draft.name.strip().casefold()
    return any(row["id"] != draft.paint_id and row["name"].casefold() == name for row in study.rows("paints"))


class PaintSlip(Slip):
    """Where a paint is entered and edited."""

    saved = Signal(str)
    wanted = Signal(str)  # a paint to be shown, or none for a new one
    picture_wanted = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.draft = PaintDraft()
        self._left: dict[int | None, tuple[str, ...]] = {}  # by paint, what was typed and is not saved
        self._shown: tuple[str, ...] = ()
        self._showing = True
        session.opened.connect(self._left.clear)
        self.title = title_label(tr("A new paint"), 17)
        self.lines.addWidget(self.title)
        self.facts = text_label("", soft=True)
        self.lines.addWidget(self.facts)
        self.stroke = Swatch(64)
        self.lines.addWidget(self.stroke)
        self._one_line()
        self.name = Entry(tr("Ultramarine"), tr("Name of the paint"))
        self.codes = Entry(tr("PB29, or PG7 + PY150"), tr("Colour Index codes"))
        self.claims = Entry(tr("transparent, staining"), tr("What the label claims"))
        self.grain = QComboBox()
        for word, _ in GRAINS:
            self.grain.addItem(word)
        self.status = QComboBox()
        for value, word in STATUS_WORDS:
            self.status.addItem(word, value)
        for word, widget in (
            (tr("Name"), self.name),
            (tr("Pigments"), self.codes),
            (tr("The label says"), self.claims),
        ):
            self.lines.addWidget(caption(word, widget))
            self.lines.addWidget(widget)
        self.note = Entry(tr("bought in May, 5 ml"), tr("Note on the paint"))
        pair: list[QVBoxLayout] = []
        for word, box in ((tr("Granulation"), self.grain), (tr("I have it"), self.status)):
            box.setAccessibleName(word)
            column = QVBoxLayout()
            column.setSpacing(4)
            column.addWidget(caption(word, box))
            column.addWidget(box)
            # at least as wide as what it mostly says, not as the longest of its choices
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(1)
            box.setMinimumWidth(box.fontMetrics().horizontalAdvance(box.itemText(0)) + px(44))
            pair.append(column)
        self.lines.addLayout(TwoOnALine(pair[0], pair[1], least=96))
        self.lines.addWidget(caption(tr("Note"), self.note))
        self.lines.addWidget(self.note)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label(tr("What its card shows, dry"), bold=True))
        self.lines.addWidget(
            text_label(
                tr("Type L, a, b from an instrument, or a screen colour such as #5a6b4c."),
                soft=True,
                points=10,
            )
        )
        self.card: dict[str, Entry] = {}
        self.chips: dict[str, Swatch] = {}
        for key, word, _, _ in CARD_FIELDS:
            self._colour_field(key, word)
        self.picture = QPushButton(tr("From a picture…"))
        self.picture.clicked.connect(self.picture_wanted.emit)
        self.lines.addWidget(self.picture)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label(tr("Your paper and your bar"), bold=True))
        for ground, word in ((PAPER, tr("Bare paper")), (INK, tr("Bare ink line"))):
            self._colour_field(f"bare {ground}", word)
            self.card[f"bare {ground}"].editingFinished.connect(lambda ground=ground: self._keep_bare(ground))
        self.lines.addStretch(1)
        self.set_foot(self._make_foot())
        for entry in (self.line, *self._entries()):
            entry.returnPressed.connect(self.keep)
            entry.textEdited.connect(lambda _: self._say(""))
            entry.textChanged.connect(lambda _: self._note_typed())
        self.codes.textChanged.connect(lambda _: self._codes_typed())
        for box in (self.grain, self.status):
            box.currentIndexChanged.connect(lambda _: self._note_typed())
        self.show_paint(None)

    def _entries(self) -> tuple[Entry, ...]:
        return (self.name, self.codes, self.claims, self.note, *(self.card[key] for key, *_ in CARD_FIELDS))

    def _one_line(self) -> None:
        """A new paint in one line."""
        self.line_words = text_label(tr("In one line"), soft=True, points=10)
        self.lines.addWidget(self.line_words)
        self.line = PaintLineEntry(tr("Green PG7 + PY150, granulating"), tr("The paint in one line"))
        self.line.textChanged.connect(self._line_typed)
        self.lines.addWidget(self.line)
        self.understood = text_label("", soft=True, points=10)
        self.lines.addWidget(self.understood)

    def _make_foot(self) -> QWidget:
        """What saves and what went wrong; it stays in sight."""
        foot = QWidget()
        lines = QVBoxLayout(foot)
        lines.setContentsMargins(2 * STEP, 0, 2 * STEP, STEP)
        lines.addWidget(rule())
        self.message = text_label("", bold=True)
        lines.addWidget(self.message)
        buttons = QHBoxLayout()
        lines.addLayout(buttons)
        self.save = QPushButton(tr("Save"))
        self.save.setObjectName("strong")
        self.save.clicked.connect(self.keep)
        self.number = QPushButton(tr("Keep both"))
        self.number.setToolTip(tr("Save this one with a number behind its name"))
        self.number.clicked.connect(self._keep_both)
        self.retire = QPushButton(tr("Retire"))
        self.retire.clicked.connect(self._retire)
        self.take_back = QPushButton(tr("Take back"))
        self.take_back.setToolTip(tr("The fields as they were saved"))
        self.take_back.clicked.connect(self._take_back)
        buttons.addWidget(self.save, 1)
        buttons.addWidget(self.take_back)
        buttons.addWidget(self.number)
        buttons.addWidget(self.retire)
        return foot

    def _colour_field(self, key: str, word: str) -> None:
        entry = Entry("L, a, b", word)
        self.lines.addWidget(caption(word, entry))
        row = QHBoxLayout()
        chip = Swatch(30)
        chip.setFixedWidth(px(44))
        entry.textChanged.connect(lambda text, chip=chip: _show_typed(chip, text))
        row.addWidget(chip)
        row.addWidget(entry, 1)
        self.lines.addLayout(row)
        self.card[key], self.chips[key] = entry, chip

    def _line_typed(self, text: str) -> None:
        """What the line says goes into the fields below, as it is typed."""
        if not text.strip():
            self.understood.setText("")
            return
        line, words = completions(text, pigment_table())
        near = [f"{unknown.code}? {', '.join(unknown.near)}" for unknown in line.unknown if unknown.near]
        self.understood.setText("\n".join([words, *near]))
        self.name.setText(line.name)
        self.codes.setText(line.codes_text)
        self.claims.setText(claims_text(line.claims))
        self.note.setText(line.note)
        self._show_grain(GRAIN_OF.get(line.claims.get("granulation", "")))
        self.status.setCurrentIndex(max(0, self.status.findData(line.claims.get("status", "owned"))))
        self._say("")

    # ---- what is typed and not saved

    def _typed(self) -> tuple[str, ...]:
        """All fields as they stand."""
        chosen = (str(self.grain.currentIndex()), str(self.status.currentData()))
        return (*(entry.text() for entry in (self.line, *self._entries())), *chosen)

    def type_on_another_day(self, place: int | None, content: str) -> bool:
        """What was typed for a paint, and not saved, on another day; says whether it stands there again."""
        try:
            typed = tuple(str(text) for text in json.loads(content))
            int(typed[-2])
        except (ValueError, TypeError, IndexError):
            return False
        known = {paint.id: paint.name for paint in self.session.paints}
        if len(typed) != len(self._typed()) or (place is not None and place not in known):
            return False
        self._left[place] = typed
        if place == self.draft.paint_id:
            self.show_paint(next((paint for paint in self.session.paints if paint.id == place), None))
        else:
            name = known[place] if place is not None else tr("a new paint")
            entry = Typed(name, lambda: self._save_left(place), RoomName.BOX, lambda: content)
            self.session.unsaved.note(f"paint {place}", entry)
        return True

    def _type_again(self, typed: tuple[str, ...]) -> None:
        for entry, text in zip((self.line, *self._entries()), typed, strict=False):
            entry.setText(text)
        grain, status = typed[-2:]
        self.grain.setCurrentIndex(int(grain))
        self.status.setCurrentIndex(self.status.findData(status))

    def _note_typed(self) -> None:
        """Tell the session whether the fields hold what is not saved."""
        if self._showing:
            return
        typed, place = self._typed(), self.draft.paint_id
        dirty = typed != self._shown
        if dirty:
            self._left[place] = typed
        else:
            self._left.pop(place, None)
        name = self.draft.name or self.name.text().strip() or tr("a new paint")
        entry = Typed(name, lambda: self._save_left(place), RoomName.BOX, lambda: json.dumps(typed))
        self.session.unsaved.note(f"paint {place}", entry if dirty else None)
        self._show_foot(dirty)

    def _show_foot(self, dirty: bool) -> None:
        self.save.setEnabled(dirty)
        self.take_back.setVisible(dirty)
        self.retire.setVisible(not dirty and self.draft.paint_id is not None)

    def _save_left(self, place: int | None) -> bool:
        """Save what was typed for a paint that may not be on view now."""
        paint = next((paint for paint in self.session.paints if paint.id == place), None)
        if place is not None and paint is None:
            return True  # it is not there any more
        self.wanted.emit(paint.name if paint is not None else "")
        return self.keep()

    def _take_back(self) -> None:
        """The fields as they were saved; what was typed goes."""
        place = self.draft.paint_id
        self._left.pop(place, None)
        self.session.unsaved.note(f"paint {place}", None)
        self.wanted.emit(self.draft.name)
        self.name.setFocus()

    # ---- showing

    def show_paint(self, paint: Paint | None) -> None:
        """Show a paint, or empty fields for a new one; what was typed there before and is not saved stands again."""
        self._showing = True
        try:
            self._show_saved(paint)
            self._shown = self._typed()
            left = self._left.get(self.draft.paint_id)
            if left is not None:
                self._type_again(left)
        finally:
            self._showing = False
        self._note_typed()

    def _show_saved(self, paint: Paint | None) -> None:
        study = self.session.study
        self.draft = draft_of(study, paint) if paint is not None and study is not None else PaintDraft()
        self.title.setText(paint.name if paint else tr("A new paint"))
        for widget in (self.line, self.line_words, self.understood):
            widget.setVisible(paint is None)
        self.line.clear()
        self.name.setText(self.draft.name)
        self.codes.setText(self.draft.codes)
        self.claims.setText(claims_text(self.draft.label))
        self.note.setText(self.draft.note)
        self.note.setCursorPosition(0)
        self.status.setCurrentIndex(max(0, self.status.findData(self.draft.status)))
        self._show_grain(self.draft.grain)
        read = elsewhere(study, paint.name) if paint is not None and study is not None else {}
        for key, *_ in CARD_FIELDS:
            self.card[key].setText(self.draft.card.get(key, ""))
            self.card[key].setPlaceholderText(
                tr("{read} (sheet)", read=read[key]) if key in read else "L, a, b"
            )
        bare = bare_texts(study) if study is not None else {}
        for ground in (PAPER, INK):
            self.card[f"bare {ground}"].setText(bare.get(ground, ""))
        self._say("")
        for entry in (self.name, *self.card.values()):
            entry.mark_wrong()
        self.refresh()

    def _show_grain(self, known: float | None) -> None:
        grains = [value for _, value in GRAINS]
        self.grain.setCurrentIndex(0 if known is None else grains.index(nearest_grain(known)))

    def _show_typical(self) -> None:
        """The stroke of a paint of which nothing is known yet: by its codes, as they are typed."""
        from culmo.desk.typical import (  # the window is there before what learns is loaded
            STROKE,
            typical_looks,
        )

        # a paint that was saved waits for what the study itself has learned
        awaited = self.draft.paint_id is not None and self.session.learning.looks is None
        typical = typical_looks(self.codes.text().strip()) if not awaited else None
        need = self.session.learning.need_of(self.draft.name)
        if typical is not None:
            self.stroke.show_image(lambda w, h, r: typical.stroke(STROKE, w, h, r))
            self.facts.setText(tr("typical of its pigments"))
        elif need:
            self.stroke.show_paint(self.session.learning.looks, self.draft.name, False)
            self.facts.setText(need)
        else:
            self.stroke.show_colour(None, hint=tr("Its stroke appears as its codes are typed"))
            self.facts.setText("")

    def _codes_typed(self) -> None:
        if not self._showing and not self.session.learning.knows(mix([self.draft.name or "?"])):
            self._show_typical()

    def refresh(self) -> None:
        """Show the stroke from the present estimate."""
        looks, recipe = self.session.learning.looks, mix([self.draft.name]) if self.draft.name else None
        if looks is None or recipe is None or not self.session.learning.knows(recipe):
            self._show_typical()
            return
        read = self.draft.name.casefold() not in self.session.learning.unread
        name = self.draft.name
        self.stroke.show_image(lambda w, h, r: looks.paint_stroke(name, w, h, r), read)
        found = self.session.learning.predict([recipe])
        if found is not None:
            typical = tr("typical, not yours") + "; " if self.session.learning.typical(recipe) else ""
            self.facts.setText(typical + describe(found.lab[0]))

    def _say(self, message: str, twin: bool = False) -> None:
        self.message.setText(message)
        self.message.setVisible(bool(message))
        self.number.setVisible(twin)

    # ---- saving

    def collect(self) -> PaintDraft:
        """The fields as typed."""
        grain = GRAINS[self.grain.currentIndex()][1]
        known = self.draft.grain
        unchanged = known is not None and grain is not None and nearest_grain(known) == grain
        found = take_claims(f", {self.claims.text()}")
        label = {key: found.values[key] for key in LABEL_KEYS if key in found.values}
        note = self.note.text().strip()
        other = ", ".join(pieces_of(found.rest))  # what was typed among the claims and is none
        if other and other not in note:
            note = f"{note}; {other}" if note else other
        if claims_text(label) == claims_text(self.draft.label):
            label = dict(self.draft.label)
        return PaintDraft(
            self.draft.paint_id,
            self.name.text(),
            self.codes.text(),
            note,
            known if unchanged else grain,
            str(self.status.currentData()),
            label,
            {key: self.card[key].text() for key, *_ in CARD_FIELDS},
        )

    def keep(self) -> bool:
        """Save the paint, and give whether it is; what is wrong is marked and nothing typed is lost."""
        draft = self.collect()
        errors = draft.errors()
        for key, entry in {"name": self.name, **{k: self.card[k] for k, *_ in CARD_FIELDS}}.items():
            entry.mark_wrong(errors.get(key, ""))
        if errors:
            self._say(next(iter(errors.values())))
            self.ensureWidgetVisible({"name": self.name, **self.card}[next(iter(errors))])
            return False
        try:
            command = draft.command(self.session.file)
        except CulmoError as error:
            self.name.mark_wrong(str(error))
            self._say(str(error), has_twin(self.session.file, draft))
            return False
        typed = self._left.pop(draft.paint_id, None)  # as it is saved the fields are shown anew
        if not self.session.do(command):
            if typed is not None:
                self._left[draft.paint_id] = typed
            return False
        self.saved.emit(draft.name.strip())
        return True

    def _keep_both(self) -> None:
        """The other answer to a name that there is already."""
        names = [row["name"] for row in self.session.file.rows("paints")]
        self.name.setText(free_name(self.name.text(), names))
        self.keep()

    def _keep_bare(self, ground: str) -> None:
        entry = self.card[f"bare {ground}"]
        if not entry.text().strip() or self.session.study is None:
            return
        try:
            command = save_bare(self.session.file, ground, entry.text())
        except CulmoError as error:
            entry.mark_wrong(str(error))
            self._say(str(error))
            return
        entry.mark_wrong()
        if bare_texts(self.session.file).get(ground) != entry.text():
            self.session.do(command)

    def _retire(self) -> None:
        if self.draft.paint_id is not None:
            self._left.pop(self.draft.paint_id, None)
            self.session.do(acts.retire_paint(self.session.file, self.draft.paint_id))
            self.saved.emit("")


def _show_typed(chip: Swatch, text: str) -> None:
    try:
        chip.show_colour(qcolor(lab_from_text(text)))
    except CulmoError:
        chip.show_colour(None)
