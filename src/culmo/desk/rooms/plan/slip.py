"""The slip of the Plan room: the selected cell, the ruling list, the layout."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from culmo.core.chart.grid import SECOND_HALVES
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.names import hue_word
from culmo.core.colour.srgb import in_srgb
from culmo.core.paint.predict import Prediction
from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.core.paint.steps import even_steps, middle
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.rooms.plan.model import (
    LABEL_WORDS,
    SECOND_WORDS,
    LayoutDraft,
    nearly_same,
    paper_names,
    ruling_lines,
)
from culmo.desk.session import Session
from culmo.desk.theme import STEP
from culmo.desk.widgets import (
    Entry,
    FactRow,
    Slip,
    Swatch,
    TabbedSlip,
    clear_layout,
    rule,
    text_label,
    title_label,
)

CELL, RULING, LAYOUT = 0, 1, 2


def parts_words(recipe: Recipe) -> str:
    """The parts and the wash of a recipe in words."""
    if not recipe.layers:
        return "bare paper"
    layer = recipe.layers[0]
    amounts = [part.parts for part in layer.parts]
    if len(amounts) == 1:
        parts = "pure"
    elif len(set(amounts)) == 1:
        parts = "equal parts"
    else:
        parts = " : ".join(f"{amount:g}" for amount in amounts)
    wash = {1.0: "full wash", 0.2: "tint"}.get(layer.wash, f"wash of {layer.wash:g}")
    over = f", over {Recipe(recipe.layers[1:])}" if len(recipe.layers) > 1 else ""
    return f"{parts}, {wash}{over}"


class CellPage(Slip):
    """What is known of the selected cell."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.title = title_label("", 17)
        self.words = text_label("", soft=True)
        self.stroke = Swatch(62)
        self.facts = {word: FactRow(word) for word in ("Lightness", "Chroma", "Hue", "Nine in ten cells")}
        for widget in (self.title, self.words, self.stroke, *self.facts.values()):
            self.lines.addWidget(widget)
        self.vivid = text_label("More vivid in paint than this screen can show.", soft=True, points=10)
        self.lines.addWidget(self.vivid)
        self.lines.addWidget(rule())
        self.why_title = text_label("Why it is unsure", bold=True)
        self.why = text_label("")
        self.middle_title = FactRow("Middle of these two")
        self.middle_title.word.setObjectName("")
        self.middle_title.word.setFont(self.why_title.font())
        self.steps = StepRow()
        for widget in (self.why_title, self.why, self.middle_title, self.steps):
            self.lines.addWidget(widget)
        self.lines.addWidget(rule())
        self.same_title = text_label("Nearly the same on this sheet", bold=True)
        self.lines.addWidget(self.same_title)
        self.same = QVBoxLayout()
        self.lines.addLayout(self.same)
        self.lines.addStretch(1)

    def show_cell(self, sheet: Sheet | None, cell_id: str, prediction: Prediction | None) -> None:
        """Show a cell, or a hint where none is selected."""
        clear_layout(self.same)
        known = sheet is not None and bool(cell_id) and prediction is not None
        for widget in (self.stroke, self.same_title, self.why_title, self.why, *self.facts.values()):
            widget.setVisible(known)
        for widget in (self.vivid, self.middle_title, self.steps):
            widget.setVisible(False)
        if sheet is None or not cell_id or prediction is None:
            self.title.setText("Cell")
            self.words.setText("Click a cell of the sheet to see what it will be, or use the arrow keys.")
            return
        place = next(i for i, cell in enumerate(sheet.cells) if cell.id == cell_id)
        cell = sheet.cells[place]
        self.title.setText(" + ".join(cell.recipe.names))
        order = f", cell {cell.order} of {len(sheet.cells)}" if cell.order else ""
        typical = "; typical, not yours" if self.session.typical(cell.recipe) else ""
        self.words.setText(f"{parts_words(cell.recipe)}{order}{typical}")
        looks = self.session.looks
        self.stroke.show_image(
            (lambda w, h, r: looks.stroke(cell.recipe, w, h, r)) if looks is not None else None
        )
        lab = prediction.lab[place]
        lightness, chroma, hue = lch_from_lab(lab)
        self.facts["Lightness"].set(f"{lightness:.0f}")
        self.facts["Chroma"].set(f"{chroma:.0f}")
        self.facts["Hue"].set(f"{hue:.0f}°, {hue_word(lab)}")
        self.facts["Nine in ten cells"].set(f"within {prediction.dE90[place]:.1f}")
        self.vivid.setVisible(not bool(in_srgb(lab)))
        doubt = self.session.doubt(cell.recipe)
        self.why.setText(doubt.sentence if doubt is not None else "")
        self._show_middle(cell.recipe)
        for other, away in nearly_same(sheet, prediction, cell_id):
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            chip = Swatch(30)
            chip.setFixedWidth(44)
            chip.show_colour(qcolor(prediction.lab[sheet.cells.index(other)]), recorded=False)
            line.addWidget(chip)
            line.addWidget(text_label(spoken_recipe(other.recipe)), 1)
            line.addWidget(text_label(f"{away:.1f}", soft=True))
            self.same.addWidget(row)

    def _show_middle(self, recipe: Recipe) -> None:
        """Where the middle of two paints lies, and even steps between them."""
        estimate, looks = self.session.estimate, self.session.looks
        if estimate is None or looks is None or len(recipe.layers) != 1 or len(recipe.names) != 2:
            return
        first, second = recipe.names
        half = middle(estimate, first, second, recipe.layers[0].wash)
        self.middle_title.set(" : ".join(str(part) for part in half.parts))
        steps = even_steps(estimate, first, second, 6, recipe.layers[0].wash)
        self.steps.show_recipes(looks, [step.recipe for step in steps])
        self.middle_title.show()
        self.steps.show()


