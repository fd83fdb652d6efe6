"""The painter's own papers: named, changed and removed."""

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from culmo.core.chart.lengths import length_mm, length_text, size_text
from culmo.core.chart.papers import Paper, find_paper
from culmo.core.chart.run import PAPERS as TOOTHS
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, text_label, title_label
from culmo.errors import CulmoError
from culmo.study.papers import TONES, OwnPaper, keep_paper, own_papers, remove_paper
from culmo.words import tr


@guarded
class PapersDialog(QDialog):
    """The papers at the left, what the chosen one is like at the right.

    Attributes
    ----------
    chosen : str, the name of the paper that was saved last; empty while none was
    """

    def __init__(self, parent: QWidget | None, session: Session, unit: str, typed: str = "") -> None:
        super().__init__(parent)
        self.session, self.unit, self.chosen = session, unit, ""
        self._papers: list[OwnPaper] = []
        self.setWindowTitle(tr("My papers"))
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * STEP, STEP, 2 * STEP, 2 * STEP)
        column.addWidget(title_label(tr("My papers"), 17))
        halves = QHBoxLayout()
        halves.setSpacing(2 * STEP)
        column.addLayout(halves)
        halves.addLayout(self._list_side())
        halves.addLayout(self._form_side())
        self.message = text_label("", bold=True)
        self.message.hide()
        column.addWidget(self.message)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        close = QPushButton(tr("Close"))
        close.setAutoDefault(False)
        close.clicked.connect(self.accept)
        self.save_button = QPushButton(tr("Save this paper"))
        self.save_button.setObjectName("strong")
        self.save_button.setDefault(True)
        self.save_button.clicked.connect(self.save)
        buttons.addWidget(close)
        buttons.addWidget(self.save_button)
        column.addLayout(buttons)
        for entry in (self.name, self.size_entry, self.gutter):
            entry.returnPressed.connect(self.save)
        self.list.currentRowChanged.connect(self._show)
        self.refresh()
        self.list.setCurrentRow(0)
        if typed or not self._papers:
            self.begin(typed)

    def _list_side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName(tr("My papers"))
        self.list.setMinimumWidth(px(200))
        side.addWidget(self.list)
        acts = QHBoxLayout()
        self.new_button, self.remove_button = QPushButton(tr("New paper")), QPushButton(tr("Remove"))
        for button, act in ((self.new_button, self.begin), (self.remove_button, self.remove)):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, act=act: act())
            acts.addWidget(button)
        side.addLayout(acts)
        return side

    def _form_side(self) -> QFormLayout:
        form = QFormLayout()
        form.setVerticalSpacing(STEP)
        self.name = Entry(tr("Sketchbook, 200 g"), tr("Name"))
        self.size_entry = Entry("24 x 32 cm", tr("Size"))
        self.tooth, self.tone = QComboBox(), QComboBox()
        for tooth in TOOTHS:
            self.tooth.addItem(tr(tooth), tooth)
        self.tooth.setAccessibleName(tr("Tooth"))
        self.tone.setEditable(True)
        for tone in TONES:
            self.tone.addItem(tr(tone) if tone else tr("as most papers"), tone)
        self.tone.setAccessibleName(tr("Tone"))
        self.gutter = Entry("0 mm", tr("Gutter"))
        self.gutter.setToolTip(tr("What a spiral or a fold takes at the left"))
        form.addRow(tr("Name"), self.name)
        form.addRow(tr("Size"), self.size_entry)
        form.addRow(tr("Tooth"), self.tooth)
        form.addRow(tr("Tone"), self.tone)
        form.addRow(tr("Gutter"), self.gutter)
        form.addRow(
            "",
            text_label(
                tr("Smooth papers dry sooner. The tone is the ground that a sheet is shown on."),
                soft=True,
                points=10,
            ),
        )
        return form

    # ---- what is there

    def refresh(self, name: str = "") -> None:
        """List the papers, with one of them chosen."""
        self._papers = own_papers(self.session.file)
        self.list.clear()
        self.list.addItems([own.paper.name for own in self._papers])
        names = [own.paper.name for own in self._papers]
        if name in names:
            self.list.setCurrentRow(names.index(name))
        self.remove_button.setEnabled(self.list.currentRow() >= 0)

    def _show(self, row: int) -> None:
        self.remove_button.setEnabled(row >= 0)
        if row < 0:
            return
        own = self._papers[row]
        self.name.setText(own.paper.name)
        self.size_entry.setText(size_text(own.paper.width_mm, own.paper.height_mm, self.unit))
        self.tooth.setCurrentIndex(self.tooth.findData(own.tooth))
        place = self.tone.findData(own.tone)
        if place >= 0:
            self.tone.setCurrentIndex(place)
        else:
            self.tone.setEditText(own.tone)
        self.gutter.setText(length_text(own.gutter_mm, self.unit))
        self.say("")

    def say(self, text: str) -> None:
        """What is wrong, or nothing."""
        self.message.setText(text)
        self.message.setVisible(bool(text))

    # ---- acts

    def begin(self, size: str = "") -> None:
        """Begin a new paper; its size may be known already."""
        self.list.setCurrentRow(-1)
        for entry in (self.name, self.gutter):
            entry.clear()
        self.size_entry.setText(size)
        self.tooth.setCurrentIndex(self.tooth.findData("cold pressed"))
        self.tone.setCurrentIndex(0)
        self.say("")
        self.name.setFocus(Qt.FocusReason.OtherFocusReason)

    def typed(self) -> OwnPaper:
        """The paper as it is typed.

        Raises
        ------
        CulmoError
            saying which field can not be
        """
        name = self.name.text().strip()
        size = find_paper(self.size_entry.text())
        row = self.list.currentRow()
        kept = self._papers[row] if row >= 0 else None
        if kept is not None and self.size_entry.text() == size_text(
            kept.paper.width_mm, kept.paper.height_mm, self.unit
        ):
            size = kept.paper  # what was not typed is not rounded to what is shown
        text = self.tone.currentText().strip()
        place = self.tone.findText(text, Qt.MatchFlag.MatchFixedString)
        own = OwnPaper(
            Paper(name or size.name, size.width_mm, size.height_mm),
            str(self.tooth.currentData()),
            str(self.tone.itemData(place)) if place >= 0 else text.casefold(),
            length_mm(self.gutter.text()) if self.gutter.text().strip() else 0.0,
        )
        if not name:
            raise CulmoError(tr("the paper needs a name"))
        return replace(own, id=kept.id if kept is not None else 0)

    def save(self) -> None:
        """Keep the paper as it is typed."""
        try:
            own = self.typed()
            command = keep_paper(self.session.file, own)
        except CulmoError as error:
            self.say(str(error))
            return
        if self.session.do(command):
            self.chosen = own.paper.name
            self.refresh(own.paper.name)
            self.say("")

    def remove(self) -> None:
        """The chosen paper is used up; undo brings it back."""
        row = self.list.currentRow()
        if row >= 0 and self.session.do(remove_paper(self.session.file, self._papers[row].id)):
            self.refresh()
            self.list.setCurrentRow(min(row, self.list.count() - 1))
            if not self._papers:
                self.begin()
