"""The small dialogs of the Box room: a box, card pages, a refilled well, a shop slip, a swatch in a picture."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from culmo.core.capture.sample import relative_to_paper
from culmo.core.chart.aids import Aids
from culmo.core.chart.box import MOST_COLUMNS, MOST_ROWS, BoxShape
from culmo.core.chart.lengths import length_mm
from culmo.core.chart.order import plan_order
from culmo.core.chart.papers import Paper
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import Sheet
from culmo.data import pigment_table
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import drawn_width_mm
from culmo.desk.drawing.shop_slip import ShopSlip, shop_slip_image, write_shop_slip
from culmo.desk.picture_view import PICTURES, PictureView
from culmo.desk.rooms.box.entry_model import completions
from culmo.desk.rooms.box.model import CARD_FIELDS, lab_text
from culmo.desk.rooms.box.paint_slip import PaintLineEntry
from culmo.desk.rooms.plan.model import paper_names
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, text_label, title_label
from culmo.errors import CulmoError
from culmo.study.acts import PaintEntry
from culmo.study.box_records import Box, Touched
from culmo.study.paint_lists import entry_of
from culmo.study.records import Paint
from culmo.words import tr, trn


class AskDialog(QDialog):
    """A title, some fields, a line for what is wrong, and two buttons."""

    def __init__(self, parent: QWidget | None, title: str, verb: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(2 * STEP, STEP, 2 * STEP, 2 * STEP)
        self.column.addWidget(title_label(title, 17))
        self.form = QFormLayout()
        self.form.setVerticalSpacing(STEP)
        self.column.addLayout(self.form)
        self.message = text_label("", bold=True)
        self.message.hide()
        self.column.addWidget(self.message)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.accept_button = QPushButton(verb)
        self.accept_button.setObjectName("strong")
        self.accept_button.setDefault(True)
        buttons.addButton(self.accept_button, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.try_accept)
        buttons.rejected.connect(self.reject)
        self.column.addWidget(buttons)

    def try_accept(self) -> None:
        """Close where all is well, else say what is not."""
        try:
            self.check()
        except CulmoError as error:
            self.say(str(error))
            return
        self.accept()

    def check(self) -> None:
        """Raise where a field can not be taken."""

    def say(self, text: str) -> None:
        """What is wrong."""
        self.message.setText(text)
        self.message.setVisible(bool(text))


class BoxDialog(AskDialog):
    """A box's name and shape."""

    def __init__(self, parent: QWidget | None, box: Box | None, name: str, rows: int, columns: int) -> None:
        super().__init__(
            parent,
            tr("Lay out a box") if box is None else tr("Change the box"),
            tr("Lay out") if box is None else tr("Change"),
        )
        self.box = box
        self.name = Entry(tr("Studio box"), tr("Name of the box"))
        self.name.setText(name)
        self.rows, self.columns = _spin(1, MOST_ROWS, rows), _spin(1, MOST_COLUMNS, columns)
        self.gap, self.rim = Entry("1.5", tr("Gap between wells")), Entry("4", tr("Rim"))
        shape = box.shape if box is not None else BoxShape(rows, columns, {})
        self.gap.setText(tr("{gap_mm:g} mm", gap_mm=shape.gap_mm))
        self.rim.setText(tr("{rim_mm:g} mm", rim_mm=shape.rim_mm))
        self.form.addRow(tr("Name"), self.name)
        self.form.addRow(tr("Rows of wells"), self.rows)
        self.form.addRow(tr("Wells in a row"), self.columns)
        self.form.addRow(tr("Gap between wells"), self.gap)
        self.form.addRow(tr("Rim round them"), self.rim)
        self.size_words = text_label("", soft=True)
        self.form.addRow("", self.size_words)
        for field in (self.rows, self.columns):
            field.valueChanged.connect(self._show_size)
        for entry in (self.gap, self.rim):
            entry.textChanged.connect(self._show_size)
        self._show_size()
        self.name.setFocus()
        self.name.selectAll()

    def shape(self) -> BoxShape:
        """The shape as typed; pans stay as they are."""
        pans = self.box.shape.pans if self.box is not None else {}
        return BoxShape(
            self.rows.value(),
            self.columns.value(),
            pans,
            length_mm(self.gap.text()),
            length_mm(self.rim.text()),
        )

    def check(self) -> None:
        self.shape()

    def _show_size(self) -> None:
        try:
            width, height = self.shape().size_mm
        except CulmoError as error:
            self.say(str(error))
            return
        self.say("")
        self.size_words.setText(
            tr(
                "Inside {width:.0f} x {height:.0f} mm, with half pans of 15.5 x 19 mm",
                width=width,
                height=height,
            )
        )


def _spin(low: int, high: int, value: int) -> QSpinBox:
    spin = QSpinBox()
    spin.setRange(low, high)
    spin.setValue(value)
    return spin


