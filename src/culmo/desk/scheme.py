"""Light or night: as the system has it, or as the painter chose."""

from enum import StrEnum

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QApplication

from culmo.desk.theme import DAY, NIGHT, apply_theme, scheme_of


class SchemeChoice(StrEnum):
    """Light or night, or as the system has it."""

    SYSTEM = "system"
    LIGHT = "light"
    DARK = "night"


CHOICES = tuple(SchemeChoice)


class SchemeChooser(QObject):
    """Gives the application its scheme, and another when the system changes.

    Parameters
    ----------
    app : QApplication
    choice : SchemeChoice
    """

    changed = Signal()

    def __init__(self, app: QApplication, choice: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.app, self.choice = app, choice
        app.styleHints().colorSchemeChanged.connect(lambda _: self._apply())
        self._apply()

    def choose(self, choice: str) -> None:
        """Take another scheme, or follow the system again."""
        self.choice = choice
        self._apply()

    @property
    def night(self) -> bool:
        """Whether it is dark."""
        if self.choice == SchemeChoice.SYSTEM:
            return self.app.styleHints().colorScheme() == Qt.ColorScheme.Dark
        return self.choice == SchemeChoice.DARK

    def _apply(self) -> None:
        scheme = NIGHT if self.night else DAY
        if scheme is not scheme_of(self.app):
            apply_theme(self.app, scheme)
            self.changed.emit()
