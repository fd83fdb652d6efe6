"""What a palette must be like, what it must reach, and how that is counted."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
)

from culmo.core.palette.conditions import Conditions, Having
from culmo.core.palette.reach import Measure
from culmo.core.palette.subjects import SUBJECTS
from culmo.desk.theme import px
from culmo.desk.widgets import Slip, rule, text_label
from culmo.words import tr

_SIGNS = ("", tr("keep"), tr("leave out"))  # what a click brings about, in turn
_ALL = tr("All that the box can mix")
SUBJECT = "\0"  # begins what stands for a subject that ships, and no name of a list


class ConditionsSlip(Slip):
    """Conditions, wanted colours and measure; each change asks anew."""

    conditions_changed = Signal(object)
    considered_changed = Signal(bool)
    measure_changed = Signal(object)
    list_changed = Signal(str)
    picture_wanted = Signal()
    file_wanted = Signal()
    edit_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._filling = False
        self.lines.addWidget(text_label(tr("What is to be reached"), bold=True))
        self.lists = QComboBox()
        self.lists.setAccessibleName(tr("What is to be reached"))
        self.lists.activated.connect(lambda _: self.list_changed.emit(str(self.lists.currentData() or "")))
        self.lines.addWidget(self.lists)
        buttons = QHBoxLayout()
        self.picture, self.file, self.edit = (
            QPushButton(tr("Picture…")), QPushButton(tr("File…")), QPushButton(tr("Edit…"))
        )  # fmt: skip
        self.picture.setToolTip(tr("Wanted colours from a reference picture"))
        self.file.setToolTip(tr("Wanted colours from a CSV with L, a, b or hex, and name"))
        self.edit.setToolTip(tr("Rename, add or take out wanted colours"))
        for button, signal in (
            (self.picture, self.picture_wanted), (self.file, self.file_wanted), (self.edit, self.edit_wanted)
        ):  # fmt: skip
            button.setStyleSheet("padding: 6px 8px;")
            button.clicked.connect(lambda _=False, signal=signal: signal.emit())
            buttons.addWidget(button)
        self.lines.addLayout(buttons)
        self.lines.addWidget(rule())
        self.lines.addWidget(text_label(tr("Only paints that are"), bold=True))
        self.checks = {
            word: QCheckBox(text)
            for word, text in (
                ("lightfast", tr("lightfast")), ("transparent", tr("transparent")), ("single", tr("of a single pigment"))
            )
        }  # fmt: skip
        self.checks["pairs"] = QCheckBox(tr("A warm and a cool of each primary"))
        for check in self.checks.values():
            check.toggled.connect(lambda _: self._say_conditions())
        self.white, self.dark = QComboBox(), QComboBox()
        white = (
            tr("With or without a white"),
            tr("With a white"),
            tr("Without a white"),
            tr("A white in the palette"),
        )
        dark = (
            tr("With or without a dark"),
            tr("With a dark"),
            tr("Without a dark"),
            tr("A dark in the palette"),
        )
        for box, texts in ((self.white, white), (self.dark, dark)):
            for text, data in zip(texts, (Having.ANY, Having.WITH, Having.WITHOUT), strict=False):
                box.addItem(text, data)
            box.setAccessibleName(texts[3])
            box.activated.connect(lambda _: self._say_conditions())
        for widget in (*list(self.checks.values())[:3], self.checks["pairs"], self.white, self.dark):
            self.lines.addWidget(widget)
        self.considered = QCheckBox(tr("Considered paints may come in"))
        self.considered.setToolTip(
            tr(
                "Those that are not owned yet: keep what is chosen already, and see which of them fills the last place"
            )
        )
        self.considered.clicked.connect(lambda _: self.considered_changed.emit(self.considered.isChecked()))
        self.lines.addWidget(self.considered)
        self.lines.addWidget(text_label(tr("Keep or leave out"), bold=True))
        self.paints = QListWidget()
        self.paints.setAccessibleName(tr("Paints to keep or to leave out; Space changes one"))
        self.paints.setFixedHeight(px(170))
        self.paints.itemClicked.connect(self._turn)
        self.paints.itemActivated.connect(self._turn)
        self.lines.addWidget(self.paints)
        self.lines.addWidget(
            text_label(tr("Click (or Enter): keep, leave out, neither."), soft=True, points=10)
        )
        self.lines.addWidget(rule())
        self._make_measure()
        self.lines.addStretch(1)

    def _make_measure(self) -> None:
        self.lines.addWidget(text_label(tr("How it is counted"), bold=True))
        self.tolerance, self.dull = QDoubleSpinBox(), QDoubleSpinBox()
        for spin, (low, high, step), name in (
            (self.tolerance, (1.0, 20.0, 0.5), tr("Told apart at a difference of")),
            (self.dull, (0.0, 1.0, 0.1), tr("A dull dark counts")),
        ):
            spin.setRange(low, high)
            spin.setSingleStep(step)
            spin.setDecimals(1)
            spin.setAccessibleName(name)
            spin.setKeyboardTracking(False)
            spin.setFixedWidth(px(74))
            spin.valueChanged.connect(lambda _: self._say_measure())
            row = QHBoxLayout()
            row.addWidget(text_label(name), 1)
            row.addWidget(spin)
            self.lines.addLayout(row)
        self.balanced = QCheckBox(tr("Half for the worst hue"))
        self.balanced.toggled.connect(lambda _: self._say_measure())
        self.lines.addWidget(self.balanced)
        self.measure_words = text_label("", soft=True, points=10)
        self.lines.addWidget(self.measure_words)

    def fill(
        self,
        names: Sequence[str],
        lists: Sequence[str],
        current: str,
        conditions: Conditions,
        measure: Measure,
    ) -> None:
        """Show things as they stand."""
        self._filling = True
        self.lists.clear()
        self.lists.addItem(_ALL, "")
        for name in lists:
            self.lists.addItem(name, name)
        ready = [subject for subject in SUBJECTS if tr(subject.title) not in lists]
        if ready:
            self.lists.insertSeparator(self.lists.count())
        for subject in ready:
            self.lists.addItem(tr("{title} (ready made)", title=tr(subject.title)), SUBJECT + subject.key)
        self.lists.setCurrentIndex(max(0, self.lists.findData(current)))
        self.edit.setEnabled(bool(current))
        for word, check in self.checks.items():
            check.setChecked(bool(getattr(conditions, word)))
        self.white.setCurrentIndex(self.white.findData(conditions.white))
        self.dark.setCurrentIndex(self.dark.findData(conditions.dark))
        row = self.paints.currentRow()
        self.paints.clear()
        for name in names:
            state = 1 if name in conditions.keep else 2 if name in conditions.avoid else 0
            item = QListWidgetItem(self._words(name, state))
            item.setData(Qt.ItemDataRole.UserRole, (name, state))
            self.paints.addItem(item)
        self.paints.setCurrentRow(max(row, 0) if names else -1)
        self.tolerance.setValue(measure.tolerance)
        self.dull.setValue(measure.dull_darks)
        self.balanced.setChecked(measure.balanced)
        self.dull.setEnabled(not current)
        self.balanced.setEnabled(not current)
        counted = (
            tr(
                "each reached when a mix comes as near as a difference of {tolerance:g}",
                tolerance=measure.tolerance,
            )
            if current
            else measure.words
        )
        self.measure_words.setText(counted[:1].upper() + counted[1:] + ".")
        self._filling = False

    def show_considered(self, considered: bool, any_are: bool) -> None:
        """Whether paints that are only considered may come in, and whether there are any."""
        self.considered.setChecked(considered)
        self.considered.setEnabled(any_are)

    def _words(self, name: str, state: int) -> str:
        return f"{name}   ({_SIGNS[state]})" if state else name

    def _turn(self, item: QListWidgetItem) -> None:
        name, state = item.data(Qt.ItemDataRole.UserRole)
        state = (state + 1) % len(_SIGNS)
        item.setData(Qt.ItemDataRole.UserRole, (name, state))
        item.setText(self._words(name, state))
        self._say_conditions()

    def conditions(self) -> Conditions:
        """The conditions as chosen."""
        rows = [self.paints.item(i).data(Qt.ItemDataRole.UserRole) for i in range(self.paints.count())]
        return Conditions(
            tuple(name for name, state in rows if state == 1),
            tuple(name for name, state in rows if state == 2),
            self.checks["lightfast"].isChecked(),
            self.checks["transparent"].isChecked(),
            self.checks["single"].isChecked(),
            str(self.white.currentData()),
            str(self.dark.currentData()),
            self.checks["pairs"].isChecked(),
        )

    def _say_conditions(self) -> None:
        if not self._filling:
            self.conditions_changed.emit(self.conditions())

    def _say_measure(self) -> None:
        if not self._filling:
            self.measure_changed.emit(
                Measure(self.tolerance.value(), round(self.dull.value(), 2), self.balanced.isChecked())
            )