class StepRow(QWidget):
    """A row of small washes."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        self.chips = [Swatch(34) for _ in range(6)]
        for chip in self.chips:
            row.addWidget(chip)

    def show_recipes(self, looks: Looks, recipes: Sequence[Recipe]) -> None:
        """Show these mixes, with their parts as a hint."""
        for chip, recipe in zip(self.chips, recipes, strict=True):
            chip.show_image(lambda w, h, r, recipe=recipe: looks.wash(recipe, w, h, "step", r))
            chip.setToolTip(spoken_recipe(recipe))


class RulingPage(QWidget):
    """The ruling list, to copy or to read beside the paper."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("slip")
        self.sheet: Sheet | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, STEP + 4, 2 * STEP, 2 * STEP)
        layout.addWidget(title_label("Ruling list", 17))
        layout.addWidget(text_label("From the paper's top left corner, in one unit.", soft=True))
        self.unit = QComboBox()
        self.unit.addItems(["millimetres", "inches"])
        self.unit.setAccessibleName("Unit of the ruling list")
        self.unit.currentIndexChanged.connect(self._write)
        layout.addWidget(self.unit)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("Ruling list")
        layout.addWidget(self.text, 1)

    def show_sheet(self, sheet: Sheet | None) -> None:
        """Show a sheet's ruling."""
        self.sheet = sheet
        self._write()

    def _write(self) -> None:
        unit = "mm" if self.unit.currentIndex() == 0 else "in"
        self.text.setPlainText("\n".join(ruling_lines(self.sheet, unit)) if self.sheet else "")


