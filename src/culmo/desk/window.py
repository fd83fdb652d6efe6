"""The window: the frame of the six rooms, the rail, the menus and the message line.

The rooms, and the libraries that they compute with, are loaded when they are first needed: the window is there at once.
"""

from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Generic, TypeVar, cast

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QCloseEvent, QContextMenuEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.actions import NO_STUDY, ROOMS
from culmo.desk.draft_places import places_of_drafts
from culmo.desk.drawn import usual_width
from culmo.desk.files_in import FilesIn
from culmo.desk.going_out import GoingOut
from culmo.desk.guard import guarded
from culmo.desk.header import Header
from culmo.desk.menus import Menus
from culmo.desk.next_step import NextStep
from culmo.desk.room_names import RoomName
from culmo.desk.room_specs import SPECS, begin_plan
from culmo.desk.scheme import SchemeChooser
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheets_out import SheetsOut
from culmo.desk.shell import Shell
from culmo.desk.status_line import Notice, StatusLine
from culmo.desk.studies import Studies
from culmo.desk.text_size import change_text
from culmo.desk.welcome import WelcomePage
from culmo.desk.widgets import Room, rule
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.box_desk import BoxDesk
    from culmo.desk.daybook_desk import DaybookDesk
    from culmo.desk.mix_acts import MixActs
    from culmo.desk.rail import Rail
    from culmo.desk.rooms.box.view import BoxRoom
    from culmo.desk.rooms.daybook.view import DaybookRoom
    from culmo.desk.rooms.paint.view import PaintRoom
    from culmo.desk.rooms.plan.view import PlanRoom
    from culmo.desk.rooms.read.view import ReadRoom
    from culmo.desk.rooms.weigh.view import WeighRoom

Made = TypeVar("Made")


class RoomOf(Generic[Made]):
    """A room of the window, by its own class."""

    def __init__(self, name: RoomName) -> None:
        self._name = name

    def __get__(self, window: "MainWindow", owner: type) -> Made:
        return cast("Made", window.room(self._name))


def come_forward(window: "MainWindow") -> None:
    """Somebody opened this study once more."""
    if window.isMinimized():
        window.showNormal()
    window.raise_()
    window.activateWindow()


def make_ready(window: "MainWindow") -> None:
    """Make the rail and the room that was last used, while the file of the study is still looked through."""
    for part in (window.rail, window.room(window.settings.room)):
        part.ensurePolished()


def read_picture(window: "MainWindow", path: Path) -> None:
    """A picture that was dropped anywhere."""
    window.show_room(RoomName.READ)
    window.read.desk.open_picture(path)


