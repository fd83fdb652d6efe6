"""What painters do next in a young study: one quiet line, which goes when it is done."""

from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from culmo.desk.theme import STEP
from culmo.desk.widgets import text_label
from culmo.study.file import Study
from culmo.study.stand import Stand, stand_of
from culmo.words import tr, trn

_ENOUGH_PAINTS = 3


def next_words(stand: Stand) -> str:
    """What painters do next; empty where they know it by themselves."""
    if stand.paints < _ENOUGH_PAINTS and not stand.sheets:
        if not stand.paints:
            return tr("Type your first paint at the right: its name and the codes on its label, then Enter.")
        return trn(
            "{n} paint. Go on with the next line; a paint that is only planned can be entered too.",
            "{n} paints. Go on with the next line; a paint that is only planned can be entered too.",
            stand.paints,
        )
    if not stand.sheets:
        return tr(
            "Next: paint a page of cards (Ctrl+Shift+K), or plan a grid straight from the codes (Ctrl+G)."
        )
    if not stand.strokes and not stand.readings:
        return tr("Next: rule it or print it at 1:1 (Ctrl+P), then paint it cell by cell (Ctrl+3).")
    if not stand.readings:
        return tr(
            "Next: when it is dry, open a picture of it in the Read room (Ctrl+4), or type what you see."
        )
    return ""


class NextStep(QFrame):
    """The line below the rooms' words; it can be put away for this study."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("header")
        row = QHBoxLayout(self)
        row.setContentsMargins(2 * STEP, STEP // 2, STEP, STEP // 2)
        self.words = text_label("", soft=True)
        self.away = QToolButton()
        self.away.setText("\N{MULTIPLICATION SIGN}")
        self.away.setAutoRaise(True)
        self.away.setToolTip(tr("Put this line away"))
        self.away.setAccessibleName(tr("Put this line away"))
        self.away.clicked.connect(self._put_away)
        row.addWidget(self.words, 1)
        row.addWidget(self.away)
        self._is_away = False
        self.hide()

    def begin(self, study: Study) -> None:
        """Another study is open."""
        self._is_away = False
        self.look(study)

    def look(self, study: Study | None) -> None:
        """See how far a study is now; none is open where it is None."""
        words = next_words(stand_of(study)) if study is not None and not self._is_away else ""
        self.words.setText(words)
        self.setVisible(bool(words))

    def _put_away(self) -> None:
        self._is_away = True
        self.hide()
