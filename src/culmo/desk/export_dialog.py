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
    """Outlines or colour, and what is written into the cells."""

    def __init__(self, parent: QWidget | None, colour: bool = True) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("The sheet at true scale"))
        form = QFormLayout(self)
        self.look = QComboBox()
        self.look.addItems(AS)
        self.look.setEnabled(colour)
        self.text = QComboBox()
        for word, kind in TEXTS:
            self.text.addItem(word, kind)
        self.numbers = QCheckBox(tr("Number the cells in the order of work"))
        self.numbers.setChecked(True)
        self.bar = QCheckBox(tr("Check bar of 100 mm"))
        self.bar.setChecked(True)
        form.addRow(tr("As"), self.look)
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
        )


def ask_options(parent: QWidget, colour: bool = True) -> PrintOptions | None:
    """Ask; None when it was cancelled."""
    dialog = ExportDialog(parent, colour)
    chosen = dialog.exec() == QDialog.DialogCode.Accepted
    options = dialog.options()
    dialog.deleteLater()
    return options if chosen else None
