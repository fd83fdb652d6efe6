"""The choices of an export or a print."""

from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QDialogButtonBox, QFormLayout, QWidget

from culmo.desk.drawing.export import PrintOptions
from culmo.words import tr

AS = (tr("Pencil outlines, for watercolour paper"), tr("Preview in colour"))
TEXTS = (
    (tr("Names of the paints"), "name"),
    (tr("Numbers"), "number"),
    (tr("Pigment codes"), "code"),
    (tr("Nothing"), ""),
)


class ExportDialog(QDialog):
    """Which pages, outlines or colour, and what is written into the cells."""

    def __init__(
        self, parent: QWidget | None, colour: bool = True, page: int = 1, pages: int = 1, begun: bool = False
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("The sheet at true scale"))
        form = QFormLayout(self)
        self.pages = QComboBox()
        self.pages.addItem(tr("This one, page {page} of {pages}", page=page, pages=pages), False)
        self.pages.addItem(tr("All {pages} pages of the plan", pages=pages), True)
        form.addRow(tr("Pages"), self.pages)
        form.setRowVisible(self.pages, pages > 1)
        self.cells = QComboBox()
        self.cells.addItem(tr("All"), False)
        self.cells.addItem(tr("Only those that are not painted yet"), True)
        form.addRow(tr("Cells"), self.cells)
        form.setRowVisible(self.cells, begun)
        self.look = QComboBox()
        self.look.addItems(AS)
        self.text = QComboBox()
        for word, kind in TEXTS:
            self.text.addItem(word, kind)
        self.numbers = QCheckBox(tr("Number the cells in the order of work"))
        self.numbers.setChecked(True)
        self.bar = QCheckBox(tr("Check bar of 100 mm"))
        self.bar.setChecked(True)
        form.addRow(tr("As"), self.look)
        form.setRowVisible(self.look, colour)
        form.addRow(tr("In each cell"), self.text)
        form.addRow(self.numbers)
        form.addRow(self.bar)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def options(self) -> PrintOptions:
        """What was chosen."""
        return PrintOptions(
            colour=self.look.currentIndex() == 1,
            numbers=self.numbers.isChecked(),
            recipes=str(self.text.currentData()),
            bar=self.bar.isChecked(),
            only_new=bool(self.cells.currentData()),
        )

    @property
    def all_pages(self) -> bool:
        """Whether all pages of the plan are wanted."""
        return bool(self.pages.currentData())


def ask_options(
    parent: QWidget, colour: bool = True, page: int = 1, pages: int = 1, begun: bool = False
) -> tuple[PrintOptions, bool] | None:
    """Ask how, and whether all pages of the plan are wanted; None when it was cancelled.

    Parameters
    ----------
    parent : QWidget
    colour : bool, whether there is a choice of colour
    page, pages : int, which page of how many the sheet is
    begun : bool, whether some of it is painted and some is not
    """
    dialog = ExportDialog(parent, colour, page, pages, begun)
    chosen = dialog.exec() == QDialog.DialogCode.Accepted
    found = dialog.options(), dialog.all_pages
    dialog.deleteLater()
    return found if chosen else None
