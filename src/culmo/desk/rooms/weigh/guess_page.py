"""Guess first: a small trainer for the eye, drawn from the painter's own paints."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.recipe import spoken_recipe
from culmo.core.palette.guess import OPTIONS, PARTS_OF, WHICH, Question, ask, missed_by, mixed
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import PENCIL, STEP, sans
from culmo.desk.widgets import Slip, Swatch, rule, text_label, title_label
from culmo.study.palette_acts import GuessDay, add_guess, guess_days
from culmo.words import tr, trn

_KEY = tr("1 to 4 choose    left and right set the parts    Enter answers, and asks the next")


@guarded
class OptionButton(QAbstractButton):
    """One of the colours to choose from."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self.number = number
        self.colour: QColor | None = None
        self.mark = ""
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)
        self.setAccessibleName(tr("Mix number {number}", number=number))

    def sizeHint(self) -> QSize:
        return QSize(150, 160)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        box = QRectF(self.rect()).adjusted(3, 3, -3, -28)
        if self.colour is not None:
            painter.fillRect(box, self.colour)
        pen = QPen(PENCIL, 1.0, Qt.PenStyle.DashLine)
        painter.setPen(QPen(strong, 2.6) if self.isChecked() or self.hasFocus() else pen)
        painter.drawRect(box)
        painter.setPen(strong)
        painter.setFont(sans(11, sans().Weight.DemiBold))
        text = f"{self.number}" + (f"   {self.mark}" if self.mark else "")
        painter.drawText(QRectF(0, box.bottom() + 4, self.width(), 22), Qt.AlignmentFlag.AlignCenter, text)


