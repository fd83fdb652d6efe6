"""Studies begun, opened and brought forward: the part of the window that deals with whole files."""

from pathlib import Path

from PySide6.QtCore import QStandardPaths
from PySide6.QtWidgets import QFileDialog, QMainWindow

from culmo.desk.doorbell import Doorbell, ring
from culmo.desk.session import Session
from culmo.study.file import SUFFIX
from culmo.words import tr

FILE_FILTER = tr("Culmo studies (*{SUFFIX})", SUFFIX=SUFFIX)


class Studies(QMainWindow):
    """The window as far as it opens and begins studies."""

    session: Session

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
        opened = self.session.open(path, self.make_ready)
        if self.session.study is None:
            self.show_first_page()
        return opened

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
        return self.session.create(path, path.stem)

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
