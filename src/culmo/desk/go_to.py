"""All acts by their names, with the paints, sheets and kept mixes to go to: one line to type in."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout

from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.go_to_model import Goal, found
from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, text_label
from culmo.study import records
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

_OF_LIST = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


def goals_of(window: "MainWindow") -> list[Goal]:
    """All that can be done or gone to in a window now."""
    goals = [
        Goal(
            entry.title.rstrip("…").replace("&", ""), tr("act, {menu}", menu=entry.menu.title), entry.help, entry.shortcut,
            partial(window.menus.run, entry),
        )
        for entry in window.menus.table
    ]  # fmt: skip
    study, session = window.session.study, window.session
    if study is None:
        return goals

    def to_paint(name: str) -> None:
        window.show_room(RoomName.BOX)
        window.box.select(name)

    goals += [
        Goal(paint.name, tr("paint"), paint.codes, "", partial(to_paint, paint.name))
        for paint in session.paints
    ]
    goals += [
        Goal(title, tr("sheet"), "", "", partial(window.go_to_sheet, sheet_id))
        for sheet_id, title in records.sheet_titles(study)
    ]
    goals += [
        Goal(
            spoken_recipe(recipe), tr("kept mix"), tr("into the hand"), "",
            partial(session.selection.take, recipe),
        )
        for recipe in records.kept_mixes(study)
    ]  # fmt: skip
    return goals


@guarded
class GoTo(QDialog):
    """A line to type in; below it what it finds. Arrows choose, Enter does it."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.setWindowTitle(tr("Go to"))
        self.resize(px(560), px(420))
        self.goals = goals_of(window)
        self.chosen: Goal | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(2 * STEP, 2 * STEP, 2 * STEP, 2 * STEP)
        layout.setSpacing(STEP)
        self.line = Entry(tr("An act, a paint, a sheet, a mix"), tr("What to go to"))
        self.line.textChanged.connect(lambda _: self._show())
        self.line.returnPressed.connect(self._choose)
        self.line.installEventFilter(self)
        layout.addWidget(self.line)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("What was found"))
        self.list.itemActivated.connect(lambda _: self._choose())
        self.list.itemClicked.connect(lambda _: self._choose())
        self.list.currentRowChanged.connect(lambda _: self._tell())
        layout.addWidget(self.list, 1)
        self.about = text_label("", soft=True)
        self.about.setMinimumHeight(px(34))
        layout.addWidget(self.about)
        self.shown: list[Goal] = []
        self._show()
        self.line.setFocus()

    def _show(self) -> None:
        self.shown = found(self.goals, self.line.text())
        self.list.clear()
        for goal in self.shown:
            keys = f"    {goal.keys}" if goal.keys else ""
            self.list.addItem(QListWidgetItem(f"{goal.title}    {goal.kind}{keys}"))
        self.list.setCurrentRow(0 if self.shown else -1)
        self._tell()

    def _tell(self) -> None:
        row = self.list.currentRow()
        nothing = tr("Nothing is called so") if not self.shown else ""
        self.about.setText(self.shown[row].about if 0 <= row < len(self.shown) else nothing)

    def _choose(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.shown):
            self.chosen = self.shown[row]
            self.accept()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The arrows go through the list while one types."""
        if watched is self.line and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = Qt.Key(event.key())
            if key in _OF_LIST and self.shown:
                step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -8}.get(key, 8)
                row = min(len(self.shown) - 1, max(0, self.list.currentRow() + step))
                self.list.setCurrentRow(row)
                return True
        return super().eventFilter(watched, event)


def go_to(window: "MainWindow") -> None:
    """Ask what to do or where to go, and do it."""
    dialog = GoTo(window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.accepted.connect(lambda: dialog.chosen.go() if dialog.chosen is not None else None)
    dialog.open()
