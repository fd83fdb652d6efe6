"""The slip of the Plan room: the selected cell, the ruling list, the layout."""

from collections.abc import Sequence
from enum import IntEnum
from functools import partial

from PySide6.QtGui import QImage
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from culmo.core.chart.lengths import LengthUnit
from culmo.core.chart.order import WishCost
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.cielab import lch_from_lab
from culmo.core.colour.names import hue_word
from culmo.core.colour.srgb import in_srgb
from culmo.core.paint.predict import Prediction
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import FULL, TINT, Recipe, in_proportion, spoken_recipe, wash_name, water_words
from culmo.core.paint.steps import even_steps, middle
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.rooms.plan.layout import LayoutPage
from culmo.desk.rooms.plan.model import (
    nearly_same,
    ruling_lines,
    unit_of,
    wish_lines,
    work_lines,
)
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import (
    FactRow,
    Slip,
    Swatch,
    TabbedSlip,
    as_tip,
    clear_layout,
    rule,
    text_label,
    title_label,
)
from culmo.words import decimal, mark, tr


class PlanSlipPage(IntEnum):
    """A page of the slip, and its place in the strip."""

    CELL = 0
    RULING = 1
    LAYOUT = 2
    WORK = 3


def parts_words(recipe: Recipe) -> str:
    """The parts and the wash of a recipe in words."""
    if not recipe.layers:
        return tr("bare paper")
    layer = recipe.layers[0]
    amounts = [part.parts for part in layer.parts]
    if len(amounts) == 1:
        parts = tr("pure")
    elif len(set(amounts)) == 1:
        parts = tr("equal parts")
    else:
        parts = in_proportion(amounts)
    wash = wash_name(layer.wash)
    if layer.wash not in (FULL, TINT):
        wash = tr("{name}, {water}", name=wash, water=water_words(layer.wash))
    over = ", " + tr("over {Recipe}", Recipe=Recipe(recipe.layers[1:])) if len(recipe.layers) > 1 else ""
    return f"{parts}, {wash}{over}"


_MIXING_WORDS: dict[str, str] = {
    MixedHow.WET_IN_WET: tr("wet in wet, of no fixed parts"),
    MixedHow.MEETING: tr("where two wet strokes meet, of no fixed parts"),
    MixedHow.LOADED: tr("two paints on one brush, of no fixed parts"),
}


