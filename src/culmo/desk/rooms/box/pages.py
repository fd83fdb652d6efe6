"""The pages of the Box room, each made when it is first looked at."""

from collections.abc import Callable, Sequence
from enum import IntEnum
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from culmo.desk.session import Session
from culmo.desk.widgets import text_label
from culmo.study.box_records import Box
from culmo.study.records import Paint
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.rooms.box.findings_view import (
        FindingPage,
        MissingPage,
        OppositesPage,
        RepeatsPage,
        RolesPage,
    )
    from culmo.desk.rooms.box.judged_view import JudgedPage
    from culmo.desk.rooms.box.table_page import TablePage


class BoxPageName(IntEnum):
    """A page of the Box room, and its place in the strip."""

    BOX = 0
    STROKES = 1
    TABLE = 2
    ROLES = 3
    REPEATS = 4
    MISSING = 5
    OPPOSITES = 6
    JUDGED = 7


PAGES = (
    tr("Box"),
    tr("Strokes"),
    tr("Table"),
    tr("Roles"),
    tr("Repeats"),
    tr("Missing"),
    tr("Opposites"),
    tr("Judged"),
)


def counted_words(box: Box | None, paints: Sequence[Paint]) -> str:
    """How many paints there are, and how they are had."""
    if not paints:
        return tr("Empty yet. Enter your first paint at the right: its name and what its card shows.")
    words = []
    if box is not None:
        words.append(tr("{n} paints in {count} wells", n=len(box.paints), count=box.shape.count))
    else:
        words.append(tr("{n} paints", n=len(paints)))
    for status, word in (("sample", tr("{n} sampled")), ("wished", tr("{n} considered"))):
        count = sum(paint.status == status for paint in paints)
        if count:
            words.append(word.format(n=count))
    return ", ".join(words)


class BoxOrNone(QStackedWidget):
    """The box; or, while there is none, how to come by one."""

    def __init__(self, picture: QWidget) -> None:
        super().__init__()
        empty = QWidget()
        column = QVBoxLayout(empty)
        column.addStretch(1)
        self.words = text_label("", points=12)
        self.words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.addStretch(1)
        self.enter = QPushButton(tr("Enter many paints…"))
        self.enter.setObjectName("strong")
        self.lay_out = QPushButton(tr("Lay out a box…"))
        row.addWidget(self.enter)
        row.addWidget(self.lay_out)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(2)
        self.addWidget(picture)
        self.addWidget(empty)

    def show_which(self, box: bool, paints: bool) -> None:
        """Whether there is a box, and whether there are paints at all."""
        self.setCurrentIndex(0 if box else 1)
        self.words.setText(
            tr("No box is in use. Choose one at the left, or lay one out with your paints.")
            if paints
            else tr(
                "No paints yet. Paste a list, or type the first one at the right:\nits name, its pigments "
                "and what the label says, in one line."
            )
        )


class BoxPages(QStackedWidget):
    """The box, its strokes, the table of paints, and what the box can and can not do."""

    chosen = Signal(str)
    card_wanted = Signal()
    table_wanted = Signal(bool)
    slip_wanted = Signal(int)
    subject_wanted = Signal(str)

    def __init__(self, session: Session, box: QWidget, strokes: QWidget) -> None:
        super().__init__()
        self._session = session
        for page in (box, strokes, *(QWidget() for _ in PAGES[BoxPageName.TABLE :])):
            self.addWidget(page)  # the others take their places when they are first seen

    def made(self, name: BoxPageName) -> QWidget | None:
        """A page that is made now, if it was not; None for those that always are."""
        return self.table if name == BoxPageName.TABLE else self.findings(name)

    def findings(self, name: BoxPageName) -> "FindingPage | None":
        """A page of findings; None for the others."""
        makers: dict[BoxPageName, Callable[[], FindingPage]] = {
            BoxPageName.ROLES: lambda: self.roles,
            BoxPageName.REPEATS: lambda: self.repeats,
            BoxPageName.MISSING: lambda: self.missing,
            BoxPageName.OPPOSITES: lambda: self.opposites,
            BoxPageName.JUDGED: lambda: self.judged,
        }
        return makers[name]() if name in makers else None

    def _take_place(self, place: int, page: QWidget) -> None:
        empty, current = self.widget(place), self.currentIndex()
        assert empty is not None
        self.removeWidget(empty)
        empty.deleteLater()
        self.insertWidget(place, page)
        self.setCurrentIndex(current)

    @cached_property
    def table(self) -> "TablePage":
        """Every paint with all that is known of it."""
        from culmo.desk.rooms.box.table_page import TablePage

        page = TablePage(self._session)
        page.chosen.connect(self.chosen)
        page.card_wanted.connect(self.card_wanted)
        page.export_wanted.connect(lambda: self.table_wanted.emit(False))
        page.print_wanted.connect(lambda: self.table_wanted.emit(True))
        self._take_place(BoxPageName.TABLE, page)
        return page

    @cached_property
    def roles(self) -> "RolesPage":
        """Who does which job."""
        from culmo.desk.rooms.box.findings_view import RolesPage

        page = RolesPage(self._session)
        self._take_place(BoxPageName.ROLES, page)
        return page

    @cached_property
    def repeats(self) -> "RepeatsPage":
        """Paints that are alike."""
        from culmo.desk.rooms.box.findings_view import RepeatsPage

        page = RepeatsPage(self._session)
        self._take_place(BoxPageName.REPEATS, page)
        return page

    @cached_property
    def missing(self) -> "MissingPage":
        """What the box can not do."""
        from culmo.desk.rooms.box.findings_view import MissingPage

        page = MissingPage(self._session)
        page.slip_wanted.connect(self.slip_wanted)
        self._take_place(BoxPageName.MISSING, page)
        return page

    @cached_property
    def opposites(self) -> "OppositesPage":
        """The partners that neutralise."""
        from culmo.desk.rooms.box.findings_view import OppositesPage

        page = OppositesPage(self._session)
        self._take_place(BoxPageName.OPPOSITES, page)
        return page

    @cached_property
    def judged(self) -> "JudgedPage":
        """What the set does well, what is weak, what others are worth."""
        from culmo.desk.rooms.box.judged_view import JudgedPage

        page = JudgedPage(self._session)
        page.subject_wanted.connect(self.subject_wanted)
        self._take_place(BoxPageName.JUDGED, page)
        return page
