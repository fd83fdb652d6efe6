"""Guess first: training the eye on the painter's own paints, with what was painted as the answer wherever there is such."""

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSlider,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.names import apart_words
from culmo.core.paint.recipe import mix, spoken_recipe, wash_words
from culmo.core.palette.guess import (
    CANDIDATES,
    KINDS,
    OPTIONS,
    PARTS_OF,
    SEEN_RIGHT,
    GuessKind,
    GuessQuestion,
    Material,
    ask,
    missed_by,
    mixed,
    whole_parts,
    why_not,
)
from culmo.core.palette.lattice import Lattice
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.mix_acts import MixActs
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.real_paint import real_of
from culmo.desk.rooms.weigh.guess_draws import DrawPanel
from culmo.desk.rooms.weigh.guess_parts import OptionButton, PaintChoice, TwoStrokes
from culmo.desk.rooms.weigh.guess_score import ScoreSlip
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import STEP
from culmo.desk.widgets import (
    Slip,
    Swatch,
    TabStrip,
    as_tip,
    clear_layout,
    scrolled,
    text_label,
    title_label,
)
from culmo.desk.wrap_row import WrapRow
from culmo.study.guess_acts import add_guess, painted_truths
from culmo.words import capital, decimal, tr

_KEYS: dict[str, str] = {
    GuessKind.WHICH: tr("1 to 4 choose    Enter answers, and asks the next"),
    GuessKind.PARTS: tr("left and right set the parts    Enter answers, and asks the next"),
    GuessKind.PAINTS: tr("1 to 4 choose two paints    Enter answers, and asks the next"),
    GuessKind.DRIES: tr("1 to 4 choose    Enter answers, and asks the next"),
}
_DRAW_KEY = tr("1 to 8 choose    Enter writes the guess down")
# what is asked for by each tab; the last one draws a pair
_ASKED = (KINDS, (GuessKind.WHICH,), (GuessKind.PARTS,), (GuessKind.PAINTS,), (GuessKind.DRIES,))
DRAW = len(_ASKED)
_NOTHING = 2
_TABS = (
    tr("By turns"), tr("The mix"), tr("The parts"), tr("The paints"), tr("Drying"), tr("A pair to paint"),
)  # fmt: skip
_COUNTS = {
    4: tr("Four paints shown"),
    3: tr("Three paints shown"),
    0: tr("No hint: all paints that were read"),
}
_CHOSEN = 2
Answer = int | tuple[int, int] | tuple[str, str]


