"""The turning cover over a wheel on the screen: its button, and what its windows show in words."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QPushButton

from culmo.core.chart.cover import cover_of, seen_through
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.sheet_view import SheetView
from culmo.words import tr


class CoverTool(QObject):
    """Lays the cover over a wheel and takes it off; for other sheets there is no button."""

    changed = Signal()

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self.view = view
        self.button = QPushButton(tr("Turning cover"))
        self.button.setCheckable(True)
        self.button.setToolTip(tr("Lay it over the wheel and drag it round, or turn it with the arrow keys"))
        self.button.clicked.connect(self._take)
        self.button.hide()
        view.cover.turned.connect(lambda _: self.changed.emit())

    def _take(self) -> None:
        """The cover is laid on or taken off; the arrow keys turn it."""
        self.lay(self.view.sheet)
        self.view.setFocus()
        self.changed.emit()

    def lay(self, sheet: Sheet | None) -> None:
        """Another sheet is on view."""
        cover = cover_of(sheet) if sheet is not None else None
        self.button.setVisible(cover is not None)
        self.view.cover.lay(cover if self.button.isChecked() else None)

    def words(self, sheet: Sheet) -> str:
        """What the windows show; empty while no cover is laid on."""
        cover = self.view.cover.cover
        if cover is None:
            return ""
        found = seen_through(sheet, cover, round(self.view.cover.turn) % cover.places)
        return "; ".join(f"{word}: {spoken_recipe(sheet.cell(cell_id).recipe)}" for word, cell_id in found)