class LayoutPage(Slip):
    """The choices of a grid; each change is tried on the sheet at once."""

    edited = Signal()
    keep = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._filling = False
        self.heading = title_label("A new grid", 17)
        self.lines.addWidget(self.heading)
        self.message = text_label("", bold=True)
        self.title = Entry("Title of the sheet")
        self.paints = QListWidget()
        self.paints.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.paints.setMinimumHeight(160)
        self.paints.setAccessibleName("Paints of the grid, in order")
        self.paper = QComboBox()
        self.paper.setEditable(True)
        self.paper.setAccessibleName("Paper, by name or as 240x320")
        self.orientation = QComboBox()
        self.orientation.addItems(["as it fits best", "portrait", "landscape"])
        self.second = QComboBox()
        for key in SECOND_HALVES:
            self.second.addItem(SECOND_WORDS[key], key)
        self.extra = QComboBox()
        self.cell = Entry("the largest that fits", "Wished cell size")
        self.gap = Entry("0", "Gap between cells in mm")
        self.tape = Entry("6", "Tape margin in mm")
        self.labels = QComboBox()
        self.labels.addItems(LABEL_WORDS)
        fields = (
            ("Title", self.title),
            ("Paints, in order (drag to move)", self.paints),
            ("Paper", self.paper),
            ("Lying", self.orientation),
            ("Second half", self.second),
            ("With", self.extra),
            ("Cell size, mm", self.cell),
            ("Gap, mm", self.gap),
            ("Tape margin, mm", self.tape),
            ("Labels", self.labels),
        )
        self.lines.addWidget(self.message)
        self.words: dict[str, QWidget] = {}
        for word, widget in fields:
            label = text_label(word, soft=True, points=10)
            self.words[word] = label
            widget.setAccessibleName(widget.accessibleName() or word)
            self.lines.addWidget(label)
            self.lines.addWidget(widget)
        self.keep_button = QPushButton("Keep this plan")
        self.keep_button.setObjectName("strong")
        self.keep_button.clicked.connect(self.keep.emit)
        self.lines.addWidget(self.keep_button)
        self.lines.addStretch(1)
        for combo in (self.orientation, self.second, self.extra, self.labels):
            combo.currentIndexChanged.connect(self._edited)
        self.paper.currentTextChanged.connect(self._edited)
        for entry in (self.title, self.cell, self.gap, self.tape):
            entry.textEdited.connect(self._edited)
        self.paints.itemChanged.connect(self._edited)
        self.paints.model().rowsMoved.connect(self._edited)

    def fill(self, draft: LayoutDraft, names: Sequence[str], owned: Sequence[Paper], heading: str) -> None:
        """Show a draft."""
        self._filling = True
        self.heading.setText(heading)
        self.title.setText(draft.title)
        self.paints.clear()
        for name in [*draft.paints, *(name for name in names if name not in draft.paints)]:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in draft.paints else Qt.CheckState.Unchecked)
            self.paints.addItem(item)
        self.paper.clear()
        self.paper.addItems(paper_names(owned))
        self.paper.setCurrentText(draft.paper)
        self.orientation.setCurrentIndex(["best", "portrait", "landscape"].index(draft.orientation))
        self.second.setCurrentIndex(SECOND_HALVES.index(draft.second))
        self.extra.clear()
        self.extra.addItems(list(names))
        self.extra.setCurrentText(draft.extra)
        self.cell.setText(draft.cell)
        self.gap.setText(draft.gap)
        self.tape.setText(draft.tape)
        self.labels.setCurrentIndex(LABEL_WORDS.index(draft.labels))
        self._filling = False
        self._show_extra()

    def draft(self) -> LayoutDraft:
        """The fields as they stand."""
        items = [self.paints.item(i) for i in range(self.paints.count())]
        second = str(self.second.currentData())
        return LayoutDraft(
            title=self.title.text(),
            paints=[item.text() for item in items if item.checkState() == Qt.CheckState.Checked],
            paper=self.paper.currentText(),
            orientation=["best", "portrait", "landscape"][self.orientation.currentIndex()],
            second=second,
            extra=self.extra.currentText() if second in ("white", "third") else "",
            gap=self.gap.text() or "0",
            tape=self.tape.text() or "0",
            cell=self.cell.text(),
            labels=LABEL_WORDS[self.labels.currentIndex()],
        )

    def say(self, message: str) -> None:
        """Say what can not be, or nothing."""
        self.message.setText(message)
        self.message.setVisible(bool(message))
        self.keep_button.setEnabled(not message)

    def _show_extra(self) -> None:
        wanted = self.second.currentData() in ("white", "third")
        self.extra.setVisible(wanted)
        self.words["With"].setVisible(wanted)

    def _edited(self) -> None:
        if not self._filling:
            self._show_extra()
            self.edited.emit()


class PlanSlip(TabbedSlip):
    """The three pages with their tabs."""

    def __init__(self, session: Session) -> None:
        self.cell, self.ruling, self.layout_page = CellPage(session), RulingPage(), LayoutPage(session)
        super().__init__(["Cell", "Ruling", "Layout"], [self.cell, self.ruling, self.layout_page])
