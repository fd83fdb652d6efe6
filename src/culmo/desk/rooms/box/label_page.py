"""The page of the Box room's slip with what the codes say, what the label claims, and what the card showed."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from culmo.data import pigment_table
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.label_model import view_label
from culmo.desk.session import Session
from culmo.desk.widgets import Slip, clear_layout, rule, text_label, title_label
from culmo.words import tr


@guarded
class LabelPage(Slip):
    """Pigments spelt out, claims beside tests, lightfastness, cautions."""

    refill = Signal()
    plan_card = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.name = ""
        self.title = title_label("", 17)
        self.lines.addWidget(self.title)
        self.count = text_label("", soft=True)
        self.lines.addWidget(self.count)
        self.pigments = QVBoxLayout()
        self.pigments.setSpacing(4)
        self.lines.addLayout(self.pigments)
        self.lines.addWidget(rule())
        self.heads = text_label(tr("The label, and below it your own card"), bold=True)
        self.lines.addWidget(self.heads)
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(10)
        self.table.setVerticalSpacing(1)
        self.table.setColumnStretch(1, 1)
        self.lines.addLayout(self.table)
        self.cells: list[QLabel] = []
        self.lightfast = text_label("", points=10)
        self.lines.addWidget(self.lightfast)
        buttons = QHBoxLayout()
        self.card_button = QPushButton(tr("Plan its card…"))
        self.card_button.clicked.connect(self.plan_card.emit)
        self.refill_button = QPushButton(tr("Refill…"))
        self.refill_button.setToolTip(tr("Another paint takes its place"))
        self.refill_button.clicked.connect(self.refill.emit)
        for button in (self.card_button, self.refill_button):
            button.setStyleSheet("padding: 6px 8px;")
        buttons.addWidget(self.card_button, 1)
        buttons.addWidget(self.refill_button)
        self.lines.addLayout(buttons)
        self.lines.addWidget(rule())
        self.caution_title = text_label(tr("! Cautions"), bold=True)
        self.lines.addWidget(self.caution_title)
        self.cautions = text_label("", points=10)
        self.lines.addWidget(self.cautions)
        self.lines.addStretch(1)
        session.learning.learned.connect(self.refresh)

    def show_paint(self, name: str) -> None:
        """Show another paint."""
        self.name = name
        self.refresh()

    def showEvent(self, _: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Show what is known now."""
        if not self.isVisible():
            return
        paint = next((paint for paint in self.session.paints if paint.name == self.name), None)
        clear_layout(self.pigments)
        for cell in self.cells:
            cell.hide()
            cell.deleteLater()
        self.cells = []
        known = paint is not None
        for widget in (
            self.heads, self.lightfast, self.card_button, self.refill_button, self.caution_title, self.cautions,
        ):  # fmt: skip
            widget.setVisible(known)
        self.title.setText(self.name or tr("A new paint"))
        if paint is None or self.session.study is None:
            self.count.setText(tr("What its codes say stands here once it is in the box."))
            return
        view = view_label(
            self.session.study, paint, self.session.paints, self.session.learning.estimate, pigment_table()
        )
        self.count.setText(view.count)
        for text in view.pigments:
            self.pigments.addWidget(text_label(text, points=10))
        for row, line in enumerate(view.lines):
            self._cell(2 * row, 0, text_label(line.word, bold=True, points=10))
            self._cell(2 * row, 1, text_label(line.claim, points=10))
            self._cell(2 * row + 1, 1, text_label(line.test, soft=True, points=10))
        self.lightfast.setText(view.lightfast[:1].upper() + view.lightfast[1:] + ".")
        self.cautions.setText("\n".join(view.cautions))
        self.lay_out()

    def _cell(self, row: int, column: int, label: QLabel) -> None:
        if column == 0:
            label.setWordWrap(False)
        self.table.addWidget(label, row, column)
        self.cells.append(label)
