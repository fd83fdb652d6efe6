"""The head of a room that shows a sheet: which one lies on the table, and what can be done with it."""

from collections.abc import Sequence

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import give_font, px, serif
from culmo.desk.widgets import NamePicker
from culmo.desk.wrap_row import TwoOnALine, WrapRow
from culmo.study import records
from culmo.words import tr


@guarded
class SheetPicker(NamePicker):
    """Which sheet lies on the table."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName(tr("Sheet on the table"))
        self.setObjectName("title")
        give_font(self, serif(18))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.setMinimumWidth(px(80))
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self._ids: list[int] = []
        for signal in (session.opened, session.changed, session.selection.sheet_changed):
            signal.connect(self._hear)
        self.activated.connect(lambda place: session.selection.select_sheet(self._ids[place]))

    def showEvent(self, event: QShowEvent) -> None:
        self.refresh()
        super().showEvent(event)

    def _hear(self) -> None:
        """In a room that is not on view the sheets are listed when it next is."""
        room = self.parentWidget()
        if room is not None and not room.isVisible():
            self.setVisible(True)  # else it would not be told when the room is shown
        else:
            self.refresh()

    def refresh(self) -> None:
        """List the sheets."""
        sheets = records.with_versions(self.session.study) if self.session.study else []
        self.clear()
        self._ids = [sheet_id for sheet_id, _ in sheets]
        self.addItems([title for _, title in sheets])
        # shown by itself before it has a place, a widget would become a window of its own
        self.setVisible(bool(sheets) and self.parentWidget() is not None)
        self.updateGeometry()
        if self.session.selection.sheet_id in self._ids:
            self.setCurrentIndex(self._ids.index(self.session.selection.sheet_id))


def room_head(
    title: QLabel, picker: QWidget, tools: Sequence[QWidget], subtitle: QLabel, shows: QWidget
) -> QVBoxLayout:
    """The two lines above a room's picture: what lies there and what can be done, then what is shown of it."""
    head = QVBoxLayout()
    head.setSpacing(0)
    what, acts = QHBoxLayout(), WrapRow(8)
    what.addWidget(title)
    what.addWidget(picker)
    what.addStretch(1)
    for tool in tools:
        acts.addWidget(tool)
    head.addLayout(TwoOnALine(what, acts, 200))
    head.addLayout(TwoOnALine(subtitle, shows))
    return head
