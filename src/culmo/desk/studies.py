"""Studies begun, opened, moved, copied, put back and let go of: what deals with whole files."""

import os
from collections.abc import Sequence
from contextlib import suppress
from enum import StrEnum
from pathlib import Path

from PySide6.QtCore import QObject, QStandardPaths, Qt
from PySide6.QtWidgets import QAbstractButton, QDialog, QFileDialog, QMessageBox, QPushButton

from culmo.desk.doorbell import Doorbell, ring
from culmo.desk.shell import Shell
from culmo.study.formats import Holds, open_filter
from culmo.study.schema import SUFFIX
from culmo.words import listed, tr, trn


class LeavingAnswer(StrEnum):
    """What becomes of what is not saved."""

    SAVE = "save"
    LEAVE = "leave"
    BACK = "back"


FILE_FILTER = open_filter(tr("Culmo studies"), Holds.STUDY)


class Studies(QObject):
    """Opens, begins, moves, copies and closes studies."""

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell.parent)
        self.shell, self.session = shell, shell.session
        self.bell = Doorbell(shell.parent)

    def open_path(self, path: Path) -> bool:
        """Open a study from a path; one that another window has comes forward there."""
        if not self.bell.is_of(path) and ring(path):
            self.shell.say(tr('"{name}" is open in another window, which has come forward', name=path.name))
            return False
        if not self.may_leave():
            return False
        opened = self.session.open(path, self.shell.make_ready)
        if self.session.study is None:
            self.shell.show_first_page()
        return opened

    def saved_words(self) -> str:
        """Whether all is saved, for the foot of the window."""
        names = self.session.unsaved.names
        shown = [*names[:2], *([tr("{n} more", n=len(names) - 2)] if len(names) > 2 else [])]
        return tr("Not saved yet: {names}", names=listed(shown)) if names else self._safety()

    def _safety(self) -> str:
        """Whether what was done is safe; never said where it is not so."""
        if self.session.study is None:
            return ""
        if self.session.safe.homeless:
            return tr("Not safe: the study has no file")
        if self.session.safe.copy_trouble:
            return tr("Everything saved; no copy could be made")
        return tr("Everything saved")

    def may_leave(self) -> bool:
        """Ask what is to become of what was typed and not saved; gives whether the study may be left."""
        field = self.shell.parent.focusWidget()
        if field is not None:
            field.clearFocus()  # some fields are saved as the keys leave them
        names = self.session.unsaved.names
        if not names:
            return True
        answer = self._ask(
            tr("Not saved yet"),
            tr("Not saved yet: {names}.", names=listed(names)),
            tr("Save"),
            tr("Leave it out"),
        )
        if answer != LeavingAnswer.SAVE:
            return answer == LeavingAnswer.LEAVE
        room = self.session.unsaved.save_all()
        if room is not None:
            self.shell.show_room(room)
        return room is None

    def let_go(self) -> bool:
        """Let go of the study as the window closes; says whether it may close."""
        if not self.may_leave() or not self._has_home():
            return False
        self.bell.take_down()
        self.session.close()
        return True

    def _has_home(self) -> bool:
        """Whether the study may be closed: it is in a file, and the painter has read in which where that is another."""
        if self.session.safe.settle_file() or self.session.study is None:
            return True
        if not self.session.safe.homeless:
            return False  # it was told where it is now; closing once more is meant
        answer = self._ask(
            tr("Not safe yet"),
            tr(
                'What you did in "{name}" is in no file, and would be lost.', name=self.session.file.path.name
            ),
            tr("Save a copy elsewhere…"),
            tr("Close and lose it"),
        )
        return self.save_copy() if answer == LeavingAnswer.SAVE else answer == LeavingAnswer.LEAVE

    def _ask(self, title: str, text: str, save: str, leave: str) -> str:
        """Ask what is to become of something that is not safe; gives a LeavingAnswer."""
        box = QMessageBox(self.shell.parent)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(text)
        answers: dict[QAbstractButton, str] = {
            box.addButton(save, QMessageBox.ButtonRole.AcceptRole): LeavingAnswer.SAVE,
            box.addButton(leave, QMessageBox.ButtonRole.DestructiveRole): LeavingAnswer.LEAVE,
            box.addButton(tr("Back"), QMessageBox.ButtonRole.RejectRole): LeavingAnswer.BACK,
        }
        for button, answer in answers.items():
            if isinstance(button, QPushButton) and answer == LeavingAnswer.SAVE:
                box.setDefaultButton(button)
            elif answer == LeavingAnswer.BACK:
                box.setEscapeButton(button)
        box.exec()
        return answers.get(box.clickedButton(), LeavingAnswer.BACK)

    def went_on_elsewhere(self) -> None:
        """The study goes on in another file."""
        path = self.session.file.path
        self.bell.hang(path)
        self.shell.settings.remember(path)

    # ---- whole studies at other places

    def save_copy(self) -> bool:
        """Ask where a copy of the study, with its pictures, is to lie; says whether it was made."""
        from culmo.study.elsewhere import save_copy

        target = self._ask_place(tr("Save a copy elsewhere"), tr("{stem}, copy{SUFFIX}"))
        if target is None:
            return False
        with self.session.guarded():
            missing = save_copy(self.session.file, target)
            self.shell.say(tr('A copy is in "{path}"', path=target))
            self._tell_missing(missing)
            return True
        return False

    def move_study(self) -> None:
        """Ask for another place or name for the study, which moves there with its pictures and copies."""
        from culmo.study.elsewhere import move_to

        target = self._ask_place(tr("Move or rename the study"), "{stem}{SUFFIX}")
        if target is None or not self.may_leave():
            return
        with self.session.guarded():
            self.session.safe.stop_beside()
            missing = move_to(self.session.file, target)
            self.open_path(target)
            self.shell.say(tr('The study is in "{path}" now, with its pictures and copies', path=target))
            self._tell_missing(missing)

    def _ask_place(self, title: str, name: str) -> Path | None:
        path = self.session.file.path
        shown = path.with_name(name.format(stem=path.stem, SUFFIX=SUFFIX))
        chosen, _ = QFileDialog.getSaveFileName(self.shell.parent, title, str(shown), FILE_FILTER)
        if not chosen:
            return None
        target = Path(chosen)
        return target if target.suffix == SUFFIX else target.with_name(target.name + SUFFIX)

    def _tell_missing(self, paths: Sequence[str]) -> None:
        if paths:
            self.session.failed.emit(
                trn("{n} picture was not to be found and did not come along: {names}",
                    "{n} pictures were not to be found and did not come along: {names}",
                    len(paths), names=", ".join(paths[:3]))
            )  # fmt: skip

    def put_back(self) -> None:
        """Ask which copy of the study takes its place; without a study, for which one."""
        from culmo.desk.put_back_dialog import PutBackDialog
        from culmo.study.restoring import offered

        if self.session.study is not None:
            path = self.session.file.path
        else:
            name, _ = QFileDialog.getOpenFileName(
                self.shell.parent, tr("The study that is to be put back"), "", FILE_FILTER
            )
            if not name:
                return
            path = Path(name)
        dialog = PutBackDialog(self.shell.parent, path, offered(path))
        done = dialog.exec() == QDialog.DialogCode.Accepted
        chosen = dialog.chosen
        dialog.deleteLater()
        if done and chosen is not None and self.may_leave():
            self.put_back_from(path, chosen)

    def put_back_from(self, path: Path, copy: Path) -> None:
        """Put a copy in the place of a study, open it, and tell where what was there before is kept."""
        from culmo.study.restoring import put_back

        kept: Path | None = None
        done = False
        if self.session.study is not None and self.session.file.path == path:
            self.session.close()
            self.shell.show_first_page()
        with self.session.guarded():
            kept = put_back(path, copy)
            done = True
        if path.exists() and self.open_path(path) and done and kept is not None:
            self.session.failed.emit(
                tr('The copy is put back. What was there before is kept in "{path}"', path=kept)
            )

    def begin_now(self) -> None:
        """Begin a study at once, in the user's documents; it is named and moved when that is wanted."""
        self.create_study(self._free_place(tr("My paints")))

    def _free_place(self, name: str) -> Path:
        """A path in the user's documents that no file has, and none of its copies or pictures."""
        places = QStandardPaths.StandardLocation
        folder = Path(QStandardPaths.writableLocation(places.DocumentsLocation) or Path.home())
        with suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
        if not os.access(folder, os.W_OK | os.X_OK):
            folder = Path.home()
        number, path = 1, folder / f"{name}{SUFFIX}"
        while os.path.lexists(path) or os.path.lexists(path.with_name(f"{path.stem} backups")):
            number += 1
            path = folder / f"{name} {number}{SUFFIX}"
        return path

    def new_study(self) -> None:
        """Ask for a name and a place."""
        name, _ = QFileDialog.getSaveFileName(
            self.shell.parent, tr("Begin a study"), str(self._free_place(tr("My paints"))), FILE_FILTER
        )
        if name:
            path = Path(name)
            self.create_study(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def create_study(self, path: Path) -> bool:
        """Begin an empty study at a path."""
        return self.may_leave() and self.session.create(path, path.stem)

    def open_study(self) -> None:
        """Ask for a study."""
        name, _ = QFileDialog.getOpenFileName(self.shell.parent, tr("Open a study"), "", FILE_FILTER)
        if name:
            self.open_path(Path(name))

    def open_sample(self) -> None:
        """Open the sample study; it is put where there is none yet, so that what was tried in it stays."""
        from culmo.demo.sample import put_sample, sample_path

        folder = (
            Path(QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericDataLocation))
            / "culmo"
        )
        with self.session.guarded():
            path = sample_path(folder)
            self.open_path(path if path.is_file() else put_sample(folder))
