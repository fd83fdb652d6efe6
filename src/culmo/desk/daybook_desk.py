"""What is done in the Daybook from menus and buttons: going to things, notes, the book, cards to carry."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QPixmap
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
)

from culmo.core.chart.papers import find_paper
from culmo.core.paint.recipe import format_recipe, parse_recipe
from culmo.desk.acts.paint import show_fewer
from culmo.desk.drawing.book import CHARTS, BookOptions, Content, set_book, write_book
from culmo.desk.drawing.carry import SIZES, Favourite, draw_cards, per_card, write_cards
from culmo.desk.drawing.thumbs import image_of
from culmo.desk.progress import work_through
from culmo.desk.room_names import RoomName
from culmo.desk.widgets import text_label
from culmo.errors import CulmoError
from culmo.study import due as dues
from culmo.study.diary import DiaryEntry, DiaryKind
from culmo.study.file import Study
from culmo.study.mix_acts import mixes_worth_keeping
from culmo.study.photo_files import picture_bytes
from culmo.words import day_words, tr, trn

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow

PDF_FILTER = "PDF (*.pdf)"
_ROOM_OF: dict[str, RoomName] = {
    dues.DueKind.DRYING: RoomName.PAINT,
    dues.DueKind.HALF: RoomName.PAINT,
    dues.DueKind.UNREAD: RoomName.READ,
    dues.DueKind.FADE: RoomName.READ,
    dues.DueKind.PLANNED: RoomName.PLAN,
}
PAGES = ("A4", "Letter", "A5")


class BookDialog(QDialog):
    """What the book is about, its paper, its charts."""

    def __init__(self, window: "MainWindow", date: str = "") -> None:
        super().__init__(window)
        self.setWindowTitle(tr("A book of the study"))
        form = QFormLayout(self)
        self.what = QComboBox()
        self.contents: list[Content] = []
        self._offer(tr("The whole study"), Content())
        record = window.state.record
        if record is not None:
            self._offer(tr("The sheet {title}", title=record.sheet.title), Content(sheet_id=record.id))
        if date:
            self._offer(
                tr("The day, {date}", date=day_words(datetime.fromisoformat(date))), Content(date=date)
            )
            self.what.setCurrentIndex(len(self.contents) - 1)
        self.what.setMinimumContentsLength(30)
        self.paper = QComboBox()
        self.paper.addItems(PAGES)
        self.charts = QComboBox()
        self.charts.addItems(
            [tr("Fitted to the page"), tr("To scale, on pages of their own"), tr("Both, fitted and to scale")]
        )
        form.addRow(tr("About"), self.what)
        form.addRow(tr("Pages"), self.paper)
        form.addRow(tr("Charts"), self.charts)
        form.addRow(_buttons(self, tr("Write the PDF…"), tr("Print…")))
        self.printing = False

    def _offer(self, text: str, content: Content) -> None:
        self.what.addItem(text)
        self.contents.append(content)

    @property
    def content(self) -> Content:
        """What was chosen."""
        return self.contents[self.what.currentIndex()]

    def options(self) -> BookOptions:
        """How it is to be made."""
        charts = CHARTS[self.charts.currentIndex()]
        return BookOptions(find_paper(self.paper.currentText()), charts)


class CardDialog(QDialog):
    """The size of the card and what stands on it."""

    def __init__(self, window: "MainWindow", count: int) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("A card to carry"))
        form = QFormLayout(self)
        said = trn("{n} keeper, with its parts", "{n} keepers, with their parts", count)
        form.addRow(text_label(said, soft=True))
        self.title = QLineEdit(tr("Favourite mixes"))
        self.size_choice = QComboBox()
        names = {
            "wallet": tr("For the wallet"),
            "pocket": tr("For the pocket"),
            "lid": tr("For the lid of the box"),
        }
        for size, (width, height) in SIZES.items():
            words = tr(
                "{name}, {width:g} × {height:g} mm, {n} mixes a card",
                name=names[size], width=width, height=height, n=per_card(size),
            )  # fmt: skip
            self.size_choice.addItem(words, size)
        form.addRow(tr("Title"), self.title)
        form.addRow(tr("Size"), self.size_choice)
        form.addRow(_buttons(self, tr("Write the PDF…"), tr("Print…")))
        self.printing = False


def _buttons(dialog: "BookDialog | CardDialog", write: str, print_: str) -> QDialogButtonBox:
    box = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
    first = QPushButton(write)
    first.setDefault(True)
    second = QPushButton(print_)

    def to_printer() -> None:
        dialog.printing = True
        dialog.accept()

    first.clicked.connect(dialog.accept)
    second.clicked.connect(to_printer)
    box.addButton(first, QDialogButtonBox.ButtonRole.AcceptRole)
    box.addButton(second, QDialogButtonBox.ButtonRole.ActionRole)
    box.rejected.connect(dialog.reject)
    return box


class NoteDialog(QDialog):
    """A note to be changed."""

    def __init__(self, window: "MainWindow", text: str) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("Change the note"))
        self.resize(520, 260)
        column = QVBoxLayout(self)
        self.text = QPlainTextEdit(text)
        self.text.setAccessibleName(tr("Note"))
        self.text.setTabChangesFocus(True)
        column.addWidget(self.text)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)


class PictureDialog(QDialog):
    """A kept picture, as large as it fits."""

    def __init__(self, window: "MainWindow", name: str, data: bytes) -> None:
        super().__init__(window)
        self.setWindowTitle(name)
        column = QVBoxLayout(self)
        side = max(400, round(min(window.width(), window.height()) * 0.9))
        ratio = self.devicePixelRatioF()
        picture = QPixmap.fromImage(image_of(data, name, round(side * ratio)))
        picture.setDevicePixelRatio(ratio)
        label = QLabel()
        label.setPixmap(picture)
        label.setAccessibleName(name)
        label.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(label)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)


class DaybookDesk(QObject):
    """The acts of the Daybook that reach other rooms or ask something first."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window, self.session = window, window.session

    # ---- going

    def go(self, entry: DiaryEntry | None) -> None:
        """To what a line is about."""
        if entry is None or self.session.study is None:
            return
        study, window = self.session.study, self.window
        if entry.palette_id is not None:
            show_fewer(window)
            window.weigh.show_kept()
        elif entry.sheet_id is not None and study.rows("sheets", "id = ?", (entry.sheet_id,)):
            room = {
                DiaryKind.PAINT: RoomName.PAINT,
                DiaryKind.READ: RoomName.READ,
                "reading": RoomName.READ,
                "picture": RoomName.READ,
            }
            window.go_to_sheet(entry.sheet_id, room.get(entry.kind, RoomName.PLAN))
            self._select_cell(study, entry.cell_id)
        elif entry.paint_id is not None:
            self._go_to_paint(study, entry.paint_id)
        elif entry.kind == "mix" and entry.patches:
            self.session.selection.take(parse_recipe(entry.patches[0].recipe))
            self.session.told.emit(tr("{what} is in hand", what=entry.text))
        elif entry.kind == "wanted" and entry.patches and entry.patches[0].lab is not None:
            window.show_room(RoomName.WEIGH)
            window.weigh.find_colour(entry.patches[0].lab, entry.text.split(" · ")[0])
        else:
            self.session.told.emit(tr("This stands for itself; there is nothing behind it to go to"))

    def _select_cell(self, study: Study, cell_id: int | None) -> None:
        for row in study.rows("cells", "id = ?", (cell_id,)) if cell_id is not None else ():
            self.window.state.select(row["cell"])

    def _go_to_paint(self, study: Study, paint_id: int) -> None:
        rows = study.rows("paints", "id = ?", (paint_id,))
        if rows and rows[0]["retired"]:
            self.session.told.emit(
                tr("{name} is retired; bring it back in the Paint menu", name=rows[0]["name"])
            )
        elif rows:
            self.window.show_room(RoomName.BOX)
            self.window.box.select(rows[0]["name"])

    def go_to_due(self, due: dues.Due) -> None:
        """To the sheet that waits, in the room where it waits."""
        self.window.go_to_sheet(due.sheet_id, _ROOM_OF[due.kind])

    def search(self) -> None:
        """Ready to type what is sought."""
        self.window.show_room(RoomName.DAYBOOK)
        self.window.daybook.take_search()

    def search_selected(self) -> None:
        """Colours of the record near that of the selected cell."""
        state = self.window.state
        lab = state.read.get(state.current)
        foretold = state.foretold(state.current)
        if lab is None and foretold is not None:
            L, a, b = (float(value) for value in foretold[0])
            lab = (L, a, b)
        if lab is None:
            self.session.told.emit(tr("Nothing is known yet of the selected cell's colour"))
            return
        self.window.show_room(RoomName.DAYBOOK)
        self.window.daybook.search_colour(lab)

    # ---- notes and pictures

    def change_note(self, note_id: int) -> None:
        """Other words for a note."""
        with self.session.guarded():
            dialog = NoteDialog(self.window, self.session.file.row("notes", note_id)["text"])
            if dialog.exec() == QDialog.DialogCode.Accepted:
                self.window.daybook.foot.change(note_id, dialog.text.toPlainText())
            dialog.deleteLater()

    def open_picture(self, photo_id: int) -> None:
        """A kept picture: one of a sheet is read again in the Read room, another is shown."""
        with self.session.guarded():
            row = self.session.file.row("photos", photo_id)
            data = picture_bytes(self.session.file, row)
            if row["sheet_id"] is not None and self.session.file.rows("sheets", "id = ?", (row["sheet_id"],)):
                self.window.go_to_sheet(row["sheet_id"], RoomName.READ)
                self.window.read.desk.open_data(row["name"], data)
                return
            dialog = PictureDialog(self.window, row["name"], data)
            dialog.exec()
            dialog.deleteLater()

    # ---- the book and the card

    def book(self, date: str = "") -> None:
        """Ask, then write or print a book."""
        dialog = BookDialog(self.window, date or self._chosen_day())
        done = dialog.exec() == QDialog.DialogCode.Accepted
        content, options, printing = dialog.content, dialog.options(), dialog.printing
        dialog.deleteLater()
        if not done:
            return
        if printing:
            self._print(lambda printer: self._set_on(printer, content, options))
            return
        path = self._ask_path(
            tr("Write the book"), f"{self.session.file.title}{content.date and ' ' + content.date}"
        )
        if path is not None:
            self.write_book(path, content, options)

    def _chosen_day(self) -> str:
        entry = self.window.daybook.view.current
        return entry.at[:10] if entry is not None and not entry.at.startswith("1970") else ""

    def _ask_path(self, title: str, name: str) -> Path | None:
        start = name.replace("/", "-") + ".pdf"
        text, _ = QFileDialog.getSaveFileName(self.window, title, start, PDF_FILTER)
        if not text:
            return None
        return Path(text) if text.casefold().endswith(".pdf") else Path(text + ".pdf")

    def write_book(self, path: Path, content: Content, options: BookOptions) -> bool:
        """Write a book; says whether it was written."""
        session = self.session
        steps = write_book(
            session.file, session.learning.estimate, session.learning.looks, path, content, options
        )
        with session.guarded():
            if work_through(self.window, steps, tr("Setting the book"))[0]:
                self.window.say(tr("Written: {path}", path=path))
                return True
            self.window.say(tr("Stopped; nothing was written"))
        return False

    def _set_on(self, printer: QPrinter, content: Content, options: BookOptions) -> None:
        session = self.session
        steps = set_book(
            session.file, session.learning.estimate, session.learning.looks, printer, content, options
        )
        work_through(self.window, steps, tr("Printing the book"))

    def favourites(self) -> list[Favourite]:
        """The keepers of the study, each recipe once, the latest first."""
        real = self.session.real_paint
        return [
            Favourite(
                one.recipe, one.lab, one.note,
                real.of(format_recipe(one.recipe), one.lab) if one.lab is not None else None,
            )
            for one in mixes_worth_keeping(self.session.file)
        ]  # fmt: skip

    def card(self) -> None:
        """Ask, then write or print cards of the keepers."""
        with self.session.guarded():
            mixes = self.favourites()
            if not mixes:
                raise CulmoError(
                    tr("no mix is marked as a keeper yet; mark those worth carrying, then come back")
                )
            dialog = CardDialog(self.window, len(mixes))
            done = dialog.exec() == QDialog.DialogCode.Accepted
            title, size, printing = (
                dialog.title.text(),
                str(dialog.size_choice.currentData()),
                dialog.printing,
            )
            dialog.deleteLater()
            if done and printing:
                self._print(
                    lambda printer: draw_cards(printer, title, mixes, self.session.learning.looks, size)
                )
            elif done and (path := self._ask_path(tr("Write the cards"), title)) is not None:
                self.write_card(path, title, size)

    def write_card(self, path: Path, title: str, size: str) -> None:
        """Write cards of the keepers."""
        with self.session.guarded():
            count = write_cards(path, title, self.favourites(), self.session.learning.looks, size)
            self.window.say(
                trn("Written: {n} card in {path}", "Written: {n} cards in {path}", count, path=path)
            )

    def _print(self, draw: Callable[[QPrinter], object]) -> None:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setFullPage(True)
        printer.setDocName(self.session.file.title)
        dialog = QPrintDialog(printer, self.window)
        if dialog.exec() == QPrintDialog.DialogCode.Accepted:
            with self.session.guarded():
                draw(printer)
        dialog.deleteLater()
