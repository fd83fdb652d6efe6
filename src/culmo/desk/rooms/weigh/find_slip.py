"""How a wanted colour is to be mixed, and what can be done with the mix that was chosen."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QPushButton,
)

from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.core.palette.finding import NOTICE, Wish
from culmo.desk.guard import guarded
from culmo.desk.mix_acts import MixActs
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.rooms.weigh.settling import GRAINS
from culmo.desk.session import Session
from culmo.desk.widgets import Slip, Swatch, as_tip, rule, text_label, title_label
from culmo.study.palette_acts import Wanted
from culmo.words import tr, trn


@guarded
class FindSlip(Slip):
    """The wish, the chosen recipe, the lists of wanted colours."""

    changed = Signal()
    typing = Signal()

    def __init__(self, session: Session, acts: MixActs) -> None:
        super().__init__()
        self._session = session
        self.lines.addWidget(text_label(tr("How to mix it"), bold=True))
        self.paints = QComboBox()
        self.paints.addItems([tr("One paint"), tr("Up to two paints"), tr("Up to three paints")])
        self.paints.setCurrentIndex(2)
        self.paints.setAccessibleName(tr("How many paints"))
        self.paints.currentIndexChanged.connect(lambda _: self.changed.emit())
        self.must, self.must_not = QComboBox(), QComboBox()
        self.must.setAccessibleName(tr("A paint that must be in it"))
        self.must_not.setAccessibleName(tr("A paint that must not be in it"))
        for widget in (self.paints, self.must, self.must_not):
            self.lines.addWidget(widget)
        for box in (self.must, self.must_not):
            box.activated.connect(lambda _: self.changed.emit())
        self.conditions: dict[str, QCheckBox] = {}
        for key, words in (
            ("lightfast", tr("Only lightfast paints")),
            ("transparent", tr("Only transparent paints")),
            ("single", tr("Only single pigments")),
        ):
            check = self.conditions[key] = QCheckBox(words)
            check.toggled.connect(lambda _: self.changed.emit())
            self.lines.addWidget(check)
        self.grain_box = QComboBox()
        self.grain_box.addItems(GRAINS)
        self.grain_box.setAccessibleName(tr("How it settles on the paper"))
        self.grain_box.currentIndexChanged.connect(lambda _: self.changed.emit())
        self.lines.addWidget(self.grain_box)
        self.notice = QDoubleSpinBox()
        self.notice.setRange(0.0, 6.0)
        self.notice.setSingleStep(0.5)
        self.notice.setDecimals(1)
        self.notice.setValue(NOTICE)
        self.notice.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        keep_quiet(self.notice, self.paints, self.must, self.must_not, self.grain_box)
        self.notice.setAccessibleName(tr("Difference that counts as the same"))
        self.notice.setToolTip(
            as_tip(tr("CIEDE2000; within it the simpler mix comes first. 0 puts the nearest first."))
        )
        self.notice.valueChanged.connect(lambda _: self.typing.emit())
        row = QHBoxLayout()
        row.addWidget(text_label(tr("The same to me within")), 1)
        row.addWidget(self.notice)
        self.lines.addLayout(row)
        self.lines.addWidget(rule())
        self.chosen_title = title_label("", 15)
        self.chosen_chip = Swatch(70)
        self.chosen_words = text_label("", soft=True)
        for part in (self.chosen_title, self.chosen_chip, self.chosen_words):
            self.lines.addWidget(part)
        self.take_in_hand = QPushButton(tr("Take in hand"))
        self.take_in_hand.setToolTip(as_tip(tr("Its paints, with these parts and this wash, on the dab")))
        self.take_in_hand.clicked.connect(lambda: self._with_recipe(acts.take))
        self.lines.addWidget(self.take_in_hand)
        self.plan_button, self.keep_button, self.copy_button = (
            QPushButton(tr("Plan it")), QPushButton(tr("Keep…")), QPushButton(tr("Copy")),
        )  # fmt: skip
        line = QHBoxLayout()
        line.setSpacing(4)
        for button, act, tip in (
            (self.plan_button, lambda recipe: acts.plan_page([recipe]), tr("On a free page")),
            (self.keep_button, acts.keep, tr("Keep it with a note, for the Daybook and the card to carry")),
            (self.copy_button, lambda recipe: acts.copy([recipe]), tr("As text")),
        ):
            button.setToolTip(as_tip(tip))
            button.clicked.connect(lambda _=False, act=act: self._with_recipe(act))
            line.addWidget(button, 1)
        self.lines.addLayout(line)
        self.buttons = (self.take_in_hand, self.plan_button, self.keep_button, self.copy_button)
        self.lines.addWidget(rule())
        self.want = QPushButton(tr("Put on a list of wanted colours…"))
        self.lines.addWidget(self.want)
        self.listed = text_label("", soft=True, points=10)
        self.lines.addWidget(self.listed)
        self.lines.addStretch(1)
        self.recipe: Recipe | None = None

    def fill(self, names: Sequence[str], lists: Mapping[str, Sequence[Wanted]]) -> None:
        """Other paints may be in it, or other lists be there."""
        for box, words in (
            (self.must, tr("Any paint may be in it")),
            (self.must_not, tr("No paint left out")),
        ):
            kept = box.currentData()
            box.blockSignals(True)
            box.clear()
            box.addItem(words, "")
            verb = tr("With") if box is self.must else tr("Without")
            for name in names:
                box.addItem(f"{verb} {name}", name)
            box.setCurrentIndex(max(0, box.findData(kept)))
            box.blockSignals(False)
        self.listed.setText(
            "\n".join(
                trn("{name}: {n} colour", "{name}: {n} colours", len(colours), name=name)
                for name, colours in lists.items()
            )
        )

    def wish(self) -> Wish:
        """What the recipes must be like."""
        keep, avoid = str(self.must.currentData() or ""), str(self.must_not.currentData() or "")
        on = {key: check.isChecked() for key, check in self.conditions.items()}
        return Wish(
            self.paints.currentIndex() + 1,
            (keep,) if keep else (),
            (avoid,) if avoid else (),
            on["lightfast"],
            on["transparent"],
            on["single"],
            self.notice.value(),
        )

    def show_recipe(self, recipe: Recipe | None, can_be_wanted: bool) -> None:
        """Show a recipe with what can be done with it, or none."""
        if recipe is not None and not self._session.learning.knows(recipe):
            recipe = None  # a paint of it has left meanwhile
        self.recipe = recipe
        for widget in (self.chosen_chip, self.chosen_words, self.chosen_title, *self.buttons):
            widget.setVisible(recipe is not None)
        self.want.setEnabled(can_be_wanted)
        looks = self._session.learning.looks
        if recipe is None or looks is None:
            return
        self.chosen_title.setText(spoken_recipe(recipe))
        self.chosen_chip.show_image(lambda w, h, r: looks.stroke(recipe.with_wash(1.0), w, h, r))
        known = self._session.learning.labels
        labels = [known[name.casefold()] for name in recipe.names if name.casefold() in known]
        harmful = sorted({element for label in labels for element in label.harmful})
        words = tr("Written: {recipe}", recipe=recipe)
        if harmful:
            words += "\n" + tr(
                "! Holds {what}: do not point the brush with the lips; the maker's label and local rules come first.",
                what=", ".join(map(tr, harmful)),
            )
        self.chosen_words.setText(words)

    def _with_recipe(self, act: Callable[[Recipe], object]) -> None:
        if self.recipe is not None:
            act(self.recipe)
