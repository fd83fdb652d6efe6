"""The Daybook's slip: what is due, and the chosen line whole."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from culmo.desk.guard import guarded
from culmo.desk.rooms.daybook.lines import LineDelegate, has_picture
from culmo.desk.rooms.daybook.model import EARLIER, facts, lab_of
from culmo.desk.session import Session
from culmo.desk.theme import STEP
from culmo.desk.widgets import SLIP_WIDTH, FactRow, Slip, as_tip, clear_layout, rule, text_label, title_label
from culmo.study.diary import DiaryEntry
from culmo.study.due import Due
from culmo.words import day_words, tr, trn

MOST_DUE = 6


@guarded
class EntryPicture(QWidget):
    """The picture of the chosen line, as large as the slip."""

    def __init__(self, delegate: LineDelegate) -> None:
        super().__init__()
        self._delegate = delegate
        self._entry: DiaryEntry | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_entry(self, entry: DiaryEntry | None) -> None:
        """Another entry."""
        self._entry = entry if has_picture(entry) else None
        self.setVisible(self._entry is not None)
        self.setFixedHeight(
            168 if entry is not None and (entry.photos or not entry.strokes + entry.patches) else 84
        )
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._entry is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            place = QRectF(self.rect()).adjusted(0, 1, 0, -1)
            self._delegate.picture(painter, self._entry, place, self.palette().placeholderText().color())


@guarded
class DueButton(QPushButton):
    """One thing that is due: the sheet and what waits."""

    def __init__(self, due: Due) -> None:
        super().__init__()
        self.due = due
        self.setObjectName("due")
        self.setAccessibleName(f"{due.title}: {due.words}")
        column = QVBoxLayout(self)
        column.setContentsMargins(STEP, 5, STEP, 5)
        column.setSpacing(0)
        for label in (text_label(due.title, bold=True), text_label(due.words, soft=not due.now, points=10)):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(label)

    def sizeHint(self) -> QSize:
        layout = self.layout()
        width = SLIP_WIDTH - 5 * STEP
        return QSize(width, layout.heightForWidth(width) if layout is not None else 44)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()


class DaybookSlip(Slip):
    """What is due, and the chosen line."""

    due_chosen = Signal(object)
    go = Signal(object)
    near = Signal(object)
    open_picture = Signal(int)
    change_note = Signal(int)
    remove_note = Signal(int)
    export_day = Signal(str)

    def __init__(self, session: Session, delegate: LineDelegate) -> None:
        super().__init__()
        self.session = session
        self._entry: DiaryEntry | None = None
        self.lines.addWidget(title_label(tr("Due"), 13))
        self.dues = QVBoxLayout()
        self.dues.setSpacing(6)
        self.lines.addLayout(self.dues)
        self.lines.addWidget(rule())
        self.title = title_label(tr("Chosen line"), 13)
        self.lines.addWidget(self.title)
        self.picture = EntryPicture(delegate)
        self.lines.addWidget(self.picture)
        self.words = text_label("")
        self.lines.addWidget(self.words)
        self.facts = QVBoxLayout()
        self.facts.setSpacing(2)
        self.lines.addLayout(self.facts)
        self.go_button = self._button(tr("Go to it"), lambda: self.go.emit(self._entry))
        self.near_button = self._button(tr("Colours near this one"), lambda: self.near.emit(self._entry))
        self.pictures = QVBoxLayout()
        self.lines.addLayout(self.pictures)
        self.change_button = self._button(tr("Change the note…"), lambda: self._on_note(self.change_note))
        self.remove_button = self._button(tr("Remove the note"), lambda: self._on_note(self.remove_note))
        self.day_button = self._button(
            tr("This day as PDF…"), lambda: self.export_day.emit(self._entry.at[:10] if self._entry else "")
        )
        self.lines.addStretch(1)
        self.show_entry(None)

    def _button(self, text: str, act) -> QPushButton:  # type: ignore[no-untyped-def]
        button = QPushButton(text)
        button.clicked.connect(act)
        self.lines.addWidget(button)
        return button

    def _on_note(self, signal) -> None:  # type: ignore[no-untyped-def]
        if self._entry is not None and self._entry.note_id is not None:
            signal.emit(self._entry.note_id)

    def show_due(self, found: Sequence[Due]) -> None:
        """What is due now."""
        clear_layout(self.dues)
        for entry in found[:MOST_DUE]:
            button = DueButton(entry)
            button.clicked.connect(lambda _=False, entry=entry: self.due_chosen.emit(entry))
            self.dues.addWidget(button)
        if len(found) > MOST_DUE:
            more = len(found) - MOST_DUE
            self.dues.addWidget(text_label(trn("and {n} more", "and {n} more", more), soft=True, points=10))
        if not found:
            self.dues.addWidget(text_label(tr("Nothing dries, nothing waits."), soft=True))
        self.lay_out()

    def show_entry(self, entry: DiaryEntry | None) -> None:
        """The chosen line whole."""
        self._entry = entry
        self.picture.show_entry(entry)
        clear_layout(self.facts)
        clear_layout(self.pictures)
        there = entry is not None and self.session.study is not None
        self.title.setText(tr("Chosen line"))
        self.words.setText(
            "" if there else tr("Choose a line to see it whole, and to go to what it is about.")
        )
        self.words.setObjectName("" if there else "soft")
        self.words.style().polish(self.words)
        for button in (
            self.go_button,
            self.near_button,
            self.change_button,
            self.remove_button,
            self.day_button,
        ):
            button.setVisible(False)
        if entry is None or self.session.study is None:
            return
        dated = not entry.at.startswith("1970") and entry.kind != EARLIER
        if dated:
            self.title.setText(day_words(entry.moment))
        self.words.setText(entry.text)
        for word, value in facts(self.session.study, entry):
            self.facts.addWidget(FactRow(word, value))
        homes = (entry.sheet_id, entry.cell_id, entry.paint_id, entry.palette_id)
        self.go_button.setVisible(
            any(home is not None for home in homes) or entry.kind in ("wanted", "mix", EARLIER)
        )
        self.near_button.setVisible(lab_of(entry) is not None)
        self.change_button.setVisible(entry.note_id is not None)
        self.remove_button.setVisible(entry.note_id is not None)
        self.day_button.setVisible(dated)
        for photo_id in entry.photos:
            name = self.session.study.row("photos", photo_id)["name"]
            button = QPushButton(tr("Open {name}", name=name if len(name) < 26 else f"{name[:22]}…"))
            button.setToolTip(as_tip(name))
            button.clicked.connect(lambda _=False, photo_id=photo_id: self.open_picture.emit(photo_id))
            self.pictures.addWidget(button)
        self.lay_out()
