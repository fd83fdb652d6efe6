"""Paint room: one cell at a time, large, by keys alone."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QFont, QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)

from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.rooms.paint.model import Run, RunState, clock_words, place_words, recipe_words, wash_words
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import STEP, sans
from culmo.desk.widgets import Room, Swatch, rule, text_label, title_label
from culmo.study import acts, records

Now = Callable[[], datetime]
KEYS = "Space: done     Backspace: take back     S: skip     Esc: to the plan"


def _big(points: float, weight: QFont.Weight = QFont.Weight.Normal) -> QLabel:
    label = QLabel()
    label.setFont(sans(points, weight))
    label.setWordWrap(True)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label


class PaintRoom(Room):
    """The run at the table."""

    def __init__(
        self, session: Session, state: SheetState, now: Now = lambda: datetime.now().astimezone()
    ) -> None:
        super().__init__()
        self.session, self.sheet_state, self.now = session, state, now
        self.run: Run | None = None
        self.state: RunState | None = None
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Painting, one cell at a time")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(3 * STEP, 2 * STEP, 3 * STEP, STEP)
        layout.setSpacing(3 * STEP)
        layout.addLayout(self._act(), 5)
        layout.addLayout(self._aside(), 4)
        self.timer = QTimer(self)
        self.timer.setInterval(1000)
        self.timer.timeout.connect(self._tick)
        state.updated.connect(self.refresh_when_seen)
        self.refresh()

    def _act(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.where = _big(17)
        self.recipe = _big(34, QFont.Weight.DemiBold)
        self.recipe.setMinimumWidth(340)
        self.wash = _big(19)
        self.puddle = _big(17)
        self.swatch = Swatch(150)
        self.swatch.setMinimumHeight(56)
        self.swatch.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.wait = _big(22, QFont.Weight.DemiBold)
        for widget in (self.where, self.recipe, self.wash, self.puddle):
            column.addWidget(widget)
        column.addSpacing(STEP)
        column.addWidget(self.swatch, 4)
        column.addWidget(self.wait)
        column.addStretch(1)
        buttons = QHBoxLayout()
        self.done_button = QPushButton("Done")
        self.done_button.setObjectName("strong")
        self.back_button = QPushButton("Take back")
        self.skip_button = QPushButton("Skip")
        for button, act in (
            (self.done_button, self.done),
            (self.back_button, self.take_back),
            (self.skip_button, self.skip),
        ):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setFont(sans(14))
            button.setMinimumHeight(48)
            button.clicked.connect(act)
            buttons.addWidget(button, 2 if button is self.done_button else 1)
        column.addLayout(buttons)
        self.keys = text_label(KEYS, soft=True, points=11)
        column.addWidget(self.keys)
        return column

    def _aside(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.title = title_label("", 18)
        self.view = SheetView()
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.progress_words = _big(15)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(10)
        column.addWidget(self.title)
        column.addWidget(self.view, 1)
        column.addWidget(self.progress_words)
        column.addWidget(self.progress)
        column.addSpacing(STEP)
        self.rule = rule()
        column.addWidget(self.rule)
        self.next_title = _big(13, QFont.Weight.DemiBold)
        column.addWidget(self.next_title)
        self.upcoming = [_big(13) for _ in range(3)]
        for label in self.upcoming:
            column.addWidget(label)
        self.caution = text_label(
            "Do not point the brush with the lips. Labels and local rules come first.", soft=True, points=10
        )
        column.addWidget(self.caution)
        return column

    def refresh(self) -> None:
        """Show where the run stands."""
        record = self.sheet_state.record
        if record is None:
            self.run, self.state = None, None
        else:
            if self.run is None or self.run.record is not record:
                self.run = Run(record)
            strokes = records.painted_cells(self.session.file, record.id)
            self.state = self.run.state(strokes, self.now())
        self._show()

    def _tick(self) -> None:
        """Only the clock moves between two acts."""
        if self.isVisible() and self.state is not None and self.state.wait_minutes > 0:
            self.refresh()

    def _show(self) -> None:
        state, record = self.state, self.sheet_state.record
        known = state is not None and record is not None
        for widget in (
            self.done_button,
            self.back_button,
            self.skip_button,
            self.progress,
            self.keys,
            self.caution,
            self.view,
            self.rule,
        ):
            widget.setVisible(known)
        if state is None or record is None:
            for label in (
                self.where,
                self.wash,
                self.puddle,
                self.progress_words,
                self.next_title,
                *self.upcoming,
            ):
                label.setText("")
            self.recipe.setText("Nothing to paint yet")
            self.wash.setText("Plan a sheet first; then it is painted here, one cell at a time.")
            self.title.setText("")
            self.wait.setText("")
            self.swatch.setVisible(False)
            self.view.show_sheet(None, None, SheetStyle())
            return
        self.title.setText(record.sheet.title)
        self.progress.setRange(0, state.total)
        self.progress.setValue(state.done)
        left = f", about {clock_words(state.minutes_left)} left" if state.current else ""
        skipped = f", {state.skipped} skipped" if state.skipped else ""
        self.progress_words.setText(f"{state.done} of {state.total} painted{skipped}{left}")
        self.view.show_sheet(
            record.sheet, self.session.looks, SheetStyle(show="progress", looks=self.sheet_state.looks)
        )
        self.back_button.setEnabled(bool(state.done or state.skipped))
        self._show_current(state)

    def _show_current(self, state: RunState) -> None:
        cell = state.current
        self.done_button.setEnabled(cell is not None and state.wait_minutes <= 0)
        self.skip_button.setEnabled(cell is not None)
        self.swatch.setVisible(cell is not None)
        self.next_title.setText("Then" if state.upcoming else "")
        for label, upcoming in zip(self.upcoming, (*state.upcoming, None, None, None), strict=False):
            label.setText(f"{place_words(upcoming)}:  {spoken_recipe(upcoming.recipe)}" if upcoming else "")
        if cell is None:
            self.where.setText("")
            self.recipe.setText("All cells are painted")
            self.wash.setText(
                "Let the sheet dry through, a day is best. Then rub out the pencil and read it."
            )
            self.puddle.setText("")
            self.wait.setText("")
            self.view.select("")
            return
        self.view.select(cell.id)
        self.where.setText(f"Cell {cell.order}, {place_words(cell)}")
        self.recipe.setText("\n".join(recipe_words(cell)))
        self.wash.setText(wash_words(cell))
        again = (
            "the puddle that is on the tray" if state.same_puddle else "a new puddle; rinse the brush first"
        )
        self.puddle.setText(again)
        looks = self.session.looks
        if looks is not None and self.session.knows(cell.recipe):
            self.swatch.show_image(lambda w, h, r: looks.wash(cell.recipe, w, h, cell.id, r))
        else:
            self.swatch.show_colour(None, hint="Nothing is known of this paint yet")
        waiting = state.wait_minutes > 0
        self.wait.setText(
            f"Wait {clock_words(state.wait_minutes)}: a neighbour is still wet"
            if waiting
            else "May be painted now"
        )
        if waiting and not self.timer.isActive():
            self.timer.start()
        elif not waiting:
            self.timer.stop()

    # ---- the acts

    def done(self) -> None:
        """The cell is painted."""
        self._stroke("done")

    def skip(self) -> None:
        """The cell is left for the end."""
        self._stroke("skip")

    def _stroke(self, act: str) -> None:
        state, record = self.state, self.sheet_state.record
        if state is None or record is None or state.current is None:
            return
        if act == "done" and state.wait_minutes > 0:
            self.session.told.emit("A neighbour is still wet; press S to leave this cell for later")
            return
        entry = record.by_cell()[state.current.id]
        at = self.now().isoformat(timespec="seconds")
        self.session.do(acts.paint_cell(self.session.file, record.id, entry.id, act, at=at))

    def take_back(self) -> None:
        """The last stroke is taken back."""
        if self.sheet_state.record is not None:
            self.session.do(acts.take_back(self.session.file, self.sheet_state.record.id))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        acts_by_key = {
            Qt.Key.Key_Space: self.done,
            Qt.Key.Key_Return: self.done,
            Qt.Key.Key_Enter: self.done,
            Qt.Key.Key_Backspace: self.take_back,
            Qt.Key.Key_S: self.skip,
        }
        act = acts_by_key.get(Qt.Key(event.key()))
        if act is not None:
            act()
        else:
            super().keyPressEvent(event)