@guarded
class GuessPage(WeighPage):
    """A question, an answer, a score."""

    answered = Signal(float)

    def __init__(self, session: Session, weighing: Weighing, acts: MixActs) -> None:
        super().__init__(session, weighing)
        self.rng = np.random.default_rng()
        self.question: GuessQuestion | None = None
        self.done = False
        self.score = ScoreSlip(session)
        self._material: Material | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(STEP)
        self.kinds = TabStrip(_TABS, 10.5, tr("What is asked"))
        self.kinds.chosen.connect(lambda _: self._turn())
        layout.addWidget(self.kinds)
        self.panels = QStackedWidget()
        layout.addWidget(self.panels, 1)
        self.panels.addWidget(scrolled(self._make_questions()))
        self.draws = DrawPanel(session, acts, self._lattice)
        self.draws.guessed.connect(self.score.look)
        self.panels.addWidget(scrolled(self.draws))
        self.panels.addWidget(QWidget())  # while nothing can be asked
        self.count = QComboBox()
        self.count.setAccessibleName(tr("How many paints are shown"))
        for count in CANDIDATES:
            self.count.addItem(_COUNTS[count], count)
        self.count.currentIndexChanged.connect(lambda _: self.next_question())
        keep_quiet(self.count, self.slider)
        self.tools = [self.count]
        self.slip: Slip = self.score
        weighing.mixes_ready.connect(lambda: self.refresh() if self.isVisible() else None)

    # ---- how it is laid out

    def _make_questions(self) -> QWidget:
        panel = QWidget()
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(STEP)
        self.pair = TwoStrokes(session=self.session)
        layout.addWidget(self.pair)
        self.asked = Swatch(104)
        self.asked_words = text_label("", bold=True)
        layout.addWidget(self.asked)
        layout.addWidget(self.asked_words)
        self.asks = title_label("", 16)
        layout.addWidget(self.asks)
        self.options_area = QWidget()
        row = QHBoxLayout(self.options_area)
        row.setContentsMargins(0, 0, 0, 0)
        self.options = [OptionButton(number + 1) for number in range(OPTIONS)]
        for place, button in enumerate(self.options):
            button.clicked.connect(lambda _=False, place=place: self.choose(place))
            row.addWidget(button)
        layout.addWidget(self.options_area, 1)
        layout.addWidget(self._make_parts(), 1)
        layout.addWidget(self._make_paints(), 1)
        self.verdict = text_label("", bold=True, points=12)
        self.source = text_label("", soft=True)
        layout.addWidget(self.verdict)
        layout.addWidget(self.source)
        self.act = QPushButton(tr("Answer"))
        self.act.setObjectName("strong")
        self.act.clicked.connect(self.go_on)
        layout.addWidget(self.act, 0, Qt.AlignmentFlag.AlignLeft)
        return panel

    def _make_parts(self) -> QWidget:
        self.parts_area = QWidget()
        column = QVBoxLayout(self.parts_area)
        column.setContentsMargins(0, 0, 0, 0)
        both = QHBoxLayout()
        self.wanted, self.given = Swatch(200), Swatch(200)
        both.addWidget(self.wanted)
        both.addWidget(self.given)
        column.addLayout(both)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(1, PARTS_OF - 1)
        self.slider.setAccessibleName(tr("Parts"))
        self.slider.valueChanged.connect(lambda _: self._show_parts())
        column.addWidget(self.slider)
        self.parts_words = text_label("")
        self.parts_words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.parts_words)
        column.addStretch(1)
        return self.parts_area

    def _make_paints(self) -> QWidget:
        self.paints_area = QScrollArea()
        self.paints_area.setWidgetResizable(True)
        self.paints_area.setFrameShape(QFrame.Shape.NoFrame)
        self.paints_area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("ground")
        self.paints_row = WrapRow(STEP // 2)
        inner.setLayout(self.paints_row)
        self.paints_area.setWidget(inner)
        self.paints: list[PaintChoice] = []
        self._taken: list[str] = []
        return self.paints_area

    # ---- what can be asked

    def _lattice(self) -> Lattice | None:
        return self.weighing.mixes.lattice if self.weighing.mixes is not None else None

    @property
    def drawing(self) -> bool:
        """Whether a pair is drawn to be painted."""
        return self.kinds.current == DRAW

    def entered(self) -> None:
        self._material = None  # there may be new readings
        super().entered()

    def material(self) -> Material | None:
        """What questions are made of; None while the mixes are not known."""
        lattice = self._lattice()
        if lattice is None:
            return None
        if self._material is None or self._material.lattice is not lattice:
            unread = self.session.learning.unread
            read = frozenset(n.casefold() for n in lattice.names if n.casefold() not in unread)
            self._material = Material(lattice, read, painted_truths(self.session.file))
        return self._material

    def _turn(self) -> None:
        self.question = None
        self.refresh()
        if not any(button.hasFocus() for button in self.kinds.buttons):
            self.setFocus()

    def refresh(self) -> None:
        """The question on the table, or the first one."""
        self.score.look()
        self.count.setVisible(GuessKind.PAINTS in _ASKED[self.kinds.current] if not self.drawing else False)
        ready = self.weighing.want_mixes()
        material = self.material() if ready else None
        if material is None:
            self.question = None
            self.panels.setCurrentIndex(_NOTHING)
            some = bool(self.weighing.names)
            words = (
                tr("Working out the mixes of the box")
                if some
                else tr("Two paints or more are wanted before anything can be guessed.")
            )
            self.say(tr("Guess first"), words, "")
            return
        self.panels.setCurrentIndex(int(self.drawing))
        if self.drawing:
            if len(material.lattice.names) < 2:
                self.panels.setCurrentIndex(_NOTHING)
                self.say(
                    tr("Guess first"), tr("Two paints or more are wanted before a pair can be drawn."), ""
                )
                return
            self.say(
                tr("Guess first"), tr("A pair of the box, drawn by chance: guess, paint, read"), _DRAW_KEY
            )
            self.draws.refresh()
            return
        lacks = [why_not(material, kind) for kind in _ASKED[self.kinds.current]]
        if all(lacks):
            self.question = None
            self.panels.setCurrentIndex(_NOTHING)
            self.say(tr("Guess first"), lacks[0], "")
            return
        own = {name.casefold() for name in material.lattice.names}
        if (
            self.question is None
            or not {name.casefold() for name in self.question.names} <= own | material.read
        ):
            self.next_question()
        else:
            self._show()

    def next_question(self) -> None:
        """Ask another."""
        material = self.material()
        if material is None or self.drawing:
            return
        kinds = _ASKED[self.kinds.current]
        if all(why_not(material, kind) for kind in kinds):
            return
        with self.session.guarded():
            self.question = ask(material, self.rng, kinds, int(self.count.currentData()))
            self.done = False
            self.slider.setValue(PARTS_OF // 2)
            for button in self.options:
                button.setChecked(False)
                button.mark = ""
            self._lay_paints(self.question)
            self.verdict.setText("")
            self.verdict.setToolTip("")
            self.source.setText("")
            self._show()

    # ---- what is shown

    def _lay_paints(self, question: GuessQuestion) -> None:
        clear_layout(self.paints_row)
        self._taken = []
        large = 0 < len(question.candidates) <= max(CANDIDATES)
        self.paints = [PaintChoice(self.session, name, large) for name in question.candidates]
        for place, choice in enumerate(self.paints):
            choice.clicked.connect(lambda _=False, place=place: self.take_paint(place))
            self.paints_row.addWidget(choice)
            choice.show()

    def _show(self) -> None:
        question = self.question
        if question is None:
            return
        self.say(tr("Guess first"), tr("Training the eye on your own paints"), _KEYS[question.kind])
        self._show_head(question)
        which, parts = question.kind in (GuessKind.WHICH, GuessKind.DRIES), question.kind == GuessKind.PARTS
        self.options_area.setVisible(which)
        self.parts_area.setVisible(parts)
        self.paints_area.setVisible(question.kind == GuessKind.PAINTS)
        if which:
            for button, lab in zip(self.options, question.options, strict=True):
                button.colour = qcolor(lab)
                button.update()
        if parts:
            self._show_truth(self.wanted, question)
            self._show_parts()
        self._show_act()

    def _show_head(self, question: GuessQuestion) -> None:
        """What is given, and what is asked."""
        strokes = question.kind in (GuessKind.WHICH, GuessKind.PARTS)
        self.pair.setVisible(strokes)
        self.asked.setVisible(not strokes)
        self.asked_words.setVisible(question.kind == GuessKind.DRIES)
        wash = wash_words(question.wash).removeprefix(", ")
        full = not wash
        if strokes:
            self.pair.show_names(question.names)
        if question.kind == GuessKind.WHICH:
            a, b = question.parts
            self.asks.setText(
                tr("{a} : {b}, full wash. Which is the mix?", a=a, b=b)
                if full
                else tr("{a} : {b}, {wash}. Which is the mix?", a=a, b=b, wash=wash)
            )
        elif question.kind == GuessKind.PARTS:
            self.asks.setText(
                tr("This mix, a full wash: which parts make it?")
                if full
                else tr("This mix, {wash}: which parts make it?", wash=wash)
            )
        elif question.kind == GuessKind.PAINTS:
            self._show_truth(self.asked, question)
            self.asks.setText(
                tr("A full wash of two paints: which two?")
                if full
                else tr("{wash} of two paints: which two?", wash=capital(wash))
            )
        else:
            assert question.truth.wet is not None
            self.asked.show_colour(qcolor(question.truth.wet), recorded=True)
            self.asked_words.setText(tr("{what}, still wet", what=capital(spoken_recipe(question.recipe))))
            self.asks.setText(tr("Which of these is it when it is dry?"))

    def _show_truth(self, chip: Swatch, question: GuessQuestion) -> None:
        """What is asked about: its real paint where a picture showed it."""
        L, a, b = (float(value) for value in question.lab)
        if question.truth.painted:
            chip.show_read(qcolor(question.lab), real_of(self.session, question.recipe, (L, a, b)))
        else:
            chip.show_colour(qcolor(question.lab), recorded=False)

    def _show_act(self) -> None:
        question = self.question
        if question is None:
            return
        self.act.setText(tr("Next") if self.done else tr("Answer"))
        self.act.setEnabled(self.done or self._answer() is not None)

    def _parts(self) -> tuple[int, int]:
        second = self.slider.value()
        return PARTS_OF - second, second

    def _show_parts(self) -> None:
        question, lattice = self.question, self._lattice()
        if question is None or lattice is None or question.kind != GuessKind.PARTS:
            return
        given = mix(question.names, [float(part) for part in self._parts()], question.wash)
        a, b = whole_parts(given)
        self.parts_words.setText(f"{a} : {b}   {question.names[0]} : {question.names[1]}")
        if self.done:
            self.given.show_colour(qcolor(mixed(lattice.mixer, given)), recorded=False)
        else:
            self.given.show_colour(None, hint=tr("your mix shows here once you have answered"))

    # ---- answering

    def choose(self, place: int) -> None:
        """Choose one of the colours."""
        if self.question is None or self.question.kind not in (GuessKind.WHICH, GuessKind.DRIES) or self.done:
            return
        for other, button in enumerate(self.options):
            button.setChecked(other == place)
        self._show_act()

    def take_paint(self, place: int) -> None:
        """Choose a paint, or no longer; of three the one that was chosen first goes."""
        if self.question is None or self.done:
            for choice in self.paints:
                choice.setChecked(choice.name in self._taken)
            return
        name = self.paints[place].name
        self._taken = [other for other in self._taken if other != name] + (
            [name] if name not in self._taken else []
        )
        self._taken = self._taken[-_CHOSEN:]
        for choice in self.paints:
            choice.setChecked(choice.name in self._taken)
        self._show_act()

    def _answer(self) -> Answer | None:
        """What is chosen; None where nothing is yet."""
        question = self.question
        if question is None:
            return None
        if question.kind == GuessKind.PARTS:
            return self._parts()
        if question.kind == GuessKind.PAINTS:
            return (self._taken[0], self._taken[1]) if len(self._taken) == _CHOSEN else None
        return next((place for place, button in enumerate(self.options) if button.isChecked()), None)

    def go_on(self) -> None:
        """Answer, or the next question."""
        if self.done:
            self.next_question()
            return
        question, lattice, answer = self.question, self._lattice(), self._answer()
        if question is None or lattice is None or answer is None:
            return
        away = missed_by(question, lattice.mixer, answer)
        self.done = True
        with self.session.guarded():
            given = answer + 1 if isinstance(answer, int) else answer
            self.session.do(add_guess(self.session.file, question.kind, question.recipe, given, away))
        self._tell(question, answer, away)
        self._show()
        self.score.look()
        self.answered.emit(away)

    def _tell(self, question: GuessQuestion, answer: Answer, away: float) -> None:
        truth = spoken_recipe(question.recipe.with_wash(1.0))
        difference = capital(apart_words(away))
        right = away < 0.05
        if right:
            self.verdict.setText(tr("Right: {truth}.", truth=truth))
        elif question.kind == GuessKind.DRIES:
            self.verdict.setText(
                tr(
                    "{difference}: it dries to number {value}.",
                    difference=difference,
                    value=question.right + 1,
                )
            )
        elif isinstance(answer, int):
            self.verdict.setText(
                tr(
                    "{difference}: it is number {value}, {truth}.",
                    difference=difference,
                    value=question.right + 1,
                    truth=truth,
                )
            )
        elif question.kind == GuessKind.PAINTS and away < SEEN_RIGHT:
            self.verdict.setText(
                tr("It is {truth}, but your two get there as well: the eye sees no difference.", truth=truth)
            )
        elif question.kind == GuessKind.PAINTS:
            self.verdict.setText(
                tr(
                    "It is {truth}. The nearest that your two come: {difference}.",
                    truth=truth,
                    difference=apart_words(away),
                )
            )
        else:
            self.verdict.setText(tr("{difference}: it is {truth}.", difference=difference, truth=truth))
        if not right:
            self.verdict.setToolTip(as_tip(tr("a difference of {away}", away=decimal(f"{away:.1f}"))))
        if not question.truth.painted:
            self.source.setText(tr("As Culmo predicts it from your readings of both paints."))
        elif question.truth.where:
            self.source.setText(tr("As you painted and read it on “{title}”.", title=question.truth.where))
        else:
            self.source.setText(tr("As you painted and read it."))
        if isinstance(answer, int):
            self.options[question.right].mark = (
                tr("the mix") if question.kind == GuessKind.WHICH else tr("dry")
            )
            if answer != question.right:
                self.options[answer].mark = tr("your choice")
        for choice in self.paints:
            choice.mark = (
                tr("in it") if choice.name.casefold() in {n.casefold() for n in question.names} else ""
            )
            choice.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text().isdigit() and event.text() != "0":
            self._press(int(event.text()) - 1)
        elif (
            event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right)
            and self.parts_area.isVisible()
            and not self.done
        ):
            self.slider.setValue(self.slider.value() + (1 if event.key() == Qt.Key.Key_Right else -1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.drawing:
                self.draws.guess()
            else:
                self.go_on()
        else:
            super().keyPressEvent(event)

    def _press(self, place: int) -> None:
        """A digit was pressed."""
        if self.drawing:
            if place < len(self.draws.options):
                self.draws.choose(place)
        elif self.question is not None and self.question.kind == GuessKind.PAINTS:
            if place < len(self.paints):
                self.take_paint(place)
        elif place < OPTIONS:
            self.choose(place)
