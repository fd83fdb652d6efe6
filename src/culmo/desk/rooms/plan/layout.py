"""The page of the slip where a sheet is laid out: its kind, its paints, its paper; each change is tried at once."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QSlider,
    QWidget,
)

from culmo.core.chart.grid import SECOND_HALVES
from culmo.core.chart.papers import Paper
from culmo.core.chart.plans import KIND_KEYS, KINDS
from culmo.core.chart.renaming import renamed_recipe, renaming
from culmo.core.paint.recipe import mix
from culmo.desk.rooms.plan.model import (
    FIELDS,
    GAPS,
    LABEL_WORDS,
    RING_WORDS,
    SECOND_WORDS,
    SHAPE_WORDS,
    SPECIAL,
    SPLIT_WORDS,
    WAY_WORDS,
    LayoutDraft,
    paper_names,
)
from culmo.desk.session import Session
from culmo.desk.widgets import Entry, Slip, text_label, title_label
from culmo.errors import CulmoError
from culmo.words import tr

_ORIENTATIONS = ("best", "portrait", "landscape")
_MOST_GAP = 20


def _combo(words: dict[str, str], name: str) -> QComboBox:
    box = QComboBox()
    for key, word in words.items():
        box.addItem(word, key)
    _narrow(box)
    box.setAccessibleName(name)
    return box


def _narrow(box: QComboBox) -> None:
    """Long entries must not push the slip wider than it is."""
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(10)


class LayoutPage(Slip):
    """The choices of a sheet."""

    edited = Signal()
    dragged = Signal()
    keep = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._filling = False
        self.heading = title_label(tr("A new sheet"), 17)
        self.lines.addWidget(self.heading)
        self.message = text_label("", bold=True)
        self.lines.addWidget(self.message)
        self.hints = text_label("", soft=True, points=10)
        self.lines.addWidget(self.hints)
        self.words: dict[str, QWidget] = {}
        self._make_fields()
        for word, name, widget in self._fields():
            label = text_label(word, soft=True, points=10)
            self.words[name] = label
            widget.setAccessibleName(widget.accessibleName() or word)
            self.lines.addWidget(label)
            if not word:  # a box to tick says itself what it is
                label.hide()
            self.lines.addWidget(widget)
            if widget is self.kind:
                self.lines.addWidget(self.kind_words)
        self.keep_button = QPushButton(tr("Keep this plan"))
        self.keep_button.setObjectName("strong")
        self.keep_button.clicked.connect(self.keep.emit)
        self.lines.addWidget(self.keep_button)
        self.lines.addStretch(1)
        self._connect()

    def _make_fields(self) -> None:
        self.kind = _combo({kind.key: kind.title for kind in KINDS}, tr("Kind of sheet"))
        for place, kind in enumerate(KINDS):
            self.kind.setItemData(place, kind.words, Qt.ItemDataRole.ToolTipRole)
        self.kind_words = text_label("", soft=True, points=10)
        self.title = Entry(tr("Title of the sheet"))
        self.paints = self._list(tr("Paints of the sheet, in order"))
        self.across = self._list(tr("Paints across, in order"))
        self.across.setMinimumHeight(110)
        self.paper = QComboBox()
        self.paper.setEditable(True)
        self.paper.setAccessibleName(tr("Paper, by name or as 240x320"))
        self.orientation = _combo(
            {"best": tr("as it fits best"), "portrait": "portrait", "landscape": "landscape"},
            tr("How the paper lies"),
        )
        self.second = _combo({key: SECOND_WORDS[key] for key in SECOND_HALVES}, tr("Second half"))
        self.extra = QComboBox()
        self.split = _combo(SPLIT_WORDS, tr("Cells"))
        self.label_place = _combo(
            {"bands": tr("beside the grid"), "cells": tr("in the pure cells")}, tr("Where the labels stand")
        )
        self.way = _combo(WAY_WORDS, tr("Way of the fan"))
        self.steps = Entry("5", tr("Steps"))
        self.parts = Entry(tr("100/75/50/25/0, or 1:1, 5 more, 1:3"), tr("Given parts"))
        self.even = QCheckBox(tr("Even steps to the eye"))
        self.wet = QCheckBox(tr("Boxes to paint wet in wet"))
        self.places = Entry("12", tr("Places of the wheel"))
        self.shape = _combo(SHAPE_WORDS, tr("Shape of the cells"))
        self.rings = _combo(RING_WORDS, tr("Rings"))
        self.centre = _combo({"empty": "empty", "all": tr("all anchors together")}, tr("Centre"))
        self.halves = QCheckBox(tr("Each place half full, half pale"))
        self.cover = QCheckBox(tr("A turning cover with windows"))
        self.true_hues = QCheckBox(tr("Each paint at its measured hue"))
        self.recipes = QPlainTextEdit()
        self.recipes.setPlaceholderText("Rose\nRose + Lemon\nLemon:3 + Rose @ tint")
        self.recipes.setAccessibleName(tr("Recipes, one a line"))
        self.recipes.setFixedHeight(120)
        self.recipes.setTabChangesFocus(True)
        self.cell = Entry(tr("the largest that fits"), tr("Wished cell size"))
        self.gap = Entry("0", tr("Gap between cells in mm"))
        self.gap_slider = QSlider(Qt.Orientation.Horizontal)
        self.gap_slider.setRange(0, 2 * _MOST_GAP)
        self.gap_slider.setAccessibleName(tr("Gap between cells"))
        self.gap_row = QWidget()
        row = QHBoxLayout(self.gap_row)
        row.setContentsMargins(0, 0, 0, 0)
        self.gap.setFixedWidth(64)
        row.addWidget(self.gap)
        row.addWidget(self.gap_slider, 1)
        self.tape = Entry("6", tr("Tape margin in mm"))
        self.gutter = Entry("0", tr("Gutter at the left, as of a spiral"))
        self.note = Entry("0", tr("Strip for notes at the foot"))
        self.labels = QComboBox()
        self.labels.addItems([tr(word) for word in LABEL_WORDS])
        for box in (self.paper, self.extra, self.labels):
            _narrow(box)
        self.unit = _combo(
            {"mm": tr("half millimetres"), "in": tr("sixteenths of an inch")}, tr("Cells rounded to")
        )
        self.marks = QCheckBox(tr("Corner marks for a picture"))
        self.several = QCheckBox(tr("Over several sheets that join"))

    def _list(self, name: str) -> QListWidget:
        box = QListWidget()
        box.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        box.setMinimumHeight(160)
        box.setAccessibleName(name)
        return box

    def _fields(self) -> list[tuple[str, str, QWidget]]:
        return [
            (tr("Kind"), "kind", self.kind),
            (tr("Title"), "title", self.title),
            (tr("Paints, in order (drag to move)"), "paints", self.paints),
            (tr("Paints across"), "across", self.across),
            (tr("Paper"), "paper", self.paper),
            (tr("Lying"), "orientation", self.orientation),
            (tr("Second half"), "second", self.second),
            (tr("With"), "extra", self.extra),
            (tr("Cells"), "split", self.split),
            (tr("Labels stand"), "label_place", self.label_place),
            (tr("Way"), "way", self.way),
            (tr("Steps"), "steps", self.steps),
            (tr("Given parts"), "parts", self.parts),
            ("", "even", self.even),
            ("", "wet", self.wet),
            (tr("Places"), "places", self.places),
            (tr("Shape"), "shape", self.shape),
            (tr("Rings"), "rings", self.rings),
            (tr("Centre"), "centre", self.centre),
            ("", "halves", self.halves),
            ("", "cover", self.cover),
            ("", "true_hues", self.true_hues),
            (tr("Recipes, one a line"), "recipes", self.recipes),
            (tr("Cell size, mm"), "cell", self.cell),
            (tr("Gap, mm"), "gap", self.gap_row),
            (tr("Tape margin, mm"), "tape", self.tape),
            (tr("Gutter, mm"), "gutter", self.gutter),
            (tr("Strip for notes, mm"), "note", self.note),
            (tr("Labels"), "labels", self.labels),
            (tr("Rounded to"), "unit", self.unit),
            ("", "marks", self.marks),
            ("", "several", self.several),
        ]

    def _connect(self) -> None:
        for combo in (
            self.orientation,
            self.second,
            self.extra,
            self.labels,
            self.split,
            self.label_place,
            self.way,
            self.shape,
            self.rings,
            self.centre,
            self.unit,
        ):
            combo.currentIndexChanged.connect(self._edited)
        self.kind.currentIndexChanged.connect(self._kind_chosen)
        self.paper.currentTextChanged.connect(self._edited)
        for entry in (
            self.title,
            self.cell,
            self.gap,
            self.tape,
            self.steps,
            self.parts,
            self.places,
            self.gutter,
            self.note,
        ):
            entry.textEdited.connect(self._edited)
        for box in (self.even, self.wet, self.halves, self.cover, self.true_hues, self.marks, self.several):
            box.toggled.connect(self._edited)
        for paints in (self.paints, self.across):
            paints.itemChanged.connect(self._edited)
            paints.model().rowsMoved.connect(self._edited)
        self.recipes.textChanged.connect(self._edited)
        self.gap_slider.valueChanged.connect(self._slid)

    # ---- in and out

    def fill(self, draft: LayoutDraft, names: Sequence[str], owned: Sequence[Paper], heading: str) -> None:
        """Show a draft."""
        self._filling = True
        self.heading.setText(heading)
        self.kind.setCurrentIndex(KIND_KEYS.index(draft.kind))
        self.title.setText(draft.title)
        self._fill_list(self.paints, draft.paints, names)
        self._fill_list(self.across, draft.across, names)
        self.paper.clear()
        self.paper.addItems(paper_names(owned))
        self.paper.setCurrentText(draft.paper)
        self.extra.clear()
        self.extra.addItems(list(names))
        self.extra.setCurrentText(draft.extra)
        for name in (
            "orientation",
            "second",
            "split",
            "label_place",
            "way",
            "shape",
            "centre",
            "unit",
            "rings",
        ):
            box = getattr(self, name)
            box.setCurrentIndex(max(0, box.findData(getattr(draft, name))))
        for name in ("steps", "parts", "places", "cell", "gap", "tape", "gutter", "note"):
            getattr(self, name).setText(getattr(draft, name))
        for name in ("even", "wet", "halves", "cover", "true_hues", "marks", "several"):
            getattr(self, name).setChecked(getattr(draft, name))
        self.recipes.setPlainText(draft.recipes)
        self.labels.setCurrentIndex(LABEL_WORDS.index(draft.labels))
        self._set_slider()
        self._filling = False
        self._show_fields()

    def _fill_list(self, box: QListWidget, chosen: Sequence[str], names: Sequence[str]) -> None:
        box.clear()
        for name in [*chosen, *(name for name in names if name not in chosen)]:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in chosen else Qt.CheckState.Unchecked)
            box.addItem(item)

    def _chosen(self, box: QListWidget) -> list[str]:
        items = [box.item(i) for i in range(box.count())]
        return [item.text() for item in items if item.checkState() == Qt.CheckState.Checked]

    def draft(self) -> LayoutDraft:
        """The fields as they stand."""
        draft = LayoutDraft(
            title=self.title.text(),
            paints=self._chosen(self.paints),
            paper=self.paper.currentText(),
            extra=self.extra.currentText() if self._wants_extra() else "",
            labels=LABEL_WORDS[self.labels.currentIndex()],
            across=self._chosen(self.across),
            recipes=self.recipes.toPlainText(),
        )
        for name in (
            "kind", "orientation", "second", "split", "label_place", "way", "shape", "centre", "unit", "rings",
        ):  # fmt: skip
            setattr(draft, name, str(getattr(self, name).currentData()))
        for name in ("steps", "parts", "places", "cell", "gap", "tape", "gutter", "note"):
            setattr(draft, name, getattr(self, name).text())
        for name in ("even", "wet", "halves", "cover", "true_hues", "marks", "several"):
            setattr(draft, name, getattr(self, name).isChecked())
        return draft

    def rename(self, old: str, new: str) -> None:
        """A paint bears another name, wherever the fields name it."""
        rename = renaming(old, new)
        self._filling = True
        for box in (self.paints, self.across):
            for place in range(box.count()):
                box.item(place).setText(rename(box.item(place).text()))
        for place in range(self.extra.count()):
            self.extra.setItemText(place, rename(self.extra.itemText(place)))
        lines = []
        for line in self.recipes.toPlainText().splitlines():
            try:
                lines.append(renamed_recipe(line, rename) if line.strip() else line)
            except CulmoError:
                lines.append(line)  # half typed
        self.recipes.setPlainText("\n".join(lines))
        self._filling = False

    def say(self, message: str, hints: Sequence[str] = ()) -> None:
        """Say what can not be, or what could be better, or nothing."""
        self.message.setText(message)
        self.message.setVisible(bool(message))
        self.hints.setText("\n".join(hints))
        self.hints.setVisible(bool(hints))
        self.keep_button.setEnabled(not message)

    # ---- which fields are shown

    def _wants_extra(self) -> bool:
        kind = str(self.kind.currentData())
        if kind == "wheel":
            return bool({"white", "dark"} & set(str(self.rings.currentData()).split(",")))
        if kind == "palette":
            return True
        return "extra" in FIELDS[kind] and self.second.currentData() in ("white", "third")

    def _show_fields(self) -> None:
        kind = str(self.kind.currentData())
        shown = set(FIELDS[kind])
        words = next(entry.words for entry in KINDS if entry.key == kind)
        self.kind_words.setText(words[:1].upper() + words[1:] + ".")
        if not self._wants_extra():
            shown.discard("extra")
        if kind == "families" and not self.split.currentData():
            shown.discard("second")
        for name in SPECIAL:
            widget = getattr(self, name)
            widget.setVisible(name in shown)
            self.words[name].setVisible(name in shown and not isinstance(widget, QCheckBox))

    def _kind_chosen(self) -> None:
        if self._filling:
            return
        kind = str(self.kind.currentData())
        self._filling = True
        self.gap.setText(GAPS.get(kind, "0"))
        self._set_slider()
        if kind in ("palette", "wheel"):
            self._choose_dark()
        if kind == "triangle" and self.steps.text() in ("5", ""):
            self.steps.setText("6")
        self._filling = False
        self._edited()

    def _choose_dark(self) -> None:
        """The deepest paint is the likeliest dark."""
        names = [self.extra.itemText(i) for i in range(self.extra.count())]
        known = [name for name in names if self.session.knows(mix([name]))]
        found = self.session.predict([mix([name]) for name in known]) if known else None
        if found is not None:
            self.extra.setCurrentText(known[int(found.lab[:, 0].argmin())])

    def _set_slider(self) -> None:
        try:
            value = round(2 * float(self.gap.text().replace(",", ".") or 0))
        except ValueError:
            return
        self.gap_slider.setValue(min(value, 2 * _MOST_GAP))

    def _slid(self, value: int) -> None:
        if not self._filling:
            self.gap.setText(f"{value / 2:g}")
            self.dragged.emit()

    def _edited(self) -> None:
        if not self._filling:
            self._show_fields()
            self.edited.emit()
