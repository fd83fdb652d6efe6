"""Files taken in: by a dialog, by dropping, and what can be read of a damaged study."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from culmo.desk.shell import Shell
from culmo.desk.studies import FILE_FILTER, Studies
from culmo.errors import CulmoError
from culmo.study.formats import OPEN_FILES, Holds, may_hold, open_filter
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.study.file import Command


class FilesIn:
    """Takes files in by what they hold.

    Parameters
    ----------
    shell : Shell
    studies : Studies, for what is a study
    read_picture : function of a path, for what is a picture
    """

    def __init__(self, shell: Shell, studies: Studies, read_picture: Callable[[Path], None]) -> None:
        self.shell, self.session, self.studies = shell, shell.session, studies
        self._read_picture = read_picture

    def import_files(self) -> None:
        """Ask for open files, and take them in."""
        names, _ = QFileDialog.getOpenFileNames(
            self.shell.parent,
            tr("Import"),
            "",
            open_filter(tr("Open files"), *OPEN_FILES),
        )
        self.take_files([Path(name) for name in names])

    def take_files(self, paths: Sequence[Path]) -> None:
        """Take files in by what they hold; each is an act that can be undone."""
        from culmo.study.incoming import bring_in

        told: list[str] = []
        left_out: list[str] = []
        for path in paths:
            with self.session.guarded():
                came = bring_in(self.session.file, path, left_out.append, self._do_or_fail)
                told.append(f"{path.name}: {came}")
        if told:
            self.session.mended.emit()
            self.shell.say("; ".join(told))
        if left_out:
            more = "; " + tr("and {value} more", value=len(left_out) - 3) if len(left_out) > 3 else ""
            self.session.failed.emit("; ".join(left_out[:3]) + more)

    def take_any(self, paths: Sequence[Path]) -> None:
        """Files that were dropped on the window: a study is opened, open files are taken in, a picture is read."""
        studies = [path for path in paths if may_hold(path, Holds.STUDY)]
        if studies:
            self.studies.open_path(studies[0])
            return
        if self.session.study is None:
            self.session.failed.emit(tr("open or begin a study first; what is dropped is taken into it"))
            return
        pictures = [path for path in paths if may_hold(path, Holds.PICTURE)]
        others = [path for path in paths if path not in pictures]
        if others:
            self.take_files(others)
        if pictures:
            self._read_picture(pictures[0])

    def _do_or_fail(self, command: "Command") -> None:
        if not self.session.do(command):
            raise CulmoError(tr("it could not be saved; the study is as it was before"))

    def recover_study(self) -> None:
        """Ask for a damaged study and for the new one."""
        name, _ = QFileDialog.getOpenFileName(self.shell.parent, tr("A damaged study"), "", FILE_FILTER)
        if not name:
            return
        path = Path(name)
        new, _ = QFileDialog.getSaveFileName(
            self.shell.parent,
            tr("The new study"),
            str(path.with_name(f"{path.stem}, recovered.culmo")),
            FILE_FILTER,
        )
        if new:
            self.recover_into(path, Path(new))

    def recover_into(self, path: Path, target: Path) -> None:
        """Make a new study from what can be read of a damaged one, open it, and tell what was found."""
        from culmo.study.recovery import recover

        with self.session.guarded():
            report = recover(path, target)
            if self.studies.open_path(target):
                self.session.failed.emit(
                    tr("{words}\nThe damaged file was left as it is.", words=report.words)
                )
