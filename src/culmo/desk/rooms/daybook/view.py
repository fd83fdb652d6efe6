"""Daybook: what was done, seen and decided, by date; free notes; search over everything; what is due."""

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QImage, QKeySequence, QShortcut
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout

from culmo.desk.drawing.png import png_bytes
from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.daybook.lines import LinesView
from culmo.desk.rooms.daybook.model import DAYS, EARLIER, FILTERS, View, days_view, found_view, lab_of
from culmo.desk.rooms.daybook.slip import DaybookSlip
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.theme import STEP, px
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Entry, Room, TabStrip, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import note_acts
from culmo.study.diary import DiaryEntry
from culmo.study.formats import Holds, may_hold, open_filter
from culmo.study.records import sheet_titles
from culmo.words import tr, trn

# pictures are decoded by what is loaded with the first of them
if TYPE_CHECKING:
    from culmo.study.photo_acts import Picture

REST_MS = 2500  # what a search asks for is read again when the hand has rested so long
DUE_MS = 60  # what is due is looked up after the act itself is on view
WARM_MS = 40
TYPING_MS = 120  # a search waits until typing rests


@guarded
class DaybookRoom(Room):
    """The studio's days."""

    go = Signal(object)
    due_chosen = Signal(object)
    picture_wanted = Signal(int)
    day_wanted = Signal(str)
    note_change_wanted = Signal(int)

    def __init__(self, session: Session, settings: Settings) -> None:
        super().__init__()
        self.session, self.settings = session, settings
        self._pending: list[Picture] = []
        self._sheets: list[int | None] = [None]
        self._most = DAYS
        self.setAcceptDrops(True)
        main = self.lay_ground()
        self._head(main)
        self.view = LinesView(session, tr("Lines of the Daybook"))
        self.empty = text_label("", soft=True)
        self.summary = text_label("", soft=True, points=10)
        main.addWidget(self.summary)
        main.addWidget(self.empty)
        main.addWidget(self.view, 1)
        self._foot(main)
        self.slip = DaybookSlip(session, self.view.itemDelegate())  # type: ignore[arg-type]  # it is the room's own
        self.lay_slip(self.slip)
        self._connect()

    def _head(self, main: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.addWidget(title_label(tr("Daybook"), 18))
        self.search = Entry(
            tr('Search: a paint, PB29, a word, a mark, a date, "#5a6b4c"'), tr("Search the whole record")
        )
        self.search.setClearButtonEnabled(True)
        row.addWidget(self.search, 1)
        main.addLayout(row)
        self.filters = TabStrip([word for word, _ in FILTERS], 10.5, tr("What is shown"))
        self.only = QComboBox()
        self.only.setAccessibleName(tr("Sheet"))
        self.only.setMaximumWidth(px(200))
        self.only.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.only.setMinimumContentsLength(12)
        row.addWidget(self.only)
        main.addWidget(self.filters)

    def _foot(self, main: QVBoxLayout) -> None:
        self.attached = text_label("", soft=True, points=10)
        self.attached.hide()
        main.addWidget(self.attached)
        row = QHBoxLayout()
        self.note = Entry(tr("Write down what you saw or decided"), tr("A note for today"))
        self.note.returnPressed.connect(self.add_note)
        self.note.textChanged.connect(lambda _: self._note_typed())
        self.attach = QPushButton(tr("Attach…"))
        self.attach.setToolTip(tr("Pictures that belong to the note; they can be dropped or pasted too"))
        self.attach.clicked.connect(self.choose_pictures)
        self.add = QPushButton(tr("Add note"))
        self.add.clicked.connect(self.add_note)
        row.setSpacing(STEP)
        row.addWidget(self.note, 1)
        row.addWidget(self.attach)
        row.addWidget(self.add)
        main.addLayout(row)

    def _connect(self) -> None:
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.timeout.connect(self._show_lines)
        self._warming = QTimer(self)
        self._warming.setInterval(WARM_MS)
        self._warming.timeout.connect(self._warm)
        self._resting = QTimer(self)
        self._resting.setSingleShot(True)
        self._resting.setInterval(REST_MS)
        self._resting.timeout.connect(self._warming.start)
        self._dues = QTimer(self)
        self._dues.setSingleShot(True)
        self._dues.timeout.connect(self._show_due)
        self.search.textChanged.connect(lambda _: self._typing.start(TYPING_MS))
        self.search.returnPressed.connect(self._to_first)
        escape = QShortcut(
            QKeySequence(Qt.Key.Key_Escape), self.search, context=Qt.ShortcutContext.WidgetShortcut
        )
        escape.activated.connect(self.search.clear)
        self.filters.chosen.connect(lambda _: self._show_lines())
        self.only.activated.connect(lambda _: self._show_lines())
        self.view.chosen.connect(self.slip.show_entry)
        self.view.entered.connect(self._enter)
        self.slip.go.connect(self._enter)
        self.slip.due_chosen.connect(self.due_chosen)
        self.slip.near.connect(self.search_near)
        self.slip.open_picture.connect(self.picture_wanted)
        self.slip.export_day.connect(self.day_wanted)
        self.slip.change_note.connect(self.note_change_wanted)
        self.slip.remove_note.connect(self.remove_note)
        self.session.opened.connect(self._other_study)
        self.session.changed.connect(self.refresh_when_seen)
        self.session.learning.learned.connect(self.view.viewport().update)

    def _other_study(self) -> None:
        self._pending, self._most = [], DAYS
        self.note.clear()
        self._show_pending()
        self.search.clear()
        self.refresh_when_seen()

    def take_keys(self) -> None:
        """The keys go to what the room shows."""
        self.view.setFocus()

    # ---- showing

    def refresh(self) -> None:
        """Everything anew."""
        study = self.session.study
        for widget in (self.note, self.add, self.attach, self.search):
            widget.setEnabled(study is not None)
        if study is None:
            return
        titles = sheet_titles(study)
        chosen = self._sheets[max(self.only.currentIndex(), 0)] if self.only.count() else None
        self._sheets = [None, *(sheet_id for sheet_id, _ in titles)]
        self.only.clear()
        self.only.addItems([tr("All sheets"), *(title for _, title in titles)])
        self.only.setCurrentIndex(self._sheets.index(chosen) if chosen in self._sheets else 0)
        self._dues.start(DUE_MS)
        self._warming.stop()
        self._resting.start()
        self._show_lines()

    def _warm(self) -> None:
        """Read what a search asks for, a piece at a time while nothing else is done."""
        if self.session.study is None or not self.isVisible() or not self.session.index.warm():
            self._warming.stop()

    def _show_due(self) -> None:
        if self.session.study is not None:
            with self.session.guarded():
                self.slip.show_due(self.session.dues.due())

    def _show_lines(self) -> None:
        self._typing.stop()
        study = self.session.study
        if study is None:
            return
        text = self.search.text().strip()
        with self.session.guarded():
            view: View
            if text:
                today = datetime.fromisoformat(study.clock()).date()
                view = found_view(self.session.index, text, today, self.filters.current)
            else:
                sheet_id = self._sheets[max(self.only.currentIndex(), 0)]
                view = days_view(study, self.filters.current, sheet_id, self._most)
            self.only.setEnabled(not text)
            self.summary.setText(view.summary)
            self.summary.setVisible(bool(view.summary))
            self.empty.setText(view.empty)
            self.empty.setVisible(not view.lines)
            self.view.setVisible(bool(view.lines))
            self.view.show_lines(view.lines)

    def _enter(self, entry: DiaryEntry | None) -> None:
        """Go to what a line is about; the last one brings more days."""
        if entry is not None and entry.kind == EARLIER:
            self._most *= 2
            self._show_lines()
        else:
            self.go.emit(entry)

    def _to_first(self) -> None:
        """From the search to what it found."""
        self._show_lines()
        self.view.choose_first()
        self.view.setFocus()

    def take_search(self) -> None:
        """Ready to type what is sought."""
        self.search.setFocus()
        self.search.selectAll()

    def search_near(self, entry: DiaryEntry) -> None:
        """Colours near that of a line."""
        lab = lab_of(entry)
        if lab is not None:
            self.search_colour(lab)

    def search_colour(self, lab: tuple[float, float, float]) -> None:
        """Colours of the record near one."""
        self.search.setText(", ".join(f"{value:.1f}" for value in lab))
        self._show_lines()

    # ---- notes

    def _note_typed(self) -> None:
        """Tell the session whether a note is begun and not added."""
        begun = bool(self.note.text().strip() or self._pending)
        entry = (
            Typed(tr("a note in the Daybook"), self.add_note, RoomName.DAYBOOK, self.note.text)
            if begun
            else None
        )
        self.session.unsaved.note("note", entry)

    def type_again(self, text: str) -> bool:
        """A note that was begun on another day."""
        self.note.setText(text)
        return True

    def add_note(self) -> bool:
        """Save the note with its pictures, and give whether it is."""
        try:
            command = note_acts.add_note(self.session.file, self.note.text(), self._pending)
        except CulmoError as error:
            self.session.told.emit(str(error))
            return False
        if not self.session.do(command):
            return False
        self._pending = []
        self.note.clear()
        self._show_pending()
        return True

    def change_note(self, note_id: int, text: str) -> None:
        """Other words for a note; pictures that wait are added to it."""
        with self.session.guarded():
            if self.session.do(note_acts.edit_note(self.session.file, note_id, text, self._pending)):
                self._pending = []
                self._show_pending()

    def remove_note(self, note_id: int) -> None:
        """A note goes; it can be undone."""
        with self.session.guarded():
            self.session.do(note_acts.remove_note(self.session.file, note_id))
            self.session.told.emit(tr("The note was removed; Undo brings it back"))

    def choose_pictures(self) -> None:
        """Ask for pictures of the note."""
        names, _ = QFileDialog.getOpenFileNames(
            self, tr("Pictures of the note"), "", open_filter(tr("Pictures"), Holds.PICTURE)
        )
        self.attach_files([Path(name) for name in names])

    def attach_files(self, paths: list[Path]) -> None:
        """Pictures for the note that is being written."""
        from culmo.study.pictures import picture_file

        for path in paths:
            with self.session.guarded():
                self._attach(path.name, picture_file(path))

    def _attach(self, name: str, data: bytes) -> None:
        from culmo.study.photo_acts import BESIDE, INSIDE, Picture
        from culmo.study.pictures import thumbnail

        thumbnail(data, name, 64)  # what can not be opened is told now, not when the note is read again
        where = INSIDE if self.settings.pictures_inside else BESIDE
        self._pending.append(Picture(name, data, where=where))
        self._show_pending()
        self.note.setFocus()

    def _show_pending(self) -> None:
        names = ", ".join(picture.name for picture in self._pending)
        count = len(self._pending)
        self.attached.setText(
            trn("With {n} picture: {names}", "With {n} pictures: {names}", count, names=names)
        )
        self.attached.setVisible(bool(self._pending))
        self._note_typed()

    def paste(self) -> None:
        """A picture from the clipboard for the note."""
        self._take(QGuiApplication.clipboard().mimeData())

    def _take(self, held: QMimeData) -> None:
        urls = [Path(url.toLocalFile()) for url in held.urls() if url.isLocalFile()]
        if urls:
            self.attach_files(urls)
        elif held.hasImage() and not held.text().strip():  # a spreadsheet gives its cells as a picture too
            with self.session.guarded():
                self._attach(tr("pasted picture.png"), png_bytes(QImage(held.imageData())))
        elif held.hasText():
            self.note.insert(" ".join(held.text().split()))
            self.note.setFocus()
        else:
            self.session.told.emit(tr("The clipboard holds no picture and no text"))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if paths and all(may_hold(path, Holds.PICTURE) for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._take(event.mimeData())
