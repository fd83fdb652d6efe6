"""The side-by-side page: two to four sheets, palettes or boxes, aligned by hue, place by place, or as they lie."""

from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
)

from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.looks import qcolor
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.side_board import SideBoard
from culmo.desk.rooms.weigh.side_model import (
    MOST_THINGS,
    Compared,
    SideChoice,
    SideKind,
    SideOrder,
    SideSpot,
    choices,
    compared,
    leads,
    palette_thing,
    sheet_thing,
    summary,
)
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import px
from culmo.desk.widgets import FactRow, Slip, Swatch, as_tip, rule, text_label, title_label
from culmo.study.palette_acts import kept_palettes
from culmo.words import tr

MODES = (tr("By hue"), tr("Mix by mix"), tr("Place by place"), tr("As they lie"))
_KEY = tr("dashed: predicted    firm edge: painted and read")


class SidePage(WeighPage):
    """Things side by side."""

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        self.options: list[SideChoice] = []
        self.things: list[Compared] = []
        self.mode = QComboBox()
        self.mode.addItems(MODES)
        self.mode.setAccessibleName(tr("How they are aligned"))
        self.mode.currentIndexChanged.connect(lambda _: self._show())
        self.tools = [self.mode]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.heads = QHBoxLayout()
        self.heads.setSpacing(8)
        self.pickers: list[QComboBox] = []
        self.more, self.less = QPushButton("+"), QPushButton("−")
        for button, name, act in (
            (self.more, tr("One more beside them"), self.add), (self.less, tr("Take the last away"), self.take_away),
        ):  # fmt: skip
            button.setAccessibleName(name)
            button.setToolTip(as_tip(name))
            button.setFixedWidth(px(34))
            button.setStyleSheet("padding: 4px;")
            button.clicked.connect(act)
        row = QHBoxLayout()
        row.addLayout(self.heads, 1)
        row.addWidget(self.less)
        row.addWidget(self.more)
        layout.addLayout(row)
        area = QScrollArea()
        area.setWidgetResizable(True)
        self.board = SideBoard(session)
        self.board.setObjectName("ground")
        self.board.chosen.connect(self._chosen)
        area.setWidget(self.board)
        layout.addWidget(area, 1)
        self.slip = self._make_slip()
        self.first = self.board
        weighing.mixes_ready.connect(lambda: self.refresh() if self.isVisible() else None)
        for _ in range(2):
            self._add_picker()

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.spot_title = title_label("", 15)
        self.spot_chip = Swatch(72)
        self.spot_facts = FactRow(tr("Colour"))
        self.lead_title = text_label(tr("Where each is the cleanest"), bold=True)
        self.lead_words = text_label("")
        self.about = text_label("", soft=True)
        for widget in (
            self.spot_title,
            self.spot_chip,
            self.spot_facts,
            rule(),
            self.lead_title,
            self.lead_words,
            rule(),
            self.about,
        ):
            slip.lines.addWidget(widget)
        slip.lines.addStretch(1)
        return slip

    def _add_picker(self) -> None:
        picker = QComboBox()
        picker.setMinimumContentsLength(6)
        picker.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        picker.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        picker.setAccessibleName(
            tr("Number {value} of what stands side by side", value=len(self.pickers) + 1)
        )
        picker.activated.connect(lambda _: self.refresh())
        self.pickers.append(picker)
        self.heads.addWidget(picker, 1)

    def add(self) -> None:
        """One more beside the others."""
        if len(self.pickers) < MOST_THINGS:
            self._add_picker()
            self.refresh()

    def take_away(self) -> None:
        """The last one goes."""
        if len(self.pickers) > 1:
            picker = self.pickers.pop()
            self.heads.removeWidget(picker)
            picker.deleteLater()
            self.refresh()

    def choose(self, titles: list[str]) -> None:
        """Put these side by side, by their titles."""
        self.refresh()
        for picker, title in zip(self.pickers, titles, strict=False):
            picker.setCurrentIndex(max(0, picker.findText(title)))
        self.refresh()

    # ---- showing

    def refresh(self) -> None:
        """Gather the things anew."""
        study = self.session.study
        self.weighing.want_mixes()
        box = self.session.selection.box.name if self.session.selection.box is not None else tr("All paints")
        self.options = choices(study, box) if study is not None else []
        # two sheets, or two palettes, are what one first wants to see
        likely = sorted(range(len(self.options)), key=lambda i: self.options[i].kind != SideKind.PALETTE)
        for number, picker in enumerate(self.pickers):
            kept = picker.currentText()
            picker.clear()
            picker.addItems([option.title for option in self.options])
            place = picker.findText(kept) if kept else -1
            if place < 0 and self.options:
                place = likely[number % len(likely)]
            picker.setCurrentIndex(place)
        self.less.setEnabled(len(self.pickers) > 1)
        self.more.setEnabled(len(self.pickers) < MOST_THINGS)
        self.things = [
            thing for picker in self.pickers if (thing := self._thing(picker.currentIndex())) is not None
        ]
        self._show()

    def _thing(self, place: int) -> Compared | None:
        if not 0 <= place < len(self.options) or self.session.study is None:
            return None
        choice = self.options[place]
        if choice.kind == SideKind.SHEET:
            return sheet_thing(self.session.study, choice, self.session.learning.estimate)
        if self.weighing.mixes is None:
            return None
        lattice = self.weighing.mixes.lattice
        paints = lattice.names
        if choice.kind != SideKind.BOX:
            paints = next(p.paints for p in kept_palettes(self.session.study) if p.id == choice.key)
        return palette_thing(choice, paints, lattice)

    def _show(self) -> None:
        mode = SideOrder(self.mode.currentIndex())
        self.board.show_things(self.things, mode)
        if len(self.things) < len(self.pickers) and self.session.runner.busy("mixes"):
            words = tr("Working out the mixes of the box")
        elif not self.options:
            words = tr("Plan a sheet or keep a palette first; then they can stand side by side.")
        elif mode == SideOrder.HUE:
            words = tr("The most vivid of each hue, from light to dark")
        else:
            words = summary(self.things, compared(self.things, mode == SideOrder.MIX), mode == SideOrder.MIX)
        self.say(tr("Side by side"), words, _KEY)
        found = leads(self.things)
        self.lead_title.setVisible(bool(found))
        self.lead_words.setText("\n".join(found))
        self.about.setText("\n".join(f"{thing.choice.title}: {thing.words}" for thing in self.things))
        self._chosen(None)

    def _chosen(self, spot: SideSpot | None) -> None:
        for widget in (self.spot_chip, self.spot_facts):
            widget.setVisible(spot is not None)
        if spot is None:
            self.spot_title.setText(tr("Choose a colour to read its mix"))
            return
        self.spot_title.setText(spoken_recipe(spot.recipe))
        looks = self.session.learning.looks
        if spot.recorded and looks is not None:
            self.spot_chip.show_read(qcolor(spot.lab), looks.cropping(spot.patch, spot.lab))
        else:
            self.spot_chip.show_colour(qcolor(spot.lab), recorded=spot.recorded)
        self.spot_facts.set(lab_text(spot.lab))
