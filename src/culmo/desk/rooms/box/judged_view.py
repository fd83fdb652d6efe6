"""The set judged: what it does well, what is weak and might be replaced, what each considered paint is worth."""

from collections.abc import Generator

from PySide6.QtCore import QRectF, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from culmo.core.colour.names import apart_words
from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.core.palette.judged import Weak, WorthOfSet
from culmo.core.palette.lattice import building
from culmo.core.palette.subjects import SERVED, SUBJECTS, SubjectServed, all_round, serving
from culmo.core.steps import scaled
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.listing import lines_of_text, sized_swatch
from culmo.desk.rooms.box.findings import Findings
from culmo.desk.rooms.box.findings_view import FindingPage
from culmo.desk.session import Session
from culmo.desk.theme import px
from culmo.desk.widgets import as_tip, rule
from culmo.words import capital, decimal, listed, tr


@guarded
class SubjectStrip(QWidget):
    """The colours of a subject over the nearest mixes of a box; what is missed is struck through."""

    def __init__(self, served: SubjectServed) -> None:
        super().__init__()
        self.served = served
        self.setFixedSize(14 * max(len(subject.colours) for subject in SUBJECTS), 40)
        names = [tr(name) for name, _ in served.subject.colours]
        lines = [
            f"{name}: {spoken_recipe(recipe)}, {apart_words(float(away))}"
            for name, recipe, away in zip(names, served.recipes, served.away, strict=True)
        ]
        self.setToolTip(as_tip("\n".join(lines)))
        self.setAccessibleName(f"{tr(served.subject.title)}: {served.words}")

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        for place, (_name, wanted) in enumerate(self.served.subject.colours):
            box = QRectF(14.0 * place, 0.0, 13.0, 20.0)
            painter.fillRect(box, qcolor(wanted))
            lab = self.served.lab[place]
            painter.fillRect(box.translated(0, 20.0), qcolor((float(lab[0]), float(lab[1]), float(lab[2]))))
            if self.served.away[place] >= SERVED:
                whole = box.adjusted(1, 1, -1, 19)
                for colour, width in ((QColor(250, 250, 250), 3.5), (strong, 1.4)):
                    painter.setPen(QPen(colour, width))
                    painter.drawLine(whole.bottomLeft(), whole.topRight())


class JudgedPage(FindingPage):
    """A verdict on the box, as one would give it on a set that was bought."""

    subject_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Judged"))
        self.served: list[SubjectServed] = []
        self._served_of: Findings | None = None
        self._asked: tuple[Findings, Recipe | None] | None = None

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the verdict."""
        verdict = found.verdict
        self._asked = found, in_hand
        if found is not self._served_of:
            self.served, self._served_of = [], found
            self._look_at_subjects(found)
        self.begin()
        self.say(verdict.character, bold=True)
        if verdict.well:
            self.say(tr("It does well: {what}.", what="; ".join(verdict.well)))
        self._subjects()
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

    def _look_at_subjects(self, found: Findings) -> None:
        def steps() -> Generator[float, None, list[SubjectServed]]:
            lattice = yield from scaled(building(found.mixer), 0.0, 0.5)
            return (yield from scaled(serving(lattice), 0.5, 1.0))

        def have(served: list[SubjectServed]) -> None:
            if self._asked is not None and self._served_of is found:
                self.served = served
                self.show_findings(*self._asked)

        if found.names:
            self.session.runner.start("subjects", steps, have, self.session.failed.emit)

    def _subjects(self) -> None:
        """How the box serves what is usually painted."""
        self.rows.addWidget(rule())
        self.say(tr("For what you paint"), bold=True)
        if not self.served:
            self.say(tr("Looking at its mixes."), soft=True)
            return
        self.say(
            tr(
                "All round {share:.0f} %: so many of the colours that these subjects ask for are met or just visibly "
                "missed. Above the colour that is asked for, below the nearest mix.",
                share=100.0 * all_round(self.served),
            ),
            soft=True,
        )
        for one in self.served:
            strip = SubjectStrip(one)
            title = tr(one.subject.title)
            words = lines_of_text((title, True, False), (capital(one.words), False, False))
            choose = QPushButton(tr("Choose paints…"))
            choose.setStyleSheet("padding: 6px 8px;")
            choose.setAccessibleName(tr("Choose paints for {title}", title=title))
            choose.setToolTip(
                tr(
                    "Makes it a list of wanted colours, which you can change, and looks for the fewest paints for it"
                )
            )
            choose.clicked.connect(lambda _=False, key=one.subject.key: self.subject_wanted.emit(key))
            self.row(strip, words, choose, stretch=1)

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
        chips.setFixedWidth(px(140))
        names = [f"{code} {table[code].name}" for code in weak.codes]
        instead = tr("instead: {what}", what=listed(names)) if names else ""
        if not names and not weak.double:
            instead = tr("nothing that keeps looks like it")
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

    def _worth(self, worth: WorthOfSet) -> None:
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
