"""Daybook: what happened, by date, and free notes."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.rooms.daybook.model import Line, days
from culmo.desk.session import Session
from culmo.desk.theme import STEP, sans
from culmo.desk.widgets import Entry, Room, clear_layout, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import acts


class DaybookRoom(Room):
    """The studio's days."""

    go_to_sheet = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        main = QVBoxLayout(self)
        main.setContentsMargins(3 * STEP, STEP, 3 * STEP, STEP)
        main.addWidget(title_label("Daybook", 18))
        row = QHBoxLayout()
        self.note = Entry("Write down what you saw or decided", "A note for today")
        self.note.returnPressed.connect(self.add_note)
        self.add = QPushButton("Add note")
        self.add.clicked.connect(self.add_note)
        row.addWidget(self.note, 1)
        row.addWidget(self.add)
        main.addLayout(row)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        inner = QWidget()
        inner.setObjectName("ground")
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(0, STEP, STEP, STEP)
        self.lines.setSpacing(4)
        area.setWidget(inner)
        main.addWidget(area, 1)
        session.opened.connect(self.refresh_when_seen)
        session.changed.connect(self.refresh_when_seen)

    def refresh(self) -> None:
        """Write the days anew."""
        clear_layout(self.lines)
        study = self.session.study
        self.note.setEnabled(study is not None)
        self.add.setEnabled(study is not None)
        found = days(study) if study is not None else []
        if not found:
            self.lines.addWidget(
                text_label("Nothing has happened yet. What you do is written down here, by date.", soft=True)
            )
        for day in found:
            self.lines.addSpacing(STEP)
            self.lines.addWidget(title_label(day.title, 13))
            for line in day.lines:
                self.lines.addWidget(self._line(line))
        self.lines.addStretch(1)

    def _line(self, line: Line) -> QWidget:
        widget = QWidget()
        row = QHBoxLayout(widget)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(STEP)
        for text, width in ((line.time, 48), (line.kind, 56)):
            label = QLabel(text)
            label.setObjectName("soft")
            label.setFont(sans(10.5))
            label.setFixedWidth(width)
            label.setAlignment(Qt.AlignmentFlag.AlignVCenter)
            row.addWidget(label)
        row.addWidget(text_label(line.text), 1)
        if line.sheet_id is not None:
            button = QToolButton()
            button.setText("Open sheet")
            button.setAutoRaise(True)
            button.setFont(sans(10))
            button.clicked.connect(lambda _=False, sheet_id=line.sheet_id: self.go_to_sheet.emit(sheet_id))
            row.addWidget(button)
        return widget

    def add_note(self) -> None:
        """Save the note."""
        try:
            command = acts.add_note(self.session.file, self.note.text())
        except CulmoError as error:
            self.session.told.emit(str(error))
            return
        if self.session.do(command):
            self.note.clear()
