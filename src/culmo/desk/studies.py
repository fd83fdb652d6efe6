"""Studies begun, opened and brought forward: the part of the window that deals with whole files."""

from pathlib import Path

from PySide6.QtCore import QStandardPaths
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QFileDialog, QLabel, QMainWindow, QMessageBox

from culmo.desk.doorbell import Doorbell, ring
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.study.file import SUFFIX
from culmo.words import listed, tr

FILE_FILTER = tr("Culmo studies (*{SUFFIX})", SUFFIX=SUFFIX)


class Studies(QMainWindow):
    """The window as far as it opens and begins studies."""

    session: Session
    settings: Settings
    saved_text: QLabel

    def __init__(self) -> None:
        super().__init__()
        self.bell = Doorbell(self)

    def say(self, text: str) -> None:
        """A passing word in the message line."""
        raise AssertionError("the window says it")

    def open_path(self, path: Path) -> bool:
        """Open a study from a path; one that another window has comes forward there."""
        if not self.bell.is_of(path) and ring(path):
            self.say(tr('"{name}" is open in another window, which has come forward', name=path.name))
            return False
        if not self.may_leave():
            return False
        opened = self.session.open(path, self.make_ready)
        if self.session.study is None:
            self.show_first_page()
        return opened

    def _saved(self) -> None:
        """Say whether all is saved."""
        names = self.session.unsaved.names
        shown = [*names[:2], *([tr("{n} more", n=len(names) - 2)] if len(names) > 2 else [])]
        saved = tr("Everything saved") if self.session.study is not None else ""
        self.saved_text.setText(tr("Not saved yet: {names}", names=listed(shown)) if names else saved)

    def may_leave(self) -> bool:
        """Ask what is to become of what was typed and not saved; gives whether the study may be left."""
        field = self.focusWidget()
        if field is not None:
            field.clearFocus()  # some fields are saved as the keys leave them
        names = self.session.unsaved.names
        if not names:
            return True
        box = QMessageBox(self)
        box.setWindowTitle(tr("Not saved yet"))
        box.setText(tr("Not saved yet: {names}.", names=listed(names)))
        save = box.addButton(tr("Save"), QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton(tr("Leave it out"), QMessageBox.ButtonRole.DestructiveRole)
        back = box.addButton(tr("Back"), QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(back)
        box.exec()
        if box.clickedButton() is leave:
            return True
        if box.clickedButton() is not save:
            return False
        room = self.session.unsaved.save_all()
        if room is not None:
            self.show_room(room)
        return room is None

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self.settings.geometry = self.saveGeometry()
        self.settings.store.sync()
        self.bell.take_down()
        self.session.close()
        event.accept()

    def show_room(self, place: int) -> None:
        """Show a room."""
        raise AssertionError("the window shows it")

    def show_first_page(self) -> None:
        """No study is open."""
        raise AssertionError("the window shows it")

    def make_ready(self) -> None:
        """Make what will show the study, while its file is still looked through."""
        raise AssertionError("the window makes it")

    def come_forward(self) -> None:
        """Somebody opened this study once more."""
        if self.isMinimized():
            self.showNormal()
        self.raise_()
        self.activateWindow()

    def new_study(self) -> None:
        """Ask for a name and a place."""
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Begin a study"), str(Path(folder) / tr("My paints{SUFFIX}", SUFFIX=SUFFIX)), FILE_FILTER
        )
        if name:
            path = Path(name)
            self.create_study(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def create_study(self, path: Path) -> bool:
        """Begin an empty study at a path."""
        return self.may_leave() and self.session.create(path, path.stem)

    def open_study(self) -> None:
        """Ask for a study."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Open a study"), "", FILE_FILTER)
        if name:
            self.open_path(Path(name))

    def open_sample(self) -> None:
        """Open the sample study; it is made where there is none yet, so that what was tried in it stays."""
        from culmo.demo.make import demo_path, make_demo

        folder = (
            Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericDataLocation))
            / "culmo"
        )
        with self.session.guarded():
            path = demo_path(folder)
            self.open_path(path if path.is_file() else make_demo(folder))
