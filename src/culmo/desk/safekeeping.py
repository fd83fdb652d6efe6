"""The open study kept safe: copies while one works, drafts of what is typed, and a file that a later day finds."""

import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from culmo.desk.jobs import Runner
from culmo.errors import CulmoError
from culmo.words import listed, tr, trn

if TYPE_CHECKING:
    from culmo.desk.session import Session
    from culmo.study.file import Command
    from culmo.study.unfinished import Unfinished

BACK_UP_SECONDS = 900.0  # while one works a copy is made each quarter of an hour
WATCH_MS = 2000  # so often the file is looked for while nothing is done
DRAFT_MS = 700
_QUICKLY_PUT = 100  # so many patches are put aside with the copy before anybody feels it
_AT_ONCE = 250  # of more of them: read in a few milliseconds


def _missing_words(paths: Sequence[str]) -> str:
    more = ", " + tr("and {n} more", n=len(paths) - 3) if len(paths) > 3 else ""
    return trn(
        "{n} picture is no longer beside the study: {names}. Its colours stand in the record; put it back to see it",
        "{n} pictures are no longer beside the study: {names}. Their colours stand in the record; put them back to see them",
        len(paths),
        names=", ".join(paths[:3]) + more,
    )


class Safekeeping(QObject):
    """Sees that nothing of the open study is lost, and knows whether it is safe.

    Parameters
    ----------
    session : Session, which has the study and what is typed
    """

    changed = Signal()  # whether it is safe
    moved = Signal()  # the study goes on in another file
    gone = Signal()  # it had to be let go of; none is open

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self.session = session
        self.copy_trouble = ""  # why no copy could be made; it stays until one is
        self.homeless = False  # whether what is open has no file that a later day would find
        self._writable = True
        self._backed_up = 0.0
        self._beside = Runner(self)
        self._to_put: list[int] = []  # patches, by id
        self._watch = QTimer(self)
        self._watch.setInterval(WATCH_MS)
        self._watch.timeout.connect(self.settle_file)
        # what is typed is kept as a draft soon after; a crash or the end of the desktop's session takes nothing
        self._drafting = QTimer(self)
        self._drafting.setSingleShot(True)
        self._drafting.setInterval(DRAFT_MS)
        self._drafting.timeout.connect(self.keep_drafts)
        session.unsaved.typed.connect(self._drafting.start)
        self._drafts_kept: list[Unfinished] = []
        # by the place of a draft, what puts it back there
        self.drafts_wanted: dict[str, Callable[[str, str], bool]] = {}

    def begin(self) -> None:
        """Another study is open."""
        self.copy_trouble, self.homeless, self._writable = "", False, True
        self._drafts_kept = []
        self._watch.start()

    def end(self) -> None:
        """Watch no more."""
        self._watch.stop()
        self._drafting.stop()
        self.stop_beside()

    # ---- copies

    def back_up(self) -> None:
        """A copy of the study beside it; a damaged one is never opened, and so never copied over good ones."""
        from culmo.study.backups import back_up

        if self.session.study is None:
            return
        self.stop_beside()
        self._backed_up = time.monotonic()
        before, self.copy_trouble = self.copy_trouble, ""
        try:
            back_up(self.session.study)
        except CulmoError as error:
            self.copy_trouble = str(error)
            if not before:
                self.session.told.emit(self.copy_trouble)
        if self.copy_trouble != before:
            self.changed.emit()

    def back_up_beside(self) -> None:
        """A copy of what was opened. Much real paint is put aside before, beside all else, so that nobody waits for it."""
        from culmo.study.backups import not_aside

        self._backed_up = time.monotonic()
        self._to_put = []
        if self.session.study is not None:
            with suppress(CulmoError, OSError):  # the copy itself says what is the matter
                self._to_put = not_aside(self.session.study)
        self._put_some_aside()

    def _put_some_aside(self) -> None:
        from culmo.study.aside import putting_aside
        from culmo.study.backups import pictures_folder, to_put_aside

        study = self.session.study
        if study is None:
            return
        some, self._to_put = self._to_put[:_AT_ONCE], self._to_put[_AT_ONCE:]
        patches = []
        if len(some) + len(self._to_put) > _QUICKLY_PUT:
            with suppress(CulmoError):  # the copy itself says what is the matter
                patches = to_put_aside(study, some)
        if not patches:
            self.back_up()
            return
        work = partial(putting_aside, pictures_folder(study), study.disk.mode, patches)
        self._beside.start("aside", work, lambda _: self._put_some_aside(), lambda _: self.back_up())

    def stop_beside(self) -> None:
        """Nothing more is put aside for now; the next copy has what is missing."""
        self._beside.close()

    def back_up_in_time(self) -> None:
        """A copy where the last one failed, or was made a while ago."""
        if self.copy_trouble or time.monotonic() - self._backed_up > BACK_UP_SECONDS:
            self.back_up()

    # ---- drafts

    def keep_drafts(self) -> None:
        """Keep what is typed and not saved, so that it stands again on another day."""
        from culmo.study.unfinished import Unfinished, keep_unfinished

        self._drafting.stop()
        if self.session.study is None:
            return
        if not self.session.settled:  # what is kept of an earlier day was not put back yet
            self._drafting.start()
            return
        entries = [
            Unfinished(place, typed.room, typed.name, content)
            for place, typed in self.session.unsaved.entries.items()
            if (content := typed.content())
        ]
        if entries == self._drafts_kept:
            return
        try:
            keep_unfinished(self.session.study, entries)
            self._drafts_kept = entries
        except CulmoError as error:
            self.session.told.emit(str(error))

    def offer_drafts(self) -> None:
        """What was typed on an earlier day and not saved stands again where it was typed."""
        from culmo.study.unfinished import unfinished

        names = []
        self._drafts_kept = unfinished(self.session.file)
        for entry in self._drafts_kept:
            place, _, which = entry.place.partition(" ")
            restore = self.drafts_wanted.get(place)
            if restore is not None and restore(which, entry.content):
                names.append(entry.name)
        if names:
            self.session.failed.emit(
                tr("From last time, typed and not saved: {names}. It stands again where it was typed",
                   names=listed(names))
            )  # fmt: skip

    def tell_missing(self) -> None:
        """Say which pictures are no longer beside the study."""
        from culmo.study.photo_files import missing_pictures

        missing = missing_pictures(self.session.file)
        if missing:
            self.session.failed.emit(_missing_words(missing))

    # ---- the file

    def settle_file(self) -> bool:
        """See that what is open is in a file where a later day finds it; says whether it was where it should be."""
        if self.session.study is None:
            return True
        from culmo.study.holding import Whereabouts

        if self.session.study.disk.whereabouts().what is Whereabouts.HERE:
            writable = self.session.study.disk.is_writable
            if self._writable and not writable:
                self.session.failed.emit(
                    tr('"{name}" or its folder may only be read now. Make it writable again; what can not be saved there '
                       "is saved elsewhere, and you are told where", name=self.session.study.path.name)
                )  # fmt: skip
            self._writable = writable
            return True
        try:
            self._find_home()
        except CulmoError as error:
            if not self.homeless:  # it is said once, not every two seconds
                self._set_homeless(self.session.study is not None)
                self.session.failed.emit(str(error))
        return False

    def _find_home(self, elsewhere: bool = False) -> None:
        """Go on in another file where this one is not what it was.

        Raises
        ------
        CulmoError
            when there is none
        """
        from culmo.study.homing import go_on

        study = self.session.file
        try:
            words = go_on(study, datetime.now(), elsewhere)
        except CulmoError:
            if study.disk.is_closed:
                self._let_go()
            raise
        if words:
            self._set_homeless(False)
            self.moved.emit()
            self.session.failed.emit(words)

    def _set_homeless(self, homeless: bool) -> None:
        if homeless != self.homeless:
            self.homeless = homeless
            self.changed.emit()

    def write(self, command: "Command", forward: bool) -> None:
        """Write an act to the file; where that is not what it was any more, to another one that holds all of it.

        Raises
        ------
        CulmoError
            when it could not be saved
        """
        from culmo.study.homing import ELSEWHERE
        from culmo.study.opened import DisplacedError
        from culmo.study.troubles import StudyFileError

        study = self.session.file
        write = study.apply if forward else study.revert
        try:
            write(command)
            return
        except DisplacedError:
            elsewhere = False
        except StudyFileError as error:
            if error.kind not in ELSEWHERE:
                raise
            elsewhere = True
        self._find_home(elsewhere)
        write(command)

    def _let_go(self) -> None:
        """A study whose file can not be read any more is not on view any longer."""
        self.session.study = None
        self.session.close()
        self.gone.emit()