class CardsDialog(AskDialog):
    """Which paints get a card, on which paper, with which tests."""

    def __init__(
        self,
        parent: QWidget | None,
        groups: Sequence[tuple[str, Sequence[Paint]]],
        owned: Sequence[Paper],
    ) -> None:
        super().__init__(parent, tr("Plan card pages"), tr("Plan"))
        self.groups = [(word, list(paints)) for word, paints in groups if paints]
        self.owned = owned
        self.which = QComboBox()
        for word, paints in self.groups:
            self.which.addItem(f"{word} ({len(paints)})")
        self.paper = QComboBox()
        self.paper.setEditable(True)
        self.paper.addItems(paper_names(owned))
        self.paper.setCurrentText(owned[0].name if owned else "A4")
        self.tape = Entry("6 mm", tr("Tape margin"))
        self.tape.setText("6 mm")
        self.lift = QCheckBox(tr("Patches to lift: how much comes off"))
        self.fade = QCheckBox(tr("Patches for the window: how much it fades"))
        self.lift.setChecked(True)
        self.fade.setChecked(True)
        self.form.addRow(tr("Cards for"), self.which)
        self.form.addRow(tr("Paper"), self.paper)
        self.form.addRow(tr("Tape margin"), self.tape)
        self.form.addRow(self.lift)
        self.form.addRow(self.fade)
        self.words = text_label("", soft=True)
        self.form.addRow(self.words)
        self.which.currentIndexChanged.connect(lambda _: self._show_pages())
        self.paper.currentTextChanged.connect(lambda _: self._show_pages())
        self.tape.textChanged.connect(lambda _: self._show_pages())
        for box in (self.lift, self.fade):
            box.toggled.connect(lambda _: self._show_pages())
        self._show_pages()
        self.accept_button.setFocus()

    def sheets(self) -> list[Sheet]:
        """The pages, with their order of work.

        Raises
        ------
        CulmoError
            when they can not be laid out
        """
        if not self.groups:
            raise CulmoError(tr("there is no paint to make a card of"))
        word, paints = self.groups[self.which.currentIndex()]
        title = (
            tr("Card of {name}", name=paints[0].name)
            if len(paints) == 1
            else tr("Cards, {what}{word}", what=word[:1].casefold(), word=word[1:])
        )
        own = {paper.name.casefold(): paper for paper in self.owned}
        text = self.paper.currentText().strip()
        plan = plan_of(
            "cards",
            {
                "paints": tuple(paint.name for paint in paints),
                "lift": self.lift.isChecked(),
                "fade": self.fade.isChecked(),
                "paper": own.get(text.casefold()) or text,
                "title": title,
                "tape_mm": self.tape.text(),
            },
        )
        codes = {paint.name.casefold(): paint.codes for paint in paints}
        return [plan_order(sheet) for sheet in lay_out(plan, Aids(drawn_width_mm, codes=codes))]

    def check(self) -> None:
        self.sheets()

    def _show_pages(self) -> None:
        try:
            sheets = self.sheets()
        except CulmoError as error:
            self.words.setText("")
            self.say(str(error))
            return
        self.say("")
        _, _, width, height = sheets[0].cells[0].box_mm
        pages = tr("{n} pages", n=len(sheets)) if len(sheets) > 1 else tr("One page")
        self.words.setText(
            tr(
                "{pages}; masstones {width:.0f} x {height:.0f} mm. The bars are drawn first, in "
                "waterproof ink.",
                pages=pages,
                width=width,
                height=height,
            )
        )


class RefillDialog(AskDialog):
    """Which paint takes another's place, and what that touches."""

    def __init__(self, parent: QWidget | None, old: Paint, touched: Sequence[Touched]) -> None:
        super().__init__(parent, tr("Refill the well of {name}", name=old.name), tr("Refill"))
        self.setMinimumWidth(px(480))
        self.column.insertWidget(
            1,
            text_label(
                tr(
                    "A tube of another maker, or another batch, is another paint. The old one is kept with "
                    "its record."
                ),
                soft=True,
            ),
        )
        self.line = PaintLineEntry(f"{old.name} {old.codes}".strip(), tr("The new paint in one line"))
        self.line.setText(f"{old.name} {old.codes}".strip())
        self.understood = text_label("", soft=True, points=10)
        self.form.addRow(tr("The new paint"), self.line)
        self.form.addRow("", self.understood)
        self.patches: list[tuple[QCheckBox, Touched]] = []
        rows = [
            trn("{n} sheet hold it.", "{n} sheets hold it.", len(touched))
            if touched
            else tr("No sheet holds it yet.")
        ]
        rows.append(tr("To be swatched again: its card (masstone, tint, bar)."))
        for text in rows:
            self.form.addRow(text_label(text))
        for entry in touched[:8]:
            cells = trn("{n} cell", "{n} cells", len(entry.cells))
            box = QCheckBox(
                tr(
                    "Plan a patch for {title}: {cells}, {painted} painted",
                    title=entry.title,
                    cells=cells,
                    painted=entry.painted,
                )
            )
            box.setChecked(entry.painted > 0)
            self.patches.append((box, entry))
            self.form.addRow(box)
        self.line.textChanged.connect(self._typed)
        self._typed(self.line.text())
        self.line.setFocus()
        self.line.selectAll()

    def entry(self) -> PaintEntry:
        """The new paint."""
        line, _ = completions(self.line.text(), pigment_table())
        return entry_of(line, line.name, line.codes_text)

    def check(self) -> None:
        self.entry()

    def wanted(self) -> list[Touched]:
        """The sheets for which a patch is to be planned."""
        return [entry for box, entry in self.patches if box.isChecked()]

    def _typed(self, text: str) -> None:
        self.understood.setText(completions(text, pigment_table())[1])
        self.say("")