@guarded
class ScoreCurve(QWidget):
    """How far the guesses were off, day by day."""

    def __init__(self) -> None:
        super().__init__()
        self.days: list[GuessDay] = []
        self.setFixedHeight(120)
        self.setAccessibleName(tr("How far the guesses were off, day by day"))

    def show_days(self, days: list[GuessDay]) -> None:
        """Show other days."""
        self.days = days[-30:]
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self.days:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        soft = self.palette().color(QPalette.ColorRole.PlaceholderText)
        area = QRectF(26, 8, self.width() - 36, self.height() - 32)
        top = max(5.0, *(day.away for day in self.days))
        painter.setPen(QPen(soft, 1.0))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setFont(sans(10))
        for value in (0.0, top):
            y = area.bottom() - value / top * area.height()
            painter.drawText(
                QRectF(0, y - 9, 22, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{value:.0f}",
            )
        span = max(len(self.days) - 1, 1)
        places = [
            QPointF(
                area.left() + 6 + i / span * (area.width() - 12),
                area.bottom() - day.away / top * area.height(),
            )
            for i, day in enumerate(self.days)
        ]
        painter.setPen(QPen(strong, 1.5))
        painter.drawPolyline(places)
        painter.setBrush(strong)
        for place in places:
            painter.drawEllipse(place, 3.2, 3.2)
        painter.setPen(soft)
        under = QRectF(area.left(), area.bottom() + 5, area.width(), 18)
        painter.drawText(under, Qt.AlignmentFlag.AlignLeft, self.days[0].date)
        if len(self.days) > 1:
            painter.drawText(under, Qt.AlignmentFlag.AlignRight, self.days[-1].date)


@guarded
class GuessPage(WeighPage):
    """A question, an answer, a score."""

    answered = Signal(float)

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        self.rng = np.random.default_rng()
        self.question: Question | None = None
        self.done = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, STEP, 0, 0)
        layout.setSpacing(STEP)
        self.strokes = [Swatch(72), Swatch(72)]
        self.names = [text_label("", bold=True), text_label("", bold=True)]
        line = QHBoxLayout()
        line.setSpacing(2 * STEP)
        for stroke, name in zip(self.strokes, self.names, strict=True):
            column = QVBoxLayout()
            column.addWidget(stroke)
            column.addWidget(name)
            line.addLayout(column)
        layout.addLayout(line)
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
        self.parts_area = QWidget()
        column = QVBoxLayout(self.parts_area)
        column.setContentsMargins(0, 0, 0, 0)
        both = QHBoxLayout()
        self.wanted, self.given = Swatch(220), Swatch(220)
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
        layout.addWidget(self.parts_area, 1)
        self.verdict = text_label("", bold=True, points=12)
        layout.addWidget(self.verdict)
        self.act = QPushButton(tr("Answer"))
        self.act.setObjectName("strong")
        self.act.clicked.connect(self.go_on)
        layout.addWidget(self.act, 0, Qt.AlignmentFlag.AlignLeft)
        self.slip = self._make_slip()
        weighing.mixes_ready.connect(lambda: self.refresh() if self.isVisible() else None)

    def _make_slip(self) -> Slip:
        slip = Slip()
        slip.lines.addWidget(title_label(tr("Your eye"), 17))
        self.score_words = text_label("", soft=True)
        self.curve = ScoreCurve()
        slip.lines.addWidget(self.score_words)
        slip.lines.addWidget(self.curve)
        slip.lines.addWidget(text_label(tr("the mean difference of a day's guesses"), soft=True, points=10))
        slip.lines.addWidget(rule())
        slip.lines.addWidget(
            text_label(
                tr(
                    "Two strokes and the parts are shown: which is their mix? Or the mix is shown: which "
                    "parts make it? All of it is drawn from the paints of the box in use, as Culmo has "
                    "learned them from your own readings."
                ),
                soft=True,
            )
        )
        slip.lines.addStretch(1)
        return slip

    def refresh(self) -> None:
        """The question on the table, or the first one."""
        self._show_score()
        ready = self.weighing.want_mixes() and self.weighing.mixes is not None
        few = ready and self.weighing.mixes is not None and len(self.weighing.mixes.names) < 2
        for widget in (*self.strokes, *self.names, self.options_area, self.parts_area, self.act):
            widget.setVisible(bool(ready) and not few)
        if not ready or few:
            words = (
                tr("Working out the mixes of the box")
                if not few and self.weighing.names
                else tr("Two paints or more are wanted before anything can be guessed.")
            )
            self.say(tr("Guess first"), words, "")
            self.asks.setText("")
            return
        self.say(tr("Guess first"), tr("A small trainer for the eye, from your own paints"), _KEY)
        assert self.weighing.mixes is not None
        names = self.weighing.mixes.names
        if self.question is None or not {self.question.first, self.question.second} <= set(names):
            self.next_question()
        else:
            self._show()

    def next_question(self) -> None:
        """Ask another."""
        if self.weighing.mixes is None:
            return
        with self.session.guarded():
            self.question = ask(self.weighing.mixes.lattice, self.rng)
            self.done = False
            self.slider.setValue(PARTS_OF // 2)
            for button in self.options:
                button.setChecked(False)
                button.mark = ""
            self.verdict.setText("")
            self._show()

    def _show(self) -> None:
        question = self.question
        if question is None:
            return
        for chip, label, name in zip(
            self.strokes, self.names, (question.first, question.second), strict=True
        ):
            label.setText(name)
            chip.show_paint(self.session.looks, name, name.casefold() not in self.session.unread)
        which = question.kind == WHICH
        self.options_area.setVisible(which)
        self.parts_area.setVisible(not which)
        wash = {1.0: tr("at a full wash"), 0.5: tr("at half strength"), 0.25: tr("as a tint")}[question.wash]
        if which:
            a, b = question.parts
            self.asks.setText(tr("{a} : {b}, {wash}. Which is the mix?", a=a, b=b, wash=wash))
            for button, lab in zip(self.options, question.options, strict=True):
                button.colour = qcolor(lab)
                button.update()
        else:
            self.asks.setText(tr("This mix, {wash}: which parts make it?", wash=wash))
            self.wanted.show_colour(qcolor(question.lab), recorded=False)
            self._show_parts()
        self.act.setText(tr("Next") if self.done else tr("Answer"))
        self.act.setEnabled(self.done or not which or any(button.isChecked() for button in self.options))

    def _parts(self) -> tuple[int, int]:
        second = self.slider.value()
        return PARTS_OF - second, second

    def _show_parts(self) -> None:
        question, mixes = self.question, self.weighing.mixes
        if question is None or mixes is None:
            return
        a, b = self._parts()
        self.parts_words.setText(f"{a} : {b}   {question.first} : {question.second}")
        if self.done:
            places = self.weighing.places([question.first, question.second])
            lab = mixed(mixes.lattice.mixer, places[0], places[1], (a, b), question.wash)
            self.given.show_colour(qcolor(lab), recorded=False)
        else:
            self.given.show_colour(None, hint=tr("your mix shows here once you have answered"))

    # ---- answering

    def choose(self, place: int) -> None:
        """Choose one of the colours."""
        if self.question is None or self.question.kind != WHICH or self.done:
            return
        for other, button in enumerate(self.options):
            button.setChecked(other == place)
        self.act.setEnabled(True)

    def go_on(self) -> None:
        """Answer, or the next question."""
        if self.done:
            self.next_question()
            return
        question, mixes = self.question, self.weighing.mixes
        if question is None or mixes is None:
            return
        answer: int | tuple[int, int]
        if question.kind == WHICH:
            chosen = [place for place, button in enumerate(self.options) if button.isChecked()]
            if not chosen:
                return
            answer = chosen[0]
        else:
            answer = self._parts()
        away = missed_by(question, mixes.lattice.mixer, answer)
        self.done = True
        with self.session.guarded():
            text = str(answer + 1) if isinstance(answer, int) else f"{answer[0]}:{answer[1]}"
            self.session.do(add_guess(self.session.file, question.kind, question.recipe, text, away))
        self._tell(answer, away)
        self._show()
        self._show_score()
        self.answered.emit(away)

    def _tell(self, answer: int | tuple[int, int], away: float) -> None:
        assert self.question is not None
        truth = spoken_recipe(self.question.recipe.with_wash(1.0))
        if away < 0.05:
            self.verdict.setText(tr("Right: {truth}.", truth=truth))
        elif isinstance(answer, int):
            self.verdict.setText(
                tr(
                    "Off by {away:.1f}: it is number {value}, {truth}.",
                    away=away,
                    value=self.question.right + 1,
                    truth=truth,
                )
            )
        else:
            self.verdict.setText(tr("Off by {away:.1f}: it is {truth}.", away=away, truth=truth))
        if isinstance(answer, int):
            self.options[self.question.right].mark = tr("the mix")
            if answer != self.question.right:
                self.options[answer].mark = tr("off by {away:.1f}", away=away)

    def _show_score(self) -> None:
        days = guess_days(self.session.study) if self.session.study is not None else []
        self.curve.show_days(days)
        self.curve.setVisible(bool(days))
        if not days:
            self.score_words.setText(
                tr("No guess yet. Each answer counts, the wrong ones most: they show where to look.")
            )
            return
        count = sum(day.count for day in days)
        right = sum(day.right for day in days)
        last = days[-1]
        self.score_words.setText(
            trn(
                "{n} guess, {right} right to the eye; on the last day off by {away:.1f} on average.",
                "{n} guesses, {right} right to the eye; on the last day off by {away:.1f} on average.",
                count,
                right=right,
                away=last.away,
            )
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text() and event.text() in "1234"[:OPTIONS]:
            self.choose(int(event.text()) - 1)
        elif (
            event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right)
            and self.parts_area.isVisible()
            and not self.done
        ):
            self.slider.setValue(self.slider.value() + (1 if event.key() == Qt.Key.Key_Right else -1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.go_on()
        else:
            super().keyPressEvent(event)
