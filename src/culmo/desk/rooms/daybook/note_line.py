"""The line at the foot of the Daybook, in which a note is written, and the pictures that are to go with it."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culmo.desk.drawing.png import png_bytes
from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.theme import STEP
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import Entry, text_label
from culmo.errors import CulmoError
from culmo.study import note_acts
from culmo.study.formats import Holds, open_filter
from culmo.words import tr, trn

# pictures are decoded by what is loaded with the first of them
if TYPE_CHECKING:
    from culmo.study.photo_acts import Picture


@guarded
class NoteLine(QWidget):
    """A note that is being written."""

    def __init__(self, session: Session, settings: Settings) -> None:
        super().__init__()
        self._session, self._settings = session, settings
        self._pending: list[Picture] = []
        main = QVBoxLayout(self)
        main.setContentsMargins(0, 0, 0, 0)
        main.setSpacing(STEP)
        self.attached = text_label("", soft=True, points=10)
        self.attached.hide()
        main.addWidget(self.attached)
        row = QHBoxLayout()
        self.note = Entry(tr("Write down what you saw or decided"), tr("A note for today"))
        self.note.returnPressed.connect(self.save)
        self.note.textChanged.connect(lambda _: self._typed())
        self.attach = QPushButton(tr("Attach…"))
        self.attach.setToolTip(tr("Pictures that belong to the note; they can be dropped or pasted too"))
        self.attach.clicked.connect(self.choose_pictures)
        self.add = QPushButton(tr("Add note"))
        self.add.clicked.connect(self.save)
        row.setSpacing(STEP)
        row.addWidget(self.note, 1)
        row.addWidget(self.attach)
        row.addWidget(self.add)
        main.addLayout(row)

    def forget(self) -> None:
        """Nothing is begun, in another study."""
        self._pending = []
        self.note.clear()
        self._show_pending()

    def _typed(self) -> None:
        """Tell the session whether a note is begun and not added."""
        begun = bool(self.note.text().strip() or self._pending)
        entry = (
            Typed(tr("a note in the Daybook"), self.save, RoomName.DAYBOOK, self.note.text) if begun else None
        )
        self._session.unsaved.note("note", entry)

    def type_again(self, text: str) -> bool:
        """A note that was begun on another day."""
        self.note.setText(text)
        return True

    def save(self) -> bool:
        """Save the note with its pictures, and give whether it is."""
        try:
            command = note_acts.add_note(self._session.file, self.note.text(), self._pending)
        except CulmoError as error:
            self._session.told.emit(str(error))
            return False
        if not self._session.do(command):
            return False
        self._pending = []
        self.note.clear()
        self._show_pending()
        return True

    def change(self, note_id: int, text: str) -> None:
        """Other words for a note; pictures that wait are added to it."""
        with self._session.guarded():
            if self._session.do(note_acts.edit_note(self._session.file, note_id, text, self._pending)):
                self._pending = []
                self._show_pending()

    def remove(self, note_id: int) -> None:
        """A note goes; it can be undone."""
        with self._session.guarded():
            self._session.do(note_acts.remove_note(self._session.file, note_id))
            self._session.told.emit(tr("The note was removed; Undo brings it back"))

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
            with self._session.guarded():
                self._attach(path.name, picture_file(path))

    def _attach(self, name: str, data: bytes) -> None:
        from culmo.study.photo_acts import Picture, PictureKept
        from culmo.study.pictures import thumbnail

        thumbnail(data, name, 64)  # what can not be opened is told now, not when the note is read again
        where = PictureKept.INSIDE if self._settings.pictures_inside else PictureKept.BESIDE
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
        self._typed()

    def take(self, held: QMimeData) -> None:
        """What was pasted or dropped: pictures, or words."""
        urls = [Path(url.toLocalFile()) for url in held.urls() if url.isLocalFile()]
        if urls:
            self.attach_files(urls)
        elif held.hasImage() and not held.text().strip():  # a spreadsheet gives its cells as a picture too
            with self._session.guarded():
                self._attach(tr("pasted picture.png"), png_bytes(QImage(held.imageData())))
        elif held.hasText():
            self.note.insert(" ".join(held.text().split()))
            self.note.setFocus()
        else:
            self._session.told.emit(tr("The clipboard holds no picture and no text"))
