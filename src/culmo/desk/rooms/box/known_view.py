"""The page of the Box room's slip that shows what has been learned of a paint."""

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from culmo.core.paint.readings import Trust
from culmo.core.paint.recipe import mix
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.curves_view import CurvesView
from culmo.desk.rooms.box.known import (
    ReadingLine,
    curves,
    dilution_sentence,
    hand_sentence,
    reading_lines,
    strength_lines,
)
from culmo.desk.session import Session
from culmo.desk.theme import px
from culmo.desk.widgets import Slip, Swatch, clear_layout, rule, text_label, title_label
from culmo.study import acts
from culmo.words import tr


@guarded
class KnownPage(Slip):
    """Curves, strength, the hand, and the readings it all rests on."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.name = ""
        self.title = title_label("", 17)
        self.lines.addWidget(self.title)
        self.basis = text_label("", soft=True)
        self.lines.addWidget(self.basis)
        self.plot = CurvesView()
        self.lines.addWidget(self.plot)
        self.key = text_label(
            tr(
                "firm: absorption of a full wash, grey: nine in ten; broken: scattering. From violet "
                "(380) to red (730 nm)"
            ),
            soft=True,
            points=10,
        )
        self.lines.addWidget(self.key)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label(tr("Strength"), bold=True))
        self.strength = text_label("")
        self.lines.addWidget(self.strength)
        self.lines.addWidget(text_label(tr("Your hand"), bold=True))
        self.hand = text_label("")
        self.lines.addWidget(self.hand)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label(tr("It rests on these readings"), bold=True))
        self.lines.addWidget(
            text_label(tr("Untick one to put it aside and see what changes."), soft=True, points=10)
        )
        self.readings = QVBoxLayout()
        self.readings.setSpacing(6)
        self.lines.addLayout(self.readings)
        self.lines.addStretch(1)
        session.learning.learned.connect(self.refresh)
        session.selection.in_hand_changed.connect(self.refresh)

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
        estimate, study = self.session.learning.estimate, self.session.study
        known = bool(self.name) and estimate is not None and self.session.learning.knows(mix([self.name]))
        self.title.setText(self.name or tr("A new paint"))
        for widget in (self.plot, self.key, self.strength, self.hand):
            widget.setVisible(known)
        clear_layout(self.readings)
        if not known or estimate is None or study is None:
            need = self.session.learning.need_of(self.name)
            self.basis.setText(need or tr("What is learned of a paint stands here once it is in the box."))
            return
        typical = self.session.learning.typical(mix([self.name]))
        self.basis.setText(
            tr("typical, not yours: nothing of it has been read")
            if typical
            else tr("learned from your readings")
        )
        self.plot.show_curves(curves(estimate, self.name))
        others = strength_lines(estimate, self.name, self.session.selection.in_hand)
        self.strength.setText(
            "\n".join(others) or tr("Take other paints in hand (at the left) to compare its strength.")
        )
        self.hand.setText(
            "\n".join(
                filter(None, (hand_sentence(estimate, self.name), dilution_sentence(estimate, self.name)))
            )
        )
        for line in reading_lines(study, self.name, self.session.learning.weights):
            self.readings.addWidget(self._line(line))
        self.lay_out()

    def _line(self, line: ReadingLine) -> QWidget:
        widget = QWidget()
        row = QHBoxLayout(widget)
        row.setContentsMargins(0, 0, 0, 0)
        box = QCheckBox()
        box.setChecked(line.taken_in)
        box.setAccessibleName(tr("Learn from {what}", what=f"{line.text}, {line.origin}"))
        box.clicked.connect(lambda taken, row_id=line.id: self._trust(row_id, taken))
        chip = Swatch(22)
        chip.setFixedWidth(px(34))
        chip.show_colour(qcolor(line.lab))
        row.addWidget(box)
        row.addWidget(chip)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(text_label(line.text + (tr("  (odd)") if line.odd else ""), soft=not line.taken_in))
        words.addWidget(text_label(line.origin, soft=True, points=9.5))
        row.addLayout(words, 1)
        return widget

    def _trust(self, row_id: int, taken: bool) -> None:
        self.session.do(acts.set_trust(self.session.file, row_id, Trust.GOOD if taken else Trust.EXCLUDED))
