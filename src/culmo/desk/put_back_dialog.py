"""Which copy of a study is put back."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.theme import STEP
from culmo.desk.widgets import text_label
from culmo.study.formats import Holds, open_filter
from culmo.study.restoring import Facts, Offered, facts_of
from culmo.words import clock_words, day_words, decimal, listed, tr, trn


class PutBackDialog(QDialog):
    """The copies of a study by their day and hour, with what is in each; or another file."""

    def __init__(self, parent: QWidget | None, path: Path, copies: list[Offered]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Put back a copy"))
        self.resize(560, 440)
        self.chosen: Path | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, 2 * STEP, 2 * STEP, 2 * STEP)
        layout.setSpacing(STEP)
        layout.addWidget(
            text_label(
                tr(
                    'A copy takes the place of "{name}". What is there now is kept as a copy too, so that nothing is lost.',
                    name=path.name,
                )
            )
        )
        self.list = QListWidget()
        self.list.setSpacing(3)
        self.list.setAccessibleName(tr("Copies, the latest first"))
        for copy in copies:
            words = f"{day_words(copy.made)}, {clock_words(copy.made)}"
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, str(copy.backup.path))
            self.list.addItem(item)
        layout.addWidget(self.list, 1)
        self.facts = text_label("", soft=True)
        layout.addWidget(self.facts)
        self.buttons = QDialogButtonBox()
        self.put = self.buttons.addButton(tr("Put back"), QDialogButtonBox.ButtonRole.AcceptRole)
        self.put.setObjectName("strong")
        self.buttons.addButton(tr("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        self.other: QPushButton = self.buttons.addButton(
            tr("Another file…"), QDialogButtonBox.ButtonRole.ActionRole
        )
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        self.other.clicked.connect(self._ask)
        self.list.currentItemChanged.connect(lambda *_: self._choose())
        self.list.itemActivated.connect(lambda _: self.accept())
        layout.addWidget(self.buttons)
        self._sizes = {str(copy.backup.path): copy.size for copy in copies}
        if copies:
            self.list.setCurrentRow(0)
        else:
            self.facts.setText(tr("There are no copies beside it; choose another file."))
        self._choose()

    def _choose(self) -> None:
        item = self.list.currentItem()
        self.chosen = Path(item.data(Qt.ItemDataRole.UserRole)) if item is not None else None
        self.put.setEnabled(self.chosen is not None)
        if self.chosen is not None:
            self.facts.setText(facts_words(facts_of(self.chosen), self._sizes[str(self.chosen)]))

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("A copy of the study"), "", open_filter(tr("Culmo studies"), Holds.STUDY)
        )
        if name:
            self.chosen = Path(name)
            self.accept()


def facts_words(facts: Facts | None, size: int) -> str:
    """What is in a copy, in two lines."""
    if facts is None:
        return tr("It can not be read.")
    words = listed(
        [
            trn("{n} paint", "{n} paints", facts.paints),
            trn("{n} sheet", "{n} sheets", facts.sheets),
            trn("{n} reading", "{n} readings", facts.readings),
            trn("{n} note", "{n} notes", facts.notes),
        ]
    )
    line = tr("{facts}; {size} MB.", facts=words, size=decimal(f"{size / 1e6:.1f}"))
    return f"{line}\n" + tr("Last in it: {words}", words=facts.last[:160]) if facts.last else line
