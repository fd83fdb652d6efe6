"""The open study as the window sees it: acts with undo, what has been learned, and what is selected."""

import logging
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from culmo.desk.guard import guarded
from culmo.desk.jobs import Runner
from culmo.desk.known_paints import KnownPaints
from culmo.desk.safekeeping import Safekeeping
from culmo.desk.unsaved import Unsaved
from culmo.errors import CulmoError
from culmo.words import tr, trn

# what computes is loaded with the first study, so that the window is there before
if TYPE_CHECKING:
    from culmo.core.chart.sheet import Sheet
    from culmo.core.paint.estimate import Estimate
    from culmo.core.paint.label import Label
    from culmo.core.paint.predict import Prediction
    from culmo.core.paint.recipe import Recipe
    from culmo.core.paint.why import Doubt
    from culmo.desk.drawing.looks import Looks
    from culmo.study.box_records import Box
    from culmo.study.due import DueBook
    from culmo.study.file import Command, Row, Study
    from culmo.study.learned import Learned
    from culmo.study.papers import OwnPaper
    from culmo.study.records import Paint, SheetRecord
    from culmo.study.search import Index

MOST_IN_HAND = 4
SETTLE_MS = 40  # a window draws some milliseconds after it was told to; work in the background would slow it
_TEACHING = {"paints", "readings"}
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


def _waiting_words(waiting: int, all_of_them: int) -> str:
    return trn(
        "{n} paint of {all} waits: it is neither read nor in a box nor on a sheet. Take it in hand, and it is learned",
        "{n} paints of {all} wait: they are neither read nor in a box nor on a sheet. Take one in hand, and it is learned",
        waiting,
        all=all_of_them,
    )


