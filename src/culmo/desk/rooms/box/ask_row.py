"""What the paints must be that are counted: clear, lightfast, of a single pigment."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QToolButton, QWidget

from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.pigments import CLEAR
from culmo.desk.guard import guarded
from culmo.desk.widgets import as_tip, text_label
from culmo.desk.wrap_row import WrapRow
from culmo.words import tr

_ASKED: tuple[tuple[str, str, Callable[[Label], bool]], ...] = (
    (tr("clear"), tr("transparent or semi-transparent"), lambda label: label.transparency in CLEAR),
    (tr("lightfast"), tr("excellent or good"), lambda label: label.lightfastness in KEEPS),
    (tr("one pigment"), tr("a single pigment on its label"), lambda label: label.single),
)


@guarded
class AskRow(QWidget):
    """Words that are pressed to count only such paints."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        row = WrapRow()
        words = text_label(tr("Count only paints that are"), soft=True)
        words.setWordWrap(False)
        row.addWidget(words)
        self.chips: list[QToolButton] = []
        for text, tip, _ in _ASKED:
            chip = QToolButton()
            chip.setObjectName("chip")
            chip.setText(text)
            chip.setToolTip(as_tip(tip))
            chip.setCheckable(True)
            chip.setMinimumWidth(QFontMetrics(chip.font()).horizontalAdvance(text) + 20)
            chip.toggled.connect(lambda _: self.changed.emit())
            self.chips.append(chip)
            row.addWidget(chip)
        self.setLayout(row)

    def asked(self) -> tuple[int, ...]:
        """The places of the words that are pressed."""
        return tuple(place for place, chip in enumerate(self.chips) if chip.isChecked())

    def passes(self, label: Label) -> bool:
        """Whether a paint is all that is asked for; what is not known does not pass."""
        return all(_ASKED[place][2](label) for place in self.asked())
