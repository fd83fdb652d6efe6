"""The window's menus, made from the table of actions."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from culmo.desk.actions import Action, Menu, why_not
from culmo.desk.acts import ACTIONS
from culmo.desk.button_keys import know
from culmo.desk.widgets import as_label
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


class Menus:
    """Makes the menus of a window, and brings them up to date as they open."""

    def __init__(self, window: "MainWindow") -> None:
        self.window, self.table = window, ACTIONS
        know((entry.id, entry.help or entry.title, entry.shortcut) for entry in ACTIONS)
        self._make()

    def _make(self) -> None:
        window = self.window
        self.recent = QMenu(tr("Open recent"), window)
        for own in Menu:
            menu = window.menuBar().addMenu(own.title)
            for entry in ACTIONS:
                if entry.menu is not own:
                    continue
                if entry.gap:
                    menu.addSeparator()
                action = QAction(entry.title, window)
                action.setCheckable(entry.checked is not None)
                if entry.shortcut:
                    action.setShortcut(QKeySequence(entry.shortcut))
                action.setStatusTip(entry.help)
                action.triggered.connect(lambda _=False, entry=entry: self.run(entry))
                if entry.id == "sample":
                    menu.addMenu(self.recent)
                menu.addAction(action)
                window.actions_by_id[entry.id] = action
            menu.aboutToShow.connect(self.refresh)
            menu.aboutToHide.connect(self._hear_all)

    def show_of_thing(self, at: QPoint) -> None:
        """What can be done with what is selected, at a point of the screen."""
        menu = QMenu(self.window)
        for entry in ACTIONS:
            if entry.of_thing and entry.enabled(self.window):
                if entry.gap and not menu.isEmpty():
                    menu.addSeparator()
                action = menu.addAction(entry.title)
                action.triggered.connect(lambda _=False, entry=entry: self.run(entry))
                if entry.shortcut:  # shown only: the window's own action hears the key
                    action.setText(
                        f"{entry.title}\t{QKeySequence(entry.shortcut).toString(QKeySequence.SequenceFormat.NativeText)}"
                    )
        menu.exec(at)
        menu.deleteLater()

    def run(self, entry: Action) -> None:
        """Do it; where it can not be done, a key is answered with the reason."""
        if entry.enabled(self.window):
            entry.run(self.window)
        else:
            self.window.say(why_not(self.window, entry.enabled))

    def _hear_all(self) -> None:
        """With the menus shut every key is heard: a greyed act would be silent."""
        for action in self.window.actions_by_id.values():
            action.setEnabled(True)

    def refresh(self) -> None:
        """What can be done now, what is chosen, and what was opened lately."""
        window = self.window
        for entry in ACTIONS:
            action = window.actions_by_id[entry.id]
            action.setEnabled(entry.enabled(window))
            if entry.checked is not None:
                action.setChecked(entry.checked(window))
        undo = window.session.undo
        for name, word, text in (
            ("undo", tr("Undo"), undo.undoText()),
            ("redo", tr("Redo"), undo.redoText()),
        ):
            window.actions_by_id[name].setText(f"{word}: {as_label(text)}" if text else word)
        self.recent.clear()
        for item in window.settings.recent:
            action = self.recent.addAction(as_label(Path(item).name))
            action.triggered.connect(lambda _=False, path=Path(item): window.open_path(path))
        self.recent.setEnabled(bool(window.settings.recent))