class Session(QObject):
    """The study in the window.

    When another study is open, `opened` comes first: who shows something lets go of the study before. Then comes
    `at_hand`: the window shows what there is.
    """

    opened = Signal()
    at_hand = Signal()
    changed = Signal()
    learned = Signal()
    renamed = Signal(list)  # of (old name, new name): who remembers a paint by its name learns the new one
    in_hand_changed = Signal()
    mix_taken = Signal(object)
    sheet_changed = Signal()
    box_changed = Signal()
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
        self.estimate: Estimate | None = None
        self.looks: Looks | None = None
        self.flat = False
        self.in_hand: list[str] = []
        self.picking: Callable[[str], None] | None = (
            None  # what takes a paint that is clicked, while a page picks
        )
        self.sheet_id: int | None = None
        self.paints: list[Paint] = []
        self.papers: list[OwnPaper] = []
        self.boxes: list[Box] = []
        self.box_id: int | None = None
        self.preferred_box = ""
        self.learned_folder: Path | None = None  # where what was learned is kept between two days
        self._reading_rows: dict[int, Row] | None = None
        self._learned: Learned | None = None
        self._taught_by: tuple[list[tuple[str, str]], list[Row]] = [], []
        self.known_paints = KnownPaints(self)
        self._index: Index | None = None
        self._dues: DueBook | None = None
        self._saved = True
        self.settled = True  # false from the opening of a study until its copy is made and learning has begun
        self.unread: set[str] = set()
        self.unknown: set[str] = set()  # paints of which nothing at all is known
        self.waiting: set[str] = set()  # paints that are not learned, since there are more than can be
        self.read_places: dict[str, set[tuple[float, str]]] = {}
        self.read_mixes: set[frozenset[str]] = set()
        self.light = 0
        # what rooms have under way besides reading and learning; each says whether it had anything to stop
        self.stoppers: list[Callable[[], bool]] = []

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
        from culmo.study import records

        self.study, self.settled = study, False
        try:
            self._reload()
            preferred = [box for box in self.boxes if box.name == self.preferred_box]
            self.box_id = next((box.id for box in [*preferred, *self.boxes]), None)
            sheets = records.sheet_titles(study)
        except BaseException:
            # nothing is left half open: what is done next must not be written into a study that is not on view
            self.study = None
            study.close()
            self.close()
            raise
        self.sheet_id = sheets[0][0] if sheets else None
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
        self.safe.back_up()
        with self.guarded():
            self.safe.offer_drafts()
            self.safe.tell_missing()
        self.learn()

    def close(self, keep_typed: bool = False) -> None:
        """Let go of the study.

        Parameters
        ----------
        keep_typed : bool, whether what is typed and not saved is kept as drafts; else it is not wanted any more
        """
        self._keep_learned()
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
        self.study, self.estimate, self.looks, self.settled = None, None, None, True
        self._reading_rows = self._index = self._learned = self._dues = None
        self.known_paints.forget()
        self.in_hand, self.sheet_id, self.paints, self.waiting, self.unknown = [], None, [], set(), set()
        self.boxes, self.box_id, self.papers = [], None, []

    @property
    def _sound_folder(self) -> Path | None:
        """Where it is remembered which studies were looked through; None where nothing is."""
        return None if self.learned_folder is None else self.learned_folder.with_name("sound")

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
        from culmo.study import records

        self._saved = False
        try:
            self.safe.write(command, forward)
        except CulmoError as error:
            self.failed.emit(str(error))
            return False
        self._saved = True
        self._note_readings(command, forward)
        if any(change.table in _TOLD_BY for change in command.changes):
            self.known_paints.forget()
        if self._index is not None:
            self._index.forget({change.table for change in command.changes})
        if self._dues is not None:
            self._dues.touch(command.changes)
        self.safe.back_up_in_time()
        self._reload()
        if self.sheet_id is not None and not self.file.rows("sheets", "id = ?", (self.sheet_id,)):
            sheets = records.sheet_titles(self.file)
            self.sheet_id = sheets[0][0] if sheets else None
        self.changed.emit()
        if any(change.table in _TEACHING for change in command.changes):
            self.learn()
        return True

    @property
    def labels(self) -> "dict[str, Label]":
        """What is known of each paint by own tests, label and table, by its folded name."""
        return self.known_paints.labels

    @property
    def index(self) -> "Index":
        """What a search looks through."""
        from culmo.study.search import Index

        if self._index is None:
            self._index = Index(self.file, lambda: self.labels)
        return self._index

    @property
    def dues(self) -> "DueBook":
        """What is due."""
        from culmo.study.due import DueBook

        if self._dues is None:
            self._dues = DueBook(self.file)
        return self._dues

    def _note_readings(self, command: "Command", forward: bool) -> None:
        """The readings as this act leaves them; ten thousand are not read from the file again for one."""
        for change in command.changes if forward else reversed(command.changes):
            if change.table == "readings" and self._reading_rows is not None:
                row = change.after if forward else change.before
                self._reading_rows.pop(change.id, None)
                if row is not None:
                    self._reading_rows[change.id] = dict(row)

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
        if self.box_id is not None and self.box is None:
            self.box_id = self.boxes[0].id if self.boxes else None
        names = {paint.name for paint in self.paints}
        self.in_hand = [name for name in (renamed.get(name, name) for name in self.in_hand) if name in names]
        if renamed:
            self.renamed.emit(list(renamed.items()))
            self._call(renamed)

    def _call(self, renamed: dict[str, str]) -> None:
        """Paints bear other names: what is known of them is known under these until it is learned anew."""
        folded = {old.casefold(): new.casefold() for old, new in renamed.items()}

        def other(name: str) -> str:
            return folded.get(name, name)

        self.unread = {other(name) for name in self.unread}
        self.unknown = {other(name) for name in self.unknown}
        self.waiting = {other(name) for name in self.waiting}
        self.read_places = {other(name): places for name, places in self.read_places.items()}
        self.read_mixes = {frozenset(other(name) for name in mix) for mix in self.read_mixes}
        if self.estimate is not None:
            called = tuple(renamed.get(name, name) for name in self.estimate.names)
            self._take_estimate(replace(self.estimate, names=called))

    # ---- learning

    def learn(self) -> None:
        """Learn anew in the background; the old figures stand until then."""
        from culmo.study import records
        from culmo.study.learned import learning_from
        from culmo.study.waiting import learned_and_waiting

        if self.study is None:
            return
        everything = [(paint.name, paint.codes) for paint in records.paints(self.study, retired=True)]
        codes, waiting = learned_and_waiting(self.study, everything, self.in_hand)
        if waiting and not self.waiting:
            self.told.emit(_waiting_words(len(waiting), len(everything)))
        self.waiting = {name.casefold() for name in waiting}
        if not codes:
            self.estimate, self.looks, self.unknown = None, None, set()
            self.known_paints.forget()
            self.learned.emit()
            return
        with self.guarded():
            if self._reading_rows is None:
                self._reading_rows = {row["id"]: row for row in records.reading_rows(self.study)}
            rows = [self._reading_rows[row_id] for row_id in sorted(self._reading_rows)]
            earlier, folder = self.estimate, self.learned_folder
            self._taught_by = codes, rows
            self.runner.start(
                "learn",
                lambda: learning_from(codes, rows, earlier, folder),
                self._on_learned,
                self.failed.emit,
            )

    def _keep_learned(self) -> None:
        """What was learned is there at once on another day; while paints are being read it is not kept each time."""
        from culmo.study.learned import fingerprint, keep

        found, folder = self._learned, self.learned_folder
        if found is not None and not found.kept and folder is not None and not self.runner.busy("learn"):
            try:
                keep(folder, replace(found, fingerprint=found.fingerprint or fingerprint(*self._taught_by)))
            except CulmoError as error:  # a full disk costs some seconds on another day, and nothing else
                logging.getLogger("culmo").warning("what was learned is not kept: %s", error)

    def _on_learned(self, found: "Learned") -> None:
        self._learned = found
        self.unread, self.unknown = found.unread, found.unknown
        self.read_places, self.read_mixes = found.read_places, found.read_mixes
        self._take_estimate(found.estimate)

    def _take_estimate(self, estimate: "Estimate") -> None:
        self.estimate = estimate
        self.known_paints.forget()
        from culmo.core.colour.spectral import LIGHTS
        from culmo.desk.drawing.looks import Looks

        self.looks = Looks(estimate, self.known_paints.grains, self.flat, LIGHTS[self.light])
        if not estimate.settled:
            self.told.emit(
                tr("The readings contradict each other: the figures did not settle, spreads are wide")
            )
        self.learned.emit()

    @property
    def weights(self) -> dict[int, float]:
        """The robust weight of each reading that teaches, by its id; empty while nothing is known."""
        return self._learned.weights if self._learned is not None else {}

    def knows(self, recipe: "Recipe") -> bool:
        """Whether every paint of a recipe is known to the present estimate."""

        if self.estimate is None or not recipe.layers:
            return False
        index = self.estimate.index
        return all(name.casefold() in index for name in recipe.names)

    def need_of(self, name: str) -> str:
        """What a paint needs before anything can be foretold of it, in words; empty where enough is known."""
        from culmo.core.paint.label import NEEDS

        if name.casefold() not in self.unknown:
            return ""
        return tr("Nothing is known of {name} yet: {needs}.", name=name, needs=NEEDS)

    def predict(
        self, recipes: "Sequence[Recipe]", grounds: "Sequence[str] | None" = None
    ) -> "Prediction | None":
        """Predictions, or None while nothing is known of a paint."""
        from culmo.core.paint.predict import predict

        if self.estimate is None or not all(self.knows(recipe) for recipe in recipes):
            return None
        return predict(self.estimate, recipes, grounds)

    # ---- what is selected

    def ground_of(self, sheet: "Sheet") -> str:
        """The tone of the paper that a sheet is planned on, as #rrggbb; empty where it is none of the painter's own."""
        name = sheet.paper.name.casefold()
        return next((own.colour for own in self.papers if own.paper.name.casefold() == name), "")

    def take(self, recipe: "Recipe") -> None:
        """Take a mix in hand: its paints instead of those that were there, with its parts and its water."""
        self.in_hand = list(recipe.names)[:MOST_IN_HAND]
        self.in_hand_changed.emit()
        self.mix_taken.emit(recipe)
        if self.waiting & {name.casefold() for name in self.in_hand}:
            self.learn()

    def toggle_in_hand(self, name: str) -> None:
        """Take a paint in hand or put it back; the oldest goes when there are too many. A page may pick instead."""
        if self.picking is not None:
            self.picking(name)
            return
        if name in self.in_hand:
            self.in_hand.remove(name)
        else:
            self.in_hand = [*self.in_hand, name][-MOST_IN_HAND:]
        self.in_hand_changed.emit()
        if name.casefold() in self.waiting:
            self.learn()

    @property
    def box(self) -> "Box | None":
        """The box in use; None while all paints are."""
        return next((box for box in self.boxes if box.id == self.box_id), None)

    def select_box(self, box_id: int | None) -> None:
        """Take another box in use, or all paints."""
        if box_id != self.box_id:
            self.box_id = box_id
            self.preferred_box = self.box.name if self.box is not None else ""
            self.box_changed.emit()

    def paints_in_use(self) -> "list[Paint]":
        """The paints of the box in use, in the order of its wells; all where no box is in use."""
        box = self.box
        if box is None:
            return list(self.paints)
        by_id = {paint.id: paint for paint in self.paints}
        return [by_id[box.paints[place]] for place in sorted(box.paints) if box.paints[place] in by_id]

    def select_sheet(self, sheet_id: int | None) -> None:
        """Work with another sheet."""
        if sheet_id != self.sheet_id:
            self.sheet_id = sheet_id
            self.sheet_changed.emit()

    def set_flat(self, flat: bool) -> None:
        """Draw washes as plain colour, or as washes."""
        self.flat = flat
        if self.estimate is not None:
            self._take_estimate(self.estimate)

    def set_light(self, light: int) -> None:
        """Look at everything under another light: 0 daylight, 1 a warm lamp, 2 a cool LED."""
        self.light = light
        if self.estimate is not None:
            self._take_estimate(self.estimate)

    def redraw(self) -> None:
        """Draw everything anew in other greys."""
        if self.study is not None:
            self.learned.emit()

    def typical(self, recipe: "Recipe") -> bool:
        """Whether a recipe rests on a paint that the painter has not read."""
        return any(name.casefold() in self.unread for name in recipe.names)

    def doubt(self, recipe: "Recipe") -> "Doubt | None":
        """Where the uncertainty of a recipe comes from; None while nothing is known."""
        from culmo.core.paint.why import explain

        if self.estimate is None or not self.knows(recipe):
            return None
        return explain(self.estimate, recipe, self.read_places, self.read_mixes)

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
            self.stop_learning()

    def stop_learning(self) -> None:
        """Cancel the learning; the old figures stand."""
        self.runner.cancel("learn")
        self.told.emit(tr("Learning was stopped; the figures are as before"))

    def sheet(self) -> "SheetRecord | None":
        """The selected sheet."""
        from culmo.study import records

        if self.study is None or self.sheet_id is None:
            return None
        return records.sheet_record(self.study, self.sheet_id)