class SlipDialog(QDialog):
    """A shop slip, to look at, to save and to print."""

    def __init__(self, parent: QWidget | None, slip: ShopSlip, looks: Looks | None) -> None:
        super().__init__(parent)
        self.slip, self.looks = slip, looks
        self.setWindowTitle(tr("Shop slip, {what}", what=slip.title.casefold()))
        column = QVBoxLayout(self)
        picture = QLabel()
        ratio = self.devicePixelRatioF()
        image = shop_slip_image(slip, looks, 110 * ratio)
        image.setDevicePixelRatio(ratio)
        picture.setPixmap(QPixmap.fromImage(image))
        picture.setAccessibleName(tr("Shop slip"))
        picture.setFrameShape(QLabel.Shape.Box)
        column.addWidget(picture)
        self.message = text_label("")
        column.addWidget(self.message)
        row = QHBoxLayout()
        self.save = QPushButton(tr("Save as PNG or PDF…"))
        self.save.setObjectName("strong")
        self.save.clicked.connect(self._save)
        close = QPushButton(tr("Close"))
        close.clicked.connect(self.reject)
        row.addWidget(self.save, 1)
        row.addWidget(close)
        column.addLayout(row)

    def _save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save the slip"), f"{self.slip.title}.png", tr("PNG (*.png);;PDF (*.pdf)")
        )
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """Save it by the path's ending."""
        try:
            write_shop_slip(self.slip, self.looks, path)
            self.message.setText(tr("Written: {path}", path=path))
        except CulmoError as error:
            self.message.setText(str(error))


class SwatchDialog(QDialog):
    """Colours of a card from a picture: first the bare paper, then the places of the card."""

    def __init__(self, parent: QWidget | None, name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("A swatch in a picture"))
        self.resize(820, 600)
        self.colours: dict[str, np.ndarray] = {}
        self._paper: np.ndarray | None = None
        column = QVBoxLayout(self)
        column.addWidget(title_label(tr("The swatch of {name}", name=name) if name else tr("A swatch"), 17))
        column.addWidget(
            text_label(
                tr(
                    "Click the bare paper first, so that the light is taken out; then the places of the "
                    "card. A photo is a rough instrument: take it in even light."
                ),
                soft=True,
            )
        )
        self.view = PictureView()
        self.view.picked.connect(self._take)
        column.addWidget(self.view, 1)
        row = QHBoxLayout()
        self.targets = QButtonGroup(self)
        self.keys = ["paper", *(key for key, *_ in CARD_FIELDS)]
        words = [tr("Bare paper"), *(word for _, word, *_ in CARD_FIELDS)]
        for place, word in enumerate(words):
            button = QRadioButton(word)
            self.targets.addButton(button, place)
            row.addWidget(button)
        self.targets.button(0).setChecked(True)
        row.addStretch(1)
        column.addLayout(row)
        self.message = text_label("")
        column.addWidget(self.message)
        foot = QHBoxLayout()
        choose = QPushButton(tr("Open a picture…"))
        choose.clicked.connect(self._choose)
        self.take = QPushButton(tr("Take these colours"))
        self.take.setObjectName("strong")
        self.take.setEnabled(False)
        self.take.clicked.connect(self.accept)
        cancel = QPushButton(tr("Cancel"))
        cancel.clicked.connect(self.reject)
        foot.addWidget(choose)
        foot.addStretch(1)
        foot.addWidget(cancel)
        foot.addWidget(self.take)
        column.addLayout(foot)

    def load(self, path: Path) -> None:
        """Show a picture; what is wrong with it is said."""
        try:
            self.view.load(path)
        except CulmoError as error:
            self.message.setText(str(error))

    def show_image(self, image: QImage) -> None:
        """Show a picture from the clipboard."""
        self.view.show_image(image)

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Open a picture of the swatch"), "", PICTURES)
        if name:
            self.load(Path(name))

    def _take(self, lab: object) -> None:
        place = self.targets.checkedId()
        colour = np.asarray(lab, dtype=float)
        if place == 0:
            self._paper = colour
        else:
            self.colours[self.keys[place]] = colour
        self.take.setEnabled(bool(self.colours))
        if place + 1 < len(self.keys):
            self.targets.button(place + 1).setChecked(True)
        told = [f"{key}: {text}" for key, text in self.texts().items()]
        self.message.setText("; ".join(told) or tr("Bare paper taken"))

    def texts(self) -> dict[str, str]:
        """The colours by field of the card, seen relative to the bare paper where that was clicked."""
        result = {}
        for key, lab in self.colours.items():
            seen = lab if self._paper is None else relative_to_paper(lab, self._paper)
            L, a, b = (float(value) for value in seen)
            result[key] = lab_text((min(max(L, 0.0), 100.0), a, b))
        return result