@guarded
class MainWindow(QMainWindow):
    """Culmo's one window."""

    # each is made when it is first asked for
    box: "RoomOf[BoxRoom]" = RoomOf(RoomName.BOX)
    plan: "RoomOf[PlanRoom]" = RoomOf(RoomName.PLAN)
    paint: "RoomOf[PaintRoom]" = RoomOf(RoomName.PAINT)
    read: "RoomOf[ReadRoom]" = RoomOf(RoomName.READ)
    weigh: "RoomOf[WeighRoom]" = RoomOf(RoomName.WEIGH)
    daybook: "RoomOf[DaybookRoom]" = RoomOf(RoomName.DAYBOOK)

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings: Settings = settings
        self.session: Session = Session(self)
        self.state: SheetState = SheetState(self.session)
        self.shell = Shell(
            self,
            self.session,
            self.state,
            settings,
            self.say,
            self.show_room,
            self.show_first_page,
            partial(make_ready, self),
        )
        self.studies = Studies(self.shell)
        self.out = SheetsOut(self.shell)
        self.files = FilesIn(self.shell, self.studies, partial(read_picture, self))
        self.studies.bell.rung.connect(partial(come_forward, self))
        change_text(cast("QApplication", QApplication.instance()), settings.text_size)
        self.scheme = SchemeChooser(cast("QApplication", QApplication.instance()), settings.scheme, self)
        self.scheme.changed.connect(self.session.learning.redraw)
        self.setWindowTitle(tr("Culmo"))
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(960, 560)
        self.start_again: Callable[[], None] | None = None  # set by who can begin the program anew
        self.actions_by_id: dict[str, QAction] = {}
        self._made: dict[int, Room] = {}
        self.menus = Menus(self)
        self.going_out = GoingOut(self.session, self.menus.show_of_thing)
        self._make_frame()
        self.status = StatusLine(self.session)
        self.setStatusBar(self.status)
        self.session.selection.preferred_box, self.session.learning.folder = settings.box, settings.learned
        self.session.at_hand.connect(self._opened)
        self.session.selection.box_changed.connect(
            lambda: settings.keep_box(self.session.selection.preferred_box)
        )
        self.session.failed.connect(self.complain)
        self.session.told.connect(self.say)
        self.session.mended.connect(self.notice.hide)
        self.session.changed.connect(lambda: self.next_step.look(self.session.study))
        self.session.undo.indexChanged.connect(lambda _: self._show_saved())
        self.session.unsaved.changed.connect(self._show_saved)
        self.session.safe.changed.connect(self._show_saved)
        self.session.safe.moved.connect(self.studies.went_on_elsewhere)
        self.session.safe.moved.connect(self._show_saved)
        self.session.safe.gone.connect(self.show_first_page)
        self.session.safe.drafts_wanted = places_of_drafts(self)
        if not settings.geometry.isEmpty():
            self.restoreGeometry(settings.geometry)
        self.show_first_page()

    # ---- building

    def _make_frame(self) -> None:
        centre = QWidget()
        layout = QVBoxLayout(centre)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.header = Header()
        self.tabs = self.header.tabs
        self.tabs.chosen.connect(lambda place: self.show_room(RoomName(place)))
        layout.addWidget(self.header)
        layout.addWidget(rule())
        self.notice = Notice()
        layout.addWidget(self.notice)
        self.next_step = NextStep()
        layout.addWidget(self.next_step)
        self.body = QHBoxLayout()
        self.body.setSpacing(0)
        self.rooms = QStackedWidget()
        for _ in ROOMS:
            self.rooms.addWidget(QWidget())  # each gives place to its room when that is first entered
        self.rooms.addWidget(self._make_welcome())
        self.body.addWidget(self.rooms, 1)
        layout.addLayout(self.body, 1)
        self.setCentralWidget(centre)

    @cached_property
    def rail(self) -> "Rail":
        """The box rail; it stands in the window once a study is open."""
        from culmo.desk.rail import Rail

        rail = Rail(self.session)
        self.rail_line = rule()
        self.rail_line.setMinimumHeight(0)
        self.rail_line.setMaximumHeight(16777215)
        self.rail_line.setFixedWidth(1)
        for place, part in enumerate((rail, self.rail_line)):
            self.body.insertWidget(place, part)
            part.setVisible(self.session.study is not None)
        rail.fit(usual_width(self))
        return rail

    @cached_property
    def mixes(self) -> "MixActs":
        """What is done with a mix that was found or is selected."""
        from culmo.desk.mix_acts import MixActs

        return MixActs(self.session, self, partial(begin_plan, self), lambda: self.show_room(RoomName.PAINT))

    @cached_property
    def box_desk(self) -> "BoxDesk":
        """What is done at the box from menus and buttons."""
        from culmo.desk.box_desk import BoxDesk

        return BoxDesk(self)

    @cached_property
    def daybook_desk(self) -> "DaybookDesk":
        """What is done in the Daybook from menus and buttons."""
        from culmo.desk.daybook_desk import DaybookDesk

        return DaybookDesk(self)

    def room(self, place: RoomName) -> Room:
        """A room; it is made when it is first asked for."""
        if place not in self._made:
            room = SPECS[place].make(self)
            empty, current = self.rooms.widget(place), self.rooms.currentIndex()
            assert empty is not None
            self.rooms.removeWidget(empty)
            empty.deleteLater()
            self.rooms.insertWidget(place, room)
            self.rooms.setCurrentIndex(current)
            self._made[place] = room
        return self._made[place]

    def _make_welcome(self) -> QWidget:
        page = WelcomePage(
            self.studies.begin_now,
            self.studies.open_study,
            self.studies.open_sample,
            self.settings.recent,
            self.open_path,
        )
        self.welcome_buttons = page.buttons
        return page

    # ---- messages

    def say(self, text: str) -> None:
        """A passing word in the message line."""
        self.status.say(text)

    def complain(self, text: str) -> None:
        """Something went wrong that the painter can mend; it stays until it is read."""
        self.notice.say(text)

    def _show_saved(self) -> None:
        """Say whether all is saved."""
        self.status.show_saved(self.studies.saved_words(), self.session.safe.copy_trouble)

    # ---- studies

    def open_path(self, path: Path) -> bool:
        """Open a study; says whether it is open here."""
        return self.studies.open_path(path)

    def show_first_page(self) -> None:
        """No study is open: one is chosen or begun on the first page."""
        if "rail" in self.__dict__:  # it was made with the first study
            self.rail.hide()
            self.rail_line.hide()
        self.next_step.look(None)
        self.rooms.setCurrentIndex(len(ROOMS))  # the first page stands behind the rooms
        self.tabs.choose_none()
        self.header.title.setText("Culmo")
        self.setWindowTitle(tr("Culmo"))
        self.header.end.setText("")
        self._show_saved()
        self.welcome_buttons[0].setFocus()

    def _opened(self) -> None:
        self.notice.hide()
        self.rail.show()
        self.rail_line.show()
        study = self.session.file
        self.header.title.setText(study.title)
        self.setWindowTitle(tr("{title} – Culmo", title=study.title))
        self.settings.remember(study.path)
        self.studies.bell.hang(study.path)
        sample = tr("Sample data") if "(sample)" in study.path.name else ""
        self.header.end.setText(sample)
        self._show_saved()
        self.next_step.begin(study)
        self.show_room(self.settings.room if self.session.paints else RoomName.BOX)
        due = self.session.due_looks()
        if due:
            self.complain("; ".join(due))

    # ---- rooms and acts

    def show_room(self, place: RoomName) -> None:
        """Go to a room."""
        if self.session.study is None:
            self.rooms.setCurrentIndex(len(ROOMS))  # the first page stands behind the rooms
            self.tabs.choose_none()
            self.say(NO_STUDY)
            return
        room = self.room(place)
        self.tabs.choose(place)
        if self.rooms.currentWidget() is not room:
            self.rooms.setCurrentWidget(room)
        self.settings.room = place
        room.take_keys()

    @property
    def current_room(self) -> Room | None:
        """The room on view; None while no study is open."""
        place = self.rooms.currentIndex()
        return self.room(RoomName(place)) if self.session.study is not None and place < len(ROOMS) else None

    def go_to_sheet(self, sheet_id: int, place: RoomName = RoomName.PLAN) -> None:
        """To a sheet, in a room."""
        self.session.selection.select_sheet(sheet_id)
        self.show_room(place)

    # ---- the window's own events

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit_rail()

    def fit_rail(self) -> None:
        """The rail as wide as the window allows."""
        if "rail" in self.__dict__:
            self.rail.fit(usual_width(self))

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.studies.let_go():
            event.ignore()
            return
        self.remember()
        event.accept()

    def remember(self) -> None:
        """Where the window lies, and what was chosen, for the next start."""
        self.settings.geometry = self.saveGeometry()
        self.settings.store.sync()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if not self.going_out.asked_for_menu(event):
            event.ignore()

    def keyPressEvent(self, event: object) -> None:
        if getattr(event, "key", int)() == Qt.Key.Key_Escape and self.rooms.currentIndex() == RoomName.PAINT:
            self.show_room(RoomName.PLAN)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.files.take_any([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])
