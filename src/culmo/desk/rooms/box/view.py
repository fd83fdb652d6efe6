"""Box room: the paints as strokes, and the slip in which one is entered and edited."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import mix
from culmo.desk.drawing.looks import qcolor
from culmo.desk.rooms.box.known_view import KnownPage
from culmo.desk.rooms.box.model import (
    CARD_FIELDS,
    GRAINS,
    PaintDraft,
    bare_texts,
    describe,
    draft_of,
    save_bare,
)
from culmo.desk.session import Session
from culmo.desk.theme import PAPER as PAPER_COLOUR
from culmo.desk.theme import PENCIL, STEP, sans
from culmo.desk.widgets import (
    SLIP_WIDTH,
    Entry,
    Room,
    Slip,
    Swatch,
    TabbedSlip,
    rule,
    text_label,
    title_label,
)
from culmo.errors import CulmoError
from culmo.study import acts
from culmo.study.records import Paint

CARD_WIDTH = 245  # pixels, about which a stroke has its proportions


class StrokeCard(QAbstractButton):
    """A paint in the box: its stroke, name and codes."""

    def __init__(self, session: Session, paint: Paint) -> None:
        super().__init__()
        self.session, self.paint = session, paint
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setText(paint.name)
        self.setAccessibleName(f"{paint.name} {paint.codes}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(94)

    def sizeHint(self) -> QSize:
        return QSize(220, 94)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(3, 3, self.width() - 6, 62)
        painter.setPen(QPen(QColor(200, 200, 200), 1))
        painter.setBrush(PAPER_COLOUR)
        painter.drawRect(box)
        recipe = mix([self.paint.name])
        looks = self.session.looks
        if looks is not None and self.session.knows(recipe):
            ratio = self.devicePixelRatioF()
            inner = box.adjusted(3, 2, -3, -2)
            painter.drawImage(
                inner,
                looks.stroke(recipe, round(inner.width() * ratio), round(inner.height() * ratio), ratio),
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.isChecked():
            painter.setPen(QPen(self.palette().windowText().color(), 3))
            painter.drawRect(box.adjusted(-1, -1, 1, 1))
        elif self.hasFocus():
            painter.setPen(QPen(PENCIL, 1.6, Qt.PenStyle.DotLine))
            painter.drawRect(box.adjusted(-1, -1, 1, 1))
        painter.setFont(sans(11))
        metrics = QFontMetrics(painter.font())
        codes = metrics.elidedText(self.paint.codes, Qt.TextElideMode.ElideRight, self.width() // 2)
        room = self.width() - metrics.horizontalAdvance(codes) - 16
        painter.setPen(self.palette().windowText().color())
        line = QRectF(4, 70, self.width() - 8, 20)
        name = metrics.elidedText(self.paint.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(line, Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(self.palette().placeholderText().color())
        painter.drawText(line, Qt.AlignmentFlag.AlignRight, codes)


class PaintSlip(Slip):
    """Where a paint is entered and edited."""

    saved = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.draft = PaintDraft()
        self.title = title_label("A new paint", 17)
        self.lines.addWidget(self.title)
        self.facts = text_label("", soft=True)
        self.lines.addWidget(self.facts)
        self.stroke = Swatch(64)
        self.lines.addWidget(self.stroke)
        self.name = Entry("Ultramarine", "Name of the paint")
        self.codes = Entry("PB29, or PG7 + PY150", "Colour Index codes")
        self.grain = QComboBox()
        self.grain.setAccessibleName("Granulation")
        for word, _ in GRAINS:
            self.grain.addItem(word)
        for word, widget in (("Name", self.name), ("Pigments", self.codes), ("Granulation", self.grain)):
            self._field(word, widget)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label("What its card shows, dry", bold=True))
        self.lines.addWidget(
            text_label(
                "Type L, a, b from an instrument, or a screen colour such as #5a6b4c.", soft=True, points=10
            )
        )
        self.card: dict[str, Entry] = {}
        self.chips: dict[str, Swatch] = {}
        for key, word, _, _ in CARD_FIELDS:
            self._colour_field(key, word)
        self.message = text_label("", bold=True)
        self.lines.addWidget(self.message)
        buttons = QHBoxLayout()
        self.save = QPushButton("Save")
        self.save.setObjectName("strong")
        self.save.clicked.connect(self.keep)
        self.retire = QPushButton("Retire")
        self.retire.clicked.connect(self._retire)
        buttons.addWidget(self.save, 1)
        buttons.addWidget(self.retire)
        self.lines.addLayout(buttons)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label("Your paper and your bar", bold=True))
        for ground, word in ((PAPER, "Bare paper"), (INK, "Bare ink line")):
            self._colour_field(f"bare {ground}", word)
            self.card[f"bare {ground}"].editingFinished.connect(lambda ground=ground: self._keep_bare(ground))
        self.lines.addStretch(1)
        for entry in (self.name, self.codes, *(self.card[key] for key, *_ in CARD_FIELDS)):
            entry.returnPressed.connect(self.keep)
            entry.textEdited.connect(self._typed)
        self.show_paint(None)

    def _field(self, word: str, widget: QWidget) -> None:
        self.lines.addWidget(text_label(word, soft=True, points=10))
        self.lines.addWidget(widget)

    def _colour_field(self, key: str, word: str) -> None:
        self.lines.addWidget(text_label(word, soft=True, points=10))
        row = QHBoxLayout()
        chip = Swatch(30)
        chip.setFixedWidth(44)
        entry = Entry("L, a, b", word)
        entry.textChanged.connect(lambda text, chip=chip: _show_typed(chip, text))
        row.addWidget(chip)
        row.addWidget(entry, 1)
        self.lines.addLayout(row)
        self.card[key], self.chips[key] = entry, chip

    def show_paint(self, paint: Paint | None) -> None:
        """Show a paint, or empty fields for a new one."""
        study = self.session.study
        self.draft = draft_of(study, paint) if paint is not None and study is not None else PaintDraft()
        self.title.setText(paint.name if paint else "A new paint")
        self.retire.setVisible(paint is not None)
        self.name.setText(self.draft.name)
        self.codes.setText(self.draft.codes)
        grains = [value for _, value in GRAINS]
        known = self.draft.grain
        places = [i for i, value in enumerate(grains) if value is not None]
        nearest = min(places, key=lambda i: abs((grains[i] or 0.0) - (known or 0.0)))
        self.grain.setCurrentIndex(0 if known is None else nearest)
        for key, *_ in CARD_FIELDS:
            self.card[key].setText(self.draft.card.get(key, ""))
        bare = bare_texts(study) if study is not None else {}
        for ground in (PAPER, INK):
            self.card[f"bare {ground}"].setText(bare.get(ground, ""))
        self._say("")
        for entry in (self.name, *self.card.values()):
            entry.mark_wrong()
        self.refresh()

    def refresh(self) -> None:
        """Show the stroke from the present estimate."""
        looks, recipe = self.session.looks, mix([self.draft.name]) if self.draft.name else None
        if looks is None or recipe is None or not self.session.knows(recipe):
            self.stroke.show_colour(None, hint="Its stroke appears when it is saved")
            self.facts.setText("")
            return
        self.stroke.show_image(lambda w, h, r: looks.stroke(recipe, w, h, r), bool(self.draft.card))
        found = self.session.predict([recipe])
        if found is not None:
            typical = "typical, not yours; " if self.session.typical(recipe) else ""
            self.facts.setText(typical + describe(found.lab[0]))

    def _say(self, message: str) -> None:
        self.message.setText(message)
        self.message.setVisible(bool(message))

    def _typed(self) -> None:
        self._say("")

    def collect(self) -> PaintDraft:
        """The fields as typed."""
        grain = GRAINS[self.grain.currentIndex()][1]
        known = self.draft.grain
        unchanged = known is not None and grain is not None and self._nearest(known) == grain
        return PaintDraft(
            self.draft.paint_id,
            self.name.text(),
            self.codes.text(),
            self.draft.note,
            known if unchanged else grain,
            self.draft.status,
            {key: self.card[key].text() for key, *_ in CARD_FIELDS},
        )

    @staticmethod
    def _nearest(grain: float) -> float:
        return min((value for _, value in GRAINS if value is not None), key=lambda value: abs(value - grain))

    def keep(self) -> None:
        """Save the paint; what is wrong is marked and nothing typed is lost."""
        draft = self.collect()
        errors = draft.errors()
        for key, entry in {"name": self.name, **{k: self.card[k] for k, *_ in CARD_FIELDS}}.items():
            entry.mark_wrong(errors.get(key, ""))
        if errors:
            self._say(next(iter(errors.values())))
            return
        try:
            command = draft.command(self.session.file)
        except CulmoError as error:
            self.name.mark_wrong(str(error))
            self._say(str(error))
            return
        if self.session.do(command):
            self.saved.emit(draft.name.strip())

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
            self.session.do(acts.retire_paint(self.session.file, self.draft.paint_id))
            self.saved.emit("")


def _show_typed(chip: Swatch, text: str) -> None:
    try:
        chip.show_colour(qcolor(lab_from_text(text)))
    except CulmoError:
        chip.show_colour(None)


class BoxRoom(Room):
    """The paints one owns."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.current: str = ""
        main = self.lay_ground()
        head = QHBoxLayout()
        words = QVBoxLayout()
        words.setSpacing(0)
        self.title = title_label("The box", 18)
        self.subtitle = text_label("", soft=True)
        words.addWidget(self.title)
        words.addWidget(self.subtitle)
        head.addLayout(words, 1)
        self.add = QPushButton("Add a paint")
        self.add.clicked.connect(self.new_paint)
        head.addWidget(self.add, 0, Qt.AlignmentFlag.AlignBottom)
        main.addLayout(head)
        self.area = area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("ground")
        self.grid = QGridLayout(inner)
        self.grid.setContentsMargins(0, STEP, STEP, STEP)
        self.grid.setHorizontalSpacing(2 * STEP)
        self.grid.setVerticalSpacing(STEP)
        area.setWidget(inner)
        main.addWidget(area, 1)
        self.slip = PaintSlip(session)
        self.known = KnownPage(session)
        self.pages = TabbedSlip(["Card", "What is known"], [self.slip, self.known])
        self.lay_slip(self.pages)
        self.cards: list[StrokeCard] = []
        self._laid_out = 3
        self.slip.saved.connect(self._saved)
        session.opened.connect(self._opened)
        session.changed.connect(self.refresh)
        session.learned.connect(self._learned)
        self._opened()

    def _opened(self) -> None:
        self.current = self.session.paints[0].name if self.session.paints else ""
        self.refresh()

    def refresh(self) -> None:
        """Lay out the paints."""
        for card in self.cards:
            card.hide()
            card.deleteLater()
        self.cards = []
        paints = self.session.paints
        for paint in paints:
            card = StrokeCard(self.session, paint)
            card.clicked.connect(lambda _=False, name=paint.name: self.select(name))
            self.cards.append(card)
        self._lay_out()
        if paints:
            self.subtitle.setText(
                f"{len(paints)} paints; a stroke runs from masstone to the palest tint, over a black bar"
            )
        else:
            self.subtitle.setText(
                "Empty yet. Enter your first paint at the right: its name and what its card shows."
            )
        names = [paint.name for paint in paints]
        if self.current and self.current not in names:
            self.current = names[0] if names else ""
        self.select(self.current)

    def resizeEvent(self, _: object) -> None:
        if self._columns() != self._laid_out:
            self._lay_out()

    def _columns(self) -> int:
        # the room knows its new width before what stands in it does
        return max(2, min(6, (self.width() - SLIP_WIDTH - 6 * STEP) // CARD_WIDTH))

    def _lay_out(self) -> None:
        """As many columns as keep a stroke in its proportions."""
        self._laid_out = self._columns()
        while self.grid.count():
            self.grid.takeAt(0)
        for place, card in enumerate(self.cards):
            self.grid.addWidget(card, place // self._laid_out, place % self._laid_out)
        for row in range(self.grid.rowCount()):
            self.grid.setRowStretch(row, 0)
        self.grid.setRowStretch(len(self.cards) // self._laid_out + 1, 1)
        for column in range(6):
            self.grid.setColumnStretch(column, int(column < self._laid_out))

    def select(self, name: str) -> None:
        """Show a paint in the slip; no name means a new one."""
        self.current = name
        paint = next((paint for paint in self.session.paints if paint.name == name), None)
        for card in self.cards:
            card.setChecked(card.paint.name == name)
        self.slip.show_paint(paint)
        self.known.show_paint(name)

    def focus_current(self) -> None:
        """Give the keys to the selected paint, or to the name of a new one."""
        card = next((card for card in self.cards if card.isChecked()), None)
        (card or self.slip.name).setFocus()

    def new_paint(self) -> None:
        """Empty fields, ready to type."""
        for card in self.cards:
            card.setAutoExclusive(False)
            card.setChecked(False)
            card.setAutoExclusive(True)
        self.current = ""
        self.pages.tabs.choose(0)
        self.slip.show_paint(None)
        self.known.show_paint("")
        self.slip.name.setFocus()

    def _saved(self, name: str) -> None:
        was_new = self.slip.draft.paint_id is None
        self.session.told.emit(f"{name} is saved" if name else "The paint is retired; its record stays")
        if was_new:
            self.new_paint()
        else:
            self.select(name or (self.session.paints[0].name if self.session.paints else ""))

    def _learned(self) -> None:
        self.slip.refresh()
        for card in self.cards:
            card.update()
