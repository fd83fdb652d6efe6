"""What a box can do, as pages of strokes and washes: roles, repeats, gaps, opposites."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QWidget,
)

from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe, in_proportion, spoken_recipe
from culmo.core.palette.alike import stand_ins
from culmo.core.palette.missing import Gap
from culmo.core.palette.opposites import Opposite
from culmo.core.palette.roles import Filled, fill_roles, role_sentence, worst_filled
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.listing import Listing, lines_of_text, sized_swatch
from culmo.desk.rooms.box.findings import Findings, Repeat
from culmo.desk.rooms.box.reach_figure import ReachFigure
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Swatch, as_tip, rule
from culmo.study import box_acts
from culmo.study.box_records import given_roles
from culmo.words import decimal, listed, tr

_AS_FOUND = tr("as found")


class FindingPage(Listing):
    """A page of what was found."""

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show what was found; `in_hand` is the mix on the dab."""
        raise AssertionError("each page says what it shows")


def _in_short(recipe: Recipe) -> str:
    parts = recipe.layers[0].parts
    amounts = in_proportion(part.parts for part in parts)
    return f"{amounts} {listed([part.name for part in parts])}"


class RolesPage(FindingPage):
    """Who does which job, with the mix that shows it; the painter may choose otherwise."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Roles"))
        self.choices: dict[str, QComboBox] = {}

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the roles."""
        self.begin()
        self.choices = {}
        given = given_roles(self.session.file)
        filled = fill_roles(found.ranking, found.reference_roles, given)
        worst = worst_filled(filled)
        if worst is not None and worst.share < 0.9:
            self.say(
                tr(
                    "Filled worst: the {what} ({value:.0f} % of what can be had).",
                    what=worst.role.title.casefold(),
                    value=100 * worst.share,
                ),
                bold=True,
            )
        else:
            self.say(tr("Every role is filled well."), bold=True)
        self.say(
            tr(
                "Each role is judged by its usual test, a mix in a middle wash; choose otherwise where "
                "you know better."
            ),
            soft=True,
        )
        for entry in filled:
            self._role(entry, found)
        self.end()

    def _role(self, entry: Filled, found: Findings) -> None:
        chosen = entry.chosen
        if chosen is None or entry.role.key == "dark mix":
            stroke: Swatch = sized_swatch(84 if self.narrow else 120, 40)
            if chosen is not None:
                stroke = self.wash(chosen.tests[0], 134 if self.narrow else 120)
            else:
                stroke.show_colour(None, hint=tr("none"))
        else:
            stroke = self.stroke(chosen.paint)
        name = chosen.paint if chosen is not None else tr("nobody")
        if chosen is not None and entry.role.key == "dark mix":
            name = _in_short(chosen.tests[0])
        sentence = role_sentence(entry, _in_short)
        test = "" if chosen is None else f"{entry.role.test[:1].upper()}{entry.role.test[1:]}"
        judged = chosen is not None and "dark" not in entry.role.key and entry.role.key != "white"
        next_ones = [f"{other.paint} ({other.score:.0f})" for other in entry.others[:2]] if judged else []
        words = lines_of_text(
            (f"{entry.role.title}: {name}", True, False),
            (test, False, False),
            (sentence, False, True),
            (tr("then {what}", what=listed(next_ones)) if next_ones else "", False, True),
        )
        tests = QWidget()
        line = QHBoxLayout(tests)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        shown = chosen.tests if chosen is not None and judged else ()
        for recipe in shown:
            line.addWidget(self.wash(recipe, 52 if len(shown) > 1 else 108))
        for other in entry.others[: 2 - len(shown) + 1] if judged and not self.narrow else ():
            for recipe in other.tests[:1]:  # what the next in line makes of the same
                chip = self.wash(recipe, 52)
                chip.setToolTip(
                    as_tip(f"{other.paint}: {_in_short(recipe)}, {decimal(f'{other.score:.0f}')}")
                )
                line.addWidget(chip)
        line.addStretch(1)
        tests.setFixedWidth(px(70 if self.narrow else 226))
        self.row(stroke, words, tests, self._choice(entry, found), stretch=1)

    def _choice(self, entry: Filled, found: Findings) -> QComboBox:
        box = QComboBox()
        box.setFixedWidth(px(116 if self.narrow else 150))
        box.setAccessibleName(tr("{title}, choose", title=entry.role.title))
        self.choices[entry.role.key] = box
        if entry.role.key == "dark mix":
            box.addItem(_AS_FOUND)
            box.setEnabled(False)
            return box
        box.addItem(_AS_FOUND, "")
        ranked = [candidate.paint for candidate in found.ranking.get(entry.role.key, [])]
        for name in [*ranked, *(name for name in found.names if name not in ranked)]:
            box.addItem(name, name)
        if entry.by_hand and entry.chosen is not None:
            box.setCurrentIndex(max(0, box.findData(entry.chosen.paint)))
        box.activated.connect(lambda at: self._choose(entry.role.key, str(box.itemData(at) or "")))
        return box

    def _choose(self, role: str, name: str) -> None:
        ids = {paint.name: paint.id for paint in self.session.paints}
        with self.session.guarded():
            self.session.do(box_acts.set_role(self.session.file, role, ids.get(name) if name else None))


