"""Pairs drawn from the box to be painted: the guess before, the painted cell as the answer."""

from collections.abc import Callable
from datetime import datetime

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPalette
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.names import apart_words
from culmo.core.paint.recipe import format_recipe, spoken_recipe
from culmo.core.palette.guess import DRAW_OPTIONS, Draw, draw
from culmo.core.palette.lattice import Lattice
from culmo.desk.drawing.looks import fill_read, qcolor
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_painter, usual_width
from culmo.desk.guard import guarded
from culmo.desk.mix_acts import MixActs
from culmo.desk.rooms.weigh.guess_parts import OptionButton, TwoStrokes
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, px, sans
from culmo.desk.widgets import as_tip, clear_layout, draw_edge, text_label, title_label
from culmo.study import records
from culmo.study.guess_acts import (
    DrawnPair,
    add_draw,
    drawn_pairs,
    drop_draw,
    painted_truths,
    sheets_of_draws,
)
from culmo.words import capital, day_words, decimal, tr, trn

_PER_ROW = DRAW_OPTIONS // 2


@guarded
class DrawnRow(QWidget):
    """One drawn pair: its strokes, what was guessed, what was painted, what Culmo thought."""

    def __init__(self, session: Session, drawn: DrawnPair) -> None:
        super().__init__()
        self.session, self.drawn = session, drawn
        self.setMinimumHeight(px(46))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.title = spoken_recipe(drawn.recipe)
        self.words = self._words()
        self.setAccessibleName(f"{self.title}: {self.words}")
        numbers = [
            tr("your guess: a difference of {away}", away=decimal(f"{drawn.away:.1f}"))
            if drawn.away is not None
            else "",
            tr("Culmo: {away}", away=decimal(f"{drawn.predicted_away:.1f}"))
            if drawn.predicted_away is not None
            else "",
        ]
        self.setToolTip(as_tip("\n".join(part for part in (self.title, self.words, *numbers) if part)))

    def _words(self) -> str:
        drawn = self.drawn
        if drawn.away is None:
            day = day_words(datetime.fromisoformat(drawn.at), False)
            return tr("guessed on {day}; not painted and read yet", day=day)
        you = apart_words(drawn.away)
        if drawn.predicted_away is None:
            return tr("your guess: {you}", you=you)
        return tr("your guess: {you}; Culmo's: {culmo}", you=you, culmo=apart_words(drawn.predicted_away))

    def sizeHint(self) -> QSize:
        return QSize(px(320), px(46))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ratio = fine_ratio(self)
        x, drawn = 2.0, self.drawn
        for name in drawn.recipe.names:
            place = QRectF(x, 7, 52, 30)
            painter.fillRect(place, PAPER)
            draw_paint(painter, self.session.learning.looks, name, place.adjusted(2, 1, -2, -1), ratio, ratio)
            draw_edge(painter, place, name.casefold() not in self.session.learning.unread)
            x = place.right() + 5
        x += 6
        for lab, recorded in ((drawn.guess, False), (drawn.painted, True)):
            place = QRectF(x, 4, 40, 36)
            painter.fillRect(place, PAPER)
            inner = place.adjusted(2, 2, -2, -2)
            if lab is not None and recorded:
                L, a, b = (float(value) for value in lab)
                session = self.session
                patch = session.real_paint.of(format_recipe(drawn.recipe), (L, a, b))
                fill_read(painter, inner, (L, a, b), session.learning.looks, patch)
            elif lab is not None:
                painter.fillRect(inner, qcolor(np.asarray(lab)))
            draw_edge(painter, place, recorded and lab is not None)
            x = place.right() + (0 if not recorded else 10)
        painter.setPen(self.palette().color(QPalette.ColorRole.WindowText))
        painter.setFont(sans(10.5, sans().Weight.Medium))
        room = QRectF(x, 4, usual_width(self) - x, 20)
        metrics = painter.fontMetrics()
        painter.drawText(
            room, Qt.AlignmentFlag.AlignVCenter,
            metrics.elidedText(self.title, Qt.TextElideMode.ElideRight, int(room.width())),
        )  # fmt: skip
        painter.setFont(sans(10))
        room.translate(0, 19)
        painter.drawText(
            room, Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, int(room.width())),
        )  # fmt: skip


