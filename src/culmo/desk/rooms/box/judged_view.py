"""The set judged: what it does well, what is weak and might be replaced, what each considered paint is worth."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from culmo.core.paint.recipe import Recipe
from culmo.core.palette.judged import Weak, Worth
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.listing import lines_of_text, sized_swatch
from culmo.desk.rooms.box.findings import Findings
from culmo.desk.rooms.box.findings_view import Page
from culmo.desk.session import Session
from culmo.desk.widgets import as_tip, rule
from culmo.words import capital, decimal, listed, tr


class JudgedPage(Page):
    """A verdict on the box, as one would give it on a set that was bought."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Judged"))

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the verdict."""
        verdict = found.verdict
        self.begin()
        self.say(verdict.character, bold=True)
        if verdict.well:
            self.say(tr("It does well: {what}.", what="; ".join(verdict.well)))
        self.rows.addWidget(rule())
        if verdict.weak:
            self.say(tr("What is weak, and what might take its place"), bold=True)
        else:
            self.say(
                tr("No paint of it is weak: none fades by what is known, none is misnamed, none is double.")
            )
        for weak in verdict.weak:
            self._weak(weak)
        if found.additions:
            self.rows.addWidget(rule())
            self.say(tr("Worth adding (typical pigments, not yours)"), bold=True)
            more = [
                f"{entry.code} {entry.words} (+{decimal(f'{100 * entry.gain:.1f}')}\u00a0%)"
                for entry in found.additions
            ]
            self.say(capital("; ".join(more)) + ".")
        if verdict.worth:
            self.rows.addWidget(rule())
            self.say(tr("What each considered paint is worth"), bold=True)
            self.say(tr("How much more of a well-filled box would be reached with it."), soft=True)
            for worth in verdict.worth:
                self._worth(worth)
        self.end()

    def _weak(self, weak: Weak) -> None:
        chips = QWidget()
        line = QHBoxLayout(chips)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        table = pigment_table()
        for code in weak.codes:
            chip = sized_swatch(44, 34)
            chip.show_colour(qcolor(table[code].masstone), recorded=False)
            chip.setToolTip(as_tip(f"{code} {table[code].name}"))
            line.addWidget(chip)
        line.addStretch(1)
        chips.setFixedWidth(140)
        names = [f"{code} {table[code].name}" for code in weak.codes]
        instead = (
            tr("instead: {what}", what=listed(names)) if names else tr("nothing that keeps looks like it")
        )
        if weak.considered:
            instead = tr(
                "{words}; of those you consider {name} comes nearest", words=instead, name=weak.considered
            )
        words = lines_of_text(
            (weak.name, True, False),
            (capital("; ".join(weak.reasons)), False, False),
            (capital(instead), False, True),
        )
        self.row(self.stroke(weak.name), words, chips, stretch=1)

    def _worth(self, worth: Worth) -> None:
        gain = decimal(f"{100 * worth.gain:+.1f}")
        alone = tr("{gain} % added to the box", gain=gain)
        then = decimal(f"{100 * worth.then:+.1f}")
        place = (
            tr("in the place of {name}: {then} %", name=worth.instead_of, then=then)
            if worth.instead_of
            else ""
        )
        self.row(
            self.stroke(worth.name),
            lines_of_text((worth.name, True, False), (alone, False, False), (place, False, True)),
            stretch=1,
        )
