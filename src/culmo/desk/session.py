"""The open study as the window sees it: acts with undo, what has been learned, and what is selected."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from culmo.desk.guard import guarded
from culmo.desk.jobs import Runner
from culmo.desk.learning import Learning
from culmo.desk.older_pictures import OlderPictures
from culmo.desk.safekeeping import Safekeeping
from culmo.desk.selection import Selection
from culmo.desk.unsaved import Unsaved
from culmo.errors import CulmoError
from culmo.words import tr

# what computes is loaded with the first study, so that the window is there before
if TYPE_CHECKING:
    from culmo.core.chart.sheet import Sheet
    from culmo.study.box_records import Box
    from culmo.study.due import DueBook
    from culmo.study.file import Command, Study
    from culmo.study.papers import OwnPaper
    from culmo.study.patches import RealPaint
    from culmo.study.records import Paint
    from culmo.study.search import Index

SETTLE_MS = 40  # a window draws some milliseconds after it was told to; work in the background would slow it
_TEACHING = {"paints", "readings"}
_PAINTED = {"paints", "patches", "readings", "strokes"}  # what the real paint and its marks are of
_TOLD_BY = {"paints", "readings", "fades"}  # what is known of paints by tests and labels


@guarded
class _Undoable(QUndoCommand):
    """A thin adapter: the study's command on Qt's stack."""

    def __init__(self, session: "Session", command: "Command") -> None:
        super().__init__(command.title)
        self._session, self._command = session, command

    def redo(self) -> None:
        # an act that could not be saved must not stand in the Edit menu as if it had been
        self.setObsolete(not self._session.write(self._command, forward=True))

    def undo(self) -> None:
        self.setObsolete(not self._session.write(self._command, forward=False))


def _problems_of(study: "Study", folder: Path | None, meanwhile: Callable[[], None]) -> list[str]:
    """What is unsound in a study; it is looked through while the rooms that will show it are made, which takes as long."""
    from culmo.study.inspection import problems_of_study
    from culmo.study.known_sound import is_remembered

    whole = folder is None or not is_remembered(folder, study)
    with ThreadPoolExecutor(1) as beside:
        looking = beside.submit(problems_of_study, study, whole)
        meanwhile()
        return looking.result()


class Session(QObject):
    """The study in the window.

    When another study is open, `opened` comes first: who shows something lets go of the study before. Then comes
    `at_hand`: the window shows what there is.
    """

    opened = Signal()
    at_hand = Signal()
    changed = Signal()
    renamed = Signal(list)  # of (old name, new name): who remembers a paint by its name learns the new one
    told = Signal(str)
    failed = Signal(str)
    mended = Signal()  # what failed before has gone well now

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.study: Study | None = None
        self.undo = QUndoStack(self)
        self.unsaved = Unsaved(self)
        self.safe = Safekeeping(self)
        self.runner = Runner(self)
        self.drawing = Runner(
            self
        )  # what is laid out and drawn while the hand goes on; nobody waits for it in words
        self.paints: list[Paint] = []
        self.papers: list[OwnPaper] = []
        self.boxes: list[Box] = []
        self.selection = Selection(self)
        self.learning = Learning(self)
        self.older = OlderPictures(self)
        self._index: Index | None = None
        self._dues: DueBook | None = None
        self._real_paint: RealPaint | None = None
        self._saved = True
        self.settled = True  # false from the opening of a study until its copy is made and learning has begun
        # what rooms have under way besides reading and learning; each says whether it had anything to stop
        self.stoppers: list[Callable[[], bool]] = [self.older.stop]

    # ---- opening and closing

    def open(self, path: Path, meanwhile: Callable[[], None] = lambda: None) -> bool:
        """Open a study; on failure the present one stays and `failed` tells why.

        `meanwhile` is done while the file is looked through for damage; it must not ask for the study.
        """
        from culmo.study.file import Study

        with self.guarded():
            if self.study is not None and path.exists() and path.samefile(self.study.path):
                self.close()  # the file that is open already is opened anew
            study = Study(path)
            try:
                problems = _problems_of(study, self._sound_folder, meanwhile)
            except BaseException:
                study.close()  # else it would stay held, and could not be opened again
                raise
            if problems:
                study.close()
                raise CulmoError(
                    tr(
                        '"{name}" is damaged in places ({problems}) and is left as it is. Put back a copy of it, or make a '
                        "new study from what can be read of it (both in the File menu)",
                        name=path.name, problems=problems[0],
                    )
                )  # fmt: skip
            self.close()
            self._take(study)
            for words in study.told:
                self.failed.emit(words)
            return True
        return False

    def create(self, path: Path, title: str) -> bool:
        """A new study."""
        from culmo.study.file import Study

        with self.guarded():
            study = Study.create(path, title)
            self.close()
            self._take(study)
            return True
        return False

    def _take(self, study: "Study") -> None:
        self.study, self.settled = study, False
        try:
            self._reload()
            self.selection.begin()
        except BaseException:
            # nothing is left half open: what is done next must not be written into a study that is not on view
            self.study = None
            study.close()
            self.close()
            raise
        self.safe.begin()
        self.opened.emit()
        self.at_hand.emit()
        # the window is on view first; what takes a while comes after
        QTimer.singleShot(SETTLE_MS, self, lambda: self._settle_in(study))

    def _settle_in(self, study: "Study") -> None:
        """A copy of the study that was opened, what is missing of it, and what it teaches."""
        if self.study is not study:
            return
        self.settled = True
        self.safe.back_up_beside()
        with self.guarded():
            self.safe.offer_drafts()
            self.safe.tell_missing()
        self.learning.learn()
        self.older.begin()

    def close(self, keep_typed: bool = False) -> None:
        """Let go of the study.

        Parameters
        ----------
        keep_typed : bool, whether what is typed and not saved is kept as drafts; else it is not wanted any more
        """
        self.learning.keep()
        self.runner.close()
        self.drawing.close()
        self.undo.clear()
        if self.study is not None:
            self.safe.settle_file()
        if keep_typed:
            self.safe.keep_drafts()
        self.unsaved.leave_out()
        if self.study is not None and not keep_typed:
            self.safe.keep_drafts()
        self.safe.end()
        if self.study is not None:  # it may have had to be let go of
            self.safe.back_up()
            if self._sound_folder is not None and not self.safe.homeless:
                from culmo.study.known_sound import remember

                remember(self._sound_folder, self.study)
            self.study.close()
        self.study, self.settled = None, True
        self._index = self._dues = self._real_paint = None
        self.learning.forget()
        self.selection.forget()
        self.paints, self.boxes, self.papers = [], [], []

    @property
    def _sound_folder(self) -> Path | None:
        """Where it is remembered which studies were looked through; None where nothing is."""
        return None if self.learning.folder is None else self.learning.folder.with_name("sound")

    @contextmanager
    def guarded(self) -> Iterator[None]:
        """Turn an expected error into the message line; the block is left, nothing is lost."""
        try:
            yield
        except CulmoError as error:
            self.failed.emit(str(error))

    @property
    def file(self) -> "Study":
        """The open study.

        Raises
        ------
        CulmoError
            when none is open
        """
        if self.study is None:
            raise CulmoError(tr("no study is open; make or open one first (File menu)"))
        return self.study

    # ---- acts

    def do(self, command: "Command | None") -> bool:
        """Carry out an act of the painter; it is saved at once and can be undone."""
        if command is None or not command.changes:
            return True
        self._saved = True
        self.undo.push(_Undoable(self, command))
        return self._saved

    def write(self, command: "Command", forward: bool) -> bool:
        """Write an act or its undoing to the file; says whether it was saved."""
        self._saved = False
        try:
            self.safe.write(command, forward)
        except CulmoError as error:
            self.failed.emit(str(error))
            return False
        self._saved = True
        self.learning.note_readings(command, forward)
        if any(change.table in _TOLD_BY for change in command.changes):
            self.learning.known_paints.forget()
        if self._index is not None:
            self._index.forget({change.table for change in command.changes})
        if self._dues is not None:
            self._dues.touch(command.changes)
        if any(change.table in _PAINTED for change in command.changes):
            self._real_paint = None
        self.safe.back_up_in_time()
        self._reload()
        self.selection.keep_sheet()
        self.changed.emit()
        if any(
            change.table in _TEACHING or self.learning.says_how_deep(change) for change in command.changes
        ):
            self.learning.learn()
        return True

    @property
    def index(self) -> "Index":
        """What a search looks through."""
        from culmo.study.search import Index

        if self._index is None:
            self._index = Index(self.file, lambda: self.learning.labels)
        return self._index

    @property
    def real_paint(self) -> "RealPaint":
        """What was painted, as pictures showed it."""
        from culmo.study.patches import RealPaint

        if self._real_paint is None:
            self._real_paint = RealPaint(self.file)
        return self._real_paint

    @property
    def dues(self) -> "DueBook":
        """What is due."""
        from culmo.study.due import DueBook

        if self._dues is None:
            self._dues = DueBook(self.file)
        return self._dues

    def _reload(self) -> None:
        from culmo.study import records
        from culmo.study.box_records import boxes
        from culmo.study.papers import own_papers

        called = {paint.id: paint.name for paint in self.paints}
        self.paints = records.paints(self.file)
        renamed = {
            called[paint.id]: paint.name
            for paint in self.paints
            if called.get(paint.id, paint.name) != paint.name
        }
        self.papers = own_papers(self.file)
        self.boxes = boxes(self.file)
        self.selection.keep_box_and_hand(renamed)
        if renamed:
            self.renamed.emit(list(renamed.items()))
            self.learning.rename(renamed)

    # ---- what else is known of it

    def ground_of(self, sheet: "Sheet") -> str:
        """The tone of the paper that a sheet is planned on, as #rrggbb; empty where it is none of the painter's own."""
        name = sheet.paper.name.casefold()
        return next((own.colour for own in self.papers if own.paper.name.casefold() == name), "")

    def due_looks(self) -> list[str]:
        """The looks at fade tests that are due now, in words."""
        from culmo.study.box_records import fade_tests

        if self.study is None:
            return []
        moment = datetime.fromisoformat(self.study.clock())
        dues = [(test.title, test.next_look()) for test in fade_tests(self.study)]
        return [
            tr("{title}: a look at the window is due since {what}", title=title, what=due.date().isoformat())
            for title, due in dues
            if due is not None and due <= moment
        ]

    def stop_work(self) -> None:
        """Cancel what is under way; what was known before stands."""
        if self.runner.busy("read"):
            self.runner.cancel("read")
            self.told.emit(tr("Reading was stopped; nothing was changed"))
        elif any(stop() for stop in self.stoppers):
            self.told.emit(tr("Stopped; what was found so far stands"))
        else:
            self.learning.stop()