class RepeatsPage(FindingPage):
    """Paints that are alike, which to keep, and what may stand in for what."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Repeats"))

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the pairs."""
        self.begin()
        if found.repeats:
            count = len(found.repeats)
            words = (
                tr("One pair hardly differs")
                if count == 1
                else tr("{count} pairs hardly differ", count=count)
            )
            self.say(
                tr("{words}: at most just visibly apart, in masstone, tint and mixes.", words=words),
                bold=True,
            )
        elif len(found.names) < 2:
            self.say(tr("Two paints or more are wanted before any can be alike."), bold=True)
        else:
            self.say(tr("No two paints of this box are too alike."), bold=True)
        self.say(tr("Two paintings of one cell by one hand differ by 2 to 3."), soft=True)
        for repeat in found.repeats:
            self._pair(repeat)
        if found.nearest:
            self.rows.addSpacing(STEP)
            self.say(tr("The nearest of the others"), bold=True)
            for repeat in found.nearest:
                self._pair(repeat)
        self.rows.addSpacing(STEP)
        self.say(tr("May stand in for each other in the mix in hand"), bold=True)
        self._stand_ins(found, in_hand)
        self.end()

    def _pair(self, repeat: Repeat) -> None:
        pair = repeat.pair
        numbers = tr(
            "masstone {masstone:.1f}, tint {tint:.1f}, in mixes {mixes:.1f}",
            masstone=pair.masstone,
            tint=pair.tint,
            mixes=pair.mixes,
        )
        words = lines_of_text(
            (tr("{first} and {second}", first=pair.first, second=pair.second), True, False),
            (numbers, False, False),
            (repeat.reason, False, True),
        )
        self.row(self.stroke(pair.first, 150), self.stroke(pair.second, 150), words, stretch=2)

    def _stand_ins(self, found: Findings, in_hand: Recipe | None) -> None:
        if in_hand is None:
            self.say(
                tr("Take paints in hand (at the left) to see which others would give nearly the same mix."),
                soft=True,
            )
            return
        options = stand_ins(found.mixer, in_hand)
        if not options:
            self.say(tr("Nothing else in the box comes near."), soft=True)
        for option in options:
            words = lines_of_text(
                (tr("{use} for {instead_of}", use=option.use, instead_of=option.instead_of), True, False),
                (
                    tr(
                        "{spoken_recipe}: differs by {away:.1f}",
                        spoken_recipe=spoken_recipe(option.recipe),
                        away=option.away,
                    ),
                    False,
                    True,
                ),
            )
            self.row(self.wash(in_hand, 72), self.wash(option.recipe, 72), words, stretch=2)