@guarded
class DrawPanel(QWidget):
    """A pair drawn by chance, the guess of how it will look, and all that were drawn before."""

    guessed = Signal()

    def __init__(self, session: Session, acts: MixActs, lattice: Callable[[], Lattice | None]) -> None:
        super().__init__()
        self.session, self.acts, self._lattice = session, acts, lattice
        self.rng = np.random.default_rng()
        self.drawn: Draw | None = None
        self.rows: list[DrawnRow] = []
        self._sheets: dict[int, int] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(STEP)
        self.what = text_label("", bold=True)
        self.asks = title_label(tr("How will it look when it is dry?"), 16)
        self.pair = TwoStrokes(session, 44, named=False)
        layout.addWidget(self.pair)
        layout.addWidget(self.what)
        layout.addWidget(self.asks)
        grid = QGridLayout()
        grid.setSpacing(STEP // 2)
        self.options = [OptionButton(number + 1, 88) for number in range(DRAW_OPTIONS)]
        for place, button in enumerate(self.options):
            button.setMinimumHeight(px(60))
            button.setMaximumHeight(px(104))
            button.clicked.connect(lambda _=False, place=place: self.choose(place))
            grid.addWidget(button, place // _PER_ROW, place % _PER_ROW)
        layout.addLayout(grid)
        acts_row = QHBoxLayout()
        self.keep = QPushButton(tr("That is my guess"))
        self.keep.setObjectName("strong")
        self.keep.clicked.connect(self.guess)
        self.another = QPushButton(tr("Draw another pair"))
        self.another.clicked.connect(self.draw_one)
        self.plan = QPushButton("")
        self.plan.clicked.connect(self.plan_waiting)
        for act in (self.keep, self.another):
            acts_row.addWidget(act)
        acts_row.addStretch(1)
        acts_row.addWidget(self.plan)
        layout.addLayout(acts_row)
        self.listed = text_label("", soft=True)
        layout.addWidget(self.listed)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        inner = QWidget()
        inner.setObjectName("ground")
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(0, 0, 0, 0)
        self.lines.setSpacing(2)
        self.area.setWidget(inner)
        layout.addWidget(self.area, 1)
        layout.addStretch(0)

    # ---- drawing and guessing

    def refresh(self) -> None:
        """The pair on the table, and what was drawn before."""
        lattice = self._lattice()
        if lattice is not None and (
            self.drawn is None or not set(self.drawn.recipe.names) <= set(lattice.names)
        ):
            self.draw_one()
        self._show()

    def draw_one(self) -> None:
        """Another pair, by chance."""
        lattice = self._lattice()
        if lattice is None:
            return
        study = self.session.file
        done = [one.recipe for one in painted_truths(study)] + [one.recipe for one in drawn_pairs(study)]
        with self.session.guarded():
            self.drawn = draw(
                lattice, [frozenset(n.casefold() for n in recipe.names) for recipe in done], self.rng
            )
        for button in self.options:
            button.setChecked(False)
        self._show()

    def choose(self, place: int) -> None:
        """This is how it will look."""
        for other, button in enumerate(self.options):
            button.setChecked(other == place)
        self._show_acts()

    def guess(self) -> None:
        """Write the guess down; it is answered by what will be painted."""
        chosen = [place for place, button in enumerate(self.options) if button.isChecked()]
        if self.drawn is None or not chosen:
            return
        pair = self.drawn
        with self.session.guarded():
            command = add_draw(self.session.file, pair.recipe, pair.options[chosen[0]], pair.predicted)
            if self.session.do(command):
                self.session.told.emit(
                    tr(
                        "Written down: paint {what} and read it; the painted cell answers",
                        what=spoken_recipe(pair.recipe),
                    )
                )
                self.draw_one()
                self.guessed.emit()

    def waiting(self) -> list[DrawnPair]:
        """Those that are not painted and stand on no sheet."""
        return [
            row.drawn for row in self.rows if row.drawn.painted is None and row.drawn.id not in self._sheets
        ]

    def plan_waiting(self) -> None:
        """A page of those that wait."""
        waiting = self.waiting()
        if waiting:
            self.acts.plan_page([one.recipe for one in waiting], tr("Pairs drawn to try"))

    def let_go(self, drawn: DrawnPair) -> None:
        """A drawn pair goes from the list."""
        with self.session.guarded():
            self.session.do(drop_draw(self.session.file, drawn.id))
            self.refresh()
            self.guessed.emit()

    # ---- what is shown

    def _show(self) -> None:
        pair = self.drawn
        if pair is not None:
            self.pair.show_names(pair.recipe.names)
            self.what.setText(capital(spoken_recipe(pair.recipe)))
            for button, lab in zip(self.options, pair.options, strict=True):
                button.colour = qcolor(lab)
                button.update()
        self._show_rows()
        self._show_acts()

    def _show_rows(self) -> None:
        clear_layout(self.lines)
        study = self.session.study
        self.rows = []
        pairs = drawn_pairs(study) if study is not None else []
        self._sheets = sheets_of_draws(study, pairs) if study is not None else {}
        for drawn in pairs:
            row = DrawnRow(self.session, drawn)
            self.rows.append(row)
            line = QWidget()
            across = QHBoxLayout(line)
            across.setContentsMargins(0, 0, 0, 0)
            across.addWidget(row, 1)
            sheet_id = self._sheets.get(drawn.id)
            if sheet_id is not None:
                title = records.sheet_record(self.session.file, sheet_id).sheet.title
                go = QPushButton(tr("To its sheet"))
                go.setToolTip(as_tip(title))
                go.clicked.connect(lambda _=False, sheet_id=sheet_id: self.acts.open_sheet(sheet_id))
                across.addWidget(go)
            drop = QPushButton(tr("Let go"))
            drop.setAccessibleName(tr("Let go of {name}", name=row.title))
            drop.clicked.connect(lambda _=False, drawn=drawn: self.let_go(drawn))
            across.addWidget(drop)
            self.lines.addWidget(line)
        self.lines.addStretch(1)
        self.listed.setText(
            tr("Drawn: your guess on the left, what you painted on the right")
            if self.rows
            else tr(
                "Nothing is drawn yet. A guess that is written down waits here until its cell is painted and read."
            )
        )

    def _show_acts(self) -> None:
        self.keep.setEnabled(self.drawn is not None and any(button.isChecked() for button in self.options))
        count = len(self.waiting())
        self.plan.setVisible(count > 0)
        self.plan.setText(trn("Plan a page of the {n} that waits", "Plan a page of the {n} that wait", count))
