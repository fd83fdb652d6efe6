"""What the Find page shows of an answer, and the picture that a colour is taken from."""

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.names import apart_words
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import Recipe, spoken_recipe, wash_name
from culmo.core.palette.likeness import Substitute
from culmo.core.palette.match import amount_words
from culmo.core.palette.schemes import SchemeTone
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.listing import Listing
from culmo.desk.picture_view import PictureView
from culmo.desk.real_paint import real_of
from culmo.desk.rooms.box.model import describe
from culmo.desk.rooms.weigh.find_model import Answer, ListAnswer, PaintedCell
from culmo.desk.rooms.weigh.mix_row import MixRow
from culmo.desk.rooms.weigh.settling import settling_words
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.things import mix_thing
from culmo.desk.widgets import Swatch, as_tip, text_label
from culmo.words import decimal, listed, tr, trn

_WAYS: dict[str, str] = {
    SchemeTone.VIVID: tr("vivid"),
    SchemeTone.LIGHT: tr("in a light tone"),
    SchemeTone.DEEP: tr("in a deep tone"),
    SchemeTone.MUTED: tr("muted"),
}


class PickDialog(QDialog):
    """A picture from which a colour is taken."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Take a colour from a picture"))
        self.resize(760, 560)
        layout = QVBoxLayout(self)
        self.view = PictureView()
        layout.addWidget(self.view, 1)
        self.words = text_label(
            tr("Click on the colour you want, or go there with the arrow keys and press the space bar."),
            soft=True,
        )
        row = QHBoxLayout()
        self.chip = Swatch(36)
        self.chip.setFixedWidth(px(90))
        row.addWidget(self.chip)
        row.addWidget(self.words, 1)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self.take = buttons.button(QDialogButtonBox.StandardButton.Ok)
        self.take.setText(tr("Look for it"))
        self.take.setEnabled(False)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        row.addWidget(buttons)
        layout.addLayout(row)
        self.lab: tuple[float, float, float] | None = None
        self.view.picked.connect(self._picked)

    def _picked(self, lab: object) -> None:
        L, a, b = (float(value) for value in np.asarray(lab))
        self.lab = (L, a, b)
        self.chip.show_colour(qcolor(self.lab))
        self.words.setText(describe(np.array(self.lab)))
        self.take.setEnabled(True)


class Results(Listing):
    """The answer, from the recipes down to the schemes."""

    chosen = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Recipes found"))

    def show_answer(self, answer: Answer) -> None:
        """Show what was found."""
        self.begin()
        target = qcolor(answer.sought.lab)
        if answer.rebuilt is not None:
            self._show_rebuilt(answer)
            self.rows.addSpacing(STEP)
        self.say(answer.words, bold=True)
        for place, (entry, settling) in enumerate(zip(answer.advised, answer.settlings, strict=True)):
            words = f"{place + 1}   {spoken_recipe(entry.match.recipe)}"
            remark = "; ".join(entry.reasons)
            tip = tr(
                "CIEDE2000 {away:.1f}; nine in ten within {within:.1f}; a hand will miss by about {miss:.1f}",
                away=entry.match.away, within=entry.within, miss=entry.expected,
            )  # fmt: skip
            tip = f"{tip}\n{settling_words(settling)}"
            self._row(
                entry.match.recipe, entry.match.lab, words, apart_words(entry.match.away), remark, target, tip
            )
        if answer.painted:
            self._show_painted(answer)
        if answer.instead:
            name = answer.sought.paint or answer.sought.name
            self.head(tr("In the place of {name}, from full wash to tint", name=name))
            for other in answer.instead:
                self._substitute(other)
        if answer.puddle is not None:
            self._show_puddle(answer, answer.puddle)
        if answer.like and answer.like_of is not None:
            self.head(
                tr("{spoken_recipe} looks like", spoken_recipe=spoken_recipe(answer.like_of.with_wash(1.0)))
            )
            for like in answer.like:
                pigment = pigment_table()[like.code]
                row = MixRow(
                    qcolor(pigment.masstone),
                    like.words,
                    apart_words(like.away),
                    remark=like.code,
                    beside=qcolor(pigment.tint),
                )
                row.clicked.connect(lambda _=False, like=like: self.chosen.emit(None, like.code))
                self.rows.addWidget(row)
        if answer.companions:
            self.head(tr("Goes with it, from these paints"))
            for companion in answer.companions:
                words = tr(
                    "{place}, {way}: {mix}",
                    place=tr(companion.place), way=_WAYS[companion.way], mix=spoken_recipe(companion.match.recipe),
                )  # fmt: skip
                self._row(
                    companion.match.recipe, companion.match.lab, words, "", "", qcolor(companion.wanted)
                )
        self.end()

    def _show_puddle(self, answer: Answer, puddle: Recipe) -> None:
        """What to add to the puddle in hand."""
        target = qcolor(answer.sought.lab)
        self.head(tr("From the puddle in hand, {spoken_recipe}", spoken_recipe=spoken_recipe(puddle)))
        if not answer.adds:
            self.say(
                tr("This puddle can not be changed here: a paint of it is not in the box in use."),
                soft=True,
            )
        for touch in answer.adds:
            adds = [
                tr("{amount} of {name}", amount=amount_words(amount), name=name)
                for name, amount in touch.adds
            ]
            words = listed(adds)
            words = tr("add {words}", words=words) if words else tr("only water")
            water = tr("as a {wash}; amounts against the puddle", wash=wash_name(touch.recipe.layers[0].wash))
            self._row(touch.recipe, touch.lab, words, apart_words(touch.away), water, target)

    def _show_painted(self, answer: Answer) -> None:
        """What was painted and is near, by its look from near too where that is looked for."""
        like = answer.sought.texture
        self.head(tr("Painted, and looks like it from near") if like else tr("Painted, and near it"))
        for one in answer.painted:
            entry, tip = one.painted, f"CIEDE2000 {decimal(f'{one.away:.1f}')}"
            if entry.texture is not None:
                seen = tr(
                    "granulation {contrast:.1f}, separation {parting:.1f}",
                    contrast=entry.texture[0], parting=entry.texture[1],
                )  # fmt: skip
                tip = f"{tip}; {seen}"
            words = spoken_recipe(entry.recipe)
            self._painted(entry, words, apart_words(one.apart), qcolor(answer.sought.lab), tip)

    def _show_rebuilt(self, answer: Answer) -> None:
        """A ready-made mixture from the pigments of its label."""
        rebuilt = answer.rebuilt
        if rebuilt is None:
            return
        self.say(tr("By its label, from your single pigments"), bold=True)
        if rebuilt.missing:
            self.say(
                tr("You have no single pigment {what} in this box.", what=listed(rebuilt.missing)), soft=True
            )
        for entry in rebuilt.found:
            self._substitute(entry)
        if rebuilt.why:
            words = tr(
                "It stays {what} than the tube: tubes of one pigment differ, and labels do not tell their parts.",
                what=rebuilt.why,
            )
            self.say(words, soft=True)

    def _substitute(self, entry: Substitute) -> None:
        steps = listed([apart_words(float(value)) for value in dict.fromkeys(entry.away.round(1))])
        tip = ", ".join(decimal(f"{value:.1f}") for value in entry.away)
        self._row(
            entry.recipe,
            None,
            spoken_recipe(entry.recipe),
            apart_words(entry.mean),
            tr("from full to tint: {steps}", steps=steps),
            None,
            f"CIEDE2000 {tip}",
        )

    def show_list(self, answer: ListAnswer) -> None:
        """Show which painted mixes serve a whole list."""
        self.begin()
        self.say(answer.words, bold=True)
        self.head(tr("Each wanted colour, and what you painted nearest to it"))
        for served in answer.served:
            name, lab = answer.wanted[served.place]
            entry = answer.painted[served.painted]
            said = f"{name}: {spoken_recipe(entry.recipe)}" if name else spoken_recipe(entry.recipe)
            self._painted(
                entry,
                said,
                apart_words(served.away),
                qcolor(lab),
                f"CIEDE2000 {decimal(f'{served.away:.1f}')}",
            )
        if answer.useful:
            self.head(tr("The fewest mixes that are enough: each serves what those before it do not"))
        for place, count in answer.useful:
            entry = answer.painted[place]
            words = trn("serves {n} colour", "serves {n} colours", count)
            self._painted(entry, spoken_recipe(entry.recipe), words)
        self.end()

    def _painted(
        self, entry: PaintedCell, words: str, number: str, beside: QColor | None = None, tip: str = ""
    ) -> None:
        row = MixRow(
            qcolor(np.array(entry.lab)),
            words,
            number,
            recorded=True,
            beside=beside,
            thing=mix_thing(None, entry.recipe, read=entry.lab),
            real=real_of(self.session, entry.recipe, entry.lab),
        )
        if tip:
            row.setToolTip(as_tip(f"{words}\n{tip}"))
        row.clicked.connect(lambda _=False: self.chosen.emit(entry.recipe, None))
        self.rows.addWidget(row)

    def head(self, text: str) -> None:
        """The title of a part."""
        self.rows.addSpacing(STEP)
        self.say(text, bold=True)

    def _row(
        self,
        recipe: Recipe,
        lab: Array | None,
        words: str,
        number: str,
        remark: str = "",
        beside: QColor | None = None,
        tip: str = "",
    ) -> None:
        looks = self.session.learning.looks
        colour = (
            qcolor(np.asarray(lab))
            if lab is not None
            else looks.colour(recipe)
            if looks is not None
            else None
        )
        if colour is None:
            return
        thing = mix_thing(looks, recipe)
        row = MixRow(colour, words, number, remark=remark, beside=beside, thing=thing)
        if tip:
            row.setToolTip(as_tip("\n".join(part for part in (words, remark, tip) if part)))
        row.clicked.connect(lambda _=False: self.chosen.emit(recipe, None))
        self.rows.addWidget(row)