class MissingPage(FindingPage):
    """What the box can not do, and which paint would add most."""

    slip_wanted = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Missing"))

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the gaps."""
        self.begin()
        self.say(
            tr("This box reaches {value:.0f} % of what a well-filled box reaches.", value=100 * found.full),
            bold=True,
        )
        self.say(
            tr(
                "The most vivid mix in each of twelve hues, light, middle and dark, against a box of "
                "every common lightfast pigment and all your own paints."
            ),
            soft=True,
        )
        if not found.gaps:
            self.say(tr("No gap: every hue can be mixed clean, light and dark."))
        for gap in found.gaps[:6]:
            self._gap(gap, found)
        if found.additions:
            self.rows.addWidget(rule())
            self.say(tr("What would add most (typical pigments, not yours)"), bold=True)
        for more in found.additions:
            pigment = pigment_table()[more.code]
            chips = QWidget()
            line = QHBoxLayout(chips)
            line.setContentsMargins(0, 0, 0, 0)
            line.setSpacing(0)
            for lab in (pigment.masstone, pigment.tint):
                chip = sized_swatch(60, 34)
                chip.show_colour(qcolor(lab), recorded=False)
                line.addWidget(chip)
            parts = [decimal(f"+{100 * more.gain:.1f}\u00a0%")]
            if more.sectors:
                parts.append(tr("most in {what}", what=", ".join(more.sectors)))
            if pigment.caution:
                what = ", ".join(map(tr, pigment.caution.split()))
                parts.append(tr("holds {what}: mind the cautions", what=what))
            words = lines_of_text(
                (f"{more.code}, {more.words}", True, False),
                ("; ".join(parts), False, True),
            )
            self.row(chips, words, stretch=1)
        self._considered(found)
        self._figure(found)
        self.end()

    def _gap(self, gap: Gap, found: Findings) -> None:
        have, usual = sized_swatch(60, 34), sized_swatch(60, 34)
        _show(have, found.best[gap.sector, gap.band], tr("none"))
        _show(usual, found.usual[gap.sector, gap.band], "")
        have.setToolTip(tr("the most vivid this box does"))
        usual.setToolTip(tr("what can be had"))
        words = lines_of_text(
            (gap.words[:1].upper() + gap.words[1:], True, False),
            (
                (tr("No good {leans_on}", leans_on=tr(gap.leans_on)) + "; " if gap.leans_on else "")
                + gap.numbers,
                False,
                True,
            ),
        )
        button = QPushButton(tr("Shop slip…"))
        button.setAccessibleName(tr("Shop slip: {words}", words=gap.words))
        button.clicked.connect(lambda: self.slip_wanted.emit(gap.sector))
        self.row(have, usual, words, button, stretch=2)

    def _figure(self, found: Findings) -> None:
        self.rows.addWidget(rule())
        self.say(tr("What each hue reaches"), bold=True)
        self.say(
            tr("Bars: how vivid your own mixes become. Pencil outlines: what a well-filled box can do."),
            soft=True,
        )
        self.rows.addWidget(ReachFigure(found.best, found.usual))

    def _considered(self, found: Findings) -> None:
        if found.worth is None:
            return
        worth = found.worth
        self.rows.addWidget(rule())
        self.say(tr("The paints you consider"), bold=True)
        where = ", " + tr("most in {what}", what=", ".join(worth.gains)) if worth.gains else ""
        self.say(
            tr(
                "Together they would bring the box from {value:.0f} to {value2:.0f} %{where}. Alone, "
                "without the box, they reach {value3:.0f} %.",
                value=100 * worth.mine,
                value2=100 * worth.together,
                where=where,
                value3=100 * worth.alone,
            )
        )


def _show(chip: Swatch, lab: Array, hint: str) -> None:
    if np.isfinite(lab).all():
        chip.show_colour(qcolor(lab), recorded=False)
    else:
        chip.show_colour(None, hint=hint)


class OppositesPage(FindingPage):
    """The partner that really neutralises each paint."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Opposites"))

    def show_findings(self, found: Findings, in_hand: Recipe | None) -> None:
        """Show the partners."""
        self.begin()
        self.say(tr("The partner that greys each paint most, in parts, from your own paints."), bold=True)
        self.say(
            tr(
                "What is left of the chroma is that of a middle wash; it is called a true grey where the paints are known "
                "well enough for it. Where no single paint greys another, two together are sought."
            ),
            soft=True,
        )
        partners: Sequence[str] = [name for name in found.names if found.opposites.get(name)]
        if not partners:
            self.say(tr("No paint of this box has one across the hue circle from it."))
        for name in partners:
            best, *others = found.opposites[name]
            more = "; ".join(f"{_in_parts(o)} ({o.chroma:.0f})" for o in others)
            words = lines_of_text(
                (_in_parts(best), True, False),
                (tr("{words}, chroma {chroma:.1f}", words=best.words, chroma=best.chroma), False, False),
                (tr("or {more}", more=more) if more else "", False, True),
            )
            strokes = [
                self.stroke(own, 110 if len(best.partners) == 1 else 72) for own in (name, *best.partners)
            ]
            self.row(*strokes, self.wash(best.recipe.with_wash(0.45), 90), words, stretch=len(strokes) + 1)
        self.end()


def _in_parts(entry: Opposite) -> str:
    """A paint with what neutralises it, each with its parts."""
    names = (entry.paint, *entry.partners)
    return ", ".join(f"{name} {parts}" for name, parts in zip(names, entry.parts, strict=True))