class CellPage(Slip):
    """What is known of the selected cell."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.title = title_label("", 17)
        self.words = text_label("", soft=True)
        self.stroke = Swatch(62)
        self.facts = {
            word: FactRow(tr(word))
            for word in (mark("Lightness"), mark("Chroma"), mark("Hue"), mark("Nine in ten cells"))
        }
        for widget in (self.title, self.words, self.stroke, *self.facts.values()):
            self.lines.addWidget(widget)
        self.rules = rule(), rule()
        self.vivid = text_label(tr("More vivid in paint than this screen can show."), soft=True, points=10)
        self.lines.addWidget(self.vivid)
        self.lines.addWidget(self.rules[0])
        self.why_title = text_label(tr("Why it is unsure"), bold=True)
        self.why = text_label("")
        self.middle_title = FactRow(tr("Middle of these two"))
        self.middle_title.word.setObjectName("")
        self.middle_title.word.setFont(self.why_title.font())
        self.steps = StepRow()
        for widget in (self.why_title, self.why, self.middle_title, self.steps):
            self.lines.addWidget(widget)
        self.lines.addWidget(self.rules[1])
        self.same_title = text_label(tr("Nearly the same on this sheet"), bold=True)
        self.lines.addWidget(self.same_title)
        self.same = QVBoxLayout()
        self.lines.addLayout(self.same)
        self.lines.addStretch(1)

    def show_cell(self, sheet: Sheet | None, cell_id: str, prediction: Prediction | None) -> None:
        """Show a cell, or a hint where none is selected."""
        clear_layout(self.same)
        known = sheet is not None and bool(cell_id) and prediction is not None
        told = (self.same_title, self.why_title, self.why, *self.rules, *self.facts.values())
        for widget in (self.stroke, *told):
            widget.setVisible(known)
        for widget in (self.vivid, self.middle_title, self.steps):
            widget.setVisible(False)
        if sheet is None or not cell_id or prediction is None:
            self.title.setText(tr("Cell"))
            self.words.setText(tr("Click a cell of the sheet to see what it will be, or use the arrow keys."))
            return
        place = next(i for i, cell in enumerate(sheet.cells) if cell.id == cell_id)
        cell = sheet.cells[place]
        self.title.setText(" + ".join(cell.recipe.names))
        order = ", " + tr("cell {order} of {n}", order=cell.order, n=len(sheet.cells)) if cell.order else ""
        typical = "; " + tr("typical, not yours") if self.session.learning.typical(cell.recipe) else ""
        how = _MIXING_WORDS.get(cell.mixing) or parts_words(cell.recipe)
        self.words.setText(f"{how}{order}{typical}")
        looks = self.session.learning.looks
        self.stroke.show_image(
            (lambda w, h, r: looks.stroke(cell.recipe, w, h, r)) if looks is not None else None
        )
        if cell.mixing:  # what runs together is read as what it is, and not foretold
            for widget in told:
                widget.setVisible(False)
            self.stroke.show_image(
                (lambda w, h, r: looks.running(cell.recipe, cell.mixing, w, h, cell.id, r))
                if looks is not None
                else None
            )
            self.lay_out()
            return
        foretold = prediction.at(place)
        if foretold is None:
            self._show_unknown(cell)
            return
        lab, radius = foretold
        lightness, chroma, hue = lch_from_lab(lab)
        self.facts["Lightness"].set(f"{lightness:.0f}")
        self.facts["Chroma"].set(f"{chroma:.0f}")
        self.facts["Hue"].set(f"{hue:.0f}°, {hue_word(lab)}")
        self.facts["Nine in ten cells"].set(tr("within {value:.1f}", value=radius))
        self.vivid.setVisible(not bool(in_srgb(lab)))
        doubt = self.session.learning.doubt(cell.recipe)
        self.why.setText(doubt.sentence if doubt is not None else "")
        self._show_middle(cell.recipe)
        for other, away in nearly_same(sheet, prediction, cell_id):
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            chip = Swatch(30)
            chip.setFixedWidth(px(44))
            chip.show_colour(qcolor(prediction.lab[sheet.cells.index(other)]), recorded=False)
            line.addWidget(chip)
            line.addWidget(text_label(spoken_recipe(other.recipe)), 1)
            line.addWidget(text_label(decimal(f"{away:.1f}"), soft=True))
            self.same.addWidget(row)
        self.lay_out()

    def _show_unknown(self, cell: Cell) -> None:
        """Nothing is known of a paint of the cell: an empty stroke, and what is needed."""
        for widget in (self.same_title, self.why_title, self.rules[1], *self.facts.values()):
            widget.setVisible(False)
        self.stroke.show_colour(None, hint=tr("not known yet"))
        self.why.setText("\n".join(self.session.learning.need_of(name) for name in cell.recipe.names))
        self.lay_out()

    def _show_middle(self, recipe: Recipe) -> None:
        """Where the middle of two paints lies, and even steps between them."""
        estimate, looks = self.session.learning.estimate, self.session.learning.looks
        if estimate is None or looks is None or len(recipe.layers) != 1 or len(recipe.names) != 2:
            return
        first, second = recipe.names
        half = middle(estimate, first, second, recipe.layers[0].wash)
        self.middle_title.set(" : ".join(str(part) for part in half.parts))
        steps = even_steps(estimate, first, second, 6, recipe.layers[0].wash, or_more=())
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
            chip.show_image(partial(_washed, looks, recipe))
            chip.setToolTip(as_tip(spoken_recipe(recipe)))


def _washed(looks: Looks, recipe: Recipe, width: int, height: int, scale: float) -> QImage:
    """A step of a row as a wash."""
    return looks.wash(recipe, width, height, "step", scale)


class RulingPage(QWidget):
    """The ruling list, to copy or to read beside the paper."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("slip")
        self.sheet: Sheet | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, STEP + 4, 2 * STEP, 2 * STEP)
        layout.addWidget(title_label(tr("Ruling list"), 17))
        layout.addWidget(text_label(tr("From the paper's top left corner, in one unit."), soft=True))
        self.unit = QComboBox()
        self.unit.addItems([tr("millimetres"), tr("inches")])
        self.unit.setAccessibleName(tr("Unit of the ruling list"))
        self.unit.currentIndexChanged.connect(self._write)
        layout.addWidget(self.unit)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName(tr("Ruling list"))
        layout.addWidget(self.text, 1)

    def show_sheet(self, sheet: Sheet | None) -> None:
        """Show a sheet's ruling, in the unit that it is planned in until another is chosen."""
        if sheet is not None and (self.sheet is None or unit_of(sheet) != unit_of(self.sheet)):
            self.unit.blockSignals(True)
            self.unit.setCurrentIndex(int(unit_of(sheet) == LengthUnit.INCH))
            self.unit.blockSignals(False)
        self.sheet = sheet
        self._write()

    def _write(self) -> None:
        unit = "mm" if self.unit.currentIndex() == 0 else "in"
        self.text.setPlainText("\n".join(ruling_lines(self.sheet, unit)) if self.sheet else "")


class WorkPage(QWidget):
    """What to prepare, the puddles, and what to do afterwards."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("slip")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, STEP + 4, 2 * STEP, 2 * STEP)
        layout.addWidget(title_label(tr("The work"), 17))
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName(tr("The work"))
        layout.addWidget(self.text, 1)

    def show_sheet(self, sheet: Sheet | None, costs: Sequence[WishCost] | None = ()) -> None:
        """Show a sheet's work, and what its wishes cost; None while that is being worked out."""
        lines = work_lines(sheet) if sheet is not None and sheet.cells else []
        if lines and (wishes := wish_lines(costs)):
            lines += ["", *wishes]
        text = "\n".join(lines)
        if text != self.text.toPlainText():
            self.text.setPlainText(text)


class PlanSlip(TabbedSlip):
    """The four pages with their tabs."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__([tr("Cell"), tr("Ruling"), tr("Layout"), tr("Work")], parent)
        self.cell, self.ruling = CellPage(session, self.pages), RulingPage(self.pages)
        self.layout_page, self.work = LayoutPage(session, self.pages), WorkPage(self.pages)
        self.hold(self.cell, self.ruling, self.layout_page, self.work)
