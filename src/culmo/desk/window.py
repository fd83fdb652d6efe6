"""The window: the frame of the six rooms, the rail, the menus and the message line.

The rooms, and the libraries that they compute with, are loaded when they are first needed: the window is there at once.
"""

from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QContextMenuEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.desk.accessible import announce
from culmo.desk.actions import LIGHT_WORDS, NO_STUDY, ROOM_IDS, ROOMS
from culmo.desk.button_keys import tell_key
from culmo.desk.draft_places import places_of_drafts
from culmo.desk.drawn import usual_width
from culmo.desk.files_in import FilesIn
from culmo.desk.going_out import GoingOut
from culmo.desk.guard import guarded
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
from culmo.desk.studies import Studies
from culmo.desk.text_size import change_text
from culmo.desk.theme import STEP, give_font, px, serif
from culmo.desk.welcome import WelcomePage
from culmo.desk.widgets import ElidedLabel, Room, TabStrip, as_tip, rule, text_label
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

QUIET_MS = 7000
PATIENCE_MS = 500  # work that takes longer shows its progress


@guarded
class MainWindow(QMainWindow):
    """Culmo's one window."""

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
            self.make_ready,
        )
        self.studies = Studies(self.shell)
        self.out = SheetsOut(self.shell)
        self.files = FilesIn(self.shell, self.studies, self._read_picture)
        self.studies.bell.rung.connect(self.come_forward)
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
        self._make_status()
        self.session.selection.preferred_box, self.session.learning.folder = settings.box, settings.learned
        self.session.at_hand.connect(self._opened)
        self.session.selection.box_changed.connect(self._box_chosen)
        self.session.failed.connect(self.complain)
        self.session.told.connect(self.say)
        self.session.mended.connect(self.notice.hide)
        self.session.changed.connect(lambda: self.next_step.look(self.session.study))
        self.session.runner.progress.connect(self._on_progress)
        self.session.runner.finished.connect(lambda _: self._show_work())
        self.session.undo.indexChanged.connect(lambda _: self._show_saved())
        self.session.unsaved.changed.connect(self._show_saved)
        self.session.safe.changed.connect(self._show_saved)
        self.session.safe.moved.connect(self._went_on_elsewhere)
        self.session.safe.gone.connect(self.show_first_page)
        self.session.safe.drafts_wanted = places_of_drafts(self)
        if not settings.geometry.isEmpty():
            self.restoreGeometry(settings.geometry)
        self.show_first_page()

    def set_text_size(self, size: int) -> None:
        """Give all text another size, in per cent of the system's, and remember it."""
        self.settings.text_size = size
        change_text(cast("QApplication", QApplication.instance()), size)
        self._fit_rail()
        self.say(tr("Text at {size} %", size=size))

    # ---- building

    def _make_frame(self) -> None:
        centre = QWidget()
        layout = QVBoxLayout(centre)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._make_header())
        layout.addWidget(rule())
        layout.addWidget(self._make_notice())
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

    def _settle_in(self, place: int, room: QWidget) -> None:
        empty = self.rooms.widget(place)
        assert empty is not None
        current = self.rooms.currentIndex()
        self.rooms.removeWidget(empty)
        empty.deleteLater()
        self.rooms.insertWidget(place, room)
        self.rooms.setCurrentIndex(current)

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
            self._settle_in(place, room)
            self._made[place] = room
        return self._made[place]

    @property
    def box(self) -> "BoxRoom":
        """The Box room."""
        return cast("BoxRoom", self.room(RoomName.BOX))

    @property
    def plan(self) -> "PlanRoom":
        """The Plan room."""
        return cast("PlanRoom", self.room(RoomName.PLAN))

    @property
    def paint(self) -> "PaintRoom":
        """The Paint room."""
        return cast("PaintRoom", self.room(RoomName.PAINT))

    @property
    def read(self) -> "ReadRoom":
        """The Read room."""
        return cast("ReadRoom", self.room(RoomName.READ))

    @property
    def weigh(self) -> "WeighRoom":
        """The Weigh room."""
        return cast("WeighRoom", self.room(RoomName.WEIGH))

    @property
    def daybook(self) -> "DaybookRoom":
        """The Daybook."""
        return cast("DaybookRoom", self.room(RoomName.DAYBOOK))

    def _make_header(self) -> QFrame:
        header = QFrame()
        header.setObjectName("header")
        header.setFixedHeight(px(52))
        row = QHBoxLayout(header)
        row.setContentsMargins(2 * STEP, 0, 2 * STEP, 0)
        self.study_title = ElidedLabel("Culmo")
        self.study_title.setObjectName("elided")
        give_font(self.study_title, serif(15))
        self.tabs = TabStrip(ROOMS, 12.5, tr("Rooms"), wraps=False)
        self.tabs.chosen.connect(lambda place: self.show_room(RoomName(place)))
        for button, room in zip(self.tabs.buttons, ROOM_IDS, strict=True):
            tell_key(button, f"room {room}")
        self.header_end = text_label("", soft=True)
        self.header_end.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.study_title, 1)
        row.addWidget(self.tabs, 0, Qt.AlignmentFlag.AlignBottom)
        row.addWidget(self.header_end, 1)
        return header

    def _make_notice(self) -> QFrame:
        self.notice = QFrame()
        self.notice.setObjectName("header")
        row = QHBoxLayout(self.notice)
        row.setContentsMargins(2 * STEP, STEP, 2 * STEP, STEP)
        row.addWidget(text_label("!", bold=True, points=15))
        self.notice_text = text_label("", bold=True)
        row.addWidget(self.notice_text, 1)
        close = QPushButton(tr("Understood"))
        close.clicked.connect(self.notice.hide)
        row.addWidget(close)
        self.notice.hide()
        return self.notice

    def _make_status(self) -> None:
        bar = self.statusBar()
        bar.setSizeGripEnabled(False)
        bar.setContentsMargins(2 * STEP - 4, 0, 2 * STEP - 4, 0)
        self.saved_text = text_label("", soft=True, points=10)
        self.saved_text.setWordWrap(False)
        self.told_text = text_label("", points=10)
        self.told_text.setWordWrap(False)
        self.told_text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        bar.setAccessibleName(tr("The line at the foot"))
        self.work = QProgressBar()
        self.work.setAccessibleName(tr("Work in progress"))
        self.work.setTextVisible(False)
        self.work.setFixedWidth(px(120))
        self.work.setRange(0, 100)
        self.work.hide()
        self.stop_button = QToolButton()
        self.stop_button.setText(tr("Stop"))
        tell_key(self.stop_button, "stop")
        self.stop_button.setAutoRaise(True)
        self.stop_button.setFixedHeight(px(20))
        self.stop_button.clicked.connect(self.session.stop_work)
        self.stop_button.hide()
        self.light_text = text_label(LIGHT_WORDS[0], soft=True, points=10)
        self.session.learning.learned.connect(
            lambda: self.light_text.setText(LIGHT_WORDS[self.session.learning.light])
        )
        self.light_text.setWordWrap(False)
        bar.addWidget(self.saved_text)
        bar.addWidget(self.told_text, 1)
        bar.addPermanentWidget(self.work)
        bar.addPermanentWidget(self.stop_button)
        bar.addPermanentWidget(self.light_text)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(lambda: self.told_text.setText(""))
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self._show_work)

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
        self.told_text.setText(text)
        announce(self.told_text, text)
        self._quiet.start(QUIET_MS)

    def complain(self, text: str) -> None:
        """Something went wrong that the painter can mend; it stays until it is read."""
        self.notice_text.setText(text[:1].upper() + text[1:])
        self.notice.show()
        announce(self.notice_text, self.notice_text.text())

    def _show_saved(self) -> None:
        """Say whether all is saved."""
        self.saved_text.setText(self.studies.saved_words())
        self.saved_text.setToolTip(as_tip(self.session.safe.copy_trouble))

    def _went_on_elsewhere(self) -> None:
        self.studies.went_on_elsewhere()
        self._show_saved()

    def come_forward(self) -> None:
        """Somebody opened this study once more."""
        if self.isMinimized():
            self.showNormal()
        self.raise_()
        self.activateWindow()

    def _box_chosen(self) -> None:
        self.settings.box = self.session.selection.preferred_box

    def _show_work(self) -> None:
        """Progress and a way to stop it, for work that takes longer than half a second."""
        busy = self.session.runner.busy()
        self.work.setVisible(busy)
        self.stop_button.setVisible(busy)

    def _on_progress(self, _: str, share: float) -> None:
        self.work.setValue(round(share * 100))
        if not self.work.isVisible() and not self._patience.isActive():
            self._patience.start()

    # ---- studies

    def open_path(self, path: Path) -> bool:
        """Open a study; says whether it is open here."""
        return self.studies.open_path(path)

    def make_ready(self) -> None:
        """Make the rail and the room that was last used, while the file of the study is still looked through."""
        for part in (self.rail, self.room(self.settings.room)):
            part.ensurePolished()

    def show_first_page(self) -> None:
        """No study is open: one is chosen or begun on the first page."""
        if "rail" in self.__dict__:  # it was made with the first study
            self.rail.hide()
            self.rail_line.hide()
        self.next_step.look(None)
        self.rooms.setCurrentIndex(len(ROOMS))  # the first page stands behind the rooms
        self.tabs.choose_none()
        self.study_title.setText("Culmo")
        self.setWindowTitle(tr("Culmo"))
        self.header_end.setText("")
        self._show_saved()
        self.welcome_buttons[0].setFocus()

    def _opened(self) -> None:
        self.notice.hide()
        self.rail.show()
        self.rail_line.show()
        study = self.session.file
        self.study_title.setText(study.title)
        self.setWindowTitle(tr("{title} – Culmo", title=study.title))
        self.settings.remember(study.path)
        self.studies.bell.hang(study.path)
        sample = tr("Sample data") if "(sample)" in study.path.name else ""
        self.header_end.setText(sample)
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

    def _read_picture(self, path: Path) -> None:
        """A picture that was dropped anywhere."""
        self.show_room(RoomName.READ)
        self.read.open_picture(path)

    # ---- the window's own events

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_rail()

    def _fit_rail(self) -> None:
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
