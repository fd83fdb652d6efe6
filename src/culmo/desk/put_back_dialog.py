"""Which copy of a study is put back."""

import sqlite3
from contextlib import closing
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
from culmo.study.restoring import Offered
from culmo.words import clock_words, day_words, decimal, listed, tr, trn


class PutBackDialog(QDialog):
    """The copies of a study by their day and hour, with what is in each; or another file."""

    def __init__(self, parent: QWidget | None, path: Path, copies: list[Offered]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Put back a copy"))
        self.resize(560, 440)
        self.chosen: Path | None = None
        layout = QVBoxLayout(self)
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
            self.facts.setText(facts_of(self.chosen))

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("A copy of the study"), "", tr("Culmo studies (*.culmo)")
        )
        if name:
            self.chosen = Path(name)
            self.accept()


def facts_of(path: Path) -> str:
    """What is in a copy, in a line; what can not be read is left out."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as db:
            counts = [
                db.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0]
                for table in ("paints", "sheets", "readings", "notes")
            ]
            last = db.execute("SELECT text FROM events ORDER BY at DESC, id DESC LIMIT 1").fetchone()
    except sqlite3.Error:
        return tr("It can not be read.")
    size = decimal(f"{path.stat().st_size / 1e6:.1f}")
    words = listed(
        [
            trn("{n} paint", "{n} paints", counts[0]),
            trn("{n} sheet", "{n} sheets", counts[1]),
            trn("{n} reading", "{n} readings", counts[2]),
            trn("{n} note", "{n} notes", counts[3]),
        ]
    )
    line = tr("{facts}; {size} MB.", facts=words, size=size)
    return f"{line}\n" + tr("Last in it: {words}", words=str(last[0])[:160]) if last is not None else line
