"""The choices of an export or a print, with what comes of them."""

from collections.abc import Callable
from dataclasses import replace
from typing import Protocol

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QPushButton,
    QWidget,
)

from culmo.desk.drawing.export import PrintOptions
from culmo.desk.theme import px
from culmo.words import tr

AS = (tr("Pencil outlines, for watercolour paper"), tr("Preview in colour"))
TEXTS = (
    (tr("Names of the paints"), "name"),
    (tr("Numbers"), "number"),
    (tr("Pigment codes"), "code"),
    (tr("Nothing"), ""),
)


Picture = Callable[[PrintOptions, QSize, float], QImage]
_SIDE = 380  # usual lengths
_LONGEST = 60  # letters of a name


class Ways(Protocol):
    """Where ways of printing are kept under names of the painter's own, from one start to the next."""

    def print_ways(self) -> dict[str, PrintOptions]:
        """Them all, by their names."""

    def keep_print_way(self, name: str, options: PrintOptions) -> None:
        """Keep one; another of its name goes."""

    def forget_print_way(self, name: str) -> None:
        """Let one go."""


class ExportDialog(QDialog):
    """Which pages, outlines or colour, and what is written into the cells; beside it the page as it will be.

    Parameters
    ----------
    parent : QWidget or None
    colour : bool, whether there is a choice of colour
    page, pages : int, which page of how many the sheet is
    begun : bool, whether some of it is painted and some is not
    start : PrintOptions, what was chosen last
    picture : function of the options, a size and the pixels a point, that draws the page; None for none
    ways : Ways, where choices are kept under a name; None for nowhere
    """

    def __init__(
        self,
        parent: QWidget | None,
        colour: bool = True,
        page: int = 1,
        pages: int = 1,
        begun: bool = False,
        start: PrintOptions | None = None,
        picture: Picture | None = None,
        ways: Ways | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("The sheet at true scale"))
        beside = QHBoxLayout(self)
        self._picture = picture
        self.preview = QLabel()
        self.preview.setFixedSize(px(_SIDE), px(_SIDE))
        self.preview.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.preview.setAccessibleName(tr("The page as it will be"))
        self.preview.setVisible(picture is not None)
        beside.addWidget(self.preview)
        form = QFormLayout()
        beside.addLayout(form)
        self._ways = ways
        self.way = QComboBox()
        self.way.setMinimumContentsLength(14)
        self.keep, self.forget = QPushButton(tr("Keep...")), QPushButton(tr("Forget"))
        if ways is not None:
            row = QHBoxLayout()
            row.addWidget(self.way, 1)
            row.addWidget(self.keep)
            row.addWidget(self.forget)
            form.addRow(tr("As kept"), row)
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
        if start is not None:
            self._begin_with(start)
        self._soon = QTimer(self)  # choices that follow each other are drawn once
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(self.draw)
        for box in (self.cells, self.look, self.text):
            box.currentIndexChanged.connect(lambda _: self._soon.start())
        for tick in (self.numbers, self.bar):
            tick.toggled.connect(lambda _: self._soon.start())
        self._soon.timeout.connect(self._tell_way)
        self.way.activated.connect(self._take_way)
        self.keep.clicked.connect(self._keep_way)
        self.forget.clicked.connect(self._forget_way)
        self._list_ways()
        self.draw()

    # ---- ways kept under a name

    def _list_ways(self) -> None:
        self.way.clear()
        self.way.addItem(tr("none of them"), None)
        for name, options in sorted(self._ways.print_ways().items()) if self._ways is not None else ():
            self.way.addItem(name, options)
        self._tell_way()

    def _tell_way(self) -> None:
        """Name the way that is chosen, where it is one of those."""
        now = replace(self.options(), only_new=False)
        places = [i for i in range(1, self.way.count()) if self._shown(self.way.itemData(i)) == now]
        if self.way.currentIndex() not in places:
            self.way.setCurrentIndex(places[0] if places else 0)
        self.forget.setEnabled(bool(places))
        self.way.setEnabled(self.way.count() > 1)

    def _shown(self, options: PrintOptions) -> PrintOptions:
        """A kept way as far as it concerns this dialog."""
        return replace(options, colour=options.colour and not self.look.isHidden())

    def _take_way(self, place: int) -> None:
        options = self.way.itemData(place)
        if options is None:
            self._tell_way()  # what is chosen is not changed by leaving its name
        else:
            self._begin_with(options)

    def _keep_way(self) -> None:
        assert self._ways is not None
        name, done = QInputDialog.getText(
            self,
            tr("Keep this way"),
            tr("Its name"),
            text=self.way.currentText() if self.way.currentIndex() else "",
        )
        name = " ".join(name.split())[:_LONGEST]
        if done and name:
            self._ways.keep_print_way(name, replace(self.options(), only_new=False))
            self._list_ways()

    def _forget_way(self) -> None:
        assert self._ways is not None
        self._ways.forget_print_way(self.way.currentText())
        self._list_ways()

    def _begin_with(self, start: PrintOptions) -> None:
        """As it was chosen last; which cells and pages is asked anew."""
        self.look.setCurrentIndex(int(start.colour))
        self.text.setCurrentIndex(max(0, self.text.findData(start.recipes)))
        self.numbers.setChecked(start.numbers)
        self.bar.setChecked(start.bar)

    def draw(self) -> None:
        """Show the page as it will be."""
        if self._picture is not None:
            ratio = self.devicePixelRatioF()
            image = self._picture(self.options(), self.preview.size(), ratio)
            image.setDevicePixelRatio(ratio)
            self.preview.setPixmap(QPixmap.fromImage(image))

    def options(self) -> PrintOptions:
        """What was chosen."""
        return PrintOptions(
            colour=self.look.currentIndex() == 1 and not self.look.isHidden(),
            numbers=self.numbers.isChecked(),
            recipes=str(self.text.currentData()),
            bar=self.bar.isChecked(),
            only_new=bool(self.cells.currentData()),
        )

    @property
    def all_pages(self) -> bool:
        """Whether all pages of the plan are wanted."""
        return bool(self.pages.currentData())


def ask_options(dialog: ExportDialog) -> tuple[PrintOptions, bool] | None:
    """Ask how, and whether all pages of the plan are wanted; None when it was cancelled. The dialog goes then."""
    chosen = dialog.exec() == QDialog.DialogCode.Accepted
    found = dialog.options(), dialog.all_pages
    dialog.deleteLater()
    return found if chosen else None
